use actix_web::web::Data;
use actix_web::{HttpResponse, delete, post, put};
use jiff::{Timestamp, ToSpan};
use lawn::record::told_of_pass::NotSo;
use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use utoipa::ToSchema;

use crate::api::access::{Access, Manage};
use crate::clock;
use crate::controller_service::ControllerService;
use crate::controlling;
use crate::db::history::{self, Event};
use crate::db::publications::PublicationRow;
use crate::db::sites::SiteRow;
use crate::db::{Db, SiteId, controller_doubts, controllers, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::settings::Settings;

/// Days back of which faults and missed passes are shown.
const SHOWN_DAYS: i64 = 7;

/// How it stands with a site's controller.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct ControllerView {
    /// What it is called; `null`: it is the simulated one.
    name: Option<String>,
    /// Whether the site is connected to it.
    connected: bool,
    /// Whether it holds what is published, or nothing where nothing is.
    holds_published: bool,
    /// Whether it holds any week.
    holds_any: bool,
    /// All that happened until then, by the site's clock, is told.
    heard_at: Option<Timestamp>,
    /// Why it could not be told or heard; it is tried again.
    trouble: Option<String>,
    /// Runs of the last seven days of which it did not do all passes.
    missed: Vec<MissedView>,
    /// The last fault of each zone in the last seven days.
    faults: Vec<FaultView>,
    /// Lines of its log that cannot be so: they are left out of the record.
    left_out: Vec<LeftOutView>,
    /// Runs that it put into the record and cannot have run: a person says what is so.
    doubtful: Vec<DoubtfulView>,
}

/// A line of its log that cannot be so.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct LeftOutView {
    /// Its number; `null`: that cannot be so either.
    number: Option<i64>,
    #[serde(flatten)]
    why: NotSo,
}

/// A run that is longer than it was sent.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct DoubtfulView {
    run: i64,
    zone_name: String,
    started_at: Timestamp,
    /// How long it is said to have run, s.
    seconds: i32,
    /// How long it was to run, s.
    planned_s: i32,
}

/// A run of which passes are missing.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct MissedView {
    zone_name: String,
    /// When it was to begin.
    started_at: Timestamp,
    /// Passes that ran.
    passes: i32,
    /// Passes that were published.
    planned_passes: i32,
}

/// Something wrong with a zone's flow.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct FaultView {
    zone_name: String,
    at: Timestamp,
    /// `no_flow` or `high_flow`.
    fault: String,
}

/// How it stands with a site's controller; `None`: the settings name none.
pub(super) async fn controller_view(
    pool: &PgPool,
    settings: &Settings,
    site: &SiteRow,
    published: Option<&PublicationRow>,
) -> Result<Option<ControllerView>, ApiError> {
    if settings.controller_url.is_none() {
        return Ok(None);
    }
    let link = controllers::get(pool, site.id).await?;
    let now = clock::now(site.simulated_now);
    let after = now.saturating_sub((24 * SHOWN_DAYS).hours());
    let after = after.unwrap_or(Timestamp::MIN);
    let (missed, faults) = if link.is_some() {
        let missed = controllers::missed(pool, site.id, after).await?;
        (missed, controllers::faults(pool, site.id, after).await?)
    } else {
        (Vec::new(), Vec::new())
    };
    let missed = missed.into_iter().map(|row| MissedView {
        zone_name: row.zone_name,
        started_at: row.started_at,
        passes: row.passes,
        planned_passes: row.planned_passes,
    });
    let faults = faults.into_iter().map(|row| FaultView {
        zone_name: row.zone_name,
        at: row.at,
        fault: row.fault,
    });
    let mut connection = pool.acquire().await?;
    let left_out = controller_doubts::left_out(&mut connection, site.id).await?;
    let left_out = left_out.into_iter().map(|line| LeftOutView {
        number: line.number,
        why: line.why,
    });
    let doubtful = controller_doubts::doubtful(&mut *connection, site.id).await?;
    let doubtful = doubtful.into_iter().map(|run| DoubtfulView {
        run: run.run,
        zone_name: run.zone_name,
        started_at: run.started_at,
        seconds: run.run_s,
        planned_s: run.planned_s,
    });
    let holds = link.as_ref().and_then(|link| link.holds);
    Ok(Some(ControllerView {
        name: settings.controller_name.clone(),
        connected: link.is_some(),
        holds_published: holds == published.map(|p| p.id),
        holds_any: holds.is_some(),
        heard_at: link.as_ref().and_then(|link| link.heard_at),
        trouble: link.and_then(|link| link.last_error),
        missed: missed.collect(),
        faults: faults.collect(),
        left_out: left_out.collect(),
        doubtful: doubtful.collect(),
    }))
}

