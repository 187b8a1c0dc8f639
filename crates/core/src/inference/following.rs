//! Following one point from build to now and along the plan, under the evidence that counts.
//!
//! docs/METHOD.md, section 3.

use std::sync::Arc;

use crate::documents::care_level::{CareLevel, LEVELS};
use crate::documents::job::PartGrade;
use crate::documents::paper::{LedgerEntry, RenewalReason};
use crate::documents::strands::lived_with;
use crate::evidence::kept::{self, Kept, Practice};
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::remembered;
use crate::inference::setting::{Setting, View};
use crate::reliability::care;
use crate::reliability::condition::{Condition, History, Renewal, condition_now};
use crate::reliability::kept_condition::KeptCondition;
use crate::reliability::plan_grid::{BEYOND, FutureGrid, Pace, REFERENCE_CELLS};
use crate::reliability::remaining_life::{RemainingLife, remaining};
use crate::reliability::survival_grid::PreparedParts;
use crate::reliability::survival_table::{Curves, Cycle, stepwise};

impl Setting<'_> {
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
        self.budget.remembered_for_changes(
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
        let cycles = self.path.cells() / 2 + renewals.len() * (1 + renewals.len() / 8);
        if !self.budget.spend(N * cycles * (self.path.cells() + grid.knots.len())) {
            return std::array::from_fn(|_| (vec![0.0; self.path.cells()], RemainingLife::empty(Arc::clone(grid))));
        }
        let pace = Pace { usage_a_year: self.usage_a_year, stretch: past / plan };
        let (built, share) = self.first_part(view);
        let unrecorded = Cycle { curves: built, life_factor: past * a.grade_unknown };
        // As far as any look at the point reaches: what a table holds does not depend on which look came first.
        let reach = point.leads.iter().copied().fold(self.horizon * (1.0 + BEYOND), f64::max).max(grid.reach());
        let unrecorded = parts.get(&self.path, unrecorded, stepwise(reach * pace.stretch), self.usage_a_year);
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
            build_overdue: point.schedule.is_some_and(|i| kept::is_overdue(i, &self.path, (0.0, 0.0))),
            trace,
        };
        let repair_delay =
            levels.map(|level| lived_with(point.point, point.family.clock, a) * care::patience(level, a));
        let conditions = self.conditions(view, &history, &repair_delay, grid);
        let lives = remaining(&conditions, &self.path, unrecorded, grid, pace);
        let mut both = conditions.into_iter().map(|c| c.past).zip(lives);
        std::array::from_fn(|_| both.next().unwrap_or_else(|| (Vec::new(), RemainingLife::empty(Arc::clone(grid)))))
    }

    /// The condition now for each repair delay. It does not change with the plan: what is seen on a fine grid is
    /// remembered.
    fn conditions<'c>(
        &self,
        view: &View<'_, 'c>,
        history: &History<'c>,
        repair_delay: &[f64],
        grid: &FutureGrid,
    ) -> Vec<Condition<'c>> {
        if grid.cells() < REFERENCE_CELLS || !self.budget.remembers() {
            return condition_now(&self.path, history, repair_delay);
        }
        let kept = self.budget.remembered(
            || remembered::condition(self, view, history, repair_delay),
            |all: &Vec<KeptCondition>| all.iter().map(KeptCondition::bytes).sum(),
            || condition_now(&self.path, history, repair_delay).iter().map(|c| c.keep(view.curves)).collect(),
        );
        kept.into_iter().map(|c| c.on(view.curves)).collect()
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
            at: self.path.place(usage),
            credibility,
            cycle: Cycle {
                curves: if revised { curves.revised() } else { curves.first() },
                life_factor: past * a.grade_of(point.point, grade),
            },
            still_susceptible: if revised && !point.built_revised && lives.share > 0.0 {
                (lives.revised_share / lives.share).min(1.0)
            } else {
                1.0
            },
            in_good_time,
            overdue: point.schedule.is_some_and(|i| kept::is_overdue(i, &self.path, (usage, self.path.age_at(usage)))),
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
