//! What a water office or the owner allows: so much in a month or a year, or less than in a base year.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::figures::number;
use crate::days;
use crate::invalid::Invalid;
use crate::ranges;
use crate::text::check_name;

/// Most caps of a site.
const MOST_CAPS: usize = 20;

/// Over what a cap counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Per {
    /// A month of the calendar.
    Month,
    /// A year of the calendar.
    Year,
}

/// How much is allowed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
#[schema(as = CapSays)]
pub enum Says {
    /// A volume.
    Volume {
        /// How much, m³.
        cap_m3: f64,
        /// Over what.
        per: Per,
    },
    /// Less than what ran in the same month of a base year, as drought stages ask.
    Cut {
        /// By how much less, %.
        cut_pct: f64,
        /// The year.
        base_year: i16,
    },
}

/// A cap.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Cap {
    /// What people call it.
    pub name: String,
    /// Its first day.
    pub from: Date,
    /// Its last day; absent: until further notice.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<Date>,
    /// How much.
    pub says: Says,
}

impl Cap {
    /// Whether it holds on a day.
    #[must_use]
    pub fn holds(&self, date: Date) -> bool {
        self.from <= date && self.to.is_none_or(|to| date <= to)
    }

    fn validate(&self, path: &str) -> Result<(), Invalid> {
        check_name(&format!("{path}name"), &self.name)?;
        days::check(&format!("{path}from"), self.from, days::LAST)?;
        if let Some(to) = self.to {
            days::check(&format!("{path}to"), to, days::LAST)?;
            if to < self.from {
                let message = format!("{to} is before its first day, {}", self.from);
                return Err(Invalid::new(format!("{path}to"), message));
            }
        }
        let at = format!("{path}says.");
        match self.says {
            Says::Volume { cap_m3, .. } => number(&at, ranges::ALLOWANCE, cap_m3),
            Says::Cut { cut_pct, base_year } => {
                number(&at, ranges::CUT, cut_pct)?;
                let years = days::FIRST.year()..self.from.year();
                if years.contains(&base_year) {
                    return Ok(());
                }
                let message = format!(
                    "a year from {} to {}, the one before it holds",
                    years.start,
                    years.end - 1
                );
                Err(Invalid::new(format!("{at}base_year"), message))
            }
        }
    }
}

/// Checks caps.
///
/// # Errors
/// The first field that does not hold.
pub fn validate(caps: &[Cap]) -> Result<(), Invalid> {
    if caps.len() > MOST_CAPS {
        let message = format!("a site has at most {MOST_CAPS} caps");
        return Err(Invalid::new("caps", message));
    }
    let mut caps = caps.iter().enumerate();
    caps.try_for_each(|(i, cap)| cap.validate(&format!("caps[{i}].")))
}
