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
use crate::documents::paper::{LedgerEntry, RenewalReason};
use crate::evidence::belief;
use crate::evidence::kept::{self, Kept, Practice};
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::evidence_mask::{EvidenceMask, PastUse};
use crate::inference::remembered;
use crate::reliability::condition::{History, Renewal, condition_now};
use crate::reliability::mixture::{Life, PointLives};
use crate::reliability::plan_grid::{BEYOND, FutureGrid, Pace};
use crate::reliability::remaining_life::{RemainingLife, remaining};
use crate::reliability::survival_grid::PreparedParts;
use crate::reliability::survival_table::{Curves, Cycle, PointCurves};
use crate::reliability::usage_path::{PAST_CELLS, PastPath};
use crate::reliability::{care, exposure};

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
    /// What is left of the question's steps, and what earlier questions remember.
    pub budget: &'a Budget<'a>,
    /// What all points share of the key under which they are remembered.
    pub(crate) key: KeyOf,
}

impl<'a> Setting<'a> {
    /// Prepares a candidate that passed [`crate::validation`].
    #[must_use]
    pub fn new(candidate: &'a Candidate, assumptions: &'a Assumptions, budget: &'a Budget<'a>) -> Self {
        let usage_a_year = candidate.plan.usage_a_year.on_clock();
        let path = PastPath::new(
            candidate.usage.on_clock(),
            years_between(candidate.built, candidate.as_of),
            &belief::path_readings(candidate),
        );
        let horizon = usage_a_year * candidate.plan.years;
        let completeness = belief::completeness(candidate, assumptions);
        let key = remembered::of_candidate(&path, candidate.built, &[horizon, usage_a_year, completeness]);
        Self { candidate, assumptions, path, horizon, usage_a_year, completeness, budget, key }
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
        let uses = applicable_point.use_factors;
        let past = match mask.past_use {
            PastUse::None => 1.0,
            PastUse::Stated => uses.past,
            PastUse::AsPlan => uses.plan,
        };
        let plan = if mask.plan_use { uses.plan } else { 1.0 };
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
    pub fn curves<'l>(&self, applicable_point: &ApplicablePoint<'_>, lives: &'l PointLives) -> PointCurves<'l> {
        let a = self.assumptions;
        let grades = [PartGrade::Original, PartGrade::Unknown]
            .into_iter()
            .chain(applicable_point.entries.iter().map(|e| e.grade))
            .map(|g| a.grade(g));
        let grade = grades.fold(f64::INFINITY, f64::min);
        let reach = self.horizon * (1.0 + BEYOND);
        let views = [EvidenceMask::ALL, EvidenceMask::SURVIVED, EvidenceMask::REFERENCE];
        let (mut usage, mut age) = (0.0f64, 0.0f64);
        for (mask, level) in views.into_iter().flat_map(|c| LEVELS.map(|l| (c, l))) {
            let (past, plan) = self.life_factors(applicable_point, mask, level);
            let ahead = reach * past / plan;
            usage = usage.max((self.path.usage_now() + ahead) / past);
            age = age.max((self.path.age_now() + ahead / self.usage_a_year) / past);
        }
        let margin = 1.001 / grade;
        PointCurves::new(&lives.first, &lives.revised, usage * margin, age * margin)
    }

    /// The part fitted at the works: its curves and susceptible share.
    fn first_part<'c>(&self, view: &View<'_, 'c>) -> (&'c Curves, f64) {
        let View { applicable_point, lives, curves } = *view;
        if applicable_point.built_revised {
            (curves.revised(), lives.revised_share)
        } else {
            (curves.first(), lives.share)
        }
    }

