//! How well free lines of adverts are read: 306 invented ones in a hundred wordings, each with what it says.

#![allow(clippy::cast_precision_loss)]

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde_json::Value;
use ticksage_core::base::units::{Usage, UsageUnit};
use ticksage_core::documents::buyer::{Buyer, Plan};
use ticksage_core::documents::care_level::CareLevel;
use ticksage_core::formats::pattern_library::library;
use ticksage_core::formats::talk_tables::tables;
use ticksage_core::questions::screening::Screening;
use ticksage_core::reading::advert_reading::AdvertReading;

const TODAY: Date = Date::constant(2026, 11, 27);

/// Of one field: what was read, of that what is right, and what there was to read.
#[derive(Default)]
struct Count {
    read: usize,
    right: usize,
    there: usize,
}

fn field(told: &AdvertReading, of: &str) -> Option<String> {
    match of {
        "price" => told.asking.map(|m| format!("{:.0}", m.get())),
        "km" => told.usage.filter(|u| u.unit == UsageUnit::Km).map(|u| format!("{:.0}", u.value)),
        "mi" => told.usage.filter(|u| u.unit == UsageUnit::Miles).map(|u| format!("{:.0}", u.value)),
        "year" => told.built.map(|d| d.year().to_string()),
        "currency" => told.currency.clone(),
        "fuel" => told.built_as.get("power").cloned(),
        "gearbox" => told.built_as.get("gearbox").cloned(),
        "body" => told.built_as.get("size").cloned(),
        _ => None,
    }
}

/// A body as the size class that it stands for.
fn wanted(of: &str, v: &Value) -> Option<String> {
    match (of, v.as_str()) {
        ("body", Some(body)) => Some(match body {
            "van" | "pickup" => "van".to_owned(),
            _ => "large".to_owned(),
        }),
        (_, Some(text)) => Some(text.to_owned()),
        (_, None) => v.as_i64().map(|n| n.to_string()),
    }
}

#[test]
fn free_lines_are_read_as_they_are_meant() {
    let lines: Vec<Value> = serde_json::from_str(include_str!("../fixtures/adverts.json")).unwrap();
    assert!(lines.len() >= 200);
    let screening = Screening {
        families: &[],
        library: library(),
        tables: tables(),
        currency: "EUR".to_owned(),
        rates: BTreeMap::new(),
        plan: Plan {
            years: 3.0,
            usage_a_year: Usage { value: 15_000.0, unit: UsageUnit::Km },
            use_: BTreeMap::new(),
            care: CareLevel::default(),
        },
        buyer: Buyer::default(),
        today: TODAY,
    };
    let mut counts: BTreeMap<&str, Count> = BTreeMap::new();
    let mut wrong = Vec::new();
    for l in &lines {
        let text = l["line"].as_str().unwrap();
        let told = screening.read(text)[0].reading.clone();
        for of in ["price", "km", "mi", "year", "currency", "fuel", "gearbox", "body"] {
            // A field that the line leaves open is not counted.
            let Some(v) = l.get(of) else { continue };
            let (found, meant) = (field(&told, of), wanted(of, v));
            let c = counts.entry(of).or_default();
            c.read += usize::from(found.is_some());
            c.there += usize::from(meant.is_some());
            c.right += usize::from(found.is_some() && found == meant);
            if found != meant {
                wrong.push(format!("{of}: {found:?}, not {meant:?}: {text}"));
            }
        }
    }
    for (of, c) in &counts {
        let (precision, recall) = (c.right as f64 / c.read.max(1) as f64, c.right as f64 / c.there.max(1) as f64);
        println!("{of:9} precision {precision:.3} recall {recall:.3} of {}", c.there);
    }
    println!("{}", wrong.join("\n"));
    for (of, c) in &counts {
        let (precision, recall) = (c.right as f64 / c.read.max(1) as f64, c.right as f64 / c.there.max(1) as f64);
        assert!(precision >= 0.98, "{of}: precision {precision}");
        assert!(recall >= 0.95, "{of}: recall {recall}");
    }
}
