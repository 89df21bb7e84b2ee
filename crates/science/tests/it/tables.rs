//! The tables hold together: ordered ranges, no gaps, hemispheres mirrored. Sources are named at the tables.

use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::{
    CropCoefficients, Grass, Season, crop_coefficient, growth_factor, growth_potential,
};

#[test]
fn every_range_is_ordered() {
    for grass in Grass::ALL {
        let p = grass.profile();
        assert!(
            p.root_depth_mm.is_sorted() && p.mowing_mm.is_sorted(),
            "{}",
            p.name
        );
    }
    for kind in Kind::ALL {
        let d = kind.defaults();
        assert!(
            d.rate_mm_h.is_sorted() && d.evenness.is_sorted() && d.spray_loss.is_sorted(),
            "{}",
            d.name
        );
        assert!(d.spray_loss[2] <= 0.4);
    }
}

#[test]
fn steeper_ground_holds_no_more() {
    for texture in Texture::ALL {
        let by_slope = [0.0, 3.0, 6.0, 12.0, 30.0].map(|s| texture.surface_accumulation_mm(s));
        assert!(by_slope.is_sorted_by(|a, b| a >= b), "{}", texture.name());
        assert!(by_slope[0] > 0.0 && texture.intake_mm_h() > 0.0);
    }
}

#[test]
fn clay_loam_by_the_irrigation_association() {
    let soil = Texture::ClayLoam;
    assert!((soil.available_mm_per_mm() - 0.18).abs() < 1e-12);
    assert!((soil.intake_mm_h() - 5.08).abs() < 1e-9);
    assert!((soil.surface_accumulation_mm(6.1) - 0.18 * 25.4).abs() < 1e-9);
}

#[test]
fn southern_months_are_shifted_by_six() {
    for season in [Season::Cool, Season::Warm] {
        for month in 1..=12u8 {
            let north = crop_coefficient(CropCoefficients::CaliforniaMonthly, season, month, 40.0);
            let south = crop_coefficient(
                CropCoefficients::CaliforniaMonthly,
                season,
                (month + 5) % 12 + 1,
                -40.0,
            );
            assert!((north - south).abs() < f64::EPSILON);
        }
    }
}

#[test]
fn dormancy_begins_where_growth_potential_falls_to_a_twentieth() {
    for season in [Season::Cool, Season::Warm] {
        for tenth in -300..200 {
            let t = f64::from(tenth) / 10.0;
            let dormant = growth_factor(season, t) < 1.0;
            assert_eq!(
                dormant,
                growth_potential(season, t) < 0.05,
                "{season:?} at {t} °C"
            );
        }
    }
}

#[test]
fn cold_makes_dormant_and_heat_does_not() {
    assert!((growth_factor(Season::Warm, 5.0) - 0.25).abs() < f64::EPSILON);
    assert!((growth_factor(Season::Warm, 26.0) - 1.0).abs() < f64::EPSILON);
    assert!((growth_factor(Season::Cool, 38.0) - 1.0).abs() < f64::EPSILON);
    assert!((growth_factor(Season::Cool, 0.0) - 0.25).abs() < f64::EPSILON);
}

/// TR-55 (1986), appendix A, "Disturbed soil profiles": group by texture; from memory of that table. Silt is not in it.
#[test]
fn hydrologic_groups_by_texture() {
    use science::curve_number::HydrologicGroup::{A, B, C, D};
    use science::soil::Texture::{
        Clay, ClayLoam, Loam, LoamySand, Sand, SandyClay, SandyClayLoam, SandyLoam, Silt, SiltLoam,
        SiltyClay, SiltyClayLoam,
    };
    let groups = [
        (A, vec![Sand, LoamySand, SandyLoam]),
        (B, vec![SiltLoam, Loam, Silt]),
        (C, vec![SandyClayLoam]),
        (D, vec![ClayLoam, SiltyClayLoam, SandyClay, SiltyClay, Clay]),
    ];
    for (group, textures) in groups {
        for texture in textures {
            assert_eq!(texture.hydrologic_group(), group, "{}", texture.name());
        }
    }
}
