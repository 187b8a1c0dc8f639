//! Adverts by the hundred: each read, judged lean beside the others, and ranked by what it is worth against what is asked.

use std::collections::{BTreeMap, HashMap};

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::judge::assess_within;
use crate::base::budget::Budget;
use crate::base::statistics::median;
use crate::base::units::{Money, Usage, UsageClock, UsageUnit};
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::{Buyer, Plan};
use crate::documents::candidate::{Candidate, Comparable, Example, FamilyRef};
use crate::documents::family::{Family, FamilyKind};
use crate::inference::context::AssessError;
use crate::inference::depth::Depth;
use crate::patterns::library::{Library, THING};
use crate::questions::construction::sheet;
use crate::reading::advert;
use crate::reading::advert_reading::AdvertReading;
use crate::reading::named::Names;

/// Adverts beside which one is judged.
const BESIDE: usize = 120;

/// Cells from build to now in which an advert is judged: a quarter of a candidate's. Of 60 adverts the order stays that
/// of full judgements (`tests/screening.rs`).
pub const CELLS: usize = 60;

/// Questions named for each.
const ASKED: usize = 3;

/// What a list is judged with.
#[derive(Debug, Clone)]
pub struct Screening<'a> {
    /// The sheets that there are, base sheets included.
    pub families: &'a [Family],
    /// The pattern library.
    pub library: &'a Library,
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
    pub sheets: Vec<Family>,
    /// What goes with it on the market.
    group: String,
}

/// An advert, judged.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Ranked {
    /// Its line, from 1.
    pub line: usize,
    /// Its first words.
    pub title: String,
    /// What is asked.
    pub asking: f64,
    /// What was asked before.
    pub was: Option<f64>,
    /// What it has run.
    pub usage: Usage,
    /// When it was built.
    #[schema(value_type = String, format = Date)]
    pub built: Date,
    /// The sheets that it was judged by, by name.
    pub sheets: Vec<String>,
    /// What such a thing goes for among these adverts.
    pub going: f64,
    /// What it is worth to this buyer so far.
    pub worth: f64,
    /// Worth less what is asked.
    pub surplus: f64,
    /// Expected bill a year.
    pub bill_a_year: f64,
    /// Bill that is passed in one of ten futures.
    pub p90: f64,
    /// Chance of a blow within the plan: something that ends the engine or costs half of what it is worth, weighed by
    /// how much of its worth it costs.
    pub blow: f64,
    /// What stands out.
    pub note: String,
    /// What to ask first.
    pub ask: Vec<String>,
}

