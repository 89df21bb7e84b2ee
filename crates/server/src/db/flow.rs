//! What flow meters count by the minute, an hour a row.

use std::collections::BTreeMap;

use jiff::{SignedDuration, Timestamp};
use jiff_sqlx::ToSqlx;
use serde::Serialize;
use sqlx::PgExecutor;
use sqlx::types::Json;

use super::meters::MeterId;

/// Seconds of an hour.
const HOUR_S: i64 = 3600;

/// A row of `flow_hour`.
#[derive(Serialize)]
struct Hour {
    hour: Timestamp,
    counts: Vec<Option<i16>>,
}

/// The start of the hour that an instant lies in.
fn hour_of(at: Timestamp) -> i64 {
    at.as_second().div_euclid(HOUR_S) * HOUR_S
}

/// Keeps what a meter counted from a full minute on, by the minute; a minute that was told before stays as it was told.
pub async fn keep(
    db: impl PgExecutor<'_>,
    meter: MeterId,
    from: Timestamp,
    counts: &[Option<u16>],
) -> sqlx::Result<()> {
    let mut hours: BTreeMap<i64, Vec<Option<i16>>> = BTreeMap::new();
    for (minute, count) in (0_i64..).zip(counts) {
        let at = from.as_second() + minute * 60;
        let hour = at.div_euclid(HOUR_S) * HOUR_S;
        let row = hours.entry(hour).or_insert_with(|| vec![None; 60]);
        let place = usize::try_from((at - hour) / 60).unwrap_or(0);
        row[place] = count.map(|n| i16::try_from(n).unwrap_or(i16::MAX));
    }
    let rows: Vec<Hour> = hours
        .into_iter()
        .filter_map(|(hour, counts)| {
            Some(Hour {
                hour: Timestamp::from_second(hour).ok()?,
                counts,
            })
        })
        .collect();
    sqlx::query!(
        "INSERT INTO flow_hour (meter_id, hour, counts)
         SELECT $1, hour, counts FROM jsonb_to_recordset($2) AS told (hour timestamptz, counts smallint[]) ORDER BY hour
         ON CONFLICT (meter_id, hour) DO UPDATE SET counts = minutes_merged(flow_hour.counts, excluded.counts)",
        meter.0,
        Json(rows) as _,
    )
    .execute(db)
    .await?;
    Ok(())
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
