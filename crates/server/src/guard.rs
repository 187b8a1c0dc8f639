//! Who may speak to the application: requests under one of its own names, and writes from its own pages alone.
//!
//! Any web page can make a browser send requests to a program on this machine. Three headers tell what is going
//! on: `Host` is the name that the browser believes it speaks to, so a foreign name that was made to point here
//! is refused; `Origin` and `Sec-Fetch-Site` tell which page asks. Programs that are no browsers send neither of
//! the last two. A body must say that it is something that a plain form cannot send.

use actix_web::body::{EitherBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{CONTENT_LENGTH, CONTENT_TYPE, HOST, HeaderMap, ORIGIN, TRANSFER_ENCODING};
use actix_web::middleware::Next;
use actix_web::{Error, ResponseError, web};

use crate::problem::Problem;

/// This machine's own names.
const OWN: [&str; 3] = ["localhost", "127.0.0.1", "[::1]"];

/// A host without its port, in lower case.
fn without_port(host: &str) -> String {
    let host = host.to_lowercase();
    match host.rsplit_once(':') {
        // The colons of an IPv6 address stand in brackets.
        Some((name, port)) if port.bytes().all(|b| b.is_ascii_digit()) => name.to_owned(),
        _ => host,
    }
}

/// Whether a host is a name that this machine has for itself.
pub(crate) fn is_own_name(host: &str) -> bool {
    OWN.contains(&without_port(host).as_str())
}

/// Names under which the application answers, without ports.
#[derive(Debug, Clone)]
pub struct Hosts(Vec<String>);

impl Hosts {
    /// This machine's own names, and those given.
    #[must_use]
    pub fn new(others: &[String]) -> Self {
        let own = OWN.map(str::to_owned);
        Self(own.into_iter().chain(others.iter().map(|h| h.trim().to_lowercase())).collect())
    }

    fn know(&self, host: &str) -> bool {
        self.0.contains(&without_port(host))
    }
}

/// Content types that a page of any site can send without asking first.
const OF_ANY_PAGE: [&str; 3] = ["text/plain", "application/x-www-form-urlencoded", "multipart/form-data"];

/// Why a request is refused; none where it is let through.
fn refusal(method: &Method, headers: &HeaderMap, hosts: &Hosts) -> Option<Problem> {
    let text = |name: &str| headers.get(name).map(|v| v.to_str().unwrap_or("?"));
    let host = text(HOST.as_str()).unwrap_or_default();
    if !hosts.know(host) {
        return Some(Problem::forbidden(
            "This address is not known here. Open Tick Sage by the address that it printed when it started, or start it with --host and this name.",
        ));
    }
    if [Method::GET, Method::HEAD, Method::OPTIONS].contains(method) {
        return None;
    }
    let foreign_page = text("sec-fetch-site").is_some_and(|site| site != "same-origin" && site != "none");
    let foreign_origin = text(ORIGIN.as_str()).is_some_and(|origin| {
        let authority = origin.strip_prefix("http://").or_else(|| origin.strip_prefix("https://"));
        authority.is_none_or(|a| !a.eq_ignore_ascii_case(host))
    });
    if foreign_page || foreign_origin {
        return Some(Problem::forbidden("Another web page tried to change something here. Nothing was changed."));
    }
    let empty = text(CONTENT_LENGTH.as_str()).is_none_or(|n| n == "0") && !headers.contains_key(TRANSFER_ENCODING);
    let media = text(CONTENT_TYPE.as_str()).and_then(|t| t.split(';').next()).unwrap_or_default().trim().to_lowercase();
    if !empty && (media.is_empty() || OF_ANY_PAGE.contains(&media.as_str())) {
        return Some(Problem::media(
            "Say what the body is by its Content-Type, such as application/json or text/csv; plain text and forms are not taken.",
        ));
    }
    None
}

/// Refuses what does not come under a known name, or from a page of the application's own.
///
/// # Errors
/// Those of the services behind it.
pub(crate) async fn guard<B: MessageBody>(
    hosts: web::Data<Hosts>,
    req: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B>>, Error> {
    if let Some(problem) = refusal(req.method(), req.headers(), &hosts) {
        tracing::warn!("refused: {} {}: {problem}", req.method(), req.path());
        return Ok(req.into_response(problem.error_response()).map_into_right_body());
    }
    Ok(next.call(req).await?.map_into_left_body())
}

#[cfg(test)]
mod tests {
    use super::*;
    use actix_web::http::header::{HeaderName, HeaderValue};

    fn refused(method: Method, headers: &[(&str, &str)]) -> bool {
        let mut map = HeaderMap::new();
        for (name, value) in headers {
            map.insert(HeaderName::try_from(*name).unwrap(), HeaderValue::from_str(value).unwrap());
        }
        refusal(&method, &map, &Hosts::new(&["Yard.example".to_owned()])).is_some()
    }

    #[test]
    fn own_names_are_known_with_and_without_a_port() {
        for host in ["localhost", "127.0.0.1:8460", "[::1]:8460", "[::1]", "LOCALHOST:1", "yard.example:443"] {
            assert!(!refused(Method::GET, &[("host", host)]), "{host}");
        }
        for host in
            ["", "evil.example", "127.0.0.1.evil.example:8460", "localhost.evil.example", "192.168.1.9", "::1", "?"]
        {
            assert!(refused(Method::GET, &[("host", host)]), "{host}");
        }
        assert!(refused(Method::GET, &[]), "no name at all");
    }

    #[test]
    fn writes_come_from_own_pages_or_from_programs() {
        let host = ("host", "127.0.0.1:8460");
        let json = ("content-type", "application/json; charset=utf-8");
        let long = ("content-length", "5");
        assert!(!refused(Method::POST, &[host, json, long]), "a program");
        assert!(!refused(
            Method::PUT,
            &[host, json, long, ("origin", "http://127.0.0.1:8460"), ("sec-fetch-site", "same-origin")]
        ));
        for foreign in [
            ("origin", "http://evil.example"),
            ("origin", "http://127.0.0.1:9999"),
            ("origin", "http://localhost:8460"),
            ("origin", "null"),
            ("sec-fetch-site", "cross-site"),
            ("sec-fetch-site", "same-site"),
        ] {
            for method in [Method::POST, Method::PUT, Method::DELETE, Method::PATCH] {
                assert!(refused(method, &[host, json, long, foreign]), "{foreign:?}");
            }
            assert!(!refused(Method::GET, &[host, foreign]), "reading tells a foreign page nothing: {foreign:?}");
        }
    }

    #[test]
    fn a_body_says_what_it_is() {
        let host = ("host", "localhost:8460");
        for media in [
            "text/plain",
            "TEXT/PLAIN; charset=utf-8",
            "multipart/form-data; boundary=x",
            "application/x-www-form-urlencoded",
            "",
        ] {
            assert!(refused(Method::POST, &[host, ("content-type", media), ("content-length", "9")]), "{media}");
            assert!(
                refused(Method::POST, &[host, ("content-type", media), ("transfer-encoding", "chunked")]),
                "{media}"
            );
        }
        assert!(refused(Method::POST, &[host, ("content-length", "9")]));
        assert!(!refused(Method::POST, &[host]), "no body, nothing to say");
        assert!(!refused(Method::POST, &[host, ("content-type", "text/csv"), ("content-length", "9")]));
    }
}
