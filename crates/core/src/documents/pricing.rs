//! Sheets whose money is counted in workshop hours, brought into a currency.

use std::collections::BTreeSet;

use crate::base::units::Money;
use crate::documents::assumptions::Assumptions;
use crate::documents::family::Family;
use crate::documents::spelled::spelled_out;

/// A sheet spelled out, with its money in the candidate's currency: a base sheet, and what patterns gave, count it in
/// hours of an independent workshop.
#[must_use]
pub fn priced(family: Family, a: &Assumptions) -> Family {
    let mut family = spelled_out(family, a);
    let all = family.currency == NO_CURRENCY;
    if !all && family.patterns.is_empty() {
        return family;
    }
    let given: BTreeSet<String> = family.patterns.iter().flat_map(|p| p.gives.iter().cloned()).collect();
    let in_hours = |list: &str, id: &str| all || given.contains(&format!("{list}/{id}"));
    let rate = a.rate_independent;
    let at = |m: &mut Money| {
        // Rounded to hundredths, it is money again.
        if let Ok(money) = Money::try_from((m.get() * rate * 100.0).round() / 100.0) {
            *m = money;
        }
    };
    let jobs = family.jobs.iter_mut().filter(|j| in_hours("jobs", &j.id));
    for range in jobs.flat_map(|j| j.parts.values_mut().chain(j.sundries.as_mut())) {
        [&mut range.low, &mut range.likely, &mut range.high].into_iter().for_each(at);
    }
    let checks = family.checks.iter_mut().filter(|c| in_hours("checks", &c.id));
    checks.filter_map(|c| c.fee.as_mut()).for_each(at);
    family
}

/// The currency of a base sheet (ISO 4217 "no currency"): its money is counted in hours of an independent
/// workshop.
pub const NO_CURRENCY: &str = "XXX";
