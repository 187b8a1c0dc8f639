//! What is done at purchase and together, offers, side by side, the calendar, and the tables.

#![allow(clippy::cast_precision_loss)]

use crate::common::{cand, candidate, demo, family, sheet, with};
use proptest::prelude::*;
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::decision::grade::{Grade, grade};
use ticksage_core::decision::offer::{LineAbout, LineEvidence, said};
use ticksage_core::documents::candidate::Example;
use ticksage_core::documents::ending::LogKind;
use ticksage_core::documents::sheets::Sheets;
use ticksage_core::formats::documents::read_candidate;
use ticksage_core::formats::{comparables_table, tables};
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::money::purchase_plan::{JobAt, PlanAction, PurchasePlan, RenewWhy};
use ticksage_core::money::reference_price::ReferenceBasis;
use ticksage_core::money::while_apart::while_apart;
use ticksage_core::questions::calendar::{EntryKind, calendar};
use ticksage_core::questions::comparison::{Turn, Unlike, compare};
use ticksage_core::validation::candidate;
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

/// What jobs come to when some are done now: the gains of those, what is shared counted once.
fn total(jobs: &[(f64, Vec<(u64, f64)>)], open: &[u64], taken: u32) -> f64 {
    let mut off = open.to_vec();
    let mut sum = 0.0;
    for (i, (more, groups)) in jobs.iter().enumerate() {
        if taken & (1 << i) == 0 {
            continue;
        }
        sum -= more;
        for (g, cost) in groups {
            if off.contains(g) { sum += cost } else { off.push(*g) }
        }
    }
    sum
}

proptest! {
    #![proptest_config(crate::common::cases(256))]

    /// Against every set of up to twelve jobs: the best of all.
    #[test]
    fn neighbours_taken_are_the_best_of_all_sets(
        jobs in prop::collection::vec((1.0..400.0f64, prop::collection::vec((0u64..4, 10.0..300.0f64), 1..3)), 1..12),
        open in prop::collection::vec(0u64..4, 1..3),
    ) {
        // A thing costs the same whoever needs it off, and is needed once.
        let cost: Vec<f64> = (0..4).map(|g| jobs.iter().flat_map(|j| &j.1).find(|x| x.0 == g).map_or(0.0, |x| x.1)).collect();
        let jobs: Vec<(f64, Vec<(u64, f64)>)> = jobs
            .into_iter()
            .map(|(more, groups)| {
                let mut ids: Vec<u64> = groups.into_iter().map(|g| g.0).collect();
                ids.dedup();
                (more, ids.into_iter().map(|g| (g, cost[usize::try_from(g).unwrap()])).collect())
            })
            .collect();
        let taken = while_apart(&jobs, &open, &Budget::default());
        let bits = taken.iter().enumerate().fold(0u32, |b, (i, t)| b | (u32::from(*t) << i));
        let best = (0..1u32 << jobs.len()).map(|set| total(&jobs, &open, set)).fold(0.0, f64::max);
        prop_assert!((total(&jobs, &open, bits) - best).abs() < 1e-6, "{} of {best}", total(&jobs, &open, bits));
    }
}

/// More jobs than are tried whole: what is taken best first never loses.
#[test]
fn many_neighbours_never_lose() {
    for round in 0..40u64 {
        let uniform = |i: u64| ticksage_core::base::random::uniform(round, i, 9);
        let jobs: Vec<(f64, Vec<(u64, f64)>)> =
            (0..20).map(|i| (250.0 * uniform(i), vec![(0, 40.0), (1 + i % 3, 120.0)])).collect();
        let taken = while_apart(&jobs, &[1], &Budget::default());
        let bits = taken.iter().enumerate().fold(0u32, |b, (i, t)| b | (u32::from(*t) << i));
        let ours = total(&jobs, &[1], bits);
        assert!(ours >= -1e-9, "{ours}");
        let swapped = (0..20).map(|i| total(&jobs, &[1], bits | (1 << i))).fold(0.0, f64::max);
        assert!(ours >= swapped - 1e-9, "one more would save {}", swapped - ours);
    }
}

