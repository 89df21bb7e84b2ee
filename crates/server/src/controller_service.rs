//! What is said to a controller and what it says (docs/formats/controller.md).

use jiff::Timestamp;
use lawn::quantity::Volume;
use lawn::ranges;
use lawn::record::told_of_pass::NotSo;
use lawn::text::shortened;
use reqwest::Method;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::Value;

use crate::db::{SiteId, ZoneId};
use crate::outside::{self, Outside, Unusable};
use crate::settings::Settings;
use crate::tls;

/// A valve of a programme.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Valve {
    /// The zone.
    pub zone: String,
    /// What it is called.
    pub name: String,
    /// What its sprinklers take, l/min.
    pub flow_l_min: f64,
}

/// A pass of a programme.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Pass {
    /// Its identifier, see [`pass_id`].
    pub id: String,
    /// The zone.
    pub zone: String,
    /// When it begins.
    pub starts: Timestamp,
    /// For how long, s.
    pub seconds: i64,
}

/// A whole programme.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Programme {
    /// Passes of the programme before that start before this go on.
    pub from: Timestamp,
    /// The valves.
    pub valves: Vec<Valve>,
    /// What is to run.
    pub passes: Vec<Pass>,
}

/// The identifier of a pass: it says of which publication, which zone, and when it is to begin.
#[must_use]
pub fn pass_id(publication: i64, zone: &str, starts: Timestamp) -> String {
    format!("{publication}-{zone}-{}", starts.as_second())
}

/// What [`pass_id`] says; `None`: it is not of ours.
fn of_pass(id: &str) -> Option<(i64, ZoneId, Timestamp)> {
    let mut parts = id.splitn(3, '-').map(str::parse);
    let mut next = || parts.next()?.ok();
    let (publication, zone, starts) = (next()?, next()?, next()?);
    let starts = Timestamp::from_second(starts).ok()?;
    Some((publication, ZoneId(zone), starts))
}

/// What it holds.
#[derive(Debug, Clone, Copy, Deserialize)]
struct Holds {
    holds: Option<i64>,
}

/// A stretch of its log. Lines are read one by one: one that cannot be read is left out, not all.
#[derive(Debug, Deserialize)]
struct Log {
    holds: Option<i64>,
    /// Which log it is; absent: it does not say.
    #[serde(default)]
    log: Option<String>,
    litres_per_pulse: f64,
    reports: Vec<Value>,
    more: bool,
}

#[derive(Debug, Deserialize)]
struct Report {
    at: Timestamp,
    #[serde(flatten)]
    what: What,
}

#[derive(Debug, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
enum What {
    Started { pass: String },
    Pulses { pass: String, count: u64 },
    Stopped { pass: String, seconds: i64 },
    Missed { pass: String },
    Fault { pass: String, fault: Fault },
}

/// What is wrong with a flow.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Fault {
    /// The valve is open and nothing flows.
    NoFlow,
    /// More flows than its sprinklers take.
    HighFlow,
}

/// A line of a log, not yet held against the pass that was sent.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Line {
    /// Its number.
    pub number: i64,
    /// When.
    pub at: Timestamp,
    /// The publication.
    pub publication: i64,
    /// The zone.
    pub zone: ZoneId,
    /// When the pass was to begin.
    pub starts: Timestamp,
    /// What happened.
    pub kind: Kind,
}

/// What a line tells.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Kind {
    /// It began.
    Started,
    /// What flowed since it was last counted.
    Pulses(Volume),
    /// It is over; for how long it was open, s.
    Stopped(i64),
    /// It came too late to run.
    Missed,
    /// Something is wrong with its flow.
    Fault(Fault),
}

/// A line that cannot be so.
#[derive(Debug, Clone, PartialEq)]
pub struct Refusal {
    /// Its number; `None`: that cannot be so either.
    pub number: Option<i64>,
    /// Why.
    pub why: NotSo,
}

/// The number of a line, and what it tells; `None`: of a pass that is not ours.
fn line(number: i64, report: Value, litres_per_pulse: f64) -> Result<Option<Line>, NotSo> {
    let unreadable = |e: serde_json::Error| NotSo::Unreadable {
        what: shortened(&e.to_string()),
    };
    let report: Report = serde_json::from_value(report).map_err(unreadable)?;
    let (pass, kind) = match report.what {
        What::Started { pass } => (pass, Kind::Started),
        What::Pulses { pass, count } => {
            // No meter counts as far as a float does not.
            #[allow(clippy::cast_precision_loss)]
            let litres = count as f64 * litres_per_pulse;
            (pass, Kind::Pulses(Volume::from_l(litres)))
        }
        What::Stopped { pass, seconds } => (pass, Kind::Stopped(seconds)),
        What::Missed { pass } => (pass, Kind::Missed),
        What::Fault { pass, fault } => (pass, Kind::Fault(fault)),
    };
    let Some((publication, zone, starts)) = of_pass(&pass) else {
        return Ok(None);
    };
    Ok(Some(Line {
        number,
        at: report.at,
        publication,
        zone,
        starts,
        kind,
    }))
}

/// What a controller has told since it was last heard.
#[derive(Debug, Clone, Default)]
pub struct Heard {
    /// The publication that it holds.
    pub holds: Option<i64>,
    /// Which log it is, where it says so.
    pub log: Option<String>,
    /// Whether that is another than was known: its lines count from 1 again.
    pub is_new_log: bool,
    /// What it told of our passes.
    pub lines: Vec<Line>,
    /// What cannot be so of it.
    pub refused: Vec<Refusal>,
    /// The last line of its log.
    pub last_number: i64,
}

