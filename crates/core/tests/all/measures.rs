//! Measured checks against definitions, published rules and marked practice; the base sheets; and what
//! can injure.

#![allow(clippy::cast_precision_loss)]

use crate::common::{cand, candidate, family, sheet, with};
use jiff::civil::{Date, Weekday, date};
use proptest::prelude::*;
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::decision::blockers::BlockerCause;
use ticksage_core::decision::verdict::VerdictKind;
use ticksage_core::decision::walk_round::LeftOut;
use ticksage_core::documents::check::{BlockerKind, Hazard};
use ticksage_core::documents::finding::TypedReading;
use ticksage_core::documents::measure::{Calculation, Measure};
use ticksage_core::formats::base_sheets;
use ticksage_core::questions::seller_questions::{Ask, questions};
use ticksage_core::reading::measured::{Measured, convert, fields, made, measure, units_for};
use ticksage_core::validation::candidate;
use ticksage_core::{Assumptions, Candidate, Family, assess};

const DAY: Date = date(2026, 6, 1);

fn of(unit: &str, limits: &[f64], higher_is_worse: bool, by: Value) -> Measure {
    let by: Calculation = serde_json::from_value(by).unwrap();
    let (quantity, source) = ("Reading".to_owned(), "test".to_owned());
    Measure { quantity, unit: unit.to_owned(), limits: limits.to_vec(), higher_is_worse, source, by }
}

fn typed(list: &[&str]) -> Vec<TypedReading> {
    list.iter()
        .map(|t| {
            let (text, unit) = t.split_once('|').unwrap_or((t, ""));
            TypedReading { text: text.to_owned(), unit: unit.to_owned() }
        })
        .collect()
}

fn come(m: &Measure, list: &[&str]) -> Measured {
    measure(m, &typed(list), DAY, &Assumptions::default()).unwrap_or_else(|f| panic!("{list:?}: {f:?}"))
}

fn refused(m: &Measure, list: &[&str]) -> Vec<String> {
    let faults = measure(m, &typed(list), DAY, &Assumptions::default()).expect_err("it makes no sense");
    faults.into_iter().map(|f| f.path).collect()
}

fn close(x: f64, y: f64) -> bool {
    (x - y).abs() < 1e-6 * y.abs().max(1.0)
}

#[test]
fn units_are_those_of_the_definitions() {
    // Exact by definition: inch 25.4 mm, pound-force and kilogram-force by standard gravity 9.80665 m/s²,
    // pound 0.45359237 kg, US gallon 231 in³, imperial gallon 4.54609 L (NIST SP 811, appendix B).
    let psi = 0.453_592_37 * 9.806_65 / (0.0254f64 * 0.0254) / 1000.0;
    let us_quart = 231.0 * 2.54f64.powi(3) / 1000.0 / 4.0;
    for (value, from, to, is) in [
        (1.0, "in", "mm", 25.4),
        (2.0, "1/32 in", "mm", 1.5875),
        (2.0, "0.001 in", "mm", 0.0508),
        (1.0, "mm", "µm", 1000.0),
        (1.0, "psi", "kPa", psi),
        (1.0, "kgf/cm²", "bar", 0.980_665),
        (100.0, "bar", "kPa", 10_000.0),
        (1.0, "US qt", "L", us_quart),
        (1.0, "imp pt", "L", 4.546_09 / 8.0),
        (1.0, "mi", "km", 1.609_344),
        (212.0, "°F", "°C", 100.0),
        // Common practice: urea solution freezes at 12 °F.
        (12.0, "°F", "°C", -11.111_111),
    ] {
        assert!(close(convert(value, from, to).unwrap(), is), "{value} {from} in {to}");
        assert!(close(convert(is, to, from).unwrap(), value), "{is} {to} in {from}");
    }
    assert_eq!(convert(1.0, "bar", "mm"), None);
    assert_eq!(convert(1.0, "furlong", "mm"), None);
    assert_eq!(units_for("bar")[0], "bar");
    assert_eq!(units_for("V"), ["V"]);
}

