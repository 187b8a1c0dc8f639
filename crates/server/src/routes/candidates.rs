//! Routes of the candidates: the yard, one candidate, its findings, and judging without storing.

use std::sync::Arc;

use actix_web::http::header::{
    ContentDisposition, DispositionParam, DispositionType, ETag, EntityTag, Header, IfNoneMatch,
};
use actix_web::{HttpRequest, HttpResponse, get, post, put, web};
use serde::{Deserialize, Serialize};
use ticksage_core::assess::judge::COMPUTATION;
use ticksage_core::base::fault;
use ticksage_core::documents::candidate::BundleFormat;
use ticksage_core::documents::finding::{Finding, FindingResult, TypedReading};
use ticksage_core::formats::documents;
use ticksage_core::inference::depth::Depth;
use ticksage_core::reading::measured::{Measured, measure};
use ticksage_core::validation::candidate;
use ticksage_core::{Assessment, Assumptions, Bundle, Candidate};
use ticksage_store::Store;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::aside::aside;
use crate::body::{Body, Document};
use crate::judging::{Judged, Text, Told, future, judge_to, sensible};
use crate::packed::packed;
use crate::problem::{Problem, ProblemCode};
use crate::summary::Summary;
use crate::views::{
    CandidateView, DocumentView, PartQuery, PointsView, RoadJudgement, WalkPart, WalkView, YardEntry, changed, glance,
    points_view, state_mark, view, walk_view,
};

/// The version that an edit starts from.
#[derive(Debug, Deserialize, IntoParams)]
pub struct EditQuery {
    /// Version of the document as read.
    pub version: i32,
}

/// A finding to be stored.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewFinding {
    /// An id of the sender's choosing; the same id twice is stored once.
    pub id: Uuid,
    /// The finding.
    pub finding: Finding,
}

/// Whether a finding is taken back.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Undo {
    /// True takes it back, false puts it in force again.
    pub undone: bool,
}

/// Whether a candidate is put away.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Archive {
    /// True puts it away.
    pub archived: bool,
}

/// Every candidate in the yard.
#[utoipa::path(tag = "candidates", responses((status = 200, body = Vec<YardEntry>), (status = 503, body = Problem)))]
#[get("/candidates")]
pub async fn list_candidates(store: web::Data<Store>) -> Result<web::Json<Vec<YardEntry>>, Problem> {
    let mut out = Vec::new();
    for row in store.yard(COMPUTATION).await? {
        let kept = row.summary.and_then(|s| serde_json::from_value::<Summary>(s).ok());
        out.push(match kept {
            Some(s) => YardEntry::of(row.id, row.version, s),
            None => match glance(&store, row.id).await {
                Ok(s) => YardEntry::of(row.id, row.version, s),
                Err(problem) => yard_entry_with_faults(&store, row.id, problem).await?,
            },
        });
    }
    Ok(web::Json(out))
}

/// One that cannot be judged stands in the yard with its faults, beside the others.
async fn yard_entry_with_faults(store: &Store, id: Uuid, problem: Problem) -> Result<YardEntry, Problem> {
    let record = match problem.code {
        ProblemCode::Faulty | ProblemCode::TooMuch => store.candidate(id).await?,
        _ => return Err(problem),
    };
    let faults = match problem.code {
        ProblemCode::TooMuch => vec![fault::Fault { path: String::new(), message: problem.message }],
        _ => problem.faults,
    };
    Ok(YardEntry { id, version: record.version, title: record.candidate.title, summary: None, faults })
}

/// The stored document as it is, and what is wrong with it; nothing is judged.
#[utoipa::path(tag = "candidates", params(("id" = Uuid, Path)),
    responses((status = 200, body = DocumentView), (status = 404, body = Problem), (status = 503, body = Problem)))]
#[get("/candidates/{id}/document")]
pub async fn get_document(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<web::Json<DocumentView>, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let faults = candidate::candidate_faults(&record.candidate, &families);
    Ok(web::Json(DocumentView {
        id: record.id,
        version: record.version,
        archived: record.archived,
        candidate: record.candidate,
        finding_ids: record.finding_ids,
        paper_ids: record.paper_ids.into(),
        faults,
    }))
}

