//! The bill as it may turn out: its mean against the expected bill, its quantiles against a convolution,
//! the tail against a closed form, three-point figures against their published moments and SciPy's quantiles.

#![allow(clippy::cast_precision_loss)]

use crate::common::{cand, candidate, demo, family, sheet, with};
use proptest::prelude::*;
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::base::pert::Pert;
use ticksage_core::base::random::uniform;
use ticksage_core::base::statistics::{cvar90, quantile};
use ticksage_core::documents::buyer::{MaintenancePolicy, PurchaseChoice};
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::money::bill_spread::{BillSplit, BillSpread};
use ticksage_core::{Assumptions, Candidate, Family, assess};

fn of(f: &[Family], c: &Candidate, reserve: Option<f64>) -> BillSpread {
    spread(c, f, reserve, &Assumptions::default(), &Budget::default()).unwrap()
}

#[test]
fn the_mean_agrees_with_the_expected_bill_within_four_standard_errors() {
    let policies = [MaintenancePolicy::LeastCost, MaintenancePolicy::UpFront, MaintenancePolicy::WaitForSigns];
    for ((c, families), policy) in demo().into_iter().flat_map(|d| policies.map(|s| (d.clone(), s))) {
        let c = Candidate { purchase_plan: PurchaseChoice { policy, ..PurchaseChoice::default() }, ..c };
        let s = of(&families, &c, None);
        let judged = assess(&c, &families, &Assumptions::default()).unwrap().bill;
        // One bill: whatever policy is followed, it is the one that the limit price goes by.
        assert!((s.expected - judged.mean).abs() < 1e-6 * judged.mean.max(1.0), "{}", c.title);
        let drawn = [s.p90 - judged.p90, s.cvar90 - judged.cvar90];
        assert!(drawn.iter().all(|d| d.abs() < 1e-6), "{}: {drawn:?} {policy:?}", c.title);
        let told = s.purchase_plan.policies.iter().find(|o| o.policy == policy).unwrap();
        assert!((told.expected - s.expected).abs() < 1e-9, "{}: {told:?}", c.title);
        let BillSplit { parts, labour, access, mishaps } = s.split;
        assert!((parts + labour + access + mishaps - s.mean).abs() < 1e-6 * s.mean, "{}", c.title);
        assert!(
            (s.mean - s.expected).abs() <= 4.0 * s.error,
            "{}: {} against {} ± {}",
            c.title,
            s.mean,
            s.expected,
            s.error
        );
        assert!(s.p10 <= s.p50 && s.p50 <= s.p90 && s.p90 <= s.cvar90, "{}", c.title);
        assert!(s.grouped <= s.mean + 1e-9, "{}", c.title);
        assert!(s.exceed.windows(2).all(|w| w[0].amount < w[1].amount && w[0].chance >= w[1].chance), "{}", c.title);
        let years: f64 = s.years.iter().map(|y| y.mean).sum();
        assert!((years - s.mean).abs() < 1e-6 * s.mean, "{}", c.title);
    }
}

#[test]
fn the_same_question_gets_the_same_answer_to_the_digit() {
    let (c, families) = demo().swap_remove(1);
    assert_eq!(of(&families, &c, Some(2000.0)), of(&families, &c, Some(2000.0)));
}

/// A sheet whose points fail or do not, at fixed prices: the sum is a convolution.
fn coins(shares: &[(f64, f64)]) -> Family {
    let (mut points, mut jobs) = (Vec::new(), Vec::new());
    for (k, (share, cost)) in shares.iter().enumerate() {
        points.push(json!({"id": format!("p{k}"), "name": "P", "system": "engine", "shows": "x", "mechanism": "wear",
            "share": [{"source": "a", "says": {"form": "share", "share": share}}],
            "life": [{"source": "a", "says": {"form": "weibull", "shape": 40, "scale": 100_000}}],
            "repair_delay": 0, "job": format!("j{k}")}));
        jobs.push(json!({"id": format!("j{k}"), "name": "J", "parts": {"equivalent": {"low": cost, "likely": cost, "high": cost}}}));
    }
    let v = with(sheet(), "/checks", json!([]));
    family(&with(with(v, "/points", json!(points)), "/jobs", json!(jobs)))
}

