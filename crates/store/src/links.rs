//! Links that let somebody read one candidate, until a date and until taken back.

use uuid::Uuid;

use crate::devices::hash;
use crate::{Store, StoreError};

/// A link, without its token: that is told once, when it is made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Link {
    /// Its id.
    pub id: Uuid,
    /// For whom: `customer` or `seller`.
    pub audience: String,
    /// The last moment at which it opens, UTC.
    pub until: String,
    /// When it was made, UTC.
    pub made_at: String,
    /// Whether it still opens.
    pub open: bool,
}

/// What a token opens.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Opened {
    /// The candidate.
    pub candidate: Uuid,
    /// For whom: `customer` or `seller`.
    pub audience: String,
    /// The issued report that a customer reads.
    pub report: Option<Uuid>,
    /// The last moment at which it opens, UTC.
    pub until: String,
}

impl Store {
    /// Stores a link that opens for so many days.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such candidate.
    pub async fn add_link(
        &self,
        candidate: Uuid,
        (audience, report): (&str, Option<Uuid>),
        days: i32,
        token: &str,
    ) -> Result<Uuid, StoreError> {
        let id = Uuid::new_v4();
        let done = sqlx::query!(
            "INSERT INTO links (id, token_hash, candidate, audience, until, report)
             SELECT $1, $2, c.id, $4, now() + make_interval(days => $5), $6 FROM candidates c WHERE c.id = $3",
            id,
            hash(token),
            candidate,
            audience,
            days,
            report
        )
        .execute(&self.pool)
        .await?
        .rows_affected();
        if done == 1 { Ok(id) } else { Err(StoreError::NotFound("candidate")) }
    }

    /// The links of a candidate that were not taken back, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn links(&self, candidate: Uuid) -> Result<Vec<Link>, StoreError> {
        Ok(sqlx::query_as!(
            Link,
            r#"SELECT id, audience,
                      to_char(until AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "until!",
                      to_char(made_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "made_at!",
                      until > now() AS "open!"
               FROM links WHERE candidate = $1 AND revoked_at IS NULL ORDER BY links.made_at DESC, id"#,
            candidate
        )
        .fetch_all(&self.pool)
        .await?)
    }

    /// Takes a link of a candidate back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it has no such link.
    pub async fn revoke_link(&self, candidate: Uuid, id: Uuid) -> Result<(), StoreError> {
        let done = sqlx::query!(
            "UPDATE links SET revoked_at = now() WHERE id = $1 AND candidate = $2 AND revoked_at IS NULL",
            id,
            candidate
        )
        .execute(&self.pool)
        .await?
        .rows_affected();
        if done == 1 { Ok(()) } else { Err(StoreError::NotFound("link")) }
    }

    /// What a token opens now.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it opens nothing: wrong, too old, or taken back.
    pub async fn open_link(&self, token: &str) -> Result<Opened, StoreError> {
        sqlx::query_as!(
            Opened,
            r#"SELECT candidate, audience, report, to_char(until AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "until!"
               FROM links WHERE token_hash = $1 AND revoked_at IS NULL AND until > now()"#,
            hash(token)
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::NotFound("link"))
    }
}
