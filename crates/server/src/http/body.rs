//! Bodies: bounded in size and in time, JSON with errors that name the field.

use std::future::Future;
use std::pin::Pin;
use std::time::{Duration, Instant};

use actix_web::dev::Payload;
use actix_web::http::header::CONTENT_LENGTH;
use actix_web::web::{self, Bytes, Data};
use actix_web::{FromRequest, HttpRequest};
use futures_util::StreamExt;
use lawn::site::Invalid;
use lawn::text;
use serde::de::DeserializeOwned;

use super::entrance;
use super::error::ApiError;
use crate::settings::Settings;

/// Largest JSON body, bytes: a test of 400 cans has some 40 kB.
const LARGEST_JSON: usize = 1024 * 1024;
/// Largest file, bytes.
const LARGEST_FILE: usize = 10 * 1024 * 1024;
/// Files may take so many times as long as other bodies.
const FILE_PATIENCE: u32 = 5;
/// Least pace of what is read piece by piece, bytes a second, once it has had a body's patience to begin: a poor telephone line's (no source).
const LEAST_PACE: u32 = 16 * 1024;
/// Room for a body whose size nobody said grows by so much, bytes.
const GROWS_BY: usize = 512 * 1024;

/// A JSON body of a type.
pub struct Body<T>(pub T);

/// A file: a body that is read as it comes.
pub struct Upload(pub Bytes);

/// A body that is read piece by piece, once its handler has the room for it.
pub struct Incoming {
    payload: web::Payload,
    said: Option<usize>,
    patience: Duration,
}

/// How much may come, and how long it may take.
#[derive(Debug, Clone, Copy)]
pub struct Bounds {
    /// Most, bytes.
    pub largest: usize,
    /// Longest time, whatever the pace.
    pub longest: Duration,
}

/// A body on its way.
pub struct Pieces {
    incoming: Incoming,
    bounds: Bounds,
    begun: Instant,
    read: usize,
}

type Pending<T> = Pin<Box<dyn Future<Output = Result<T, ApiError>>>>;

/// How long a body may take.
fn patience(request: &HttpRequest) -> Duration {
    let settings = request.app_data::<Data<Settings>>();
    Duration::from_secs_f64(settings.map_or(15.0, |s| s.slow_body_s))
}

/// What is said of a body that ended before its end.
fn broken(_: impl std::fmt::Display) -> ApiError {
    ApiError::Malformed {
        field: None,
        message: "the request's body broke off".to_owned(),
    }
}

/// What a body's head says of its length.
fn said(request: &HttpRequest) -> Option<usize> {
    let length = request.headers().get(CONTENT_LENGTH)?;
    length.to_str().ok()?.parse().ok()
}

const fn too_large(largest: usize) -> ApiError {
    ApiError::TooLarge(largest / 1024 / 1024)
}

/// Reads a body within its bounds, once who sends it is let in; encoded ones were refused before.
fn read(
    request: &HttpRequest,
    payload: &mut Payload,
    largest: usize,
    patience: u32,
) -> Pending<Bytes> {
    let too_large = too_large(largest);
    if said(request).is_some_and(|length| length > largest) {
        return Box::pin(std::future::ready(Err(too_large)));
    }
    let patience = self::patience(request) * patience;
    let body = web::Payload::from_request(request, payload);
    let request = request.clone();
    Box::pin(async move {
        let body = body.await.map_err(broken)?;
        entrance::pass(&request).await?;
        match tokio::time::timeout(patience, body.to_bytes_limited(largest)).await {
            Err(_) => Err(ApiError::TooSlow),
            Ok(Err(_)) => Err(too_large),
            Ok(Ok(read)) => read.map_err(broken),
        }
    })
}

impl<T: DeserializeOwned + 'static> FromRequest for Body<T> {
    type Error = ApiError;
    type Future = Pending<Self>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let bytes = read(request, payload, LARGEST_JSON, 1);
        Box::pin(async move { parse(&bytes.await?).map(Self) })
    }
}

impl FromRequest for Upload {
    type Error = ApiError;
    type Future = Pending<Self>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let bytes = read(request, payload, LARGEST_FILE, FILE_PATIENCE);
        Box::pin(async move { bytes.await.map(Self) })
    }
}

impl FromRequest for Incoming {
    type Error = ApiError;
    type Future = Pending<Self>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let (said, patience) = (said(request), patience(request));
        let payload = web::Payload::from_request(request, payload);
        Box::pin(async move {
            Ok(Self {
                payload: payload.await.map_err(broken)?,
                said,
                patience,
            })
        })
    }
}

impl Incoming {
    /// Lets it come within bounds.
    ///
    /// # Errors
    /// [`ApiError::TooLarge`], where its head says so.
    pub fn within(self, bounds: Bounds) -> Result<Pieces, ApiError> {
        if self.said.is_some_and(|said| said > bounds.largest) {
            return Err(too_large(bounds.largest));
        }
        Ok(Pieces {
            incoming: self,
            bounds,
            begun: Instant::now(),
            read: 0,
        })
    }
}

