//! The whole yard in one file, while the program runs, and back from it into an empty yard.
//!
//! The file is a ZIP archive: `tables/NAME.jsonl` holds a table, a row of JSON on each line; `files/ID` the photos
//! and documents; `manifest.json`, written last, how many rows there are and the SHA-256 of everything. It depends
//! on no version of PostgreSQL. Paired devices, their codes and links are left out: a copy lets nobody in.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{BufRead, BufReader, Read, Seek, Write};

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use sha2::{Digest, Sha256};
use sqlx::{AssertSqlSafe, PgConnection, Row};
use uuid::Uuid;
use zip::read::ZipArchive;
use zip::write::{SimpleFileOptions, ZipWriter};

use crate::{Store, StoreError, upgrade};

/// The mark of the format; the first version held no issued reports and no settings.
const FORMAT: &str = "ticksage-backup/2";

/// The marks that are read.
const READ: [&str; 2] = ["ticksage-backup/1", FORMAT];

/// Rows that are put back at once.
const ROWS: usize = 200;

/// A table, and its rows as JSON in the order in which they are put back.
type Table = (&'static str, &'static str);

/// Every table that is kept, those first that others name.
const TABLES: [Table; 8] = [
    ("families", "SELECT to_jsonb(t)::text FROM families t ORDER BY id, version"),
    (
        "candidates",
        "SELECT (to_jsonb(t) - 'summary' - 'summary_engine')::text FROM candidates t ORDER BY created_at, id",
    ),
    ("candidate_versions", "SELECT to_jsonb(t)::text FROM candidate_versions t ORDER BY candidate, version"),
    ("findings", "SELECT to_jsonb(t)::text FROM findings t ORDER BY seq"),
    ("papers", "SELECT to_jsonb(t)::text FROM papers t ORDER BY seq"),
    ("attachments", "SELECT (to_jsonb(t) - 'bytes')::text FROM attachments t ORDER BY seq"),
    ("reports", "SELECT to_jsonb(t)::text FROM reports t ORDER BY candidate, number"),
    ("settings", "SELECT to_jsonb(t)::text FROM settings t"),
];

/// Why a yard could not be put into a file or taken from one.
#[derive(Debug, thiserror::Error)]
pub enum BackupError {
    /// The records did not answer, or refused.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The file could not be written or read.
    #[error("the file: {0}")]
    File(#[from] std::io::Error),
    /// The file is no backup, or is not whole.
    #[error("the file is no whole backup of a yard: {0}")]
    NotWhole(String),
    /// A newer program made it.
    #[error("the backup was made by a newer version of the program ({0}): use that one")]
    Newer(String),
    /// There are candidates already.
    #[error("the yard is not empty: it holds {0} candidates. Restore into a new folder with --data")]
    NotEmpty(i64),
    /// A sheet of the same version says something else.
    #[error("the sheet \"{0}\" is there already and says something else than the backup's: raise the version of one")]
    SheetDiffers(String),
}

impl From<sqlx::Error> for BackupError {
    fn from(e: sqlx::Error) -> Self {
        Self::Store(e.into())
    }
}

impl From<zip::result::ZipError> for BackupError {
    fn from(e: zip::result::ZipError) -> Self {
        match e {
            zip::result::ZipError::Io(e) => Self::File(e),
            e => Self::NotWhole(e.to_string()),
        }
    }
}

/// What a backup holds.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Manifest {
    /// Format and its version.
    pub format: String,
    /// Version of the program that made it.
    pub program: String,
    /// Version of the open formats that its documents are in.
    pub document_version: i32,
    /// Rows and SHA-256 of each table.
    pub tables: BTreeMap<String, Held>,
    /// SHA-256 of each photo and document, by its id.
    pub files: BTreeMap<Uuid, String>,
}

/// A table in a backup.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Held {
    /// Rows.
    pub rows: usize,
    /// SHA-256 of its entry, in hexadecimal.
    pub sha256: String,
}

impl Manifest {
    /// Rows of a table.
    #[must_use]
    pub fn rows(&self, table: &str) -> usize {
        self.tables.get(table).map_or(0, |t| t.rows)
    }
}

fn hex(hash: Sha256) -> String {
    hash.finalize().iter().map(|b| format!("{b:02x}")).collect()
}

