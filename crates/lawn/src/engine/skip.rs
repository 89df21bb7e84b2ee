//! What forbids watering although it is wanted: frost, wind, yesterday's rain.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::DailyWeather;
use crate::weather::outlook::Outlook;

/// Air minimum at or below which nothing runs, °C.
const FROST_C: f64 = 3.0;
/// Wind at dawn as a share of the day's mean (common practice, no source).
const DAWN_WIND_SHARE: f64 = 0.6;
/// Rain in the last 24 hours above which nothing runs, mm.
const WET_MM: f64 = 10.0;

/// Why a zone may not run.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "because", rename_all = "snake_case")]
pub enum Skip {
    /// It may freeze.
    Frost {
        /// Least air temperature expected, °C.
        tmin_c: f64,
    },
    /// Wind would carry the water away.
    Wind {
        /// Wind expected then, at dawn or later in the day, m/s.
        dawn_m_s: f64,
        /// The sprinkler's limit, m/s.
        limit_m_s: f64,
    },
    /// It rained enough in the last 24 hours.
    Rained {
        /// How much.
        #[schema(value_type = f64)]
        rain_mm: Depth,
    },
    /// Rain is as good as sure to bring that day what a rule asks for.
    SureRain {
        /// How much, if it rains.
        #[schema(value_type = f64)]
        rain_mm: Depth,
        /// How likely, %.
        probability_pct: f64,
    },
    /// A person wants it dry that day: a match, a product just sprayed.
    KeptDry,
    /// A person took the day's watering out of the plan.
    TakenOut,
}

/// Probability from which on practitioners who water by the calendar leave a morning to the rain (common practice, no source).
const SURE: f64 = 0.8;
/// The last day ahead whose forecast is taken at its word: that of the coming morning.
const SURE_TO: usize = 1;

/// Whether the forecast of a day is as good as sure to bring a depth.
pub(crate) fn sure_rain(outlook: Option<&Outlook>, day: usize, asked: Depth) -> Option<Skip> {
    let rain = outlook.filter(|_| day <= SURE_TO)?.days().get(day)?.rain;
    (rain.probability >= SURE && rain.amount >= asked).then_some(Skip::SureRain {
        rain_mm: rain.amount,
        probability_pct: rain.probability * 100.0,
    })
}

/// Whether a day's rain forbids watering the morning after.
pub(crate) fn is_wet(rain: Depth) -> bool {
    rain.mm() > WET_MM
}

/// The least air temperature of a day on which it may freeze, °C.
#[must_use]
pub(crate) fn frost(day: &DailyWeather) -> Option<f64> {
    day.tmin_c.filter(|c| *c <= FROST_C)
}

/// What forbids watering new grass: frost, until noon. Wind dries it and is no reason, and of rain its surface tells.
#[must_use]
pub(crate) fn for_new_grass(day: &DailyWeather, after_noon: bool) -> Option<Skip> {
    let tmin_c = frost(day).filter(|_| !after_noon)?;
    Some(Skip::Frost { tmin_c })
}

/// The first thing that forbids watering in a window of a day, at dawn or from noon on: `yesterday` is the last day observed, and only the day
/// after it is judged by it.
#[must_use]
pub fn skip(
    model: &ZoneModel,
    day: &DailyWeather,
    after_noon: bool,
    yesterday: Option<&DailyWeather>,
) -> Option<Skip> {
    if let Some(tmin_c) = frost(day) {
        return Some(Skip::Frost { tmin_c });
    }
    let share = if after_noon { 1.0 } else { DAWN_WIND_SHARE };
    if let (Some(limit_m_s), Some(wind)) = (model.wind_limit_m_s, day.wind_m_s)
        && wind * share > limit_m_s
    {
        return Some(Skip::Wind {
            dawn_m_s: wind * share,
            limit_m_s,
        });
    }
    yesterday
        .filter(|y| is_wet(y.rain) && !y.rain_expected)
        .map(|y| Skip::Rained { rain_mm: y.rain })
}
