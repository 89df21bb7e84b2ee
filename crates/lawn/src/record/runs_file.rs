//! Files of runs: CSV, one a line, or a list of them as JSON; docs/formats/runs.md.

use jiff::Timestamp;
use jiff::civil::{Date, DateTime};
use jiff::tz::{AmbiguousOffset, TimeZone};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::days;
use crate::quantity::{Area, RunTime};
use crate::record::known::{Run, is_after_noon};
use crate::record::lines::{self, Kind, Line, fault, told};
use crate::record::meant::{self, Candidate};
use crate::record::said::Said;
use crate::record::watered::{Passes, Watered};
use crate::site::{SiteDocument, Zone};
use crate::text::csv_cell;
use crate::weather::file::CellError;

/// What its files hold.
const KIND: Kind = Kind {
    records: "runs",
    wanted: &["date"],
    most: 50_000,
};
/// The columns as they are written.
const HEADING: &str = "date,zone,passes,pass_s,run_s,name,started,said,who,by,share,flow_l_min,reached_m2,planned_passes,planned_s";
/// Most passes of a run.
const MOST_PASSES: u32 = 1000;
/// Longest run, s.
const LONGEST_S: i64 = 86_400;

/// A run as a file has it, denied ones with no passes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = FiledRun)]
pub struct Filed {
    /// Local day of its first start.
    pub date: Date,
    /// Its first start; `None`: not known.
    #[serde(default)]
    pub started_at: Option<Timestamp>,
    /// The zone's identifier; empty where it is told by its name.
    #[serde(default)]
    pub zone: String,
    /// The zone's name.
    #[serde(default)]
    pub name: String,
    /// Passes; 0: it did not run.
    pub passes: u32,
    /// The time of all, s.
    pub run_s: i64,
    /// What it watered, and by what.
    #[serde(default = "Watered::all")]
    pub watered: Watered,
    /// Whose word it is.
    pub said: Said,
    /// Who said so, for people.
    #[serde(default)]
    pub who: Option<String>,
    /// What a plan asked for; `None`: none did.
    #[serde(default)]
    pub planned: Option<Passes>,
}

impl Filed {
    /// How long it ran.
    #[must_use]
    pub const fn ran(&self) -> Passes {
        Passes {
            passes: self.passes,
            run_s: self.run_s,
        }
    }

    /// As plans read it; `None`: it did not run. `clock`: the site's.
    #[must_use]
    pub fn run(&self, clock: &TimeZone) -> Option<Run> {
        let started = self.started_at.map(|at| at.to_zoned(clock.clone()).time());
        (self.passes > 0).then(|| Run {
            zone: self.zone.clone(),
            date: self.date,
            after_noon: started.is_some_and(is_after_noon),
            started,
            passes: self.passes,
            run_s: self.run_s,
            watered: self.watered,
            assumed: self.said == Said::Assumed,
        })
    }
}

/// The local time of a first start, with its offset where the clock shows it twice.
fn started(at: Timestamp, clock: &TimeZone) -> String {
    let local = at.to_zoned(clock.clone());
    let twice = clock.to_ambiguous_zoned(local.datetime()).is_ambiguous();
    let form = if twice {
        "%H:%M:%S%.f%:z"
    } else {
        "%H:%M:%S%.f"
    };
    local.strftime(form).to_string()
}

