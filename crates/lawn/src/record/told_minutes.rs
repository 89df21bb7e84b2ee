//! Minutes of a flow meter as they are told: a batch, or a file of them, read as it comes (docs/formats/flow.md).

use std::collections::BTreeMap;

use jiff::{SignedDuration, Timestamp};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::days;
use crate::invalid::Invalid;
use crate::text::shortened;
use crate::weather::file::CellError;

/// Most minutes of a batch: a week.
const MOST_MINUTES: usize = 7 * 24 * 60;
/// Most pulses of a minute.
const MOST_PULSES: u16 = 30_000;
/// Seconds of a minute, and of an hour.
const MINUTE_S: i64 = 60;
const HOUR_S: i64 = 3600;
/// Longest line of a file, bytes: a batch of a week takes some 60 kB.
const LONGEST_LINE: usize = 256 * 1024;
/// Longest time from a file's first minute to its last: twenty years. Nothing that it holds takes more memory than their hours do.
const LONGEST_S: i64 = 20 * 366 * 24 * HOUR_S;
/// Faults after which the rest of a file is not read.
const MOST_FAULTS: usize = 100;
/// A minute of which a file says nothing; above [`MOST_PULSES`].
const UNTOLD: u16 = u16::MAX;
/// The columns of a file.
const HEADING: &str = "minute,pulses";

/// What a flow meter counted, minute by minute.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = Pulses)]
pub struct Batch {
    /// The first minute, a full one.
    pub from: Timestamp,
    /// Pulses of each minute from then on, at most a week of them; `null`: it did not count.
    pub counts: Vec<Option<u16>>,
}

/// Checks that a minute is a full one that any record may name.
fn check_first(from: Timestamp) -> Result<(), Invalid> {
    if from.as_second().rem_euclid(MINUTE_S) != 0 || from.subsec_nanosecond() != 0 {
        return Err(Invalid::new("from", "not a full minute"));
    }
    let first = days::FIRST.at(0, 0, 0, 0).in_tz("UTC");
    if first.is_ok_and(|first| from < first.timestamp()) {
        return Err(Invalid::new("from", format!("before {}", days::FIRST)));
    }
    Ok(())
}

impl Batch {
    /// Checks it; `latest`: no minute may end later.
    ///
    /// # Errors
    /// The field that does not hold.
    pub fn validate(&self, latest: Timestamp) -> Result<(), Invalid> {
        if self.counts.is_empty() || self.counts.len() > MOST_MINUTES {
            let message = format!("1 to {MOST_MINUTES} minutes, not {}", self.counts.len());
            return Err(Invalid::new("counts", message));
        }
        check_first(self.from)?;
        if let Some(at) = (self.counts.iter()).position(|n| n.is_some_and(|n| n > MOST_PULSES)) {
            let message = format!("at most {MOST_PULSES} pulses in a minute");
            return Err(Invalid::new(format!("counts[{at}]"), message));
        }
        let minutes = i64::try_from(self.counts.len()).unwrap_or(i64::MAX);
        let ends = self.from.checked_add(SignedDuration::from_mins(minutes));
        let ends = ends.unwrap_or(Timestamp::MAX);
        if ends > latest {
            let message = format!("they reach to {ends}, which is still to come");
            return Err(Invalid::new("counts", message));
        }
        Ok(())
    }
}

/// Minutes by the hour that they lie in.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Hours(BTreeMap<i64, [u16; 60]>);

impl Hours {
    /// Those of a batch.
    #[must_use]
    pub fn of(batch: &Batch) -> Self {
        let mut hours = Self::default();
        let minutes = (0_i64..).zip(&batch.counts);
        for (minute, pulses) in minutes.filter_map(|(minute, n)| Some((minute, (*n)?))) {
            hours.tell(batch.from.as_second() + minute * MINUTE_S, pulses);
        }
        hours
    }

