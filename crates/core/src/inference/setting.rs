//! One candidate's path, plan and papers, and each point's condition and remaining life under them.

use crate::base::units::years_between;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::care_level::CareLevel;
use crate::documents::care_level::LEVELS;
use crate::documents::job::PartGrade;
use crate::documents::paper::LedgerEntry;
use crate::evidence::belief;
use crate::inference::applicable_point::Subject;
use crate::inference::evidence_mask::Counted;
use crate::inference::evidence_mask::PastUse;
use crate::reliability::care;
use crate::reliability::condition::History;
use crate::reliability::condition::Renewal;
use crate::reliability::condition::stand;
use crate::reliability::exposure;
use crate::reliability::mixture::Life;
use crate::reliability::mixture::PointLives;
use crate::reliability::plan_grid::BEYOND;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::plan_grid::Pace;
use crate::reliability::remaining_life::Zones;
use crate::reliability::remaining_life::remaining;
use crate::reliability::survival_grid::Parts;
use crate::reliability::survival_table::Curves;
use crate::reliability::survival_table::Cycle;
use crate::reliability::survival_table::PointCurves;
use crate::reliability::usage_path::PastPath;
use std::sync::Arc;

/// What is common to all points of one candidate.
#[derive(Debug)]
pub struct Setting<'a> {
    /// The candidate.
    pub candidate: &'a Candidate,
    /// The table used.
    pub assumptions: &'a Assumptions,
    /// The vehicle's path to now.
    pub path: PastPath,
    /// Usage to the end of the plan.
    pub horizon: f64,
    /// Usage a year in the plan.
    pub usage_a_year: f64,
    /// Chance that a repair left a paper.
    pub completeness: f64,
}

impl<'a> Setting<'a> {
    /// Sets the scene for a candidate that passed [`crate::sense`].
    #[must_use]
    pub fn new(candidate: &'a Candidate, assumptions: &'a Assumptions) -> Self {
        let usage_a_year = candidate.plan.usage_a_year.on_clock();
        Self {
            candidate,
            assumptions,
            path: PastPath::new(
                candidate.usage.on_clock(),
                years_between(candidate.built, candidate.as_of),
                &belief::path_readings(candidate),
            ),
            horizon: usage_a_year * candidate.plan.years,
            usage_a_year,
            completeness: belief::completeness(candidate, assumptions),
        }
    }

    /// Life factors of the past under a level of care, and of the plan under the buyer's.
    #[must_use]
    pub fn kappas(&self, subject: &Subject<'_>, counted: Counted, level: CareLevel) -> (f64, f64) {
        let a = self.assumptions;
        let uses = subject.use_factors;
        let past = match counted.past_use {
            PastUse::None => 1.0,
            PastUse::Stated => uses.past,
            PastUse::AsPlan => uses.plan,
        };
        let plan = if counted.plan_use { uses.plan } else { 1.0 };
        let kept = |level| care::factor(subject.point, level, a);
        (exposure::kappa(kept(level) * past, a), exposure::kappa(kept(self.candidate.plan.care) * plan, a))
    }

    /// Whether two kinds of evidence come to the same for this point under every level of care,
    /// findings aside.
    #[must_use]
    pub fn alike(&self, subject: &Subject<'_>, x: Counted, y: Counted) -> bool {
        let silent = subject.entries.is_empty() && self.completeness <= self.assumptions.completeness_least;
        (x.papers == y.papers || silent)
            && LEVELS.iter().all(|&l| self.kappas(subject, x, l) == self.kappas(subject, y, l))
    }

    /// The tables that every view of the point reads: as far as the plan reaches under the shortest life.
    #[must_use]
    pub fn curves<'l>(&self, subject: &Subject<'_>, lives: &'l PointLives) -> PointCurves<'l> {
        let a = self.assumptions;
        let grades = [PartGrade::Original, PartGrade::Unknown]
            .into_iter()
            .chain(subject.entries.iter().map(|e| e.grade))
            .map(|g| a.grade(g));
        let grade = grades.fold(f64::INFINITY, f64::min);
        let reach = self.horizon * (1.0 + BEYOND);
        let views = [Counted::ALL, Counted::SURVIVED, Counted::REFERENCE];
        let (mut usage, mut age) = (0.0f64, 0.0f64);
        for (counted, level) in views.into_iter().flat_map(|c| LEVELS.map(|l| (c, l))) {
            let (past, plan) = self.kappas(subject, counted, level);
            let ahead = reach * past / plan;
            usage = usage.max((self.path.usage_now() + ahead) / past);
            age = age.max((self.path.age_now() + ahead / self.usage_a_year) / past);
        }
        let margin = 1.001 / grade;
        PointCurves::new(&lives.first, &lives.revised, usage * margin, age * margin)
    }

