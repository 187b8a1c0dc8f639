//! Whose requests are answered: those of this machine, and those of devices that were paired.
//!
//! A request needs no session when it comes over loopback, under one of this machine's own names, and no proxy
//! passed it on: behind a proxy every request comes over loopback. Every other one needs the cookie of a paired
//! device. `--key` asks it of this machine's requests too.

use actix_web::body::{EitherBody, MessageBody};
use actix_web::cookie::time::Duration;
use actix_web::cookie::{Cookie, SameSite};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::HeaderMap;
use actix_web::middleware::Next;
use actix_web::{Error, HttpRequest, ResponseError, web};
use ticksage_store::Store;
use ticksage_store::devices::hash;
use uuid::Uuid;

use crate::guard::is_own_name;
use crate::problem::Problem;

/// The cookie of a paired device.
pub(crate) const COOKIE: &str = "ticksage";

/// How the application may be reached.
#[derive(Debug, Clone, Default)]
pub struct Access {
    /// The key of this start of the program, hashed; with it, this machine's own requests need a session too.
    key: Option<Vec<u8>>,
    /// Whether it speaks TLS itself.
    pub tls: bool,
    /// The address that a phone opens, where it can reach one.
    pub address: Option<PhoneAddress>,
    /// The certificate of the yard's own authority, as PEM, for phones to trust.
    pub authority: Option<String>,
}

/// Where a phone finds the application.
#[derive(Debug, Clone)]
pub struct PhoneAddress {
    /// Scheme and name, such as `https://yard.example`.
    pub base: String,
    /// Whether the port that is listened on belongs to it; a proxy before it has one of its own.
    pub with_port: bool,
}

impl PhoneAddress {
    /// The whole of it.
    pub(crate) fn on(&self, port: u16) -> String {
        if self.with_port { format!("{}:{port}", self.base) } else { self.base.clone() }
    }
}

impl Access {
    /// Asks a session of every request; who has the key gets one.
    pub fn close_with(&mut self, key: &str) {
        self.key = Some(hash(&plain_code(key)));
    }

    /// Whether a text is the key of this start.
    pub(crate) fn is_key(&self, code: &str) -> bool {
        self.key.as_deref() == Some(hash(code).as_slice())
    }

    /// Whether a request may do without a session.
    pub(crate) fn trusts(&self, req: &HttpRequest) -> bool {
        self.key.is_none()
            && req.peer_addr().is_some_and(|a| a.ip().to_canonical().is_loopback())
            && req.headers().get("host").and_then(|h| h.to_str().ok()).is_some_and(is_own_name)
            && !passed_on(req.headers())
    }

    /// The cookie that holds a session's token.
    pub(crate) fn cookie(&self, req: &HttpRequest, token: String) -> Cookie<'static> {
        // A proxy before it may speak TLS in its place.
        let forwarded = req.headers().get("x-forwarded-proto").is_some_and(|p| p.as_bytes() == b"https");
        Cookie::build(COOKIE, token)
            .path("/")
            .http_only(true)
            .same_site(SameSite::Lax)
            .secure(self.tls || forwarded)
            .max_age(Duration::days(365))
            .finish()
    }
}

/// Whether a proxy passed a request on.
fn passed_on(headers: &HeaderMap) -> bool {
    headers.keys().any(|name| name == "forwarded" || name.as_str().starts_with("x-forwarded-"))
}

/// A code as it is compared: however it was typed.
pub(crate) fn plain_code(typed: &str) -> String {
    typed.chars().filter(char::is_ascii_alphanumeric).collect::<String>().to_uppercase()
}

/// A new token, which nobody can guess.
pub(crate) fn new_token() -> String {
    format!("{}{}", Uuid::new_v4().simple(), Uuid::new_v4().simple())
}

/// Letters and digits that are not taken for each other.
const LETTERS: &[u8; 31] = b"ABCDEFGHJKMNPQRSTUVWXYZ23456789";

