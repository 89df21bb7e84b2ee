//! Local rules: each minute is judged by its own local date and hour, whatever the windows, the month's end or the clock's changes; plans obey them and
//! say so.

use jiff::Timestamp;
use jiff::ToSpan;
use jiff::civil::{Date, Time, date, time};
use lawn::engine::replay::{Foresight, replay};
use lawn::quantity::Depth;
use lawn::site::calendar::days;
use lawn::site::rules::{
    AtMost, Every, Exemption, Never, OnlyOn, Period, Rule, Rules, Says, StageFrom, Who,
};
use lawn::site::{DateRule, Hours, Regime, SiteDocument, Weekday, Zone, document};
use lawn::view::ledger::Line;
use lawn::view::plan::{Known, plan_week};
use lawn::view::verdict::Verdict;
use lawn::view::week_plan::{Cell, WeekPlan};
use proptest::prelude::*;

use crate::fixture::{dry, site, window, zone};
use crate::properties::{any_site, any_weather};

fn rule(name: &str, says: Says) -> Rule {
    Rule {
        name: name.to_owned(),
        from: None,
        to: None,
        stage: None,
        zones: Vec::new(),
        exempt: Vec::new(),
        says,
    }
}

fn even() -> Says {
    Says::OnlyOn(OnlyOn {
        dates: DateRule::Even,
        ..OnlyOn::default()
    })
}

fn ids(document: &SiteDocument, name: &str) -> Vec<bool> {
    let place = document.zones.iter().position(|z| z.id == name).unwrap();
    let time_zone = document.site.zone().unwrap();
    days(document, &time_zone, date(2026, 6, 14), 14)
        .iter()
        .map(|day| day.opens_for(place))
        .collect()
}

#[test]
fn stages_exemptions_and_blackouts_hold_from_day_to_day() {
    let mut document = site(vec![zone("field"), zone("drip"), zone("seed")]);
    document.zones[1].sprinkler = science::sprinkler::Kind::Drip;
    document.zones[2].regime = Regime::Seedbed;
    let mut twice = rule(
        "Twice a week",
        Says::OnlyOn(OnlyOn {
            weekdays: vec![Weekday::Tuesday, Weekday::Saturday],
            ..OnlyOn::default()
        }),
    );
    twice.stage = Some("Stage 2".to_owned());
    twice.exempt = vec![
        Exemption {
            who: Who::Drip,
            zone: None,
            to: None,
        },
        Exemption {
            who: Who::NewSeed,
            zone: Some("seed".to_owned()),
            to: Some(date(2026, 6, 20)),
        },
    ];
    let mut game = rule("Match", Says::Never(Never::default()));
    game.zones = vec!["field".to_owned()];
    (game.from, game.to) = (Some(date(2026, 6, 16)), Some(date(2026, 6, 16)));
    document.rules = Rules {
        stages: vec![
            StageFrom {
                from: date(2026, 6, 17),
                stage: Some("Stage 2".to_owned()),
            },
            StageFrom {
                from: date(2026, 6, 24),
                stage: None,
            },
        ],
        list: vec![twice, game],
    };
    assert!(document.validate().is_ok());
    // Sunday 14 June on: all days but the match until the stage begins on Wednesday 17; Saturday 20 and Tuesday 23 during it.
    let field = [
        true, true, false, false, false, false, true, false, false, true, true, true, true, true,
    ];
    assert_eq!(ids(&document, "field"), field);
    assert_eq!(ids(&document, "drip"), [true; 14]);
    let seed: Vec<bool> = (14..28)
        .map(|day| day <= 20 || day == 23 || day >= 24)
        .collect();
    assert_eq!(ids(&document, "seed"), seed);
    assert_eq!(
        document::read(&document::write(&document)).unwrap(),
        document
    );
}

