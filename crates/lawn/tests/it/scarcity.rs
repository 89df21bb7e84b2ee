//! Too little water: trees, new grass and crowns in their turn, then where a litre prevents most harm; more volume never does more harm.

use jiff::civil::{Date, Time};
use lawn::engine::zone_week::Turn;
use lawn::quantity::{Area, Volume};
use lawn::site::rules::{AtMost, Period, Rule, Says};
use lawn::site::{Hours, Plants, Regime, SiteDocument, Zone};
use lawn::view::plan::{Known, Past};
use lawn::view::scarcity::{Scarcity, scarcity};
use proptest::prelude::*;
use science::turf::Grass;

use crate::fixture::{dry, site, window, zone};
use lawn::site::Weekday;

const TODAY: Date = Date::constant(2026, 7, 13);

/// A site after dry days, every night open.
fn thirsty(zones: Vec<Zone>) -> SiteDocument {
    let mut document = site(zones);
    document.windows = vec![window(&Weekday::ALL, "00:00", "07:00")];
    document
}

fn shared(document: &SiteDocument, days: i64, litres: Option<f64>) -> Scarcity {
    let observed = dry(document, days);
    let today = observed
        .last()
        .map_or(TODAY, |day| day.date.tomorrow().unwrap());
    let known = Known::of_record(document, &observed, today);
    let past = Past::of_record(&known);
    scarcity(&known, &past, litres.map(Volume::from_l)).unwrap()
}

fn ranked(id: &str, priority: u8, m2: f64) -> Zone {
    Zone {
        priority,
        area_m2: Area::from_m2(m2),
        ..zone(id)
    }
}

#[test]
fn of_a_scarce_volume_crowns_come_first_and_then_who_ranks_first() {
    let asleep = Zone {
        regime: Regime::Dormant,
        grass: Grass::KentuckyBluegrass,
        ..ranked("asleep", 9, 300.0)
    };
    let document = thirsty(vec![
        ranked("field", 1, 500.0),
        asleep,
        ranked("edge", 9, 500.0),
    ]);
    let all = shared(&document, 12, None);
    assert_eq!(all.volume_l, all.needed_l);
    assert!(all.harm_pct < 0.5 && all.unspared_pct < 0.5, "{all:?}");
    let [field, crowns, edge] = all.zones.as_slice() else {
        panic!("{all:?}")
    };
    assert!(
        crowns.turn == Turn::Crowns
            && crowns.gets_l == crowns.needs_l
            && crowns.needs_l == all.crowns_l
    );
    // No known wetting: due at once, 12 mm net over 300 m².
    let gross = crowns.needs_l.l() / 300.0;
    assert!(
        (crowns.gets_mm.mm() - 12.0).abs() < 1e-9 && gross > 12.0,
        "{crowns:?}"
    );
    assert!(field.gets_l > Volume::default() && edge.gets_l > Volume::default());

    // What holds the crowns alone: nobody else gets any.
    let little = shared(&document, 12, Some(all.crowns_l.l()));
    assert_eq!(little.zones[1].gets_l, all.crowns_l);
    assert!(little.zones[0].gets_l.l() < 1e-6 && little.zones[2].gets_l.l() < 1e-6);
    assert!((little.harm_pct - 100.0).abs() < 1e-6);
    // Half of the rest: who ranks first gets what it needs, who ranks last less.
    let rest = all.needed_l.l() - all.crowns_l.l();
    let half = shared(&document, 12, Some(all.crowns_l.l() + rest / 2.0));
    let given = |i: usize| half.zones[i].gets_l.l() / half.zones[i].needs_l.l();
    assert!(given(0) > 0.95 && given(2) < 0.2, "{half:?}");
    assert!(half.harm_pct > 0.0 && half.harm_pct < 50.0);
    let sum: f64 = half.zones.iter().map(|z| z.gets_l.l()).sum();
    assert!(sum <= half.volume_l.l() + 1e-6);
}

/// Trees, new grass, crowns, what is green: common practice, no source.
#[test]
fn new_grass_has_its_turn_before_crowns() {
    let document = thirsty(vec![
        ranked("field", 1, 500.0),
        Zone {
            regime: Regime::Dormant,
            grass: Grass::KentuckyBluegrass,
            ..ranked("asleep", 1, 300.0)
        },
        Zone {
            regime: Regime::Seedbed,
            new_grass_hours: Some(Hours {
                from: Time::constant(6, 0, 0, 0),
                to: Time::constant(19, 0, 0, 0),
            }),
            ..ranked("sown", 9, 60.0)
        },
    ]);
    let all = shared(&document, 12, None);
    let turns: Vec<Turn> = all.zones.iter().map(|z| z.turn).collect();
    assert_eq!(turns, [Turn::Green, Turn::Crowns, Turn::NewGrass]);
    let sown = &all.zones[2];
    assert_eq!(
        (sown.needs_l, sown.gets_l),
        (all.new_grass_l, all.new_grass_l)
    );
    // A seedbed is watered on each dry day: a week of some mm a day at least.
    assert!(sown.gets_mm.mm() > 7.0, "{sown:?}");
    let little = shared(&document, 12, Some(all.new_grass_l.l()));
    assert_eq!(little.zones[2].gets_l, all.new_grass_l);
    assert!(
        little.zones[..2].iter().all(|z| z.gets_l.l() < 1e-6),
        "{little:?}"
    );
}

