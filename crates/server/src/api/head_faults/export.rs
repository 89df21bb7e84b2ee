use actix_web::web::Data;
use actix_web::{HttpResponse, get};

use crate::api::access::{Access, Read};
use crate::db::{Db, head_faults};
use crate::http::csv::{self, or_empty};
use crate::http::error::{ApiError, Problem};

/// Every fault of a head, repaired ones too, one a line, oldest first, as CSV (docs/formats/records.md).
#[utoipa::path(tag = "sprinklers", operation_id = "export_head_faults", params(("site" = i64, Path)), responses(
    (status = 200, description = "The faults", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/head-faults.csv")]
pub(in crate::api) async fn export_faults(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut faults = head_faults::of_site(db.pool(), access.site, None).await?;
    faults.sort_by_key(|f| f.id);
    let heading = [
        "noted",
        "zone",
        "name",
        "head",
        "fault",
        "note",
        "noted_by",
        "due",
        "repaired",
        "repaired_by",
    ];
    let rows = faults.into_iter().map(|f| {
        let fault = serde_json::to_value(f.fault).unwrap_or_default();
        [
            f.noted_on.to_string(),
            f.zone.0.to_string(),
            f.zone_name,
            f.head.to_string(),
            fault.as_str().unwrap_or_default().to_owned(),
            or_empty(f.note),
            or_empty(f.who),
            or_empty(f.due_on),
            or_empty(f.mended_on),
            or_empty(f.mended_by),
        ]
    });
    Ok(csv::table("head-faults.csv", heading, rows))
}
