//! The first ten minutes on a phone: from an empty database to a first plan, taps and typed letters counted.

use std::sync::atomic::{AtomicUsize, Ordering};

use fresh_meadow::first_account;
use jiff::ToSpan;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use super::driver::Screen;
use super::page::{Page, with_page};
use crate::harness::{Api, App, EMAIL, PASSWORD, credentials, expect};

/// A thumb that counts.
struct Thumb<'a> {
    page: &'a Page,
    taps: AtomicUsize,
    typed: AtomicUsize,
}

impl<'a> Thumb<'a> {
    const fn new(page: &'a Page) -> Self {
        Self {
            page,
            taps: AtomicUsize::new(0),
            typed: AtomicUsize::new(0),
        }
    }

    fn tapped(&self) {
        self.taps.fetch_add(1, Ordering::Relaxed);
    }

    async fn tap(&self, words: &str) {
        self.page.tap(words).await;
        self.tapped();
    }

    /// A tap into the field, then its letters.
    async fn fill(&self, label: &str, text: &str) {
        self.page.fill(label, text).await;
        self.tapped();
        self.typed
            .fetch_add(text.chars().count(), Ordering::Relaxed);
    }

    /// A tap on the list, a tap on the entry.
    async fn choose(&self, label: &str, option: &str) {
        self.page.choose(label, option).await;
        self.tapped();
        self.tapped();
    }
}

/// Hot and dry all year, as near the equator: the plan waters whenever the test is run.
const NORMALS: &str = "24 33 5 1";

/// Answers every question of a zone with "I don't know".
async fn unknown(thumb: &Thumb<'_>) {
    for question in [
        "What waters it?",
        "Which grass is it?",
        "What soil is it on?",
        "How much sun does it get?",
        "How does it slope?",
        "How large is it?",
        "When was it last soaked?",
    ] {
        thumb.page.see(question).await;
        thumb.tap("I don’t know").await;
    }
}

