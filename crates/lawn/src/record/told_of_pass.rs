//! What a controller may tell of a pass that it was sent: what cannot be so is left out of the record, and said.

use jiff::{SignedDuration, Timestamp};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::quantity::Volume;
use crate::ranges;

/// How much longer than it was sent a pass may have been open, s: valves close slowly, and some devices count whole minutes (common practice, no source).
pub const LONGER_S: i64 = 60;
/// How far two clocks may differ, s (no source).
const CLOCKS_S: i64 = 300;

/// A pass as it was sent.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Sent {
    /// When it was to begin.
    pub starts: Timestamp,
    /// For how long, s.
    pub seconds: i64,
}

/// What is told of it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Says {
    /// That it began, did not run, or that something was wrong with its flow.
    Happened,
    /// What flowed since it was last counted.
    Flowed(Volume),
    /// That it is over: for how long it was open, s.
    Stopped(i64),
}

/// Why a line cannot be so.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "why", rename_all = "snake_case")]
pub enum NotSo {
    /// It cannot be read.
    Unreadable {
        /// What is wrong, in the reader's own words, cleaned.
        what: String,
    },
    /// Its number is not one of the next.
    Numbered {
        /// The number.
        number: i64,
    },
    /// It is told of a time before its pass, or of one to come.
    Untimely {
        /// When.
        at: Timestamp,
    },
    /// A time below none.
    Negative {
        /// The seconds that it tells.
        told_s: i64,
    },
    /// Open for longer than the pass that was sent.
    TooLong {
        /// The seconds that it tells.
        told_s: i64,
        /// Those of the pass.
        sent_s: i64,
    },
    /// More water than any supply gives in that time.
    TooMuch {
        /// What flowed.
        #[schema(value_type = f64)]
        told_l: Volume,
    },
}

/// Whether what is told of a pass at an instant can be so, heard at another.
///
/// # Errors
/// [`NotSo`].
pub fn check(sent: Sent, at: Timestamp, says: Says, heard: Timestamp) -> Result<(), NotSo> {
    let clocks = SignedDuration::from_secs(CLOCKS_S);
    let earliest = sent.starts.saturating_sub(clocks).unwrap_or(sent.starts);
    let latest = heard.saturating_add(clocks).unwrap_or(heard);
    if at < earliest || at > latest {
        return Err(NotSo::Untimely { at });
    }
    match says {
        Says::Happened => Ok(()),
        Says::Stopped(told_s) if told_s < 0 => Err(NotSo::Negative { told_s }),
        Says::Stopped(told_s) if told_s > sent.seconds + LONGER_S => Err(NotSo::TooLong {
            told_s,
            sent_s: sent.seconds,
        }),
        Says::Flowed(told_l) if told_l.l() > most_l(sent.seconds) => Err(NotSo::TooMuch { told_l }),
        Says::Stopped(_) | Says::Flowed(_) => Ok(()),
    }
}

/// What the largest supply that a site can have gives during a pass, L.
fn most_l(seconds: i64) -> f64 {
    let open = SignedDuration::from_secs(seconds + LONGER_S);
    ranges::FLOW.max * open.as_secs_f64() / 60.0
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(text: &str) -> Timestamp {
        text.parse().unwrap()
    }

    #[test]
    fn figures_are_held_against_the_pass_that_was_sent() {
        let sent = Sent {
            starts: at("2026-06-19T08:00:00Z"),
            seconds: 720,
        };
        let heard = at("2026-06-19T12:00:00Z");
        let told = |time: &str, says| check(sent, at(time), says, heard);
        let over = "2026-06-19T08:12:00Z";
        for says in [
            Says::Happened,
            Says::Flowed(Volume::from_l(500.0)),
            Says::Stopped(0),
            Says::Stopped(720),
            Says::Stopped(780),
        ] {
            assert_eq!(told(over, says), Ok(()), "{says:?}");
        }
        assert_eq!(
            told(over, Says::Stopped(-5)),
            Err(NotSo::Negative { told_s: -5 })
        );
        assert_eq!(
            told(over, Says::Stopped(i64::from(i32::MAX))),
            Err(NotSo::TooLong {
                told_s: i64::from(i32::MAX),
                sent_s: 720
            })
        );
        let sea = Volume::from_l(4e9);
        assert_eq!(
            told(over, Says::Flowed(sea)),
            Err(NotSo::TooMuch { told_l: sea })
        );
        for time in [
            "-009999-01-03T00:00:00Z",
            "2026-06-18T08:00:00Z",
            "2026-06-19T13:00:00Z",
            "9999-12-01T00:00:00Z",
        ] {
            let untimely = NotSo::Untimely { at: at(time) };
            assert_eq!(told(time, Says::Happened), Err(untimely), "{time}");
        }
    }
}
