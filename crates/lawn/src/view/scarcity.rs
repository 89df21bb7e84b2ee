//! Too little water: what a volume for the coming week comes to, as people read it.

use jiff::ToSpan;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::engine::rationing::CappedBy;
use crate::engine::scarce::{self, Part};
use crate::engine::slot::HORIZON;
use crate::engine::zone_week::Turn;
use crate::quantity::{Depth, Volume};
use crate::record::known::Known;
use crate::view::setting::{self, Error, Past, Setting};

/// Harm that a volume leaves.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct HarmPoint {
    /// The volume, L out of the sprinklers.
    pub volume_l: Volume,
    /// Harm, % of that without any water.
    pub harm_pct: f64,
}

/// What a zone gets of a volume.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ZoneShare {
    /// The zone's identifier.
    pub zone: String,
    /// Its name.
    pub name: String,
    /// Its rank when water is short, 1 first.
    pub rank: u8,
    /// When it has its turn: trees, then new grass, then crowns of what is let go, then what is green, by rank.
    pub turn: Turn,
    /// What it needs so that it is not harmed, or what its new grass or its crowns are due, L.
    pub needs_l: Volume,
    /// What it gets, L.
    pub gets_l: Volume,
    /// The same, net.
    pub gets_mm: Depth,
    /// Water that its turf would use and misses.
    pub missed_mm: Depth,
    /// The same if it got nothing.
    pub missed_without_mm: Depth,
}

/// A cap on the water of the coming days.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WeekCap {
    /// The rule's name.
    pub rule: String,
    /// What is left of it, L.
    pub left_l: Volume,
    /// The first day that it is about.
    pub from: Date,
    /// The last.
    pub to: Date,
}

/// What a volume for the coming week comes to.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Scarcity {
    /// The first day.
    pub from: Date,
    /// The last.
    pub to: Date,
    /// The volume that is shared out, L.
    pub volume_l: Volume,
    /// What all zones need so that none is harmed, L.
    pub needed_l: Volume,
    /// What new grass is due, L; it comes after trees.
    pub new_grass_l: Volume,
    /// What crowns of zones that are let go are due, L; they come after new grass.
    pub crowns_l: Volume,
    /// Harm that the volume leaves, % of that without any water.
    pub harm_pct: f64,
    /// Harm that no volume prevents, %: the allowed hours do not hold what is needed.
    pub unspared_pct: f64,
    /// Harm by volume.
    pub curve: Vec<HarmPoint>,
    /// Who gets what, in the site's order.
    pub zones: Vec<ZoneShare>,
    /// Caps that hold already.
    pub caps: Vec<WeekCap>,
}

/// Shares a volume out over the coming week; without one what the tightest cap on it leaves, or else all that is needed.
///
/// # Errors
/// [`Error::NoWeather`], [`Error::Site`].
pub fn scarcity(known: &Known, past: &Past, volume: Option<Volume>) -> Result<Scarcity, Error> {
    setting::within(known, past, |setting| of(known, setting, volume))
}

fn of(known: &Known, setting: &Setting, volume: Option<Volume>) -> Scarcity {
    let date = |day: usize| {
        let days = i64::try_from(day).unwrap_or(0).days();
        known.today.saturating_add(days)
    };
    let rules = &known.document.rules.list;
    let caps = setting.facts.caps.iter().filter_map(|cap| {
        let CappedBy::Rule(rule) = cap.by else {
            return None;
        };
        Some(WeekCap {
            rule: rules.get(rule)?.name.clone(),
            left_l: cap.left,
            from: date(cap.from),
            to: date(cap.to),
        })
    });
    let caps: Vec<WeekCap> = caps.collect();
    let share = |volume| scarce::scarce(setting.facts, setting.state, setting.weather, volume);
    let tightest = caps.iter().map(|cap| cap.left_l);
    let tightest = tightest.min_by(|a, b| a.l().total_cmp(&b.l()));
    let volume = volume
        .or(tightest)
        .unwrap_or_else(|| share(Volume::default()).needed);
    let found = share(volume);
    let without = found.curve.first().map_or(0.0, |first| first.harm_l);
    let pct = |harm_l: f64| {
        if without > 0.0 {
            100.0 * harm_l / without
        } else {
            0.0
        }
    };
    let curve = found.curve.iter().map(|point| HarmPoint {
        volume_l: point.volume,
        harm_pct: pct(point.harm_l),
    });
    let curve: Vec<HarmPoint> = curve.collect();
    Scarcity {
        from: known.today,
        to: date(HORIZON - 1),
        volume_l: volume,
        needed_l: found.needed,
        new_grass_l: found.new_grass,
        crowns_l: found.crowns,
        harm_pct: pct(found.harm_l),
        unspared_pct: curve.last().map_or(0.0, |last| last.harm_pct),
        curve,
        zones: found
            .parts
            .iter()
            .map(|part| share_of(setting, part))
            .collect(),
        caps,
    }
}

fn share_of(setting: &Setting, part: &Part) -> ZoneShare {
    let zone = setting.zones[part.zone].zone;
    ZoneShare {
        zone: zone.id.clone(),
        name: zone.name.clone(),
        rank: zone.priority,
        turn: part.turn,
        needs_l: part.needs,
        gets_l: part.gets,
        gets_mm: part.net,
        missed_mm: part.missed,
        missed_without_mm: part.missed_without,
    }
}
