//! Small statistics: median, the Theil–Sen line, Huber's regression, quantiles and the mean of the worst tenth.

/// Median of figures, which are sorted by it; none of none.
#[must_use]
pub fn median(values: &mut [f64]) -> Option<f64> {
    values.sort_by(f64::total_cmp);
    let n = values.len();
    match n {
        0 => None,
        _ if n % 2 == 1 => Some(values[n / 2]),
        _ => Some(f64::midpoint(values[n / 2 - 1], values[n / 2])),
    }
}

/// Theil–Sen slope and intercept: the median of all pairwise slopes, and the intercept that
/// `scipy.stats.theilslopes` uses, median(y) − slope · median(x). `None` without two distinct x.
#[must_use]
pub fn theil_sen(points: &[(f64, f64)]) -> Option<(f64, f64)> {
    let mut slopes: Vec<f64> = Vec::new();
    for (i, a) in points.iter().enumerate() {
        for b in &points[i + 1..] {
            if (b.0 - a.0).abs() > 0.0 {
                slopes.push((b.1 - a.1) / (b.0 - a.0));
            }
        }
    }
    let slope = median(&mut slopes)?;
    let mut xs: Vec<f64> = points.iter().map(|p| p.0).collect();
    let mut ys: Vec<f64> = points.iter().map(|p| p.1).collect();
    Some((slope, median(&mut ys)? - slope * median(&mut xs)?))
}

/// The mean of a dearest tenth lies within so many standard deviations of the mean, whatever the distribution: with a
/// share `q` beyond it `√((1 − q)/q)` (Cantelli's inequality), which is √(0.9/0.1).
pub const DEVIATIONS_TO_THE_DEAREST_TENTH: f64 = 3.0;

/// Mean of the dearest tenth of sorted figures (Rockafellar & Uryasev 2000): the figure on the border
/// counts with the part of it that belongs there.
#[must_use]
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub fn cvar90(sorted: &[f64]) -> f64 {
    let tenth = sorted.len() as f64 * 0.1;
    let whole = tenth.floor() as usize;
    let top: f64 = sorted.iter().rev().take(whole).sum();
    let rest = sorted.iter().rev().nth(whole).map_or(0.0, |x| x * (tenth - whole as f64));
    (top + rest) / tenth
}

/// A quantile of sorted figures: the least that at least `p` of them do not exceed.
#[must_use]
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub fn quantile(sorted: &[f64], p: f64) -> f64 {
    let at = (p * sorted.len() as f64).ceil().max(1.0) as usize;
    sorted[(at - 1).min(sorted.len() - 1)]
}

/// A robust line through points of several variables.
#[derive(Debug, Clone, PartialEq)]
pub struct HuberLine {
    /// Slope by variable.
    pub slopes: Vec<f64>,
    /// Value where all variables are 0.
    pub intercept: f64,
    /// Scale of the residuals.
    pub scale: f64,
}

