//! What goes wrong, as the client is told: a code, a sentence that says what to do, and the faults
//! with their paths.

use actix_web::http::StatusCode;
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

/// The kinds of refusal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ProblemCode {
    /// The input makes no sense.
    Faulty,
    /// The input is too large.
    TooLarge,
    /// No such record or route.
    NotFound,
    /// It comes from a page, or under a name, that has no business here.
    Forbidden,
    /// The body does not say what it is.
    Media,
    /// Somebody else changed it meanwhile.
    Conflict,
    /// The database does not answer.
    Unavailable,
    /// A service of somebody else's failed.
    Service,
    /// A fault of ours.
    Internal,
}

impl Problem {
    fn new(status: StatusCode, code: ProblemCode, message: impl Into<String>) -> Self {
        Self { status, code, message: message.into(), faults: Vec::new(), current: None }
    }

    /// Input that makes no sense.
    #[must_use]
    pub fn faulty(faults: Vec<Fault>) -> Self {
        let message = match faults.as_slice() {
            [one] if one.path.is_empty() => one.message.clone(),
            [one] => format!("{}: {}", one.path, one.message),
            many => format!("{} things need mending", many.len()),
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

    /// A body that could not be read.
    #[must_use]
    pub fn body(e: &actix_web::Error, limit: usize) -> Self {
        if e.as_response_error().status_code() == StatusCode::PAYLOAD_TOO_LARGE {
            let message = format!("That is too large: at most {} MB are taken.", limit / 1_000_000);
            Self::new(StatusCode::PAYLOAD_TOO_LARGE, ProblemCode::TooLarge, message)
        } else {
            Self::fault("", &format!("the body could not be read: {e}"))
        }
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
        HttpResponse::build(self.status).json(self)
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
            e @ StoreError::SheetDiffers { .. } => {
                Self::new(StatusCode::CONFLICT, ProblemCode::Conflict, e.to_string())
            }
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
        }
    }
}
