//! Ledger entries and readings as a table: CSV with a heading, every line judged, all of it or nothing.

use crate::base::units::Usage;
use crate::base::units::UsageUnit;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::job::PartGrade;
use crate::documents::paper::DateKnown;
use crate::documents::paper::Evidence;
use crate::documents::paper::LedgerEntry;
use crate::documents::paper::Paper;
use crate::documents::paper::Reading;
use crate::documents::reference::IntervalRef;
use crate::documents::reference::PointRef;
use crate::reading::quick_line::Vocabulary;
use crate::reading::quick_line::meant;
use crate::reading::typed;
use crate::validation::paper;
use serde::Deserialize;
use serde::Serialize;
use std::collections::BTreeSet;
use std::collections::HashSet;
use utoipa::ToSchema;

/// Which table it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Table {
    /// Service history.
    Ledger,
    /// Readings of the clock.
    Readings,
}

/// A table, read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TableReading {
    /// Lines that hold something, the heading not counted.
    pub lines: usize,
    /// Lines that can be taken in.
    pub good: usize,
    /// Lines that say what is stored already, or what an earlier line says.
    pub duplicates: usize,
    /// Lines with something wrong.
    pub faulty: usize,
    /// What is wrong, line by line: the first [`SHOWN`] of them.
    pub faults: Vec<LineFault>,
    /// The papers, for storing; empty unless every line is good or a duplicate.
    #[serde(skip)]
    pub papers: Vec<Paper>,
    /// The first few as they would be stored.
    pub examples: Vec<Paper>,
    /// Entries whose words were taken for failure points or scheduled work.
    pub matched: usize,
}

/// Faults that are shown.
pub const SHOWN: usize = 200;

/// Papers shown as examples.
const EXAMPLES: usize = 5;

/// What is wrong with one line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct LineFault {
    /// Line of the file, from 1 on, the heading counted.
    pub line: u64,
    /// The column's heading, where one cell is wrong.
    pub column: String,
    /// What is wrong and how to mend it.
    pub message: String,
}

