//! Stored plans: an equal one is not stored again, what was never in force goes, the rest is thinned out as it ages.

use fresh_meadow::db::SiteId;
use fresh_meadow::db::plans::{self, NewPlan};
use fresh_meadow::planning::PLAN_VERSION;
use jiff::civil::{Date, date};
use jiff::{Timestamp, ToSpan};
use lawn::record::programme::Programme;
use reqwest::{Method, StatusCode};
use serde_json::Value;

use crate::harness::{App, EMAIL, NIGHT, expect, small_site};

const TODAY: Date = Date::constant(2026, 6, 18);

fn plan(site: SiteId, today: Date, text: &str) -> NewPlan {
    NewPlan {
        site,
        made_at: Timestamp::now(),
        today,
        result: format!("{{\"is\": \"{text}\"}}"),
        changes: "[]".to_owned(),
        since_published: None,
        version: PLAN_VERSION,
        programme: Programme::default(),
        inputs: serde_json::json!({}),
    }
}

async fn add(app: &App, new: NewPlan, in_force: bool) -> i64 {
    let mut connection = app.pool.acquire().await.unwrap();
    let site = new.site;
    let made = plans::insert(&mut connection, &[new], false).await.unwrap();
    let id = made[&site];
    if in_force {
        sqlx::query("UPDATE plan SET in_force = true WHERE id = $1")
            .bind(id)
            .execute(&mut *connection)
            .await
            .unwrap();
    }
    id
}

async fn kept(app: &App) -> Vec<String> {
    sqlx::query_scalar("SELECT result::jsonb ->> 'is' FROM plan ORDER BY id")
        .fetch_all(&app.pool)
        .await
        .unwrap()
}

#[tokio::test]
async fn plans_are_stored_once_and_thinned_out_as_they_age() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let back = |days: i64| TODAY.checked_sub(days.days()).unwrap();

    // Of two years ago, of half a year ago, of last week: two events a day each.
    for (days, name) in [(700, "old"), (200, "older"), (7, "week")] {
        for event in ["dawn", "dusk"] {
            add(
                &app,
                plan(site, back(days), &format!("{name} {event}")),
                true,
            )
            .await;
        }
    }
    // Of two that were never in force the first goes with the second.
    add(&app, plan(site, TODAY, "passing"), false).await;
    let first = add(&app, plan(site, TODAY, "newest"), false).await;
    assert_eq!(add(&app, plan(site, TODAY, "newest"), false).await, first);
    assert_eq!(
        kept(&app).await,
        [
            "old dawn",
            "old dusk",
            "older dawn",
            "older dusk",
            "week dawn",
            "week dusk",
            "newest"
        ]
    );
    plans::thin(&app.pool, site, TODAY).await.unwrap();
    assert_eq!(
        kept(&app).await,
        ["older dusk", "week dawn", "week dusk", "newest"]
    );
    // The newest stays, however old it is.
    plans::thin(&app.pool, site, date(2029, 1, 1))
        .await
        .unwrap();
    assert_eq!(kept(&app).await, ["newest"]);
    let newest = plans::newest(&app.pool, site).await.unwrap().unwrap();
    assert_eq!(newest.id, first);
}

/// The hashes of what a plan was made from change where that changed, and nowhere else.
#[tokio::test]
async fn a_plan_names_what_it_was_made_from() {
    let (app, api, site) = App::with_dry_zone().await;
    let inputs = || async {
        let newest = "SELECT inputs FROM plan ORDER BY id DESC LIMIT 1";
        let inputs: Value = sqlx::query_scalar(newest)
            .fetch_one(&app.pool)
            .await
            .unwrap();
        inputs.as_object().unwrap().clone()
    };
    let mut before = inputs().await;
    assert_eq!(before.len(), 11);
    assert!(
        before
            .values()
            .all(|hash| hash.as_str().unwrap().len() == 32)
    );
    for (statement, part) in [
        (
            "INSERT INTO forecast_day (site_id, issued_at, date, tmin_c, tmax_c, rain_mm, rain_probability_pct)
             SELECT id, simulated_now, simulated_now::date + 2, 15, 28, 25, 90 FROM site",
            "forecast",
        ),
        (
            "INSERT INTO dry_day (zone_id, date) SELECT z.id, s.simulated_now::date + 3 FROM zone z JOIN site s ON s.id = z.site_id",
            "dry_days",
        ),
        (
            "INSERT INTO zone_constraint (zone_id, begins, ends, asks, idempotency_key)
             SELECT z.id, s.simulated_now, s.simulated_now + interval '1 day', '{\"kind\": \"keep_dry\"}', 'inputs-1'
             FROM zone z JOIN site s ON s.id = z.site_id",
            "constraints",
        ),
        ("UPDATE zone SET settings = settings || '{\"name\": \"Renamed\"}'", "site"),
        (
            "INSERT INTO publication (site_id, plan_id, published_at, in_force_from, last_day, history_id)
             SELECT s.id, (SELECT max(id) FROM plan), s.simulated_now, s.simulated_now, s.simulated_now::date + 6, 0 FROM site s",
            "publication",
        ),
    ] {
        sqlx::query(statement).execute(&app.pool).await.unwrap();
        let again = api
            .send(Method::POST, &format!("{site}/plans"), Value::Null)
            .await;
        expect(again, StatusCode::CREATED).await;
        let after = inputs().await;
        let changed: Vec<&String> = after
            .iter()
            .filter(|(part, hash)| before.get(*part) != Some(hash))
            .map(|(part, _)| part)
            .collect();
        assert_eq!(changed, [part]);
        before = after;
    }
}
