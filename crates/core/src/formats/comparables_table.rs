//! Adverts of others as a table: every line judged, all of it or nothing.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::UsageUnit;
use crate::documents::candidate::{Candidate, Comparable, Example};
use crate::formats::table_reader::{CellFaults, Columns, LineFault, Refusals, Row, Table};
use crate::reading::typed;

/// Most comparables that a candidate holds.
pub const MOST: usize = crate::validation::limits::COMPARABLES;

/// A table of comparables, read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ComparablesReading {
    /// Lines that hold something, the heading not counted.
    pub lines: usize,
    /// Lines that say what is there already, or what an earlier line says.
    pub duplicates: usize,
    /// What is wrong, line by line: the first 200.
    pub faults: Vec<LineFault>,
    /// What can be added; empty unless every line is good or there already.
    pub comparables: Vec<Comparable>,
}

/// Columns by every heading that is understood.
const COLUMNS: Columns = &[
    ("price", &["price", "asked", "asking", "amount"]),
    ("usage", &["usage", "odometer", "mileage", "km", "kilometres", "miles", "mi", "hours", "h"]),
    ("unit", &["unit"]),
    ("built", &["built", "year", "registered", "first registered"]),
    ("example", &["example", "kind", "state"]),
];

/// What kind of example a word means; an empty one is typical.
#[must_use]
pub fn example(word: &str) -> Option<Example> {
    match word.trim().to_lowercase().replace([' ', '_', '-'], "").as_str() {
        "" | "typical" | "usual" => Some(Example::Typical),
        "wellsorted" | "sorted" => Some(Example::WellSorted),
        _ => None,
    }
}

/// Reads a table for a candidate.
#[must_use]
pub fn read(text: &str, candidate: &Candidate) -> ComparablesReading {
    let mut out = ComparablesReading { lines: 0, duplicates: 0, faults: Vec::new(), comparables: Vec::new() };
    let mut refusals = Refusals::default();
    match Table::open(text, COLUMNS, &["price", "usage"]) {
        Err(faults) => refusals.add_all(1, faults),
        Ok(table) => {
            let written = table.heading.written("usage");
            let usual = written.and_then(|h| typed::unit(&h)).unwrap_or(candidate.usage.unit);
            out.lines = table.each(|row| match row {
                Err((line, message)) => refusals.add(line, "", message),
                Ok(row) => match comparable(&row, usual, candidate) {
                    Err(faults) => refusals.add_all(row.line, faults),
                    Ok(new) if candidate.comparables.contains(&new) || out.comparables.contains(&new) => {
                        out.duplicates += 1;
                    }
                    Ok(new) => out.comparables.push(new),
                },
            });
            if out.lines == 0 {
                refusals.add(1, "", "there is no line below the heading");
            }
        }
    }
    if candidate.comparables.len() + out.comparables.len() > MOST {
        refusals.add(0, "", format!("more than {MOST} comparables in all: a few dozen say as much"));
    }
    out.faults = refusals.0;
    if !out.faults.is_empty() {
        out.comparables.clear();
    }
    out
}

/// The advert on a line.
fn comparable(row: &Row<'_>, usual: UsageUnit, candidate: &Candidate) -> Result<Comparable, CellFaults> {
    let mut faults = CellFaults::new();
    let mut fault = |column: &str, message: String| faults.push((column.to_owned(), message));
    let cell = |column: &str| row.cell(column).unwrap_or("");
    let price = typed::money(cell("price")).filter(|p| p.get() > 0.0);
    if price.is_none() {
        fault("price", format!("\"{}\" is no price above 0: write 4200", cell("price")));
    }
    let unit = row.cell("unit").map_or(Some(usual), typed::unit);
    let usage = unit.and_then(|u| typed::usage(cell("usage"), u));
    match usage {
        _ if unit.is_none() => fault("unit", format!("\"{}\" is no unit: write km, mi or h", cell("unit"))),
        None => fault("usage", format!("\"{}\" is not a usage: write 120500", cell("usage"))),
        Some(u) if u.unit.clock() != candidate.usage.unit.clock() => {
            fault("usage", "counts on another clock than the candidate".to_owned());
        }
        Some(_) => {}
    }
    let kind = example(cell("example"));
    if kind.is_none() {
        let typed = cell("example");
        fault("example", format!("\"{typed}\" is not understood: write typical or well-sorted"));
    }
    let built = (!cell("built").trim().is_empty()).then(|| typed::date(cell("built")));
    if let Some(Err(message)) = &built {
        fault("built", message.clone());
    }
    let built = built.and_then(Result::ok).map(|(date, _)| date);
    if built.is_some_and(|d| d > candidate.as_of) {
        fault("built", format!("\"{}\" lies ahead", cell("built")));
    }
    match (price, usage, kind) {
        (Some(price), Some(usage), Some(example)) if faults.is_empty() => {
            Ok(Comparable { price, usage, built, example })
        }
        _ => Err(faults),
    }
}
