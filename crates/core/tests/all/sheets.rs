//! Sheets compared, merged, and narrowed to the builds to look for.

use crate::common::sense::table;
use jiff::civil::Date;
use serde_json::{Value, json};
use ticksage_core::Family;
use ticksage_core::base::budget::Budget;
use ticksage_core::documents::buyer::Buyer;
use ticksage_core::formats::base_sheets;
use ticksage_core::formats::documents::read_family;
use ticksage_core::questions::comparing::{SheetChange, SheetDifference, compare_sheets, merged};
use ticksage_core::questions::narrowing::{Wanted, narrowed};
use ticksage_core::questions::sanity::sanity;
use ticksage_core::validation::family::family_faults;

const TODAY: Date = Date::constant(2026, 11, 27);

fn text(id: &str) -> Value {
    let file = format!("{}/../../demo/families/{id}.json", env!("CARGO_MANIFEST_DIR"));
    serde_json::from_str(&std::fs::read_to_string(file).unwrap()).unwrap()
}

fn sheet(v: &Value) -> Family {
    read_family(&v.to_string()).unwrap_or_else(|f| panic!("{f:#?}"))
}

#[test]
fn a_sheet_compared_with_itself_says_nothing_and_each_change_is_named() {
    let before = text("s6");
    let one = sheet(&before);
    let none = compare_sheets(&one, &one, "HSC", TODAY, &table(), &Budget::default()).unwrap();
    assert!(none.points.is_empty() && none.same == one.points.len());
    assert!((none.before - none.after).abs() < 1e-9);

    let mut after = before.clone();
    after["version"] = json!(before["version"].as_u64().unwrap() + 1);
    let points = after["points"].as_array_mut().unwrap();
    points.retain(|p| p["id"] != "mount");
    let clutch = points.iter_mut().find(|p| p["id"] == "clutch").unwrap();
    clutch["share"] = json!([{"source": "workshop", "says": {"form": "word", "word": "all"}}]);
    clutch["why"] = json!("Heavy loads from rest.");
    for c in after["checks"].as_array_mut().unwrap() {
        if let Some(links) = c["links"].as_array_mut() {
            links.retain(|l| l["point"] != "mount");
        }
    }
    let two = sheet(&after);
    let c = compare_sheets(&one, &two, "HSC", TODAY, &table(), &Budget::default()).unwrap();
    let of = |id: &str| c.points.iter().find(|p| p.point == id).unwrap();
    assert_eq!(of("mount").change, SheetChange::Gone);
    assert_eq!(of("clutch").change, SheetChange::Moved);
    let differs = &of("clutch").differs;
    assert!(differs.contains(&SheetDifference::HowMany) && differs.contains(&SheetDifference::Cause), "{differs:?}");
    assert!(of("clutch").after > of("clutch").before && of("mount").after.abs() < 1e-9);
    // What a year costs moves by what the points move by, scheduled work aside.
    let moved: f64 = c.points.iter().map(|p| p.after - p.before).sum();
    assert!((c.after - c.before - moved).abs() < 0.05 * c.after, "{} {} {moved}", c.before, c.after);
}

#[test]
fn another_sheet_stands_beside_as_one_more_voice_and_takes_nothing_away() {
    let own = sheet(&text("bk4"));
    let other = sheet(&text("tarn22"));
    let both = merged(own.clone(), &other, "The diesel man", Some(0.5));
    assert_eq!(family_faults(&both), []);
    assert!(both.sources.iter().any(|s| s.name == "The diesel man" && s.discount == Some(0.5)));
    for p in &own.points {
        let now = both.points.iter().find(|q| q.id == p.id).unwrap();
        assert!(p.life.iter().all(|c| now.life.contains(c)) && p.share.iter().all(|c| now.share.contains(c)));
    }
    // A part that both know is known by both; what only the other knows comes with its job and its checks.
    let radiator = both.points.iter().filter(|p| p.part.as_deref() == Some("radiator")).count();
    assert_eq!(radiator, 1);
    let chain = both.points.iter().find(|p| p.id == "chain").unwrap();
    assert!(chain.life.iter().all(|c| c.source == "the-diesel-man"));
    assert!(both.job(&chain.job).is_some());
    assert!(both.checks.iter().any(|c| c.links.iter().any(|l| l.point == "chain")));
    // Once more changes nothing.
    assert_eq!(merged(both.clone(), &other, "The diesel man", Some(0.5)), both);
}

