//! The points that concern a candidate, seen through all evidence: care scenarios and joint findings.

pub mod applicable_point;
pub mod care_scenarios;
pub mod check_effect;
pub mod context;
pub mod depth;
pub mod evidence_mask;
pub mod findings;
pub(crate) mod following;
pub(crate) mod islands;
pub mod joint_posterior;
pub(crate) mod leak_from_words;
pub(crate) mod made_ready;
pub mod posterior;
pub(crate) mod remembered;
pub mod setting;
pub mod source_views;
pub mod stages;
pub mod strip;
pub mod tied;
pub(crate) mod worn_before;
pub(crate) mod worn_by;
