//! The state of a point now and in the plan, against a plain simulation of vehicles that lives here.

#![allow(clippy::cast_precision_loss)]

use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};
use ticksage_core::base::weibull::Weibull;
use ticksage_core::reliability::condition::{History, Renewal, condition_now};
use ticksage_core::reliability::mixture::{Life, WeibullMixture};
use ticksage_core::reliability::plan_grid::{FutureGrid, Pace};
use ticksage_core::reliability::remaining_life::remaining;
use ticksage_core::reliability::survival_grid::PreparedPart;
use ticksage_core::reliability::survival_table::{Curves, Cycle};
use ticksage_core::reliability::usage_path::PastPath;

const VEHICLES: u32 = 200_000;

struct Setup {
    life: Life,
    share: f64,
    usage_now: f64,
    age_now: f64,
    horizon: f64,
    usage_a_year: f64,
    repair_delay: f64,
    survivable: f64,
    completeness: f64,
    unrecorded_grade: f64,
    /// Usage and credibility of one renewal on paper.
    renewal: Option<(f64, f64)>,
    readings: Vec<(f64, f64)>,
}

impl Setup {
    fn plain(life: Life) -> Self {
        Self {
            life,
            share: 1.0,
            usage_now: 120_000.0,
            age_now: 8.0,
            horizon: 45_000.0,
            usage_a_year: 15_000.0,
            repair_delay: 4_000.0,
            survivable: 1.0,
            completeness: 0.1,
            unrecorded_grade: 0.8,
            renewal: None,
            readings: Vec::new(),
        }
    }
}

fn weibull(shape: f64, scale: f64) -> WeibullMixture {
    WeibullMixture::new(vec![(1.0, Weibull::new(shape, scale).unwrap())])
}

fn usage_life(shape: f64, scale: f64) -> Life {
    Life { usage: weibull(shape, scale), age: WeibullMixture::default() }
}

fn draw(pool: &WeibullMixture, rng: &mut StdRng) -> f64 {
    if pool.is_empty() {
        return f64::INFINITY;
    }
    let mut pick: f64 = rng.random();
    for (weight, curve) in pool.curves() {
        if pick < *weight {
            return curve.quantile(rng.random());
        }
        pick -= weight;
    }
    pool.curves()[0].1.quantile(rng.random())
}

/// Follows vehicles one by one, as a person would: fail, live with it, mend it on paper or not.
fn simulate(s: &Setup) -> (f64, f64) {
    let mut rng = StdRng::seed_from_u64(7);
    let path = PastPath::new(s.usage_now, s.age_now, &s.readings);
    let age_at = |u: f64| {
        if u <= s.usage_now { path.age_at(u) } else { s.age_now + (u - s.usage_now) / s.usage_a_year }
    };
    // Usage at which an age is reached.
    let usage_at = |a: f64| {
        if a > s.age_now { s.usage_now + (a - s.age_now) * s.usage_a_year } else { path.usage_at(a) }
    };
    let (mut offered, mut present, mut coming) = (0.0f64, 0.0f64, 0.0f64);
    for _ in 0..VEHICLES {
        if rng.random::<f64>() >= s.share {
            offered += 1.0;
            continue;
        }
        // The ledger first: a believed renewal means that history begins there.
        let (mut start, mut grade) = (0.0, 1.0);
        if let Some((u, credibility)) = s.renewal
            && rng.random::<f64>() < credibility
        {
            start = u;
        }
        let state = loop {
            let by_usage = start + draw(&s.life.usage, &mut rng) * grade;
            let by_age = draw(&s.life.age, &mut rng) * grade;
            let fails = by_usage.min(if by_age.is_finite() { usage_at(age_at(start) + by_age) } else { f64::INFINITY });
            if fails > s.usage_now {
                break Some(fails);
            }
            if fails + s.repair_delay > s.usage_now {
                break Some(f64::NEG_INFINITY);
            }
            // Mended before now. Had it left a paper it would be in the ledger; had the vehicle
            // been lost it would not be offered.
            if rng.random::<f64>() >= s.survivable * (1.0 - s.completeness) {
                break None;
            }
            start = fails + s.repair_delay;
            grade = s.unrecorded_grade;
        };
        let Some(fails) = state else { continue };
        offered += 1.0;
        if fails == f64::NEG_INFINITY {
            present += 1.0;
        } else if fails <= s.usage_now + s.horizon {
            coming += 1.0;
        }
    }
    (present / offered, (present + coming) / offered)
}

