//! Migrations go forward over a filled database.

use crate::harness::{App, PATIENCE, empty_database};
use fresh_meadow::{db, planning};
use lawn::quantity::Rate;
use lawn::site::counting::Standing;
use lawn::sourced::Sourced;
use sqlx::PgPool;

const MIGRATIONS: [&str; LATEST] = [
    include_str!("../../migrations/0001_first_slice.sql"),
    include_str!("../../migrations/0002_people_weather_runs.sql"),
    include_str!("../../migrations/0003_can_tests.sql"),
    include_str!("../../migrations/0004_sprinkler_tests_and_heads.sql"),
    include_str!("../../migrations/0005_strangers_and_bad_days.sql"),
    include_str!("../../migrations/0006_a_week_of_use.sql"),
    include_str!("../../migrations/0007_programmes.sql"),
    include_str!("../../migrations/0008_ledgers.sql"),
    include_str!("../../migrations/0009_providers.sql"),
    include_str!("../../migrations/0010_documents_and_days.sql"),
    include_str!("../../migrations/0011_a_new_lawn.sql"),
    include_str!("../../migrations/0012_the_ground.sql"),
    include_str!("../../migrations/0013_rules.sql"),
    include_str!("../../migrations/0014_entries_for_hours.sql"),
    include_str!("../../migrations/0015_edits.sql"),
    include_str!("../../migrations/0016_publications.sql"),
    include_str!("../../migrations/0017_controllers.sql"),
    include_str!("../../migrations/0018_water_book.sql"),
    include_str!("../../migrations/0019_flow.sql"),
    include_str!("../../migrations/0020_wet_checks.sql"),
    include_str!("../../migrations/0021_caps.sql"),
    include_str!("../../migrations/0022_stress.sql"),
    include_str!("../../migrations/0023_walks.sql"),
    include_str!("../../migrations/0024_patches.sql"),
    include_str!("../../migrations/0025_new_grass.sql"),
    include_str!("../../migrations/0026_stand_counts.sql"),
    include_str!("../../migrations/0027_written.sql"),
    include_str!("../../migrations/0028_what_others_say.sql"),
];
const LATEST: usize = 28;

/// The demo of migration 0006, see tests/data/README.md.
const DEMO: &[u8] = include_bytes!("../data/demo-0006.sql.gz");

/// Runs the migrations of some versions, first to last.
async fn migrate(pool: &PgPool, versions: std::ops::RangeInclusive<usize>) {
    for version in versions {
        sqlx::raw_sql(MIGRATIONS[version - 1])
            .execute(pool)
            .await
            .unwrap();
    }
}

#[tokio::test]
async fn the_second_migration_keeps_what_the_first_held() {
    let url = empty_database().await;
    let pool = db::connect(&url, 2).await.unwrap();
    migrate(&pool, 1..=1).await;
    let filled = r#"
        INSERT INTO account (email, name, password_hash) VALUES ('hazel@meadow.example', 'Hazel Fern', 'x');
        INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, windows, supply)
            VALUES ('Clover Green', 'America/New_York', 36.4, -80.5, 310, 2, '[]', '{}');
        INSERT INTO membership VALUES (1, 1, 'owner');
        INSERT INTO zone (site_id, position, settings) VALUES (1, 1,
            '{"name":"Front","grass":"tall_fescue","soil":"loam","slope_pct":2,"area_m2":400,"sprinkler":"multi_stream"}');
        INSERT INTO weather_day (site_id, date, tmin_c, tmax_c, rain_mm, origin) VALUES
            (1, '2026-06-01', 15, 29, 4, 'demo'), (1, '2026-06-02', 15, 29, 0, 'upload');
        INSERT INTO plan (site_id, made_at, today, inputs, result) VALUES (1, now(), '2026-06-03', '{}', '{}');
        INSERT INTO run (zone_id, date, started_at, passes, pass_s, source, plan_id) VALUES
            (1, '2026-06-02', '2026-06-02T08:00:00Z', 2, 600, 'assumed', 1);"#;
    sqlx::raw_sql(filled).execute(&pool).await.unwrap();
    migrate(&pool, 2..=LATEST).await;

    let origins: Vec<String> = sqlx::query_scalar("SELECT origin FROM weather_day ORDER BY date")
        .fetch_all(&pool)
        .await
        .unwrap();
    assert_eq!(origins, ["service", "upload"]);
    let runs = db::runs::since(&pool, db::SiteId(1), lawn::days::FIRST)
        .await
        .unwrap();
    assert_eq!((runs.len(), runs[0].passes, runs[0].assumed), (1, 2, true));
    let site = db::sites::get(&pool, db::SiteId(1)).await.unwrap();
    assert_eq!(site.site.name, "Clover Green");
    let due = db::sites::next_event(&pool, db::SiteId(1)).await.unwrap();
    assert!(
        due <= jiff::Timestamp::now(),
        "a site without an event is due at once"
    );
}

