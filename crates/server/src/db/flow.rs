//! What flow meters count by the minute, an hour a row.

use jiff::{SignedDuration, Timestamp};
use jiff_sqlx::ToSqlx;
use lawn::record::told_minutes::Hours;
use serde::Serialize;
use sqlx::types::Json;
use sqlx::{PgConnection, PgExecutor};

use super::meters::MeterId;

/// Seconds of an hour.
const HOUR_S: i64 = 3600;

/// Hours that one statement writes: a month and a half.
const AT_ONCE: usize = 1000;

/// A row of `flow_hour`.
#[derive(Serialize)]
struct Hour {
    hour: Timestamp,
    counts: Vec<Option<u16>>,
}

/// The start of the hour that an instant lies in.
fn hour_of(at: Timestamp) -> i64 {
    at.as_second().div_euclid(HOUR_S) * HOUR_S
}

/// Minutes that were told, beside what was kept of them.
#[derive(Debug, Clone, Copy, Default)]
pub struct Beside {
    /// Nobody had told them.
    pub new: i64,
    /// Kept with the same count.
    pub known: i64,
    /// Kept with another count, which stands.
    pub other: i64,
}

/// Keeps what a meter counted by the minute; a minute that was told before stays as it was told.
pub async fn keep(db: &mut PgConnection, meter: MeterId, told: &Hours) -> sqlx::Result<Beside> {
    let mut beside = Beside::default();
    let hours: Vec<Hour> = told
        .iter()
        .map(|(hour, counts)| Hour { hour, counts })
        .collect();
    for hours in hours.chunks(AT_ONCE) {
        let before = sqlx::query!(
            r#"SELECT count(*) FILTER (WHERE k IS NULL) AS "new!", count(*) FILTER (WHERE k = t) AS "known!", count(*) FILTER (WHERE k <> t) AS "other!"
               FROM jsonb_to_recordset($2) AS told (hour timestamptz, counts smallint[])
               LEFT JOIN flow_hour kept ON kept.meter_id = $1 AND kept.hour = told.hour,
               LATERAL unnest(kept.counts, told.counts) AS minute (k, t) WHERE t IS NOT NULL"#,
            meter.0,
            Json(hours) as _,
        )
        .fetch_one(&mut *db)
        .await?;
        beside.new += before.new;
        beside.known += before.known;
        beside.other += before.other;
        sqlx::query!(
            "INSERT INTO flow_hour (meter_id, hour, counts)
             SELECT $1, hour, counts FROM jsonb_to_recordset($2) AS told (hour timestamptz, counts smallint[]) ORDER BY hour
             ON CONFLICT (meter_id, hour) DO UPDATE SET counts = minutes_merged(flow_hour.counts, excluded.counts)",
            meter.0,
            Json(hours) as _,
        )
        .execute(&mut *db)
        .await?;
    }
    Ok(beside)
}

/// What a meter counted by the minute between two instants, from the full hour before the first on; nothing where it never counted.
pub async fn between(
    db: impl PgExecutor<'_>,
    meter: MeterId,
    from: Timestamp,
    to: Timestamp,
) -> sqlx::Result<(Timestamp, Vec<Option<u16>>)> {
    let first = hour_of(from);
    let start = Timestamp::from_second(first).unwrap_or(from);
    let rows = sqlx::query!(
        r#"SELECT hour, counts AS "counts: Vec<Option<i16>>" FROM flow_hour WHERE meter_id = $1 AND hour >= $2 AND hour < $3 ORDER BY hour"#,
        meter.0,
        start.to_sqlx() as _,
        to.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    if rows.is_empty() {
        return Ok((start, Vec::new()));
    }
    let length = usize::try_from((to.as_second() - first).max(0) / 60).unwrap_or(0);
    let mut counts = vec![None; length];
    for row in rows {
        let at = usize::try_from((row.hour.to_jiff().as_second() - first) / 60).unwrap_or(0);
        for (place, count) in counts.iter_mut().skip(at).zip(row.counts) {
            *place = count.and_then(|n| u16::try_from(n).ok());
        }
    }
    Ok((start, counts))
}

/// When a meter was last heard; `None`: never.
pub async fn last_heard(
    db: impl PgExecutor<'_>,
    meter: MeterId,
) -> sqlx::Result<Option<Timestamp>> {
    let last = sqlx::query!(
        r#"SELECT hour, counts AS "counts: Vec<Option<i16>>" FROM flow_hour WHERE meter_id = $1 ORDER BY hour DESC LIMIT 1"#,
        meter.0
    )
    .fetch_optional(db)
    .await?;
    Ok(last.and_then(|row| {
        let minute = i64::try_from(row.counts.iter().rposition(Option::is_some)?).ok()?;
        Some(row.hour.to_jiff() + SignedDuration::from_mins(minute + 1))
    }))
}

/// From which hour to which a meter was heard; `None`: never.
pub async fn heard(
    db: impl PgExecutor<'_>,
    meter: MeterId,
) -> sqlx::Result<Option<(Timestamp, Timestamp)>> {
    let row = sqlx::query!(
        "SELECT min(hour) AS first, max(hour) AS last FROM flow_hour WHERE meter_id = $1",
        meter.0
    )
    .fetch_one(db)
    .await?;
    let ends = row.first.zip(row.last);
    Ok(ends.map(|(first, last)| {
        (
            first.to_jiff(),
            last.to_jiff() + SignedDuration::from_hours(1),
        )
    }))
}
