//! What is told of one failure point.
//!
//! docs/METHOD.md, section 6.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::grade::{Grade, Graded};
use crate::documents::assumptions::Assumptions;
use crate::documents::check::Check;
use crate::documents::failure_point::System;
use crate::documents::job::PartGrade;
use crate::documents::paper::{Evidence, LedgerEntry};
use crate::documents::quote::Quoted;
use crate::documents::quoting;
use crate::documents::reference::PointRef;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::mixed_chance;
use crate::inference::depth::Depth;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::following::fits_revised;
use crate::inference::setting::{Setting, View};
use crate::inference::source_views::SourceChance;
use crate::inference::strip::{Trouble, trouble};
use crate::money::job_cost::JobCost;
use crate::money::point_cost::{PointCost, TakenAlong};
use crate::money::ways::Way;
use crate::reliability::care::Weights;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::RemainingLife;
use crate::reliability::survival_grid::PreparedParts;

/// Chance within the plan after a kind of evidence.
pub(crate) fn after(p: &PointResult, kind: WhyKind) -> f64 {
    p.why.iter().find(|w| w.kind == kind).map_or(p.p_plan, |w| w.chance)
}

/// What the result of one point is made from.
pub(crate) struct PointInputs<'a, 'c> {
    pub(crate) setting: &'a Setting<'a>,
    pub(crate) view: View<'a, 'c>,
    pub(crate) past: &'a [f64],
    pub(crate) remaining: &'a RemainingLife,
    pub(crate) money: &'a PointCost,
    pub(crate) expected: f64,
    /// Chance within the plan by everything but findings.
    pub(crate) papers: f64,
    /// Chance within the plan without what other faults wear, where some do.
    pub(crate) found: Option<f64>,
    /// Chance within the plan of the reference example.
    pub(crate) reference: f64,
    /// Chance within the plan of this one, were the care usual: for steps that come to the same.
    pub(crate) survived_alike: f64,
    pub(crate) usual: &'a Weights,
    pub(crate) failures: &'a [f64],
    pub(crate) sources: &'a [SourceChance],
    pub(crate) value: f64,
}

impl<'c> PointInputs<'_, 'c> {
    /// The waterfall. A step that comes to the same as one already computed is not computed again.
    /// Care is taken as usual until the papers speak.
    pub(crate) fn why(&self, parts: &mut PreparedParts<'c>, depth: Depth) -> Vec<WhyStep> {
        let (setting, s) = (self.setting, self.view.applicable_point);
        let grid = FutureGrid::coarse(setting.horizon, &[]);
        let mut chance = |mask: EvidenceMask| {
            if setting.alike(s, mask, EvidenceMask::ALL) {
                self.survived_alike
            } else if setting.alike(s, mask, EvidenceMask::REFERENCE) {
                self.reference
            } else {
                mixed_chance(&setting.scenarios(&self.view, parts, &grid, mask, false).0, self.usual)
            }
        };
        let step = |kind, chance| WhyStep { kind, chance };
        let mut steps = vec![step(WhyKind::AtBuild, setting.at_build(s, self.view.lives))];
        if depth != Depth::Lean {
            let survived = chance(EvidenceMask::SURVIVED);
            let same = setting.alike(s, EvidenceMask::USE, EvidenceMask::SURVIVED);
            steps.push(step(WhyKind::Survived, survived));
            steps.push(step(WhyKind::Use, if same { survived } else { chance(EvidenceMask::USE) }));
        }
        steps.push(step(WhyKind::Papers, self.papers));
        let now = self.remaining.by_horizon();
        let found = self.found.unwrap_or(now);
        // What nobody would see is no step.
        let worn = (now - found).abs() >= setting.assumptions.moved_least;
        steps.push(step(WhyKind::Findings, if worn { found } else { now }));
        if worn {
            steps.push(step(WhyKind::WornBy, now));
        }
        steps
    }
}

