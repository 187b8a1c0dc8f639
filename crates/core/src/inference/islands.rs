//! Findings weighed island by island. An island holds the points that findings or wear tie together; under a given level
//! of care islands are independent of each other. Where another view changes some points, their islands alone are weighed
//! again.
//!
//! docs/METHOD.md, sections 5 and 8.

use std::sync::Arc;

use crate::base::memory::{Key, KeyOf};
use crate::documents::care_level::LEVELS;
use crate::inference::care_scenarios::{CareScenarios, CareVoices};
use crate::inference::check_effect::{Answer, IMPOSSIBLE};
use crate::inference::context::Context;
use crate::inference::findings::{outlook, weigh};
use crate::inference::tied::Block;
use crate::inference::worn_by::{Tie, Together, UntilToday, any, ties};
use crate::reliability::care::{self, Weights};
use crate::reliability::remaining_life::RemainingLife;

/// Points by level of care.
type Lives = [Vec<RemainingLife>; 3];

/// Chances within the plan by point and level of care.
type Chances = Vec<[f64; 3]>;

/// Points that are weighed together; links and ties are by place among them.
#[derive(Debug)]
struct Island<'a> {
    points: Vec<usize>,
    ties: Vec<Tie>,
    answers: Vec<Answer<'a>>,
    /// Signs of care: which of all, and which of these answers.
    signs: Vec<(usize, usize)>,
    /// Logarithms of chances that the island's answers have and that are counted once for all islands.
    shared: [f64; 3],
}

/// All points in islands.
#[derive(Debug)]
pub(crate) struct Islands<'a> {
    all: Vec<Island<'a>>,
    /// Of each point its island and its place there.
    of: Vec<(usize, usize)>,
    /// What is said whatever the points are: by leaks of quiet outcomes, and by checks that speak of no point here.
    shared: Heard,
}

/// What an island's findings say of care.
#[derive(Debug, Clone, Default)]
pub(crate) struct Heard {
    /// Logarithm of their chance under each level.
    ln: [f64; 3],
    /// The same of each sign of care alone, by its place among all.
    signs: Vec<(usize, [f64; 3])>,
    approximate: bool,
}

/// Scenarios after findings, with what each island said.
#[derive(Clone, Copy)]
pub(crate) struct Found<'f> {
    pub scenarios: &'f CareScenarios,
    pub heard: &'f [Heard],
}

/// An island after its findings.
#[derive(Debug)]
struct WeighedIsland {
    heard: Heard,
    lives: Lives,
    blocks: Vec<Arc<Block>>,
}

impl WeighedIsland {
    fn bytes(&self) -> usize {
        let blocks = self.blocks.iter().flat_map(|b| b.lives.iter().flatten().flatten());
        self.lives.iter().flatten().chain(blocks).map(RemainingLife::bytes).sum()
    }
}

/// Another look at some islands.
pub(crate) struct Anew {
    /// Weights of the levels of care, these islands heard in the place of what they said before.
    pub weights: Weights,
    /// Of these islands, chances within the plan.
    plan: Vec<Option<Chances>>,
}

/// Scenarios after findings, with what faults have worn until today and wear from now on.
pub(crate) fn found(context: &Context<'_>, before: CareScenarios, answers: &[Answer<'_>]) -> CareScenarios {
    Islands::of(context, answers).found(context, before).0
}

/// The same where nothing was found.
pub(crate) fn worn(context: &Context<'_>, before: CareScenarios) -> CareScenarios {
    if any(context) { found(context, before, &[]) } else { before }
}

/// An answer without its links.
fn alone<'a>(answer: &Answer<'a>) -> Answer<'a> {
    Answer { check: answer.check, outcome: answer.outcome, links: Vec::new(), key: answer.key.clone() }
}

/// Logarithm of the chance of answers in which no point has a say.
fn said(context: &Context<'_>, answers: &[Answer<'_>]) -> [f64; 3] {
    let (a, budget) = (context.setting.assumptions, context.setting.budget);
    LEVELS.map(|level| weigh(&mut [], answers, level, a.joint_states, budget).ln_likelihood)
}

