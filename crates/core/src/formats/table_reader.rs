//! Tables as people paste them: CSV with a heading, every line judged.
//!
//! The separator is a comma, a semicolon or a tab, by the heading. Headings are matched without regard to case;
//! each column has several names. Faults name the line of the file, the heading counted.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Faults that are shown.
pub const SHOWN: usize = 200;

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

/// What is wrong in a line: column and message.
pub(crate) type CellFaults = Vec<(String, String)>;

/// Columns, each with every heading that is understood; its first name is its own.
pub(crate) type Columns = &'static [(&'static str, &'static [&'static str])];

/// The faults of a table, the first [`SHOWN`] of them.
#[derive(Debug, Default)]
pub(crate) struct Refusals(pub Vec<LineFault>);

impl Refusals {
    pub fn add(&mut self, line: u64, column: &str, message: impl Into<String>) {
        if self.0.len() < SHOWN {
            self.0.push(LineFault { line, column: column.to_owned(), message: message.into() });
        }
    }

    pub fn add_all(&mut self, line: u64, faults: CellFaults) {
        faults.into_iter().for_each(|(column, message)| self.add(line, &column, message));
    }
}

/// The heading of a table: where each column is.
#[derive(Debug)]
pub(crate) struct Heading {
    /// The column's own name, its place, and its heading as written.
    at: Vec<(&'static str, usize, String)>,
}

impl Heading {
    fn of(written: &csv::StringRecord, columns: Columns, needed: &[&str]) -> Result<Self, CellFaults> {
        let (mut at, mut faults) = (Vec::new(), CellFaults::new());
        for (i, heading) in written.iter().enumerate() {
            let name = heading.trim().to_lowercase();
            match columns.iter().find(|(_, names)| names.contains(&name.as_str())) {
                Some((column, _)) => at.push((*column, i, heading.trim().to_owned())),
                None if name.is_empty() => {}
                None => faults.push((heading.trim().to_owned(), "no column of this name is understood".to_owned())),
            }
        }
        for name in needed.iter().filter(|n| !at.iter().any(|c| c.0 == **n)) {
            faults.push(((*name).to_owned(), format!("the heading has no column \"{name}\"")));
        }
        if faults.is_empty() { Ok(Self { at }) } else { Err(faults) }
    }

    /// The column's heading as written; its own name where it has none.
    pub fn name(&self, column: &str) -> String {
        self.at.iter().find(|c| c.0 == column).map_or_else(|| column.to_owned(), |c| c.2.clone())
    }

    /// The column's heading in lower case, where it is there: some headings say the unit.
    pub fn written(&self, column: &str) -> Option<String> {
        self.at.iter().find(|c| c.0 == column).map(|c| c.2.to_lowercase())
    }
}

/// A line of a table.
pub(crate) struct Row<'r> {
    /// Line of the file.
    pub line: u64,
    heading: &'r Heading,
    record: &'r csv::StringRecord,
}

impl<'r> Row<'r> {
    /// What is written in a column; none where it is empty or not there.
    pub fn cell(&self, column: &str) -> Option<&'r str> {
        let (_, i, _) = self.heading.at.iter().find(|c| c.0 == column)?;
        self.record.get(*i).map(str::trim).filter(|c| !c.is_empty())
    }
}

/// A table, opened.
pub(crate) struct Table<'t> {
    pub heading: Heading,
    text: &'t str,
    reader: csv::Reader<&'t [u8]>,
}

impl<'t> Table<'t> {
    /// Opens a table and reads its heading.
    ///
    /// # Errors
    /// What is wrong with the heading.
    pub fn open(text: &'t str, columns: Columns, needed: &[&str]) -> Result<Self, CellFaults> {
        let text = text.trim_start_matches('\u{feff}');
        let first = text.lines().find(|l| !l.trim().is_empty()).unwrap_or("");
        let separator = [b';', b'\t', b','].into_iter().find(|s| first.contains(char::from(*s))).unwrap_or(b',');
        let mut reader = csv::ReaderBuilder::new().delimiter(separator).flexible(true).from_reader(text.as_bytes());
        let written = reader.headers().map_err(|e| vec![(String::new(), e.to_string())])?.clone();
        Ok(Self { heading: Heading::of(&written, columns, needed)?, text, reader })
    }

    /// Takes every line that holds something, or the fault of one that cannot be read; how many there were.
    pub fn each(self, mut take: impl FnMut(Result<Row<'_>, (u64, String)>)) -> usize {
        let Self { heading, text, mut reader } = self;
        let mut lines = 0;
        for record in reader.records() {
            match record {
                Ok(record) if record.iter().all(|c| c.trim().is_empty()) => {}
                Ok(record) => {
                    lines += 1;
                    let line = record.position().map_or(0, |at| line_of(text, at));
                    take(Ok(Row { line, heading: &heading, record: &record }));
                }
                Err(e) => {
                    lines += 1;
                    let line = e.position().map_or(0, |at| line_of(text, at));
                    take(Err((line, format!("the line cannot be read: {e}"))));
                }
            }
        }
        lines
    }
}

/// The line that a record begins on: the reader's position lies before the empty lines that it passes over.
fn line_of(text: &str, at: &csv::Position) -> u64 {
    let rest = usize::try_from(at.byte()).ok().and_then(|from| text.as_bytes().get(from..)).unwrap_or_default();
    let empty = rest.iter().take_while(|b| matches!(b, b'\n' | b'\r')).filter(|b| **b == b'\n').count();
    at.line() + empty as u64
}

#[cfg(test)]
mod tests {
    use super::*;

    const COLUMNS: Columns = &[("usage", &["usage", "km"]), ("price", &["price"])];

    #[test]
    fn line_numbers_are_those_of_the_file_blank_lines_counted() {
        let table = Table::open("km;price\n1;2\n\n\n3;4\n", COLUMNS, &["usage"]).expect("a heading");
        assert_eq!(table.heading.written("usage").as_deref(), Some("km"));
        let mut seen = Vec::new();
        let lines = table.each(|row| {
            let row = row.expect("readable");
            seen.push((row.line, row.cell("usage").expect("usage").to_owned()));
        });
        assert_eq!((lines, seen), (2, vec![(2, "1".to_owned()), (5, "3".to_owned())]));
    }

    #[test]
    fn empty_lines_before_the_heading_count_too() {
        let table = Table::open("\n\r\nkm;price\r\n\r\n1;2\r\n", COLUMNS, &["usage"]).expect("a heading");
        let mut seen = Vec::new();
        table.each(|row| seen.push(row.expect("readable").line));
        assert_eq!(seen, [5]);
    }

    #[test]
    fn a_heading_that_is_not_understood_is_named() {
        let faults = Table::open("km,colour\n1,red\n", COLUMNS, &["usage", "price"]).err().expect("refused");
        let columns: Vec<&str> = faults.iter().map(|f| f.0.as_str()).collect();
        assert_eq!(columns, ["colour", "price"]);
    }
}
