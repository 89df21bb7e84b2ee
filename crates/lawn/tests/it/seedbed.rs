//! New grass by the hour: two stores that close, slots over the day, stages by warmth and by what was seen, and every dry hour with its cause.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::engine::history::ZoneHistory;
use lawn::engine::replay::{Foresight, Row, replay};
use lawn::engine::root_zone::DayBalance;
use lawn::engine::schools::new_grass::DryBecause;
use lawn::engine::seedling::Stage;
use lawn::measure::seen::{Grown, Seen};
use lawn::quantity::Depth;
use lawn::record::past::carry_on;
use lawn::site::rules::{Exemption, Never, Rule, Says, Who};
use lawn::site::soil_counting::ZoneSeen;
use lawn::site::{Hours, NewGrassAs, Regime, SiteDocument, Weekday, Zone};
use lawn::view::plan::{Known, plan_week};
use lawn::view::verdict::{Verdict, Warning};
use lawn::view::week_plan::{Cell, WeekPlan};
use lawn::weather::DailyWeather;
use proptest::prelude::*;
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::Grass;

use crate::fixture::{TODAY, plain, site, window, zone};

const SOWN: Date = Date::constant(2026, 6, 5);

/// Common bermudagrass, sown on a day.
fn sown(on: Date) -> Zone {
    let mut zone = zone("a");
    zone.grass = Grass::CommonBermudagrass;
    zone.regime = Regime::Seedbed;
    zone.sown_on = Some(on);
    zone
}

fn open(zone: Zone, from: &str, to: &str) -> SiteDocument {
    let mut document = site(vec![zone]);
    document.windows = vec![window(&Weekday::ALL, from, to)];
    document
}

/// A day of 15 to 35 °C: 15 °C·d for a grass of a warm season.
fn hot(on: Date, et0_mm: f64, rain_mm: f64) -> DailyWeather {
    DailyWeather {
        tmax_c: Some(35.0),
        rh_min_pct: Some(30.0),
        ..plain(on, et0_mm, rain_mm)
    }
}

fn days(from: Date, et0_mm: f64, rain_mm: &[f64]) -> Vec<DailyWeather> {
    (0..)
        .zip(rain_mm)
        .map(|(i, mm): (i64, _)| hot(from.saturating_add(i.days()), et0_mm, *mm))
        .collect()
}

fn rows<'a>(document: &'a SiteDocument, record: &[DailyWeather]) -> Vec<Row<'a>> {
    let (first, last) = (record[0].date, record[record.len() - 1].date);
    replay(document, record, first, last, Foresight::Perfect).unwrap()
}

/// What the two stores lost is what left them.
fn closes(b: &DayBalance) {
    let surface = b.surface.map_or(Depth::ZERO, |s| s.end - s.start);
    let change = b.eta - b.effective_rain - b.irrigation.net + b.drainage + b.adjustment;
    assert!(
        (b.end - b.start + surface - change).abs().mm() < 1e-9,
        "{b:?}"
    );
}

/// Closes to a hair, stays within both stores, and every day that is too dry says why.
fn holds(rows: &[Row]) {
    for row in rows {
        let b = &row.balance;
        closes(b);
        assert!(b.end >= Depth::ZERO && b.end <= row.taw, "{row:?}");
        if let Some(s) = &b.surface {
            assert!(s.start >= Depth::ZERO && s.end <= s.tew && s.rew < s.tew);
            assert!(s.evaporation <= b.eta && b.eta <= b.etc + Depth::from_mm(1e-9));
            assert_eq!(s.dry.first().is_some(), row.dry.is_some(), "{row:?}");
            assert_eq!(
                s.limit
                    .is_some_and(|limit| s.driest > limit + Depth::from_mm(1e-9)),
                row.dry.is_some()
            );
        } else {
            assert!(row.dry.is_none());
        }
    }
}

