//! Routes of the papers: entered, corrected, taken back, typed in one line or pasted as a table; what each
//! moved, and what is worth asking for.

use std::collections::HashSet;

use actix_web::{HttpResponse, get, post, put, web};
use serde::{Deserialize, Serialize};
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::fault::Fault;
use ticksage_core::documents::paper::Paper;
use ticksage_core::documents::sheets::Sheets;
use ticksage_core::formats::papers_table::{self, TableKind, TableReading, key};
use ticksage_core::formats::{documents, table_reader};
use ticksage_core::inference::depth::Depth;
use ticksage_core::questions::changes::{Moved, moved};
use ticksage_core::questions::seller_questions::{Question, questions};
use ticksage_core::reading::quick_line::{self, QuickReading};
use ticksage_core::validation::paper;
use ticksage_core::{AssessError, Candidate, Family};
use ticksage_store::Store;
use ticksage_store::candidates::Record;
use ticksage_store::papers::NamedPaper;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::aside::aside;
use crate::body::{Body, Document};
use crate::judging::{compute, lean, sensible, table};
use crate::problem::Problem;
use crate::views::{CandidateView, PaperItem, Part, PartQuery, changed};

/// Papers in the ledger, or readings, that one candidate holds at most.
pub const PAPERS_LIMIT: usize = 20_000;

/// Papers to be stored, all of them or none.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPapers {
    /// The papers.
    #[schema(min_items = 1, max_items = 20000)]
    pub papers: Vec<PaperItem>,
    /// The paper in whose place the only one comes, if it is a correction.
    #[serde(default)]
    pub corrects: Option<Uuid>,
}

/// Papers to be taken back, or put in force again.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct UndoPapers {
    /// Their ids.
    pub papers: Vec<Uuid>,
    /// True takes them back, false puts them in force again.
    pub undone: bool,
}

/// The candidate after its papers changed, and what that moved.
#[derive(Debug, Serialize, ToSchema)]
pub struct PapersAnswer {
    /// The candidate whole.
    pub view: CandidateView,
    /// What moved.
    pub moved: Moved,
    /// Ids of the papers stored by this request.
    pub stored: Vec<Uuid>,
    /// Papers that were there already and passed over.
    pub already: usize,
}

/// A line as typed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct QuickLine {
    /// The line, as "120500 2021-03 belt+pump invoice".
    #[schema(max_length = 2000)]
    pub line: String,
}

/// A line, read, and what it would move.
#[derive(Debug, Serialize, ToSchema)]
pub struct QuickAnswer {
    /// What was read.
    pub reading: QuickReading,
    /// What the entry would move; none while it is not whole.
    pub moved: Option<Moved>,
}

/// How a table is read.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TableQuery {
    /// Which table it is.
    pub table: TableKind,
    /// Whether words are taken for failure points and scheduled work where they are sure.
    #[serde(default)]
    pub matching: bool,
    /// Whether it is stored; else only read.
    #[serde(default)]
    pub store: bool,
}

/// A table, read, and what came of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct TableAnswer {
    /// The report by line.
    pub reading: TableReading,
    /// The candidate after it was stored; none when it was only read, or refused.
    pub answer: Option<PapersAnswer>,
}

/// Two documents of one candidate.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pair {
    /// Before.
    pub before: Candidate,
    /// After.
    pub after: Candidate,
}

/// Stores something about the papers and says what it moved.
async fn store_and_tell(
    store: &Store,
    id: Uuid,
    before: (Candidate, Sheets),
    stored: Vec<Uuid>,
    already: usize,
    change: impl Future<Output = Result<(), ticksage_store::StoreError>>,
    part: Part,
) -> Result<PapersAnswer, Problem> {
    // One that makes no sense yet has no judgement to compare with: it is being mended.
    let before = lean(before.0, before.1).await.ok();
    change.await?;
    let view = changed(store, id, part).await?;
    let moved = moved(before.as_ref().unwrap_or(view.assessment.whole()), view.assessment.whole(), &table());
    Ok(PapersAnswer { view, moved, stored, already })
}

/// Refuses papers that make no sense, and more of them than a candidate holds.
fn sensible_papers(record: &Record, families: &[Family], papers: &[NamedPaper]) -> Result<(), Problem> {
    let bare = record.candidate.without_papers();
    let faults: Vec<Fault> = papers
        .iter()
        .enumerate()
        .flat_map(|(i, p)| {
            paper::paper_faults(&p.paper, &bare, families)
                .into_iter()
                .map(move |f| Fault { path: format!("/papers/{i}/paper{}", f.path), message: f.message })
        })
        .take(table_reader::SHOWN)
        .collect();
    if !faults.is_empty() {
        return Err(Problem::faulty(faults));
    }
    let held = record.candidate.papers().count() + papers.len();
    if held > PAPERS_LIMIT {
        let message = format!("a candidate holds at most {PAPERS_LIMIT} papers; with these it would be {held}");
        return Err(Problem::fault("/papers", &message));
    }
    Ok(())
}