#[test]
fn compression_is_judged_by_its_lowest_against_its_highest() {
    let places: Vec<String> = (1..=6).map(|n| format!("cylinder {n}")).collect();
    let m = of("%", &[75.0, 90.0], false, json!({"kind": "balance", "unit": "bar", "places": places}));
    // Handbook rule, from memory: the lowest not under 75 % of the highest.
    for (list, percent, outcome) in [
        (vec!["12", "12", "12", "12"], 100.0, 0),
        (vec!["12", "11", "10.8", "11,5"], 90.0, 0),
        (vec!["12", "9", "11", "12"], 75.0, 1),
        (vec!["12", "8.9", "11", "12"], 100.0 * 8.9 / 12.0, 2),
        (vec!["174|psi", "", "12", "1200|kPa", "", ""], 100.0 * convert(174.0, "psi", "bar").unwrap() / 12.0, 0),
    ] {
        let told = come(&m, &list);
        assert!(close(told.reading, percent) && told.outcome == outcome, "{list:?}: {told:?}");
    }
    assert_eq!(refused(&m, &["12"]), ["/inputs/0"]);
    assert_eq!(refused(&m, &["12", "x", "-3"]), ["/inputs/1", "/inputs/2"]);
    assert_eq!(refused(&m, &["12", "11", "1", "1", "1", "1", "1"]), ["/inputs/6"]);
    assert_eq!(refused(&m, &["12", "11|mm"]), ["/inputs/1"]);
}

#[test]
fn rotary_faces_are_brought_to_250_rpm() {
    let m = of("kPa", &[590.0, 690.0], false, json!({"kind": "rotary_faces", "rotors": 2}));
    assert_eq!(fields(&m).len(), 8);
    let at = |speed: &str| come(&m, &["800", "790", "795", speed, "780", "785", "800", speed]);
    assert!(close(at("250").reading, 780.0));
    // Turned slower, a healthy engine shows less: brought to 250 rpm it counts for more.
    assert!(close(at("230").reading, 780.0 + 20.0 * 1.7) && close(at("270").reading, 780.0 - 20.0 * 1.7));
    assert_eq!(at("250").places.len(), 6);
    assert_eq!(refused(&m, &["800", "790", "795", "90", "780", "785", "800", "250"]), ["/inputs/3"]);
    assert_eq!(refused(&m, &["800", "790", "", "250", "780", "785", "800", "250"]), ["/inputs/2"]);
    // In bar the slope is that of bar.
    let bar = of("bar", &[5.9, 6.9], false, json!({"kind": "rotary_faces", "rotors": 1}));
    assert!(close(come(&bar, &["8", "8", "8", "230"]).reading, 8.0 + 20.0 * 0.017));
}

#[test]
fn oil_use_is_counted_over_the_distance_between_two_readings() {
    let m = of("L/1000 km", &[0.5, 1.0], true, json!({"kind": "use"}));
    // Common practice, no published source: one to two litres in 1000 km is a tired engine.
    assert_eq!(come(&m, &["1.5", "120000", "121000"]).outcome, 2);
    assert!(close(come(&m, &["1,5", "120000", "121000"]).reading, 1.5));
    assert!(close(come(&m, &["1|US qt", "74000|mi", "75000|mi"]).reading, 0.946_352_946 / 1.609_344));
    assert_eq!(refused(&m, &["1", "121000", "120000"]), ["/inputs/2"]);
    assert_eq!(refused(&m, &["1", "121000", "121000"]), ["/inputs/2"]);
    assert_eq!(refused(&m, &["-1", "120000", "121000"]), ["/inputs/0"]);
    assert_eq!(refused(&m, &["1", "120000", ""]), ["/inputs/2"]);
    let hours = of("L/100 h", &[0.3, 0.8], true, json!({"kind": "use"}));
    assert!(close(come(&hours, &["0.5", "3300", "3350"]).reading, 1.0));
}

#[test]
fn tyre_date_codes_are_week_and_year() {
    // 49 CFR 574.5(b)(4): the first two figures are the week, 01 to 53, the last two the year.
    for (code, day) in [
        ("3519", date(2019, 8, 27)),
        ("0120", date(2020, 1, 1)),
        ("A1B2 C3D4 3519", date(2019, 8, 27)),
        ("a1b2c3d4 5320", date(2020, 12, 30)),
        ("119", date(1999, 3, 12)),
    ] {
        let told = made(code).unwrap();
        assert!((told - day).get_days().abs() <= 7, "{code}: {told}");
    }
    for bad in ["", "0019", "5419", "9919", "19", "tyre", "35 I9"] {
        assert!(made(bad).is_err(), "{bad}");
    }
    let m =
        of("years", &[6.0, 10.0], true, json!({"kind": "date_code", "places": ["front left", "rear left", "spare"]}));
    let told = come(&m, &["3519", "0124", ""]);
    assert!((told.reading - 6.76).abs() < 0.02 && told.outcome == 1 && told.places.len() == 2);
    // Made this week is made; made next year is a slip.
    assert_eq!(come(&m, &["2326"]).outcome, 0);
    assert_eq!(refused(&m, &["3526", "0124"]), ["/inputs/0"]);
    assert_eq!(refused(&m, &["", "", ""]), ["/inputs/0"]);
}

