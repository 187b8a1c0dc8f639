//! Routes of sheets from how a thing is built: the library, a first assessment that moves with each answer, and the
//! sheet itself.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, get, post, put, web};
use serde::{Deserialize, Serialize};
use ticksage_core::Family;
use ticksage_core::base::units::UsageClock;
use ticksage_core::base::word::short_of;
use ticksage_core::documents::buyer::Buyer;
use ticksage_core::documents::pattern::Question;
use ticksage_core::documents::pricing::NO_CURRENCY;
use ticksage_core::formats::pattern_library::library;
use ticksage_core::patterns::compose::composed_of;
use ticksage_core::patterns::given::{GivenPoint, given_point};
use ticksage_core::questions::construction::{BuiltQuestion, BuiltView, built_view, clock_of, sheet};
use ticksage_core::questions::sanity::{Sanity, sanity};
use ticksage_core::validation::family::family_faults;
use ticksage_store::{Store, StoreError};
use utoipa::{IntoParams, ToSchema};

use crate::body::Document;
use crate::judging::{compute, table};
use crate::problem::Problem;
use crate::routes::families::FamilyHead;

/// A pattern in a list.
#[derive(Debug, Serialize, ToSchema)]
pub struct PatternHead {
    /// Id.
    pub id: String,
    /// Version.
    pub version: u32,
    /// Name.
    pub name: String,
    /// A sentence on it.
    pub summary: String,
    /// The clock of its figures.
    pub clock: UsageClock,
    /// Failure points.
    pub points: usize,
    /// Checks.
    pub checks: usize,
}

/// The pattern library.
#[derive(Debug, Serialize, ToSchema)]
pub struct LibraryView {
    /// The questions that settle how a thing is built.
    pub questions: Vec<Question>,
    /// The patterns.
    pub patterns: Vec<PatternHead>,
}

/// The pattern library: what is commonly known of each way to build a part.
#[utoipa::path(tag = "families", responses((status = 200, body = LibraryView)))]
#[get("/patterns")]
pub async fn list_patterns() -> web::Json<LibraryView> {
    let library = library();
    let patterns = library.patterns.iter().map(|p| PatternHead {
        id: p.id.clone(),
        version: p.version,
        name: p.name.clone(),
        summary: p.summary.clone(),
        clock: p.clock,
        points: p.points.len(),
        checks: p.checks.len(),
    });
    web::Json(LibraryView { questions: library.questions.questions.clone(), patterns: patterns.collect() })
}

/// What how a thing is built says so far, and which question would tell most next; nothing is stored.
#[utoipa::path(tag = "families", request_body = BuiltQuestion,
    responses((status = 200, body = BuiltView), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/built")]
pub async fn ask_built(Document(question): Document<BuiltQuestion>) -> Result<web::Json<BuiltView>, Problem> {
    let today = jiff::ZonedDateTime::now().date();
    Ok(web::Json(compute(move |budget| built_view(&question, today, library(), &table(), budget)).await?))
}

/// A sheet to make from how a thing is built.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewBuilt {
    /// What to call it.
    #[schema(min_length = 1, max_length = 120)]
    pub name: String,
    /// Question to answer.
    pub answers: BTreeMap<String, String>,
    /// Three-letter code of the currency of what is added to it.
    #[schema(pattern = "^[A-Z]{3}$")]
    pub currency: String,
}

/// Answers to put in the place of the earlier ones.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChangedBuilt {
    /// What to call it from now on; none: as before.
    #[serde(default)]
    #[schema(min_length = 1, max_length = 120)]
    pub name: Option<String>,
    /// Question to answer.
    pub answers: BTreeMap<String, String>,
    /// The version that was changed.
    #[schema(minimum = 1)]
    pub from: u32,
}

/// Makes a sheet from how a thing is built and stores it.
#[utoipa::path(tag = "families", request_body = NewBuilt,
    responses((status = 201, body = FamilyHead), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/families/built")]
pub async fn make_built(store: web::Data<Store>, Document(new): Document<NewBuilt>) -> Result<HttpResponse, Problem> {
    let name = new.name.trim();
    if name.is_empty() {
        return Err(Problem::fault("/name", "give it a name to know it by"));
    }
    let taken: Vec<String> = store.families().await?.into_iter().map(|f| f.id).collect();
    let id = id_of(name, &taken);
    let family = sheet((&id, name), new.answers, &new.currency, library(), &table()).map_err(Problem::faulty)?;
    store.put_family(&sound(family)?).await?;
    Ok(HttpResponse::Created().json(FamilyHead::from(store.family(&id, None).await?)))
}

/// Puts other answers in the place of a sheet's: what was added by hand stays. A new version is made; candidates stay
/// on theirs.
#[utoipa::path(tag = "families", params(("id" = String, Path)), request_body = ChangedBuilt,
    responses((status = 200, body = FamilyHead), (status = 404, body = Problem), (status = 409, body = Problem),
        (status = 413, body = Problem), (status = 422, body = Problem)))]
