//! What moved what: explaining away, the effect of each finding, sensitivity, sources mixed, serial numbers,
//! and a point laid open.

use crate::common::{cand, candidate, family, sheet, with};
use proptest::prelude::*;
use serde_json::{Value, json};
use ticksage_core::assess::judge::assess_to;
use ticksage_core::base::budget::Budget;
use ticksage_core::documents::reference::PointRef;
use ticksage_core::inference::depth::Depth;
use ticksage_core::questions::finding_effects::moves;
use ticksage_core::questions::point_detail::detail;
use ticksage_core::questions::sensitivity::{Input, sensitivity};
use ticksage_core::{Assessment, Assumptions, assess};

/// A rattle that a worn chain or a loose flap explains, and a look that tells of the flap alone.
fn rattle() -> Value {
    let mut s = sheet();
    s["points"][0]["id"] = json!("chain");
    let mut flap = s["points"][0].clone();
    flap["id"] = json!("flap");
    flap["repair_delay"] = json!(30_000);
    s["points"].as_array_mut().unwrap().push(flap);
    s["points"][0]["repair_delay"] = json!(8000);
    s["checks"] = json!([
        {"id": "rattle", "name": "Rattle", "phase": "cold_start", "how": "Listen.", "minutes": 2,
         "outcomes": [{"label": "quiet"}, {"label": "rattles"}], "leak": [0.97, 0.03],
         "links": [{"point": "chain", "present": [0.2, 0.8]}, {"point": "flap", "present": [0.1, 0.9]}]},
        {"id": "flap-play", "name": "Flap by hand", "phase": "bonnet_cold", "how": "Move it.", "minutes": 2,
         "outcomes": [{"label": "tight"}, {"label": "loose"}], "leak": [0.99, 0.01],
         "links": [{"point": "flap", "present": [0.05, 0.95]}]}
    ]);
    s
}

fn heard(findings: &[(&str, usize)]) -> Value {
    let all: Vec<Value> = findings
        .iter()
        .map(|(check, o)| json!({"family": "test", "check": check, "result": {"kind": "outcome", "outcome": o}}))
        .collect();
    with(candidate(), "/findings", json!(all))
}

fn judged(s: &Value, c: &Value) -> Assessment {
    assess(&cand(c), &[family(s)], &Assumptions::default()).unwrap_or_else(|e| panic!("{e:?}"))
}

fn chance(a: &Assessment, point: &str) -> f64 {
    a.points.iter().find(|p| p.at.point == point).unwrap().p_now
}

#[test]
fn a_rattle_that_the_flap_explains_takes_suspicion_off_the_chain() {
    let s = rattle();
    let none = chance(&judged(&s, &heard(&[])), "chain");
    let rattles = chance(&judged(&s, &heard(&[("rattle", 1)])), "chain");
    let explained = chance(&judged(&s, &heard(&[("rattle", 1), ("flap-play", 1)])), "chain");
    let not_the_flap = chance(&judged(&s, &heard(&[("rattle", 1), ("flap-play", 0)])), "chain");
    assert!(
        rattles > none && explained < rattles && not_the_flap > rattles,
        "{none} {rattles} {explained} {not_the_flap}"
    );
}

#[test]
fn what_a_finding_moved_is_what_is_gone_without_it() {
    let (s, a) = (rattle(), Assumptions::default());
    let both = heard(&[("rattle", 1), ("flap-play", 1)]);
    let told = moves(&cand(&both), &[family(&s)], &a, &Budget::default()).unwrap();
    assert_eq!(told.len(), 2);
    let simulate = told.iter().find(|m| m.check == "flap-play").unwrap();
    assert_eq!((simulate.name.as_str(), simulate.outcome.as_str()), ("Flap by hand", "loose"));
    let chain = simulate.points.iter().find(|p| p.at.point == "chain").unwrap();
    let without = judged(&s, &heard(&[("rattle", 1)]));
    let with = judged(&s, &both);
    for (told, judged) in [(chain.now[0], &without), (chain.now[1], &with)] {
        assert!((told - chance(judged, "chain")).abs() < 1e-9);
    }
    for (told, judged) in [(chain.plan[0], &without), (chain.plan[1], &with)] {
        let p = judged.points.iter().find(|p| p.at.point == "chain").unwrap();
        assert!((told - p.p_plan).abs() < 1e-6, "{told} {}", p.p_plan);
    }
    assert!(chain.now[1] < chain.now[0], "the flap takes it off the chain");
    assert!((simulate.poor_care[0] - without.care.after[0]).abs() < 1e-9);
}

