//! What makes sense and what does not, beyond the shape that the schemas describe. Every check
//! returns all faults, each with the path to it.

use std::collections::HashSet;

use crate::assumptions::Assumptions;
use crate::candidate::{Candidate, Ending, FindingResult, LogAbout, Paper};
use crate::claims::curve;
use crate::codes::Code;
use crate::family::{
    Applies, Calculation, Check, FailurePoint, Family, Job, LifeClaim, LifeForm, Mechanism, ScanRule, SerialWindow,
    Window, serial_order,
};
use crate::measures::measure;
use crate::units::{Probability, Usage, UsageClock};

/// Something that makes no sense, and where.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, serde::Deserialize, utoipa::ToSchema)]
pub struct Fault {
    /// JSON pointer to the faulty value, such as `/points/3/life/0`.
    pub path: String,
    /// What is wrong and how to mend it.
    pub message: String,
}

/// The currency of a base sheet (ISO 4217 "no currency"): its money is counted in hours of an independent
/// workshop.
pub const NO_CURRENCY: &str = "XXX";

/// Collects faults under a path.
struct Faults {
    list: Vec<Fault>,
}

impl Faults {
    fn add(&mut self, path: impl Into<String>, message: impl Into<String>) {
        self.list.push(Fault { path: path.into(), message: message.into() });
    }

    fn unless(&mut self, good: bool, path: impl Into<String>, message: impl Into<String>) {
        if !good {
            self.add(path, message);
        }
    }

    fn unique<'a>(&mut self, ids: impl Iterator<Item = &'a str>, list: &str) {
        let mut seen = HashSet::new();
        for (i, id) in ids.enumerate() {
            self.unless(seen.insert(id), format!("/{list}/{i}/id"), format!("the id \"{id}\" stands twice"));
        }
    }
}

/// Every fault in a family sheet; empty when it makes sense.
#[must_use]
pub fn family(f: &Family) -> Vec<Fault> {
    let mut out = Faults { list: Vec::new() };
    out.unique(f.schools.iter().map(|x| x.id.as_str()), "schools");
    out.unique(f.facts.iter().map(|x| x.id.as_str()), "facts");
    out.unique(f.points.iter().map(|x| x.id.as_str()), "points");
    out.unique(f.checks.iter().map(|x| x.id.as_str()), "checks");
    out.unique(f.jobs.iter().map(|x| x.id.as_str()), "jobs");
    out.unique(f.access.iter().map(|x| x.id.as_str()), "access");
    out.unique(f.intervals.iter().map(|x| x.id.as_str()), "intervals");
    window(&mut out, &f.built, "/built");
    for (i, fact) in f.facts.iter().enumerate() {
        let total: f64 = fact.values.iter().filter_map(|v| v.share).map(Probability::get).sum();
        out.unless(total <= 1.0 + 1e-9, format!("/facts/{i}/values"), format!("the shares sum to {total}, above 1"));
    }
    for (i, p) in f.points.iter().enumerate() {
        point(&mut out, f, p, &format!("/points/{i}"));
    }
    for (i, c) in f.checks.iter().enumerate() {
        check(&mut out, f, c, &format!("/checks/{i}"));
    }
    for (i, j) in f.jobs.iter().enumerate() {
        job(&mut out, f, j, &format!("/jobs/{i}"));
    }
    for (i, n) in f.intervals.iter().enumerate() {
        let at = format!("/intervals/{i}");
        out.unless(n.usage.is_some() || n.years.is_some(), &at, "an interval needs a usage, years, or both");
        out.unless(f.job(&n.job).is_some(), format!("{at}/job"), format!("no job \"{}\" in this sheet", n.job));
        for (k, id) in n.renews.iter().enumerate() {
            out.unless(
                f.point(id).is_some(),
                format!("{at}/renews/{k}"),
                format!("no failure point \"{id}\" in this sheet"),
            );
        }
        applies(&mut out, f, &n.applies, &format!("{at}/applies"));
    }
    out.unique(f.campaigns.iter().map(|x| x.id.as_str()), "campaigns");
    for (i, x) in f.campaigns.iter().enumerate() {
        let at = format!("/campaigns/{i}");
        for (k, id) in x.revises.iter().enumerate() {
            let revised = f.point(id).is_some_and(|p| p.revision.is_some());
            let message = format!("no failure point \"{id}\" with a revised part in this sheet");
            out.unless(revised, format!("{at}/revises/{k}"), message);
        }
        applies(&mut out, f, &x.applies, &format!("{at}/applies"));
    }
    out.list
}

fn window(out: &mut Faults, w: &Window, path: &str) {
    if let (Some(from), Some(to)) = (w.from, w.to) {
        out.unless(from <= to, path, format!("the window ends on {to}, before it begins on {from}"));
    }
}

