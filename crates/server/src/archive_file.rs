//! A candidate with its sheets and its files in one archive (ZIP), out and in again.
//!
//! `candidate.json` is the bundle in the open format, `files.json` says what each file stands behind, and the
//! files lie under `files/`.

use std::collections::HashSet;
use std::io::{Cursor, Read, Write};

use serde::{Deserialize, Serialize};
use ticksage_core::Bundle;
use ticksage_store::candidates::{BundledBehind, BundledFile};
use ticksage_store::papers::Attachment;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

use crate::body::BODY_LIMIT;
use crate::cleaner::Cleaner;
use crate::sanitize::{ATTACHMENT_LIMIT, ATTACHMENTS};

/// Largest archive taken, bytes.
pub const ARCHIVE_LIMIT: usize = 300_000_000;

/// What one file stands behind.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct FileEntry {
    /// Its path in the archive.
    pub path: String,
    /// Its name as it was sent.
    pub name: String,
    /// The paper's place among the candidate's papers, list by list: ledger, readings, provenance, advisories,
    /// campaigns, scans.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub paper: Option<usize>,
    /// The check's family.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub family: Option<String>,
    /// The check.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub check: Option<String>,
}

pub(crate) fn pack(bundle: &Bundle, files: &[(FileEntry, Vec<u8>)]) -> Result<Vec<u8>, String> {
    let failed = |e: &dyn std::fmt::Display| format!("the archive cannot be written: {e}");
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    let packed = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    // Pictures are packed already.
    let stored = SimpleFileOptions::default().compression_method(CompressionMethod::Stored);
    let entries: Vec<&FileEntry> = files.iter().map(|f| &f.0).collect();
    let texts =
        [("candidate.json", serde_json::to_vec_pretty(bundle)), ("files.json", serde_json::to_vec_pretty(&entries))];
    for (name, text) in texts {
        zip.start_file(name, packed).map_err(|e| failed(&e))?;
        zip.write_all(&text.map_err(|e| failed(&e))?).map_err(|e| failed(&e))?;
    }
    for (entry, bytes) in files {
        zip.start_file(&entry.path, stored).map_err(|e| failed(&e))?;
        zip.write_all(bytes).map_err(|e| failed(&e))?;
    }
    Ok(zip.finish().map_err(|e| failed(&e))?.into_inner())
}

/// One file of an archive, at most `limit` bytes of it.
fn read(zip: &mut ZipArchive<Cursor<&[u8]>>, name: &str, limit: usize) -> Result<Vec<u8>, String> {
    let file = zip.by_name(name).map_err(|_| format!("the archive has no \"{name}\""))?;
    let mut out = Vec::new();
    // What unpacks to more than it says is not read to its end.
    file.take(limit as u64 + 1).read_to_end(&mut out).map_err(|e| format!("\"{name}\" cannot be read: {e}"))?;
    if out.len() > limit { Err(format!("\"{name}\" is larger than {limit} bytes")) } else { Ok(out) }
}

fn open(bytes: &[u8]) -> Result<ZipArchive<Cursor<&[u8]>>, String> {
    ZipArchive::new(Cursor::new(bytes)).map_err(|e| format!("this is no archive of a candidate: {e}"))
}

/// The bundle of an archive, as text: it is judged before any file is looked at.
pub(crate) fn unpack_bundle(bytes: &[u8]) -> Result<String, String> {
    String::from_utf8(read(&mut open(bytes)?, "candidate.json", BODY_LIMIT)?)
        .map_err(|_| "\"candidate.json\" is not UTF-8".to_owned())
}

/// The files of an archive, cleaned; each path once.
pub(crate) fn unpack_files(bytes: &[u8], cleaner: &Cleaner) -> Result<Vec<BundledFile>, String> {
    let mut zip = open(bytes)?;
    let entries: Vec<FileEntry> = serde_json::from_slice(&read(&mut zip, "files.json", BODY_LIMIT)?)
        .map_err(|e| format!("\"files.json\" is not understood: {e}"))?;
    if entries.len() > ATTACHMENTS {
        return Err(format!("a candidate holds at most {ATTACHMENTS} files, the archive names {}", entries.len()));
    }
    let mut seen = HashSet::new();
    if let Some(twice) = entries.iter().find(|e| !seen.insert(e.path.as_str())) {
        return Err(format!("the archive names \"{}\" twice", twice.path));
    }
    let mut files = Vec::with_capacity(entries.len());
    for e in &entries {
        let behind = match (e.paper, &e.family, &e.check) {
            (Some(paper), None, None) => BundledBehind::Paper(paper),
            (None, Some(family), Some(check)) => BundledBehind::Check(family.clone(), check.clone()),
            _ => return Err(format!("\"{}\" stands behind nothing: name a paper, or family and check", e.path)),
        };
        let file: Attachment = cleaner.clean(&e.name, &read(&mut zip, &e.path, ATTACHMENT_LIMIT)?)?;
        files.push(BundledFile { behind, file });
    }
    Ok(files)
}
