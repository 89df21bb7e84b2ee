//! The root zone, day by day (FAO-56 chapter 8, eqs 82 to 88; the order within the day is docs/decisions/0002).
//!
//! Dawn watering, then ET with stress by the depletion after watering, then the day's rain, then drainage. Always
//! ΔDr = ETa − effective rain − irrigation net + drainage + adjustment, and 0 ≤ Dr ≤ TAW.

use std::ops::{AddAssign, Mul};

use science::curve_number::runoff_mm;
use science::depletion::stress_coefficient;

use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::DailyWeather;

/// Rain below this share of ET0 never reaches the roots (FAO-56 ch. 8).
pub(crate) const NEGLIGIBLE_SHARE: f64 = 0.2;

/// Irrigation that reached a zone at dawn.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Irrigation {
    /// What came out of the sprinklers.
    pub gross: Depth,
    /// What entered the soil, as the driest part counts it.
    pub net: Depth,
    /// What ran off.
    pub runoff: Depth,
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

/// One zone-day of the balance.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
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
}

/// Runs one day from the depletion at its start.
#[must_use]
pub fn day(
    model: &ZoneModel,
    start: Depth,
    weather: &DailyWeather,
    irrigation: Irrigation,
) -> DayBalance {
    let taw = model.taw;
    let etc = model.etc(weather);
    let raw = model.raw(etc);
    // Below 0 for some hours after a generous watering: what is left of it at night drains.
    let watered = start - irrigation.net;
    let ks = stress_coefficient(watered.mm(), raw.mm(), taw.mm());
    let eta = (etc * ks).min(taw - watered).max(Depth::ZERO);
    let (effective_rain, rain_runoff) = effective_rain(model, weather);
    let after = watered + eta - effective_rain;
    let drainage = (-after).max(Depth::ZERO);
    DayBalance {
        start,
        // Sums of floats may miss the bounds by a hair.
        end: (after + drainage).max(Depth::ZERO).min(taw),
        etc,
        eta,
        ks,
        raw,
        rain: weather.rain,
        effective_rain,
        rain_runoff,
        irrigation,
        drainage,
        adjustment: Depth::ZERO,
    }
}

/// Rain that enters the soil and rain that runs off: nothing of a drizzle below a fifth of ET0, else what the curve number leaves.
fn effective_rain(model: &ZoneModel, weather: &DailyWeather) -> (Depth, Depth) {
    if weather.rain.mm() <= 0.0 || weather.rain < weather.et0 * NEGLIGIBLE_SHARE {
        return (Depth::ZERO, Depth::ZERO);
    }
    let runoff = Depth::from_mm(runoff_mm(weather.rain.mm(), model.curve_number));
    (weather.rain - runoff, runoff)
}