fn applies(out: &mut Faults, f: &Family, a: &Applies, path: &str) {
    if let Some(w) = &a.built {
        window(out, w, &format!("{path}/built"));
    }
    if let Some(SerialWindow { from: Some(from), to: Some(to), .. }) = &a.serial {
        let rises = serial_order(from, to).is_le();
        out.unless(rises, format!("{path}/serial"), format!("the serials end at {to}, before they begin at {from}"));
    }
    for (fact, values) in &a.facts {
        let at = format!("{path}/facts/{fact}");
        match f.facts.iter().find(|x| &x.id == fact) {
            None => out.add(at, format!("no fact \"{fact}\" in this sheet")),
            Some(known) => {
                for (k, v) in values.iter().enumerate() {
                    let is_known = known.values.iter().any(|x| &x.id == v);
                    out.unless(is_known, format!("{at}/{k}"), format!("\"{v}\" is no answer to \"{fact}\""));
                }
            }
        }
    }
}

fn school(out: &mut Faults, f: &Family, id: &str, path: &str) {
    let known = f.schools.iter().any(|s| s.id == id);
    out.unless(known, format!("{path}/school"), format!("no school \"{id}\" in this sheet"));
}

fn life(out: &mut Faults, f: &Family, claims: &[LifeClaim], mechanism: Mechanism, path: &str) {
    for (k, claim) in claims.iter().enumerate() {
        let at = format!("{path}/{k}");
        school(out, f, &claim.school, &at);
        match &claim.says {
            LifeForm::Between { from, to } if from >= to => {
                out.add(format!("{at}/says/to"), format!("\"between\" needs its upper figure above {from}, not {to}"));
            }
            says => {
                if let Err(e) = curve(says, mechanism, &Assumptions::default()) {
                    out.add(format!("{at}/says"), e.to_string());
                }
            }
        }
    }
}

fn point(out: &mut Faults, f: &Family, p: &FailurePoint, at: &str) {
    applies(out, f, &p.applies, &format!("{at}/applies"));
    for (k, c) in p.share.iter().enumerate() {
        school(out, f, &c.school, &format!("{at}/share/{k}"));
    }
    life(out, f, &p.life, p.mechanism, &format!("{at}/life"));
    if let Some(r) = &p.revision {
        life(out, f, &r.life, p.mechanism, &format!("{at}/revision/life"));
        for (k, c) in r.share.iter().enumerate() {
            school(out, f, &c.school, &format!("{at}/revision/share/{k}"));
        }
        let says_something = !(r.life.is_empty() && r.share.is_empty());
        out.unless(says_something, format!("{at}/revision"), "a revision needs a life or a share of its own");
    }
    out.unless(f.job(&p.job).is_some(), format!("{at}/job"), format!("no job \"{}\" in this sheet", p.job));
    if let Some(e) = &p.escalation {
        let known = f.job(&e.job).is_some();
        out.unless(known, format!("{at}/escalation/job"), format!("no job \"{}\" in this sheet", e.job));
    }
    for (e, factor) in &p.exposures {
        let name = serde_json::to_value(e).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default();
        let good = (0.05..=4.0).contains(factor);
        out.unless(
            good,
            format!("{at}/exposures/{name}"),
            format!("a life factor lies between 0.05 and 4, not {factor}"),
        );
    }
}

fn distribution(out: &mut Faults, dist: &[Probability], outcomes: usize, path: &str) {
    if dist.len() != outcomes {
        out.add(path, format!("{} chances for {outcomes} outcomes", dist.len()));
        return;
    }
    let total: f64 = dist.iter().map(|p| p.get()).sum();
    out.unless((total - 1.0).abs() < 1e-6, path, format!("the chances sum to {total}, not to 1"));
}

fn check(out: &mut Faults, f: &Family, c: &Check, at: &str) {
    applies(out, f, &c.applies, &format!("{at}/applies"));
    let n = c.outcomes.len();
    distribution(out, &c.leak, n, &format!("{at}/leak"));
    let mut seen = HashSet::new();
    for (k, l) in c.links.iter().enumerate() {
        let at = format!("{at}/links/{k}");
        out.unless(
            f.point(&l.point).is_some(),
            format!("{at}/point"),
            format!("no failure point \"{}\" in this sheet", l.point),
        );
        out.unless(seen.insert(&l.point), format!("{at}/point"), format!("\"{}\" is linked twice", l.point));
        distribution(out, &l.present, n, &format!("{at}/present"));
        if let Some(coming) = &l.coming {
            distribution(out, coming, n, &format!("{at}/coming"));
        }
        let both = l.coming.is_some() == l.lead.is_some();
        out.unless(both, &at, "\"coming\" and \"lead\" are given together or not at all");
    }
    if let Some(s) = &c.care_sign {
        distribution(out, &s.poor, n, &format!("{at}/care_sign/poor"));
        distribution(out, &s.ordinary, n, &format!("{at}/care_sign/ordinary"));
        distribution(out, &s.good, n, &format!("{at}/care_sign/good"));
    }
    if let Some(m) = &c.measure {
        let limits = format!("{at}/measure/limits");
        out.unless(
            m.limits.len() + 1 == n,
            &limits,
            format!("{} limits for {n} outcomes: one fewer is needed", m.limits.len()),
        );
        out.unless(m.limits.windows(2).all(|w| w[0] < w[1]), &limits, "the limits must rise");
        if let Calculation::Outside { from, to } = &m.by {
            out.unless(from < to, format!("{at}/measure/by"), "the range must rise");
        }
    }
    for (k, rule) in c.scan.iter().enumerate() {
        scan_rule(out, rule, c, &format!("{at}/scan/{k}"));
    }
}

