//! Tests of the soil.

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::measure::soil::SoilTest;
use lawn::site::counting::Standing;
use lawn::site::soil_counting::ZoneSoilTest;
use sqlx::{PgConnection, PgExecutor};

use super::{AccountId, SiteId, ZoneId, undecodable};

/// A test as it is stored.
#[derive(Debug, Clone)]
pub struct SoilTestRow {
    /// Its identifier.
    pub id: i64,
    /// The zone.
    pub zone: ZoneId,
    /// With its day and standing.
    pub kept: ZoneSoilTest,
    /// Who did it.
    pub who: Option<String>,
}

/// A test to be added.
pub struct NewSoilTest<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// Who did it, where that is known.
    pub account: Option<AccountId>,
    /// With its day and standing.
    pub kept: &'a ZoneSoilTest,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

/// Adds a test; `None` where that key was written before.
pub async fn add(db: impl PgExecutor<'_>, new: &NewSoilTest<'_>) -> sqlx::Result<Option<i64>> {
    let kept = new.kept;
    sqlx::query_scalar!(
        "INSERT INTO soil_test (zone_id, account_id, date, holds_from, test, idempotency_key, pinned, voided_at)
         VALUES ($1, $2, $3, $4, $5, $6, $7, CASE WHEN $8 THEN now() END)
         ON CONFLICT (zone_id, idempotency_key) DO NOTHING RETURNING id",
        new.zone.0,
        new.account.map(|a| a.0),
        kept.date.to_sqlx() as _,
        kept.holds_from.map(Date::to_sqlx) as _,
        serde_json::to_value(&kept.test).map_err(undecodable)?,
        new.idempotency_key,
        kept.standing == Standing::Pinned,
        kept.standing == Standing::Void,
    )
    .fetch_optional(db)
    .await
}

/// Tests of a site's zones in the order in which they were done, voided ones too.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<SoilTestRow>> {
    let rows = sqlx::query!(
        r#"SELECT t.id, t.zone_id, t.date, t.holds_from, t.test, t.pinned, t.voided_at IS NOT NULL AS "voided!", a.name AS "who?"
           FROM soil_test t JOIN zone z ON z.id = t.zone_id LEFT JOIN account a ON a.id = t.account_id
           WHERE z.site_id = $1 ORDER BY t.date, t.id"#,
        site.0
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| {
        let test: SoilTest = serde_json::from_value(r.test).map_err(undecodable)?;
        Ok(SoilTestRow {
            id: r.id,
            zone: ZoneId(r.zone_id),
            kept: ZoneSoilTest {
                date: r.date.to_jiff(),
                holds_from: r.holds_from.map(|d| d.to_jiff()),
                standing: match (r.voided, r.pinned) {
                    (true, _) => Standing::Void,
                    (false, true) => Standing::Pinned,
                    (false, false) => Standing::Automatic,
                },
                test,
            },
            who: r.who,
        })
    });
    rows.collect()
}

/// Sets a test's standing; the method of the test, `None` where the site has no such test.
pub async fn set_standing(
    db: &mut PgConnection,
    site: SiteId,
    test: i64,
    standing: Standing,
) -> sqlx::Result<Option<String>> {
    if standing == Standing::Pinned {
        // One of a kind is pinned at most: pinned again, the one before goes by its day.
        sqlx::query!(
            "UPDATE soil_test SET pinned = false
             WHERE pinned AND (zone_id, test ->> 'method') = (SELECT zone_id, test ->> 'method' FROM soil_test WHERE id = $1)",
            test
        )
        .execute(&mut *db)
        .await?;
    }
    sqlx::query_scalar!(
        r#"UPDATE soil_test t SET pinned = $3, voided_at = CASE WHEN $4 THEN coalesce(t.voided_at, now()) END
           FROM zone z WHERE z.id = t.zone_id AND z.site_id = $2 AND t.id = $1 RETURNING t.test ->> 'method' AS "method!""#,
        test,
        site.0,
        standing == Standing::Pinned,
        standing == Standing::Void,
    )
    .fetch_optional(db)
    .await
}

/// How many tests of its soil a zone has on record.
pub async fn count(db: impl PgExecutor<'_>, zone: ZoneId) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        r#"SELECT count(*) AS "count!" FROM soil_test WHERE zone_id = $1"#,
        zone.0
    )
    .fetch_one(db)
    .await
}
