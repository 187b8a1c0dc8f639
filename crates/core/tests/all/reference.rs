//! The computation held against figures from libraries and handbooks; `fixtures/reference.py` made
//! them and names each source.

use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::base::pert::pert_mean;
use ticksage_core::base::statistics::theil_sen;
use ticksage_core::base::weibull::Weibull;
use ticksage_core::documents::care_level::CareLevel;
use ticksage_core::documents::check::Check;
use ticksage_core::inference::check_effect::Answer;
use ticksage_core::inference::findings::{outlook, weigh};
use ticksage_core::reliability::mixture::{Life, WeibullMixture};
use ticksage_core::reliability::plan_grid::FutureGrid;
use ticksage_core::reliability::remaining_life::RemainingLife;

fn reference(key: &str) -> Vec<Value> {
    let all: Value = serde_json::from_str(include_str!("../fixtures/reference.json")).unwrap();
    match &all[key] {
        Value::Array(a) => a.clone(),
        other => vec![other.clone()],
    }
}

fn number(v: &Value) -> f64 {
    v.as_f64().unwrap_or_else(|| panic!("{v} is no number"))
}

fn pairs(v: &Value) -> Vec<(f64, f64)> {
    v.as_array().unwrap().iter().map(|p| (number(&p[0]), number(&p[1]))).collect()
}

fn close(got: f64, wanted: f64, relative: f64, what: &str) {
    assert!((got - wanted).abs() <= relative * wanted.abs().max(1e-12), "{what}: {got}, wanted {wanted}");
}

/// scipy.stats.weibull_min solved for two percentiles; scipy.stats.linregress on Weibull paper.
#[test]
fn curves_through_anchors() {
    for key in ["two_anchors", "least_squares"] {
        for case in reference(key) {
            let w = Weibull::fit(&pairs(&case["anchors"])).unwrap();
            close(w.shape(), number(&case["shape"]), 1e-9, key);
            close(w.scale(), number(&case["scale"]), 1e-9, key);
        }
    }
}

/// scipy.stats.weibull_min.ppf.
#[test]
fn curves_through_one_anchor() {
    for case in reference("one_anchor") {
        let w = Weibull::through(number(&case["p"]), number(&case["x"]), number(&case["shape"])).unwrap();
        close(w.scale(), number(&case["scale"]), 1e-10, "one anchor");
        close(w.quantile(number(&case["p"])), number(&case["x"]), 1e-12, "its own anchor");
    }
}

/// NIST/SEMATECH e-Handbook of Statistical Methods, 8.4.1.2: published shape and scale of the
/// right-censored example (from memory, confirmed by lifelines), survival at its times by SciPy.
#[test]
fn the_handbooks_censored_example() {
    let case = &reference("nist_8_4_1_2")[0];
    let w = Weibull::new(number(&case["shape"]), number(&case["scale"])).unwrap();
    for (t, survival) in pairs(&case["survival"]) {
        close(w.survival(t), survival, 1e-12, "alive");
        close(w.cdf(t), 1.0 - survival, 1e-12, "failed");
    }
    // Ten of twenty had failed when the test ended at 500 h.
    assert!((w.cdf(500.0) - 0.5).abs() < 0.03);
}

/// scipy.stats.weibull_min.sf: two pooled sources on one clock, whichever comes first with the other.
#[test]
fn sources_pooled_on_competing_clocks() {
    let life = Life {
        usage: WeibullMixture::new(vec![
            (2.0, Weibull::new(4.0, 95_000.0).unwrap()),
            (1.0, Weibull::new(3.0, 200_000.0).unwrap()),
        ]),
        age: WeibullMixture::new(vec![(1.0, Weibull::new(3.5, 11.0).unwrap())]),
    };
    for case in reference("mixture") {
        let got = life.survival(number(&case["usage"]), number(&case["age"]), 0.8);
        close(got, number(&case["survival"]), 1e-11, "mixture");
    }
}

/// Mean of the beta distribution by scipy.stats.beta, in Malcolm's parametrisation (1959).
#[test]
fn three_point_means() {
    for c in reference("pert") {
        close(
            pert_mean(number(&c["low"]), number(&c["likely"]), number(&c["high"])),
            number(&c["mean"]),
            1e-12,
            "PERT",
        );
    }
}

/// scipy.stats.theilslopes.
#[test]
fn the_line_through_comparables() {
    for case in reference("theil_sen") {
        let (slope, intercept) = theil_sen(&pairs(&case["points"])).unwrap();
        close(slope, number(&case["slope"]), 1e-12, "slope");
        close(intercept, number(&case["intercept"]), 1e-12, "intercept");
    }
}

