//! Dates, usage, money and evidence as people type them.

use jiff::civil::Date;

use crate::base::units::{Money, Usage, UsageUnit};
use crate::documents::job::PartGrade;
use crate::documents::paper::{DateKnown, Evidence};

const MONTHS: [&str; 12] = [
    "january",
    "february",
    "march",
    "april",
    "may",
    "june",
    "july",
    "august",
    "september",
    "october",
    "november",
    "december",
];

/// A day from its numbers; why not, in words.
fn day(year: &str, month: &str, day: &str, typed: &str) -> Result<Date, String> {
    let numbers = (year.parse::<i16>(), month.parse::<i8>(), day.parse::<i8>());
    let (Ok(y), Ok(m), Ok(d)) = numbers else { return Err(not_a_date(typed)) };
    Date::new(y, m, d).map_err(|_| format!("\"{typed}\" is no day of the calendar"))
}

fn not_a_date(typed: &str) -> String {
    format!("\"{typed}\" is not a date: write 2021-03-14, or 2021-03 where only the month is known")
}

/// The month of a name, or of its beginning from three letters on; a word that goes on otherwise is none.
fn month(name: &str) -> Option<usize> {
    let name = name.to_lowercase();
    MONTHS.iter().position(|m| name.len() >= 3 && m.starts_with(&name)).map(|i| i + 1)
}

/// A date in one of the ways people write it, and how exactly it is known. A month alone stands for its
/// 15th, a year for the 1st of July.
///
/// # Errors
/// What is wrong, in words: no date, no day of the calendar, or one that can be read two ways.
///
/// ```
/// use ticksage_core::reading::typed::date;
/// assert_eq!(date("2021-03-14").unwrap().0, date("14.3.2021").unwrap().0);
/// assert!(date("04/03/2021").is_err());
/// ```
pub fn date(typed: &str) -> Result<(Date, DateKnown), String> {
    let text = typed.trim();
    let parts: Vec<&str> = text.split(|c: char| "-/. ,".contains(c)).filter(|p| !p.is_empty()).collect();
    let year = |p: &str| p.len() == 4 && p.chars().all(|c| c.is_ascii_digit());
    match parts.as_slice() {
        [y] if year(y) => Ok((day(y, "7", "1", text)?, DateKnown::Year)),
        [y, m] if year(y) => Ok((day(y, m, "15", text)?, DateKnown::Month)),
        [m, y] if year(y) => {
            let named = month(m).map(|n| n.to_string());
            Ok((day(y, named.as_deref().unwrap_or(m), "15", text)?, DateKnown::Month))
        }
        [y, m, d] if year(y) => Ok((day(y, m, d, text)?, DateKnown::Day)),
        [d, m, y] if year(y) && month(m).is_some() => {
            let named = month(m).unwrap_or(0).to_string();
            Ok((day(y, &named, d, text)?, DateKnown::Day))
        }
        [x, z, y] if year(y) => {
            let (first, second) = (x.parse::<u8>().unwrap_or(0), z.parse::<u8>().unwrap_or(0));
            if text.contains('/') && first <= 12 && second <= 12 && first != second {
                return Err(format!(
                    "\"{text}\" can be read two ways: write {y}-{second:02}-{first:02} or {y}-{first:02}-{second:02}"
                ));
            }
            let (d, m) = if text.contains('/') && second > 12 { (*z, *x) } else { (*x, *z) };
            Ok((day(y, m, d, text)?, DateKnown::Day))
        }
        _ => Err(not_a_date(text)),
    }
}

/// Groups of digits between marks, as thousands are written: three in each but the first.
fn in_thousands(groups: &[&str]) -> bool {
    let first = groups.first().is_some_and(|g| (1..=3).contains(&g.len()) && !g.starts_with('0'));
    first && groups[1..].iter().all(|g| g.len() == 3)
}

