//! What would make the computation endless is refused with its path, and what is taken ends.

use crate::common::beside::BESIDE;
use serde_json::{Value, json};
use std::sync::atomic::AtomicBool;
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::budget::{Budget, Overrun};
use ticksage_core::inference::depth::Depth;
use ticksage_core::validation::candidate::candidate_faults;
use ticksage_core::validation::family::family_faults;
use ticksage_core::{AssessError, Assumptions, Candidate, Family, assess};

/// A sheet of so many points, checks and links.
struct Size {
    points: usize,
    checks: usize,
    links: usize,
    sources: usize,
}

fn sheet(size: &Size) -> Value {
    let sources: Vec<Value> = (0..size.sources).map(|i| json!({"id": format!("s{i}"), "name": "S"})).collect();
    let life = |p: usize| -> Vec<Value> {
        let claim =
            |i: usize| json!({"source": format!("s{i}"), "says": {"form": "about", "at": 60_000 + 1000 * (p + i)}});
        (0..size.sources).map(claim).collect()
    };
    let point = |p: usize| {
        json!({"id": format!("p{p}"), "name": "P", "system": "engine", "shows": "x", "mechanism": "wear",
            "repair_delay": 2000, "life": life(p), "job": "job"})
    };
    // Each check links a run of points, so that neighbours hang together.
    let check = |c: usize| {
        let links: Vec<Value> = (0..size.links)
            .map(|l| json!({"point": format!("p{}", (c + l) % size.points), "present": [0.3, 0.7]}))
            .collect();
        json!({"id": format!("c{c}"), "name": "C", "phase": "walk_round", "how": "look", "minutes": 2,
            "outcomes": [{"label": "clean"}, {"label": "bad"}], "leak": [0.95, 0.05], "links": links})
    };
    json!({"format": "ticksage-family/2", "id": "big", "version": 1, "name": "Big", "kind": "engine", "clock": "km",
        "currency": "HSC", "sources": sources, "points": (0..size.points).map(point).collect::<Vec<_>>(),
        "checks": (0..size.checks).map(check).collect::<Vec<_>>(),
        "jobs": [{"id": "job", "name": "Job", "hours": {"low": 1, "likely": 2, "high": 3}}]})
}

fn family(size: &Size) -> Family {
    serde_json::from_value(sheet(size)).expect("a sheet")
}

/// A candidate with the worse outcome of the first checks.
fn candidate(found: usize) -> Value {
    let finding =
        |c: usize| json!({"family": "big", "check": format!("c{c}"), "result": {"kind": "outcome", "outcome": 1}});
    json!({"format": "ticksage-candidate/2", "title": "T", "families": [{"id": "big", "version": 1}],
        "as_of": "2026-06-01", "built": "2015-06-01", "asking": 8000, "usage": {"value": 120_000, "unit": "km"},
        "currency": "HSC", "plan": {"years": 3, "usage_a_year": {"value": 15_000, "unit": "km"}},
        "findings": (0..found).map(finding).collect::<Vec<_>>()})
}

fn read(value: Value) -> Candidate {
    serde_json::from_value(value).expect("a candidate")
}

/// The paths of a candidate's faults after a change.
fn paths(change: impl FnOnce(&mut Value)) -> Vec<String> {
    let mut value = candidate(0);
    change(&mut value);
    let family = family(&Size { points: 3, checks: 1, links: 2, sources: 1 });
    candidate_faults(&read(value), &[family]).into_iter().map(|f| f.path).collect()
}

#[test]
fn a_plan_without_end_is_refused_with_its_path() {
    let a_year = paths(|c| c["plan"] = json!({"years": 40, "usage_a_year": {"value": 2_000_000, "unit": "km"}}));
    assert_eq!(a_year, ["/plan/usage_a_year/value"]);
    let whole = paths(|c| c["plan"] = json!({"years": 40, "usage_a_year": {"value": 100_000, "unit": "km"}}));
    assert_eq!(whole, ["/plan/years"]);
    assert!(paths(|c| c["plan"] = json!({"years": 8, "usage_a_year": {"value": 120_000, "unit": "km"}})).is_empty());
}

