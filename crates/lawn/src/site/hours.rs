//! Days and hours in which watering is allowed.

use jiff::civil::{Date, Time};
use science::sprinkler::Kind;
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;

/// Most windows of a site: several a day for each weekday.
const MOST_WINDOWS: usize = 50;

/// A day of the week.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the days
pub enum Weekday {
    Monday,
    Tuesday,
    Wednesday,
    Thursday,
    Friday,
    Saturday,
    Sunday,
}

impl Weekday {
    /// The whole week, Monday first.
    pub const ALL: [Self; 7] = [
        Self::Monday,
        Self::Tuesday,
        Self::Wednesday,
        Self::Thursday,
        Self::Friday,
        Self::Saturday,
        Self::Sunday,
    ];

    /// The weekday of a date.
    #[must_use]
    pub fn of(date: Date) -> Self {
        // Monday is 0 there too; the cast cannot lose: 0 to 6.
        let index = usize::try_from(date.weekday().to_monday_zero_offset()).unwrap_or(0);
        Self::ALL[index.min(6)]
    }
}

/// Which dates a rule of odd and even days allows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DateRule {
    /// All.
    #[default]
    Any,
    /// The 1st, 3rd, … of the month.
    Odd,
    /// The 2nd, 4th, … of the month.
    Even,
}

impl DateRule {
    /// Whether it allows a date.
    #[must_use]
    pub fn allows(self, date: Date) -> bool {
        match self {
            Self::Any => true,
            Self::Odd => date.day() % 2 == 1,
            Self::Even => date.day() % 2 == 0,
        }
    }
}

/// Whether a zone may be watered after noon.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LateHours {
    /// In the late afternoon as second best, but not grasses that wet leaves make ill: St. Augustinegrass and zoysiagrass.
    #[default]
    ByGrass,
    /// Not at all.
    Never,
    /// In the late afternoon, whatever the grass.
    Afternoon,
    /// In the evening too, although wet nights bring disease: somebody insists.
    Evening,
}

impl LateHours {
    /// Whether hours from noon on are allowed, or such from which leaves do not dry by night: `evening` (common practice, no source). Drip wets no leaf.
    #[must_use]
    pub fn allows(self, grass: Grass, kind: Kind, evening: bool) -> bool {
        let ill = matches!(grass, Grass::StAugustinegrass | Grass::Zoysiagrass);
        match self {
            _ if kind == Kind::Drip => true,
            Self::ByGrass => !evening && !ill,
            Self::Never => false,
            Self::Afternoon => !evening,
            Self::Evening => true,
        }
    }

    #[allow(clippy::trivially_copy_pass_by_ref)] // as serde calls it
    pub(super) const fn is_by_grass(&self) -> bool {
        matches!(self, Self::ByGrass)
    }
}

/// Hours of a day; they do not cross midnight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Hours {
    /// Local time at which they begin, `HH:MM`.
    #[serde(with = "clock_time")]
    #[schema(value_type = String, example = "10:00", pattern = "^([01][0-9]|2[0-3]):[0-5][0-9]$")]
    pub from: Time,
    /// Local time at which they end, `HH:MM`, later than `from`.
    #[serde(with = "clock_time")]
    #[schema(value_type = String, example = "18:00", pattern = "^([01][0-9]|2[0-3]):[0-5][0-9]$")]
    pub to: Time,
}

impl Hours {
    /// Checks that they end after they begin; `path` goes before the field's name.
    ///
    /// # Errors
    /// `to` is not later than `from`.
    pub(super) fn validate(self, path: &str) -> Result<(), Invalid> {
        if self.to > self.from {
            return Ok(());
        }
        Err(Invalid::new(
            format!("{path}to"),
            format!(
                "{} is not later than {}; hours do not cross midnight: make two rules",
                self.to.strftime("%H:%M"),
                self.from.strftime("%H:%M")
            ),
        ))
    }
}

/// Days and hours in which watering is allowed; it does not cross midnight.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Window {
    /// Weekdays on which it opens, at least one.
    pub days: Vec<Weekday>,
    /// Odd or even dates only.
    #[serde(default)]
    pub dates: DateRule,
    /// Local time at which it opens, `HH:MM`.
    #[serde(with = "clock_time")]
    #[schema(value_type = String, example = "04:00", pattern = "^([01][0-9]|2[0-3]):[0-5][0-9]$")]
    pub from: Time,
    /// Local time at which it closes, `HH:MM`, later than `from`.
    #[serde(with = "clock_time")]
    #[schema(value_type = String, example = "09:00", pattern = "^([01][0-9]|2[0-3]):[0-5][0-9]$")]
    pub to: Time,
}

mod clock_time {
    use jiff::civil::Time;
    use serde::{Deserialize, Deserializer, Serializer, de::Error};

    pub fn serialize<S: Serializer>(time: &Time, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(&time.strftime("%H:%M"))
    }

    pub fn deserialize<'de, D: Deserializer<'de>>(deserializer: D) -> Result<Time, D::Error> {
        let text = String::deserialize(deserializer)?;
        Time::strptime("%H:%M", &text)
            .map_err(|_| D::Error::custom(format!("\"{text}\" is not a time of day, HH:MM")))
    }
}

/// Checks the allowed days and hours.
///
/// # Errors
/// The first field that does not hold.
pub fn validate_windows(windows: &[Window]) -> Result<(), Invalid> {
    if windows.len() > MOST_WINDOWS {
        return Err(Invalid::new(
            "windows",
            format!("at most {MOST_WINDOWS} windows, not {}", windows.len()),
        ));
    }
    for (i, window) in windows.iter().enumerate() {
        if window.days.is_empty() {
            return Err(Invalid::new(
                format!("windows[{i}].days"),
                "name at least one weekday, or remove the window",
            ));
        }
        if window.to <= window.from {
            return Err(Invalid::new(
                format!("windows[{i}].to"),
                format!(
                    "{} is not later than {}; windows do not cross midnight: split it in two",
                    window.to.strftime("%H:%M"),
                    window.from.strftime("%H:%M")
                ),
            ));
        }
    }
    Ok(())
}