#[test]
fn a_hot_dry_fortnight_with_hours_all_day_is_never_too_dry() {
    // Slow sprinklers: a minute of fast ones is already half a millimetre.
    let mut slow = sown(SOWN);
    slow.sprinkler = Kind::Rotor;
    let document = open(slow, "03:00", "21:00");
    let record = days(SOWN, 6.0, &[0.0; 10]);
    let rows = rows(&document, &record);
    holds(&rows);
    // The first day begins wet; from the second on several runs a day.
    for row in &rows {
        assert_eq!(row.dry, None, "{row:?}");
        assert_eq!(row.regime, Regime::Seedbed);
        assert_eq!(row.balance.drainage, Depth::ZERO);
        assert_eq!(row.balance.irrigation.runoff, Depth::ZERO);
    }
    let given: f64 = rows.iter().map(|r| r.balance.irrigation.net.mm()).sum();
    let used: f64 = rows.iter().map(|r| r.balance.eta.mm()).sum();
    assert!(given > 0.9 * used && given <= used, "{given} {used}");
}

#[test]
fn a_hot_dry_fortnight_without_hours_at_noon_counts_its_dry_hours_and_says_why() {
    let document = open(sown(SOWN), "03:00", "09:00");
    let record = days(SOWN, 8.0, &[0.0; 14]);
    let rows = rows(&document, &record);
    holds(&rows);
    let not_up: Vec<&Row> = rows.iter().skip(2).take(11).collect();
    for row in not_up {
        let surface = row.balance.surface.unwrap();
        assert_eq!(row.dry, Some(DryBecause::HoursApart), "{row:?}");
        // From the heat of the day until the next morning.
        assert!((6..=20).contains(&surface.dry.count()), "{surface:?}");
    }
    // With hours before the sun alone the last of them is taken.
    let night = open(sown(SOWN), "02:00", "04:00");
    let early = replay(&night, &record, SOWN, record[13].date, Foresight::Perfect).unwrap();
    holds(&early);
    assert!(
        early
            .iter()
            .all(|row| row.balance.irrigation.net.mm() < 3.1)
    );
    assert!(early.iter().skip(1).all(|row| row.dose.is_some()));
}

#[test]
fn stages_go_on_by_warmth_and_roots_go_down_after_the_first_mowing() {
    let document = open(sown(SOWN), "03:00", "21:00");
    // 15 °C·d a day: up after 14 days, filling in after 24, mown after 39.
    let record = days(SOWN, 6.0, &[0.0; 80]);
    let rows = rows(&document, &record);
    holds(&rows);
    let begins = |regime: Regime| rows.iter().position(|row| row.regime == regime);
    assert_eq!(begins(Regime::FillingIn), Some(24));
    assert_eq!(begins(Regime::Established), Some(39));
    let limit = |i: usize| rows[i].balance.surface.unwrap();
    let share = |i: usize| limit(i).limit.map(|mm| mm / limit(i).tew);
    assert!((share(13).unwrap() - 0.5).abs() < 1e-12);
    assert!((share(14).unwrap() - 0.7).abs() < 1e-12);
    assert_eq!(share(24), None);
    // The stores merge, and roots of 30 mm go down 10 mm a week.
    let taw = |i: usize| rows[i].taw.mm() / 0.17;
    assert!(rows[39].balance.surface.is_none());
    assert!((taw(38) - 10.0).abs() < 1e-9);
    assert!((taw(39) - 30.0).abs() < 1e-9);
    assert!((taw(46) - 40.0).abs() < 1e-9);
    // What fills in is watered once a day, then every other day.
    let waters =
        |from: usize, to: usize| rows[from..to].iter().filter(|r| r.dose.is_some()).count();
    assert!(waters(24, 30) >= 5);
    assert!((3..=4).contains(&waters(33, 39)), "{}", waters(33, 39));
}