#[test]
fn without_a_volume_the_tightest_cap_is_shared_out() {
    let mut document = thirsty(vec![ranked("field", 5, 500.0)]);
    document.rules.list = vec![Rule {
        says: Says::AtMost(AtMost {
            volume_l: 4000.0,
            per: Period::Week,
        }),
        ..serde_json::from_value(
            serde_json::json!({ "name": "Short", "says": { "kind": "never" } }),
        )
        .unwrap()
    }];
    let found = shared(&document, 12, None);
    assert_eq!(found.volume_l, Volume::from_l(4000.0));
    assert_eq!(found.caps[0].rule, "Short");
    assert!(found.needed_l > found.volume_l && found.harm_pct > 1.0);
    assert!(
        (found.zones[0].gets_l.l() - 4000.0).abs() < 1.0,
        "{found:?}"
    );
}

#[test]
fn hours_that_hold_too_little_leave_harm_that_no_volume_spares() {
    let mut document = thirsty(vec![ranked("field", 5, 500.0)]);
    document.windows = vec![window(&[Weekday::Wednesday], "05:00", "05:06")];
    let found = shared(&document, 20, None);
    assert!(found.unspared_pct > 10.0, "{found:?}");
    assert!((found.harm_pct - found.unspared_pct).abs() < 1.0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]
    /// More volume never does more harm, on the curve and as it is shared; nothing is shared out twice.
    #[test]
    fn more_volume_never_does_more_harm(
        zones in prop::collection::vec((1..=9u8, 50.0..900.0f64, 0..4u8, 0..4usize), 1..6), dry_days in 3..30i64,
        parts in prop::collection::vec(0.0..1.2f64, 2..5),
    ) {
        let grasses = [Grass::TallFescue, Grass::KentuckyBluegrass, Grass::Zoysiagrass, Grass::PerennialRyegrass];
        let zones = (0..).zip(&zones).map(|(n, (rank, m2, kind, grass))| Zone {
            regime: match kind {
                1 => Regime::Dormant,
                3 => Regime::Seedbed,
                _ => Regime::Established,
            },
            plants: if *kind == 2 { Plants::Trees } else { Plants::Turf },
            grass: grasses[*grass],
            ..ranked(&format!("z{n}"), *rank, *m2)
        });
        let document = thirsty(zones.collect());
        let m2: Vec<f64> = document.zones.iter().map(|zone| zone.area_m2.m2()).collect();
        let all = shared(&document, dry_days, None);
        for pair in all.curve.windows(2) {
            prop_assert!(pair[1].volume_l > pair[0].volume_l && pair[1].harm_pct <= pair[0].harm_pct + 1e-9);
        }
        let needs: f64 = all.zones.iter().map(|z| z.needs_l.l()).sum();
        prop_assert!((needs - all.needed_l.l()).abs() < 1e-6 * needs.max(1.0), "{needs} {:?}", all.needed_l);
        let mut parts = parts;
        parts.sort_by(f64::total_cmp);
        let mut before: Option<Scarcity> = None;
        for part in parts {
            let found = shared(&document, dry_days, Some(part * all.needed_l.l()));
            let sum: f64 = found.zones.iter().map(|z| z.gets_l.l()).sum();
            prop_assert!(sum <= found.volume_l.l() + 1e-6);
            // Nobody goes short while those of a later turn get any; the last mm of trees is shared in part.
            for (short, m2) in found.zones.iter().zip(&m2) {
                let spare_l = if short.turn == Turn::Trees { 3.0 * m2 } else { 1e-6 };
                let is_short = short.needs_l.l() - short.gets_l.l() > spare_l;
                let later = found.zones.iter().any(|z| z.turn > short.turn && z.gets_l.l() > 1e-6);
                prop_assert!(!(is_short && later), "{found:?}");
            }
            if let Some(before) = before {
                prop_assert!(found.harm_pct <= before.harm_pct + 0.05, "{} after {}", found.harm_pct, before.harm_pct);
            }
            before = Some(found);
        }
    }
}
