//! The water book: a reading with a slipped digit is questioned and corrected on the phone; what water costs, and a meter, as its manager types them.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use super::Screen;
use super::driver::print;
use super::page::with_page;
use crate::flow::run_and_counted;
use crate::harness::{App, EMAIL, expect};
use crate::rounds::step;

#[tokio::test]
async fn a_reading_with_a_slipped_digit_is_questioned_and_mended_on_the_phone() {
    let app = App::own_demo().await;
    app.member("willow@meadow.example", "/sites/1", "crew")
        .await;
    let api = app.sign_in("willow@meadow.example").await;
    with_page(&app, Screen::Phone, "book-phone", |page| async move {
        page.sign_in("willow@meadow.example").await;
        // The leak since 3 June and the broken head are on Morning, by the flow.
        page.see("Commons: a leak").await;
        page.see("Library lawn: a head is broken or gone").await;
        page.see("Walk it while it runs.").await;
        page.press("Water book").await;
        page.see("Shut zones off one by one, or look for wet ground.")
            .await;
        page.see("Its flow was last heard today 07:30.").await;
        page.see("Between readings, m³").await;
        page.find("//*[name()='svg' and contains(@class, 'recharts')]")
            .await;
        page.fits("the water book").await;
        page.is_accessible("the water book").await;
        page.press("Read Commons").await;
        page.press("Write it down").await;
        page.see("Type the figure on the dial.").await;
        // A digit is left out.
        page.fill("Figure on the dial, m³", "10169,4").await;
        page.press("Write it down").await;
        page.see("a counter does not go back").await;
        page.is_accessible("a reading that is asked about").await;
        page.fits("a reading that is asked about").await;
        // The meter's own flow was heard since the last reading: by it the dial shows another figure than that of a lucky slip.
        page.see("By the flow that was heard the dial shows about")
            .await;
        let meters = api.json("/sites/1/meters").await;
        let path = format!("/sites/1/meters/{}/readings", meters[0]["id"]);
        let slip = json!({ "register": 10_169.4, "idempotency_key": "slip-0001" });
        let asked = api.send(Method::POST, &path, slip).await;
        let asked = expect(asked, StatusCode::UNPROCESSABLE_ENTITY).await;
        let heard = asked["unlikely"]["heard_register"].as_f64().unwrap();
        assert!((101_700.0..101_750.0).contains(&heard), "{asked}");
        // Far from it is asked about, though no counter goes back.
        page.fill("Figure on the dial, m³", "101760.0").await;
        page.press("Write it down").await;
        page.see("were heard.").await;
        // As the page prints them: without a last nought.
        let [is, corrected] =
            [0.0, 1.0].map(|tenths| ((heard * 10.0 + tenths).round() / 10.0).to_string());
        page.fill("Figure on the dial, m³", &is).await;
        page.press("Write it down").await;
        page.see(&is).await;
        page.press("Readings of Commons").await;
        page.press(&format!("Correct {is}")).await;
        page.fill("Figure on the dial, m³", &corrected).await;
        page.press("Correct it").await;
        page.see(&corrected).await;
        page.is_accessible("the readings").await;
        page.press(&format!("Take {corrected} out")).await;
        page.gone(&format!("//td[contains(., '{corrected}')]"))
            .await;
        page
    })
    .await;
}

