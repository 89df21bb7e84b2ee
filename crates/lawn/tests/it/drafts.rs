//! A lawn that is being described: answers, and what they leave open.

use jiff::civil::{Date, date};
use lawn::measure::outline::Shape;
use lawn::measure::squeeze::{Ball, Feel};
use lawn::site::draft::{
    AreaAnswer, Bucket, SiteDraft, SoilAnswer, TurnedOnBy, ZoneDraft, answered,
};
use lawn::site::{Controller, Exposure, Site, Zone};
use lawn::sourced::{Source, Sourced};
use lawn::view::first_look::{depletion_at_begin, first_look};
use lawn::weather::told::{self, ToldDay};
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::Grass;
use serde_json::json;

const TODAY: Date = date(2026, 6, 18);

fn draft(answers: &serde_json::Value) -> ZoneDraft {
    let mut draft = json!({ "name": "Front" });
    let all = draft.as_object_mut().unwrap();
    all.extend(answers.as_object().unwrap().clone());
    serde_json::from_value(draft).unwrap()
}

fn zone(answers: &serde_json::Value) -> Zone {
    draft(answers).zone(39.7, TODAY).unwrap()
}

fn site() -> Site {
    begun().document().unwrap().site
}

fn begun() -> SiteDraft {
    serde_json::from_value(json!({
        "name": " Home ", "time_zone": "America/Denver", "latitude": 39.739, "longitude": -104.984,
    }))
    .unwrap()
}

#[test]
fn who_knows_nothing_gets_a_lawn_whose_figures_say_so() {
    let unknown = zone(&json!({}));
    let assumed = |source: Option<&Source>| assert_eq!(source, Some(&Source::Assumed));
    assumed(unknown.rate_mm_h.as_ref().map(|s| &s.source));
    assumed(unknown.evenness_du_lq.as_ref().map(|s| &s.source));
    assumed(unknown.root_depth_mm.as_ref().map(|s| &s.source));
    assumed(unknown.available_mm_per_mm.as_ref().map(|s| &s.source));
    assumed(unknown.intake_mm_h.as_ref().map(|s| &s.source));
    assumed(unknown.site_factor.as_ref().map(|s| &s.source));
    // As wide as all soils and all sprinklers.
    let rate = unknown.rate_mm_h.unwrap();
    for kind in Kind::ALL {
        let [low, _, high] = kind.defaults().rate_mm_h;
        assert!(
            rate.low.mm_h() <= low && high <= rate.high.mm_h(),
            "{kind:?}"
        );
    }
    let held = unknown.available_mm_per_mm.unwrap();
    for soil in Texture::ALL {
        assert!(
            (held.low..=held.high).contains(&soil.available_mm_per_mm()),
            "{soil:?}"
        );
    }
    // Where it is hot the likely grass is another.
    assert_eq!(unknown.grass, Grass::TallFescue);
    assert_eq!(
        draft(&json!({})).zone(-23.0, TODAY).unwrap().grass,
        Grass::CommonBermudagrass
    );
}

#[test]
fn what_is_answered_is_the_handbooks_and_narrower() {
    let told = zone(&json!({
        "sprinkler": "rotor", "grass": "tall_fescue", "soil": { "texture": "loam" }, "exposure": "half_shade", "fall_m": 0.5,
        "area": { "m2": 240 },
    }));
    assert_eq!((told.sprinkler, told.soil), (Kind::Rotor, Texture::Loam));
    assert_eq!(told.exposure, Exposure::HalfShade);
    assert!((told.slope_pct - 5.0).abs() < 1e-9);
    assert!(told.rate_mm_h.is_none() && told.root_depth_mm.is_none() && told.site_factor.is_none());
    assert_eq!(told.active_from, Some(TODAY));

    let look = |zone: &Zone| first_look(&site(), &Controller::default(), zone, TODAY).unwrap();
    let (known, unknown) = (look(&told), look(&zone(&json!({}))));
    let wide = |look: &lawn::view::first_look::FirstLook| look.minutes.high / look.minutes.low;
    assert!(wide(&known) < wide(&unknown));
    for look in [&known, &unknown] {
        assert!(look.minutes.low <= look.minutes.value && look.minutes.value <= look.minutes.high);
        assert!(
            look.every_days.low <= look.every_days.value
                && look.every_days.value <= look.every_days.high
        );
    }
    // What it lasts times what it uses is the refill, but for the rounding to whole minutes.
    let refill = known.every_days.value * known.etc_mm.mm();
    assert!((known.net_mm.mm() / refill - 1.0).abs() < 0.02, "{known:?}");
    let litres = known.volume_l / 240.0;
    assert!(
        litres > known.net_mm.mm(),
        "unevenness and spray take their share"
    );
}

