//! Weather files: CSV with a header; columns by name, units by the header's suffix; docs/formats/weather.md.
//!
//! Reading never stops at the first bad row: it returns the rows that hold and every error with its line and column, so that a
//! preview can show all. BOM and CRLF are read, unknown columns ignored (and named), an empty cell is "not known".

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::days;
use crate::ranges::{self, Range};
use crate::text;
use crate::weather::WeatherDay;
use crate::weather::cell::{above_highest, out_of_range, told, unit_of};
use crate::weather::titles;

/// Most rows that a file may have.
pub const MOST_ROWS: usize = 50_000;

/// Most lines that are said not to hold; what follows is not read.
pub const MOST_ERRORS: usize = 1000;
/// Most columns of a file.
pub const MOST_COLUMNS: usize = 200;
/// Longest cell or heading, characters.
pub const LONGEST_CELL: usize = 200;

/// A row that holds.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// Line in the file, from 1.
    pub line: u64,
    /// The day on which a forecast was issued; only of [`read_issued`].
    pub issued: Option<Date>,
    /// What it says.
    pub day: WeatherDay,
}

/// A cell or line that does not hold.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CellError {
    /// Line in the file, from 1.
    pub line: u64,
    /// Name of the column; empty where the whole line is meant.
    pub column: String,
    /// What is wrong.
    pub message: String,
}

impl std::fmt::Display for CellError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "line {}", self.line)?;
        if !self.column.is_empty() {
            write!(f, ", column {}", self.column)?;
        }
        write!(f, ": {}", self.message)
    }
}

/// A file as read.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct File {
    /// Rows that hold, in file order.
    pub rows: Vec<Row>,
    /// Everything that does not.
    pub errors: Vec<CellError>,
    /// Columns that were not understood and not read.
    pub ignored: Vec<String>,
    /// Figures left out because the file says that they failed a check.
    pub left_out: usize,
}

