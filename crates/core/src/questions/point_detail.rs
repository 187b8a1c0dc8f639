//! One failure point in detail: each source's claims as curves, the pooled curve, and what this vehicle's
//! evidence makes of them.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::budget::Budget;
use crate::base::fault::Fault;
use crate::base::units::Probability;
use crate::base::weibull::CurveError;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Buyer;
use crate::documents::candidate::Candidate;
use crate::documents::claim::{Citation, LifeClaim, LifeClock, LifeForm, Mechanism, ShareForm};
use crate::documents::claim_curve::curve;
use crate::documents::family::Family;
use crate::documents::reference::PointRef;
use crate::documents::sheets::Given;
use crate::inference::context::{AssessError, with_context};
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::islands;
use crate::inference::posterior::scenarios_before;
use crate::inference::setting::{Setting, View};
use crate::money::point_cost::{FirstDue, PointCost};
use crate::questions::origins::{FigureFrom, origins};
use crate::questions::sanity::typical_candidate;
use crate::reliability::mixture::{Life, PointLives, SourceSelection, susceptible};

/// Points of a curve.
pub const SAMPLES: usize = 96;

/// A point of a sheet as it is drawn for who edits it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct PointDrawn {
    /// Its claims as curves, by clock.
    pub clocks: Vec<ClockCurves>,
    /// What its signs come to.
    pub signs: Vec<SignOdds>,
}

/// What a sign of a point comes to in chances, on a typical example; 0 to 1.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SignOdds {
    /// The check.
    pub check: String,
    /// The outcome, or a worse one.
    pub outcome: usize,
    /// What it is called.
    pub label: String,
    /// Of those that have the fault now, the share that shows it.
    pub there: f64,
    /// Of those on which nothing linked to the check is amiss, the share that shows it all the same.
    pub otherwise: f64,
}

/// A failure point in detail.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointDetail {
    /// Which.
    pub at: PointRef,
    /// Name.
    pub name: String,
    /// How it shows.
    pub shows: String,
    /// Why it fails and what it takes with it.
    pub why: String,
    /// How to prevent it.
    pub prevention: String,
    /// How it comes to fail.
    pub mechanism: Mechanism,
    /// What the revised part is, where there is one.
    pub revision: Option<String>,
    /// Whether the works fitted the revised part to this one.
    pub revised: bool,
    /// What each source says of how many have it in them.
    pub shares: Vec<ShareSaid>,
    /// What each source says of when it comes, by clock.
    pub clocks: Vec<ClockCurves>,
    /// Where its figures come from.
    pub figures: Vec<FigureFrom>,
    /// This vehicle: chance that it has come by each usage ahead, all evidence weighed.
    pub ahead: Vec<ByUsage>,
    /// Chance within the plan at poor, ordinary and good care, findings weighed.
    #[schema(value_type = Vec<f64>, min_items = 3, max_items = 3)]
    pub by_care: [f64; 3],
}

/// A claim on the share.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ShareSaid {
    /// The source's name.
    pub source: String,
    /// What is said.
    pub says: ShareForm,
    /// The share it means.
    pub share: f64,
    /// Whether of the revised part.
    pub revised: bool,
    /// Weight among those heard; 0 where it is not listened to.
    pub weight: f64,
    /// Where it stands.
    pub stands: Option<Citation>,
}

/// Claims on one clock.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ClockCurves {
    /// The clock: usage on the candidate's clock, or years.
    pub clock: LifeClock,
    /// Where the candidate stands on it.
    pub now: f64,
    /// Where its plan ends.
    pub end: f64,
    /// Where the curves are given.
    pub x: Vec<f64>,
    /// Each claim.
    pub claims: Vec<ClaimCurve>,
    /// Those heard, pooled: share failed at each x, among the susceptible; as first built.
    pub pooled: Vec<f64>,
    /// The same of the revised part, where it has a life of its own.
    pub revised: Option<Vec<f64>>,
}

