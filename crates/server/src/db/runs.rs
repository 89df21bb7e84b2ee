//! Runs: what the record says came out of the sprinklers. Append-only: a person's word voids what was assumed and adds what they said.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff::{SignedDuration, Timestamp};
use jiff_sqlx::ToSqlx;
use lawn::days;
use lawn::record::known::is_after_noon;
use lawn::record::programme::{Begun, ProgrammeHold};
use lawn::record::said::Said;
use lawn::record::watching::Opened;
use lawn::record::watered::{Passes, Watered};
use lawn::record::waterings::Entry;
use lawn::view::plan::{RainHold, Run};
use serde_json::Value;
use sqlx::{PgConnection, PgExecutor};

use super::{AccountId, SiteId, ZoneId, days_of, grouped, of_one, undecodable};

/// A run to be recorded from a plan.
pub struct NewRun {
    /// The zone.
    pub zone: ZoneId,
    /// Local day of its first start.
    pub date: Date,
    /// First start.
    pub started_at: Timestamp,
    /// Passes begun.
    pub passes: u32,
    /// Length of each, s.
    pub pass_s: i64,
    /// Passes that the plan asks for in all.
    pub planned_passes: u32,
    /// When the last of them ends.
    pub planned_end: Timestamp,
    /// The plan it was taken from.
    pub plan: Option<i64>,
}

impl NewRun {
    /// A run that the programme of a plan has begun; `None` where its zone is not one of ours.
    #[must_use]
    pub fn begun(plan: i64, begun: &Begun) -> Option<Self> {
        let run = &begun.run;
        Some(Self {
            zone: ZoneId(run.zone.parse().ok()?),
            date: run.date,
            started_at: begun.started_at,
            passes: begun.passes,
            pass_s: run.pass_s,
            planned_passes: run.passes,
            planned_end: begun.planned_end(),
            plan: Some(plan),
        })
    }
}

/// A run as it is stored.
#[derive(Debug, Clone)]
pub struct RunRow {
    /// Its identifier.
    pub id: i64,
    /// The zone.
    pub zone: ZoneId,
    /// Its name.
    pub zone_name: String,
    /// Local day of its first start.
    pub date: Date,
    /// First start.
    pub started_at: Timestamp,
    /// Passes.
    pub passes: i32,
    /// The time of all, s.
    pub run_s: i32,
    /// What the plan asked for; `None` for runs that none did.
    pub planned: Option<Planned>,
    /// What it watered, and by what.
    pub watered: Watered,
    /// Whose word it is.
    pub source: Said,
    /// Who said so.
    pub who: Option<String>,
    /// The plan that it was taken from.
    pub plan: Option<i64>,
    /// The word or assumption that it took the place of.
    pub replaces: Option<i64>,
}

/// What a plan asked of a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Planned {
    /// Passes.
    pub passes: i32,
    /// The time of all, s.
    pub run_s: i32,
    /// When the last ends.
    pub end: Timestamp,
}

/// What a run watered; nothing stored: the zone's own sprinklers, all of it.
fn watered(stored: Option<Value>) -> sqlx::Result<Watered> {
    stored.map_or(Ok(Watered::all()), |value| {
        serde_json::from_value(value).map_err(undecodable)
    })
}

/// Whose word a run is.
fn said(stored: String) -> sqlx::Result<Said> {
    serde_json::from_value(Value::String(stored)).map_err(undecodable)
}

/// Runs of a site's zones that count from a day on, by date.
pub async fn since(db: impl PgExecutor<'_>, site: SiteId, from: Date) -> sqlx::Result<Vec<Run>> {
    of_sites(db, &[(site, from)]).await.map(of_one)
}