#[test]
fn what_was_seen_counts_before_the_warmth() {
    let mut early = sown(SOWN);
    let blades = |on: Date| ZoneSeen {
        date: on,
        after_noon: false,
        place: None,
        spot: None,
        seen: Seen::Grown {
            grown: Grown::FirstBlades,
        },
    };
    early.seen = vec![blades(date(2026, 6, 13))];
    let document = open(early, "03:00", "21:00");
    let record = days(SOWN, 6.0, &[0.0; 40]);
    let seen = rows(&document, &record);
    holds(&seen);
    let up = |rows: &[Row]| {
        let limit = |row: &Row| row.balance.surface.and_then(|s| Some(s.limit? / s.tew));
        rows.iter()
            .position(|row| limit(row).is_some_and(|share| share > 0.6))
    };
    assert_eq!(up(&seen), Some(8));
    let filling = |rows: &[Row]| rows.iter().position(|r| r.regime == Regime::FillingIn);
    assert_eq!(filling(&seen), Some(18));
    // Seen later than expected, it goes back to that.
    let mut late = sown(SOWN);
    late.seen = vec![blades(date(2026, 6, 23))];
    let document = open(late, "03:00", "21:00");
    assert_eq!(filling(&rows(&document, &record)), Some(28));
}

#[test]
fn dry_days_that_nobody_watered_leave_it_in_doubt_until_it_is_seen() {
    // Watered by nobody: moist on its first day, then dry for weeks.
    let mut rain = [0.0; 40];
    rain[0] = 20.0;
    let record = days(SOWN, 6.0, &rain);
    let stages = |zone: &Zone| {
        let document = open(zone.clone(), "03:00", "21:00");
        let history = ZoneHistory::of(&document, zone);
        let past = carry_on(zone, &history, None, &record, &[]);
        past.iter()
            .map(|day| day.seedling.unwrap())
            .collect::<Vec<_>>()
    };
    let zone = sown(SOWN);
    let unseen = stages(&zone);
    let doubted = unseen.iter().position(|grass| grass.is_in_doubt).unwrap();
    assert!((7..14).contains(&doubted), "{doubted}");
    // Warmth for the first mowing is long there; nothing begins.
    assert!(unseen.iter().all(|grass| grass.stage == Stage::NotUp));
    let seen_on = |day: usize, grown: Grown| {
        let mut zone = zone.clone();
        zone.seen = vec![ZoneSeen {
            date: record[day].date,
            after_noon: false,
            place: None,
            spot: None,
            seen: Seen::Grown { grown },
        }];
        stages(&zone)
    };
    let seen = seen_on(20, Grown::FirstBlades);
    assert_eq!(seen[20].stage, Stage::Up);
    assert!(!seen[20].is_in_doubt);
    // Dry on, it is in doubt again a week later.
    assert!(seen[27].is_in_doubt && seen[39].stage == Stage::Up);
}

#[test]
fn sod_is_soaked_to_below_its_mat_each_day_until_it_holds_then_weaned() {
    let laid = |tugs: &[(Date, bool)]| {
        let mut sod = sown(SOWN);
        sod.sprinkler = Kind::Rotor;
        sod.new_grass_as = NewGrassAs::Sod;
        let seen = tugs.iter().map(|(date, holds)| ZoneSeen {
            date: *date,
            after_noon: false,
            place: None,
            spot: None,
            seen: Seen::Tug { holds: *holds },
        });
        sod.seen = seen.collect();
        open(sod, "03:00", "21:00")
    };
    let record = days(SOWN, 6.0, &[0.0; 30]);
    let waters = |document: &SiteDocument| -> Vec<bool> {
        let rows = rows(document, &record);
        holds(&rows);
        // It covers the ground from the first day on, and what it gets stays in its soil.
        assert!(rows.iter().all(|row| row.regime != Regime::Seedbed));
        assert!(rows.iter().all(|row| row.balance.drainage.mm() < 1e-9));
        rows.iter().map(|row| row.dose.is_some()).collect()
    };
    // 15 °C·d a day: each day for a week and a half, then every other day, mown after fifteen.
    let untouched = waters(&laid(&[]));
    // The soil is full on the first morning.
    assert!(untouched[1..7].iter().all(|w| *w), "{untouched:?}");
    assert_eq!(untouched[8..14].iter().filter(|w| **w).count(), 3);
    // It holds when tugged on the fourth day: weaned from then on.
    let held = waters(&laid(&[(date(2026, 6, 8), true)]));
    assert_eq!(held[3..7].iter().filter(|w| **w).count(), 2, "{held:?}");
    // It came away later: each day again.
    let away = waters(&laid(&[(date(2026, 6, 14), false)]));
    assert!(away[9..14].iter().all(|w| *w), "{away:?}");
}

