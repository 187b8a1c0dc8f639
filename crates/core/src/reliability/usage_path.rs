//! The path of one vehicle: its age along its usage, from build to now.
//!
//! docs/METHOD.md, section 3.

/// Cells of usage from build to now, where a vehicle has run evenly.
pub const PAST_CELLS: usize = 56;

/// A cell may span so many times the years of an even one; beyond, cells are made shorter.
const EVEN: f64 = 2.0;

/// At most so many times shorter.
const SHORTEST: f64 = 2.0;

/// Cells come in so many: sums are taken in as many strands.
const STRANDS: f64 = 8.0;

/// The vehicle's age along its usage: edges of the past grid.
#[derive(Debug, Clone, PartialEq)]
pub struct PastPath {
    usage_now: f64,
    pub(crate) ages: Vec<f64>,
    straight: bool,
}

impl PastPath {
    /// The path through `(0, 0)`, the accepted readings `(usage, age)` in rising order, and now.
    /// Readings outside the path's rise are passed over. Where much time went by with little usage cells are shorter.
    #[must_use]
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
    pub fn new(usage_now: f64, age_now: f64, readings: &[(f64, f64)]) -> Self {
        let path = Self::of_cells(PAST_CELLS, usage_now, age_now, readings);
        let finer = (path.unevenness() / EVEN).sqrt().clamp(1.0, SHORTEST);
        let cells = ((PAST_CELLS as f64 * finer / STRANDS).ceil() * STRANDS) as usize;
        if cells > PAST_CELLS { Self::of_cells(cells, usage_now, age_now, readings) } else { path }
    }

    /// The longest time in one cell, against that in an even one.
    #[allow(clippy::cast_precision_loss)]
    fn unevenness(&self) -> f64 {
        let longest = self.ages.windows(2).map(|a| a[1] - a[0]).fold(0.0, f64::max);
        if self.age_now() > 0.0 { longest * self.cells() as f64 / self.age_now() } else { 1.0 }
    }

    /// The same in so many cells: fewer are faster and coarser.
    #[must_use]
    pub fn of_cells(cells: usize, usage_now: f64, age_now: f64, readings: &[(f64, f64)]) -> Self {
        let mut knots = vec![(0.0, 0.0)];
        for &(u, a) in readings {
            let (lu, la) = knots[knots.len() - 1];
            if u > lu && a > la && u < usage_now && a < age_now {
                knots.push((u, a));
            }
        }
        let straight = knots.len() == 1;
        knots.push((usage_now, age_now));
        let mut segment = 0;
        #[allow(clippy::cast_precision_loss)]
        let ages = (0..=cells)
            .map(|i| {
                let u = usage_now * i as f64 / cells as f64;
                while segment + 2 < knots.len() && u > knots[segment + 1].0 {
                    segment += 1;
                }
                let ((u0, a0), (u1, a1)) = (knots[segment], knots[segment + 1]);
                if u1 > u0 { a0 + (a1 - a0) * (u - u0) / (u1 - u0) } else { age_now * i as f64 / cells as f64 }
            })
            .collect();
        Self { usage_now, ages, straight }
    }

    /// Cells of usage from build to now.
    #[must_use]
    pub fn cells(&self) -> usize {
        self.ages.len() - 1
    }

    /// Usage now.
    #[must_use]
    pub fn usage_now(&self) -> f64 {
        self.usage_now
    }

    /// Age now, years.
    #[must_use]
    pub fn age_now(&self) -> f64 {
        self.ages[self.cells()]
    }

    /// Age at edge `k`.
    #[must_use]
    pub fn age(&self, k: usize) -> f64 {
        self.ages[k]
    }

    /// Usage at edge `k`.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn usage(&self, k: usize) -> f64 {
        self.usage_now * k as f64 / self.cells() as f64
    }

    /// Usage at an age, along the path.
    #[must_use]
    pub fn usage_at(&self, age: f64) -> f64 {
        let after = self.ages.partition_point(|a| *a < age);
        if after == 0 {
            return 0.0;
        }
        if after > self.cells() {
            return self.usage_now;
        }
        let (a0, a1) = (self.ages[after - 1], self.ages[after]);
        let (u0, u1) = (self.usage(after - 1), self.usage(after));
        if a1 > a0 { u0 + (u1 - u0) * (age - a0) / (a1 - a0) } else { u1 }
    }

    /// Age at a usage, along the path.
    #[must_use]
    pub fn age_at(&self, usage: f64) -> f64 {
        self.age_in(self.place(usage))
    }

    /// Where on the path a usage lies, in cells from build: 0 to [`Self::cells`].
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn place(&self, usage: f64) -> f64 {
        let cells = self.cells() as f64;
        if self.usage_now > 0.0 { (usage / self.usage_now * cells).clamp(0.0, cells) } else { cells }
    }

    /// The cell that a place lies in; none at the end of the path.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn cell(&self, place: f64) -> Option<usize> {
        Some(place as usize).filter(|cell| *cell < self.cells())
    }

    /// Usage at a place.
    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn usage_in(&self, place: f64) -> f64 {
        self.usage_now * place / self.cells() as f64
    }

    /// Age at a place, years.
    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn age_in(&self, place: f64) -> f64 {
        let Some(i) = self.cell(place) else { return self.age_now() };
        self.ages[i] + (self.ages[i + 1] - self.ages[i]) * (place - i as f64)
    }

    /// Whether usage and age have run in proportion, so that survival depends on distance alone.
    #[must_use]
    pub fn is_straight(&self) -> bool {
        self.straight
    }
}
