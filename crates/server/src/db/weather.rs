//! Weather: observed days, forecasts as issued, gauge readings.

use std::collections::BTreeMap;

use jiff::Timestamp;
use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::weather::WeatherDay;
use lawn::weather::conflict::LiveDay;
use sha2::{Digest, Sha256};
use sqlx::{PgConnection, PgExecutor};

use super::{AccountId, SiteId, Span, days_of, grouped, of_one};

/// An observed day as it is stored.
#[derive(Debug, Clone, PartialEq)]
pub struct StoredDay {
    /// What counts; rain by the gauge where there is a reading, unless the manager chose otherwise.
    pub day: WeatherDay,
    /// Where it came from: `typed`, `upload`, `pushed`, `service`, or `gauge` where there is a reading alone.
    pub origin: String,
    /// Rain as it was typed, or by the file, the station or the service.
    pub station_rain_mm: Option<f64>,
    /// Rain by the gauge.
    pub gauge_rain_mm: Option<f64>,
    /// Whether the rain is the gauge's.
    pub by_gauge: bool,
    /// Whose rain the manager chose for the day: `gauge` or `station`.
    pub chosen: Option<String>,
    /// Rain by the service, where something else counts before it.
    pub service_rain_mm: Option<f64>,
}

impl From<StoredDay> for LiveDay {
    fn from(stored: StoredDay) -> Self {
        Self {
            gauge_alone: stored.origin == "gauge",
            day: stored.day,
            station_rain_mm: stored.station_rain_mm,
            by_gauge: stored.by_gauge,
        }
    }
}

/// Observed days from one date to another. What is typed counts before a file, a file before what a station sent, that before the service: of those
/// that know both temperatures, and for rain of those that know it. The gauge's rain counts before all, unless the manager chose the station's. A day
/// may have a gauge reading alone.
pub async fn days(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
    to: Date,
) -> sqlx::Result<Vec<StoredDay>> {
    let before = to.tomorrow().unwrap_or(Date::MAX);
    let span = Span { site, from, before };
    of_sites(db, &[span]).await.map(of_one)
}

/// Observed days of sites, each of a stretch, as [`days`].
pub async fn of_sites(
    db: impl PgExecutor<'_>,
    spans: &[Span],
) -> sqlx::Result<BTreeMap<SiteId, Vec<StoredDay>>> {
    let (sites, from, before) = Span::columns(spans);
    let rows = sqlx::query!(
        r#"SELECT f.site AS "site!", d.date AS "date!", d.tmin_c, d.tmax_c, d.rh_min_pct, d.rh_max_pct, d.dewpoint_c,
                  d.vapour_pressure_kpa, d.solar_mj_m2, d.sunshine_h, d.wind_m_s, d.station_rain_mm AS "station_rain_mm?",
                  d.gauge_rain_mm AS "gauge_rain_mm?", d.origin AS "origin!", d.chosen AS "chosen?", d.service_rain_mm AS "service_rain_mm?"
           FROM unnest($1::int8[], $2::text[]::date[], $3::text[]::date[]) AS f (site, first, before), LATERAL (
               SELECT coalesce(w.date, g.date) AS date, w.tmin_c, w.tmax_c, w.rh_min_pct, w.rh_max_pct, w.dewpoint_c,
                      w.vapour_pressure_kpa, w.solar_mj_m2, w.sunshine_h, w.wind_m_s, w.rain_mm AS station_rain_mm,
                      g.rain_mm AS gauge_rain_mm, coalesce(w.origin, 'gauge') AS origin, c.counts AS chosen, s.rain_mm AS service_rain_mm
               FROM (SELECT DISTINCT ON (date) date, origin, tmin_c, tmax_c, rh_min_pct, rh_max_pct, dewpoint_c, vapour_pressure_kpa,
                            solar_mj_m2, sunshine_h, wind_m_s,
                            first_value(rain_mm) OVER (PARTITION BY date ORDER BY rain_mm IS NULL, weather_rank(origin)) AS rain_mm
                     FROM weather_day WHERE site_id = f.site AND date >= f.first AND date < f.before
                     ORDER BY date, (tmin_c IS NULL OR tmax_c IS NULL), weather_rank(origin)) w
               FULL JOIN (SELECT date, rain_mm FROM gauge_reading
                          WHERE site_id = f.site AND voided_at IS NULL AND date >= f.first AND date < f.before) g ON g.date = w.date
               LEFT JOIN rain_choice c ON c.site_id = f.site AND c.date = coalesce(w.date, g.date)
               LEFT JOIN weather_day s ON s.site_id = f.site AND s.date = w.date AND s.origin = 'service' AND w.origin <> 'service') d
           ORDER BY d.date"#,
        &sites,
        &from,
        &before,
    )
    .fetch_all(db)
    .await?;
    Ok(grouped(rows.into_iter().map(|r| {
        let by_gauge = r.gauge_rain_mm.is_some() && r.chosen.as_deref() != Some("station");
        (
            SiteId(r.site),
            StoredDay {
                day: WeatherDay {
                    date: r.date.to_jiff(),
                    tmin_c: r.tmin_c,
                    tmax_c: r.tmax_c,
                    rh_min_pct: r.rh_min_pct,
                    rh_max_pct: r.rh_max_pct,
                    dewpoint_c: r.dewpoint_c,
                    vapour_pressure_kpa: r.vapour_pressure_kpa,
                    solar_mj_m2: r.solar_mj_m2,
                    sunshine_h: r.sunshine_h,
                    wind_m_s: r.wind_m_s,
                    rain_mm: if by_gauge {
                        r.gauge_rain_mm
                    } else {
                        r.station_rain_mm
                    },
                    rain_probability_pct: None,
                },
                origin: r.origin,
                by_gauge,
                station_rain_mm: r.station_rain_mm,
                gauge_rain_mm: r.gauge_rain_mm,
                chosen: r.chosen,
                service_rain_mm: r.service_rain_mm,
            },
        )
    })))
}

