//! Adverts by the hundred, read: what each says, which repeat another, and what stands together on the market.

use std::collections::{BTreeMap, HashMap};
use std::ops::Deref;
use std::sync::Arc;

use jiff::civil::Date;

use crate::base::memory::KeyOf;
use crate::base::statistics::median;
use crate::base::units::{Money, Usage, UsageClock, UsageUnit};
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::{Buyer, Plan};
use crate::documents::candidate::{Comparable, Example};
use crate::documents::check::Check;
use crate::documents::family::{Family, FamilyKind};
use crate::patterns::library::{Library, THING};
use crate::questions::construction::sheet;
use crate::questions::narrowing::cuts;
use crate::reading::advert;
use crate::reading::advert_reading::AdvertReading;
use crate::reading::named::Names;
use crate::reading::typed;
use crate::talk::promised::{Promised, promised};
use crate::talk::{Tables, Vocabulary};

/// Adverts beside which one is judged.
pub(crate) const BESIDE: usize = 120;

/// With fewer adverts than these a kind looks at others that may be the same: "van" at "van, diesel".
const FEW: usize = 6;

/// Cells from build to now in which an advert is judged, fewer than a candidate's. Of 60 adverts the order stays that
/// of full judgements (`tests/screening.rs`).
pub const CELLS: usize = 36;

/// What a list is judged with.
#[derive(Debug, Clone)]
pub struct Screening<'a> {
    /// The sheets that there are, base sheets included.
    pub families: &'a [Family],
    /// The pattern library.
    pub library: &'a Library,
    /// What people call parts.
    pub tables: &'a Tables,
    /// Three-letter code of the currency of every price.
    pub currency: String,
    /// What one unit of another currency comes to in this one, as the buyer says.
    pub rates: BTreeMap<String, f64>,
    /// What the buyer means to do with it.
    pub plan: Plan,
    /// Who does the work, and for how much.
    pub buyer: Buyer,
    /// The day of judgement.
    pub today: Date,
}

/// An advert of the list, read.
#[derive(Debug, Clone, PartialEq)]
pub struct Listed {
    /// Its line, from 1.
    pub line: usize,
    /// What it says.
    pub reading: AdvertReading,
    /// The line that it repeats.
    pub same_as: Option<usize>,
    /// What was asked in an earlier line of the same.
    pub was: Option<f64>,
    /// What is missing to judge it.
    pub missing: Vec<String>,
    /// Sheets that it is judged by; one of its own where no sheet is named but how it is built is said.
    pub sheets: Arc<Vec<Family>>,
    /// What it says of parts and work.
    pub promised: Vec<Promised>,
    /// What goes with it on the market, by place among the list's groups.
    pub(crate) group: usize,
}

/// A list, read.
#[derive(Debug)]
pub struct List {
    lines: Vec<Listed>,
    /// What stands together on the market.
    pub(crate) groups: Vec<Group>,
}

impl List {
    /// The adverts that can be judged, each once, by place: kind by kind and by usage, so that what one is worked out
    /// from serves the next.
    #[must_use]
    pub fn to_judge(&self) -> Vec<usize> {
        let judged = |l: &Listed| l.missing.is_empty() && l.same_as.is_none() && l.reading.sold_as.apart().is_none();
        let mut out: Vec<usize> = (0..self.len()).filter(|i| judged(&self[*i])).collect();
        let usage = |i: &usize| self[*i].reading.usage.map_or(0.0, Usage::on_clock);
        out.sort_by(|x, y| self[*x].group.cmp(&self[*y].group).then(usage(x).total_cmp(&usage(y))));
        out
    }
}

impl Deref for List {
    type Target = [Listed];

    fn deref(&self) -> &[Listed] {
        &self.lines
    }
}

/// What adverts are judged by, and the words for its parts.
struct Kind {
    sheets: Arc<Vec<Family>>,
    vocabulary: Vocabulary,
    /// How it is built, as far as its adverts say; empty where they name a sheet.
    built_as: BTreeMap<String, String>,
}

impl Kind {
    /// Whether what one says of how it is built may be said of the other: the same thing of the same size, and nothing
    /// that both say is different.
    fn agrees(&self, other: &Self) -> bool {
        let same = |q: &&str| self.built_as.get(*q) == other.built_as.get(*q);
        self.built_as.contains_key(THING)
            && [THING, "size", "bike-size", "engine-size"].iter().all(same)
            && self.built_as.iter().all(|(q, v)| other.built_as.get(q).is_none_or(|o| o == v))
    }
}

