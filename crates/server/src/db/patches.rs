//! Patches that a drought left in zones, the looks at each, and their photos.

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::quantity::Area;
use sqlx::PgExecutor;

use super::seen::Photo;
use super::{AccountId, SiteId, ZoneId};

/// A patch as it is stored.
#[derive(Debug, Clone)]
pub struct PatchRow {
    /// Its identifier.
    pub id: i64,
    /// The zone.
    pub zone: ZoneId,
    /// The zone's name.
    pub zone_name: String,
    /// What people call it.
    pub name: String,
    /// Its area.
    pub area: Area,
    /// The site's day on which it was noted.
    pub noted_on: Date,
    /// When it was sown, planted or had closed.
    pub repaired_on: Option<Date>,
}

/// A look at a patch as it is stored.
#[derive(Debug, Clone)]
pub struct LookRow {
    /// Its identifier.
    pub id: i64,
    /// The patch.
    pub patch: i64,
    /// The site's day.
    pub date: Date,
    /// Whether a handful held that was pulled at.
    pub holds: Option<bool>,
    /// Whether its crowns live.
    pub alive: Option<bool>,
    /// Who looked.
    pub who: Option<String>,
    /// Whether it has a photo.
    pub photo: bool,
}

/// A patch to be noted.
pub struct NewPatch<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// What people call it.
    pub name: &'a str,
    /// Its area.
    pub area: Area,
    /// The site's day.
    pub noted_on: Date,
    /// Who noted it.
    pub account: AccountId,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

/// A look to be noted.
pub struct NewLook<'a> {
    /// The patch.
    pub patch: i64,
    /// The site's day.
    pub date: Date,
    /// Whether a handful held that was pulled at.
    pub holds: Option<bool>,
    /// Whether its crowns live.
    pub alive: Option<bool>,
    /// Who looked.
    pub account: AccountId,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

/// Notes a patch; its identifier, and whether it is new.
pub async fn add(db: impl PgExecutor<'_>, new: &NewPatch<'_>) -> sqlx::Result<(i64, bool)> {
    let row = sqlx::query!(
        r#"WITH added AS (
               INSERT INTO patch (zone_id, name, area_m2, noted_on, noted_by, idempotency_key) VALUES ($1, $2, $3, $4, $5, $6)
               ON CONFLICT (zone_id, idempotency_key) DO NOTHING RETURNING id)
           SELECT id AS "id!", true AS "new!" FROM added
           UNION ALL SELECT id, false FROM patch WHERE zone_id = $1 AND idempotency_key = $6 LIMIT 1"#,
        new.zone.0,
        new.name,
        new.area.m2(),
        new.noted_on.to_sqlx() as _,
        new.account.0,
        new.idempotency_key,
    )
    .fetch_one(db)
    .await?;
    Ok((row.id, row.new))
}

/// Notes a look at a patch; its identifier, and whether it is new.
pub async fn add_look(db: impl PgExecutor<'_>, new: &NewLook<'_>) -> sqlx::Result<(i64, bool)> {
    let row = sqlx::query!(
        r#"WITH added AS (
               INSERT INTO patch_look (patch_id, date, holds, alive, account_id, idempotency_key) VALUES ($1, $2, $3, $4, $5, $6)
               ON CONFLICT (patch_id, idempotency_key) DO NOTHING RETURNING id)
           SELECT id AS "id!", true AS "new!" FROM added
           UNION ALL SELECT id, false FROM patch_look WHERE patch_id = $1 AND idempotency_key = $6 LIMIT 1"#,
        new.patch,
        new.date.to_sqlx() as _,
        new.holds,
        new.alive,
        new.account.0,
        new.idempotency_key,
    )
    .fetch_one(db)
    .await?;
    Ok((row.id, row.new))
}

