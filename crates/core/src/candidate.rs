//! The candidate: one vehicle or engine under consideration, the buyer's plan for it, and the
//! evidence gathered so far.
//!
//! A candidate is a document in the open format `ticksage-candidate/1` (JSON Schema in
//! `docs/schema/candidate.schema.json`). It carries its own day of judgement, so the same document
//! always gives the same assessment.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::care::{CareLevel, CareSource};
use crate::family::{Check, Exposure, Family, PartGrade};
use crate::scan::Scan;
use crate::units::{Money, Probability, Usage};
use crate::walk::WalkPlan;

/// The format mark of a candidate.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum CandidateFormat {
    /// The first version.
    #[default]
    #[serde(rename = "ticksage-candidate/1")]
    V1,
}

/// The format mark of a bundle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum BundleFormat {
    /// The first version.
    #[default]
    #[serde(rename = "ticksage-bundle/1")]
    V1,
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
    /// What is done at purchase.
    #[serde(default)]
    pub doing: DoingChoice,
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

/// How long, how far and how the buyer means to use it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Years of keeping it, up to 40.
    #[schema(exclusive_minimum = 0, maximum = 40)]
    pub years: f64,
    /// Usage in a year, above 0.
    pub usage_a_year: Usage,
    /// Exposures in the plan, level 0 to 1 each.
    #[serde(default, rename = "use")]
    pub use_: BTreeMap<Exposure, Probability>,
    /// How the buyer means to keep it.
    #[serde(default)]
    pub care: CareLevel,
}

/// How much bad luck the buyer can stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Appetite {
    /// Judges by the mean.
    Bold,
    /// Leaves some room.
    #[default]
    Even,
    /// Leaves much room.
    Careful,
}

/// Who does the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Labour {
    /// The owner.
    #[serde(rename = "self")]
    Own,
    /// An independent workshop.
    #[default]
    Independent,
    /// A dealer.
    Dealer,
    /// A specialist of the family.
    Specialist,
}

impl Labour {
    /// Its name in the open format.
    #[must_use]
    pub fn key(self) -> &'static str {
        match self {
            Self::Own => "self",
            Self::Independent => "independent",
            Self::Dealer => "dealer",
            Self::Specialist => "specialist",
        }
    }
}

/// How the buyer weighs chances and pays for work.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Buyer {
    /// Appetite for risk.
    #[serde(default)]
    pub appetite: Appetite,
    /// Who does the work.
    #[serde(default)]
    pub labour: Labour,
    /// Grade of parts bought.
    #[serde(default)]
    pub parts: PartGrade,
    /// The schools listened to, each with its weight against the others; none named means all alike. One
    /// alone is that school's view.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub schools: BTreeMap<String, f64>,
    /// What an hour costs this buyer where it is another than the table's, in the candidate's currency.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub rates: BTreeMap<Labour, Money>,
    /// What the buyer has put by for it, in the candidate's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reserve: Option<Money>,
    /// Whether a structural write-off is acceptable.
    #[serde(default)]
    pub accepts_structural: bool,
    /// Whether the stamped book or the owner's log is believed more.
    #[serde(default)]
    pub papers: PaperSchool,
}

/// When parts are renewed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DoingSchool {
    /// Whatever is expected to cost least over the plan.
    #[default]
    LeastCost,
    /// Everything overdue, likely or nearly due is renewed at purchase.
    UpFront,
    /// Nothing but what is there now, or could hurt someone.
    WaitForSigns,
}

/// What is done at purchase: by a school, and by the person's own choice where they made one.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DoingChoice {
    /// The school.
    #[serde(default)]
    pub school: DoingSchool,
    /// Points decided by the person.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 500)]
    pub own: Vec<OwnDoing>,
}

/// A point decided by the person.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnDoing {
    /// Which.
    pub at: PointRef,
    /// Renewed at purchase, or left.
    pub now: bool,
}

/// Which of two kinds of paper is believed more.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PaperSchool {
    /// A stamp is easily had and does not say what was done; an owner's dated log says more.
    #[default]
    Log,
    /// A stamp comes from somebody who signs for it; anybody can write a log.
    Stamp,
}

