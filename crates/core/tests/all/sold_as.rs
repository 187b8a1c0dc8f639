//! What is sold as broken stands apart; what was written off is worth less and sets nobody's price. The lines are typed
//! by hand.

use crate::common::sense::table;
use crate::screening::screening;
use ticksage_core::base::budget::Budget;
use ticksage_core::formats::base_sheets;
use ticksage_core::questions::ranking::Ranked;
use ticksage_core::questions::screening::{CELLS, apart};
use ticksage_core::reading::sold_as::sold_as;

#[test]
fn words_that_say_it_does_not_run_are_known() {
    for line in [
        "Van 2016, 150k km, spares or repair, 1500",
        "van 2016 150k km SPARES/REPAIRS 1500",
        "2016 van. Non-runner. 1500",
        "van, won't start, 1500",
        "van, engine blown, 1200",
        "van, the engine is seized, 1200",
        "van, blown engine, 1200",
        "van, needs a new engine, 2000",
        "van, needs gearbox, 3500",
        "van, gearbox gone, 2000",
        "breaking, van 2016",
        "van sold for parts, 900",
        "van, 900, for parts",
        "accident damaged van 2500",
        "Kastenwagen, Motorschaden, 2500 €",
        "Kastenwagen, Getriebe defekt, 2000 €",
        "Kombi für Bastler, 900 €",
        "fourgon, moteur HS, 1500 €",
        "bestelwagen, loopt niet, 1500 euro",
        "van, cat B, 800",
        "boat engine, seized engine, for restoration, 400",
        "hatch, gearbox has failed, 1100",
        "estate, needs replacement engine but body mint, 1800",
        "van, timing belt snapped, 1000",
    ] {
        assert!(sold_as(line).broken.is_some(), "{line}");
    }
}

#[test]
fn a_runner_is_no_wreck_for_a_word_that_wrecks_have_too() {
    for line in [
        "van 2016, no accident damage, 6500",
        "van, never crashed, 6500",
        "accident damage free, 6500",
        "van, full of new parts, receipts for parts and labour, 6500",
        "van, new engine 2022, 6500",
        "van, needs engine oil topping up, 6500",
        "van, needs a windscreen, 6500",
        "van, window motor broken, 6500",
        "van, engine mount broken, 6500",
        "van, knock sensor replaced, 6500",
        "van, no engine issues, drives well, 6500",
        "van, reconditioned gearbox, 6500",
        "van, starts first time, runs well, 6500",
        "van, needs engine light looking at, 6500",
        "van, engine rebuilt after the belt failed in 2019, 6500",
        "van, not for parts, 6500",
        "van, gearbox oil changed, 6500",
        "Kastenwagen, unfallfrei, 6500 €",
        "Kastenwagen, kein Unfallschaden, 6500 €",
        "van, not a cat n, clear report, 6500",
    ] {
        let told = sold_as(line);
        assert!(told.broken.is_none() && told.written_off.is_none(), "{line}: {told:?}");
    }
    let told = sold_as("van, category S, engine light on, 4000 + VAT");
    assert!(told.written_off.is_some() && told.structural && told.lamp.is_some() && told.without_tax.is_some());
    assert!(sold_as("van, no warning light on, 4000 no VAT").lamp.is_none());
    assert!(
        sold_as("van, urea fault light on, 4000").lamp.is_some()
            && sold_as("van, no fault lights, 4000").lamp.is_none()
    );
    assert!(sold_as("van, 4000 no VAT").without_tax.is_none());
}

#[test]
fn a_test_that_was_not_passed_and_what_is_to_be_welded_are_known() {
    for (line, words) in [
        ("van 2016 - MOT failure on welding, otherwise good runner, 1400", "mot failure"),
        ("van, needs welding to the sills, 900", "needs welding"),
        ("van, needs a bit of welding for its test, 900", "needs a bit of welding"),
        ("van, welding required underneath, 900", "welding required"),
        ("van, no MOT, drives fine, 900", "no mot"),
        ("van, MOT has run out, 900", "mot has run out"),
        ("Kastenwagen ohne TÜV, 900 €", "ohne tüv"),
        ("van, MOT till June but needs welding for the next one, 900", "needs welding"),
        ("van, failed MOT, needs new MOT before sale, 900", "failed mot"),
    ] {
        let told = sold_as(line);
        assert_eq!(told.no_test.as_deref(), Some(words), "{line}");
        assert!(told.broken.is_none() && !told.is_sound(), "{line}");
    }
    for line in [
        "van, no MOT advisories, 6500",
        "van, 12 months MOT no advisories, 6500",
        "van, never failed its MOT, 6500",
        "van, no welding needed, 6500",
        "van, never needed welding, 6500",
        "van, needs no welding, 6500",
        "van, sills welded last year, long MOT, 6500",
        "van, MOT until 2027, 6500",
        "van, needs nothing, welding all done, 6500",
        "van, failed MOT on a bulb, now passed with no advisories, 6500",
        "van, failed MOT on brake pipes now passed, 6500",
        "van, no MOT at the moment, will be sold with a fresh MOT, 6500",
        "Kastenwagen, TÜV abgelaufen, bekommt TÜV neu, 6500 €",
    ] {
        assert!(sold_as(line).is_sound(), "{line}: {:?}", sold_as(line));
    }
}

#[test]
fn wrecks_stand_apart_and_set_no_price() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let judged = |text: &str| -> Vec<Ranked> {
        let all = s.read(text);
        let one = |at| s.judge(&all, at, &table(), &Budget::default().in_cells(CELLS)).unwrap();
        let mut out: Vec<Ranked> = all.to_judge().into_iter().map(one).collect();
        out.sort_by_key(|r| r.line);
        out
    };
    let sound: String = (0..6).map(|k| format!("diesel van 2016; {} 000 km; {}\n", 148 + k, 6500 + 100 * k)).collect();
    let wrecks = "diesel van 2016; 150 000 km; engine blown; 900\ndiesel van 2016; 151 000 km; spares or repair; 700\n";
    let written_off = "diesel van 2016; 149 000 km; cat N; 5200\n";
    let no_test = "diesel van 2016; 150 500 km; MOT failure, needs welding; 2600\n";
    assert_eq!(apart(&s.read(&format!("{sound}{no_test}"))), [(7, "mot failure")]);
    let alone = judged(&sound);
    let beside = judged(&format!("{sound}{wrecks}{written_off}{no_test}"));
    assert_eq!(apart(&s.read(&format!("{sound}{wrecks}"))), [(7, "engine blown"), (8, "spares or repair")]);
    assert_eq!(beside.len(), 7, "no wreck is judged as if it ran");
    for (x, y) in alone.iter().zip(&beside) {
        assert!((x.going - y.going).abs() < 1e-9 && (x.worth - y.worth).abs() < 1e-9, "{} {}", x.going, y.going);
    }
    let marked = &beside[6];
    assert!(marked.note.contains("written off") && marked.worth < beside[1].worth - 500.0, "{}", marked.note);
    // What no sheet knows is said, and not passed over.
    let unknown = judged("diesel van 2016; 150 000 km; tow bar broken; engine light on; 6000 + VAT\n").remove(0);
    assert!(unknown.note.contains("warning lamp") && unknown.note.contains("tax comes on top"), "{}", unknown.note);
}