#[test]
fn the_plan_obeys_a_rule_and_names_it() {
    let mut document = site(vec![zone("a"), zone("b")]);
    document.rules.list = vec![rule("Even dates only", even())];
    document.rules.list[0].zones = vec!["a".to_owned()];
    for zone in &mut document.zones {
        zone.initial_depletion_mm = Some(Depth::from_mm(20.0));
    }
    let today = date(2026, 6, 17);
    let observed: Vec<_> = dry(&document, 12)
        .into_iter()
        .filter(|d| d.date < today)
        .collect();
    let plan = plan_week(&Known {
        document: &document,
        observed: &observed,
        forecast: &[],
        runs: &[],
        holds: &[],
        dry_days: &[],
        today,
        now: None,
        committed: None,
    })
    .unwrap();
    let cell = &plan.zones[0].cells[2];
    let next = Some(date(2026, 6, 18));
    let rule = "Even dates only".to_owned();
    assert!(cell.ledger.contains(&Line::ClosedByRule {
        rule: rule.clone(),
        next
    }));
    assert_eq!(cell.verdict, Verdict::ClosedByRule { rule, next });
    assert!(cell.run.is_none());
    for cell in &plan.zones[0].cells[2..] {
        assert!(cell.date.day() % 2 == 0 || cell.run.is_none());
    }
    assert!(plan.zones[0].cells.iter().any(|c| c.run.is_some()));
    assert!(plan.zones[1].cells[2].run.is_some());
}

#[test]
fn rules_that_do_not_hold_are_refused_where_they_are() {
    let field = |change: &dyn Fn(&mut Rules)| {
        let mut document = site(vec![zone("a")]);
        document.rules.list = vec![rule("Even dates", even())];
        change(&mut document.rules);
        document.validate().unwrap_err().field
    };
    assert_eq!(
        field(&|r| r.list[0].zones = vec!["b".to_owned()]),
        "rules.list[0].zones[0]"
    );
    assert_eq!(
        field(&|r| r.list[0].name = " ".to_owned()),
        "rules.list[0].name"
    );
    assert_eq!(
        field(&|r| {
            r.list[0].from = Some(date(2026, 6, 2));
            r.list[0].to = Some(date(2026, 6, 1));
        }),
        "rules.list[0].to"
    );
    assert_eq!(
        field(&|r| r.list[0].says = Says::Never(Never {
            hours: Some(Hours {
                from: time(9, 0, 0, 0),
                to: time(9, 0, 0, 0)
            })
        })),
        "rules.list[0].says.hours.to"
    );
    assert_eq!(
        field(&|r| r.list[0].exempt = vec![Exemption {
            who: Who::Zone,
            zone: None,
            to: None
        }]),
        "rules.list[0].exempt[0].zone"
    );
    let stage = |from| StageFrom { from, stage: None };
    assert_eq!(
        field(&|r| r.stages = vec![stage(date(2026, 6, 2)), stage(date(2026, 6, 2))]),
        "rules.stages[1].from"
    );
}

fn any_hours() -> impl Strategy<Value = Hours> {
    (0..92i8, 1..40i8).prop_map(|(start, length)| {
        let at = |quarters: i8| time(quarters / 4, quarters % 4 * 15, 0, 0);
        Hours {
            from: at(start),
            to: at(start + length.min(95 - start)),
        }
    })
}

fn any_says() -> impl Strategy<Value = Says> {
    let every = (2..9u8, 1..28i8).prop_map(|(days, day)| Every {
        days,
        counted_from: date(2026, 3, day),
    });
    let only = (
        prop::collection::vec(0..7usize, 0..5),
        0..3usize,
        prop::option::of(every),
        prop::option::of(any_hours()),
    );
    prop_oneof![
        3 => only.prop_map(|(weekdays, dates, every, hours)| Says::OnlyOn(OnlyOn {
            weekdays: weekdays.into_iter().map(|d| Weekday::ALL[d]).collect(),
            dates: [DateRule::Any, DateRule::Odd, DateRule::Even][dates],
            every,
            hours,
        })),
        1 => prop::option::of(any_hours()).prop_map(|hours| Says::Never(Never { hours })),
    ]
}

