//! The inputs that would move the expected bill most.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::judge::assess_within;
use crate::base::budget::Budget;
use crate::base::units::{Probability, Usage};
use crate::documents::applicability::named;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Labour;
use crate::documents::candidate::{Candidate, TrueUsage};
use crate::documents::care_level::CareLevel;
use crate::documents::failure_point::Exposure;
use crate::documents::family::{Fact, Family};
use crate::documents::job::PartGrade;
use crate::documents::paper::{Evidence, LedgerEntry};
use crate::inference::context::{AssessError, with_context};
use crate::inference::depth::Depth;
use crate::money::expected_bill::expected_bill;

/// An input that was varied.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Input {
    /// Usage a year in the plan, three quarters to five quarters of what was stated.
    UsageAYear,
    /// Years of the plan, one fewer to one more.
    Years,
    /// True usage now, a tenth less to a tenth more than stated.
    UsageNow,
    /// An exposure in the past, none to full.
    PastUse {
        /// Which.
        exposure: Exposure,
    },
    /// An exposure in the plan, none to full.
    PlanUse {
        /// Which.
        exposure: Exposure,
    },
    /// How the buyer will keep it, good to poor.
    OwnCare,
    /// How it was kept so far, good to poor.
    PastCare,
    /// Who does the work: the owner to a dealer.
    Labour,
    /// Grade of the parts bought: used to original.
    Parts,
    /// Which one source is heard.
    Source,
    /// A fact not known yet, over its answers.
    Fact {
        /// The family that asks.
        family: String,
        /// The fact.
        fact: String,
        /// The question.
        label: String,
    },
    /// A ledger entry that is not certain: true or false.
    Entry {
        /// Index into the ledger.
        entry: usize,
    },
}

/// An input, what it was set to at the two ends, and the bill there.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Sensitivity {
    /// Which.
    pub input: Input,
    /// The setting with the smaller bill.
    pub low: Tried,
    /// The setting with the larger bill.
    pub high: Tried,
}

/// One setting of an input and the bill it gives.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Tried {
    /// The setting: a figure or the id of an answer.
    pub setting: String,
    /// Expected bill within the plan, units of the currency.
    pub bill: f64,
}

/// Doubted entries that are tried.
const DOUBTED: usize = 20;

/// How many inputs are told.
pub const SENSITIVITIES: usize = 5;