/// A paper of any kind, as it is entered.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", content = "paper", rename_all = "snake_case")]
pub enum Paper {
    /// A piece of service history.
    Entry(LedgerEntry),
    /// A reading of the clock.
    Reading(Reading),
    /// An item of a history report.
    Provenance(ProvenanceItem),
    /// An advisory of a past test.
    Advisory(Advisory),
    /// What is known of a campaign.
    Campaign(CampaignAnswer),
    /// A scan of its control units.
    Scan(Box<Scan>),
}

impl Paper {
    /// The day it bears, where it bears one.
    #[must_use]
    pub fn date(&self) -> Option<Date> {
        match self {
            Self::Entry(x) => Some(x.date),
            Self::Reading(x) => Some(x.date),
            Self::Advisory(x) => Some(x.date),
            Self::Campaign(x) => x.date,
            Self::Scan(x) => Some(x.date),
            Self::Provenance(_) => None,
        }
    }
}

/// How exactly a date is known; a month or a year stands for its middle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DateKnown {
    /// To the day.
    #[default]
    Day,
    /// To the month.
    Month,
    /// To the year.
    Year,
}

impl DateKnown {
    /// Days by which the true day may lie before or after.
    #[must_use]
    pub fn slack_days(self) -> i32 {
        match self {
            Self::Day => 0,
            Self::Month => 16,
            Self::Year => 184,
        }
    }

    fn is_day(&self) -> bool {
        *self == Self::Day
    }
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

/// An advisory of a past roadworthiness test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Advisory {
    /// When it was given.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// What was advised.
    #[schema(min_length = 1, max_length = 400)]
    pub text: String,
    /// What became of it.
    pub state: AdvisoryState,
    /// The proof, or what was said.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
}

/// What became of an advisory.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AdvisoryState {
    /// Put right, with proof.
    Rectified,
    /// Put right, it is said.
    SaidRectified,
    /// Nothing is known of it being put right.
    Open,
}

/// What is known of a recall or campaign on this one.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CampaignAnswer {
    /// The family's id.
    pub family: String,
    /// The campaign's id.
    pub campaign: String,
    /// What is known.
    pub state: CampaignState,
    /// When it was done, where that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub date: Option<Date>,
    /// At what usage, where that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub usage: Option<Usage>,
    /// Who said so.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
}

/// Whether a recall or campaign was carried out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CampaignState {
    /// Proved done, by serial number at a dealer or by its paper.
    Proved,
    /// Known not to be done.
    NotDone,
    /// Not known.
    #[default]
    Unknown,
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

/// An item of a history report.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ProvenanceItem {
    /// Which.
    pub item: ProvenanceKind,
    /// What came back.
    pub state: ProvenanceState,
    /// Who said so, and what.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
}

/// What a history report tells of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ProvenanceKind {
    /// Reported stolen.
    Stolen,
    /// Marked as scrapped.
    Scrapped,
    /// Numbers or papers that do not agree with the vehicle.
    Identity,
    /// Written off with structural damage.
    WrittenOffStructural,
    /// Written off without structural damage.
    WrittenOff,
    /// Finance outstanding.
    Finance,
    /// Another party's interest.
    ThirdParty,
    /// A mileage discrepancy.
    Mileage,
    /// Imported or exported.
    Imported,
    /// Change of plate.
    Plate,
    /// Change of colour.
    Colour,
}

impl ProvenanceKind {
    /// Every item that is asked, what could stop the purchase first.
    pub const ALL: [Self; 11] = [
        Self::Stolen,
        Self::Scrapped,
        Self::Identity,
        Self::WrittenOffStructural,
        Self::Finance,
        Self::ThirdParty,
        Self::Mileage,
        Self::WrittenOff,
        Self::Imported,
        Self::Plate,
        Self::Colour,
    ];
}

/// What came back for an item.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ProvenanceState {
    /// Nothing recorded.
    Clear,
    /// Something recorded.
    Marked,
    /// Recorded, explained and proved settled.
    Settled,
    /// Not asked yet.
    NotAsked,
}

/// An odometer or hour-meter reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// When it was read.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// What it showed.
    pub usage: Usage,
    /// Where it comes from.
    #[serde(default)]
    #[schema(max_length = 400)]
    pub source: String,
    /// How exactly the date is known.
    #[serde(default, skip_serializing_if = "DateKnown::is_day")]
    pub known: DateKnown,
}

