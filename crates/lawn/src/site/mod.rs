//! A site as its manager describes it: place, allowed hours, supply, controller, zones. Field names carry SI units.

pub mod calendar;
pub mod cap;
pub mod counting;
pub mod daylight;
pub mod document;
pub mod draft;
mod entered;
pub mod events;
pub mod facts;
mod figures;
pub mod ground;
mod hours;
pub mod meter;
pub mod normals;
pub mod places;
pub mod rules;
mod school;
pub mod soil_counting;
mod standing;
pub mod supply;
pub mod tariff;
mod version_1;
mod zone;

use std::collections::BTreeSet;

use jiff::civil::Date;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use cap::Cap;
use figures::number;
pub use hours::{DateRule, Hours, LateHours, Weekday, Window, validate_windows};
use meter::{MOST_METERS, Meter};
use normals::Normals;
use rules::Rules;
pub use school::{EveryOtherDay, FixedInterval, School, WeeklyTarget};
pub use supply::{Controller, Supply};
use tariff::Tariff;
pub use zone::{CrownWatering, DepletionRule, Exposure, HotEdge, NewGrassAs, Plants, Regime, Zone};

pub use crate::invalid::Invalid;
use crate::quantity::Volume;
use crate::ranges::{self};
use crate::text::{check_name, trimmed};

/// Most zones of a site: with more, a replan takes longer than people wait; none that we know of has as many on one supply.
pub const MOST_ZONES: usize = 200;

/// What a lawn belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = LandscapeUse)]
pub enum Use {
    /// A home.
    #[default]
    Home,
    /// A park, a school, a business.
    Other,
}

impl Use {
    const fn is_home(&self) -> bool {
        matches!(self, Self::Home)
    }
}

/// The place and the currency.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Site {
    /// Name for people.
    #[serde(deserialize_with = "trimmed")]
    pub name: String,
    /// IANA time zone, such as `Europe/Vienna`.
    pub time_zone: String,
    /// Degrees, south negative.
    pub latitude: f64,
    /// Degrees, west negative.
    pub longitude: f64,
    /// Elevation above sea level, m.
    pub elevation_m: f64,
    /// Height of the anemometer above ground, m.
    #[serde(default = "two_metres")]
    pub wind_height_m: f64,
    /// What the lawn belongs to: budgets of water offices ask.
    #[serde(default, rename = "use", skip_serializing_if = "Use::is_home")]
    pub used_as: Use,
    /// ISO 4217 code of the currency of the price.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub currency: Option<String>,
    /// Price of water per cubic metre.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price_per_m3: Option<f64>,
    /// What the months are like on the mean, January first: used before and beside the site's own weather.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub normals: Option<Normals>,
}

const fn two_metres() -> f64 {
    2.0
}

/// The site document: everything that plans read of a site but the weather.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SiteDocument {
    /// Always `fresh-meadow-site`.
    pub format: String,
    /// Version of the format.
    pub version: u32,
    /// Place and currency.
    pub site: Site,
    /// Days and hours in which watering is allowed; none: no watering.
    #[serde(default)]
    pub windows: Vec<Window>,
    /// Local rules; they only take away from the windows.
    #[serde(default, skip_serializing_if = "Rules::is_empty")]
    pub rules: Rules,
    /// What water there is.
    #[serde(default)]
    pub supply: Supply,
    /// What the controller can do.
    #[serde(default)]
    pub controller: Controller,
    /// What water costs from which day on, in order of days; none: by the site's price.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tariffs: Vec<Tariff>,
    /// What may be used.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub caps: Vec<Cap>,
    /// Its meters.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub meters: Vec<Meter>,
    /// The zones, in the order in which people list them.
    #[serde(default)]
    pub zones: Vec<Zone>,
}

impl Site {
    /// The site's time zone.
    ///
    /// # Errors
    /// A name that the time-zone database does not know.
    pub fn zone(&self) -> Result<TimeZone, Invalid> {
        // The one name that stands for no place at all is known too.
        let found = TimeZone::get(&self.time_zone).ok();
        found.filter(|zone| !zone.is_unknown()).ok_or_else(|| {
            Invalid::new(
                "site.time_zone",
                format!(
                    "\"{}\" is not a time zone of the IANA database, such as America/New_York",
                    self.time_zone
                ),
            )
        })
    }

