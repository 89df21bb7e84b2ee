//! Figures that can be, but seldom are: a person is asked once, and may insist.

use jiff::{SignedDuration, Timestamp};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::measure::cans::CanTest;

/// Rain of a day above which a gauge's reading is asked about, mm (common practice, no source).
const MUCH_RAIN_MM: f64 = 150.0;
/// Air temperatures beyond which a typed day is asked about, °C (common practice, no source).
const SELDOM_C: (f64, f64) = (-35.0, 48.0);
/// A run longer than this is asked about, s.
const LONG_RUN_S: i64 = 4 * 3600;
/// Heads of a zone of which nobody has drawn a plan.
const MANY_HEADS: u16 = 60;
/// A can that caught so many times the middle of the others is asked about; the fewest others.
const ODD_CAN: (f64, usize) = (4.0, 3);

/// What is asked about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "unlikely", rename_all = "snake_case")]
pub enum Unlikely {
    /// A run that is not over yet.
    EndsLater {
        /// When it would be.
        ends_at: Timestamp,
    },
    /// A run that goes on after its window has closed.
    BeyondWindow {
        /// When the window closes.
        closes_at: Timestamp,
    },
    /// A run that a person sets on a night that may freeze: water on paving turns to ice.
    Freezes {
        /// Least air temperature expected, °C.
        tmin_c: f64,
    },
    /// A very long run.
    LongRun {
        /// Its time, s.
        seconds: i64,
    },
    /// Very much rain in a day.
    MuchRain {
        /// How much.
        rain_mm: f64,
    },
    /// Air so hot or so cold as next to nowhere: degrees of another scale, or a digit too many.
    SeldomTemperature {
        /// The temperature, °C.
        temperature_c: f64,
    },
    /// A head that the zone's plan does not show.
    OtherHead {
        /// Its number.
        head: u16,
        /// How many the plan shows; `None`: there is no plan.
        heads: Option<u16>,
    },
    /// A can that caught many times what the others did.
    OddCan {
        /// Its number.
        can: u16,
        /// How many times the middle of the others.
        times: f64,
    },
    /// A meter's reading that is lower than the one before it. Never so by itself: the counter turned over, the meter was changed, or a digit slipped.
    LowerReading {
        /// The one before, in the meter's count.
        last: f64,
        /// When it was read.
        last_at: Timestamp,
        /// What flowed if the counter turned over, L; `None`: more than can be.
        rolled_over_l: Option<f64>,
        /// What may have been meant.
        meant: Option<f64>,
        /// The figure by the flow that was heard; `None`: too little of it was.
        #[serde(default)]
        heard_register: Option<f64>,
    },
    /// More, or less, flowed since the reading before than was heard.
    OtherThanHeard {
        /// How much, L.
        used_l: f64,
        /// What was heard, L.
        heard_l: f64,
        /// What may have been meant.
        meant: Option<f64>,
        /// The figure by the flow that was heard.
        heard_register: Option<f64>,
    },
    /// A reading that is higher than the one after it: a counter does not go back.
    AboveNextReading {
        /// The one after, in the meter's count.
        next: f64,
        /// When it was read.
        next_at: Timestamp,
        /// What may have been meant.
        meant: Option<f64>,
    },
    /// Far more flowed since the reading before than is to be expected.
    MuchUsed {
        /// How much, L.
        used_l: f64,
        /// What is to be expected, L.
        expected_l: f64,
        /// What may have been meant.
        meant: Option<f64>,
    },
    /// The same as the reading before, though water ran.
    SameReading {
        /// When that was read.
        last_at: Timestamp,
        /// What is to be expected, L.
        expected_l: f64,
    },
    /// A time that the clock showed twice, in the night on which it was set back.
    TwiceThatNight {
        /// Before it was set back.
        first: Timestamp,
        /// After.
        second: Timestamp,
    },
}

impl Unlikely {
    /// Whether it can be so, and a person who insists is right.
    #[must_use]
    pub const fn can_be(&self) -> bool {
        !matches!(
            self,
            Self::LowerReading { .. } | Self::AboveNextReading { .. } | Self::TwiceThatNight { .. }
        )
    }
}

