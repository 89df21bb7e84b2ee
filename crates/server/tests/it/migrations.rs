//! Migrations go forward over a filled database.

use crate::harness::empty_database;
use fresh_meadow::db;

#[tokio::test]
async fn the_second_migration_keeps_what_the_first_held() {
    let url = empty_database().await;
    let pool = db::connect(&url, 2).await.unwrap();
    let first = include_str!("../../migrations/0001_first_slice.sql");
    sqlx::raw_sql(first).execute(&pool).await.unwrap();
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
    let second = include_str!("../../migrations/0002_people_weather_runs.sql");
    sqlx::raw_sql(second).execute(&pool).await.unwrap();

    let origins: Vec<String> = sqlx::query_scalar("SELECT origin FROM weather_day ORDER BY date")
        .fetch_all(&pool)
        .await
        .unwrap();
    assert_eq!(origins, ["service", "upload"]);
    let runs = db::runs::of_site(&pool, db::SiteId(1)).await.unwrap();
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
    for migration in [
        include_str!("../../migrations/0001_first_slice.sql"),
        include_str!("../../migrations/0002_people_weather_runs.sql"),
        include_str!("../../migrations/0003_can_tests.sql"),
    ] {
        sqlx::raw_sql(migration).execute(&pool).await.unwrap();
    }
    // A test as it was written then: no method, a grid that is no longer read, no contours, no cost.
    let filled = r#"
        INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, windows, supply)
            VALUES ('Clover Green', 'America/New_York', 36.4, -80.5, 310, 2, '[]', '{}');
        INSERT INTO zone (site_id, position, settings) VALUES (1, 1,
            '{"name":"Front","grass":"tall_fescue","soil":"loam","slope_pct":2,"area_m2":400,"sprinkler":"multi_stream"}');
        INSERT INTO can_test (zone_id, date, test, result, pinned, idempotency_key) VALUES (1, '2026-05-02',
            '{"corners":[{"x_m":0,"y_m":0},{"x_m":8,"y_m":0},{"x_m":8,"y_m":6}],"heads":[],"container":{"kind":"straight","deep_mm":90},
              "minutes":15,"cans":[{"number":1,"place":{"x_m":2,"y_m":1},"fate":"read","reading":4}]}',
            '{"read":4,"mean_mm":4,"rate_mm_h":{"value":16,"low":15,"high":17,"source":{"kind":"measured","test":"can test, 4 cans","date":"2026-05-02"}},
              "evenness_du_lq":{"value":0.7,"low":0.6,"high":0.8,"source":{"kind":"measured","test":"can test, 4 cans","date":"2026-05-02"}},
              "cu_pct":80,"scheduling_coefficient":null,"run_time_multiplier":1.2,"rating":"good","driest_quarter_of_13_mm":9,"wettest_of_13_mm":20,
              "minutes_for_13_mm_even":48,"minutes_for_13_mm":58,"doubts":[{"doubt":"few_cans","read":4,"wanted":24}],"patterns":[],
              "grid":{"left_m":0,"bottom_m":0,"cell_m":1,"columns":1,"shares":[1]}}', true, 'phone-0001');"#;
    sqlx::raw_sql(filled).execute(&pool).await.unwrap();
    let fourth = include_str!("../../migrations/0004_sprinkler_tests_and_heads.sql");
    sqlx::raw_sql(fourth).execute(&pool).await.unwrap();
    let tests = db::sprinkler_tests::of_site(&pool, db::SiteId(1))
        .await
        .unwrap();
    let counting = db::sprinkler_tests::counting(&tests);
    assert_eq!(counting.len(), 1);
    assert!(counting[0].rate.pinned && counting[0].evenness.is_some());
    assert!((counting[0].rate.result.rate().unwrap().value.mm_h() - 16.0).abs() < 1e-9);
    let faults = db::head_faults::of_site(&pool, db::SiteId(1), None)
        .await
        .unwrap();
    assert!(faults.is_empty());
}
