//! Brings a site's ledgers up to yesterday: its weather, then the balance of each zone, from the earliest day that is not as it should be.

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::engine::history::ZoneHistory;
use lawn::record::known::Run;
use lawn::record::past::{PastDay, carry_on};
use lawn::site::SiteDocument;
use lawn::view::plan::Past;
use lawn::weather::outlook::Climatology;
use lawn::weather::{self, BEFORE_DAYS, DailyWeather, Gaps, WeatherDay};
use sqlx::PgConnection;

use crate::computing::{Failure, computed};
use crate::db::ledgers::{self, Anew, Reach};
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

/// Brings the ledgers up to the day before `today` and reads what a plan needs of them. Each is read once, from where it goes on.
///
/// # Errors
/// [`Failure`].
pub async fn brought_up(
    db: &mut PgConnection,
    site: SiteId,
    document: &SiteDocument,
    today: Date,
) -> Result<Kept, Failure> {
    let (weather, zones) = ledgers::reach(&mut *db, site).await?;
    let weather_from = weather.stale_from();
    let mut raw: Vec<WeatherDay> = Vec::new();
    if weather_from < today {
        let yesterday = today.saturating_sub(1.day());
        let stored = db::weather::days(&mut *db, site, weather_from, yesterday).await?;
        raw.extend(stored.into_iter().map(|stored| stored.day));
    }
    let anew = weather.touched.is_some() || !raw.is_empty();
    // A record that ended long ago is still what the balance stands on.
    let kept_until = weather_from.saturating_sub(1.day());
    let last = raw.last().map(|d| d.date);
    let last = last.or(weather.last.map(|last| last.min(kept_until)));
    let first_read = last
        .map_or(today, |last| last.min(today))
        .saturating_sub(READ_DAYS.days());
    // A zone is stale from what touched it, from weather made anew, or from where its ledger ends.
    let stale: Vec<Stale> = zones
        .iter()
        .filter_map(|(zone, reach)| {
            let from = match anew {
                true => reach.stale_from().min(weather_from),
                false => reach.stale_from(),
            };
            let due = from < today && (anew || reach.touched.is_some());
            due.then_some(Stale {
                zone: *zone,
                from,
                reach: *reach,
                before: None,
            })
        })
        .collect();
    let earliest = stale.iter().map(|s| s.from).min();
    let first = earliest.map_or(first_read, |d| d.min(first_read));
    let runs = db::runs::since(&mut *db, site, first).await?;
    let (first_day, end) = if anew {
        let before = i64::try_from(BEFORE_DAYS).unwrap_or(10);
        (
            first.min(weather_from.saturating_sub(before.days())),
            weather_from.min(today),
        )
    } else {
        (first, today)
    };
    let days = ledgers::weather(&mut *db, site, first_day, end).await?;
    let ids: Vec<i64> = zones.iter().map(|(zone, _)| zone.0).collect();
    let kept = ledgers::zone_days(&mut *db, &ids, first_read, today).await?;
    let stale = with_days_before(&mut *db, stale, &kept, first_read).await?;

    let (document, run_list) = (document.clone(), runs.clone());
    let renewed = computed(move || Renewed::of(&document, days, &raw, stale, &run_list)).await?;
    if anew {
        let fresh = &renewed.days[renewed.fresh..];
        ledgers::put_weather(&mut *db, site, fresh, weather).await?;
    }
    ledgers::put_zone_days(&mut *db, &renewed.zones).await?;
    let climatology = ledgers::climatology(&mut *db, site).await?;
    Ok(renewed.kept(&ids, &kept, runs, first_read, climatology))
}

/// A zone whose ledger is to be made anew.
struct Stale {
    zone: ZoneId,
    /// From when.
    from: Date,
    /// How far it reaches as it is.
    reach: Reach,
    /// The day before that.
    before: Option<PastDay>,
}

/// Finds the days before those that are made anew: among those read anyway, or, of what was touched long ago, each for itself.
async fn with_days_before(
    db: &mut PgConnection,
    mut stale: Vec<Stale>,
    kept: &[(ZoneId, PastDay)],
    first_read: Date,
) -> Result<Vec<Stale>, Failure> {
    for zone in &mut stale {
        let day = zone.from.saturating_sub(1.day());
        zone.before = if day >= first_read {
            let mut own = kept
                .iter()
                .filter(|(id, of)| *id == zone.zone && of.date == day);
            own.next().map(|(_, day)| *day)
        } else if zone.reach.last.is_some() {
            let found = ledgers::zone_days(&mut *db, &[zone.zone.0], day, zone.from).await?;
            found.into_iter().next().map(|(_, day)| day)
        } else {
            None
        };
    }
    Ok(stale)
}

/// Ledgers made anew.
struct Renewed {
    /// Weather that was read, then what is new.
    days: Vec<DailyWeather>,
    /// Where the new begins.
    fresh: usize,
    /// The zones' days.
    zones: Vec<Anew>,
}

impl Renewed {
    fn of(
        document: &SiteDocument,
        mut days: Vec<DailyWeather>,
        raw: &[WeatherDay],
        stale: Vec<Stale>,
        runs: &[Run],
    ) -> Self {
        let fresh = days.len();
        if !raw.is_empty() {
            let place = weather::place(&document.site);
            // No day with temperatures: nothing to plan from yet.
            let new = weather::continued(&place, &days, raw, Gaps::Fill).unwrap_or_default();
            days.extend(new);
        }
        let zones = stale.into_iter().filter_map(|stale| {
            let id = stale.zone.0.to_string();
            let of = document.zones.iter().find(|z| z.id == id)?;
            let history = ZoneHistory::new(of, &document.controller, document.site.latitude);
            let at = days.partition_point(|d| d.date < stale.from);
            Some(Anew {
                zone: stale.zone,
                from: stale.from,
                reach: stale.reach,
                days: carry_on(of, &history, stale.before.as_ref(), &days[at..], runs),
            })
        });
        Self {
            zones: zones.collect(),
            fresh,
            days,
        }
    }

    /// What a plan reads: the days from a first on.
    fn kept(
        mut self,
        ids: &[i64],
        kept: &[(ZoneId, PastDay)],
        runs: Vec<Run>,
        first: Date,
        climatology: Climatology,
    ) -> Kept {
        let zones = ids.iter().map(|id| {
            let anew = self.zones.iter().find(|a| a.zone.0 == *id);
            let end = anew.map_or(Date::MAX, |a| a.from);
            let old = kept
                .iter()
                .filter(|(zone, day)| zone.0 == *id && day.date < end);
            let new = anew.into_iter().flat_map(|a| &a.days);
            let new = new.filter(|day| day.date >= first);
            old.map(|(_, day)| *day).chain(new.copied()).collect()
        });
        let zones = zones.collect();
        let past = Past { zones, climatology };
        let read = self.days.partition_point(|d| d.date < first);
        self.days.drain(..read);
        Kept {
            observed: self.days,
            past,
            runs,
        }
    }
}
