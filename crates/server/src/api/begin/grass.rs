use actix_web::post;
use actix_web::web::Json;
use lawn::measure::grass_key::{Found, Question, Sign, find};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// What was seen so far.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Seen {
    #[serde(default)]
    signs: Vec<Sign>,
    /// Questions that were left open.
    #[serde(default)]
    open: Vec<Question>,
}

/// What the key says, and the answers to its next question.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct KeyStep {
    found: Found,
    /// The answers to the next question; none where there is none.
    answers: Vec<Sign>,
}

/// Goes through the key to the grass with what was seen: the grasses that go with it, and what to look at next.
#[utoipa::path(tag = "catalogue", operation_id = "grass_key", request_body = Seen, responses(
    (status = 200, description = "What the key says", body = KeyStep),
    (status = 400, description = "No such sign or question", body = Problem)))]
#[post("/grass-key")]
pub(in crate::api) async fn grass(Body(seen): Body<Seen>) -> Result<Json<KeyStep>, ApiError> {
    let found = find(&seen.signs, &seen.open);
    let next = found.next;
    Ok(Json(KeyStep {
        answers: next.into_iter().flat_map(Question::signs).collect(),
        found,
    }))
}