/// Two points behind the same cover; the first may be made to be there now.
fn neighbours(leave_b: f64) -> (Value, Value) {
    let point = |id: &str, share: f64| {
        json!({"id": id, "name": id, "system": "engine", "shows": "x", "mechanism": "wear",
            "share": [{"source": "a", "says": {"form": "share", "share": share}}],
            "life": [{"source": "a", "says": {"form": "weibull", "shape": 50, "scale": 100_000}}],
            "repair_delay": 0, "job": format!("{id}-job")})
    };
    let job = |id: &str, parts: u32| {
        json!({"id": format!("{id}-job"), "name": id, "access": ["cover"],
            "parts": {"equivalent": {"low": parts, "likely": parts, "high": parts}}})
    };
    let mut first = point("a", 1.0);
    first["warning"] = json!({"sign": "x", "lead": 1000, "every": 1_000_000, "sensitivity": 0.01});
    first["escalation"] = json!({"job": "b-job", "chance": 0.0});
    let s = with(sheet(), "/points", json!([first, point("b", leave_b / 400.0)]));
    let s = with(s, "/jobs", json!([job("a", 100), job("b", 100)]));
    let s = with(with(s, "/access", json!([{"id": "cover", "name": "Cover", "hours": 5}])), "/checks", json!([]));
    (s, candidate())
}

#[test]
fn a_neighbour_is_done_while_it_is_apart_when_the_sum_says_so() {
    // A job alone is 100 of parts and 300 to get at it. The first is sure to come, on the road, for 200 more: it is
    // renewed. The second then costs 100 with the cover off; left, its chance times 400, and 200 for the road.
    let (s, c) = neighbours(40.0);
    let dear = purchase_plan(&s, &c);
    let b = dear.points.iter().find(|p| p.at.point == "b").unwrap();
    assert_eq!(b.action, PlanAction::Hold, "it gives no sign");
    let n = &dear.bundles[0].neighbours[0];
    assert!((n.now - 100.0).abs() < 0.01 && (n.later - 60.0).abs() < 0.01 && !n.taken, "{n:?}");
    let (s, c) = neighbours(80.0);
    let told = purchase_plan(&s, &c);
    let bundle = &told.bundles[0];
    assert_eq!((bundle.off.as_slice(), bundle.jobs.len()), (&["Cover".to_owned()][..], 2));
    assert!((bundle.apart - 800.0).abs() < 1e-9 && (bundle.together - 500.0).abs() < 1e-9, "{bundle:?}");
    let b = told.points.iter().find(|p| p.at.point == "b").unwrap();
    assert_eq!((b.action, &b.why), (PlanAction::Renew, &Some(RenewWhy::Together)));
    // The person's own word holds against the sum, both ways.
    let own = |now: bool| json!({"own": [{"at": {"family": "test", "point": "b"}, "now": now}]});
    let left = purchase_plan(&s, &with(c, "/purchase_plan", own(false)));
    assert!(left.points.iter().any(|p| p.at.point == "b" && p.own && p.action != PlanAction::Renew));
    let (s, c) = neighbours(40.0);
    let done = purchase_plan(&s, &with(c, "/purchase_plan", own(true)));
    assert_eq!(done.bundles[0].jobs.len(), 2);
}

