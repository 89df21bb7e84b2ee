//! Files of readings: CSV, one a line, or a list of them as JSON; docs/formats/records.md.

use jiff::Timestamp;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::days;
use crate::measure::unlikely::Unlikely;
use crate::quantity::Volume;
use crate::record::lines::{self, Kind, Line, fault, told};
use crate::record::meant::{self, Candidate};
use crate::record::readings::{Follows, Reading, expected, odd};
use crate::site::meter::Meter;
use crate::text::csv_cell;
use crate::weather::file::CellError;

/// The columns as they are written.
const HEADING: &str = "read_at,meter,name,register,follows,old_register,began_with,read_by";

/// A reading as a file has it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = FiledReading)]
pub struct Filed {
    /// When it was read.
    pub read_at: Timestamp,
    /// The meter's identifier; empty where it is told by its name.
    #[serde(default)]
    pub meter: String,
    /// The meter's name.
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

/// What its files hold.
const KIND: Kind = Kind {
    records: "readings",
    wanted: &["read_at", "register"],
    most: 20_000,
};

/// Reads a file, each reading with its line; of a list as JSON its place, from 1.
///
/// # Errors
/// The lines that do not hold, at most a hundred.
pub fn read(file: &str) -> Result<Vec<(u64, Filed)>, Vec<CellError>> {
    let filed = lines::read(file, &KIND, of_line)?;
    if filed.is_empty() {
        return Err(vec![fault(1, "", "no readings are in it")]);
    }
    Ok(filed)
}

fn of_line(line: &Line) -> Result<Filed, CellError> {
    let missing = |column| move || line.fault(column, "is missing");
    let instant = "an instant with its offset, such as 2026-06-17T08:00:00-04:00";
    let figure = |column| line.value::<f64>(column, "a number");
    let (old, began) = (figure("old_register")?, figure("began_with")?);
    let follows = match line.cell("follows") {
        "" => Follows::On,
        name => Follows::of_columns(name, old, began)
            .ok_or_else(|| line.fault("follows", "must be on, rolled_over or new_meter"))?,
    };
    Ok(Filed {
        read_at: (line.value("read_at", instant)?).ok_or_else(missing("read_at"))?,
        meter: line.cell("meter").to_owned(),
        name: line.words("name").unwrap_or_default(),
        register: figure("register")?.ok_or_else(missing("register"))?,
        follows,
        read_by: line.words("read_by"),
    })
}

/// The meter that a reading means, by its identifier or name. `clock`: the site's.
///
/// # Errors
/// What to say of its column `meter`.
pub fn meter<'a, T>(
    filed: &Filed,
    all: &'a [T],
    of: impl Fn(&'a T) -> &'a Meter,
    clock: &TimeZone,
) -> Result<&'a T, String> {
    let date = filed.read_at.to_zoned(clock.clone()).date();
    meant::by(&filed.meter, &filed.name, all, |one| {
        let meter = of(one);
        Candidate {
            id: &meter.id,
            name: &meter.name,
            is_there: meter.is_there(date),
        }
    })
    .map_err(|unclear| unclear.of("meter"))
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
    if !meter.is_there(date) {
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
