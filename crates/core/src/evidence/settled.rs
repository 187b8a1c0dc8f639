//! The candidate with its papers settled: every reading and entry at its true usage, and campaigns proved
//! done as the renewals they were.

use crate::base::units::{Usage, UsageClock, UsageUnit, years_between};
use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::job::PartGrade;
use crate::documents::paper::{CampaignState, DateKnown, Evidence, LedgerEntry, Reading, RenewalReason};
use crate::documents::reference::PointRef;
use crate::evidence::odometer::read;
use crate::evidence::odometer_result::{Odometer, Origin};

/// The candidate as its papers, read with care, show it: every reading and entry at its true usage, the
/// entries' readings among the readings, and campaigns proved done as the renewals that they were.
#[must_use]
pub fn settled(c: &Candidate, families: &[Family], a: &Assumptions) -> (Candidate, Odometer) {
    let odometer = read(c, a);
    let unit = match c.usage.unit.clock() {
        UsageClock::Km => UsageUnit::Km,
        UsageClock::Hours => UsageUnit::Hours,
    };
    let mut out = c.clone();
    out.readings = Vec::with_capacity(odometer.readings.len());
    for seen in &odometer.readings {
        let value = seen.usage.unwrap_or_else(|| seen.shown.on_clock()).clamp(0.0, odometer.usage);
        let usage = Usage { value, unit };
        match seen.origin {
            Origin::Entry { index } => out.ledger[index].usage = usage,
            Origin::Now => out.usage = Usage { value: odometer.usage, unit },
            Origin::Reading { .. } => {}
        }
        if seen.usage.is_some() && seen.origin != Origin::Now {
            out.readings.push(Reading { date: seen.date, usage, source: String::new(), known: DateKnown::Day });
        }
    }
    out.ledger.extend(campaign_entries(&out, families, a));
    (out, odometer)
}

/// Campaigns proved done, as renewals with the revised part.
fn campaign_entries(c: &Candidate, families: &[Family], a: &Assumptions) -> Vec<LedgerEntry> {
    let concerned = families.iter().flat_map(|f| f.campaigns.iter().map(move |x| (f, x)));
    concerned
        .filter(|(f, x)| !x.revises.is_empty() && fit(&x.applies, f, c, a).is_some())
        .filter_map(|(f, x)| {
            let answer = c.campaign_answer(&f.id, &x.id).filter(|k| k.state == CampaignState::Proved)?;
            let date = answer.date.unwrap_or(c.built).clamp(c.built, c.as_of);
            let share = years_between(c.built, date) / years_between(c.built, c.as_of).max(1e-9);
            let along = c.usage.value * share.clamp(0.0, 1.0);
            let value = answer.usage.map_or(along, Usage::on_clock).min(c.usage.value);
            Some(LedgerEntry {
                date,
                usage: Usage { value, unit: c.usage.unit },
                renews: x.revises.iter().map(|p| PointRef { family: f.id.clone(), point: p.clone() }).collect(),
                performs: Vec::new(),
                grade: PartGrade::Original,
                revised: true,
                first_design: false,
                reason: Some(RenewalReason::Planned),
                evidence: Evidence::InvoiceNamingPart,
                note: x.name.clone(),
                who: String::new(),
                cost: None,
                known: DateKnown::Day,
            })
        })
        .collect()
}
