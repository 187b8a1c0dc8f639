//! A scan as a table: CSV with the columns what, name, value and unit, one line for each thing read.

use jiff::civil::Date;

use crate::base::trouble_code::Code;
use crate::base::word::{of_word, word};
use crate::documents::scan::{Monitor, MonitorState, NotRead, Scan, ScanItem};
use crate::formats::table_reader::{Columns, LineFault, Refusals, Table};
use crate::formats::tables::{plain, unplain};
use crate::reading::measured::convert;
use crate::reading::typed;

const HEADINGS: [&str; 4] = ["what", "name", "value", "unit"];

/// Writes a scan; [`read`] gives the same scan back.
#[must_use]
pub fn write(scan: &Scan) -> String {
    let mut rows: Vec<[String; 4]> = Vec::new();
    let mut row = |what: &str, name: &str, value: String, unit: &str| {
        rows.push([what.to_owned(), name.to_owned(), value, unit.to_owned()]);
    };
    row("date", "", scan.date.to_string(), "");
    row("from", "", scan.from.clone(), "");
    if scan.simulated {
        row("simulated", "", "yes".to_owned(), "");
    }
    if let Some(vin) = &scan.vin {
        row("vin", "", vin.clone(), "");
    }
    if let Some(mil) = scan.mil {
        row("mil", "", if mil { "on" } else { "off" }.to_owned(), "");
    }
    for (what, codes) in [("stored", &scan.stored), ("pending", &scan.pending), ("permanent", &scan.permanent)] {
        match codes {
            Some(codes) if codes.is_empty() => row(what, "", "none".to_owned(), ""),
            Some(codes) => codes.iter().for_each(|c| row(what, "", c.to_string(), "")),
            None => {}
        }
    }
    for m in &scan.monitors {
        row("monitor", &word(&m.monitor), if m.complete { "complete" } else { "open" }.to_owned(), "");
    }
    if let Some(n) = scan.warm_ups {
        row("warm_ups", "", n.to_string(), "");
    }
    if let Some(n) = scan.cleared_km {
        row("cleared", "", n.to_string(), "km");
    }
    if let Some(v) = scan.coolant {
        row("coolant", "", v.to_string(), "°C");
    }
    if let Some(v) = scan.voltage {
        row("voltage", "", v.to_string(), "V");
    }
    for t in &scan.trims {
        for (name, value) in [("short", t.short), ("long", t.long)] {
            if let Some(v) = value {
                row("trim", &format!("{name} {}", t.bank), v.to_string(), "%");
            }
        }
    }
    for x in &scan.missing {
        row("missing", &word(&x.what), x.why.clone(), "");
    }
    let mut out = csv::Writer::from_writer(Vec::new());
    // Writing to memory does not fail.
    let _ = out.write_record(HEADINGS);
    for row in &rows {
        let _ = out.write_record(row.iter().map(|cell| plain(cell)));
    }
    out.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}

/// Columns by every heading that is understood.
const COLUMNS: Columns = &[("what", &["what"]), ("name", &["name"]), ("value", &["value"]), ("unit", &["unit"])];

/// Reads a scan from a table; the day of judgement where the table bears none.
///
/// # Errors
/// Every line that cannot be read, and why.
pub fn read(text: &str, as_of: Date, name: &str) -> Result<Scan, Vec<LineFault>> {
    let mut refusals = Refusals::default();
    let mut scan = Scan::new(as_of, name, false);
    match Table::open(text, COLUMNS, &["what", "value"]) {
        Err(_) => refusals.add(1, "", "the first line names the columns: what, name, value, unit"),
        Ok(table) => {
            table.each(|row| match row {
                Err((line, message)) => refusals.add(line, "", message),
                Ok(row) => {
                    let cell = |column: &str| row.cell(column).unwrap_or("");
                    let what = cell("what").to_lowercase();
                    let item = Item { name: unplain(cell("name")), value: unplain(cell("value")), unit: cell("unit") };
                    if what.is_empty() && item.value.is_empty() {
                        return;
                    }
                    if let Err((column, message)) = item.enter(&mut scan, &what, as_of) {
                        refusals.add(row.line, column, message);
                    }
                }
            });
            if refusals.0.is_empty() && scan.is_empty() {
                refusals.add(1, "", "the table holds nothing that was read");
            }
        }
    }
    if refusals.0.is_empty() { Ok(scan) } else { Err(refusals.0) }
}

/// What is wrong with an item: the column, and why.
type Wrong = (&'static str, String);

fn bad(message: String) -> Wrong {
    ("value", message)
}

/// One thing read, as written on a line.
#[derive(Clone, Copy)]
struct Item<'r> {
    name: &'r str,
    value: &'r str,
    unit: &'r str,
}