impl Store {
    /// Writes the whole yard into a file, as it stood at one moment.
    ///
    /// # Errors
    /// [`BackupError`] when the records do not answer or the file cannot be written.
    pub async fn backup<W: Write + Seek>(&self, out: W) -> Result<Manifest, BackupError> {
        let mut tx = self.pool.begin_with("BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY").await?;
        let document_version = sqlx::query_scalar!("SELECT version FROM document_version").fetch_one(&mut *tx).await?;
        let mut zip = ZipWriter::new(out);
        let packed = SimpleFileOptions::default();
        let mut manifest = Manifest {
            format: FORMAT.to_owned(),
            program: env!("CARGO_PKG_VERSION").to_owned(),
            document_version,
            tables: BTreeMap::new(),
            files: BTreeMap::new(),
        };
        for (name, rows) in TABLES {
            zip.start_file(format!("tables/{name}.jsonl"), packed)?;
            let (mut hash, mut count) = (Sha256::new(), 0);
            for row in sqlx::query(rows).fetch_all(&mut *tx).await? {
                let line = row.try_get::<String, _>(0)? + "\n";
                hash.update(&line);
                zip.write_all(line.as_bytes())?;
                count += 1;
            }
            manifest.tables.insert(name.to_owned(), Held { rows: count, sha256: hex(hash) });
        }
        // Photos are packed already.
        let stored = packed.compression_method(zip::CompressionMethod::Stored);
        for id in sqlx::query_scalar!("SELECT id FROM attachments ORDER BY seq").fetch_all(&mut *tx).await? {
            let bytes =
                sqlx::query_scalar!("SELECT bytes FROM attachments WHERE id = $1", id).fetch_one(&mut *tx).await?;
            zip.start_file(format!("files/{id}"), stored)?;
            zip.write_all(&bytes)?;
            manifest.files.insert(id, hex(Sha256::new_with_prefix(&bytes)));
        }
        zip.start_file("manifest.json", packed)?;
        let told = serde_json::to_vec_pretty(&manifest).map_err(|e| BackupError::NotWhole(e.to_string()))?;
        zip.write_all(&told)?;
        zip.finish()?.flush()?;
        tx.commit().await?;
        Ok(manifest)
    }