fn scan_rule(out: &mut Faults, rule: &ScanRule, c: &Check, at: &str) {
    let outcomes: Vec<usize> = match rule {
        ScanRule::Codes { find } => {
            for (k, pattern) in find.iter().enumerate().flat_map(|(k, f)| f.codes.iter().map(move |p| (k, p))) {
                let any = pattern.to_uppercase().replace('X', "0").replacen("P0000", "P0001", 1);
                let good = pattern.len() == 5 && any.parse::<Code>().is_ok();
                out.unless(
                    good,
                    format!("{at}/find/{k}/codes"),
                    format!("\"{pattern}\" is no code and no pattern of one"),
                );
            }
            find.iter().map(|f| f.outcome).collect()
        }
        ScanRule::AnyCode { pending, stored } => vec![*pending, *stored],
        ScanRule::Lamp { on } => vec![*on],
        ScanRule::Wiped { wiped } => vec![*wiped],
        ScanRule::Vin { differs } => vec![*differs],
        ScanRule::Trims | ScanRule::Coolant | ScanRule::Voltage => {
            out.unless(c.measure.is_some(), at, "a rule that gives a reading needs a measure");
            Vec::new()
        }
    };
    let good = outcomes.iter().all(|o| *o < c.outcomes.len());
    out.unless(good, at, format!("the check has outcomes 0 to {}", c.outcomes.len() - 1));
}

fn job(out: &mut Faults, f: &Family, j: &Job, at: &str) {
    let costs = !j.parts.is_empty() || j.hours.is_some() || j.sundries.is_some();
    out.unless(costs, at, "a job needs parts, hours or sundries: this one costs nothing");
    for (grade, r) in &j.parts {
        let name = serde_json::to_value(grade).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default();
        out.unless(
            r.low <= r.likely && r.likely <= r.high,
            format!("{at}/parts/{name}"),
            "low, likely and high must rise",
        );
    }
    if let Some(r) = &j.sundries {
        out.unless(r.low <= r.likely && r.likely <= r.high, format!("{at}/sundries"), "low, likely and high must rise");
    }
    if let Some(h) = &j.hours {
        out.unless(h.low <= h.likely && h.likely <= h.high, format!("{at}/hours"), "low, likely and high must rise");
    }
    for (k, id) in j.access.iter().enumerate() {
        out.unless(
            f.access.iter().any(|g| &g.id == id),
            format!("{at}/access/{k}"),
            format!("no access group \"{id}\" in this sheet"),
        );
    }
}

/// The largest usage of a vehicle or engine that is taken for a real one, by clock.
fn largest(clock: UsageClock) -> f64 {
    match clock {
        UsageClock::Km => 2_000_000.0,
        UsageClock::Hours => 100_000.0,
    }
}

/// The papers of a document, each with its list and its place in it.
fn listed(c: &Candidate) -> impl Iterator<Item = (&'static str, usize, Paper)> + '_ {
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

/// The word that a value is written as.
fn word<T: serde::Serialize>(value: &T) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// Every fault of a paper on its own, with paths into it such as `/usage/value`.
#[must_use]
pub fn paper(paper: &Paper, c: &Candidate, families: &[Family]) -> Vec<Fault> {
    let mut out = Faults { list: Vec::new() };
    let named = |r: &crate::candidate::FamilyRef| families.iter().find(|f| f.id == r.id && f.version == r.version);
    let used: Vec<&Family> = c.families.iter().filter_map(named).collect();
    paper_sense(&mut out, paper, c, &used, "");
    out.list
}

fn usage_sense(out: &mut Faults, usage: Usage, clock: UsageClock, at: &str) {
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

fn paper_sense(out: &mut Faults, paper: &Paper, c: &Candidate, used: &[&Family], at: &str) {
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

/// How the consideration ended, and what was logged since.
fn ending(c: &Candidate, used: &[&Family], out: &mut Faults) {
    let clock = c.usage.unit.clock();
    let usage_fits = |u: &crate::units::Usage| {
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
