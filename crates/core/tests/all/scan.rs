//! Scans: trouble codes and the published services, held against a general-purpose decoding library's results
//! (`fixtures/scan.py`) and against the published scheme, and what a scan says of the checks.

#![allow(clippy::cast_precision_loss)]

use crate::common::{cand, candidate, family, sheet, with};
use jiff::civil::date;
use proptest::prelude::*;
use serde_json::{Value, json};
use ticksage_core::Assumptions;
use ticksage_core::base::trouble_code::{Code, CodeArea, CodeSystem, CylinderSeries, DefinedBy};
use ticksage_core::documents::finding::FindingResult;
use ticksage_core::documents::scan::{Monitor, MonitorState, NotRead, Scan, ScanItem};
use ticksage_core::evidence::scan_findings::{RecentlyCleared, findings};
use ticksage_core::formats::{base_sheets, scan_table};
use ticksage_core::reading::obd::{self, AnswerFault, REQUESTS, messages};
use ticksage_core::validation::family;

fn fixture() -> Value {
    serde_json::from_str(include_str!("../fixtures/scan.json")).unwrap()
}

fn blank() -> Scan {
    Scan::new(date(2026, 6, 1), "test", false)
}

fn took(item: ScanItem, answer: &str) -> Scan {
    let mut scan = blank();
    obd::take(&mut scan, item, answer).unwrap_or_else(|e| panic!("{answer}: {e}"));
    scan
}

fn code(text: &str) -> Code {
    text.parse().unwrap()
}

#[test]
fn single_figures_are_those_of_the_library() {
    let f = fixture();
    let read = |list: &str, item: ScanItem, of: fn(&Scan) -> f64, within: f64| {
        let cases = f["single"][list].as_array().unwrap();
        assert!(cases.len() >= 200);
        for case in cases {
            let answer = format!("{}\r\r>", case["answer"].as_str().unwrap());
            let (told, theirs) = (of(&took(item, &answer)), case["value"].as_f64().unwrap());
            assert!((told - theirs).abs() <= within, "{list} {answer}: {told} against {theirs}");
        }
    };
    read("coolant", ScanItem::Coolant, |s| s.coolant.unwrap(), 1e-9);
    read("trim", ScanItem::ShortOne, |s| s.trims[0].short.unwrap(), 0.051);
    read("warm_ups", ScanItem::WarmUps, |s| f64::from(s.warm_ups.unwrap()), 1e-9);
    read("cleared", ScanItem::ClearedKm, |s| f64::from(s.cleared_km.unwrap()), 1e-9);
    read("voltage", ScanItem::Voltage, |s| s.voltage.unwrap(), 1e-9);
}

#[test]
fn readiness_bits_are_those_of_the_library() {
    for case in fixture()["status"].as_array().unwrap() {
        let answer = case["answer"].as_str().unwrap();
        let scan = took(ScanItem::Readiness, answer);
        assert_eq!(scan.mil, case["mil"].as_bool(), "{answer}");
        let ours: serde_json::Map<String, Value> = scan
            .monitors
            .iter()
            .map(|m| (serde_json::to_value(m.monitor).unwrap().as_str().unwrap().to_owned(), json!(m.complete)))
            .collect();
        assert_eq!(Value::Object(ours), case["monitors"], "{answer}");
    }
}

#[test]
fn lists_of_codes_are_those_of_the_library_on_either_bus() {
    for case in fixture()["codes"].as_array().unwrap() {
        let answer = case["answer"].as_str().unwrap();
        let told: Vec<String> =
            took(ScanItem::Stored, answer).stored.unwrap().iter().map(|c| c.to_string().to_lowercase()).collect();
        let theirs = case["codes"].as_array().unwrap().iter().map(|c| c.as_str().unwrap().to_lowercase());
        let mut theirs: Vec<String> = theirs.collect();
        theirs.sort();
        let mut sorted = told.clone();
        sorted.sort();
        assert_eq!(sorted, theirs, "{answer}");
    }
}

