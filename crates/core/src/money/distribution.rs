//! The chances of an amount by equal steps, and what is read off them.

/// Chances of an amount by steps from 0, less something that is surely saved.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Distribution {
    step: f64,
    chances: Vec<f64>,
    saved: f64,
    /// Mean on the steps.
    middle: f64,
    /// What deviations from it are stretched by: the lattice widens them a little.
    stretch: f64,
}

impl Distribution {
    /// Of chances that sum to about 1.
    pub fn new(step: f64, mut chances: Vec<f64>) -> Self {
        let total: f64 = chances.iter().sum();
        if total > 0.0 {
            chances.iter_mut().for_each(|p| *p /= total);
        }
        let middle = on_steps(step, &chances).map(|(x, p)| x * p).sum();
        Self { step, chances, saved: 0.0, middle, stretch: 1.0 }
    }

    /// The same with the standard deviation that it truly has.
    pub fn deviating(mut self, by: f64) -> Self {
        let variance: f64 = on_steps(self.step, &self.chances).map(|(x, p)| p * (x - self.middle).powi(2)).sum();
        self.stretch = if variance > 0.0 { by / variance.sqrt() } else { 0.0 };
        self
    }

    /// The same with something that is saved in every case.
    pub fn less(self, saved: f64) -> Self {
        Self { saved: self.saved + saved, ..self }
    }

    /// What stands at a place on the steps.
    fn at(&self, on_steps: f64) -> f64 {
        self.middle + (on_steps - self.middle) * self.stretch - self.saved
    }

    /// Steps that it is told on.
    pub fn steps(&self) -> usize {
        self.chances.len()
    }

    /// Mean.
    pub fn mean(&self) -> f64 {
        self.middle - self.saved
    }

    /// The amount that a share `u` of cases lies below. What stands on a step is spread evenly half a step to both
    /// sides.
    #[allow(clippy::cast_precision_loss)]
    pub fn quantile(&self, u: f64) -> f64 {
        let mut below = 0.0;
        for (i, p) in self.chances.iter().enumerate() {
            if below + p >= u && *p > 0.0 {
                let within = (u - below) / p;
                let sides = if i == 0 { 0.5 * within } else { within - 0.5 };
                return self.at((i as f64 + sides) * self.step);
            }
            below += p;
        }
        self.at((self.chances.len() as f64 - 1.0) * self.step)
    }

    /// Chance of more than an amount.
    pub fn above(&self, amount: f64) -> f64 {
        if self.stretch <= 0.0 {
            return f64::from(u8::from(self.middle - self.saved > amount));
        }
        let at = self.middle + (amount + self.saved - self.middle) / self.stretch;
        let beyond = |(x, p): (f64, f64)| p * ((x - at) / self.step + 0.5).clamp(0.0, 1.0);
        on_steps(self.step, &self.chances).map(beyond).sum()
    }

    /// Mean of the dearest tenth (Rockafellar & Uryasev 2000).
    pub fn cvar90(&self) -> f64 {
        let (mut left, mut sum) = (0.1, 0.0);
        for (x, p) in on_steps(self.step, &self.chances).rev() {
            let taken = p.min(left);
            sum += taken * self.at(x);
            left -= taken;
            if left <= 0.0 {
                break;
            }
        }
        sum / 0.1
    }
}

/// Amounts with their chances, as the steps have them.
#[allow(clippy::cast_precision_loss)]
fn on_steps(step: f64, chances: &[f64]) -> impl DoubleEndedIterator<Item = (f64, f64)> + '_ {
    chances.iter().enumerate().map(move |(i, p)| (i as f64 * step, *p))
}
