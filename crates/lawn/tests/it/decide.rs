//! Keep green or let go, by past summers: worked by hand on made-up weather, and on a climate's.

use std::collections::BTreeMap;

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::quantity::Area;
use lawn::site::rules::{Never, Rule, Says};
use lawn::site::{Regime, SiteDocument, Weekday, Zone};
use lawn::stress::decide::{Decision, decide, kept_green_until};
use lawn::wanted::always;
use lawn::weather::DailyWeather;
use proptest::prelude::*;
use science::turf::Grass;
use standins::climate::Climate;

use crate::fixture::{made_up, model, plain, site, window, zone};

const TODAY: Date = date(2026, 6, 1);

fn nightly(zones: Vec<Zone>) -> SiteDocument {
    let mut document = site(zones);
    document.windows = vec![window(&Weekday::ALL, "01:00", "07:00")];
    document.site.price_per_m3 = Some(2.0);
    document
}

fn of(grass: Grass) -> Zone {
    let mut zone = zone("a");
    zone.grass = grass;
    zone.area_m2 = Area::from_m2(100.0);
    zone
}

/// Days from the first of May to the end of the year: 30 °C and no rain, from 1 September on 20 °C and 10 mm every third day.
fn dry_summer(year: i16) -> Vec<DailyWeather> {
    let first = date(year, 5, 1);
    let days = first.series(1.day()).take(245);
    let day = |day: Date| {
        let is_autumn = day >= date(year, 9, 1);
        DailyWeather {
            tmin_c: Some(12.0),
            tmax_c: Some(if is_autumn { 20.0 } else { 30.0 }),
            ..plain(
                day,
                if is_autumn { 2.0 } else { 5.0 },
                if is_autumn && day.day() % 3 == 0 {
                    10.0
                } else {
                    0.0
                },
            )
        }
    };
    days.map(day).collect()
}

fn decided(document: &SiteDocument, record: &[DailyWeather]) -> Decision {
    let used = BTreeMap::from([("a".to_owned(), 0.0)]);
    decide(&always, document, record, TODAY, &used, |_, _| ()).unwrap()
}

#[test]
fn a_dry_summer_is_worked_by_hand() {
    let zone = of(Grass::TallFescue);
    let model = model(&zone);
    let document = nightly(vec![zone]);
    let record = dry_summer(2025);
    let found = decided(&document, &record);
    assert_eq!(found.summers, [2025]);
    let fescue = &found.zones[0];
    // It wakes by rain and five mild days: 10 mm on 3 and 6 September, the fifth mild day is the fifth: proposed at its end.
    let wakes = fescue.wakes.unwrap();
    assert_eq!(wakes.middle, date(2026, 9, 6), "12 mm in ten days");
    // Nobody waters from 1 June on: brown on the seventh day of more than nine tenths gone, by the balance's own arithmetic.
    let (taw, mut gone, mut dry, mut days) = (model.taw.mm(), 0.0, 0, 0);
    while dry < 7 {
        let etc = model.etc(&record[40]).mm();
        let raw = model.raw(model.etc(&record[40])).mm();
        let ks = ((taw - gone) / (taw - raw)).min(1.0);
        gone += ks * etc;
        days += 1;
        dry += u32::from(gone / taw > 0.9);
    }
    assert_eq!(fescue.brown_in_days.unwrap().middle, days);
    // 30 °C counts three quarters of a day of heat: 28 days are spent on the 38th, more than 28.
    assert_eq!(fescue.survives_days.unwrap().middle, 38);
    // Crowns: 12 mm net every fourteen days keep it; the runs' steps and what is lost on the way come on top.
    assert_eq!(fescue.lost_with_crowns, 0);
    let crowns = fescue.crowns_l.unwrap().middle.l() / 100.0;
    let gross = model
        .gross_of_net(lawn::quantity::Depth::from_mm(12.0))
        .mm();
    let times = (crowns / gross).round();
    assert!(
        (6.0..=7.0).contains(&times) && (crowns / gross - times).abs() < 0.1,
        "{crowns} by {gross}"
    );
    // Green: what it uses, made up for; 92 days of summer and the first of September.
    let uses: f64 = record
        .iter()
        .filter(|day| (date(2025, 6, 1)..=date(2025, 9, 6)).contains(&day.date))
        .map(|day| model.etc(day).mm() - day.rain.mm())
        .sum();
    let green = fescue.green_l.unwrap().middle.l() / 100.0;
    let share = green
        / model
            .gross_of_net(lawn::quantity::Depth::from_mm(uses))
            .mm();
    assert!((0.9..=1.1).contains(&share), "{share}");
    assert_eq!(fescue.green_dry_days.unwrap().high, 0);
    // Bunch grass of 100 m²: 4 kg of seed.
    assert_eq!(fescue.repair.seed_kg, Some(4.0));
    assert!(!fescue.spreads);
}

