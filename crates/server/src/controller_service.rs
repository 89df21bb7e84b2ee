//! What is said to a controller and what it says (docs/formats/controller.md).

use jiff::Timestamp;
use reqwest::Method;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

use crate::db::controllers::Told;
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

/// A stretch of its log.
#[derive(Debug, Deserialize)]
struct Log {
    holds: Option<i64>,
    litres_per_pulse: f64,
    reports: Vec<Report>,
    more: bool,
}

#[derive(Debug, Deserialize)]
struct Report {
    number: i64,
    at: Timestamp,
    #[serde(flatten)]
    what: What,
}

#[derive(Debug, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
enum What {
    Started { pass: String },
    Pulses { pass: String, count: u32 },
    Stopped { pass: String, seconds: i32 },
    Missed { pass: String },
    Fault { pass: String, fault: Fault },
}

#[derive(Debug, Clone, Copy, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Fault {
    NoFlow,
    HighFlow,
}

impl Report {
    /// As it is kept; `None`: about a pass that is not ours.
    fn told(self, litres_per_pulse: f64) -> Option<Told> {
        let (kind, pass, seconds, litres, fault) = match self.what {
            What::Started { pass } => ("started", pass, None, None, None),
            What::Pulses { pass, count } => {
                let litres = f64::from(count) * litres_per_pulse;
                ("pulses", pass, None, Some(litres), None)
            }
            What::Stopped { pass, seconds } => ("stopped", pass, Some(seconds), None, None),
            What::Missed { pass } => ("missed", pass, None, None, None),
            What::Fault { pass, fault } => {
                let fault = match fault {
                    Fault::NoFlow => "no_flow",
                    Fault::HighFlow => "high_flow",
                };
                ("fault", pass, None, None, Some(fault))
            }
        };
        let (publication, zone, starts) = of_pass(&pass)?;
        Some(Told {
            number: self.number,
            at: self.at,
            kind,
            publication,
            zone,
            starts,
            seconds,
            litres,
            fault,
        })
    }
}

/// What a controller has told since it was last heard.
#[derive(Debug, Clone, Default)]
pub struct Heard {
    /// The publication that it holds.
    pub holds: Option<i64>,
    /// What it told.
    pub told: Vec<Told>,
    /// The last line of its log.
    pub last_number: i64,
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

    /// All that a site's controller has told after a line of its log, up to the site's instant.
    ///
    /// # Errors
    /// [`Unusable`].
    pub async fn heard(&self, site: SiteId, now: Timestamp, after: i64) -> Result<Heard, Unusable> {
        let mut heard = Heard {
            last_number: after,
            ..Heard::default()
        };
        for _ in 0..MOST_ANSWERS {
            let number = heard.last_number;
            let path = format!("/v1/sites/{}/reports?as_of={now}&after={number}", site.0);
            let log: Log = read(&outside::answer(self.0.ask(Method::GET, &path)).await?)?;
            let nonsense = |what: &str| Err(Unusable::Nonsense(what.to_owned()));
            if !log.litres_per_pulse.is_finite() || log.litres_per_pulse <= 0.0 {
                return nonsense("litres of a pulse");
            }
            if log.reports.iter().any(|r| r.number <= number) {
                return nonsense("lines that were told before");
            }
            heard.holds = log.holds;
            let numbers = log.reports.iter().map(|r| r.number);
            heard.last_number = numbers.max().unwrap_or(number);
            let told = log.reports.into_iter();
            heard
                .told
                .extend(told.filter_map(|r| r.told(log.litres_per_pulse)));
            if !log.more {
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
    serde_json::from_str(text).map_err(|e| Unusable::Nonsense(e.to_string()))
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
