//! What is read off a water meter: how much flowed between two readings, and which figures are asked about before they are taken.

use jiff::civil::DateTime;
use jiff::tz::{AmbiguousOffset, TimeZone};
use jiff::{SignedDuration, Timestamp};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::measure::unlikely::Unlikely;
use crate::quantity::Volume;
use crate::record::flow::HEARD;
use crate::site::meter::Meter;

/// A use so many times what is to be expected, and so much above it, is asked about (common practice, no source).
const MUCH: (f64, Volume) = (3.0, Volume::from_l(1000.0));
/// What a house uses in a day of which nothing else is known (common practice, no source).
const HOUSE_A_DAY: Volume = Volume::from_l(1000.0);
/// Fewest stretches between readings by whose middle the next is judged.
const FEWEST_STRETCHES: usize = 3;
/// What of a counter's range may have flowed over its turn that it is offered as an explanation, whatever is to be expected (no source).
const NEAR_THE_TURN: f64 = 0.1;
/// Two readings alike within this time are one that was sent twice, or typed again.
const AT_ONCE: SignedDuration = SignedDuration::from_hours(1);
const DAY_S: f64 = 86_400.0;

/// How a reading follows the one before it.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(tag = "follows", rename_all = "snake_case", deny_unknown_fields)]
#[schema(as = ReadingFollows)]
pub enum Follows {
    /// The counter went on.
    #[default]
    On,
    /// It passed its last figure and began at 0 again.
    RolledOver,
    /// The meter was changed for a new one.
    NewMeter {
        /// The last figure of the old one, where somebody read it.
        #[serde(default)]
        old_register: Option<f64>,
        /// The first figure of the new one.
        #[serde(default)]
        began_with: f64,
    },
}

impl Follows {
    /// As columns of a file or a table: its name, the old meter's last figure, the new one's first.
    #[must_use]
    pub const fn columns(self) -> (&'static str, Option<f64>, Option<f64>) {
        match self {
            Self::On => ("on", None, None),
            Self::RolledOver => ("rolled_over", None, None),
            Self::NewMeter {
                old_register,
                began_with,
            } => ("new_meter", old_register, Some(began_with)),
        }
    }

    /// From such columns; `None`: there is no such name.
    #[must_use]
    pub fn of_columns(name: &str, old: Option<f64>, began: Option<f64>) -> Option<Self> {
        match name {
            "on" => Some(Self::On),
            "rolled_over" => Some(Self::RolledOver),
            "new_meter" => Some(Self::NewMeter {
                old_register: old,
                began_with: began.unwrap_or_default(),
            }),
            _ => None,
        }
    }
}

/// A reading.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reading {
    /// When it was read.
    pub at: Timestamp,
    /// The figure, in the meter's own count.
    pub register: f64,
    /// How it follows the one before.
    pub follows: Follows,
}

/// What flowed between two readings of a meter; `None`: the meter was changed and nobody read the old one.
#[must_use]
pub fn used(meter: &Meter, before: &Reading, reading: &Reading) -> Option<Volume> {
    let counts = match reading.follows {
        Follows::On => reading.register - before.register,
        Follows::RolledOver => meter.turns_at() - before.register + reading.register,
        Follows::NewMeter {
            old_register,
            began_with,
        } => old_register? - before.register + reading.register - began_with,
    };
    Some(meter.volume(counts))
}

/// What a flow meter counted between two readings.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Heard {
    /// How much, by the minutes that were heard, as if the others had been like them.
    pub flowed: Volume,
    /// How far that may be off.
    pub open: Volume,
}

/// Share of the flow by which a dial and its pulses may differ (common practice, no source).
const PULSES_OFF: f64 = 0.05;

impl Heard {
    /// By the pulses of minutes from a reading to the next; a minute that was not heard is `None`. Nothing where a fifth or more was not heard.
    #[must_use]
    pub fn of(counts: &[Option<u16>], pulse: Volume) -> Option<Self> {
        let heard = counts.iter().flatten();
        let (minutes, pulses) = heard.fold((0_u32, 0.0), |(minutes, pulses), count| {
            (minutes + 1, pulses + f64::from(*count))
        });
        let share = f64::from(minutes) / f64::from(u32::try_from(counts.len()).unwrap_or(u32::MAX));
        // Of no minute at all this is no number, which is less than nothing.
        if share.is_nan() || share < HEARD {
            return None;
        }
        let litres = pulse.l() * pulses / share;
        Some(Self {
            flowed: Volume::from_l(litres),
            open: Volume::from_l(litres * (PULSES_OFF + 1.0 - share)),
        })
    }

