//! Enum values as the words that the open formats write for them.

use serde::Serialize;
use serde::de::DeserializeOwned;

/// The word that a value is written as; empty for what is not written as a word.
#[must_use]
pub fn word<T: Serialize>(value: &T) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// The value that a word means; case counts for nothing, blanks and hyphens stand for underscores.
#[must_use]
pub fn of_word<T: DeserializeOwned>(text: &str) -> Option<T> {
    serde_json::from_value(serde_json::Value::String(text.trim().to_lowercase().replace([' ', '-'], "_"))).ok()
}

/// A short name from words: small letters and figures of the plain alphabet, with one hyphen for whatever else stands
/// between them; empty for words that have none.
#[must_use]
pub fn short_of(words: &str) -> String {
    let plain = |c: char| if c.is_ascii_alphanumeric() { c } else { '-' };
    let all: String = words.to_lowercase().chars().map(plain).collect();
    all.split('-').filter(|part| !part.is_empty()).collect::<Vec<_>>().join("-")
}
