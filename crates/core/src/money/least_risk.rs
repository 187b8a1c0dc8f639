//! The plan at purchase with the least mixture of expected bill and bad luck.
//!
//! With the expected bill alone the limit price would jump where a finding tips a point from running on to renewing:
//! the mean stays, the tail collapses.
//!
//! docs/METHOD.md, section 8.

use crate::base::budget::Budget;
use crate::base::statistics::DEVIATIONS_TO_THE_DEAREST_TENTH;
use crate::money::bill_lattice::{BillLattice, Sum};
use crate::money::distribution::Distribution;

/// Points that are tried the other way at most: those that deviate most.
const TRIED: usize = 12;

/// Rounds after which no change is looked for any more.
const ROUNDS: usize = 8;

/// What a plan may cost, after every change was tried that may better `(1 − λ)·mean + λ·CVaR90`. `renewed` is the plan
/// with the least mean, and `free` says which of its points may be turned.
pub(crate) fn settle(
    bill: &BillLattice<'_>,
    renewed: &mut [bool],
    free: &[bool],
    lambda: f64,
    budget: &Budget<'_>,
) -> Distribution {
    let key = || {
        let mut out = bill.key();
        out.add(&(&*renewed, free));
        out.figure(lambda);
        out.key()
    };
    let bytes = |(best, _): &(Distribution, Vec<bool>)| 8 * best.steps();
    let (best, settled) = budget.remembered_for_changes(key, bytes, || settled(bill, renewed.to_vec(), free, lambda));
    renewed.copy_from_slice(&settled);
    best
}

fn settled(bill: &BillLattice<'_>, mut renewed: Vec<bool>, free: &[bool], lambda: f64) -> (Distribution, Vec<bool>) {
    if lambda <= 0.0 {
        return (bill.mixed(&bill.product(&renewed, |_| true)), renewed);
    }
    let tried = worth_trying(bill, &renewed, free, lambda);
    let others = bill.product(&renewed, |i| !tried.iter().any(|t| bill.first_of(*t) == bill.first_of(i)));
    let with = |renewed: &[bool], i: usize| {
        let mut turned = renewed.to_vec();
        turned[i] = !turned[i];
        bill.of(i, &turned)
    };
    let mut whole = others.clone();
    tried.iter().for_each(|i| bill.times(&mut whole, &bill.of(*i, &renewed)));
    let mut best = bill.mixed(&whole);
    for _ in 0..ROUNDS {
        let mut bettered = false;
        // What those that come later in this round make, from the last on.
        let mut later = vec![others.clone()];
        for i in tried.iter().rev() {
            let mut next = later[later.len() - 1].clone();
            bill.times(&mut next, &bill.of(*i, &renewed));
            later.push(next);
        }
        let mut earlier: Option<Sum> = None;
        later.pop();
        for i in &tried {
            let mut turned = later.pop().unwrap_or_else(|| others.clone());
            if let Some(e) = &earlier {
                bill.times(&mut turned, e);
            }
            bill.times(&mut turned, &with(&renewed, *i));
            let turned = bill.mixed(&turned);
            if objective(&turned, lambda) < objective(&best, lambda) - 1e-9 {
                renewed[*i] = !renewed[*i];
                (best, bettered) = (turned, true);
            }
            match &mut earlier {
                Some(e) => bill.times(e, &bill.of(*i, &renewed)),
                None => earlier = Some((*bill.of(*i, &renewed)).clone()),
            }
        }
        if !bettered {
            break;
        }
    }
    (best, renewed)
}

/// The points whose other choice may be the better one, those that deviate most first; of points that are tied the one
/// that deviates most.
///
/// With X what the choice may cost, Y what the other may, and whatever the rest costs: the dearest tenth of the whole
/// is larger by at most the dearest tenth of X − Y, which lies within three standard deviations of its mean (Cantelli).
/// So the other choice betters nothing where it is dearer by `3·λ` standard deviations of X − Y.
fn worth_trying(bill: &BillLattice<'_>, renewed: &[bool], free: &[bool], lambda: f64) -> Vec<usize> {
    let may_better = |i: usize| {
        let (dearer, deviation) = bill.difference(i, !renewed[i]);
        dearer < DEVIATIONS_TO_THE_DEAREST_TENTH * lambda * deviation
    };
    let mut by: Vec<(f64, usize)> = (0..bill.points())
        .filter(|i| free[*i] && !bill.is_small(*i))
        .filter(|i| bill.is_tied(*i) || may_better(*i))
        .map(|i| (bill.deviation(i), i))
        .collect();
    by.sort_by(|x, y| y.0.total_cmp(&x.0).then(x.1.cmp(&y.1)));
    let mut out: Vec<usize> = Vec::new();
    for (_, i) in by {
        if out.len() < TRIED && out.iter().all(|o| bill.first_of(*o) != bill.first_of(i)) {
            out.push(i);
        }
    }
    out
}

fn objective(x: &Distribution, lambda: f64) -> f64 {
    (1.0 - lambda) * x.mean() + lambda * x.cvar90()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::documents::assumptions::Assumptions;
    use crate::formats::base_sheets;
    use crate::formats::documents::{read_candidate, read_family};
    use crate::inference::context::with_context;
    use crate::inference::posterior::Posterior;
    use crate::money::priced_points::PricedPoints;

    fn file(path: &str) -> String {
        std::fs::read_to_string(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR"))).expect("a demo file")
    }

    #[test]
    fn no_single_change_of_a_settled_plan_betters_it() {
        let mut families = base_sheets::sheets().expect("base sheets");
        families.extend(
            ["bk4", "ferryman", "s6"].map(|id| read_family(&file(&format!("families/{id}.json"))).expect("a sheet")),
        );
        let candidate = read_candidate(&file("candidates/2-harbour-office.json")).expect("a candidate");
        with_context(&candidate, &families, &Assumptions::default(), &Budget::default(), |context| {
            let after = Posterior::new(context).after;
            let priced = PricedPoints::new(context, &after);
            let bill = BillLattice::new(context, &after, &priced);
            let free = vec![true; bill.points()];
            // A buyer who hardly minds bad luck, and one who minds it much.
            for lambda in [0.05, 0.25, 0.6] {
                let mut renewed: Vec<bool> = priced.expected.iter().map(|e| e.renewed < e.left).collect();
                let first = renewed.clone();
                let best = settle(&bill, &mut renewed, &free, lambda, &Budget::default());
                let tried = worth_trying(&bill, &first, &free, lambda).len();
                assert!(tried < bill.points() / 2, "{tried} are tried at {lambda}");
                for i in (0..bill.points()).filter(|i| !bill.is_small(*i)) {
                    let mut turned = renewed.clone();
                    turned[i] = !turned[i];
                    let other = bill.mixed(&bill.product(&turned, |_| true));
                    let (kept, other) = (objective(&best, lambda), objective(&other, lambda));
                    assert!(other > kept - 1e-6, "point {i} at {lambda}: {kept} {other}");
                }
            }
            Ok(())
        })
        .expect("judged");
    }
}
