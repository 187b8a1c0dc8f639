//! Common sense: what an inspector of five hundred vans would check first in any figure.
//!
//! The bands are common practice, no published source: what owners' clubs and fleet books reckon for running a car, a
//! van or a motorcycle out of warranty, in hours of an independent workshop, parts included. The figures are from
//! memory.

use crate::common::sense::{alone, as_proved, found, lean, proved, rank, table};
use crate::common::{asked, cand, demo};
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::decision::grade::Grade;
use ticksage_core::decision::verdict::VerdictKind;
use ticksage_core::documents::applicability::walk_round;
use ticksage_core::documents::buyer::Labour;
use ticksage_core::formats::base_sheets;
use ticksage_core::formats::documents::read_family;
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::money::schedule::Due;
use ticksage_core::{Assessment, Candidate, Family, assess};

/// Every sheet that ships: the base sheets and the demo's.
fn sheets() -> Vec<Family> {
    let mut out = base_sheets::sheets().unwrap();
    for id in ["bk4", "ferryman", "k440", "s6", "skerry700", "tarn22"] {
        let file = format!("{}/../../demo/families/{id}.json", env!("CARGO_MANIFEST_DIR"));
        out.push(read_family(&std::fs::read_to_string(file).unwrap()).unwrap());
    }
    out
}

/// A typical example of some families: so old, driven as most are, nothing known but the advert.
fn typical(families: &[Family], ids: &[&str], age: i32, a_year: f64, unit: &str, price: u32) -> Candidate {
    let version = |id: &str| families.iter().find(|f| f.id == id).unwrap().version;
    let refs: Vec<Value> = ids.iter().map(|id| json!({"id": id, "version": version(id)})).collect();
    cand(&asked(json!({
        "format": "ticksage-candidate/2", "title": "Typical", "families": refs, "as_of": "2026-07-15",
        "built": format!("{}-03-01", 2026 - age), "usage": {"value": a_year * f64::from(age), "unit": unit},
        "asking": price, "currency": "HSC", "plan": {"years": 3, "usage_a_year": {"value": a_year, "unit": unit}}
    })))
}

/// Families, usage a year and its unit, price, and the band in hours.
type Case = (&'static [&'static str], f64, &'static str, u32, [f64; 2]);

#[test]
fn a_typical_example_of_every_sheet_costs_what_such_things_cost() {
    let all = sheets();
    // Families, usage a year and unit, price, and the band in hours for that usage, all in.
    let cases: [Case; 8] = [
        (&["base-vehicle"], 15_000.0, "km", 9000, [8.0, 25.0]),
        (&["base-vehicle", "ferryman", "bk4", "s6"], 15_000.0, "km", 9000, [8.0, 25.0]),
        (&["base-vehicle", "ferryman", "tarn22"], 15_000.0, "km", 9000, [8.0, 25.0]),
        (&["base-motorcycle"], 6_000.0, "km", 4000, [4.0, 12.0]),
        (&["base-motorcycle", "skerry700"], 6_000.0, "km", 4000, [4.0, 12.0]),
        // A bare engine has no tyres, brakes or body, and salt water costs a marine one its coolers.
        (&["base-engine"], 250.0, "h", 4000, [3.0, 8.0]),
        (&["base-engine", "k440"], 250.0, "h", 4000, [6.0, 14.0]),
        (&["base-engine-km"], 15_000.0, "km", 3000, [3.0, 8.0]),
    ];
    let hour = table().rate(Labour::Independent);
    for (ids, a_year, unit, price, [least, most]) in cases {
        for age in [5, 8, 10, 12, 15] {
            let c = typical(&all, ids, age, a_year, unit, price);
            let hours = lean(&c, &all).bill.mean / hour / 3.0;
            assert!(hours >= least && hours <= most, "{ids:?} at {age} years: {hours:.2} h");
        }
    }
}

