//! Is a candidate consistent with the sheets it names?

use crate::base::fault::Fault;
use crate::base::units::{Usage, UsageClock};
use crate::base::word::word;
use crate::documents::candidate::Candidate;
use crate::documents::composed::job_among;
use crate::documents::family::Family;
use crate::documents::pricing::NO_CURRENCY;
use crate::validation::ending::ending;
use crate::validation::family::MOST_KW;
use crate::validation::faults::Faults;
use crate::validation::finding::finding;
use crate::validation::limits::{candidate_lengths, largest};
use crate::validation::paper::{listed, paper_sense, usage_sense};

/// Every fault in a candidate, judged with the sheets it names; empty when it makes sense.
#[must_use]
pub fn candidate_faults(c: &Candidate, families: &[Family]) -> Vec<Fault> {
    let mut out = Faults { list: Vec::new() };
    let used = named(&mut out, c, families);
    advert(&mut out, c, &used);
    candidate_lengths(&mut out, c, &used);
    buyer(&mut out, c, &used);
    identity(&mut out, c, &used);
    for (list, i, paper) in listed(c) {
        paper_sense(&mut out, &paper, c, &used, &format!("/{list}/{i}"));
    }
    own_figures(&mut out, c);
    comparables(&mut out, c);
    quotes(&mut out, c, &used);
    for (i, own) in c.purchase_plan.own.iter().enumerate() {
        let known = used.iter().any(|f| f.id == own.at.family && f.point(&own.at.point).is_some());
        let unknown = format!("no failure point \"{}/{}\" among its families", own.at.family, own.at.point);
        out.unless(known, format!("/purchase_plan/own/{i}/at"), unknown);
    }
    own_ways(&mut out, c, &used);
    ending(c, &used, &mut out);
    for (i, f) in c.findings.iter().enumerate() {
        finding(&mut out, f, c, &used, &format!("/findings/{i}"));
    }
    out.list
}

/// Ways that the person chose must be among those of their points.
fn own_ways(out: &mut Faults, c: &Candidate, used: &[&Family]) {
    for (i, own) in c.purchase_plan.ways.iter().enumerate() {
        let at = format!("/purchase_plan/ways/{i}");
        let family = used.iter().find(|f| f.id == own.at.family);
        let Some((family, point)) = family.and_then(|f| Some((f, f.point(&own.at.point)?))) else {
            let unknown = format!("no failure point \"{}/{}\" among its families", own.at.family, own.at.point);
            out.add(format!("{at}/at"), unknown);
            continue;
        };
        let usual = family.job(&point.job).is_some_and(|j| j.name == own.way);
        let known = usual || point.routes.iter().any(|r| r.name == own.way);
        out.unless(known, format!("{at}/way"), format!("\"{}\" knows no way called \"{}\"", point.name, own.way));
        let again = c.purchase_plan.ways[..i].iter().any(|before| before.at == own.at);
        out.unless(!again, format!("{at}/at"), format!("a way of \"{}\" is chosen twice", point.name));
    }
}

/// The sheets that the candidate names, each once.
fn named<'f>(out: &mut Faults, c: &Candidate, families: &'f [Family]) -> Vec<&'f Family> {
    let mut used: Vec<&Family> = Vec::new();
    for (i, r) in c.families.iter().enumerate() {
        let at = format!("/families/{i}");
        match families.iter().find(|f| f.id == r.id && f.version == r.version) {
            None => out.add(at, format!("no family \"{}\" of version {} is known here", r.id, r.version)),
            Some(f) if used.iter().any(|u| u.id == f.id) => {
                out.add(at, format!("the family \"{}\" stands twice", f.id));
            }
            Some(f) => used.push(f),
        }
    }
    out.unless(!c.families.is_empty(), "/families", "choose at least one family");
    used
}

/// What an advert says, and the plan.
fn advert(out: &mut Faults, c: &Candidate, used: &[&Family]) {
    out.unless(!c.title.trim().is_empty(), "/title", "give it a name to know it by");
    out.unless(c.built <= c.as_of, "/built", format!("built on {}, after the day of judgement {}", c.built, c.as_of));
    out.unless(c.built.year() >= 1900, "/built", format!("built in {}: that is too long ago", c.built.year()));
    for (usage, path) in [(&c.usage, "/usage"), (&c.plan.usage_a_year, "/plan/usage_a_year")] {
        for f in used.iter().filter(|f| f.clock != usage.unit.clock()) {
            let counted = match f.clock {
                UsageClock::Km => "kilometres or miles",
                UsageClock::Hours => "engine hours",
            };
            out.add(format!("{path}/unit"), format!("\"{}\" is counted in {counted}", f.name));
        }
        usage_range(out, *usage, usage.unit.clock(), path);
    }
    out.unless(c.plan.usage_a_year.on_clock() > 0.0, "/plan/usage_a_year/value", "the plan needs some usage a year");
    let years = c.plan.years.is_finite() && c.plan.years > 0.0 && c.plan.years <= 40.0;
    out.unless(years, "/plan/years", "the plan needs more than 0 and at most 40 years");
    out.unless(c.asking.get() > 0.0, "/asking", "the asking price must be above 0");
    out.unless(c.asking.get() <= 1e8, "/asking", "the asking price is beyond anything this is meant for");
    let fetches = c.value_at_end.is_none_or(|v| v.get() <= 1e8);
    out.unless(fetches, "/value_at_end", "what it should fetch is beyond anything this is meant for");
    for f in used.iter().filter(|f| f.currency != c.currency && f.currency != NO_CURRENCY) {
        out.add("/currency", format!("\"{}\" is costed in {}, the candidate in {}", f.name, f.currency, c.currency));
    }
    if let Some(tune) = c.tune {
        let kw = tune.power_kw.is_none_or(|kw| kw > 0.0 && kw <= MOST_KW);
        out.unless(kw, "/tune/power_kw", format!("power is above 0 and at most {MOST_KW} kW"));
        if let Some(since) = tune.since {
            usage_range(out, since, c.usage.unit.clock(), "/tune/since");
            let same = since.unit.clock() == c.usage.unit.clock();
            out.unless(same, "/tune/since/unit", "is counted on another clock than the candidate");
            let past = !same || since.on_clock() <= c.usage.on_clock();
            out.unless(past, "/tune/since/value", "lies beyond the usage of today");
        }
    }
    if let Some(m) = c.walk.minutes {
        let good = m.is_finite() && m > 0.0 && m <= 1440.0;
        out.unless(good, "/walk/minutes", "a walk-round takes more than 0 minutes and at most a day");
    }
}

