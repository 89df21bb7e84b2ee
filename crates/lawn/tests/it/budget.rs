//! What water offices allow, worked by hand from their formulas: EPA WaterSense's water budget approach and California's Model Water
//! Efficient Landscape Ordinance (both from memory). The weather is made up.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::quantity::Area;
use lawn::record::budget::budgets;
use lawn::site::{Regime, SiteDocument, Use, Zone};
use lawn::weather::DailyWeather;
use science::sprinkler::Kind;
use science::turf::Grass;

use crate::fixture::{plain, site, zone};

/// Fescue under sprays, bermudagrass on drip, and a part that is switched off.
fn three() -> SiteDocument {
    site(vec![
        Zone {
            area_m2: Area::from_m2(500.0),
            ..zone("cool")
        },
        Zone {
            area_m2: Area::from_m2(1000.0),
            grass: Grass::HybridBermudagrass,
            sprinkler: Kind::Drip,
            ..zone("warm")
        },
        Zone {
            area_m2: Area::from_m2(9999.0),
            regime: Regime::Off,
            ..zone("off")
        },
    ])
}

/// 4 mm a day in May, 6 in June, 7 in July; 2 mm of rain a day in July.
fn days(from: Date, to: Date) -> Vec<DailyWeather> {
    from.series(1.day())
        .take_while(|d| *d <= to)
        .map(|d| match d.month() {
            5 => plain(d, 4.0, 0.0),
            6 => plain(d, 6.0, 0.0),
            _ => plain(d, 7.0, 2.0),
        })
        .collect()
}

fn near(got: f64, want: f64) {
    assert!(
        (got - want).abs() < 1e-9 * want.abs().max(1.0),
        "{got} is not {want}"
    );
}

#[test]
fn three_months_by_hand() {
    let found = budgets(&three(), &days(date(2026, 5, 1), date(2026, 7, 31)));
    let et0 = 31.0 * 4.0 + 30.0 * 6.0 + 31.0 * 7.0;
    near(found.et0_mm.mm(), et0);
    near(found.rain_mm.mm(), 62.0);
    // June: 180 less 0 is more than July: 217 less 62.
    near(
        found.watersense_allowance.unwrap().m3(),
        0.70 * 180.0 * 1500.0 / 1000.0,
    );
    assert_eq!(found.peak_month, Some(date(2026, 6, 1)));
    near(found.mawa.m3(), et0 * 0.55 * 1500.0 / 1000.0);
    let etwu = et0 * (0.8 * 500.0 / 0.75 + 0.6 * 1000.0 / 0.81) / 1000.0;
    near(found.etwu.m3(), etwu);
    let mut park = three();
    park.site.used_as = Use::Other;
    let park = budgets(&park, &days(date(2026, 5, 1), date(2026, 7, 31)));
    near(park.mawa.m3(), et0 * 0.45 * 1500.0 / 1000.0);
    near(park.etwu.m3(), etwu);
}

#[test]
fn only_whole_months_are_peaks() {
    let peak = |from, to| budgets(&three(), &days(from, to)).watersense_allowance;
    assert_eq!(peak(date(2026, 5, 2), date(2026, 5, 31)), None);
    assert_eq!(peak(date(2026, 5, 1), date(2026, 5, 30)), None);
    // Of June nothing but its last day is missing: May is the peak.
    let may = peak(date(2026, 5, 1), date(2026, 6, 29)).unwrap();
    near(may.m3(), 0.70 * 124.0 * 1500.0 / 1000.0);
    // February of a leap year has 29 days.
    assert_eq!(peak(date(2028, 2, 1), date(2028, 2, 28)), None);
    assert!(peak(date(2028, 2, 1), date(2028, 2, 29)).is_some());
    let none = budgets(&three(), &[]);
    assert_eq!((none.watersense_allowance, none.mawa.l()), (None, 0.0));
}
