//! Reports as they were issued, and what this yard counts in.

use uuid::Uuid;

use crate::{Store, StoreError};

/// An issued report without its document.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReportHead {
    /// Its id.
    pub id: Uuid,
    /// Its number, counted by candidate from 1.
    pub number: i32,
    /// The fingerprint of its document.
    pub fingerprint: String,
    /// When it was issued, UTC.
    pub issued_at: String,
}

impl Store {
    /// Issues a report: `make` gets its number and the report that it replaces, and gives the document's text with its
    /// fingerprint.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such candidate.
    pub async fn issue_report(
        &self,
        candidate: Uuid,
        make: impl FnOnce(i32, Option<ReportHead>) -> (String, String) + Send,
    ) -> Result<ReportHead, StoreError> {
        let mut tx = self.pool.begin().await?;
        // Two at once come one after the other.
        sqlx::query!("SELECT id FROM candidates WHERE id = $1 FOR UPDATE", candidate)
            .fetch_optional(&mut *tx)
            .await?
            .ok_or(StoreError::NotFound("candidate"))?;
        let last = sqlx::query_as!(
            ReportHead,
            r#"SELECT id, number, fingerprint,
                      to_char(issued_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "issued_at!"
               FROM reports WHERE candidate = $1 ORDER BY number DESC LIMIT 1"#,
            candidate
        )
        .fetch_optional(&mut *tx)
        .await?;
        let number = last.as_ref().map_or(1, |r| r.number + 1);
        let (document, fingerprint) = make(number, last);
        let id = Uuid::new_v4();
        let issued_at = sqlx::query_scalar!(
            r#"INSERT INTO reports (id, candidate, number, document, fingerprint) VALUES ($1, $2, $3, $4, $5)
               RETURNING to_char(issued_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "issued_at!""#,
            id,
            candidate,
            number,
            document,
            fingerprint
        )
        .fetch_one(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(ReportHead { id, number, fingerprint, issued_at })
    }

    /// The issued reports of a candidate, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn reports(&self, candidate: Uuid) -> Result<Vec<ReportHead>, StoreError> {
        Ok(sqlx::query_as!(
            ReportHead,
            r#"SELECT id, number, fingerprint,
                      to_char(issued_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "issued_at!"
               FROM reports WHERE candidate = $1 ORDER BY number DESC"#,
            candidate
        )
        .fetch_all(&self.pool)
        .await?)
    }

    /// The document of an issued report of a candidate.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it has no such report.
    pub async fn report(&self, candidate: Uuid, id: Uuid) -> Result<String, StoreError> {
        sqlx::query_scalar!("SELECT document FROM reports WHERE candidate = $1 AND id = $2", candidate, id)
            .fetch_optional(&self.pool)
            .await?
            .ok_or(StoreError::NotFound("report"))
    }

    /// What this yard counts in; none before it was asked.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn settings(&self) -> Result<Option<serde_json::Value>, StoreError> {
        Ok(sqlx::query_scalar!("SELECT document FROM settings").fetch_optional(&self.pool).await?)
    }

    /// Stores what this yard counts in.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_settings(&self, document: &serde_json::Value) -> Result<(), StoreError> {
        sqlx::query!(
            "INSERT INTO settings (document) VALUES ($1) ON CONFLICT (one) DO UPDATE SET document = excluded.document",
            document
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }
}
