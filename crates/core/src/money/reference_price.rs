//! The reference price: what others like it are offered for.
//!
//! docs/METHOD.md, section 11.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::statistics::{huber, median, theil_sen};
use crate::base::units::years_between;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::{Candidate, Comparable, Example};

/// How the reference price was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReferenceBasis {
    /// No comparable: the asking price itself.
    Asking,
    /// One or two comparables, or a line that rises: their median price.
    Median,
    /// Three or more: the Theil–Sen line at this usage.
    Line,
    /// Six or more whose age is known too: Huber's regression of the logarithm of price on usage and age.
    Surface,
}

/// The reference price and where it comes from.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Reference {
    /// Price of the reference example, units of the currency.
    pub price: f64,
    /// How it was found.
    pub basis: ReferenceBasis,
    /// What kind of example it is.
    pub example: Example,
    /// Comparables used.
    pub count: usize,
    /// Comparables passed over: of the other kind of example, or counted on another clock.
    pub passed: usize,
    /// The line, where it was used.
    pub line: Option<PriceLine>,
    /// The line through them rises: dearer the farther it went. That is chance, not the market; their
    /// median is used.
    pub rising: bool,
    /// The candidate's usage lies outside that of all comparables: the line is drawn out beyond them.
    pub outside: bool,
    /// The dearest well-sorted one, moved along the line to this usage.
    pub dearest_sorted: Option<f64>,
}

/// A line of price on usage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PriceLine {
    /// Money a unit of usage.
    pub slope: f64,
    /// Price at no usage.
    pub at_zero: f64,
    /// Money a year of age, where the comparables tell it; 0 where not.
    pub a_year: f64,
}

impl Reference {
    /// The going price after so much more usage and so many more years; none where no line tells it.
    #[must_use]
    pub fn later(&self, usage: f64, years: f64) -> Option<f64> {
        let line = self.line?;
        match self.basis {
            // Log-linear: the slopes are shares of today's price.
            ReferenceBasis::Surface if self.price > 0.0 => {
                Some(self.price * ((line.slope * usage + line.a_year * years) / self.price).exp())
            }
            ReferenceBasis::Line => Some((self.price + line.slope * usage).max(0.0)),
            _ => None,
        }
    }
}

/// The reference price for a candidate. Where adverts of both kinds are given, the kind with more is
/// used; at a tie the typical ones.
#[must_use]
pub fn reference(candidate: &Candidate, a: &Assumptions) -> Reference {
    let of = |example: Example| -> Vec<&Comparable> {
        let clock = candidate.usage.unit.clock();
        candidate.comparables.iter().filter(|c| c.example == example && c.usage.unit.clock() == clock).collect()
    };
    let (typical, sorted) = (of(Example::Typical), of(Example::WellSorted));
    let (points, example) =
        if sorted.len() > typical.len() { (&sorted, Example::WellSorted) } else { (&typical, Example::Typical) };
    let count = points.len();
    let passed = candidate.comparables.len() - count;
    let at = candidate.usage.on_clock();
    let age = years_between(candidate.built, candidate.as_of);
    let surface = surface(candidate, points, a);
    let by_usage: Vec<(f64, f64)> = points.iter().map(|c| (c.usage.on_clock(), c.price.get())).collect();
    let found = if count >= 3 && surface.is_none() { theil_sen(&by_usage) } else { None };
    let rising = found.is_some_and(|l| l.0 > 0.0);
    let line = match &surface {
        // As a line at this age, so that it can be drawn.
        Some(s) => {
            let price = s.at(at, age);
            let slope = price * s.by_usage;
            Some(PriceLine { slope, at_zero: price - slope * at, a_year: price * s.by_age })
        }
        None => found.filter(|_| !rising).map(|(slope, at_zero)| PriceLine { slope, at_zero, a_year: 0.0 }),
    };
    let outside = line.is_some() && (by_usage.iter().all(|p| p.0 < at) || by_usage.iter().all(|p| p.0 > at));
    let mut prices: Vec<f64> = by_usage.iter().map(|p| p.1).collect();
    let first = candidate.asked_first.unwrap_or(candidate.asking).get();
    let (price, basis) = match (&surface, line, median(&mut prices)) {
        (Some(s), _, _) => (s.at(at, age), ReferenceBasis::Surface),
        (None, Some(l), _) => ((l.at_zero + l.slope * at).max(0.0), ReferenceBasis::Line),
        (None, None, Some(price)) => (price, ReferenceBasis::Median),
        (None, None, None) => (first, ReferenceBasis::Asking),
    };
    let moved = |c: &&Comparable| {
        let to = |slope: f64| c.price.get() + slope * (at - c.usage.on_clock());
        to(line.map_or(0.0, |l| l.slope)).max(0.0)
    };
    let dearest_sorted = sorted.iter().map(moved).fold(None, |most: Option<f64>, x| Some(most.map_or(x, |m| m.max(x))));
    Reference { price, basis, example, count, passed, line, rising, outside, dearest_sorted }
}

