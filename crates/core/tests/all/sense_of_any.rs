//! Common sense on sheets that a die made up: whatever somebody writes, the figures move the right way.

use crate::common::cand;
use crate::common::random::{Die, candidate, sheet};
use crate::common::sense::{alone, as_proved, found, lean, proved, rank};
use serde_json::json;
use ticksage_core::documents::applicability::walk_round;
use ticksage_core::money::schedule::Due;
use ticksage_core::validation::telling::family_notices;
use ticksage_core::{Assessment, Assumptions, Candidate, Family};

/// So many candidates, each with a sheet of its own.
fn made(count: u64) -> impl Iterator<Item = (u64, Candidate, Vec<Family>)> {
    (0..count).map(|seed| {
        let mut d = Die::new(seed);
        let f = sheet(&mut d);
        assert!(family_notices(&f, &[]).is_empty(), "{:?}", family_notices(&f, &[]));
        (seed, candidate(&mut d, &f), vec![f])
    })
}

#[test]
fn a_worse_outcome_never_raises_the_limit_and_never_lowers_the_bill() {
    let a = Assumptions::default();
    let (mut tried, mut exceptions, mut worst) = (0, 0, 0.0_f64);
    for (seed, c, families) in made(60) {
        for (family, check) in walk_round(&c, &families, &a) {
            let judged: Vec<Assessment> =
                (0..check.outcomes.len()).map(|o| lean(&found(&c, &family.id, &check.id, o), &families)).collect();
            for pair in judged.windows(2) {
                tried += 1;
                let (limit, bill) =
                    (pair[1].value.unbounded - pair[0].value.unbounded, pair[1].bill.mean - pair[0].bill.mean);
                let share = limit.max(-bill) / pair[0].value.reference.price;
                if share > 1e-4 {
                    // Explaining away alone: of a point that nothing else speaks of, worse is worse.
                    assert!(!alone(&c, family, &check.id), "{seed}: {} by {share}", check.id);
                    exceptions += 1;
                    worst = worst.max(share);
                }
            }
        }
    }
    println!("{exceptions} of {tried}, the largest {worst:.4} of the price");
    assert!(tried > 500 && exceptions * 25 < tried && worst < 0.05, "{exceptions} of {tried}, {worst}");
}

#[test]
fn proof_of_a_planned_renewal_never_lowers_the_limit() {
    // The exceptions are named in `sense.rs`: a part whose hazard does not rise or is still young, and a paper whose
    // date brings the next time into the plan.
    let mut tried = 0;
    for (seed, c, families) in made(80) {
        let before = lean(&c, &families);
        for d in before.due.iter().filter(|d| d.cost.mean > 0.0) {
            for ago in [0.25, 0.6] {
                let Some(after) = as_proved(&proved(&c, &before, d, ago), &families, &before) else { continue };
                let fell = before.value.unbounded - after.value.unbounded;
                let same = |x: &&Due| (&x.family, &x.interval) == (&d.family, &d.interval);
                let again = (after.due.iter().find(same).unwrap().in_plan - d.in_plan).max(0.0);
                let most = 1e-2 * before.value.reference.price + again;
                assert!(fell < most, "{seed}: {} {ago} by {fell}, {again} again", d.interval);
                tried += 1;
            }
        }
    }
    assert!(tried > 100, "{tried}");
}

#[test]
fn the_untouched_reference_is_worth_the_going_price() {
    for (seed, mut c, families) in made(40) {
        c.findings.clear();
        c.ledger.clear();
        let a = lean(&c, &families);
        assert!((a.value.limit - a.value.reference.price).abs() < 1e-6, "{seed}: {}", a.value.limit);
    }
}

#[test]
fn asking_more_never_improves_the_verdict() {
    for (seed, mut c, families) in made(30) {
        c.asked_first = Some(c.asking);
        let asking = c.asking.get();
        let mut last = usize::MAX;
        for by in [0.3, 0.6, 0.8, 0.95, 1.0, 1.1, 1.3, 1.7, 2.5] {
            c.asking = serde_json::from_value(json!((asking * by).round())).unwrap();
            let now = rank(lean(&c, &families).verdict.kind);
            assert!(now <= last, "{seed} at {by}");
            last = now;
        }
    }
}

#[test]
fn more_use_or_a_longer_plan_never_lowers_the_bill() {
    for (seed, c, families) in made(40) {
        let bill = |years: f64, a_year: f64| {
            let mut c = cand(&serde_json::to_value(&c).unwrap());
            c.plan.years *= years;
            c.plan.usage_a_year.value *= a_year;
            lean(&c, &families).bill.mean
        };
        let own = bill(1.0, 1.0);
        for (years, a_year) in [(1.25, 1.0), (1.0, 1.3), (1.6, 1.5)] {
            let more = bill(years, a_year);
            assert!(more > own - 1e-3 * own, "{seed} × {years}, {a_year}: {own} {more}");
        }
    }
}
