//! Errors as problem+json (RFC 9457): what is wrong goes to the client, what broke goes to the log.

use std::collections::BTreeSet;

use actix_web::http::StatusCode;
use actix_web::http::header::{ALLOW, ContentType, RETRY_AFTER};
use actix_web::{HttpResponse, ResponseError};
use lawn::measure::unlikely::Unlikely;
use lawn::site::Invalid;
use lawn::weather::file::CellError;
use lawn::weather::told;
use serde::Serialize;
use thiserror::Error;
use utoipa::ToSchema;

use super::request_id;
use crate::guessing::Refused;
use crate::places::Full;
use crate::{db, password, planning};

/// Seconds after which to ask again where the database is away or busy, and where there was no place.
const RETRY_S: &str = "2";
const FREE_S: &str = "5";

/// The body of every error.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Problem {
    /// `about:blank`: the status says it.
    #[serde(rename = "type")]
    pub kind: &'static str,
    /// The status in words.
    pub title: String,
    /// The status code.
    pub status: u16,
    /// What is wrong, for people.
    pub detail: String,
    /// The field it is about, such as `slope_pct` or `site.latitude`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub field: Option<String>,
    /// What is asked about once: sent again with `sure`, it is taken.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unlikely: Option<Unlikely>,
    /// Lines of a file that do not hold.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub lines: Vec<CellError>,
    /// Identifier of the request, as in the log.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub request_id: Option<String>,
    /// The current state, where an edit was stale.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub current: Option<serde_json::Value>,
}