impl<'a> Islands<'a> {
    /// As these answers tie the points.
    pub fn of(context: &Context<'_>, answers: &[Answer<'a>]) -> Self {
        let ties = ties(context);
        let mut all = grouped(context.applicable_points.len(), &ties, answers);
        let mut of = vec![(0, 0); context.applicable_points.len()];
        for (i, island) in all.iter().enumerate() {
            island.points.iter().enumerate().for_each(|(place, p)| of[*p] = (i, place));
        }
        for tie in ties {
            let (i, wearer) = of[tie.wearer];
            all[i].ties.push(Tie { wearer, worn: of[tie.worn].1, times: tie.times });
        }
        let (mut signs, mut apart) = (0, Vec::new());
        let mut shared = Heard::default();
        for answer in answers {
            let own = answer.check.care_sign.is_some().then_some(signs);
            signs += usize::from(own.is_some());
            let mut here: Vec<usize> = answer.links.iter().map(|l| of[l.0].0).collect();
            here.sort_unstable();
            here.dedup();
            if let (Some(sign), true) = (own, here.is_empty()) {
                shared.signs.push((sign, sign_says(answer, &Default::default())));
            }
            if here.is_empty() || answer.outcome == 0 {
                apart.push(alone(answer));
            }
            for i in here {
                let links = answer.links.iter().filter(|l| of[l.0].0 == i).map(|l| (of[l.0].1, l.1)).collect();
                let island = &mut all[i];
                island.signs.extend(own.map(|sign| (sign, island.answers.len())));
                island.answers.push(Answer { links, ..alone(answer) });
            }
        }
        shared.ln = said(context, &apart);
        for island in &mut all {
            let quiet: Vec<Answer<'_>> = island.answers.iter().filter(|a| a.outcome == 0).map(alone).collect();
            island.shared = said(context, &quiet);
        }
        Self { all, of, shared }
    }

    /// Weighs every island.
    pub fn found(&self, context: &Context<'_>, before: CareScenarios) -> (CareScenarios, Vec<Heard>) {
        let mut out = before;
        let weigh = |island: &Island<'_>| {
            if island.is_silent() {
                return Heard::default();
            }
            let weighed = island.remembered(context, &out.remaining);
            for (all, lives) in out.remaining.iter_mut().zip(&weighed.lives) {
                island.points.iter().zip(lives).for_each(|(p, life)| all[*p].clone_from(life));
            }
            out.blocks.extend(weighed.blocks.iter().map(Arc::clone));
            weighed.heard.clone()
        };
        let heard: Vec<Heard> = self.all.iter().map(weigh).collect();
        out.approximate |= heard.iter().any(|h| h.approximate);
        out.hear(self.voices(&out.voices, heard.iter()));
        (out, heard)
    }

    /// What all islands say together.
    fn voices<'h>(&self, papers: &CareVoices, heard: impl Iterator<Item = &'h Heard>) -> CareVoices {
        let mut ln = self.shared.ln;
        let mut signs = self.shared.signs.clone();
        for h in heard {
            (0..ln.len()).for_each(|l| ln[l] += h.ln[l]);
            signs.extend_from_slice(&h.signs);
        }
        signs.sort_by_key(|s| s.0);
        papers.with(ln, signs.into_iter().map(|s| s.1).collect())
    }

    /// Whether a point is tied to another by wear.
    pub fn is_tied(&self, point: usize) -> bool {
        !self.all[self.of[point].0].ties.is_empty()
    }

    /// Looks anew at the islands of some points, before findings as `before` gives them; with what faults wear, or without.
    pub fn anew(
        &self,
        context: &Context<'_>,
        found: Found<'_>,
        points: impl Iterator<Item = usize>,
        before: impl Fn(usize) -> [RemainingLife; 3],
        tied: bool,
    ) -> Anew {
        let mut plan: Vec<Option<Chances>> = vec![None; self.all.len()];
        let mut heard: Vec<Option<Heard>> = vec![None; self.all.len()];
        for i in points.map(|p| self.of[p].0) {
            if plan[i].is_some() {
                continue;
            }
            let mut own: Lives = Default::default();
            for p in &self.all[i].points {
                own.iter_mut().zip(before(*p)).for_each(|(all, life)| all.push(life));
            }
            let (said, chances) = self.all[i].looked_at(context, &own, tied);
            heard[i] = Some(said);
            plan[i] = Some(chances);
        }
        let all = heard.iter().zip(found.heard).map(|(anew, before)| anew.as_ref().unwrap_or(before));
        Anew { weights: self.voices(&found.scenarios.voices, all).weights(None), plan }
    }

    /// A point's chance within the plan, looked at anew.
    pub fn by_horizon(&self, anew: &Anew, found: Found<'_>, point: usize) -> f64 {
        let (island, place) = self.of[point];
        care::mix(&anew.weights, |l| match &anew.plan[island] {
            Some(chances) => chances[place][l],
            None => found.scenarios.remaining[l][point].by_horizon(),
        })
    }
}

