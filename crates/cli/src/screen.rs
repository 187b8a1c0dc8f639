//! Adverts by the hundred on the command line: an advert a line in, a table out, the best first.

use std::io::Write;
use std::path::PathBuf;
use std::sync::atomic::{AtomicUsize, Ordering};

use ticksage_core::base::budget::Budget;
use ticksage_core::base::memory::Memory;
use ticksage_core::base::units::{Usage, UsageUnit};
use ticksage_core::documents::buyer::{Buyer, Plan};
use ticksage_core::documents::care_level::CareLevel;
use ticksage_core::formats::advert_table::as_lines;
use ticksage_core::formats::pattern_library::library;
use ticksage_core::formats::talk_tables::tables;
use ticksage_core::questions::ranking::Ranked;
use ticksage_core::questions::screening::{CELLS, Listed, Screening, apart, left_out};
use ticksage_core::{AssessError, Assumptions};

use crate::failure::Failure;
use crate::files::{read, read_families};

/// What a list is screened with.
#[derive(Debug, clap::Args)]
pub struct Asked {
    /// The list; `-` reads standard input.
    file: PathBuf,
    /// Family sheets; what no sheet names is judged by how the advert says it is built.
    #[arg(long = "family", num_args = 1..)]
    families: Vec<PathBuf>,
    /// Currency of every price.
    #[arg(long, default_value = "EUR")]
    currency: String,
    /// Years of keeping it.
    #[arg(long, default_value_t = 3.0)]
    years: f64,
    /// Kilometres a year.
    #[arg(long, default_value_t = 15_000.0)]
    usage_a_year: f64,
    /// What one unit of another currency comes to in this one, such as EUR=1.08.
    #[arg(long = "rate", value_parser = rate)]
    rates: Vec<(String, f64)>,
    /// Judge one part of the list beside the whole of it, such as 2/4: for several programs at once.
    #[arg(long, value_parser = part, default_value = "1/1")]
    part: (usize, usize),
    /// Only so many.
    #[arg(long)]
    top: Option<usize>,
}

/// "EUR=1.08".
fn rate(typed: &str) -> Result<(String, f64), String> {
    let wrong = || format!("\"{typed}\" is no rate: write EUR=1.08");
    let (code, figure) = typed.split_once('=').ok_or_else(wrong)?;
    let rate: f64 = figure.parse().map_err(|_| wrong())?;
    if code.len() != 3 || !(1e-6..=1e6).contains(&rate) {
        return Err(wrong());
    }
    Ok((code.to_uppercase(), rate))
}

/// "2/4": the second of four parts.
fn part(typed: &str) -> Result<(usize, usize), String> {
    let wrong = || format!("\"{typed}\" is no part: write 2/4 for the second of four");
    let (at, of) = typed.split_once('/').ok_or_else(wrong)?;
    let (at, of) = (at.parse().map_err(|_| wrong())?, of.parse().map_err(|_| wrong())?);
    if at == 0 || at > of { Err(wrong()) } else { Ok((at, of)) }
}

