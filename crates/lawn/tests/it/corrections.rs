//! What was seen, or read off a probe, against the balance: it moves it, the working says so, and the ledger closes.

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::engine::history::ZoneHistory;
use lawn::measure::seen::{Moisture, Seen, Stay, StoppedBy};
use lawn::quantity::Depth;
use lawn::record::past::carry_on;
use lawn::site::SiteDocument;
use lawn::site::soil_counting::ZoneSeen;
use lawn::view::ledger::Line;
use lawn::view::plan::{Known, plan_week};
use lawn::view::week_plan::WeekPlan;
use proptest::prelude::*;
use science::soil::Texture;

use crate::fixture::{TODAY, dry, site, zone};

/// The plan after twelve dry days, with nothing forecast.
pub fn plan(document: &SiteDocument) -> WeekPlan {
    let observed = dry(document, 12);
    plan_week(&Known::of_record(document, &observed, TODAY)).unwrap()
}

pub fn seen(date: Date, seen: Seen) -> ZoneSeen {
    ZoneSeen {
        date,
        after_noon: false,
        place: None,
        spot: None,
        seen,
    }
}

pub fn moisture(percent: f64) -> Seen {
    Seen::Moisture(Moisture::Percent {
        reading: percent,
        at_field_capacity: Some(28.0),
    })
}

/// The account of the first working: what was corrected, and what it comes to.
fn account(plan: &WeekPlan) -> (Vec<Line>, f64, f64) {
    let cell = plan.zones[0]
        .cells
        .iter()
        .find(|c| c.date == plan.today)
        .unwrap();
    let corrected = cell
        .ledger
        .iter()
        .filter(|l| matches!(l, Line::Corrected { .. }));
    let found = cell.ledger.iter().find_map(|line| match line {
        Line::Account {
            start_mm,
            eta_mm,
            effective_rain_mm,
            irrigation_mm,
            drainage_mm,
            adjustment_mm,
            depletion_mm,
            ..
        } => {
            let sum = *start_mm + *eta_mm - *effective_rain_mm - *irrigation_mm
                + *drainage_mm
                + *adjustment_mm;
            assert!((sum - *depletion_mm).abs().mm() < 1e-9);
            Some((adjustment_mm.mm(), depletion_mm.mm()))
        }
        _ => None,
    });
    let (adjustment, depletion) = found.unwrap();
    (corrected.cloned().collect(), adjustment, depletion)
}

#[test]
fn a_probe_moves_the_balance_and_the_working_says_so_today_and_for_a_week() {
    let mut z = zone("a");
    z.initial_depletion_mm = Some(Depth::ZERO);
    let book = plan(&site(vec![z.clone()]));
    let (none, nothing, by_book) = account(&book);
    assert!(none.is_empty() && nothing.abs() < 1e-9);
    for back in [0, 3] {
        let day = TODAY.checked_sub(back.days()).unwrap();
        z.seen = vec![seen(day, moisture(26.0))];
        let wetter = plan(&site(vec![z.clone()]));
        let (corrected, adjustment, depletion) = account(&wetter);
        let [
            Line::Corrected {
                date,
                told_mm,
                gain,
                adjustment_mm,
                ..
            },
        ] = corrected[..]
        else {
            panic!("{corrected:?}")
        };
        assert_eq!(date, day);
        assert!((told_mm.mm() - 6.0).abs() < 1e-9);
        assert!(gain > 0.5 && gain < 1.0);
        assert!(adjustment_mm.mm() < 0.0 && depletion < by_book);
        // What the reading taught of the drift is corrected too, day by day.
        if back == 0 {
            assert!((adjustment_mm.mm() - adjustment).abs() < 1e-9);
        }
    }
    // A wilt sign where the book says that there is enough: drier.
    let mut fresh = zone("a");
    fresh.soil = Texture::Clay;
    fresh.initial_depletion_mm = Some(Depth::ZERO);
    fresh.active_from = Some(TODAY.checked_sub(2.days()).unwrap());
    let (_, _, before) = account(&plan(&site(vec![fresh.clone()])));
    fresh.seen = vec![seen(
        TODAY,
        Seen::Footprints {
            stay: Stay::Minutes,
        },
    )];
    let (corrected, _, after) = account(&plan(&site(vec![fresh])));
    assert_eq!(corrected.len(), 1);
    assert!(after > before);
}

proptest! {
    /// Whatever is seen, the balance closes and stays within the ground; carried on in pieces it is what it is in one.
    #[test]
    fn a_corrected_ledger_closes(
        readings in prop::collection::vec((0..30_i64, 0..8_u8, 0.0..45.0_f64, any::<bool>()), 0..12), cut in 1..29_usize
    ) {
        let mut z = zone("a");
        z.initial_depletion_mm = Some(Depth::from_mm(5.0));
        z.seen = readings
            .iter()
            .map(|(back, kind, x, after_noon)| ZoneSeen {
                after_noon: *after_noon,
                ..seen(TODAY.checked_sub((1 + back).days()).unwrap(), match kind {
                    0 => Seen::Tips,
                    1 => Seen::Screwdriver { depth_mm: x * 8.0, stopped: StoppedBy::Dry },
                    2 => Seen::Puddles,
                    3 => Seen::Patches,
                    4 => Seen::Footprints { stay: Stay::Rise },
                    _ => moisture(*x),
                })
            })
            .collect();
        let document = site(vec![z.clone()]);
        let days = dry(&document, 30);
        let history = ZoneHistory::of(&document, &z);
        let whole = carry_on(&z, &history, None, &days, &[]);
        for (i, day) in whole.iter().enumerate() {
            let b = &day.balance;
            let change = b.eta - b.effective_rain - b.irrigation.net + b.drainage + b.adjustment;
            prop_assert!((b.end - b.start - change).abs().mm() < 1e-9);
            prop_assert!(b.end >= Depth::ZERO && b.end <= day.taw);
            prop_assert!(day.doubt.variance_mm2 > 0.0 && day.doubt.drift.abs() <= 0.5);
            if i > 0 {
                prop_assert_eq!(whole[i - 1].balance.end, b.start);
            }
        }
        let mut pieces = carry_on(&z, &history, None, &days[..cut], &[]);
        let rest = carry_on(&z, &history, pieces.last(), &days[cut..], &[]);
        pieces.extend(rest);
        prop_assert_eq!(pieces, whole);
    }
}
