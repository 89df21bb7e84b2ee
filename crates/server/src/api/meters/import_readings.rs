use std::collections::BTreeMap;

use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use jiff::tz::TimeZone;
use lawn::record::readings::Reading;
use lawn::record::readings_file::{self, Coming, Filed};
use lawn::record::waterings::Ran;
use lawn::weather::file::CellError;
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::api::taken::Taken;
use crate::db::history::{self, Event};
use crate::db::meters::{self, MeterId, NewReading};
use crate::db::{Db, runs, sites};
use crate::http::body::{Upload, text};
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked;
use crate::{clock, planning};

/// What an import did.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct ImportedReadings {
    /// Readings that were written.
    new: usize,
    /// Readings that were there, with the same figure.
    known: usize,
}

/// Imports readings of the site's meters (docs/formats/records.md): all of them or none. What the book asks about a typed reading is said of its line, and nothing is
/// written until the file is right, or sent as sure.
#[utoipa::path(tag = "water book", operation_id = "import_readings", params(("site" = i64, Path), Taken),
    request_body(content((String = "text/csv"), (Vec<Filed> = "application/json"))), responses(
    (status = 201, description = "Imported", body = ImportedReadings),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "Lines that do not hold, or are asked about; nothing was written", body = Problem)))]
#[post("/sites/{site}/meter-reading-imports")]
pub(in crate::api) async fn import_readings(
    access: Access<Record>,
    Asked(taken): Asked<Taken>,
    db: Data<Db>,
    Upload(body): Upload,
) -> Result<HttpResponse, ApiError> {
    let filed = readings_file::read(text(&body)?).map_err(ApiError::Lines)?;
    let count = filed.len();
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let rows = meters::of_site(&mut *tx, access.site).await?;
    let mut of: BTreeMap<MeterId, Vec<(u64, Reading)>> = BTreeMap::new();
    let mut faults = Vec::new();
    for (line, filed) in &filed {
        match readings_file::meter(filed, &rows, |row| &row.meter, &zone) {
            Ok(row) => of.entry(row.id).or_default().push((*line, filed.reading())),
            Err(message) => faults.push(CellError {
                line: *line,
                column: "meter".to_owned(),
                message,
            }),
        }
    }
    let now = clock::now(site.simulated_now);
    let known = meters::readings(&mut *tx, access.site, lawn::days::FIRST).await?;
    let (document, today) = planning::as_measured(&mut tx, access.site).await?;
    // What ran since the first reading of all, or the evening before.
    let instants = known.iter().map(|row| row.reading.at);
    let first = instants.chain(filed.iter().map(|(_, f)| f.read_at)).min();
    let first = first.unwrap_or(now).to_zoned(zone.clone()).date();
    let first = first.yesterday().unwrap_or(first).max(lawn::days::FIRST);
    let entries = runs::entries(&mut *tx, access.site, first, today).await?;
    let ran = Ran::new(&document, &entries);
    let mut new = Vec::new();
    for row in rows.iter().filter(|row| of.contains_key(&row.id)) {
        let own: Vec<Reading> = (known.iter())
            .filter(|known| known.meter == row.id)
            .map(|known| known.reading)
            .collect();
        let coming = Coming {
            meter: &row.meter,
            known: &own,
            filed: &of[&row.id],
            zone: &zone,
            now,
            sure: taken.sure,
        };
        match readings_file::new_ones(&coming, |from, to| ran.between(&row.meter, from, to)) {
            Ok(readings) => new.extend(readings.into_iter().map(|reading| (row.id, reading))),
            Err(wrong) => faults.extend(wrong),
        }
    }
    if !faults.is_empty() {
        faults.sort_by_key(|fault| fault.line);
        return Err(ApiError::Lines(faults));
    }
    let mut key = [0; 16];
    getrandom::fill(&mut key).map_err(|e| ApiError::Internal(e.to_string()))?;
    let key = u128::from_le_bytes(key);
    for (place, (meter, reading)) in new.iter().enumerate() {
        let added = NewReading {
            meter: *meter,
            reading: *reading,
            account: Some(access.account),
            replaces: None,
            idempotency_key: &format!("import-{key:032x}-{place}"),
        };
        meters::add(&mut tx, &added).await?;
    }
    let event = Event::MeterReadingsImported {
        readings: u32::try_from(new.len()).unwrap_or(u32::MAX),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(ImportedReadings {
        new: new.len(),
        known: count - new.len(),
    }))
}
