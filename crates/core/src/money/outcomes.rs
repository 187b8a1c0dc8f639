//! What may be paid for one failure point within the plan, as chances of sums of independent amounts.
//!
//! docs/METHOD.md, section 10.

use realfft::num_complex::Complex64;
use smallvec::SmallVec;

use crate::base::memory::KeyOf;
use crate::base::pert::{middles, pert_variance};
use crate::money::job_cost::JobCost;
use crate::money::lattice::{Lattice, Transform};
use crate::money::point_cost::PointCost;
use crate::reliability::plan_grid::FutureGrid;
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
        let none = 1.0 - money.done.iter().map(|x| x.0).sum::<f64>();
        let done = if money.done.is_empty() {
            Amount::fixed(0.0)
        } else {
            let amounts = money.done.iter().map(|(chance, amount)| (*amount, *chance));
            Amount::of(std::iter::once((0.0, none)).chain(amounts).collect())
        };
        Self { job, mishap, done }
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

/// What is paid first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum First {
    /// Nothing.
    Nothing,
    /// A job.
    Job,
    /// A failure.
    Failure,
    /// A failure whose job somebody else pays.
    Mishap,
}

/// So many ways in which the first may be paid.
const FIRSTS: usize = 4;

/// What may be paid: by what is paid first, the chance of each number of failures of parts fitted later; the same for
/// a fault that is there now, with what it may have done already.
#[derive(Debug, Clone, Default)]
pub(crate) struct Outcomes {
    coming: [Chances; FIRSTS],
    found: [Chances; FIRSTS],
}

/// Chances of 0, 1, 2 … failures; most come to two at most.
type Chances = SmallVec<[f64; 3]>;

/// A number of failures, expected: one between two is split over both. The lower one, and the share of the upper.
#[derive(Debug, Clone, Copy)]
struct Failures {
    whole: usize,
    part: f64,
}

impl Failures {
    const NONE: Self = Self { whole: 0, part: 0.0 };

    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
    fn of(expected: f64) -> Self {
        let whole = expected.max(0.0) as usize;
        Self { whole, part: expected.max(0.0) - whole as f64 }
    }
}

/// Failures of parts fitted later, the same under every level of care: fitted now, and at each cell of the plan.
pub(crate) struct Later {
    all: Failures,
    /// Where in the plan the cell's middle lies, as a share of it.
    cells: Vec<(f64, Failures)>,
}

impl Later {
    pub fn new(money: &PointCost, grid: &FutureGrid) -> Self {
        let cell = |k: usize| {
            let at = grid.middle(k) / grid.horizon();
            (at, Failures::of(money.expected_renewals(1.0 - at)))
        };
        let cells = (0..grid.cells()).take_while(|k| grid.in_plan(*k)).map(cell).collect();
        Self { all: Failures::of(money.expected_renewals(1.0)), cells }
    }
}

/// Adds a chance of so many failures.
fn add(to: &mut Chances, Failures { whole, part }: Failures, chance: f64) {
    if chance <= 0.0 {
        return;
    }
    if to.len() < whole + 2 {
        to.resize(whole + 2, 0.0);
    }
    to[whole] += chance * (1.0 - part);
    to[whole + 1] += chance * part;
}

impl Outcomes {
    fn add(&mut self, first: First, failures: Failures, chance: f64) {
        add(&mut self.coming[first as usize], failures, chance);
    }

    /// Of a fault that is there: its damage may be done.
    fn add_found(&mut self, first: First, failures: Failures, chance: f64, damages: bool) {
        let list = if damages { &mut self.found } else { &mut self.coming };
        add(&mut list[first as usize], failures, chance);
    }

    /// Of a point with a remaining life under a level of care, left alone or renewed at purchase.
    pub fn new(money: &PointCost, later: &Later, z: &RemainingLife, level: usize, renewed: bool) -> Self {
        use First::{Failure, Job, Mishap, Nothing};
        let mut out = Self::default();
        let shares = z.overdue.as_deref();
        // What overdue work renews now is paid elsewhere; what it fits may fail in its turn.
        let late = |mass: f64, share: Option<f64>| (mass * share.unwrap_or(0.0), mass * (1.0 - share.unwrap_or(0.0)));
        let all = later.all;
        let (done, left) = late(z.present, shares.map(|o| o.present));
        let (damages, paid) = (!money.done.is_empty(), money.paid(0.0));
        let (own, covered) = if renewed { (Job, Nothing) } else { (Failure, Mishap) };
        out.add_found(own, all, left * (1.0 - paid), damages);
        out.add_found(covered, all, left * paid, damages);
        out.add(Nothing, all, done);
        if renewed && shares.is_none() {
            out.add(Job, Failures::NONE, z.immune);
            out.add(Job, all, 1.0 - z.immune - z.present);
            return out;
        }
        let (done, left) = late(z.immune, shares.map(|o| o.immune));
        out.add(Nothing, Failures::NONE, done);
        out.add(if renewed { Job } else { Nothing }, Failures::NONE, left);
        let cells = (0..z.cells.len()).map(|k| (z.cells[k], shares.map(|o| o.cells[k]), later.cells.get(k).copied()));
        for (mass, share, cell) in cells.chain([(z.tail, shares.map(|o| o.tail), None)]) {
            let (done, left) = late(mass, share);
            out.add(Nothing, all, done);
            if renewed {
                out.add(Job, all, left);
                continue;
            }
            out.comes(money, level, cell, left);
        }
        out
    }

