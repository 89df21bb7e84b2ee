//! JSON bodies, with errors that name the field.

use actix_web::dev::Payload;
use actix_web::web::Bytes;
use actix_web::{FromRequest, HttpRequest};
use serde::de::DeserializeOwned;
use std::future::Future;
use std::pin::Pin;

use super::LARGEST_BODY;
use super::error::ApiError;

/// A JSON body of a type.
pub struct Body<T>(pub T);

impl<T: DeserializeOwned + 'static> FromRequest for Body<T> {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let bytes = Bytes::from_request(request, payload);
        Box::pin(async move {
            let bytes = bytes
                .await
                .map_err(|_| ApiError::TooLarge(LARGEST_BODY / 1024 / 1024))?;
            let mut json = serde_json::Deserializer::from_slice(&bytes);
            serde_path_to_error::deserialize(&mut json)
                .map(Body)
                .map_err(|error| {
                    let path = error.path().to_string();
                    let full = error.inner().to_string();
                    ApiError::Malformed {
                        field: (path != ".").then_some(path),
                        message: full.split(" at line ").next().unwrap_or(&full).to_owned(),
                    }
                })
        })
    }
}
