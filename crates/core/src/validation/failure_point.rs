//! Is a failure point consistent: its claims, revision, job and exposures?

use std::collections::HashSet;

use crate::base::word::word;
use crate::documents::assumptions::Assumptions;
use crate::documents::claim::{LifeClaim, LifeForm, Mechanism, ShareClaim};
use crate::documents::claim_curve::curve;
use crate::documents::failure_point::{FailurePoint, Revision, Route};
use crate::documents::family::Family;
use crate::validation::applies::applies;
use crate::validation::faults::Faults;
use crate::validation::job::price;
use crate::validation::limits::shortest;

pub(crate) fn source(out: &mut Faults, f: &Family, id: &str, path: &str) {
    let known = f.sources.iter().any(|s| s.id == id);
    out.unless(known, format!("{path}/source"), format!("no source \"{id}\" in this sheet"));
}

fn life(out: &mut Faults, f: &Family, claims: &[LifeClaim], mechanism: Mechanism, path: &str) {
    for (k, claim) in claims.iter().enumerate() {
        let at = format!("{path}/{k}");
        source(out, f, &claim.source, &at);
        match &claim.says {
            LifeForm::Between { from, to } if from >= to => {
                out.add(format!("{at}/says/to"), format!("\"between\" needs its upper figure above {from}, not {to}"));
            }
            says => {
                let (least, unit) = shortest(claim.clock, f.clock);
                match curve(says, mechanism, &Assumptions::default()) {
                    Err(e) => out.add(format!("{at}/says"), e.to_string()),
                    Ok(curve) if curve.quantile(0.5) < least => {
                        let message = format!("half would fail within {least} {unit}: that is no life of a part");
                        out.add(format!("{at}/says"), message);
                    }
                    Ok(_) => {}
                }
            }
        }
    }
}

/// Claims that stand outside a point: their mechanism is not known here.
pub(crate) fn claims(out: &mut Faults, f: &Family, shares: &[ShareClaim], lives: &[LifeClaim], at: &str) {
    life(out, f, lives, Mechanism::Wear, &format!("{at}/life"));
    for (k, c) in shares.iter().enumerate() {
        source(out, f, &c.source, &format!("{at}/share/{k}"));
    }
}

fn revision(out: &mut Faults, f: &Family, p: &FailurePoint, r: &Revision, at: &str) {
    life(out, f, &r.life, p.mechanism, &format!("{at}/life"));
    for (k, c) in r.share.iter().enumerate() {
        source(out, f, &c.source, &format!("{at}/share/{k}"));
    }
    let says_something = !(r.life.is_empty() && r.share.is_empty());
    out.unless(says_something, at, "a revision needs a life or a share of its own");
}

/// How it is put right, and what it does to others.
fn repairs(out: &mut Faults, f: &Family, p: &FailurePoint, at: &str) {
    let known = |out: &mut Faults, job: &str, path: String| {
        out.unless(f.job(job).is_some(), path, format!("no job \"{job}\" in this sheet"));
    };
    price(out, p.price, &format!("{at}/price"));
    if p.job.is_empty() {
        let settles = p.routes.iter().any(|r| !r.first);
        out.unless(
            p.price.is_some() || settles,
            format!("{at}/job"),
            "say what putting it right costs: a job or a price",
        );
    } else {
        known(out, &p.job, format!("{at}/job"));
        out.unless(p.price.is_none(), format!("{at}/price"), "a job or a price, not both");
    }
    for (k, r) in p.routes.iter().enumerate() {
        route(out, f, r, &format!("{at}/routes/{k}"));
    }
    if let Some(e) = &p.escalation {
        known(out, &e.job, format!("{at}/escalation/job"));
    }
    if let Some(e) = &p.already_done {
        known(out, &e.job, format!("{at}/already_done/job"));
    }
    if let Some(x) = &p.paid_for {
        applies(out, f, &x.applies, &format!("{at}/paid_for/applies"));
        let ends = x.until_age.is_some() || x.until_usage.is_some();
        out.unless(ends, format!("{at}/paid_for"), "say until which age or usage somebody else pays");
    }
    stages(out, f, p, at);
    for (k, w) in p.wears.iter().enumerate() {
        let path = format!("{at}/wears/{k}");
        let other = f.point(&w.point).is_some() && w.point != p.id;
        let none = format!("\"{}\" is no other failure point of this sheet", w.point);
        out.unless(other, format!("{path}/point"), none);
        out.unless((1.0..=50.0).contains(&w.times), format!("{path}/times"), "1 to 50 times as fast");
    }
    for (k, t) in p.takes_along.iter().enumerate() {
        let path = format!("{at}/takes_along/{k}");
        match (&t.point, &t.job) {
            (Some(id), None) => {
                out.unless(
                    f.point(id).is_some(),
                    format!("{path}/point"),
                    format!("no failure point \"{id}\" in this sheet"),
                );
                let round = id == &p.id || reaches(f, id, &p.id, f.points.len());
                out.unless(
                    !round,
                    format!("{path}/point"),
                    format!("\"{id}\" takes \"{}\" along in its turn: a circle", p.id),
                );
            }
            (None, Some(job)) => known(out, job, format!("{path}/job")),
            _ => out.add(path, "name the point or the job that it takes along, one of the two"),
        }
    }
}

