//! The demo's figures, to the digit: what a change of the computation changes shows here.
//!
//! `scripts/renew-figures.sh` writes the fixture anew; the difference belongs into the commit that explains it.

use crate::common::demo;
use serde_json::{Value, json};
use ticksage_core::{Assessment, Assumptions, assess};

const FILE: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/fixtures/figures.json");

/// The figures of an assessment that a person meets.
fn figures(a: &Assessment) -> Value {
    let points: serde_json::Map<String, Value> = a
        .points
        .iter()
        .map(|p| {
            let told = json!({
                "now": p.p_now, "plan": p.p_plan, "share": p.share, "repairs": p.repairs, "cost": p.cost.mean,
                "worst": p.worst_cost, "expected": p.expected_cost, "grade": p.grade, "needs_at": p.needs_at,
                "why": p.why.iter().map(|w| w.chance).collect::<Vec<_>>(),
                "sources": p.sources.iter().map(|s| s.chance).collect::<Vec<_>>(),
            });
            (format!("{}/{}", p.at.family, p.at.point), told)
        })
        .collect();
    let checks: serde_json::Map<String, Value> = a
        .open_checks
        .iter()
        .map(|c| (format!("{}/{}", c.family, c.check), json!([c.value_of_information, c.moves])))
        .collect();
    json!({
        "points": points,
        "open_checks": checks,
        "bill": a.bill,
        "value": a.value,
        "care": [a.care.before, a.care.after, a.care.bill],
        "due": a.due.iter().map(|d| json!([d.interval, d.usage, d.chance_done, d.now, d.in_plan])).collect::<Vec<_>>(),
        "offer": [json!(a.offer.open), json!(a.offer.lines.iter().map(|l| l.amount).collect::<Vec<_>>())],
        "verdict": a.verdict.kind,
        "grade": a.grade,
        "blockers": a.blockers.len(),
        "usage_range": a.usage_range,
    })
}

/// Every difference between two values, with its path.
fn differences(path: &str, old: &Value, new: &Value, out: &mut Vec<String>) {
    match (old, new) {
        (Value::Object(x), Value::Object(y)) => {
            for (k, v) in x {
                differences(&format!("{path}/{k}"), v, y.get(k).unwrap_or(&Value::Null), out);
            }
            out.extend(y.keys().filter(|k| !x.contains_key(*k)).map(|k| format!("{path}/{k} is new")));
        }
        (Value::Array(x), Value::Array(y)) if x.len() == y.len() => {
            for (i, (v, w)) in x.iter().zip(y).enumerate() {
                differences(&format!("{path}/{i}"), v, w, out);
            }
        }
        _ if old == new => {}
        _ => out.push(format!("{path}: {old} is now {new}")),
    }
}

#[test]
fn the_demo_has_the_committed_figures() {
    let mut new = serde_json::Map::new();
    for (c, families) in demo() {
        let a = assess(&c, &families, &Assumptions::default()).unwrap();
        new.insert(c.title.clone(), figures(&a));
    }
    // As they are read back: the shortest digits that give the same number.
    let new: Value = serde_json::from_str(&serde_json::to_string(&new).unwrap()).unwrap();
    if std::env::var_os("TICKSAGE_RENEW_FIGURES").is_some() {
        std::fs::write(FILE, serde_json::to_string_pretty(&new).unwrap() + "\n").unwrap();
    }
    let old: Value = serde_json::from_str(&std::fs::read_to_string(FILE).unwrap()).unwrap();
    assert!(old.as_object().unwrap().len() == 9);
    let mut out = Vec::new();
    differences("", &old, &new, &mut out);
    assert!(out.is_empty(), "{} figures differ:\n{}", out.len(), out[..out.len().min(40)].join("\n"));
}
