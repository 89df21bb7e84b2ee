//! All data to a file and back, into an empty cluster too.

use serde_json::Value;
use xtask::postgres::Cluster;

use crate::harness::{App, EMAIL};

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
    from.back_up("home", &file).unwrap();
    drop(app);

    // An empty machine.
    assert_eq!(to.restore("home", &file).unwrap(), None);
    let restored = App::start_on(to.url("home")).await;
    assert_eq!(told(&restored).await, before);
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
