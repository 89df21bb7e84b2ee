//! Files of other shapes: a person's mapping, the guess before it, and NOAA's daily series by station.

use jiff::civil::date;
use lawn::weather::foreign::{DateForm, Figure, MappedColumn, Mapping, Unit, read};
use lawn::weather::foreign_guess::{guess, heading};
use lawn::weather::ghcn;

const FOREIGN: &str = "Day;Temp max (F);Temp min (F);Precip in;Wind mph;Remark\n\
    6/1/2026;86;59;0,5;10;fine\n\
    6/2/2026;90;NA;0;-9999;\n";

fn column(figure: Figure, column: &str, unit: Unit) -> MappedColumn {
    MappedColumn {
        figure,
        column: column.to_owned(),
        unit,
    }
}

fn mapping() -> Mapping {
    Mapping {
        date_column: "Day".to_owned(),
        date_form: DateForm::MonthFirst,
        columns: vec![
            column(Figure::Tmax, "Temp max (F)", Unit::Fahrenheit),
            column(Figure::Tmin, "Temp min (F)", Unit::Fahrenheit),
            column(Figure::Rain, "Precip in", Unit::Inch),
            column(Figure::Wind, "Wind mph", Unit::Mph),
        ],
    }
}

#[test]
fn a_foreign_file_is_read_in_its_own_units() {
    let file = read(FOREIGN, &mapping());
    assert_eq!(file.errors, []);
    assert_eq!(file.ignored, ["Remark"]);
    let first = &file.rows[0];
    assert_eq!((first.line, first.day.date), (2, date(2026, 6, 1)));
    // Unit algebra: 86 °F = 30 °C, 59 °F = 15 °C, half an inch = 12.7 mm, 10 mph = 4.4704 m/s.
    for (got, right) in [
        (first.day.tmax_c, 30.0),
        (first.day.tmin_c, 15.0),
        (first.day.rain_mm, 12.7),
        (first.day.wind_m_s, 4.4704),
    ] {
        assert!(
            (got.unwrap() - right).abs() < 1e-9,
            "{got:?} is not {right}"
        );
    }
    let second = &file.rows[1].day;
    assert_eq!(
        (second.tmin_c, second.wind_m_s),
        (None, None),
        "not known is not 0"
    );
}

#[test]
fn errors_name_the_files_own_line_and_column() {
    let text = FOREIGN
        .replace("90;NA", "90;warm")
        .replace("6/1/2026", "13/1/2026");
    for text in [text.replace('\n', "\r\n"), text] {
        let file = read(&text, &mapping());
        let said: Vec<String> = file.errors.iter().map(ToString::to_string).collect();
        assert_eq!(
            said,
            [
                "line 2, column Day: \"13/1/2026\" is not a date written like 6/18/2026",
                "line 3, column Temp min (F): \"warm\" is not a number"
            ]
        );
    }
    let mut wrong = mapping();
    wrong.columns[0].column = "Gone".to_owned();
    wrong.columns[1].unit = Unit::Mm;
    let said: Vec<String> = read(FOREIGN, &wrong)
        .errors
        .iter()
        .map(ToString::to_string)
        .collect();
    assert_eq!(
        said,
        [
            "line 1, column Gone: no such column in the file",
            "line 1, column Temp min (F): tmin_c has no such unit"
        ]
    );
}

#[test]
fn the_guess_finds_what_the_headings_say() {
    let found = heading(FOREIGN).unwrap().unwrap();
    assert_eq!(found.columns.len(), 6);
    assert_eq!(guess(&found), mapping());
}

#[test]
fn every_unit_converts_to_ours() {
    for (figure, unit, text, right) in [
        (Figure::Tmax, Unit::TenthsCelsius, "305", 30.5),
        (Figure::Rain, Unit::TenthsMm, "127", 12.7),
        (Figure::Wind, Unit::KmH, "36", 10.0),
        (Figure::Wind, Unit::Knots, "10", 5.144_444_444),
        (Figure::VapourPressure, Unit::Hpa, "15", 1.5),
        (Figure::Solar, Unit::WM2, "250", 21.6),
    ] {
        let mapping = Mapping {
            date_column: "d".to_owned(),
            date_form: DateForm::Compact,
            columns: vec![column(figure, "x", unit)],
        };
        let file = read(&format!("d,x\n20260618,{text}\n"), &mapping);
        assert_eq!(file.errors, [], "{unit:?}");
        let day = serde_json::to_value(&file.rows[0].day).unwrap();
        let got = day[figure.name()].as_f64().unwrap();
        assert!((got - right).abs() < 1e-6, "{unit:?}: {got}");
    }
}

