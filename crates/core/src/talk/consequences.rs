//! What a line says beyond one fault: what wears faster while it lasts, how it grows, and how parts and hands are to be
//! had for an old one.

use crate::documents::job::PartGrade;
use crate::talk::grammar::{Counts, Quantity};
use crate::talk::reader::Reader;
use crate::talk::said::{Chip, ChipKind, StageSaid, SupplySaid, WearsSaid, price_of};
use crate::talk::says::spoken;

/// Parts that are hard to get, or work that few do, cost so many times as much, where nobody says how much: judgement.
const HARD: f64 = 1.5;

/// How words begin that speak of mending rather than of how a fault shows.
const MENDS: [&str; 9] = ["renew", "replac", "adjust", "reseal", "clean", "flush", "rebuil", "swap", "repair"];

/// Stages of one fault that a line tells apart.
const STAGES: usize = 3;

impl Reader<'_> {
    /// Whether a tag is the price of a way that a new part, much dearer, stands behind: "regeneration 150, new 1400".
    pub(super) fn before_a_new_one(&self, at: usize) -> bool {
        let Some(q) = self.t.tags[at].quantity.filter(|_| self.is_a_price(at)) else { return false };
        let comma = self.t.tags.get(at + 1).is_some_and(|t| matches!(t.text.as_str(), "," | "or" | ";"));
        let new = |k: &usize| matches!(self.t.tags[*k].text.as_str(), "new" | "replacement" | "replaced");
        let named = (at + 2..self.t.tags.len()).take(2).find(new);
        let dearer = |k: usize| {
            let price = (k + 1..self.t.tags.len()).take(2).find(|p| self.is_a_price(*p));
            price.and_then(|p| self.t.tags[p].quantity).is_some_and(|p| p.low >= 1.8 * q.low)
        };
        comma && named.is_some_and(dearer)
    }

    /// "Blocked breather: crank seal wears twice as fast", "a leak wears the belt three times as fast".
    pub(super) fn wears(&mut self) {
        let found = (0..self.t.tags.len()).find_map(|i| {
            if self.t.tags[i].taken {
                return None;
            }
            if self.t.is(i, "wears_twice") {
                return Some((i, i, 2.0));
            }
            let fast = self.t.is(i, "as_fast").then(|| i.checked_sub(1)).flatten()?;
            Some((fast, i, self.times(fast)?))
        });
        let Some((from, to, times)) = found.filter(|x| x.2 > 1.0 && x.2 <= 50.0) else { return };
        let parts: Vec<usize> = (0..self.t.tags.len()).filter(|i| self.t.part(*i).is_some()).collect();
        // "Halves the life of the belt" names it behind, "the belt wears twice as fast" before.
        let behind = self.t.typed(from, to).to_lowercase().contains("life");
        let worn = if behind { parts.iter().find(|p| **p > to) } else { parts.iter().rev().find(|p| **p < from) };
        let Some(worn) = worn.copied().filter(|w| parts.iter().any(|p| self.t.part(*p) != self.t.part(*w))) else {
            return;
        };
        let Some(part) = self.t.part(worn).map(|p| self.t.vocabulary.parts[p].clone()) else { return };
        let name = self.t.typed(worn, worn);
        self.chip(ChipKind::Wears, from, to, format!("wears {} {times} times as fast", spoken(&part)));
        self.t.tags[worn].taken = true;
        self.said.wears.push(WearsSaid { part, name, times });
    }

    /// "Three times", "3 times".
    fn times(&self, at: usize) -> Option<f64> {
        let q = self.t.tags.get(at)?.quantity.filter(|q| q.unit == Counts::Other && q.high.is_none())?;
        self.t.typed(at, at).to_lowercase().ends_with("times").then_some(q.low)
    }

    /// "Parts are hard to get after 15 years", "parts cost double from 20 years on", "used parts only from year 25".
    pub(super) fn supply(&mut self) {
        let has = |kind: &str| (0..self.t.tags.len()).find(|i| self.t.is(*i, kind));
        let (hard, hands, used) = (has("supply_hard"), has("supply_hands"), has("supply_used"));
        let parts = has("supply_parts");
        let dearer = |of: Option<usize>| of.and_then(|p| self.dearer_after(p));
        let work =
            (0..self.t.tags.len()).find(|i| matches!(self.t.tags[*i].text.as_str(), "hours" | "labour" | "work"));
        let (dear, slow) = (dearer(parts), dearer(work));
        if hard.or(hands).or(used).is_none() && dear.is_none() {
            return;
        }
        let years = |i: &usize| self.t.tags[*i].quantity.is_some_and(|q| q.unit == Counts::Years);
        let age = (0..self.t.tags.len()).find(years).and_then(|i| Some((i, self.t.tags[i].quantity?.low)));
        let Some((at, from_age)) = age.filter(|(_, y)| (1.0..=120.0).contains(y)) else { return };
        let head = parts.or(hard).or(hands).or(used).unwrap_or(at).min(at);
        self.said.supply = Some(SupplySaid {
            from_age,
            parts: dear.or(hard.is_some().then_some(HARD)),
            hours: slow.or(hands.is_some().then_some(HARD)),
            grades: if used.is_some() { vec![PartGrade::Used] } else { Vec::new() },
        });
        let named = (0..self.t.tags.len()).find(|i| self.t.part(*i).is_some() && !self.t.is(*i, "supply_parts"));
        if let Some(part) = named.and_then(|i| self.t.part(i)) {
            self.said.part = Some(self.t.vocabulary.parts[part].clone());
            self.said.name = named.map(|i| self.t.typed(i, i));
            self.said.known = true;
        }
        let last = (0..self.t.tags.len()).next_back().unwrap_or(at);
        self.chip(ChipKind::Supply, head, last.max(at), format!("from {from_age} years on"));
        self.t.tags.iter_mut().for_each(|t| t.taken = true);
    }

    /// How many times as much parts cost or work takes: "double", "three times as much", "half as much again".
    fn dearer_after(&self, at: usize) -> Option<f64> {
        let near = at + 1..self.t.tags.len().min(at + 6);
        near.into_iter().find_map(|i| {
            let text = self.t.tags[i].text.as_str();
            let next = self.t.tags.get(i + 1).map_or("", |t| t.text.as_str());
            match text {
                "double" | "doubles" | "twice" => Some(2.0),
                "triple" | "treble" => Some(3.0),
                "half" if next == "as" => Some(1.5),
                _ => self.times(i).filter(|x| (1.0..=20.0).contains(x)),
            }
        })
    }

    /// A fault that grows: "drips first, 120; later sprays, 900", "first hums, 300, then grinds within 5 000 km, 600".
    pub(super) fn stages(&mut self) {
        let tags = &self.t.tags;
        let first = |i: &usize| {
            let text = tags[*i].text.as_str();
            matches!(text, "first" | "at first" | "initially" | "begins as" | "starts with" | "begins with")
        };
        let Some(begin) = (0..tags.len()).find(first) else { return };
        let next = |i: &usize| {
            matches!(tags[*i].text.as_str(), "then" | "later" | "after that" | "eventually" | "finally" | "in the end")
        };
        let mut cuts: Vec<usize> = (begin + 1..tags.len()).filter(next).take(STAGES - 1).collect();
        let Some(second) = cuts.first().copied() else { return };
        // "Clean it first, then renew it" is a way of mending.
        if (0..tags.len())
            .any(|i| i != begin && self.t.is(i, "first_try") || MENDS.iter().any(|m| tags[i].text.starts_with(m)))
        {
            return;
        }
        // What stands before "first" in its own clause is the first stage: "drips first".
        let clause = tags[begin].clause;
        let own = |i: &usize| tags[*i].clause == clause && tags[*i].text != ":" && self.t.part(*i).is_none();
        let word = |i: &usize| tags[*i].quantity.is_none() && tags[*i].text.starts_with(char::is_alphabetic);
        let from = (0..begin).rev().take_while(own).filter(word).last().unwrap_or(begin + 1);
        cuts.push(tags.len());
        let mut spans = vec![(from, second)];
        spans.extend(cuts.windows(2).map(|w| (w[0] + 1, w[1])));
        let told: Option<Vec<StageSaid>> = spans.iter().map(|(from, to)| self.stage(*from, *to)).collect();
        let Some(told) = told else { return };
        let symptom = |(from, to): &(usize, usize)| (*from..*to).any(|i| self.t.sign(i).is_some());
        // From the second stage on it costs something of its own; without that two signs are two signs.
        if !spans.iter().any(symptom) || told.iter().skip(1).any(|s| s.price.is_none()) {
            return;
        }
        for ((from, to), stage) in spans.into_iter().zip(&told) {
            let says = stage.name.clone();
            for i in from..to {
                // What is done in a later stage names no part: "then it locks up".
                let named = from > second && self.t.part(i).is_some();
                self.t.tags[i].taken |= self.t.tags[i].quantity.is_some() || named;
            }
            // Its signs are still read as signs.
            let (a, b) = self.of_name(from, to).unwrap_or((from, from));
            let tags = &self.t.tags;
            self.chips.push(Chip { kind: ChipKind::Stage, from: tags[a].from, to: tags[b].to, says });
        }
        self.t.tags[begin].taken = true;
        self.said.price = told[0].price;
        self.said.stages = told;
    }

    /// A stage from a stretch of the line; none where it has no name.
    fn stage(&self, from: usize, to: usize) -> Option<StageSaid> {
        let (a, b) = self.of_name(from, to)?;
        let mut out = StageSaid { name: self.t.typed(a, b).chars().take(80).collect(), tolerable: None, price: None };
        for i in from..to {
            let Some(q) = self.t.tags[i].quantity else { continue };
            let lasting = i > from
                && matches!(
                    self.t.tags[i - 1].text.as_str(),
                    "for" | "within" | "another" | "about" | "after" | "good for"
                );
            let distance = matches!(q.unit, Counts::Km | Counts::Miles | Counts::Thousands | Counts::Hours);
            if distance && (lasting || q.unit != Counts::Hours) {
                out.tolerable = out.tolerable.or_else(|| self.on_clock(q.low, q.unit).map(|x| x.1));
            } else if money(q) {
                out.price = out.price.or_else(|| price_of(q.low, q.high));
            }
        }
        Some(out)
    }

    /// The words of a stage: from the first that says something to the comma or the figure behind it.
    fn of_name(&self, from: usize, to: usize) -> Option<(usize, usize)> {
        let word = |i: &usize| {
            let t = &self.t.tags[*i];
            t.quantity.is_none() && t.text.starts_with(|c: char| c.is_alphabetic())
        };
        let a =
            (from..to).find(|i| word(i) && !matches!(self.t.tags[*i].text.as_str(), "first" | "it" | "at first"))?;
        let stops =
            |i: &usize| matches!(self.t.tags[*i].text.as_str(), "for" | "within" | "another" | "after" | "first");
        let b = (a..to).take_while(|i| word(i) && !stops(i)).last()?;
        Some((a, b))
    }
}

/// Whether a figure may be a price.
fn money(q: Quantity) -> bool {
    q.unit == Counts::Money || q.unit == Counts::Nothing && (15.0..=60_000.0).contains(&q.low)
}