#[test]
fn soil_by_the_squeeze_and_areas_by_tape_and_paces() {
    let squeezed = SoilAnswer::Squeezed {
        ball: Ball::LongRibbon,
        feel: Feel::Neither,
    };
    assert_eq!(
        draft(&json!({ "soil": squeezed }))
            .zone(39.7, TODAY)
            .unwrap()
            .soil,
        Texture::Clay
    );
    let rectangle = |w, l| Shape::Rectangle {
        width_m: w,
        length_m: l,
    };
    let area = |answer: AreaAnswer| zone(&json!({ "area": answer })).area_m2.m2();
    assert!((area(AreaAnswer::Tape(rectangle(12.0, 20.0))) - 240.0).abs() < 1e-6);
    // Sixteen by twenty paces of 0.75 m: 12 by 15 m.
    assert!((area(AreaAnswer::Paces(rectangle(16.0, 20.0))) - 180.0).abs() < 1e-6);
}

#[test]
fn an_answer_that_comes_later_takes_the_place_of_the_guess() {
    let unknown = zone(&json!({}));
    let clay = Zone {
        soil: Texture::Clay,
        ..unknown.clone()
    };
    let told = answered(&unknown, clay);
    assert!(told.available_mm_per_mm.is_none() && told.intake_mm_h.is_none());
    assert_eq!(
        told.rate_mm_h, unknown.rate_mm_h,
        "nobody told of the sprinklers"
    );
    // What was measured stays, whatever else changes.
    let mut measured = unknown.clone();
    measured.available_mm_per_mm = Some(Sourced::handbook(0.1, 0.12, 0.14, "a laboratory"));
    let silt = Zone {
        soil: Texture::Silt,
        ..measured.clone()
    };
    assert!(answered(&measured, silt).available_mm_per_mm.is_some());
    assert_eq!(answered(&unknown, unknown.clone()), unknown);
}

#[test]
fn what_turns_the_water_on_decides_starts_and_hours() {
    let made = |by: Option<TurnedOnBy>| {
        let draft = SiteDraft {
            turned_on_by: by,
            ..begun()
        };
        let document = draft.document().unwrap();
        let hours = &document.windows[0];
        (
            document.controller.starts,
            hours.from.hour(),
            hours.to.hour(),
        )
    };
    assert_eq!(made(None), (None, 2, 9));
    assert_eq!(made(Some(TurnedOnBy::Controller)), (None, 2, 9));
    assert_eq!(made(Some(TurnedOnBy::Dial)), (Some(4), 2, 9));
    assert_eq!(made(Some(TurnedOnBy::Hand)), (Some(2), 6, 10));
}

#[test]
fn what_cannot_be_is_refused_at_its_answer() {
    let refused = |answers: serde_json::Value| draft(&answers).zone(39.7, TODAY).unwrap_err().field;
    assert_eq!(refused(json!({ "name": " " })), "name");
    assert_eq!(refused(json!({ "fall_m": 11 })), "fall_m");
    assert_eq!(refused(json!({ "area": { "m2": 0 } })), "area.m2");
    let tape = json!({ "area": { "tape": { "shape": "rectangle", "width_m": 0, "length_m": 5 } } });
    assert_eq!(refused(tape), "area.width_m");

    let site = |change: fn(&mut SiteDraft)| {
        let mut draft = begun();
        change(&mut draft);
        draft.document().unwrap_err().field
    };
    assert_eq!(site(|d| d.latitude = 91.0), "site.latitude");
    assert_eq!(
        site(|d| d.time_zone = "Mars/Olympus".to_owned()),
        "site.time_zone"
    );
    assert_eq!(
        site(|d| d.time_zone = "Asia/Tokyo".to_owned()),
        "site.time_zone"
    );
    assert_eq!(
        site(|d| d.flow = Some(Bucket {
            bucket_l: 0.0,
            seconds: 9.0
        })),
        "flow.bucket_l"
    );
    assert_eq!(
        site(|d| d.flow = Some(Bucket {
            bucket_l: 10.0,
            seconds: 0.0
        })),
        "flow.seconds"
    );
}