#[tokio::test]
async fn what_water_costs_and_a_meter_as_their_manager_types_them() {
    let app = App::own_demo().await;
    let rowan = app.manager("rowan@meadow.example", "/sites/1").await;
    let manager = app.sign_in("rowan@meadow.example").await;
    with_page(&app, Screen::Desk, "book-desk", |page| async move {
        page.sign_in("rowan@meadow.example").await;
        page.press("Water book").await;
        page.see("The next water costs $1.75 per m³.").await;
        page.see("Repair the leak").await;
        page.see("Their evenness was measured as 54 %; very good ones have 70 %")
            .await;
        page.is_accessible("the water book on a desk").await;
        page.press("What water costs").await;
        page.fill("Price of tier 1, per m³", "2..1").await;
        page.press("Save what water costs").await;
        page.see("“2..1” is not a number.").await;
        page.fill("Price of tier 1, per m³", "2.1").await;
        page.fill("Tier 1: up to, m³ a month", "0").await;
        page.press("Save what water costs").await;
        page.see("Between 0.1 and 10,000,000 m³.").await;
        page.is_accessible("what water costs").await;
        page.fill("Tier 1: up to, m³ a month", "250").await;
        page.fill("Price of tier 1 in these months, per m³", "2.1")
            .await;
        page.press("Save what water costs").await;
        page.see("The next water costs $2.10 per m³.").await;
        let tariffs = manager.json("/sites/1").await["tariffs"].clone();
        assert_eq!(
            tariffs.as_array().unwrap().len(),
            2,
            "the present one was corrected: {tariffs}"
        );
        assert_eq!(tariffs[1]["tiers"][0]["up_to_m3"], 250.0);
        assert_eq!(tariffs[1]["seasons"][0]["tiers"][0]["price_per_m3"], 2.1);

        // The same in other units, and what does not hold is said in them.
        page.press("Use US units").await;
        page.see("The next water costs $7.95 per 1000 gal.").await;
        page.press("What water costs").await;
        page.fill("Tier 1: up to, gal a month", "1").await;
        page.press("Save what water costs").await;
        page.see("Between 26.42 and 2,641,721,000 gal.").await;
        page.press("Close what water costs").await;
        page.press("Use metric units").await;
        page.press("What may be used").await;
        page.press("Save what may be used").await;
        page.see("Give it a name.").await;
        page.fill("Name", "Town, summer").await;
        page.fill("In a month, m³", "0").await;
        page.press("Save what may be used").await;
        page.see("Between 0.1 m³ and").await;
        page.fill("In a month, m³", "250").await;
        page.is_accessible("what may be used").await;
        page.press("Save what may be used").await;
        page.see("of 250.0 m³ used.").await;
        page.see("past years it comes to").await;
        page.press("What may be used").await;
        page.fill("Name", "Drought, stage 1").await;
        page.choose("How much", "Less than in the same month of a base year")
            .await;
        page.fill("Less by, %", "20").await;
        page.fill("Base year", "2026").await;
        page.press("Save what may be used").await;
        page.see("the one before it holds").await;
        page.fill("Base year", "2025").await;
        page.press("Save what may be used").await;
        page.see("Drought, stage 1").await;
        page.is_accessible("the book with what may be used").await;
        // This year's taken out, last year's holds on: the next water of June's second tier.
        page.press("What water costs").await;
        page.press("Take out what holds from 1 January 2026").await;
        page.see("The next water costs $1.60 per m³.").await;
        page.press("Add a meter").await;
        page.fill("Name", "Pavilion tap").await;
        page.fill("Digits before the point", "12").await;
        page.press("Save the meter").await;
        page.see("Between 3 and 10.").await;
        page.fill("Digits before the point", "4").await;
        page.choose("It counts in", "gal").await;
        page.press_label("Pavilion front").await;
        page.is_accessible("a meter").await;
        page.press("Save the meter").await;
        page.see("Feeds Pavilion front.").await;
        page.see("Not read yet: the first reading is where it begins.")
            .await;
        page.press("Morning").await;
        page.see("Read the meter Pavilion tap").await;
        page.press("Water book").await;
        page.choose_named("Days of the book", "2025").await;
        page.see("1 January 2025 to 31 December 2025").await;
        page
    })
    .await;
    let meters = rowan.json("/sites/1/meters").await;
    let tap = &meters[1]["meter"];
    assert_eq!(
        (&tap["unit"], &tap["digits"], &tap["feeds"]),
        (
            &Value::from("gal"),
            &Value::from(4),
            &serde_json::json!(["2"])
        )
    );
    let tariffs = rowan.json("/sites/1").await["tariffs"].clone();
    assert_eq!(tariffs.as_array().unwrap().len(), 1, "{tariffs}");
    assert_eq!(tariffs[0]["tiers"][0]["price_per_m3"], 1.6);
}

