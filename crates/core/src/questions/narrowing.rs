//! Which of a family to look for: every variant and build stretch, what a typical example of it costs, and what changes
//! at each boundary.
//!
//! docs/METHOD.md, section 16. A boundary is a build date at which a revision, a window of a point or a campaign begins
//! or ends; variants are the answers of the family's facts. The reference is the mixture of the stretches by their years
//! on the market, so that a good choice of build shows as money.

use std::collections::{BTreeMap, BTreeSet};

use jiff::Span;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::assessment::Assessment;
use crate::assess::judge::assess_within;
use crate::base::budget::Budget;
use crate::base::units::{Money, Usage, UsageClock, UsageUnit};
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::{Buyer, Plan};
use crate::documents::candidate::{Candidate, FamilyRef};
use crate::documents::care_level::CareLevel;
use crate::documents::family::{AdviceKind, Family};
use crate::inference::context::AssessError;
use crate::inference::depth::Depth;

/// Points named at a boundary.
const NAMED: usize = 5;

/// The most stretches that are judged; further variants are counted.
const MOST: usize = 24;

/// What one means to buy.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Wanted {
    /// Years of keeping it, 0.5 to 15.
    pub years: f64,
    /// Usage a year, km or engine hours.
    pub usage_a_year: f64,
    /// What it will have run when it is bought, km or engine hours; none: what its age makes usual.
    #[serde(default)]
    pub usage: Option<f64>,
    /// What may be paid for it, units of the currency.
    #[serde(default)]
    pub budget: Option<f64>,
}

/// A variant and build stretch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Stretch {
    /// The family.
    pub family: String,
    /// What it is: the answers that make the variant, none where it has one alone.
    pub variant: String,
    /// The answers.
    pub facts: BTreeMap<String, String>,
    /// Built from.
    #[schema(value_type = String, format = Date)]
    pub from: Date,
    /// Built to.
    #[schema(value_type = String, format = Date)]
    pub to: Date,
    /// What a typical example has run, on the family's clock.
    pub usage: f64,
    /// What it costs a year, units of the currency.
    pub a_year: f64,
    /// What it costs for a thousand kilometres, or a hundred hours.
    pub per: f64,
    /// What one in ten passes a year.
    pub p90_a_year: f64,
    /// Chance that something ends the engine or costs half of what it is worth within the plan.
    pub blow: f64,
    /// What it costs a year less than the mixture on the market does; below nothing: more.
    pub saves: f64,
    /// What changes against the stretch before it of the same variant, the dearest first.
    pub changes: Vec<StretchChange>,
    /// What the sheet advises of it.
    pub advice: Vec<StretchAdvice>,
}

/// What changes at a boundary.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StretchChange {
    /// The point.
    pub point: String,
    /// Its name.
    pub name: String,
    /// Chance within the plan before.
    pub before: f64,
    /// Chance within the plan after.
    pub after: f64,
    /// What that is worth over the plan, units of the currency; above nothing: saved.
    pub worth: f64,
}

/// What a sheet advises of a stretch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StretchAdvice {
    /// Prefer, avoid, only if, or praise.
    pub kind: AdviceKind,
    /// In its words.
    pub says: String,
    /// Whether the figures agree; none where they cannot say.
    pub agrees: Option<bool>,
}

/// Which of a family to look for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Narrowed {
    /// Every stretch, the cheapest to run first.
    pub stretches: Vec<Stretch>,
    /// Variants and stretches beyond those judged.
    pub further: usize,
    /// What the mixture on the market costs a year.
    pub mixture: f64,
    /// What to insist on, in the order of its money: what to see, and of which point.
    pub insist: Vec<Insist>,
    /// Three-letter code of the currency.
    pub currency: String,
}

/// What to insist on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Insist {
    /// The point.
    pub point: String,
    /// What to ask for.
    pub says: String,
    /// What it decides over the plan, units of the currency.
    pub worth: f64,
}

/// Build dates at which something begins, within the family's own.
pub(crate) fn cuts(family: &Family, from: Date, to: Date) -> Vec<Date> {
    let mut all: BTreeSet<Date> = BTreeSet::new();
    let mut window = |w: Option<crate::documents::applies::Window>| {
        let Some(w) = w else { return };
        all.extend(w.from);
        all.extend(w.to.and_then(|t| t.tomorrow().ok()));
    };
    for p in &family.points {
        p.applies.conditions().for_each(|c| window(c.built));
        for r in p.revision.iter().chain(&p.revisions) {
            window(Some(crate::documents::applies::Window { from: r.from, to: None }));
        }
    }
    family.campaigns.iter().for_each(|c| c.applies.conditions().for_each(|c| window(c.built)));
    family.advice.iter().for_each(|c| c.applies.conditions().for_each(|c| window(c.built)));
    all.into_iter().filter(|d| *d > from && *d <= to).collect()
}

