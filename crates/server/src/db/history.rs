//! Who did what on a site. Append-only.

use std::collections::BTreeMap;

use jiff::Timestamp;
use jiff::civil::Date;
use lawn::measure::head_fault::Fault;
use lawn::measure::hot_spot::HotSpot;
use lawn::measure::seen::Seen;
use lawn::record::constraint::Asks;
use lawn::site::Regime;
use lawn::stress::repair::State;
use lawn::view::changes::{Cause, Deed};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use sqlx::PgExecutor;
use utoipa::ToSchema;

use super::{AccountId, SiteId, grouped, undecodable};

/// What somebody did; the front end words it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "event", rename_all = "snake_case")]
#[allow(missing_docs)] // the names say it
pub enum Event {
    SiteChanged,
    RulesChanged,
    TariffsChanged,
    CapsChanged,
    MeterAdded {
        name: String,
    },
    MeterChanged {
        name: String,
    },
    MeterEnded {
        name: String,
        last_day: Date,
    },
    MeterRead {
        meter: String,
        /// In the meter's own count.
        register: f64,
        at: Timestamp,
    },
    MeterReadingsImported {
        readings: u32,
    },
    RegimeTurned {
        zone: String,
        regime: Regime,
        from: Date,
        proposed: bool,
    },
    RunsImported {
        runs: u32,
        answered: u32,
    },
    MinutesImported {
        meter: String,
        minutes: u32,
    },
    MeterReadingVoided {
        meter: String,
        register: f64,
        at: Timestamp,
    },
    ZoneAdded {
        name: String,
    },
    ZoneChanged {
        name: String,
    },
    ZoneEnded {
        name: String,
        last_day: Date,
    },
    WeatherImported {
        days: u32,
        forecast_days: u32,
    },
    WeatherTyped {
        from: Date,
        to: Date,
        days: u32,
    },
    WeatherForgotten {
        date: Date,
    },
    DeviceAdded {
        name: String,
    },
    DeviceRevoked {
        name: String,
    },
    GaugeRead {
        date: Date,
        rain_mm: f64,
    },
    RainChosen {
        date: Date,
        counts: String,
    },
    FeedConnected {
        climate: String,
    },
    FeedDisconnected,
    ClockStepped {
        to: Timestamp,
    },
    RunSaid {
        zone: String,
        date: Date,
        answer: String,
    },
    RunTakenBack {
        zone: String,
        date: Date,
        answer: String,
    },
    RunAdded {
        zone: String,
        date: Date,
        seconds: i64,
        source: String,
    },
    CansTested {
        zone: String,
        cans: u32,
    },
    QuicklyTested {
        zone: String,
    },
    SoilTested {
        zone: String,
        test: String,
    },
    SoilTestStanding {
        test: String,
        standing: String,
    },
    Seen {
        zone: String,
        seen: Seen,
        /// What else was seen at the same look.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        with: Vec<Seen>,
        /// The kind of place that was looked at alone.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        spot: Option<HotSpot>,
        date: Date,
    },
    SeenUndone {
        zone: String,
    },
    PatchNoted {
        zone: String,
        patch: String,
        state: State,
    },
    PatchLookedAt {
        zone: String,
        patch: String,
        state: State,
    },
    PatchRepaired {
        zone: String,
        patch: String,
        /// Or open again.
        repaired: bool,
    },
    PatchUndone {
        zone: String,
        patch: String,
    },
    StandCounted {
        zone: String,
        frames: usize,
    },
    CountUndone {
        zone: String,
    },
    SowingKept {
        zone: String,
        sow: Date,
    },
    SowingForgotten {
        zone: String,
    },
    HeadFaultNoted {
        zone: String,
        head: u16,
        fault: Fault,
    },
    DryDaySet {
        zone: String,
        date: Date,
    },
    DryDayLifted {
        zone: String,
        date: Date,
    },
    DayEdited {
        zone: String,
        date: Date,
        act: String,
    },
    EditUndone {
        zone: String,
        date: Date,
    },
    EditRedone {
        zone: String,
        date: Date,
    },
    /// A week was put in force, up to its last day.
    Published {
        last_day: Date,
    },
    /// The same, by the site's own rule: nobody did it.
    PublishedByRule {
        last_day: Date,
    },
    PublicationWithdrawn,
    ControllerConnected,
    ControllerReplaced,
    /// Tokens that end with the role of who made them.
    DevicesEnded {
        /// Who made them.
        maker: String,
        devices: Vec<String>,
    },
    /// Tokens that an owner answers for from now on.
    DevicesTakenOver {
        maker: String,
        devices: Vec<String>,
    },
    /// The controller did not run all that was published: nobody did it.
    PassesMissed {
        zone: String,
        date: Date,
        passes: i32,
        planned: i32,
    },
    ControllerDisconnected,
    PublishesEachMorning {
        each_morning: bool,
    },
    HoursAsked {
        zone: String,
        asks: Asks,
        from: Timestamp,
        until: Timestamp,
    },
    HoursLifted {
        zone: String,
        asks: Asks,
    },
    WetChecked {
        zones: u32,
    },
    HeadNotMended {
        zone: String,
        head: u16,
        fault: Fault,
    },
    HeadMended {
        zone: String,
        head: u16,
        fault: Fault,
    },
    CanTestStanding {
        test: i64,
        standing: String,
    },
    Invited {
        name: String,
        role: String,
    },
    InvitationRevoked {
        name: String,
    },
    Joined {
        role: String,
    },
    RoleChanged {
        name: String,
        role: String,
    },
    Removed {
        name: String,
    },
    Left {
        name: String,
    },
}

