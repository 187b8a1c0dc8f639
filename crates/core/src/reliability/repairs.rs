//! Where the failures of the past lead: how long the fault is there, and where its repair begins the next cycle.
//!
//! docs/METHOD.md, section 3.

use std::cmp::Ordering;

use crate::base::numeric::{dot, whole_and_part};
use crate::reliability::usage_path::PastPath;

/// What becomes of the failures in each past cell, for one length of time that owners live with the fault.
///
/// A failure lies anywhere in its cell, and its repair that long after it: between two edges. It begins the next
/// cycle at both, in such shares that the middle is kept, so that the error falls with the square of a cell.
pub(crate) struct Repairs {
    /// Cells of the path from build to now.
    cells: usize,
    /// How long owners live with it, in cells.
    delay: f64,
    /// Failures in cells beyond this are not mended yet, and of those in this cell a part.
    still_there: usize,
    /// Of the failures in that cell, the share that is there still; 0 to 1.
    part: f64,
    /// What becomes of those in cells before it: all are mended whole. The edge is told from the cell's beginning.
    mended: Fate,
    /// What becomes of those in that cell.
    last: Fate,
}

/// What becomes of the failures in one cell, as shares of them.
#[derive(Clone, Copy)]
pub(crate) struct Fate {
    /// Not mended yet.
    pub there: f64,
    /// The edge at which a repair begins the next cycle, with its share, and with that of the edge after it.
    edge: usize,
    here: f64,
    next: f64,
}

impl Fate {
    /// Adds what these failures begin.
    pub fn begin(&self, failed: f64, starts: &mut [f64]) {
        if let Some(slot) = starts.get_mut(self.edge) {
            *slot += failed * self.here;
        }
        if let Some(slot) = starts.get_mut(self.edge + 1) {
            *slot += failed * self.next;
        }
    }
}

/// Rounding of miles, as a share of the usage now.
const ROUNDING: f64 = 1e-9;

impl Repairs {
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
    pub fn new(path: &PastPath, repair_delay: f64) -> Self {
        let cells = path.cells() as f64;
        // Never so long that it would begin before build.
        let delay = if repair_delay > 0.0 { (repair_delay * cells / path.usage_now()).min(cells + 1.0) } else { 0.0 };
        let still_there = ((cells * (1.0 + ROUNDING) - delay).max(0.0) as usize).min(path.cells());
        let part =
            if still_there < path.cells() { (still_there as f64 + 1.0 + delay - cells).clamp(0.0, 1.0) } else { 0.0 };
        let (edge, next) = whole_and_part(0.5 + delay);
        let mended = Fate { there: 0.0, edge, here: 1.0 - next, next };
        let mut out = Self { cells: path.cells(), delay, still_there, part, mended, last: mended };
        out.last = out.in_part_of_a_cell(still_there as f64, still_there);
        out
    }

    /// What becomes of failures between a place in a cell and the cell's end.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
    pub fn in_part_of_a_cell(&self, from: f64, cell: usize) -> Fate {
        let (now, end) = (self.cells as f64, cell as f64 + 1.0);
        let late = end + self.delay - now;
        let there = if late > now * ROUNDING { (late / (end - from)).min(1.0) } else { 0.0 };
        let mended = 1.0 - there;
        let at = (from + mended * (end - from) / 2.0 + self.delay).min(now);
        let edge = at as usize;
        let next = (at - edge as f64) * mended;
        Fate { there, edge, here: mended - next, next }
    }

    /// The same for a whole cell.
    fn of(&self, cell: usize) -> Fate {
        match cell.cmp(&self.still_there) {
            Ordering::Less => Fate { edge: cell + self.mended.edge, ..self.mended },
            Ordering::Equal => self.last,
            Ordering::Greater => Fate { there: 1.0, edge: cell, here: 0.0, next: 0.0 },
        }
    }

    /// Of the failures in the cell after edge `k`, the share whose repair begins at that edge again.
    pub fn at_once(&self, k: usize) -> f64 {
        let fate = self.of(k);
        if fate.edge == k { fate.here } else { 0.0 }
    }

    /// Adds the repairs of a cycle with these failures in the cells from edge `k` on.
    pub fn add(&self, k: usize, fails: &[f64], weight: f64, starts: &mut [f64]) {
        let whole = self.still_there.saturating_sub(k).min(fails.len());
        if whole > 0 {
            // The same for all cells that are mended whole.
            let Fate { edge, here, next, .. } = self.of(k);
            let (here, next) = (here * weight, next * weight);
            let starts = &mut starts[edge..];
            starts[0] += fails[0] * here;
            let both = starts[1..].iter_mut().zip(fails[..whole].windows(2));
            both.for_each(|(s, f)| *s += f[1] * here + f[0] * next);
            if let Some(last) = starts.get_mut(whole) {
                *last += fails[whole - 1] * next;
            }
        }
        if let Some(f) = self.still_there.checked_sub(k).and_then(|at| fails.get(at)) {
            self.of(self.still_there).begin(f * weight, starts);
        }
    }

    /// Of a cycle that stands at edge `k` with survival `row` from there on, what failed since and is there still.
    pub fn there(&self, k: usize, row: &[f64]) -> f64 {
        let Some(survived) = row.last() else { return 0.0 };
        if self.still_there >= k && self.still_there < self.cells {
            let at = self.still_there - k;
            self.part * (row[at] - row[at + 1]) + row[at + 1] - survived
        } else {
            row[self.still_there.max(k) - k] - survived
        }
    }

    /// Adds to the starts those of the repairs that each of them leads to, in rising order, where failures depend on
    /// distance alone; and to `past`, where it is asked for, the failures themselves.
    pub fn renew(&self, fails: &[f64], weight: f64, starts: &mut [f64], past: &mut [f64]) {
        let Some(first) = starts.iter().position(|m| *m > 0.0) else { return };
        // By distance from the failure back to the start, the farthest first.
        let back: Vec<f64> = fails.iter().rev().copied().collect();
        let mended = if self.part < 1.0 { (self.still_there + 1).min(self.cells) } else { self.still_there };
        for cell in first..mended.max(past.len()) {
            let earlier = dot(&starts[first..cell], &back[back.len() - 1 - (cell - first)..back.len() - 1]);
            let mut fate = self.of(cell);
            if fate.edge == cell {
                // What fails at once begins here again, and so on.
                starts[cell] = (starts[cell] + weight * fate.here * earlier) / (1.0 - weight * fate.here * fails[0]);
                fate.here = 0.0;
            }
            let failed = earlier + starts[cell] * fails[0];
            fate.begin(failed * weight, starts);
            if let Some(slot) = past.get_mut(cell) {
                *slot += failed;
            }
        }
    }
}