/// Stores a new candidate.
#[utoipa::path(tag = "candidates", params(PartQuery), request_body = Candidate,
    responses((status = 201, body = CandidateView), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates")]
pub async fn create_candidate(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    Document(mut candidate): Document<Candidate>,
) -> Result<HttpResponse, Problem> {
    let families = sensible(&store, &candidate).await?;
    candidate.settle(&families);
    let id = store.create_candidate(&candidate).await?;
    Ok(HttpResponse::Created().json(changed(&store, id, part.part).await?))
}

/// Stores a bundle: its sheets and its candidate, all or nothing.
#[utoipa::path(tag = "candidates", params(PartQuery), request_body = Bundle,
    responses((status = 201, body = CandidateView), (status = 409, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/import")]
pub async fn import_candidate(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    body: Body,
) -> Result<HttpResponse, Problem> {
    let taken = body?;
    let bundle = aside(move || documents::read_bundle(taken.text()?).map_err(Problem::faulty)).await?;
    let bundle = ready(bundle)?;
    let id = store.import_bundle(&bundle, &[]).await?;
    Ok(HttpResponse::Created().json(changed(&store, id, part.part).await?))
}

/// A bundle as a candidate that is entered by hand: not from the future, and with the facts that its families settle.
pub(crate) fn ready(mut bundle: Bundle) -> Result<Bundle, Problem> {
    if let Some(fault) = future(&bundle.candidate) {
        let path = format!("/candidate{}", fault.path);
        return Err(Problem::faulty(vec![fault::Fault { path, ..fault }]));
    }
    let Bundle { candidate, families, .. } = &mut bundle;
    candidate.settle(families);
    Ok(bundle)
}

/// An answer that is sent but where the asker has it already.
async fn unless_known<T: Serialize>(
    state: String,
    asked: &HttpRequest,
    answer: impl Future<Output = Result<T, Problem>>,
) -> Result<HttpResponse, Problem> {
    let known = IfNoneMatch::parse(asked).ok();
    let tag = EntityTag::new_weak(state);
    if let Some(IfNoneMatch::Items(tags)) = &known
        && tags.iter().any(|t| t.weak_eq(&tag))
    {
        return Ok(HttpResponse::NotModified().insert_header(ETag(tag)).finish());
    }
    let mut head = HttpResponse::Ok();
    head.insert_header(ETag(tag));
    packed(asked, head, &answer.await?)
}

/// One candidate, judged.
#[utoipa::path(tag = "candidates", params(("id" = Uuid, Path), PartQuery),
    responses((status = 200, body = CandidateView), (status = 304, description = "As it was when it had that `ETag`"),
        (status = 404, body = Problem), (status = 503, body = Problem)))]
#[get("/candidates/{id}")]
pub async fn get_candidate(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    query: web::Query<PartQuery>,
    asked: HttpRequest,
) -> Result<HttpResponse, Problem> {
    unless_known(state_mark(&store, *id).await?, &asked, view(&store, *id, query.part)).await
}

/// The walk-round of a candidate with its checks.
#[utoipa::path(tag = "candidates", params(("id" = Uuid, Path)),
    responses((status = 200, body = WalkView), (status = 304, description = "As it was when it had that `ETag`"),
        (status = 404, body = Problem), (status = 503, body = Problem)))]
#[get("/candidates/{id}/walk-round")]
pub async fn get_walk(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    asked: HttpRequest,
) -> Result<HttpResponse, Problem> {
    unless_known(state_mark(&store, *id).await?, &asked, walk_view(&store, *id)).await
}

/// The failure points of a candidate, each with all that stands behind its line of the road.
#[utoipa::path(tag = "candidates", params(("id" = Uuid, Path)),
    responses((status = 200, body = PointsView), (status = 304, description = "As they were when they had that `ETag`"),
        (status = 404, body = Problem), (status = 503, body = Problem)))]
#[get("/candidates/{id}/points")]
pub async fn get_points(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    asked: HttpRequest,
) -> Result<HttpResponse, Problem> {
    unless_known(state_mark(&store, *id).await?, &asked, points_view(&store, *id)).await
}

