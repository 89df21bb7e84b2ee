//! Normals of a place: what each month of the year is like on the mean. They stand in for a record that there is not yet, and beside a
//! short one; days that were observed take their place as they come ([`Normals::chance_beside`]).

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::quantity::Depth;
use crate::ranges;
use crate::weather::WeatherDay;
use crate::weather::outlook::{Climatology, RainChance};

/// Days of a month's record that its normals weigh: one year's. After one year of record half is the record's, after three three quarters
/// (common practice, no source).
pub const WEIGHT_DAYS: f64 = 30.0;

/// Days of each month; of February the mean.
const MONTH_DAYS: [f64; 12] = [
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
    /// The month's field, such as `normals[3].high_c`.
    pub fn validate(&self) -> Result<(), Invalid> {
        for (m, (month, days)) in self.0.iter().zip(MONTH_DAYS).enumerate() {
            let field = |name: &str| format!("normals[{m}].{name}");
            Invalid::unless_within(field("low_c"), ranges::TMIN, month.low_c)?;
            Invalid::unless_within(field("high_c"), ranges::TMAX, month.high_c)?;
            Invalid::unless_within(field("rain_mm"), ranges::RAIN, month.rain_mm)?;
            if month.high_c < month.low_c {
                return Err(Invalid::new(
                    field("high_c"),
                    format!("the mean high lies below the mean low, {} °C", month.low_c),
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
            if month.wet_days * Climatology::WET_MM > month.rain_mm {
                return Err(Invalid::new(
                    field("wet_days"),
                    format!(
                        "{} days of 1 mm and more are more than the month's rain, {} mm",
                        month.wet_days, month.rain_mm
                    ),
                ));
            }
            // Less than 1 mm a day is no wet day; more in the month is some.
            if month.wet_days <= 0.0 && month.rain_mm >= days {
                return Err(Invalid::new(
                    field("wet_days"),
                    format!("{} mm of rain need wet days", month.rain_mm),
                ));
            }
        }
        Ok(())
    }

    /// Low and high of a day, without rain. Between the middles of two months the means are joined by a line.
    #[must_use]
    pub fn day(&self, date: Date) -> WeatherDay {
        let month = index(date);
        let middle = f64::from(date.days_in_month()) / 2.0;
        let from_middle = f64::from(date.day()) - 0.5 - middle;
        let neighbour = if from_middle < 0.0 {
            (month + 11) % 12
        } else {
            (month + 1) % 12
        };
        let apart = (MONTH_DAYS[month] + MONTH_DAYS[neighbour]) / 2.0;
        let share = (from_middle.abs() / apart).min(0.5);
        let (this, other) = (self.0[month], self.0[neighbour]);
        let between = |a: f64, b: f64| a + (b - a) * share;
        WeatherDay {
            date,
            tmin_c: Some(between(this.low_c, other.low_c)),
            tmax_c: Some(between(this.high_c, other.high_c)),
            ..WeatherDay::default()
        }
    }

    /// Rain of a day.
    #[must_use]
    pub fn chance(&self, date: Date) -> RainChance {
        self.chance_beside(&Climatology::default(), date)
    }

    /// Rain of a day by normals and the days of the month on record: the normals count like [`WEIGHT_DAYS`] of these.
    #[must_use]
    pub fn chance_beside(&self, record: &Climatology, date: Date) -> RainChance {
        let month = index(date);
        let normal = self.0[month];
        let of_month = record.months().find(|(number, ..)| *number == month + 1);
        let (days, wet, rain_mm) = of_month.map_or((0.0, 0.0, 0.0), |(_, days, wet, rain_mm)| {
            (f64::from(days), f64::from(wet), rain_mm)
        });
        let weight = WEIGHT_DAYS / MONTH_DAYS[month];
        let wet = wet + normal.wet_days * weight;
        if wet <= 0.0 {
            return RainChance::NONE;
        }
        RainChance {
            probability: wet / (days + WEIGHT_DAYS),
            amount: Depth::from_mm((rain_mm + normal.rain_mm * weight) / wet),
            exact: false,
        }
    }
}

/// A day's month, 0 to 11.
fn index(date: Date) -> usize {
    usize::try_from(date.month()).unwrap_or(1) - 1
}

#[cfg(test)]
mod tests {
    use jiff::civil::date;
    use proptest::prelude::*;

    use super::*;

    /// Warmest in July, wettest in May.
    fn normals() -> Normals {
        Normals(std::array::from_fn(|m| {
            let month = f64::from(u8::try_from(m).unwrap());
            let warm = ((month - 6.0) * std::f64::consts::PI / 6.0).cos();
            MonthNormal {
                low_c: 9.0 + 10.0 * warm,
                high_c: 20.0 + 11.0 * warm,
                rain_mm: if m == 4 { 120.0 } else { 80.0 },
                wet_days: 8.0,
            }
        }))
    }

    #[test]
    fn a_month_keeps_its_mean_and_none_begins_with_a_step() {
        let normals = normals();
        for (m, month) in normals.0.iter().enumerate() {
            let first = date(2026, i8::try_from(m + 1).unwrap(), 1);
            let days: Vec<f64> = first
                .series(jiff::ToSpan::days(1))
                .take(usize::try_from(first.days_in_month()).unwrap())
                .map(|d| normals.day(d).tmax_c.unwrap())
                .collect();
            let mean = days.iter().sum::<f64>() / f64::from(first.days_in_month());
            // Lines cut the tops and fill the troughs by some tenths.
            assert!((mean - month.high_c).abs() < 0.4, "{m}: {mean}");
        }
        // No step from one month to the next.
        let (last, first) = (date(2026, 3, 31), date(2026, 4, 1));
        let step = normals.day(first).tmax_c.unwrap() - normals.day(last).tmax_c.unwrap();
        assert!((0.0..0.3).contains(&step), "{step}");
    }

    #[test]
    fn what_cannot_be_is_refused_at_its_month() {
        assert_eq!(normals().validate(), Ok(()));
        let refused = |change: fn(&mut MonthNormal)| {
            let mut wrong = normals();
            change(&mut wrong.0[3]);
            wrong.validate().unwrap_err().field
        };
        assert_eq!(refused(|m| m.high_c = m.low_c - 1.0), "normals[3].high_c");
        assert_eq!(refused(|m| m.low_c = f64::NAN), "normals[3].low_c");
        assert_eq!(refused(|m| m.wet_days = 32.0), "normals[3].wet_days");
        assert_eq!(refused(|m| m.rain_mm = 5.0), "normals[3].wet_days");
        assert_eq!(refused(|m| m.wet_days = 0.0), "normals[3].wet_days");
        assert_eq!(refused(|m| m.rain_mm = -1.0), "normals[3].rain_mm");
    }

    #[test]
    fn the_record_takes_the_place_of_the_normals() {
        let normals = normals();
        let june = date(2026, 6, 10);
        let alone = normals.chance(june);
        assert!((alone.probability - 8.0 / 30.0).abs() < 1e-9);
        assert!((alone.amount.mm() - 10.0).abs() < 1e-9);
        // A year whose June was dry all through: half of the chance is left.
        let dry = Climatology::of_months([(6, 30, 0, 0.0)]);
        assert!((normals.chance_beside(&dry, june).probability - 4.0 / 30.0).abs() < 1e-9);
        // Thirty such years: hardly any.
        let dry = Climatology::of_months([(6, 900, 0, 0.0)]);
        assert!(normals.chance_beside(&dry, june).probability < 0.01);
        // Another month's days tell nothing of June.
        let may = Climatology::of_months([(5, 31, 31, 400.0)]);
        assert_eq!(normals.chance_beside(&may, june), alone);
    }

    proptest! {
        /// What normals and record expect of a day lies between what each expects alone.
        #[test]
        fn the_blend_lies_between(days in 1..900u32, wet in 0.0..1.0f64, amount in 1.0..60.0f64) {
            let (normals, june) = (normals(), date(2026, 6, 10));
            #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
            let wet = (f64::from(days) * wet) as u32;
            let rain_mm = f64::from(wet) * amount;
            let record = Climatology::of_months([(6, days, wet, rain_mm)]);
            let expected = |chance: RainChance| chance.probability * chance.amount.mm();
            let own = rain_mm / f64::from(days);
            let alone = expected(normals.chance(june));
            let both = expected(normals.chance_beside(&record, june));
            prop_assert!(own.min(alone) - 1e-9 <= both && both <= own.max(alone) + 1e-9);
        }
    }
}
