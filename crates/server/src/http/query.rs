//! What stands in the address: the query and the parts of the path, with errors that are problems like any other.

use std::future::{Ready, ready};

use actix_web::dev::Payload;
use actix_web::web::{PathConfig, Query};
use actix_web::{FromRequest, HttpRequest};
use jiff::civil::Date;
use lawn::days;
use lawn::text::shortened;
use serde::Deserialize;
use serde::de::DeserializeOwned;
use utoipa::IntoParams;

use super::error::ApiError;

/// The query of a type.
pub struct Asked<T>(pub T);

impl<T: DeserializeOwned> FromRequest for Asked<T> {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        ready(
            Query::<T>::from_query(request.query_string())
                .map(|query| Self(query.into_inner()))
                .map_err(|error| ApiError::Malformed {
                    field: None,
                    message: shortened(&error.to_string()),
                }),
        )
    }
}

/// A stretch of days, ends included.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Stretch {
    /// First day, 1900-01-01 to 2199-12-31.
    pub from: Date,
    /// Last day, likewise.
    pub to: Date,
}

impl Stretch {
    /// The stretch, whose days records may name.
    ///
    /// # Errors
    /// The end that does not hold.
    pub fn checked(self) -> Result<Self, ApiError> {
        days::check("from", self.from, days::LAST)?;
        days::check("to", self.to, days::LAST)?;
        Ok(self)
    }
}

/// A part of the path that is no number, or no date, leads nowhere.
#[must_use]
pub fn path_config() -> PathConfig {
    PathConfig::default().error_handler(|_, _| ApiError::NotFound("page").into())
}