/// A header and the function from its unit to that of the range.
type Spelling = (&'static str, fn(f64) -> f64);

/// One figure of a day and how it is read from a column.
struct Column {
    range: Range,
    spellings: &'static [Spelling],
    set: fn(&mut WeatherDay, f64),
}

fn same(x: f64) -> f64 {
    x
}

const COLUMNS: &[Column] = &[
    Column {
        range: ranges::TMIN,
        spellings: &[
            ("tmin_c", same),
            ("tmin_f", science::units::celsius_from_fahrenheit),
        ],
        set: |d, x| d.tmin_c = Some(x),
    },
    Column {
        range: ranges::TMAX,
        spellings: &[
            ("tmax_c", same),
            ("tmax_f", science::units::celsius_from_fahrenheit),
        ],
        set: |d, x| d.tmax_c = Some(x),
    },
    Column {
        range: ranges::RH_MIN,
        spellings: &[("rh_min_pct", same)],
        set: |d, x| d.rh_min_pct = Some(x),
    },
    Column {
        range: ranges::RH_MAX,
        spellings: &[("rh_max_pct", same)],
        set: |d, x| d.rh_max_pct = Some(x),
    },
    Column {
        range: ranges::DEWPOINT,
        spellings: &[
            ("dewpoint_c", same),
            ("dewpoint_f", science::units::celsius_from_fahrenheit),
        ],
        set: |d, x| d.dewpoint_c = Some(x),
    },
    Column {
        range: ranges::VAPOUR_PRESSURE,
        spellings: &[
            ("vapour_pressure_kpa", same),
            ("vapour_pressure_hpa", |x| x / 10.0),
        ],
        set: |d, x| d.vapour_pressure_kpa = Some(x),
    },
    Column {
        range: ranges::SOLAR,
        // A watt for a day is 86 400 J.
        spellings: &[("solar_mj_m2", same), ("solar_w_m2", |x| x * 0.0864)],
        set: |d, x| d.solar_mj_m2 = Some(x),
    },
    Column {
        range: ranges::SUNSHINE,
        spellings: &[("sunshine_h", same)],
        set: |d, x| d.sunshine_h = Some(x),
    },
    Column {
        range: ranges::WIND,
        spellings: &[
            ("wind_m_s", same),
            ("wind_km_h", |x| x / 3.6),
            ("wind_mph", |x| x * science::units::MS_PER_MPH),
        ],
        set: |d, x| d.wind_m_s = Some(x),
    },
    Column {
        range: ranges::RAIN,
        spellings: &[
            ("rain_mm", same),
            ("rain_in", |x| x * science::units::MM_PER_INCH),
        ],
        set: |d, x| d.rain_mm = Some(x),
    },
    Column {
        range: ranges::RAIN_PROBABILITY,
        spellings: &[("rain_probability_pct", same)],
        set: |d, x| d.rain_probability_pct = Some(x),
    },
];

/// Which columns name days.
struct DateColumns {
    date: usize,
    /// Of forecasts as issued.
    issued: Option<usize>,
}

/// A column of the file that is read: where it stands, its header as written, what it means.
struct Found {
    index: usize,
    header: String,
    column: &'static Column,
    convert: fn(f64) -> f64,
}

/// Reads a weather file. A date given twice is kept twice: callers that need each day once ask [`File::repeated`].
#[must_use]
pub fn read(text: &str) -> File {
    read_rows(text, false)
}

/// Reads a file of forecasts as issued: a weather file with a column `issued`, YYYY-MM-DD, the day on which the row was issued.
#[must_use]
pub fn read_issued(text: &str) -> File {
    read_rows(text, true)
}

fn read_rows(text: &str, issued: bool) -> File {
    let text = &*titles::read_over(text);
    let mut file = File::default();
    if !file.is_text(text) {
        return file;
    }
    let mut reader = csv::ReaderBuilder::new()
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let headers = match reader.headers() {
        Ok(headers) => headers.clone(),
        Err(error) => {
            file.error(1, "", &format!("the header cannot be read: {error}"));
            return file;
        }
    };
    if !file.fits(1, &headers) {
        return file;
    }
    let Some((dates, found)) = columns(&headers, issued, &mut file) else {
        return file;
    };
    for record in reader.records() {
        if file.is_hopeless() {
            break;
        }
        let record = match record {
            Ok(record) => record,
            Err(error) => {
                let line = error.position().map_or(0, csv::Position::line);
                file.error(line, "", "the line cannot be read as text in columns");
                continue;
            }
        };
        let line = record.position().map_or(0, csv::Position::line);
        if record.iter().all(str::is_empty) {
            continue;
        }
        if !file.fits(line, &record) {
            continue;
        }
        if file.rows.len() >= MOST_ROWS {
            file.error(
                line,
                "",
                &format!("more than {MOST_ROWS} rows; split the file"),
            );
            break;
        }
        if let Some((issued, day)) = day(&record, line, &dates, &found, headers.len(), &mut file) {
            file.rows.push(Row { line, issued, day });
        }
    }
    file
}

/// Finds the columns by their headers; `None` where no row can be read.
fn columns(
    headers: &csv::StringRecord,
    wants_issued: bool,
    file: &mut File,
) -> Option<(DateColumns, Vec<Found>)> {
    let mut date = None;
    let mut issued = None;
    let mut found: Vec<Found> = Vec::new();
    for (index, raw) in headers.iter().enumerate() {
        let header = raw.to_ascii_lowercase();
        let names_days = match header.as_str() {
            "date" => Some(&mut date),
            "issued" if wants_issued => Some(&mut issued),
            _ => None,
        };
        if let Some(column) = names_days {
            if column.replace(index).is_some() {
                file.error(1, raw, "stands twice in the header");
            }
            continue;
        }
        let known = COLUMNS.iter().find_map(|column| {
            let (_, convert) = column.spellings.iter().find(|(name, _)| *name == header)?;
            Some((column, *convert))
        });
        match known {
            None => file.ignored.push(raw.to_owned()),
            Some((column, convert)) => {
                if let Some(other) = found
                    .iter()
                    .find(|f| f.column.range.name == column.range.name)
                {
                    let message = format!("says the same as column {}; keep one", other.header);
                    file.error(1, raw, &message);
                }
                found.push(Found {
                    index,
                    header,
                    column,
                    convert,
                });
            }
        }
    }
    let Some(date) = date else {
        file.error(1, "date", "no such column in the header");
        return None;
    };
    if wants_issued && issued.is_none() {
        file.error(1, "issued", "no such column in the header");
        return None;
    }
    if found.is_empty() {
        file.error(
            1,
            "",
            "no column but the date is known, such as tmin_c, tmax_c, rain_mm",
        );
        return None;
    }
    Some((DateColumns { date, issued }, found))
}

/// Reads one record; `None` where anything in it does not hold.
fn day(
    record: &csv::StringRecord,
    line: u64,
    dates: &DateColumns,
    found: &[Found],
    width: usize,
    file: &mut File,
) -> Option<(Option<Date>, WeatherDay)> {
    let errors_before = file.errors.len();
    if record.len() != width {
        let message = format!("has {} cells, the header has {width}", record.len());
        file.error(line, "", &message);
        return None;
    }
    let mut date_of = |index: usize, column: &str| {
        let text = record.get(index).unwrap_or_default();
        let date = Date::strptime("%Y-%m-%d", text).ok();
        if date.is_none() {
            let message = format!("\"{text}\" is not a date, YYYY-MM-DD");
            file.error(line, column, &message);
        }
        date
    };
    let date = date_of(dates.date, "date")?;
    let issued = match dates.issued {
        Some(index) => Some(date_of(index, "issued")?),
        None => None,
    };
    let mut day = WeatherDay {
        date,
        ..WeatherDay::default()
    };
    for f in found {
        let cell = record.get(f.index).unwrap_or_default();
        if cell.is_empty() {
            continue;
        }
        let Some(typed) = cell.parse::<f64>().ok().filter(|x| x.is_finite()) else {
            file.error(line, &f.header, &format!("\"{cell}\" is not a number"));
            continue;
        };
        let value = told((f.convert)(typed));
        match out_of_range(f.column.range, cell, unit_of(&f.header), f.convert) {
            None => (f.column.set)(&mut day, value),
            Some(message) => file.error(line, &f.header, &message),
        }
    }
    let header_of = |range: Range| {
        found
            .iter()
            .find(|f| f.column.range.name == range.name)
            .map_or(range.name, |f| f.header.as_str())
            .to_owned()
    };
    for (low, high, range, highest, what) in [
        (
            day.tmin_c,
            day.tmax_c,
            ranges::TMIN,
            ranges::TMAX,
            "temperature",
        ),
        (
            day.rh_min_pct,
            day.rh_max_pct,
            ranges::RH_MIN,
            ranges::RH_MAX,
            "humidity",
        ),
    ] {
        if let (Some(low), Some(high)) = (low, high)
            && low > high
        {
            let cell_of = |range: Range| {
                let f = found.iter().find(|f| f.column.range.name == range.name)?;
                record.get(f.index)
            };
            let cells = cell_of(range).zip(cell_of(highest));
            let (low, high) = cells.unwrap_or_default();
            let message = above_highest(what, low, high);
            file.error(line, &header_of(range), &message);
        }
    }
    (file.errors.len() == errors_before).then_some((issued, day))
}

impl File {
    pub(crate) fn error(&mut self, line: u64, column: &str, message: &str) {
        self.errors.push(CellError {
            line,
            column: text::cleaned(column),
            message: text::cleaned(message),
        });
    }

    /// Whether a text holds no control character; one that does is refused whole.
    pub(crate) fn is_text(&mut self, text: &str) -> bool {
        let control = text::control_in_file(text);
        if let Some((line, control)) = control {
            self.error(line, "", &text::refusal(control));
        }
        control.is_none()
    }

    /// Whether a line has no more columns, and none longer, than weather files have.
    pub(crate) fn fits(&mut self, line: u64, record: &csv::StringRecord) -> bool {
        let problem = if record.len() > MOST_COLUMNS {
            Some(format!(
                "has {} columns; at most {MOST_COLUMNS} are read",
                record.len()
            ))
        } else {
            record
                .iter()
                .position(|cell| cell.len() > LONGEST_CELL && cell.chars().count() > LONGEST_CELL)
                .map(|at| format!("cell {} is longer than {LONGEST_CELL} characters", at + 1))
        };
        if let Some(problem) = &problem {
            self.error(line, "", problem);
        }
        problem.is_none()
    }

    /// Whether so many lines do not hold that the rest is not worth reading.
    pub(crate) fn is_hopeless(&self) -> bool {
        self.errors.len() >= MOST_ERRORS
    }

    /// An error for each row dated before a first day or after a last one.
    #[must_use]
    pub fn outside(&self, last: Date) -> Vec<CellError> {
        self.rows
            .iter()
            .filter_map(|row| {
                let error = days::check("date", row.day.date, last).err()?;
                Some(CellError {
                    line: row.line,
                    column: error.field,
                    message: error.message,
                })
            })
            .take(MOST_ERRORS)
            .collect()
    }

    /// An error for each row whose date, of the same issue, an earlier row has already.
    #[must_use]
    pub fn repeated(&self) -> Vec<CellError> {
        let mut first: BTreeMap<(Option<Date>, Date), u64> = BTreeMap::new();
        let mut errors = Vec::new();
        for row in &self.rows {
            let (issued, date) = (row.issued, row.day.date);
            match first.get(&(issued, date)) {
                Some(line) => errors.push(CellError {
                    line: row.line,
                    column: "date".to_owned(),
                    message: match issued {
                        Some(issued) => {
                            format!("{date}, issued {issued}, stands already on line {line}")
                        }
                        None => format!("{date} stands already on line {line}"),
                    },
                }),
                None => {
                    first.insert((issued, date), row.line);
                }
            }
        }
        errors
    }

    /// The days, in file order.
    #[must_use]
    pub fn days(&self) -> Vec<WeatherDay> {
        self.rows.iter().map(|row| row.day.clone()).collect()
    }
}

/// Writes days as CSV in SI columns, unknown cells empty.
#[must_use]
pub fn write(days: &[WeatherDay]) -> String {
    let mut text = String::from(
        "date,tmin_c,tmax_c,rh_min_pct,rh_max_pct,dewpoint_c,vapour_pressure_kpa,solar_mj_m2,sunshine_h,wind_m_s,rain_mm,rain_probability_pct\n",
    );
    for d in days {
        text.push_str(&d.date.to_string());
        for figure in [
            d.tmin_c,
            d.tmax_c,
            d.rh_min_pct,
            d.rh_max_pct,
            d.dewpoint_c,
            d.vapour_pressure_kpa,
            d.solar_mj_m2,
            d.sunshine_h,
            d.wind_m_s,
            d.rain_mm,
            d.rain_probability_pct,
        ] {
            text.push(',');
            if let Some(x) = figure {
                text.push_str(&x.to_string());
            }
        }
        text.push('\n');
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn units_follow_the_header() {
        let file = read(
            "\u{feff}date,tmin_f,tmax_f,rain_in,wind_mph,station\r\n2026-06-01,59,86,0.5,10,X\r\n",
        );
        assert_eq!(file.errors, []);
        assert_eq!(file.ignored, ["station"]);
        let day = &file.rows[0].day;
        assert!((day.tmin_c.unwrap() - 15.0).abs() < 1e-9);
        assert!((day.tmax_c.unwrap() - 30.0).abs() < 1e-9);
        assert!((day.rain_mm.unwrap() - 12.7).abs() < 1e-9);
        assert!((day.wind_m_s.unwrap() - 4.4704).abs() < 1e-9);
    }

    #[test]
    fn every_bad_cell_is_named_and_the_rest_is_read() {
        let file = read(
            "date,tmin_c,tmax_c,rain_mm\n2026-06-01,30,20,0\n2026-06-02,10,warm,0\n2026-06-31,1,2,0\n2026-06-03,10,20\n2026-06-04,10,20,-1\n2026-06-05,10,20,\n",
        );
        let said: Vec<String> = file.errors.iter().map(ToString::to_string).collect();
        assert_eq!(
            said,
            [
                "line 2, column tmin_c: the day's lowest temperature, 30, is above its highest, 20",
                "line 3, column tmax_c: \"warm\" is not a number",
                "line 4, column date: \"2026-06-31\" is not a date, YYYY-MM-DD",
                "line 5: has 3 cells, the header has 4",
                "line 6, column rain_mm: -1 mm is below the lowest allowed, 0 mm",
            ]
        );
        assert_eq!(file.rows.len(), 1);
        assert_eq!(file.rows[0].day.rain_mm, None);
    }

    #[test]
    fn a_header_without_date_or_with_a_figure_twice_is_refused() {
        assert_eq!(read("day,tmin_c\n").errors[0].column, "date");
        assert_eq!(
            read("date,tmin_c,tmin_f\n").errors[0].to_string(),
            "line 1, column tmin_f: says the same as column tmin_c; keep one"
        );
        assert_eq!(read("").errors.len(), 1);
    }

    #[test]
    fn a_date_given_twice_is_named_with_both_lines() {
        let file = read("date,rain_mm\n2026-06-01,1\n2026-06-01,2\n");
        assert_eq!(
            file.repeated()[0].to_string(),
            "line 3, column date: 2026-06-01 stands already on line 2"
        );
    }

    #[test]
    fn what_is_written_reads_back() {
        let file = read("date,tmin_c,tmax_c,rain_mm\n2026-06-01,10.5,20.25,0.1\n");
        assert_eq!(read(&write(&file.days())).days(), file.days());
    }
}
