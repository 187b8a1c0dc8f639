//! What a fault wears while it lasts: the hazard of another point runs so many times as fast.
//!
//! docs/METHOD.md, section 8.

use crate::documents::care_level::{CareLevel, LEVELS};
use crate::documents::strands::lived_with;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::check_effect::Answer;
use crate::inference::context::Context;
use crate::inference::tied::{Block, Fault, Wearer, branches, state};
use crate::reliability::care;
use crate::reliability::remaining_life::RemainingLife;

/// Least share of the susceptible that is still sound where a hazard is read off.
const SOUND: f64 = 1e-12;

/// Faults of one block: further ones are mixed in.
const WEARERS: usize = 3;

/// A fault and what it wears, by place among the points, and how many times as fast.
#[derive(Debug, Clone, Copy)]
struct Tie {
    wearer: usize,
    worn: usize,
    times: f64,
}

/// Whether some point wears another while it lasts.
pub(crate) fn any(context: &Context<'_>) -> bool {
    context.applicable_points.iter().any(|s| !s.point.wears.is_empty())
}

/// Whether a point wears another or is worn by one: it is then followed cell by cell.
pub(crate) fn concerns(context: &Context<'_>, point: usize) -> bool {
    let all = context.applicable_points;
    let own = &all[point];
    let worn =
        |s: &ApplicablePoint<'_>| s.family.id == own.family.id && s.point.wears.iter().any(|w| w.point == own.point.id);
    !own.point.wears.is_empty() || all.iter().any(worn)
}

/// Scenarios after findings, with what faults wear while they last.
pub(crate) fn found(context: &Context<'_>, before: CareScenarios, answers: &[Answer<'_>]) -> CareScenarios {
    let setting = context.setting;
    let mut out = before.found(answers, setting.assumptions.joint_states, setting.budget);
    quicken(context, &mut out);
    out
}

/// Quickens what faults wear while they last, in each scenario of care, and ties the two.
pub(crate) fn quicken(context: &Context<'_>, scenarios: &mut CareScenarios) {
    let ties = ties(context);
    if ties.is_empty() {
        return;
    }
    let faults: [Vec<Option<Fault>>; 3] =
        std::array::from_fn(|l| faults(context, &ties, &scenarios.remaining[l], LEVELS[l]));
    scenarios.blocks = blocks(&ties, &faults, &scenarios.remaining);
    for (remaining, faults) in scenarios.remaining.iter_mut().zip(&faults) {
        let worn: Vec<(usize, RemainingLife)> = worn(&ties)
            .into_iter()
            .map(|j| {
                let of_it = ties.iter().filter(|t| t.worn == j);
                let by: Vec<(Fault, f64)> = of_it.filter_map(|t| Some((faults[t.wearer]?, t.times))).collect();
                let mixed = |y: f64, hazard: &dyn Fn(f64) -> f64| -> f64 {
                    by.iter().map(|(fault, times)| fault.mixed(y, *times, &hazard)).product()
                };
                (j, quickened(&remaining[j], mixed))
            })
            .collect();
        worn.into_iter().for_each(|(j, z)| remaining[j] = z);
    }
}

fn ties(context: &Context<'_>) -> Vec<Tie> {
    let points = context.applicable_points;
    let place =
        |s: &ApplicablePoint<'_>, id: &str| points.iter().position(|o| o.family.id == s.family.id && o.point.id == id);
    let of = |(wearer, s): (usize, &ApplicablePoint<'_>)| -> Vec<Tie> {
        let each = s.point.wears.iter();
        each.filter_map(|w| Some(Tie { wearer, worn: place(s, &w.point)?, times: w.times })).collect()
    };
    points.iter().enumerate().flat_map(of).collect()
}

/// The points that are worn, each once.
fn worn(ties: &[Tie]) -> Vec<usize> {
    let mut out: Vec<usize> = ties.iter().map(|t| t.worn).collect();
    out.sort_unstable();
    out.dedup();
    out
}

/// The faults that wear something, as the points stand.
fn faults(context: &Context<'_>, ties: &[Tie], remaining: &[RemainingLife], level: CareLevel) -> Vec<Option<Fault>> {
    let (points, a) = (context.applicable_points, context.setting.assumptions);
    let mut out = vec![None; points.len()];
    for t in ties {
        let s = &points[t.wearer];
        let lasts = lived_with(s.point, s.family.clock, a) * care::patience(level, a);
        out[t.wearer] = Some(Fault::of(&remaining[t.wearer], lasts, a.there_now)).filter(Fault::may_be);
    }
    out
}

