//! Is a finding consistent with its check?

use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Check;
use crate::documents::family::Family;
use crate::documents::finding::{Finding, FindingResult};
use crate::reading::measured::measure;
use crate::validation::faults::Faults;

/// Judges a finding at a path.
pub(crate) fn finding(out: &mut Faults, f: &Finding, c: &Candidate, used: &[&Family], at: &str) {
    let Some(check) = used.iter().find(|x| x.id == f.family).and_then(|x| x.check(&f.check)) else {
        out.add(format!("{at}/check"), format!("no check \"{}/{}\" among its families", f.family, f.check));
        return;
    };
    match f.result {
        FindingResult::Outcome { outcome } => {
            let say = format!("the check has outcomes 0 to {}", check.outcomes.len() - 1);
            out.unless(outcome < check.outcomes.len(), format!("{at}/result/outcome"), say);
        }
        FindingResult::Measured => measured(out, f, c, check, at),
        _ => {}
    }
}

fn measured(out: &mut Faults, f: &Finding, c: &Candidate, check: &Check, at: &str) {
    let measures = check.measure.is_some();
    out.unless(measures, format!("{at}/result"), "the check does not measure: give an outcome");
    match (&check.measure, f.inputs.is_empty()) {
        (Some(m), false) => {
            if let Err(faults) = measure(m, &f.inputs, c.as_of, &Assumptions::default()) {
                faults.into_iter().for_each(|x| out.add(format!("{at}{}", x.path), x.message));
            }
        }
        _ => out.unless(f.reading.is_some_and(f64::is_finite), format!("{at}/reading"), "the reading is missing"),
    }
}
