//! Prices, renewals and signs of care held against scikit-learn, SciPy and Kish's design effect;
//! `fixtures/prices.py` made the figures and names each source.

#![allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]

use crate::common::{cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::base::random::uniform;
use ticksage_core::base::statistics::huber;
use ticksage_core::money::reference_price::ReferenceBasis;
use ticksage_core::{Assumptions, assess};

fn reference(key: &str) -> Vec<Value> {
    let all: Value = serde_json::from_str(include_str!("../fixtures/prices.json")).unwrap();
    all[key].as_array().unwrap().clone()
}

fn numbers(v: &Value) -> Vec<f64> {
    v.as_array().unwrap().iter().map(|x| x.as_f64().unwrap()).collect()
}

/// sklearn.linear_model.HuberRegressor on the diabetes study and on Linnerud's exercises.
#[test]
fn a_robust_line_of_two_variables_is_that_of_the_library() {
    for case in reference("huber") {
        let rows: Vec<Vec<f64>> = case["x"].as_array().unwrap().iter().map(numbers).collect();
        let found = huber(&rows, &numbers(&case["y"])).unwrap();
        let near = |what: &str, got: f64, wanted: f64| {
            assert!((got - wanted).abs() < 1e-3 * wanted.abs().max(1e-9), "{what}: {got}, the library {wanted}");
        };
        for (got, wanted) in found.slopes.iter().zip(numbers(&case["slopes"])) {
            near("slope", *got, wanted);
        }
        near("intercept", found.intercept, case["intercept"].as_f64().unwrap());
        near("scale", found.scale, case["scale"].as_f64().unwrap());
    }
}

/// The limited-failure likelihood with a renewal, from scipy.stats.weibull_min.
#[test]
fn what_a_renewal_proves_is_what_the_likelihood_says() {
    let number = |v: &Value, key: &str| v[key].as_f64().unwrap();
    for case in reference("renewals") {
        let s = with(
            sheet(),
            "/points/0/share",
            json!([{"source": "a", "says": {"form": "share", "share": case["share"]}}]),
        );
        let life = json!({"form": "weibull", "shape": case["shape"], "scale": case["scale"]});
        let s = with(s, "/points/0/life/0/says", life);
        // A failure is mended at once, and nobody would sell what it leaves.
        let s = with(with(s, "/points/0/repair_delay", json!(0)), "/points/0/survivable", json!(0));
        let evidence = if number(&case, "credit") > 0.9 { "invoice_naming_part" } else { "stamp" };
        let entry = json!([{"date": "2023-06-01", "usage": {"value": case["entry"], "unit": "km"}, "evidence": evidence,
            "grade": "original", "reason": case["reason"], "renews": [{"family": "test", "point": "belt"}], "note": "x"}]);
        let c = with(with(candidate(), "/usage/value", case["now"].clone()), "/ledger", entry);
        let a = assess(&cand(&c), &[family(&s)], &Assumptions::default()).unwrap();
        let (got, wanted) = (a.points[0].p_plan, number(&case, "plan"));
        assert!((got - wanted).abs() < 2e-4, "{case}: {got}");
    }
}

/// Kish 1965: m answers that correlate at r among each other weigh as much as m / (1 + (m − 1)·r) independent ones.
/// Simulated fleets whose signs of care correlate at 0.4 within each level: with all signs counted whole a vehicle is
/// called neglected far too surely; counted as √m the error is a fraction of that.
#[test]
fn signs_of_care_that_go_together_are_not_counted_as_if_they_did_not() {
    const SIGNS: i32 = 5;
    const CORRELATION: f64 = 0.4;
    let effective = f64::from(SIGNS) / (1.0 + f64::from(SIGNS - 1) * CORRELATION);
    assert!((effective - 1.92).abs() < 0.01 && (f64::from(SIGNS).sqrt() - 2.24).abs() < 0.01);
    let (bad_poor, bad_good) = (0.6, 0.2);
    // Of the vehicles with so many bad signs: how many there are, and how many of them are neglected. The more of a
    // vehicle's signs were bad so far, the likelier the next is: a Pólya urn, which correlates any two of them alike.
    let mut seen = [(0.0, 0.0); SIGNS as usize + 1];
    for n in 0..400_000u64 {
        let poor = uniform(n, 1, 0) < 0.5;
        let own = 1.0 / CORRELATION - 1.0;
        let (mut bad, chance) = (0.0, if poor { bad_poor } else { bad_good });
        for k in 0..SIGNS as u64 {
            bad += f64::from(u8::from(uniform(n, 2, k) < (own * chance + bad) / (own + k as f64)));
        }
        seen[bad as usize].0 += 1.0;
        seen[bad as usize].1 += f64::from(u8::from(poor));
    }
    let said = |bad: usize, power: fn(f64) -> f64| {
        let side = |k: f64, ratio: f64| power(k) * ratio.ln();
        let (bad, clean) = (bad as f64, SIGNS as f64 - bad as f64);
        let ln = side(bad, bad_poor / bad_good) + side(clean, (1.0 - bad_poor) / (1.0 - bad_good));
        1.0 / (1.0 + (-ln).exp())
    };
    let error = |power: fn(f64) -> f64| {
        let total: f64 = seen.iter().map(|s| s.0).sum();
        seen.iter().enumerate().map(|(bad, (n, poor))| (said(bad, power) - poor / n).abs() * n / total).sum::<f64>()
    };
    let (whole, tempered) = (error(|k| k), error(f64::sqrt));
    assert!(tempered < 0.03 && whole > 0.15, "{tempered} against {whole}");
    // The worst of it: all five bad.
    let all = seen[SIGNS as usize];
    assert!(said(SIGNS as usize, |k| k) > 0.99 && all.1 / all.0 < 0.9, "{}", all.1 / all.0);
}

/// The core counts signs of care as the rule says: m equal ones as √m.
#[test]
fn five_equal_signs_count_as_their_root() {
    let sign = |id: usize| {
        json!({"id": format!("sign{id}"), "name": "Sign", "phase": "interior", "how": "Look.", "minutes": 1,
            "outcomes": [{"label": "tidy"}, {"label": "shabby"}], "leak": [0.7, 0.3],
            "care_sign": {"poor": [0.4, 0.6], "ordinary": [0.7, 0.3], "good": [0.8, 0.2]}})
    };
    for m in 1..=5usize {
        let s = with(sheet(), "/checks", Value::Array((0..m).map(sign).collect()));
        let shabby = |id: usize| json!({"family": "test", "check": format!("sign{id}"), "result": {"kind": "outcome", "outcome": 1}});
        let c = with(candidate(), "/findings", Value::Array((0..m).map(shabby).collect()));
        let care = assess(&cand(&c), &[family(&s)], &Assumptions::default()).unwrap().care.after;
        let root = (m as f64).sqrt();
        let weights: Vec<f64> =
            [0.6, 0.3, 0.2].iter().zip([0.25, 0.5, 0.25]).map(|(p, w): (&f64, f64)| w * p.powf(root)).collect();
        let total: f64 = weights.iter().sum();
        for (got, wanted) in care.iter().zip(&weights) {
            assert!((got - wanted / total).abs() < 1e-9, "{m}: {care:?}");
        }
    }
}

#[test]
fn six_adverts_with_their_ages_tell_usage_from_age() {
    // Ten per cent off each year, three each 10 000 km: exactly on the surface.
    let price = |km: f64, age: f64| 20_000.0 * (-0.1 * age - 0.03 * km / 10_000.0).exp();
    let adverts =
        [(60_000.0, 2018), (90_000.0, 2021), (120_000.0, 2016), (40_000.0, 2019), (150_000.0, 2020), (80_000.0, 2017)];
    let list: Vec<Value> = adverts
        .iter()
        .map(|(km, year)| {
            let age = f64::from(2026 - year);
            json!({"price": price(*km, age).round(), "usage": {"value": km, "unit": "km"}, "built": format!("{year}-06-01")})
        })
        .collect();
    let c = with(candidate(), "/comparables", json!(list));
    let r = assess(&cand(&c), &[family(&sheet())], &Assumptions::default()).unwrap().value.reference;
    assert_eq!(r.basis, ReferenceBasis::Surface);
    // 80 000 km and six years.
    assert!((r.price / price(80_000.0, 6.0) - 1.0).abs() < 2e-3, "{}", r.price);
    assert!(r.line.unwrap().a_year < 0.0);
    // Without ages it is the line by usage; one age for all tells nothing of age.
    let bare: Vec<Value> = list.iter().map(|l| json!({"price": l["price"], "usage": l["usage"]})).collect();
    let c = with(candidate(), "/comparables", json!(bare));
    let r = assess(&cand(&c), &[family(&sheet())], &Assumptions::default()).unwrap().value.reference;
    assert!(matches!(r.basis, ReferenceBasis::Line | ReferenceBasis::Median));
}
