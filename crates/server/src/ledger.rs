//! Brings sites' ledgers up to yesterday: their weather, then the balance of each zone, from the earliest day that is not as it should be.
//! What several sites need is read and written together, so that a database far away is asked a dozen times, not a dozen times a site.

use std::collections::BTreeMap;
use std::sync::Arc;

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::engine::history::ZoneHistory;
use lawn::record::known::Run;
use lawn::record::past::{PastDay, carry_on};
use lawn::site::{Regime, SiteDocument};
use lawn::view::plan::Past;
use lawn::weather::outlook::Climatology;
use lawn::weather::{self, BEFORE_DAYS, DailyWeather, Gaps, WeatherDay};
use sqlx::PgConnection;

use crate::computing::{Failure, computed};
use crate::db::ledgers::{self, Anew, Reach, SiteReach, WeatherAnew, ZoneSpan};
use crate::db::{self, SiteId, Span, ZoneId};

/// Days of the past that a plan reads: a week's account before the two that it shows.
const READ_DAYS: i64 = 12;
/// The same where a zone is let go: its crowns are watered at most three weeks after a wetting of three days.
const CROWN_DAYS: i64 = 24;

/// A site whose ledgers are brought up.
#[derive(Clone)]
pub struct Site {
    /// Its identifier.
    pub id: SiteId,
    /// It as it is known.
    pub document: Arc<SiteDocument>,
    /// Its day.
    pub today: Date,
}

/// What a plan reads of the past.
pub struct Kept {
    /// The last days of weather.
    pub observed: Vec<DailyWeather>,
    /// The zones' last days, and the rain of all the record.
    pub past: Past,
    /// Runs since the first day that a plan shows.
    pub runs: Vec<Run>,
}

/// Brings sites' ledgers up to the day before each one's today and reads what their plans need of them. Each is read once, from where it goes on.
///
/// # Errors
/// [`Failure`].
pub async fn brought_up(
    db: &mut PgConnection,
    sites: Vec<Site>,
) -> Result<BTreeMap<SiteId, Kept>, Failure> {
    let ids: Vec<SiteId> = sites.iter().map(|site| site.id).collect();
    let mut reaches = ledgers::reach(&mut *db, &ids).await?;
    let mut raw = raw_weather(&mut *db, &sites, &reaches).await?;
    let courses = sites.into_iter().map(|site| {
        let reach = reaches.remove(&site.id).ok_or(sqlx::Error::RowNotFound)?;
        let raw = raw.remove(&site.id).unwrap_or_default();
        Ok(Course::new(site, reach, raw))
    });
    let courses: Vec<Course> = courses.collect::<sqlx::Result<_>>()?;

    let from: Vec<(SiteId, Date)> = courses.iter().map(|c| (c.site.id, c.first)).collect();
    let mut runs = db::runs::of_sites(&mut *db, &from).await?;
    let spans: Vec<Span> = courses.iter().map(Course::weather_span).collect();
    let mut days = ledgers::weather(&mut *db, &spans).await?;
    let spans: Vec<ZoneSpan> = courses.iter().flat_map(Course::zone_spans).collect();
    let kept = ledgers::zone_days(&mut *db, &spans).await?;
    let spans: Vec<ZoneSpan> = courses.iter().flat_map(Course::earlier_spans).collect();
    let earlier = if spans.is_empty() {
        BTreeMap::new()
    } else {
        ledgers::zone_days(&mut *db, &spans).await?
    };

    let renewed: Vec<Renewed> = computed(move || {
        let renewed = courses.into_iter().map(|course| {
            let id = course.site.id;
            let days = days.remove(&id).unwrap_or_default();
            let runs = runs.remove(&id).unwrap_or_default();
            Renewed::of(course, days, runs, &kept, &earlier)
        });
        renewed.collect()
    })
    .await?;

    let weather = renewed.iter().filter(|r| r.course.anew);
    let weather: Vec<WeatherAnew<'_>> = weather.map(Renewed::weather).collect();
    if !weather.is_empty() {
        ledgers::put_weather(&mut *db, &weather).await?;
    }
    ledgers::put_zone_days(&mut *db, renewed.iter().flat_map(|r| &r.zones)).await?;
    let mut climatology = ledgers::climatology(&mut *db, &ids).await?;
    let kept = renewed.into_iter().map(|renewed| {
        let id = renewed.course.site.id;
        (
            id,
            renewed.kept(climatology.remove(&id).unwrap_or_default()),
        )
    });
    Ok(kept.collect())
}