#[test]
fn identification_numbers_in_several_frames_are_those_of_the_library() {
    for case in fixture()["vins"].as_array().unwrap() {
        let scan = took(ScanItem::Vin, case["answer"].as_str().unwrap());
        assert_eq!(scan.vin.as_deref(), case["vin"].as_str());
    }
}

#[test]
fn codes_are_written_as_the_library_writes_them_and_read_back() {
    for pair in fixture()["every"].as_array().unwrap() {
        let bits = u16::try_from(pair[0].as_u64().unwrap()).unwrap();
        let [high, low] = bits.to_be_bytes();
        let told = Code::from_bytes(high, low).unwrap();
        assert_eq!(told.to_string(), pair[1].as_str().unwrap().to_uppercase());
        assert_eq!(code(&told.to_string().to_lowercase()), told);
        assert_eq!(told.bytes(), [high, low]);
    }
    assert_eq!(Code::from_bytes(0, 0), None);
    for bad in ["", "P", "P0", "P030", "P03011", "X0301", "P4301", "P03G1", "P-301", "P0000", "Ⅰ0301"] {
        assert!(bad.parse::<Code>().is_err(), "{bad}");
    }
}

#[test]
fn the_scheme_of_j2012_is_read_off_a_code() {
    // SAE J2012: letter, who defines it, area; the published series of injectors and misfires.
    use CodeSystem::{Body, Chassis, Network, Powertrain};
    use DefinedBy::{Maker, Reserved, Scheme};
    for (text, system, by, area) in [
        ("P0171", Powertrain, Scheme, Some(CodeArea::FuelAndAir)),
        ("P0299", Powertrain, Scheme, Some(CodeArea::FuelAndAir)),
        ("P0351", Powertrain, Scheme, Some(CodeArea::IgnitionOrMisfire)),
        ("P0420", Powertrain, Scheme, Some(CodeArea::Emissions)),
        ("P0506", Powertrain, Scheme, Some(CodeArea::SpeedAndIdle)),
        ("P0606", Powertrain, Scheme, Some(CodeArea::ControlUnit)),
        ("P0730", Powertrain, Scheme, Some(CodeArea::Transmission)),
        ("P0A80", Powertrain, Scheme, Some(CodeArea::Hybrid)),
        ("P1300", Powertrain, Maker, None),
        ("P2463", Powertrain, Scheme, Some(CodeArea::Emissions)),
        ("P3100", Powertrain, Maker, None),
        ("P3400", Powertrain, Scheme, None),
        ("C0035", Chassis, Scheme, None),
        ("C1201", Chassis, Maker, None),
        ("C3000", Chassis, Reserved, None),
        ("B2799", Body, Maker, None),
        ("U0100", Network, Scheme, None),
        ("U1000", Network, Maker, None),
        ("U3003", Network, Scheme, None),
    ] {
        let parts = code(text).parts();
        assert_eq!((parts.system, parts.defined_by, parts.area), (system, by, area), "{text}");
    }
    for n in 1..=12u8 {
        let series = |text: String| {
            let parts = code(&text).parts();
            (parts.series, parts.cylinder)
        };
        assert_eq!(series(format!("P02{n:02}")), (Some(CylinderSeries::InjectorCircuit), Some(n)));
        assert_eq!(series(format!("P03{n:02}")), (Some(CylinderSeries::Misfire), Some(n)));
        assert_eq!(series(format!("P03{}", 50 + n)), (Some(CylinderSeries::Coil), Some(n)));
        for k in 0..3 {
            let text = format!("P02{}", 61 + 3 * (n - 1) + k);
            assert_eq!(series(text), (Some(CylinderSeries::InjectorLowHighOrBalance), Some(n)));
        }
    }
    for none in ["P0300", "P0313", "P0200", "P0213", "P0260", "P0297", "P0350", "P0363", "P030A", "P1301"] {
        assert_eq!(code(none).parts().cylinder, None, "{none}");
    }
    assert!(code("P0304").fits("P030x") && code("P0304").fits("p0304") && !code("P0314").fits("P030X"));
}

