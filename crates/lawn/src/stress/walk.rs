//! Walking the lawn: which zone is looked at first, when it is due, and what was seen means at once.
//!
//! Signs in their order: dull colour, footprints that stay, brown tips, patches, soil too hard for a screwdriver; brown turf is asleep while its crowns live and it holds
//! when pulled at (common practice, no source).

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::zone_model::ZoneModel;
use crate::measure::hot_spot::HotSpot;
use crate::measure::seen::{Seen, StoppedBy, Wilt};
use crate::quantity::Depth;
use crate::record::known::Run;
use crate::site::soil_counting::ZoneSeen;
use crate::site::{Exposure, Regime, Zone};
use crate::stress::dormancy::{Asleep, Day};
use crate::stress::heat::HeatDay;

/// Days from one look at a zone to the next: in heat, near its limit, and while it sleeps and little heat is left that it survives (common practice, no source).
const EVERY_DAYS: (i32, i32, i32) = (2, 3, 7);
/// Days of heat left below which sleeping turf is looked at.
const FEW_DAYS: f64 = 7.0;
/// What of the water that may be used is gone when a zone nears its limit.
const NEAR: f64 = 0.9;
/// Days ahead whose heat makes a walk due: today and the two after it.
const HEAT_AHEAD: usize = 3;
/// Slope, %, that counts as steep, and stored water that is little.
const STEEP_PCT: f64 = 8.0;
const LITTLE: Depth = Depth::from_mm(25.0);

/// What a look at a zone means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "means", rename_all = "snake_case")]
pub enum Means {
    /// It has water.
    Fine,
    /// It is thirsty.
    Thirsty {
        /// Whether it has been for some time.
        far: bool,
    },
    /// One place of it is thirsty: a hose, not the sprinklers.
    ThirstySpot {
        /// Why it dries out first.
        spot: HotSpot,
    },
    /// It looks thirsty, but its soil is moist or water stands: wet feet, disease or grubs look the same. Water makes it worse.
    NotThirst,
    /// It sleeps: its crowns live.
    Asleep,
    /// It is brown or wilted while it is let go: its crowns tell whether it sleeps or is dead.
    LookAtCrowns,
    /// Its crowns are dead: it does not come back.
    Dead,
    /// It comes away from the soil: look for grubs below, or roots are shallow.
    Lifts,
    /// Water stands.
    Wet,
    /// Its soil is hard though moist.
    Hard,
}

/// What was seen at one look at a zone in a regime means; `spot`: the look was at such a place alone.
#[must_use]
pub fn means(regime: Regime, spot: Option<HotSpot>, seen: &[Seen]) -> Vec<Means> {
    let has = |is: &dyn Fn(&Seen) -> bool| seen.iter().any(is);
    let crowns = seen.iter().find_map(|seen| match seen {
        Seen::Crowns { alive } => Some(*alive),
        _ => None,
    });
    let is_let_go = regime == Regime::Dormant;
    let is_brown = has(&|s| matches!(s, Seen::Tips | Seen::Patches));
    let lifts = has(&|s| matches!(s, Seen::Tug { holds: false }));
    let mut means = Vec::new();
    match crowns {
        Some(false) => means.push(Means::Dead),
        Some(true) if (is_brown || is_let_go) && !lifts => means.push(Means::Asleep),
        _ => {}
    }
    if lifts && crowns != Some(false) {
        means.push(Means::Lifts);
    }
    let stopped_by =
        |by| has(&|s| matches!(s, Seen::Screwdriver { stopped, .. } if *stopped == by));
    let wilt = seen.iter().filter_map(Seen::wilt).max();
    let wilt = wilt.or(stopped_by(StoppedBy::Dry).then_some(Wilt::Begins));
    // What sleeps is brown and dry, and what is dead wants no water.
    let may_thirst = !is_let_go && crowns != Some(false);
    match (wilt.filter(|_| may_thirst), spot) {
        (Some(_), _) if has(&Seen::is_moist) => means.push(Means::NotThirst),
        (Some(_), Some(spot)) => means.push(Means::ThirstySpot { spot }),
        (Some(wilt), None) => means.push(Means::Thirsty {
            far: wilt == Wilt::Far,
        }),
        (None, _) => {}
    }
    if has(&|s| matches!(s, Seen::Puddles)) {
        means.push(Means::Wet);
    }
    if stopped_by(StoppedBy::Hard) {
        means.push(Means::Hard);
    }
    if means.is_empty() {
        means.push(match wilt {
            Some(_) => Means::LookAtCrowns,
            None => Means::Fine,
        });
    }
    means
}

