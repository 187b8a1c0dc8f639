//! Is a family sheet consistent?

use crate::base::fault::Fault;
use crate::base::units::Probability;
use crate::documents::adjustment::{CheckAdjustment, JobAdjustment};
use crate::documents::alteration::Alteration;
use crate::documents::applies::Applies;
use crate::documents::check::Check;
use crate::documents::claim::LifeClock;
use crate::documents::family::{Adjustment, AdviceKind, Family, Upgrade};
use crate::documents::mark::PRICED;
use crate::validation::applies::{applies, window};
use crate::validation::check::check;
use crate::validation::failure_point::{claims, point, source};
use crate::validation::faults::Faults;
use crate::validation::job::{job, price};
use crate::validation::limits::{sheet_lengths, shortest};

/// Every fault in a family sheet; empty when it makes sense.
#[must_use]
pub fn family_faults(f: &Family) -> Vec<Fault> {
    let mut out = Faults { list: Vec::new() };
    out.unique(f.sources.iter().map(|x| x.id.as_str()), "sources");
    out.unique(f.facts.iter().map(|x| x.id.as_str()), "facts");
    out.unique(f.points.iter().map(|x| x.id.as_str()), "points");
    out.unique(f.checks.iter().map(|x| x.id.as_str()), "checks");
    out.unique(f.jobs.iter().map(|x| x.id.as_str()), "jobs");
    out.unique(f.access.iter().map(|x| x.id.as_str()), "access");
    out.unique(f.intervals.iter().map(|x| x.id.as_str()), "intervals");
    sheet_lengths(&mut out, f);
    window(&mut out, &f.built, "/built");
    out.unless(!f.points.is_empty(), "/points", "a sheet needs a failure point, or says how it is built");
    out.unless(!f.sources.is_empty(), "/sources", "a sheet needs a source: who says what it holds");
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
    advice(&mut out, f);
    marks(&mut out, f);
    supply(&mut out, f);
    given(&mut out, f);
    out.list
}

/// What patterns gave: each thing is there, and was given once.
fn given(out: &mut Faults, f: &Family) {
    let all = f.patterns.iter().map(|p| p.gives.len()).sum::<usize>();
    out.at_most(all, GIVEN, "/patterns");
    if all > GIVEN {
        return;
    }
    let mut seen = std::collections::HashSet::new();
    for (i, p) in f.patterns.iter().enumerate() {
        for (k, g) in p.gives.iter().enumerate() {
            let path = format!("/patterns/{i}/gives/{k}");
            let there = match g.split_once('/') {
                Some(("points", id)) => f.point(id).is_some(),
                Some(("checks", id)) => f.check(id).is_some(),
                Some(("jobs", id)) => f.job(id).is_some(),
                Some(("access", id)) => f.access.iter().any(|x| x.id == id),
                Some(("intervals", id)) => f.intervals.iter().any(|x| x.id == id),
                Some(("care_rules", id)) => f.care_rules.iter().any(|x| x.id == id),
                Some(("facts", id)) => f.facts.iter().any(|x| x.id == id),
                _ => false,
            };
            out.unless(there, &path, format!("\"{g}\" is not in this sheet: take it out"));
            out.unless(seen.insert(g), &path, format!("\"{g}\" is given twice"));
        }
    }
}

/// The most that patterns may give to one sheet.
const GIVEN: usize = 2_000;

