//! `fresh-meadow schema`: machine-readable descriptions, committed under docs/ and compared by tests.

use clap::{Args, ValueEnum};
use serde_json::{Value, json};

use super::Failure;

#[derive(Debug, Clone, Copy, ValueEnum)]
enum What {
    /// The OpenAPI document of the HTTP API.
    Openapi,
    /// The JSON Schema of `fresh-meadow plan`.
    Plan,
}

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    what: What,
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    match a.what {
        What::Openapi => openapi(),
        What::Plan => plan(),
    }
    .map_err(Failure::from)
}

/// The OpenAPI document, indented.
///
/// # Errors
/// None that could happen: the document holds no map with keys that are not text.
pub fn openapi() -> Result<String, serde_json::Error> {
    let mut text = serde_json::to_string_pretty(&crate::api::openapi())?;
    text.push('\n');
    Ok(text)
}

/// The JSON Schema of the plan: the same types as in the API.
///
/// # Errors
/// As [`openapi`].
pub fn plan() -> Result<String, serde_json::Error> {
    let document = serde_json::to_value(crate::api::openapi())?;
    let schemas = document["components"]["schemas"].clone();
    let mut needed = serde_json::Map::new();
    collect("WeekPlan", &schemas, &mut needed);
    let schema = json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Fresh Meadow week plan",
        "$ref": "#/$defs/WeekPlan",
        "$defs": needed,
    });
    let text = serde_json::to_string_pretty(&schema)?.replace("#/components/schemas/", "#/$defs/");
    Ok(text + "\n")
}

/// Adds a schema and all that it refers to.
fn collect(name: &str, schemas: &Value, needed: &mut serde_json::Map<String, Value>) {
    if needed.contains_key(name) || schemas[name].is_null() {
        return;
    }
    needed.insert(name.to_owned(), schemas[name].clone());
    let mut stack = vec![&schemas[name]];
    while let Some(value) = stack.pop() {
        match value {
            Value::Object(map) => {
                if let Some(Value::String(target)) = map.get("$ref")
                    && let Some(other) = target.strip_prefix("#/components/schemas/")
                {
                    collect(other, schemas, needed);
                }
                stack.extend(map.values());
            }
            Value::Array(items) => stack.extend(items),
            _ => {}
        }
    }
}
