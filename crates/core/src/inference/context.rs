//! The context of a question: what every question about a candidate begins with.

use crate::base::fault::Fault;
use crate::base::weibull::CurveError;
use crate::documents::applicability::named;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Check;
use crate::documents::family::Family;
use crate::documents::pricing;
use crate::evidence::care_index;
use crate::evidence::care_index::CareIndex;
use crate::evidence::odometer_result::Odometer;
use crate::evidence::settled;
use crate::inference::applicable_point;
use crate::inference::applicable_point::Subject;
use crate::inference::care_scenarios::Worlds;
use crate::inference::check_effect::Answer;
use crate::inference::evidence_mask::Counted;
use crate::inference::setting::Setting;
use crate::inference::setting::View;
use crate::reliability::care;
use crate::reliability::care::Weights;
use crate::reliability::mixture::Heard;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::Zones;
use crate::reliability::survival_grid::Parts;
use crate::reliability::survival_table::PointCurves;
use crate::validation::candidate;

/// What is common to the questions asked of a whole candidate.
pub(crate) struct Scene<'a> {
    /// The sheets that the candidate names, in its order.
    pub families: &'a [Family],
    pub setting: &'a Setting<'a>,
    pub subjects: &'a [Subject<'a>],
    pub views: &'a [View<'a, 'a>],
    pub answers: &'a [Answer<'a>],
    /// What the readings say.
    pub odometer: &'a Odometer,
    /// The care index, and the weights of the levels that it gives.
    pub index: CareIndex,
    pub prior: Weights,
}

impl Scene<'_> {
    /// Worlds before findings, one point on the full grid if asked, the others on the least.
    pub fn before(&self, full: Option<usize>) -> Worlds {
        let zones: Vec<[Zones; 3]> = self
            .views
            .iter()
            .enumerate()
            .map(|(i, view)| {
                let grid = if full == Some(i) { FutureGrid::full } else { FutureGrid::coarse };
                let grid = grid(self.setting.horizon, &view.subject.leads);
                self.setting.worlds(view, &mut Parts::default(), &grid, Counted::ALL, false).0
            })
            .collect();
        Worlds::before(&zones, self.prior)
    }
}

/// Sets the scene for a question.
pub(crate) fn with_scene<T>(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    ask: impl FnOnce(&Scene<'_>) -> Result<T, AssessError>,
) -> Result<T, AssessError> {
    let faults = candidate::candidate(candidate, families);
    if !faults.is_empty() {
        return Err(AssessError::Faults(faults));
    }
    // Base sheets count their money in hours of the table's independent workshop, whatever this buyer's costs.
    let used: Vec<Family> = named(candidate, families).into_iter().cloned().map(|f| pricing::priced(f, a)).collect();
    let a = &a.for_papers(candidate.buyer.papers).for_rates(&candidate.buyer.rates);
    let (candidate, odometer) = &settled::settled(candidate, &used, a);
    let setting = Setting::new(candidate, a);
    let subjects = applicable_point::subjects(candidate, &used, a);
    let answers = answers(candidate, &used, &subjects);
    let lives = applicable_point::lives(&subjects, Heard::of(&candidate.buyer.schools), a)?;
    let curves: Vec<PointCurves<'_>> = subjects.iter().zip(&lives).map(|(s, l)| setting.curves(s, l)).collect();
    let views: Vec<View<'_, '_>> = subjects
        .iter()
        .zip(&lives)
        .zip(&curves)
        .map(|((subject, lives), curves)| View { subject, lives, curves })
        .collect();
    let index = care_index::index(candidate, &used, &setting.path, a);
    let prior = care::weights(index.index);
    ask(&Scene {
        families: &used,
        setting: &setting,
        subjects: &subjects,
        views: &views,
        answers: &answers,
        odometer,
        index,
        prior,
    })
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
}

/// The outcomes that hold, as answers.
pub(crate) fn answers<'a>(
    candidate: &'a Candidate,
    families: &'a [Family],
    subjects: &[Subject<'_>],
) -> Vec<Answer<'a>> {
    families
        .iter()
        .flat_map(|family| family.checks.iter().map(move |check| (family, check)))
        .filter_map(|(family, check)| {
            Some(Answer {
                check,
                outcome: candidate.outcome_of(family, check)?,
                links: links(check, family, subjects),
                key: format!("{}/{}", family.id, check.id),
            })
        })
        .collect()
}

/// The check's links to points that concern the candidate: `(subject, link)`.
pub(crate) fn links(check: &Check, family: &Family, subjects: &[Subject<'_>]) -> Vec<(usize, usize)> {
    check
        .links
        .iter()
        .enumerate()
        .filter_map(|(l, link)| {
            let s = subjects.iter().position(|s| s.family.id == family.id && s.point.id == link.point)?;
            Some((s, l))
        })
        .collect()
}
