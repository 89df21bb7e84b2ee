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