#[test]
fn each_policy_renews_what_it_says() {
    for (c, families) in demo() {
        let at = |source: &str| {
            let v = with(serde_json::to_value(&c).unwrap(), "/purchase_plan", json!({"policy": source}));
            spread(&cand(&v), &families, None, &table(), &Budget::default()).unwrap().purchase_plan
        };
        let (least, front, wait) = (at("least_cost"), at("up_front"), at("wait_for_signs"));
        let renewed = |d: &PurchasePlan| d.points.iter().filter(|p| p.action == PlanAction::Renew).count();
        assert!(renewed(&wait) <= renewed(&least), "{}", c.title);
        for p in wait.points.iter().filter(|p| p.action == PlanAction::Renew) {
            assert!(p.p_now >= 0.2, "{}: {}", c.title, p.name);
        }
        for p in front.points.iter().filter(|p| p.p_plan >= 0.25) {
            assert_eq!(p.action, PlanAction::Renew, "{}: {}", c.title, p.name);
        }
        for p in &least.points {
            if p.why == Some(RenewWhy::Cheaper) {
                assert!(p.renew < p.leave, "{}: {}", c.title, p.name);
            }
            match p.action {
                PlanAction::Budget => assert!(p.p_plan >= 0.5),
                PlanAction::Watch => assert!((0.05..0.5).contains(&p.p_plan) && p.sign.is_some()),
                PlanAction::Hold => assert!((0.05..0.5).contains(&p.p_plan) && p.sign.is_none()),
                PlanAction::Nothing => assert!(p.p_plan < 0.05),
                PlanAction::Renew => assert!(p.why.is_some()),
            }
        }
        // Every job of the day stands in one bundle, once, and nothing costs more together than apart.
        for d in [&least, &front, &wait] {
            let mut seen: Vec<&JobAt> = d.bundles.iter().flat_map(|b| b.jobs.iter().map(|j| &j.at)).collect();
            let all = seen.len();
            seen.sort();
            seen.dedup();
            assert_eq!(seen.len(), all);
            for b in &d.bundles {
                let apart: f64 = b.jobs.iter().map(|j| j.alone).sum();
                let shared: f64 = b.jobs.iter().map(|j| j.shared).sum();
                assert!((b.apart - apart).abs() < 1e-9 && (b.together - apart + shared).abs() < 1e-9 && shared >= 0.0);
            }
        }
    }
}

#[test]
fn the_lines_of_an_offer_add_up_to_the_gap_exactly() {
    for (c, families) in demo() {
        let a = assess(&c, &families, &table()).unwrap();
        let sum: f64 = a.offer.lines.iter().map(|l| l.amount).sum();
        assert!((sum - a.offer.gap).abs() < 1e-9, "{}: {sum} {}", c.title, a.offer.gap);
        assert!(a.offer.stop <= a.value.asking);
        if let Some(open) = a.offer.open {
            assert!(open > 0.0 && open <= a.offer.stop, "{}: {open}", c.title);
        }
        for l in &a.offer.lines {
            if matches!(l.about, LineAbout::Fault { .. } | LineAbout::Overdue { .. }) {
                assert!(l.amount > 0.0 && !l.evidence.is_empty(), "{}: {l:?}", c.title);
            }
        }
        let found =
            a.offer.lines.iter().flat_map(|l| &l.evidence).filter(|e| matches!(e, LineEvidence::Finding { .. }));
        for e in found {
            let LineEvidence::Finding { family, check, .. } = e else { unreachable!() };
            assert!(c.finding_on(family, check).is_some());
        }
    }
    assert_eq!(
        [said(0.2), said(7.4), said(56.0), said(1234.0), said(-876.0), said(98_765.0)],
        [0.0, 7.0, 56.0, 1200.0, -880.0, 99_000.0]
    );
}

fn adverts(list: &[(u32, u32)]) -> Value {
    json!(list.iter().map(|(km, p)| json!({"price": p, "usage": {"value": km, "unit": "km"}})).collect::<Vec<_>>())
}

