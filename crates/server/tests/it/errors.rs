//! Errors: internals stay inside, and one identifier ties the answer to the log.

use std::io::{BufRead, BufReader};
use std::process::Stdio;

use reqwest::StatusCode;

use crate::harness::{App, EMAIL, NIGHT, Process, expect, small_site};

#[tokio::test]
async fn a_broken_query_is_told_by_its_request_id_alone_and_the_log_has_the_rest() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let mut server = Process::start(&app, Stdio::piped(), &[("NO_COLOR", "1")]);
    let log = BufReader::new(server.child.stderr.take().unwrap());
    server.answers().await;
    let api = server.app.sign_in(EMAIL).await;
    sqlx::query("ALTER TABLE plan RENAME TO plan_away")
        .execute(&app.pool)
        .await
        .unwrap();
    let answer = api.get(&format!("/sites/{}/plan", site.0)).await;
    let header = answer.headers()["x-request-id"]
        .to_str()
        .unwrap()
        .to_owned();
    let body = expect(answer, StatusCode::INTERNAL_SERVER_ERROR).await;
    let id = body["request_id"].as_str().unwrap().to_owned();
    assert_eq!(id, header);
    let text = body.to_string();
    for inside in ["plan_away", "relation", "SELECT", "sqlx", "database"] {
        assert!(!text.contains(inside), "{inside} in {text}");
    }
    server.kill();
    let lines: Vec<String> = log.lines().map(Result::unwrap).collect();
    let told = lines
        .iter()
        .find(|l| l.contains("request failed"))
        .expect("it is logged");
    assert!(told.contains(&id), "{told}");
    assert!(told.contains("relation \"plan\" does not exist"), "{told}");
}
