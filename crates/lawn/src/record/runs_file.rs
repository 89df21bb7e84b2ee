//! Runs files: CSV, one line a run; docs/formats/runs.md.

use jiff::civil::{Date, DateTime, Time};
use thiserror::Error;

use crate::days;
use crate::quantity::Area;
use crate::record::known::{Run, is_after_noon};
use crate::record::watered::Watered;
use crate::site::SiteDocument;
use crate::text::{self, csv_cell};

/// Most runs of a file.
const MOST_RUNS: usize = 50_000;
/// The columns as they are written.
const HEADING: &str =
    "date,zone,passes,pass_s,run_s,name,started,said,who,by,share,flow_l_min,reached_m2";

/// Why a file cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("line {line}{column}: {message}", column = if column.is_empty() { String::new() } else { format!(", column {column}") })]
pub struct Error {
    /// Line in the file, from 1.
    pub line: u64,
    /// Its column; empty: the line as a whole.
    pub column: &'static str,
    /// What is wrong.
    pub message: String,
}

/// A run as it is written, denied ones with no passes.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// Local day of its first start.
    pub date: Date,
    /// The zone's identifier.
    pub zone: String,
    /// Its name.
    pub zone_name: String,
    /// Local time of its first start.
    pub started: DateTime,
    /// Passes.
    pub passes: u32,
    /// The time of all, s.
    pub run_s: i64,
    /// What it watered, and by what.
    pub watered: Watered,
    /// `assumed`, `confirmed`, `changed`, `denied`, `hand`, `hose`.
    pub said: String,
    /// Who said so.
    pub who: Option<String>,
}

/// Writes a file.
#[must_use]
pub fn write(rows: impl IntoIterator<Item = Row>) -> String {
    let mut text = format!("{HEADING}\n");
    for row in rows {
        let pass_s = row.run_s / i64::from(row.passes.max(1));
        let (by, share, flow, reached) = match row.watered {
            Watered::Own { share } => ("own", share.to_string(), String::new(), String::new()),
            Watered::Hose {
                flow_l_min,
                reached_m2,
            } => (
                "hose",
                String::new(),
                flow_l_min.to_string(),
                reached_m2.m2().to_string(),
            ),
            Watered::Unmeasured => ("unmeasured", String::new(), String::new(), String::new()),
        };
        let cells = [
            row.date.to_string(),
            row.zone,
            row.passes.to_string(),
            pass_s.to_string(),
            row.run_s.to_string(),
            csv_cell(&row.zone_name),
            row.started.strftime("%H:%M:%S").to_string(),
            row.said,
            csv_cell(row.who.as_deref().unwrap_or_default()),
            by.to_owned(),
            share,
            flow,
            reached,
        ];
        text.push_str(&cells.join(","));
        text.push('\n');
    }
    text
}

