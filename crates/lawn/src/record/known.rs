//! What a plan is made from: the site, the weather, what ran, what was held, what people keep dry.

use jiff::Timestamp;
use jiff::civil::{Date, DateTime, Time};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::root_zone::Irrigation;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::record::constraint::Constraint;
use crate::record::edit::Edit;
use crate::record::published::Published;
use crate::record::watered::{Passes, Watered};
use crate::site::{SiteDocument, Zone};
use crate::weather::DailyWeather;

const NOON: Time = Time::constant(12, 0, 0, 0);

/// A run that is in the record.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Run {
    /// The zone's identifier.
    pub zone: String,
    /// Local day of its first start.
    pub date: Date,
    /// Whether it began at noon or later: its water enters after the day's ET.
    pub after_noon: bool,
    /// Its local time of day; `None`: not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>)]
    pub started: Option<Time>,
    /// Number of passes, all equal.
    pub passes: u32,
    /// The time of all, s.
    pub run_s: i64,
    /// What it watered, and by what.
    pub watered: Watered,
    /// Whether it was taken from the plan in force because nobody said otherwise.
    pub assumed: bool,
}

/// Whether water that is given from a local time on enters after the day's ET: from 12:00 on.
#[must_use]
pub fn is_after_noon(started: Time) -> bool {
    started >= NOON
}

impl Run {
    /// When it began, on the local clock; where that is not known midnight or noon.
    pub(crate) fn began(&self) -> DateTime {
        let noon = if self.after_noon {
            NOON
        } else {
            Time::midnight()
        };
        self.date.to_datetime(self.started.unwrap_or(noon))
    }

    /// What it gives a zone at the depletion of its dawn.
    pub(crate) fn irrigation(
        &self,
        zone: &Zone,
        model: &ZoneModel,
        depletion: Depth,
    ) -> Irrigation {
        let run = Passes {
            passes: self.passes,
            run_s: self.run_s,
        };
        self.watered.irrigation(model, zone.area_m2, run, depletion)
    }
}

/// A day on which a zone must stay dry because a person says so: a match, a product just sprayed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct DryDay {
    /// The zone's identifier.
    pub zone: String,
    /// The day.
    pub date: Date,
}

/// An opportunity at which a zone was held for rain.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct RainHold {
    /// The zone's identifier.
    pub zone: String,
    /// The day.
    pub date: Date,
}

/// What a plan is made from.
#[derive(Debug, Clone, Copy)]
pub struct Known<'a> {
    /// The site.
    pub document: &'a SiteDocument,
    /// Weather observed, contiguous, before today.
    pub observed: &'a [DailyWeather],
    /// Days from today on, as forecast.
    pub forecast: &'a [DailyWeather],
    /// Runs in the record, today's included.
    pub runs: &'a [Run],
    /// Opportunities before today at which zones were held for rain.
    pub holds: &'a [RainHold],
    /// Days from today on, on which zones must stay dry.
    pub dry_days: &'a [DryDay],
    /// What is asked of zones for some hours, as far as it is not over.
    pub constraints: &'a [Constraint],
    /// What people changed of the plan on days from today on: of a zone's day at most one.
    pub edits: &'a [Edit],
    /// The week that is published; `None`: none is, or its days are over.
    pub published: Option<&'a Published>,
    /// The site's day.
    pub today: Date,
    /// The site's instant; `None`: today 00:00.
    pub now: Option<Timestamp>,
    /// End of a window that is open and left as it was planned: the clock plans nothing before it, people with a hose may.
    pub committed: Option<Timestamp>,
}

impl<'a> Known<'a> {
    /// What the record alone tells on a day, from 00:00 on: no forecast, no runs, nothing that people asked or published.
    #[must_use]
    pub const fn of_record(
        document: &'a SiteDocument,
        observed: &'a [DailyWeather],
        today: Date,
    ) -> Self {
        Self {
            document,
            observed,
            forecast: &[],
            runs: &[],
            holds: &[],
            dry_days: &[],
            constraints: &[],
            edits: &[],
            published: None,
            today,
            now: None,
            committed: None,
        }
    }
}

impl Known<'_> {
    /// What is asked of a zone for some hours.
    pub(crate) fn constraints_of<'b>(
        &'b self,
        zone: &'b Zone,
    ) -> impl Iterator<Item = &'b Constraint> {
        self.constraints.iter().filter(|c| c.zone == zone.id)
    }

    /// Whether a person wants a zone dry on a day.
    pub(crate) fn is_dry_day(&self, zone: &Zone, date: Date) -> bool {
        self.dry_days
            .iter()
            .any(|d| d.date == date && d.zone == zone.id)
    }
}
