//! Reports that stand up: issued, numbered, frozen, with a fingerprint.

use actix_web::{HttpResponse, get, post, web};
use serde::{Deserialize, Serialize};
use serde_json::json;
use ticksage_core::Family;
use ticksage_core::assess::judge::COMPUTATION;
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::money::bill_spread::BillSpread;
use ticksage_store::Store;
use ticksage_store::reports::ReportHead;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::body::Document;
use crate::judging::{compute, table};
use crate::problem::Problem;
use crate::report_file::{FORMAT, fingerprint_of, seal};
use crate::views::{CandidateView, Part, view};

/// A report to be issued.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewReport {
    /// Where it was inspected.
    #[schema(min_length = 1, max_length = 200)]
    pub place: String,
    /// Who inspected it.
    #[schema(min_length = 1, max_length = 200)]
    pub inspector: String,
    /// Why a new one is issued, where one stands already.
    #[serde(default)]
    #[schema(max_length = 1000)]
    pub why: String,
}

/// An issued report in a list.
#[derive(Debug, Serialize, ToSchema)]
pub struct IssuedHead {
    /// Its id.
    pub id: Uuid,
    /// Its number, counted by candidate from 1.
    pub number: i32,
    /// The fingerprint of its document.
    pub fingerprint: String,
    /// When it was issued, UTC.
    pub issued_at: String,
}

impl From<ReportHead> for IssuedHead {
    fn from(ReportHead { id, number, fingerprint, issued_at }: ReportHead) -> Self {
        Self { id, number, fingerprint, issued_at }
    }
}

/// A report as it was issued.
#[derive(Debug, Serialize, ToSchema)]
pub struct IssuedReport {
    /// The format mark.
    pub format: String,
    /// Its number.
    pub number: i32,
    /// When it was issued, UTC.
    pub issued_at: String,
    /// Where it was inspected.
    pub place: String,
    /// Who inspected it.
    pub inspector: String,
    /// Why it was issued anew; empty for the first.
    pub why: String,
    /// The report that it replaces.
    pub replaces: Option<Replaced>,
    /// The program that computed it.
    pub program: String,
    /// The candidate with its judgement, as it stood.
    pub view: CandidateView,
    /// Its bill as it may turn out.
    pub bill: BillSpread,
    /// The sheets that it was judged by.
    pub sheets: Vec<Family>,
    /// Photos of checks, each with the fingerprint of its file.
    pub photos: Vec<ReportPhoto>,
    /// Checks that were not done, by name.
    pub not_checked: Vec<String>,
    /// The fingerprint of all the rest.
    pub fingerprint: String,
}

/// A report that was replaced.
#[derive(Debug, Serialize, ToSchema)]
pub struct Replaced {
    /// Its number.
    pub number: i32,
    /// Its fingerprint.
    pub fingerprint: String,
}

/// A photo in a report.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReportPhoto {
    /// Its id.
    pub id: Uuid,
    /// The SHA-256 of its file.
    pub sha256: String,
}

/// Issues the report of a candidate as it stands.
#[utoipa::path(tag = "reports", params(("id" = Uuid, Path)), request_body = NewReport,
    responses((status = 201, body = IssuedHead), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/{id}/reports")]
pub async fn issue_report(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    Document(asked): Document<NewReport>,
) -> Result<HttpResponse, Problem> {
    for (path, text) in [("/place", &asked.place), ("/inspector", &asked.inspector)] {
        if text.trim().is_empty() {
            return Err(Problem::fault(path, "say it: a report without it does not stand up"));
        }
    }
    let whole = for_customer(view(&store, *id, Part::Whole).await?);
    let (record, sheets) = store.with_families(*id).await?;
    let judged = (record.candidate, sheets.clone());
    let bill = compute(move |budget| spread(&judged.0, &judged.1, None, &table(), budget)).await?;
    // What is issued keeps every digit.
    let mut shown = serde_json::to_value(&whole).map_err(|e| Problem::internal(&e.to_string()))?;
    shown["assessment"] =
        serde_json::to_value(whole.assessment.whole()).map_err(|e| Problem::internal(&e.to_string()))?;
    let mut photos = Vec::new();
    for x in whole.attachments.iter().filter(|x| x.check.is_some()) {
        let sha256 = fingerprint_of(&store.attachment(*id, x.id).await?.bytes);
        photos.push(ReportPhoto { id: x.id, sha256 });
    }
    let not_checked: Vec<String> =
        whole.checks.iter().flatten().filter(|k| k.outcome.is_none()).map(|k| k.check.name.clone()).collect();
    let issued_at =
        jiff::Timestamp::now().round(jiff::Unit::Second).map_err(|_| Problem::internal("the clock"))?.to_string();
    let head = store
        .issue_report(*id, |number, last| {
            seal(json!({
                "format": FORMAT, "number": number, "issued_at": issued_at, "place": asked.place.trim(),
                "inspector": asked.inspector.trim(), "why": asked.why.trim(), "program": COMPUTATION,
                "replaces": last.map(|r| Replaced { number: r.number, fingerprint: r.fingerprint }),
                "view": shown, "bill": bill, "sheets": *sheets, "photos": photos, "not_checked": not_checked,
            }))
        })
        .await?;
    Ok(HttpResponse::Created().json(IssuedHead::from(head)))
}

/// The issued reports of a candidate, the latest first.
#[utoipa::path(tag = "reports", params(("id" = Uuid, Path)), responses((status = 200, body = Vec<IssuedHead>)))]
#[get("/candidates/{id}/reports")]
pub async fn list_reports(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<web::Json<Vec<IssuedHead>>, Problem> {
    Ok(web::Json(store.reports(*id).await?.into_iter().map(IssuedHead::from).collect()))
}

/// An issued report, as its fingerprint has it.
#[utoipa::path(tag = "reports", params(("id" = Uuid, Path), ("report" = Uuid, Path)),
    responses((status = 200, body = IssuedReport), (status = 404, body = Problem)))]
#[get("/candidates/{id}/reports/{report}")]
pub async fn get_report(store: web::Data<Store>, path: web::Path<(Uuid, Uuid)>) -> Result<HttpResponse, Problem> {
    let (id, report) = path.into_inner();
    let text = store.report(id, report).await?;
    Ok(HttpResponse::Ok().content_type("application/json").body(text))
}

/// The candidate without what belongs to the yard alone.
fn for_customer(mut view: CandidateView) -> CandidateView {
    view.taken_back.clear();
    view.shares_comparables.clear();
    view.candidate.note.clear();
    view
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(issue_report).service(list_reports).service(get_report);
}
