//! Sheets made ready for a candidate: as this example is built and at its age, priced, put together, with what words on
//! checks mean, and the lives of the points that concern it.
//!
//! Neither findings nor prices have a say in it: while they change it is remembered.

use std::sync::Arc;

use crate::base::budget::Budget;
use crate::base::memory::{Key, KeyOf};
use crate::base::units::Money;
use crate::base::weibull::CurveError;
use crate::documents::applicability::named;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Buyer;
use crate::documents::candidate::Candidate;
use crate::documents::composed::composed;
use crate::documents::family::Family;
use crate::documents::pricing;
use crate::documents::quoting;
use crate::documents::sheets::Given;
use crate::documents::spelled;
use crate::documents::supplied::supplied;
use crate::evidence::settled;
use crate::inference::applicable_point::{self, applicable_points};
use crate::inference::leak_from_words::fill_leaks;
use crate::inference::setting::Setting;
use crate::reliability::mixture::{PointLives, SourceSelection};

/// The sheets that a candidate names, made ready for it.
#[derive(Debug)]
pub(crate) struct MadeReady {
    /// The sheets, in the candidate's order.
    pub families: Vec<Family>,
    /// The lives of every point that concerns the candidate, under the sources heard.
    pub lives: Vec<PointLives>,
    /// Of all that they are made from; none where nothing marks the sheets.
    pub key: Option<Key>,
}

/// What is asked of sheets beside the candidate's document.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Wanted {
    /// What words on checks mean is worked out.
    pub leaks: bool,
    /// Later questions will ask for the same.
    pub keep: bool,
}

/// Sheets made ready, or remembered.
///
/// # Errors
/// [`CurveError`] from a claim that makes no curve.
pub(crate) fn made_ready(
    candidate: &Candidate,
    given: Given<'_>,
    a: &Assumptions,
    budget: &Budget<'_>,
    wanted: Wanted,
) -> Result<Arc<MadeReady>, CurveError> {
    let make = |c: &Candidate, key| MadeReady::new(c, given.families, a, (budget, wanted.leaks), key).map(Arc::new);
    let Some((mark, bytes)) = given.marked else { return make(candidate, None) };
    // It is made from what its key is of, and nothing else.
    let bare = without_say(candidate);
    let mut key = KeyOf::kind("made ready");
    key.add(&(mark, wanted.leaks, budget.cells()));
    key.document(&bare);
    key.document(a);
    let key = key.key();
    budget.recalled(wanted.keep, || key, |_| 2 * bytes, || make(&bare, Some(key)))
}

/// The candidate without what has no say in what its sheets are.
fn without_say(c: &Candidate) -> Candidate {
    let Buyer { appetite, labour, reserve, .. } = Buyer::default();
    Candidate {
        title: String::new(),
        note: String::new(),
        asking: Money::try_from(0.0).unwrap_or(c.asking),
        asked_first: None,
        value_at_end: None,
        buyer: Buyer { appetite, labour, reserve, ..c.buyer.clone() },
        comparables: Vec::new(),
        findings: Vec::new(),
        ..c.clone()
    }
}

impl MadeReady {
    fn new(
        candidate: &Candidate,
        families: &[Family],
        a: &Assumptions,
        (budget, leaks): (&Budget<'_>, bool),
        key: Option<Key>,
    ) -> Result<Self, CurveError> {
        // Base sheets count their money in hours of the table's independent workshop, whatever this buyer's costs.
        let ready = |f: Family| supplied(pricing::priced(spelled::as_built(f, candidate), a), candidate, a);
        let used: Vec<Family> = named(candidate, families).into_iter().cloned().map(ready).collect();
        let used = composed(used, candidate, a).into_iter();
        let mut used: Vec<Family> = used.map(|f| quoting::with_quotes(f, candidate)).collect();
        let a = &a.for_trust(candidate.buyer.paper_trust).for_rates(&candidate.buyer.rates);
        let candidate = &settled::settled(candidate, &used, a).0;
        if leaks {
            fill_leaks(&mut used, &Setting::new(candidate, a, budget))?;
        }
        let points = applicable_points(candidate, &used, a);
        let lives = applicable_point::lives(&points, SourceSelection::of(&candidate.buyer.sources), a)?;
        Ok(Self { families: used, lives, key })
    }
}