/// The kinds of a list.
#[derive(Default)]
struct Kinds {
    all: Vec<Kind>,
    by_key: HashMap<String, usize>,
}

/// The adverts of one kind: what they are judged by, and the market that they make.
#[derive(Debug)]
pub(crate) struct Group {
    /// The sheets.
    pub sheets: Arc<Vec<Family>>,
    /// The sheets without the checks, which tell nothing where nothing was found, but for those that a way of putting a
    /// fault right needs.
    pub(crate) unchecked: Vec<Family>,
    /// What sheets and market come to, for what is remembered of them.
    pub key: KeyOf,
    /// Adverts that can be judged.
    pub count: usize,
    /// Some of them, spread over the list; slips of typing are left out by their distance from the middle.
    pub market: Vec<(usize, Comparable)>,
    /// Where they are few, adverts of others that may be the same kind.
    pub akin: Vec<(usize, Comparable)>,
    /// Builds at which adverts of a long list are judged: nothing begins or ends between one and those that are nearest
    /// to it.
    pub knots: Vec<Date>,
}

impl Group {
    fn new(place: usize, sheets: Arc<Vec<Family>>, lines: &[Listed], today: Date) -> Self {
        // What is sold as broken, was written off or passes no test tells nothing of what a sound one goes for.
        let sound = |l: &Listed| l.reading.sold_as.is_sound();
        let whole_ones = |l: &&Listed| l.group == place && l.missing.is_empty() && l.same_as.is_none() && sound(l);
        let own = || lines.iter().filter(whole_ones);
        let whole: Vec<(usize, Money, Usage, Date)> =
            own().filter_map(|l| Some((l.line, l.reading.asking?, l.reading.usage?, l.reading.built?))).collect();
        let middle = median(&mut whole.iter().map(|x| x.1.get()).collect::<Vec<_>>()).unwrap_or_default();
        let sane: Vec<_> = whole.iter().filter(|x| x.1.get() > middle / 8.0 && x.1.get() < middle * 8.0).collect();
        let spread = sane.iter().step_by((sane.len() / (BESIDE + 1)).max(1)).take(BESIDE + 1);
        let market = spread.map(|(line, price, usage, built)| {
            (*line, Comparable { price: *price, usage: *usage, built: Some(*built), example: Example::Typical })
        });
        let mut key = KeyOf::kind("adverts");
        key.add(&sheets.iter().filter_map(|f| serde_json::to_string(f).ok()).collect::<Vec<_>>());
        let (market, akin): (Vec<_>, _) = (market.collect(), Vec::new());
        let unchecked = sheets.iter().map(unchecked).collect();
        let mut out = Self { key, count: whole.len(), market, akin, knots: knots(&sheets, today), sheets, unchecked };
        for (_, c) in &out.market {
            out.key.figures(&[c.price.get(), c.usage.on_clock()]);
            out.key.add(&c.built);
        }
        out
    }

    /// All of a list's, those of few adverts with the market of those that agree.
    fn all(kinds: Vec<Kind>, lines: &[Listed], today: Date) -> Vec<Self> {
        let of = |(g, k): (usize, &Kind)| Self::new(g, Arc::clone(&k.sheets), lines, today);
        let mut out: Vec<Self> = kinds.iter().enumerate().map(of).collect();
        for (g, kind) in kinds.iter().enumerate().filter(|(g, _)| out[*g].market.len() < FEW).collect::<Vec<_>>() {
            let others = kinds.iter().enumerate().filter(|(o, other)| *o != g && kind.agrees(other));
            out[g].akin = others.flat_map(|(o, _)| out[o].market.iter().cloned()).collect();
        }
        out
    }
}

fn unchecked(sheet: &Family) -> Family {
    let needed = |c: &Check| {
        let needs = sheet.points.iter().flat_map(|p| &p.routes).filter_map(|r| r.needs.as_ref()?.check.as_deref());
        needs.into_iter().any(|id| id == c.id)
    };
    let mut out = sheet.clone();
    out.checks.retain(needed);
    out
}

/// Builds on both sides of everything that begins or ends in the sheets, and the days between half-years.
fn knots(sheets: &[Family], today: Date) -> Vec<Date> {
    let far = Date::constant(1950, 1, 1);
    let changes = sheets.iter().flat_map(|f| cuts(f, far, today));
    let mut out: Vec<Date> = changes.flat_map(|d| [d.yesterday().unwrap_or(d), d]).collect();
    let halves = (far.year()..=today.year()).flat_map(|y| [1, 7].map(|m| Date::new(y, m, 1)));
    out.extend(halves.flatten().filter(|d| *d < today));
    out.sort();
    out.dedup();
    out
}

