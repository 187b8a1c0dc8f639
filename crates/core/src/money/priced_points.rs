//! The points of a candidate with what each costs, and its scheduled work.

use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
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
        let reference = reference_price::reference(setting.candidate);
        let costs: Vec<PointCost> = context
            .views
            .iter()
            .map(|v| PointCost::new(setting, v.applicable_point, v.curves, reference.price))
            .collect();
        let expected = costs.iter().enumerate().map(|(i, cost)| ExpectedCost::new(after, i, cost)).collect();
        let (due, work) = schedule::due(setting, context.families, setting.assumptions);
        Self { reference, costs, expected, due, work }
    }

    /// The expected bill: points, then scheduled work.
    pub fn bill(&self) -> f64 {
        self.expected.iter().map(|p| p.expected).sum::<f64>() + self.work.total()
    }
}
