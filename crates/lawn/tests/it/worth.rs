//! What a probe and a measurement are worth, on made-up ground that differs from the book. The figures are printed; what is asserted is what the product
//! promises of them.

use jiff::civil::{Date, date};
use lawn::engine::correction::{Correction, Doubt};
use lawn::engine::dose;
use lawn::engine::root_zone::{self, Irrigation};
use lawn::engine::slot::{HORIZON, Opening};
use lawn::engine::trial::{Believed, Course};
use lawn::engine::uncertain::{Sharpen, ZoneFigure};
use lawn::engine::worth_measuring::{TRIED_DAYS, tests_worth_doing, worth_measuring};
use lawn::engine::zone_model::ZoneModel;
use lawn::measure::seen::{Moisture, Seen};
use lawn::quantity::{Area, Depth, RunTime};
use lawn::site::calendar::Interval;
use lawn::site::{Controller, Exposure, Zone};
use lawn::sourced::{Source, Sourced};
use lawn::weather::DailyWeather;
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::Grass;
use standins::climate::Climate;

use crate::fixture::{made_up, site};

/// SplitMix64 (Steele, Lea and Flood 2014).
struct Draws(u64);

impl Draws {
    #[allow(clippy::cast_precision_loss)] // 52 bits fit
    fn share(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        ((z ^ (z >> 31)) >> 12) as f64 / (1u64 << 52) as f64
    }

    fn within(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.share()
    }

    fn pick<T: Copy>(&mut self, of: &[T]) -> T {
        let n = u32::try_from(of.len()).unwrap();
        let at = RunTime::from_s(self.within(0.0, f64::from(n))).floor_s();
        of[usize::try_from(at).unwrap().min(of.len() - 1)]
    }

    /// Of the standard normal distribution, near enough: twelve shares (central limit).
    fn normal(&mut self) -> f64 {
        (0..12).map(|_| self.share()).sum::<f64>() - 6.0
    }
}

/// A summer's weather, with days after it to look ahead to.
fn summer(seed: u64, climate: Climate) -> Vec<DailyWeather> {
    let document = site(Vec::new());
    let all = made_up(
        &document,
        climate,
        seed,
        date(2026, 5, 20),
        date(2026, 9, 10),
    );
    all[12..].to_vec()
}

/// Six hours each dawn.
fn dawns(days: usize) -> Vec<Opening> {
    (0..days)
        .map(|day| {
            let start_s = i64::try_from(day).unwrap() * 86_400 + 3 * 3600;
            let window = Interval {
                start_s,
                end_s: start_s + 6 * 3600,
            };
            Opening {
                day,
                window,
                clock: Some(window),
                after_noon: false,
                evening: false,
            }
        })
        .collect()
}

const TODAY: Date = Date::constant(2026, 6, 1);
const LATITUDE: f64 = 36.4;

fn model(zone: &Zone) -> ZoneModel {
    ZoneModel::new(zone, &Controller::default(), LATITUDE)
}

/// A zone of which the kind of everything is known, and nothing measured.
fn zone(draws: &mut Draws) -> Zone {
    let kinds = [
        Kind::FixedSpray,
        Kind::MultiStream,
        Kind::Rotor,
        Kind::Impact,
    ];
    let grasses = [
        Grass::TallFescue,
        Grass::KentuckyBluegrass,
        Grass::PerennialRyegrass,
        Grass::HybridBermudagrass,
        Grass::Zoysiagrass,
    ];
    let soils = [
        Texture::LoamySand,
        Texture::SandyLoam,
        Texture::Loam,
        Texture::ClayLoam,
        Texture::Clay,
    ];
    let mut zone = Zone::new(
        "Zone",
        draws.pick(&grasses),
        draws.pick(&soils),
        draws.pick(&kinds),
    );
    zone.area_m2 = Area::from_m2(draws.within(200.0, 1500.0));
    zone.slope_pct = draws.within(0.0, 10.0);
    zone.exposure = draws.pick(&[Exposure::FullSun, Exposure::FullSun, Exposure::HalfShade]);
    zone
}

/// The ground as it is: every figure somewhere in its range.
fn truth(zone: &Zone, draws: &mut Draws) -> Zone {
    let book = model(zone);
    ZoneFigure::ALL
        .into_iter()
        .fold(zone.clone(), |other, figure| {
            let of = figure.of(&book);
            let value = draws.within(of.low, of.high);
            figure.set(&other, &book, value)
        })
}