/// Reads a file for a site. Lines with no passes did not run and are left out; what a file does not say of the water is the zone's own
/// sprinklers on all of it.
///
/// # Errors
/// [`Error`], the first that does not hold.
pub fn read(file: &str, document: &SiteDocument) -> Result<Vec<Run>, Error> {
    let fail = |line: u64, column: &'static str, message: &str| Error {
        line,
        column,
        message: message.to_owned(),
    };
    if let Some((line, control)) = text::control_in_file(file) {
        return Err(fail(line, "", &text::refusal(control)));
    }
    let mut reader = csv::ReaderBuilder::new()
        .trim(csv::Trim::All)
        .from_reader(file.trim_start_matches('\u{feff}').as_bytes());
    let headers = reader
        .headers()
        .map_err(|_| fail(1, "", "cannot be read as text in columns"))?
        .clone();
    let at = |name: &str| headers.iter().position(|h| h.eq_ignore_ascii_case(name));
    let wanted = |name: &'static str| {
        at(name).ok_or_else(|| {
            let message =
                format!("the heading must name date, zone, passes and pass_s; {name} is missing");
            fail(1, "", &message)
        })
    };
    let (date_at, zone_at) = (wanted("date")?, wanted("zone")?);
    let (passes_at, pass_at) = (wanted("passes")?, wanted("pass_s")?);
    let mut runs = Vec::new();
    for record in reader.records() {
        let record = record.map_err(|error| {
            let line = error.position().map_or(0, csv::Position::line);
            fail(line, "", "must have as many cells as the heading")
        })?;
        let line = record.position().map_or(0, csv::Position::line);
        if runs.len() >= MOST_RUNS {
            return Err(fail(line, "", "more than 50000 runs"));
        }
        let cell = |at: usize| record.get(at).unwrap_or_default();
        let named = |name: &str| at(name).map(cell).filter(|c| !c.is_empty());
        let zone = cell(zone_at);
        let Some(found) = document.zones.iter().find(|z| z.id == zone) else {
            let message = format!("zone \"{}\" is not in the site", text::shortened(zone));
            return Err(fail(line, "zone", &message));
        };
        let date = Date::strptime("%Y-%m-%d", cell(date_at)).map_err(|_| {
            let message = format!(
                "\"{}\" is not a date, YYYY-MM-DD",
                text::shortened(cell(date_at))
            );
            fail(line, "date", &message)
        })?;
        days::check("date", date, days::LAST).map_err(|e| fail(line, "date", &e.message))?;
        let whole = |text: &str, column: &'static str, least: i64, most: i64| {
            text.parse::<i64>()
                .ok()
                .filter(|n| (least..=most).contains(n))
                .ok_or_else(|| {
                    let message = format!("must be a whole number from {least} to {most}");
                    fail(line, column, &message)
                })
        };
        let passes = whole(cell(passes_at), "passes", 0, 1000)?;
        if passes == 0 {
            continue;
        }
        let pass_s = whole(cell(pass_at), "pass_s", 1, 86_400)?;
        let run_s = match named("run_s") {
            Some(text) => whole(text, "run_s", passes, 86_400)?,
            None => passes * pass_s,
        };
        let number = |name: &'static str| {
            named(name)
                .and_then(|text| text.parse::<f64>().ok())
                .ok_or_else(|| fail(line, name, "must be a number"))
        };
        let watered = match named("by") {
            None => Watered::all(),
            Some("own") => Watered::Own {
                share: match named("share") {
                    Some(_) => number("share")?,
                    None => 1.0,
                },
            },
            Some("hose") => Watered::Hose {
                flow_l_min: number("flow_l_min")?,
                reached_m2: Area::from_m2(number("reached_m2")?),
            },
            Some("unmeasured") => Watered::Unmeasured,
            Some(_) => return Err(fail(line, "by", "must be own, hose or unmeasured")),
        };
        watered
            .validate("", found.area_m2)
            .map_err(|e| fail(line, "by", &format!("{}: {}", e.field, e.message)))?;
        let started = match named("started") {
            None => None,
            Some(text) => {
                let time = Time::strptime("%H:%M:%S", text)
                    .or_else(|_| Time::strptime("%H:%M", text))
                    .map_err(|_| fail(line, "started", "must be a time of day, HH:MM"))?;
                Some(time)
            }
        };
        runs.push(Run {
            zone: zone.to_owned(),
            date,
            after_noon: started.is_some_and(is_after_noon),
            started,
            passes: u32::try_from(passes).unwrap_or(1),
            run_s,
            watered,
            assumed: named("said") == Some("assumed"),
        });
    }
    Ok(runs)
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    fn document() -> SiteDocument {
        crate::site::document::read(
            r#"{"format": "fresh-meadow-site", "version": 2, "site": {"name": "S", "time_zone": "UTC", "latitude": 36, "longitude": -80,
            "elevation_m": 300}, "zones": [{"id": "a", "name": "=Front", "grass": "tall_fescue", "soil": "loam", "slope_pct": 1,
            "area_m2": 400, "sprinkler": "fixed_spray"}]}"#,
        )
        .unwrap()
    }

    #[test]
    fn what_is_written_is_read_as_it_was() {
        let day = date(2026, 6, 16);
        let row = |passes, run_s, watered, said: &str| Row {
            date: day,
            zone: "a".to_owned(),
            zone_name: "=Front, by the road".to_owned(),
            started: day.at(4, 10, 0, 0),
            passes,
            run_s,
            watered,
            said: said.to_owned(),
            who: Some("Hazel Fern".to_owned()),
        };
        let hose = Watered::Hose {
            flow_l_min: 17.5,
            reached_m2: Area::from_m2(60.0),
        };
        let text = write([
            row(4, 2430, Watered::all(), "changed"),
            row(0, 0, Watered::all(), "denied"),
            row(1, 1500, hose, "hose"),
            row(2, 600, Watered::Own { share: 0.25 }, "assumed"),
            row(1, 60, Watered::Unmeasured, "hose"),
        ]);
        assert!(text.contains(
            "2026-06-16,a,4,607,2430,\"'=Front, by the road\",04:10:00,changed,Hazel Fern,own,1,,"
        ));
        let runs = read(&text, &document()).unwrap();
        let found: Vec<_> = runs
            .iter()
            .map(|r| (r.passes, r.run_s, r.watered, r.assumed))
            .collect();
        assert_eq!(
            found,
            [
                (4, 2430, Watered::all(), false),
                (1, 1500, hose, false),
                (2, 600, Watered::Own { share: 0.25 }, true),
                (1, 60, Watered::Unmeasured, false),
            ]
        );
        // The four columns of old still do.
        let short = read("date,zone,passes,pass_s\n2026-06-16,a,2,300\n", &document()).unwrap();
        assert_eq!((short[0].run_s, short[0].watered), (600, Watered::all()));
    }

    #[test]
    fn what_does_not_hold_is_said_with_line_and_column() {
        for (text, line, column) in [
            ("date,zone,passes\n", 1, ""),
            ("date,zone,passes,pass_s\n2026-06-16,b,1,60\n", 2, "zone"),
            ("date,zone,passes,pass_s\n2026-06-31,a,1,60\n", 2, "date"),
            (
                "date,zone,passes,pass_s\n2026-06-16,a,1.5,60\n",
                2,
                "passes",
            ),
            ("date,zone,passes,pass_s\n2026-06-16,a,1,0\n", 2, "pass_s"),
            ("date,zone,passes,pass_s\n2026-06-16,a,1\n", 2, ""),
            (
                "date,zone,passes,pass_s,by\n2026-06-16,a,1,60,rain\n",
                2,
                "by",
            ),
            (
                "date,zone,passes,pass_s,by\n2026-06-16,a,1,60,hose\n",
                2,
                "flow_l_min",
            ),
        ] {
            let error = read(text, &document()).unwrap_err();
            assert_eq!(
                (error.line, error.column),
                (line, column),
                "{text}: {error}"
            );
        }
    }
}
