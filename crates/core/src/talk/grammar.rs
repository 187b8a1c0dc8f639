//! The grammar: a line tagged with what its words may mean, and the figures in it.

pub(crate) use crate::talk::quantity::{Counts, Quantity};
use crate::talk::tables::{Meaning, Vocabulary};
use crate::talk::tokens::{NTH_OF, Token, tokens};

/// A stretch of the line with what it may mean.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Tag {
    /// Meanings, all of the same length.
    pub meanings: Vec<Meaning>,
    /// A figure.
    pub quantity: Option<Quantity>,
    /// In small letters.
    pub text: String,
    /// Where it begins, in characters.
    pub from: usize,
    /// Where it ends.
    pub to: usize,
    /// The segment that it stands in: what points and semicolons part.
    pub segment: usize,
    /// The clause: what commas part too.
    pub clause: usize,
    /// Whether something was made of it.
    pub taken: bool,
}

/// A line, tagged.
pub(crate) struct Tagged<'v> {
    /// The vocabulary.
    pub vocabulary: &'v Vocabulary,
    /// The tags.
    pub tags: Vec<Tag>,
    /// The line as typed.
    pub line: &'v str,
}

impl<'v> Tagged<'v> {
    /// Tags a line.
    pub fn of(line: &'v str, vocabulary: &'v Vocabulary) -> Self {
        let mut all = tokens(line);
        vocabulary.corrected(&mut all);
        let mut tags = Vec::new();
        let (mut i, mut segment, mut clause) = (0, 0, 0);
        while i < all.len() {
            let t = &all[i];
            if t.parts() && !(t.text == "!" && all.get(i + 1).is_some_and(|n| n.from == t.to && n.is_word())) {
                segment += 1;
                clause += 1;
                i += 1;
                continue;
            }
            if t.text == "," {
                clause += 1;
            }
            let variant = vocabulary.at(&all, i).iter().any(|f| matches!(f.0, Meaning::Variant(_)));
            if let Some((quantity, took)) =
                quantity(&all, i).filter(|q| !variant || !matches!(q.0.unit, Counts::Nothing | Counts::Other))
            {
                let (from, to) = (t.from, all[i + took - 1].to);
                let text = t.text.clone();
                tags.push(Tag {
                    meanings: Vec::new(),
                    quantity: Some(quantity),
                    text,
                    from,
                    to,
                    segment,
                    clause,
                    taken: false,
                });
                i += took;
                continue;
            }
            let mut found = vocabulary.at(&all, i);
            if every_nth_year(&all, i + 1).is_some() {
                // Not "every third" of those built.
                found.retain(|f| f.1 == 1);
            }
            let took = found.first().map_or(1, |f| f.1);
            let meanings = found.iter().filter(|f| f.1 == took).map(|f| f.0).collect();
            let text = all[i..i + took].iter().map(|t| t.text.as_str()).collect::<Vec<_>>().join(" ");
            let to = all[i + took - 1].to;
            tags.push(Tag { meanings, quantity: None, text, from: t.from, to, segment, clause, taken: false });
            i += took;
        }
        Self { vocabulary, tags, line }
    }

    /// Whether a tag may be a word of a kind.
    pub fn is(&self, at: usize, kind: &str) -> bool {
        let of = |m: &Meaning| matches!(m, Meaning::Word(i) if self.vocabulary.kind(*i) == kind);
        self.tags.get(at).is_some_and(|t| t.meanings.iter().any(of))
    }

