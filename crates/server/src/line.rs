//! The line to a client: who asks a question and goes needs no answer.
//!
//! A server that has read a request whole hears nothing more of its client until it answers. So while a question is
//! worked on, the line is looked at from time to time, and the question is dropped with everything it waits for when
//! the other side has hung up. Writes are not dropped: they end as they would.

use std::any::Any;
use std::os::fd::{AsFd, OwnedFd};
use std::sync::Arc;
use std::time::Duration;

use actix_tls::accept::rustls_0_23::TlsStream;
use actix_web::Error;
use actix_web::body::MessageBody;
use actix_web::dev::{Extensions, ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::middleware::Next;
use actix_web::rt::net::TcpStream;
use rustix::event::{PollFd, PollFlags, Timespec, poll};

use crate::problem::Problem;

/// How often the line is looked at.
const LOOK: Duration = Duration::from_millis(200);

/// A line to a client.
#[derive(Debug)]
struct Line(OwnedFd);

impl Line {
    fn of(connection: &dyn Any) -> Option<Self> {
        let tcp = connection
            .downcast_ref::<TcpStream>()
            .or_else(|| connection.downcast_ref::<TlsStream<TcpStream>>().map(|tls| tls.get_ref().0))?;
        tcp.as_fd().try_clone_to_owned().ok().map(Self)
    }

    /// Whether the other side has hung up; what it sent before may still lie there unread.
    fn is_cut(&self) -> bool {
        let mut look = [PollFd::new(&self.0, PollFlags::RDHUP)];
        let now = Timespec { tv_sec: 0, tv_nsec: 0 };
        let gone = PollFlags::RDHUP | PollFlags::HUP | PollFlags::ERR;
        poll(&mut look, Some(&now)).is_ok_and(|n| n > 0) && look[0].revents().intersects(gone)
    }
}

/// Remembers the line of a new connection.
pub(crate) fn remember(connection: &dyn Any, of_connection: &mut Extensions) {
    if let Some(line) = Line::of(connection) {
        of_connection.insert(Arc::new(line));
    }
}

/// Whether a request asks and changes nothing.
fn only_asks(method: &Method, path: &str) -> bool {
    let tries = path.starts_with("/api/assess") || path.ends_with("/papers/try") || path.ends_with("/papers/quick");
    [Method::GET, Method::HEAD].contains(method) || tries
}

/// Drops a question when its client has gone.
///
/// # Errors
/// Those of the services behind it.
pub(crate) async fn watch<B: MessageBody>(req: ServiceRequest, next: Next<B>) -> Result<ServiceResponse<B>, Error> {
    let line = req.conn_data::<Arc<Line>>().map(Arc::clone);
    let Some(line) = line.filter(|_| only_asks(req.method(), req.path())) else {
        return next.call(req).await;
    };
    let mut work = std::pin::pin!(next.call(req));
    loop {
        match actix_web::rt::time::timeout(LOOK, &mut work).await {
            Ok(done) => return done,
            // Nobody reads it.
            Err(_) if line.is_cut() => return Err(Problem::gone().into()),
            Err(_) => {}
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[actix_web::test]
    async fn a_line_is_cut_when_the_other_side_hangs_up() {
        let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
        let mut client = std::net::TcpStream::connect(listener.local_addr().unwrap()).unwrap();
        let accepted = listener.accept().unwrap().0;
        accepted.set_nonblocking(true).unwrap();
        let line = Line::of(&TcpStream::from_std(accepted).unwrap()).unwrap();
        assert!(!line.is_cut());
        // What was sent and not read hides nothing.
        std::io::Write::write_all(&mut client, b"more").unwrap();
        assert!(!line.is_cut());
        drop(client);
        while !line.is_cut() {
            actix_web::rt::task::yield_now().await;
        }
        assert!(Line::of(&"no connection").is_none());
    }

    #[test]
    fn writes_are_never_dropped() {
        for (method, path, asks) in [
            (Method::GET, "/api/candidates", true),
            (Method::POST, "/api/assess/bill", true),
            (Method::POST, "/api/candidates/x/papers/try", true),
            (Method::POST, "/api/candidates/x/papers", false),
            (Method::POST, "/api/candidates/x/findings", false),
            (Method::PUT, "/api/candidates/x", false),
        ] {
            assert_eq!(only_asks(&method, path), asks, "{method} {path}");
        }
    }
}
