//! The tables of words that ship with the application, and the vocabulary made from them.

use std::sync::OnceLock;

use crate::base::units::UsageClock;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::formats::pattern_library::library;
use crate::patterns::library::THING;
use crate::talk::{Tables, Vocabulary};

const PARTS: &str = include_str!("talk/parts.json");
const WORDS: &str = include_str!("talk/words.json");

/// The tables.
#[must_use]
pub fn tables() -> &'static Tables {
    static TABLES: OnceLock<Tables> = OnceLock::new();
    TABLES.get_or_init(|| Tables {
        // The tests hold both to their shape.
        parts: serde_json::from_str(PARTS).unwrap_or_default(),
        words: serde_json::from_str(WORDS).unwrap_or_default(),
    })
}

/// The vocabulary for a sheet: the tables, and the sheet's own points by their names.
#[must_use]
pub fn vocabulary(family: Option<&Family>) -> Vocabulary {
    // Without a sheet a car is meant.
    let of_car = library().patterns.iter().filter(|p| {
        let thing = p.applies.facts.get(THING);
        thing.is_none_or(|t| t.iter().any(|x| x == "car")) && p.clock == UsageClock::Km && !p.id.starts_with("bike")
    });
    let points: Vec<&FailurePoint> = match family {
        Some(f) => f.points.iter().collect(),
        None => of_car.flat_map(|p| &p.points).collect(),
    };
    let own: Vec<(String, String)> =
        points.into_iter().map(|p| (p.part.clone().unwrap_or_else(|| p.id.clone()), p.name.clone())).collect();
    let words = Vocabulary::new(tables(), &own);
    match family {
        Some(f) => words.with_variants(&f.facts),
        None => words,
    }
}