/// What it says of which to buy, and of how to treat it.
fn advice(out: &mut Faults, f: &Family) {
    out.unique(f.advice.iter().map(|x| x.id.as_str()), "advice");
    out.unique(f.upgrades.iter().map(|x| x.id.as_str()), "upgrades");
    out.unique(f.alterations.iter().map(|x| x.id.as_str()), "alterations");
    out.unique(f.care_rules.iter().map(|x| x.id.as_str()), "care_rules");
    let point = |out: &mut Faults, id: &str, path: String| {
        out.unless(f.point(id).is_some(), path, format!("no failure point \"{id}\" in this sheet"));
    };
    for (i, x) in f.advice.iter().enumerate() {
        let at = format!("/advice/{i}");
        source(out, f, &x.source, &at);
        applies(out, f, &x.applies, &format!("{at}/applies"));
        if let Some(id) = &x.proved {
            point(out, id, format!("{at}/proved"));
        }
        let fits = x.proved.is_some() == (x.kind == AdviceKind::OnlyIf);
        out.unless(
            fits,
            format!("{at}/proved"),
            "\"only if\" names the point that must be proved renewed, the others none",
        );
    }
    for (i, x) in f.adjusts.iter().enumerate() {
        adjustment(out, f, x, &format!("/adjusts/{i}"));
    }
    for (i, x) in f.adjusts_checks.iter().enumerate() {
        check_adjustment(out, f, x, &format!("/adjusts_checks/{i}"));
    }
    for (i, x) in f.adjusts_jobs.iter().enumerate() {
        job_adjustment(out, f, x, &format!("/adjusts_jobs/{i}"));
    }
    for (i, x) in f.upgrades.iter().enumerate() {
        upgrade(out, f, x, &format!("/upgrades/{i}"));
    }
    for (i, x) in f.alterations.iter().enumerate() {
        alteration(out, f, x, &format!("/alterations/{i}"));
    }
    for (i, x) in f.care_rules.iter().enumerate() {
        let at = format!("/care_rules/{i}");
        applies(out, f, &x.applies, &format!("{at}/applies"));
        for (k, id) in x.points.iter().enumerate() {
            point(out, id, format!("{at}/points/{k}"));
        }
        let (least, unit) = shortest(LifeClock::Usage, f.clock);
        out.unless(x.usage.is_none_or(|u| u >= least), format!("{at}/usage"), format!("at most every {least} {unit}"));
        let (least, unit) = shortest(LifeClock::Age, f.clock);
        out.unless(x.years.is_none_or(|y| y >= least), format!("{at}/years"), format!("at most every {least} {unit}"));
    }
}

/// How parts and work are to be had by age.
fn supply(out: &mut Faults, f: &Family) {
    out.unique(f.supply.iter().map(|x| x.id.as_str()), "supply");
    let within = |x: Option<f64>, least: f64, most: f64| x.is_none_or(|x| (least..=most).contains(&x));
    for (i, s) in f.supply.iter().enumerate() {
        let at = format!("/supply/{i}");
        applies(out, f, &s.applies, &format!("{at}/applies"));
        out.unless(!s.says.trim().is_empty(), format!("{at}/says"), "say what is so");
        out.unless(within(Some(s.from_age), 0.0, 120.0), format!("{at}/from_age"), "0 to 120 years");
        for (key, x) in [("parts", s.parts), ("hours", s.hours)] {
            out.unless(within(x, 0.1, 20.0), format!("{at}/{key}"), "0.1 to 20 times");
        }
        let changes = s.parts.is_some() || s.hours.is_some() || !s.grades.is_empty();
        out.unless(changes, &at, "say what it changes: parts, hours or grades");
        for (k, id) in s.points.iter().enumerate() {
            let none = format!("no failure point \"{id}\" in this sheet");
            out.unless(f.point(id).is_some(), format!("{at}/points/{k}"), none);
        }
    }
}

/// What takes something off the going price.
fn marks(out: &mut Faults, f: &Family) {
    for (i, m) in f.marks.iter().enumerate() {
        let at = format!("/marks/{i}");
        applies(out, f, &m.applies, &format!("{at}/applies"));
        if let Some(s) = &m.source {
            source(out, f, s, &at);
        }
        let conditioned = m.applies != Applies::default();
        out.unless(
            m.item.is_some() || conditioned,
            &at,
            "say which item of the history report or which variants it marks",
        );
        let takes = m.takes_off.get();
        out.unless(takes > 0.0 && takes < 1.0, format!("{at}/takes_off"), "a share above 0 and below 1");
        if let Some(item) = m.item {
            let priced =
                "prices what is written off, imported, repainted, replated or of a doubtful clock; nothing else";
            out.unless(PRICED.contains(&item), format!("{at}/item"), priced);
            let again = f.marks[..i].iter().any(|x| x.item == m.item && x.applies == m.applies);
            out.unless(!again, format!("{at}/item"), "this item is priced twice");
        }
    }
}

fn upgrade(out: &mut Faults, f: &Family, x: &Upgrade, at: &str) {
    applies(out, f, &x.applies, &format!("{at}/applies"));
    price(out, x.price, &format!("{at}/price"));
    out.unless(x.job.is_some() != x.price.is_some(), at, "an upgrade needs a job or a price, one of the two");
    if let Some(job) = &x.job {
        out.unless(f.job(job).is_some(), format!("{at}/job"), format!("no job \"{job}\" in this sheet"));
    }
    out.unless(!(x.cures.is_empty() && x.lengthens.is_empty()), at, "say which points it cures or makes last");
    let named = x.cures.iter().map(|id| (id, "cures")).chain(x.lengthens.keys().map(|id| (id, "lengthens")));
    for (id, list) in named {
        out.unless(f.point(id).is_some(), format!("{at}/{list}"), format!("no failure point \"{id}\" in this sheet"));
    }
    for (id, factor) in &x.lengthens {
        let good = *factor > 1.0 && *factor <= 10.0;
        out.unless(good, format!("{at}/lengthens/{id}"), format!("lasts 1 to 10 times as long, not {factor}"));
        out.unless(!x.cures.contains(id), format!("{at}/lengthens/{id}"), "is cured already");
    }
}