/// Writes a file in columns; `clock`: the site's.
#[must_use]
pub fn write(runs: &[Filed], clock: &TimeZone) -> String {
    let mut text = format!("{HEADING}\n");
    for run in runs {
        let pass_s = run.run_s / i64::from(run.passes.max(1));
        let (by, share, flow, reached) = match run.watered {
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
        let planned = |figure: fn(Passes) -> String| run.planned.map(figure).unwrap_or_default();
        let cells = [
            run.date.to_string(),
            csv_cell(&run.zone),
            run.passes.to_string(),
            pass_s.to_string(),
            run.run_s.to_string(),
            csv_cell(&run.name),
            run.started_at
                .map(|at| started(at, clock))
                .unwrap_or_default(),
            run.said.name().to_owned(),
            csv_cell(run.who.as_deref().unwrap_or_default()),
            by.to_owned(),
            share,
            flow,
            reached,
            planned(|p| p.passes.to_string()),
            planned(|p| p.run_s.to_string()),
        ];
        text.push_str(&cells.join(","));
        text.push('\n');
    }
    text
}

/// Reads a file for a site, each run with its line; of a list as JSON its place, from 1. Zones are told by their identifier or name; what a
/// file does not say of the water is the zone's own sprinklers on all of it.
///
/// # Errors
/// The lines that do not hold, at most a hundred.
pub fn read(file: &str, document: &SiteDocument) -> Result<Vec<(u64, Filed)>, Vec<CellError>> {
    let clock = TimeZone::get(&document.site.time_zone).unwrap_or(TimeZone::UTC);
    let filed = lines::read(file, &KIND, |line| of_line(line, &clock))?;
    let (mut read, mut faults) = (Vec::with_capacity(filed.len()), Vec::new());
    for (line, run) in filed {
        match checked(line, run, document, &clock) {
            Ok(run) => read.push((line, run)),
            Err(wrong) => faults.push(wrong),
        }
    }
    told(read, faults)
}

fn of_line(line: &Line, clock: &TimeZone) -> Result<Filed, CellError> {
    let date = line.value("date", "a date, YYYY-MM-DD")?;
    let date: Date = date.ok_or_else(|| line.fault("date", "is missing"))?;
    let passes = line
        .value("passes", "a whole number of passes")?
        .unwrap_or(1);
    let seconds = |column| line.value::<i64>(column, "a whole number of seconds");
    let minutes = line.value::<f64>("minutes", "a number of minutes")?;
    let run_s = match (seconds("run_s")?, minutes, seconds("pass_s")?) {
        _ if passes == 0 => 0,
        (Some(run_s), ..) => run_s,
        (None, Some(minutes), _) => RunTime::from_minutes(minutes).round_s(),
        (None, None, Some(pass_s)) => pass_s.saturating_mul(passes.into()),
        (None, None, None) => {
            let message = "how long did it run? minutes, run_s or pass_s says so";
            return Err(line.fault("minutes", message));
        }
    };
    let watered = watered(line)?;
    let said = match line.cell("said") {
        "" if passes == 0 => Said::Denied,
        "" if matches!(watered, Watered::Own { .. }) => Said::Hand,
        "" => Said::Hose,
        name => Said::named(name).ok_or_else(|| {
            let names = Said::ALL.map(Said::name).join(", ");
            line.fault("said", format!("must be one of {names}"))
        })?,
    };
    let planned_s = seconds("planned_s")?;
    let planned_passes = line.value("planned_passes", "a whole number of passes")?;
    Ok(Filed {
        date,
        started_at: began(line, date, clock)?,
        zone: line.words("zone").unwrap_or_default(),
        name: line.words("name").unwrap_or_default(),
        passes,
        run_s,
        watered,
        said,
        who: line.words("who"),
        planned: planned_s.map(|run_s| Passes {
            passes: planned_passes.unwrap_or(passes.max(1)),
            run_s,
        }),
    })
}

/// When it began: the local time of its day, with an offset where the clock shows it twice; without one it is the first of the two.
fn began(line: &Line, date: Date, clock: &TimeZone) -> Result<Option<Timestamp>, CellError> {
    let cell = line.cell("started");
    if cell.is_empty() {
        return Ok(None);
    }
    let wrong = |message: String| line.fault("started", message);
    // Spreadsheets write 4:10.
    let zero = if cell.find(':') == Some(1) { "0" } else { "" };
    let said = format!("{date}T{zero}{cell}");
    if cell.contains(['+', '-']) {
        let at = said.parse::<Timestamp>();
        return at.map(Some).map_err(|_| {
            wrong("must be a time of day with its offset, such as 01:30:00-05:00".to_owned())
        });
    }
    let local =
        (said.parse::<DateTime>()).map_err(|_| wrong("must be a time of day, HH:MM".to_owned()))?;
    let at = clock.to_ambiguous_zoned(local);
    if matches!(at.offset(), AmbiguousOffset::Gap { .. }) {
        return Err(wrong(format!(
            "{cell} is not a time of {date}: the clock is set forward over it"
        )));
    }
    let at = at.compatible().map_err(|e| wrong(e.to_string()))?;
    Ok(Some(at.timestamp()))
}

fn watered(line: &Line) -> Result<Watered, CellError> {
    let number = |column| line.value::<f64>(column, "a number");
    let needed = |column| number(column)?.ok_or_else(|| line.fault(column, "must be a number"));
    match line.cell("by") {
        "" | "own" => Ok(Watered::Own {
            share: number("share")?.unwrap_or(1.0),
        }),
        "hose" => Ok(Watered::Hose {
            flow_l_min: needed("flow_l_min")?,
            reached_m2: Area::from_m2(needed("reached_m2")?),
        }),
        "unmeasured" => Ok(Watered::Unmeasured),
        _ => Err(line.fault("by", "must be own, hose or unmeasured")),
    }
}

/// The zone that a run means.
fn zone<'a>(document: &'a SiteDocument, run: &Filed) -> Result<&'a Zone, String> {
    meant::by(&run.zone, &run.name, &document.zones, |zone| Candidate {
        id: &zone.id,
        name: &zone.name,
        is_there: zone.is_active(run.date),
    })
    .map_err(|unclear| unclear.of("zone"))
}

