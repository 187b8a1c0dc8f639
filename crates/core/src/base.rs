//! The base sheets that ship with the application: what every car and van, every motorcycle and every bare
//! engine needs looked at. Each makes way, point by point and check by check, for what a family's own sheet
//! knows. Their figures are common practice, their money hours of an independent workshop.

use crate::family::Family;
use crate::formats::read_family;
use crate::sense::Fault;

const SHEETS: [&str; 4] = [
    include_str!("base/base-vehicle.json"),
    include_str!("base/base-motorcycle.json"),
    include_str!("base/base-engine.json"),
    include_str!("base/base-engine-km.json"),
];

/// Every base sheet.
///
/// # Errors
/// What is wrong with one of them; the tests see to it that nothing is.
pub fn sheets() -> Result<Vec<Family>, Vec<Fault>> {
    SHEETS.iter().map(|text| read_family(text)).collect()
}
