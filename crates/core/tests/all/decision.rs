//! From figures to a decision: blockers, price, the worth of looking, reasons.

use crate::common::{asked, cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::decision::grade::{Grade, of_excess};
use ticksage_core::decision::verdict::{Change, Reason, VerdictKind};
use ticksage_core::{Assessment, Assumptions, assess};

fn judged(s: &Value, c: &Value) -> Assessment {
    assess(&cand(c), &[family(s)], &Assumptions::default()).unwrap()
}

fn found(outcome: usize) -> Value {
    json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": outcome}}])
}

/// The candidate of a buyer who judges by the mean: no room is held back for bad luck.
fn bold() -> Value {
    with(with(asked(candidate()), "/buyer", json!({})), "/buyer/appetite", json!("bold"))
}

/// Adverts of others that make the reference price `price` at any usage.
fn going(price: f64) -> Value {
    let at = |km: u32| json!({"price": price, "usage": {"value": km, "unit": "km"}});
    json!([at(60_000), at(80_000), at(100_000)])
}

#[test]
fn the_worth_of_a_check_is_what_brute_force_says() {
    // Priced so that a clean look would make it worth buying and crumbs would not.
    for asking in [7600, 8000, 8200, 8400] {
        let c = with(with(bold(), "/comparables", going(8000.0)), "/asking", json!(asking));
        let before = judged(&sheet(), &c);
        let next = &before.open_checks[0];
        let after: Vec<Assessment> =
            (0..3).map(|o| judged(&sheet(), &with(c.clone(), "/findings", found(o)))).collect();
        let (limit, mut worth) = (before.value.limit, 0.0);
        let paid = limit.min(f64::from(asking));
        let (mut total, mut chance_of_fault) = (0.0, 0.0);
        for (outcome, a) in next.outcomes.iter().zip(&after) {
            assert!((outcome.surplus - a.value.surplus).abs() < 1e-6, "{} {}", outcome.surplus, a.value.surplus);
            worth += outcome.chance * (a.value.limit - paid).max(0.0);
            total += outcome.chance;
            chance_of_fault += outcome.chance * a.points[0].p_plan;
        }
        assert!((total - 1.0).abs() < 1e-9);
        assert!((next.value_of_information - (worth - (limit - paid).max(0.0)).max(0.0)).abs() < 1e-6);
        // Looking cannot change what is expected before one has looked.
        assert!((chance_of_fault - before.points[0].p_plan).abs() < 1e-9);
    }
}

#[test]
fn a_check_that_can_change_the_mind_keeps_the_verdict_open_until_it_is_done() {
    // Dear and likely enough that a look is worth more than a hundredth of the price.
    let parts = json!({"low": 2400, "likely": 2500, "high": 2600});
    let sheet =
        || with(with(sheet(), "/jobs/0/parts/equivalent", parts.clone()), "/points/0/repair_delay", json!(20_000));
    let c = with(with(bold(), "/comparables", going(8000.0)), "/asking", json!(8400));
    let open = judged(&sheet(), &c);
    let look = &open.open_checks[0];
    assert!(look.value_of_information > look.cost + 80.0, "{look:?}");
    assert_eq!(open.verdict.kind, VerdictKind::NotYet);
    assert!(open.verdict.would_change.iter().any(|x| matches!(x, Change::Check { open_check: 0, .. })));
    let clean = judged(&sheet(), &with(c.clone(), "/findings", found(0)));
    assert_eq!((clean.verdict.kind, clean.open_checks.len()), (VerdictKind::Buy, 0));
    let crumbs = judged(&sheet(), &with(c, "/findings", found(2)));
    assert_eq!(crumbs.verdict.kind, VerdictKind::Negotiate);
    assert_eq!(crumbs.verdict.negotiate_to, Some(crumbs.value.limit));
    assert!(crumbs.verdict.would_change.iter().any(|x| matches!(x, Change::PriceTo { .. })));
}

#[test]
fn a_price_out_of_reach_ends_it() {
    let at = |asking: f64| {
        let c = with(with(asked(candidate()), "/comparables", going(8000.0)), "/findings", found(0));
        judged(&sheet(), &with(c, "/asking", json!(asking)))
    };
    let limit = at(8000.0).value.limit.round();
    assert_eq!(at(limit - 1.0).verdict.kind, VerdictKind::Buy);
    assert_eq!(at(limit + 1.0).verdict.kind, VerdictKind::Negotiate);
    // A quarter of the going price is what bargaining bridges.
    assert_eq!(at(limit + 1990.0).verdict.kind, VerdictKind::Negotiate);
    assert_eq!(at(limit + 2010.0).verdict.kind, VerdictKind::WalkAway);
}

#[test]
fn without_comparables_the_asking_price_is_the_reference_and_the_result_says_so() {
    use ticksage_core::money::reference_price::ReferenceBasis;
    let a = judged(&sheet(), &candidate());
    assert_eq!((a.value.reference.basis, a.value.reference.count), (ReferenceBasis::Asking, 0));
    assert!((a.value.reference.price - 8000.0).abs() < 1e-9);
    let two = json!([{"price": 7000, "usage": {"value": 9, "unit": "km"}}, {"price": 7600, "usage": {"value": 9, "unit": "km"}}]);
    let a = judged(&sheet(), &with(candidate(), "/comparables", two));
    assert_eq!((a.value.reference.basis, a.value.reference.count), (ReferenceBasis::Median, 2));
    assert!((a.value.reference.price - 7300.0).abs() < 1e-9);
}

#[test]
fn an_untouched_example_is_worth_the_going_price() {
    // Nothing known but the advert, used as it will be used: it is the reference example.
    let at = |c: Value| judged(&sheet(), &with(c, "/comparables", going(8000.0)));
    // To the even buyer, who makes the market; to the bold it is worth more.
    let a = at(asked(candidate()));
    assert!((a.bill.excess).abs() < 1e-9, "{}", a.bill.excess);
    assert!((a.value.limit - 8000.0).abs() < 1e-9);
    assert!(a.value.risk_margin.abs() < 1e-9 && a.value.tail_excess > 0.0);
    assert!(at(bold()).value.limit > 8000.0);
    // What nobody asked is a line of its own.
    let unasked = at(candidate());
    assert!((unasked.value.limit + unasked.value.not_asked - 8000.0).abs() < 1e-9 && unasked.value.not_asked > 100.0);
}

#[test]
fn room_for_bad_luck_is_held_back_by_appetite() {
    let at = |appetite: &str| {
        let c = with(bold(), "/buyer/appetite", json!(appetite));
        judged(&sheet(), &with(c, "/comparables", going(8000.0))).value
    };
    let (bold, even, careful) = (at("bold"), at("even"), at("careful"));
    assert!((bold.limit - even.limit - 0.25 * even.tail_excess).abs() < 1e-9);
    assert!((bold.limit - careful.limit - 0.5 * careful.tail_excess).abs() < 1e-9);
    assert!((bold.tail_excess - careful.tail_excess).abs() < 1e-12);
}

#[test]
fn a_well_sorted_reference_has_nothing_wrong_with_it_today() {
    let mut typical = going(8000.0);
    let sorted: Vec<Value> =
        typical.as_array_mut().unwrap().iter().map(|c| with(c.clone(), "/example", json!("well_sorted"))).collect();
    let a = judged(&sheet(), &with(candidate(), "/comparables", typical));
    let b = judged(&sheet(), &with(candidate(), "/comparables", json!(sorted)));
    assert!(b.bill.reference < a.bill.reference);
    assert!(b.value.limit < a.value.limit);
}

#[test]
fn there_are_three_reasons_each_way_and_the_hardest_gate_is_the_first_against() {
    let marks = json!([{"item": "finance", "state": "marked"}, {"item": "stolen", "state": "marked"}]);
    let a = judged(&sheet(), &with(candidate(), "/provenance", marks));
    assert_eq!(a.blockers.len(), 2);
    assert!(matches!(a.verdict.reasons_against[0], Reason::Blocker { blocker: 0 }));
    assert_eq!(a.grade, Grade::Stopper);
    assert!(a.verdict.reasons_for.len() <= 3);
    assert!(a.verdict.reasons_against.len() <= 3);
    let settled = json!([{"item": "finance", "state": "settled"}, {"item": "colour", "state": "marked"}]);
    assert_eq!(judged(&sheet(), &with(candidate(), "/provenance", settled)).blockers, []);
}

#[test]
fn papers_that_findings_contradict_speak_for_nothing() {
    let entry = json!([{"date": "2025-01-01", "usage": {"value": 70_000, "unit": "km"}, "evidence": "invoice_naming_part",
        "grade": "original", "renews": [{"family": "test", "point": "belt"}]}]);
    let proved = with(candidate(), "/ledger", entry);
    let renewed = |a: &Assessment| a.verdict.reasons_for.iter().any(|r| matches!(r, Reason::Renewed { .. }));
    assert!(renewed(&judged(&sheet(), &proved)));
    let mut harsh = with(sheet(), "/checks/0/leak", json!([0.98, 0.019, 0.001]));
    harsh = with(harsh, "/checks/0/links/0/present", json!([0.0, 0.01, 0.99]));
    let against = judged(&harsh, &with(proved, "/findings", found(2)));
    assert!(against.points[0].p_plan > 0.5, "{}", against.points[0].p_plan);
    assert!(!renewed(&against));
}

#[test]
fn the_vehicles_grade_rises_with_the_excess() {
    let grades: Vec<Grade> =
        [-500.0, 100.0, 300.0, 1000.0, 3000.0, 6000.0].map(|x| of_excess(x, 8000.0, &Assumptions::default())).to_vec();
    assert_eq!(grades, [Grade::Trifle, Grade::Trifle, Grade::Chore, Grade::Worry, Grade::Blow, Grade::Blow]);
}

#[test]
fn what_can_hurt_weighs_more_than_its_money() {
    // Young enough that it is not more likely than not.
    let young = with(candidate(), "/usage/value", json!(40_000));
    let plain = judged(&sheet(), &young);
    let hurts = judged(&with(sheet(), "/points/0/can_hurt", json!(true)), &young);
    assert!(hurts.points[0].grade > plain.points[0].grade && hurts.points[0].grade < Grade::Stopper);
    assert_eq!(hurts.points[0].severity, plain.points[0].severity);
    // More likely than not, and nothing gives warning: a dangerous defect, and nobody buys it so.
    let old = with(asked(candidate()), "/usage/value", json!(115_000));
    let worn = judged(&with(sheet(), "/points/0/can_hurt", json!(true)), &old);
    assert!(worn.points[0].hurts.unwrap() >= 0.5, "{:?}", worn.points[0].hurts);
    assert_eq!((worn.points[0].grade, worn.verdict.kind), (Grade::Stopper, VerdictKind::NotYet));
    // With a warning that most owners heed it is money.
    let warned = json!({"sign": "squeal", "lead": 20_000, "every": 2_000, "sensitivity": 0.8});
    let warned = judged(&with(with(sheet(), "/points/0/can_hurt", json!(true)), "/points/0/warning", warned), &old);
    assert!(warned.points[0].grade < Grade::Stopper && warned.blockers.is_empty());
}

#[test]
fn a_fee_counts_against_a_check() {
    let free = judged(&sheet(), &candidate());
    let paid = judged(&with(sheet(), "/checks/0/fee", json!(45.5)), &candidate());
    // Three minutes at 20 an hour.
    assert!((free.open_checks[0].cost - 1.0).abs() < 1e-9);
    assert!((paid.open_checks[0].cost - 46.5).abs() < 1e-9);
}

#[test]
fn a_check_on_another_variant_is_not_asked_for() {
    let facts =
        json!([{"id": "tin", "label": "Tin?", "values": [{"id": "yes", "label": "Yes"}, {"id": "no", "label": "No"}]}]);
    let mut s = with(sheet(), "/facts", facts);
    s = with(s, "/checks/0/applies", json!({"facts": {"tin": ["yes"]}}));
    assert_eq!(judged(&s, &with(candidate(), "/facts", json!({"tin": "no"}))).checks_total, 0);
    assert_eq!(judged(&s, &candidate()).checks_total, 1);
}

#[test]
fn the_strip_knows_where_each_year_begins() {
    let readings = json!([{"date": "2023-06-01", "usage": {"value": 20_000, "unit": "km"}}]);
    let a = judged(&sheet(), &with(candidate(), "/readings", readings));
    let years: Vec<i16> = a.years.iter().map(|y| y.year).collect();
    assert_eq!(years, (2021..=2029).collect::<Vec<i16>>());
    assert!(a.years.windows(2).all(|w| w[0].usage < w[1].usage));
    // Half-way through the slow first three years, then the fast ones; one cell is a third of a
    // thousand km.
    assert!((a.years[1].usage - 20_000.0 * 579.0 / 1095.0).abs() < 200.0, "{}", a.years[1].usage);
    assert!((a.years[8].usage - (80_000.0 + 15_000.0 * 945.0 / 365.25)).abs() < 1.0, "{}", a.years[8].usage);
}
