use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use lawn::measure::sprinkler::SprinklerTest;
use lawn::site::counting::Standing;

use crate::api::access::{Access, Read};
use crate::db::{Db, sprinkler_tests, zones};
use crate::http::csv::{self, or_empty};
use crate::http::error::{ApiError, Problem};

/// Every test with what it says, one a line, oldest first, as CSV (docs/formats/records.md).
#[utoipa::path(tag = "sprinklers", operation_id = "export_tests", params(("site" = i64, Path)), responses(
    (status = 200, description = "The tests", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/sprinkler-tests.csv")]
pub(in crate::api) async fn export_tests(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let zones = zones::of_site(db.pool(), access.site).await?;
    let tests = sprinkler_tests::of_site(db.pool(), access.site).await?;
    let counting = sprinkler_tests::counting(&tests);
    let heading = [
        "date",
        "zone",
        "name",
        "method",
        "cans",
        "rate_mm_h",
        "rate_low",
        "rate_high",
        "du_lq",
        "du_low",
        "du_high",
        "cu_pct",
        "standing",
        "counts",
        "who",
        "test",
    ];
    let rows = tests.iter().rev().map(|test| {
        let zone = zones.iter().find(|z| z.id == test.zone);
        let counts = counting
            .iter()
            .any(|c| c.rate.id == test.id || c.evenness.is_some_and(|e| e.id == test.id));
        let rate = &test.result.rate_mm_h;
        let evenness = test.result.evenness_du_lq.as_ref();
        [
            test.date.to_string(),
            test.zone.0.to_string(),
            or_empty(zone.map(|z| &z.zone.name)),
            match test.test {
                SprinklerTest::Cans(_) => "cans",
                SprinklerTest::Quick(_) => "quick",
            }
            .to_owned(),
            test.result.read.to_string(),
            rate.value.mm_h().to_string(),
            rate.low.mm_h().to_string(),
            rate.high.mm_h().to_string(),
            or_empty(evenness.map(|e| e.value)),
            or_empty(evenness.map(|e| e.low)),
            or_empty(evenness.map(|e| e.high)),
            or_empty(test.result.cu_pct),
            match test.standing {
                Standing::Void => "set aside",
                Standing::Pinned => "pinned",
                Standing::Automatic => "",
            }
            .to_owned(),
            counts.to_string(),
            or_empty(test.who.as_ref()),
            serde_json::to_string(&test.test).unwrap_or_default(),
        ]
    });
    Ok(csv::table("sprinkler-tests.csv", heading, rows))
}
