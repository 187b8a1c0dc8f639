//! Tables that leave the application: bill and findings as CSV. Money to the hundredth, chances to four places.

use crate::assess::assessment::Assessment;
use crate::decision::point_result::PointResult;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::finding::FindingResult;
use crate::money::purchase_plan::{PlanAction, PurchasePlan};
use crate::money::schedule::Due;

fn written(rows: impl IntoIterator<Item = Vec<String>>) -> String {
    let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    for row in rows {
        // Writing into memory does not fail.
        if writer.write_record(row.iter().map(|cell| plain(cell))).is_err() {
            break;
        }
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

/// What a spreadsheet takes for the beginning of a formula.
const FORMULA: [char; 6] = ['=', '+', '-', '@', '\t', '\r'];

/// A cell that a spreadsheet takes for text or a number and never for a formula.
pub(crate) fn plain(text: &str) -> String {
    // A text that bears such an apostrophe of its own gets another, so that it reads back as it was.
    let formula = text.trim_start_matches('\'').starts_with(FORMULA) && text.parse::<f64>().is_err();
    if formula { format!("'{text}") } else { text.to_owned() }
}

/// The text that [`plain`] made a cell of.
pub(crate) fn unplain(cell: &str) -> &str {
    let text = cell.strip_prefix('\'').filter(|t| t.trim_start_matches('\'').starts_with(FORMULA));
    text.unwrap_or(cell)
}

fn money(x: f64) -> String {
    format!("{x:.2}")
}

fn row<const N: usize>(cells: [&str; N]) -> Vec<String> {
    cells.map(str::to_owned).to_vec()
}

/// Money in hundredths that add up to a total in hundredths: the largest takes what rounding leaves.
fn adding_up(amounts: &[f64], total: f64) -> Vec<f64> {
    let round = |x: f64| (x * 100.0).round();
    let mut out: Vec<f64> = amounts.iter().map(|x| round(*x)).collect();
    let left = round(total) - out.iter().sum::<f64>();
    if let Some(most) = out.iter_mut().max_by(|x, y| x.total_cmp(y)) {
        *most += left;
    }
    out.into_iter().map(|x| x / 100.0).collect()
}

/// Columns of the bill.
const BILL: [&str; 13] = [
    "kind",
    "family",
    "id",
    "name",
    "job",
    "what to do",
    "chance now",
    "chance within plan",
    "low",
    "likely",
    "high",
    "expected",
    "currency",
];

/// The bill by failure point and scheduled work; the expected amounts add up to the total in the last line, to
/// the cent.
#[must_use]
pub fn bill(a: &Assessment, plan: &PurchasePlan) -> String {
    let mut amounts: Vec<f64> =
        a.points.iter().map(|p| p.expected_cost).chain(a.due.iter().map(|d| d.now + d.in_plan)).collect();
    amounts.push(-a.bill.saved);
    let exact = adding_up(&amounts, a.bill.mean);
    let points = a.points.iter().zip(&exact).map(|(p, expected)| point_row(p, plan, *expected, &a.currency));
    let work = a.due.iter().zip(&exact[a.points.len()..]).map(|(d, expected)| work_row(d, *expected, &a.currency));
    let sum = |name: &str, amount: f64| {
        let mut out = vec![String::new(); BILL.len()];
        (out[0], out[11], out[12]) = (name.to_owned(), money(amount), a.currency.clone());
        out
    };
    let saved = sum("saved by doing together", exact[exact.len() - 1]);
    let total = sum("total", (a.bill.mean * 100.0).round() / 100.0);
    written([row(BILL)].into_iter().chain(points).chain(work).chain([saved, total]))
}

fn point_row(p: &PointResult, plan: &PurchasePlan, expected: f64, currency: &str) -> Vec<String> {
    let action = plan.points.iter().find(|x| x.at == p.at).map_or("", |x| match x.action {
        PlanAction::Renew => "renew at purchase",
        PlanAction::Budget => "budget",
        PlanAction::Watch => "watch",
        PlanAction::Hold => "hold money",
        PlanAction::Nothing => "nothing",
    });
    vec![
        "failure point".to_owned(),
        p.at.family.clone(),
        p.at.point.clone(),
        p.name.clone(),
        p.job.clone(),
        action.to_owned(),
        format!("{:.4}", p.p_now),
        format!("{:.4}", p.p_plan),
        money(p.cost.low),
        money(p.cost.likely),
        money(p.cost.high),
        money(expected),
        currency.to_owned(),
    ]
}

fn work_row(d: &Due, expected: f64, currency: &str) -> Vec<String> {
    vec![
        "scheduled work".to_owned(),
        d.family.clone(),
        d.interval.clone(),
        d.name.clone(),
        d.name.clone(),
        if d.overdue { "overdue" } else { "as it falls due" }.to_owned(),
        format!("{:.4}", 1.0 - d.chance_done),
        String::new(),
        money(d.cost.low),
        money(d.cost.likely),
        money(d.cost.high),
        money(expected),
        currency.to_owned(),
    ]
}

/// The findings, oldest first; what was taken back is marked so.
#[must_use]
pub fn findings(candidate: &Candidate, families: &[Family]) -> String {
    let mut rows =
        vec![row(["at", "family", "check", "name", "result", "outcome", "reading", "unit", "note", "taken back"])];
    for f in candidate.findings.iter().filter(|f| f.result != FindingResult::Acknowledged) {
        let family = families.iter().find(|x| x.id == f.family);
        let check = family.and_then(|x| x.check(&f.check));
        let outcome = match (f.result, check) {
            (FindingResult::Outcome { outcome }, _) => Some(outcome),
            (FindingResult::Measured, Some(c)) => c.measure.as_ref().zip(f.reading).map(|(m, r)| m.outcome(r)),
            _ => None,
        };
        let label = outcome.and_then(|o| check?.outcomes.get(o)).map_or("", |o| o.label.as_str());
        rows.push(vec![
            f.at.clone().unwrap_or_default(),
            f.family.clone(),
            f.check.clone(),
            check.map_or_else(String::new, |c| c.name.clone()),
            match f.result {
                FindingResult::Outcome { .. } | FindingResult::Measured => "done",
                FindingResult::Skipped => "not done",
                FindingResult::CouldNot => "could not",
                FindingResult::AskSeller => "ask seller",
                FindingResult::Acknowledged => "",
            }
            .to_owned(),
            label.to_owned(),
            f.reading.map_or_else(String::new, |r| r.to_string()),
            check.and_then(|c| c.measure.as_ref()).map_or_else(String::new, |m| m.unit.clone()),
            f.note.clone(),
            if f.undone { "yes" } else { "" }.to_owned(),
        ]);
    }
    written(rows)
}
