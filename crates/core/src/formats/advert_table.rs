//! Lists of adverts that are tables: JSON lines, and columns under a heading, as lines that the reader of adverts
//! understands. Every line keeps its number.

use csv::ReaderBuilder;
use serde_json::Value;

/// What a column holds, so far as its heading tells.
#[derive(Clone, Copy, PartialEq)]
enum Column {
    Price,
    Usage(&'static str),
    Built,
    Text,
}

/// Headings by what they hold; compared in small letters, without marks.
const HEADINGS: [(Column, &[&str]); 5] = [
    (Column::Price, &["price", "asking", "asking price", "preis", "prix", "prezzo", "precio", "cost", "ask"]),
    (
        Column::Usage("km"),
        &["km", "usage", "mileage", "odometer", "kilometres", "kilometers", "mileage km", "usage km", "run", "kms"],
    ),
    (Column::Usage("miles"), &["miles", "mi", "mileage miles", "mileage mi"]),
    (Column::Usage("hours"), &["hours", "h", "hrs", "engine hours"]),
    (
        Column::Built,
        &["year", "built", "registered", "first registered", "first registration", "registration", "model year"],
    ),
];

fn column(heading: &str) -> Column {
    let plain: String = heading.to_lowercase().chars().map(|c| if c.is_alphanumeric() { c } else { ' ' }).collect();
    let plain = plain.split_whitespace().collect::<Vec<_>>().join(" ");
    HEADINGS.iter().find(|(_, names)| names.contains(&plain.as_str())).map_or(Column::Text, |(column, _)| *column)
}

/// A cell as the reader understands it.
fn said(column: Column, heading: &str, cell: &str) -> String {
    let cell = cell.trim();
    let figure = cell.chars().next().is_some_and(|c| c.is_ascii_digit()) && !cell.contains(char::is_alphabetic);
    match column {
        _ if cell.is_empty() => String::new(),
        Column::Price => format!("price: {cell}; "),
        Column::Usage(unit) if figure => format!("{cell} {unit}; "),
        Column::Usage(_) | Column::Text if !figure => format!("{cell}; "),
        Column::Built => format!("built: {cell}; "),
        Column::Usage(_) | Column::Text => format!("{heading}: {cell}; "),
    }
}

/// A JSON object as a line; none for a line that is none.
fn of_json(line: &str) -> Option<String> {
    let Value::Object(all) = serde_json::from_str::<Value>(line.trim()).ok()? else { return None };
    let mut out = String::new();
    // What it is comes first: the title of an advert is its first words.
    let cell = |v: &Value| match v {
        Value::String(s) => s.replace(['\n', '\r'], " "),
        Value::Number(n) => n.to_string(),
        Value::Bool(true) => "yes".to_owned(),
        _ => String::new(),
    };
    for first in ["title", "name", "text", "description"] {
        if let Some(v) = all.get(first) {
            out += &said(Column::Text, first, &cell(v));
        }
    }
    for (key, v) in all.iter().filter(|(k, _)| !["title", "name", "text", "description"].contains(&k.as_str())) {
        out += &said(column(key), key, &cell(v));
    }
    Some(out)
}

/// A heading that names at least a price or a usage among its columns, with its separator.
fn heading(line: &str) -> Option<(u8, Vec<String>)> {
    if line.chars().any(|c| c.is_ascii_digit()) {
        return None;
    }
    let separator = [b'\t', b';', b'|', b','].into_iter().max_by_key(|s| line.bytes().filter(|b| b == s).count())?;
    let cells = row(line, separator)?;
    let known = cells.iter().filter(|c| column(c) != Column::Text).count();
    (cells.len() >= 3 && known >= 2).then_some((separator, cells))
}

fn row(line: &str, separator: u8) -> Option<Vec<String>> {
    let mut reader =
        ReaderBuilder::new().has_headers(false).delimiter(separator).flexible(true).from_reader(line.as_bytes());
    let record = reader.records().next()?.ok()?;
    Some(record.iter().map(|c| c.trim().to_owned()).collect())
}

/// A list as lines of text: JSON objects, and rows under a heading, spelled out; other lines as they are. The heading
/// itself becomes an empty line.
#[must_use]
pub fn as_lines(text: &str) -> String {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let first = text.lines().find(|l| !l.trim().is_empty()).unwrap_or_default();
    let table = heading(first);
    if table.is_none() && !text.lines().any(|l| l.trim_start().starts_with('{')) {
        return text.to_owned();
    }
    let mut headed = table.is_none();
    let lines = text.lines().map(|line| {
        if let Some(spelled) = Some(line).filter(|l| l.trim_start().starts_with('{')).and_then(of_json) {
            return spelled;
        }
        let Some((separator, headings)) = &table else { return line.to_owned() };
        if !headed {
            headed = line == first;
            return String::new();
        }
        let cells = row(line, *separator).unwrap_or_default();
        headings.iter().zip(&cells).map(|(h, c)| said(column(h), h, c)).collect()
    });
    lines.collect::<Vec<_>>().join("\n")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_table_is_spelled_out_line_by_line_and_free_lines_stay() {
        let table = "Title;Year;Mileage (km);Asking price;Doors\nBlue van;2016;121 400;6.800 €;5\n\nRed one;03/2018;\"98;000\";POA;3";
        let lines: Vec<String> = as_lines(table).lines().map(str::to_owned).collect();
        assert_eq!(lines[0], "");
        assert_eq!(lines[1], "Blue van; built: 2016; 121 400 km; price: 6.800 €; Doors: 5; ");
        assert_eq!(lines[2], "");
        assert!(lines[3].starts_with("Red one; built: 03/2018; ") && lines[3].contains("price: POA"), "{}", lines[3]);
        for free in ["2016, 121 400 km, 6 800, diesel van", "price on request\nno heading here", "", "{not json"] {
            assert_eq!(as_lines(free), free);
        }
    }

    #[test]
    fn json_lines_are_spelled_out() {
        let line =
            r#"{"price": 6800, "mileage_km": 121400, "year": 2016, "title": "Diesel van", "note": null, "keys": 2}"#;
        let told = as_lines(&format!("a free line\n{line}"));
        assert_eq!(told.lines().next(), Some("a free line"));
        let spelled = told.lines().nth(1).unwrap();
        assert!(spelled.starts_with("Diesel van; "), "{spelled}");
        for part in ["price: 6800; ", "121400 km; ", "built: 2016; ", "keys: 2; "] {
            assert!(spelled.contains(part), "{part}: {spelled}");
        }
    }
}