/// One claim as a curve.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ClaimCurve {
    /// The source's id.
    pub source: String,
    /// Its name.
    pub name: String,
    /// What is said.
    pub says: LifeForm,
    /// Whether of the revised part.
    pub revised: bool,
    /// Weight among those heard; 0 where it is not listened to.
    pub weight: f64,
    /// Where it stands.
    pub stands: Option<Citation>,
    /// Share failed at each x, among the susceptible.
    pub failed: Vec<f64>,
    /// Half have failed by here.
    pub median: f64,
}

/// A chance by a usage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ByUsage {
    /// Usage on the candidate's clock.
    pub usage: f64,
    /// Chance that it has come by then.
    pub chance: f64,
}

/// Lays a failure point open.
///
/// # Errors
/// As [`crate::assess()`]; a fault without a path when the point does not concern the candidate.
pub fn detail<'f>(
    candidate: &Candidate,
    families: impl Into<Given<'f>>,
    at: &PointRef,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<PointDetail, AssessError> {
    with_context(candidate, families, a, budget, |context| {
        let index = context.applicable_points.iter().position(|s| s.family.id == at.family && s.point.id == at.point);
        let Some(index) = index else {
            let message = format!("no failure point \"{}/{}\" concerns this candidate", at.family, at.point);
            return Err(AssessError::Faults(vec![Fault { path: String::new(), message }]));
        };
        let scenarios = islands::found(context, scenarios_before(context, Some(index)), context.answers);
        let (setting, view) = (context.setting, &context.views[index]);
        let (family, point) = (view.applicable_point.family, view.applicable_point.point);
        let heard = SourceSelection::of(&candidate.buyer.sources);
        let name = |id: &str| family.sources.iter().find(|s| s.id == id).map_or(id, |s| &s.name).to_owned();
        let revised_shares = point.revision.iter().flat_map(|r| &r.share).map(|c| (c, true));
        let shares = point.share.iter().map(|c| (c, false)).chain(revised_shares).map(|(c, revised)| ShareSaid {
            source: name(&c.source),
            says: c.says,
            share: susceptible(std::slice::from_ref(c), &family.sources, SourceSelection::All, a),
            revised,
            weight: c.weight * heard.weight(&c.source),
            stands: c.stands.clone(),
        });
        let money = PointCost::new(setting, view, 0.0, FirstDue::default(), EvidenceMask::ALL);
        let repair = (money.job_id.as_str(), money.job.mean);
        let mixed = scenarios.mixed(index);
        let mut chance = mixed.present;
        let mut ahead = vec![ByUsage { usage: setting.path.usage_now(), chance }];
        for (m, upper) in mixed.cells.iter().zip(&mixed.grid.edges()[1..]) {
            chance += m;
            ahead.push(ByUsage { usage: setting.path.usage_now() + upper, chance });
        }
        Ok(PointDetail {
            at: at.clone(),
            name: point.name.clone(),
            shows: point.shows.clone(),
            why: point.why.clone(),
            prevention: point.prevention.clone(),
            mechanism: point.mechanism,
            revision: point.revision.as_ref().map(|r| r.name.clone()),
            revised: view.applicable_point.built_revised,
            shares: shares.collect(),
            clocks: clocks(setting, view, &name, a)?,
            figures: origins(candidate, family, point, repair, a),
            ahead,
            by_care: std::array::from_fn(|l| scenarios.remaining[l][index].by_horizon()),
        })
    })
}

