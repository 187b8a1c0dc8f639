//! Paired devices: short codes that pair one, and the sessions that come of it. Of codes and tokens the hashes
//! alone are stored, so that every instance of the program on these records knows them, and a copy of the records
//! lets nobody in.

use sha2::{Digest, Sha256};
use uuid::Uuid;

use crate::{Store, StoreError};

/// Wrong tries that void a code.
pub const WRONG_TRIES: i32 = 5;

/// Minutes for which a code is valid.
pub const CODE_MINUTES: i32 = 10;

/// A paired device.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Session {
    /// Its id.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// When it was paired: a day and time in UTC, as 2026-11-26T14:40:00Z.
    pub made_at: String,
    /// When it was used last, to the minute.
    pub used_at: String,
}

/// The hash under which a code or a token is stored.
#[must_use]
pub fn hash(secret: &str) -> Vec<u8> {
    Sha256::digest(secret.as_bytes()).to_vec()
}

impl Store {
    /// Stores a new code, which pairs one device within [`CODE_MINUTES`].
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_pairing_code(&self, code: &str) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        sqlx::query!("DELETE FROM pairing_codes WHERE until < now() - interval '1 day'").execute(&mut *tx).await?;
        sqlx::query!(
            "INSERT INTO pairing_codes (id, code_hash, until) VALUES ($1, $2, now() + make_interval(mins => $3))",
            Uuid::new_v4(),
            hash(code),
            CODE_MINUTES
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(())
    }

    /// Pairs a device by a code: stores its session. A wrong code counts against every code that is open.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the code is wrong, used, too old, or void.
    pub async fn pair(&self, code: &str, token: &str, name: &str) -> Result<Uuid, StoreError> {
        let mut tx = self.pool.begin().await?;
        // Two tries at once come one after the other.
        let open = sqlx::query!(
            "SELECT id, code_hash FROM pairing_codes WHERE used_at IS NULL AND wrong < $1 AND until > now()
             ORDER BY id FOR UPDATE",
            WRONG_TRIES
        )
        .fetch_all(&mut *tx)
        .await?;
        let asked = hash(code);
        let Some(found) = open.iter().find(|c| c.code_hash == asked) else {
            let ids: Vec<Uuid> = open.iter().map(|c| c.id).collect();
            sqlx::query!("UPDATE pairing_codes SET wrong = wrong + 1 WHERE id = ANY($1)", &ids)
                .execute(&mut *tx)
                .await?;
            tx.commit().await?;
            return Err(StoreError::NotFound("code"));
        };
        sqlx::query!("UPDATE pairing_codes SET used_at = now() WHERE id = $1", found.id).execute(&mut *tx).await?;
        let id = Uuid::new_v4();
        sqlx::query!("INSERT INTO sessions (id, token_hash, name) VALUES ($1, $2, $3)", id, hash(token), name)
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(id)
    }

    /// Stores a session without a code: for who holds the key of this start of the program.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_session(&self, token: &str, name: &str) -> Result<Uuid, StoreError> {
        let id = Uuid::new_v4();
        sqlx::query!("INSERT INTO sessions (id, token_hash, name) VALUES ($1, $2, $3)", id, hash(token), name)
            .execute(&self.pool)
            .await?;
        Ok(id)
    }

    /// The device that holds a token, if it is paired; its use is noted, to the minute.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn session(&self, token: &str) -> Result<Option<Uuid>, StoreError> {
        let found = sqlx::query!(
            r#"SELECT id, used_at < now() - interval '1 minute' AS "noted_long_ago!" FROM sessions
               WHERE token_hash = $1 AND revoked_at IS NULL"#,
            hash(token)
        )
        .fetch_optional(&self.pool)
        .await?;
        if let Some(s) = &found
            && s.noted_long_ago
        {
            sqlx::query!("UPDATE sessions SET used_at = now() WHERE id = $1", s.id).execute(&self.pool).await?;
        }
        Ok(found.map(|s| s.id))
    }

    /// Every paired device, the last used first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn sessions(&self) -> Result<Vec<Session>, StoreError> {
        Ok(sqlx::query_as!(
            Session,
            r#"SELECT id, name,
                      to_char(made_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "made_at!",
                      to_char(used_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "used_at!"
               FROM sessions WHERE revoked_at IS NULL ORDER BY used_at DESC, id"#
        )
        .fetch_all(&self.pool)
        .await?)
    }

    /// Shuts a device out.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when no such device is paired.
    pub async fn revoke_session(&self, id: Uuid) -> Result<(), StoreError> {
        let done = sqlx::query!("UPDATE sessions SET revoked_at = now() WHERE id = $1 AND revoked_at IS NULL", id)
            .execute(&self.pool)
            .await?
            .rows_affected();
        if done == 1 { Ok(()) } else { Err(StoreError::NotFound("device")) }
    }
}
