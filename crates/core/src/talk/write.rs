//! What a line says beside claims: builds and serials, what is taken along, tried first, and done with it.

use std::collections::BTreeMap;

use jiff::civil::Date;

use crate::base::units::Probability;
use crate::documents::applies::{Condition, SerialWindow, Window};
use crate::documents::claim::ShareForm;
use crate::talk::grammar::{Counts, Tag};
use crate::talk::months::month;
use crate::talk::reader::Reader;
use crate::talk::said::{AlongSaid, Chip, ChipKind, LifeSaid, RevisionSaid, RouteSaid, price_of};
use crate::talk::says::{SHARES, spoken};
use crate::talk::tokens::figure_of;

/// The first day of a year, of its month, or the day itself.
#[allow(clippy::cast_possible_truncation)]
fn first_day(year: f64, on: Option<(i8, Option<i8>)>) -> Option<Date> {
    Date::new(year as i16, on.map_or(1, |x| x.0), on.and_then(|x| x.1).unwrap_or(1)).ok()
}

/// The last day of a year, of its month, or the day itself.
#[allow(clippy::cast_possible_truncation)]
fn last_day(year: f64, on: Option<(i8, Option<i8>)>) -> Option<Date> {
    match on {
        Some((month, Some(day))) => Date::new(year as i16, month, day).ok(),
        _ => Date::new(year as i16, on.map_or(12, |x| x.0), 1).ok().map(Date::last_of_month),
    }
}

