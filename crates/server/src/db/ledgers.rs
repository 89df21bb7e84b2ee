//! Ledgers: weather as the balance uses it, and each zone's balance, day by day. Derived; made anew from the earliest day touched.

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::engine::root_zone::{Below, DayBalance, Irrigation};
use lawn::quantity::Depth;
use lawn::record::past::PastDay;
use lawn::weather::DailyWeather;
use lawn::weather::outlook::Climatology;
use serde::Serialize;
use sqlx::{PgConnection, PgExecutor};

use super::{SiteId, ZoneId, undecodable};

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
}

/// How far a site's ledger of weather reaches, and those of its zones.
pub async fn reach(
    db: &mut PgConnection,
    site: SiteId,
) -> sqlx::Result<(Reach, Vec<(ZoneId, Reach)>)> {
    let weather = sqlx::query!(
        r#"SELECT weather_from, (SELECT max(date) FROM weather_ledger WHERE site_id = $1) AS last FROM site WHERE id = $1"#,
        site.0
    )
    .fetch_one(&mut *db)
    .await?;
    let zones = sqlx::query!(
        r#"SELECT id, ledger_from, (SELECT max(date) FROM zone_day d WHERE d.zone_id = z.id) AS last FROM zone z WHERE site_id = $1
           ORDER BY position, id"#,
        site.0
    )
    .map(|r| {
        let reach = Reach {
            touched: r.ledger_from.map(jiff_sqlx::Date::to_jiff),
            last: r.last.map(jiff_sqlx::Date::to_jiff),
        };
        (ZoneId(r.id), reach)
    })
    .fetch_all(&mut *db)
    .await?;
    let weather = Reach {
        touched: weather.weather_from.map(jiff_sqlx::Date::to_jiff),
        last: weather.last.map(jiff_sqlx::Date::to_jiff),
    };
    Ok((weather, zones))
}

/// Days of a site's ledger of weather from one day to the day before another.
pub async fn weather(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
    before: Date,
) -> sqlx::Result<Vec<DailyWeather>> {
    let rows = sqlx::query!(
        "SELECT date, et0_mm, method, rain_mm, tmin_c, tmax_c, rh_min_pct, wind_m_s, smoothed_c FROM weather_ledger
         WHERE site_id = $1 AND date >= $2 AND date < $3 ORDER BY date",
        site.0,
        from.to_sqlx() as _,
        before.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(DailyWeather {
                date: r.date.to_jiff(),
                et0: Depth::from_mm(r.et0_mm),
                method: r
                    .method
                    .map(|m| serde_json::from_value(m.into()))
                    .transpose()
                    .map_err(undecodable)?,
                rain: Depth::from_mm(r.rain_mm),
                tmin_c: r.tmin_c,
                tmax_c: r.tmax_c,
                rh_min_pct: r.rh_min_pct,
                wind_m_s: r.wind_m_s,
                smoothed_c: r.smoothed_c,
                rain_probability_pct: None,
            })
        })
        .collect()
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
}

/// Puts days in the place of a site's ledger of weather from a day on; it is as it should be then.
pub async fn replace_weather(
    db: &mut PgConnection,
    site: SiteId,
    from: Date,
    days: &[DailyWeather],
) -> sqlx::Result<()> {
    sqlx::query!(
        "DELETE FROM weather_ledger WHERE site_id = $1 AND date >= $2",
        site.0,
        from.to_sqlx() as _
    )
    .execute(&mut *db)
    .await?;
    let rows: Vec<WeatherRow> = days
        .iter()
        .map(|d| WeatherRow {
            site_id: site.0,
            date: d.date,
            et0_mm: d.et0.mm(),
            method: d.method.map(|m| m.name()),
            rain_mm: d.rain.mm(),
            tmin_c: d.tmin_c,
            tmax_c: d.tmax_c,
            rh_min_pct: d.rh_min_pct,
            wind_m_s: d.wind_m_s,
            smoothed_c: d.smoothed_c,
        })
        .collect();
    let rows = serde_json::to_value(rows).map_err(undecodable)?;
    sqlx::query!(
        "INSERT INTO weather_ledger SELECT * FROM jsonb_populate_recordset(NULL::weather_ledger, $1)",
        rows
    )
    .execute(&mut *db)
    .await?;
    sqlx::query!(
        "UPDATE site SET weather_from = NULL WHERE id = $1 AND weather_from IS NOT NULL",
        site.0
    )
    .execute(&mut *db)
    .await?;
    Ok(())
}

