//! The bill of a candidate as it may turn out under the policy its buyer follows.

use crate::base::budget::Budget;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::sheets::Given;
use crate::inference::context::{AssessError, with_context};
use crate::inference::posterior::Posterior;
use crate::money::bill_spread::BillSpread;
use crate::money::priced_points::PricedPoints;
use crate::money::purchase_decision::decide_plan;
use crate::money::simulation::BillSimulation;

/// The bill as it may turn out under the maintenance policy that the buyer chose; `reserve` asks how often an
/// amount is enough.
///
/// # Errors
/// As [`crate::assess()`].
pub fn spread<'f>(
    candidate: &Candidate,
    families: impl Into<Given<'f>>,
    reserve: Option<f64>,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<BillSpread, AssessError> {
    with_context(candidate, families, a, budget, |context| {
        let scenarios = Posterior::new(context).after;
        let priced = PricedPoints::new(context, &scenarios);
        let plan = decide_plan(context, &scenarios, &priced);
        Ok(BillSimulation::new(context, &scenarios, &priced).spread(reserve, plan))
    })
}