pub(crate) fn point_result(inputs: &PointInputs<'_, '_>, why: Vec<WhyStep>) -> PointResult {
    let PointInputs { setting, view, past, remaining, money, sources, .. } = *inputs;
    let (s, lives) = (view.applicable_point, view.lives);
    let (p, a, candidate) = (s.point, setting.assumptions, setting.candidate);
    let p_plan = remaining.by_horizon();
    let Graded { severity, likelihood, hurts, grade } =
        Graded::of(p.can_hurt, [remaining.present, p_plan], money.caught, [money.worst, inputs.value], a);
    let linked = |c: &&Check| c.links.iter().any(|l| l.point == p.id);
    let (seen, unseen) = s
        .family
        .checks
        .iter()
        .filter(linked)
        .filter(|c| crate::documents::applicability::fit(&c.applies, s.family, candidate, a).is_some())
        .partition::<Vec<&Check>, _>(|c| candidate.outcome_of(s.family, c).is_some());
    let ids = |checks: Vec<&Check>| checks.into_iter().map(|c| c.id.clone()).collect();
    let needs = |q: f64| remaining.quantile(q).map(|y| setting.path.usage_now() + y);
    PointResult {
        at: PointRef { family: s.family.id.clone(), point: p.id.clone() },
        name: p.name.clone(),
        system: p.system,
        shows: p.shows.clone(),
        ends_engine: p.ends_engine,
        can_hurt: p.can_hurt,
        identify: s.fit.identify.clone(),
        share: if s.built_revised { lives.revised_share } else { lives.share } * s.fit.share,
        p_now: remaining.present,
        p_plan,
        needs_at: NeedsAt { p10: needs(0.1), p50: needs(0.5), p90: needs(0.9) },
        repairs: remaining.present + inputs.failures.iter().sum::<f64>(),
        job: s.family.job(&money.job_id).map_or_else(String::new, |j| j.name.clone()),
        job_id: money.job_id.clone(),
        ways: money.ways.clone(),
        along: money.along.clone(),
        done_already: already_done(s, money),
        stages: stages(s, money),
        paid_for: paid_for(setting, s, money),
        disputed: disputed(s),
        cost: money.job,
        quoted: quoting::quoted(candidate, &s.family.id, &money.job_id),
        worst_cost: money.worst,
        failure_cost: money.failure,
        expected_cost: inputs.expected,
        severity,
        likelihood,
        grade,
        hurts,
        trouble: trouble(past, remaining),
        revised: s.built_revised,
        renewals: s.entries.iter().map(|e| RenewalMark::of(e, s, a)).collect(),
        why,
        sources: sources.to_vec(),
        seen: ids(seen),
        unseen: ids(unseen),
        sign: p.warning.as_ref().map(|w| w.sign.clone()),
    }
}

/// The damage that a fault found there may have done already.
fn already_done(s: &ApplicablePoint<'_>, money: &PointCost) -> Option<DoneAlready> {
    let e = s.point.already_done.as_ref()?;
    // With stages it is told with them.
    let (chance, cost) = *money.done.first().filter(|_| s.point.stages.is_empty())?;
    let job = s.family.job(&e.job).map_or_else(String::new, |j| j.name.clone());
    Some(DoneAlready { job, chance, cost })
}

/// The stages of a fault that grows, each with its chance and what it costs.
fn stages(s: &ApplicablePoint<'_>, money: &PointCost) -> Vec<StageNow> {
    let of = s.point.stages.iter().zip(&money.stages);
    of.map(|(stage, (chance, cost))| StageNow {
        name: stage.name.clone(),
        tolerable: stage.tolerable,
        chance: *chance,
        cost: *cost,
    })
    .collect()
}

/// A stage of a fault that grows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StageNow {
    /// How one tells it.
    pub name: String,
    /// Usage for which it stays so.
    pub tolerable: f64,
    /// Chance that it is in this stage, where it is there.
    pub chance: f64,
    /// What putting it right costs then.
    pub cost: f64,
}

/// Who pays for the job, where somebody does.
fn paid_for(setting: &Setting<'_>, s: &ApplicablePoint<'_>, money: &PointCost) -> Option<Paid> {
    let (x, (until, accepted)) = (s.point.paid_for.as_ref()?, money.covered?);
    let whole = until >= 1.0;
    let until = setting.path.usage_now() + until * setting.horizon;
    Some(Paid { by: x.by.clone(), until, whole, accepted, proof: x.proof.clone() })
}

/// Somebody else who pays for a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Paid {
    /// Who.
    pub by: String,
    /// Up to which usage on the candidate's clock, along the plan.
    pub until: f64,
    /// Whether that is the whole plan, or more.
    pub whole: bool,
    /// Chance that they do.
    pub accepted: f64,
    /// What must be shown.
    pub proof: String,
}

/// What the sources say of the cause, where they disagree.
fn disputed(s: &ApplicablePoint<'_>) -> Vec<SourceSays> {
    let name =
        |id: &str| s.family.sources.iter().find(|x| x.id == id).map_or_else(|| id.to_owned(), |x| x.name.clone());
    s.point.disputed.iter().map(|d| SourceSays { name: name(&d.source), says: d.says.clone() }).collect()
}

/// Damage that a fault which is found there may have done already.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct DoneAlready {
    /// The job that it takes.
    pub job: String,
    /// Chance that it has.
    pub chance: f64,
    /// What that job costs.
    pub cost: f64,
}