/// An entry of the history.
#[derive(Debug, Clone)]
pub struct Entry {
    /// Its identifier.
    pub id: i64,
    /// When, by the real clock.
    pub at: Timestamp,
    /// When, by the site's clock.
    pub site_now: Timestamp,
    /// Who; `None`: the account is gone.
    pub who: Option<String>,
    /// What.
    pub event: Event,
}

/// Notes what an account did, at the site's instant.
pub async fn note(
    db: impl PgExecutor<'_>,
    site: SiteId,
    account: AccountId,
    event: &Event,
) -> sqlx::Result<()> {
    note_of(db, site, Some(account), event).await
}

/// Notes what a rule of the site did, or what befell it, at its instant.
pub async fn note_by_rule(
    db: impl PgExecutor<'_>,
    site: SiteId,
    event: &Event,
) -> sqlx::Result<()> {
    note_of(db, site, None, event).await
}

async fn note_of(
    db: impl PgExecutor<'_>,
    site: SiteId,
    account: Option<AccountId>,
    event: &Event,
) -> sqlx::Result<()> {
    let event = serde_json::to_value(event).map_err(undecodable)?;
    sqlx::query!(
        "INSERT INTO history (site_id, account_id, site_now, event)
         SELECT id, $2, coalesce(simulated_now, now()), $3 FROM site WHERE id = $1",
        site.0,
        account.map(|a| a.0),
        event
    )
    .execute(db)
    .await?;
    Ok(())
}

/// What was done on a site.
struct Done {
    site: i64,
    event: Value,
}

fn by_site(rows: Vec<Done>) -> sqlx::Result<BTreeMap<SiteId, Vec<Event>>> {
    let events = rows.into_iter().map(|r| {
        let event = serde_json::from_value(r.event).map_err(undecodable)?;
        Ok((SiteId(r.site), event))
    });
    Ok(grouped(events.collect::<sqlx::Result<Vec<_>>>()?))
}

/// What was done on sites after an instant of each one's clock, oldest first; at most 500 of a site.
pub async fn since(
    db: impl PgExecutor<'_>,
    since: &[(SiteId, Timestamp)],
) -> sqlx::Result<BTreeMap<SiteId, Vec<Event>>> {
    let (sites, instants): (Vec<i64>, Vec<String>) =
        since.iter().map(|(id, at)| (id.0, at.to_string())).unzip();
    let rows = sqlx::query_as!(
        Done,
        r#"SELECT s.site AS "site!", h.event FROM unnest($1::int8[], $2::text[]::timestamptz[]) AS s (site, at),
           LATERAL (SELECT id, event FROM history WHERE site_id = s.site AND site_now > s.at ORDER BY id LIMIT 500) h ORDER BY h.id"#,
        &sites,
        &instants,
    )
    .fetch_all(db)
    .await?;
    by_site(rows)
}

