//! Dates in figures: "03/2018", "2018-03", "1 March 2018", "01.03.2018".

use crate::talk::months::month;
use crate::talk::quantity::{Counts, Quantity};
use crate::talk::tokens::Token;

/// A date that begins at a token, with how many it takes; a year alone is none.
pub(super) fn date(tokens: &[Token], at: usize) -> Option<(Quantity, usize)> {
    let first = tokens.get(at)?;
    let parted = |i: usize, mark: &str| {
        // Without a blank: "3 / 2018" is a share.
        let close = i > 0 && tokens.get(i).is_some_and(|t| t.text == mark && tokens[i - 1].to == t.from);
        close.then(|| tokens.get(i + 1).filter(|t| t.digits && tokens[i].to == t.from))?
    };
    let points: Vec<&str> = first.text.split('.').collect();
    if let [d, m, y] = points[..] {
        return on(y, m, Some(d), 1);
    }
    if let Some(second) = parted(at + 1, "/") {
        return match parted(at + 3, "/") {
            Some(year) => on(&year.text, &second.text, Some(&first.text), 5),
            None => on(&second.text, &first.text, None, 3),
        };
    }
    if let Some(second) = parted(at + 1, "-") {
        if let Some(day) = parted(at + 3, "-") {
            return on(&first.text, &second.text, Some(&day.text), 5);
        }
        // "2009-12" are four years, "2018-03" is a month.
        let range = first.text.get(2..4).is_some_and(|year| second.text.as_str() > year);
        return if range { None } else { on(&first.text, &second.text, None, 3) };
    }
    let named = tokens.get(at + 1).and_then(|t| month(&t.text))?;
    let year = tokens.get(at + 2).filter(|t| t.digits)?;
    on(&year.text, &named.to_string(), Some(&first.text), 3)
}

fn on(year: &str, month: &str, day: Option<&str>, took: usize) -> Option<(Quantity, usize)> {
    let small = |text: &str, most: i8| {
        let value = if text.len() <= 2 { text.parse::<i8>().ok() } else { None };
        value.filter(|x| (1..=most).contains(x))
    };
    let low = if year.len() == 4 { year.parse::<f64>().ok() } else { None };
    let low = low.filter(|y| (1950.0..=2035.0).contains(y))?;
    let on = (small(month, 12)?, day.map_or(Some(None), |d| small(d, 31).map(Some))?);
    Some((Quantity { low, high: None, unit: Counts::Calendar, on: Some(on) }, took))
}
