//! A sheet from patterns: what is common knowledge of its construction is written into it, beside what it says itself.
//!
//! docs/FORMATS.md, "Patterns". What a sheet holds of its own stays; an own job, check or point of the same short name
//! takes the place of a pattern's here, one of the same part or action where the sheet is used
//! ([`crate::documents::applicability`]).

use std::collections::{BTreeMap, BTreeSet};

use crate::base::fault::Fault;
use crate::documents::applies::{Applies, Condition};
use crate::documents::assumptions::Assumptions;
use crate::documents::built_as::PatternUse;
use crate::documents::check::Link;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::{Fact, FactValue, Family};
use crate::documents::pattern::{Pattern, Scale, Tell};
use crate::patterns::answers::{Facts, Known};
use crate::patterns::library::{Library, THING};
use crate::patterns::scaled::scaled;
use crate::patterns::take_over::take_over;

/// The sheet with what patterns know of its construction written out; one that does not say how it is built stays as it
/// is. What patterns gave before goes first, so that answers may change.
///
/// # Errors
/// Answers that are none, or contradict each other, each with its path.
pub fn composed_of(sheet: Family, library: &Library, a: &Assumptions) -> Result<Family, Vec<Fault>> {
    let Some(built) = sheet.built_as.clone() else { return Ok(sheet) };
    let known = Known { library, answers: &built.answers };
    let mut faults = known.faults(sheet.clock);
    for (i, id) in built.patterns.iter().enumerate().filter(|(_, id)| library.pattern(id).is_none()) {
        let message = format!("no pattern \"{id}\" is known: what it gave before can be kept by hand");
        faults.push(Fault { path: format!("/built_as/patterns/{i}"), message });
    }
    if !faults.is_empty() {
        return Err(faults);
    }
    // A base sheet serves every size.
    let scale = if sheet.kind.is_base() { Scale { hours: 1.0, parts: 1.0 } } else { known.scale() };
    let mut out = without_patterns(sheet);
    let mut tells = Vec::new();
    let mut general: Vec<String> = Vec::new();
    for pattern in &library.patterns {
        if !built.patterns.is_empty() && !built.patterns.contains(&pattern.id) {
            continue;
        }
        let Some(whole) = known.open(&pattern.applies.facts) else { continue };
        let pattern = scaled(pattern.clone(), scale, out.clock, a);
        tells.extend(pattern.tells.iter().cloned());
        let of_all = pattern.applies.facts.keys().all(|k| k == THING);
        let before = (out.points.len(), out.checks.len());
        give(&mut out, pattern, &whole, &known);
        if of_all {
            general.extend(out.points[before.0..].iter().map(|p| p.id.clone()));
            general.extend(out.checks[before.1..].iter().map(|c| c.id.clone()));
        } else {
            particular(&mut out, before, &general);
        }
    }
    told(&mut out, tells);
    take_over(&mut out);
    tidied(&mut out);
    facts(&mut out, &known);
    Ok(out)
}

/// What checks of other patterns say of a pattern's points.
fn told(out: &mut Family, tells: Vec<Tell>) {
    for tell in tells {
        let given = |f: &Family, id: &str| f.from_pattern("points", id).is_some();
        if !given(out, &tell.point) {
            continue;
        }
        let wanted = out
            .checks
            .iter()
            .position(|c| c.action.as_ref() == Some(&tell.action) && out.from_pattern("checks", &c.id).is_some());
        let Some(check) = wanted.map(|i| &mut out.checks[i]) else { continue };
        if check.links.iter().any(|l| l.point == tell.point) {
            continue;
        }
        let signs = tell.signs.into_iter().filter(|s| s.outcome < check.outcomes.len()).collect();
        check.links.push(Link {
            point: tell.point,
            signs,
            present: Vec::new(),
            stages: Vec::new(),
            coming: None,
            lead: None,
        });
        // What else it may come from was counted without these causes.
        if check.links.iter().all(|l| l.present.is_empty()) {
            check.leak.clear();
        }
    }
}

/// A point or check of a particular construction takes the place of the general one of the same part or action, on what
/// it applies to.
fn particular(out: &mut Family, before: (usize, usize), general: &[String]) {
    let (earlier, new) = out.points.split_at_mut(before.0);
    for p in new.iter().filter(|p| p.part.is_some()) {
        for g in earlier.iter_mut().filter(|g| g.part == p.part && general.contains(&g.id)) {
            g.applies.except.push(p.applies.own());
        }
    }
    let (earlier, new) = out.checks.split_at_mut(before.1);
    for c in new.iter().filter(|c| c.action.is_some()) {
        for g in earlier.iter_mut().filter(|g| g.action == c.action && general.contains(&g.id)) {
            g.applies.except.push(c.applies.own());
        }
    }
    // What is excepted without a condition never is.
    let nothing = Condition::default();
    out.points.retain(|p| !p.applies.except.contains(&nothing));
    out.checks.retain(|c| !c.applies.except.contains(&nothing));
}

