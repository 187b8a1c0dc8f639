//! Which failure points concern a candidate (§1, applicability), and the state of each under a
//! chosen part of the evidence (§§2–4 together).

use std::collections::BTreeMap;

use crate::assumptions::Assumptions;
use crate::candidate::{Candidate, LedgerEntry};
use crate::claims::{CurveError, Life, PointLives};
use crate::exposure::kappa;
use crate::family::{Applies, Check, Exposure, FailurePoint, Family};
use crate::future::{FutureGrid, Pace, Zones, remaining};
use crate::lattice::Parts;
use crate::papers;
use crate::standing::{Cycle, History, PastPath, Renewal, stand};
use crate::units::{Probability, years_between};

/// How far conditions are met by what is known of the candidate.
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    /// Share of the family, given what is known, that meets them; 1 when all is known.
    pub share: f64,
    /// Facts that are not known.
    pub identify: Vec<String>,
}

/// Whether something concerns the candidate; `None` when a known fact rules it out.
#[must_use]
pub fn fit(applies: &Applies, family: &Family, candidate: &Candidate, a: &Assumptions) -> Option<Fit> {
    if applies.built.is_some_and(|w| !w.contains(candidate.built)) {
        return None;
    }
    let mut fit = Fit { share: 1.0, identify: Vec::new() };
    for (fact, accepted) in &applies.facts {
        match candidate.facts.get(fact) {
            Some(value) if accepted.contains(value) => {}
            Some(_) => return None,
            None => {
                let values = family.facts.iter().find(|f| &f.id == fact).map(|f| f.values.as_slice());
                let given: Option<f64> =
                    accepted.iter().map(|id| values?.iter().find(|v| &v.id == id)?.share.map(Probability::get)).sum();
                fit.share *= given.unwrap_or(a.share_unknown_fact).min(1.0);
                fit.identify.push(fact.clone());
            }
        }
    }
    Some(fit)
}

/// A failure point that concerns the candidate.
#[derive(Debug)]
pub struct Subject<'a> {
    /// Its family.
    pub family: &'a Family,
    /// The point.
    pub point: &'a FailurePoint,
    /// How far it applies.
    pub fit: Fit,
    /// Ledger entries that renewed it, in order of usage.
    pub entries: Vec<&'a LedgerEntry>,
    /// Leads at which some check on it changes its voice.
    pub leads: Vec<f64>,
}

/// The points of all families that concern the candidate, in the sheets' order.
#[must_use]
pub fn subjects<'a>(candidate: &'a Candidate, families: &'a [Family], a: &Assumptions) -> Vec<Subject<'a>> {
    let mut out = Vec::new();
    for family in families {
        for point in &family.points {
            let Some(fit) = fit(&point.applies, family, candidate, a) else { continue };
            let mut entries: Vec<&LedgerEntry> = candidate
                .ledger
                .iter()
                .filter(|e| e.renews.iter().any(|r| r.family == family.id && r.point == point.id))
                .collect();
            entries.sort_by(|x, y| x.usage.on_clock().total_cmp(&y.usage.on_clock()).then(x.date.cmp(&y.date)));
            let links = family.checks.iter().flat_map(|c: &Check| &c.links);
            let leads = links.filter(|l| l.point == point.id).filter_map(|l| l.lead).collect();
            out.push(Subject { family, point, fit, entries, leads });
        }
    }
    out
}

/// Which evidence is counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Counted {
    /// How it was used.
    pub past_use: PastUse,
    /// How it will be used.
    pub plan_use: bool,
    /// Ledger and completeness.
    pub papers: bool,
}

/// Which exposures the past is taken to have had.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PastUse {
    /// None in particular.
    None,
    /// Those stated.
    Stated,
    /// Those of the plan: the reference example's.
    AsPlan,
}