#[test]
fn an_entry_that_names_thousands_is_refused_with_its_path() {
    let renews: Vec<Value> = (0..5_000).map(|_| json!({"family": "big", "point": "p1"})).collect();
    let entry = json!({"date": "2024-01-01", "usage": {"value": 90_000, "unit": "km"}, "renews": renews,
        "evidence": "invoice"});
    assert_eq!(paths(|c| c["ledger"] = json!([entry])), ["/ledger/0/renews"]);
}

#[test]
fn lives_and_intervals_of_no_length_are_refused_with_their_paths() {
    let mut value = sheet(&Size { points: 2, checks: 1, links: 2, sources: 1 });
    value["points"][1]["life"][0]["says"]["at"] = json!(70);
    value["intervals"] = json!([{"id": "oil", "name": "Oil", "job": "job", "usage": 3}]);
    let family: Family = serde_json::from_value(value).unwrap();
    let paths: Vec<String> = family_faults(&family).into_iter().map(|f| f.path).collect();
    assert_eq!(paths, ["/intervals/0/usage", "/points/1/life/0/says"]);
}

#[test]
fn a_sheet_that_is_too_large_is_refused_with_its_path() {
    let family = family(&Size { points: 401, checks: 1, links: 41, sources: 25 });
    let paths: Vec<String> = family_faults(&family).into_iter().map(|f| f.path).collect();
    assert_eq!(paths, ["/sources", "/points", "/checks/0/links"]);
}

#[test]
fn findings_that_hang_together_end_in_an_answer_however_many() {
    for found in [8, 22, 40] {
        let family = family(&Size { points: 60, checks: 40, links: 6, sources: 1 });
        let result = assess(&read(candidate(found)), &[family], &Assumptions::default()).expect("judged");
        assert_eq!(result.approximate, found > 8, "{found}");
        assert!(result.points.iter().all(|p| (0.0..=1.0).contains(&p.p_now)));
    }
}

#[test]
fn one_finding_on_forty_points_ends_in_an_answer() {
    let mut value = sheet(&Size { points: 40, checks: 1, links: 40, sources: 1 });
    for link in value["checks"][0]["links"].as_array_mut().unwrap() {
        link["present"] = json!([0.000_000_01, 0.999_999_99]);
    }
    value["checks"][0]["leak"] = json!([0.999_999_999, 0.000_000_001]);
    let family: Family = serde_json::from_value(value).unwrap();
    let result = assess(&read(candidate(1)), &[family], &Assumptions::default()).expect("judged");
    assert!(!result.approximate);
}

#[test]
fn the_largest_sheets_that_are_taken_end_in_the_same_way_each_time() {
    let family = family(&Size { points: 400, checks: 400, links: 40, sources: 24 });
    assert!(family_faults(&family).is_empty());
    let families = [family];
    let end = || match assess(&read(candidate(17)), &families, &Assumptions::default()) {
        Ok(judged) => Ok(judged.bill.mean.to_bits()),
        Err(AssessError::Overrun(Overrun::TooMuch)) => Err(()),
        Err(e) => panic!("{e}"),
    };
    assert_eq!(end(), end());
}

#[test]
fn few_steps_end_in_a_sentence_and_a_client_that_has_gone_in_silence() {
    let families = [family(&Size { points: 20, checks: 10, links: 4, sources: 2 })];
    let (c, table) = (read(candidate(3)), Assumptions::default());
    let within = |budget: &Budget<'_>| assess_within(&c, &families, &table, Depth::Sources, budget).unwrap_err();
    assert_eq!(within(&Budget::of(500_000)), AssessError::Overrun(Overrun::TooMuch));
    assert_eq!(within(&Budget::of(500_000).joined(&*BESIDE)), AssessError::Overrun(Overrun::TooMuch));
    let gone = AtomicBool::new(true);
    assert_eq!(within(&Budget::until(&gone)), AssessError::Overrun(Overrun::GivenUp));
    assert_eq!(within(&Budget::until(&gone).joined(&*BESIDE)), AssessError::Overrun(Overrun::GivenUp));
}
