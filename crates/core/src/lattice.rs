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

    /// Σ `weight[n]` × survival at `n` steps and each of `beyond` more (ascending): the sums over the
    /// lattice are taken once for all that lie between the same two of its points.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn sums(&self, weight: &[f64], beyond: impl Iterator<Item = f64>) -> Vec<f64> {
        let mut at_point: Vec<Option<(f64, f64)>> = vec![None; self.alive.len()];
        let n = weight.len();
        let mut sum_at = |j: usize| {
            *at_point[j].get_or_insert_with(|| (dot(weight, &self.alive[j..j + n]), dot(weight, &self.slope[j..j + n])))
        };
        let mut terms = vec![0.0; n];
        beyond
            .map(|y| {
                let at = y / self.step;
                let j = at as usize;
                if j < OUTRIGHT {
                    terms.copy_from_slice(weight);
                    self.multiply(y, &mut terms);
                    return terms.iter().sum();
                }
                let [h00, h10, h01, h11] = hermite(at - j as f64);
                let ((s0, d0), (s1, d1)) = (sum_at(j), sum_at(j + 1));
                h00 * s0 + h10 * d0 + h01 * s1 + h11 * d1
            })
            .collect()
    }

    /// Multiplies `out[n]` by the survival at `n` steps and `beyond` more.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn multiply(&self, beyond: f64, out: &mut [f64]) {
        if self.alive.is_empty() {
            return;
        }
        let at = beyond / self.step;
        let j = at as usize;
        let [h00, h10, h01, h11] = hermite(at - j as f64);
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

/// The cubic Hermite weights of value and slope at both ends, `t` of the way between them.
fn hermite(t: f64) -> [f64; 4] {
    let (t2, t3) = (t * t, t * t * t);
    [2.0 * t3 - 3.0 * t2 + 1.0, t3 - 2.0 * t2 + t, 3.0 * t2 - 2.0 * t3, t3 - t2]
}

/// A sum of products in eight strands, which the machine can add side by side.
pub(crate) fn dot(x: &[f64], y: &[f64]) -> f64 {
    let (a, b) = (x.chunks_exact(8), y.chunks_exact(8));
    let rest: f64 = a.remainder().iter().zip(b.remainder()).map(|(p, q)| p * q).sum();
    let mut strands = [0.0; 8];
    for (p, q) in a.zip(b) {
        for i in 0..8 {
            strands[i] += p[i] * q[i];
        }
    }
    strands.iter().sum::<f64>() + rest
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

/// The parts prepared for one failure point, so that views of it with the same life factor share them.
#[derive(Default)]
pub struct Parts<'a> {
    prepared: Vec<(f64, Part<'a>)>,
}

impl<'a> Parts<'a> {
    /// The part for a cycle, reaching at least `ahead`.
    pub fn get(&mut self, path: &PastPath, cycle: Cycle<'a>, ahead: f64, usage_a_year: f64) -> &Part<'a> {
        let found = self.prepared.iter().position(|(reach, p)| *reach >= ahead && p.cycle.is(cycle));
        let at = found.unwrap_or_else(|| {
            self.prepared.push((ahead, Part::new(path, cycle, ahead, usage_a_year)));
            self.prepared.len() - 1
        });
        &self.prepared[at].1
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
