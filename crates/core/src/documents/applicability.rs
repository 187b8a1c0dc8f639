//! Which failure points and checks concern a candidate: conditions met, facts that are not known, and base
//! sheets that give way to a family's own sheet.

use crate::base::units::Probability;
use crate::documents::applies::{Applies, Condition};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Check;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::documents::job::Interval;

pub(crate) fn applicable<'a>(
    candidate: &'a Candidate,
    families: &'a [Family],
    a: &'a Assumptions,
) -> impl Iterator<Item = (&'a Family, &'a Check)> {
    families
        .iter()
        .flat_map(|f| f.checks.iter().map(move |c| (f, c)))
        .filter(move |(f, c)| fit(&c.applies, f, candidate, a).is_some())
        .filter(move |(f, c)| {
            let layer = layer(f, "checks", &c.id);
            layer == Layer::Own
                || !(known_better(c, f, layer, families, candidate, a) || tells_nothing(c, f, families, candidate, a))
        })
}

/// The layers of knowledge; each makes way for those before it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Layer {
    /// What a family's sheet says itself.
    Own,
    /// What a pattern gave it.
    Pattern,
    /// A base sheet.
    Base,
}

fn layer(family: &Family, list: &str, id: &str) -> Layer {
    if family.kind.is_base() {
        Layer::Base
    } else if !family.patterns.is_empty() && family.from_pattern(list, id).is_some() {
        Layer::Pattern
    } else {
        Layer::Own
    }
}

/// Whether something of the same name stands above it: in a higher layer, or in the same layer of an earlier sheet.
fn above(family: &Family, layer: Layer, other: &Family, others: Layer, families: &[Family]) -> bool {
    let at = |f: &Family| families.iter().position(|x| x.id == f.id);
    others < layer || (others == layer && layer == Layer::Pattern && at(other) < at(family))
}

/// Whether a check with the same action stands above: this one gives way to it.
fn known_better(
    check: &Check,
    family: &Family,
    own: Layer,
    families: &[Family],
    candidate: &Candidate,
    a: &Assumptions,
) -> bool {
    check.action.as_deref().is_some_and(|action| {
        let same = families.iter().flat_map(|f| f.checks.iter().map(move |c| (f, c)));
        same.filter(|(_, c)| c.action.as_deref() == Some(action))
            .filter(|(f, c)| above(family, own, f, layer(f, "checks", &c.id), families))
            .any(|(f, c)| fit(&c.applies, f, candidate, a).is_some())
    })
}

/// Whether everything that a pattern's check speaks of is known better elsewhere, or not there.
fn tells_nothing(check: &Check, family: &Family, families: &[Family], c: &Candidate, a: &Assumptions) -> bool {
    let point = |id: &str| family.points.iter().find(|p| p.id == id);
    let speaks = check.care_sign.is_some() || !check.leak.is_empty();
    let concerned = |id: &str| point(id).is_some_and(|p| concerns(p, family, families, c, a));
    !speaks && !check.links.is_empty() && !check.links.iter().any(|l| concerned(&l.point))
}

/// Checks done, and checks that concern the candidate.
#[must_use]
pub fn progress(candidate: &Candidate, families: &[Family], a: &Assumptions) -> (usize, usize) {
    applicable(candidate, families, a)
        .fold((0, 0), |(done, all), (f, c)| (done + usize::from(candidate.outcome_of(f, c).is_some()), all + 1))
}

/// The checks that concern a candidate, in the order of work.
#[must_use]
pub fn walk_round<'a>(
    candidate: &'a Candidate,
    families: &'a [Family],
    a: &'a Assumptions,
) -> Vec<(&'a Family, &'a Check)> {
    let mut out: Vec<(&Family, &Check)> = applicable(candidate, families, a).collect();
    out.sort_by_key(|(_, c)| c.phase);
    out
}

/// What is to be identified when a serial or engine number would decide.
pub const SERIAL: &str = "serial";

/// How far conditions are met by what is known of the candidate.
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    /// Share of the family, given what is known, that meets them; 1 when all is known.
    pub share: f64,
    /// Facts that are not known; [`SERIAL`] for the serial number.
    pub identify: Vec<String>,
}

