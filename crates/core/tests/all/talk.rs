//! Talk lines: what is read, what is written into a sheet, and how often the reading is right.
//!
//! The lines are invented from common practice (no published source). Two thirds served while the grammar was written
//! (A); a third was kept apart for the last run (B); C came later, said in other ways.

use std::collections::BTreeMap;

use crate::common::sense::lean;
use crate::common::{asked, cand};
use serde_json::{Value, json};
use ticksage_core::base::units::{Money, UsageClock};
use ticksage_core::documents::claim::{LifeClock, LifeForm, ShareForm, ShareWord};
use ticksage_core::documents::family::Fact;
use ticksage_core::documents::words::{Price, Telling};
use ticksage_core::formats::documents::read_family;
use ticksage_core::formats::pattern_library::library;
use ticksage_core::formats::talk_tables::vocabulary;
use ticksage_core::talk::apply::{TalkFrom, TalkMode};
use ticksage_core::talk::line::{LineReading, TalkQuestion, read_line};
use ticksage_core::talk::page::{AcceptedLine, Written, read_page, write_lines};
use ticksage_core::talk::said::{LifeSaid, Said, Voice};
use ticksage_core::validation::family::family_faults;
use ticksage_core::{Assumptions, Family};

const CAR: Voice = Voice { hours: false, miles: false };

/// What a line was read as, by kind, in one notation with the file.
fn read_as(r: &LineReading) -> BTreeMap<&'static str, Vec<String>> {
    let mut out: BTreeMap<&'static str, Vec<String>> = BTreeMap::new();
    let none = Said::default();
    let said = r.said.as_ref().unwrap_or(&none);
    let mut add = |kind, text: String| out.entry(kind).or_default().push(text);
    // The work of an interval is its part.
    if let Some(part) = said.part.as_ref().filter(|_| said.interval.is_none()) {
        add("part", part.clone());
    }
    said.life.iter().for_each(|l| add("claim", life(l)));
    match said.share {
        Some(ShareForm::OneIn { n }) => add("share", format!("{:.3}", 1.0 / n)),
        Some(ShareForm::Share { share }) => add("share", format!("{:.3}", share.get())),
        Some(ShareForm::Word { word }) => add("share", format!("{word:?}").to_lowercase()),
        None => {}
    }
    match said.price {
        Some(Price::About(m)) => add("price", money(&[m])),
        Some(Price::Between([l, h])) => add("price", money(&[l, h])),
        None => {}
    }
    if let Some(i) = &said.interval {
        add("interval", format!("{} {:?} {:?}", i.work, i.usage.map(f64::round), i.years));
    }
    out
}

fn money(m: &[Money]) -> String {
    m.iter().map(|m| format!("{:.0}", m.get())).collect::<Vec<_>>().join("-")
}

fn life(l: &LifeSaid) -> String {
    let y = if l.clock == LifeClock::Age { "y" } else { "" };
    let f = |x: f64| if l.clock == LifeClock::Age { x } else { (x / 1000.0).round() * 1000.0 };
    match l.says {
        LifeForm::Between { from, to } => format!("between{y} {} {}", f(from), f(to)),
        LifeForm::FromAbout { at } => format!("from{y} {}", f(at)),
        LifeForm::About { at } => format!("about{y} {}", f(at)),
        LifeForm::RarelyBeyond { at } => format!("rarely{y} {}", f(at)),
        LifeForm::AtLeast { at } => format!("least{y} {}", f(at)),
        _ => String::new(),
    }
}

/// What a line means.
fn meant(line: &Value) -> BTreeMap<&'static str, Vec<String>> {
    let mut out: BTreeMap<&'static str, Vec<String>> = BTreeMap::new();
    let mut add = |kind, text: String| out.entry(kind).or_default().push(text);
    if let Some(part) = line["part"].as_str() {
        add("part", part.to_owned());
    }
    for l in line["life"].as_array().unwrap() {
        let form = l[0].as_str().unwrap();
        let round = |x: f64| if form.ends_with('y') { x } else { (x / 1000.0).round() * 1000.0 };
        let figures: Vec<String> =
            l.as_array().unwrap()[1..].iter().map(|x| round(x.as_f64().unwrap()).to_string()).collect();
        add("claim", format!("{form} {}", figures.join(" ")));
    }
    match &line["share"] {
        Value::String(word) => add("share", word.clone()),
        Value::Number(n) => add("share", format!("{:.3}", n.as_f64().unwrap())),
        _ => {}
    }
    if let Some(p) = line["price"].as_array() {
        add("price", p.iter().map(|x| format!("{:.0}", x.as_f64().unwrap())).collect::<Vec<_>>().join("-"));
    }
    if let Some(e) = line["every"].as_array() {
        add("interval", format!("{} {:?} {:?}", e[0].as_str().unwrap(), e[1].as_f64(), e[2].as_f64()));
    }
    out
}

