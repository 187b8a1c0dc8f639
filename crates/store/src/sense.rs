//! Whether a stored document still makes sense after a change: checked within the transaction that makes the
//! change, while the candidate's row is locked, so that nothing else comes in between.

use sqlx::PgConnection;
use ticksage_core::base::fault::Fault;
use ticksage_core::validation::candidate::candidate_faults;
use uuid::Uuid;

use crate::{StoreError, families, record};

/// What is wrong with a stored document, its papers and findings included.
pub(crate) async fn faults(tx: &mut PgConnection, candidate: Uuid) -> Result<Vec<Fault>, StoreError> {
    let record = record::read(tx, candidate).await?;
    let sheets = families::named(tx, &record.candidate.families).await?;
    Ok(candidate_faults(&record.candidate, &sheets))
}

/// Refuses a change that brought a fault. What was wrong before may stay: it is mended step by step. Places in
/// lists move when something is taken out, so faults are told apart by what they say.
///
/// # Errors
/// [`StoreError::Senseless`] with the new faults.
pub(crate) async fn no_worse(tx: &mut PgConnection, candidate: Uuid, before: &[Fault]) -> Result<(), StoreError> {
    let mut known: Vec<&str> = before.iter().map(|f| f.message.as_str()).collect();
    let mut new = Vec::new();
    for fault in faults(tx, candidate).await? {
        match known.iter().position(|m| *m == fault.message) {
            Some(at) => drop(known.swap_remove(at)),
            None => new.push(fault),
        }
    }
    if new.is_empty() { Ok(()) } else { Err(StoreError::Senseless(new)) }
}
