//! Bodies of requests: how large they may be, and as text.

use actix_web::{FromRequest, HttpRequest, web};

use crate::problem::Problem;

/// Largest body taken, bytes.
pub const BODY_LIMIT: usize = 8_000_000;

/// A body of at most [`BODY_LIMIT`] bytes, or why it could not be taken.
pub type Body = Result<Taken, Problem>;

/// The bytes of a body.
#[derive(Debug)]
pub struct Taken(web::Bytes);

impl Taken {
    /// The bytes.
    #[must_use]
    pub fn bytes(&self) -> &[u8] {
        &self.0
    }
}

/// Largest body of one route, where it is another than [`BODY_LIMIT`].
#[derive(Debug, Clone, Copy)]
pub struct BodyLimit(pub usize);

impl FromRequest for Taken {
    type Error = Problem;
    type Future = std::pin::Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(req: &HttpRequest, payload: &mut actix_web::dev::Payload) -> Self::Future {
        let limit = req.app_data::<BodyLimit>().map_or(BODY_LIMIT, |l| l.0);
        let bytes = web::Bytes::from_request(req, payload);
        Box::pin(async move { bytes.await.map(Taken).map_err(|e| Problem::body(&e, limit)) })
    }
}

/// The body as text.
pub(crate) fn text(body: &Taken) -> Result<&str, Problem> {
    std::str::from_utf8(&body.0).map_err(|e| Problem::fault("", &format!("the body is not UTF-8: {e}")))
}
