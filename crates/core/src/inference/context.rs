//! The context of a question: what every question about a candidate begins with.

use crate::base::budget::{Budget, Overrun};
use crate::base::fault::Fault;
use crate::base::weibull::CurveError;
use crate::documents::applicability::named;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Check;
use crate::documents::composed::composed;
use crate::documents::family::Family;
use crate::documents::pricing;
use crate::documents::quoting;
use crate::documents::spelled;
use crate::documents::supplied::supplied;
use crate::evidence::care_index::{self, CareIndex};
use crate::evidence::odometer_result::Odometer;
use crate::evidence::settled;
use crate::inference::applicable_point::{self, ApplicablePoint};
use crate::inference::check_effect::Answer;
use crate::inference::leak_from_words::fill_leaks;
use crate::inference::setting::{Setting, View};
use crate::reliability::care::{self, Weights};
use crate::reliability::mixture::SourceSelection;
use crate::reliability::survival_table::PointCurves;
use crate::validation::candidate;

/// What is common to the questions asked of a whole candidate.
pub(crate) struct Context<'a> {
    /// The sheets that the candidate names, in its order.
    pub families: &'a [Family],
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

/// Prepares the context of a question and asks it, within a budget of steps.
pub(crate) fn with_context<T>(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    budget: &Budget<'_>,
    ask: impl FnOnce(&Context<'_>) -> Result<T, AssessError>,
) -> Result<T, AssessError> {
    prepared(candidate, families, a, budget, true, ask)
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
    prepared(candidate, families, a, budget, !candidate.findings.is_empty(), ask)
}

fn prepared<T>(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    budget: &Budget<'_>,
    leaks: bool,
    ask: impl FnOnce(&Context<'_>) -> Result<T, AssessError>,
) -> Result<T, AssessError> {
    let faults = candidate::candidate_faults(candidate, families);
    if !faults.is_empty() {
        return Err(AssessError::Faults(faults));
    }
    // Base sheets count their money in hours of the table's independent workshop, whatever this buyer's costs.
    let ready = |f: Family| supplied(pricing::priced(spelled::as_built(f, candidate), a), candidate, a);
    let used: Vec<Family> = named(candidate, families).into_iter().cloned().map(ready).collect();
    let used = composed(used, candidate, a).into_iter();
    let mut used: Vec<Family> = used.map(|f| quoting::with_quotes(f, candidate)).collect();
    let a = &a.for_trust(candidate.buyer.paper_trust).for_rates(&candidate.buyer.rates);
    let (candidate, odometer) = &settled::settled(candidate, &used, a);
    let setting = Setting::new(candidate, a, budget);
    if leaks {
        fill_leaks(&mut used, &setting)?;
    }
    let applicable_points = applicable_point::applicable_points(candidate, &used, a);
    let answers = answers(candidate, &used, &applicable_points);
    let lives = applicable_point::lives(&applicable_points, SourceSelection::of(&candidate.buyer.sources), a)?;
    let curves: Vec<PointCurves<'_>> =
        applicable_points.iter().zip(&lives).map(|(s, l)| setting.curves(s, l)).collect();
    let views: Vec<View<'_, '_>> = applicable_points
        .iter()
        .zip(&lives)
        .zip(&curves)
        .map(|((applicable_point, lives), curves)| View { applicable_point, lives, curves })
        .collect();
    let index = care_index::index(candidate, &used, &setting.path, a);
    let prior = care::weights(index.index);
    let answer = ask(&Context {
        families: &used,
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