impl Item<'_> {
    /// Enters the item into the scan.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    fn enter(self, scan: &mut Scan, what: &str, as_of: Date) -> Result<(), Wrong> {
        let value = self.value;
        match what {
            "date" => {
                scan.date = typed::date(value).map_err(bad)?.0;
                if scan.date > as_of {
                    return Err(bad(format!("{} lies after the day of judgement, {as_of}", scan.date)));
                }
            }
            "from" => value.chars().take(120).collect::<String>().clone_into(&mut scan.from),
            "simulated" => {
                scan.simulated = typed::yes(value).ok_or_else(|| bad(format!("\"{value}\" is neither yes nor no")))?;
            }
            "vin" if value.len() <= 40 => scan.vin = Some(value.to_uppercase()),
            "vin" => return Err(bad("is longer than any identification number".to_owned())),
            "mil" | "lamp" => scan.mil = Some(self.one_of(&["on"], &["off"], "neither on nor off")?),
            "stored" => self.code(&mut scan.stored)?,
            "pending" => self.code(&mut scan.pending)?,
            "permanent" => self.code(&mut scan.permanent)?,
            "monitor" => scan.monitors.push(self.monitor()?),
            "warm_ups" => scan.warm_ups = Some(self.within("", 0.0, 255.0)?.round() as u8),
            "cleared" => scan.cleared_km = Some(self.within("km", 0.0, 65_535.0)?.round() as u16),
            "coolant" => scan.coolant = Some(self.within("°C", -60.0, 250.0)?),
            "voltage" => scan.voltage = Some(self.within("V", 0.0, 70.0)?),
            "trim" => {
                let (bank, long) = self.trim()?;
                scan.set_trim(bank, long, self.within("%", -100.0, 100.0)?);
            }
            "missing" => {
                let unknown = || ("name", format!("nothing is called \"{}\"", self.name));
                let what: ScanItem = of_word(self.name).ok_or_else(unknown)?;
                scan.missing.push(NotRead { what, why: value.chars().take(400).collect() });
            }
            _ => return Err(("what", format!("\"{what}\" is not known here"))),
        }
        Ok(())
    }

    /// Whether the value is one of the words for yes; the words for no are the others.
    fn one_of(self, yes: &[&str], no: &[&str], neither: &str) -> Result<bool, Wrong> {
        let value = self.value.to_lowercase();
        match value.as_str() {
            v if yes.contains(&v) => Ok(true),
            v if no.contains(&v) => Ok(false),
            _ => Err(bad(format!("\"{}\" is {neither}", self.value))),
        }
    }

    /// Adds a code to a list; "none" says that it was read and is empty.
    fn code(self, list: &mut Option<Vec<Code>>) -> Result<(), Wrong> {
        let list = list.get_or_insert_with(Vec::new);
        if !self.value.eq_ignore_ascii_case("none") {
            list.push(self.value.parse::<Code>().map_err(|e| bad(e.to_string()))?);
        }
        Ok(())
    }

    fn monitor(self) -> Result<MonitorState, Wrong> {
        let unknown = || ("name", format!("no monitor is called \"{}\"", self.name));
        let name = if self.name.eq_ignore_ascii_case("vapour") { "evap" } else { self.name };
        let monitor: Monitor = of_word(name).ok_or_else(unknown)?;
        let not = &["open", "incomplete", "not ready"];
        Ok(MonitorState { monitor, complete: self.one_of(&["complete", "ready"], not, "neither complete nor open")? })
    }

    /// Bank of a fuel trim, and whether it is the long one.
    fn trim(self) -> Result<(u8, bool), Wrong> {
        match self.name.to_lowercase().as_str() {
            "short 1" => Ok((1, false)),
            "long 1" => Ok((1, true)),
            "short 2" => Ok((2, false)),
            "long 2" => Ok((2, true)),
            name => Err(("name", format!("\"{name}\" is no trim: write short 1, long 1, short 2 or long 2"))),
        }
    }

    /// The value as a figure in the unit that is kept, within what it may be.
    fn within(self, to: &str, least: f64, most: f64) -> Result<f64, Wrong> {
        let Self { value, unit, .. } = self;
        let number: f64 = value
            .replace(',', ".")
            .parse()
            .map_err(|_| bad(format!("\"{value}\" is not a number: write it as 20.4")))?;
        let figure =
            convert(number, unit, to).ok_or_else(|| ("unit", format!("\"{unit}\" is not a unit of it: use {to}")))?;
        if (least..=most).contains(&figure) {
            Ok(figure)
        } else {
            Err(bad(format!("must lie between {least} and {most}")))
        }
    }
}
