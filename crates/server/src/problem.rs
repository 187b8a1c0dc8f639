//! What goes wrong, as the client is told: a code, a sentence that says what to do, and the faults
//! with their paths.

use actix_web::http::StatusCode;
use actix_web::http::header::ALLOW;
use actix_web::{HttpResponse, ResponseError};
use serde::Serialize;
use ticksage_core::AssessError;
use ticksage_core::base::fault::Fault;
use ticksage_store::StoreError;
use utoipa::ToSchema;

/// A refusal.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Problem {
    #[serde(skip)]
    status: StatusCode,
    /// Methods that the route takes, for the `Allow` header.
    #[serde(skip)]
    allow: Option<String>,
    /// Short code, stable.
    pub code: ProblemCode,
    /// What is wrong and what to do.
    pub message: String,
    /// Every fault, each with the path to it.
    pub faults: Vec<Fault>,
    /// On a conflict: the version now stored.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub current: Option<i32>,
}

/// Faults told of one body.
const FAULTS: usize = 200;

/// Characters told of what came in.
const ECHO: usize = 200;

/// A text cut to [`ECHO`] characters: an answer does not send back what was sent.
fn short(text: String) -> String {
    match text.char_indices().nth(ECHO) {
        Some((end, _)) => format!("{}…", &text[..end]),
        None => text,
    }
}

/// The kinds of refusal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ProblemCode {
    /// The input makes no sense.
    Faulty,
    /// The input is too large.
    TooLarge,
    /// The input stopped coming.
    Slow,
    /// The question takes more computing than one may.
    TooMuch,
    /// The route is asked in another way than it knows.
    Method,
    /// No such record or route.
    NotFound,
    /// It comes from a page, or under a name, that has no business here.
    Forbidden,
    /// The device is not paired.
    Unpaired,
    /// The body does not say what it is.
    Media,
    /// Somebody else changed it meanwhile.
    Conflict,
    /// The database does not answer.
    Unavailable,
    /// The disk of the records is full.
    Full,
    /// A service of somebody else's failed.
    Service,
    /// A fault of ours.
    Internal,
}

impl Problem {
    fn new(status: StatusCode, code: ProblemCode, message: impl Into<String>) -> Self {
        Self { status, code, message: short(message.into()), faults: Vec::new(), current: None, allow: None }
    }

    /// Input that makes no sense.
    #[must_use]
    pub fn faulty(mut faults: Vec<Fault>) -> Self {
        let count = faults.len();
        faults.truncate(FAULTS);
        let faults: Vec<Fault> =
            faults.into_iter().map(|f| Fault { path: short(f.path), message: short(f.message) }).collect();
        let message = match faults.as_slice() {
            [one] if one.path.is_empty() => one.message.clone(),
            [one] => format!("{}: {}", one.path, one.message),
            _ => format!("{count} things need mending"),
        };
        Self { faults, ..Self::new(StatusCode::UNPROCESSABLE_ENTITY, ProblemCode::Faulty, message) }
    }

    /// One fault at a path.
    #[must_use]
    pub fn fault(path: &str, message: &str) -> Self {
        Self::faulty(vec![Fault { path: path.to_owned(), message: message.to_owned() }])
    }

    /// No such thing.
    #[must_use]
    pub fn not_found(what: &str) -> Self {
        Self::new(StatusCode::NOT_FOUND, ProblemCode::NotFound, format!("There is no such {what}."))
    }

    /// A request that has no business here.
    #[must_use]
    pub fn forbidden(message: &str) -> Self {
        Self::new(StatusCode::FORBIDDEN, ProblemCode::Forbidden, message)
    }

    /// A device that is not paired.
    #[must_use]
    pub fn unpaired() -> Self {
        let message = "This device is not let in yet: pair it with a code from a device that is.";
        Self::new(StatusCode::UNAUTHORIZED, ProblemCode::Unpaired, message)
    }

