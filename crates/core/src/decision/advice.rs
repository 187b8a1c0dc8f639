//! What the sheets advise on this variant: which to buy, and how to treat it afterwards. Words of sources; no money
//! follows from them beyond what the failure points already say.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::tuned::{Beyond, Tuned};
use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::{Advice, AdviceKind, Family};
use crate::documents::reference::PointRef;
use crate::inference::applicable_point::ApplicablePoint;

/// Advice of a sheet that concerns this one, or may.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Advised {
    /// Whose sheet, by name.
    pub family: String,
    /// What is advised.
    pub kind: AdviceKind,
    /// What is said.
    pub says: String,
    /// Whose advice, by name.
    pub source: String,
    /// Who should take it to heart; empty: everybody.
    pub for_whom: String,
    /// Facts that would settle whether it concerns this variant; empty where it does.
    pub identify: Vec<String>,
    /// Of "only if": the failure point that must be proved renewed.
    pub proof: Option<Proof>,
}

/// What must be proved renewed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Proof {
    /// The failure point.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// Whether it is.
    pub given: bool,
}

/// How to treat it after purchase.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Rule {
    /// Its name among all sheets.
    pub id: String,
    /// Whose sheet, by name.
    pub family: String,
    /// What to do, or never to do.
    pub says: String,
    /// Why.
    pub why: String,
    /// Usage between one time and the next; none where it holds always.
    pub every_usage: Option<f64>,
    /// Years between one time and the next.
    pub every_years: Option<f64>,
    /// Names of the failure points whose lives suppose it.
    pub points: Vec<String>,
}

/// Advice on this variant, the hardest first.
#[must_use]
pub(crate) fn advised(
    candidate: &Candidate,
    families: &[Family],
    points: &[ApplicablePoint<'_>],
    tuned: &[Tuned],
    a: &Assumptions,
) -> Vec<Advised> {
    let mut out: Vec<Advised> = families
        .iter()
        .flat_map(|f| f.advice.iter().map(move |x| (f, x)))
        .filter_map(|(f, x)| one(candidate, f, x, points, a))
        .collect();
    out.extend(tuned.iter().filter_map(|x| of_tune(candidate, x)));
    out.sort_by_key(|x| (x.kind, !x.identify.is_empty()));
    out
}

/// What follows from a tune: more than standard parts bear is left, what nobody measured is proved first.
fn of_tune(candidate: &Candidate, x: &Tuned) -> Option<Advised> {
    let kept = candidate.tune.is_some_and(|t| !t.put_back);
    let first = x.points.iter().min_by(|p, q| p.lasts.total_cmp(&q.lasts)).map(|p| p.name.as_str());
    let suffers = first.map_or_else(String::new, |name| format!(" First to go: {name}."));
    let (kind, says) = match (x.beyond, x.power_kw) {
        (Beyond::Yes, Some(kw)) if kept => {
            (AdviceKind::Avoid, format!("It gives {kw:.0} kW: its standard parts bear {:.0}.{suffers}", x.limit_kw))
        }
        (Beyond::Yes, Some(kw)) => (
            AdviceKind::OnlyIf,
            format!("Only where it is put back to {:.0} kW: it ran with {kw:.0}.{suffers}", x.standard_kw),
        ),
        (Beyond::Unknown, _) => (
            AdviceKind::OnlyIf,
            format!("Only with its power on a bench sheet: standard parts bear {:.0} kW.{suffers}", x.limit_kw),
        ),
        _ => return None,
    };
    Some(Advised {
        family: x.family.clone(),
        kind,
        says,
        source: x.source.clone(),
        for_whom: String::new(),
        identify: Vec::new(),
        proof: None,
    })
}

fn one(
    candidate: &Candidate,
    family: &Family,
    x: &Advice,
    points: &[ApplicablePoint<'_>],
    a: &Assumptions,
) -> Option<Advised> {
    let fit = fit(&x.applies, family, candidate, a)?;
    let proof = x.proved.as_deref().and_then(|id| {
        let s = points.iter().find(|s| s.family.id == family.id && s.point.id == id)?;
        let given = s.entries.iter().any(|e| a.credibility(e.evidence) >= a.proved);
        let at = PointRef { family: family.id.clone(), point: id.to_owned() };
        Some(Proof { at, name: s.point.name.clone(), given })
    });
    // What must be proved of a part that this one does not have is no advice.
    if x.proved.is_some() && proof.is_none() {
        return None;
    }
    let source = family.sources.iter().find(|s| s.id == x.source);
    Some(Advised {
        family: family.name.clone(),
        kind: x.kind,
        says: x.says.clone(),
        source: source.map_or_else(|| x.source.clone(), |s| s.name.clone()),
        for_whom: x.for_whom.clone().unwrap_or_default(),
        identify: fit.identify,
        proof,
    })
}

/// The rules of care on this variant.
#[must_use]
pub(crate) fn rules(candidate: &Candidate, families: &[Family], a: &Assumptions) -> Vec<Rule> {
    let each = families.iter().flat_map(|f| f.care_rules.iter().map(move |r| (f, r)));
    let concerned = each.filter(|(f, r)| fit(&r.applies, f, candidate, a).is_some());
    concerned
        .map(|(f, r)| Rule {
            id: format!("{}-{}", f.id, r.id),
            family: f.name.clone(),
            says: r.says.clone(),
            why: r.why.clone(),
            every_usage: r.usage,
            every_years: r.years,
            points: r.points.iter().filter_map(|id| f.point(id)).map(|p| p.name.clone()).collect(),
        })
        .collect()
}
