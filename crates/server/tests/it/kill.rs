//! Kill -9 in the middle of an import leaves none of it; a second import gives all.

use std::process::Stdio;
use std::time::{Duration, Instant};

use reqwest::StatusCode;

use crate::harness::{App, EMAIL, NIGHT, PATIENCE, Process, expect, small_site, weather};

/// Waits until a question to the database is answered with yes. Other tests share the cluster: ask of this database alone.
pub async fn until(pool: &sqlx::PgPool, question: &'static str) {
    let deadline = Instant::now() + PATIENCE;
    loop {
        let yes: bool = sqlx::query_scalar(question).fetch_one(pool).await.unwrap();
        if yes {
            return;
        }
        assert!(Instant::now() < deadline, "never came: {question}");
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
}

#[tokio::test]
async fn a_killed_import_leaves_nothing_and_the_next_gives_all() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;

    // A second server process on the same database, to be killed.
    let mut server = Process::start(&app, Stdio::null(), &[]);
    server.answers().await;
    let api = server.app.sign_in(EMAIL).await;
    let import = format!("/sites/{}/weather-imports?conflicts=keep", site.0);
    let file = weather(|_| None);

    // The import's first insert is its own row; this lock holds it at its second, the days.
    let mut lock = app.pool.begin().await.unwrap();
    sqlx::query("LOCK TABLE weather_day IN EXCLUSIVE MODE")
        .execute(&mut *lock)
        .await
        .unwrap();
    let waiting = tokio::spawn({
        let (import, file) = (import.clone(), file.clone());
        async move {
            api.client
                .post(format!("{}{import}", api.base))
                .header("content-type", "text/csv")
                .header("if-match", "\"1\"")
                .body(file)
                .send()
                .await
        }
    });
    until(
        &app.pool,
        "SELECT EXISTS (SELECT FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock' AND query LIKE '%INSERT INTO weather_day%')",
    )
    .await;
    server.kill();
    assert!(
        waiting.await.unwrap().is_err(),
        "no answer from a dead server"
    );
    lock.rollback().await.unwrap();
    // Its backend notices, and rolls back. A connection of this test that is idle shows its last question, which names the insert too.
    until(
        &app.pool,
        "SELECT NOT EXISTS (SELECT FROM pg_stat_activity WHERE datname = current_database() AND state <> 'idle' AND query LIKE '%INSERT INTO weather_day%' AND pid <> pg_backend_pid())",
    )
    .await;

    let counts = || async {
        sqlx::query_as::<_, (i64, i64, i64)>(
            "SELECT (SELECT count(*) FROM weather_import), (SELECT count(*) FROM weather_day), (SELECT count(*) FROM plan)",
        )
        .fetch_one(&app.pool)
        .await
        .unwrap()
    };
    assert_eq!(counts().await, (0, 0, 0));

    let api = app.sign_in(EMAIL).await;
    expect(api.csv(&import, Some(1), &file).await, StatusCode::CREATED).await;
    assert_eq!(counts().await, (1, 10, 1));
}