#[test]
fn the_later_build_shows_as_money_and_the_advice_agrees() {
    let families: Vec<Family> = [sheet(&text("bk4")), sheet(&text("ferryman"))]
        .into_iter()
        .chain(base_sheets::sheets().unwrap().into_iter().filter(|f| f.id == "base-vehicle"))
        .collect();
    let wanted = Wanted { years: 3.0, usage_a_year: 15_000.0, usage: Some(110_000.0), budget: None };
    let n = narrowed(&families, &wanted, &Buyer::default(), "HSC", TODAY, &table(), &Budget::default()).unwrap();
    assert!(n.stretches.len() >= 3, "{}", n.stretches.len());
    // In one piece from the first build to the last, for each variant.
    let mut one: Vec<_> = n.stretches.iter().filter(|s| s.variant == n.stretches[0].variant).collect();
    one.sort_by_key(|s| s.from);
    assert!(one.windows(2).all(|w| w[0].to.tomorrow().unwrap() == w[1].from));
    let later = one.last().unwrap();
    let belt = later.changes.iter().find(|c| c.point == "wet-belt").unwrap();
    assert!(belt.after < belt.before && belt.worth > 0.0);
    assert!(later.saves > 0.0 && later.a_year < one[0].a_year);
    assert!(later.advice.iter().any(|a| a.agrees == Some(true)));
    assert!(n.insist.iter().any(|i| i.point == "wet-belt" && i.says.contains("March 2018")));
    for s in &n.stretches {
        assert!(s.p90_a_year > s.a_year && (0.0..1.0).contains(&s.blow) && (s.per - s.a_year / 15.0).abs() < 1e-6);
        assert!((s.saves - (n.mixture - s.a_year)).abs() < 1e-9);
    }
    // The mixture lies among its parts.
    let (least, most) = (n.stretches[0].a_year, n.stretches.last().unwrap().a_year);
    assert!(n.mixture >= least && n.mixture <= most);
}

#[test]
fn a_lane_holds_when_a_point_comes_and_what_it_comes_to() {
    let mut v = text("s6");
    v["points"][0]["life"] =
        json!([{"source": "workshop", "says": {"form": "weibull", "shape": 1.0, "scale": 50000.0}}]);
    let family = sheet(&v);
    let made = sanity(&family, "HSC", &Buyer::default(), TODAY, &table(), &Budget::default()).unwrap();
    assert_eq!(
        made.lanes.iter().map(|l| &l.point).collect::<Vec<_>>(),
        family.points.iter().map(|p| &p.id).collect::<Vec<_>>()
    );
    // An exponential life loses the same share of what is left in each equal step (its memorylessness), to the rounding.
    let first = &made.lanes[0].curves[0];
    assert!((first.to - 50_000.0 * 100.0_f64.ln()).abs() < 1.0, "{}", first.to);
    let step = 1.0 - (-first.to / 50_000.0 / 24.0_f64).exp();
    let mut left = 1.0;
    for fails in &first.fails {
        assert!((fails - step * left).abs() < 1e-4, "{fails} {}", step * left);
        left -= step * left;
    }
    // What the dearest of the middling example cost is on their lanes too, and their grades are those of its assessment.
    for share in &made.examples[1].most {
        let end = made.lanes.iter().find(|l| l.point == share.point).unwrap().at_middling.as_ref().unwrap();
        assert!(end.cost > 0.0 && end.p_plan > 0.0 && share.a_year * 3.0 < end.cost * 4.0, "{}", share.point);
    }
    let concerned = made.lanes.iter().filter(|l| l.at_middling.is_some()).count();
    assert!(concerned > family.points.len() / 2);
}
