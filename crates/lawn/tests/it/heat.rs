//! Heat ahead and walks: which days strain which grass, what is done about it, and what a look means.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::engine::history::ZoneHistory;
use lawn::measure::hot_spot::HotSpot;
use lawn::measure::seen::{Seen, Stay, StoppedBy};
use lawn::quantity::{Area, Depth};
use lawn::site::{DateRule, Exposure, HotEdge, Regime, SiteDocument, Weekday, Window, Zone};
use lawn::stress::heat::{self, Deed, NoCooling, Step};
use lawn::stress::walk::{self, Due, Means};
use lawn::weather::DailyWeather;
use proptest::prelude::*;
use science::turf::Season;

use crate::fixture::{site, zone};

const TODAY: Date = Date::constant(2026, 7, 6);

/// Days from a date on with these highest temperatures, ET0 7 mm.
fn days(from: Date, highs: &[f64]) -> Vec<DailyWeather> {
    let of = |(i, high): (i64, &f64)| DailyWeather {
        tmax_c: Some(*high),
        tmin_c: Some(high - 12.0),
        rh_min_pct: Some(30.0),
        ..DailyWeather::filled(
            from.saturating_add(i.days()),
            Depth::from_mm(7.0),
            Some(26.0),
        )
    };
    (0..).zip(highs).map(of).collect()
}

fn steps(season: Season, highs: &[f64]) -> Vec<Option<Step>> {
    let found = heat::days(season, &days(TODAY, highs));
    found.iter().map(|day| day.step).collect()
}

/// Two steps: 32 and 36 °C (common practice and extension advice); of a warm season four degrees more (no source). That days must follow one another: two (no source).
#[test]
fn edges_are_strained_first_and_whole_zones_where_days_follow_one_another() {
    let (edges, whole) = (Some(Step::Edges), Some(Step::Whole));
    let cool = |highs: &[f64]| steps(Season::Cool, highs);
    assert_eq!(cool(&[31.4, 31.6, 35.4]), [None, edges, edges]);
    assert_eq!(cool(&[38.0, 30.0, 36.0, 36.5]), [edges, None, whole, whole]);
    assert_eq!(
        steps(Season::Warm, &[35.0, 36.0, 41.0, 40.0]),
        [None, edges, whole, whole]
    );
    // A day that nobody knows is left out, and parts those beside it.
    let mut gap = days(TODAY, &[37.0, 37.0, 37.0]);
    gap[1].tmax_c = None;
    let found = heat::days(Season::Cool, &gap);
    assert_eq!(found.len(), 2);
    assert!(found.iter().all(|day| day.step == edges));
}

/// Ranges in which grass grows best: Beard, Turfgrass: Science and Culture, 1973, from memory.
#[test]
fn grass_grows_best_within_its_ranges() {
    let cool = Season::Cool.best_c();
    assert_eq!((cool.shoots, cool.roots), ((15.0, 24.0), (10.0, 18.0)));
    let warm = Season::Warm.best_c();
    assert_eq!((warm.shoots, warm.roots), ((27.0, 35.0), (24.0, 29.0)));
    let mean_26 = days(TODAY, &[33.0]);
    assert!(heat::days(Season::Cool, &mean_26)[0].warm_soil);
    assert!(!heat::days(Season::Warm, &mean_26)[0].warm_soil);
}

#[test]
fn what_to_do_grows_with_the_heat() {
    let deeds = |highs: &[f64]| heat::deeds(&heat::days(Season::Cool, &days(TODAY, highs)));
    assert!(deeds(&[28.0, 30.0]).is_empty());
    let edges = deeds(&[33.0]);
    assert!(edges.contains(&Deed::MowHigher) && !edges.contains(&Deed::NoMowing));
    let whole = deeds(&[37.0, 37.0]);
    assert_eq!(whole[0], Deed::SoakBefore);
    assert!(whole.contains(&Deed::NoMowing) && whole.contains(&Deed::WorkEarly));
    let mut close = days(TODAY, &[34.0]);
    close[0].rh_min_pct = Some(65.0);
    let close = heat::deeds(&heat::days(Season::Cool, &close));
    assert!(close.contains(&Deed::WatchForDisease));
}

