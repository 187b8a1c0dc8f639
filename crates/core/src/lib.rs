//! The rules and the computation of Tick Sage: from claims, papers and findings to a decision.
//!
//! Pure functions without I/O, clock, threads or randomness: the same input gives the same result to
//! the last digit, natively and as wasm32. One module follows one section of the method:
//!
//! | module | what it does |
//! |---|---|
//! | [`family`], [`candidate`] | the two documents everything is computed from |
//! | [`assumptions`] | every constant with its reason |
//! | [`sense`], [`formats`] | refusing what makes no sense, with the path to each fault |
//! | [`claims`] | §1 claims to life curves |
//! | [`exposure`], [`care`] | §2 use and care |
//! | [`standing`], [`future`], [`subject`], [`lattice`] | §3 where a point stands, and what remains |
//! | [`papers`], [`odometer`], [`identity`] | §4 and §12 belief in papers, true usage, the VIN |
//! | [`typed`], [`quick`], `ledger_csv` | papers as people type and paste them |
//! | [`moved`], [`questions`] | what a paper moves, and what is worth asking for |
//! | [`report`] | what a history service answers |
//! | [`findings`], [`worlds`] | §5 what findings say, of the points and of care |
//! | [`jobs`] | §7 costs |
//! | [`doing`] | §8 what is done at purchase, and together with what |
//! | [`schedule`] | §9 scheduled work |
//! | [`bill`] | §10 the bill as it may turn out |
//! | [`value`], [`offer`] | §11 the reference and limit price, and what to offer |
//! | [`compare`], [`calendar`] | candidates side by side; what the bill becomes after buying |
//! | [`verdict`], [`next`], [`grade`] | §13 to §15 the decision |
//! | [`walk`] | §14 the plan of a walk-round under a time budget |
//! | [`measures`] | §12 from what is read, place by place, to the reading that a check judges |
//! | [`codes`], [`obd`], [`scan`], `scan_csv` | §12 trouble codes, the published services, what a scan says |
//! | `base` | the base sheets that ship with the application |
//! | `comparables_csv`, `tables` | adverts of others as a table; bill and findings as tables |
//! | [`detail`] | one point laid open: claims as curves, and what the evidence makes of them |
//! | [`insight`] | what each finding moved, and what would move the bill |
//! | [`scene`] | what all questions begin with |
//! | [`assess`](mod@assess), [`assessment`] | all of it together, and its result |

#![cfg_attr(test, allow(clippy::unwrap_used, clippy::expect_used))]

pub mod assess;
pub mod assessment;
pub mod assumptions;
#[cfg(feature = "formats")]
pub mod base;
pub mod bill;
pub mod calendar;
pub mod candidate;
pub mod care;
pub mod claims;
pub mod codes;
#[cfg(feature = "formats")]
pub mod comparables_csv;
pub mod compare;
pub mod detail;
pub mod doing;
pub mod exposure;
pub mod family;
pub mod findings;
#[cfg(feature = "formats")]
pub mod formats;
pub mod future;
pub mod grade;
pub mod identity;
pub mod insight;
pub mod jobs;
pub mod lattice;
#[cfg(feature = "formats")]
pub mod ledger_csv;
pub mod measures;
pub mod moved;
pub mod next;
pub mod obd;
pub mod odometer;
pub mod offer;
pub mod papers;
pub mod questions;
pub mod quick;
pub mod report;
pub mod scan;
#[cfg(feature = "formats")]
pub mod scan_csv;
pub mod scene;
pub mod schedule;
pub mod sense;
pub mod standing;
pub mod subject;
#[cfg(feature = "formats")]
pub mod tables;
pub mod typed;
pub mod units;
pub mod value;
pub mod verdict;
pub mod walk;
pub mod worlds;

pub use assess::{AssessError, assess};
pub use assessment::Assessment;
pub use assumptions::Assumptions;
pub use candidate::{Bundle, Candidate};
pub use family::Family;