/// Right, read and meant, by kind.
type Counts = BTreeMap<&'static str, [usize; 3]>;

fn measure(set: &str, show: bool) -> (Counts, usize, usize) {
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/fixtures/talk.json");
    let lines: Value = serde_json::from_str(&std::fs::read_to_string(file).unwrap()).unwrap();
    let words = vocabulary(None);
    let (mut counts, mut placed_prose, mut prose) = (Counts::new(), 0, 0);
    for line in lines["lines"].as_array().unwrap().iter().filter(|l| l["set"] == set) {
        let text = line["line"].as_str().unwrap();
        let r = read_line(text, None, CAR, &words);
        if line["note"] == true {
            prose += 1;
            if r.said.is_some() {
                placed_prose += 1;
                println!("PROSE {text}: {:?}", r.chips.iter().map(|c| (c.kind, &c.says)).collect::<Vec<_>>());
            }
            continue;
        }
        let (got, want) = (read_as(&r), meant(line));
        for kind in ["part", "claim", "share", "price", "interval"] {
            let empty = Vec::new();
            let (g, w) = (got.get(kind).unwrap_or(&empty), want.get(kind).unwrap_or(&empty));
            let right = g.iter().filter(|x| w.contains(x)).count();
            let c = counts.entry(kind).or_default();
            *c = [c[0] + right, c[1] + g.len(), c[2] + w.len()];
            if show && (right < g.len() || right < w.len()) {
                println!("{kind}: {text}\n      read {g:?} meant {w:?} {:?}", r.question);
            }
        }
    }
    (counts, placed_prose, prose)
}

#[test]
fn part_claim_share_price_and_interval_are_read_as_they_are_meant() {
    let mut rows = Vec::new();
    for set in ["A", "B", "C"] {
        let (counts, placed, prose) = measure(set, std::env::var_os("TICKSAGE_SHOW").is_some());
        for (kind, [right, read, meant]) in &counts {
            #[allow(clippy::cast_precision_loss)]
            let (precision, recall) = (*right as f64 / *read as f64, *right as f64 / *meant as f64);
            rows.push(format!("| {set} | {kind} | {meant} | {precision:.3} | {recall:.3} |"));
            println!("{set} {kind}: precision {precision:.3} recall {recall:.3} of {meant}");
            assert!(precision >= 0.97, "{set} {kind}: precision {precision}");
            assert!(recall >= 0.85, "{set} {kind}: recall {recall}");
        }
        assert_eq!(placed, 0, "{set}: of {prose} lines of prose");
        assert!(prose >= 10);
    }
}

/// A sheet from how a thing is built.
#[test]
fn a_word_that_several_parts_share_means_the_one_that_is_usual() {
    let part =
        |text: &str, family: Option<&Family>| read_line(text, None, CAR, &vocabulary(family)).said.and_then(|s| s.part);
    let chained = Family { points: car().points.into_iter().filter(|p| !p.name.contains("belt")).collect(), ..car() };
    assert_eq!(part("belt at 120k", None).as_deref(), Some("timing-belt"));
    assert_ne!(part("belt at 120k", Some(&chained)).as_deref(), Some("final-drive"));
    assert_eq!(part("the head fails at 200k", None).as_deref(), Some("head-gasket"));
    // A van is no vane.
    assert_ne!(part("the van fails at 200k", None).as_deref(), Some("vanes"));
}

fn car() -> Family {
    let sheet = json!({
        "format": "ticksage-family/2", "id": "own", "version": 1, "name": "As built", "kind": "body", "clock": "km",
        "currency": "HSC", "built_as": {"answers": {"thing": "car", "power": "petrol", "timing": "chain", "gearbox": "manual"}},
    });
    read_family(&sheet.to_string()).unwrap()
}

