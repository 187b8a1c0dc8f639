//! Neighbouring starts of a part's cycles, followed as one.

use crate::reliability::usage_path::PastPath;

/// Starts are followed as one up to this mass. With the span below, the error of a chance stays below 3·10⁻⁴ on the
/// shortest lives that the second program tries, and below 5·10⁻⁵ on ordinary ones.
const MOST: f64 = 0.002;

/// Most edges that one lump spans.
const SPAN: usize = 5;

/// Most years that one lump spans: where a vehicle stood, a few edges are years apart.
const YEARS: f64 = 0.15;

/// Neighbouring starts, for each repair delay its mass.
#[derive(Default)]
pub(crate) struct Lump {
    first: usize,
    /// By repair delay.
    pub masses: Vec<f64>,
    moment: f64,
}

impl Lump {
    /// All its mass.
    pub fn mass(&self) -> f64 {
        self.masses.iter().sum()
    }

    /// Takes in what begins at an edge.
    #[allow(clippy::cast_precision_loss)]
    pub fn take(&mut self, edge: usize, masses: impl ExactSizeIterator<Item = f64>) {
        if self.mass() <= 0.0 {
            self.first = edge;
        }
        self.masses.resize(masses.len(), 0.0);
        for (sum, mass) in self.masses.iter_mut().zip(masses) {
            *sum += mass;
            self.moment += mass * edge as f64;
        }
    }

    /// Whether what begins at the next edge is too much for it, or too far.
    pub fn is_full(&self, edge: usize, path: &PastPath, next: impl Iterator<Item = f64>) -> bool {
        let with = next.zip(&self.masses).map(|(next, m)| m + next).fold(0.0, f64::max);
        edge - self.first >= SPAN || path.age(edge) - path.age(self.first) > YEARS || with > MOST
    }

    /// The edges on both sides of the middle of the masses, with the share of each, so that the middle is kept: a lump
    /// moved to the nearer edge would err the same way in every generation.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub fn middle(&self) -> [(usize, f64); 2] {
        let at = self.moment / self.mass();
        let (edge, part) = (at as usize, at.fract());
        [(edge, 1.0 - part), (edge + 1, part)]
    }
}
