//! Facts of the trade read through the claims, and properties that must hold for any input.
//!
//! The figures in `common_practice` are common practice, no published source.

use crate::common::{cand, candidate, family, sheet, with};
use proptest::prelude::*;
use serde_json::{Value, json};
use ticksage_core::base::units::{KM_PER_MILE, Usage, UsageUnit};
use ticksage_core::documents::assumptions::Assumptions;
use ticksage_core::documents::claim::{LifeForm, Mechanism, ShareClaim, ShareForm};
use ticksage_core::documents::claim_curve::curve;
use ticksage_core::reliability::mixture::{SourceSelection, susceptible};
use ticksage_core::{Assessment, Candidate, Family, assess};

mod common_practice {
    use super::*;

    fn wear(says: &LifeForm) -> ticksage_core::base::weibull::Weibull {
        curve(says, Mechanism::Wear, &Assumptions::default()).unwrap()
    }

    /// Front arm rear bushes: 70–100 thousand km. Common practice, no published source.
    #[test]
    fn front_arm_bushes() {
        let w = wear(&LifeForm::Between { from: 70_000.0, to: 100_000.0 });
        let median = w.quantile(0.5);
        assert!((80_000.0..92_000.0).contains(&median), "{median}");
        assert!(w.cdf(150_000.0) > 0.99);
    }

    /// Wheel bearing with hub: from 100 thousand km. Common practice, no published source.
    #[test]
    fn wheel_bearing() {
        let w = wear(&LifeForm::FromAbout { at: 100_000.0 });
        assert!((w.cdf(100_000.0) - 0.10).abs() < 1e-12);
        assert!(w.cdf(50_000.0) < 0.02);
        assert!((170_000.0..220_000.0).contains(&w.quantile(0.5)));
    }

    /// A weak four-cylinder timing chain: rarely past 80–90 thousand km. Common practice.
    #[test]
    fn weak_chain() {
        let w = wear(&LifeForm::RarelyBeyond { at: 85_000.0 });
        assert!((w.survival(85_000.0) - 0.10).abs() < 1e-12);
        assert!(w.survival(120_000.0) < 0.01);
    }

    /// Crank end float in a suspect bolt pattern: one engine in eight. Common practice.
    #[test]
    fn one_in_eight() {
        let says = ShareForm::OneIn { n: 8.0 };
        let claim = ShareClaim { source: "a".to_owned(), weight: 1.0, says, stands: None };
        assert!((susceptible(&[claim], &[], SourceSelection::All, &Assumptions::default()) - 0.125).abs() < 1e-12);
    }

    /// Anti-roll-bar bushes on rough roads: 10–30 thousand km. Common practice, no published source.
    #[test]
    fn anti_roll_bushes() {
        let w = wear(&LifeForm::Between { from: 10_000.0, to: 30_000.0 });
        assert!((15_000.0..25_000.0).contains(&w.quantile(0.5)), "{}", w.quantile(0.5));
        assert!((w.cdf(30_000.0) - 0.8).abs() < 1e-12);
    }

    /// Rear shoes from 80 thousand km, front pads at half of that. Common practice.
    #[test]
    fn shoes_outlast_pads_two_to_one() {
        let (shoes, pads) = (wear(&LifeForm::FromAbout { at: 80_000.0 }), wear(&LifeForm::FromAbout { at: 40_000.0 }));
        for p in [0.1, 0.5, 0.9] {
            assert!((shoes.quantile(p) / pads.quantile(p) - 2.0).abs() < 1e-9);
        }
    }

    /// A robust timing chain stretches from 200–250 thousand km: at 90 thousand hardly any, where nine in
    /// ten of the weak ones are gone. Common practice.
    #[test]
    fn robust_and_weak_chain() {
        let robust = wear(&LifeForm::Between { from: 200_000.0, to: 250_000.0 });
        let weak = wear(&LifeForm::RarelyBeyond { at: 90_000.0 });
        assert!(robust.cdf(90_000.0) < 0.001 && weak.cdf(90_000.0) > 0.89);
    }

