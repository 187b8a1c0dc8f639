//! A stored candidate, read whole: the document, its findings and papers, and their ids.

use sqlx::PgConnection;
use sqlx::types::Json;
use ticksage_core::Candidate;
use ticksage_core::documents::finding::Finding;
use uuid::Uuid;

use crate::StoreError;
use crate::papers::{self, AttachmentHead, NamedPaper, PaperIds};

/// A stored candidate with its findings.
#[derive(Debug, Clone, PartialEq)]
pub struct Record {
    /// Its id in the store.
    pub id: Uuid,
    /// Version of the document; raised by every edit.
    pub version: i32,
    /// Count of evidence entered; raised by every finding and every undo.
    pub evidence: i64,
    /// When any of it changed last, microseconds since 1970.
    pub changed: i64,
    /// The document, papers and findings included.
    pub candidate: Candidate,
    /// The findings' own names, in the document's order.
    pub finding_ids: Vec<Uuid>,
    /// The papers' own names, in the document's order.
    pub paper_ids: PaperIds,
    /// Papers taken back, the latest first, at most twenty.
    pub taken_back: Vec<NamedPaper>,
    /// What is attached to the papers.
    pub attachments: Vec<AttachmentHead>,
    /// Put away from the yard.
    pub archived: bool,
}

/// Reads a candidate whole: within a transaction that sees one state of the records, or that holds its row.
pub(crate) async fn read(tx: &mut PgConnection, id: Uuid) -> Result<Record, StoreError> {
    let row = sqlx::query!(
            r#"SELECT version, evidence, archived, (extract(epoch FROM changed_at) * 1000000)::bigint AS "changed!", body AS "body: Json<Candidate>" FROM candidates WHERE id = $1"#,
            id
        )
        .fetch_optional(&mut *tx)
        .await?
        .ok_or(StoreError::NotFound("candidate"))?;
    let findings = sqlx::query!(
            r#"SELECT id, body AS "body: Json<Finding>", undone_at IS NOT NULL AS "undone!" FROM findings WHERE candidate = $1 ORDER BY seq"#,
            id
        )
        .fetch_all(&mut *tx)
        .await?;
    let mut candidate = row.body.0;
    let (paper_ids, taken_back) = papers::read(tx, id, &mut candidate).await?;
    let attachments = papers::heads(tx, id).await?;
    let mut finding_ids = Vec::with_capacity(findings.len());
    for f in findings {
        finding_ids.push(f.id);
        candidate.findings.push(Finding { undone: f.undone, ..f.body.0 });
    }
    Ok(Record {
        id,
        version: row.version,
        evidence: row.evidence,
        changed: row.changed,
        candidate,
        finding_ids,
        paper_ids,
        taken_back,
        attachments,
        archived: row.archived,
    })
}

/// Marks that the candidate's evidence moved on.
pub(crate) async fn touch(tx: &mut PgConnection, candidate: Uuid) -> Result<(), StoreError> {
    let done = sqlx::query!(
        "UPDATE candidates SET evidence = evidence + 1, changed_at = now(), summary = NULL WHERE id = $1",
        candidate
    )
    .execute(&mut *tx)
    .await?
    .rows_affected();
    if done == 1 { Ok(()) } else { Err(StoreError::NotFound("candidate")) }
}