fn told(family: &mut Family, lines: &[&str], mode: TalkMode) -> Written {
    let all: Vec<AcceptedLine> =
        lines.iter().map(|t| AcceptedLine { text: (*t).to_owned(), place: None, mode }).collect();
    let words = vocabulary(Some(family));
    write_lines(family, &all, &TalkFrom::default(), CAR, &words, &Assumptions::default())
}

#[test]
fn a_line_makes_a_point_the_sheets_own_and_the_same_line_again_changes_nothing() {
    let mut f = car();
    let line = "timing chain: rarely past 90k km; most; rattle cold !clear; 1200-1800; from 2015 rare; by workshop";
    assert_eq!(told(&mut f, &[line], TalkMode::Add).changed, 1);
    assert!(family_faults(&f).is_empty(), "{:#?}", family_faults(&f));
    let p = f
        .points
        .iter()
        .find(|p| p.part.as_deref() == Some("timing-chain") && f.from_pattern("points", &p.id).is_none());
    let p = p.unwrap();
    assert_eq!(p.life.len(), 1);
    assert_eq!(p.life[0].says, LifeForm::RarelyBeyond { at: 90_000.0 });
    assert_eq!(p.life[0].source, "workshops");
    assert_eq!(p.life[0].stands.as_ref().unwrap().line.as_deref(), Some(line));
    assert!(p.ends_engine, "what the line does not say stays as the pattern has it");
    assert_eq!(p.revision.as_ref().unwrap().from, Some(jiff::civil::Date::constant(2015, 1, 1)));
    assert_eq!(
        f.job(&p.job).unwrap().price,
        Some(Price::Between([Money::try_from(1200.0).unwrap(), Money::try_from(1800.0).unwrap()]))
    );
    assert!(f.checks.iter().any(|c| c.links.iter().any(|l| l.point == p.id && l.signs[0].says == Telling::Clear)));
    let (id, before) = (p.id.clone(), f.clone());
    let again = told(&mut f, &[line], TalkMode::Add);
    assert_eq!((again.changed, again.known), (0, 1));
    assert!(f == before);
    // One more source is one more claim; a correction takes the place of the same source's.
    told(&mut f, &["timing chain from 150k, by owners"], TalkMode::Add);
    assert_eq!(f.point(&id).unwrap().life.len(), 2);
    told(&mut f, &["timing chain rarely past 110k, by workshops"], TalkMode::Correct);
    let lives: Vec<&LifeForm> = f.point(&id).unwrap().life.iter().map(|c| &c.says).collect();
    assert_eq!(lives, [&LifeForm::FromAbout { at: 150_000.0 }, &LifeForm::RarelyBeyond { at: 110_000.0 }]);
}

#[test]
fn a_line_that_makes_no_point_yet_is_kept_and_leaves_no_trace() {
    let mut f = car();
    let before = f.clone();
    let w = told(&mut f, &["gull-wing latch: common, by owners"], TalkMode::Add);
    assert_eq!((w.changed, w.known, w.notes.len()), (0, 0, 1));
    assert!(f == before, "not even its source");
}

#[test]
fn variants_of_the_sheet_are_conditions() {
    let mut f = car();
    f.facts.extend(
        serde_json::from_value::<Vec<Fact>>(json!([{"id": "engine", "label": "Which engine?", "values":
        [{"id": "2-0", "label": "2.0"}, {"id": "2-4", "label": "2.4, long stroke"}]}]))
        .unwrap(),
    );
    let words = vocabulary(Some(&f));
    let read = |t: &str| read_line(t, None, CAR, &words).said.unwrap();
    let said = read("coolant pump on the 2.4 only: common from 90k km, 380");
    assert_eq!(said.applies.facts["engine"], ["2-4"]);
    assert_eq!(said.life.len(), 1);
    let said = read("radiator from 9 years, not the 2.0");
    assert_eq!(said.applies.except[0].facts["engine"], ["2-0"]);
    assert_eq!(said.life[0].says, LifeForm::FromAbout { at: 9.0 });
    told(&mut f, &["coolant pump on the 2.4 only: common from 90k km, 380"], TalkMode::Add);
    assert!(family_faults(&f).is_empty(), "{:#?}", family_faults(&f));
}

