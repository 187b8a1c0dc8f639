//! Which failure points concern a candidate (§1, applicability), and the state of each under a
//! chosen part of the evidence and a level of care (§§2–4 together).

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::assumptions::Assumptions;
use crate::candidate::{Candidate, LedgerEntry};
use crate::care::{self, CareLevel, LEVELS};
use crate::claims::{CurveError, Heard, Life, PointLives};
use crate::exposure;
use crate::family::{Applies, Check, Exposure, FailurePoint, Family, PartGrade};
use crate::future::{BEYOND, FutureGrid, Pace, Zones, remaining};
use crate::lattice::{Curves, Parts, PointCurves};
use crate::papers;
use crate::standing::{Cycle, History, PastPath, Renewal, stand};
use crate::units::{Probability, years_between};

/// What is to be identified when a serial or engine number would decide.
pub const SERIAL: &str = "serial";

/// How far conditions are met by what is known of the candidate.
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    /// Share of the family, given what is known, that meets them; 1 when all is known.
    pub share: f64,
    /// Facts that are not known; [`SERIAL`] for the serial number.
    pub identify: Vec<String>,
}

/// Whether something concerns the candidate; `None` when a known fact rules it out.
#[must_use]
pub fn fit(applies: &Applies, family: &Family, candidate: &Candidate, a: &Assumptions) -> Option<Fit> {
    if applies.built.is_some_and(|w| !w.contains(candidate.built)) {
        return None;
    }
    let mut fit = Fit { share: 1.0, identify: Vec::new() };
    if let Some(window) = &applies.serial {
        match candidate.serials.get(&family.id) {
            Some(serial) if window.contains(serial) => {}
            Some(_) => return None,
            None => {
                fit.share *= window.share.map_or(a.share_unknown_fact, Probability::get);
                fit.identify.push(SERIAL.to_owned());
            }
        }
    }
    for (fact, accepted) in &applies.facts {
        match candidate.facts.get(fact) {
            Some(value) if accepted.contains(value) => {}
            Some(_) => return None,
            None => {
                let values = family.facts.iter().find(|f| &f.id == fact).map(|f| f.values.as_slice());
                let given: Option<f64> =
                    accepted.iter().map(|id| values?.iter().find(|v| &v.id == id)?.share.map(Probability::get)).sum();
                fit.share *= given.unwrap_or(a.share_unknown_fact).min(1.0);
                fit.identify.push(fact.clone());
            }
        }
    }
    Some(fit)
}

/// A failure point that concerns the candidate.
#[derive(Debug)]
pub struct Subject<'a> {
    /// Its family.
    pub family: &'a Family,
    /// The point.
    pub point: &'a FailurePoint,
    /// How far it applies.
    pub fit: Fit,
    /// Ledger entries that renewed it, in order of usage.
    pub entries: Vec<&'a LedgerEntry>,
    /// Leads at which some check on it changes its voice.
    pub leads: Vec<f64>,
    /// Whether the works fitted the revised part.
    pub built_revised: bool,
    use_factors: UseFactors,
}

/// What use makes of a point's life, before care.
#[derive(Debug, Clone, Copy)]
struct UseFactors {
    past: f64,
    plan: f64,
}

/// The points of all families that concern the candidate, in the sheets' order.
#[must_use]
pub fn subjects<'a>(candidate: &'a Candidate, families: &'a [Family], a: &Assumptions) -> Vec<Subject<'a>> {
    let mut out = Vec::new();
    for family in families {
        for point in &family.points {
            if makes_way(point, family, families, candidate, a) {
                continue;
            }
            let Some(fit) = fit(&point.applies, family, candidate, a) else { continue };
            let mut entries: Vec<&LedgerEntry> = candidate
                .ledger
                .iter()
                .filter(|e| e.renews.iter().any(|r| r.family == family.id && r.point == point.id))
                .collect();
            entries.sort_by(|x, y| x.usage.on_clock().total_cmp(&y.usage.on_clock()).then(x.date.cmp(&y.date)));
            let links = family.checks.iter().flat_map(|c: &Check| &c.links);
            let leads = links.filter(|l| l.point == point.id).filter_map(|l| l.lead).collect();
            let factor = |levels: &BTreeMap<Exposure, Probability>| exposure::factor(point, levels);
            out.push(Subject {
                family,
                point,
                fit,
                entries,
                leads,
                built_revised: built_revised(point, family, candidate),
                use_factors: UseFactors { past: factor(&candidate.past_use), plan: factor(&candidate.plan.use_) },
            });
        }
    }
    out
}

