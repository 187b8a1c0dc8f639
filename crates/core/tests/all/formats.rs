//! The open formats: everything wrong is told at once with its path; what is written reads back the
//! same; the schemas in `docs/` are those of the code.

use crate::common::{cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::base::fault::Fault;
use ticksage_core::documents::pattern::{Pattern, Questions};
use ticksage_core::formats::documents::{read_bundle, read_candidate, read_family};
use ticksage_core::formats::schema::schema;
use ticksage_core::validation::candidate;
use ticksage_core::{Bundle, Candidate, Family};

fn paths(faults: &[Fault]) -> Vec<&str> {
    faults.iter().map(|f| f.path.as_str()).collect()
}

fn refused(v: &Value) -> Vec<Fault> {
    read_family(&v.to_string()).expect_err("must be refused")
}

#[test]
fn a_sheet_with_many_faults_tells_every_one_at_once() {
    let mut v = sheet();
    v = with(v, "/points/0/life/0/says", json!({"form": "between", "from": 90_000, "to": 70_000}));
    v = with(v, "/points/0/share", json!([{"source": "a", "says": {"form": "share", "share": 1.4}}]));
    v = with(v, "/checks/0/links/0/point", json!("chain"));
    v = with(v, "/jobs/0", json!({"id": "belt-job", "name": "Belt job"}));
    let faults = refused(&v);
    let found = paths(&faults);
    for path in ["/points/0/life/0/says/to", "/points/0/share/0/says/share", "/checks/0/links/0/point", "/jobs/0"] {
        assert!(found.contains(&path), "{path} is missing from {faults:#?}");
    }
    assert_eq!(faults.len(), 4, "{faults:#?}");
}

#[test]
fn each_kind_of_nonsense_is_refused_at_its_path() {
    let life = |says: Value| json!([{"source": "a", "says": says}]);
    let cases = [
        ("/points/0/job", json!("missing"), "/points/0/job"),
        ("/points/0/life", life(json!({"form": "about", "at": -5})), "/points/0/life/0/says/at"),
        ("/points/0/life", life(json!({"form": "sometime", "at": 5})), "/points/0/life/0/says/form"),
        (
            "/points/0/life",
            life(json!({"form": "quantiles", "points": [{"p": 0.5, "x": 10}]})),
            "/points/0/life/0/says/points",
        ),
        (
            "/points/0/life",
            life(json!({"form": "quantiles", "points": [{"p": 0.5, "x": 10}, {"p": 0.2, "x": 20}]})),
            "/points/0/life/0/says",
        ),
        ("/points/0/life", json!([{"source": "c", "says": {"form": "about", "at": 5}}]), "/points/0/life/0/source"),
        ("/points/0/share", json!([{"source": "a", "says": {"form": "one_in", "n": 0.5}}]), "/points/0/share/0/says/n"),
        ("/points/0/repair_delay", json!(-1), "/points/0/repair_delay"),
        ("/points/0/exposures", json!({"salt": 9}), "/points/0/exposures/salt"),
        ("/points/0/applies", json!({"facts": {"doors": ["two"]}}), "/points/0/applies/facts/doors"),
        ("/points/0/applies", json!({"built": {"from": "2020-01-01", "to": "2019-01-01"}}), "/points/0/applies/built"),
        ("/points/0/revision", json!({"name": "new belt"}), "/points/0/revision"),
        ("/points/0/escalation", json!({"job": "engine", "chance": 0.5}), "/points/0/escalation/job"),
        ("/points/0/colour", json!("red"), "/points/0/colour"),
        ("/checks/0/leak", json!([0.9, 0.05, 0.02]), "/checks/0/leak"),
        ("/checks/0/leak", json!([0.9, 0.1]), "/checks/0/leak"),
        ("/checks/0/minutes", json!(0), "/checks/0/minutes"),
        ("/checks/0/links/0/lead", json!(null), "/checks/0/links/0"),
        (
            "/checks/0/measure",
            json!({"quantity": "width", "unit": "mm", "limits": [3, 2], "higher_is_worse": true, "source": "x"}),
            "/checks/0/measure/limits",
        ),
        ("/jobs/0/hours", json!({"low": 5, "likely": 4, "high": 6}), "/jobs/0/hours"),
        ("/jobs/0/parts", json!({"equivalent": {"low": 5, "likely": 4, "high": 6}}), "/jobs/0/parts/equivalent"),
        ("/jobs/0/access", json!(["front"]), "/jobs/0/access/0"),
        ("/intervals", json!([{"id": "i", "name": "I", "job": "belt-job"}]), "/intervals/0"),
        ("/id", json!("Not An Id"), "/id"),
        ("/version", json!(0), "/version"),
        ("/built", json!({"from": "2020-13-01"}), "/built/from"),
    ];
    for (at, to, path) in cases {
        let faults = refused(&with(sheet(), at, to.clone()));
        assert!(paths(&faults).contains(&path), "{at} = {to}: wanted {path:?}, got {faults:#?}");
    }
}

#[test]
fn a_missing_field_is_named() {
    let mut v = sheet();
    v.as_object_mut().unwrap().remove("currency");
    let faults = refused(&v);
    assert!(faults.iter().any(|f| f.message.contains("currency")), "{faults:#?}");
}

#[test]
fn broken_json_says_where() {
    let faults = read_family("{\"format\": ").unwrap_err();
    assert_eq!(faults.len(), 1);
    assert!(faults[0].message.contains("line 1"), "{faults:#?}");
}

#[test]
fn a_candidate_that_makes_no_sense_is_refused_at_its_path() {
    let families = [family(&sheet())];
    let cases = [
        ("/usage/unit", json!("h"), "/usage/unit"),
        ("/usage/value", json!(9_000_000), "/usage/value"),
        ("/built", json!("2027-01-01"), "/built"),
        ("/built", json!("1802-01-01"), "/built"),
        ("/asking", json!(0), "/asking"),
        ("/asking", json!(5e9), "/asking"),
        ("/currency", json!("ABC"), "/currency"),
        ("/plan/usage_a_year/value", json!(0), "/plan/usage_a_year/value"),
        ("/families/0/version", json!(7), "/families/0"),
        ("/families/0/id", json!("nobody"), "/families/0"),
        ("/facts", json!({"doors": "two"}), "/facts/doors"),
        ("/buyer", json!({"sources": {"z": 1}}), "/buyer/sources/z"),
        ("/buyer", json!({"sources": {"a": -1}}), "/buyer/sources/a"),
        ("/buyer", json!({"sources": {"a": 0}}), "/buyer/sources"),
        ("/serials", json!({"other": "K 12"}), "/serials/other"),
        ("/serials", json!({"test": "  "}), "/serials/test"),
        ("/title", json!("   "), "/title"),
        ("/readings", json!([{"date": "2019-01-01", "usage": {"value": 5, "unit": "km"}}]), "/readings/0/date"),
        (
            "/ledger",
            json!([{"date": "2022-01-01", "usage": {"value": 3_000_000, "unit": "km"}, "evidence": "stamp"}]),
            "/ledger/0/usage/value",
        ),
        (
            "/ledger",
            json!([{"date": "2022-01-01", "usage": {"value": 9, "unit": "km"}, "evidence": "stamp", "renews": [{"family": "test", "point": "chain"}]}]),
            "/ledger/0/renews/0",
        ),
        ("/comparables", json!([{"price": 0, "usage": {"value": 9, "unit": "km"}}]), "/comparables/0/price"),
        (
            "/findings",
            json!([{"family": "test", "check": "smell", "result": {"kind": "skipped"}}]),
            "/findings/0/check",
        ),
        (
            "/findings",
            json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": 3}}]),
            "/findings/0/result/outcome",
        ),
        (
            "/findings",
            json!([{"family": "test", "check": "look", "result": {"kind": "measured"}, "reading": 3}]),
            "/findings/0/result",
        ),
    ];
    for (at, to, path) in cases {
        let faults = candidate::candidate_faults(&cand(&with(candidate(), at, to.clone())), &families);
        assert!(paths(&faults).contains(&path), "{at} = {to}: wanted {path:?}, got {faults:#?}");
    }
    assert_eq!(candidate::candidate_faults(&cand(&candidate()), &families), []);
}

#[test]
fn a_candidate_of_the_wrong_shape_is_refused_at_its_path() {
    let cases = [
        ("/usage/value", json!(-3), "/usage/value"),
        ("/asking", json!(-1), "/asking"),
        ("/plan/years", json!(0), "/plan/years"),
        ("/plan/years", json!(41), "/plan/years"),
        ("/usage/unit", json!("leagues"), "/usage/unit"),
        ("/past_use", json!({"salt": 1.5}), "/past_use/salt"),
        ("/families", json!([]), "/families"),
        ("/wheels", json!(4), "/wheels"),
    ];
    for (at, to, path) in cases {
        let faults = read_candidate(&with(candidate(), at, to.clone()).to_string()).unwrap_err();
        assert!(paths(&faults).contains(&path), "{at} = {to}: wanted {path:?}, got {faults:#?}");
    }
    let mut v = candidate();
    v.as_object_mut().unwrap().remove("usage");
    let faults = read_candidate(&v.to_string()).unwrap_err();
    assert!(faults.iter().any(|f| f.message.contains("usage")), "{faults:#?}");
}

#[test]
fn what_is_written_reads_back_the_same() {
    let f = family(&sheet());
    assert_eq!(read_family(&serde_json::to_string(&f).unwrap()).unwrap(), f);
    let c = cand(&candidate());
    assert_eq!(read_candidate(&serde_json::to_string(&c).unwrap()).unwrap(), c);
    let bundle = Bundle { format: Default::default(), candidate: c, families: vec![f] };
    assert_eq!(read_bundle(&serde_json::to_string(&bundle).unwrap()).unwrap(), bundle);
}

#[test]
fn a_bundle_tells_faults_of_both_documents() {
    let bad = json!({
        "format": "ticksage-bundle/2",
        "candidate": with(candidate(), "/built", json!("2027-01-01")),
        "families": [with(sheet(), "/points/0/job", json!("missing"))]
    });
    let faults = read_bundle(&bad.to_string()).unwrap_err();
    assert_eq!(paths(&faults), ["/families/0/points/0/job", "/candidate/built"]);
}

#[test]
fn the_published_schemas_are_those_of_the_code() {
    for (name, now) in [
        ("family", schema::<Family>()),
        ("candidate", schema::<Candidate>()),
        ("bundle", schema::<Bundle>()),
        ("pattern", schema::<Pattern>()),
        ("questions", schema::<Questions>()),
    ] {
        let file = format!("{}/../../docs/schema/{name}.schema.json", env!("CARGO_MANIFEST_DIR"));
        let published: Value = serde_json::from_str(&std::fs::read_to_string(&file).unwrap()).unwrap();
        assert!(published == now, "{file} is out of date: run `cargo run -- publish docs`");
    }
}

#[test]
fn a_worse_outcome_that_speaks_less_is_told_and_not_refused() {
    use ticksage_core::validation::telling::family_notices;
    assert!(family_notices(&family(&sheet()), &[]).is_empty());
    // "crumbs" with a leak so large that it speaks less than "dirty": 0.9 + 0.9·0.05/0.08 against 0.1 + 0.9·0.5/0.02.
    let mut v = with(sheet(), "/checks/0/leak", json!([0.9, 0.02, 0.08]));
    v = with(v, "/checks/0/links/0/present", json!([0.1, 0.5, 0.4]));
    v = with(v, "/checks/0/links/0/coming", json!([0.9, 0.02, 0.08]));
    let notices = family_notices(&family(&v), &[]);
    assert_eq!(paths(&notices), ["/checks/0/links/0/present"], "{notices:?}");
    let said = &notices[0].message;
    assert!(
        said.starts_with("\"crumbs\" is the worse outcome, yet speaks less for \"Belt\" there than \"dirty\""),
        "{said}"
    );
    assert!(said.contains("5.60 against 23.10 times"), "{said}");
}