/// Patches of a site's zones that were not undone, oldest first; `only`: one of them.
pub async fn of_site(
    db: impl PgExecutor<'_>,
    site: SiteId,
    only: Option<i64>,
) -> sqlx::Result<Vec<PatchRow>> {
    let rows = sqlx::query!(
        r#"SELECT p.id, p.zone_id, z.settings ->> 'name' AS "zone_name!", p.name, p.area_m2, p.noted_on, p.repaired_on
           FROM patch p JOIN zone z ON z.id = p.zone_id
           WHERE z.site_id = $1 AND p.undone_at IS NULL AND ($2::int8 IS NULL OR p.id = $2) ORDER BY p.id"#,
        site.0,
        only
    )
    .fetch_all(db)
    .await?;
    let row = rows.into_iter().map(|r| PatchRow {
        id: r.id,
        zone: ZoneId(r.zone_id),
        zone_name: r.zone_name,
        name: r.name,
        area: Area::from_m2(r.area_m2),
        noted_on: r.noted_on.to_jiff(),
        repaired_on: r.repaired_on.map(|d| d.to_jiff()),
    });
    Ok(row.collect())
}

/// Looks at a site's patches, oldest first.
pub async fn looks(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<LookRow>> {
    let rows = sqlx::query!(
        r#"SELECT l.id, l.patch_id, l.date, l.holds, l.alive, a.name AS "who?", f.look_id IS NOT NULL AS "photo!"
           FROM patch_look l JOIN patch p ON p.id = l.patch_id JOIN zone z ON z.id = p.zone_id
           LEFT JOIN account a ON a.id = l.account_id LEFT JOIN patch_photo f ON f.look_id = l.id
           WHERE z.site_id = $1 AND p.undone_at IS NULL ORDER BY l.date, l.id"#,
        site.0
    )
    .fetch_all(db)
    .await?;
    let row = rows.into_iter().map(|r| LookRow {
        id: r.id,
        patch: r.patch_id,
        date: r.date.to_jiff(),
        holds: r.holds,
        alive: r.alive,
        who: r.who,
        photo: r.photo,
    });
    Ok(row.collect())
}

/// Says from when on a patch is repaired, or that it is open again; `false` where it is so already.
pub async fn set_repaired(
    db: impl PgExecutor<'_>,
    patch: i64,
    on: Option<Date>,
    account: AccountId,
) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "UPDATE patch SET repaired_on = $2, repaired_by = $3 WHERE id = $1 AND (repaired_on IS NULL) = ($2::date IS NOT NULL)",
        patch,
        on.map(|d| d.to_sqlx()) as _,
        account.0,
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// Takes a patch back that was noted by mistake.
pub async fn undo(db: impl PgExecutor<'_>, patch: i64) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE patch SET undone_at = now() WHERE id = $1 AND undone_at IS NULL",
        patch
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Puts a photo to a look, in the place of one before; `false` where the site has none such.
pub async fn put_photo(
    db: impl PgExecutor<'_>,
    site: SiteId,
    look: i64,
    photo: &Photo,
) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "INSERT INTO patch_photo (look_id, jpeg, width_px, height_px)
         SELECT l.id, $3, $4, $5 FROM patch_look l JOIN patch p ON p.id = l.patch_id JOIN zone z ON z.id = p.zone_id
         WHERE z.site_id = $1 AND l.id = $2 AND p.undone_at IS NULL
         ON CONFLICT (look_id) DO UPDATE SET jpeg = excluded.jpeg, width_px = excluded.width_px, height_px = excluded.height_px",
        site.0,
        look,
        photo.jpeg,
        photo.width_px,
        photo.height_px
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// The photo of a look.
pub async fn photo(
    db: impl PgExecutor<'_>,
    site: SiteId,
    look: i64,
) -> sqlx::Result<Option<Vec<u8>>> {
    sqlx::query_scalar!(
        "SELECT f.jpeg FROM patch_photo f JOIN patch_look l ON l.id = f.look_id JOIN patch p ON p.id = l.patch_id
         JOIN zone z ON z.id = p.zone_id WHERE z.site_id = $1 AND l.id = $2 AND p.undone_at IS NULL",
        site.0,
        look
    )
    .fetch_optional(db)
    .await
}