/// Usage, age and the logarithm of the price of an advert.
type Known = (f64, f64, f64);

/// Log price by usage and age.
struct Surface {
    by_usage: f64,
    by_age: f64,
    at_zero: f64,
}

impl Surface {
    fn at(&self, usage: f64, age: f64) -> f64 {
        (self.at_zero + self.by_usage * usage + self.by_age * age).exp()
    }
}

/// The surface through comparables whose age is known; none where they are too few or tell usage and age not apart. A
/// slope that rises is chance, not the market: it is left out and the other fitted alone.
fn surface(candidate: &Candidate, points: &[&Comparable], a: &Assumptions) -> Option<Surface> {
    let known: Vec<Known> = points
        .iter()
        .filter(|c| c.price.get() > 0.0)
        .filter_map(|c| Some((c.usage.on_clock(), years_between(c.built?, candidate.as_of), c.price.get().ln())))
        .collect();
    let mut ages: Vec<f64> = known.iter().map(|k| k.1).collect();
    ages.sort_by(f64::total_cmp);
    ages.dedup();
    #[allow(clippy::cast_precision_loss)]
    let few = (known.len() as f64) < a.surface_least || (ages.len() as f64) < a.surface_ages;
    if few || correlation(&known).is_none_or(|r| r.abs() >= a.surface_correlation) {
        return None;
    }
    let y: Vec<f64> = known.iter().map(|k| k.2).collect();
    let fit = |of: fn(&Known) -> Vec<f64>| huber(&known.iter().map(of).collect::<Vec<_>>(), &y);
    let both = fit(|k| vec![k.0, k.1])?;
    let (mut by_usage, mut by_age, mut at_zero) = (both.slopes[0], both.slopes[1], both.intercept);
    if by_usage > 0.0 {
        let age = fit(|k| vec![k.1])?;
        (by_usage, by_age, at_zero) = (0.0, age.slopes[0], age.intercept);
    } else if by_age > 0.0 {
        let usage = fit(|k| vec![k.0])?;
        (by_usage, by_age, at_zero) = (usage.slopes[0], 0.0, usage.intercept);
    }
    (by_usage <= 0.0 && by_age <= 0.0).then_some(Surface { by_usage, by_age, at_zero })
}

/// Correlation of usage and age; none where one of them does not vary.
fn correlation(known: &[Known]) -> Option<f64> {
    #[allow(clippy::cast_precision_loss)]
    let n = known.len() as f64;
    let (mu, ma) = (known.iter().map(|k| k.0).sum::<f64>() / n, known.iter().map(|k| k.1).sum::<f64>() / n);
    let sum = |of: &dyn Fn(&Known) -> f64| known.iter().map(of).sum::<f64>();
    let (uu, aa) = (sum(&|k| (k.0 - mu).powi(2)), sum(&|k| (k.1 - ma).powi(2)));
    (uu > 0.0 && aa > 0.0).then(|| sum(&|k| (k.0 - mu) * (k.1 - ma)) / (uu * aa).sqrt())
}