/// The newest forecast issued, for a date and at most fifteen days after it.
pub async fn forecast(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
) -> sqlx::Result<Vec<WeatherDay>> {
    forecasts(db, &[(site, from)]).await.map(of_one)
}

/// Forecasts of sites, each from a date, as [`forecast`].
pub async fn forecasts(
    db: impl PgExecutor<'_>,
    from: &[(SiteId, Date)],
) -> sqlx::Result<BTreeMap<SiteId, Vec<WeatherDay>>> {
    let (sites, days) = days_of(from);
    let rows = sqlx::query!(
        r#"SELECT f.site AS "site!", d.* FROM unnest($1::int8[], $2::text[]::date[]) AS f (site, day), LATERAL (
               SELECT DISTINCT ON (date) date, tmin_c, tmax_c, rh_min_pct, rh_max_pct, dewpoint_c, vapour_pressure_kpa, solar_mj_m2,
                      sunshine_h, wind_m_s, rain_mm, rain_probability_pct
               FROM forecast_day WHERE site_id = f.site AND date BETWEEN f.day AND f.day + 15 ORDER BY date, issued_at DESC) d
           ORDER BY d.date"#,
        &sites,
        &days,
    )
    .fetch_all(db)
    .await?;
    Ok(grouped(rows.into_iter().map(|r| {
        (
            SiteId(r.site),
            WeatherDay {
                date: r.date.to_jiff(),
                tmin_c: r.tmin_c,
                tmax_c: r.tmax_c,
                rh_min_pct: r.rh_min_pct,
                rh_max_pct: r.rh_max_pct,
                dewpoint_c: r.dewpoint_c,
                vapour_pressure_kpa: r.vapour_pressure_kpa,
                solar_mj_m2: r.solar_mj_m2,
                sunshine_h: r.sunshine_h,
                wind_m_s: r.wind_m_s,
                rain_mm: r.rain_mm,
                rain_probability_pct: r.rain_probability_pct,
            },
        )
    })))
}

/// Records that an import happened.
pub async fn insert_import(
    db: impl PgExecutor<'_>,
    site: SiteId,
    account: Option<AccountId>,
    days: usize,
) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        "INSERT INTO weather_import (site_id, account_id, days) VALUES ($1, $2, $3) RETURNING id",
        site.0,
        account.map(|a| a.0),
        i32::try_from(days).unwrap_or(i32::MAX),
    )
    .fetch_one(db)
    .await
}

/// Columns of figures, one array each, for one statement over many days.
struct Arrays {
    dates: Vec<String>,
    figures: [Vec<Option<f64>>; 11],
}

impl Arrays {
    fn of(days: &[WeatherDay]) -> Self {
        let column = |f: fn(&WeatherDay) -> Option<f64>| days.iter().map(f).collect();
        Self {
            dates: days.iter().map(|d| d.date.to_string()).collect(),
            figures: [
                column(|d| d.tmin_c),
                column(|d| d.tmax_c),
                column(|d| d.rh_min_pct),
                column(|d| d.rh_max_pct),
                column(|d| d.dewpoint_c),
                column(|d| d.vapour_pressure_kpa),
                column(|d| d.solar_mj_m2),
                column(|d| d.sunshine_h),
                column(|d| d.wind_m_s),
                column(|d| d.rain_mm),
                column(|d| d.rain_probability_pct),
            ],
        }
    }
}

