//! What a scan says of the checks that read it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::trouble_code::Code;
use crate::documents::applicability::walk_round;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::{Check, ScanRule};
use crate::documents::family::Family;
use crate::documents::finding::{Finding, FindingResult};
use crate::documents::scan::Scan;
use crate::evidence::vin::vin;
use crate::reading::measured;

/// Why a memory is thought to have been wiped lately.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum RecentlyCleared {
    /// Few warm-ups since.
    WarmUps {
        /// How many.
        count: u8,
    },
    /// A short distance since.
    Distance {
        /// km.
        km: u16,
    },
    /// Several monitors have not run.
    Monitors {
        /// How many.
        open: usize,
    },
}

/// A finding that a scan leads to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ScanFinding {
    /// The check's name.
    pub name: String,
    /// The finding, ready to be entered.
    pub finding: Finding,
    /// The outcome that it comes to.
    pub outcome: usize,
    /// The outcome's label.
    pub label: String,
    /// Codes that led to it.
    pub codes: Vec<Code>,
}

impl Scan {
    /// Why the memory is thought to have been wiped lately; none where nothing says so.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn recently_cleared(&self, a: &Assumptions) -> Option<RecentlyCleared> {
        let open = self.monitors.iter().filter(|m| !m.complete).count();
        if let Some(count) = self.warm_ups.filter(|n| f64::from(*n) <= a.cleared_warm_ups) {
            return Some(RecentlyCleared::WarmUps { count });
        }
        if let Some(km) = self.cleared_km.filter(|n| f64::from(*n) <= a.cleared_km) {
            return Some(RecentlyCleared::Distance { km });
        }
        // Long after, a monitor that is open waits for conditions that a drive seldom brings.
        let long_ago = self.warm_ups.is_some_and(|n| f64::from(n) > a.cleared_long_ago_warm_ups)
            || self.cleared_km.is_some_and(|n| f64::from(n) > a.cleared_long_ago_km);
        (!long_ago && open as f64 >= a.cleared_monitors).then_some(RecentlyCleared::Monitors { open })
    }

    /// Whether anything was read that tells how long ago the memory was cleared.
    fn tells_clearing(&self) -> bool {
        self.warm_ups.is_some() || self.cleared_km.is_some() || !self.monitors.is_empty()
    }
}

/// The findings that a scan leads to: one for each check that a scan answers and that it could read.
#[must_use]
pub fn findings(scan: &Scan, candidate: &Candidate, families: &[Family], a: &Assumptions) -> Vec<ScanFinding> {
    let checks: Vec<(&Family, &Check)> = walk_round(candidate, families, a);
    let known = |code: Code| {
        let rules = checks.iter().flat_map(|(_, c)| &c.scan);
        rules
            .filter_map(|r| if let ScanRule::Codes { find } = r { Some(find) } else { None })
            .any(|find| find.iter().flat_map(|f| &f.codes).any(|p| code.fits(p)))
    };
    checks
        .iter()
        .filter_map(|(family, check)| {
            let all = check.scan.iter().filter_map(|rule| {
                let told = Told::of(rule, scan, candidate, &known, a)?;
                let (outcome, reading) = match told.what {
                    Answer::Outcome(o) => (o, None),
                    Answer::Reading(raw) => {
                        let m = check.measure.as_ref()?;
                        let reading = measured::of_raw(m, raw);
                        (m.outcome(reading), Some(reading))
                    }
                };
                Some((outcome, reading, told.codes))
            });
            let (outcome, reading, codes) = all.max_by_key(|x| x.0)?;
            let label = check.outcomes.get(outcome)?.label.clone();
            let result = if reading.is_some() { FindingResult::Measured } else { FindingResult::Outcome { outcome } };
            let named: Vec<String> = codes.iter().map(Code::to_string).collect();
            Some(ScanFinding {
                name: check.name.clone(),
                finding: Finding {
                    family: family.id.clone(),
                    check: check.id.clone(),
                    result,
                    reading,
                    inputs: Vec::new(),
                    note: named.join(" "),
                    at: None,
                    undone: false,
                },
                outcome,
                label,
                codes,
            })
        })
        .collect()
}

enum Answer {
    Outcome(usize),
    Reading(f64),
}

/// What a scan says to one rule.
struct Told {
    what: Answer,
    codes: Vec<Code>,
}

impl Told {
    fn of(
        rule: &ScanRule,
        scan: &Scan,
        candidate: &Candidate,
        known: &impl Fn(Code) -> bool,
        a: &Assumptions,
    ) -> Option<Self> {
        let outcome = |o: usize| Self { what: Answer::Outcome(o), codes: Vec::new() };
        let reading = |r: f64| Self { what: Answer::Reading(r), codes: Vec::new() };
        match rule {
            ScanRule::Codes { find } => {
                let all = scan.codes();
                let hit =
                    |f: &&crate::documents::check::CodeOutcome| all.iter().any(|c| f.codes.iter().any(|p| c.fits(p)));
                let worst = find.iter().filter(hit).map(|f| f.outcome).max();
                match worst {
                    Some(outcome) => {
                        let named = |c: &Code| find.iter().flat_map(|f| &f.codes).any(|p| c.fits(p));
                        Some(Self { what: Answer::Outcome(outcome), codes: all.into_iter().filter(named).collect() })
                    }
                    // Without the stored codes, silence says nothing.
                    None => scan.stored.as_ref().map(|_| outcome(0)),
                }
            }
            ScanRule::AnyCode { pending, stored } => {
                let held = scan.stored.as_ref()?;
                let firm: Vec<Code> =
                    held.iter().chain(scan.permanent.iter().flatten()).copied().filter(|c| !known(*c)).collect();
                let soft: Vec<Code> = scan.pending.iter().flatten().copied().filter(|c| !known(*c)).collect();
                Some(match (firm.is_empty(), soft.is_empty()) {
                    (false, _) => Self { what: Answer::Outcome(*stored), codes: firm },
                    (true, false) => Self { what: Answer::Outcome(*pending), codes: soft },
                    (true, true) => outcome(0),
                })
            }
            ScanRule::Mil { on } => scan.mil.map(|lit| outcome(if lit { *on } else { 0 })),
            ScanRule::RecentlyCleared { outcome: cleared } => match scan.recently_cleared(a) {
                Some(_) => Some(outcome(*cleared)),
                None => scan.tells_clearing().then(|| outcome(0)),
            },
            ScanRule::Vin { differs } => {
                let (read, papers) = (vin(scan.vin.as_deref()?).vin, vin(&candidate.vin).vin);
                (!papers.is_empty()).then(|| outcome(if read == papers { 0 } else { *differs }))
            }
            ScanRule::Trims => scan.largest_trim().map(reading),
            ScanRule::Coolant => scan.coolant.map(reading),
            ScanRule::Voltage => scan.voltage.map(reading),
        }
    }
}