/// Points that hang together by ties whose fault is not worn in its turn. A chain is mixed link by link.
fn blocks(ties: &[Tie], faults: &[Vec<Option<Fault>>; 3], remaining: &[Vec<RemainingLife>; 3]) -> Vec<Block> {
    let worn = worn(ties);
    let own = |t: &&Tie| !worn.contains(&t.wearer) && faults.iter().all(|f| f[t.wearer].is_some());
    let mut groups: Vec<Vec<Tie>> = Vec::new();
    for tie in ties.iter().filter(own) {
        let meets = |g: &Vec<Tie>| g.iter().any(|t| t.wearer == tie.wearer || t.worn == tie.worn);
        let (with, rest): (Vec<_>, Vec<_>) = groups.into_iter().partition(meets);
        groups = rest;
        groups.push(with.into_iter().flatten().chain([*tie]).collect());
    }
    groups.iter().filter_map(|group| block(group, ties, faults, remaining)).collect()
}

fn block(
    group: &[Tie],
    ties: &[Tie],
    faults: &[Vec<Option<Fault>>; 3],
    remaining: &[Vec<RemainingLife>; 3],
) -> Option<Block> {
    let mut by: Vec<usize> = group.iter().map(|t| t.wearer).collect();
    by.sort_unstable();
    by.dedup();
    if by.len() > WEARERS {
        return None;
    }
    let wearers: Option<Vec<Wearer>> = by
        .iter()
        .map(|&point| {
            let [poor, ordinary, good] = faults.each_ref().map(|f| f[point]);
            Some(Wearer { point, faults: [poor?, ordinary?, good?] })
        })
        .collect();
    let own = worn(group);
    let life = |l: usize, branch: usize, j: usize| {
        let of_it = || ties.iter().filter(move |t| t.worn == j);
        let factor = |y: f64, hazard: &dyn Fn(f64) -> f64| -> f64 {
            let one = |t: &Tie| {
                let fault = faults[l][t.wearer]?;
                // A fault that is worn itself is no part of the block: it is mixed in.
                Some(match by.iter().position(|w| *w == t.wearer) {
                    Some(k) => fault.quickens(state(branch, k), y, t.times, &hazard),
                    None => fault.mixed(y, t.times, &hazard),
                })
            };
            of_it().filter_map(one).product()
        };
        quickened(&remaining[l][j], factor)
    };
    let lives = std::array::from_fn(|l| {
        (0..branches(by.len())).map(|branch| own.iter().map(|j| life(l, branch, *j)).collect()).collect()
    });
    Some(Block { wearers: wearers?, worn: own.clone(), lives })
}

/// A point whose survival from now on is multiplied by a factor of its own cumulative hazard.
fn quickened(z: &RemainingLife, factor: impl Fn(f64, &dyn Fn(f64) -> f64) -> f64) -> RemainingLife {
    let mut out = z.clone();
    let alive: f64 = z.cells.iter().sum::<f64>() + z.tail;
    if alive <= 0.0 {
        return out;
    }
    let mut left = alive;
    let mut hazard = vec![0.0];
    for m in &z.cells {
        left -= m;
        hazard.push(-(left / alive).max(SOUND).ln());
    }
    let edges = &z.grid.edges;
    let at = |y: f64| along(edges, &hazard, y);
    let sounds: Vec<f64> = (0..edges.len()).map(|k| alive * (-hazard[k]).exp() * factor(edges[k], &at)).collect();
    out.cells.iter_mut().zip(sounds.windows(2)).for_each(|(m, w)| *m = (w[0] - w[1]).max(0.0));
    out.tail = (alive - out.cells.iter().sum::<f64>()).max(0.0);
    out
}

