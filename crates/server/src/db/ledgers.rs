//! Ledgers: weather as the balance uses it, and each zone's balance, day by day. Derived; made anew from the earliest day touched.

use std::collections::BTreeMap;

use jiff::civil::Date;
use lawn::engine::correction::Doubt;
use lawn::engine::root_zone::{Below, DayBalance, Irrigation};
use lawn::quantity::Depth;
use lawn::record::past::PastDay;
use lawn::site::normals::WET_MM;
use lawn::weather::DailyWeather;
use lawn::weather::outlook::Climatology;
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use sqlx::types::Json;
use sqlx::{PgConnection, PgExecutor};

use super::{SiteId, Span, ZoneId, days_of, grouped, undecodable};

/// How far a ledger reaches.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Reach {
    /// The earliest day from which it must be made anew.
    pub touched: Option<Date>,
    /// Its last day.
    pub last: Option<Date>,
}

impl Reach {
    /// The first day that is not as it should be.
    #[must_use]
    pub fn stale_from(self) -> Date {
        let next = self
            .last
            .and_then(|last| last.tomorrow().ok())
            .unwrap_or(lawn::days::FIRST);
        self.touched.map_or(next, |touched| touched.min(next))
    }

    /// Whether it has days from a day on.
    fn goes_beyond(self, day: Date) -> bool {
        self.last.is_some_and(|last| last >= day)
    }
}

/// How far a site's ledger of weather reaches, and those of its zones, in the site's order.
pub type SiteReach = (Reach, Vec<(ZoneId, Reach)>);

/// How far sites' ledgers reach.
pub async fn reach(
    db: &mut PgConnection,
    sites: &[SiteId],
) -> sqlx::Result<BTreeMap<SiteId, SiteReach>> {
    let sites: Vec<i64> = sites.iter().map(|site| site.0).collect();
    let rows = sqlx::query!(
        r#"SELECT s.id, s.weather_from, (SELECT max(date) FROM weather_ledger WHERE site_id = s.id) AS weather_last,
                  z.id AS "zone?", z.ledger_from, (SELECT max(date) FROM zone_day d WHERE d.zone_id = z.id) AS zone_last
           FROM site s LEFT JOIN zone z ON z.site_id = s.id WHERE s.id = ANY($1) ORDER BY s.id, z.position, z.id"#,
        &sites
    )
    .fetch_all(&mut *db)
    .await?;
    let reach = |touched: Option<jiff_sqlx::Date>, last: Option<jiff_sqlx::Date>| Reach {
        touched: touched.map(jiff_sqlx::Date::to_jiff),
        last: last.map(jiff_sqlx::Date::to_jiff),
    };
    let mut reaches: BTreeMap<SiteId, SiteReach> = BTreeMap::new();
    for r in rows {
        let weather = || reach(r.weather_from, r.weather_last);
        let (_, zones) = reaches
            .entry(SiteId(r.id))
            .or_insert_with(|| (weather(), Vec::new()));
        if let Some(zone) = r.zone {
            zones.push((ZoneId(zone), reach(r.ledger_from, r.zone_last)));
        }
    }
    Ok(reaches)
}

/// Days of sites' ledgers of weather.
pub async fn weather(
    db: impl PgExecutor<'_>,
    spans: &[Span],
) -> sqlx::Result<BTreeMap<SiteId, Vec<DailyWeather>>> {
    let (sites, from, before) = Span::columns(spans);
    let rows = sqlx::query!(
        "SELECT w.site_id, w.date, et0_mm, method, rain_mm, rain_expected, tmin_c, tmax_c, rh_min_pct, wind_m_s, smoothed_c
         FROM unnest($1::int8[], $2::text[]::date[], $3::text[]::date[]) AS f (site, first, before)
         JOIN weather_ledger w ON w.site_id = f.site AND w.date >= f.first AND w.date < f.before ORDER BY w.site_id, w.date",
        &sites,
        &from,
        &before,
    )
    .fetch_all(db)
    .await?;
    let days = rows.into_iter().map(|r| {
        let day = DailyWeather {
            date: r.date.to_jiff(),
            et0: Depth::from_mm(r.et0_mm),
            method: r
                .method
                .map(|m| serde_json::from_value(m.into()))
                .transpose()
                .map_err(undecodable)?,
            rain: Depth::from_mm(r.rain_mm),
            rain_expected: r.rain_expected,
            tmin_c: r.tmin_c,
            tmax_c: r.tmax_c,
            rh_min_pct: r.rh_min_pct,
            wind_m_s: r.wind_m_s,
            smoothed_c: r.smoothed_c,
            rain_probability_pct: None,
        };
        Ok((SiteId(r.site_id), day))
    });
    Ok(grouped(days.collect::<sqlx::Result<Vec<_>>>()?))
}