    /// The part fitted at the works: its curves and susceptible share.
    fn first_part<'c>(
        &self,
        subject: &Subject<'_>,
        lives: &PointLives,
        curves: &'c PointCurves<'c>,
    ) -> (&'c Curves<'c>, f64) {
        if subject.built_revised { (curves.revised(), lives.revised_share) } else { (&curves.first, lives.share) }
    }

    /// Where the point stands under the evidence counted and each level of care: its zones on a grid,
    /// before findings, and the failures of past cells at ordinary care (empty unless `trace`).
    #[must_use]
    pub fn worlds<'c>(
        &self,
        view: &View<'_, 'c>,
        parts: &mut Parts<'c>,
        grid: &Arc<FutureGrid>,
        counted: Counted,
        trace: bool,
    ) -> ([Zones; 3], Vec<f64>) {
        let kappas = LEVELS.map(|level| self.kappas(view.subject, counted, level));
        // Where care changes nothing but the owners' patience, one history serves for all levels.
        let [poor, mut ordinary, good] = if kappas.iter().all(|k| *k == kappas[0]) {
            self.zones(view, parts, grid, counted, kappas[0], LEVELS, trace)
        } else {
            std::array::from_fn(|l| {
                let trace = trace && LEVELS[l] == CareLevel::Ordinary;
                let [one] = self.zones(view, parts, grid, counted, kappas[l], [LEVELS[l]], trace);
                one
            })
        };
        let past = std::mem::take(&mut ordinary.0);
        ([poor.1, ordinary.1, good.1], past)
    }

    /// Where the point stands now under the evidence counted and life factors of past and plan, once for
    /// each level of care that has these factors: the failures of past cells, and the zones.
    #[allow(clippy::too_many_arguments)]
    fn zones<'c, const N: usize>(
        &self,
        view: &View<'_, 'c>,
        parts: &mut Parts<'c>,
        grid: &Arc<FutureGrid>,
        counted: Counted,
        (past, plan): (f64, f64),
        levels: [CareLevel; N],
        trace: bool,
    ) -> [(Vec<f64>, Zones); N] {
        let a = self.assumptions;
        let View { subject, lives, curves } = *view;
        let point = subject.point;
        let pace = Pace { usage_a_year: self.usage_a_year, stretch: past / plan };
        let (built, share) = self.first_part(subject, lives, curves);
        let unrecorded = parts.get(
            &self.path,
            Cycle { curves: built, kappa: past * a.grade_unknown },
            grid.reach() * pace.stretch,
            self.usage_a_year,
        );
        let renewal = |e: &&LedgerEntry| Renewal {
            edge: self.path.edge(e.usage.on_clock()),
            credibility: a.credibility(e.evidence),
            cycle: Cycle {
                curves: if e.revised || subject.built_revised { curves.revised() } else { &curves.first },
                kappa: past * a.grade(e.grade),
            },
            still_susceptible: if e.revised && !subject.built_revised && lives.share > 0.0 {
                (lives.revised_share / lives.share).min(1.0)
            } else {
                1.0
            },
        };
        let history = History {
            share: share * subject.fit.share,
            build: Cycle { curves: built, kappa: past },
            renewals: if counted.papers { subject.entries.iter().map(renewal).collect() } else { Vec::new() },
            unrecorded,
            survivable: point.survivable.get(),
            completeness: if counted.papers { self.completeness } else { a.completeness_least },
            trace,
        };
        let tolerated = levels.map(|level| point.tolerated * care::patience(level, a));
        let mut standings = stand(&self.path, &history, &tolerated).into_iter();
        std::array::from_fn(|_| match standings.next() {
            Some(s) => {
                let zones = remaining(&s, &self.path, unrecorded, Arc::clone(grid), pace);
                (s.past, zones)
            }
            None => (Vec::new(), Zones::empty(Arc::clone(grid))),
        })
    }

    /// Chance by the end of the plan as seen from new: nothing known but the family.
    #[must_use]
    pub fn at_build(&self, subject: &Subject<'_>, lives: &PointLives) -> f64 {
        let usage = self.path.usage_now() + self.horizon;
        let age = self.path.age_now() + self.candidate.plan.years;
        let (life, share): (&Life, f64) =
            if subject.built_revised { (&lives.revised, lives.revised_share) } else { (&lives.first, lives.share) };
        share * subject.fit.share * (1.0 - life.alive(usage, age, 1.0))
    }
}

/// A point with the lives and tables it is seen through.
#[derive(Debug, Clone, Copy)]
pub struct View<'s, 'c> {
    /// The point.
    pub subject: &'s Subject<'s>,
    /// Its lives under the schools heard.
    pub lives: &'c PointLives,
    /// Their tables.
    pub curves: &'c PointCurves<'c>,
}
