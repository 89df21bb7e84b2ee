//! What a person does to a day, and what each day becomes by it.

use jiff::civil::Date;
use lawn::engine::dose::of_minutes;
use lawn::engine::zone_model::ZoneModel;
use lawn::quantity::RunTime;
use lawn::ranges;
use lawn::record::programme::Programme;
use lawn::site::Invalid;
use serde::Deserialize;
use utoipa::ToSchema;

use crate::db::edits::DayBecomes;

/// What is done to a day of a zone.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
#[schema(as = EditAct)]
pub(in crate::api) enum Act {
    /// Nothing runs.
    Skip,
    /// What the plan runs stays, whatever changes.
    Lock,
    /// So many minutes run, whatever is planned; of a portable in each place.
    Minutes {
        /// Time that water runs, min.
        run_minutes: f64,
    },
    /// What the plan runs moves to another day.
    Move {
        /// That day.
        to: Date,
    },
    /// The plan decides again.
    Release,
}

impl Act {
    /// Its name in the record.
    pub(super) const fn name(self) -> &'static str {
        match self {
            Self::Skip => "skip",
            Self::Lock => "lock",
            Self::Minutes { .. } => "minutes",
            Self::Move { .. } => "move",
            Self::Release => "release",
        }
    }

    /// The field that says how much, or where to.
    pub(super) const fn field(self) -> &'static str {
        match self {
            Self::Minutes { .. } => "act.run_minutes",
            Self::Move { .. } => "act.to",
            Self::Skip | Self::Lock | Self::Release => "date",
        }
    }

    /// What each day becomes by it; `last`: the last day of the plan.
    pub(super) fn days(
        self,
        zone: &str,
        date: Date,
        last: Date,
        programme: &Programme,
        model: &ZoneModel,
    ) -> Result<Vec<(Date, DayBecomes)>, Invalid> {
        let planned = || {
            let mut runs = programme.runs.iter();
            let run = runs.find(|r| r.zone == zone && r.date == date);
            let run = run.ok_or_else(|| Invalid::new("date", "nothing is planned on this day"))?;
            Ok(DayBecomes::Set {
                passes: run.passes,
                pass_s: run.pass_s,
            })
        };
        Ok(match self {
            Self::Skip => vec![(date, DayBecomes::TakenOut)],
            Self::Release => vec![(date, DayBecomes::AsPlanned)],
            Self::Lock => vec![(date, planned()?)],
            Self::Move { to } => {
                if to == date {
                    return Err(Invalid::new("act.to", "another day than the one it is on"));
                }
                if to > last {
                    let message = format!("the plan goes up to {last}");
                    return Err(Invalid::new("act.to", message));
                }
                vec![(to, planned()?), (date, DayBecomes::TakenOut)]
            }
            Self::Minutes { run_minutes } => {
                Invalid::unless_within("act.run_minutes", ranges::RUN_MINUTES, run_minutes)?;
                let least = RunTime::from_whole_s(model.least_pass_s).s() / 60.0;
                let dose = of_minutes(model, RunTime::from_minutes(run_minutes));
                let dose = dose.ok_or_else(|| {
                    let message = format!("at least {least} min: one pass of its sprinklers");
                    Invalid::new("act.run_minutes", message)
                })?;
                let set = DayBecomes::Set {
                    passes: dose.passes,
                    pass_s: dose.pass_s,
                };
                vec![(date, set)]
            }
        })
    }
}
