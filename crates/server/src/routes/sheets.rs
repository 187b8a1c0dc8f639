//! Routes of writing sheets: a draft looked at before it is published, published, compared, merged.

use actix_web::{get, post, put, web};
use serde::{Deserialize, Serialize};
use ticksage_core::Family;
use ticksage_core::assess::judge::COMPUTATION;
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::fault::Fault;
use ticksage_core::decision::verdict::VerdictKind;
use ticksage_core::documents::buyer::Buyer;
use ticksage_core::documents::sheets::Sheets;
use ticksage_core::formats::documents;
use ticksage_core::inference::depth::Depth;
use ticksage_core::questions::comparing::{SheetComparison, compare_sheets, merged};
use ticksage_core::questions::point_detail::{ClockCurves, SignOdds, drawn};
use ticksage_core::questions::sanity::{Sanity, sanity};
use ticksage_core::{AssessError, Candidate};
use ticksage_store::{Store, StoreError};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::body::Document;
use crate::judging::{compute, table};
use crate::problem::Problem;
use crate::routes::built::{currency_of, sound};
use crate::routes::families::FamilyHead;
use crate::summary::Summary;

/// Candidates that are judged anew before a sheet is published; the rest is counted.
const MOVED: usize = 60;

/// A sheet as somebody has edited it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetDraft {
    /// The version that was edited.
    #[schema(minimum = 1)]
    pub from: u32,
    /// The whole sheet.
    #[schema(value_type = Family)]
    pub sheet: serde_json::Value,
    /// The yard's currency, for a sheet without one.
    #[serde(default)]
    pub currency: Option<String>,
    /// Whether the candidates that it would move are wanted.
    #[serde(default)]
    pub moves: bool,
}

/// What a candidate comes to.
#[derive(Debug, Serialize, ToSchema)]
pub struct ComesTo {
    /// Verdict.
    pub verdict: VerdictKind,
    /// Limit price, units of its currency.
    pub limit: f64,
    /// Expected bill within the plan, units of its currency.
    pub bill: f64,
}

/// A candidate that another version of a sheet would move.
#[derive(Debug, Serialize, ToSchema)]
pub struct SheetMoves {
    /// The candidate.
    pub candidate: Uuid,
    /// What the buyer calls it.
    pub title: String,
    /// Three-letter code of its currency.
    pub currency: String,
    /// As it stands.
    pub before: ComesTo,
    /// On the edited sheet; none where it makes no sense there.
    pub after: Option<ComesTo>,
    /// Findings on checks, and renewals of points, that the edited sheet has no longer.
    pub lost: Vec<String>,
}

/// What a draft comes to.
#[derive(Debug, Serialize, ToSchema)]
pub struct DraftLook {
    /// What makes no sense in it, each at its place.
    pub faults: Vec<Fault>,
    /// The newest version, where somebody published one meanwhile.
    pub newer: Option<u32>,
    /// What typical examples cost.
    pub sanity: Option<Sanity>,
    /// What differs from the version that was edited, and by how much money.
    pub comparison: Option<SheetComparison>,
    /// The candidates that it would move, where they were asked for.
    pub moves: Vec<SheetMoves>,
    /// Further candidates that name the sheet and were not judged.
    pub further: usize,
}

/// Looks at a draft: what makes no sense, what typical examples cost, whom it would move. Nothing is stored.
#[utoipa::path(tag = "families", params(("id" = String, Path)), request_body = SheetDraft,
    responses((status = 200, body = DraftLook), (status = 404, body = Problem), (status = 413, body = Problem),
        (status = 422, body = Problem)))]