/// Rules about zones `z0` to `z3`, as far as the site has them.
fn any_rules() -> impl Strategy<Value = Rules> {
    let rule = (
        any_says(),
        prop::option::of(0..40i64),
        prop::option::of(0..40i64),
        prop::option::of(0..2usize),
        prop::collection::vec(0..4usize, 0..3),
        any::<bool>(),
    );
    let stages = prop::collection::vec((1..20i64, prop::option::of(0..2usize)), 0..4);
    (prop::collection::vec(rule, 1..4), stages).prop_map(|(rules, stages)| {
        let day = |n: i64| date(2026, 5, 20).checked_add(n.days()).unwrap();
        let name = |n: usize| format!("Stage {n}");
        let mut from = 0;
        Rules {
            list: rules
                .into_iter()
                .map(|(says, first, long, stage, zones, by_hand)| Rule {
                    from: first.map(day),
                    to: long.map(|long| day(first.unwrap_or(0) + long)),
                    stage: stage.map(name),
                    zones: zones.into_iter().map(|z| format!("z{z}")).collect(),
                    exempt: by_hand
                        .then_some(Exemption {
                            who: Who::ByHand,
                            zone: None,
                            to: None,
                        })
                        .into_iter()
                        .collect(),
                    ..rule_of(says)
                })
                .collect(),
            stages: stages
                .into_iter()
                .map(|(later, stage)| {
                    from += later;
                    StageFrom {
                        from: day(from),
                        stage: stage.map(name),
                    }
                })
                .collect(),
        }
    })
}

fn rule_of(says: Says) -> Rule {
    rule("Rule", says)
}

/// Rules without those zones that a site does not have.
fn of_site(rules: Rules, document: &SiteDocument) -> Rules {
    let mut rules = rules;
    for rule in &mut rules.list {
        let named = !rule.zones.is_empty();
        rule.zones
            .retain(|id| document.zones.iter().any(|z| z.id == *id));
        if named && rule.zones.is_empty() {
            rule.zones.push(document.zones[0].id.clone());
        }
    }
    rules
}

/// Whether a zone may be watered at a local date and time, read off the document.
fn allowed(document: &SiteDocument, zone: &Zone, on: Date, at: Time) -> bool {
    let inside = |hours: Hours| hours.from <= at && at < hours.to;
    let stage = document
        .rules
        .stages
        .iter()
        .rfind(|s| s.from <= on)
        .and_then(|s| s.stage.clone());
    let open = document.windows.iter().any(|w| {
        let odd = on.day() % 2 == 1;
        let dates = match w.dates {
            DateRule::Any => true,
            DateRule::Odd => odd,
            DateRule::Even => !odd,
        };
        w.days.contains(&Weekday::of(on)) && dates && w.from <= at && at < w.to
    });
    open && document.rules.list.iter().all(|rule| {
        let concerned = rule.from.is_none_or(|f| f <= on)
            && rule.to.is_none_or(|t| on <= t)
            && (rule.stage.is_none() || rule.stage == stage)
            && (rule.zones.is_empty() || rule.zones.contains(&zone.id))
            && (!zone.by_hand() || rule.exempt.is_empty());
        !concerned
            || match &rule.says {
                Says::AtMost(_) => true,
                Says::Never(never) => !never.hours.is_none_or(inside),
                Says::OnlyOn(only) => {
                    let every = only.every.is_none_or(|every| {
                        (on - every.counted_from).get_days() % i32::from(every.days) == 0
                    });
                    let dates = match only.dates {
                        DateRule::Any => true,
                        DateRule::Odd => on.day() % 2 == 1,
                        DateRule::Even => on.day() % 2 == 0,
                    };
                    let weekday =
                        only.weekdays.is_empty() || only.weekdays.contains(&Weekday::of(on));
                    weekday && dates && every && only.hours.is_none_or(inside)
                }
            }
    })
}