/// The networks' zones: present, within 5, within 10, later, immune.
fn remaining(masses: &Value) -> RemainingLife {
    let m: Vec<f64> = masses.as_array().unwrap().iter().map(number).collect();
    let grid = FutureGrid::coarse(20.0, &[5.0, 10.0]);
    RemainingLife { grid, present: m[0], cells: vec![m[1], m[2], m[3]], tail: 0.0, immune: m[4], overdue: None }
}

fn check(c: &Value, name: usize) -> Check {
    let n = c["leak"].as_array().unwrap().len();
    let links: Vec<Value> = c["links"]
        .as_array()
        .unwrap()
        .iter()
        .map(|l| {
            let mut link = l.clone();
            link["point"] = json!(format!("p{}", l["point"]));
            link
        })
        .collect();
    let outcomes: Vec<Value> = (0..n).map(|i| json!({"label": format!("outcome {i}")})).collect();
    serde_json::from_value(json!({
        "id": format!("c{name}"), "name": "check", "phase": "drive", "how": "", "minutes": 1,
        "outcomes": outcomes, "leak": c["leak"], "links": links
    }))
    .unwrap()
}

fn links(c: &Value) -> Vec<(usize, usize)> {
    let links = c["links"].as_array().unwrap();
    links.iter().enumerate().map(|(i, l)| (usize::try_from(l["point"].as_u64().unwrap()).unwrap(), i)).collect()
}

fn answers<'a>(checks: &'a [Check], raw: &[Value]) -> Vec<Answer<'a>> {
    let answer = |(check, c): (&'a Check, &Value)| Answer {
        check,
        outcome: usize::try_from(c["outcome"].as_u64().unwrap()).unwrap(),
        links: links(c),
        key: check.id.clone(),
    };
    checks.iter().zip(raw).map(answer).collect()
}

/// Every state and every way to reach an outcome, enumerated in plain Python.
#[test]
fn noisy_max_networks() {
    let networks = reference("networks");
    assert!(networks.len() >= 30);
    for (n, network) in networks.iter().enumerate() {
        let raw = network["checks"].as_array().unwrap();
        let checks: Vec<Check> = raw.iter().enumerate().map(|(i, c)| check(c, i)).collect();
        let mut answers = answers(&checks, raw);
        let before: Vec<RemainingLife> = network["points"].as_array().unwrap().iter().map(remaining).collect();
        let mut after = before.clone();
        assert!(!weigh(&mut after, &answers, CareLevel::Ordinary, 200_000.0, &Budget::default()).approximate);
        for (z, wanted) in after.iter().zip(network["posterior"].as_array().unwrap()) {
            let got = [z.present, z.cells[0], z.cells[1], z.cells[2], z.immune];
            for (g, w) in got.iter().zip(wanted.as_array().unwrap()) {
                assert!((g - number(w)).abs() < 1e-9, "network {n}: {got:?}, wanted {wanted}");
            }
        }
        // The order in which findings were entered changes nothing.
        answers.reverse();
        let mut other = before.clone();
        weigh(&mut other, &answers, CareLevel::Ordinary, 200_000.0, &Budget::default());
        assert_eq!(after, other, "network {n}");
        // Before the answers, the outlooks are chances.
        for a in &answers {
            let chances = outlook(a.check, &a.links, &before, CareLevel::Ordinary);
            assert!((chances.iter().sum::<f64>() - 1.0).abs() < 1e-9);
        }
    }
}

/// One answer at a time gives nearly the same, and says that it is approximate.
#[test]
fn too_many_joint_states_are_said_to_be_approximate() {
    let case = reference("networks")
        .into_iter()
        .find(|n| {
            let coupling = |c: &&Value| c["outcome"] != 0 && c["links"].as_array().unwrap().len() > 1;
            n["checks"].as_array().unwrap().iter().filter(coupling).count() >= 2
        })
        .unwrap();
    let raw = case["checks"].as_array().unwrap();
    let checks: Vec<Check> = raw.iter().enumerate().map(|(i, c)| check(c, i)).collect();
    let answers = answers(&checks, raw);
    let mut z: Vec<RemainingLife> = case["points"].as_array().unwrap().iter().map(remaining).collect();
    assert!(weigh(&mut z, &answers, CareLevel::Ordinary, 2.0, &Budget::default()).approximate);
    for one in &z {
        let total = one.present + one.cells.iter().sum::<f64>() + one.tail + one.immune;
        assert!((total - 1.0).abs() < 1e-9);
    }
}
