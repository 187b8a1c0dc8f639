//! The key under which following a point is remembered: everything that it depends on.

use crate::base::memory::{Key, KeyOf};
use crate::documents::care_level::LEVELS;
use crate::documents::failure_point::FailurePoint;
use crate::documents::paper::LedgerEntry;
use crate::documents::strands::lived_with;
use crate::evidence::intervals::performed;
use crate::evidence::kept::Practice;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::setting::{Setting, View};
use crate::reliability::care;
use crate::reliability::condition::History;
use crate::reliability::mixture::PointLives;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::survival_table::Cycle;

/// The lives that a point is seen through.
pub(crate) fn lives(out: &mut KeyOf, of: &PointLives) {
    of.first.key(out);
    of.revised.key(out);
    out.figures(&[of.share, of.revised_share]);
}

fn entry(out: &mut KeyOf, setting: &Setting<'_>, point: &FailurePoint, e: &LedgerEntry) {
    let a = setting.assumptions;
    out.figures(&[e.usage.on_clock(), a.credibility(e.evidence), a.grade_of(point, e.grade)]);
    out.add(&e.date);
    out.add(&(e.reason.map(|r| r as u8), e.revised, e.first_design));
}

/// How far the tables of a point reach: their steps follow from it.
fn reach(out: &mut KeyOf, view: &View<'_, '_>) {
    let (usage, age) = view.curves.reach();
    out.figures(&[usage, age]);
}

/// The failures of a part fitted now, under a life factor of the plan.
pub(crate) fn fresh(setting: &Setting<'_>, view: &View<'_, '_>, life_factor: f64) -> Key {
    // Neither the past nor the thing itself has a say.
    let mut out = KeyOf::kind("fresh");
    lives(&mut out, view.lives);
    reach(&mut out, view);
    out.figures(&[life_factor, setting.horizon, setting.usage_a_year]);
    out.key()
}

/// A point's condition now: its history under life factors of the past, for some levels of care.
pub(crate) fn condition(
    setting: &Setting<'_>,
    view: &View<'_, '_>,
    history: &History<'_>,
    repair_delay: &[f64],
) -> Key {
    let mut out = setting.past_key.clone();
    out.add(&"condition");
    lives(&mut out, view.lives);
    reach(&mut out, view);
    let cycle = |out: &mut KeyOf, of: &Cycle<'_>| {
        out.add(&std::ptr::eq(of.curves, view.curves.first()));
        out.figure(of.life_factor);
    };
    out.figures(&[history.share, history.survivable, history.completeness]);
    cycle(&mut out, &history.build);
    out.add(&(history.build_overdue, history.trace, history.renewals.len()));
    for r in &history.renewals {
        cycle(&mut out, &r.cycle);
        out.add(&r.overdue);
        out.figures(&[r.at, r.credibility, r.still_susceptible, r.in_good_time]);
    }
    let part = history.unrecorded;
    cycle(&mut out, &part.cycle);
    out.add(&(part.whole, part.usage.is_some(), part.age.is_some()));
    out.figure(part.bent.as_ref().map_or(0.0, |(table, _)| table.per_year()));
    out.figures(repair_delay);
    out.key()
}

/// A point under the evidence that counts, on a grid.
pub(crate) fn scenarios(
    setting: &Setting<'_>,
    view: &View<'_, '_>,
    grid: &FutureGrid,
    mask: EvidenceMask,
    trace: bool,
) -> Key {
    let (a, s) = (setting.assumptions, view.applicable_point);
    let mut out = setting.key.clone();
    out.figures(&grid.edges);
    out.add(&(&grid.knots, mask.papers, trace, s.built_revised));
    out.figure(grid.horizon);
    // How far the grids of the past reach.
    out.figures(&s.leads);
    lives(&mut out, view.lives);
    reach(&mut out, view);
    for level in LEVELS {
        let (past, plan) = setting.life_factors(s, mask, level);
        out.figures(&[past, plan]);
    }
    let delays = LEVELS.map(|level| lived_with(s.point, s.family.clock, a) * care::patience(level, a));
    out.figures(&delays);
    out.figures(&[s.fit.share, s.point.survivable.get(), s.paper_kept]);
    out.figures(&[a.grade_unknown, a.completeness_least, a.renewed_sound, a.renewed_sound_scheduled]);
    out.add(&s.point.revision.as_ref().and_then(|r| r.from));
    out.add(&s.entries.len());
    s.entries.iter().for_each(|e| entry(&mut out, setting, s.point, e));
    out.add(&s.schedule.is_some());
    if let Some(i) = s.schedule {
        out.figures(&[i.usage.unwrap_or(0.0), i.years.unwrap_or(0.0)]);
        out.figures(&Practice::of(setting.candidate, s.family, i, mask.papers, a).with(0.0));
        let done = performed(setting.candidate, s.family, i);
        out.add(&done.len());
        done.iter().for_each(|e| entry(&mut out, setting, s.point, e));
    }
    out.key()
}
