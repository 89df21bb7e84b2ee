//! What does not hold, and where: at the field, in the words of the file.

use thiserror::Error;

use crate::ranges::Range;

/// A field that does not hold, with what is wrong and how to correct it.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("{field}: {message}")]
pub struct Invalid {
    /// Path of the field, such as `zones[2].slope_pct`.
    pub field: String,
    /// What is wrong, in the words of the file.
    pub message: String,
}

impl Invalid {
    /// What is wrong with a field.
    #[must_use]
    pub fn new(field: impl Into<String>, message: impl Into<String>) -> Self {
        Self {
            field: field.into(),
            message: message.into(),
        }
    }

    /// The same of a field that lies within another, such as `test.`.
    #[must_use]
    pub fn within(self, path: &str) -> Self {
        Self {
            field: format!("{path}{}", self.field),
            ..self
        }
    }

    /// Whether a field's figure lies within its range.
    ///
    /// # Errors
    /// The field with the value, the unit and the limit.
    pub fn unless_within(field: impl Into<String>, range: Range, value: f64) -> Result<(), Self> {
        range
            .check(value)
            .map(|_| ())
            .map_err(|error| Self::new(field, error.to_string()))
    }
}
