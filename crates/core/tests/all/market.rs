//! The going price on real adverts held against SciPy and scikit-learn; `fixtures/market.py` made the figures and names
//! the data set and the package that ships it.

use crate::common::{cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::base::statistics::{huber, theil_sen};
use ticksage_core::money::reference_price::ReferenceBasis;
use ticksage_core::{Assumptions, assess};

fn markets() -> Vec<Value> {
    serde_json::from_str(include_str!("../fixtures/market.json")).unwrap()
}

fn numbers(v: &Value) -> Vec<f64> {
    v.as_array().unwrap().iter().map(|x| x.as_f64().unwrap()).collect()
}

fn near(what: &str, got: f64, wanted: f64, within: f64) {
    assert!((got - wanted).abs() <= within * wanted.abs(), "{what}: {got}, the library {wanted}");
}

/// scipy.stats.theilslopes and sklearn.linear_model.HuberRegressor.
#[test]
fn the_lines_of_a_market_are_those_of_the_libraries() {
    for m in markets() {
        let (price, run, age) = (numbers(&m["price"]), numbers(&m["run"]), numbers(&m["age"]));
        let wanted = |key: &str| m[key].as_f64().unwrap();
        let pairs: Vec<(f64, f64)> = run.iter().copied().zip(price.iter().copied()).collect();
        let (slope, intercept) = theil_sen(&pairs).unwrap();
        near("slope", slope, wanted("slope"), 1e-9);
        near("intercept", intercept, wanted("intercept"), 1e-9);
        let rows: Vec<Vec<f64>> = run.iter().zip(&age).map(|(r, a)| vec![*r, *a]).collect();
        let logs: Vec<f64> = price.iter().map(|p| p.ln()).collect();
        let found = huber(&rows, &logs).unwrap();
        near("by run", found.slopes[0], wanted("by_run"), 2e-3);
        near("by age", found.slopes[1], wanted("by_age"), 1e-3);
        near("at nothing", found.intercept, wanted("at_zero"), 1e-4);
        near("scale", found.scale, wanted("scale"), 1e-3);
    }
}

/// The same through a candidate and its comparables, days and miles included.
#[test]
fn a_candidate_among_real_adverts_goes_for_what_the_library_says() {
    for m in markets() {
        let (price, run, age) = (numbers(&m["price"]), numbers(&m["run"]), numbers(&m["age"]));
        let adverts: Vec<Value> = (0..price.len())
            .map(|i| {
                let built = format!("{:.0}-06-01", 2026.0 - age[i]);
                json!({"price": price[i] * 1000.0, "usage": {"value": run[i] * 1000.0, "unit": "mi"}, "built": built})
            })
            .collect();
        let at = numbers(&m["at"]);
        let c = with(candidate(), "/comparables", json!(adverts));
        let c = with(c, "/usage", json!({"value": at[0] * 1000.0, "unit": "mi"}));
        let c = with(c, "/built", json!(format!("{:.0}-06-01", 2026.0 - at[1])));
        let reference = assess(&cand(&c), &[family(&sheet())], &Assumptions::default()).unwrap().value.reference;
        assert_eq!(reference.basis, ReferenceBasis::Surface);
        near("going price", reference.price, m["going"].as_f64().unwrap() * 1000.0, 2e-3);
        // A few adverts that somebody mistyped move it little: that is what the robust fit is for.
        let mut slips = adverts;
        slips.iter_mut().take(3).for_each(|x| x["price"] = json!(x["price"].as_f64().unwrap() * 10.0));
        let c = with(c, "/comparables", json!(slips));
        let slipped = assess(&cand(&c), &[family(&sheet())], &Assumptions::default()).unwrap().value.reference;
        near("with slips of typing", slipped.price, reference.price, 0.1);
    }
}