/// Chooses whose rain counts on a day; `None` leaves it to the rule.
pub async fn choose_rain(
    db: &mut PgConnection,
    site: SiteId,
    account: AccountId,
    date: Date,
    counts: Option<&str>,
) -> sqlx::Result<()> {
    match counts {
        Some(counts) => {
            sqlx::query!(
                "INSERT INTO rain_choice (site_id, date, counts, account_id) VALUES ($1, $2, $3, $4)
                 ON CONFLICT (site_id, date) DO UPDATE SET counts = $3, account_id = $4",
                site.0,
                date.to_sqlx() as _,
                counts,
                account.0,
            )
            .execute(db)
            .await?;
        }
        None => {
            sqlx::query!(
                "DELETE FROM rain_choice WHERE site_id = $1 AND date = $2",
                site.0,
                date.to_sqlx() as _,
            )
            .execute(db)
            .await?;
        }
    }
    Ok(())
}

/// A forecast day with the instant of its issue.
pub struct IssuedDay {
    /// The site's instant of issue.
    pub issued_at: Timestamp,
    /// What was said.
    pub day: WeatherDay,
}

/// Forecasts as issued, for days of a stretch.
pub async fn issued(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
    to: Date,
) -> sqlx::Result<Vec<IssuedDay>> {
    sqlx::query!(
        "SELECT issued_at, date, tmax_c, rain_mm, rain_probability_pct FROM forecast_day
         WHERE site_id = $1 AND date BETWEEN $2 AND $3 ORDER BY date, issued_at",
        site.0,
        from.to_sqlx() as _,
        to.to_sqlx() as _,
    )
    .map(|r| IssuedDay {
        issued_at: r.issued_at.to_jiff(),
        day: WeatherDay {
            date: r.date.to_jiff(),
            tmax_c: r.tmax_c,
            rain_mm: r.rain_mm,
            rain_probability_pct: r.rain_probability_pct,
            ..WeatherDay::default()
        },
    })
    .fetch_all(db)
    .await
}

/// What a heading is remembered by: its hash, since no index takes a long one.
fn heading_key(heading: &str) -> String {
    Sha256::digest(heading)
        .iter()
        .map(|byte| format!("{byte:02x}"))
        .collect()
}

/// How a foreign file's columns were read before, by its heading.
pub async fn mapping(
    db: impl PgExecutor<'_>,
    site: SiteId,
    heading: &str,
) -> sqlx::Result<Option<serde_json::Value>> {
    sqlx::query_scalar!(
        "SELECT mapping FROM column_mapping WHERE site_id = $1 AND heading = $2",
        site.0,
        heading_key(heading)
    )
    .fetch_optional(db)
    .await
}