#[test]
fn the_other_ways_of_reading() {
    let least = of("mm", &[1.6, 3.0], false, json!({"kind": "least", "places": ["fl", "fr", "rl", "rr"]}));
    // 1.6 mm is legal (Council Directive 89/459/EEC), less is not; 2/32 in is the figure of 49 CFR 570.9.
    assert_eq!((come(&least, &["5", "1.6", "4"]).outcome, come(&least, &["5", "1.59"]).outcome), (1, 2));
    assert!(close(come(&least, &["2|1/32 in"]).reading, 1.5875));
    let most = of("%", &[10.0, 20.0], true, json!({"kind": "most", "places": ["1", "2", "3"]}));
    assert_eq!(come(&most, &["5", "", "20"]).outcome, 2);
    let outside = of("V", &[0.05, 0.5], true, json!({"kind": "outside", "from": 13.5, "to": 14.8}));
    for (volts, off, outcome) in
        [("14.2", 0.0, 0), ("13.5", 0.0, 0), ("13.2", 0.3, 1), ("15.4", 0.6, 2), ("12.1", 1.4, 2)]
    {
        let told = come(&outside, &[volts]);
        assert!(close(told.reading, off) && told.outcome == outcome, "{volts}: {told:?}");
    }
    let sums = of("%", &[10.0, 20.0], true, json!({"kind": "sums", "places": ["bank 1", "bank 2"]}));
    assert!(close(come(&sums, &["-4", "−8.5", "+3", ""]).reading, 12.5));
    assert!(close(come(&sums, &["", "", "3", "4"]).reading, 7.0));
    let single = of("mm", &[0.25, 0.35], true, json!({"kind": "single"}));
    assert_eq!(come(&single, &["12|0.001 in"]).outcome, 1);
    for bad in ["", "wide", "1.2.3", "1e9", "99999999", "--1"] {
        assert_eq!(refused(&single, &[bad]), ["/inputs/0"], "{bad}");
    }
}

proptest! {
    #![proptest_config(crate::common::cases(300))]

    #[test]
    fn the_unit_of_reading_changes_no_outcome(values in proptest::collection::vec(50.0f64..2000.0, 2..8), unit in 0..4usize) {
        let places: Vec<String> = (0..values.len()).map(|n| n.to_string()).collect();
        let m = of("%", &[75.0, 90.0], false, json!({"kind": "balance", "unit": "kPa", "places": places}));
        let unit = units_for("kPa")[unit].clone();
        let list: Vec<TypedReading> = values.iter().map(|v| {
            TypedReading { text: format!("{:.9}", convert(*v, "kPa", &unit).unwrap()), unit: unit.clone() }
        }).collect();
        let told = measure(&m, &list, DAY, &Assumptions::default()).unwrap();
        let (low, high) = (values.iter().copied().fold(f64::MAX, f64::min), values.iter().copied().fold(0.0, f64::max));
        prop_assert!((told.reading - 100.0 * low / high).abs() < 1e-4);
    }

    #[test]
    fn every_week_of_every_year_is_read_and_lies_in_that_year(week in 1i64..=52, year in 2000i16..=2025) {
        let told = made(&format!("{week:02}{:02}", year - 2000)).unwrap();
        prop_assert_eq!(told.year(), year);
        prop_assert_eq!((i64::from(told.day_of_year()) - 1) / 7 + 1, week);
    }

    #[test]
    fn whatever_is_typed_is_read_or_refused_by_its_place(text in "\\PC{0,12}", unit in "\\PC{0,5}") {
        let single = of("mm", &[0.25, 0.35], true, json!({"kind": "single"}));
        let told = measure(&single, &[TypedReading { text, unit }], DAY, &Assumptions::default());
        match told {
            Ok(m) => prop_assert!(m.reading.is_finite()),
            Err(faults) => prop_assert!(faults.iter().all(|f| f.path == "/inputs/0" && !f.message.is_empty())),
        }
    }
}

