//! What the routes answer with: the yard's entries, and a candidate whole.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use ticksage_core::assess::judge::COMPUTATION;
use ticksage_core::base::fault::Fault;
use ticksage_core::decision::point_result::PointResult;
use ticksage_core::decision::value_of_information::OpenCheck;
use ticksage_core::decision::walk_round::Walk;
use ticksage_core::documents::applicability::walk_round;
use ticksage_core::documents::check::{Check, Link};
use ticksage_core::documents::paper::Paper;
use ticksage_core::documents::pricing::priced;
use ticksage_core::reading::measured::{Field, fields};
use ticksage_core::{Assessment, Assumptions, Candidate, Family};
use ticksage_store::Store;
use ticksage_store::candidates::Record;
use ticksage_store::papers::{AttachmentHead, PaperIds};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::judging::{JUDGEMENTS, Judged, Text, Told};
use crate::problem::Problem;
use crate::report_file::fingerprint_of;
use crate::road::Road;
use crate::summary::Summary;

/// A file behind a paper or a check.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct AttachmentView {
    /// Its id.
    pub id: Uuid,
    /// The paper that it stands behind, if it is one.
    pub paper: Option<Uuid>,
    /// The family of the check that it stands behind, if it is one.
    pub family: Option<String>,
    /// That check.
    pub check: Option<String>,
    /// The file's name.
    pub name: String,
    /// Media type.
    pub media: String,
    /// Bytes.
    pub size: i32,
}

impl From<AttachmentHead> for AttachmentView {
    fn from(a: AttachmentHead) -> Self {
        let AttachmentHead { id, paper, family, check, name, media, size } = a;
        Self { id, paper, family, check, name, media, size }
    }
}

/// A candidate in the yard.
#[derive(Debug, Serialize, ToSchema)]
pub struct YardEntry {
    /// Its id.
    pub id: Uuid,
    /// Version of its document.
    pub version: i32,
    /// Its title.
    pub title: String,
    /// At a glance; none where the document makes no sense.
    pub summary: Option<Summary>,
    /// What is wrong with the document, where it cannot be judged.
    pub faults: Vec<Fault>,
}

impl YardEntry {
    /// One that makes sense.
    pub(crate) fn of(id: Uuid, version: i32, summary: Summary) -> Self {
        Self { id, version, title: summary.title.clone(), summary: Some(summary), faults: Vec::new() }
    }
}

/// A stored document as it is, without a judgement: for one that makes no sense and is to be mended.
#[derive(Debug, Serialize, ToSchema)]
pub struct DocumentView {
    /// Its id.
    pub id: Uuid,
    /// Version of its document.
    pub version: i32,
    /// Put away from the yard.
    pub archived: bool,
    /// The document.
    pub candidate: Candidate,
    /// Ids of the findings, in the document's order.
    pub finding_ids: Vec<Uuid>,
    /// Ids of the papers, list by list, in the document's order.
    pub paper_ids: PaperIdsView,
    /// What is wrong with it.
    pub faults: Vec<Fault>,
}

/// A candidate whole: the document, its checks and what they add up to.
#[derive(Debug, Serialize, ToSchema)]
pub struct CandidateView {
    /// Its id.
    pub id: Uuid,
    /// Version of its document, to be sent back with an edit.
    pub version: i32,
    /// Put away from the yard.
    pub archived: bool,
    /// The document.
    pub candidate: Candidate,
    /// Ids of the findings, in the document's order; in an answer for the walk-round, and in a whole one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub finding_ids: Option<Vec<Uuid>>,
    /// Ids of the papers, list by list, in the document's order.
    pub paper_ids: PaperIdsView,
    /// Papers taken back, the latest first, at most twenty.
    pub taken_back: Vec<PaperItem>,
    /// Files behind the papers.
    pub attachments: Vec<AttachmentView>,
    /// Other candidates that hold the same set of comparables.
    pub shares_comparables: Vec<Uuid>,
    /// Checks that concern it, in the order of work; in an answer for the walk-round, and in a whole one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub checks: Option<Vec<CheckView>>,
    /// The judgement; its figures have the digits that anybody reads. In an answer for a screen its
    /// lists of points, of actions of the walk-round and of outcomes of open checks are empty.
    #[schema(value_type = Assessment)]
    pub assessment: Told,
    /// The lines of the road, in an answer for a screen.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Road>)]
    pub road: Option<Told>,
    /// The walk-round, in an answer for its screen.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<WalkPart>)]
    pub walk_round: Option<Told>,
    /// The state that all this is of: other parts of the same state belong to it.
    pub state: String,
}

