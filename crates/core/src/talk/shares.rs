//! How many have it, as a line says it.

use crate::documents::claim::ShareForm;
use crate::talk::grammar::Counts;
use crate::talk::reader::Reader;
use crate::talk::said::ChipKind;
use crate::talk::says::{SHARES, share_says};
use crate::talk::tokens::figure_of;

/// What "a few" counts that are no vehicles.
const COUNTED: [&str; 20] = [
    "sec", "secs", "second", "seconds", "min", "mins", "minutes", "hours", "days", "weeks", "months", "years", "miles",
    "turns", "drops", "times", "hundred", "thousand", "quid", "pounds",
];

impl Reader<'_> {
    /// How many have it.
    pub(super) fn shares(&mut self) {
        if let Some((from, to, says)) = self.counted_share() {
            self.said.share = Some(says);
            self.chip(ChipKind::Share, from, to, share_says(says));
            return;
        }
        for i in 0..self.t.tags.len() {
            if self.t.tags[i].taken {
                continue;
            }
            let Some((_, word)) = SHARES.iter().find(|(kind, _)| self.t.is(i, kind)) else { continue };
            if self.counts_something_else(i) {
                continue;
            }
            let says = ShareForm::Word { word: *word };
            self.said.share = Some(says);
            self.chip(ChipKind::Share, i, i, share_says(says));
            return;
        }
    }

    /// "All four ball joints": places on one; "rattles for a few seconds": how long. Neither says how many have it.
    fn counts_something_else(&self, at: usize) -> bool {
        let Some(next) = self.t.tags.get(at + 1) else { return false };
        let all = self.t.tags[at].text == "all"
            && (next.quantity.is_some_and(|q| q.unit == Counts::Nothing)
                || figure_of(&next.text).is_some_and(|n| n >= 2.0));
        all || self.t.tags[at].text == "few" && COUNTED.contains(&next.text.as_str())
    }

    /// A share in figures: "one in eight", "12 %", "half of them".
    pub(super) fn counted_share(&self) -> Option<(usize, usize, ShareForm)> {
        let tags = &self.t.tags;
        let value = |i: usize| {
            let t = tags.get(i).filter(|t| !t.taken)?;
            t.quantity.filter(|q| q.high.is_none() && q.unit == Counts::Nothing).map(|q| q.low).or(figure_of(&t.text))
        };
        let share = |x: f64| {
            let share = crate::base::units::Probability::try_from((x * 1e6).round() / 1e6).ok()?;
            (x > 0.0).then_some(ShareForm::Share { share })
        };
        for i in 0..tags.len() {
            if let (Some(k), Some(n)) = (value(i), value(i + 2))
                && matches!(tags[i + 1].text.as_str(), "in" | "of" | "/")
                && n > 1.0
                && k < n
                && (tags[i + 1].text != "/" || n <= 100.0)
            {
                let form = if (k - 1.0).abs() < 1e-9 { Some(ShareForm::OneIn { n }) } else { share(k / n) };
                return form.map(|f| (i, i + 2, f));
            }
            // "Two out of three."
            let out = |k: usize, word: &str| tags.get(k).is_some_and(|t| t.text == word);
            if let (Some(k), Some(n)) = (value(i), value(i + 3))
                && out(i + 1, "out")
                && out(i + 2, "of")
                && k < n
            {
                return share(k / n).map(|f| (i, i + 3, f));
            }
            let percent = tags[i].quantity.filter(|q| q.unit == Counts::Percent && !tags[i].taken);
            if let Some(q) = percent.filter(|q| q.low <= 100.0) {
                let middle = q.high.map_or(q.low, |h| f64::midpoint(q.low, h));
                return share(middle / 100.0).map(|f| (i, i, f));
            }
            let part = match tags[i].text.as_str() {
                // "Half that with a trailer" is a life, "half the price" a price.
                "half" if self.halves_something(i) => None,
                "half" => Some(0.5),
                "third" | "thirds" => Some(1.0 / 3.0),
                "quarter" | "quarters" => Some(0.25),
                "tenth" => Some(0.1),
                "fifth" if tags.get(i + 1).is_some_and(|t| t.text == "of") => Some(0.2),
                _ => None,
            };
            if let Some(part) = part.filter(|_| !tags[i].taken && tags[i].quantity.is_none()) {
                let times = i.checked_sub(1).and_then(value).filter(|k| *k <= 4.0);
                let from = if times.is_some() { i - 1 } else { i };
                return share((part * times.unwrap_or(1.0)).min(1.0)).map(|f| (from, i, f));
            }
        }
        None
    }

    /// Whether a "half" is one of a life or a price rather than of those built.
    fn halves_something(&self, at: usize) -> bool {
        let text = |i: usize| self.t.tags.get(i).map_or("", |t| t.text.as_str());
        let of = |word: &str| matches!(word, "price" | "life" | "mileage" | "distance" | "cost" | "money" | "way");
        matches!(text(at + 1), "that" | "as" | "a" | "an" | "price") || text(at + 1) == "the" && of(text(at + 2))
    }
}
