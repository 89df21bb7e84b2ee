//! What a zone got lately: what schools that go by the calendar read.

use jiff::ToSpan;
use jiff::civil::Date;

use crate::engine::root_zone::Irrigation;
use crate::quantity::Depth;

/// Rain within three days that wets the crowns of dormant turf, mm (common practice, no source).
const WETTING_RAIN_MM: f64 = 6.0;
/// Net depth of a usual crown watering, mm (common practice, no source).
pub(crate) const CROWN_WATERING_MM: f64 = 12.0;
/// Share of a crown watering from which it is complete: runs are rounded down to the controller's steps.
const COMPLETE: f64 = 0.9;

/// What a zone got lately.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lately {
    /// The last day on which it was watered, as far back as is known.
    pub watered: Option<Date>,
    /// The last day on which its crowns were wetted: a crown watering was complete, or 6 mm of rain had entered the soil, within three days.
    pub wetted: Option<Date>,
    /// Net depth of a crown watering.
    crowns: Depth,
    /// The last three days, the newest first.
    days: [Got; 3],
    /// Depth out of the sprinklers on that day.
    last_gross: Depth,
    week: Week,
}

/// What a zone got on a day.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
struct Got {
    date: Date,
    /// Net irrigation.
    given: Depth,
    /// Rain that entered the soil.
    rain: Depth,
}

/// What a zone got since a Monday.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Week {
    /// That Monday.
    pub monday: Date,
    /// Net irrigation.
    pub given: Depth,
    /// Depth out of the sprinklers.
    pub gross: Depth,
    /// Rain that entered the soil.
    pub rain: Depth,
    /// Days with water.
    pub soaks: u8,
}

impl Week {
    fn of(date: Date) -> Self {
        let since = i64::from(date.weekday().to_monday_zero_offset());
        Self {
            monday: date.saturating_sub(since.days()),
            ..Self::default()
        }
    }
}

impl Default for Lately {
    /// Of a zone with usual crown waterings.
    fn default() -> Self {
        Self::new(Depth::from_mm(CROWN_WATERING_MM))
    }
}

impl Lately {
    /// Of a zone whose crown waterings are so deep.
    #[must_use]
    pub fn new(crowns: Depth) -> Self {
        Self {
            watered: None,
            wetted: None,
            crowns,
            days: [Got::default(); 3],
            last_gross: Depth::ZERO,
            week: Week::default(),
        }
    }

    /// Net irrigation within three days, a day being the last.
    #[must_use]
    pub fn given_by(&self, date: Date) -> Depth {
        self.within(date, |got| got.given)
    }

    fn within(&self, date: Date, part: fn(&Got) -> Depth) -> Depth {
        let days = self.days.iter();
        let recent = days.filter(|got| got.date <= date && (date - got.date).get_days() < 3);
        recent.map(part).sum()
    }

    /// Notes what came on a day, and whether crowns are wet by it.
    fn note(&mut self, date: Date, given: Depth, rain: Depth) {
        if self.days[0].date != date {
            self.days = [
                Got {
                    date,
                    ..Got::default()
                },
                self.days[0],
                self.days[1],
            ];
        }
        self.days[0].given += given;
        self.days[0].rain += rain;
        let is_complete = self.given_by(date) >= self.crowns * COMPLETE;
        let rained = self.within(date, |got| got.rain).mm();
        // What comes later within the three days is of the same wetting, unless it goes on.
        let came =
            given > Depth::ZERO && is_complete || rain > Depth::ZERO && rained >= WETTING_RAIN_MM;
        if came {
            self.wetted = Some(date);
        }
    }

    /// The week of a day, as far as it is known.
    #[must_use]
    pub fn week(&self, date: Date) -> Week {
        let week = Week::of(date);
        if week.monday == self.week.monday {
            self.week
        } else {
            week
        }
    }

    /// Depth out of the sprinklers on a day.
    #[must_use]
    pub fn gross_on(&self, date: Date) -> Depth {
        if self.watered == Some(date) {
            self.last_gross
        } else {
            Depth::ZERO
        }
    }

    /// Notes a watering; 0 is none.
    pub fn water(&mut self, date: Date, water: &Irrigation) {
        if water.net <= Depth::ZERO {
            return;
        }
        self.week = self.week(date);
        self.week.given += water.net;
        self.week.gross += water.gross;
        if self.watered != Some(date) {
            self.week.soaks = self.week.soaks.saturating_add(1);
            self.last_gross = Depth::ZERO;
        }
        self.last_gross += water.gross;
        self.watered = Some(date);
        self.note(date, water.net, Depth::ZERO);
    }

    /// Notes a day's rain, as far as it entered the soil.
    pub fn rain(&mut self, date: Date, effective: Depth) {
        self.week = self.week(date);
        self.week.rain += effective;
        if effective > Depth::ZERO {
            self.note(date, Depth::ZERO, effective);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    #[test]
    fn a_week_begins_on_monday_and_two_waterings_of_a_day_are_one_soak() {
        let mm = Depth::from_mm;
        let net = |net: f64| Irrigation {
            net: mm(net),
            gross: mm(2.0 * net),
            runoff: Depth::ZERO,
        };
        let mut lately = Lately::new(mm(12.0));
        // 14 June 2026 is a Sunday.
        lately.water(date(2026, 6, 14), &net(9.0));
        lately.rain(date(2026, 6, 14), mm(4.0));
        assert_eq!(lately.week(date(2026, 6, 14)).given, mm(9.0));
        assert_eq!(lately.week(date(2026, 6, 15)).given, Depth::ZERO);
        lately.water(date(2026, 6, 15), &net(5.0));
        lately.water(date(2026, 6, 15), &net(2.0));
        lately.water(date(2026, 6, 16), &Irrigation::default());
        lately.rain(date(2026, 6, 16), mm(3.0));
        let week = lately.week(date(2026, 6, 21));
        assert_eq!(
            (week.monday, week.given, week.rain, week.soaks),
            (date(2026, 6, 15), mm(7.0), mm(3.0), 1)
        );
        assert_eq!(lately.watered, Some(date(2026, 6, 15)));
        assert_eq!(
            (week.gross, lately.gross_on(date(2026, 6, 15))),
            (mm(14.0), mm(14.0))
        );
        assert_eq!(lately.gross_on(date(2026, 6, 16)), Depth::ZERO);
        assert_eq!(lately.week(date(2026, 6, 22)).soaks, 0);
    }
}
