//! What the demo's water costs, and its meter: read each Monday, its flow counted by the minute for the last weeks, with a leak since 3 June 2026 and a broken
//! head since the first that nobody has seen yet. All made up.

use jiff::civil::{Date, Weekday, date};
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use lawn::engine::history::ZoneHistory;
use lawn::record::readings::{Follows, Reading};
use lawn::record::told_minutes::{Batch, Hours};
use lawn::record::waterings::Ran;
use lawn::site::SiteDocument;
use lawn::site::cap::{Cap, Per, Says};
use lawn::site::meter::{Meter, MeterUnit};
use lawn::site::tariff::{SeasonRates, Tariff, Tier};
use sqlx::PgConnection;

use super::{Error, FIRST_DAY, TODAY, at, defect};
use crate::db::meters::{self, MeterId, NewReading};
use crate::db::{AccountId, SiteId, flow, runs};
use crate::planning;

/// When the leak began.
const LEAK: Date = date(2026, 6, 3);
/// What it loses, L/h.
const LEAK_L_H: f64 = 110.0;
/// Since when a head of a zone is broken, which, and how many times what it took it takes since.
const BROKEN: (Date, &str, f64) = (date(2026, 6, 1), "Library lawn", 1.4);
/// From when its flow is counted by the minute, and what a pulse stands for, L.
const COUNTED: (Date, f64) = (date(2026, 4, 20), 10.0);
/// Every so many hours one was not heard.
const UNHEARD_EVERY_H: usize = 97;
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

/// What the town allows the commons in summer.
pub(super) fn caps() -> Vec<Cap> {
    vec![Cap {
        name: "Summer allowance".to_owned(),
        from: date(2026, 6, 1),
        to: Some(date(2026, 9, 30)),
        says: Says::Volume {
            cap_m3: 700.0,
            per: Per::Month,
        },
    }]
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
        pulse_l: Some(COUNTED.1),
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
    let broken = document.zones.iter().find(|zone| zone.name == BROKEN.1);
    let broken = broken.ok_or_else(|| defect("no zone with a broken head"))?;
    let of_broken = Meter {
        feeds: vec![broken.id.clone()],
        ..meter.clone()
    };
    let broke = at(BROKEN.0, 0, zone)?;
    let ran = Ran::new(&document, &entries);
    let mut counted = BEGAN_WITH;
    let mut before: Option<Timestamp> = None;
    for (day, scatter) in mondays.zip(SCATTER.into_iter().cycle()) {
        let read_at = at(day, 8, zone)?;
        if let Some(before) = before {
            let run = ran.between(&meter, before, read_at).m3();
            let leaked_h = read_at.duration_since(leak.max(before)).as_secs_f64() / 3600.0;
            counted += run * (1.0 + scatter) + leaked_h.max(0.0) * LEAK_L_H / 1000.0;
            let from = before.max(broke);
            if from < read_at {
                let more = ran.between(&of_broken, from, read_at).m3();
                counted += more * (BROKEN.2 - 1.0);
            }
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
    count_flow(db, site, &document, id, zone, leak).await
}

/// What the meter counted each minute of the last weeks: by the passes that ran, with the leak and the broken head.
async fn count_flow(
    db: &mut PgConnection,
    site: SiteId,
    document: &SiteDocument,
    meter: MeterId,
    zone: &TimeZone,
    leak: Timestamp,
) -> Result<(), Error> {
    let from = at(COUNTED.0, 0, zone)?;
    let until: Timestamp = super::NOW.parse().map_err(defect)?;
    let minute = |at: Timestamp| {
        let minutes = at.duration_since(from).as_secs() / 60;
        usize::try_from(minutes.max(0)).unwrap_or(0)
    };
    let mut flow = vec![0.0; minute(until)];
    for litres in flow.iter_mut().skip(minute(leak)) {
        *litres += LEAK_L_H / 60.0;
    }
    let opened = runs::opened(&mut *db, site, COUNTED.0, TODAY).await?;
    let mut scatter = SCATTER.into_iter().cycle();
    for opened in &opened {
        let own = document.zones.iter().find(|z| z.id == opened.zone);
        let Some(own) = own else { continue };
        let history = ZoneHistory::of(document, own);
        // What a person opens by hand for some minutes is as they say.
        let off = (!own.by_hand()).then(|| scatter.next()).flatten();
        let mut takes = history.on(opened.date).model.flow_l_min * (1.0 + off.unwrap_or(0.0));
        if own.name == BROKEN.1 && opened.date >= BROKEN.0 {
            takes *= BROKEN.2;
        }
        let (opens, closes) = (minute(opened.from), minute(opened.to));
        for litres in flow.iter_mut().take(closes).skip(opens) {
            *litres += takes;
        }
    }
    let mut rest = 0.0;
    let mut counts: Vec<Option<u16>> = Vec::with_capacity(flow.len());
    for litres in flow {
        rest += litres;
        let pulses = (rest / COUNTED.1).floor();
        rest -= pulses * COUNTED.1;
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // a minute's pulses
        counts.push(Some(pulses as u16));
    }
    for hour in counts.chunks_mut(60).step_by(UNHEARD_EVERY_H) {
        hour.fill(None);
    }
    flow::keep(&mut *db, meter, &Hours::of(&Batch { from, counts })).await?;
    Ok(())
}