/// Whether a point concerns the candidate.
#[must_use]
pub fn concerns(point: &FailurePoint, family: &Family, families: &[Family], c: &Candidate, a: &Assumptions) -> bool {
    fit(&point.applies, family, c, a).is_some() && !makes_way(point, family, families, c, a)
}

/// Whether a base sheet's point makes way for one of the same part in a family's own sheet.
fn makes_way(point: &FailurePoint, family: &Family, families: &[Family], c: &Candidate, a: &Assumptions) -> bool {
    let own = families.iter().filter(|f| !f.kind.is_base() && c.families.iter().any(|r| r.id == f.id));
    let same = |(f, p): (&Family, &FailurePoint)| p.part == point.part && fit(&p.applies, f, c, a).is_some();
    family.kind.is_base() && point.part.is_some() && own.flat_map(|f| f.points.iter().map(move |p| (f, p))).any(same)
}

/// Whether the works fitted the revised part: by the serial number where both are known, else by the day.
fn built_revised(point: &FailurePoint, family: &Family, candidate: &Candidate) -> bool {
    let Some(revision) = &point.revision else { return false };
    match (&revision.from_serial, candidate.serials.get(&family.id)) {
        (Some(from), Some(serial)) => crate::family::serial_order(serial, from).is_ge(),
        _ => revision.from.is_some_and(|from| candidate.built >= from),
    }
}

/// Which evidence is counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Counted {
    /// How it was used.
    pub past_use: PastUse,
    /// How it will be used.
    pub plan_use: bool,
    /// Ledger and completeness.
    pub papers: bool,
}

/// Which exposures the past is taken to have had.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PastUse {
    /// None in particular.
    None,
    /// Those stated.
    Stated,
    /// Those of the plan: the reference example's.
    AsPlan,
}

impl Counted {
    /// Everything but findings.
    pub const ALL: Self = Self { past_use: PastUse::Stated, plan_use: true, papers: true };
    /// Nothing but that it has come so far.
    pub const SURVIVED: Self = Self { past_use: PastUse::None, plan_use: false, papers: false };
    /// Survival and use.
    pub const USE: Self = Self { past_use: PastUse::Stated, plan_use: true, papers: false };
    /// The reference example.
    pub const REFERENCE: Self = Self { past_use: PastUse::AsPlan, plan_use: true, papers: false };
}

/// What is common to all points of one candidate.
#[derive(Debug)]
pub struct Setting<'a> {
    /// The candidate.
    pub candidate: &'a Candidate,
    /// The table used.
    pub assumptions: &'a Assumptions,
    /// The vehicle's path to now.
    pub path: PastPath,
    /// Usage to the end of the plan.
    pub horizon: f64,
    /// Usage a year in the plan.
    pub usage_a_year: f64,
    /// Chance that a repair left a paper.
    pub completeness: f64,
}

impl<'a> Setting<'a> {
    /// Sets the scene for a candidate that passed [`crate::sense`].
    #[must_use]
    pub fn new(candidate: &'a Candidate, assumptions: &'a Assumptions) -> Self {
        let usage_a_year = candidate.plan.usage_a_year.on_clock();
        Self {
            candidate,
            assumptions,
            path: PastPath::new(
                candidate.usage.on_clock(),
                years_between(candidate.built, candidate.as_of),
                &papers::path_readings(candidate),
            ),
            horizon: usage_a_year * candidate.plan.years,
            usage_a_year,
            completeness: papers::completeness(candidate, assumptions),
        }
    }

