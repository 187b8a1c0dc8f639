//! A line cut into words and figures, each with where it stands.

/// A word, a figure or a mark.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Token {
    /// In small letters, without apostrophes; a mark as it is.
    pub text: String,
    /// What it stands for where it is a figure, or a word for one.
    pub value: Option<f64>,
    /// Whether it is written in digits.
    pub digits: bool,
    /// Where it begins, in characters.
    pub from: usize,
    /// Where it ends.
    pub to: usize,
}

impl Token {
    /// Whether it is a mark that parts statements.
    pub fn parts(&self) -> bool {
        matches!(self.text.as_str(), ";" | "." | "!" | "?")
    }

    /// Whether it is a word.
    pub fn is_word(&self) -> bool {
        self.text.starts_with(|c: char| c.is_alphabetic())
    }
}

/// Words for figures.
const FIGURES: [(&str, f64); 32] = [
    ("one", 1.0),
    ("two", 2.0),
    ("three", 3.0),
    ("four", 4.0),
    ("five", 5.0),
    ("six", 6.0),
    ("seven", 7.0),
    ("eight", 8.0),
    ("nine", 9.0),
    ("ten", 10.0),
    ("eleven", 11.0),
    ("twelve", 12.0),
    ("thirteen", 13.0),
    ("fourteen", 14.0),
    ("fifteen", 15.0),
    ("sixteen", 16.0),
    ("seventeen", 17.0),
    ("eighteen", 18.0),
    ("nineteen", 19.0),
    ("twenty", 20.0),
    ("thirty", 30.0),
    ("forty", 40.0),
    ("fifty", 50.0),
    ("sixty", 60.0),
    ("seventy", 70.0),
    ("eighty", 80.0),
    ("ninety", 90.0),
    ("hundred", 100.0),
    ("thousand", 1000.0),
    ("thousands", 1000.0),
    ("dozen", 12.0),
    ("couple", 2.0),
];

/// What a word for a figure stands for.
pub(crate) fn figure_of(word: &str) -> Option<f64> {
    FIGURES.iter().find(|(w, _)| *w == word).map(|(_, v)| *v)
}

/// Cuts a line.
pub(crate) fn tokens(line: &str) -> Vec<Token> {
    let chars: Vec<char> = line.chars().collect();
    let mut out = Vec::new();
    let mut i = 0;
    while i < chars.len() {
        let c = chars[i];
        if c.is_whitespace() {
            i += 1;
        } else if c.is_ascii_digit() {
            i = figure(&chars, i, &mut out);
        } else if c.is_alphabetic() {
            i = word(&chars, i, &mut out);
        } else {
            if matches!(
                c,
                ';' | '.'
                    | ','
                    | '!'
                    | '?'
                    | '-'
                    | '–'
                    | '—'
                    | '/'
                    | '%'
                    | '£'
                    | '€'
                    | '$'
                    | '('
                    | ')'
                    | ':'
                    | '+'
                    | '~'
            ) {
                let text = if matches!(c, '–' | '—') { "-".to_owned() } else { c.to_string() };
                out.push(Token { text, value: None, digits: false, from: i, to: i + 1 });
            }
            i += 1;
        }
    }
    together(out)
}

/// Digits with marks or blanks between thousands.
fn figure(chars: &[char], at: usize, out: &mut Vec<Token>) -> usize {
    let digit = |i: usize| chars.get(i).is_some_and(char::is_ascii_digit);
    let three = |i: usize| digit(i) && digit(i + 1) && digit(i + 2) && !digit(i + 3);
    let mut i = at;
    let mut text = String::new();
    while i < chars.len() {
        let c = chars[i];
        if c.is_ascii_digit() || (matches!(c, '.' | ',') && digit(i + 1) && text.len() < 12) {
            text.push(c);
        } else if matches!(c, ' ' | '\u{a0}' | '\u{202f}' | '\'' | '’') && three(i + 1) && i - at <= 3 {
            // "120 500"
        } else {
            break;
        }
        i += 1;
    }
    if let Some(end) = ordinal(chars, i) {
        // "By the 5th year" counts; "from 2nd to 3rd" are gears.
        if counts_time(chars, end) {
            let value = crate::reading::typed::number(&text);
            out.push(Token { text, value, digits: true, from: at, to: end });
        } else {
            let text = chars[at..end].iter().flat_map(|c| c.to_lowercase()).collect();
            out.push(Token { text, value: None, digits: false, from: at, to: end });
        }
        return end;
    }
    let value = crate::reading::typed::number(&text);
    out.push(Token { text, value, digits: true, from: at, to: i });
    i
}

