//! The table of assumptions as one buyer and one clock see it.

use std::collections::BTreeMap;

use crate::base::units::{Money, UsageClock};
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::{Appetite, Labour, PaperTrust};
use crate::documents::candidate::Candidate;

impl Assumptions {
    /// The table as this buyer reads papers: stamp and log in each other's place where the buyer believes
    /// the stamped book more.
    #[must_use]
    pub fn for_trust(&self, source: PaperTrust) -> Self {
        let mut own = self.clone();
        if source == PaperTrust::Stamp {
            std::mem::swap(&mut own.credit_stamp, &mut own.credit_owner_log);
        }
        own
    }

    /// Usage within which jobs are done at one visit.
    #[must_use]
    pub fn visit_span(&self, candidate: &Candidate) -> f64 {
        match candidate.usage.unit.clock() {
            UsageClock::Km => self.visit_km,
            UsageClock::Hours => self.visit_hours,
        }
    }

    /// The table with what an hour costs this buyer.
    #[must_use]
    pub fn for_rates(mut self, rates: &BTreeMap<Labour, Money>) -> Self {
        for (labour, rate) in rates {
            let slot = match labour {
                Labour::Own => &mut self.rate_own,
                Labour::Independent => &mut self.rate_independent,
                Labour::Dealer => &mut self.rate_dealer,
                Labour::Specialist => &mut self.rate_specialist,
            };
            *slot = rate.get();
        }
        self
    }

    /// Usage before its interval within which scheduled work is nearly due.
    #[must_use]
    pub fn near(&self, clock: UsageClock) -> f64 {
        match clock {
            UsageClock::Km => self.near_km,
            UsageClock::Hours => self.near_hours,
        }
    }

    /// Labour rate an hour.
    #[must_use]
    pub fn rate(&self, labour: Labour) -> f64 {
        match labour {
            Labour::Own => self.rate_own,
            Labour::Independent => self.rate_independent,
            Labour::Dealer => self.rate_dealer,
            Labour::Specialist => self.rate_specialist,
        }
    }

    /// Room left for bad luck (λ).
    #[must_use]
    pub fn risk_margin(&self, appetite: Appetite) -> f64 {
        match appetite {
            Appetite::Bold => self.risk_margin_bold,
            Appetite::Even => self.risk_margin_even,
            Appetite::Careful => self.risk_margin_careful,
        }
    }
}