fn compute(s: &Setup) -> (f64, f64) {
    let path = PastPath::new(s.usage_now, s.age_now, &s.readings);
    let curves = Curves::new(&s.life, 500_000.0, 40.0);
    let build = Cycle { curves: &curves, life_factor: 1.0 };
    let often = Cycle { curves: &curves, life_factor: s.unrecorded_grade };
    let part = PreparedPart::new(&path, often, 2.0 * s.horizon, s.usage_a_year);
    let condition = condition_now(
        &path,
        &History {
            share: s.share,
            build,
            renewals: s
                .renewal
                .iter()
                .map(|&(u, credibility)| Renewal {
                    at: path.place(u),
                    credibility,
                    cycle: build,
                    still_susceptible: 1.0,
                    in_good_time: f64::INFINITY,
                    overdue: false,
                })
                .collect(),
            unrecorded: &part,
            survivable: s.survivable,
            completeness: s.completeness,
            build_overdue: false,
            trace: false,
        },
        &[s.repair_delay],
    )
    .remove(0);
    let total = condition.present + condition.immune + condition.alive.iter().map(|a| a.mass).sum::<f64>();
    assert!((total - 1.0).abs() < 1e-9, "masses sum to {total}");
    let grid = FutureGrid::full(s.horizon, &[]);
    let pace = Pace { usage_a_year: s.usage_a_year, stretch: 1.0 };
    let remaining = remaining(std::slice::from_ref(&condition), &path, &part, &grid, pace).remove(0);
    (remaining.present, remaining.by_horizon())
}

fn agree(name: &str, s: &Setup) {
    let (simulated, computed) = (simulate(s), compute(s));
    let half_a_point = 0.005;
    assert!((simulated.0 - computed.0).abs() < half_a_point, "{name}: present {simulated:?} against {computed:?}");
    assert!(
        (simulated.1 - computed.1).abs() < half_a_point,
        "{name}: by the horizon {simulated:?} against {computed:?}"
    );
}

#[test]
fn a_wearing_part_with_unrecorded_repairs() {
    agree("wear", &Setup::plain(usage_life(3.0, 90_000.0)));
}

#[test]
fn a_part_made_wrong_in_some() {
    agree("infant", &Setup { share: 0.3, ..Setup::plain(usage_life(0.8, 60_000.0)) });
}

#[test]
fn a_failure_that_few_vehicles_survive() {
    let s = Setup { survivable: 0.2, repair_delay: 500.0, ..Setup::plain(usage_life(3.0, 110_000.0)) };
    agree("engine loss", &s);
}

#[test]
fn complete_papers_leave_no_room_for_unrecorded_repairs() {
    let bare = Setup::plain(usage_life(3.0, 90_000.0));
    let full = Setup { completeness: 0.9, ..Setup::plain(usage_life(3.0, 90_000.0)) };
    agree("complete", &full);
    // Without a repair that left no paper, a part this far along is more often about to fail.
    assert!(compute(&full).1 > compute(&bare).1);
}

#[test]
fn a_renewal_on_paper_half_believed() {
    agree("stamp", &Setup { renewal: Some((80_000.0, 0.6)), ..Setup::plain(usage_life(3.0, 90_000.0)) });
}

#[test]
fn two_clocks_on_a_straight_path() {
    let life = Life { usage: weibull(3.0, 150_000.0), age: weibull(3.5, 9.0) };
    agree("whichever first", &Setup::plain(life));
}

#[test]
fn two_clocks_on_a_bent_path() {
    // Stood for years, then driven hard.
    let life = Life { usage: weibull(3.0, 150_000.0), age: weibull(3.5, 9.0) };
    agree("bent", &Setup { readings: vec![(10_000.0, 5.0)], ..Setup::plain(life) });
}

#[test]
fn a_mixture_of_sources() {
    let pool = WeibullMixture::new(vec![
        (2.0, Weibull::new(4.0, 80_000.0).unwrap()),
        (1.0, Weibull::new(3.0, 220_000.0).unwrap()),
    ]);
    agree("mixture", &Setup { share: 0.7, ..Setup::plain(Life { usage: pool, age: WeibullMixture::default() }) });
}

#[test]
fn survival_is_evidence() {
    // The further it has run, the likelier it is one of the good ones.
    let immune = |usage_now: f64| {
        let s = Setup { share: 0.35, usage_now, ..Setup::plain(usage_life(3.0, 90_000.0)) };
        let path = PastPath::new(s.usage_now, s.age_now, &[]);
        let curves = Curves::new(&s.life, 500_000.0, 40.0);
        let build = Cycle { curves: &curves, life_factor: 1.0 };
        let part = PreparedPart::new(&path, build, s.horizon, s.usage_a_year);
        let h = History {
            build_overdue: false,
            share: s.share,
            build,
            renewals: Vec::new(),
            unrecorded: &part,
            survivable: 1.0,
            completeness: 0.9,
            trace: false,
        };
        condition_now(&path, &h, &[s.repair_delay])[0].immune
    };
    let shares: Vec<f64> = [20e3, 60e3, 100e3, 140e3, 180e3].into_iter().map(immune).collect();
    assert!(shares.windows(2).all(|w| w[0] < w[1]), "{shares:?}");
}

#[test]
fn a_new_vehicle_has_its_whole_life_ahead() {
    let life = usage_life(3.0, 100_000.0);
    let s = Setup { usage_now: 0.0, age_now: 0.0, ..Setup::plain(life) };
    let (present, by_horizon) = compute(&s);
    assert!(present.abs() < 1e-12);
    assert!((by_horizon - Weibull::new(3.0, 100_000.0).unwrap().cdf(45_000.0)).abs() < 1e-9);
}
