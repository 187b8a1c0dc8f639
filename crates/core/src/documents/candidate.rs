//! The candidate: one vehicle or engine under consideration, the buyer's plan for it, and the
//! evidence gathered so far.
//!
//! A candidate is a document in the open format `ticksage-candidate/2` (JSON Schema in
//! `docs/schema/candidate.schema.json`). It carries its own day of judgement, so the same document
//! always gives the same assessment.

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Money, Probability, Usage};
use crate::documents::alteration::Tune;
use crate::documents::buyer::{Buyer, Plan, PurchaseChoice};
use crate::documents::care_level::CareSource;
use crate::documents::check::Check;
use crate::documents::ending::{Ending, LogEntry};
use crate::documents::failure_point::Exposure;
use crate::documents::family::Family;
use crate::documents::finding::{Finding, FindingResult};
use crate::documents::paper::{Advisory, CampaignAnswer, LedgerEntry, Paper, ProvenanceItem, ProvenanceKind, Reading};
use crate::documents::quote::Quote;
use crate::documents::scan::Scan;
use crate::documents::walk_plan::WalkPlan;

/// The format mark of a candidate.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum CandidateFormat {
    /// The second version.
    #[default]
    #[serde(rename = "ticksage-candidate/2")]
    V2,
}

/// The format mark of a bundle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum BundleFormat {
    /// The second version.
    #[default]
    #[serde(rename = "ticksage-bundle/2")]
    V2,
}

/// A candidate together with the sheets it was judged by: what an export holds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Bundle {
    /// Format and its version.
    pub format: BundleFormat,
    /// The candidate.
    pub candidate: Candidate,
    /// Every sheet that it names.
    pub families: Vec<Family>,
}

/// The vehicle or engine under consideration.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Candidate {
    /// Format and its version.
    pub format: CandidateFormat,
    /// What the buyer calls it.
    #[schema(min_length = 1, max_length = 120)]
    pub title: String,
    /// Where it is advertised, what the seller says.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
    /// The families it is checked against together.
    #[schema(min_items = 1, max_items = 6)]
    pub families: Vec<FamilyRef>,
    /// Variant facts known so far: fact id to value id.
    #[serde(default)]
    pub facts: BTreeMap<String, String>,
    /// Serial or engine numbers, by family id.
    #[serde(default)]
    pub serials: BTreeMap<String, String>,
    /// Vehicle identification number as the papers or the plate give it; empty while it is not known.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 40)]
    pub vin: String,
    /// Registration; empty while it is not known.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 20)]
    pub plate: String,
    /// The day of judgement: ages are counted to it.
    #[schema(value_type = String, format = Date)]
    pub as_of: Date,
    /// When it was built, or first registered.
    #[schema(value_type = String, format = Date)]
    pub built: Date,
    /// Usage on the day of judgement.
    pub usage: Usage,
    /// Asking price.
    pub asking: Money,
    /// What was asked first, where the price was changed since: asking more makes nothing worth more.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub asked_first: Option<Money>,
    /// What it should still fetch at the end of the plan, where the buyer says so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub value_at_end: Option<Money>,
    /// Three-letter code of the currency; that of the families.
    #[schema(pattern = "^[A-Z]{3}$")]
    pub currency: String,
    /// How long, how far and how it is meant to be used.
    pub plan: Plan,
    /// How the buyer weighs chances and pays for work.
    #[serde(default)]
    pub buyer: Buyer,
    /// How it was used so far, level 0 to 1 each.
    #[serde(default)]
    pub past_use: BTreeMap<Exposure, Probability>,
    /// What is known of a tune; none where it is as the maker made it, so far as anybody knows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tune: Option<Tune>,
    /// What a history report says.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub provenance: Vec<ProvenanceItem>,
    /// Odometer or hour-meter readings over time.
    #[serde(default)]
    #[schema(max_items = 20000)]
    pub readings: Vec<Reading>,
    /// What the person believes of the usage, where the readings leave room.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub odometer: Option<TrueUsage>,
    /// Service history, with the evidence for it.
    #[serde(default)]
    #[schema(max_items = 20000)]
    pub ledger: Vec<LedgerEntry>,
    /// Advisories of past roadworthiness tests.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub advisories: Vec<Advisory>,
    /// Recalls and campaigns asked about; of several on one campaign the last holds.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub campaigns: Vec<CampaignAnswer>,
    /// Figures the person puts in the place of computed ones, with the reason.
    #[serde(default)]
    pub own: OwnFigures,
    /// Whether every paper there is was seen: what is not in the ledger was then not evidenced.
    #[serde(default)]
    pub papers_seen: bool,
    /// Adverts of others like it.
    #[serde(default)]
    #[schema(max_items = 500)]
    pub comparables: Vec<Comparable>,
    /// Workshops' own prices for jobs; of several on one job the last holds.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 500)]
    pub quotes: Vec<Quote>,
    /// What is done at purchase.
    #[serde(default)]
    pub purchase_plan: PurchaseChoice,
    /// How the consideration ended; none while it is open.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ending: Option<Ending>,
    /// What was done and what failed after the purchase, in order of entry.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 2000)]
    pub log: Vec<LogEntry>,
    /// How the person wants to walk round it.
    #[serde(default)]
    pub walk: WalkPlan,
    /// Scans of its control units, oldest first; the last holds.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub scans: Vec<Scan>,
    /// Outcomes of checks, oldest first; of several on one check the last holds.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub findings: Vec<Finding>,
}

