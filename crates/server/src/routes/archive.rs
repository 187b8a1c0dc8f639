//! Routes of a candidate's archive: the candidate with its sheets and files, out and in again.

use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, web};
use ticksage_core::Bundle;
use ticksage_core::documents::candidate::BundleFormat;
use ticksage_core::formats::documents;
use ticksage_store::Store;
use ticksage_store::candidates::BundledBehind;
use ticksage_store::papers::Attachment;
use uuid::Uuid;

use crate::archive_file::{FileEntry, pack, unpack_bundle, unpack_files};
use crate::aside::apart;
use crate::body::Taken;
use crate::cleaner::Cleaner;
use crate::problem::Problem;
use crate::routes::candidates::ready;
use crate::views::{CandidateView, PartQuery, changed};

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
    let bundle = Bundle { format: BundleFormat::V2, candidate: record.candidate, families: families.to_vec() };
    let packed = apart(move || pack(&bundle, &files).map_err(|e| Problem::internal(&e))).await?;
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
pub async fn import_archive(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    cleaner: web::Data<Cleaner>,
    body: Result<Taken, Problem>,
) -> Result<HttpResponse, Problem> {
    let taken = body?;
    // The documents first: files are looked at only where those make sense.
    let (bundle, files) = apart(move || {
        let text = unpack_bundle(taken.bytes()).map_err(|e| Problem::fault("", &e))?;
        let bundle = documents::read_bundle(&text).map_err(Problem::faulty)?;
        let files = unpack_files(taken.bytes(), &cleaner).map_err(|e| Problem::fault("", &e))?;
        Ok::<_, Problem>((bundle, files))
    })
    .await?;
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
    let bundle = ready(bundle)?;
    let id = store.import_bundle(&bundle, &files).await?;
    Ok(HttpResponse::Created().json(changed(&store, id, part.part).await?))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(export_archive);
}