/// Why a request was not carried out.
#[derive(Debug, Error)]
pub enum ApiError {
    /// No valid session.
    #[error("sign in first")]
    SignedOut,
    /// A token that is none, or no longer one.
    #[error("no device has this token; it may have been revoked")]
    NoDevice,
    /// A code for the first account that is not the one.
    #[error("this is not the code that the server printed when it started")]
    WrongCode,
    /// Wrong address or password; which of them is not said.
    #[error("address and password do not match an account")]
    WrongCredentials,
    /// A wrong current password.
    #[error("the current password is not this")]
    WrongPassword,
    /// Too many attempts; seconds to wait.
    #[error("too many attempts; try again in {0:.0} s")]
    Slowed(f64),
    /// More requests than are let in; seconds to wait.
    #[error("too many requests; go on in {0:.0} s")]
    TooMany(f64),
    /// No place for it at the moment.
    #[error("{0}")]
    Full(#[from] Full),
    /// Another name that leads here.
    #[error("this server answers to localhost alone; its settings name no public address")]
    Misdirected,
    /// A body that must be unpacked first.
    #[error("send the body as it is, without a content encoding")]
    Encoded,
    /// A body that does not come.
    #[error("the request's body took too long to come")]
    TooSlow,
    /// A method that the resource does not have; those that it has.
    #[error("this can only be asked with {0}")]
    WrongMethod(String),
    /// Against the state of things.
    #[error("{0}")]
    Conflict(String),
    /// No such thing, or not for this account: the same answer.
    #[error("there is no such {0} here")]
    NotFound(&'static str),
    /// Accounts come by invitation.
    #[error("accounts are made by invitation here: ask an owner of the lawn for a link")]
    ByInvitation,
    /// The role does not allow it.
    #[error("your role on this site does not allow this")]
    Forbidden,
    /// Another site's page sent it.
    #[error("this request must come from the application's own pages")]
    ForeignOrigin,
    /// An edit without If-Match.
    #[error("say with If-Match which version you edited")]
    NoVersion,
    /// An edit of a version that is no longer current.
    #[error("somebody changed this in the meantime; look at the current state and try again")]
    Stale(Box<serde_json::Value>),
    /// The body cannot be understood.
    #[error("{message}")]
    Malformed {
        /// Where.
        field: Option<String>,
        /// What is wrong.
        message: String,
    },
    /// A figure does not hold.
    #[error("{}", .0.message)]
    Invalid(Invalid),
    /// A figure that can be but seldom is; the field, and what is odd.
    #[error("this is seldom so; say that you are sure if it is")]
    Unlikely(&'static str, Unlikely),
    /// Lines of a file do not hold.
    #[error("{} cannot be used; nothing was written", lines_at_fault(.0))]
    Lines(Vec<CellError>),
    /// More days at once than are taken.
    #[error("{0} days at once; at most {most} are taken, send them in parts", most = told::MOST_DAYS)]
    TooManyDays(usize),
    /// Too large.
    #[error("the request is larger than {0} MB")]
    TooLarge(usize),
    /// The database.
    #[error("database: {0}")]
    Database(#[from] sqlx::Error),
    /// A defect.
    #[error("{0}")]
    Internal(String),
}

/// `1 line of the file`, `6 lines of the file`: lines, not the faults in them.
fn lines_at_fault(errors: &[CellError]) -> String {
    let lines: BTreeSet<u64> = errors.iter().map(|e| e.line).collect();
    match lines.len() {
        1 => "1 line of the file".to_owned(),
        n => format!("{n} lines of the file"),
    }
}

impl From<Invalid> for ApiError {
    fn from(error: Invalid) -> Self {
        Self::Invalid(error)
    }
}

impl ApiError {
    /// Asks about what is unlikely, unless the sender is sure.
    ///
    /// # Errors
    /// [`ApiError::Unlikely`].
    pub fn ask(field: &'static str, unlikely: Option<Unlikely>, sure: bool) -> Result<(), Self> {
        match unlikely {
            Some(unlikely) if !sure => Err(Self::Unlikely(field, unlikely)),
            _ => Ok(()),
        }
    }
}

impl From<planning::Failure> for ApiError {
    fn from(error: planning::Failure) -> Self {
        match error {
            planning::Failure::Database(error) => Self::Database(error),
            planning::Failure::Stored(_) => Self::Internal(error.to_string()),
        }
    }
}

impl From<Refused> for ApiError {
    fn from(refused: Refused) -> Self {
        match refused {
            Refused::Slowed(seconds) => Self::Slowed(seconds),
            Refused::Database(error) => Self::Database(error),
        }
    }
}

impl From<password::Error> for ApiError {
    fn from(error: password::Error) -> Self {
        Self::Internal(error.to_string())
    }
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::SignedOut | Self::NoDevice | Self::WrongCredentials => StatusCode::UNAUTHORIZED,
            Self::NotFound(_) => StatusCode::NOT_FOUND,
            Self::Forbidden
            | Self::ByInvitation
            | Self::ForeignOrigin
            | Self::WrongPassword
            | Self::WrongCode => StatusCode::FORBIDDEN,
            Self::Slowed(_) | Self::TooMany(_) | Self::Full(Full::OfAccount | Full::AskedAnew) => {
                StatusCode::TOO_MANY_REQUESTS
            }
            Self::Full(Full::OfAll) => StatusCode::SERVICE_UNAVAILABLE,
            Self::Misdirected => StatusCode::MISDIRECTED_REQUEST,
            Self::Encoded => StatusCode::UNSUPPORTED_MEDIA_TYPE,
            Self::TooSlow => StatusCode::REQUEST_TIMEOUT,
            Self::WrongMethod(_) => StatusCode::METHOD_NOT_ALLOWED,
            Self::Conflict(_) => StatusCode::CONFLICT,
            Self::NoVersion => StatusCode::PRECONDITION_REQUIRED,
            Self::Stale(_) => StatusCode::PRECONDITION_FAILED,
            Self::Malformed { .. } => StatusCode::BAD_REQUEST,
            Self::Invalid(_) | Self::Unlikely(..) | Self::Lines(_) => {
                StatusCode::UNPROCESSABLE_ENTITY
            }
            Self::TooLarge(_) | Self::TooManyDays(_) => StatusCode::PAYLOAD_TOO_LARGE,
            Self::Database(error) if db::is_away(error) => StatusCode::SERVICE_UNAVAILABLE,
            Self::Database(_) | Self::Internal(_) => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }

    fn error_response(&self) -> HttpResponse {
        let status = self.status_code();
        let mut problem = Problem {
            kind: "about:blank",
            title: status.canonical_reason().unwrap_or("Error").to_owned(),
            status: status.as_u16(),
            detail: self.to_string(),
            field: None,
            unlikely: None,
            lines: Vec::new(),
            request_id: request_id::current(),
            current: None,
        };
        match self {
            Self::Invalid(invalid) => problem.field = Some(invalid.field.clone()),
            Self::Unlikely(field, unlikely) => {
                problem.field = Some((*field).to_owned());
                problem.unlikely = Some(unlikely.clone());
            }
            Self::Malformed { field, .. } => problem.field.clone_from(field),
            Self::Lines(lines) => problem.lines.clone_from(lines),
            Self::Stale(current) => problem.current = Some(current.as_ref().clone()),
            Self::Database(error) if db::is_away(error) => {
                tracing::warn!(request_id = problem.request_id, %error, "database away or busy");
                "the database is away or busy; try again in a moment"
                    .clone_into(&mut problem.detail);
            }
            Self::Database(_) | Self::Internal(_) => {
                tracing::error!(request_id = problem.request_id, error = %self, "request failed");
                "something went wrong on our side; nothing was changed"
                    .clone_into(&mut problem.detail);
            }
            _ => {}
        }
        let mut answer = HttpResponse::build(status);
        match self {
            Self::Slowed(seconds) | Self::TooMany(seconds) => {
                answer.insert_header((RETRY_AFTER, format!("{seconds:.0}")));
            }
            Self::Database(error) if db::is_away(error) => {
                answer.insert_header((RETRY_AFTER, RETRY_S));
            }
            Self::Full(_) => {
                answer.insert_header((RETRY_AFTER, FREE_S));
            }
            Self::WrongMethod(allowed) => {
                answer.insert_header((ALLOW, allowed.as_str()));
            }
            _ => {}
        }
        answer
            .content_type(ContentType(
                "application/problem+json"
                    .parse()
                    .unwrap_or(actix_web::mime::APPLICATION_JSON),
            ))
            .json(problem)
    }
}
