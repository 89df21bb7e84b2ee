//! Files of readings: CSV, one a line, or a list of them as JSON; docs/formats/records.md.

use jiff::Timestamp;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::days;
use crate::measure::unlikely::Unlikely;
use crate::quantity::Volume;
use crate::record::readings::{Follows, Reading, expected, odd};
use crate::site::meter::Meter;
use crate::text::{self, csv_cell, shortened};
use crate::weather::file::CellError;

/// Most readings of a file.
const MOST: usize = 20_000;
/// Faults of a file that are told.
const MOST_FAULTS: usize = 100;
/// The columns as they are written.
const HEADING: &str = "read_at,meter,name,register,follows,old_register,began_with,read_by";

/// A reading as a file has it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = FiledReading)]
pub struct Filed {
    /// When it was read.
    pub read_at: Timestamp,
    /// The meter's identifier.
    pub meter: String,
    /// The meter's name, for people: what comes in is told by the identifier.
    #[serde(default)]
    pub name: String,
    /// The figure, in the meter's own count.
    pub register: f64,
    /// How it follows the one before.
    #[serde(default)]
    pub follows: Follows,
    /// Who read it, for people.
    #[serde(default)]
    pub read_by: Option<String>,
}

impl Filed {
    /// What was read.
    #[must_use]
    pub const fn reading(&self) -> Reading {
        Reading {
            at: self.read_at,
            register: self.register,
            follows: self.follows,
        }
    }
}

/// Writes a file in columns, instants with the offset of the site's clock: an hour comes twice when it is set back.
#[must_use]
pub fn write(readings: &[Filed], zone: &TimeZone) -> String {
    let mut text = format!("{HEADING}\n");
    for filed in readings {
        let (follows, old, began) = filed.follows.columns();
        let figure = |figure: Option<f64>| figure.map(|f| f.to_string()).unwrap_or_default();
        let at = filed.read_at.to_zoned(zone.clone());
        let cells = [
            at.strftime("%Y-%m-%dT%H:%M:%S%:z").to_string(),
            csv_cell(&filed.meter),
            csv_cell(&filed.name),
            filed.register.to_string(),
            follows.to_owned(),
            figure(old),
            figure(began),
            csv_cell(filed.read_by.as_deref().unwrap_or_default()),
        ];
        text.push_str(&cells.join(","));
        text.push('\n');
    }
    text
}

fn fault(line: u64, column: &str, message: impl Into<String>) -> CellError {
    CellError {
        line,
        column: column.to_owned(),
        message: message.into(),
    }
}

/// Reads a file, each reading with its line; of a list as JSON its place, from 1.
///
/// # Errors
/// The lines that do not hold, at most a hundred.
pub fn read(file: &str) -> Result<Vec<(u64, Filed)>, Vec<CellError>> {
    let file = file.trim_start_matches('\u{feff}');
    let filed = if file.trim_start().starts_with('[') {
        listed(file)?
    } else {
        in_columns(file)?
    };
    if filed.is_empty() {
        return Err(vec![fault(1, "", "no reading is in it")]);
    }
    Ok(filed)
}

fn listed(file: &str) -> Result<Vec<(u64, Filed)>, Vec<CellError>> {
    let values: Vec<serde_json::Value> = serde_json::from_str(file).map_err(|error| {
        let line = u64::try_from(error.line()).unwrap_or(0);
        vec![fault(line, "", shortened(&error.to_string()))]
    })?;
    if values.len() > MOST {
        return Err(vec![fault(0, "", format!("more than {MOST} readings"))]);
    }
    let (mut filed, mut faults) = (Vec::new(), Vec::new());
    for (place, value) in (1..).zip(values) {
        match serde_json::from_value(value) {
            Ok(reading) => filed.push((place, reading)),
            Err(error) => faults.push(fault(place, "", shortened(&error.to_string()))),
        }
    }
    told(filed, faults)
}