/// How far the number of a line may be ahead of the one before: they have no gaps, and a device may have lost some.
const MOST_AHEAD: i64 = 100_000;
/// Longest name of a log, characters.
const LONGEST_LOG: usize = 80;

impl Heard {
    /// Takes lines in; those that were told before are let go by. Whether any is new.
    fn take(&mut self, reports: Vec<Value>, litres_per_pulse: f64) -> bool {
        let before = self.last_number;
        for report in reports {
            let number = report.get("number").and_then(Value::as_i64);
            let refused = |number, why| Refusal { number, why };
            match number {
                None => {
                    let what = "it has no number".to_owned();
                    self.refused.push(refused(None, NotSo::Unreadable { what }));
                }
                Some(number) if number <= self.last_number && number > 0 => {}
                Some(number) if !(1..=self.last_number + MOST_AHEAD).contains(&number) => {
                    self.refused.push(refused(None, NotSo::Numbered { number }));
                }
                Some(number) => {
                    self.last_number = number;
                    match line(number, report, litres_per_pulse) {
                        Ok(line) => self.lines.extend(line),
                        Err(why) => self.refused.push(refused(Some(number), why)),
                    }
                }
            }
        }
        self.last_number > before
    }
}

/// Answers in one go, at most: a log of more lines is heard the next time.
const MOST_ANSWERS: usize = 50;

/// The controllers that the settings name.
#[derive(Debug, Clone)]
pub struct ControllerService(Outside);

impl ControllerService {
    /// The one of the settings, if they name one.
    ///
    /// # Errors
    /// [`tls::Error`].
    pub fn of(settings: &Settings) -> Result<Option<Self>, tls::Error> {
        let service = settings.controller_url.as_deref().map(|base| {
            let root = settings.controller_certificate.as_deref();
            Outside::new(base, settings.controller_token.clone(), root).map(Self)
        });
        service.transpose()
    }

    /// All that a site's controller has told after a line of a log, up to the site's instant; of another log from its first line on.
    ///
    /// # Errors
    /// [`Unusable`].
    pub async fn heard(
        &self,
        site: SiteId,
        now: Timestamp,
        after: i64,
        log: Option<&str>,
    ) -> Result<Heard, Unusable> {
        let mut heard = Heard {
            last_number: after,
            log: log.map(str::to_owned),
            ..Heard::default()
        };
        for _ in 0..MOST_ANSWERS {
            let number = heard.last_number;
            let path = format!("/v1/sites/{}/reports?as_of={now}&after={number}", site.0);
            let log: Log = read(&outside::answer(self.0.ask(Method::GET, &path)).await?)?;
            let nonsense = |what: &str| Err(Unusable::nonsense(what));
            if ranges::METER_PULSE.check(log.litres_per_pulse).is_err() {
                return nonsense("litres of a pulse");
            }
            let named = log.log.as_deref().map(str::trim);
            if named.is_some_and(|name| name.is_empty() || name.chars().count() > LONGEST_LOG) {
                return nonsense("the name of its log");
            }
            if let Some(name) = named {
                let is_other = heard.log.as_deref().is_some_and(|known| known != name);
                heard.log = Some(name.to_owned());
                if is_other {
                    heard.is_new_log = true;
                    heard.last_number = 0;
                    heard.lines.clear();
                    heard.refused.clear();
                    continue;
                }
            }
            heard.holds = log.holds;
            let told = !log.reports.is_empty();
            let any_new = heard.take(log.reports, log.litres_per_pulse);
            if told && !any_new && heard.refused.is_empty() {
                return nonsense(
                    "lines that were told before; if it was replaced, say so on this page",
                );
            }
            if !log.more || !any_new {
                break;
            }
        }
        Ok(heard)
    }

    /// Puts a programme; what the controller holds after it. Sent again it changes nothing (RFC 9110, 9.2.2).
    ///
    /// # Errors
    /// [`Unusable`].
    pub async fn put(
        &self,
        site: SiteId,
        publication: i64,
        programme: &Programme,
        now: Timestamp,
    ) -> Result<Option<i64>, Unusable> {
        let path = path(site, publication, now);
        let question = self.0.ask(Method::PUT, &path).json(programme);
        let holds: Holds = read(&outside::answer(question).await?)?;
        Ok(holds.holds)
    }

    /// Drops a programme; sent again it changes nothing.
    ///
    /// # Errors
    /// [`Unusable`].
    pub async fn drop_programme(
        &self,
        site: SiteId,
        publication: i64,
        now: Timestamp,
    ) -> Result<(), Unusable> {
        let path = path(site, publication, now);
        outside::answer(self.0.ask(Method::DELETE, &path)).await?;
        Ok(())
    }
}

fn path(site: SiteId, publication: i64, now: Timestamp) -> String {
    format!("/v1/sites/{}/programmes/{publication}?as_of={now}", site.0)
}

fn read<T: DeserializeOwned>(text: &str) -> Result<T, Unusable> {
    serde_json::from_str(text).map_err(|e| Unusable::nonsense(&e.to_string()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_pass_is_known_by_its_identifier() {
        let starts = "2026-06-19T07:12:00Z".parse().unwrap();
        let id = pass_id(17, "3", starts);
        assert_eq!(of_pass(&id), Some((17, ZoneId(3), starts)));
        for other in ["", "17", "17-3", "17-a-5", "a-b-c", "17-3-x"] {
            assert_eq!(of_pass(other), None, "{other}");
        }
    }
}
