//! What a fault wears while it lasts: the hazard of another point runs so many times as fast.
//!
//! docs/METHOD.md, section 8.

use crate::documents::care_level::{CareLevel, LEVELS};
use crate::documents::strands::lived_with;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::check_effect::Answer;
use crate::inference::context::Context;
use crate::inference::findings::{Weighed, weigh};
use crate::inference::setting::Setting;
use crate::inference::tied::{Block, Fault, Wearer, branches, state};
use crate::inference::worn_before::{Group, Presence, Touched, mixture, shrunk};
use crate::reliability::care;
use crate::reliability::remaining_life::RemainingLife;

/// Least share of the susceptible that is still sound where a hazard is read off.
const SOUND: f64 = 1e-12;

/// Faults of one group that are told apart; those of larger groups are mixed.
const WEARERS: usize = 3;

/// A fault and what it wears, by place among the points, and how many times as fast.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Tie {
    pub wearer: usize,
    pub worn: usize,
    pub times: f64,
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

/// Points that are looked at together, and the faults among them that wear others; all by place among these points.
pub(crate) struct Together<'t, 'a> {
    pub setting: &'t Setting<'a>,
    pub points: Vec<&'t ApplicablePoint<'t>>,
    pub ties: &'t [Tie],
}

impl Together<'_, '_> {
    /// Usage for which owners of a level of care live with one of the faults.
    pub fn lived_with(&self, point: usize, level: CareLevel) -> f64 {
        let (s, a) = (self.points[point], self.setting.assumptions);
        lived_with(s.point, s.family.clock, a) * care::patience(level, a)
    }
}

/// What faults that are there may have worn until today, before findings are weighed.
pub(crate) struct UntilToday {
    groups: Vec<Group>,
    there: [Vec<Presence>; 3],
}

impl UntilToday {
    /// Mixes it into the points, by level of care.
    pub fn of(together: &Together<'_, '_>, remaining: &mut [Vec<RemainingLife>; 3]) -> Self {
        let groups = groups(together.ties);
        let there = until_today(together, &groups, remaining);
        Self { groups, there }
    }

