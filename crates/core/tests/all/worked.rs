//! The three purchases of docs/worked-examples.md, asserted to the figure. Every figure here was worked out by hand;
//! the sheets are made up so that a hand can do it.

use crate::common::{asked, cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::decision::offer::LineAbout;
use ticksage_core::decision::verdict::VerdictKind;
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::{Assessment, Assumptions, assess};

fn near(found: f64, by_hand: f64, what: &str) {
    assert!((found - by_hand).abs() < 0.05, "{what}: {found}, by hand {by_hand}");
}

/// As far as the lattice tells: a step, a thousandth of what the lattice reaches.
fn on_steps(found: f64, by_hand: f64, what: &str) {
    assert!((found - by_hand).abs() < 4.2, "{what}: {found}, by hand {by_hand}");
}

fn judged(s: &Value, c: &Value) -> Assessment {
    assess(&cand(c), &[family(s)], &Assumptions::default()).unwrap()
}

fn table() -> Assumptions {
    Assumptions::default()
}

/// Adverts that lie on a line: 8 000 at 80 000 km, 50 less for each 1 000 km.
fn going() -> Value {
    let at = |km: u32, price: u32| json!({"price": price, "usage": {"value": km, "unit": "km"}});
    json!([at(60_000, 9000), at(80_000, 8000), at(100_000, 7000)])
}

/// An even buyer, the history report asked and clear.
fn even(c: Value) -> Value {
    asked(c)
}

/// Exactly `amount`, whatever the luck.
fn sure(amount: u32) -> Value {
    json!({"equivalent": {"low": amount, "likely": amount, "high": amount}})
}

#[test]
fn first_purchase_a_belt_that_every_one_of_them_snaps() {
    let points = json!([{
        "id": "belt", "name": "Belt", "system": "engine", "shows": "x", "mechanism": "fatigue",
        "life": [{"source": "a", "says": {"form": "weibull", "shape": 50, "scale": 100_000}}],
        "repair_delay": 0, "job": "belt-job",
        "warning": {"sign": "x", "lead": 5000, "every": 2500, "sensitivity": 0.5},
        "escalation": {"job": "engine-job", "chance": 0.8}
    }]);
    let hours = |h: u32| json!({"low": h, "likely": h, "high": h});
    let jobs = json!([
        {"id": "belt-job", "name": "Belt", "parts": sure(300), "hours": hours(4), "access": ["front"]},
        {"id": "engine-job", "name": "Engine", "parts": sure(1800), "hours": hours(20)}
    ]);
    let s = with(with(with(sheet(), "/points", points), "/jobs", jobs), "/checks", json!([]));
    let s = with(s, "/access", json!([{"id": "front", "name": "Front off", "hours": 1}]));
    let c = with(even(with(candidate(), "/comparables", going())), "/asking", json!(7500));
    let a = judged(&s, &c);
    near(a.points[0].cost.mean, 600.0, "the job");
    near(a.points[0].worst_cost, 3000.0, "the engine");
    near(a.points[0].p_plan, 1.0, "chance within the plan");
    // Renewed at purchase it costs the job, and the fresh one outlasts the plan: the least cost, and everybody's.
    near(a.bill.mean, 600.0, "the bill");
    near(a.bill.reference, 600.0, "the reference example's");
    near(a.value.reference.price, 8000.0, "the going price");
    near(a.value.limit, 8000.0, "the limit");
    assert_eq!(a.verdict.kind, VerdictKind::Buy);
    let told = spread(&cand(&c), &[family(&s)], None, &table(), &Budget::default()).unwrap();
    near(told.purchase_plan.points[0].renew, 600.0, "renewed");
    near(told.purchase_plan.points[0].leave, 1130.0, "left");
    near(told.expected, 600.0, "the least cost");

    // Whoever waits for signs pays 1130, and so does the reference example that follows the same policy. A careful
    // buyer holds back half of what the dearest tenth costs beyond the mean, the market a quarter of it:
    // (0.5 − 0.25) × (3200 − 1130).
    let waits = with(c, "/purchase_plan", json!({"policy": "wait_for_signs"}));
    let left = spread(&cand(&waits), &[family(&s)], None, &table(), &Budget::default()).unwrap();
    on_steps(left.cvar90, 3200.0, "the dearest tenth");
    let careful = judged(&s, &with(waits, "/buyer", json!({"appetite": "careful"})));
    near(careful.bill.mean, 1130.0, "the bill of who waits");
    near(careful.bill.reference, 1130.0, "the reference example's");
    on_steps(careful.value.tail_excess, 2070.0, "bad luck");
    on_steps(careful.value.limit, 7482.5, "the limit of the careful");
    assert_eq!(careful.verdict.kind, VerdictKind::Negotiate);
}

#[test]
fn second_purchase_rust_that_is_there_and_a_fluid_that_nothing_proves() {
    let points = json!([{
        "id": "sill", "name": "Sill", "system": "body", "shows": "x", "mechanism": "ageing",
        "share": [{"source": "a", "says": {"form": "share", "share": 0.4}}],
        "life": [{"source": "a", "says": {"form": "weibull", "shape": 50, "scale": 70_000}}],
        "repair_delay": 100_000, "job": "weld"
    }]);
    let checks = json!([{
        "id": "tap", "name": "Tap the sill", "phase": "walk_round", "how": "Tap it.", "minutes": 2,
        "outcomes": [{"label": "sound"}, {"label": "rotten"}], "leak": [1, 0],
        "links": [{"point": "sill", "present": [0, 1], "coming": [1, 0], "lead": 1000}]
    }]);
    let jobs = json!([
        {"id": "weld", "name": "Weld it", "parts": sure(800)}, {"id": "fluid", "name": "Fluid", "parts": sure(75)}
    ]);
    let s = with(with(with(sheet(), "/points", points), "/jobs", jobs), "/checks", checks);
    let s = with(s, "/intervals", json!([{"id": "brake", "name": "Brake fluid", "years": 2, "job": "fluid"}]));
    let c = with(even(with(candidate(), "/comparables", going())), "/asking", json!(7900));
    let stamp = json!([{"date": "2025-12-01", "usage": {"value": 75_000, "unit": "km"}, "evidence": "stamp",
        "performs": [{"family": "test", "interval": "brake"}], "note": "Brake fluid"}]);
    let rotten = json!([{"family": "test", "check": "tap", "result": {"kind": "outcome", "outcome": 1}}]);
    let c = with(with(with(c, "/ledger", stamp), "/papers_seen", json!(true)), "/findings", rotten);
    let a = judged(&s, &c);
    near(a.points[0].p_now, 1.0, "the rust is there");
    near(a.due[0].chance_done, 0.6, "the stamp is believed");
    near(a.due[0].now, 30.0, "fluid now");
    near(a.due[0].in_plan, 75.0, "fluid later");
    near(a.bill.mean, 905.0, "the bill");
    near(a.bill.reference, 470.0, "the reference example's");
    // What is found leaves nothing to luck; for another the market allows a quarter of 800 − 320.
    on_steps(a.value.tail_excess, 0.0, "its bad luck");
    on_steps(a.bill.reference_tail_excess, 480.0, "the reference example's bad luck");
    on_steps(a.value.limit, 7685.0, "the limit");
    assert_eq!(a.verdict.kind, VerdictKind::Negotiate);
    // As one says it: worth 7700, so 200 too dear, and 800 can be shown.
    near(a.offer.gap, 200.0, "the gap");
    near(a.offer.stop, 7700.0, "where to stop");
    near(a.offer.open.unwrap(), 7500.0, "where to open");
    near(a.offer.shown, 800.0, "what can be shown");
    let amounts: Vec<f64> = a.offer.lines.iter().map(|l| l.amount).collect();
    assert_eq!(amounts, [-100.0, 800.0, -380.0, -120.0]);
    assert!(matches!(a.offer.lines[1].about, LineAbout::Fault { .. }));
}

#[test]
fn third_purchase_ten_minutes_that_are_worth_four_hundred_and_twenty() {
    let points = json!([{
        "id": "chain", "name": "Chain", "system": "engine", "shows": "x", "mechanism": "wear",
        "share": [{"source": "a", "says": {"form": "share", "share": 0.3}}],
        "life": [{"source": "a", "says": {"form": "weibull", "shape": 50, "scale": 70_000}}],
        "repair_delay": 100_000, "job": "chain-job"
    }]);
    let checks = json!([{
        "id": "listen", "name": "Listen", "phase": "cold_start", "how": "Listen.", "minutes": 10,
        "outcomes": [{"label": "quiet"}, {"label": "rattle"}], "leak": [1, 0],
        "links": [{"point": "chain", "present": [0, 1], "coming": [1, 0], "lead": 1000}]
    }]);
    let jobs = json!([{"id": "chain-job", "name": "Chain", "parts": sure(2000)}]);
    let s = with(with(with(sheet(), "/points", points), "/jobs", jobs), "/checks", checks);
    let c = with(even(with(candidate(), "/comparables", going())), "/asking", json!(8100));
    let a = judged(&s, &c);
    near(a.bill.mean, 600.0, "the bill");
    near(a.value.surplus, -100.0, "too dear by");
    let next = &a.open_checks[0];
    near(next.outcomes[0].chance, 0.7, "quiet");
    near(next.outcomes[0].surplus, 500.0, "after quiet");
    near(next.outcomes[1].surplus, -1500.0, "after a rattle");
    near(next.value_of_information, 420.0, "worth of listening");
    near(next.cost, 20.0 / 6.0, "cost of listening");
    assert_eq!(a.verdict.kind, VerdictKind::NotYet);
    let heard = |o: usize| json!([{"family": "test", "check": "listen", "result": {"kind": "outcome", "outcome": o}}]);
    let quiet = judged(&s, &with(c.clone(), "/findings", heard(0)));
    // Once heard, nothing is left to luck: the quarter of 2000 − 600 that the market allows for another comes on top.
    on_steps(quiet.value.limit, 8950.0, "the limit when it is quiet");
    assert_eq!(quiet.verdict.kind, VerdictKind::Buy);
    let rattle = judged(&s, &with(c, "/findings", heard(1)));
    on_steps(rattle.value.limit, 6950.0, "the limit when it rattles");
    assert_eq!(rattle.verdict.kind, VerdictKind::Negotiate);
}
