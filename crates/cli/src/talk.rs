//! Talk on the command line: a page read, told back, and written into a sheet.

use std::io::Write;
use std::path::PathBuf;

use ticksage_core::base::units::UsageClock;
use ticksage_core::formats::documents::read_family;
use ticksage_core::formats::talk_tables::vocabulary;
use ticksage_core::talk::apply::{TalkFrom, TalkMode};
use ticksage_core::talk::page::{AcceptedLine, read_page, write_lines};
use ticksage_core::talk::said::Voice;
use ticksage_core::validation::family::family_faults;
use ticksage_core::{Assumptions, Family};

use crate::failure::Failure;
use crate::files::{read, refused};

/// What is read, and into which sheet it goes.
#[derive(Debug, clap::Args)]
pub struct Asked {
    /// The lines; `-` reads standard input.
    file: PathBuf,
    /// The sheet that they are about.
    #[arg(long)]
    sheet: Option<PathBuf>,
    /// Where the sheet with the lines goes.
    #[arg(long, requires = "sheet")]
    out: Option<PathBuf>,
    /// Title of the page or recording that they come from.
    #[arg(long)]
    title: Option<String>,
    /// Figures without a unit are miles.
    #[arg(long)]
    miles: bool,
}

/// Reads a page and prints what it understood; with a sheet and a file to write, writes the sheet with it.
pub fn talk(asked: &Asked) -> Result<(), Failure> {
    let (file, out, miles) = (asked.file.as_path(), asked.out.as_deref(), asked.miles);
    let text = read(file)?;
    let family: Option<Family> = match asked.sheet.as_deref() {
        Some(path) => Some(read_family(&read(path)?).map_err(refused(path))?),
        None => None,
    };
    let voice = Voice { hours: family.as_ref().is_some_and(|f| f.clock == UsageClock::Hours), miles };
    let words = vocabulary(family.as_ref());
    let page = read_page(&text, voice, &words);
    let mut told = std::io::stdout().lock();
    for line in &page.lines {
        let place = line.place.as_ref().map(|p| format!("[{p}] ")).unwrap_or_default();
        let _ = writeln!(told, "{place}{}", line.text);
        let kept = if line.said.is_some() || line.question.is_some() { "" } else { "  kept as a note\n" };
        let _ = write!(told, "{kept}");
        for c in &line.chips {
            let kind = serde_json::to_value(c.kind)?;
            let _ = writeln!(told, "  {}: {}", kind.as_str().unwrap_or_default().replace('_', " "), c.says);
        }
        if let Some(q) = line.question {
            let asks = serde_json::to_value(q)?;
            let _ = writeln!(told, "  asks: {}", asks.as_str().unwrap_or_default().replace('_', " "));
        }
    }
    let _ = writeln!(told, "{} placed, {} ask, {} kept as notes", page.placed, page.asked, page.notes);
    let (Some(mut family), Some(out)) = (family, out) else { return Ok(()) };
    let lines: Vec<AcceptedLine> = page
        .lines
        .iter()
        .filter(|l| l.said.is_some())
        .map(|l| AcceptedLine { text: l.text.clone(), place: l.place.clone(), mode: TalkMode::Add })
        .collect();
    let from = TalkFrom { title: asked.title.clone(), link: None };
    let written = write_lines(&mut family, &lines, &from, voice, &words, &Assumptions::default());
    if written.changed > 0 {
        family.version += 1;
    }
    let faults = family_faults(&family);
    if !faults.is_empty() {
        return Err(Failure::Faults { file: file.display().to_string(), faults });
    }
    let text = serde_json::to_string_pretty(&family)? + "\n";
    std::fs::write(out, text).map_err(|e| Failure::File(out.display().to_string(), e))?;
    let _ = writeln!(
        told,
        "{} lines changed the sheet, {} it held already; version {} is in {}",
        written.changed,
        written.known,
        family.version,
        out.display()
    );
    Ok(())
}
