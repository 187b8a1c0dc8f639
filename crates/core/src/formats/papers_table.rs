//! Ledger entries and readings as a table: CSV with a heading, every line judged, all of it or nothing.

use std::collections::{BTreeSet, HashSet};

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Usage, UsageUnit};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::job::PartGrade;
use crate::documents::paper::{DateKnown, Evidence, LedgerEntry, Paper, Reading};
use crate::documents::reference::{IntervalRef, PointRef};
use crate::formats::table_reader::{CellFaults, Columns, LineFault, Refusals, Row, Table};
use crate::reading::quick_line::{Vocabulary, meant};
use crate::reading::typed;
use crate::validation::paper;

/// Which table it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TableKind {
    /// Service history.
    Ledger,
    /// Readings of the clock.
    Readings,
}

/// A table, read.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct TableReading {
    /// Lines that hold something, the heading not counted.
    pub lines: usize,
    /// Lines that can be taken in.
    pub good: usize,
    /// Lines that say what is stored already, or what an earlier line says.
    pub duplicates: usize,
    /// Lines with something wrong.
    pub faulty: usize,
    /// What is wrong, line by line: the first [`SHOWN`](crate::formats::table_reader::SHOWN) of them.
    pub faults: Vec<LineFault>,
    /// The papers, for storing; empty unless every line is good or a duplicate.
    #[serde(skip)]
    pub papers: Vec<Paper>,
    /// The first few as they would be stored.
    pub examples: Vec<Paper>,
    /// Entries whose words were taken for failure points or scheduled work.
    pub matched: usize,
}

/// Papers shown as examples.
const EXAMPLES: usize = 5;

/// Columns by every heading that is understood.
const COLUMNS: Columns = &[
    ("date", &["date", "day", "when"]),
    ("usage", &["usage", "odometer", "reading", "mileage", "km", "kilometres", "miles", "mi", "hours", "h"]),
    ("unit", &["unit"]),
    ("what", &["what", "work", "note", "description", "done"]),
    ("renews", &["renews"]),
    ("performs", &["performs"]),
    ("evidence", &["evidence", "proof"]),
    ("grade", &["grade", "parts", "part"]),
    ("revised", &["revised"]),
    ("who", &["who", "by", "workshop"]),
    ("cost", &["cost", "price", "amount"]),
    ("source", &["source", "from"]),
];

/// Reads a table for a candidate. `matching` takes words of entries for failure points and scheduled work where
/// they are sure and the line names none outright.
#[must_use]
pub fn read(
    text: &str,
    table: TableKind,
    candidate: &Candidate,
    families: &[Family],
    matching: bool,
    a: &Assumptions,
) -> TableReading {
    let mut out = TableReading::default();
    let mut refusals = Refusals::default();
    match Table::open(text, COLUMNS, &["date", "usage"]) {
        Err(faults) => refusals.add_all(1, faults),
        Ok(opened) => {
            let written = opened.heading.written("usage");
            let lines = Lines {
                unit: written.and_then(|h| typed::unit(&h)).unwrap_or(candidate.usage.unit),
                names: COLUMNS.iter().map(|(c, _)| (*c, opened.heading.name(c))).collect(),
                table,
                candidate: candidate.without_papers(),
                families,
                vocabulary: (matching && table == TableKind::Ledger).then(|| Vocabulary::of(candidate, families, a)),
            };
            let mut known: HashSet<String> = candidate.papers().map(|p| key(&p)).collect();
            out.lines = opened.each(|row| match row {
                Err((line, message)) => {
                    out.faulty += 1;
                    refusals.add(line, "", message);
                }
                Ok(row) => match lines.paper(&row) {
                    Err(faults) => {
                        out.faulty += 1;
                        refusals.add_all(row.line, faults);
                    }
                    Ok(paper) if known.insert(key(&paper)) => out.take(paper),
                    Ok(_) => out.duplicates += 1,
                },
            });
            if out.lines == 0 {
                refusals.add(1, "", "there is no line below the heading");
            }
        }
    }
    out.faults = refusals.0;
    if !out.faults.is_empty() {
        out.papers.clear();
    }
    out
}

impl TableReading {
    fn take(&mut self, paper: Paper) {
        self.good += 1;
        if let Paper::Entry(e) = &paper {
            self.matched += usize::from(!(e.renews.is_empty() && e.performs.is_empty()));
        }
        if self.examples.len() < EXAMPLES {
            self.examples.push(paper.clone());
        }
        self.papers.push(paper);
    }
}

/// What makes two papers the same: the day, the reading, and what is said.
#[must_use]
pub fn key(paper: &Paper) -> String {
    let said = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ").to_lowercase();
    match paper {
        Paper::Entry(e) => format!("e {} {:.0} {}", e.date, e.usage.on_clock(), said(&e.note)),
        Paper::Reading(r) => format!("r {} {:.0} {}", r.date, r.usage.on_clock(), said(&r.source)),
        Paper::Advisory(x) => format!("a {} {}", x.date, said(&x.text)),
        Paper::Provenance(p) => format!("p {:?} {:?} {}", p.item, p.state, said(&p.note)),
        Paper::Scan(s) => format!("s {} {} {}", s.date, said(&s.from), crate::formats::scan_table::write(s)),
        Paper::Campaign(c) => format!("c {} {} {:?} {}", c.family, c.campaign, c.state, said(&c.note)),
    }
}

