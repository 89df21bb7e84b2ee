//! The heading of a file of another shape, and a first guess of how its columns are read, for a person to correct.

use serde::Serialize;
use utoipa::ToSchema;

use crate::weather::file::{CellError, File};
use crate::weather::foreign::{DateForm, Figure, MappedColumn, Mapping, Unit, date, reader};
use crate::weather::titles::read_over;

/// The heading of a file: what it is remembered by, its columns, and the first rows.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Heading {
    /// Columns as they are headed.
    pub columns: Vec<String>,
    /// The first row's cells, as an example.
    pub example: Vec<String>,
    /// The first lines after the heading, as they stand in the file.
    pub lines: Vec<String>,
    /// Rows that a guess looks at.
    #[serde(skip)]
    rows: Vec<Vec<String>>,
}

/// Lines of a file that stand beside the choices.
const LINES_SHOWN: usize = 4;
/// Rows that a guess of the dates' form looks at.
const ROWS_LOOKED_AT: usize = 60;

impl Heading {
    /// What a file is recognized by.
    #[must_use]
    pub fn signature(&self) -> String {
        self.columns.join("\u{1f}")
    }
}

/// The heading of a file; `None` where there is none.
///
/// # Errors
/// A heading with more or longer columns than weather files have.
pub fn heading(text: &str) -> Result<Option<Heading>, CellError> {
    let text = &*read_over(text);
    let mut reader = reader(text);
    let Ok(headers) = reader.headers().cloned() else {
        return Ok(None);
    };
    let mut limits = File::default();
    if !limits.is_text(text) || !limits.fits(1, &headers) {
        return limits.errors.pop().map_or(Ok(None), Err);
    }
    let columns: Vec<String> = headers.iter().map(str::to_owned).collect();
    let rows: Vec<Vec<String>> = reader
        .records()
        .map_while(Result::ok)
        .take(ROWS_LOOKED_AT)
        .take_while(|record| limits.fits(2, record))
        .map(|record| record.iter().map(str::to_owned).collect())
        .collect();
    let lines = text.lines().filter(|l| !l.trim().is_empty()).skip(1);
    Ok((columns.len() > 1).then(|| Heading {
        columns,
        example: rows.first().cloned().unwrap_or_default(),
        lines: lines
            .take(LINES_SHOWN.min(rows.len()))
            .map(crate::text::shortened)
            .collect(),
        rows,
    }))
}

/// A first guess for a person to correct: the date by its looks, figures by words in their headings.
#[must_use]
pub fn guess(heading: &Heading) -> Mapping {
    let forms = [
        DateForm::Iso,
        DateForm::Compact,
        DateForm::MonthFirst,
        DateForm::DayFirst,
    ];
    // 6/7/2026 may be either; the rows after it tell.
    let dated = heading.columns.iter().enumerate().find_map(|(i, column)| {
        let cells = || heading.rows.iter().filter_map(move |row| row.get(i));
        cells().next()?;
        let form = forms
            .into_iter()
            .find(|form| cells().all(|cell| date(cell, *form).is_some()))
            .or_else(|| {
                let first = heading.example.get(i)?;
                forms.into_iter().find(|form| date(first, *form).is_some())
            })?;
        Some((column.clone(), form))
    });
    let (date_column, date_form) = dated.unwrap_or_else(|| {
        (
            heading.columns.first().cloned().unwrap_or_default(),
            DateForm::Iso,
        )
    });
    let mut columns: Vec<MappedColumn> = Vec::new();
    for column in &heading.columns {
        let lower = column.to_lowercase();
        let has = |words: &[&str]| words.iter().any(|w| lower.contains(w));
        let warm = has(&["temp", "tmin", "tmax", "tmn", "tmx"]);
        let figure = if has(&["prob", "chance"]) {
            Figure::RainProbability
        } else if has(&["rain", "prcp", "precip"]) {
            Figure::Rain
        } else if has(&["dew"]) {
            Figure::Dewpoint
        } else if has(&["wind"]) {
            Figure::Wind
        } else if has(&["solar", "radiation"]) {
            Figure::Solar
        } else if has(&["sun"]) {
            Figure::Sunshine
        } else if has(&["hum", "rh"]) && has(&["min", "low"]) {
            Figure::RhMin
        } else if has(&["hum", "rh"]) && has(&["max", "high"]) {
            Figure::RhMax
        } else if (warm || has(&["low"])) && has(&["min", "low", "tmn"]) {
            Figure::Tmin
        } else if (warm || has(&["high"])) && has(&["max", "high", "tmx"]) {
            Figure::Tmax
        } else {
            continue;
        };
        if column != &date_column && columns.iter().all(|c| c.figure != figure) {
            columns.push(MappedColumn {
                figure,
                column: column.clone(),
                unit: usual(figure, false),
            });
        }
    }
    let said: Vec<Option<Unit>> = columns
        .iter()
        .map(|c| unit_said(c.figure, &c.column.to_lowercase()))
        .collect();
    // Who writes degrees Fahrenheit writes inches and miles.
    let us = said.contains(&Some(Unit::Fahrenheit));
    for (column, said) in columns.iter_mut().zip(said) {
        column.unit = said.unwrap_or_else(|| usual(column.figure, us));
    }
    Mapping {
        date_column,
        date_form,
        columns,
    }
}