#[post("/families/{id}/draft")]
pub async fn look_at_draft(
    store: web::Data<Store>,
    id: web::Path<String>,
    Document(draft): Document<SheetDraft>,
) -> Result<web::Json<DraftLook>, Problem> {
    let newest = store.family(&id, None).await?;
    let base = store.family(&id, Some(draft.from)).await?;
    let newer = (newest.version != draft.from).then_some(newest.version);
    let sheet = match read(&id, &draft) {
        Ok(sheet) => sheet,
        Err(faults) => {
            let none = DraftLook { faults, newer, sanity: None, comparison: None, moves: Vec::new(), further: 0 };
            return Ok(web::Json(none));
        }
    };
    let (mut candidates, mut further) = (Vec::new(), 0);
    if draft.moves {
        for row in store.yard("").await? {
            let (record, families) = store.with_families(row.id).await?;
            if record.candidate.families.iter().all(|f| f.id != *id) {
                continue;
            }
            if candidates.len() < MOVED {
                candidates.push((row.id, record.candidate, families));
            } else {
                further += 1;
            }
        }
    }
    let currency = currency_of(&sheet, draft.currency.as_deref());
    let today = jiff::ZonedDateTime::now().date();
    let look = compute(move |budget| {
        let a = table();
        let sane = sanity(&sheet, &currency, &Buyer::default(), today, &a, budget)?;
        let comparison = compare_sheets(&base, &sheet, &currency, today, &a, budget)?;
        let moves = candidates
            .into_iter()
            .map(|(id, candidate, families)| moved(id, candidate, families, &sheet, budget))
            .collect::<Result<Vec<SheetMoves>, AssessError>>()?;
        let (sanity, comparison) = (Some(sane), Some(comparison));
        Ok(DraftLook { faults: Vec::new(), newer, sanity, comparison, moves, further })
    });
    Ok(web::Json(look.await?))
}

/// A vehicle of the yard that is judged by a sheet.
#[derive(Debug, Serialize, ToSchema)]
pub struct VehicleOnSheet {
    /// What the buyer calls it.
    pub title: String,
    /// Its usage on the sheet's clock.
    pub usage: f64,
    /// Its age, years.
    pub age: f64,
}

/// A point of a draft as it is drawn while somebody edits it.
#[derive(Debug, Serialize, ToSchema)]
pub struct DraftPoint {
    /// Its claims as curves, by clock; none where the point does not concern a typical example.
    pub clocks: Vec<ClockCurves>,
    /// What its signs come to in chances.
    pub signs: Vec<SignOdds>,
    /// The vehicles of the yard that are judged by this sheet.
    pub vehicles: Vec<VehicleOnSheet>,
}

/// Draws one point of a draft: its claims, those heard pooled, and where the yard's vehicles stand. Nothing is stored.
#[utoipa::path(tag = "families", params(("id" = String, Path), ("point" = String, Path)), request_body = SheetDraft,
    responses((status = 200, body = DraftPoint), (status = 404, body = Problem), (status = 413, body = Problem),
        (status = 422, body = Problem)))]
#[post("/families/{id}/draft/points/{point}")]
pub async fn draw_draft_point(
    store: web::Data<Store>,
    path: web::Path<(String, String)>,
    Document(draft): Document<SheetDraft>,
) -> Result<web::Json<DraftPoint>, Problem> {
    let (id, point) = path.into_inner();
    let base = store.family(&id, Some(draft.from)).await?;
    let sheet = read(&id, &draft).map_err(Problem::faulty)?;
    if sheet.point(&point).is_none() {
        return Err(Problem::fault("/sheet/points", &format!("no failure point \"{point}\" in this draft")));
    }
    let today = jiff::ZonedDateTime::now().date();
    let mut vehicles = Vec::new();
    for row in store.yard(COMPUTATION).await? {
        // What was not judged yet is read as it is written.
        let stands = match row.summary.and_then(|s| serde_json::from_value::<Summary>(s).ok()) {
            Some(s) => s.families.contains(&base.name).then_some((s.title, s.usage, s.built)),
            None => {
                let (record, _) = store.with_families(row.id).await?;
                let c = record.candidate;
                let named = c.families.iter().any(|f| f.id == id);
                named.then_some((c.title, c.usage, c.built.year()))
            }
        };
        if let Some((title, usage, built)) = stands.filter(|(_, usage, _)| usage.unit.clock() == base.clock) {
            let age = f64::from((today.year() - built).max(0));
            vehicles.push(VehicleOnSheet { title, usage: usage.on_clock(), age });
        }
    }
    let currency = currency_of(&sheet, draft.currency.as_deref());
    let drawn = compute(move |budget| drawn(&sheet, &point, (&currency, today), &table(), budget)).await?;
    Ok(web::Json(DraftPoint { clocks: drawn.clocks, signs: drawn.signs, vehicles }))
}