#[test]
fn seed_into_a_lawn_begins_with_half_of_the_ground_covered() {
    let first = |made: NewGrassAs| {
        let mut zone = sown(SOWN);
        zone.new_grass_as = made;
        let document = open(zone, "03:00", "21:00");
        let rows = rows(&document, &days(SOWN, 6.0, &[0.0; 6]));
        holds(&rows);
        rows[3].balance.surface.unwrap().evaporation
    };
    // Grass that stands shades the ground: less evaporates.
    assert!(first(NewGrassAs::Overseed) < first(NewGrassAs::Seed) * 0.8);
}

fn plan(document: &SiteDocument, observed: &[DailyWeather], ahead: &[DailyWeather]) -> WeekPlan {
    plan_week(&Known {
        forecast: ahead,
        ..Known::of_record(document, observed, TODAY)
    })
    .unwrap()
}

/// Today's cell of a plan made after a dry week.
fn today(document: &SiteDocument, ahead: &DailyWeather) -> Cell {
    let observed = days(date(2026, 6, 8), 5.0, &[0.0; 10]);
    let plan = plan(document, &observed, &[*ahead]);
    plan.zones[0].cells[2].clone()
}

#[test]
fn a_windy_dry_day_has_more_runs_than_a_mild_one_and_a_wet_one_none() {
    let document = open(sown(date(2026, 6, 12)), "03:00", "21:00");
    let windy = DailyWeather {
        wind_m_s: Some(6.0),
        rh_min_pct: Some(15.0),
        ..hot(TODAY, 9.0, 0.0)
    };
    let mild = DailyWeather {
        rh_min_pct: Some(60.0),
        ..hot(TODAY, 3.0, 0.0)
    };
    let wet = DailyWeather {
        rain_probability_pct: Some(90.0),
        ..hot(TODAY, 2.0, 25.0)
    };
    let runs = |day: &DailyWeather| today(&document, day).runs().count();
    let (windy, mild, wet) = (runs(&windy), runs(&mild), runs(&wet));
    assert!(windy > mild && mild > 0 && wet == 0, "{windy} {mild} {wet}");
    // Rain that may well not come is not counted on.
    let perhaps = DailyWeather {
        rain_probability_pct: Some(50.0),
        ..hot(TODAY, 3.0, 25.0)
    };
    assert_eq!(runs(&perhaps), mild);
}

#[test]
fn a_ban_is_never_broken_and_its_dry_hours_are_said() {
    let mut document = open(sown(date(2026, 6, 12)), "03:00", "21:00");
    document.rules.list = vec![Rule {
        name: "Stage 3".to_owned(),
        from: None,
        to: None,
        stage: None,
        zones: Vec::new(),
        exempt: Vec::new(),
        says: Says::Never(Never::default()),
    }];
    let cell = today(&document, &hot(TODAY, 7.0, 0.0));
    assert_eq!(cell.runs().count(), 0);
    let said = cell.warnings.iter().find_map(|warning| match warning {
        Warning::SurfaceDry { hours, rule, .. } => Some((*hours, rule.clone())),
        _ => None,
    });
    let (hours, rule) = said.unwrap();
    assert!(hours > 10);
    assert_eq!(rule.as_deref(), Some("Stage 3"));
    // With a permit for new seed it is watered.
    document.rules.list[0].exempt = vec![Exemption {
        who: Who::NewSeed,
        zone: None,
        to: None,
    }];
    let cell = today(&document, &hot(TODAY, 7.0, 0.0));
    assert!(cell.runs().count() >= 2);
    assert!(matches!(cell.verdict, Verdict::SurfaceDue(s) if s.stage == Stage::NotUp));
    // The permit ends with the new seed: grass that stands is no longer exempt.
    document.zones[0].sown_on = Some(date(2026, 4, 1));
    document.zones[0].active_from = Some(date(2026, 4, 1));
    // Nobody watered it in this record: that it stands somebody saw.
    document.zones[0].seen = vec![ZoneSeen {
        date: date(2026, 5, 20),
        after_noon: false,
        place: None,
        spot: None,
        seen: Seen::Grown {
            grown: Grown::MownOnce,
        },
    }];
    let observed = days(date(2026, 4, 1), 5.0, &[0.0; 78]);
    let grown = plan(&document, &observed, &[]);
    assert_eq!(grown.zones[0].regime, Regime::Established);
    assert!(
        grown.zones[0]
            .cells
            .iter()
            .all(|cell| cell.runs().count() == 0)
    );
}

