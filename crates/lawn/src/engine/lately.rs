//! What a zone got lately: what schools that go by the calendar read.

use jiff::ToSpan;
use jiff::civil::Date;

use crate::engine::root_zone::Irrigation;
use crate::quantity::Depth;

/// What a zone got lately.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Lately {
    /// The last day on which it was watered, as far back as is known.
    pub watered: Option<Date>,
    /// Depth out of the sprinklers on that day.
    last_gross: Depth,
    week: Week,
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

impl Lately {
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
    }

    /// Notes a day's rain, as far as it entered the soil.
    pub fn rain(&mut self, date: Date, effective: Depth) {
        self.week = self.week(date);
        self.week.rain += effective;
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
        let mut lately = Lately::default();
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
