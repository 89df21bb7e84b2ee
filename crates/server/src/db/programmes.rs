//! Programmes: what a plan runs and where it holds for rain, as rows.

use jiff::Timestamp;
use lawn::quantity::Depth;
use lawn::record::programme::{Expected, Hours, Programme, ProgrammeHold, ProgrammeRun, Use};
use sqlx::PgConnection;

/// The programme of a plan.
pub async fn of_plan(db: &mut PgConnection, plan: i64) -> sqlx::Result<Programme> {
    let windows = sqlx::query!(
        "SELECT opens_at, closes_at FROM planned_window WHERE plan_id = $1 ORDER BY opens_at",
        plan
    )
    .map(|r| Hours {
        opens: r.opens_at.to_jiff(),
        closes: r.closes_at.to_jiff(),
    })
    .fetch_all(&mut *db)
    .await?;
    // Starts as text of seconds: the instants of an array have no type of ours.
    let runs = sqlx::query!(
        r#"SELECT zone_id, date, opens_at, closes_at, passes, pass_s,
                  ARRAY(SELECT extract(epoch FROM s)::bigint FROM unnest(starts) s) AS "starts!"
           FROM planned_run WHERE plan_id = $1 ORDER BY zone_id, opens_at"#,
        plan
    )
    .map(|r| ProgrammeRun {
        zone: r.zone_id.to_string(),
        date: r.date.to_jiff(),
        window: Hours {
            opens: r.opens_at.to_jiff(),
            closes: r.closes_at.to_jiff(),
        },
        passes: u32::try_from(r.passes).unwrap_or(0),
        pass_s: i64::from(r.pass_s),
        starts: r
            .starts
            .into_iter()
            .filter_map(|s| Timestamp::from_second(s).ok())
            .collect(),
    })
    .fetch_all(&mut *db)
    .await?;
    let holds = sqlx::query!(
        "SELECT zone_id, date, closes_at, probability_pct, expected_mm, saves_mm, stress_mm FROM planned_hold WHERE plan_id = $1
         ORDER BY zone_id, closes_at",
        plan
    )
    .map(|r| ProgrammeHold {
        zone: r.zone_id.to_string(),
        date: r.date.to_jiff(),
        closes: r.closes_at.to_jiff(),
        probability_pct: r.probability_pct,
        expected: Depth::from_mm(r.expected_mm),
        saves: Depth::from_mm(r.saves_mm),
        stress: Depth::from_mm(r.stress_mm),
    })
    .fetch_all(&mut *db)
    .await?;
    let uses = sqlx::query!(
        "SELECT zone_id, date, eta_mm FROM planned_use WHERE plan_id = $1 ORDER BY zone_id, date",
        plan
    )
    .map(|r| Use {
        zone: r.zone_id.to_string(),
        date: r.date.to_jiff(),
        eta: Depth::from_mm(r.eta_mm),
    })
    .fetch_all(&mut *db)
    .await?;
    let days = sqlx::query!(
        "SELECT date, et0_mm, rain_mm FROM planned_day WHERE plan_id = $1 ORDER BY date",
        plan
    )
    .map(|r| Expected {
        date: r.date.to_jiff(),
        et0: Depth::from_mm(r.et0_mm),
        rain: Depth::from_mm(r.rain_mm),
    })
    .fetch_all(&mut *db)
    .await?;
    Ok(Programme {
        windows,
        runs,
        holds,
        uses,
        days,
    })
}

