//! Is a failure point consistent: its claims, revision, job and exposures?

use crate::base::word::word;
use crate::documents::assumptions::Assumptions;
use crate::documents::claim::{LifeClaim, LifeForm, Mechanism};
use crate::documents::claim_curve::curve;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::validation::applies::applies;
use crate::validation::faults::Faults;
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

pub(crate) fn point(out: &mut Faults, f: &Family, p: &FailurePoint, at: &str) {
    applies(out, f, &p.applies, &format!("{at}/applies"));
    for (k, c) in p.share.iter().enumerate() {
        source(out, f, &c.source, &format!("{at}/share/{k}"));
    }
    life(out, f, &p.life, p.mechanism, &format!("{at}/life"));
    if let Some(r) = &p.revision {
        life(out, f, &r.life, p.mechanism, &format!("{at}/revision/life"));
        for (k, c) in r.share.iter().enumerate() {
            source(out, f, &c.source, &format!("{at}/revision/share/{k}"));
        }
        let says_something = !(r.life.is_empty() && r.share.is_empty());
        out.unless(says_something, format!("{at}/revision"), "a revision needs a life or a share of its own");
    }
    out.unless(f.job(&p.job).is_some(), format!("{at}/job"), format!("no job \"{}\" in this sheet", p.job));
    if let Some(e) = &p.escalation {
        let known = f.job(&e.job).is_some();
        out.unless(known, format!("{at}/escalation/job"), format!("no job \"{}\" in this sheet", e.job));
    }
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