/// Changes the document; its papers and findings stay as they are stored.
#[utoipa::path(tag = "candidates", params(PartQuery, ("id" = Uuid, Path), EditQuery), request_body = Candidate,
    responses((status = 200, body = CandidateView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[put("/candidates/{id}")]
pub async fn edit_candidate(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    id: web::Path<Uuid>,
    query: web::Query<EditQuery>,
    Document(mut candidate): Document<Candidate>,
) -> Result<web::Json<CandidateView>, Problem> {
    let stored = store.candidate(*id).await?.candidate;
    let stored_currency = stored.currency.clone();
    candidate = candidate.without_papers();
    stored.papers().for_each(|p| candidate.add_paper(p));
    candidate.findings.clone_from(&stored.findings);
    // Asking more makes nothing worth more: what was asked first stays on record.
    if candidate.asked_first.is_none() && candidate.currency == stored.currency && candidate.asking != stored.asking {
        candidate.asked_first = Some(stored.asked_first.unwrap_or(stored.asking));
    }
    let families = sensible(&store, &candidate).await?;
    if stored_currency != candidate.currency && candidate.holds_amounts() {
        let say = format!(
            "adverts, costs or rates were entered in {stored_currency}: take them out before the currency is changed"
        );
        return Err(Problem::fault("/currency", &say));
    }
    candidate.settle(&families);
    store.update_candidate(*id, query.version, &candidate).await?;
    Ok(web::Json(changed(&store, *id, part.part).await?))
}

/// Puts a candidate away from the yard, or back.
#[utoipa::path(tag = "candidates", params(("id" = Uuid, Path)), request_body = Archive,
    responses((status = 200, body = Archive), (status = 404, body = Problem)))]
#[put("/candidates/{id}/archived")]
pub async fn archive_candidate(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    Document(body): Document<Archive>,
) -> Result<web::Json<Archive>, Problem> {
    store.archive_candidate(*id, body.archived).await?;
    Ok(web::Json(body))
}

/// Appends a finding.
#[utoipa::path(tag = "findings", params(PartQuery, ("id" = Uuid, Path)), request_body = NewFinding,
    responses((status = 201, body = CandidateView), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/candidates/{id}/findings")]
pub async fn add_finding(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    id: web::Path<Uuid>,
    Document(body): Document<NewFinding>,
) -> Result<HttpResponse, Problem> {
    let NewFinding { id: name, mut finding } = body;
    finding.undone = false;
    finding.at.get_or_insert_with(|| jiff::Timestamp::now().to_string());
    let (record, families) = store.with_families(*id).await?;
    let trial = Candidate { findings: vec![finding.clone()], ..record.candidate };
    let faults: Vec<_> = candidate::candidate_faults(&trial, &families)
        .into_iter()
        .filter_map(|f| {
            let path = f.path.strip_prefix("/findings/0").map(|rest| format!("/finding{rest}"))?;
            Some(fault::Fault { path, message: f.message })
        })
        .collect();
    if !faults.is_empty() {
        return Err(Problem::faulty(faults));
    }
    let check = families.iter().find(|f| f.id == finding.family).and_then(|f| f.check(&finding.check));
    if let (Some(m), FindingResult::Measured, false) =
        (check.and_then(|c| c.measure.as_ref()), finding.result, finding.inputs.is_empty())
    {
        let told = measure(m, &finding.inputs, trial.as_of, &Assumptions::default()).map_err(Problem::faulty)?;
        finding.reading = Some(told.reading);
    }
    store.add_finding(*id, name, &finding).await?;
    Ok(HttpResponse::Created().json(changed(&store, *id, part.part).await?))
}

/// What is read for a measured check.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ToMeasure {
    /// The check's family.
    pub family: String,
    /// The check.
    pub check: String,
    /// What was read, place by place.
    #[schema(max_items = 40)]
    pub inputs: Vec<TypedReading>,
}

/// Works out what readings come to. Nothing is stored.
#[utoipa::path(tag = "findings", params(("id" = Uuid, Path)), request_body = ToMeasure,
    responses((status = 200, body = Measured), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/{id}/measure")]
pub async fn measure_out(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    Document(body): Document<ToMeasure>,
) -> Result<web::Json<Measured>, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let check = families.iter().find(|f| f.id == body.family).and_then(|f| f.check(&body.check));
    let m = check.and_then(|c| c.measure.as_ref()).ok_or_else(|| Problem::not_found("measured check"))?;
    let told = measure(m, &body.inputs, record.candidate.as_of, &Assumptions::default()).map_err(Problem::faulty)?;
    Ok(web::Json(told))
}

