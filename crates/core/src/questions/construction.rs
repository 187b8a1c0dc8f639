//! A first assessment from how a thing is built, and which question would tell most next.

use std::collections::BTreeMap;

use jiff::Span;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::budget::Budget;
use crate::base::fault::Fault;
use crate::base::units::{Money, Usage, UsageClock, UsageUnit};
use crate::documents::assumptions::Assumptions;
use crate::documents::built_as::BuiltAs;
use crate::documents::buyer::{Buyer, Plan};
use crate::documents::candidate::{Candidate, FamilyRef};
use crate::documents::family::{Family, FamilyFormat};
use crate::documents::pattern::Question;
use crate::inference::context::{AssessError, with_context};
use crate::money::expected_bill::expected_bill;
use crate::patterns::answers::Known;
use crate::patterns::compose::composed_of;
use crate::patterns::library::{Library, THING, kind_of};

/// What is known so far, and of what example one asks.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BuiltQuestion {
    /// Question to answer; what is left out is not known.
    pub answers: BTreeMap<String, String>,
    /// Its usage; none: what is middling for such a thing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub usage: Option<Usage>,
    /// When it was built; none: as old as its usage makes likely.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub built: Option<Date>,
    /// What is asked for it; none: what such a thing goes for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub asking: Option<Money>,
    /// Three-letter code of the yard's currency.
    #[schema(pattern = "^[A-Z]{3}$")]
    pub currency: String,
    /// The plan; none: three years at the usual pace.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plan: Option<Plan>,
    /// Who does the work, and for how much.
    #[serde(default)]
    pub buyer: Buyer,
}

/// A question that is open, and what its answers would move.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OpenQuestion {
    /// Its short name.
    pub id: String,
    /// As asked.
    pub label: String,
    /// How one tells.
    pub how: String,
    /// The drawing beside it, by name.
    pub drawing: Option<String>,
    /// The answers that can be.
    pub values: Vec<OpenAnswer>,
    /// By how much an answer would move the bill on average, units of the currency.
    pub moves: f64,
}

/// An answer that can be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OpenAnswer {
    /// Its short name.
    pub id: String,
    /// As shown.
    pub label: String,
    /// Share of such things that are built so, 0 to 1.
    pub share: f64,
}

/// A question that is settled.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SettledQuestion {
    /// Its short name.
    pub id: String,
    /// As asked.
    pub label: String,
    /// The answer's short name.
    pub answer: String,
    /// The answer as shown.
    pub says: String,
    /// Whether it follows from other answers.
    pub follows: bool,
}

/// What how it is built says so far.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BuiltView {
    /// What is settled, in the order of the questions.
    pub settled: Vec<SettledQuestion>,
    /// What is open, that which moves most first.
    pub open: Vec<OpenQuestion>,
    /// Patterns that it is made of, by name.
    pub patterns: Vec<String>,
    /// Failure points known of it.
    pub points: usize,
    /// Checks known of it.
    pub checks: usize,
    /// Expected bill over the plan of a typical example, units of the currency; none while nobody has said what kind
    /// of thing it is.
    pub bill: Option<f64>,
    /// The same a year.
    pub a_year: Option<f64>,
    /// What is open could move the bill by about so much either way.
    pub doubt: Option<f64>,
    /// The usage that it was judged at.
    pub usage: Usage,
    /// The day from which it is old.
    #[schema(value_type = String, format = Date)]
    pub built: Date,
}

/// Clock of such a thing.
#[must_use]
pub fn clock_of(answers: &BTreeMap<String, String>) -> UsageClock {
    let engine = answers.get(THING).is_some_and(|t| t == "engine");
    let road = answers.get("use").is_some_and(|u| u == "road");
    if engine && !road { UsageClock::Hours } else { UsageClock::Km }
}

/// A sheet from answers.
///
/// # Errors
/// Answers that are none, or contradict each other.
pub fn sheet(
    (id, name): (&str, &str),
    answers: BTreeMap<String, String>,
    currency: &str,
    library: &Library,
    a: &Assumptions,
) -> Result<Family, Vec<Fault>> {
    let clock = clock_of(&answers);
    let kind = kind_of(answers.get(THING).map_or("", String::as_str));
    let sheet = Family {
        format: FamilyFormat::V2,
        id: id.to_owned(),
        version: 1,
        name: name.to_owned(),
        kind,
        clock,
        currency: currency.to_owned(),
        summary: String::new(),
        built: crate::documents::applies::Window::default(),
        built_as: Some(BuiltAs { answers, patterns: Vec::new() }),
        patterns: Vec::new(),
        sources: Vec::new(),
        facts: Vec::new(),
        settles: BTreeMap::new(),
        points: Vec::new(),
        checks: Vec::new(),
        jobs: Vec::new(),
        access: Vec::new(),
        intervals: Vec::new(),
        campaigns: Vec::new(),
        adjusts: Vec::new(),
        adjusts_checks: Vec::new(),
        adjusts_jobs: Vec::new(),
        upgrades: Vec::new(),
        alterations: Vec::new(),
        advice: Vec::new(),
        care_rules: Vec::new(),
        supply: Vec::new(),
        marks: Vec::new(),
    };
    composed_of(sheet, library, a)
}

