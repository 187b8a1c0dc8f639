//! Care as a hidden level: what is seen speaks for what is not; what care does not touch says nothing.

use crate::common::{cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::decision::point_result::PointResult;
use ticksage_core::{Assessment, Assumptions, assess};

/// Two points, "belt" that depends on upkeep and "lamp" that does not; a look at each; a sign of care.
fn two() -> Value {
    let mut s = sheet();
    s = with(s, "/points/0/upkeep", json!(true));
    let mut mil = s["points"][0].clone();
    mil["id"] = json!("mil");
    mil["upkeep"] = json!(false);
    mil["repair_delay"] = json!(0);
    s["points"].as_array_mut().unwrap().push(mil);
    let mut glance = s["checks"][0].clone();
    glance["id"] = json!("glance");
    glance["links"][0]["point"] = json!("mil");
    let tidy = json!({"id": "bay", "name": "Bay", "phase": "bonnet_cold", "how": "Look.", "minutes": 1,
        "outcomes": [{"label": "tidy"}, {"label": "filthy"}], "leak": [0.6, 0.4],
        "care_sign": {"poor": [0.2, 0.8], "ordinary": [0.6, 0.4], "good": [0.9, 0.1]}});
    let checks = s["checks"].as_array_mut().unwrap();
    checks.push(glance);
    checks.push(tidy);
    s
}

fn found(check: &str, outcome: usize) -> Value {
    json!({"family": "test", "check": check, "result": {"kind": "outcome", "outcome": outcome}})
}

fn judged(s: &Value, c: &Value) -> Assessment {
    assess(&cand(c), &[family(s)], &Assumptions::default()).unwrap()
}

fn with_findings(findings: &[Value]) -> Assessment {
    judged(&two(), &with(candidate(), "/findings", json!(findings)))
}

fn point<'a>(a: &'a Assessment, id: &str) -> &'a PointResult {
    a.points.iter().find(|p| p.at.point == id).unwrap()
}

#[test]
fn a_filthy_bay_speaks_for_what_cannot_be_seen() {
    let (none, tidy, filthy) =
        (with_findings(&[]), with_findings(&[found("bay", 0)]), with_findings(&[found("bay", 1)]));
    assert_eq!(none.care.before, [0.25, 0.5, 0.25]);
    // Bayes by hand: poor 0.25 × 0.8 against ordinary 0.5 × 0.4 and good 0.25 × 0.1.
    let total = 0.25 * 0.8 + 0.5 * 0.4 + 0.25 * 0.1;
    assert!((filthy.care.after[0] - 0.25 * 0.8 / total).abs() < 1e-12);
    assert!(tidy.care.after[2] > none.care.after[2] && none.care.after[2] > filthy.care.after[2]);
    let belt = |a: &Assessment| point(a, "belt").p_now;
    assert!(belt(&tidy) < belt(&none) && belt(&none) < belt(&filthy), "faults are left longer where nobody cares");
    // A part that care does not touch, and that nobody lives with, is left alone.
    let mil = |a: &Assessment| point(a, "mil").p_plan;
    assert!((mil(&tidy) - mil(&filthy)).abs() < 1e-12);
}

#[test]
fn a_finding_on_what_care_does_not_touch_says_nothing_of_care() {
    for outcome in 0..3 {
        let a = with_findings(&[found("glance", outcome)]);
        assert!(a.care.after.iter().zip(&a.care.before).all(|(x, y)| (x - y).abs() < 1e-12), "{:?}", a.care);
        assert!((point(&a, "belt").p_plan - point(&with_findings(&[]), "belt").p_plan).abs() < 1e-12);
    }
}

#[test]
fn a_fault_left_unmended_speaks_of_care() {
    let (sound, bad) = (with_findings(&[found("look", 0)]), with_findings(&[found("look", 2)]));
    assert!(bad.care.after[0] > bad.care.before[0], "{:?}", bad.care.after);
    assert!(bad.care.after[0] > sound.care.after[0]);
}