#[test]
fn a_year_begins_on_any_day_of_the_week() {
    let first = |y: i16| date(y, 1, 1).weekday();
    assert!((2000..2026).any(|y| first(y) == Weekday::Monday) && (2000..2026).any(|y| first(y) == Weekday::Sunday));
    assert_eq!(made("0123").unwrap(), date(2023, 1, 1));
}

fn judged(c: &Value, sheets: &[Family]) -> ticksage_core::Assessment {
    assess(&cand(c), sheets, &Assumptions::default()).unwrap()
}

fn alone(base_id: &str, unit: &str, usage: f64) -> Candidate {
    let version = base_sheets::sheets().unwrap().iter().find(|f| f.id == base_id).unwrap().version;
    let c = with(candidate(), "/families", json!([{"id": base_id, "version": version}]));
    let c = with(c, "/usage", json!({"value": usage, "unit": unit}));
    cand(&with(c, "/plan/usage_a_year", json!({"value": usage / 8.0, "unit": unit})))
}

#[test]
fn the_base_sheets_make_sense_and_serve_alone() {
    let sheets = base_sheets::sheets().unwrap();
    assert_eq!(sheets.len(), 4);
    for (id, unit, usage) in [
        ("base-vehicle", "km", 96_000.0),
        ("base-motorcycle", "mi", 24_000.0),
        ("base-engine", "h", 2400.0),
        ("base-engine-km", "km", 140_000.0),
    ] {
        let c = alone(id, unit, usage);
        assert_eq!(candidate::candidate_faults(&c, &sheets), []);
        let a = assess(&c, &sheets, &Assumptions::default()).unwrap();
        assert!(a.bill.mean > 0.0 && a.checks_total >= 20, "{id}");
        assert!(a.walk.actions.windows(2).all(|w| w[0].phase <= w[1].phase));
        // What can injure is named wherever somebody gets under it, drives it or runs it.
        let sheet = sheets.iter().find(|f| f.id == id).unwrap();
        for c in &sheet.checks {
            use ticksage_core::documents::check::Phase::ColdStart;
            use ticksage_core::documents::check::Phase::Drive;
            use ticksage_core::documents::check::Phase::Underneath;
            let risky = matches!(c.phase, Underneath | Drive | ColdStart);
            assert!(!risky || (!c.hazards.is_empty() && c.caution.is_some()), "{id} {}", c.id);
            assert!(c.hazards.is_empty() || c.caution.is_some(), "{id} {}", c.id);
        }
    }
    // Everything that every used vehicle needs: body, lamps, tyres, brakes, fluids, electrics, drive.
    let vehicle = &sheets[0];
    for id in ["panels", "rust", "lamps-outside", "tread", "tyre-age", "brake-look", "brake-fluid", "works", "gears"] {
        assert!(vehicle.check(id).is_some(), "{id}");
    }
}

#[test]
fn its_money_is_hours_of_an_independent_workshop() {
    let sheets = base_sheets::sheets().unwrap();
    let c = alone("base-vehicle", "km", 96_000.0);
    let at = |rate: f64| {
        let a = Assumptions { rate_independent: rate, ..Assumptions::default() };
        assess(&c, &sheets, &a).unwrap().points.iter().find(|p| p.at.point == "tyres").unwrap().cost.mean
    };
    assert!((at(120.0) / at(60.0) - 2.0).abs() < 1e-3);
    // Parts 4, 6, 10 hours and labour 0.8, 1.2, 2 hours, by the mean of Beta-PERT.
    let hours = (4.0 + 24.0 + 10.0) / 6.0 + (0.8 + 4.8 + 2.0) / 6.0;
    assert!((at(60.0) - 60.0 * hours).abs() < 0.05);
}

