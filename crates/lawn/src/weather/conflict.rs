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

/// What of a file is written: all, or where live figures are kept all that does not differ from them. What a file does not carry stays as it is live.
#[must_use]
pub fn to_write(live: &[LiveDay], file: Vec<WeatherDay>, replace: bool) -> Vec<WeatherDay> {
    file.into_iter()
        .filter(|day| replace || against(live, day) != Against::Different)
        .map(|day| match find(live, day.date) {
            Some(live) if !live.gauge_alone => filled(live, &day),
            _ => day,
        })
        .collect()
}

/// A day as a person types it. With both temperatures it counts before the days of others: what nobody types of it, humidity, sun and wind, stays as it is live then.
/// Rain counts by itself.
#[must_use]
pub fn typed_over(live: &[LiveDay], day: WeatherDay) -> WeatherDay {
    let knows_air = day.tmin_c.is_some() && day.tmax_c.is_some();
    match find(live, day.date).filter(|live| knows_air && !live.gauge_alone) {
        Some(live) => WeatherDay {
            rain_mm: day.rain_mm,
            ..filled(live, &day)
        },
        None => day,
    }
}

/// Whether a live day has all figures that a file carries of it; probabilities are no figures of the past.
fn says(live: &LiveDay, file: &WeatherDay) -> bool {
    WeatherDay {
        rain_probability_pct: None,
        ..filled(live, file)
    } == stored(live)
}

/// A live day as a file or a service would tell it: its rain is the station's.
fn stored(live: &LiveDay) -> WeatherDay {
    WeatherDay {
        rain_mm: if live.by_gauge {
            live.station_rain_mm
        } else {
            live.day.rain_mm
        },
        rain_probability_pct: None,
        ..live.day.clone()
    }
}

/// A day of a file, with what it does not carry as it is live.
fn filled(live: &LiveDay, file: &WeatherDay) -> WeatherDay {
    let live = stored(live);
    WeatherDay {
        date: file.date,
        tmin_c: file.tmin_c.or(live.tmin_c),
        tmax_c: file.tmax_c.or(live.tmax_c),
        rh_min_pct: file.rh_min_pct.or(live.rh_min_pct),
        rh_max_pct: file.rh_max_pct.or(live.rh_max_pct),
        dewpoint_c: file.dewpoint_c.or(live.dewpoint_c),
        vapour_pressure_kpa: file.vapour_pressure_kpa.or(live.vapour_pressure_kpa),
        solar_mj_m2: file.solar_mj_m2.or(live.solar_mj_m2),
        sunshine_h: file.sunshine_h.or(live.sunshine_h),
        wind_m_s: file.wind_m_s.or(live.wind_m_s),
        rain_mm: file.rain_mm.or(live.rain_mm),
        rain_probability_pct: file.rain_probability_pct,
    }
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
    fn what_a_file_does_not_carry_stays_as_it_is_live() {
        let live = [LiveDay {
            day: WeatherDay {
                tmin_c: Some(14.0),
                tmax_c: Some(26.0),
                rh_min_pct: Some(60.0),
                sunshine_h: Some(3.0),
                ..day(1, 4.0)
            },
            station_rain_mm: None,
            by_gauge: false,
            gauge_alone: false,
        }];
        // The file has no humidity and no sun.
        let file = |tmax_c: f64| WeatherDay {
            tmin_c: Some(14.0),
            tmax_c: Some(tmax_c),
            ..day(1, 4.0)
        };
        assert_eq!(against(&live, &file(26.0)), Against::Same);
        assert_eq!(against(&live, &file(28.0)), Against::Different);
        let written = to_write(&live, vec![file(28.0)], true);
        assert_eq!(written[0].tmax_c, Some(28.0));
        assert_eq!(
            (written[0].rh_min_pct, written[0].sunshine_h),
            (Some(60.0), Some(3.0))
        );
        assert!(to_write(&live, vec![file(28.0)], false).is_empty());
    }

    #[test]
    fn a_typed_day_keeps_the_humidity_that_nobody_types() {
        let live = [LiveDay {
            day: WeatherDay {
                tmin_c: Some(14.0),
                tmax_c: Some(26.0),
                rh_min_pct: Some(60.0),
                ..day(1, 4.0)
            },
            station_rain_mm: None,
            by_gauge: false,
            gauge_alone: false,
        }];
        let air = WeatherDay {
            tmin_c: Some(14.0),
            tmax_c: Some(28.0),
            rain_mm: None,
            ..day(1, 0.0)
        };
        let kept = typed_over(&live, air);
        assert_eq!((kept.tmax_c, kept.rh_min_pct), (Some(28.0), Some(60.0)));
        // Rain alone, and rain that nobody types, are left to themselves.
        assert_eq!(kept.rain_mm, None);
        assert_eq!(typed_over(&live, day(1, 9.0)), day(1, 9.0));
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
