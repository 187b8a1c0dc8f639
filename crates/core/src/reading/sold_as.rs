//! What an advert says of the whole: that it does not run, that it was written off, that it passes no test, that a lamp is
//! lit, that tax comes on top.
//!
//! A judgement assumes that a thing runs and may go on the road: what is sold as broken, or passes no test, stands apart
//! from what is sold to be used.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How an advert says that the whole is sold, in its own words.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub struct SoldAs {
    /// That it does not run, or is for parts.
    pub broken: Option<String>,
    /// That an insurer wrote it off.
    pub written_off: Option<String>,
    /// Whether its structure was damaged then.
    pub structural: bool,
    /// That it has no test of roadworthiness, or needs work to pass one.
    pub no_test: Option<String>,
    /// That a warning lamp is lit.
    pub lamp: Option<String>,
    /// That tax comes on top of the price.
    pub without_tax: Option<String>,
}

impl SoldAs {
    /// The words for which it stands apart in a list: it cannot be used as it stands.
    #[must_use]
    pub fn apart(&self) -> Option<&str> {
        self.broken.as_deref().or(self.no_test.as_deref())
    }

    /// Whether its price tells what a sound one goes for.
    #[must_use]
    pub fn is_sound(&self) -> bool {
        self.apart().is_none() && self.written_off.is_none()
    }
}

/// Words with which something is sold as not running, in a row.
const BROKEN: [&str; 88] = [
    "spares or repair",
    "spares or repairs",
    "spares repair",
    "spares repairs",
    "spare or repair",
    "spares and repair",
    "spares and repairs",
    "repair or spares",
    "spares only",
    "sold for parts",
    "selling for parts",
    "for parts only",
    "for parts or",
    "only for parts",
    "sold for spares",
    "selling for spares",
    "for spares only",
    "for spares or",
    "sold as spares",
    "selling as spares",
    "parts only",
    "donor",
    "breaking for",
    "for breaking",
    "being broken",
    "non runner",
    "nonrunner",
    "non running",
    "not running",
    "not a runner",
    "does not run",
    "doesnt run",
    "wont run",
    "will not run",
    "wont start",
    "will not start",
    "does not start",
    "doesnt start",
    "not starting",
    "without engine",
    "engine removed",
    "engine out",
    "belt snapped",
    "snapped belt",
    "snapped timing belt",
    "chain snapped",
    "snapped chain",
    "snapped timing chain",
    "big end gone",
    "accident damage",
    "accident damaged",
    "crash damage",
    "crash damaged",
    "crashed",
    "damaged repairable",
    "repairable damage",
    "salvage",
    "fire damage",
    "fire damaged",
    "flood damage",
    "flood damaged",
    "cat a",
    "cat b",
    "category a",
    "category b",
    "unfinished project",
    "recovery only",
    "needs recovery",
    "needs recovering",
    "needs towing",
    "needs a trailer",
    "motorschaden",
    "getriebeschaden",
    "unfallwagen",
    "unfallschaden",
    "totalschaden",
    "bastler",
    "bastlerfahrzeug",
    "ersatzteilspender",
    "teilespender",
    "nicht fahrbereit",
    "springt nicht an",
    "pour pièces",
    "non roulant",
    "accidenté",
    "accidentée",
    "loopt niet",
    "voor onderdelen",
];

/// The same where a clause says nothing else: "receipts for parts" sells nothing.
const ALONE: [&str; 7] = ["for parts", "for spares", "for repair", "breaking", "project", "no engine", "no drive"];

/// The great parts without which it does not run.
const GREAT: [&str; 7] = ["engine", "motor", "gearbox", "transmission", "getriebe", "moteur", "boîte"];

/// What such a part is when it is done for.
const DONE_FOR: [&str; 16] = [
    "blown", "blew", "seized", "gone", "dead", "failed", "failure", "broken", "knocking", "knock", "scrap", "defekt",
    "hs", "cassé", "kaputt", "locked",
];

/// What makes a motor a small one.
const SMALL: [&str; 9] = ["window", "wiper", "heater", "blower", "fan", "starter", "seat", "mirror", "sunroof"];

/// With these one needs such a part.
const NEEDS: [&str; 8] = ["needs", "need", "needing", "requires", "requiring", "wants", "braucht", "benötigt"];

/// What may stand between the need and the part.
const BETWEEN: [&str; 11] =
    ["a", "an", "new", "another", "replacement", "recon", "reconditioned", "used", "different", "complete", "neuen"];

