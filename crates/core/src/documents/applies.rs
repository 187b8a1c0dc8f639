//! Conditions: which builds, serial numbers and variants something concerns.

use std::cmp::Ordering;
use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Probability;

/// A stretch of build dates; an open end is unbounded.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Window {
    /// First day, included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub from: Option<Date>,
    /// Last day, included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub to: Option<Date>,
}

/// A stretch of serial or engine numbers; an open end is unbounded.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SerialWindow {
    /// First number, included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(min_length = 1, max_length = 40)]
    pub from: Option<String>,
    /// Last number, included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(min_length = 1, max_length = 40)]
    pub to: Option<String>,
    /// Share of the family in it, where known: what counts while the number is not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub share: Option<Probability>,
}

impl SerialWindow {
    /// Whether the number lies in the window, by [`serial_order`].
    #[must_use]
    pub fn contains(&self, serial: &str) -> bool {
        self.from.as_deref().is_none_or(|f| serial_order(serial, f) != Ordering::Less)
            && self.to.as_deref().is_none_or(|t| serial_order(serial, t) != Ordering::Greater)
    }
}

/// Orders serial numbers as people read them: runs of letters by the alphabet, runs of digits by their
/// value; case, spaces and punctuation count for nothing. "T22-9850" comes before "t22 10200".
#[must_use]
pub fn serial_order(a: &str, b: &str) -> Ordering {
    let (a, b) = (serial_runs(a), serial_runs(b));
    a.cmp(&b)
}

/// A run of a serial number: digits (without leading noughts, by length first) or letters.
#[derive(PartialEq, Eq, PartialOrd, Ord)]
enum Run {
    Digits(usize, String),
    Letters(String),
}

fn serial_runs(serial: &str) -> Vec<Run> {
    let mut out: Vec<(bool, String)> = Vec::new();
    for c in serial.chars().filter(|c| c.is_alphanumeric()) {
        let digit = c.is_ascii_digit();
        match out.last_mut() {
            Some((kind, run)) if *kind == digit => run.extend(c.to_uppercase()),
            _ => out.push((digit, c.to_uppercase().collect())),
        }
    }
    out.into_iter()
        .map(|(digit, run)| {
            if digit {
                let value = run.trim_start_matches('0').to_owned();
                Run::Digits(value.len(), value)
            } else {
                Run::Letters(run)
            }
        })
        .collect()
}

impl Window {
    /// Whether the day lies in the window.
    #[must_use]
    pub fn contains(&self, day: Date) -> bool {
        self.from.is_none_or(|f| day >= f) && self.to.is_none_or(|t| day <= t)
    }
}

/// Which variants something concerns. All conditions must hold, one of `any` where there are some, and none of `except`.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Applies {
    /// Build window.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub built: Option<Window>,
    /// Serial or engine numbers.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub serial: Option<SerialWindow>,
    /// For each fact named, the answers that qualify.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub facts: BTreeMap<String, Vec<String>>,
    /// Of these at least one must hold.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 12)]
    pub any: Vec<Condition>,
    /// Of these none may hold.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 12)]
    pub except: Vec<Condition>,
}

impl Applies {
    /// What must hold beside `any` and `except`.
    #[must_use]
    pub fn own(&self) -> Condition {
        Condition { built: self.built, serial: self.serial.clone(), facts: self.facts.clone() }
    }

    /// Every condition that it names.
    pub fn conditions(&self) -> impl Iterator<Item = Condition> + '_ {
        std::iter::once(self.own()).chain(self.any.iter().chain(&self.except).cloned())
    }

    /// Whether a fact decides it.
    #[must_use]
    pub fn asks(&self, fact: &str) -> bool {
        self.conditions().any(|c| c.facts.contains_key(fact))
    }
}

/// One condition: all that it names must hold.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Condition {
    /// Build window.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub built: Option<Window>,
    /// Serial or engine numbers.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub serial: Option<SerialWindow>,
    /// For each fact named, the answers that qualify.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub facts: BTreeMap<String, Vec<String>>,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn serials_are_ordered_as_people_read_them() {
        for (less, more) in [("T22-9850", "t22 10200"), ("A 7", "A 12"), ("A12", "B1"), ("0099", "100"), ("99", "A1")] {
            assert_eq!(serial_order(less, more), Ordering::Less, "{less} {more}");
            assert_eq!(serial_order(more, less), Ordering::Greater, "{less} {more}");
        }
        assert_eq!(serial_order("ab-0012", "AB 12"), Ordering::Equal);
    }

    #[test]
    fn a_serial_window_includes_its_ends() {
        let w = SerialWindow { from: Some("K200".to_owned()), to: Some("K1500".to_owned()), share: None };
        assert!(w.contains("K200") && w.contains("k-1500") && w.contains("K 999"));
        assert!(!w.contains("K199") && !w.contains("K1501"));
    }
}