#[test]
fn a_ban_leaves_what_is_kept_green_dry_and_crowns_without_water() {
    let mut document = nightly(vec![of(Grass::PerennialRyegrass)]);
    document.rules.list = vec![Rule {
        name: "Ban".to_owned(),
        from: Some(TODAY),
        to: None,
        stage: None,
        zones: Vec::new(),
        exempt: Vec::new(),
        says: Says::Never(Never::default()),
    }];
    let ryegrass = &decided(&document, &dry_summer(2025)).zones[0];
    assert_eq!(ryegrass.green_l.unwrap().high.l(), 0.0);
    assert!(ryegrass.green_dry_days.unwrap().middle > 60);
    // 21 days of heat, three quarters of a day each: more than 21 on the 29th.
    assert_eq!(ryegrass.survives_days.unwrap().middle, 29);
    assert_eq!(ryegrass.lost_with_crowns, 1);
}

#[test]
fn without_a_whole_past_summer_nothing_is_told() {
    let document = nightly(vec![of(Grass::TallFescue)]);
    let record = dry_summer(2025);
    let none = decided(&document, &record[..100]);
    assert!(none.summers.is_empty());
    assert_eq!(none.zones[0].green_l, None);
    assert!(decided(&document, &[]).summers.is_empty());
    // Seed and zones that are off are not for choosing.
    let seed = Zone {
        regime: Regime::Seedbed,
        ..of(Grass::TallFescue)
    };
    assert!(decided(&nightly(vec![seed]), &record).zones.is_empty());
}

#[test]
fn a_choice_to_keep_it_green_holds_for_a_summer() {
    use Regime::{Dormant, Established, Recovering};
    let on = |month, day| date(2026, month, day);
    let kept = [(Established, on(6, 1))];
    assert_eq!(kept_green_until(&kept, on(6, 2)), Some(on(9, 29)));
    assert_eq!(kept_green_until(&kept, on(9, 29)), None);
    assert_eq!(kept_green_until(&[], on(6, 2)), None);
    // Let go since; or green again after it slept, which is no choice for the next drought.
    let gone = [(Dormant, on(7, 1)), (Established, on(6, 1))];
    assert_eq!(kept_green_until(&gone, on(7, 2)), None);
    let again = [
        (Established, on(8, 1)),
        (Recovering, on(7, 20)),
        (Dormant, on(6, 1)),
    ];
    assert_eq!(kept_green_until(&again, on(8, 2)), None);
    // Chosen again after that it holds.
    let chosen = [(Established, on(8, 10)), (Established, on(8, 1))];
    assert!(kept_green_until(&chosen, on(8, 11)).is_some());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// Whatever the climate: letting go takes no more water than keeping green, figures are in order, a grass that sleeps is brown before it dies, and a summer
    /// that is told is a summer of the record.
    #[test]
    fn figures_are_in_order(climate in prop::sample::select(vec![Climate::Transition, Climate::HumidCool, Climate::MediterraneanDry, Climate::Continental]),
        seed in 1u64..500, grass in prop::sample::select(Grass::ALL.to_vec()), used in 0.0f64..1.0) {
        let document = nightly(vec![of(grass)]);
        let record = made_up(&document, climate, seed, date(2022, 1, 1), date(2025, 12, 31));
        let used = BTreeMap::from([("a".to_owned(), used)]);
        let mut steps = Vec::new();
        let found = decide(&always, &document, &record, TODAY, &used, |done, of| steps.push((done, of))).unwrap();
        prop_assert_eq!(&found.summers, &[2022, 2023, 2024, 2025]);
        prop_assert_eq!(steps, vec![(1, 4), (2, 4), (3, 4), (4, 4)]);
        let zone = &found.zones[0];
        let (green, crowns) = (zone.green_l.unwrap(), zone.crowns_l.unwrap());
        prop_assert!(green.low.l() <= green.middle.l() && green.middle.l() <= green.high.l());
        // One crown watering may come before the green zone's first in a wet summer.
        let one = 100.0 * 12.0 * 2.5;
        prop_assert!(crowns.middle.l() <= green.middle.l() + one, "{} {}", crowns.middle.l(), green.middle.l());
        if let Some(brown) = zone.brown_in_days {
            prop_assert!(brown.low >= 7 && brown.years <= 4);
        }
        prop_assert!(zone.lost_with_crowns <= 4);
    }
}
