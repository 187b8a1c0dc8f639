//! Findings: appended, taken back, never overwritten.

use sqlx::types::Json;
use ticksage_core::documents::finding::Finding;
use uuid::Uuid;

use crate::record::touch;
use crate::undo::Evidence;
use crate::{Store, StoreError, sense};

impl Store {
    /// Appends a finding under an id of the sender's choosing; sending it twice stores it once.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such candidate, [`StoreError::Differs`] when the id is taken by
    /// another finding.
    pub async fn add_finding(&self, candidate: Uuid, id: Uuid, finding: &Finding) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        touch(&mut tx, candidate).await?;
        let before = sense::faults(&mut tx, candidate).await?;
        let added = sqlx::query!(
            "INSERT INTO findings (id, candidate, body) VALUES ($1, $2, $3) ON CONFLICT (id) DO NOTHING",
            id,
            candidate,
            Json(finding) as _
        )
        .execute(&mut *tx)
        .await?;
        if added.rows_affected() == 0 {
            // Sent again after a lost answer, it is the same but for its time where the first had none.
            let stored =
                sqlx::query!(r#"SELECT candidate, body AS "body: Json<Finding>" FROM findings WHERE id = $1"#, id)
                    .fetch_one(&mut *tx)
                    .await?;
            let same = Finding { at: finding.at.clone(), ..stored.body.0 };
            if stored.candidate != candidate || same != *finding {
                return Err(StoreError::Differs("finding"));
            }
            // Nothing changed: the mark that something did is taken back with the transaction.
            return Ok(());
        }
        sense::no_worse(&mut tx, candidate, &before).await?;
        tx.commit().await?;
        Ok(())
    }

    /// Takes a finding back, or puts it in force again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the candidate has no such finding.
    pub async fn undo_finding(&self, candidate: Uuid, id: Uuid, undone: bool) -> Result<(), StoreError> {
        self.undo(candidate, (Evidence::Finding, id), undone).await
    }
}
