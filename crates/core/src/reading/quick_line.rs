//! A ledger entry typed in one line, such as "120500 2021-03 belt+pump invoice", and the failure points and
//! scheduled work that it may mean. Matches are proposed; the person confirms them.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::fault::Fault;
use crate::base::units::Usage;
use crate::documents::applicability::{concerns, fit, named};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::job::PartGrade;
use crate::documents::paper::{DateKnown, Evidence, LedgerEntry};
use crate::documents::reference::{IntervalRef, PointRef};
use crate::reading::typed;

/// A line, read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct QuickReading {
    /// The entry with what is surely meant; none while usage or date is missing.
    pub entry: Option<LedgerEntry>,
    /// What was named, each with what it may mean.
    pub terms: Vec<Term>,
    /// What is missing or cannot be read.
    pub faults: Vec<Fault>,
    /// Whether no evidence was named, so that the seller's word was taken.
    pub evidence_assumed: bool,
}

/// Something named in a line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Term {
    /// As typed.
    pub text: String,
    /// What it may mean, the likeliest first.
    pub matches: Vec<Match>,
}

/// A failure point or scheduled work that something may mean.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Match {
    /// Its name.
    pub name: String,
    /// The failure point renewed, if it is one.
    pub renews: Option<PointRef>,
    /// The scheduled work carried out, if it is one.
    pub performs: Option<IntervalRef>,
    /// Whether it stands clear of every other.
    pub sure: bool,
}

/// Reads one line.
#[must_use]
pub fn read(line: &str, candidate: &Candidate, families: &[Family], a: &Assumptions) -> QuickReading {
    let mut found = Found::default();
    let words: Vec<&str> = line.split_whitespace().collect();
    let mut i = 0;
    while i < words.len() {
        i += found.take(&words[i..], candidate);
    }
    let vocabulary = Vocabulary::of(candidate, families, a);
    let description = found.rest.join(" ");
    let terms = vocabulary.terms(&description);
    let mut faults = found.faults;
    let fault = |path: &str, message: &str| Fault { path: path.to_owned(), message: message.to_owned() };
    if found.usage.is_none() {
        faults.push(fault("/usage", "begin with the usage, as 120500"));
    }
    if found.date.is_none() && !faults.iter().any(|f| f.path == "/date") {
        faults.push(fault("/date", "add the date, as 2021-03-14, or 2021-03 where only the month is known"));
    }
    if description.trim().is_empty() {
        faults.push(fault("/note", "say what was done, as belt+pump"));
    }
    let (renews, performs) = meant(&terms);
    let entry = match (found.usage, found.date) {
        (Some(usage), Some((date, known))) => Some(LedgerEntry {
            date,
            usage,
            renews,
            performs,
            grade: found.grade.unwrap_or(PartGrade::Unknown),
            revised: found.revised,
            first_design: false,
            reason: None,
            evidence: found.evidence.unwrap_or(Evidence::SellersWord),
            note: description,
            who: found.who,
            cost: found.cost,
            known,
        }),
        _ => None,
    };
    QuickReading { entry, terms, faults, evidence_assumed: found.evidence.is_none() }
}

/// What is surely meant by the terms, each thing once.
#[must_use]
pub fn meant(terms: &[Term]) -> (Vec<PointRef>, Vec<IntervalRef>) {
    let sure: Vec<&Match> = terms.iter().flat_map(|t| &t.matches).filter(|m| m.sure).collect();
    let renews: BTreeSet<PointRef> = sure.iter().filter_map(|m| m.renews.clone()).collect();
    let performs: BTreeSet<IntervalRef> = sure.iter().filter_map(|m| m.performs.clone()).collect();
    (renews.into_iter().collect(), performs.into_iter().collect())
}

/// What the words of a line have given so far.
#[derive(Default)]
struct Found {
    usage: Option<Usage>,
    date: Option<(jiff::civil::Date, DateKnown)>,
    evidence: Option<Evidence>,
    grade: Option<PartGrade>,
    revised: bool,
    who: String,
    cost: Option<crate::base::units::Money>,
    rest: Vec<String>,
    faults: Vec<Fault>,
}

impl Found {
    /// Takes what the next words mean; how many it took.
    fn take(&mut self, words: &[&str], c: &Candidate) -> usize {
        let word = words[0];
        let next = words.get(1).copied().unwrap_or("");
        let unit = c.usage.unit;
        if self.usage.is_none() && word.starts_with(|x: char| x.is_ascii_digit()) && !looks_like_a_date(word) {
            // "120 500 km": thousands apart, the unit apart.
            let group = next.len() == 3 && next.chars().all(|x| x.is_ascii_digit()) && word.len() <= 3;
            let figure = if group { format!("{word}{next}") } else { word.to_owned() };
            let taken = 1 + usize::from(group);
            let after = words.get(taken).copied().unwrap_or("");
            let (figure, taken) =
                if typed::unit(after).is_some() { (format!("{figure}{after}"), taken + 1) } else { (figure, taken) };
            if let Some(usage) = typed::usage(&figure, unit) {
                self.usage = Some(usage);
                return taken;
            }
        }
        if self.date.is_none() && (looks_like_a_date(word) || names_a_month(word, next)) {
            let apart = !word.starts_with(|x: char| x.is_ascii_digit());
            let text = if apart { format!("{word} {next}") } else { word.to_owned() };
            match typed::date(&text) {
                Ok(date) => self.date = Some(date),
                Err(message) => self.faults.push(Fault { path: "/date".to_owned(), message }),
            }
            return 1 + usize::from(apart);
        }
        let currency = next.eq_ignore_ascii_case(&c.currency);
        if self.cost.is_none() && currency && typed::money(word).is_some() {
            self.cost = typed::money(word);
            return 2;
        }
        if self.who.is_empty() && word.eq_ignore_ascii_case("by") && !next.is_empty() {
            // The name runs to the next word that means something else.
            let name: Vec<&str> = words[1..]
                .iter()
                .take_while(|w| {
                    typed::evidence(w).is_none()
                        && typed::grade(w).is_none()
                        && !w.starts_with(|x: char| x.is_ascii_digit())
                })
                .copied()
                .collect();
            self.who = name.join(" ");
            return 1 + name.len();
        }
        if let (None, Some(evidence)) = (self.evidence, typed::evidence(word)) {
            self.evidence = Some(evidence);
        } else if let (None, Some(grade)) = (self.grade, typed::grade(word)) {
            self.grade = Some(grade);
        } else if word.eq_ignore_ascii_case("revised") {
            self.revised = true;
        } else {
            self.rest.push(word.to_owned());
        }
        1
    }
}

