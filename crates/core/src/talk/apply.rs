//! Lines written into a sheet.
//!
//! A line on a part that a pattern gave makes the point the sheet's own: it keeps everything that the line does not
//! say. The first claim of a line takes the place of the pattern's; further ones are added beside it, or take the
//! place of the same source's where the person says that it is a correction. The same line twice changes nothing.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Probability;
use crate::documents::applies::Applies;
use crate::documents::assumptions::Assumptions;
use crate::documents::check::{Check, Link, Outcome};
use crate::documents::claim::{Citation, LifeClaim, LifeClock, Mechanism, ShareClaim};
use crate::documents::failure_point::{FailurePoint, Revision, Route, TakesAlong, Wears};
use crate::documents::family::{Family, Source};
use crate::documents::job::Job;
use crate::documents::strands::lived_with;
use crate::documents::words::{HowOften, Notice, NoticedBy, Price, Sign};
use crate::talk::said::{LifeSaid, Said, UseDoes, price_of};
use crate::talk::says::short_name;
use crate::talk::usual::{another_engine, capital, caution, ends_engine, free, system_seen, unknown};

/// Whether a line adds to what is known or puts it right.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TalkMode {
    /// One more claim.
    #[default]
    Add,
    /// It takes the place of what the same source said before.
    Correct,
}

/// Where lines come from.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TalkFrom {
    /// Title of the page, recording or conversation.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 200)]
    pub title: Option<String>,
    /// Link, kept as text.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 400)]
    pub link: Option<String>,
}

/// A line with where it stands.
#[derive(Debug, Clone, Copy)]
pub struct Told<'a> {
    /// As typed.
    pub text: &'a str,
    /// The time at its head.
    pub place: Option<&'a str>,
    /// What it says.
    pub said: &'a Said,
    /// Adds, or corrects.
    pub mode: TalkMode,
}

/// Writes a line into a sheet; whether it changed anything.
pub fn write(family: &mut Family, told: Told<'_>, from: &TalkFrom, a: &Assumptions) -> bool {
    let before = family.clone();
    let source = source(family, told.said.source.as_deref());
    let stands = Citation {
        title: from.title.clone(),
        time: told.place.map(|p| p.chars().take(40).collect()),
        page: None,
        link: from.link.clone(),
        line: Some(told.text.chars().take(400).collect()),
    };
    let w = Writer { told, source: &source, stands: &stands, a };
    w.write(family);
    // A source alone says nothing: where the line changed no more, the sheet stays as it was.
    let sources = std::mem::replace(&mut family.sources, before.sources.clone());
    if *family == before {
        return false;
    }
    family.sources = sources;
    true
}

/// Whether a sheet has a place for what a line says: a point of its part, or something that needs none.
#[must_use]
pub fn has_place(family: &Family, said: &Said) -> bool {
    let free =
        said.supply.is_some() || said.advice.is_some() || said.care_rule || said.interval.is_some() || said.campaign;
    let of_part = |p: &FailurePoint| said.part.as_ref().is_some_and(|s| p.part.as_ref() == Some(s) || p.id == *s);
    free || family.points.iter().any(of_part)
}

/// The source of a line: named, or talk at large.
fn source(family: &mut Family, named: Option<&str>) -> String {
    let (id, name) = match named {
        Some("workshop") => ("workshops", "Workshops"),
        Some("owners") => ("owners", "Owners"),
        Some("forums") => ("forums", "Forums"),
        Some("maker") => ("maker", "The maker’s book"),
        Some("inspector") => ("inspectors", "Inspectors"),
        _ => ("talk", "Talk"),
    };
    if family.sources.iter().all(|s| s.id != id) {
        family.sources.push(Source { id: id.to_owned(), name: name.to_owned(), discount: None });
    }
    id.to_owned()
}

pub(super) struct Writer<'a> {
    pub(super) told: Told<'a>,
    pub(super) source: &'a str,
    pub(super) stands: &'a Citation,
    pub(super) a: &'a Assumptions,
}

