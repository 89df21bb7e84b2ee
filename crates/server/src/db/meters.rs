//! Meters and what is read off them. Readings are append-only: a correction voids and adds.

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::record::readings::{Follows, Reading};
use lawn::site::meter::Meter;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use sqlx::{PgConnection, PgExecutor};
use utoipa::ToSchema;

use super::seen::Photo;
use super::{AccountId, SiteId, undecodable, without};

/// A meter's identifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct MeterId(pub i64);

/// A meter as it is stored.
#[derive(Debug, Clone)]
pub struct MeterRow {
    /// Its identifier.
    pub id: MeterId,
    /// Its description; `id` is the identifier as text.
    pub meter: Meter,
    /// Counts its edits.
    pub version: i64,
}

/// The description as it is stored: without what has columns of its own.
fn settings(meter: &Meter) -> sqlx::Result<Value> {
    without(meter, &["id", "active_from", "active_to"])
}

/// Adds a meter.
pub async fn insert(db: impl PgExecutor<'_>, site: SiteId, meter: &Meter) -> sqlx::Result<MeterId> {
    sqlx::query_scalar!(
        "INSERT INTO meter (site_id, settings, active_from, active_to) VALUES ($1, $2, $3, $4) RETURNING id",
        site.0,
        settings(meter)?,
        meter.active_from.map(ToSqlx::to_sqlx) as _,
        meter.active_to.map(ToSqlx::to_sqlx) as _,
    )
    .fetch_one(db)
    .await
    .map(MeterId)
}

/// The meters of a site, ended ones too, in the order in which they came.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<MeterRow>> {
    let rows = sqlx::query!(
        "SELECT id, settings, active_from, active_to, version FROM meter WHERE site_id = $1 ORDER BY id",
        site.0
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            // The description came from a meter without identifier.
            let mut meter: Meter = serde_json::from_value(r.settings).map_err(undecodable)?;
            meter.id = r.id.to_string();
            meter.active_from = r.active_from.map(jiff_sqlx::Date::to_jiff);
            meter.active_to = r.active_to.map(jiff_sqlx::Date::to_jiff);
            Ok(MeterRow {
                id: MeterId(r.id),
                meter,
                version: r.version,
            })
        })
        .collect()
}

/// Replaces a meter's description, its last day too, and counts the edit.
pub async fn update(db: impl PgExecutor<'_>, id: MeterId, meter: &Meter) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE meter SET settings = $2, active_from = $3, active_to = $4, version = version + 1 WHERE id = $1",
        id.0,
        settings(meter)?,
        meter.active_from.map(ToSqlx::to_sqlx) as _,
        meter.active_to.map(ToSqlx::to_sqlx) as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A reading as it is stored.
#[derive(Debug, Clone)]
pub struct ReadingRow {
    /// Its identifier.
    pub id: i64,
    /// The meter.
    pub meter: MeterId,
    /// What was read.
    pub reading: Reading,
    /// Who read it.
    pub who: Option<String>,
    /// Whether it has a photo.
    pub photo: bool,
}

/// The readings of a site's meters that count and were not read before a day, by meter and time; with each meter's last before that day.
pub async fn readings(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
) -> sqlx::Result<Vec<ReadingRow>> {
    let rows = sqlx::query!(
        r#"SELECT r.id, r.meter_id, r.read_at, r.register, r.follows, r.old_register, r.began_with, a.name AS "who?",
                  p.reading_id IS NOT NULL AS "photo!"
           FROM meter m JOIN site s ON s.id = m.site_id JOIN meter_reading r ON r.meter_id = m.id AND r.voided_at IS NULL
           LEFT JOIN account a ON a.id = r.account_id LEFT JOIN meter_photo p ON p.reading_id = r.id
           WHERE m.site_id = $1 AND r.read_at >= coalesce(
               (SELECT max(b.read_at) FROM meter_reading b WHERE b.meter_id = m.id AND b.voided_at IS NULL
                AND b.read_at < $2::date::timestamp AT TIME ZONE s.time_zone), '-infinity')
           ORDER BY r.meter_id, r.read_at"#,
        site.0,
        from.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| ReadingRow {
        id: r.id,
        meter: MeterId(r.meter_id),
        reading: Reading {
            at: r.read_at.to_jiff(),
            register: r.register,
            // The table takes no other names.
            follows: Follows::of_columns(&r.follows, r.old_register, r.began_with)
                .unwrap_or_default(),
        },
        who: r.who,
        photo: r.photo,
    });
    Ok(rows.collect())
}

/// A reading to be added.
pub struct NewReading<'a> {
    /// The meter.
    pub meter: MeterId,
    /// What was read.
    pub reading: Reading,
    /// Who read it, where that is known.
    pub account: Option<AccountId>,
    /// The reading that it takes the place of.
    pub replaces: Option<i64>,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

/// Adds a reading; `None` where another of the meter stands at that instant.
pub async fn add(db: &mut PgConnection, new: &NewReading<'_>) -> sqlx::Result<Option<i64>> {
    let (follows, old_register, began_with) = new.reading.follows.columns();
    if let Some(replaced) = new.replaces {
        void(&mut *db, replaced).await?;
    }
    sqlx::query_scalar!(
        "INSERT INTO meter_reading (meter_id, read_at, register, follows, old_register, began_with, account_id, replaces, idempotency_key)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) ON CONFLICT (meter_id, read_at) WHERE voided_at IS NULL DO NOTHING RETURNING id",
        new.meter.0,
        new.reading.at.to_sqlx() as _,
        new.reading.register,
        follows,
        old_register,
        began_with,
        new.account.map(|a| a.0),
        new.replaces,
        new.idempotency_key,
    )
    .fetch_optional(db)
    .await
}

/// The reading that was written with a key.
pub async fn written(
    db: impl PgExecutor<'_>,
    meter: MeterId,
    idempotency_key: &str,
) -> sqlx::Result<Option<i64>> {
    sqlx::query_scalar!(
        "SELECT id FROM meter_reading WHERE meter_id = $1 AND idempotency_key = $2",
        meter.0,
        idempotency_key
    )
    .fetch_optional(db)
    .await
}

/// Voids a reading.
pub async fn void(db: impl PgExecutor<'_>, reading: i64) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE meter_reading SET voided_at = now() WHERE id = $1 AND voided_at IS NULL",
        reading
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Puts a photo to a reading, in the place of one before; `false` where the site has no such reading.
pub async fn put_photo(
    db: impl PgExecutor<'_>,
    site: SiteId,
    reading: i64,
    photo: &Photo,
) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "INSERT INTO meter_photo (reading_id, jpeg, width_px, height_px)
         SELECT r.id, $3, $4, $5 FROM meter_reading r JOIN meter m ON m.id = r.meter_id
         WHERE m.site_id = $1 AND r.id = $2 AND r.voided_at IS NULL
         ON CONFLICT (reading_id) DO UPDATE SET jpeg = excluded.jpeg, width_px = excluded.width_px, height_px = excluded.height_px",
        site.0,
        reading,
        photo.jpeg,
        photo.width_px,
        photo.height_px
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// The photo of a reading that counts.
pub async fn photo(
    db: impl PgExecutor<'_>,
    site: SiteId,
    reading: i64,
) -> sqlx::Result<Option<Vec<u8>>> {
    sqlx::query_scalar!(
        "SELECT p.jpeg FROM meter_photo p JOIN meter_reading r ON r.id = p.reading_id JOIN meter m ON m.id = r.meter_id
         WHERE m.site_id = $1 AND r.id = $2 AND r.voided_at IS NULL",
        site.0,
        reading
    )
    .fetch_optional(db)
    .await
}
