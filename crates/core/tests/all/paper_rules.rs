//! Rules of the papers that hold whatever is typed, and what papers move, worked out another way.

#![allow(clippy::cast_precision_loss)]

use crate::common::{cand, candidate, family, sheet, with};
use jiff::civil::{Date, date};
use proptest::prelude::*;
use serde_json::{Value, json};
use ticksage_core::assess::judge::assess_to;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::units::UsageUnit;
use ticksage_core::documents::history_report::HistoryReport;
use ticksage_core::documents::paper::{Paper, ProvenanceKind, ProvenanceState};
use ticksage_core::evidence::history::{mismatch, plate};
use ticksage_core::evidence::intervals::years_on;
use ticksage_core::evidence::vin::{CheckDigit, vin};
use ticksage_core::formats::documents;
use ticksage_core::formats::papers_table::{self, TableKind, key};
use ticksage_core::inference::depth::Depth;
use ticksage_core::questions::changes::moved;
use ticksage_core::questions::seller_questions::{Ask, questions};
use ticksage_core::reading::{quick_line, typed};
use ticksage_core::validation::candidate;
use ticksage_core::{Assessment, Assumptions, Candidate, Family, assess};

fn table() -> Assumptions {
    Assumptions::default()
}

fn judged(f: &[Family], c: &Candidate) -> Assessment {
    assess(c, f, &table()).unwrap()
}