    /// Of a point that is left alone and comes at a share of the plan, or not within it.
    fn comes(&mut self, money: &PointCost, level: usize, at: Option<(f64, Failures)>, left: f64) {
        let mut open = left;
        for (due, weight) in &money.first_due[level] {
            if at.is_none_or(|(at, _)| *due <= at) {
                self.add(First::Nothing, Failures::of(money.expected_renewals(1.0 - due)), left * weight);
                open -= left * weight;
            }
        }
        let open = open.max(0.0);
        match at {
            Some((at, again)) => {
                let paid = money.paid(at);
                self.add(First::Failure, again, open * (1.0 - paid));
                self.add(First::Mishap, again, open * paid);
            }
            None => self.add(First::Nothing, Failures::NONE, open),
        }
    }

    /// Everything that it holds.
    pub fn key(&self, out: &mut KeyOf) {
        self.coming.iter().chain(&self.found).for_each(|p| out.figures(p));
    }

    /// Mean and variance.
    pub fn moments(&self, amounts: &PointAmounts) -> (f64, f64) {
        let PointAmounts { job, mishap, done } = amounts;
        let (jm, jv) = (job.mean(), job.variance);
        let (mm, mv) = (mishap.mean(), mishap.variance);
        let (fm, fv) = (jm + mm, jv + mv);
        let firsts = [(0.0, 0.0), (jm, jv), (fm, fv), (mm, mv)];
        let (mut mean, mut square) = (0.0, 0.0);
        for (list, (dm, dv)) in [(&self.coming, (0.0, 0.0)), (&self.found, (done.mean(), done.variance))] {
            for (first, (m, v)) in list.iter().zip(firsts) {
                let (m, v) = (m + dm, v + dv);
                let mut later = 0.0;
                for p in first {
                    let each: f64 = m + later * fm;
                    mean += p * each;
                    square += p * (v + later * fv + each * each);
                    later += 1.0;
                }
            }
        }
        (mean, (square - mean * mean).max(0.0))
    }

    /// Steps that a transform takes.
    pub fn steps(&self, lattice: Lattice) -> usize {
        lattice.frequencies() * (self.coming.iter().chain(&self.found).map(SmallVec::len).sum::<usize>() + 1)
    }

    /// The transform of what is paid, from those of the amounts.
    pub fn transform(&self, of: &Transforms) -> Transform {
        let mut out = summed(&self.coming, of);
        if self.found.iter().any(|l| !l.is_empty()) {
            let found = summed(&self.found, of);
            out.iter_mut().zip(found.iter().zip(&of.done)).for_each(|(o, (x, done))| *o += x * done);
        }
        out
    }
}

/// The transform of the ways in which the first is paid, each with its further failures.
fn summed(lists: &[Chances; FIRSTS], of: &Transforms) -> Transform {
    let [nothing, job, failure, mishap] = lists;
    // A failure that is paid first counts as one more of those that come later.
    let mut failures: Chances = SmallVec::from_elem(0.0, nothing.len().max(failure.len() + 1));
    nothing.iter().enumerate().for_each(|(n, p)| failures[n] += p);
    failure.iter().enumerate().for_each(|(n, p)| failures[n + 1] += p);
    let mut out = powers(&failures, &of.failure);
    for (list, first) in [(job, &of.job), (mishap, &of.mishap)] {
        add_powers(&mut out, list, &of.failure, first);
    }
    out
}

/// Numbers of failures less likely than this are left out: together they cost less than rounding shows.
const NOTHING: f64 = 1e-12;

/// The sum of a transform's powers, each with its chance.
fn powers(chances: &[f64], of: &[Complex64]) -> Transform {
    let most = chances.iter().rposition(|p| *p > NOTHING).map_or(0, |most| most + 1);
    // Of a fixed length a loop is laid out at once.
    match chances[..most] {
        [] => vec![Complex64::new(0.0, 0.0); of.len()],
        [a] => vec![Complex64::new(a, 0.0); of.len()],
        [a, b] => of.iter().map(|f| f * b + a).collect(),
        [a, b, c] => of.iter().map(|f| nested(&[a, b, c], *f)).collect(),
        [a, b, c, d] => of.iter().map(|f| nested(&[a, b, c, d], *f)).collect(),
        _ => of.iter().map(|f| nested(&chances[..most], *f)).collect(),
    }
}

/// Adds the sum of a transform's powers, each with its chance, times that of what is paid first.
fn add_powers(out: &mut [Complex64], chances: &[f64], of: &[Complex64], first: &[Complex64]) {
    let most = chances.iter().rposition(|p| *p > NOTHING).map_or(0, |most| most + 1);
    let each = out.iter_mut().zip(of).zip(first);
    match chances[..most] {
        [] => (),
        [a] => each.for_each(|((o, _), x)| *o += x * a),
        [a, b] => each.for_each(|((o, f), x)| *o += (f * b + a) * x),
        [a, b, c] => each.for_each(|((o, f), x)| *o += nested(&[a, b, c], *f) * x),
        _ => each.for_each(|((o, f), x)| *o += nested(&chances[..most], *f) * x),
    }
}

/// A polynomial, from the highest power down.
fn nested(chances: &[f64], f: Complex64) -> Complex64 {
    chances.iter().rev().fold(Complex64::new(0.0, 0.0), |sum, p| sum * f + *p)
}

/// The transforms of a point's amounts: the job, what is beyond it, both together, and what it may have done already.
pub(crate) struct Transforms {
    job: Transform,
    mishap: Transform,
    failure: Transform,
    done: Transform,
}

impl Transforms {
    /// About how many bytes it holds.
    pub fn bytes(&self) -> usize {
        4 * size_of_val(self.job.as_slice())
    }

    pub fn new(lattice: Lattice, of: &PointAmounts) -> Self {
        let job = lattice.transform(&of.job.values);
        let mishap = lattice.transform(&of.mishap.values);
        let failure = job.iter().zip(&mishap).map(|(j, m)| j * m).collect();
        Self { job, mishap, failure, done: lattice.transform(&of.done.values) }
    }
}
