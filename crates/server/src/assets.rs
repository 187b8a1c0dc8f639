//! The built web's own files: their names change with their contents, so that a browser keeps them for good; they were
//! packed when they were built.

use std::path::{Path, PathBuf};

use actix_files::NamedFile;
use actix_web::http::header::{AcceptEncoding, CACHE_CONTROL, ContentEncoding, Encoding, Header, HeaderValue, VARY};
use actix_web::{HttpRequest, HttpResponse, web};

/// For a year, and never asked for again.
const LASTING: &str = "public, max-age=31536000, immutable";

/// Where the files lie.
#[derive(Debug, Clone)]
pub(crate) struct Assets(pub PathBuf);

/// Whether a client takes packed files.
pub(crate) fn takes_gzip(req: &HttpRequest) -> bool {
    AcceptEncoding::parse(req)
        .is_ok_and(|a| a.ranked().iter().any(|e| e.item() == Some(&Encoding::Known(ContentEncoding::Gzip))))
}

/// A file by its name, packed where it is and the client takes that.
pub(crate) async fn asset(req: HttpRequest, name: web::Path<String>, folder: web::Data<Assets>) -> HttpResponse {
    // One plain name: no folder above or below.
    let plain = !name.is_empty() && !name.starts_with('.') && !name.contains(['/', '\\']);
    let file = folder.0.join(name.as_str());
    match opened(&file, plain, takes_gzip(&req)) {
        Some(file) => {
            let mut answer = file.into_response(&req);
            answer.headers_mut().insert(CACHE_CONTROL, HeaderValue::from_static(LASTING));
            answer.headers_mut().insert(VARY, HeaderValue::from_static("accept-encoding"));
            answer
        }
        None => HttpResponse::NotFound().insert_header((CACHE_CONTROL, "no-store")).finish(),
    }
}

fn opened(file: &Path, plain: bool, gzip: bool) -> Option<NamedFile> {
    if !plain {
        return None;
    }
    let whole = NamedFile::open(file).ok()?;
    let mut packed = file.as_os_str().to_owned();
    packed.push(".gz");
    if gzip && let Ok(small) = NamedFile::open(packed) {
        let kind = whole.content_type().clone();
        return Some(small.set_content_type(kind).set_content_encoding(ContentEncoding::Gzip));
    }
    Some(whole)
}