/// A point of a sheet by its claims alone, over a typical example's years: for one who edits the sheet. Empty where the
/// point does not concern a typical example.
///
/// # Errors
/// What makes no sense in the sheet, and too much work.
pub fn drawn(
    sheet: &Family,
    point: &str,
    (currency, today): (&str, Date),
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<PointDrawn, AssessError> {
    let candidate = typical_candidate(sheet, currency, &Buyer::default(), today, 1.0, a);
    with_context(&candidate, std::slice::from_ref(sheet), a, budget, |context| {
        let Some(index) = context.applicable_points.iter().position(|s| s.point.id == point) else {
            return Ok(PointDrawn::default());
        };
        let view = &context.views[index];
        let family = view.applicable_point.family;
        let name = |id: &str| family.sources.iter().find(|s| s.id == id).map_or(id, |s| &s.name).to_owned();
        Ok(PointDrawn { clocks: clocks(context.setting, view, &name, a)?, signs: signs(family, point) })
    })
}

/// What the signs of a point come to in chances.
fn signs(family: &Family, point: &str) -> Vec<SignOdds> {
    let reaches = |chances: &[Probability], outcome: usize| {
        chances.get(outcome..).map_or(0.0, |worse| worse.iter().map(|p| p.get()).sum())
    };
    let linked = family.checks.iter().filter_map(|c| Some((c, c.links.iter().find(|l| l.point == point)?)));
    linked
        .flat_map(|(c, l)| {
            let worse = c.outcomes.iter().enumerate().skip(1);
            worse.map(move |(outcome, o)| SignOdds {
                check: c.id.clone(),
                outcome,
                label: o.label.clone(),
                there: reaches(&l.present, outcome),
                otherwise: reaches(&c.leak, outcome),
            })
        })
        .collect()
}

/// Every claim as a curve, by clock.
fn clocks(
    setting: &Setting<'_>,
    view: &View<'_, '_>,
    name: &dyn Fn(&str) -> String,
    a: &Assumptions,
) -> Result<Vec<ClockCurves>, CurveError> {
    let point = view.applicable_point.point;
    let lives: &PointLives = view.lives;
    let heard = SourceSelection::of(&setting.candidate.buyer.sources);
    let revised = point.revision.iter().flat_map(|r| &r.life).map(|c| (c, true));
    let claims: Vec<(&LifeClaim, bool)> = point.life.iter().map(|c| (c, false)).chain(revised).collect();
    let has_revised = point.revision.as_ref().is_some_and(|r| !r.life.is_empty());
    [LifeClock::Usage, LifeClock::Age]
        .into_iter()
        .filter(|clock| claims.iter().any(|(c, _)| c.clock == *clock))
        .map(|clock| {
            let (now, end) = match clock {
                LifeClock::Usage => (setting.path.usage_now(), setting.path.usage_now() + setting.horizon),
                LifeClock::Age => (setting.path.age_now(), setting.path.age_now() + setting.candidate.plan.years),
            };
            let mine: Vec<&(&LifeClaim, bool)> = claims.iter().filter(|(c, _)| c.clock == clock).collect();
            let mut curves = Vec::with_capacity(mine.len());
            for (c, _) in &mine {
                curves.push(curve(&c.says, point.mechanism, a)?);
            }
            let typical = curves.iter().map(|w| w.quantile(0.8)).fold(0.0, f64::max);
            let x = samples((end * 1.1).max(typical.min(end * 2.5)));
            let of = |life: &Life| -> Vec<f64> {
                let pool = match clock {
                    LifeClock::Usage => &life.usage,
                    LifeClock::Age => &life.age,
                };
                x.iter().map(|x| 1.0 - pool.survival(*x)).collect()
            };
            Ok(ClockCurves {
                clock,
                now,
                end,
                pooled: of(&lives.first),
                revised: has_revised.then(|| of(&lives.revised)),
                claims: mine
                    .iter()
                    .zip(&curves)
                    .map(|((c, revised), w)| ClaimCurve {
                        source: c.source.clone(),
                        name: name(&c.source),
                        says: c.says.clone(),
                        revised: *revised,
                        weight: c.weight * heard.weight(&c.source),
                        stands: c.stands.clone(),
                        failed: x.iter().map(|x| w.cdf(*x)).collect(),
                        median: w.quantile(0.5),
                    })
                    .collect(),
                x,
            })
        })
        .collect()
}

#[allow(clippy::cast_precision_loss)]
fn samples(reach: f64) -> Vec<f64> {
    (0..SAMPLES).map(|i| reach * i as f64 / (SAMPLES - 1) as f64).collect()
}