#[put("/families/{id}/built")]
pub async fn change_built(
    store: web::Data<Store>,
    id: web::Path<String>,
    Document(change): Document<ChangedBuilt>,
) -> Result<web::Json<FamilyHead>, Problem> {
    let mut family = store.family(&id, None).await?;
    if family.version != change.from {
        return Err(StoreError::Conflict { current: i32::try_from(family.version).unwrap_or(i32::MAX) }.into());
    }
    let Some(built) = &mut family.built_as else {
        return Err(Problem::fault("/answers", "this sheet is written out: it does not say how it is built"));
    };
    built.answers = change.answers;
    family.clock = clock_of(&built.answers);
    family.name = change.name.unwrap_or(family.name);
    family.version += 1;
    let family = composed_of(family, library(), &table()).map_err(Problem::faulty)?;
    let family = sound(family)?;
    store.put_family(&family).await?;
    Ok(web::Json(FamilyHead::from(family)))
}

/// A sheet that makes sense as a whole.
pub(crate) fn sound(family: Family) -> Result<Family, Problem> {
    let faults = family_faults(&family);
    if faults.is_empty() { Ok(family) } else { Err(Problem::faulty(faults)) }
}

/// The currency of a sheet: its own, or the yard's where it has none.
pub(crate) fn currency_of(family: &Family, yard: Option<&str>) -> String {
    match yard {
        Some(yard) if family.currency == NO_CURRENCY => yard.to_owned(),
        _ => family.currency.clone(),
    }
}

/// A short name for a sheet that none has yet.
pub(crate) fn id_of(name: &str, taken: &[String]) -> String {
    let id: String = short_of(name).chars().take(32).collect();
    let id = if id.is_empty() { "sheet".to_owned() } else { id.trim_end_matches('-').to_owned() };
    let free = |id: &String| !taken.contains(id);
    let numbered = (2..).map(|n| format!("{id}-{n}"));
    std::iter::once(id.clone()).chain(numbered).find(free).unwrap_or(id)
}

/// In what currency, at which price of an hour.
#[derive(Debug, Deserialize, IntoParams)]
pub struct SanityQuery {
    /// Three-letter code.
    pub currency: String,
}

/// What typical examples of a sheet cost, against what such things usually cost.
#[utoipa::path(tag = "families", params(("id" = String, Path), SanityQuery),
    responses((status = 200, body = Sanity), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/families/{id}/sanity")]
pub async fn look_sane(
    store: web::Data<Store>,
    id: web::Path<String>,
    query: web::Query<SanityQuery>,
) -> Result<web::Json<Sanity>, Problem> {
    let family = store.family(&id, None).await?;
    let currency = currency_of(&family, Some(&query.currency));
    let today = jiff::ZonedDateTime::now().date();
    let made = compute(move |budget| sanity(&family, &currency, &Buyer::default(), today, &table(), budget));
    Ok(web::Json(made.await?))
}

/// A point of a sheet as its pattern has it, whatever was made of it since.
#[utoipa::path(tag = "families", params(("id" = String, Path), ("point" = String, Path)),
    responses((status = 200, body = GivenPoint), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/families/{id}/points/{point}/pattern")]
pub async fn point_as_given(
    store: web::Data<Store>,
    path: web::Path<(String, String)>,
) -> Result<web::Json<GivenPoint>, Problem> {
    let (id, point) = path.into_inner();
    let family = store.family(&id, None).await?;
    let given = given_point(&family, &point, library(), &table()).map_err(Problem::faulty)?;
    given.map(web::Json).ok_or_else(|| Problem::not_found(&format!("point of a pattern of this sheet: \"{point}\"")))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(list_patterns)
        .service(ask_built)
        .service(make_built)
        .service(change_built)
        .service(look_sane)
        .service(point_as_given);
}