/// A run that can be one of the site, with its zone's identifier.
fn checked(
    line: u64,
    mut run: Filed,
    document: &SiteDocument,
    clock: &TimeZone,
) -> Result<Filed, CellError> {
    let fail = |column: &str, message: String| Err(fault(line, column, message));
    let zone = zone(document, &run).map_err(|message| fault(line, "zone", message))?;
    run.zone.clone_from(&zone.id);
    let checked = days::check("date", run.date, days::LAST);
    checked.map_err(|e| fault(line, "date", e.message))?;
    if let Some(at) = run.started_at {
        let began = at.to_zoned(clock.clone()).date();
        if began != run.date {
            return fail(
                "started",
                format!("is on {began} by the site's clock, not on {}", run.date),
            );
        }
    }
    let did_not_run = run.passes == 0;
    if run.passes > MOST_PASSES {
        return fail("passes", format!("must be at most {MOST_PASSES}"));
    }
    if did_not_run && run.run_s != 0 {
        return fail("run_s", "of no passes there is no time".to_owned());
    }
    if !did_not_run && !(i64::from(run.passes)..=LONGEST_S).contains(&run.run_s) {
        let least = run.passes;
        return fail(
            "run_s",
            format!("a run takes {least} s to 24 h in all, not {} s", run.run_s),
        );
    }
    let may_not_have_run = matches!(run.said, Said::Denied | Said::Controller);
    if did_not_run && !may_not_have_run {
        return fail(
            "said",
            "of no passes it can only be denied, or the controller's".to_owned(),
        );
    }
    if run.said == Said::Denied && !did_not_run {
        return fail("passes", "what is denied has none".to_owned());
    }
    if let Some(planned) = run.planned {
        if !(1..=MOST_PASSES).contains(&planned.passes) {
            return fail("planned_passes", format!("must be 1 to {MOST_PASSES}"));
        }
        if !(i64::from(planned.passes)..=LONGEST_S).contains(&planned.run_s) {
            let least = planned.passes;
            return fail("planned_s", format!("a run takes {least} s to 24 h in all"));
        }
    }
    let watered = run.watered.validate("", zone.area_m2);
    watered.map_err(|e| fault(line, "by", format!("{}: {}", e.field, e.message)))?;
    Ok(run)
}
