//! What is worth asking the seller: first what could stop the purchase, then what a paper would change.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::assessment::Assessment;
use crate::assess::judge::assess_within;
use crate::base::budget::Budget;
use crate::base::units::{DAYS_PER_YEAR, Usage, UsageUnit};
use crate::decision::blockers::BlockerCause;
use crate::decision::value_of_information::OpenCheck;
use crate::decision::value_of_information::worth;
use crate::documents::alteration::{Tune, TuneQuality};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::{BlockerKind, Phase};
use crate::documents::family::Family;
use crate::documents::finding::FindingResult;
use crate::documents::job::PartGrade;
use crate::documents::paper::{AdvisoryState, DateKnown, Evidence, LedgerEntry, ProvenanceKind, ProvenanceState};
use crate::documents::reference::{IntervalRef, PointRef};
use crate::evidence::odometer_result::AnomalyKind;
use crate::inference::context::{AssessError, with_context};
use crate::inference::depth::Depth;
use crate::money::expected_bill::expected_bill;
use crate::money::schedule::Due;

/// Failure points asked about at most.
const POINTS: usize = 8;

/// Scheduled work asked about at most.
const WORK: usize = 12;

/// What is asked for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Ask {
    /// An item of a history report that nobody asked yet, or that is marked.
    Provenance {
        /// Which.
        item: ProvenanceKind,
        /// Whether it is marked.
        marked: bool,
    },
    /// What explains the readings.
    Odometer {
        /// What is wrong with them.
        anomaly: AnomalyKind,
    },
    /// Proof of a recall or campaign.
    Campaign {
        /// Its name.
        name: String,
        /// How it is proved.
        proof: String,
    },
    /// The invoice for scheduled work.
    Work {
        /// Which.
        at: IntervalRef,
        /// Its name.
        name: String,
    },
    /// Whether and when a part was renewed.
    Renewal {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
    },
    /// Proof that an advisory was put right.
    Advisory {
        /// What was advised.
        text: String,
    },
    /// How much power it gives, who set it up, and on which paper.
    Tune {
        /// Power that the maker gave it, kilowatts.
        standard_kw: f64,
        /// Power that its standard parts bear, kilowatts.
        limit_kw: f64,
    },
    /// A check that is done by asking.
    Check {
        /// Its name.
        name: String,
        /// What to ask.
        how: String,
    },
}

/// A question to the seller.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Question {
    /// What is asked for.
    pub ask: Ask,
    /// How hard it closes while it is open; none where it only moves money.
    pub blocker: Option<BlockerKind>,
    /// What the answer is worth to the decision, units of the currency.
    pub value_of_information: f64,
    /// What a good answer would move the expected bill by.
    pub bill: f64,
}

