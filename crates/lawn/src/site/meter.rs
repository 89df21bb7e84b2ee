//! A water meter: what its counter shows, and what it feeds.

use jiff::civil::Date;
use science::units::{L_PER_FT3, L_PER_GALLON};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::figures::{first_and_last, number};
use super::zone::Zone;
use crate::invalid::Invalid;
use crate::quantity::Volume;
use crate::ranges;
use crate::text::{check_name, trimmed};

/// Most meters of a site, ended ones too.
pub const MOST_METERS: usize = 50;

/// What a meter counts in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MeterUnit {
    /// Cubic metres.
    M3,
    /// Cubic feet.
    Ft3,
    /// Hundreds of cubic feet.
    Ccf,
    /// US gallons.
    Gal,
    /// Thousands of US gallons.
    Kgal,
    /// Litres.
    L,
}

impl MeterUnit {
    /// All of them.
    pub const ALL: [Self; 6] = [
        Self::M3,
        Self::Ft3,
        Self::Ccf,
        Self::Gal,
        Self::Kgal,
        Self::L,
    ];

    /// How much one is.
    ///
    /// # References
    /// NIST Special Publication 811, appendix B.8; all exact by definition of inch and gallon.
    #[must_use]
    pub const fn volume(self) -> Volume {
        Volume::from_l(match self {
            Self::M3 => 1000.0,
            Self::Ft3 => L_PER_FT3,
            Self::Ccf => 100.0 * L_PER_FT3,
            Self::Gal => L_PER_GALLON,
            Self::Kgal => 1000.0 * L_PER_GALLON,
            Self::L => 1.0,
        })
    }
}

/// A meter.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Meter {
    /// Identifier, unique within the site.
    #[serde(default, deserialize_with = "trimmed")]
    pub id: String,
    /// Name for people.
    #[serde(deserialize_with = "trimmed")]
    pub name: String,
    /// What its counter counts in.
    pub unit: MeterUnit,
    /// Digits before the point; past the last the counter begins at 0 again.
    pub digits: u8,
    /// Digits after the point that are read.
    #[serde(default)]
    pub decimals: u8,
    /// What a count stands for, in the unit: some dials show tens or hundreds.
    #[serde(default = "one")]
    pub multiplier: f64,
    /// What a pulse of its flow sensor stands for, L; absent: it has none, and is read by eye.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pulse_l: Option<f64>,
    /// The zones that it feeds, by their identifiers; none: all.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub feeds: Vec<String>,
    /// Whether it feeds the house too.
    #[serde(default)]
    pub house: bool,
    /// Its first day.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub active_from: Option<Date>,
    /// Its last day.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub active_to: Option<Date>,
}

const fn one() -> f64 {
    1.0
}

impl Meter {
    /// What a difference of its counter stands for.
    #[must_use]
    pub fn volume(&self, counts: f64) -> Volume {
        Volume::from_l(counts * self.multiplier * self.unit.volume().l())
    }

    /// The count at which it begins at 0 again.
    #[must_use]
    pub fn turns_at(&self) -> f64 {
        10_f64.powi(i32::from(self.digits))
    }

    /// The least step that is read off it, in its own count.
    #[must_use]
    pub fn step(&self) -> f64 {
        10_f64.powi(-i32::from(self.decimals))
    }

    /// Whether it was there on a day.
    #[must_use]
    pub fn is_there(&self, date: Date) -> bool {
        self.active_from.is_none_or(|from| from <= date)
            && self.active_to.is_none_or(|to| date <= to)
    }

    /// Whether it feeds a zone.
    #[must_use]
    pub fn feeds(&self, zone: &str) -> bool {
        self.feeds.is_empty() || self.feeds.iter().any(|fed| fed == zone)
    }

    /// Checks what it says, against the zones of its site; `path` goes before the field's name, such as `meters[1].`.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self, path: &str, zones: &[Zone]) -> Result<(), Invalid> {
        let at = |field: &str| format!("{path}{field}");
        check_name(&at("name"), &self.name)?;
        number(path, ranges::METER_DIGITS, f64::from(self.digits))?;
        number(path, ranges::METER_DECIMALS, f64::from(self.decimals))?;
        number(path, ranges::METER_MULTIPLIER, self.multiplier)?;
        if let Some(pulse) = self.pulse_l {
            number(path, ranges::METER_PULSE, pulse)?;
        }
        for (i, fed) in self.feeds.iter().enumerate() {
            if !zones.iter().any(|zone| zone.id == *fed) {
                return Err(Invalid::new(
                    format!("{path}feeds[{i}]"),
                    format!("\"{fed}\" is no zone of this site"),
                ));
            }
            if self.feeds[..i].contains(fed) {
                return Err(Invalid::new(
                    format!("{path}feeds[{i}]"),
                    format!("\"{fed}\" stands there twice"),
                ));
            }
        }
        first_and_last(path, "meter", self.active_from, self.active_to)?;
        Ok(())
    }

    /// Checks a figure that is read off its counter.
    ///
    /// # Errors
    /// The field, with the figures that the counter can show.
    pub fn check_register(&self, field: &str, register: f64) -> Result<(), Invalid> {
        if register >= 0.0 && register < self.turns_at() {
            return Ok(());
        }
        Err(Invalid::new(
            field,
            format!(
                "a counter of {} digits shows 0 to {}, not {register}",
                self.digits,
                self.turns_at() - self.step()
            ),
        ))
    }
}
