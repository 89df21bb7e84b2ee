//! Zones of a site.

use actix_web::{HttpResponse, HttpResponseBuilder};
use lawn::engine::zone_model;
use lawn::site::Zone;
use serde::Serialize;
use sqlx::PgConnection;
use utoipa::ToSchema;

use crate::db::zones::ZoneRow;
use crate::db::{SiteId, SiteWrite, ZoneId, zones};
use crate::http::error::ApiError;
use crate::http::etag::{check, etag};
use crate::planning;

mod create;
mod end;
mod facts;
mod holds;
mod list;
mod minutes;
mod update;

pub(super) use create::*;
pub(super) use end::*;
pub(super) use facts::*;
pub(super) use list::*;
pub(super) use minutes::*;
pub(super) use update::*;

/// A zone as people edit it.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct ZoneView {
    id: ZoneId,
    zone: Zone,
    /// Places in which its portable sprinkler is set, one after another; 1 for what stands fast.
    settings: u32,
    /// Goes into If-Match.
    version: i64,
}

impl From<ZoneRow> for ZoneView {
    fn from(row: ZoneRow) -> Self {
        Self {
            id: row.id,
            settings: zone_model::settings(&row.zone),
            zone: row.zone,
            version: row.version,
        }
    }
}

/// The zone of a locked site for an edit of a version; a stale one is refused with the current state.
async fn for_edit(
    db: &mut PgConnection,
    site: SiteId,
    id: ZoneId,
    edited: i64,
) -> Result<ZoneRow, ApiError> {
    let current = zones::get(&mut *db, site, id)
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    check(edited, current.version, &ZoneView::from(current.clone()))?;
    Ok(current)
}

/// Replans, commits, and answers with the zone as it is now.
async fn replanned(
    mut tx: SiteWrite,
    site: SiteId,
    id: ZoneId,
    mut answer: HttpResponseBuilder,
) -> Result<HttpResponse, ApiError> {
    planning::replan(&mut tx, site).await?;
    let row = zones::get(&mut *tx, site, id)
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    tx.commit().await?;
    Ok(answer
        .insert_header(etag(row.version))
        .json(ZoneView::from(row)))
}
