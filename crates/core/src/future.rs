//! Method §3 and §6: how much longer it will last, from where it stands now.

use std::sync::Arc;

use crate::lattice::{Curves, Part, dot};
use crate::standing::{Alive, PAST_CELLS, PastPath, Standing};

/// Cells over the plan's horizon.
pub const PLAN_CELLS: usize = 120;

/// Cells beyond the plan, for drawing what comes later.
pub const BEYOND_CELLS: usize = 12;

/// Between this many edges survival is interpolated.
const KNOT_EVERY: usize = 6;

/// How far beyond the plan the grid reaches, as a share of the horizon.
pub const BEYOND: f64 = 0.3;

/// Plan cells of the reference example, whose money alone is asked for.
pub const REFERENCE_CELLS: usize = 24;

/// Edges of remaining usage, measured along the plan.
#[derive(Debug, Clone, PartialEq)]
pub struct FutureGrid {
    horizon: f64,
    edges: Vec<f64>,
    /// Edges at which survival is computed; between them it is interpolated.
    knots: Vec<usize>,
}

impl FutureGrid {
    /// The full grid: [`PLAN_CELLS`] over the horizon, some beyond it, and an edge at every lead.
    #[must_use]
    pub fn full(horizon: f64, leads: &[f64]) -> Arc<Self> {
        Self::equal(horizon, PLAN_CELLS, BEYOND_CELLS, leads)
    }

    /// The grid of the reference example: [`REFERENCE_CELLS`] over the horizon.
    #[must_use]
    pub fn reference(horizon: f64) -> Arc<Self> {
        Self::equal(horizon, REFERENCE_CELLS, 0, &[])
    }

    #[allow(clippy::cast_precision_loss)]
    fn equal(horizon: f64, cells: usize, beyond: usize, leads: &[f64]) -> Arc<Self> {
        let plan = (0..=cells).map(|i| horizon * (i as f64 / cells as f64));
        let beyond = (1..=beyond).map(|i| horizon * (1.0 + BEYOND * i as f64 / beyond as f64));
        let mut out = Self::of(horizon, plan.chain(beyond), leads);
        // Survival of what is alive now bends most just after now.
        let last = out.edges.len() - 1;
        let needed = |i: &usize| {
            *i <= KNOT_EVERY || i.is_multiple_of(KNOT_EVERY) || *i == last || leads.contains(&out.edges[*i])
        };
        out.knots = (0..=last).filter(|i| needed(i) || (out.edges[*i] - horizon).abs() < 1e-12).collect();
        Arc::new(out)
    }

    /// The least grid that still tells the horizon and the leads apart.
    #[must_use]
    pub fn coarse(horizon: f64, leads: &[f64]) -> Arc<Self> {
        Arc::new(Self::of(horizon, [0.0, horizon].into_iter(), leads))
    }