/// For which screen an answer is.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case", try_from = "String")]
pub enum Part {
    /// Everything.
    #[default]
    Whole,
    /// The road, the bill and the verdict: lines in the place of points, and no checks.
    Road,
    /// The same with the checks and the plan of the walk-round.
    Walk,
}

impl TryFrom<String> for Part {
    type Error = String;

    fn try_from(name: String) -> Result<Self, String> {
        match name.as_str() {
            "whole" => Ok(Self::Whole),
            "road" => Ok(Self::Road),
            "walk" => Ok(Self::Walk),
            _ => Err(format!("part: \"{name}\" is none; there are whole, road and walk")),
        }
    }
}

/// For which screen an answer is.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PartQuery {
    /// The part asked for; none means everything.
    #[serde(default)]
    pub part: Part,
}

/// The walk-round of a judgement.
#[derive(Debug, Serialize, ToSchema)]
pub struct WalkPart {
    /// The plan.
    pub walk: Walk,
    /// What each check that is not done would tell.
    pub open_checks: Vec<OpenCheck>,
}

/// The walk-round of a candidate with its checks.
#[derive(Debug, Serialize, ToSchema)]
pub struct WalkView {
    /// The state that it is of.
    pub state: String,
    /// Ids of the findings, in the document's order.
    pub finding_ids: Vec<Uuid>,
    /// Checks that concern it, in the order of work.
    pub checks: Vec<CheckView>,
    /// The walk-round.
    #[schema(value_type = WalkPart)]
    pub walk_round: Told,
}

/// The failure points of a candidate, each with all that stands behind its line.
#[derive(Debug, Serialize, ToSchema)]
pub struct PointsView {
    /// The state that they are of; none for a document that is tried out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub state: Option<String>,
    /// The points.
    #[schema(value_type = Vec<PointResult>)]
    pub points: Told,
}

/// A judgement of a document that is tried out, as the road shows it.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoadJudgement {
    /// The judgement with empty lists of points, actions of the walk-round and outcomes of open checks.
    #[schema(value_type = Assessment)]
    pub assessment: Told,
    /// The lines of the road.
    #[schema(value_type = Road)]
    pub road: Told,
}

impl RoadJudgement {
    pub(crate) fn new(judged: &Arc<Judged>) -> Self {
        Self { assessment: Told::new(judged, Text::Rest), road: Told::new(judged, Text::Road) }
    }
}

/// Ids of a candidate's papers, list by list, in the document's order.
#[derive(Debug, Serialize, ToSchema)]
pub struct PaperIdsView {
    /// Ledger entries.
    pub ledger: Vec<Uuid>,
    /// Readings.
    pub readings: Vec<Uuid>,
    /// Items of history reports.
    pub provenance: Vec<Uuid>,
    /// Advisories.
    pub advisories: Vec<Uuid>,
    /// Campaigns.
    pub campaigns: Vec<Uuid>,
    /// Scans.
    pub scans: Vec<Uuid>,
}

impl From<PaperIds> for PaperIdsView {
    fn from(ids: PaperIds) -> Self {
        let PaperIds { ledger, readings, provenance, advisories, campaigns, scans } = ids;
        Self { ledger, readings, provenance, advisories, campaigns, scans }
    }
}

/// A check of one of its families.
#[derive(Debug, Serialize, ToSchema)]
pub struct CheckView {
    /// The family.
    pub family: String,
    /// The check.
    pub check: Check,
    /// The outcome that holds; none while it is not done.
    pub outcome: Option<usize>,
    /// What is filled in where it measures.
    pub fields: Vec<Field>,
}

/// A check as it is done and read; the chances behind it stay in its sheet.
fn shown(c: &Check) -> Check {
    let links = c.links.iter().map(|l| Link { present: Vec::new(), coming: None, ..l.clone() }).collect();
    Check { leak: Vec::new(), care_sign: None, scan: Vec::new(), links, ..c.clone() }
}

/// The checks of a candidate as its walk-round shows them.
fn checks_of(record: &Record, families: &[Family]) -> Vec<CheckView> {
    let table = Assumptions::default();
    let families: Vec<Family> = families.iter().map(|f| priced(f.clone(), &table)).collect();
    walk_round(&record.candidate, &families, &table)
        .into_iter()
        .map(|(f, c)| CheckView {
            family: f.id.clone(),
            check: shown(c),
            outcome: record.candidate.outcome_of(f, c),
            fields: c.measure.as_ref().map_or_else(Vec::new, fields),
        })
        .collect()
}

