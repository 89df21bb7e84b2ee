//! The past of a zone, day by day: the balance of each day by the facts of that day. Kept as a ledger, it is carried on from its last day, or
//! made anew from the earliest day that a change touches.

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::Serialize;

use crate::engine::correction::{Correction, Doubt, telling};
use crate::engine::dawn::{Dawn, Left};
use crate::engine::history::{Stretch, ZoneHistory};
use crate::engine::root_zone::{self, Below, DayBalance, Given};
use crate::engine::seedbed::{self, ByHour};
use crate::engine::seedling::Seedling;
use crate::engine::zone_model::ZoneModel;
use crate::measure::seen::Seen;
use crate::quantity::Depth;
use crate::record::known::Run;
use crate::site::soil_counting::ZoneSeen;
use crate::site::{Regime, Zone};
use crate::weather::DailyWeather;

/// A day of a zone's ledger.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct PastDay {
    /// The day.
    pub date: Date,
    /// How the zone was watered then.
    pub regime: Regime,
    /// Total available water.
    pub taw: Depth,
    /// The balance.
    pub balance: DayBalance,
    /// The soil below the roots, at the end of the day.
    pub below: Below,
    /// How far the balance may be off at its end, and what readings have taught of it.
    pub doubt: Doubt,
    /// The new grass at its end; `None`: none was sown.
    pub seedling: Option<Seedling>,
}

impl PastDay {
    /// What it leaves to the next day.
    #[must_use]
    pub(crate) fn left(&self) -> Left {
        Left {
            date: self.date,
            depletion: self.balance.end,
            surface: self.balance.surface.map(|surface| surface.end),
            seedling: self.seedling,
            below: self.below,
        }
    }
}

/// A dawn that was corrected by what was seen that day.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Corrected {
    /// What is added to the depletion of the dawn; positive dries.
    pub adjustment: Depth,
    /// What is left of the doubt.
    pub doubt: Doubt,
    /// What corrected it, in time order.
    pub by: Vec<(Seen, Correction)>,
}

/// Corrects a day's dawn by what was seen on the day, against the balance of the hour: before noon after what was given by then, from noon on
/// also after the day's ET.
pub(crate) fn corrected<'a>(
    seen: impl IntoIterator<Item = &'a ZoneSeen>,
    model: &ZoneModel,
    dawn: Depth,
    weather: &DailyWeather,
    given: &Given,
    doubt: Doubt,
) -> Corrected {
    let mut corrected = Corrected {
        adjustment: Depth::ZERO,
        doubt,
        by: Vec::new(),
    };
    let raw = model.raw(model.etc(weather));
    for kept in telling(&seen.into_iter().collect::<Vec<_>>()) {
        let now = dawn + corrected.adjustment;
        let book = root_zone::depletion_at(model, now, weather, given, kept.after_noon);
        let Some(correction) = Correction::of(&kept.seen, model, book, raw, corrected.doubt) else {
            continue;
        };
        let moved = (now + correction.adjustment())
            .max(Depth::ZERO)
            .min(model.taw);
        corrected.adjustment = moved - dawn;
        corrected.doubt = correction.leaves(corrected.doubt);
        corrected.by.push((kept.seen, correction));
    }
    corrected
}

/// What a zone was given on a day by its runs of that day, at the depletion of its dawn.
#[must_use]
pub(crate) fn given<'a>(
    then: &Stretch,
    runs: impl IntoIterator<Item = &'a Run>,
    depletion: Depth,
) -> Given {
    let mut day = Given::default();
    for run in runs {
        day.add(
            run.irrigation(&then.zone, &then.model, depletion),
            run.after_noon,
        );
    }
    day
}

/// What corrected the dawn of a day of the ledger, for its account: the doubt is that of its dawn, the water of the day counts as given at dawn.
pub(crate) fn corrected_by<'a>(
    seen: impl IntoIterator<Item = &'a ZoneSeen>,
    model: &ZoneModel,
    balance: &DayBalance,
    mut doubt: Doubt,
) -> Vec<(Seen, Correction)> {
    let mut by = Vec::new();
    let mut dawn = balance.start;
    for kept in telling(&seen.into_iter().collect::<Vec<_>>()) {
        let mut book = (dawn - balance.irrigation.net).max(Depth::ZERO);
        if kept.after_noon {
            book += balance.eta;
        }
        if let Some(correction) = Correction::of(&kept.seen, model, book, balance.raw, doubt) {
            dawn += correction.adjustment();
            doubt = correction.leaves(doubt);
            by.push((kept.seen, correction));
        }
    }
    by
}

