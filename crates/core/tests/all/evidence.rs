//! Lives, shares that never fail and renewals against libraries that nobody here wrote; `fixtures/evidence.py`
//! made the figures and names each source, and puts the graded
//! networks of `reference.rs` through pgmpy as well.

use serde_json::Value;
use ticksage_core::base::weibull::Weibull;
use ticksage_core::reliability::condition::{History, condition_now};
use ticksage_core::reliability::mixture::{Life, WeibullMixture};
use ticksage_core::reliability::plan_grid::PLAN_CELLS;
use ticksage_core::reliability::renewal::fresh_failures;
use ticksage_core::reliability::survival_grid::PreparedPart;
use ticksage_core::reliability::survival_table::{Curves, Cycle};
use ticksage_core::reliability::usage_path::PastPath;

fn figures() -> Value {
    serde_json::from_str(include_str!("../fixtures/evidence.json")).unwrap()
}

fn number(v: &Value) -> f64 {
    v.as_f64().unwrap_or_else(|| panic!("{v} is no number"))
}

fn pairs(v: &Value) -> Vec<(f64, f64)> {
    v.as_array().unwrap().iter().map(|p| (number(&p[0]), number(&p[1]))).collect()
}

/// surpyval, reliability and lifelines: survival and quantiles of fits to published data, two of them
/// right-censored, read through our curves; and the curve found again from two of their quantiles.
#[test]
fn fitted_lives_of_published_data() {
    let all = figures();
    let fits = all["fits"].as_array().unwrap();
    assert!(fits.len() >= 4);
    for fit in fits {
        let name = fit["name"].as_str().unwrap();
        let (shape, scale) = (number(&fit["shape"]), number(&fit["scale"]));
        let w = Weibull::new(shape, scale).unwrap();
        for (t, survival) in pairs(&fit["survival"]) {
            assert!((w.survival(t) - survival).abs() < 1e-9, "{name} at {t}: {} {survival}", w.survival(t));
        }
        let quantiles = pairs(&fit["quantiles"]);
        for (p, t) in &quantiles {
            assert!((w.quantile(*p) / t - 1.0).abs() < 1e-9, "{name} {p}: {} {t}", w.quantile(*p));
        }
        // "Usually between A and B" are the 20th and the 80th percentile.
        let again = Weibull::fit(&[quantiles[1], quantiles[3]]).unwrap();
        assert!((again.shape() / shape - 1.0).abs() < 1e-9 && (again.scale() / scale - 1.0).abs() < 1e-9, "{name}");
        let line = Weibull::fit(&quantiles).unwrap();
        assert!((line.shape() / shape - 1.0).abs() < 1e-9, "{name}");
    }
}

/// Meeker's limited failure population (1987), fitted by surpyval: the share alive is ours with a share
/// that never fails; and by Bayes what is alive late is nearly all immune.
#[test]
fn a_share_that_never_fails() {
    let all = figures();
    let case = &all["limited"];
    let (share, shape, scale) = (number(&case["share"]), number(&case["shape"]), number(&case["scale"]));
    let pool = WeibullMixture::new(vec![(1.0, Weibull::new(shape, scale).unwrap())]);
    for (t, survival) in pairs(&case["survival"]) {
        assert!((1.0 - share + share * pool.survival(t) - survival).abs() < 1e-6, "{t}: {survival}");
        // The same through the state of a part that nobody mends.
        let life = Life { usage: pool.clone(), age: WeibullMixture::default() };
        let curves = Curves::new(&life, 2.0 * t, 1.0);
        let path = PastPath::new(t, 1.0, &[]);
        let cycle = Cycle { curves: &curves, life_factor: 1.0 };
        let part = PreparedPart::new(&path, cycle, t, t);
        let history = History {
            build_overdue: false,
            share,
            build: cycle,
            renewals: Vec::new(),
            unrecorded: &part,
            survivable: 0.0,
            completeness: 0.0,
            trace: false,
        };
        let condition = &condition_now(&path, &history, &[0.0])[0];
        assert!((condition.offered - survival).abs() < 1e-6, "{t}: {} {survival}", condition.offered);
        assert!((condition.immune - (1.0 - share) / survival).abs() < 1e-6);
    }
}

/// The renewal equation by the trapezoid on a fine grid, checked there by simulation.
#[test]
#[allow(clippy::cast_precision_loss)]
fn renewals_of_a_part_fitted_now() {
    let all = figures();
    for case in all["renewal"].as_array().unwrap() {
        let (shape, scales, expected) = (number(&case["shape"]), number(&case["scales"]), number(&case["expected"]));
        let life = Life {
            usage: WeibullMixture::new(vec![(1.0, Weibull::new(shape, 40_000.0).unwrap())]),
            age: WeibullMixture::default(),
        };
        let horizon = scales * 40_000.0;
        let cells = fresh_failures(horizon, &Curves::new(&life, horizon, 1.0), 1.0, 10_000.0);
        assert_eq!(cells.len(), PLAN_CELLS);
        let got: f64 = cells.iter().sum();
        assert!((got - expected).abs() < 3e-3, "shape {shape} at {scales}: {got}, wanted {expected}");
        // A life factor of one half is a life of half the length.
        let half = Life {
            usage: WeibullMixture::new(vec![(1.0, Weibull::new(shape, 80_000.0).unwrap())]),
            age: WeibullMixture::default(),
        };
        let same: f64 = fresh_failures(horizon, &Curves::new(&half, 2.0 * horizon, 1.0), 0.5, 10_000.0).iter().sum();
        assert!((got - same).abs() < 1e-5);
    }
}