#[test]
fn everything_that_adapters_say_around_an_answer_is_understood() {
    let one = vec![vec![0x41, 0x05, 0x7b]];
    for answer in [
        "41 05 7B\r\r>",
        "0105\r41 05 7B\r\r>",
        "41057B",
        "SEARCHING...\r41 05 7B\r>",
        "SEARCHING...41 05 7B\r>",
        "BUS INIT: OK\r41 05 7B\r>",
        "  41 05 7b \r\n\r\n>",
    ] {
        assert_eq!(messages(answer, "0105").unwrap(), one, "{answer}");
    }
    let two = messages("41 05 7B\r41 05 7C\r>", "0105").unwrap();
    assert_eq!(two.len(), 2);
    let fault = |answer: &str| messages(answer, "0105").unwrap_err();
    assert_eq!(fault("NO DATA\r>"), AnswerFault::NoData);
    assert_eq!(fault("?\r>"), AnswerFault::NotUnderstood);
    assert_eq!(fault("7F 01 12\r>"), AnswerFault::Refused);
    for lost in ["UNABLE TO CONNECT", "CAN ERROR", "BUS INIT: ...ERROR", "STOPPED", "BUFFER FULL", "<DATA ERROR"] {
        assert!(matches!(fault(lost), AnswerFault::NoLink(_)), "{lost}");
    }
    for garbage in ["41 0Z", "hello", "41 06 7B", "0: 41 05", "", ">", "41 05 7B ZZ", "ÄÖ"] {
        assert!(matches!(fault(garbage), AnswerFault::Garbage(_)), "{garbage}: {:?}", fault(garbage));
    }
    // Three hexadecimal digits alone announce frames that never come.
    assert_eq!(fault("014\r0: 41 05 01 02 03 04\r>"), AnswerFault::BrokenOff);
}

#[test]
fn a_broken_answer_leaves_the_scan_as_it_was() {
    for (item, answer) in [
        (ScanItem::Stored, "43 04 03 01\r>"),
        (ScanItem::Vin, "49 02 01 31 32 33\r>"),
        (ScanItem::Readiness, "41 01 83\r>"),
        (ScanItem::Coolant, "41 05\r>"),
        (ScanItem::ClearedKm, "41 31 0A\r>"),
        (ScanItem::Vin, "014\r0: 49 02 01 00 01 02\r1: FF FE FD 31 32 33 34\r2: 35 36 37 38 39 30 31\r>"),
    ] {
        let mut scan = blank();
        assert!(obd::take(&mut scan, item, answer).is_err(), "{item:?}");
        assert_eq!(scan, blank());
    }
}

fn any_scan() -> impl Strategy<Value = Scan> {
    let codes = proptest::option::of(proptest::collection::vec(
        (1u16..=65535).prop_map(|b| {
            let [high, low] = b.to_be_bytes();
            Code::from_bytes(high, low).unwrap()
        }),
        0..9,
    ));
    let lists = (codes.clone(), codes.clone(), codes);
    let figures = (
        proptest::option::of(0u8..=255),
        proptest::option::of(0u16..=65535),
        proptest::option::of(-40i32..=215),
        proptest::option::of(0u32..=65535),
        proptest::option::of((0u8..=255, 0u8..=255)),
        any::<bool>(),
        "[A-HJ-NPR-Z0-9]{17}",
    );
    (lists, figures).prop_map(|((stored, pending, permanent), (warm, km, coolant, volts, trim, mil, vin))| {
        let tidy = |list: Option<Vec<Code>>| {
            list.map(|mut l| {
                l.sort_unstable();
                l.dedup();
                l
            })
        };
        let mut scan = Scan {
            stored: tidy(stored),
            pending: tidy(pending),
            permanent: tidy(permanent),
            warm_ups: warm,
            cleared_km: km,
            coolant: coolant.map(f64::from),
            voltage: volts.map(|v| f64::from(v) / 1000.0),
            mil: Some(mil),
            vin: Some(vin),
            ..blank()
        };
        let percent = |b: u8| ((f64::from(b) - 128.0) * 1000.0 / 128.0).round() / 10.0;
        if let Some((short, long)) = trim {
            scan.set_trim(2, false, percent(short));
            scan.set_trim(2, true, percent(long));
        }
        for monitor in [Monitor::Misfire, Monitor::Catalyst, Monitor::Evap] {
            scan.monitors.push(MonitorState { monitor, complete: mil });
        }
        scan
    })
}

