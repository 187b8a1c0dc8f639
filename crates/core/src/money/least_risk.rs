//! The plan at purchase with the least mixture of expected bill and bad luck.
//!
//! With the expected bill alone the limit price would jump where a finding tips a point from running on to renewing:
//! the mean stays, the tail collapses.
//!
//! docs/METHOD.md, section 8.

use crate::base::statistics::cvar90;
use crate::money::simulation::BillSimulation;

/// Points with the largest tails that are tried the other way.
const TRIED: usize = 12;

/// Rounds after which no change is looked for any more.
const ROUNDS: usize = 8;

/// What a plan costs in every future, after every change was tried that may better `(1 − λ)·mean + λ·CVaR90`.
/// `renewed` is the plan with the least mean, and `free` says which of its points may be turned.
pub(crate) fn settle(simulation: &BillSimulation<'_>, renewed: &mut [bool], free: &[bool], lambda: f64) -> Vec<f64> {
    let chosen: Vec<Vec<f64>> = (0..renewed.len()).map(|i| simulation.of_point(i, renewed[i])).collect();
    let mut totals = simulation.of_work();
    for point in &chosen {
        totals.iter_mut().zip(point).for_each(|(t, x)| *t += x);
    }
    if lambda <= 0.0 {
        return totals;
    }
    let mut tails: Vec<(f64, usize)> = (0..renewed.len())
        .filter(|i| free[*i])
        .map(|i| {
            let left = if renewed[i] { simulation.of_point(i, false) } else { chosen[i].clone() };
            (tail(left), i)
        })
        .filter(|(tail, _)| *tail > 0.0)
        .collect();
    tails.sort_by(|x, y| y.0.total_cmp(&x.0).then(x.1.cmp(&y.1)));
    tails.truncate(TRIED);
    // By point: what turning it adds in each future.
    let mut turns: Vec<(usize, Vec<f64>)> = tails
        .into_iter()
        .map(|(_, i)| {
            let other = simulation.of_point(i, !renewed[i]);
            (i, other.iter().zip(&chosen[i]).map(|(o, c)| o - c).collect())
        })
        .collect();
    let mut best = objective(&totals, lambda);
    for _ in 0..ROUNDS {
        let mut bettered = false;
        for (i, turn) in &mut turns {
            let tried: Vec<f64> = totals.iter().zip(turn.iter()).map(|(t, x)| t + x).collect();
            let value = objective(&tried, lambda);
            if value < best - 1e-9 {
                (best, totals, bettered) = (value, tried, true);
                renewed[*i] = !renewed[*i];
                turn.iter_mut().for_each(|x| *x = -*x);
            }
        }
        if !bettered {
            break;
        }
    }
    totals
}

fn mean(x: &[f64]) -> f64 {
    #[allow(clippy::cast_precision_loss)]
    let n = x.len() as f64;
    x.iter().sum::<f64>() / n
}

/// Mean of the dearest tenth; the order of the others does not matter.
fn worst_tenth(mut x: Vec<f64>) -> f64 {
    let from = x.len() - x.len() / 10 - 1;
    x.select_nth_unstable_by(from, f64::total_cmp);
    x[from..].sort_by(f64::total_cmp);
    cvar90(&x)
}

fn tail(x: Vec<f64>) -> f64 {
    let mean = mean(&x);
    worst_tenth(x) - mean
}

fn objective(totals: &[f64], lambda: f64) -> f64 {
    (1.0 - lambda) * mean(totals) + lambda * worst_tenth(totals.to_vec())
}
