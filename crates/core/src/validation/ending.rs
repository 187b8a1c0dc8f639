//! Are the ending and the log of a candidate consistent?

use crate::documents::candidate::Candidate;
use crate::documents::ending::{Ending, LogAbout};
use crate::documents::family::Family;
use crate::validation::faults::Faults;
use crate::validation::limits::largest;

/// How the consideration ended, and what was logged since.
pub(crate) fn ending(c: &Candidate, used: &[&Family], out: &mut Faults) {
    let clock = c.usage.unit.clock();
    let usage_fits = |u: &crate::base::units::Usage| {
        u.unit.clock() == clock && u.value.is_finite() && u.value >= 0.0 && u.on_clock() <= largest(clock)
    };
    let bad_usage = format!("must lie between 0 and {} on the candidate's clock", largest(clock));
    let mut from = None;
    match &c.ending {
        Some(Ending::Bought { date, usage, price }) => {
            out.unless(*date >= c.built, "/ending/date", "lies before it was built");
            out.unless(usage_fits(usage), "/ending/usage", &bad_usage);
            let less = usage_fits(usage) && usage.on_clock() < c.usage.on_clock() - 1.0 && *date >= c.as_of;
            out.unless(!less, "/ending/usage", "is less than it had run on the day of judgement");
            out.unless(price.get() <= 1e8, "/ending/price", "is beyond anything this is meant for");
            from = Some(*date);
        }
        Some(Ending::PassedOver { date, why }) => {
            out.unless(*date >= c.built, "/ending/date", "lies before it was built");
            out.unless(!why.trim().is_empty(), "/ending/why", "say why, so that you know later");
        }
        None => {}
    }
    out.unless(from.is_some() || c.log.is_empty(), "/log", "only what was bought has a log: mark it as bought first");
    for (i, entry) in c.log.iter().enumerate() {
        let at = format!("/log/{i}");
        out.unless(from.is_none_or(|d| entry.date >= d), format!("{at}/date"), "lies before the purchase");
        out.unless(usage_fits(&entry.usage), format!("{at}/usage"), &bad_usage);
        let known = match &entry.about {
            LogAbout::Point { family, point } => used.iter().any(|f| &f.id == family && f.point(point).is_some()),
            LogAbout::Work { family, interval } => {
                used.iter().any(|f| &f.id == family && f.intervals.iter().any(|x| &x.id == interval))
            }
            LogAbout::Other { name } => !name.trim().is_empty(),
        };
        out.unless(known, format!("{at}/about"), "is nothing that its families name: give it a name of its own");
    }
}