impl Candidate {
    /// One of which nothing is known but what stands here.
    #[must_use]
    pub fn unseen(
        family: FamilyRef,
        (as_of, built): (Date, Date),
        usage: Usage,
        (asking, currency): (Money, &str),
        plan: Plan,
    ) -> Self {
        Self {
            format: CandidateFormat::V2,
            title: "Typical".to_owned(),
            note: String::new(),
            families: vec![family],
            facts: BTreeMap::new(),
            serials: BTreeMap::new(),
            vin: String::new(),
            plate: String::new(),
            as_of,
            built,
            usage,
            asking,
            asked_first: None,
            value_at_end: None,
            currency: currency.to_owned(),
            plan,
            buyer: Buyer::default(),
            past_use: BTreeMap::new(),
            tune: None,
            provenance: Vec::new(),
            readings: Vec::new(),
            odometer: None,
            ledger: Vec::new(),
            advisories: Vec::new(),
            campaigns: Vec::new(),
            own: OwnFigures::default(),
            papers_seen: false,
            comparables: Vec::new(),
            quotes: Vec::new(),
            purchase_plan: PurchaseChoice::default(),
            ending: None,
            log: Vec::new(),
            walk: WalkPlan::default(),
            scans: Vec::new(),
            findings: Vec::new(),
        }
    }

    /// What a history report says of an item; the last that was entered holds.
    #[must_use]
    pub fn provenance_of(&self, item: ProvenanceKind) -> Option<&ProvenanceItem> {
        self.provenance.iter().rev().find(|p| p.item == item)
    }

    /// What is known of a campaign; the last that was entered holds.
    #[must_use]
    pub fn campaign_answer(&self, family: &str, campaign: &str) -> Option<&CampaignAnswer> {
        self.campaigns.iter().rev().find(|c| c.family == family && c.campaign == campaign)
    }

    /// Fills in variant facts that its families settle and that another of its sheets asks for; what is
    /// stated stays.
    pub fn settle(&mut self, families: &[Family]) {
        let named: Vec<&Family> =
            families.iter().filter(|f| self.families.iter().any(|r| r.id == f.id && r.version == f.version)).collect();
        for (fact, value) in named.iter().flat_map(|f| &f.settles) {
            let asked = named.iter().flat_map(|f| &f.facts).find(|x| &x.id == fact);
            if asked.is_some_and(|x| x.values.iter().any(|v| &v.id == value)) {
                self.facts.entry(fact.clone()).or_insert_with(|| value.clone());
            }
        }
    }

    /// Whether it holds amounts of money beside the asking price, which mean something in one currency alone.
    #[must_use]
    pub fn holds_amounts(&self) -> bool {
        !self.comparables.is_empty()
            || !self.buyer.rates.is_empty()
            || self.buyer.reserve.is_some()
            || !self.quotes.is_empty()
            || self.ledger.iter().any(|e| e.cost.is_some())
            || self.log.iter().any(|e| e.cost.is_some())
            || matches!(self.ending, Some(Ending::Bought { .. }))
    }

