//! What an offer opens at, what would change a verdict, how much is known, and work that pays for a renewal.

use crate::common::{asked, cand, candidate, demo, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::decision::offer::{LineAbout, LineEvidence};
use ticksage_core::decision::verdict::{Change, VerdictKind};
use ticksage_core::documents::buyer::MaintenancePolicy;
use ticksage_core::documents::sheets::Sheets;
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::money::purchase_plan::{JobAt, PlanAction, PurchasePlan, RenewWhy};
use ticksage_core::questions::comparison::compare;
use ticksage_core::{Assessment, Assumptions, assess};

fn table() -> Assumptions {
    Assumptions::default()
}

fn judged(s: &Value, c: &Value) -> Assessment {
    assess(&cand(c), &[family(s)], &table()).unwrap()
}

fn purchase_plan(s: &Value, c: &Value) -> PurchasePlan {
    spread(&cand(c), &[family(s)], None, &table(), &Budget::default()).unwrap().purchase_plan
}

/// A candidate with three adverts that make the going price 8 000.
fn even(asking: u32) -> Value {
    let at = |km: u32| json!({"price": 8000, "usage": {"value": km, "unit": "km"}});
    let c = with(asked(candidate()), "/comparables", json!([at(60_000), at(80_000), at(100_000)]));
    with(c, "/asking", json!(asking))
}

/// The same of a bold buyer.
fn bold(asking: u32) -> Value {
    with(even(asking), "/buyer", json!({"appetite": "bold"}))
}

/// A sheet with one belt, renewed by scheduled work every five years.
fn scheduled(every_years: u32) -> Value {
    let work = json!([{"id": "belt-work", "name": "Belt, scheduled", "years": every_years, "job": "belt-job", "renews": ["belt"]}]);
    with(sheet(), "/intervals", work)
}

#[test]
fn an_offer_opens_as_far_below_the_limit_as_the_price_is_above_it_and_no_further_than_a_tenth() {
    // Nobody looked, so the limit is the going price.
    let at = |asking: u32| judged(&sheet(), &even(asking)).offer;
    let near = at(8200);
    assert!((near.stop - 8000.0).abs() < 1e-9 && (near.open.unwrap() - 7800.0).abs() < 1e-9, "{near:?}");
    let far = at(9900);
    assert!((far.open.unwrap() - 7200.0).abs() < 1e-9, "{far:?}");
    // Worth what is asked, and nothing to show: the price is the offer.
    let fair = at(7000);
    assert!((fair.open.unwrap() - 7000.0).abs() < 1e-9 && fair.gap < 0.0, "{fair:?}");
    // Overdue work that nothing proves can be shown once every paper was seen; a tenth is the most that it takes off.
    let shown = judged(&scheduled(5), &with(even(7000), "/papers_seen", json!(true))).offer;
    assert!((shown.shown - 600.0).abs() < 1e-9 && (shown.open.unwrap() - 6400.0).abs() < 1e-9, "{shown:?}");
    let line = shown.lines.iter().find(|l| matches!(l.about, LineAbout::Overdue { .. })).unwrap();
    assert!(line.evidence.contains(&LineEvidence::NoPaper), "{line:?}");
    assert!(line.evidence.iter().any(|e| matches!(e, LineEvidence::Due { .. })));
}

#[test]
fn behind_a_stop_there_is_no_offer_and_a_fault_says_what_was_found() {
    let stolen = with(bold(7000), "/provenance", json!([{"item": "stolen", "state": "marked"}]));
    assert_eq!(judged(&sheet(), &stolen).offer.open, None);
    let crumbs = json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": 2}, "note": "in the tray"}]);
    // Old enough, and tolerated for long enough, that crumbs mean it is there.
    let old = with(with(bold(7000), "/usage/value", json!(130_000)), "/findings", crumbs);
    let a = judged(&with(sheet(), "/points/0/repair_delay", json!(80_000)), &old);
    assert!(a.points[0].p_now >= 0.5, "{}", a.points[0].p_now);
    let line = a.offer.lines.iter().find(|l| matches!(l.about, LineAbout::Fault { .. })).unwrap();
    let LineEvidence::Finding { check, outcome, note, .. } = &line.evidence[0] else { panic!("{line:?}") };
    assert_eq!((check.as_str(), outcome.as_str(), note.as_str()), ("look", "crumbs", "in the tray"));
    // A paper that claims it was done, and is not believed, stands beside the work.
    let said = json!([{"date": "2025-06-01", "usage": {"value": 70_000, "unit": "km"}, "evidence": "sellers_word",
        "performs": [{"family": "test", "interval": "belt-work"}], "note": "belt"}]);
    let a = judged(&scheduled(5), &with(bold(7000), "/ledger", said));
    let line = a.offer.lines.iter().find(|l| matches!(l.about, LineAbout::Overdue { .. })).map(|l| l.evidence.clone());
    assert!(line.is_none_or(|e| !e.contains(&LineEvidence::NoPaper)));
}

#[test]
fn what_would_change_it_is_the_smallest_cut_and_the_paper_that_weighs_most() {
    let a = judged(&scheduled(5), &bold(8300));
    let cut = a.verdict.would_change.iter().find_map(|c| match c {
        Change::PriceTo { amount, cut } => Some((*amount, *cut)),
        _ => None,
    });
    let (amount, cut) = cut.unwrap();
    assert!((a.value.asking - cut - amount).abs() < 1e-9 && (amount - a.value.limit).abs() < 1e-9);
    let paper = a.verdict.would_change.iter().find_map(|c| match c {
        Change::Paper { name, saves, turns, .. } => Some((name.clone(), *saves, *turns)),
        _ => None,
    });
    let (name, saves, turns) = paper.unwrap();
    assert_eq!(name, "Belt, scheduled");
    // What it costs, by the chance that it is overdue.
    let due = &a.due[0];
    assert!((saves - 600.0 * (1.0 - due.chance_done)).abs() < 1e-6 && turns == (cut <= saves), "{saves} {cut}");
    assert!(due.chance_done > 0.35 && due.chance_done < 0.6, "{}", due.chance_done);
    // Just the cut makes it worth buying, one crown less does not.
    let at = |asking: f64| {
        let looked = json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": 0}}]);
        judged(
            &sheet(),
            &with(with(bold(8000), "/findings", looked), "/asking", json!((asking * 100.0).round() / 100.0)),
        )
    };
    let limit = at(9000.0).value.limit;
    assert_eq!(at(limit - 0.5).verdict.kind, VerdictKind::Buy);
    assert_eq!(at(limit + 0.5).verdict.kind, VerdictKind::Negotiate);
}

#[test]
fn a_check_that_could_turn_it_says_how_likely() {
    // Each outcome entered in turn: the chances of those that bring the limit to the other side add up.
    // Dear and likely enough that it is worth waiting for.
    let parts = json!({"low": 2400, "likely": 2500, "high": 2600});
    let sheet =
        || with(with(sheet(), "/jobs/0/parts/equivalent", parts.clone()), "/points/0/repair_delay", json!(20_000));
    let a = judged(&sheet(), &bold(8400));
    let told = a.verdict.would_change.iter().find_map(|c| match c {
        Change::Check { open_check, turns } => Some((&a.open_checks[*open_check], *turns)),
        _ => None,
    });
    let (check, turns) = told.expect("the one check could turn it");
    let above = |outcome: usize| {
        let found = json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": outcome}}]);
        judged(&sheet(), &with(bold(8400), "/findings", found)).value.surplus >= 0.0
    };
    let other: f64 = check
        .outcomes
        .iter()
        .enumerate()
        .filter(|(o, _)| above(*o) != (a.value.surplus >= 0.0))
        .map(|x| x.1.chance)
        .sum();
    assert!((other - turns).abs() < 1e-9 && turns > 0.0 && turns < 1.0, "{other} {turns}");
}

#[test]
fn what_is_known_grows_with_every_look_and_every_proof() {
    let nothing = judged(&sheet(), &candidate()).knowledge;
    assert_eq!((nothing.points, nothing.of_points, nothing.provenance), (0, 1, 0));
    assert!(nothing.money.abs() < 1e-12);
    let looked = json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": 0}}]);
    let looked = judged(&sheet(), &with(candidate(), "/findings", looked)).knowledge;
    assert!((looked.money - 1.0).abs() < 1e-12 && looked.points == 1);
    let entry = |evidence: &str| {
        let e = json!([{"date": "2025-06-01", "usage": {"value": 70_000, "unit": "km"}, "evidence": evidence,
            "renews": [{"family": "test", "point": "belt"}], "note": "belt"}]);
        judged(&sheet(), &with(candidate(), "/ledger", e)).knowledge.points
    };
    assert_eq!((entry("invoice_naming_part"), entry("sellers_word")), (1, 0));
    let asked = json!([{"item": "stolen", "state": "clear"}, {"item": "finance", "state": "not_asked"}]);
    assert_eq!(judged(&sheet(), &with(candidate(), "/provenance", asked)).knowledge.provenance, 1);
    for (c, families) in demo() {
        let k = assess(&c, &families, &table()).unwrap().knowledge;
        assert!((0.0..=1.0).contains(&k.money) && k.points <= k.of_points, "{}", c.title);
    }
}

#[test]
fn overdue_work_pays_for_what_it_renews_once() {
    let s = scheduled(5);
    let candidate = || with(candidate(), "/papers_seen", json!(true));
    let told = purchase_plan(&s, &candidate());
    let belt = told.points.iter().find(|p| p.at.point == "belt").unwrap();
    assert_eq!(belt.why, Some(RenewWhy::Overdue { work: "Belt, scheduled".to_owned() }));
    let jobs: Vec<&JobAt> = told.bundles.iter().flat_map(|b| b.jobs.iter().map(|j| &j.at)).collect();
    assert!(matches!(jobs.as_slice(), [JobAt::Work(_)]), "{jobs:?}");
    // The work's money is in the bill once; the fresh belt's own risk is all that is added.
    let left = |source: &str| {
        let c = with(candidate(), "/purchase_plan", json!({"policy": source}));
        spread(&cand(&c), &[family(&s)], None, &table(), &Budget::default()).unwrap()
    };
    let (least, wait) = (left("least_cost"), left("wait_for_signs"));
    // Nothing on paper, and every paper seen: the work is surely done, and nothing of the old belt is left to fail.
    assert!((least.expected - wait.expected).abs() < 1e-6, "{} {}", least.expected, wait.expected);
    assert!((belt.leave - belt.renew).abs() < 1e-6 && belt.leave < 600.0, "{belt:?}");
    assert!((least.mean - least.expected).abs() <= 4.0 * least.error + 1e-9);
    // Proved in date, it is left alone; nearly due, those who renew up front take it along.
    let done = |km: u32, date: &str| {
        json!([{"date": date, "usage": {"value": km, "unit": "km"}, "evidence": "invoice_naming_part",
            "performs": [{"family": "test", "interval": "belt-work"}], "note": "belt"}])
    };
    let fresh = purchase_plan(&s, &with(candidate(), "/ledger", done(79_000, "2026-05-01")));
    assert!(fresh.bundles.is_empty() && fresh.points[0].action != PlanAction::Renew);
    let soon = with(candidate(), "/ledger", done(20_000, "2021-08-01"));
    let front = purchase_plan(&s, &with(soon, "/purchase_plan", json!({"policy": "up_front"})));
    assert_eq!(front.policy, MaintenancePolicy::UpFront);
    assert_eq!(front.points[0].why, Some(RenewWhy::NearlyDue { work: "Belt, scheduled".to_owned() }));
}

#[test]
fn a_candidate_behind_a_stop_is_shown_but_not_weighed() {
    let stolen = with(bold(5000), "/provenance", json!([{"item": "stolen", "state": "marked"}]));
    let side = |c: &Value| (cand(c), Sheets::of(vec![family(&sheet())]));
    let told = compare(&[side(&bold(8000)), side(&stolen)], &table(), &Budget::default()).unwrap();
    assert_eq!((told.sides.len(), told.turns.len()), (2, 0));
    assert!(told.sides[1].unlike.is_none());
    let fine = compare(&[side(&bold(8000)), side(&bold(5000))], &table(), &Budget::default()).unwrap();
    assert_eq!(fine.turns.len(), 1);
    // One that makes no sense is named by its place.
    let broken = with(bold(8000), "/facts", json!({"nothing": "known"}));
    assert_eq!(compare(&[side(&bold(8000)), side(&broken)], &table(), &Budget::default()).unwrap_err().0, 1);
}

#[test]
fn a_point_decided_by_the_person_stays_decided_under_every_policy() {
    for now in [true, false] {
        for source in ["least_cost", "up_front", "wait_for_signs"] {
            let own = json!({"policy": source, "own": [{"at": {"family": "test", "point": "belt"}, "now": now}]});
            let told = purchase_plan(&scheduled(50), &with(candidate(), "/purchase_plan", own));
            let belt = &told.points[0];
            assert!(belt.own);
            assert_eq!(belt.action == PlanAction::Renew, now, "{source} {now}");
        }
    }
}
