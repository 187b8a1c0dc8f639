//! Is a candidate consistent with the sheets it names?

use crate::base::fault::Fault;
use crate::base::units::UsageClock;
use crate::base::word::word;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::finding::FindingResult;
use crate::documents::pricing::NO_CURRENCY;
use crate::reading::measured::measure;
use crate::validation::ending::ending;
use crate::validation::faults::Faults;
use crate::validation::paper::largest;
use crate::validation::paper::listed;
use crate::validation::paper::paper_sense;
use crate::validation::paper::usage_sense;

/// Every fault in a candidate, judged with the sheets it names; empty when it makes sense.
#[must_use]
#[allow(clippy::too_many_lines)]
pub fn candidate(c: &Candidate, families: &[Family]) -> Vec<Fault> {
    let mut out = Faults { list: Vec::new() };
    let mut used: Vec<&Family> = Vec::new();
    for (i, r) in c.families.iter().enumerate() {
        match families.iter().find(|f| f.id == r.id && f.version == r.version) {
            None => out.add(
                format!("/families/{i}"),
                format!("no family \"{}\" of version {} is known here", r.id, r.version),
            ),
            Some(f) if used.iter().any(|u| u.id == f.id) => {
                out.add(format!("/families/{i}"), format!("the family \"{}\" stands twice", f.id));
            }
            Some(f) => used.push(f),
        }
    }
    out.unless(!c.title.trim().is_empty(), "/title", "give it a name to know it by");
    out.unless(!c.families.is_empty(), "/families", "choose at least one family");
    out.unless(c.built <= c.as_of, "/built", format!("built on {}, after the day of judgement {}", c.built, c.as_of));
    out.unless(c.built.year() >= 1900, "/built", format!("built in {}: that is too long ago", c.built.year()));
    let clock = c.usage.unit.clock();
    let usages = [(&c.usage, "/usage"), (&c.plan.usage_a_year, "/plan/usage_a_year")];
    for (usage, path) in usages {
        for f in used.iter().filter(|f| f.clock != usage.unit.clock()) {
            let counted = match f.clock {
                UsageClock::Km => "kilometres or miles",
                UsageClock::Hours => "engine hours",
            };
            out.add(format!("{path}/unit"), format!("\"{}\" is counted in {counted}", f.name));
        }
        let most = largest(usage.unit.clock());
        let good = usage.value.is_finite() && usage.value >= 0.0 && usage.on_clock() <= most;
        out.unless(good, format!("{path}/value"), format!("must lie between 0 and {most} on its clock"));
    }
    out.unless(c.plan.usage_a_year.on_clock() > 0.0, "/plan/usage_a_year/value", "the plan needs some usage a year");
    let years = c.plan.years.is_finite() && c.plan.years > 0.0 && c.plan.years <= 40.0;
    out.unless(years, "/plan/years", "the plan needs more than 0 and at most 40 years");
    out.unless(c.asking.get() > 0.0, "/asking", "the asking price must be above 0");
    out.unless(c.asking.get() <= 1e8, "/asking", "the asking price is beyond anything this is meant for");
    for f in used.iter().filter(|f| f.currency != c.currency && f.currency != NO_CURRENCY) {
        out.add("/currency", format!("\"{}\" is costed in {}, the candidate in {}", f.name, f.currency, c.currency));
    }
    for (school, weight) in &c.buyer.schools {
        let at = format!("/buyer/schools/{school}");
        let known = used.iter().any(|f| f.schools.iter().any(|x| &x.id == school));
        out.unless(known, &at, format!("no family of this candidate has a school \"{school}\""));
        out.unless(weight.is_finite() && *weight >= 0.0, &at, "a weight is 0 or more");
    }
    let silent = !c.buyer.schools.is_empty() && c.buyer.schools.values().all(|w| *w <= 0.0);
    out.unless(!silent, "/buyer/schools", "listen to one school at least");
    for (family, serial) in &c.serials {
        let at = format!("/serials/{family}");
        out.unless(used.iter().any(|f| &f.id == family), &at, "the candidate does not name this family");
        let good = serial.chars().any(char::is_alphanumeric) && serial.chars().count() <= 40;
        out.unless(good, at, "a serial number has letters or digits, at most 40 characters");
    }
    for (fact, value) in &c.facts {
        let known = used.iter().flat_map(|f| &f.facts).find(|x| &x.id == fact);
        match known {
            None => out.add(format!("/facts/{fact}"), "no family of this candidate asks for it"),
            Some(k) => {
                let is_answer = k.values.iter().any(|v| &v.id == value);
                out.unless(is_answer, format!("/facts/{fact}"), format!("\"{value}\" is no answer to it"));
            }
        }
    }
    for (list, i, paper) in listed(c) {
        paper_sense(&mut out, &paper, c, &used, &format!("/{list}/{i}"));
    }
    if let Some(t) = &c.odometer {
        let ends = [(Some(t.usage), "usage"), (t.low, "low"), (t.high, "high")];
        for (usage, name) in ends.into_iter().filter_map(|(u, n)| Some((u?, n))) {
            usage_sense(&mut out, usage, clock, &format!("/odometer/{name}"));
        }
        let rises = t.low.is_none_or(|l| l.on_clock() <= t.usage.on_clock())
            && t.high.is_none_or(|h| h.on_clock() >= t.usage.on_clock());
        out.unless(rises, "/odometer/usage", "must lie between its low and its high");
    }
    let reasons = c.own.care.iter().map(|(k, o)| (format!("/own/care/{}", word(k)), o));
    let reasons = reasons.chain(c.own.completeness.iter().map(|o| ("/own/completeness".to_owned(), o)));
    for (at, own) in reasons {
        out.unless(!own.reason.trim().is_empty(), format!("{at}/reason"), "say why this figure is put in its place");
    }
    if let Some(m) = c.walk.minutes {
        let good = m.is_finite() && m > 0.0 && m <= 1440.0;
        out.unless(good, "/walk/minutes", "a walk-round takes more than 0 minutes and at most a day");
    }
    for (i, x) in c.comparables.iter().enumerate() {
        let at = format!("/comparables/{i}");
        out.unless(
            x.usage.unit.clock() == clock,
            format!("{at}/usage/unit"),
            "counts on another clock than the candidate",
        );
        out.unless(x.price.get() > 0.0, format!("{at}/price"), "must be above 0");
        out.unless(x.price.get() <= 1e8, format!("{at}/price"), "is beyond anything this is meant for");
        let good = x.usage.value.is_finite() && x.usage.value >= 0.0 && x.usage.on_clock() <= largest(clock);
        out.unless(
            good,
            format!("{at}/usage/value"),
            format!("must lie between 0 and {} on its clock", largest(clock)),
        );
    }
    for (labour, rate) in &c.buyer.rates {
        out.unless(rate.get() <= 10_000.0, format!("/buyer/rates/{}", labour.key()), "an hour costs at most 10 000");
    }
    for (i, own) in c.doing.own.iter().enumerate() {
        let known = used.iter().any(|f| f.id == own.at.family && f.point(&own.at.point).is_some());
        let unknown = format!("no failure point \"{}/{}\" among its families", own.at.family, own.at.point);
        out.unless(known, format!("/doing/own/{i}/at"), unknown);
    }
    ending(c, &used, &mut out);
    for (i, f) in c.findings.iter().enumerate() {
        let at = format!("/findings/{i}");
        let check = used.iter().find(|x| x.id == f.family).and_then(|x| x.check(&f.check));
        match (check, f.result) {
            (None, _) => {
                out.add(format!("{at}/check"), format!("no check \"{}/{}\" among its families", f.family, f.check))
            }
            (Some(check), FindingResult::Outcome { outcome }) => {
                let good = outcome < check.outcomes.len();
                out.unless(
                    good,
                    format!("{at}/result/outcome"),
                    format!("the check has outcomes 0 to {}", check.outcomes.len() - 1),
                );
            }
            (Some(check), FindingResult::Measured) => {
                out.unless(
                    check.measure.is_some(),
                    format!("{at}/result"),
                    "the check does not measure: give an outcome",
                );
                match (&check.measure, f.inputs.is_empty()) {
                    (Some(m), false) => {
                        if let Err(faults) = measure(m, &f.inputs, c.as_of, &Assumptions::default()) {
                            faults.into_iter().for_each(|x| out.add(format!("{at}{}", x.path), x.message));
                        }
                    }
                    _ => out.unless(
                        f.reading.is_some_and(f64::is_finite),
                        format!("{at}/reading"),
                        "the reading is missing",
                    ),
                }
            }
            (Some(_), _) => {}
        }
    }
    out.list
}