impl Writer<'_> {
    fn write(&self, family: &mut Family) {
        let said = self.told.said;
        if let Some(kind) = said.advice {
            self.advice(family, kind);
            return;
        }
        if said.care_rule {
            self.care_rule(family);
            return;
        }
        if let Some(supply) = &said.supply {
            self.supply(family, supply);
            return;
        }
        if let Some(upgrade) = &said.upgrade {
            self.upgrade(family, upgrade);
            // Its price is that of what is fitted.
            let rest = Said { upgrade: None, price: None, hours: None, ..said.clone() };
            Writer { told: Told { said: &rest, ..self.told }, ..*self }.write(family);
            return;
        }
        if said.interval.is_some() {
            self.interval(family);
        }
        let of_point = Said { interval: None, ..said.clone() };
        if said.part.is_some() && of_point.says_something() {
            self.point(family);
        }
        if said.campaign {
            self.campaign(family);
        }
    }

    /// The sheet's own point of the part: there, taken over from a pattern, or new.
    fn own_point(&self, family: &mut Family, part: &str, name: &str) -> Option<usize> {
        let of_part = |p: &FailurePoint| p.part.as_deref() == Some(part) || p.id == part;
        let own = |f: &Family, p: &FailurePoint| f.from_pattern("points", &p.id).is_none();
        if let Some(i) = family.points.iter().position(|p| of_part(p) && own(family, p)) {
            return Some(i);
        }
        if let Some(i) = family.points.iter().position(of_part) {
            // Of several constructions of the part, one is meant that holds for this family, however it is built.
            if family.points.iter().filter(|p| of_part(p)).count() > 1 && !self.told.said.life.is_empty() {
                family.points[i].applies = Applies::default();
            }
            // Taken over: from now on it is the sheet's own, and no more written anew with the pattern.
            let id = format!("points/{}", family.points[i].id);
            family.patterns.iter_mut().for_each(|p| p.gives.retain(|g| *g != id));
            family.patterns.retain(|p| !p.gives.is_empty());
            return Some(i);
        }
        if self.told.said.life.is_empty() {
            return None;
        }
        let id = free(part, |id| family.points.iter().any(|p| p.id == id));
        let system = self.told.said.system.unwrap_or_else(|| system_seen(self.told.said));
        // What is counted in years alone grows old; what is counted in distance wears.
        let ages = self.told.said.life.iter().all(|l| l.clock == LifeClock::Age);
        let mechanism = if ages { Mechanism::Ageing } else { Mechanism::Wear };
        family.points.push(FailurePoint { part: Some(part.to_owned()), system, mechanism, ..unknown(&id, name) });
        Some(family.points.len() - 1)
    }

    fn point(&self, family: &mut Family) {
        let said = self.told.said;
        let (Some(part), Some(name)) = (&said.part, &said.name) else { return };
        let name = capital(name);
        let Some(i) = self.own_point(family, part, &name) else { return };
        let along = self.along(family, i);
        let wears = self.wears(family, i);
        let lives_on = lived_with(&family.points[i], family.clock, self.a).max(1.0);
        let job = self.job(family, i);
        let engine = another_engine(family, said, self.a);
        let p = &mut family.points[i];
        self.claims(p);
        if let Some(job) = job {
            (p.job, p.price) = (job, None);
            // What it costs was said: a pattern's other ways of mending it no longer count, what is tried first does.
            p.routes.retain(|r| r.first);
        }
        if let Some(word) = said.lived_with {
            (p.repair_delay, p.lived_with) = (None, Some(word));
        }
        if let Some(length) = said.notice {
            p.warning = None;
            p.notice = Some(Notice { length, by: NoticedBy::Half, sign: None });
        }
        p.upkeep |= said.upkeep;
        for (exposure, does) in &said.exposures {
            let times = match does {
                UseDoes::MuchWorse => self.a.said_much_worse,
                UseDoes::Worse => self.a.said_worse,
                UseDoes::Better => self.a.said_better,
            };
            p.exposures.insert(*exposure, times);
        }
        if engine.is_some() {
            ends_engine(p, engine, self.a);
        }
        if !said.signs.is_empty() && p.shows.is_empty() {
            p.shows = said.signs.iter().map(|s| s.label.clone()).collect::<Vec<_>>().join(", ");
        }
        self.follows(p, (along, wears), lives_on);
        self.revision(p);
        let id = p.id.clone();
        self.checks(family, &id);
    }

    /// What follows from it: ways tried first, what it takes along, what it wears, and how it grows.
    fn follows(&self, p: &mut FailurePoint, (along, wears): (Vec<TakesAlong>, Vec<Wears>), lives_on: f64) {
        let said = self.told.said;
        for r in &said.routes {
            let way = Route {
                name: capital(&r.name),
                job: String::new(),
                price: r.price.or_else(|| price_of(self.a.rate_independent * self.a.first_try_hours, None)),
                suffices: Probability::try_from(r.suffices.unwrap_or(self.a.first_try_suffices)).ok(),
                first: true,
                lasts: None,
                needs: None,
            };
            if p.routes.iter().all(|x| x.name != way.name) && p.routes.len() < 8 {
                p.routes.push(way);
            }
        }
        for t in along {
            if p.takes_along.iter().all(|x| x.point != t.point) && p.takes_along.len() < 6 {
                p.takes_along.push(t);
            }
        }
        for w in wears {
            p.wears.retain(|x| x.point != w.point);
            if p.wears.len() < 6 {
                p.wears.push(w);
            }
        }
        if !said.stages.is_empty() && p.escalation.is_none() {
            p.stages = self.stages(lives_on);
        }
    }

    /// Claims: the first of the sheet's own takes the place of a pattern's.
    fn claims(&self, p: &mut FailurePoint) {
        let said = self.told.said;
        let common = |source: &str, stands: &Option<Citation>| source == "practice" && stands.is_none();
        let corrects = self.told.mode == TalkMode::Correct;
        let goes =
            |source: &str, stands: &Option<Citation>| common(source, stands) || (corrects && source == self.source);
        if let Some(says) = said.share {
            p.share.retain(|c| !goes(&c.source, &c.stands));
            let claim =
                ShareClaim { source: self.source.to_owned(), weight: 1.0, says, stands: Some(self.stands.clone()) };
            if !p.share.iter().any(|c| c.source == claim.source && c.says == claim.says) {
                p.share.push(claim);
            }
        }
        if said.life.is_empty() {
            return;
        }
        p.life.retain(|c| !goes(&c.source, &c.stands));
        for l in &said.life {
            let same = |c: &LifeClaim| c.source == self.source && c.says == l.says && c.clock == l.clock;
            if !p.life.iter().any(same) {
                p.life.push(self.claim(l));
            }
        }
        if said.applies != Applies::default() {
            p.applies = said.applies.clone();
        }
    }

    fn claim(&self, l: &LifeSaid) -> LifeClaim {
        LifeClaim {
            source: self.source.to_owned(),
            weight: 1.0,
            clock: l.clock,
            says: l.says.clone(),
            stands: Some(self.stands.clone()),
        }
    }

    /// The job that a price or hours make; none where neither is said and the point has one.
    fn job(&self, family: &mut Family, at: usize) -> Option<String> {
        let said = self.told.said;
        let hours = said.hours.map(|[low, high]| {
            let middle = f64::midpoint(low, high) * self.a.rate_independent;
            price_of(middle, None)
        });
        let p = &family.points[at];
        let has = !p.job.is_empty() || p.price.is_some();
        let usual = || price_of(self.a.rate_independent * self.a.unsaid_job_hours, None);
        let price: Price = said.price.or(hours.flatten()).or_else(|| if has { None } else { usual() })?;
        let id = format!("{}-talk", family.points[at].id.chars().take(34).collect::<String>());
        let name = format!("{}, put right", family.points[at].name);
        let job = Job { id: id.clone(), name: name.chars().take(80).collect(), price: Some(price), ..Job::default() };
        match family.jobs.iter_mut().find(|j| j.id == id) {
            Some(before) => *before = job,
            None => family.jobs.push(job),
        }
        self.with_it(family, at, &id);
        Some(id)
    }

    /// What is done with it: the job renews those points too.
    fn with_it(&self, family: &mut Family, at: usize, job: &str) {
        let own = family.points[at].id.clone();
        let parts = self.told.said.with_it.iter();
        let others: Vec<String> = parts
            .filter_map(|part| family.points.iter().find(|p| p.part.as_ref() == Some(part)).map(|p| p.id.clone()))
            .filter(|id| *id != own)
            .collect();
        if let Some(j) = family.jobs.iter_mut().find(|j| j.id == job).filter(|_| !others.is_empty()) {
            j.renews = std::iter::once(own).chain(others).collect();
            j.renews.dedup();
        }
    }

    fn along(&self, family: &mut Family, at: usize) -> Vec<TakesAlong> {
        let own = family.points[at].id.clone();
        let said = self.told.said.takes_along.iter();
        said.filter_map(|t| {
            let found = family.points.iter().find(|p| p.part.as_ref() == Some(&t.part) && p.id != own)?;
            // A chain that would come back to itself is left out.
            if found.takes_along.iter().any(|x| x.point.as_ref() == Some(&own)) {
                return None;
            }
            Some(TakesAlong { point: Some(found.id.clone()), job: None, chance: Probability::try_from(t.chance).ok()? })
        })
        .collect()
    }

    fn revision(&self, p: &mut FailurePoint) {
        let said = self.told.said.revision.as_ref();
        let Some(r) = said.filter(|r| r.share.is_some() || !r.life.is_empty()) else { return };
        let stands = Some(self.stands.clone());
        let share = r.share.map(|says| ShareClaim { source: self.source.to_owned(), weight: 1.0, says, stands });
        let revision = Revision {
            name: "revised part".to_owned(),
            from: r.from,
            from_serial: None,
            share: share.into_iter().collect(),
            life: r.life.iter().map(|l| self.claim(l)).collect(),
        };
        match p.revision.as_mut().filter(|before| before.from == revision.from) {
            // One more voice on the same part.
            Some(before) => {
                before
                    .share
                    .extend(revision.share.into_iter().filter(|c| !before.share.contains(c)).collect::<Vec<_>>());
                before.life.extend(revision.life.into_iter().filter(|c| !before.life.contains(c)).collect::<Vec<_>>());
            }
            None => p.revision = Some(revision),
        }
    }

    /// A check for each sign that the line names.
    fn checks(&self, family: &mut Family, point: &str) {
        for s in &self.told.said.signs {
            let signs = vec![Sign { outcome: 1, says: s.says, shows: HowOften::Mostly }];
            let link = Link {
                point: point.to_owned(),
                signs,
                present: Vec::new(),
                stages: Vec::new(),
                coming: None,
                lead: None,
            };
            let id = short_name(&format!("{point}-{}", s.label));
            if let Some(c) = family.checks.iter_mut().find(|c| c.id == id) {
                c.links = vec![link];
                continue;
            }
            let (caution, hazards) = caution(s.phase);
            let name = family.point(point).map_or(String::new(), |p| p.name.clone());
            family.checks.push(Check {
                id,
                name: format!("{name}: {}?", s.label).chars().take(80).collect(),
                phase: s.phase,
                how: format!("Look and listen for it: {}.", s.label),
                tells: self.told.text.chars().take(200).collect(),
                minutes: 2.0,
                fee: None,
                tools: Vec::new(),
                caution: caution.map(str::to_owned),
                applies: Applies::default(),
                places: Vec::new(),
                outcomes: ["no", s.label.as_str()]
                    .map(|l| Outcome { label: l.chars().take(60).collect(), blocker: None })
                    .to_vec(),
                leak: Vec::new(),
                links: vec![link],
                care_sign: None,
                measure: None,
                action: None,
                hazards,
                timer: None,
                scan: Vec::new(),
            });
        }
    }
}
