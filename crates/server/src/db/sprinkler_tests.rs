//! Tests of what the sprinklers put down.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::measure::result::TestResult;
use lawn::measure::sprinkler::SprinklerTest;
use lawn::site::counting::{self, Standing, Told, ZoneTest};
use serde_json::Value;
use sqlx::{PgConnection, PgExecutor};

use super::{AccountId, SiteId, ZoneId, grouped, head_faults, undecodable};

/// A test as it is stored.
#[derive(Debug, Clone)]
pub struct TestRow {
    /// Its identifier.
    pub id: i64,
    /// The zone.
    pub zone: ZoneId,
    /// The site's day on which it was done.
    pub date: Date,
    /// As it was done.
    pub test: SprinklerTest,
    /// What it says.
    pub result: TestResult,
    /// The first day on which it counts, where it said so itself.
    pub counts_from: Option<Date>,
    /// Whether it counts.
    pub standing: Standing,
    /// Who did it.
    pub who: Option<String>,
}

impl TestRow {
    fn told(&self) -> Told {
        let kept = ZoneTest {
            date: self.date,
            counts_from: self.counts_from,
            standing: self.standing,
            test: self.test.clone(),
        };
        Told::by(self.id, &kept)
    }
}

/// A test to be added.
pub struct NewTest<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// Who did it, where that is known.
    pub account: Option<AccountId>,
    /// The site's day.
    pub date: Date,
    /// The first day on which it counts; `None`: its own, or that of the repair before it.
    pub counts_from: Option<Date>,
    /// Whether it counts.
    pub standing: Standing,
    /// As it was done.
    pub test: &'a SprinklerTest,
    /// What it says.
    pub result: &'a TestResult,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

fn decode<T: serde::de::DeserializeOwned>(value: Value) -> sqlx::Result<T> {
    serde_json::from_value(value).map_err(undecodable)
}

/// Adds a test; `None` where that key was written before.
pub async fn add(db: impl PgExecutor<'_>, new: &NewTest<'_>) -> sqlx::Result<Option<i64>> {
    sqlx::query_scalar!(
        "INSERT INTO sprinkler_test (zone_id, account_id, date, test, result, idempotency_key, counts_from, pinned, voided_at)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8, CASE WHEN $9 THEN now() END)
         ON CONFLICT (zone_id, idempotency_key) DO NOTHING RETURNING id",
        new.zone.0,
        new.account.map(|a| a.0),
        new.date.to_sqlx() as _,
        serde_json::to_value(new.test).map_err(undecodable)?,
        serde_json::to_value(new.result).map_err(undecodable)?,
        new.idempotency_key,
        new.counts_from.map(|d| d.to_sqlx()) as _,
        new.standing == Standing::Pinned,
        new.standing == Standing::Void,
    )
    .fetch_optional(db)
    .await
}

/// Tests of a site's zones, newest first; voided ones too.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<TestRow>> {
    let rows = sqlx::query!(
        r#"SELECT t.id, t.zone_id, t.date, t.counts_from, t.test, t.result, t.pinned, t.voided_at IS NOT NULL AS "voided!", a.name AS "who?"
           FROM sprinkler_test t JOIN zone z ON z.id = t.zone_id LEFT JOIN account a ON a.id = t.account_id
           WHERE z.site_id = $1 ORDER BY t.date DESC, t.id DESC"#,
        site.0
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(TestRow {
                id: r.id,
                zone: ZoneId(r.zone_id),
                date: r.date.to_jiff(),
                test: decode(r.test)?,
                result: decode(r.result)?,
                counts_from: r.counts_from.map(|d| d.to_jiff()),
                standing: standing(r.pinned, r.voided),
                who: r.who,
            })
        })
        .collect()
}

const fn standing(pinned: bool, voided: bool) -> Standing {
    match (voided, pinned) {
        (true, _) => Standing::Void,
        (false, true) => Standing::Pinned,
        (false, false) => Standing::Automatic,
    }
}

