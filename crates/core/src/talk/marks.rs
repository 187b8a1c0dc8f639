//! What a line says beside figures: marks, advice, praise, rules, and parts that no table knows.

use crate::documents::failure_point::Exposure;
use crate::documents::family::AdviceKind;
use crate::documents::words::{LivedWith, NoticeLength};
use crate::talk::grammar::{Counts, Quantity};
use crate::talk::reader::Reader;
use crate::talk::said::{Chip, ChipKind, UpgradeSaid, UseDoes};
use crate::talk::says::short_name;
use crate::talk::usual::capital;

/// "Lasts longer", where nobody says how much: judgement.
const LENGTHENS: f64 = 1.5;

impl Reader<'_> {
    /// Marks: lived with, notice, that it ends the engine, upgrades, campaigns.
    pub(super) fn marks(&mut self) {
        use LivedWith as L;
        use NoticeLength as N;
        const LIVED: [(&str, LivedWith); 6] = [
            ("lived_at_once", L::AtOnce),
            ("lived_days", L::Days),
            ("lived_weeks", L::Weeks),
            ("lived_months", L::Months),
            ("lived_a_year", L::AYear),
            ("lived_for_years", L::ForYears),
        ];
        const NOTICE: [(&str, NoticeLength); 4] = [
            ("notice_none", N::None),
            ("notice_short", N::Short),
            ("notice_long", N::Long),
            ("notice_years", N::Years),
        ];
        for i in 0..self.t.tags.len() {
            if self.t.tags[i].taken {
                continue;
            }
            let words = self.t.tags[i].text.clone();
            if let Some((_, l)) = LIVED.iter().find(|(k, _)| self.t.is(i, k)) {
                self.said.lived_with = Some(*l);
                self.chip(ChipKind::LivedWith, i, i, words);
            } else if let Some((_, n)) = NOTICE.iter().find(|(k, _)| self.t.is(i, k)) {
                self.said.notice = Some(*n);
                self.chip(ChipKind::Notice, i, i, words);
            } else if let Some(does) = self.does(i) {
                self.exposures(i, does);
            } else if self.t.is(i, "upkeep") {
                self.said.upkeep = true;
                self.chip(ChipKind::Exposure, i, i, words);
            } else if self.t.is(i, "may_end_engine") {
                self.said.may_end_engine = true;
                self.chip(ChipKind::EndsEngine, i, i, words);
            } else if self.t.is(i, "ends_engine") {
                self.said.ends_engine = true;
                self.chip(ChipKind::EndsEngine, i, i, words);
            } else if self.t.is(i, "upgrade") && self.said.upgrade.is_none() {
                self.upgrade(i);
            } else if self.t.is(i, "recall") {
                self.said.campaign = true;
                self.chip(ChipKind::Campaign, i, i, words);
            }
        }
    }

    /// "Unless the oil is changed every 10k": its life hangs on care, and the figure belongs to no claim.
    pub(super) fn unless_kept(&mut self) {
        const KEPT: [&str; 8] =
            ["oil", "changed", "change", "serviced", "service", "servicing", "maintained", "looked after"];
        let Some(from) = (0..self.t.tags.len()).find(|i| self.t.tags[*i].text == "unless") else { return };
        let clause = self.t.tags[from].clause;
        let to = (from..self.t.tags.len()).take_while(|i| self.t.tags[*i].clause == clause).last().unwrap_or(from);
        let kept = |i: usize| self.t.tags[i].text.split(' ').any(|word| KEPT.contains(&word));
        if (from..=to).any(kept) {
            self.said.upkeep = true;
            let says = self.t.typed(from, to);
            self.chip(ChipKind::Exposure, from, to, says);
        }
    }

    /// Uses that shorten or lengthen its life: "hates short trips and towing".
    fn exposures(&mut self, at: usize, does: UseDoes) {
        use Exposure as E;
        const USES: [(&str, Exposure); 9] = [
            ("exposure_short_trips", E::ShortTrips),
            ("exposure_idling", E::Idling),
            ("exposure_towing", E::Towing),
            ("exposure_off_road", E::OffRoad),
            ("exposure_heat", E::Heat),
            ("exposure_cold", E::Cold),
            ("exposure_salt", E::Salt),
            ("exposure_motorway", E::Motorway),
            ("exposure_tuned", E::Tuned),
        ];
        let segment = self.t.tags[at].segment;
        let mut last = None;
        for k in at + 1..self.t.tags.len().min(at + 9) {
            if self.t.tags[k].segment != segment || self.does(k).is_some() {
                break;
            }
            if let Some((_, exposure)) = USES.iter().find(|(kind, _)| self.t.is(k, kind)) {
                self.said.exposures.insert(*exposure, does);
                last = Some(k);
            }
        }
        if let Some(last) = last {
            let says = self.t.typed(at, last);
            self.chip(ChipKind::Exposure, at, last, says);
        }
    }

    /// What a word says that a use does.
    fn does(&self, at: usize) -> Option<UseDoes> {
        const DOES: [(&str, UseDoes); 3] =
            [("much_worse", UseDoes::MuchWorse), ("worse", UseDoes::Worse), ("better", UseDoes::Better)];
        DOES.iter().find(|(kind, _)| self.t.is(at, kind)).map(|d| d.1)
    }

    /// Something better to fit, where the line says what it does: "uprated tensioner cures it", "lasts twice as long".
    fn upgrade(&mut self, at: usize) {
        const DOES: [(&str, Option<f64>); 3] =
            [("cures", None), ("lengthens_twice", Some(2.0)), ("lengthens", Some(LENGTHENS))];
        let does = (0..self.t.tags.len()).find_map(|k| {
            let (_, times) = DOES.iter().find(|(kind, _)| self.t.is(k, kind))?;
            Some((k, *times))
        });
        let (Some((done, times)), Some(part)) = (does, self.said.name.clone()) else { return };
        let words = self.t.typed(at, at);
        let name = if words.to_lowercase().contains(&part.to_lowercase()) { words } else { format!("{words} {part}") };
        self.said.upgrade = Some(UpgradeSaid { name: capital(&name), times });
        self.t.tags[done].taken = true;
        let says = times.map_or_else(|| "cures it".to_owned(), |t| format!("lasts {t} times as long"));
        self.chip(ChipKind::Upgrade, at, at, says);
    }

    /// Which to buy, what is said to its credit, and how to treat it.
    pub(super) fn advice(&mut self) {
        let Some(first) = (0..self.t.tags.len()).find(|i| !self.t.fills(*i)) else { return };
        let kinds = [("avoid", AdviceKind::Avoid), ("only_if", AdviceKind::OnlyIf), ("prefer", AdviceKind::Prefer)];
        if let Some((_, kind)) = kinds.iter().find(|(k, _)| self.t.is(first, k)) {
            self.said.advice = Some(*kind);
            let says = self.t.typed(first, first);
            self.chip(ChipKind::Advice, first, first, says);
            return;
        }
        let praise = (0..self.t.tags.len()).find(|i| self.t.is(*i, "praise"));
        if let Some(i) = praise.filter(|i| self.said.share.is_none() && (self.said.part.is_some() || self.of_whole(*i)))
        {
            if self.said.part.is_none() {
                // "300k miles no issue" is no life of a part.
                self.said.life.clear();
                self.chips.retain(|c| c.kind != ChipKind::Claim);
            }
            self.said.advice = Some(AdviceKind::Praise);
            let says = self.t.typed(i, i);
            self.chip(ChipKind::Praise, i, i, says);
            return;
        }
        // "Always rinse it": that "always" is no share.
        let head = self.t.tags[first].from;
        if self.t.is(first, "never") && self.chips.iter().any(|c| c.kind == ChipKind::Share && c.from == head) {
            self.chips.retain(|c| c.kind != ChipKind::Share);
            self.said.share = None;
        }
        let claims = !self.said.life.is_empty() || self.said.share.is_some() || self.said.price.is_some();
        if self.t.is(first, "never") && !claims && self.said.interval.is_none() && self.t.tags.len() > 2 {
            self.said.care_rule = true;
            let last = self.t.tags.len() - 1;
            let says = self.t.typed(first, last);
            self.chips.push(Chip {
                kind: ChipKind::CareRule,
                from: self.t.tags[first].from,
                to: self.t.tags[last].to,
                says,
            });
            self.t.tags.iter_mut().for_each(|t| t.taken = true);
            self.chips.retain(|c| c.kind != ChipKind::Part);
            (self.said.part, self.said.name) = (None, None);
        }
    }

    /// Whether praise is of the whole engine: "engine is bulletproof".
    fn of_whole(&self, praise: usize) -> bool {
        let whole = |t: &str| matches!(t, "engine" | "engines" | "motor" | "unit" | "mechanically" | "mechanicals");
        (0..praise).any(|i| self.t.tags[i].segment == self.t.tags[praise].segment && whole(&self.t.tags[i].text))
    }

    /// A part that no table knows, where the line says something of it: what stands before the first claim.
    pub(super) fn unknown_part(&mut self) {
        let claims = !self.said.life.is_empty() || self.said.share.is_some();
        let head = (0..self.t.tags.len()).find(|i| !self.t.fills(*i));
        let advises = head.is_some_and(|h| self.t.kind_of(h, &["avoid", "only_if", "prefer"]).is_some());
        let praised = (0..self.t.tags.len()).any(|i| self.t.is(i, "praise") && self.of_whole(i));
        if self.said.part.is_some() || advises || praised {
            return;
        }
        if !claims {
            if let Some((from, to)) = self.head_that_fails() {
                self.named_so(from, to);
            }
            return;
        }
        let claim =
            self.chips.iter().filter(|c| matches!(c.kind, ChipKind::Claim | ChipKind::Share)).map(|c| c.from).min();
        let first = (0..self.t.tags.len())
            .find(|i| self.t.tags[*i].text == ":" || claim.is_some_and(|c| self.t.tags[*i].from >= c));
        let Some(end) = first.filter(|f| *f > 0) else { return };
        let mut words: Vec<usize> = (0..end)
            .take_while(|i| self.t.sign(*i).is_none())
            .filter(|i| {
                let t = &self.t.tags[*i];
                let word = t.text.starts_with(|c: char| c.is_alphabetic()) && t.quantity.is_none();
                word && !t.taken && !self.t.fills(*i)
            })
            .collect();
        // "Bracket fails" speaks of the bracket, "lower fails" of nothing.
        while words.last().is_some_and(|i| self.t.is(*i, "fails")) {
            words.pop();
        }
        let colon = self.t.tags[end].text == ":";
        let (Some(from), Some(to)) = (words.first(), words.last()) else { return };
        // A few words and a colon, or two at most: a name. Anything longer is prose.
        // "Fuel tank straps rust through": three at the head of the line, right before what they do.
        let head = self.t.before(*from).is_none() && words.len() == 3 && to - from == 2;
        let does = self.t.sign(to + 1).is_some() || self.t.is(to + 1, "fails");
        let most = if colon {
            4
        } else if head && does {
            3
        } else {
            2
        };
        if words.len() > most || self.t.tags[*from].text.chars().count() < 3 {
            return;
        }
        let rest = (end..self.t.tags.len()).filter(|i| {
            let t = &self.t.tags[*i];
            !t.taken && t.meanings.is_empty() && t.quantity.is_none() && !self.t.fills(*i)
        });
        if rest.count() > if colon { 3 } else { 1 } {
            return;
        }
        self.named_so(*from, *to);
    }

    /// "Handbrake cables seize, 90": two or three words at the head of a line that fail, and a price.
    fn head_that_fails(&self) -> Option<(usize, usize)> {
        let tags = &self.t.tags;
        let from = (0..tags.len()).find(|i| !self.t.fills(*i))?;
        let fails = |i: usize| self.t.sign(i).is_some() || self.t.is(i, "fails");
        let word = |i: &usize| {
            let t = &tags[*i];
            !t.taken && t.quantity.is_none() && t.text.starts_with(char::is_alphabetic) && !fails(*i)
        };
        let to = (from..tags.len()).take_while(word).last()?;
        let price =
            |q: Quantity| q.unit == Counts::Money || q.unit == Counts::Nothing && (15.0..=60_000.0).contains(&q.low);
        let priced = tags[to..].iter().any(|t| !t.taken && t.quantity.is_some_and(price));
        let left = (to + 1..tags.len()).filter(|i| {
            let t = &tags[*i];
            !t.taken && t.meanings.is_empty() && t.quantity.is_none() && !self.t.fills(*i)
        });
        ((1..=2).contains(&(to - from)) && to + 1 < tags.len() && fails(to + 1) && priced && left.count() <= 5)
            .then_some((from, to))
    }

    /// Takes a stretch for the name of a part that no table knows.
    fn named_so(&mut self, from: usize, to: usize) {
        let name = self.t.typed(from, to);
        self.said.part = Some(short_name(&name));
        self.said.system = self.t.vocabulary.system_of(&name).or_else(|| self.t.vocabulary.system_of(self.t.line));
        self.said.name = Some(name.clone());
        self.chip(ChipKind::Part, from, to, name);
    }
}