/// A new short code, to be typed: eight letters and digits.
pub(crate) fn new_code() -> String {
    // Bytes 6 and 8 of a random UUID are not all random.
    let bytes = Uuid::new_v4().into_bytes();
    let picked = bytes[..6].iter().chain(&bytes[14..]);
    picked.map(|b| char::from(LETTERS[usize::from(*b) % LETTERS.len()])).collect()
}

/// A new key, for the address that the program prints.
#[must_use]
pub fn new_key() -> String {
    Uuid::new_v4().simple().to_string().to_uppercase()
}

/// Routes that are open to everybody: how to be let in, and what links open.
fn is_open(path: &str) -> bool {
    !path.starts_with("/api/")
        || ["/api/access", "/api/pair", "/api/authority"].contains(&path)
        || path.starts_with("/api/shared/")
}

/// Refuses requests to the API from devices that are not paired.
///
/// # Errors
/// Those of the services behind it.
pub(crate) async fn access<B: MessageBody>(
    (access, store): (web::Data<Access>, web::Data<Store>),
    req: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B>>, Error> {
    // The path as the routes see it: letters may come in disguise, as %61 for a.
    if !is_open(req.match_info().as_str()) && !access.trusts(req.request()) {
        let refused = match paired(&store, req.request()).await {
            Ok(Some(_)) => None,
            Ok(None) => Some(Problem::unpaired()),
            Err(problem) => Some(problem),
        };
        if let Some(problem) = refused {
            return Ok(req.into_response(problem.error_response()).map_into_right_body());
        }
    }
    Ok(next.call(req).await?.map_into_left_body())
}

/// The paired device that a request comes from.
pub(crate) async fn paired(store: &Store, req: &HttpRequest) -> Result<Option<Uuid>, Problem> {
    match req.cookie(COOKIE) {
        Some(cookie) => Ok(store.session(cookie.value()).await?),
        None => Ok(None),
    }
}

#[cfg(test)]
mod tests {
    use actix_web::test::TestRequest;

    use super::*;

    fn from(peer: &str, host: &str, more: Option<(&'static str, &str)>) -> HttpRequest {
        let mut req = TestRequest::default().peer_addr(peer.parse().unwrap()).insert_header(("host", host.to_owned()));
        if let Some((name, value)) = more {
            req = req.insert_header((name, value.to_owned()));
        }
        req.to_http_request()
    }

    #[test]
    fn this_machine_alone_needs_no_session() {
        let mut open = Access::default();
        for (peer, host, more, trusted) in [
            ("127.0.0.1:5000", "localhost:8460", None, true),
            ("[::1]:5000", "[::1]:8460", None, true),
            ("[::ffff:127.0.0.1]:5000", "127.0.0.1:8460", None, true),
            ("127.0.0.1:5000", "yard.example", None, false),
            ("192.168.4.7:5000", "localhost:8460", None, false),
            ("192.168.4.7:5000", "yard.example", None, false),
            ("127.0.0.1:5000", "localhost:8460", Some(("X-Forwarded-For", "192.168.4.7")), false),
            ("127.0.0.1:5000", "localhost:8460", Some(("X-Forwarded-Anything", "1")), false),
            ("127.0.0.1:5000", "localhost:8460", Some(("Forwarded", "for=192.168.4.7")), false),
        ] {
            assert_eq!(open.trusts(&from(peer, host, more)), trusted, "{peer} {host} {more:?}");
        }
        open.close_with("KEY");
        assert!(!open.trusts(&from("127.0.0.1:5000", "localhost:8460", None)));
        assert!(open.is_key("KEY") && !open.is_key("KEX"));
    }

    #[test]
    fn codes_are_read_however_they_are_typed() {
        assert_eq!(plain_code(" k7m2-q9xt "), "K7M2Q9XT");
        let code = new_code();
        assert_eq!((code.len(), plain_code(&code)), (8, code.clone()));
        assert_ne!(code, new_code());
        assert_eq!(new_token().len(), 64);
    }
}