impl Screening<'_> {
    /// Reads a list: an advert a line.
    #[must_use]
    pub fn read(&self, text: &str) -> Vec<Listed> {
        let mut out: Vec<Listed> = Vec::new();
        let mut seen: HashMap<String, usize> = HashMap::new();
        let mut made: HashMap<String, Option<Family>> = HashMap::new();
        let names = Names::of(self.families, self.library);
        let usual = self.plan.usage_a_year.unit;
        for (n, line) in text.lines().enumerate().filter(|(_, l)| l.chars().any(char::is_alphanumeric)) {
            let mut reading = advert::read_listed(line, &names, self.library, self.today, usual);
            reading.built = reading.built.or_else(|| bare_year(line, self.today));
            self.converted(&mut reading);
            let key = key(&reading);
            let (mut same_as, mut was) = (None, None);
            if let Some(before) = seen.get(&key).and_then(|i| out.get(*i)) {
                if before.reading.asking == reading.asking {
                    same_as = Some(before.line);
                } else {
                    was = before.reading.asking.map(Money::get);
                }
            }
            let sheets = self.sheets(&reading, &mut made);
            let group = sheets.iter().map(|f| f.name.clone()).collect::<Vec<_>>().join("+");
            let missing = self.missing(&reading, &sheets);
            seen.insert(key, out.len());
            out.push(Listed { line: n + 1, reading, same_as, was, missing, sheets, group });
        }
        // Where the price was changed the later posting holds.
        let changed: Vec<(String, usize)> =
            out.iter().filter(|l| l.was.is_some()).map(|l| (key(&l.reading), l.line)).collect();
        for l in out.iter_mut().filter(|l| l.same_as.is_none()) {
            let newer = changed.iter().rev().find(|(k, n)| *k == key(&l.reading) && *n > l.line);
            l.same_as = newer.map(|(_, n)| *n);
        }
        out
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
    fn sheets(&self, r: &AdvertReading, made: &mut HashMap<String, Option<Family>>) -> Vec<Family> {
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
        let key = r.built_as.iter().map(|(q, v)| format!("{q}={v}")).collect::<Vec<_>>().join(" ");
        let family = made.entry(key.clone()).or_insert_with(|| {
            let a = Assumptions::default();
            let id = format!("built-{}", key.len());
            let name = self.spoken(&r.built_as);
            sheet((&id, &name), r.built_as.clone(), &self.currency, self.library, &a).ok()
        });
        family.clone().into_iter().collect()
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

    /// Judges one of the list beside the others.
    ///
    /// # Errors
    /// What makes no sense in it, and too much work.
    pub fn judge(
        &self,
        all: &[Listed],
        at: usize,
        a: &Assumptions,
        budget: &Budget<'_>,
    ) -> Result<Ranked, AssessError> {
        let own = &all[at];
        let (candidate, asking) = self.candidate(all, at).ok_or_else(|| AssessError::Faults(Vec::new()))?;
        let (usage, built) = (candidate.usage, candidate.built);
        let judged = assess_within(&candidate, &own.sheets, a, Depth::Lean, budget)?;
        let going = judged.value.reference.price;
        let label = |fact: &str| {
            let known = own.sheets.iter().flat_map(|f| &f.facts).find(|f| f.id == fact);
            known.map(|f| f.label.clone())
        };
        let open = judged.walk.identify.iter().filter_map(|i| label(&i.fact));
        let mut dear: Vec<_> = judged.points.iter().filter(|p| p.identify.is_empty()).collect();
        dear.sort_by(|x, y| y.expected_cost.total_cmp(&x.expected_cost));
        let papers = dear.iter().take(ASKED).map(|p| format!("{}: when renewed, with which paper?", p.name));
        let ask: Vec<String> = papers.take(2).chain(open).take(ASKED).collect();
        Ok(Ranked {
            line: own.line,
            title: own.reading.title.clone().unwrap_or_default(),
            asking: asking.get(),
            was: own.was,
            usage,
            built,
            sheets: own.sheets.iter().map(|f| f.name.clone()).collect(),
            going,
            worth: judged.value.limit,
            surplus: judged.value.limit - asking.get(),
            bill_a_year: judged.bill.mean / judged.plan_years,
            p90: judged.bill.p90,
            blow: judged.blow(),
            note: stands_out(asking.get(), going, a),
            ask,
        })
    }

    /// The candidate that an advert of the list is, with the others of its kind as its market; none where something is
    /// missing.
    #[must_use]
    pub fn candidate(&self, all: &[Listed], at: usize) -> Option<(Candidate, Money)> {
        let own = all.get(at)?;
        let (asking, usage, built) = (own.reading.asking?, own.reading.usage?, own.reading.built?);
        let refs: Vec<FamilyRef> =
            own.sheets.iter().map(|f| FamilyRef { id: f.id.clone(), version: f.version }).collect();
        let first = refs.first().cloned()?;
        let plan = self.plan_for(usage);
        let mut candidate = Candidate::unseen(first, (self.today, built), usage, (asking, &self.currency), plan);
        candidate.families = refs;
        candidate.buyer = self.buyer.clone();
        if let Some(title) = own.reading.title.as_ref().filter(|t| !t.trim().is_empty()) {
            candidate.title = title.chars().take(120).collect();
        }
        candidate.facts = own.reading.built_as.clone();
        candidate.facts.retain(|fact, value| {
            let asked = own.sheets.iter().flat_map(|f| &f.facts).find(|f| &f.id == fact);
            asked.is_some_and(|f| f.values.iter().any(|v| &v.id == value))
        });
        candidate.settle(&own.sheets);
        candidate.comparables = self.beside(all, at);
        Some((candidate, asking))
    }

    /// The plan on the clock of the thing.
    fn plan_for(&self, usage: Usage) -> Plan {
        let hours = usage.unit == UsageUnit::Hours;
        if (self.plan.usage_a_year.unit == UsageUnit::Hours) == hours {
            return self.plan.clone();
        }
        let a = Assumptions::default();
        let usage_a_year = if hours {
            Usage { value: a.pace_hours, unit: UsageUnit::Hours }
        } else {
            Usage { value: a.pace_km, unit: UsageUnit::Km }
        };
        Plan { usage_a_year, ..self.plan.clone() }
    }

    /// Others of its kind: the market that it stands in. Slips of typing are left out by their distance from the middle.
    fn beside(&self, all: &[Listed], at: usize) -> Vec<Comparable> {
        let own = &all[at];
        let others = all.iter().enumerate().filter(|(i, l)| *i != at && l.group == own.group && l.same_as.is_none());
        let whole: Vec<(Money, Usage, Date)> = others
            .filter(|(_, l)| l.missing.is_empty())
            .filter_map(|(_, l)| Some((l.reading.asking?, l.reading.usage?, l.reading.built?)))
            .collect();
        let mut prices: Vec<f64> = whole.iter().map(|x| x.0.get()).collect();
        let Some(middle) = median(&mut prices) else { return Vec::new() };
        let sane = |price: f64| price > middle / 8.0 && price < middle * 8.0;
        let kept = whole.into_iter().filter(|x| sane(x.0.get())).take(BESIDE);
        kept.map(|(price, usage, built)| Comparable { price, usage, built: Some(built), example: Example::Typical })
            .collect()
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

/// What stands out in a price.
fn stands_out(asking: f64, going: f64, a: &Assumptions) -> String {
    if asking < going * a.too_cheap {
        "too cheap: ask why (the clock, a write-off, a slip of typing)".to_owned()
    } else if asking > going / a.too_cheap {
        "dear for its kind: ask what was done".to_owned()
    } else {
        String::new()
    }
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
