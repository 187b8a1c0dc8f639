//! Reading the files that are named on the command line.

use std::io::Read;
use std::path::{Path, PathBuf};

use ticksage_core::Family;
use ticksage_core::base::fault::Fault;
use ticksage_core::formats::documents;

use crate::failure::Failure;

pub fn read(file: &Path) -> Result<String, Failure> {
    let named = |e| Failure::File(file.display().to_string(), e);
    if file == Path::new("-") {
        let mut text = String::new();
        std::io::stdin().read_to_string(&mut text).map_err(named)?;
        Ok(text)
    } else {
        std::fs::read_to_string(file).map_err(named)
    }
}

pub fn refused(file: &Path) -> impl FnOnce(Vec<Fault>) -> Failure {
    let file = file.display().to_string();
    move |faults| Failure::Faults { file, faults }
}

/// The sheets of the files, and the base sheets that ship with the application.
pub fn read_families(files: &[PathBuf]) -> Result<Vec<Family>, Failure> {
    let mut out =
        files.iter().map(|f| documents::read_family(&read(f)?).map_err(refused(f))).collect::<Result<Vec<_>, _>>()?;
    for sheet in base_sheets()? {
        if !out.iter().any(|f| f.id == sheet.id && f.version == sheet.version) {
            out.push(sheet);
        }
    }
    Ok(out)
}

pub fn base_sheets() -> Result<Vec<Family>, Failure> {
    ticksage_core::formats::base_sheets::sheets()
        .map_err(|faults| Failure::Faults { file: "a base sheet".to_owned(), faults })
}