/// Tests and how far what they tell may be off, share.
const TESTS: [(Sharpen, f64); 5] = [
    (Sharpen::CanTest, 0.10),
    (Sharpen::PullACore, 0.15),
    (Sharpen::JarTest, 0.15),
    (Sharpen::TimeTheRunoff, 0.25),
    // A month of readings teaches what the turf uses beyond the book (`engine::correction`).
    (Sharpen::ReadTheMoisture, 0.10),
];

/// A zone after a test: each figure that it tells as the ground is, give or take the test.
fn tested(zone: &Zone, truth: &Zone, test: Sharpen, draws: &mut Draws) -> Zone {
    let (_, off) = TESTS.iter().find(|(t, _)| *t == test).unwrap();
    let told = test.tells().iter();
    told.fold(zone.clone(), |zone, figure| {
        told_of(&zone, truth, *figure, *off, draws)
    })
}

/// A zone with a figure that was measured.
fn told_of(zone: &Zone, truth: &Zone, figure: ZoneFigure, off: f64, draws: &mut Draws) -> Zone {
    let book = model(zone);
    let real = figure.of(&model(truth)).value;
    let value = real * (1.0 + off / 2.0 * draws.normal()).max(0.3);
    let measured = Sourced {
        value,
        low: value * (1.0 - off),
        high: value * (1.0 + off),
        source: Source::Measured {
            test: "test".to_owned(),
            date: TODAY,
        },
    };
    figure.put(zone, &book, measured)
}

/// Harm and waste of a summer, the mean of some, m³ over all zones.
fn cost(believed: &[Zone], truth: &[Zone], summers: &[Vec<DailyWeather>]) -> f64 {
    let openings = dawns(92 + HORIZON);
    let of = summers.iter();
    of.map(|days| cost_of(believed, truth, days, &openings))
        .sum::<f64>()
        / f64::from(u32::try_from(summers.len()).unwrap())
}

fn cost_of(believed: &[Zone], truth: &[Zone], days: &[DailyWeather], openings: &[Opening]) -> f64 {
    let course = Course {
        days,
        openings,
        by_hand: false,
        begins: 0.0,
    };
    believed
        .iter()
        .zip(truth)
        .map(|(believed, truth)| {
            let (book, real) = (model(believed), model(truth));
            let trial = Believed::new(&book, &course).tried_on(&real, &course, 92);
            trial.cost().mm() * truth.area_m2.m2() / 1000.0
        })
        .sum()
}

/// What is worth doing next on all zones: by volume.
fn next_test(zones: &[Zone], course: &Course) -> (usize, Sharpen) {
    let of = |zone: &Zone| {
        let worth = worth_measuring(zone, &Controller::default(), LATITUDE, course, TODAY);
        tests_worth_doing(&worth)
    };
    let all = zones.iter().enumerate().flat_map(|(i, zone)| {
        let area = zone.area_m2;
        of(zone)
            .into_iter()
            .map(move |doing| (i, doing.test, (doing.loss * area).l()))
    });
    let possible = all.filter(|(_, test, _)| TESTS.iter().any(|(t, _)| t == test));
    let best = possible.max_by(|a, b| a.2.total_cmp(&b.2)).unwrap();
    (best.0, best.1)
}

#[test]
fn four_tests_that_are_worth_it_lower_harm_and_waste_more_than_four_at_random() {
    let mut better = 0;
    let (mut by_rule, mut at_random, mut untested) = (0.0, 0.0, 0.0);
    for seed in 0..100u64 {
        let mut draws = Draws(seed * 7919 + 1);
        let climate = Climate::ALL[usize::try_from(seed % 5).unwrap()];
        let summers: Vec<_> = (0..3)
            .map(|year| summer(seed + 1000 * year, climate))
            .collect();
        let book: Vec<Zone> = (0..5).map(|_| zone(&mut draws)).collect();
        let real: Vec<Zone> = book.iter().map(|z| truth(z, &mut draws)).collect();
        // Of the days ahead their ET is known well enough; none of their rain.
        let ahead: Vec<DailyWeather> = summers[0][..TRIED_DAYS + HORIZON]
            .iter()
            .map(|d| DailyWeather {
                rain: Depth::ZERO,
                ..*d
            })
            .collect();
        let course = Course {
            days: &ahead,
            openings: &dawns(TRIED_DAYS + HORIZON),
            by_hand: false,
            begins: 0.2,
        };
        let before = cost(&book, &real, &summers);
        let follow = |by_rule: bool, draws: &mut Draws| {
            let mut zones = book.clone();
            let mut done: Vec<(usize, Sharpen)> = Vec::new();
            for _ in 0..4 {
                let next = if by_rule {
                    next_test(&zones, &course)
                } else {
                    loop {
                        let (test, _) = draws.pick(&TESTS);
                        let next = (draws.pick(&[0, 1, 2, 3, 4]), test);
                        if !done.contains(&next) {
                            break next;
                        }
                    }
                };
                done.push(next);
                zones[next.0] = tested(&zones[next.0], &real[next.0], next.1, draws);
            }
            cost(&zones, &real, &summers)
        };
        let ruled = follow(true, &mut draws);
        // Of four at random some are lucky: what they come to on the mean.
        let chance = (0..3).map(|_| follow(false, &mut draws)).sum::<f64>() / 3.0;
        better += i32::from(ruled < chance);
        untested += before;
        by_rule += ruled;
        at_random += chance;
    }
    println!(
        "four tests of 100 sites: better than at random on {better}; harm + waste {untested:.0} m³ untested, {at_random:.0} after four at random, {by_rule:.0} after four worth it"
    );
    assert!(better >= 80, "{better} of 100");
    assert!(by_rule < at_random && at_random < untested);
}

