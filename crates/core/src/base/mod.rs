//! Foundations: units, faults, statistics, trouble-code structure. Knows nothing of vehicles.

pub mod budget;
pub mod components;
pub mod fault;
pub mod join;
pub mod memory;
pub mod numeric;
pub mod pert;
pub mod random;
pub mod statistics;
pub mod trouble_code;
pub mod units;
pub mod weibull;
pub mod word;
