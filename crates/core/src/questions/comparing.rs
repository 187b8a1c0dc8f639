//! Two sheets held against each other, point by point, and one merged into the other as one more voice.

use std::collections::BTreeSet;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::estimate::Costs;
use crate::base::budget::Budget;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Buyer;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::{Family, Source};
use crate::inference::context::AssessError;
use crate::questions::sanity::typical;

/// What became of a point between two sheets.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SheetChange {
    /// Only the second has it.
    New,
    /// Only the first has it.
    Gone,
    /// Both have it and say different things of it.
    Moved,
    /// Both say the same, and it costs something else all the same: another point or price moved it.
    Follows,
}

/// What a point says that differs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SheetDifference {
    /// How many have it.
    HowMany,
    /// When it comes.
    When,
    /// How one notices it.
    Signs,
    /// What it costs.
    Cost,
    /// Which builds and variants it concerns.
    Which,
    /// What causes it: the two dispute the cause.
    Cause,
    /// What it takes along, ways of mending, revisions and the rest.
    Rest,
}

/// A point of either sheet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SheetPoint {
    /// Its short name: the second sheet's, where it has it.
    pub point: String,
    /// Its name.
    pub name: String,
    /// What became of it.
    pub change: SheetChange,
    /// What differs.
    pub differs: Vec<SheetDifference>,
    /// What it costs a typical example a year by the first sheet, units of the currency.
    pub before: f64,
    /// The same by the second.
    pub after: f64,
}

/// Two sheets, compared.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SheetComparison {
    /// Points that differ, the dearest difference first.
    pub points: Vec<SheetPoint>,
    /// Points of which both say the same.
    pub same: usize,
    /// What a typical middling example costs a year by the first sheet, units of the currency.
    pub before: f64,
    /// The same by the second.
    pub after: f64,
    /// Three-letter code of the currency.
    pub currency: String,
}

/// Whether two points speak of the same thing.
fn same_thing(x: &FailurePoint, y: &FailurePoint) -> bool {
    x.id == y.id || (x.part.is_some() && x.part == y.part && x.applies == y.applies)
}

fn differs(x: (&Family, &FailurePoint), y: (&Family, &FailurePoint)) -> Vec<SheetDifference> {
    use SheetDifference as D;
    let ((f, p), (g, q)) = (x, y);
    let signs = |f: &Family, id: &str| {
        let mut all: Vec<String> = f
            .checks
            .iter()
            .flat_map(|c| c.links.iter().filter(|l| l.point == id).map(move |l| format!("{} {:?}", c.id, l)))
            .collect();
        all.sort();
        all
    };
    let cost = |f: &Family, p: &FailurePoint| (p.price, f.job(&p.job).cloned());
    let said = |claims: &[crate::documents::claim::LifeClaim]| {
        claims.iter().map(|c| format!("{} {} {:?} {:?}", c.source, c.weight, c.clock, c.says)).collect::<Vec<_>>()
    };
    let shares = |claims: &[crate::documents::claim::ShareClaim]| {
        claims.iter().map(|c| format!("{} {} {:?}", c.source, c.weight, c.says)).collect::<Vec<_>>()
    };
    let pairs = [
        (D::HowMany, shares(&p.share) != shares(&q.share)),
        (D::When, said(&p.life) != said(&q.life) || p.mechanism != q.mechanism),
        (D::Signs, p.shows != q.shows || signs(f, &p.id) != signs(g, &q.id)),
        (D::Cost, cost(f, p) != cost(g, q)),
        (D::Which, p.applies != q.applies),
        (D::Cause, !p.why.is_empty() && !q.why.is_empty() && p.why != q.why),
        (
            D::Rest,
            p.takes_along != q.takes_along
                || p.wears != q.wears
                || p.routes != q.routes
                || p.revision != q.revision
                || p.escalation != q.escalation
                || p.stages != q.stages
                || p.exposures != q.exposures
                || strained(f, &p.id) != strained(g, &q.id)
                || p.lived_with != q.lived_with
                || p.used_lasts != q.used_lasts
                || p.notice != q.notice,
        ),
    ];
    pairs.into_iter().filter(|(_, different)| *different).map(|(d, _)| d).collect()
}

/// The alterations that shorten a point, as one reads them.
fn strained<'f>(f: &'f Family, point: &str) -> Vec<(&'f str, [f64; 3])> {
    let each = f.alterations.iter();
    each.filter_map(|x| Some((x.name.as_str(), [x.standard_kw, x.limit_kw, *x.shortens.get(point)?]))).collect()
}

