//! The nearest place of the time-zone database's table of zones (`zone1970.tab`, public domain, release 2025b; docs/DEPENDENCIES.md): a first
//! guess of time zone and coordinates for who knows neither.

use std::sync::OnceLock;

use jiff::Timestamp;
use jiff::tz::TimeZone;
use serde::Serialize;
use utoipa::ToSchema;

const TABLE: &str = include_str!("../../data/zone1970.tab");
/// Mean radius of the Earth, km (IUGG, from memory).
const EARTH_KM: f64 = 6371.0;

/// The principal place of a time zone.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Place {
    /// IANA name of the zone, such as `America/Denver`.
    pub time_zone: &'static str,
    /// The place as the zone's name has it.
    pub name: String,
    /// Countries of the zone, ISO 3166.
    pub countries: Vec<&'static str>,
    /// Degrees, south negative.
    pub latitude: f64,
    /// Degrees, west negative.
    pub longitude: f64,
}

impl Place {
    /// A row of the table: countries, coordinates, zone and perhaps a comment, apart by tabs.
    fn of_row(row: &'static str) -> Option<Self> {
        let mut cells = row.split('\t');
        let (countries, at, time_zone) = (cells.next()?, cells.next()?, cells.next()?);
        let (latitude, longitude) = coordinates(at)?;
        Some(Self {
            time_zone,
            name: time_zone.rsplit('/').next()?.replace('_', " "),
            countries: countries.split(',').collect(),
            latitude,
            longitude,
        })
    }

    /// Distance to a point, km, along a great circle (haversine formula).
    #[must_use]
    pub fn distance_km(&self, latitude: f64, longitude: f64) -> f64 {
        let half = |from: f64, to: f64| ((to - from).to_radians() / 2.0).sin().powi(2);
        let across = self.latitude.to_radians().cos() * latitude.to_radians().cos();
        let h = half(self.latitude, latitude) + across * half(self.longitude, longitude);
        2.0 * EARTH_KM * h.clamp(0.0, 1.0).sqrt().asin()
    }
}

/// Latitude and longitude of ISO 6709's ±DDMM±DDDMM or ±DDMMSS±DDDMMSS.
fn coordinates(text: &str) -> Option<(f64, f64)> {
    let second = text.get(1..)?.find(['+', '-'])? + 1;
    let degrees = |text: &str, whole: usize| {
        let sign = if text.starts_with('-') { -1.0 } else { 1.0 };
        let digits = text.get(1..)?;
        let part = |from: usize, to: usize| digits.get(from..to)?.parse::<f64>().ok();
        let seconds = match digits.len().checked_sub(whole)? {
            2 => 0.0,
            4 => part(whole + 2, whole + 4)?,
            _ => return None,
        };
        Some(sign * (part(0, whole)? + part(whole, whole + 2)? / 60.0 + seconds / 3600.0))
    };
    let (latitude, longitude) = text.split_at_checked(second)?;
    Some((degrees(latitude, 2)?, degrees(longitude, 3)?))
}

/// All places, in the table's order.
#[must_use]
pub fn all() -> &'static [Place] {
    static PLACES: OnceLock<Vec<Place>> = OnceLock::new();
    PLACES.get_or_init(|| {
        let rows = TABLE.lines().filter(|line| !line.starts_with('#'));
        rows.filter_map(Place::of_row).collect()
    })
}

/// The place that is nearest to a point.
#[must_use]
pub fn nearest(latitude: f64, longitude: f64) -> Option<&'static Place> {
    let distance = |place: &&Place| place.distance_km(latitude, longitude);
    all()
        .iter()
        .min_by(|a, b| distance(a).total_cmp(&distance(b)))
}

/// No place's clock stands further from its sun, h: the west of China keeps its capital's, three hours (from memory).
const MOST_FROM_SUN_H: f64 = 4.0;

/// The beginnings of January and of July 2026: one of them has no summer time.
const JANUARY: Timestamp = Timestamp::constant(1_767_225_600, 0);
const JULY: Timestamp = Timestamp::constant(1_782_864_000, 0);