proptest! {
    #![proptest_config(crate::common::cases(200))]

    #[test]
    fn what_a_simulated_control_unit_holds_is_read_back_on_either_bus(held in any_scan(), can in any::<bool>()) {
        let mut scan = blank();
        let offers = obd::OFFERED.iter().flat_map(|r| {
            let answer = obd::answer(&held, r, can).join("\r");
            obd::offered(&messages(&answer, r).unwrap())
        }).collect::<Vec<u8>>();
        for (item, request) in REQUESTS.into_iter().skip(1) {
            let answer = obd::answer(&held, request, can).join("\r") + "\r\r>";
            let told = obd::take(&mut scan, item, &answer);
            if let Some(pid) = request.strip_prefix("01") {
                let listed = offers.contains(&u8::from_str_radix(pid, 16).unwrap());
                prop_assert_eq!(listed, told.is_ok(), "{}: {:?}", request, told);
            }
        }
        prop_assert_eq!(scan, held);
    }

    #[test]
    fn a_table_gives_the_same_scan_back(held in any_scan(), missing in any::<bool>()) {
        let mut held = held;
        if missing {
            held.missing.push(NotRead { what: ScanItem::Vin, why: "no answer, \"none\" at all; truly".to_owned() });
        }
        let read = scan_table::read(&scan_table::write(&held), date(2026, 6, 1), "a file").unwrap();
        prop_assert_eq!(read, held);
    }

    #[test]
    fn no_answer_makes_the_reading_of_it_fail_hard(answer in "\\PC{0,60}", n in 0..REQUESTS.len()) {
        let _ = obd::take(&mut blank(), REQUESTS[n].0, &answer);
    }
}

#[test]
fn no_cell_of_a_table_is_a_formula_and_it_reads_back_the_same() {
    let mut held = Scan::new(date(2026, 5, 1), "=HYPERLINK(\"http://x\")", false);
    held.set_trim(1, true, -3.2);
    held.missing.push(NotRead { what: ScanItem::Vin, why: "+none".to_owned() });
    held.missing.push(NotRead { what: ScanItem::Coolant, why: "'=quoted".to_owned() });
    let table = scan_table::write(&held);
    for cell in table.lines().flat_map(|l| l.split(',')) {
        let text = cell.trim_start_matches('"');
        assert!(
            !text.starts_with(['=', '+', '@']) && (!text.starts_with('-') || text.parse::<f64>().is_ok()),
            "{cell}"
        );
    }
    assert_eq!(scan_table::read(&table, date(2026, 6, 1), "a file").unwrap(), held);
}

#[test]
fn a_table_with_slips_tells_each_line_and_takes_nothing() {
    let table = "what,name,value,unit\nvin,,HSBFM2K43J1N18364,\nstored,,P0301,\nstored,,P9301,\nlamp,,maybe,\n\
                 coolant,,194,°F\ncleared,,20,leagues\nmonitor,soul,complete,\ntrim,long 3,2,%\nodd,,1,\ndate,,2030-01-01,\nwarm_ups,,300,\n";
    let faults = scan_table::read(table, date(2026, 6, 1), "a file").unwrap_err();
    let at: Vec<(u64, &str)> = faults.iter().map(|f| (f.line, f.column.as_str())).collect();
    let expected =
        [(4, "value"), (5, "value"), (7, "unit"), (8, "name"), (9, "name"), (10, "what"), (11, "value"), (12, "value")];
    assert_eq!(at, expected);
    let good = "what;value;unit\ncoolant;194;°F\ncleared;100;mi\nstored;none;\n";
    let scan = scan_table::read(good, date(2026, 6, 1), "a file").unwrap();
    assert!((scan.coolant.unwrap() - 90.0).abs() < 1e-9 && scan.cleared_km == Some(161));
    assert_eq!(scan.stored, Some(Vec::new()));
    for empty in ["", "what,value\n", "a,b\n1,2\n", "what,value\ndate,2026-01-01\n"] {
        assert!(scan_table::read(empty, date(2026, 6, 1), "a file").is_err(), "{empty}");
    }
}

