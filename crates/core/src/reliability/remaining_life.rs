//! How much longer a part will last, from its condition now.
//!
//! docs/METHOD.md, section 3.

use std::sync::Arc;

use crate::base::memory::KeyOf;
use crate::base::numeric::dot;
use crate::reliability::condition::{Alive, Condition};
use crate::reliability::plan_grid::{FutureGrid, PLAN_CELLS, Pace};
use crate::reliability::survival_grid::PreparedPart;
use crate::reliability::survival_table::Cycle;
use crate::reliability::usage_path::PastPath;

/// A point's state: there now, still to come, never; masses sum to 1.
#[derive(Debug, Clone, PartialEq)]
pub struct RemainingLife {
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
    /// Of each of these, the share whose scheduled renewal is overdue: no finding changes it. None where nothing is
    /// scheduled.
    pub overdue: Option<Arc<OverdueShares>>,
}

/// Of each state of a point, the share that belongs to cycles whose scheduled renewal is overdue.
#[derive(Debug, Clone, PartialEq)]
pub struct OverdueShares {
    /// Of what is there.
    pub present: f64,
    /// Of what comes in each cell of the grid.
    pub cells: Vec<f64>,
    /// Of what comes beyond the grid.
    pub tail: f64,
    /// Of what never fails.
    pub immune: f64,
}

impl RemainingLife {
    /// Everything that it holds.
    pub fn key(&self, out: &mut KeyOf) {
        out.figures(&self.grid.edges);
        out.figures(&self.cells);
        out.figures(&[self.grid.horizon, self.present, self.tail, self.immune]);
        out.add(&self.overdue.is_some());
        if let Some(o) = &self.overdue {
            out.figures(&o.cells);
            out.figures(&[o.present, o.tail, o.immune]);
        }
    }

    /// Chance that the scheduled renewal is overdue.
    #[must_use]
    pub fn is_overdue(&self) -> f64 {
        self.overdue.as_ref().map_or(0.0, |o| {
            let cells: f64 = self.cells.iter().zip(&o.cells).map(|(m, x)| m * x).sum();
            self.present * o.present + cells + self.tail * o.tail + self.immune * o.immune
        })
    }

