//! What is asked for the thing of an advert.

use crate::base::units::{Money, Usage, UsageUnit};
use crate::reading::advert_reading::AdvertReading;
use crate::reading::typed;
use crate::reading::words::{Word, beside, figure, unit_after};

/// Signs and codes of currencies; none where the word serves several.
const CURRENCIES: [(&str, Option<&str>); 28] = [
    ("£", Some("GBP")),
    ("€", Some("EUR")),
    ("$", Some("USD")),
    ("gbp", Some("GBP")),
    ("pounds", Some("GBP")),
    ("quid", Some("GBP")),
    ("eur", Some("EUR")),
    ("euro", Some("EUR")),
    ("euros", Some("EUR")),
    ("usd", Some("USD")),
    ("dollars", None),
    ("aud", Some("AUD")),
    ("cad", Some("CAD")),
    ("nzd", Some("NZD")),
    ("chf", Some("CHF")),
    ("fr", None),
    ("sfr", Some("CHF")),
    ("kr", None),
    ("sek", Some("SEK")),
    ("nok", Some("NOK")),
    ("dkk", Some("DKK")),
    ("pln", Some("PLN")),
    ("zł", Some("PLN")),
    ("czk", Some("CZK")),
    ("kč", Some("CZK")),
    ("huf", Some("HUF")),
    ("ft", None),
    ("hsc", Some("HSC")),
];

/// Words that make an amount something else than the price.
const NOT_PRICE: [&str; 14] = [
    "spent", "paid", "cost", "costing", "worth", "was", "deposit", "tax", "over", "with", "of", "for", "from", "saves",
];

/// Words before a number that make it the price.
const PRICE: [&str; 18] = [
    "price",
    "asking",
    "asks",
    "priced",
    "offers",
    "want",
    "wants",
    "now",
    "ask",
    "sell",
    "vraagprijs",
    "preis",
    "prix",
    "prezzo",
    "precio",
    "prijs",
    "pris",
    "cena",
];

/// Words after a number that make it the price.
const AFTER: [&str; 14] =
    ["ono", "o.n.o", "obo", "or", "asked", "firm", "takes", "negotiable", "neg", "vb", "vhb", "fixed", "incl", "excl"];

/// Words after a number that make it something else: units, and things that are counted.
const COUNTED: [&str; 53] = [
    "km",
    "kms",
    "kilometres",
    "kilometers",
    "tkm",
    "miles",
    "mile",
    "mi",
    "mls",
    "h",
    "hr",
    "hrs",
    "hours",
    "kw",
    "kwh",
    "ps",
    "hp",
    "bhp",
    "cc",
    "ccm",
    "cm3",
    "kg",
    "nm",
    "t",
    "mm",
    "cm",
    "m",
    "v",
    "l",
    "litre",
    "litres",
    "mpg",
    "months",
    "month",
    "weeks",
    "days",
    "years",
    "year",
    "doors",
    "door",
    "seats",
    "seat",
    "seater",
    "keys",
    "owners",
    "owner",
    "tyres",
    "cylinders",
    "cylinder",
    "valves",
    "speed",
    "gears",
    "reg",
];

/// Words after an amount that make it one of another day.
const GONE: [&str; 6] = ["spent", "invoice", "deposit", "off", "ago", "since"];

/// Words before a number that make it something else than money.
const NOT_MONEY: [&str; 21] = [
    "text", "at", "every", "tel", "phone", "call", "ring", "mobile", "no", "nr", "id", "ref", "stock", "code",
    "serial", "until", "model", "plate", "euro", "quoted", "invoice",
];

/// Least and most that a price without any sign of money may be.
const BARE: (f64, f64) = (100.0, 500_000.0);

/// From here on a bare figure beside a price may be what was run; and the most that it may be.
const FAR: f64 = 40_000.0;
const FARTHEST: f64 = 1_500_000.0;

/// An amount found: how surely it is the price, its value, the currency, and the words that it takes.
struct Found {
    rank: usize,
    value: f64,
    currency: Option<String>,
    at: usize,
    took: usize,
}