/// The variants of a family: answers to its facts, two facts at most.
fn variants(family: &Family) -> Vec<(String, BTreeMap<String, String>)> {
    let asked: BTreeSet<String> =
        family.points.iter().flat_map(|p| p.applies.conditions()).flat_map(|c| c.facts.into_keys()).collect();
    let facts: Vec<_> = family.facts.iter().filter(|f| asked.contains(&f.id) && f.values.len() > 1).take(2).collect();
    let mut out = vec![(Vec::<String>::new(), BTreeMap::new())];
    for f in facts {
        out = out
            .into_iter()
            .flat_map(|(names, facts)| {
                f.values.iter().map(move |v| {
                    let (mut names, mut facts) = (names.clone(), facts.clone());
                    let label = v.label.split(',').next().unwrap_or_default();
                    names.push(format!("{}: {}", f.label, label.to_lowercase()));
                    facts.insert(f.id.clone(), v.id.clone());
                    (names, facts)
                })
            })
            .collect();
    }
    out.into_iter().map(|(names, facts)| (names.join(", "), facts)).collect()
}

/// Which variants and builds of a family to look for.
///
/// `families` are the sheets that judge it together, its own first.
///
/// # Errors
/// A sheet that makes no sense, and too much work.
pub fn narrowed(
    families: &[Family],
    wanted: &Wanted,
    buyer: &Buyer,
    currency: &str,
    today: Date,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Narrowed, AssessError> {
    let Some(family) = families.first() else { return Err(AssessError::Faults(Vec::new())) };
    let from = family.built.from.unwrap_or_else(|| today.saturating_sub(Span::new().years(15)));
    let to = family.built.to.unwrap_or(today).min(today);
    let mut bounds = vec![from];
    bounds.extend(cuts(family, from, to));
    let ends: Vec<Date> = bounds.iter().skip(1).filter_map(|d| d.yesterday().ok()).chain([to]).collect();
    let (variants, mut out, mut further) = (variants(family), Vec::<Stretch>::new(), 0);
    for (name, facts) in &variants {
        let mut before: Option<Assessment> = None;
        for (from, to) in bounds.iter().zip(&ends) {
            if out.len() >= MOST {
                further += 1;
                continue;
            }
            let judged = typical_of(families, facts, (*from, *to), wanted, buyer, currency, today, a, budget)?;
            let mut s = stretch(family, name, facts, (*from, *to), &judged);
            s.changes = before.as_ref().map(|b| changes(b, &judged)).unwrap_or_default();
            out.push(s);
            before = Some(judged);
        }
    }
    let mut out = without_idle_variants(out);
    let days = |s: &Stretch| f64::from(s.from.until(s.to).map_or(1, |d| d.get_days()).max(1));
    let all: f64 = out.iter().map(days).sum();
    let mixture = out.iter().map(|s| s.a_year * days(s)).sum::<f64>() / all.max(1.0);
    for s in &mut out {
        s.saves = mixture - s.a_year;
        s.advice = advice(family, s);
    }
    let insist = insist(&out, wanted.years);
    out.sort_by(|x, y| x.a_year.total_cmp(&y.a_year));
    Ok(Narrowed { stretches: out, further, mixture, insist, currency: currency.to_owned() })
}

#[allow(clippy::too_many_arguments, clippy::cast_possible_truncation)]
fn typical_of(
    families: &[Family],
    facts: &BTreeMap<String, String>,
    (from, to): (Date, Date),
    wanted: &Wanted,
    buyer: &Buyer,
    currency: &str,
    today: Date,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Assessment, AssessError> {
    let first = &families[0];
    let unit = if first.clock == UsageClock::Hours { UsageUnit::Hours } else { UsageUnit::Km };
    let days = from.until(to).map_or(0, |d| d.get_days());
    let built = from.saturating_add(Span::new().days(days / 2)).min(today.saturating_sub(Span::new().days(30)));
    let age = f64::from(built.until(today).map_or(365, |d| d.get_days())) / 365.25;
    let pace = match unit {
        UsageUnit::Hours => a.pace_hours,
        _ if first.kind == crate::documents::family::FamilyKind::Motorcycle => a.pace_motorcycle_km,
        _ => a.pace_km,
    };
    let usage = Usage { value: wanted.usage.unwrap_or(pace * age).max(1.0), unit };
    let plan = Plan {
        years: wanted.years,
        usage_a_year: Usage { value: wanted.usage_a_year, unit },
        use_: BTreeMap::new(),
        care: CareLevel::default(),
    };
    let asking = wanted.budget.unwrap_or(a.rate_independent * a.middling_price_hours);
    let asking = Money::try_from((asking * 100.0).round() / 100.0).unwrap_or_default();
    let of = |f: &Family| FamilyRef { id: f.id.clone(), version: f.version };
    let mut c = Candidate::unseen(of(first), (today, built), usage, (asking, currency), plan);
    c.families = families.iter().map(of).collect();
    c.buyer = buyer.clone();
    c.facts = facts.clone();
    c.settle(families);
    assess_within(&c, families, a, Depth::Lean, budget)
}

fn stretch(
    family: &Family,
    variant: &str,
    facts: &BTreeMap<String, String>,
    (from, to): (Date, Date),
    judged: &Assessment,
) -> Stretch {
    let unit = if family.clock == UsageClock::Hours { 100.0 } else { 1000.0 };
    let a_year = judged.bill.mean / judged.plan_years;
    Stretch {
        family: family.id.clone(),
        variant: variant.to_owned(),
        facts: facts.clone(),
        from,
        to,
        usage: judged.usage_now,
        a_year,
        per: a_year / judged.usage_a_year.max(1.0) * unit,
        p90_a_year: judged.bill.p90 / judged.plan_years,
        blow: judged.blow(),
        saves: 0.0,
        changes: Vec::new(),
        advice: Vec::new(),
    }
}

/// One row a stretch where the variants cost the same: then they are no choice.
fn without_idle_variants(all: Vec<Stretch>) -> Vec<Stretch> {
    /// What is no difference, as a share.
    const SAME: f64 = 0.015;
    let choice = all.iter().any(|s| {
        let same = all.iter().filter(|x| x.from == s.from);
        same.into_iter().any(|x| (x.a_year - s.a_year).abs() > SAME * s.a_year)
    });
    if choice {
        return all;
    }
    let mut out: Vec<Stretch> = Vec::new();
    for s in all {
        if out.iter().all(|x| x.from != s.from) {
            out.push(Stretch { variant: String::new(), facts: BTreeMap::new(), ..s });
        }
    }
    out
}

/// What is worth naming between two stretches: usage and age move as well, so only what jumps.
fn changes(before: &Assessment, after: &Assessment) -> Vec<StretchChange> {
    /// Chance that must change to be named.
    const LEAST: f64 = 0.03;
    let mut out: Vec<StretchChange> = Vec::new();
    for p in &after.points {
        let old = before.points.iter().find(|q| q.at == p.at);
        let (was, cost) = old.map_or((0.0, 0.0), |q| (q.p_plan, q.expected_cost));
        let jumps = p.revised != old.is_some_and(|q| q.revised) || old.is_none();
        if jumps && (was - p.p_plan).abs() >= LEAST {
            out.push(StretchChange {
                point: p.at.point.clone(),
                name: p.name.clone(),
                before: was,
                after: p.p_plan,
                worth: cost - p.expected_cost,
            });
        }
    }
    for q in before.points.iter().filter(|q| after.points.iter().all(|p| p.at != q.at)) {
        if q.p_plan >= LEAST {
            out.push(StretchChange {
                point: q.at.point.clone(),
                name: q.name.clone(),
                before: q.p_plan,
                after: 0.0,
                worth: q.expected_cost,
            });
        }
    }
    out.sort_by(|x, y| y.worth.abs().total_cmp(&x.worth.abs()));
    out.truncate(NAMED);
    out
}

/// What the sheet advises of a stretch, and whether the figures agree.
fn advice(family: &Family, s: &Stretch) -> Vec<StretchAdvice> {
    let concerns = |c: crate::documents::applies::Condition| {
        let built = c.built.is_none_or(|w| w.from.is_none_or(|f| f <= s.to) && w.to.is_none_or(|t| t >= s.from));
        built && c.facts.iter().all(|(f, accepted)| s.facts.get(f).is_none_or(|v| accepted.contains(v)))
    };
    // Not those that hold of the whole family: nothing is chosen by them.
    let chosen = |c: &crate::documents::applies::Condition| c.built.is_some() || !c.facts.is_empty();
    family
        .advice
        .iter()
        .filter(|x| x.applies.conditions().any(|c| chosen(&c) && concerns(c)))
        .map(|x| StretchAdvice {
            kind: x.kind,
            says: x.says.clone(),
            agrees: match x.kind {
                AdviceKind::Prefer => Some(s.saves > 0.0),
                AdviceKind::Avoid => Some(s.saves < 0.0),
                AdviceKind::OnlyIf | AdviceKind::Praise => None,
            },
        })
        .collect()
}

/// What the choice of a build is about, to take along.
fn insist(stretches: &[Stretch], years: f64) -> Vec<Insist> {
    let mut best: BTreeMap<&str, (&StretchChange, &Stretch)> = BTreeMap::new();
    for s in stretches {
        for c in s.changes.iter().filter(|c| c.worth > 0.0) {
            let kept = best.entry(c.point.as_str()).or_insert((c, s));
            if c.worth > kept.0.worth {
                *kept = (c, s);
            }
        }
    }
    let mut out: Vec<Insist> = best
        .into_values()
        .map(|(c, s)| Insist {
            point: c.point.clone(),
            says: format!("{}: built from {}, or proof that the later part is in it", c.name, s.from.strftime("%B %Y")),
            worth: c.worth,
        })
        .collect();
    out.sort_by(|x, y| y.worth.total_cmp(&x.worth));
    out.retain(|i| i.worth >= years);
    out.truncate(8);
    out
}
