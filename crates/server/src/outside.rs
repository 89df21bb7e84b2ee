//! Asking another machine, whose address the settings name: with patience, but not without end, and never sent on elsewhere.

use std::path::Path;
use std::time::Duration;

use lawn::text::shortened;
use reqwest::{Method, RequestBuilder};
use thiserror::Error;

use crate::tls;

/// Patience with one answer.
const PATIENCE: Duration = Duration::from_secs(4);
/// Largest answer, bytes.
const LARGEST: usize = 4 * 1024 * 1024;

/// Why an answer could not be used; for people.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum Unusable {
    /// No answer at all, or one that breaks off.
    #[error("it does not answer")]
    Silent,
    /// No answer in time.
    #[error("it took longer than {} s", PATIENCE.as_secs())]
    Slow,
    /// An answer that sends to another place.
    #[error("it sends us to another place, which we do not follow")]
    Redirect,
    /// An answer that says no.
    #[error("it answered with status {0}")]
    Status(u16),
    /// What it says does not hold.
    #[error("it sent what cannot be used ({0})")]
    Nonsense(String),
}

impl Unusable {
    /// What does not hold, in words that may be the other machine's own: people see them cleaned and cut.
    #[must_use]
    pub fn nonsense(what: &str) -> Self {
        Self::Nonsense(shortened(what))
    }
}

/// Another machine.
#[derive(Debug, Clone)]
pub struct Outside {
    client: reqwest::Client,
    base: String,
    key: Option<String>,
}

impl Outside {
    /// One at an address, with the key that it asks for and a certificate that vouches for it, if there are such.
    ///
    /// # Errors
    /// [`tls::Error`].
    pub fn new(base: &str, key: Option<String>, root: Option<&Path>) -> Result<Self, tls::Error> {
        let client = tls::asking(root)?
            .timeout(PATIENCE)
            // Its address is the settings' choice, not its own.
            .redirect(reqwest::redirect::Policy::none())
            .build()
            .map_err(|e| tls::Error::Certificate(e.to_string()))?;
        Ok(Self {
            client,
            base: base.to_owned(),
            key,
        })
    }

    /// A question about a path.
    pub fn ask(&self, method: Method, path: &str) -> RequestBuilder {
        let question = self.client.request(method, format!("{}{path}", self.base));
        match &self.key {
            Some(key) => question.bearer_auth(key),
            None => question,
        }
    }
}

/// The whole answer to a question, where it is a success.
///
/// # Errors
/// [`Unusable`].
pub async fn answer(question: RequestBuilder) -> Result<String, Unusable> {
    let failed = |error: reqwest::Error| {
        if error.is_timeout() {
            Unusable::Slow
        } else {
            Unusable::Silent
        }
    };
    let mut answer = question.send().await.map_err(failed)?;
    if answer.status().is_redirection() {
        return Err(Unusable::Redirect);
    }
    if !answer.status().is_success() {
        return Err(Unusable::Status(answer.status().as_u16()));
    }
    let mut bytes = Vec::new();
    while let Some(chunk) = answer.chunk().await.map_err(failed)? {
        bytes.extend_from_slice(&chunk);
        if bytes.len() > LARGEST {
            return Err(Unusable::nonsense("more than 4 MB"));
        }
    }
    String::from_utf8(bytes).map_err(|_| Unusable::nonsense("not text"))
}

#[cfg(test)]
mod tests {
    use super::Unusable;

    #[test]
    fn words_of_another_machine_are_cleaned_and_cut() {
        let wild = format!("\u{1b}[31m{}\r\n", "x".repeat(24_000));
        let said = Unusable::nonsense(&wild).to_string();
        assert!(!said.chars().any(char::is_control), "{said:?}");
        assert!(said.chars().count() < 400, "{said}");
        assert!(said.contains("[31mxxx"), "{said}");
    }
}