/// The five inputs that would move the expected bill most, each with the range tried, the widest first.
///
/// # Errors
/// As [`crate::assess()`]; settings that make no sense for this candidate are left out.
pub fn sensitivity(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Vec<Sensitivity>, AssessError> {
    let own = assess_within(candidate, families, a, Depth::Lean, budget)?;
    let mut out = Vec::new();
    for (input, settings) in tries(candidate, families, own.usage_now, a) {
        let tried = settings.into_iter().filter_map(|(setting, c)| {
            let bill = with_context(&c, families, a, budget, |context| Ok(expected_bill(context))).ok()?;
            Some(Tried { setting, bill })
        });
        push(&mut out, input, tried.collect());
    }
    budget.check()?;
    let [poor, _, good] = own.care.bill;
    let care = [("good", good), ("poor", poor)].map(|(s, bill)| Tried { setting: s.to_owned(), bill });
    push(&mut out, Input::PastCare, care.to_vec());
    out.sort_by(|x, y| (y.high.bill - y.low.bill).total_cmp(&(x.high.bill - x.low.bill)));
    out.truncate(SENSITIVITIES);
    Ok(out)
}

fn push(out: &mut Vec<Sensitivity>, input: Input, tried: Vec<Tried>) {
    let least = tried.iter().min_by(|x, y| x.bill.total_cmp(&y.bill)).cloned();
    let most = tried.into_iter().max_by(|x, y| x.bill.total_cmp(&y.bill));
    if let Some((low, high)) = least.zip(most).filter(|(l, h)| h.bill > l.bill) {
        out.push(Sensitivity { input, low, high });
    }
}

type Variants = Vec<(String, Candidate)>;

/// Every input worth varying on this candidate, with the candidates it gives.
fn tries(c: &Candidate, families: &[Family], usage_now: f64, a: &Assumptions) -> Vec<(Input, Variants)> {
    let used = named(c, families);
    let mut out = tries_of_plan(c, usage_now);
    out.extend(tries_of_use(c, &used));
    out.extend(tries_of_buyer(c, &used));
    out.extend(used.iter().flat_map(|family| tries_of_facts(c, family)));
    out.extend(tries_of_papers(c, a));
    out
}

/// A candidate changed, under the name of the setting.
fn change(c: &Candidate, setting: &str, f: impl FnOnce(&mut Candidate)) -> (String, Candidate) {
    let mut changed = c.clone();
    f(&mut changed);
    (setting.to_owned(), changed)
}

/// Usage a year, years, and usage now.
fn tries_of_plan(c: &Candidate, usage_now: f64) -> Vec<(Input, Variants)> {
    let scaled = |u: Usage, by: f64| Usage { value: u.value * by, unit: u.unit };
    let figure = |u: Usage| format!("{:.0}", u.value);
    let a_year = [0.75, 1.25].map(|by| {
        let to = scaled(c.plan.usage_a_year, by);
        change(c, &figure(to), |x| x.plan.usage_a_year = to)
    });
    let years = [c.plan.years - 1.0, c.plan.years + 1.0].into_iter().filter(|y| *y > 0.0 && *y <= 40.0);
    let years = years.map(|y| change(c, &format!("{y}"), |x| x.plan.years = y));
    let now = [0.9, 1.1].map(|by| {
        // What it has truly run, not what its clock shows: no later reading may stand against it.
        let to = Usage { value: usage_now * by / c.usage.unit.in_clock(), unit: c.usage.unit };
        let odometer = TrueUsage { usage: to, low: None, high: None, why: String::new(), proved: false };
        change(c, &figure(to), |x| x.odometer = Some(odometer))
    });
    vec![(Input::UsageAYear, a_year.to_vec()), (Input::Years, years.collect()), (Input::UsageNow, now.to_vec())]
}

/// Exposures that change some point's life, in the past and in the plan.
fn tries_of_use(c: &Candidate, used: &[&Family]) -> Vec<(Input, Variants)> {
    let points = used.iter().flat_map(|f| &f.points);
    let exposures: BTreeSet<Exposure> = points.flat_map(|p| p.exposures.keys().copied()).collect();
    let ends = [("none", Probability::ZERO), ("full", Probability::ONE)];
    let both = |exposure| {
        let past = ends.map(|(name, level)| change(c, name, |x| _ = x.past_use.insert(exposure, level)));
        let plan = ends.map(|(name, level)| change(c, name, |x| _ = x.plan.use_.insert(exposure, level)));
        [(Input::PastUse { exposure }, past.to_vec()), (Input::PlanUse { exposure }, plan.to_vec())]
    };
    exposures.into_iter().flat_map(both).collect()
}

/// The buyer's care, who does the work, parts, and which one source is heard.
fn tries_of_buyer(c: &Candidate, used: &[&Family]) -> Vec<(Input, Variants)> {
    let care = [("good", CareLevel::Good), ("poor", CareLevel::Poor)].map(|(n, l)| change(c, n, |x| x.plan.care = l));
    let labour = [("self", Labour::Own), ("independent", Labour::Independent), ("dealer", Labour::Dealer)];
    let labour = labour.map(|(n, l)| change(c, n, |x| x.buyer.labour = l));
    let parts = [("used", PartGrade::Used), ("equivalent", PartGrade::Equivalent), ("original", PartGrade::Original)];
    let parts = parts.map(|(n, g)| change(c, n, |x| x.buyer.parts = g));
    let sources: BTreeSet<&str> = used.iter().flat_map(|f| &f.sources).map(|s| s.id.as_str()).collect();
    let alone = sources.into_iter().map(|s| change(c, s, |x| x.buyer.sources = [(s.to_owned(), 1.0)].into()));
    vec![
        (Input::OwnCare, care.to_vec()),
        (Input::Labour, labour.to_vec()),
        (Input::Parts, parts.to_vec()),
        (Input::Source, alone.collect()),
    ]
}

/// Facts of a family that are not known and on which failure points depend.
fn tries_of_facts(c: &Candidate, family: &Family) -> Vec<(Input, Variants)> {
    let decides = |id: &str| family.points.iter().any(|p| p.applies.asks(id));
    let asked = |fact: &&Fact| !c.facts.contains_key(&fact.id) && decides(&fact.id);
    let variants = |fact: &Fact| {
        let answers = fact.values.iter();
        let to = answers.map(|v| change(c, &v.id, |x| drop(x.facts.insert(fact.id.clone(), v.id.clone()))));
        let (family, id, label) = (family.id.clone(), fact.id.clone(), fact.label.clone());
        (Input::Fact { family, fact: id, label }, to.collect())
    };
    family.facts.iter().filter(asked).map(variants).collect()
}

/// Ledger entries that renew something and are doubted.
fn tries_of_papers(c: &Candidate, a: &Assumptions) -> Vec<(Input, Variants)> {
    let unsure = |e: Evidence| a.credibility(e) < a.credit_invoice;
    let doubted = |e: &LedgerEntry| !e.renews.is_empty() && unsure(e.evidence);
    // The latest say most of what is fitted now.
    let mut entries: Vec<(usize, &LedgerEntry)> = c.ledger.iter().enumerate().filter(|(_, e)| doubted(e)).collect();
    entries.sort_by_key(|e| std::cmp::Reverse(e.1.date));
    entries.truncate(DOUBTED);
    entries
        .into_iter()
        .map(|(entry, _)| {
            let both = [
                change(c, "true", |x| x.ledger[entry].evidence = Evidence::InvoiceNamingPart),
                change(c, "false", |x| drop(x.ledger.remove(entry))),
            ];
            (Input::Entry { entry }, both.to_vec())
        })
        .collect()
}
