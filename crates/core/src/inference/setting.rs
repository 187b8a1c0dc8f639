//! One candidate's path, plan and papers, and each point's condition and remaining life under them.

use std::sync::Arc;

use jiff::civil::Date;

use crate::base::budget::Budget;
use crate::base::memory::KeyOf;
use crate::base::units::{day_after, years_between};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::care_level::{CareLevel, LEVELS};
use crate::documents::job::PartGrade;
use crate::evidence::belief;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::evidence_mask::{EvidenceMask, PastUse};
use crate::reliability::mixture::{Life, PointLives};
use crate::reliability::plan_grid::{BEYOND, FutureGrid};
use crate::reliability::survival_table::{PointCurves, stepwise};
use crate::reliability::usage_path::PastPath;
use crate::reliability::{care, exposure};

/// What is common to all points of one candidate.
#[derive(Debug, Clone)]
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
    /// What is left of the question's steps, and what earlier questions remember.
    pub budget: &'a Budget<'a>,
    /// What all points share of the key under which their past is remembered.
    pub(crate) past_key: KeyOf,
    /// The same of the key under which past and plan are.
    pub(crate) key: KeyOf,
}

impl<'a> Setting<'a> {
    /// Prepares a candidate that passed [`crate::validation`].
    #[must_use]
    pub fn new(candidate: &'a Candidate, assumptions: &'a Assumptions, budget: &'a Budget<'a>) -> Self {
        let usage_a_year = candidate.plan.usage_a_year.on_clock();
        let (usage, age) = (candidate.usage.on_clock(), years_between(candidate.built, candidate.as_of));
        let readings = belief::path_readings(candidate);
        let path = match budget.cells() {
            Some(cells) => PastPath::of_cells(cells, usage, age, &readings),
            None => PastPath::new(usage, age, &readings),
        };
        let horizon = usage_a_year * candidate.plan.years;
        let completeness = belief::completeness(candidate, assumptions);
        let mut past_key = KeyOf::kind("past");
        past_key.figures(&path.ages);
        past_key.figures(&[path.usage_now(), completeness]);
        past_key.add(&candidate.built);
        let mut key = past_key.clone();
        key.figures(&[horizon, usage_a_year]);
        Self { candidate, assumptions, path, horizon, usage_a_year, completeness, budget, past_key, key }
    }

    /// The same for a piece of the work, with what it may spend.
    pub(crate) fn for_piece<'b>(&'b self, budget: &'b Budget<'b>) -> Setting<'b> {
        Setting { budget, ..self.clone() }
    }

    /// Usage at an age: of the past or, at the plan's pace, ahead.
    #[must_use]
    pub fn usage_at(&self, age: f64) -> f64 {
        let now = self.path.age_now();
        if age <= now { self.path.usage_at(age) } else { self.path.usage_now() + (age - now) * self.usage_a_year }
    }

    /// The day at a usage: of the past or, at the plan's pace, ahead.
    #[must_use]
    pub fn day_at(&self, usage: f64) -> Date {
        let (now, path) = (self.path.usage_now(), &self.path);
        let age = if usage <= now { path.age_at(usage) } else { path.age_now() + (usage - now) / self.usage_a_year };
        day_after(self.candidate.built, age)
    }

    /// Life factors of the past under a level of care, and of the plan under the buyer's.
    #[must_use]
    pub fn life_factors(
        &self,
        applicable_point: &ApplicablePoint<'_>,
        mask: EvidenceMask,
        level: CareLevel,
    ) -> (f64, f64) {
        let a = self.assumptions;
        let (uses, tuned) = (applicable_point.use_factors, applicable_point.tuned);
        // The market's example is as its maker made it.
        let (past, tune) = match mask.past_use {
            PastUse::None => (1.0, 1.0),
            PastUse::Stated => (uses.past * tuned.past, tuned.plan),
            PastUse::AsPlan => (uses.plan, 1.0),
        };
        let plan = if mask.plan_use { uses.plan * tune } else { 1.0 };
        let kept = |level| care::factor(applicable_point.point, level, a);
        (exposure::life_factor(kept(level) * past, a), exposure::life_factor(kept(self.candidate.plan.care) * plan, a))
    }

    /// Whether two kinds of evidence come to the same for this point under every level of care,
    /// findings aside.
    #[must_use]
    pub fn alike(&self, applicable_point: &ApplicablePoint<'_>, x: EvidenceMask, y: EvidenceMask) -> bool {
        let silent = applicable_point.entries.is_empty()
            && self.completeness <= self.assumptions.completeness_least
            && (applicable_point.schedule.is_none() || !self.candidate.papers_seen);
        (x.papers == y.papers || silent)
            && LEVELS
                .iter()
                .all(|&l| self.life_factors(applicable_point, x, l) == self.life_factors(applicable_point, y, l))
    }

    /// The tables that every view of the point reads: as far as the plan reaches under the shortest life.
    #[must_use]
    pub fn curves<'l>(&self, applicable_point: &ApplicablePoint<'_>, lives: &'l PointLives) -> PointCurves<'l>
    where
        'a: 'l,
    {
        let a = self.assumptions;
        let grades = [PartGrade::Original, PartGrade::Unknown]
            .into_iter()
            .chain(applicable_point.entries.iter().map(|e| e.grade))
            .map(|g| a.grade_of(applicable_point.point, g));
        let grade = grades.fold(f64::INFINITY, f64::min);
        let reach = applicable_point.leads.iter().copied().fold(self.horizon * (1.0 + BEYOND), f64::max);
        let views = [EvidenceMask::ALL, EvidenceMask::SURVIVED, EvidenceMask::REFERENCE];
        let (mut usage, mut age) = (0.0f64, 0.0f64);
        for (mask, level) in views.into_iter().flat_map(|c| LEVELS.map(|l| (c, l))) {
            let (past, plan) = self.life_factors(applicable_point, mask, level);
            let ahead = stepwise(reach * past / plan);
            usage = usage.max((self.path.usage_now() + ahead) / past);
            age = age.max((self.path.age_now() + ahead / self.usage_a_year) / past);
        }
        let margin = 1.001 / grade;
        PointCurves::new(&lives.first, &lives.revised, usage * margin, age * margin, self.budget)
    }

    /// The grid on which a point of a typical example is followed: for the market's price and for what words on checks
    /// mean alike, so that it is followed once.
    #[must_use]
    pub(crate) fn typical_grid(&self, applicable_point: &ApplicablePoint<'_>) -> Arc<FutureGrid> {
        FutureGrid::estimate(self.horizon, &applicable_point.leads)
    }

    /// Chance by the end of the plan as seen from new: nothing known but the family.
    #[must_use]
    pub fn at_build(&self, applicable_point: &ApplicablePoint<'_>, lives: &PointLives) -> f64 {
        let usage = self.path.usage_now() + self.horizon;
        let age = self.path.age_now() + self.candidate.plan.years;
        let (life, share): (&Life, f64) = if applicable_point.built_revised {
            (&lives.revised, lives.revised_share)
        } else {
            (&lives.first, lives.share)
        };
        share * applicable_point.fit.share * (1.0 - life.survival(usage, age, 1.0))
    }
}

/// A point with the lives and tables it is seen through.
#[derive(Debug, Clone, Copy)]
pub struct View<'s, 'c> {
    /// The point.
    pub applicable_point: &'s ApplicablePoint<'s>,
    /// Its lives under the sources heard.
    pub lives: &'c PointLives,
    /// Their tables.
    pub curves: &'c PointCurves<'c>,
}
