//! The errors that every operation may answer with, in the API's description: what comes before a handler, and what may break.

use utoipa::openapi::path::Operation;
use utoipa::openapi::response::ResponseBuilder;
use utoipa::openapi::{Content, OpenApi, Ref, RefOr, Response};

/// What an operation can be asked without: a session.
const OPEN: [&str; 4] = [
    "sign_in",
    "sign_out",
    "show_invitation",
    "accept_invitation",
];

/// Errors of every operation.
const ALWAYS: [(&str, &str); 5] = [
    ("421", "Asked under a name that is not this server's"),
    ("415", "A content encoding: send bodies as they are"),
    ("429", "Too many requests; Retry-After says when to go on"),
    (
        "500",
        "A defect; the log has the rest under the request's number",
    ),
    (
        "503",
        "The database is away or busy; Retry-After says when to ask again",
    ),
];
/// Errors of operations with a body.
const WITH_BODY: [(&str, &str); 4] = [
    ("400", "The body cannot be understood"),
    ("408", "The body took too long to come"),
    ("413", "The body is too large"),
    (
        "422",
        "A text with control characters, or a figure that does not hold",
    ),
];

/// Adds the errors that operations have in common, and says of each error that it is a problem (RFC 9457).
pub(super) fn describe(document: &mut OpenApi) {
    for (path, item) in &mut document.paths.paths {
        for (operation, changes) in [
            (&mut item.get, false),
            (&mut item.put, true),
            (&mut item.post, true),
            (&mut item.delete, true),
            (&mut item.patch, true),
        ] {
            if let Some(operation) = operation {
                describe_one(operation, path.contains('{'), changes);
            }
        }
    }
}

fn describe_one(operation: &mut Operation, of_something: bool, changes: bool) {
    let id = operation.operation_id.clone().unwrap_or_default();
    let is_open = OPEN.contains(&id.as_str());
    let mut add = |status: &str, description: &str| {
        let known = &mut operation.responses.responses;
        known
            .entry(status.to_owned())
            .or_insert_with(|| RefOr::T(Response::new(description)));
    };
    for (status, description) in ALWAYS {
        add(status, description);
    }
    if changes {
        add(
            "403",
            "Sent by another site's page, or not allowed by the role",
        );
    }
    if !is_open {
        add("401", "Sign in first");
    }
    if of_something {
        add("404", "No such thing here");
    }
    if operation.parameters.as_ref().is_some_and(|p| !p.is_empty()) {
        add("400", "A parameter cannot be understood");
    }
    if operation.request_body.is_some() {
        for (status, description) in WITH_BODY {
            let known = &mut operation.responses.responses;
            known
                .entry(status.to_owned())
                .or_insert_with(|| RefOr::T(Response::new(description)));
        }
    }
    for (status, response) in &mut operation.responses.responses {
        if status.as_str() >= "400"
            && let RefOr::T(response) = response
        {
            *response = ResponseBuilder::new()
                .description(response.description.clone())
                .content(
                    "application/problem+json",
                    Content::new(Some(Ref::from_schema_name("Problem"))),
                )
                .build();
        }
    }
}
