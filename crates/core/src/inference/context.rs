//! The context of a question: what every question about a candidate begins with.

use crate::base::budget::{Budget, Overrun};
use crate::base::fault::Fault;
use crate::base::memory::Key;
use crate::base::weibull::CurveError;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Check;
use crate::documents::family::Family;
use crate::documents::sheets::Given;
use crate::evidence::care_index::{self, CareIndex};
use crate::evidence::odometer_result::Odometer;
use crate::evidence::settled;
use crate::inference::applicable_point::{self, ApplicablePoint};
use crate::inference::check_effect::Answer;
use crate::inference::made_ready::{MadeReady, Wanted, made_ready};
use crate::inference::setting::{Setting, View};
use crate::reliability::care::{self, Weights};
use crate::reliability::survival_table::PointCurves;
use crate::validation::candidate;

/// What is common to the questions asked of a whole candidate.
pub(crate) struct Context<'a> {
    /// The sheets that the candidate names, in its order.
    pub families: &'a [Family],
    /// A key of all that they and the candidate are without what is found and what is asked for it; none where nothing
    /// marks the sheets.
    pub sheets: Option<Key>,
    pub setting: &'a Setting<'a>,
    pub applicable_points: &'a [ApplicablePoint<'a>],
    pub views: &'a [View<'a, 'a>],
    pub answers: &'a [Answer<'a>],
    /// What the readings say.
    pub odometer: &'a Odometer,
    /// The care index, and the weights of the levels that it gives.
    pub index: CareIndex,
    pub prior: Weights,
}

impl Context<'_> {
    /// The same through another setting of the candidate: that of a piece of the work.
    pub fn with<'b>(&'b self, setting: &'b Setting<'b>) -> Context<'b> {
        Context { setting, index: self.index.clone(), ..*self }
    }
}

/// Prepares the context of a question and asks it, within a budget of steps.
pub(crate) fn with_context<'f, T>(
    candidate: &Candidate,
    families: impl Into<Given<'f>>,
    a: &Assumptions,
    budget: &Budget<'_>,
    ask: impl FnOnce(&Context<'_>) -> Result<T, AssessError>,
) -> Result<T, AssessError> {
    prepared(candidate, families.into(), a, budget, Wanted { leaks: true, keep: false }, ask)
}

/// [`with_context`] for a candidate of which more will be asked: its sheets stay ready.
pub(crate) fn with_lasting_context<T>(
    candidate: &Candidate,
    families: Given<'_>,
    a: &Assumptions,
    budget: &Budget<'_>,
    ask: impl FnOnce(&Context<'_>) -> Result<T, AssessError>,
) -> Result<T, AssessError> {
    prepared(candidate, families, a, budget, Wanted { leaks: true, keep: true }, ask)
}

/// [`with_context`] for a question that looks at no check that was not done: what a word means on a check is worked
/// out where something was found.
pub(crate) fn with_bare_context<T>(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    budget: &Budget<'_>,
    ask: impl FnOnce(&Context<'_>) -> Result<T, AssessError>,
) -> Result<T, AssessError> {
    let wanted = Wanted { leaks: !candidate.findings.is_empty(), keep: false };
    prepared(candidate, families.into(), a, budget, wanted, ask)
}

fn prepared<T>(
    candidate: &Candidate,
    families: Given<'_>,
    a: &Assumptions,
    budget: &Budget<'_>,
    wanted: Wanted,
    ask: impl FnOnce(&Context<'_>) -> Result<T, AssessError>,
) -> Result<T, AssessError> {
    let faults = candidate::candidate_faults(candidate, families.families);
    if !faults.is_empty() {
        return Err(AssessError::Faults(faults));
    }
    let ready = made_ready(candidate, families, a, budget, wanted)?;
    let MadeReady { families: used, lives, key } = &*ready;
    let a = &a.for_trust(candidate.buyer.paper_trust).for_rates(&candidate.buyer.rates);
    let (candidate, odometer) = &settled::settled(candidate, used, a);
    let setting = Setting::new(candidate, a, budget);
    let applicable_points = applicable_point::applicable_points(candidate, used, a);
    let answers = answers(candidate, used, &applicable_points);
    let curves: Vec<PointCurves<'_>> = applicable_points.iter().zip(lives).map(|(s, l)| setting.curves(s, l)).collect();
    let views: Vec<View<'_, '_>> = applicable_points
        .iter()
        .zip(lives)
        .zip(&curves)
        .map(|((applicable_point, lives), curves)| View { applicable_point, lives, curves })
        .collect();
    let index = care_index::index(candidate, used, &setting.path, a);
    let prior = care::weights(index.index);
    let answer = ask(&Context {
        families: used,
        sheets: *key,
        setting: &setting,
        applicable_points: &applicable_points,
        views: &views,
        answers: &answers,
        odometer,
        index,
        prior,
    });
    // What was left out for want of steps is never shown.
    budget.check()?;
    answer
}

/// Why a candidate could not be assessed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum AssessError {
    /// The candidate does not make sense with these families; every fault with its path.
    #[error("{} fault(s) in the candidate", .0.len())]
    Faults(Vec<Fault>),
    /// A claim that makes no curve: the sheet was not checked before.
    #[error("a claim makes no curve: {0}")]
    Curve(#[from] CurveError),
    /// It would take too much work, or whoever asked has gone.
    #[error(transparent)]
    Overrun(#[from] Overrun),
}

/// The outcomes that hold, as answers.
pub(crate) fn answers<'a>(
    candidate: &'a Candidate,
    families: &'a [Family],
    applicable_points: &[ApplicablePoint<'_>],
) -> Vec<Answer<'a>> {
    families
        .iter()
        .flat_map(|family| family.checks.iter().map(move |check| (family, check)))
        .filter_map(|(family, check)| {
            Some(Answer {
                check,
                outcome: candidate.outcome_of(family, check)?,
                links: links(check, family, applicable_points),
                key: format!("{}/{}", family.id, check.id),
            })
        })
        .collect()
}

/// The check's links to points that concern the candidate: `(point, link)`.
pub(crate) fn links(check: &Check, family: &Family, applicable_points: &[ApplicablePoint<'_>]) -> Vec<(usize, usize)> {
    check
        .links
        .iter()
        .enumerate()
        .filter_map(|(l, link)| {
            let s = applicable_points.iter().position(|s| s.family.id == family.id && s.point.id == link.point)?;
            Some((s, l))
        })
        .collect()
}