#[test]
fn the_mixture_is_that_of_its_worlds() {
    // Certain care, by its own index, gives that scenario alone; the mixture lies between.
    let mut table = Assumptions::default();
    let mut at = |index: f64| {
        table.care_unknown = index;
        let a = assess(&cand(&candidate()), &[family(&two())], &table).unwrap();
        (a.care.bill, a.bill.mean, point(&a, "belt").p_plan)
    };
    let (bills, mixed, chance) = at(0.5);
    let (poor, good) = (at(0.0), at(1.0));
    assert!((poor.1 - bills[0]).abs() < 1e-9 && (good.1 - bills[2]).abs() < 1e-9);
    let weighed = 0.25 * bills[0] + 0.5 * bills[1] + 0.25 * bills[2];
    assert!((mixed - weighed).abs() < 1e-9);
    assert!(chance >= poor.2.min(good.2) && chance <= poor.2.max(good.2));
}

/// A service of the test sheet each 15 000 km.
fn serviced(entries: &[(u32, &str, &str)], seen: bool) -> ticksage_core::evidence::care_index::CareIndex {
    let s = with(sheet(), "/intervals", json!([{"id": "oil", "name": "Oil", "usage": 15_000, "job": "belt-job"}]));
    let ledger: Vec<Value> = entries
        .iter()
        .map(|(km, date, evidence)| {
            json!({"date": date, "usage": {"value": km, "unit": "km"}, "evidence": evidence,
                "performs": [{"family": "test", "interval": "oil"}]})
        })
        .collect();
    let c = with(with(candidate(), "/ledger", json!(ledger)), "/papers_seen", json!(seen));
    judged(&s, &c).care.index
}

#[test]
fn papers_tell_how_it_was_kept() {
    // Due at 15, 30, 45, 60 and 75 thousand: five times by 80 000 km.
    let all = [
        (15_000, "2021-07-01", "invoice"),
        (30_000, "2022-07-01", "invoice"),
        (45_000, "2023-07-01", "invoice"),
        (60_000, "2024-07-01", "invoice"),
        (75_000, "2025-07-01", "invoice"),
    ];
    let kept = serviced(&all, true);
    // Services: 0.90 believed each, with three more half evidenced, weight 0.5; the interval kept: 1, weight 0.2.
    assert!((kept.index - (0.5 * (5.0 * 0.9 + 1.5) / 8.0 + 0.2) / 0.7).abs() < 1e-12, "{kept:?}");
    let three = serviced(&all[..3], true);
    assert!((three.index - (0.5 * (3.0 * 0.9 + 1.5) / 8.0 + 0.2) / 0.7).abs() < 1e-12, "{three:?}");
    // What was not evidenced is not known while papers may be missing.
    assert!(serviced(&all[..3], false).index > three.index);
    assert!(serviced(&[], false).parts.is_empty());
    assert!((serviced(&[], false).index - 0.5).abs() < 1e-12);
    assert!((serviced(&[], true).index - 1.5 / 8.0).abs() < 1e-12, "every paper seen, and none of them a service");
    // Twice the interval between services is not keeping it at all.
    let late = serviced(&[(15_000, "2021-07-01", "invoice"), (45_000, "2023-07-01", "invoice")], true);
    assert!((late.index - (0.5 * (2.0 * 0.9 + 1.5) / 8.0) / 0.7).abs() < 1e-12, "{late:?}");
}

#[test]
fn more_evidence_of_service_never_lowers_the_index() {
    let mut entries: Vec<(u32, &str, &str)> = Vec::new();
    let mut last = serviced(&entries, false).index;
    for e in [(15_000, "2021-07-01", "stamp"), (30_000, "2022-07-01", "invoice"), (45_000, "2023-07-01", "owner_log")] {
        entries.push(e);
        let now = serviced(&entries, false).index;
        assert!(now >= last - 1e-12, "{last} {now}");
        last = now;
    }
}

#[test]
fn the_buyers_own_care_counts_ahead_alone() {
    let of = |care: &str| {
        let a = judged(&two(), &with(candidate(), "/plan/care", json!(care)));
        (point(&a, "belt").p_now, point(&a, "belt").p_plan, point(&a, "mil").p_plan)
    };
    let (poor, good) = (of("poor"), of("good"));
    // As far as the tables that the curves are read from agree.
    assert!((poor.0 - good.0).abs() < 1e-6, "what is there now was there before");
    assert!(poor.1 > good.1 && (poor.2 - good.2).abs() < 1e-6);
}
