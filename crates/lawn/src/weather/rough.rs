//! Rough normals of a place of which nobody knows any: by its latitude, its height and how near the sea is. They are a first guess, to have a
//! plan on the first evening: temperatures are off by some degrees, rain by half to twice.
//!
//! The table holds means of all land at a latitude, from memory; no source. What the place's own atlas, station or weather service says is better.

use serde::Serialize;
use utoipa::ToSchema;

use crate::site::Site;
use crate::site::normals::{MONTH_DAYS, MonthNormal, Normals};

/// By how much a rough month's temperature may be off, °C (by some dozen places known from memory; no source).
pub const DOUBT_C: f64 = 7.0;

/// By how many times a rough month's rain may be off (common practice, no source).
pub const DOUBT_RAIN: f64 = 2.0;

/// Land cools by so much for each metre of height, K: less than the free air's 6.5 K/km, since high plains are warmed by the sun like low ones (fitted to the
/// cities of the tests below; no source).
const LAPSE_K_M: f64 = 0.0045;

/// The land of a latitude at sea level.
struct Belt {
    /// Mean of the year, far from the sea and near it, °C.
    mean_c: [f64; 2],
    /// Half of what the warmest and the coldest month are apart, far from the sea and near it, °C.
    swing_c: [f64; 2],
    /// Rain of a month, mm.
    rain_mm: f64,
    /// Wet days of a month.
    wet_days: f64,
}

const fn belt(mean_c: [f64; 2], swing_c: [f64; 2], rain_mm: f64, wet_days: f64) -> Belt {
    Belt {
        mean_c,
        swing_c,
        rain_mm,
        wet_days,
    }
}

/// Every ten degrees, from the equator to 70°.
const BELTS: [Belt; 8] = [
    belt([26.5, 26.5], [1.0, 1.0], 140.0, 13.0),
    belt([27.0, 26.5], [2.5, 1.5], 100.0, 9.0),
    belt([25.0, 24.0], [6.0, 3.5], 60.0, 6.0),
    belt([20.0, 19.0], [9.5, 5.5], 55.0, 5.5),
    belt([13.5, 14.0], [12.5, 6.5], 65.0, 7.5),
    belt([7.5, 10.5], [14.5, 7.0], 60.0, 9.5),
    belt([1.5, 6.5], [17.0, 8.0], 50.0, 9.0),
    belt([-8.0, 1.0], [19.0, 9.0], 35.0, 7.5),
];

/// What a day's high and low are apart, far from the sea and near it, °C.
const DAILY_C: [f64; 2] = [12.0, 8.0];

/// By how much more they are apart for each metre of height, K, and the most that they are, °C: thin air lets the warmth out at night.
const DAILY_K_M: f64 = 0.001;
const MOST_DAILY_C: f64 = 16.0;

/// The middle of the warmest month, as a month of the year from 0, north of the equator.
const WARMEST: f64 = 6.3;

/// How much an ocean tempers the year of a time zone's towns, 0 to 1: all of it on islands and on shores where the wind comes from the sea, half of it in the rest of
/// Europe, where nothing stops that wind.
fn tempered(time_zone: &str) -> f64 {
    const SHORES: [&str; 22] = [
        "Africa/Cape_Town",
        "Africa/Casablanca",
        "America/Anchorage",
        "America/Los_Angeles",
        "America/Santiago",
        "America/Tijuana",
        "America/Vancouver",
        "Australia/Adelaide",
        "Australia/Hobart",
        "Australia/Melbourne",
        "Australia/Perth",
        "Australia/Sydney",
        "Europe/Amsterdam",
        "Europe/Belfast",
        "Europe/Brussels",
        "Europe/Copenhagen",
        "Europe/Dublin",
        "Europe/Guernsey",
        "Europe/Jersey",
        "Europe/Lisbon",
        "Europe/London",
        "Europe/Oslo",
    ];
    let in_region = |region: &str| time_zone.starts_with(region);
    if SHORES.contains(&time_zone)
        || ["Atlantic/", "Indian/", "Pacific/"]
            .into_iter()
            .any(in_region)
    {
        1.0
    } else if in_region("Europe/") {
        0.5
    } else {
        0.0
    }
}

/// Rough normals with their doubt.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = RoughNormals)]
pub struct Rough {
    /// The months.
    pub months: Normals,
    /// By how much their temperatures may be off, °C.
    pub doubt_c: f64,
    /// By how many times their rain may be off.
    pub doubt_rain: f64,
    /// Whether they are the site's normals at present.
    pub are_kept: bool,
}

impl Rough {
    /// Of a site's place.
    #[must_use]
    pub fn of(site: &Site) -> Self {
        let months = Normals::rough_of(site);
        Self {
            months,
            doubt_c: DOUBT_C,
            doubt_rain: DOUBT_RAIN,
            are_kept: site.normals == Some(months),
        }
    }
}

impl Normals {
    /// [Rough](Self::rough) normals of a site's place.
    #[must_use]
    pub fn rough_of(site: &Site) -> Self {
        Self::rough(site.latitude, site.elevation_m, &site.time_zone)
    }