/// Runs of sites, each from a day on, as [`since`].
pub async fn of_sites(
    db: impl PgExecutor<'_>,
    from: &[(SiteId, Date)],
) -> sqlx::Result<BTreeMap<SiteId, Vec<Run>>> {
    let (sites, days) = days_of(from);
    let rows = sqlx::query!(
        r#"SELECT s.id AS "site!", r.zone_id, r.date, r.passes, r.run_s, r.source, r.watered,
                  (r.started_at AT TIME ZONE s.time_zone)::time AS "started!"
           FROM unnest($1::int8[], $2::text[]::date[]) AS f (site, day) JOIN site s ON s.id = f.site JOIN zone z ON z.site_id = s.id
           JOIN run r ON r.zone_id = z.id AND r.date >= f.day
           WHERE r.voided_at IS NULL AND r.passes > 0 ORDER BY r.date, r.started_at, r.id"#,
        &sites,
        &days,
    )
    .fetch_all(db)
    .await?;
    let runs = rows.into_iter().map(|r| {
        let run = Run {
            zone: r.zone_id.to_string(),
            date: r.date.to_jiff(),
            after_noon: is_after_noon(r.started.to_jiff()),
            started: Some(r.started.to_jiff()),
            passes: u32::try_from(r.passes).unwrap_or(0),
            run_s: i64::from(r.run_s),
            watered: watered(r.watered)?,
            assumed: said(r.source)? == Said::Assumed,
        };
        Ok((SiteId(r.site), run))
    });
    Ok(grouped(runs.collect::<sqlx::Result<Vec<_>>>()?))
}

/// Runs of a stretch of days with what was said of them, denied ones too; newest first.
pub async fn list(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
    to: Date,
) -> sqlx::Result<Vec<RunRow>> {
    select(db, site, from, to, None).await
}

/// A run of a site that counts.
pub async fn get(db: impl PgExecutor<'_>, site: SiteId, run: i64) -> sqlx::Result<Option<RunRow>> {
    let found = select(db, site, days::FIRST, Date::MAX, Some(run)).await?;
    Ok(found.into_iter().next())
}

async fn select(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
    to: Date,
    run: Option<i64>,
) -> sqlx::Result<Vec<RunRow>> {
    let rows = sqlx::query!(
        r#"SELECT r.id, r.zone_id, z.settings->>'name' AS "zone_name!", r.date, r.started_at, r.passes, r.run_s, r.source,
                  a.name AS "who?", r.plan_id, r.planned_passes, r.planned_s, r.planned_end, r.watered, r.replaces
           FROM run r JOIN zone z ON z.id = r.zone_id LEFT JOIN account a ON a.id = r.account_id
           WHERE z.site_id = $1 AND r.voided_at IS NULL AND r.date BETWEEN $2 AND $3 AND ($4::int8 IS NULL OR r.id = $4)
           ORDER BY r.started_at DESC, z.position, r.id"#,
        site.0,
        from.to_sqlx() as _,
        to.to_sqlx() as _,
        run,
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            let planned = r.planned_passes.zip(r.planned_s).zip(r.planned_end);
            Ok(RunRow {
                id: r.id,
                zone: ZoneId(r.zone_id),
                zone_name: r.zone_name,
                date: r.date.to_jiff(),
                started_at: r.started_at.to_jiff(),
                passes: r.passes,
                run_s: r.run_s,
                planned: planned.map(|((passes, run_s), end)| Planned {
                    passes,
                    run_s,
                    end: end.to_jiff(),
                }),
                watered: watered(r.watered)?,
                source: said(r.source)?,
                who: r.who,
                plan: r.plan_id,
                replaces: r.replaces,
            })
        })
        .collect()
}

/// Runs of a stretch of days as the water book reads them, denied ones too, in time order.
pub async fn entries(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
    to: Date,
) -> sqlx::Result<Vec<Entry>> {
    let mut rows = list(db, site, from, to).await?;
    rows.reverse();
    let seconds = |passes: i32, run_s: i32| Passes {
        passes: u32::try_from(passes).unwrap_or(0),
        run_s: i64::from(run_s),
    };
    let entries = rows.into_iter().map(|row| Entry {
        zone: row.zone.0.to_string(),
        date: row.date,
        started_at: row.started_at,
        ran: seconds(row.passes, row.run_s),
        watered: row.watered,
        assumed: row.source == Said::Assumed,
        planned: row.planned.map(|p| seconds(p.passes, p.run_s)),
        by_hand: row.source.is_by_hand(),
    });
    Ok(entries.collect())
}