/// A run that a person reports, from its start; `closes_at`: the end of the window in which a planned run lies.
#[must_use]
pub fn run(
    started_at: Timestamp,
    seconds: i64,
    now: Timestamp,
    closes_at: Option<Timestamp>,
) -> Option<Unlikely> {
    let ends_at = started_at
        .checked_add(SignedDuration::from_secs(seconds))
        .unwrap_or(Timestamp::MAX);
    if ends_at > now {
        return Some(Unlikely::EndsLater { ends_at });
    }
    if seconds > LONG_RUN_S {
        return Some(Unlikely::LongRun { seconds });
    }
    closes_at
        .filter(|closes| ends_at > *closes)
        .map(|closes_at| Unlikely::BeyondWindow { closes_at })
}

/// A day's rain in a gauge.
#[must_use]
pub fn rain(rain_mm: f64) -> Option<Unlikely> {
    (rain_mm > MUCH_RAIN_MM).then_some(Unlikely::MuchRain { rain_mm })
}

/// Air temperatures of a day, °C: the first that is asked about.
#[must_use]
pub fn temperature(of_day: impl IntoIterator<Item = f64>) -> Option<Unlikely> {
    let mut of_day = of_day.into_iter();
    let seldom = of_day.find(|c| !(SELDOM_C.0..=SELDOM_C.1).contains(c));
    seldom.map(|temperature_c| Unlikely::SeldomTemperature { temperature_c })
}

/// A head's number; `heads`: how many the zone's newest plan shows.
#[must_use]
pub fn head(head: u16, heads: Option<u16>) -> Option<Unlikely> {
    (head > heads.unwrap_or(MANY_HEADS)).then_some(Unlikely::OtherHead { head, heads })
}

/// The oddest can of a test, by the middle of the others.
#[must_use]
pub fn can(test: &CanTest) -> Option<Unlikely> {
    let read = test.read();
    if read.len() <= ODD_CAN.1 {
        return None;
    }
    let (at, (number, most)) = read
        .iter()
        .map(|(can, caught)| (can.number, caught.depth_mm))
        .enumerate()
        .max_by(|a, b| a.1.1.total_cmp(&b.1.1))?;
    let mut others: Vec<f64> = read
        .iter()
        .enumerate()
        .filter(|(i, _)| *i != at)
        .map(|(_, (_, caught))| caught.depth_mm)
        .collect();
    others.sort_by(f64::total_cmp);
    let middle = others[others.len() / 2];
    (middle > 0.0 && most > ODD_CAN.0 * middle).then_some(Unlikely::OddCan {
        can: number,
        times: most / middle,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_run_is_asked_about_that_is_not_over_too_long_or_beyond_its_window() {
        let at = |text: &str| text.parse::<Timestamp>().unwrap();
        let (start, now) = (at("2026-06-18T06:00:00Z"), at("2026-06-18T11:30:00Z"));
        let closes_at = at("2026-06-18T07:00:00Z");
        let closes = Some(closes_at);
        assert_eq!(run(start, 3600, now, closes), None);
        assert_eq!(
            run(start, 3601, now, closes),
            Some(Unlikely::BeyondWindow { closes_at })
        );
        assert_eq!(run(start, 3601, now, None), None);
        assert!(matches!(
            run(start, 900 * 60, now, None),
            Some(Unlikely::EndsLater { .. })
        ));
        assert_eq!(
            run(start, 5 * 3600, now, None),
            Some(Unlikely::LongRun { seconds: 5 * 3600 })
        );
    }

    #[test]
    fn rain_and_heads_are_asked_about_beyond_what_is_usual() {
        assert_eq!(rain(150.0), None);
        assert_eq!(rain(500.0), Some(Unlikely::MuchRain { rain_mm: 500.0 }));
        assert_eq!(head(12, Some(12)), None);
        assert!(head(13, Some(12)).is_some());
        assert!(head(60, None).is_none() && head(99, None).is_some());
    }
}
