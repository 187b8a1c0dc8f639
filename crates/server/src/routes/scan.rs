//! Routes of scans: reading with an adapter, from a table, and trouble codes by their structure.

use actix_web::http::header::{ContentDisposition, ContentEncoding, DispositionParam, DispositionType};
use actix_web::web::{self, Bytes};
use actix_web::{HttpResponse, get, post};
use futures_util::stream;
use serde::Deserialize;
use ticksage_core::base::trouble_code::{Code, CodeParts};
use ticksage_core::documents::scan::Scan;
use ticksage_core::formats::scan_table;
use ticksage_core::formats::table_reader::LineFault;
use ticksage_store::Store;
use tokio::sync::mpsc;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::aside::aside;
use crate::body::{Body, Document};
use crate::problem::Problem;
use crate::scan_session::{Adapter, Adapters, PATIENCE, ScanAnswer, ScanStep, read_all};

/// Which adapter to read with.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ScanWith {
    /// Its name.
    pub adapter: String,
}

/// The adapters that may be connected to.
#[utoipa::path(tag = "scan", responses((status = 200, body = Vec<Adapter>)))]
#[get("/adapters")]
pub async fn list_adapters(adapters: web::Data<Adapters>) -> web::Json<Vec<Adapter>> {
    web::Json(adapters.list.clone())
}

/// Codes to be taken apart.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct CodesQuery {
    /// Codes, apart by commas; at most 600.
    pub codes: String,
}

/// Takes codes apart by the published scheme: their system, who defined them, the area, the cylinder.
#[utoipa::path(tag = "scan", params(CodesQuery), responses((status = 200, body = Vec<CodeParts>), (status = 422, body = Problem)))]
#[get("/codes")]
pub async fn decode_codes(query: web::Query<CodesQuery>) -> Result<web::Json<Vec<CodeParts>>, Problem> {
    let list = query.codes.split(',').filter(|c| !c.is_empty()).take(600);
    let parts = list.map(|c| c.parse::<Code>().map(Code::parts).map_err(|e| Problem::fault("/codes", &e.to_string())));
    Ok(web::Json(parts.collect::<Result<_, _>>()?))
}

/// Scans with an adapter. The answer is a line of JSON for each step ([`ScanStep`]), the last one with what
/// it came to. Nothing is stored.
#[utoipa::path(tag = "scan", params(("id" = Uuid, Path)), request_body = ScanWith,
    responses((status = 200, body = ScanStep, content_type = "application/x-ndjson"), (status = 404, body = Problem)))]
#[post("/candidates/{id}/scan")]
pub async fn run_scan(
    store: web::Data<Store>,
    adapters: web::Data<Adapters>,
    id: web::Path<Uuid>,
    Document(body): Document<ScanWith>,
) -> Result<HttpResponse, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let adapter =
        adapters.list.iter().find(|a| a.name == body.adapter).cloned().ok_or_else(|| Problem::not_found("adapter"))?;
    let patience = adapters.patience.unwrap_or(PATIENCE);
    let (tell, told) = mpsc::channel(4);
    actix_web::rt::spawn(async move {
        let (scan, failed) = read_all(&adapter, patience, record.candidate.as_of, &tell).await;
        let answer = Box::new(ScanAnswer::new(scan, &record.candidate, &families, failed));
        // A listener who has gone away misses it.
        let _ = tell.send(ScanStep::Done { answer }).await;
    });
    let lines = stream::unfold(told, |mut told| async move {
        let step = told.recv().await?;
        let line = serde_json::to_string(&step).map(|l| Bytes::from(l + "\n")).map_err(std::io::Error::other);
        Some((line, told))
    });
    Ok(HttpResponse::Ok()
        .content_type("application/x-ndjson")
        .insert_header(ContentEncoding::Identity)
        .streaming(Box::pin(lines)))
}

/// Reads a scan from a table (CSV). Nothing is stored.
#[utoipa::path(tag = "scan", params(("id" = Uuid, Path)), request_body(content = String, content_type = "text/csv"),
    responses((status = 200, body = ScanAnswer), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/{id}/scan/file")]
pub async fn read_scan(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    body: Body,
) -> Result<web::Json<ScanAnswer>, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let (taken, day) = (body?, record.candidate.as_of);
    let scan = aside(move || scan_table::read(taken.text()?, day, "a file").map_err(refused)).await?;
    Ok(web::Json(ScanAnswer::new(scan, &record.candidate, &families, None)))
}

/// Faults of a table, line by line.
fn refused(faults: Vec<LineFault>) -> Problem {
    let fault = |LineFault { line, column, message }| ticksage_core::base::fault::Fault {
        path: if column.is_empty() { format!("line {line}") } else { format!("line {line}, {column}") },
        message,
    };
    Problem::faulty(faults.into_iter().map(fault).collect())
}

/// Writes a scan as a table (CSV).
#[utoipa::path(tag = "scan", request_body = Scan, responses((status = 200, body = String, content_type = "text/csv"), (status = 422, body = Problem)))]
#[post("/scan/table")]
pub async fn write_scan(Document(body): Document<Scan>) -> HttpResponse {
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(format!("scan-{}.csv", body.date))],
    };
    HttpResponse::Ok().content_type("text/csv; charset=utf-8").insert_header(disposition).body(scan_table::write(&body))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(list_adapters).service(run_scan).service(read_scan).service(write_scan).service(decode_codes);
}
