//! The condition of a failure point now, given the vehicle's history.
//!
//! A vehicle of this usage and age is followed from build to now in equal cells of usage. Each cycle of the
//! part begins at build, at a renewal on paper, or at a repair that nobody recorded. The masses left at the
//! end are: immune, failed and still there, or alive since some start.
//!
//! docs/METHOD.md, section 3.

use crate::base::numeric::dot;
use crate::reliability::lump::Lump;
use crate::reliability::survival_grid::{AgeTable, PreparedPart};
use crate::reliability::survival_table::{Cycle, Table};
use crate::reliability::usage_path::PastPath;

/// A renewal on paper.
#[derive(Debug, Clone, Copy)]
pub struct Renewal<'a> {
    /// The edge at which it was fitted.
    pub edge: usize,
    /// How far it is believed, 0 to 1.
    pub credibility: f64,
    /// The part fitted.
    pub cycle: Cycle<'a>,
    /// Of those susceptible before, the share that still is with this part.
    pub still_susceptible: f64,
    /// How likely a sound part is renewed, against one that has failed (b): 0 where it is known to have failed,
    /// infinite where it was renewed in good time.
    pub in_good_time: f64,
}

/// What [`condition_now`] needs to know.
#[derive(Clone)]
pub struct History<'a> {
    /// Susceptible share at build (π).
    pub share: f64,
    /// The part fitted at build.
    pub build: Cycle<'a>,
    /// Renewals on paper, in order of usage.
    pub renewals: Vec<Renewal<'a>>,
    /// The part of a repair that nobody recorded.
    pub unrecorded: &'a PreparedPart<'a>,
    /// Share of failures that the vehicle survives (σ).
    pub survivable: f64,
    /// Chance that a repair left a paper (ρ).
    pub completeness: f64,
    /// Cycles begun on paper before this edge have their scheduled renewal overdue; 0 where none is scheduled. What was
    /// repaired without a paper is taken to be overdue as often as these.
    pub kept_from: usize,
    /// Whether the failures of past cells are asked for.
    pub trace: bool,
}

/// A cycle alive now: begun at an edge, on a part, with a mass.
#[derive(Debug, Clone, Copy)]
pub struct Alive<'a> {
    /// Edge at which it began.
    pub edge: usize,
    /// The part it runs on.
    pub cycle: Cycle<'a>,
    /// Share of all vehicles of this history in this state.
    pub mass: f64,
    /// Survival from the start to now.
    pub survived: f64,
    /// Chance that its scheduled renewal is overdue.
    pub overdue: f64,
}

/// Where the point stands now; masses sum to 1.
#[derive(Debug, Clone)]
pub struct Condition<'a> {
    /// Failed and not mended.
    pub present: f64,
    /// Will never fail.
    pub immune: f64,
    /// Of these two, what belongs to cycles whose scheduled renewal is overdue.
    pub overdue: Overdue,
    /// Alive, by start.
    pub alive: Vec<Alive<'a>>,
    /// Share of vehicles built that come to be offered in this state (Z).
    pub offered: f64,
    /// Expected failures in each past cell, per vehicle built and before conditioning; zeros unless
    /// asked for.
    pub past: Vec<f64>,
}

/// Masses of cycles whose scheduled renewal is overdue.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Overdue {
    /// Whether there may be any.
    pub any: bool,
    /// Failed and not mended.
    pub present: f64,
    /// Will never fail.
    pub immune: f64,
}

/// Survival of one part from a start edge to every later edge.
struct Survival<'p, 'a> {
    cycle: Cycle<'a>,
    /// By distance: survival on both clocks on a straight path, on the usage clock on a bent one.
    by_distance: Vec<f64>,
    /// On a straight path: failures in each cell, by distance.
    fails: Vec<f64>,
    bent: Bent<'p>,
}

/// How age enters on a path where it does not run with usage.
enum Bent<'p> {
    /// Not at all: the distance tells everything.
    Not,
    /// From the curve itself: for a part that begins one cycle alone.
    Once,
    /// From a table and the edges' ages in its ticks: for a part that begins many.
    Often(&'p AgeTable, &'p [u64]),
}

