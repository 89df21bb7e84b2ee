//! What a file of weather says against what is live: new days, the same, or something else; and which days an import writes.

use jiff::civil::Date;

use crate::weather::WeatherDay;

/// A live day as far as a file can differ from it.
#[derive(Debug, Clone, PartialEq)]
pub struct LiveDay {
    /// What counts.
    pub day: WeatherDay,
    /// Rain by the file or the service, where the gauge's counts.
    pub station_rain_mm: Option<f64>,
    /// Whether the rain that counts is the gauge's.
    pub by_gauge: bool,
    /// Whether there is a gauge reading alone.
    pub gauge_alone: bool,
}

/// What a day of a file is against what is live.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Against {
    /// Nothing is live, or a gauge reading alone, which stays: the file adds the day.
    New,
    /// It says what is live.
    Same,
    /// It says something else.
    Different,
}

/// A live day of a date; `live` in the order of dates.
#[must_use]
pub fn find(live: &[LiveDay], date: Date) -> Option<&LiveDay> {
    let at = live.binary_search_by_key(&date, |d| d.day.date).ok()?;
    live.get(at)
}

/// What a day of a file is against what is live; `live` in the order of dates.
#[must_use]
pub fn against(live: &[LiveDay], day: &WeatherDay) -> Against {
    match find(live, day.date).filter(|live| !live.gauge_alone) {
        None => Against::New,
        Some(live) if says(live, day) => Against::Same,
        Some(_) => Against::Different,
    }
}

/// What of a file is written: all, or where live figures are kept all that does not differ from them.
#[must_use]
pub fn to_write(live: &[LiveDay], file: Vec<WeatherDay>, replace: bool) -> Vec<WeatherDay> {
    file.into_iter()
        .filter(|day| replace || against(live, day) != Against::Different)
        .collect()
}

/// Whether a live day has a file's figures: its rain is the station's, and probabilities are no figures of the past.
fn says(live: &LiveDay, file: &WeatherDay) -> bool {
    let bare = |day: &WeatherDay| WeatherDay {
        rain_probability_pct: None,
        ..day.clone()
    };
    let mut stored = bare(&live.day);
    if live.by_gauge {
        stored.rain_mm = live.station_rain_mm;
    }
    stored == bare(file)
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    fn day(of: i8, rain_mm: f64) -> WeatherDay {
        WeatherDay {
            date: date(2026, 6, of),
            rain_mm: Some(rain_mm),
            ..WeatherDay::default()
        }
    }

    #[test]
    fn live_days_are_kept_or_replaced_and_a_gauge_reading_hides_no_file() {
        let of = |day: WeatherDay| LiveDay {
            day,
            station_rain_mm: None,
            by_gauge: false,
            gauge_alone: false,
        };
        let gauged = LiveDay {
            station_rain_mm: Some(4.0),
            by_gauge: true,
            ..of(day(2, 9.0))
        };
        let alone = LiveDay {
            by_gauge: true,
            gauge_alone: true,
            ..of(day(3, 2.0))
        };
        let live = [of(day(1, 0.0)), gauged, alone];
        let chance = WeatherDay {
            rain_probability_pct: Some(40.0),
            ..day(1, 0.0)
        };
        assert_eq!(against(&live, &chance), Against::Same);
        assert_eq!(against(&live, &day(1, 1.0)), Against::Different);
        // The gauge's 9 mm are not the file's to differ from.
        assert_eq!(against(&live, &day(2, 4.0)), Against::Same);
        assert_eq!(against(&live, &day(2, 9.0)), Against::Different);
        assert_eq!(against(&live, &day(3, 7.0)), Against::New);
        assert_eq!(against(&live, &day(4, 0.0)), Against::New);
        let file = vec![day(1, 1.0), day(2, 4.0), day(3, 7.0), day(4, 0.0)];
        let dates = |replace| -> Vec<i8> {
            let written = to_write(&live, file.clone(), replace);
            written.iter().map(|d| d.date.day()).collect()
        };
        assert_eq!(dates(false), [2, 3, 4]);
        assert_eq!(dates(true), [1, 2, 3, 4]);
    }
}
