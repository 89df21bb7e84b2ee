//! The site document out, in and out again: equal but for ids.

use reqwest::StatusCode;
use serde_json::{Value, json};

use crate::harness::{App, EMAIL, NIGHT, expect};

#[tokio::test]
async fn export_import_export_is_equal_but_for_ids() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let document = lawn::site::document::read(fresh_meadow::demo::SITE).unwrap();
    let site = app.site(owner, &document, NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    let without_ids = |text: &str| {
        let value: Value = serde_json::from_str(text).unwrap();
        // Rules and meters name zones by their ids: by their names here.
        let mut value = value;
        for naming in ["rules", "meters"] {
            let mut said = value[naming].to_string();
            for zone in value["zones"].as_array().unwrap() {
                said = said.replace(&zone["id"].to_string(), &zone["name"].to_string());
            }
            value[naming] = serde_json::from_str(&said).unwrap();
        }
        for meter in value["meters"].as_array_mut().into_iter().flatten() {
            meter["id"] = Value::Null;
        }
        for zone in value["zones"].as_array_mut().unwrap() {
            zone["id"] = Value::Null;
        }
        value
    };
    let first = api.text(&format!("/sites/{}/document", site.0)).await;
    assert_eq!(
        without_ids(&first),
        without_ids(&lawn::site::document::write(&document))
    );
    let made = api
        .client
        .post(format!("{}/sites", api.base))
        .body(first.clone())
        .send()
        .await
        .unwrap();
    let made = expect(made, StatusCode::CREATED).await;
    assert_ne!(made["id"], json!(site.0));
    let second = api.text(&format!("/sites/{}/document", made["id"])).await;
    assert_eq!(without_ids(&first), without_ids(&second));

    // With dated facts and tests, one pinned, one set aside; nobody is named who did them.
    let imported = |text: String| {
        let request = api.client.post(format!("{}/sites", api.base)).body(text);
        async { expect(request.send().await.unwrap(), StatusCode::CREATED).await["id"].clone() }
    };
    let all = include_str!("../../../lawn/tests/data/site-2.json");
    let site = imported(all.to_owned()).await;
    let out = api.text(&format!("/sites/{site}/document")).await;
    let written = lawn::site::document::write(&lawn::site::document::read(all).unwrap());
    assert_eq!(without_ids(&out), without_ids(&written));
    // A test that counts from a repair says so, since repairs are not in the document.
    sqlx::raw_sql(
        "UPDATE sprinkler_test SET voided_at = NULL WHERE voided_at IS NOT NULL;
         INSERT INTO head_fault (zone_id, head, fault, noted_on, mended_on, idempotency_key)
         SELECT zone_id, 1, 'clogged', '2026-04-20', '2026-04-28', 'mended-before' FROM sprinkler_test WHERE date = '2026-05-02'",
    )
    .execute(&app.pool)
    .await
    .unwrap();
    let out = api.text(&format!("/sites/{site}/document")).await;
    let test = &without_ids(&out)["zones"][1]["tests"][0];
    assert_eq!(
        (&test["date"], &test["counts_from"]),
        (&json!("2026-05-02"), &json!("2026-04-28"))
    );
    let again = imported(out.clone()).await;
    let again = api.text(&format!("/sites/{again}/document")).await;
    assert_eq!(without_ids(&out), without_ids(&again));
    // What cannot be is refused at its key.
    let tomorrow = all.replace("2026-06-12", "2199-06-12");
    let refused = api
        .client
        .post(format!("{}/sites", api.base))
        .body(tomorrow);
    let refused = refused.send().await.unwrap();
    let said = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(said["field"], "zones[0].tests[1].date");
    let bad = first.replace("\"slope_pct\"", "\"slope\"");
    let refused = api
        .client
        .post(format!("{}/sites", api.base))
        .body(bad)
        .send()
        .await
        .unwrap();
    let said = expect(refused, StatusCode::BAD_REQUEST).await;
    assert!(
        said["detail"].as_str().unwrap().starts_with("line "),
        "{said}"
    );
}
