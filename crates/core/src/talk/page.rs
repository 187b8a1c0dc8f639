//! A page of talk: its lines, where each stands, and what became of them.

use std::borrow::Cow;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::assumptions::Assumptions;
use crate::documents::family::Family;
use crate::talk::apply::{TalkFrom, TalkMode, Told, has_place, write};
use crate::talk::grammar::{Counts, Quantity, Tagged};
use crate::talk::line::{LineReading, read_line};
use crate::talk::said::{Said, Voice};
use crate::talk::tables::Vocabulary;

/// The longest page that is read, in characters.
pub const LONGEST: usize = 1_000_000;

/// The most lines of a page that are read.
pub const LINES: usize = 20_000;

/// A page, read.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct PageReading {
    /// Its statements, in order.
    pub lines: Vec<LineReading>,
    /// Statements that were placed.
    pub placed: usize,
    /// Statements that leave a question.
    pub asked: usize,
    /// What is kept as a note.
    pub notes: usize,
}

/// Reads a page.
#[must_use]
pub fn read_page(text: &str, voice: Voice, vocabulary: &Vocabulary) -> PageReading {
    let mut out = PageReading::default();
    let mut before: Option<Said> = None;
    let mut words = Cow::Borrowed(vocabulary);
    let text: String = text.chars().take(LONGEST).collect();
    for line in text.lines().take(LINES) {
        let (place, rest) = place(line);
        for statement in statements(rest).into_iter().flat_map(|s| by_part(s, vocabulary)) {
            let mut reading = read_line(statement, before.as_ref(), voice, &words);
            reading.place = place.map(str::to_owned);
            match (&reading.said, reading.question) {
                (Some(_), None) => out.placed += 1,
                (Some(_), Some(_)) => {
                    out.placed += 1;
                    out.asked += 1;
                }
                (None, Some(_)) => out.asked += 1,
                (None, None) => out.notes += 1,
            }
            if let Some(said) = reading.said.as_ref().filter(|s| s.part.is_some()) {
                learn(&mut words, said);
                before = Some(said.clone());
            }
            out.lines.push(reading);
        }
    }
    out
}

/// A part that no table knows is known from the line on that first says something of it.
fn learn(words: &mut Cow<'_, Vocabulary>, said: &Said) {
    if let (false, Some(part), Some(name)) = (said.known, &said.part, &said.name)
        && words.parts.iter().all(|p| p != part)
    {
        words.to_mut().learn(part, name);
    }
}

/// A time stamp or a bullet at the head of a line: "12:34", "[01:02:03]", "- ".
fn place(line: &str) -> (Option<&str>, &str) {
    let line = line.trim().trim_start_matches(['-', '*', '•', '·']).trim_start();
    let end = line.find(char::is_whitespace).unwrap_or(line.len());
    let head = &line[..end];
    let bare = head.trim_matches(['[', ']', '(', ')']);
    let parts: Vec<&str> = bare.split(':').collect();
    let stamp = (2..=3).contains(&parts.len())
        && parts.iter().all(|p| (1..=2).contains(&p.len()) && p.chars().all(|c| c.is_ascii_digit()));
    if stamp { (Some(bare), line[end..].trim_start()) } else { (None, line) }
}

/// The statements of a line: its sentences. A point within a figure, or after a short word, ends none.
fn statements(line: &str) -> Vec<&str> {
    let mut out = Vec::new();
    let mut from = 0;
    let bytes = line.as_bytes();
    for (i, c) in line.char_indices() {
        let ends = matches!(c, '.' | '?' | '!')
            && bytes.get(i + 1).is_none_or(u8::is_ascii_whitespace)
            && !line[..i].ends_with(|c: char| {
                c.is_ascii_digit() && line[i + 1..].trim_start().starts_with(|d: char| d.is_ascii_digit())
            });
        if ends {
            let statement = line[from..=i].trim();
            if statement.chars().any(char::is_alphanumeric) {
                out.push(statement);
            }
            from = i + 1;
        }
    }
    let rest = line[from..].trim();
    if rest.chars().any(char::is_alphanumeric) {
        out.push(rest);
    }
    out
}

