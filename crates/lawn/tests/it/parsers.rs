//! Whatever comes in as a file or as JSON, each parser answers: with what holds, or with an error that names a place. Texts are made by
//! spoiling good ones, so that they get past the first line. `PROPTEST_CASES` says how many; ten thousand by default.

use jiff::civil::date;
use lawn::days;
use lawn::measure::cans::file as can_file;
use lawn::measure::cans::layout::Wanted;
use lawn::measure::result::Tested;
use lawn::measure::sprinkler::SprinklerTest;
use lawn::site::Zone;
use lawn::site::document;
use lawn::weather::file::{self, File, MOST_ERRORS, MOST_ROWS};
use lawn::weather::foreign::{self, DateForm, Figure, MappedColumn, Mapping, Unit};
use lawn::weather::foreign_guess;
use lawn::weather::ghcn;
use proptest::prelude::*;
use science::sprinkler::Kind;

const WEATHER: &str = include_str!("../../../../docs/formats/weather.example.csv");
const SITE: &str = include_str!("../../../../docs/formats/site.example.json");
const CANS: &str = include_str!("../../../../docs/formats/cans.example.csv");
const GHCN: &str = "USW00013723,20260617,TMAX,311,,,S,\nUSW00013723,20260617,TMIN,172,,,S,\nUSW00013723,20260617,PRCP,25,,,S,2400\n\
                    USW00013723,20260618,TMAX,322,,X,S,\nUSW00013723,20260618,SNOW,0,,,S,\n";
const FOREIGN: &str =
    "Day;High (°F);Low (°F);Rain (in)\n6/17/2026;88,2;63;0,1\n6/18/2026;90;65;T\n6/19/2026;;;\n";

const ZONE: &str = r#"{"name":"Front","grass":"tall_fescue","soil":"loam","slope_pct":2,"area_m2":400,"sprinkler":"multi_stream",
    "active_from":"2026-06-08","allowable_depletion":0.5,"rate_mm_h":{"value":12,"low":10,"high":14,
    "source":{"kind":"measured","test":"can test, 16 cans","date":"2026-05-02"}}}"#;
const CAN_TEST: &str = r#"{"method":"cans","corners":[{"x_m":0,"y_m":0},{"x_m":8,"y_m":0},{"x_m":8,"y_m":6},{"x_m":0,"y_m":6}],
    "heads":[{"x_m":0,"y_m":0},{"x_m":8,"y_m":6}],"idle_heads":[1],"container":{"kind":"volume","throat_cm2":100,"holds_ml":500},"minutes":15,
    "wind_m_s":1,"pressure_kpa":250,"cans":[{"number":1,"place":{"x_m":1,"y_m":1},"fate":"read","reading":40},
    {"number":2,"place":{"x_m":3,"y_m":1},"fate":"read","reading":35},{"number":3,"place":{"x_m":5,"y_m":1},"fate":"skipped"},
    {"number":4,"place":{"x_m":7,"y_m":1},"fate":"read","reading":52},{"number":5,"place":{"x_m":1,"y_m":4},"fate":"tipped_over"},
    {"number":6,"place":{"x_m":3,"y_m":4},"fate":"read","reading":31},{"number":7,"place":{"x_m":5,"y_m":5},"fate":"read","reading":44}]}"#;
const QUICK: &str = r#"{"method":"quick","way":"nozzle","flow_l_min":6.5,"arc_degrees":180,"head_spacing_m":4,"row_spacing_m":4.5,
    "pressures":{"chart_kpa":210,"here_kpa":180}}"#;
const WANTED: &str = r#"{"shape":{"shape":"rectangle","length_m":8,"width_m":6},"heads":"corners","columns":4,"rows":4}"#;

const POLYGON: &str = r#"{"shape":{"shape":"polygon","sides_m":[6,5,6,5],"diagonals_m":[7.5]},"heads":"middle","columns":5,"rows":3}"#;

fn cases() -> u32 {
    std::env::var("PROPTEST_CASES")
        .ok()
        .and_then(|n| n.parse().ok())
        .unwrap_or(10_000)
}

/// What a cell may be replaced by.
fn oddity() -> impl Strategy<Value = String> {
    prop_oneof![
        Just(String::new()),
        Just("\u{0}".to_owned()),
        Just("\u{feff}".to_owned()),
        Just("\"".to_owned()),
        Just("\"\"".to_owned()),
        Just("\r".to_owned()),
        Just("\n".to_owned()),
        Just(",;\t,;\t".to_owned()),
        Just("NaN".to_owned()),
        Just("-inf".to_owned()),
        Just("1e999".to_owned()),
        Just("-0".to_owned()),
        Just("9999-12-31".to_owned()),
        Just("-009999-01-01".to_owned()),
        Just("0000-00-00".to_owned()),
        Just("2026-02-30".to_owned()),
        Just("9".repeat(300)),
        Just("é".repeat(201)),
        Just("{\"a\":".repeat(200)),
        Just("[".repeat(200)),
        Just("null".to_owned()),
        Just("-1".to_owned()),
        Just("1e-320".to_owned()),
        Just("18446744073709551616".to_owned()),
        "\\PC{0,12}",
        any::<String>(),
        any::<f64>().prop_map(|x| x.to_string()),
    ]
}

