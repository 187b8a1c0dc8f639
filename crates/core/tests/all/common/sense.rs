//! What the tests of common sense ask.

use serde_json::json;
use ticksage_core::assess::judge::assess_to;
use ticksage_core::base::units::UsageClock;
use ticksage_core::decision::verdict::VerdictKind;
use ticksage_core::documents::finding::{Finding, FindingResult};
use ticksage_core::documents::paper::LedgerEntry;
use ticksage_core::inference::depth::Depth;
use ticksage_core::money::schedule::Due;
use ticksage_core::{Assessment, Assumptions, Candidate, Family};

pub fn table() -> Assumptions {
    Assumptions::default()
}

pub fn lean(c: &Candidate, f: &[Family]) -> Assessment {
    assess_to(c, f, &table(), Depth::Lean).unwrap()
}

/// The candidate with one more finding.
pub fn found(c: &Candidate, family: &str, check: &str, outcome: usize) -> Candidate {
    let mut out = c.clone();
    out.findings.retain(|f| !(f.family == family && f.check == check));
    let finding = json!({"family": family, "check": check, "result": FindingResult::Outcome { outcome }});
    out.findings.push(serde_json::from_value::<Finding>(finding).unwrap());
    out
}

/// Whether the check and all that was answered beside it speak each of one point alone, so that no outcome can explain
/// another finding away.
pub fn alone(c: &Candidate, family: &Family, check: &str) -> bool {
    let links = |id: &str| family.check(id).map_or(&[][..], |k| k.links.as_slice());
    let [one] = links(check) else { return false };
    let others = c.findings.iter().filter(|f| f.family == family.id && f.check != check);
    others
        .flat_map(|f| links(&f.check).iter().map(move |l| (f, l)))
        .all(|(f, l)| l.point != one.point || links(&f.check).len() == 1)
}

/// The better the verdict, the greater.
pub fn rank(kind: VerdictKind) -> usize {
    [VerdictKind::WalkAway, VerdictKind::NotYet, VerdictKind::Negotiate, VerdictKind::Buy]
        .iter()
        .position(|k| *k == kind)
        .unwrap()
}

/// The candidate with an invoice for scheduled work, done so long ago: a share of what lies between two times of it.
pub fn proved(c: &Candidate, before: &Assessment, d: &Due, ago: f64) -> Candidate {
    let by_usage = d.every_usage.map_or(f64::INFINITY, |u| u * ago / before.usage_a_year);
    let years = d.every_years.map_or(f64::INFINITY, |y| y * ago).min(by_usage).min(before.age_now * 0.9);
    let share = 1.0 - years / before.age_now;
    let last = c.readings.iter().map(|r| r.usage.on_clock()).fold(0.0, f64::max);
    let usage = (before.usage_now * share).max(last.min(before.usage_now));
    #[allow(clippy::cast_possible_truncation)]
    let date = c.as_of.saturating_sub(jiff::Span::new().days((years * 365.25) as i64));
    let unit = if before.clock == UsageClock::Km { "km" } else { "h" };
    let entry: LedgerEntry = serde_json::from_value(json!({
        "date": date, "usage": {"value": usage.round(), "unit": unit}, "grade": "original",
        "evidence": "invoice_naming_part", "renews": d.renews,
        "performs": [{"family": d.family, "interval": d.interval}], "note": "done"
    }))
    .unwrap();
    let mut out = c.clone();
    out.ledger.push(entry);
    out
}

/// The judgement with that paper; none where it makes the clock fall, or moves what it has truly run: then it speaks of
/// something else.
pub fn as_proved(c: &Candidate, families: &[Family], before: &Assessment) -> Option<Assessment> {
    let after = assess_to(c, families, &table(), Depth::Lean).ok()?;
    let same = after.odometer.anomalies.len() <= before.odometer.anomalies.len()
        && after.value.marks == before.value.marks
        && (after.usage_now - before.usage_now).abs() <= 1.0;
    same.then_some(after)
}
