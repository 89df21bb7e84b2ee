//! The root zone, day by day (FAO-56 chapter 8, eqs 82 to 88; the order within the day is docs/decisions/0002).
//!
//! Dawn watering, then ET with stress by the depletion after watering, then what is given from noon on, then the day's rain, then drainage. Always
//! ΔDr = ETa − effective rain − irrigation net + drainage + adjustment, and 0 ≤ Dr ≤ TAW.

use std::ops::{AddAssign, Mul};

use science::curve_number::runoff_mm;
use science::depletion::stress_slope;
use serde::Serialize;

use crate::engine::surface_day::SurfaceDay;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::DailyWeather;

/// Rain below this share of ET0 never reaches the roots (FAO-56 ch. 8).
pub(crate) const NEGLIGIBLE_SHARE: f64 = 0.2;

/// Irrigation that reached a zone.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize)]
pub struct Irrigation {
    /// What came out of the sprinklers.
    pub gross: Depth,
    /// What entered the soil, as the driest part counts it.
    pub net: Depth,
    /// What ran off.
    pub runoff: Depth,
}

impl Irrigation {
    /// None.
    pub const NONE: Self = Self {
        gross: Depth::ZERO,
        net: Depth::ZERO,
        runoff: Depth::ZERO,
    };

    /// Water of a net depth on a zone, nothing running off.
    #[must_use]
    pub fn of_net(model: &ZoneModel, net: Depth) -> Self {
        Self {
            gross: model.gross_of_net(net),
            net,
            runoff: Depth::ZERO,
        }
    }
}

impl Mul<f64> for Irrigation {
    type Output = Self;

    fn mul(self, share: f64) -> Self {
        Self {
            gross: self.gross * share,
            net: self.net * share,
            runoff: self.runoff * share,
        }
    }
}

impl AddAssign for Irrigation {
    fn add_assign(&mut self, other: Self) {
        self.gross += other.gross;
        self.net += other.net;
        self.runoff += other.runoff;
    }
}

/// What a zone is given on a day.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Given {
    /// Before noon: it enters at dawn.
    pub dawn: Irrigation,
    /// From noon on: it enters after the day's ET, before its rain.
    pub later: Irrigation,
}

impl Given {
    /// Adds what is given before noon, or from noon on.
    pub fn add(&mut self, irrigation: Irrigation, after_noon: bool) {
        if after_noon {
            self.later += irrigation;
        } else {
            self.dawn += irrigation;
        }
    }

    /// All of it.
    #[must_use]
    pub fn all(&self) -> Irrigation {
        let mut all = self.dawn;
        all += self.later;
        all
    }
}

impl From<Irrigation> for Given {
    fn from(dawn: Irrigation) -> Self {
        Self {
            dawn,
            later: Irrigation::default(),
        }
    }
}

/// The soil below the roots: what it lacks of field capacity, and how thick the layer is in which it lacks it. It begins full; roots that
/// withdraw leave what they used behind, drainage refills it, roots that go deeper find it.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize)]
pub struct Below {
    /// What the layer lacks.
    pub depletion: Depth,
    /// Its thickness, from the roots down.
    pub thickness: Depth,
}

impl Below {
    /// Takes in what drains out of the root zone; what it does not hold goes deeper.
    pub fn drain(&mut self, drainage: Depth) {
        self.depletion = (self.depletion - drainage).max(Depth::ZERO);
        if self.depletion <= Depth::ZERO {
            self.thickness = Depth::ZERO;
        }
    }

    /// Follows roots from one depth to another: the correction of the root zone's depletion; positive dries. Depletion that the root zone can
    /// no longer hold is taken off.
    #[must_use]
    pub fn follow_roots(&mut self, before: &ZoneModel, now: &ZoneModel, depletion: Depth) -> Depth {
        let (from, to) = (before.root_depth.value, now.root_depth.value);
        let moved = if to < from {
            let left = depletion * (1.0 - to / from);
            self.depletion += left;
            self.thickness += from - to;
            -left
        } else if to > from && self.thickness > Depth::ZERO {
            let share = ((to - from) / self.thickness).min(1.0);
            let found = self.depletion * share;
            self.depletion -= found;
            self.thickness = (self.thickness - (to - from)).max(Depth::ZERO);
            found
        } else {
            Depth::ZERO
        };
        moved + (now.taw - depletion - moved).min(Depth::ZERO)
    }
}

