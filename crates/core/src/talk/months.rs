//! Months by their names.

const MONTHS: [&str; 12] = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];

/// The month that a word names.
pub(super) fn month(word: &str) -> Option<i8> {
    let at = MONTHS.iter().position(|m| word.len() >= 3 && word.starts_with(m))?;
    let full = crate::reading::typed::date(&format!("{word} 2020")).is_ok();
    if full { i8::try_from(at + 1).ok() } else { None }
}
