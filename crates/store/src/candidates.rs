//! Candidates: the document with its version, every earlier version kept.

use serde_json::Value;
use sqlx::PgConnection;
use sqlx::types::Json;
use ticksage_core::Candidate;
use ticksage_core::documents::candidate::{Bundle, Comparable};
use ticksage_core::documents::finding::Finding;
use ticksage_core::documents::sheets::Sheets;
use uuid::Uuid;

use crate::papers::{self, Attachment, Behind, NamedPaper};
pub use crate::record::Record;
use crate::record::read;
use crate::{Store, StoreError, families, sense};

/// A candidate in the yard, with what was last computed of it.
#[derive(Debug, Clone, PartialEq)]
pub struct YardRow {
    /// Its id in the store.
    pub id: Uuid,
    /// Version of the document.
    pub version: i32,
    /// The summary as the computation named wrote it, if it is still good.
    pub summary: Option<Value>,
}

/// The document as stored: papers and findings live in their own tables.
fn body(candidate: &Candidate) -> Candidate {
    Candidate { findings: Vec::new(), ..candidate.without_papers() }
}

/// A file that comes with a bundle.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BundledFile {
    /// What it stands behind.
    pub behind: BundledBehind,
    /// The file.
    pub file: Attachment,
}

/// What a bundled file stands behind: nothing in a bundle has a name of its own yet.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum BundledBehind {
    /// A paper, by its place among all the candidate's papers.
    Paper(usize),
    /// A check, by its family and its own id.
    Check(String, String),
}

async fn insert(tx: &mut PgConnection, candidate: &Candidate, files: &[BundledFile]) -> Result<Uuid, StoreError> {
    let id = Uuid::new_v4();
    let body = body(candidate);
    sqlx::query!("INSERT INTO candidates (id, body) VALUES ($1, $2)", id, Json(&body) as _).execute(&mut *tx).await?;
    let named: Vec<NamedPaper> = candidate.papers().map(|paper| NamedPaper { id: Uuid::new_v4(), paper }).collect();
    papers::append(&mut *tx, id, &named).await?;
    for finding in &candidate.findings {
        let undone = finding.undone;
        let stored = Finding { undone: false, ..finding.clone() };
        sqlx::query!(
            "INSERT INTO findings (id, candidate, body, undone_at) VALUES ($1, $2, $3, CASE WHEN $4 THEN now() END)",
            Uuid::new_v4(),
            id,
            Json(&stored) as _,
            undone
        )
        .execute(&mut *tx)
        .await?;
    }
    for f in files {
        let behind = match &f.behind {
            BundledBehind::Paper(i) => Behind::Paper(named.get(*i).ok_or(StoreError::NotFound("paper"))?.id),
            BundledBehind::Check(family, check) => Behind::Check { family, check },
        };
        papers::attach(&mut *tx, id, behind, Uuid::new_v4(), &f.file).await?;
    }
    Ok(id)
}

/// Replaces a document that is locked, keeping the earlier one.
async fn replace(tx: &mut PgConnection, id: Uuid, candidate: &Candidate) -> Result<(), StoreError> {
    sqlx::query!(
        "INSERT INTO candidate_versions (candidate, version, body) SELECT id, version, body FROM candidates WHERE id = $1",
        id
    )
    .execute(&mut *tx)
    .await?;
    let body = body(candidate);
    sqlx::query!(
        "UPDATE candidates SET body = $2, version = version + 1, changed_at = now(), summary = NULL WHERE id = $1",
        id,
        Json(&body) as _
    )
    .execute(&mut *tx)
    .await?;
    Ok(())
}

