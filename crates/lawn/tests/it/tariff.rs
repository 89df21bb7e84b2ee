//! Bills of a made-up tariff, worked by hand, and what holds of any.

use jiff::civil::date;
use lawn::quantity::Volume;
use lawn::site::tariff::{SeasonRates, Sewer, Tariff, Tier, on, validate};
use proptest::prelude::*;

fn m3(m3: f64) -> Volume {
    Volume::from_l(m3 * 1000.0)
}

fn tier(up_to_m3: Option<f64>, price_per_m3: f64) -> Tier {
    Tier {
        up_to_m3,
        price_per_m3,
    }
}

/// The house takes 6 m³; half the water is charged as sewage; a tenth more in drought; dearer from June to September.
fn town() -> Tariff {
    Tariff {
        from: date(2026, 1, 1),
        fixed_per_month: 12.0,
        house_m3: 6.0,
        tiers: vec![
            tier(Some(10.0), 2.0),
            tier(Some(20.0), 3.0),
            tier(None, 5.0),
        ],
        seasons: vec![SeasonRates {
            first_month: 6,
            last_month: 9,
            tiers: vec![tier(Some(10.0), 2.5), tier(None, 6.0)],
        }],
        sewer: Some(Sewer {
            share: 0.5,
            price_per_m3: 4.0,
        }),
        surcharge_pct: 10.0,
    }
}

#[test]
fn bills_by_hand() {
    let town = town();
    let cost = |month, used, more| (town.cost(month, m3(used), m3(more)) * 1e9).round() / 1e9;
    // In May the lawn's 10 m³ lie from 6 to 16: 4 at 2 × 1.1 + 2, 6 at 3 × 1.1 + 2.
    assert_eq!(cost(5, 0.0, 10.0), 48.6);
    // 10 more reach to 26: 4 in the second tier, 6 at 5 × 1.1 + 2.
    assert_eq!(cost(5, 10.0, 10.0), 66.2);
    // In July: 4 at 2.5 × 1.1 + 2, 6 at 6 × 1.1 + 2.
    assert_eq!(cost(7, 0.0, 10.0), 70.6);
    assert_eq!(cost(7, 0.0, 0.0), 0.0);
    let next = |month, used| (town.next_m3(month, m3(used)) * 1e9).round() / 1e9;
    assert_eq!(
        [next(5, 0.0), next(5, 4.0), next(5, 13.9), next(5, 14.0)],
        [4.2, 5.3, 5.3, 7.5]
    );
    assert_eq!([next(9, 3.9), next(10, 3.9)], [4.75, 4.2]);
}

#[test]
fn a_season_may_go_over_the_turn_of_the_year() {
    let mut town = town();
    town.seasons[0].first_month = 11;
    town.seasons[0].last_month = 2;
    let dear = |month| town.next_m3(month, m3(50.0)) > 8.0;
    let months: Vec<i8> = (1..=12).filter(|m| dear(*m)).collect();
    assert_eq!(months, [1, 2, 11, 12]);
}

#[test]
fn what_does_not_hold_is_said_at_its_field() {
    let field = |change: &dyn Fn(&mut Tariff)| {
        let mut tariff = town();
        change(&mut tariff);
        validate(&[tariff]).unwrap_err().field
    };
    assert_eq!(field(&|t| t.tiers.clear()), "tariffs[0].tiers");
    assert_eq!(
        field(&|t| t.tiers[0].up_to_m3 = None),
        "tariffs[0].tiers[0].up_to_m3"
    );
    assert_eq!(
        field(&|t| t.tiers[2].up_to_m3 = Some(40.0)),
        "tariffs[0].tiers[2].up_to_m3"
    );
    assert_eq!(
        field(&|t| t.tiers[1].up_to_m3 = Some(10.0)),
        "tariffs[0].tiers[1].up_to_m3"
    );
    assert_eq!(
        field(&|t| t.tiers[1].price_per_m3 = -1.0),
        "tariffs[0].tiers[1].price_per_m3"
    );
    assert_eq!(
        field(&|t| t.seasons[0].last_month = 13),
        "tariffs[0].seasons[0].last_month"
    );
    assert_eq!(
        field(&|t| t.seasons[0].tiers.clear()),
        "tariffs[0].seasons[0].tiers"
    );
    assert_eq!(
        field(&|t| t.sewer = Some(Sewer {
            share: 1.5,
            price_per_m3: 1.0
        })),
        "tariffs[0].sewer.share"
    );
    assert_eq!(
        field(&|t| t.fixed_per_month = f64::NAN),
        "tariffs[0].fixed_per_month"
    );
    assert_eq!(
        validate(&[town(), town()]).unwrap_err().field,
        "tariffs[1].from"
    );
}

#[test]
fn the_tariff_of_a_day_is_the_last_that_began() {
    let later = Tariff::flat(date(2026, 7, 1), 9.0);
    let tariffs = [town(), later];
    validate(&tariffs).unwrap();
    let of = |d| on(&tariffs, d).map(|t| t.from);
    assert_eq!(of(date(2025, 12, 31)), None);
    assert_eq!(of(date(2026, 6, 30)), Some(date(2026, 1, 1)));
    assert_eq!(of(date(2026, 7, 1)), Some(date(2026, 7, 1)));
}

proptest! {
    #[test]
    fn a_bill_is_the_sum_of_its_parts_and_grows_by_the_next_price(
        house in 0.0..30.0f64,
        ends in prop::collection::btree_set(1..60u32, 0..4),
        prices in prop::collection::vec(0.0..9.0f64, 5),
        month in 1..=12i8,
        used in 0.0..70.0f64,
        (a, b) in (0.0..40.0f64, 0.0..40.0f64),
    ) {
        let mut tiers: Vec<Tier> = ends.iter().zip(&prices).map(|(end, price)| tier(Some(f64::from(*end)), *price)).collect();
        tiers.push(tier(None, prices[4]));
        let tariff = Tariff { house_m3: house, tiers, ..town() };
        validate(std::slice::from_ref(&tariff)).unwrap();
        let whole = tariff.cost(month, m3(used), m3(a + b));
        let parts = tariff.cost(month, m3(used), m3(a)) + tariff.cost(month, m3(used + a), m3(b));
        prop_assert!((whole - parts).abs() < 1e-6, "{whole} {parts}");
        // A millilitre more costs what the next one is said to, unless a tier ends within it.
        let more = 1e-6;
        let at = house + used;
        let near_end = |end: &u32| (f64::from(*end) - at).abs() <= more;
        if !ends.iter().any(near_end) && (at - 10.0).abs() > more {
            let step = tariff.cost(month, m3(used), m3(more)) / more;
            prop_assert!((step - tariff.next_m3(month, m3(used))).abs() < 1e-3);
        }
    }
}
