//! Plans.

use jiff::Timestamp;
use lawn::view::changes::ZoneChanges;
use lawn::view::week_plan::WeekPlan;
use serde::Serialize;
use serde_json::value::RawValue;
use utoipa::ToSchema;

mod answer;
mod create;
mod show;

pub use answer::PlanAnswers;
use answer::tag;
pub(super) use create::*;
pub(super) use show::*;

/// A plan as it was made, unchanged since.
#[derive(Serialize, ToSchema)]
pub(in crate::api) struct PlanView<'a> {
    id: i64,
    /// The site's instant at which it was made.
    made_at: Timestamp,
    #[schema(value_type = WeekPlan)]
    plan: &'a RawValue,
    /// What it changes against the last plan of the day before.
    #[schema(value_type = Vec<ZoneChanges>)]
    changes: &'a RawValue,
}

/// The newest plan; `null` while there is no weather to plan from.
#[derive(Serialize, ToSchema)]
pub(in crate::api) struct CurrentPlan<'a> {
    current: Option<PlanView<'a>>,
    /// Whether there is a plan of an older form, which is being made anew.
    being_made: bool,
}
