//! Adverts of a list judged beside the others, and ranked by what each is worth against what is asked.
//!
//! Where many adverts of a kind stand in the list, each is judged at the nearest usage and build of a grid, once for all
//! that fall on it. docs/METHOD.md, section 16.

use std::collections::BTreeSet;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::estimate::{Estimate, estimate};
use crate::base::budget::Budget;
use crate::base::memory::Memory;
use crate::base::units::{Money, Usage, UsageUnit};
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Plan;
use crate::documents::candidate::{Candidate, Comparable, FamilyRef};
use crate::documents::family::Family;
use crate::documents::paper::{ProvenanceItem, ProvenanceKind, ProvenanceState};
use crate::inference::context::AssessError;
use crate::questions::advert_words::{Wording, wordings};
use crate::questions::screening::{BESIDE, Group, List, Listed, Screening};
use crate::validation::candidate::candidate_faults;

/// Questions named for each.
const ASKED: usize = 3;

/// Adverts of a kind from which on they are judged at the nearest usage and build of a grid.
const MANY: usize = 400;

/// How many times as far, and how many days older or younger, the comparable of a kind that may be another stands for
/// a price.
const NEAR: f64 = 1.6;
const NEAR_DAYS: i32 = 3 * 365;

/// Comparables from which on a line through them carries their price, and those of a kind that may be another count.
const ENOUGH: usize = 3;

/// Fewer are no market: what one seller asks says little of what another's is worth.
const ALONE: usize = 2;

/// Bytes that are remembered within one estimate.
const WITHIN: usize = 16 << 20;

/// In a long list a usage is taken to the nearest of a grid on which each is so many times the one before it: a bill
/// moves by one per cent at most where nothing falls due.
const FINE: f64 = 1.03;

/// The same for what words change.
const WORDS: f64 = 1.25;

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
    /// What it says was renewed or is amiss, taken as the seller's word.
    pub says: Vec<String>,
    /// What to ask first.
    pub ask: Vec<String>,
}

impl Screening<'_> {
    /// Judges one of the list beside the others.
    ///
    /// # Errors
    /// What makes no sense in it, and too much work.
    pub fn judge(&self, all: &List, at: usize, a: &Assumptions, budget: &Budget<'_>) -> Result<Ranked, AssessError> {
        let own = &all[at];
        let (bare, asking) = self.bare(all, at).ok_or_else(|| AssessError::Faults(Vec::new()))?;
        let words = wordings(own, &bare);
        let found = self.estimated(all, at, (&bare, &words), a, budget)?;
        let value = found.worth(&bare, &own.sheets, a);
        let going = value.reference.price;
        let label = |fact: &String| {
            let known = own.sheets.iter().flat_map(|f| &f.facts).find(|f| &f.id == fact);
            known.map(|f| if f.label.ends_with('?') { f.label.clone() } else { format!("{}: which?", f.label) })
        };
        let open = found.open.iter().filter_map(label);
        let amiss: BTreeSet<&str> = words.iter().filter(|w| w.amiss).map(|w| w.name.as_str()).collect();
        let mut dear: Vec<_> = found.points.iter().filter(|p| p.concerns && !amiss.contains(p.name.as_str())).collect();
        dear.sort_by(|x, y| y.expected_cost.total_cmp(&x.expected_cost));
        let papers = dear.iter().take(ASKED).map(|p| format!("{}: when renewed, with which paper?", p.name));
        let ask: Vec<String> = papers.take(2).chain(open).take(ASKED).collect();
        Ok(Ranked {
            line: own.line,
            title: own.reading.title.clone().unwrap_or_default(),
            asking: asking.get(),
            was: own.was,
            usage: bare.usage,
            built: bare.built,
            sheets: own.sheets.iter().map(|f| f.name.clone()).collect(),
            going,
            worth: value.limit,
            surplus: value.limit - asking.get(),
            bill_a_year: found.mean / bare.plan.years,
            p90: found.p90,
            blow: found.blow(going),
            note: noted(own, &bare, asking.get(), going, a),
            says: words.iter().map(Wording::spoken).collect(),
            ask,
        })
    }

    /// The estimate of an advert with what its words say; without them where they make no sense with its sheet.
    fn estimated(
        &self,
        all: &List,
        at: usize,
        (bare, words): (&Candidate, &[Wording]),
        a: &Assumptions,
        budget: &Budget<'_>,
    ) -> Result<Estimate, AssessError> {
        let own = &all[at];
        let table = Table { group: &all.groups[own.group], a, budget };
        if table.group.count >= MANY
            && let Some(found) = table.near(bare, words)?
        {
            return Ok(found);
        }
        table.said(bare, words)
    }

    /// The candidate that an advert of the list is, with the others of its kind as its market and what it says of parts
    /// as the seller's word; none where something is missing.
    #[must_use]
    pub fn candidate(&self, all: &List, at: usize) -> Option<(Candidate, Money)> {
        let (bare, asking) = self.bare(all, at)?;
        let mut candidate = bare.clone();
        wordings(&all[at], &bare).iter().for_each(|w| w.say(&mut candidate));
        let sense = candidate_faults(&candidate, &all[at].sheets).is_empty();
        Some((if sense { candidate } else { bare }, asking))
    }

    /// The same without its words.
    fn bare(&self, all: &List, at: usize) -> Option<(Candidate, Money)> {
        let own: &Listed = all.get(at)?;
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
        if own.reading.sold_as.written_off.is_some() {
            candidate.provenance.push(written_off(own));
        }
        let group = &all.groups[own.group];
        candidate.comparables = market(group, own.line, usage, built);
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
}

