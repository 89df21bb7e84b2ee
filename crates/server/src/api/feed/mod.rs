//! A site's subscription to the weather service.

use actix_web::web::{Data, Json};
use actix_web::{HttpResponse, delete, get, post, put};
use jiff::Timestamp;
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use sqlx::PgPool;
use utoipa::ToSchema;

use super::access::{Access, Manage, Read};
use crate::db::history::{self, Event};
use crate::db::{Db, SiteId, feeds};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::settings::Settings;
use crate::weather_service::{self, CLIMATES, SERVICE, SIMULATED, WeatherService, simulated};

/// A climate of the simulated service.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct ClimateView {
    key: &'static str,
    name: &'static str,
}

/// A site's subscription and how it fares.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct FeedView {
    /// Whether this server knows a service at all.
    available: bool,
    /// What the service is called; `null`: it is the simulated one, of which a climate is chosen.
    name: Option<String>,
    /// Whether the site subscribes to it.
    connected: bool,
    /// What there is to choose from, of the simulated one.
    climates: Vec<ClimateView>,
    /// The climate subscribed to; `null`: none.
    climate: Option<String>,
    /// The site's instant of the last answer that could be used.
    last_success_at: Option<Timestamp>,
    /// Failures since then.
    failures: i32,
    /// The last failure, in words.
    last_error: Option<String>,
}

/// Which climate to subscribe to; absent where the service is no simulated one.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(super) struct Subscription {
    #[serde(default)]
    climate: Option<String>,
}

async fn view(pool: &PgPool, settings: &Settings, site: SiteId) -> Result<FeedView, ApiError> {
    let feed = feeds::get(pool, site).await?;
    Ok(FeedView {
        available: settings.weather_url.is_some(),
        name: settings.weather_name.clone(),
        connected: feed.is_some(),
        climates: match settings.weather_name {
            Some(_) => Vec::new(),
            None => CLIMATES
                .iter()
                .map(|&(key, name)| ClimateView { key, name })
                .collect(),
        },
        last_success_at: feed.as_ref().and_then(|f| f.last_success_at),
        failures: feed.as_ref().map_or(0, |f| f.failures),
        last_error: feed.as_ref().and_then(|f| f.last_error.clone()),
        climate: feed.and_then(|f| Some(f.parameters["climate"].as_str()?.to_owned())),
    })
}

fn service(settings: &Settings) -> Result<WeatherService, ApiError> {
    WeatherService::of(settings)
        .map_err(|e| ApiError::Internal(e.to_string()))?
        .ok_or_else(|| ApiError::Conflict("this server has no weather service".to_owned()))
}

/// The subscription and how it fares.
#[utoipa::path(tag = "weather", operation_id = "show_weather_feed", params(("site" = i64, Path)), responses(
    (status = 200, description = "The subscription", body = FeedView),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/weather-feed")]
pub(super) async fn show(
    access: Access<Read>,
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<Json<FeedView>, ApiError> {
    view(db.pool(), &settings, access.site).await.map(Json)
}

/// A climate of the simulated service.
fn chosen(key: &str) -> Result<&'static str, Invalid> {
    let known = CLIMATES.map(|(key, _)| key);
    let message = || format!("\"{key}\" is not one of {}", known.join(", "));
    let found = known.into_iter().find(|known| *known == key);
    found.ok_or_else(|| Invalid::new("climate", message()))
}

/// Subscribes to the weather service and asks it at once; what it brings replans.
#[utoipa::path(tag = "weather", operation_id = "connect_weather_feed", params(("site" = i64, Path)), request_body = Subscription, responses(
    (status = 200, description = "The subscription", body = FeedView),
    (status = 409, description = "This server has no weather service", body = Problem),
    (status = 422, description = "No such climate", body = Problem)))]
#[put("/sites/{site}/weather-feed")]
pub(super) async fn connect(
    access: Access<Manage>,
    db: Data<Db>,
    settings: Data<Settings>,
    Body(wanted): Body<Subscription>,
) -> Result<Json<FeedView>, ApiError> {
    let service = service(&settings)?;
    let (provider, parameters, name) = match &settings.weather_name {
        Some(name) => (SERVICE, Value::Object(Map::default()), name.as_str()),
        None => {
            let climate = chosen(wanted.climate.as_deref().unwrap_or_default())?;
            (SIMULATED, simulated(climate, access.site.0), climate)
        }
    };
    let mut tx = db.write(access.site).await?;
    feeds::connect(&mut *tx, access.site, provider, &parameters).await?;
    let event = Event::FeedConnected {
        climate: name.to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    weather_service::fetch(&db, &service, access.site, true).await?;
    view(db.pool(), &settings, access.site).await.map(Json)
}

/// Ends the subscription; what it brought stays.
#[utoipa::path(tag = "weather", operation_id = "disconnect_weather_feed", params(("site" = i64, Path)), responses(
    (status = 204, description = "Ended, or there was none"),
    (status = 404, description = "No such site here", body = Problem)))]
#[delete("/sites/{site}/weather-feed")]
pub(super) async fn disconnect(
    access: Access<Manage>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    if feeds::disconnect(&mut *tx, access.site).await? {
        history::note(
            &mut *tx,
            access.site,
            access.account,
            &Event::FeedDisconnected,
        )
        .await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Asks the weather service now, without waiting for the next time.
#[utoipa::path(tag = "weather", operation_id = "fetch_weather", params(("site" = i64, Path)), responses(
    (status = 200, description = "The subscription, with what failed if anything did", body = FeedView),
    (status = 409, description = "This server has no weather service", body = Problem)))]
#[post("/sites/{site}/weather-feed/fetches")]
pub(super) async fn fetch(
    access: Access<Manage>,
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<Json<FeedView>, ApiError> {
    let service = service(&settings)?;
    weather_service::fetch(&db, &service, access.site, true).await?;
    view(db.pool(), &settings, access.site).await.map(Json)
}
