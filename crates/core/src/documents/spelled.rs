//! A sheet spelled out: its words brought into figures, so far as they do not depend on the vehicle.
//!
//! docs/METHOD.md, section 1; docs/FORMATS.md.

use crate::base::units::{Money, Probability};
use crate::documents::applies::serial_order;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Link;
use crate::documents::claim::Mechanism;
use crate::documents::failure_point::{FailurePoint, Revision, Warning};
use crate::documents::family::Family;
use crate::documents::job::{Job, MoneyRange};
use crate::documents::strands::on_clock;
use crate::documents::words::{HowOften, Notice, NoticeLength, NoticedBy, Price};

/// A sheet with its words in figures: notices, prices and how often signs show. What a sheet gives as figures stays.
/// Spelling it out once more changes nothing. How telling a sign is depends on the vehicle's usage and is settled with
/// it.
#[must_use]
pub fn spelled_out(mut family: Family, a: &Assumptions) -> Family {
    for job in &mut family.jobs {
        if let Some(price) = job.price.filter(|_| job.parts.is_empty() && job.hours.is_none()) {
            job.sundries = job.sundries.or_else(|| range(price, a));
        }
    }
    let clock = family.clock;
    for i in 0..family.points.len() {
        own_jobs(&mut family, i, a);
        let p = &mut family.points[i];
        if p.warning.is_none() {
            p.warning =
                p.notice.as_ref().and_then(|n| warning(p, n, |km| on_clock(km, clock, a), a)).or_else(|| grows(p, a));
        }
    }
    let Family { points, checks, .. } = &mut family;
    for link in checks.iter_mut().flat_map(|c| {
        let outcomes = c.outcomes.len();
        c.links.iter_mut().map(move |l| (outcomes, l))
    }) {
        let (outcomes, link) = link;
        if let Some(point) = points.iter().find(|p| p.id == link.point) {
            shows(link, point, outcomes, on_clock(a.notice_long, clock, a), a);
        }
    }
    family
}

/// A sheet as this build of the family has it: of a part revised several times, what the works fitted is its first
/// part and the last revision its revised one.
#[must_use]
pub fn as_built(mut family: Family, candidate: &Candidate) -> Family {
    let serial = candidate.serials.get(&family.id);
    let fitted = |r: &Revision| match (&r.from_serial, serial) {
        (Some(from), Some(serial)) => serial_order(serial, from).is_ge(),
        _ => r.from.is_some_and(|from| candidate.built >= from),
    };
    for p in family.points.iter_mut().filter(|p| !p.revisions.is_empty()) {
        let mut all = std::mem::take(&mut p.revisions);
        all.extend(p.revision.take());
        all.sort_by_key(|r| r.from);
        // What a revision does not say stays as it was before.
        for k in 1..all.len() {
            let (before, after) = all.split_at_mut(k);
            let (before, after) = (&before[k - 1], &mut after[0]);
            if after.life.is_empty() {
                after.life.clone_from(&before.life);
            }
            if after.share.is_empty() {
                after.share.clone_from(&before.share);
            }
        }
        let Some(last) = all.pop() else { continue };
        if let Some(own) = all.into_iter().rev().find(fitted).filter(|_| !fitted(&last)) {
            if !own.life.is_empty() {
                p.life = own.life;
            }
            if !own.share.is_empty() {
                p.share = own.share;
            }
        }
        p.revision = Some(last);
    }
    family
}

/// How the id of a job that a price makes begins.
pub(crate) const OWN: &str = "own.";

/// Jobs of a point, and of its ways, that are known by their price alone.
fn own_jobs(family: &mut Family, point: usize, a: &Assumptions) {
    let p = &family.points[point];
    let mut made: Vec<(Option<usize>, String, Price)> = Vec::new();
    if let Some(price) = p.price.filter(|_| p.job.is_empty()) {
        made.push((None, p.name.clone(), price));
    }
    for (k, r) in p.routes.iter().enumerate() {
        if let Some(price) = r.price.filter(|_| r.job.is_empty()) {
            made.push((Some(k), r.name.clone(), price));
        }
    }
    let own = p.id.clone();
    let stages: Vec<(usize, String, Price)> = p
        .stages
        .iter()
        .enumerate()
        .filter_map(|(k, s)| Some((k, s.name.clone(), s.price.filter(|_| s.job.is_empty())?)))
        .collect();
    for (k, name, price) in stages {
        let id = stage_job(&own, k);
        if family.job(&id).is_none() {
            family.jobs.push(Job { id: id.clone(), name, sundries: range(price, a), ..Job::default() });
        }
        family.points[point].stages[k].job = id;
    }
    for (route, name, price) in made {
        let id = own_job(&own, route);
        let sundries = range(price, a);
        let job = Job { id: id.clone(), name, sundries, ..Job::default() };
        if family.job(&id).is_none() {
            family.jobs.push(job);
        }
        match route {
            None => family.points[point].job = id,
            Some(k) => family.points[point].routes[k].job = id,
        }
    }
}

