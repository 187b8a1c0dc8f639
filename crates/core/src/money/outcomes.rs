//! What may be paid for one failure point within the plan, as chances of sums of independent amounts.
//!
//! docs/METHOD.md, section 10.

use realfft::num_complex::Complex64;

use crate::base::memory::KeyOf;
use crate::base::pert::{middles, pert_variance};
use crate::money::lattice::{FREQUENCIES, Lattice, Transform};
use crate::money::point_cost::PointCost;
use crate::reliability::remaining_life::RemainingLife;

/// An amount that varies: its values with their chances.
#[derive(Debug, Clone)]
pub(crate) struct Amount {
    values: Vec<(f64, f64)>,
    variance: f64,
}

impl Amount {
    fn fixed(value: f64) -> Self {
        Self { values: vec![(value, 1.0)], variance: 0.0 }
    }

    /// A job's price, moved so that its mean is kept exactly.
    fn job(money: &PointCost) -> Self {
        let job = &money.job;
        let values = middles(job.low, job.likely, job.high);
        if job.high <= job.low {
            return Self::fixed(job.mean);
        }
        #[allow(clippy::cast_precision_loss)]
        let each = 1.0 / values.len() as f64;
        let off = job.mean - values.iter().sum::<f64>() * each;
        let variance = pert_variance(job.low, job.likely, job.high);
        Self { values: values.into_iter().map(|v| ((v + off).max(0.0), each)).collect(), variance }
    }

    fn mean(&self) -> f64 {
        self.values.iter().map(|(x, p)| x * p).sum()
    }

    /// Of values with their chances.
    fn of(values: Vec<(f64, f64)>) -> Self {
        let mean: f64 = values.iter().map(|(x, p)| x * p).sum();
        let variance = values.iter().map(|(x, p)| p * (x - mean).powi(2)).sum();
        Self { values, variance }
    }

    fn most(&self) -> f64 {
        self.values.iter().map(|v| v.0).fold(0.0, f64::max)
    }
}

/// What a failure of a point costs: the job, and what comes of not having caught it.
#[derive(Debug, Clone)]
pub(crate) struct PointAmounts {
    job: Amount,
    /// Beyond the job.
    mishap: Amount,
}

impl PointAmounts {
    pub fn new(money: &PointCost) -> Self {
        let (job, r) = (Amount::job(money), money.recovery);
        let unseen = 1.0 - money.caught;
        let mishap = match money.larger {
            Some((chance, extra)) => {
                Amount::of(vec![(0.0, money.caught), (r, unseen * (1.0 - chance)), (r + extra, unseen * chance)])
            }
            None if unseen > 0.0 && r > 0.0 => Amount::of(vec![(0.0, money.caught), (r, unseen)]),
            None => Amount::fixed(0.0),
        };
        Self { job, mishap }
    }

    /// Everything that it holds.
    pub fn key(&self, out: &mut KeyOf) {
        for amount in [&self.job, &self.mishap] {
            out.add(&amount.values.len());
            amount.values.iter().for_each(|(x, p)| out.figures(&[*x, *p]));
            out.figure(amount.variance);
        }
    }

    /// The dearest that one failure may be.
    pub fn most(&self) -> f64 {
        self.job.most() + self.mishap.most()
    }
}

/// What may be paid: the chance of each number of failures of parts fitted later, after nothing, after a job, and
/// after a failure.
#[derive(Debug, Clone, Default)]
pub(crate) struct Outcomes {
    none: Vec<f64>,
    job: Vec<f64>,
    failure: Vec<f64>,
}

/// Adds a chance of so many failures, expected; a number between two is split over both.
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
fn add(to: &mut Vec<f64>, failures: f64, chance: f64) {
    if chance <= 0.0 {
        return;
    }
    let (whole, part) = (failures.max(0.0) as usize, failures.max(0.0).fract());
    if to.len() < whole + 2 {
        to.resize(whole + 2, 0.0);
    }
    to[whole] += chance * (1.0 - part);
    to[whole + 1] += chance * part;
}