#[tokio::test]
async fn the_fourth_migration_keeps_the_can_tests_and_they_still_count() {
    let url = empty_database().await;
    let pool = db::connect(&url, 2).await.unwrap();
    migrate(&pool, 1..=3).await;
    // A test as it was written then: no method, a grid that is no longer read, no contours, no cost.
    let filled = r#"
        INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, windows, supply)
            VALUES ('Clover Green', 'America/New_York', 36.4, -80.5, 310, 2, '[]', '{}');
        INSERT INTO zone (site_id, position, settings) VALUES (1, 1,
            '{"name":"Front","grass":"tall_fescue","soil":"loam","slope_pct":2,"area_m2":400,"sprinkler":"multi_stream"}');
        INSERT INTO can_test (zone_id, date, test, result, pinned, idempotency_key) VALUES (1, '2026-05-02',
            '{"corners":[{"x_m":0,"y_m":0},{"x_m":8,"y_m":0},{"x_m":8,"y_m":6}],"heads":[],"container":{"kind":"straight","deep_mm":90},
              "minutes":15,"cans":[{"number":1,"place":{"x_m":2,"y_m":1},"fate":"read","reading":2.8},
                {"number":2,"place":{"x_m":4,"y_m":1},"fate":"read","reading":4.2},{"number":3,"place":{"x_m":6,"y_m":1},"fate":"read","reading":4.4},
                {"number":4,"place":{"x_m":7,"y_m":2},"fate":"read","reading":4.6}]}',
            '{"read":4,"mean_mm":4,"rate_mm_h":{"value":16,"low":15,"high":17,"source":{"kind":"measured","test":"can test, 4 cans","date":"2026-05-02"}},
              "evenness_du_lq":{"value":0.7,"low":0.6,"high":0.8,"source":{"kind":"measured","test":"can test, 4 cans","date":"2026-05-02"}},
              "cu_pct":80,"scheduling_coefficient":null,"run_time_multiplier":1.2,"rating":"good","driest_quarter_of_13_mm":9,"wettest_of_13_mm":20,
              "minutes_for_13_mm_even":48,"minutes_for_13_mm":58,"doubts":[{"doubt":"few_cans","read":4,"wanted":24}],"patterns":[],
              "grid":{"left_m":0,"bottom_m":0,"cell_m":1,"columns":1,"shares":[1]}}', true, 'phone-0001');"#;
    sqlx::raw_sql(filled).execute(&pool).await.unwrap();
    migrate(&pool, 4..=LATEST).await;
    let tests = db::sprinkler_tests::of_site(&pool, db::SiteId(1))
        .await
        .unwrap();
    let counting = db::sprinkler_tests::counting(&tests);
    assert_eq!(counting.len(), 1);
    assert!(counting[0].evenness.is_some());
    assert_eq!(counting[0].rate.standing, Standing::Pinned);
    // What it said then, and what its cans say: a mean of 4 mm in a quarter of an hour.
    let rate = |figure: &Sourced<Rate>| figure.value.mm_h();
    assert!((rate(&counting[0].rate.result.rate_mm_h) - 16.0).abs() < 1e-9);
    let said = counting[0].rate.test.figures(tests[0].date).unwrap();
    assert!((rate(&said.rate_mm_h) - 16.0).abs() < 1e-9);
    let faults = db::head_faults::of_site(&pool, db::SiteId(1), None)
        .await
        .unwrap();
    assert!(faults.is_empty());
}

