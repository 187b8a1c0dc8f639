//! The inputs that would move the expected bill most.

use crate::assess::judge::assess_to;
use crate::base::units::Probability;
use crate::base::units::Usage;
use crate::documents::applicability::named;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Labour;
use crate::documents::candidate::Candidate;
use crate::documents::care_level::CareLevel;
use crate::documents::failure_point::Exposure;
use crate::documents::family::Family;
use crate::documents::job::PartGrade;
use crate::documents::paper::Evidence;
use crate::inference::context::AssessError;
use crate::inference::context::with_scene;
use crate::inference::depth::Depth;
use crate::money::expected_bill::expected_bill;
use serde::Deserialize;
use serde::Serialize;
use utoipa::ToSchema;

/// An input that was varied.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Input {
    /// Usage a year in the plan, three quarters to five quarters of what was stated.
    UsageAYear,
    /// Years of the plan, one fewer to one more.
    Years,
    /// True usage now, a tenth less to a tenth more than stated.
    UsageNow,
    /// An exposure in the past, none to full.
    PastUse {
        /// Which.
        exposure: Exposure,
    },
    /// An exposure in the plan, none to full.
    PlanUse {
        /// Which.
        exposure: Exposure,
    },
    /// How the buyer will keep it, good to poor.
    OwnCare,
    /// How it was kept so far, good to poor.
    PastCare,
    /// Who does the work: the owner to a dealer.
    Labour,
    /// Grade of the parts bought: used to original.
    Parts,
    /// Which one school is heard.
    School,
    /// A fact not known yet, over its answers.
    Fact {
        /// The family that asks.
        family: String,
        /// The fact.
        fact: String,
        /// The question.
        label: String,
    },
    /// A ledger entry that is not certain: true or false.
    Entry {
        /// Index into the ledger.
        entry: usize,
    },
}

/// An input, what it was set to at the two ends, and the bill there.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Sensitivity {
    /// Which.
    pub input: Input,
    /// The setting with the smaller bill.
    pub low: Tried,
    /// The setting with the larger bill.
    pub high: Tried,
}

/// One setting of an input and the bill it gives.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Tried {
    /// The setting: a figure or the id of an answer.
    pub setting: String,
    /// Expected bill within the plan, units of the currency.
    pub bill: f64,
}

/// How many inputs are told.
pub const SENSITIVITIES: usize = 5;

/// The five inputs that would move the expected bill most, each with the range tried, the widest first.
///
/// # Errors
/// As [`crate::assess`]; settings that make no sense for this candidate are left out.
pub fn sensitivity(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
) -> Result<Vec<Sensitivity>, AssessError> {
    let own = assess_to(candidate, families, a, Depth::Lean)?;
    let mut out = Vec::new();
    for (input, settings) in tries(candidate, families, a) {
        let tried = settings.into_iter().filter_map(|(setting, c)| {
            let bill = with_scene(&c, families, a, |scene| Ok(expected_bill(scene))).ok()?;
            Some(Tried { setting, bill })
        });
        push(&mut out, input, tried.collect());
    }
    let [poor, _, good] = own.care.bill;
    let care = [("good", good), ("poor", poor)].map(|(s, bill)| Tried { setting: s.to_owned(), bill });
    push(&mut out, Input::PastCare, care.to_vec());
    out.sort_by(|x, y| (y.high.bill - y.low.bill).total_cmp(&(x.high.bill - x.low.bill)));
    out.truncate(SENSITIVITIES);
    Ok(out)
}

fn push(out: &mut Vec<Sensitivity>, input: Input, tried: Vec<Tried>) {
    let least = tried.iter().min_by(|x, y| x.bill.total_cmp(&y.bill)).cloned();
    let most = tried.into_iter().max_by(|x, y| x.bill.total_cmp(&y.bill));
    if let Some((low, high)) = least.zip(most).filter(|(l, h)| h.bill > l.bill) {
        out.push(Sensitivity { input, low, high });
    }
}

type Variants = Vec<(String, Candidate)>;

