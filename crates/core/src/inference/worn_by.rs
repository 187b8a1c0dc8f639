//! What a fault wears while it lasts: the hazard of another point runs so many times as fast.
//!
//! docs/METHOD.md, section 8.

use std::borrow::Cow;

use crate::documents::care_level::{CareLevel, LEVELS};
use crate::documents::strands::lived_with;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::check_effect::Answer;
use crate::inference::context::Context;
use crate::reliability::care;
use crate::reliability::remaining_life::RemainingLife;

/// Least share of the susceptible that is still sound where a hazard is read off.
const SOUND: f64 = 1e-12;

/// A fault as what it wears sees it: when it is there, and for how long.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Fault {
    /// Chance that it is there now, and left.
    now: f64,
    /// Chance that it comes within the plan.
    later: f64,
    /// Usage from now at which it begins in the middle of the latter.
    begins: f64,
    /// Usage for which it is lived with.
    lasts: f64,
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

/// Quickens what faults wear while they last, in each scenario of care.
pub(crate) fn quicken(context: &Context<'_>, scenarios: &mut CareScenarios) {
    if any(context) {
        for (remaining, level) in scenarios.remaining.iter_mut().zip(LEVELS) {
            quicken_level(context, remaining, level);
        }
    }
}

/// The same where the levels stand together, point by point.
pub(crate) fn quickened<'p>(context: &Context<'_>, points: &'p [[RemainingLife; 3]]) -> Cow<'p, [[RemainingLife; 3]]> {
    if !any(context) {
        return Cow::Borrowed(points);
    }
    let mut out = points.to_vec();
    for (l, level) in LEVELS.into_iter().enumerate() {
        let mut one: Vec<RemainingLife> = points.iter().map(|p| p[l].clone()).collect();
        quicken_level(context, &mut one, level);
        out.iter_mut().zip(one).for_each(|(p, z)| p[l] = z);
    }
    Cow::Owned(out)
}

fn quicken_level(context: &Context<'_>, remaining: &mut [RemainingLife], level: CareLevel) {
    let (points, a) = (context.applicable_points, context.setting.assumptions);
    let mut worn: Vec<(usize, Fault, f64)> = Vec::new();
    for (i, s) in points.iter().enumerate() {
        let lasts = lived_with(s.point, s.family.clock, a) * care::patience(level, a);
        for w in &s.point.wears {
            if let Some(j) = points.iter().position(|o| o.family.id == s.family.id && o.point.id == w.point) {
                worn.push((j, Fault::of(&remaining[i], lasts, a.there_now), w.times));
            }
        }
    }
    for (j, fault, times) in worn {
        fault.wear(&mut remaining[j], times);
    }
}

impl Fault {
    /// A fault that is rather there than not is put right at purchase, and wears nothing from then on.
    fn of(z: &RemainingLife, lasts: f64, there_now: f64) -> Self {
        let now = if z.present >= there_now { 0.0 } else { z.present };
        let later = (z.by_horizon() - z.present).max(0.0);
        let mut sum = 0.0;
        let middle = z.cells.iter().position(|m| {
            sum += m;
            sum >= later / 2.0
        });
        let begins = middle.map_or(0.0, |i| f64::midpoint(z.grid.edges[i], z.grid.edges[i + 1]));
        Self { now, later, begins, lasts }
    }

    /// Wears another point: its cumulative hazard counts so many times while the fault lasts.
    fn wear(&self, z: &mut RemainingLife, times: f64) {
        let alive: f64 = z.cells.iter().sum::<f64>() + z.tail;
        if alive <= 0.0 || self.now + self.later <= 0.0 {
            return;
        }
        let mut left = alive;
        let mut hazard = vec![0.0];
        for m in &z.cells {
            left -= m;
            hazard.push(-(left / alive).max(SOUND).ln());
        }
        let edges = z.grid.edges.clone();
        let at = |y: f64| along(&edges, &hazard, y);
        let quickened = |from: f64, y: f64| {
            let until = y.min(from + self.lasts);
            if until > from { (-(times - 1.0) * (at(until) - at(from))).exp() } else { 1.0 }
        };
        let sound = |k: usize| {
            let y = edges[k];
            let spared = 1.0 - self.now - self.later;
            let share = spared + self.now * quickened(0.0, y) + self.later * quickened(self.begins, y);
            alive * (-hazard[k]).exp() * share
        };
        let sounds: Vec<f64> = (0..edges.len()).map(sound).collect();
        z.cells.iter_mut().zip(sounds.windows(2)).for_each(|(m, w)| *m = (w[0] - w[1]).max(0.0));
        z.tail = (alive - z.cells.iter().sum::<f64>()).max(0.0);
    }
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

    #[test]
    fn a_hazard_counts_so_many_times_while_the_fault_lasts_and_no_longer() {
        // There for sure and left, for 10 000 of the 40 000: survival is exp(−r·(40 000 + 2·10 000)).
        let fault = Fault { now: 1.0, later: 0.0, begins: 0.0, lasts: 10_000.0 };
        let mut z = steady(1e-5);
        fault.wear(&mut z, 3.0);
        assert!((z.by_horizon() - (1.0 - (-0.6f64).exp())).abs() < 1e-9, "{}", z.by_horizon());
        // Half the time, from 30 000 on for longer than the plan.
        let fault = Fault { now: 0.0, later: 0.5, begins: 30_000.0, lasts: 50_000.0 };
        let mut z = steady(1e-5);
        fault.wear(&mut z, 3.0);
        let wanted = 1.0 - 0.5 * (-0.4f64).exp() - 0.5 * (-0.6f64).exp();
        assert!((z.by_horizon() - wanted).abs() < 1e-9, "{} {wanted}", z.by_horizon());
        let all = z.present + z.cells.iter().sum::<f64>() + z.tail + z.immune;
        assert!((all - 1.0).abs() < 1e-12);
        // Once is as it was; what is put right wears nothing.
        let mut z = steady(1e-5);
        fault.wear(&mut z, 1.0);
        assert!((z.by_horizon() - steady(1e-5).by_horizon()).abs() < 1e-12);
        let mut there = steady(1e-5);
        (there.present, there.immune) = (0.6, 0.0);
        assert_eq!(Fault::of(&there, 1000.0, 0.5).now.to_bits(), 0.0f64.to_bits());
    }
}
