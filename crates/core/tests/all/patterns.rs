//! The pattern library: every file in order, every construction a sheet that makes sense, and figures that an inspector
//! would not laugh at.
//!
//! Check values: common practice, no published source, from memory.

use std::collections::{BTreeMap, BTreeSet};

use crate::common::sense::{lean, table};
use crate::common::{asked, cand};
use serde_json::json;
use ticksage_core::documents::buyer::Labour;
use ticksage_core::documents::pattern::{Pattern, Questions};
use ticksage_core::formats::documents::read_family;
use ticksage_core::formats::documents::read_shape;
use ticksage_core::formats::pattern_library::{PATTERNS, QUESTIONS, library};
use ticksage_core::patterns::library::Library;
use ticksage_core::validation::family::family_faults;
use ticksage_core::validation::telling::family_notices;
use ticksage_core::{Candidate, Family};

/// A sheet from how a thing is built.
fn built(answers: &[(&str, &str)], clock: &str) -> Family {
    let answers: BTreeMap<&str, &str> = answers.iter().copied().collect();
    let kind = match answers["thing"] {
        "motorcycle" => "motorcycle",
        "engine" => "engine",
        _ => "body",
    };
    let sheet = json!({
        "format": "ticksage-family/2", "id": "own", "version": 1, "name": "As built", "kind": kind, "clock": clock,
        "currency": "HSC", "built_as": {"answers": answers},
    });
    read_family(&sheet.to_string()).unwrap_or_else(|f| panic!("{answers:?}: {f:#?}"))
}

fn typical(f: &Family, age: i32, usage: f64, a_year: f64, price: f64) -> Candidate {
    let unit = if f.clock == ticksage_core::base::units::UsageClock::Hours { "h" } else { "km" };
    cand(&asked(json!({
        "format": "ticksage-candidate/2", "title": "Typical", "families": [{"id": f.id, "version": f.version}],
        "as_of": "2026-07-15", "built": format!("{}-03-01", 2026 - age), "usage": {"value": usage, "unit": unit},
        "asking": price, "currency": "HSC", "plan": {"years": 3, "usage_a_year": {"value": a_year, "unit": unit}}
    })))
}

#[test]
fn every_file_of_the_library_is_in_order() {
    let patterns = PATTERNS.iter().map(|t| read_shape::<Pattern>(t).unwrap_or_else(|f| panic!("{f:#?}")));
    let questions = read_shape::<Questions>(QUESTIONS).unwrap_or_else(|f| panic!("{f:#?}"));
    let library = Library { questions, patterns: patterns.collect() };
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/src/formats/patterns");
    assert_eq!(std::fs::read_dir(folder).unwrap().count(), library.patterns.len() + 1, "a file is not in the list");
    let mut jobs: BTreeMap<String, String> = BTreeMap::new();
    let actions: BTreeSet<&String> =
        library.patterns.iter().flat_map(|p| &p.checks).filter_map(|c| c.action.as_ref()).collect();
    let settings: BTreeSet<&String> = library.patterns.iter().flat_map(|p| &p.facts).map(|f| &f.id).collect();
    for p in &library.patterns {
        // Two patterns with a job of one name mean the same job.
        for j in &p.jobs {
            let text = serde_json::to_string(j).unwrap();
            let thing = p.applies.facts.get("thing").map_or("car", |t| t[0].as_str());
            let kept = jobs.entry(format!("{thing}/{}", j.id)).or_insert_with(|| text.clone());
            assert_eq!(kept, &text, "{}: job {}", p.id, j.id);
        }
        for t in &p.tells {
            assert!(actions.contains(&t.action), "{}: no check does \"{}\"", p.id, t.action);
            assert!(p.points.iter().any(|x| x.id == t.point), "{}: {}", p.id, t.point);
        }
        let conditions = std::iter::once(&p.applies)
            .chain(p.points.iter().map(|x| &x.applies))
            .chain(p.checks.iter().map(|x| &x.applies))
            .chain(p.intervals.iter().map(|x| &x.applies));
        for a in conditions {
            assert!(a.any.is_empty() && a.except.is_empty() && a.built.is_none(), "{}", p.id);
            for (fact, accepted) in &a.facts {
                let question = library.question(fact).map(|q| q.values.iter().map(|v| &v.id).collect::<Vec<_>>());
                assert!(question.is_some() || settings.contains(fact), "{}: {fact}", p.id);
                for value in accepted {
                    assert!(question.as_ref().is_none_or(|q| q.contains(&value)), "{}: {fact} {value}", p.id);
                }
            }
        }
    }
    let ids: BTreeSet<&String> = library.patterns.iter().map(|p| &p.id).collect();
    assert_eq!(ids.len(), library.patterns.len());
}

