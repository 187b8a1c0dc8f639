//! Adverts of others as a table: CSV with a heading, every line judged, all of it or nothing.

use crate::documents::candidate::Candidate;
use crate::documents::candidate::Comparable;
use crate::documents::candidate::Example;
use crate::formats::papers_table::LineFault;
use crate::formats::papers_table::SHOWN;
use crate::reading::typed;
use serde::Deserialize;
use serde::Serialize;
use utoipa::ToSchema;

/// Most comparables that a candidate holds.
pub const MOST: usize = 500;

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
const COLUMNS: [(&str, &[&str]); 4] = [
    ("price", &["price", "asked", "asking", "amount"]),
    ("usage", &["usage", "odometer", "mileage", "km", "kilometres", "miles", "mi", "hours", "h"]),
    ("unit", &["unit"]),
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

/// Reads a table for a candidate. The separator is a comma, a semicolon or a tab, by the heading.
#[must_use]
pub fn read(text: &str, candidate: &Candidate) -> ComparablesReading {
    let text = text.trim_start_matches('\u{feff}');
    let mut out = ComparablesReading { lines: 0, duplicates: 0, faults: Vec::new(), comparables: Vec::new() };
    let heading = text.lines().next().unwrap_or("");
    let separator = [b';', b'\t', b','].into_iter().find(|s| heading.contains(char::from(*s))).unwrap_or(b',');
    let mut reader = csv::ReaderBuilder::new().delimiter(separator).flexible(true).from_reader(text.as_bytes());
    let headings = match reader.headers() {
        Ok(h) => h.clone(),
        Err(e) => {
            out.refuse(1, "", e.to_string());
            return out;
        }
    };
    let mut at: [Option<usize>; 4] = [None; 4];
    let mut unit = candidate.usage.unit;
    for (i, heading) in headings.iter().enumerate() {
        let name = heading.trim().to_lowercase();
        match COLUMNS.iter().position(|(_, names)| names.contains(&name.as_str())) {
            Some(column) => {
                at[column] = Some(i);
                if column == 1 {
                    unit = typed::unit(&name).unwrap_or(unit);
                }
            }
            None if name.is_empty() => {}
            None => out.refuse(1, heading.trim(), "no column of this name is understood".to_owned()),
        }
    }
    for (column, name) in ["price", "usage"].into_iter().enumerate() {
        if at[column].is_none() {
            out.refuse(1, name, format!("the heading has no column \"{name}\""));
        }
    }
    if !out.faults.is_empty() {
        return out;
    }
    for record in reader.records() {
        let record = match record {
            Ok(r) => r,
            Err(e) => {
                let line = e.position().map_or(0, csv::Position::line);
                out.refuse(line, "", format!("the line cannot be read: {e}"));
                continue;
            }
        };
        let cell = |column: usize| at[column].and_then(|i| record.get(i)).map_or("", str::trim);
        if record.iter().all(|c| c.trim().is_empty()) {
            continue;
        }
        out.lines += 1;
        let line = record.position().map_or(0, csv::Position::line);
        let price = typed::money(cell(0)).filter(|p| p.get() > 0.0);
        if price.is_none() {
            out.refuse(line, "price", format!("\"{}\" is no price above 0: write 4200", cell(0)));
        }
        let unit = if cell(2).is_empty() { Some(unit) } else { typed::unit(cell(2)) };
        let usage = unit.and_then(|u| typed::usage(cell(1), u));
        match usage {
            _ if unit.is_none() => {
                out.refuse(line, "unit", format!("\"{}\" is no unit: write km, mi or h", cell(2)));
            }
            None => out.refuse(line, "usage", format!("\"{}\" is not a usage: write 120500", cell(1))),
            Some(u) if u.unit.clock() != candidate.usage.unit.clock() => {
                out.refuse(line, "usage", "counts on another clock than the candidate".to_owned());
            }
            Some(_) => {}
        }
        let kind = example(cell(3));
        if kind.is_none() {
            out.refuse(line, "example", format!("\"{}\" is not understood: write typical or well-sorted", cell(3)));
        }
        if let (Some(price), Some(usage), Some(example)) = (price, usage, kind) {
            let new = Comparable { price, usage, example };
            if candidate.comparables.contains(&new) || out.comparables.contains(&new) {
                out.duplicates += 1;
            } else {
                out.comparables.push(new);
            }
        }
    }
    if out.lines == 0 {
        out.refuse(1, "", "there is no line below the heading".to_owned());
    }
    if candidate.comparables.len() + out.comparables.len() > MOST {
        out.refuse(0, "", format!("more than {MOST} comparables in all: a few dozen say as much"));
    }
    if !out.faults.is_empty() {
        out.comparables.clear();
    }
    out
}

impl ComparablesReading {
    fn refuse(&mut self, line: u64, column: &str, message: String) {
        if self.faults.len() < SHOWN {
            self.faults.push(LineFault { line, column: column.to_owned(), message });
        }
    }
}
