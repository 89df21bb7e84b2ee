//! A site's flow meters, watched day by day from what is kept of them.

use std::sync::Arc;

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use lawn::record::watching::{Counted, Opened, WatchedDay, watched};
use lawn::site::SiteDocument;
use lawn::site::meter::Meter;
use sqlx::PgConnection;

use crate::clock;
use crate::db::meters::MeterId;
use crate::db::{self, SiteId, runs, sites};

/// Days over which a meter is watched before those that are asked for: enough to have learned what is normal.
const LEARNED_DAYS: i64 = 90;

/// What is kept of a flow meter over the days that it is watched.
pub struct Kept {
    /// The meter.
    pub id: MeterId,
    /// As it is on the last day.
    pub meter: Meter,
    document: Arc<SiteDocument>,
    first: Date,
    last: Date,
    from: Timestamp,
    counts: Vec<Option<u16>>,
    opened: Arc<[Opened]>,
}

/// Reads what is kept of a site's flow meters for a stretch of days, and for the days before from which it is learned what is normal; no later than now.
/// `document`: the site with what was measured.
///
/// # Errors
/// The database.
pub async fn read(
    db: &mut PgConnection,
    id: SiteId,
    document: &Arc<SiteDocument>,
    from: Date,
    last: Date,
) -> sqlx::Result<Vec<Kept>> {
    let now = clock::now(sites::get(&mut *db, id).await?.simulated_now);
    let meters = db::meters::of_site(&mut *db, id).await?;
    let first = from.saturating_sub(LEARNED_DAYS.days());
    let zone = document.site.zone().unwrap_or(TimeZone::UTC);
    let midnight = |day: Date| Some(day.to_zoned(zone.clone()).ok()?.timestamp());
    let from = midnight(first).unwrap_or(now);
    // The day after the last too: runs go on after midnight.
    let to = midnight(last.saturating_add(2.days())).map_or(now, |end| end.min(now));
    let mut counted = Vec::new();
    for row in meters {
        // Of one that feeds the house too nobody knows what the house took.
        if row.meter.pulse_l.is_none() || row.meter.house {
            continue;
        }
        let (from, counts) = db::flow::between(&mut *db, row.id, from, to).await?;
        if !counts.is_empty() {
            counted.push((row, from, counts));
        }
    }
    if counted.is_empty() {
        return Ok(Vec::new());
    }
    let opened: Arc<[Opened]> = runs::opened(&mut *db, id, first, last).await?.into();
    let kept = counted.into_iter().map(|(row, from, counts)| Kept {
        id: row.id,
        meter: row.meter,
        document: document.clone(),
        first,
        last,
        from,
        counts,
        opened: opened.clone(),
    });
    Ok(kept.collect())
}

impl Kept {
    /// The days that were watched.
    #[must_use]
    pub fn days(&self) -> Vec<WatchedDay> {
        watched(&Counted {
            document: &self.document,
            meter: &self.meter,
            from: self.from,
            counts: &self.counts,
            opened: &self.opened,
            first: self.first,
            last: self.last,
        })
    }
}