impl<'p, 'a> Survival<'p, 'a> {
    fn once(path: &PastPath, cycle: Cycle<'a>) -> Self {
        let by_usage = |t: &Table| (0..=path.cells()).map(|d| t.at(path.usage(d) / cycle.life_factor)).collect();
        let by_distance = cycle.curves.usage.as_ref().map_or_else(|| vec![1.0; path.cells() + 1], by_usage);
        Self::of(cycle, by_distance, if cycle.curves.age.is_none() { Bent::Not } else { Bent::Once })
    }

    fn of(cycle: Cycle<'a>, by_distance: Vec<f64>, bent: Bent<'p>) -> Self {
        let mut fails = vec![0.0; by_distance.len() - 1];
        if matches!(bent, Bent::Not) {
            differences(&by_distance, &mut fails);
        }
        Self { cycle, by_distance, fails, bent }
    }

    fn often(path: &PastPath, part: &'p PreparedPart<'a>) -> Self {
        if !part.whole {
            return Self::once(path, part.cycle);
        }
        let mut by_distance = vec![1.0; path.cells() + 1];
        for on_grid in part.usage.iter().chain(&part.age) {
            by_distance.iter_mut().zip(&on_grid.alive).for_each(|(s, u)| *s *= u);
        }
        let bent = part.bent.as_ref().map_or(Bent::Not, |(table, ticks)| Bent::Often(table, ticks));
        Self::of(part.cycle, by_distance, bent)
    }

    /// Survival from edge `k` to edges `k..=N`, and failures in the cells between; `buffer` is lent.
    fn row<'b>(&'b self, path: &PastPath, k: usize, buffer: &'b mut RowBuffer) -> (&'b [f64], &'b [f64]) {
        let cells = path.cells() - k;
        let row = &mut buffer.row[..=cells];
        match &self.bent {
            Bent::Not => return (&self.by_distance[..=cells], &self.fails[..cells]),
            Bent::Once => {
                let (start, life_factor) = (path.age(k), self.cycle.life_factor);
                for ((slot, age), usage) in row.iter_mut().zip(&path.ages[k..]).zip(&self.by_distance) {
                    *slot = usage * self.cycle.curves.age.as_ref().map_or(1.0, |t| t.at((age - start) / life_factor));
                }
            }
            Bent::Often(table, ticks) => {
                // One pass for both: what is lost in a cell is what its ends differ by.
                let (start, mut last) = (ticks[k], 1.0);
                row[0] = 1.0;
                let ends = row[1..].iter_mut().zip(&mut buffer.fails[..cells]);
                for ((slot, fail), (now, usage)) in ends.zip(ticks[k + 1..].iter().zip(&self.by_distance[1..])) {
                    *slot = usage * table.at(now - start);
                    *fail = last - *slot;
                    last = *slot;
                }
                return (row, &buffer.fails[..cells]);
            }
        }
        let fails = &mut buffer.fails[..cells];
        differences(row, fails);
        (row, fails)
    }
}

/// RowBuffer for one row.
struct RowBuffer {
    row: Vec<f64>,
    fails: Vec<f64>,
}

/// What is lost from each edge to the next.
fn differences(alive: &[f64], out: &mut [f64]) {
    out.iter_mut().zip(alive.iter().zip(&alive[1..])).for_each(|(f, (a, b))| *f = a - b);
}

/// Where the repair of a failure in each past cell begins the next cycle; failures in cells beyond `still_there`
/// are not mended yet, and of those in that cell a share.
struct Repairs {
    /// Cells of the path from build to now.
    cells: usize,
    still_there: usize,
    /// Of the failures in that cell, the share that is there still; 0 to 1.
    part: f64,
    /// Edges from the cell's beginning to the repair.
    shift: usize,
}

/// Rounding of miles, as a share of the usage now.
const ROUNDING: f64 = 1e-9;

