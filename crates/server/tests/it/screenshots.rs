//! The pictures of docs/screenshots, from the demo data; `cargo xtask screenshots` names the folder. Without one this only checks
//! that every picture that the README shows is there.

use crate::browser::Screen;
use crate::browser::page::with_page;
use crate::harness::{App, EMAIL};

const VIEWS: [(&str, &str, &str); 4] = [
    ("morning", "/site/1/morning", "Needs a person"),
    ("week", "/site/1/week", "reference ET, mm"),
    ("site-zones", "/site/1/settings", "Orchard walk"),
    (
        "site-weather",
        "/site/1/settings?tab=weather",
        "The last 14 days",
    ),
];

#[tokio::test]
async fn pictures_of_each_view() {
    let shown = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/screenshots");
    let Ok(folder) = std::env::var("FRESH_MEADOW_SCREENSHOTS") else {
        for (name, ..) in VIEWS {
            for size in ["desk", "phone"] {
                assert!(
                    shown.join(format!("{name}-{size}.png")).exists(),
                    "{name}-{size}.png"
                );
            }
        }
        return;
    };
    let app = App::with_demo().await;
    let owner = app.account(EMAIL).await;
    fresh_meadow::db::sites::add_member(&app.pool, fresh_meadow::db::SiteId(1), owner, "owner")
        .await
        .unwrap();
    for (screen, size) in [(Screen::Desk, "desk"), (Screen::Phone, "phone")] {
        let folder = folder.clone();
        with_page(&app, screen, "screenshots", move |page| async move {
            page.sign_in(EMAIL).await;
            for (name, path, words) in VIEWS {
                page.open(path).await;
                page.see(words).await;
                let png = page.client.screenshot().await.unwrap();
                std::fs::write(format!("{folder}/{name}-{size}.png"), png).unwrap();
            }
            page.open("/site/1/morning").await;
            page.press("Why, Pavilion front").await;
            page.see("How dry the root zone is").await;
            let still = "return document.getAnimations().every((a) => a.playState !== 'running')";
            while page.client.execute(still, vec![]).await.unwrap() != true {}
            let png = page.client.screenshot().await.unwrap();
            std::fs::write(format!("{folder}/working-{size}.png"), png).unwrap();
            page
        })
        .await;
    }
}
