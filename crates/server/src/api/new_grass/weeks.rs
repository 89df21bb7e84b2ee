use std::sync::Arc;

use actix_web::get;
use actix_web::web::{Data, Json, Path};
use jiff::civil::Date;
use lawn::new_grass::method::Method;
use lawn::new_grass::weeks::{InHours, Weeks, weeks};
use lawn::site::{Invalid, SiteDocument};
use lawn::weather::WeatherDay;
use science::turf::Grass;
use serde::Deserialize;
use sqlx::PgConnection;
use utoipa::IntoParams;

use super::PAST_YEARS;
use crate::api::access::{Access, Read};
use crate::computing::computed;
use crate::db::{Db, SiteId};
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked;
use crate::{past_year, planning};

/// What is sown, and how.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct SownHow {
    /// The grass; absent: the zone's.
    grass: Option<Grass>,
    /// How; absent: seed on bare ground, or sod of a grass without seed.
    method: Option<Method>,
    /// In which hours it is to be watered; absent: of the day.
    #[serde(default)]
    hours: InHours,
}

/// A zone of a site that is to be sown, with the site's past weather.
pub(super) struct ToSow {
    pub document: Arc<SiteDocument>,
    pub place: usize,
    pub today: Date,
    pub told: Vec<WeatherDay>,
}

impl ToSow {
    pub async fn read(db: &mut PgConnection, site: SiteId, zone: i64) -> Result<Self, ApiError> {
        let (document, today) = planning::as_measured(&mut *db, site).await?;
        let id = zone.to_string();
        let place = document.zones.iter().position(|zone| zone.id == id);
        Ok(Self {
            place: place.ok_or(ApiError::NotFound("zone"))?,
            told: past_year::told_of(&mut *db, site, today, PAST_YEARS).await?,
            document,
            today,
        })
    }

    /// What is sown, and how.
    pub fn sown(
        &self,
        grass: Option<Grass>,
        method: Option<Method>,
    ) -> Result<(Grass, Method), Invalid> {
        let grass = grass.unwrap_or_else(|| self.document.zones[self.place].on(self.today).grass);
        let usual = if grass.seed().is_some() {
            Method::Seed
        } else {
            Method::Sod
        };
        let method = method.unwrap_or(usual);
        if !method.suits(grass) {
            let name = grass.profile().name;
            let message = format!("{name} is not made anew in this way");
            return Err(Invalid::new("method", message));
        }
        Ok((grass, method))
    }
}

/// What sowing a zone in each week of the year ahead comes to, by the site's past years: whether it is in season, what becomes of it on rain alone, and watered, with its water,
/// minutes and waterings. Nothing is changed.
#[utoipa::path(tag = "new grass", operation_id = "show_sowing_weeks", params(("site" = i64, Path), ("zone" = i64, Path), SownHow), responses(
    (status = 200, description = "The weeks", body = Weeks),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 422, description = "The grass is not made so", body = Problem)))]
#[get("/sites/{site}/zones/{zone}/sowing-weeks")]
pub(in crate::api) async fn show_sowing_weeks(
    access: Access<Read>,
    path: Path<(String, i64)>,
    Asked(how): Asked<SownHow>,
    db: Data<Db>,
) -> Result<Json<Weeks>, ApiError> {
    let mut db = db.pool().acquire().await?;
    let to_sow = ToSow::read(&mut db, access.site, path.1).await?;
    drop(db);
    let sown = to_sow.sown(how.grass, how.method)?;
    let found = computed(move || {
        let record = past_year::series(&to_sow.document, &to_sow.told);
        let (document, today) = (&to_sow.document, to_sow.today);
        weeks(document, to_sow.place, sown, how.hours, &record, today)
    });
    Ok(Json(found.await??))
}