impl Repairs {
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
    fn new(path: &PastPath, repair_delay: f64) -> Self {
        // Never so long that a repair would fall beyond now.
        let steps = (repair_delay * path.cells() as f64 / path.usage_now()).min(path.cells() as f64);
        let now = path.usage_now();
        let beyond_now = |i: usize| path.usage(i + 1) + repair_delay > now * (1.0 + ROUNDING);
        let near = path.cells().saturating_sub(steps as usize + 2);
        let still_there = (near..path.cells()).find(|&i| beyond_now(i)).unwrap_or(path.cells());
        let part = if still_there < path.cells() {
            ((path.usage(still_there + 1) + repair_delay - now) * path.cells() as f64 / now).clamp(0.0, 1.0)
        } else {
            0.0
        };
        Self { cells: path.cells(), still_there, part, shift: 1 + steps.round() as usize }
    }

    /// Adds to the starts those of the repairs that each of them leads to, in rising order, where
    /// failures depend on distance alone; and to `past`, where it is asked for, the failures themselves.
    fn renew(&self, fails: &[f64], weight: f64, starts: &mut [f64], past: &mut [f64]) {
        let Some(first) = starts.iter().position(|m| *m > 0.0) else { return };
        // By distance from the failure back to the start, the farthest first.
        let back: Vec<f64> = fails.iter().rev().copied().collect();
        let mended = self.still_there.min(starts.len().saturating_sub(self.shift));
        let split = if self.part < 1.0 { (self.still_there + 1).min(self.cells) } else { 0 };
        for cell in first..mended.max(past.len()).max(split) {
            let far = back.len() - 1 - (cell - first);
            let failed = dot(&starts[first..=cell], &back[far..]);
            if cell < mended {
                starts[cell + self.shift] += failed * weight;
            } else if cell == self.still_there {
                starts[(cell + self.shift).min(self.cells)] += failed * weight * (1.0 - self.part);
            }
            if let Some(slot) = past.get_mut(cell) {
                *slot += failed;
            }
        }
    }

    /// Adds the repairs of a cycle begun at edge `k` with these failures; what would begin before the edge `least`
    /// begins there.
    fn add(&self, k: usize, fails: &[f64], weight: f64, starts: &mut [f64], least: usize) {
        let begin = k + self.shift;
        let mended = &fails[..self.still_there.saturating_sub(k).min(fails.len())];
        let (early, later) = mended.split_at(least.saturating_sub(begin).min(mended.len()));
        if !early.is_empty() {
            starts[least] += early.iter().sum::<f64>() * weight;
        }
        starts.iter_mut().skip(begin.max(least)).zip(later).for_each(|(s, f)| *s += f * weight);
        if let Some(f) = self.still_there.checked_sub(k).and_then(|at| fails.get(at)) {
            let at = (self.still_there + self.shift).min(self.cells).max(least);
            starts[at] += f * weight * (1.0 - self.part);
        }
    }
}

/// Masses below this are not followed further; a vehicle's chances are shown in whole percents.
const NEGLIGIBLE: f64 = 1e-10;

/// One history as it is followed: of the same part, with one length of time for which owners live with
/// the fault.
struct Follow<'a> {
    repairs: Repairs,
    /// Share of failures that lead to a repair nobody recorded.
    unrecorded: f64,
    trace: bool,
    past: Vec<f64>,
    present: f64,
    any_overdue: bool,
    present_overdue: f64,
    alive: Vec<Alive<'a>>,
    /// What begins at each edge, and after the last look at each.
    from_repair: Vec<f64>,
    /// The first edge that was not looked at yet.
    least: usize,
}

impl<'a> Follow<'a> {
    /// Counts a cycle begun at edge `k` with a mass, by its survival to every later edge and its
    /// failures between.
    fn cycle(&mut self, start: Start<'a>, row: &[f64], fails: &[f64]) {
        let Start { edge: k, mass, .. } = start;
        if self.trace {
            self.past[k..].iter_mut().zip(fails).for_each(|(slot, f)| *slot += mass * f);
        }
        if self.unrecorded > 0.0 {
            self.repairs.add(k, fails, mass * self.unrecorded, &mut self.from_repair, self.least);
        }
        self.now(start, row);
    }

    /// What a cycle comes to now.
    fn now(&mut self, start: Start<'a>, row: &[f64]) {
        let Start { edge: k, mass, cycle, overdue } = start;
        let Repairs { cells, still_there, part, .. } = self.repairs;
        let survived = row[cells - k];
        let present = if still_there >= k && still_there < cells {
            let (from, to) = (row[still_there - k], row[still_there + 1 - k]);
            mass * (part * (from - to) + to - survived)
        } else {
            mass * (row[still_there.max(k) - k] - survived)
        };
        self.present += present;
        self.present_overdue += present * overdue;
        if mass * survived > NEGLIGIBLE {
            self.alive.push(Alive { edge: k, cycle, mass: mass * survived, survived, overdue });
        }
    }