#[test]
fn twenty_lines_make_a_family_that_makes_sense_and_can_be_judged() {
    let mut f = car();
    let lines = [
        "coolant pump: common, between 90k and 140k km, leaks, 380",
        "belt and hoses: from 9 years",
        "ignition coils past 150, 90",
        "clutch good for 200k, 850 to 1100",
        "first try fresh oil, 60: in half that is all",
        "synchro crunches from 180k, occasional",
        "rear main seal weeps from 160k; takes the clutch along; 7 h of work",
        "engine oil every 10 000 km or 1 year",
        "spark plugs every 60k km",
        "never switch off hot",
        "avoid the first year",
        "prefer the later build",
        "only buy with proof of a new timing chain",
        "radiator leaks after 10 years; sometimes takes the head gasket along",
        "with it do the thermostat and the hoses",
        "oxygen sensors from 160k, a quarter, 140",
        "boot struts: nearly all, about 8 years, 60",
        "coil springs break, one in six, from 9 years",
        "sills rust from 14 years until 2012, common",
        "thermostat: recall until 2014",
    ];
    let w = told(&mut f, &lines, TalkMode::Add);
    assert!(w.notes.is_empty(), "{:?}", w.notes);
    assert!(family_faults(&f).is_empty(), "{:#?}", family_faults(&f));
    assert!(f.advice.len() == 3 && f.care_rules.iter().any(|r| r.says == "never switch off hot"));
    assert_eq!(f.intervals.iter().find(|i| i.id == "oil").unwrap().usage, Some(10_000.0));
    let pump = f
        .points
        .iter()
        .find(|p| p.part.as_deref() == Some("coolant-pump") && f.from_pattern("points", &p.id).is_none());
    assert_eq!(pump.unwrap().share[0].says, ShareForm::Word { word: ShareWord::Common });
    let seal = f.points.iter().find(|p| p.part.as_deref() == Some("crank-seals")).unwrap();
    assert!(seal.takes_along.iter().any(|t| t.point.as_deref() == Some("clutch")));
    assert!(f.points.iter().any(|p| p.name == "Boot struts"));
    let c = cand(&asked(json!({
        "format": "ticksage-candidate/2", "title": "Own", "families": [{"id": "own", "version": 1}],
        "as_of": "2026-07-15", "built": "2016-03-01", "usage": {"value": 140_000, "unit": "km"},
        "asking": 5200, "currency": "HSC", "plan": {"years": 3, "usage_a_year": {"value": 14_000, "unit": "km"}}
    })));
    let before = lean(&c, &[car()]);
    let after = lean(&c, &[f]);
    assert!(after.bill.mean > 0.5 * before.bill.mean && after.bill.mean < 2.0 * before.bill.mean);
}

#[test]
fn points_put_into_lines_and_read_again_are_the_same() {
    // Every part that a pattern of cars knows, said in its own words and read back.
    let words = vocabulary(None);
    let (mut tried, mut same) = (0, 0);
    for p in library()
        .patterns
        .iter()
        .filter(|p| p.applies.facts.get("thing").is_none_or(|t| t[0] == "car") && p.clock == UsageClock::Km)
    {
        for point in &p.points {
            let (Some(part), LifeForm::Between { from, to }) = (&point.part, &point.life[0].says) else { continue };
            let years = point.life[0].clock == LifeClock::Age;
            let line = if years {
                format!("{}: one in 5, between {from} and {to} years, 250", point.name)
            } else {
                format!("{}: one in 5, between {from} and {to} km, 250", point.name)
            };
            let said = read_line(&line, None, CAR, &words).said;
            tried += 1;
            let good = said.as_ref().is_some_and(|s| {
                s.part.as_ref() == Some(part)
                    && s.life.len() == 1
                    && s.life[0].says == LifeForm::Between { from: *from, to: *to }
                    && s.share == Some(ShareForm::OneIn { n: 5.0 })
                    && s.price.is_some()
            });
            same += usize::from(good);
            if !good {
                println!("{line}: {said:?}");
            }
        }
    }
    assert!(tried > 60 && same * 100 >= tried * 90, "{same} of {tried}");
}

