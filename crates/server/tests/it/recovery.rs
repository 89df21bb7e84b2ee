//! Recovery over the API: zones that were let go wake in autumn, are judged patch by patch, and what is dead is on the repair list.

use image::ImageFormat;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, expect};
use crate::photos::picture;
use crate::rounds::step;

/// Pavilion front (tall fescue), East bank and Library lawn of the demo.
pub const LET_GO: [i64; 3] = [2, 3, 5];
/// Days that the clock is stepped at most until something is proposed.
const MOST_DAYS: i64 = 150;

async fn turn(api: &Api, zone: i64, regime: &str) {
    let path = format!("/sites/1/zones/{zone}/regime");
    let done = api
        .send(Method::PUT, &path, json!({ "regime": regime }))
        .await;
    assert_eq!(done.status(), StatusCode::NO_CONTENT);
}

fn zone_of(view: &Value, zone: i64) -> Value {
    let zones = view["zones"].as_array().unwrap();
    zones.iter().find(|z| z["zone"] == zone).unwrap().clone()
}

/// Steps the clock until every zone of [`LET_GO`] that still sleeps is proposed to wake; the site's day.
pub async fn until_waking(api: &Api) -> String {
    for _ in 0..MOST_DAYS {
        let stress = api.json("/sites/1/stress").await;
        let asleep = LET_GO.map(|zone| zone_of(&stress, zone));
        if asleep.iter().all(|z| z["proposes"]["proposes"] == "wake") {
            return stress["today"].as_str().unwrap().to_owned();
        }
        step(api, "/sites/1", 1).await;
    }
    panic!("nothing wakes");
}

/// Steps the clock until dead can be told from asleep in a zone.
pub async fn until_judged(api: &Api, zone: i64) -> Value {
    for _ in 0..MOST_DAYS {
        let view = api.json("/sites/1/recovery").await;
        let own = zone_of(&view, zone);
        if own["recovery"]["judged_from"].is_string() {
            return view;
        }
        step(api, "/sites/1", 1).await;
    }
    panic!("never judged");
}