fn edged() -> (SiteDocument, Zone) {
    let mut z = zone("a");
    z.hot_edges = vec![HotEdge {
        spot: HotSpot::Paving,
        area_m2: Area::from_m2(30.0),
    }];
    (site(vec![z.clone()]), z)
}

#[test]
fn a_hot_edge_gets_what_it_uses_on_the_hottest_day() {
    let (document, z) = edged();
    let weather = days(TODAY, &[30.0, 34.0]);
    let history = ZoneHistory::of(&document, &z);
    let model = &history.on(TODAY).model;
    let hot = heat::days(Season::Cool, &weather);
    let found = heat::by_hand(&z, model, &weather, &hot);
    let [place] = found.as_slice() else {
        panic!("{found:?}")
    };
    // In the sun an edge uses a fifth more (middle of 1.1 to 1.4, from memory).
    let uses = 1.2 * model.etc(&weather[1]).mm();
    assert!((place.depth_mm.mm() - uses).abs() < 1e-9);
    assert!((place.litres.l() - uses * 30.0).abs() < 1e-9);
    assert!((place.minutes - uses * 30.0 / 15.0).abs() < 1e-9);
    // Without heat nothing is carried about.
    let mild = days(TODAY, &[30.0]);
    let none = heat::days(Season::Cool, &mild);
    assert!(heat::by_hand(&z, model, &mild, &none).is_empty());
}

#[test]
fn leaves_are_cooled_in_extreme_heat_alone_and_not_in_humid_air_or_against_a_rule() {
    let (mut document, z) = edged();
    let history = ZoneHistory::of(&document, &z);
    let model = &history.on(TODAY).model;
    let mut weather = days(TODAY, &[33.0, 37.0, 37.0]);
    weather[2].rh_min_pct = Some(70.0);
    let hot = heat::days(Season::Cool, &weather);
    let found = heat::cooling(&document, &z, model, &hot);
    let dates: Vec<Date> = found.iter().map(|c| c.date).collect();
    assert_eq!(
        dates,
        [date(2026, 7, 7), date(2026, 7, 8)],
        "not on the first day"
    );
    assert_eq!(found[0].not, None);
    assert_eq!(found[1].not, Some(NoCooling::Humid { rh_min_pct: 70.0 }));
    // 0.6 mm over the zone, by its sprinklers' rate; the depth lies within what people use (0.3 to 1 mm).
    let first = &found[0];
    assert!((0.3..=1.0).contains(&first.depth_mm.mm()));
    let seconds = first.depth_mm.mm() / model.rate.value.mm_h() * 3600.0;
    assert!((first.seconds - seconds).abs() < 1e-9);
    assert!((first.litres.l() - first.depth_mm.mm() * z.area_m2.m2()).abs() < 1e-9);
    // Windows of the night do not bar it, a rule does.
    document.windows = vec![Window {
        days: Weekday::ALL.to_vec(),
        from: jiff::civil::time(2, 0, 0, 0),
        to: jiff::civil::time(6, 0, 0, 0),
        dates: DateRule::Any,
    }];
    assert_eq!(heat::cooling(&document, &z, model, &hot)[0].not, None);
    document.rules = serde_json::from_value(serde_json::json!({ "list": [
        { "name": "Not by day", "says": { "kind": "never", "hours": { "from": "10:00", "to": "18:00" } } }
    ] }))
    .unwrap();
    let barred = heat::cooling(&document, &z, model, &hot);
    assert_eq!(barred[0].not, Some(NoCooling::Forbidden), "{barred:?}");
    // Carried about by hand, or of a warm season with deep roots: none.
    let portable = Zone {
        sprinkler: science::sprinkler::Kind::Portable,
        ..z
    };
    assert!(heat::cooling(&document, &portable, model, &hot).is_empty());
}