/// What stands behind a ledger entry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Evidence {
    /// An invoice that names the part.
    InvoiceNamingPart,
    /// An invoice.
    Invoice,
    /// A stamp.
    Stamp,
    /// The owner's dated log, or a mark on the part.
    OwnerLog,
    /// The seller's word.
    SellersWord,
}

/// A piece of service history.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LedgerEntry {
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// At what usage.
    pub usage: Usage,
    /// Failure points whose part was renewed.
    #[serde(default)]
    pub renews: Vec<PointRef>,
    /// Scheduled work that was carried out.
    #[serde(default)]
    pub performs: Vec<IntervalRef>,
    /// Grade of the part fitted.
    #[serde(default = "unknown_grade")]
    pub grade: PartGrade,
    /// Whether the revised part was fitted.
    #[serde(default)]
    pub revised: bool,
    /// What stands behind it.
    pub evidence: Evidence,
    /// What was done.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
    /// By whom.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 200)]
    pub who: String,
    /// What it cost, in the candidate's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cost: Option<Money>,
    /// How exactly the date is known.
    #[serde(default, skip_serializing_if = "DateKnown::is_day")]
    pub known: DateKnown,
}

fn unknown_grade() -> PartGrade {
    PartGrade::Unknown
}

/// A failure point by family and id.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PointRef {
    /// The family's id.
    pub family: String,
    /// The point's id.
    pub point: String,
}

/// Scheduled work by family and id.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct IntervalRef {
    /// The family's id.
    pub family: String,
    /// The interval's id.
    pub interval: String,
}

/// How the consideration of a candidate ended.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Ending {
    /// It was bought.
    Bought {
        /// When.
        #[schema(value_type = String, format = Date)]
        date: Date,
        /// For how much.
        price: Money,
        /// At what usage.
        usage: Usage,
    },
    /// It was passed over.
    PassedOver {
        /// When.
        #[schema(value_type = String, format = Date)]
        date: Date,
        /// Why.
        #[schema(min_length = 1, max_length = 400)]
        why: String,
    },
}

/// What happened to a bought one.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LogEntry {
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// At what usage.
    pub usage: Usage,
    /// What it was about.
    pub about: LogAbout,
    /// What happened.
    pub what: LogKind,
    /// What it cost, in the candidate's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cost: Option<Money>,
    /// In the person's words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 4000)]
    pub note: String,
}

/// What a log entry is about.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum LogAbout {
    /// A failure point.
    Point {
        /// The family's id.
        family: String,
        /// The point's id.
        point: String,
    },
    /// Scheduled work.
    Work {
        /// The family's id.
        family: String,
        /// The interval's id.
        interval: String,
    },
    /// Something that no sheet names.
    Other {
        /// Its name.
        #[schema(min_length = 1, max_length = 200)]
        name: String,
    },
}

/// What happened.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LogKind {
    /// It was done as planned.
    Done,
    /// It failed.
    Failed,
    /// It was looked at, and was sound.
    Sound,
}

/// An advert of another like it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Comparable {
    /// Asked.
    pub price: Money,
    /// Its usage.
    pub usage: Usage,
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

/// The outcome of a check on this candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Finding {
    /// The check's family.
    pub family: String,
    /// The check's id.
    pub check: String,
    /// What came of it.
    pub result: FindingResult,
    /// The reading, in the check's unit, where it measures.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reading: Option<f64>,
    /// What was read to come to the reading, as typed, place by place.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 40)]
    pub inputs: Vec<TypedReading>,
    /// In the person's words.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
    /// When it was entered (RFC 3339); of no weight in the computation.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at: Option<String>,
    /// Taken back later; kept, and of no weight.
    #[serde(default)]
    pub undone: bool,
}

/// What came of a check.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum FindingResult {
    /// Done, with this outcome.
    Outcome {
        /// Index into the check's outcomes.
        outcome: usize,
    },
    /// Done, with the outcome that the check's bands make of the reading.
    Measured,
    /// Passed over; changes nothing.
    Skipped,
    /// Could not be done; changes nothing and stays listed.
    CouldNot,
    /// To be asked of the seller; changes nothing, stays listed, and is among the questions.
    AskSeller,
    /// Its caution was read; says nothing of the check itself.
    Acknowledged,
}

/// One thing read, as typed.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TypedReading {
    /// The figure or the code as typed; empty where it was not read.
    #[schema(max_length = 40)]
    pub text: String,
    /// Its unit; empty for the check's own.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 20)]
    pub unit: String,
}
