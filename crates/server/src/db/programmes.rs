//! Programmes: what a plan runs, where it holds for rain and what it expects. Written with the plan, see [`super::plans::insert`].

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use lawn::quantity::Depth;
use lawn::record::programme::{Expected, Hours, Programme, ProgrammeHold, ProgrammeRun, Use};
use serde::{Deserialize, Serialize};
use sqlx::PgExecutor;
use sqlx::types::Json;

use super::{SiteId, undecodable};

/// A row of `planned_run`.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct RunRow {
    #[serde(default)]
    site_id: i64,
    zone_id: i64,
    date: Date,
    opens_at: Timestamp,
    closes_at: Timestamp,
    passes: u32,
    pass_s: i64,
    starts: Vec<Timestamp>,
}

/// A row of `planned_hold`.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct HoldRow {
    #[serde(default)]
    site_id: i64,
    zone_id: i64,
    date: Date,
    closes_at: Timestamp,
    probability_pct: f64,
    expected_mm: Depth,
    saves_mm: Depth,
    stress_mm: Depth,
}

/// A row of `planned_use`: a zone's, in the order of the plan's days.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct UseRow {
    #[serde(default)]
    site_id: i64,
    zone_id: i64,
    eta_mm: Vec<Depth>,
}

/// What of a programme stands in a plan's own row.
#[derive(Debug, Serialize)]
pub(super) struct DaysRow {
    site_id: i64,
    opens_at: Vec<Timestamp>,
    closes_at: Vec<Timestamp>,
    et0_mm: Vec<Depth>,
    rain_mm: Vec<Depth>,
}

/// Programmes as they are stored.
#[derive(Default)]
pub(super) struct Rows {
    pub(super) days: Vec<DaysRow>,
    pub(super) runs: Vec<RunRow>,
    pub(super) holds: Vec<HoldRow>,
    pub(super) uses: Vec<UseRow>,
}

/// A zone's number; the identifiers of a stored site's zones are numbers.
fn zone(id: &str) -> sqlx::Result<i64> {
    id.parse().map_err(undecodable)
}

impl Rows {
    /// Of sites' programmes.
    pub(super) fn of<'a>(
        programmes: impl IntoIterator<Item = (SiteId, &'a Programme)>,
    ) -> sqlx::Result<Self> {
        let mut rows = Self::default();
        for (site, programme) in programmes {
            rows.add(site.0, programme)?;
        }
        Ok(rows)
    }

    fn add(&mut self, site_id: i64, programme: &Programme) -> sqlx::Result<()> {
        let (windows, days) = (&programme.windows, &programme.days);
        self.days.push(DaysRow {
            site_id,
            opens_at: windows.iter().map(|w| w.opens).collect(),
            closes_at: windows.iter().map(|w| w.closes).collect(),
            et0_mm: days.iter().map(|d| d.et0).collect(),
            rain_mm: days.iter().map(|d| d.rain).collect(),
        });
        for r in &programme.runs {
            self.runs.push(RunRow {
                site_id,
                zone_id: zone(&r.zone)?,
                date: r.date,
                opens_at: r.window.opens,
                closes_at: r.window.closes,
                passes: r.passes,
                pass_s: r.pass_s,
                starts: r.starts.clone(),
            });
        }
        for h in &programme.holds {
            self.holds.push(HoldRow {
                site_id,
                zone_id: zone(&h.zone)?,
                date: h.date,
                closes_at: h.closes,
                probability_pct: h.probability_pct,
                expected_mm: h.expected,
                saves_mm: h.saves,
                stress_mm: h.stress,
            });
        }
        for of in programme.uses.chunk_by(|a, b| a.zone == b.zone) {
            self.uses.push(UseRow {
                site_id,
                zone_id: zone(&of[0].zone)?,
                eta_mm: of.iter().map(|u| u.eta).collect(),
            });
        }
        Ok(())
    }
}

/// A row of the view `programme`.
struct Stored {
    id: i64,
    today: jiff_sqlx::Date,
    opens: Json<Vec<Timestamp>>,
    closes: Json<Vec<Timestamp>>,
    et0_mm: Vec<f64>,
    rain_mm: Vec<f64>,
    runs: Json<Vec<RunRow>>,
    holds: Json<Vec<HoldRow>>,
    uses: Json<Vec<UseRow>>,
}

impl From<Stored> for Programme {
    fn from(stored: Stored) -> Self {
        let today = stored.today.to_jiff();
        let days = (0_i64..).zip(stored.et0_mm.iter().zip(&stored.rain_mm));
        let days: Vec<Expected> = days
            .map(|(day, (et0, rain))| Expected {
                date: today.saturating_add(day.days()),
                et0: Depth::from_mm(*et0),
                rain: Depth::from_mm(*rain),
            })
            .collect();
        let windows = stored.opens.0.iter().zip(&stored.closes.0);
        let windows = windows.map(|(opens, closes)| Hours {
            opens: *opens,
            closes: *closes,
        });
        let runs = stored.runs.0.into_iter().map(|r| ProgrammeRun {
            zone: r.zone_id.to_string(),
            date: r.date,
            window: Hours {
                opens: r.opens_at,
                closes: r.closes_at,
            },
            passes: r.passes,
            pass_s: r.pass_s,
            starts: r.starts,
        });
        let holds = stored.holds.0.into_iter().map(|r| ProgrammeHold {
            zone: r.zone_id.to_string(),
            date: r.date,
            closes: r.closes_at,
            probability_pct: r.probability_pct,
            expected: r.expected_mm,
            saves: r.saves_mm,
            stress: r.stress_mm,
        });
        let uses = stored.uses.0.iter().flat_map(|r| {
            days.iter().zip(&r.eta_mm).map(|(day, eta)| Use {
                zone: r.zone_id.to_string(),
                date: day.date,
                eta: *eta,
            })
        });
        Self {
            windows: windows.collect(),
            runs: runs.collect(),
            holds: holds.collect(),
            uses: uses.collect(),
            days,
        }
    }
}

/// The programmes of plans, by the plan's number.
pub async fn of_plans(
    db: impl PgExecutor<'_>,
    plans: &[i64],
) -> sqlx::Result<BTreeMap<i64, Programme>> {
    let stored = sqlx::query_as!(
        Stored,
        r#"SELECT id AS "id!", today AS "today!", opens AS "opens!: Json<Vec<Timestamp>>", closes AS "closes!: Json<Vec<Timestamp>>",
                  et0_mm AS "et0_mm!", rain_mm AS "rain_mm!", runs AS "runs!: Json<Vec<RunRow>>", holds AS "holds!: Json<Vec<HoldRow>>",
                  uses AS "uses!: Json<Vec<UseRow>>"
           FROM programme WHERE id = ANY($1)"#,
        plans
    )
    .fetch_all(db)
    .await?;
    Ok(stored.into_iter().map(|s| (s.id, s.into())).collect())
}
