//! Files that come in: with their progress, whole or not at all.

use super::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};

#[tokio::test]
async fn a_file_of_minutes_comes_in_and_one_that_is_wrong_or_broken_off_leaves_nothing() {
    let app = App::own_demo().await;
    let folder = std::env::temp_dir().join(format!("fresh-meadow-files-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let path = |name: &str| folder.join(name);
    let minute = |n: i64| {
        let first: jiff::Timestamp = "2012-01-01T00:00:00Z".parse().unwrap();
        first + jiff::SignedDuration::from_mins(n)
    };
    let lines = |n: i64| -> String { (0..n).map(|n| format!("{},3\n", minute(n))).collect() };
    std::fs::write(path("good.csv"), format!("minute,pulses\n{}", lines(5000))).unwrap();
    std::fs::write(
        path("wrong.csv"),
        "minute,pulses\n2026-05-01T00:00:00Z,three\n",
    )
    .unwrap();
    std::fs::write(
        path("long.csv"),
        format!("minute,pulses\n{}", lines(3_000_000)),
    )
    .unwrap();
    std::fs::write(
        path("readings.csv"),
        "read_at,meter,register\n2026-06-17T12:00:00-04:00,1,5\n",
    )
    .unwrap();
    let of = {
        let folder = folder.clone();
        move |name: &str| folder.join(name)
    };
    with_page(&app, Screen::Desk, "files", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Water book").await;
        page.press("Readings of Commons").await;
        page.upload("Import minutes of Commons", &of("wrong.csv"))
            .await;
        page.see("Line 2, column pulses: must be a whole number from 0 to 30000")
            .await;
        page.is_accessible("files of a meter").await;
        page.upload("Import minutes of Commons", &of("good.csv"))
            .await;
        page.see("5000 minutes are new.").await;
        page.upload("Import minutes of Commons", &of("long.csv"))
            .await;
        page.press("Cancel").await;
        page.see("Cancelled: nothing was written.").await;
        page.upload("Import minutes of Commons", &of("good.csv"))
            .await;
        page.see("0 minutes are new, 5000 were there already.")
            .await;
        page.upload("Import readings", &of("readings.csv")).await;
        page.see("lower than the one before").await;
        page
    })
    .await;
    let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM flow_hour WHERE hour < '2014-01-01'")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(
        kept, 84,
        "those of the good file, and nothing of the long one"
    );
    std::fs::remove_dir_all(&folder).unwrap();
}

#[tokio::test]
async fn a_sheet_of_runs_comes_in_by_its_zones_names() {
    let app = App::own_demo().await;
    app.member("crew@meadow.example", "/sites/1", "crew").await;
    app.member("viewer@meadow.example", "/sites/1", "viewer")
        .await;
    let folder = std::env::temp_dir().join(format!("fresh-meadow-runs-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let sheet = |name: &str, lines: &str| {
        let path = folder.join(name);
        std::fs::write(&path, format!("date,started,name,minutes\r\n{lines}")).unwrap();
        path
    };
    let wrong = sheet("wrong.csv", "2026-06-10,18:10,bleachers,10\r\n");
    let long = sheet("long.csv", "2026-06-10,13:10,playing field,260\r\n");
    let good = sheet(
        "good.csv",
        "2026-06-10,18:10,playing field,12\r\n2026-06-11,18:00,playing field,8.5\r\n",
    );
    with_page(&app, Screen::Phone, "runs-file", |page| async move {
        page.sign_in("crew@meadow.example").await;
        page.open("/site/1/settings?tab=files").await;
        page.upload("Runs of this site", &wrong).await;
        page.see("Line 2, column zone: zone \"bleachers\" is not in the site")
            .await;
        page.is_accessible("files of a site").await;
        page.upload("Runs of this site", &long).await;
        page.see("Line 2, column run_s: is more than four hours")
            .await;
        page.press_label("I have looked at what was asked about: it is so")
            .await;
        page.upload("Runs of this site", &long).await;
        page.see("1 written.").await;
        page.upload("Runs of this site", &good).await;
        page.see("2 written.").await;
        page.upload("Runs of this site", &good).await;
        page.see("0 written, 2 were there already.").await;
        page.fits("files of a site").await;
        page
    })
    .await;
    with_page(&app, Screen::Desk, "runs-file-viewer", |page| async move {
        page.sign_in("viewer@meadow.example").await;
        page.open("/site/1/settings?tab=files").await;
        page.see("Runs, runs.json").await;
        page.gone("//label[.='Runs of this site']").await;
        page
    })
    .await;
    std::fs::remove_dir_all(&folder).unwrap();
}
