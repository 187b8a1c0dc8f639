//! The plan at purchase with the least mixture of expected bill and bad luck.
//!
//! With the expected bill alone the limit price would jump where a finding tips a point from running on to renewing:
//! the mean stays, the tail collapses.
//!
//! docs/METHOD.md, section 8.

use crate::money::bill_lattice::BillLattice;
use crate::money::distribution::Distribution;

/// Points with the largest tails that are tried the other way.
const TRIED: usize = 12;

/// Rounds after which no change is looked for any more.
const ROUNDS: usize = 8;

/// What a plan may cost, after every change was tried that may better `(1 − λ)·mean + λ·CVaR90`. `renewed` is the plan
/// with the least mean, and `free` says which of its points may be turned.
pub(crate) fn settle(bill: &BillLattice, renewed: &mut [bool], free: &[bool], lambda: f64) -> Distribution {
    if lambda <= 0.0 {
        return bill.mixed(&bill.product(renewed, |_| true));
    }
    let mut tails: Vec<(f64, usize)> = (0..bill.points())
        .filter(|i| free[*i])
        .map(|i| (tail(&bill.of_point(i)), i))
        .filter(|(tail, _)| *tail > 0.0)
        .collect();
    tails.sort_by(|x, y| y.0.total_cmp(&x.0).then(x.1.cmp(&y.1)));
    tails.truncate(TRIED);
    let tried: Vec<usize> = tails.into_iter().map(|t| t.1).collect();
    let others = bill.product(renewed, |i| !tried.contains(&i));
    let under = |renewed: &[bool]| {
        let mut product = others.clone();
        tried.iter().for_each(|i| bill.times_point(&mut product, *i, renewed[*i]));
        bill.mixed(&product)
    };
    let mut best = under(renewed);
    for _ in 0..ROUNDS {
        let mut bettered = false;
        for i in &tried {
            renewed[*i] = !renewed[*i];
            let turned = under(renewed);
            if objective(&turned, lambda) < objective(&best, lambda) - 1e-9 {
                (best, bettered) = (turned, true);
            } else {
                renewed[*i] = !renewed[*i];
            }
        }
        if !bettered {
            break;
        }
    }
    best
}

fn tail(x: &Distribution) -> f64 {
    x.cvar90() - x.mean()
}

fn objective(x: &Distribution, lambda: f64) -> f64 {
    (1.0 - lambda) * x.mean() + lambda * x.cvar90()
}
