//! A workshop's quote takes the place of the sheet's estimate, everywhere.

use crate::common::{asked, cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::validation::candidate::candidate_faults;
use ticksage_core::{Assessment, Assumptions, assess};

fn judged(c: &Value) -> Assessment {
    assess(&cand(c), &[family(&sheet())], &Assumptions::default()).unwrap()
}

fn quotes(list: &[(&str, f64, &str)]) -> Value {
    let one = |(job, amount, date): &(&str, f64, &str)| json!({"family": "test", "job": job, "amount": amount, "date": date, "by": "Quay workshop", "note": "No 12"});
    with(asked(candidate()), "/quotes", Value::Array(list.iter().map(one).collect()))
}

#[test]
fn a_quote_is_the_price_of_its_job_in_bill_and_offer() {
    let estimate = judged(&asked(candidate()));
    let dear = judged(&quotes(&[("belt-job", 1200.0, "2026-05-20")]));
    let p = &dear.points[0];
    assert_eq!([p.cost.low, p.cost.likely, p.cost.high, p.cost.mean], [1200.0; 4]);
    assert_eq!(p.quoted.as_ref().unwrap().by, "Quay workshop");
    assert!(estimate.points[0].quoted.is_none() && (estimate.points[0].cost.mean - 600.0).abs() < 1e-9);
    assert!(dear.bill.mean > 1.5 * estimate.bill.mean, "{} {}", dear.bill.mean, estimate.bill.mean);
    // The reference example would be mended by the same workshop: the chances are the same, and so is the price.
    assert!((dear.value.limit - estimate.value.limit).abs() < 1e-6);
    // Of several on one job the last holds.
    let two = judged(&quotes(&[("belt-job", 1200.0, "2026-05-20"), ("belt-job", 500.0, "2026-05-25")]));
    assert!((two.points[0].cost.mean - 500.0).abs() < 1e-9);
}

#[test]
fn a_quote_without_sense_is_refused_with_its_place() {
    let refused = |c: &Value| -> Vec<String> {
        candidate_faults(&cand(c), &[family(&sheet())]).into_iter().map(|f| f.path).collect()
    };
    assert_eq!(refused(&quotes(&[("no-such-job", 100.0, "2026-05-20")])), ["/quotes/0/job"]);
    assert_eq!(refused(&quotes(&[("belt-job", 100.0, "2027-05-20")])), ["/quotes/0/date"]);
    assert!(refused(&quotes(&[("belt-job", 100.0, "2026-05-20")])).is_empty());
}