/// Days about which something is special: month ends, a leap day, clock changes north and south of the equator and by half an hour.
const SPECIAL: [(&str, Date); 8] = [
    ("America/New_York", Date::constant(2026, 3, 7)),
    ("America/New_York", Date::constant(2026, 10, 31)),
    ("America/New_York", Date::constant(2028, 2, 28)),
    ("Australia/Sydney", Date::constant(2026, 4, 4)),
    ("Australia/Sydney", Date::constant(2026, 10, 3)),
    ("Australia/Lord_Howe", Date::constant(2026, 4, 4)),
    ("America/Santiago", Date::constant(2026, 9, 5)),
    ("America/New_York", Date::constant(2026, 5, 30)),
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 128, ..ProptestConfig::default() })]

    #[test]
    fn each_minute_is_judged_by_its_own_local_date_and_hour(
        document in any_site(), rules in any_rules(), hours in prop::collection::vec(any_hours(), 1..3), special in 0..SPECIAL.len(),
    ) {
        let mut document = document;
        let (time_zone, from) = SPECIAL[special];
        time_zone.clone_into(&mut document.site.time_zone);
        let all: Vec<_> = hours.iter().map(|h| {
            let mut w = window(&Weekday::ALL, "00:00", "01:00");
            (w.from, w.to) = (h.from, h.to);
            w
        }).collect();
        document.windows.extend(all);
        document.rules = of_site(rules, &document);
        prop_assert!(document.validate().is_ok(), "{:?}", document.validate());
        let zone = document.site.zone().unwrap();
        for day in days(&document, &zone, from, 3) {
            let begins = day.date.to_zoned(zone.clone()).unwrap().timestamp().as_second();
            let ends = day.date.tomorrow().unwrap().to_zoned(zone.clone()).unwrap().timestamp().as_second();
            // Every fifth minute, and those beside the quarters at which hours begin and end.
            for second in (begins..ends).step_by(60).filter(|s| s / 60 % 5 == 0 || s / 60 % 15 == 14) {
                let local = Timestamp::from_second(second).unwrap().to_zoned(zone.clone());
                for (place, of) in document.zones.iter().enumerate() {
                    let open = day.windows.iter().enumerate().any(|(w, i)| i.start_s <= second && second < i.end_s && !day.bars(w, place));
                    prop_assert_eq!(open, allowed(&document, of, local.date(), local.time()), "{} {}", local, of.id);
                }
            }
        }
    }

    #[test]
    fn no_school_waters_where_a_rule_forbids_it(document in any_site(), rules in any_rules(), record in any_weather(40)) {
        let mut document = document;
        document.rules = of_site(rules, &document);
        let plan = plan_week(&Known {
            document: &document, observed: &record, forecast: &[], runs: &[], holds: &[], dry_days: &[],
            today: record[39].date.checked_add(1.day()).unwrap(), now: None, committed: None,
        }).unwrap();
        crate::corner_cases::nothing_overlaps(&plan);
        let time_zone = document.site.zone().unwrap();
        for (of, zone) in document.zones.iter().zip(&plan.zones) {
            for run in zone.cells.iter().flat_map(lawn::view::week_plan::Cell::runs) {
                let mut at: Vec<i64> = run.starts.iter().map(|s| s.as_second()).flat_map(|s| [s, s + run.pass_s - 1]).collect();
                if at.is_empty() {
                    at = vec![run.window.opens.as_second(), run.window.closes.as_second() - 1];
                }
                for second in at {
                    let local = Timestamp::from_second(second).unwrap().to_zoned(time_zone.clone());
                    prop_assert!(allowed(&document, of, local.date(), local.time()), "{} {}", local, of.id);
                }
            }
        }
        // A replay waters on the same days and no others.
        let rows = replay(&document, &record, record[0].date, record[39].date, Foresight::None).unwrap();
        let calendar = days(&document, &time_zone, record[0].date, 40);
        for row in rows.iter().filter(|r| r.balance.irrigation.net > Depth::ZERO) {
            let place = document.zones.iter().position(|z| z.id == row.zone).unwrap();
            let day = calendar.iter().find(|d| d.date == row.date).unwrap();
            prop_assert!(day.opens_for(place), "{} {}", row.date, row.zone);
        }
    }
}

#[test]
fn a_rule_that_splits_a_night_leaves_both_parts_to_who_may() {
    let mut document = site(vec![zone("a"), zone("b")]);
    let hours = Hours {
        from: time(5, 0, 0, 0),
        to: time(6, 0, 0, 0),
    };
    document.rules.list = vec![rule(
        "School run",
        Says::Never(Never { hours: Some(hours) }),
    )];
    document.rules.list[0].zones = vec!["a".to_owned()];
    let time_zone = document.site.zone().unwrap();
    let day = &days(&document, &time_zone, date(2026, 6, 18), 1)[0];
    let lengths: Vec<i64> = day.windows.iter().map(|w| w.length_s() / 3600).collect();
    assert_eq!(lengths, [2, 1, 3]);
    let a: Vec<bool> = (0..3).map(|w| day.bars(w, 0)).collect();
    assert_eq!(a, [false, true, false]);
    assert!((0..3).all(|w| !day.bars(w, 1)) && day.closed.is_empty());
}