/// Carries a zone's ledger on over days of weather, which follow its last day without a gap; without a last day it begins with the zone,
/// or the weather, at the zone's initial depletion.
#[must_use]
pub fn carry_on(
    zone: &Zone,
    history: &ZoneHistory,
    last: Option<&PastDay>,
    weather: &[DailyWeather],
    runs: &[Run],
) -> Vec<PastDay> {
    let mut by_date: BTreeMap<Date, Vec<&Run>> = BTreeMap::new();
    for run in runs.iter().filter(|r| r.zone == zone.id) {
        by_date.entry(run.date).or_default().push(run);
    }
    let mut seen: BTreeMap<Date, Vec<&ZoneSeen>> = BTreeMap::new();
    for kept in &zone.seen {
        seen.entry(kept.date).or_default().push(kept);
    }
    let mut days = Vec::with_capacity(weather.len());
    let mut left = last.map(PastDay::left);
    let mut doubt = last.map(|day| day.doubt);
    for day in weather {
        if zone.active_from.is_some_and(|from| day.date < from) {
            continue;
        }
        let seen = seen.get(&day.date).map(Vec::as_slice).unwrap_or_default();
        let initial = zone.initial_depletion_mm;
        let grown = seen.iter().map(|kept| &kept.seen);
        let dawn = Dawn::of(history, initial, left.as_ref(), day.date, grown);
        let model = &dawn.then.model;
        let before = doubt.unwrap_or_else(|| Doubt::of_book(model));
        let runs = by_date.get(&day.date).into_iter().flatten().copied();
        let (balance, after) = match dawn.bed {
            Some((bed, surface)) => {
                let ran = ran_by_hour(&dawn.then, runs, dawn.now() + surface);
                let hours = history.daylight().hours(day.date);
                let stores = dawn.stores(surface);
                let balance = seedbed::day(&bed, model, &stores, day, &hours, &ran);
                (balance, Doubt::of_book(model))
            }
            None => rooted_day(&dawn, day, runs, seen, before),
        };
        let mut below = dawn.below;
        below.drain(balance.drainage);
        let grass = dawn.then.zone.grass;
        let past = PastDay {
            date: day.date,
            regime: dawn.then.zone.regime,
            taw: model.taw,
            balance,
            below,
            doubt: after,
            seedling: dawn
                .seedling
                .map(|seedling| seedling.after(day, grass, seedbed::was_dry(&balance, model.taw))),
        };
        left = Some(past.left());
        doubt = Some(after);
        days.push(past);
    }
    days
}

/// A day of rooted turf, with what readings have taught and what was seen of it, and how far it may be off then.
fn rooted_day<'a>(
    dawn: &Dawn,
    day: &DailyWeather,
    runs: impl Iterator<Item = &'a Run>,
    seen: &[&ZoneSeen],
    mut doubt: Doubt,
) -> (DayBalance, Doubt) {
    let model = &dawn.then.model;
    let start = dawn.depletion;
    // What readings have taught of what the turf uses; nothing before there were any.
    let drifted = dawn.now() + doubt.drifts(model.etc(day));
    let mut adjustment = drifted.max(Depth::ZERO).min(model.taw) - start;
    let given = given(&dawn.then, runs, start + adjustment);
    if !seen.is_empty() {
        let seen = seen.iter().copied();
        let corrected = corrected(seen, model, start + adjustment, day, &given, doubt);
        adjustment += corrected.adjustment;
        doubt = corrected.doubt;
    }
    let balance = root_zone::adjusted_day(model, start, adjustment, day, given);
    (balance, doubt.after(model, &balance))
}

