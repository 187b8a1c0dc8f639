//! Talk beyond one fault: what wears while it lasts, how it grows, and how parts are to be had for an old one. The lines
//! are invented from common practice (no published source).

use serde_json::json;
use ticksage_core::Assumptions;
use ticksage_core::base::units::Money;
use ticksage_core::documents::claim::{LifeClock, ShareForm};
use ticksage_core::documents::failure_point::FailurePoint;
use ticksage_core::documents::family::Family;
use ticksage_core::documents::job::PartGrade;
use ticksage_core::documents::words::{NoticeLength, Price};
use ticksage_core::formats::documents::read_family;
use ticksage_core::formats::talk_tables::vocabulary;
use ticksage_core::talk::apply::{TalkFrom, TalkMode};
use ticksage_core::talk::line::read_line;
use ticksage_core::talk::page::{AcceptedLine, Written, write_lines};
use ticksage_core::talk::said::{Said, Voice};
use ticksage_core::validation::family::family_faults;

const CAR: Voice = Voice { hours: false, miles: false };

fn car() -> Family {
    let sheet = json!({
        "format": "ticksage-family/2", "id": "own", "version": 1, "name": "As built", "kind": "body", "clock": "km",
        "currency": "HSC", "built_as": {"answers": {"thing": "car", "power": "petrol", "timing": "chain", "gearbox": "manual"}},
    });
    read_family(&sheet.to_string()).unwrap()
}

fn said(line: &str) -> Option<Said> {
    let words = vocabulary(Some(&car()));
    read_line(line, None, CAR, &words).said
}

fn told(family: &mut Family, lines: &[&str]) -> Written {
    let accepted: Vec<AcceptedLine> =
        lines.iter().map(|l| AcceptedLine { text: (*l).to_owned(), place: None, mode: TalkMode::default() }).collect();
    let words = vocabulary(Some(family));
    let out = write_lines(family, &accepted, &TalkFrom::default(), CAR, &words, &Assumptions::default());
    assert_eq!(family_faults(family), Vec::new());
    out
}

fn of<'f>(family: &'f Family, part: &str) -> &'f FailurePoint {
    family.points.iter().find(|p| p.part.as_deref() == Some(part)).unwrap_or_else(|| panic!("no {part}"))
}

#[test]
fn parts_and_hands_by_age_are_no_life_of_any_part() {
    for (line, age, parts, hours, used) in [
        ("parts are hard to get after 15 years", 15.0, Some(1.5), None, false),
        ("parts for it no longer made from 18 years on", 18.0, Some(1.5), None, false),
        ("parts cost double from 20 years on", 20.0, Some(2.0), None, false),
        ("spares three times the price past 25 years", 25.0, Some(3.0), None, false),
        ("nobody works on them after 25 years, hours double", 25.0, None, Some(2.0), false),
        ("used parts only from year 20", 20.0, None, None, true),
    ] {
        let said = said(line).unwrap_or_else(|| panic!("{line}: kept as a note"));
        let supply = said.supply.clone().unwrap_or_else(|| panic!("{line}: {said:?}"));
        assert!((supply.from_age - age).abs() < 1e-9, "{line}: {supply:?}");
        assert_eq!((supply.parts, supply.hours), (parts, hours), "{line}");
        assert_eq!(supply.grades == [PartGrade::Used], used, "{line}");
        assert!(said.life.is_empty() && said.part.is_none() && said.price.is_none(), "{line}: {said:?}");
    }
    // Without an age nothing follows from it.
    assert!(said("parts are hard to get").is_none_or(|s| s.supply.is_none() && s.life.is_empty()));
    let mut f = car();
    told(&mut f, &["parts cost double from 20 years on", "parts cost double from 20 years on"]);
    assert_eq!(f.supply.len(), 1);
    told(&mut f, &["thermostat no longer available from 12 years on"]);
    let own = &f.supply[1];
    assert_eq!(own.points, [of(&f, "thermostat").id.clone()], "{own:?}");
}

#[test]
fn what_wears_faster_while_a_fault_lasts_is_written_to_the_fault() {
    for (line, fault, worn, times) in [
        ("cover gasket leak wears the drive belt three times as fast", "valve-cover", "aux-belt", 3.0),
        ("thermostat stuck: head gasket wears twice as fast", "thermostat", "head-gasket", 2.0),
        ("head gasket wears 4 times as fast when the thermostat is stuck", "thermostat", "head-gasket", 4.0),
        ("a stuck thermostat halves the life of the head gasket", "thermostat", "head-gasket", 2.0),
        ("oil from the cam cover makes the alternator wear twice as fast", "valve-cover", "charging", 2.0),
    ] {
        let said = said(line).unwrap_or_else(|| panic!("{line}: kept as a note"));
        let found = said.wears.first().unwrap_or_else(|| panic!("{line}: {said:?}"));
        assert_eq!((said.part.as_deref(), found.part.as_str()), (Some(fault), worn), "{line}");
        assert!((found.times - times).abs() < 1e-9, "{line}: {found:?}");
    }
    let mut f = car();
    told(&mut f, &["a stuck thermostat halves the life of the head gasket"]);
    let wears = &of(&f, "thermostat").wears;
    assert_eq!(wears.len(), 1);
    assert_eq!(wears[0].point, of(&f, "head-gasket").id);
}

