//! Trees in a lawn: deep, slow, seldom by their own figures, and first where water is short.

use jiff::ToSpan;
use jiff::civil::date;
use lawn::engine::replay::{Foresight, replay};
use lawn::quantity::{Area, Depth};
use lawn::site::rules::{AtMost, Period, Rule, Says};
use lawn::site::{Plants, Regime, SiteDocument, Weekday, Zone};
use lawn::weather::DailyWeather;
use science::sprinkler::Kind;
use science::turf::{Grass, HowGreen};

use crate::fixture::{model, plain, site, window, zone};

fn trees(id: &str) -> Zone {
    Zone {
        plants: Plants::Trees,
        root_depth_mm: None,
        sprinkler: Kind::Drip,
        rate_mm_h: None,
        evenness_du_lq: None,
        area_m2: Area::from_m2(100.0),
        ..zone(id)
    }
}

fn turf(id: &str) -> Zone {
    Zone {
        plants: Plants::Turf,
        ..trees(id)
    }
}

fn nightly(zones: Vec<Zone>) -> SiteDocument {
    let mut document = site(zones);
    document.windows = vec![window(&Weekday::ALL, "00:00", "07:00")];
    document
}

/// A hundred dry days of 6 mm from June on.
fn dry() -> Vec<DailyWeather> {
    let first = date(2026, 6, 1);
    (0..100i64)
        .map(|i| plain(first.saturating_add(i.days()), 6.0, 0.0))
        .collect()
}

/// Waterings and net depth of a zone over the dry days.
fn waterings(document: &SiteDocument, zone: &str) -> (usize, f64) {
    let (first, last) = (date(2026, 6, 1), date(2026, 9, 8));
    let rows = replay(document, &dry(), first, last, Foresight::Refills).unwrap();
    let own = rows
        .iter()
        .filter(|row| row.zone == zone && row.balance.irrigation.net > Depth::ZERO);
    let net: Vec<f64> = own.map(|row| row.balance.irrigation.net.mm()).collect();
    (net.len(), net.iter().sum())
}

/// 0.5 of ET0 whatever grows below and however green; 600 mm of roots, half of what they hold (common practice and WUCOLS, from memory).
#[test]
fn trees_have_figures_of_their_own() {
    let tree = trees("a");
    let day = plain(date(2026, 7, 1), 6.0, 0.0);
    let of = model(&tree);
    assert!((of.etc(&day).mm() - 3.0).abs() < 1e-9);
    assert!((of.root_depth.value.mm() - 600.0).abs() < 1e-9);
    assert!((of.taw.mm() - 600.0 * of.available.value).abs() < 1e-9);
    for other in [
        Zone {
            grass: Grass::HybridBermudagrass,
            ..tree.clone()
        },
        Zone {
            how_green: HowGreen::Hardy,
            ..tree.clone()
        },
    ] {
        assert_eq!(model(&other).etc(&day), of.etc(&day));
        assert_eq!(model(&other).taw, of.taw);
    }
    let factors = of.crop_factors(&tree, &day);
    assert!((factors.kc - 0.5).abs() < 1e-9 && (factors.how_green - 1.0).abs() < 1e-9);
}

#[test]
fn trees_are_watered_deep_and_seldom() {
    let document = nightly(vec![trees("tree"), turf("lawn")]);
    let (seldom, deep) = waterings(&document, "tree");
    let (often, lawn) = waterings(&document, "lawn");
    assert!(
        0 < seldom && 3 * seldom < often,
        "{seldom} waterings of trees, {often} of turf"
    );
    assert!(deep / seldom as f64 > 2.0 * lawn / often as f64);
}

fn capped(zones: Vec<Zone>, volume_l: f64) -> SiteDocument {
    let mut document = nightly(zones);
    document.rules.list = vec![Rule {
        name: "Short".to_owned(),
        from: None,
        to: None,
        stage: None,
        zones: Vec::new(),
        exempt: Vec::new(),
        says: Says::AtMost(AtMost {
            volume_l,
            per: Period::Week,
        }),
    }];
    document
}

#[test]
fn of_scarce_water_trees_get_theirs_before_crowns_and_green_turf_unless_they_rank_lower() {
    let crowns = || Zone {
        regime: Regime::Dormant,
        ..turf("crowns")
    };
    let site_of = |tree: Zone| vec![turf("lawn"), crowns(), tree];
    let (_, alone) = waterings(&nightly(site_of(trees("tree"))), "tree");
    let gross = model(&trees("tree")).gross_of_net(Depth::from_mm(1.0)).mm();
    // A third of what the trees take in a week on the mean more than they do: little for the lawn.
    let week_l = alone * gross * 100.0 / 100.0 * 7.0 * 1.33;
    let short = capped(site_of(trees("tree")), week_l);
    let (_, net) = waterings(&short, "tree");
    assert!(net > 0.85 * alone, "{net} of {alone}");
    let (_, lawn) = waterings(&short, "lawn");
    let (_, plenty) = waterings(&nightly(site_of(trees("tree"))), "lawn");
    assert!(lawn < 0.5 * plenty, "{lawn} of {plenty}");
    // Ranked last they wait for harm like the rest.
    let last = Zone {
        priority: 9,
        ..trees("tree")
    };
    let (_, ranked) = waterings(&capped(site_of(last), week_l), "tree");
    assert!(ranked < net, "{ranked} and {net}");
}

#[test]
fn trees_are_not_let_go_or_sown() {
    for regime in [Regime::Dormant, Regime::Recovering, Regime::Seedbed] {
        let zone = Zone {
            regime,
            ..trees("a")
        };
        assert_eq!(zone.validate("").unwrap_err().field, "regime");
    }
    trees("a").validate("").unwrap();
    assert!(
        trees("a")
            .in_regime(Regime::Dormant, date(2026, 7, 1))
            .is_err()
    );
}
