//! Files of records: CSV with a heading, one record a line, or a list of them as JSON. What does not hold is told by its line.

use std::fmt::Display;
use std::str::FromStr;

use csv::StringRecord;
use serde::de::DeserializeOwned;

use crate::text::{self, shortened};
use crate::weather::file::CellError;

/// Faults of a file that are told.
const MOST_FAULTS: usize = 100;

/// What is wrong with a cell of a line, or with the line as a whole where no column is named.
pub(super) fn fault(line: u64, column: &str, message: impl Into<String>) -> CellError {
    CellError {
        line,
        column: column.to_owned(),
        message: message.into(),
    }
}

/// What was read, unless something does not hold; then the first hundred of it.
pub(super) fn told<T>(read: T, mut faults: Vec<CellError>) -> Result<T, Vec<CellError>> {
    faults.truncate(MOST_FAULTS);
    if faults.is_empty() {
        Ok(read)
    } else {
        Err(faults)
    }
}

/// What files of a kind of record hold.
pub(super) struct Kind {
    /// What records are called.
    pub(super) records: &'static str,
    /// The columns without which no line can be read.
    pub(super) wanted: &'static [&'static str],
    /// Most records of a file.
    pub(super) most: usize,
}

/// A line of a file in columns.
pub(super) struct Line<'a> {
    headers: &'a StringRecord,
    cells: &'a StringRecord,
    line: u64,
}

impl<'a> Line<'a> {
    /// A cell by the name of its column; empty where the file has no such column.
    pub(super) fn cell(&self, column: &str) -> &'a str {
        let at = |name: &str| name.eq_ignore_ascii_case(column);
        let at = self.headers.iter().position(at);
        at.and_then(|at| self.cells.get(at)).unwrap_or_default()
    }

    /// The text of a cell that people may have written in a spreadsheet, without the apostrophe that keeps it from being a formula; `None`: empty.
    pub(super) fn words(&self, column: &str) -> Option<String> {
        let cell = self.cell(column);
        let words = match cell.strip_prefix('\'') {
            Some(formula) if formula.starts_with(['=', '+', '-', '@']) => formula,
            _ => cell,
        };
        (!words.is_empty()).then(|| words.to_owned())
    }

    /// What a cell says, read as `T`; `None`: empty. `what`: what it should be.
    pub(super) fn value<T: FromStr>(
        &self,
        column: &str,
        what: &str,
    ) -> Result<Option<T>, CellError> {
        let cell = self.cell(column);
        if cell.is_empty() {
            return Ok(None);
        }
        let wrong = |_| self.fault(column, format!("\"{}\" is not {what}", shortened(cell)));
        cell.parse().map(Some).map_err(wrong)
    }

    /// A fault of one of its cells.
    pub(super) fn fault(&self, column: &str, message: impl Into<String>) -> CellError {
        fault(self.line, column, message)
    }
}

/// Reads a file, each record with its line; of a list as JSON its place, from 1.
///
/// # Errors
/// The lines that do not hold, at most a hundred.
pub(super) fn read<T: DeserializeOwned>(
    file: &str,
    kind: &Kind,
    of_line: impl Fn(&Line) -> Result<T, CellError>,
) -> Result<Vec<(u64, T)>, Vec<CellError>> {
    let file = &*text::in_lines(file);
    if file.trim_start().starts_with('[') {
        listed(file, kind)
    } else {
        in_columns(file, kind, of_line)
    }
}

fn too_many(line: u64, kind: &Kind) -> CellError {
    fault(
        line,
        "",
        format!("more than {} {}", kind.most, kind.records),
    )
}

fn listed<T: DeserializeOwned>(file: &str, kind: &Kind) -> Result<Vec<(u64, T)>, Vec<CellError>> {
    let said = |error: &dyn Display| shortened(&error.to_string());
    let values: Vec<serde_json::Value> = serde_json::from_str(file).map_err(|error| {
        let line = u64::try_from(error.line()).unwrap_or(0);
        vec![fault(line, "", said(&error))]
    })?;
    if values.len() > kind.most {
        return Err(vec![too_many(0, kind)]);
    }
    let (mut read, mut faults) = (Vec::new(), Vec::new());
    for (place, value) in (1..).zip(values) {
        match serde_json::from_value(value) {
            Ok(record) => read.push((place, record)),
            Err(error) => faults.push(fault(place, "", said(&error))),
        }
    }
    told(read, faults)
}

fn in_columns<T>(
    file: &str,
    kind: &Kind,
    of_line: impl Fn(&Line) -> Result<T, CellError>,
) -> Result<Vec<(u64, T)>, Vec<CellError>> {
    if let Some((line, control)) = text::control_in_file(file) {
        return Err(vec![fault(line, "", text::refusal(control))]);
    }
    let mut reader = csv::ReaderBuilder::new()
        .trim(csv::Trim::All)
        .from_reader(file.as_bytes());
    let unreadable = |_| vec![fault(1, "", "cannot be read as text in columns")];
    let headers = reader.headers().map_err(unreadable)?.clone();
    let named = |wanted: &str| headers.iter().any(|h| h.eq_ignore_ascii_case(wanted));
    if let Some(missing) = kind.wanted.iter().find(|wanted| !named(wanted)) {
        let wanted = kind.wanted.join(", ");
        let message = format!("the heading must name {wanted}; {missing} is missing");
        return Err(vec![fault(1, "", message)]);
    }
    let (mut read, mut faults) = (Vec::new(), Vec::new());
    for record in reader.records() {
        let cells = match record {
            Ok(cells) => cells,
            Err(error) => {
                let line = error.position().map_or(0, csv::Position::line);
                faults.push(fault(line, "", "must have as many cells as the heading"));
                continue;
            }
        };
        let line = cells.position().map_or(0, csv::Position::line);
        if read.len() >= kind.most {
            faults.push(too_many(line, kind));
            break;
        }
        let (headers, cells) = (&headers, &cells);
        match of_line(&Line {
            headers,
            cells,
            line,
        }) {
            Ok(record) => read.push((line, record)),
            Err(wrong) => faults.push(wrong),
        }
    }
    told(read, faults)
}