    /// The figure on the dial by it, after a reading; `None`: the counter turned over since.
    fn register(&self, meter: &Meter, before: &Reading) -> Option<f64> {
        let counts = self.flowed.l() / meter.volume(1.0).l();
        let steps = (before.register + counts) / meter.step();
        let register = steps.round() / (1.0 / meter.step()).round();
        (register < meter.turns_at()).then_some(register)
    }
}

fn days(from: Timestamp, to: Timestamp) -> f64 {
    to.duration_since(from).as_secs_f64() / DAY_S
}

/// What is to be expected of a meter from the last of its readings to an instant: what ran on its zones in that time, and what its house uses; or what it
/// used a day before, where that is more.
#[must_use]
pub fn expected(meter: &Meter, readings: &[Reading], to: Timestamp, run: Volume) -> Volume {
    let Some(last) = readings.last() else {
        return run;
    };
    let span = days(last.at, to);
    let mut daily: Vec<f64> = readings
        .windows(2)
        .filter_map(|pair| {
            let span = days(pair[0].at, pair[1].at);
            let used = used(meter, &pair[0], &pair[1])?;
            (span > 0.0).then(|| used.l() / span)
        })
        .collect();
    let usual = if daily.len() >= FEWEST_STRETCHES {
        daily.sort_by(f64::total_cmp);
        daily[daily.len() / 2] * span
    } else {
        0.0
    };
    let house = if meter.house {
        HOUSE_A_DAY.l() * span
    } else {
        0.0
    };
    Volume::from_l(usual.max(run.l() + house))
}

/// What a person may have meant by a figure with one digit wrong, left out, doubled or exchanged with its neighbour: of those that hold the one whose
/// use comes nearest to what is expected.
fn meant(meter: &Meter, typed: f64, holds: impl Fn(f64) -> Option<f64>) -> Option<f64> {
    let width = usize::from(meter.digits + meter.decimals);
    let text = format!("{:0width$.0}", typed / meter.step());
    let digits: Vec<char> = text.chars().collect();
    let mut candidates: Vec<Vec<char>> = Vec::new();
    for i in 0..digits.len() {
        for digit in '0'..='9' {
            let mut other = digits.clone();
            other[i] = digit;
            candidates.push(other);
            // One was left out: what stands before moves up.
            let mut other = digits.clone();
            other.insert(i + 1, digit);
            other.remove(0);
            candidates.push(other);
        }
        if i + 1 < digits.len() {
            let mut other = digits.clone();
            other.swap(i, i + 1);
            candidates.push(other);
        }
        // One too many.
        let mut other = digits.clone();
        other.remove(i);
        candidates.push(other);
    }
    candidates
        .into_iter()
        .filter(|candidate| *candidate != digits)
        .filter_map(|candidate| {
            let count: f64 = candidate.into_iter().collect::<String>().parse().ok()?;
            // Whole counts over a power of ten: no figure with sixteen digits.
            let register = count / (1.0 / meter.step()).round();
            Some((holds(register)?, register))
        })
        .min_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, register)| register)
}

/// What is odd about a reading between its neighbours in time, given what is to be expected since the one before it; `None`: nothing.
#[must_use]
pub fn odd(
    meter: &Meter,
    before: Option<&Reading>,
    next: Option<&Reading>,
    new: &Reading,
    expected: Volume,
) -> Option<Unlikely> {
    odd_beside(meter, before, next, new, expected, None)
}