fn usage_range(out: &mut Faults, usage: Usage, clock: UsageClock, path: &str) {
    let most = largest(clock);
    let good = usage.value.is_finite() && usage.value >= 0.0 && usage.on_clock() <= most;
    out.unless(good, format!("{path}/value"), format!("must lie between 0 and {most} on its clock"));
}

/// The sources listened to, and what hours cost.
fn buyer(out: &mut Faults, c: &Candidate, used: &[&Family]) {
    for (source, weight) in &c.buyer.sources {
        let at = format!("/buyer/sources/{source}");
        let known = used.iter().any(|f| f.sources.iter().any(|x| &x.id == source));
        out.unless(known, &at, format!("no family of this candidate has a source \"{source}\""));
        out.unless(weight.is_finite() && *weight >= 0.0, &at, "a weight is 0 or more");
    }
    let silent = !c.buyer.sources.is_empty() && c.buyer.sources.values().all(|w| *w <= 0.0);
    out.unless(!silent, "/buyer/sources", "listen to one source at least");
    for (labour, rate) in &c.buyer.rates {
        out.unless(rate.get() <= 10_000.0, format!("/buyer/rates/{}", labour.key()), "an hour costs at most 10 000");
    }
}

/// Serial numbers and variant facts.
fn identity(out: &mut Faults, c: &Candidate, used: &[&Family]) {
    for (family, serial) in &c.serials {
        let at = format!("/serials/{family}");
        out.unless(used.iter().any(|f| &f.id == family), &at, "the candidate does not name this family");
        let good = serial.chars().any(char::is_alphanumeric) && serial.chars().count() <= 40;
        out.unless(good, at, "a serial number has letters or digits, at most 40 characters");
    }
    for (fact, value) in &c.facts {
        let at = format!("/facts/{fact}");
        match used.iter().flat_map(|f| &f.facts).find(|x| &x.id == fact) {
            None => out.add(at, "no family of this candidate asks for it"),
            Some(known) => {
                let is_answer = known.values.iter().any(|v| &v.id == value);
                out.unless(is_answer, at, format!("\"{value}\" is no answer to it"));
            }
        }
    }
}

/// Figures that the person puts in the place of computed ones.
fn own_figures(out: &mut Faults, c: &Candidate) {
    if let Some(t) = &c.odometer {
        let ends = [(Some(t.usage), "usage"), (t.low, "low"), (t.high, "high")];
        for (usage, name) in ends.into_iter().filter_map(|(u, n)| Some((u?, n))) {
            usage_sense(out, usage, c.usage.unit.clock(), &format!("/odometer/{name}"));
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
}

/// Workshops' own prices.
fn quotes(out: &mut Faults, c: &Candidate, used: &[&Family]) {
    for (i, q) in c.quotes.iter().enumerate() {
        let at = format!("/quotes/{i}");
        let known = job_among(used, &q.family, &q.job);
        out.unless(known, format!("{at}/job"), format!("no family of this candidate has a job \"{}\"", q.job));
        out.unless(!q.by.trim().is_empty(), format!("{at}/by"), "say who quoted");
        out.unless(q.date <= c.as_of, format!("{at}/date"), "lies after the day of judgement");
        out.unless(q.amount.get() <= 1e8, format!("{at}/amount"), "is beyond anything this is meant for");
    }
}

/// Adverts of others.
fn comparables(out: &mut Faults, c: &Candidate) {
    let clock = c.usage.unit.clock();
    for (i, x) in c.comparables.iter().enumerate() {
        let at = format!("/comparables/{i}");
        let same = x.usage.unit.clock() == clock;
        out.unless(same, format!("{at}/usage/unit"), "counts on another clock than the candidate");
        out.unless(x.price.get() > 0.0, format!("{at}/price"), "must be above 0");
        out.unless(x.price.get() <= 1e8, format!("{at}/price"), "is beyond anything this is meant for");
        usage_range(out, x.usage, clock, &format!("{at}/usage"));
    }
}
