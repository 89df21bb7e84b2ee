use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post};
use lawn::measure::result::TestResult;
use lawn::measure::sprinkler::SprinklerTest;
use lawn::site::Invalid;
use lawn::site::counting::{MOST_TESTS, Standing};
use lawn::view::changes::Change;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::tested;
use crate::api::access::{Access, Record};
use crate::api::changed::{newest_programme, replanned_from};
use crate::db::history::{self, Event};
use crate::db::sprinkler_tests::{self, NewTest};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};
use crate::water_book;

/// A test that is done.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct DoneTest {
    test: SprinklerTest,
    /// Whether a can that is seldom so was asked about, and is so.
    #[serde(default)]
    sure: bool,
    /// Made up by the sender, 8 to 80 characters: the same test sent twice is written once.
    idempotency_key: String,
}

/// What a test says, and what it changes in the plan.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Added {
    result: TestResult,
    /// `null` where the test was kept before: what it changed was answered then.
    changes: Option<Vec<Change>>,
}

/// Keeps a test and replans with what it says. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "sprinklers", operation_id = "add_sprinkler_test", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = DoneTest, responses(
    (status = 201, description = "Kept", body = Added),
    (status = 200, description = "Kept before", body = Added),
    (status = 409, description = "The site has 2000 tests on record", body = Problem),
    (status = 422, description = "A figure does not hold, or no can was read", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/sprinkler-tests")]
pub(in crate::api) async fn add(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(done): Body<DoneTest>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&done.idempotency_key)?;
    done.test
        .validate()
        .map_err(|error| error.within("test."))?;
    ApiError::ask("test.cans", done.test.odd_can(), done.sure)?;
    let zone_id = ZoneId(path.1);
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let site = water_book::with_next_price(&mut tx, site).await?;
    let zone = zones::get(&mut *tx, access.site, zone_id)
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    let before = newest_programme(&mut tx, access.site).await?;
    let tested = tested(&site, &zone, &before);
    let result = done
        .test
        .result(&tested)
        .ok_or_else(|| Invalid::new("test.cans", "no can was read"))?;
    let new = NewTest {
        zone: zone_id,
        account: Some(access.account),
        date: tested.date,
        counts_from: None,
        standing: Standing::Automatic,
        test: &done.test,
        result: &result,
        idempotency_key: &done.idempotency_key,
    };
    if sprinkler_tests::add(&mut *tx, &new).await?.is_none() {
        return Ok(HttpResponse::Ok().json(Added {
            result,
            changes: None,
        }));
    }
    if sprinkler_tests::count(&mut *tx, access.site).await?
        > i64::try_from(MOST_TESTS).unwrap_or(i64::MAX)
    {
        return Err(ApiError::Conflict(format!(
            "this site has {MOST_TESTS} tests on record; more are not kept"
        )));
    }
    let zone = zone.zone.name;
    let event = match &done.test {
        SprinklerTest::Cans(_) => Event::CansTested {
            zone,
            cans: result.read,
        },
        SprinklerTest::Quick(_) => Event::QuicklyTested { zone },
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    let changes = replanned_from(&mut tx, access.site, &before, tested.date).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(Added {
        result,
        changes: Some(changes),
    }))
}