#[test]
fn a_base_sheet_makes_way_for_what_a_family_knows() {
    let sheets = base_sheets::sheets().unwrap();
    let both = json!([{"id": "test", "version": 1}, {"id": "base-vehicle", "version": 1}]);
    let c = with(candidate(), "/families", both);
    let own = with(sheet(), "/points/0/part", json!("tyres"));
    let own = with(own, "/checks/0/action", json!("tread"));
    let names = |f: &Value| {
        let all: Vec<Family> = sheets.iter().cloned().chain([family(f)]).collect();
        let a = judged(&c, &all);
        let points: Vec<String> = a.points.iter().map(|p| format!("{}/{}", p.at.family, p.at.point)).collect();
        let checks: Vec<String> =
            a.walk.actions.iter().flat_map(|x| &x.checks).map(|x| format!("{}/{}", x.family, x.check)).collect();
        (points, checks)
    };
    let (points, checks) = names(&sheet());
    assert!(points.contains(&"base-vehicle/tyres".to_owned()) && checks.contains(&"base-vehicle/tread".to_owned()));
    let (points, checks) = names(&own);
    assert!(!points.contains(&"base-vehicle/tyres".to_owned()) && points.contains(&"test/belt".to_owned()));
    assert!(!checks.contains(&"base-vehicle/tread".to_owned()) && checks.contains(&"base-vehicle/tyre-age".to_owned()));
    // What does not concern this one makes no room.
    let elsewhere = with(own, "/points/0/applies", json!({"built": {"from": "2024-01-01"}}));
    let elsewhere = with(elsewhere, "/checks/0/applies", json!({"built": {"from": "2024-01-01"}}));
    let (points, checks) = names(&elsewhere);
    assert!(points.contains(&"base-vehicle/tyres".to_owned()) && checks.contains(&"base-vehicle/tread".to_owned()));
}

fn found(check: &str, result: Value) -> Value {
    json!({"family": "base-vehicle", "check": check, "result": result})
}

#[test]
fn a_dangerous_finding_is_a_gate_and_leaves_the_drive_out() {
    let sheets = base_sheets::sheets().unwrap();
    let with_findings = |list: Value| {
        let c = with(candidate(), "/families", json!([{"id": "base-vehicle", "version": 1}]));
        judged(&with(c, "/findings", list), &sheets)
    };
    let calm = with_findings(json!([found("brake-fluid", json!({"kind": "outcome", "outcome": 0}))]));
    assert!(!calm.walk.dangerous && calm.walk.actions.iter().all(|a| a.left_out != Some(LeftOut::Dangerous)));
    let bad = with_findings(json!([found("brake-fluid", json!({"kind": "outcome", "outcome": 2}))]));
    assert!(bad.walk.dangerous);
    let blocker = bad.blockers.iter().find(|g| matches!(&g.cause, BlockerCause::Check { danger: true, .. })).unwrap();
    assert_eq!(blocker.kind, BlockerKind::ProveFirst);
    assert_eq!(bad.verdict.kind, VerdictKind::NotYet);
    use ticksage_core::documents::check::Phase::Drive;
    use ticksage_core::documents::check::Phase::Hot;
    for a in bad.walk.actions.iter().filter(|a| matches!(a.phase, Drive | Hot)) {
        assert_eq!(a.left_out, Some(LeftOut::Dangerous), "{}", a.key);
    }
    // A measured one counts as well: pads at 1.5 mm.
    let pads = json!({"family": "base-vehicle", "check": "pads", "result": {"kind": "measured"}, "reading": 1.5});
    assert!(with_findings(json!([pads])).walk.dangerous);
}

#[test]
fn a_caution_is_read_once_and_says_nothing_of_the_check() {
    let sheets = base_sheets::sheets().unwrap();
    let c = with(candidate(), "/families", json!([{"id": "base-vehicle", "version": 1}]));
    let before = judged(&c, &sheets);
    assert_eq!(before.walk.acknowledged, []);
    let read = json!([
        found("underneath", json!({"kind": "outcome", "outcome": 1})),
        found("underneath", json!({"kind": "acknowledged"}))
    ]);
    let after = judged(&with(c.clone(), "/findings", read), &sheets);
    assert_eq!(after.walk.acknowledged, [Hazard::Raised, Hazard::Burns]);
    // It hides no finding that came before it.
    assert_eq!(after.checks_done, 1);
    let alone = json!([found("underneath", json!({"kind": "acknowledged"}))]);
    let alone = judged(&with(c, "/findings", alone), &sheets);
    assert!(alone.checks_done == 0 && (alone.bill.mean - before.bill.mean).abs() < 1e-12);
}

