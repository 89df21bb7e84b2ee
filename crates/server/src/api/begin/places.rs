use actix_web::get;
use actix_web::web::Json;
use lawn::site::places::{Place, all, nearest, time_zone_at};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use crate::http::error::ApiError;
use crate::http::query::Asked;

/// A point, or none.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub(in crate::api) struct Point {
    latitude: Option<f64>,
    longitude: Option<f64>,
    /// The asker's own time zone.
    time_zone: Option<String>,
}

/// Places of the time-zone database.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Places {
    /// All places.
    places: &'static [Place],
    /// The one that is nearest to the point, where one was given.
    nearest: Option<&'static Place>,
    /// How far that is, km.
    nearest_km: Option<f64>,
    /// The time zone to begin with there: the asker's own where it may be that of the point.
    time_zone: Option<String>,
}

/// The principal places of the world's time zones, and which is nearest to a point.
#[utoipa::path(tag = "catalogue", operation_id = "list_places", params(Point), responses(
    (status = 200, description = "The places", body = Places)))]
#[get("/places")]
pub(in crate::api) async fn places(Asked(point): Asked<Point>) -> Result<Json<Places>, ApiError> {
    let own = point.time_zone.as_deref();
    let at = point.latitude.zip(point.longitude);
    let found = at.and_then(|(latitude, longitude)| nearest(latitude, longitude));
    Ok(Json(Places {
        places: all(),
        nearest: found,
        nearest_km: found
            .zip(at)
            .map(|(place, (latitude, longitude))| place.distance_km(latitude, longitude)),
        time_zone: at.and_then(|(latitude, longitude)| time_zone_at(latitude, longitude, own)),
    }))
}
