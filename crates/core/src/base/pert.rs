//! Three-point figures as Beta-PERT distributions (Malcolm et al. 1959).

/// Mean of a three-point figure.
#[must_use]
pub fn pert_mean(low: f64, likely: f64, high: f64) -> f64 {
    (low + 4.0 * likely + high) / 6.0
}

/// Variance of a three-point figure as Beta-PERT with shape 4.
#[must_use]
pub fn pert_variance(low: f64, likely: f64, high: f64) -> f64 {
    let mean = pert_mean(low, likely, high);
    (mean - low) * (high - mean) / 7.0
}

/// A three-point figure as a distribution: Beta-PERT with shape 4, read off by its quantiles.
#[derive(Debug, Clone)]
pub struct Pert {
    low: f64,
    width: f64,
    /// Cumulated density over equal steps of the width; empty where there is none.
    sums: Vec<f64>,
}

/// Steps that a three-point figure is cumulated in.
const PERT_STEPS: usize = 400;

impl Pert {
    /// Of figures that rise.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn new(low: f64, likely: f64, high: f64) -> Self {
        let width = high - low;
        if width <= 0.0 {
            return Self { low, width: 0.0, sums: Vec::new() };
        }
        let mode = ((likely - low) / width).clamp(0.0, 1.0);
        let (alpha, beta) = (1.0 + 4.0 * mode, 5.0 - 4.0 * mode);
        let mut sum = 0.0;
        let mut sums = vec![0.0];
        for i in 0..PERT_STEPS {
            let x = (i as f64 + 0.5) / PERT_STEPS as f64;
            sum += x.powf(alpha - 1.0) * (1.0 - x).powf(beta - 1.0);
            sums.push(sum);
        }
        sums.iter_mut().for_each(|s| *s /= sum);
        Self { low, width, sums }
    }

    /// The figure that a share `u` of outcomes lies below.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn at(&self, u: f64) -> f64 {
        if self.sums.is_empty() {
            return self.low;
        }
        let i = self.sums.partition_point(|s| *s < u).clamp(1, PERT_STEPS);
        let (from, to) = (self.sums[i - 1], self.sums[i]);
        let within = if to > from { ((u - from) / (to - from)).clamp(0.0, 1.0) } else { 0.5 };
        self.low + self.width * ((i - 1) as f64 + within) / PERT_STEPS as f64
    }
}

/// Slices of equal chance that a three-point figure is cut into.
const SLICES: usize = 16;

/// Steps of the mode, from the low end to the high one, that slices are tabulated for.
const MODES: usize = 128;

/// The middle of each of sixteen equally likely slices of a three-point figure; read off a table of the mode.
#[must_use]
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub fn middles(low: f64, likely: f64, high: f64) -> [f64; SLICES] {
    static TABLE: std::sync::OnceLock<Vec<[f64; SLICES]>> = std::sync::OnceLock::new();
    let of_mode = |m: usize| {
        let unit = Pert::new(0.0, m as f64 / MODES as f64, 1.0);
        std::array::from_fn(|i| unit.at((i as f64 + 0.5) / SLICES as f64))
    };
    let table = TABLE.get_or_init(|| (0..=MODES).map(of_mode).collect());
    let width = high - low;
    if width <= 0.0 {
        return [low; SLICES];
    }
    let at = ((likely - low) / width).clamp(0.0, 1.0) * MODES as f64;
    let m = (at as usize).min(MODES - 1);
    let part = at - m as f64;
    std::array::from_fn(|i| low + width * (table[m][i] + part * (table[m + 1][i] - table[m][i])))
}
