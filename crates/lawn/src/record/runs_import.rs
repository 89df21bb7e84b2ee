//! What a file of runs adds to the record: runs that it does not have, and people's words on those that nobody has answered.

use std::collections::BTreeMap;
use std::ops::Bound;

use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};

use crate::measure::unlikely::{self, Unlikely};
use crate::quantity::RunTime;
use crate::record::lines::{fault, told};
use crate::record::runs_file::Filed;
use crate::record::said::Said;
use crate::site::{Site, SiteDocument};
use crate::weather::file::CellError;

/// Runs that come in, beside those that are known.
#[derive(Debug, Clone, Copy)]
pub struct Coming<'a> {
    /// The site with its zones.
    pub document: &'a SiteDocument,
    /// The record, each with its first start.
    pub known: &'a [Filed],
    /// What comes in, each with its line, as [`crate::record::runs_file::read`] has it.
    pub filed: &'a [(u64, Filed)],
    /// The present instant: nothing has run later.
    pub now: Timestamp,
    /// Whether what is seldom so is so; what cannot be is not taken even then.
    pub sure: bool,
}

/// What becomes of a run that comes in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Becomes {
    /// The record has it.
    Known,
    /// It is added, begun at an instant.
    New(Timestamp),
    /// It answers one of the record, by its place in `known`.
    Answer(usize),
}

/// Who has a run that begins at an instant.
#[derive(Clone, Copy)]
enum Owner {
    Record(usize),
    Line(u64),
}

#[derive(Clone, Copy)]
struct Held<'a> {
    owner: Owner,
    run: &'a Filed,
}

/// What was told of a zone, by first start.
type Starts<'a> = BTreeMap<Timestamp, Held<'a>>;

/// What becomes of each run of a file, in its order.
///
/// # Errors
/// The lines that do not hold, or that are asked about.
pub fn import(coming: &Coming) -> Result<Vec<Becomes>, Vec<CellError>> {
    let mut zones: BTreeMap<&str, Starts> = BTreeMap::new();
    for (place, run) in coming.known.iter().enumerate() {
        if let Some(at) = run.started_at {
            let owner = Owner::Record(place);
            let starts = zones.entry(&run.zone).or_default();
            starts.insert(at, Held { owner, run });
        }
    }
    let (mut becomes, mut faults) = (Vec::with_capacity(coming.filed.len()), Vec::new());
    for (line, run) in coming.filed {
        let starts = zones.entry(&run.zone).or_default();
        match one(coming, *line, run, starts) {
            Ok(outcome) => becomes.push(outcome),
            Err(wrong) => faults.push(wrong),
        }
    }
    told(becomes, faults)
}

fn one<'a>(
    coming: &Coming,
    line: u64,
    run: &'a Filed,
    starts: &mut Starts<'a>,
) -> Result<Becomes, CellError> {
    let fail = |column: &str, message: String| Err(fault(line, column, message));
    let Some(at) = run.started_at else {
        let message = "is missing: the record needs the time at which it began";
        return fail("started", message.to_owned());
    };
    if at > coming.now {
        return fail("started", "is still to come".to_owned());
    }
    if let Some(held) = starts.get(&at) {
        return beside(line, run, *held);
    }
    let zone = coming
        .document
        .zones
        .iter()
        .find(|zone| zone.id == run.zone);
    if let Some(zone) = zone.filter(|zone| !zone.is_active(run.date)) {
        return fail(
            "date",
            format!("{} did not exist on {}", zone.name, run.date),
        );
    }
    if run.passes == 0 && run.planned.is_none() {
        let message = "did not run, and nothing says that it was planned: leave the line out, or fill planned_s";
        return fail("passes", message.to_owned());
    }
    if !coming.sure {
        let asked = unlikely::run(at, run.run_s, coming.now, None);
        if let Some(question) = asked.as_ref().and_then(question) {
            return fail(
                "run_s",
                format!("{question}; import it as sure if it is so"),
            );
        }
        if let Some(other) = overlaps(starts, at, run) {
            let message = format!(
                "{} of the zone, from {} on, overlaps with it: {}; import it as sure if both ran",
                of(other.owner),
                began(&coming.document.site, other.run),
                words(other.run)
            );
            return fail("started", message);
        }
    }
    let owner = Owner::Line(line);
    starts.insert(at, Held { owner, run });
    Ok(Becomes::New(at))
}

