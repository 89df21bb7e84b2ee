//! The trade's constants by unit algebra (definitions of inch, foot and gallon): none is stored anywhere.

use science::sprinkler::{rate_from_flow_mm_h, rate_from_volume_mm_h};
use science::units::{L_PER_GALLON, M_PER_FOOT, M2_PER_FT2, MM_PER_INCH};

fn near(got: f64, want: f64, relative: f64) {
    assert!(
        ((got - want) / want).abs() < relative,
        "{got} is not near {want}"
    );
}

#[test]
fn a_millilitre_a_minute_on_a_square_centimetre_is_600_mm_an_hour() {
    near(rate_from_volume_mm_h(1.0, 1.0, 1.0), 600.0, 1e-12);
}

#[test]
fn a_millilitre_a_minute_on_a_square_inch_is_3_66_inches_an_hour() {
    let throat_cm2 = (MM_PER_INCH / 10.0).powi(2);
    near(
        rate_from_volume_mm_h(1.0, throat_cm2, 1.0) / MM_PER_INCH,
        3.66,
        5e-4,
    );
}

#[test]
fn a_gallon_a_minute_on_a_square_foot_is_96_25_inches_an_hour() {
    near(
        rate_from_flow_mm_h(L_PER_GALLON, M2_PER_FT2) / MM_PER_INCH,
        96.25,
        1e-4,
    );
}

/// NIST Special Publication 811, B.8.
#[test]
fn a_pound_on_a_square_inch_is_6_894_757_kilopascals() {
    near(science::units::KPA_PER_PSI, 6.894_757, 1e-6);
}

#[test]
fn an_inch_on_a_thousand_square_feet_is_623_gallons() {
    near(
        1000.0 * M2_PER_FT2 * MM_PER_INCH / L_PER_GALLON,
        623.0,
        1e-3,
    );
}

#[test]
fn a_hundred_cubic_feet_are_748_gallons() {
    near(
        100.0 * M_PER_FOOT.powi(3) * 1000.0 / L_PER_GALLON,
        748.0,
        1e-3,
    );
}