/// The unit that a heading in lower case names as a word of its own: "Rain" ends in "in" and names none.
fn unit_said(figure: Figure, heading: &str) -> Option<Unit> {
    // Words that are units; two-part ones first.
    const SAID: [(&str, Unit); 29] = [
        ("km_h", Unit::KmH),
        ("w_m2", Unit::WM2),
        ("mj_m2", Unit::MjM2),
        ("m_s", Unit::MS),
        ("°f", Unit::Fahrenheit),
        ("f", Unit::Fahrenheit),
        ("degf", Unit::Fahrenheit),
        ("fahrenheit", Unit::Fahrenheit),
        ("°c", Unit::Celsius),
        ("c", Unit::Celsius),
        ("degc", Unit::Celsius),
        ("celsius", Unit::Celsius),
        ("in", Unit::Inch),
        ("inch", Unit::Inch),
        ("inches", Unit::Inch),
        ("mm", Unit::Mm),
        ("mph", Unit::Mph),
        ("km/h", Unit::KmH),
        ("kmh", Unit::KmH),
        ("kph", Unit::KmH),
        ("m/s", Unit::MS),
        ("kn", Unit::Knots),
        ("kt", Unit::Knots),
        ("knots", Unit::Knots),
        ("hpa", Unit::Hpa),
        ("mbar", Unit::Hpa),
        ("kpa", Unit::Kpa),
        ("w/m2", Unit::WM2),
        ("w/m²", Unit::WM2),
    ];
    let words: Vec<&str> = heading
        .split([' ', '(', ')', '[', ']', ',', ';', ':', '.'])
        .flat_map(|part| std::iter::once(part).chain(part.split('_')))
        .collect();
    SAID.iter()
        .find(|(word, unit)| {
            let two_part = word.contains('_') && heading.ends_with(word);
            figure.takes(*unit) && (two_part || words.contains(word))
        })
        .map(|(_, unit)| *unit)
}

/// The unit of a figure whose heading names none.
fn usual(figure: Figure, us: bool) -> Unit {
    match figure {
        Figure::Rain if us => Unit::Inch,
        Figure::Wind if us => Unit::Mph,
        Figure::Tmin | Figure::Tmax | Figure::Dewpoint if us => Unit::Fahrenheit,
        _ => Figure::ALL
            .iter()
            .find(|(f, ..)| *f == figure)
            .and_then(|(_, _, units)| units.first().copied())
            .unwrap_or(Unit::Mm),
    }
}
