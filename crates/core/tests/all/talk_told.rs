//! Talk in other voices: lines as an owner, a workshop's list and a boatyard say them, one way of saying a thing a test.
//! The lines are invented from common practice (no published source).

use ticksage_core::documents::claim::{LifeClock, LifeForm, ShareForm, ShareWord};
use ticksage_core::documents::family::AdviceKind;
use ticksage_core::formats::talk_tables::vocabulary;
use ticksage_core::talk::line::{LineReading, TalkQuestion, read_line};
use ticksage_core::talk::said::{Said, Voice};

const CAR: Voice = Voice { hours: false, miles: false };
const BOAT: Voice = Voice { hours: true, miles: false };

fn read(line: &str, voice: Voice) -> LineReading {
    read_line(line, None, voice, &vocabulary(None))
}

fn said(line: &str) -> Said {
    read(line, CAR).said.unwrap_or_else(|| panic!("{line}: kept as a note"))
}

fn every(said: Option<Said>) -> Option<(String, Option<f64>, Option<f64>)> {
    said.and_then(|s| s.interval).map(|i| (i.work, i.usage.map(f64::round), i.years))
}

#[test]
fn whichever_first_is_scheduled_work_by_both_clocks() {
    for (line, voice, work, usage, years) in [
        ("timing belt 5 years or 60k whichever first", CAR, "timing-belt", 60_000.0, 5.0),
        ("brake fluid 40k km or 2 years, whichever comes first, 60", CAR, "brake-fluid", 40_000.0, 2.0),
        ("oil 100 hours or yearly, whichever first", BOAT, "oil", 100.0, 1.0),
    ] {
        let wanted = Some((work.to_owned(), Some(usage), Some(years)));
        let told = read(line, voice);
        assert_eq!(every(told.said.clone()), wanted, "{line}");
        assert!(told.said.unwrap().life.is_empty(), "{line}");
    }
    // Nobody renews a belt every 500 years, and no sheet can hold it.
    for line in ["timing belt 500 years or 60k, whichever first", "timing belt 5 years or 9000000 km, whichever first"]
    {
        assert_eq!(every(read(line, CAR).said), None, "{line}");
    }
    // "Which" alone orders nothing: two lives, or one.
    assert_eq!(every(read("plastic elbow which cracks from 10 years or 100k", CAR).said), None);
}

#[test]
fn what_wears_and_nobody_books_has_a_life_and_no_schedule() {
    for line in ["wheel bearings every 70k or thereabouts, 180 each", "drop links every 30k, 60 each side"] {
        let told = said(line);
        assert!(told.interval.is_none() && told.life.len() == 1 && told.price.is_some(), "{line}: {told:?}");
    }
    let told = said("nox sensor goes every 60-80k, 350");
    assert_eq!(told.life[0].says, LifeForm::Between { from: 60_000.0, to: 80_000.0 });
    // Where it is ordered it is work.
    assert!(said("grease the wheel bearings every 20k").interval.is_some());
    assert!(said("brake hoses every 6 years, 220").interval.is_some());
    // Hours are no hours of work where somebody says how often, and a vehicle in kilometres has no clock for them.
    let told = said("raw water impeller every 200 hours or every season, 40");
    assert!(told.hours.is_none() && told.interval.is_some_and(|i| i.years == Some(1.0) && i.usage.is_none()));
}

#[test]
fn what_counts_something_else_is_no_share_no_life_and_no_price() {
    for line in [
        "timing chain: rattle for a few secs from cold, 900",
        "all four ball joints 400",
        "all 4 injectors 900",
        "oil cooler: loses a few drops, 200",
    ] {
        assert_eq!(said(line).share, None, "{line}");
    }
    assert_eq!(said("few of the turbos fail before 200k").share, Some(ShareForm::Word { word: ShareWord::Rare }));
    assert_eq!(said("door locks fail, everyone has it, 120").share, Some(ShareForm::Word { word: ShareWord::All }));
    let coils = said("coil packs 45 each, 4 of them");
    assert!(coils.life.is_empty() && coils.price.is_some(), "{coils:?}");
    let price = said("thermostat never gets above 70, 110").price;
    assert_eq!(format!("{price:?}"), format!("{:?}", said("thermostat 110").price));
    // How long somebody else pays.
    let told = said("battery pack from 8 years, maker pays until 8 years or 160k");
    assert_eq!(told.life.len(), 1, "{told:?}");
}

#[test]
fn builds_before_and_after_a_year_are_read_with_a_dash() {
    for (line, from, to) in [
        ("oil pump drive fails at 120k, 1 in 8 on pre-2010", None, Some("2009-12-31")),
        ("oil pump drive fails at 120k on pre 2010", None, Some("2009-12-31")),
        ("oil pump drive fails at 120k, 2016-on", Some("2016-01-01"), None),
    ] {
        let told = said(line).applies.built.unwrap_or_else(|| panic!("{line}: no builds"));
        assert_eq!(told.from.map(|d| d.to_string()).as_deref(), from, "{line}");
        assert_eq!(told.to.map(|d| d.to_string()).as_deref(), to, "{line}");
    }
}

#[test]
fn a_part_that_no_table_knows_is_a_part_where_it_fails_and_has_a_price() {
    for (line, name) in [
        ("handbrake cables seize, 90", "handbrake cables"),
        ("bonnet cable snaps 60", "bonnet cable"),
        ("brake servo leaks, hard pedal, 250", "brake servo"),
    ] {
        let told = read(line, CAR);
        let part = told.said.as_ref().unwrap_or_else(|| panic!("{line}: kept as a note"));
        assert_eq!(part.name.as_deref(), Some(name), "{line}");
        assert!(part.price.is_some() && !part.known, "{line}");
        // Nobody knows when, so that is asked.
        assert_eq!(told.question, Some(TalkQuestion::When), "{line}");
    }
    // Prose stays prose, with or without a figure.
    for line in
        ["the dealer was useless, 300 down the drain", "door handles feel cheap", "great value at 4500, go for it"]
    {
        assert!(read(line, CAR).said.is_none(), "{line}: {:?}", read(line, CAR).said);
    }
}

#[test]
fn praise_of_the_whole_engine_is_praise_and_no_life_of_a_part() {
    for line in ["engine is bulletproof, 300k miles no issue", "the engine is unbreakable"] {
        let told = said(line);
        assert_eq!((told.advice, told.part.clone(), told.life.len()), (Some(AdviceKind::Praise), None, 0), "{line}");
    }
    let told = said("the 2.0 eats crank bearings, usually around 90k miles");
    assert_eq!((told.part.as_deref(), told.takes_along.len(), told.life.len()), (Some("rod-bearings"), 0, 1));
    // What is spoken of takes another part along all the same.
    let told = said("tensioner bearing: from 100k, eats the aux belt");
    assert!(told.life.iter().all(|l| l.clock == LifeClock::Usage), "{told:?}");
    // The seats of valves are none to sit on.
    assert_ne!(
        read("valve seats recede on gas, from 120k km, one in six", CAR).said.and_then(|s| s.part),
        Some("inside-wear".to_owned())
    );
    assert_eq!(
        read("shaft seal drips at rest after 8 years, 600", BOAT).said.and_then(|s| s.part).as_deref(),
        Some("shaft-seal")
    );
}