/// Where the ending of an ordinal that begins behind digits ends: "2nd", "5th".
fn ordinal(chars: &[char], at: usize) -> Option<usize> {
    let ending: String = chars.get(at..at + 2)?.iter().flat_map(|c| c.to_lowercase()).collect();
    let whole = !chars.get(at + 2).is_some_and(|c| c.is_alphanumeric());
    (whole && matches!(ending.as_str(), "st" | "nd" | "rd" | "th")).then_some(at + 2)
}

/// Whether the word behind an ordinal is a year or a month.
fn counts_time(chars: &[char], at: usize) -> bool {
    let rest = chars[at..].iter().skip_while(|c| c.is_whitespace());
    let word: String = rest.take_while(|c| c.is_alphabetic()).flat_map(|c| c.to_lowercase()).collect();
    NTH_OF.contains(&word.as_str()) || crate::talk::months::month(&word).is_some()
}

/// What is counted by the year.
pub(crate) const NTH_OF: [&str; 6] = ["year", "yr", "winter", "summer", "season", "birthday"];

fn word(chars: &[char], at: usize, out: &mut Vec<Token>) -> usize {
    let mut i = at;
    let mut text = String::new();
    while i < chars.len() {
        let c = chars[i];
        if c.is_alphabetic() {
            text.extend(c.to_lowercase());
        } else if !matches!(c, '\'' | '’') {
            break;
        }
        i += 1;
    }
    let value = figure_of(&text);
    out.push(Token { text, value, digits: false, from: at, to: i });
    i
}

/// Figures in several words made one: "a hundred and twenty thousand", "90 k", "twenty-five".
fn together(tokens: Vec<Token>) -> Vec<Token> {
    let mut out: Vec<Token> = Vec::new();
    let mut i = 0;
    while i < tokens.len() {
        let token = &tokens[i];
        // A hyphen within a figure, and "and" after a hundred, belong to it.
        let joint = out.last().is_some_and(|l| joins(l, &out, &tokens[i..]));
        let at = if joint { i + 1 } else { i };
        let grown = out.last().and_then(|l| grows(l.value?, l, &tokens[at]));
        match (grown, out.last_mut()) {
            (Some(value), Some(last)) => {
                last.value = Some(value);
                last.to = tokens[at].to;
                i = at + 1;
            }
            _ => {
                out.push(token.clone());
                i += 1;
            }
        }
    }
    out
}

/// Whether a mark or word stands within a figure: "twenty-one", "a hundred and twenty".
fn joins(last: &Token, before: &[Token], rest: &[Token]) -> bool {
    let (Some(value), [mark, next, ..]) = (last.value.filter(|_| !last.digits), rest) else { return false };
    let hundred_next = rest.get(2).is_some_and(|t| t.text == "hundred");
    let small = next.value.is_some_and(|v| v < 100.0) && !next.digits && !hundred_next;
    match mark.text.as_str() {
        "-" => (20.0..100.0).contains(&value) && next.value.is_some_and(|v| v < 10.0) && !next.digits,
        "and" if small && (100.0..1000.0).contains(&value) => {
            // "Between a hundred and ninety thousand": the "and" is that of "between".
            let between = before.iter().rev().take(4).any(|t| t.text == "between");
            !between || rest[2..].iter().take(4).any(|t| t.text == "and")
        }
        _ => false,
    }
}

/// A figure with the word after it, where the two are one.
fn grows(value: f64, last: &Token, next: &Token) -> Option<f64> {
    match next.text.as_str() {
        "k" | "tsd" | "thou" | "grand" | "thousand" | "thousands" => Some(value * 1000.0),
        "kkm" | "tkm" if last.digits => Some(value * 1000.0),
        "hundred" if !last.digits && value < 10.0 => Some(value * 100.0),
        _ if !last.digits && !next.digits => {
            // "twenty five", "hundred twenty".
            let small = next.value.filter(|v| *v < 100.0)?;
            let room = if value >= 100.0 { 100.0 } else { 10.0 };
            let tens = (20.0..100.0).contains(&value) && value % 10.0 == 0.0;
            let hundreds = (100.0..1000.0).contains(&value) && value % 100.0 == 0.0;
            // "A hundred and twenty-five" grows twice.
            let rest = (100.0..1000.0).contains(&value) && value % 10.0 == 0.0 && small < 10.0;
            ((tens && small < room) || hundreds || rest).then_some(value + small)
        }
        _ => None,
    }
}

/// The root of a word: without its ending.
pub(crate) fn root(word: &str) -> &str {
    for ending in ["ies", "ing", "ed", "es", "s"] {
        if let Some(root) = word.strip_suffix(ending)
            && root.chars().count() >= 3
            && !(ending == "s" && root.ends_with('s'))
        {
            return root;
        }
    }
    word
}

/// Whether two words are within so many slips of each other: one letter wrong, missing, added, or two changed round
/// (optimal string alignment).
pub(crate) fn within(a: &str, b: &str, most: usize) -> bool {
    strsim::osa_distance(a, b) <= most
}