/// What else is asked for on the market of a kind. Of few, and of others that may be the same kind, those near it:
/// nothing else carries their price to its usage and age.
fn market(group: &Group, line: usize, usage: Usage, built: Date) -> Vec<Comparable> {
    let near = |(_, c): &&(usize, Comparable)| is_near(c, usage, built);
    let mut like: Vec<_> = group.market.iter().filter(|(l, _)| *l != line).collect();
    if like.len() < ENOUGH {
        like.retain(near);
    }
    let akin: Vec<_> = group.akin.iter().filter(near).collect();
    if like.len() + akin.len() >= ENOUGH {
        like.extend(akin);
    }
    if like.len() < ALONE {
        return Vec::new();
    }
    like.into_iter().map(|(_, c)| c.clone()).take(BESIDE).collect()
}

/// Whether a comparable has run nearly as far and as long.
fn is_near(c: &Comparable, usage: Usage, built: Date) -> bool {
    let ratio = c.usage.on_clock() / usage.on_clock().max(1.0);
    let days = c.built.and_then(|b| b.until(built).ok()).map_or(0, |d| d.get_days().abs());
    (1.0 / NEAR..=NEAR).contains(&ratio) && days <= NEAR_DAYS
}

/// Estimates of a kind.
struct Table<'a> {
    group: &'a Group,
    a: &'a Assumptions,
    budget: &'a Budget<'a>,
}

