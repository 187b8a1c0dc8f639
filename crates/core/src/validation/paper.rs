//! Is a paper consistent with the candidate and its sheets?

use crate::base::fault::Fault;
use crate::base::units::{Usage, UsageClock};
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::paper::Paper;
use crate::validation::faults::Faults;
use crate::validation::limits::largest;

/// Pieces of work, and failure points, that one entry may name.
const NAMED: usize = 100;

/// The papers of a document, each with its list and its place in it.
pub(crate) fn listed(c: &Candidate) -> impl Iterator<Item = (&'static str, usize, Paper)> + '_ {
    let mut counts = [0usize; 6];
    c.papers().map(move |p| {
        let (list, k) = match &p {
            Paper::Entry(_) => ("ledger", 0),
            Paper::Reading(_) => ("readings", 1),
            Paper::Provenance(_) => ("provenance", 2),
            Paper::Advisory(_) => ("advisories", 3),
            Paper::Campaign(_) => ("campaigns", 4),
            Paper::Scan(_) => ("scans", 5),
        };
        counts[k] += 1;
        (list, counts[k] - 1, p)
    })
}

/// Every fault of a paper on its own, with paths into it such as `/usage/value`.
#[must_use]
pub fn paper_faults(paper: &Paper, c: &Candidate, families: &[Family]) -> Vec<Fault> {
    let mut out = Faults { list: Vec::new() };
    let named =
        |r: &crate::documents::candidate::FamilyRef| families.iter().find(|f| f.id == r.id && f.version == r.version);
    let used: Vec<&Family> = c.families.iter().filter_map(named).collect();
    paper_sense(&mut out, paper, c, &used, "");
    out.list
}

pub(crate) fn usage_sense(out: &mut Faults, usage: Usage, clock: UsageClock, at: &str) {
    let counted = match clock {
        UsageClock::Km => "kilometres or miles",
        UsageClock::Hours => "engine hours",
    };
    let same = usage.unit.clock() == clock;
    out.unless(same, format!("{at}/unit"), format!("counts on another clock: this one is counted in {counted}"));
    let most = largest(clock);
    let good = usage.value.is_finite() && usage.value >= 0.0 && usage.on_clock() <= most;
    out.unless(good, format!("{at}/value"), format!("must lie between 0 and {most} on its clock"));
}

pub(crate) fn paper_sense(out: &mut Faults, paper: &Paper, c: &Candidate, used: &[&Family], at: &str) {
    let clock = c.usage.unit.clock();
    if let Some(date) = paper.date() {
        let at = format!("{at}/date");
        out.unless(date >= c.built, &at, format!("{date} lies before it was built, on {}", c.built));
        let late = format!("{date} lies after the day of judgement, {}: move that day in the advert first", c.as_of);
        out.unless(date <= c.as_of, &at, late);
    }
    let family = |id: &str| used.iter().find(|f| f.id == id);
    match paper {
        Paper::Entry(e) => {
            usage_sense(out, e.usage, clock, &format!("{at}/usage"));
            out.at_most(e.performs.len(), NAMED, format!("{at}/performs"));
            out.at_most(e.renews.len(), NAMED, format!("{at}/renews"));
            for (k, r) in e.performs.iter().enumerate() {
                let known = family(&r.family).is_some_and(|f| f.intervals.iter().any(|i| i.id == r.interval));
                let message = format!("no scheduled work \"{}/{}\" among its families", r.family, r.interval);
                out.unless(known, format!("{at}/performs/{k}"), message);
            }
            for (k, r) in e.renews.iter().enumerate() {
                let known = family(&r.family).is_some_and(|f| f.point(&r.point).is_some());
                let message = format!("no failure point \"{}/{}\" among its families", r.family, r.point);
                out.unless(known, format!("{at}/renews/{k}"), message);
            }
        }
        Paper::Reading(r) => usage_sense(out, r.usage, clock, &format!("{at}/usage")),
        Paper::Advisory(x) => {
            out.unless(!x.text.trim().is_empty(), format!("{at}/text"), "say what was advised");
        }
        Paper::Campaign(x) => {
            let known = family(&x.family).is_some_and(|f| f.campaigns.iter().any(|k| k.id == x.campaign));
            let message = format!("no campaign \"{}/{}\" among its families", x.family, x.campaign);
            out.unless(known, format!("{at}/campaign"), message);
            if let Some(usage) = x.usage {
                usage_sense(out, usage, clock, &format!("{at}/usage"));
            }
        }
        Paper::Provenance(_) | Paper::Scan(_) => {}
    }
}