fn looks_like_a_date(word: &str) -> bool {
    let parts: Vec<&str> = word.split(['-', '/', '.']).collect();
    let digits = parts.iter().all(|p| !p.is_empty() && p.chars().all(|c| c.is_ascii_digit()));
    let year = |p: &&str| p.len() == 4 && (p.starts_with("19") || p.starts_with("20"));
    digits && (2..=3).contains(&parts.len()) && (year(&parts[0]) || year(&parts[parts.len() - 1]))
}

fn names_a_month(word: &str, next: &str) -> bool {
    word.chars().all(char::is_alphabetic) && typed::date(&format!("{word} {next}")).is_ok()
}

/// Words of a name that tell things apart, in the singular.
fn tokens(text: &str) -> Vec<String> {
    const SMALL: [&str; 14] =
        ["and", "the", "of", "in", "on", "a", "with", "new", "renewed", "set", "changed", "done", "to", "for"];
    text.to_lowercase()
        .split(|c: char| !c.is_alphanumeric())
        .filter(|w| !w.is_empty() && !SMALL.contains(w))
        .map(|w| {
            if w.len() > 3 && w.ends_with('s') && !w.ends_with("ss") {
                w[..w.len() - 1].to_owned()
            } else {
                w.to_owned()
            }
        })
        .collect()
}

/// The names that a line may mean.
pub struct Vocabulary {
    targets: Vec<(Match, Vec<String>)>,
    weight: BTreeMap<String, f64>,
}

impl Vocabulary {
    /// Every failure point and scheduled work that concerns the candidate.
    #[must_use]
    pub fn of(candidate: &Candidate, families: &[Family], a: &Assumptions) -> Self {
        let mut targets = Vec::new();
        for f in named(candidate, families) {
            for p in f.points.iter().filter(|p| concerns(p, f, families, candidate, a)) {
                let renews = Some(PointRef { family: f.id.clone(), point: p.id.clone() });
                targets.push((Match { name: p.name.clone(), renews, performs: None, sure: false }, tokens(&p.name)));
            }
            for i in f.intervals.iter().filter(|i| fit(&i.applies, f, candidate, a).is_some()) {
                let performs = Some(IntervalRef { family: f.id.clone(), interval: i.id.clone() });
                targets.push((Match { name: i.name.clone(), renews: None, performs, sure: false }, tokens(&i.name)));
            }
        }
        let mut seen: BTreeMap<String, f64> = BTreeMap::new();
        for word in targets.iter().flat_map(|t| t.1.iter().collect::<BTreeSet<_>>()) {
            *seen.entry(word.clone()).or_default() += 1.0;
        }
        #[allow(clippy::cast_precision_loss)]
        let all = targets.len() as f64;
        let weight = seen.into_iter().map(|(w, n)| (w, (1.0 + all / n).ln())).collect();
        Self { targets, weight }
    }

    /// What a description names, each with what it may mean.
    #[must_use]
    pub fn terms(&self, description: &str) -> Vec<Term> {
        description
            .split(['+', ',', ';', '&'])
            .flat_map(|t| t.split(" and "))
            .map(str::trim)
            .filter(|t| !t.is_empty())
            .map(|t| Term { text: t.to_owned(), matches: self.matches(t) })
            .collect()
    }

    /// What one term may mean, the likeliest first.
    fn matches(&self, term: &str) -> Vec<Match> {
        let words = tokens(term);
        let weight = |w: &String| self.weight.get(w).copied().unwrap_or(1.0);
        let total: f64 = words.iter().map(weight).sum();
        let mut scored: Vec<(f64, &Match)> = self
            .targets
            .iter()
            .filter_map(|(target, name)| {
                let met: f64 = words.iter().filter(|w| name.contains(w)).map(weight).sum();
                let own: f64 = name.iter().map(weight).sum();
                let scheduled = if target.performs.is_some() { 0.05 } else { 0.0 };
                (met > 0.0).then(|| (0.6 * met / total + 0.4 * met / own + scheduled, target))
            })
            .filter(|(score, _)| *score >= 0.45)
            .collect();
        scored.sort_by(|x, y| y.0.total_cmp(&x.0).then(x.1.name.cmp(&y.1.name)));
        scored.truncate(5);
        let best = scored.first().map_or(0.0, |s| s.0);
        // A point and the work that renews it carry one name: both are meant.
        let first = scored.first().map(|s| s.1.name.clone());
        let clear = scored.iter().find(|s| Some(&s.1.name) != first.as_ref()).map_or(0.0, |s| s.0);
        let sure = best >= 0.6 && best - clear >= 0.08;
        scored.into_iter().map(|(_, m)| Match { sure: sure && Some(&m.name) == first.as_ref(), ..m.clone() }).collect()
    }
}
