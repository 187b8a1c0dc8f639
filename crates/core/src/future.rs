//! Method §3 and §6: how much longer it will last, from where it stands now.

use crate::claims::Life;
use crate::lattice::{Part, dot};
use crate::standing::{Alive, PAST_CELLS, PastPath, Standing};

/// Cells over the plan's horizon.
pub const PLAN_CELLS: usize = 120;

/// Cells beyond the plan, for drawing what comes later.
pub const BEYOND_CELLS: usize = 12;

/// How far beyond the plan the grid reaches, as a share of the horizon.
pub const BEYOND: f64 = 0.3;

/// Edges of remaining usage, measured along the plan.
#[derive(Debug, Clone, PartialEq)]
pub struct FutureGrid {
    horizon: f64,
    edges: Vec<f64>,
}

impl FutureGrid {
    /// The full grid: [`PLAN_CELLS`] over the horizon, some beyond it, and an edge at every lead.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn full(horizon: f64, leads: &[f64]) -> Self {
        let plan = (0..=PLAN_CELLS).map(|i| horizon * (i as f64 / PLAN_CELLS as f64));
        let beyond = (1..=BEYOND_CELLS).map(|i| horizon * (1.0 + BEYOND * i as f64 / BEYOND_CELLS as f64));
        Self::of(horizon, plan.chain(beyond), leads)
    }

    /// The least grid that still tells the horizon and the leads apart.
    #[must_use]
    pub fn coarse(horizon: f64, leads: &[f64]) -> Self {
        Self::of(horizon, [0.0, horizon].into_iter(), leads)
    }

    /// A grid of these edges alone.
    #[must_use]
    pub fn bands(horizon: f64, edges: impl Iterator<Item = f64>) -> Self {
        Self::of(horizon, std::iter::once(0.0).chain(edges), &[])
    }

    /// The cell that a finer cell with this upper edge lies in; the number of cells when beyond all.
    #[must_use]
    pub fn cell(&self, upper: f64) -> usize {
        self.edges[1..].partition_point(|e| *e < upper)
    }

    fn of(horizon: f64, cells: impl Iterator<Item = f64>, leads: &[f64]) -> Self {
        let mut edges: Vec<f64> = cells.chain(leads.iter().copied()).collect();
        edges.sort_by(f64::total_cmp);
        edges.dedup();
        Self { horizon, edges }
    }

    /// Usage to the end of the plan.
    #[must_use]
    pub fn horizon(&self) -> f64 {
        self.horizon
    }

    /// The edges, from 0.
    #[must_use]
    pub fn edges(&self) -> &[f64] {
        &self.edges
    }

    /// The last edge.
    #[must_use]
    pub fn reach(&self) -> f64 {
        self.edges[self.edges.len() - 1]
    }

    /// Cells, without the tail.
    #[must_use]
    pub fn cells(&self) -> usize {
        self.edges.len() - 1
    }

    /// Whether the cell lies inside the plan.
    #[must_use]
    pub fn in_plan(&self, cell: usize) -> bool {
        self.edges[cell + 1] <= self.horizon
    }

    /// Middle of a cell.
    #[must_use]
    pub fn middle(&self, cell: usize) -> f64 {
        f64::midpoint(self.edges[cell], self.edges[cell + 1])
    }
}

/// How the plan runs: usage a year, and the life factor of the past against that of the plan.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pace {
    /// Usage a year in the plan, positive.
    pub usage_a_year: f64,
    /// `κ_past / κ_plan`: usage under the past's conditions that one unit of the plan's uses up.
    pub stretch: f64,
}

/// A point's state by zone; masses sum to 1.
#[derive(Debug, Clone, PartialEq)]
pub struct Zones {
    /// The grid of remaining usage.
    pub grid: FutureGrid,
    /// Failed and still there.
    pub present: f64,
    /// Remaining life in each cell of the grid.
    pub cells: Vec<f64>,
    /// Remaining life beyond the grid.
    pub tail: f64,
    /// Will never fail.
    pub immune: f64,
}

impl Zones {
    /// Chance that it is there now or comes within the plan.
    #[must_use]
    pub fn by_horizon(&self) -> f64 {
        self.present + self.cells.iter().enumerate().filter(|(i, _)| self.grid.in_plan(*i)).map(|(_, m)| m).sum::<f64>()
    }

    /// The same masses on a grid whose edges are all among this one's.
    #[must_use]
    pub fn on(&self, grid: FutureGrid) -> Self {
        let mut cells = vec![0.0; grid.cells()];
        let mut tail = self.tail;
        for (m, upper) in self.cells.iter().zip(&self.grid.edges[1..]) {
            match cells.get_mut(grid.cell(*upper)) {
                Some(slot) => *slot += m,
                None => tail += m,
            }
        }
        Self { grid, present: self.present, cells, tail, immune: self.immune }
    }