    /// The first of some kinds that a tag may be.
    pub fn kind_of<'k>(&self, at: usize, kinds: &[&'k str]) -> Option<&'k str> {
        kinds.iter().find(|k| self.is(at, k)).copied()
    }

    /// The part that a tag may be.
    pub fn part(&self, at: usize) -> Option<usize> {
        self.vocabulary.part_of(&self.tags.get(at)?.meanings)
    }

    /// The scheduled work that a tag may be.
    pub fn work(&self, at: usize) -> Option<usize> {
        self.tags.get(at)?.meanings.iter().find_map(|m| match m {
            Meaning::Work(p) => Some(*p),
            _ => None,
        })
    }

    /// The sign that a tag may be.
    pub fn sign(&self, at: usize) -> Option<usize> {
        self.tags.get(at)?.meanings.iter().find_map(|m| match m {
            Meaning::Sign(p) => Some(*p),
            _ => None,
        })
    }

    /// The phase that a tag may be.
    pub fn place(&self, at: usize) -> Option<usize> {
        self.tags.get(at)?.meanings.iter().find_map(|m| match m {
            Meaning::Place(p) => Some(*p),
            _ => None,
        })
    }

    /// The variant that a tag may be.
    pub fn variant(&self, at: usize) -> Option<usize> {
        self.tags.get(at)?.meanings.iter().find_map(|m| match m {
            Meaning::Variant(p) => Some(*p),
            _ => None,
        })
    }

    /// A tag that only fills.
    pub fn fills(&self, at: usize) -> bool {
        let t = &self.tags[at];
        t.quantity.is_none()
            && (!t.text.starts_with(|c: char| c.is_alphabetic())
                || (!t.meanings.is_empty()
                    && t.meanings
                        .iter()
                        .all(|m| matches!(m, Meaning::Word(i) if self.vocabulary.kind(*i) == "filler"))))
    }

    /// The nearest tag before that says something, within the segment.
    pub fn before(&self, at: usize) -> Option<usize> {
        (0..at).rev().take_while(|i| self.tags[*i].segment == self.tags[at].segment).find(|i| !self.fills(*i))
    }

    /// The nearest tag after that says something, within the segment.
    pub fn after(&self, at: usize) -> Option<usize> {
        (at + 1..self.tags.len())
            .take_while(|i| self.tags[*i].segment == self.tags[at].segment)
            .find(|i| !self.fills(*i))
    }

    /// The line from one tag to another, as typed.
    pub fn typed(&self, from: usize, to: usize) -> String {
        let (from, to) = (self.tags[from].from, self.tags[to].to);
        self.line.chars().skip(from).take(to.saturating_sub(from)).collect()
    }
}

/// A unit by its word.
fn unit(word: &str) -> Option<Counts> {
    Some(match word {
        "km" | "kms" | "kilometres" | "kilometers" | "kilometre" | "klicks" => Counts::Km,
        "mi" | "mile" | "miles" | "mls" => Counts::Miles,
        "h" | "hr" | "hrs" | "hour" | "hours" => Counts::Hours,
        "y" | "yr" | "yrs" | "year" | "years" | "season" | "seasons" | "winter" | "winters" | "summer" | "summers"
        | "birthday" => Counts::Years,
        "month" | "months" => Counts::Months,
        "%" | "percent" | "pct" => Counts::Percent,
        "euro" | "euros" | "eur" | "pounds" | "gbp" | "dollars" | "usd" | "hsc" | "crowns" | "quid" | "bucks" | "€"
        | "£" | "$" => Counts::Money,
        "mph" | "kmh" | "kph" | "rpm" | "revs" | "bar" | "psi" | "mm" | "cm" | "inch" | "inches" | "volt" | "volts"
        | "amp" | "amps" | "watt" | "watts" | "litre" | "litres" | "liter" | "liters" | "ltr" | "cc" | "degree"
        | "degrees" | "deg" | "nm" | "ohm" | "ohms" | "kg" | "hp" | "kw" | "second" | "seconds" | "minute"
        | "minutes" | "mins" | "day" | "days" | "week" | "weeks" | "times" => Counts::Other,
        _ => return None,
    })
}

/// Whether the two tokens behind a distance make a speed of it.
fn is_an_hour(tokens: &[Token]) -> bool {
    let hour = |t: &Token| matches!(t.text.as_str(), "h" | "hr" | "hour");
    let over = |t: &Token| matches!(t.text.as_str(), "/" | "an" | "per" | "p");
    tokens.len() >= 2 && over(&tokens[0]) && hour(&tokens[1])
}

/// "Year seven": a figure of years that stands behind its word.
fn nth_year(tokens: &[Token], at: usize) -> Option<(Quantity, usize)> {
    let [word, figure, rest @ ..] = &tokens[at..] else { return None };
    let low = figure.value.filter(|v| word.text == "year" && (1.0..=40.0).contains(v))?;
    let further = rest.first().is_some_and(|t| unit(&t.text).is_some() || t.value.is_some());
    (!further).then_some((Quantity { low, high: None, unit: Counts::Years, on: None }, 2))
}

