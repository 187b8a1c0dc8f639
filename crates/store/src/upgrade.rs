//! Stored documents of an earlier version of the open formats, brought to the newest when the program starts.

use serde_json::Value;
use sqlx::PgConnection;
use ticksage_core::formats::upgrade::{upgrade, upgrade_paper};

use crate::StoreError;

/// The version of the open formats that this program stores.
pub(crate) const VERSION: i32 = 2;

/// Upgrades every stored document, in one transaction; where they are of the newest version, nothing is done.
/// Earlier versions of a document are upgraded as well: they are what a person may want back.
pub(crate) async fn upgrade_documents(tx: &mut PgConnection) -> Result<(), StoreError> {
    // Two programs that start at once upgrade one after the other.
    let stored = sqlx::query_scalar!("SELECT version FROM document_version FOR UPDATE").fetch_one(&mut *tx).await?;
    if stored >= VERSION {
        return Ok(());
    }
    families(tx).await?;
    candidates(tx).await?;
    candidate_versions(tx).await?;
    scans(tx).await?;
    sqlx::query!("UPDATE document_version SET version = $1", VERSION).execute(&mut *tx).await?;
    Ok(())
}

fn upgraded(mut document: Value) -> Value {
    upgrade(&mut document);
    document
}

async fn families(tx: &mut PgConnection) -> Result<(), StoreError> {
    let rows = sqlx::query!("SELECT id, version, sheet FROM families").fetch_all(&mut *tx).await?;
    for r in rows {
        let sheet = upgraded(r.sheet);
        sqlx::query!("UPDATE families SET sheet = $3 WHERE id = $1 AND version = $2", r.id, r.version, sheet)
            .execute(&mut *tx)
            .await?;
    }
    Ok(())
}

async fn candidates(tx: &mut PgConnection) -> Result<(), StoreError> {
    let rows = sqlx::query!("SELECT id, body FROM candidates").fetch_all(&mut *tx).await?;
    for r in rows {
        let body = upgraded(r.body);
        sqlx::query!("UPDATE candidates SET body = $2, summary = NULL WHERE id = $1", r.id, body)
            .execute(&mut *tx)
            .await?;
    }
    Ok(())
}

async fn candidate_versions(tx: &mut PgConnection) -> Result<(), StoreError> {
    let rows = sqlx::query!("SELECT candidate, version, body FROM candidate_versions").fetch_all(&mut *tx).await?;
    for r in rows {
        let body = upgraded(r.body);
        sqlx::query!(
            "UPDATE candidate_versions SET body = $3 WHERE candidate = $1 AND version = $2",
            r.candidate,
            r.version,
            body
        )
        .execute(&mut *tx)
        .await?;
    }
    Ok(())
}

async fn scans(tx: &mut PgConnection) -> Result<(), StoreError> {
    let rows = sqlx::query!("SELECT id, body FROM papers WHERE body->>'kind' = 'scan'").fetch_all(&mut *tx).await?;
    for r in rows {
        let mut body = r.body;
        upgrade_paper(&mut body);
        sqlx::query!("UPDATE papers SET body = $2 WHERE id = $1", r.id, body).execute(&mut *tx).await?;
    }
    Ok(())
}
