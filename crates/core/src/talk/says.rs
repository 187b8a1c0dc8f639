//! What was understood, in words.

use crate::base::word::short_of;
use crate::documents::claim::{LifeClock, LifeForm, ShareForm, ShareWord};

/// Words for a share by their kind in the table.
pub(super) const SHARES: [(&str, ShareWord); 5] = [
    ("share_rare", ShareWord::Rare),
    ("share_occasional", ShareWord::Occasional),
    ("share_most", ShareWord::Most),
    ("share_all", ShareWord::All),
    ("share_common", ShareWord::Common),
];

/// The form of a claim.
pub(super) fn life_form(form: Option<&str>, low: f64, high: Option<f64>) -> Option<LifeForm> {
    Some(match (form, high) {
        (Some("rarely_beyond"), h) => LifeForm::RarelyBeyond { at: h.unwrap_or(low) },
        (Some("at_least"), _) => LifeForm::AtLeast { at: low },
        (_, Some(to)) => LifeForm::Between { from: low, to },
        (Some("from_about"), None) => LifeForm::FromAbout { at: low },
        (Some("between"), None) => return None,
        (_, None) => LifeForm::About { at: low },
    })
}

pub(super) fn life_says(says: &LifeForm, clock: LifeClock, hours: bool) -> String {
    let unit = match (clock, hours) {
        (LifeClock::Age, _) => "years",
        (_, true) => "h",
        _ => "km",
    };
    let f = |x: f64| {
        if clock == LifeClock::Age {
            format!("{x:.1}").replace(".0", "")
        } else if hours {
            format!("{x:.0}")
        } else {
            in_threes((x / 100.0).round() * 100.0)
        }
    };
    match says {
        LifeForm::Between { from, to } => format!("between {} and {} {unit}", f(*from), f(*to)),
        LifeForm::FromAbout { at } => format!("from about {} {unit}", f(*at)),
        LifeForm::RarelyBeyond { at } => format!("rarely past {} {unit}", f(*at)),
        LifeForm::AtLeast { at } => format!("at least {} {unit}", f(*at)),
        LifeForm::About { at } => format!("about {} {unit}", f(*at)),
        _ => String::new(),
    }
}

pub(super) fn share_says(says: ShareForm) -> String {
    match says {
        ShareForm::OneIn { n } => format!("one in {n}"),
        ShareForm::Share { share } => format!("{} %", (share.get() * 1000.0).round() / 10.0),
        ShareForm::Word { word } => format!("{word:?}").to_lowercase(),
    }
}

/// A short name from words.
pub(crate) fn short_name(name: &str) -> String {
    let out: String = short_of(name).chars().take(36).collect();
    if out.is_empty() { "part".to_owned() } else { out.trim_end_matches('-').to_owned() }
}

/// A short name as one says it.
pub(super) fn spoken(short: &str) -> String {
    short.replace('-', " ")
}

/// A whole figure, its thousands apart.
pub(super) fn in_threes(x: f64) -> String {
    let digits = format!("{x:.0}");
    let mut out = String::new();
    for (i, c) in digits.chars().enumerate() {
        if i > 0 && (digits.len() - i).is_multiple_of(3) {
            out.push(' ');
        }
        out.push(c);
    }
    out
}