    /// Tells a minute by its second; gives what it was told to be before, where that is something else.
    fn tell(&mut self, at: i64, pulses: u16) -> Option<u16> {
        let hour = at.div_euclid(HOUR_S) * HOUR_S;
        let place = usize::try_from((at - hour) / MINUTE_S).unwrap_or(0);
        let told = &mut self.0.entry(hour).or_insert([UNTOLD; 60])[place];
        let before = *told;
        if before == UNTOLD {
            *told = pulses;
        }
        (before != UNTOLD && before != pulses).then_some(before)
    }

    /// How many minutes were counted.
    #[must_use]
    pub fn minutes(&self) -> usize {
        let told = self.0.values().flatten().filter(|n| **n != UNTOLD);
        told.count()
    }

    /// Each hour with its sixty minutes, in time order.
    pub fn iter(&self) -> impl Iterator<Item = (Timestamp, Vec<Option<u16>>)> {
        self.0.iter().filter_map(|(hour, counts)| {
            let hour = Timestamp::from_second(*hour).ok()?;
            let counts = counts.iter().map(|n| (*n != UNTOLD).then_some(*n));
            Some((hour, counts.collect()))
        })
    }
}

/// How the lines of a file are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Form {
    /// A batch a line, as JSON.
    Batches,
    /// A minute a line, in columns.
    Columns { minute: usize, pulses: usize },
}

/// A file that is read as it comes: a minute a line under the heading `minute,pulses`, or a batch a line as JSON.
#[derive(Debug)]
pub struct File {
    latest: Timestamp,
    form: Option<Form>,
    line: u64,
    rest: Vec<u8>,
    hours: Hours,
    faults: Vec<CellError>,
}

impl File {
    /// A file of which nothing was read; `latest`: no minute may end later.
    #[must_use]
    pub fn new(latest: Timestamp) -> Self {
        Self {
            latest,
            form: None,
            line: 0,
            rest: Vec::new(),
            hours: Hours::default(),
            faults: Vec::new(),
        }
    }

    /// Takes the next piece; `false`: so much is wrong that the rest does not matter.
    pub fn take(&mut self, piece: &[u8]) -> bool {
        let mut lines = piece.split(|byte| *byte == b'\n');
        // What follows the last line break waits for the next piece.
        let last = lines.next_back().unwrap_or_default();
        for line in lines {
            if self.rest.is_empty() {
                self.line(line);
            } else {
                let mut whole = std::mem::take(&mut self.rest);
                whole.extend_from_slice(line);
                self.line(&whole);
            }
        }
        self.rest.extend_from_slice(last);
        if self.rest.len() > LONGEST_LINE {
            self.line += 1;
            self.fault("", format!("longer than {} kB", LONGEST_LINE / 1024));
            self.rest.clear();
            return false;
        }
        self.faults.len() < MOST_FAULTS
    }

    /// What was told, once all of it was taken.
    ///
    /// # Errors
    /// The lines that do not hold, at most a hundred.
    pub fn finish(mut self) -> Result<Hours, Vec<CellError>> {
        let rest = std::mem::take(&mut self.rest);
        if !rest.is_empty() {
            self.line(&rest);
        }
        if self.hours.0.is_empty() && self.faults.is_empty() {
            self.fault("", "no minute was told".to_owned());
        }
        if self.faults.is_empty() {
            Ok(self.hours)
        } else {
            Err(self.faults)
        }
    }

    fn fault(&mut self, column: &str, message: String) {
        if self.faults.len() < MOST_FAULTS {
            self.faults.push(CellError {
                line: self.line,
                column: column.to_owned(),
                message,
            });
        }
    }

    fn line(&mut self, line: &[u8]) {
        self.line += 1;
        let Ok(text) = std::str::from_utf8(line) else {
            return self.fault("", "no text in UTF-8".to_owned());
        };
        let text = text.trim_start_matches('\u{feff}').trim();
        if text.is_empty() {
            return;
        }
        let is_json = self.form == Some(Form::Batches) || text.starts_with('{');
        if !is_json && text.matches('"').count() % 2 == 1 {
            return self.fault("", "a quotation mark is not closed".to_owned());
        }
        let form = match self.form {
            Some(form) => form,
            None if text.starts_with('{') => *self.form.insert(Form::Batches),
            None => return self.heading(text),
        };
        match form {
            Form::Batches => self.batch(text),
            Form::Columns { minute, pulses } => self.minute(text, minute, pulses),
        }
    }