    /// Adds a paper to the list it belongs to.
    pub fn add_paper(&mut self, paper: Paper) {
        match paper {
            Paper::Entry(x) => self.ledger.push(x),
            Paper::Reading(x) => self.readings.push(x),
            Paper::Provenance(x) => self.provenance.push(x),
            Paper::Advisory(x) => self.advisories.push(x),
            Paper::Campaign(x) => self.campaigns.push(x),
            Paper::Scan(x) => self.scans.push(*x),
        }
    }

    /// Every paper of the document, list by list.
    pub fn papers(&self) -> impl Iterator<Item = Paper> + '_ {
        let entries = self.ledger.iter().cloned().map(Paper::Entry);
        let readings = self.readings.iter().cloned().map(Paper::Reading);
        let provenance = self.provenance.iter().cloned().map(Paper::Provenance);
        let advisories = self.advisories.iter().cloned().map(Paper::Advisory);
        let campaigns = self.campaigns.iter().cloned().map(Paper::Campaign);
        let scans = self.scans.iter().cloned().map(|s| Paper::Scan(Box::new(s)));
        entries.chain(readings).chain(provenance).chain(advisories).chain(campaigns).chain(scans)
    }

    /// The document without its papers.
    #[must_use]
    pub fn without_papers(&self) -> Self {
        Self {
            provenance: Vec::new(),
            readings: Vec::new(),
            ledger: Vec::new(),
            advisories: Vec::new(),
            campaigns: Vec::new(),
            scans: Vec::new(),
            ..self.clone()
        }
    }

    /// The finding that holds for a check: the last one that was not taken back.
    #[must_use]
    pub fn finding_on(&self, family: &str, check: &str) -> Option<&Finding> {
        let says = |f: &&Finding| !f.undone && f.result != FindingResult::Acknowledged;
        self.findings.iter().rev().filter(says).find(|f| f.family == family && f.check == check)
    }

    /// The outcome that holds for a check; none while it is not done, skipped or could not be done.
    #[must_use]
    pub fn outcome_of(&self, family: &Family, check: &Check) -> Option<usize> {
        let f = self.finding_on(&family.id, &check.id)?;
        match f.result {
            FindingResult::Outcome { outcome } => Some(outcome),
            FindingResult::Measured => Some(check.measure.as_ref()?.outcome(f.reading?)),
            _ => None,
        }
    }
}

/// A family by id and the version of its sheet.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FamilyRef {
    /// The family's id.
    pub id: String,
    /// The sheet's version.
    #[schema(minimum = 1)]
    pub version: u32,
}

/// What the person believes of the true usage.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TrueUsage {
    /// What the judgement runs on.
    pub usage: Usage,
    /// The least it may be; none: what the readings allow.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low: Option<Usage>,
    /// The most it may be; none: what the readings allow.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub high: Option<Usage>,
    /// Why.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub why: String,
    /// Whether a paper proves it: what the readings leave open is then settled.
    #[serde(default)]
    pub proved: bool,
}

/// A figure of the person's own, 0 to 1, with the reason.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnFigure {
    /// The figure.
    pub value: Probability,
    /// Why.
    #[schema(min_length = 1, max_length = 400)]
    pub reason: String,
}

/// Figures the person puts in the place of computed ones.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnFigures {
    /// Parts of the care index.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub care: BTreeMap<CareSource, OwnFigure>,
    /// Chance that a past repair left a paper.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub completeness: Option<OwnFigure>,
}

/// An advert of another like it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Comparable {
    /// Asked.
    pub price: Money,
    /// Its usage.
    pub usage: Usage,
    /// When it was built, where the advert says so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub built: Option<Date>,
    /// What kind of example it is.
    #[serde(default)]
    pub example: Example,
}

/// What kind of example an advert shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Example {
    /// As most are at that usage and age.
    #[default]
    Typical,
    /// Everything put right and nothing overdue.
    WellSorted,
}