/// A statement in two where it speaks of two parts, each with a figure of its own: "discs last 60k, pads 40k".
fn by_part<'s>(statement: &'s str, vocabulary: &Vocabulary) -> Vec<&'s str> {
    const OF_ONE: [&str; 7] = ["first_try", "first_after", "with_it", "takes_along", "suffices", "upgrade", "every"];
    if statement.chars().count() > crate::talk::line::LONGEST {
        return vec![statement];
    }
    let t = Tagged::of(statement, vocabulary);
    let of_one = |i: &usize| OF_ONE.iter().any(|k| t.is(*i, k)) || t.work(*i).is_some() || t.tags[*i].text == ":";
    if (0..t.tags.len()).any(|i| of_one(&i)) {
        return vec![statement];
    }
    let lives = |clause: usize| {
        t.tags.iter().any(|x| {
            let counts = |q: Quantity| matches!(q.unit, Counts::Km | Counts::Miles | Counts::Thousands | Counts::Years);
            x.clause == clause && x.quantity.is_some_and(counts)
        })
    };
    let heads = |clause: usize| {
        let mut of = (0..t.tags.len()).filter(|i| t.tags[*i].clause == clause && t.tags[*i].text != ",");
        of.find(|i| !t.fills(*i)).and_then(|i| Some((i, t.part(i)?)))
    };
    let mut cuts: Vec<usize> = Vec::new();
    let mut part = heads(0).map(|h| h.1).filter(|_| lives(0));
    for clause in 1..=t.tags.last().map_or(0, |x| x.clause) {
        let (Some(before), Some((at, next))) = (part, heads(clause)) else { continue };
        if before != next && lives(clause) {
            cuts.push(t.tags[at].from);
            part = Some(next);
        }
    }
    let at = |chars: usize| statement.char_indices().nth(chars).map_or(statement.len(), |(i, _)| i);
    let ends = cuts.iter().copied().map(at).chain([statement.len()]);
    let mut from = 0;
    let mut out = Vec::new();
    for to in ends {
        out.push(statement[from..to].trim().trim_end_matches([',', ';']));
        from = to;
    }
    out
}

/// A line to write into a sheet.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AcceptedLine {
    /// As typed.
    #[schema(min_length = 1, max_length = 600)]
    pub text: String,
    /// Where it stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 40)]
    pub place: Option<String>,
    /// One more claim, or a correction.
    #[serde(default)]
    pub mode: TalkMode,
}

/// What writing lines into a sheet came to.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Written {
    /// Lines that changed it.
    pub changed: usize,
    /// Lines that it held already.
    pub known: usize,
    /// Lines that could not be placed, word for word.
    pub notes: Vec<String>,
}

/// Writes lines into a sheet, in order; "it" means the part of the line before.
pub fn write_lines(
    family: &mut Family,
    lines: &[AcceptedLine],
    from: &TalkFrom,
    voice: Voice,
    vocabulary: &Vocabulary,
    a: &Assumptions,
) -> Written {
    let mut out = Written::default();
    let mut before: Option<Said> = None;
    let mut words = Cow::Borrowed(vocabulary);
    for line in lines {
        let reading = read_line(&line.text, before.as_ref(), voice, &words);
        let Some(said) = reading.said else {
            out.notes.push(line.text.clone());
            continue;
        };
        let told = Told { text: &line.text, place: line.place.as_deref(), said: &said, mode: line.mode };
        if write(family, told, from, a) {
            out.changed += 1;
        } else if has_place(family, &said) {
            out.known += 1;
        } else {
            // Nothing says yet when it comes: no point can be made of it.
            out.notes.push(line.text.clone());
        }
        if said.part.is_some() {
            learn(&mut words, &said);
            before = Some(said);
        }
    }
    out
}
