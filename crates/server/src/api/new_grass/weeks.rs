use std::sync::Arc;

use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get};
use jiff::civil::Date;
use lawn::new_grass::method::Method;
use lawn::new_grass::weeks::{InHours, Weeks, weeks};
use lawn::site::{Invalid, SiteDocument};
use science::turf::Grass;
use serde::Deserialize;
use sqlx::pool::PoolConnection;
use sqlx::{PgConnection, Postgres};
use utoipa::IntoParams;

use super::PAST_YEARS;
use crate::api::access::{Access, Read};
use crate::computing::Failure;
use crate::db::{Db, SiteId};
use crate::http::asker::Asker;
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked as InQuery;
use crate::long_work::{Asked, Kind, LongWork, json};
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

/// A zone of a site that is to be sown.
pub(super) struct ToSow {
    pub document: Arc<SiteDocument>,
    pub place: usize,
    pub today: Date,
}

impl ToSow {
    pub async fn read(db: &mut PgConnection, site: SiteId, zone: i64) -> Result<Self, ApiError> {
        let found = Self::of(db, site, zone).await?;
        found.ok_or(ApiError::NotFound("zone"))
    }

    async fn of(db: &mut PgConnection, site: SiteId, zone: i64) -> sqlx::Result<Option<Self>> {
        let (document, today) = planning::as_measured(&mut *db, site).await?;
        let id = zone.to_string();
        let place = document.zones.iter().position(|zone| zone.id == id);
        Ok(place.map(|place| Self {
            document,
            place,
            today,
        }))
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
    InQuery(how): InQuery<SownHow>,
    asker: Asker,
    db: Data<Db>,
    long_work: Data<LongWork>,
) -> Result<HttpResponse, ApiError> {
    let (site, zone) = (access.site, path.1);
    let mut db = db.pool().acquire().await?;
    let of = ToSow::read(&mut db, site, zone).await?;
    drop(db);
    let sown = of.sown(how.grass, how.method)?;
    let asked = Asked {
        of: format!("{zone} {sown:?} {:?}", how.hours),
        ..access.asks(Kind::SowingWeeks, &asker)
    };
    let read = move |mut db: PoolConnection<Postgres>| async move {
        let of = ToSow::of(&mut db, site, zone).await?;
        let of = of.ok_or_else(|| Failure::Stored("the zone is gone".to_owned()))?;
        let told = past_year::told_of(&mut db, site, of.today, PAST_YEARS).await?;
        Ok((of, told))
    };
    let found = long_work.answer(asked, read, move |(of, told), going| {
        let record = past_year::series(&of.document, &told);
        let (document, today) = (&of.document, of.today);
        let wanted = || going.is_wanted();
        Ok(weeks(
            &wanted, document, of.place, sown, how.hours, &record, today,
        )?)
    });
    Ok(json(found.await?))
}