/// Adds the programme of a plan.
pub async fn insert(db: &mut PgConnection, plan: i64, programme: &Programme) -> sqlx::Result<()> {
    let text = |instant: &Timestamp| instant.to_string();
    let number = |n: u32| i32::try_from(n).unwrap_or(i32::MAX);
    let opens: Vec<String> = programme.windows.iter().map(|w| text(&w.opens)).collect();
    let closes: Vec<String> = programme.windows.iter().map(|w| text(&w.closes)).collect();
    sqlx::query!(
        "INSERT INTO planned_window (plan_id, opens_at, closes_at)
         SELECT $1, o, c FROM unnest($2::text[]::timestamptz[], $3::text[]::timestamptz[]) AS w (o, c)",
        plan,
        &opens,
        &closes,
    )
    .execute(&mut *db)
    .await?;
    let runs: Vec<(i64, &ProgrammeRun)> = programme
        .runs
        .iter()
        .filter_map(|run| Some((run.zone.parse().ok()?, run)))
        .collect();
    let zones: Vec<i64> = runs.iter().map(|(zone, _)| *zone).collect();
    let dates: Vec<String> = runs.iter().map(|(_, r)| r.date.to_string()).collect();
    let opens: Vec<String> = runs.iter().map(|(_, r)| text(&r.window.opens)).collect();
    let closes: Vec<String> = runs.iter().map(|(_, r)| text(&r.window.closes)).collect();
    let passes: Vec<i32> = runs.iter().map(|(_, r)| number(r.passes)).collect();
    let lengths: Vec<i32> = runs
        .iter()
        .map(|(_, r)| i32::try_from(r.pass_s).unwrap_or(i32::MAX))
        .collect();
    // An array of arrays must be a rectangle: each run's starts go as one text.
    let starts: Vec<String> = runs
        .iter()
        .map(|(_, r)| {
            let each: Vec<String> = r.starts.iter().map(|s| format!("\"{s}\"")).collect();
            format!("{{{}}}", each.join(","))
        })
        .collect();
    sqlx::query!(
        "INSERT INTO planned_run (plan_id, zone_id, date, opens_at, closes_at, passes, pass_s, starts)
         SELECT $1, z, d, o, c, p, l, s::timestamptz[]
         FROM unnest($2::int8[], $3::text[]::date[], $4::text[]::timestamptz[], $5::text[]::timestamptz[], $6::int4[], $7::int4[], $8::text[])
              AS r (z, d, o, c, p, l, s)",
        plan,
        &zones,
        &dates,
        &opens,
        &closes,
        &passes,
        &lengths,
        &starts,
    )
    .execute(&mut *db)
    .await?;
    let holds: Vec<(i64, &ProgrammeHold)> = programme
        .holds
        .iter()
        .filter_map(|hold| Some((hold.zone.parse().ok()?, hold)))
        .collect();
    let zones: Vec<i64> = holds.iter().map(|(zone, _)| *zone).collect();
    let dates: Vec<String> = holds.iter().map(|(_, h)| h.date.to_string()).collect();
    let closes: Vec<String> = holds.iter().map(|(_, h)| text(&h.closes)).collect();
    let probable: Vec<f64> = holds.iter().map(|(_, h)| h.probability_pct).collect();
    let expected: Vec<f64> = holds.iter().map(|(_, h)| h.expected.mm()).collect();
    let saves: Vec<f64> = holds.iter().map(|(_, h)| h.saves.mm()).collect();
    let stress: Vec<f64> = holds.iter().map(|(_, h)| h.stress.mm()).collect();
    sqlx::query!(
        "INSERT INTO planned_hold (plan_id, zone_id, date, closes_at, probability_pct, expected_mm, saves_mm, stress_mm)
         SELECT $1, * FROM unnest($2::int8[], $3::text[]::date[], $4::text[]::timestamptz[], $5::float8[], $6::float8[], $7::float8[], $8::float8[])",
        plan,
        &zones,
        &dates,
        &closes,
        &probable,
        &expected,
        &saves,
        &stress,
    )
    .execute(&mut *db)
    .await?;
    let uses: Vec<(i64, &Use)> = programme
        .uses
        .iter()
        .filter_map(|of| Some((of.zone.parse().ok()?, of)))
        .collect();
    let zones: Vec<i64> = uses.iter().map(|(zone, _)| *zone).collect();
    let dates: Vec<String> = uses.iter().map(|(_, u)| u.date.to_string()).collect();
    let eta: Vec<f64> = uses.iter().map(|(_, u)| u.eta.mm()).collect();
    sqlx::query!(
        "INSERT INTO planned_use (plan_id, zone_id, date, eta_mm)
         SELECT $1, * FROM unnest($2::int8[], $3::text[]::date[], $4::float8[])",
        plan,
        &zones,
        &dates,
        &eta,
    )
    .execute(&mut *db)
    .await?;
    let days: Vec<String> = programme.days.iter().map(|d| d.date.to_string()).collect();
    let et0: Vec<f64> = programme.days.iter().map(|d| d.et0.mm()).collect();
    let rain: Vec<f64> = programme.days.iter().map(|d| d.rain.mm()).collect();
    sqlx::query!(
        "INSERT INTO planned_day (plan_id, date, et0_mm, rain_mm)
         SELECT $1, * FROM unnest($2::text[]::date[], $3::float8[], $4::float8[])",
        plan,
        &days,
        &et0,
        &rain,
    )
    .execute(&mut *db)
    .await?;
    Ok(())
}
