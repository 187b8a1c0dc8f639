//! A scan as a table: CSV with the columns what, name, value and unit, one line for each thing read.

use crate::base::trouble_code::Code;
use crate::documents::scan::Monitor;
use crate::documents::scan::MonitorState;
use crate::documents::scan::NotRead;
use crate::documents::scan::Scan;
use crate::documents::scan::ScanItem;
use crate::formats::papers_table::LineFault;
use crate::reading::measured::convert;
use crate::reading::typed;
use jiff::civil::Date;
use serde::de::DeserializeOwned;

const HEADINGS: [&str; 4] = ["what", "name", "value", "unit"];

/// The word that a value is written as.
fn word<T: serde::Serialize>(value: &T) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

fn of_word<T: DeserializeOwned>(text: &str) -> Option<T> {
    serde_json::from_value(serde_json::Value::String(text.trim().to_lowercase().replace([' ', '-'], "_"))).ok()
}

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
    if let Some(lamp) = scan.lamp {
        row("lamp", "", if lamp { "on" } else { "off" }.to_owned(), "");
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
        let _ = out.write_record(row);
    }
    out.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}

/// Reads a scan from a table; the day of judgement where the table bears none.
///
/// # Errors
/// Every line that cannot be read, and why.
pub fn read(text: &str, as_of: Date, name: &str) -> Result<Scan, Vec<LineFault>> {
    let text = text.trim_start_matches('\u{feff}');
    let heading = text.lines().next().unwrap_or("");
    let separator = [b';', b'\t', b','].into_iter().find(|s| heading.contains(char::from(*s))).unwrap_or(b',');
    let mut reader = csv::ReaderBuilder::new().delimiter(separator).flexible(true).from_reader(text.as_bytes());
    let fault = |line: u64, column: &str, message: String| LineFault { line, column: column.to_owned(), message };
    let headings = match reader.headers() {
        Ok(h) => h.iter().map(|h| h.trim().to_lowercase()).collect::<Vec<_>>(),
        Err(e) => return Err(vec![fault(1, "", e.to_string())]),
    };
    let column = |name: &str| headings.iter().position(|h| h == name);
    let (Some(what), Some(value)) = (column("what"), column("value")) else {
        let message = "the first line names the columns: what, name, value, unit".to_owned();
        return Err(vec![fault(1, "", message)]);
    };
    let (name_at, unit_at) = (column("name"), column("unit"));
    let mut scan = Scan::new(as_of, name, false);
    let mut faults = Vec::new();
    for (k, record) in reader.records().enumerate() {
        let line = k as u64 + 2;
        let record = match record {
            Ok(r) => r,
            Err(e) => {
                faults.push(fault(line, "", e.to_string()));
                continue;
            }
        };
        let cell = |at: Option<usize>| at.and_then(|i| record.get(i)).map_or("", str::trim);
        let (what, value) = (cell(Some(what)).to_lowercase(), cell(Some(value)));
        if what.is_empty() && value.is_empty() {
            continue;
        }
        if let Err((column, message)) = line_in(&mut scan, &what, cell(name_at), value, cell(unit_at), as_of) {
            faults.push(fault(line, column, message));
        }
    }
    if faults.is_empty() && scan.is_empty() {
        faults.push(fault(1, "", "the table holds nothing that was read".to_owned()));
    }
    if faults.is_empty() { Ok(scan) } else { Err(faults) }
}

/// Takes one line in.
fn line_in(
    scan: &mut Scan,
    what: &str,
    name: &str,
    value: &str,
    unit: &str,
    as_of: Date,
) -> Result<(), (&'static str, String)> {
    let bad = |message: String| ("value", message);
    let number = |to: &str| figure(value, unit, to);
    let codes = |list: &mut Option<Vec<Code>>| {
        let list = list.get_or_insert_with(Vec::new);
        if !value.eq_ignore_ascii_case("none") {
            list.push(value.parse::<Code>().map_err(|e| bad(e.to_string()))?);
        }
        Ok(())
    };
    match what {
        "date" => {
            scan.date = typed::date(value).map_err(bad)?.0;
            if scan.date > as_of {
                return Err(bad(format!("{} lies after the day of judgement, {as_of}", scan.date)));
            }
        }
        "from" => value.chars().take(120).collect::<String>().clone_into(&mut scan.from),
        "simulated" => {
            scan.simulated = typed::yes(value).ok_or_else(|| bad(format!("\"{value}\" is neither yes nor no")))?
        }
        "vin" if value.len() <= 40 => scan.vin = Some(value.to_uppercase()),
        "vin" => return Err(bad("is longer than any identification number".to_owned())),
        "lamp" => {
            scan.lamp = Some(match value.to_lowercase().as_str() {
                "on" => true,
                "off" => false,
                _ => return Err(bad(format!("\"{value}\" is neither on nor off"))),
            });
        }
        "stored" => codes(&mut scan.stored)?,
        "pending" => codes(&mut scan.pending)?,
        "permanent" => codes(&mut scan.permanent)?,
        "monitor" => {
            let monitor: Monitor = of_word(name).ok_or_else(|| ("name", format!("no monitor is called \"{name}\"")))?;
            let complete = match value.to_lowercase().as_str() {
                "complete" | "ready" => true,
                "open" | "incomplete" | "not ready" => false,
                _ => return Err(bad(format!("\"{value}\" is neither complete nor open"))),
            };
            scan.monitors.push(MonitorState { monitor, complete });
        }
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
        "warm_ups" => scan.warm_ups = Some(within(number("")?, 0.0, 255.0)?.round() as u8),
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
        "cleared" => scan.cleared_km = Some(within(number("km")?, 0.0, 65_535.0)?.round() as u16),
        "coolant" => scan.coolant = Some(within(number("°C")?, -60.0, 250.0)?),
        "voltage" => scan.voltage = Some(within(number("V")?, 0.0, 70.0)?),
        "trim" => {
            let (long, bank) = match name.to_lowercase().as_str() {
                "short 1" => (false, 1),
                "long 1" => (true, 1),
                "short 2" => (false, 2),
                "long 2" => (true, 2),
                _ => return Err(("name", format!("\"{name}\" is no trim: write short 1, long 1, short 2 or long 2"))),
            };
            scan.set_trim(bank, long, within(number("%")?, -100.0, 100.0)?);
        }
        "missing" => {
            let what: ScanItem = of_word(name).ok_or_else(|| ("name", format!("nothing is called \"{name}\"")))?;
            scan.missing.push(NotRead { what, why: value.chars().take(400).collect() });
        }
        _ => return Err(("what", format!("\"{what}\" is not known here"))),
    }
    Ok(())
}

/// A figure, brought to the unit that is kept.
fn figure(value: &str, unit: &str, to: &str) -> Result<f64, (&'static str, String)> {
    let number: f64 = value
        .replace(',', ".")
        .parse()
        .map_err(|_| ("value", format!("\"{value}\" is not a number: write it as 20.4")))?;
    convert(number, unit, to).ok_or_else(|| ("unit", format!("\"{unit}\" is not a unit of it: use {to}")))
}

fn within(value: f64, from: f64, to: f64) -> Result<f64, (&'static str, String)> {
    if (from..=to).contains(&value) { Ok(value) } else { Err(("value", format!("must lie between {from} and {to}"))) }
}