/// Brings what is published to a site's controller, if it has one. One that does not answer is no error: it is tried again.
pub(super) async fn bring(db: &Db, settings: &Settings, id: SiteId) -> Result<(), ApiError> {
    if let Some(service) = service(settings)? {
        controlling::attend(db, &service, id).await?;
    }
    Ok(())
}

fn service(settings: &Settings) -> Result<Option<ControllerService>, ApiError> {
    ControllerService::of(settings).map_err(|e| ApiError::Internal(e.to_string()))
}

/// Whether the site's controller runs what is published.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Connected {
    connected: bool,
}

/// Connects the site's controller, which is told what is published, or disconnects it. Said again it changes nothing.
#[utoipa::path(tag = "plans", operation_id = "connect_controller", params(("site" = i64, Path)), request_body = Connected, responses(
    (status = 204, description = "So it is"),
    (status = 404, description = "No such site here", body = Problem),
    (status = 409, description = "This server reaches no controller, or it holds a week and would go on running it", body = Problem)))]
#[put("/sites/{site}/controller")]
pub(in crate::api) async fn connect_controller(
    access: Access<Manage>,
    db: Data<Db>,
    settings: Data<Settings>,
    Body(body): Body<Connected>,
) -> Result<HttpResponse, ApiError> {
    let id = access.site;
    if service(&settings)?.is_none() {
        let message = "this server reaches no controller: its settings name none";
        return Err(ApiError::Conflict(message.to_owned()));
    }
    let mut tx = db.write(id).await?;
    let link = controllers::get(&mut *tx, id).await?;
    let changed = match link {
        None if body.connected => {
            let site = sites::get(&mut *tx, id).await?;
            controllers::connect(&mut *tx, id, clock::now(site.simulated_now)).await?
        }
        Some(link) if !body.connected => {
            if link.holds.is_some() {
                let message =
                    "it holds a week and would go on running it: withdraw what is published first";
                return Err(ApiError::Conflict(message.to_owned()));
            }
            controllers::disconnect(&mut *tx, id).await?;
            true
        }
        _ => false,
    };
    if changed {
        let event = if body.connected {
            Event::ControllerConnected
        } else {
            Event::ControllerDisconnected
        };
        history::note(&mut *tx, id, access.account, &event).await?;
    }
    tx.commit().await?;
    bring(&db, &settings, id).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Says that the site's controller was replaced by another, whose log counts from 1 again. One that says which log it is needs no such word.
#[utoipa::path(tag = "plans", operation_id = "replace_controller", params(("site" = i64, Path)), responses(
    (status = 204, description = "Its log is read from its first line on"),
    (status = 404, description = "No such site here, or no controller", body = Problem)))]
#[post("/sites/{site}/controller/replacements")]
pub(in crate::api) async fn replace_controller(
    access: Access<Manage>,
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<HttpResponse, ApiError> {
    let id = access.site;
    let mut tx = db.write(id).await?;
    let link = controllers::get(&mut *tx, id).await?;
    link.ok_or(ApiError::NotFound("controller"))?;
    controllers::begin_log(&mut *tx, id, None).await?;
    let event = Event::ControllerReplaced;
    history::note(&mut *tx, id, access.account, &event).await?;
    tx.commit().await?;
    bring(&db, &settings, id).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Forgets the lines of the controller's log that were left out: they have been looked at. The record does not change by it.
#[utoipa::path(tag = "plans", operation_id = "clear_left_out", params(("site" = i64, Path)), responses(
    (status = 204, description = "None is left"),
    (status = 404, description = "No such site here", body = Problem)))]
#[delete("/sites/{site}/controller/left-out")]
pub(in crate::api) async fn clear_left_out(
    access: Access<Manage>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    controller_doubts::clear_left_out(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