/// How it grows.
fn stages(out: &mut Faults, f: &Family, p: &FailurePoint, at: &str) {
    let at = format!("{at}/stages");
    out.unless(p.stages.len() != 1, &at, "a fault that grows has two stages or more");
    let both = !p.stages.is_empty() && p.escalation.is_some();
    out.unless(!both, &at, "what it grows to is its last stage: leave the escalation out");
    for (k, s) in p.stages.iter().enumerate() {
        let path = format!("{at}/{k}");
        price(out, s.price, &format!("{path}/price"));
        let said = !s.job.is_empty() || s.price.is_some();
        out.unless(k > 0 || !said, &path, "the first stage is put right by the point's own job");
        out.unless(k == 0 || said, &path, "say what it costs in this stage: a job or a price");
        out.unless(s.job.is_empty() || s.price.is_none(), format!("{path}/price"), "a job or a price, not both");
        let known = s.job.is_empty() || f.job(&s.job).is_some();
        out.unless(known, format!("{path}/job"), format!("no job \"{}\" in this sheet", s.job));
        let sensible = s.tolerable.is_finite() && s.tolerable > 0.0;
        out.unless(sensible, format!("{path}/tolerable"), "a usage above nothing");
    }
}

/// Whether what a point takes along, and that in its turn, comes to another.
fn reaches(f: &Family, from: &str, to: &str, steps: usize) -> bool {
    let mut open = vec![from];
    let mut seen = HashSet::new();
    for _ in 0..=steps {
        let Some(id) = open.pop() else { return false };
        let further = f.point(id).map_or(&[][..], |p| &p.takes_along).iter().filter_map(|t| t.point.as_deref());
        for next in further {
            if next == to {
                return true;
            }
            if seen.insert(next) {
                open.push(next);
            }
        }
    }
    false
}

fn route(out: &mut Faults, f: &Family, r: &Route, at: &str) {
    price(out, r.price, &format!("{at}/price"));
    let job = !r.job.is_empty();
    out.unless(job != r.price.is_some(), at, "a way needs a job or a price, one of the two");
    if job {
        out.unless(f.job(&r.job).is_some(), format!("{at}/job"), format!("no job \"{}\" in this sheet", r.job));
    }
    let tried = !r.first || r.suffices.is_some_and(|s| s.get() < 1.0);
    out.unless(tried, format!("{at}/suffices"), "what is tried first may not suffice: say how often it does");
    let Some(needs) = &r.needs else { return };
    applies(out, f, &needs.applies, &format!("{at}/needs/applies"));
    if let Some(id) = &needs.check {
        let path = format!("{at}/needs/check");
        match f.check(id) {
            None => out.add(path, format!("no check \"{id}\" in this sheet")),
            Some(c) => out.unless(
                needs.worst_outcome + 1 < c.outcomes.len(),
                format!("{at}/needs/worst_outcome"),
                format!("the check has outcomes 0 to {}: leave one that bars it", c.outcomes.len() - 1),
            ),
        }
    }
}

pub(crate) fn point(out: &mut Faults, f: &Family, p: &FailurePoint, at: &str) {
    applies(out, f, &p.applies, &format!("{at}/applies"));
    for (k, c) in p.share.iter().enumerate() {
        source(out, f, &c.source, &format!("{at}/share/{k}"));
    }
    life(out, f, &p.life, p.mechanism, &format!("{at}/life"));
    if let Some(r) = &p.revision {
        revision(out, f, p, r, &format!("{at}/revision"));
    }
    for (k, r) in p.revisions.iter().enumerate() {
        let at = format!("{at}/revisions/{k}");
        revision(out, f, p, r, &at);
        out.unless(r.from.is_some() || r.from_serial.is_some(), &at, "of several revisions each needs its first build");
    }
    let both = !p.revisions.is_empty() && p.revision.is_some();
    out.unless(!both, format!("{at}/revision"), "one revision or a list of them, not both");
    out.unless(
        p.repair_delay.is_none() || p.lived_with.is_none(),
        format!("{at}/lived_with"),
        "a figure or a word for how long owners live with it, not both",
    );
    out.unless(
        p.warning.is_none() || p.notice.is_none(),
        format!("{at}/notice"),
        "figures or words for how it announces itself, not both",
    );
    repairs(out, f, p, at);
    for (k, d) in p.disputed.iter().enumerate() {
        source(out, f, &d.source, &format!("{at}/disputed/{k}"));
    }
    let sides: HashSet<&str> = p.disputed.iter().map(|d| d.source.as_str()).collect();
    out.unless(sides.len() != 1, format!("{at}/disputed"), "a dispute has two sides: say what another source says");
    for (e, factor) in &p.exposures {
        let name = word(e);
        let good = (0.05..=4.0).contains(factor);
        out.unless(
            good,
            format!("{at}/exposures/{name}"),
            format!("a life factor lies between 0.05 and 4, not {factor}"),
        );
    }
}