/// The points in islands, without answers and ties.
fn grouped<'a>(points: usize, ties: &[Tie], answers: &[Answer<'a>]) -> Vec<Island<'a>> {
    let mut first: Vec<usize> = (0..points).collect();
    let mut join = |x: usize, y: usize| {
        let (to, from) = (first[x].min(first[y]), first[x].max(first[y]));
        first.iter_mut().filter(|f| **f == from).for_each(|f| *f = to);
    };
    ties.iter().for_each(|t| join(t.wearer, t.worn));
    // What is quiet touches each point for itself; a sign of care is heard as a whole.
    let together = answers.iter().filter(|a| a.outcome > 0 || a.check.care_sign.is_some());
    together.flat_map(|a| a.links.windows(2)).for_each(|w| join(w[0].0, w[1].0));
    let mut out: Vec<Island<'a>> = Vec::new();
    let mut at: Vec<usize> = vec![0; points];
    for (p, first) in first.into_iter().enumerate() {
        if first == p {
            at[p] = out.len();
            out.push(Island::default());
        }
        out[at[first]].points.push(p);
    }
    out
}

/// What a sign of care says alone, the points that it links as they stand.
fn sign_says(answer: &Answer<'_>, lives: &Lives) -> [f64; 3] {
    let of = |l: usize| outlook(answer.check, &answer.links, &lives[l], LEVELS[l])[answer.outcome];
    std::array::from_fn(|l| of(l).max(IMPOSSIBLE).ln())
}

impl Default for Island<'_> {
    fn default() -> Self {
        Self { points: Vec::new(), ties: Vec::new(), answers: Vec::new(), signs: Vec::new(), shared: [0.0; 3] }
    }
}