    /// Multiplies the masses by the likelihood of what was seen, and makes them sum to 1.
    /// `cell` answers for a cell by its upper edge of remaining usage; `sound` for the tail and the
    /// immune. A likelihood of 0 everywhere changes nothing: it would be an impossible finding.
    pub fn weigh(&mut self, present: f64, sound: f64, cell: impl Fn(f64) -> f64) {
        let factors: Vec<f64> = self.grid.edges[1..].iter().map(|&upper| cell(upper)).collect();
        let total = self.present * present
            + (self.immune + self.tail) * sound
            + self.cells.iter().zip(&factors).map(|(m, f)| m * f).sum::<f64>();
        if total > 0.0 {
            self.present *= present / total;
            self.immune *= sound / total;
            self.tail *= sound / total;
            self.cells.iter_mut().zip(&factors).for_each(|(m, f)| *m *= f / total);
        }
    }

    /// Sum over the states of a cost given by state: `present`, and by cell of the grid.
    #[must_use]
    pub fn expect(&self, present: f64, cells: &[f64]) -> f64 {
        self.present * present + self.cells.iter().zip(cells).map(|(m, c)| m * c).sum::<f64>()
    }

    /// Usage from now by which it needs doing with chance `p`, given that it ever does; `None` when
    /// that lies beyond the grid, and for what never fails.
    #[must_use]
    pub fn quantile(&self, p: f64) -> Option<f64> {
        let susceptible = 1.0 - self.immune;
        let mut left = p * susceptible - self.present;
        if susceptible <= 0.0 {
            return None;
        }
        if left <= 0.0 {
            return Some(0.0);
        }
        for (i, &m) in self.cells.iter().enumerate() {
            if left <= m {
                let (from, to) = (self.grid.edges[i], self.grid.edges[i + 1]);
                return Some(from + (to - from) * left / m);
            }
            left -= m;
        }
        None
    }

    /// First failures in each of the plan's equal cells.
    #[must_use]
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub fn first_in_plan(&self) -> Vec<f64> {
        let mut first = vec![0.0; PLAN_CELLS];
        let per_cell = PLAN_CELLS as f64 / self.grid.horizon;
        for (i, m) in self.cells.iter().enumerate().filter(|(i, _)| self.grid.in_plan(*i)) {
            first[((self.grid.middle(i) * per_cell) as usize).min(PLAN_CELLS - 1)] += m;
        }
        first
    }
}

/// Remaining life of every cycle alive now, put on the grid. `often` is the part that begins many of
/// them, prepared to reach as far as the grid does under the past's conditions.
#[must_use]
pub fn remaining(standing: &Standing<'_>, path: &PastPath, often: &Part<'_>, grid: FutureGrid, pace: Pace) -> Zones {
    let mut beyond_edge = vec![0.0; grid.edges.len()];
    let mut rest = standing.alive.as_slice();
    while let Some(first) = rest.first() {
        let same = rest.iter().take_while(|a| a.cycle.is(first.cycle)).count();
        let (group, later) = rest.split_at(same);
        rest = later;
        let shared = group.len() >= 4 && first.cycle.is(often.cycle);
        if !shared || !by_lattice(group, often, &grid, pace, &mut beyond_edge) {
            one_by_one(group, path, &grid, pace, &mut beyond_edge);
        }
    }
    // The first edge is now: what is alive there is the alive mass itself.
    beyond_edge[0] = standing.alive.iter().map(|a| a.mass).sum();
    let cells = beyond_edge.windows(2).map(|w| (w[0] - w[1]).max(0.0)).collect();
    let tail = beyond_edge[beyond_edge.len() - 1];
    Zones { grid, present: standing.present, cells, tail, immune: standing.immune }
}

