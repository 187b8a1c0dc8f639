//! Method §3: where a failure point stands now.
//!
//! A vehicle of this usage and age is followed from build to now in `N` equal cells of usage. Each
//! cycle of the part begins at build, at a renewal on paper, or at a repair that nobody recorded;
//! the masses left at the end are: immune, failed and still there, or alive since some start.

use crate::claims::Life;
use crate::lattice::{AgeTable, Part};

/// Cells of usage from build to now.
pub const PAST_CELLS: usize = 240;

/// The vehicle's age along its usage: edges of the past grid.
#[derive(Debug, Clone, PartialEq)]
pub struct PastPath {
    usage_now: f64,
    ages: Vec<f64>,
    straight: bool,
}

impl PastPath {
    /// The path through `(0, 0)`, the accepted readings `(usage, age)` in rising order, and now.
    /// Readings outside the path's rise are passed over.
    #[must_use]
    pub fn new(usage_now: f64, age_now: f64, readings: &[(f64, f64)]) -> Self {
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
        let ages = (0..=PAST_CELLS)
            .map(|i| {
                let u = usage_now * i as f64 / PAST_CELLS as f64;
                while segment + 2 < knots.len() && u > knots[segment + 1].0 {
                    segment += 1;
                }
                let ((u0, a0), (u1, a1)) = (knots[segment], knots[segment + 1]);
                if u1 > u0 { a0 + (a1 - a0) * (u - u0) / (u1 - u0) } else { age_now * i as f64 / PAST_CELLS as f64 }
            })
            .collect();
        Self { usage_now, ages, straight }
    }

    /// Usage now.
    #[must_use]
    pub fn usage_now(&self) -> f64 {
        self.usage_now
    }

    /// Age now, years.
    #[must_use]
    pub fn age_now(&self) -> f64 {
        self.ages[PAST_CELLS]
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
        self.usage_now * k as f64 / PAST_CELLS as f64
    }

    /// Usage at an age, along the path.
    #[must_use]
    pub fn usage_at(&self, age: f64) -> f64 {
        let after = self.ages.partition_point(|a| *a < age);
        if after == 0 {
            return 0.0;
        }
        if after > PAST_CELLS {
            return self.usage_now;
        }
        let (a0, a1) = (self.ages[after - 1], self.ages[after]);
        let (u0, u1) = (self.usage(after - 1), self.usage(after));
        if a1 > a0 { u0 + (u1 - u0) * (age - a0) / (a1 - a0) } else { u1 }
    }

    /// The edge nearest a usage.
    #[must_use]
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
    pub fn edge(&self, usage: f64) -> usize {
        if self.usage_now <= 0.0 {
            return PAST_CELLS;
        }
        ((usage / self.usage_now * PAST_CELLS as f64).round().max(0.0) as usize).min(PAST_CELLS)
    }

    /// Whether usage and age have run in proportion, so that survival depends on distance alone.
    #[must_use]
    pub fn is_straight(&self) -> bool {
        self.straight
    }
}

/// The part that a cycle runs on: its life and its life factor (use, care and grade together).
#[derive(Debug, Clone, Copy)]
pub struct Cycle<'a> {
    /// Its life curves.
    pub life: &'a Life,
    /// Its life factor κ, positive.
    pub kappa: f64,
}

impl Cycle<'_> {
    /// Whether both run on the very same part.
    #[must_use]
    pub fn is(self, other: Cycle<'_>) -> bool {
        std::ptr::eq(self.life, other.life) && self.kappa.to_bits() == other.kappa.to_bits()
    }
}

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
}

/// What [`stand`] needs to know.
#[derive(Clone)]
pub struct History<'a> {
    /// Susceptible share at build (π).
    pub share: f64,
    /// The part fitted at build.
    pub build: Cycle<'a>,
    /// Renewals on paper, in order of usage.
    pub renewals: Vec<Renewal<'a>>,
    /// The part of a repair that nobody recorded.
    pub unrecorded: &'a Part<'a>,
    /// Usage for which owners live with the fault (τ).
    pub tolerated: f64,
    /// Share of failures that the vehicle survives (σ).
    pub survivable: f64,
    /// Chance that a repair left a paper (ρ).
    pub completeness: f64,
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
}