/// Takes a finding back, or puts it in force again; nothing is erased.
#[utoipa::path(tag = "findings", params(PartQuery, ("id" = Uuid, Path), ("finding" = Uuid, Path)), request_body = Undo,
    responses((status = 200, body = CandidateView), (status = 404, body = Problem)))]
#[put("/candidates/{id}/findings/{finding}/undone")]
pub async fn undo_finding(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    path: web::Path<(Uuid, Uuid)>,
    Document(body): Document<Undo>,
) -> Result<web::Json<CandidateView>, Problem> {
    let (id, finding) = path.into_inner();
    store.undo_finding(id, finding, body.undone).await?;
    Ok(web::Json(changed(&store, id, part.part).await?))
}

/// The candidate and its sheets in the open format.
#[utoipa::path(tag = "candidates", params(("id" = Uuid, Path)),
    responses((status = 200, body = Bundle), (status = 404, body = Problem)))]
#[get("/candidates/{id}/export")]
pub async fn export_candidate(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<HttpResponse, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let bundle = Bundle { format: BundleFormat::V2, candidate: record.candidate, families: families.to_vec() };
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(format!("ticksage-{}.json", record.id))],
    };
    Ok(HttpResponse::Ok().insert_header(disposition).json(bundle))
}

/// How deep a judgement goes.
#[derive(Debug, Deserialize, IntoParams)]
pub struct DepthQuery {
    /// Leaves out each source's own view of every point and the steps of the why before the papers: for a slider that
    /// still moves. Figures that both hold are the same.
    #[serde(default)]
    pub lean: bool,
}

/// Judges a document without storing it: a first assessment while typing, or a question tried out.
#[utoipa::path(tag = "candidates", params(DepthQuery), request_body = Candidate,
    responses((status = 200, body = Assessment), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/assess")]
pub async fn try_out(
    store: web::Data<Store>,
    query: web::Query<DepthQuery>,
    Document(candidate): Document<Candidate>,
) -> Result<web::Json<Told>, Problem> {
    let judged = tried(&store, candidate, query.lean).await?;
    Ok(web::Json(Told::new(&judged, Text::Whole)))
}

/// The same as the road shows it.
#[utoipa::path(tag = "candidates", params(DepthQuery), request_body = Candidate,
    responses((status = 200, body = RoadJudgement), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/assess/road")]
pub async fn try_road(
    store: web::Data<Store>,
    query: web::Query<DepthQuery>,
    Document(candidate): Document<Candidate>,
) -> Result<web::Json<RoadJudgement>, Problem> {
    Ok(web::Json(RoadJudgement::new(&tried(&store, candidate, query.lean).await?)))
}

/// The walk-round of a document that is not stored.
#[utoipa::path(tag = "candidates", request_body = Candidate,
    responses((status = 200, body = WalkPart), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/assess/walk-round")]
pub async fn try_walk(
    store: web::Data<Store>,
    Document(candidate): Document<Candidate>,
) -> Result<web::Json<Told>, Problem> {
    let judged = tried(&store, candidate, false).await?;
    Ok(web::Json(Told::new(&judged, Text::Walk)))
}

/// The failure points of a document that is not stored.
#[utoipa::path(tag = "candidates", request_body = Candidate,
    responses((status = 200, body = PointsView), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/assess/points")]
pub async fn try_points(
    store: web::Data<Store>,
    Document(candidate): Document<Candidate>,
) -> Result<web::Json<PointsView>, Problem> {
    let judged = tried(&store, candidate, false).await?;
    Ok(web::Json(PointsView { state: None, points: Told::new(&judged, Text::Points) }))
}

/// The judgement of a document that is not stored.
async fn tried(store: &Store, candidate: Candidate, lean: bool) -> Result<Arc<Judged>, Problem> {
    let families = sensible(store, &candidate).await?;
    judge_to(candidate, families, if lean { Depth::Lean } else { Depth::Sources }).await
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(list_candidates)
        .service(create_candidate)
        .service(import_candidate)
        .service(get_candidate)
        .service(get_points)
        .service(get_walk)
        .service(get_document)
        .service(edit_candidate)
        .service(archive_candidate)
        .service(export_candidate)
        .service(add_finding)
        .service(undo_finding)
        .service(measure_out)
        .service(try_out)
        .service(try_road)
        .service(try_walk)
        .service(try_points);
}