    /// A cooling overhaul holds 80–100 thousand miles or 7–8 years, whichever first. Common practice.
    #[test]
    fn cooling_overhaul_on_two_clocks() {
        use ticksage_core::reliability::mixture::Life;
        use ticksage_core::reliability::mixture::WeibullMixture;
        let a = Assumptions::default();
        let miles = |v: f64| v * KM_PER_MILE;
        let by = |from, to| curve(&LifeForm::Between { from, to }, Mechanism::Ageing, &a).unwrap();
        let life = Life {
            usage: WeibullMixture::new(vec![(1.0, by(miles(80_000.0), miles(100_000.0)))]),
            age: WeibullMixture::new(vec![(1.0, by(7.0, 8.0))]),
        };
        // Half-way on both clocks it holds; past either figure alone it mostly does not.
        assert!(life.survival(miles(45_000.0), 3.5, 1.0) > 0.97);
        assert!(life.survival(miles(100_000.0), 3.5, 1.0) < 0.21);
        assert!(life.survival(miles(40_000.0), 8.0, 1.0) < 0.21);
    }

    /// Electric coolant pump and coils: past 150 thousand km. Common practice.
    #[test]
    fn electric_pump() {
        let w = wear(&LifeForm::AtLeast { at: 150_000.0 });
        assert!((w.cdf(150_000.0) - 0.05).abs() < 1e-12 && w.cdf(100_000.0) < 0.02);
    }

    /// Older turbos 100–120 thousand miles, newer ones about twice that. Common practice.
    #[test]
    fn turbos() {
        let old = wear(&LifeForm::Between { from: 100_000.0 * KM_PER_MILE, to: 120_000.0 * KM_PER_MILE });
        let new = wear(&LifeForm::Between { from: 200_000.0 * KM_PER_MILE, to: 240_000.0 * KM_PER_MILE });
        assert!((new.quantile(0.5) / old.quantile(0.5) - 2.0).abs() < 1e-9);
        assert!(new.cdf(120_000.0 * KM_PER_MILE) < 0.01);
    }

    /// A rotary engine: rebuilt at 80 thousand miles when neglected, 150 when well kept. Common practice:
    /// about the ratio that the usual care factors and the interval kept give together.
    #[test]
    fn rotary_neglected_and_well_kept() {
        use ticksage_core::documents::care_level::CareLevel;
        use ticksage_core::reliability::care::factor;
        let own = json!({"poor": 0.7, "good": 1.3});
        let f = family(&with(with(sheet(), "/points/0/upkeep", json!(true)), "/points/0/care", own));
        let a = Assumptions::default();
        let ratio = factor(&f.points[0], CareLevel::Good, &a) / factor(&f.points[0], CareLevel::Poor, &a);
        assert!((ratio - 150.0 / 80.0).abs() < 0.05, "{ratio}");
        // The usual factors alone stay short of it: a sheet gives its own where care decides.
        let usual = family(&with(sheet(), "/points/0/upkeep", json!(true)));
        let usual = factor(&usual.points[0], CareLevel::Good, &a) / factor(&usual.points[0], CareLevel::Poor, &a);
        assert!((1.4..1.6).contains(&usual), "{usual}");
    }

    /// A used replacement valve lasts 30–50 against 100 thousand km. Common practice.
    #[test]
    fn a_used_part_against_a_new_one() {
        use ticksage_core::documents::job::PartGrade;
        let a = Assumptions::default();
        let share = a.grade(PartGrade::Used) / a.grade(PartGrade::Original);
        assert!((0.3..=0.5).contains(&share), "{share}");
    }

    /// Hydraulic lifters on one air-cooled twin: about each 40 thousand miles. Common practice.
    #[test]
    fn lifters_in_miles() {
        let w = wear(&LifeForm::About { at: 40_000.0 * KM_PER_MILE });
        assert!((w.cdf(64_373.76) - 0.5).abs() < 1e-12);
    }

    /// A full reseal is quiet for 70–80 thousand km. Common practice.
    #[test]
    fn reseal() {
        let a = Assumptions::default();
        let w = curve(&LifeForm::Between { from: 70_000.0, to: 80_000.0 }, Mechanism::Ageing, &a).unwrap();
        assert!(w.survival(50_000.0) > 0.97 && w.survival(100_000.0) < 1e-6);
    }

    /// Belt with water pump: 100 thousand miles. Common practice; the mile is exact (1959).
    #[test]
    fn belt_in_miles() {
        let miles = Usage { value: 100_000.0, unit: UsageUnit::Miles };
        assert!((miles.on_clock() - 160_934.4).abs() < 1e-6);
    }
}

fn judged(sheet: &Value, c: &Value) -> Assessment {
    judge(&family(sheet), &cand(c))
}