#[test]
fn what_a_look_means() {
    let stay = |stay| Seen::Footprints { stay };
    let minutes = stay(Stay::Minutes);
    let driver = |stopped| Seen::Screwdriver {
        depth_mm: 200.0,
        stopped,
    };
    let (alive, dead) = (Seen::Crowns { alive: true }, Seen::Crowns { alive: false });
    let (holds, lifts) = (Seen::Tug { holds: true }, Seen::Tug { holds: false });
    let green = Regime::Established;
    let thirsty = |far| Means::Thirsty { far };
    for (regime, spot, seen, means) in [
        (green, None, vec![stay(Stay::Rise)], vec![Means::Fine]),
        (green, None, vec![minutes], vec![thirsty(false)]),
        (
            green,
            None,
            vec![minutes, Seen::Patches],
            vec![thirsty(true)],
        ),
        (
            green,
            None,
            vec![stay(Stay::Rise), driver(StoppedBy::Dry)],
            vec![thirsty(false)],
        ),
        (
            green,
            Some(HotSpot::Paving),
            vec![minutes, Seen::Tips],
            vec![Means::ThirstySpot {
                spot: HotSpot::Paving,
            }],
        ),
        (
            green,
            None,
            vec![minutes, driver(StoppedBy::Nothing)],
            vec![Means::NotThirst],
        ),
        (
            green,
            None,
            vec![minutes, Seen::Puddles],
            vec![Means::NotThirst, Means::Wet],
        ),
        (
            green,
            None,
            vec![minutes, driver(StoppedBy::Hard)],
            vec![Means::NotThirst, Means::Hard],
        ),
        (
            green,
            None,
            vec![minutes, Seen::Patches, holds, alive],
            vec![Means::Asleep, thirsty(true)],
        ),
        (
            Regime::Dormant,
            None,
            vec![minutes, Seen::Patches, holds, alive],
            vec![Means::Asleep],
        ),
        (
            Regime::Dormant,
            None,
            vec![minutes, Seen::Patches, lifts, dead],
            vec![Means::Dead],
        ),
        (
            green,
            None,
            vec![stay(Stay::Rise), Seen::Patches, lifts],
            vec![Means::Lifts, thirsty(true)],
        ),
        (
            Regime::Dormant,
            None,
            vec![minutes, Seen::Patches],
            vec![Means::LookAtCrowns],
        ),
        (
            Regime::Dormant,
            None,
            vec![Seen::DullColour, holds, alive],
            vec![Means::Asleep],
        ),
    ] {
        assert_eq!(walk::means(regime, spot, &seen), means, "{seen:?}");
    }
}

#[test]
fn a_zone_is_walked_when_heat_comes_and_not_again_at_once() {
    let hot = |highs: &[f64]| heat::days(Season::Cool, &days(TODAY, highs));
    let due =
        |last: Option<Date>, highs: &[f64]| walk::due(TODAY, last, None, None, &hot(highs), 0.5);
    assert_eq!(due(None, &[25.0, 26.0, 27.0, 38.0]), None, "too far ahead");
    let third = Due::Heat {
        date: date(2026, 7, 8),
        tmax_c: 33.0,
    };
    assert_eq!(due(None, &[25.0, 26.0, 33.0]), Some(third));
    assert_eq!(due(Some(date(2026, 7, 5)), &[25.0, 26.0, 33.0]), None);
    assert_eq!(
        due(Some(date(2026, 7, 4)), &[25.0, 26.0, 33.0]),
        Some(third)
    );
}

#[test]
fn what_dries_out_first_is_walked_first() {
    let hotness = |change: &dyn Fn(&mut Zone)| {
        let mut z = zone("a");
        change(&mut z);
        let document = site(vec![z.clone()]);
        let history = ZoneHistory::of(&document, &z);
        walk::hotness(&z, &history.on(TODAY).model)
    };
    let plain = hotness(&|_| ());
    let edge = hotness(&|z| z.exposure = Exposure::HotEdge);
    let windy = hotness(&|z| z.exposure = Exposure::Windy);
    let steep = hotness(&|z| z.slope_pct = 18.0);
    let shade = hotness(&|z| z.exposure = Exposure::DeepShade);
    assert!(edge > windy && windy > steep && steep > plain && plain > shade);
}

proptest! {
    /// A hotter day never strains less.
    #[test]
    fn a_hotter_day_never_strains_less(highs in prop::collection::vec(20.0..45.0_f64, 1..9), at in 0..9_usize, more in 0.0..10.0_f64, warm in any::<bool>()) {
        let season = if warm { Season::Warm } else { Season::Cool };
        let mut hotter = highs.clone();
        let at = at % highs.len();
        hotter[at] += more;
        for (before, after) in steps(season, &highs).iter().zip(steps(season, &hotter)) {
            prop_assert!(after >= *before);
        }
    }
}
