//! Sites and who belongs to them.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::site::cap::Cap;
use lawn::site::rules::Rules;
use lawn::site::tariff::Tariff;
use lawn::site::{Controller, Site, SiteDocument, Supply, Window};
use serde_json::Value;
use sqlx::PgExecutor;

use super::{AccountId, SiteId, undecodable};

/// A site as it is stored.
#[derive(Debug, Clone)]
pub struct SiteRow {
    /// Its identifier.
    pub id: SiteId,
    /// Place and currency.
    pub site: Site,
    /// Allowed days and hours.
    pub windows: Vec<Window>,
    /// Local rules.
    pub rules: Rules,
    /// What water there is.
    pub supply: Supply,
    /// What the controller can do.
    pub controller: Controller,
    /// What water costs from which day on.
    pub tariffs: Vec<Tariff>,
    /// What may be used.
    pub caps: Vec<Cap>,
    /// The simulated clock, if it has one.
    pub simulated_now: Option<Timestamp>,
    /// Counts edits of the site and its zones.
    pub version: i64,
    /// Counts changes of its weather.
    pub weather_version: i64,
    /// Whether it publishes its plan each morning by itself.
    pub publishes_each_morning: bool,
    /// Why its last round failed, and since when none works.
    pub trouble: Option<(String, Timestamp)>,
}

/// What of a site is stored as JSON.
struct Columns {
    windows: Value,
    supply: Value,
    controller: Value,
    normals: Option<Value>,
    used_as: Value,
}

impl Columns {
    fn of(
        site: &Site,
        windows: &[Window],
        supply: &Supply,
        controller: &Controller,
    ) -> sqlx::Result<Self> {
        let normals = site.normals.as_ref().map(serde_json::to_value);
        Ok(Self {
            used_as: serde_json::to_value(site.used_as).map_err(undecodable)?,
            normals: normals.transpose().map_err(undecodable)?,
            windows: serde_json::to_value(windows).map_err(undecodable)?,
            supply: serde_json::to_value(supply).map_err(undecodable)?,
            controller: serde_json::to_value(controller).map_err(undecodable)?,
        })
    }
}

/// Adds a site as a document describes it, without its zones.
pub async fn insert(
    db: impl PgExecutor<'_>,
    document: &SiteDocument,
    simulated_now: Option<Timestamp>,
) -> sqlx::Result<SiteId> {
    let site = &document.site;
    let columns = Columns::of(
        site,
        &document.windows,
        &document.supply,
        &document.controller,
    )?;
    sqlx::query_scalar!(
        "INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, currency, price_per_m3,
                           windows, supply, controller, normals, simulated_now, next_event_at, used_as, tariffs, caps)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, coalesce($13, now()), $14, $15, $16) RETURNING id",
        site.name,
        site.time_zone,
        site.latitude,
        site.longitude,
        site.elevation_m,
        site.wind_height_m,
        site.currency,
        site.price_per_m3,
        columns.windows,
        columns.supply,
        columns.controller,
        columns.normals,
        simulated_now.map(ToSqlx::to_sqlx) as _,
        columns.used_as.as_str(),
        serde_json::to_value(&document.tariffs).map_err(undecodable)?,
        serde_json::to_value(&document.caps).map_err(undecodable)?,
    )
    .fetch_one(db)
    .await
    .map(SiteId)
}

/// Whether a site exists.
pub async fn exists(db: impl PgExecutor<'_>, id: SiteId) -> sqlx::Result<bool> {
    sqlx::query_scalar!(
        r#"SELECT EXISTS (SELECT FROM site WHERE id = $1) AS "any!""#,
        id.0
    )
    .fetch_one(db)
    .await
}

/// Gives an account a role on a site.
pub async fn add_member(
    db: impl PgExecutor<'_>,
    site: SiteId,
    account: AccountId,
    role: &str,
) -> sqlx::Result<()> {
    sqlx::query!(
        "INSERT INTO membership (site_id, account_id, role) VALUES ($1, $2, $3)",
        site.0,
        account.0,
        role
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The sites of an account with its role, by name.
pub async fn of_account(
    db: impl PgExecutor<'_>,
    account: AccountId,
) -> sqlx::Result<Vec<(SiteId, String, String)>> {
    let rows = sqlx::query!(
        "SELECT s.id, s.name, m.role FROM membership m JOIN site s ON s.id = m.site_id
         WHERE m.account_id = $1 ORDER BY s.name, s.id",
        account.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (SiteId(r.id), r.name, r.role))
        .collect())
}

/// How many sites an account owns.
pub async fn owned(db: impl PgExecutor<'_>, account: AccountId) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        r#"SELECT count(*) AS "count!" FROM membership WHERE account_id = $1 AND role = 'owner'"#,
        account.0
    )
    .fetch_one(db)
    .await
}

/// A site; it exists once access to it was granted.
pub async fn get(db: impl PgExecutor<'_>, id: SiteId) -> sqlx::Result<SiteRow> {
    let found = all(db, &[id]).await?;
    found.into_iter().next().ok_or(sqlx::Error::RowNotFound)
}

