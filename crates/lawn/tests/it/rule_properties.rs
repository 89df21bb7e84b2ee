//! Rules of all kinds over sites of all kinds: each minute is judged by its own local date and hour, whatever the windows, the month's end or the clock's
//! changes, and no school waters against a rule.

use jiff::civil::{Date, Time, date, time};
use jiff::{Timestamp, ToSpan};
use lawn::engine::replay::{Foresight, replay};
use lawn::quantity::Depth;
use lawn::site::calendar::days;
use lawn::site::rules::{Every, Exemption, Never, OnlyOn, Rule, Rules, Says, StageFrom, Who};
use lawn::site::{DateRule, Hours, SiteDocument, Weekday, Zone};
use lawn::view::week_plan::{Cell, WeekPlan};
use proptest::prelude::*;

use crate::fixture::{model, plan_on, window};
use crate::properties::{any_site, any_weather};
use crate::rules::rule as rule_that;

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
                    ..rule_that("Rule", says)
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

/// Whether at each start of a pass all that runs takes no more than the supply gives.
fn never_above_the_flow(document: &SiteDocument, plan: &WeekPlan) {
    let supply = document.supply.flow_l_min.unwrap();
    let mut passes: Vec<(i64, i64, f64)> = Vec::new();
    for (of, zone) in document.zones.iter().zip(&plan.zones) {
        let flow = model(of).flow_l_min;
        for run in zone.cells.iter().flat_map(Cell::runs) {
            let starts = run.starts.iter().map(|s| s.as_second());
            passes.extend(starts.map(|s| (s, s + run.pass_s, flow)));
        }
    }
    for (at, ..) in &passes {
        let running = passes.iter().filter(|(from, to, _)| from <= at && at < to);
        let flow: f64 = running.map(|(.., flow)| flow).sum();
        assert!(flow <= supply + 1e-6, "{flow} of {supply} L/min at {at}");
    }
}

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
    fn no_school_waters_where_a_rule_forbids_it(
        document in any_site(), rules in any_rules(), record in any_weather(40), special in 0..SPECIAL.len(), flow in prop::option::of(1.0..400.0f64), together in any::<bool>(),
    ) {
        let mut document = document;
        document.rules = of_site(rules, &document);
        document.supply.flow_l_min = flow;
        document.supply.together = together && flow.is_some();
        let (time_zone, from) = SPECIAL[special];
        time_zone.clone_into(&mut document.site.time_zone);
        // The plan begins on the special day; the rules move with it.
        let moved = date(2026, 5, 30).until(from).unwrap();
        let later = |day: &mut Date| *day = day.checked_add(moved).unwrap();
        let mut record = record;
        for (i, day) in record.iter_mut().enumerate() {
            day.date = from.checked_add((i64::try_from(i).unwrap() - 40).days()).unwrap();
        }
        for rule in &mut document.rules.list {
            rule.from.iter_mut().chain(&mut rule.to).for_each(later);
        }
        for stage in &mut document.rules.stages {
            later(&mut stage.from);
        }
        let plan = plan_on(&document, &record, record[39].date.checked_add(1.day()).unwrap());
        if document.supply.together {
            never_above_the_flow(&document, &plan);
        } else {
            crate::corner_cases::nothing_overlaps(&plan);
        }
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
