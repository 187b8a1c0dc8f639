//! Claims pooled into Weibull mixtures by the sources listened to.
//!
//! Pooling is the linear opinion pool (Stone 1961); the share that never fails is Boag's cure fraction
//! (1949).
//!
//! docs/METHOD.md, section 1.

use std::collections::BTreeMap;

use crate::base::memory::KeyOf;
use crate::base::weibull::{CurveError, Weibull};
use crate::documents::assumptions::Assumptions;
use crate::documents::claim::{LifeClaim, LifeClock, Mechanism, ShareClaim, ShareForm};
use crate::documents::claim_curve::curve;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Source;

/// Which sources are listened to, and how much each counts against the others.
#[derive(Debug, Clone, Copy)]
pub enum SourceSelection<'a> {
    /// All, as the sheet weighs them.
    All,
    /// One alone.
    One(&'a str),
    /// Those named, by weight; the others not at all.
    Mix(&'a BTreeMap<String, f64>),
}

impl<'a> SourceSelection<'a> {
    /// All when no source is named.
    #[must_use]
    pub fn of(sources: &'a BTreeMap<String, f64>) -> Self {
        if sources.is_empty() { Self::All } else { Self::Mix(sources) }
    }

    /// How much a source counts.
    #[must_use]
    pub fn weight(self, source: &str) -> f64 {
        match self {
            Self::All => 1.0,
            Self::One(s) => f64::from(u8::from(s == source)),
            Self::Mix(m) => m.get(source).copied().unwrap_or(0.0),
        }
    }

    /// The claims heard with their weights; where none of the sources heard says anything, all of them.
    fn claims<'c, T>(self, claims: &'c [T], source: impl Fn(&T) -> (&str, f64)) -> Vec<(f64, &'c T)> {
        let weighed = |heard: Self| -> Vec<(f64, &'c T)> {
            claims
                .iter()
                .map(|c| {
                    let (name, own) = source(c);
                    (own * heard.weight(name), c)
                })
                .filter(|(w, _)| *w > 0.0)
                .collect()
        };
        let heard = weighed(self);
        if heard.is_empty() { weighed(Self::All) } else { heard }
    }
}

/// Claims on one clock, pooled linearly; weights sum to 1. No claims: lasts for ever.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct WeibullMixture {
    curves: Vec<(f64, Weibull)>,
}

impl WeibullMixture {
    /// No claims: lasts for ever.
    pub const NONE: &'static Self = &Self { curves: Vec::new() };

    /// Pools curves by their positive weights.
    #[must_use]
    pub fn new(curves: Vec<(f64, Weibull)>) -> Self {
        let total: f64 = curves.iter().map(|c| c.0).sum();
        Self { curves: curves.into_iter().map(|(w, c)| (w / total, c)).collect() }
    }

    /// Whether nothing is claimed on this clock.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.curves.is_empty()
    }

    /// The pooled curves with weights that sum to 1.
    #[must_use]
    pub fn curves(&self) -> &[(f64, Weibull)] {
        &self.curves
    }

    /// Share still alive at `x`.
    #[must_use]
    pub fn survival(&self, x: f64) -> f64 {
        if self.curves.is_empty() { 1.0 } else { self.curves.iter().map(|(w, c)| w * c.survival(x)).sum() }
    }

    /// Slope of [`Self::survival`] at `x > 0`.
    #[must_use]
    pub fn slope(&self, x: f64) -> f64 {
        self.curves.iter().map(|(w, c)| w * c.slope(x)).sum()
    }
}

/// Each whole number as its least prime factor times the rest, once and for all; 0 and 1 as they are.
fn factors() -> &'static [(u16, u16)] {
    static FACTORS: std::sync::OnceLock<Vec<(u16, u16)>> = std::sync::OnceLock::new();
    let split = |n: u16| (2..).take_while(|p| p * p <= n).find(|p| n.is_multiple_of(*p)).map_or((n, 1), |p| (p, n / p));
    FACTORS.get_or_init(|| (0..5000).map(split).collect())
}

/// Curves steeper than this are computed outright: powers of whole numbers would grow too large.
const STEEP: f64 = 50.0;

/// `n^β` for the whole numbers below `count`: what is no prime is the product of two before it.
fn powers(shape: f64, count: usize) -> Vec<f64> {
    let mut out: Vec<f64> = Vec::with_capacity(count);
    for (n, (prime, rest)) in (0u32..).map(f64::from).zip(factors()).take(count) {
        out.push(if *rest > 1 { out[usize::from(*prime)] * out[usize::from(*rest)] } else { n.powf(shape) });
    }
    out
}