/// What follows the name of a part that is not the part.
const BESIDE: [&str; 14] = [
    "oil",
    "mount",
    "mounts",
    "mounting",
    "light",
    "cover",
    "service",
    "tune",
    "clean",
    "bay",
    "management",
    "tray",
    "remap",
    "software",
];

/// Words with which an insurer's loss is told.
const WRITTEN_OFF: [&str; 14] = [
    "cat n",
    "cat s",
    "cat c",
    "cat d",
    "category n",
    "category s",
    "category c",
    "category d",
    "written off",
    "write off",
    "writeoff",
    "insurance loss",
    "total loss",
    "rebuilt title",
];

/// Of these, damage to the structure.
const STRUCTURAL: [&str; 2] = ["cat s", "category s"];

/// Words for a test that it has not, or did not pass.
const NO_TEST: [&str; 25] = [
    "mot failure",
    "mot fail",
    "mot failed",
    "failed mot",
    "failed its mot",
    "failed the mot",
    "mot expired",
    "mot has expired",
    "mot ran out",
    "mot run out",
    "mot has run out",
    "out of mot",
    "needs mot",
    "needs an mot",
    "needs new mot",
    "no mot",
    "without mot",
    "failed its test",
    "failed the test",
    "failed its inspection",
    "failed inspection",
    "kein tüv",
    "ohne tüv",
    "tüv abgelaufen",
    "sans contrôle technique",
];

/// Words for a test that was passed after all.
const PASSED: [&str; 9] = [
    "now passed",
    "since passed",
    "then passed",
    "has passed",
    "passed retest",
    "passed the retest",
    "passed its retest",
    "passed on retest",
    "passed second time",
];

/// Words for a test that it has, in a clause that does not deny one.
const HAS_TEST: [&str; 13] = [
    "new mot",
    "fresh mot",
    "full mot",
    "long mot",
    "months mot",
    "year mot",
    "years mot",
    "mot until",
    "mot till",
    "mot to",
    "tüv neu",
    "neuer tüv",
    "tüv bis",
];

/// What follows such words where a test that was passed is praised.
const PRAISED: [&str; 12] = [
    "advisories",
    "advisory",
    "advisorys",
    "failures",
    "fails",
    "issues",
    "issue",
    "problems",
    "problem",
    "worries",
    "needed",
    "exempt",
];

/// How far behind the need what is to be welded may stand.
const WELD_WITHIN: usize = 5;

/// Words for a lit lamp.
const LAMP: [&str; 19] = [
    "engine light on",
    "engine light is on",
    "check engine light",
    "management light",
    "eml on",
    "eml is on",
    "warning light on",
    "warning lights on",
    "fault light on",
    "fault light",
    "light on dash",
    "light on the dash",
    "abs light on",
    "airbag light on",
    "dpf light on",
    "oil light on",
    "battery light on",
    "in limp mode",
    "motorkontrollleuchte",
];

/// Words for a price without tax.
const WITHOUT_TAX: [&str; 9] =
    ["+ vat", "plus vat", "ex vat", "excl vat", "excluding vat", "exclusive of vat", "+ tax", "plus tax", "zzgl mwst"];

/// Words with which a clause denies.
const DENIED: [&str; 15] = [
    "no", "not", "never", "without", "nor", "isnt", "wasnt", "kein", "keine", "nie", "ohne", "pas", "sans", "geen",
    "niet",
];

/// How far before the words a denial stands.
const NEAR: usize = 3;

/// Reads how an advert says that the whole is sold.
#[must_use]
pub fn sold_as(text: &str) -> SoldAs {
    let mut out = SoldAs::default();
    let (mut untested, mut weld, mut tested) = (None, None, false);
    for clause in clauses(text) {
        let take = |slot: &mut Option<String>, phrases: &[&str]| {
            let found = phrases.iter().find(|p| said(&clause, p));
            if let (None, Some(found)) = (&slot, found) {
                *slot = Some((*found).to_owned());
            }
        };
        take(&mut out.broken, &BROKEN);
        let whole = clause.join(" ");
        out.broken = out.broken.or_else(|| ALONE.contains(&whole.as_str()).then_some(whole));
        out.broken = out.broken.or_else(|| great_part(&clause));
        take(&mut out.written_off, &WRITTEN_OFF);
        out.structural |= STRUCTURAL.iter().any(|p| said(&clause, p));
        let without = no_test(&clause);
        let has = |phrases: &[&str]| phrases.iter().any(|p| said(&clause, p));
        tested |= has(&PASSED) || without.is_none() && has(&HAS_TEST);
        untested = untested.or(without);
        weld = weld.or_else(|| welding(&clause));
        take(&mut out.lamp, &LAMP);
        take(&mut out.without_tax, &WITHOUT_TAX);
    }
    // "Failed on a bulb, now passed" has its test; what is to be welded is to be welded all the same.
    out.no_test = untested.filter(|_| !tested).or(weld);
    out
}

