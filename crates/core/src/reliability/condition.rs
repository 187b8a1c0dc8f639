//! The condition of a failure point now, given the vehicle's history.
//!
//! A vehicle of this usage and age is followed from build to now in equal cells of usage. Each cycle of the
//! part begins at build, at a renewal on paper, or at a repair that nobody recorded. The masses left at the
//! end are: immune, failed and still there, or alive since some start.
//!
//! docs/METHOD.md, section 3.

use crate::reliability::repairs::Repairs;
use crate::reliability::survival_grid::{AgeTable, PreparedPart};
use crate::reliability::survival_table::{Cycle, Table};
use crate::reliability::usage_path::PastPath;

/// A renewal on paper.
#[derive(Debug, Clone, Copy)]
pub struct Renewal<'a> {
    /// Where on the path it was fitted, in cells, as [`PastPath::place`] says.
    pub at: f64,
    /// How far it is believed, 0 to 1.
    pub credibility: f64,
    /// The part fitted.
    pub cycle: Cycle<'a>,
    /// Of those susceptible before, the share that still is with this part.
    pub still_susceptible: f64,
    /// How likely a sound part is renewed, against one that has failed (b): 0 where it is known to have failed,
    /// infinite where it was renewed in good time.
    pub in_good_time: f64,
    /// Whether the next one after it is overdue.
    pub overdue: bool,
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
    /// Whether a scheduled renewal is overdue where none took place. What was repaired without a paper is taken to be
    /// overdue as often as what began on paper.
    pub build_overdue: bool,
    /// Whether the failures of past cells are asked for.
    pub trace: bool,
}

/// A cycle alive now: begun somewhere on the path, on a part, with a mass.
#[derive(Debug, Clone, Copy)]
pub struct Alive<'a> {
    /// Where it began, in cells; on an edge where it began with a repair that nobody recorded.
    pub at: f64,
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

/// Survival of the part of unrecorded repairs from an edge to every later one.
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
    /// From the curve itself.
    Curve,
    /// From a table and the edges' ages in its ticks.
    Table(&'p AgeTable, &'p [u64]),
}

impl<'p, 'a> Survival<'p, 'a> {
    fn of(path: &PastPath, part: &'p PreparedPart<'a>) -> Self {
        let cycle = part.cycle;
        let (by_distance, bent) = if part.whole {
            let mut by_distance = vec![1.0; path.cells() + 1];
            for on_grid in part.usage.iter().chain(&part.age) {
                by_distance.iter_mut().zip(&on_grid.alive).for_each(|(s, u)| *s *= u);
            }
            (by_distance, part.bent.as_ref().map_or(Bent::Not, |(table, ticks)| Bent::Table(table, ticks)))
        } else {
            let by_usage = |t: &Table| (0..=path.cells()).map(|d| t.at(path.usage(d) / cycle.life_factor)).collect();
            let by_distance = cycle.curves.usage.as_ref().map_or_else(|| vec![1.0; path.cells() + 1], by_usage);
            (by_distance, if cycle.curves.age.is_none() { Bent::Not } else { Bent::Curve })
        };
        let mut fails = vec![0.0; path.cells()];
        if matches!(bent, Bent::Not) {
            differences(&by_distance, &mut fails);
        }
        Self { cycle, by_distance, fails, bent }
    }