/// What was done on sites after an entry of each one's history, oldest first; at most 500 of a site.
pub async fn after(
    db: impl PgExecutor<'_>,
    after: &[(SiteId, i64)],
) -> sqlx::Result<BTreeMap<SiteId, Vec<Event>>> {
    let (sites, entries): (Vec<i64>, Vec<i64>) =
        after.iter().map(|(site, entry)| (site.0, *entry)).unzip();
    let rows = sqlx::query_as!(
        Done,
        r#"SELECT s.site AS "site!", h.event FROM unnest($1::int8[], $2::int8[]) AS s (site, entry),
           LATERAL (SELECT id, event FROM history WHERE site_id = s.site AND id > s.entry ORDER BY id LIMIT 500) h ORDER BY h.id"#,
        &sites,
        &entries,
    )
    .fetch_all(db)
    .await?;
    by_site(rows)
}

impl Event {
    /// What of it may bring a change of the plan about.
    #[must_use]
    pub fn deed(self) -> Option<Deed> {
        let (zone, cause) = match self {
            Self::SiteChanged => (None, Cause::SiteChanged),
            Self::RulesChanged => (None, Cause::RulesChanged),
            Self::ZoneAdded { name } | Self::ZoneChanged { name } => {
                (Some(name), Cause::ZoneChanged)
            }
            Self::WeatherImported { .. } | Self::RainChosen { .. } => (None, Cause::WeatherChanged),
            Self::GaugeRead { date, rain_mm } => (None, Cause::GaugeRead { date, rain_mm }),
            Self::RunSaid { zone, date, answer } => (Some(zone), Cause::RunSaid { date, answer }),
            Self::RunTakenBack { zone, date, .. } => {
                let answer = "taken_back".to_owned();
                (Some(zone), Cause::RunSaid { date, answer })
            }
            Self::RunAdded { zone, date, .. } => (Some(zone), Cause::WateredByHand { date }),
            Self::CansTested { zone, .. } | Self::QuicklyTested { zone } => {
                (Some(zone), Cause::Tested)
            }
            Self::SoilTested { zone, .. } => (Some(zone), Cause::SoilTested),
            Self::Seen { zone, .. } | Self::SeenUndone { zone } => (Some(zone), Cause::Seen),
            Self::DryDaySet { zone, date } | Self::DryDayLifted { zone, date } => {
                (Some(zone), Cause::DryDay { date })
            }
            Self::DayEdited { zone, date, .. }
            | Self::EditUndone { zone, date }
            | Self::EditRedone { zone, date } => (Some(zone), Cause::DayEdited { date }),
            Self::PassesMissed { zone, date, .. } => (Some(zone), Cause::PassesMissed { date }),
            Self::RunsImported { .. } => (None, Cause::RunsImported),
            Self::RegimeTurned { zone, regime, .. } => (Some(zone), Cause::RegimeTurned { regime }),
            Self::HoursAsked { zone, .. } | Self::HoursLifted { zone, .. } => {
                (Some(zone), Cause::HoursAsked)
            }
            _ => return None,
        };
        // A word that the plan had assumed already changes nothing.
        let idle = matches!(&cause, Cause::RunSaid { answer, .. } if answer == "confirmed");
        (!idle).then_some(Deed { zone, cause })
    }
}

/// Entries before an identifier, newest first.
pub async fn page(
    db: impl PgExecutor<'_>,
    site: SiteId,
    before: i64,
    most: i64,
) -> sqlx::Result<Vec<Entry>> {
    let rows = sqlx::query!(
        r#"SELECT h.id, h.at, h.site_now, a.name AS "who?", h.event
           FROM history h LEFT JOIN account a ON a.id = h.account_id
           WHERE h.site_id = $1 AND h.id < $2 ORDER BY h.id DESC LIMIT $3"#,
        site.0,
        before,
        most
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(Entry {
                id: r.id,
                at: r.at.to_jiff(),
                site_now: r.site_now.to_jiff(),
                who: r.who,
                event: serde_json::from_value(r.event).map_err(undecodable)?,
            })
        })
        .collect()
}