/// Id of the job that a point's own price makes, or that of one of its ways: one that no written job can have.
pub(crate) fn own_job(point: &str, route: Option<usize>) -> String {
    route.map_or_else(|| format!("{OWN}{point}"), |k| format!("{OWN}{point}.{}", k + 1))
}

/// Id of the job that the price of a stage makes.
fn stage_job(point: &str, stage: usize) -> String {
    format!("{OWN}{point}.stage-{}", stage + 1)
}

/// Whether a sheet has a job of that id, written out or made from a price.
#[must_use]
pub fn has_job(family: &Family, id: &str) -> bool {
    let made = |p: &FailurePoint| {
        let ways = (0..p.routes.len()).map(Some);
        std::iter::once(None).chain(ways).any(|route| own_job(&p.id, route) == id)
            || (0..p.stages.len()).any(|k| stage_job(&p.id, k) == id)
    };
    family.job(id).is_some() || family.points.iter().any(made)
}

/// What a price may come to.
pub(crate) fn range(price: Price, a: &Assumptions) -> Option<MoneyRange> {
    let money = |x: f64| Money::try_from((x * 100.0).round() / 100.0).ok();
    match price {
        Price::About(m) => {
            let (low, high) = (money(m.get() * a.price_low)?, money(m.get() * a.price_high)?);
            Some(MoneyRange { low, likely: m, high })
        }
        Price::Between([low, high]) => {
            Some(MoneyRange { low, likely: money(f64::midpoint(low.get(), high.get()))?, high })
        }
    }
}

fn warning(p: &FailurePoint, n: &Notice, clock: impl Fn(f64) -> f64, a: &Assumptions) -> Option<Warning> {
    let km = match n.length {
        NoticeLength::None => return None,
        NoticeLength::Short => a.notice_short,
        NoticeLength::Long => a.notice_long,
        NoticeLength::Years => a.notice_years,
    };
    let sensitivity = match n.by {
        NoticedBy::Most => a.noticed_most,
        NoticedBy::Half => a.noticed_half,
        NoticedBy::ThoseWhoLook => a.noticed_looking,
    };
    let (lead, sign) = (clock(km), n.sign.clone().unwrap_or_else(|| p.shows.clone()));
    Some(Warning { sign, lead, every: lead, sensitivity: Probability::try_from(sensitivity).ok()? })
}

/// How a fault that grows announces itself where nothing else is said: by its earlier stages, to half of the owners.
fn grows(p: &FailurePoint, a: &Assumptions) -> Option<Warning> {
    let (_, earlier) = p.stages.split_last().filter(|_| p.notice.is_none())?;
    let lead: f64 = earlier.iter().map(|s| s.tolerable).sum();
    let sensitivity = Probability::try_from(a.noticed_half).ok()?;
    (lead > 0.0).then(|| Warning { sign: earlier[0].name.clone(), lead, every: lead, sensitivity })
}

/// Chance that a fault which is there shows a sign of this word.
#[must_use]
pub fn how_often(word: HowOften, a: &Assumptions) -> f64 {
    match word {
        HowOften::Mostly => a.shows_mostly,
        HowOften::Half => a.shows_half,
        HowOften::Seldom => a.shows_seldom,
    }
}

/// What a link's words come to: the chance of each outcome from this cause, there and coming.
fn shows(link: &mut Link, point: &FailurePoint, outcomes: usize, usual_lead: f64, a: &Assumptions) {
    if link.signs.is_empty() || !link.present.is_empty() {
        return;
    }
    // Chance of each outcome or a worse one.
    let reaches = |g: usize| {
        let worse = link.signs.iter().filter(|s| s.outcome >= g);
        worse.map(|s| how_often(s.shows, a)).fold(0.0, f64::max)
    };
    let spread = |scale: f64| -> Vec<Probability> {
        let at = |g: usize| if g == 0 { 1.0 } else { reaches(g) * scale };
        let each = (0..outcomes).map(|g| at(g) - if g + 1 < outcomes { at(g + 1) } else { 0.0 });
        each.filter_map(|p| Probability::try_from(p.clamp(0.0, 1.0)).ok()).collect()
    };
    let present = spread(1.0);
    let sudden = matches!(point.mechanism, Mechanism::Infant | Mechanism::Random)
        || point.notice.as_ref().is_some_and(|n| n.length == NoticeLength::None);
    if !sudden && link.coming.is_none() {
        link.coming = Some(spread(1.0 / a.coming_shows_less));
        let announced = point.warning.as_ref().map(|w| w.lead);
        link.lead = link.lead.or(announced).or(Some(usual_lead));
    } else {
        link.lead = link.lead.filter(|_| link.coming.is_some());
    }
    link.present = present;
}
