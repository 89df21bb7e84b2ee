//! What the water book of a site is made of, read from the database.

use std::collections::BTreeMap;
use std::sync::Arc;

use jiff::civil::Date;
use jiff::tz::TimeZone;
use lawn::record::book::{Book, Sources, book};
use lawn::record::findings::{Finding, findings};
use lawn::record::past::PastDay;
use lawn::record::readings::Reading;
use lawn::record::reconcile::{Day, reconcile};
use lawn::record::watching::WatchedDay;
use lawn::record::waterings::{Entry, counted_from, used_of_month};
use lawn::site::SiteDocument;
use lawn::site::meter::Meter;
use lawn::weather::DailyWeather;
use sqlx::PgConnection;

use crate::clock;
use crate::db::ledgers::{self, ZoneSpan};
use crate::db::meters::{self, MeterRow, ReadingRow};
use crate::db::sites::SiteRow;
use crate::db::{SiteId, Span, runs, zones};

/// Sites' documents with the price at which the next water of their day is bought; a site that has one price, or none, is left out.
///
/// # Errors
/// The database.
pub async fn priced_all<'a>(
    db: &mut PgConnection,
    sites: impl IntoIterator<Item = (SiteId, &'a SiteDocument, Date)>,
) -> sqlx::Result<BTreeMap<SiteId, SiteDocument>> {
    let sites = sites.into_iter();
    let priced: Vec<_> = sites
        .filter(|(_, document, _)| !document.tariffs.is_empty())
        .collect();
    if priced.is_empty() {
        return Ok(BTreeMap::new());
    }
    let since = priced
        .iter()
        .map(|(id, _, today)| (*id, today.first_of_month()));
    let mut runs = runs::of_sites(&mut *db, &since.collect::<Vec<_>>()).await?;
    let priced = priced.into_iter().map(|(id, document, today)| {
        let runs = runs.remove(&id).unwrap_or_default();
        let used = used_of_month(document, &runs, today);
        (id, document.clone().priced(today, used))
    });
    Ok(priced.collect())
}

/// A site with the price at which its next water is bought in the place of its one price.
///
/// # Errors
/// The database.
pub async fn with_next_price(db: &mut PgConnection, mut site: SiteRow) -> sqlx::Result<SiteRow> {
    if site.tariffs.is_empty() {
        return Ok(site);
    }
    let zones = zones::of_site(&mut *db, site.id).await?;
    let document = zones::document(&site, &zones);
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let priced = priced_all(db, [(site.id, &document, today)]).await?;
    if let Some(priced) = priced.get(&site.id) {
        site.site.price_per_m3 = priced.site.price_per_m3;
    }
    Ok(site)
}

/// Meters with their readings in time order.
fn with_readings(meters: Vec<MeterRow>, readings: Vec<ReadingRow>) -> Vec<(Meter, Vec<Reading>)> {
    let mut of: BTreeMap<_, Vec<Reading>> = BTreeMap::new();
    for row in readings {
        of.entry(row.meter).or_default().push(row.reading);
    }
    let meters = meters.into_iter();
    meters
        .map(|row| (row.meter, of.remove(&row.id).unwrap_or_default()))
        .collect()
}

/// All that a book is made of.
pub struct Pages {
    document: Arc<SiteDocument>,
    from: Date,
    to: Date,
    entries: Vec<Entry>,
    ledger: Vec<Vec<PastDay>>,
    weather: Vec<DailyWeather>,
    meters: Vec<(Meter, Vec<Reading>)>,
}

impl Pages {
    /// What its meters say.
    #[must_use]
    pub fn findings(&self) -> Vec<Finding> {
        let meters: Vec<Meter> = self.meters.iter().map(|(meter, _)| meter.clone()).collect();
        findings(&meters, &self.book())
    }

    /// The book.
    #[must_use]
    pub fn book(&self) -> Book {
        book(&self.sources())
    }

    /// Its days one by one, beside what a flow meter counted.
    #[must_use]
    pub fn days(&self, meter: Option<(&Meter, &[WatchedDay])>) -> Vec<Day> {
        reconcile(&self.sources(), meter)
    }

    fn sources(&self) -> Sources<'_> {
        Sources {
            document: &self.document,
            from: self.from,
            to: self.to,
            entries: &self.entries,
            ledger: &self.ledger,
            weather: &self.weather,
            meters: &self.meters,
        }
    }
}

/// What the book of a site over a span of days is made of; `document`: the site with what was measured.
///
/// # Errors
/// The database.
pub async fn read(
    db: &mut PgConnection,
    id: SiteId,
    document: Arc<SiteDocument>,
    from: Date,
    to: Date,
) -> sqlx::Result<Pages> {
    let before = to.tomorrow().unwrap_or(to);
    let span = Span {
        site: id,
        from,
        before,
    };
    let weather = ledgers::weather(&mut *db, &[span]).await?;
    let meters = meters::of_site(&mut *db, id).await?;
    let readings = meters::readings(&mut *db, id, from).await?;
    let meters = with_readings(meters, readings);
    let zone = document.site.zone().unwrap_or(TimeZone::UTC);
    let first_read = meters.iter().filter_map(|(_, readings)| readings.first());
    let first_read = first_read.map(|reading| reading.at.to_zoned(zone.clone()).date());
    // A run of the evening before may still have run.
    let needed = first_read.min().and_then(|day| day.yesterday().ok());
    let first = counted_from(from).min(needed.unwrap_or(from));
    let entries = runs::entries(&mut *db, id, first, to).await?;
    let zones = zones::of_site(&mut *db, id).await?;
    let spans = zones.iter().map(|row| ZoneSpan {
        zone: row.id,
        from,
        before,
    });
    let mut days = ledgers::zone_days(&mut *db, &spans.collect::<Vec<_>>()).await?;
    let ledger = zones
        .iter()
        .map(|row| days.remove(&row.id).unwrap_or_default());
    Ok(Pages {
        ledger: ledger.collect(),
        weather: weather.into_values().flatten().collect(),
        document,
        from,
        to,
        entries,
        meters,
    })
}