    /// The point under the evidence that counts and each level of care: its remaining life on a grid, before
    /// findings, and the failures of past cells at ordinary care (empty unless `trace`).
    #[must_use]
    pub fn scenarios<'c>(
        &self,
        view: &View<'_, 'c>,
        parts: &mut PreparedParts<'c>,
        grid: &Arc<FutureGrid>,
        mask: EvidenceMask,
        trace: bool,
    ) -> ([RemainingLife; 3], Vec<f64>) {
        self.budget.remembered(
            || remembered::scenarios(self, view, grid, mask, trace),
            |(lives, past): &([RemainingLife; 3], Vec<f64>)| {
                lives.iter().map(RemainingLife::bytes).sum::<usize>() + 8 * past.len()
            },
            || self.followed(view, parts, grid, mask, trace),
        )
    }

    /// The same, worked out.
    fn followed<'c>(
        &self,
        view: &View<'_, 'c>,
        parts: &mut PreparedParts<'c>,
        grid: &Arc<FutureGrid>,
        mask: EvidenceMask,
        trace: bool,
    ) -> ([RemainingLife; 3], Vec<f64>) {
        let factors = LEVELS.map(|level| self.life_factors(view.applicable_point, mask, level));
        let mut look = Look { view, parts, grid, mask };
        // Where care changes nothing but the owners' patience, one history serves for all levels.
        let alike = factors.iter().all(|k| *k == factors[0]) && view.applicable_point.schedule.is_none();
        let [poor, mut ordinary, good] = if alike {
            self.remaining_lives(&mut look, factors[0], LEVELS, trace)
        } else {
            std::array::from_fn(|l| {
                let trace = trace && LEVELS[l] == CareLevel::Ordinary;
                let [one] = self.remaining_lives(&mut look, factors[l], [LEVELS[l]], trace);
                one
            })
        };
        let past = std::mem::take(&mut ordinary.0);
        ([poor.1, ordinary.1, good.1], past)
    }

    /// The point's remaining life under life factors of past and plan, once for each level of care that has
    /// these factors, with the failures of past cells.
    fn remaining_lives<'c, const N: usize>(
        &self,
        look: &mut Look<'_, '_, 'c>,
        (past, plan): (f64, f64),
        levels: [CareLevel; N],
        trace: bool,
    ) -> [(Vec<f64>, RemainingLife); N] {
        let a = self.assumptions;
        let Look { view, parts, grid, mask } = look;
        let point = view.applicable_point;
        let kept = match point.schedule {
            Some(i) => kept::kept(self.candidate, point.family, i, &self.path, mask.papers, a),
            None => Vec::new(),
        };
        let renewals = self.renewals(view, &kept, past, *mask, levels[0]);
        // Each cell of the past may begin a cycle; each renewal that may have been does.
        let cycles = PAST_CELLS / 2 + renewals.len() * (1 + renewals.len() / 8);
        if !self.budget.spend(N * cycles * (PAST_CELLS + grid.knots.len())) {
            return std::array::from_fn(|_| (vec![0.0; PAST_CELLS], RemainingLife::empty(Arc::clone(grid))));
        }
        let pace = Pace { usage_a_year: self.usage_a_year, stretch: past / plan };
        let (built, share) = self.first_part(view);
        let unrecorded = Cycle { curves: built, life_factor: past * a.grade_unknown };
        let unrecorded = parts.get(&self.path, unrecorded, grid.reach() * pace.stretch, self.usage_a_year);
        let history = History {
            share: share * point.fit.share,
            build: Cycle { curves: built, life_factor: past },
            renewals,
            unrecorded,
            survivable: point.point.survivable.get(),
            completeness: {
                let usual = if mask.papers { self.completeness } else { a.completeness_least };
                usual + (1.0 - usual) * point.paper_kept
            },
            kept_from: point.schedule.map_or(0, |i| {
                let late = |k: &usize| kept::is_overdue(i, &self.path, (self.path.usage(*k), self.path.age(*k)));
                (0..=PAST_CELLS).take_while(late).count()
            }),
            trace,
        };
        let repair_delay = levels.map(|level| point.point.repair_delay * care::patience(level, a));
        let mut conditions = condition_now(&self.path, &history, &repair_delay).into_iter();
        std::array::from_fn(|_| match conditions.next() {
            Some(c) => {
                let remaining = remaining(&c, &self.path, unrecorded, Arc::clone(grid), pace);
                (c.past, remaining)
            }
            None => (Vec::new(), RemainingLife::empty(Arc::clone(grid))),
        })
    }

    /// The renewals that may have been, under a life factor of the past and a level of care, in order of usage:
    /// those on paper, and scheduled work that nothing proves.
    fn renewals<'c>(
        &self,
        view: &View<'_, 'c>,
        kept: &[Kept<'_>],
        past: f64,
        mask: EvidenceMask,
        level: CareLevel,
    ) -> Vec<Renewal<'c>> {
        let (a, View { applicable_point: point, lives, curves }) = (self.assumptions, *view);
        let renewal = |usage: f64, credibility: f64, revised: bool, grade: PartGrade, in_good_time: f64| Renewal {
            edge: self.path.edge(usage),
            credibility,
            cycle: Cycle {
                curves: if revised { curves.revised() } else { curves.first() },
                life_factor: past * a.grade(grade),
            },
            still_susceptible: if revised && !point.built_revised && lives.share > 0.0 {
                (lives.revised_share / lives.share).min(1.0)
            } else {
                1.0
            },
            in_good_time,
        };
        let on_paper = |e: &LedgerEntry, credibility: f64| {
            let in_good_time = match e.reason {
                Some(RenewalReason::Failed) => 0.0,
                Some(RenewalReason::Planned) => f64::INFINITY,
                None if point.schedule.is_some() => f64::INFINITY,
                Some(RenewalReason::Unknown) if point.schedule.is_some() => a.renewed_sound_scheduled,
                Some(RenewalReason::Unknown) | None => a.renewed_sound,
            };
            let revised = point.built_revised || fits_revised(point, e);
            renewal(e.usage.on_clock(), credibility, revised, e.grade, in_good_time)
        };
        let Some(interval) = point.schedule else {
            let entries = point.entries.iter().filter(|_| mask.papers);
            return entries.map(|e| on_paper(e, a.credibility(e.evidence))).collect();
        };
        let practice = Practice::of(self.candidate, point.family, interval, mask.papers, a);
        let at = |k: &Kept<'_>| match k.entry.filter(|e| point.entries.iter().any(|x| std::ptr::eq(*x, *e))) {
            Some(e) => on_paper(e, k.chance[level as usize]),
            None => {
                let chance = practice.with(0.0)[level as usize];
                let since = point.point.revision.as_ref().and_then(|r| r.from);
                let revised = point.built_revised || since.is_some_and(|from| self.day_at(k.usage) >= from);
                renewal(k.usage, chance, revised, PartGrade::Unknown, f64::INFINITY)
            }
        };
        kept.iter().map(at).filter(|r| r.credibility > 0.0).collect()
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

/// Whether a renewal fitted the revised part: as it says, else by its day.
pub(crate) fn fits_revised(point: &ApplicablePoint<'_>, e: &LedgerEntry) -> bool {
    let since = point.point.revision.as_ref().and_then(|r| r.from);
    e.revised || (!e.first_design && since.is_some_and(|from| e.date >= from))
}

/// One look at a point: through which tables, on which grid, counting which evidence.
struct Look<'l, 's, 'c> {
    view: &'l View<'s, 'c>,
    parts: &'l mut PreparedParts<'c>,
    grid: &'l Arc<FutureGrid>,
    mask: EvidenceMask,
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