/// The weather as it was told, of sites whose ledger does not reach yesterday.
async fn raw_weather(
    db: &mut PgConnection,
    sites: &[Site],
    reaches: &BTreeMap<SiteId, SiteReach>,
) -> Result<BTreeMap<SiteId, Vec<WeatherDay>>, Failure> {
    let spans = sites.iter().filter_map(|site| {
        let (weather, _) = reaches.get(&site.id)?;
        let span = Span {
            site: site.id,
            from: weather.stale_from(),
            before: site.today,
        };
        (span.from < span.before).then_some(span)
    });
    let spans: Vec<Span> = spans.collect();
    if spans.is_empty() {
        return Ok(BTreeMap::new());
    }
    let stored = db::weather::of_sites(&mut *db, &spans).await?;
    let days = stored.into_iter().map(|(site, days)| {
        let days = days.into_iter().map(|stored| stored.day);
        (site, days.collect())
    });
    Ok(days.collect())
}

/// A zone whose ledger is to be made anew.
struct Stale {
    zone: ZoneId,
    /// From when.
    from: Date,
    /// How far it reaches as it is.
    reach: Reach,
}

/// What is to be made anew of a site's ledgers, and what must be read for it.
struct Course {
    site: Site,
    weather: Reach,
    zones: Vec<ZoneId>,
    /// The weather as it was told, from where its ledger is stale.
    raw: Vec<WeatherDay>,
    /// Whether weather is made anew.
    anew: bool,
    stale: Vec<Stale>,
    /// The first day that a plan reads.
    first_read: Date,
    /// The first day that is read or made anew.
    first: Date,
}

/// What was told, with the days on which a site's ledger begins and ends although nobody told of them: where it has normals, these count then.
fn with_blanks(site: &Site, reach: Reach, mut told: Vec<WeatherDay>) -> Vec<WeatherDay> {
    let place = &site.document.site;
    let yesterday = site.today.saturating_sub(1.day());
    let stale = reach.stale_from();
    if place.normals.is_none() || stale > yesterday {
        return told;
    }
    let zones = site.document.zones.iter();
    let begun = zones.filter_map(|zone| zone.active_from).min();
    let begun = begun.map_or(yesterday, |first| first.min(yesterday));
    let blank = |date| WeatherDay {
        date,
        ..WeatherDay::default()
    };
    // A ledger that goes on from earlier days has no gap at its start.
    let first = told.first().map_or(site.today, |day| day.date);
    if stale <= begun && begun < first {
        told.insert(0, blank(begun));
    }
    let begins = reach.last.is_some() || !told.is_empty();
    if begins && told.last().is_none_or(|day| day.date < yesterday) {
        told.push(blank(yesterday));
    }
    told
}

impl Course {
    fn new(site: Site, (weather, zones): SiteReach, told: Vec<WeatherDay>) -> Self {
        let today = site.today;
        let raw = with_blanks(&site, weather, told);
        let weather_from = weather.stale_from();
        let anew = weather.touched.is_some() || !raw.is_empty();
        // A record that ended long ago is still what the balance stands on.
        let kept_until = weather_from.saturating_sub(1.day());
        let last = raw.last().map(|d| d.date);
        let last = last.or(weather.last.map(|last| last.min(kept_until)));
        let mut zones_now = site.document.zones.iter();
        let read_days = match zones_now.any(|zone| zone.regime == Regime::Dormant) {
            true => CROWN_DAYS,
            false => READ_DAYS,
        };
        let first_read = last
            .map_or(today, |last| last.min(today))
            .saturating_sub(read_days.days());
        // A zone is stale from what touched it, from weather made anew, or from where its ledger ends.
        let stale = zones.iter().filter_map(|(zone, reach)| {
            let from = match anew {
                true => reach.stale_from().min(weather_from),
                false => reach.stale_from(),
            };
            let due = from < today && (anew || reach.touched.is_some());
            due.then_some(Stale {
                zone: *zone,
                from,
                reach: *reach,
            })
        });
        let stale: Vec<Stale> = stale.collect();
        let earliest = stale.iter().map(|s| s.from).min();
        Self {
            first: earliest.map_or(first_read, |d| d.min(first_read)),
            zones: zones.into_iter().map(|(zone, _)| zone).collect(),
            site,
            weather,
            raw,
            anew,
            stale,
            first_read,
        }
    }