#[tokio::test]
async fn a_viewer_reads_the_book_and_writes_nothing() {
    let app = App::own_demo().await;
    app.member("bram@meadow.example", "/sites/1", "viewer")
        .await;
    with_page(&app, Screen::Desk, "book-viewer", |page| async move {
        page.sign_in("bram@meadow.example").await;
        page.press("Water book").await;
        page.see("Zone by zone").await;
        for hidden in [
            "Read Commons",
            "Add a meter",
            "Change Commons",
            "What water costs",
        ] {
            page.gone(&format!(
                "//button[normalize-space(.)='{hidden}' or @aria-label='{hidden}']"
            ))
            .await;
        }
        page.press("Readings of Commons").await;
        page.see("Save the readings of all meters as a file").await;
        page.gone("//button[.='Correct']").await;
        page
    })
    .await;
}

#[tokio::test]
async fn the_season_is_printed_as_a_report() {
    let app = App::own_demo().await;
    app.member("bram@meadow.example", "/sites/1", "viewer")
        .await;
    with_page(&app, Screen::Desk, "report", |page| async move {
        page.sign_in("bram@meadow.example").await;
        page.press("Water book").await;
        page.press("Report").await;
        page.see("Water report: Sorrel Hollow Commons").await;
        page.see("of what California’s rule would allow").await;
        page.see("Commons: a leak.").await;
        page.see("sprinklers tested").await;
        page.see("West bank: repair head 3, broken").await;
        page.see("Library lawn: replace the broken head").await;
        page.is_accessible("the season's report").await;
        let pdf = String::from_utf8_lossy(&print(&page.client, 11.69, 8.27).await).into_owned();
        let pages = pdf.matches("/Type /Page\n").count();
        assert!((1..=6).contains(&pages), "{pages} pages");
        page
    })
    .await;
}

#[tokio::test]
async fn a_wet_check_is_walked_on_the_phone() {
    let app = App::own_demo().await;
    app.member("willow@meadow.example", "/sites/1", "crew")
        .await;
    with_page(&app, Screen::Phone, "wet-check", |page| async move {
        page.sign_in("willow@meadow.example").await;
        page.see("two minutes a zone show what no dry walk does")
            .await;
        page.press("Walk each zone while it runs").await;
        page.see("Not in frost: spray freezes on paving.").await;
        page.press("Time Pavilion front").await;
        page.see("1:5").await;
        page.press_label("Pavilion front walked").await;
        page.unfold("Note a head of Pavilion front").await;
        let form = "//form[@aria-label='Note a head of Pavilion front']";
        let head = page
            .find(&format!("{form}//input[@inputmode='decimal']"))
            .await;
        head.send_keys("4").await.unwrap();
        let what = page.find(&format!("{form}//select")).await;
        what.select_by_value("misaimed").await.unwrap();
        page.press_at(&format!("{form}//button[.='Note it']")).await;
        page.see("head 4 sprays the wrong way").await;
        page.is_accessible("a wet check").await;
        page.fits("a wet check").await;
        // The phone sleeps and the page is loaded again: what was walked is there.
        page.open("/site/1/sprinklers/wet-check").await;
        page.press_label("It ran in rain lately").await;
        page.press("Write the wet check down").await;
        page.see("18 June 2026, Hazel Fern: one zone; ran in rain")
            .await;
        page.press("Morning").await;
        page.see("Commons: a leak").await;
        page.gone("//strong[.='Wet check']").await;
        page
    })
    .await;
}

#[tokio::test]
async fn the_days_are_reconciled_and_what_explains_them_is_said() {
    let app = App::own_demo().await;
    app.member("bram@meadow.example", "/sites/1", "viewer")
        .await;
    for (screen, size) in [(Screen::Desk, "desk"), (Screen::Phone, "phone")] {
        let name = format!("days-{size}");
        with_page(&app, screen, &name.clone(), |page| async move {
            page.sign_in("bram@meadow.example").await;
            page.press("Water book").await;
            page.press("Day by day").await;
            page.see("Each day’s runs beside what Commons counted.")
                .await;
            page.see("Commons: a leak.").await;
            page.see("Counted with nothing on").await;
            let row = "//tr[contains(., 'Sun 7')]//td[contains(@class, 'number')][4]";
            let rest: f64 = page.words_of(row).await.parse().unwrap();
            assert!((4.0..8.0).contains(&rest), "{rest}");
            page.see("A leak, 2.6 m³; Library lawn: a head is broken or gone, 3.1 m³")
                .await;
            page.see("Save these days as a file").await;
            page.press("Fri 5 June").await;
            let zone = "//tr[th[contains(., 'Library lawn')]]/td[contains(@class, 'number')][3]";
            let metered: f64 = page.words_of(zone).await.parse().unwrap();
            assert!((5.0..10.0).contains(&metered), "{metered}");
            page.is_accessible("the days").await;
            page.fits("the days").await;
            // Before anybody listened to a meter, and before anything was planned.
            page.choose_named("Month", "March 2026").await;
            page.see("No flow meter was heard in these days").await;
            page.press("Back to the book").await;
            page.see("1 March 2026 to 31 March 2026").await;
            page
        })
        .await;
    }
}