/// A sheet without what patterns gave it.
#[must_use]
pub fn without_patterns(mut sheet: Family) -> Family {
    let given: BTreeSet<String> = sheet.patterns.iter().flat_map(|p| p.gives.iter().cloned()).collect();
    let own = |list: &str, id: &str| !given.contains(&format!("{list}/{id}"));
    // A job of a pattern's that something of the sheet's own names stays, in its hours.
    let points = sheet.points.iter().filter(|p| own("points", &p.id)).flat_map(jobs_of);
    let works = sheet.intervals.iter().filter(|i| own("intervals", &i.id)).map(|i| &i.job);
    let upgrades = sheet.upgrades.iter().filter_map(|u| u.job.as_ref());
    let named: BTreeSet<String> = points.chain(works).chain(upgrades).cloned().collect();
    let reached: BTreeSet<String> =
        sheet.jobs.iter().filter(|j| named.contains(&j.id)).flat_map(|j| j.access.iter().cloned()).collect();
    for p in &mut sheet.patterns {
        p.gives.retain(|g| match g.split_once('/') {
            Some(("jobs", id)) => named.contains(id),
            Some(("access", id)) => reached.contains(id),
            _ => false,
        });
    }
    sheet.patterns.retain(|p| !p.gives.is_empty());
    let given: BTreeSet<String> =
        given.into_iter().filter(|g| !sheet.patterns.iter().any(|p| p.gives.contains(g))).collect();
    let own = |list: &str, id: &str| !given.contains(&format!("{list}/{id}"));
    sheet.points.retain(|x| own("points", &x.id));
    sheet.checks.retain(|x| own("checks", &x.id));
    sheet.jobs.retain(|x| own("jobs", &x.id));
    sheet.access.retain(|x| own("access", &x.id));
    sheet.intervals.retain(|x| own("intervals", &x.id));
    sheet.care_rules.retain(|x| own("care_rules", &x.id));
    sheet.facts.retain(|x| own("facts", &x.id));
    sheet
}

/// Puts everything of a pattern that fits into the sheet.
fn give(out: &mut Family, pattern: Pattern, whole: &Facts, known: &Known<'_>) {
    let mut gives: Vec<String> = Vec::new();
    let open = |own: &Applies| -> Option<Applies> {
        let mut facts = known.open(&own.facts)?;
        for (id, accepted) in whole {
            let both: Vec<String> = match facts.get(id) {
                Some(before) => before.iter().filter(|x| accepted.contains(x)).cloned().collect(),
                None => accepted.clone(),
            };
            if both.is_empty() {
                return None;
            }
            facts.insert(id.clone(), both);
        }
        Some(Applies { facts, ..own.clone() })
    };
    macro_rules! conditional {
        ($list:ident) => {
            for mut x in pattern.$list {
                let Some(applies) = open(&x.applies) else { continue };
                if out.$list.iter().all(|y| y.id != x.id) {
                    x.applies = applies;
                    gives.push(format!("{}/{}", stringify!($list), x.id));
                    out.$list.push(x);
                }
            }
        };
    }
    macro_rules! always {
        ($list:ident) => {
            for x in pattern.$list {
                if out.$list.iter().all(|y| y.id != x.id) {
                    gives.push(format!("{}/{}", stringify!($list), x.id));
                    out.$list.push(x);
                }
            }
        };
    }
    conditional!(points);
    conditional!(checks);
    conditional!(intervals);
    conditional!(care_rules);
    always!(jobs);
    always!(access);
    always!(facts);
    if gives.is_empty() {
        return;
    }
    for source in pattern.sources {
        if out.sources.iter().all(|s| s.id != source.id) {
            out.sources.push(source);
        }
    }
    match out.patterns.iter_mut().find(|p| p.id == pattern.id) {
        Some(before) => before.gives.extend(gives),
        None => out.patterns.push(PatternUse { id: pattern.id, version: pattern.version, name: pattern.name, gives }),
    }
}

/// Jobs that a point names.
fn jobs_of(p: &FailurePoint) -> impl Iterator<Item = &String> {
    let larger = p.escalation.iter().chain(&p.already_done).map(|e| &e.job);
    let along = p.takes_along.iter().filter_map(|t| t.job.as_ref());
    std::iter::once(&p.job)
        .chain(p.routes.iter().map(|r| &r.job))
        .chain(larger)
        .chain(along)
        .chain(p.stages.iter().map(|s| &s.job))
}

