//! Routes of the service itself: health, and the table of assumptions.

use std::collections::BTreeMap;

use actix_web::{get, put, web};
use serde::{Deserialize, Serialize};
use ticksage_core::Assumptions;
use ticksage_core::base::units::{Money, UsageUnit};
use ticksage_core::documents::assumptions::AssumptionRow;
use ticksage_core::documents::buyer::Labour;
use ticksage_store::Store;
use utoipa::ToSchema;

use crate::body::Document;
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

/// What this yard counts in: asked once, at the first start.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct YardSettings {
    /// Three-letter code of the currency.
    #[schema(pattern = "^[A-Z]{3}$")]
    pub currency: String,
    /// Unit of the road.
    pub unit: UsageUnit,
    /// What an hour costs, by who works.
    #[serde(default)]
    pub rates: BTreeMap<Labour, Money>,
}

/// What this yard counts in; null before it was asked.
#[utoipa::path(tag = "service", responses((status = 200, body = Option<YardSettings>)))]
#[get("/settings")]
pub async fn get_settings(store: web::Data<Store>) -> Result<web::Json<Option<YardSettings>>, Problem> {
    let kept = store.settings().await?;
    Ok(web::Json(kept.and_then(|s| serde_json::from_value(s).ok())))
}

/// Stores what this yard counts in; candidates that are there keep theirs.
#[utoipa::path(tag = "service", request_body = YardSettings,
    responses((status = 200, body = YardSettings), (status = 422, body = Problem)))]
#[put("/settings")]
pub async fn set_settings(
    store: web::Data<Store>,
    Document(settings): Document<YardSettings>,
) -> Result<web::Json<YardSettings>, Problem> {
    let document = serde_json::to_value(&settings).map_err(|_| Problem::internal("the settings"))?;
    store.set_settings(&document).await?;
    Ok(web::Json(settings))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(health).service(assumptions).service(get_settings).service(set_settings);
}