fn scanned() -> Value {
    let check = |id: &str, outcomes: usize, scan: Value| {
        let labels: Vec<Value> = (0..outcomes).map(|n| json!({"label": format!("{n}")})).collect();
        let mut leak = vec![0.0; outcomes];
        leak[0] = 1.0;
        json!({"id": id, "name": id, "phase": "scan", "how": "Read.", "minutes": 1, "outcomes": labels, "leak": leak, "scan": scan})
    };
    let mut trims = check("trims", 3, json!([{"kind": "trims"}]));
    trims["measure"] =
        json!({"quantity": "trim", "unit": "%", "limits": [10, 20], "higher_is_worse": true, "source": "x"});
    let mut hot = check("hot", 2, json!([{"kind": "coolant"}]));
    hot["measure"] = json!({"quantity": "off", "unit": "°C", "limits": [5], "higher_is_worse": true, "source": "x",
        "by": {"kind": "outside", "from": 80, "to": 100}});
    let find = json!([{"codes": ["P030x"], "outcome": 1}, {"codes": ["P0016", "P0017"], "outcome": 2}]);
    with(
        sheet(),
        "/checks",
        json!([
            check("known", 3, json!([{"kind": "codes", "find": find}])),
            check("other", 3, json!([{"kind": "any_code", "pending": 1, "stored": 2}])),
            check("mil", 2, json!([{"kind": "mil", "on": 1}])),
            check("cleared", 2, json!([{"kind": "recently_cleared", "outcome": 1}])),
            check("vin", 2, json!([{"kind": "vin", "differs": 1}])),
            trims,
            hot
        ]),
    )
}

fn told(scan: &Scan) -> Vec<(String, usize, Option<f64>)> {
    let c = cand(&with(candidate(), "/vin", json!("HSBFM2K43J1N18364")));
    let list = findings(scan, &c, &[family(&scanned())], &Assumptions::default());
    list.into_iter().map(|f| (f.finding.check.clone(), f.outcome, f.finding.reading)).collect()
}

#[test]
fn a_scan_answers_the_checks_that_it_can() {
    assert_eq!(told(&blank()), []);
    let quiet = Scan { stored: Some(Vec::new()), mil: Some(false), ..blank() };
    assert_eq!(
        told(&quiet).iter().map(|t| (t.0.as_str(), t.1)).collect::<Vec<_>>(),
        [("known", 0), ("other", 0), ("mil", 0)]
    );
    let mut loud = Scan {
        stored: Some(vec![code("P0302"), code("P1234")]),
        pending: Some(vec![code("P0016"), code("B1000")]),
        mil: Some(true),
        vin: Some("HSBFM2K43J1N18365".to_owned()),
        warm_ups: Some(3),
        coolant: Some(72.0),
        ..blank()
    };
    loud.set_trim(1, false, -4.0);
    loud.set_trim(1, true, -8.5);
    loud.set_trim(2, true, 3.0);
    let expected = [
        ("known", 2, None),
        ("other", 2, None),
        ("mil", 1, None),
        ("cleared", 1, None),
        ("vin", 1, None),
        ("trims", 1, Some(12.5)),
        ("hot", 1, Some(8.0)),
    ];
    assert_eq!(told(&loud), expected.map(|(n, o, r)| (n.to_owned(), o, r)));
    // A code that a sheet knows is not told again among the others.
    let known = Scan { stored: Some(vec![code("P0302")]), ..blank() };
    assert_eq!(told(&known).iter().map(|t| t.1).collect::<Vec<_>>(), [1, 0]);
    let soft = Scan { stored: Some(Vec::new()), pending: Some(vec![code("B1000")]), ..blank() };
    assert_eq!(told(&soft).iter().map(|t| t.1).collect::<Vec<_>>(), [0, 1]);
    // A finding says which codes led to it, and measured ones keep their reading.
    let c = cand(&candidate());
    let list = findings(&loud, &c, &[family(&scanned())], &Assumptions::default());
    assert_eq!(list[0].finding.note, "P0016 P0302");
    assert!(list.iter().all(|f| (f.finding.result == FindingResult::Measured) == f.finding.reading.is_some()));
    // Without a number in the papers there is nothing to compare with.
    assert!(list.iter().all(|f| f.finding.check != "vin"));
}

