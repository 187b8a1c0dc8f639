//! What the yard shows of a candidate, kept beside it so that a long yard answers at once.

use serde::{Deserialize, Serialize};
use ticksage_core::assess::assessment::{Assessment, YearMark};
use ticksage_core::base::units::{Usage, UsageClock};
use ticksage_core::decision::grade::Grade;
use ticksage_core::decision::point_result::{PointResult, WhyKind};
use ticksage_core::decision::verdict::VerdictKind;
use ticksage_core::documents::candidate::Candidate;
use ticksage_core::documents::ending::Ending;
use ticksage_core::documents::family::Family;
use utoipa::ToSchema;

/// A candidate at a glance.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Summary {
    /// What the buyer calls it.
    pub title: String,
    /// Names of its families.
    pub families: Vec<String>,
    /// Usage as stated.
    pub usage: Usage,
    /// Year of build.
    pub built: i16,
    /// Currency of the amounts.
    pub currency: String,
    /// Asked.
    pub asking: f64,
    /// Worth to this buyer.
    pub limit: f64,
    /// Expected bill within the plan.
    pub bill: f64,
    /// Decision.
    pub verdict: VerdictKind,
    /// Grade of the whole.
    pub grade: Grade,
    /// Blockers closed.
    pub blockers: usize,
    /// How the consideration ended; none while it is open.
    #[serde(default)]
    pub ending: Option<Ending>,
    /// Things needed before a verdict, and missing.
    pub needed: usize,
    /// What sets it apart from another of its age and usage, in expected money; the most first.
    pub differs: Vec<DiffersGlance>,
    /// Most telling check not done: its name and minutes.
    pub next: Option<NextGlance>,
    /// Checks done.
    pub checks_done: usize,
    /// Checks that concern it.
    pub checks_total: usize,
    /// The strip in small.
    pub strip: StripGlance,
}

/// A point at which a candidate differs from another of its age and usage.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct DiffersGlance {
    /// Its name.
    pub name: String,
    /// Expected money more, or less below 0.
    pub by: f64,
}

/// How many of them are told, and from which share of the going price on.
const DIFFERS: (usize, f64) = (2, 0.01);

/// What papers and findings make of each point beyond usage and age alone.
fn differs(a: &Assessment) -> Vec<DiffersGlance> {
    let least = a.value.reference.price * DIFFERS.1;
    let of = |p: &PointResult| {
        let alone = p.why.iter().find(|w| w.kind == WhyKind::Survived)?.chance;
        let by = (p.p_plan - alone) * p.failure_cost;
        (by.abs() >= least).then(|| DiffersGlance { name: p.name.clone(), by })
    };
    let mut out: Vec<DiffersGlance> = a.points.iter().filter_map(of).collect();
    out.sort_by(|x, y| y.by.abs().total_cmp(&x.by.abs()));
    out.truncate(DIFFERS.0);
    out
}

/// The next check at a glance.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NextGlance {
    /// Name.
    pub name: String,
    /// Minutes.
    pub minutes: f64,
    /// Whether it is worth more than its time.
    pub pays: bool,
}

/// The strip in small.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StripGlance {
    /// Clock of the axis.
    pub clock: UsageClock,
    /// Usage now.
    pub now: f64,
    /// Usage to the end of the plan.
    pub horizon: f64,
    /// Calendar years along it.
    pub years: Vec<YearMark>,
    /// Renewals on paper.
    pub renewals: Vec<RenewalGlance>,
    /// Expected money along the plan, by equal bins.
    pub spend: Vec<f64>,
    /// Money to put right what is there now.
    pub spend_now: f64,
}

/// A renewal at a glance.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RenewalGlance {
    /// At what usage.
    pub usage: f64,
    /// Whether it counts as proved.
    pub proved: bool,
}

impl Summary {
    /// Draws the glance from the whole.
    #[must_use]
    pub fn new(c: &Candidate, families: &[Family], a: &Assessment) -> Self {
        // The base sheet goes without saying where a family is named.
        let base = |id: &str| families.iter().any(|f| f.id == id && f.kind.is_base());
        let alone = c.families.iter().all(|r| base(&r.id));
        let name = |id: &str| families.iter().find(|f| f.id == id).map_or_else(|| id.to_owned(), |f| f.name.clone());
        let mut renewals: Vec<RenewalGlance> = a
            .points
            .iter()
            .flat_map(|p| &p.renewals)
            .map(|r| RenewalGlance { usage: r.usage, proved: r.proved })
            .collect();
        renewals.sort_by(|x, y| x.usage.total_cmp(&y.usage));
        renewals.dedup_by(|x, y| x.usage.to_bits() == y.usage.to_bits());
        Self {
            title: c.title.clone(),
            families: c.families.iter().filter(|r| alone || !base(&r.id)).map(|r| name(&r.id)).collect(),
            usage: c.usage,
            built: c.built.year(),
            currency: c.currency.clone(),
            asking: a.value.asking,
            limit: a.value.limit,
            bill: a.bill.mean,
            verdict: a.verdict.kind,
            grade: a.grade,
            blockers: a.blockers.len(),
            ending: c.ending.clone(),
            needed: a.verdict.needed.len(),
            differs: differs(a),
            next: a.walk.next.and_then(|i| a.open_checks.get(i)).map(|n| NextGlance {
                name: n.name.clone(),
                minutes: n.minutes,
                pays: n.value_of_information > n.cost,
            }),
            checks_done: a.checks_done,
            checks_total: a.checks_total,
            strip: StripGlance {
                clock: a.clock,
                now: a.usage_now,
                horizon: a.horizon,
                years: a.years.clone(),
                renewals,
                spend: a.bill.spend.clone(),
                spend_now: a.bill.now,
            },
        }
    }
}
