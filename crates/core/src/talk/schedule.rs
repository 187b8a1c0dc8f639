//! Scheduled work, as a line says it.

use crate::documents::claim::LifeClock;
use crate::talk::grammar::Counts;
use crate::talk::reader::Reader;
use crate::talk::said::{ChipKind, IntervalSaid};
use crate::talk::says::{in_threes, spoken};

/// Parts that are renewed when they fail: "every 70k" says how long they last.
const WEARS: [&str; 22] = [
    "wheel-bearings",
    "links",
    "suspension",
    "ball-joints",
    "cv-joints",
    "dampers",
    "springs",
    "nox-sensor",
    "oxygen-sensors",
    "injectors",
    "turbo",
    "clutch",
    "flywheel",
    "charging",
    "starter",
    "brakes",
    "calipers",
    "steering-rack",
    "mounts",
    "coils",
    "wastegate",
    "differential",
];

/// Words that order work on them all the same.
const DO: [&str; 12] = [
    "clean", "change", "renew", "replace", "do", "check", "grease", "service", "cleaned", "changed", "renewed",
    "replaced",
];

impl Reader<'_> {
    /// Scheduled work: "belt and pump every 100k miles or 10 years".
    pub(super) fn intervals(&mut self) {
        if self.whichever_first() {
            return;
        }
        let Some(at) = (0..self.t.tags.len()).find(|i| {
            !self.t.tags[*i].taken && (self.t.is(*i, "every") || self.t.is(*i, "yearly")) && self.every_what(*i)
        }) else {
            return;
        };
        if self.is_rate(at + 1) {
            return;
        }
        // "Lifters about each 40k miles": a life, not a schedule.
        let scheduled = (0..self.t.tags.len()).any(|i| self.t.work(i).is_some());
        if !scheduled && self.t.before(at).is_some_and(|b| self.t.is(b, "about")) {
            return;
        }
        // "Sensor goes every 70k", "wheel bearings every 70k": so is what wears and nobody books.
        const GOES: [&str; 8] = ["goes", "go", "lasts", "last", "wears", "through", "blows", "eats"];
        let books = !self.said.part.as_deref().is_some_and(|p| WEARS.contains(&p));
        let told = (0..at).any(|i| DO.contains(&self.t.tags[i].text.as_str()));
        let goes = at.checked_sub(1).is_some_and(|b| GOES.contains(&self.t.tags[b].text.as_str()));
        if !scheduled && (goes || !books && !told) {
            return;
        }
        // "Fork seals weep every 30k": so is this.
        let fails = |i: usize| self.t.is(i, "fails") && self.t.tags[i].text != "needs doing";
        // "Calipers stick on, every third winter": and behind a comma, where nothing names the work.
        let (clause, segment) = (self.t.tags[at].clause, self.t.tags[at].segment);
        let here = |i: &usize| self.t.tags[*i].clause == clause || !scheduled && self.t.tags[*i].segment == segment;
        if (0..at).filter(here).any(|i| self.t.sign(i).is_some() || fails(i)) {
            return;
        }
        let (mut usage, mut years, mut to) = (None, None, at);
        if self.t.is(at, "yearly") {
            years = Some(1.0);
        }
        for k in at + 1..self.t.tags.len().min(at + 8) {
            if self.t.tags[k].segment != self.t.tags[at].segment {
                break;
            }
            let t = &self.t.tags[k];
            // "Every 7 years, 420": a bare figure behind a comma is a price.
            let apart = t.clause != self.t.tags[at].clause;
            if let Some(q) = t.quantity {
                if apart && q.unit == Counts::Nothing {
                    break;
                }
                let value = q.high.map_or(q.low, |h| f64::midpoint(q.low, h));
                match self.on_clock(value, q.unit) {
                    Some((LifeClock::Age, y)) if years.is_none() => years = Some(y),
                    Some((LifeClock::Usage, u)) if usage.is_none() => usage = Some(u),
                    // "Every 200 hours or every season", for what is counted in kilometres.
                    None if q.unit == Counts::Hours => {}
                    _ => break,
                }
                to = k;
            } else if self.t.is(k, "yearly") && years.is_none() {
                // "Every 150 hours or once a year."
                (years, to) = (Some(1.0), k);
            } else if !self.t.fills(k)
                && !matches!(t.text.as_str(), "or" | "and")
                && !self.t.is(k, "about")
                && !self.t.is(k, "every")
            {
                break;
            } else if matches!(t.text.as_str(), "year" | "season" | "second") {
                years = Some(if t.text == "second" { 2.0 } else { 1.0 });
                to = k;
            }
        }
        self.scheduled(at, to, usage, years);
    }

    /// "Belt 5 years or 60k, whichever first": scheduled work without its "every".
    fn whichever_first(&mut self) -> bool {
        let says = |i: &usize| {
            let text = self.t.tags[*i].text.as_str();
            text.starts_with("whichever") || text == "whatever comes first"
        };
        let Some(end) = (0..self.t.tags.len()).find(says) else { return false };
        let here = |i: &usize| !self.t.tags[*i].taken && self.t.tags[*i].segment == self.t.tags[end].segment;
        let counted = |i: usize| {
            let once = || self.t.is(i, "yearly").then_some((LifeClock::Age, 1.0));
            let q = self.t.tags[i].quantity.filter(|q| q.high.is_none());
            let at = q.and_then(|q| self.on_clock(q.low, q.unit)).or_else(once)?;
            Some((i, at))
        };
        let counted: Vec<(usize, (LifeClock, f64))> = (0..end).filter(here).filter_map(counted).collect();
        let of = |clock: LifeClock| counted.iter().find(|(_, c)| c.0 == clock).map(|(_, c)| c.1);
        let (Some(usage), Some(years)) = (of(LifeClock::Usage), of(LifeClock::Age)) else { return false };
        self.scheduled(counted[0].0, end, Some(usage), Some(years))
    }

    /// Takes a stretch for how often the work is due that the line names, or its part; not where nobody would do it so.
    fn scheduled(&mut self, from: usize, to: usize, usage: Option<f64>, years: Option<f64>) -> bool {
        let sensible = usage.is_none_or(|u| (20.0..=500_000.0).contains(&u))
            && years.is_none_or(|y: f64| (0.1..=30.0).contains(&y));
        let named = (0..self.t.tags.len()).find_map(|i| Some((i, self.t.work(i)?)));
        let work = named.map(|(_, w)| self.t.vocabulary.work[w].clone()).or_else(|| self.said.part.clone());
        let Some(work) = work.filter(|_| sensible && (usage.is_some() || years.is_some())) else { return false };
        if let Some((i, _)) = named.filter(|(i, _)| !self.t.tags[*i].taken) {
            self.chip(ChipKind::Part, i, i, spoken(&work));
        }
        let says = self.every(usage, years);
        self.said.interval = Some(IntervalSaid { work, usage, years });
        self.chip(ChipKind::Interval, from, to, says);
        true
    }

    /// How often, in words.
    fn every(&self, usage: Option<f64>, years: Option<f64>) -> String {
        let usage = usage.map(|u| format!("{} {}", in_threes(u), if self.voice.hours { "h" } else { "km" }));
        let year = |y: f64| (y - 1.0).abs() < 1e-9;
        match (usage, years) {
            (Some(u), Some(y)) if year(y) => format!("every {u} or every year"),
            (Some(u), Some(y)) => format!("every {u} or {y} years"),
            (Some(u), None) => format!("every {u}"),
            (None, Some(y)) if !year(y) => format!("every {y} years"),
            (None, _) => "every year".to_owned(),
        }
    }

    /// Whether something that is counted follows "every"; "every one" is a share.
    fn every_what(&self, at: usize) -> bool {
        self.t.is(at, "yearly")
            || self.t.after(at).is_some_and(|a| {
                let t = &self.t.tags[a];
                t.quantity.is_some() || matches!(t.text.as_str(), "year" | "season")
            })
    }
}