    /// Weighs findings on these points, and quickens what faults wear from now on: how likely the findings are under
    /// each level, and what is tied.
    pub fn found(
        mut self,
        together: &Together<'_, '_>,
        remaining: &mut [Vec<RemainingLife>; 3],
        answers: &[Answer<'_>],
    ) -> ([Weighed; 3], Vec<Block>) {
        let setting = together.setting;
        let room = (setting.assumptions.joint_states, setting.budget);
        if together.ties.is_empty() {
            return (std::array::from_fn(|l| weigh(&mut remaining[l], answers, LEVELS[l], room.0, room.1)), Vec::new());
        }
        let touched = Touched::new(&self.groups, answers);
        let weighed = std::array::from_fn(|l| {
            touched.weigh(&self.groups, &mut self.there[l], &mut remaining[l], LEVELS[l], room)
        });
        (weighed, from_now_on(together, &self.groups, &self.there, remaining))
    }
}

/// Every fault and what it wears, by place among all points.
pub(crate) fn ties(context: &Context<'_>) -> Vec<Tie> {
    let points = context.applicable_points;
    let place =
        |s: &ApplicablePoint<'_>, id: &str| points.iter().position(|o| o.family.id == s.family.id && o.point.id == id);
    let of = |(wearer, s): (usize, &ApplicablePoint<'_>)| -> Vec<Tie> {
        let each = s.point.wears.iter();
        each.filter_map(|w| Some(Tie { wearer, worn: place(s, &w.point)?, times: w.times })).collect()
    };
    points.iter().enumerate().flat_map(of).collect()
}

/// What ties hang together, where their faults are not worn in their turn and are few enough to be told apart. A chain
/// is mixed link by link.
fn groups(ties: &[Tie]) -> Vec<Group> {
    let own = |t: &&Tie| ties.iter().all(|o| o.worn != t.wearer);
    let mut groups: Vec<Vec<Tie>> = Vec::new();
    for tie in ties.iter().filter(own) {
        let meets = |g: &Vec<Tie>| g.iter().any(|t| t.wearer == tie.wearer || t.worn == tie.worn);
        let (with, rest): (Vec<_>, Vec<_>) = groups.into_iter().partition(meets);
        groups = rest;
        groups.push(with.into_iter().flatten().chain([*tie]).collect());
    }
    let each_once = |of: &dyn Fn(&Tie) -> usize, ties: &[Tie]| {
        let mut out: Vec<usize> = ties.iter().map(of).collect();
        out.sort_unstable();
        out.dedup();
        out
    };
    let group =
        |ties: Vec<Tie>| Group { wearers: each_once(&|t| t.wearer, &ties), worn: each_once(&|t| t.worn, &ties) };
    groups.into_iter().map(group).filter(|g| g.wearers.len() <= WEARERS).collect()
}

/// Whether a tie's fault is told apart.
fn told_apart(groups: &[Group], tie: &Tie) -> bool {
    groups.iter().any(|g| g.wearers.contains(&tie.wearer))
}

/// What faults that are there have worn until today: by level of care and group, each set of faults with the points
/// then; the scenarios hold the mixture.
fn until_today(
    together: &Together<'_, '_>,
    groups: &[Group],
    remaining: &mut [Vec<RemainingLife>; 3],
) -> [Vec<Presence>; 3] {
    let ties = together.ties;
    std::array::from_fn(|l| {
        let remaining = &mut remaining[l];
        for tie in ties.iter().filter(|t| !told_apart(groups, t)) {
            let present = remaining[tie.wearer].present;
            let keeps = 1.0 - present + present * keeps(together, tie, &remaining[tie.worn], LEVELS[l]);
            remaining[tie.worn] = shrunk(&remaining[tie.worn], keeps);
        }
        let presence = |g: &Group| {
            let left = |k: usize, n: usize| {
                let between = ties.iter().filter(|t| t.wearer == g.wearers[k] && t.worn == g.worn[n]);
                between.map(|t| keeps(together, t, &remaining[t.worn], LEVELS[l])).product()
            };
            Presence::of(g, remaining, left)
        };
        let there: Vec<Presence> = groups.iter().map(presence).collect();
        there.iter().zip(groups).for_each(|(p, g)| p.mix_into(g, remaining));
        there
    })
}

/// Of what is sound, the share that a fault which is there has left so. It has been there for half the usage for which
/// it is lived with, in the middle; what it wore out before the other was mended is mended.
fn keeps(together: &Together<'_, '_>, tie: &Tie, worn: &RemainingLife, level: CareLevel) -> f64 {
    let lived = |i: usize| together.lived_with(i, level);
    let run = (lived(tie.wearer) / 2.0).min(lived(tie.worn)).min(together.setting.path.usage_now());
    let alive = worn.cells.iter().sum::<f64>() + worn.tail;
    let (Some(first), true) = (worn.cells.first(), alive > 0.0) else { return 1.0 };
    // As fast as just from now on.
    let rate = -(1.0 - first / alive).max(SOUND).ln() / worn.grid.edges[1];
    (-(tie.times - 1.0) * rate * run).exp()
}

/// Quickens what faults wear from now on, in each scenario of care, and ties the two.
fn from_now_on(
    together: &Together<'_, '_>,
    groups: &[Group],
    there: &[Vec<Presence>; 3],
    scenarios: &mut [Vec<RemainingLife>; 3],
) -> Vec<Block> {
    let ties = together.ties;
    let faults: [Vec<Option<Fault>>; 3] = std::array::from_fn(|l| faults(together, &scenarios[l], LEVELS[l]));
    for (l, remaining) in scenarios.iter_mut().enumerate() {
        let mut apart: Vec<usize> = ties.iter().filter(|t| !told_apart(groups, t)).map(|t| t.worn).collect();
        apart.sort_unstable();
        apart.dedup();
        let tied = |j: &usize| groups.iter().any(|g| g.worn.contains(j));
        let quicker = |j: usize| {
            let by = |y: f64, hazard: &dyn Fn(f64) -> f64| mixed(ties, groups, &faults[l], j, y, &hazard);
            (j, quickened(&remaining[j], by))
        };
        let quicker: Vec<(usize, RemainingLife)> = apart.into_iter().filter(|j| !tied(j)).map(quicker).collect();
        quicker.into_iter().for_each(|(j, z)| remaining[j] = z);
    }
    let blocks: Vec<Block> =
        groups.iter().enumerate().map(|(n, g)| block(g, ties, groups, &faults, |l| &there[l][n])).collect();
    for block in &blocks {
        for (l, remaining) in scenarios.iter_mut().enumerate() {
            for (n, j) in block.worn.iter().enumerate() {
                let branches = block.chances[l].iter().zip(&block.lives[l]);
                remaining[*j] = mixture(&remaining[*j], branches.map(|(chance, lives)| (*chance, &lives[n])));
            }
        }
    }
    blocks
}

/// The faults that wear something, as the points stand.
fn faults(together: &Together<'_, '_>, remaining: &[RemainingLife], level: CareLevel) -> Vec<Option<Fault>> {
    let mut out = vec![None; together.points.len()];
    for t in together.ties {
        let (lasts, there_now) = (together.lived_with(t.wearer, level), together.setting.assumptions.there_now);
        out[t.wearer] = Some(Fault::of(&remaining[t.wearer], lasts, there_now));
    }
    out
}

/// What faults that are not told apart leave of a point's survival to `y`.
fn mixed(
    ties: &[Tie],
    groups: &[Group],
    faults: &[Option<Fault>],
    worn: usize,
    y: f64,
    hazard: &impl Fn(f64) -> f64,
) -> f64 {
    let of_it = ties.iter().filter(|t| t.worn == worn && !told_apart(groups, t));
    of_it.filter_map(|t| Some(faults[t.wearer]?.mixed(y, t.times, hazard))).product()
}

/// A group in every state of its faults.
fn block<'p>(
    group: &Group,
    ties: &[Tie],
    groups: &[Group],
    faults: &[Vec<Option<Fault>>; 3],
    there: impl Fn(usize) -> &'p Presence,
) -> Block {
    let wearers: Vec<Wearer> = group
        .wearers
        .iter()
        .map(|&point| Wearer { point, faults: faults.each_ref().map(|f| f[point].unwrap_or_default()) })
        .collect();
    let set = |branch: usize| -> usize { (0..wearers.len()).map(|k| usize::from(state(branch, k) == 0) << k).sum() };
    let branches = 0..branches(wearers.len());
    let chance = |l: usize, branch: usize| {
        let not_there = wearers.iter().enumerate().filter(|(k, _)| state(branch, *k) != 0);
        let later: f64 = not_there.map(|(k, w)| w.faults[l].not_there(state(branch, k))).product();
        there(l).sets[set(branch)].0 * later
    };
    let life = |l: usize, branch: usize, n: usize| {
        let j = group.worn[n];
        let by = |y: f64, hazard: &dyn Fn(f64) -> f64| -> f64 {
            let between = |k: usize| ties.iter().filter(move |t| t.worn == j && t.wearer == group.wearers[k]);
            let own = wearers.iter().enumerate().flat_map(|(k, w)| {
                between(k).map(move |t| w.faults[l].quickens(state(branch, k), y, t.times, &hazard))
            });
            own.product::<f64>() * mixed(ties, groups, &faults[l], j, y, &hazard)
        };
        quickened(&there(l).sets[set(branch)].1[n], by)
    };
    let lives = |l: usize| branches.clone().map(|b| (0..group.worn.len()).map(|n| life(l, b, n)).collect()).collect();
    let chances = std::array::from_fn(|l| branches.clone().map(|b| chance(l, b)).collect());
    Block { chances, lives: std::array::from_fn(lives), worn: group.worn.clone(), wearers }
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
        let fault = Fault { present: 1.0, later: 0.0, begins: 0.0, lasts: 10_000.0, ..none };
        let z = worn_by(fault, 3.0);
        assert!((z.by_horizon() - (1.0 - (-0.6f64).exp())).abs() < 1e-9, "{}", z.by_horizon());
        // Half the time, from 30 000 on for longer than the plan.
        let fault = Fault { present: 0.0, later: 0.5, begins: 30_000.0, lasts: 50_000.0, ..none };
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
        assert!(!Fault::of(&there, 1000.0, 0.5).left);
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
        let groups = groups(&ties);
        assert_eq!((groups.len(), groups[0].worn.clone()), (1, vec![1, 2]));
        let there = Presence::of(&groups[0], &lives, |_, _| 1.0);
        let block = block(&groups[0], &ties, &groups, &faults, |_| &there);
        assert_eq!(block.branches(), 3);
        let chances: f64 = (0..3).map(|b| block.chances[0][b]).sum();
        assert!((chances - 1.0).abs() < 1e-12);
        for (k, times) in [(0, 4.0), (1, 2.0)] {
            let whole = quickened(&lives[k + 1], |y, hazard| fault.mixed(y, times, &hazard));
            for (cell, m) in whole.cells.iter().enumerate() {
                let mixed: f64 = (0..3).map(|b| block.chances[0][b] * block.lives[0][b][k].cells[cell]).sum();
                assert!((mixed - m).abs() < 1e-12, "{mixed} {m}");
            }
        }
        // The fault itself, state by state, is what it was.
        for (cell, m) in lives[0].cells.iter().enumerate() {
            let mixed: f64 = (0..3).map(|b| block.chances[0][b] * fault.life(&lives[0], b).cells[cell]).sum();
            assert!((mixed - m).abs() < 1e-12, "{mixed} {m}");
        }
        let present: f64 = (0..3).map(|b| block.chances[0][b] * fault.life(&lives[0], b).present).sum();
        assert!((present - 0.2).abs() < 1e-12, "{present}");
        // As often as its chance says, luck comes to each branch.
        let drawn = (0..1000).filter(|n| block.branch(0, |_| (f64::from(*n) + 0.5) / 1000.0) == 0).count();
        assert_eq!(drawn, 200);
    }
}