/// What a figure without a unit counts: what most lines that name one count, by two to one; else what the plan is in.
fn usual_unit(text: &str, plan: UsageUnit) -> UsageUnit {
    let counts = |w: &str| if w == "tkm" { Some(UsageUnit::Km) } else { typed::unit(w) };
    let says = |line: &str, unit: UsageUnit| line.split(|c: char| !c.is_alphabetic()).any(|w| counts(w) == Some(unit));
    let lines = |unit: UsageUnit| text.lines().filter(|l| says(l, unit)).count();
    let (miles, km) = (lines(UsageUnit::Miles), lines(UsageUnit::Km));
    match plan {
        UsageUnit::Hours => plan,
        _ if miles > 2 * km => UsageUnit::Miles,
        _ if km > 2 * miles => UsageUnit::Km,
        _ => plan,
    }
}

impl Screening<'_> {
    /// Reads a list: an advert a line.
    #[must_use]
    pub fn read(&self, text: &str) -> List {
        let (mut lines, mut keys): (Vec<Listed>, Vec<String>) = (Vec::new(), Vec::new());
        let mut seen: HashMap<String, usize> = HashMap::new();
        let mut kinds = Kinds::default();
        let names = Names::of(self.families, self.library);
        let usual = usual_unit(text, self.plan.usage_a_year.unit);
        for (n, line) in text.lines().enumerate().filter(|(_, l)| l.chars().any(char::is_alphanumeric)) {
            let mut reading = advert::read_listed(line, &names, self.library, self.today, usual);
            reading.built = reading.built.or_else(|| bare_year(line, self.today));
            self.converted(&mut reading);
            let key = key(&reading);
            let (mut same_as, mut was) = (None, None);
            if let Some(before) = seen.get(&key).and_then(|i| lines.get(*i)) {
                if before.reading.asking == reading.asking {
                    same_as = Some(before.line);
                } else {
                    was = before.reading.asking.map(Money::get);
                }
            }
            let group = self.kind(&reading, &mut kinds);
            let Kind { sheets, vocabulary, .. } = &kinds.all[group];
            let missing = self.missing(&reading, sheets);
            let promised = if missing.is_empty() { promised(line, vocabulary) } else { Vec::new() };
            let sheets = Arc::clone(sheets);
            seen.insert(key.clone(), lines.len());
            keys.push(key);
            lines.push(Listed { line: n + 1, reading, same_as, was, missing, sheets, promised, group });
        }
        // Where the price was changed the later posting holds.
        let changed: HashMap<&String, usize> =
            lines.iter().zip(&keys).filter(|(l, _)| l.was.is_some()).map(|(l, key)| (key, l.line)).collect();
        for (l, key) in lines.iter_mut().zip(&keys).filter(|(l, _)| l.same_as.is_none()) {
            l.same_as = changed.get(key).copied().filter(|newer| *newer > l.line);
        }
        let groups = Group::all(kinds.all, &lines, self.today);
        List { lines, groups }
    }

    /// The kind of an advert, by its place: what it is judged by, with the words for it.
    fn kind(&self, r: &AdvertReading, kinds: &mut Kinds) -> usize {
        let named = r.families.join("+");
        let built = || r.built_as.iter().map(|(q, v)| format!("{q}={v}")).collect::<Vec<_>>().join(" ");
        let key = if named.is_empty() { built() } else { named };
        if let Some(known) = kinds.by_key.get(&key) {
            return *known;
        }
        let sheets = self.sheets(r, &key);
        let vocabulary = Vocabulary::of_sheets(self.tables, &sheets);
        kinds.by_key.insert(key, kinds.all.len());
        let built_as = if r.families.is_empty() { r.built_as.clone() } else { BTreeMap::new() };
        kinds.all.push(Kind { sheets: Arc::new(sheets), vocabulary, built_as });
        kinds.all.len() - 1
    }

    /// Brings a price in another currency into the list's, where the buyer gave a rate.
    fn converted(&self, r: &mut AdvertReading) {
        let foreign = r.currency.clone().filter(|c| *c != self.currency);
        let (Some(asked), Some(rate)) = (r.asking, foreign.and_then(|c| self.rates.get(&c))) else { return };
        if let Ok(here) = Money::try_from((asked.get() * rate * 100.0).round() / 100.0) {
            (r.asking, r.currency) = (Some(here), Some(self.currency.clone()));
        }
    }

    fn missing(&self, r: &AdvertReading, sheets: &[Family]) -> Vec<String> {
        let mut out = Vec::new();
        let mut need = |there: bool, what: &str| {
            if !there {
                out.push(what.to_owned());
            }
        };
        need(r.asking.is_some_and(|m| m.get() >= 50.0), "price");
        let foreign = r.currency.as_ref().filter(|c| **c != self.currency && r.asking.is_some());
        need(foreign.is_none(), &format!("a rate for {}", foreign.map_or("", String::as_str)));
        need(r.usage.is_some(), "usage");
        need(r.built.is_some_and(|b| b <= self.today), "year of build");
        need(!sheets.is_empty(), "what it is");
        let priced = |f: &Family| f.currency == self.currency || f.currency == crate::documents::pricing::NO_CURRENCY;
        need(sheets.iter().all(priced), "a sheet in this currency");
        if let (Some(u), Some(f)) = (r.usage, sheets.first()) {
            need((u.unit == UsageUnit::Hours) == (f.clock == UsageClock::Hours), "a usage on its own clock");
        }
        out
    }

    /// The sheets of an advert: those that it names with the general checks, or one from how it is built.
    fn sheets(&self, r: &AdvertReading, key: &str) -> Vec<Family> {
        let named: Vec<Family> = self.families.iter().filter(|f| r.families.contains(&f.id)).cloned().collect();
        if let Some(first) = named.first() {
            let whole = named.iter().any(|f| f.built_as.as_ref().is_some_and(|b| b.patterns.is_empty()));
            let kind = match () {
                () if named.iter().any(|f| f.kind == FamilyKind::Motorcycle) => FamilyKind::BaseMotorcycle,
                () if named.iter().any(|f| f.kind == FamilyKind::Body) => FamilyKind::BaseVehicle,
                () => FamilyKind::BaseEngine,
            };
            let base = self.families.iter().find(|f| f.kind == kind && f.clock == first.clock && !whole);
            return named.iter().cloned().chain(base.cloned()).collect();
        }
        if !r.built_as.contains_key(THING) {
            return Vec::new();
        }
        let (id, name) = (format!("built-{}", key.len()), self.spoken(&r.built_as));
        let a = Assumptions::default();
        sheet((&id, &name), r.built_as.clone(), &self.currency, self.library, &a).ok().into_iter().collect()
    }

    /// How a thing is built, in the words of the answers.
    fn spoken(&self, answers: &BTreeMap<String, String>) -> String {
        let questions = self.library.questions.questions.iter();
        let said = questions.filter(|q| q.id != THING || answers.len() == 1).filter_map(|q| {
            let answer = answers.get(&q.id)?;
            q.values
                .iter()
                .find(|v| &v.id == answer)
                .map(|v| v.label.split(',').next().unwrap_or_default().to_lowercase())
        });
        said.collect::<Vec<_>>().join(", ")
    }
}

