//! Slots: the allowed windows in which a zone may be watered, several a day where there are several, each with its standing.
//! Weather, rules, care and people write a standing alike; the site writes what it asks and what it has no room for.

use jiff::ToSpan;
use jiff::civil::Date;

use crate::engine::dose::Dose;
use crate::engine::lately::Lately;
use crate::engine::skip::Skip;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::site::Zone;
use crate::site::calendar::{CalendarDay, Interval};
use crate::weather::DailyWeather;
pub use crate::weather::HORIZON;
use crate::weather::outlook::Outlook;

/// Least soak worth making, mm, or a third of RAW if that is more.
const WORTHWHILE_MM: f64 = 6.0;

/// Before sunset, s, by which watering must have ended so that leaves dry (common practice, no source).
const DRIES_S: i64 = 2 * 3600;

/// Days that are looked ahead over: those after the plan's own are not planned, but what they need and hold is seen coming.
pub const LOOKED_AHEAD: usize = 2 * HORIZON;

/// A window of the site in the days ahead.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Opening {
    /// Day ahead, 0 is today; from [`HORIZON`] on it is looked at and not planned.
    pub day: usize,
    /// What is left of it.
    pub window: Interval,
    /// What the controller's clock may still plan of it: what has begun is left as it was planned.
    pub clock: Option<Interval>,
    /// Whether it opens at noon or later: its water enters after the day's ET.
    pub after_noon: bool,
    /// Whether it lasts so long after noon that leaves do not dry by night.
    pub evening: bool,
}

impl Opening {
    /// What of it a zone may use, s.
    #[must_use]
    pub fn length_s(&self, by_hand: bool) -> i64 {
        if by_hand {
            self.window.length_s()
        } else {
            self.clock.map_or(0, Interval::length_s)
        }
    }
}

/// The windows of a horizon in time order; the clock plans nothing before `committed_s`, if there is such an instant.
#[must_use]
pub fn openings(days: &[CalendarDay], committed_s: Option<i64>) -> Vec<Opening> {
    days.iter()
        .enumerate()
        .flat_map(|(day, c)| c.windows.iter().map(move |w| (day, c, *w)))
        .map(|(day, c, window)| {
            let clock = Interval {
                start_s: committed_s.map_or(window.start_s, |s| s.max(window.start_s)),
                ..window
            };
            Opening {
                day,
                window,
                clock: (clock.length_s() > 0).then_some(clock),
                after_noon: window.start_s >= c.noon_s,
                evening: window.start_s >= c.noon_s
                    && c.sunset_s.is_some_and(|s| window.end_s > s - DRIES_S),
            }
        })
        .collect()
}

/// The openings from which rules bar a zone, by their place in [`openings`]; the zone by its place in the site.
#[must_use]
fn barred(days: &[CalendarDay], zone: usize) -> Vec<usize> {
    let all = days
        .iter()
        .flat_map(|day| (0..day.windows.len()).map(move |window| day.bars(window, zone)));
    let all = all.enumerate();
    all.filter_map(|(opening, bars)| bars.then_some(opening))
        .collect()
}

/// The openings that are none for a zone: rules bar it from them, or they are too late in the day for it. `place`: its place in the site.
#[must_use]
pub fn closed_to(
    days: &[CalendarDay],
    openings: &[Opening],
    place: usize,
    zone: &Zone,
) -> Vec<usize> {
    let mut closed = barred(days, place);
    // New grass has its own hours, which end well before sunset.
    if !zone.regime.is_new_grass() {
        closed.extend(too_late(openings, zone));
    }
    closed
}

/// The openings that are too late in the day for a zone, by their place.
#[must_use]
pub(crate) fn too_late(openings: &[Opening], zone: &Zone) -> Vec<usize> {
    let late = openings.iter().enumerate().filter(|(_, o)| {
        o.after_noon
            && !zone
                .late_hours
                .allows(zone.grass, zone.sprinkler, o.evening)
    });
    late.map(|(place, _)| place).collect()
}

/// Whether a zone may be watered in a slot, and who says so.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub enum Standing {
    /// It may.
    #[default]
    Open,
    /// It must not.
    Forbidden(Skip),
    /// A person has fixed what runs.
    Fixed(Dose),
}

