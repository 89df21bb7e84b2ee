//! Units are switched in the middle of each form: what was typed means what it meant, is shown converted, and is sent as it was typed.
//! Factors of NIST SP 811 (2008), appendix B, from memory: inch 25.4 mm, foot 0.3048 m, square foot 0.092 903 04 m², US gallon
//! 3.785 412 L, psi 6.894 757 kPa.

use serde_json::Value;

use super::driver::Screen;
use super::page::{Page, with_page};
use crate::harness::{Api, App, EMAIL};

/// A field of a form: its label, a value typed in metric units, the same in US units, and by how much they may differ.
type Row = (&'static str, &'static str, f64, &'static str, f64);

const INCH: f64 = 25.4;
const SQUARE_FOOT: f64 = 0.092_903_04;
const FOOT: f64 = 0.3048;
const GALLON: f64 = 3.785_412;
const PSI: f64 = 6.894_757;

/// Types each in metric units, switches to US units and back, reading what stands there; leaves the form in metric units.
async fn switch_in_the_middle(page: &Page, form: &str, rows: &[Row]) {
    for (label, unit, typed, ..) in rows {
        page.fill(&format!("{label}, {unit}"), &typed.to_string())
            .await;
    }
    page.press("Use US units").await;
    for (label, _, typed, unit, factor) in rows {
        let shown = page.value(&format!("{label}, {unit}")).await;
        let shown: f64 = shown
            .parse()
            .unwrap_or_else(|_| panic!("{form}, {label}: {shown}"));
        let right = typed / factor;
        // Shown with four digits; what is sent is what was typed.
        assert!(
            (shown / right - 1.0).abs() < 5e-4,
            "{form}, {label}: {typed} is {right} {unit}, not {shown}"
        );
    }
    page.press("Use metric units").await;
    for (label, unit, typed, ..) in rows {
        let shown = page.value(&format!("{label}, {unit}")).await;
        assert_eq!(shown, typed.to_string(), "{form}, {label}: as it was typed");
    }
}

/// Types one in US units, switches to metric units, and sends it from there; what the server must have.
async fn type_in_us(page: &Page, label: &str, unit: &str, typed: &str) {
    page.press("Use US units").await;
    page.fill(&format!("{label}, {unit}"), typed).await;
    page.press("Use metric units").await;
}

fn close(got: &Value, right: f64, what: &str) {
    let got = got.as_f64().unwrap_or(f64::NAN);
    assert!(
        (got / right - 1.0).abs() < 1e-6,
        "{what}: {got}, not {right}"
    );
}

#[tokio::test]
async fn every_form_keeps_what_was_typed_when_units_are_switched() {
    let (app, api, site) = App::with_dry_zone().await;
    let by_form: Api = api;
    with_page(&app, Screen::Desk, "units", |page| async move {
        page.sign_in(EMAIL).await;
        page.open("/site/1/settings").await;
        page.change_zone("Front").await;
        switch_in_the_middle(
            &page,
            "zone",
            &[
                ("Area", "m²", 417.0, "ft²", SQUARE_FOOT),
                ("Precipitation rate", "mm/h", 12.0, "in/h", INCH),
                ("Root depth", "cm", 15.5, "in", INCH / 10.0),
                ("Used at its first dawn", "mm", 12.0, "in", INCH),
                ("Deep and seldom", "mm", 1.5, "in", INCH),
            ],
        )
        .await;
        type_in_us(&page, "Area", "ft²", "4000").await;
        page.press("Save and plan").await;
        page.gone("//button[.='Save and plan']").await;

        page.press("Zones").await;
        page.press("Place and hours").await;
        switch_in_the_middle(
            &page,
            "place",
            &[
                ("Elevation", "m", 312.0, "ft", FOOT),
                (
                    "Price of water",
                    "per m³",
                    2.5,
                    "per 1000 gal",
                    1.0 / GALLON,
                ),
                ("Flow of the supply", "L/min", 90.0, "gpm", GALLON),
            ],
        )
        .await;
        type_in_us(&page, "Elevation", "ft", "1000").await;
        page.press("Save and plan").await;
        page.see("Saved, and planned again.").await;

        page.press("Weather").await;
        switch_in_the_middle(&page, "gauge", &[("Rain", "mm", 12.0, "in", INCH)]).await;
        type_in_us(&page, "Rain", "in", "0.5").await;
        page.press("Note the reading").await;
        page.see("12.7 mm on 17 June noted, and planned again.")
            .await;

        page.open("/site/1/sprinklers/1/quick").await;
        page.see("The rate alone.").await;
        // Nobody typed the mark: it is the usual one of either system.
        assert_eq!(page.value("Mark, mm").await, "13");
        page.press("Use US units").await;
        assert_eq!(page.value("Mark, in").await, "0.5");
        page.press("Use metric units").await;
        switch_in_the_middle(
            &page,
            "quick test by cans",
            &[("Mark", "mm", 25.0, "in", INCH)],
        )
        .await;
        page.pick("Meter").await;
        switch_in_the_middle(
            &page,
            "quick test by the meter",
            &[
                ("Meter before", "m³", 12.0, "gal", GALLON / 1000.0),
                ("Meter after", "m³", 12.6, "gal", GALLON / 1000.0),
                ("Area watered", "m²", 380.0, "ft²", SQUARE_FOOT),
            ],
        )
        .await;
        page.pick("Nozzle chart").await;
        switch_in_the_middle(
            &page,
            "quick test by the nozzle",
            &[
                ("Flow of one nozzle", "L/min", 3.5, "gpm", GALLON),
                ("Between heads", "m", 4.5, "ft", FOOT),
                ("Chart's pressure", "kPa", 210.0, "psi", PSI),
            ],
        )
        .await;

        page.open("/site/1/sprinklers/1").await;
        page.see("Set out cans in even rows").await;
        switch_in_the_middle(
            &page,
            "cans",
            &[
                ("Width", "m", 8.0, "ft", FOOT),
                ("Length", "m", 6.0, "ft", FOOT),
                ("Can's depth", "mm", 120.0, "in", INCH),
                ("Pressure (if read)", "kPa", 240.0, "psi", PSI),
            ],
        )
        .await;
        page.press("Begin").await;
        page.see("Can 1 of 16").await;
        // Half an inch is typed; in millimetres it stands there converted, and is kept as half an inch.
        page.press("Use US units").await;
        for key in ["Decimal point", "5"] {
            page.press(key).await;
        }
        page.press("Use metric units").await;
        page.find("//output[.='12.7']").await;
        page.press("Next").await;
        page.choose("Can to read", "1: 12.7 read").await;
        page.press("Throw this test away").await;

        page.open("/site/1/morning").await;
        page.press("Water by hand or hose").await;
        page.unlock_header().await;
        switch_in_the_middle(
            &page,
            "hose",
            &[("Area reached", "m²", 60.0, "ft²", SQUARE_FOOT)],
        )
        .await;
        page
    })
    .await;
    let zone = &by_form.json(&format!("{site}/zones")).await[0]["zone"];
    close(&zone["area_m2"], 4000.0 * SQUARE_FOOT, "area");
    for (field, right) in [("initial_depletion_mm", 12.0), ("deep_and_seldom_mm", 1.5)] {
        assert_eq!(zone[field], right, "{field}");
    }
    assert_eq!(zone["rate_mm_h"]["value"], 12.0);
    assert_eq!(zone["root_depth_mm"]["value"], 155.0);
    let place = by_form.json(&site).await;
    close(&place["site"]["elevation_m"], 1000.0 * FOOT, "elevation");
    assert_eq!(place["site"]["price_per_m3"], 2.5);
    assert_eq!(place["supply"]["flow_l_min"], 90.0);
    let days = by_form
        .json(&format!("{site}/weather?from=2026-06-17&to=2026-06-17"))
        .await;
    close(&days["days"][0]["day"]["rain_mm"], 12.7, "rain");
}