/// Power that most engines stay below, kilowatts.
pub(crate) const MOST_KW: f64 = 5_000.0;

fn alteration(out: &mut Faults, f: &Family, x: &Alteration, at: &str) {
    source(out, f, &x.source, at);
    applies(out, f, &x.applies, &format!("{at}/applies"));
    let standard = x.standard_kw > 0.0 && x.standard_kw <= MOST_KW;
    out.unless(standard, format!("{at}/standard_kw"), format!("power is above 0 and at most {MOST_KW} kW"));
    let more = x.limit_kw > x.standard_kw && x.limit_kw <= MOST_KW;
    out.unless(more, format!("{at}/limit_kw"), "standard parts bear more than the maker gave it, or it would not last");
    out.unless(!x.shortens.is_empty(), format!("{at}/shortens"), "say which points do not last as long");
    for (id, lasts) in &x.shortens {
        let at = format!("{at}/shortens/{id}");
        out.unless(f.point(id).is_some(), &at, format!("no failure point \"{id}\" in this sheet"));
        let good = (0.1..1.0).contains(lasts);
        out.unless(good, at, format!("lasts 0.1 to 1 times as long at the limit, not {lasts}"));
    }
}

fn check_adjustment(out: &mut Faults, f: &Family, x: &CheckAdjustment, at: &str) {
    applies(out, f, &x.applies, &format!("{at}/applies"));
    let own = |c: &Check| c.does(&x.action) && f.from_pattern("checks", &c.id).is_none();
    let said = format!("this sheet has a check of its own for \"{}\"", x.action);
    out.unless(!f.checks.iter().any(own), format!("{at}/action"), said);
    out.unless(!f.kind.is_base(), at, "a base sheet adjusts nothing: it says it itself");
    let minutes = x.minutes.is_none_or(|m| m > 0.0 && m <= 600.0);
    out.unless(minutes, format!("{at}/minutes"), "takes more than 0 and at most 600 minutes");
    let something = x.how.is_some() || x.tells.is_some() || x.caution.is_some() || x.measure.is_some();
    out.unless(something || x.minutes.is_some(), at, "says nothing that the base sheet does not");
}

fn job_adjustment(out: &mut Faults, f: &Family, x: &JobAdjustment, at: &str) {
    applies(out, f, &x.applies, &format!("{at}/applies"));
    price(out, x.price, &format!("{at}/price"));
    let own = f.job(&x.job).is_some() && f.from_pattern("jobs", &x.job).is_none();
    out.unless(!own, format!("{at}/job"), format!("this sheet has a job \"{}\" of its own", x.job));
    out.unless(!f.kind.is_base(), at, "a base sheet adjusts nothing: it says it itself");
    let rises = x.hours.as_ref().is_none_or(|h| h.low <= h.likely && h.likely <= h.high);
    out.unless(rises, format!("{at}/hours"), "low, likely and high must rise");
    out.unless(x.hours.is_some() != x.price.is_some(), at, "hours or a price, one of the two");
}

fn adjustment(out: &mut Faults, f: &Family, x: &Adjustment, at: &str) {
    applies(out, f, &x.applies, &format!("{at}/applies"));
    price(out, x.price, &format!("{at}/price"));
    claims(out, f, &x.share, &x.life, at);
    let own = f.points.iter().any(|p| p.part.as_ref() == Some(&x.part) && f.from_pattern("points", &p.id).is_none());
    out.unless(!own, format!("{at}/part"), format!("this sheet has a point of its own for \"{}\"", x.part));
    let twice = f.adjusts.iter().filter(|y| y.part == x.part && y.applies == x.applies).count() > 1;
    out.unless(!twice, format!("{at}/part"), format!("\"{}\" is adjusted twice", x.part));
    out.unless(!f.kind.is_base(), at, "a base sheet adjusts nothing: it says it itself");
    let nothing = Adjustment { part: x.part.clone(), applies: x.applies.clone(), ..Adjustment::default() };
    out.unless(*x != nothing, at, "says nothing that the base sheet does not");
}