/// The questions still to ask, in the order of what they are worth.
///
/// # Errors
/// As [`crate::assess()`].
pub fn questions(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Vec<Question>, AssessError> {
    let now = assess_within(candidate, families, a, Depth::Lean, budget)?;
    let asked = Asked { candidate, families, a, now: &now, budget };
    let mut out = asked.blockers();
    out.extend(asked.provenance());
    for due in overdue(&now).into_iter().take(WORK) {
        let entry = asked.done(due);
        let at = IntervalRef { family: due.family.clone(), interval: due.interval.clone() };
        out.extend(asked.paper(Ask::Work { at, name: due.name.clone() }, |c| c.ledger.push(entry)));
    }
    let unproved = now.points.iter().filter(|p| {
        let scheduled = now.due.iter().any(|d| d.renews.contains(&p.at));
        // What a sheet says must be proved is asked for, however unlikely.
        let insisted =
            now.advised.iter().filter_map(|x| x.proof.as_ref()).any(|proof| proof.at == p.at && !proof.given);
        (insisted || (!scheduled && p.p_plan >= a.asked_about)) && p.renewals.iter().all(|r| !r.proved)
    });
    for p in unproved.take(POINTS) {
        let entry = asked.renewed(&p.at);
        out.extend(asked.paper(Ask::Renewal { at: p.at.clone(), name: p.name.clone() }, |c| c.ledger.push(entry)));
    }
    for (i, x) in candidate.advisories.iter().enumerate().filter(|(_, x)| x.state != AdvisoryState::Rectified) {
        let text = x.text.clone();
        out.extend(asked.paper(Ask::Advisory { text }, |c| c.advisories[i].state = AdvisoryState::Rectified));
    }
    out.extend(asked.tune());
    let to_ask = |n: &&OpenCheck| {
        let finding = candidate.finding_on(&n.family, &n.check);
        matches!(n.phase, Phase::BeforeTravel | Phase::Papers)
            || finding.is_some_and(|f| f.result == FindingResult::AskSeller)
    };
    for n in now.open_checks.iter().filter(to_ask) {
        let sheet = families.iter().find(|f| f.id == n.family).and_then(|f| f.check(&n.check));
        let how = sheet.map_or_else(String::new, |c| c.how.clone());
        out.push(Question {
            ask: Ask::Check { name: n.name.clone(), how },
            blocker: None,
            value_of_information: n.value_of_information,
            bill: -n.moves,
        });
    }
    let asked_by_person = |q: &Question| matches!(q.ask, Ask::Check { .. });
    out.retain(|q| q.blocker.is_some() || q.bill.abs() >= 1.0 || asked_by_person(q));
    out.sort_by(|x, y| {
        y.blocker
            .cmp(&x.blocker)
            .then(y.value_of_information.total_cmp(&x.value_of_information))
            .then(y.bill.abs().total_cmp(&x.bill.abs()))
    });
    budget.check()?;
    Ok(out)
}

/// Scheduled work that may be overdue, the most money first.
fn overdue(now: &Assessment) -> Vec<&Due> {
    let mut out: Vec<&Due> = now.due.iter().filter(|d| d.now >= 1.0).collect();
    out.sort_by(|x, y| y.now.total_cmp(&x.now));
    out
}

struct Asked<'a> {
    candidate: &'a Candidate,
    families: &'a [Family],
    a: &'a Assumptions,
    now: &'a Assessment,
    budget: &'a Budget<'a>,
}