/// Where the point stands now; masses sum to 1.
#[derive(Debug, Clone)]
pub struct Standing<'a> {
    /// Failed and not mended.
    pub present: f64,
    /// Will never fail.
    pub immune: f64,
    /// Alive, by start.
    pub alive: Vec<Alive<'a>>,
    /// Share of vehicles built that come to be offered in this state (Z).
    pub offered: f64,
    /// Expected failures in each past cell, per vehicle built and before conditioning; zeros unless
    /// asked for.
    pub past: Vec<f64>,
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
        let by_distance = (0..=PAST_CELLS).map(|d| cycle.life.usage.alive(path.usage(d) / cycle.kappa)).collect();
        Self::of(cycle, by_distance, if cycle.life.age.is_empty() { Bent::Not } else { Bent::Once })
    }

    fn of(cycle: Cycle<'a>, by_distance: Vec<f64>, bent: Bent<'p>) -> Self {
        let mut fails = vec![0.0; PAST_CELLS];
        if matches!(bent, Bent::Not) {
            differences(&by_distance, &mut fails);
        }
        Self { cycle, by_distance, fails, bent }
    }

    fn often(path: &PastPath, part: &'p Part<'a>) -> Self {
        let Some((usage, age)) = part.usage.as_ref().zip(part.age.as_ref()) else {
            return Self::once(path, part.cycle);
        };
        let mut by_distance = vec![1.0; PAST_CELLS + 1];
        by_distance.iter_mut().zip(&usage.alive).for_each(|(s, u)| *s *= u);
        by_distance.iter_mut().zip(&age.alive).for_each(|(s, a)| *s *= a);
        let bent = part.bent.as_ref().map_or(Bent::Not, |(table, ticks)| Bent::Often(table, ticks));
        Self::of(part.cycle, by_distance, bent)
    }

    /// Survival from edge `k` to edges `k..=N`, and failures in the cells between; `room` is lent.
    fn row<'b>(&'b self, path: &PastPath, k: usize, room: &'b mut Room) -> (&'b [f64], &'b [f64]) {
        let cells = PAST_CELLS - k;
        let row = &mut room.row[..=cells];
        match &self.bent {
            Bent::Not => return (&self.by_distance[..=cells], &self.fails[..cells]),
            Bent::Once => {
                let (life, start) = (&self.cycle.life.age, path.age(k));
                for ((slot, age), usage) in row.iter_mut().zip(&path.ages[k..]).zip(&self.by_distance) {
                    *slot = usage * life.alive((age - start) / self.cycle.kappa);
                }
            }
            Bent::Often(table, ticks) => {
                let start = ticks[k];
                for ((slot, now), usage) in row.iter_mut().zip(&ticks[k..]).zip(&self.by_distance) {
                    *slot = usage * table.at(now - start);
                }
            }
        }
        let fails = &mut room.fails[..cells];
        differences(row, fails);
        (row, fails)
    }
}

/// Room for one row.
struct Room {
    row: Vec<f64>,
    fails: Vec<f64>,
}

/// What is lost from each edge to the next.
fn differences(alive: &[f64], out: &mut [f64]) {
    out.iter_mut().zip(alive.iter().zip(&alive[1..])).for_each(|(f, (a, b))| *f = a - b);
}

/// Where the repair of a failure in each past cell begins the next cycle; cells from `still_there`
/// on are not mended yet.
struct Repairs {
    still_there: usize,
    edges: Vec<usize>,
    /// Edges after the cell, when it is the same for all: the usual case, and a faster one.
    shift: Option<usize>,
}

impl Repairs {
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
    fn new(path: &PastPath, tolerated: f64) -> Self {
        let step = path.usage_now() / PAST_CELLS as f64;
        let still_there =
            (0..PAST_CELLS).find(|&i| path.usage(i + 1) + tolerated > path.usage_now()).unwrap_or(PAST_CELLS);
        let edges: Vec<usize> = (0..still_there)
            .map(|i| (((path.usage(i + 1) + tolerated) / step).round() as usize).clamp(i + 1, PAST_CELLS))
            .collect();
        let shift = edges.first().copied().filter(|s| edges.iter().enumerate().all(|(i, e)| *e == i + s));
        Self { still_there, edges, shift }
    }

