//! Normals of a place: what each month of the year is like on the mean, as atlases and weather services print it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::ranges;

/// A day counts as wet from this depth on, mm (WMO's wet day).
pub const WET_MM: f64 = 1.0;

/// Days of each month; of February the mean.
pub const MONTH_DAYS: [f64; 12] = [
    31.0, 28.25, 31.0, 30.0, 31.0, 30.0, 31.0, 31.0, 30.0, 31.0, 30.0, 31.0,
];

/// A month on the mean.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MonthNormal {
    /// Mean of the daily lows, °C.
    pub low_c: f64,
    /// Mean of the daily highs, °C.
    pub high_c: f64,
    /// Rain of the whole month, mm.
    pub rain_mm: f64,
    /// Days with 1 mm and more, 0 to the month's.
    pub wet_days: f64,
}

/// Twelve months, January first.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct Normals(pub [MonthNormal; 12]);

impl Normals {
    /// Whether the figures can be a year's.
    ///
    /// # Errors
    /// The month's field, such as `site.normals[3].high_c`.
    pub fn validate(&self) -> Result<(), Invalid> {
        for (m, (month, days)) in self.0.iter().zip(MONTH_DAYS).enumerate() {
            let field = |name: &str| format!("site.normals[{m}].{name}");
            Invalid::unless_within(field("low_c"), ranges::TMIN, month.low_c)?;
            Invalid::unless_within(field("high_c"), ranges::TMAX, month.high_c)?;
            Invalid::unless_within(field("rain_mm"), ranges::RAIN, month.rain_mm)?;
            if month.high_c < month.low_c {
                return Err(Invalid::new(
                    field("high_c"),
                    "the mean high lies below the mean low",
                ));
            }
            let most = days.ceil();
            if !(0.0..=most).contains(&month.wet_days) {
                return Err(Invalid::new(
                    field("wet_days"),
                    format!("{}: a month has 0 to {most} wet days", month.wet_days),
                ));
            }
            // A wet day has 1 mm at least.
            if month.wet_days * WET_MM > month.rain_mm {
                return Err(Invalid::new(
                    field("wet_days"),
                    "more wet days than the month's rain allows: each has 1 mm (0.04 in) and more",
                ));
            }
            // Less than 1 mm a day is no wet day; more in the month is some.
            if month.wet_days <= 0.0 && month.rain_mm >= days {
                return Err(Invalid::new(
                    field("wet_days"),
                    "so much rain needs wet days",
                ));
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn normals() -> Normals {
        Normals(
            [MonthNormal {
                low_c: 9.0,
                high_c: 20.0,
                rain_mm: 80.0,
                wet_days: 8.0,
            }; 12],
        )
    }

    #[test]
    fn what_cannot_be_is_refused_at_its_month() {
        assert_eq!(normals().validate(), Ok(()));
        let refused = |change: fn(&mut MonthNormal)| {
            let mut wrong = normals();
            change(&mut wrong.0[3]);
            wrong.validate().unwrap_err().field
        };
        assert_eq!(
            refused(|m| m.high_c = m.low_c - 1.0),
            "site.normals[3].high_c"
        );
        assert_eq!(refused(|m| m.low_c = f64::NAN), "site.normals[3].low_c");
        assert_eq!(refused(|m| m.wet_days = 32.0), "site.normals[3].wet_days");
        assert_eq!(refused(|m| m.rain_mm = 5.0), "site.normals[3].wet_days");
        assert_eq!(refused(|m| m.wet_days = 0.0), "site.normals[3].wet_days");
        assert_eq!(refused(|m| m.rain_mm = -1.0), "site.normals[3].rain_mm");
    }
}
