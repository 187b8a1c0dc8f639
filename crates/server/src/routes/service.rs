//! Routes of the service itself: health, and the table of assumptions.

use actix_web::{get, web};
use serde::Serialize;
use ticksage_core::Assumptions;
use ticksage_core::documents::assumptions::AssumptionRow;
use ticksage_store::Store;
use utoipa::ToSchema;

use crate::problem::Problem;

/// Whether the records answer.
#[derive(Debug, Serialize, ToSchema)]
pub struct Health {
    /// Name and version of the computation.
    pub engine: String,
}

/// Answers when the application and its records do.
#[utoipa::path(tag = "service", responses((status = 200, body = Health), (status = 503, body = Problem)))]
#[get("/health")]
pub async fn health(store: web::Data<Store>) -> Result<web::Json<Health>, Problem> {
    store.ping().await?;
    Ok(web::Json(Health { engine: ticksage_core::assess::judge::ENGINE.to_owned() }))
}

/// The table of assumptions, each with its reason.
#[utoipa::path(tag = "service", responses((status = 200, body = Vec<AssumptionRow>)))]
#[get("/assumptions")]
pub async fn assumptions() -> web::Json<Vec<AssumptionRow>> {
    web::Json(Assumptions::default().rows())
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(health).service(assumptions);
}