/// The amount at a word, where a sign, a code or a word says that it is money; with what speaks for and against its
/// being the price.
fn marked(words: &[Word<'_>], i: usize) -> Option<Found> {
    let (value, took, tail) = figure(words, i)?;
    let sign = CURRENCIES.iter().find(|(s, _)| "£€$".contains(s) && words[i].text.contains(s));
    let code = |w: &str| CURRENCIES.iter().find(|(s, _)| *s == w);
    let next = unit_after(words, i + took - 1).unwrap_or_default();
    let before = if i > 0 { beside(words, i, i - 1).unwrap_or_default() } else { String::new() };
    let (times, tail) = if tail == "k" { (1000.0, String::new()) } else { (1.0, tail) };
    // "15,150ono".
    let (said_in_it, tail) = if AFTER.contains(&tail.as_str()) { (true, String::new()) } else { (false, tail) };
    let (money, more) = match (sign, code(&tail), code(&next), code(&before)) {
        (Some(s), ..) | (_, Some(s), ..) => (Some(s.1), 0),
        (_, _, Some(s), _) => (Some(s.1), 1),
        (.., Some(s)) => (Some(s.1), 0),
        _ => (None, 0),
    };
    if !tail.is_empty() && money.is_none() {
        return None;
    }
    let near: Vec<String> = (1..=3).filter(|k| i >= *k).filter_map(|k| beside(words, i, i - k)).collect();
    let after = AFTER.contains(&next.as_str()) && (next != "or" || is_near_offer(words, i + took));
    let lowered = near.first().is_some_and(|w| w == "to") && words[..i].iter().any(|w| w.bare() == "reduced");
    let counted = COUNTED.contains(&next.as_str()) || GONE.contains(&next.as_str());
    let cue = near.iter().any(|w| PRICE.contains(&w.as_str())) || after || said_in_it || lowered;
    let offers = near.get(1).is_some_and(|w| w.starts_with("offer") || w == "asking");
    // "11k spent, £14,950": what a clause apart says is something else.
    let apart = i > 0 && words[i - 1].ends();
    let other = near.first().is_some_and(|w| NOT_PRICE.contains(&w.as_str())) && !lowered && !offers && !apart;
    let rank = match (cue && !counted && !other, money.is_some(), other) {
        (true, ..) => 3,
        (false, true, false) => 2,
        (false, true, true) => 1,
        (false, false, _) => return None,
    };
    let value = value * times;
    let currency = money.flatten().map(str::to_owned);
    (value >= 50.0 && !(money.is_none() && is_year(words[i].text, value) && !said_in_it)).then_some(Found {
        rank,
        value,
        currency,
        at: i,
        took: took + more,
    })
}

/// "or near offer", "or best offer".
fn is_near_offer(words: &[Word<'_>], at: usize) -> bool {
    beside(words, at, at + 2).is_some_and(|w| w.starts_with("offer"))
}

/// Whether a figure as typed may be a year.
fn is_year(text: &str, value: f64) -> bool {
    let text = text.trim_matches(|c: char| !c.is_alphanumeric());
    (1950.0..=2035.0).contains(&value) && value.fract() == 0.0 && !text.contains(['.', ',', '\''])
}

/// Takes what a sign of money or a word says is asked; in a list also money that "for" stands before, where there
/// is no other.
pub(super) fn take_price(words: &mut [Word<'_>], out: &mut AdvertReading, listed: bool) {
    let mut best: Option<Found> = None;
    let mut i = 0;
    while i < words.len() {
        if !words[i].taken
            && let Some(found) = marked(words, i)
        {
            let after = found.at + found.took;
            if best.as_ref().is_none_or(|b| found.rank > b.rank) {
                best = Some(found);
            }
            i = after;
        } else {
            // The rest of a figure is not one of its own.
            i += figure(words, i).map_or(1, |(_, took, _)| took);
        }
    }
    if let Some(found) = best.filter(|b| b.rank >= 2 || (listed && is_for(words, b.at))) {
        take(words, out, &found);
    }
}

/// Whether "for" stands before an amount.
fn is_for(words: &[Word<'_>], at: usize) -> bool {
    at > 0 && beside(words, at, at - 1).is_some_and(|w| w == "for")
}

fn take(words: &mut [Word<'_>], out: &mut AdvertReading, found: &Found) {
    let Ok(asking) = Money::try_from((found.value * 100.0).round() / 100.0) else { return };
    out.asking = Some(asking);
    out.currency.clone_from(&found.currency);
    let (at, end) = (found.at, found.at + found.took);
    words[at..end].iter_mut().for_each(|w| w.taken = true);
    if at > 0 && words[at - 1].line == words[at].line && PRICE.contains(&words[at - 1].bare().as_str()) {
        words[at - 1].taken = true;
    }
    if let Some(w) = words.get_mut(end).filter(|w| matches!(w.bare().as_str(), "ono" | "o.n.o" | "obo" | "vb" | "firm"))
    {
        w.taken = true;
    }
}

/// In a list of adverts, what nothing names: a price and a usage that stand bare. Of several figures the price is the one
/// that is at least twice any other; where nothing was run yet and the largest is a distance beside it, that is the usage.
pub(super) fn take_bare(words: &mut [Word<'_>], out: &mut AdvertReading, usual: UsageUnit) {
    let mut found: Vec<Found> = Vec::new();
    let mut i = 0;
    while i < words.len() {
        let Some((value, took, tail)) = figure(words, i) else {
            i += 1;
            continue;
        };
        if !words[i].taken
            && let Some((value, more)) = bare(words, i, (value, took, &tail))
        {
            found.push(Found { rank: 0, value, currency: None, at: i, took: took + more });
        }
        i += took;
    }
    found.sort_by(|x, y| y.value.total_cmp(&x.value));
    let run = found.first().filter(|f| {
        let beside = found.get(1).map(|s| s.value).or(out.asking.map(Money::get));
        f.value >= FAR && beside.is_some_and(|price| f.value >= 3.0 * price)
    });
    if out.usage.is_none()
        && let Some(f) = run
    {
        out.usage = Some(Usage { value: f.value, unit: usual });
        words[f.at..f.at + f.took].iter_mut().for_each(|w| w.taken = true);
        found.remove(0);
    }
    let Some(first) = found.first().filter(|f| out.asking.is_none() && f.value <= BARE.1) else { return };
    if found.get(1).is_none_or(|second| first.value >= 2.0 * second.value) {
        take(words, out, first);
    }
}

/// The value of a figure that may be a price though nothing says so.
fn bare(words: &[Word<'_>], at: usize, (value, took, tail): (f64, usize, &str)) -> Option<(f64, usize)> {
    let text = words[at].text;
    let next = unit_after(words, at + took - 1).unwrap_or_default();
    let thousand = tail.is_empty() && next == "thousand";
    let times = match tail {
        "" if thousand => 1000.0,
        "" => 1.0,
        "k" => 1000.0,
        _ => return None,
    };
    let digits = text.trim_matches(|c: char| !c.is_alphanumeric());
    // A date, a telephone number, a ratio or a share is no price.
    let price_mark = |c: char| c.is_ascii_digit() || c.is_alphabetic() || ".,'’_".contains(c);
    if digits.starts_with('0') || !digits.chars().all(price_mark) || text.contains('%') {
        return None;
    }
    if took == 1 && tail.is_empty() && is_year(text, value) {
        return None;
    }
    let before = if at > 0 { beside(words, at, at - 1).unwrap_or_default() } else { String::new() };
    let labelled = at > 0 && words[at - 1].text.ends_with(':') && typed::unit(&before).is_some();
    // "0555 123 456": the rest of a telephone number.
    let phone = before.len() > 3 && before.starts_with('0') && before.chars().all(|c| c.is_ascii_digit());
    let other = COUNTED.contains(&next.as_str())
        || GONE.contains(&next.as_str())
        || phone
        || NOT_MONEY.contains(&before.as_str())
        || NOT_PRICE.contains(&before.as_str())
        || labelled;
    let value = value * times;
    (!other && value >= BARE.0 && value <= FARTHEST).then_some((value, usize::from(thousand)))
}