#[test]
fn a_page_keeps_where_each_stands_and_loses_nothing() {
    let page = "Welcome back, today we look at a fine old engine.\n12:34 timing chain rattles cold, rarely past 90k km, most of them\n\
        13:10 first try the tensioner, 120: in four of ten that is all\n- coils past 150, 80 each. Like and subscribe!\n\
        The flux widget: often from 60k km";
    let r = read_page(page, CAR, &vocabulary(None));
    assert_eq!(r.lines.len(), 6, "{:#?}", r.lines.iter().map(|l| &l.text).collect::<Vec<_>>());
    assert_eq!(r.lines[1].place.as_deref(), Some("12:34"));
    let first_try = r.lines[2].said.as_ref().unwrap();
    assert_eq!(first_try.part.as_deref(), Some("timing-chain"), "what is tried first belongs to the line before");
    assert_eq!(first_try.routes[0].suffices, Some(0.4));
    assert_eq!((r.placed, r.notes), (4, 2));
    // Nobody knows the widget: it is placed as it is named, and its price is asked.
    let widget = r.lines.last().unwrap();
    assert_eq!(widget.said.as_ref().unwrap().name.as_deref(), Some("flux widget"));
    assert_eq!(widget.question, Some(TalkQuestion::WhatCost));
    // Chips lie within their line, in order, and do not overlap.
    for l in &r.lines {
        let n = l.text.chars().count();
        assert!(l.chips.iter().all(|c| c.from < c.to && c.to <= n), "{}", l.text);
        assert!(l.chips.windows(2).all(|w| w[0].to <= w[1].from), "{}: {:?}", l.text, l.chips);
    }
}

#[test]
fn nothing_makes_it_fall_over_and_what_makes_no_sense_is_asked_or_kept() {
    let words = vocabulary(None);
    for text in [
        "<script>alert(1)</script> turbo common from 100k",
        "turbo from 10000000 km",
        "turbo: 400 %",
        "🔧🔧 turbo 🔧",
        "turbo from -5 years",
        "",
        ";;;;",
        "every every every",
        "from from 2015 until until",
        "one in in eight of",
        "\u{202e}turbo from 90k",
        "ﬁlter 9999999999999999999999 km",
    ] {
        let r = read_line(text, None, CAR, &words);
        assert_eq!(r.text, text);
        if let Some(s) = &r.said {
            assert!(s.life.iter().all(|l| !life(l).contains("inf")), "{text}");
        }
    }
    let holds = read_line("starter from 200k, rarely past 100k", None, CAR, &words);
    assert!(holds.said.is_none() && holds.question == Some(TalkQuestion::WhichHolds));
    // A boat engine counts hours; kilometres cannot be.
    let boat = Voice { hours: true, miles: false };
    assert!(
        read_line("impeller every 300 h", None, boat, &words)
            .said
            .is_none_or(|s| s.interval.is_none_or(|i| i.usage == Some(300.0)))
    );
    assert!(read_line("turbo from 100k km", None, boat, &words).said.is_none());
    let long = "turbo ".repeat(200_000);
    assert_eq!(read_page(&long, CAR, &words).notes, 1);
}

/// A line, whose it is, and what it means, by kind.
type Meant<'a> = (&'a str, Voice, &'a [(&'a str, &'a str)]);