fn demo(name: &str) -> String {
    std::fs::read_to_string(format!("{}/../../demo/{name}.json", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

fn harbour_office() -> (Candidate, Vec<Family>) {
    let sheets = ["bk4", "ferryman", "s6"];
    let mut families = sheets.map(|f| documents::read_family(&demo(&format!("families/{f}"))).unwrap()).to_vec();
    families.extend(ticksage_core::formats::base_sheets::sheets().unwrap());
    (documents::read_candidate(&demo("candidates/2-harbour-office")).unwrap(), families)
}

proptest! {
    #![proptest_config(crate::common::cases(256))]

    /// Nothing that anybody types ends in a panic, and what is read makes sense or says why not.
    #[test]
    fn anything_may_be_typed(line in "\\PC{0,60}") {
        let (c, families) = harbour_office();
        let read = quick_line::read(&line, &c, &families, &table());
        if read.faults.is_empty() {
            let e = read.entry.expect("no fault and no entry");
            prop_assert!(!e.note.trim().is_empty() && e.usage.value >= 0.0);
        }
        let _ = (typed::date(&line), typed::usage(&line, UsageUnit::Km), typed::money(&line), vin(&line));
    }

    /// Every day that is written in full is read back as that day, however it is written.
    #[test]
    fn a_day_is_read_as_written(y in 1950i16..2100, m in 1i8..=12, d in 1i8..=28) {
        let day = date(y, m, d);
        for text in [format!("{y}-{m:02}-{d:02}"), format!("{d}.{m}.{y}"), format!("{y}/{m}/{d}"), format!("{y}.{m:02}.{d:02}")] {
            prop_assert_eq!(typed::date(&text).unwrap().0, day, "{}", text);
        }
        let slashed = typed::date(&format!("{d}/{m}/{y}"));
        if d > 12 || d == m {
            prop_assert_eq!(slashed.unwrap().0, day);
        } else {
            prop_assert!(slashed.unwrap_err().contains("two ways"));
        }
    }

    /// A usage is the same with blanks, points or apostrophes between its thousands.
    #[test]
    fn thousands_are_read_however_they_are_parted(n in 1000u32..999_999) {
        let (head, tail) = (n / 1000, n % 1000);
        for mark in [" ", ".", ",", "'", "\u{202f}", ""] {
            let text = format!("{head}{mark}{tail:03} km");
            prop_assert_eq!(typed::usage(&text, UsageUnit::Miles).unwrap().value, f64::from(n), "{}", text);
        }
    }

    /// One character of a North American VIN taken for another of its alphabet is told, but where the
    /// regulation gives both the same value (A, J and 1; B, K, S and 2; and so on), or at its own place.
    #[test]
    fn one_wrong_character_is_told(at in 0usize..17, to in 0usize..33) {
        const ALPHABET: &str = "0123456789ABCDEFGHJKLMNPRSTUVWXYZ";
        const VALUES: &str = "012345678912345678123457923456789";
        let right = "1M8GDM9AXKP042788";
        // A published worked example of the check digit (from memory): its ninth character is X.
        prop_assert_eq!(vin(right).check, Some(CheckDigit::Agrees));
        let new = ALPHABET.chars().nth(to).unwrap();
        let old = right.chars().nth(at).unwrap();
        let value = |c: char| VALUES.chars().nth(ALPHABET.find(c).unwrap()).unwrap();
        // The first character decides where it was given; it stays.
        prop_assume!(at != 0 && new != old && value(new) != value(old));
        let wrong: String = right.chars().enumerate().map(|(i, c)| if i == at { new } else { c }).collect();
        let check = vin(&wrong).check;
        prop_assert!(matches!(check, Some(CheckDigit::Disagrees { .. })), "{}: {:?}", wrong, check);
    }

    /// A table of any text is judged line by line: what is good, known and wrong adds up, and papers are
    /// given only when nothing is wrong.
    #[test]
    fn a_table_of_anything_adds_up(body in "[ -~\\n]{0,200}") {
        let (c, families) = harbour_office();
        let r = papers_table::read(&format!("date,km,what\n{body}"), TableKind::Ledger, &c, &families, false, &table());
        prop_assert_eq!(r.lines, r.good + r.duplicates + r.faulty);
        prop_assert!(r.faults.is_empty() || r.papers.is_empty());
        prop_assert!(!r.faults.is_empty() || r.papers.len() == r.good);
    }

    /// Years end on the same day of a later month, or on its last.
    #[test]
    fn an_interval_ends_in_the_right_month(y in 1990i16..2060, m in 1i8..=12, d in 1i8..=31, months in 1i32..120) {
        let Ok(from) = Date::new(y, m, d) else { return Ok(()) };
        let to = years_on(from, f64::from(months) / 12.0);
        let counted = (i32::from(to.year()) * 12 + i32::from(to.month())) - (i32::from(y) * 12 + i32::from(m));
        prop_assert_eq!(counted, months);
        prop_assert!(to.day() == d || (to.day() < d && to.day() == to.days_in_month()));
    }
}

/// The sheet with an interval on the belt, and a candidate with entries on it.
fn worked(usage: Option<f64>, years: Option<f64>, entries: &[(&str, f64, &str)]) -> Assessment {
    let interval = json!({"id": "belt", "name": "Belt", "job": "belt-job", "usage": usage, "years": years});
    let mut interval = interval;
    interval.as_object_mut().unwrap().retain(|_, v| !v.is_null());
    let list: Vec<Value> = entries
        .iter()
        .map(|(d, km, e)| {
            json!({"date": d, "usage": {"value": km, "unit": "km"}, "evidence": e, "performs": [{"family": "test", "interval": "belt"}]})
        })
        .collect();
    let sheets = [family(&with(sheet(), "/intervals", json!([interval])))];
    // Every paper was seen: what none of them says was not done.
    judged(&sheets, &cand(&with(with(candidate(), "/papers_seen", json!(true)), "/ledger", json!(list))))
}

#[test]
fn due_times_are_those_of_a_day_by_day_count() {
    // Every day of past and plan is walked through; work falls due on the first day on which either clock has
    // run out, and is done on that day, or on the day of purchase when that is later.
    let (built, as_of) = (date(2020, 6, 1), date(2026, 6, 1));
    let cost = 300.0 + 5.0 * 60.0;
    type Case<'a> = (Option<f64>, Option<f64>, &'a [(&'a str, f64)]);
    let cases: [Case<'_>; 6] = [
        (Some(20_000.0), None, &[("2025-06-01", 66_000.0)]),
        (None, Some(2.0), &[("2025-01-31", 61_000.0)]),
        (Some(30_000.0), Some(1.5), &[("2026-01-01", 74_000.0)]),
        (Some(12_000.0), Some(1.0), &[]),
        (Some(90_000.0), Some(7.0), &[]),
        (Some(14_000.0), None, &[("2023-06-01", 40_000.0)]),
    ];
    for (usage, years, done) in cases {
        let entries: Vec<(&str, f64, &str)> = done.iter().map(|(d, u)| (*d, *u, "invoice_naming_part")).collect();
        let a = worked(usage, years, &entries);
        // With an entry believed at 0.97, the rest of the mixture is that it was never done.
        let count = |last: Option<(Date, f64)>| {
            let (mut at, mut driven) = last.unwrap_or((built, 0.0));
            let (mut overdue, mut ahead) = (0.0, 0.0);
            let runs_out = |day: Date, gone: f64, at: Date, driven: f64| {
                usage.is_some_and(|u| gone - driven >= u - 1e-9) || years.is_some_and(|y| day >= years_on(at, y))
            };
            // Late when it ran out before the day of purchase.
            let before = as_of.yesterday().unwrap();
            if runs_out(before, 80_000.0 - 15_000.0 / 365.25, at, driven) {
                overdue += 1.0;
                (at, driven) = (as_of, 80_000.0);
            }
            for n in 0..=1095 {
                let day = as_of.saturating_add(jiff::Span::new().days(n));
                let gone = 80_000.0 + 15_000.0 * n as f64 / 365.25;
                if runs_out(day, gone, at, driven) {
                    ahead += 1.0;
                    (at, driven) = (day, gone);
                }
            }
            (overdue, ahead)
        };
        let believed = done.last().map(|(d, u)| (d.parse().unwrap(), *u));
        let (yes, no) = (believed.map(|b| count(Some(b))), count(None));
        let mix = |pick: fn((f64, f64)) -> f64| yes.map_or_else(|| pick(no), |y| 0.97 * pick(y) + 0.03 * pick(no));
        let due = &a.due[0];
        assert!((due.now - mix(|x| x.0) * cost).abs() < 1e-6, "{usage:?} {years:?}: {} {}", due.now, mix(|x| x.0));
        assert!(
            (due.times_in_plan - mix(|x| x.1)).abs() < 0.04,
            "{usage:?} {years:?}: {} {}",
            due.times_in_plan,
            mix(|x| x.1)
        );
    }
}

#[test]
fn what_moved_is_the_difference_of_two_judgements_and_its_own_opposite() {
    let (c, families) = harbour_office();
    let mut with = c.clone();
    let entry = quick_line::read("118000 2026-03 timing belt itemised", &c, &families, &table()).entry.unwrap();
    with.add_paper(Paper::Entry(entry));
    let (before, after) = (judged(&families, &c), judged(&families, &with));
    let there = moved(&before, &after, &table());
    let back = moved(&after, &before, &table());
    assert!((there.bill.by - (after.bill.mean - before.bill.mean)).abs() < 1e-9);
    assert!((there.bill.by + back.bill.by).abs() < 1e-9 && (there.limit.by + back.limit.by).abs() < 1e-9);
    assert_eq!(there.points[0].at.point, "wet-belt");
    assert!(there.points.windows(2).all(|p| p[0].money.by.abs() >= p[1].money.by.abs()));
    assert!(there.points.len() <= 6 && there.work.iter().any(|w| w.done.by > 0.05));
    let nothing = moved(&before, &before, &table());
    assert!(nothing.points.is_empty() && nothing.work.is_empty() && nothing.bill.by.abs() < 1e-12);
    // A lean judgement tells the same.
    let lean = assess_to(&with, &families, &table(), Depth::Lean).unwrap();
    assert_eq!(moved(&before, &lean, &table()), there);
}

#[test]
fn a_question_about_work_says_what_the_paper_would_move() {
    let (c, families) = harbour_office();
    let now = judged(&families, &c);
    let asked = questions(&c, &families, &table(), &Budget::default()).unwrap();
    let work: Vec<_> = asked.iter().filter(|q| matches!(q.ask, Ask::Work { .. })).collect();
    assert_eq!(work.len(), now.due.iter().filter(|d| d.now >= 1.0).count().min(12));
    for q in &work {
        // Proof can at most take away the work's own money, and what care and the points it renews add.
        assert!(q.bill < 0.0, "{q:?}");
        // Half of what it would lift the limit above the price likely paid: the seller has it as likely as not.
        let paid = now.value.limit.min(now.value.asking);
        let lifted = (now.value.with_more(q.bill) - paid).max(0.0) - (now.value.limit - paid).max(0.0);
        assert!((q.value_of_information - 0.5 * lifted).abs() < 1e-6);
    }
    // Money alone decides the order where no answer lifts the surplus above nought.
    let money: Vec<f64> =
        asked.iter().filter(|q| q.blocker.is_none() && q.value_of_information < 1e-9).map(|q| q.bill.abs()).collect();
    assert!(money.windows(2).all(|w| w[0] >= w[1] - 1e-9), "{money:?}");
}

fn report(vin: &str, plate: &str) -> HistoryReport {
    let text = json!({"format": "ticksage-history/2", "source": "Register", "asked_on": "2026-05-01", "vin": vin, "plate": plate,
        "items": [{"item": "finance", "state": "marked", "note": "Marker of 2021."}, {"item": "stolen", "state": "clear"}],
        "readings": [{"date": "2024-01-01", "usage": {"value": 50_000, "unit": "km"}, "source": "test"}]});
    documents::read_history(&text.to_string()).unwrap()
}

#[test]
fn a_report_is_taken_for_this_vehicle_alone() {
    let of = |vin: &str, plate: &str| cand(&with(with(candidate(), "/vin", json!(vin)), "/plate", json!(plate)));
    let r = report("HSBFM2K48H1N13705", "HS 4106");
    assert!(mismatch(&r, &of("hsbfm2k48 h1n13705", "")).is_none(), "blanks and case count for nothing");
    assert!(mismatch(&r, &of("HSBFM2K48H1N13706", "HS 4106")).unwrap().contains("VIN"));
    assert!(mismatch(&r, &of("", "hs-4106")).is_none());
    assert!(mismatch(&r, &of("", "HS 4107")).unwrap().contains("plate"));
    // A plate may have changed: where both VINs are known they decide.
    assert!(mismatch(&r, &of("HSBFM2K48H1N13705", "HS 1")).is_none());
    assert_eq!(plate(" hs-41 06 "), "HS4106");
    let papers = r.papers();
    assert_eq!(papers.len(), 3);
    let Paper::Provenance(p) = &papers[0] else { panic!() };
    assert_eq!((p.item, p.state), (ProvenanceKind::Finance, ProvenanceState::Marked));
    assert_eq!(p.note, "Marker of 2021. (Register, 2026-05-01)");
    let broken = documents::read_history("{\"format\": \"ticksage-history/2\", \"items\": [{\"item\": \"ghost\"}]}")
        .unwrap_err();
    assert!(broken.iter().any(|f| f.path.starts_with("/items/0")), "{broken:?}");
}

#[test]
fn papers_are_the_same_by_day_reading_and_words() {
    let entry = |note: &str, km: u32| {
        let c = cand(&with(
            candidate(),
            "/ledger",
            json!([{"date": "2024-01-01", "usage": {"value": km, "unit": "km"}, "evidence": "invoice", "note": note}]),
        ));
        key(&c.papers().next().unwrap())
    };
    assert_eq!(entry("Oil  and Filter ", 50_000), entry("oil and filter", 50_000));
    assert_ne!(entry("oil and filter", 50_000), entry("oil", 50_000));
    assert_ne!(entry("oil", 50_000), entry("oil", 50_001));
    // A document is its bare self and its papers.
    let (c, _) = harbour_office();
    let mut whole = c.without_papers();
    assert_eq!(whole.papers().count(), 0);
    c.papers().for_each(|p| whole.add_paper(p));
    assert_eq!(whole, c);
}

#[test]
fn a_choice_outside_its_range_and_a_strange_clock_are_refused_by_name() {
    let families = [family(&sheet())];
    for (odometer, path) in [
        (json!({"usage": {"value": 5, "unit": "h"}}), "/odometer/usage/unit"),
        (json!({"usage": {"value": 90_000, "unit": "km"}, "low": {"value": 95_000, "unit": "km"}}), "/odometer/usage"),
        (json!({"usage": {"value": 90_000, "unit": "km"}, "high": {"value": 85_000, "unit": "km"}}), "/odometer/usage"),
        (json!({"usage": {"value": 9_000_000, "unit": "km"}}), "/odometer/usage/value"),
    ] {
        let faults = candidate::candidate_faults(&cand(&with(candidate(), "/odometer", odometer.clone())), &families);
        assert!(faults.iter().any(|f| f.path == path), "{odometer}: {faults:?}");
    }
    let good = json!({"usage": {"value": 90_000, "unit": "km"}, "low": {"value": 82_000, "unit": "km"}, "high": {"value": 99_000, "unit": "km"}});
    let a = judged(&families, &cand(&with(candidate(), "/odometer", good)));
    let [low, high] = a.usage_range.unwrap();
    assert!((a.usage_now - 90_000.0).abs() < 1e-9);
    assert!((low.usage - 82_000.0).abs() < 1e-6 && (high.usage - 99_000.0).abs() < 1e-6);
    assert!(low.bill < high.bill, "what has run farther costs more");
}
