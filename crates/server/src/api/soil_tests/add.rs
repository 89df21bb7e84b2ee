use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post};
use jiff::civil::Date;
use lawn::days;
use lawn::measure::soil::{SoilResult, SoilTest};
use lawn::site::counting::Standing;
use lawn::site::soil_counting::{MOST_OF_A_ZONE, ZoneSoilTest};
use lawn::view::advice::{self, Advice};
use lawn::view::changes::Change;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::api::changed::{newest_programme, replanned_from};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::soil_tests::{self, NewSoilTest};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};

/// A test that is done.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct DoneSoilTest {
    test: SoilTest,
    /// The day on which it was done; absent: the site's day.
    #[serde(default)]
    date: Option<Date>,
    /// The day from which it holds; absent: it was always so.
    #[serde(default)]
    holds_from: Option<Date>,
    /// Made up by the sender, 8 to 80 characters: the same test sent twice is written once.
    idempotency_key: String,
}

/// What a test says, and what it changes in the plan.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct SoilTested {
    result: SoilResult,
    /// What to do about it.
    advice: Vec<Advice>,
    /// `null` where the test was kept before: what it changed was answered then.
    changes: Option<Vec<Change>>,
}

/// Keeps a soil test and replans with what it says. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "soil", operation_id = "add_soil_test", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = DoneSoilTest, responses(
    (status = 201, description = "Kept", body = SoilTested),
    (status = 200, description = "Kept before", body = SoilTested),
    (status = 409, description = "The zone has 2000 soil tests on record", body = Problem),
    (status = 422, description = "A reading does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/soil-tests")]
pub(in crate::api) async fn add_soil_test(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(done): Body<DoneSoilTest>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&done.idempotency_key)?;
    done.test
        .validate()
        .map_err(|error| error.within("test."))?;
    let zone_id = ZoneId(path.1);
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let zone = zones::get(&mut *tx, access.site, zone_id).await?;
    let zone = zone.ok_or(ApiError::NotFound("zone"))?.zone.name;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let date = done.date.unwrap_or(today);
    days::check("date", date, today)?;
    if let Some(day) = done.holds_from {
        days::check("holds_from", day, date)?;
    }
    let kept = ZoneSoilTest {
        date,
        holds_from: done.holds_from,
        standing: Standing::Automatic,
        test: done.test,
    };
    let before = newest_programme(&mut tx, access.site).await?;
    let result = SoilResult::of(&kept.test, date);
    let advice = result.repellency.map(advice::about_repellency);
    let mut answer = SoilTested {
        result,
        advice: advice.unwrap_or_default(),
        changes: None,
    };
    let new = NewSoilTest {
        zone: zone_id,
        account: Some(access.account),
        kept: &kept,
        idempotency_key: &done.idempotency_key,
    };
    if soil_tests::add(&mut *tx, &new).await?.is_none() {
        return Ok(HttpResponse::Ok().json(answer));
    }
    let most = i64::try_from(MOST_OF_A_ZONE).unwrap_or(i64::MAX);
    if soil_tests::count(&mut *tx, zone_id).await? > most {
        return Err(ApiError::Conflict(format!(
            "this zone has {MOST_OF_A_ZONE} soil tests on record; more are not kept"
        )));
    }
    let event = Event::SoilTested {
        zone,
        test: kept.test.name(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    answer.changes = Some(replanned_from(&mut tx, access.site, &before, today).await?);
    tx.commit().await?;
    Ok(HttpResponse::Created().json(answer))
}
