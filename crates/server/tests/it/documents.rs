//! What is committed and generated is current, and true: good bodies meet their schemas, and so do answers.

use std::process::Command;

use reqwest::StatusCode;
use serde_json::{Value, json};

use crate::harness::App;
use crate::rights::table;

#[test]
fn the_committed_documents_are_what_the_program_says() {
    for (what, committed) in [
        ("openapi", include_str!("../../../../docs/openapi.json")),
        (
            "plan",
            include_str!("../../../../docs/formats/plan.schema.json"),
        ),
    ] {
        let out = Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
            .args(["schema", what])
            .output()
            .unwrap();
        let said = String::from_utf8(out.stdout).unwrap();
        assert!(
            said == committed,
            "{what} has drifted: run `cargo xtask generate`"
        );
    }
}

/// A schema of the API's description, with all that it refers to.
fn validator(document: &Value, schema: &Value) -> jsonschema::Validator {
    let mut whole = schema.clone();
    whole["components"] = document["components"].clone();
    jsonschema::validator_for(&whole).unwrap()
}

#[tokio::test]
async fn schemas_of_bodies_and_answers_can_be_met() {
    let document = serde_json::to_value(fresh_meadow::api::openapi()).unwrap();
    let (_app, api, site) = App::with_dry_zone().await;
    let table = table();
    let (mut bodies, mut answers) = (0, 0);
    for (path, item) in document["paths"].as_object().unwrap() {
        for (method, operation) in item.as_object().unwrap() {
            let id = operation["operationId"].as_str().unwrap();
            let body = &operation["requestBody"]["content"]["application/json"]["schema"];
            if !body.is_null() {
                let good = &table[id].1;
                assert!(
                    good.is_object() || good.is_array(),
                    "{id} has a body, its good one is not known here"
                );
                let said = validator(&document, body);
                let errors: Vec<String> = said.iter_errors(good).map(|e| e.to_string()).collect();
                assert_eq!(errors, [] as [String; 0], "{id}");
                bodies += 1;
            }
            let schema = &operation["responses"]["200"]["content"]["application/json"]["schema"];
            if method != "get" || schema.is_null() {
                continue;
            }
            let url = path
                .trim_start_matches("/api/v1")
                .replace("/sites/{site}", &site);
            let answer = api
                .get(&format!("{url}?from=2026-06-01&to=2026-06-30"))
                .await;
            if answer.status() != StatusCode::OK {
                continue;
            }
            let answer: Value = answer.json().await.unwrap();
            let said = validator(&document, schema);
            let errors: Vec<String> = said.iter_errors(&answer).map(|e| e.to_string()).collect();
            assert_eq!(errors, [] as [String; 0], "{id}");
            answers += 1;
        }
    }
    assert!(
        bodies >= 20 && answers >= 12,
        "{bodies} bodies, {answers} answers"
    );
    let nonsense = json!({ "test": { "method": "tea leaves" }, "idempotency_key": "documents-1" });
    let schema = json!({ "$ref": "#/components/schemas/DoneTest" });
    assert!(!validator(&document, &schema).is_valid(&nonsense));
}
