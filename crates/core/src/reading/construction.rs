//! How a thing is built, so far as a text says it: "2.0 diesel automatic estate".
//!
//! The words of each answer are data, beside the questions. What is said first holds; of two answers said in one breath
//! ("petrol hybrid") the rarer one. What contradicts what is said before it is left out.

use std::cell::RefCell;
use std::collections::{BTreeMap, HashMap};
use std::rc::Rc;

use crate::base::units::UsageClock;
use crate::documents::pattern::{Answer, Question};
use crate::patterns::answers::Known;
use crate::patterns::library::{Library, THING};

/// Words after which "electric", "automatic" or a like word speaks of something small.
const OF_SMALL_THINGS: [&str; 37] = [
    "windows",
    "window",
    "mirrors",
    "mirror",
    "seats",
    "seat",
    "wipers",
    "lights",
    "light",
    "climate",
    "air",
    "headlights",
    "headlamps",
    "tailgate",
    "boot",
    "parking",
    "braking",
    "brake",
    "handbrake",
    "steering",
    "start",
    "starter",
    "step",
    "steps",
    "hook",
    "bed",
    "blinds",
    "fan",
    "heater",
    "winch",
    "tape",
    "choke",
    "rack",
    "carrier",
    "trailer",
    "toolbox",
    "station",
];

/// Words that speak of something small where one of those follows.
const OF_MANY_THINGS: [&str; 7] = ["electric", "automatic", "auto", "manual", "bike", "boat", "generator"];

/// Words before which "manual" or a like word is a book, or somebody else's thing.
const OF_A_BOOK: [&str; 9] = ["owner", "owners", "service", "workshop", "handbook", "original", "user", "repair", "my"];

/// Words that take back what follows.
const NOT: [&str; 4] = ["not", "no", "without", "never"];

/// Characters within which two answers are said in one breath.
const BREATH: usize = 25;

/// The answers that a text gives, without those that contradict each other. The clock tells an engine from a car.
#[must_use]
pub fn answers_in(text: &str, clock: Option<UsageClock>, library: &Library) -> BTreeMap<String, String> {
    let words = words_of(text);
    let mut out: BTreeMap<String, String> = BTreeMap::new();
    for question in &library.questions.questions {
        let known = Known { library, answers: &out };
        if known.matters(question) == Some(false) {
            continue;
        }
        let possible = known.shares(question);
        if let Some(value) = said(&possible, &words) {
            out.insert(question.id.clone(), value.id.clone());
        } else if question.id == THING
            && let Some(thing) = thing(&words, clock, library)
        {
            out.insert(THING.to_owned(), thing.to_owned());
        }
    }
    let counts = clock.unwrap_or(UsageClock::Km);
    while let Some(fault) = (Known { library, answers: &out }).faults(counts).into_iter().next() {
        let Some(id) = fault.path.strip_prefix("/built_as/answers/").filter(|id| out.contains_key(*id)) else { break };
        let id = id.to_owned();
        out.remove(&id);
    }
    out
}

/// A word with where it begins.
struct Word {
    text: String,
    at: usize,
}

fn words_of(text: &str) -> Vec<Word> {
    let mut out: Vec<Word> = Vec::new();
    let mut word = String::new();
    for (at, c) in text.char_indices().chain([(text.len(), ' ')]) {
        let inside = c == '.' && word.ends_with(|c: char| c.is_ascii_digit());
        if c.is_alphanumeric() || inside {
            word.extend(c.to_lowercase());
        } else if matches!(c, '\'' | '’') && !word.is_empty() {
            // "owner's" is one word.
        } else if !word.is_empty() {
            let begin = at - word.len().min(at);
            let trimmed = word.trim_end_matches('.').to_owned();
            out.push(Word { text: trimmed, at: begin });
            word.clear();
        }
    }
    out
}

thread_local! {
    /// Phrases cut into words: the library's are the same for every advert of a list.
    static PHRASES: RefCell<HashMap<String, Rc<[Word]>>> = RefCell::new(HashMap::new());
}

