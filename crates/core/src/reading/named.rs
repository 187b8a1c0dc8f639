//! What an advert names: families, failure points, scheduled work and papers.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::family::Family;
use crate::patterns::library::Library;

/// Something that an advert names.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct AdvertNamed {
    /// The advert's own words.
    pub said: String,
    /// What it is about: the name of a failure point or of scheduled work, or a kind of paper.
    pub about: String,
    /// Whether it is a kind of paper.
    pub paper: bool,
}

/// Words of a name that tell families or points apart.
fn telling(name: &str) -> Vec<String> {
    const COMMON: &str = "turbo petrol diesel van engine gearbox speed car every motorcycle and with the of or in on to \
        its worn old leak leaks fails fail play rust rusts wear wears front rear oil water cracks \
        corrode corrodes seizes seize noise broken stretches set service change six";
    name.to_lowercase()
        .split(|c: char| !c.is_alphanumeric())
        .filter(|w| {
            let numbered = w.len() == 2 && w.chars().any(|c| c.is_ascii_digit());
            (w.len() >= 3 || numbered) && !COMMON.split(' ').any(|c| c == *w) && !w.chars().all(|c| c.is_ascii_digit())
        })
        .map(str::to_owned)
        .collect()
}

fn words_of(text: &str) -> BTreeSet<String> {
    let singular = |w: &str| w.strip_suffix('s').filter(|s| s.len() >= 3 && !s.ends_with('s')).unwrap_or(w).to_owned();
    text.to_lowercase()
        .split(|c: char| !c.is_alphanumeric())
        .filter(|w| !w.is_empty())
        .flat_map(|w| [w.to_owned(), singular(w)])
        .collect()
}

/// A name with the words that tell it.
type Told = (String, Vec<String>);

/// Words of a family's name that adverts use of anything: "two keys" is no "two-litre diesel".
const OF_ANYTHING: [&str; 30] = [
    "one", "two", "three", "four", "five", "seven", "eight", "nine", "ten", "twelve", "litre", "liter", "litres",
    "seat", "seats", "seater", "door", "doors", "new", "first", "second", "big", "small", "large", "long", "short",
    "light", "heavy", "high", "low",
];

/// What adverts are held against, made ready once for a whole list.
#[derive(Debug)]
pub struct Names {
    /// Families with the words that only theirs has.
    families: Vec<Told>,
    /// Points and scheduled work of each family, with the words that tell them; whether it is a base sheet.
    things: Vec<(String, bool, Vec<Told>)>,
}

impl Names {
    /// Words that only say how a thing is built ("estate", "automatic") tell no family.
    #[must_use]
    pub fn of(families: &[Family], library: &Library) -> Self {
        let values = library.questions.questions.iter().flat_map(|q| &q.values);
        let built: BTreeSet<String> =
            values.flat_map(|v| v.words.iter().chain([&v.label])).flat_map(|w| words_of(w)).collect();
        let own_word = |w: &String| !built.contains(w) && !OF_ANYTHING.contains(&w.as_str());
        let words = |f: &Family| telling(&f.name).into_iter().filter(own_word).collect();
        let own: Vec<(&Family, Vec<String>)> =
            families.iter().filter(|f| !f.kind.is_base()).map(|f| (f, words(f))).collect();
        let alone = |word: &String| own.iter().filter(|(_, words)| words.contains(word)).count() == 1;
        let of =
            |(f, words): &(&Family, Vec<String>)| (f.id.clone(), words.iter().filter(|w| alone(w)).cloned().collect());
        let thing = |name: &String| (name.clone(), telling(name));
        let things = |f: &Family| {
            let names = f.points.iter().map(|p| &p.name).chain(f.intervals.iter().map(|i| &i.name));
            (f.id.clone(), f.kind.is_base(), names.map(thing).filter(|t| !t.1.is_empty()).collect())
        };
        Self { families: own.iter().map(of).collect(), things: families.iter().map(things).collect() }
    }
}

/// Families of which the text has a word that no other family's name has.
pub(crate) fn families_of(text: &str, names: &Names) -> Vec<String> {
    let said = words_of(text);
    let told = names.families.iter().filter(|(_, words)| words.iter().any(|w| said.contains(w)));
    told.map(|(id, _)| id.clone()).collect()
}

/// Kinds of paper by the words that name them.
const PAPERS: [(&str, &str); 14] = [
    ("invoice", "invoices"),
    ("invoices", "invoices"),
    ("receipt", "invoices"),
    ("receipts", "invoices"),
    ("bills", "invoices"),
    ("service book", "stamped book"),
    ("stamped", "stamped book"),
    ("stamps", "stamped book"),
    ("service history", "service history"),
    ("mot", "roadworthiness test"),
    ("inspection", "roadworthiness test"),
    ("recall", "recall"),
    ("history report", "history report"),
    ("first owner", "owners"),
];

/// Failure points, scheduled work and papers that the text names, in its order.
pub(crate) fn named(text: &str, names: &Names, chosen: &[String]) -> Vec<AdvertNamed> {
    let mut out: Vec<AdvertNamed> = Vec::new();
    for said in text.split(['.', ',', ';', '\n', '+', '!', '(', ')']).map(str::trim).filter(|s| s.len() > 2) {
        let (lower, words) = (format!(" {} ", said.to_lowercase()), words_of(said));
        let mut note = |about: &str, paper: bool| {
            if !out.iter().any(|n| n.about == about) {
                out.push(AdvertNamed { said: said.chars().take(200).collect(), about: about.to_owned(), paper });
            }
        };
        for (word, about) in PAPERS {
            if lower.contains(&format!(" {word} ")) {
                note(about, true);
            }
        }
        let asked = names.things.iter().filter(|(id, base, _)| *base || chosen.is_empty() || chosen.contains(id));
        for (name, told) in asked.flat_map(|(_, _, things)| things) {
            if told.iter().all(|w| words.contains(w) || words.contains(w.trim_end_matches('s'))) {
                note(name, false);
            }
        }
    }
    out.truncate(40);
    out
}
