//! The Weibull distribution, and its fit through percentiles (NIST/SEMATECH e-Handbook of Statistical
//! Methods, section 8.4).

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
    pub(crate) shape: f64,
    pub(crate) scale: f64,
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
    /// use ticksage_core::base::weibull::Weibull;
    /// let w = Weibull::fit(&[(0.2, 70_000.0), (0.8, 100_000.0)]).unwrap();
    /// assert!((w.cdf(70_000.0) - 0.2).abs() < 1e-12);
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
    pub fn survival(&self, x: f64) -> f64 {
        if x <= 0.0 { 1.0 } else { (-(x / self.scale).powf(self.shape)).exp() }
    }

    /// Share failed by `x ≥ 0`.
    #[must_use]
    pub fn cdf(&self, x: f64) -> f64 {
        if x <= 0.0 { 0.0 } else { -(-(x / self.scale).powf(self.shape)).exp_m1() }
    }

    /// Slope of [`Self::survival`] at `x > 0`: minus the density.
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
