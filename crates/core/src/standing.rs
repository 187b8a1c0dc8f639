//! Method §3: where a failure point stands now.
//!
//! A vehicle of this usage and age is followed from build to now in `N` equal cells of usage. Each
//! cycle of the part begins at build, at a renewal on paper, or at a repair that nobody recorded;
//! the masses left at the end are: immune, failed and still there, or alive since some start.

use crate::claims::Life;

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
#[derive(Debug, Clone)]
pub struct History<'a> {
    /// Susceptible share at build (π).
    pub share: f64,
    /// The part fitted at build.
    pub build: Cycle<'a>,
    /// Renewals on paper, in order of usage.
    pub renewals: Vec<Renewal<'a>>,
    /// The part of a repair that nobody recorded.
    pub unrecorded: Cycle<'a>,
    /// Usage for which owners live with the fault (τ).
    pub tolerated: f64,
    /// Share of failures that the vehicle survives (σ).
    pub survivable: f64,
    /// Chance that a repair left a paper (ρ).
    pub completeness: f64,
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
    /// Expected failures in each past cell, per vehicle built and before conditioning.
    pub past: Vec<f64>,
}

/// Survival of one part from every start edge to every later edge.
enum Rows {
    /// Depends on the distance between the edges alone.
    Straight(Vec<f64>),
    /// Usage by distance, age by the path.
    Bent,
}

struct Survival<'a> {
    cycle: Cycle<'a>,
    rows: Rows,
    usage: Vec<f64>,
}

impl<'a> Survival<'a> {
    fn new(path: &PastPath, cycle: Cycle<'a>) -> Self {
        let usage: Vec<f64> = (0..=PAST_CELLS).map(|d| cycle.life.usage.alive(path.usage(d) / cycle.kappa)).collect();
        let rows = if cycle.life.age.is_empty() {
            Rows::Straight(usage.clone())
        } else if path.is_straight() {
            Rows::Straight(
                (0..=PAST_CELLS).map(|d| usage[d] * cycle.life.age.alive(path.age(d) / cycle.kappa)).collect(),
            )
        } else {
            Rows::Bent
        };
        Self { cycle, rows, usage }
    }

    /// Survival from edge `k` to edges `k..=N`, in `out[0..=N-k]`.
    fn row<'b>(&'b self, path: &PastPath, k: usize, out: &'b mut [f64]) -> &'b [f64] {
        match &self.rows {
            Rows::Straight(s) => &s[..=PAST_CELLS - k],
            Rows::Bent => {
                let start = path.age(k);
                for (d, slot) in out.iter_mut().enumerate().take(PAST_CELLS - k + 1) {
                    let age = (path.age(k + d) - start) / self.cycle.kappa;
                    *slot = self.usage[d] * self.cycle.life.age.alive(age);
                }
                &out[..=PAST_CELLS - k]
            }
        }
    }
}

/// Masses below this are not followed further; a vehicle's chances are shown in whole percents.
const NEGLIGIBLE: f64 = 1e-12;

/// Follows the part along the vehicle's path from build to now.
///
/// A repair takes place `tolerated` after the failure; it begins a new cycle with the part of
/// unknown grade for the share `survivable · (1 − completeness)`, because a recorded one would be
/// in the ledger.
#[must_use]
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
pub fn stand<'a>(path: &PastPath, h: &History<'a>) -> Standing<'a> {
    let step = path.usage_now() / PAST_CELLS as f64;
    // The first cell whose failure would still be there now, and the edges a repair comes later.
    let is_still_there = |i: usize| path.usage(i + 1) + h.tolerated > path.usage_now();
    let repair_edge = |i: usize| {
        let edge = ((path.usage(i + 1) + h.tolerated) / step).round() as usize;
        edge.max(i + 1).min(PAST_CELLS)
    };
    let unrecorded_weight = h.survivable * (1.0 - h.completeness);

    let mut past = vec![0.0; PAST_CELLS];
    let mut present = 0.0;
    let mut alive: Vec<Alive<'a>> = Vec::new();
    let mut immune_by_part = 0.0;
    let mut from_repair = vec![0.0; PAST_CELLS + 1];
    let mut buffer = vec![0.0; PAST_CELLS + 1];

    let mut run = |k: usize,
                   mass: f64,
                   survival: &Survival<'a>,
                   from_repair: &mut [f64],
                   present: &mut f64,
                   alive: &mut Vec<Alive<'a>>,
                   past: &mut [f64]| {
        let row = survival.row(path, k, &mut buffer);
        for i in k..PAST_CELLS {
            let failed = mass * (row[i - k] - row[i - k + 1]);
            past[i] += failed;
            if is_still_there(i) {
                *present += failed;
            } else {
                from_repair[repair_edge(i)] += failed * unrecorded_weight;
            }
            if row[i - k + 1] * mass < NEGLIGIBLE {
                break;
            }
        }
        let survived = row[PAST_CELLS - k];
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
    run(0, believed_later, &Survival::new(path, h.build), &mut from_repair, &mut present, &mut alive, &mut past);
    for (edge, mass, cycle) in starts {
        run(edge, mass, &Survival::new(path, cycle), &mut from_repair, &mut present, &mut alive, &mut past);
    }
    if unrecorded_weight > 0.0 {
        let survival = Survival::new(path, h.unrecorded);
        for k in 0..=PAST_CELLS {
            let mass = from_repair[k];
            if mass > NEGLIGIBLE {
                run(k, mass, &survival, &mut from_repair, &mut present, &mut alive, &mut past);
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
