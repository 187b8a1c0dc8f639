//! Routes of the family sheets.

use std::sync::LazyLock;

use actix_web::{HttpResponse, get, post, web};
use serde::{Deserialize, Serialize};
use ticksage_core::Family;
use ticksage_core::base::fault::Fault;
use ticksage_core::base::units::UsageClock;
use ticksage_core::documents::applies::Window;
use ticksage_core::documents::built_as::BuiltAs;
use ticksage_core::documents::family::{Fact, FamilyKind, Source};
use ticksage_core::documents::quote::Quote;
use ticksage_core::formats::pattern_library::library;
use ticksage_core::formats::{base_sheets, documents};
use ticksage_core::reading::advert;
use ticksage_core::reading::advert_reading::AdvertReading;
use ticksage_core::validation::telling::family_notices;
use ticksage_store::Store;
use ticksage_store::families::Put;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::aside::aside;
use crate::body::{Body, Document};
use crate::problem::Problem;

/// A family in a list.
#[derive(Debug, Serialize, ToSchema)]
pub struct FamilyHead {
    /// Id.
    pub id: String,
    /// Version of its newest sheet.
    pub version: u32,
    /// Name.
    pub name: String,
    /// Kind.
    pub kind: FamilyKind,
    /// Clock.
    pub clock: UsageClock,
    /// Currency.
    pub currency: String,
    /// A sentence or two.
    pub summary: String,
    /// When it was built.
    pub built: Window,
    /// Sources heard.
    pub sources: Vec<Source>,
    /// Facts that split it.
    pub facts: Vec<Fact>,
    /// Whether a serial or engine number decides something.
    pub serial_decides: bool,
    /// How it is built, where it says so.
    pub built_as: Option<BuiltAs>,
    /// Failure points.
    pub points: usize,
    /// Of them those that patterns gave.
    pub points_from_patterns: usize,
    /// Checks.
    pub checks: usize,
    /// What makes sense in it and is odd all the same.
    pub notices: Vec<Fault>,
    /// When its newest sheet was stored, UTC; told in the list alone.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub changed: Option<String>,
    /// Candidates that name it, those put away left out; told in the list alone.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub judged: Option<i64>,
}

/// The base sheets that ship: what a sheet may know better.
static BASES: LazyLock<Vec<Family>> = LazyLock::new(|| base_sheets::sheets().unwrap_or_default());

impl From<Family> for FamilyHead {
    fn from(f: Family) -> Self {
        Self {
            serial_decides: f.points.iter().any(|p| {
                let mut revisions = p.revision.iter().chain(&p.revisions);
                p.applies.conditions().any(|c| c.serial.is_some()) || revisions.any(|r| r.from_serial.is_some())
            }),
            points: f.points.len(),
            points_from_patterns: f.points.iter().filter(|p| f.from_pattern("points", &p.id).is_some()).count(),
            built_as: f.built_as.clone(),
            checks: f.checks.len(),
            notices: family_notices(&f, &BASES),
            changed: None,
            judged: None,
            id: f.id,
            version: f.version,
            name: f.name,
            kind: f.kind,
            clock: f.clock,
            currency: f.currency,
            summary: f.summary,
            built: f.built,
            sources: f.sources,
            facts: f.facts,
        }
    }
}

/// Which version of a sheet.
#[derive(Debug, Deserialize, IntoParams)]
pub struct VersionQuery {
    /// The version; none means the newest.
    pub version: Option<u32>,
}

/// The newest sheet of every family.
#[utoipa::path(tag = "families", responses((status = 200, body = Vec<FamilyHead>)))]
#[get("/families")]
pub async fn list_families(store: web::Data<Store>) -> Result<web::Json<Vec<FamilyHead>>, Problem> {
    let standing = store.standing().await?;
    let mut heads: Vec<FamilyHead> = store.families().await?.into_iter().map(FamilyHead::from).collect();
    for head in &mut heads {
        let own = standing.iter().find(|s| s.id == head.id);
        (head.changed, head.judged) = (own.map(|s| s.changed.clone()), own.map(|s| s.judged));
    }
    Ok(web::Json(heads))
}

/// One sheet, in the open format.
#[utoipa::path(tag = "families", params(("id" = String, Path), VersionQuery),
    responses((status = 200, body = Family), (status = 404, body = Problem)))]
#[get("/families/{id}")]
pub async fn get_family(
    store: web::Data<Store>,
    id: web::Path<String>,
    query: web::Query<VersionQuery>,
) -> Result<web::Json<Family>, Problem> {
    Ok(web::Json(store.family(&id, query.version).await?))
}

/// In which currency.
#[derive(Debug, Deserialize, IntoParams)]
pub struct CurrencyQuery {
    /// Three-letter code.
    pub currency: String,
}

/// A workshop's quote that this yard has had.
#[derive(Debug, Serialize, ToSchema)]
pub struct YardQuote {
    /// The candidate that it was made for.
    pub candidate: Uuid,
    /// What the buyer calls it.
    pub title: String,
    /// The quote.
    pub quote: Quote,
}

/// What workshops have quoted this yard for a job of a family, on any candidate; the latest first.
#[utoipa::path(tag = "families", params(("id" = String, Path), ("job" = String, Path), CurrencyQuery),
    responses((status = 200, body = Vec<YardQuote>)))]
#[get("/families/{id}/jobs/{job}/quotes")]
pub async fn list_quotes(
    store: web::Data<Store>,
    path: web::Path<(String, String)>,
    query: web::Query<CurrencyQuery>,
) -> Result<web::Json<Vec<YardQuote>>, Problem> {
    let (family, job) = path.into_inner();
    let quotes = store.quotes(&family, &job, &query.currency).await?.into_iter();
    Ok(web::Json(quotes.map(|q| YardQuote { candidate: q.candidate, title: q.title, quote: q.quote }).collect()))
}

/// The text of an advert.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AdvertText {
    /// As it was copied.
    #[schema(max_length = 20000)]
    pub text: String,
}

/// Reads an advert pasted as text; nothing is stored.
#[utoipa::path(tag = "families", request_body = AdvertText,
    responses((status = 200, body = AdvertReading), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/adverts/read")]
pub async fn read_advert(
    store: web::Data<Store>,
    Document(asked): Document<AdvertText>,
) -> Result<web::Json<AdvertReading>, Problem> {
    if asked.text.chars().count() > advert::LONGEST {
        let say = format!("longer than {} characters: paste the advert alone", advert::LONGEST);
        return Err(Problem::fault("/text", &say));
    }
    let families = store.families().await?;
    let today = jiff::ZonedDateTime::now().date();
    let reading = aside(move || Ok::<_, Problem>(advert::read(&asked.text, &families, library(), today))).await?;
    Ok(web::Json(reading))
}

/// Stores a sheet in the open format; refused with every fault at once.
#[utoipa::path(tag = "families", request_body = Family,
    responses((status = 201, body = FamilyHead), (status = 200, body = FamilyHead, description = "Stored already"),
        (status = 409, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/families")]
pub async fn import_family(store: web::Data<Store>, body: Body) -> Result<HttpResponse, Problem> {
    let taken = body?;
    let family = aside(move || documents::read_family(taken.text()?).map_err(Problem::faulty)).await?;
    let put = store.put_family(&family).await?;
    let head = FamilyHead::from(family);
    Ok(match put {
        Put::Added => HttpResponse::Created().json(head),
        Put::AlreadyThere => HttpResponse::Ok().json(head),
    })
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(list_families).service(get_family).service(import_family).service(read_advert).service(list_quotes);
}
