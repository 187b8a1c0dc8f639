//! Survival read off tables: each mixture is computed once on a fine table; every life factor, start and
//! remaining life then reads that table by cubic interpolation.

use std::sync::{Arc, OnceLock};

use crate::base::budget::Budget;
use crate::base::memory::KeyOf;
use crate::base::numeric::{hermite, whole_and_part};
use crate::reliability::mixture::{Life, WeibullMixture};

/// A pool's survival by cubic interpolation between `Table::CELLS` equal cells; the error stays below
/// 1e-5. Beyond the last cell it is taken from the curves themselves.
#[derive(Debug, Clone)]
pub struct Table {
    pool: WeibullMixture,
    per_x: f64,
    /// Survival at each cell's beginning, and its slope over one cell.
    points: Arc<[(f64, f64)]>,
    /// The same in finer steps to be read off by straight lines, where it is asked for.
    lines: Arc<OnceLock<Arc<Lines>>>,
}

/// Survival where each line begins, and where the last one ends.
pub(crate) type Lines = [f64; Table::LINES + 1];

impl Table {
    const CELLS: usize = 320;
    /// So many straight lines.
    pub(crate) const LINES: usize = 1024;
    /// Near zero a curve may be too steep to interpolate; there it is computed outright.
    const OUTRIGHT: f64 = 4.0;

    /// A table from 0 to `reach` or to where nothing is left alive, whichever is nearer; none where
    /// nothing is claimed.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn new(pool: &WeibullMixture, reach: f64) -> Option<Self> {
        if pool.is_empty() {
            return None;
        }
        let step = (reach.min(pool.exhausted()) / Self::CELLS as f64).max(f64::MIN_POSITIVE);
        let (alive, slope) = pool.on_grid(step, Self::CELLS + 1);
        let points = alive.into_iter().zip(slope).collect();
        Some(Self { pool: pool.clone(), per_x: 1.0 / step, points, lines: Arc::default() })
    }

    /// How far it reaches.
    #[allow(clippy::cast_precision_loss)]
    fn reach(&self) -> f64 {
        Self::CELLS as f64 / self.per_x
    }

    /// Straight lines as far as it reaches, with the length of one; none where more is asked for and something may
    /// still be alive there.
    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn lines(&self, reach: f64) -> Option<(Arc<Lines>, f64)> {
        if reach > self.reach() && self.reach() < self.pool.exhausted() {
            return None;
        }
        let step = self.reach() / (Self::LINES - 2) as f64;
        Some((Arc::clone(self.lines.get_or_init(|| Arc::new(self.in_lines(step)))), step))
    }

    /// Straight lines of this length from 0 on.
    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn in_lines(&self, step: f64) -> Lines {
        let rise = step * self.per_x;
        let mut out = [1.0; Self::LINES + 1];
        let mut lines = (1u32..).map(|n| (f64::from(n) * rise, f64::from(n) * step)).zip(&mut out[1..]).peekable();
        while let Some(((_, x), slot)) = lines.next_if(|((at, _), _)| *at < Self::OUTRIGHT) {
            *slot = self.pool.survival(x);
        }
        // The lines that begin in one cell share its cubic, by powers of the way through it.
        for (begin, ends) in (0u32..).map(f64::from).zip(self.points.windows(2)) {
            let ((s0, d0), (s1, d1)) = (ends[0], ends[1]);
            let (square, cube) = (3.0 * (s1 - s0) - 2.0 * d0 - d1, 2.0 * (s0 - s1) + d0 + d1);
            while let Some(((at, _), slot)) = lines.next_if(|((at, _), _)| *at < begin + 1.0) {
                let t = at - begin;
                *slot = s0 + t * (d0 + t * (square + t * cube));
            }
        }
        lines.for_each(|((_, x), slot)| *slot = self.pool.survival(x));
        out
    }

    /// Share alive at `x ≥ 0`.
    #[must_use]
    #[inline]
    pub fn at(&self, x: f64) -> f64 {
        let at = x * self.per_x;
        let (i, t) = whole_and_part(at);
        if at < Self::OUTRIGHT || i >= Self::CELLS {
            return self.pool.survival(x);
        }
        let [h00, h10, h01, h11] = hermite(t);
        let ((s0, d0), (s1, d1)) = (self.points[i], self.points[i + 1]);
        h00 * s0 + h10 * d0 + h01 * s1 + h11 * d1
    }

    /// Survival at 0, `step`, 2 `step` …, and its slope there times `step` (0 at 0).
    pub(crate) fn on_grid(&self, step: f64, count: usize) -> (Vec<f64>, Vec<f64>) {
        let (mut alive, mut slope) = (Vec::with_capacity(count), Vec::with_capacity(count));
        let rise = step * self.per_x;
        for n in (0u32..).map(f64::from).take(count) {
            let at = n * rise;
            let (i, t) = whole_and_part(at);
            if at < Self::OUTRIGHT || i >= Self::CELLS {
                let x = n * step;
                alive.push(self.pool.survival(x));
                slope.push(if n > 0.0 { self.pool.slope(x) * step } else { 0.0 });
            } else {
                let [h00, h10, h01, h11] = hermite(t);
                let ((s0, d0), (s1, d1)) = (self.points[i], self.points[i + 1]);
                alive.push(h00 * s0 + h10 * d0 + h01 * s1 + h11 * d1);
                let along =
                    6.0 * t * (t - 1.0) * (s0 - s1) + (3.0 * t * t - 4.0 * t + 1.0) * d0 + (3.0 * t * t - 2.0 * t) * d1;
                slope.push(along * rise);
            }
        }
        (alive, slope)
    }
}

