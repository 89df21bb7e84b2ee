//! What the demo's water costs, and its meter: read each Monday, with a leak since 3 June 2026 that nobody has seen yet. All made up.

use jiff::civil::{Date, Weekday, date};
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use lawn::record::book::run_since;
use lawn::record::readings::{Follows, Reading};
use lawn::site::meter::{Meter, MeterUnit};
use lawn::site::tariff::{SeasonRates, Tariff, Tier};
use sqlx::PgConnection;

use super::{Error, FIRST_DAY, TODAY, at, defect};
use crate::db::meters::{self, NewReading};
use crate::db::{AccountId, SiteId, runs};
use crate::planning;

/// When the leak began.
const LEAK: Date = date(2026, 6, 3);
/// What it loses, L/h.
const LEAK_L_H: f64 = 110.0;
/// How far what flowed is from what the zones' rates say, week after week, share.
const SCATTER: [f64; 7] = [0.004, -0.006, 0.009, -0.003, 0.0, 0.007, -0.008];
/// The counter on its first day.
const BEGAN_WITH: f64 = 96_412.3;

fn tier(up_to_m3: Option<f64>, price_per_m3: f64) -> Tier {
    Tier {
        up_to_m3,
        price_per_m3,
    }
}

/// A town's tariff in tiers, dearer in summer, and dearer still since 2026.
pub(super) fn tariffs() -> Vec<Tariff> {
    let of = |from, first, then, summer| Tariff {
        fixed_per_month: 24.0,
        tiers: vec![tier(Some(200.0), first), tier(None, then)],
        seasons: vec![SeasonRates {
            first_month: 6,
            last_month: 9,
            tiers: vec![tier(Some(200.0), first), tier(None, summer)],
        }],
        ..Tariff::flat(from, first)
    };
    vec![
        of(date(2025, 1, 1), 1.6, 2.0, 2.3),
        of(date(2026, 1, 1), 1.75, 2.2, 2.6),
    ]
}

/// Adds the commons' meter with a reading of each Monday morning, by what ran until then.
pub(super) async fn add(
    db: &mut PgConnection,
    site: SiteId,
    zone: &TimeZone,
    crew: AccountId,
) -> Result<(), Error> {
    let meter = Meter {
        id: String::new(),
        name: "Commons".to_owned(),
        unit: MeterUnit::M3,
        digits: 6,
        decimals: 1,
        multiplier: 1.0,
        feeds: Vec::new(),
        house: false,
        active_from: Some(FIRST_DAY),
        active_to: None,
    };
    let id = meters::insert(&mut *db, site, &meter).await?;
    let (document, _) = planning::as_measured(db, site).await?;
    let entries = runs::entries(&mut *db, site, FIRST_DAY, TODAY).await?;
    let leak: Timestamp = at(LEAK, 21, zone)?;
    let mondays = FIRST_DAY
        .series(1.day())
        .take_while(|day| *day < TODAY)
        .filter(|day| day.weekday() == Weekday::Monday);
    let mut counted = BEGAN_WITH;
    let mut before: Option<Timestamp> = None;
    for (day, scatter) in mondays.zip(SCATTER.into_iter().cycle()) {
        let read_at = at(day, 8, zone)?;
        if let Some(before) = before {
            let run = run_since(&document, &meter, &entries, before, read_at).m3();
            let leaked_h = read_at.duration_since(leak.max(before)).as_secs_f64() / 3600.0;
            counted += run * (1.0 + scatter) + leaked_h.max(0.0) * LEAK_L_H / 1000.0;
        }
        let register = (counted * 10.0).floor() / 10.0;
        let reading = Reading {
            at: read_at,
            register,
            follows: Follows::On,
        };
        let new = NewReading {
            meter: id,
            reading,
            account: Some(crew),
            replaces: None,
            idempotency_key: &format!("demo-{day}"),
        };
        let added = meters::add(&mut *db, &new).await?;
        added.ok_or_else(|| defect("a Monday was read twice"))?;
        before = Some(read_at);
    }
    Ok(())
}
