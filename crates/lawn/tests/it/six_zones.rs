//! Full refills of the six zones of the WaterSense specification for weather-based controllers (from memory; its own efficiency in
//! place of uniformity and loss): minutes, longest pass, passes, computed from the Irrigation Association's tables.

use lawn::engine::dose::dose;
use lawn::engine::zone_model::ZoneModel;
use lawn::quantity::{Area, Depth, Rate};
use science::soil::Texture;
use science::sprinkler::Kind;

use crate::fixture::{exactly, zone};

const INCH: f64 = 25.4;

/// A zone whose whole gap between net and gross is one efficiency, on a controller of one-second steps.
fn of(soil: Texture, slope: f64, kind: Kind, rate_in_h: f64, efficiency: f64) -> ZoneModel {
    let mut z = zone("six");
    z.soil = soil;
    z.slope_pct = slope;
    z.area_m2 = Area::from_m2(100.0);
    z.sprinkler = kind;
    z.rate_mm_h = Some(exactly(Rate::from_mm_h(rate_in_h * INCH)));
    // M = 1/efficiency: DUlq that gives it; loss 0.
    let du = if kind == Kind::Drip {
        efficiency
    } else {
        (efficiency - 0.4) / 0.6
    };
    z.evenness_du_lq = Some(exactly(du.max(0.01)));
    z.spray_loss = Some(exactly(0.0));
    let controller = lawn::site::Controller {
        step_s: 1,
        ..Default::default()
    };
    let mut model = ZoneModel::new(&z, &controller, 36.4);
    model.multiplier = 1.0 / efficiency;
    model
}

#[test]
fn minutes_longest_pass_and_passes() {
    use Kind::{Drip, FixedSpray, Rotor};
    use Texture::{Clay, ClayLoam, Loam, LoamySand, SandyLoam, SiltyClay};
    // soil, slope, kind, rate in/h, efficiency, working storage in, minutes, longest pass, passes
    let rows = [
        (Loam, 6.0, FixedSpray, 1.60, 0.55, 0.85, 58.0, Some(12.0), 5),
        (
            SiltyClay,
            10.0,
            FixedSpray,
            1.60,
            0.60,
            0.55,
            34.0,
            Some(6.6),
            6,
        ),
        (
            LoamySand,
            8.0,
            FixedSpray,
            1.40,
            0.70,
            0.90,
            55.0,
            Some(17.3),
            4,
        ),
        (
            SandyLoam,
            12.0,
            FixedSpray,
            1.40,
            0.75,
            2.00,
            114.0,
            Some(14.4),
            8,
        ),
        (ClayLoam, 2.0, Drip, 0.20, 0.80, 2.25, 844.0, None, 1),
        (Clay, 20.0, Rotor, 0.35, 0.65, 0.55, 145.0, Some(24.0), 7),
    ];
    for (soil, slope, kind, rate, efficiency, storage_in, minutes, longest, passes) in rows {
        let model = of(soil, slope, kind, rate, efficiency);
        let got = dose(&model, Depth::from_mm(storage_in * INCH), 86_400).unwrap();
        let ideal = (model.gross_of_net(got.wanted) / model.rate.value).minutes();
        assert!((ideal - minutes).abs() < 0.5, "{soil:?}: {ideal} minutes");
        assert_eq!(got.passes, passes, "{soil:?}");
        match (model.longest_pass, longest) {
            (Some(got), Some(want)) => {
                assert!(
                    (got.minutes() - want).abs() < 0.05,
                    "{soil:?}: {} minutes",
                    got.minutes()
                );
            }
            (got, want) => assert_eq!(got.is_none(), want.is_none(), "{soil:?}"),
        }
    }
}
