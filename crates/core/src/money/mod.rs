//! Costs: jobs, points, scheduled work, the reference price, the purchase plan, the bill.

pub(crate) mod along;
pub mod bill_forecast;
pub(crate) mod bill_lattice;
pub mod bill_spread;
pub(crate) mod distribution;
pub mod expected_bill;
pub mod job_cost;
pub(crate) mod lattice;
pub(crate) mod least_risk;
pub(crate) mod outcomes;
pub mod point_cost;
pub mod priced_points;
pub mod purchase_decision;
pub mod purchase_plan;
pub mod reference_price;
pub mod sampled_point;
pub mod schedule;
pub mod simulation;
pub(crate) mod tail;
pub mod upgrades;
pub mod ways;
pub mod while_apart;