impl WeibullMixture {
    /// [`Self::survival`] at 0, `step`, 2 `step` … (`count` of them, at most 5000), and the slope there
    /// times `step`; the slope at 0 is given as 0. Nothing claimed: empty.
    #[must_use]
    pub fn on_grid(&self, step: f64, count: usize) -> (Vec<f64>, Vec<f64>) {
        if self.curves.is_empty() {
            return (Vec::new(), Vec::new());
        }
        let (mut alive, mut slope) = (vec![0.0; count], vec![0.0; count]);
        // The claims on a part mostly share their shape.
        let (mut shape, mut raised) = (f64::NAN, Vec::new());
        for (w, c) in &self.curves {
            if shape.to_bits() != c.shape.to_bits() {
                shape = c.shape;
                raised = if shape > STEEP { Vec::new() } else { powers(shape, count) };
            }
            let first = (step / c.scale).powf(shape);
            alive[0] += w;
            for (n, (a, d)) in (0u32..).zip(alive.iter_mut().zip(&mut slope)).skip(1) {
                let z = match raised.get(n as usize) {
                    Some(power) => first * power,
                    None => (f64::from(n) * step / c.scale).powf(shape),
                };
                // Beyond it less than 1e-17 is alive.
                if z > 40.0 {
                    break;
                }
                let s = (-z).exp();
                *a += w * s;
                *d -= w * shape / f64::from(n) * z * s;
            }
        }
        (alive, slope)
    }
}

impl WeibullMixture {
    /// Where less than 1e-13 is left alive; infinite where nothing is claimed.
    #[must_use]
    pub fn exhausted(&self) -> f64 {
        let each = self.curves.iter().map(|(_, c)| c.scale * 30.0f64.powf(1.0 / c.shape));
        if self.curves.is_empty() { f64::INFINITY } else { each.fold(0.0, f64::max) }
    }
}

/// The life of one part on both clocks: whichever comes first.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Life {
    /// On the usage clock.
    pub usage: WeibullMixture,
    /// On the age clock, years.
    pub age: WeibullMixture,
}

impl Life {
    /// Everything that it is, for a key.
    pub fn key(&self, out: &mut KeyOf) {
        for pool in [&self.usage, &self.age] {
            out.add(&pool.curves().len());
            for (weight, curve) in pool.curves() {
                out.figures(&[*weight, curve.shape, curve.scale]);
            }
        }
    }

    /// Pools the claims of the sources heard; all of them where those make no claim.
    ///
    /// # Errors
    /// [`CurveError`] from the first claim that makes no curve; a sheet that passed
    /// [`crate::validation`] has none.
    pub fn pool(
        claims: &[LifeClaim],
        heard: SourceSelection<'_>,
        mechanism: Mechanism,
        a: &Assumptions,
    ) -> Result<Self, CurveError> {
        let (mut usage, mut age) = (Vec::new(), Vec::new());
        for (weight, claim) in heard.claims(claims, |c| (&c.source, c.weight)) {
            let entry = (weight, curve(&claim.says, mechanism, a)?);
            match claim.clock {
                LifeClock::Usage => usage.push(entry),
                LifeClock::Age => age.push(entry),
            }
        }
        Ok(Self { usage: WeibullMixture::new(usage), age: WeibullMixture::new(age) })
    }

    /// Share alive after usage `u` and age `a`, each stretched by the life factor `kappa`.
    #[must_use]
    pub fn survival(&self, u: f64, a: f64, life_factor: f64) -> f64 {
        self.usage.survival(u / life_factor) * self.age.survival(a / life_factor)
    }
}

/// Share of the family that has the fault in it (π), before unknown facts: the weighted mean of the
/// claims heard, those of a source that overstates discounted; 1 when nothing is claimed.
#[must_use]
pub fn susceptible(claims: &[ShareClaim], sources: &[Source], heard: SourceSelection<'_>, a: &Assumptions) -> f64 {
    let discount = |id: &str| sources.iter().find(|s| s.id == id).and_then(|s| s.discount).unwrap_or(1.0);
    let (mut sum, mut total) = (0.0, 0.0);
    for (weight, claim) in heard.claims(claims, |c| (&c.source, c.weight)) {
        let share = match claim.says {
            ShareForm::Share { share } => share.get(),
            ShareForm::OneIn { n } => 1.0 / n,
            ShareForm::Word { word } => a.share(word),
        };
        sum += weight * share * discount(&claim.source);
        total += weight;
    }
    if total > 0.0 { sum / total } else { 1.0 }
}

/// The lives and shares of a failure point under one source: before and after its revision.
#[derive(Debug, Clone, PartialEq)]
pub struct PointLives {
    /// As first built.
    pub first: Life,
    /// With the revised part; the same as `first` where there is none or it has no claims.
    pub revised: Life,
    /// Susceptible share as first built.
    pub share: f64,
    /// Susceptible share with the revised part.
    pub revised_share: f64,
}

impl PointLives {
    /// Pools a point's claims.
    ///
    /// # Errors
    /// [`CurveError`] as [`Life::pool`].
    pub fn pool(
        point: &FailurePoint,
        sources: &[Source],
        heard: SourceSelection<'_>,
        a: &Assumptions,
    ) -> Result<Self, CurveError> {
        let first = Life::pool(&point.life, heard, point.mechanism, a)?;
        let share = susceptible(&point.share, sources, heard, a);
        let (mut revised, mut revised_share) = (first.clone(), share);
        if let Some(r) = &point.revision {
            if !r.life.is_empty() {
                revised = Life::pool(&r.life, heard, point.mechanism, a)?;
            }
            if !r.share.is_empty() {
                revised_share = susceptible(&r.share, sources, heard, a);
            }
        }
        Ok(Self { first, revised, share, revised_share })
    }
}