impl Reader<'_> {
    /// Which builds: "from 2015", "until March 2013", "2009 to 2012".
    pub(super) fn builds(&mut self) {
        for i in 0..self.t.tags.len() {
            let Some(q) = self.t.tags[i].quantity.filter(|q| q.unit == Counts::Calendar && !self.t.tags[i].taken)
            else {
                continue;
            };
            // "May" fills elsewhere.
            let just = i.checked_sub(1).and_then(|b| Some((b, month(&self.t.tags[b].text)?)));
            let named = just.or_else(|| self.t.before(i).and_then(|b| Some((b, month(&self.t.tags[b].text)?))));
            let head = named.map_or(i, |(b, _)| b);
            // "built" may stand between: "built from 2015", "from build 2015".
            let mut word = self.before_any(head);
            let built = word.filter(|b| self.t.is(*b, "built"));
            if built.is_some()
                && built
                    .and_then(|b| self.before_any(b))
                    .is_some_and(|b| self.t.is(b, "since") || self.t.is(b, "until"))
            {
                word = built.and_then(|b| self.before_any(b));
            }
            let month = named.map(|n| (n.1, None)).or(q.on);
            let window = match (q.high, word) {
                (Some(to), _) => Window { from: first_day(q.low, month), to: last_day(to, None) },
                (None, Some(w))
                    if self.t.tags[w].text.contains("before")
                        || self.t.tags[w].text.contains("earlier")
                        || self.t.tags[w].text == "pre" =>
                {
                    Window { from: None, to: first_day(q.low, month).and_then(|d| d.yesterday().ok()) }
                }
                (None, Some(w)) if self.t.is(w, "until") && !self.t.is(w, "since") => {
                    Window { from: None, to: last_day(q.low, month) }
                }
                (None, Some(w)) if self.t.is(w, "since") => Window { from: first_day(q.low, month), to: None },
                (None, Some(w)) if self.t.is(w, "built") => {
                    Window { from: first_day(q.low, month), to: last_day(q.low, month) }
                }
                // "2015 on: revised tensioner".
                _ if q.high.is_none() && self.onwards(i) => Window { from: first_day(q.low, month), to: None },
                _ => continue,
            };
            let from =
                word.filter(|w| q.high.is_none() || self.t.is(*w, "since") || self.t.is(*w, "built")).unwrap_or(head);
            // Two windows that meet are one: "from 2015 until 2018". "Until 2012 …, from 2013 …" are two parts.
            let before = self.said.applies.built.unwrap_or_default();
            let mut both = Window { from: window.from.or(before.from), to: window.to.or(before.to) };
            if both.from.is_some_and(|f| both.to.is_some_and(|t| f > t)) {
                both.to = None;
            }
            self.said.applies.built = Some(both);
            if window.from.is_some() && window.to.is_none() {
                self.from_at = Some(i);
            }
            let end = |d: Option<Date>| d.map_or_else(|| "…".to_owned(), |d| d.to_string());
            let says = format!("built {} to {}", end(window.from), end(window.to));
            self.chip(ChipKind::Built, from, i, says);
        }
    }

    /// The tag just before, fillers not counted, where it is a word of builds.
    fn before_any(&self, at: usize) -> Option<usize> {
        let word = |i: usize| self.t.is(i, "since") || self.t.is(i, "until") || self.t.is(i, "built");
        at.checked_sub(1).filter(|i| word(*i)).or_else(|| self.t.before(at).filter(|i| word(*i)))
    }

    /// Which serial numbers: "from serial K1500", "up to engine number 12345".
    pub(super) fn serials(&mut self) {
        let named = |text: &str| matches!(text, "serial" | "chassis" | "serials");
        for i in 0..self.t.tags.len() {
            let two = self.t.tags[i].text == "engine"
                && self.t.tags.get(i + 1).is_some_and(|t| t.text == "number" || t.text == "no");
            if !named(&self.t.tags[i].text) && !two {
                continue;
            }
            let mut at = i + if two { 2 } else { 1 };
            if self.t.tags.get(at).is_some_and(|t| matches!(t.text.as_str(), "number" | "no" | "numbers")) {
                at += 1;
            }
            let Some(first) = self.t.tags.get(at).filter(|t| t.text.chars().all(char::is_alphanumeric)) else {
                continue;
            };
            // Letters and digits that touch are one number.
            let (mut to, mut end) = (at, first.to);
            while self
                .t
                .tags
                .get(to + 1)
                .is_some_and(|t| t.from <= end + 1 && (t.from == end || t.text == "-" || self.t.tags[to].text == "-"))
            {
                to += 1;
                end = self.t.tags[to].to;
            }
            let serial = self.t.typed(at, to).to_uppercase();
            if !serial.contains(|c: char| c.is_ascii_digit()) {
                continue;
            }
            let word = self.t.before(i).or_else(|| i.checked_sub(1));
            let until = word.is_some_and(|w| self.t.is(w, "until") && !self.t.is(w, "since"));
            let window = self.said.applies.serial.get_or_insert_with(SerialWindow::default);
            if until {
                window.to = Some(serial.clone())
            } else {
                window.from = Some(serial.clone())
            }
            let says = if until { format!("up to {serial}") } else { format!("from {serial}") };
            let from = word.filter(|w| self.t.is(*w, "until") || self.t.is(*w, "since")).unwrap_or(i);
            self.chip(ChipKind::Serial, from, to, says);
        }
    }

    /// Which variants: "on the 2.4 only", "not the diesel".
    pub(super) fn variants(&mut self) {
        for i in 0..self.t.tags.len() {
            let Some(v) = self.t.variant(i).filter(|_| !self.t.tags[i].taken) else { continue };
            let near = |k: usize, kind: &str| (i.saturating_sub(k)..i).find(|b| self.t.is(*b, kind));
            let only = self.t.tags.get(i + 1).is_some_and(|t| t.text == "only");
            let (fact, value) = self.t.vocabulary.variants[v].clone();
            let facts = BTreeMap::from([(fact, vec![value.clone()])]);
            if let Some(b) = near(2, "except") {
                self.said.applies.except.push(Condition { facts, ..Condition::default() });
                self.chip(ChipKind::Variant, b, i, format!("not {value}"));
            } else if only || near(2, "only_on").is_some() {
                self.said.applies.facts.extend(facts);
                let from = near(2, "only_on").unwrap_or(i);
                self.chip(ChipKind::Variant, from, i + usize::from(only), format!("only {value}"));
            }
        }
    }

    /// What it takes along: "takes the head along", "throws oil onto the belt".
    pub(super) fn along(&mut self) {
        for i in 0..self.t.tags.len() {
            if self.t.tags[i].taken || !self.t.is(i, "takes_along") {
                continue;
            }
            // "Water damage from a blocked drain" takes nothing along.
            if self.t.tags.get(i + 1).is_some_and(|t| t.text == "from") {
                continue;
            }
            let near =
                (i + 1..self.t.tags.len().min(i + 5)).take_while(|k| self.t.tags[*k].segment == self.t.tags[i].segment);
            let Some(k) = near.into_iter().find(|k| self.t.part(*k).is_some() && !self.t.tags[*k].taken) else {
                continue;
            };
            let Some(part) = self.t.part(k).map(|p| self.t.vocabulary.parts[p].clone()) else { continue };
            // "The turbo's pipe kills the turbo", "all of them eat tyres": what is spoken of, and nothing beside it.
            let spoken_of = (0..i).find_map(|j| self.t.part(j)).map(|p| &self.t.vocabulary.parts[p]);
            let of_all = spoken_of.is_none() && (0..i).any(|j| SHARES.iter().any(|(kind, _)| self.t.is(j, kind)));
            // "The 2.0 eats crank bearings": of what stands in no line before.
            let eats = spoken_of.is_none() && self.t.tags[i].text == "eats" && !(0..i).any(|j| self.t.is(j, "it"));
            if spoken_of == Some(&part) || of_all || eats {
                continue;
            }
            let chance = self.chance_near(i);
            if chance.is_some()
                && let Some(b) = self.t.before(i)
            {
                self.t.tags[b].taken = true;
            }
            let chance = chance.unwrap_or(0.5);
            let name = self.t.typed(k, k);
            let to = k + usize::from(self.t.tags.get(k + 1).is_some_and(|t| t.text == "along" || t.text == "with"));
            self.said.takes_along.push(AlongSaid { part: part.clone(), name, chance });
            self.chip(ChipKind::TakesAlong, i, to, format!("takes {} along", spoken(&part)));
        }
    }

    /// A chance in words just before.
    fn chance_near(&self, at: usize) -> Option<f64> {
        let before = self.t.before(at)?;
        if self.t.is(before, "share_occasional") || self.t.is(before, "share_rare") {
            return Some(0.2);
        }
        if self.t.is(before, "share_most") || self.t.is(before, "share_all") {
            return Some(0.8);
        }
        (self.t.tags[before].text == "half").then_some(0.5)
    }

    /// What is tried first: "first try the tensioner, 120", "tensioner first, in four of ten that is all".
    pub(super) fn routes(&mut self) {
        for i in 0..self.t.tags.len() {
            if self.t.tags[i].taken {
                continue;
            }
            let try_it = self.t.is(i, "first_try");
            let after = self.t.is(i, "first_after") && i > 0 && self.t.before(i).is_some_and(|b| b + 1 == i);
            let (from, to, words) = if try_it {
                let end = (i + 1..self.t.tags.len())
                    .take_while(|k| {
                        self.t.tags[*k].segment == self.t.tags[i].segment && self.t.tags[*k].quantity.is_none()
                    })
                    .take_while(|k| {
                        !matches!(self.t.tags[*k].text.as_str(), "," | ":" | "(") && !self.t.is(*k, "first_after")
                    })
                    .take(6)
                    .last();
                let Some(end) = end else { continue };
                // "First try it flushed first": said twice.
                let again = (end + 1 < self.t.tags.len() && self.t.is(end + 1, "first_after")).then_some(end + 1);
                (i, again.unwrap_or(end), (i + 1, end))
            } else if after || self.before_a_new_one(i) {
                // "Regeneration 150 first": the price stands between. "Regeneration 150, new 1400": it ends it.
                let end = if after && self.is_a_price(i - 1) { i - 1 } else { i };
                let begin = (0..end)
                    .rev()
                    .take_while(|k| {
                        self.t.tags[*k].segment == self.t.tags[i].segment && self.t.tags[*k].quantity.is_none()
                    })
                    .take_while(|k| !matches!(self.t.tags[*k].text.as_str(), "," | ":" | "-") && !self.t.tags[*k].taken)
                    .take(4)
                    .last();
                let Some(begin) = begin else { continue };
                (begin, i, (begin, end - 1))
            } else {
                continue;
            };
            // What stands first of all names the part itself: "belt first" is no way of mending.
            let subject = (0..self.t.tags.len()).find(|k| self.t.part(*k).is_some());
            if !try_it && subject.is_some_and(|s| s >= from) {
                continue;
            }
            let name = self.t.typed(words.0, words.1);
            self.chip(ChipKind::Route, from, to, format!("{name} first"));
            let price = self.route_price(words.1).or_else(|| self.route_price(to));
            let suffices = self.suffices();
            self.said.routes.push(RouteSaid { name, price, suffices });
        }
    }

    /// Whether a tag is a bare figure that may be the price of a way.
    pub(super) fn is_a_price(&self, at: usize) -> bool {
        let q = self.t.tags[at].quantity;
        q.is_some_and(|q| matches!(q.unit, Counts::Money | Counts::Nothing) && q.low >= 15.0)
    }

    /// The price that follows a way in its own clause.
    fn route_price(&mut self, to: usize) -> Option<crate::documents::words::Price> {
        let next = (to + 1..self.t.tags.len()).take(2).find(|k| self.t.tags[*k].quantity.is_some())?;
        let q = self.t.tags[next].quantity?;
        let same = self.t.tags[next].segment == self.t.tags[to].segment;
        if !same || !matches!(q.unit, Counts::Money | Counts::Nothing) || q.low < 5.0 {
            return None;
        }
        // "in four of ten" is no price.
        if self.t.tags.get(next + 1).is_some_and(|t| matches!(t.text.as_str(), "in" | "of")) {
            return None;
        }
        self.t.tags[next].taken = true;
        price_of(q.low, q.high)
    }

    /// The chance that it suffices: "in four of ten that is all".
    fn suffices(&mut self) -> Option<f64> {
        let end = (0..self.t.tags.len()).find(|i| self.t.is(*i, "suffices"))?;
        let value = |i: usize| {
            let t = self.t.tags.get(i)?;
            t.quantity.map(|q| q.low).or_else(|| figure_of(&t.text))
        };
        let begin = end.saturating_sub(6);
        let found = (begin..end).find_map(|i| {
            if let Some(q) = self.t.tags[i].quantity.filter(|q| q.unit == Counts::Percent) {
                return Some((i, i, q.low / 100.0));
            }
            if self.t.tags[i].text == "half" {
                return Some((i, i, 0.5));
            }
            let (k, n) = (value(i)?, value(i + 2)?);
            (matches!(self.t.tags[i + 1].text.as_str(), "of" | "in") && n > k).then_some((i, i + 2, k / n))
        });
        let (from, to, chance) = found?;
        self.t.tags[from..=to].iter_mut().for_each(|t| t.taken = true);
        self.t.tags[end].taken = true;
        Some(chance)
    }

    /// What is done with it: "with it do the pump".
    pub(super) fn with_it(&mut self) {
        for i in 0..self.t.tags.len() {
            if self.t.tags[i].taken || !self.t.is(i, "with_it") {
                continue;
            }
            let same = self.t.tags[i].segment;
            let parts: Vec<usize> = (i + 1..self.t.tags.len().min(i + 9))
                .take_while(|k| self.t.tags[*k].segment == same && self.t.tags[*k].quantity.is_none())
                .filter(|k| self.t.part(*k).is_some() && !self.t.tags[*k].taken)
                .collect();
            let Some(last) = parts.last().copied() else { continue };
            for k in parts {
                if let Some(p) = self.t.part(k) {
                    self.said.with_it.push(self.t.vocabulary.parts[p].clone());
                }
            }
            let says = format!("with it: {}", spoken(&self.said.with_it.join(", ")));
            self.chip(ChipKind::WithIt, i, last, says);
        }
    }

    /// A later build with the revised part: "from 2015 rare", beside what is said of the others.
    pub(super) fn revised(&mut self) {
        let Some(from) = self.said.applies.built.and_then(|w| w.from.filter(|_| w.to.is_none())) else { return };
        let Some(at) = self.from_at else { return };
        let word = (0..self.t.tags.len()).find(|i| self.t.is(*i, "revised"));
        let clause = self.t.tags[at].clause;
        let of = |c: &Chip, tags: &[Tag]| tags.iter().find(|t| t.from >= c.from).map(|t| t.clause);
        let chip = |kind: ChipKind, inside: bool| {
            self.chips.iter().any(|c| c.kind == kind && (of(c, &self.t.tags) == Some(clause)) == inside)
        };
        let further = (0..self.t.tags.len()).find_map(|i| {
            let t = &self.t.tags[i];
            SHARES.iter().find(|(k, _)| !t.taken && t.clause == clause && self.t.is(i, k)).map(|(_, w)| (i, *w))
        });
        let share = match further {
            // "most … ; from 2015 rare".
            Some((i, word)) if self.said.share.is_some() => {
                self.t.tags[i].taken = true;
                Some(ShareForm::Word { word })
            }
            // "rarely past 90k; from 2015 rare".
            _ if chip(ChipKind::Share, true) && (chip(ChipKind::Claim, false) || self.share_outside(clause)) => {
                let share = self.said.share.take();
                self.second_share(clause);
                share
            }
            _ if word.is_some() => self.said.share.take_if(|_| {
                chip(ChipKind::Share, true)
                    || self.chips.iter().any(|c| c.kind == ChipKind::Share && c.from > self.t.tags[at].from)
            }),
            _ => return,
        };
        // "The later part from July 2016 cures it."
        let cured = || (0..self.t.tags.len()).find(|i| self.t.is(*i, "cures") && !self.t.tags[*i].taken);
        let share = match (share, word.and_then(|_| cured())) {
            (None, Some(i)) => {
                self.t.tags[i].taken = true;
                Probability::try_from(0.0).ok().map(|share| ShareForm::Share { share })
            }
            (share, _) => share,
        };
        let life = if word.is_some() { self.later_lives(self.t.tags[at].from) } else { Vec::new() };
        self.said.revision = Some(RevisionSaid { from: Some(from), share, life });
        self.said.applies.built = None;
        self.chips.retain(|c| c.kind != ChipKind::Built);
        let says = format!("revised from {from}");
        self.chip(ChipKind::Revision, at, word.filter(|w| *w > at).unwrap_or(at), says);
    }

    /// Takes out the lives that are said behind a place of the line: those of the revised part.
    fn later_lives(&mut self, place: usize) -> Vec<LifeSaid> {
        let at: Vec<usize> = self.chips.iter().filter(|c| c.kind == ChipKind::Claim).map(|c| c.from).collect();
        let lives = std::mem::take(&mut self.said.life).into_iter().enumerate();
        let (later, kept): (Vec<_>, Vec<_>) = lives.partition(|(i, _)| at.get(*i).is_some_and(|from| *from > place));
        self.said.life = kept.into_iter().map(|(_, l)| l).collect();
        later.into_iter().map(|(_, l)| l).collect()
    }

    /// Whether a share that nothing took stands in another clause.
    fn share_outside(&self, clause: usize) -> bool {
        (0..self.t.tags.len()).any(|i| {
            let t = &self.t.tags[i];
            !t.taken && t.clause != clause && SHARES.iter().any(|(k, _)| self.t.is(i, k))
        })
    }

    /// The share of the first part, said in another clause than that of the revised one.
    fn second_share(&mut self, not: usize) {
        for i in 0..self.t.tags.len() {
            if self.t.tags[i].taken || self.t.tags[i].clause == not {
                continue;
            }
            if let Some((_, word)) = SHARES.iter().find(|(k, _)| self.t.is(i, k)) {
                self.said.share = Some(ShareForm::Word { word: *word });
                let says = format!("{word:?}").to_lowercase();
                self.chip(ChipKind::Share, i, i, says);
                return;
            }
        }
    }
}
