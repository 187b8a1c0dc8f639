//! Faults and what they wear, tied: whether a fault is there decides how long another point lasts, so that the two are
//! not independent even within one scenario of care.
//!
//! docs/METHOD.md, sections 8 and 10.

use crate::reliability::remaining_life::RemainingLife;

/// What may be of a fault: there now, coming within the plan, or neither.
pub(crate) const STATES: usize = 3;

/// A fault as what it wears sees it: when it is there, and for how long.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Fault {
    /// Chance that it is there now.
    pub present: f64,
    /// Whether it is left there, and wears on.
    pub left: bool,
    /// Chance that it comes within the plan.
    pub later: f64,
    /// Usage from now at which it begins in the middle of the latter.
    pub begins: f64,
    /// Usage for which it is lived with.
    pub lasts: f64,
}

/// A fault that wears others.
#[derive(Debug, Clone)]
pub struct Wearer {
    /// Which point.
    pub point: usize,
    /// By level of care.
    pub faults: [Fault; 3],
}

/// Faults and the points that they wear. A branch is a state of each fault.
#[derive(Debug, Clone)]
pub struct Block {
    /// The faults, none of them worn in its turn.
    pub wearers: Vec<Wearer>,
    /// The points that they wear.
    pub worn: Vec<usize>,
    /// By level of care and branch: its chance.
    pub chances: [Vec<f64>; 3],
    /// By level of care, branch and worn point: how long it lasts then.
    pub lives: [Vec<Vec<RemainingLife>>; 3],
}

impl Block {
    /// Its points, the faults first.
    pub fn points(&self) -> impl Iterator<Item = usize> {
        self.wearers.iter().map(|w| w.point).chain(self.worn.iter().copied())
    }

    /// Ways in which the faults may stand together.
    #[must_use]
    pub fn branches(&self) -> usize {
        branches(self.wearers.len())
    }

    /// The branch that the luck of each fault comes to.
    pub(crate) fn branch(&self, level: usize, luck: impl Fn(usize) -> f64) -> usize {
        let each = self.wearers.iter().enumerate();
        each.map(|(k, w)| w.faults[level].state_at(luck(w.point)) * STATES.pow(u32::try_from(k).unwrap_or(0))).sum()
    }
}

/// Ways in which so many faults may stand together.
pub(crate) fn branches(faults: usize) -> usize {
    STATES.pow(u32::try_from(faults).unwrap_or(0))
}

/// The state of one of the faults in a branch.
pub(crate) fn state(branch: usize, fault: usize) -> usize {
    branch / branches(fault) % STATES
}

impl Fault {
    /// A fault that is rather there than not is put right at purchase, and wears nothing from then on.
    #[must_use]
    pub fn of(z: &RemainingLife, lasts: f64, there_now: f64) -> Self {
        let later = (z.by_horizon() - z.present).max(0.0);
        let mut sum = 0.0;
        let middle = z.cells.iter().position(|m| {
            sum += m;
            sum >= later / 2.0
        });
        let begins = middle.map_or(0.0, |i| f64::midpoint(z.grid.edges[i], z.grid.edges[i + 1]));
        Self { present: z.present, left: z.present < there_now, later, begins, lasts }
    }

    /// Chance of a state.
    fn chance(&self, state: usize) -> f64 {
        [self.present, self.later, (1.0 - self.present - self.later).max(0.0)][state]
    }

    /// Chance of a state in which it is not there now, given that it is not.
    pub(crate) fn not_there(&self, state: usize) -> f64 {
        let rest = 1.0 - self.present;
        if rest > 0.0 { self.chance(state) / rest } else { 0.0 }
    }

    /// The state that a luck from 0 to 1 comes to, as the point itself is drawn: there now first, then what comes.
    fn state_at(&self, luck: f64) -> usize {
        if luck < self.present {
            0
        } else if luck < self.present + self.later {
            1
        } else {
            2
        }
    }

    /// Its own life in a state.
    #[must_use]
    pub fn life(&self, z: &RemainingLife, state: usize) -> RemainingLife {
        let mut out = z.clone();
        out.present = if state == 0 { z.present } else { 0.0 };
        for (cell, m) in out.cells.iter_mut().enumerate() {
            if state == 0 || z.grid.in_plan(cell) != (state == 1) {
                *m = 0.0;
            }
        }
        if state != 2 {
            (out.tail, out.immune) = (0.0, 0.0);
        }
        let sum = out.present + out.cells.iter().sum::<f64>() + out.tail + out.immune;
        if sum <= 0.0 {
            return z.clone();
        }
        out.present /= sum;
        out.tail /= sum;
        out.immune /= sum;
        out.cells.iter_mut().for_each(|m| *m /= sum);
        out
    }

    /// What is left of another point's survival to `y`, whose hazard counts so many times while the fault lasts, in a
    /// state of it; `hazard` gives the cumulative hazard.
    pub(crate) fn quickens(&self, state: usize, y: f64, times: f64, hazard: &impl Fn(f64) -> f64) -> f64 {
        let now = if self.left { 0.0 } else { f64::INFINITY };
        let from = [now, self.begins, f64::INFINITY][state];
        let until = y.min(from + self.lasts);
        if until > from { (-(times - 1.0) * (hazard(until) - hazard(from))).exp() } else { 1.0 }
    }

    /// The same, its states mixed.
    pub(crate) fn mixed(&self, y: f64, times: f64, hazard: &impl Fn(f64) -> f64) -> f64 {
        (0..STATES).map(|s| self.chance(s) * self.quickens(s, y, times, hazard)).sum()
    }
}