/// Answers, clock, usage a year, going price of a middling one, and the band in hours of a workshop a year.
type Construction = (&'static str, &'static [(&'static str, &'static str)], &'static str, [f64; 3], f64, f64, [f64; 2]);

/// Constructions with a young, a middle and a high usage usual for the class.
///
/// The bands are those of `sense.rs` by the usage of the class: 8 to 25 hours for 15 000 km of a car or van (a heavy
/// off-roader up to 28), 4 to 12 for 6 000 km of a motorcycle (a large one, and one with much behind it, up to 14).
const CONSTRUCTIONS: [Construction; 14] = [
    (
        "small petrol hatch",
        &[
            ("thing", "car"),
            ("size", "small"),
            ("power", "petrol"),
            ("induction", "natural"),
            ("injection", "port"),
            ("timing", "belt"),
            ("gearbox", "manual"),
            ("driven", "front"),
            ("roof", "steel"),
            ("springs", "steel"),
        ],
        "km",
        [45e3, 110e3, 180e3],
        12e3,
        4500.0,
        [6.0, 20.0],
    ),
    (
        "turbo direct-injection estate",
        &[
            ("thing", "car"),
            ("size", "large"),
            ("power", "petrol"),
            ("induction", "turbo"),
            ("injection", "direct"),
            ("timing", "chain"),
            ("gearbox", "dual-wet"),
            ("driven", "front"),
            ("roof", "steel"),
            ("springs", "steel"),
        ],
        "km",
        [50e3, 120e3, 200e3],
        15e3,
        9000.0,
        [8.0, 25.0],
    ),
    (
        "diesel van with urea",
        &[
            ("thing", "car"),
            ("size", "van"),
            ("power", "diesel"),
            ("induction", "turbo"),
            ("diesel-injection", "common-rail"),
            ("timing", "belt"),
            ("gearbox", "manual"),
            ("driven", "front"),
            ("roof", "steel"),
            ("aftertreatment", "urea"),
            ("springs", "steel"),
        ],
        "km",
        [60e3, 140e3, 220e3],
        20e3,
        11e3,
        [10.6, 33.4],
    ),
    (
        "full hybrid",
        &[
            ("thing", "car"),
            ("size", "large"),
            ("power", "hybrid"),
            ("injection", "port"),
            ("timing", "chain"),
            ("gearbox", "power-split"),
            ("driven", "front"),
            ("roof", "steel"),
            ("springs", "steel"),
        ],
        "km",
        [50e3, 120e3, 200e3],
        15e3,
        10e3,
        [8.0, 25.0],
    ),
    (
        "battery car",
        &[
            ("thing", "car"),
            ("size", "large"),
            ("power", "electric"),
            ("driven", "front"),
            ("roof", "steel"),
            ("springs", "steel"),
        ],
        "km",
        [40e3, 90e3, 160e3],
        15e3,
        12e3,
        [5.0, 22.0],
    ),
    (
        "off-roader with reduction gear",
        &[
            ("thing", "car"),
            ("size", "van"),
            ("power", "diesel"),
            ("induction", "turbo"),
            ("diesel-injection", "common-rail"),
            ("timing", "chain"),
            ("gearbox", "automatic"),
            ("driven", "all-low"),
            ("roof", "steel"),
            ("aftertreatment", "filter"),
            ("springs", "steel"),
        ],
        "km",
        [60e3, 140e3, 220e3],
        15e3,
        14e3,
        [8.0, 28.0],
    ),
    (
        "roadster with a soft roof",
        &[
            ("thing", "car"),
            ("size", "large"),
            ("power", "petrol"),
            ("induction", "natural"),
            ("injection", "port"),
            ("timing", "chain"),
            ("gearbox", "manual"),
            ("driven", "rear"),
            ("roof", "soft"),
            ("springs", "steel"),
        ],
        "km",
        [35e3, 80e3, 140e3],
        7e3,
        8000.0,
        [5.0, 18.0],
    ),
    (
        "air-cooled twin",
        &[
            ("thing", "motorcycle"),
            ("bike-size", "large"),
            ("power", "petrol"),
            ("bike-cooling", "air"),
            ("bike-fuel", "injection"),
            ("bike-final", "belt"),
            ("bike-valves", "hydraulic"),
        ],
        "km",
        [15e3, 40e3, 75e3],
        6e3,
        7000.0,
        [4.0, 14.0],
    ),
    (
        "single-cylinder scooter",
        &[
            ("thing", "motorcycle"),
            ("bike-size", "small"),
            ("power", "petrol"),
            ("bike-cooling", "air"),
            ("bike-fuel", "injection"),
            ("bike-final", "scooter"),
            ("bike-valves", "screws"),
        ],
        "km",
        [10e3, 25e3, 50e3],
        5e3,
        1500.0,
        [2.0, 10.0],
    ),
    (
        "middle motorcycle with a chain",
        &[
            ("thing", "motorcycle"),
            ("bike-size", "middle"),
            ("power", "petrol"),
            ("bike-cooling", "liquid"),
            ("bike-fuel", "injection"),
            ("bike-final", "chain"),
            ("bike-valves", "shims"),
        ],
        "km",
        [15e3, 35e3, 65e3],
        6e3,
        4500.0,
        [4.0, 14.0],
    ),
    (
        "boat diesel",
        &[
            ("thing", "engine"),
            ("engine-size", "middle"),
            ("power", "diesel"),
            ("induction", "natural"),
            ("use", "boat"),
            ("plant-cooling", "exchanger"),
            ("boat-drive", "shaft"),
        ],
        "hours",
        [800.0, 2500.0, 5000.0],
        200.0,
        5000.0,
        [4.0, 16.0],
    ),
    (
        "generator",
        &[
            ("thing", "engine"),
            ("engine-size", "small"),
            ("power", "diesel"),
            ("induction", "natural"),
            ("use", "plant"),
            ("plant-cooling", "radiator"),
            ("plant-drive", "generator"),
        ],
        "hours",
        [1000.0, 4000.0, 8000.0],
        400.0,
        4000.0,
        [3.0, 16.0],
    ),
    (
        "plant engine with hydraulics",
        &[
            ("thing", "engine"),
            ("engine-size", "middle"),
            ("power", "diesel"),
            ("induction", "turbo"),
            ("use", "plant"),
            ("plant-cooling", "radiator"),
            ("plant-drive", "machine"),
        ],
        "hours",
        [1500.0, 4000.0, 8000.0],
        400.0,
        12e3,
        [5.0, 26.0],
    ),
    ("nobody knows how it is built", &[("thing", "car")], "km", [50e3, 120e3, 200e3], 15e3, 7000.0, [8.0, 25.0]),
];

#[test]
fn a_typical_example_of_every_construction_costs_what_such_things_cost() {
    let hour = table().rate(Labour::Independent);
    let (mut faults, mut rows) = (Vec::new(), Vec::new());
    for (name, answers, clock, usages, a_year, price, [least, most]) in CONSTRUCTIONS {
        let f = built(answers, clock);
        let mut row = Vec::new();
        for usage in usages {
            let age = (usage / a_year).round().clamp(2.0, 20.0);
            let a = lean(&typical(&f, age as i32, usage, a_year, price), std::slice::from_ref(&f));
            let hours = a.bill.mean / hour / 3.0;
            row.push((a.points.len(), format!("{usage}: {hours:.1}")));
            if !(least..=most).contains(&hours) {
                let top: Vec<String> = a
                    .points
                    .iter()
                    .take(8)
                    .map(|p| format!("{} {:.1}", p.at.point, p.expected_cost / hour / 3.0))
                    .collect();
                faults.push(format!(
                    "{name} at {usage}: {hours:.1} h; {top:?}; scheduled {:.1}",
                    a.bill.scheduled / hour / 3.0
                ));
            }
        }
        let unit = if clock == "hours" { "h" } else { "km" };
        let cells: Vec<&str> = row.iter().map(|(_, text)| text.as_str()).collect();
        let points = row[0].0;
        rows.push(format!("| {name} | {a_year} {unit} | {points} | {} | {least} to {most} |", cells.join(" | ")));
    }
    assert!(faults.is_empty(), "{faults:#?}");
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/CONSTRUCTIONS.md");
    let table = table_of(&rows);
    if std::env::var_os("TICKSAGE_RENEW_FIGURES").is_some() {
        std::fs::write(file, &table).unwrap();
    }
    assert_eq!(std::fs::read_to_string(file).unwrap(), table, "renew it with TICKSAGE_RENEW_FIGURES=1");
}

/// The table of `docs/CONSTRUCTIONS.md`.
fn table_of(rows: &[String]) -> String {
    format!(
        "# What typical constructions cost to run\n\n\
         A test makes this table (`crates/core/tests/all/patterns.rs`) and fails when a figure leaves its band. Each row is a \
         vehicle that no sheet describes: only how it is built is known, nothing has been looked at, and the plan is three \
         years. The figures are hours of an independent workshop a year, parts and scheduled work included, at a young, a \
         middle and a high usage. The bands are common practice, no published source, from memory.\n\n\
         | construction | usage a year | points | young | middle | high | band |\n|---|---|---|---|---|---|---|\n{}\n",
        rows.join("\n")
    )
}

#[test]
fn every_single_answer_gives_a_sheet_that_makes_sense() {
    let library = library();
    for thing in ["car", "motorcycle", "engine"] {
        for q in &library.questions.questions {
            for v in &q.values {
                let mut answers = BTreeMap::from([("thing", thing)]);
                answers.insert(&q.id, &v.id);
                let sheet = json!({
                    "format": "ticksage-family/2", "id": "own", "version": 1, "name": "As built", "kind": "body",
                    "clock": if thing == "engine" { "hours" } else { "km" }, "currency": "HSC",
                    "built_as": {"answers": answers},
                });
                match read_family(&sheet.to_string()) {
                    Ok(f) => {
                        assert!(family_faults(&f).is_empty());
                        // One of the general check on tyres is kept: even wear speaks for bushes, a bulge for tyres.
                        assert!(family_notices(&f, &[]).len() <= 1, "{answers:?}: {:#?}", family_notices(&f, &[]));
                        assert!(f.points.len() >= 15, "{answers:?}: {}", f.points.len());
                    }
                    // What cannot be is said at the answer.
                    Err(faults) => assert!(
                        faults.iter().all(|f| f.path.starts_with("/built_as/answers/") || f.path == "/clock"),
                        "{answers:?}: {faults:#?}"
                    ),
                }
            }
        }
    }
}

#[test]
fn what_an_advert_says_of_how_it_is_built_is_answered_already() {
    use ticksage_core::base::units::UsageClock::{Hours, Km};
    use ticksage_core::reading::construction::answers_in;
    let read = |text: &str, clock| {
        let all = answers_in(text, clock, library());
        all.into_iter().map(|(q, v)| format!("{q}={v}")).collect::<Vec<_>>().join(" ")
    };
    for (text, clock, says) in [
        ("2.0 diesel automatic estate", None, "gearbox=automatic power=diesel size=large thing=car"),
        (
            "small hatchback, petrol, manual, five doors, electric windows",
            Some(Km),
            "gearbox=manual power=petrol size=small thing=car",
        ),
        (
            "Panel van 2.2 turbodiesel, six-speed, urea tank, timing belt done",
            Some(Km),
            "aftertreatment=urea gearbox=manual induction=turbo power=diesel size=van thing=car timing=belt",
        ),
        ("Petrol hybrid saloon, automatic", Some(Km), "gearbox=automatic power=hybrid size=large thing=car"),
        ("Electric car, 40 kWh, one owner, automatic wipers", Some(Km), "power=electric thing=car"),
        (
            "Roadster with new soft top, 1.8, rear-wheel drive, owner's manual",
            Some(Km),
            "driven=rear roof=soft size=large thing=car",
        ),
        (
            "Off-roader, diesel, low range, diff lock, air suspension",
            Some(Km),
            "driven=all-low power=diesel size=van springs=air thing=car",
        ),
        ("125 scooter, twist and go", Some(Km), "bike-final=scooter bike-size=small thing=motorcycle"),
        (
            "Air-cooled 1200cc cruiser motorcycle, belt drive, fuel injection",
            Some(Km),
            "bike-cooling=air bike-final=belt bike-fuel=injection bike-size=large thing=motorcycle",
        ),
        (
            "Marine diesel, heat exchanger, saildrive",
            Some(Hours),
            "boat-drive=sail plant-cooling=exchanger power=diesel thing=engine use=boat",
        ),
        (
            "Generator 12 kVA diesel, air-cooled",
            Some(Hours),
            "plant-cooling=air plant-drive=generator power=diesel thing=engine use=plant",
        ),
        ("not a diesel, petrol estate without sunroof", Some(Km), "power=petrol size=large thing=car"),
        (
            "Compact SUV 1.5 turbo petrol, 7-speed dual clutch, front wheel drive, panoramic roof",
            Some(Km),
            "driven=front gearbox=dual-wet induction=turbo power=petrol roof=glass size=large thing=car",
        ),
        (
            "Double cab pick-up, turbo diesel, manual, four wheel drive with low range, towbar",
            Some(Km),
            "driven=all-low gearbox=manual induction=turbo power=diesel size=van thing=car",
        ),
        ("Full hybrid saloon with CVT", Some(Km), "gearbox=power-split power=hybrid size=large thing=car"),
        (
            "Motorcycle 650 single, kick start, carb, chain drive, air cooled",
            Some(Km),
            "bike-cooling=air bike-final=chain bike-fuel=carburettor bike-size=middle thing=motorcycle",
        ),
        (
            "Maxi scooter 400cc, liquid cooled, fuel injection",
            Some(Km),
            "bike-cooling=liquid bike-final=scooter bike-fuel=injection bike-size=middle thing=motorcycle",
        ),
        (
            "Narrowboat engine, diesel, keel cooled, shaft drive",
            Some(Hours),
            "boat-drive=shaft plant-cooling=keel power=diesel thing=engine use=boat",
        ),
        (
            "Inboard petrol, raw water cooled, stern drive",
            Some(Hours),
            "boat-drive=stern plant-cooling=raw power=petrol thing=engine use=boat",
        ),
        (
            "Tractor, turbo diesel, front loader",
            Some(Hours),
            "induction=turbo plant-drive=machine power=diesel thing=engine use=plant",
        ),
        ("Electric van 50 kWh, one owner", Some(Km), "power=electric size=van thing=car"),
        ("Plug-in hybrid SUV, automatic", Some(Km), "gearbox=automatic power=hybrid size=large thing=car"),
        ("Coupe cabriolet with folding hard top, diesel", Some(Km), "power=diesel roof=folding size=large thing=car"),
        ("Small hatch, 5 speed auto, manual windows", Some(Km), "gearbox=automatic size=small thing=car"),
        (
            "Diesel estate, cambelt changed, dpf cleaned, automatic headlights, six speed",
            Some(Km),
            "aftertreatment=filter gearbox=manual power=diesel size=large thing=car timing=belt",
        ),
        ("lovely thing, must go", None, ""),
    ] {
        assert_eq!(read(text, clock), says, "{text}");
    }
    // Whatever is written, what comes out is a sheet.
    for text in
        ["electric car with timing belt and dpf", "diesel motorcycle", "hybrid scooter cvt", "4x4 4x4 soft top bus"]
    {
        let answers = answers_in(text, Some(Km), library());
        if answers.contains_key("thing") {
            let all: Vec<(&str, &str)> = answers.iter().map(|(q, v)| (q.as_str(), v.as_str())).collect();
            let _ = built(&all, "km");
        }
    }
}

#[test]
fn contradictory_answers_are_refused_where_they_stand() {
    let refused = |answers: serde_json::Value, clock: &str| {
        let sheet = json!({
            "format": "ticksage-family/2", "id": "own", "version": 1, "name": "As built", "kind": "body",
            "clock": clock, "currency": "HSC", "built_as": answers,
        });
        let faults = read_family(&sheet.to_string()).unwrap_err();
        faults.into_iter().map(|f| format!("{} {}", f.path, f.message)).collect::<Vec<_>>().join("; ")
    };
    for (answers, clock, says) in [
        (json!({"answers": {"thing": "car", "power": "electric", "timing": "belt"}}), "km", "/built_as/answers/timing"),
        (
            json!({"answers": {"thing": "car", "power": "electric", "gearbox": "manual"}}),
            "km",
            "\"Manual\" does not go with \"Electric alone\"",
        ),
        (
            json!({"answers": {"thing": "car", "size": "enormous"}}),
            "km",
            "is no answer to \"How large is it?\": one of small, large, van, heavy",
        ),
        (json!({"answers": {"thing": "car", "colour": "red"}}), "km", "\"colour\" is neither a question nor a setting"),
        (json!({"answers": {"thing": "car", "chain-design": "so-so"}}), "km", "/built_as/answers/chain-design"),
        (json!({"answers": {"power": "diesel"}}), "km", "say what it is"),
        (json!({"answers": {"thing": "car"}}), "hours", "/clock it counts kilometres, not hours"),
        (json!({"answers": {"thing": "engine", "use": "boat"}}), "km", "counts hours, not kilometres"),
        (
            json!({"answers": {"thing": "car"}, "patterns": ["every-car", "steam"]}),
            "km",
            "/built_as/patterns/1 no pattern \"steam\"",
        ),
    ] {
        let told = refused(answers.clone(), clock);
        assert!(told.contains(says), "{answers}: {told}");
    }
}

#[test]
fn what_patterns_gave_is_there_and_given_once() {
    let mut f = built(&[("thing", "car")], "km");
    f.patterns[0].gives.extend(["points/nowhere".to_owned(), "points/tyres".to_owned(), "tyres".to_owned()]);
    let told: Vec<String> = family_faults(&f).into_iter().map(|f| f.message).collect();
    assert_eq!(told.len(), 3, "{told:#?}");
    f.patterns[0].gives = vec!["points/tyres".to_owned(); 3000];
    assert!(family_faults(&f).iter().any(|f| f.path == "/patterns" && f.message.contains("at most 2000")));
}

#[test]
fn what_a_sheet_says_itself_stays_and_what_patterns_gave_follows_the_answers() {
    use ticksage_core::patterns::compose::composed_of;
    let f = built(&[("thing", "car"), ("power", "petrol"), ("gearbox", "manual")], "km");
    assert!(f.point("clutch").is_some() && f.point("auto-clutches").is_none());
    // Read again it is the same, whatever the library holds by then.
    assert_eq!(read_family(&serde_json::to_string(&f).unwrap()).unwrap(), f);
    let mut own = f.clone();
    let mut point = f.point("clutch").unwrap().clone();
    point.id = "our-clutch".to_owned();
    point.name = "Clutch, as we know it".to_owned();
    own.points.push(point);
    own.adjusts = serde_json::from_value(json!([{"part": "radiator", "life":
        [{"source": "practice", "says": {"form": "between", "from": 60000, "to": 90000}}]}]))
    .unwrap();
    let a = table();
    let c = typical(&own, 8, 120e3, 15e3, 6000.0);
    let judged = lean(&c, std::slice::from_ref(&own));
    // The pattern's clutch gives way to our own; the radiator keeps everything but its life.
    let has = |id: &str| judged.points.iter().any(|p| p.at.point == id);
    assert!(has("our-clutch") && !has("clutch") && has("radiator"));
    let before = lean(&typical(&f, 8, 120e3, 15e3, 6000.0), std::slice::from_ref(&f));
    let chance = |x: &ticksage_core::Assessment| x.points.iter().find(|p| p.at.point == "radiator").unwrap().p_plan;
    assert!(chance(&judged) > 1.5 * chance(&before), "{} {}", chance(&judged), chance(&before));
    // Another gearbox: what was added by hand stays.
    own.built_as.as_mut().unwrap().answers.insert("gearbox".to_owned(), "automatic".to_owned());
    let again = composed_of(own.clone(), library(), &a).unwrap();
    assert!(again.point("our-clutch").is_some() && again.point("clutch").is_none());
    assert!(again.point("auto-clutches").is_some() && again.adjusts == own.adjusts);
    assert!(family_faults(&again).is_empty(), "{:#?}", family_faults(&again));
}

#[test]
fn composed_and_written_out_are_judged_alike_to_the_digit() {
    let f = built(&[("thing", "car"), ("power", "diesel"), ("size", "van"), ("gearbox", "manual")], "km");
    // Written out by hand, in hours: no patterns, no answers.
    let out = Family { built_as: None, patterns: Vec::new(), currency: "XXX".to_owned(), ..f.clone() };
    let judged = |f: &Family| {
        let a = lean(&typical(f, 8, 140e3, 20e3, 9000.0), std::slice::from_ref(f));
        serde_json::to_string(&a).unwrap()
    };
    assert!(judged(&f) == judged(&out));
}