/// Lines that were misread when they were typed for the first time, with what they mean.
#[test]
fn figures_that_are_no_lives_and_lives_that_are_no_prices() {
    let hours = Voice { hours: true, miles: false };
    let vocabulary = vocabulary(None);
    let cases: [Meant<'_>; 21] = [
        ("rear damper 120k km, 110 each", CAR, &[("claim", "about 120000"), ("price", "110")]),
        ("injectors 4x280 from 150k km", CAR, &[("claim", "from 150000"), ("price", "1120")]),
        ("turbo: fine to 200k", CAR, &[("claim", "least 200000")]),
        ("not one chain has gone under 150k", CAR, &[("claim", "least 150000")]),
        (
            "about 1 in 30 turbos fail between 90k and 140k, 1500",
            CAR,
            &[("share", "0.033"), ("claim", "between 90000 140000"), ("price", "1500")],
        ),
        ("timing chain: shows as code p0016 from 110k", CAR, &[("claim", "from 110000"), ("price", "")]),
        ("auto box judders from 2nd to 3rd at about 110k", CAR, &[("claim", "about 110000")]),
        ("gearbox: 4th gear jumps out by the 8th year, 1100", CAR, &[("claim", "rarelyy 8"), ("price", "1100")]),
        ("water pump leaks, sold from the 1st March 2018", CAR, &[("claim", "")]),
        ("cv joints click on full lock, 120k on, 140 a side", CAR, &[("claim", "from 120000"), ("price", "140")]),
        ("rear calipers stick on, every third winter, 90", CAR, &[("share", ""), ("claim", "abouty 3")]),
        ("engine oil every second year", CAR, &[("interval", "oil None Some(2.0)"), ("share", "")]),
        (
            "piston rings: uses a litre every 1000 km from 150k, 3500",
            CAR,
            &[("claim", "from 150000"), ("interval", "")],
        ),
        ("piston rings: 1 litre every 1000 km from 150k, 3500", CAR, &[("claim", "from 150000"), ("interval", "")]),
        (
            "crank bearings knock from 120k unless the oil is changed every 10k",
            CAR,
            &[("part", "rod-bearings"), ("claim", "from 120000"), ("interval", "")],
        ),
        ("parking sensor 40", CAR, &[("part", "")]),
        ("rocker cover gasket sweats from 100k, 110", CAR, &[("claim", "from 100000"), ("price", "110")]),
        ("turbo wants rebuilding at 2500-3500, 900", hours, &[("claim", "between 3000 4000"), ("price", "900")]),
        ("turbo at 900", hours, &[("price", "900")]),
        ("oil and filter every 150 hours or once a year, 90", hours, &[("interval", "oil Some(150.0) Some(1.0)")]),
        ("dpf blocks if it only does town work, 900", CAR, &[("part", "dpf"), ("price", "900")]),
    ];
    let mut wrong = Vec::new();
    for (line, voice, wanted) in cases {
        let as_read = read_as(&read_line(line, None, voice, &vocabulary));
        for (kind, means) in wanted {
            let found = as_read.get(kind).map(|v| v.join(" and ")).unwrap_or_default();
            if found != *means {
                wrong.push(format!("{line}: {kind} {found:?}, not {means:?}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
    let signs = |line: &str| -> Vec<String> {
        let said = read_line(line, None, CAR, &vocabulary).said.unwrap();
        said.signs.into_iter().map(|s| s.label).collect()
    };
    assert_eq!(signs("cv joints click on full lock, 140 a side, 1 in 4"), ["knock"]);
    assert_eq!(signs("starter just clicks, 8 years, 160"), ["hard start"]);
    assert_eq!(signs("rocker cover gasket sweats from 100k"), ["leak"]);
    let kept = read_line("crank bearings knock from 120k unless the oil is changed every 10k", None, CAR, &vocabulary);
    assert!(kept.said.unwrap().upkeep);
    let town = read_line("dpf blocks if it only does town work, 900", None, CAR, &vocabulary).said.unwrap();
    assert_eq!(town.exposures.len(), 1, "{town:?}");
    let since = read_line("2015 on: timing chain stretches, 1 in 50", None, CAR, &vocabulary).said.unwrap();
    assert_eq!(since.applies.built.unwrap().from.unwrap().year(), 2015);
}

/// A longer name is not the part that one of its words is.
#[test]
fn a_part_of_a_longer_name_is_another_part() {
    let vocabulary = vocabulary(None);
    for (name, part) in [
        ("windscreen washer pump", "windscreen-washer-pump"),
        ("inlet manifold", "inlet-manifold"),
        ("ignition switch", "ignition-switch"),
        ("seat belt", "seat-belt"),
        ("fuel filter housing", "fuel-filter-housing"),
        ("boost hose", "boost-hoses"),
        ("exhaust fluid pump", "urea-heater"),
        ("lambda probe", "oxygen-sensors"),
        ("clutch master cylinder", "clutch-hydraulics"),
        ("heater", "heater-core"),
        ("manifold", "exhaust-manifold"),
        ("rear sills", "structure"),
    ] {
        let line = format!("{name} fails from 100k km, 200");
        let said = read_line(&line, None, CAR, &vocabulary).said.unwrap_or_else(|| panic!("{line}"));
        assert_eq!(said.part.as_deref(), Some(part), "{line}");
    }
}
