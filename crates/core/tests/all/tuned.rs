//! A tune: what more power than the maker gave it breaks, what it does to the money, and what is asked.

use crate::common::{cand, candidate, family, sheet};
use proptest::prelude::*;
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::documents::family::AdviceKind;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_core::questions::seller_questions::{Ask, questions};
use ticksage_core::validation::candidate::candidate_faults;
use ticksage_core::{Assessment, Assumptions, assess};

/// A belt that more power shortens: 80 kW from its maker, 100 at most.
fn strained() -> Value {
    let mut s = sheet();
    s["alterations"] = json!([{
        "id": "map", "name": "Software", "source": s["sources"][0]["id"], "standard_kw": 80, "limit_kw": 100,
        "shortens": {"belt": 0.7}
    }]);
    s
}

fn tuned(tune: Value) -> Value {
    let mut c = candidate();
    if !tune.is_null() {
        c["tune"] = tune;
    }
    c
}

fn judged(tune: Value) -> Assessment {
    assess(&cand(&tuned(tune)), &[family(&strained())], &Assumptions::default()).unwrap()
}

fn chance(a: &Assessment) -> f64 {
    a.points.iter().find(|p| p.at.point == "belt").unwrap().p_plan
}

#[test]
fn more_power_breaks_sooner_costs_more_and_is_worth_less() {
    let standard = judged(Value::Null);
    let [mild, unknown, beyond] = [
        judged(json!({"power_kw": 90, "quality": "documented"})),
        judged(json!({})),
        judged(json!({"power_kw": 115, "quality": "rough"})),
    ];
    assert!(standard.tuned.is_empty());
    for (less, more) in [(&standard, &mild), (&mild, &unknown), (&unknown, &beyond)] {
        assert!(chance(less) + 1e-3 < chance(more), "{} {}", chance(less), chance(more));
        assert!(less.bill.mean < more.bill.mean && less.value.limit > more.value.limit);
    }
    // The market's example is as its maker made it.
    assert!((standard.bill.mean - standard.bill.excess - (beyond.bill.mean - beyond.bill.excess)).abs() < 1.0);
    // A tune to the limit of which nothing is known lasts as the sheet says.
    assert!((unknown.tuned[0].points[0].lasts - 0.7).abs() < 1e-9);
    // As if the sheet's own curve were that much shorter, so far and from now on.
    let mut short = sheet();
    for claim in short["points"][0]["life"].as_array_mut().unwrap() {
        for figure in claim["says"].as_object_mut().unwrap().values_mut() {
            if let Some(x) = figure.as_f64() {
                *figure = json!(x * 0.7);
            }
        }
    }
    let always = judged(json!({"since": {"value": 0, "unit": "km"}}));
    let shorter = assess(&cand(&candidate()), &[family(&short)], &Assumptions::default()).unwrap();
    assert!((chance(&shorter) - chance(&always)).abs() < 2e-3, "{} {}", chance(&shorter), chance(&always));
}

#[test]
fn put_back_it_lasts_as_before_from_now_on_and_what_it_ran_stays_run() {
    let of = |since: f64, put_back: bool| {
        judged(json!({"power_kw": 90, "put_back": put_back, "since": {"value": since, "unit": "km"}}))
    };
    let (standard, kept, back, late) = (judged(Value::Null), of(0.0, false), of(0.0, true), of(60_000.0, true));
    assert!(chance(&standard) < chance(&back) && chance(&back) < chance(&kept));
    assert!(chance(&standard) <= chance(&late) + 1e-9 && chance(&late) < chance(&back));
    // Where nobody knows since when, nothing of the past changes.
    assert_eq!(chance(&judged(json!({"put_back": true}))).to_bits(), chance(&standard).to_bits());
}

#[test]
fn beyond_what_standard_parts_bear_it_is_left_and_unmeasured_its_paper_is_asked_for() {
    let advised = |a: &Assessment| a.advised.iter().find(|x| x.says.contains("standard parts")).map(|x| x.kind);
    assert_eq!(advised(&judged(json!({"power_kw": 120}))), Some(AdviceKind::Avoid));
    assert_eq!(advised(&judged(json!({"quality": "rough"}))), Some(AdviceKind::OnlyIf));
    assert_eq!(advised(&judged(json!({"power_kw": 95, "quality": "documented"}))), None);
    assert_eq!(advised(&judged(Value::Null)), None);
    let asked = |tune: Value| {
        let sheets = [family(&strained())];
        let all = questions(&cand(&tuned(tune)), &sheets, &Assumptions::default(), &Budget::default()).unwrap();
        all.into_iter().find(|q| matches!(q.ask, Ask::Tune { .. }))
    };
    let open = asked(json!({"quality": "rough"})).expect("asked");
    assert!(open.bill < 0.0, "a bench sheet takes money off: {}", open.bill);
    assert!(asked(json!({"power_kw": 90, "quality": "documented"})).is_none() && asked(Value::Null).is_none());
}

#[test]
fn bad_ones_are_refused_at_their_field() {
    let mut s = strained();
    s["alterations"][0]["limit_kw"] = json!(70);
    s["alterations"][0]["shortens"] = json!({"mirror": 0.7, "belt": 1.4});
    let told = format!("{:?}", read_family(&s.to_string()).unwrap_err());
    for at in ["/alterations/0/limit_kw", "/alterations/0/shortens/mirror", "/alterations/0/shortens/belt"] {
        assert!(told.contains(at), "{at} in {told}");
    }
    let bad = tuned(json!({"power_kw": 9_000, "since": {"value": 900_000, "unit": "km"}}));
    let faults = match read_candidate(&bad.to_string()) {
        Ok(c) => format!("{:?}", candidate_faults(&c, &[family(&strained())])),
        Err(e) => format!("{e:?}"),
    };
    assert!(faults.contains("/tune/power_kw") && faults.contains("/tune/since"), "{faults}");
    let once = family(&strained());
    assert_eq!(read_family(&serde_json::to_string(&once).unwrap()).unwrap(), once);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]
    #[test]
    fn more_power_never_makes_its_point_last_longer_nor_the_whole_worth_more(
        less in 60.0..150.0f64,
        more in 0.0..60.0f64,
        quality in prop::sample::select(vec!["documented", "unknown", "rough"]),
        share in prop::sample::select(vec![0.1, 0.35, 1.0]),
    ) {
        // Where few have it in them, what has held so far must not speak for more power.
        let mut s = strained();
        s["points"][0]["share"] = json!([{"source": "a", "says": {"form": "share", "share": share}}]);
        let of = |kw: f64| {
            let c = cand(&tuned(json!({"power_kw": kw, "quality": quality})));
            assess(&c, &[family(&s)], &Assumptions::default()).unwrap()
        };
        let (a, b) = (of(less), of(less + more));
        prop_assert!(chance(&a) <= chance(&b) + 1e-9);
        prop_assert!(a.value.limit >= b.value.limit - 1.0, "{} {}", a.value.limit, b.value.limit);
    }
}