    /// The masses, as shares of the vehicles that come to be offered.
    fn condition(mut self, immune: f64, immune_overdue: f64) -> Condition<'a> {
        let alive_sum: f64 = self.alive.iter().map(|a| a.mass).sum();
        let offered = self.present + alive_sum + immune;
        if offered <= 0.0 {
            // Every such vehicle would be gone: nothing is known but that this one is here.
            let overdue = Overdue::default();
            return Condition { present: 1.0, immune: 0.0, overdue, alive: Vec::new(), offered, past: self.past };
        }
        self.alive.iter_mut().for_each(|a| a.mass /= offered);
        Condition {
            present: self.present / offered,
            immune: immune / offered,
            overdue: Overdue {
                any: self.any_overdue,
                present: self.present_overdue / offered,
                immune: immune_overdue / offered,
            },
            alive: self.alive,
            offered,
            past: self.past,
        }
    }
}

/// Follows the part along the vehicle's path from build to now, once for each repair delay: the usage for which
/// owners live with the fault.
///
/// A repair takes place that long after the failure; it begins a new cycle with the part of unknown
/// grade for the share `survivable · (1 − completeness)`, because a recorded one would be in the ledger.
#[must_use]
pub fn condition_now<'a>(path: &PastPath, h: &History<'a>, repair_delay: &[f64]) -> Vec<Condition<'a>> {
    let unrecorded = h.survivable * (1.0 - h.completeness);
    let mut follows: Vec<Follow<'a>> = repair_delay
        .iter()
        .map(|t| Follow {
            repairs: Repairs::new(path, *t),
            unrecorded,
            trace: h.trace,
            past: vec![0.0; if h.trace { path.cells() } else { 0 }],
            present: 0.0,
            any_overdue: h.kept_from > 0,
            present_overdue: 0.0,
            alive: Vec::with_capacity(path.cells()),
            from_repair: vec![0.0; path.cells() + 2],
            least: 0,
        })
        .collect();
    let mut buffer = RowBuffer { row: vec![0.0; path.cells() + 1], fails: vec![0.0; path.cells()] };
    let (starts, immune, immune_overdue) = recorded_starts(path, h);
    let all: f64 = starts.iter().map(|s| s.mass).sum();
    let late: f64 = starts.iter().map(|s| s.mass * s.overdue).sum();
    let overdue = if all > 0.0 { late / all } else { 0.0 };
    let survival = Survival::often(path, h.unrecorded);
    // What was renewed several times with the same part shares its survival.
    let mut own: Option<Survival<'_, 'a>> = None;
    for start in starts {
        let survival = if start.cycle.is(survival.cycle) {
            &survival
        } else {
            match own.take().filter(|s| s.cycle.is(start.cycle)) {
                Some(same) => own.insert(same),
                None => own.insert(Survival::once(path, start.cycle)),
            }
        };
        let (row, fails) = survival.row(path, start.edge, &mut buffer);
        follows.iter_mut().for_each(|f| f.cycle(start, row, fails));
    }
    if unrecorded > 0.0 {
        if matches!(survival.bent, Bent::Not) {
            repairs_on_a_straight_path(&mut follows, &survival, overdue);
        } else {
            repairs_on_a_bent_path(&mut follows, &survival, path, overdue, &mut buffer);
        }
    }
    follows.into_iter().map(|f| f.condition(immune, immune_overdue)).collect()
}

/// A cycle that begins at an edge with a mass, on a part.
#[derive(Clone, Copy)]
struct Start<'a> {
    edge: usize,
    mass: f64,
    cycle: Cycle<'a>,
    /// Chance that its scheduled renewal is overdue.
    overdue: f64,
}

