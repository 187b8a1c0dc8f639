//! An advert pasted as text: what of it is understood, and what is left.
//!
//! Deterministic and shy: it takes what is plainly said (a price, a usage, a year, a place), names what it finds of
//! failure points and papers, and leaves every other word as it stands.

use jiff::civil::Date;

use crate::base::units::{UsageClock, UsageUnit};
use crate::documents::family::Family;
use crate::documents::paper::DateKnown;
use crate::patterns::library::Library;
use crate::reading::advert_reading::AdvertReading;
use crate::reading::asked::{take_bare, take_price};
use crate::reading::construction::answers_in;
use crate::reading::named::{Names, families_of, named};
use crate::reading::run::take_usage;
use crate::reading::sold_as::sold_as;
use crate::reading::typed;
use crate::reading::words::{Word, words_of};

/// Longest advert that is read, in characters.
pub const LONGEST: usize = 20_000;

/// Reads an advert; `today` bounds what can be a year of build.
#[must_use]
pub fn read(text: &str, families: &[Family], library: &Library, today: Date) -> AdvertReading {
    read_as(text, &Names::of(families, library), library, today, None)
}

/// One line of a list of adverts: its price may stand bare, since each line has one, and a usage without a unit is in
/// the usual one.
#[must_use]
pub fn read_listed(line: &str, names: &Names, library: &Library, today: Date, usual: UsageUnit) -> AdvertReading {
    read_as(line, names, library, today, Some(usual))
}

fn read_as(text: &str, names: &Names, library: &Library, today: Date, listed: Option<UsageUnit>) -> AdvertReading {
    let text: String = text.chars().take(LONGEST).collect();
    let mut words = words_of(&text);
    let mut out = AdvertReading { title: title(&text), ..AdvertReading::default() };
    take_place(&mut words, &mut out);
    take_usage(&mut words, &mut out, listed.unwrap_or(UsageUnit::Miles));
    take_price(&mut words, &mut out, listed.is_some());
    take_built(&mut words, &mut out, today);
    if let Some(usual) = listed {
        take_bare(&mut words, &mut out, usual);
    }
    let clock = out.usage.map(|u| if u.unit == UsageUnit::Hours { UsageClock::Hours } else { UsageClock::Km });
    out.built_as = answers_in(&text, clock, library);
    out.families = families_of(&text, names);
    out.named = named(&text, names, &out.families);
    out.sold_as = sold_as(&text);
    out.rest = rest(&words);
    out
}

/// The first line that says something, as a name.
fn title(text: &str) -> Option<String> {
    let line = text.lines().map(str::trim).find(|l| l.chars().filter(|c| c.is_alphabetic()).count() >= 3)?;
    let mut title: String = line.chars().take(80).collect();
    if line.chars().count() > 80
        && let Some(at) = title.rfind(' ')
    {
        title.truncate(at);
    }
    Some(title.trim_end_matches([',', ';', '.', ':']).to_owned())
}