#[test]
fn none_one_two_and_nonsense_comparables_are_told_apart() {
    let at = |list: &[(u32, u32)]| judged(&sheet(), &with(candidate(), "/comparables", adverts(list))).value.reference;
    assert_eq!((at(&[]).basis, at(&[]).price), (ReferenceBasis::Asking, 8000.0));
    assert_eq!((at(&[(70_000, 7000)]).basis, at(&[(70_000, 7000)]).price), (ReferenceBasis::Median, 7000.0));
    assert_eq!(at(&[(70_000, 7000), (90_000, 6000)]).price, 6500.0);
    // Dearer the farther it went: chance, not the market.
    let rising = at(&[(60_000, 5000), (80_000, 6000), (100_000, 9000)]);
    assert!(rising.rising && rising.line.is_none());
    assert_eq!((rising.basis, rising.price), (ReferenceBasis::Median, 6000.0));
    // All at one usage give no line.
    assert_eq!(at(&[(80_000, 5000), (80_000, 6000), (80_000, 9000)]).basis, ReferenceBasis::Median);
    let beyond = at(&[(10_000, 12_000), (20_000, 11_000), (30_000, 10_000)]);
    assert!(beyond.outside && (beyond.price - 5000.0).abs() < 1e-6, "{beyond:?}");
    // A line drawn far out never goes below nothing.
    assert_eq!(at(&[(1000, 9000), (2000, 8000), (3000, 7000)]).price, 0.0);
    let faults = |c: Value| {
        candidate::candidate_faults(&cand(&c), &[family(&sheet())]).into_iter().map(|f| f.path).collect::<Vec<_>>()
    };
    assert_eq!(faults(with(candidate(), "/comparables", adverts(&[(80_000, 0)]))), ["/comparables/0/price"]);
    let hours = json!([{"price": 4000, "usage": {"value": 400, "unit": "h"}}]);
    assert!(faults(with(candidate(), "/comparables", hours)).contains(&"/comparables/0/usage/unit".to_owned()));
}

#[test]
fn a_table_of_adverts_is_read_whole_or_not_at_all() {
    let c = cand(&with(candidate(), "/comparables", adverts(&[(60_000, 9000)])));
    let good =
        comparables_table::read("price;km;example\n8 500;70 000;typical\n9000;60000;\n7900;80k;well-sorted\n", &c);
    assert_eq!((good.lines, good.duplicates, good.comparables.len()), (3, 1, 2), "{:?}", good.faults);
    assert_eq!(good.comparables[1].example, Example::WellSorted);
    let miles = comparables_table::read("asked,miles\n8500,50000\n", &c);
    assert!((miles.comparables[0].usage.on_clock() - 80_467.2).abs() < 1e-6);
    let bad = comparables_table::read(
        "price,km,example\n0,70000,typical\n8000,far,typical\n8000,70000,mint\n8100,70000,\n",
        &c,
    );
    let at: Vec<(u64, &str)> = bad.faults.iter().map(|f| (f.line, f.column.as_str())).collect();
    assert_eq!(at, [(2, "price"), (3, "usage"), (4, "example")]);
    assert!(bad.comparables.is_empty());
    for text in ["", "price\n8000\n", "price,km\n", "cost of it,km\n1,2\n"] {
        assert!(!comparables_table::read(text, &c).faults.is_empty(), "{text:?}");
    }
    let hours = comparables_table::read("price,hours\n8000,900\n", &c);
    assert_eq!(hours.faults[0].column, "usage");
}

#[test]
fn the_cheap_one_that_costs_more_is_told_with_its_year() {
    let (s, c) = neighbours(40.0);
    let bad = with(with(c.clone(), "/asking", json!(7800)), "/title", json!("Cheap"));
    // The other has had both renewed, on paper.
    let entry = json!([{"date": "2025-12-01", "usage": {"value": 76_000, "unit": "km"}, "evidence": "invoice_naming_part",
        "renews": [{"family": "test", "point": "a"}, {"family": "test", "point": "b"}], "grade": "original"}]);
    let good = with(with(c, "/ledger", entry), "/asking", json!(8000));
    let side = |v: &Value| (cand(v), Sheets::of(vec![family(&s)]));
    let told = compare(&[side(&good), side(&bad)], &table(), &Budget::default()).unwrap();
    // Renewed together at purchase, before they fail on the road: in the first year.
    let Turn::CheapTurnsDear { cheap, dear, year, by } = told.turns[0] else { panic!("{:?}", told.turns) };
    assert_eq!((cheap, dear, year), (1, 0, 1));
    let (x, y) = (&told.sides[1].cost, &told.sides[0].cost);
    assert!((by - (x.total - y.total)).abs() < 1e-9 && by > 50.0, "{by}");
    for s in &told.sides {
        let cost = &s.cost;
        assert!((cost.total - cost.price - s.assessment.bill.mean).abs() < 1e-9);
        assert!(!told.less_worth && cost.still_worth.is_none());
        assert!((cost.by_year.last().unwrap() - cost.total).abs() < 1e-6 * cost.total);
        assert!((cost.a_year * 3.0 - cost.total).abs() < 1e-6 && (cost.a_thousand * 45.0 - cost.total).abs() < 1e-6);
    }
}