impl Counted {
    /// Everything but findings.
    pub const ALL: Self = Self { past_use: PastUse::Stated, plan_use: true, papers: true };
    /// Nothing but that it has come so far.
    pub const SURVIVED: Self = Self { past_use: PastUse::None, plan_use: false, papers: false };
    /// Survival and use.
    pub const USE: Self = Self { past_use: PastUse::Stated, plan_use: true, papers: false };
    /// The reference example.
    pub const REFERENCE: Self = Self { past_use: PastUse::AsPlan, plan_use: true, papers: false };
}

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
                &papers::path_readings(candidate),
            ),
            horizon: usage_a_year * candidate.plan.years,
            usage_a_year,
            completeness: papers::completeness(candidate, assumptions),
        }
    }

    fn levels(&self, past: PastUse) -> Option<&BTreeMap<Exposure, Probability>> {
        match past {
            PastUse::None => None,
            PastUse::Stated => Some(&self.candidate.past_use),
            PastUse::AsPlan => Some(&self.candidate.plan.use_),
        }
    }

    /// Life factors of the past and of the plan.
    #[must_use]
    pub fn kappas(&self, point: &FailurePoint, counted: Counted) -> (f64, f64) {
        let a = self.assumptions;
        let past = self.levels(counted.past_use).map_or(1.0, |l| kappa(point, l, 1.0, a));
        let plan = if counted.plan_use { kappa(point, &self.candidate.plan.use_, 1.0, a) } else { 1.0 };
        (past, plan)
    }

    /// Whether two kinds of evidence come to the same for this point, findings aside.
    #[must_use]
    pub fn alike(&self, subject: &Subject<'_>, x: Counted, y: Counted) -> bool {
        let silent = subject.entries.is_empty() && self.completeness <= self.assumptions.completeness_least;
        self.kappas(subject.point, x) == self.kappas(subject.point, y) && (x.papers == y.papers || silent)
    }

    /// The part fitted at the works: whether it is the revised one, its life and susceptible share.
    fn first_part<'l>(&self, point: &FailurePoint, lives: &'l PointLives) -> (bool, &'l Life, f64) {
        let from = point.revision.as_ref().and_then(|r| r.from);
        if from.is_some_and(|from| self.candidate.built >= from) {
            (true, &lives.revised, lives.revised_share)
        } else {
            (false, &lives.first, lives.share)
        }
    }

    /// Where the point stands now under the evidence counted, and its zones on a grid, before findings:
    /// the failures of past cells (asked for with [`Counted::ALL`] alone), and the zones.
    #[must_use]
    pub fn zones<'l>(
        &self,
        subject: &Subject<'_>,
        lives: &'l PointLives,
        parts: &mut Parts<'l>,
        grid: FutureGrid,
        counted: Counted,
    ) -> (Vec<f64>, Zones) {
        let a = self.assumptions;
        let point = subject.point;
        let (past, plan) = self.kappas(point, counted);
        let pace = Pace { usage_a_year: self.usage_a_year, stretch: past / plan };
        let (built_revised, life, share) = self.first_part(point, lives);
        let unrecorded = parts.get(
            &self.path,
            Cycle { life, kappa: past * a.grade_unknown },
            grid.reach() * pace.stretch,
            self.usage_a_year,
        );
        let renewal = |e: &&LedgerEntry| Renewal {
            edge: self.path.edge(e.usage.on_clock()),
            credibility: a.credibility(e.evidence),
            cycle: Cycle {
                life: if e.revised || built_revised { &lives.revised } else { &lives.first },
                kappa: past * a.grade(e.grade),
            },
            still_susceptible: if e.revised && !built_revised && lives.share > 0.0 {
                (lives.revised_share / lives.share).min(1.0)
            } else {
                1.0
            },
        };
        let standing = stand(
            &self.path,
            &History {
                share: share * subject.fit.share,
                build: Cycle { life, kappa: past },
                renewals: if counted.papers { subject.entries.iter().map(renewal).collect() } else { Vec::new() },
                unrecorded,
                tolerated: point.tolerated,
                survivable: point.survivable.get(),
                completeness: if counted.papers { self.completeness } else { a.completeness_least },
                trace: counted == Counted::ALL,
            },
        );
        let zones = remaining(&standing, &self.path, unrecorded, grid, pace);
        (standing.past, zones)
    }

    /// Chance within the plan under the evidence counted, before findings.
    #[must_use]
    pub fn chance<'l>(
        &self,
        subject: &Subject<'_>,
        lives: &'l PointLives,
        parts: &mut Parts<'l>,
        counted: Counted,
    ) -> f64 {
        self.zones(subject, lives, parts, FutureGrid::coarse(self.horizon, &[]), counted).1.by_horizon()
    }

    /// Chance by the end of the plan as seen from new: nothing known but the family.
    #[must_use]
    pub fn at_build(&self, subject: &Subject<'_>, lives: &PointLives) -> f64 {
        let usage = self.path.usage_now() + self.horizon;
        let age = self.path.age_now() + self.candidate.plan.years;
        let (_, life, share) = self.first_part(subject.point, lives);
        share * subject.fit.share * (1.0 - life.alive(usage, age, 1.0))
    }
}

/// The lives of every subject under a school.
///
/// # Errors
/// [`CurveError`] from a claim that makes no curve.
pub fn lives(subjects: &[Subject<'_>], school: Option<&str>, a: &Assumptions) -> Result<Vec<PointLives>, CurveError> {
    subjects.iter().map(|s| PointLives::pool(s.point, school, a)).collect()
}