    /// Checks every figure of the place.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        check_name("site.name", &self.name)?;
        self.zone()?;
        for (range, value) in [
            (ranges::LATITUDE, Some(self.latitude)),
            (ranges::LONGITUDE, Some(self.longitude)),
            (ranges::ELEVATION, Some(self.elevation_m)),
            (ranges::WIND_HEIGHT, Some(self.wind_height_m)),
            (ranges::PRICE, self.price_per_m3),
        ] {
            if let Some(value) = value {
                number("site.", range, value)?;
            }
        }
        if let Some(code) = &self.currency
            && !(code.len() == 3 && code.bytes().all(|b| b.is_ascii_uppercase()))
        {
            return Err(Invalid::new(
                "site.currency",
                format!("\"{code}\" is not a three-letter currency code, such as EUR"),
            ));
        }
        self.normals.as_ref().map_or(Ok(()), Normals::validate)
    }
}

impl SiteDocument {
    /// The same with every established zone watered by one school at all times.
    #[must_use]
    pub fn with_school(mut self, school: School) -> Self {
        for zone in &mut self.zones {
            if zone.regime == Regime::Established {
                zone.school = school;
                zone.forget("school");
            }
        }
        self
    }

    /// Checks the whole document.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        self.site.validate()?;
        validate_windows(&self.windows)?;
        self.supply.validate()?;
        self.controller.validate()?;
        if self.zones.len() > MOST_ZONES {
            return Err(Invalid::new(
                "zones",
                format!(
                    "a site has at most {MOST_ZONES} zones, not {}; make a second site",
                    self.zones.len()
                ),
            ));
        }
        let tests = self.zones.iter().map(|z| z.tests.len()).sum::<usize>();
        if tests > counting::MOST_TESTS {
            return Err(Invalid::new(
                "zones",
                format!(
                    "a site has at most {} tests, not {tests}",
                    counting::MOST_TESTS
                ),
            ));
        }
        let mut ids = BTreeSet::new();
        for (i, zone) in self.zones.iter().enumerate() {
            let path = format!("zones[{i}].");
            check_name(&format!("{path}id"), &zone.id)?;
            if !ids.insert(zone.id.as_str()) {
                return Err(Invalid::new(
                    format!("{path}id"),
                    format!("\"{}\" is used by another zone too", zone.id),
                ));
            }
            zone.validate(&path)?;
        }
        self.rules.validate(&self.zones)?;
        tariff::validate(&self.tariffs)?;
        cap::validate(&self.caps)?;
        self.validate_meters()
    }

    fn validate_meters(&self) -> Result<(), Invalid> {
        if self.meters.len() > MOST_METERS {
            return Err(Invalid::new(
                "meters",
                format!(
                    "a site has at most {MOST_METERS} meters, not {}",
                    self.meters.len()
                ),
            ));
        }
        for (i, meter) in self.meters.iter().enumerate() {
            let path = format!("meters[{i}].");
            check_name(&format!("{path}id"), &meter.id)?;
            if self.meters[..i].iter().any(|other| other.id == meter.id) {
                return Err(Invalid::new(
                    format!("{path}id"),
                    format!("\"{}\" is used by another meter too", meter.id),
                ));
            }
            meter.validate(&path, &self.zones)?;
        }
        Ok(())
    }

    /// The same with the price at which the next water is bought on a day, after the lawn has used so much of its month: plans and savings are told in it.
    #[must_use]
    pub fn priced(mut self, today: Date, used: Volume) -> Self {
        if let Some(tariff) = tariff::on(&self.tariffs, today) {
            self.site.price_per_m3 = Some(tariff.next_m3(today.month(), used));
        }
        self
    }

    /// The tariffs; where there are none, that of the site's price, if it has one.
    #[must_use]
    pub fn tariffs(&self) -> Vec<Tariff> {
        if !self.tariffs.is_empty() {
            return self.tariffs.clone();
        }
        let price = self.site.price_per_m3;
        price
            .map(|price| Tariff::flat(crate::days::FIRST, price))
            .into_iter()
            .collect()
    }
}
