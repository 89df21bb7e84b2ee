use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, put};
use jiff::civil::Date;
use lawn::days;
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::today;
use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, sites, weather};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Whose rain counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(in crate::api) enum Counts {
    /// The gauge on the lawn.
    Gauge,
    /// The station: a file or the service.
    Station,
    /// By the rule: the gauge where it was read.
    Automatic,
}

/// Whose rain counts on a day.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct RainChoice {
    counts: Counts,
}

/// Says whose rain counts on a day, and replans. Both readings are kept.
#[utoipa::path(tag = "weather", operation_id = "choose_rain", params(("site" = i64, Path), ("date" = Date, Path)), request_body = RainChoice, responses(
    (status = 204, description = "Chosen"),
    (status = 422, description = "The day is not over", body = Problem)))]
#[put("/sites/{site}/rain-choices/{date}")]
pub(in crate::api) async fn choose_rain(
    access: Access<Manage>,
    path: Path<(String, Date)>,
    db: Data<Db>,
    Body(choice): Body<RainChoice>,
) -> Result<HttpResponse, ApiError> {
    let date = path.1;
    let mut tx = db.write(access.site).await?;
    let today = today(&sites::get(&mut *tx, access.site).await?);
    days::check("date", date, days::LAST)?;
    if date >= today {
        return Err(Invalid {
            field: "date".to_owned(),
            message: format!("{date} is not over yet"),
        }
        .into());
    }
    let counts = match choice.counts {
        Counts::Gauge => Some("gauge"),
        Counts::Station => Some("station"),
        Counts::Automatic => None,
    };
    weather::choose_rain(&mut tx, access.site, access.account, date, counts).await?;
    let event = Event::RainChosen {
        date,
        counts: counts.unwrap_or("automatic").to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    sites::weather_changed(&mut *tx, access.site).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
