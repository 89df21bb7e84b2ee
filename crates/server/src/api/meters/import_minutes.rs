use std::sync::Arc;
use std::time::Duration;

use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post};
use lawn::record::told_minutes::File;
use serde::Serialize;
use utoipa::ToSchema;

use super::meter;
use super::pulses::{counts_pulses, latest};
use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::meters::MeterId;
use crate::db::{Db, flow};
use crate::http::asker::Asker;
use crate::http::body::{Bounds, Incoming};
use crate::http::error::{ApiError, Problem};
use crate::places::{Places, Rules};

/// How much of a file may come, and how long it may take.
const FILE: Bounds = Bounds {
    largest: 100 * 1024 * 1024,
    longest: Duration::from_secs(30 * 60),
};
/// Longest wait for room, and longest time that what came takes to be kept.
const WAITS: Duration = Duration::from_secs(60);
const KEEPS: Duration = Duration::from_secs(120);

/// Room for files of minutes: each holds at most twenty years of them in memory.
pub struct MinuteFiles(Arc<Places>);

impl Default for MinuteFiles {
    fn default() -> Self {
        Self(Places::new(Rules {
            at_once: 4,
            of_account: 1,
            of_site: 1,
            waiting: 40,
            waiting_of_account: 2,
            patience: WAITS,
        }))
    }
}

/// What an import did.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct ImportedMinutes {
    /// Minutes that nobody had told.
    new: i64,
    /// Minutes that were kept with the same count.
    known: i64,
    /// Minutes that were kept with another count: that stands.
    other: i64,
}

/// Imports a file of minutes, read as it comes (docs/formats/flow.md): all of it or nothing. A connection that is broken off before the answer leaves nothing, or
/// all of it. What was told before stays as it was told, so that a file may be sent again.
#[utoipa::path(tag = "water book", operation_id = "import_minutes", params(("site" = i64, Path), ("meter" = i64, Path)),
    request_body(content((String = "text/csv"), (String = "application/jsonl"))), responses(
    (status = 201, description = "Imported", body = ImportedMinutes),
    (status = 404, description = "No such meter here", body = Problem),
    (status = 413, description = "Larger than 100 MB", body = Problem),
    (status = 422, description = "Lines that do not hold; nothing was written", body = Problem),
    (status = 429, description = "Files of the account wait already", body = Problem),
    (status = 503, description = "Others import at the moment", body = Problem)))]
#[post("/sites/{site}/meters/{meter}/minute-imports")]
pub(in crate::api) async fn import_minutes(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    files: Data<MinuteFiles>,
    asker: Asker,
    body: Incoming,
) -> Result<HttpResponse, ApiError> {
    let id = MeterId(path.1);
    asker.takes(WAITS + FILE.longest + KEEPS);
    let _place = files.0.take(access.account, access.site).await?;
    let mut pieces = body.within(FILE)?;
    let (meter, latest) = {
        let mut db = db.pool().acquire().await?;
        let row = meter(&mut db, access.site, id).await?;
        (row.meter, latest(&mut db, access.site).await?)
    };
    counts_pulses(&meter)?;
    let mut file = File::new(latest);
    let mut goes_on = true;
    while let Some(piece) = pieces.next().await? {
        // Of a hopeless file the rest is let go by: who sends it hears the answer only after it.
        goes_on = goes_on && file.take(&piece);
    }
    let told = file.finish().map_err(ApiError::Lines)?;
    let mut tx = db.pool().begin().await?;
    let beside = flow::keep(&mut tx, id, &told).await?;
    let event = Event::MinutesImported {
        meter: meter.name,
        minutes: u32::try_from(beside.new).unwrap_or(u32::MAX),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(ImportedMinutes {
        new: beside.new,
        known: beside.known,
        other: beside.other,
    }))
}
