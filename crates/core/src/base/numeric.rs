//! Arithmetic on slices that the survival tables and grids share.

/// The cubic Hermite weights of value and slope at both ends, `t` of the way between them.
#[inline]
pub(crate) fn hermite(t: f64) -> [f64; 4] {
    let (t2, t3) = (t * t, t * t * t);
    [2.0 * t3 - 3.0 * t2 + 1.0, t3 - 2.0 * t2 + t, 3.0 * t2 - 2.0 * t3, t3 - t2]
}

/// The whole part of a figure that is not negative, and what is beyond it. In 32 bits: those the machine turns at once.
#[inline]
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub(crate) fn whole_and_part(at: f64) -> (usize, f64) {
    let whole = at as u32;
    (whole as usize, at - f64::from(whole))
}

/// A sum of products in eight strands, which the machine can add side by side.
pub(crate) fn dot(x: &[f64], y: &[f64]) -> f64 {
    let (a, b) = (x.chunks_exact(8), y.chunks_exact(8));
    let rest: f64 = a.remainder().iter().zip(b.remainder()).map(|(p, q)| p * q).sum();
    let mut strands = [0.0; 8];
    for (p, q) in a.zip(b) {
        for i in 0..8 {
            strands[i] += p[i] * q[i];
        }
    }
    strands.iter().sum::<f64>() + rest
}
