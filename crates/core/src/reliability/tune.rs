//! What more power than the maker gave it makes of a point's life.
//!
//! docs/METHOD.md, section 2.

use std::collections::BTreeMap;

use crate::base::units::{Probability, Usage};
use crate::documents::alteration::{Alteration, Tune, TuneQuality};
use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::failure_point::{Exposure, FailurePoint};
use crate::documents::family::Family;

/// How hard a tune strains: 1 to the limit of what standard parts bear, by a tune of which nothing is known.
fn strain(x: &Alteration, tune: &Tune, a: &Assumptions) -> f64 {
    let over = tune.power_kw.map_or(1.0, |kw| ((kw - x.standard_kw) / (x.limit_kw - x.standard_kw)).max(0.0));
    let over = if over > 1.0 { 1.0 + a.tune_beyond * (over - 1.0) } else { over };
    (over * quality(tune, a)).min(a.tune_most)
}

fn quality(tune: &Tune, a: &Assumptions) -> f64 {
    match tune.quality {
        TuneQuality::Documented => a.tune_documented,
        TuneQuality::Unknown => 1.0,
        TuneQuality::Rough => a.tune_rough,
    }
}

/// Share of the usage so far that it ran tuned. Where nobody knows since when, it counts from now on alone: a tune taken
/// to be as old as the thing would make of every part that has held so far one that never fails.
fn so_far(tune: &Tune, usage: Usage) -> f64 {
    let now = usage.on_clock();
    tune.since.filter(|_| now > 0.0).map_or(0.0, |since| (1.0 - since.on_clock() / now).clamp(0.0, 1.0))
}

/// How many times as long a point lasts while the tune is on it, by the sheet's alterations; where they are silent, by
/// how the point takes a tune at all.
pub(crate) fn lasts(point: &FailurePoint, family: &Family, c: &Candidate, tune: &Tune, a: &Assumptions) -> (f64, bool) {
    let named: Vec<f64> = family
        .alterations
        .iter()
        .filter_map(|x| Some((x, x.shortens.get(&point.id)?, fit(&x.applies, family, c, a)?.share)))
        .map(|(x, lasts, share)| lasts.powf(share * strain(x, tune, a)))
        .collect();
    if named.is_empty() {
        let level = quality(tune, a).min(1.0);
        return (point.exposures.get(&Exposure::Tuned).map_or(1.0, |lasts| lasts.powf(level)), false);
    }
    (named.into_iter().product(), true)
}

/// What the candidate's tune makes of a point's life, so far and along the plan. A level of tuned use that somebody
/// stated stands beside an alteration of the sheet only where that does not name the point.
#[must_use]
pub fn factors(point: &FailurePoint, family: &Family, c: &Candidate, a: &Assumptions) -> (f64, f64) {
    let Some(tune) = &c.tune else { return (1.0, 1.0) };
    let (lasts, named) = lasts(point, family, c, tune, a);
    // What is stated of the same is counted already: a named alteration takes its place, else it stays.
    let of = |levels: &BTreeMap<Exposure, Probability>, share: f64| {
        let own = lasts.powf(share);
        match (levels.get(&Exposure::Tuned), point.exposures.get(&Exposure::Tuned)) {
            (Some(level), Some(f)) if named => own / f.powf(level.get()),
            (Some(_), Some(_)) => 1.0,
            _ => own,
        }
    };
    let ahead = if tune.put_back { 0.0 } else { 1.0 };
    (of(&c.past_use, so_far(tune, c.usage)), of(&c.plan.use_, ahead))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::units::UsageUnit;

    #[test]
    fn power_below_the_limit_strains_in_proportion_and_beyond_it_steeply() {
        let x = Alteration {
            id: "map".to_owned(),
            name: "Software".to_owned(),
            source: "shop".to_owned(),
            standard_kw: 100.0,
            limit_kw: 120.0,
            shortens: BTreeMap::new(),
            caution: String::new(),
            applies: crate::documents::applies::Applies::default(),
        };
        let a = Assumptions::default();
        let at = |power_kw: Option<f64>, quality| strain(&x, &Tune { power_kw, quality, ..Tune::default() }, &a);
        let near = |x: f64, y: f64| assert!((x - y).abs() < 1e-12, "{x} {y}");
        near(at(Some(90.0), TuneQuality::Unknown), 0.0);
        near(at(Some(110.0), TuneQuality::Unknown), 0.5);
        near(at(None, TuneQuality::Unknown), 1.0);
        near(at(Some(130.0), TuneQuality::Unknown), 3.0);
        near(at(Some(110.0), TuneQuality::Documented), 0.3);
        near(at(Some(110.0), TuneQuality::Rough), 0.8);
        near(at(Some(400.0), TuneQuality::Rough), a.tune_most);
        let km = |value| Usage { value, unit: UsageUnit::Km };
        near(so_far(&Tune { since: Some(km(75_000.0)), ..Tune::default() }, km(100_000.0)), 0.25);
        near(so_far(&Tune::default(), km(100_000.0)), 0.0);
    }
}
