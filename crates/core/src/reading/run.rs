//! What the thing of an advert has run.

use crate::base::units::{Usage, UsageUnit};
use crate::reading::advert_reading::AdvertReading;
use crate::reading::typed;
use crate::reading::words::{Word, beside, figure, unit_after};

/// Words before a usage that make it something else than what it has run.
const NOT_NOW: [&str; 11] =
    ["at", "every", "each", "per", "last", "since", "within", "next", "ago", "after", "interval"];

/// Words that make a number a usage without a unit.
const RUN: [&str; 5] = ["mileage", "odometer", "clock", "milage", "odo"];

/// Words that count thousands.
const THOUSAND: [&str; 5] = ["thousand", "tsd", "tys", "tkm", "k"];

/// Words after a distance that make it something else.
const ELSE: [&str; 8] = ["ago", "away", "from", "range", "interval", "intervals", "service", "since"];

/// A usage as it stands: its unit, where one is said, times what, and how many words it takes.
struct Run {
    value: f64,
    unit: Option<UsageUnit>,
    took: usize,
}

/// A figure with its thousands and unit: "158 thousand km", "227 tkm", "94k".
fn run(words: &[Word<'_>], at: usize) -> Option<Run> {
    let (value, took, tail) = figure(words, at)?;
    let thousand = |unit: &str| {
        let rest = unit.strip_prefix('t').or_else(|| unit.strip_prefix('k').filter(|r| !r.starts_with('m')));
        rest.filter(|r| r.is_empty() || typed::unit(r).is_some()).filter(|_| unit != "t").map(str::to_owned)
    };
    if !tail.is_empty() {
        let (times, tail) = thousand(&tail).map_or((1.0, tail), |rest| (1000.0, rest));
        let unit = typed::unit(&tail);
        if unit.is_none() && !tail.is_empty() {
            return None;
        }
        let more = if unit.is_none() { unit_after(words, at + took - 1).and_then(|w| typed::unit(&w)) } else { None };
        return Some(Run { value: value * times, unit: unit.or(more), took: took + usize::from(more.is_some()) });
    }
    let Some(next) = unit_after(words, at + took - 1) else { return Some(Run { value, unit: None, took }) };
    if THOUSAND.contains(&next.as_str()) && value < 1000.0 {
        let of = if next == "tkm" { Some(UsageUnit::Km) } else { None };
        let after = unit_after(words, at + took).and_then(|w| typed::unit(&w));
        let unit = of.or(after);
        return Some(Run { value: value * 1000.0, unit, took: took + 1 + usize::from(of.is_none() && unit.is_some()) });
    }
    let unit = typed::unit(&next);
    Some(Run { value, unit, took: took + usize::from(unit.is_some()) })
}

/// Whether words round a figure say that it is what was run: "mileage 98 500", "km: 174999", "94k on the clock".
fn said(words: &[Word<'_>], at: usize, took: usize) -> bool {
    let label = |w: &Word<'_>| w.text.ends_with([':', '=']) && typed::unit(&w.bare()).is_some();
    // "mileage unknown, 15,550": what a clause apart says is something else.
    let clause = (1..=2).take_while(|k| at >= *k && !words[at - k].ends() && words[at - k].line == words[at].line);
    let before = clause.map(|k| &words[at - k]).any(|w| RUN.contains(&w.bare().as_str()) || label(w));
    let after = (0..3).filter_map(|k| beside(words, at, at + took + k)).collect::<Vec<_>>();
    before || after.starts_with(&["on".to_owned(), "the".to_owned(), "clock".to_owned()])
}

/// The unit that stands before a figure as its label.
fn labelled(words: &[Word<'_>], at: usize) -> Option<UsageUnit> {
    let before = at.checked_sub(1).map(|i| &words[i])?;
    // "km 187 000", but not "5 km 2016".
    let own = at.checked_sub(2).is_none_or(|i| figure(words, i).is_none());
    let label = before.text.ends_with([':', '=']) || (own && !before.ends());
    (before.line == words[at].line && label).then(|| typed::unit(&before.bare())).flatten()
}

/// Takes what it has run; `usual` is the unit of a figure that has none, where the advert itself names no other.
pub(super) fn take_usage(words: &mut [Word<'_>], out: &mut AdvertReading, usual: UsageUnit) {
    let metric = words.iter().any(|w| {
        let bare = w.bare();
        typed::unit(&bare) == Some(UsageUnit::Km) || bare.ends_with("km")
    });
    let usual = if metric { UsageUnit::Km } else { usual };
    let mut best: Option<(f64, Usage, usize, usize)> = None;
    for i in 0..words.len() {
        let Some(Run { value, unit, took }) = run(words, i) else { continue };
        let keyword = said(words, i, took);
        let unit = unit
            .or_else(|| labelled(words, i).filter(|_| value >= 1000.0))
            .or((keyword && value >= 1000.0).then_some(usual));
        let Some(unit) = unit else { continue };
        let before = if i > 0 { beside(words, i, i - 1) } else { None }.unwrap_or_default();
        if NOT_NOW.contains(&before.as_str()) && !keyword {
            continue;
        }
        let closed = words[i + took - 1].ends();
        let new = beside(words, i, i + took + 1).is_some_and(|w| w == "new");
        if !closed && !new && beside(words, i, i + took).is_some_and(|w| ELSE.contains(&w.as_str())) {
            continue;
        }
        let usage = Usage { value, unit };
        let run = usage.on_clock();
        // A vehicle's clock shows more than any other figure of its advert.
        if best.is_none_or(|(most, ..)| run > most) && (unit == UsageUnit::Hours || run >= 50.0) {
            best = Some((run, usage, i, took));
        }
    }
    if let Some((_, usage, at, took)) = best {
        words[at..at + took].iter_mut().for_each(|w| w.taken = true);
        let label = |w: &Word<'_>| {
            RUN.contains(&w.bare().as_str()) || (w.text.ends_with(':') && typed::unit(&w.bare()).is_some())
        };
        if at > 0 && words[at - 1].line == words[at].line && label(&words[at - 1]) {
            words[at - 1].taken = true;
        }
        out.usage = Some(usage);
    }
}
