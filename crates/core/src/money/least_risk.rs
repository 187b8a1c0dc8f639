//! The plan at purchase with the least mixture of expected bill and bad luck.
//!
//! With the expected bill alone the limit price would jump where a finding tips a point from running on to renewing:
//! the mean stays, the tail collapses.
//!
//! docs/METHOD.md, section 8.

use crate::base::budget::Budget;
use crate::money::bill_lattice::{BillLattice, Sum};
use crate::money::distribution::Distribution;

/// Points with the largest tails that are tried the other way.
const TRIED: usize = 12;

/// Rounds after which no change is looked for any more.
const ROUNDS: usize = 8;

/// Points of which the tails are worked out, those that deviate most: none of the others has one of the largest.
const LOOKED_AT: usize = 3 * TRIED;

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
    let tried = largest_tails(bill, free);
    let others = bill.product(&renewed, |i| !tried.iter().any(|t| bill.first_of(*t) == bill.first_of(i)));
    let with = |renewed: &[bool], i: usize| {
        let mut turned = renewed.to_vec();
        turned[i] = !turned[i];
        bill.of(i, &turned)
    };
    let mut best = bill.mixed(&bill.product(&renewed, |_| true));
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

/// The points with the largest tails, the largest first.
fn largest_tails(bill: &BillLattice<'_>, free: &[bool]) -> Vec<usize> {
    let largest = |mut by: Vec<(f64, usize)>, count: usize| -> Vec<usize> {
        by.retain(|(x, _)| *x > 0.0);
        by.sort_by(|x, y| y.0.total_cmp(&x.0).then(x.1.cmp(&y.1)));
        by.truncate(count);
        by.into_iter().map(|x| x.1).collect()
    };
    let deviating =
        (0..bill.points()).filter(|i| free[*i] && !bill.is_small(*i)).map(|i| (bill.deviation(i), i)).collect();
    let tails =
        largest(deviating, LOOKED_AT).into_iter().map(|i| (tail(&bill.mixed(bill.alone(i, false))), i)).collect();
    // Of points that are tied the one with the largest tail is tried.
    let mut out: Vec<usize> = Vec::new();
    for i in largest(tails, LOOKED_AT) {
        if out.len() < TRIED && out.iter().all(|o| bill.first_of(*o) != bill.first_of(i)) {
            out.push(i);
        }
    }
    out
}

fn tail(x: &Distribution) -> f64 {
    x.cvar90() - x.mean()
}

fn objective(x: &Distribution, lambda: f64) -> f64 {
    (1.0 - lambda) * x.mean() + lambda * x.cvar90()
}