#[tokio::test]
async fn the_fifth_migration_drops_days_that_no_record_may_name_and_keeps_the_rest() {
    let url = empty_database().await;
    let pool = db::connect(&url, 2).await.unwrap();
    migrate(&pool, 1..=4).await;
    let filled = r#"
        INSERT INTO account (email, name, password_hash) VALUES ('hazel@meadow.example', 'Hazel Fern', 'x');
        INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, windows, supply)
            VALUES ('Clover Green', 'America/New_York', 36.4, -80.5, 310, 2, '[]', '{"step_s":60}');
        INSERT INTO weather_day (site_id, date, tmin_c, tmax_c, rain_mm, origin) VALUES
            (1, '0001-06-01', 15, 29, 4, 'upload'), (1, '2026-06-02', 15, 29, 0, 'upload');
        INSERT INTO forecast_day (site_id, issued_at, date, rain_mm) VALUES
            (1, '2026-06-18T07:00:00Z', '2026-06-24', 1), (1, '2026-06-18T07:00:00Z', '9999-12-31', 1);
        INSERT INTO gauge_reading (site_id, date, rain_mm, read_at) VALUES (1, '2026-06-02', 3, now()), (1, '0500-01-01', 3, now());
        INSERT INTO column_mapping VALUES (1, 'Day' || chr(31) || 'Rain',
            '{"date_column":"Day","date_form":"iso","columns":[{"figure":"rain","column":"Rain","unit":"mm"}]}');
        INSERT INTO invitation (site_id, role, name, token_hash, invited_by, expires_at)
            VALUES (1, 'crew', 'Fern', decode(repeat('ab', 32), 'hex'), 1, now() + interval '1 day');"#;
    sqlx::raw_sql(filled).execute(&pool).await.unwrap();
    migrate(&pool, 5..=LATEST).await;

    let site = db::SiteId(1);
    let all = db::weather::days(&pool, site, lawn::days::FIRST, lawn::days::LAST)
        .await
        .unwrap();
    assert_eq!(all.len(), 1);
    assert_eq!(all[0].gauge_rain_mm, Some(3.0));
    let today = jiff::civil::date(2026, 6, 18);
    let ahead = db::weather::forecast(&pool, site, today).await.unwrap();
    assert_eq!(ahead.len(), 1);
    let mapping = db::weather::mapping(&pool, site, "Day\u{1f}Rain")
        .await
        .unwrap();
    assert!(mapping.is_some(), "a known heading is known by its hash");
    assert!(db::sites::get(&pool, site).await.unwrap().trouble.is_none());
    // Hazel never belonged to the site: her link is dead.
    let open = db::invitations::open(&pool, &[0xab; 32]).await.unwrap();
    assert!(open.is_none());
    db::sites::add_member(&pool, site, db::AccountId(1), "owner")
        .await
        .unwrap();
    let open = db::invitations::open(&pool, &[0xab; 32]).await.unwrap();
    assert_eq!(open.unwrap().invited_by, "Hazel Fern");
}

#[tokio::test]
async fn the_sixth_migration_gives_answers_what_was_planned_and_old_hoses_no_credit() {
    let url = empty_database().await;
    let pool = db::connect(&url, 2).await.unwrap();
    migrate(&pool, 1..=5).await;
    let filled = r#"
        INSERT INTO account (email, name, password_hash) VALUES ('hazel@meadow.example', 'Hazel Fern', 'x');
        INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, windows, supply)
            VALUES ('Clover Green', 'America/New_York', 36.4, -80.5, 310, 2, '[]', '{}');
        INSERT INTO zone (site_id, position, settings) VALUES (1, 1,
            '{"name":"Front","grass":"tall_fescue","soil":"loam","slope_pct":2,"area_m2":400,"sprinkler":"multi_stream"}');
        INSERT INTO run (zone_id, date, started_at, passes, pass_s, source, voided_at, replaces, account_id, idempotency_key) VALUES
            (1, '2026-06-02', '2026-06-02T08:00:00Z', 4, 300, 'assumed', now(), NULL, NULL, NULL),
            (1, '2026-06-02', '2026-06-02T08:00:00Z', 0, 300, 'denied', now(), 1, 1, NULL),
            (1, '2026-06-02', '2026-06-02T08:00:00Z', 1, 900, 'changed', NULL, 2, 1, NULL),
            (1, '2026-06-03', '2026-06-03T08:00:00Z', 1, 600, 'hose', NULL, NULL, 1, 'hose-0001');"#;
    sqlx::raw_sql(filled).execute(&pool).await.unwrap();
    migrate(&pool, 6..=LATEST).await;
    let rows = db::runs::list(&pool, db::SiteId(1), lawn::days::FIRST, lawn::days::LAST)
        .await
        .unwrap();
    let (hose, changed) = (&rows[0], &rows[1]);
    assert_eq!((changed.passes, changed.run_s), (1, 900));
    let planned = changed.planned.unwrap();
    assert_eq!((planned.passes, planned.run_s), (4, 1200));
    assert_eq!(
        (hose.run_s, hose.watered),
        (600, lawn::record::watered::Watered::Unmeasured)
    );
}