/// One zone-day of the balance.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize)]
pub struct DayBalance {
    /// Depletion at the start of the day.
    pub start: Depth,
    /// Depletion at its end.
    pub end: Depth,
    /// Crop ET without stress.
    pub etc: Depth,
    /// Crop ET as it was.
    pub eta: Depth,
    /// Stress coefficient, 0 to 1.
    pub ks: f64,
    /// Readily available water of the day.
    pub raw: Depth,
    /// Rain as it fell.
    pub rain: Depth,
    /// Rain that entered the soil.
    pub effective_rain: Depth,
    /// Rain that ran off.
    pub rain_runoff: Depth,
    /// Irrigation.
    pub irrigation: Irrigation,
    /// Water beyond field capacity.
    pub drainage: Depth,
    /// Correction of the day; positive dries.
    pub adjustment: Depth,
    /// The surface store above the root zone, where new grass has one: start and end are then the root store's, and ETa is of both.
    pub surface: Option<SurfaceDay>,
}

/// A day's step of the store, mm.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Step {
    pub ks: f64,
    pub eta: f64,
    pub drainage: f64,
    pub end: f64,
}

/// The arithmetic of a day, in mm: what the balance and the comparison of doses share. It has no branch, so that scenarios go side by side.
/// 0 ≤ start ≤ TAW.
#[inline(always)]
pub(crate) fn step(start: f64, net: f64, etc: f64, slope: f64, taw: f64, rain: f64) -> Step {
    // Below 0 for some hours after a generous watering: what is left of it at night drains.
    let watered = start - net;
    let left = taw - watered;
    let ks = smaller(left * slope, 1.0);
    let eta = smaller(etc * ks, left);
    let after = watered + eta - rain;
    Step {
        ks,
        eta,
        drainage: larger(-after, 0.0),
        // Sums of floats may miss TAW by a hair.
        end: smaller(larger(after, 0.0), taw),
    }
}

/// The smaller of two numbers: one instruction for several scenarios at once, which [`f64::min`] with its care for what is no number is not.
#[inline(always)]
pub(crate) const fn smaller(a: f64, b: f64) -> f64 {
    if a < b { a } else { b }
}

/// The larger of two numbers, see [`smaller`].
#[inline(always)]
pub(crate) const fn larger(a: f64, b: f64) -> f64 {
    if a > b { a } else { b }
}

/// Runs one day from the depletion at its start.
#[must_use]
pub fn day(
    model: &ZoneModel,
    start: Depth,
    weather: &DailyWeather,
    given: impl Into<Given>,
) -> DayBalance {
    adjusted_day(model, start, Depth::ZERO, weather, given.into())
}

/// Runs one day that begins with a correction of the depletion; positive dries.
#[must_use]
pub fn adjusted_day(
    model: &ZoneModel,
    start: Depth,
    adjustment: Depth,
    weather: &DailyWeather,
    given: Given,
) -> DayBalance {
    let taw = model.taw;
    let etc = model.etc(weather);
    let raw = model.raw(etc);
    let (effective_rain, rain_runoff) = effective_rain(model, weather);
    let step = step(
        (start + adjustment).mm(),
        given.dawn.net.mm(),
        etc.mm(),
        stress_slope(taw.mm(), raw.mm()),
        taw.mm(),
        (effective_rain + given.later.net).mm(),
    );
    DayBalance {
        start,
        end: Depth::from_mm(step.end),
        etc,
        eta: Depth::from_mm(step.eta),
        ks: step.ks,
        raw,
        rain: weather.rain,
        effective_rain,
        rain_runoff,
        irrigation: given.all(),
        drainage: Depth::from_mm(step.drainage),
        adjustment,
        surface: None,
    }
}

/// Depletion at a moment of a day that begins with some, after what was given so far: before its ET, or from noon on after it.
pub(crate) fn depletion_at(
    model: &ZoneModel,
    start: Depth,
    weather: &DailyWeather,
    given: &Given,
    after_noon: bool,
) -> Depth {
    let watered = start - given.dawn.net;
    if !after_noon {
        return watered.max(Depth::ZERO);
    }
    let dry = DailyWeather {
        rain: Depth::ZERO,
        ..*weather
    };
    let eta = day(model, start, &dry, given.dawn).eta;
    (watered + eta - given.later.net).max(Depth::ZERO)
}

/// Rain that enters the soil and rain that runs off: nothing of a drizzle below a fifth of ET0, else what the curve number leaves.
pub(crate) fn effective_rain(model: &ZoneModel, weather: &DailyWeather) -> (Depth, Depth) {
    if weather.rain.mm() <= 0.0 || weather.rain < weather.et0 * NEGLIGIBLE_SHARE {
        return (Depth::ZERO, Depth::ZERO);
    }
    let runoff = Depth::from_mm(runoff_mm(weather.rain.mm(), model.curve_number));
    (weather.rain - runoff, runoff)
}
