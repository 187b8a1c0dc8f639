//! What may be paid for one failure point within the plan, as chances of sums of independent amounts.
//!
//! docs/METHOD.md, section 10.

use realfft::num_complex::Complex64;

use crate::base::memory::KeyOf;
use crate::base::pert::{middles, pert_variance};
use crate::money::job_cost::JobCost;
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

    /// A job's price, or the several that it may come to.
    fn job(money: &PointCost) -> Self {
        let [one] = money.turns.as_slice() else {
            let each = money.turns.iter().map(|t| (t.chance, Self::of_cost(&t.cost)));
            let values: Vec<(f64, f64)> =
                each.clone().flat_map(|(p, of)| of.values.into_iter().map(move |(x, q)| (x, p * q))).collect();
            let mean: f64 = values.iter().map(|(x, p)| x * p).sum();
            let variance = each.map(|(p, of)| p * (of.variance + (of.mean() - mean).powi(2))).sum();
            return Self { values, variance };
        };
        Self::of_cost(&one.cost)
    }

    /// One price with its doubt, moved so that its mean is kept exactly.
    fn of_cost(job: &JobCost) -> Self {
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
    /// What a fault that is there may have done already.
    done: Amount,
}

impl PointAmounts {
    pub fn new(money: &PointCost) -> Self {
        let (job, r) = (Amount::job(money), money.recovery);
        let unseen = 1.0 - money.caught;
        let mishap = if unseen > 0.0 && (r > 0.0 || !money.beyond.is_empty()) {
            // Each branch comes or does not, on its own.
            let mut sums = vec![(r, unseen)];
            for (chance, amount) in &money.beyond {
                sums = sums.iter().flat_map(|(x, p)| [(*x, p * (1.0 - chance)), (x + amount, p * chance)]).collect();
            }
            Amount::of(std::iter::once((0.0, money.caught)).chain(sums).collect())
        } else {
            Amount::fixed(0.0)
        };
        let done = money.done.map(|(chance, amount)| Amount::of(vec![(0.0, 1.0 - chance), (amount, chance)]));
        Self { job, mishap, done: done.unwrap_or_else(|| Amount::fixed(0.0)) }
    }

    /// Everything that it holds.
    pub fn key(&self, out: &mut KeyOf) {
        for amount in [&self.job, &self.mishap, &self.done] {
            out.add(&amount.values.len());
            amount.values.iter().for_each(|(x, p)| out.figures(&[*x, *p]));
            out.figure(amount.variance);
        }
    }

    /// The dearest that one failure may be.
    pub fn most(&self) -> f64 {
        self.job.most() + self.mishap.most() + self.done.most()
    }
}

/// What may be paid: the chance of each number of failures of parts fitted later, after nothing, after a job, and
/// after a failure; the same for a fault that is there now, with what it may have done already.
#[derive(Debug, Clone, Default)]
pub(crate) struct Outcomes {
    none: Vec<f64>,
    job: Vec<f64>,
    failure: Vec<f64>,
    job_found: Vec<f64>,
    failure_found: Vec<f64>,
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
        let damages = money.done.is_some();
        if renewed && shares.is_none() {
            add(&mut out.job, 0.0, z.immune);
            add(if damages { &mut out.job_found } else { &mut out.job }, all, z.present);
            add(&mut out.job, all, 1.0 - z.immune - z.present);
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
        let found = match (renewed, damages) {
            (true, true) => &mut out.job_found,
            (true, false) => &mut out.job,
            (false, true) => &mut out.failure_found,
            (false, false) => &mut out.failure,
        };
        add(found, all, left);
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
        let lists = [&self.none, &self.job, &self.failure, &self.job_found, &self.failure_found];
        lists.into_iter().for_each(|p| out.figures(p));
    }

    /// Mean and variance.
    pub fn moments(&self, amounts: &PointAmounts) -> (f64, f64) {
        let PointAmounts { job, mishap, done } = amounts;
        let (jm, jv) = (job.mean(), job.variance);
        let (fm, fv) = (jm + mishap.mean(), jv + mishap.variance);
        let (mut mean, mut square) = (0.0, 0.0);
        let (dm, dv) = (done.mean(), done.variance);
        let firsts = [
            (&self.none, 0.0, 0.0),
            (&self.job, jm, jv),
            (&self.failure, fm, fv),
            (&self.job_found, jm + dm, jv + dv),
            (&self.failure_found, fm + dm, fv + dv),
        ];
        for (first, m, v) in firsts {
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
        let found = self.job_found.len() + self.failure_found.len();
        FREQUENCIES * (self.none.len() + self.job.len() + self.failure.len() + found + 1)
    }

    /// The transform of what is paid, from those of the amounts.
    pub fn transform(&self, of: &Transforms) -> Transform {
        let Transforms { job, failure, done } = of;
        let nested = |of: &[f64], f: Complex64| {
            of.iter().rev().fold(Complex64::new(0.0, 0.0), |sum, p| sum * f + Complex64::new(*p, 0.0))
        };
        let each = job.iter().zip(failure);
        let usual = each
            .map(|(j, f)| nested(&self.none, *f) + j * nested(&self.job, *f) + f * nested(&self.failure, *f))
            .collect();
        if self.job_found.is_empty() && self.failure_found.is_empty() {
            return usual;
        }
        let found = job.iter().zip(failure).zip(done);
        let found =
            found.map(|((j, f), d)| d * (j * nested(&self.job_found, *f) + f * nested(&self.failure_found, *f)));
        usual.into_iter().zip(found).map(|(u, f): (Complex64, Complex64)| u + f).collect()
    }
}

/// The transforms of a point's amounts: the job, a failure, and what it may have done already.
pub(crate) struct Transforms {
    job: Transform,
    failure: Transform,
    done: Transform,
}

impl Transforms {
    pub fn new(lattice: Lattice, of: &PointAmounts) -> Self {
        let job = lattice.transform(&of.job.values);
        let mishap = lattice.transform(&of.mishap.values);
        let failure = job.iter().zip(&mishap).map(|(j, m)| j * m).collect();
        Self { job, failure, done: lattice.transform(&of.done.values) }
    }
}
