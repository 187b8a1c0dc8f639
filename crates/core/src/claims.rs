//! Method §1: what people say of a life, turned into curves.
//!
//! Two-anchor and least-squares Weibull plotting follow the NIST/SEMATECH e-Handbook of Statistical
//! Methods, section 8.4; pooling is the linear opinion pool (Stone 1961); the share that never
//! fails is Boag's cure fraction (1949).

use crate::assumptions::Assumptions;
use std::collections::BTreeMap;

use crate::family::{FailurePoint, LifeClaim, LifeClock, LifeForm, Mechanism, ShareClaim, ShareForm};

/// Why a curve could not be drawn.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum CurveError {
    /// Anchors that no rising curve passes through.
    #[error("the anchors do not rise: a larger share failed must come at a larger figure")]
    NotRising,
    /// A number that is not positive and finite, or a share that is not inside 0 to 1.
    #[error("{0} is not a usable figure here")]
    NotUsable(f64),
    /// Fewer than two anchors where two are needed.
    #[error("two percentiles or more are needed")]
    TooFew,
}

/// A Weibull life: `F(x) = 1 − exp(−(x/η)^β)`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Weibull {
    shape: f64,
    scale: f64,
}

/// `ln(−ln(1−p))`, the ordinate of Weibull paper.
fn ordinate(p: f64) -> f64 {
    (-(-p).ln_1p()).ln()
}

impl Weibull {
    /// A curve of shape β and scale η, both positive and finite.
    ///
    /// # Errors
    /// [`CurveError::NotUsable`] otherwise.
    pub fn new(shape: f64, scale: f64) -> Result<Self, CurveError> {
        for v in [shape, scale] {
            if !(v.is_finite() && v > 0.0) {
                return Err(CurveError::NotUsable(v));
            }
        }
        Ok(Self { shape, scale })
    }

    /// The curve of a given shape through one anchor: share `p` failed by `x`.
    ///
    /// # Errors
    /// [`CurveError::NotUsable`] when `p` is not inside 0 to 1 or `x` not positive.
    pub fn through(p: f64, x: f64, shape: f64) -> Result<Self, CurveError> {
        check_anchor(p, x)?;
        Self::new(shape, x / (-(-p).ln_1p()).powf(1.0 / shape))
    }

    /// The curve through two anchors, or the least-squares line of `ln(−ln(1−p))` on `ln x`
    /// through more.
    ///
    /// ```
    /// use ticksage_core::claims::Weibull;
    /// let w = Weibull::fit(&[(0.2, 70_000.0), (0.8, 100_000.0)]).unwrap();
    /// assert!((w.failed(70_000.0) - 0.2).abs() < 1e-12);
    /// ```
    ///
    /// # Errors
    /// [`CurveError`] when fewer than two anchors are given, one is unusable, or they do not rise.
    pub fn fit(anchors: &[(f64, f64)]) -> Result<Self, CurveError> {
        if anchors.len() < 2 {
            return Err(CurveError::TooFew);
        }
        for &(p, x) in anchors {
            check_anchor(p, x)?;
        }
        #[allow(clippy::cast_precision_loss)]
        let n = anchors.len() as f64;
        let mean_x = anchors.iter().map(|a| a.1.ln()).sum::<f64>() / n;
        let mean_y = anchors.iter().map(|a| ordinate(a.0)).sum::<f64>() / n;
        let (mut sxy, mut sxx) = (0.0, 0.0);
        for &(p, x) in anchors {
            let dx = x.ln() - mean_x;
            sxy += dx * (ordinate(p) - mean_y);
            sxx += dx * dx;
        }
        if sxx <= 0.0 || sxy <= 0.0 {
            return Err(CurveError::NotRising);
        }
        let shape = sxy / sxx;
        Self::new(shape, (mean_x - mean_y / shape).exp())
    }

    /// β.
    #[must_use]
    pub fn shape(&self) -> f64 {
        self.shape
    }

    /// η.
    #[must_use]
    pub fn scale(&self) -> f64 {
        self.scale
    }

    /// Share still alive at `x ≥ 0`.
    #[must_use]
    pub fn alive(&self, x: f64) -> f64 {
        if x <= 0.0 { 1.0 } else { (-(x / self.scale).powf(self.shape)).exp() }
    }

