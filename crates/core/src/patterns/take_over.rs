//! What a sheet says itself of a part takes the place of what patterns say of it.

use std::collections::{BTreeMap, BTreeSet};

use crate::documents::applies::Applies;
use crate::documents::check::Phase;
use crate::documents::family::Family;

/// A point of the sheet's own that always applies takes the place of the patterns' points of the same part: in their
/// checks, where no check of the sheet's own tells of it in the same phase; in scheduled work, unless work of the
/// sheet's own renews it; in jobs, consequences and rules of care.
pub(crate) fn take_over(out: &mut Family) {
    let given: BTreeSet<String> = out.patterns.iter().flat_map(|p| p.gives.iter().cloned()).collect();
    let own = |list: &str, id: &str| !given.contains(&format!("{list}/{id}"));
    let of_part: BTreeMap<String, String> = out
        .points
        .iter()
        .filter(|p| own("points", &p.id) && p.applies == Applies::default())
        .filter_map(|p| Some((p.part.clone()?, p.id.clone())))
        .collect();
    let replaced: BTreeMap<String, String> = out
        .points
        .iter()
        .filter(|p| !own("points", &p.id))
        .filter_map(|p| Some((p.id.clone(), of_part.get(p.part.as_ref()?)?.clone())))
        .collect();
    // A pattern's check of a point that has the sheet's own one's name speaks of that one.
    let now = |id: &str| replaced.get(id).cloned().unwrap_or_else(|| id.to_owned());
    let told: BTreeSet<(String, Phase)> = out
        .checks
        .iter()
        .filter(|c| own("checks", &c.id))
        .flat_map(|c| c.links.iter().map(|l| (l.point.clone(), c.phase)))
        .collect();
    for check in out.checks.iter_mut().filter(|c| !own("checks", &c.id)) {
        let mut before: BTreeSet<String> = BTreeSet::new();
        let links = check.links.len();
        let phase = check.phase;
        check.links.retain_mut(|l| {
            l.point = now(&l.point);
            let first = before.insert(l.point.clone());
            first && (!own("points", &l.point) || !told.contains(&(l.point.clone(), phase)))
        });
        if check.links.len() == links {
            continue;
        }
        if check.links.is_empty() && check.care_sign.is_none() {
            // All that it tells of is told of by the sheet's own checks.
            check.outcomes.clear();
        } else if check.links.iter().all(|l| l.present.is_empty()) {
            // What else it may come from was counted with the causes that are told of elsewhere.
            check.leak.clear();
        }
    }
    out.checks.retain(|c| !c.outcomes.is_empty());
    renamed(out, &own, &now);
    out.points.retain(|p| !replaced.contains_key(&p.id));
}

/// Puts the sheet's own points where work, jobs and consequences of patterns name those that they replace.
fn renamed(out: &mut Family, own: &dyn Fn(&str, &str) -> bool, now: &dyn Fn(&str) -> String) {
    let all = |ids: &mut Vec<String>| {
        let mut seen = BTreeSet::new();
        *ids = ids.iter().map(|id| now(id)).filter(|id| seen.insert(id.clone())).collect();
    };
    out.intervals.iter_mut().filter(|i| !own("intervals", &i.id)).for_each(|i| all(&mut i.renews));
    out.jobs.iter_mut().filter(|j| !own("jobs", &j.id)).for_each(|j| all(&mut j.renews));
    out.care_rules.iter_mut().filter(|r| !own("care_rules", &r.id)).for_each(|r| all(&mut r.points));
    for p in out.points.iter_mut().filter(|p| !own("points", &p.id)) {
        p.takes_along.iter_mut().filter_map(|t| t.point.as_mut()).for_each(|id| *id = now(id));
        p.wears.iter_mut().for_each(|w| w.point = now(&w.point));
    }
    // The same work in the sheet's own words.
    let covered: BTreeSet<String> = out
        .intervals
        .iter()
        .filter(|i| own("intervals", &i.id) && i.applies == Applies::default())
        .flat_map(|i| i.renews.iter().cloned())
        .collect();
    out.intervals
        .retain(|i| own("intervals", &i.id) || i.renews.is_empty() || !i.renews.iter().all(|id| covered.contains(id)));
}