/// Appends papers that are not there yet, and tells what they moved.
pub(crate) async fn take_in(store: &Store, id: Uuid, papers: Vec<Paper>, part: Part) -> Result<PapersAnswer, Problem> {
    let (record, families) = store.with_families(id).await?;
    let mut known: HashSet<String> = record.candidate.papers().map(|p| key(&p)).collect();
    let all = papers.len();
    let fresh: Vec<NamedPaper> = papers
        .into_iter()
        .filter(|p| known.insert(key(p)))
        .map(|paper| NamedPaper { id: Uuid::new_v4(), paper })
        .collect();
    sensible_papers(&record, &families, &fresh)?;
    let (ids, already) = (fresh.iter().map(|p| p.id).collect(), all - fresh.len());
    store_and_tell(store, id, (record.candidate, families), ids, already, store.add_papers(id, &fresh), part).await
}

/// Appends papers, or puts one in the place of an earlier one.
#[utoipa::path(tag = "papers", params(PartQuery, ("id" = Uuid, Path)), request_body = NewPapers,
    responses((status = 201, body = PapersAnswer), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/candidates/{id}/papers")]
pub async fn add_papers(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    id: web::Path<Uuid>,
    Document(body): Document<NewPapers>,
) -> Result<HttpResponse, Problem> {
    let NewPapers { papers, corrects } = body;
    let named: Vec<NamedPaper> = papers.into_iter().map(|p| NamedPaper { id: p.id, paper: p.paper }).collect();
    let (record, families) = store.with_families(*id).await?;
    sensible_papers(&record, &families, &named)?;
    let ids = named.iter().map(|p| p.id).collect();
    let before = (record.candidate, families);
    let answer = match (corrects, named.as_slice()) {
        (Some(earlier), [one]) if one.id == earlier => {
            return Err(Problem::fault(
                "/corrects",
                "a paper cannot take its own place: give the correction an id of its own",
            ));
        }
        (Some(earlier), [one]) => {
            store_and_tell(&store, *id, before, ids, 0, store.correct_paper(*id, earlier, one), part.part).await?
        }
        (Some(_), _) => return Err(Problem::fault("/papers", "a correction puts one paper in the place of another")),
        (None, _) => store_and_tell(&store, *id, before, ids, 0, store.add_papers(*id, &named), part.part).await?,
    };
    Ok(HttpResponse::Created().json(answer))
}

/// Takes papers back, or puts them in force again; nothing is erased.
#[utoipa::path(tag = "papers", params(PartQuery, ("id" = Uuid, Path)), request_body = UndoPapers,
    responses((status = 200, body = PapersAnswer), (status = 404, body = Problem)))]
#[put("/candidates/{id}/papers/undone")]
pub async fn undo_papers(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    id: web::Path<Uuid>,
    Document(body): Document<UndoPapers>,
) -> Result<web::Json<PapersAnswer>, Problem> {
    let UndoPapers { papers, undone } = body;
    let (record, families) = store.with_families(*id).await?;
    let before = (record.candidate, families);
    let change = store.undo_papers(*id, &papers, undone);
    Ok(web::Json(store_and_tell(&store, *id, before, papers.clone(), 0, change, part.part).await?))
}

/// Reads a line as typed, and says what the entry would move. Nothing is stored.
#[utoipa::path(tag = "papers", params(("id" = Uuid, Path)), request_body = QuickLine,
    responses((status = 200, body = QuickAnswer), (status = 404, body = Problem)))]
#[post("/candidates/{id}/papers/quick")]
pub async fn read_line(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    Document(body): Document<QuickLine>,
) -> Result<web::Json<QuickAnswer>, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let line = body.line;
    let answer = compute(move |budget| {
        let reading = quick_line::read(&line, &record.candidate, &families, &table());
        let entry = reading.entry.clone().filter(|_| reading.faults.is_empty()).map(Paper::Entry);
        let mut reading = reading;
        let mut would = None;
        if let Some(paper) = entry {
            reading.faults.extend(paper::paper_faults(&paper, &record.candidate.without_papers(), &families));
            if reading.faults.is_empty() {
                would = Some(with_and_without(&record.candidate, paper, &families, budget)?);
            }
        }
        Ok(QuickAnswer { reading, moved: would })
    })
    .await?;
    Ok(web::Json(answer))
}

/// What a paper moves, everything else being known.
fn with_and_without(
    without: &Candidate,
    paper: Paper,
    families: &[Family],
    budget: &Budget<'_>,
) -> Result<Moved, AssessError> {
    let mut with = without.clone();
    with.add_paper(paper);
    let judge = |c: &Candidate| assess_within(c, families, &table(), Depth::Lean, budget);
    Ok(moved(&judge(without)?, &judge(&with)?, &table()))
}

/// What papers would move. Nothing is stored.
#[utoipa::path(tag = "papers", params(("id" = Uuid, Path)), request_body = PaperItem,
    responses((status = 200, body = Moved), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/{id}/papers/try")]
pub async fn try_paper(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    Document(body): Document<PaperItem>,
) -> Result<web::Json<Moved>, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let PaperItem { id: name, paper } = body;
    sensible_papers(&record, &families, &[NamedPaper { id: name, paper: paper.clone() }])?;
    Ok(web::Json(compute(move |budget| with_and_without(&record.candidate, paper, &families, budget)).await?))
}

