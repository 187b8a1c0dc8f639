//! Answers that are packed harder than others: they are asked for first, often over a weak line.

use std::io::Write;

use actix_web::http::header::{ContentEncoding, HeaderValue, VARY};
use actix_web::{HttpRequest, HttpResponse, HttpResponseBuilder};
use flate2::Compression;
use flate2::write::GzEncoder;
use serde::Serialize;

use crate::assets::takes_gzip;
use crate::problem::Problem;

/// An answer as JSON, packed where the asker takes it.
///
/// # Errors
/// Where it cannot be written.
pub(crate) fn packed(
    asked: &HttpRequest,
    mut head: HttpResponseBuilder,
    answer: &impl Serialize,
) -> Result<HttpResponse, Problem> {
    if !takes_gzip(asked) {
        return Ok(head.json(answer));
    }
    let amiss = |e: &dyn std::fmt::Display| Problem::internal(&e.to_string());
    let text = serde_json::to_vec(answer).map_err(|e| amiss(&e))?;
    let mut packing = GzEncoder::new(Vec::new(), Compression::default());
    packing.write_all(&text).map_err(|e| amiss(&e))?;
    let small = packing.finish().map_err(|e| amiss(&e))?;
    head.insert_header(ContentEncoding::Gzip).insert_header((VARY, HeaderValue::from_static("accept-encoding")));
    Ok(head.content_type("application/json").body(small))
}

#[cfg(test)]
mod tests {
    use std::io::Read;

    use actix_web::body::to_bytes;
    use actix_web::http::header::CONTENT_ENCODING;
    use actix_web::test::TestRequest;
    use flate2::read::GzDecoder;

    use super::*;

    #[actix_web::test]
    async fn an_answer_is_packed_for_those_who_take_it() {
        let answer = vec!["the same"; 200];
        let plain = packed(&TestRequest::default().to_http_request(), HttpResponse::Ok(), &answer).unwrap();
        assert!(plain.headers().get(CONTENT_ENCODING).is_none());
        let plain = to_bytes(plain.into_body()).await.unwrap();
        let asked = TestRequest::default().insert_header(("accept-encoding", "gzip")).to_http_request();
        let small = packed(&asked, HttpResponse::Ok(), &answer).unwrap();
        assert_eq!(small.headers().get(CONTENT_ENCODING).unwrap(), "gzip");
        let small = to_bytes(small.into_body()).await.unwrap();
        let mut text = Vec::new();
        GzDecoder::new(small.as_ref()).read_to_end(&mut text).unwrap();
        assert!(small.len() < plain.len() / 10 && text == plain);
    }
}