async fn demo() -> PgPool {
    let url = empty_database().await;
    let pool = db::connect(&url, 2).await.unwrap();
    let mut sql = String::new();
    std::io::Read::read_to_string(&mut flate2::read::GzDecoder::new(DEMO), &mut sql).unwrap();
    // The dump empties the search path of its connection: one of its own.
    let own = db::connect(&url, 1).await.unwrap();
    sqlx::raw_sql(sqlx::AssertSqlSafe(sql))
        .execute(&own)
        .await
        .unwrap();
    own.close().await;
    pool
}

async fn count(pool: &PgPool, what: &str) -> i64 {
    sqlx::query_scalar(sqlx::AssertSqlSafe(format!("SELECT count(*) FROM {what}")))
        .fetch_one(pool)
        .await
        .unwrap()
}

/// Every run, hold, test, forecast and hand-set figure is there after the newest migrations; the plan's programme is its rows; and the site
/// replans.
#[tokio::test]
async fn the_demo_of_the_version_before_keeps_all_and_replans() {
    let pool = demo().await;
    let kept = [
        "run",
        "run WHERE source = 'denied'",
        "rain_hold",
        "sprinkler_test",
        "forecast_day",
        "weather_day",
        "gauge_reading",
        "head_fault",
        "history",
        "plan",
        "zone",
    ];
    let mut before = Vec::new();
    for what in kept {
        before.push(count(&pool, what).await);
    }
    assert!(before.iter().all(|n| *n > 0), "{before:?}");
    let planned: i64 = sqlx::query_scalar(
        "SELECT count(*) FROM (SELECT result FROM plan ORDER BY id DESC LIMIT 1) p, jsonb_path_query(result, '$.zones[*].cells[*].run ? (@.passes > 0)')",
    )
    .fetch_one(&pool)
    .await
    .unwrap();
    migrate(&pool, 7..=LATEST).await;
    let mut after = Vec::new();
    for what in kept {
        after.push(count(&pool, what).await);
    }
    assert_eq!(before, after);
    let (supply, controller): (serde_json::Value, serde_json::Value) =
        sqlx::query_as("SELECT supply, controller FROM site")
            .fetch_one(&pool)
            .await
            .unwrap();
    assert_eq!(supply, serde_json::json!({ "flow_l_min": 900.0 }));
    assert_eq!(controller, serde_json::json!({ "step_s": 60 }));
    let rate: f64 = sqlx::query_scalar(
        "SELECT (settings -> 'rate_mm_h' ->> 'value')::float8 FROM zone WHERE position = 3",
    )
    .fetch_one(&pool)
    .await
    .unwrap();
    assert!((rate - 13.5).abs() < 1e-9);

    // The programme of the newest plan, from its rows: what its JSON had.
    let site = db::SiteId(1);
    let mut connection = pool.acquire().await.unwrap();
    let newest = db::plans::newest(&mut *connection, site)
        .await
        .unwrap()
        .unwrap();
    assert_eq!(newest.version, 1);
    let mut programmes = db::programmes::of_plans(&mut *connection, &[newest.id])
        .await
        .unwrap();
    let programme = programmes.remove(&newest.id).unwrap();
    assert_eq!(i64::try_from(programme.runs.len()).unwrap(), planned);
    assert!(planned > 0 && !programme.windows.is_empty() && !programme.uses.is_empty());
    assert!(programme.runs.iter().all(|r| {
        r.starts
            .iter()
            .all(|s| r.window.opens <= *s && *s < r.window.closes)
    }));
    // It settles and replans; nothing is lost by it.
    let id = planning::replan(&mut connection, site)
        .await
        .unwrap()
        .unwrap();
    assert_ne!(id, newest.id);
    let newest = db::plans::newest(&mut *connection, site)
        .await
        .unwrap()
        .unwrap();
    assert_eq!((newest.id, newest.version), (id, planning::PLAN_VERSION));
    let runs = count(&pool, "run").await;
    assert!(runs >= before[0]);
    // Replanned again, it is equal, and not stored again.
    let again = planning::replan(&mut connection, site).await.unwrap();
    assert_eq!(again, Some(id));
}