impl Island<'_> {
    /// Whether nothing moves it.
    fn is_silent(&self) -> bool {
        self.answers.is_empty() && self.ties.is_empty()
    }

    /// Everything that weighing it depends on.
    fn key<'l>(
        &self,
        context: &Context<'_>,
        kind: &str,
        life: impl Fn(usize, usize) -> &'l RemainingLife,
        tied: bool,
    ) -> Key {
        let (a, path) = (context.setting.assumptions, &context.setting.path);
        let mut out = KeyOf::kind(kind);
        out.figures(&[a.joint_states, a.there_now, path.usage_now()]);
        out.figures(&self.shared);
        out.add(&(&self.points, &self.signs, tied, self.answers.len(), self.ties.len()));
        for place in 0..self.points.len() {
            (0..LEVELS.len()).for_each(|l| life(l, place).key(&mut out));
        }
        self.answers.iter().for_each(|answer| answer.key(&mut out));
        let together = self.together(context, tied);
        for tie in together.ties {
            out.add(&(tie.wearer, tie.worn));
            out.figure(tie.times);
            for level in LEVELS {
                out.figures(&[together.lived_with(tie.wearer, level), together.lived_with(tie.worn, level)]);
            }
        }
        out.key()
    }

    fn together<'t, 'a>(&'t self, context: &'t Context<'a>, tied: bool) -> Together<'t, 'a> {
        Together {
            setting: context.setting,
            points: self.points.iter().map(|p| &context.applicable_points[*p]).collect(),
            ties: if tied { &self.ties } else { &[] },
        }
    }

    /// Weighs its findings, or remembers it; `all` are the points before.
    fn remembered(&self, context: &Context<'_>, all: &Lives) -> Arc<WeighedIsland> {
        let bytes = |w: &Arc<WeighedIsland>| w.bytes();
        let key = || self.key(context, "island", |l, place| &all[l][self.points[place]], true);
        context.setting.budget.remembered_for_changes(key, bytes, || {
            let mut lives = all.each_ref().map(|all| self.points.iter().map(|p| all[*p].clone()).collect());
            let (heard, blocks) = self.weigh(context, &mut lives, true);
            Arc::new(WeighedIsland { heard, lives, blocks: blocks.into_iter().map(Arc::new).collect() })
        })
    }

    /// What it says under other lives, and the chances of its points within the plan then.
    fn looked_at(&self, context: &Context<'_>, lives: &Lives, tied: bool) -> (Heard, Chances) {
        let key = || self.key(context, "island looked at", |l, place| &lives[l][place], tied);
        let bytes = |(_, chances): &(Heard, Chances)| 200 + 24 * chances.len();
        context.setting.budget.remembered_for_changes(key, bytes, || {
            let mut after = lives.clone();
            let (heard, _) = self.weigh(context, &mut after, tied);
            let chances = |place: usize| std::array::from_fn(|l: usize| after[l][place].by_horizon());
            (heard, (0..self.points.len()).map(chances).collect())
        })
    }

    /// Weighs its findings.
    fn weigh(&self, context: &Context<'_>, lives: &mut Lives, tied: bool) -> (Heard, Vec<Block>) {
        let together = self.together(context, tied);
        let until_today = UntilToday::of(&together, lives);
        let signs = self.signs.iter().map(|(sign, a)| (*sign, sign_says(&self.answers[*a], lives))).collect();
        let (weighed, blocks) = until_today.found(&together, lives, &self.answers);
        let ln = std::array::from_fn(|l| weighed[l].ln_likelihood - self.shared[l]);
        let approximate = weighed.iter().any(|w| w.approximate);
        (Heard { ln, signs, approximate }, blocks.into_iter().map(|b| self.placed(b)).collect())
    }

    /// A block by place among all points.
    fn placed(&self, mut block: Block) -> Block {
        block.wearers.iter_mut().for_each(|w| w.point = self.points[w.point]);
        block.worn.iter_mut().for_each(|j| *j = self.points[*j]);
        block
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::budget::Budget;
    use crate::documents::assumptions::Assumptions;
    use crate::formats::base_sheets;
    use crate::formats::documents::{read_candidate, read_family};
    use crate::inference::context::with_context;
    use crate::inference::posterior::scenarios_before;

    fn near(x: &RemainingLife, y: &RemainingLife) -> bool {
        let pairs = [(x.present, y.present), (x.tail, y.tail), (x.immune, y.immune)];
        pairs
            .into_iter()
            .chain(x.cells.iter().copied().zip(y.cells.iter().copied()))
            .all(|(a, b)| (a - b).abs() < 1e-12)
    }

    /// Asks in the context of a demo candidate with many findings; faults wear others there, or do not.
    fn ask(wear: bool, ask: impl Fn(&Context<'_>)) {
        let file = |path: &str| {
            std::fs::read_to_string(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR"))).expect("a demo file")
        };
        let mut families = base_sheets::sheets().expect("base sheets");
        families.extend(
            ["bk4", "ferryman", "s6"].map(|id| read_family(&file(&format!("families/{id}.json"))).expect("a sheet")),
        );
        if !wear {
            families.iter_mut().flat_map(|f| &mut f.points).for_each(|p| p.wears.clear());
        }
        let candidate = read_candidate(&file("candidates/2-harbour-office.json")).expect("a candidate");
        let asked = with_context(&candidate, &families, &Assumptions::default(), &Budget::default(), |context| {
            ask(context);
            Ok(())
        });
        asked.expect("judged");
    }

    #[test]
    fn islands_come_to_what_weighing_everything_at_once_does() {
        ask(false, |context| {
            let before = scenarios_before(context, None);
            let islands = Islands::of(context, context.answers);
            assert!(islands.all.iter().any(|i| i.points.len() > 1) && islands.all.len() > 20);
            let (after, heard) = islands.found(context, before.clone());
            for (l, level) in LEVELS.into_iter().enumerate() {
                let mut whole = before.remaining[l].clone();
                let joint = context.setting.assumptions.joint_states;
                let weighed = weigh(&mut whole, context.answers, level, joint, context.setting.budget);
                let ln = islands.shared.ln[l] + heard.iter().map(|h| h.ln[l]).sum::<f64>();
                assert!((weighed.ln_likelihood - ln).abs() < 1e-9, "{} {ln}", weighed.ln_likelihood);
                assert!(whole.iter().zip(&after.remaining[l]).all(|(x, y)| near(x, y)));
            }
        });
    }

    #[test]
    fn what_is_looked_at_anew_is_as_if_all_had_been() {
        for wear in [false, true] {
            ask(wear, |context| {
                let before = scenarios_before(context, None);
                let islands = Islands::of(context, context.answers);
                let (after, heard) = islands.found(context, before.clone());
                for point in 0..context.applicable_points.len() {
                    let other = |i: usize, mut z: RemainingLife| {
                        if i == point {
                            z.immune += z.present / 2.0;
                            z.present /= 2.0;
                        }
                        z
                    };
                    let lives = |i: usize| std::array::from_fn(|l| other(i, before.remaining[l][i].clone()));
                    let so_far = Found { scenarios: &after, heard: &heard };
                    let anew = islands.anew(context, so_far, std::iter::once(point), lives, true);
                    let points: Vec<[RemainingLife; 3]> = (0..before.remaining[0].len()).map(lives).collect();
                    let all = found(context, CareScenarios::before(&points, context.prior), context.answers);
                    for l in 0..3 {
                        assert!((anew.weights[l] - all.weights[l]).abs() < 1e-12, "{point}");
                    }
                    for i in 0..points.len() {
                        let chance = islands.by_horizon(&anew, so_far, i);
                        assert!((chance - all.by_horizon(i)).abs() < 1e-12, "{point} {i}");
                    }
                }
            });
        }
    }
}