#[test]
fn sensitivity_tells_bills_that_a_judgement_confirms() {
    let (f, table) = (family(&sheet()), Assumptions::default());
    let c = cand(&candidate());
    let told = sensitivity(&c, std::slice::from_ref(&f), &table, &Budget::default()).unwrap();
    assert!(!told.is_empty() && told.len() <= 5);
    let swings: Vec<f64> = told.iter().map(|t| t.high.bill - t.low.bill).collect();
    assert!(swings.windows(2).all(|w| w[0] >= w[1]) && swings.iter().all(|s| *s > 0.0), "{swings:?}");
    let years = told.iter().find(|t| t.input == Input::Years).expect("a longer plan costs more");
    for tried in [&years.low, &years.high] {
        let v = with(candidate(), "/plan/years", json!(tried.setting.parse::<f64>().unwrap()));
        let bill = assess(&cand(&v), std::slice::from_ref(&f), &table).unwrap().bill.mean;
        assert!((bill - tried.bill).abs() < 1e-9, "{bill} {}", tried.bill);
    }
}

/// Two sources that disagree on the belt.
fn disputed() -> Value {
    with(
        sheet(),
        "/points/0/life",
        json!([{"source": "a", "says": {"form": "about", "at": 70_000}}, {"source": "b", "says": {"form": "about", "at": 160_000}}]),
    )
}

fn listening(sources: Value) -> Assessment {
    judged(&disputed(), &with(candidate(), "/buyer", json!({"sources": sources})))
}

#[test]
fn sources_are_heard_alone_or_mixed() {
    let p = |a: &Assessment| a.points[0].p_plan;
    let (all, a, b) = (listening(json!({})), listening(json!({"a": 1})), listening(json!({"b": 1})));
    assert!(p(&b) < p(&all) && p(&all) < p(&a));
    // Alike is one to one; a weight of nought is silence; only proportion counts.
    let same = |x: &Assessment, y: &Assessment| (p(x) - p(y)).abs() < 1e-12;
    assert!(same(&all, &listening(json!({"a": 1, "b": 1}))));
    assert!(same(&a, &listening(json!({"a": 2, "b": 0}))));
    assert!(same(&listening(json!({"a": 3, "b": 1})), &listening(json!({"a": 1.5, "b": 0.5}))));
    let mixed = listening(json!({"a": 3, "b": 1}));
    assert!(p(&all) < p(&mixed) && p(&mixed) < p(&a));
    // Whoever is listened to, each source's own view is kept beside it, and is what hearing it alone gives.
    for heard in [&all, &mixed] {
        for (source, alone) in [("a", &a), ("b", &b)] {
            let told = heard.points[0].sources.iter().find(|s| s.source == source).unwrap().chance;
            assert!((told - p(alone)).abs() < 1e-6, "{source}: {told} {}", p(alone));
        }
    }
    assert_eq!(mixed.sources.len(), 2);
}

#[test]
fn without_the_sources_own_views_all_else_is_the_same() {
    let (f, c) = (family(&disputed()), cand(&candidate()));
    let whole = assess(&c, std::slice::from_ref(&f), &Assumptions::default()).unwrap();
    let mut pooled = assess_to(&c, &[f], &Assumptions::default(), Depth::Pooled).unwrap();
    assert!(pooled.points[0].sources.is_empty());
    pooled.points[0].sources = whole.points[0].sources.clone();
    assert_eq!(whole, pooled);
}

#[test]
fn a_serial_number_decides_or_is_to_be_found_out() {
    let window = json!({"serial": {"from": "K 200", "to": "K 1500", "share": 0.3}});
    let s = with(sheet(), "/points/0/applies", window);
    let of = |serial: Option<&str>| {
        let c = serial.map_or_else(candidate, |n| with(candidate(), "/serials", json!({"test": n})));
        judged(&s, &c).points
    };
    let unknown = of(None);
    assert_eq!(unknown[0].identify, ["serial"]);
    assert!((unknown[0].share - 0.3).abs() < 1e-12);
    assert!(of(Some("K199")).is_empty() && of(Some("k-1501")).is_empty());
    let inside = of(Some("K-999"));
    assert!((inside[0].share - 1.0).abs() < 1e-12 && inside[0].identify.is_empty());
}

#[test]
fn the_revised_part_is_known_by_serial_before_the_day() {
    let revision = json!({"name": "better", "from": "2021-01-01", "from_serial": "K500",
        "life": [{"source": "a", "says": {"form": "about", "at": 300_000}}]});
    let s = with(sheet(), "/points/0/revision", revision);
    let of = |serial: &str| judged(&s, &with(candidate(), "/serials", json!({"test": serial}))).points[0].clone();
    // Built in 2020, before the day; the number says otherwise.
    assert!(!judged(&s, &candidate()).points[0].revised);
    let (old, new) = (of("K499"), of("K500"));
    assert!(!old.revised && new.revised && new.p_plan < old.p_plan);
}