/// The sheet of a draft, under the id of its address and the next version.
fn read(id: &str, draft: &SheetDraft) -> Result<Family, Vec<Fault>> {
    let mut sheet = draft.sheet.clone();
    if let Some(fields) = sheet.as_object_mut() {
        fields.insert("id".to_owned(), id.into());
        fields.insert("version".to_owned(), (draft.from + 1).into());
    }
    documents::read_family(&sheet.to_string())
}

fn comes_to(c: &Candidate, families: &[Family], budget: &Budget<'_>) -> Result<ComesTo, AssessError> {
    let a = assess_within(c, families, &table(), Depth::Lean, budget)?;
    Ok(ComesTo { verdict: a.verdict.kind, limit: a.value.limit, bill: a.bill.mean })
}

/// What a candidate comes to on the edited sheet. What was found on checks that are gone is named, and stays with the
/// candidate's own version until it is moved.
fn moved(
    id: Uuid,
    candidate: Candidate,
    families: Sheets,
    sheet: &Family,
    budget: &Budget<'_>,
) -> Result<SheetMoves, AssessError> {
    let before = comes_to(&candidate, &families, budget)?;
    let mut lost: Vec<String> = Vec::new();
    let mut after = candidate.clone();
    after.families.iter_mut().filter(|r| r.id == sheet.id).for_each(|r| r.version = sheet.version);
    let old = families.iter().find(|f| f.id == sheet.id);
    after.findings.retain(|f| {
        let there = f.family != sheet.id || sheet.checks.iter().any(|c| c.id == f.check);
        if !there {
            let name = old.and_then(|o| o.checks.iter().find(|c| c.id == f.check)).map(|c| c.name.clone());
            lost.push(name.unwrap_or_else(|| f.check.clone()));
        }
        there
    });
    for line in &mut after.ledger {
        line.renews.retain(|p| {
            let there = p.family != sheet.id || sheet.points.iter().any(|x| x.id == p.point);
            if !there {
                let name = old.and_then(|o| o.point(&p.point)).map(|x| x.name.clone());
                lost.push(name.unwrap_or_else(|| p.point.clone()));
            }
            there
        });
    }
    lost.dedup();
    let on_it: Vec<Family> = families.iter().map(|f| if f.id == sheet.id { sheet } else { f }).cloned().collect();
    after.settle(&on_it);
    let comes = match comes_to(&after, &on_it, budget) {
        Ok(comes) => Some(comes),
        Err(AssessError::Faults(_)) => None,
        Err(e) => return Err(e),
    };
    Ok(SheetMoves { candidate: id, title: candidate.title, currency: candidate.currency, before, after: comes, lost })
}

/// Publishes an edited sheet as its next version; candidates stay on theirs. Refused where somebody published one
/// meanwhile, and where it makes no sense.
#[utoipa::path(tag = "families", params(("id" = String, Path)), request_body = SheetDraft,
    responses((status = 200, body = FamilyHead), (status = 404, body = Problem), (status = 409, body = Problem),
        (status = 413, body = Problem), (status = 422, body = Problem)))]