/// Compares two sheets of one clock point by point, on a typical middling example.
///
/// # Errors
/// A sheet that makes no sense, and too much work.
pub fn compare_sheets(
    first: &Family,
    second: &Family,
    currency: &str,
    today: Date,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<SheetComparison, AssessError> {
    /// What is no difference, units of the currency a year.
    const LEAST: f64 = 0.5;
    let of =
        |f: &Family| typical(f, (currency, today), &Buyer::default(), 1.0, a, budget).map(|(e, c)| (e, c.plan.years));
    let ((one, years), (two, _)) = (of(first)?, of(second)?);
    let cost = |e: &Costs, id: &str| e.points.iter().find(|p| p.id == id).map_or(0.0, |p| p.expected_cost / years);
    let mut points = Vec::new();
    let mut met: BTreeSet<&str> = BTreeSet::new();
    let mut same = 0;
    for q in &second.points {
        let p = first.points.iter().find(|p| same_thing(p, q) && !met.contains(p.id.as_str()));
        let after = cost(&two, &q.id);
        let (change, differs, before) = match p {
            None => (SheetChange::New, Vec::new(), 0.0),
            Some(p) => {
                met.insert(&p.id);
                let differs = differs((first, p), (second, q));
                let before = cost(&one, &p.id);
                if differs.is_empty() && (after - before).abs() < LEAST {
                    same += 1;
                    continue;
                }
                let change = if differs.is_empty() { SheetChange::Follows } else { SheetChange::Moved };
                (change, differs, before)
            }
        };
        points.push(SheetPoint { point: q.id.clone(), name: q.name.clone(), change, differs, before, after });
    }
    for p in first.points.iter().filter(|p| !met.contains(p.id.as_str())) {
        points.push(SheetPoint {
            point: p.id.clone(),
            name: p.name.clone(),
            change: SheetChange::Gone,
            differs: Vec::new(),
            before: cost(&one, &p.id),
            after: 0.0,
        });
    }
    points.sort_by(|x, y| (y.after - y.before).abs().total_cmp(&(x.after - x.before).abs()));
    Ok(SheetComparison {
        points,
        same,
        before: one.mean / years,
        after: two.mean / years,
        currency: currency.to_owned(),
    })
}

/// Merges another person's sheet as one more source: its claims stand beside those of the same part, its further points
/// come with their jobs and checks. `discount` is the weight that the source gets, 0 to 1.
///
/// Nothing of the first sheet is changed or taken away; a claim that is there already is not added again.
#[must_use]
pub fn merged(mut own: Family, other: &Family, name: &str, discount: Option<f64>) -> Family {
    let id = crate::talk::short_name(name);
    match own.sources.iter_mut().find(|s| s.id == id) {
        Some(source) => source.discount = discount,
        None => own.sources.push(Source { id: id.clone(), name: name.chars().take(80).collect(), discount }),
    }
    for q in &other.points {
        let mut said = q.clone();
        said.life.iter_mut().for_each(|c| c.source.clone_from(&id));
        said.share.iter_mut().for_each(|c| c.source.clone_from(&id));
        match own.points.iter().position(|p| same_thing(p, q)) {
            Some(i) => {
                let before = own.points[i].clone();
                let p = &mut own.points[i];
                let there = |c: &crate::documents::claim::LifeClaim| {
                    before.life.iter().any(|x| x.says == c.says && x.clock == c.clock && x.source == c.source)
                };
                p.life.extend(said.life.into_iter().filter(|c| !there(c)));
                let there = |c: &crate::documents::claim::ShareClaim| {
                    before.share.iter().any(|x| x.says == c.says && x.source == c.source)
                };
                p.share.extend(said.share.into_iter().filter(|c| !there(c)));
                if *p != before {
                    // Two voices on it: from now on the sheet's own.
                    let key = format!("points/{}", before.id);
                    own.patterns.iter_mut().for_each(|x| x.gives.retain(|g| *g != key));
                }
            }
            None => taken_over(&mut own, other, said),
        }
    }
    own.patterns.retain(|p| !p.gives.is_empty());
    own
}

/// Adds a point with what it needs of the other sheet.
fn taken_over(own: &mut Family, other: &Family, mut point: FailurePoint) {
    point.disputed.clear();
    point.takes_along.clear();
    point.wears.clear();
    point.revisions.iter_mut().chain(&mut point.revision).for_each(|r| {
        let source = point.life.first().map_or_else(String::new, |c| c.source.clone());
        r.life.iter_mut().for_each(|c| c.source.clone_from(&source));
        r.share.iter_mut().for_each(|c| c.source.clone_from(&source));
    });
    let asked: BTreeSet<String> = point.applies.conditions().flat_map(|c| c.facts.into_keys()).collect();
    for fact in other.facts.iter().filter(|f| asked.contains(&f.id)) {
        if own.facts.iter().all(|x| x.id != fact.id) {
            own.facts.push(fact.clone());
        }
    }
    let jobs = std::iter::once(point.job.clone())
        .chain(point.routes.iter().map(|r| r.job.clone()))
        .chain(point.escalation.iter().chain(&point.already_done).map(|e| e.job.clone()))
        .chain(point.stages.iter().map(|s| s.job.clone()));
    for id in jobs.filter(|j| !j.is_empty()) {
        if own.job(&id).is_some() {
            continue;
        }
        let Some(job) = other.job(&id) else { continue };
        let mut job = job.clone();
        job.renews.clear();
        for id in &job.access {
            if own.access.iter().all(|g| g.id != *id) {
                own.access.extend(other.access.iter().filter(|g| g.id == *id).cloned());
            }
        }
        own.jobs.push(job);
    }
    for check in other.checks.iter().filter(|c| c.links.iter().any(|l| l.point == point.id)) {
        if own.checks.iter().any(|c| c.id == check.id) {
            continue;
        }
        let mut check = check.clone();
        check.links.retain(|l| l.point == point.id);
        own.checks.push(check);
    }
    own.points.push(point);
}