/// The rain of all of a site's record before a day, by month.
pub async fn climatology(
    db: impl PgExecutor<'_>,
    site: SiteId,
    before: Date,
) -> sqlx::Result<Climatology> {
    let months = sqlx::query!(
        r#"SELECT extract(month FROM date)::int AS "month!", count(*) AS "days!", count(*) FILTER (WHERE rain_mm >= $3) AS "wet!",
                  sum(rain_mm) AS "rain_mm!"
           FROM weather_ledger WHERE site_id = $1 AND date < $2 AND (method IS NOT NULL OR rain_mm > 0) GROUP BY 1"#,
        site.0,
        before.to_sqlx() as _,
        Climatology::WET_MM,
    )
    .fetch_all(db)
    .await?;
    let count = |n: i64| u32::try_from(n).unwrap_or(u32::MAX);
    Ok(Climatology::of_months(months.into_iter().map(|r| {
        let month = usize::try_from(r.month).unwrap_or(1);
        (month, count(r.days), count(r.wet), r.rain_mm)
    })))
}

/// A zone's days from one day to the day before another.
pub async fn zone_days(
    db: impl PgExecutor<'_>,
    zones: &[i64],
    from: Date,
    before: Date,
) -> sqlx::Result<Vec<(ZoneId, PastDay)>> {
    let rows = sqlx::query!(
        "SELECT * FROM zone_day WHERE zone_id = ANY($1) AND date >= $2 AND date < $3 ORDER BY zone_id, date",
        zones,
        from.to_sqlx() as _,
        before.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
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
                },
                below: Below {
                    depletion: mm(r.below_mm),
                    thickness: mm(r.below_thickness_mm),
                },
            };
            Ok((ZoneId(r.zone_id), day))
        })
        .collect()
}

#[derive(Serialize)]
struct DayRow {
    zone_id: i64,
    date: Date,
    regime: lawn::site::Regime,
    taw_mm: Depth,
    raw_mm: Depth,
    start_mm: Depth,
    end_mm: Depth,
    etc_mm: Depth,
    eta_mm: Depth,
    ks: f64,
    rain_mm: Depth,
    effective_rain_mm: Depth,
    rain_runoff_mm: Depth,
    gross_mm: Depth,
    net_mm: Depth,
    runoff_mm: Depth,
    drainage_mm: Depth,
    adjustment_mm: Depth,
    below_mm: Depth,
    below_thickness_mm: Depth,
}

impl DayRow {
    fn new(zone: ZoneId, day: &PastDay) -> Self {
        let b = &day.balance;
        Self {
            zone_id: zone.0,
            date: day.date,
            regime: day.regime,
            taw_mm: day.taw,
            raw_mm: b.raw,
            start_mm: b.start,
            end_mm: b.end,
            etc_mm: b.etc,
            eta_mm: b.eta,
            ks: b.ks,
            rain_mm: b.rain,
            effective_rain_mm: b.effective_rain,
            rain_runoff_mm: b.rain_runoff,
            gross_mm: b.irrigation.gross,
            net_mm: b.irrigation.net,
            runoff_mm: b.irrigation.runoff,
            drainage_mm: b.drainage,
            adjustment_mm: b.adjustment,
            below_mm: day.below.depletion,
            below_thickness_mm: day.below.thickness,
        }
    }
}

/// Days of a zone that take the place of its ledger from a day on.
pub struct Anew {
    /// The zone.
    pub zone: ZoneId,
    /// The day.
    pub from: Date,
    /// Its days from then on.
    pub days: Vec<PastDay>,
}

/// Puts days in the place of zones' ledgers; they are as they should be then.
pub async fn replace_zone_days(db: &mut PgConnection, anew: &[Anew]) -> sqlx::Result<()> {
    let zones: Vec<i64> = anew.iter().map(|a| a.zone.0).collect();
    let from: Vec<String> = anew.iter().map(|a| a.from.to_string()).collect();
    sqlx::query!(
        "DELETE FROM zone_day d USING unnest($1::int8[], $2::text[]::date[]) AS a (zone, first)
         WHERE d.zone_id = a.zone AND d.date >= a.first",
        &zones,
        &from
    )
    .execute(&mut *db)
    .await?;
    let rows: Vec<DayRow> = anew
        .iter()
        .flat_map(|a| a.days.iter().map(|day| DayRow::new(a.zone, day)))
        .collect();
    let rows = serde_json::to_value(rows).map_err(undecodable)?;
    sqlx::query!(
        "INSERT INTO zone_day SELECT * FROM jsonb_populate_recordset(NULL::zone_day, $1)",
        rows
    )
    .execute(&mut *db)
    .await?;
    sqlx::query!(
        "UPDATE zone SET ledger_from = NULL WHERE id = ANY($1) AND ledger_from IS NOT NULL",
        &zones
    )
    .execute(&mut *db)
    .await?;
    Ok(())
}
