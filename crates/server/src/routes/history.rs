//! Routes of the history report: asked for, read from a file, taken in.

use actix_web::{HttpResponse, post, web};
use serde::Serialize;
use ticksage_core::documents::history_report::HistoryReport;
use ticksage_core::evidence::history::{mismatch, plate};
use ticksage_core::evidence::vin::vin;
use ticksage_store::Store;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::body::Document;
use crate::history_service::{HistoryService, ask};
use crate::problem::Problem;
use crate::routes::papers::{PapersAnswer, take_in};
use crate::views::PartQuery;

/// A report that came back, beside what is stored.
#[derive(Debug, Serialize, ToSchema)]
pub struct HistoryAnswer {
    /// The report.
    pub report: HistoryReport,
    /// Why it cannot be taken in; none where it can.
    pub refused: Option<String>,
}

/// Asks the history service by VIN, or by plate where no VIN is known. Nothing is stored.
#[utoipa::path(tag = "papers", params(("id" = Uuid, Path)),
    responses((status = 200, body = HistoryAnswer), (status = 404, body = Problem), (status = 422, body = Problem), (status = 502, body = Problem)))]
#[post("/candidates/{id}/history")]
pub async fn ask_history(
    store: web::Data<Store>,
    service: web::Data<HistoryService>,
    id: web::Path<Uuid>,
) -> Result<web::Json<HistoryAnswer>, Problem> {
    let candidate = store.candidate(*id).await?.candidate;
    let (number, registration) = (vin(&candidate.vin).vin, plate(&candidate.plate));
    let query = if number.is_empty() {
        if registration.is_empty() {
            return Err(Problem::fault(
                "/vin",
                "enter the VIN or the plate first: the service is asked by one of them",
            ));
        }
        ("plate", registration)
    } else {
        ("vin", number)
    };
    let report = ask(&service, &[query]).await?;
    let refused = mismatch(&report, &candidate);
    Ok(web::Json(HistoryAnswer { report, refused }))
}

/// Reads a report from a file. Nothing is stored.
#[utoipa::path(tag = "papers", params(("id" = Uuid, Path)), request_body = HistoryReport,
    responses((status = 200, body = HistoryAnswer), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/{id}/history/file")]
pub async fn read_history(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    Document(report): Document<HistoryReport>,
) -> Result<web::Json<HistoryAnswer>, Problem> {
    let refused = mismatch(&report, &store.candidate(*id).await?.candidate);
    Ok(web::Json(HistoryAnswer { report, refused }))
}

/// Takes a report in: its items, readings and advisories become papers; those that are there already are
/// passed over.
#[utoipa::path(tag = "papers", params(PartQuery, ("id" = Uuid, Path)), request_body = HistoryReport,
    responses((status = 201, body = PapersAnswer), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/{id}/history/papers")]
pub async fn take_history(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    id: web::Path<Uuid>,
    Document(report): Document<HistoryReport>,
) -> Result<HttpResponse, Problem> {
    let candidate = store.candidate(*id).await?.candidate;
    if let Some(why) = mismatch(&report, &candidate) {
        return Err(Problem::fault("/vin", &why));
    }
    // What lies outside this one's time is another's, or a slip: it is not taken in by halves.
    let answer = take_in(&store, *id, report.papers(), part.part).await?;
    Ok(HttpResponse::Created().json(answer))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(ask_history).service(read_history).service(take_history);
}