#[tokio::test]
async fn patches_are_judged_once_it_woke_and_the_dead_are_to_be_sown() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    for zone in LET_GO {
        turn(&api, zone, "dormant").await;
    }
    let note = async |body: Value| {
        api.send(Method::POST, "/sites/1/zones/2/patches", body)
            .await
    };
    for (body, field) in [
        (
            json!({ "name": " ", "area_m2": 2, "idempotency_key": "patch-0001" }),
            "name",
        ),
        (
            json!({ "name": "by the drive", "area_m2": 0, "idempotency_key": "patch-0001" }),
            "area_m2",
        ),
        (
            json!({ "name": "by the drive", "area_m2": 90000, "idempotency_key": "patch-0001" }),
            "area_m2",
        ),
        (
            json!({ "name": "by the drive", "area_m2": 2, "idempotency_key": "x" }),
            "idempotency_key",
        ),
    ] {
        let said = expect(note(body).await, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(said["field"], field, "{said}");
    }
    assert_eq!(
        zone_of(&api.json("/sites/1/recovery").await, 2)["patches"],
        json!([]),
        "nothing half written"
    );
    // Noted while it sleeps, twice by a phone that lost its answer: kept once, and early.
    let drive = json!({ "name": "by the drive", "area_m2": 12.5, "holds": false, "idempotency_key": "patch-0001" });
    let kept = expect(note(drive.clone()).await, StatusCode::CREATED).await;
    let again = expect(note(drive).await, StatusCode::OK).await;
    assert_eq!(kept, again);
    let photo = format!("/sites/1/patch-looks/{}/photo", kept["look"]);
    let put = async |path: &str| {
        let request = api
            .request(Method::PUT, path)
            .body(picture(ImageFormat::Png));
        request.send().await.unwrap().status()
    };
    assert_eq!(put(&photo).await, StatusCode::NO_CONTENT);
    assert_eq!(
        put("/sites/1/patch-looks/99/photo").await,
        StatusCode::NOT_FOUND
    );
    let asleep = zone_of(&api.json("/sites/1/recovery").await, 2);
    let patch = &asleep["patches"][0];
    assert_eq!(
        (&patch["state"], &patch["is_early"], &asleep["recovery"]),
        (&json!("dead"), &json!(true), &Value::Null)
    );

    let woken = until_waking(&api).await;
    assert!(
        ("2026-08-01".."2026-11-15").contains(&woken.as_str()),
        "{woken}"
    );
    for zone in LET_GO {
        turn(&api, zone, "recovering").await;
    }
    let waking = zone_of(&api.json("/sites/1/recovery").await, 2);
    assert_eq!(waking["recovery"]["since"], json!(woken), "{waking}");
    assert_eq!(waking["recovery"]["steps"][0]["when"], "now");
    let view = until_judged(&api, 2).await;
    let judged = zone_of(&view, 2);
    assert_eq!(
        judged["patches"][0]["is_early"], true,
        "it was seen before: {judged}"
    );
    // Looked at again it is dead, another lives; each kept once.
    let path = format!("/sites/1/patches/{}/looks", kept["patch"]);
    let look = json!({ "holds": false, "alive": false, "idempotency_key": "look-00001" });
    let seen = expect(
        api.send(Method::POST, &path, look.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    expect(api.send(Method::POST, &path, look).await, StatusCode::OK).await;
    let now = format!("/sites/1/patch-looks/{}/photo", seen["look"]);
    assert_eq!(put(&now).await, StatusCode::NO_CONTENT);
    let green = json!({ "name": "under the oak", "area_m2": 4, "alive": true, "idempotency_key": "patch-0002" });
    expect(note(green).await, StatusCode::CREATED).await;
    let view = api.json("/sites/1/recovery").await;
    let own = zone_of(&view, 2);
    let patch = &own["patches"][0];
    assert_eq!(
        (&patch["is_early"], patch["looks"].as_array().unwrap().len()),
        (&json!(false), 2)
    );
    // 40 g/m² of tall fescue.
    assert_eq!(patch["repair"]["seed_kg"], json!(0.5), "{patch}");
    assert_eq!(
        view["seed"],
        json!([{ "grass": "tall_fescue", "kg": 0.5 }]),
        "the other lives"
    );
    assert_eq!(own["patches"][1]["repair"], Value::Null);
    assert!(own["sow_by"]["sow_by"].is_string());
    let got = api.request(Method::GET, &now).send().await.unwrap();
    assert_eq!(got.headers()["content-type"], "image/jpeg");

    // Repaired it is off the list, and on it again where that was a mistake.
    let repaired = format!("/sites/1/patches/{}/repaired", kept["patch"]);
    for (method, seed) in [(Method::PUT, 0), (Method::PUT, 0), (Method::DELETE, 1)] {
        let done = api.request(method, &repaired).send().await.unwrap();
        assert_eq!(done.status(), StatusCode::NO_CONTENT);
        let view = api.json("/sites/1/recovery").await;
        assert_eq!(view["seed"].as_array().unwrap().len(), seed);
    }
    let patch = format!("/sites/1/patches/{}", kept["patch"]);
    for status in [StatusCode::NO_CONTENT, StatusCode::NOT_FOUND] {
        let undone = api.request(Method::DELETE, &patch).send().await.unwrap();
        assert_eq!(undone.status(), status);
    }
    let view = api.json("/sites/1/recovery").await;
    assert_eq!(
        zone_of(&view, 2)["patches"].as_array().unwrap().len(),
        1,
        "with its looks"
    );
    let history = api.text("/sites/1/history.csv").await;
    for (event, times) in [
        ("patch_noted", 2),
        ("patch_looked_at", 1),
        ("patch_repaired", 2),
        ("patch_undone", 1),
    ] {
        assert_eq!(history.matches(event).count(), times, "{event}");
    }
    neighbours_see_nothing(&app, &patch, &now).await;
}

/// Of another site's patches and photos nothing is seen or changed.
async fn neighbours_see_nothing(app: &App, patch: &str, photo: &str) {
    let other = app.account("other@meadow.example").await;
    let api = app.sign_in("other@meadow.example").await;
    let own = app.dry_zone(other, &api).await;
    for (method, path) in [(Method::DELETE, patch), (Method::GET, photo)] {
        let path = path.replace("/sites/1", &own);
        let answer = api.request(method, &path).send().await.unwrap();
        assert_eq!(answer.status(), StatusCode::NOT_FOUND, "{path}");
    }
}