/// Reads a list, judges every advert on every core, and prints a table.
pub fn screen(asked: &Asked) -> Result<(), Failure> {
    let families = read_families(&asked.families)?;
    let screening = Screening {
        families: &families,
        library: library(),
        tables: tables(),
        currency: asked.currency.to_uppercase(),
        rates: asked.rates.iter().cloned().collect(),
        plan: Plan {
            years: asked.years,
            usage_a_year: Usage { value: asked.usage_a_year, unit: UsageUnit::Km },
            use_: std::collections::BTreeMap::new(),
            care: CareLevel::default(),
        },
        buyer: Buyer::default(),
        today: jiff::ZonedDateTime::now().date(),
    };
    let listed = screening.read(&as_lines(&read(&asked.file)?));
    let (at, of) = asked.part;
    let open: Vec<usize> = listed.to_judge().into_iter().skip(at - 1).step_by(of).collect();
    let (next, table, memory) = (AtomicUsize::new(0), Assumptions::default(), Memory::default());
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let judged: Vec<(usize, Result<Ranked, AssessError>)> = std::thread::scope(|scope| {
        let workers: Vec<_> = (0..cores)
            .map(|_| {
                scope.spawn(|| {
                    let mut out = Vec::new();
                    while let Some(at) = open.get(next.fetch_add(1, Ordering::Relaxed)) {
                        let budget = Budget::default().remembering(&memory).in_cells(CELLS);
                        out.push((*at, screening.judge(&listed, *at, &table, &budget)));
                    }
                    out
                })
            })
            .collect();
        workers.into_iter().flat_map(|w| w.join().unwrap_or_default()).collect()
    });
    let mut ranked: Vec<Ranked> = Vec::new();
    let mut told = std::io::stderr().lock();
    for (line, result) in judged {
        match result {
            Ok(r) => ranked.push(r),
            Err(e) => {
                let _ = writeln!(told, "line {}: {e}", listed[line].line);
            }
        }
    }
    ranked.sort_by(|x, y| y.surplus.total_cmp(&x.surplus).then(x.line.cmp(&y.line)));
    ranked.truncate(asked.top.unwrap_or(usize::MAX));
    // Of several programs the first tells what none of them judges.
    if at == 1 {
        tell_left_out(&listed, &mut told);
    }
    table_of(&ranked)
}

/// Says what is not judged, and why.
fn tell_left_out(listed: &[Listed], told: &mut impl Write) {
    for (what, lines) in left_out(listed) {
        let first: Vec<String> = lines.iter().take(12).map(ToString::to_string).collect();
        let _ = writeln!(told, "not judged, {what} missing: {} (lines {})", lines.len(), first.join(", "));
    }
    let broken = apart(listed);
    if !broken.is_empty() {
        let first: Vec<String> =
            broken.iter().take(12).map(|(l, said)| format!("{l} \u{201c}{said}\u{201d}")).collect();
        let _ = writeln!(
            told,
            "set apart, sold as broken or without a test passed: {} (lines {})",
            broken.len(),
            first.join(", ")
        );
    }
    let again: Vec<(usize, usize)> = listed.iter().filter_map(|l| Some((l.line, l.same_as?))).collect();
    if !again.is_empty() {
        let first: Vec<String> = again.iter().take(12).map(|(l, other)| format!("{l} is {other}")).collect();
        let more = if again.len() > first.len() { ", …" } else { "" };
        let _ = writeln!(told, "the same again: {} (line {}{more})", again.len(), first.join(", "));
    }
}

fn table_of(ranked: &[Ranked]) -> Result<(), Failure> {
    let failed = |e: std::io::Error| Failure::File("standard output".to_owned(), e);
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    // Figures first: a table in parts is put together by any sorting program.
    let head = "line,surplus,worth,asking,was,usage,unit,built,going,bill_a_year,p90,blow,title,sheets,note,says,ask";
    writeln!(out, "{head}").map_err(failed)?;
    for r in ranked {
        let unit = serde_json::to_value(r.usage.unit)?;
        let was = r.was.map_or_else(String::new, |w| format!("{w:.0}"));
        let cells = [
            r.line.to_string(),
            format!("{:.0}", r.surplus),
            format!("{:.0}", r.worth),
            format!("{:.0}", r.asking),
            was,
            format!("{:.0}", r.usage.value),
            unit.as_str().unwrap_or_default().to_owned(),
            r.built.to_string(),
            format!("{:.0}", r.going),
            format!("{:.0}", r.bill_a_year),
            format!("{:.0}", r.p90),
            format!("{:.3}", r.blow),
            text(&r.title),
            text(&r.sheets.join(" + ")),
            text(&r.note),
            text(&r.says.join("; ")),
            text(&r.ask.join("; ")),
        ];
        writeln!(out, "{}", cells.join(",")).map_err(failed)?;
    }
    out.flush().map_err(failed)
}

/// A cell of text: quoted, and never taken for a formula.
fn text(cell: &str) -> String {
    let safe = if cell.starts_with(['=', '+', '-', '@']) { format!("'{cell}") } else { cell.to_owned() };
    format!("\"{}\"", safe.replace('"', "\"\""))
}