/// The cells of a line: what commas, semicolons, bars and tabs part.
fn cells(line: &str) -> impl Iterator<Item = &str> {
    line.split([';', '|', '\t']).flat_map(|c| c.split(", ")).flat_map(|c| c.split(" - ")).map(str::trim)
}

/// A year that stands alone in its cell.
fn bare_year(line: &str, today: Date) -> Option<Date> {
    let years = cells(line).filter(|c| c.len() == 4).filter_map(|c| c.parse::<i16>().ok());
    years.filter(|y| *y >= 1950 && *y <= today.year()).find_map(|y| Date::new(y, 7, 1).ok())
}

/// What makes two adverts one: everything that they say but the price.
fn key(r: &AdvertReading) -> String {
    let words: String =
        r.rest.to_lowercase().chars().filter(|c| c.is_alphanumeric()).filter(|c| !c.is_ascii_digit()).collect();
    format!("{words}|{:?}|{:?}", r.usage.map(|u| (u.value / 500.0).round()), r.built)
}

/// Those that stand apart because they are sold as broken or pass no test, each with the words that say so.
#[must_use]
pub fn apart(all: &[Listed]) -> Vec<(usize, &str)> {
    let of = |l: &&Listed| l.missing.is_empty() && l.same_as.is_none();
    all.iter().filter(of).filter_map(|l| Some((l.line, l.reading.sold_as.apart()?))).collect()
}

/// Those that cannot be judged, by what is missing.
#[must_use]
pub fn left_out(all: &[Listed]) -> BTreeMap<String, Vec<usize>> {
    let mut out: BTreeMap<String, Vec<usize>> = BTreeMap::new();
    for l in all.iter().filter(|l| !l.missing.is_empty()) {
        out.entry(l.missing.join(", ")).or_default().push(l.line);
    }
    out
}
