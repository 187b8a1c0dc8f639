//! What a person chooses of the ways of mending, what a sheet takes off the going price, and points at several places.

use crate::common::{cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::formats::documents::read_family;
use ticksage_core::validation::candidate::candidate_faults;
use ticksage_core::{Assessment, Assumptions, assess};

fn judged(s: &Value, c: &Value) -> Assessment {
    assess(&cand(c), &[family(s)], &Assumptions::default()).unwrap()
}

fn near(told: f64, wanted: f64, what: &str) {
    assert!((told - wanted).abs() < 1e-6 * wanted.abs().max(1.0), "{what}: {told}, not {wanted}");
}

/// A tensioner that suffices in four of ten, the whole chain, or a used engine that lasts twice as long.
fn with_ways() -> Value {
    let mut s = sheet();
    s["points"][0].as_object_mut().unwrap().remove("job");
    s["points"][0]["routes"] = json!([
        {"name": "Tensioner first", "price": 120, "suffices": 0.4, "first": true},
        {"name": "Chain and guides", "price": [700, 1100]},
        {"name": "Used engine", "price": 3000, "lasts": 2.0},
        {"name": "Guides alone", "price": [200, 200], "needs": {"until_year": 2020}}
    ]);
    s
}

fn choosing(way: &str) -> Value {
    with(candidate(), "/purchase_plan", json!({"ways": [{"at": {"family": "test", "point": "belt"}, "way": way}]}))
}

#[test]
fn the_way_a_person_chooses_is_taken_and_stands_first() {
    let cost = |a: &Assessment| a.points[0].cost.mean;
    let taken = |a: &Assessment| -> Vec<String> {
        a.points[0].ways.iter().filter(|w| w.done > 0.0).map(|w| w.name.clone()).collect()
    };
    let chain = judged(&with_ways(), &choosing("Chain and guides"));
    near(cost(&chain), 900.0, "the chain at once");
    assert_eq!(taken(&chain), ["Chain and guides"]);
    assert!(chain.points[0].ways[0].chosen && !chain.points[0].ways[1].chosen);
    let engine = judged(&with_ways(), &choosing("Used engine"));
    assert_eq!(taken(&engine), ["Used engine"]);
    assert!(cost(&engine) > 3000.0 && engine.bill.mean > chain.bill.mean);
    // What may not suffice is followed by the cheapest that does.
    let tensioner = judged(&with_ways(), &choosing("Tensioner first"));
    assert_eq!(taken(&tensioner), ["Tensioner first", "Chain and guides"]);
    near(cost(&tensioner), 124.0 + 0.6 * 900.0, "tensioner, then the chain");
    // Nobody can fit what is no longer to be had.
    let gone = judged(&with_ways(), &choosing("Guides alone"));
    assert_eq!(gone.points, judged(&with_ways(), &candidate()).points);
}

#[test]
fn a_way_that_is_none_is_refused_with_its_place() {
    let fault = |plan: Value| {
        let found = candidate_faults(&cand(&with(candidate(), "/purchase_plan", plan)), &[family(&with_ways())]);
        assert_eq!(found.len(), 1, "{found:?}");
        found[0].path.clone()
    };
    let way = |point: &str, way: &str| json!({"at": {"family": "test", "point": point}, "way": way});
    assert_eq!(fault(json!({"ways": [way("belt", "Prayer")]})), "/purchase_plan/ways/0/way");
    assert_eq!(fault(json!({"ways": [way("wings", "Used engine")]})), "/purchase_plan/ways/0/at");
    let twice = json!({"ways": [way("belt", "Used engine"), way("belt", "Chain and guides")]});
    assert_eq!(fault(twice), "/purchase_plan/ways/1/at");
}

fn marked(state: &str, item: &str) -> Value {
    with(candidate(), "/provenance", json!([{"item": item, "state": state}]))
}

#[test]
fn a_sheet_says_what_a_mark_takes_off_the_going_price() {
    let priced = with(
        sheet(),
        "/marks",
        json!([
            {"name": "Repainted", "item": "colour", "takes_off": 0.12, "why": "nobody wants to ask what is under it"},
            {"name": "Written off and mended", "item": "written_off", "takes_off": 0.4}
        ]),
    );
    let going = |a: &Assessment| a.value.reference.price;
    let plain = judged(&sheet(), &marked("marked", "colour"));
    assert!(plain.value.marks.is_empty(), "without the sheet's word another colour takes nothing off");
    let colour = judged(&priced, &marked("marked", "colour"));
    near(colour.value.marked_price, going(&colour) * 0.88, "repainted");
    assert_eq!(colour.value.marks[0].name.as_deref(), Some("Repainted"));
    // The usual table says 15 %.
    near(judged(&sheet(), &marked("settled", "written_off")).value.marked_price / going(&plain), 0.85, "by the table");
    let written_off = judged(&priced, &marked("settled", "written_off"));
    near(written_off.value.marked_price, going(&written_off) * 0.6, "by the sheet");
    // What nobody asked is held back by the same share.
    let unasked = |s: &Value| {
        let a = judged(s, &candidate());
        a.value.unasked.iter().find(|u| format!("{:?}", u.item) == "WrittenOff").unwrap().loss
    };
    near(unasked(&priced) / unasked(&sheet()), 0.4 / 0.15, "held back");
}

#[test]
fn marks_make_sense_or_are_refused() {
    let path = |mark: Value| {
        let found = read_family(&with(sheet(), "/marks", json!([mark])).to_string()).unwrap_err();
        found[0].path.clone()
    };
    assert_eq!(path(json!({"name": "Anything", "takes_off": 0.1})), "/marks/0");
    assert_eq!(path(json!({"name": "Stolen", "item": "stolen", "takes_off": 0.1})), "/marks/0/item");
    assert_eq!(path(json!({"name": "Gone", "item": "colour", "takes_off": 1.0})), "/marks/0/takes_off");
    assert_eq!(path(json!({"name": "X", "item": "colour", "takes_off": 0.1, "source": "nobody"})), "/marks/0/source");
}

fn with_service() -> Value {
    let service =
        json!([{"id": "service", "name": "Service", "usage": 120_000, "job": "belt-job", "renews": ["belt"]}]);
    with(sheet(), "/intervals", service)
}

/// The sheet with its belt at two places, and a check at each of them.
fn on_both_sides() -> Value {
    let mut s = with_service();
    s["points"][0]["places"] = json!(["left", "right"]);
    s["checks"][0]["places"] = json!(["left", "right"]);
    s
}

/// The same written by hand.
fn by_hand() -> Value {
    let mut s = with_service();
    let side = |v: &Value, side: &str| {
        let mut v = v.clone();
        v["id"] = json!(format!("{}-{side}", v["id"].as_str().unwrap()));
        v["name"] = json!(format!("{}, {side}", v["name"].as_str().unwrap()));
        v
    };
    let (point, check) = (s["points"][0].clone(), s["checks"][0].clone());
    s["points"] = json!([side(&point, "left"), side(&point, "right")]);
    s["checks"] = ["left", "right"]
        .map(|place| {
            let mut c = side(&check, place);
            c["action"] = check.get("action").cloned().unwrap_or_else(|| check["id"].clone());
            for l in c["links"].as_array_mut().unwrap() {
                l["point"] = json!(format!("{}-{place}", l["point"].as_str().unwrap()));
            }
            c
        })
        .into();
    for interval in s["intervals"].as_array_mut().unwrap() {
        let renews = interval["renews"].as_array().unwrap().clone();
        let each = renews.iter().flat_map(|r| ["left", "right"].map(|p| format!("{}-{p}", r.as_str().unwrap())));
        interval["renews"] = each.collect();
    }
    s
}

#[test]
fn places_are_points_of_their_own_as_if_written_by_hand() {
    let (placed, hand) = (family(&on_both_sides()), family(&by_hand()));
    assert_eq!(serde_json::to_value(&placed).unwrap(), serde_json::to_value(&hand).unwrap());
    let found = |side: &str, outcome: usize| {
        let finding = json!([{"family": "test", "check": format!("look-{side}"), "result": {"kind": "outcome", "outcome": outcome}}]);
        with(candidate(), "/findings", finding)
    };
    // What is seen on one side speaks of that side alone.
    let chance = |a: &Assessment, id: &str| a.points.iter().find(|p| p.at.point == id).unwrap().p_now;
    let none = judged(&on_both_sides(), &candidate());
    near(chance(&none, "belt-left"), chance(&none, "belt-right"), "alike");
    let left = judged(&on_both_sides(), &found("left", 2));
    let rises = |id: &str| chance(&left, id) / chance(&none, id);
    assert!(rises("belt-left") > 5.0, "{}", rises("belt-left"));
    // Of the other side it says no more than that care may have been poor.
    assert!(rises("belt-right") > 1.0 && rises("belt-right") < 1.5, "{}", rises("belt-right"));
    // One look at both.
    assert_eq!(none.walk.actions.iter().filter(|x| x.checks.len() == 2).count(), 1);
    // Reading what was written once more changes nothing.
    assert_eq!(family(&serde_json::to_value(&placed).unwrap()), placed);
}

#[test]
fn one_look_that_tells_no_places_apart_speaks_of_each() {
    let mut s = on_both_sides();
    s["checks"][0].as_object_mut().unwrap().remove("places");
    let f = family(&s);
    let linked: Vec<&str> = f.checks[0].links.iter().map(|l| l.point.as_str()).collect();
    assert_eq!(linked, ["belt-left", "belt-right"]);
}

#[test]
fn places_that_cannot_be_told_apart_are_refused() {
    let path = |places: Value| {
        let mut s = on_both_sides();
        s["points"][0]["places"] = places;
        read_family(&s.to_string()).unwrap_err()[0].path.clone()
    };
    for wrong in [json!(["left"]), json!(["left", "Left"]), json!(["left", "?"]), json!(["left", "x".repeat(60)])] {
        assert_eq!(path(wrong.clone()), "/points/0/places", "{wrong}");
    }
    assert_eq!(path(json!(["left", "rear"])), "/checks/0/links/0/point");
    // A name that would be longer than any that can be read again.
    let mut long = on_both_sides();
    long["points"][0]["name"] = json!("B".repeat(78));
    assert_eq!(read_family(&long.to_string()).unwrap_err()[0].path, "/points/0/places");
}

/// The belt's point as rust that grows: treated for 150, welded for 900, or a new panel for 2 400; the check tells the
/// two later stages apart.
fn rust() -> Value {
    let mut s = sheet();
    s["points"][0].as_object_mut().unwrap().remove("job");
    s["points"][0].as_object_mut().unwrap().remove("repair_delay");
    s["points"][0]["price"] = json!([150, 150]);
    s["points"][0]["stages"] = json!([
        {"name": "surface", "tolerable": 20_000},
        {"name": "holes", "tolerable": 15_000, "price": [900, 900]},
        {"name": "structure", "tolerable": 5_000, "price": [2400, 2400]}
    ]);
    s["checks"][0]["links"][0]["stages"] = json!([0, 2, 3]);
    s
}

fn looked(outcome: usize) -> Value {
    let finding = json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": outcome}}]);
    with(candidate(), "/findings", finding)
}

#[test]
fn a_fault_that_grows_costs_what_its_stage_costs() {
    let chances = |a: &Assessment| -> Vec<f64> { a.points[0].stages.iter().map(|s| s.chance).collect() };
    // A fault that began at a time nobody knows is in a stage as long as that lasts.
    let none = judged(&rust(), &candidate());
    for (told, wanted) in chances(&none).iter().zip([0.5, 0.375, 0.125]) {
        near(*told, wanted, "unseen");
    }
    // Bayes by hand: an outcome shows its own stage in eight of ten, each of the others in one.
    let holes = judged(&rust(), &looked(1));
    let weights = [0.5 * 0.1, 0.375 * 0.8, 0.125 * 0.1];
    let all: f64 = weights.iter().sum();
    for (told, w) in chances(&holes).iter().zip(weights) {
        near(*told, w / all, "holes");
    }
    let costs: Vec<f64> = holes.points[0].stages.iter().map(|s| s.cost).collect();
    assert_eq!(costs, [150.0, 900.0, 2400.0]);
    // That it tells the stage is in its worth.
    let mut blind = rust();
    blind["checks"][0]["links"][0].as_object_mut().unwrap().remove("stages");
    let moves = |s: &Value| judged(s, &candidate()).open_checks[0].moves;
    assert!(moves(&rust()) > 1.05 * moves(&blind), "{} {}", moves(&rust()), moves(&blind));
    // The worse it is, the dearer; and the limit falls.
    let structure = judged(&rust(), &looked(2));
    assert!(structure.points[0].expected_cost > holes.points[0].expected_cost);
    assert!(structure.value.limit < holes.value.limit);
    // What nobody catches grows to the last stage, and is lived with to its end.
    let grown = &none.points[0].along[0];
    assert!(grown.instead && (grown.cost - 2250.0).abs() < 1e-9, "{grown:?}");
    let years = with(rust(), "/points/0/repair_delay", json!(40_000));
    near(judged(&years, &candidate()).points[0].p_now, none.points[0].p_now, "lived with");
}

/// The bill that is put together from chances and the futures that are drawn agree with stages, too.
#[test]
fn stages_are_in_the_futures_that_are_drawn() {
    use ticksage_core::base::budget::Budget;
    use ticksage_core::money::bill_forecast::spread;
    let (f, c) = (family(&rust()), cand(&looked(2)));
    let a = assess(&c, std::slice::from_ref(&f), &Assumptions::default()).unwrap();
    let s = spread(&c, &[f], None, &Assumptions::default(), &Budget::default()).unwrap();
    assert!((s.mean - a.bill.mean).abs() < 4.0 * s.error, "{} ± {}, not {}", s.mean, s.error, a.bill.mean);
}

#[test]
fn stages_make_sense_or_are_refused_and_a_cheaper_later_one_is_pointed_out() {
    use ticksage_core::validation::telling::family_notices;
    let path = |at: &str, to: Value| read_family(&with(rust(), at, to).to_string()).unwrap_err()[0].path.clone();
    assert_eq!(path("/points/0/stages", json!([{"name": "surface", "tolerable": 1}])), "/points/0/stages");
    assert_eq!(path("/points/0/stages/0/price", json!(100)), "/points/0/stages/0");
    assert_eq!(path("/points/0/stages/1", json!({"name": "holes", "tolerable": 1})), "/points/0/stages/1");
    assert_eq!(path("/points/0/stages/1/job", json!("magic")), "/points/0/stages/1/price");
    assert_eq!(path("/checks/0/links/0/stages", json!([0, 1])), "/checks/0/links/0/stages");
    assert_eq!(path("/checks/0/links/0/stages", json!([0, 1, 4])), "/checks/0/links/0/stages");
    assert_eq!(path("/points/0/escalation", json!({"job": "belt-job", "chance": 0.5})), "/points/0/stages");
    let cheaper = family(&with(rust(), "/points/0/stages/2/price", json!(300)));
    assert_eq!(family_notices(&cheaper, &[])[0].path, "/points/0/stages/2");
    assert!(family_notices(&family(&rust()), &[]).iter().all(|n| !n.path.contains("stages")));
}
