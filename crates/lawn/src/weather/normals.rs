//! What the normals of a place lead one to expect of a day. They stand in for a record that there is not yet, and beside a short one; days
//! that were observed take their place as they come ([`Normals::chance_beside`], [`Normals::et0_beside`]).

use jiff::civil::Date;
use science::reference_et::{Choice, Station};

use crate::quantity::Depth;
use crate::site::normals::MONTH_DAYS;
pub use crate::site::normals::{MonthNormal, Normals};
use crate::weather::outlook::{Climatology, RainChance};
use crate::weather::{DailyWeather, MEAN_DAYS, WeatherDay};

/// Days of a month's record that its normals weigh: one year's. After one year of record half is the record's, after three three quarters
/// (common practice, no source).
pub const WEIGHT_DAYS: f64 = 30.0;

/// Share of the rain expected of a day that the balance counts where nobody told of it: rain that falls in lumps runs through in part, an even
/// trickle never does. With it the seasons of an open daily series need by normals on the mean what they need by their days (`tests/it/normals.rs`);
/// USDA-SCS TR-21's effective precipitation of a 50 mm month in 25 mm of storage is 55 % (from memory).
const COUNTED: f64 = 0.7;

impl Normals {
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

    /// The rain that the balance counts on a day of which nobody told.
    #[must_use]
    pub fn counted_rain(&self, date: Date) -> Depth {
        let chance = self.chance(date);
        chance.amount * (chance.probability * COUNTED)
    }

    /// Mean air temperature of a day, °C.
    #[must_use]
    pub fn mean_c(&self, date: Date) -> Option<f64> {
        let day = self.day(date);
        Some(f64::midpoint(day.tmin_c?, day.tmax_c?))
    }

    /// Reference ET to be expected of a day: the mean of the last seven days before it, in which the normals' day stands for each that is not
    /// known.
    #[must_use]
    pub fn et0_beside(&self, station: &Station, before: &[DailyWeather], date: Date) -> Depth {
        let own = self.day(date).reference_et(station, Choice::Auto);
        // Normals that hold have an ET.
        let own = own.ok().flatten().map_or(0.0, |et| et.et0_mm);
        let known = known_of_last(before);
        let count = f64::from(u8::try_from(known.clone().count()).unwrap_or(u8::MAX));
        let sum: Depth = known.map(|d| d.et0).sum();
        #[allow(clippy::cast_precision_loss)] // seven
        let of = MEAN_DAYS as f64;
        (sum + Depth::from_mm(own) * (of - count)) / of
    }
}

/// Of the last seven days those whose reference ET is known.
pub(crate) fn known_of_last(
    before: &[DailyWeather],
) -> impl Iterator<Item = &DailyWeather> + Clone {
    let last = &before[before.len().saturating_sub(MEAN_DAYS)..];
    last.iter().filter(|d| d.method.is_some())
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
