//! Sums of independent amounts by their characteristic functions on a lattice.
//!
//! An amount between two steps is split over both in proportion, so that means are kept. The sum of independent
//! amounts is the product of their transforms; one inverse transform gives its chances, without drawing luck.
//!
//! docs/METHOD.md, section 10.

use std::f64::consts::TAU;
use std::sync::{Arc, OnceLock};

use realfft::num_complex::Complex64;
use realfft::{ComplexToReal, RealFftPlanner, RealToComplex};

use crate::base::memory::KeyOf;
use crate::money::distribution::Distribution;

/// Steps of the lattice of a judgement.
const STEPS: usize = 1_024;

/// Steps of an estimate's, for long lists: a power of two below [`STEPS`].
const FEW: usize = 256;

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
    steps: usize,
}

/// `exp(−2πi·n/STEPS)`, once and for all.
fn turns() -> &'static [Complex64] {
    static TURNS: OnceLock<Vec<Complex64>> = OnceLock::new();
    #[allow(clippy::cast_precision_loss)]
    TURNS.get_or_init(|| (0..STEPS).map(|n| Complex64::from_polar(1.0, -TAU * n as f64 / STEPS as f64)).collect())
}

/// More steps that hold something than this are transformed together.
const ONE_BY_ONE: usize = 3;

fn forward(steps: usize) -> &'static Arc<dyn RealToComplex<f64>> {
    static FORWARD: [OnceLock<Arc<dyn RealToComplex<f64>>>; 2] = [const { OnceLock::new() }; 2];
    FORWARD[usize::from(steps == FEW)].get_or_init(|| RealFftPlanner::new().plan_fft_forward(steps))
}

fn inverse(steps: usize) -> &'static Arc<dyn ComplexToReal<f64>> {
    static INVERSE: [OnceLock<Arc<dyn ComplexToReal<f64>>>; 2] = [const { OnceLock::new() }; 2];
    INVERSE[usize::from(steps == FEW)].get_or_init(|| RealFftPlanner::new().plan_fft_inverse(steps))
}

impl Lattice {
    /// One that reaches at least so far; `coarse` for an estimate.
    #[allow(clippy::cast_precision_loss)]
    pub fn reaching(amount: f64, coarse: bool) -> Self {
        let reach = (amount.max(1e-6).log2() * REACHES).ceil() / REACHES;
        let steps = if coarse { FEW } else { STEPS };
        Self { step: reach.exp2() / steps as f64, steps }
    }

    /// Frequencies that tell everything: the others are their mirror.
    pub fn frequencies(self) -> usize {
        self.steps / 2 + 1
    }

    /// Everything that it is, for a key.
    pub fn key(self, out: &mut KeyOf) {
        out.figure(self.step);
        out.add(&self.steps);
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
        let mut out = vec![Complex64::new(0.0, 0.0); self.frequencies()];
        if steps.len() > ONE_BY_ONE {
            let mut chances = vec![0.0; self.steps];
            steps.iter().for_each(|(step, chance)| chances[step % self.steps] += chance);
            // The lengths are the plan's own.
            if forward(self.steps).process(&mut chances, &mut out).is_ok() {
                return out;
            }
        }
        let (turns, stride) = (turns(), STEPS / self.steps);
        for (step, chance) in steps {
            for (k, slot) in out.iter_mut().enumerate() {
                *slot += turns[(k * step * stride) % STEPS] * chance;
            }
        }
        out
    }

    /// The chances behind a transform.
    #[allow(clippy::cast_precision_loss)]
    pub fn chances(self, mut of: Transform) -> Distribution {
        let mut out = vec![0.0; self.steps];
        // The ends of a real signal's transform are real.
        of[0].im = 0.0;
        of[self.frequencies() - 1].im = 0.0;
        let done = inverse(self.steps).process(&mut of, &mut out);
        debug_assert!(done.is_ok(), "lengths are fixed");
        // Below this it is rounding.
        out.iter_mut().for_each(|p| *p = Some(*p / self.steps as f64).filter(|p| *p > NOISE).unwrap_or(0.0));
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
        let lattice = Lattice::reaching(1024.0, false);
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
        for (amount, coarse) in [(0.0, false), (17.3, true), (4_321.9, false), (25_000.0, true)] {
            let lattice = Lattice::reaching(30_000.0, coarse);
            let told = lattice.chances(lattice.transform(&[(amount, 0.4), (amount / 3.0, 0.6)]));
            assert!((told.mean() - 0.6 * amount).abs() < 1e-6 * amount.max(1.0), "{amount}: {}", told.mean());
        }
    }
}