    /// Adds the repairs of a cycle begun at edge `k` with these failures.
    fn add(&self, k: usize, fails: &[f64], weight: f64, starts: &mut [f64]) {
        if k >= self.still_there {
            return;
        }
        let fails = fails[..self.still_there - k].iter().map(|f| f * weight);
        match self.shift {
            Some(shift) => starts[k + shift..].iter_mut().zip(fails).for_each(|(s, f)| *s += f),
            None => self.edges[k..].iter().zip(fails).for_each(|(&e, f)| starts[e] += f),
        }
    }
}

/// Masses below this are not followed further; a vehicle's chances are shown in whole percents.
const NEGLIGIBLE: f64 = 1e-7;

/// Follows the part along the vehicle's path from build to now.
///
/// A repair takes place `tolerated` after the failure; it begins a new cycle with the part of
/// unknown grade for the share `survivable · (1 − completeness)`, because a recorded one would be
/// in the ledger.
#[must_use]
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
pub fn stand<'a>(path: &PastPath, h: &History<'a>) -> Standing<'a> {
    let repairs = Repairs::new(path, h.tolerated);
    let unrecorded_weight = h.survivable * (1.0 - h.completeness);

    let mut past = vec![0.0; PAST_CELLS];
    let mut present = 0.0;
    let mut alive: Vec<Alive<'a>> = Vec::new();
    let mut immune_by_part = 0.0;
    let mut from_repair = vec![0.0; PAST_CELLS + 1];
    let mut room = Room { row: vec![0.0; PAST_CELLS + 1], fails: vec![0.0; PAST_CELLS] };

    let mut run = |k: usize, mass: f64, survival: &Survival<'_, 'a>, from_repair: &mut [f64]| {
        let (row, fails) = survival.row(path, k, &mut room);
        let survived = row[PAST_CELLS - k];
        if h.trace {
            past[k..].iter_mut().zip(fails).for_each(|(slot, f)| *slot += mass * f);
        }
        present += mass * (row[repairs.still_there.max(k) - k] - survived);
        if unrecorded_weight > 0.0 {
            repairs.add(k, fails, mass * unrecorded_weight, from_repair);
        }
        if mass * survived > NEGLIGIBLE {
            alive.push(Alive { edge: k, cycle: survival.cycle, mass: mass * survived, survived });
        }
    };

    let mut believed_later = 1.0;
    let mut starts = Vec::with_capacity(h.renewals.len());
    for r in h.renewals.iter().rev() {
        let mass = r.credibility * believed_later;
        believed_later *= 1.0 - r.credibility;
        immune_by_part += mass * (1.0 - r.still_susceptible);
        starts.push((r.edge, mass * r.still_susceptible, r.cycle));
    }
    run(0, believed_later, &Survival::once(path, h.build), &mut from_repair);
    for (edge, mass, cycle) in starts {
        run(edge, mass, &Survival::once(path, cycle), &mut from_repair);
    }
    if unrecorded_weight > 0.0 {
        let survival = Survival::often(path, h.unrecorded);
        for k in 0..=PAST_CELLS {
            let mass = from_repair[k];
            if mass > NEGLIGIBLE {
                run(k, mass, &survival, &mut from_repair);
            }
        }
    }

    let alive_sum: f64 = alive.iter().map(|a| a.mass).sum();
    let offered = h.share * (present + alive_sum + immune_by_part) + (1.0 - h.share);
    if offered <= 0.0 {
        // Every such vehicle would be gone: nothing is known but that this one is here.
        return Standing { present: 1.0, immune: 0.0, alive: Vec::new(), offered, past };
    }
    let scale = h.share / offered;
    for a in &mut alive {
        a.mass *= scale;
    }
    Standing {
        present: present * scale,
        immune: (1.0 - h.share) / offered + immune_by_part * scale,
        alive,
        offered,
        past: past.iter().map(|f| f * h.share).collect(),
    }
}
