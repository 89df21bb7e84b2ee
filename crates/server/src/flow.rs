//! A site's flow meters, watched day by day from what is kept of them.

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use lawn::engine::history::ZoneHistory;
use lawn::quantity::Volume;
use lawn::record::flow::{Minutes, Pass};
use lawn::record::flow_findings::{Standing, WatchedDay, standing};
use lawn::record::flow_watch::Watch;
use lawn::record::watered::Watered;
use lawn::site::SiteDocument;
use lawn::site::meter::Meter;
use sqlx::PgConnection;

use crate::db::meters::{MeterId, MeterRow};
use crate::db::runs::{self, Opened};
use crate::db::{self, SiteId};

/// Days over which a meter is watched: enough to have learned what is normal.
const WATCHED_DAYS: i64 = 90;

/// What is kept of a flow meter over the days that it is watched.
pub struct Kept {
    /// The meter.
    pub id: MeterId,
    meter: Meter,
    first: Date,
    today: Date,
    zone: TimeZone,
    from: Timestamp,
    counts: Vec<Option<u16>>,
    opened: Vec<Opened>,
    zones: Vec<(i64, ZoneHistory)>,
}

/// Reads what is kept of a site's flow meters; `document`: the site with what was measured.
///
/// # Errors
/// The database.
pub async fn read(
    db: &mut PgConnection,
    id: SiteId,
    document: &SiteDocument,
    today: Date,
    now: Timestamp,
    meters: Vec<MeterRow>,
) -> sqlx::Result<Vec<Kept>> {
    let zone = document.site.zone().unwrap_or(TimeZone::UTC);
    let first = today.saturating_sub(WATCHED_DAYS.days());
    let from = midnight(first, &zone).unwrap_or(now);
    let mut kept = Vec::new();
    for row in meters {
        // Of one that feeds the house too nobody knows what the house took.
        if row.meter.pulse_l.is_none() || row.meter.house {
            continue;
        }
        let (from, counts) = db::flow::between(&mut *db, row.id, from, now).await?;
        if counts.is_empty() {
            continue;
        }
        let opened = runs::opened(&mut *db, id, first, today).await?;
        let zones = document.zones.iter().map(|zone| {
            let history = ZoneHistory::new(zone, &document.controller, document.site.latitude);
            (zone.id.parse().unwrap_or(-1), history)
        });
        kept.push(Kept {
            id: row.id,
            zones: zones.collect(),
            meter: row.meter,
            first,
            today,
            zone: zone.clone(),
            from,
            counts,
            opened,
        });
    }
    Ok(kept)
}

fn midnight(day: Date, zone: &TimeZone) -> Option<Timestamp> {
    day.to_zoned(zone.clone())
        .ok()
        .map(|zoned| zoned.timestamp())
}

impl Kept {
    /// What its meter is called.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.meter.name
    }

    /// The passes on its zones; what a hose waters is nobody's pass, and explains its water all the same.
    fn passes(&self) -> Vec<Pass> {
        let of = |opened: &Opened| {
            let zone = self.zones.iter().position(|(id, _)| *id == opened.zone.0)?;
            if !self.meter.feeds(&opened.zone.0.to_string()) {
                return None;
            }
            let own = self.zones[zone].1.on(opened.date).model.flow_l_min;
            let (zone, rated_l_min) = match opened.watered {
                Watered::Own { share } if share >= 1.0 => (zone, own),
                Watered::Own { .. } | Watered::Unmeasured => (usize::MAX, own),
                Watered::Hose { flow_l_min, .. } => (usize::MAX, flow_l_min),
            };
            Some(Pass {
                zone,
                from: opened.from,
                to: opened.to,
                rated_l_min,
            })
        };
        self.opened.iter().filter_map(of).collect()
    }

    /// What stands today.
    #[must_use]
    pub fn standing(&self) -> Vec<Standing> {
        let pulse = Volume::from_l(self.meter.pulse_l.unwrap_or(1.0));
        let passes = self.passes();
        let mut watch = Watch::new(self.zones.len());
        let mut days = Vec::new();
        let mut date = self.first;
        while date <= self.today {
            let next = date.tomorrow().unwrap_or(Date::MAX);
            let ends = midnight(date, &self.zone).zip(midnight(next, &self.zone));
            let Some((begins, ends)) = ends else { break };
            let place = |at: Timestamp| {
                let minute = (at.as_second() - self.from.as_second()).max(0) / 60;
                usize::try_from(minute).unwrap_or(0).min(self.counts.len())
            };
            let counts = &self.counts[place(begins)..place(ends)];
            if counts.iter().any(Option::is_some) {
                // A pass belongs to the day on which it began.
                let of_day: Vec<Pass> = (passes.iter())
                    .filter(|p| begins <= p.from && p.from < ends)
                    .cloned()
                    .collect();
                let minutes = Minutes {
                    from: begins.max(self.from),
                    counts,
                    pulse,
                };
                // Where another rate is told the zone has other nozzles: its flow is learned anew.
                for (place, (_, history)) in self.zones.iter().enumerate() {
                    if history.holds_since("rate_mm_h", date) == Some(date) {
                        watch.forget(place);
                    }
                }
                let found = watch.day(&minutes, &of_day);
                let ran = of_day.iter().map(|p| p.zone).collect();
                days.push(WatchedDay { date, ran, found });
            }
            date = next;
        }
        standing(&days, self.today)
    }

    /// The zone of a finding.
    #[must_use]
    pub fn zone_id(&self, place: usize) -> Option<i64> {
        self.zones.get(place).map(|(id, _)| *id)
    }
}
