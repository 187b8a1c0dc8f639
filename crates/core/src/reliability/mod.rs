//! From claims to curves, and from curves to condition now, remaining life and renewals.

pub mod care;
pub mod condition;
pub mod exposure;
pub mod kept_condition;
pub mod mixture;
pub mod plan_grid;
pub mod remaining_life;
pub mod renewal;
pub(crate) mod repairs;
pub mod survival_grid;
pub mod survival_table;
pub mod tune;
pub mod usage_path;