/// The words of a phrase of the library.
fn phrase(text: &str) -> Rc<[Word]> {
    PHRASES.with_borrow_mut(|kept| {
        if let Some(words) = kept.get(text) {
            return Rc::clone(words);
        }
        let words: Rc<[Word]> = words_of(text).into();
        kept.insert(text.to_owned(), Rc::clone(&words));
        words
    })
}

/// A phrase found: where its first word stands, how many words it has, where that is in the text, and what it gives.
struct Found<'a> {
    word: usize,
    words: usize,
    at: usize,
    share: f64,
    value: &'a Answer,
}

/// The answer that is said first. Of those said in one breath the rarest ("petrol hybrid" is a hybrid), but a phrase
/// holds over one inside it ("belt in oil"), and of two answers that one phrase may mean the usual one does.
fn said<'a>(possible: &[(&'a Answer, f64)], words: &[Word]) -> Option<&'a Answer> {
    let mut found: Vec<Found<'a>> = Vec::new();
    for (value, share) in possible {
        for phrase in value.words.iter().map(|p| phrase(p)) {
            if let Some(word) = place(&phrase, words) {
                found.push(Found { word, words: phrase.len(), at: words[word].at, share: *share, value });
            }
        }
    }
    let inside = |x: &Found<'_>| {
        found.iter().any(|y| {
            let holds = y.word <= x.word && y.word + y.words >= x.word + x.words;
            holds && (y.words > x.words || (y.words == x.words && y.share > x.share))
        })
    };
    let whole: Vec<&Found<'_>> = found.iter().filter(|x| !inside(x)).collect();
    let first = whole.iter().map(|f| f.at).min()?;
    let breath = whole.into_iter().filter(|f| f.at <= first + BREATH);
    breath.min_by(|x, y| x.share.total_cmp(&y.share)).map(|f| f.value)
}

/// Where a phrase stands first, meant as it is.
fn place(phrase: &[Word], words: &[Word]) -> Option<usize> {
    (0..words.len()).find_map(|i| {
        let there = words.get(i..i + phrase.len())?;
        if !there.iter().zip(phrase).all(|(w, p)| same(&w.text, &p.text)) {
            return None;
        }
        let (before, after) = (i.checked_sub(1).map(|b| words[b].text.as_str()), words.get(i + phrase.len()));
        let many = phrase.len() == 1 && OF_MANY_THINGS.contains(&phrase[0].text.as_str());
        let small = many && after.is_some_and(|w| OF_SMALL_THINGS.contains(&w.text.as_str()));
        let book = phrase.len() == 1 && before.is_some_and(|w| OF_A_BOOK.contains(&w));
        let article = before.is_some_and(|w| matches!(w, "a" | "an" | "the"));
        let said_before = if article { i.checked_sub(2).map(|b| words[b].text.as_str()) } else { before };
        let taken_back = said_before.is_some_and(|w| NOT.contains(&w)) && !NOT.contains(&phrase[0].text.as_str());
        (!small && !book && !taken_back).then_some(i)
    })
}

/// Whether a word is the other, in one or many.
fn same(word: &str, other: &str) -> bool {
    word == other || (other.len() > 3 && word.strip_suffix('s') == Some(other))
}

/// What kind of thing it is where no word names it: by its clock, or by what else is said of it.
fn thing(words: &[Word], clock: Option<UsageClock>, library: &Library) -> Option<&'static str> {
    if clock == Some(UsageClock::Hours) {
        return Some("engine");
    }
    let of_car = |q: &&Question| q.applies.facts.get(THING).is_some_and(|t| t.iter().any(|x| x == "car"));
    let named = |q: &Question| {
        let mut phrases = q.values.iter().flat_map(|v| &v.words).map(|p| phrase(p));
        phrases.any(|p| place(&p, words).is_some())
    };
    let power = library.question("power").is_some_and(named);
    let car = library.questions.questions.iter().filter(of_car).any(named);
    (car || (power && clock == Some(UsageClock::Km))).then_some("car")
}
