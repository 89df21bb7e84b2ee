//! What people and files see.

pub mod advice;
pub mod allowed;
mod by_calendar;
pub mod catalogue;
pub mod changes;
mod coming;
pub mod consequence;
mod days;
mod edited;
mod explain;
pub mod first_look;
pub mod ledger;
pub mod minutes;
pub mod plan;
mod planned;
pub mod published;
pub mod savings;
pub mod scarcity;
pub mod schools;
mod setting;
pub mod since_published;
mod site_view;
pub mod verdict;
mod watering_in;
pub mod week_plan;
pub mod worth;
pub mod zone_facts;