/// Whether something concerns the candidate; `None` when what is known rules it out.
///
/// Facts that are not known keep both branches by their shares; of several alternatives, and of exceptions, each holds
/// or not on its own.
#[must_use]
pub fn fit(applies: &Applies, family: &Family, candidate: &Candidate, a: &Assumptions) -> Option<Fit> {
    let met = |c: &Condition| holds(c, family, candidate, a);
    let mut fit = met(&applies.own())?;
    let mut and = |share: f64, identify: Vec<String>| {
        fit.share *= share;
        identify.into_iter().for_each(|i| {
            if !fit.identify.contains(&i) {
                fit.identify.push(i);
            }
        });
    };
    if !applies.any.is_empty() {
        let alternatives: Vec<Fit> = applies.any.iter().filter_map(met).collect();
        let none: f64 = alternatives.iter().map(|f| 1.0 - f.share).product();
        if none >= 1.0 {
            return None;
        }
        // One that is known to hold settles it.
        if none > 0.0 {
            and(1.0 - none, alternatives.into_iter().flat_map(|f| f.identify).collect());
        }
    }
    for exception in applies.except.iter().filter_map(met) {
        if exception.share >= 1.0 {
            return None;
        }
        and(1.0 - exception.share, exception.identify);
    }
    Some(fit)
}

/// Whether a condition holds; `None` when what is known rules it out.
fn holds(condition: &Condition, family: &Family, candidate: &Candidate, a: &Assumptions) -> Option<Fit> {
    if condition.built.is_some_and(|w| !w.contains(candidate.built)) {
        return None;
    }
    let mut fit = Fit { share: 1.0, identify: Vec::new() };
    if let Some(window) = &condition.serial {
        match candidate.serials.get(&family.id) {
            Some(serial) if window.contains(serial) => {}
            Some(_) => return None,
            None => {
                fit.share *= window.share.map_or(a.share_unknown_fact, Probability::get);
                fit.identify.push(SERIAL.to_owned());
            }
        }
    }
    for (fact, accepted) in &condition.facts {
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

/// Whether a point concerns the candidate.
#[must_use]
pub fn concerns(point: &FailurePoint, family: &Family, families: &[Family], c: &Candidate, a: &Assumptions) -> bool {
    fit(&point.applies, family, c, a).is_some() && !makes_way(point, family, families, c, a)
}

/// Whether a point of a base sheet or a pattern gives way to one of the same part that stands above it.
pub(crate) fn makes_way(
    point: &FailurePoint,
    family: &Family,
    families: &[Family],
    c: &Candidate,
    a: &Assumptions,
) -> bool {
    if point.part.is_none() {
        return false;
    }
    let used = families.iter().filter(|f| c.families.iter().any(|r| r.id == f.id));
    let mut same = used
        .flat_map(|f| f.points.iter().map(move |p| (f, p)))
        .filter(|(_, p)| p.part == point.part && !std::ptr::eq(*p, point))
        .peekable();
    if same.peek().is_none() {
        return false;
    }
    let own = layer(family, "points", &point.id);
    own != Layer::Own
        && same
            .filter(|(f, p)| above(family, own, f, layer(f, "points", &p.id), families))
            .any(|(f, p)| fit(&p.applies, f, c, a).is_some())
}

/// Whether scheduled work concerns the candidate. That of a base sheet makes way for the same work of a family's own.
#[must_use]
pub fn work_concerns(
    interval: &Interval,
    family: &Family,
    families: &[Family],
    c: &Candidate,
    a: &Assumptions,
) -> bool {
    let own = layer(family, "intervals", &interval.id);
    let used = families.iter().filter(|f| c.families.iter().any(|r| r.id == f.id));
    // What a family's own sheet says makes way for nothing.
    let oil = own != Layer::Own && interval.is_engine_oil();
    let same = |i: &Interval| i.id == interval.id || (oil && i.is_engine_oil());
    fit(&interval.applies, family, c, a).is_some()
        && (own == Layer::Own
            || !used
                .flat_map(|f| f.intervals.iter().map(move |i| (f, i)))
                .filter(|(f, i)| same(i) && above(family, own, f, layer(f, "intervals", &i.id), families))
                .any(|(f, i)| fit(&i.applies, f, c, a).is_some()))
}

/// The sheets that the candidate names, in its order.
pub(crate) fn named<'f>(candidate: &Candidate, families: &'f [Family]) -> Vec<&'f Family> {
    let find =
        |r: &crate::documents::candidate::FamilyRef| families.iter().find(|f| f.id == r.id && f.version == r.version);
    candidate.families.iter().filter_map(find).collect()
}
