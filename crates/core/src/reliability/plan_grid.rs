//! The grid of remaining usage over the plan.

use std::sync::Arc;

/// Cells over the plan's horizon.
pub const PLAN_CELLS: usize = 60;

/// Cells beyond the plan, for drawing what comes later.
pub const BEYOND_CELLS: usize = 9;

/// Between this many edges survival is interpolated.
const KNOT_EVERY: usize = 4;

/// How far beyond the plan the grid reaches, as a share of the horizon.
pub const BEYOND: f64 = 0.3;

/// Plan cells of what is asked for its money alone: the reference example, an estimate.
pub const REFERENCE_CELLS: usize = 24;

/// Edges of remaining usage, measured along the plan.
#[derive(Debug, Clone, PartialEq)]
pub struct FutureGrid {
    pub(crate) horizon: f64,
    pub(crate) edges: Vec<f64>,
    /// Edges at which survival is computed; between them it is interpolated.
    pub(crate) knots: Vec<usize>,
}

impl FutureGrid {
    /// The full grid: [`PLAN_CELLS`] over the horizon, some beyond it, and an edge at every lead.
    #[must_use]
    pub fn full(horizon: f64, leads: &[f64]) -> Arc<Self> {
        Self::equal(horizon, PLAN_CELLS, BEYOND_CELLS, leads)
    }

    /// The grid of the reference example and of an estimate for long lists: [`REFERENCE_CELLS`] over the horizon, and an
    /// edge at every lead.
    #[must_use]
    pub fn estimate(horizon: f64, leads: &[f64]) -> Arc<Self> {
        Self::equal(horizon, REFERENCE_CELLS, 0, leads)
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