#[test]
fn the_untouched_reference_is_worth_the_going_price_to_the_even_buyer() {
    let all = sheets();
    for (ids, a_year, unit) in [
        (&["base-vehicle", "ferryman", "bk4", "s6"][..], 15_000.0, "km"),
        (&["base-vehicle", "ferryman", "tarn22"][..], 12_000.0, "km"),
        (&["base-motorcycle", "skerry700"][..], 6_000.0, "km"),
        (&["base-engine", "k440"][..], 250.0, "h"),
    ] {
        for age in [4, 9, 14] {
            let a = lean(&typical(&all, ids, age, a_year, unit, 6000), &all);
            assert!((a.value.limit - a.value.reference.price).abs() < 1e-6, "{ids:?} {age}: {}", a.value.limit);
            // Nobody looked: nothing is decided.
            assert_eq!(a.verdict.kind, VerdictKind::NotYet);
            assert!(!a.verdict.needed.is_empty());
        }
    }
}

#[test]
fn a_kept_vehicle_has_few_points_more_likely_than_not_and_a_stopper_never_stands_beside_a_purchase() {
    // Worn and renewed by everybody, apart.
    let wear = ["tyres", "brakes", "pads", "battery", "chain", "chain-kit", "links", "adjusters"];
    for (c, families) in demo() {
        let a = assess(&c, &families, &table()).unwrap();
        let likely = a.points.iter().filter(|p| p.p_plan > 0.5 && !wear.contains(&p.at.point.as_str()));
        if a.care.after[2] > 0.5 {
            assert!(likely.count() < 5, "{}", c.title);
        }
        if matches!(a.verdict.kind, VerdictKind::Buy | VerdictKind::Negotiate) {
            assert!(a.grade < Grade::Stopper, "{}", c.title);
            assert!(a.points.iter().all(|p| p.grade < Grade::Stopper), "{}", c.title);
        }
        // One bill: what the points and the work cost, less what is saved together, is the bill on every screen.
        let points: f64 = a.points.iter().map(|p| p.expected_cost).sum();
        assert!((points + a.bill.scheduled - a.bill.saved - a.bill.mean).abs() < 1e-6, "{}", c.title);
        let systems: f64 = a.systems.iter().map(|s| s.expected_cost).sum();
        assert!((systems - points).abs() < 1e-6, "{}", c.title);
        let by_year: f64 = a.bill.by_year.iter().sum();
        assert!((by_year - a.bill.mean).abs() < 1e-6 * a.bill.mean, "{}", c.title);
        // The lines of the offer add up to the gap.
        let lines: f64 = a.offer.lines.iter().map(|l| l.amount).sum();
        assert!((lines - a.offer.gap).abs() < 1e-6, "{}", c.title);
    }
}

#[test]
fn a_worse_outcome_never_raises_the_limit_and_never_lowers_the_bill() {
    // Every third check of every demo candidate, in turn from one candidate to the next.
    let (mut tried, mut exceptions) = (0, Vec::new());
    for (n, (c, mut families)) in demo().into_iter().enumerate() {
        families.retain(|f| c.families.iter().any(|r| r.id == f.id));
        let a = table();
        for (family, check) in walk_round(&c, &families, &a).into_iter().skip(n % 3).step_by(3) {
            let judged: Vec<Assessment> =
                (0..check.outcomes.len()).map(|o| lean(&found(&c, &family.id, &check.id, o), &families)).collect();
            for pair in judged.windows(2) {
                tried += 1;
                let (limit, bill) =
                    (pair[1].value.unbounded - pair[0].value.unbounded, pair[1].bill.mean - pair[0].bill.mean);
                let share = limit.max(-bill) / pair[0].value.reference.price;
                if share > 1e-4 {
                    // Explaining away: the outcome takes suspicion off other points, or is the mark of another fault.
                    assert!(share < 0.03, "{}: {} by {share}", c.title, check.id);
                    assert!(!alone(&c, family, &check.id), "{}: {} by {share}", c.title, check.id);
                    exceptions.push(check.id.clone());
                }
            }
        }
    }
    assert!(tried > 200 && exceptions.len() * 25 < tried, "{} of {tried}: {exceptions:?}", exceptions.len());
}

