//! The tables of words, and the vocabulary made from them.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use serde::{Deserialize, Serialize};

use crate::documents::check::Phase;
use crate::documents::failure_point::{FailurePoint, System};
use crate::documents::family::{Fact, Family};
use crate::talk::tokens::{Token, root, within};

/// Parts and scheduled work by short name, with what people call them (`ticksage-talk/1`).
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Parts {
    /// Format and its version.
    pub format: String,
    /// Part to its names.
    pub parts: BTreeMap<String, Vec<String>>,
    /// Scheduled work to its names.
    pub work: BTreeMap<String, Vec<String>>,
    /// Where several parts are called alike, which is meant where the sheet tells nothing: the first before the next.
    #[serde(default)]
    pub alone: BTreeMap<String, Vec<String>>,
}

/// Words by what they mean (`ticksage-talk-words/1`).
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Words {
    /// Format and its version.
    pub format: String,
    /// Meaning to phrases.
    pub words: BTreeMap<String, Vec<String>>,
    /// Signs.
    pub signs: Vec<SignWords>,
    /// Phase of the walk-round to the phrases that name it.
    #[serde(rename = "where")]
    pub places: BTreeMap<Phase, Vec<String>>,
    /// System to words that name things of it, for a part that no table knows.
    #[serde(default)]
    pub systems: BTreeMap<System, Vec<String>>,
}

/// A sign, the phrases for it, and when one meets it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SignWords {
    /// Its name.
    pub label: String,
    /// When one usually meets it.
    pub phase: Phase,
    /// The phrases.
    pub words: Vec<String>,
}

/// Both tables.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Tables {
    /// Parts.
    pub parts: Parts,
    /// Words.
    pub words: Words,
}

/// What a phrase stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) enum Meaning {
    /// A part, by place in the list.
    Part(usize),
    /// Scheduled work.
    Work(usize),
    /// A word of a kind.
    Word(usize),
    /// A sign.
    Sign(usize),
    /// A phase.
    Place(usize),
    /// A variant of the sheet.
    Variant(usize),
}

#[derive(Debug, Clone)]
struct Phrase {
    words: Vec<String>,
    roots: Vec<String>,
    meaning: Meaning,
    /// Its place among the meanings of the same words.
    rank: usize,
}

/// Phrases found by their first word.
#[derive(Debug, Clone)]
pub struct Vocabulary {
    /// Short names of parts.
    pub(crate) parts: Vec<String>,
    /// Short names of scheduled work.
    pub(crate) work: Vec<String>,
    kinds: Vec<String>,
    /// Signs.
    pub(crate) signs: Vec<SignWords>,
    /// Phases.
    pub(crate) places: Vec<Phase>,
    /// Variants: fact and value.
    pub(crate) variants: Vec<(String, String)>,
    phrases: HashMap<String, Vec<Phrase>>,
    known: BTreeSet<String>,
    by_letter: HashMap<char, Vec<String>>,
    systems: HashMap<String, System>,
    alone: BTreeMap<String, Vec<String>>,
    /// Parts that the sheet has: of two that are called alike they are meant.
    preferred: BTreeSet<usize>,
}