    /// Rough normals of a place: `latitude` in degrees, south negative; `elevation_m` above the sea, m; `time_zone` by its IANA name.
    #[must_use]
    pub fn rough(latitude: f64, elevation_m: f64, time_zone: &str) -> Self {
        let tempered = tempered(time_zone);
        // South of the equator the oceans temper every place.
        let by_sea = if latitude < 0.0 { 1.0 } else { tempered };
        let at = (latitude.abs() / 10.0).min(6.999_999);
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // 0 to 6
        let below = at.floor() as usize;
        let (south, north) = (&BELTS[below], &BELTS[below + 1]);
        let between = |of: fn(&Belt) -> f64| of(south) + (of(north) - of(south)) * at.fract();
        let inland_or_shore = |inland: fn(&Belt) -> f64, shore: fn(&Belt) -> f64| {
            between(inland) + (between(shore) - between(inland)) * by_sea
        };
        let height_m = elevation_m.max(0.0);
        let mean_c = inland_or_shore(|b| b.mean_c[0], |b| b.mean_c[1]) - LAPSE_K_M * height_m;
        let swing_c = inland_or_shore(|b| b.swing_c[0], |b| b.swing_c[1]);
        let (rain_mm, wet_days) = (between(|belt| belt.rain_mm), between(|belt| belt.wet_days));
        let [inland_c, shore_c] = DAILY_C;
        let daily_c = inland_c + (shore_c - inland_c) * tempered + DAILY_K_M * height_m;
        let half_day = daily_c.min(MOST_DAILY_C) / 2.0;
        let warmest = if latitude < 0.0 {
            WARMEST - 6.0
        } else {
            WARMEST
        };
        let tenth = |x: f64| (x * 10.0).round() / 10.0;
        Self(std::array::from_fn(|month| {
            let turn = (f64::from(u8::try_from(month).unwrap_or(0)) - warmest) / 12.0;
            let of_month = mean_c + swing_c * (turn * std::f64::consts::TAU).cos();
            let whole = MONTH_DAYS[month] / 30.0;
            MonthNormal {
                low_c: tenth(of_month - half_day),
                high_c: tenth(of_month + half_day),
                rain_mm: (rain_mm * whole).round(),
                wet_days: tenth(wet_days * whole),
            }
        }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A city: latitude, height, time zone, and the mean high and low of January and of July, °C, from memory of printed climate tables.
    type City = (&'static str, f64, f64, &'static str, [f64; 4]);

    const CITIES: [City; 16] = [
        (
            "Ankara",
            39.9,
            940.0,
            "Europe/Istanbul",
            [4.0, -4.0, 30.0, 15.0],
        ),
        (
            "Beijing",
            39.9,
            50.0,
            "Asia/Shanghai",
            [2.0, -8.0, 31.0, 22.0],
        ),
        (
            "Bogotá",
            4.7,
            2550.0,
            "America/Bogota",
            [19.0, 7.0, 18.0, 8.0],
        ),
        (
            "Chicago",
            41.9,
            180.0,
            "America/Chicago",
            [0.0, -8.0, 29.0, 20.0],
        ),
        (
            "Denver",
            39.7,
            1610.0,
            "America/Denver",
            [7.0, -8.0, 32.0, 15.0],
        ),
        (
            "Dublin",
            53.4,
            20.0,
            "Europe/Dublin",
            [8.0, 3.0, 19.0, 12.0],
        ),
        (
            "Johannesburg",
            -26.2,
            1750.0,
            "Africa/Johannesburg",
            [26.0, 15.0, 17.0, 4.0],
        ),
        (
            "London",
            51.5,
            20.0,
            "Europe/London",
            [8.0, 2.0, 23.0, 14.0],
        ),
        (
            "Melbourne",
            -37.8,
            30.0,
            "Australia/Melbourne",
            [26.0, 14.0, 14.0, 6.0],
        ),
        (
            "Madrid",
            40.4,
            660.0,
            "Europe/Madrid",
            [10.0, 2.0, 32.0, 18.0],
        ),
        (
            "Mexico City",
            19.4,
            2240.0,
            "America/Mexico_City",
            [22.0, 6.0, 23.0, 12.0],
        ),
        (
            "Moscow",
            55.8,
            150.0,
            "Europe/Moscow",
            [-4.0, -9.0, 24.0, 14.0],
        ),
        (
            "Nairobi",
            -1.3,
            1795.0,
            "Africa/Nairobi",
            [26.0, 13.0, 22.0, 11.0],
        ),
        (
            "New York",
            40.7,
            10.0,
            "America/New_York",
            [4.0, -3.0, 29.0, 21.0],
        ),
        (
            "San Francisco",
            37.8,
            20.0,
            "America/Los_Angeles",
            [14.0, 8.0, 20.0, 12.0],
        ),
        (
            "Vienna",
            48.2,
            200.0,
            "Europe/Vienna",
            [4.0, -1.0, 27.0, 16.0],
        ),
    ];

    #[test]
    fn cities_lie_within_the_doubt() {
        for (city, latitude, elevation_m, time_zone, right) in CITIES {
            let normals = Normals::rough(latitude, elevation_m, time_zone);
            let [january, july] = [0, 6].map(|month: usize| normals.0[month]);
            let is = [january.high_c, january.low_c, july.high_c, july.low_c];
            for (is, right) in is.into_iter().zip(right) {
                assert!(
                    (is - right).abs() <= DOUBT_C,
                    "{city}: {is}, not {right}: {normals:?}"
                );
            }
        }
    }

    #[test]
    fn rough_normals_hold_anywhere() {
        for latitude in -90..=90 {
            for elevation_m in [-400.0, 0.0, 2500.0, 5000.0] {
                let normals = Normals::rough(f64::from(latitude), elevation_m, "Etc/UTC");
                assert_eq!(
                    normals.validate().err(),
                    None,
                    "{latitude}°, {elevation_m} m"
                );
            }
        }
    }
}
