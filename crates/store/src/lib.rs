//! Tick Sage's records in PostgreSQL: families as versioned sheets, candidates with every earlier
//! version kept, findings and papers appended and never overwritten.
//!
//! Every write is one transaction. Nothing is computed here.

#![cfg_attr(test, allow(clippy::unwrap_used, clippy::expect_used))]

pub mod backup;
pub mod candidates;
pub mod cluster;
pub mod devices;
pub mod families;
pub mod findings;
pub mod links;
pub mod papers;
pub mod quotes;
mod record;
pub mod reports;
mod sense;
mod sheets;
mod undo;
mod upgrade;

use std::str::FromStr;
use std::time::Duration;

use sqlx::PgPool;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use ticksage_core::base::fault::Fault;

use crate::sheets::KeptSheets;

/// Why a record could not be read or written.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// There is no such record.
    #[error("no {0} of that name is stored")]
    NotFound(&'static str),
    /// Somebody else changed the record since it was read.
    #[error("it was changed by somebody else meanwhile: version {current} is stored")]
    Conflict {
        /// The version now stored.
        current: i32,
    },
    /// Something of this id is stored already and says something else.
    #[error("the {0} of this id is stored already and says something else: send it under an id of its own")]
    Differs(&'static str),
    /// The disk of the records is full.
    #[error("the disk that holds the records is full")]
    Full,
    /// A sheet of this id and version is stored already and says something else.
    #[error("version {version} of \"{id}\" is stored already and says something else: raise the version")]
    SheetDiffers {
        /// Family id.
        id: String,
        /// Its version.
        version: u32,
    },
    /// After the change the document would make no sense; nothing was changed.
    #[error("the document would make no sense: {}", .0.first().map_or("", |f| f.message.as_str()))]
    Senseless(Vec<Fault>),
    /// A text holds a character that cannot be stored.
    #[error("a text holds a NUL character, which cannot be stored")]
    Unstorable,
    /// The database does not answer; trying again later may work.
    #[error("the database does not answer")]
    Unavailable(#[source] sqlx::Error),
    /// The database answered with an error.
    #[error("the database refused: {0}")]
    Database(#[source] sqlx::Error),
    /// The migrations could not be applied.
    #[error("the database could not be brought up to date: {0}")]
    Migrate(#[from] sqlx::migrate::MigrateError),
}

impl From<sqlx::Error> for StoreError {
    fn from(e: sqlx::Error) -> Self {
        let away = match &e {
            sqlx::Error::Io(_) | sqlx::Error::PoolTimedOut | sqlx::Error::PoolClosed | sqlx::Error::Protocol(_) => true,
            // Class 57P: shutting down, crashed, starting up. Class 08: connection lost.
            sqlx::Error::Database(d) => d.code().is_some_and(|c| c.starts_with("57P") || c.starts_with("08")),
            _ => false,
        };
        // Classes 22P05 and 22021: a character that PostgreSQL holds in no text.
        let unstorable =
            matches!(&e, sqlx::Error::Database(d) if d.code().is_some_and(|c| c == "22P05" || c == "22021"));
        if unstorable {
            return Self::Unstorable;
        }
        // Class 53100: no room on the disk.
        if matches!(&e, sqlx::Error::Database(d) if d.code().is_some_and(|c| c == "53100")) {
            return Self::Full;
        }
        if away { Self::Unavailable(e) } else { Self::Database(e) }
    }
}

/// The records.
#[derive(Debug, Clone)]
pub struct Store {
    pool: PgPool,
    sheets: KeptSheets,
}

impl Store {
    /// Opens a pool on a database; connections are made as they are needed, and made again after
    /// the database was away.
    ///
    /// # Errors
    /// [`StoreError`] when the URL makes no sense.
    pub fn open(url: &str) -> Result<Self, StoreError> {
        // A request that is dropped while a transaction begins leaves it open on its connection, and whoever comes next
        // would write into it, for nothing. So a connection comes back to the pool without one; where there was none
        // the database would warn of that.
        let options = PgConnectOptions::from_str(url)?.options([("client_min_messages", "error")]);
        let pool = PgPoolOptions::new()
            .max_connections(8)
            .acquire_timeout(Duration::from_secs(3))
            .after_release(|connection, _| {
                Box::pin(async move {
                    sqlx::raw_sql("ROLLBACK").execute(connection).await?;
                    Ok(true)
                })
            })
            .connect_lazy_with(options);
        Ok(Self { pool, sheets: KeptSheets::default() })
    }

    /// Brings the database and the documents in it up to date.
    ///
    /// # Errors
    /// [`StoreError`] when it does not answer or a migration fails.
    pub async fn migrate(&self) -> Result<(), StoreError> {
        sqlx::migrate!("./migrations").run(&self.pool).await?;
        let mut tx = self.pool.begin().await?;
        upgrade::upgrade_documents(&mut tx).await?;
        tx.commit().await?;
        Ok(())
    }

    /// Whether the database answers.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when it does not.
    pub async fn ping(&self) -> Result<(), StoreError> {
        sqlx::query("SELECT 1").execute(&self.pool).await?;
        Ok(())
    }

    /// Closes every connection.
    pub async fn close(&self) {
        self.pool.close().await;
    }
}
