use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, get, put};
use lawn::record::allowed::{self, Standing, against_caps};
use lawn::record::waterings::Ran;
use lawn::site::SiteDocument;
use lawn::site::cap::{self, Cap};
use sqlx::Postgres;
use sqlx::pool::PoolConnection;

use crate::api::access::{Access, Manage, Read};
use crate::api::sites::{SiteView, committed, opened_for_edit};
use crate::db::history::{self, Event};
use crate::db::{Db, runs, sites};
use crate::http::asker::Asker;
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::long_work::{Kind, LongWork, json};
use crate::{past_year, planning};

/// Years of weather by which it is told what is to come.
const YEARS: i64 = 10;

/// How the site stands against the caps that hold today: what was used, and what the month or year comes to on the weather of the record's past years.
#[utoipa::path(tag = "water book", operation_id = "show_caps", params(("site" = i64, Path)), responses(
    (status = 200, description = "The caps that hold", body = Vec<Standing>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/caps")]
pub(in crate::api) async fn show_caps(
    access: Access<Read>,
    asker: Asker,
    long_work: Data<LongWork>,
) -> Result<HttpResponse, ApiError> {
    let asked = access.asks(Kind::Caps, &asker);
    let site = access.site;
    let read = move |mut db: PoolConnection<Postgres>| async move {
        let (document, today) = planning::as_measured(&mut db, site).await?;
        let caps = sites::get(&mut *db, site).await?.caps;
        let needed = allowed::needed(&caps, today);
        let Some(first) = needed.iter().map(|days| *days.start()).min() else {
            return Ok(None);
        };
        let entries = runs::entries(&mut *db, site, first, today).await?;
        let first_run = runs::first_day(&mut *db, site).await?;
        let told = past_year::told_of(&mut db, site, today, YEARS).await?;
        let document = SiteDocument {
            caps,
            ..(*document).clone()
        };
        Ok(Some((document, today, entries, first_run, told)))
    };
    let found = long_work.answer(asked, read, |facts, going| {
        let Some((document, today, entries, first_run, told)) = facts else {
            return Ok(Vec::new());
        };
        let record = past_year::series(&document, &told);
        let ran = Ran::new(&document, &entries);
        let wanted = || going.is_wanted();
        Ok(against_caps(
            &wanted, &document, today, &ran, first_run, &record,
        )?)
    });
    Ok(json(found.await?))
}

/// Replaces what may be used: so much in a month or a year, or less than in a base year.
#[utoipa::path(tag = "water book", operation_id = "update_caps",
    params(("site" = i64, Path), ("If-Match" = String, Header, description = "The version edited")),
    request_body = Vec<Cap>, responses(
    (status = 200, description = "The site now", body = SiteView),
    (status = 412, description = "Somebody changed it in the meantime", body = Problem),
    (status = 422, description = "A cap does not hold", body = Problem)))]
#[put("/sites/{site}/caps")]
pub(in crate::api) async fn update_caps(
    access: Access<Manage>,
    request: HttpRequest,
    db: Data<Db>,
    Body(caps): Body<Vec<Cap>>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = opened_for_edit(&request, &db, access.site).await?;
    cap::validate(&caps)?;
    sites::set_caps(&mut *tx, access.site, &caps).await?;
    history::note(&mut *tx, access.site, access.account, &Event::CapsChanged).await?;
    committed(tx, access.site).await
}
