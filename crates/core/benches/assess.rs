//! How long a judgement takes: 60 failure points on one core.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::hint::black_box;

use criterion::{Criterion, criterion_group, criterion_main};
use ticksage_core::candidate::{Candidate, FamilyRef, Finding, FindingResult};
use ticksage_core::family::Family;
use ticksage_core::formats::{read_candidate, read_family};
use ticksage_core::{Assumptions, assess};

fn demo(file: &str) -> String {
    std::fs::read_to_string(format!("{}/../../demo/{file}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

/// The demo's sheets and copies of them under other names, cut to exactly `points` points, with a
/// finding on every check whose points are all kept.
fn large(points: usize) -> (Candidate, Vec<Family>) {
    let mut candidate = read_candidate(&demo("candidates/2-harbour-office.json")).unwrap();
    candidate.findings.clear();
    candidate.families.clear();
    let mut families = Vec::new();
    let mut left = points;
    for (n, id) in ["bk4", "ferryman", "tarn22", "bk4", "ferryman", "tarn22"].into_iter().enumerate() {
        let mut f: Family = read_family(&demo(&format!("families/{id}.json"))).unwrap();
        f.id = format!("{id}-{n}");
        for p in &mut f.points {
            p.applies = Default::default();
        }
        f.points.truncate(left);
        left -= f.points.len();
        f.intervals.clear();
        f.checks.retain(|c| c.links.iter().all(|l| f.points.iter().any(|p| p.id == l.point)));
        candidate.findings.extend(f.checks.iter().enumerate().map(|(i, c)| Finding {
            family: f.id.clone(),
            check: c.id.clone(),
            result: FindingResult::Outcome { outcome: usize::from(i % 4 == 0) },
            reading: None,
            note: String::new(),
            at: None,
            undone: false,
        }));
        candidate.families.push(FamilyRef { id: f.id.clone(), version: f.version });
        if !f.points.is_empty() {
            families.push(f);
        }
    }
    candidate.families.truncate(families.len());
    candidate.findings.retain(|x| families.iter().any(|f| f.id == x.family));
    candidate.facts.clear();
    for e in &mut candidate.ledger {
        for r in &mut e.renews {
            r.family = format!("{}-{}", r.family, if r.family == "bk4" { 0 } else { 1 });
        }
    }
    (candidate, families)
}

fn benches(c: &mut Criterion) {
    let table = Assumptions::default();
    let (candidate, families) = large(60);
    let result = assess(&candidate, &families, &table).unwrap();
    assert_eq!(result.points.len(), 60);
    c.bench_function("assess 60 points, two clocks, three schools", |b| {
        b.iter(|| assess(black_box(&candidate), &families, &table).unwrap());
    });
    let blank = Candidate { findings: Vec::new(), ..candidate.clone() };
    c.bench_function("the same without findings", |b| {
        b.iter(|| assess(black_box(&blank), &families, &table).unwrap());
    });
    let straight = Candidate { readings: Vec::new(), ..candidate.clone() };
    c.bench_function("the same without odometer readings", |b| {
        b.iter(|| assess(black_box(&straight), &families, &table).unwrap());
    });
}

criterion_group! {
    name = group;
    config = Criterion::default().sample_size(20);
    targets = benches
}
criterion_main!(group);