/// The tests of sites' zones as the sites' documents have them, oldest first, with what was repaired before them.
pub async fn kept(
    db: &mut PgConnection,
    sites: &[SiteId],
) -> sqlx::Result<BTreeMap<ZoneId, Vec<ZoneTest>>> {
    let sites: Vec<i64> = sites.iter().map(|site| site.0).collect();
    let rows = sqlx::query!(
        r#"SELECT t.zone_id, t.date, t.counts_from, t.test, t.pinned, t.voided_at IS NOT NULL AS "voided!"
           FROM sprinkler_test t JOIN zone z ON z.id = t.zone_id WHERE z.site_id = ANY($1) ORDER BY t.date, t.id"#,
        &sites
    )
    .fetch_all(&mut *db)
    .await?;
    let rows = rows.into_iter().map(|r| {
        let test = ZoneTest {
            date: r.date.to_jiff(),
            counts_from: r.counts_from.map(|d| d.to_jiff()),
            standing: standing(r.pinned, r.voided),
            test: decode(r.test)?,
        };
        Ok((ZoneId(r.zone_id), test))
    });
    let mut kept = grouped(rows.collect::<sqlx::Result<Vec<_>>>()?);
    let mended = if kept.is_empty() {
        Vec::new()
    } else {
        let zones: Vec<ZoneId> = kept.keys().copied().collect();
        head_faults::mended(db, &zones).await?
    };
    for (zone, tests) in &mut kept {
        let repairs: Vec<Date> = mended
            .iter()
            .filter(|(of, _)| of == zone)
            .map(|(_, day)| *day)
            .collect();
        counting::count_from_repairs(tests, &repairs);
    }
    Ok(kept)
}

/// The tests of a zone that plans use at present.
#[derive(Debug, Clone, Copy)]
pub struct Counting<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// Tells the rate.
    pub rate: &'a TestRow,
    /// Tells the evenness.
    pub evenness: Option<&'a TestRow>,
}

/// For each zone with a test the one that counts at present ([`counting::at_present`]).
#[must_use]
pub fn counting(tests: &[TestRow]) -> Vec<Counting<'_>> {
    let mut zones: Vec<ZoneId> = tests.iter().map(|t| t.zone).collect();
    zones.sort_unstable();
    zones.dedup();
    zones
        .into_iter()
        .filter_map(|zone| {
            let own: Vec<&TestRow> = tests.iter().filter(|t| t.zone == zone).collect();
            let told: Vec<Told> = own.iter().map(|t| t.told()).collect();
            let row = |told: Option<&Told>| {
                let id = told?.id;
                own.iter().copied().find(|t| t.id == id)
            };
            Some(Counting {
                zone,
                rate: row(counting::at_present(&told, |t| t.rate.as_ref()))?,
                evenness: row(counting::at_present(&told, |t| t.evenness.as_ref())),
            })
        })
        .collect()
}

/// Sets a test's standing; `false` where the site has no such test.
pub async fn set_standing(
    db: &mut PgConnection,
    site: SiteId,
    test: i64,
    standing: Standing,
) -> sqlx::Result<bool> {
    if standing == Standing::Pinned {
        sqlx::query!(
            "UPDATE sprinkler_test SET pinned = false
             WHERE pinned AND zone_id = (SELECT zone_id FROM sprinkler_test WHERE id = $1)",
            test
        )
        .execute(&mut *db)
        .await?;
    }
    let done = sqlx::query!(
        "UPDATE sprinkler_test t SET pinned = $3, voided_at = CASE WHEN $4 THEN coalesce(t.voided_at, now()) END
         FROM zone z WHERE z.id = t.zone_id AND z.site_id = $2 AND t.id = $1",
        test,
        site.0,
        standing == Standing::Pinned,
        standing == Standing::Void,
    )
    .execute(&mut *db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// How many heads a zone's newest plan shows; `None` where no test has drawn one.
pub async fn heads(db: impl PgExecutor<'_>, zone: ZoneId) -> sqlx::Result<Option<u16>> {
    let heads = sqlx::query_scalar!(
        r#"SELECT jsonb_array_length(test -> 'heads') AS "heads!" FROM sprinkler_test
           WHERE zone_id = $1 AND voided_at IS NULL AND jsonb_array_length(test -> 'heads') > 0 ORDER BY date DESC, id DESC LIMIT 1"#,
        zone.0
    )
    .fetch_optional(db)
    .await?;
    Ok(heads.and_then(|n| u16::try_from(n).ok()))
}

/// How many tests a site has on record.
pub async fn count(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        r#"SELECT count(*) AS "count!" FROM sprinkler_test t JOIN zone z ON z.id = t.zone_id WHERE z.site_id = $1"#,
        site.0
    )
    .fetch_one(db)
    .await
}