/// What a line is read by.
struct Lines<'a> {
    /// The unit of usage where a line says none.
    unit: UsageUnit,
    /// Each column's heading as written.
    names: Vec<(&'static str, String)>,
    table: TableKind,
    candidate: Candidate,
    families: &'a [Family],
    vocabulary: Option<Vocabulary>,
}

impl Lines<'_> {
    fn name(&self, column: &str) -> String {
        self.names.iter().find(|n| n.0 == column).map_or_else(|| column.to_owned(), |n| n.1.clone())
    }

    fn paper(&self, row: &Row<'_>) -> Result<Paper, CellFaults> {
        let mut faults = CellFaults::new();
        let mut fault = |column: &str, message: String| faults.push((self.name(column), message));
        let date = match row.cell("date").map(typed::date) {
            None => {
                fault("date", "the date is missing".to_owned());
                None
            }
            Some(Err(message)) => {
                fault("date", message);
                None
            }
            Some(Ok(date)) => Some(date),
        };
        let unit = match row.cell("unit") {
            None => self.unit,
            Some(word) => typed::unit(word).unwrap_or_else(|| {
                fault("unit", format!("\"{word}\" is no unit: write km, mi or h"));
                self.unit
            }),
        };
        let usage = row.cell("usage").and_then(|t| typed::usage(t, unit));
        if usage.is_none() {
            let typed = row.cell("usage").unwrap_or("");
            fault("usage", format!("\"{typed}\" is not a usage: write 120500"));
        }
        let paper = match self.table {
            TableKind::Readings => None,
            TableKind::Ledger => Some(self.entry(row, &mut fault)),
        };
        let (Some((date, known)), Some(usage)) = (date, usage) else { return Err(faults) };
        let paper = match paper {
            None => self.reading(row, date, known, usage),
            Some(e) => Paper::Entry(LedgerEntry { date, known, usage, ..e }),
        };
        if faults.is_empty() {
            faults = self.sense(&paper);
        }
        if faults.is_empty() { Ok(paper) } else { Err(faults) }
    }

    fn reading(&self, row: &Row<'_>, date: jiff::civil::Date, known: DateKnown, usage: Usage) -> Paper {
        let source = row.cell("source").or_else(|| row.cell("what"));
        Paper::Reading(Reading { date, known, usage, source: source.unwrap_or("").to_owned() })
    }

    /// The entry but for its date and usage.
    fn entry(&self, row: &Row<'_>, fault: &mut impl FnMut(&str, String)) -> LedgerEntry {
        let cell = |column: &str| row.cell(column);
        let mut word = |column: &str, known: bool, choices: &str| {
            if let Some(typed) = cell(column).filter(|_| !known) {
                fault(column, format!("\"{typed}\" is not understood: write {choices}"));
            }
        };
        let evidence = cell("evidence").map(typed::evidence);
        word("evidence", evidence.is_none_or(|e| e.is_some()), "itemised, invoice, stamp, log or said");
        let grade = cell("grade").map(typed::grade);
        word("grade", grade.is_none_or(|g| g.is_some()), "original, equivalent, used or unknown");
        let revised = cell("revised").map(typed::yes);
        word("revised", revised.is_none_or(|r| r.is_some()), "yes or no");
        let cost = cell("cost").map(typed::money);
        word("cost", cost.is_none_or(|c| c.is_some()), "an amount, as 340 or 340.50");
        let pairs = |column: &str| {
            cell(column)
                .map(|t| t.split([';', ' ', '+']).filter(|x| !x.is_empty()).map(pair).collect::<Vec<_>>())
                .unwrap_or_default()
        };
        let (points, work) = (pairs("renews"), pairs("performs"));
        word("renews", points.iter().all(Option::is_some), "family/point");
        word("performs", work.iter().all(Option::is_some), "family/interval");
        let note = cell("what").unwrap_or("").to_owned();
        let mut renews: Vec<PointRef> =
            points.into_iter().flatten().map(|(family, point)| PointRef { family, point }).collect();
        let mut performs: Vec<IntervalRef> =
            work.into_iter().flatten().map(|(family, interval)| IntervalRef { family, interval }).collect();
        if let Some(v) = self.vocabulary.as_ref().filter(|_| renews.is_empty() && performs.is_empty()) {
            (renews, performs) = meant(&v.terms(&note));
        }
        LedgerEntry {
            date: self.candidate.as_of,
            usage: self.candidate.usage,
            renews,
            performs,
            grade: grade.flatten().unwrap_or(PartGrade::Unknown),
            revised: revised.flatten().unwrap_or(false),
            first_design: false,
            reason: None,
            evidence: evidence.flatten().unwrap_or(Evidence::SellersWord),
            note,
            who: cell("who").unwrap_or("").to_owned(),
            cost: cost.flatten(),
            known: DateKnown::Day,
        }
    }

    /// What makes no sense in a paper on its own, by column.
    fn sense(&self, paper: &Paper) -> CellFaults {
        let faults = paper::paper_faults(paper, &self.candidate, self.families);
        let named: BTreeSet<(String, String)> = faults
            .into_iter()
            .map(|f| {
                let column = f.path.split('/').nth(1).unwrap_or("").to_owned();
                (self.name(if column == "note" { "what" } else { &column }), f.message)
            })
            .collect();
        named.into_iter().collect()
    }
}

fn pair(text: &str) -> Option<(String, String)> {
    text.split_once('/').map(|(f, p)| (f.to_owned(), p.to_owned()))
}
