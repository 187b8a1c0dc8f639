//! Parts and hands by age: what a sheet says of old ones stands in every price.

use crate::common::{cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::formats::documents::read_family;
use ticksage_core::{Assessment, Assumptions, assess};

fn judged(s: &Value) -> Assessment {
    assess(&cand(&candidate()), &[family(s)], &Assumptions::default()).unwrap()
}

fn saying(supply: Value) -> Value {
    with(sheet(), "/supply", supply)
}

fn near(told: f64, wanted: f64, what: &str) {
    assert!((told - wanted).abs() < 1e-6 * wanted.abs().max(1.0), "{what}: {told}, not {wanted}");
}

#[test]
fn parts_and_work_cost_what_they_do_at_its_age() {
    let plain = judged(&sheet()).points[0].cost;
    let of = |supply: Value| judged(&saying(supply)).points[0].cost;
    // Six years old, seven and a half in the middle of the plan.
    let dear = of(json!([{"id": "old", "says": "parts are scarce", "from_age": 7, "parts": 2, "hours": 1.5}]));
    near(dear.parts, 2.0 * plain.parts, "parts");
    near(dear.labour, 1.5 * plain.labour, "labour");
    let later = of(json!([{"id": "old", "says": "parts are scarce", "from_age": 8, "parts": 2}]));
    assert_eq!(later, plain);
    // Of two on the same points the later one holds, and one that names another point is none of its business.
    let two = of(json!([
        {"id": "a", "says": "dearer", "from_age": 3, "parts": 1.2},
        {"id": "b", "says": "dearer still", "from_age": 6, "parts": 1.5}
    ]));
    near(two.parts, 1.5 * plain.parts, "the later one");
    let mut other = saying(json!([{"id": "a", "says": "dearer", "from_age": 3, "parts": 3, "points": ["lamp"]}]));
    let mut lamp = other["points"][0].clone();
    (lamp["id"], lamp["name"], lamp["job"]) = (json!("lamp"), json!("Lamp"), json!("lamp-job"));
    other["points"].as_array_mut().unwrap().push(lamp);
    let mut job = other["jobs"][0].clone();
    job["id"] = json!("lamp-job");
    other["jobs"].as_array_mut().unwrap().push(job);
    let both = judged(&other);
    let cost = |id: &str| both.points.iter().find(|p| p.at.point == id).unwrap().cost.parts;
    near(cost("belt"), plain.parts, "the belt");
    near(cost("lamp"), 3.0 * plain.parts, "the lamp");
}

#[test]
fn one_price_is_half_parts_half_work_and_what_is_gone_is_not_fitted() {
    let mut s = sheet();
    s["jobs"][0] = json!({"id": "belt-job", "name": "Belt job", "price": [400, 400]});
    let plain = judged(&s).points[0].cost.mean;
    s["supply"] = json!([{"id": "old", "says": "one man left", "from_age": 5, "parts": 2, "hours": 3}]);
    near(judged(&s).points[0].cost.mean, 2.5 * plain, "half and half");
    // The buyer would fit an equivalent part; only used ones are left.
    let mut s = sheet();
    s["jobs"][0]["parts"]["used"] = json!({"low": 90, "likely": 100, "high": 110});
    s["supply"] = json!([{"id": "old", "says": "used ones alone", "from_age": 5, "grades": ["used"]}]);
    near(judged(&s).points[0].cost.parts, 100.0, "a used part");
}

#[test]
fn the_result_says_what_holds_and_bad_ones_are_refused_where_they_stand() {
    let a = judged(&saying(json!([
        {"id": "now", "says": "parts are scarce", "from_age": 6, "parts": 2, "points": ["belt"]},
        {"id": "soon", "says": "few hands left", "from_age": 7.4, "hours": 1.5},
        {"id": "never", "says": "none left", "from_age": 30, "parts": 9}
    ])));
    let told: Vec<(&str, bool, f64, f64)> =
        a.supply.iter().map(|s| (s.says.as_str(), s.today, s.parts, s.hours)).collect();
    assert_eq!(told, [("parts are scarce", false, 2.0, 1.0), ("few hands left", false, 1.0, 1.5)]);
    let bad = saying(json!([
        {"id": "x", "says": "a", "from_age": 200, "parts": 0},
        {"id": "x", "says": "b", "from_age": 2},
        {"id": "y", "says": "c", "from_age": 2, "parts": 2, "points": ["mirror"]}
    ]));
    let faults = read_family(&bad.to_string()).unwrap_err();
    let paths = format!("{faults:?}");
    for at in ["/supply/0/from_age", "/supply/0/parts", "/supply/1", "/supply/2/points/0"] {
        assert!(paths.contains(at), "{at} in {paths}");
    }
    // Read, written and read again it says the same.
    let once = family(&saying(json!([{"id": "a", "says": "dear", "from_age": 3, "parts": 1.2, "grades": ["used"]}])));
    assert_eq!(read_family(&serde_json::to_string(&once).unwrap()).unwrap(), once);
}

#[test]
fn a_used_part_lasts_as_long_as_its_point_says() {
    let fitted = |grade: &str, used_lasts: Value| {
        let mut c = candidate();
        c["ledger"] = json!([{"date": "2022-05-01", "usage": {"value": 50_000, "unit": "km"}, "grade": grade,
            "evidence": "invoice_naming_part", "renews": [{"family": "test", "point": "belt"}]}]);
        c["buyer"] = json!({"parts": grade});
        let s = if used_lasts.is_null() { sheet() } else { with(sheet(), "/points/0/used_lasts", used_lasts) };
        let a = assess(&cand(&c), &[family(&s)], &Assumptions::default()).unwrap();
        let belt = a.points.iter().find(|p| p.at.point == "belt").unwrap();
        (belt.p_now, belt.p_plan, belt.repairs)
    };
    // Four tenths where nobody says, and a new one's life where it does not wear on the shelf.
    assert_eq!(fitted("used", Value::Null), fitted("used", json!(0.4)));
    assert_eq!(fitted("used", json!(1.0)), fitted("original", Value::Null));
    assert!(fitted("used", json!(0.7)).1 < fitted("used", Value::Null).1);
    // It says nothing of new ones.
    assert_eq!(fitted("original", json!(0.2)), fitted("original", Value::Null));
    let faults = read_family(&with(sheet(), "/points/0/used_lasts", json!(1.5)).to_string()).unwrap_err();
    assert_eq!(faults[0].path, "/points/0/used_lasts");
}
