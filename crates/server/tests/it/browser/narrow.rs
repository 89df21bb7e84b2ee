//! Reflow (WCAG 2.2, 1.4.10): at 320 px, and at 200 % of 640 px, no view scrolls sideways; at night it reads as by day.

use fantoccini::Locator;

use super::driver::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};

const VIEWS: [(&str, &str); 16] = [
    ("/site/1/morning", "Needs a person"),
    ("/site/1/week", "Week of"),
    ("/site/1/stress", "Heat and drought"),
    ("/site/1/new-grass", "as dry as it may be"),
    ("/site/1/new-grass/plan?zone=2", "All weeks as a table"),
    ("/site/1/runs", "What ran in the last 30 days"),
    ("/site/1/sprinklers", "Where to repair next"),
    ("/site/1/sprinklers/3", "Set out cans in even rows"),
    ("/site/1/sprinklers/3/quick", "The rate alone."),
    ("/site/1/settings", "Add a zone"),
    ("/site/1/settings?tab=weather", "The last 14 days"),
    ("/site/1/settings?tab=place", "Allowed days and hours"),
    ("/site/1/zones/3", "What the plan uses"),
    (
        "/site/1/add-zone",
        "What do you call this part of the lawn?",
    ),
    ("/site/1/begin-weather", "What is the weather like there?"),
    ("/begin", "Another lawn: what do you call it?"),
];

#[tokio::test]
async fn no_view_scrolls_sideways_at_320_pixels_and_at_twice_the_size() {
    let app = App::own_demo().await;
    with_page(&app, Screen::Narrow, "narrow", |page| async move {
        page.sign_in(EMAIL).await;
        for (path, words) in VIEWS {
            page.open(path).await;
            page.see(words).await;
            page.fits(path).await;
            // What a person taps stands apart and is large enough (2.5.8).
            if path.ends_with("/morning") {
                for button in page
                    .client
                    .find_all(Locator::XPath(
                        "//ul[contains(@aria-label, 'Runs of')]//button",
                    ))
                    .await
                    .unwrap()
                {
                    let (_, _, width, height) = button.rectangle().await.unwrap();
                    assert!(width >= 44.0 && height >= 44.0, "{width} × {height}");
                }
            }
        }
        page
    })
    .await;
    // 200 % of a page of 640 px: as many pixels as 320, twice the letters.
    with_page(&app, Screen::Doubled, "doubled", |page| async move {
        page.sign_in(EMAIL).await;
        for (path, words) in VIEWS {
            page.open(path).await;
            page.see(words).await;
            page.fits(path).await;
        }
        page
    })
    .await;
}

#[tokio::test]
async fn by_night_every_view_reads_as_by_day() {
    let app = App::own_demo().await;
    with_page(&app, Screen::Night, "night", |page| async move {
        page.open("/sign-in").await;
        page.see("E-mail address").await;
        page.is_accessible("sign in, at night").await;
        page.sign_in(EMAIL).await;
        for (path, words) in VIEWS {
            page.open(path).await;
            page.see(words).await;
            page.is_accessible(&format!("{path}, at night")).await;
        }
        page.open("/site/1/morning").await;
        page.press("Why, Playing field").await;
        page.see("How dry the root zone is").await;
        page.is_accessible("the working, at night").await;
        page
    })
    .await;
}