/// Whether a time zone may be that of a longitude. A zone without a place, such as `UTC`, may be any.
#[must_use]
pub fn suits(time_zone: &str, longitude: f64) -> bool {
    let of_no_place = !time_zone.contains('/') || time_zone.starts_with("Etc/");
    let Some(zone) = TimeZone::get(time_zone).ok().filter(|_| !of_no_place) else {
        return true;
    };
    // Summer time is further from the sun.
    let from_sun = [JANUARY, JULY].map(|at| {
        let clock_h = f64::from(zone.to_offset(at).seconds()) / 3600.0;
        // The date line is no wall.
        let apart = (clock_h - longitude / 15.0).rem_euclid(24.0);
        apart.min(24.0 - apart)
    });
    from_sun.iter().any(|h| *h <= MOST_FROM_SUN_H)
}

/// The time zone to begin with at a point: the asker's own where it may be that of the point, or else that of the nearest place.
#[must_use]
pub fn time_zone_at(latitude: f64, longitude: f64, own: Option<&str>) -> Option<String> {
    let known = |zone: &&str| TimeZone::get(zone).is_ok();
    let own = own.filter(known).filter(|zone| suits(zone, longitude));
    let zone = own.or_else(|| Some(nearest(latitude, longitude)?.time_zone));
    zone.map(str::to_owned)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_row_of_the_table_is_read_and_known_as_a_time_zone() {
        let rows = TABLE.lines().filter(|line| !line.starts_with('#')).count();
        assert_eq!(all().len(), rows);
        assert!(rows > 300, "{rows}");
        for place in all() {
            assert!(
                jiff::tz::TimeZone::get(place.time_zone).is_ok(),
                "{place:?}"
            );
            assert!(place.latitude.abs() <= 90.0 && place.longitude.abs() <= 180.0);
            assert!(!place.countries.is_empty() && !place.name.is_empty());
        }
    }

    #[test]
    fn coordinates_are_those_of_iso_6709() {
        // Rows of the table: +4230-00131? minutes alone, and with seconds.
        let near = |text, (latitude, longitude): (f64, f64)| {
            let (a, b) = coordinates(text).unwrap();
            assert!(
                (a - latitude).abs() < 1e-9 && (b - longitude).abs() < 1e-9,
                "{text}"
            );
        };
        near("+4230+00131", (42.5, 1.0 + 31.0 / 60.0));
        near(
            "+394421-1045903",
            (
                39.0 + 44.0 / 60.0 + 21.0 / 3600.0,
                -(104.0 + 59.0 / 60.0 + 3.0 / 3600.0),
            ),
        );
        near("-7824+10654", (-78.4, 106.9));
        for wrong in [
            "",
            "+",
            "+4230",
            "4230-00131",
            "+42-001",
            "+42x0+00131",
            "++++",
        ] {
            assert_eq!(coordinates(wrong), None, "{wrong}");
        }
    }

    #[test]
    fn the_nearest_is_the_place_itself_and_the_date_line_is_no_wall() {
        for place in all() {
            let found = nearest(place.latitude, place.longitude).unwrap();
            assert!(
                found.distance_km(place.latitude, place.longitude) < 1e-6,
                "{place:?}"
            );
        }
        // A degree of the equator.
        let at = Place {
            latitude: 0.0,
            longitude: 179.5,
            ..all()[0].clone()
        };
        assert!((at.distance_km(0.0, -179.5) - 111.19).abs() < 0.01);
    }

    #[test]
    fn a_clock_that_is_hours_from_the_sun_is_another_places() {
        for place in all() {
            assert!(suits(place.time_zone, place.longitude), "{place:?}");
        }
        assert!(!suits("Asia/Tokyo", -86.0) && !suits("Europe/London", 120.0));
        assert!(suits("UTC", -105.0));
        let at = |own| time_zone_at(36.5, -87.0, own).unwrap();
        assert_eq!(at(Some("America/New_York")), "America/New_York");
        assert!(at(Some("Asia/Tokyo")).starts_with("America/"));
        assert_eq!(at(Some("Mars/Olympus")), at(None));
    }
}