/// As [`odd`], beside the flow that was `heard` since the reading before: what it says is expected then, within what it leaves open.
#[must_use]
pub fn odd_beside(
    meter: &Meter,
    before: Option<&Reading>,
    next: Option<&Reading>,
    new: &Reading,
    expected: Volume,
    heard: Option<Heard>,
) -> Option<Unlikely> {
    let steps = meter.volume(2.0 * meter.step()).l();
    let expected = heard.map_or(expected, |heard| heard.flowed);
    let (least, most) = match heard {
        Some(heard) => {
            let open = heard.open.l() + steps;
            ((heard.flowed.l() - open).max(0.0), heard.flowed.l() + open)
        }
        None => (0.0, expected.l() * MUCH.0 + MUCH.1.l() + steps),
    };
    let heard_register = before
        .zip(heard)
        .and_then(|(before, heard)| heard.register(meter, before));
    let goes_on = |next: &&Reading| next.follows == Follows::On;
    let fits_next = |register: f64| {
        next.filter(goes_on)
            .is_none_or(|next| register <= next.register)
    };
    let likely = |register: f64| {
        let before = before?;
        let reading = Reading { register, ..*new };
        let litres = used(meter, before, &reading)?.l();
        let holds = (least..=most).contains(&litres) && fits_next(register);
        holds.then(|| (litres - expected.l()).abs())
    };
    if let Some(next) = next.filter(goes_on)
        && new.register > next.register
    {
        return Some(Unlikely::AboveNextReading {
            next: next.register,
            next_at: next.at,
            meant: meant(meter, new.register, likely),
        });
    }
    let before = before?;
    let used = used(meter, before, new)?;
    if used < Volume::from_l(0.0) {
        let rolled_over = Reading {
            follows: Follows::RolledOver,
            ..*new
        };
        let near_the_turn = meter.volume(NEAR_THE_TURN * meter.turns_at()).l();
        let turned =
            self::used(meter, before, &rolled_over).filter(|v| v.l() <= most.max(near_the_turn));
        return Some(Unlikely::LowerReading {
            last: before.register,
            last_at: before.at,
            rolled_over_l: turned.map(Volume::l),
            meant: meant(meter, new.register, likely),
            heard_register,
        });
    }
    if let Some(heard) = heard.filter(|_| !(least..=most).contains(&used.l())) {
        return Some(Unlikely::OtherThanHeard {
            used_l: used.l(),
            heard_l: heard.flowed.l(),
            meant: meant(meter, new.register, likely),
            heard_register,
        });
    }
    if used.l() > most {
        return Some(Unlikely::MuchUsed {
            used_l: used.l(),
            expected_l: expected.l(),
            meant: meant(meter, new.register, likely),
        });
    }
    let alike = new.follows == Follows::On && new.register.total_cmp(&before.register).is_eq();
    let at_once = new.at.duration_since(before.at) < AT_ONCE;
    if alike && (at_once || expected.l() > meter.volume(2.0 * meter.step()).l()) {
        return Some(Unlikely::SameReading {
            last_at: before.at,
            expected_l: expected.l(),
        });
    }
    None
}

/// Days after which a meter is read again while its lawn is watered, and where its flow is known by the minute (common practice, no source).
const READ_EVERY_DAYS: (i64, i64) = (7, 30);
/// How long a flow meter may be silent before its flow is not known any more (no source).
const SILENT: SignedDuration = SignedDuration::from_hours(48);

/// Whether somebody should read a meter: never read, or read long ago while water `ran` since. `heard`: when its flow was last heard.
#[must_use]
pub fn is_due(
    last: Option<Timestamp>,
    heard: Option<Timestamp>,
    ran: Volume,
    now: Timestamp,
) -> bool {
    let is_heard = heard.is_some_and(|heard| now.duration_since(heard) < SILENT);
    let every = if is_heard {
        READ_EVERY_DAYS.1
    } else {
        READ_EVERY_DAYS.0
    };
    let every = SignedDuration::from_hours(24 * every);
    last.is_none_or(|last| ran > Volume::default() && now.duration_since(last) >= every)
}

/// What a time on the local clock is, in a night on which it is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum OnTheClock {
    /// One instant.
    Once(Timestamp),
    /// It came twice: before the clock was set back, and after.
    Twice(Timestamp, Timestamp),
    /// The clock was set forward over it, to this time.
    Never(DateTime),
}

/// The instant of a time on the local clock.
#[must_use]
pub fn on_the_clock(zone: &TimeZone, at: DateTime) -> OnTheClock {
    let instant = |offset: jiff::tz::Offset| offset.to_timestamp(at).unwrap_or(Timestamp::MAX);
    match zone.to_ambiguous_timestamp(at).offset() {
        AmbiguousOffset::Unambiguous { offset } => OnTheClock::Once(instant(offset)),
        AmbiguousOffset::Fold { before, after } => {
            OnTheClock::Twice(instant(before), instant(after))
        }
        AmbiguousOffset::Gap { before, .. } => {
            OnTheClock::Never(instant(before).to_zoned(zone.clone()).datetime())
        }
    }
}