#[derive(Serialize)]
struct WeatherRow {
    site_id: i64,
    date: Date,
    et0_mm: f64,
    method: Option<&'static str>,
    rain_mm: f64,
    tmin_c: Option<f64>,
    tmax_c: Option<f64>,
    rh_min_pct: Option<f64>,
    wind_m_s: Option<f64>,
    smoothed_c: Option<f64>,
    rain_expected: bool,
}

/// A row of `weather_month`.
#[derive(Serialize)]
struct MonthRow {
    site_id: i64,
    month: usize,
    days: u32,
    wet: u32,
    rain_mm: f64,
}

/// Days of weather that take the place of a site's ledger from where it is stale.
pub struct WeatherAnew<'a> {
    /// The site.
    pub site: SiteId,
    /// How far its ledger reaches as it is.
    pub reach: Reach,
    /// Its days from then on.
    pub days: &'a [DailyWeather],
}

/// Puts days in the place of sites' ledgers of weather; they are as they should be then.
pub async fn put_weather(db: &mut PgConnection, anew: &[WeatherAnew<'_>]) -> sqlx::Result<()> {
    let replaced = || {
        let beyond = anew.iter().map(|a| (a.site, a.reach, a.reach.stale_from()));
        beyond.filter_map(|(site, reach, from)| reach.goes_beyond(from).then_some((site, from)))
    };
    let replaced: Vec<(SiteId, Date)> = replaced().collect();
    if !replaced.is_empty() {
        let (sites, from) = days_of(&replaced);
        sqlx::query!(
            "DELETE FROM weather_ledger w USING unnest($1::int8[], $2::text[]::date[]) AS a (site, first)
             WHERE w.site_id = a.site AND w.date >= a.first",
            &sites,
            &from
        )
        .execute(&mut *db)
        .await?;
    }
    let days = anew
        .iter()
        .flat_map(|a| a.days.iter().map(|d| (a.site.0, d)));
    let rows: Vec<WeatherRow> = days
        .map(|(site_id, d)| WeatherRow {
            site_id,
            date: d.date,
            et0_mm: d.et0.mm(),
            method: d.method.map(|m| m.name()),
            rain_mm: d.rain.mm(),
            tmin_c: d.tmin_c,
            tmax_c: d.tmax_c,
            rh_min_pct: d.rh_min_pct,
            wind_m_s: d.wind_m_s,
            smoothed_c: d.smoothed_c,
            rain_expected: d.rain_expected,
        })
        .collect();
    if !rows.is_empty() {
        let mut months = Vec::new();
        for a in anew {
            let added = Climatology::default().with(a.days);
            months.extend(added.months().map(|(month, days, wet, rain_mm)| MonthRow {
                site_id: a.site.0,
                month,
                days,
                wet,
                rain_mm,
            }));
        }
        sqlx::query!(
            "WITH days AS (INSERT INTO weather_ledger SELECT * FROM jsonb_populate_recordset(NULL::weather_ledger, $1))
             INSERT INTO weather_month SELECT * FROM jsonb_populate_recordset(NULL::weather_month, $2)
             ON CONFLICT (site_id, month) DO UPDATE SET days = weather_month.days + excluded.days, wet = weather_month.wet + excluded.wet,
                                                        rain_mm = weather_month.rain_mm + excluded.rain_mm",
            Json(rows) as _,
            Json(months) as _,
        )
        .execute(&mut *db)
        .await?;
    }
    for (site, _) in replaced {
        put_months(&mut *db, site).await?;
    }
    let touched = anew.iter().filter(|a| a.reach.touched.is_some());
    let touched: Vec<i64> = touched.map(|a| a.site.0).collect();
    if !touched.is_empty() {
        sqlx::query!(
            "UPDATE site SET weather_from = NULL WHERE id = ANY($1)",
            &touched
        )
        .execute(&mut *db)
        .await?;
    }
    Ok(())
}

/// The rain of all of sites' ledgers of weather, by month.
pub async fn climatology(
    db: impl PgExecutor<'_>,
    sites: &[SiteId],
) -> sqlx::Result<BTreeMap<SiteId, Climatology>> {
    let sites: Vec<i64> = sites.iter().map(|site| site.0).collect();
    let months = sqlx::query!(
        "SELECT site_id, month, days, wet, rain_mm FROM weather_month WHERE site_id = ANY($1)",
        &sites,
    )
    .fetch_all(db)
    .await?;
    let count = |n: i32| u32::try_from(n).unwrap_or(0);
    let months = grouped(months.into_iter().map(|r| {
        let month = usize::try_from(r.month).unwrap_or(1);
        (
            SiteId(r.site_id),
            (month, count(r.days), count(r.wet), r.rain_mm),
        )
    }));
    let months = months.into_iter();
    Ok(months
        .map(|(site, months)| (site, Climatology::of_months(months)))
        .collect())
}

/// Adds all of a site's rain up anew by month.
async fn put_months(db: &mut PgConnection, site: SiteId) -> sqlx::Result<()> {
    sqlx::query!("DELETE FROM weather_month WHERE site_id = $1", site.0)
        .execute(&mut *db)
        .await?;
    sqlx::query!(
        "INSERT INTO weather_month
         SELECT $1, extract(month FROM date), count(*), count(*) FILTER (WHERE rain_mm >= $2), sum(rain_mm)
         FROM weather_ledger WHERE site_id = $1 AND NOT rain_expected AND (method IS NOT NULL OR rain_mm > 0) GROUP BY 2",
        site.0,
        WET_MM,
    )
    .execute(&mut *db)
    .await?;
    Ok(())
}

/// Days of a zone.
#[derive(Debug, Clone, Copy)]
pub struct ZoneSpan {
    /// The zone.
    pub zone: ZoneId,
    /// The first day.
    pub from: Date,
    /// The day after the last.
    pub before: Date,
}

/// Days of zones' ledgers.
pub async fn zone_days(
    db: impl PgExecutor<'_>,
    spans: &[ZoneSpan],
) -> sqlx::Result<BTreeMap<ZoneId, Vec<PastDay>>> {
    let zones: Vec<i64> = spans.iter().map(|span| span.zone.0).collect();
    let from: Vec<String> = spans.iter().map(|span| span.from.to_string()).collect();
    let before: Vec<String> = spans.iter().map(|span| span.before.to_string()).collect();
    let rows = sqlx::query!(
        "SELECT d.* FROM unnest($1::int8[], $2::text[]::date[], $3::text[]::date[]) AS f (zone, first, before)
         JOIN zone_day d ON d.zone_id = f.zone AND d.date >= f.first AND d.date < f.before ORDER BY d.zone_id, d.date",
        &zones,
        &from,
        &before,
    )
    .fetch_all(db)
    .await?;
    let days = rows.into_iter().map(|r| {
        let mm = Depth::from_mm;
        let day = PastDay {
            date: r.date.to_jiff(),
            regime: serde_json::from_value(r.regime.into()).map_err(undecodable)?,
            taw: mm(r.taw_mm),
            balance: DayBalance {
                start: mm(r.start_mm),
                end: mm(r.end_mm),
                etc: mm(r.etc_mm),
                eta: mm(r.eta_mm),
                ks: r.ks,
                raw: mm(r.raw_mm),
                rain: mm(r.rain_mm),
                effective_rain: mm(r.effective_rain_mm),
                rain_runoff: mm(r.rain_runoff_mm),
                irrigation: Irrigation {
                    gross: mm(r.gross_mm),
                    net: mm(r.net_mm),
                    runoff: mm(r.runoff_mm),
                },
                drainage: mm(r.drainage_mm),
                adjustment: mm(r.adjustment_mm),
                surface: decoded(r.surface)?,
            },
            below: Below {
                depletion: mm(r.below_mm),
                thickness: mm(r.below_thickness_mm),
            },
            doubt: Doubt {
                variance_mm2: r.variance_mm2,
                drift: r.drift,
                drift_variance: r.drift_variance,
                covariance_mm: r.covariance_mm,
            },
            seedling: decoded(r.seedling)?,
        };
        Ok((ZoneId(r.zone_id), day))
    });
    Ok(grouped(days.collect::<sqlx::Result<Vec<_>>>()?))
}

/// What is kept as JSON, where there is any.
fn decoded<T: DeserializeOwned>(kept: Option<Value>) -> sqlx::Result<Option<T>> {
    kept.map(serde_json::from_value)
        .transpose()
        .map_err(undecodable)
}

/// JSON of what there is.
fn encoded<T: Serialize>(part: Option<T>) -> sqlx::Result<Option<Value>> {
    part.map(serde_json::to_value)
        .transpose()
        .map_err(undecodable)
}

/// Figures of a day, in the order of `zone_day`'s columns.
fn figures(day: &PastDay) -> [f64; FIGURES] {
    let b = &day.balance;
    [
        day.taw.mm(),
        b.raw.mm(),
        b.start.mm(),
        b.end.mm(),
        b.etc.mm(),
        b.eta.mm(),
        b.ks,
        b.rain.mm(),
        b.effective_rain.mm(),
        b.rain_runoff.mm(),
        b.irrigation.gross.mm(),
        b.irrigation.net.mm(),
        b.irrigation.runoff.mm(),
        b.drainage.mm(),
        b.adjustment.mm(),
        day.below.depletion.mm(),
        day.below.thickness.mm(),
        day.doubt.variance_mm2,
        day.doubt.drift,
        day.doubt.drift_variance,
        day.doubt.covariance_mm,
    ]
}

const FIGURES: usize = 21;

/// Days of a zone that take the place of its ledger from a day on.
pub struct Anew {
    /// The zone.
    pub zone: ZoneId,
    /// The day.
    pub from: Date,
    /// How far its ledger reaches as it is.
    pub reach: Reach,
    /// Its days from then on.
    pub days: Vec<PastDay>,
}

/// Puts days in the place of zones' ledgers; they are as they should be then.
pub async fn put_zone_days<'a>(
    db: &mut PgConnection,
    anew: impl Iterator<Item = &'a Anew>,
) -> sqlx::Result<()> {
    let anew: Vec<&Anew> = anew.collect();
    let replaced = || anew.iter().filter(|a| a.reach.goes_beyond(a.from));
    if replaced().next().is_some() {
        let zones: Vec<i64> = replaced().map(|a| a.zone.0).collect();
        let from: Vec<String> = replaced().map(|a| a.from.to_string()).collect();
        sqlx::query!(
            "DELETE FROM zone_day d USING unnest($1::int8[], $2::text[]::date[]) AS a (zone, first)
             WHERE d.zone_id = a.zone AND d.date >= a.first",
            &zones,
            &from
        )
        .execute(&mut *db)
        .await?;
    }
    let rows = || {
        anew.iter()
            .flat_map(|a| a.days.iter().map(|day| (a.zone, day)))
    };
    let zones: Vec<i64> = rows().map(|(zone, _)| zone.0).collect();
    let dates: Vec<String> = rows().map(|(_, day)| day.date.to_string()).collect();
    let regimes = rows().map(|(_, day)| {
        let regime = serde_json::to_value(day.regime).map_err(undecodable)?;
        Ok(regime.as_str().unwrap_or_default().to_owned())
    });
    let regimes: Vec<String> = regimes.collect::<sqlx::Result<_>>()?;
    let surfaces = rows().map(|(_, day)| encoded(day.balance.surface));
    let surfaces: Vec<Option<Value>> = surfaces.collect::<sqlx::Result<_>>()?;
    let seedlings = rows().map(|(_, day)| encoded(day.seedling));
    let seedlings: Vec<Option<Value>> = seedlings.collect::<sqlx::Result<_>>()?;
    let mut columns: [Vec<f64>; FIGURES] = std::array::from_fn(|_| Vec::with_capacity(zones.len()));
    for (_, day) in rows() {
        for (column, figure) in columns.iter_mut().zip(figures(day)) {
            column.push(figure);
        }
    }
    if !zones.is_empty() {
        sqlx::query!(
            "INSERT INTO zone_day (zone_id, date, regime, taw_mm, raw_mm, start_mm, end_mm, etc_mm, eta_mm, ks, rain_mm, effective_rain_mm,
                                   rain_runoff_mm, gross_mm, net_mm, runoff_mm, drainage_mm, adjustment_mm, below_mm, below_thickness_mm, variance_mm2, drift,
                                   drift_variance, covariance_mm, surface, seedling)
             SELECT * FROM unnest($1::int8[], $2::text[]::date[], $3::text[], $4::float8[], $5::float8[], $6::float8[], $7::float8[], $8::float8[], $9::float8[], $10::float8[], $11::float8[], $12::float8[], $13::float8[], $14::float8[], $15::float8[], $16::float8[], $17::float8[], $18::float8[], $19::float8[], $20::float8[], $21::float8[], $22::float8[], $23::float8[], $24::float8[], $25::jsonb[], $26::jsonb[])",
            &zones,
            &dates,
            &regimes,
            &columns[0],
            &columns[1],
            &columns[2],
            &columns[3],
            &columns[4],
            &columns[5],
            &columns[6],
            &columns[7],
            &columns[8],
            &columns[9],
            &columns[10],
            &columns[11],
            &columns[12],
            &columns[13],
            &columns[14],
            &columns[15],
            &columns[16],
            &columns[17],
            &columns[18],
            &columns[19],
            &columns[20],
            &surfaces as _,
            &seedlings as _,
        )
        .execute(&mut *db)
        .await?;
    }
    let touched = anew.iter().filter(|a| a.reach.touched.is_some());
    let touched: Vec<i64> = touched.map(|a| a.zone.0).collect();
    if !touched.is_empty() {
        sqlx::query!(
            "UPDATE zone SET ledger_from = NULL WHERE id = ANY($1)",
            &touched
        )
        .execute(&mut *db)
        .await?;
    }
    Ok(())
}