/// Takes out what points to nothing and what nothing points to, of what patterns gave.
fn tidied(out: &mut Family) {
    let points: BTreeSet<String> = out.points.iter().map(|p| p.id.clone()).collect();
    let given: BTreeSet<String> = out.patterns.iter().flat_map(|p| p.gives.iter().cloned()).collect();
    let own = |list: &str, id: &str| !given.contains(&format!("{list}/{id}"));
    for p in out.points.iter_mut().filter(|p| !own("points", &p.id)) {
        p.takes_along.retain(|t| t.point.as_ref().is_none_or(|id| points.contains(id)));
        p.wears.retain(|w| points.contains(&w.point));
    }
    for c in out.checks.iter_mut().filter(|c| !own("checks", &c.id)) {
        let spoke = !c.links.is_empty();
        c.links.retain(|l| points.contains(&l.point));
        // One that spoke of parts that this thing has not is not done.
        if spoke && c.links.is_empty() && c.leak.is_empty() && c.care_sign.is_none() {
            c.outcomes.clear();
        }
    }
    out.checks.retain(|c| !c.outcomes.is_empty());
    for i in out.intervals.iter_mut().filter(|i| !own("intervals", &i.id)) {
        i.renews.retain(|id| points.contains(id));
    }
    for r in out.care_rules.iter_mut().filter(|r| !own("care_rules", &r.id)) {
        r.points.retain(|id| points.contains(id));
    }
    let needed: BTreeSet<String> = out
        .points
        .iter()
        .flat_map(jobs_of)
        .chain(out.intervals.iter().map(|i| &i.job))
        .chain(out.upgrades.iter().filter_map(|u| u.job.as_ref()))
        .cloned()
        .collect();
    for j in &mut out.jobs {
        j.renews.retain(|id| points.contains(id));
    }
    out.jobs.retain(|j| own("jobs", &j.id) || needed.contains(&j.id) || j.renews.len() > 1);
    let reached: BTreeSet<String> = out.jobs.iter().flat_map(|j| j.access.iter().cloned()).collect();
    out.access.retain(|g| own("access", &g.id) || reached.contains(&g.id));
    let asked = asked(out);
    out.facts.retain(|f| own("facts", &f.id) || asked.contains(&f.id));
    let has: BTreeSet<String> = [
        ("points", out.points.iter().map(|x| &x.id).collect::<Vec<_>>()),
        ("checks", out.checks.iter().map(|x| &x.id).collect()),
        ("jobs", out.jobs.iter().map(|x| &x.id).collect()),
        ("access", out.access.iter().map(|x| &x.id).collect()),
        ("intervals", out.intervals.iter().map(|x| &x.id).collect()),
        ("care_rules", out.care_rules.iter().map(|x| &x.id).collect()),
        ("facts", out.facts.iter().map(|x| &x.id).collect()),
    ]
    .into_iter()
    .flat_map(|(list, ids)| ids.into_iter().map(move |id| format!("{list}/{id}")))
    .collect();
    out.patterns.iter_mut().for_each(|p| p.gives.retain(|g| has.contains(g)));
    out.patterns.retain(|p| !p.gives.is_empty());
}

/// Facts that something in the sheet asks for.
fn asked(f: &Family) -> BTreeSet<String> {
    let applies = f.points.iter().map(|x| &x.applies);
    let applies = applies.chain(f.checks.iter().map(|x| &x.applies)).chain(f.intervals.iter().map(|x| &x.applies));
    let applies = applies.chain(f.care_rules.iter().map(|x| &x.applies));
    applies.flat_map(Applies::conditions).flat_map(|c| c.facts.into_keys()).collect()
}

/// The questions that are open and decide something, as facts of the sheet.
fn facts(out: &mut Family, known: &Known<'_>) {
    let asked = asked(out);
    let mut gives: BTreeMap<&str, Vec<String>> = BTreeMap::new();
    for q in known.library.questions.questions.iter().filter(|q| asked.contains(&q.id)) {
        if out.facts.iter().any(|f| f.id == q.id) {
            continue;
        }
        let values = known.shares(q).into_iter().map(|(v, share)| FactValue {
            id: v.id.clone(),
            label: v.label.clone(),
            share: crate::base::units::Probability::try_from(tidy(share)).ok(),
        });
        let values = values.collect();
        out.facts.push(Fact { id: q.id.clone(), label: q.label.clone(), how: q.how.clone(), values });
        gives.entry("questions").or_default().push(format!("facts/{}", q.id));
    }
    for (id, gives) in gives {
        out.patterns.push(PatternUse { id: id.to_owned(), version: 1, name: "How it is built".to_owned(), gives });
    }
}

/// Shares without the tail of digits that a quotient leaves.
fn tidy(share: f64) -> f64 {
    (share * 1e12).round() / 1e12
}