/// Huber's regression with ε = 1.35, the scale estimated with the line (Huber 1981; the loss that scikit-learn's
/// `HuberRegressor` minimises with `alpha=0`): `Σ σ + H((y − xw − c)/σ)·σ`, where `H(z)` is `z²` within ε and
/// `2ε|z| − ε²` beyond. `rows` are the variables of each point. None where the variables do not tell the line.
#[must_use]
#[allow(clippy::cast_precision_loss)]
pub fn huber(rows: &[Vec<f64>], y: &[f64]) -> Option<HuberLine> {
    const EPSILON: f64 = 1.35;
    let (n, width) = (rows.len(), rows.first()?.len());
    // Standardised variables, so that the equations are well tempered.
    let mean: Vec<f64> = (0..width).map(|j| rows.iter().map(|r| r[j]).sum::<f64>() / n as f64).collect();
    let spread: Vec<f64> =
        (0..width).map(|j| (rows.iter().map(|r| (r[j] - mean[j]).powi(2)).sum::<f64>() / n as f64).sqrt()).collect();
    if n <= width + 1 || spread.iter().any(|s| *s <= 0.0) {
        return None;
    }
    let x: Vec<Vec<f64>> =
        rows.iter().map(|r| (0..width).map(|j| (r[j] - mean[j]) / spread[j]).chain([1.0]).collect()).collect();
    let mut weights = vec![1.0; n];
    let (mut line, mut scale) = (vec![0.0; width + 1], f64::NAN);
    for _ in 0..2000 {
        let solved = least_squares(&x, y, &weights)?;
        let residuals: Vec<f64> =
            x.iter().zip(y).map(|(r, y)| y - r.iter().zip(&solved).map(|(a, b)| a * b).sum::<f64>()).collect();
        let start = if scale.is_nan() { robust_scale(&residuals) } else { scale };
        let next = joint_scale(&residuals, start, EPSILON);
        let moved = solved.iter().zip(&line).map(|(a, b)| (a - b).abs()).fold(0.0, f64::max);
        let settled = moved < 1e-12 && (next - start).abs() < 1e-12;
        (line, scale) = (solved, next);
        if settled || scale <= 1e-12 {
            break;
        }
        weights = residuals.iter().map(|r| (EPSILON * scale / r.abs().max(1e-300)).min(1.0)).collect();
    }
    let slopes: Vec<f64> = (0..width).map(|j| line[j] / spread[j]).collect();
    let intercept = line[width] - slopes.iter().zip(&mean).map(|(s, m)| s * m).sum::<f64>();
    Some(HuberLine { slopes, intercept, scale })
}

/// A first scale: the median of the residuals' sizes.
fn robust_scale(residuals: &[f64]) -> f64 {
    let mut sizes: Vec<f64> = residuals.iter().map(|r| r.abs()).collect();
    median(&mut sizes).unwrap_or(0.0).max(1e-12)
}

/// The scale that goes with residuals: `σ² = Σ_within r² / (n − n_beyond·ε²)`, found by going round.
#[allow(clippy::cast_precision_loss)]
fn joint_scale(residuals: &[f64], start: f64, epsilon: f64) -> f64 {
    let mut scale = start;
    for _ in 0..200 {
        let within: Vec<f64> = residuals.iter().copied().filter(|r| r.abs() <= epsilon * scale).collect();
        let beyond = (residuals.len() - within.len()) as f64;
        let room = residuals.len() as f64 - beyond * epsilon * epsilon;
        // Too many beyond: the scale is too small.
        let next = if room > 0.0 { (within.iter().map(|r| r * r).sum::<f64>() / room).sqrt() } else { scale * 2.0 };
        if (next - scale).abs() < 1e-15 || next <= 1e-12 {
            return next.max(1e-12);
        }
        scale = next;
    }
    scale
}

/// Weighted least squares by the normal equations; none where they have no single answer.
fn least_squares(x: &[Vec<f64>], y: &[f64], weights: &[f64]) -> Option<Vec<f64>> {
    let width = x[0].len();
    let mut m = vec![vec![0.0; width + 1]; width];
    for ((row, y), w) in x.iter().zip(y).zip(weights) {
        for i in 0..width {
            for j in 0..width {
                m[i][j] += w * row[i] * row[j];
            }
            m[i][width] += w * row[i] * y;
        }
    }
    for i in 0..width {
        let pivot = (i..width).max_by(|a, b| m[*a][i].abs().total_cmp(&m[*b][i].abs()))?;
        m.swap(i, pivot);
        if m[i][i].abs() < 1e-12 {
            return None;
        }
        for j in 0..width {
            if j != i {
                let by = m[j][i] / m[i][i];
                let upper = m[i].clone();
                m[j].iter_mut().zip(&upper).for_each(|(a, b)| *a -= by * b);
            }
        }
    }
    Some((0..width).map(|i| m[i][width] / m[i][i]).collect())
}
