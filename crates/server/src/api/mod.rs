//! The HTTP API under `/api/v1`: resource nouns, problem+json, optimistic concurrency by ETag and If-Match.
//!
//! One verb a file; everything of a site goes behind [`access::Access`].

pub mod access;
mod begin;
mod book;
mod catalogue;
mod changed;
mod clock;
mod constraints;
mod description;
mod devices;
mod dry_days;
mod edits;
mod feed;
mod head_faults;
mod history;
mod meters;
mod new_grass;
mod people;
mod plans;
mod publications;
mod recovery;
mod role;
mod rules;
mod runs;
mod schools;
mod seen;
pub mod session;
mod sites;
mod soil_tests;
mod sprinkler_tests;
mod stress;
mod taken;
mod unknown;
mod weather;
mod wet_checks;
mod zones;

use utoipa::OpenApi;
use utoipa_actix_web::service_config::ServiceConfig;
use utoipa_actix_web::{AppExt, scope};

use crate::http::error::Problem;

pub use meters::MinuteFiles;
pub use plans::PlanAnswers;
pub use unknown::unknown;

#[derive(OpenApi)]
#[openapi(
    info(
        title = "Fresh Meadow",
        description = "Watering of lawns: sites, zones, weather, plans. Errors are problem+json (RFC 9457). Mutating requests need an Origin header of the server's own."
    ),
    components(schemas(Problem))
)]
struct Document;

/// The route table.
pub fn configure(config: &mut ServiceConfig) {
    config.service(
        scope("/api/v1")
            .service(session::show)
            .service(session::sign_in)
            .service(session::sign_out)
            .service(session::sign_out_everywhere)
            .service(session::change_password)
            .service(people::show_invitation)
            .service(people::accept)
            .service(catalogue::show)
            .service(begin::welcome)
            .service(begin::account)
            .service(begin::grass)
            .service(begin::places)
            .service(begin::site)
            .service(begin::zone)
            .service(sites::create)
            .service(sites::show)
            .service(sites::update)
            .service(sites::export)
            .service(rules::update_rules)
            .service(rules::preview_rules)
            .service(zones::list)
            .service(zones::create)
            .service(zones::update)
            .service(zones::end)
            .service(zones::facts)
            .service(zones::minutes)
            .service(weather::list)
            .service(weather::export)
            .service(weather::preview)
            .service(weather::import)
            .service(weather::gauge)
            .service(weather::tell)
            .service(weather::forget_weather)
            .service(devices::list_devices)
            .service(devices::add_device)
            .service(devices::revoke_device)
            .service(plans::show)
            .service(plans::create)
            .service(schools::compare_all_schools)
            .service(schools::try_school)
            .service(weather::choose_rain)
            .service(weather::show_record)
            .service(feed::show)
            .service(feed::connect)
            .service(feed::disconnect)
            .service(feed::fetch)
            .service(clock::step)
            .service(sprinkler_tests::list)
            .service(sprinkler_tests::export_cans)
            .service(sprinkler_tests::export_tests)
            .service(sprinkler_tests::lay_out)
            .service(sprinkler_tests::reckon)
            .service(sprinkler_tests::add)
            .service(sprinkler_tests::set_standing)
            .service(soil_tests::list_soil_tests)
            .service(soil_tests::reckon_soil_test)
            .service(soil_tests::add_soil_test)
            .service(soil_tests::set_soil_test_standing)
            .service(new_grass::show_new_grass)
            .service(new_grass::show_sowing_weeks)
            .service(new_grass::plan_sowing)
            .service(new_grass::count_stand)
            .service(new_grass::undo_count)
            .service(new_grass::list_kept_sowings)
            .service(new_grass::keep_sowing)
            .service(new_grass::forget_sowing)
            .service(seen::list_seen)
            .service(seen::note_seen)
            .service(seen::undo_seen)
            .service(seen::put_photo)
            .service(seen::show_photo)
            .service(head_faults::list_faults)
            .service(head_faults::export_faults)
            .service(head_faults::note_fault)
            .service(head_faults::mend)
            .service(head_faults::reopen)
            .service(wet_checks::list_wet_checks)
            .service(wet_checks::add_wet_check)
            .service(constraints::list_constraints)
            .service(edits::list_edits)
            .service(edits::change_day)
            .service(edits::try_change_day)
            .service(edits::undo_edit)
            .service(edits::redo_edit)
            .service(publications::show_publishing)
            .service(publications::publish)
            .service(publications::withdraw_publication)
            .service(publications::set_mornings)
            .service(publications::connect_controller)
            .service(publications::replace_controller)
            .service(publications::clear_left_out)
            .service(book::show_book)
            .service(book::show_days)
            .service(book::export_days)
            .service(book::show_findings)
            .service(book::show_savings)
            .service(book::update_tariffs)
            .service(book::show_caps)
            .service(book::update_caps)
            .service(meters::list_meters)
            .service(meters::add_meter)
            .service(meters::update_meter)
            .service(meters::list_readings)
            .service(meters::add_reading)
            .service(meters::void_reading)
            .service(meters::tell_pulses)
            .service(meters::put_meter_photo)
            .service(meters::show_meter_photo)
            .service(meters::export_readings)
            .service(meters::export_readings_json)
            .service(meters::import_readings)
            .service(meters::import_minutes)
            .service(meters::export_minutes)
            .service(meters::export_minute_batches)
            .service(constraints::add_constraint)
            .service(constraints::lift_constraint)
            .service(dry_days::list_dry_days)
            .service(dry_days::keep_dry)
            .service(dry_days::lift_dry_day)
            .service(people::list)
            .service(people::set_role)
            .service(people::remove)
            .service(people::leave)
            .service(people::invite)
            .service(people::revoke)
            .service(history::list)
            .service(history::export_history)
            .service(recovery::show_recovery)
            .service(recovery::note_patch)
            .service(recovery::look_at_patch)
            .service(recovery::repair_patch)
            .service(recovery::reopen_patch)
            .service(recovery::undo_patch)
            .service(recovery::put_patch_photo)
            .service(recovery::show_patch_photo)
            .service(stress::show_decision)
            .service(stress::share_scarce)
            .service(stress::show_stress)
            .service(stress::turn_regime)
            .service(runs::export_runs)
            .service(runs::export_runs_json)
            .service(runs::import_runs)
            .service(runs::list)
            .service(runs::add)
            .service(runs::confirm)
            .service(runs::answer)
            .service(runs::take_back),
    );
}

/// The OpenAPI document, without a server.
#[must_use]
pub fn openapi() -> utoipa::openapi::OpenApi {
    let mut document = actix_web::App::new()
        .into_utoipa_app()
        .openapi(Document::openapi())
        .configure(configure)
        .split_for_parts()
        .1;
    description::complete(&mut document);
    document
}