    /// The days of weather to be read: those before what is made anew, as many as that goes on from.
    fn weather_span(&self) -> Span {
        let from = self.weather.stale_from();
        let goes_on_from = i64::try_from(BEFORE_DAYS).unwrap_or(10);
        let (from, before) = if self.anew {
            let first = from.saturating_sub(goes_on_from.days());
            (self.first.min(first), from.min(self.site.today))
        } else {
            (self.first, self.site.today)
        };
        Span {
            site: self.site.id,
            from,
            before,
        }
    }

    /// The zones' days to be read.
    fn zone_spans(&self) -> impl Iterator<Item = ZoneSpan> {
        self.zones.iter().map(|zone| ZoneSpan {
            zone: *zone,
            from: self.first_read,
            before: self.site.today,
        })
    }

    /// The days before those that are made anew, where they lie before all others that are read: of what was touched long ago.
    fn earlier_spans(&self) -> impl Iterator<Item = ZoneSpan> {
        let earlier = self.stale.iter().filter(|stale| {
            stale.reach.last.is_some() && stale.from.saturating_sub(1.day()) < self.first_read
        });
        earlier.map(|stale| ZoneSpan {
            zone: stale.zone,
            from: stale.from.saturating_sub(1.day()),
            before: stale.from,
        })
    }
}

/// Ledgers made anew, and what was read of them.
struct Renewed {
    course: Course,
    /// Weather that was read, then what is new.
    days: Vec<DailyWeather>,
    /// Where the new begins.
    fresh: usize,
    /// The zones' new days.
    zones: Vec<Anew>,
    /// All zones' days that a plan reads.
    last_days: Vec<Vec<PastDay>>,
    runs: Vec<Run>,
}

impl Renewed {
    fn of(
        course: Course,
        mut days: Vec<DailyWeather>,
        runs: Vec<Run>,
        kept: &BTreeMap<ZoneId, Vec<PastDay>>,
        earlier: &BTreeMap<ZoneId, Vec<PastDay>>,
    ) -> Self {
        let document = &course.site.document;
        let fresh = days.len();
        if !course.raw.is_empty() {
            let place = weather::place(&document.site);
            // No day with temperatures: nothing to plan from yet.
            let gaps = Gaps::filled(&document.site);
            let new = weather::continued(&place, &days, &course.raw, gaps);
            days.extend(new.unwrap_or_default());
        }
        let read = |zone: &ZoneId| kept.get(zone).map_or(&[][..], Vec::as_slice);
        let zones = course.stale.iter().filter_map(|stale| {
            let id = stale.zone.0.to_string();
            let of = document.zones.iter().find(|z| z.id == id)?;
            let history = ZoneHistory::of(document, of);
            let day = stale.from.saturating_sub(1.day());
            let mut known = read(&stale.zone)
                .iter()
                .chain(earlier.get(&stale.zone).into_iter().flatten());
            let before = known.find(|known| known.date == day);
            let at = days.partition_point(|d| d.date < stale.from);
            Some(Anew {
                zone: stale.zone,
                from: stale.from,
                reach: stale.reach,
                days: carry_on(of, &history, before, &days[at..], &runs),
            })
        });
        let zones: Vec<Anew> = zones.collect();
        let last_days = course.zones.iter().map(|zone| {
            let anew = zones.iter().find(|a| a.zone == *zone);
            let end = anew.map_or(Date::MAX, |a| a.from);
            let old = read(zone).iter().filter(|day| day.date < end);
            let new = anew.into_iter().flat_map(|a| &a.days);
            let new = new.filter(|day| day.date >= course.first_read);
            old.chain(new).copied().collect()
        });
        Self {
            last_days: last_days.collect(),
            zones,
            fresh,
            days,
            runs,
            course,
        }
    }

    /// The weather that is new.
    fn weather(&self) -> WeatherAnew<'_> {
        WeatherAnew {
            site: self.course.site.id,
            reach: self.course.weather,
            days: &self.days[self.fresh..],
        }
    }

    /// What a plan reads.
    fn kept(mut self, climatology: Climatology) -> Kept {
        let first = self.course.first_read;
        let read = self.days.partition_point(|d| d.date < first);
        self.days.drain(..read);
        Kept {
            observed: self.days,
            past: Past {
                zones: self.last_days,
                climatology,
            },
            runs: self.runs,
        }
    }
}