/// A life's tables on both clocks; none on a clock of which nothing is claimed.
#[derive(Debug, Clone)]
pub struct Curves {
    /// On the usage clock.
    pub usage: Option<Table>,
    /// On the age clock.
    pub age: Option<Table>,
}

impl Curves {
    /// Tables that reach as far as asked on each clock, life factors counted in.
    #[must_use]
    pub fn new(life: &Life, usage: f64, age: f64) -> Self {
        Self { usage: Table::new(&life.usage, usage), age: Table::new(&life.age, age) }
    }

    /// About how many bytes they take.
    #[must_use]
    pub fn bytes(&self) -> usize {
        let lines = self.age.as_ref().map_or(0, |_| size_of::<Lines>());
        [&self.usage, &self.age].into_iter().flatten().map(|t| 16 * t.points.len() + 256).sum::<usize>() + lines
    }

    /// Share alive after usage `u` and age `a`, each stretched by the life factor.
    #[must_use]
    #[inline]
    pub fn survival(&self, u: f64, a: f64, life_factor: f64) -> f64 {
        self.usage.as_ref().map_or(1.0, |t| t.at(u / life_factor))
            * self.age.as_ref().map_or(1.0, |t| t.at(a / life_factor))
    }
}

/// At least as far, in a few steps for every doubling: a table then seldom changes with what is asked of it.
#[must_use]
pub(crate) fn stepwise(reach: f64) -> f64 {
    const STEPS: f64 = 4.0;
    if reach > 0.0 { ((reach.log2() * STEPS).ceil() / STEPS).exp2() } else { reach }
}

/// The tables of a point's first and revised part, made when they are first read.
#[derive(Debug, Clone)]
pub struct PointCurves<'a> {
    lives: [&'a Life; 2],
    reach: (f64, f64),
    budget: &'a Budget<'a>,
    first: OnceLock<Curves>,
    revised: OnceLock<Curves>,
}

impl<'a> PointCurves<'a> {
    /// Tables for both lives that reach at least so far in usage and age; one serves for both where they are the same.
    #[must_use]
    pub fn new(first: &'a Life, revised: &'a Life, usage: f64, age: f64, budget: &'a Budget<'a>) -> Self {
        let reach = (stepwise(usage), stepwise(age));
        Self { lives: [first, revised], reach, budget, first: OnceLock::new(), revised: OnceLock::new() }
    }

    /// The tables of a life. They belong to the sheet: whoever asks for the same life has them from memory.
    fn tables(&self, life: &Life) -> Curves {
        let (usage, age) = self.reach;
        let key = || {
            let mut out = KeyOf::kind("tables");
            life.key(&mut out);
            out.figures(&[usage, age]);
            out.key()
        };
        self.budget.remembered_for_all(key, Curves::bytes, || Curves::new(life, usage, age))
    }

    /// How far they reach in usage and age.
    #[must_use]
    pub fn reach(&self) -> (f64, f64) {
        self.reach
    }

    /// As first built.
    #[must_use]
    pub fn first(&self) -> &Curves {
        self.first.get_or_init(|| self.tables(self.lives[0]))
    }

    /// Of the revised part; those of the first where there is none.
    #[must_use]
    pub fn revised(&self) -> &Curves {
        if self.lives[0] == self.lives[1] {
            return self.first();
        }
        self.revised.get_or_init(|| self.tables(self.lives[1]))
    }
}

/// The part that a cycle runs on: its life and its life factor (use, care and grade together).
#[derive(Debug, Clone, Copy)]
pub struct Cycle<'a> {
    /// Its life curves.
    pub curves: &'a Curves,
    /// Its life factor κ, positive.
    pub life_factor: f64,
}

impl Cycle<'_> {
    /// Whether both run on the very same part.
    #[must_use]
    pub fn is(self, other: Cycle<'_>) -> bool {
        std::ptr::eq(self.curves, other.curves) && self.life_factor.to_bits() == other.life_factor.to_bits()
    }
}