#[test]
fn noaa_daily_by_station_is_in_tenths_and_flagged_values_are_left_out() {
    let text = include_str!("../data/ghcn-made-up.csv");
    assert!(ghcn::is_ghcn(text) && !ghcn::is_ghcn(FOREIGN));
    let file = ghcn::read(text);
    assert_eq!(file.errors, []);
    assert_eq!((file.rows.len(), file.left_out), (3, 1));
    assert_eq!(file.ignored, ["SNOW"]);
    let day = |i: usize| &file.rows[i].day;
    assert_eq!(
        (day(0).rain_mm, day(0).tmax_c, day(0).tmin_c),
        (Some(12.7), Some(28.9), Some(15.6))
    );
    assert_eq!(
        (day(1).rain_mm, day(1).tmax_c, day(1).wind_m_s),
        (Some(0.0), None, Some(2.3))
    );
    assert_eq!(day(2).rain_mm, None, "not reported is not 0");

    let two = format!("{text}ZZ000000002,20260604,TMAX,300,,,W,\n");
    assert!(
        ghcn::read(&two).errors[0]
            .to_string()
            .contains("another station")
    );
}

#[test]
fn a_unit_is_a_word_of_its_own_and_fahrenheit_brings_inches_and_miles() {
    let guessed = |text: &str| {
        let found = heading(text).unwrap().unwrap();
        let mapping = guess(&found);
        let units: Vec<_> = mapping.columns.iter().map(|c| (c.figure, c.unit)).collect();
        (mapping.date_form, units)
    };
    // "Rain" ends in "in", and names no unit.
    let (_, units) = guessed("Date,Rain,Wind,Temp max,Temp min\n2026-06-01,4,2,30,15\n");
    assert_eq!(
        units,
        [
            (Figure::Rain, Unit::Mm),
            (Figure::Wind, Unit::MS),
            (Figure::Tmax, Unit::Celsius),
            (Figure::Tmin, Unit::Celsius),
        ]
    );
    let (_, units) = guessed("Date,Rain,Wind,High °F,Low °F\n6/1/2026,0.4,2,86,59\n");
    assert_eq!(
        units,
        [
            (Figure::Rain, Unit::Inch),
            (Figure::Wind, Unit::Mph),
            (Figure::Tmax, Unit::Fahrenheit),
            (Figure::Tmin, Unit::Fahrenheit),
        ]
    );
    let (_, units) = guessed("Date,rain_in,wind_km_h,tmax_c\n2026-06-01,0.4,2,30\n");
    assert_eq!(
        units,
        [
            (Figure::Rain, Unit::Inch),
            (Figure::Wind, Unit::KmH),
            (Figure::Tmax, Unit::Celsius),
        ]
    );
    // The first date may be read either way; a later one tells.
    let (form, _) = guessed("Date,Rain\n6/7/2026,0\n18/7/2026,0\n");
    assert_eq!(form, DateForm::DayFirst);
    let (form, _) = guessed("Date,Rain\n6/7/2026,0\n6/18/2026,0\n");
    assert_eq!(form, DateForm::MonthFirst);
}

#[test]
fn a_trace_is_no_rain_and_errors_are_in_the_files_own_unit_and_digits() {
    let file = read(
        "Day;Precip in\n6/1/2026;T\n",
        &Mapping {
            columns: vec![column(Figure::Rain, "Precip in", Unit::Inch)],
            ..mapping()
        },
    );
    assert_eq!(file.errors, []);
    assert_eq!(file.rows[0].day.rain_mm, Some(0.0));
    let bad = "Day;Temp max (F);Temp min (F);Precip in;Wind mph\n\
        6/1/2026;186.4;59;0;3\n\
        6/2/2026;59;86.5;0;3\n\
        18/6/2026;90;60;0;3\n\
        6/4/2026;90;60;-0.5;x\n";
    let said: Vec<String> = read(bad, &mapping())
        .errors
        .iter()
        .map(ToString::to_string)
        .collect();
    assert_eq!(
        said,
        [
            "line 2, column Temp max (F): 186.4 °F is above the highest allowed, 140 °F",
            "line 3, column Temp min (F): the day's lowest temperature, 86.5, is above its highest, 59",
            "line 4, column Day: \"18/6/2026\" is not a date written like 6/18/2026",
            "line 5, column Precip in: -0.5 in is below the lowest allowed, 0 in",
            "line 5, column Wind mph: \"x\" is not a number",
        ]
    );
}

#[test]
fn a_files_first_lines_stand_beside_the_choices() {
    let found = heading(FOREIGN).unwrap().unwrap();
    assert_eq!(
        found.lines,
        ["6/1/2026;86;59;0,5;10;fine", "6/2/2026;90;NA;0;-9999;"]
    );
}