/// A text with a few of its pieces replaced, doubled, dropped or cut off. Pieces end at what parts cells, lines and JSON.
fn spoiled(text: &'static str) -> impl Strategy<Value = String> {
    // The beginning of a long file says as much as all of it.
    let text: String = text.lines().take(25).collect::<Vec<_>>().join("\n");
    let pieces: Vec<String> = text
        .split_inclusive([',', ';', '\n', ':', '"', '{', '}', '[', ']'])
        .map(str::to_owned)
        .collect();
    let most = pieces.len();
    let change = (0..most, 0..5u8, oddity());
    prop::collection::vec(change, 1..6).prop_map(move |changes| {
        let mut pieces = pieces.clone();
        for (at, what, with) in changes {
            let at = at % pieces.len();
            match what {
                0 => pieces[at] = with,
                1 => pieces[at].push_str(&with),
                2 => {
                    let same = pieces[at].clone();
                    pieces.insert(at, same);
                }
                3 if pieces.len() > 1 => {
                    pieces.remove(at);
                }
                _ => pieces.truncate(at + 1),
            }
        }
        pieces.concat()
    })
}

/// A file as read says where each error is, keeps no more than it may, and every row holds.
fn is_sound(file: &File) -> Result<(), TestCaseError> {
    prop_assert!(file.rows.len() <= MOST_ROWS);
    prop_assert!(file.errors.len() <= MOST_ERRORS + 2);
    for error in &file.errors {
        prop_assert!(!error.message.is_empty());
        prop_assert!(error.message.chars().count() < 600, "{}", error.message);
        prop_assert!(
            !error.message.chars().any(char::is_control),
            "{:?}",
            error.message
        );
    }
    for row in &file.rows {
        let day = &row.day;
        for figure in [day.tmin_c, day.tmax_c, day.rain_mm, day.wind_m_s]
            .into_iter()
            .flatten()
        {
            prop_assert!(figure.is_finite());
        }
        prop_assert!(day.rain_mm.is_none_or(|mm| mm >= 0.0));
    }
    let outside = file.outside(days::last_of_weather(date(2026, 6, 18)));
    prop_assert!(outside.len() <= file.rows.len());
    // What is kept can be written and read again. A year beyond four digits is outside of every record.
    if outside.is_empty() && file.repeated().is_empty() {
        let again = file::read(&file::write(&file.days()));
        prop_assert_eq!(again.rows.len(), file.rows.len());
    }
    Ok(())
}

fn mapping() -> Mapping {
    let column = |figure, column: &str, unit| MappedColumn {
        figure,
        column: column.to_owned(),
        unit,
    };
    Mapping {
        date_column: "Day".to_owned(),
        date_form: DateForm::MonthFirst,
        columns: vec![
            column(Figure::Tmax, "High (°F)", Unit::Fahrenheit),
            column(Figure::Tmin, "Low (°F)", Unit::Fahrenheit),
            column(Figure::Rain, "Rain (in)", Unit::Inch),
        ],
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: cases(), failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn weather_files(text in spoiled(WEATHER)) {
        is_sound(&file::read(&text))?;
    }

    #[test]
    fn foreign_files(text in spoiled(FOREIGN), guessed in any::<bool>()) {
        match foreign_guess::heading(&text) {
            Ok(Some(heading)) => {
                let guess = foreign_guess::guess(&heading);
let chosen = if guessed { guess } else { mapping() };
                is_sound(&foreign::read(&text, &chosen))?;
            }
            Ok(None) => {}
            Err(error) => prop_assert!(error.line >= 1),
        }
        is_sound(&foreign::read(&text, &mapping()))?;
    }

    #[test]
    fn station_files(text in spoiled(GHCN)) {
        is_sound(&ghcn::read(&text))?;
    }

    #[test]
    fn can_files(text in spoiled(CANS), throat in prop::option::of(0.1..1e5f64)) {
        match can_file::read(&text, throat) {
            Ok(cans) => prop_assert!(!cans.is_empty() && cans.iter().all(|c| c.depth_mm.is_finite() && c.depth_mm >= 0.0)),
            Err(error) => prop_assert!(!error.to_string().is_empty()),
        }
    }

    #[test]
    fn site_documents(text in spoiled(SITE)) {
        // What is read holds, and is read again as it is written.
        if let Ok(document) = document::read(&text) {
            prop_assert!(document.validate().is_ok());
            prop_assert_eq!(document::read(&document::write(&document)), Ok(document));
        }
    }

    #[test]
    fn zones(text in spoiled(ZONE)) {
        if let Ok(zone) = serde_json::from_str::<Zone>(&text)
            && zone.validate("").is_ok()
        {
            let again: Zone = serde_json::from_str(&serde_json::to_string(&zone).unwrap()).unwrap();
            prop_assert_eq!(again, zone);
        }
    }

    #[test]
    fn sprinkler_tests(text in prop_oneof![spoiled(CAN_TEST), spoiled(QUICK)]) {
        if let Ok(test) = serde_json::from_str::<SprinklerTest>(&text)
            && test.validate().is_ok()
        {
            let tested = Tested { kind: Kind::MultiStream, date: date(2026, 6, 18), week: None };
            // What it says can be written: no figure is endless.
            let result = serde_json::to_value(test.result(&tested)).unwrap();
            prop_assert!(result.is_object() || result.is_null());
        }
    }

    #[test]
    fn layouts(text in prop_oneof![spoiled(WANTED), spoiled(POLYGON)]) {
        if let Ok(wanted) = serde_json::from_str::<Wanted>(&text) {
            match wanted.layout() {
                Ok(layout) => prop_assert!(!layout.corners.is_empty()),
                Err(error) => prop_assert!(!error.message.is_empty()),
            }
        }
    }

    #[test]
    fn anything_at_all(text in any::<String>()) {
        is_sound(&file::read(&text))?;
        is_sound(&ghcn::read(&text))?;
        is_sound(&foreign::read(&text, &mapping()))?;
        let _ = foreign_guess::heading(&text);
        let _ = can_file::read(&text, Some(100.0));
        let _ = document::read(&text);
    }
}
