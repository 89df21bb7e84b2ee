//! What was seen of zones, and its photos.

use jiff::Timestamp;
use jiff_sqlx::ToSqlx;
use lawn::measure::hot_spot::HotSpot;
use lawn::measure::outline::Point;
use lawn::measure::seen::Seen;
use lawn::site::soil_counting::ZoneSeen;
use sqlx::PgExecutor;

use super::{AccountId, SiteId, ZoneId, undecodable};

/// What was seen, as it is stored.
#[derive(Debug, Clone)]
pub struct SeenRow {
    /// Its identifier.
    pub id: i64,
    /// The zone.
    pub zone: ZoneId,
    /// With its day and place.
    pub kept: ZoneSeen,
    /// The first of the look that it belongs to; `None`: it is the first.
    pub look: Option<i64>,
    /// Who saw it.
    pub who: Option<String>,
    /// When it was written down.
    pub at: Timestamp,
    /// Whether it has a photo.
    pub photo: bool,
}

/// What is to be added.
pub struct NewSeen<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// Who saw it, where that is known.
    pub account: Option<AccountId>,
    /// With its day and place.
    pub kept: &'a ZoneSeen,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
    /// The first of the look that it belongs to; `None`: it is the first.
    pub look: Option<i64>,
}

/// Adds what was seen; its identifier, and whether it is new: of a key that was written before it is that of then.
pub async fn add(db: impl PgExecutor<'_>, new: &NewSeen<'_>) -> sqlx::Result<(i64, bool)> {
    let kept = new.kept;
    let row = sqlx::query!(
        r#"WITH added AS (
               INSERT INTO seen (zone_id, account_id, date, after_noon, x_m, y_m, seen, idempotency_key, spot, look_id)
               VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
               ON CONFLICT (zone_id, idempotency_key) DO NOTHING RETURNING id)
           SELECT id AS "id!", true AS "new!" FROM added
           UNION ALL SELECT id, false FROM seen WHERE zone_id = $1 AND idempotency_key = $8 LIMIT 1"#,
        new.zone.0,
        new.account.map(|a| a.0),
        kept.date.to_sqlx() as _,
        kept.after_noon,
        kept.place.map(|p| p.x_m),
        kept.place.map(|p| p.y_m),
        serde_json::to_value(kept.seen).map_err(undecodable)?,
        new.idempotency_key,
        kept.spot.map(HotSpot::name),
        new.look,
    )
    .fetch_one(db)
    .await?;
    Ok((row.id, row.new))
}

/// What was seen of a site's zones and not undone, newest first.
pub async fn of_site(
    db: impl PgExecutor<'_>,
    site: SiteId,
    most: i64,
) -> sqlx::Result<Vec<SeenRow>> {
    let rows = sqlx::query!(
        r#"SELECT s.id, s.zone_id, s.date, s.after_noon, s.x_m, s.y_m, s.spot, s.look_id, s.seen, s.made_at, a.name AS "who?", p.seen_id IS NOT NULL AS "photo!"
           FROM seen s JOIN zone z ON z.id = s.zone_id LEFT JOIN account a ON a.id = s.account_id LEFT JOIN seen_photo p ON p.seen_id = s.id
           WHERE z.site_id = $1 AND s.undone_at IS NULL ORDER BY s.date DESC, s.after_noon DESC, s.id DESC LIMIT $2"#,
        site.0,
        most
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| {
        let seen: Seen = serde_json::from_value(r.seen).map_err(undecodable)?;
        let spot = r.spot.map(|name| serde_json::from_value(name.into()));
        Ok(SeenRow {
            id: r.id,
            zone: ZoneId(r.zone_id),
            kept: ZoneSeen {
                date: r.date.to_jiff(),
                after_noon: r.after_noon,
                place: r.x_m.zip(r.y_m).map(|(x_m, y_m)| Point { x_m, y_m }),
                spot: spot.transpose().map_err(undecodable)?,
                seen,
            },
            look: r.look_id,
            who: r.who,
            at: r.made_at.to_jiff(),
            photo: r.photo,
        })
    });
    rows.collect()
}

/// How much of what was seen of a zone is on record and not undone.
pub async fn count(db: impl PgExecutor<'_>, zone: ZoneId) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        r#"SELECT count(*) AS "count!" FROM seen WHERE zone_id = $1 AND undone_at IS NULL"#,
        zone.0
    )
    .fetch_one(db)
    .await
}

/// Undoes what was seen, with the rest of a look that it is the first of; the name of its zone, `None` where the site has nothing such.
pub async fn undo(
    db: impl PgExecutor<'_>,
    site: SiteId,
    seen: i64,
) -> sqlx::Result<Option<String>> {
    let names = sqlx::query_scalar!(
        r#"UPDATE seen s SET undone_at = now() FROM zone z
           WHERE z.id = s.zone_id AND z.site_id = $1 AND (s.id = $2 OR s.look_id = $2) AND s.undone_at IS NULL
           RETURNING z.settings ->> 'name' AS "name!""#,
        site.0,
        seen
    )
    .fetch_all(db)
    .await?;
    Ok(names.into_iter().next())
}

/// A photo as it is kept.
pub struct Photo {
    /// JPEG, without anything else of the file that came.
    pub jpeg: Vec<u8>,
    /// Width, pixels.
    pub width_px: i32,
    /// Height, pixels.
    pub height_px: i32,
}

/// Puts a photo to what was seen, in the place of one before; `false` where the site has nothing such.
pub async fn put_photo(
    db: impl PgExecutor<'_>,
    site: SiteId,
    seen: i64,
    photo: &Photo,
) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "INSERT INTO seen_photo (seen_id, jpeg, width_px, height_px)
         SELECT s.id, $3, $4, $5 FROM seen s JOIN zone z ON z.id = s.zone_id WHERE z.site_id = $1 AND s.id = $2 AND s.undone_at IS NULL
         ON CONFLICT (seen_id) DO UPDATE SET jpeg = excluded.jpeg, width_px = excluded.width_px, height_px = excluded.height_px",
        site.0,
        seen,
        photo.jpeg,
        photo.width_px,
        photo.height_px
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// The photo of what was seen and not undone.
pub async fn photo(
    db: impl PgExecutor<'_>,
    site: SiteId,
    seen: i64,
) -> sqlx::Result<Option<Vec<u8>>> {
    sqlx::query_scalar!(
        "SELECT p.jpeg FROM seen_photo p JOIN seen s ON s.id = p.seen_id JOIN zone z ON z.id = s.zone_id
         WHERE z.site_id = $1 AND s.id = $2 AND s.undone_at IS NULL",
        site.0,
        seen
    )
    .fetch_optional(db)
    .await
}
