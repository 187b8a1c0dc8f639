//! Survival read off tables that many cycles of one part share: what makes §3 fast.

use crate::claims::Pool;
use crate::standing::{Cycle, PAST_CELLS, PastPath};

/// Survival by age, read off a fine table by straight lines: the error stays below 2e-5 for lives
/// that are not tiny against the vehicle's age. Ages are counted in 2⁻³² of a cell, so that reading it
/// needs whole numbers alone.
pub(crate) struct AgeTable {
    ticks_a_year: f64,
    /// Survival at a cell's beginning, and its rise over one tick.
    cells: Box<[(f64, f64); AgeTable::CELLS]>,
}

impl AgeTable {
    const CELLS: usize = 512;
    const TICKS: f64 = 4_294_967_296.0;

    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn new(pool: &Pool, kappa: f64, reach: f64) -> Self {
        let step = reach / (Self::CELLS - 2) as f64;
        let (alive, _) = pool.lattice(step / kappa, Self::CELLS + 1);
        let mut cells = Box::new([(0.0, 0.0); Self::CELLS]);
        for (cell, pair) in cells.iter_mut().zip(alive.windows(2)) {
            *cell = (pair[0], (pair[1] - pair[0]) / Self::TICKS);
        }
        Self { ticks_a_year: Self::TICKS / step, cells }
    }

    /// An age in ticks.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn ticks(&self, age: f64) -> u64 {
        (age * self.ticks_a_year) as u64
    }

    #[allow(clippy::cast_possible_truncation)]
    #[inline]
    pub(crate) fn at(&self, ticks: u64) -> f64 {
        let (alive, rise) = self.cells[(ticks >> 32) as usize % Self::CELLS];
        alive + rise * f64::from(ticks as u32)
    }
}

/// Survival on one clock at a fixed distance beyond every past edge: the curve on a lattice that the
/// past edges share, read between its points by cubic Hermite interpolation.
pub(crate) struct Lattice<'a> {
    pool: &'a Pool,
    kappa: f64,
    step: f64,
    pub(crate) alive: Vec<f64>,
    slope: Vec<f64>,
}

/// A lattice longer than this costs more than it saves.
const LATTICE_MOST: f64 = 4000.0;
/// Near zero a curve may be too steep to interpolate; there it is computed outright.
const OUTRIGHT: usize = 6;

impl<'a> Lattice<'a> {
    /// A lattice of this step from 0 to beyond `reach`; none when it would be too long.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn new(pool: &'a Pool, kappa: f64, step: f64, reach: f64) -> Option<Self> {
        if step <= 0.0 || reach / step > LATTICE_MOST {
            return None;
        }
        let (alive, slope) = pool.lattice(step / kappa, (reach / step) as usize + 3);
        Some(Self { pool, kappa, step, alive, slope })
    }

    /// Multiplies `out[n]` by the survival at `n` steps and `beyond` more.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn multiply(&self, beyond: f64, out: &mut [f64]) {
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

/// A part that begins many cycles: its survival on the lattices of the past edges, on both clocks.
pub struct Part<'a> {
    pub(crate) cycle: Cycle<'a>,
    pub(crate) usage: Option<Lattice<'a>>,
    /// On a path where usage and age run in proportion, or where nothing is claimed by age.
    pub(crate) age: Option<Lattice<'a>>,
    /// On a bent path with claims by age: survival by age, and the past edges' ages in its ticks.
    pub(crate) bent: Option<(AgeTable, Vec<u64>)>,
}

impl<'a> Part<'a> {
    /// Prepares the part for a vehicle's path and for `ahead` more usage at `usage_a_year`.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn new(path: &PastPath, cycle: Cycle<'a>, ahead: f64, usage_a_year: f64) -> Self {
        let (life, kappa, cells) = (cycle.life, cycle.kappa, PAST_CELLS as f64);
        let lattice = |pool, now: f64, ahead: f64| Lattice::new(pool, kappa, now / cells, now + ahead);
        let usage = lattice(&life.usage, path.usage_now(), ahead);
        let bends = !path.is_straight() && !life.age.is_empty();
        let age = if bends { Pool::NONE } else { &life.age };
        let bent = bends.then(|| {
            let table = AgeTable::new(&life.age, kappa, path.age_now() + ahead / usage_a_year);
            let ticks = (0..=PAST_CELLS).map(|k| table.ticks(path.age(k))).collect();
            (table, ticks)
        });
        Self { cycle, usage, age: lattice(age, path.age_now(), ahead / usage_a_year), bent }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::claims::Weibull;

    #[test]
    fn the_lattice_keeps_to_the_curve() {
        for shape in [0.8, 1.0, 1.5, 3.0, 5.0] {
            let pool = Pool::new(vec![(1.0, Weibull::new(shape, 60_000.0).expect("curve"))]);
            let lattice = Lattice::new(&pool, 0.8, 500.0, 200_000.0).expect("short enough");
            for beyond in [0.0, 30.0, 499.0, 777.0, 80_333.0] {
                let mut out = vec![1.0; 200];
                lattice.multiply(beyond, &mut out);
                for (i, got) in (0..).zip(&out) {
                    let exact = pool.alive((500.0 * f64::from(i) + beyond) / 0.8);
                    assert!((got - exact).abs() < 1e-6, "shape {shape} at {i} + {beyond}: {got} {exact}");
                }
            }
        }
    }

    #[test]
    fn the_age_table_keeps_to_the_curve() {
        for shape in [1.0, 3.0, 5.0] {
            let pool = Pool::new(vec![(1.0, Weibull::new(shape, 9.0).expect("curve"))]);
            let table = AgeTable::new(&pool, 0.8, 20.0);
            for i in 0..2000 {
                let age = f64::from(i) * 0.01;
                let got = table.at(table.ticks(age));
                assert!((got - pool.alive(age / 0.8)).abs() < 2e-4, "shape {shape} at {age}: {got}");
            }
        }
    }
}
