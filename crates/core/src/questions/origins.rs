//! Where the figures of a failure point come from: said as a figure, said in a word, or by default because nobody said
//! anything.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::claim::ShareForm;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::documents::quoting::quote_for;
use crate::documents::spelled::OWN;
use crate::documents::strands::lived_with;
use crate::reliability::mixture::{SourceSelection, susceptible};

/// A figure of a failure point.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FigureOf {
    /// Share of the family that has it in them, 0 to 1.
    Share,
    /// Usage for which owners live with it, at ordinary care.
    LivedWith,
    /// Usage between the first sign and the failure.
    Notice,
    /// Chance that it is noticed in time, 0 to 1.
    Noticed,
    /// What putting it right costs.
    Repair,
}

/// How a figure was said.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SaidAs {
    /// As a figure.
    Figure,
    /// In a word, or one price for all of it; what it means is in the table of assumptions.
    Word,
    /// Not at all: a default of the table.
    Default,
    /// A workshop quoted it.
    Quote,
}

/// A figure with where it comes from.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FigureFrom {
    /// Which.
    pub of: FigureOf,
    /// Its value; money in the candidate's currency, usage on the family's clock.
    pub value: f64,
    /// How it was said.
    pub from: SaidAs,
}

/// The figures of a point that a person may want to correct, those that move most first. `family` is spelled out;
/// `repair` is what putting the point right costs.
pub(crate) fn origins(
    candidate: &Candidate,
    family: &Family,
    point: &FailurePoint,
    (job, repair): (&str, f64),
    a: &Assumptions,
) -> Vec<FigureFrom> {
    let share = susceptible(&point.share, &family.sources, SourceSelection::of(&candidate.buyer.sources), a);
    let quoted = quote_for(candidate, &family.id, job).is_some();
    let one_price = family.job(job).is_some_and(|j| j.price.is_some() || j.id.starts_with(OWN));
    let counted = point.share.iter().any(|c| !matches!(c.says, ShareForm::Word { .. }));
    let said = |figure: bool, word: bool| match (figure, word) {
        (true, _) => SaidAs::Figure,
        (_, true) => SaidAs::Word,
        _ => SaidAs::Default,
    };
    let mut out = vec![
        FigureFrom { of: FigureOf::Share, value: share, from: said(counted, !point.share.is_empty()) },
        FigureFrom {
            of: FigureOf::Repair,
            value: repair,
            from: if quoted { SaidAs::Quote } else { said(!one_price, one_price) },
        },
        FigureFrom {
            of: FigureOf::LivedWith,
            value: lived_with(point, family.clock, a),
            from: said(point.repair_delay.is_some(), point.lived_with.is_some()),
        },
    ];
    if let Some(w) = &point.warning {
        let from = said(point.notice.is_none(), true);
        out.push(FigureFrom { of: FigureOf::Notice, value: w.lead, from });
        out.push(FigureFrom { of: FigureOf::Noticed, value: crate::money::job_cost::caught(w), from });
    }
    out
}