/// Sites, in the order of their identifiers; one that is gone is left out.
pub async fn all(db: impl PgExecutor<'_>, ids: &[SiteId]) -> sqlx::Result<Vec<SiteRow>> {
    let ids: Vec<i64> = ids.iter().map(|id| id.0).collect();
    let rows = sqlx::query!("SELECT * FROM site WHERE id = ANY($1) ORDER BY id", &ids)
        .fetch_all(db)
        .await?;
    rows.into_iter()
        .map(|r| {
            Ok(SiteRow {
                id: SiteId(r.id),
                site: Site {
                    name: r.name,
                    time_zone: r.time_zone,
                    latitude: r.latitude,
                    longitude: r.longitude,
                    elevation_m: r.elevation_m,
                    wind_height_m: r.wind_height_m,
                    used_as: serde_json::from_value(r.used_as.into()).map_err(undecodable)?,
                    currency: r.currency,
                    price_per_m3: r.price_per_m3,
                    normals: r
                        .normals
                        .map(serde_json::from_value)
                        .transpose()
                        .map_err(undecodable)?,
                },
                windows: serde_json::from_value(r.windows).map_err(undecodable)?,
                rules: serde_json::from_value(r.rules).map_err(undecodable)?,
                supply: serde_json::from_value(r.supply).map_err(undecodable)?,
                controller: serde_json::from_value(r.controller).map_err(undecodable)?,
                tariffs: serde_json::from_value(r.tariffs).map_err(undecodable)?,
                caps: serde_json::from_value(r.caps).map_err(undecodable)?,
                simulated_now: r.simulated_now.map(jiff_sqlx::Timestamp::to_jiff),
                version: r.version,
                weather_version: r.weather_version,
                publishes_each_morning: r.publishes_each_morning,
                trouble: r
                    .trouble
                    .zip(r.trouble_since.map(jiff_sqlx::Timestamp::to_jiff)),
            })
        })
        .collect()
}

/// What tells whether an answer that was computed of a site still holds.
#[derive(Debug, Clone)]
pub struct Written {
    /// How often anything of it was written.
    pub written: i64,
    /// The simulated clock, if it has one.
    pub simulated_now: Option<Timestamp>,
    /// Its time zone.
    pub time_zone: String,
}

/// How often anything of a site was written, and its clock.
pub async fn written(db: impl PgExecutor<'_>, id: SiteId) -> sqlx::Result<Written> {
    let r = sqlx::query!(
        "SELECT written, simulated_now, time_zone FROM site WHERE id = $1",
        id.0
    )
    .fetch_one(db)
    .await?;
    Ok(Written {
        written: r.written,
        simulated_now: r.simulated_now.map(jiff_sqlx::Timestamp::to_jiff),
        time_zone: r.time_zone,
    })
}

/// Counts that something of a site was written.
pub async fn count_written(db: impl PgExecutor<'_>, id: SiteId) -> sqlx::Result<()> {
    sqlx::query!("UPDATE site SET written = written + 1 WHERE id = $1", id.0)
        .execute(db)
        .await?;
    Ok(())
}

/// Locks a site's row, so that its changes follow one another; returns version and weather version.
pub async fn lock(db: impl PgExecutor<'_>, id: SiteId) -> sqlx::Result<(i64, i64)> {
    let r = sqlx::query!(
        "SELECT version, weather_version FROM site WHERE id = $1 FOR UPDATE",
        id.0
    )
    .fetch_one(db)
    .await?;
    Ok((r.version, r.weather_version))
}

