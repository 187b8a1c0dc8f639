//! Survival on the cells of a vehicle's past: the same curve read at equal steps, so that many cycles of one
//! part share it.

use std::sync::Arc;

use crate::base::numeric::hermite;
use crate::reliability::survival_table::{Cycle, Lines, Table};
use crate::reliability::usage_path::PastPath;

/// Survival by age, read off by straight lines with ages counted in 2⁻³² of a line, so that reading it needs whole
/// numbers alone; the error stays below 2e-5 for lives that are not tiny against the reach. The lines belong to the
/// curve: every life factor reads the same.
pub(crate) struct AgeTable {
    ticks_a_year: f64,
    lines: Arc<Lines>,
}

impl AgeTable {
    const TICKS: f64 = 4_294_967_296.0;

    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn new(table: &Table, life_factor: f64, reach: f64) -> Self {
        let (lines, step) = table.lines(reach / life_factor).unwrap_or_else(|| {
            let step = reach / life_factor / (Table::LINES - 2) as f64;
            (Arc::new(table.in_lines(step)), step)
        });
        Self { ticks_a_year: Self::TICKS / (step * life_factor), lines }
    }

    /// Ticks in a year.
    pub(crate) fn per_year(&self) -> f64 {
        self.ticks_a_year
    }

    /// An age in ticks.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn ticks(&self, age: f64) -> u64 {
        (age * self.ticks_a_year) as u64
    }

    #[allow(clippy::cast_possible_truncation)]
    #[inline]
    pub(crate) fn at(&self, ticks: u64) -> f64 {
        let line = ((ticks >> 32) as usize).min(Table::LINES - 1);
        let (from, to) = (self.lines[line], self.lines[line + 1]);
        from + (to - from) * (f64::from(ticks as u32) * Self::TICKS.recip())
    }
}

/// Survival on one clock at a fixed distance beyond every past edge: the curve on a grid that the
/// past edges share, read between its points by cubic Hermite interpolation.
pub(crate) struct SurvivalGrid<'c> {
    table: &'c Table,
    life_factor: f64,
    step: f64,
    pub(crate) alive: Vec<f64>,
    slope: Vec<f64>,
}

/// A grid longer than this costs more than it saves.
const GRID_MOST: f64 = 4000.0;

/// Near zero a curve may be too steep to interpolate; there it is computed outright.
pub(crate) const OUTRIGHT: usize = 6;

impl<'c> SurvivalGrid<'c> {
    /// A grid of this step from 0 to beyond `reach`; none when it would be too long.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn new(table: &'c Table, life_factor: f64, step: f64, reach: f64) -> Option<Self> {
        if step <= 0.0 || reach / step > GRID_MOST {
            return None;
        }
        let (alive, slope) = table.on_grid(step / life_factor, (reach / step) as usize + 3);
        Some(Self { table, life_factor, step, alive, slope })
    }

    /// Multiplies `out[n]` by the survival at `n` steps and `beyond` more.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn multiply(&self, beyond: f64, out: &mut [f64]) {
        let at = beyond / self.step;
        let j = at as usize;
        let [h00, h10, h01, h11] = hermite(at - j as f64);
        let n = out.len();
        let (s0, s1) = (&self.alive[j..j + n], &self.alive[j + 1..j + 1 + n]);
        let (d0, d1) = (&self.slope[j..j + n], &self.slope[j + 1..j + 1 + n]);
        let outright = OUTRIGHT.saturating_sub(j).min(n);
        for (i, slot) in out.iter_mut().enumerate().take(outright) {
            *slot *= self.table.at((self.step * i as f64 + beyond) / self.life_factor);
        }
        for i in outright..n {
            out[i] *= h00 * s0[i] + h10 * d0[i] + h01 * s1[i] + h11 * d1[i];
        }
    }
}

/// A part that begins many cycles: its survival on the grids of the past edges, on both clocks.
pub struct PreparedPart<'c> {
    pub(crate) cycle: Cycle<'c>,
    pub(crate) usage: Option<SurvivalGrid<'c>>,
    /// On a path where usage and age run in proportion.
    pub(crate) age: Option<SurvivalGrid<'c>>,
    /// On a bent path with claims by age: survival by age, and the past edges' ages in its ticks.
    pub(crate) bent: Option<(AgeTable, Vec<u64>)>,
    /// Whether the grids hold everything that is claimed: they may be too long to be worth it.
    pub(crate) whole: bool,
}

