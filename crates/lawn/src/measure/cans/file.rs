//! Catch-can files: CSV with `can`, optional `x_m` and `y_m`, and `depth_mm` or `volume_ml`; docs/formats/cans.md.

use science::catch_can::{Can, depth_mm};
use thiserror::Error;

use crate::measure::cans::CanTest;
use crate::ranges;
use crate::text;

/// Most cans of a file.
const MOST_CANS: usize = 2000;

/// Why a file cannot be audited.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum Error {
    /// A cell that does not hold.
    #[error("line {line}, column {column}: {message}")]
    Cell {
        /// Line in the file, from 1.
        line: u64,
        /// Its column.
        column: &'static str,
        /// What is wrong.
        message: String,
    },
    /// The heading.
    #[error("line 1: {0}")]
    Heading(&'static str),
    /// Volumes without the throat that they were caught in.
    #[error("volume_ml needs --throat-cm2: the area of the can's mouth")]
    NoThroat,
    /// No can was read.
    #[error("holds no can with a reading")]
    NoCans,
    /// A character that is no text.
    #[error("line {0}: {1}")]
    Control(u64, String),
    /// More cans than a lawn has.
    #[error("line {0}: more than {MOST_CANS} cans")]
    TooMany(u64),
    /// A line that is not text in columns.
    #[error("line {0}: cannot be read as text in columns")]
    Unreadable(u64),
}

/// Reads the cans of a file; a can without a reading is left out. `throat_cm2` turns volumes into depths.
///
/// # Errors
/// [`Error`], the first that does not hold.
pub fn read(text: &str, throat_cm2: Option<f64>) -> Result<Vec<Can>, Error> {
    let text = &*text::in_lines(text);
    if let Some((line, control)) = text::control_in_file(text) {
        return Err(Error::Control(line, text::refusal(control)));
    }
    let mut reader = csv::ReaderBuilder::new()
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let headers = reader.headers().map_err(|_| Error::Unreadable(1))?.clone();
    let at = |name: &str| headers.iter().position(|h| h.eq_ignore_ascii_case(name));
    let can_at = at("can").ok_or(Error::Heading("no column can"))?;
    let (depth_at, volume_at) = (at("depth_mm"), at("volume_ml"));
    let reading = match (depth_at, volume_at) {
        (Some(_), Some(_)) => return Err(Error::Heading("give depth_mm or volume_ml, not both")),
        (None, None) => return Err(Error::Heading("no column depth_mm or volume_ml")),
        (Some(i), None) => (i, "depth_mm"),
        (None, Some(i)) => (i, "volume_ml"),
    };
    if reading.1 == "volume_ml" && throat_cm2.is_none() {
        return Err(Error::NoThroat);
    }
    let place = match (at("x_m"), at("y_m")) {
        (Some(x), Some(y)) => Some((x, y)),
        (None, None) => None,
        _ => return Err(Error::Heading("x_m and y_m come together")),
    };
    let mut cans: Vec<Can> = Vec::new();
    let mut names: Vec<String> = Vec::new();
    for record in reader.records() {
        let record =
            record.map_err(|e| Error::Unreadable(e.position().map_or(0, csv::Position::line)))?;
        let line = record.position().map_or(0, csv::Position::line);
        let cell = |i: usize| record.get(i).unwrap_or_default();
        let wrong = |column: &'static str, message: String| Error::Cell {
            line,
            column,
            message,
        };
        if record.iter().all(str::is_empty) {
            continue;
        }
        let name = cell(can_at);
        if name.is_empty() {
            return Err(wrong("can", "a can needs a name or number".to_owned()));
        }
        if names.iter().any(|n| n == name) {
            return Err(wrong("can", format!("\"{name}\" stands twice")));
        }
        if names.len() >= MOST_CANS {
            return Err(Error::TooMany(line));
        }
        names.push(name.to_owned());
        let number = |i: usize, column: &'static str| {
            cell(i)
                .parse::<f64>()
                .ok()
                .filter(|x| x.is_finite())
                .ok_or_else(|| wrong(column, format!("\"{}\" is not a number", cell(i))))
        };
        if cell(reading.0).is_empty() {
            continue;
        }
        let value = number(reading.0, reading.1)?;
        if value < 0.0 {
            return Err(wrong(reading.1, format!("{value} is below 0")));
        }
        let most = if reading.1 == "volume_ml" {
            ranges::CAN_VOLUME
        } else {
            ranges::CAN_DEPTH
        };
        if value > most.max {
            return Err(wrong(
                reading.1,
                format!("no can holds that much: at most {} {}", most.max, most.unit),
            ));
        }
        let place_m = match place {
            Some((x, y)) if !(cell(x).is_empty() && cell(y).is_empty()) => {
                Some((number(x, "x_m")?, number(y, "y_m")?))
            }
            _ => None,
        };
        if let Some((x, y)) = place_m {
            for (at, column) in [(x, "x_m"), (y, "y_m")] {
                ranges::PLAN
                    .check(at)
                    .map_err(|error| wrong(column, error.to_string()))?;
            }
        }
        if place_m.is_some() && cans.iter().any(|c| c.place_m == place_m) {
            return Err(wrong(
                "x_m",
                "another can stands in the same place".to_owned(),
            ));
        }
        cans.push(Can {
            depth_mm: throat_cm2
                .filter(|_| reading.1 == "volume_ml")
                .map_or(value, |throat| depth_mm(value, throat)),
            place_m,
        });
    }
    if cans.is_empty() {
        return Err(Error::NoCans);
    }
    Ok(cans)
}

/// Writes a test's cans with their depths, so that [`read`] finds the same; cans that were not read have an empty cell.
#[must_use]
pub fn write(test: &CanTest) -> String {
    let read = test.read();
    let rows = test.cans.iter().map(|can| {
        let depth = read
            .iter()
            .find(|(other, _)| other.number == can.number)
            .map_or(String::new(), |(_, caught)| caught.depth_mm.to_string());
        format!(
            "{},{},{},{depth}\n",
            can.number, can.place.x_m, can.place.y_m
        )
    });
    std::iter::once("can,x_m,y_m,depth_mm\n".to_owned())
        .chain(rows)
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_no_can_holds_and_where_no_can_stands_is_refused() {
        let said = |text: &str| read(text, Some(0.1)).unwrap_err().to_string();
        // Found by spoiling files: a depth without end.
        let endless = format!("can,volume_ml\n1,{}\n", "9".repeat(309));
        assert!(
            said(&endless).contains("is not a number") || said(&endless).contains("no can holds")
        );
        assert_eq!(
            said("can,volume_ml\n1,42\n2,20001\n"),
            "line 3, column volume_ml: no can holds that much: at most 20000 mL"
        );
        assert!(said("can,depth_mm\n1,1001\n").contains("at most 1000 mm"));
        assert!(said("can,x_m,y_m,depth_mm\n1,1e30,0,5\n").contains("column x_m"));
        assert!(read("can,x_m,y_m,volume_ml\n1,-1000,1000,20000\n", Some(100.0)).is_ok());
    }
}