    fn heading(&mut self, text: &str) {
        let place = |name: &str| cells(text).position(|cell| cell.eq_ignore_ascii_case(name));
        match (place("minute"), place("pulses")) {
            (Some(minute), Some(pulses)) => self.form = Some(Form::Columns { minute, pulses }),
            _ => {
                // Without it no line can be read: the others are not blamed too.
                self.form = Some(Form::Columns {
                    minute: 0,
                    pulses: 1,
                });
                self.fault(
                    "",
                    "the heading must name minute and pulses; or each line is a batch as JSON"
                        .to_owned(),
                );
            }
        }
    }

    fn minute(&mut self, text: &str, minute: usize, pulses: usize) {
        let at = cells(text).nth(minute).unwrap_or_default();
        let Ok(from) = at.parse::<Timestamp>() else {
            let message = format!(
                "\"{}\" is no instant, such as 2026-06-17T08:00:00Z",
                shortened(at)
            );
            return self.fault("minute", message);
        };
        let said = cells(text).nth(pulses).unwrap_or_default();
        if said.is_empty() {
            return;
        }
        let Some(told) = said.parse::<u16>().ok().filter(|n| *n <= MOST_PULSES) else {
            let message = format!(
                "must be a whole number from 0 to {MOST_PULSES}, not \"{}\"",
                shortened(said)
            );
            return self.fault("pulses", message);
        };
        if let Err(wrong) = check_first(from) {
            return self.fault("minute", wrong.message);
        }
        if from.as_second() + MINUTE_S > self.latest.as_second() {
            return self.fault("minute", format!("{from} is still to come"));
        }
        self.tell("minute", from.as_second(), told);
    }

    fn batch(&mut self, text: &str) {
        let batch: Batch = match serde_json::from_str(text) {
            Ok(batch) => batch,
            Err(error) => {
                let full = error.to_string();
                let message = full.split(" at line ").next().unwrap_or(&full);
                return self.fault("", shortened(message));
            }
        };
        if let Err(wrong) = batch.validate(self.latest) {
            return self.fault(&wrong.field, wrong.message);
        }
        for (minute, told) in (0_i64..).zip(&batch.counts) {
            if let Some(told) = told {
                self.tell("counts", batch.from.as_second() + minute * MINUTE_S, *told);
            }
        }
    }

    fn tell(&mut self, column: &str, at: i64, told: u16) {
        if let Some(before) = self.hours.tell(at, told) {
            let minute = Timestamp::from_second(at).unwrap_or_default();
            let message = format!("{minute} came before in this file, with {before} pulses");
            self.fault(column, message);
            return;
        }
        let (first, last) = (
            self.hours.0.first_key_value(),
            self.hours.0.last_key_value(),
        );
        let span = first
            .zip(last)
            .map_or(0, |((first, _), (last, _))| last - first);
        if span >= LONGEST_S {
            // The hour that is too far from the others is forgotten, so that the rest is judged by itself.
            self.hours.0.remove(&(at.div_euclid(HOUR_S) * HOUR_S));
            let message = "more than twenty years from the file's other minutes; send it in parts";
            self.fault(column, message.to_owned());
        }
    }
}

/// The cells of a line of columns; none of them needs quotes.
fn cells(line: &str) -> impl Iterator<Item = &str> {
    line.split(',').map(|cell| cell.trim().trim_matches('"'))
}

/// The heading of a file in columns.
#[must_use]
pub fn heading() -> String {
    format!("{HEADING}\n")
}

/// Minutes as lines of such a file, those that were counted.
#[must_use]
pub fn lines(batch: &Batch) -> String {
    let minutes = (0_i64..).zip(&batch.counts);
    let told = minutes.filter_map(|(minute, n)| Some((minute, (*n)?)));
    told.map(|(minute, pulses)| {
        let at = batch.from + SignedDuration::from_mins(minute);
        format!("{at},{pulses}\n")
    })
    .collect()
}