fn told<T>(filed: T, mut faults: Vec<CellError>) -> Result<T, Vec<CellError>> {
    faults.truncate(MOST_FAULTS);
    if faults.is_empty() {
        Ok(filed)
    } else {
        Err(faults)
    }
}

fn in_columns(file: &str) -> Result<Vec<(u64, Filed)>, Vec<CellError>> {
    if let Some((line, control)) = text::control_in_file(file) {
        return Err(vec![fault(line, "", text::refusal(control))]);
    }
    let mut reader = csv::ReaderBuilder::new()
        .trim(csv::Trim::All)
        .from_reader(file.as_bytes());
    let unreadable = |_| vec![fault(1, "", "cannot be read as text in columns")];
    let headers = reader.headers().map_err(unreadable)?.clone();
    let at = |name: &str| headers.iter().position(|h| h.eq_ignore_ascii_case(name));
    for wanted in ["read_at", "meter", "register"] {
        if at(wanted).is_none() {
            let message =
                format!("the heading must name read_at, meter and register; {wanted} is missing");
            return Err(vec![fault(1, "", message)]);
        }
    }
    let (mut filed, mut faults) = (Vec::new(), Vec::new());
    for record in reader.records() {
        let record = match record {
            Ok(record) => record,
            Err(error) => {
                let line = error.position().map_or(0, csv::Position::line);
                faults.push(fault(line, "", "must have as many cells as the heading"));
                continue;
            }
        };
        let line = record.position().map_or(0, csv::Position::line);
        if filed.len() >= MOST {
            faults.push(fault(line, "", format!("more than {MOST} readings")));
            break;
        }
        let cell = |name: &str| at(name).and_then(|at| record.get(at)).unwrap_or_default();
        match of_line(line, &cell) {
            Ok(reading) => filed.push((line, reading)),
            Err(wrong) => faults.push(wrong),
        }
    }
    told(filed, faults)
}

fn of_line<'a>(line: u64, cell: &impl Fn(&str) -> &'a str) -> Result<Filed, CellError> {
    let said = cell("read_at");
    let read_at = said.parse().map_err(|_| {
        let message = format!(
            "\"{}\" is no instant with its offset, such as 2026-06-17T08:00:00-04:00",
            shortened(said)
        );
        fault(line, "read_at", message)
    })?;
    let figure = |column: &str| match cell(column) {
        "" => Ok(None),
        text => text.parse::<f64>().map(Some).map_err(|_| {
            fault(
                line,
                column,
                format!("\"{}\" is not a number", shortened(text)),
            )
        }),
    };
    let register = figure("register")?.ok_or_else(|| fault(line, "register", "is missing"))?;
    let (old, began) = (figure("old_register")?, figure("began_with")?);
    let follows = match cell("follows") {
        "" => Follows::On,
        name => Follows::of_columns(name, old, began)
            .ok_or_else(|| fault(line, "follows", "must be on, rolled_over or new_meter"))?,
    };
    let read_by = cell("read_by");
    Ok(Filed {
        read_at,
        meter: cell("meter").to_owned(),
        name: cell("name").to_owned(),
        register,
        follows,
        read_by: (!read_by.is_empty()).then(|| read_by.to_owned()),
    })
}

/// Those of a meter that come in, beside those that are known.
#[derive(Debug, Clone, Copy)]
pub struct Coming<'a> {
    /// The meter.
    pub meter: &'a Meter,
    /// Its readings, in time order.
    pub known: &'a [Reading],
    /// What comes in, each with its line.
    pub filed: &'a [(u64, Reading)],
    /// The site's clock.
    pub zone: &'a TimeZone,
    /// The present instant: nothing is read later.
    pub now: Timestamp,
    /// Whether what is seldom so is so; what cannot be is not taken even then.
    pub sure: bool,
}

