//! Which kinds of evidence a computation counts.

/// Which evidence is counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct EvidenceMask {
    /// How it was used.
    pub past_use: PastUse,
    /// How it will be used.
    pub plan_use: bool,
    /// Ledger and completeness.
    pub papers: bool,
}

/// Which exposures the past is taken to have had.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PastUse {
    /// None in particular.
    None,
    /// Those stated.
    Stated,
    /// Those of the plan: the reference example's.
    AsPlan,
}

impl EvidenceMask {
    /// Everything but findings.
    pub const ALL: Self = Self { past_use: PastUse::Stated, plan_use: true, papers: true };
    /// Nothing but that it has come so far.
    pub const SURVIVED: Self = Self { past_use: PastUse::None, plan_use: false, papers: false };
    /// Survival and use.
    pub const USE: Self = Self { past_use: PastUse::Stated, plan_use: true, papers: false };
    /// The reference example.
    pub const REFERENCE: Self = Self { past_use: PastUse::AsPlan, plan_use: true, papers: false };
}
