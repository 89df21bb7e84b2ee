//! What people change of a plan: a zone's day taken out, or what runs on it set. An edit is a standing of the zone's slots: the same planner reads it, and
//! it survives replans.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::dose;
use crate::engine::skip::Skip;
use crate::engine::slot::{HORIZON, Opening, Standing};
use crate::engine::zone_model::ZoneModel;
use crate::site::calendar::CalendarDay;

/// A change of a zone's day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Edit {
    /// The zone's identifier.
    pub zone: String,
    /// The day.
    pub date: Date,
    /// What becomes of it.
    pub becomes: Becomes,
}

/// What a person makes of a zone's day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[schema(as = EditBecomes)]
pub enum Becomes {
    /// Nothing runs.
    TakenOut,
    /// This runs, whatever is needed: what was there and is kept, or other minutes, or a watering that was not planned.
    Set {
        /// Number of passes, at least 1.
        passes: u32,
        /// Length of each, s.
        pass_s: i64,
    },
}

/// The standings that edits make of a zone's openings: a day taken out is forbidden; what is set stands in the first opening of the day that holds it, or the
/// longest, and the day's other openings are taken out. `closed`: the openings that are none for the zone.
#[must_use]
pub fn standings<'a>(
    edits: impl Iterator<Item = &'a Edit>,
    model: &ZoneModel,
    by_hand: bool,
    calendar: &[CalendarDay],
    openings: &[Opening],
    closed: &[usize],
) -> Vec<(usize, Standing)> {
    let mut standings = Vec::new();
    for edit in edits {
        let of_day: Vec<(usize, i64)> = openings
            .iter()
            .enumerate()
            .filter(|(place, o)| {
                o.day < HORIZON && calendar[o.day].date == edit.date && !closed.contains(place)
            })
            .map(|(place, o)| (place, o.length_s(by_hand) / i64::from(model.settings)))
            .filter(|(_, window_s)| *window_s > 0)
            .collect();
        let set = match edit.becomes {
            Becomes::TakenOut => None,
            Becomes::Set { passes, pass_s } => {
                let dose = dose::of_passes(model, passes, pass_s);
                let holds = of_day.iter().find(|(_, s)| dose.span_s() <= *s);
                let longest = of_day
                    .iter()
                    .max_by_key(|(place, s)| (*s, usize::MAX - place));
                holds.or(longest).map(|(place, _)| (*place, dose))
            }
        };
        standings.extend(of_day.iter().map(|(place, _)| {
            let standing = match set {
                Some((at, dose)) if at == *place => Standing::Fixed(dose),
                _ => Standing::Forbidden(Skip::TakenOut),
            };
            (*place, standing)
        }));
    }
    standings
}
