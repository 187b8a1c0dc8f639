//! Family sheets.

use std::sync::Arc;

use sqlx::PgConnection;
use sqlx::types::Json;
use ticksage_core::Family;
use ticksage_core::documents::candidate::FamilyRef;
use ticksage_core::documents::sheets::Sheets;

use crate::{Store, StoreError};

/// Whether a sheet was new.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Put {
    /// Stored now.
    Added,
    /// The same sheet was stored already.
    AlreadyThere,
}

/// Stores a sheet inside a transaction.
pub(crate) async fn put(tx: &mut sqlx::PgConnection, family: &Family) -> Result<Put, StoreError> {
    let version = i32::try_from(family.version).unwrap_or(i32::MAX);
    let added = sqlx::query!(
        "INSERT INTO families (id, version, sheet) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING",
        family.id,
        version,
        Json(family) as _
    )
    .execute(&mut *tx)
    .await?
    .rows_affected();
    if added == 1 {
        return Ok(Put::Added);
    }
    let stored = sqlx::query_scalar!(
        r#"SELECT sheet AS "sheet: Json<Family>" FROM families WHERE id = $1 AND version = $2"#,
        family.id,
        version
    )
    .fetch_one(&mut *tx)
    .await?;
    if stored.0 == *family {
        Ok(Put::AlreadyThere)
    } else {
        Err(StoreError::SheetDiffers { id: family.id.clone(), version: family.version })
    }
}

/// The sheets named; those that are not stored are missing from the answer.
pub(crate) async fn named(tx: &mut PgConnection, refs: &[FamilyRef]) -> Result<Vec<Family>, StoreError> {
    let ids: Vec<String> = refs.iter().map(|r| r.id.clone()).collect();
    let versions: Vec<i32> = refs.iter().map(|r| i32::try_from(r.version).unwrap_or(i32::MAX)).collect();
    let rows = sqlx::query_scalar!(
        r#"SELECT sheet AS "sheet: Json<Family>" FROM families
               WHERE (id, version) IN (SELECT * FROM unnest($1::text[], $2::integer[])) ORDER BY id, version"#,
        &ids,
        &versions
    )
    .fetch_all(&mut *tx)
    .await?;
    Ok(rows.into_iter().map(|j| j.0).collect())
}

/// How a family stands in the yard.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Standing {
    /// Its id.
    pub id: String,
    /// When its newest sheet was stored, UTC.
    pub changed: String,
    /// Candidates of the yard that name it, those put away left out.
    pub judged: i64,
}

impl Store {
    /// When each family's newest sheet was stored, and how many candidates are judged by it.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn standing(&self) -> Result<Vec<Standing>, StoreError> {
        let rows = sqlx::query_as!(
            Standing,
            r#"SELECT f.id, to_char(max(f.added_at) AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS "changed!",
                   (SELECT count(*) FROM candidates c WHERE NOT c.archived
                       AND c.body->'families' @> jsonb_build_array(jsonb_build_object('id', f.id))) AS "judged!"
               FROM families f GROUP BY f.id ORDER BY f.id"#
        )
        .fetch_all(&self.pool)
        .await?;
        Ok(rows)
    }

    /// Stores a sheet; a version once stored never changes.
    ///
    /// # Errors
    /// [`StoreError::SheetDiffers`] when another sheet of this id and version is stored.
    pub async fn put_family(&self, family: &Family) -> Result<Put, StoreError> {
        let mut tx = self.pool.begin().await?;
        let put = put(&mut tx, family).await?;
        tx.commit().await?;
        Ok(put)
    }

    /// The newest sheet of every family, by name.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn families(&self) -> Result<Vec<Family>, StoreError> {
        let rows = sqlx::query_scalar!(
            r#"SELECT DISTINCT ON (id) sheet AS "sheet: Json<Family>" FROM families ORDER BY id, version DESC"#
        )
        .fetch_all(&self.pool)
        .await?;
        let mut out: Vec<Family> = rows.into_iter().map(|j| j.0).collect();
        out.sort_by(|x, y| x.name.cmp(&y.name));
        Ok(out)
    }

    /// One sheet: the newest, or a version.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub async fn family(&self, id: &str, version: Option<u32>) -> Result<Family, StoreError> {
        let version = version.map(|v| i32::try_from(v).unwrap_or(i32::MAX));
        let row = sqlx::query_scalar!(
            r#"SELECT sheet AS "sheet: Json<Family>" FROM families
               WHERE id = $1 AND ($2::integer IS NULL OR version = $2) ORDER BY version DESC LIMIT 1"#,
            id,
            version
        )
        .fetch_optional(&self.pool)
        .await?;
        row.map(|j| j.0).ok_or(StoreError::NotFound("family"))
    }

    /// The sheets named; those that are not stored are missing from the answer.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn families_named(&self, refs: &[FamilyRef]) -> Result<Sheets, StoreError> {
        if let Some(set) = self.sheets.set(refs) {
            return Ok(set);
        }
        let (kept, missing) = self.sheets.kept(refs);
        let mut out: Vec<Family> = kept.iter().map(|f| f.as_ref().clone()).collect();
        if !missing.is_empty() {
            for f in named(&mut *self.pool.acquire().await?, &missing).await? {
                self.sheets.keep(&Arc::new(f.clone()));
                out.push(f);
            }
        }
        let whole = out.len() == refs.len();
        // In one order, whichever of them were kept.
        out.sort_by(|x, y| (&x.id, x.version).cmp(&(&y.id, y.version)));
        let out = Sheets::of(out);
        // One that is missing may be stored yet.
        if whole {
            self.sheets.keep_set(refs, &out);
        }
        Ok(out)
    }
}
