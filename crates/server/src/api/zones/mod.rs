//! Zones of a site.

use lawn::site::Zone;
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::zones::ZoneRow;

mod create;
mod end;
mod list;
mod update;

pub(super) use create::*;
pub(super) use end::*;
pub(super) use list::*;
pub(super) use update::*;

/// A zone as people edit it.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct ZoneView {
    id: ZoneId,
    zone: Zone,
    /// Goes into If-Match.
    version: i64,
}

impl From<ZoneRow> for ZoneView {
    fn from(row: ZoneRow) -> Self {
        Self {
            id: row.id,
            zone: row.zone,
            version: row.version,
        }
    }
}
