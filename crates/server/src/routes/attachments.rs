//! Routes of the files behind papers and checks.

use actix_web::http::header::{CacheControl, CacheDirective, ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, web};
use serde::Deserialize;
use ticksage_store::Store;
use ticksage_store::papers::{Attachment, Behind};
use utoipa::IntoParams;
use uuid::Uuid;

use crate::archive_file::ARCHIVE_LIMIT;
use crate::aside::apart;
use crate::body::{BodyLimit, Document, Taken};
use crate::cleaner::Cleaner;
use crate::problem::Problem;
use crate::routes::archive::import_archive;
use crate::routes::candidates::Undo;
use crate::sanitize::{ATTACHMENT_LIMIT, ATTACHMENTS};
use crate::views::{CandidateView, PartQuery, changed};

/// What a file is called.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct FileQuery {
    /// An id of the sender's choosing; the same id twice is stored once.
    pub id: Uuid,
    /// The file's name.
    pub name: String,
}

/// Stores a picture (JPEG, PNG, WebP) or a PDF behind a paper.
#[utoipa::path(post, path = "/candidates/{id}/papers/{paper}/attachments", tag = "papers",
    params(PartQuery, ("id" = Uuid, Path), ("paper" = Uuid, Path), FileQuery),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = CandidateView), (status = 404, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
pub async fn attach(
    (store, cleaner): (web::Data<Store>, web::Data<Cleaner>),
    part: web::Query<PartQuery>,
    path: web::Path<(Uuid, Uuid)>,
    query: web::Query<FileQuery>,
    body: Result<Taken, Problem>,
) -> Result<HttpResponse, Problem> {
    let (id, paper) = path.into_inner();
    let FileQuery { id: file, name } = query.into_inner();
    let bytes = body?;
    if store.candidate(id).await?.attachments.len() >= ATTACHMENTS {
        return Err(Problem::fault("", &format!("a candidate holds at most {ATTACHMENTS} files")));
    }
    let cleaned = apart(move || cleaner.clean(&name, bytes.bytes()).map_err(|e| Problem::fault("", &e))).await?;
    store.attach(id, Behind::Paper(paper), file, &cleaned).await?;
    Ok(HttpResponse::Created().json(changed(&store, id, part.part).await?))
}

/// Stores a picture (JPEG, PNG, WebP) behind a check.
#[utoipa::path(post, path = "/candidates/{id}/checks/{family}/{check}/photos", tag = "findings",
    params(PartQuery, ("id" = Uuid, Path), ("family" = String, Path), ("check" = String, Path), FileQuery),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = CandidateView), (status = 404, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
pub async fn add_photo(
    (store, cleaner): (web::Data<Store>, web::Data<Cleaner>),
    part: web::Query<PartQuery>,
    path: web::Path<(Uuid, String, String)>,
    query: web::Query<FileQuery>,
    body: Result<Taken, Problem>,
) -> Result<HttpResponse, Problem> {
    let (id, family, check) = path.into_inner();
    let FileQuery { id: file, name } = query.into_inner();
    let bytes = body?;
    let (record, families) = store.with_families(id).await?;
    if families.iter().find(|f| f.id == family).and_then(|f| f.check(&check)).is_none() {
        return Err(Problem::not_found("check"));
    }
    if record.attachments.len() >= ATTACHMENTS {
        return Err(Problem::fault("", &format!("a candidate holds at most {ATTACHMENTS} files")));
    }
    let cleaned = apart(move || cleaner.clean(&name, bytes.bytes()).map_err(|e| Problem::fault("", &e))).await?;
    if cleaned.media != "image/jpeg" {
        return Err(Problem::fault("", "a check takes pictures; a PDF belongs to a paper"));
    }
    store.attach(id, Behind::Check { family: &family, check: &check }, file, &cleaned).await?;
    Ok(HttpResponse::Created().json(changed(&store, id, part.part).await?))
}

/// A file behind a paper or a check.
#[utoipa::path(get, path = "/candidates/{id}/attachments/{file}", tag = "papers", params(("id" = Uuid, Path), ("file" = Uuid, Path)),
    responses((status = 200, content_type = "image/jpeg"), (status = 404, body = Problem)))]
pub async fn get_attachment(store: web::Data<Store>, path: web::Path<(Uuid, Uuid)>) -> Result<HttpResponse, Problem> {
    let (id, file) = path.into_inner();
    let Attachment { name, media, bytes } = store.attachment(id, file).await?;
    let disposition = if media == "application/pdf" { DispositionType::Attachment } else { DispositionType::Inline };
    Ok(HttpResponse::Ok()
        .content_type(media)
        .insert_header(ContentDisposition { disposition, parameters: vec![DispositionParam::Filename(name)] })
        .insert_header(CacheControl(vec![CacheDirective::Private, CacheDirective::MaxAge(86_400)]))
        .insert_header(("Content-Security-Policy", "default-src 'none'; sandbox"))
        .body(bytes))
}

/// Takes a file back, or puts it in its place again.
#[utoipa::path(put, path = "/candidates/{id}/attachments/{file}/undone", tag = "papers", params(PartQuery, ("id" = Uuid, Path), ("file" = Uuid, Path)), request_body = Undo,
    responses((status = 200, body = CandidateView), (status = 404, body = Problem)))]
pub async fn undo_attachment(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    path: web::Path<(Uuid, Uuid)>,
    Document(body): Document<Undo>,
) -> Result<web::Json<CandidateView>, Problem> {
    let (id, file) = path.into_inner();
    store.undo_attachment(id, file, body.undone).await?;
    Ok(web::Json(changed(&store, id, part.part).await?))
}

/// The routes; what is sent to the first three may be larger than other bodies.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(
            web::resource("/candidates/import/archive")
                .app_data(BodyLimit(ARCHIVE_LIMIT))
                .route(web::post().to(import_archive)),
        )
        .service(
            web::resource("/candidates/{id}/papers/{paper}/attachments")
                .app_data(BodyLimit(ATTACHMENT_LIMIT))
                .route(web::post().to(attach)),
        )
        .service(
            web::resource("/candidates/{id}/checks/{family}/{check}/photos")
                .app_data(BodyLimit(ATTACHMENT_LIMIT))
                .route(web::post().to(add_photo)),
        )
        .service(web::resource("/candidates/{id}/attachments/{file}").route(web::get().to(get_attachment)))
        .service(web::resource("/candidates/{id}/attachments/{file}/undone").route(web::put().to(undo_attachment)));
}