    /// A grid of these edges alone.
    #[must_use]
    pub fn bands(horizon: f64, edges: impl Iterator<Item = f64>) -> Arc<Self> {
        Arc::new(Self::of(horizon, std::iter::once(0.0).chain(edges), &[]))
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
        let knots = (0..edges.len()).collect();
        Self { horizon, edges, knots }
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
    pub grid: Arc<FutureGrid>,
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
    /// A point that will never fail.
    #[must_use]
    pub fn empty(grid: Arc<FutureGrid>) -> Self {
        Self { present: 0.0, cells: vec![0.0; grid.cells()], tail: 0.0, immune: 1.0, grid }
    }

    /// Chance that it is there now or comes within the plan.
    #[must_use]
    pub fn by_horizon(&self) -> f64 {
        self.present + self.cells.iter().enumerate().filter(|(i, _)| self.grid.in_plan(*i)).map(|(_, m)| m).sum::<f64>()
    }

    /// The same masses on a grid whose edges are all among this one's.
    #[must_use]
    pub fn on(&self, grid: Arc<FutureGrid>) -> Self {
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

    /// Multiplies the masses by the likelihood of what was seen, and makes them sum to 1; the chance of
    /// having seen it. `coming` is the likelihood of remaining lives within `lead`, `sound` of all others
    /// and of the immune. A likelihood of 0 everywhere changes nothing: it would be an impossible finding.
    pub fn weigh(&mut self, present: f64, sound: f64, lead: f64, coming: f64) -> f64 {
        let within = self.grid.edges[1..].partition_point(|upper| *upper <= lead);
        let near: f64 = self.cells[..within].iter().sum();
        let far: f64 = self.cells[within..].iter().sum();
        let total = self.present * present + (self.immune + self.tail + far) * sound + near * coming;
        if total > 0.0 {
            self.present *= present / total;
            self.immune *= sound / total;
            self.tail *= sound / total;
            let (coming, sound) = (coming / total, sound / total);
            self.cells[..within].iter_mut().for_each(|m| *m *= coming);
            self.cells[within..].iter_mut().for_each(|m| *m *= sound);
        }
        total
    }

    /// The same with a likelihood for each cell, asked for by its upper edge of remaining usage.
    pub fn weigh_by(&mut self, present: f64, sound: f64, cell: impl Fn(f64) -> f64) {
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

    /// The weighted mixture of zones on one grid.
    #[must_use]
    pub fn mixture(parts: &[(f64, &Self)]) -> Self {
        let sum = |of: &dyn Fn(&Self) -> f64| parts.iter().map(|(w, z)| w * of(z)).sum();
        let grid = parts[0].1.grid.clone();
        let mut cells = vec![0.0; grid.cells()];
        for (w, z) in parts {
            cells.iter_mut().zip(&z.cells).for_each(|(slot, m)| *slot += w * m);
        }
        Self { present: sum(&|z| z.present), tail: sum(&|z| z.tail), immune: sum(&|z| z.immune), cells, grid }
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
pub fn remaining(
    standing: &Standing<'_>,
    path: &PastPath,
    often: &Part<'_>,
    grid: Arc<FutureGrid>,
    pace: Pace,
) -> Zones {
    let ahead: Vec<f64> = grid.knots.iter().map(|&k| grid.edges[k] * pace.stretch).collect();
    let mut at_knot = vec![0.0; ahead.len()];
    let (mut shared, mut own): (Vec<&Alive<'_>>, Vec<&Alive<'_>>) =
        standing.alive.iter().partition(|a| often.whole && a.cycle.is(often.cycle));
    if shared.len() < 4 {
        own.append(&mut shared);
    }
    for a in own {
        let (run, old) = (path.usage_now() - path.usage(a.edge), path.age_now() - path.age(a.edge));
        for (slot, y) in at_knot.iter_mut().zip(&ahead) {
            *slot += a.mass / a.survived * a.cycle.curves.alive(run + y, old + y / pace.usage_a_year, a.cycle.kappa);
        }
    }
    by_lattice(&shared, often, &ahead, pace, &mut at_knot);
    // The first edge is now: what is alive there is the alive mass itself.
    at_knot[0] = standing.alive.iter().map(|a| a.mass).sum();
    let beyond_edge = if grid.knots.len() == grid.edges.len() { at_knot } else { between(&grid, &at_knot) };
    let cells = beyond_edge.windows(2).map(|w| (w[0] - w[1]).max(0.0)).collect();
    let tail = beyond_edge[beyond_edge.len() - 1];
    Zones { grid, present: standing.present, cells, tail, immune: standing.immune }
}

/// Adds what many cycles of one part have left beyond each knot, by the lattices they share.
fn by_lattice(group: &[&Alive<'_>], part: &Part<'_>, ahead: &[f64], pace: Pace, out: &mut [f64]) {
    if group.is_empty() {
        return;
    }
    // By distance from now, in cells: the weight of the cycle begun there.
    let longest = group.iter().map(|a| PAST_CELLS - a.edge).max().unwrap_or(0);
    let mut weight = vec![0.0; longest + 1];
    for a in group {
        weight[PAST_CELLS - a.edge] += a.mass / a.survived;
    }
    let mut terms = vec![0.0; longest + 1];
    for (slot, &y) in out.iter_mut().zip(ahead) {
        terms.copy_from_slice(&weight);
        let years = y / pace.usage_a_year;
        if let Some(usage) = &part.usage {
            usage.multiply(y, &mut terms);
        }
        if let Some(age) = &part.age {
            age.multiply(years, &mut terms);
        }
        if let Some((table, ticks)) = &part.bent {
            let now = ticks[PAST_CELLS] + table.ticks(years);
            terms.iter_mut().zip(ticks.iter().rev()).for_each(|(t, then)| *t *= table.at(now - then));
        }
        *slot += total(&terms);
    }
}

/// A sum in eight strands.
fn total(terms: &[f64]) -> f64 {
    let chunks = terms.chunks_exact(8);
    let rest: f64 = chunks.remainder().iter().sum();
    let mut strands = [0.0; 8];
    for c in chunks {
        for i in 0..8 {
            strands[i] += c[i];
        }
    }
    strands.iter().sum::<f64>() + rest
}

/// Falling values at every edge from those at the knots: the monotone cubic of Steffen (1990).
#[allow(clippy::cast_precision_loss)]
fn between(grid: &FutureGrid, at_knot: &[f64]) -> Vec<f64> {
    let x: Vec<f64> = grid.knots.iter().map(|&k| grid.edges[k]).collect();
    let n = x.len();
    let rise = |i: usize| (at_knot[i + 1] - at_knot[i]) / (x[i + 1] - x[i]);
    let slopes: Vec<f64> = (0..n)
        .map(|i| {
            if i == 0 {
                return rise(0);
            }
            if i == n - 1 {
                return rise(n - 2);
            }
            let (h0, h1, s0, s1) = (x[i] - x[i - 1], x[i + 1] - x[i], rise(i - 1), rise(i));
            let p = (s0 * h1 + s1 * h0) / (h0 + h1);
            // Falling throughout: the slope is the gentlest that keeps it so.
            p.max(2.0 * s0).max(2.0 * s1).min(0.0)
        })
        .collect();
    let mut out = vec![0.0; grid.edges.len()];
    for i in 0..n - 1 {
        let h = x[i + 1] - x[i];
        for (e, slot) in out.iter_mut().enumerate().take(grid.knots[i + 1] + 1).skip(grid.knots[i]) {
            let t = (grid.edges[e] - x[i]) / h;
            let (t2, t3) = (t * t, t * t * t);
            *slot = at_knot[i] * (2.0 * t3 - 3.0 * t2 + 1.0)
                + slopes[i] * h * (t3 - 2.0 * t2 + t)
                + at_knot[i + 1] * (3.0 * t2 - 2.0 * t3)
                + slopes[i + 1] * h * (t3 - t2);
        }
    }
    out
}

/// Expected failures of a part fitted now, and of those fitted after it, in each plan cell: the
/// renewal equation solved on the grid (any reliability text).
///
/// `fresh` is the life of the part fitted and `kappa` its life factor under the plan.
#[must_use]
#[allow(clippy::cast_precision_loss)]
pub fn fresh_failures(horizon: f64, fresh: &Curves<'_>, kappa: f64, usage_a_year: f64) -> Vec<f64> {
    // Survival at every half cell: even ones are edges, odd ones middles.
    let half = horizon / (2 * PLAN_CELLS) as f64;
    let alive: Vec<f64> =
        (0..=2 * PLAN_CELLS).map(|i| fresh.alive(half * i as f64, half / usage_a_year * i as f64, kappa)).collect();
    let at_edge: Vec<f64> = alive.iter().step_by(2).copied().collect();
    let at_middle: Vec<f64> = alive.iter().skip(1).step_by(2).copied().collect();
    // Fitted in the middle of cell i, failing in cell j: by j − i, the nearest last.
    let lost: Vec<f64> = at_middle.windows(2).rev().map(|w| w[0] - w[1]).collect();
    let mut expected = vec![0.0; PLAN_CELLS];
    for j in 0..PLAN_CELLS {
        let again = dot(&expected[..j], &lost[PLAN_CELLS - 1 - j..]);
        expected[j] = (at_edge[j] - at_edge[j + 1] + again) / at_middle[0].max(1e-6);
    }
    expected
}

/// Expected failures in each plan cell, later ones included: `now` put right at once, `first` the
/// chance of the first failure by plan cell, `fresh` from [`fresh_failures`].
#[must_use]
pub fn all_failures(now: f64, first: &[f64], fresh: &[f64]) -> Vec<f64> {
    // Fitted in the middle of cell i: half a cell earlier or later than an edge. By j − i, the nearest last.
    let last = fresh.len() - 1;
    let again: Vec<f64> = (0..=last).rev().map(|d| 0.5 * (if d > 0 { fresh[d - 1] } else { 0.0 } + fresh[d])).collect();
    first.iter().zip(fresh).enumerate().map(|(j, (f, r))| f + now * r + dot(&first[..=j], &again[last - j..])).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::claims::{Life, Pool, Weibull};
    use crate::standing::{Cycle, History, stand};

    fn life(shape: f64, scale: f64) -> Life {
        Life { usage: Pool::new(vec![(1.0, Weibull::new(shape, scale).expect("curve"))]), age: Pool::default() }
    }

    #[test]
    fn constant_hazard_forgets_the_past() {
        // Memorylessness: with shape 1 the remaining life is the fresh life whatever was run.
        let l = life(1.0, 80_000.0);
        let curves = Curves::new(&l, 200_000.0, 20.0);
        let path = PastPath::new(120_000.0, 8.0, &[]);
        let cycle = Cycle { curves: &curves, kappa: 1.0 };
        let part = Part::new(&path, cycle, 60_000.0, 10_000.0);
        let standing = stand(
            &path,
            &History {
                share: 1.0,
                build: cycle,
                renewals: Vec::new(),
                unrecorded: &part,
                survivable: 1.0,
                completeness: 0.0,
                trace: false,
            },
            &[0.0],
        )
        .remove(0);
        let grid = FutureGrid::full(40_000.0, &[]);
        let zones = remaining(&standing, &path, &part, grid, Pace { usage_a_year: 10_000.0, stretch: 1.0 });
        let expected = 1.0 - (-0.5f64).exp();
        assert!((zones.by_horizon() - zones.present - expected * (1.0 - zones.present)).abs() < 1e-5);
    }

    #[test]
    fn constant_hazard_renews_in_proportion() {
        // For exponential lives the renewal function is exactly y/η.
        let l = life(1.0, 50_000.0);
        let expected: f64 = fresh_failures(100_000.0, &Curves::new(&l, 100_000.0, 10.0), 1.0, 10_000.0).iter().sum();
        assert!((expected - 2.0).abs() < 1e-3, "{expected}");
    }
}
