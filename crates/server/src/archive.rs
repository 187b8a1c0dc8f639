//! A candidate with its sheets and its files in one archive (ZIP), out and in again.
//!
//! `candidate.json` is the bundle in the open format, `files.json` says what each file stands behind, and the
//! files lie under `files/`.

use std::io::{Cursor, Read, Write};

use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, web};
use serde::{Deserialize, Serialize};
use ticksage_core::Bundle;
use ticksage_core::documents::candidate::BundleFormat;
use ticksage_core::formats::documents;

use ticksage_store::Store;
use ticksage_store::candidates::{BundledBehind, BundledFile};
use ticksage_store::papers::Attachment;
use uuid::Uuid;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

use crate::attachments::{ATTACHMENT_LIMIT, ATTACHMENTS, clean};
use crate::candidates::{CandidateView, compute, view};
use crate::problem::Problem;
use crate::{BODY_LIMIT, Taken};

/// Largest archive taken, bytes.
pub const ARCHIVE_LIMIT: usize = 300_000_000;

/// What one file stands behind.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct FileEntry {
    /// Its path in the archive.
    path: String,
    /// Its name as it was sent.
    name: String,
    /// The paper's place among the candidate's papers, list by list: ledger, readings, provenance, advisories,
    /// campaigns, scans.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    paper: Option<usize>,
    /// The check's family.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    family: Option<String>,
    /// The check.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    check: Option<String>,
}

fn pack(bundle: &Bundle, files: &[(FileEntry, Vec<u8>)]) -> Result<Vec<u8>, String> {
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

fn unpack(bytes: &[u8]) -> Result<(String, Vec<BundledFile>), String> {
    let mut zip = ZipArchive::new(Cursor::new(bytes)).map_err(|e| format!("this is no archive of a candidate: {e}"))?;
    let mut read = |name: &str, limit: usize| -> Result<Vec<u8>, String> {
        let file = zip.by_name(name).map_err(|_| format!("the archive has no \"{name}\""))?;
        let mut out = Vec::new();
        // What unpacks to more than it says is not read to its end.
        file.take(limit as u64 + 1).read_to_end(&mut out).map_err(|e| format!("\"{name}\" cannot be read: {e}"))?;
        if out.len() > limit { Err(format!("\"{name}\" is larger than {limit} bytes")) } else { Ok(out) }
    };
    let text = String::from_utf8(read("candidate.json", BODY_LIMIT)?)
        .map_err(|_| "\"candidate.json\" is not UTF-8".to_owned())?;
    let entries: Vec<FileEntry> = serde_json::from_slice(&read("files.json", BODY_LIMIT)?)
        .map_err(|e| format!("\"files.json\" is not understood: {e}"))?;
    if entries.len() > ATTACHMENTS {
        return Err(format!("a candidate holds at most {ATTACHMENTS} files, the archive names {}", entries.len()));
    }
    let mut files = Vec::with_capacity(entries.len());
    for e in entries {
        let behind = match (e.paper, e.family, e.check) {
            (Some(paper), None, None) => BundledBehind::Paper(paper),
            (None, Some(family), Some(check)) => BundledBehind::Check(family, check),
            _ => return Err(format!("\"{}\" stands behind nothing: name a paper, or family and check", e.path)),
        };
        let file: Attachment = clean(&e.name, &read(&e.path, ATTACHMENT_LIMIT)?)?;
        files.push(BundledFile { behind, file });
    }
    Ok((text, files))
}

/// The candidate with its sheets, photos and documents in one archive.
#[utoipa::path(tag = "candidates", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "application/zip"), (status = 404, body = Problem)))]
#[get("/candidates/{id}/archive.zip")]
pub async fn export_archive(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<HttpResponse, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let ids = &record.paper_ids;
    let papers: Vec<Uuid> = [&ids.ledger, &ids.readings, &ids.provenance, &ids.advisories, &ids.campaigns, &ids.scans]
        .into_iter()
        .flatten()
        .copied()
        .collect();
    let mut files = Vec::with_capacity(record.attachments.len());
    for (i, head) in record.attachments.iter().enumerate() {
        let Attachment { name, media, bytes } = store.attachment(*id, head.id).await?;
        let ending = if media == "application/pdf" { "pdf" } else { "jpg" };
        let paper = head.paper.and_then(|p| papers.iter().position(|x| *x == p));
        if head.paper.is_some() && paper.is_none() {
            // Its paper was taken back.
            continue;
        }
        let (family, check) = (head.family.clone(), head.check.clone());
        let path = format!("files/{:03}.{ending}", i + 1);
        files.push((FileEntry { path, name, paper, family, check }, bytes));
    }
    let bundle = Bundle { format: BundleFormat::V1, candidate: record.candidate, families };
    let packed = compute(move || pack(&bundle, &files)).await?.map_err(|e| Problem::internal(&e))?;
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(format!("ticksage-{id}.zip"))],
    };
    Ok(HttpResponse::Ok().content_type("application/zip").insert_header(disposition).body(packed))
}

/// Stores what an archive holds: sheets, candidate and files, all or nothing.
#[utoipa::path(post, path = "/candidates/import/archive", tag = "candidates",
    request_body(content = Vec<u8>, content_type = "application/zip"),
    responses((status = 201, body = CandidateView), (status = 409, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
pub async fn import_archive(store: web::Data<Store>, body: Result<Taken, Problem>) -> Result<HttpResponse, Problem> {
    let taken = body?;
    let (text, files) = compute(move || unpack(taken.bytes())).await?.map_err(|e| Problem::fault("", &e))?;
    let bundle = documents::read_bundle(&text).map_err(Problem::faulty)?;
    let papers = bundle.candidate.papers().count();
    for f in &files {
        let there = match &f.behind {
            BundledBehind::Paper(i) => *i < papers,
            BundledBehind::Check(family, check) => {
                bundle.families.iter().any(|x| &x.id == family && x.check(check).is_some())
            }
        };
        if !there {
            return Err(Problem::fault(
                "",
                &format!("\"{}\" stands behind a paper or check that is not there", f.file.name),
            ));
        }
    }
    let id = store.import_bundle(&bundle, &files).await?;
    Ok(HttpResponse::Created().json(view(&store, id).await?))
}
