//! The demo's families as somebody would tell them: their lines make sheets on which the demo's candidates are worth
//! the same.

use std::path::PathBuf;

use serde_json::Value;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_core::formats::talk_tables::vocabulary;
use ticksage_core::talk::apply::TalkFrom;
use ticksage_core::talk::page::{AcceptedLine, read_page, write_lines};
use ticksage_core::talk::said::Voice;
use ticksage_core::validation::family::family_faults;
use ticksage_core::{Assumptions, Candidate, Family, assess};

const TOLD: [&str; 6] = ["ferryman", "bk4", "tarn22", "s6", "skerry700", "k440"];

fn demo(path: &str) -> String {
    let file = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(path);
    std::fs::read_to_string(&file).unwrap_or_else(|e| panic!("{}: {e}", file.display()))
}

/// A sheet of which nothing but its name, its builds, its variants and how it is built is known.
fn head(id: &str) -> Family {
    let mut sheet: Value = serde_json::from_str(&demo(&format!("families/{id}.json"))).unwrap();
    let said = [
        "points",
        "checks",
        "jobs",
        "access",
        "intervals",
        "campaigns",
        "care_rules",
        "advice",
        "upgrades",
        "supply",
        "alterations",
    ];
    let sheet_of = sheet.as_object_mut().unwrap();
    for list in said.iter().chain(&["settles", "adjusts", "sources"]) {
        sheet_of.remove(*list);
    }
    read_family(&sheet.to_string()).unwrap_or_else(|f| panic!("{id}: {f:#?}"))
}

/// What the lines make of it.
fn told(id: &str) -> Family {
    let mut sheet = head(id);
    let words = vocabulary(Some(&sheet));
    let voice = Voice { hours: id == "k440", miles: false };
    let page = demo(&format!("talk/{id}.txt"));
    let read = read_page(&page, voice, &words);
    let notes: Vec<&str> = read.lines.iter().filter(|l| l.said.is_none()).map(|l| l.text.as_str()).collect();
    assert!(notes.len() * 10 <= read.lines.len(), "{id}: kept as notes: {notes:#?}");
    let lines: Vec<AcceptedLine> = read
        .lines
        .iter()
        .map(|l| AcceptedLine { text: l.text.clone(), place: l.place.clone(), mode: Default::default() })
        .collect();
    let a = Assumptions::default();
    let written = write_lines(&mut sheet, &lines, &TalkFrom::default(), voice, &words, &a);
    println!("{id}: {} changed, {} known, notes {:?}", written.changed, written.known, written.notes);
    let faults = family_faults(&sheet);
    assert!(faults.is_empty(), "{id}: {faults:#?}");
    sheet
}

fn limit(candidate: &Candidate, families: &[Family]) -> (f64, f64) {
    let a = assess(candidate, families, &Assumptions::default()).unwrap_or_else(|e| panic!("{e:?}"));
    (a.value.limit, a.bill.mean)
}

#[test]
fn a_candidate_is_worth_the_same_on_a_sheet_that_was_told() {
    let base = ticksage_core::formats::base_sheets::sheets().unwrap();
    let with_base = |own: Vec<Family>| own.into_iter().chain(base.iter().cloned()).collect::<Vec<_>>();
    let written =
        with_base(TOLD.iter().map(|id| read_family(&demo(&format!("families/{id}.json"))).unwrap()).collect());
    let told = with_base(TOLD.iter().map(|id| told(id)).collect());
    let mut faults = Vec::new();
    for file in [
        "1-quay-ferryman",
        "2-harbour-office",
        "3-blue-ferryman",
        "4-long-haul",
        "5-repainted",
        "6-courier-twin",
        "7-kittiwake-engine",
        "8-north-ferry",
    ] {
        let mut c = read_candidate(&demo(&format!("candidates/{file}.json"))).unwrap();
        // Lines know nothing of what was found, read or done on this one.
        c.findings.clear();
        c.ledger.clear();
        c.campaigns.clear();
        c.tune = None;
        let ((one, bill), (other, told_bill)) = (limit(&c, &written), limit(&c, &told));
        println!("{file}: limit {one:.0}, as told {other:.0}; bill {bill:.0}, as told {told_bill:.0}");
        if (other / one - 1.0).abs() > 0.05 {
            faults.push(format!("{file}: {one:.0} against {other:.0}"));
        }
    }
    assert!(faults.is_empty(), "{faults:#?}");
}