#[test]
fn proof_of_scheduled_work_never_lowers_the_limit() {
    // The exceptions: a part whose hazard does not rise, or one that is still young (none of the demo's); and a paper
    // that shows how late the same work was before, or that nothing else was mended in a stretch of its life, by less
    // than a hundredth of the going price. And a paper with another date than the schedule's may bring the next time
    // into the plan; it then costs no more than that.
    for (c, families) in demo() {
        let before = lean(&c, &families);
        for d in before.due.iter().filter(|d| d.cost.mean > 0.0) {
            for ago in [0.25, 0.6] {
                let proved = proved(&c, &before, d, ago);
                let Some(after) = as_proved(&proved, &families, &before) else { continue };
                let fell = before.value.unbounded - after.value.unbounded;
                let same = |x: &&Due| (&x.family, &x.interval) == (&d.family, &d.interval);
                let again = (after.due.iter().find(same).unwrap().in_plan - d.in_plan).max(0.0);
                let most = 1e-2 * before.value.reference.price + again;
                assert!(fell < most, "{}: {} by {fell}, {again} of it again in the plan", c.title, d.interval);
            }
        }
    }
}

#[test]
fn asking_more_never_improves_the_verdict() {
    for (mut c, families) in demo() {
        c.asked_first = Some(c.asking);
        let asking = c.asking.get();
        let mut last = usize::MAX;
        for by in [0.3, 0.6, 0.8, 0.95, 1.0, 1.1, 1.3, 1.7, 2.5] {
            c.asking = serde_json::from_value(json!((asking * by).round())).unwrap();
            let a = lean(&c, &families);
            let now = rank(a.verdict.kind);
            assert!(now <= last, "{} at {by}: {:?}", c.title, a.verdict.kind);
            last = now;
        }
    }
}

#[test]
fn more_use_or_a_longer_plan_never_lowers_the_bill() {
    for (c, families) in demo() {
        let bill = |years: f64, a_year: f64| {
            let mut c = c.clone();
            c.plan.years *= years;
            c.plan.usage_a_year.value *= a_year;
            lean(&c, &families).bill.mean
        };
        let own = bill(1.0, 1.0);
        for (years, a_year) in [(1.25, 1.0), (1.0, 1.3), (1.6, 1.5)] {
            let more = bill(years, a_year);
            assert!(more > own - 1e-3 * own, "{} × {years}, {a_year}: {own} {more}", c.title);
        }
    }
}

#[test]
fn an_advert_that_nobody_has_seen_decides_nothing_and_marks_lower_the_price() {
    let all = sheets();
    let mut c = typical(&all, &["base-vehicle", "ferryman", "bk4", "s6"], 8, 15_000.0, "km", 8600);
    c.provenance.clear();
    let unseen = lean(&c, &all);
    assert_eq!(unseen.verdict.kind, VerdictKind::NotYet);
    assert!(unseen.value.not_asked > 0.03 * 8600.0 && unseen.value.not_asked < 0.08 * 8600.0);
    // A structural write-off that the buyer accepts, and a clock that somebody marked.
    let marks = json!([{"item": "written_off_structural", "state": "marked"}, {"item": "mileage", "state": "marked"}]);
    c.provenance = serde_json::from_value(marks).unwrap();
    c.buyer.accepts_structural = true;
    let marked = lean(&c, &all).value;
    assert!((marked.marked_price - 0.7 * 0.8 * marked.reference.price).abs() < 1e-6);
    assert!(marked.limit < unseen.value.limit - 3000.0);
}

#[test]
fn what_the_money_goes_into_is_never_less_than_nothing_and_adds_up() {
    for (c, families) in demo() {
        let told = spread(&c, &families, None, &table(), &Budget::default()).unwrap();
        let split = [told.split.parts, told.split.labour, told.split.access, told.split.mishaps];
        assert!(split.iter().all(|x| *x >= 0.0), "{}: {split:?}", c.title);
        // Drawn futures, held against the mean that is worked out.
        let sum: f64 = split.iter().sum();
        assert!((sum / told.mean - 1.0).abs() < 0.03, "{}: {sum} {}", c.title, told.mean);
    }
}