#[test]
fn what_each_is_still_worth_counts_where_it_is_known_of_all() {
    let (s, c) = neighbours(40.0);
    let adverts = json!([
        {"price": 9000, "usage": {"value": 60_000, "unit": "km"}}, {"price": 8000, "usage": {"value": 80_000, "unit": "km"}},
        {"price": 7000, "usage": {"value": 100_000, "unit": "km"}}
    ]);
    let line = with(c.clone(), "/comparables", adverts);
    let side = |v: &Value| (cand(v), Sheets::of(vec![family(&s)]));
    let lay = |list: &[&Value]| {
        let sides: Vec<_> = list.iter().map(|v| side(v)).collect();
        compare(&sides, &table(), &Budget::default()).unwrap()
    };
    // Of one it is not known: counted for neither.
    let told = lay(&[&line, &c]);
    assert!(!told.less_worth && told.sides[0].cost.still_worth.is_some());
    assert!((told.sides[0].cost.total - 8000.0 - told.sides[0].assessment.bill.mean).abs() < 1e-9);
    // The line falls 50 a thousand kilometres: 8 000 now, 5 750 after 45 000 more.
    let said = with(c, "/value_at_end", json!(1000));
    let told = lay(&[&line, &said]);
    assert!(told.less_worth);
    for (s, end) in told.sides.iter().zip([5750.0, 1000.0]) {
        let cost = &s.cost;
        assert!((cost.still_worth.as_ref().unwrap().at_end - end).abs() < 1e-6);
        assert!((cost.total - (8000.0 + s.assessment.bill.mean - end)).abs() < 1e-6);
        assert!((cost.by_year.last().unwrap() - cost.total).abs() < 1e-6 * cost.total);
        assert!((cost.a_year * 3.0 - cost.total).abs() < 1e-6 && (cost.a_thousand * 45.0 - cost.total).abs() < 1e-6);
    }
    // What is said loses the same share each year.
    let by_year = &told.sides[1].cost.still_worth.as_ref().unwrap().by_year;
    assert!((by_year[0] / 8000.0 - 0.5).abs() < 1e-9 && (by_year[1] / by_year[0] - 0.5).abs() < 1e-9, "{by_year:?}");
}

#[test]
fn a_bare_engine_is_not_weighed_against_a_vehicle_and_the_first_plan_holds() {
    let all = demo();
    let pick = |i: usize| (all[i].0.clone(), Sheets::of(all[i].1.clone()));
    let told = compare(&[pick(0), pick(6), pick(5), pick(2)], &table(), &Budget::default()).unwrap();
    assert_eq!(told.sides[1].unlike, Some(Unlike::BareAgainstWhole));
    assert_eq!((&told.sides[0].unlike, &told.sides[3].unlike), (&None, &None));
    // Under one plan the last is judged as that plan has it.
    assert!(told.sides[3].replanned);
    assert!((told.sides[3].assessment.plan_years - all[0].0.plan.years).abs() < 1e-12);
    assert!((told.sides[1].assessment.plan_years - all[6].0.plan.years).abs() < 1e-12);
    assert!(told.turns.iter().all(|t| match t {
        Turn::CheapTurnsDear { cheap, dear, .. } | Turn::CheapStays { cheap, dear, .. } => *cheap != 1 && *dear != 1,
    }));
}

