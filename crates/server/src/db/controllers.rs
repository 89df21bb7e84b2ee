//! Sites' controllers: what each holds, what it has told, and what of the record follows from that.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use jiff_sqlx::ToSqlx;
use lawn::record::told_of_pass::LONGER_S;
use sqlx::{PgConnection, PgExecutor};

use super::{SiteId, ZoneId};
use crate::controller_service::{Fault, Kind, Line};

/// A site's controller.
#[derive(Debug, Clone)]
pub struct Link {
    /// It is asked about what begins from then on, by the site's clock.
    pub since: Timestamp,
    /// The publication that it said it holds.
    pub holds: Option<i64>,
    /// All that happened until then, by the site's clock, is told.
    pub heard_at: Option<Timestamp>,
    /// The last line of its log that is known.
    pub last_number: i64,
    /// Which log that is, where it says so.
    pub log_id: Option<String>,
    /// The last failure.
    pub last_error: Option<String>,
}

/// The controller of a site.
pub async fn get(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<Link>> {
    let row = sqlx::query!("SELECT * FROM controller_link WHERE site_id = $1", site.0)
        .fetch_optional(db)
        .await?;
    Ok(row.map(|r| Link {
        since: r.since.to_jiff(),
        holds: r.holds,
        heard_at: r.heard_at.map(jiff_sqlx::Timestamp::to_jiff),
        last_number: r.last_number,
        log_id: r.log_id,
        last_error: r.last_error,
    }))
}

/// Connects a site's controller; `false` where it is connected.
pub async fn connect(
    db: impl PgExecutor<'_>,
    site: SiteId,
    since: Timestamp,
) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "INSERT INTO controller_link (site_id, since, log_no)
         SELECT $1, $2, coalesce(max(log_no), 0) + 1 FROM controller_report WHERE site_id = $1 ON CONFLICT DO NOTHING",
        site.0,
        since.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// Begins another log of a site's controller, which counts from 1 again: its own name, where it says so.
pub async fn begin_log(
    db: impl PgExecutor<'_>,
    site: SiteId,
    log_id: Option<&str>,
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE controller_link SET log_no = log_no + 1, log_id = $2, last_number = 0 WHERE site_id = $1",
        site.0,
        log_id,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Notes which log its log is: the one that was heard so far.
pub async fn name_log(db: impl PgExecutor<'_>, site: SiteId, log_id: &str) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE controller_link SET log_id = $2 WHERE site_id = $1 AND log_id IS DISTINCT FROM $2",
        site.0,
        log_id,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Disconnects it; what it told stays.
pub async fn disconnect(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<()> {
    sqlx::query!("DELETE FROM controller_link WHERE site_id = $1", site.0)
        .execute(db)
        .await?;
    Ok(())
}

/// Claims a controller of a real-clock site that is due, for two minutes: a worker that dies leaves it to the next.
pub async fn claim(db: impl PgExecutor<'_>) -> sqlx::Result<Option<SiteId>> {
    let site = sqlx::query_scalar!(
        "UPDATE controller_link SET next_ask_at = now() + interval '2 minutes'
         WHERE site_id = (SELECT l.site_id FROM controller_link l JOIN site s ON s.id = l.site_id
                          WHERE l.next_ask_at <= now() AND (s.simulated_now IS NULL OR l.heard_at IS NULL OR l.failures > 0)
                          ORDER BY l.next_ask_at LIMIT 1 FOR UPDATE OF l SKIP LOCKED)
         RETURNING site_id"
    )
    .fetch_optional(db)
    .await?;
    Ok(site.map(SiteId))
}

/// Has a site's controller asked at once, if it has one.
pub async fn ask_at_once(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE controller_link SET next_ask_at = now() WHERE site_id = $1",
        site.0
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Notes what it holds, and up to when it has told all.
pub async fn heard(
    db: impl PgExecutor<'_>,
    site: SiteId,
    holds: Option<i64>,
    heard_at: Timestamp,
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE controller_link SET holds = $2, heard_at = greatest(heard_at, $3) WHERE site_id = $1",
        site.0,
        holds,
        heard_at.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Notes what it holds after all that was to be done with it; asked again in a minute.
pub async fn settled(
    db: impl PgExecutor<'_>,
    site: SiteId,
    holds: Option<i64>,
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE controller_link SET holds = $2, failures = 0, last_error = NULL, next_ask_at = now() + interval '1 minute' WHERE site_id = $1",
        site.0,
        holds,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Notes a failure; asked again after half a minute, one, two, up to a quarter of an hour.
pub async fn failed(db: impl PgExecutor<'_>, site: SiteId, error: &str) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE controller_link SET failures = failures + 1, last_error = $2,
                next_ask_at = now() + interval '30 seconds' * least(power(2, failures), 30) WHERE site_id = $1",
        site.0,
        error
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The passes of published weeks that were sent, by publication, zone and start: for how long, s.
pub async fn sent(
    db: impl PgExecutor<'_>,
    site: SiteId,
    publications: &[i64],
) -> sqlx::Result<BTreeMap<(i64, i64, Timestamp), i64>> {
    let rows = sqlx::query!(
        r#"SELECT p.id, r.zone_id, r.pass_s, to_json(r.starts) AS "starts!: sqlx::types::Json<Vec<Timestamp>>"
           FROM publication p JOIN planned_run r ON r.plan_id = p.plan_id WHERE p.site_id = $1 AND p.id = ANY($2)"#,
        site.0,
        publications,
    )
    .fetch_all(db)
    .await?;
    let passes = rows.into_iter().flat_map(|r| {
        let seconds = i64::from(r.pass_s);
        let starts = r.starts.0.into_iter();
        starts.map(move |at| ((r.id, r.zone_id, at), seconds))
    });
    Ok(passes.collect())
}

/// What a line tells, as columns.
#[derive(Default)]
struct Figures {
    kind: &'static str,
    seconds: Option<i32>,
    litres: Option<f64>,
    fault: Option<&'static str>,
}

impl Figures {
    fn of(kind: Kind) -> Self {
        let of = |kind| Self {
            kind,
            ..Self::default()
        };
        match kind {
            Kind::Started => of("started"),
            Kind::Missed => of("missed"),
            Kind::Pulses(volume) => Self {
                litres: Some(volume.l()),
                ..of("pulses")
            },
            Kind::Stopped(seconds) => Self {
                // It was held against the pass that was sent.
                seconds: i32::try_from(seconds).ok(),
                ..of("stopped")
            },
            Kind::Fault(fault) => Self {
                fault: Some(match fault {
                    Fault::NoFlow => "no_flow",
                    Fault::HighFlow => "high_flow",
                }),
                ..of("fault")
            },
        }
    }
}

/// Keeps what a controller told up to a line of its log, of passes that were sent.
pub async fn tell(
    db: &mut PgConnection,
    site: SiteId,
    told: &[Line],
    last_number: i64,
) -> sqlx::Result<()> {
    let column = |f: fn(&Line) -> String| told.iter().map(f).collect::<Vec<_>>();
    let numbers: Vec<i64> = told.iter().map(|t| t.number).collect();
    let zones: Vec<i64> = told.iter().map(|t| t.zone.0).collect();
    let publications: Vec<i64> = told.iter().map(|t| t.publication).collect();
    let figures: Vec<Figures> = told.iter().map(|t| Figures::of(t.kind)).collect();
    let kinds: Vec<&str> = figures.iter().map(|f| f.kind).collect();
    let seconds: Vec<Option<i32>> = figures.iter().map(|f| f.seconds).collect();
    let litres: Vec<Option<f64>> = figures.iter().map(|f| f.litres).collect();
    let faults: Vec<Option<&str>> = figures.iter().map(|f| f.fault).collect();
    sqlx::query!(
        "INSERT INTO controller_report (site_id, log_no, number, at, kind, zone_id, publication_id, starts, seconds, litres, fault)
         SELECT $1, l.log_no, n, t, k, z.id, p, s, d, l, f
         FROM unnest($2::int8[], $3::text[]::timestamptz[], $4::text[], $5::int8[], $6::int8[], $7::text[]::timestamptz[], $8::int4[], $9::float8[],
                     $10::text[]) AS r (n, t, k, zone, p, s, d, l, f)
         JOIN zone z ON z.id = r.zone AND z.site_id = $1 JOIN controller_link l ON l.site_id = $1 ON CONFLICT DO NOTHING",
        site.0,
        &numbers,
        &column(|t| t.at.to_string()),
        &kinds as _,
        &zones,
        &publications,
        &column(|t| t.starts.to_string()),
        &seconds as _,
        &litres as _,
        &faults as _,
    )
    .execute(&mut *db)
    .await?;
    sqlx::query!(
        "UPDATE controller_link SET last_number = greatest(last_number, $2) WHERE site_id = $1",
        site.0,
        last_number,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Days back of which the record follows what is told.
const LOOKS_BACK: i64 = 10;

/// A run of a published week, and what was told of it.
struct Known {
    zone: ZoneId,
    date: Date,
    plan: i64,
    starts: Vec<Timestamp>,
    passes: i32,
    pass_s: i32,
}

impl Known {
    fn end(&self) -> Timestamp {
        let last = self.starts.iter().max().copied().unwrap_or(Timestamp::MAX);
        last.saturating_add(i64::from(self.pass_s).seconds())
            .unwrap_or(last)
    }
}

/// A run that a controller put into the record.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Taken {
    /// The zone.
    pub zone: ZoneId,
    /// Its day.
    pub date: Date,
    /// Passes that ran.
    pub passes: i32,
    /// Passes that were published.
    pub planned_passes: i32,
}

/// Puts what a controller has told in the place of what was assumed, for runs of published weeks that were over when it was last heard; a pass that it did not
/// run is none, and what a person said stands. The runs that changed.
pub async fn take_in(db: &mut PgConnection, site: SiteId, today: Date) -> sqlx::Result<Vec<Taken>> {
    let link = get(&mut *db, site).await?;
    let Some((link, heard_at)) = link.and_then(|link| Some((link.clone(), link.heard_at?))) else {
        return Ok(Vec::new());
    };
    let from = today.saturating_sub(LOOKS_BACK.days());
    let runs = published(&mut *db, site, from, link.since).await?;
    let told = passes_told(&mut *db, site, link.since).await?;
    let mut taken = Vec::new();
    let over: Vec<&Known> = runs.iter().filter(|run| run.end() <= heard_at).collect();
    for together in over.chunk_by(|a, b| (a.zone, a.starts[0]) == (b.zone, b.starts[0])) {
        // The same run of several publications: what was told is of either.
        let mut starts: Vec<Timestamp> = together.iter().flat_map(|r| r.starts.clone()).collect();
        starts.sort_unstable();
        starts.dedup();
        let zone = together[0].zone;
        // Longer than any of them was sent: that line cannot be so.
        let sent_s = together.iter().map(|run| i64::from(run.pass_s)).max();
        let most = sent_s.unwrap_or_default() + LONGER_S;
        let ran = starts.iter().filter_map(|at| told.get(&(zone.0, *at)));
        let ran = ran.filter(|seconds| i64::from(**seconds) <= most);
        let (passes, run_s) = ran.fold((0, 0), |(n, s): (i32, i32), seconds| {
            (n + 1, s.saturating_add(*seconds))
        });
        for run in together {
            taken.extend(replace(&mut *db, run, passes, run_s).await?);
        }
    }
    Ok(taken)
}

/// The runs on the clock of what a site has published, by zone and first start.
async fn published(
    db: &mut PgConnection,
    site: SiteId,
    from: Date,
    since: Timestamp,
) -> sqlx::Result<Vec<Known>> {
    let rows = sqlx::query!(
        r#"SELECT r.zone_id, r.date, r.plan_id, r.passes, r.pass_s, to_json(r.starts) AS "starts!: sqlx::types::Json<Vec<Timestamp>>"
           FROM planned_run r WHERE r.plan_id IN (SELECT plan_id FROM publication WHERE site_id = $1 AND last_day >= $2)
           AND r.date >= $2 AND cardinality(r.starts) > 0 AND r.starts[1] >= $3
           ORDER BY r.zone_id, r.starts[1], r.plan_id"#,
        site.0,
        from.to_sqlx() as _,
        since.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| Known {
        zone: ZoneId(r.zone_id),
        date: r.date.to_jiff(),
        plan: r.plan_id,
        starts: r.starts.0,
        passes: r.passes,
        pass_s: r.pass_s,
    });
    Ok(rows.collect())
}

/// The passes that have run, by zone and start: for how long, s. Each opens its valve once; one during which nothing flowed has not run.
async fn passes_told(
    db: &mut PgConnection,
    site: SiteId,
    since: Timestamp,
) -> sqlx::Result<BTreeMap<(i64, Timestamp), i32>> {
    let rows = sqlx::query!(
        r#"SELECT zone_id, starts, max(seconds) AS "seconds!"
           FROM controller_report WHERE site_id = $1 AND starts >= $2
           GROUP BY zone_id, starts HAVING count(*) FILTER (WHERE kind = 'stopped') > 0 AND count(*) FILTER (WHERE fault = 'no_flow') = 0"#,
        site.0,
        since.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    let told = rows
        .into_iter()
        .map(|r| ((r.zone_id, r.starts.to_jiff()), r.seconds));
    Ok(told.filter(|(_, seconds)| *seconds > 0).collect())
}

/// Puts what was told of a run in its place in the record, unless it stands there or a person has spoken.
async fn replace(
    db: &mut PgConnection,
    run: &Known,
    passes: i32,
    run_s: i32,
) -> sqlx::Result<Option<Taken>> {
    let voided = sqlx::query_scalar!(
        "UPDATE run SET voided_at = now()
         WHERE zone_id = $1 AND started_at = $2 AND voided_at IS NULL
         AND ((source = 'assumed' AND plan_id = $3) OR (source = 'controller' AND (passes, run_s) <> ($4, $5))) RETURNING id",
        run.zone.0,
        run.starts[0].to_sqlx() as _,
        run.plan,
        passes,
        run_s,
    )
    .fetch_optional(&mut *db)
    .await?;
    if voided.is_none() && passes == 0 {
        return Ok(None);
    }
    let added = sqlx::query_scalar!(
        "INSERT INTO run (zone_id, date, started_at, passes, run_s, source, plan_id, replaces, planned_passes, planned_s, planned_end)
         SELECT $1, $2, $3, $4, $5, 'controller', $6, $7, coalesce(r.planned_passes, $8), coalesce(r.planned_s, $8 * $9::int4), coalesce(r.planned_end, $10)
         FROM (SELECT 1) one LEFT JOIN run r ON r.id = $7
         ON CONFLICT (zone_id, started_at) WHERE voided_at IS NULL DO NOTHING RETURNING planned_passes",
        run.zone.0,
        run.date.to_sqlx() as _,
        run.starts[0].to_sqlx() as _,
        passes,
        run_s,
        run.plan,
        voided,
        run.passes,
        run.pass_s,
        run.end().to_sqlx() as _,
    )
    .fetch_optional(db)
    .await?;
    Ok(added.flatten().map(|planned_passes| Taken {
        zone: run.zone,
        date: run.date,
        passes,
        planned_passes,
    }))
}

/// A fault that a controller told of.
#[derive(Debug, Clone)]
pub struct FaultRow {
    /// The zone's name.
    pub zone_name: String,
    /// When.
    pub at: Timestamp,
    /// `no_flow` or `high_flow`.
    pub fault: String,
}

/// The last fault of each zone of a site, after an instant.
pub async fn faults(
    db: impl PgExecutor<'_>,
    site: SiteId,
    after: Timestamp,
) -> sqlx::Result<Vec<FaultRow>> {
    let rows = sqlx::query!(
        r#"SELECT DISTINCT ON (z.position, r.zone_id) z.settings ->> 'name' AS "zone_name!", r.at, r.fault AS "fault!"
           FROM controller_report r JOIN zone z ON z.id = r.zone_id
           WHERE r.site_id = $1 AND r.kind = 'fault' AND r.at > $2 ORDER BY z.position, r.zone_id, r.at DESC"#,
        site.0,
        after.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| FaultRow {
        zone_name: r.zone_name,
        at: r.at.to_jiff(),
        fault: r.fault,
    });
    Ok(rows.collect())
}

/// A run of which a controller did not do all passes.
#[derive(Debug, Clone)]
pub struct MissedRow {
    /// The zone's name.
    pub zone_name: String,
    /// When it was to begin.
    pub started_at: Timestamp,
    /// Passes that ran.
    pub passes: i32,
    /// Passes that were published.
    pub planned_passes: i32,
}

/// The runs of a site of which passes are missing, that were to begin after an instant.
pub async fn missed(
    db: impl PgExecutor<'_>,
    site: SiteId,
    after: Timestamp,
) -> sqlx::Result<Vec<MissedRow>> {
    let rows = sqlx::query!(
        r#"SELECT z.settings ->> 'name' AS "zone_name!", r.started_at, r.passes, r.planned_passes AS "planned_passes!"
           FROM run r JOIN zone z ON z.id = r.zone_id
           WHERE z.site_id = $1 AND r.source = 'controller' AND r.voided_at IS NULL AND r.started_at > $2 AND r.passes < r.planned_passes
           ORDER BY r.started_at, z.position"#,
        site.0,
        after.to_sqlx() as _,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| MissedRow {
        zone_name: r.zone_name,
        started_at: r.started_at.to_jiff(),
        passes: r.passes,
        planned_passes: r.planned_passes,
    });
    Ok(rows.collect())
}