impl Pieces {
    /// The next piece; `None`: that was all.
    ///
    /// # Errors
    /// [`ApiError::TooLarge`], [`ApiError::TooSlow`], [`ApiError::Malformed`] where it broke off.
    pub async fn next(&mut self) -> Result<Option<Bytes>, ApiError> {
        let patience = self.incoming.patience;
        let due = u32::try_from(self.read).map_or(self.bounds.longest, |read| {
            patience + Duration::from_secs_f64(f64::from(read) / f64::from(LEAST_PACE))
        });
        let left = due.min(self.bounds.longest);
        let left = left.saturating_sub(self.begun.elapsed()).min(patience);
        let next = tokio::time::timeout(left, self.incoming.payload.next()).await;
        let Some(piece) = next.map_err(|_| ApiError::TooSlow)? else {
            return Ok(None);
        };
        let piece = piece.map_err(broken)?;
        self.read += piece.len();
        if self.read > self.bounds.largest {
            return Err(too_large(self.bounds.largest));
        }
        Ok(Some(piece))
    }

    /// All of it, in no more memory than it takes.
    ///
    /// # Errors
    /// As [`Pieces::next`].
    pub async fn whole(mut self) -> Result<Vec<u8>, ApiError> {
        let said = self.incoming.said.unwrap_or_default();
        let mut whole = Vec::with_capacity(said.min(self.bounds.largest));
        while let Some(piece) = self.next().await? {
            if whole.capacity() - whole.len() < piece.len() {
                whole.reserve_exact(piece.len().max(GROWS_BY));
            }
            whole.extend_from_slice(&piece);
        }
        Ok(whole)
    }
}

/// The text of an uploaded file.
///
/// # Errors
/// [`ApiError::Malformed`] where it is not UTF-8.
pub fn text(body: &[u8]) -> Result<&str, ApiError> {
    std::str::from_utf8(body).map_err(|error| ApiError::Malformed {
        field: None,
        message: format!(
            "the file is not UTF-8 text (byte {}); save it as UTF-8 CSV",
            error.valid_up_to() + 1
        ),
    })
}

/// A note without the space around it; none where nothing is written.
///
/// # Errors
/// The field `note`, where it has more characters than that.
pub fn note(text: Option<&str>, longest: usize) -> Result<Option<&str>, Invalid> {
    let note = text.map(str::trim).filter(|note| !note.is_empty());
    if note.is_some_and(|note| note.chars().count() > longest) {
        return Err(Invalid::new(
            "note",
            format!("at most {longest} characters"),
        ));
    }
    Ok(note)
}

/// Checks the key by which something that a phone may send twice is written once.
///
/// # Errors
/// The field `idempotency_key`.
pub fn idempotency_key(key: &str) -> Result<(), Invalid> {
    if (8..=80).contains(&key.chars().count()) {
        return Ok(());
    }
    Err(Invalid::new("idempotency_key", "8 to 80 characters"))
}

/// A JSON text as a type. No text in it holds a control character, and nothing follows it.
///
/// # Errors
/// [`ApiError::Malformed`] with the field, [`ApiError::Invalid`] for a text that no database takes.
pub fn parse<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, ApiError> {
    let mut json = serde_json::Deserializer::from_slice(bytes);
    let parsed = serde_path_to_error::deserialize(&mut json).map_err(|error| {
        let path = error.path().to_string();
        malformed((path != ".").then_some(path), error.inner())
    })?;
    json.end().map_err(|error| malformed(None, &error))?;
    // Raw control characters are no JSON: they come escaped or not at all.
    if bytes.contains(&b'\\') || !bytes.is_ascii() || bytes.contains(&0x7f) {
        let value = serde_json::from_slice(bytes).map_err(|error| malformed(None, &error))?;
        text::check_json("", &value)?;
    }
    Ok(parsed)
}

fn malformed(field: Option<String>, error: &serde_json::Error) -> ApiError {
    let full = error.to_string();
    let message = full.split(" at line ").next().unwrap_or(&full);
    ApiError::Malformed {
        field,
        message: text::shortened(message),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[derive(Debug, serde::Deserialize)]
    struct Name {
        #[allow(dead_code)] // only that it is read
        name: String,
    }

    #[test]
    fn control_characters_and_what_follows_are_refused_wherever_they_stand() {
        assert!(parse::<Name>(br#"{"name":"Front"}  "#).is_ok());
        assert!(parse::<Name>("{\"name\":\"Vörgarten\"}".as_bytes()).is_ok());
        let field = |text: &str| match parse::<Name>(text.as_bytes()) {
            Err(ApiError::Invalid(invalid)) => Some(invalid.field),
            _ => None,
        };
        assert_eq!(field(r#"{"name":"a\u0000b"}"#).as_deref(), Some("name"));
        assert_eq!(field("{\"name\":\"a\u{85}b\"}").as_deref(), Some("name"));
        assert_eq!(field("{\"name\":\"a\u{7f}b\"}").as_deref(), Some("name"));
        for text in [
            r#"{"name":"a"}x"#,
            r#"{"name":"a"}{"name":"b"}"#,
            "{\"name\":\"a\nb\"}",
            "",
            "null",
        ] {
            assert!(
                matches!(
                    parse::<Name>(text.as_bytes()),
                    Err(ApiError::Malformed { .. })
                ),
                "{text}"
            );
        }
    }
}