/// A cap on the week's water: it is not passed, what it leaves goes by rank, and the plan says what would make it fit.
#[test]
fn a_volume_cap_is_kept_and_says_what_it_leaves_short() {
    let mut document = site(vec![zone("a"), zone("b")]);
    document.zones[0].priority = 1;
    document.zones[1].priority = 9;
    for zone in &mut document.zones {
        zone.initial_depletion_mm = Some(Depth::from_mm(30.0));
        zone.active_from = Some(date(2026, 6, 17));
    }
    let today = date(2026, 6, 18);
    let observed = dry(&document, 12);
    let plan = |document: &SiteDocument| {
        plan_week(&Known {
            document,
            observed: &observed,
            forecast: &[],
            runs: &[],
            holds: &[],
            dry_days: &[],
            today,
            now: None,
            committed: None,
        })
        .unwrap()
    };
    // Thursday to Sunday, the rest of the week.
    let litres = |plan: &WeekPlan, zone: usize| -> f64 {
        plan.zones[zone].cells[2..6]
            .iter()
            .flat_map(Cell::runs)
            .map(|r| r.volume_l.l())
            .sum()
    };
    let free = plan(&document);
    let all = litres(&free, 0) + litres(&free, 1);
    assert!(all > 10_000.0, "{all}");
    let cap = 0.5 * all;
    document.rules.list = vec![rule(
        "Stage 3 volume",
        Says::AtMost(AtMost {
            volume_l: cap,
            per: Period::Week,
        }),
    )];
    assert!(document.validate().is_ok());
    let capped = plan(&document);
    let (first, second) = (litres(&capped, 0), litres(&capped, 1));
    assert!(first + second <= cap + 1e-6, "{first} + {second} of {cap}");
    assert!(first + second > 0.9 * cap, "{first} + {second} of {cap}");
    assert!(first > 1.5 * second, "{first} and {second}");
    let lines = capped.zones[1].cells.iter().flat_map(|c| &c.ledger);
    let mut rationed = lines.filter_map(|l| match l {
        Line::Rationed {
            rule,
            wanted_mm,
            gives_mm,
            more_l,
            ..
        } => Some((rule.clone(), *wanted_mm - *gives_mm, more_l.l())),
        _ => None,
    });
    let (rule, short, more) = rationed.next().unwrap();
    assert_eq!(rule, "Stage 3 volume");
    assert!(
        short > Depth::from_mm(1.0) && more > 1000.0,
        "{short:?} {more}"
    );
    // The remedy is one: with so much more nobody is rationed in this week.
    document.rules.list[0].says = Says::AtMost(AtMost {
        volume_l: cap + more,
        per: Period::Week,
    });
    let enough = plan(&document);
    let stressed = |plan: &WeekPlan| {
        plan.zones
            .iter()
            .flat_map(|z| &z.cells[2..6])
            .filter(|c| c.ks < 1.0 - 1e-9)
            .count()
    };
    assert!(
        stressed(&enough) <= stressed(&free),
        "{}",
        stressed(&enough)
    );
    assert!(stressed(&capped) > stressed(&free));
    // A replay keeps it week by week.
    let record: Vec<_> = (0..28)
        .map(|i| crate::fixture::plain(date(2026, 6, 1).checked_add(i.days()).unwrap(), 7.0, 0.0))
        .collect();
    for zone in &mut document.zones {
        zone.active_from = None;
    }
    document.rules.list[0].says = Says::AtMost(AtMost {
        volume_l: 8000.0,
        per: Period::Week,
    });
    let rows = replay(
        &document,
        &record,
        date(2026, 6, 1),
        date(2026, 6, 28),
        Foresight::None,
    )
    .unwrap();
    for week in 0..4 {
        let used: f64 = rows[week * 14..(week + 1) * 14]
            .iter()
            .map(|r| (r.balance.irrigation.gross * document.zones[0].area_m2).l())
            .sum();
        assert!(
            used <= 8000.0 + 1e-6 && used > 6000.0,
            "week {week}: {used}"
        );
    }
}