/// Replaces place with its normals, hours, supply and controller and counts the edit.
pub async fn update(
    db: impl PgExecutor<'_>,
    id: SiteId,
    site: &Site,
    windows: &[Window],
    supply: &Supply,
    controller: &Controller,
) -> sqlx::Result<()> {
    let columns = Columns::of(site, windows, supply, controller)?;
    sqlx::query!(
        "UPDATE site SET name = $2, time_zone = $3, latitude = $4, longitude = $5, elevation_m = $6, wind_height_m = $7,
                         currency = $8, price_per_m3 = $9, windows = $10, supply = $11, controller = $12, normals = $13, used_as = $14, version = version + 1
         WHERE id = $1",
        id.0,
        site.name,
        site.time_zone,
        site.latitude,
        site.longitude,
        site.elevation_m,
        site.wind_height_m,
        site.currency,
        site.price_per_m3,
        columns.windows,
        columns.supply,
        columns.controller,
        columns.normals,
        columns.used_as.as_str(),
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Replaces the local rules and counts the edit.
pub async fn set_rules(db: impl PgExecutor<'_>, id: SiteId, rules: &Rules) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE site SET rules = $2, version = version + 1 WHERE id = $1",
        id.0,
        serde_json::to_value(rules).map_err(undecodable)?,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Replaces what water costs and counts the edit.
pub async fn set_tariffs(
    db: impl PgExecutor<'_>,
    id: SiteId,
    tariffs: &[Tariff],
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE site SET tariffs = $2, version = version + 1 WHERE id = $1",
        id.0,
        serde_json::to_value(tariffs).map_err(undecodable)?,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Replaces what may be used and counts the edit.
pub async fn set_caps(db: impl PgExecutor<'_>, id: SiteId, caps: &[Cap]) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE site SET caps = $2, version = version + 1 WHERE id = $1",
        id.0,
        serde_json::to_value(caps).map_err(undecodable)?,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Sets sites' next events: the next 03:00 or end of a window, by their own clocks.
pub async fn set_next_events(
    db: impl PgExecutor<'_>,
    next: &[(SiteId, Timestamp)],
) -> sqlx::Result<()> {
    let (ids, at): (Vec<i64>, Vec<String>) =
        next.iter().map(|(id, at)| (id.0, at.to_string())).unzip();
    sqlx::query!(
        "UPDATE site SET next_event_at = n.at, written = written + 1 FROM unnest($1::int8[], $2::text[]::timestamptz[]) AS n (id, at) WHERE site.id = n.id",
        &ids,
        &at,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Puts a site's next event off and notes why; `true` if it was not in trouble before.
pub async fn put_off(
    db: impl PgExecutor<'_>,
    id: SiteId,
    until: Timestamp,
    trouble: &str,
) -> sqlx::Result<bool> {
    let since = sqlx::query_scalar!(
        "UPDATE site s SET next_event_at = $2, trouble = $3, trouble_since = coalesce(s.trouble_since, now())
         FROM site before WHERE s.id = $1 AND before.id = s.id RETURNING before.trouble_since",
        id.0,
        until.to_sqlx() as _,
        trouble,
    )
    .fetch_optional(db)
    .await?;
    Ok(since == Some(None))
}

/// Notes that a site's round worked.
pub async fn recovered(db: impl PgExecutor<'_>, id: SiteId) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE site SET trouble = NULL, trouble_since = NULL WHERE id = $1 AND trouble IS NOT NULL",
        id.0
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The site's next event.
pub async fn next_event(db: impl PgExecutor<'_>, id: SiteId) -> sqlx::Result<Timestamp> {
    let at = sqlx::query_scalar!("SELECT next_event_at FROM site WHERE id = $1", id.0)
        .fetch_one(db)
        .await?;
    Ok(at.to_jiff())
}

/// Claims real-clock sites whose event is due, at most so many, for the caller's transaction.
pub async fn claim_due(
    db: impl PgExecutor<'_>,
    now: Timestamp,
    most: i64,
) -> sqlx::Result<Vec<SiteId>> {
    let ids = sqlx::query_scalar!(
        "SELECT id FROM site WHERE simulated_now IS NULL AND next_event_at <= $1
         ORDER BY next_event_at LIMIT $2 FOR UPDATE SKIP LOCKED",
        now.to_sqlx() as _,
        most,
    )
    .fetch_all(db)
    .await?;
    Ok(ids.into_iter().map(SiteId).collect())
}

/// Claims one site if it is still due; `false` where it is not, or where another has it.
pub async fn claim_if_due(
    db: impl PgExecutor<'_>,
    id: SiteId,
    now: Timestamp,
) -> sqlx::Result<bool> {
    let id = sqlx::query_scalar!(
        "SELECT id FROM site WHERE id = $1 AND simulated_now IS NULL AND next_event_at <= $2 FOR UPDATE SKIP LOCKED",
        id.0,
        now.to_sqlx() as _,
    )
    .fetch_optional(db)
    .await?;
    Ok(id.is_some())
}

/// A day that begins with a plan.
pub struct BegunDay {
    /// The site; its row must be locked.
    pub site: SiteId,
    /// The day.
    pub day: Date,
    /// The plan; `None`: there is nothing to plan from yet.
    pub plan: Option<i64>,
}

/// Marks days as begun; the sites whose day had not begun yet.
pub async fn begin_days(db: impl PgExecutor<'_>, begun: &[BegunDay]) -> sqlx::Result<Vec<SiteId>> {
    let sites: Vec<i64> = begun.iter().map(|b| b.site.0).collect();
    let days: Vec<String> = begun.iter().map(|b| b.day.to_string()).collect();
    let plans: Vec<Option<i64>> = begun.iter().map(|b| b.plan).collect();
    let anew = sqlx::query_scalar!(
        "INSERT INTO site_day (site_id, day, plan_id) SELECT * FROM unnest($1::int8[], $2::text[]::date[], $3::int8[])
         ON CONFLICT DO NOTHING RETURNING site_id",
        &sites,
        &days,
        &plans as _,
    )
    .fetch_all(db)
    .await?;
    Ok(anew.into_iter().map(SiteId).collect())
}

/// Sets a simulated clock.
pub async fn set_clock(db: impl PgExecutor<'_>, id: SiteId, now: Timestamp) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE site SET simulated_now = $2 WHERE id = $1 AND simulated_now IS NOT NULL",
        id.0,
        now.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Counts a change of the site's weather.
pub async fn weather_changed(db: impl PgExecutor<'_>, id: SiteId) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE site SET weather_version = weather_version + 1 WHERE id = $1",
        id.0
    )
    .execute(db)
    .await?;
    Ok(())
}