#[test]
fn carried_on_in_pieces_it_is_what_it_is_in_one() {
    let mut document = open(sown(date(2026, 6, 12)), "03:00", "21:00");
    // Turf until it is sown anew.
    let turf = Zone {
        regime: Regime::Established,
        sown_on: None,
        initial_depletion_mm: Some(Depth::from_mm(12.0)),
        ..sown(SOWN)
    };
    let mut anew = turf.in_regime(Regime::Seedbed, date(2026, 6, 12)).unwrap();
    anew.sown_on = Some(date(2026, 6, 12));
    document.zones = vec![anew.clone()];
    let mut record = days(date(2026, 6, 1), 6.0, &[0.0; 70]);
    record[20].rain = Depth::from_mm(45.0);
    let history = ZoneHistory::of(&document, &anew);
    let whole = carry_on(&anew, &history, None, &record, &[]);
    for cut in [5, 11, 12, 25, 40, 60] {
        let mut pieces = carry_on(&anew, &history, None, &record[..cut], &[]);
        let rest = carry_on(&anew, &history, pieces.last(), &record[cut..], &[]);
        pieces.extend(rest);
        assert_eq!(pieces, whole);
    }
    for (i, day) in whole.iter().enumerate() {
        let b = &day.balance;
        closes(b);
        assert!(i == 0 || whole[i - 1].balance.end == b.start);
    }
    // Sown into dry ground the surface is as dry as that was.
    let before = &whole[10];
    let first = whole[11].balance.surface.unwrap();
    assert!((first.start / first.tew - before.balance.end / before.taw).abs() < 1e-9);
}

#[test]
fn of_several_seedbeds_each_gets_its_runs_one_after_another() {
    let mut second = sown(date(2026, 6, 12));
    second.id = "b".to_owned();
    second.name = "Second".to_owned();
    let mut turf = zone("c");
    turf.initial_depletion_mm = Some(Depth::from_mm(30.0));
    let mut document = open(sown(date(2026, 6, 12)), "00:00", "21:00");
    document.zones.extend([second, turf]);
    let observed = days(date(2026, 6, 8), 5.0, &[0.0; 10]);
    let plan = plan(&document, &observed, &[hot(TODAY, 8.0, 0.0)]);
    let mut spans: Vec<(i64, i64)> = Vec::new();
    for zone in &plan.zones {
        for run in zone.cells[2].runs() {
            let spans_of = run
                .starts
                .iter()
                .map(|s| (s.as_second(), s.as_second() + run.pass_s));
            spans.extend(spans_of);
        }
    }
    spans.sort_unstable();
    assert!(spans.len() > 6);
    assert!(
        spans.windows(2).all(|pair| pair[0].1 <= pair[1].0),
        "{spans:?}"
    );
    let runs = |zone: usize| plan.zones[zone].cells[2].runs().count();
    assert!(runs(0) >= 3 && runs(0) == runs(1) && runs(2) == 1);
}

