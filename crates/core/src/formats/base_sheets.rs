//! The base sheets that ship with the application: what every car and van, every motorcycle and every bare
//! engine needs looked at. Each gives way, point by point and check by check, to a family's own sheet. Their
//! figures are common practice; their money is hours of an independent workshop.

use crate::base::fault::Fault;
use crate::documents::family::Family;
use crate::formats::documents::read_family;

const SHEETS: [&str; 4] = [
    include_str!("sheets/base-vehicle.json"),
    include_str!("sheets/base-motorcycle.json"),
    include_str!("sheets/base-engine.json"),
    include_str!("sheets/base-engine-km.json"),
];

/// Every base sheet.
///
/// # Errors
/// What is wrong with one of them; the tests see to it that nothing is.
pub fn sheets() -> Result<Vec<Family>, Vec<Fault>> {
    SHEETS.iter().map(|text| read_family(text)).collect()
}