    /// Share failed by `x ≥ 0`.
    #[must_use]
    pub fn failed(&self, x: f64) -> f64 {
        if x <= 0.0 { 0.0 } else { -(-(x / self.scale).powf(self.shape)).exp_m1() }
    }

    /// Slope of [`Self::alive`] at `x > 0`: minus the density.
    #[must_use]
    pub fn slope(&self, x: f64) -> f64 {
        let z = (x / self.scale).powf(self.shape);
        -self.shape / x * z * (-z).exp()
    }

    /// The figure by which share `p` (inside 0 to 1) has failed.
    #[must_use]
    pub fn quantile(&self, p: f64) -> f64 {
        self.scale * (-(-p).ln_1p()).powf(1.0 / self.shape)
    }
}

fn check_anchor(p: f64, x: f64) -> Result<(), CurveError> {
    if !(p > 0.0 && p < 1.0) {
        return Err(CurveError::NotUsable(p));
    }
    if !(x.is_finite() && x > 0.0) {
        return Err(CurveError::NotUsable(x));
    }
    Ok(())
}

/// Which schools are listened to, and how much each counts against the others.
#[derive(Debug, Clone, Copy)]
pub enum Heard<'a> {
    /// All, as the sheet weighs them.
    All,
    /// One alone.
    One(&'a str),
    /// Those named, by weight; the others not at all.
    Mix(&'a BTreeMap<String, f64>),
}

impl<'a> Heard<'a> {
    /// All when no school is named.
    #[must_use]
    pub fn of(schools: &'a BTreeMap<String, f64>) -> Self {
        if schools.is_empty() { Self::All } else { Self::Mix(schools) }
    }

    /// How much a school counts.
    #[must_use]
    pub fn weight(self, school: &str) -> f64 {
        match self {
            Self::All => 1.0,
            Self::One(s) => f64::from(u8::from(s == school)),
            Self::Mix(m) => m.get(school).copied().unwrap_or(0.0),
        }
    }

    /// The claims heard with their weights; where none of the schools heard says anything, all of them.
    fn claims<'c, T>(self, claims: &'c [T], school: impl Fn(&T) -> (&str, f64)) -> Vec<(f64, &'c T)> {
        let weighed = |heard: Self| -> Vec<(f64, &'c T)> {
            claims
                .iter()
                .map(|c| {
                    let (name, own) = school(c);
                    (own * heard.weight(name), c)
                })
                .filter(|(w, _)| *w > 0.0)
                .collect()
        };
        let heard = weighed(self);
        if heard.is_empty() { weighed(Self::All) } else { heard }
    }
}

/// The curve that a claim means.
///
/// # Errors
/// [`CurveError`] when the claim's figures do not make a curve.
pub fn curve(says: &LifeForm, mechanism: Mechanism, a: &Assumptions) -> Result<Weibull, CurveError> {
    let shape = a.shape(mechanism);
    match says {
        LifeForm::Between { from, to } => Weibull::fit(&[(a.p_between_low, *from), (a.p_between_high, *to)]),
        LifeForm::FromAbout { at } => Weibull::through(a.p_from_about, *at, shape),
        LifeForm::About { at } => Weibull::through(a.p_about, *at, shape),
        LifeForm::RarelyBeyond { at } => Weibull::through(a.p_rarely_beyond, *at, shape),
        LifeForm::AtLeast { at } => Weibull::through(a.p_at_least, *at, shape),
        LifeForm::Quantiles { points } => Weibull::fit(&points.iter().map(|q| (q.p, q.x)).collect::<Vec<_>>()),
        LifeForm::Weibull { shape, scale } => Weibull::new(*shape, *scale),
    }
}

/// Claims on one clock, pooled linearly; weights sum to 1. No claims: lasts for ever.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Pool {
    curves: Vec<(f64, Weibull)>,
}

impl Pool {
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
    pub fn alive(&self, x: f64) -> f64 {
        if self.curves.is_empty() { 1.0 } else { self.curves.iter().map(|(w, c)| w * c.alive(x)).sum() }
    }

    /// Slope of [`Self::alive`] at `x > 0`.
    #[must_use]
    pub fn slope(&self, x: f64) -> f64 {
        self.curves.iter().map(|(w, c)| w * c.slope(x)).sum()
    }
}

