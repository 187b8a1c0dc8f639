//! What an answered check says of each state of a point: the noisy-MAX model.

use crate::base::memory::KeyOf;
use crate::base::units::Probability;
use crate::documents::care_level::CareLevel;
use crate::documents::check::Check;

/// A check that was done, with the points it speaks of among those that concern this candidate.
#[derive(Debug, Clone)]
pub struct Answer<'a> {
    /// The check.
    pub check: &'a Check,
    /// Which outcome.
    pub outcome: usize,
    /// For each link that concerns this candidate: index of the point, and of the link.
    pub links: Vec<(usize, usize)>,
    /// A name that orders answers, so that the order of entry never matters.
    pub key: String,
}

impl Answer<'_> {
    /// Everything that it says of the points it links, and of care.
    pub(crate) fn key(&self, out: &mut KeyOf) {
        let mut chances = |of: &[Probability]| {
            out.add(&of.len());
            of.iter().for_each(|p| out.figure(p.get()));
        };
        chances(&self.check.leak);
        let sign = self.check.care_sign.iter().flat_map(|s| [&s.poor, &s.ordinary, &s.good]);
        sign.for_each(|of| chances(of));
        for link in self.links.iter().map(|l| &self.check.links[l.1]) {
            chances(&link.present);
            chances(link.coming.as_deref().unwrap_or_default());
        }
        for (place, link) in &self.links {
            out.add(place);
            out.figure(self.check.links[*link].lead.unwrap_or(f64::INFINITY));
            out.add(&self.check.links[*link].coming.is_some());
        }
        // By it answers are ordered, and the last digit hangs on their order.
        out.add(&self.key);
        out.add(&(self.outcome, self.check.outcomes.len(), self.check.care_sign.is_some(), self.links.len()));
    }
}

/// A chance this small stands for what the sheet calls impossible and was found all the same.
pub(crate) const IMPOSSIBLE: f64 = 1e-12;

/// Chance that the outcome is `g` or quieter under a distribution.
fn up_to(dist: &[Probability], g: usize) -> f64 {
    dist.iter().take(g + 1).map(|p| p.get()).sum::<f64>().min(1.0)
}

/// Chance that every other cause leaves the outcome at `g` or quieter, under a level of care.
pub(crate) fn leak(check: &Check, level: CareLevel, g: usize) -> f64 {
    let dist = check.care_sign.as_ref().map_or(&check.leak, |sign| match level {
        CareLevel::Poor => &sign.poor,
        CareLevel::Ordinary => &sign.ordinary,
        CareLevel::Good => &sign.good,
    });
    up_to(dist, g)
}

/// Effect of one link at `g` or quieter, by zone.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Effect {
    pub(crate) present: f64,
    pub(crate) coming: f64,
    pub(crate) lead: f64,
}

impl Effect {
    pub(crate) fn new(check: &Check, link: usize, g: usize) -> Self {
        let link = &check.links[link];
        let (coming, lead) = match (&link.coming, link.lead) {
            (Some(dist), Some(lead)) => (up_to(dist, g), lead),
            _ => (1.0, 0.0),
        };
        Self { present: up_to(&link.present, g), coming, lead }
    }

    /// For a cell by its upper edge of remaining usage.
    pub(crate) fn within(&self, upper: f64) -> f64 {
        if upper <= self.lead { self.coming } else { 1.0 }
    }
}