/// Columns by every heading that is understood.
const COLUMNS: [(&str, &[&str]); 12] = [
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

/// Reads a table for a candidate. The separator is a comma, a semicolon or a tab, by the heading.
/// `matching` takes words of entries for failure points and scheduled work where they are sure and the
/// line names none outright.
#[must_use]
pub fn read(
    text: &str,
    table: Table,
    candidate: &Candidate,
    families: &[Family],
    matching: bool,
    a: &Assumptions,
) -> TableReading {
    let text = text.trim_start_matches('\u{feff}');
    let mut out = TableReading {
        lines: 0,
        good: 0,
        duplicates: 0,
        faulty: 0,
        faults: Vec::new(),
        papers: Vec::new(),
        examples: Vec::new(),
        matched: 0,
    };
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
    let columns = match Columns::of(&headings, candidate.usage.unit) {
        Ok(c) => c,
        Err(faults) => {
            faults.into_iter().for_each(|(column, message)| out.refuse(1, &column, message));
            return out;
        }
    };
    let lines = Lines {
        columns,
        table,
        candidate: candidate.without_papers(),
        families,
        vocabulary: (matching && table == Table::Ledger).then(|| Vocabulary::of(candidate, families, a)),
    };
    let mut known: HashSet<String> = candidate.papers().map(|p| key(&p)).collect();
    for record in reader.records() {
        let record = match record {
            Ok(r) => r,
            Err(e) => {
                out.lines += 1;
                let line = e.position().map_or(0, csv::Position::line);
                out.faulty += 1;
                out.refuse(line, "", format!("the line cannot be read: {e}"));
                continue;
            }
        };
        if record.iter().all(|c| c.trim().is_empty()) {
            continue;
        }
        out.lines += 1;
        let line = record.position().map_or(0, csv::Position::line);
        match lines.paper(&record) {
            Err(faults) => {
                out.faulty += 1;
                faults.into_iter().for_each(|(column, message)| out.refuse(line, &column, message));
            }
            Ok(paper) if known.insert(key(&paper)) => {
                out.good += 1;
                if let Paper::Entry(e) = &paper {
                    out.matched += usize::from(!(e.renews.is_empty() && e.performs.is_empty()));
                }
                if out.examples.len() < EXAMPLES {
                    out.examples.push(paper.clone());
                }
                out.papers.push(paper);
            }
            Ok(_) => out.duplicates += 1,
        }
    }
    if out.lines == 0 {
        out.refuse(1, "", "there is no line below the heading".to_owned());
    }
    if !out.faults.is_empty() {
        out.papers.clear();
    }
    out
}

impl TableReading {
    fn refuse(&mut self, line: u64, column: &str, message: String) {
        if self.faults.len() < SHOWN {
            self.faults.push(LineFault { line, column: column.to_owned(), message });
        }
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

/// Where each column stands.
struct Columns {
    at: Vec<(&'static str, usize, String)>,
    unit: UsageUnit,
}

impl Columns {
    fn of(headings: &csv::StringRecord, usual: UsageUnit) -> Result<Self, Vec<(String, String)>> {
        let mut at = Vec::new();
        let mut faults = Vec::new();
        let mut unit = usual;
        for (i, heading) in headings.iter().enumerate() {
            let name = heading.trim().to_lowercase();
            match COLUMNS.iter().find(|(_, names)| names.contains(&name.as_str())) {
                Some((column, _)) => {
                    if *column == "usage" {
                        unit = typed::unit(&name).unwrap_or(usual);
                    }
                    at.push((*column, i, heading.trim().to_owned()));
                }
                None if name.is_empty() => {}
                None => faults.push((heading.trim().to_owned(), "no column of this name is understood".to_owned())),
            }
        }
        for needed in ["date", "usage"] {
            if !at.iter().any(|c| c.0 == needed) {
                faults.push((needed.to_owned(), format!("the heading has no column \"{needed}\"")));
            }
        }
        if faults.is_empty() { Ok(Self { at, unit }) } else { Err(faults) }
    }

    fn cell<'r>(&self, record: &'r csv::StringRecord, column: &str) -> Option<&'r str> {
        let (_, i, _) = self.at.iter().find(|c| c.0 == column)?;
        record.get(*i).map(str::trim).filter(|c| !c.is_empty())
    }

    fn heading(&self, column: &str) -> String {
        self.at.iter().find(|c| c.0 == column).map_or_else(|| column.to_owned(), |c| c.2.clone())
    }
}

/// What a line is read by.
struct Lines<'a> {
    columns: Columns,
    table: Table,
    candidate: Candidate,
    families: &'a [Family],
    vocabulary: Option<Vocabulary>,
}

type LineFaults = Vec<(String, String)>;

impl Lines<'_> {
    fn paper(&self, record: &csv::StringRecord) -> Result<Paper, LineFaults> {
        let mut faults = LineFaults::new();
        let columns = &self.columns;
        let mut fault = |column: &str, message: String| faults.push((columns.heading(column), message));
        let date = match columns.cell(record, "date").map(typed::date) {
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
        let unit = match columns.cell(record, "unit") {
            None => columns.unit,
            Some(word) => typed::unit(word).unwrap_or_else(|| {
                fault("unit", format!("\"{word}\" is no unit: write km, mi or h"));
                columns.unit
            }),
        };
        let usage = columns.cell(record, "usage").and_then(|t| typed::usage(t, unit));
        if usage.is_none() {
            let typed = columns.cell(record, "usage").unwrap_or("");
            fault("usage", format!("\"{typed}\" is not a usage: write 120500"));
        }
        let paper = match self.table {
            Table::Readings => None,
            Table::Ledger => Some(self.entry(record, &mut fault)),
        };
        let (Some((date, known)), Some(usage)) = (date, usage) else { return Err(faults) };
        let paper = match paper {
            None => self.reading(record, date, known, usage),
            Some(e) => Paper::Entry(LedgerEntry { date, known, usage, ..e }),
        };
        if faults.is_empty() {
            faults = self.sense(&paper);
        }
        if faults.is_empty() { Ok(paper) } else { Err(faults) }
    }

    fn reading(&self, record: &csv::StringRecord, date: jiff::civil::Date, known: DateKnown, usage: Usage) -> Paper {
        let source = self.columns.cell(record, "source").or_else(|| self.columns.cell(record, "what"));
        Paper::Reading(Reading { date, known, usage, source: source.unwrap_or("").to_owned() })
    }

    /// The entry but for its date and usage.
    fn entry(&self, record: &csv::StringRecord, fault: &mut impl FnMut(&str, String)) -> LedgerEntry {
        let cell = |column: &str| self.columns.cell(record, column);
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
            evidence: evidence.flatten().unwrap_or(Evidence::SellersWord),
            note,
            who: cell("who").unwrap_or("").to_owned(),
            cost: cost.flatten(),
            known: DateKnown::Day,
        }
    }

    /// What makes no sense in a paper on its own, by column.
    fn sense(&self, paper: &Paper) -> LineFaults {
        let faults = paper::paper(paper, &self.candidate, self.families);
        let named: BTreeSet<(String, String)> = faults
            .into_iter()
            .map(|f| {
                let column = f.path.split('/').nth(1).unwrap_or("").to_owned();
                (self.columns.heading(if column == "note" { "what" } else { &column }), f.message)
            })
            .collect();
        named.into_iter().collect()
    }
}

fn pair(text: &str) -> Option<(String, String)> {
    text.split_once('/').map(|(f, p)| (f.to_owned(), p.to_owned()))
}
