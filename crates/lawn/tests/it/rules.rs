//! Local rules: from when to when, for whom, and what a plan makes of them.

use jiff::ToSpan;
use jiff::civil::{date, time};
use lawn::engine::replay::{Foresight, replay};
use lawn::quantity::Depth;
use lawn::site::calendar::days;
use lawn::site::rules::{
    AtMost, Exemption, Never, OnlyOn, Period, Rule, Rules, Says, StageFrom, Who,
};
use lawn::site::{DateRule, Hours, Regime, SiteDocument, Weekday, Zone, document};
use lawn::view::ledger::Line;
use lawn::view::verdict::Verdict;
use lawn::view::week_plan::{Cell, WeekPlan};

use crate::fixture::{dry, plan_on, site, window, zone};

pub fn rule(name: &str, says: Says) -> Rule {
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
    let plan = plan_on(&document, &observed, today);
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
    let plan = |document: &SiteDocument| plan_on(document, &observed, today);
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
    assert_eq!(rule.as_deref(), Some("Stage 3 volume"));
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

/// Late afternoon is second best and not for every grass; the evening is for who insists; drip wets no leaf.
#[test]
fn hours_after_noon_are_by_grass_and_the_evening_by_choice() {
    use lawn::site::LateHours::{Afternoon, ByGrass, Evening, Never};
    use science::sprinkler::Kind::{Drip, FixedSpray};
    use science::turf::Grass::{TallFescue, Zoysiagrass};
    let waters = |late, grass, kind, from: &str, to: &str| {
        let mut document = site(vec![Zone {
            late_hours: late,
            grass,
            sprinkler: kind,
            initial_depletion_mm: Some(Depth::from_mm(30.0)),
            ..zone("a")
        }]);
        document.windows = vec![window(&Weekday::ALL, from, to)];
        let observed = dry(&document, 12);
        let plan = plan_on(&document, &observed, date(2026, 6, 18));
        plan.zones[0].cells.iter().any(|c| c.run.is_some())
    };
    // Sunset in New York's zone at 36.4° N on 18 June: about 20:40.
    let afternoon = ("16:00", "18:00");
    let evening = ("19:00", "21:00");
    for (late, grass, kind, (from, to), expected) in [
        (ByGrass, TallFescue, FixedSpray, afternoon, true),
        (ByGrass, Zoysiagrass, FixedSpray, afternoon, false),
        (Afternoon, Zoysiagrass, FixedSpray, afternoon, true),
        (Never, TallFescue, FixedSpray, afternoon, false),
        (ByGrass, TallFescue, FixedSpray, evening, false),
        (Afternoon, TallFescue, FixedSpray, evening, false),
        (Evening, Zoysiagrass, FixedSpray, evening, true),
        (Never, Zoysiagrass, Drip, evening, true),
    ] {
        assert_eq!(
            waters(late, grass, kind, from, to),
            expected,
            "{late:?} {grass:?} {kind:?} {from}"
        );
    }
}
