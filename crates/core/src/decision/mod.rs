//! Grades, blockers, the verdict, the value of the next check, the walk-round plan, the offer.

pub mod advice;
pub mod blockers;
pub mod grade;
pub mod knowledge;
pub mod limit_price;
pub mod needed;
pub mod offer;
pub mod point_result;
pub mod resale;
pub mod tuned;
pub mod value_of_information;
pub mod verdict;
pub mod walk_round;
