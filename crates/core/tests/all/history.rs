//! Properties that the history of a point must have, whatever the figures: more evidence, more use,
//! more disagreement.

use crate::common::{cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::decision::point_result::{PointResult, WhyKind};
use ticksage_core::{Assumptions, assess};

fn point(s: &Value, c: &Value) -> PointResult {
    assess(&cand(c), &[family(s)], &Assumptions::default()).unwrap().points.remove(0)
}

fn step(p: &PointResult, kind: WhyKind) -> f64 {
    p.why.iter().find(|w| w.kind == kind).unwrap().chance
}

fn renewed(km: u32, evidence: &str, grade: &str) -> Value {
    json!({"date": "2025-01-01", "usage": {"value": km, "unit": "km"}, "evidence": evidence, "grade": grade,
        "renews": [{"family": "test", "point": "belt"}]})
}

#[test]
fn the_better_the_evidence_the_lower_the_chance() {
    let of = |evidence| point(&sheet(), &with(candidate(), "/ledger", json!([renewed(70_000, evidence, "original")])));
    let chances: Vec<f64> = ["sellers_word", "stamp", "owner_log"].map(|e| of(e).p_plan).to_vec();
    assert!(chances.windows(2).all(|w| w[0] > w[1]), "{chances:?}");
    // An invoice is believed more than a log and speaks for the stretch before it, too.
    assert!(of("invoice_naming_part").p_plan < of("owner_log").p_plan);
}

#[test]
fn a_better_part_lasts_longer_and_a_later_one_has_more_left() {
    let of = |km, grade| {
        point(&sheet(), &with(candidate(), "/ledger", json!([renewed(km, "invoice_naming_part", grade)]))).p_plan
    };
    assert!(of(40_000, "original") < of(40_000, "equivalent") && of(40_000, "equivalent") < of(40_000, "used"));
    assert!(of(75_000, "original") < of(40_000, "original") && of(40_000, "original") < of(10_000, "original"));
}

#[test]
fn of_two_renewals_the_later_counts_as_far_as_it_is_believed() {
    let both = |second| {
        let entries = json!([renewed(30_000, "invoice_naming_part", "original"), renewed(75_000, second, "original")]);
        point(&sheet(), &with(candidate(), "/ledger", entries)).p_plan
    };
    let first =
        point(&sheet(), &with(candidate(), "/ledger", json!([renewed(30_000, "invoice_naming_part", "original")])));
    assert!(both("invoice_naming_part") < both("sellers_word"));
    assert!(both("sellers_word") < first.p_plan);
    // The order in which they were entered changes nothing.
    let reversed = json!([renewed(75_000, "stamp", "original"), renewed(30_000, "invoice_naming_part", "original")]);
    assert_eq!(both("stamp").to_bits(), point(&sheet(), &with(candidate(), "/ledger", reversed)).p_plan.to_bits());
}

#[test]
fn the_revised_part_fitted_later_counts_as_revised() {
    let revision = json!({"name": "better", "share": [{"source": "a", "says": {"form": "share", "share": 0.1}}]});
    let s = with(sheet(), "/points/0/revision", revision);
    let entry = renewed(75_000, "invoice_naming_part", "original");
    let fitted = |revised: bool| {
        point(&s, &with(candidate(), "/ledger", json!([with(entry.clone(), "/revised", json!(revised))]))).needs_at
    };
    // Nine in ten are cured by it: beyond the strip for most, so that less of the mass is ahead.
    assert!(fitted(false).p10.is_some());
    let of = |revised: bool| {
        point(&s, &with(candidate(), "/ledger", json!([with(entry.clone(), "/revised", json!(revised))])))
    };
    let cured = |p: &PointResult| p.p_plan;
    assert!(cured(&of(true)) < 0.5 * cured(&of(false)), "{} {}", cured(&of(true)), cured(&of(false)));
}

#[test]
fn a_fault_that_is_lived_with_longer_is_likelier_there_now() {
    let of = |repair_delay: u32| {
        let c = with(candidate(), "/usage/value", json!(120_000));
        point(&with(sheet(), "/points/0/repair_delay", json!(repair_delay)), &c).p_now
    };
    assert!(of(500) < of(5_000) && of(5_000) < of(40_000));
}

#[test]
fn a_loss_that_few_survive_is_seldom_met_mended() {
    // Where a failure ends the vehicle, one that still runs has most likely never had it.
    let of = |survivable: f64| {
        let s = with(sheet(), "/points/0/survivable", json!(survivable));
        let s = with(s, "/points/0/share", json!([{"source": "a", "says": {"form": "share", "share": 0.4}}]));
        point(&s, &with(candidate(), "/usage/value", json!(160_000)))
    };
    assert!(of(0.0).p_plan < of(1.0).p_plan, "{} {}", of(0.0).p_plan, of(1.0).p_plan);
}

#[test]
fn nothing_known_leaves_the_steps_of_the_why_alike() {
    let p = point(&sheet(), &candidate());
    let survived = step(&p, WhyKind::Survived);
    for kind in [WhyKind::Use, WhyKind::Papers, WhyKind::Findings] {
        assert!((step(&p, kind) - survived).abs() < 1e-6, "{kind:?}");
    }
}

#[test]
fn each_kind_of_evidence_moves_its_own_step() {
    let s = with(sheet(), "/points/0/exposures", json!({"salt": 0.6}));
    let mut c = with(candidate(), "/past_use", json!({"salt": 1.0}));
    let use_ = point(&s, &c);
    assert!(step(&use_, WhyKind::Use) > step(&use_, WhyKind::Survived));
    assert!((step(&use_, WhyKind::Papers) - step(&use_, WhyKind::Use)).abs() < 1e-6);
    c = with(c, "/ledger", json!([renewed(70_000, "invoice_naming_part", "original")]));
    let papers = point(&s, &c);
    assert!((step(&papers, WhyKind::Use) - step(&use_, WhyKind::Use)).abs() < 1e-6);
    assert!(step(&papers, WhyKind::Papers) < step(&papers, WhyKind::Use));
    let looked = json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": 2}}]);
    let found = point(&s, &with(c, "/findings", looked));
    assert!((step(&found, WhyKind::Papers) - step(&papers, WhyKind::Papers)).abs() < 1e-9);
    assert!(step(&found, WhyKind::Findings) > step(&found, WhyKind::Papers));
}

#[test]
fn a_longer_plan_never_lowers_the_chance() {
    let of = |years: f64| {
        let plan = json!({"years": years, "usage_a_year": {"value": 15_000, "unit": "km"}});
        point(&sheet(), &with(candidate(), "/plan", plan)).p_plan
    };
    let chances: Vec<f64> = [0.5, 1.0, 2.0, 4.0, 8.0, 20.0, 40.0].map(of).to_vec();
    assert!(chances.windows(2).all(|w| w[0] <= w[1] + 1e-9), "{chances:?}");
}

#[test]
fn the_age_clock_runs_while_it_stands() {
    let life = json!([{"source": "a", "clock": "age", "says": {"form": "about", "at": 9}}]);
    let s = with(sheet(), "/points/0/life", life);
    let a_year = |km: u32| {
        let plan = json!({"years": 3, "usage_a_year": {"value": km, "unit": "km"}});
        point(&s, &with(candidate(), "/plan", plan)).p_plan
    };
    // Whatever is driven, three years are three years.
    assert!((a_year(2_000) - a_year(40_000)).abs() < 1e-6, "{} {}", a_year(2_000), a_year(40_000));
}

#[test]
fn sources_weigh_by_their_weight() {
    let of = |weight: f64| {
        let life = json!([
            {"source": "a", "weight": weight, "says": {"form": "about", "at": 90_000}},
            {"source": "b", "says": {"form": "about", "at": 200_000}}
        ]);
        point(&with(sheet(), "/points/0/life", life), &candidate())
    };
    assert!(of(0.2).p_plan < of(1.0).p_plan && of(1.0).p_plan < of(5.0).p_plan);
    // Each source alone says the same whatever its weight against the other.
    let alone = |w: f64| of(w).sources.iter().map(|s| s.chance.to_bits()).collect::<Vec<_>>();
    assert_eq!(alone(0.2), alone(5.0));
}

#[test]
fn quantiles_come_in_their_order_and_not_before_today() {
    let n = point(&sheet(), &candidate()).needs_at;
    let (p10, p50) = (n.p10.unwrap(), n.p50.unwrap());
    assert!(80_000.0 <= p10 && p10 < p50);
    assert!(n.p90.is_none_or(|p90| p50 < p90));
    // A quantile says by which usage that share of the susceptible has it.
    let plan = json!({"years": 1, "usage_a_year": {"value": p50 - 80_000.0, "unit": "km"}});
    let by_then = point(&sheet(), &with(candidate(), "/plan", plan)).p_plan;
    assert!((by_then - 0.5).abs() < 0.005, "{by_then}");
}
