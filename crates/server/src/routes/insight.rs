//! Routes that show why: one failure point laid open, what each finding moved, and what would move the
//! bill. They take the document as it stands on the screen, tried-out changes included; nothing is stored.

use actix_web::{post, web};
use serde::Deserialize;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::units::Money;
use ticksage_core::documents::reference::PointRef;
use ticksage_core::documents::sheets::Sheets;
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::money::bill_spread::BillSpread;
use ticksage_core::questions::finding_effects::{FindingMoves, moves};
use ticksage_core::questions::point_detail::{PointDetail, detail};
use ticksage_core::questions::sensitivity::{Sensitivity, sensitivity};
use ticksage_core::{AssessError, Assumptions, Candidate};
use ticksage_store::Store;
use utoipa::IntoParams;

use crate::body::Document;
use crate::judging::{compute, sensible, table};
use crate::problem::Problem;

/// A failure point of one of the candidate's families.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Path)]
pub struct PointPath {
    /// The family.
    pub family: String,
    /// The point.
    pub point: String,
}

async fn ask<T: Send + 'static>(
    store: &Store,
    candidate: Candidate,
    question: impl FnOnce(&Candidate, &Sheets, &Assumptions, &Budget<'_>) -> Result<T, AssessError> + Send + 'static,
) -> Result<web::Json<T>, Problem> {
    let families = sensible(store, &candidate).await?;
    Ok(web::Json(compute(move |budget| question(&candidate, &families, &table(), budget)).await?))
}

/// One failure point laid open: its claims side by side as curves, pooled, and this vehicle's own.
#[utoipa::path(tag = "why", params(PointPath), request_body = Candidate,
    responses((status = 200, body = PointDetail), (status = 413, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/assess/points/{family}/{point}")]
pub async fn point_detail(
    store: web::Data<Store>,
    path: web::Path<PointPath>,
    Document(candidate): Document<Candidate>,
) -> Result<web::Json<PointDetail>, Problem> {
    let PointPath { family, point } = path.into_inner();
    let at = PointRef { family, point };
    ask(&store, candidate, move |c, f, a, budget| detail(c, f, &at, a, budget)).await
}

/// The bill as it may turn out: quantiles, the dearest tenth, how often the buyer's reserve is enough.
#[utoipa::path(tag = "why", request_body = Candidate,
    responses((status = 200, body = BillSpread), (status = 413, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/assess/bill")]
pub async fn bill_spread(
    store: web::Data<Store>,
    Document(candidate): Document<Candidate>,
) -> Result<web::Json<BillSpread>, Problem> {
    ask(&store, candidate, |c, f, a, budget| spread(c, f, c.buyer.reserve.map(Money::get), a, budget)).await
}

/// What each finding moved, everything else being known.
#[utoipa::path(tag = "why", request_body = Candidate,
    responses((status = 200, body = Vec<FindingMoves>), (status = 413, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/assess/moves")]
pub async fn what_moved(
    store: web::Data<Store>,
    Document(candidate): Document<Candidate>,
) -> Result<web::Json<Vec<FindingMoves>>, Problem> {
    ask(&store, candidate, |c, f, a, budget| moves(c, f, a, budget)).await
}

/// The five inputs that would move the expected bill most, each with the range tried.
#[utoipa::path(tag = "why", request_body = Candidate,
    responses((status = 200, body = Vec<Sensitivity>), (status = 413, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/assess/sensitivity")]
pub async fn what_would_move(
    store: web::Data<Store>,
    Document(candidate): Document<Candidate>,
) -> Result<web::Json<Vec<Sensitivity>>, Problem> {
    ask(&store, candidate, |c, f, a, budget| sensitivity(c, f, a, budget)).await
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(point_detail).service(what_moved).service(what_would_move).service(bill_spread);
}