/// Those that are new, in time order. What is known with the same figure is left out.
///
/// # Errors
/// The lines that do not hold, or that are asked about.
pub fn new_ones(
    coming: &Coming,
    ran: impl Fn(Timestamp, Timestamp) -> Volume,
) -> Result<Vec<Reading>, Vec<CellError>> {
    let Coming { meter, known, .. } = *coming;
    let mut faults = Vec::new();
    let mut sorted = coming.filed.to_vec();
    sorted.sort_by_key(|(_, reading)| reading.at);
    let mut all = known.to_vec();
    let mut new = Vec::new();
    // Of what follows a line that does not hold nobody knows how much flowed.
    let mut follows_a_fault = false;
    for (line, reading) in sorted {
        if let Err(wrong) = holds(coming, line, &reading) {
            faults.push(wrong);
            follows_a_fault = true;
            continue;
        }
        let place = all.partition_point(|other| other.at < reading.at);
        if let Some(same) = all.get(place).filter(|other| other.at == reading.at) {
            if same.register.total_cmp(&reading.register).is_ne() {
                let message = format!(
                    "the meter has another reading of that instant, {}: correct that one",
                    same.register
                );
                faults.push(fault(line, "register", message));
            }
            continue;
        }
        let run = place
            .checked_sub(1)
            .map_or_else(Volume::default, |last| ran(all[last].at, reading.at));
        let expects = expected(meter, &all[..place], reading.at, run);
        let before = place.checked_sub(1).map(|last| &all[last]);
        let asked = odd(meter, before, all.get(place), &reading, expects)
            .filter(|asked| !(follows_a_fault || coming.sure && asked.can_be()));
        follows_a_fault = asked.is_some();
        if let Some(asked) = asked {
            faults.push(fault(line, "register", question(meter, &asked)));
            continue;
        }
        all.insert(place, reading);
        new.push(reading);
    }
    told(new, faults)
}

/// Whether a reading can be one of its meter by itself.
fn holds(coming: &Coming, line: u64, reading: &Reading) -> Result<(), CellError> {
    let Coming { meter, zone, .. } = coming;
    if reading.at > coming.now {
        return Err(fault(line, "read_at", "is still to come"));
    }
    let date = reading.at.to_zoned((*zone).clone()).date();
    days::check("read_at", date, days::LAST).map_err(|e| fault(line, "read_at", e.message))?;
    let is_before = meter.active_from.is_some_and(|from| date < from);
    if is_before || meter.active_to.is_some_and(|to| to < date) {
        let message = format!("{} was not there on {date}", meter.name);
        return Err(fault(line, "read_at", message));
    }
    let check = |column: &str, figure: f64| {
        let checked = meter.check_register(column, figure);
        checked.map_err(|e| fault(line, column, e.message))
    };
    check("register", reading.register)?;
    if let Follows::NewMeter {
        old_register,
        began_with,
    } = reading.follows
    {
        check("began_with", began_with)?;
        old_register.map_or(Ok(()), |old| check("old_register", old))?;
    }
    Ok(())
}

/// What is asked about a figure of a file, in the meter's own count.
fn question(meter: &Meter, asked: &Unlikely) -> String {
    let counts = |litres: f64| {
        let counts = litres / meter.volume(1.0).l();
        format!("{counts:.*}", usize::from(meter.decimals.max(1)))
    };
    match asked {
        Unlikely::LowerReading { last, .. } => format!(
            "lower than the one before, {last}: if the counter turned over or the meter was changed, say so under follows"
        ),
        Unlikely::AboveNextReading { next, .. } => {
            format!("higher than the one after it, {next}: a counter does not go back")
        }
        Unlikely::MuchUsed {
            used_l, expected_l, ..
        } => format!(
            "{} more than the one before, where about {} are to be expected; import it as sure if it is so",
            counts(*used_l),
            counts(*expected_l)
        ),
        _ => {
            "the same as the one before, though water ran; import it as sure if it is so".to_owned()
        }
    }
}
