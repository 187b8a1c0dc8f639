//! Workshops' quotes that this yard has had, so that one candidate's may serve another of its family.

use sqlx::types::Json;
use ticksage_core::documents::quote::Quote;
use uuid::Uuid;

use crate::{Store, StoreError};

/// Most quotes that are told of one job.
const MOST: i64 = 20;

/// A quote and the candidate that it was made for.
#[derive(Debug, Clone, PartialEq)]
pub struct QuoteOf {
    /// The candidate's id.
    pub candidate: Uuid,
    /// What the buyer calls it.
    pub title: String,
    /// The quote.
    pub quote: Quote,
}

impl Store {
    /// The quotes of a family's job on any candidate, those put away included, in a currency; the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn quotes(&self, family: &str, job: &str, currency: &str) -> Result<Vec<QuoteOf>, StoreError> {
        let rows = sqlx::query!(
            r#"SELECT c.id, c.body->>'title' AS "title!", q.quote AS "quote!: Json<Quote>"
               FROM candidates c, jsonb_array_elements(c.body->'quotes') AS q(quote)
               WHERE q.quote->>'family' = $1 AND q.quote->>'job' = $2 AND c.body->>'currency' = $3
               ORDER BY q.quote->>'date' DESC, c.id LIMIT $4"#,
            family,
            job,
            currency,
            MOST
        )
        .fetch_all(&self.pool)
        .await?;
        let told = rows.into_iter();
        Ok(told.map(|r| QuoteOf { candidate: r.id, title: r.title, quote: r.quote.0 }).collect())
    }
}