impl Outcomes {
    /// Of a point with a remaining life under a level of care, left alone or renewed at purchase.
    pub fn new(money: &PointCost, z: &RemainingLife, level: usize, renewed: bool) -> Self {
        let mut out = Self::default();
        let grid = &z.grid;
        let shares = z.overdue.as_deref();
        // What overdue work renews now is paid elsewhere; what it fits may fail in its turn.
        let late = |mass: f64, share: Option<f64>| (mass * share.unwrap_or(0.0), mass * (1.0 - share.unwrap_or(0.0)));
        let all = money.expected_renewals(1.0);
        if renewed && shares.is_none() {
            add(&mut out.job, 0.0, z.immune);
            add(&mut out.job, all, 1.0 - z.immune);
            return out;
        }
        let (done, left) = late(z.immune, shares.map(|o| o.immune));
        if renewed {
            add(&mut out.none, 0.0, done);
            add(&mut out.job, 0.0, left);
        } else {
            add(&mut out.none, 0.0, done + left);
        }
        let (done, left) = late(z.present, shares.map(|o| o.present));
        add(&mut out.none, all, done);
        add(if renewed { &mut out.job } else { &mut out.failure }, all, left);
        let cells = (0..grid.cells()).map(|k| (z.cells[k], shares.map(|o| o.cells[k]), grid.in_plan(k).then_some(k)));
        for (mass, share, cell) in cells.chain([(z.tail, shares.map(|o| o.tail), None)]) {
            let (done, left) = late(mass, share);
            add(&mut out.none, all, done);
            if renewed {
                add(&mut out.job, all, left);
                continue;
            }
            let at = cell.map(|k| grid.middle(k) / grid.horizon());
            let mut open = left;
            for (due, weight) in &money.first_due[level] {
                if at.is_none_or(|at| *due <= at) {
                    add(&mut out.none, money.expected_renewals(1.0 - due), left * weight);
                    open -= left * weight;
                }
            }
            match at {
                Some(at) => add(&mut out.failure, money.expected_renewals(1.0 - at), open.max(0.0)),
                None => add(&mut out.none, 0.0, open.max(0.0)),
            }
        }
        out
    }

    /// Everything that it holds.
    pub fn key(&self, out: &mut KeyOf) {
        [&self.none, &self.job, &self.failure].into_iter().for_each(|p| out.figures(p));
    }

    /// Mean and variance.
    pub fn moments(&self, amounts: &PointAmounts) -> (f64, f64) {
        let PointAmounts { job, mishap } = amounts;
        let (jm, jv) = (job.mean(), job.variance);
        let (fm, fv) = (jm + mishap.mean(), jv + mishap.variance);
        let (mut mean, mut square) = (0.0, 0.0);
        for (first, m, v) in [(&self.none, 0.0, 0.0), (&self.job, jm, jv), (&self.failure, fm, fv)] {
            let mut later = 0.0;
            for p in first {
                let each: f64 = m + later * fm;
                mean += p * each;
                square += p * (v + later * fv + each * each);
                later += 1.0;
            }
        }
        (mean, (square - mean * mean).max(0.0))
    }

    /// Steps that a transform takes.
    pub fn steps(&self) -> usize {
        FREQUENCIES * (self.none.len() + self.job.len() + self.failure.len() + 1)
    }

    /// The transform of what is paid, from those of the job and of a failure.
    pub fn transform(&self, job: &Transform, failure: &Transform) -> Transform {
        let nested = |of: &[f64], f: Complex64| {
            of.iter().rev().fold(Complex64::new(0.0, 0.0), |sum, p| sum * f + Complex64::new(*p, 0.0))
        };
        let each = job.iter().zip(failure);
        each.map(|(j, f)| nested(&self.none, *f) + j * nested(&self.job, *f) + f * nested(&self.failure, *f)).collect()
    }
}

/// The transforms of a job and of a failure.
pub(crate) fn amounts(lattice: Lattice, of: &PointAmounts) -> (Transform, Transform) {
    let job = lattice.transform(&of.job.values);
    let mishap = lattice.transform(&of.mishap.values);
    let failure = job.iter().zip(&mishap).map(|(j, m)| j * m).collect();
    (job, failure)
}
