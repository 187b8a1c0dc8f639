//! The pattern library that ships with the application: one file a pattern, and the questions.

use std::sync::OnceLock;

use crate::base::fault::Fault;
use crate::documents::assumptions::Assumptions;
use crate::documents::family::Family;
use crate::documents::pattern::Pattern;
use crate::patterns::compose::composed_of;
use crate::patterns::library::Library;
use crate::patterns::places::with_places;

/// The questions, as text.
pub const QUESTIONS: &str = include_str!("patterns/questions.json");

/// Every pattern as text, the general ones first.
pub const PATTERNS: [&str; 69] = [
    include_str!("patterns/every-car.json"),
    include_str!("patterns/every-engine.json"),
    include_str!("patterns/every-motorcycle.json"),
    include_str!("patterns/all-wheel.json"),
    include_str!("patterns/automated-manual.json"),
    include_str!("patterns/automatic.json"),
    include_str!("patterns/belt-in-oil.json"),
    include_str!("patterns/belt-type.json"),
    include_str!("patterns/bike-air.json"),
    include_str!("patterns/bike-belt.json"),
    include_str!("patterns/bike-carburettor.json"),
    include_str!("patterns/bike-chain.json"),
    include_str!("patterns/bike-electric.json"),
    include_str!("patterns/bike-engine.json"),
    include_str!("patterns/bike-hydraulic.json"),
    include_str!("patterns/bike-injection.json"),
    include_str!("patterns/bike-liquid.json"),
    include_str!("patterns/bike-screws.json"),
    include_str!("patterns/bike-shaft.json"),
    include_str!("patterns/bike-shims.json"),
    include_str!("patterns/boat-engine.json"),
    include_str!("patterns/car-electrics.json"),
    include_str!("patterns/carburettor.json"),
    include_str!("patterns/chassis.json"),
    include_str!("patterns/common-rail.json"),
    include_str!("patterns/cooling.json"),
    include_str!("patterns/diesel-common.json"),
    include_str!("patterns/diesel-pump-injection.json"),
    include_str!("patterns/direct-injection.json"),
    include_str!("patterns/direct-raw.json"),
    include_str!("patterns/driveshafts.json"),
    include_str!("patterns/dual-dry.json"),
    include_str!("patterns/dual-wet.json"),
    include_str!("patterns/electric-drive.json"),
    include_str!("patterns/engine-inside.json"),
    include_str!("patterns/exchanger.json"),
    include_str!("patterns/folding-roof.json"),
    include_str!("patterns/generator.json"),
    include_str!("patterns/glass-roof.json"),
    include_str!("patterns/hybrid-drive.json"),
    include_str!("patterns/keel.json"),
    include_str!("patterns/machine.json"),
    include_str!("patterns/manual-gearbox.json"),
    include_str!("patterns/particle-filter.json"),
    include_str!("patterns/petrol-common.json"),
    include_str!("patterns/plant-air.json"),
    include_str!("patterns/plant-diesel.json"),
    include_str!("patterns/plant-engine.json"),
    include_str!("patterns/plant-petrol.json"),
    include_str!("patterns/plant-radiator.json"),
    include_str!("patterns/plant-turbo.json"),
    include_str!("patterns/port-injection.json"),
    include_str!("patterns/power-split.json"),
    include_str!("patterns/raw-water.json"),
    include_str!("patterns/rear-axle.json"),
    include_str!("patterns/reduction-gear.json"),
    include_str!("patterns/rotary.json"),
    include_str!("patterns/sail-drive.json"),
    include_str!("patterns/scooter-drive.json"),
    include_str!("patterns/shaft-drive.json"),
    include_str!("patterns/soft-roof.json"),
    include_str!("patterns/stern-drive.json"),
    include_str!("patterns/timing-belt.json"),
    include_str!("patterns/timing-chain.json"),
    include_str!("patterns/timing-gears.json"),
    include_str!("patterns/traction-battery.json"),
    include_str!("patterns/turbo-diesel.json"),
    include_str!("patterns/turbo-petrol.json"),
    include_str!("patterns/urea.json"),
];

/// The library.
#[must_use]
pub fn library() -> &'static Library {
    static LIBRARY: OnceLock<Library> = OnceLock::new();
    LIBRARY.get_or_init(|| {
        // The tests hold every file to its schema; one that is not in order is left out rather than a reason to fall over.
        let patterns = PATTERNS.iter().filter_map(|text| serde_json::from_str::<Pattern>(text).ok()).collect();
        Library { questions: serde_json::from_str(QUESTIONS).unwrap_or_default(), patterns }
    })
}

/// A sheet with what patterns know written out, where it says how it is built and nothing is written out yet, and with
/// each place of its points and checks.
///
/// # Errors
/// What is wrong with its answers.
pub fn written_out(sheet: Family) -> Result<Family, Vec<Fault>> {
    let told = sheet.built_as.is_none() || !sheet.patterns.is_empty();
    with_places(if told { sheet } else { composed_of(sheet, library(), &Assumptions::default())? })
}
