//! What every question asked of a whole candidate begins with: its points, their lives and tables, and the
//! answers its findings gave.

use crate::assess::{AssessError, answers, named};
use crate::assumptions::Assumptions;
use crate::candidate::Candidate;
use crate::care::{self, CareIndex, Weights};
use crate::claims::Heard;
use crate::family::Family;
use crate::findings::Answer;
use crate::future::{FutureGrid, Zones};
use crate::jobs;
use crate::lattice::{Parts, PointCurves};
use crate::odometer::{self, Odometer};
use crate::sense;
use crate::subject::{self, Counted, Setting, Subject, View};
use crate::worlds::Worlds;

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
    let faults = sense::candidate(candidate, families);
    if !faults.is_empty() {
        return Err(AssessError::Faults(faults));
    }
    // Base sheets count their money in hours of the table's independent workshop, whatever this buyer's costs.
    let used: Vec<Family> = named(candidate, families).into_iter().cloned().map(|f| jobs::priced(f, a)).collect();
    let a = &a.for_papers(candidate.buyer.papers).for_rates(&candidate.buyer.rates);
    let (candidate, odometer) = &odometer::settled(candidate, &used, a);
    let setting = Setting::new(candidate, a);
    let subjects = subject::subjects(candidate, &used, a);
    let answers = answers(candidate, &used, &subjects);
    let lives = subject::lives(&subjects, Heard::of(&candidate.buyer.schools), a)?;
    let curves: Vec<PointCurves<'_>> = subjects.iter().zip(&lives).map(|(s, l)| setting.curves(s, l)).collect();
    let views: Vec<View<'_, '_>> = subjects
        .iter()
        .zip(&lives)
        .zip(&curves)
        .map(|((subject, lives), curves)| View { subject, lives, curves })
        .collect();
    let index = care::index(candidate, &used, &setting.path, a);
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