/// What was not taken, line by line.
fn rest(words: &[Word<'_>]) -> String {
    let mut lines: Vec<String> = Vec::new();
    let mut last = None;
    for w in words.iter().filter(|w| !w.taken) {
        match lines.last_mut().filter(|_| last == Some(w.line)) {
            Some(line) => {
                line.push(' ');
                line.push_str(w.text);
            }
            None => lines.push(w.text.to_owned()),
        }
        last = Some(w.line);
    }
    // Marks that stood between what was taken say nothing alone.
    lines.retain(|l| l.chars().any(char::is_alphanumeric));
    lines.join("\n")
}

/// Words before a year that make it the year of build.
const BUILT: [&str; 12] =
    ["built", "registered", "reg", "year", "first", "from", "registration", "model", "ez", "bj", "baujahr", "my"];

/// Words before a year that make it the year of something else.
const NOT_BUILT: [&str; 25] = [
    "until",
    "till",
    "done",
    "replaced",
    "serviced",
    "changed",
    "in",
    "since",
    "valid",
    "expires",
    "mot",
    "test",
    "fitted",
    "tax",
    "tyres",
    "tires",
    "belt",
    "clutch",
    "battery",
    "brakes",
    "pump",
    "chain",
    "rebuilt",
    "service",
    "inspection",
];

fn take_built(words: &mut [Word<'_>], out: &mut AdvertReading, today: Date) {
    let mut best: Option<(usize, Date, DateKnown, usize, usize)> = None;
    for i in 0..words.len() {
        if words[i].taken {
            continue;
        }
        let same_line = |j: usize| words.get(j).filter(|w| w.line == words[i].line).map(Word::bare);
        let bare = words[i].bare();
        let bare = bare.strip_prefix("my").unwrap_or(&bare).to_owned();
        let two = same_line(i + 1).map(|n| format!("{bare} {n}"));
        let month = two.filter(|_| bare.chars().all(char::is_alphabetic) && bare.len() >= 3);
        let plate = same_line(i + 1).filter(|w| w == "plate").and_then(|_| plated(&bare));
        let figures = dated(&bare).or_else(|| Some((shortened(words[i].text, today)?, DateKnown::Year)));
        let (date, known, took) = match (month.and_then(|t| typed::date(&t).ok()), figures, plate) {
            (Some((d, k)), ..) => (d, k, 2),
            (None, Some((d, k)), _) => (d, k, 1),
            (.., Some(d)) => (d, DateKnown::Year, 2),
            _ => continue,
        };
        if date > today || date.year() < 1900 {
            continue;
        }
        let near: Vec<String> = (1..=2).filter(|k| i >= *k).filter_map(|k| same_line(i - k)).collect();
        // What it is the year of stands in the same clause.
        let clause =
            (1..=2).take_while(|k| i >= *k && !words[i - k].ends() && !words[i - k].text.ends_with(':')).count();
        let new = |k: usize| near.get(k).is_some_and(|w| w == "new");
        let said = near.iter().any(|w| BUILT.contains(&w.as_str()))
            || new(0)
            || same_line(i + took).is_some_and(|w| matches!(w.as_str(), "reg" | "model" | "plate"));
        let other = (near[..clause].iter().any(|w| NOT_BUILT.contains(&w.as_str())) || (clause > 1 && new(1)))
            && !near.iter().any(|w| w == "registered" || w == "built");
        let rank = if said && !other { 2 } else { usize::from(!other) };
        let older = |b: &(usize, Date, DateKnown, usize, usize)| rank > b.0 || (rank == b.0 && date < b.1);
        if rank > 0 && best.as_ref().is_none_or(older) {
            best = Some((rank, date, known, i, took));
        }
    }
    if let Some((rank, date, known, at, took)) = best {
        out.built = Some(date);
        out.built_known = Some(known);
        // In a name the year stays part of it.
        if rank > 1 {
            words[at..at + took].iter_mut().for_each(|w| w.taken = true);
            let before = (1..=2).take_while(|k| at >= *k && words[at - k].line == words[at].line);
            let said: Vec<usize> =
                before.take_while(|k| BUILT.contains(&words[at - k].bare().as_str())).map(|k| at - k).collect();
            said.into_iter().for_each(|i| words[i].taken = true);
        }
    }
}

/// The year that two figures of a plate stand for: "22", or "72" for its second half.
fn plated(figures: &str) -> Option<Date> {
    let n: i16 = (figures.len() == 2).then(|| figures.parse().ok()).flatten()?;
    let (year, month) = if n > 50 { (1950 + n, 10) } else { (2000 + n, 5) };
    Date::new(year, month, 15).ok()
}

/// The year that two figures after an apostrophe stand for: "'18".
fn shortened(word: &str, today: Date) -> Option<Date> {
    let two = word.strip_prefix(['\'', '’', '‘'])?.trim_end_matches([',', ';', '.', '!', '|']);
    let n: i16 = two.parse().ok().filter(|_| two.len() == 2 && two.chars().all(|c| c.is_ascii_digit()))?;
    let century = today.year() - today.year() % 100;
    let year = if century + n <= today.year() { century + n } else { century - 100 + n };
    Date::new(year, 7, 1).ok()
}

/// A year, or a month of a year, in figures.
fn dated(word: &str) -> Option<(Date, DateKnown)> {
    let digits = |t: &str| !t.is_empty() && t.chars().all(|c| c.is_ascii_digit());
    let parts: Vec<&str> = word.split(['/', '-', '.']).collect();
    let year = |t: &str| t.len() == 4 && (t.starts_with("19") || t.starts_with("20"));
    let dated = match parts.as_slice() {
        [y] => digits(y) && year(y),
        [a, b] => digits(a) && digits(b) && (year(a) != year(b)),
        [a, _, c] => parts.iter().all(|p| digits(p)) && (year(a) || year(c)),
        _ => false,
    };
    if !dated {
        return None;
    }
    // A day that can be read two ways leaves the year.
    let of_year = || {
        let y = parts.iter().find(|p| year(p))?.parse().ok()?;
        Some((Date::new(y, 7, 1).ok()?, DateKnown::Year))
    };
    typed::date(word).ok().or_else(of_year)
}

fn take_place(words: &mut [Word<'_>], out: &mut AdvertReading) {
    const SAYS: [&str; 4] = ["location", "place", "standort", "seat"];
    const STANDS: [&str; 8] = ["located", "collect", "collection", "viewing", "view", "stands", "parked", "based"];
    const JOINS: [&str; 4] = ["in", "from", "at", "near"];
    let capital = |w: &Word<'_>| w.text.starts_with(char::is_uppercase);
    for i in 0..words.len() {
        let bare = words[i].bare();
        let from = if SAYS.contains(&bare.as_str()) && words[i].text.ends_with(':') {
            i + 1
        } else if STANDS.contains(&bare.as_str())
            && words.get(i + 1).is_some_and(|w| JOINS.contains(&w.bare().as_str()))
        {
            i + 2
        } else {
            continue;
        };
        let line = words[i].line;
        let mut name: Vec<usize> =
            (from..words.len().min(from + 3)).take_while(|j| words[*j].line == line && capital(&words[*j])).collect();
        // A name ends with its sentence.
        if let Some(end) = name.iter().position(|j| words[*j].text.ends_with(['.', ',', ';', '!'])) {
            name.truncate(end + 1);
        }
        let Some(end) = name.last().map(|j| j + 1) else { continue };
        let place: Vec<&str> = words[from..end].iter().map(|w| w.text).collect();
        out.place = Some(place.join(" ").trim_end_matches([',', '.', ';', '!']).to_owned());
        words[i..end].iter_mut().for_each(|w| w.taken = true);
        return;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::units::{Money, Usage};

    fn reads(text: &str) -> AdvertReading {
        read(text, &[], &Library::default(), Date::constant(2026, 11, 26))
    }

    #[test]
    fn a_plain_advert_is_read_and_the_rest_is_left() {
        let a = reads(
            "White panel van, 2016, one owner\n120,500 km, first registered 03/2016. Belt done at 90 000 km in 2022.\n\
             Price: £4,750 ono. Collect from Hollin Quay. Tows well.",
        );
        assert_eq!(a.asking.map(Money::get), Some(4750.0));
        assert_eq!(a.currency.as_deref(), Some("GBP"));
        assert_eq!(a.usage, Some(Usage { value: 120_500.0, unit: UsageUnit::Km }));
        assert_eq!(a.built, Some(Date::constant(2016, 3, 15)));
        assert_eq!(a.place.as_deref(), Some("Hollin Quay"));
        assert_eq!(a.title.as_deref(), Some("White panel van, 2016, one owner"));
        assert!(a.rest.contains("Belt done at 90 000 km in 2022.") && a.rest.contains("Tows well."), "{}", a.rest);
        assert!(!a.rest.contains("4,750"), "{}", a.rest);
    }

    #[test]
    fn figures_are_read_as_people_write_them() {
        for (text, km) in [
            ("85k miles", 85_000.0 * 1.609_344),
            ("143 000 km, serviced every 15 000 km", 143_000.0),
            ("Mileage: 98.500 km", 98_500.0),
            ("clock shows 61200 miles", 61_200.0 * 1.609_344),
            ("92tkm, belt done at 88000km", 92_000.0),
        ] {
            let a = reads(text);
            assert!(a.usage.is_some_and(|u| (u.on_clock() - km).abs() < 1.0), "{text}: {:?}", a.usage);
        }
        assert_eq!(reads("1 450 hours on the meter").usage, Some(Usage { value: 1450.0, unit: UsageUnit::Hours }));
        for (text, asks) in [
            ("asking 3200", 3200.0),
            ("4.500 EUR", 4500.0),
            ("€ 3.900", 3900.0),
            ("£6k ono", 6000.0),
            ("spent £1200 on tyres, asking £5,400", 5400.0),
            ("2950 HSC", 2950.0),
        ] {
            assert_eq!(reads(text).asking.map(Money::get), Some(asks), "{text}");
        }
        // Money that was spent is not what is asked; a bare number is nothing.
        assert_eq!(reads("spent £1200 on it").asking, None);
        assert_eq!(reads("call 0551 240").asking, None);
        assert_eq!(reads("MOT until 2027, belt done 2021, a 2013 van").built.map(Date::year), Some(2013));
        for (text, year) in
            [("Ferryman '18, one owner", 2018), ("a ’98 van", 1998), ("belt done '21, a 2013 van", 2013)]
        {
            assert_eq!(reads(text).built.map(Date::year), Some(year), "{text}");
        }
        assert_eq!(reads("the owners' club, 20' container").built, None);
        assert_eq!(reads("").rest, "");
    }

    #[test]
    fn no_text_makes_it_fall_over() {
        for text in [
            "£",
            "k",
            "km km km",
            "1 2 3 4 5 6 7",
            "ßß 1.1.1.1 €€€ \u{202e}",
            "Location:",
            "collect from",
            "9".repeat(400).as_str(),
        ] {
            let _ = reads(text);
        }
        assert!(reads(&"1 000 km ".repeat(4000)).usage.is_some());
    }
}
