//! What a fault that is there may have worn already: whether it is there decides how another point stands today, so
//! that what is found of the one speaks of the other.
//!
//! docs/METHOD.md, section 8.

use crate::base::budget::Budget;
use crate::documents::care_level::CareLevel;
use crate::inference::check_effect::Answer;
use crate::inference::findings::{Weighed, weigh};
use crate::reliability::remaining_life::RemainingLife;

/// Faults whose presence findings are weighed by, all groups that findings touch together: twice as many cases with
/// each.
pub(crate) const FAULTS: usize = 4;

/// Faults, none of them worn in its turn, and the points that they wear.
#[derive(Debug, Clone)]
pub(crate) struct Group {
    pub wearers: Vec<usize>,
    pub worn: Vec<usize>,
}

/// Which faults of a group are there, under one level of care. A set of faults is a number with a bit for each.
#[derive(Debug, Clone)]
pub(crate) struct Presence {
    /// By set: its chance, and how each worn point stands then.
    pub sets: Vec<(f64, Vec<RemainingLife>)>,
}

impl Presence {
    /// As the faults' own chances have it. `keeps` tells, by place among faults and worn points, what a fault that is
    /// there has left of a worn point that would be sound.
    pub fn of(group: &Group, remaining: &[RemainingLife], keeps: impl Fn(usize, usize) -> f64) -> Self {
        let set = |set: usize| {
            let there = |k: usize| set >> k & 1 == 1;
            let chances = group.wearers.iter().enumerate().map(|(k, w)| {
                let present = remaining[*w].present;
                if there(k) { present } else { 1.0 - present }
            });
            let life = |(n, j): (usize, &usize)| {
                let kept = (0..group.wearers.len()).filter(|k| there(*k)).map(|k| keeps(k, n)).product();
                shrunk(&remaining[*j], kept)
            };
            (chances.product(), group.worn.iter().enumerate().map(life).collect())
        };
        Self { sets: (0..1 << group.wearers.len()).map(set).collect() }
    }

    /// The worn points, the sets mixed.
    pub fn mix_into(&self, group: &Group, remaining: &mut [RemainingLife]) {
        for (n, j) in group.worn.iter().enumerate() {
            remaining[*j] = mixture(&remaining[*j], self.sets.iter().map(|(chance, lives)| (*chance, &lives[n])));
        }
    }
}

/// Lives mixed by their chances; what is overdue stays with each state.
pub(crate) fn mixture<'l>(
    like: &RemainingLife,
    parts: impl Iterator<Item = (f64, &'l RemainingLife)>,
) -> RemainingLife {
    let parts: Vec<(f64, &RemainingLife)> = parts.collect();
    RemainingLife { overdue: like.overdue.clone(), ..RemainingLife::mixture(&parts) }
}

/// A point of whose sound ones only a share is left: the others have failed and are there.
pub(crate) fn shrunk(z: &RemainingLife, kept: f64) -> RemainingLife {
    let mut out = z.clone();
    let alive = z.cells.iter().sum::<f64>() + z.tail;
    out.cells.iter_mut().for_each(|m| *m *= kept);
    out.tail *= kept;
    out.present += alive * (1.0 - kept);
    out
}

/// A point of which it is known whether it is there.
fn known(z: &RemainingLife, present: bool) -> RemainingLife {
    let mut out = z.clone();
    if present {
        out.cells.iter_mut().for_each(|m| *m = 0.0);
        (out.present, out.tail, out.immune) = (1.0, 0.0, 0.0);
    } else {
        let rest = 1.0 - z.present;
        out.cells.iter_mut().for_each(|m| *m /= rest);
        (out.present, out.tail, out.immune) = (0.0, z.tail / rest, z.immune / rest);
    }
    out
}

/// Findings that hang together with what faults wear: they are weighed in every case of which faults are there, the
/// others once.
pub(crate) struct Touched<'a> {
    /// Groups whose faults are told apart.
    groups: Vec<usize>,
    /// Points that findings tie to those groups, in their order.
    points: Vec<usize>,
    /// Findings on them, their links by place in `points`.
    near: Vec<Answer<'a>>,
    /// The other findings.
    rest: Vec<Answer<'a>>,
    /// Groups that findings touch and for whose cases there is no room.
    left_out: Vec<usize>,
}

