//! The whole yard as one file.

use std::io::Seek;

use actix_files::NamedFile;
use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{get, web};
use ticksage_store::Store;
use ticksage_store::backup::BackupError;

use crate::aside::apart;
use crate::problem::Problem;

fn problem(e: BackupError) -> Problem {
    match e {
        BackupError::Store(e) => e.into(),
        e => Problem::internal(&e.to_string()),
    }
}

/// Every candidate with its papers, findings and photos, as they stand at this moment.
#[utoipa::path(tag = "service", responses((status = 200, content_type = "application/zip")))]
#[get("/backup")]
pub async fn backup(store: web::Data<Store>) -> Result<NamedFile, Problem> {
    let store = store.get_ref().clone();
    let runtime = tokio::runtime::Handle::current();
    // Written to a file that has no name: it is gone when it was sent.
    let written = apart(move || {
        let failed = |e: std::io::Error| Problem::internal(&format!("a backup could not be written: {e}"));
        let mut file = tempfile::tempfile().map_err(failed)?;
        runtime.block_on(store.backup(&mut file)).map_err(problem)?;
        file.rewind().map_err(failed)?;
        Ok(file)
    });
    let name = format!("ticksage-{}.zip", jiff::ZonedDateTime::now().date());
    let file = NamedFile::from_file(written.await?, &name).map_err(|e| Problem::internal(&e.to_string()))?;
    Ok(file.set_content_disposition(ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(name)],
    }))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(backup);
}
