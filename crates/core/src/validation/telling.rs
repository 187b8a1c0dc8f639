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
/// better. docs/METHOD.md, section 5.
#[must_use]
pub fn family_notices(f: &Family) -> Vec<Fault> {
    let mut out = cheaper_when_worse(f);
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