/// Every input worth varying on this candidate, with the candidates it gives.
fn tries(c: &Candidate, families: &[Family], a: &Assumptions) -> Vec<(Input, Variants)> {
    let used = named(c, families);
    let change = |setting: &str, f: &dyn Fn(&mut Candidate)| {
        let mut changed = c.clone();
        f(&mut changed);
        (setting.to_owned(), changed)
    };
    let scaled = |u: Usage, by: f64| Usage { value: u.value * by, unit: u.unit };
    let figure = |u: Usage| format!("{:.0}", u.value);
    let mut out: Vec<(Input, Variants)> = Vec::new();
    let a_year = [0.75, 1.25].map(|by| {
        let to = scaled(c.plan.usage_a_year, by);
        change(&figure(to), &|x| x.plan.usage_a_year = to)
    });
    out.push((Input::UsageAYear, a_year.to_vec()));
    let years = [c.plan.years - 1.0, c.plan.years + 1.0].into_iter().filter(|y| *y > 0.0 && *y <= 40.0);
    out.push((Input::Years, years.map(|y| change(&format!("{y}"), &|x| x.plan.years = y)).collect()));
    let now = [0.9, 1.1].map(|by| {
        let to = scaled(c.usage, by);
        change(&figure(to), &|x| x.usage = to)
    });
    out.push((Input::UsageNow, now.to_vec()));
    let mut exposures: Vec<Exposure> =
        used.iter().flat_map(|f| &f.points).flat_map(|p| p.exposures.keys().copied()).collect();
    exposures.sort_unstable();
    exposures.dedup();
    let ends = [("none", Probability::ZERO), ("full", Probability::ONE)];
    for exposure in exposures {
        let past = ends.map(|(name, level)| {
            change(name, &|x| {
                x.past_use.insert(exposure, level);
            })
        });
        out.push((Input::PastUse { exposure }, past.to_vec()));
        let plan = ends.map(|(name, level)| {
            change(name, &|x| {
                x.plan.use_.insert(exposure, level);
            })
        });
        out.push((Input::PlanUse { exposure }, plan.to_vec()));
    }
    let care = [("good", CareLevel::Good), ("poor", CareLevel::Poor)].map(|(n, l)| change(n, &|x| x.plan.care = l));
    out.push((Input::OwnCare, care.to_vec()));
    let labour = [("self", Labour::Own), ("independent", Labour::Independent), ("dealer", Labour::Dealer)];
    out.push((Input::Labour, labour.map(|(n, l)| change(n, &|x| x.buyer.labour = l)).to_vec()));
    let parts = [("used", PartGrade::Used), ("equivalent", PartGrade::Equivalent), ("original", PartGrade::Original)];
    out.push((Input::Parts, parts.map(|(n, g)| change(n, &|x| x.buyer.parts = g)).to_vec()));
    let mut schools: Vec<&str> = used.iter().flat_map(|f| &f.schools).map(|s| s.id.as_str()).collect();
    schools.sort_unstable();
    schools.dedup();
    let alone = schools.into_iter().map(|s| change(s, &|x| x.buyer.schools = [(s.to_owned(), 1.0)].into()));
    out.push((Input::School, alone.collect()));
    for family in &used {
        let asked = |id: &str| {
            let concerns = |p: &crate::documents::failure_point::FailurePoint| p.applies.facts.contains_key(id);
            !c.facts.contains_key(id) && family.points.iter().any(concerns)
        };
        for fact in family.facts.iter().filter(|f| asked(&f.id)) {
            let answers = fact.values.iter();
            let to = answers.map(|v| {
                change(&v.id, &|x| {
                    x.facts.insert(fact.id.clone(), v.id.clone());
                })
            });
            let (family, id, label) = (family.id.clone(), fact.id.clone(), fact.label.clone());
            out.push((Input::Fact { family, fact: id, label }, to.collect()));
        }
    }
    let unsure = |e: Evidence| a.credibility(e) < a.credit_invoice;
    let doubted = |e: &crate::documents::paper::LedgerEntry| !e.renews.is_empty() && unsure(e.evidence);
    for (entry, _) in c.ledger.iter().enumerate().filter(|(_, e)| doubted(e)) {
        let both = [
            change("true", &|x| x.ledger[entry].evidence = Evidence::InvoiceNamingPart),
            change("false", &|x| {
                x.ledger.remove(entry);
            }),
        ];
        out.push((Input::Entry { entry }, both.to_vec()));
    }
    out
}