/// Why a zone is to be looked at.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "due", rename_all = "snake_case")]
#[schema(as = WalkDue)]
pub enum Due {
    /// Heat comes.
    Heat {
        /// On this day.
        date: Date,
        /// Its highest temperature, °C.
        tmax_c: f64,
    },
    /// Nearly all that may be used of its water is gone.
    NearLimit {
        /// How much of it, 1 = all.
        used: f64,
    },
    /// It sleeps, and little heat is left that it survives.
    Safety {
        /// Days of heat left.
        left_days: f64,
    },
}

/// Whether a zone is to be looked at on a day: `last` was the last look, `day` the last day of its ledger, `heat` its days from today on, `raw_share` the share of its
/// water that may be used.
#[must_use]
pub fn due(
    today: Date,
    last: Option<Date>,
    day: Option<&Day>,
    asleep: Option<&Asleep>,
    heat: &[HeatDay],
    raw_share: f64,
) -> Option<Due> {
    let is_old = |days: i32| last.is_none_or(|last| (today - last).get_days() >= days);
    let regime = day.map_or(Regime::Established, |day| day.regime);
    if !regime.is_rooted() {
        return None;
    }
    if let Some(asleep) = asleep {
        let left_days = asleep.safety.left_days;
        return (left_days < FEW_DAYS && is_old(EVERY_DAYS.2)).then_some(Due::Safety { left_days });
    }
    let hot = heat
        .iter()
        .take(HEAT_AHEAD)
        .find(|day| day.step.is_some())
        .filter(|_| is_old(EVERY_DAYS.0));
    if let Some(hot) = hot {
        return Some(Due::Heat {
            date: hot.date,
            tmax_c: hot.tmax_c,
        });
    }
    let used = day.map(|day| day.used / raw_share);
    used.filter(|used| *used >= NEAR && is_old(EVERY_DAYS.1))
        .map(|used| Due::NearLimit { used })
}

/// The share of its water that is gone now: of `used` at dawn what ran since is given back. `runs`: those of the site today.
#[must_use]
pub fn used_now(used: f64, runs: &[Run], zone: &Zone, model: &ZoneModel) -> f64 {
    let own = runs.iter().filter(|run| run.zone == zone.id);
    let left = own.fold(model.taw * used, |left, run| {
        (left - run.irrigation(zone, model, left).net).max(Depth::ZERO)
    });
    left / model.taw
}

/// When a zone was last looked at on a walk: its footprints are looked at first.
#[must_use]
pub fn last_look(seen: &[ZoneSeen]) -> Option<Date> {
    let looks = seen
        .iter()
        .filter(|kept| kept.spot.is_none() && matches!(kept.seen, Seen::Footprints { .. }));
    looks.map(|kept| kept.date).max()
}

/// How soon a zone dries out beside others: walks begin where it is greatest.
#[must_use]
pub fn hotness(zone: &Zone, model: &ZoneModel) -> i32 {
    let exposure = match zone.exposure {
        Exposure::HotEdge => 4,
        Exposure::Windy => 2,
        Exposure::FullSun => 0,
        Exposure::HalfShade => -1,
        Exposure::DeepShade => -2,
    };
    let spots = 2 * i32::from(!zone.hot_edges.is_empty());
    exposure + spots + i32::from(zone.slope_pct >= STEEP_PCT) + i32::from(model.taw < LITTLE)
}