impl Vocabulary {
    /// From the tables, and further parts by name (a sheet's own points).
    #[must_use]
    pub fn new(tables: &Tables, own: &[(String, String)]) -> Self {
        let mut out = Self {
            parts: Vec::new(),
            work: tables.parts.work.keys().cloned().collect(),
            kinds: tables.words.words.keys().cloned().collect(),
            signs: tables.words.signs.clone(),
            places: tables.words.places.keys().copied().collect(),
            variants: Vec::new(),
            phrases: HashMap::new(),
            known: BTreeSet::new(),
            by_letter: HashMap::new(),
            systems: systems(&tables.words.systems),
            alone: tables.parts.alone.clone(),
            preferred: BTreeSet::new(),
        };
        for (part, names) in &tables.parts.parts {
            let meaning = out.part(part);
            names.iter().for_each(|n| out.add(n, meaning));
        }
        for (part, name) in own {
            let meaning = out.part(part);
            if let Meaning::Part(i) = meaning {
                out.preferred.insert(i);
            }
            out.add(name, meaning);
        }
        for (i, names) in tables.parts.work.values().enumerate() {
            names.iter().for_each(|n| out.add(n, Meaning::Work(i)));
        }
        for (i, phrases) in tables.words.words.values().enumerate() {
            phrases.iter().for_each(|p| out.add(p, Meaning::Word(i)));
        }
        for (i, sign) in tables.words.signs.iter().enumerate() {
            sign.words.iter().for_each(|p| out.add(p, Meaning::Sign(i)));
        }
        for (i, phrases) in tables.words.places.values().enumerate() {
            phrases.iter().for_each(|p| out.add(p, Meaning::Place(i)));
        }
        for word in &out.known {
            if let Some(first) = word.chars().next().filter(|_| word.chars().count() >= 5) {
                out.by_letter.entry(first).or_default().push(word.clone());
            }
        }
        out
    }

    /// From the tables and the points of sheets by their names.
    #[must_use]
    pub fn of_sheets(tables: &Tables, sheets: &[Family]) -> Self {
        let points = sheets.iter().flat_map(|f| &f.points);
        let own = |p: &FailurePoint| (p.part.clone().unwrap_or_else(|| p.id.clone()), p.name.clone());
        Self::new(tables, &points.map(own).collect::<Vec<_>>())
    }

    /// With the variants of a sheet: each value of its facts, by its label.
    #[must_use]
    pub fn with_variants(mut self, facts: &[Fact]) -> Self {
        for (fact, value) in facts.iter().flat_map(|f| f.values.iter().map(move |v| (f, v))) {
            let meaning = Meaning::Variant(self.variants.len());
            self.variants.push((fact.id.clone(), value.id.clone()));
            // "Diesel, 2.2" is called by what stands before the comma.
            let label = value.label.split(',').next().unwrap_or_default().to_owned();
            self.add(&label, meaning);
            if value.id.chars().count() > 1 && !value.id.eq_ignore_ascii_case(&label) {
                self.add(&value.id.replace('-', " "), meaning);
            }
        }
        self
    }

    /// A part that no table knows, by the name that somebody gave it.
    pub(crate) fn learn(&mut self, part: &str, name: &str) {
        let meaning = self.part(part);
        self.add(name, meaning);
    }

    fn part(&mut self, part: &str) -> Meaning {
        let at = self.parts.iter().position(|p| p == part).unwrap_or_else(|| {
            self.parts.push(part.to_owned());
            self.parts.len() - 1
        });
        Meaning::Part(at)
    }

    fn add(&mut self, phrase: &str, meaning: Meaning) {
        let words: Vec<String> =
            crate::talk::tokens::tokens(phrase).into_iter().filter(|t| t.text != "-").map(|t| t.text).collect();
        let Some(first) = words.first() else { return };
        self.known.extend(words.iter().cloned());
        let key = root(first).to_owned();
        let roots = words.iter().map(|w| root(w).to_owned()).collect();
        let named = |i: usize| self.alone.get(phrase)?.iter().position(|p| *p == self.parts[i]);
        let rank = if let Meaning::Part(i) = meaning { named(i).unwrap_or(usize::MAX) } else { 0 };
        self.phrases.entry(key).or_default().push(Phrase { words, roots, meaning, rank });
    }

    /// Of several parts that are called alike the one that the sheet has.
    pub(crate) fn part_of(&self, meanings: &[Meaning]) -> Option<usize> {
        let parts = meanings.iter().filter_map(|m| match m {
            Meaning::Part(p) => Some(*p),
            _ => None,
        });
        parts.clone().find(|p| self.preferred.contains(p)).or_else(|| parts.clone().next())
    }