/// What new grass was given on a day by its runs of that day, by their hours; one of which the hour is not known counts as begun at six, or at noon. `lacks`: what it
/// lacks at dawn.
pub(crate) fn ran_by_hour<'a>(
    then: &Stretch,
    runs: impl IntoIterator<Item = &'a Run>,
    lacks: Depth,
) -> ByHour {
    let mut ran = ByHour::default();
    for run in runs {
        let hour = match (run.started, run.after_noon) {
            (Some(time), _) => usize::try_from(time.hour()).unwrap_or(0),
            (None, false) => 6,
            (None, true) => 12,
        };
        ran.0[hour] += run.irrigation(&then.zone, &then.model, lacks);
    }
    ran
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::Controller;
    use jiff::ToSpan;
    use jiff::civil::date;
    use serde_json::json;

    fn zone(facts: &serde_json::Value, roots_mm: f64) -> Zone {
        serde_json::from_value(json!({
            "id": "a", "name": "Field", "grass": "tall_fescue", "soil": "loam", "slope_pct": 1, "area_m2": 400, "sprinkler": "rotor",
            "root_depth_mm": roots(roots_mm), "facts": facts,
        }))
        .unwrap()
    }

    fn roots(mm: f64) -> serde_json::Value {
        json!({ "value": mm, "low": mm, "high": mm, "source": { "kind": "assumed" } })
    }

    fn weather(count: i64, rain_mm: f64) -> Vec<DailyWeather> {
        (0..count)
            .map(|i| DailyWeather {
                date: date(2026, 5, 1).checked_add(i.days()).unwrap(),
                et0: Depth::from_mm(5.0),
                method: None,
                rain: Depth::from_mm(rain_mm),
                rain_expected: false,
                tmin_c: None,
                tmax_c: None,
                rh_min_pct: None,
                wind_m_s: None,
                smoothed_c: Some(20.0),
                rain_probability_pct: None,
            })
            .collect()
    }

    fn run(zone: &Zone, last: Option<&PastDay>, weather: &[DailyWeather]) -> Vec<PastDay> {
        let history = ZoneHistory::new(zone, &Controller::default(), 36.4);
        carry_on(zone, &history, last, weather, &[])
    }

    fn closes(days: &[PastDay]) {
        for (i, day) in days.iter().enumerate() {
            let b = &day.balance;
            let change = b.eta - b.effective_rain - b.irrigation.net + b.drainage + b.adjustment;
            assert!((b.end - b.start - change).abs().mm() < 1e-9, "{day:?}");
            assert!(b.end >= Depth::ZERO && b.end <= day.taw);
            if i > 0 {
                assert_eq!(days[i - 1].balance.end, b.start);
            }
        }
    }

    #[test]
    fn carried_on_in_pieces_it_is_what_it_is_in_one() {
        let facts = json!([{ "from": "1900-01-01", "root_depth_mm": roots(120.0) }, { "from": "2026-05-12", "root_depth_mm": roots(250.0) }]);
        let z = zone(&facts, 250.0);
        let mut days = weather(30, 0.0);
        days[20].rain = Depth::from_mm(60.0);
        let whole = run(&z, None, &days);
        closes(&whole);
        for cut in [1, 11, 12, 21, 29] {
            let mut pieces = run(&z, None, &days[..cut]);
            let rest = run(&z, pieces.last(), &days[cut..]);
            pieces.extend(rest);
            assert_eq!(pieces, whole);
        }
    }

    #[test]
    fn deeper_roots_leave_the_days_before_alone_and_find_water_below() {
        let facts = json!([{ "from": "1900-01-01", "root_depth_mm": roots(120.0) }, { "from": "2026-05-12", "root_depth_mm": roots(240.0) }]);
        let (shallow, deep) = (zone(&json!([]), 120.0), zone(&facts, 240.0));
        let days = weather(20, 0.0);
        let (before, after) = (run(&shallow, None, &days), run(&deep, None, &days));
        closes(&after);
        assert_eq!(before[..11], after[..11]);
        // Soil that no root has reached is full: the depletion stays, the storage doubles.
        assert_eq!(after[11].balance.adjustment, Depth::ZERO);
        assert!((after[11].taw.mm() - 2.0 * before[11].taw.mm()).abs() < 1e-9);
        assert!(after[11].balance.eta > before[11].balance.eta);
    }

    #[test]
    fn shallower_roots_leave_what_they_used_behind_and_find_it_again() {
        let facts = json!([
            { "from": "1900-01-01", "root_depth_mm": roots(240.0) },
            { "from": "2026-05-10", "root_depth_mm": roots(120.0) },
            { "from": "2026-05-12", "root_depth_mm": roots(240.0) }
        ]);
        let days = weather(14, 0.0);
        let past = run(&zone(&facts, 240.0), None, &days);
        closes(&past);
        let left = past[9].balance.adjustment;
        // Half of the roots, half of what they had used.
        assert!((left.mm() + past[8].balance.end.mm() / 2.0).abs() < 1e-9);
        assert_eq!(past[9].below.depletion, -left);
        assert!((past[11].balance.adjustment + left).abs().mm() < 1e-9);
        assert_eq!(past[11].below.depletion, Depth::ZERO);
        // Rain that drains refills it first.
        let mut wet = weather(14, 0.0);
        wet[10].rain = Depth::from_mm(90.0);
        let refilled = run(&zone(&facts, 240.0), None, &wet);
        closes(&refilled);
        assert!(refilled[10].balance.drainage > -left);
        assert_eq!(refilled[11].balance.adjustment, Depth::ZERO);
    }

    #[test]
    fn soil_that_holds_less_caps_the_depletion() {
        let facts = json!([{ "from": "1900-01-01", "soil": "clay" }, { "from": "2026-05-12", "soil": "sand" }]);
        let mut z = zone(&json!([]), 150.0);
        z.soil = science::soil::Texture::Sand;
        z.facts = serde_json::from_value(facts).unwrap();
        let past = run(&z, None, &weather(20, 0.0));
        closes(&past);
        assert!(past[11].balance.adjustment < Depth::ZERO);
    }
}