    /// Survival from edge `k` to edges `k..=N`, and failures in the cells between; `buffer` is lent.
    fn row<'b>(&'b self, path: &PastPath, k: usize, buffer: &'b mut RowBuffer) -> (&'b [f64], &'b [f64]) {
        let cells = path.cells() - k;
        let row = &mut buffer.row[..=cells];
        match &self.bent {
            Bent::Not => return (&self.by_distance[..=cells], &self.fails[..cells]),
            Bent::Curve => {
                let (start, life_factor) = (path.age(k), self.cycle.life_factor);
                for ((slot, age), usage) in row.iter_mut().zip(&path.ages[k..]).zip(&self.by_distance) {
                    *slot = usage * self.cycle.curves.age.as_ref().map_or(1.0, |t| t.at((age - start) / life_factor));
                }
            }
            Bent::Table(table, ticks) => {
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

/// One row of survival, and of failures between.
struct RowBuffer {
    row: Vec<f64>,
    fails: Vec<f64>,
}

/// What is lost from each edge to the next.
fn differences(alive: &[f64], out: &mut [f64]) {
    out.iter_mut().zip(alive.iter().zip(&alive[1..])).for_each(|(f, (a, b))| *f = a - b);
}

/// Masses below this are not followed further; a vehicle's chances are shown in whole percents.
const NEGLIGIBLE: f64 = 1e-7;

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
    /// What begins at each edge.
    from_repair: Vec<f64>,
}

impl<'a> Follow<'a> {
    /// Counts a cycle begun on paper, by its survival to every later edge.
    fn on_paper(&mut self, path: &PastPath, start: Start<'a>, buffer: &RowBuffer) {
        let Start { mass, at, .. } = start;
        let first = path.cell(at);
        let Some(first) = first.filter(|_| mass > 0.0) else {
            // Fitted just now.
            return self.alive(start, 1.0);
        };
        let row = &buffer.row[..path.cells() - first];
        let fails = &buffer.fails[..row.len()];
        // The cell in which it was fitted counts from there on; all others are whole.
        let early = self.repairs.in_part_of_a_cell(at, first);
        if self.trace {
            self.past[first..].iter_mut().zip(fails).for_each(|(slot, f)| *slot += mass * f);
        }
        if self.unrecorded > 0.0 {
            let weight = mass * self.unrecorded;
            early.begin(fails[0] * weight, &mut self.from_repair);
            self.repairs.add(first + 1, &fails[1..], weight, &mut self.from_repair);
        }
        let present = mass * (fails[0] * early.there + self.repairs.there(first + 1, row));
        self.count(start, present, row[row.len() - 1]);
    }

    /// Counts a cycle begun at edge `k` with an unrecorded repair, by its survival to every later edge and its
    /// failures between. What fails at once begins at the same edge again, and its mass holds that already.
    fn repaired(&mut self, k: usize, start: Start<'a>, row: &[f64], fails: &[f64]) {
        if self.trace {
            self.past[k..].iter_mut().zip(fails).for_each(|(slot, f)| *slot += start.mass * f);
        }
        let own = self.from_repair[k];
        self.repairs.add(k, fails, start.mass * self.unrecorded, &mut self.from_repair);
        self.from_repair[k] = own;
        self.now(k, start, row);
    }

    /// What a cycle begun at edge `k` comes to now.
    fn now(&mut self, k: usize, start: Start<'a>, row: &[f64]) {
        let present = start.mass * self.repairs.there(k, row);
        self.count(start, present, row[row.len() - 1]);
    }

    fn count(&mut self, start: Start<'a>, present: f64, survived: f64) {
        self.present += present;
        self.present_overdue += present * start.overdue;
        self.alive(start, survived);
    }

    fn alive(&mut self, Start { at, mass, cycle, overdue }: Start<'a>, survived: f64) {
        if mass * survived > NEGLIGIBLE {
            self.alive.push(Alive { at, cycle, mass: mass * survived, survived, overdue });
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
            any_overdue: h.build_overdue || h.renewals.iter().any(|r| r.overdue),
            present_overdue: 0.0,
            alive: Vec::with_capacity(path.cells()),
            from_repair: vec![0.0; path.cells() + 1],
        })
        .collect();
    let mut buffer = RowBuffer { row: vec![0.0; path.cells() + 1], fails: vec![0.0; path.cells()] };
    let (starts, immune, immune_overdue) = recorded_starts(path, h);
    let all: f64 = starts.iter().map(|s| s.mass).sum();
    let late: f64 = starts.iter().map(|s| s.mass * s.overdue).sum();
    let overdue = if all > 0.0 { late / all } else { 0.0 };
    for start in starts {
        fill_from_paper(path, start, &mut buffer);
        follows.iter_mut().for_each(|f| f.on_paper(path, start, &buffer));
    }
    if unrecorded > 0.0 {
        let survival = Survival::of(path, h.unrecorded);
        if matches!(survival.bent, Bent::Not) {
            repairs_on_a_straight_path(&mut follows, &survival, overdue);
        } else {
            repairs_on_a_bent_path(&mut follows, &survival, path, overdue, &mut buffer);
        }
    }
    follows.into_iter().map(|f| f.condition(immune, immune_overdue)).collect()
}

/// A cycle that begins somewhere on the path with a mass, on a part.
#[derive(Clone, Copy)]
struct Start<'a> {
    /// In cells.
    at: f64,
    mass: f64,
    cycle: Cycle<'a>,
    /// Chance that its scheduled renewal is overdue.
    overdue: f64,
}

/// Survival of a cycle begun on paper to every edge after its beginning, and its failures between.
fn fill_from_paper(path: &PastPath, start: Start<'_>, buffer: &mut RowBuffer) {
    let Some(first) = path.cell(start.at) else { return };
    let (usage, age) = (path.usage_in(start.at), path.age_in(start.at));
    let mut last = 1.0;
    for (i, (slot, fail)) in buffer.row.iter_mut().zip(&mut buffer.fails).take(path.cells() - first).enumerate() {
        let k = first + 1 + i;
        *slot = start.cycle.curves.survival(path.usage(k) - usage, path.age(k) - age, start.cycle.life_factor);
        *fail = last - *slot;
        last = *slot;
    }
}

/// The cycles that begin at a renewal on paper or at build, the latest first, each with its susceptible mass, and
/// the immune mass of all of them and of those whose scheduled renewal is overdue.
fn recorded_starts<'a>(path: &PastPath, h: &History<'a>) -> (Vec<Start<'a>>, f64, f64) {
    // Every start in order, with the chance that it took place and the susceptible share from there.
    let mut known = vec![(0.0, h.build, 1.0, h.share, h.build_overdue)];
    for r in &h.renewals {
        let (mut share, mut last) = (0.0, 1.0);
        for (at, cycle, chance, before, _) in known.iter().rev() {
            let (run, old) = (path.usage_in(r.at) - path.usage_in(*at), path.age_in(r.at) - path.age_in(*at));
            let fails = 1.0 - cycle.curves.survival(run.max(0.0), old.max(0.0), cycle.life_factor);
            share += last * chance * proved(*before, fails, r.in_good_time);
            last *= 1.0 - chance;
        }
        known.push((r.at, r.cycle, r.credibility, share * r.still_susceptible, r.overdue));
    }
    let (mut believed_later, mut immune, mut overdue) = (1.0, 0.0, 0.0);
    let mut starts = Vec::with_capacity(known.len());
    for (at, cycle, chance, share, late) in known.into_iter().rev() {
        let mass = chance * believed_later;
        believed_later *= 1.0 - chance;
        immune += mass * (1.0 - share);
        let late = f64::from(u8::from(late));
        overdue += mass * (1.0 - share) * late;
        starts.push(Start { at, mass: mass * share, cycle, overdue: late });
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
#[allow(clippy::cast_precision_loss)]
fn repairs_on_a_straight_path<'a>(follows: &mut [Follow<'a>], survival: &Survival<'_, 'a>, overdue: f64) {
    for f in follows {
        f.repairs.renew(&survival.fails, f.unrecorded, &mut f.from_repair, &mut f.past);
        let cells = survival.fails.len();
        for k in 0..=cells {
            let mass = f.from_repair[k];
            if mass > NEGLIGIBLE {
                let start = Start { at: k as f64, mass, cycle: survival.cycle, overdue };
                f.now(k, start, &survival.by_distance[..=cells - k]);
            }
        }
    }
}

/// The same where usage and age have not run in proportion: each edge has a row of its own.
#[allow(clippy::cast_precision_loss)]
fn repairs_on_a_bent_path<'a>(
    follows: &mut [Follow<'a>],
    survival: &Survival<'_, 'a>,
    path: &PastPath,
    overdue: f64,
    buffer: &mut RowBuffer,
) {
    for k in 0..=path.cells() {
        if follows.iter().all(|f| f.from_repair[k] <= NEGLIGIBLE) {
            continue;
        }
        let (row, fails) = survival.row(path, k, buffer);
        for f in &mut *follows {
            let at_once = fails.first().map_or(0.0, |f0| f0 * f.repairs.at_once(k) * f.unrecorded);
            let mass = f.from_repair[k] / (1.0 - at_once);
            f.repaired(k, Start { at: k as f64, mass, cycle: survival.cycle, overdue }, row, fails);
        }
    }
}