#[test]
fn a_memory_is_wiped_by_few_warm_ups_a_short_distance_or_many_open_monitors() {
    let a = Assumptions::default();
    let with = |warm_ups, cleared_km, open: usize| {
        let monitors = [Monitor::Catalyst, Monitor::Evap, Monitor::OxygenSensor, Monitor::OxygenHeater];
        let monitors =
            monitors.into_iter().enumerate().map(|(k, monitor)| MonitorState { monitor, complete: k >= open });
        Scan { warm_ups, cleared_km, monitors: monitors.collect(), ..blank() }.recently_cleared(&a)
    };
    assert_eq!(with(None, None, 0), None);
    assert_eq!(with(Some(200), Some(9000), 2), None);
    assert_eq!(with(Some(5), Some(9000), 0), Some(RecentlyCleared::WarmUps { count: 5 }));
    assert_eq!(with(Some(6), Some(100), 0), Some(RecentlyCleared::Distance { km: 100 }));
    assert_eq!(with(Some(6), Some(101), 3), Some(RecentlyCleared::Monitors { open: 3 }));
    assert_eq!(with(None, None, 3), Some(RecentlyCleared::Monitors { open: 3 }));
    // After two hundred warm-ups, or a thousand kilometres, they wait for something else.
    assert_eq!(with(Some(200), None, 3), None);
    assert_eq!(with(None, Some(1000), 4), None);
}

#[test]
fn rules_that_lead_nowhere_are_refused_with_their_path() {
    let bad = |scan: Value| {
        let mut v = scanned();
        v["checks"][0]["scan"] = scan;
        family::family_faults(&serde_json::from_value(v).unwrap()).into_iter().map(|f| f.path).collect::<Vec<_>>()
    };
    assert_eq!(bad(json!([{"kind": "mil", "on": 3}])), ["/checks/0/scan/0"]);
    assert_eq!(
        bad(json!([{"kind": "codes", "find": [{"codes": ["P03"], "outcome": 1}]}])),
        ["/checks/0/scan/0/find/0/codes"]
    );
    assert_eq!(bad(json!([{"kind": "trims"}])), ["/checks/0/scan/0"]);
    assert_eq!(bad(json!([{"kind": "codes", "find": [{"codes": ["Pxxxx", "U01xx"], "outcome": 2}]}])), [""; 0]);
}

#[test]
fn every_scan_of_the_demo_leads_to_what_its_base_sheet_asks() {
    let sheets = base_sheets::sheets().unwrap();
    let c = cand(&with(candidate(), "/families", json!([{"id": "base-vehicle", "version": 1}])));
    let scan =
        Scan { stored: Some(vec![code("P0420")]), mil: Some(true), warm_ups: Some(1), coolant: Some(60.0), ..blank() };
    let used: Vec<_> = sheets.into_iter().filter(|f| f.id == "base-vehicle").collect();
    let list = findings(&scan, &c, &used, &Assumptions::default());
    let told: Vec<(&str, &str)> = list.iter().map(|f| (f.finding.check.as_str(), f.label.as_str())).collect();
    let expected = [
        ("scan-lamp", "commanded on"),
        ("scan-codes", "stored or permanent"),
        ("scan-wiped", "wiped lately"),
        ("coolant-hot", "far off"),
    ];
    assert_eq!(told, expected);
}