/// The words of each clause, in small letters.
fn clauses(text: &str) -> Vec<Vec<String>> {
    let parts = text.split(['.', ',', ';', '|', '\t', '\n', '!', '?', '(', ')', '•', '*']);
    let word = |w: &str| w.chars().filter(|c| !matches!(c, '\'' | '’')).collect::<String>().to_lowercase();
    let words = |part: &str| {
        let apart = part.replace('+', " + ");
        let each = apart.split(|c: char| !(c.is_alphanumeric() || matches!(c, '+' | '\'' | '’'))).map(word);
        each.filter(|w| !w.is_empty()).collect::<Vec<_>>()
    };
    parts.map(words).filter(|w| !w.is_empty()).collect()
}

/// Whether a clause says these words in a row and does not deny them.
fn said(clause: &[String], phrase: &str) -> bool {
    let wanted: Vec<&str> = phrase.split(' ').collect();
    let at = clause.windows(wanted.len()).position(|w| w.iter().zip(&wanted).all(|(x, y)| x == y));
    at.is_some_and(|at| !denied(clause, at, at + wanted.len()))
}

fn denied(clause: &[String], from: usize, to: usize) -> bool {
    let is = |w: &String| DENIED.contains(&w.as_str());
    clause[from.saturating_sub(NEAR)..from].iter().any(is) || clause.get(to).is_some_and(|w| w == "free")
}

/// That it has no test of roadworthiness, or failed it.
fn no_test(clause: &[String]) -> Option<String> {
    let praised = |p: &str| PRAISED.iter().any(|after| said(clause, &format!("{p} {after}")));
    let found = NO_TEST.iter().find(|p| said(clause, p) && !praised(p));
    found.map(|p| (*p).to_owned())
}

/// That something is to be welded.
fn welding(clause: &[String]) -> Option<String> {
    let word = |i: usize| clause.get(i).map_or("", String::as_str);
    let weld = (0..clause.len()).find(|i| matches!(word(*i), "weld" | "welds" | "welding" | "welded" | "schweißen"))?;
    let need = (weld.saturating_sub(WELD_WITHIN)..weld).rev().find(|i| NEEDS.contains(&word(*i)));
    if let Some(need) = need.filter(|n| !denied(clause, *n, weld + 1) && !denied(clause, weld, weld + 1)) {
        return Some(clause[need..=weld].join(" "));
    }
    let asked = matches!(word(weld + 1), "needed" | "required" | "necessary") && !denied(clause, weld, weld + 1);
    asked.then(|| clause[weld..=weld + 1].join(" "))
}

/// That an engine or a gearbox is done for, or needed.
fn great_part(clause: &[String]) -> Option<String> {
    let word = |i: usize| clause.get(i).map_or("", String::as_str);
    let told = |from: usize, to: usize| Some(clause[from..=to].join(" "));
    for (i, _) in clause.iter().enumerate().filter(|(_, w)| GREAT.contains(&w.as_str())) {
        let skips = |i: usize| usize::from(matches!(word(i), "is" | "has" | "ist" | "was"));
        let after = i + 1 + skips(i + 1);
        if i > 0 && SMALL.contains(&word(i - 1)) {
            continue;
        }
        let sensor = word(after + 1).starts_with("sensor");
        if DONE_FOR.contains(&word(after)) && !sensor && !denied(clause, i, after + 1) {
            return told(i, after);
        }
        if i > 0 && DONE_FOR.contains(&word(i - 1)) && !BESIDE.contains(&word(i + 1)) && !denied(clause, i - 1, i + 1) {
            return told(i - 1, i);
        }
        let need = (0..i).rev().find(|n| !BETWEEN.contains(&word(*n)));
        if let Some(need) = need.filter(|n| NEEDS.contains(&word(*n)) && !BESIDE.contains(&word(i + 1)))
            && !denied(clause, need, i + 1)
        {
            return told(need, i);
        }
    }
    None
}