/// What becomes of a run that begins when another of its zone does.
fn beside(line: u64, run: &Filed, held: Held) -> Result<Becomes, CellError> {
    let other = held.run;
    let same = run.ran() == other.ran() && run.watered == other.watered;
    let place = match held.owner {
        Owner::Line(_) if same => return Ok(Becomes::Known),
        Owner::Line(other) => {
            let message = format!("line {other} has another run of the zone that begins then");
            return Err(fault(line, "started", message));
        }
        Owner::Record(place) => place,
    };
    let answers = run.said.is_answer() && other.said.is_open();
    match run.said {
        Said::Denied if answers => Ok(Becomes::Answer(place)),
        Said::Changed if answers && run.watered == other.watered => Ok(Becomes::Answer(place)),
        Said::Confirmed if answers && same => Ok(Becomes::Answer(place)),
        // A file that nobody has answered says nothing against somebody's word since.
        Said::Assumed if !other.said.is_open() => Ok(Becomes::Known),
        _ if same => Ok(Becomes::Known),
        Said::Assumed | Said::Confirmed if other.said.is_open() => {
            let message = format!(
                "the record has {} of it: put changed under said where it ran for another time",
                words(other)
            );
            Err(fault(line, "run_s", message))
        }
        _ => {
            let message = format!(
                "the record has another word of it, {}: take that back first, or leave the line out",
                words(other)
            );
            Err(fault(line, "said", message))
        }
    }
}

/// A run of the zone that was on at the same time.
fn overlaps<'a>(starts: &Starts<'a>, at: Timestamp, run: &Filed) -> Option<Held<'a>> {
    let end = |at: Timestamp, run: &Filed| {
        let length = SignedDuration::from_secs(run.run_s);
        at.checked_add(length).unwrap_or(Timestamp::MAX)
    };
    let mut before = starts
        .range(..at)
        .rev()
        .filter(|(_, held)| held.run.passes > 0);
    let before = before
        .next()
        .filter(|(began, held)| end(**began, held.run) > at);
    let mut after = starts.range((Bound::Excluded(at), Bound::Unbounded));
    let after = || after.find(|(_, held)| held.run.passes > 0);
    let found = before.or_else(after);
    found
        .filter(|(began, _)| run.passes > 0 && **began < end(at, run))
        .map(|(_, held)| *held)
}

fn of(owner: Owner) -> String {
    match owner {
        Owner::Record(_) => "a run in the record".to_owned(),
        Owner::Line(line) => format!("line {line}"),
    }
}

/// The local time at which a run began.
fn began(site: &Site, run: &Filed) -> String {
    let clock = TimeZone::get(&site.time_zone).unwrap_or(TimeZone::UTC);
    let local = run.started_at.map(|at| at.to_zoned(clock));
    local.map_or_else(String::new, |at| at.strftime("%H:%M").to_string())
}

fn question(asked: &Unlikely) -> Option<&'static str> {
    match asked {
        Unlikely::EndsLater { .. } => Some("is not over yet"),
        Unlikely::LongRun { .. } => Some("is more than four hours"),
        _ => None,
    }
}

/// A run in words: how long it ran, and whose word that is.
fn words(run: &Filed) -> String {
    let passes = match run.passes {
        1 => "1 pass".to_owned(),
        passes => format!("{passes} passes"),
    };
    let minutes = RunTime::from_whole_s(run.run_s).minutes();
    let minutes = (minutes * 10.0).round() / 10.0;
    format!("{passes}, {minutes} min in all, {}", run.said.name())
}