/// Names lose the marks that nobody sees, so that the site plans as before; tokens end with the role of who made them, and the history says so.
#[tokio::test]
async fn the_twenty_eighth_migration_cleans_names_and_ends_orphaned_tokens() {
    let pool = demo().await;
    migrate(&pool, 7..=27).await;
    for change in [
        "UPDATE site SET name = E'Sorrel\\u202E Hollow\\U000E0041', time_zone = 'Etc/Unknown'",
        "UPDATE zone SET settings = jsonb_set(settings, '{name}', to_jsonb(E'\\u200BPlaying\\u200D field می\\u200Cخواهم'::text)) WHERE position = 1",
        "INSERT INTO account (email, name, password_hash) VALUES ('gone@meadow.example', E'Fe\\u2066rn', 'x')",
        "INSERT INTO device_token (site_id, name, token_hash, made_by)
         SELECT 1, t.name, sha256(t.name::bytea), a.id FROM (VALUES ('Roof', 'gone@meadow.example'), ('Shed', 'gone@meadow.example')) t (name, email)
         JOIN account a USING (email)",
        "INSERT INTO device_token (site_id, name, token_hash, made_by)
         SELECT 1, 'Barn', sha256('barn'), account_id FROM membership WHERE role = 'owner' LIMIT 1",
    ] {
        sqlx::raw_sql(change).execute(&pool).await.unwrap();
    }
    migrate(&pool, 28..=28).await;
    let (name, zone): (String, String) = sqlx::query_as("SELECT name, time_zone FROM site")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!((name.as_str(), zone.as_str()), ("Sorrel Hollow", "UTC"));
    let field: String =
        sqlx::query_scalar("SELECT settings ->> 'name' FROM zone WHERE position = 1")
            .fetch_one(&pool)
            .await
            .unwrap();
    assert_eq!(field, "Playing field می\u{200c}خواهم");
    let live: Vec<String> =
        sqlx::query_scalar("SELECT name FROM device_token WHERE revoked_at IS NULL")
            .fetch_all(&pool)
            .await
            .unwrap();
    assert_eq!(live, ["Barn"]);
    let said: serde_json::Value =
        sqlx::query_scalar("SELECT event FROM history ORDER BY id DESC LIMIT 1")
            .fetch_one(&pool)
            .await
            .unwrap();
    assert_eq!(
        said,
        serde_json::json!({ "event": "devices_ended", "maker": "Fern", "devices": ["Roof", "Shed"] })
    );
    let mut connection = pool.acquire().await.unwrap();
    let planned = planning::replan(&mut connection, db::SiteId(1)).await;
    assert!(planned.unwrap().is_some());
}

/// A served application says that an old plan is being made anew, and makes it.
#[tokio::test]
async fn a_plan_of_an_older_form_is_made_anew_and_never_an_error() {
    let (app, api, site) = App::with_dry_zone().await;
    sqlx::query("UPDATE plan SET version = 1, result = '{\"days\": []}'")
        .execute(&app.pool)
        .await
        .unwrap();
    let shown = api.json(&format!("{site}/plan")).await;
    assert_eq!(
        (&shown["current"], &shown["being_made"]),
        (&serde_json::Value::Null, &serde_json::Value::Bool(true))
    );
    // What a worker does when it starts.
    let worker = tokio::spawn(fresh_meadow::rounds::work(
        db::Db::new(app.pool.clone()),
        crate::harness::settings(&app.database_url),
        None,
        None,
    ));
    let made = async {
        loop {
            let shown = api.json(&format!("{site}/plan")).await;
            if shown["being_made"] == false {
                return shown;
            }
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
    };
    let shown = tokio::time::timeout(PATIENCE, made).await.unwrap();
    worker.abort();
    assert!(shown["current"]["plan"]["zones"][0]["cells"].is_array());
}