/// The cycles that begin at a renewal on paper or at build, the latest first, each with its susceptible mass, and
/// the immune mass of all of them and of those whose scheduled renewal is overdue.
fn recorded_starts<'a>(path: &PastPath, h: &History<'a>) -> (Vec<Start<'a>>, f64, f64) {
    // Every start in order, with the chance that it took place and the susceptible share from there.
    let mut known = vec![(0, h.build, 1.0, h.share)];
    for r in &h.renewals {
        let (mut share, mut last) = (0.0, 1.0);
        for (edge, cycle, chance, before) in known.iter().rev() {
            let (run, old) = (path.usage(r.edge) - path.usage(*edge), path.age(r.edge) - path.age(*edge));
            let fails = 1.0 - cycle.curves.survival(run.max(0.0), old.max(0.0), cycle.life_factor);
            share += last * chance * proved(*before, fails, r.in_good_time);
            last *= 1.0 - chance;
        }
        known.push((r.edge, r.cycle, r.credibility, share * r.still_susceptible));
    }
    let (mut believed_later, mut immune, mut overdue) = (1.0, 0.0, 0.0);
    let mut starts = Vec::with_capacity(known.len());
    for (edge, cycle, chance, share) in known.into_iter().rev() {
        let mass = chance * believed_later;
        believed_later *= 1.0 - chance;
        immune += mass * (1.0 - share);
        let late = f64::from(u8::from(edge < h.kept_from));
        overdue += mass * (1.0 - share) * late;
        starts.push(Start { edge, mass: mass * share, cycle, overdue: late });
    }
    (starts, immune, overdue)
}

/// The susceptible share after a renewal, from that before it and the chance that a susceptible one had failed by
/// then; `in_good_time` as in [`Renewal`].
fn proved(before: f64, fails: f64, in_good_time: f64) -> f64 {
    let failed = before * fails;
    let ground = failed + in_good_time * (1.0 - failed);
    let because_failed = if in_good_time.is_infinite() {
        0.0
    } else if in_good_time > 0.0 {
        if ground > 0.0 { failed / ground } else { 0.0 }
    } else {
        1.0
    };
    let still = if failed < 1.0 { before * (1.0 - fails) / (1.0 - failed) } else { 0.0 };
    because_failed + (1.0 - because_failed) * still
}

/// Follows the cycles that begin at unrecorded repairs where survival depends on distance alone.
fn repairs_on_a_straight_path<'a>(follows: &mut [Follow<'a>], survival: &Survival<'_, 'a>, overdue: f64) {
    for f in follows {
        let cells = f.repairs.cells;
        f.repairs.renew(&survival.fails, f.unrecorded, &mut f.from_repair[..=cells], &mut f.past);
        for k in 0..=cells {
            let mass = f.from_repair[k];
            if mass > NEGLIGIBLE {
                f.now(Start { edge: k, mass, cycle: survival.cycle, overdue }, &survival.by_distance);
            }
        }
    }
}

/// The same where usage and age have not run in proportion: each lump of starts has a row of its own.
fn repairs_on_a_bent_path<'a>(
    follows: &mut [Follow<'a>],
    survival: &Survival<'_, 'a>,
    path: &PastPath,
    overdue: f64,
    buffer: &mut RowBuffer,
) {
    let mut lump = Lump::default();
    for k in 0..=path.cells() {
        lump.take(k, follows.iter().map(|f| f.from_repair[k]));
        let next = follows.iter().map(|f| f.from_repair[k + 1]);
        if lump.mass() <= NEGLIGIBLE || !(k == path.cells() || lump.is_full(k + 1, path, next)) {
            continue;
        }
        for (edge, share) in lump.middle().into_iter().filter(|(_, share)| *share > 1e-9) {
            let (row, fails) = survival.row(path, edge, buffer);
            for (f, mass) in follows.iter_mut().zip(&lump.masses) {
                f.least = k + 1;
                f.cycle(Start { edge, mass: mass * share, cycle: survival.cycle, overdue }, row, fails);
            }
        }
        lump = Lump::default();
    }
    let (now, _) = survival.row(path, path.cells(), buffer);
    for f in follows {
        let mass = f.from_repair[path.cells() + 1];
        if mass > NEGLIGIBLE {
            f.now(Start { edge: path.cells(), mass, cycle: survival.cycle, overdue }, now);
        }
    }
}