/// A value between those at edges, by the line between them.
fn along(edges: &[f64], values: &[f64], y: f64) -> f64 {
    let k = edges.partition_point(|e| *e <= y).clamp(1, edges.len() - 1);
    let (from, to) = (edges[k - 1], edges[k]);
    let share = if to > from { ((y - from) / (to - from)).clamp(0.0, 1.0) } else { 1.0 };
    values[k - 1] + share * (values[k] - values[k - 1])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::reliability::plan_grid::FutureGrid;

    /// A point with a constant hazard of `rate` over the plan of 40 000.
    fn steady(rate: f64) -> RemainingLife {
        let mut z = RemainingLife::empty(FutureGrid::full(40_000.0, &[]));
        z.immune = 0.0;
        z.cells = z.grid.edges.windows(2).map(|w| (-rate * w[0]).exp() - (-rate * w[1]).exp()).collect();
        z.tail = 1.0 - z.cells.iter().sum::<f64>();
        z
    }

    fn worn_by(fault: Fault, times: f64) -> RemainingLife {
        quickened(&steady(1e-5), |y, hazard| fault.mixed(y, times, &hazard))
    }

    #[test]
    fn a_hazard_counts_so_many_times_while_the_fault_lasts_and_no_longer() {
        // There for sure and left, for 10 000 of the 40 000: survival is exp(−r·(40 000 + 2·10 000)).
        let none = Fault::of(&steady(1e-9), 0.0, 0.5);
        let fault = Fault { now: 1.0, later: 0.0, begins: 0.0, lasts: 10_000.0, ..none };
        let z = worn_by(fault, 3.0);
        assert!((z.by_horizon() - (1.0 - (-0.6f64).exp())).abs() < 1e-9, "{}", z.by_horizon());
        // Half the time, from 30 000 on for longer than the plan.
        let fault = Fault { now: 0.0, later: 0.5, begins: 30_000.0, lasts: 50_000.0, ..none };
        let z = worn_by(fault, 3.0);
        let wanted = 1.0 - 0.5 * (-0.4f64).exp() - 0.5 * (-0.6f64).exp();
        assert!((z.by_horizon() - wanted).abs() < 1e-9, "{} {wanted}", z.by_horizon());
        let all = z.present + z.cells.iter().sum::<f64>() + z.tail + z.immune;
        assert!((all - 1.0).abs() < 1e-12);
        // Once is as it was; what is put right wears nothing.
        let z = worn_by(fault, 1.0);
        assert!((z.by_horizon() - steady(1e-5).by_horizon()).abs() < 1e-12);
        let mut there = steady(1e-5);
        (there.present, there.immune) = (0.6, 0.0);
        assert_eq!(Fault::of(&there, 1000.0, 0.5).now.to_bits(), 0.0f64.to_bits());
    }

    #[test]
    fn branches_mixed_by_their_chances_are_the_whole() {
        let mut leak = steady(2e-5);
        (leak.present, leak.immune) = (0.2, 0.1);
        let share = 0.7;
        leak.cells.iter_mut().for_each(|m| *m *= share);
        leak.tail *= share;
        let lives = vec![leak, steady(1e-5), steady(3e-5)];
        let ties = [Tie { wearer: 0, worn: 1, times: 4.0 }, Tie { wearer: 0, worn: 2, times: 2.0 }];
        let fault = Fault::of(&lives[0], 20_000.0, 0.5);
        let faults: [Vec<Option<Fault>>; 3] = std::array::from_fn(|_| vec![Some(fault), None, None]);
        let remaining: [Vec<RemainingLife>; 3] = std::array::from_fn(|_| lives.clone());
        let blocks = blocks(&ties, &faults, &remaining);
        assert_eq!((blocks.len(), blocks[0].worn.clone(), blocks[0].branches()), (1, vec![1, 2], 3));
        let block = &blocks[0];
        let chances: f64 = (0..3).map(|b| block.chance(0, b)).sum();
        assert!((chances - 1.0).abs() < 1e-12);
        for (k, times) in [(0, 4.0), (1, 2.0)] {
            let whole = quickened(&lives[k + 1], |y, hazard| fault.mixed(y, times, &hazard));
            for (cell, m) in whole.cells.iter().enumerate() {
                let mixed: f64 = (0..3).map(|b| block.chance(0, b) * block.lives[0][b][k].cells[cell]).sum();
                assert!((mixed - m).abs() < 1e-12, "{mixed} {m}");
            }
        }
        // The fault itself, state by state, is what it was.
        for (cell, m) in lives[0].cells.iter().enumerate() {
            let mixed: f64 = (0..3).map(|b| block.chance(0, b) * fault.life(&lives[0], b).cells[cell]).sum();
            assert!((mixed - m).abs() < 1e-12, "{mixed} {m}");
        }
        let present: f64 = (0..3).map(|b| block.chance(0, b) * fault.life(&lives[0], b).present).sum();
        assert!((present - 0.2).abs() < 1e-12, "{present}");
        // As often as its chance says, luck comes to each branch.
        let drawn = (0..1000).filter(|n| block.branch(0, |_| (f64::from(*n) + 0.5) / 1000.0) == 0).count();
        assert_eq!(drawn, 200);
    }
}
