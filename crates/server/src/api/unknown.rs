//! What no route of the API takes: a path that it does not have, or a method that the path does not have.

use std::sync::LazyLock;

use actix_web::dev::ResourceDef;
use actix_web::{HttpRequest, HttpResponse, ResponseError};

use super::openapi;
use crate::http::error::ApiError;

/// The paths of the API with their methods, from its own description.
static RESOURCES: LazyLock<Vec<(ResourceDef, String)>> = LazyLock::new(|| {
    let document = serde_json::to_value(openapi()).unwrap_or_default();
    let paths = document["paths"].as_object().cloned().unwrap_or_default();
    paths
        .iter()
        .map(|(path, item)| {
            let methods = item.as_object().into_iter().flat_map(|item| item.keys());
            let mut allowed: Vec<String> = methods.map(|m| m.to_uppercase()).collect();
            if allowed.iter().any(|m| m == "GET") {
                allowed.push("HEAD".to_owned());
            }
            (ResourceDef::new(path.as_str()), allowed.join(", "))
        })
        .collect()
});

/// 405 with what the path can be asked, or 404.
pub async fn unknown(request: HttpRequest) -> HttpResponse {
    let known = RESOURCES
        .iter()
        .find(|(path, _)| path.is_match(request.path()));
    match known {
        Some((_, allowed)) => ApiError::WrongMethod(allowed.clone()),
        None => ApiError::NotFound("page"),
    }
    .error_response()
}
