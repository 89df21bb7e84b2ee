//! What the API's description cannot say beside each operation: the errors that all have in common, and schemas that can be met.

use std::collections::BTreeSet;

use utoipa::openapi::path::Operation;
use utoipa::openapi::response::ResponseBuilder;
use utoipa::openapi::{Content, OpenApi, Ref, RefOr, Response, Schema};

/// What an operation can be asked without: a session.
const OPEN: [&str; 4] = [
    "sign_in",
    "sign_out",
    "show_invitation",
    "accept_invitation",
];

type Errors = &'static [(&'static str, &'static str)];

/// Errors of every operation.
const ALWAYS: Errors = &[
    ("415", "A content encoding: send bodies as they are"),
    ("421", "Asked under a name that is not this server's"),
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
const WITH_BODY: Errors = &[
    ("400", "The body cannot be understood"),
    ("408", "The body took too long to come"),
    ("413", "The body is too large"),
    (
        "422",
        "A text with control characters, or a figure that does not hold",
    ),
];
/// Errors of operations with parameters.
const WITH_PARAMETERS: Errors = &[("400", "A parameter cannot be understood")];
/// Of those that change something.
const CHANGING: Errors = &[(
    "403",
    "Sent by another site's page, or not allowed by the role",
)];
/// Of those that ask for a session.
const SIGNED_IN: Errors = &[("401", "Sign in first")];
/// Of those with a name in their path.
const OF_SOMETHING: Errors = &[("404", "No such thing here")];
/// Of edits.
const VERSIONED: Errors = &[(
    "428",
    "Say with If-Match which version was edited (RFC 6585)",
)];

/// Adds the errors that operations have in common, says of each error that it is a problem (RFC 9457), and opens schemas that are parts
/// of others.
pub(super) fn complete(document: &mut OpenApi) {
    open_parts(document);
    for (path, item) in &mut document.paths.paths {
        for (operation, changes) in [
            (&mut item.get, false),
            (&mut item.put, true),
            (&mut item.post, true),
            (&mut item.delete, true),
            (&mut item.patch, true),
        ] {
            if let Some(operation) = operation {
                add_errors(operation, path.contains('{'), changes);
            }
        }
    }
}

fn add_errors(operation: &mut Operation, of_something: bool, changes: bool) {
    let parameters = operation.parameters.as_deref().unwrap_or_default();
    let asks_version = parameters
        .iter()
        .any(|p| matches!(p, RefOr::T(p) if p.name == "If-Match"));
    let is_open = operation
        .operation_id
        .as_deref()
        .is_some_and(|id| OPEN.contains(&id));
    let errors = [
        (true, ALWAYS),
        (operation.request_body.is_some(), WITH_BODY),
        (!parameters.is_empty(), WITH_PARAMETERS),
        (changes, CHANGING),
        (!is_open, SIGNED_IN),
        (of_something, OF_SOMETHING),
        (asks_version, VERSIONED),
    ];
    let known = &mut operation.responses.responses;
    for (_, errors) in errors.into_iter().filter(|(holds, _)| *holds) {
        for (status, description) in errors {
            known
                .entry((*status).to_owned())
                .or_insert_with(|| RefOr::T(Response::new(*description)));
        }
    }
    for (status, response) in known {
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

/// A schema that is closed and a part of another one beside a tag can never be met: the tag is one property too many. The API itself
/// still refuses unknown keys.
fn open_parts(document: &mut OpenApi) {
    let Some(components) = &mut document.components else {
        return;
    };
    let mut parts = BTreeSet::new();
    for schema in components.schemas.values() {
        if let RefOr::T(schema) = schema {
            collect_parts(schema, &mut parts);
        }
    }
    for name in parts {
        if let Some(RefOr::T(schema)) = components.schemas.get_mut(&name) {
            open(schema);
        }
    }
}

/// The names of the schemas that are parts of all-of schemas.
fn collect_parts(schema: &Schema, parts: &mut BTreeSet<String>) {
    match schema {
        Schema::OneOf(choice) => {
            for item in &choice.items {
                if let RefOr::T(item) = item {
                    collect_parts(item, parts);
                }
            }
        }
        Schema::AllOf(all) => {
            for item in &all.items {
                if let RefOr::Ref(part) = item
                    && let Some(name) = part.ref_location.rsplit('/').next()
                {
                    parts.insert(name.to_owned());
                }
            }
        }
        _ => {}
    }
}

fn open(schema: &mut Schema) {
    match schema {
        Schema::Object(object) => object.additional_properties = None,
        Schema::OneOf(choice) => {
            for item in &mut choice.items {
                if let RefOr::T(item) = item {
                    open(item);
                }
            }
        }
        _ => {}
    }
}