/// `ln n` for the whole numbers, once and for all: a lattice is read off it without logarithms.
fn logarithms() -> &'static [f64] {
    static LN: std::sync::OnceLock<Vec<f64>> = std::sync::OnceLock::new();
    LN.get_or_init(|| (0..5000u32).map(|n| f64::from(n).ln()).collect())
}

impl Pool {
    /// [`Self::alive`] at 0, `step`, 2 `step` … (`count` of them, at most 5000), and the slope there
    /// times `step`; the slope at 0 is given as 0. Nothing claimed: empty.
    ///
    /// `(n·step/η)^β = exp(β ln n + β ln(step/η))`, so that each value costs two exponentials.
    #[must_use]
    pub fn lattice(&self, step: f64, count: usize) -> (Vec<f64>, Vec<f64>) {
        if self.curves.is_empty() {
            return (Vec::new(), Vec::new());
        }
        let (mut alive, mut slope) = (vec![0.0; count], vec![0.0; count]);
        // Beyond z = 40 less than 1e-17 is alive.
        for (w, c) in &self.curves {
            let offset = c.shape * (step / c.scale).ln();
            alive[0] += w;
            for ((ln, a), (n, d)) in
                logarithms().iter().zip(alive.iter_mut()).zip((0u32..).zip(slope.iter_mut())).skip(1)
            {
                let z = (c.shape * ln + offset).exp();
                if z > 40.0 {
                    break;
                }
                let s = (-z).exp();
                *a += w * s;
                *d -= w * c.shape / f64::from(n) * z * s;
            }
        }
        (alive, slope)
    }
}

impl Pool {
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
    pub usage: Pool,
    /// On the age clock, years.
    pub age: Pool,
}

impl Life {
    /// Pools the claims of the schools heard; all of them where those make no claim.
    ///
    /// # Errors
    /// [`CurveError`] from the first claim that makes no curve; a sheet that passed
    /// [`crate::sense`] has none.
    pub fn pool(
        claims: &[LifeClaim],
        heard: Heard<'_>,
        mechanism: Mechanism,
        a: &Assumptions,
    ) -> Result<Self, CurveError> {
        let (mut usage, mut age) = (Vec::new(), Vec::new());
        for (weight, claim) in heard.claims(claims, |c| (&c.school, c.weight)) {
            let entry = (weight, curve(&claim.says, mechanism, a)?);
            match claim.clock {
                LifeClock::Usage => usage.push(entry),
                LifeClock::Age => age.push(entry),
            }
        }
        Ok(Self { usage: Pool::new(usage), age: Pool::new(age) })
    }

    /// Share alive after usage `u` and age `a`, each stretched by the life factor `kappa`.
    #[must_use]
    pub fn alive(&self, u: f64, a: f64, kappa: f64) -> f64 {
        self.usage.alive(u / kappa) * self.age.alive(a / kappa)
    }
}

/// Share of the family that has the fault in it (π), before unknown facts: the weighted mean of the
/// claims heard; 1 when nothing is claimed.
#[must_use]
pub fn susceptible(claims: &[ShareClaim], heard: Heard<'_>, a: &Assumptions) -> f64 {
    let (mut sum, mut total) = (0.0, 0.0);
    for (weight, claim) in heard.claims(claims, |c| (&c.school, c.weight)) {
        let share = match claim.says {
            ShareForm::Share { share } => share.get(),
            ShareForm::OneIn { n } => 1.0 / n,
            ShareForm::Word { word } => a.share(word),
        };
        sum += weight * share;
        total += weight;
    }
    if total > 0.0 { sum / total } else { 1.0 }
}

/// The lives and shares of a failure point under one school: before and after its revision.
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
    pub fn pool(point: &FailurePoint, heard: Heard<'_>, a: &Assumptions) -> Result<Self, CurveError> {
        let first = Life::pool(&point.life, heard, point.mechanism, a)?;
        let share = susceptible(&point.share, heard, a);
        let (mut revised, mut revised_share) = (first.clone(), share);
        if let Some(r) = &point.revision {
            if !r.life.is_empty() {
                revised = Life::pool(&r.life, heard, point.mechanism, a)?;
            }
            if !r.share.is_empty() {
                revised_share = susceptible(&r.share, heard, a);
            }
        }
        Ok(Self { first, revised, share, revised_share })
    }
}