impl<'c> PreparedPart<'c> {
    /// Prepares the part for a vehicle's path and for `ahead` more usage at `usage_a_year`.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn new(path: &PastPath, cycle: Cycle<'c>, ahead: f64, usage_a_year: f64) -> Self {
        let (curves, life_factor, cells) = (cycle.curves, cycle.life_factor, path.cells() as f64);
        let on_grid =
            |table: &'c Table, now: f64, ahead: f64| SurvivalGrid::new(table, life_factor, now / cells, now + ahead);
        let usage = curves.usage.as_ref().and_then(|t| on_grid(t, path.usage_now(), ahead));
        let bends = !path.is_straight();
        let age = curves.age.as_ref().filter(|_| !bends).and_then(|t| on_grid(t, path.age_now(), ahead / usage_a_year));
        let bent = curves.age.as_ref().filter(|_| bends).map(|t| {
            let table = AgeTable::new(t, life_factor, path.age_now() + ahead / usage_a_year);
            let ticks = (0..=path.cells()).map(|k| table.ticks(path.age(k))).collect();
            (table, ticks)
        });
        let whole = curves.usage.is_some() == usage.is_some()
            && curves.age.is_some() == (age.is_some() || bent.is_some())
            && path.usage_now() > 0.0;
        Self { cycle, usage, age, bent, whole }
    }
}

/// The parts prepared for one failure point, so that views of it with the same life factor share them.
#[derive(Default)]
pub struct PreparedParts<'c> {
    prepared: Vec<(f64, PreparedPart<'c>)>,
}

impl<'c> PreparedParts<'c> {
    /// The part for a cycle, reaching `ahead`.
    pub fn get(&mut self, path: &PastPath, cycle: Cycle<'c>, ahead: f64, usage_a_year: f64) -> &PreparedPart<'c> {
        let found = self.prepared.iter().position(|(reach, p)| reach.to_bits() == ahead.to_bits() && p.cycle.is(cycle));
        let at = found.unwrap_or_else(|| {
            self.prepared.push((ahead, PreparedPart::new(path, cycle, ahead, usage_a_year)));
            self.prepared.len() - 1
        });
        &self.prepared[at].1
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::weibull::Weibull;
    use crate::reliability::mixture::WeibullMixture;

    fn pool(shape: f64, scale: f64) -> WeibullMixture {
        WeibullMixture::new(vec![(1.0, Weibull::new(shape, scale).expect("curve"))])
    }

    #[test]
    fn the_table_keeps_to_the_curve() {
        for shape in [0.8, 1.0, 1.5, 3.0, 5.0, 12.0] {
            let pool = pool(shape, 60_000.0);
            let table = Table::new(&pool, 400_000.0).expect("claimed");
            for i in 0..5000 {
                let x = f64::from(i) * 77.7;
                let (got, exact) = (table.at(x), pool.survival(x));
                assert!((got - exact).abs() < 1e-5, "shape {shape} at {x}: {got} {exact}");
            }
        }
    }

    #[test]
    fn the_lattice_keeps_to_the_curve() {
        for shape in [0.8, 1.0, 1.5, 3.0, 5.0] {
            let pool = pool(shape, 60_000.0);
            let table = Table::new(&pool, 250_000.0).expect("claimed");
            let on_grid = SurvivalGrid::new(&table, 0.8, 500.0, 200_000.0).expect("short enough");
            for beyond in [0.0, 30.0, 499.0, 777.0, 80_333.0] {
                let mut out = vec![1.0; 200];
                on_grid.multiply(beyond, &mut out);
                for (i, got) in (0..).zip(&out) {
                    let exact = pool.survival((500.0 * f64::from(i) + beyond) / 0.8);
                    assert!((got - exact).abs() < 1e-5, "shape {shape} at {i} + {beyond}: {got} {exact}");
                }
            }
        }
    }

    #[test]
    fn the_age_table_keeps_to_the_curve() {
        for shape in [1.0, 3.0, 5.0] {
            let pool = pool(shape, 9.0);
            let curve = Table::new(&pool, 25.0).expect("claimed");
            let table = AgeTable::new(&curve, 0.8, 20.0);
            for i in 0..2000 {
                let age = f64::from(i) * 0.01;
                let got = table.at(table.ticks(age));
                assert!((got - pool.survival(age / 0.8)).abs() < 2e-4, "shape {shape} at {age}: {got}");
            }
        }
    }
}
