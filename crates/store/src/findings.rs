//! Findings: appended, taken back, never overwritten.

use sqlx::types::Json;
use ticksage_core::documents::finding::Finding;
use uuid::Uuid;

use crate::{Store, StoreError, sense};

impl Store {
    /// Appends a finding under a name of the sender's choosing; sending it twice stores it once.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such candidate.
    pub async fn add_finding(&self, candidate: Uuid, id: Uuid, finding: &Finding) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        touch(&mut tx, candidate).await?;
        let before = sense::faults(&mut tx, candidate).await?;
        sqlx::query!(
            "INSERT INTO findings (id, candidate, body) VALUES ($1, $2, $3) ON CONFLICT (id) DO NOTHING",
            id,
            candidate,
            Json(finding) as _
        )
        .execute(&mut *tx)
        .await?;
        sense::no_worse(&mut tx, candidate, &before).await?;
        tx.commit().await?;
        Ok(())
    }

    /// Takes a finding back, or puts it in force again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the candidate has no such finding.
    pub async fn undo_finding(&self, candidate: Uuid, id: Uuid, undone: bool) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        touch(&mut tx, candidate).await?;
        let before = sense::faults(&mut tx, candidate).await?;
        let done = sqlx::query!(
            "UPDATE findings SET undone_at = CASE WHEN $3 THEN now() END WHERE id = $1 AND candidate = $2",
            id,
            candidate,
            undone
        )
        .execute(&mut *tx)
        .await?
        .rows_affected();
        if done == 0 {
            return Err(StoreError::NotFound("finding"));
        }
        sense::no_worse(&mut tx, candidate, &before).await?;
        tx.commit().await?;
        Ok(())
    }
}

/// Marks that the candidate's evidence moved on.
pub(crate) async fn touch(tx: &mut sqlx::PgConnection, candidate: Uuid) -> Result<(), StoreError> {
    let done = sqlx::query!(
        "UPDATE candidates SET evidence = evidence + 1, changed_at = now(), summary = NULL WHERE id = $1",
        candidate
    )
    .execute(&mut *tx)
    .await?
    .rows_affected();
    if done == 1 { Ok(()) } else { Err(StoreError::NotFound("candidate")) }
}
