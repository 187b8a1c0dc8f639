//! Bodies of requests: how large they may be, how slowly they may come, as text, and as documents that are held
//! to their schema.

use std::time::Duration;

use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest, web};
use futures_util::StreamExt;
use serde::de::DeserializeOwned;
use ticksage_core::formats::documents;
use utoipa::{PartialSchema, ToSchema};

use crate::aside::aside;
use crate::problem::Problem;

/// Largest body taken, bytes.
pub const BODY_LIMIT: usize = 8_000_000;

/// How long the next part of a body may take to come.
const PATIENCE: Duration = Duration::from_secs(20);

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

    /// As text.
    ///
    /// # Errors
    /// When it is not UTF-8.
    pub fn text(&self) -> Result<&str, Problem> {
        std::str::from_utf8(&self.0).map_err(|e| Problem::fault("", &format!("the body is not UTF-8: {e}")))
    }
}

/// Largest body of one route, where it is another than [`BODY_LIMIT`].
#[derive(Debug, Clone, Copy)]
pub struct BodyLimit(pub usize);

/// How long the next part of a body may take, where it is another than usual.
#[derive(Debug, Clone, Copy)]
pub struct BodyPatience(pub Duration);

impl FromRequest for Taken {
    type Error = Problem;
    type Future = std::pin::Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(req: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let limit = req.app_data::<BodyLimit>().map_or(BODY_LIMIT, |l| l.0);
        let patience = req.app_data::<BodyPatience>().map_or(PATIENCE, |p| p.0);
        let announced = req.headers().get("content-length").and_then(|v| v.to_str().ok()?.parse::<usize>().ok());
        let mut parts = decompressed(req, payload);
        Box::pin(async move {
            if announced.is_some_and(|length| length > limit) {
                return Err(Problem::too_large(limit));
            }
            let mut bytes = web::BytesMut::with_capacity(announced.unwrap_or(0));
            loop {
                match actix_web::rt::time::timeout(patience, parts.next()).await {
                    Err(_) => return Err(Problem::slow()),
                    Ok(None) => return Ok(Self(bytes.freeze())),
                    Ok(Some(Err(e))) => {
                        return Err(Problem::fault("", &format!("the body could not be read: {e}")));
                    }
                    Ok(Some(Ok(part))) if bytes.len() + part.len() > limit => return Err(Problem::too_large(limit)),
                    Ok(Some(Ok(part))) => bytes.extend_from_slice(&part),
                }
            }
        })
    }
}

/// The parts of a body, unpacked where it came packed; [`Taken`] counts what comes out.
fn decompressed(req: &HttpRequest, payload: &mut Payload) -> actix_web::dev::Decompress<Payload> {
    actix_web::dev::Decompress::from_headers(payload.take(), req.headers())
}

/// A JSON body as a document, read away from the threads that answer and held to its schema, so that whatever is
/// stored can be read again.
#[derive(Debug)]
pub struct Document<T>(pub T);

impl<T> FromRequest for Document<T>
where
    T: ToSchema + PartialSchema + DeserializeOwned + Send + 'static,
{
    type Error = Problem;
    type Future = std::pin::Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(req: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let taken = Taken::from_request(req, payload);
        Box::pin(async move {
            let taken = taken.await?;
            let read = move || documents::read_shape::<T>(taken.text()?).map_err(Problem::faulty);
            aside(read).await.map(Self)
        })
    }
}
