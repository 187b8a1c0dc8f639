//! Small sheets and candidates that tests vary.

pub mod beside;
pub mod random;
pub mod sense;

use proptest::test_runner::{Config, RngSeed};
use serde_json::{Value, json};
use ticksage_core::formats::base_sheets;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_core::{Candidate, Family};

/// A sheet with one failure point "belt" (wear, about 100 000 km) and one check "look" on it.
pub fn sheet() -> Value {
    json!({
        "format": "ticksage-family/2", "id": "test", "version": 1, "name": "Test family", "kind": "engine",
        "clock": "km", "currency": "HSC", "sources": [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}],
        "points": [{
            "id": "belt", "name": "Belt", "system": "engine", "shows": "crumbs", "mechanism": "wear",
            "life": [{"source": "a", "says": {"form": "about", "at": 100_000}}],
            "repair_delay": 2000, "job": "belt-job"
        }],
        "checks": [{
            "id": "look", "name": "Look", "phase": "bonnet_cold", "how": "Look.", "minutes": 3,
            "outcomes": [{"label": "clean"}, {"label": "dirty"}, {"label": "crumbs"}],
            "leak": [0.9, 0.08, 0.02],
            "links": [{"point": "belt", "present": [0.1, 0.3, 0.6], "coming": [0.5, 0.4, 0.1], "lead": 10_000}]
        }],
        "jobs": [{"id": "belt-job", "name": "Belt job",
            "parts": {"equivalent": {"low": 200, "likely": 300, "high": 400}},
            "hours": {"low": 4, "likely": 5, "high": 6}}]
    })
}

/// A candidate of that family: 80 000 km in six years, three years of 15 000 km ahead.
pub fn candidate() -> Value {
    json!({
        "format": "ticksage-candidate/2", "title": "Test", "families": [{"id": "test", "version": 1}],
        "as_of": "2026-06-01", "built": "2020-06-01", "usage": {"value": 80_000, "unit": "km"},
        "asking": 8000, "currency": "HSC",
        "plan": {"years": 3, "usage_a_year": {"value": 15_000, "unit": "km"}}
    })
}

/// The same with the history report asked, and all of it clear.
pub fn asked(c: Value) -> Value {
    const ITEMS: [&str; 8] = [
        "stolen",
        "scrapped",
        "identity",
        "written_off_structural",
        "written_off",
        "finance",
        "third_party",
        "mileage",
    ];
    with(c, "/provenance", json!(ITEMS.map(|item| json!({"item": item, "state": "clear"}))))
}

pub fn family(v: &Value) -> Family {
    ticksage_core::formats::documents::read_family(&v.to_string()).expect("the sheet makes sense")
}

pub fn cand(v: &Value) -> Candidate {
    ticksage_core::formats::documents::read_candidate(&v.to_string()).expect("the candidate has the right shape")
}

/// Sets a value at a JSON pointer whose parent is there.
pub fn with(mut v: Value, path: &str, to: Value) -> Value {
    let (parent, key) = path.rsplit_once('/').unwrap();
    match v.pointer_mut(parent).expect("the parent is there") {
        Value::Object(o) => {
            o.insert(key.to_owned(), to);
        }
        Value::Array(a) => a[key.parse::<usize>().unwrap()] = to,
        other => panic!("{parent} is {other}"),
    }
    v
}

/// The demo's candidates, each with every sheet there is.
pub fn demo() -> Vec<(Candidate, Vec<Family>)> {
    let folder = |name: &str| {
        let dir = format!("{}/../../demo/{name}", env!("CARGO_MANIFEST_DIR"));
        let mut files: Vec<_> = std::fs::read_dir(dir).unwrap().map(|e| e.unwrap().path()).collect();
        files.sort();
        files.into_iter().map(|f| std::fs::read_to_string(f).unwrap()).collect::<Vec<_>>()
    };
    let mut families: Vec<Family> = folder("families").iter().map(|t| read_family(t).unwrap()).collect();
    families.extend(base_sheets::sheets().unwrap());
    folder("candidates").iter().map(|t| (read_candidate(t).unwrap(), families.clone())).collect()
}

/// Random cases that are the same in every run.
pub fn cases(cases: u32) -> Config {
    Config { cases, failure_persistence: None, rng_seed: RngSeed::Fixed(20_261_126), ..Config::default() }
}