/// What a stored paper moves: the judgement without it against the judgement with it.
#[utoipa::path(tag = "papers", params(("id" = Uuid, Path), ("paper" = Uuid, Path)),
    responses((status = 200, body = Moved), (status = 404, body = Problem)))]
#[get("/candidates/{id}/papers/{paper}/moved")]
pub async fn paper_moved(store: web::Data<Store>, path: web::Path<(Uuid, Uuid)>) -> Result<web::Json<Moved>, Problem> {
    let (id, paper) = path.into_inner();
    let (record, families) = store.with_families(id).await?;
    let place = |ids: &[Uuid]| ids.iter().position(|x| *x == paper);
    let mut without = record.candidate.clone();
    let (ids, c) = (&record.paper_ids, &mut without);
    if let Some(i) = place(&ids.ledger) {
        c.ledger.remove(i);
    } else if let Some(i) = place(&ids.readings) {
        c.readings.remove(i);
    } else if let Some(i) = place(&ids.provenance) {
        c.provenance.remove(i);
    } else if let Some(i) = place(&ids.advisories) {
        c.advisories.remove(i);
    } else if let Some(i) = place(&ids.campaigns) {
        c.campaigns.remove(i);
    } else {
        return Err(Problem::not_found("paper"));
    }
    let judged = compute(move |budget| {
        let judge = |c: &Candidate| assess_within(c, &families, &table(), Depth::Lean, budget);
        Ok(moved(&judge(&without)?, &judge(&record.candidate)?, &table()))
    });
    Ok(web::Json(judged.await?))
}

/// Reads a table of ledger entries or readings with a report by line, and stores it whole if asked to and
/// nothing in it is wrong.
#[utoipa::path(tag = "papers", params(PartQuery, ("id" = Uuid, Path), TableQuery), request_body(content = String, content_type = "text/csv"),
    responses((status = 200, body = TableAnswer), (status = 404, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/{id}/papers/table")]
pub async fn read_table(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    id: web::Path<Uuid>,
    query: web::Query<TableQuery>,
    body: Body,
) -> Result<web::Json<TableAnswer>, Problem> {
    let taken = body?;
    let TableQuery { table: which, matching, store: keep } = query.into_inner();
    let (record, families) = store.with_families(*id).await?;
    let (mut reading, record, families) = aside(move || {
        let reading = papers_table::read(taken.text()?, which, &record.candidate, &families, matching, &table());
        Ok::<_, Problem>((reading, record, families))
    })
    .await?;
    let named: Vec<NamedPaper> =
        std::mem::take(&mut reading.papers).into_iter().map(|paper| NamedPaper { id: Uuid::new_v4(), paper }).collect();
    if !keep || named.is_empty() {
        return Ok(web::Json(TableAnswer { reading, answer: None }));
    }
    sensible_papers(&record, &families, &named)?;
    let ids = named.iter().map(|p| p.id).collect();
    let already = reading.duplicates;
    let change = store.add_papers(*id, &named);
    let answer = store_and_tell(&store, *id, (record.candidate, families), ids, already, change, part.part).await?;
    Ok(web::Json(TableAnswer { reading, answer: Some(answer) }))
}

/// The questions still to ask the seller, in the order of what they are worth.
#[utoipa::path(tag = "papers", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Question>), (status = 404, body = Problem)))]
#[get("/candidates/{id}/questions")]
pub async fn to_ask(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<web::Json<Vec<Question>>, Problem> {
    let (record, families) = store.with_families(*id).await?;
    Ok(web::Json(compute(move |budget| questions(&record.candidate, &families, &table(), budget)).await?))
}

/// What moved from one document to another. Nothing is stored.
#[utoipa::path(tag = "papers", request_body = Pair,
    responses((status = 200, body = Moved), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/assess/compare")]
pub async fn compare(store: web::Data<Store>, body: Body) -> Result<web::Json<Moved>, Problem> {
    let taken = body?;
    let sides = aside(move || {
        let pair: serde_json::Value =
            serde_json::from_str(taken.text()?).map_err(|e| Problem::fault("", &format!("this is not JSON: {e}")))?;
        let side = |name: &str| {
            let document = pair.get(name).unwrap_or(&serde_json::Value::Null);
            documents::read_value(document, |_: &Candidate| Vec::new()).map_err(Problem::faulty)
        };
        Ok::<_, Problem>([side("before")?, side("after")?])
    })
    .await?;
    let mut judged = Vec::with_capacity(2);
    for candidate in sides {
        let families = sensible(&store, &candidate).await?;
        judged.push(lean(candidate, families).await?);
    }
    Ok(web::Json(moved(&judged[0], &judged[1], &table())))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(undo_papers)
        .service(read_line)
        .service(try_paper)
        .service(paper_moved)
        .service(read_table)
        .service(add_papers)
        .service(to_ask)
        .service(compare);
}
