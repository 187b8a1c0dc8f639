//! The base sheets that ship with the application: what every car and van, every motorcycle and every bare
//! engine needs looked at. Each is one general pattern of the library written out, and gives way, point by point and
//! check by check, to a family's own sheet. Their figures are common practice; their money is hours of an independent
//! workshop.

use serde_json::json;

use crate::base::fault::Fault;
use crate::documents::family::Family;
use crate::documents::pricing::NO_CURRENCY;
use crate::formats::pattern_library::{library, written_out};

/// Id, kind, clock, version, name, what it is, and the pattern.
const SHEETS: [[&str; 7]; 4] = [
    ["base-vehicle", "base_vehicle", "km", "1", "Every car and van", "car", "every-car"],
    ["base-motorcycle", "base_motorcycle", "km", "1", "Every motorcycle", "motorcycle", "every-motorcycle"],
    ["base-engine", "base_engine", "hours", "1", "Every bare engine, by the hour", "engine", "every-engine"],
    ["base-engine-km", "base_engine", "km", "2", "Every bare engine, by the kilometre", "engine", "every-engine"],
];

/// Every base sheet.
///
/// # Errors
/// What is wrong with one of them; the tests see to it that nothing is.
pub fn sheets() -> Result<Vec<Family>, Vec<Fault>> {
    SHEETS
        .iter()
        .map(|[id, kind, clock, version, name, thing, pattern]| {
            let summary = library().pattern(pattern).map(|p| p.summary.clone()).unwrap_or_default();
            let sheet = json!({
                "format": "ticksage-family/2", "id": id, "version": version.parse::<u32>().unwrap_or(1), "name": name,
                "kind": kind, "clock": clock, "currency": NO_CURRENCY, "summary": summary,
                "built_as": {"answers": {"thing": thing}, "patterns": [pattern]},
            });
            let sheet: Family = serde_json::from_value(sheet)
                .map_err(|e| vec![Fault { path: String::new(), message: e.to_string() }])?;
            // A base sheet is given as a whole: it does not say how it came about.
            written_out(sheet).map(|f| Family { built_as: None, patterns: Vec::new(), ..f })
        })
        .collect()
}