/// The mark of a state of a candidate: of all that an answer about it is made from.
pub(crate) async fn state_mark(store: &Store, id: Uuid) -> Result<String, Problem> {
    let state = fingerprint_of(format!("{COMPUTATION} {}", store.state(id).await?).as_bytes());
    Ok(state[..32].to_owned())
}

/// A candidate for a screen.
pub(crate) async fn view(store: &Store, id: Uuid, part: Part) -> Result<CandidateView, Problem> {
    // Before the candidate is read: where it changes meanwhile the mark is the older one, and the next look finds it.
    let state = state_mark(store, id).await?;
    let (record, families) = store.with_families(id).await?;
    let judged = JUDGEMENTS.of(&record, &families).await?;
    let checks = (part != Part::Road).then(|| checks_of(&record, &families));
    let shares_comparables = store.sharing_comparables(id).await?;
    let told = |text| Told::new(&judged, text);
    Ok(CandidateView {
        shares_comparables,
        id: record.id,
        version: record.version,
        archived: record.archived,
        finding_ids: (part != Part::Road).then_some(record.finding_ids),
        paper_ids: record.paper_ids.into(),
        taken_back: record.taken_back.into_iter().map(|p| PaperItem { id: p.id, paper: p.paper }).collect(),
        attachments: record.attachments.into_iter().map(AttachmentView::from).collect(),
        candidate: record.candidate,
        checks,
        assessment: told(if part == Part::Whole { Text::Whole } else { Text::Rest }),
        road: (part != Part::Whole).then(|| told(Text::Road)),
        walk_round: (part == Part::Walk).then(|| told(Text::Walk)),
        state,
    })
}

/// The walk-round of a candidate.
pub(crate) async fn walk_view(store: &Store, id: Uuid) -> Result<WalkView, Problem> {
    let state = state_mark(store, id).await?;
    let (record, families) = store.with_families(id).await?;
    let judged = JUDGEMENTS.of(&record, &families).await?;
    let checks = checks_of(&record, &families);
    Ok(WalkView { state, finding_ids: record.finding_ids, checks, walk_round: Told::new(&judged, Text::Walk) })
}

/// The points of a candidate.
pub(crate) async fn points_view(store: &Store, id: Uuid) -> Result<PointsView, Problem> {
    let state = state_mark(store, id).await?;
    let (record, families) = store.with_families(id).await?;
    let judged = JUDGEMENTS.of(&record, &families).await?;
    Ok(PointsView { state: Some(state), points: Told::new(&judged, Text::Points) })
}

/// The candidate as it stands after a change, with a glance at it kept for the yard.
pub(crate) async fn changed(store: &Store, id: Uuid, part: Part) -> Result<CandidateView, Problem> {
    let view = view(store, id, part).await?;
    if let Err(e) = glance(store, id).await {
        tracing::warn!("a summary could not be kept: {e}");
    }
    Ok(view)
}

/// The glance at a candidate: the one that is kept, or a new one, made once for all who ask and kept.
pub(crate) async fn glance(store: &Store, id: Uuid) -> Result<Summary, Problem> {
    let kept = store.summary(id, COMPUTATION).await?;
    if let Some(kept) = kept.and_then(|s| serde_json::from_value(s).ok()) {
        return Ok(kept);
    }
    let (record, families) = store.with_families(id).await?;
    let assessment = JUDGEMENTS.of(&record, &families).await?;
    let summary = Summary::new(&record.candidate, &families, &assessment.whole);
    keep(store, &record, &summary).await;
    Ok(summary)
}

/// Keeps a glance for the yard; a failure to keep it costs only time later.
async fn keep(store: &Store, record: &Record, summary: &Summary) {
    match serde_json::to_value(summary) {
        Ok(value) => {
            if let Err(e) = store.keep_summary(record, COMPUTATION, &value).await {
                tracing::warn!("a summary could not be kept: {e}");
            }
        }
        Err(e) => tracing::warn!("a summary could not be written: {e}"),
    }
}

/// A paper to be stored.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PaperItem {
    /// An id of the sender's choosing; the same id twice is stored once.
    pub id: Uuid,
    /// The paper.
    pub paper: Paper,
}
