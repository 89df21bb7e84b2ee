//! Sites: place, allowed days and hours, supply, controller; import and export of the site document.

use actix_web::{HttpRequest, HttpResponse};
use jiff::Timestamp;
use jiff::civil::Date;
use lawn::site::cap::Cap;
use lawn::site::rules::Rules;
use lawn::site::tariff::Tariff;
use lawn::site::{Controller, Site, Supply, Window};
use lawn::weather::rough::Rough;
use serde::Serialize;
use utoipa::ToSchema;

use crate::clock;
use crate::db::sites::{self, SiteRow};
use crate::db::{Db, SiteId, SiteWrite};
use crate::http::error::ApiError;
use crate::http::etag::{check, etag, if_match};

mod create;
mod export;
mod show;
mod update;

pub(super) use create::*;
pub(super) use export::*;
pub(super) use show::*;
pub(super) use update::*;

/// A site as people edit it.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct SiteView {
    id: SiteId,
    site: Site,
    windows: Vec<Window>,
    rules: Rules,
    supply: Supply,
    controller: Controller,
    /// What water costs from which day on.
    tariffs: Vec<Tariff>,
    /// What may be used.
    caps: Vec<Cap>,
    /// The site's instant.
    now: Timestamp,
    /// The site's day.
    today: Date,
    /// Whether the clock is simulated.
    simulated_clock: bool,
    version: i64,
    weather_version: i64,
    /// Normals of its place as far as latitude and height tell them, for those who have no others.
    rough_normals: Rough,
    /// Why the site is not planned anew at present; `null`: it is.
    trouble: Option<Trouble>,
}

/// Opens a change of a site, unless somebody else changed it since it was read.
pub(in crate::api) async fn opened_for_edit(
    request: &HttpRequest,
    db: &Db,
    site: SiteId,
) -> Result<SiteWrite, ApiError> {
    let edited = if_match(request)?;
    let mut tx = db.write(site).await?;
    let current = tx.version;
    if edited != current {
        let now = SiteView::from(sites::get(&mut *tx, site).await?);
        check(edited, current, &now)?;
    }
    Ok(tx)
}

/// Ends a change of a site; the answer is how it is now.
pub(in crate::api) async fn committed(
    mut tx: SiteWrite,
    site: SiteId,
) -> Result<HttpResponse, ApiError> {
    let row = sites::get(&mut *tx, site).await?;
    tx.commit().await?;
    Ok(HttpResponse::Ok()
        .insert_header(etag(row.version))
        .json(SiteView::from(row)))
}

/// Why a site is not planned anew, and since when.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct Trouble {
    what: String,
    /// By the real clock.
    since: Timestamp,
}

impl From<SiteRow> for SiteView {
    fn from(row: SiteRow) -> Self {
        let now = clock::now(row.simulated_now);
        Self {
            id: row.id,
            now,
            today: clock::local_date(now, &row.site.time_zone),
            simulated_clock: row.simulated_now.is_some(),
            rough_normals: Rough::of(&row.site),
            site: row.site,
            windows: row.windows,
            rules: row.rules,
            supply: row.supply,
            controller: row.controller,
            tariffs: row.tariffs,
            caps: row.caps,
            version: row.version,
            weather_version: row.weather_version,
            trouble: row.trouble.map(|(what, since)| Trouble { what, since }),
        }
    }
}