/// What how it is built says so far: the sheet's size, a first bill, and what to ask next.
///
/// # Errors
/// Answers that are none or contradict each other, and a usage, price or plan without sense.
pub fn built_view(
    question: &BuiltQuestion,
    today: Date,
    library: &Library,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<BuiltView, AssessError> {
    let known = Known { library, answers: &question.answers };
    let all = library.questions.questions.iter().filter(|q| known.matters(q) != Some(false));
    let settled = all.filter_map(|q| settled(q, &known)).collect();
    let mut open: Vec<OpenQuestion> = known.unanswered().into_iter().map(|q| open_question(q, &known)).collect();
    if !question.answers.contains_key(THING) {
        // What kind of thing it is comes first; nothing can be said before.
        open.retain(|q| q.id == THING);
        return Ok(nothing_yet(settled, open, today));
    }
    let sheet_of = |answers: BTreeMap<String, String>| {
        sheet(("built", "As built"), answers, &question.currency, library, a).map_err(AssessError::Faults)
    };
    let own = sheet_of(question.answers.clone())?;
    let candidate = example(question, own.clock, today);
    let bill_of = |f: &Family| {
        let families = std::slice::from_ref(f);
        with_context(&candidate, families, a, budget, |context| Ok(expected_bill(context)))
    };
    let bill = bill_of(&own)?;
    for q in &mut open {
        for v in &q.values {
            let mut answers = question.answers.clone();
            answers.insert(q.id.clone(), v.id.clone());
            // An answer that changes the clock cannot be tried on the same example.
            if clock_of(&answers) == own.clock {
                q.moves += v.share * (bill_of(&sheet_of(answers)?)? - bill).abs();
            }
        }
    }
    open.sort_by(|x, y| y.moves.total_cmp(&x.moves));
    let doubt = open.iter().map(|q| q.moves * q.moves).sum::<f64>().sqrt();
    Ok(BuiltView {
        settled,
        open,
        patterns: own.patterns.iter().map(|p| p.name.clone()).collect(),
        points: own.points.len(),
        checks: own.checks.len(),
        bill: Some(bill),
        a_year: Some(bill / candidate.plan.years),
        doubt: Some(doubt),
        usage: candidate.usage,
        built: candidate.built,
    })
}

/// Before anybody has said what kind of thing it is.
fn nothing_yet(settled: Vec<SettledQuestion>, open: Vec<OpenQuestion>, today: Date) -> BuiltView {
    BuiltView {
        settled,
        open,
        patterns: Vec::new(),
        points: 0,
        checks: 0,
        bill: None,
        a_year: None,
        doubt: None,
        usage: Usage { value: 0.0, unit: UsageUnit::Km },
        built: today,
    }
}

fn settled(q: &Question, known: &Known<'_>) -> Option<SettledQuestion> {
    let stated = known.answers.get(&q.id);
    let answer = match stated {
        Some(answer) => answer.as_str(),
        None => match known.shares(q).as_slice() {
            [(only, _)] if known.matters(q) == Some(true) => only.id.as_str(),
            _ => return None,
        },
    };
    let value = q.values.iter().find(|v| v.id == answer)?;
    Some(SettledQuestion {
        id: q.id.clone(),
        label: q.label.clone(),
        answer: answer.to_owned(),
        says: value.label.clone(),
        follows: stated.is_none(),
    })
}

fn open_question(q: &Question, known: &Known<'_>) -> OpenQuestion {
    let values =
        known.shares(q).into_iter().map(|(v, share)| OpenAnswer { id: v.id.clone(), label: v.label.clone(), share });
    OpenQuestion {
        id: q.id.clone(),
        label: q.label.clone(),
        how: q.how.clone(),
        drawing: q.drawing.clone(),
        values: values.collect(),
        moves: 0.0,
    }
}

/// What is middling for such a thing: usage, and usage a year.
fn middling(thing: &str, clock: UsageClock, a: &Assumptions) -> (f64, f64) {
    match (thing, clock) {
        ("motorcycle", _) => (a.middling_motorcycle_km, a.pace_motorcycle_km),
        (_, UsageClock::Hours) => (a.middling_hours, a.pace_hours),
        _ => (a.middling_km, a.pace_km),
    }
}

/// A typical example of it.
#[allow(clippy::cast_possible_truncation)]
fn example(question: &BuiltQuestion, clock: UsageClock, today: Date) -> Candidate {
    let a = Assumptions::default();
    let thing = question.answers.get(THING).map_or("", String::as_str);
    let unit = if clock == UsageClock::Hours { UsageUnit::Hours } else { UsageUnit::Km };
    let (run, pace) = middling(thing, clock, &a);
    let fits = question.usage.filter(|u| (u.unit == UsageUnit::Hours) == (clock == UsageClock::Hours));
    let usage = fits.unwrap_or(Usage { value: run, unit });
    let days = (usage.on_clock() / pace).clamp(0.5, 30.0) * 365.25;
    let built = question.built.filter(|b| *b <= today);
    let built = built.unwrap_or_else(|| today.saturating_sub(Span::new().days(days as i64)));
    let plan = question.plan.clone().filter(|p| {
        (p.usage_a_year.unit == UsageUnit::Hours) == (clock == UsageClock::Hours) && p.usage_a_year.value > 0.0
    });
    let usual = Plan {
        years: 3.0,
        usage_a_year: Usage { value: pace, unit },
        use_: BTreeMap::new(),
        care: crate::documents::care_level::CareLevel::default(),
    };
    let middle = a.rate_independent * a.middling_price_hours;
    let asking = question.asking.or_else(|| Money::try_from(middle).ok()).unwrap_or_default();
    let family = FamilyRef { id: "built".to_owned(), version: 1 };
    let plan = plan.unwrap_or(usual);
    let candidate = Candidate::unseen(family, (today, built), usage, (asking, &question.currency), plan);
    Candidate { buyer: question.buyer.clone(), ..candidate }
}