#[tokio::test]
async fn a_leak_is_named_on_morning_within_two_days_of_its_start_on_the_stepped_clock() {
    let (app, api, site, standin) = run_and_counted("leak-browser", 1.0).await;
    for _ in 0..6 {
        step(&api, &site, 1).await;
    }
    with_page(&app, Screen::Desk, "leak", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("What ran").await;
        page.gone("//strong[contains(., 'a leak')]").await;
        let quirks = serde_json::json!({ "leak_l_h": 60.0 });
        let path = format!("{site}/flow-meter/quirks");
        standin.ask(Method::PUT, &path, quirks).await;
        for day in ["25", "26"] {
            page.press_at("//button[starts-with(@aria-label, 'Demo clock')]")
                .await;
            page.press("One day on").await;
            page.see(&format!("{day} June now.")).await;
        }
        page.see("Lawn: a leak").await;
        page.see("flow each hour with nothing on").await;
        page
    })
    .await;
}

#[tokio::test]
async fn the_rate_that_a_meter_has_found_is_taken_with_one_tap() {
    let (app, api, site, standin) = run_and_counted("rate-browser", 1.0).await;
    let faults = serde_json::json!({ "broken": ["1"] });
    let path = format!("{site}/faults");
    standin.ask(Method::PUT, &path, faults).await;
    // A second meter on the same supply, and a cap against a year of which nothing is known.
    let meter = serde_json::json!({ "name": "Gate", "unit": "m3", "digits": 5, "pulse_l": 1.0 });
    let path = format!("{site}/meters");
    let added = api.send(Method::POST, &path, meter).await;
    let gate = expect(added, StatusCode::CREATED).await["id"].clone();
    for _ in 0..12 {
        step(&api, &site, 1).await;
    }
    let body = serde_json::json!({ "from": "2026-06-20T08:00:00Z", "counts": [0, 0, 0] });
    let path = format!("{site}/meters/{gate}/pulses");
    expect(api.send(Method::POST, &path, body).await, StatusCode::OK).await;
    let version = api.json(&site).await["version"].as_i64().unwrap();
    let caps = serde_json::json!([
        { "name": "Drought", "from": "2026-06-01", "says": { "kind": "cut", "cut_pct": 20, "base_year": 2025 } },
        { "name": "Own", "from": "2026-06-01", "says": { "kind": "volume", "cap_m3": 1, "per": "year" } },
    ]);
    let set = api
        .edit(Method::PUT, &format!("{site}/caps"), version, caps)
        .await;
    expect(set, StatusCode::OK).await;
    with_page(&app, Screen::Phone, "rate", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("Front: takes another flow than its rate says")
            .await;
        page.press("Water book").await;
        page.see("The record does not reach back to the base year: what is allowed is not known.")
            .await;
        page.see("The record has no past year of these days").await;
        page.see("Nothing that is known: no leak").await;
        page.press("Day by day").await;
        page.choose_named("Flow meter", "Gate").await;
        page.see("h were not heard").await;
        page.see("not heard").await;
        page.choose_named("Flow meter", "Lawn").await;
        page.see("Each day’s runs beside what Lawn counted.").await;
        page.is_accessible("days of two meters").await;
        page.fits("days of two meters").await;
        page.press_at("//button[starts-with(., 'Plan Front with')]")
            .await;
        page.gone("//strong[contains(., 'takes another flow')]")
            .await;
        page.choose_named("Month", "April 2026").await;
        page.see("Nothing was planned, and nothing ran.").await;
        page
    })
    .await;
    let tests = api.json(&format!("{site}/sprinkler-tests")).await;
    assert_eq!(tests[0]["test"]["way"], "meter", "{tests}");
}
