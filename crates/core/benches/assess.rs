//! How long a judgement takes: 60 failure points and 80 findings on one core.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::hint::black_box;

use criterion::{BatchSize, Criterion, criterion_group, criterion_main};
use ticksage_core::Assumptions;
use ticksage_core::assess::judge::{assess_to, assess_within};
use ticksage_core::base::budget::Budget;
use ticksage_core::base::memory::Memory;
use ticksage_core::base::units::Money;
use ticksage_core::documents::applies::Applies;
use ticksage_core::documents::buyer::Labour;
use ticksage_core::documents::candidate::{Candidate, FamilyRef};
use ticksage_core::documents::family::Family;
use ticksage_core::documents::finding::{Finding, FindingResult};
use ticksage_core::documents::sheets::Sheets;
use ticksage_core::formats::base_sheets;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_core::inference::depth::Depth;
use ticksage_core::money::bill_forecast::spread;

/// Whoever has nothing to do works beside.
#[allow(dead_code)]
#[path = "../tests/all/common/beside.rs"]
mod beside;

use beside::{BESIDE, Beside};

/// As in the program.
#[global_allocator]
static HEAP: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn demo(file: &str) -> String {
    std::fs::read_to_string(format!("{}/../../demo/{file}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

/// The demo's sheets, cut to exactly `points` points, with checks asked again until `findings` of them
/// are answered, one in four of them not quietly.
fn large(points: usize, findings: usize) -> (Candidate, Sheets) {
    let mut candidate = read_candidate(&demo("candidates/2-harbour-office.json")).unwrap();
    candidate.findings.clear();
    candidate.families.clear();
    candidate.facts.clear();
    let mut families = Vec::new();
    let mut left = points;
    for id in ["bk4", "ferryman", "s6", "tarn22", "pilot-estate"] {
        let mut f: Family = read_family(&demo(&format!("families/{id}.json"))).unwrap();
        f.points.iter_mut().for_each(|p| p.applies = Applies::default());
        f.points.truncate(left);
        left -= f.points.len();
        f.intervals.retain(|i| i.renews.iter().all(|r| f.points.iter().any(|p| &p.id == r)));
        f.checks.retain(|c| c.links.iter().all(|l| f.points.iter().any(|p| p.id == l.point)));
        candidate.families.push(FamilyRef { id: f.id.clone(), version: f.version });
        families.push(f);
    }
    let asked: usize = families.iter().map(|f| f.checks.len()).sum();
    let mut again = findings.saturating_sub(asked);
    for f in &mut families {
        let more: Vec<_> = f.checks.iter().take(again).cloned().collect();
        again -= more.len();
        f.checks.extend(
            more.into_iter().map(|c| ticksage_core::documents::check::Check { id: format!("{}-again", c.id), ..c }),
        );
    }
    let all = families.iter().flat_map(|f| f.checks.iter().map(move |c| (f, c)));
    candidate.findings = all
        .take(findings)
        .enumerate()
        .map(|(i, (f, c))| Finding {
            family: f.id.clone(),
            check: c.id.clone(),
            result: FindingResult::Outcome { outcome: usize::from(i % 4 == 0) },
            reading: None,
            inputs: Vec::new(),
            note: String::new(),
            at: None,
            undone: false,
        })
        .collect();
    (candidate, Sheets::of(families))
}

/// The demo's candidate with most points and findings as it stands there.
fn harbour_office() -> (Candidate, Sheets) {
    let candidate = read_candidate(&demo("candidates/2-harbour-office.json")).unwrap();
    let mut sheets = base_sheets::sheets().unwrap();
    sheets.extend(["bk4", "ferryman", "s6"].map(|id| read_family(&demo(&format!("families/{id}.json"))).unwrap()));
    (candidate, Sheets::of(sheets))
}

fn asked<'a>(memory: &'a Memory, join: Option<&'a Beside>) -> Budget<'a> {
    let budget = Budget::default().remembering(memory);
    match join {
        Some(join) => budget.joined(join),
        None => budget,
    }
}

fn benches(c: &mut Criterion) {
    let table = Assumptions::default();
    // Two of them do not concern the candidate.
    let (bent, families) = large(62, 80);
    let straight = Candidate { readings: Vec::new(), ..bent.clone() };
    let blank = Candidate { findings: Vec::new(), ..straight.clone() };
    let result = assess_to(&bent, &families, &table, Depth::Sources).unwrap();
    assert_eq!((result.points.len(), bent.findings.len()), (60, 80));
    assert!(!result.approximate);
    let mut run = |name: &str, candidate: &Candidate, depth: Depth| {
        c.bench_function(name, |b| b.iter(|| assess_to(black_box(candidate), &families, &table, depth).unwrap()));
    };
    run("60 points, 80 findings, straight path", &straight, Depth::Pooled);
    run("the same, lean", &straight, Depth::Lean);
    run("the same, every source's own view", &straight, Depth::Sources);
    run("60 points, 80 findings, path bent by readings", &bent, Depth::Pooled);
    run("the same bent, every source's own view", &bent, Depth::Sources);
    run("60 points, no findings, every check's worth", &blank, Depth::Pooled);
    let (office, its_sheets) = harbour_office();
    for (name, depth) in
        [("Harbour office Ferryman, every source's own view", Depth::Sources), ("it, lean", Depth::Lean)]
    {
        c.bench_function(name, |b| b.iter(|| assess_to(black_box(&office), &its_sheets, &table, depth).unwrap()));
    }
    // What a person waits for: everything worked out anew, as the program asks it; and again after one thing changed.
    for (name, candidate, families, join) in [
        ("as asked, path bent, alone", &bent, &families, None),
        ("as asked, path bent", &bent, &families, Some(&*BESIDE)),
        ("as asked, Harbour office, alone", &office, &its_sheets, None),
        ("as asked, Harbour office", &office, &its_sheets, Some(&*BESIDE)),
    ] {
        c.bench_function(name, |b| {
            b.iter_batched_ref(
                Memory::default,
                |memory| {
                    let judge = || {
                        let budget = asked(memory, join);
                        assess_within(black_box(candidate), families, &table, Depth::Sources, &budget).unwrap()
                    };
                    join.map_or_else(judge, |beside| beside.0.install(judge))
                },
                BatchSize::PerIteration,
            );
        });
    }
    let after = |name: &str, c: &mut Criterion, change: &dyn Fn(&Candidate, u32) -> Candidate| {
        let memory = Memory::default();
        let judge = |candidate: &Candidate| {
            let judge = || {
                let budget = asked(&memory, Some(&*BESIDE));
                assess_within(black_box(candidate), &families, &table, Depth::Sources, &budget).unwrap()
            };
            BESIDE.0.install(judge)
        };
        judge(&bent);
        let mut turn = 0;
        c.bench_function(name, |b| {
            b.iter_batched(
                || {
                    turn += 1;
                    change(&bent, turn)
                },
                |candidate| judge(&candidate),
                BatchSize::SmallInput,
            );
        });
    };
    after("after one finding, every source's own view", c, &|of, turn| {
        let mut out = of.clone();
        // Another finding, and another outcome, each time.
        let at = turn as usize % out.findings.len();
        let quiet = matches!(out.findings[at].result, FindingResult::Outcome { outcome: 0 });
        out.findings[at].result = FindingResult::Outcome { outcome: usize::from(quiet) };
        out
    });
    after("after another price, every source's own view", c, &|of, turn| Candidate {
        asking: Money::try_from(5000.0 + f64::from(turn)).unwrap(),
        ..of.clone()
    });
    after("after another hand for the work, every source's own view", c, &|of, turn| {
        let mut out = of.clone();
        out.buyer.labour = if turn % 2 == 0 { Labour::Dealer } else { Labour::Own };
        out
    });
    c.bench_function("the bill of 60 points as it may turn out, and what to do", |b| {
        b.iter(|| spread(black_box(&straight), &families, None, &table, &Budget::default()).unwrap());
    });
}

criterion_group! {
    name = group;
    config = Criterion::default().sample_size(20);
    targets = benches
}
criterion_main!(group);
