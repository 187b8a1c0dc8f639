//! Confirming an issued report.

use std::path::Path;

use serde_json::Value;
use ticksage_core::assess::judge::COMPUTATION;
use ticksage_core::documents::candidate::Candidate;
use ticksage_core::{Assumptions, Family, assess};
use ticksage_server::report_file;

use crate::failure::Failure;
use crate::files::read;

/// Confirms a report, and says so; `printed` is the fingerprint on paper.
pub fn verify(file: &Path, printed: Option<&str>) -> Result<(), Failure> {
    let name = file.display().to_string();
    let refused = |say: String| Failure::Report(name.clone(), say);
    let (report, fingerprint) = report_file::verify(&read(file)?).map_err(refused)?;
    if let Some(printed) = printed {
        let bare: String = printed.chars().filter(char::is_ascii_hexdigit).collect::<String>().to_lowercase();
        if bare.len() < 16 || !fingerprint.starts_with(&bare) {
            return Err(refused(format!("it bears the fingerprint {fingerprint}, not the one on paper, {printed}")));
        }
    }
    let text = |key: &str| report[key].as_str().unwrap_or("").to_owned();
    println!("Report {} of {}, issued {}", report["number"], report["view"]["candidate"]["title"], text("issued_at"));
    println!("at {} by {}: unchanged since.", text("place"), text("inspector"));
    println!("Fingerprint {fingerprint}");
    println!("{}", figures(&report, &text("program")));
    Ok(())
}

/// Whether the figures come out again.
fn figures(report: &Value, program: &str) -> String {
    if program != COMPUTATION {
        return format!("Its figures are those of {program}; this is {COMPUTATION}, which may compute others.");
    }
    let candidate = serde_json::from_value::<Candidate>(report["view"]["candidate"].clone());
    let sheets = serde_json::from_value::<Vec<Family>>(report["sheets"].clone());
    let (Ok(candidate), Ok(sheets)) = (candidate, sheets) else {
        return "Its candidate or its sheets cannot be read by this program.".to_owned();
    };
    let told = |path: &str| report.pointer(path).and_then(Value::as_f64).unwrap_or(f64::NAN);
    let near = |x: f64, y: f64| (x - y).abs() <= 1e-6 * y.abs().max(1.0);
    match assess(&candidate, &sheets, &Assumptions::default()) {
        Ok(a)
            if near(told("/view/assessment/value/limit"), a.value.limit)
                && near(told("/view/assessment/bill/mean"), a.bill.mean) =>
        {
            "Its figures come out the same when they are computed again.".to_owned()
        }
        Ok(a) => format!(
            "Computed again its limit price is {:.2} and its bill {:.2}, not as it says: do not trust its figures.",
            a.value.limit, a.bill.mean
        ),
        Err(e) => format!("Its figures cannot be computed again: {e}"),
    }
}