impl<'a> Touched<'a> {
    pub fn new(groups: &[Group], answers: &[Answer<'a>]) -> Self {
        let linked = |p: &usize| answers.iter().any(|a| a.links.iter().any(|l| l.0 == *p));
        let (mut told, mut left_out, mut faults) = (Vec::new(), Vec::new(), 0);
        for (n, g) in groups.iter().enumerate() {
            if !g.wearers.iter().chain(&g.worn).any(linked) {
                continue;
            }
            if faults + g.wearers.len() <= FAULTS {
                faults += g.wearers.len();
                told.push(n);
            } else {
                left_out.push(n);
            }
        }
        let mut points: Vec<usize> =
            told.iter().flat_map(|n| groups[*n].wearers.iter().chain(&groups[*n].worn)).copied().collect();
        let (mut near, mut rest) = (Vec::new(), answers.to_vec());
        loop {
            let meets = |a: &Answer<'_>| a.links.iter().any(|l| points.contains(&l.0));
            let (met, others): (Vec<_>, Vec<_>) = rest.into_iter().partition(meets);
            rest = others;
            if met.is_empty() {
                break;
            }
            points.extend(met.iter().flat_map(|a| a.links.iter().map(|l| l.0)));
            near.extend(met);
        }
        points.sort_unstable();
        points.dedup();
        for (place, _) in near.iter_mut().flat_map(|a| &mut a.links) {
            *place = points.partition_point(|p| *p < *place);
        }
        Self { groups: told, points, near, rest, left_out }
    }

    /// Weighs every finding under a level of care.
    pub fn weigh(
        &self,
        all: &[Group],
        there: &mut [Presence],
        remaining: &mut [RemainingLife],
        level: CareLevel,
        (joint_states, budget): (f64, &Budget<'_>),
    ) -> Weighed {
        let mut out = weigh(remaining, &self.rest, level, joint_states, budget);
        for n in &self.left_out {
            // No room: as the points stand now, each for itself.
            let as_is = |_, _| 1.0;
            there[*n] = Presence::of(&all[*n], remaining, as_is);
        }
        if self.near.is_empty() {
            return out;
        }
        let mut cases: Vec<Case> = Vec::new();
        for case in self.cases(all, there) {
            let mut lives = self.lives(all, there, remaining, &case);
            let weighed = weigh(&mut lives, &self.near, level, joint_states, budget);
            out.approximate |= weighed.approximate;
            cases.push(Case { ln: case.chance.ln() + weighed.ln_likelihood, lives, ..case });
        }
        let most = cases.iter().map(|c| c.ln).fold(f64::NEG_INFINITY, f64::max);
        cases.iter_mut().for_each(|c| c.chance = (c.ln - most).exp());
        let total: f64 = cases.iter().map(|c| c.chance).sum();
        cases.iter_mut().for_each(|c| c.chance /= total);
        out.ln_likelihood += most + total.ln();
        for (place, p) in self.points.iter().enumerate() {
            remaining[*p] = mixture(&remaining[*p], cases.iter().map(|c| (c.chance, &c.lives[place])));
        }
        for (i, n) in self.groups.iter().enumerate() {
            self.learn(&all[*n], i, &mut there[*n], &cases);
        }
        out
    }

    /// Every case that has a chance.
    fn cases(&self, all: &[Group], there: &[Presence]) -> Vec<Case> {
        let none = Case { sets: Vec::new(), chance: 1.0, ln: 0.0, lives: Vec::new() };
        self.groups.iter().fold(vec![none], |so_far, n| {
            let with = |case: &Case, set: usize| Case {
                sets: case.sets.iter().copied().chain([set]).collect(),
                chance: case.chance * there[*n].sets[set].0,
                ..case.clone()
            };
            let sets = 1usize << all[*n].wearers.len();
            let each = so_far.iter().flat_map(|case| (0..sets).map(move |set| with(case, set)));
            each.filter(|c| c.chance > 0.0).collect()
        })
    }

    /// The points as they stand in a case, before the findings.
    fn lives(&self, all: &[Group], there: &[Presence], remaining: &[RemainingLife], case: &Case) -> Vec<RemainingLife> {
        let life = |p: &usize| {
            for (n, set) in self.groups.iter().zip(&case.sets) {
                if let Some(k) = all[*n].wearers.iter().position(|w| w == p) {
                    return known(&remaining[*p], set >> k & 1 == 1);
                }
                if let Some(k) = all[*n].worn.iter().position(|j| j == p) {
                    return there[*n].sets[*set].1[k].clone();
                }
            }
            remaining[*p].clone()
        };
        self.points.iter().map(life).collect()
    }

    /// What the cases say of one of the groups told apart.
    fn learn(&self, group: &Group, place: usize, there: &mut Presence, cases: &[Case]) {
        for (set, (chance, lives)) in there.sets.iter_mut().enumerate() {
            let of_it = || cases.iter().filter(|c| c.sets[place] == set);
            *chance = of_it().map(|c| c.chance).sum();
            if *chance <= 0.0 {
                continue;
            }
            for (j, life) in group.worn.iter().zip(lives) {
                let at = self.points.partition_point(|p| p < j);
                *life = mixture(life, of_it().map(|c| (c.chance / *chance, &c.lives[at])));
            }
        }
    }
}

/// Which faults are there, in each of the groups told apart; its chance; and the points then.
#[derive(Clone)]
struct Case {
    sets: Vec<usize>,
    chance: f64,
    ln: f64,
    lives: Vec<RemainingLife>,
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;
    use crate::documents::check::Check;
    use crate::reliability::plan_grid::FutureGrid;

    /// A point that is there with a chance, and else comes evenly over twice the plan of 40 000.
    fn life(present: f64) -> RemainingLife {
        let mut z = RemainingLife::empty(FutureGrid::full(40_000.0, &[10_000.0]));
        (z.present, z.immune) = (present, 0.0);
        z.cells = z.grid.edges.windows(2).map(|w| (1.0 - present) * (w[1] - w[0]) / 80_000.0).collect();
        z.tail = 1.0 - present - z.cells.iter().sum::<f64>();
        z
    }

    fn check(links: serde_json::Value) -> Check {
        let whole = json!({
            "id": "look", "name": "Look", "phase": "bonnet_cold", "how": "Look.", "minutes": 3,
            "outcomes": [{"label": "clean"}, {"label": "stains"}, {"label": "wet"}],
            "leak": [0.9, 0.07, 0.03], "links": links
        });
        serde_json::from_value(whole).expect("a check")
    }

    const FAULT: [f64; 3] = [0.1, 0.2, 0.7];
    const WORN: [f64; 3] = [0.2, 0.5, 0.3];
    const COMING: [f64; 3] = [0.6, 0.3, 0.1];

    #[test]
    fn what_is_found_of_the_one_speaks_of_the_other_as_every_case_counted_has_it() {
        let links = json!([
            {"point": "leak", "present": FAULT},
            {"point": "belt", "present": WORN, "coming": COMING, "lead": 10_000}
        ]);
        let (both, one) = (check(links), check(json!([{"point": "belt", "present": WORN}])));
        let groups = [Group { wearers: vec![0], worn: vec![1] }];
        let (leak, belt, kept) = (0.3, 0.1, 0.6);
        let up_to = |d: &[f64; 3], g: usize| d[..=g].iter().sum::<f64>();
        // Of a state of the two, the chance of an outcome; the leak stands for every other cause.
        let told = |of: &[[f64; 3]], outcome: usize| {
            let up = |g: usize| up_to(&[0.9, 0.07, 0.03], g) * of.iter().map(|d| up_to(d, g)).product::<f64>();
            if outcome == 0 { up(0) } else { up(outcome) - up(outcome - 1) }
        };
        let quiet = [1.0, 0.0, 0.0];
        for (outcome, alone) in [(0, 0), (1, 2), (2, 1), (2, 0)] {
            let (mut all, mut with_leak, mut with_belt, mut with_both) = (0.0, 0.0, 0.0, 0.0);
            for there in [true, false] {
                let (chance, kept) = if there { (leak, kept) } else { (1.0 - leak, 1.0) };
                let sound = 1.0 - belt;
                // There; coming within the lead, an eighth of the sound; later.
                let states = [
                    (belt + sound * (1.0 - kept), WORN, true),
                    (sound * kept / 8.0, COMING, false),
                    (sound * kept * 7.0 / 8.0, quiet, false),
                ];
                for (mass, shows, is_belt) in states {
                    let first = told(&[if there { FAULT } else { quiet }, shows], outcome);
                    let second = told(&[if is_belt { WORN } else { quiet }], alone);
                    let p = chance * mass * first * second;
                    all += p;
                    with_leak += if there { p } else { 0.0 };
                    with_belt += if is_belt { p } else { 0.0 };
                    with_both += if there && is_belt { p } else { 0.0 };
                }
            }
            let answer = |check, outcome, links: &[(usize, usize)], key: &str| Answer {
                check,
                outcome,
                links: links.to_vec(),
                key: key.to_owned(),
            };
            let answers = [answer(&both, outcome, &[(0, 0), (1, 1)], "a"), answer(&one, alone, &[(1, 0)], "b")];
            let mut remaining = vec![life(leak), life(belt), life(0.5)];
            let mut there = [Presence::of(&groups[0], &remaining, |_, _| kept)];
            there[0].mix_into(&groups[0], &mut remaining);
            let touched = Touched::new(&groups, &answers);
            let budget = Budget::default();
            let level = CareLevel::Ordinary;
            let weighed = touched.weigh(&groups, &mut there, &mut remaining, level, (200_000.0, &budget));
            let near = |told: f64, wanted: f64| assert!((told - wanted).abs() < 1e-9, "{outcome}: {told} {wanted}");
            near(weighed.ln_likelihood, f64::ln(all));
            near(remaining[0].present, with_leak / all);
            near(remaining[1].present, with_belt / all);
            near(there[0].sets[1].1[0].present, with_both / with_leak);
            near(remaining[2].present, 0.5);
        }
    }

    #[test]
    fn groups_without_room_are_weighed_for_themselves() {
        let seen = check(json!([{"point": "leak", "present": FAULT}]));
        let groups: Vec<Group> =
            (0..FAULTS + 1).map(|n| Group { wearers: vec![2 * n], worn: vec![2 * n + 1] }).collect();
        let answers: Vec<Answer<'_>> = (0..=FAULTS)
            .map(|n| Answer { check: &seen, outcome: 2, links: vec![(2 * n, 0)], key: n.to_string() })
            .collect();
        let mut remaining: Vec<RemainingLife> = (0..2 * groups.len()).map(|_| life(0.2)).collect();
        let mut there: Vec<Presence> = groups.iter().map(|g| Presence::of(g, &remaining, |_, _| 0.5)).collect();
        there.iter().zip(&groups).for_each(|(p, g)| p.mix_into(g, &mut remaining));
        let touched = Touched::new(&groups, &answers);
        assert_eq!((touched.groups.len(), touched.left_out.len()), (FAULTS, 1));
        touched.weigh(&groups, &mut there, &mut remaining, CareLevel::Good, (200_000.0, &Budget::default()));
        let last = remaining.len() - 1;
        assert!(remaining[1].present > remaining[last].present + 0.05, "the one told apart knows what it wore");
        for z in &remaining {
            let sum = z.present + z.cells.iter().sum::<f64>() + z.tail + z.immune;
            assert!((sum - 1.0).abs() < 1e-9, "{sum}");
        }
        for p in &there {
            assert!((p.sets.iter().map(|s| s.0).sum::<f64>() - 1.0).abs() < 1e-9);
        }
    }
}
