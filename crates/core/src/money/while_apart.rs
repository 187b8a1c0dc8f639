//! Which neighbours are worth doing while other things are off.
//!
//! docs/METHOD.md, section 8.

use crate::base::budget::Budget;
use crate::base::components::components;

/// A job as the choice sees it: what doing it now costs more than leaving it (above 0: not worth it alone), and what
/// must come off for it, each with its cost.
pub type Weighed = (f64, Vec<(u64, f64)>);

/// Jobs among which the best set is found by trying every one.
const TRIED_WHOLE: usize = 12;

/// Which of some jobs are worth doing while other things are off; `open` is off already. Jobs that have to do with
/// each other are weighed together: up to twelve by every set, more of them best first until none is worth it.
#[must_use]
pub fn while_apart(jobs: &[Weighed], open: &[u64], budget: &Budget<'_>) -> Vec<bool> {
    // A job that costs more than all that could be off for it is never worth it; one that nothing touches neither.
    let worth: Vec<usize> =
        (0..jobs.len()).filter(|i| jobs[*i].1.iter().map(|g| g.1).sum::<f64>() > jobs[*i].0).collect();
    let mut taken = vec![false; jobs.len()];
    // What is off already joins nobody: each has it, whatever the other does.
    let share = |i: usize, j: usize| {
        let (off, groups) = (&jobs[worth[i]].1, &jobs[worth[j]].1);
        groups.iter().any(|g| !open.contains(&g.0) && off.iter().any(|o| o.0 == g.0))
    };
    for group in components(worth.len(), share) {
        let members: Vec<usize> = group.into_iter().map(|i| worth[i]).collect();
        let among: Vec<&Weighed> = members.iter().map(|i| &jobs[*i]).collect();
        let chosen = if among.len() <= TRIED_WHOLE { best_set(&among, open) } else { best_first(&among, open, budget) };
        for (i, yes) in members.into_iter().zip(chosen) {
            taken[i] = yes;
        }
    }
    taken
}

/// What a set of jobs saves: each thing comes off once, and what is off already costs nothing.
fn gain(jobs: &[&Weighed], open: &[u64], chosen: impl Fn(usize) -> bool) -> f64 {
    let mut off = open.to_vec();
    let mut sum = 0.0;
    for (more, groups) in jobs.iter().enumerate().filter(|(i, _)| chosen(*i)).map(|(_, j)| *j) {
        sum -= more;
        for (group, cost) in groups {
            if off.contains(group) { sum += cost } else { off.push(*group) }
        }
    }
    sum
}

fn best_set(jobs: &[&Weighed], open: &[u64]) -> Vec<bool> {
    let (mut best, mut most) = (0u32, 1e-9);
    for set in 1..1u32 << jobs.len() {
        let saves = gain(jobs, open, |i| set & (1 << i) != 0);
        if saves > most {
            (best, most) = (set, saves);
        }
    }
    (0..jobs.len()).map(|i| best & (1 << i) != 0).collect()
}

fn best_first(jobs: &[&Weighed], open: &[u64], budget: &Budget<'_>) -> Vec<bool> {
    let groups: usize = jobs.iter().map(|j| j.1.len()).sum();
    let mut taken = vec![false; jobs.len()];
    let mut so_far = 0.0;
    // Each round tries every job that is left; a try looks every group up among those that are off.
    while budget.spend(jobs.len() * groups * 4) {
        let with = |i: usize| gain(jobs, open, |j| j == i || taken[j]) - so_far;
        let best = (0..jobs.len()).filter(|i| !taken[*i]).map(|i| (i, with(i))).max_by(|x, y| x.1.total_cmp(&y.1));
        let Some((i, saves)) = best.filter(|b| b.1 > 1e-9) else { return taken };
        taken[i] = true;
        so_far += saves;
    }
    taken
}
