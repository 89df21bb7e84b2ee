use std::collections::BTreeMap;

use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use jiff::Timestamp;
use lawn::measure::result::Tested;
use lawn::site::counting::ZoneTest;
use lawn::site::meter::Meter;
use lawn::site::{SiteDocument, Zone, document};
use lawn::text::shortened;
use sqlx::PgConnection;

use super::SiteView;
use crate::api::access::SignedIn;
use crate::db::seen::{self, NewSeen};
use crate::db::soil_tests::{self, NewSoilTest};
use crate::db::sprinkler_tests::{self, NewTest};
use crate::db::{AccountId, Db, ZoneId, accounts, meters, sites, zones};
use crate::http::body::Upload;
use crate::http::error::{ApiError, Problem};

/// Most sites that an account owns.
const MOST_SITES: i64 = 1000;

/// Makes a new site of a site document, owned by the account. Importing never touches another site.
#[utoipa::path(tag = "sites", operation_id = "create_site", request_body = SiteDocument, responses(
    (status = 201, description = "The new site", body = SiteView),
    (status = 400, description = "Not a site document", body = Problem),
    (status = 409, description = "The account owns 1000 sites", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites")]
pub(in crate::api) async fn create(
    account: SignedIn,
    db: Data<Db>,
    Upload(body): Upload,
) -> Result<HttpResponse, ApiError> {
    // A long document takes its time to read: on the blocking pool.
    let document = tokio::task::spawn_blocking(move || read(&body))
        .await
        .map_err(|e| ApiError::Internal(e.to_string()))??;
    Ok(HttpResponse::Created().json(founded(&db, account.0, &document).await?))
}

/// A new site of a document, owned by an account.
pub(in crate::api) async fn founded(
    db: &Db,
    account: AccountId,
    document: &SiteDocument,
) -> Result<SiteView, ApiError> {
    let today = document
        .site
        .zone()
        .map(|zone| Timestamp::now().to_zoned(zone).date())?;
    for (i, zone) in document.zones.iter().enumerate() {
        zone.validate_ahead(&format!("zones[{i}]."), today)?;
    }
    let mut tx = db.pool().begin().await?;
    accounts::lock(&mut *tx, account).await?;
    if sites::owned(&mut *tx, account).await? >= MOST_SITES {
        return Err(ApiError::Conflict(format!(
            "an account owns at most {MOST_SITES} sites"
        )));
    }
    let id = sites::insert(&mut *tx, document, None).await?;
    sites::add_member(&mut *tx, id, account, "owner").await?;
    let mut ids = BTreeMap::new();
    for zone in &document.zones {
        let id = zones::insert(&mut *tx, id, zone).await?;
        ids.insert(zone.id.as_str(), id.0.to_string());
        for (number, kept) in (1..).zip(&zone.tests) {
            add_test(&mut tx, id, zone, kept, number).await?;
        }
        add_ground(&mut tx, id, zone).await?;
    }
    if !document.rules.is_empty() {
        let rules = document.rules.clone();
        let rules = rules.renamed(|zone| ids.get(zone).cloned());
        sites::set_rules(&mut *tx, id, &rules).await?;
    }
    for meter in &document.meters {
        let fed = meter.feeds.iter().filter_map(|zone| ids.get(zone.as_str()));
        let meter = Meter {
            feeds: fed.cloned().collect(),
            ..meter.clone()
        };
        meters::insert(&mut *tx, id, &meter).await?;
    }
    let row = sites::get(&mut *tx, id).await?;
    tx.commit().await?;
    Ok(SiteView::from(row))
}

/// Adds a test that came with the document; who did it is not known.
async fn add_test(
    db: &mut PgConnection,
    id: ZoneId,
    zone: &Zone,
    kept: &ZoneTest,
    number: usize,
) -> Result<(), ApiError> {
    let tested = Tested {
        kind: zone.sprinkler,
        date: kept.date,
        week: None,
    };
    // The document was checked: its tests tell something.
    let Some(result) = kept.test.result(&tested) else {
        return Ok(());
    };
    let new = NewTest {
        zone: id,
        account: None,
        date: kept.date,
        counts_from: kept.counts_from,
        standing: kept.standing,
        test: &kept.test,
        result: &result,
        idempotency_key: &format!("imported-{number}"),
    };
    sprinkler_tests::add(db, &new).await?;
    Ok(())
}

/// Adds the tests of a zone's soil and what was seen of it, as they came with the document.
async fn add_ground(db: &mut PgConnection, id: ZoneId, zone: &Zone) -> Result<(), ApiError> {
    for (number, kept) in (1..).zip(&zone.soil_tests) {
        let new = NewSoilTest {
            zone: id,
            account: None,
            kept,
            idempotency_key: &format!("imported-{number}"),
        };
        soil_tests::add(&mut *db, &new).await?;
    }
    for (number, kept) in (1..).zip(&zone.seen) {
        let new = NewSeen {
            zone: id,
            account: None,
            kept,
            idempotency_key: &format!("imported-{number}"),
            look: None,
        };
        seen::add(&mut *db, &new).await?;
    }
    Ok(())
}

fn read(body: &[u8]) -> Result<SiteDocument, ApiError> {
    let malformed = |message: String| ApiError::Malformed {
        field: None,
        message: shortened(&message),
    };
    let text = std::str::from_utf8(body)
        .map_err(|_| malformed("the file is not UTF-8 text".to_owned()))?;
    document::read(text).map_err(|error| match error {
        document::Error::Invalid(invalid) => ApiError::Invalid(invalid),
        other => malformed(other.to_string()),
    })
}