/// Mean error of the depletion in the book over a summer, by weekly readings of a calibrated probe or without.
fn error_of_book(seed: u64, readings: bool, unknown: &[ZoneFigure]) -> f64 {
    let mut draws = Draws(seed * 104_729 + 7);
    let days = summer(seed, Climate::ALL[usize::try_from(seed % 5).unwrap()]);
    let zone = zone(&mut draws);
    let book = model(&zone);
    let other = unknown.iter().fold(zone, |other, figure| {
        let of = figure.of(&book);
        let value = draws.within(of.low, of.high);
        figure.set(&other, &book, value)
    });
    let real = model(&other);
    let (mut told, mut is) = (Depth::ZERO, Depth::ZERO);
    let mut doubt = Doubt::of_book(&book);
    let mut off = 0.0;
    for (n, day) in days[..92].iter().enumerate() {
        told = (told + doubt.drifts(book.etc(day)))
            .max(Depth::ZERO)
            .min(book.taw);
        if readings && n % 7 == 3 {
            // The probe shows the ground's water, give or take a hundredth of the volume.
            let full = real.field_capacity;
            let water = full - is.mm() / real.root_depth.value.mm();
            let seen = Seen::Moisture(Moisture::Percent {
                reading: 100.0 * (water + 0.01 * draws.normal()).max(0.0),
                at_field_capacity: Some(100.0 * full),
            });
            let raw = book.raw(book.etc(day));
            let correction = Correction::of(&seen, &book, told, raw, doubt).unwrap();
            told = (told + correction.adjustment())
                .max(Depth::ZERO)
                .min(book.taw);
            doubt = correction.leaves(doubt);
        }
        let mut given = (Irrigation::default(), Irrigation::default());
        if told > book.raw(book.etc(day)) - book.etc(day)
            && let Some(dose) = dose::dose(&book, told, 6 * 3600)
        {
            let pass = RunTime::from_whole_s(dose.pass_s);
            given = (dose.irrigation, dose::irrigation(&real, dose.passes, pass));
        }
        let balance = root_zone::day(&book, told, day, given.0);
        doubt = doubt.after(&book, &balance);
        told = balance.end;
        is = root_zone::day(&real, is, day, given.1).end;
        off += (told - is).abs().mm();
    }
    off / 92.0
}

/// Mean over a hundred summers, without readings and with.
fn errors(unknown: &[ZoneFigure]) -> [f64; 2] {
    [false, true].map(|readings| {
        let errors = (0..100).map(|seed| error_of_book(seed, readings, unknown));
        errors.sum::<f64>() / 100.0
    })
}

#[test]
fn weekly_readings_of_a_calibrated_probe_halve_the_error_of_the_book() {
    // Who sets a probe at root depth knows how deep the roots are.
    let unknown: Vec<ZoneFigure> = ZoneFigure::ALL
        .into_iter()
        .filter(|f| *f != ZoneFigure::RootDepth)
        .collect();
    let [without, with] = errors(&unknown);
    let [guessed, read] = errors(&ZoneFigure::ALL);
    println!(
        "mean error of depletion over 100 summers: {without:.2} mm without readings, {with:.2} mm with one a week; with roots guessed too {guessed:.2} and {read:.2}"
    );
    assert!(with <= without / 2.0, "{with} of {without}");
    assert!(read < guessed);
}
