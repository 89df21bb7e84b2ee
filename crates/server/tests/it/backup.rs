//! All data to a file and back, into an empty cluster too.

use std::os::unix::fs::PermissionsExt;

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use xtask::postgres::{Address, Cluster};

use crate::harness::{App, EMAIL, expect};

/// What a site has, as its owner reads it.
async fn told(app: &App) -> Value {
    let api = app.sign_in(EMAIL).await;
    let (plan, zones) = (
        api.json("/sites/1/plan").await,
        api.json("/sites/1/zones").await,
    );
    let weather = api.text("/sites/1/weather.csv").await;
    serde_json::json!({ "plan": plan, "zones": zones, "weather": weather })
}

#[tokio::test]
async fn a_backup_is_restored_on_an_empty_machine_and_over_what_is_there() {
    let (from, to) = tokio::task::spawn_blocking(|| {
        (Cluster::throwaway().unwrap(), Cluster::throwaway().unwrap())
    })
    .await
    .unwrap();
    from.create_database("home").unwrap();
    let app = App::start_on(from.url("home")).await;
    // It answers once its tables are there.
    assert_eq!(app.stranger().json("/welcome").await["first_account"], true);
    let owner = app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    app.dry_zone(owner, &api).await;
    let before = told(&app).await;
    let file =
        std::env::temp_dir().join(format!("fresh-meadow-backup-{}.dump", std::process::id()));
    let invited = json!({ "name": "Fern", "role": "crew" });
    let invited = api
        .send(Method::POST, "/sites/1/invitations", invited)
        .await;
    let link = expect(invited, StatusCode::CREATED).await["token"].clone();
    let station = json!({ "name": "Roof" });
    let station = api
        .send(Method::POST, "/sites/1/device-tokens", station)
        .await;
    let token = expect(station, StatusCode::CREATED).await["token"].clone();
    let session = app.session(EMAIL).await;
    // As a careless shell has it: whoever is on the machine may read what is written.
    // It is written while the server runs, by who only knows its folder.
    let running = Address::of_running(from.folder()).unwrap();
    running.back_up("home", &file).unwrap();
    let mode = std::fs::metadata(&file).unwrap().permissions().mode();
    assert_eq!(mode & 0o777, 0o600);
    drop(app);

    // An empty machine.
    assert_eq!(to.restore("home", &file).unwrap(), None);
    let restored = App::start_on(to.url("home")).await;
    assert_eq!(told(&restored).await, before);
    // What opened a door may have been revoked since: it opens none.
    let ask = |path: &str| restored.stranger().request(Method::GET, path);
    let asked = ask("/session").header("cookie", session).send().await;
    assert_eq!(asked.unwrap().status(), StatusCode::UNAUTHORIZED);
    let offer = restored.stranger().holding(link.as_str().unwrap());
    assert_eq!(
        offer.get("/invitation").await.status(),
        StatusCode::NOT_FOUND
    );
    let sent = crate::harness::plain()
        .build()
        .unwrap()
        .post(format!("{}/api/v1/sites/1/weather-days", restored.origin()));
    let sent = sent.bearer_auth(token.as_str().unwrap()).body("date\n");
    assert_eq!(
        sent.send().await.unwrap().status(),
        StatusCode::UNAUTHORIZED
    );
    drop(restored);

    // What is there is kept under another name; a file that is none changes nothing.
    let nonsense = file.with_extension("txt");
    std::fs::write(&nonsense, "no backup").unwrap();
    assert!(to.restore("home", &nonsense).is_err());
    assert!(to.restore("home", &file.with_extension("gone")).is_err());
    for _ in 0..50 {
        // The server of before may still hold a connection.
        if let Ok(kept) = to.restore("home", &file) {
            assert!(kept.unwrap().starts_with("home_before_"));
            let again = App::start_on(to.url("home")).await;
            assert_eq!(told(&again).await, before);
            std::fs::remove_file(&file).unwrap();
            std::fs::remove_file(&nonsense).unwrap();
            return;
        }
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    }
    panic!("the database is not let go");
}