impl Table<'_> {
    /// An estimate with what is said; without it where it makes no sense with the sheets.
    fn said(&self, bare: &Candidate, words: &[Wording]) -> Result<Estimate, AssessError> {
        let mut said = bare.clone();
        words.iter().for_each(|w| w.say(&mut said));
        // The reference example shares most of what is worked out.
        let memory = Memory::of(WITHIN);
        let of = |c: &Candidate| {
            let Group { sheets, unchecked, .. } = self.group;
            let sheets: &[Family] = if c.findings.is_empty() { unchecked } else { sheets };
            estimate(c, sheets, self.a, &self.budget.fresh().remembering(&memory))
        };
        match of(&said) {
            Err(AssessError::Faults(_)) if !words.is_empty() => of(bare),
            found => found,
        }
    }

    /// The estimate of the nearest spot, with what the words change at a spot near by; none where the two do not speak
    /// of the same points.
    fn near(&self, bare: &Candidate, words: &[Wording]) -> Result<Option<Estimate>, AssessError> {
        let usage = bare.usage.value;
        let found = self.spot(bare, snapped(usage, FINE), &[])?;
        if words.is_empty() {
            return Ok(Some(found));
        }
        let near = snapped(usage, WORDS);
        let (without, with) = (self.spot(bare, near, &[])?, self.spot(bare, near, words)?);
        Ok(found.changed(&without, &with))
    }

    /// The estimate at the nearest build of the kind's and a usage, worked out once.
    fn spot(&self, bare: &Candidate, usage: f64, words: &[Wording]) -> Result<Estimate, AssessError> {
        let mut at = bare.clone();
        at.built = nearest(&self.group.knots, bare.built);
        at.usage.value = usage;
        at.comparables = self.group.market.iter().map(|(_, c)| c.clone()).collect();
        let words: Vec<Wording> = words.iter().map(|w| w.at(bare, &at)).collect();
        let key = || {
            let mut key = self.group.key.clone();
            key.add(&(&at.facts, at.built, &at.currency, at.usage.unit as u8, &self.a.table, at.as_of));
            key.add(&self.budget.cells());
            key.figures(&[usage, at.plan.years, at.plan.usage_a_year.on_clock()]);
            key.add(&serde_json::to_string(&at.buyer).unwrap_or_default());
            words.iter().for_each(|w| w.key(&mut key));
            key.key()
        };
        let bytes = |x: &Result<Estimate, AssessError>| x.as_ref().map_or(64, |x| 120 * x.points.len());
        self.budget.remembered(key, bytes, || self.said(&at, &words))
    }
}

/// A usage on a grid on which each is so many times the one before it.
fn snapped(usage: f64, step: f64) -> f64 {
    step.powf((usage.max(1.0).ln() / step.ln()).round())
}

/// The build of the kind's that lies nearest.
fn nearest(knots: &[Date], built: Date) -> Date {
    let after = knots.partition_point(|k| *k < built);
    let around = knots[after.saturating_sub(1)..].iter().take(2).copied();
    around.min_by_key(|k| k.until(built).map_or(i32::MAX, |d| d.get_days().abs())).unwrap_or(built)
}

/// What to know of an advert before its figures.
fn noted(own: &Listed, bare: &Candidate, asking: f64, going: f64, a: &Assumptions) -> String {
    let sold = &own.reading.sold_as;
    let said = |what: &str, words: &String| format!("{what} (\u{201c}{words}\u{201d})");
    let unknown = own.promised.iter().find(|p| p.amiss && Wording::new(p, &own.sheets, bare).is_none());
    let all = [
        sold.written_off.as_ref().map(|w| said("written off by an insurer: ask who mended it, and for the report", w)),
        sold.lamp.as_ref().map(|w| said("a warning lamp is lit: read the codes before anything else", w)),
        sold.without_tax.as_ref().map(|w| said("tax comes on top of the price", w)),
        unknown.map(|p| said("no sheet here knows what it says is amiss, and no figure counts it", &p.said)),
        Some(stands_out(asking, going, a)).filter(|s| !s.is_empty()),
    ];
    all.into_iter().flatten().collect::<Vec<_>>().join("; ")
}

/// The mark of a write-off that the advert itself tells.
fn written_off(own: &Listed) -> ProvenanceItem {
    let sold = &own.reading.sold_as;
    ProvenanceItem {
        item: if sold.structural { ProvenanceKind::WrittenOffStructural } else { ProvenanceKind::WrittenOff },
        state: ProvenanceState::Marked,
        note: format!("The advert says: {}", sold.written_off.as_deref().unwrap_or_default()),
    }
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
