//! The points of a candidate with what each costs, and its scheduled work.

use crate::documents::candidate::Example;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::inference::evidence_mask::EvidenceMask;
use crate::money::point_cost::{ExpectedCost, PointCost};
use crate::money::reference_price::{self, Reference};
use crate::money::schedule::{self, Due, Scheduled};

/// What points and scheduled work cost.
pub(crate) struct PricedPoints {
    /// What others like it are offered for.
    pub reference: Reference,
    /// What each point costs, by how it comes.
    pub costs: Vec<PointCost>,
    /// What each point is expected to cost within the plan.
    pub expected: Vec<ExpectedCost>,
    /// Scheduled work, the soonest first.
    pub due: Vec<Due>,
    /// Its money.
    pub work: Scheduled,
}

impl PricedPoints {
    /// Prices the points of a context after its findings.
    pub fn new(context: &Context<'_>, after: &CareScenarios) -> Self {
        let setting = context.setting;
        let mut works = schedule::works(setting, context.families, true);
        let first = schedule::first_due(&works, context.applicable_points, setting.horizon);
        schedule::told_by_points(&mut works, context.applicable_points, after);
        let reference = reference_price::reference(setting.candidate, setting.assumptions);
        let costs: Vec<PointCost> = context
            .views
            .iter()
            .zip(first)
            .map(|(view, first)| PointCost::new(setting, view, reference.price, first, EvidenceMask::ALL))
            .collect();
        Self {
            reference,
            expected: expected(&costs, after),
            costs,
            due: schedule::due(setting, &works, &after.weights),
            work: schedule::money(&works, None),
        }
    }

    /// Prices the points of the reference example: its states, nothing on paper.
    pub fn of_reference(&self, context: &Context<'_>, scenarios: &CareScenarios, example: Example) -> Self {
        let setting = context.setting;
        let mut works = schedule::works(setting, context.families, false);
        let first = schedule::first_due(&works, context.applicable_points, setting.horizon);
        if example == Example::Typical {
            schedule::told_by_points(&mut works, context.applicable_points, scenarios);
        }
        let own = self.costs.iter().zip(context.views).zip(first);
        let costs: Vec<PointCost> = own
            .map(|((c, view), first_due)| {
                // The market's example is as its maker made it; else both cost the same.
                let tuned = view.applicable_point.tuned.plan < 1.0;
                let standard = tuned.then(|| {
                    let (price, due) = (self.reference.price, first_due.clone());
                    PointCost::new(setting, view, price, due, EvidenceMask::REFERENCE)
                });
                let c = standard.as_ref().unwrap_or(c);
                PointCost { first_due, done: c.done_usual.clone(), ..c.clone() }
            })
            .collect();
        Self {
            reference: self.reference,
            expected: expected(&costs, scenarios),
            costs,
            due: schedule::due(setting, &works, &scenarios.weights),
            work: schedule::money(&works, Some(example)),
        }
    }
}

fn expected(costs: &[PointCost], scenarios: &CareScenarios) -> Vec<ExpectedCost> {
    costs.iter().enumerate().map(|(i, cost)| ExpectedCost::new(scenarios, i, cost)).collect()
}
