//! NOAA's Global Historical Climatology Network daily, the CSV by station.
//!
//! Format: NOAA NCEI, "readme-by_station.txt" of GHCN-Daily (from memory): no heading; ID, YYYYMMDD, element, value, measurement flag,
//! quality flag, source flag, time of observation. PRCP in tenths of a mm, TMAX and TMIN in tenths of a °C, AWND in tenths of m/s.
//! A quality flag that is not blank means that the value failed a check: it is left out and counted. Other elements are not read.

use std::collections::BTreeMap;

use jiff::civil::Date;

use crate::ranges::{self, Range};
use crate::text::in_lines;
use crate::weather::WeatherDay;
use crate::weather::cell::told;
use crate::weather::file::{File, MOST_COLUMNS, MOST_ROWS, Row};

/// An element that is read: its range, and where it goes.
type Element = (&'static str, Range, fn(&mut WeatherDay, f64));

/// All of them are in tenths of our unit.
const ELEMENTS: [Element; 4] = [
    ("PRCP", ranges::RAIN, |d, x| d.rain_mm = Some(x)),
    ("TMAX", ranges::TMAX, |d, x| d.tmax_c = Some(x)),
    ("TMIN", ranges::TMIN, |d, x| d.tmin_c = Some(x)),
    ("AWND", ranges::WIND, |d, x| d.wind_m_s = Some(x)),
];

/// Whether a text looks like such a file.
#[must_use]
pub fn is_ghcn(text: &str) -> bool {
    let Some(first) = text.trim_start_matches('\u{feff}').lines().next() else {
        return false;
    };
    let cells: Vec<&str> = first.split(',').collect();
    cells.len() >= 7
        && cells[0].len() == 11
        && cells[0].bytes().all(|b| b.is_ascii_alphanumeric())
        && cells[1].len() == 8
        && cells[1].bytes().all(|b| b.is_ascii_digit())
        && cells[2].len() == 4
}

/// Reads such a file: a row a day, by date.
#[must_use]
pub fn read(text: &str) -> File {
    let mut file = File::default();
    let mut days: BTreeMap<Date, Row> = BTreeMap::new();
    let mut station: Option<String> = None;
    let text = &*in_lines(text);
    if !file.is_text(text) {
        return file;
    }
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    for record in reader.records() {
        let Ok(record) = record else {
            file.error(0, "", "a line cannot be read as text in columns");
            if file.is_hopeless() {
                break;
            }
            continue;
        };
        let line = record.position().map_or(0, csv::Position::line);
        if file.is_hopeless() {
            break;
        }
        if !file.fits(line, &record) {
            continue;
        }
        let cell = |at: usize| record.get(at).unwrap_or_default();
        match &station {
            None => station = Some(cell(0).to_owned()),
            Some(known) if known != cell(0) => {
                file.error(
                    line,
                    "station",
                    &format!(
                        "{} is another station than {known}; one file a station",
                        cell(0)
                    ),
                );
                continue;
            }
            Some(_) => {}
        }
        let Some((name, range, set)) = ELEMENTS.iter().find(|(name, ..)| *name == cell(2)) else {
            if file.ignored.len() < MOST_COLUMNS && !file.ignored.iter().any(|i| i == cell(2)) {
                file.ignored.push(cell(2).to_owned());
            }
            continue;
        };
        let Ok(date) = Date::strptime("%Y%m%d", cell(1)) else {
            file.error(
                line,
                "date",
                &format!("\"{}\" is not a date, YYYYMMDD", cell(1)),
            );
            continue;
        };
        if !cell(5).is_empty() {
            file.left_out += 1;
            continue;
        }
        let Ok(tenths) = cell(3).parse::<f64>() else {
            file.error(line, name, &format!("\"{}\" is not a number", cell(3)));
            continue;
        };
        let row = days.entry(date).or_insert_with(|| Row {
            issued: None,
            line,
            day: WeatherDay {
                date,
                ..WeatherDay::default()
            },
        });
        match range.check(told(tenths / 10.0)) {
            Ok(value) => set(&mut row.day, value),
            Err(error) => file.error(line, name, &error.to_string()),
        }
    }
    if days.len() > MOST_ROWS {
        file.error(
            1,
            "",
            &format!("more than {MOST_ROWS} days; split the file"),
        );
    }
    for (_, row) in days {
        match (row.day.tmin_c, row.day.tmax_c) {
            (Some(low), Some(high)) if low > high => {
                let message = format!(
                    "the day's lowest temperature, {low} °C, is above its highest, {high} °C"
                );
                file.error(row.line, "TMIN", &message);
            }
            _ => file.rows.push(row),
        }
    }
    file
}
