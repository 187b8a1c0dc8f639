//! Small statistics: median, robust deviation, the Theil–Sen line, quantiles and the mean of the worst tenth.

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
