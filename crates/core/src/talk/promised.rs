//! What an advert says was renewed or is amiss: parts by what people call them, with when and at what usage.
//!
//! It is the seller's word and no more. A clause that denies, or speaks of what is due, says nothing here.

use crate::base::units::UsageUnit;
use crate::reading::typed;
use crate::talk::tables::{Meaning, Vocabulary};
use crate::talk::tokens::{Token, tokens};

/// Something that an advert says of a part or of scheduled work.
#[derive(Debug, Clone, PartialEq)]
pub struct Promised {
    /// Short name of the part; none where it is scheduled work.
    pub part: Option<String>,
    /// Short name of the scheduled work.
    pub work: Option<String>,
    /// Whether it is amiss; else it was renewed or carried out.
    pub amiss: bool,
    /// The year that is said.
    pub year: Option<i16>,
    /// The usage that is said, with its unit where one is.
    pub usage: Option<(f64, Option<UsageUnit>)>,
    /// The advert's own words.
    pub said: String,
}

/// Words for what was carried out.
const DONE: [&str; 20] = [
    "new",
    "renewed",
    "replaced",
    "changed",
    "done",
    "fitted",
    "rebuilt",
    "reconditioned",
    "recon",
    "refurbished",
    "overhauled",
    "swapped",
    "recent",
    "recently",
    "regreased",
    "resealed",
    "replacement",
    "installed",
    "exchanged",
    "renewal",
];

/// Words for what is amiss whatever else is said beside them.
const NEEDS: [&str; 7] = ["needs", "need", "needing", "requires", "requiring", "wants", "needed"];

/// Words for what is amiss.
const AMISS: [&str; 40] = [
    "rattle",
    "whine",
    "knock",
    "smoking",
    "slipping",
    "slips",
    "gone",
    "broken",
    "faulty",
    "leaking",
    "leaks",
    "leak",
    "noisy",
    "noise",
    "whines",
    "whining",
    "knocking",
    "knocks",
    "blown",
    "seized",
    "cracked",
    "worn",
    "failed",
    "fails",
    "failing",
    "dead",
    "weak",
    "rattles",
    "rattling",
    "smokes",
    "grinding",
    "crunches",
    "stuck",
    "sticks",
    "rotten",
    "rotted",
    "perished",
    "bald",
    "juddering",
    "shot",
];

/// Words with which a clause denies, or speaks of what is to come.
const REFUSED: [&str; 18] = [
    "no", "not", "never", "without", "due", "soon", "original", "overdue", "must", "should", "like", "as", "before",
    "if", "when", "isnt", "doesnt", "free",
];

/// Longest saying that is kept, in characters.
const LONGEST: usize = 120;

/// Reads what a text says of parts and work, each thing once.
#[must_use]
pub fn promised(text: &str, vocabulary: &Vocabulary) -> Vec<Promised> {
    let mut out: Vec<Promised> = Vec::new();
    for said in clauses(text) {
        for p in clause(&said, vocabulary) {
            if !out.iter().any(|x| x.part == p.part && x.work == p.work) {
                out.push(p);
            }
        }
    }
    out
}

/// The clauses of a text: what commas, bars and full stops part, figures left whole.
fn clauses(text: &str) -> Vec<String> {
    let chars: Vec<char> = text.chars().collect();
    let digit = |i: Option<usize>| i.and_then(|i| chars.get(i)).is_some_and(char::is_ascii_digit);
    let mut out = vec![String::new()];
    for (i, c) in chars.iter().enumerate() {
        let within = matches!(c, '.' | ',' | '/') && digit(i.checked_sub(1)) && digit(Some(i + 1));
        let dash = matches!(c, '-' | '–' | '—')
            && i.checked_sub(1).is_some_and(|b| chars[b] == ' ')
            && chars.get(i + 1) == Some(&' ');
        let parts = matches!(c, '.' | ',' | ';' | '|' | '\t' | '\n' | '!' | '?' | '(' | ')' | '/' | '•' | '*');
        match out.last_mut() {
            Some(last) if !(parts || dash) || within => last.push(*c),
            _ => out.push(String::new()),
        }
    }
    out.into_iter().map(|c| c.trim().to_owned()).filter(|c| c.len() > 2).collect()
}

/// What one clause says.
fn clause(said: &str, vocabulary: &Vocabulary) -> Vec<Promised> {
    let mut all = tokens(said);
    vocabulary.corrected(&mut all);
    let has = |words: &[&str]| all.iter().any(|t| words.contains(&t.text.as_str()));
    let amiss = has(&NEEDS) || (has(&AMISS) && !has(&DONE));
    // "Not needed" is no need.
    let refused = if has(&NEEDS) { has(&["no", "not", "nothing"]) } else { has(&REFUSED) };
    if refused || !(amiss || has(&DONE)) {
        return Vec::new();
    }
    let (year, usage) = (year(&all), usage(&all));
    let words = said.chars().take(LONGEST).collect::<String>();
    let mut out = Vec::new();
    let mut at = 0;
    while at < all.len() {
        let found = vocabulary.at(&all, at);
        let longest = found.first().map_or(1, |f| f.1);
        let meant: Vec<Meaning> = found.iter().filter(|f| f.1 == longest).map(|f| f.0).collect();
        let part = vocabulary.part_of(&meant).map(|p| vocabulary.parts[p].clone());
        let work = meant.iter().find_map(|m| match m {
            Meaning::Work(w) => Some(vocabulary.work[*w].clone()),
            _ => None,
        });
        if part.is_some() || (work.is_some() && !amiss) {
            out.push(Promised { part, work, amiss, year, usage, said: words.clone() });
        }
        at += longest.max(1);
    }
    out
}

/// The year of what was done: one that stands after the words for it.
fn year(all: &[Token]) -> Option<i16> {
    let done = all.iter().rposition(|t| DONE.contains(&t.text.as_str()))?;
    let years = all[done..].iter().filter(|t| t.digits && t.text.len() == 4).filter_map(|t| t.text.parse::<i16>().ok());
    years.into_iter().find(|y| (1960..2100).contains(y))
}

/// The usage at which it was done: what "at" speaks of.
fn usage(all: &[Token]) -> Option<(f64, Option<UsageUnit>)> {
    let at = all.windows(2).position(|w| w[0].text == "at" && w[1].digits)? + 1;
    let value = all[at].value.filter(|v| *v >= 100.0)?;
    Some((value, all.get(at + 1).and_then(|t| typed::unit(&t.text))))
}