/// A number as people type it. Blanks and apostrophes part thousands. So do a point or a comma before three
/// digits: "4.500" is four and a half thousand. With both marks the last one is the decimal mark. The web reads
/// numbers by the same rule; `web/tests/numbers.json` holds both to it.
#[must_use]
pub fn number(typed: &str) -> Option<f64> {
    let text: String = typed.chars().filter(|c| !c.is_whitespace() && !"'’_".contains(*c)).collect();
    if !text.contains(|c: char| c.is_ascii_digit()) || !text.chars().all(|c| c.is_ascii_digit() || ".,".contains(c)) {
        return None;
    }
    let groups: Vec<&str> = text.split(['.', ',']).collect();
    let figure = match text.rfind(['.', ',']) {
        Some(at) if text.contains('.') && text.contains(',') => {
            let (whole, fraction) = groups.split_at(groups.len() - 1);
            let once = text.matches(&text[at..=at]).count() == 1;
            (once && in_thousands(whole)).then(|| format!("{}.{}", whole.concat(), fraction[0]))?
        }
        Some(_) if in_thousands(&groups) => groups.concat(),
        _ => text.replace(',', "."),
    };
    figure.parse().ok()
}

/// Unit by its word.
#[must_use]
pub fn unit(word: &str) -> Option<UsageUnit> {
    match word.to_lowercase().trim_end_matches('.') {
        "km" | "kms" | "kilometres" | "kilometers" => Some(UsageUnit::Km),
        "mi" | "miles" | "mile" | "mls" => Some(UsageUnit::Miles),
        "h" | "hr" | "hrs" | "hours" | "hour" => Some(UsageUnit::Hours),
        _ => None,
    }
}

/// A usage: a number, with "k" for thousands and a unit if it is not the usual one.
#[must_use]
pub fn usage(typed: &str, usual: UsageUnit) -> Option<Usage> {
    let text = typed.trim().to_lowercase();
    let digits = text.find(|c: char| c.is_alphabetic()).unwrap_or(text.len());
    let (figure, word) = (number(&text[..digits])?, text[digits..].trim());
    let (times, word) = match word.strip_prefix('k').filter(|rest| !rest.starts_with('m') && !rest.starts_with('i')) {
        Some(rest) => (1000.0, rest.trim()),
        None => (1.0, word),
    };
    let unit = if word.is_empty() { usual } else { unit(word)? };
    Some(Usage { value: figure * times, unit })
}

/// An amount of money: a number with at most two decimals.
#[must_use]
pub fn money(typed: &str) -> Option<Money> {
    number(typed.trim().trim_end_matches(|c: char| c.is_alphabetic() || c.is_whitespace()))
        .and_then(|n| Money::try_from(n).ok())
}

/// Evidence by its word.
#[must_use]
pub fn evidence(word: &str) -> Option<Evidence> {
    match word.to_lowercase().replace([' ', '_', '-'], "").as_str() {
        "itemised" | "itemized" | "invoicenamingpart" | "named" => Some(Evidence::InvoiceNamingPart),
        "invoice" | "invoices" | "receipt" | "bill" => Some(Evidence::Invoice),
        "stamp" | "stamped" | "book" => Some(Evidence::Stamp),
        "log" | "notebook" | "ownerlog" | "ownerslog" | "mark" | "marked" => Some(Evidence::OwnerLog),
        "said" | "says" | "seller" | "sellersword" | "word" => Some(Evidence::SellersWord),
        _ => None,
    }
}

/// Grade of part by its word.
#[must_use]
pub fn grade(word: &str) -> Option<PartGrade> {
    match word.to_lowercase().as_str() {
        "original" | "genuine" => Some(PartGrade::Original),
        "equivalent" | "aftermarket" => Some(PartGrade::Equivalent),
        "used" | "secondhand" | "second-hand" => Some(PartGrade::Used),
        "unknown" => Some(PartGrade::Unknown),
        _ => None,
    }
}

/// Yes or no by its word.
#[must_use]
pub fn yes(word: &str) -> Option<bool> {
    match word.to_lowercase().as_str() {
        "yes" | "y" | "true" | "1" | "x" => Some(true),
        "no" | "n" | "false" | "0" | "" => Some(false),
        _ => None,
    }
}