#[test]
fn a_fault_that_grows_has_stages_and_each_its_price() {
    let mut f = car();
    let line = "oil cooler leaks: drips first, 120; later sprays, 900";
    let read = said(line).unwrap();
    assert_eq!(read.routes, [], "{read:?}");
    assert_eq!(read.stages.len(), 2, "{read:?}");
    told(&mut f, &["oil cooler leaks: common, from 120k km", line]);
    let point = of(&f, "oil-cooler");
    assert_eq!(point.stages.len(), 2);
    assert!(point.stages[0].name.contains("drips") && point.stages[1].name.contains("sprays"), "{:?}", point.stages);
    assert!(matches!(point.stages[1].price, Some(Price::About(m)) if (m.get() - 900.0).abs() < 1e-9));
    let bearing = said("wheel bearing: first hums, 120, then grinds for another 5000 km, 260").unwrap();
    assert_eq!(bearing.stages.len(), 2, "{bearing:?}");
    assert_eq!(bearing.stages[1].tolerable, Some(5_000.0));
    let turbo = said("turbo: starts with a whistle, 300, later smokes, 1300").unwrap();
    assert_eq!((turbo.stages.len(), turbo.routes.len()), (2, 0), "{turbo:?}");
    let words = vocabulary(Some(&car()));
    let next = read_line("first a whine, 400, then it locks up, 2500", Some(&turbo), CAR, &words).said.unwrap();
    assert_eq!((next.part.as_deref(), next.stages.len()), (turbo.part.as_deref(), 2), "{next:?}");
    // A way of mending, two signs of one fault, and a renewal are none.
    for line in [
        "tensioner first, 120: in four of ten that is all",
        "injectors: clean them first, 80, later renewed, 700",
        "chain: first rattles cold, later rattles warm",
    ] {
        assert!(said(line).is_none_or(|s| s.stages.is_empty()), "{line}");
    }
}

#[test]
fn prices_of_pieces_and_of_first_tries_notice_and_parts_of_units_are_told_apart() {
    let about = |s: &Said| match s.price {
        Some(Price::About(m)) => m.get(),
        _ => f64::NAN,
    };
    let injectors = said("injectors: 4 x 280 from 180k").unwrap();
    assert!((about(&injectors) - 1_120.0).abs() < 1e-9, "{injectors:?}");
    let filter = said("DPF blocks on short journeys, forced regeneration 150 first, new one 1400").unwrap();
    assert_eq!(filter.routes.len(), 1, "{filter:?}");
    assert!(filter.routes[0].name.contains("regeneration"), "{filter:?}");
    assert!((about(&filter) - 1_400.0).abs() < 1e-9, "{filter:?}");
    let housing = said("thermostat housing cracks, 2 out of 3, from 120k km, 240").unwrap();
    assert!(matches!(housing.share, Some(ShareForm::Share { share }) if (share.get() - 2.0 / 3.0).abs() < 1e-3));
    let sensor = said("crank sensor: common, hard start then no start within 1000 km, 110").unwrap();
    assert_eq!((sensor.life.len(), sensor.notice), (0, Some(NoticeLength::Short)), "{sensor:?}");
    for (line, part) in [
        ("gearbox second synchro crunches when cold, most by 150k", "synchro"),
        ("tailgate struts sag after 8 years, 60 the pair", "gas-struts"),
        ("leaf spring bushes, everybody does them at 150k, 260", "suspension"),
        ("gearbox whines from 200k, 1500", "gearbox-bearing"),
    ] {
        assert_eq!(said(line).and_then(|s| s.part).as_deref(), Some(part), "{line}");
    }
    // A later part that cures it: nobody with it has it any more.
    let words = vocabulary(Some(&car()));
    let before = said("water pump leaks: common, from 90k km, 300").unwrap();
    let later = read_line("the later part from July 2016 cures it", Some(&before), CAR, &words).said.unwrap();
    assert_eq!(later.part, before.part);
    let revision = later.revision.unwrap();
    assert!(matches!(revision.share, Some(ShareForm::Share { share }) if share.get() == 0.0), "{revision:?}");
}

#[test]
fn words_of_their_own_are_no_slips_and_small_figures_behind_years_are_years() {
    let turbo = said("stock turbo fails between 90k and 140k, 1200").unwrap();
    assert_eq!(turbo.part.as_deref(), Some("turbo"));
    assert!(said("lower fails at 90k").is_none(), "nothing is named");
    assert_eq!(said("tow bracket fails at 90k, 120").unwrap().name.as_deref(), Some("tow bracket"));
    let rust = said("subframe rusts from 8 years, holed by 12, 1100").unwrap();
    assert!(rust.life.iter().all(|l| l.clock == LifeClock::Age), "{:?}", rust.life);
    // The dear way is the price, the cheap one is tried first.
    let filter = said("DPF blocked by 80k, forced regeneration 100, new 1500").unwrap();
    assert_eq!(filter.price, Some(Price::About(Money::try_from(1500.0).unwrap())));
    assert_eq!(filter.routes.len(), 1);
    assert_eq!(filter.routes[0].price, Some(Price::About(Money::try_from(100.0).unwrap())));
}