/// The first day of a site's record on which anything ran; `None`: nothing ever did.
pub async fn first_day(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<Date>> {
    let first = sqlx::query_scalar!(
        "SELECT min(r.date) FROM run r JOIN zone z ON z.id = r.zone_id WHERE z.site_id = $1 AND r.voided_at IS NULL AND r.passes > 0",
        site.0
    )
    .fetch_one(db)
    .await?;
    Ok(first.map(jiff_sqlx::Date::to_jiff))
}

/// What was open on a stretch of days, in time order: by the starts of the plan that a run was taken from, else as one. What a hose watered is told too.
pub async fn opened(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
    to: Date,
) -> sqlx::Result<Vec<Opened>> {
    let rows = sqlx::query!(
        r#"SELECT r.zone_id, r.date, r.started_at, r.passes, r.run_s, r.watered, p.starts AS "starts?: Vec<jiff_sqlx::Timestamp>"
           FROM run r JOIN zone z ON z.id = r.zone_id
           LEFT JOIN planned_run p ON p.plan_id = r.plan_id AND p.zone_id = r.zone_id AND p.starts[1] = r.started_at
           WHERE z.site_id = $1 AND r.voided_at IS NULL AND r.passes > 0 AND r.date BETWEEN $2 AND $3"#,
        site.0,
        from.to_sqlx() as _,
        to.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    let mut opened = Vec::new();
    for r in rows {
        let watered = watered(r.watered)?;
        let started_at = r.started_at.to_jiff();
        let starts: Vec<Timestamp> = match r.starts {
            Some(starts) => starts
                .into_iter()
                .map(jiff_sqlx::Timestamp::to_jiff)
                .collect(),
            None => vec![started_at],
        };
        let passes = starts
            .len()
            .min(usize::try_from(r.passes).unwrap_or(1))
            .max(1);
        let length = i64::from(r.run_s) / i64::try_from(passes).unwrap_or(1);
        for from in starts.into_iter().take(passes) {
            opened.push(Opened {
                zone: r.zone_id.to_string(),
                from,
                to: from + SignedDuration::from_secs(length),
                date: r.date.to_jiff(),
                watered,
            });
        }
    }
    opened.sort_by_key(|o| o.from);
    Ok(opened)
}

/// Records runs assumed from a plan; one begun before grows by the passes begun since. What a person said stands.
pub async fn assume(db: impl PgExecutor<'_>, runs: &[NewRun]) -> sqlx::Result<()> {
    let zones: Vec<i64> = runs.iter().map(|r| r.zone.0).collect();
    let dates: Vec<String> = runs.iter().map(|r| r.date.to_string()).collect();
    let starts: Vec<String> = runs.iter().map(|r| r.started_at.to_string()).collect();
    let passes: Vec<i32> = runs
        .iter()
        .map(|r| i32::try_from(r.passes).unwrap_or(i32::MAX))
        .collect();
    let lengths: Vec<i32> = runs
        .iter()
        .map(|r| i32::try_from(r.pass_s).unwrap_or(i32::MAX))
        .collect();
    let planned: Vec<i32> = runs
        .iter()
        .map(|r| i32::try_from(r.planned_passes).unwrap_or(i32::MAX))
        .collect();
    let ends: Vec<String> = runs.iter().map(|r| r.planned_end.to_string()).collect();
    let plans: Vec<Option<i64>> = runs.iter().map(|r| r.plan).collect();
    sqlx::query!(
        "INSERT INTO run (zone_id, date, started_at, passes, run_s, source, plan_id, planned_passes, planned_s, planned_end)
         SELECT z, d, s, p, p * l, 'assumed', i, n, n * l, e
         FROM unnest($1::int8[], $2::text[]::date[], $3::text[]::timestamptz[], $4::int4[], $5::int4[], $6::int8[], $7::int4[],
              $8::text[]::timestamptz[]) AS r (z, d, s, p, l, i, n, e)
         ON CONFLICT (zone_id, started_at) WHERE voided_at IS NULL
         DO UPDATE SET passes = greatest(run.passes, excluded.passes), run_s = greatest(run.run_s, excluded.run_s)
         WHERE run.source = 'assumed'",
        &zones,
        &dates,
        &starts,
        &passes,
        &lengths,
        &plans as _,
        &planned,
        &ends,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// What a person said of a run: voids it and adds their word.
pub async fn answer(
    db: &mut PgConnection,
    run: &RunRow,
    account: AccountId,
    source: Said,
    passes: i32,
    run_s: i32,
) -> sqlx::Result<i64> {
    sqlx::query!("UPDATE run SET voided_at = now() WHERE id = $1", run.id)
        .execute(&mut *db)
        .await?;
    sqlx::query_scalar!(
        "INSERT INTO run (zone_id, date, started_at, passes, run_s, source, plan_id, account_id, replaces, planned_passes, planned_s,
                          planned_end, watered)
         SELECT zone_id, date, started_at, $2, $3, $4, plan_id, $5, id, planned_passes, planned_s, planned_end, watered
         FROM run WHERE id = $1 RETURNING id",
        run.id,
        passes,
        run_s,
        source.name(),
        account.0,
    )
    .fetch_one(&mut *db)
    .await
}

/// Takes a word back: voids it, and puts what it took the place of there again, as the plan would have it at an instant. `None` where it
/// took no place: then it is gone.
pub async fn take_back(
    db: &mut PgConnection,
    run: &RunRow,
    now: Timestamp,
) -> sqlx::Result<Option<i64>> {
    sqlx::query!("UPDATE run SET voided_at = now() WHERE id = $1", run.id)
        .execute(&mut *db)
        .await?;
    let Some(before) = run.replaces else {
        return Ok(None);
    };
    // What was assumed while the run went on may have ended since.
    sqlx::query_scalar!(
        "INSERT INTO run (zone_id, date, started_at, passes, run_s, source, plan_id, account_id, replaces, planned_passes, planned_s,
                          planned_end, watered)
         SELECT zone_id, date, started_at,
                CASE WHEN source = 'assumed' AND planned_end <= $2 THEN planned_passes ELSE passes END,
                CASE WHEN source = 'assumed' AND planned_end <= $2 THEN planned_s ELSE run_s END,
                source, plan_id, account_id, replaces, planned_passes, planned_s, planned_end, watered
         FROM run WHERE id = $1 RETURNING id",
        before,
        now.to_sqlx() as _,
    )
    .fetch_optional(&mut *db)
    .await
}

/// A run that a person adds.
pub struct ByHand<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// Local day of its start.
    pub date: Date,
    /// Its start.
    pub started_at: Timestamp,
    /// Length, s.
    pub seconds: i32,
    /// By hand or hose.
    pub source: Said,
    /// What it watered, and by what.
    pub watered: Watered,
    /// Who.
    pub account: AccountId,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

/// Adds a run by hand; `None` where that key was written before, or where a run of that zone starts at that instant.
pub async fn add(db: impl PgExecutor<'_>, run: &ByHand<'_>) -> sqlx::Result<Option<i64>> {
    sqlx::query_scalar!(
        "INSERT INTO run (zone_id, date, started_at, passes, run_s, source, account_id, idempotency_key, watered)
         VALUES ($1, $2, $3, 1, $4, $5, $6, $7, $8) ON CONFLICT DO NOTHING RETURNING id",
        run.zone.0,
        run.date.to_sqlx() as _,
        run.started_at.to_sqlx() as _,
        run.seconds,
        run.source.name(),
        run.account.0,
        run.idempotency_key,
        serde_json::to_value(run.watered).map_err(undecodable)?,
    )
    .fetch_optional(db)
    .await
}

/// A run that a file brings.
pub struct Imported {
    /// The zone.
    pub zone: ZoneId,
    /// Local day of its first start.
    pub date: Date,
    /// First start.
    pub started_at: Timestamp,
    /// How long it ran; no passes: it did not.
    pub ran: Passes,
    /// What a plan asked for.
    pub planned: Option<Passes>,
    /// What it watered, and by what.
    pub watered: Watered,
    /// Whose word it is.
    pub source: Said,
}

/// Adds runs of a file; people's words in it are those of who imports it. None of the zones has a run that begins then.
pub async fn import(
    db: impl PgExecutor<'_>,
    runs: &[Imported],
    account: AccountId,
) -> sqlx::Result<()> {
    let seconds = |s: i64| i32::try_from(s).unwrap_or(i32::MAX);
    let passes = |p: u32| i32::try_from(p).unwrap_or(i32::MAX);
    let zones: Vec<i64> = runs.iter().map(|r| r.zone.0).collect();
    let dates: Vec<String> = runs.iter().map(|r| r.date.to_string()).collect();
    let starts: Vec<String> = runs.iter().map(|r| r.started_at.to_string()).collect();
    let ran: Vec<i32> = runs.iter().map(|r| passes(r.ran.passes)).collect();
    let lengths: Vec<i32> = runs.iter().map(|r| seconds(r.ran.run_s)).collect();
    let planned = runs.iter().map(|r| r.planned);
    let planned_passes: Vec<Option<i32>> =
        planned.clone().map(|p| Some(passes(p?.passes))).collect();
    let planned_s: Vec<Option<i32>> = planned.map(|p| Some(seconds(p?.run_s))).collect();
    let sources: Vec<String> = runs.iter().map(|r| r.source.name().to_owned()).collect();
    let accounts = runs
        .iter()
        .map(|r| (!r.source.is_open()).then_some(account.0));
    let accounts: Vec<Option<i64>> = accounts.collect();
    let watered: Vec<Value> = (runs.iter())
        .map(|r| serde_json::to_value(r.watered).map_err(undecodable))
        .collect::<sqlx::Result<_>>()?;
    sqlx::query!(
        "INSERT INTO run (zone_id, date, started_at, passes, run_s, source, planned_passes, planned_s, planned_end, account_id, watered)
         SELECT z, d, s, p, l, w, pp, pl, s + make_interval(secs => pl), a, j
         FROM unnest($1::int8[], $2::text[]::date[], $3::text[]::timestamptz[], $4::int4[], $5::int4[], $6::text[], $7::int4[], $8::int4[],
              $9::int8[], $10::jsonb[]) AS r (z, d, s, p, l, w, pp, pl, a, j)",
        &zones,
        &dates,
        &starts,
        &ran,
        &lengths,
        &sources,
        &planned_passes as _,
        &planned_s as _,
        &accounts as _,
        &watered,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Whether a key was written for a zone.
pub async fn is_written(
    db: impl PgExecutor<'_>,
    zone: ZoneId,
    idempotency_key: &str,
) -> sqlx::Result<bool> {
    sqlx::query_scalar!(
        r#"SELECT EXISTS (SELECT FROM run WHERE zone_id = $1 AND idempotency_key = $2) AS "any!""#,
        zone.0,
        idempotency_key
    )
    .fetch_one(db)
    .await
}

/// Records holds of a plan that have passed; each once.
pub async fn hold(db: impl PgExecutor<'_>, plan: i64, holds: &[ProgrammeHold]) -> sqlx::Result<()> {
    let zones: Vec<i64> = holds
        .iter()
        .map(|h| h.zone.parse().unwrap_or_default())
        .collect();
    let dates: Vec<String> = holds.iter().map(|h| h.date.to_string()).collect();
    let probable: Vec<f64> = holds.iter().map(|h| h.probability_pct).collect();
    let expected: Vec<f64> = holds.iter().map(|h| h.expected.mm()).collect();
    let saves: Vec<f64> = holds.iter().map(|h| h.saves.mm()).collect();
    let stress: Vec<f64> = holds.iter().map(|h| h.stress.mm()).collect();
    sqlx::query!(
        "INSERT INTO rain_hold (plan_id, zone_id, date, probability_pct, expected_mm, saves_mm, stress_mm)
         SELECT $1, * FROM unnest($2::int8[], $3::text[]::date[], $4::float8[], $5::float8[], $6::float8[], $7::float8[]) ON CONFLICT DO NOTHING",
        plan,
        &zones,
        &dates,
        &probable,
        &expected,
        &saves,
        &stress,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A hold as it is stored.
pub struct HoldRow {
    /// The zone.
    pub zone: ZoneId,
    /// Its name.
    pub zone_name: String,
    /// The day.
    pub date: Date,
    /// Probability of a wet day before the next opportunity, %.
    pub probability_pct: f64,
    /// Rain expected by then, mm.
    pub expected_mm: f64,
}

/// Holds of sites, each from a date on, newest first.
pub async fn holds(
    db: impl PgExecutor<'_>,
    from: &[(SiteId, Date)],
) -> sqlx::Result<BTreeMap<SiteId, Vec<HoldRow>>> {
    let (sites, days) = days_of(from);
    let rows = sqlx::query!(
        r#"SELECT z.site_id, h.zone_id, z.settings->>'name' AS "zone_name!", h.date, h.probability_pct, h.expected_mm
           FROM unnest($1::int8[], $2::text[]::date[]) AS f (site, day)
           JOIN zone z ON z.site_id = f.site JOIN rain_hold h ON h.zone_id = z.id AND h.date >= f.day
           ORDER BY h.date DESC, z.position"#,
        &sites,
        &days,
    )
    .fetch_all(db)
    .await?;
    Ok(grouped(rows.into_iter().map(|r| {
        let row = HoldRow {
            zone: ZoneId(r.zone_id),
            zone_name: r.zone_name,
            date: r.date.to_jiff(),
            probability_pct: r.probability_pct,
            expected_mm: r.expected_mm,
        };
        (SiteId(r.site_id), row)
    })))
}

impl From<&HoldRow> for RainHold {
    fn from(row: &HoldRow) -> Self {
        Self {
            zone: row.zone.0.to_string(),
            date: row.date,
        }
    }
}