#[test]
fn the_bill_becomes_a_calendar_that_the_log_closes() {
    let (c, families) = demo().swap_remove(1);
    let date = c.as_of;
    let bought = json!({"kind": "bought", "date": date.to_string(), "price": 4800, "usage": c.usage});
    let v = with(serde_json::to_value(&c).unwrap(), "/ending", bought);
    let plan = |v: &Value| {
        let c = cand(v);
        let a = assess(&c, &families, &table()).unwrap();
        let d = spread(&c, &families, None, &table(), &Budget::default()).unwrap().purchase_plan;
        (calendar(&c, &a, &d), a, d)
    };
    let (told, a, d) = plan(&v);
    let jobs: f64 = d.bundles.iter().map(|b| b.together).sum();
    let today: f64 = told
        .entries
        .iter()
        .filter(|e| matches!(e.kind, EntryKind::Baseline | EntryKind::AtPurchase))
        .map(|e| e.cost)
        .sum();
    assert!((jobs - today).abs() < 1e-6);
    assert!(told.entries.windows(2).all(|w| w[0].date <= w[1].date));
    assert!(told.entries.iter().all(|e| e.usage <= told.usage + a.horizon + 1e-6 && e.usage >= told.usage - 1e-6));
    let fluid = |e: &&ticksage_core::questions::calendar::CalendarEntry| e.name == "Brake fluid";
    // Done at purchase, it comes round again from there.
    let times: Vec<EntryKind> = told.entries.iter().filter(fluid).map(|e| e.kind).collect();
    assert_eq!(times, [EntryKind::Baseline, EntryKind::Scheduled]);
    let first = told.entries.iter().find(fluid).unwrap();
    let about = serde_json::to_value(&first.about).unwrap();
    let mut about = about;
    about["kind"] = json!("work");
    let log = json!([{"date": date.to_string(), "usage": c.usage, "about": about, "what": "done", "cost": 61.5}]);
    let (after, ..) = plan(&with(v, "/log", log));
    let became: Vec<Option<LogKind>> = after.entries.iter().filter(fluid).map(|e| e.became).collect();
    assert_eq!(became, [Some(LogKind::Done), None]);
}

#[test]
fn an_ending_and_a_log_that_make_no_sense_are_refused() {
    let paths = |c: Value| {
        candidate::candidate_faults(&cand(&c), &[family(&sheet())]).into_iter().map(|f| f.path).collect::<Vec<_>>()
    };
    let usage = |km: u32| json!({"value": km, "unit": "km"});
    let bought = |date: &str, km: u32| {
        with(candidate(), "/ending", json!({"kind": "bought", "date": date, "price": 7000, "usage": usage(km)}))
    };
    assert_eq!(paths(bought("2026-06-02", 80_010)), Vec::<String>::new());
    assert_eq!(paths(bought("2019-06-02", 80_000)), ["/ending/date"]);
    assert_eq!(paths(bought("2026-06-02", 60_000)), ["/ending/usage"]);
    assert_eq!(
        paths(with(candidate(), "/ending", json!({"kind": "passed_over", "date": "2026-06-02", "why": " "}))),
        ["/ending/why"]
    );
    let log =
        |about: Value, date: &str| json!([{"date": date, "usage": usage(81_000), "about": about, "what": "failed"}]);
    let point = json!({"kind": "point", "family": "test", "point": "belt"});
    assert_eq!(paths(with(candidate(), "/log", log(point.clone(), "2026-07-01"))), ["/log"]);
    let c = bought("2026-06-02", 80_010);
    assert_eq!(paths(with(c.clone(), "/log", log(point.clone(), "2026-07-01"))), Vec::<String>::new());
    assert_eq!(paths(with(c.clone(), "/log", log(point, "2026-05-01"))), ["/log/0/date"]);
    let nothing = json!({"kind": "point", "family": "test", "point": "nothing"});
    assert_eq!(paths(with(c, "/log", log(nothing, "2026-07-01"))), ["/log/0/about"]);
    let own = json!({"own": [{"at": {"family": "test", "point": "nothing"}, "now": true}]});
    assert_eq!(paths(with(candidate(), "/purchase_plan", own)), ["/purchase_plan/own/0/at"]);
    assert_eq!(paths(with(candidate(), "/buyer", json!({"rates": {"dealer": 20_000}}))), ["/buyer/rates/dealer"]);
}