    /// A body that does not say what it is.
    #[must_use]
    pub fn media(message: &str) -> Self {
        Self::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, ProblemCode::Media, message)
    }

    /// A service of somebody else's that failed.
    #[must_use]
    pub fn service(message: impl Into<String>) -> Self {
        Self::new(StatusCode::BAD_GATEWAY, ProblemCode::Service, message)
    }

    /// A body that is larger than it may be.
    #[must_use]
    pub fn too_large(limit: usize) -> Self {
        let message = format!("That is too large: at most {} MB are taken.", limit / 1_000_000);
        Self::new(StatusCode::PAYLOAD_TOO_LARGE, ProblemCode::TooLarge, message)
    }

    /// A body that stopped coming.
    #[must_use]
    pub fn slow() -> Self {
        let message = "What you sent stopped coming before its end; nothing was stored. Send it again.";
        Self::new(StatusCode::REQUEST_TIMEOUT, ProblemCode::Slow, message)
    }

    /// Whoever asked has gone; nobody reads it.
    #[must_use]
    pub fn gone() -> Self {
        Self::new(StatusCode::REQUEST_TIMEOUT, ProblemCode::Slow, "Whoever asked has gone.")
    }

    /// More asked of one question than it may take.
    #[must_use]
    pub fn too_much(message: String) -> Self {
        Self::new(StatusCode::UNPROCESSABLE_ENTITY, ProblemCode::TooMuch, message)
    }

    /// A route that is there, asked in a way that it does not know.
    #[must_use]
    pub fn method(allowed: &str) -> Self {
        let message = format!("This route takes {allowed} alone.");
        let allow = Some(allowed.to_owned());
        Self { allow, ..Self::new(StatusCode::METHOD_NOT_ALLOWED, ProblemCode::Method, message) }
    }

    /// A fault of ours.
    #[must_use]
    pub fn internal(what: &str) -> Self {
        tracing::error!("{what}");
        Self::new(
            StatusCode::INTERNAL_SERVER_ERROR,
            ProblemCode::Internal,
            "Something went wrong on our side; nothing was stored.",
        )
    }
}

impl std::fmt::Display for Problem {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.message)
    }
}

impl ResponseError for Problem {
    fn status_code(&self) -> StatusCode {
        self.status
    }

    fn error_response(&self) -> HttpResponse {
        let mut answer = HttpResponse::build(self.status);
        if let Some(methods) = &self.allow {
            answer.insert_header((ALLOW, methods.as_str()));
        }
        answer.json(self)
    }
}

impl From<StoreError> for Problem {
    fn from(e: StoreError) -> Self {
        match e {
            StoreError::NotFound(what) => Self::not_found(what),
            StoreError::Conflict { current } => Self {
                current: Some(current),
                ..Self::new(
                    StatusCode::CONFLICT,
                    ProblemCode::Conflict,
                    "Somebody else changed this meanwhile. Your changes are still here: look at theirs, then save again.",
                )
            },
            StoreError::Senseless(faults) => Self::faulty(faults),
            e @ StoreError::Unstorable => Self::fault("", &e.to_string()),
            e @ (StoreError::SheetDiffers { .. } | StoreError::Differs(_)) => {
                Self::new(StatusCode::CONFLICT, ProblemCode::Conflict, e.to_string())
            }
            StoreError::Full => Self::new(
                StatusCode::INSUFFICIENT_STORAGE,
                ProblemCode::Full,
                "The disk that holds the records is full, and nothing was stored. Make room on it; what you entered is kept on this device until then.",
            ),
            StoreError::Unavailable(cause) => {
                tracing::warn!("the database does not answer: {cause}");
                Self::new(
                    StatusCode::SERVICE_UNAVAILABLE,
                    ProblemCode::Unavailable,
                    "The records do not answer just now. Nothing you entered is lost; it is sent again by itself.",
                )
            }
            e => Self::internal(&e.to_string()),
        }
    }
}

impl From<AssessError> for Problem {
    fn from(e: AssessError) -> Self {
        match e {
            AssessError::Faults(faults) => Self::faulty(faults),
            e @ AssessError::Curve(_) => Self::internal(&e.to_string()),
            e @ AssessError::Overrun(_) => Self::too_much(format!("{e}.")),
        }
    }
}