#[test]
fn a_site_of_answers_waters_before_the_heat_unless_told_otherwise() {
    let document = begun().document().unwrap();
    assert_eq!(document.site.name, "Home");
    assert_eq!(document.windows.len(), 1);
    assert_eq!(document.windows[0].days.len(), 7);
    assert_eq!(document.supply.flow_l_min, None);
    // Ten litres in twenty seconds are thirty a minute.
    let flow = Bucket {
        bucket_l: 10.0,
        seconds: 20.0,
    };
    let told = SiteDraft {
        flow: Some(flow),
        windows: Some(Vec::new()),
        ..begun()
    };
    let document = told.document().unwrap();
    assert_eq!(document.supply.flow_l_min, Some(30.0));
    assert!(document.windows.is_empty(), "no hours are no hours");
}

#[test]
fn a_lawn_begins_with_what_it_has_used_since_it_was_soaked() {
    let (site, controller) = (site(), Controller::default());
    let zone = zone(
        &json!({ "sprinkler": "rotor", "grass": "tall_fescue", "soil": { "texture": "loam" } }),
    );
    let at = |days| depletion_at_begin(&site, &controller, &zone, &[], days, TODAY).mm();
    assert!(at(Some(0)) < 1e-9);
    assert!(at(Some(2)) > 0.0 && at(Some(4)) > at(Some(2)));
    let look = first_look(&site, &controller, &zone, TODAY).unwrap();
    // Two days of June at this place are close to two warm days of summer.
    let two = 2.0 * look.etc_mm.mm();
    assert!(
        (0.5 * two..1.1 * two).contains(&at(Some(2))),
        "{}",
        at(Some(2))
    );
    // Nobody knows: half of what may be used.
    let usable = look.every_days.value * look.etc_mm.mm();
    assert!((at(None) - usable / 2.0).abs() < 1e-9);
    // In December a week uses next to nothing: 1 to 6 mm at 38° N (FAO-56 table 2: cool and humid days of 1 mm, from memory).
    let december = date(2026, 12, 8);
    let week = depletion_at_begin(&site, &controller, &zone, &[], Some(7), december).mm();
    assert!(
        (0.0..6.0).contains(&week) && week < at(Some(7)) / 3.0,
        "{week}"
    );
    // However long ago, the roots hold no less than nothing.
    assert!(at(Some(60)) <= at(Some(60_000)) + 1e-9 && at(Some(60_000)) < 400.0);
}

#[test]
fn days_are_told_once_and_when_they_are_over() {
    let day = |text: &str| -> ToldDay { serde_json::from_str(text).unwrap() };
    let good = day(r#"{"date":"2026-06-17","tmin_c":14,"tmax_c":29,"rain_mm":2}"#);
    let earlier = day(r#"{"date":"2026-06-15","rain_mm":0}"#);
    let days = told::days(&[good.clone(), earlier], TODAY).unwrap();
    assert_eq!(days[0].date, date(2026, 6, 15));
    let refused = |days: &[ToldDay]| told::days(days, TODAY).unwrap_err().field;
    assert_eq!(refused(&[good.clone(), good]), "days[1].date");
    for (text, field) in [
        (r#"{"date":"2026-06-18","rain_mm":2}"#, "days[0].date"),
        (r#"{"date":"1815-06-18","rain_mm":2}"#, "days[0].date"),
        (r#"{"date":"2026-06-17"}"#, "days[0]"),
        (
            r#"{"date":"2026-06-17","tmin_c":20,"tmax_c":10}"#,
            "days[0].tmax_c",
        ),
        (r#"{"date":"2026-06-17","rain_mm":-1}"#, "days[0].rain_mm"),
        (
            r#"{"date":"2026-06-17","rh_min_pct":80,"rh_max_pct":20}"#,
            "days[0].rh_max_pct",
        ),
    ] {
        assert_eq!(refused(&[day(text)]), field, "{text}");
    }
    assert!(serde_json::from_str::<ToldDay>(r#"{"date":"2026-06-17","tmin_f":70}"#).is_err());
}
