//! What the turf has, what it needs, and when it gets it.

pub mod chance_to_run;
pub mod correction;
pub mod dose;
pub mod history;
pub mod lately;
mod levelling;
pub mod morning;
mod night;
pub mod rain_and_dose;
pub mod rationing;
pub mod remedy;
pub mod replay;
pub mod reserve;
pub mod root_zone;
pub mod schools;
mod sharing;
pub mod site_week;
pub mod skip;
pub mod slot;
mod small_night;
mod task;
pub mod timetable;
pub mod trial;
pub mod uncertain;
pub mod worth_measuring;
pub mod zone_model;
pub mod zone_week;
