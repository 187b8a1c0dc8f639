//! Method §3 and §6: how much longer it will last, from where it stands now.

use crate::claims::{Life, Pool};
use crate::standing::{AgeTable, Alive, PAST_CELLS, PastPath, Standing};

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
            match cells.get_mut(grid.edges[1..].partition_point(|e| e < upper)) {
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

/// Survival on one clock at a fixed distance beyond every past edge: the curve on a lattice that the
/// past edges share, read between its points by cubic Hermite interpolation.
struct Lattice<'a> {
    pool: &'a Pool,
    kappa: f64,
    step: f64,
    alive: Vec<f64>,
    slope: Vec<f64>,
}

/// A lattice longer than this costs more than it saves.
const LATTICE_MOST: f64 = 4000.0;
/// Near zero a curve may be too steep to interpolate; there it is computed outright.
const OUTRIGHT: usize = 6;

impl<'a> Lattice<'a> {
    /// A lattice of this step from 0 to beyond `reach`; none when it would be too long.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    fn new(pool: &'a Pool, kappa: f64, step: f64, reach: f64) -> Option<Self> {
        if step <= 0.0 || reach / step > LATTICE_MOST {
            return None;
        }
        let (alive, slope) = pool.lattice(step / kappa, (reach / step) as usize + 3);
        Some(Self { pool, kappa, step, alive, slope })
    }

    /// Multiplies `out[n]` by the survival at `n` steps and `beyond` more.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    fn multiply(&self, beyond: f64, out: &mut [f64]) {
        if self.alive.is_empty() {
            return;
        }
        let at = beyond / self.step;
        let j = at as usize;
        let t = at - j as f64;
        let (t2, t3) = (t * t, t * t * t);
        let (h00, h10, h01, h11) = (2.0 * t3 - 3.0 * t2 + 1.0, t3 - 2.0 * t2 + t, 3.0 * t2 - 2.0 * t3, t3 - t2);
        let n = out.len();
        let (s0, s1) = (&self.alive[j..j + n], &self.alive[j + 1..j + 1 + n]);
        let (d0, d1) = (&self.slope[j..j + n], &self.slope[j + 1..j + 1 + n]);
        let outright = OUTRIGHT.saturating_sub(j).min(n);
        for (i, slot) in out.iter_mut().enumerate().take(outright) {
            *slot *= self.pool.alive((self.step * i as f64 + beyond) / self.kappa);
        }
        for i in outright..n {
            out[i] *= h00 * s0[i] + h10 * d0[i] + h01 * s1[i] + h11 * d1[i];
        }
    }
}

/// Remaining life of every cycle alive now, put on the grid.
#[must_use]
pub fn remaining(standing: &Standing<'_>, path: &PastPath, grid: FutureGrid, pace: Pace) -> Zones {
    let mut beyond_edge = vec![0.0; grid.edges.len()];
    let mut rest = standing.alive.as_slice();
    while let Some(first) = rest.first() {
        let same = rest
            .iter()
            .take_while(|a| {
                std::ptr::eq(a.cycle.life, first.cycle.life) && a.cycle.kappa.to_bits() == first.cycle.kappa.to_bits()
            })
            .count();
        let (group, later) = rest.split_at(same);
        rest = later;
        if group.len() < 4 || !by_lattice(group, path, &grid, pace, &mut beyond_edge) {
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
#[allow(clippy::cast_precision_loss)]
fn by_lattice(group: &[Alive<'_>], path: &PastPath, grid: &FutureGrid, pace: Pace, out: &mut [f64]) -> bool {
    let Some(first) = group.first() else { return true };
    let (life, kappa) = (first.cycle.life, first.cycle.kappa);
    let reach = grid.edges[grid.edges.len() - 1] * pace.stretch;
    let reach_age = reach / pace.usage_a_year;
    let cells = PAST_CELLS as f64;
    let Some(usage) = Lattice::new(&life.usage, kappa, path.usage_now() / cells, path.usage_now() + reach) else {
        return false;
    };
    let straight = path.is_straight();
    let Some(age) = Lattice::new(
        if straight { &life.age } else { Pool::NONE },
        kappa,
        path.age_now() / cells,
        path.age_now() + reach_age,
    ) else {
        return false;
    };
    let bent = (!straight && !life.age.is_empty()).then(|| AgeTable::new(&life.age, kappa, path.age_now() + reach_age));
    // By distance from now, in cells: the weight of the cycle begun there, and its age.
    let longest = group.iter().map(|a| PAST_CELLS - a.edge).max().unwrap_or(0);
    let mut weight = vec![0.0; longest + 1];
    for a in group {
        weight[PAST_CELLS - a.edge] += a.mass / a.survived;
    }
    let old: Vec<f64> = (0..=longest).map(|d| path.age_now() - path.age(PAST_CELLS - d)).collect();
    let mut terms = vec![0.0; longest + 1];
    for (slot, &y) in out.iter_mut().zip(&grid.edges) {
        let ahead = y * pace.stretch;
        terms.copy_from_slice(&weight);
        usage.multiply(ahead, &mut terms);
        age.multiply(ahead / pace.usage_a_year, &mut terms);
        if let Some(table) = &bent {
            let more = ahead / pace.usage_a_year;
            terms.iter_mut().zip(&old).for_each(|(t, o)| *t *= table.at(o + more));
        }
        *slot += terms.iter().sum::<f64>();
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
    let step = horizon / PLAN_CELLS as f64;
    let alive = |cells: f64| {
        let y = step * cells;
        fresh.alive(y, y / usage_a_year, kappa)
    };
    let at_edge: Vec<f64> = (0..=PLAN_CELLS).map(|i| alive(i as f64)).collect();
    let at_middle: Vec<f64> = (0..PLAN_CELLS).map(|i| alive(i as f64 + 0.5)).collect();
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
    use crate::claims::Weibull;
    use crate::standing::{Cycle, History, stand};

    fn life(shape: f64, scale: f64) -> Life {
        Life { usage: Pool::new(vec![(1.0, Weibull::new(shape, scale).expect("curve"))]), age: Pool::default() }
    }

    #[test]
    fn the_lattice_keeps_to_the_curve() {
        for shape in [0.8, 1.0, 1.5, 3.0, 5.0] {
            let l = life(shape, 60_000.0);
            let lattice = Lattice::new(&l.usage, 0.8, 500.0, 200_000.0).expect("short enough");
            for beyond in [0.0, 30.0, 499.0, 777.0, 80_333.0] {
                let mut out = vec![1.0; 200];
                lattice.multiply(beyond, &mut out);
                for (i, got) in (0..).zip(&out) {
                    let exact = l.usage.alive((500.0 * f64::from(i) + beyond) / 0.8);
                    assert!((got - exact).abs() < 1e-6, "shape {shape} at {i} + {beyond}: {got} {exact}");
                }
            }
        }
    }

    #[test]
    fn constant_hazard_forgets_the_past() {
        // Memorylessness: with shape 1 the remaining life is the fresh life whatever was run.
        let l = life(1.0, 80_000.0);
        let path = PastPath::new(120_000.0, 8.0, &[]);
        let cycle = Cycle { life: &l, kappa: 1.0 };
        let standing = stand(
            &path,
            &History {
                share: 1.0,
                build: cycle,
                renewals: Vec::new(),
                unrecorded: cycle,
                tolerated: 0.0,
                survivable: 1.0,
                completeness: 0.0,
            },
        );
        let grid = FutureGrid::full(40_000.0, &[]);
        let zones = remaining(&standing, &path, grid, Pace { usage_a_year: 10_000.0, stretch: 1.0 });
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