/// Remembers how a foreign file's columns are read.
pub async fn remember_mapping(
    db: impl PgExecutor<'_>,
    site: SiteId,
    heading: &str,
    mapping: &serde_json::Value,
) -> sqlx::Result<()> {
    sqlx::query!(
        "INSERT INTO column_mapping (site_id, heading, mapping) VALUES ($1, $2, $3)
         ON CONFLICT (site_id, heading) DO UPDATE SET mapping = $3",
        site.0,
        heading_key(heading),
        mapping
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Writes observed days, replacing those of the same date and origin that say something else; how many are new or changed.
pub async fn upsert_days(
    db: impl PgExecutor<'_>,
    site: SiteId,
    days: &[WeatherDay],
    origin: &str,
    import: Option<i64>,
) -> sqlx::Result<u64> {
    let a = Arrays::of(days);
    let written = sqlx::query!(
        "INSERT INTO weather_day (site_id, date, tmin_c, tmax_c, rh_min_pct, rh_max_pct, dewpoint_c, vapour_pressure_kpa,
                                  solar_mj_m2, sunshine_h, wind_m_s, rain_mm, origin, import_id)
         SELECT $1, d.*, $13, $14
         FROM unnest($2::text[]::date[], $3::float8[], $4::float8[], $5::float8[], $6::float8[], $7::float8[], $8::float8[],
                     $9::float8[], $10::float8[], $11::float8[], $12::float8[]) d
         ON CONFLICT (site_id, date, origin) DO UPDATE SET
             tmin_c = excluded.tmin_c, tmax_c = excluded.tmax_c, rh_min_pct = excluded.rh_min_pct,
             rh_max_pct = excluded.rh_max_pct, dewpoint_c = excluded.dewpoint_c,
             vapour_pressure_kpa = excluded.vapour_pressure_kpa, solar_mj_m2 = excluded.solar_mj_m2,
             sunshine_h = excluded.sunshine_h, wind_m_s = excluded.wind_m_s, rain_mm = excluded.rain_mm,
             import_id = excluded.import_id
         WHERE (weather_day.tmin_c, weather_day.tmax_c, weather_day.rh_min_pct, weather_day.rh_max_pct, weather_day.dewpoint_c,
                weather_day.vapour_pressure_kpa, weather_day.solar_mj_m2, weather_day.sunshine_h, weather_day.wind_m_s, weather_day.rain_mm)
             IS DISTINCT FROM (excluded.tmin_c, excluded.tmax_c, excluded.rh_min_pct, excluded.rh_max_pct, excluded.dewpoint_c,
                excluded.vapour_pressure_kpa, excluded.solar_mj_m2, excluded.sunshine_h, excluded.wind_m_s, excluded.rain_mm)",
        site.0,
        &a.dates,
        &a.figures[0] as _,
        &a.figures[1] as _,
        &a.figures[2] as _,
        &a.figures[3] as _,
        &a.figures[4] as _,
        &a.figures[5] as _,
        &a.figures[6] as _,
        &a.figures[7] as _,
        &a.figures[8] as _,
        &a.figures[9] as _,
        origin,
        import,
    )
    .execute(db)
    .await?;
    Ok(written.rows_affected())
}

/// Takes back what people typed of days; of how many something was typed.
pub async fn forget_typed(
    db: impl PgExecutor<'_>,
    site: SiteId,
    dates: impl IntoIterator<Item = Date>,
) -> sqlx::Result<u64> {
    let dates: Vec<String> = dates.into_iter().map(|date| date.to_string()).collect();
    let forgotten = sqlx::query!(
        "DELETE FROM weather_day WHERE site_id = $1 AND origin = 'typed' AND date = ANY($2::text[]::date[])",
        site.0,
        &dates,
    )
    .execute(db)
    .await?;
    Ok(forgotten.rows_affected())
}

/// Keeps a forecast as it was issued.
pub async fn insert_forecast(
    db: impl PgExecutor<'_>,
    site: SiteId,
    issued_at: Timestamp,
    days: &[WeatherDay],
) -> sqlx::Result<()> {
    let a = Arrays::of(days);
    sqlx::query!(
        "INSERT INTO forecast_day (site_id, issued_at, date, tmin_c, tmax_c, rh_min_pct, rh_max_pct, dewpoint_c,
                                   vapour_pressure_kpa, solar_mj_m2, sunshine_h, wind_m_s, rain_mm, rain_probability_pct)
         SELECT $1, $2, d.*
         FROM unnest($3::text[]::date[], $4::float8[], $5::float8[], $6::float8[], $7::float8[], $8::float8[], $9::float8[],
                     $10::float8[], $11::float8[], $12::float8[], $13::float8[], $14::float8[]) d
         ON CONFLICT DO NOTHING",
        site.0,
        issued_at.to_sqlx() as _,
        &a.dates,
        &a.figures[0] as _,
        &a.figures[1] as _,
        &a.figures[2] as _,
        &a.figures[3] as _,
        &a.figures[4] as _,
        &a.figures[5] as _,
        &a.figures[6] as _,
        &a.figures[7] as _,
        &a.figures[8] as _,
        &a.figures[9] as _,
        &a.figures[10] as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Adds a gauge reading for a date; an earlier one of that date is voided, not changed.
pub async fn add_gauge_reading(
    db: &mut PgConnection,
    site: SiteId,
    account: AccountId,
    date: Date,
    rain_mm: f64,
    read_at: Timestamp,
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE gauge_reading SET voided_at = now() WHERE site_id = $1 AND date = $2 AND voided_at IS NULL",
        site.0,
        date.to_sqlx() as _,
    )
    .execute(&mut *db)
    .await?;
    sqlx::query!(
        "INSERT INTO gauge_reading (site_id, account_id, date, rain_mm, read_at) VALUES ($1, $2, $3, $4, $5)",
        site.0,
        account.0,
        date.to_sqlx() as _,
        rain_mm,
        read_at.to_sqlx() as _,
    )
    .execute(&mut *db)
    .await?;
    Ok(())
}