fn judge(f: &Family, c: &Candidate) -> Assessment {
    assess(c, std::slice::from_ref(f), &Assumptions::default()).unwrap_or_else(|e| panic!("{e:?}"))
}

fn found(outcome: usize) -> Value {
    json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": outcome}}])
}

#[test]
fn miles_and_kilometres_judge_alike() {
    let km = judged(&sheet(), &candidate());
    let mut v = candidate();
    v = with(v, "/usage", json!({"value": 80_000.0 / KM_PER_MILE, "unit": "mi"}));
    v = with(v, "/plan/usage_a_year", json!({"value": 15_000.0 / KM_PER_MILE, "unit": "mi"}));
    let mi = judged(&sheet(), &v);
    assert!((km.points[0].p_plan - mi.points[0].p_plan).abs() < 1e-9);
    assert!((km.value.limit - mi.value.limit).abs() < 1e-6);
}

#[test]
fn the_worst_outcome_outweighs_the_middle_one_and_that_the_clean_one() {
    let p: Vec<f64> =
        (0..3).map(|o| judged(&sheet(), &with(candidate(), "/findings", found(o))).points[0].p_plan).collect();
    let none = judged(&sheet(), &candidate()).points[0].p_plan;
    assert!(p[0] < none && none < p[1] && p[1] < p[2], "{none} {p:?}");
}

#[test]
fn skipped_undone_and_impossible_checks_change_nothing() {
    let none = judged(&sheet(), &candidate());
    for finding in [
        json!({"family": "test", "check": "look", "result": {"kind": "skipped"}}),
        json!({"family": "test", "check": "look", "result": {"kind": "could_not"}}),
        json!({"family": "test", "check": "look", "result": {"kind": "ask_seller"}}),
        json!({"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": 2}, "undone": true}),
    ] {
        let mut a = judged(&sheet(), &with(candidate(), "/findings", json!([finding])));
        // The plan remembers what was tried; nothing else does.
        let told = (a.walk.actions[0].could_not, a.walk.actions[0].ask_seller);
        let kind = &finding["result"]["kind"];
        assert_eq!(told, (kind == "could_not", kind == "ask_seller"));
        a.walk = none.walk.clone();
        assert_eq!(a, none);
    }
}

#[test]
fn of_two_findings_on_one_check_the_last_holds() {
    let mut both = found(2).as_array().unwrap().clone();
    both.extend(found(0).as_array().unwrap().clone());
    let last = judged(&sheet(), &with(candidate(), "/findings", found(0)));
    assert_eq!(judged(&sheet(), &with(candidate(), "/findings", json!(both))), last);
}

#[test]
fn a_proved_renewal_lowers_its_point_and_the_sellers_word_hardly() {
    let renewed = |evidence: &str| {
        let entry = json!([{"date": "2025-01-01", "usage": {"value": 70_000, "unit": "km"}, "evidence": evidence,
            "grade": "original", "renews": [{"family": "test", "point": "belt"}]}]);
        judged(&sheet(), &with(candidate(), "/ledger", entry)).points[0].p_plan
    };
    let none = judged(&sheet(), &candidate()).points[0].p_plan;
    let (proved, said) = (renewed("invoice_naming_part"), renewed("sellers_word"));
    assert!(proved < said && said < none, "{proved} {said} {none}");
}

#[test]
fn a_fact_not_known_halves_and_a_known_one_decides() {
    let mut s = sheet();
    s = with(
        s,
        "/facts",
        json!([{"id": "tin", "label": "Tin?", "values": [{"id": "yes", "label": "Yes"}, {"id": "no", "label": "No"}]}]),
    );
    s = with(s, "/points/0/applies", json!({"facts": {"tin": ["yes"]}}));
    let unknown = judged(&s, &candidate());
    assert!((unknown.points[0].share - 0.5).abs() < 1e-12);
    assert_eq!(unknown.points[0].identify, ["tin"]);
    assert_eq!(judged(&s, &with(candidate(), "/facts", json!({"tin": "no"}))).points, []);
    let known = judged(&s, &with(candidate(), "/facts", json!({"tin": "yes"})));
    assert!((known.points[0].share - 1.0).abs() < 1e-12 && known.points[0].identify.is_empty());
}