#[test]
fn what_is_to_be_asked_stands_among_the_questions() {
    let sheets = base_sheets::sheets().unwrap();
    let c = with(candidate(), "/families", json!([{"id": "base-vehicle", "version": 1}]));
    let asked = json!([found("tyre-age", json!({"kind": "ask_seller"}))]);
    let with_it = cand(&with(c.clone(), "/findings", asked));
    let names = |c: &Candidate| {
        let list = questions(c, &sheets, &Assumptions::default(), &Budget::default()).unwrap();
        list.into_iter()
            .filter_map(|q| if let Ask::Check { name, .. } = q.ask { Some(name) } else { None })
            .collect::<Vec<_>>()
    };
    assert!(names(&with_it).contains(&"Tyre age by date code".to_owned()));
    assert!(!names(&cand(&c)).contains(&"Tyre age by date code".to_owned()));
    let a = assess(&with_it, &sheets, &Assumptions::default()).unwrap();
    let action = a.walk.actions.iter().find(|x| x.key == "base-vehicle/tyre-age").unwrap();
    assert!(action.ask_seller && !action.done);
}

#[test]
fn readings_that_make_no_sense_are_refused_with_their_path() {
    let sheets = base_sheets::sheets().unwrap();
    let c = with(candidate(), "/families", json!([{"id": "base-vehicle", "version": 1}]));
    let paths = |inputs: Value| {
        let f = json!({"family": "base-vehicle", "check": "tread", "result": {"kind": "measured"}, "inputs": inputs});
        candidate::candidate_faults(&cand(&with(c.clone(), "/findings", json!([f]))), &sheets)
            .into_iter()
            .map(|f| f.path)
            .collect::<Vec<_>>()
    };
    assert_eq!(paths(json!([{"text": "5"}, {"text": "deep"}])), ["/findings/0/inputs/1"]);
    assert_eq!(paths(json!([{"text": "5"}, {"text": "6", "unit": "psi"}])), ["/findings/0/inputs/1"]);
    assert_eq!(paths(json!([])), ["/findings/0/reading"]);
    assert_eq!(paths(json!([{"text": "5"}])), [""; 0]);
}

#[test]
fn what_is_not_known_is_to_be_found_out_and_a_family_may_settle_it() {
    let sheets = base_sheets::sheets().unwrap();
    let both = json!([{"id": "test", "version": 1}, {"id": "base-vehicle", "version": 1}]);
    let mut own = with(sheet(), "/settles", json!({"power": "diesel", "unknown": "x"}));
    own["facts"] = json!([{"id": "box", "label": "Gearbox", "values": [{"id": "hand", "label": "Hand"}, {"id": "self", "label": "Self"}]}]);
    own["points"][0]["applies"] = json!({"facts": {"box": ["hand"]}});
    let all: Vec<Family> = sheets.iter().cloned().chain([family(&own)]).collect();
    let mut c = cand(&with(candidate(), "/families", both));
    let asked = |c: &Candidate| {
        let a = assess(c, &all, &Assumptions::default()).unwrap();
        a.walk.identify.into_iter().map(|x| (x.fact, x.points.len(), x.checks.is_empty())).collect::<Vec<_>>()
    };
    assert_eq!(asked(&c), [("power".to_owned(), 2, false), ("box".to_owned(), 1, true)]);
    c.settle(&all);
    assert_eq!(c.facts.get("power").map(String::as_str), Some("diesel"));
    assert_eq!((c.facts.len(), asked(&c)), (1, vec![("box".to_owned(), 1, true)]));
    // What the person states stays.
    c.facts.insert("power".to_owned(), "petrol".to_owned());
    c.settle(&all);
    assert_eq!(c.facts["power"], "petrol");
    // Petrol or diesel, nobody looks for orange cables or the faces of a rotary engine.
    let a = assess(&c, &all, &Assumptions::default()).unwrap();
    let has = |id: &str| a.walk.actions.iter().any(|x| x.key == format!("base-vehicle/{id}"));
    assert!(has("compression") && !has("orange-cables") && !has("compression-rotary"));
    // A workshop's measuring is left out until it is worth its fee, or wanted.
    let left = |a: &ticksage_core::Assessment| {
        a.walk.actions.iter().find(|x| x.key == "base-vehicle/compression").unwrap().left_out
    };
    assert_eq!(left(&a), Some(LeftOut::NotItsFee));
    c.walk.added = vec!["base-vehicle/compression".to_owned()];
    assert_eq!(left(&assess(&c, &all, &Assumptions::default()).unwrap()), None);
}