#[put("/families/{id}")]
pub async fn publish_sheet(
    store: web::Data<Store>,
    id: web::Path<String>,
    Document(draft): Document<SheetDraft>,
) -> Result<web::Json<FamilyHead>, Problem> {
    let newest = store.family(&id, None).await?;
    if newest.version != draft.from {
        return Err(StoreError::Conflict { current: i32::try_from(newest.version).unwrap_or(i32::MAX) }.into());
    }
    if newest.kind.is_base() {
        return Err(Problem::fault("/sheet", "a sheet that ships with the application is not edited: copy it first"));
    }
    let sheet = sound(read(&id, &draft).map_err(Problem::faulty)?)?;
    store.put_family(&sheet).await?;
    Ok(web::Json(FamilyHead::from(sheet)))
}

/// Two sheets to compare.
#[derive(Debug, Deserialize, IntoParams)]
pub struct CompareQuery {
    /// The version of this sheet; none means the newest.
    pub version: Option<u32>,
    /// The other sheet; none means this one.
    pub with: Option<String>,
    /// The version of the other.
    pub other: Option<u32>,
    /// The yard's currency, for sheets without one.
    pub currency: Option<String>,
}

/// Compares two sheets, or two versions of one, point by point.
#[utoipa::path(tag = "families", params(("id" = String, Path), CompareQuery),
    responses((status = 200, body = SheetComparison), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/families/{id}/compare")]
pub async fn compare_two(
    store: web::Data<Store>,
    id: web::Path<String>,
    query: web::Query<CompareQuery>,
) -> Result<web::Json<SheetComparison>, Problem> {
    let second = store.family(&id, query.version).await?;
    let first = store.family(query.with.as_deref().unwrap_or(&id), query.other).await?;
    if first.clock != second.clock {
        return Err(Problem::fault("/with", "it counts on another clock: kilometres and engine hours do not compare"));
    }
    let currency = currency_of(&second, query.currency.as_deref());
    let today = jiff::ZonedDateTime::now().date();
    let made = compute(move |budget| compare_sheets(&first, &second, &currency, today, &table(), budget));
    Ok(web::Json(made.await?))
}

/// Another person's sheet, to stand beside what is known.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetMerge {
    /// The version that it is merged into.
    #[schema(minimum = 1)]
    pub from: u32,
    /// The other sheet.
    #[schema(value_type = Family)]
    pub sheet: serde_json::Value,
    /// Who it is: the name of the source that its claims get.
    #[schema(min_length = 1, max_length = 80)]
    pub source: String,
    /// The weight of that source, 0 to 1; none: as any other.
    #[serde(default)]
    #[schema(exclusive_minimum = 0, maximum = 1)]
    pub discount: Option<f64>,
}

/// Merges another sheet as one more source; nothing is stored: the answer is a draft to look at and publish.
#[utoipa::path(tag = "families", params(("id" = String, Path)), request_body = SheetMerge,
    responses((status = 200, body = Family), (status = 404, body = Problem), (status = 409, body = Problem),
        (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/families/{id}/merge")]
pub async fn merge_sheets(
    store: web::Data<Store>,
    id: web::Path<String>,
    Document(asked): Document<SheetMerge>,
) -> Result<web::Json<Family>, Problem> {
    let own = store.family(&id, Some(asked.from)).await?;
    let source = asked.source.trim();
    if source.is_empty() || source.chars().count() > 80 {
        return Err(Problem::fault("/source", "who says it: 1 to 80 characters"));
    }
    if asked.discount.is_some_and(|d| !(d > 0.0 && d <= 1.0)) {
        return Err(Problem::fault("/discount", "a weight above 0, at most 1"));
    }
    let other = documents::read_family(&asked.sheet.to_string()).map_err(Problem::faulty)?;
    if other.clock != own.clock {
        return Err(Problem::fault("/sheet/clock", "it counts on another clock than this sheet"));
    }
    Ok(web::Json(merged(own, &other, source, asked.discount)))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(look_at_draft)
        .service(draw_draft_point)
        .service(publish_sheet)
        .service(compare_two)
        .service(merge_sheets);
}
