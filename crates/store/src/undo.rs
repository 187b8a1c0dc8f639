//! Taking evidence back, or putting it in force again: a mark, and nothing is erased.

use sqlx::PgConnection;
use uuid::Uuid;

use crate::record::touch;
use crate::{Store, StoreError, sense};

/// What is taken back.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Evidence {
    Finding,
    Paper,
    Attachment,
}

/// Marks it as taken back, or in force. A paper must be in the other state: of two people who take one back, the
/// second is told.
pub(crate) async fn mark(
    tx: &mut PgConnection,
    candidate: Uuid,
    (what, id): (Evidence, Uuid),
    undone: bool,
) -> Result<(), StoreError> {
    let (done, name) = match what {
        Evidence::Finding => {
            let marked = sqlx::query!(
                "UPDATE findings SET undone_at = CASE WHEN $3 THEN now() END WHERE id = $1 AND candidate = $2",
                id,
                candidate,
                undone
            );
            (marked.execute(&mut *tx).await?, "finding")
        }
        Evidence::Paper => {
            let marked = sqlx::query!(
                "UPDATE papers SET undone_at = CASE WHEN $3 THEN now() END
         WHERE id = $1 AND candidate = $2 AND (undone_at IS NULL) = $3",
                id,
                candidate,
                undone
            );
            (marked.execute(&mut *tx).await?, "paper in that state")
        }
        Evidence::Attachment => {
            let marked = sqlx::query!(
                "UPDATE attachments SET undone_at = CASE WHEN $3 THEN now() END WHERE id = $1 AND candidate = $2",
                id,
                candidate,
                undone
            );
            (marked.execute(&mut *tx).await?, "attachment")
        }
    };
    if done.rows_affected() == 1 { Ok(()) } else { Err(StoreError::NotFound(name)) }
}

impl Store {
    /// Takes one thing back, or puts it in force again, where the document makes sense afterwards.
    pub(crate) async fn undo(
        &self,
        candidate: Uuid,
        evidence: (Evidence, Uuid),
        undone: bool,
    ) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        touch(&mut tx, candidate).await?;
        let before = sense::faults(&mut tx, candidate).await?;
        mark(&mut tx, candidate, evidence, undone).await?;
        sense::no_worse(&mut tx, candidate, &before).await?;
        tx.commit().await?;
        Ok(())
    }
}