/// "Every third winter": the years between, behind their "every".
fn every_nth_year(tokens: &[Token], at: usize) -> Option<(Quantity, usize)> {
    let [every, nth, of] = tokens.get(at.checked_sub(1)?..at + 2)? else { return None };
    let low = match nth.text.as_str() {
        "second" | "other" => 2.0,
        "third" => 3.0,
        "fourth" => 4.0,
        "fifth" => 5.0,
        _ => return None,
    };
    let years = matches!(every.text.as_str(), "every" | "each") && NTH_OF.contains(&of.text.as_str());
    years.then_some((Quantity { low, high: None, unit: Counts::Years, on: None }, 2))
}

/// A figure that begins at a token, with how many it takes.
fn quantity(tokens: &[Token], at: usize) -> Option<(Quantity, usize)> {
    if let Some(date) = crate::talk::dates::date(tokens, at) {
        return Some(date);
    }
    if let Some(year) = nth_year(tokens, at).or_else(|| every_nth_year(tokens, at)) {
        return Some(year);
    }
    let mut i = at;
    let marked = matches!(tokens[i].text.as_str(), "£" | "€" | "$");
    if marked {
        i += 1;
    }
    let first = tokens.get(i).filter(|t| t.value.is_some())?;
    // "one", "two" alone are words; with a unit they count.
    let mut low = first.value?;
    let mut thousand = low >= 1000.0;
    i += 1;
    let early = tokens.get(i).and_then(|t| unit(&t.text)).filter(|u| *u != Counts::Percent);
    // A unit between both: "90k km to 120k km".
    let (joined, candidate) = second(tokens, if early.is_some() { i + 1 } else { i }, early);
    let both_thousands = |h: f64| h >= 1000.0 && low < 1000.0 && low * 1000.0 < h;
    let high = candidate.filter(|h| {
        let later = tokens.get(joined).and_then(|t| unit(&t.text));
        *h > if both_thousands(*h) { low * 1000.0 } else { low }
            && (early.is_none() || later.is_none() || later == early)
    });
    let mut of = early;
    if high.is_some() {
        i = joined;
        of = tokens.get(i).and_then(|t| unit(&t.text)).inspect(|_| i += 1).or(early);
    } else if early.is_some() {
        i += 1;
    } else {
        of = tokens.get(i).and_then(|t| unit(&t.text)).inspect(|_| i += 1);
    }
    if let Some(h) = high {
        // "70-100k": both in thousands.
        if both_thousands(h) {
            low *= 1000.0;
        }
        thousand |= h >= 1000.0;
    }
    if matches!(of, Some(Counts::Km | Counts::Miles)) && is_an_hour(&tokens[i..]) {
        (i, of) = (i + 2, Some(Counts::Other));
    }
    let calendar = |x: f64| first.digits && (1950.0..=2035.0).contains(&x) && x.fract() == 0.0;
    let unit = match of {
        _ if marked => Counts::Money,
        Some(unit) => unit,
        None if first.text.len() == 4 && calendar(low) && high.is_none_or(calendar) => Counts::Calendar,
        None if !first.digits && low < 10.0 && high.is_none() => return None,
        None if thousand
            && tokens[at..i].iter().any(|t| t.value.is_some_and(|v| v >= 1000.0) && (!t.digits || !plain(t))) =>
        {
            Counts::Thousands
        }
        None => Counts::Nothing,
    };
    Some((Quantity { low, high, unit, on: None }, i - at))
}

/// Whether a figure is written out in digits, without a "k".
fn plain(token: &Token) -> bool {
    crate::reading::typed::number(&token.text) == token.value
}

/// The second of two figures: "70 to 100", "70-100", "70 and 100".
fn second(tokens: &[Token], at: usize, early: Option<Counts>) -> (usize, Option<f64>) {
    let join = tokens.get(at).is_some_and(|t| matches!(t.text.as_str(), "-" | "to" | "and" | "till" | "or"));
    let Some(next) = tokens.get(at + 1).filter(|t| join && t.value.is_some()) else { return (at, None) };
    // "every 10 and one in eight": the second belongs to something else.
    let apart = tokens.get(at + 2).is_some_and(|t| t.text == "in") || (!next.digits && next.value < Some(10.0));
    // "5 years or 60k": two clocks.
    let of_age = matches!(early, Some(Counts::Years | Counts::Months));
    let apart = apart || of_age && next.value >= Some(1000.0);
    if apart { (at, None) } else { (at + 2, next.value) }
}