    /// Puts a backup into an empty yard: all of it, checked, or nothing.
    ///
    /// # Errors
    /// [`BackupError`] says what is wrong with the file, or that the yard is not empty.
    pub async fn restore(&self, file: File) -> Result<Manifest, BackupError> {
        let mut zip = ZipArchive::new(BufReader::new(file))?;
        let manifest = manifest(&mut zip)?;
        let mut tx = self.pool.begin().await?;
        let there = sqlx::query_scalar!(r#"SELECT count(*) AS "count!" FROM candidates"#).fetch_one(&mut *tx).await?;
        if there > 0 {
            return Err(BackupError::NotEmpty(there));
        }
        // What the yard counts in comes with its file.
        sqlx::query(AssertSqlSafe("DELETE FROM settings".to_owned())).execute(&mut *tx).await?;
        for (name, _) in TABLES {
            let put = put_back(&mut tx, &mut zip, name, &manifest).await?;
            if put != manifest.rows(name) {
                let held = manifest.rows(name);
                return Err(BackupError::NotWhole(format!("{name} holds {put} rows of {held}")));
            }
        }
        for serial in ["findings", "papers", "attachments"] {
            let next = format!(
                "SELECT setval(pg_get_serial_sequence('{serial}', 'seq'), (SELECT coalesce(max(seq), 0) + 1 FROM {serial}), false)"
            );
            sqlx::query(AssertSqlSafe(next)).execute(&mut *tx).await?;
        }
        sqlx::query!("UPDATE document_version SET version = $1", manifest.document_version).execute(&mut *tx).await?;
        upgrade::upgrade_documents(&mut tx).await?;
        // What was put back is read once as the application reads it.
        for id in sqlx::query_scalar!("SELECT id FROM candidates").fetch_all(&mut *tx).await? {
            let read = crate::record::read(&mut tx, id).await;
            read.map_err(|e| BackupError::NotWhole(format!("candidate {id} cannot be read: {e}")))?;
        }
        tx.commit().await?;
        self.sheets.forget();
        Ok(manifest)
    }
}

fn manifest<R: Read + Seek>(zip: &mut ZipArchive<R>) -> Result<Manifest, BackupError> {
    let mut text = String::new();
    let missing = |_| BackupError::NotWhole("it has no manifest".to_owned());
    zip.by_name("manifest.json").map_err(missing)?.take(50_000_000).read_to_string(&mut text)?;
    let manifest: Manifest = serde_json::from_str(&text).map_err(|e| BackupError::NotWhole(e.to_string()))?;
    let newer = manifest.document_version > upgrade::VERSION
        || (!READ.contains(&manifest.format.as_str()) && manifest.format.starts_with("ticksage-backup/"));
    if newer {
        return Err(BackupError::Newer(manifest.program));
    }
    if !READ.contains(&manifest.format.as_str()) {
        return Err(BackupError::NotWhole(format!("its format is \"{}\"", manifest.format)));
    }
    Ok(manifest)
}

/// Puts a table back; how many rows.
async fn put_back<R: Read + Seek>(
    tx: &mut PgConnection,
    zip: &mut ZipArchive<R>,
    table: &'static str,
    manifest: &Manifest,
) -> Result<usize, BackupError> {
    let Some(held) = manifest.tables.get(table) else { return Ok(0) };
    let entry = zip.by_name(&format!("tables/{table}.jsonl"));
    let mut lines = BufReader::new(entry?);
    let (mut hash, mut rows, mut put) = (Sha256::new(), Vec::new(), 0);
    let mut waiting = Vec::new();
    loop {
        let mut line = String::new();
        let read = lines.read_line(&mut line)?;
        hash.update(&line);
        if read > 0 {
            let row = serde_json::from_str(&line).map_err(|e| BackupError::NotWhole(format!("{table}: {e}")))?;
            rows.push(Value::Object(row));
            put += 1;
        }
        if rows.len() == ROWS || read == 0 {
            waiting.push(std::mem::take(&mut rows));
        }
        if read == 0 {
            break;
        }
    }
    if hex(hash) != held.sha256 {
        return Err(BackupError::NotWhole(format!("{table} is not what was written")));
    }
    drop(lines);
    for rows in waiting.into_iter().filter(|r| !r.is_empty()) {
        match table {
            "families" => sheets(tx, rows).await?,
            "attachments" => files(tx, zip, rows, manifest).await?,
            _ => insert(tx, table, &Value::Array(rows), None).await?,
        }
    }
    Ok(put)
}

/// Sheets that are not there yet; one that is there says the same.
async fn sheets(tx: &mut PgConnection, rows: Vec<Value>) -> Result<(), BackupError> {
    for row in rows {
        let id = row["id"].as_str().unwrap_or_default().to_owned();
        let version = i32::try_from(row["version"].as_i64().unwrap_or_default()).unwrap_or_default();
        let there = sqlx::query_scalar!("SELECT sheet FROM families WHERE id = $1 AND version = $2", id, version)
            .fetch_optional(&mut *tx)
            .await?;
        match there {
            None => insert(tx, "families", &Value::Array(vec![row]), None).await?,
            Some(sheet) if sheet == row["sheet"] => {}
            // A base sheet ships with the program: the yard's own stands.
            Some(sheet) if sheet["kind"].as_str().is_some_and(|k| k.starts_with("base_")) => {}
            Some(_) => return Err(BackupError::SheetDiffers(format!("{id}/{version}"))),
        }
    }
    Ok(())
}

/// Photos and documents, each with its bytes.
async fn files<R: Read + Seek>(
    tx: &mut PgConnection,
    zip: &mut ZipArchive<R>,
    rows: Vec<Value>,
    manifest: &Manifest,
) -> Result<(), BackupError> {
    for row in rows {
        let id: Uuid = row["id"].as_str().and_then(|i| i.parse().ok()).unwrap_or_default();
        if !matches!(row["media"].as_str(), Some("image/jpeg" | "application/pdf")) {
            return Err(BackupError::NotWhole(format!("file {id} is neither a picture nor a PDF")));
        }
        let mut bytes = Vec::new();
        zip.by_name(&format!("files/{id}"))?.read_to_end(&mut bytes)?;
        if manifest.files.get(&id) != Some(&hex(Sha256::new_with_prefix(&bytes))) {
            return Err(BackupError::NotWhole(format!("file {id} is not what was written")));
        }
        insert(tx, "attachments", &Value::Array(vec![row]), Some(&bytes)).await?;
    }
    Ok(())
}

/// Inserts rows that all name the same columns; columns that they do not name take their defaults.
async fn insert(
    tx: &mut PgConnection,
    table: &'static str,
    rows: &Value,
    bytes: Option<&[u8]>,
) -> Result<(), BackupError> {
    let first: Option<&Map<String, Value>> = rows.get(0).and_then(Value::as_object);
    let columns: Vec<&str> = first.map(|r| r.keys().map(String::as_str).collect()).unwrap_or_default();
    let plain = |c: &&str| !c.is_empty() && c.bytes().all(|b| b.is_ascii_lowercase() || b == b'_');
    if let Some(odd) = columns.iter().find(|c| !plain(c)) {
        return Err(BackupError::NotWhole(format!("{table} has a column \"{odd}\"")));
    }
    let named = columns.join(", ");
    let with_bytes = bytes.map_or("", |_| ", bytes");
    let and_bytes = bytes.map_or("", |_| ", $2");
    let text = format!(
        "INSERT INTO {table} ({named}{with_bytes}) OVERRIDING SYSTEM VALUE \
         SELECT {named}{and_bytes} FROM jsonb_populate_recordset(NULL::{table}, $1)"
    );
    let mut query = sqlx::query(AssertSqlSafe(text)).bind(rows);
    if let Some(bytes) = bytes {
        query = query.bind(bytes);
    }
    match query.execute(&mut *tx).await {
        Ok(_) => Ok(()),
        // 42703: a column that this program does not know.
        Err(sqlx::Error::Database(d)) if d.code().is_some_and(|c| c == "42703") => {
            Err(BackupError::Newer(format!("{table}: {}", d.message())))
        }
        Err(e) => Err(e.into()),
    }
}
