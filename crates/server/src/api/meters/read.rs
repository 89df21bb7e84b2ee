use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post};
use jiff::Timestamp;
use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use lawn::measure::unlikely::Unlikely;
use lawn::quantity::Volume;
use lawn::record::readings::{
    Follows, Heard, OnTheClock, Reading, expected, odd_beside, on_the_clock,
};
use lawn::record::waterings::Ran;
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::meter;
use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::meters::{self, MeterId, NewReading, ReadingRow};
use crate::db::{Db, flow, runs, sites};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning};

/// Which of two instants, in the night on which the clock is set back.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(in crate::api) enum Which {
    /// Before the clock was set back.
    First,
    /// After.
    Second,
}

/// A reading.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = NewMeterReading)]
pub(in crate::api) struct New {
    /// When, on the site's clock; absent: now, or as the reading that it takes the place of.
    #[serde(default)]
    #[schema(value_type = Option<String>)]
    read_at: Option<DateTime>,
    /// Which of two, where the clock showed that time twice.
    #[serde(default)]
    which: Option<Which>,
    /// The figure, in the meter's own count.
    register: f64,
    /// How it follows the reading before; absent: the counter went on.
    #[serde(default)]
    follows: Follows,
    /// Whether a figure that is seldom so was asked about, and is so.
    #[serde(default)]
    sure: bool,
    /// The reading that it corrects: that is voided.
    #[serde(default)]
    replaces: Option<i64>,
    /// Made up by the sender, 8 to 80 characters: the same reading sent twice is written once.
    idempotency_key: String,
}

/// A reading that was written.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct WrittenReading {
    id: i64,
}

/// The instant that is meant.
fn instant(new: &New, zone: &TimeZone) -> Result<Option<Timestamp>, ApiError> {
    let Some(at) = new.read_at else {
        return Ok(None);
    };
    match (on_the_clock(zone, at), new.which) {
        (OnTheClock::Once(at), _)
        | (OnTheClock::Twice(at, _), Some(Which::First))
        | (OnTheClock::Twice(_, at), Some(Which::Second)) => Ok(Some(at)),
        (OnTheClock::Twice(first, second), None) => Err(ApiError::Unlikely(
            "read_at",
            Unlikely::TwiceThatNight { first, second },
        )),
        (OnTheClock::Never(shown), _) => Err(Invalid::new(
            "read_at",
            format!(
                "that night the clock was set forward over {}: it showed {}",
                at.strftime("%H:%M"),
                shown.strftime("%H:%M")
            ),
        )
        .into()),
    }
}

/// Adds a reading. A figure that is odd is asked about; one that cannot be, such as one lower than the last, is not taken without how that came. Sent again with
/// the same key it changes nothing.
#[utoipa::path(tag = "water book", operation_id = "add_reading", params(("site" = i64, Path), ("meter" = i64, Path)), request_body = New, responses(
    (status = 201, description = "Written", body = WrittenReading),
    (status = 200, description = "Written before", body = WrittenReading),
    (status = 404, description = "No such meter here", body = Problem),
    (status = 409, description = "The meter has another reading of that instant", body = Problem),
    (status = 422, description = "A figure does not hold, or is asked about", body = Problem)))]
#[post("/sites/{site}/meters/{meter}/readings")]
pub(in crate::api) async fn add_reading(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(new): Body<New>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&new.idempotency_key)?;
    let id = MeterId(path.1);
    let mut tx = db.write(access.site).await?;
    let meter = meter(&mut tx, access.site, id).await?.meter;
    if let Some(id) = meters::written(&mut *tx, id, &new.idempotency_key).await? {
        return Ok(HttpResponse::Ok().json(WrittenReading { id }));
    }
    let site = sites::get(&mut *tx, access.site).await?;
    let now = clock::now(site.simulated_now);
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let rows = meters::readings(&mut *tx, access.site, lawn::days::FIRST).await?;
    let mut others: Vec<ReadingRow> = rows.into_iter().filter(|row| row.meter == id).collect();
    let mut corrected = None;
    if let Some(replaces) = new.replaces {
        let at = others.iter().position(|row| row.id == replaces);
        let at = at.ok_or(ApiError::NotFound("reading"))?;
        corrected = Some(others.remove(at).reading.at);
    }
    let at = instant(&new, &zone)?.or(corrected).unwrap_or(now);
    let invalid = |field: &str, message: String| ApiError::Invalid(Invalid::new(field, message));
    if at > now {
        let message = "a reading that is still to come cannot be written".to_owned();
        return Err(invalid("read_at", message));
    }
    let date = at.to_zoned(zone).date();
    lawn::days::check("read_at", date, lawn::days::LAST)?;
    if !meter.is_there(date) {
        let message = format!("{} was not there on {date}", meter.name);
        return Err(invalid("read_at", message));
    }
    meter.check_register("register", new.register)?;
    if let Follows::NewMeter {
        old_register,
        began_with,
    } = new.follows
    {
        meter.check_register("began_with", began_with)?;
        if let Some(old) = old_register {
            meter.check_register("old_register", old)?;
        }
    }
    let reading = Reading {
        at,
        register: new.register,
        follows: new.follows,
    };
    let earlier = others.partition_point(|row| row.reading.at < at);
    if others.get(earlier).is_some_and(|row| row.reading.at == at) {
        return Err(taken());
    }
    let before: Vec<Reading> = others[..earlier].iter().map(|row| row.reading).collect();
    let run = match before.last() {
        Some(last) => {
            let (document, today) = planning::as_measured(&mut tx, access.site).await?;
            let first = last.at.to_zoned(document.site.zone()?).date();
            let first = first.yesterday().unwrap_or(first);
            let entries = runs::entries(&mut *tx, access.site, first, today).await?;
            Ran::new(&document, &entries).between(&meter, last.at, at)
        }
        None => Volume::default(),
    };
    let expects = expected(&meter, &before, at, run);
    let next = others.get(earlier).map(|row| &row.reading);
    let heard = match (before.last(), meter.pulse_l) {
        (Some(last), Some(pulse_l)) => {
            let (from, counts) = flow::between(&mut *tx, id, last.at, at).await?;
            let before = usize::try_from(last.at.duration_since(from).as_mins()).unwrap_or(0);
            Heard::of(
                counts.get(before..).unwrap_or_default(),
                Volume::from_l(pulse_l),
            )
        }
        _ => None,
    };
    let found = odd_beside(&meter, before.last(), next, &reading, expects, heard);
    let insists = new.sure && found.as_ref().is_none_or(Unlikely::can_be);
    ApiError::ask("register", found, insists)?;
    let added = NewReading {
        meter: id,
        reading,
        account: Some(access.account),
        replaces: new.replaces,
        idempotency_key: &new.idempotency_key,
    };
    let id = meters::add(&mut tx, &added).await?.ok_or_else(taken)?;
    let event = Event::MeterRead {
        meter: meter.name,
        register: new.register,
        at,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(WrittenReading { id }))
}

fn taken() -> ApiError {
    ApiError::Conflict(
        "this meter has a reading of that minute already; correct that one, or say another time"
            .to_owned(),
    )
}