fn soil() -> impl Strategy<Value = Texture> {
    prop::sample::select(Texture::ALL.to_vec())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    /// With the weather known nothing that is planned soaks through or runs off, and what is too dry says why.
    #[test]
    fn no_slot_soaks_or_runs_off(
        soil in soil(),
        kind in prop::sample::select(vec![Kind::FixedSpray, Kind::Rotor]),
        et0 in prop::collection::vec(1.0..9.0f64, 20),
        rain in prop::collection::vec(prop_oneof![4 => Just(0.0), 1 => 0.5..30.0f64], 20),
        from in 0..12i8, hours in 2..12i8,
    ) {
        let mut bed = sown(SOWN);
        (bed.soil, bed.sprinkler) = (soil, kind);
        let time = |h: i8| format!("{h:02}:00");
        let document = open(bed, &time(from), &time(from + hours));
        let record: Vec<DailyWeather> = (0..20)
            .map(|i| {
                let on = SOWN.saturating_add(i64::try_from(i).unwrap().days());
                hot(on, et0[i], rain[i])
            })
            .collect();
        let rows = rows(&document, &record);
        holds(&rows);
        for row in &rows {
            prop_assert_eq!(row.balance.irrigation.runoff, Depth::ZERO);
            // What drains is rain's: by then it had passed through both stores.
            let surface = row.balance.surface.unwrap();
            if row.balance.effective_rain <= Depth::ZERO {
                prop_assert!(row.balance.drainage.mm() < 1e-9, "{:?}", row);
            }
            prop_assert!(surface.end >= Depth::ZERO);
        }
    }

    /// Whatever hours a rule closes to all without exemption: nothing runs in them, and a surface that dries out says so, by that rule where hours are what it lacks.
    #[test]
    fn a_ban_without_exemption_is_never_broken_and_its_dry_hours_are_said(
        soil in soil(), et0 in 1.0..9.0f64, from in 0..22i8, hours in 1..24i8, all_day in any::<bool>(),
    ) {
        let mut bed = sown(date(2026, 6, 12));
        bed.soil = soil;
        let mut document = open(bed, "03:00", "21:00");
        let to = (from + hours).min(23);
        let time = |h: i8| jiff::civil::Time::constant(h, 0, 0, 0);
        let closed = (!all_day).then(|| Hours { from: time(from), to: time(to) });
        document.rules.list = vec![Rule {
            name: "Dry hours".to_owned(),
            from: None,
            to: None,
            stage: None,
            zones: Vec::new(),
            exempt: Vec::new(),
            says: Says::Never(Never { hours: closed }),
        }];
        let cell = today(&document, &hot(TODAY, et0, 0.0));
        let zone = document.site.zone().unwrap();
        for run in cell.runs() {
            for start in &run.starts {
                let at = start.to_zoned(zone.clone()).datetime();
                let within = (from..to).contains(&at.hour());
                prop_assert!(!all_day && !within, "{at} lies in {from} to {to}");
            }
        }
        let surface = cell.surface.unwrap();
        let said = cell.warnings.iter().find_map(|warning| match warning {
            Warning::SurfaceDry { why, rule, .. } => Some((*why, rule.clone())),
            _ => None,
        });
        let is_worth_saying = surface.limit_mm.is_some_and(|limit| surface.driest_mm - limit >= surface.tew_mm * 0.1);
        prop_assert_eq!(said.is_some(), is_worth_saying, "{:?}", surface);
        if let (true, Some((why, rule))) = (all_day, said) {
            prop_assert_eq!(why, DryBecause::HoursApart);
            prop_assert_eq!(rule.as_deref(), Some("Dry hours"));
        }
    }

    /// Rain that is as good as sure adds no more water to the day than one watering. So much it may add, and runs too: doses are whole minutes, and where a little more rain makes
    /// the first of them a minute shorter, the top may pass its limit in the evening, which the longer dose had just kept.
    #[test]
    fn rain_adds_the_water_of_one_run_at_most(
        soil in soil(), et0 in 1.0..9.0f64, rain in 0.0..30.0f64, more in 0.0..30.0f64,
    ) {
        let mut bed = sown(date(2026, 6, 12));
        bed.soil = soil;
        let document = open(bed, "03:00", "21:00");
        let cell = |mm: f64| {
            let sure = DailyWeather { rain_probability_pct: Some(100.0), ..hot(TODAY, et0, mm) };
            today(&document, &sure)
        };
        let (less, more) = (cell(rain), cell(rain + more));
        let largest = more.runs().map(|run| run.net_mm).fold(Depth::ZERO, Depth::max);
        prop_assert!(more.irrigation_net_mm <= less.irrigation_net_mm + largest);
    }
}
