//! Brings a site's ledgers up to yesterday: its weather, then the balance of each zone, from the earliest day that is not as it should be.

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::engine::history::ZoneHistory;
use lawn::record::known::Run;
use lawn::record::past::{PastDay, carry_on};
use lawn::site::SiteDocument;
use lawn::view::plan::Past;
use lawn::weather::{self, BEFORE_DAYS, DailyWeather, Gaps, WeatherDay};
use sqlx::PgConnection;

use crate::computing::{Failure, computed};
use crate::db::ledgers::{self, Anew};
use crate::db::{self, SiteId, ZoneId};

/// Days of the past that a plan reads: a week's account before the two that it shows.
const READ_DAYS: i64 = 12;

/// What a plan reads of the past.
pub struct Kept {
    /// The last days of weather.
    pub observed: Vec<DailyWeather>,
    /// The zones' last days, and the rain of all the record.
    pub past: Past,
    /// Runs since the first day that a plan shows.
    pub runs: Vec<Run>,
}

/// Brings the ledgers up to the day before `today` and reads what a plan needs of them. `document` has the figures that tests tell.
///
/// # Errors
/// [`Failure`].
pub async fn brought_up(
    db: &mut PgConnection,
    site: SiteId,
    document: &SiteDocument,
    today: Date,
) -> Result<Kept, Failure> {
    let (weather_reach, zones) = ledgers::reach(&mut *db, site).await?;
    let weather_from = weather_reach.stale_from();
    let touched = weather_reach.touched.is_some();
    let mut fresh = Vec::new();
    if weather_from < today || touched {
        fresh = renew_weather(&mut *db, site, document, weather_from, today).await?;
    }
    // A record that ended long ago is still what the balance stands on.
    let last = fresh.last().map(|d| d.date).or(weather_reach.last);
    let first_read = last
        .map_or(today, |last| last.min(today))
        .saturating_sub(READ_DAYS.days());
    // A zone is stale from what touched it, from weather made anew, or from where its ledger ends.
    let stale: Vec<(ZoneId, Date)> = zones
        .iter()
        .filter_map(|(zone, reach)| {
            let from = if touched || !fresh.is_empty() {
                reach.stale_from().min(weather_from)
            } else {
                reach.stale_from()
            };
            let due = from < today && (reach.touched.is_some() || touched || !fresh.is_empty());
            due.then_some((*zone, from))
        })
        .collect();
    let earliest = stale.iter().map(|(_, from)| *from).min();
    let from = earliest.map_or(first_read, |d| d.min(first_read));
    let runs = db::runs::since(&mut *db, site, from).await?;
    let mut days = ledgers::weather(&mut *db, site, from, today).await?;
    if !stale.is_empty() {
        renew_zones(&mut *db, document, stale, &days, &runs).await?;
    }
    let ids: Vec<i64> = zones.iter().map(|(zone, _)| zone.0).collect();
    let last = ledgers::zone_days(&mut *db, &ids, first_read, today).await?;
    let past = Past {
        zones: ids
            .iter()
            .map(|id| {
                let own = last.iter().filter(|(zone, _)| zone.0 == *id);
                own.map(|(_, day)| *day).collect()
            })
            .collect(),
        climatology: ledgers::climatology(&mut *db, site, today).await?,
    };
    let read = days.partition_point(|d| d.date < first_read);
    days.drain(..read);
    Ok(Kept {
        observed: days,
        past,
        runs,
    })
}

async fn renew_weather(
    db: &mut PgConnection,
    site: SiteId,
    document: &SiteDocument,
    from: Date,
    today: Date,
) -> Result<Vec<DailyWeather>, Failure> {
    let yesterday = today.saturating_sub(1.day());
    let raw: Vec<WeatherDay> = db::weather::days(&mut *db, site, from, yesterday)
        .await?
        .into_iter()
        .map(|stored| stored.day)
        .collect();
    let before = ledgers::weather(
        &mut *db,
        site,
        from.saturating_sub(i64::try_from(BEFORE_DAYS).unwrap_or(10).days()),
        from,
    )
    .await?;
    let place = weather::place(&document.site);
    let days = computed(move || {
        // No day with temperatures: nothing to plan from yet.
        weather::continued(&place, &before, &raw, Gaps::Fill).unwrap_or_default()
    })
    .await?;
    ledgers::replace_weather(&mut *db, site, from, &days).await?;
    Ok(days)
}

async fn renew_zones(
    db: &mut PgConnection,
    document: &SiteDocument,
    stale: Vec<(ZoneId, Date)>,
    days: &[DailyWeather],
    runs: &[Run],
) -> Result<(), Failure> {
    let mut starts = Vec::with_capacity(stale.len());
    for (zone, from) in &stale {
        let before = last_before(&mut *db, *zone, *from).await?;
        starts.push((*zone, *from, before));
    }
    let (document, days, runs) = (document.clone(), days.to_vec(), runs.to_vec());
    let anew = computed(move || {
        starts
            .into_iter()
            .filter_map(|(zone, from, before)| {
                let id = zone.0.to_string();
                let of = document.zones.iter().find(|z| z.id == id)?;
                let history = ZoneHistory::new(of, &document.controller, document.site.latitude);
                let at = days.partition_point(|d| d.date < from);
                Some(Anew {
                    zone,
                    from,
                    days: carry_on(of, &history, before.as_ref(), &days[at..], &runs),
                })
            })
            .collect::<Vec<_>>()
    })
    .await?;
    ledgers::replace_zone_days(&mut *db, &anew).await?;
    Ok(())
}

/// The last day of a zone's ledger before a day.
async fn last_before(
    db: &mut PgConnection,
    zone: ZoneId,
    before: Date,
) -> Result<Option<PastDay>, Failure> {
    let yesterday = before.saturating_sub(1.day());
    let found = ledgers::zone_days(&mut *db, &[zone.0], yesterday, before).await?;
    Ok(found.into_iter().next().map(|(_, day)| day))
}
