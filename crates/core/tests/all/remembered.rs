//! What is remembered between questions changes no digit, whatever was asked before; nor does it who works beside.

use crate::common::beside::{BESIDE, TheOtherFirst};
use crate::common::demo;
use crate::common::random::{Die, candidate, sheet};
use serde_json::json;
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::join::Join;
use ticksage_core::base::memory::Memory;
use ticksage_core::documents::finding::FindingResult;
use ticksage_core::documents::sheets::Sheets;
use ticksage_core::inference::depth::Depth;
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::{Assumptions, Candidate, Family};

fn from<T: serde::de::DeserializeOwned>(v: serde_json::Value) -> T {
    serde_json::from_value(v).unwrap()
}

/// Things that a person changes one after the other.
fn changes(c: &Candidate) -> Vec<Candidate> {
    let with = |change: &dyn Fn(&mut Candidate)| {
        let mut out = c.clone();
        change(&mut out);
        out
    };
    let mut out = vec![
        with(&|c| c.asking = serde_json::from_value(json!(c.asking.get() + 100.0)).unwrap()),
        with(&|c| c.plan.years += 1.0),
        with(&|c| c.plan.usage_a_year.value *= 1.1),
        with(&|c| c.buyer.labour = from(json!("dealer"))),
        with(&|c| c.buyer.appetite = from(json!("careful"))),
        with(&|c| c.buyer.parts = from(json!("used"))),
        with(&|c| c.plan.care = from(json!("good"))),
        with(&|c| c.past_use = from(json!({"short_trips": 0.8}))),
        with(&|c| c.plan.use_ = from(json!({"towing": 0.6}))),
        with(&|c| c.papers_seen = !c.papers_seen),
        with(&|c| c.ledger.iter_mut().for_each(|e| e.grade = from(json!("used")))),
        with(&|c| drop(c.ledger.pop())),
        with(&|c| drop(c.findings.pop())),
        with(&|c| drop(c.readings.pop())),
        with(&|c| c.title.push('x')),
        with(&|c| c.facts.clear()),
        with(&|c| c.serials.clear()),
        with(&|c| c.quotes.clear()),
        with(&|c| c.built = c.built.saturating_sub(jiff::Span::new().days(400))),
        with(&|c| c.buyer.rates = from(json!({"self": 20.0, "independent": 90.0}))),
        with(&|c| c.buyer.paper_trust = from(json!("stamp"))),
        with(&|c| drop(c.campaigns.pop())),
        with(&|c| c.purchase_plan.policy = from(json!("wait_for_signs"))),
    ];
    if let Some(f) = c.findings.iter().position(|f| matches!(f.result, FindingResult::Outcome { outcome: 0 })) {
        out.push(with(&|c| c.findings[f].result = FindingResult::Outcome { outcome: 1 }));
    }
    out
}

fn same_with_and_without(c: &Candidate, families: &[Family], memory: &Memory) {
    let table = Assumptions::default();
    // Marked, so that sheets made ready are remembered, too.
    let marked = Sheets::of(families.to_vec());
    for changed in std::iter::once(c.clone()).chain(changes(c)).chain([c.clone()]) {
        for depth in [Depth::Lean, Depth::Sources] {
            let fresh = assess_within(&changed, families, &table, depth, &Budget::default());
            let budget = Budget::default().remembering(memory).joined(&*BESIDE);
            let remembered = assess_within(&changed, &marked, &table, depth, &budget);
            let (Ok(fresh), Ok(remembered)) = (fresh, remembered) else { continue };
            assert!(fresh == remembered, "{} {depth:?}", c.title);
            // To the last bit.
            let text = |a| serde_json::to_string(a).unwrap();
            assert_eq!(text(&fresh), text(&remembered));
        }
        let bill = |budget: &Budget<'_>| spread(&changed, families, None, &table, budget).ok();
        let remembered = spread(&changed, &marked, None, &table, &Budget::default().remembering(memory)).ok();
        assert_eq!(bill(&Budget::default()), remembered);
    }
}

/// Every second candidate of the demo.
fn the_demo_from(first: usize) {
    let memory = Memory::default();
    for (c, families) in demo().iter().skip(first).step_by(2) {
        same_with_and_without(c, families, &memory);
    }
    let (bytes, things) = memory.size();
    assert!(bytes > 1_000_000 && things > 1000, "{bytes} {things}");
}

// Two halves: the longest test of all would keep one core waiting.
#[test]
fn the_demo_is_judged_the_same_with_and_without_a_memory() {
    the_demo_from(0);
}

#[test]
fn the_rest_of_the_demo_is_judged_the_same_with_and_without_a_memory() {
    the_demo_from(1);
}

#[test]
fn sheets_that_a_die_made_up_are_judged_the_same_with_a_memory_that_forgets() {
    // All of them have the same ids and share one small memory, which lets go of things all the time.
    let memory = Memory::of(400_000);
    for seed in 100..112 {
        let mut d = Die::new(seed);
        let f = sheet(&mut d);
        let c = candidate(&mut d, &f);
        same_with_and_without(&c, &[f], &memory);
    }
}

#[test]
fn a_question_takes_the_same_steps_with_and_without_a_memory() {
    let memory = Memory::default();
    let (c, families) = demo().swap_remove(1);
    let table = Assumptions::default();
    let enough = |steps: u64| {
        let budget = Budget::of(steps).remembering(&memory);
        assess_within(&c, &families, &table, Depth::Lean, &budget).is_ok()
    };
    let (mut least, mut most) = (0_u64, 1_500_000_000);
    assert!(enough(most));
    while most - least > 100_000 {
        let middle = least.midpoint(most);
        if enough(middle) { most = middle } else { least = middle }
    }
    let fresh = |budget: Budget<'_>| assess_within(&c, &families, &table, Depth::Lean, &budget);
    for joined in [None, Some(&*BESIDE as &dyn Join), Some(&TheOtherFirst)] {
        let of = |steps: u64| joined.map_or_else(|| Budget::of(steps), |j| Budget::of(steps).joined(j));
        assert!(fresh(of(most)).is_ok());
        assert!(fresh(of(least)).is_err());
    }
}

#[test]
fn whoever_works_beside_may_begin_with_either_piece_or_forget_one() {
    let table = Assumptions::default();
    let (c, families) = demo().swap_remove(0);
    let judged = |budget: &Budget<'_>| assess_within(&c, &families, &table, Depth::Sources, budget).unwrap();
    let alone = judged(&Budget::default());
    for join in [&*BESIDE as &dyn Join, &TheOtherFirst, &Forgetful] {
        assert!(judged(&Budget::default().joined(join)) == alone, "{join:?}");
    }
}

/// Leaves one piece undone, and asks for the other twice.
#[derive(Debug)]
struct Forgetful;

impl Join for Forgetful {
    fn both(&self, _: &mut (dyn FnMut() + Send), other: &mut (dyn FnMut() + Send)) {
        other();
        other();
    }
}