impl Asked<'_> {
    /// Papers that blockers wait for.
    fn blockers(&self) -> Vec<Question> {
        let ask = |cause: &BlockerCause| match cause {
            BlockerCause::Provenance { item, .. } => Some(Ask::Provenance { item: *item, marked: true }),
            BlockerCause::Odometer { anomaly, .. } => Some(Ask::Odometer { anomaly: *anomaly }),
            BlockerCause::Campaign { name, proof, .. } => {
                Some(Ask::Campaign { name: name.clone(), proof: proof.clone() })
            }
            BlockerCause::Identity { .. } => Some(Ask::Provenance { item: ProvenanceKind::Identity, marked: true }),
            BlockerCause::Check { .. } | BlockerCause::Danger { .. } => None,
        };
        let blockers = self.now.blockers.iter().filter_map(|g| Some((g.kind, ask(&g.cause)?)));
        blockers
            .map(|(kind, ask)| Question { ask, blocker: Some(kind), value_of_information: 0.0, bill: 0.0 })
            .collect()
    }

    /// A tune that nobody measured, or of which nobody knows who made it.
    fn tune(&self) -> Option<Question> {
        let tune = self.candidate.tune.filter(|t| t.power_kw.is_none() || t.quality == TuneQuality::Unknown)?;
        let x = self.now.tuned.first()?;
        let (standard_kw, limit_kw) = (x.standard_kw, x.limit_kw);
        let power_kw = tune.power_kw.or(Some(f64::midpoint(standard_kw, limit_kw)));
        let proved = Tune { power_kw, quality: TuneQuality::Documented, ..tune };
        self.paper(Ask::Tune { standard_kw, limit_kw }, |c| c.tune = Some(proved))
    }

    /// Items that nobody asked yet and that could close a blocker.
    fn provenance(&self) -> Vec<Question> {
        let open = ProvenanceKind::ALL
            .into_iter()
            .filter(|item| self.candidate.provenance_of(*item).is_none_or(|p| p.state == ProvenanceState::NotAsked));
        open.filter_map(|item| {
            let blocker = crate::decision::blockers::blocker_of(item, &self.candidate.buyer)?;
            Some(Question {
                ask: Ask::Provenance { item, marked: false },
                blocker: Some(blocker),
                value_of_information: 0.0,
                bill: 0.0,
            })
        })
        .collect()
    }

    /// What a paper would be worth: as likely as not the seller has it.
    fn paper(&self, ask: Ask, change: impl FnOnce(&mut Candidate)) -> Option<Question> {
        let mut with = self.candidate.clone();
        change(&mut with);
        let after =
            with_context(&with, self.families, self.a, self.budget, |context| Ok(expected_bill(context))).ok()?;
        let bill = after - self.now.bill.mean;
        let (value, yes) = (&self.now.value, self.a.answer_yes);
        let value_of_information = worth(value, &[(yes, value.with_more(bill)), (1.0 - yes, value.limit)]);
        Some(Question { ask, blocker: None, value_of_information, bill })
    }

    /// An itemised invoice at a usage and an age before now.
    fn invoice(&self, usage: f64, years_ago: f64) -> LedgerEntry {
        #[allow(clippy::cast_possible_truncation)]
        let days = (years_ago * DAYS_PER_YEAR).round() as i64;
        let unit = match self.candidate.usage.unit {
            UsageUnit::Miles => UsageUnit::Km,
            unit => unit,
        };
        LedgerEntry {
            date: self.candidate.as_of.saturating_sub(jiff::Span::new().days(days)).max(self.candidate.built),
            usage: Usage { value: usage.max(0.0), unit },
            renews: Vec::new(),
            performs: Vec::new(),
            grade: PartGrade::Original,
            revised: false,
            first_design: false,
            reason: None,
            evidence: Evidence::InvoiceNamingPart,
            note: String::new(),
            who: String::new(),
            cost: None,
            known: DateKnown::Month,
        }
    }

    /// The work done half an interval ago.
    fn done(&self, due: &Due) -> LedgerEntry {
        let (now, age) = (self.now.usage_now, self.now.age_now.max(1e-6));
        let rate = now / age;
        let by_years = due.every_years.map(|y| y / 2.0);
        let by_usage = due.every_usage.map(|u| u / 2.0 / rate.max(1e-9));
        let years = by_years.into_iter().chain(by_usage).fold(age, f64::min);
        let performs = vec![IntervalRef { family: due.family.clone(), interval: due.interval.clone() }];
        let usage = self.usage_ago(years);
        LedgerEntry { performs, renews: due.renews.clone(), ..self.invoice(usage, years) }
    }

    /// The part renewed half-way through its time.
    fn renewed(&self, at: &PointRef) -> LedgerEntry {
        let years = self.now.age_now / 2.0;
        LedgerEntry { renews: vec![at.clone()], ..self.invoice(self.usage_ago(years), years) }
    }

    /// Usage so many years ago, along the readings.
    fn usage_ago(&self, years: f64) -> f64 {
        let then = self.now.age_now - years;
        let built = self.now.built;
        let mut knots: Vec<(f64, f64)> = vec![(0.0, 0.0)];
        knots.extend(
            self.now
                .odometer
                .readings
                .iter()
                .filter_map(|r| Some((crate::base::units::years_between(built, r.date), r.usage?))),
        );
        let after = knots.iter().position(|k| k.0 >= then).unwrap_or(knots.len() - 1).max(1);
        let ((a0, u0), (a1, u1)) = (knots[after - 1], knots[after.min(knots.len() - 1)]);
        if a1 > a0 { u0 + (u1 - u0) * (then - a0) / (a1 - a0) } else { u1 }
    }
}