#[tokio::test]
async fn from_an_empty_database_to_a_first_plan_on_a_phone() {
    let app = App::start().await;
    let reader = app.stranger();
    // A server that is up has offered its own code; this one takes its place.
    assert_eq!(reader.json("/welcome").await["first_account"], true);
    let code = first_account::offer(&app.pool).await.unwrap().unwrap();
    with_page(&app, Screen::Phone, "begin", |page| async move {
        let thumb = Thumb::new(&page);
        page.open("/").await;
        page.see("The first account").await;
        page.is_accessible("the first account").await;
        thumb.fill("Code", &code.to_lowercase()).await;
        thumb.fill("Your name", "Linnet Ash").await;
        thumb.fill("E-mail address", EMAIL).await;
        thumb.fill("Password", PASSWORD).await;
        thumb.tap("Make the account").await;

        // The site.
        page.see("Your lawn: what do you call it?").await;
        page.is_accessible("a site's name").await;
        thumb.fill("Name", "Home").await;
        thumb.tap("Next").await;
        page.see("Where is it?").await;
        page.is_accessible("a site's place").await;
        thumb
            .choose("The nearest of these places", "Singapore (Asia)")
            .await;
        page.see("1.283°, 103.85°").await;
        thumb.tap("Type it").await;
        page.see("Singapore is the nearest of these places, 0 km away.")
            .await;
        thumb.fill("Elevation, m", "15").await;
        thumb.tap("Next").await;
        page.see("What turns the water on?").await;
        page.is_accessible("what turns the water on").await;
        thumb.tap("A controller with a dial and keys").await;
        page.see("When may you water?").await;
        page.is_accessible("allowed hours").await;
        thumb.tap("I don’t know").await;
        page.see("How much water is there?").await;
        page.is_accessible("the supply").await;
        // Bad input at its field; nothing is lost.
        page.fill("The bucket holds, L", "ten").await;
        page.fill("It is full after, seconds", "20").await;
        page.tap("Make this lawn").await;
        page.see("“ten” is not a number.").await;
        thumb.fill("The bucket holds, L", "10").await;
        thumb.fill("It is full after, seconds", "20").await;
        thumb.tap("Make this lawn").await;

        // A zone that is known; a reload in the middle loses nothing.
        page.see("What do you call this part of the lawn?").await;
        page.is_accessible("a zone's name").await;
        thumb.fill("Name", "Front").await;
        thumb.tap("Next").await;
        page.see("What waters it?").await;
        page.is_accessible("sprinklers").await;
        thumb.tap("Rotor").await;
        page.see("Which grass is it?").await;
        page.is_accessible("grasses").await;
        page.client.refresh().await.unwrap();
        page.see("Which grass is it?").await;
        thumb.tap("Find out by looking at it").await;
        page.see("can’t tell").await;
        page.is_accessible("the key to the grass").await;
        thumb.tap("Choose by name").await;
        thumb.tap("Tall fescue").await;
        page.see("What soil is it on?").await;
        page.is_accessible("the squeeze").await;
        thumb.tap("A short ribbon").await;
        thumb.tap("Neither more than the other").await;
        page.see("How much sun does it get?").await;
        page.see("On a summer’s day").await;
        thumb.tap("Full sun").await;
        page.see("How does it slope?").await;
        thumb.tap("Flat").await;
        page.see("How large is it?").await;
        page.is_accessible("the area").await;
        thumb.fill("Width, m", "12").await;
        thumb.fill("Length, m", "20").await;
        page.see("240 m²").await;
        thumb.tap("Next").await;
        page.see("When was it last soaked?").await;
        thumb.tap("Longer ago").await;
        page.see("Front: as you told it").await;
        page.see("Loam, by the squeeze").await;
        page.is_accessible("a zone as it was told").await;
        page.fits("a zone as it was told").await;
        thumb.tap("Add this zone").await;

        // One like it, and one of which nothing is known.
        page.see("Front is planned.").await;
        thumb.tap("One like it").await;
        thumb.fill("Name", "Back").await;
        thumb.tap("Next").await;
        page.see("Back: as you told it").await;
        thumb.tap("Add this zone").await;
        page.see("Back is planned.").await;
        thumb.tap("Another zone").await;
        thumb.fill("Name", "Side").await;
        thumb.tap("Next").await;
        unknown(&thumb).await;
        page.see("Side: as you told it").await;
        thumb.tap("Add this zone").await;
        page.see("Side is planned.").await;
        thumb.tap("That is all").await;

        // The months' normals, copied from elsewhere and pasted.
        page.see("What is the weather like there?").await;
        page.is_accessible("normals").await;
        // Who has none begins with a guess by the place, and is told what it is worth.
        thumb.tap("I have none: fill in a rough guess").await;
        page.see("These months are a rough guess").await;
        page.find("//input[@aria-label='High, July'][@value!='']")
            .await;
        let pasted = [NORMALS; 12].join("\n");
        page.fill("Paste a table here", &pasted).await;
        thumb.tapped();
        thumb.tapped();
        thumb.tap("Plan with these").await;
        page.see("Rain and").await;
        let plan = first_plan(&reader).await;
        let site = reader.json("/sites/1").await["site"].clone();
        assert_eq!(
            (&site["elevation_m"], &site["latitude"]),
            (&json!(15.0), &json!(1.283))
        );
        let runs = plan["zones"].as_array().unwrap().iter();
        let runs = runs
            .flat_map(|z| z["cells"].as_array().unwrap())
            .filter(|c| !c["run"].is_null());
        assert!(runs.count() > 0, "it waters: {plan}");
        assert!(plan["days"][2]["et0_from"] == "normals");
        let (taps, typed) = (thumb.taps.into_inner(), thumb.typed.into_inner());
        println!("from the code to the first plan: {taps} taps, {typed} typed letters");
        assert!(taps < 90, "{taps}");

        // Yesterday's weather, and the plan answers.
        page.see("Yesterday’s weather").await;
        page.is_accessible("Morning of a new lawn").await;
        let today: jiff::civil::Date = plan["today"].as_str().unwrap().parse().unwrap();
        let yesterday = today.saturating_sub(1.day());
        let day = yesterday.strftime("%-d %B").to_string();
        page.type_in(&format!("Low, {day}"), "39").await;
        page.type_in(&format!("High, {day}"), "35").await;
        page.type_in(&format!("Rain, {day}"), "31.5").await;
        page.tap("Note it").await;
        page.see("lies below the least of the day").await;
        page.type_in(&format!("Low, {day}"), "\u{8}\u{8}19").await;
        page.tap("Note it").await;
        page.see("is noted, and planned with").await;
        page.see("31.5").await;
        page.gone("//h2[.='Yesterday’s weather']").await;
        let answered = first_plan(&reader).await;
        assert_eq!(answered["days"][1]["rain_mm"], 31.5);
        assert_ne!(answered["days"][2]["et0_mm"], plan["days"][2]["et0_mm"]);
        page
    })
    .await;
}

/// The plan of the only site, as its owner is told it.
async fn first_plan(api: &Api) -> Value {
    let session = api
        .send(Method::POST, "/session", credentials(EMAIL, PASSWORD))
        .await;
    expect(session, StatusCode::OK).await;
    api.json("/sites/1/plan").await["current"]["plan"].clone()
}
