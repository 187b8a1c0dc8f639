//! What in a sheet makes sense and is odd all the same: told, never refused.

use crate::base::fault::Fault;
use crate::base::units::Probability;
use crate::documents::check::{Check, Link};
use crate::documents::family::Family;
use crate::documents::words::Price;

/// Everything odd in a consistent sheet, each with its path.
///
/// A worse outcome should speak more for a fault than a lesser one: where the likelihood ratio of the fault present
/// against everything sound falls from one outcome to the next worse, a worse finding would make the vehicle look
/// better. docs/METHOD.md, section 5. What it knows better must be there to be known better: in one of `bases`, the
/// base sheets, or given by a pattern.
#[must_use]
pub fn family_notices(f: &Family, bases: &[Family]) -> Vec<Fault> {
    let mut out = cheaper_when_worse(f);
    out.extend(known_better_of_nothing(f, bases));
    for (i, c) in f.checks.iter().enumerate() {
        for (k, link) in c.links.iter().enumerate() {
            let name = f.point(&link.point).map_or(link.point.as_str(), |p| p.name.as_str());
            let mut tell = |what: &str, path: &str, cause: &[Probability]| {
                for (lesser, ratios) in falls(c, cause) {
                    let [less, more] = [lesser, lesser + 1].map(|o| c.outcomes[o].label.as_str());
                    let message = format!(
                        "\"{more}\" is the worse outcome, yet speaks less for \"{name}\" {what} than \"{less}\": {} against \
                         {} times as likely as with nothing wrong",
                        times(ratios[1]),
                        times(ratios[0])
                    );
                    out.push(Fault { path: format!("/checks/{i}/links/{k}/{path}"), message });
                }
            };
            tell("there", "present", &link.present);
            if let Link { coming: Some(coming), .. } = link {
                tell("coming", "coming", coming);
            }
            out.extend(
                fading(c, link, name).map(|message| Fault { path: format!("/checks/{i}/links/{k}/signs"), message }),
            );
        }
    }
    out
}

/// What a sheet knows better of a part, a check or a job that no base sheet and no pattern describes.
fn known_better_of_nothing(f: &Family, bases: &[Family]) -> Vec<Fault> {
    let lower = || bases.iter().filter(|b| b.kind.is_base() && b.clock == f.clock).chain([f]);
    let mut out = Vec::new();
    let nothing = |path: String, what: &str, id: &str| {
        let message = format!("no base sheet and no pattern of this one describes {what} \"{id}\": it changes nothing");
        Fault { path, message }
    };
    for (i, x) in f.adjusts.iter().enumerate() {
        let part =
            |b: &Family| b.points.iter().any(|p| p.part.as_ref() == Some(&x.part) && b.is_lower("points", &p.id));
        if !lower().any(part) {
            out.push(nothing(format!("/adjusts/{i}/part"), "the part", &x.part));
        }
    }
    for (i, x) in f.adjusts_jobs.iter().enumerate() {
        if !lower().any(|b| b.is_lower("jobs", &x.job) && b.job(&x.job).is_some()) {
            out.push(nothing(format!("/adjusts_jobs/{i}/job"), "the job", &x.job));
        }
    }
    for (i, x) in f.adjusts_checks.iter().enumerate() {
        let same = |b: &Family, c: &Check| c.does(&x.action) && b.is_lower("checks", &c.id);
        let known: Vec<&Check> = lower().flat_map(|b| b.checks.iter().filter(move |c| same(b, c))).collect();
        if known.is_empty() {
            out.push(nothing(format!("/adjusts_checks/{i}/action"), "the check", &x.action));
        }
        let Some(new) = &x.measure else { continue };
        let limits = known.iter().map(|c| c.measure.as_ref().map_or(0, |m| m.limits.len()));
        if let Some(other) = limits.filter(|n| *n != new.limits.len()).max() {
            let message = format!(
                "\"{}\" has {other} limits there and {} here: its outcomes would not fit, so the reading stays as it is",
                x.action,
                new.limits.len()
            );
            out.push(Fault { path: format!("/adjusts_checks/{i}/measure/limits"), message });
        }
    }
    out
}

/// Stages that cost less than an earlier one: nobody would put the earlier right.
fn cheaper_when_worse(f: &Family) -> Vec<Fault> {
    let likely = |p: Price| match p {
        Price::About(m) => m.get(),
        Price::Between([low, high]) => f64::midpoint(low.get(), high.get()),
    };
    let mut out = Vec::new();
    for (i, p) in f.points.iter().enumerate() {
        let own = |k: usize| if k == 0 { p.price } else { p.stages[k].price };
        for k in 1..p.stages.len() {
            if let (Some(before), Some(now)) = (own(k - 1).map(likely), own(k).map(likely))
                && now < before
            {
                let message =
                    format!("\"{}\" costs less than the stage before it: {now:.0}, not {before:.0}", p.stages[k].name);
                out.push(Fault { path: format!("/points/{i}/stages/{k}"), message });
            }
        }
    }
    out
}

/// Where a worse outcome is said to be less telling than a lesser one.
fn fading(c: &Check, link: &Link, name: &str) -> Option<String> {
    let mut signs = link.signs.clone();
    signs.sort_by_key(|s| s.outcome);
    let falls = signs.windows(2).find(|w| w[1].says < w[0].says)?;
    let [less, more] = [falls[0], falls[1]].map(|s| c.outcomes.get(s.outcome).map_or("", |o| o.label.as_str()));
    Some(format!("\"{more}\" is the worse outcome, yet said to tell less of \"{name}\" than \"{less}\""))
}

fn times(ratio: f64) -> String {
    if ratio.is_infinite() { "without end".to_owned() } else { format!("{ratio:.2}") }
}

/// Chance of each outcome with a cause and its own leak (the greater of the two effects), over that of the leak alone;
/// none where neither ever shows it.
fn likelihood_ratio(c: &Check, cause: &[Probability], outcome: usize) -> Option<f64> {
    let until = |dist: &[Probability]| dist[..outcome].iter().map(|p| p.get()).sum::<f64>();
    let (leak, own) = (c.leak[outcome].get(), cause[outcome].get());
    let with = (until(&c.leak) + leak) * (until(cause) + own) - until(&c.leak) * until(cause);
    if leak > 0.0 { Some(with / leak) } else { (with > 0.0).then_some(f64::INFINITY) }
}

/// The outcomes whose ratio is above that of the next that ever shows, with both ratios.
fn falls(c: &Check, cause: &[Probability]) -> Vec<(usize, [f64; 2])> {
    if c.leak.len() != c.outcomes.len() || cause.len() != c.outcomes.len() {
        return Vec::new();
    }
    let ratio = |o: usize| likelihood_ratio(c, cause, o);
    let pairs = (1..c.outcomes.len()).filter_map(|o| Some((o - 1, [ratio(o - 1)?, ratio(o)?])));
    pairs.filter(|(_, [less, more])| *more < *less * (1.0 - 1e-9)).collect()
}