#[test]
fn a_point_laid_open_agrees_with_the_judgement() {
    let (f, c) = (family(&disputed()), cand(&heard_on_look(1)));
    let at = PointRef { family: "test".to_owned(), point: "belt".to_owned() };
    let d = detail(&c, std::slice::from_ref(&f), &at, &Assumptions::default(), &Budget::default()).unwrap();
    let a = assess(&c, std::slice::from_ref(&f), &Assumptions::default()).unwrap();
    let p = &a.points[0];
    assert!((d.ahead[0].chance - p.p_now).abs() < 1e-12);
    let end = d.ahead.iter().find(|x| x.usage >= 125_000.0 - 1e-6).unwrap();
    assert!((end.chance - p.p_plan).abs() < 1e-12);
    assert!(d.ahead.windows(2).all(|w| w[0].chance <= w[1].chance + 1e-12));
    let [usage] = d.clocks.as_slice() else { panic!("one clock is claimed") };
    assert_eq!(usage.claims.len(), 2);
    // Pooled alike, it lies half-way between the two.
    for i in 0..usage.x.len() {
        let half = f64::midpoint(usage.claims[0].failed[i], usage.claims[1].failed[i]);
        assert!((usage.pooled[i] - half).abs() < 1e-12);
    }
    assert!((usage.claims[0].median - 70_000.0).abs() < 1e-6);
    let weighed: f64 = (0..3).map(|l| a.care.after[l] * d.by_care[l]).sum();
    assert!((weighed - p.p_plan).abs() < 1e-9);
    let unknown = PointRef { family: "test".to_owned(), point: "nothing".to_owned() };
    assert!(detail(&c, &[f], &unknown, &Assumptions::default(), &Budget::default()).is_err());
}

fn heard_on_look(outcome: usize) -> Value {
    let f = json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": outcome}}]);
    with(candidate(), "/findings", f)
}

#[test]
fn scheduled_work_comes_due_on_the_strip() {
    let s = with(
        sheet(),
        "/intervals",
        json!([{"id": "belt", "name": "Belt", "usage": 90_000, "years": 8, "job": "belt-job", "renews": ["belt"]}]),
    );
    let never = &judged(&s, &candidate()).due[0];
    assert_eq!((never.usage, never.overdue, never.last), (90_000.0, false, None));
    let renewed = json!([{"date": "2022-06-01", "usage": {"value": 30_000, "unit": "km"}, "evidence": "invoice",
        "renews": [{"family": "test", "point": "belt"}]}]);
    let due = judged(&s, &with(candidate(), "/ledger", renewed)).due.remove(0);
    // Eight years from 2022-06-01, four of them ahead at 15 000 km a year, come after 30 000 + 90 000 km.
    assert_eq!((due.usage, due.last), (120_000.0, Some(30_000.0)));
    let aged = with(with(candidate(), "/built", json!("2016-06-01")), "/usage/value", json!(50_000));
    let by_age = judged(&s, &aged).due.remove(0);
    assert!(by_age.overdue && by_age.usage < 50_000.0, "{by_age:?}");
}

proptest! {
    #![proptest_config(crate::common::cases(40))]

    /// The order in which findings were entered never changes a digit.
    #[test]
    fn the_order_of_findings_changes_nothing(
        outcomes in proptest::collection::vec(0..2usize, 2), third in 0..3usize, turn in 0..6usize,
    ) {
        let mut s = rattle();
        let mut look = sheet()["checks"][0].clone();
        look["links"][0]["point"] = json!("chain");
        s["checks"].as_array_mut().unwrap().push(look);
        let f = family(&s);
        let mut findings = vec![("rattle", outcomes[0]), ("flap-play", outcomes[1]), ("look", third)];
        let first = assess(&cand(&heard(&findings)), std::slice::from_ref(&f), &Assumptions::default()).unwrap();
        findings.rotate_left(turn % 3);
        if turn >= 3 {
            findings.swap(0, 1);
        }
        let other = assess(&cand(&heard(&findings)), &[f], &Assumptions::default()).unwrap();
        prop_assert_eq!(first, other);
    }

    /// A wearing part that must have survived: the further it has run without a sign, the less of the
    /// same stretch ahead it survives.
    #[test]
    fn the_further_it_ran_the_nearer_the_end(
        at in 60_000.0..200_000.0f64, run in 10_000.0..90_000.0f64, further in 5_000.0..60_000.0f64,
    ) {
        let mut s = with(sheet(), "/points/0/life", json!([{"source": "a", "says": {"form": "about", "at": at}}]));
        // Nobody mends it and nobody lives with it: what still runs has never failed.
        s = with(s, "/points/0/repair_delay", json!(0));
        s = with(s, "/points/0/survivable", json!(0));
        let p = |km: f64| judged(&s, &with(candidate(), "/usage/value", json!(km))).points[0].p_plan;
        prop_assert!(p(run + further) >= p(run) - 1e-6);
    }
}