#[test]
fn built_after_the_revision_it_has_the_revised_part() {
    let revised = json!({"name": "better belt", "from": "2020-01-01", "life": [{"source": "a", "says": {"form": "about", "at": 300_000}}]});
    let s = with(sheet(), "/points/0/revision", revised);
    let after = judged(&s, &candidate()).points[0].p_plan;
    let before = judged(&s, &with(candidate(), "/built", json!("2019-06-01"))).points[0].p_plan;
    assert!(after < before / 3.0, "{after} {before}");
}

#[test]
fn a_source_is_heard_alone() {
    let life = json!([{"source": "a", "says": {"form": "about", "at": 90_000}}, {"source": "b", "says": {"form": "about", "at": 200_000}}]);
    let s = with(sheet(), "/points/0/life", life);
    let pooled = judged(&s, &candidate());
    let of = |id: &str| pooled.points[0].sources.iter().find(|x| x.source == id).unwrap().chance;
    assert!(of("b") < pooled.points[0].p_plan && pooled.points[0].p_plan < of("a"));
    let alone = judged(&s, &with(candidate(), "/buyer", json!({"sources": {"b": 1}})));
    assert!((alone.points[0].p_plan - of("b")).abs() < 1e-12);
    assert_eq!(alone.sources.keys().collect::<Vec<_>>(), ["b"]);
}

#[test]
fn the_why_ends_at_the_chance_and_begins_at_the_family() {
    let a = judged(&sheet(), &with(candidate(), "/findings", found(1)));
    let p = &a.points[0];
    assert_eq!(p.why.len(), 5);
    assert!((p.why[4].chance - p.p_plan).abs() < 1e-15);
    // About 100 000 km with the shape of wear: F(125 000) = 1 − 2^−(1.25³).
    assert!((p.why[0].chance - (1.0 - 0.5f64.powf(1.25f64.powi(3)))).abs() < 1e-9);
}

#[test]
fn the_bill_adds_up() {
    let a = judged(&sheet(), &with(candidate(), "/findings", found(2)));
    let by_point: f64 = a.points.iter().map(|p| p.expected_cost).sum();
    assert!((a.bill.mean - by_point).abs() < 1e-9);
    let by_year: f64 = a.bill.by_year.iter().sum();
    assert!((a.bill.mean - by_year).abs() / a.bill.mean < 0.01, "{} {by_year}", a.bill.mean);
    let spend: f64 = a.bill.spend.iter().sum();
    assert!((a.bill.now + spend - by_year).abs() < 1e-6);
    // 300 of parts and five hours at 60.
    assert!((a.points[0].cost.mean - 600.0).abs() < 1e-9);
}

#[test]
fn gates_close_by_paper_and_by_finding() {
    use ticksage_core::decision::verdict::VerdictKind;
    let marked = |item: &str| {
        let v = with(candidate(), "/provenance", json!([{"item": item, "state": "marked"}]));
        judged(&sheet(), &v).verdict.kind
    };
    assert_eq!(marked("stolen"), VerdictKind::WalkAway);
    assert_eq!(marked("written_off_structural"), VerdictKind::WalkAway);
    assert_eq!(marked("finance"), VerdictKind::NotYet);
    let accepted = with(
        with(candidate(), "/buyer", json!({"accepts_structural": true})),
        "/provenance",
        json!([{"item": "written_off_structural", "state": "marked"}]),
    );
    assert_ne!(judged(&sheet(), &accepted).verdict.kind, VerdictKind::WalkAway);
    let s =
        with(sheet(), "/checks/0/outcomes/2", json!({"label": "crumbs", "blocker": {"kind": "stop", "say": "Stop."}}));
    assert_eq!(judged(&s, &with(candidate(), "/findings", found(2))).verdict.kind, VerdictKind::WalkAway);
}

#[test]
fn an_engine_counted_in_hours_is_judged_in_hours() {
    let mut s = with(sheet(), "/clock", json!("hours"));
    s = with(s, "/points/0/life", json!([{"source": "a", "says": {"form": "about", "at": 4000}}]));
    let mut v = with(candidate(), "/usage", json!({"value": 3200, "unit": "h"}));
    v = with(v, "/plan/usage_a_year", json!({"value": 600, "unit": "h"}));
    let hours = judged(&s, &v).points[0].why[0].chance;
    // The same proportions as in kilometres give the same chance.
    assert!((hours - judged(&sheet(), &candidate()).points[0].why[0].chance).abs() < 1e-9);
}