impl Store {
    /// Stores a new candidate, papers and findings included.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn create_candidate(&self, candidate: &Candidate) -> Result<Uuid, StoreError> {
        let mut tx = self.pool.begin().await?;
        let id = insert(&mut tx, candidate, &[]).await?;
        tx.commit().await?;
        Ok(id)
    }

    /// Stores a bundle whole: its sheets, its candidate and the files that come with it, or nothing.
    ///
    /// # Errors
    /// [`StoreError::SheetDiffers`] when a sheet contradicts one that is stored, [`StoreError::NotFound`] when a
    /// file stands behind a paper that is not there.
    pub async fn import_bundle(&self, bundle: &Bundle, files: &[BundledFile]) -> Result<Uuid, StoreError> {
        let mut tx = self.pool.begin().await?;
        for family in &bundle.families {
            families::put(&mut tx, family).await?;
        }
        let id = insert(&mut tx, &bundle.candidate, files).await?;
        tx.commit().await?;
        Ok(id)
    }

    /// One candidate.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub async fn candidate(&self, id: Uuid) -> Result<Record, StoreError> {
        // One state of the records, without a lock: a reader holds up nobody.
        let mut tx = self.pool.begin_with("BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY").await?;
        let record = read(&mut tx, id).await?;
        tx.commit().await?;
        Ok(record)
    }

    /// Replaces the document, keeping the earlier one; papers and findings are not touched.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when it is no longer at `version`.
    pub async fn update_candidate(&self, id: Uuid, version: i32, candidate: &Candidate) -> Result<i32, StoreError> {
        let mut tx = self.pool.begin().await?;
        let current = sqlx::query_scalar!("SELECT version FROM candidates WHERE id = $1 FOR UPDATE", id)
            .fetch_optional(&mut *tx)
            .await?
            .ok_or(StoreError::NotFound("candidate"))?;
        if current != version {
            return Err(StoreError::Conflict { current });
        }
        let before = sense::faults(&mut tx, id).await?;
        replace(&mut tx, id, candidate).await?;
        sense::no_worse(&mut tx, id, &before).await?;
        tx.commit().await?;
        Ok(version + 1)
    }

    /// Gives one set of comparables to several candidates, the first of them at `version`: all or none.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when the first is no longer at `version`, [`StoreError::NotFound`] when one is not
    /// there.
    pub async fn set_comparables(
        &self,
        (first, version): (Uuid, i32),
        others: &[Uuid],
        comparables: &[Comparable],
    ) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        let mut ids: Vec<Uuid> = others.iter().copied().filter(|id| *id != first).chain([first]).collect();
        // Always in the same order, so that two at once never wait for each other.
        ids.sort();
        ids.dedup();
        for id in ids {
            let row = sqlx::query!(
                r#"SELECT version, body AS "body: Json<Candidate>" FROM candidates WHERE id = $1 FOR UPDATE"#,
                id
            )
            .fetch_optional(&mut *tx)
            .await?
            .ok_or(StoreError::NotFound("candidate"))?;
            if id == first && row.version != version {
                return Err(StoreError::Conflict { current: row.version });
            }
            let candidate = Candidate { comparables: comparables.to_vec(), ..row.body.0 };
            let before = sense::faults(&mut tx, id).await?;
            replace(&mut tx, id, &candidate).await?;
            sense::no_worse(&mut tx, id, &before).await?;
        }
        tx.commit().await?;
        Ok(())
    }

    /// Other candidates in the yard that hold the very same set of comparables; none where it holds none.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn sharing_comparables(&self, id: Uuid) -> Result<Vec<Uuid>, StoreError> {
        Ok(sqlx::query_scalar!(
            "SELECT other.id FROM candidates other, candidates own
             WHERE own.id = $1 AND other.id <> $1 AND NOT other.archived
               AND jsonb_array_length(own.body->'comparables') > 0
               AND other.body->'comparables' = own.body->'comparables'
             ORDER BY other.id",
            id
        )
        .fetch_all(&self.pool)
        .await?)
    }

    /// A mark of the state of a candidate and of what else its view shows: another mark, something may have changed.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub async fn state(&self, id: Uuid) -> Result<String, StoreError> {
        sqlx::query_scalar!(
            r#"SELECT concat_ws('-', c.version, c.evidence, (extract(epoch FROM c.changed_at) * 1000000)::bigint, c.archived,
                   (SELECT count(*) || '.' || coalesce(max(a.seq), 0) FROM attachments a
                    WHERE a.candidate = c.id AND a.undone_at IS NULL),
                   (SELECT count(*) || '.' || (extract(epoch FROM max(y.changed_at)) * 1000000)::bigint
                    FROM candidates y WHERE NOT y.archived)) AS "state!"
               FROM candidates c WHERE c.id = $1"#,
            id
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::NotFound("candidate"))
    }

    /// Puts a candidate away from the yard, or back into it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub async fn archive_candidate(&self, id: Uuid, archived: bool) -> Result<(), StoreError> {
        let done = sqlx::query!("UPDATE candidates SET archived = $2 WHERE id = $1", id, archived)
            .execute(&self.pool)
            .await?
            .rows_affected();
        if done == 1 { Ok(()) } else { Err(StoreError::NotFound("candidate")) }
    }

    /// The candidates in the yard, oldest first, with summaries written by `engine`.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn yard(&self, engine: &str) -> Result<Vec<YardRow>, StoreError> {
        let rows = sqlx::query!(
            r#"SELECT id, version, CASE WHEN summary_engine = $1 THEN summary END AS summary
               FROM candidates WHERE NOT archived ORDER BY created_at, id"#,
            engine
        )
        .fetch_all(&self.pool)
        .await?;
        Ok(rows.into_iter().map(|r| YardRow { id: r.id, version: r.version, summary: r.summary }).collect())
    }

    /// What `engine` last computed of a candidate, if it is still good.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub async fn summary(&self, id: Uuid, engine: &str) -> Result<Option<Value>, StoreError> {
        sqlx::query_scalar!(
            "SELECT CASE WHEN summary_engine = $2 THEN summary END AS summary FROM candidates WHERE id = $1",
            id,
            engine
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::NotFound("candidate"))
    }

    /// Keeps what was computed of a record, unless the record moved on meanwhile.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_summary(&self, record: &Record, engine: &str, summary: &Value) -> Result<(), StoreError> {
        sqlx::query!(
            "UPDATE candidates SET summary = $4, summary_engine = $5 WHERE id = $1 AND version = $2 AND evidence = $3",
            record.id,
            record.version,
            record.evidence,
            summary,
            engine
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }

    /// A candidate with every sheet it names.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub async fn with_families(&self, id: Uuid) -> Result<(Record, Sheets), StoreError> {
        let record = self.candidate(id).await?;
        let families = self.families_named(&record.candidate.families).await?;
        Ok((record, families))
    }
}