/// Adds what each cycle has left beyond each edge, from the curves themselves.
fn one_by_one(group: &[Alive<'_>], path: &PastPath, grid: &FutureGrid, pace: Pace, out: &mut [f64]) {
    for a in group {
        let (run, old) = (path.usage_now() - path.usage(a.edge), path.age_now() - path.age(a.edge));
        for (slot, &y) in out.iter_mut().zip(&grid.edges) {
            let ahead = y * pace.stretch;
            let alive = a.cycle.life.alive(run + ahead, old + ahead / pace.usage_a_year, a.cycle.kappa);
            *slot += a.mass / a.survived * alive;
        }
    }
}

/// The same for many cycles of one part, by what they share; false, and nothing added, when the
/// lattice would be too long.
fn by_lattice(group: &[Alive<'_>], part: &Part<'_>, grid: &FutureGrid, pace: Pace, out: &mut [f64]) -> bool {
    let Some((usage, age)) = part.usage.as_ref().zip(part.age.as_ref()) else { return false };
    // By distance from now, in cells: the weight of the cycle begun there, and its age.
    let longest = group.iter().map(|a| PAST_CELLS - a.edge).max().unwrap_or(0);
    let mut weight = vec![0.0; longest + 1];
    for a in group {
        weight[PAST_CELLS - a.edge] += a.mass / a.survived;
    }
    if part.cycle.life.age.is_empty() {
        let sums = usage.sums(&weight, grid.edges.iter().map(|y| y * pace.stretch));
        out.iter_mut().zip(sums).for_each(|(slot, s)| *slot += s);
        return true;
    }
    let mut terms = vec![0.0; longest + 1];
    for (slot, &y) in out.iter_mut().zip(&grid.edges) {
        let ahead = y * pace.stretch;
        terms.fill(1.0);
        usage.multiply(ahead, &mut terms);
        age.multiply(ahead / pace.usage_a_year, &mut terms);
        if let Some((table, ticks)) = &part.bent {
            let now = ticks[PAST_CELLS] + table.ticks(ahead / pace.usage_a_year);
            terms.iter_mut().zip(ticks.iter().rev()).for_each(|(t, then)| *t *= table.at(now - then));
        }
        *slot += dot(&terms, &weight);
    }
    true
}

/// Expected failures of a part fitted now, and of those fitted after it, in each plan cell: the
/// renewal equation solved on the grid (any reliability text).
///
/// `fresh` is the life of the part fitted and `kappa` its life factor under the plan.
#[must_use]
#[allow(clippy::cast_precision_loss)]
pub fn fresh_failures(horizon: f64, fresh: &Life, kappa: f64, usage_a_year: f64) -> Vec<f64> {
    // Survival at every half cell: even ones are edges, odd ones middles.
    let half = horizon / (2 * PLAN_CELLS) as f64;
    let count = 2 * PLAN_CELLS + 1;
    let by_usage = fresh.usage.on_lattice(half / kappa, count);
    let by_age = fresh.age.on_lattice(half / usage_a_year / kappa, count);
    let alive: Vec<f64> = by_usage.iter().zip(&by_age).map(|(u, a)| u * a).collect();
    let at_edge: Vec<f64> = alive.iter().step_by(2).copied().collect();
    let at_middle: Vec<f64> = alive.iter().skip(1).step_by(2).copied().collect();
    let mut expected = vec![0.0; PLAN_CELLS];
    for j in 0..PLAN_CELLS {
        let mut sum = at_edge[j] - at_edge[j + 1];
        for i in 0..j {
            // Fitted in the middle of cell i, failing in cell j.
            sum += expected[i] * (at_middle[j - i - 1] - at_middle[j - i]);
        }
        expected[j] = sum / at_middle[0].max(1e-6);
    }
    expected
}

/// Expected failures in each plan cell, later ones included: `now` put right at once, `first` the
/// chance of the first failure by plan cell, `fresh` from [`fresh_failures`].
#[must_use]
pub fn all_failures(now: f64, first: &[f64], fresh: &[f64]) -> Vec<f64> {
    let mut all: Vec<f64> = first.iter().zip(fresh).map(|(f, r)| f + now * r).collect();
    for (i, &mass) in first.iter().enumerate().filter(|(_, m)| **m > 1e-9) {
        // Fitted in the middle of cell i: half a cell earlier or later than an edge.
        for (j, slot) in all.iter_mut().enumerate().skip(i) {
            let before = if j > i { fresh[j - i - 1] } else { 0.0 };
            *slot += mass * 0.5 * (before + fresh[j - i]);
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::claims::{Pool, Weibull};
    use crate::standing::{Cycle, History, stand};

    fn life(shape: f64, scale: f64) -> Life {
        Life { usage: Pool::new(vec![(1.0, Weibull::new(shape, scale).expect("curve"))]), age: Pool::default() }
    }

    #[test]
    fn constant_hazard_forgets_the_past() {
        // Memorylessness: with shape 1 the remaining life is the fresh life whatever was run.
        let l = life(1.0, 80_000.0);
        let path = PastPath::new(120_000.0, 8.0, &[]);
        let cycle = Cycle { life: &l, kappa: 1.0 };
        let part = Part::new(&path, cycle, 60_000.0, 10_000.0);
        let standing = stand(
            &path,
            &History {
                share: 1.0,
                build: cycle,
                renewals: Vec::new(),
                unrecorded: &part,
                tolerated: 0.0,
                survivable: 1.0,
                completeness: 0.0,
                trace: false,
            },
        );
        let grid = FutureGrid::full(40_000.0, &[]);
        let zones = remaining(&standing, &path, &part, grid, Pace { usage_a_year: 10_000.0, stretch: 1.0 });
        let expected = 1.0 - (-0.5f64).exp();
        assert!((zones.by_horizon() - zones.present - expected * (1.0 - zones.present)).abs() < 1e-5);
    }

    #[test]
    fn constant_hazard_renews_in_proportion() {
        // For exponential lives the renewal function is exactly y/η.
        let l = life(1.0, 50_000.0);
        let expected: f64 = fresh_failures(100_000.0, &l, 1.0, 10_000.0).iter().sum();
        assert!((expected - 2.0).abs() < 1e-3, "{expected}");
    }
}