#[test]
fn quantiles_are_those_of_a_convolution() {
    // Half-way to a life that ends sharply at 100 000: within the plan every susceptible one fails, once.
    let shares = [(0.3, 500.0), (0.6, 800.0), (0.5, 1300.0), (0.2, 2100.0)];
    let c = with(candidate(), "/plan", json!({"years": 3, "usage_a_year": {"value": 15_000, "unit": "km"}}));
    let s = of(&[coins(&shares)], &cand(&c), Some(1600.0));
    // Each failure is unannounced: 200 for the recovery come on top.
    let mut sums = vec![(0.0, 1.0)];
    for (share, cost) in shares {
        sums = sums.iter().flat_map(|(x, p)| [(x + cost + 200.0, p * share), (*x, p * (1.0 - share))]).collect();
    }
    sums.sort_by(|x: &(f64, f64), y| x.0.total_cmp(&y.0));
    let below = |amount: f64| sums.iter().filter(|x| x.0 <= amount).map(|x| x.1).sum::<f64>();
    let told = s.reserve_holds.unwrap();
    // Four standard errors of a share, and a little for lives that end before now or after the plan.
    assert!((told - below(1600.0)).abs() < 0.03, "{told} against {}", below(1600.0));
    for (p, q) in [(0.1, s.p10), (0.5, s.p50), (0.9, s.p90)] {
        // The quantile stands where the convolution passes p.
        assert!(below(q + 1.0) >= p - 0.025 && below(q - 1.0) <= p + 0.025, "{p}: {q}");
    }
    let mean: f64 = sums.iter().map(|(x, p)| x * p).sum();
    assert!((s.mean - mean).abs() < 4.0 * s.error + 0.01 * mean, "{} against {mean}", s.mean);
}

#[test]
fn the_dearest_tenth_of_an_even_spread_has_the_mean_of_its_closed_form() {
    // Uniform on (0, 1): CVaR at 90 % is 0.95 (Rockafellar & Uryasev 2000, for a continuous loss).
    let n = 10_000;
    let even: Vec<f64> = (0..n).map(|i| (f64::from(i) + 0.5) / f64::from(n)).collect();
    assert!((cvar90(&even) - 0.95).abs() < 1e-9);
    // Exponential with mean 1: the quantile plus the mean, 1 + ln 10.
    let mut exponential: Vec<f64> = even.iter().map(|u| -(1.0 - u).ln()).collect();
    exponential.sort_by(f64::total_cmp);
    assert!((cvar90(&exponential) - (1.0 + 10f64.ln())).abs() < 0.002);
    // A border that falls within a figure: 25 figures, the dearest two and a half.
    let few: Vec<f64> = (1..=25).map(f64::from).collect();
    assert!((cvar90(&few) - (25.0 + 24.0 + 0.5 * 23.0) / 2.5).abs() < 1e-12);
    assert!((quantile(&few, 0.9) - 23.0).abs() < 1e-12 && (quantile(&few, 0.1) - 3.0).abs() < 1e-12);
}

#[test]
fn three_point_figures_have_the_moments_of_their_formulas_and_scipys_quantiles() {
    for (low, likely, high) in [(100.0, 200.0, 600.0), (0.0, 10.0, 10.0), (5.0, 5.0, 25.0), (40.0, 50.0, 60.0)] {
        let p = Pert::new(low, likely, high);
        let n = 20_000;
        let draws: Vec<f64> = (0..n).map(|i| p.at((f64::from(i) + 0.5) / f64::from(n))).collect();
        let mean = draws.iter().sum::<f64>() / f64::from(n);
        // Malcolm et al. 1959: (l + 4m + h)/6; the variance of Beta-PERT is (μ − l)(h − μ)/7.
        let formula = (low + 4.0 * likely + high) / 6.0;
        assert!((mean - formula).abs() < 2e-3 * (high - low), "{mean} against {formula}");
        let variance = draws.iter().map(|x| (x - mean).powi(2)).sum::<f64>() / f64::from(n);
        let closed = (formula - low) * (high - formula) / 7.0;
        assert!((variance / closed - 1.0).abs() < 0.01, "{variance} against {closed}");
        assert!(draws.windows(2).all(|w| w[0] <= w[1]) && p.at(0.0) >= low && p.at(1.0) <= high + 1e-9);
    }
    // scipy.stats.beta.ppf(u, 1.8, 4.2, loc=100, scale=500), SciPy 1.x, computed once.
    let p = Pert::new(100.0, 200.0, 600.0);
    for (u, x) in SCIPY {
        assert!((p.at(u) - x).abs() < 0.5, "{u}: {} against {x}", p.at(u));
    }
    assert!((Pert::new(7.0, 7.0, 7.0).at(0.3) - 7.0).abs() < 1e-12);
}

