//! The words of an advert, what of them is taken, and the figures that begin at them.

use crate::reading::typed;

/// A word of the text with its line.
pub(super) struct Word<'t> {
    pub text: &'t str,
    pub line: usize,
    pub taken: bool,
}

impl Word<'_> {
    /// Without what stands round it, in small letters.
    pub fn bare(&self) -> String {
        self.text.trim_matches(|c: char| !c.is_alphanumeric() && !"£€$".contains(c)).to_lowercase()
    }

    /// Whether a clause, or a column of a table, ends with it.
    pub fn ends(&self) -> bool {
        self.text.ends_with([',', ';', '|', '.', '!'])
    }

    /// Whether a column of a table ends with it, which its unit may follow in the next.
    fn ends_column(&self) -> bool {
        self.text.ends_with([';', '|'])
    }
}

/// The words of a text, line by line. Marks between columns part words too: semicolons, bars, quotes, the sign of
/// equality, a colon before a figure, a plus behind one, and a comma that does not part the thousands of one.
pub(super) fn words_of(text: &str) -> Vec<Word<'_>> {
    text.lines()
        .enumerate()
        .flat_map(|(line, l)| l.split_whitespace().flat_map(columns).map(move |text| Word { text, line, taken: false }))
        .filter(|w| !w.text.chars().all(|c| "\",;|=_".contains(c)))
        .collect()
}

fn columns(word: &str) -> Vec<&str> {
    let mut out = Vec::new();
    let mut from = 0;
    for (i, c) in word.char_indices() {
        let (before, after) = (&word[from..i], &word[i + c.len_utf8()..]);
        let parts = match c {
            ';' | '|' | '"' | '=' | '_' => true,
            ':' => before.ends_with(char::is_alphabetic) && after.starts_with(|c: char| c.is_ascii_digit()),
            ',' => !after.is_empty() && !before.is_empty() && !in_figure(before, after),
            // "5800+vat".
            '+' => before.ends_with(|c: char| c.is_ascii_digit()) && after.starts_with(char::is_alphabetic),
            _ => false,
        };
        if parts {
            out.push(&word[from..i + c.len_utf8()]);
            from = i + c.len_utf8();
        }
    }
    out.push(&word[from..]);
    out.retain(|w| !w.is_empty());
    out
}

/// Whether a comma stands within a figure: before three digits as a mark of thousands, or before one or two as the
/// decimal mark of a small one.
fn in_figure(before: &str, after: &str) -> bool {
    let digits = |t: &str| t.chars().take_while(char::is_ascii_digit).count();
    let back = before.chars().rev().take_while(char::is_ascii_digit).count();
    match digits(after) {
        3 => (1..=3).contains(&back),
        1 | 2 => (1..=3).contains(&back),
        // "8,900,-" and "4.200,-".
        0 => back > 0 && after.starts_with('-'),
        _ => false,
    }
}

/// The word at a place, where it stands on the line of another.
pub(super) fn beside(words: &[Word<'_>], at: usize, other: usize) -> Option<String> {
    words.get(other).filter(|w| w.line == words[at].line).map(Word::bare)
}

/// The word that follows a figure in its clause, or in the next column: a unit or a currency. A word with a colon names
/// what follows itself.
pub(super) fn unit_after(words: &[Word<'_>], last: usize) -> Option<String> {
    let open = !words[last].ends() || words[last].ends_column();
    let next = words.get(last + 1).filter(|w| open && w.line == words[last].line)?;
    (!next.text.ends_with([':', '='])).then(|| next.bare())
}

/// A figure that begins at a word: its value, how many words it takes, and what follows the digits in the last.
pub(super) fn figure(words: &[Word<'_>], at: usize) -> Option<(f64, usize, String)> {
    let bare = words[at].bare();
    let digits_end = bare.find(|c: char| c.is_alphabetic()).unwrap_or(bare.len());
    let head =
        bare[..digits_end].trim_matches(|c: char| "£€$".contains(c)).trim_end_matches(['.', ',', '-', '+']).to_owned();
    if !head.starts_with(|c: char| c.is_ascii_digit()) {
        return None;
    }
    let mut text = head;
    let mut tail = bare[digits_end..].to_owned();
    let mut took = 1;
    // "120 500": thousands apart.
    let in_three = |w: &str| w.len() == 3 && w.chars().all(|c| c.is_ascii_digit());
    let short = |t: &str| t.chars().take_while(char::is_ascii_digit).count() <= 3;
    while tail.is_empty() && short(&text) && !words[at + took - 1].ends() {
        let Some(next) = words.get(at + took).filter(|n| n.line == words[at].line) else { break };
        let next = next.bare();
        let end = next.find(|c: char| c.is_alphabetic()).unwrap_or(next.len());
        if !in_three(&next[..end]) {
            break;
        }
        text.push_str(&next[..end]);
        next[end..].clone_into(&mut tail);
        took += 1;
        if took > 3 {
            break;
        }
    }
    Some((typed::number(&text)?, took, tail))
}
