//! Sums of independent amounts by their characteristic functions on a lattice.
//!
//! An amount between two steps is split over both in proportion, so that means are kept. The sum of independent
//! amounts is the product of their transforms; one inverse transform gives its chances, without drawing luck.
//!
//! docs/METHOD.md, section 10.

use std::f64::consts::TAU;
use std::sync::{Arc, OnceLock};

use realfft::num_complex::Complex64;
use realfft::{ComplexToReal, RealFftPlanner};

use crate::money::distribution::Distribution;

/// Steps of the lattice.
pub(crate) const STEPS: usize = 1_024;

/// Frequencies that tell everything: the others are their mirror.
pub(crate) const FREQUENCIES: usize = STEPS / 2 + 1;

/// Steps in every doubling of the reach, so that it changes seldom from one question to the next.
const REACHES: f64 = 4.0;

/// Chances below this are rounding.
const NOISE: f64 = 1e-14;

/// The transform of the chances of an amount, by frequency.
pub(crate) type Transform = Vec<Complex64>;

/// Equal steps of money from 0.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Lattice {
    step: f64,
}

/// `exp(−2πi·n/STEPS)`, once and for all.
fn turns() -> &'static [Complex64] {
    static TURNS: OnceLock<Vec<Complex64>> = OnceLock::new();
    #[allow(clippy::cast_precision_loss)]
    TURNS.get_or_init(|| (0..STEPS).map(|n| Complex64::from_polar(1.0, -TAU * n as f64 / STEPS as f64)).collect())
}

fn inverse() -> &'static Arc<dyn ComplexToReal<f64>> {
    static INVERSE: OnceLock<Arc<dyn ComplexToReal<f64>>> = OnceLock::new();
    INVERSE.get_or_init(|| RealFftPlanner::new().plan_fft_inverse(STEPS))
}

impl Lattice {
    /// One that reaches at least so far.
    #[allow(clippy::cast_precision_loss)]
    pub fn reaching(amount: f64) -> Self {
        let reach = (amount.max(1e-6).log2() * REACHES).ceil() / REACHES;
        Self { step: reach.exp2() / STEPS as f64 }
    }

    /// One step.
    pub fn step(self) -> f64 {
        self.step
    }

    /// Adds a chance of an amount to the chances by step.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    fn split(self, amount: f64, chance: f64, out: &mut Vec<(usize, f64)>) {
        let at = (amount / self.step).max(0.0);
        let (whole, part) = (at as usize, at.fract());
        for (step, share) in [(whole, 1.0 - part), (whole + 1, part)] {
            if share > 0.0 {
                match out.iter_mut().find(|(s, _)| *s == step) {
                    Some(x) => x.1 += chance * share,
                    None => out.push((step, chance * share)),
                }
            }
        }
    }

    /// The transform of an amount that takes some values with some chances.
    pub fn transform(self, amounts: &[(f64, f64)]) -> Transform {
        let mut steps = Vec::with_capacity(2 * amounts.len());
        amounts.iter().for_each(|(amount, chance)| self.split(*amount, *chance, &mut steps));
        let turns = turns();
        let mut out = vec![Complex64::new(0.0, 0.0); FREQUENCIES];
        for (step, chance) in steps {
            for (k, slot) in out.iter_mut().enumerate() {
                *slot += turns[(k * step) % STEPS] * chance;
            }
        }
        out
    }

    /// The chances behind a transform.
    #[allow(clippy::cast_precision_loss)]
    pub fn chances(self, mut of: Transform) -> Distribution {
        let mut out = vec![0.0; STEPS];
        // The ends of a real signal's transform are real.
        of[0].im = 0.0;
        of[FREQUENCIES - 1].im = 0.0;
        let done = inverse().process(&mut of, &mut out);
        debug_assert!(done.is_ok(), "lengths are fixed");
        // Below this it is rounding.
        out.iter_mut().for_each(|p| *p = Some(*p / STEPS as f64).filter(|p| *p > NOISE).unwrap_or(0.0));
        Distribution::new(self.step, out)
    }
}

/// Multiplies transforms: the sum of independent amounts.
pub(crate) fn multiply(into: &mut Transform, by: &Transform) {
    into.iter_mut().zip(by).for_each(|(x, y)| *x *= y);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_sum_of_three_dice_is_counted_out() {
        let lattice = Lattice::reaching(1024.0);
        let die: Vec<(f64, f64)> = (1..=6).map(|n| (f64::from(n), 1.0 / 6.0)).collect();
        let one = lattice.transform(&die);
        let mut three = one.clone();
        multiply(&mut three, &one);
        multiply(&mut three, &one);
        let sum = lattice.chances(three);
        assert!((sum.mean() - 10.5).abs() < 1e-9);
        // 3 and 18 in one way of 216 each.
        assert!((sum.above(17.5) - 1.0 / 216.0).abs() < 1e-9);
        assert!((sum.above(3.5) - 215.0 / 216.0).abs() < 1e-9);
        // The dearest tenth: 18, 17, 16, 15 and part of 14.
        let tail: f64 = (18.0 + 17.0 * 3.0 + 16.0 * 6.0 + 15.0 * 10.0 + 14.0 * 1.6) / 21.6;
        assert!((sum.cvar90() - tail).abs() < 1e-6, "{}", sum.cvar90());
    }

    #[test]
    fn an_amount_between_two_steps_keeps_its_mean() {
        let lattice = Lattice::reaching(30_000.0);
        for amount in [0.0, 17.3, 4_321.9, 25_000.0] {
            let told = lattice.chances(lattice.transform(&[(amount, 0.4), (amount / 3.0, 0.6)]));
            assert!((told.mean() - 0.6 * amount).abs() < 1e-6 * amount.max(1.0), "{amount}: {}", told.mean());
        }
    }
}
