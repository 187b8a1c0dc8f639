//! What jobs and failures cost, worked by hand, and how far papers are believed.

use crate::common::{cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::base::pert::pert_mean;
use ticksage_core::base::units::Probability;
use ticksage_core::documents::assumptions::Assumptions;
use ticksage_core::documents::buyer::Labour;
use ticksage_core::documents::failure_point::Warning;
use ticksage_core::documents::job::PartGrade;
use ticksage_core::evidence::belief::completeness;
use ticksage_core::money::job_cost::{caught, cost, failure_cost};
use ticksage_core::{Assessment, assess};

fn table() -> Assumptions {
    Assumptions::default()
}

fn judged(s: &Value, c: &Value) -> Assessment {
    assess(&cand(c), &[family(s)], &table()).unwrap()
}

fn with_access() -> Value {
    let s = with(
        sheet(),
        "/access",
        json!([{"id": "front", "name": "Front off", "hours": 2.5}, {"id": "tray", "name": "Tray off", "hours": 0.5}]),
    );
    with(s, "/jobs/0/access", json!(["front", "tray"]))
}

#[test]
fn a_job_is_parts_and_hours_and_what_must_come_off() {
    let f = family(&with_access());
    let c = cost(&f, &f.jobs[0], PartGrade::Equivalent, Labour::Independent, &table());
    // 300 of parts; 5 h and 3 h of access at 60.
    assert!((c.parts - 300.0).abs() < 1e-9);
    assert!((c.labour - 300.0).abs() < 1e-9);
    assert!((c.access - 180.0).abs() < 1e-9);
    assert!((c.mean - 780.0).abs() < 1e-9);
    // 200 + 4 h + 3 h; 400 + 6 h + 3 h.
    assert!((c.low - 620.0).abs() < 1e-9 && (c.high - 940.0).abs() < 1e-9);
    assert!((c.low..=c.high).contains(&c.mean));
}

#[test]
fn who_works_sets_the_rate() {
    let f = family(&sheet());
    let at = |labour| cost(&f, &f.jobs[0], PartGrade::Equivalent, labour, &table()).labour;
    let rates = [at(Labour::Own), at(Labour::Independent), at(Labour::Dealer)];
    assert_eq!(rates.map(|r| (r / 5.0).round()), [15.0, 60.0, 110.0]);
}

#[test]
fn a_grade_that_is_not_listed_is_had_at_the_nearest() {
    let s = with(
        sheet(),
        "/jobs/0/parts",
        json!({
            "original": {"low": 500, "likely": 600, "high": 700},
            "used": {"low": 50, "likely": 60, "high": 70}
        }),
    );
    let f = family(&s);
    let at = |grade| cost(&f, &f.jobs[0], grade, Labour::Own, &table()).parts;
    assert!((at(PartGrade::Original) - 600.0).abs() < 1e-9);
    assert!((at(PartGrade::Equivalent) - 600.0).abs() < 1e-9);
    assert!((at(PartGrade::Used) - 60.0).abs() < 1e-9);
}

#[test]
fn three_points_weigh_four_on_the_likely() {
    assert!((pert_mean(0.0, 10.0, 80.0) - 20.0).abs() < 1e-12);
    assert!((pert_mean(7.0, 7.0, 7.0) - 7.0).abs() < 1e-12);
}

/// Delay-time inspection (Christer 1982): looks every I with a delay of w catch s·w/I while there is
/// at most one look in the delay, and 1 − (1−s)^(w/I) beyond.
#[test]
fn looking_often_enough_catches_it() {
    let warning = |lead: f64, every: f64, s: f64| Warning {
        sign: "rattle".to_owned(),
        lead,
        every,
        sensitivity: Probability::new(s).unwrap(),
    };
    assert!((caught(&warning(5000.0, 10_000.0, 0.6)) - 0.3).abs() < 1e-12);
    assert!((caught(&warning(10_000.0, 10_000.0, 0.6)) - 0.6).abs() < 1e-12);
    assert!((caught(&warning(30_000.0, 10_000.0, 0.6)) - (1.0 - 0.4f64.powi(3))).abs() < 1e-12);
    let rising: Vec<f64> = (1..40).map(|i| caught(&warning(f64::from(i) * 1000.0, 8000.0, 0.5))).collect();
    assert!(rising.windows(2).all(|w| w[0] <= w[1] + 1e-12), "never less with more warning");
}

#[test]
fn an_unannounced_failure_costs_recovery_and_perhaps_the_larger_job() {
    // Half caught at 600; otherwise 600 + 200 + 0.4 × 4400.
    let k = failure_cost(600.0, 0.5, &[(0.4, 4400.0)], 200.0);
    assert!((k - (0.5 * 600.0 + 0.5 * (800.0 + 0.4 * 4400.0))).abs() < 1e-9);
    assert!((failure_cost(600.0, 0.0, &[], 200.0) - 800.0).abs() < 1e-9);
    assert!((failure_cost(600.0, 1.0, &[(1.0, 4400.0)], 200.0) - 600.0).abs() < 1e-9);
}

#[test]
fn the_worst_branch_is_shown_and_graded() {
    let mut s = with(sheet(), "/points/0/escalation", json!({"job": "engine", "chance": 0.4}));
    let engine =
        json!({"id": "engine", "name": "Engine", "parts": {"equivalent": {"low": 4000, "likely": 4000, "high": 4000}}});
    s["jobs"].as_array_mut().unwrap().push(engine);
    let p = &judged(&s, &candidate()).points[0];
    assert!((p.worst_cost - 4000.0).abs() < 1e-9);
    assert_eq!(p.severity, 3);
    assert!(p.expected_cost > judged(&sheet(), &candidate()).points[0].expected_cost);
}

#[test]
fn a_part_of_better_grade_lasts_longer_after_the_repair() {
    let bought = |grade: &str| {
        let c = with(candidate(), "/buyer", json!({"parts": grade}));
        let c = with(c, "/plan", json!({"years": 20, "usage_a_year": {"value": 30_000, "unit": "km"}}));
        judged(&sheet(), &c).points[0].repairs
    };
    assert!(bought("original") < bought("equivalent") && bought("equivalent") < bought("used"));
}

#[test]
fn harder_use_shortens_what_is_left() {
    let s = with(sheet(), "/points/0/exposures", json!({"salt": 0.5, "motorway": 1.5}));
    let planned = |level: Value| {
        let mut c = candidate();
        c["plan"]["use"] = level;
        judged(&s, &c).points[0].p_plan
    };
    let plain = planned(json!({}));
    assert!(planned(json!({"salt": 1.0})) > planned(json!({"salt": 0.4})));
    assert!(planned(json!({"salt": 0.4})) > plain && plain > planned(json!({"motorway": 1.0})));
    // The life factor is held between a quarter and two and a half.
    let absurd = with(sheet(), "/points/0/exposures", json!({"salt": 0.05}));
    let most = with(sheet(), "/points/0/exposures", json!({"salt": 0.25}));
    let salted = with(candidate(), "/plan/use", json!({"salt": 1.0}));
    let at = |s: &Value| judged(s, &salted).points[0].p_plan;
    assert!((at(&absurd) - at(&most)).abs() < 1e-12);
}

fn ledger(entries: &[(u32, &str)]) -> Value {
    let entry = |(km, evidence): &(u32, &str)| json!({"date": "2024-01-01", "usage": {"value": km, "unit": "km"}, "evidence": evidence});
    json!(entries.iter().map(entry).collect::<Vec<_>>())
}

#[test]
fn invoices_speak_for_the_stretch_before_them_and_are_not_counted_twice() {
    let of = |entries: &[(u32, &str)]| completeness(&cand(&with(candidate(), "/ledger", ledger(entries))), &table());
    assert!((of(&[]) - 0.1).abs() < 1e-12, "never less than a tenth");
    assert!((of(&[(40_000, "stamp"), (60_000, "sellers_word")]) - 0.1).abs() < 1e-12, "only invoices count");
    // 15 000 of 80 000 km.
    assert!((of(&[(40_000, "invoice")]) - 0.9 * 15.0 / 80.0).abs() < 1e-12);
    // Overlapping: from 25 000 to 45 000.
    assert!((of(&[(40_000, "invoice"), (45_000, "invoice_naming_part")]) - 0.9 * 20.0 / 80.0).abs() < 1e-12);
    // Before it was built nothing can be spoken for.
    assert!((of(&[(5_000, "invoice")]) - 0.1).abs() < 1e-12);
    let all: Vec<(u32, &str)> = (1..=8).map(|i| (i * 10_000, "invoice")).collect();
    assert!((of(&all) - 0.9).abs() < 1e-12);
}