const SCIPY: [(f64, f64); 5] =
    [(0.05, 129.4887), (0.25, 181.7157), (0.5, 238.3361), (0.75, 307.1133), (0.95, 410.6384)];

#[test]
fn visits_close_together_pay_for_what_must_come_off_once() {
    // Two faults that are both there now, behind the same cover of four hours.
    let mut v = sheet();
    v["access"] = json!([{"id": "cover", "name": "Cover", "hours": 4}]);
    let point = |id: &str| {
        json!({"id": id, "name": id, "system": "engine", "shows": "x", "mechanism": "wear",
        "life": [{"source": "a", "says": {"form": "weibull", "shape": 40, "scale": 30_000}}], "repair_delay": 500_000, "job": id})
    };
    let job = |id: &str| json!({"id": id, "name": id, "parts": {"equivalent": {"low": 100, "likely": 100, "high": 100}}, "access": ["cover"]});
    v["points"] = json!([point("one"), point("two")]);
    v["jobs"] = json!([job("one"), job("two")]);
    v["checks"] = json!([]);
    // A plan too short for the new parts to fail in.
    let c = with(candidate(), "/plan", json!({"years": 1, "usage_a_year": {"value": 5_000, "unit": "km"}}));
    let s = of(&[family(&v)], &cand(&c), None);
    let a = Assumptions::default();
    let one = 100.0 + 4.0 * a.rate(cand(&c).buyer.labour);
    // Both are put right at purchase: the cover comes off once, in the one bill that there is.
    let once = 2.0 * one - 4.0 * a.rate(cand(&c).buyer.labour);
    assert!((s.mean - once).abs() < 0.02 * one, "{} against {once}", s.mean);
    assert!((s.mean - s.grouped).abs() < 1e-9, "{}", s.grouped);
}

#[test]
fn a_little_more_use_moves_it_a_little() {
    // Common luck: from one variant of the question to the next the figures do not jump about.
    let (c, families) = demo().swap_remove(1);
    let at = |more: f64| {
        let mut c = c.clone();
        c.plan.usage_a_year.value += more;
        of(&families, &c, None)
    };
    let all: Vec<BillSpread> = (0..6).map(|k| at(f64::from(k) * 200.0)).collect();
    for w in all.windows(2) {
        assert!(
            w[1].mean > w[0].mean - 1.0 && (w[1].mean - w[0].mean).abs() < 0.03 * w[0].mean,
            "{} {}",
            w[0].mean,
            w[1].mean
        );
        assert!((w[1].p90 - w[0].p90).abs() < 0.04 * w[0].p90, "{} {}", w[0].p90, w[1].p90);
    }
}

proptest! {
    #![proptest_config(crate::common::cases(200))]

    #[test]
    fn luck_is_even_and_its_own_for_every_future_and_purpose(thing in any::<u64>(), purpose in 0u64..64) {
        let n = 4000u64;
        let all: Vec<f64> = (0..n).map(|d| uniform(d, thing, purpose)).collect();
        prop_assert!(all.iter().all(|u| (0.0..1.0).contains(u)));
        let mean = all.iter().sum::<f64>() / n as f64;
        // Five standard deviations of the mean of 4000 even figures.
        prop_assert!((mean - 0.5).abs() < 5.0 / (12.0 * n as f64).sqrt(), "{}", mean);
        let other: Vec<f64> = (0..n).map(|d| uniform(d, thing, purpose + 1)).collect();
        let together = all.iter().zip(&other).map(|(x, y)| (x - 0.5) * (y - 0.5)).sum::<f64>() / n as f64 * 12.0;
        prop_assert!(together.abs() < 0.085, "{}", together);
    }
}

#[test]
fn nothing_to_fail_costs_nothing() {
    let none = with(sheet(), "/points/0/share", json!([{"source": "a", "says": {"form": "share", "share": 0.0}}]));
    let s = of(&[family(&with(none, "/checks", json!([])))], &cand(&candidate()), Some(0.0));
    assert!(s.mean.abs() < 1e-9 && s.p90.abs() < 1e-9 && s.reserve_holds == Some(1.0) && s.dear.is_empty());
    let _: Value = serde_json::to_value(&s).unwrap();
}
