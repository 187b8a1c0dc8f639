//! The word that an enum value is written as in the open formats.

/// The word that a value is written as.
pub(crate) fn word<T: serde::Serialize>(value: &T) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}