/// What a source says of a cause.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct SourceSays {
    /// The source's name.
    pub name: String,
    /// What it says.
    pub says: String,
}

/// One failure point on this candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointResult {
    /// Which.
    pub at: PointRef,
    /// Name.
    pub name: String,
    /// System.
    pub system: System,
    /// How it shows.
    pub shows: String,
    /// Whether it can end the engine.
    pub ends_engine: bool,
    /// Whether it can hurt someone.
    pub can_hurt: bool,
    /// Facts that would settle whether it concerns this variant.
    pub identify: Vec<String>,
    /// Whether the works fitted the revised part.
    pub revised: bool,
    /// Susceptible share used (π), unknown facts counted.
    pub share: f64,
    /// Chance that it is there now.
    pub p_now: f64,
    /// Chance that it is there now or comes within the plan.
    pub p_plan: f64,
    /// Usage at which it needs doing, given that it ever does.
    pub needs_at: NeedsAt,
    /// Expected number of repairs within the plan.
    pub repairs: f64,
    /// The job that puts it right.
    pub job: String,
    /// What that job costs alone.
    pub cost: JobCost,
    /// The workshop's quote that it goes by; none where it is the sheet's estimate.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub quoted: Option<Quoted>,
    /// The job's id in its sheet.
    pub job_id: String,
    /// The ways of putting it right, those done first; empty where the sheet names but one.
    pub ways: Vec<Way>,
    /// What it may turn into or take along where nobody catches it in time.
    pub along: Vec<TakenAlong>,
    /// The damage that it may have done already where it is there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub done_already: Option<DoneAlready>,
    /// Its stages, where the fault grows.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub stages: Vec<StageNow>,
    /// Somebody else who pays for the job, and until when.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub paid_for: Option<Paid>,
    /// What the sources say causes it, where they disagree.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub disputed: Vec<SourceSays>,
    /// Cost at the worst branch.
    pub worst_cost: f64,
    /// Expected cost of a failure: the job, and what comes of not having caught it.
    pub failure_cost: f64,
    /// Expected money within the plan.
    pub expected_cost: f64,
    /// Severity, 0 to 3.
    pub severity: usize,
    /// Likelihood, 0 to 3.
    pub likelihood: usize,
    /// Grade.
    pub grade: Grade,
    /// Where it can hurt someone: the chance that it is there, or comes within the plan without warning.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hurts: Option<f64>,
    /// Where its trouble lies along the strip.
    pub trouble: Trouble,
    /// Renewals on paper.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub renewals: Vec<RenewalMark>,
    /// From the family to this vehicle, one kind of evidence at a time.
    pub why: Vec<WhyStep>,
    /// The chance within the plan under each source that speaks of it.
    pub sources: Vec<SourceChance>,
    /// Checks done that speak of it.
    pub seen: Vec<String>,
    /// Checks not done that speak of it.
    pub unseen: Vec<String>,
    /// What to watch for, where it gives warning.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sign: Option<String>,
}

/// Usage at which a point needs doing: absolute, on the candidate's clock. None: beyond what the
/// strip shows.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NeedsAt {
    /// One in ten sooner.
    pub p10: Option<f64>,
    /// As likely sooner as later.
    pub p50: Option<f64>,
    /// One in ten later.
    pub p90: Option<f64>,
}

/// A renewal on paper.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RenewalMark {
    /// At what usage.
    pub usage: f64,
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// What supports it.
    pub evidence: Evidence,
    /// How far it is believed.
    pub credibility: f64,
    /// Whether that is enough to count as proved.
    pub proved: bool,
    /// Grade of part.
    pub grade: PartGrade,
    /// Whether the revised part.
    pub revised: bool,
}

impl RenewalMark {
    fn of(e: &LedgerEntry, point: &ApplicablePoint<'_>, a: &Assumptions) -> Self {
        let credibility = a.credibility(e.evidence);
        Self {
            usage: e.usage.on_clock(),
            date: e.date,
            evidence: e.evidence,
            credibility,
            proved: credibility >= a.proved,
            grade: e.grade,
            revised: point.built_revised || fits_revised(point, e),
        }
    }
}

/// One step of the waterfall.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WhyStep {
    /// The evidence added.
    pub kind: WhyKind,
    /// Chance within the plan with it.
    pub chance: f64,
}

/// The kinds of evidence, in their order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WhyKind {
    /// The family at build: by the end of the plan, as seen from new.
    AtBuild,
    /// It has come to this usage and age.
    Survived,
    /// How it was used and will be.
    Use,
    /// What the papers prove.
    Papers,
    /// What was found.
    Findings,
    /// What other faults wear while they last.
    WornBy,
}