/// A zone's opportunity to be watered.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Slot {
    /// The site's opening, by its place in the list.
    pub opening: usize,
    /// Day ahead, 0 is today; from [`HORIZON`] on it is looked at and not planned.
    pub day: usize,
    /// Whether its water enters after the day's ET.
    pub after_noon: bool,
    /// When it opens, s since 1970-01-01 UTC.
    pub opens_s: i64,
    /// What the window holds for the zone, s; of a portable, at each setting.
    pub window_s: i64,
    /// Most net depth that it carries for this zone.
    pub capacity: Depth,
    /// What other zones leave of that.
    pub left: Depth,
    /// Whether the zone may be watered.
    pub standing: Standing,
}

impl Slot {
    /// What it can carry, as things stand.
    #[must_use]
    pub fn carries(&self) -> Depth {
        match self.standing {
            Standing::Forbidden(_) => Depth::ZERO,
            Standing::Open => self.left.min(self.capacity),
            Standing::Fixed(dose) => dose.irrigation.net,
        }
    }

    /// What it could carry if other zones left all of it.
    #[must_use]
    pub fn carries_alone(&self) -> Depth {
        match self.standing {
            Standing::Open => self.capacity,
            _ => self.carries(),
        }
    }

    /// The first day of the horizon whose ET comes after its water.
    pub(crate) fn first_use(&self) -> usize {
        self.day + usize::from(self.after_noon)
    }
}

/// A day of the horizon as one zone sees it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ZoneDay {
    /// Weather expected; rain 0.
    pub weather: DailyWeather,
    /// Crop ET without stress.
    pub etc: Depth,
    /// Readily available water.
    pub raw: Depth,
}

/// The days of a horizon as a zone sees them.
#[must_use]
pub fn zone_days(model: &ZoneModel, ahead: &[DailyWeather; HORIZON]) -> [ZoneDay; HORIZON] {
    ahead.map(|weather| {
        let etc = model.etc(&weather);
        ZoneDay {
            weather,
            etc,
            raw: model.raw(etc),
        }
    })
}

/// The days ahead as one zone sees them, those after the horizon too.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Daybook<'a> {
    /// The horizon.
    pub days: &'a [ZoneDay; HORIZON],
    /// Crop ET and RAW of the days after it.
    pub beyond: &'a [(Depth, Depth); HORIZON],
}

impl<'a> Daybook<'a> {
    /// Crop ET and RAW of a day ahead.
    pub fn use_of(&self, day: usize) -> (Depth, Depth) {
        match self.days.get(day) {
            Some(day) => (day.etc, day.raw),
            None => self.beyond[(day - HORIZON).min(HORIZON - 1)],
        }
    }

    /// Its weather; after the horizon as on the horizon's last day.
    pub fn weather(&self, day: usize) -> &'a DailyWeather {
        &self.days[day.min(HORIZON - 1)].weather
    }

    /// The civil day.
    pub fn date(&self, day: usize) -> Date {
        let days = i64::try_from(day).unwrap_or(i64::from(i32::MAX));
        self.days[0].weather.date.saturating_add(days.days())
    }
}

/// The least soak worth making on a day.
#[must_use]
pub fn worthwhile(raw: Depth) -> Depth {
    Depth::from_mm(WORTHWHILE_MM).max(raw / 3.0)
}

/// What a zone knows of rain ahead.
#[derive(Debug, Clone, Copy, Default)]
pub struct RainAhead<'a> {
    /// The site's outlook; `None`: plain refills.
    pub outlook: Option<&'a Outlook>,
    /// Opportunities running, up to now, at which the zone was held for rain.
    pub held: u32,
}

/// A zone at a slot.
#[derive(Debug, Clone, Copy)]
pub struct At<'a> {
    /// Its figures.
    pub model: &'a ZoneModel,
    /// Its depletion then.
    pub depletion: Depth,
    /// The horizon.
    pub days: &'a [ZoneDay; HORIZON],
    /// All its slots, in time order.
    pub slots: &'a [Slot],
    /// Which of them it stands at.
    pub here: usize,
    /// What it knows of rain.
    pub rain: RainAhead<'a>,
    /// What it got lately.
    pub lately: Lately,
}

impl<'a> At<'a> {
    /// The slot.
    #[must_use]
    pub fn slot(&self) -> &'a Slot {
        &self.slots[self.here]
    }

    /// The slot and those after it.
    #[must_use]
    pub fn left(&self) -> &'a [Slot] {
        &self.slots[self.here..]
    }

    /// Those after it.
    #[must_use]
    pub fn later(&self) -> &'a [Slot] {
        &self.slots[self.here + 1..]
    }
}
