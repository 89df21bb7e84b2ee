//! The dormancy ledgers of a site's zones.

use std::collections::BTreeMap;
use std::sync::Arc;

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::engine::history::ZoneHistory;
use lawn::site::SiteDocument;
use lawn::stress::dormancy::{self, Day};
use lawn::weather::{self, AheadDay, DailyWeather};
use sqlx::PgConnection;

use crate::db::ledgers::{self, ZoneSpan};
use crate::db::{self, SiteId, Span, ZoneId};
use crate::planning;

/// Days that are read at least: a season. Else all since the year's first, so that how often a zone fell asleep in it is known.
const READ_DAYS: i64 = 120;

/// Days ahead of which heat is told, and days before that tell whether it goes on.
const AHEAD_DAYS: usize = 7;
const BEFORE_DAYS: i64 = 12;

/// The weather that heat is told from: the last two days, then the site's day and the six after it by the newest forecast.
///
/// # Errors
/// The database.
pub async fn weather_ahead(
    db: &mut PgConnection,
    site: SiteId,
    document: &SiteDocument,
    today: Date,
) -> sqlx::Result<Vec<DailyWeather>> {
    let from = today.saturating_sub(BEFORE_DAYS.days());
    let span = Span {
        site,
        from,
        before: today,
    };
    let observed = ledgers::weather(&mut *db, &[span]).await?.remove(&site);
    let observed = observed.unwrap_or_default();
    let forecast = db::weather::forecast(&mut *db, site, today).await?;
    let forecast = planning::daily(document, &observed, &forecast);
    let ahead: [AheadDay; AHEAD_DAYS] = weather::ahead(&document.site, &observed, &forecast, today);
    let before = observed.iter().rev().take(2).rev().copied();
    Ok(before.chain(ahead.map(|day| day.weather)).collect())
}

/// The dormancy ledgers of a site's zones up to yesterday, by the kept balances, which must be brought up.
///
/// # Errors
/// The database.
pub async fn ledgers(
    db: &mut PgConnection,
    site: SiteId,
    document: &Arc<SiteDocument>,
    today: Date,
) -> sqlx::Result<BTreeMap<ZoneId, Vec<Day>>> {
    let new_year = today.first_of_year();
    let from = today.saturating_sub(READ_DAYS.days()).min(new_year);
    let from = from.max(lawn::days::FIRST);
    let before = today;
    let ids = document
        .zones
        .iter()
        .filter_map(|zone| zone.id.parse().ok().map(ZoneId));
    let spans: Vec<ZoneSpan> = ids.map(|zone| ZoneSpan { zone, from, before }).collect();
    let kept = ledgers::zone_days(&mut *db, &spans).await?;
    let weather = ledgers::weather(&mut *db, &[Span { site, from, before }]).await?;
    let weather = weather.get(&site).map_or(&[][..], Vec::as_slice);
    let of = |(zone, days): (ZoneId, Vec<_>)| {
        let id = zone.0.to_string();
        let found = document.zones.iter().find(|zone| zone.id == id)?;
        let history = ZoneHistory::of(document, found);
        Some((
            zone,
            dormancy::ledger(&history, dormancy::read(&days, weather)),
        ))
    };
    Ok(kept.into_iter().filter_map(of).collect())
}