    /// Life factors of the past under a level of care, and of the plan under the buyer's.
    #[must_use]
    pub fn kappas(&self, subject: &Subject<'_>, counted: Counted, level: CareLevel) -> (f64, f64) {
        let a = self.assumptions;
        let uses = subject.use_factors;
        let past = match counted.past_use {
            PastUse::None => 1.0,
            PastUse::Stated => uses.past,
            PastUse::AsPlan => uses.plan,
        };
        let plan = if counted.plan_use { uses.plan } else { 1.0 };
        let kept = |level| care::factor(subject.point, level, a);
        (exposure::kappa(kept(level) * past, a), exposure::kappa(kept(self.candidate.plan.care) * plan, a))
    }

    /// Whether two kinds of evidence come to the same for this point under every level of care,
    /// findings aside.
    #[must_use]
    pub fn alike(&self, subject: &Subject<'_>, x: Counted, y: Counted) -> bool {
        let silent = subject.entries.is_empty() && self.completeness <= self.assumptions.completeness_least;
        (x.papers == y.papers || silent)
            && LEVELS.iter().all(|&l| self.kappas(subject, x, l) == self.kappas(subject, y, l))
    }

    /// The tables that every view of the point reads: as far as the plan reaches under the shortest life.
    #[must_use]
    pub fn curves<'l>(&self, subject: &Subject<'_>, lives: &'l PointLives) -> PointCurves<'l> {
        let a = self.assumptions;
        let grades = [PartGrade::Original, PartGrade::Unknown]
            .into_iter()
            .chain(subject.entries.iter().map(|e| e.grade))
            .map(|g| a.grade(g));
        let grade = grades.fold(f64::INFINITY, f64::min);
        let reach = self.horizon * (1.0 + BEYOND);
        let views = [Counted::ALL, Counted::SURVIVED, Counted::REFERENCE];
        let (mut usage, mut age) = (0.0f64, 0.0f64);
        for (counted, level) in views.into_iter().flat_map(|c| LEVELS.map(|l| (c, l))) {
            let (past, plan) = self.kappas(subject, counted, level);
            let ahead = reach * past / plan;
            usage = usage.max((self.path.usage_now() + ahead) / past);
            age = age.max((self.path.age_now() + ahead / self.usage_a_year) / past);
        }
        let margin = 1.001 / grade;
        PointCurves::new(&lives.first, &lives.revised, usage * margin, age * margin)
    }