#[test]
fn plans_of_nought_and_forty_years_jobs_without_hours_and_rates_of_nothing() {
    let paths = |c: Value| {
        candidate::candidate_faults(&cand(&c), &[family(&sheet())]).into_iter().map(|f| f.path).collect::<Vec<_>>()
    };
    for years in [0, 41] {
        let refused = read_candidate(&with(candidate(), "/plan/years", json!(years)).to_string()).unwrap_err();
        assert_eq!(refused[0].path, "/plan/years");
    }
    assert_eq!(paths(with(candidate(), "/asking", json!(0))), ["/asking"]);
    let forty = judged(&sheet(), &with(candidate(), "/plan/years", json!(40)));
    assert_eq!(forty.bill.by_year.len(), 40);
    assert!((forty.bill.by_year.iter().sum::<f64>() - forty.bill.mean).abs() < 0.01 * forty.bill.mean);
    let mut no_hours = sheet();
    no_hours["jobs"][0].as_object_mut().unwrap().remove("hours");
    let a = judged(&no_hours, &candidate());
    assert!((a.points[0].cost.mean - 300.0).abs() < 1e-9 && a.points[0].cost.labour == 0.0);
    let free = with(candidate(), "/buyer", json!({"labour": "self", "rates": {"self": 0}}));
    assert!((judged(&sheet(), &free).points[0].cost.mean - 300.0).abs() < 1e-9);
    let special = with(candidate(), "/buyer", json!({"labour": "specialist"}));
    assert!((judged(&sheet(), &special).points[0].cost.mean - 725.0).abs() < 1e-9);
    // A currency changed midway is refused: the sheet is costed in another.
    assert_eq!(paths(with(candidate(), "/currency", json!("EUR"))), ["/currency"]);
}

#[test]
fn tables_add_up_to_the_cent_and_hold_no_formula() {
    for (c, families) in demo() {
        let a = assess(&c, &families, &table()).unwrap();
        let d = spread(&c, &families, None, &table(), &Budget::default()).unwrap().purchase_plan;
        let text = tables::bill(&a, &d);
        let mut reader = csv::Reader::from_reader(text.as_bytes());
        let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
        let cents = |s: &str| (s.parse::<f64>().unwrap() * 100.0).round() as i64;
        let (last, lines) = rows.split_last().unwrap();
        assert_eq!(lines.iter().map(|r| cents(&r[11])).sum::<i64>(), cents(&last[11]), "{}", c.title);
        assert_eq!(cents(&last[11]), (a.bill.mean * 100.0).round() as i64);
        // Points, work, and what is saved by doing together.
        assert_eq!(lines.len(), a.points.len() + a.due.len() + 1);
    }
    let (mut c, families) = demo().swap_remove(1);
    c.findings[0].note = "=HYPERLINK(\"x\")".to_owned();
    let text = tables::findings(&c, &families);
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    assert_eq!(rows.len(), c.findings.len());
    assert_eq!(&rows[0][8], "'=HYPERLINK(\"x\")");
}

/// MIL-STD-882E, table III, from memory: severity catastrophic to negligible, likelihood frequent to remote; 3 is
/// high, 0 is low. Ours has other bands and words; its order must not go against it.
#[test]
fn the_matrix_never_orders_two_cells_against_the_standard() {
    let standard = [[0, 0, 1, 1], [1, 1, 2, 2], [1, 2, 3, 3], [2, 3, 3, 3]];
    let cells: Vec<(usize, usize)> = (0..4).flat_map(|s| (0..4).map(move |l| (s, l))).collect();
    for &(s, l) in &cells {
        for &(t, m) in cells.iter().filter(|(t, m)| standard[*t][*m] >= standard[s][l] + 2) {
            assert!(grade(t, m) > grade(s, l), "two steps apart in the standard: {s} {l} and {t} {m}");
        }
    }
    assert_eq!((grade(0, 0), grade(3, 3)), (Grade::Trifle, Grade::Blow));
}