    /// The system that a name speaks of: the last of its words that the table knows ("seat heater switch": a switch).
    pub(crate) fn system_of(&self, name: &str) -> Option<System> {
        let words = crate::talk::tokens::tokens(name);
        words.iter().rev().find_map(|t| self.systems.get(root(&t.text)).copied())
    }

    /// The kind of a word by its place.
    pub(crate) fn kind(&self, at: usize) -> &str {
        &self.kinds[at]
    }

    /// Slips of the keyboard put right: a long word that nobody knows, near to one that is known, and is no word of its
    /// own.
    pub(crate) fn corrected(&self, tokens: &mut [Token]) {
        for t in tokens.iter_mut().filter(|t| t.is_word() && t.text.chars().count() >= 5 && t.value.is_none()) {
            let known = self.known.contains(&t.text) || self.known.contains(root(&t.text));
            if known || self.phrases.contains_key(root(&t.text)) || NO_SLIPS.contains(&root(&t.text)) {
                continue;
            }
            let length = t.text.chars().count();
            let most = if length >= 9 { 2 } else { 1 };
            let Some(first) = t.text.chars().next() else { continue };
            let near = self.by_letter.get(&first).into_iter().flatten();
            let best = (1..=most).find_map(|slips| {
                near.clone().find(|w| w.chars().count().abs_diff(length) <= slips && within(&t.text, w, slips))
            });
            if let Some(word) = best {
                t.text.clone_from(word);
            }
        }
    }

    /// Every phrase that begins at a token, the longest first: its meaning and how many tokens it takes.
    pub(crate) fn at(&self, tokens: &[Token], from: usize) -> Vec<(Meaning, usize)> {
        let Some(first) = tokens.get(from) else { return Vec::new() };
        let mut out: Vec<(Meaning, usize, usize)> = Vec::new();
        for phrase in self.phrases.get(root(&first.text)).into_iter().flatten() {
            // "Blocked" names no block: a part is called by its name, in one or many.
            let verb = |t: &Token| t.text.ends_with("ed") || t.text.ends_with("ing");
            let named = !matches!(phrase.meaning, Meaning::Part(_)) || !verb(first) || first.text == phrase.words[0];
            if let Some(took) = matches(phrase, &tokens[from..]).filter(|_| named) {
                out.push((phrase.meaning, took, phrase.rank));
            }
        }
        out.sort_by(|x, y| y.1.cmp(&x.1).then(x.2.cmp(&y.2)).then(x.0.cmp(&y.0)));
        out.into_iter().map(|(meaning, took, _)| (meaning, took)).collect()
    }
}

/// Roots of words that are near to others and are none of their slips: "stock" is no shock, "bolts" are no belts.
const NO_SLIPS: [&str; 14] = [
    "stock", "bolt", "study", "stud", "river", "string", "spill", "skill", "still", "sock", "chair", "litter", "widow",
    "rocket",
];

fn systems(table: &BTreeMap<System, Vec<String>>) -> HashMap<String, System> {
    table.iter().flat_map(|(system, words)| words.iter().map(|w| (root(w).to_owned(), *system))).collect()
}

/// How many tokens a phrase takes where it stands; a hyphen between its words counts for nothing.
fn matches(phrase: &Phrase, tokens: &[Token]) -> Option<usize> {
    let mut at = 0;
    for (k, word) in phrase.words.iter().enumerate() {
        if k > 0 && tokens.get(at).is_some_and(|t| t.text == "-") {
            at += 1;
        }
        let token = tokens.get(at)?;
        // Short words must be as they are; longer ones may end otherwise ("vanes" are no "van").
        let short = token.text.chars().count() < 4 && *word != format!("{}s", token.text);
        let same = token.text == *word || (word.chars().count() >= 4 && !short && root(&token.text) == phrase.roots[k]);
        if !same {
            return None;
        }
        at += 1;
    }
    Some(at)
}