    /// The part fitted at the works: its curves and susceptible share.
    fn first_part<'c>(
        &self,
        subject: &Subject<'_>,
        lives: &PointLives,
        curves: &'c PointCurves<'c>,
    ) -> (&'c Curves<'c>, f64) {
        if subject.built_revised { (curves.revised(), lives.revised_share) } else { (&curves.first, lives.share) }
    }

    /// Where the point stands under the evidence counted and each level of care: its zones on a grid,
    /// before findings, and the failures of past cells at ordinary care (empty unless `trace`).
    #[must_use]
    pub fn worlds<'c>(
        &self,
        view: &View<'_, 'c>,
        parts: &mut Parts<'c>,
        grid: &Arc<FutureGrid>,
        counted: Counted,
        trace: bool,
    ) -> ([Zones; 3], Vec<f64>) {
        let kappas = LEVELS.map(|level| self.kappas(view.subject, counted, level));
        // Where care changes nothing but the owners' patience, one history serves for all levels.
        let [poor, mut ordinary, good] = if kappas.iter().all(|k| *k == kappas[0]) {
            self.zones(view, parts, grid, counted, kappas[0], LEVELS, trace)
        } else {
            std::array::from_fn(|l| {
                let trace = trace && LEVELS[l] == CareLevel::Ordinary;
                let [one] = self.zones(view, parts, grid, counted, kappas[l], [LEVELS[l]], trace);
                one
            })
        };
        let past = std::mem::take(&mut ordinary.0);
        ([poor.1, ordinary.1, good.1], past)
    }

    /// Where the point stands now under the evidence counted and life factors of past and plan, once for
    /// each level of care that has these factors: the failures of past cells, and the zones.
    #[allow(clippy::too_many_arguments)]
    fn zones<'c, const N: usize>(
        &self,
        view: &View<'_, 'c>,
        parts: &mut Parts<'c>,
        grid: &Arc<FutureGrid>,
        counted: Counted,
        (past, plan): (f64, f64),
        levels: [CareLevel; N],
        trace: bool,
    ) -> [(Vec<f64>, Zones); N] {
        let a = self.assumptions;
        let View { subject, lives, curves } = *view;
        let point = subject.point;
        let pace = Pace { usage_a_year: self.usage_a_year, stretch: past / plan };
        let (built, share) = self.first_part(subject, lives, curves);
        let unrecorded = parts.get(
            &self.path,
            Cycle { curves: built, kappa: past * a.grade_unknown },
            grid.reach() * pace.stretch,
            self.usage_a_year,
        );
        let renewal = |e: &&LedgerEntry| Renewal {
            edge: self.path.edge(e.usage.on_clock()),
            credibility: a.credibility(e.evidence),
            cycle: Cycle {
                curves: if e.revised || subject.built_revised { curves.revised() } else { &curves.first },
                kappa: past * a.grade(e.grade),
            },
            still_susceptible: if e.revised && !subject.built_revised && lives.share > 0.0 {
                (lives.revised_share / lives.share).min(1.0)
            } else {
                1.0
            },
        };
        let history = History {
            share: share * subject.fit.share,
            build: Cycle { curves: built, kappa: past },
            renewals: if counted.papers { subject.entries.iter().map(renewal).collect() } else { Vec::new() },
            unrecorded,
            survivable: point.survivable.get(),
            completeness: if counted.papers { self.completeness } else { a.completeness_least },
            trace,
        };
        let tolerated = levels.map(|level| point.tolerated * care::patience(level, a));
        let mut standings = stand(&self.path, &history, &tolerated).into_iter();
        std::array::from_fn(|_| match standings.next() {
            Some(s) => {
                let zones = remaining(&s, &self.path, unrecorded, Arc::clone(grid), pace);
                (s.past, zones)
            }
            None => (Vec::new(), Zones::empty(Arc::clone(grid))),
        })
    }

    /// Chance by the end of the plan as seen from new: nothing known but the family.
    #[must_use]
    pub fn at_build(&self, subject: &Subject<'_>, lives: &PointLives) -> f64 {
        let usage = self.path.usage_now() + self.horizon;
        let age = self.path.age_now() + self.candidate.plan.years;
        let (life, share): (&Life, f64) =
            if subject.built_revised { (&lives.revised, lives.revised_share) } else { (&lives.first, lives.share) };
        share * subject.fit.share * (1.0 - life.alive(usage, age, 1.0))
    }
}

/// A point with the lives and tables it is seen through.
#[derive(Debug, Clone, Copy)]
pub struct View<'s, 'c> {
    /// The point.
    pub subject: &'s Subject<'s>,
    /// Its lives under the schools heard.
    pub lives: &'c PointLives,
    /// Their tables.
    pub curves: &'c PointCurves<'c>,
}

/// The lives of every subject under the schools heard.
///
/// # Errors
/// [`CurveError`] from a claim that makes no curve.
pub fn lives(subjects: &[Subject<'_>], heard: Heard<'_>, a: &Assumptions) -> Result<Vec<PointLives>, CurveError> {
    subjects.iter().map(|s| PointLives::pool(s.point, heard, a)).collect()
}
