//! The whole state of a candidate (claims, exposure, papers, care, findings) against a second program
//! that shares no code with this one: `fixtures/plain.py`, in plain NumPy.

use serde_json::Value;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_core::{Assumptions, assess};

fn numbers(v: &Value) -> Vec<f64> {
    v.as_array().unwrap().iter().map(|x| x.as_f64().unwrap()).collect()
}

/// In the same cells both programs say the same, but for the core's tables.
const SAME: f64 = 5e-4;

/// In five times as many cells the second program comes nearer the truth: how far the core may be from it.
const FINE: f64 = 5e-3;

/// And on average.
const USUAL: f64 = 5e-4;

#[test]
fn two_programs_agree() {
    let cases: Vec<Value> = serde_json::from_str(include_str!("../fixtures/plain.json")).unwrap();
    assert!(cases.len() >= 24);
    let (mut compared, mut off) = (0.0, 0.0);
    for (n, case) in cases.iter().enumerate() {
        let family = read_family(&case["family"].to_string()).unwrap_or_else(|e| panic!("case {n}: {e:?}"));
        let candidate = read_candidate(&case["candidate"].to_string()).unwrap_or_else(|e| panic!("case {n}: {e:?}"));
        let ids: Vec<String> = family.points.iter().map(|p| p.id.clone()).collect();
        let a = assess(&candidate, &[family], &Assumptions::default()).unwrap_or_else(|e| panic!("case {n}: {e:?}"));
        assert!(!a.approximate);
        let near = |what: &str, got: f64, wanted: f64, by: f64| {
            assert!((got - wanted).abs() < by, "case {n}, {what}: {got}, wanted {wanted}");
        };
        for l in 0..3 {
            near("care by the papers", a.care.before[l], numbers(&case["care_before"])[l], SAME);
            near("care after findings", a.care.after[l], numbers(&case["care_after"])[l], SAME);
        }
        for (i, id) in ids.iter().enumerate() {
            let p = a.points.iter().find(|p| &p.at.point == id).unwrap();
            near(&format!("{id} now"), p.p_now, numbers(&case["now"])[i], SAME);
            near(&format!("{id} in the plan"), p.p_plan, numbers(&case["plan"])[i], SAME);
            near(&format!("{id} now, finely"), p.p_now, numbers(&case["fine"]["now"])[i], FINE);
            near(&format!("{id} in the plan, finely"), p.p_plan, numbers(&case["fine"]["plan"])[i], FINE);
            off += (p.p_plan - numbers(&case["fine"]["plan"])[i]).abs();
            compared += 1.0;
        }
    }
    assert!(compared > 50.0 && off / compared < USUAL, "{compared} points, {off}");
}