    /// A point that will never fail.
    #[must_use]
    pub fn empty(grid: Arc<FutureGrid>) -> Self {
        Self { present: 0.0, cells: vec![0.0; grid.cells()], tail: 0.0, immune: 1.0, overdue: None, grid }
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
        Self { grid, present: self.present, cells, tail, immune: self.immune, overdue: None }
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

    /// The weighted mixture of remaining lives on one grid.
    #[must_use]
    pub fn mixture(parts: &[(f64, &Self)]) -> Self {
        let sum = |of: &dyn Fn(&Self) -> f64| parts.iter().map(|(w, z)| w * of(z)).sum();
        let grid = parts[0].1.grid.clone();
        let mut cells = vec![0.0; grid.cells()];
        for (w, z) in parts {
            cells.iter_mut().zip(&z.cells).for_each(|(slot, m)| *slot += w * m);
        }
        let (present, tail, immune) = (sum(&|z| z.present), sum(&|z| z.tail), sum(&|z| z.immune));
        Self { present, tail, immune, cells, overdue: None, grid }
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

    /// About how many bytes it takes.
    #[must_use]
    pub fn bytes(&self) -> usize {
        let shares = self.overdue.as_ref().map_or(0, |o| 8 * o.cells.len());
        8 * self.cells.len() + shares + 16 * self.grid.edges.len() + 256
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

/// Remaining life of every cycle alive now in each of these conditions of one point, put on the grid: what they have
/// in common is worked out once. `often` is the part that begins many of the cycles, prepared to reach as far as the
/// grid does under the past's conditions.
#[must_use]
pub fn remaining(
    conditions: &[Condition<'_>],
    path: &PastPath,
    often: &PreparedPart<'_>,
    grid: &Arc<FutureGrid>,
    pace: Pace,
) -> Vec<RemainingLife> {
    let all = conditions.iter().map(|c| c.alive.iter().map(|a| (a, a.mass)).collect::<Cycles<'_, '_>>());
    let late = conditions.iter().filter(|c| c.overdue.any).map(|c| {
        let late = c.alive.iter().map(|a| (a, a.mass * a.overdue));
        late.filter(|(_, mass)| *mass > 0.0).collect()
    });
    let cycles: Vec<Cycles<'_, '_>> = all.chain(late).collect();
    let mut left = beyond(&cycles, path, often, grid, pace).into_iter();
    let all: Vec<Vec<f64>> = left.by_ref().take(conditions.len()).collect();
    let cells_of = |edges: &[f64]| edges.windows(2).map(|w| (w[0] - w[1]).max(0.0)).collect::<Vec<f64>>();
    let one = |(condition, all): (&Condition<'_>, Vec<f64>)| {
        let (cells, tail) = (cells_of(&all), all[all.len() - 1]);
        let late = if condition.overdue.any { left.next() } else { None };
        let overdue = late.map(|late| {
            let share = |of: f64, all: f64| if all > 0.0 { (of / all).clamp(0.0, 1.0) } else { 0.0 };
            Arc::new(OverdueShares {
                present: share(condition.overdue.present, condition.present),
                cells: cells_of(&late).iter().zip(&cells).map(|(x, m)| share(*x, *m)).collect(),
                tail: share(late[late.len() - 1], tail),
                immune: share(condition.overdue.immune, condition.immune),
            })
        });
        let (present, immune) = (condition.present, condition.immune);
        RemainingLife { grid: Arc::clone(grid), present, cells, tail, immune, overdue }
    };
    conditions.iter().zip(all).map(one).collect()
}

/// Cycles alive, each with the mass that counts.
type Cycles<'c, 'a> = Vec<(&'c Alive<'a>, f64)>;

/// Fewer cycles of one part than these are followed one by one.
const FEW: usize = 4;

/// What each of these lists of cycles has left beyond each edge of the grid.
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
fn beyond(
    lists: &[Cycles<'_, '_>],
    path: &PastPath,
    often: &PreparedPart<'_>,
    grid: &FutureGrid,
    pace: Pace,
) -> Vec<Vec<f64>> {
    let ahead: Vec<f64> = grid.knots.iter().map(|&k| grid.edges[k] * pace.stretch).collect();
    // Begun on an edge, with the part that begins many.
    let shares = |a: &Alive<'_>| often.whole && a.at == (a.at as usize) as f64 && a.cycle.is(often.cycle);
    let mut own = Followed { path, ahead: &ahead, pace, known: Vec::new() };
    let mut at_knots: Vec<Vec<f64>> = lists.iter().map(|_| vec![0.0; ahead.len()]).collect();
    // By distance from now, in cells: the weight of the cycle begun there.
    let mut weights: Vec<Vec<f64>> = lists.iter().map(|_| vec![0.0; path.cells() + 1]).collect();
    let mut longest = None;
    for ((list, at_knot), weight) in lists.iter().zip(&mut at_knots).zip(&mut weights) {
        let many = list.iter().filter(|(a, _)| shares(a)).count() >= FEW;
        for (a, mass) in list {
            let each = mass / a.survived;
            if many && shares(a) {
                let distance = path.cells() - a.at as usize;
                weight[distance] += each;
                longest = longest.max(Some(distance));
            } else {
                at_knot.iter_mut().zip(own.survival(a)).for_each(|(slot, s)| *slot += each * s);
            }
        }
    }
    if let Some(longest) = longest {
        weights.iter_mut().for_each(|w| w.truncate(longest + 1));
        by_grid(&weights, often, path.cells(), (&ahead, pace), &mut at_knots);
    }
    for (list, at_knot) in lists.iter().zip(&mut at_knots) {
        // The first edge is now: what is alive there is the alive mass itself.
        at_knot[0] = list.iter().map(|(_, mass)| mass).sum();
        if grid.knots.len() < grid.edges.len() {
            *at_knot = between(grid, at_knot);
        }
    }
    at_knots
}

/// Cycles followed one by one beyond each knot, each once.
struct Followed<'f, 'a> {
    path: &'f PastPath,
    ahead: &'f [f64],
    pace: Pace,
    known: Vec<(f64, Cycle<'a>, Vec<f64>)>,
}

impl<'a> Followed<'_, 'a> {
    /// Survival of a cycle from its start to beyond each knot.
    fn survival(&mut self, a: &Alive<'a>) -> &[f64] {
        let known = self.known.iter().position(|(at, cycle, _)| at.to_bits() == a.at.to_bits() && cycle.is(a.cycle));
        let at = known.unwrap_or_else(|| {
            let run = self.path.usage_now() - self.path.usage_in(a.at);
            let old = self.path.age_now() - self.path.age_in(a.at);
            let (curves, factor) = (a.cycle.curves, a.cycle.life_factor);
            let each = |y: &f64| curves.survival(run + y, old + y / self.pace.usage_a_year, factor);
            self.known.push((a.at, a.cycle, self.ahead.iter().map(each).collect()));
            self.known.len() - 1
        });
        &self.known[at].2
    }
}

/// Adds what many cycles of one part have left beyond each knot, by the grids they share.
fn by_grid(
    weights: &[Vec<f64>],
    part: &PreparedPart<'_>,
    cells: usize,
    (ahead, pace): (&[f64], Pace),
    out: &mut [Vec<f64>],
) {
    let mut survival = vec![0.0; weights[0].len()];
    for (knot, &y) in ahead.iter().enumerate() {
        survival.fill(1.0);
        let years = y / pace.usage_a_year;
        if let Some(usage) = &part.usage {
            usage.multiply(y, &mut survival);
        }
        if let Some(age) = &part.age {
            age.multiply(years, &mut survival);
        }
        if let Some((table, ticks)) = &part.bent {
            let now = ticks[cells] + table.ticks(years);
            survival.iter_mut().zip(ticks.iter().rev()).for_each(|(s, then)| *s *= table.at(now - then));
        }
        out.iter_mut().zip(weights).for_each(|(slots, weight)| slots[knot] += dot(weight, &survival));
    }
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::weibull::Weibull;
    use crate::reliability::condition::History;
    use crate::reliability::condition::condition_now;
    use crate::reliability::mixture::Life;
    use crate::reliability::mixture::WeibullMixture;
    use crate::reliability::renewal::fresh_failures;
    use crate::reliability::survival_table::Curves;
    use crate::reliability::survival_table::Cycle;

    fn life(shape: f64, scale: f64) -> Life {
        Life {
            usage: WeibullMixture::new(vec![(1.0, Weibull::new(shape, scale).expect("curve"))]),
            age: WeibullMixture::default(),
        }
    }

    #[test]
    fn constant_hazard_forgets_the_past() {
        // Memorylessness: with shape 1 the remaining life is the fresh life whatever was run.
        let l = life(1.0, 80_000.0);
        let curves = Curves::new(&l, 200_000.0, 20.0);
        let path = PastPath::new(120_000.0, 8.0, &[]);
        let cycle = Cycle { curves: &curves, life_factor: 1.0 };
        let part = PreparedPart::new(&path, cycle, 60_000.0, 10_000.0);
        let condition = condition_now(
            &path,
            &History {
                share: 1.0,
                build: cycle,
                renewals: Vec::new(),
                unrecorded: &part,
                survivable: 1.0,
                completeness: 0.0,
                build_overdue: false,
                trace: false,
            },
            &[0.0],
        )
        .remove(0);
        let grid = FutureGrid::full(40_000.0, &[]);
        let pace = Pace { usage_a_year: 10_000.0, stretch: 1.0 };
        let remaining = remaining(std::slice::from_ref(&condition), &path, &part, &grid, pace).remove(0);
        let expected = 1.0 - (-0.5f64).exp();
        assert!((remaining.by_horizon() - remaining.present - expected * (1.0 - remaining.present)).abs() < 1e-5);
    }

    #[test]
    fn constant_hazard_renews_in_proportion() {
        // For exponential lives the renewal function is exactly y/η.
        let l = life(1.0, 50_000.0);
        let expected: f64 = fresh_failures(100_000.0, &Curves::new(&l, 100_000.0, 10.0), 1.0, 10_000.0).iter().sum();
        assert!((expected - 2.0).abs() < 1e-3, "{expected}");
    }
}