proptest! {
    #![proptest_config(crate::common::cases(60))]

    /// Whatever the life, use and findings: chances are chances, and a clean outcome never raises,
    /// an alarming one never lowers, its own point.
    #[test]
    fn chances_stay_chances(
        at in 5_000.0..400_000.0f64, now in 0.0..300_000.0f64, a_year in 500.0..60_000.0f64, years in 0.5..12.0f64,
        share in 0.01..1.0f64, repair_delay in 0.0..30_000.0f64, survivable in 0.0..1.0f64, mechanism in 0..5usize,
        two_clocks: bool, age in 2.0..20.0f64,
    ) {
        let kind = ["infant", "random", "wear", "ageing", "fatigue"][mechanism];
        let mut life = vec![json!({"source": "a", "says": {"form": "about", "at": at}})];
        if two_clocks {
            life.push(json!({"source": "b", "clock": "age", "says": {"form": "about", "at": age}}));
        }
        let mut s = with(sheet(), "/points/0/life", json!(life));
        s = with(s, "/points/0/mechanism", json!(kind));
        s = with(s, "/points/0/share", json!([{"source": "a", "says": {"form": "share", "share": share}}]));
        s = with(s, "/points/0/repair_delay", json!(repair_delay));
        s = with(s, "/points/0/survivable", json!(survivable));
        let mut v = with(candidate(), "/usage/value", json!(now));
        v = with(v, "/plan", json!({"years": years, "usage_a_year": {"value": a_year, "unit": "km"}}));
        let f = family(&s);
        let at = |findings: Value| judge(&f, &cand(&with(v.clone(), "/findings", findings))).points[0].clone();
        let (none, clean, bad) = (at(json!([])), at(found(0)), at(found(2)));
        for p in [&none, &clean, &bad] {
            let all = p.why.iter().map(|w| w.chance).chain([p.p_now, p.p_plan]).chain(p.sources.iter().map(|x| x.chance));
            for chance in all {
                prop_assert!((-1e-9..=1.0 + 1e-9).contains(&chance), "{}", chance);
            }
            let drawn = p.trouble.plan.iter().sum::<f64>() / 1e4;
            prop_assert!((drawn + p.p_now - p.p_plan).abs() < 1e-6, "{} {}", drawn + p.p_now, p.p_plan);
            prop_assert!(p.expected_cost.is_finite() && p.expected_cost >= 0.0);
        }
        prop_assert!(clean.p_now <= none.p_now + 1e-9 && none.p_now <= bad.p_now + 1e-9);
        prop_assert!(clean.p_plan <= none.p_plan + 1e-9 && none.p_plan <= bad.p_plan + 1e-9);
    }
}

#[test]
fn the_last_stretch_of_the_plan_is_in_it_whatever_its_length() {
    // A horizon whose grid would end a rounding error beyond it lost its last cell once.
    let v = with(
        with(candidate(), "/usage/value", json!(0)),
        "/plan",
        json!({"years": 11.951_980_357_895_719, "usage_a_year": {"value": 15_485.849_211_510_633, "unit": "km"}}),
    );
    let p = &judged(&sheet(), &v).points[0];
    let drawn = p.trouble.plan.iter().sum::<f64>() / 1e4;
    assert!((drawn + p.p_now - p.p_plan).abs() < 1e-9);
}

#[test]
fn a_reading_becomes_an_outcome_by_the_sheets_bands() {
    let measure = |higher: bool| {
        let m = json!({"quantity": "width", "unit": "mm", "limits": [20.4, 20.9], "higher_is_worse": higher, "source": "test"});
        with(sheet(), "/checks/0/measure", m)
    };
    let read = |reading: f64| {
        let f = json!([{"family": "test", "check": "look", "result": {"kind": "measured"}, "reading": reading}]);
        with(candidate(), "/findings", f)
    };
    // A reading on a limit belongs to the band above it.
    for (reading, outcome) in [(-3.0, 0), (20.3, 0), (20.4, 1), (20.8, 1), (20.9, 2), (1e9, 2)] {
        let (rising, falling) = (family(&measure(true)), family(&measure(false)));
        assert_eq!(cand(&read(reading)).outcome_of(&rising, &rising.checks[0]), Some(outcome), "{reading}");
        assert_eq!(cand(&read(reading)).outcome_of(&falling, &falling.checks[0]), Some(2 - outcome), "{reading}");
        let said = judged(&measure(true), &with(candidate(), "/findings", found(outcome)));
        assert_eq!(judged(&measure(true), &read(reading)), said, "measured or said, it is judged alike");
    }
}
