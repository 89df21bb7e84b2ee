//! A published week beside the newest plan: the same while nothing is new, pointed out where rain has made it harmful, and never dropped.

use jiff::{Timestamp, ToSpan};
use lawn::quantity::Depth;
use lawn::record::edit::{Becomes, Edit};
use lawn::record::published::Published;
use lawn::site::{Regime, SiteDocument, Zone};
use lawn::view::changes::{Change, changes_with_causes};
use lawn::view::consequence::consequence;
use lawn::view::plan::{Known, Past, Plan, plan, plan_with};
use lawn::view::since_published::since_published;
use lawn::weather::DailyWeather;

use crate::fixture::{TODAY, dry, plain, site, zone};

fn document() -> SiteDocument {
    let mut document = site(vec![zone("z0"), zone("z1")]);
    for (zone, depletion) in document.zones.iter_mut().zip([10.0, 14.0]) {
        zone.initial_depletion_mm = Some(Depth::from_mm(depletion));
        zone.active_from = Some(TODAY);
    }
    document
}

fn published(plan: &Plan) -> Published {
    Published {
        programme: plan.programme.clone(),
        from: Timestamp::MIN,
        last: TODAY.checked_add(6.days()).unwrap(),
    }
}

fn today(
    document: &SiteDocument,
    observed: &[DailyWeather],
    edits: &[Edit],
    week: Option<&Published>,
) -> Plan {
    plan(&Known {
        edits,
        published: week,
        ..Known::of_record(document, observed, TODAY)
    })
    .unwrap()
}

#[test]
fn a_week_published_as_it_is_comes_to_the_same() {
    let document = document();
    let observed = dry(&document, 20);
    let newest = today(&document, &observed, &[], None);
    assert!(newest.as_published.is_none());
    let week = published(&newest);
    let again = today(&document, &observed, &[], Some(&week));
    // What is published decides nothing of the plan.
    assert_eq!(
        (&again.week, &again.programme),
        (&newest.week, &newest.programme)
    );
    assert!(changes_with_causes(&week.programme, &again, &[]).is_empty());
    let as_published = again.as_published.unwrap();
    assert!(as_published.published.run_s > 0);
    assert_eq!(as_published.published, as_published.newest);
    // And to what the plan itself says.
    let totals = &newest.week.totals;
    assert_eq!(as_published.newest.run_s, totals.run_s);
    assert!((as_published.newest.volume_l.l() - totals.volume_l.l()).abs() < 1e-6);
    let dry = newest
        .week
        .zones
        .iter()
        .map(|z| consequence(z).days_too_dry);
    assert_eq!(as_published.newest.days_too_dry, dry.sum::<u32>());
    assert!(as_published.drains.is_empty());
}

/// New grass goes by its top, whatever was published: it makes no difference between the two sums, even where rain is as good as sure.
#[test]
fn new_grass_beside_a_published_week_comes_to_the_same() {
    let mut document = document();
    document.zones.push(Zone {
        regime: Regime::Seedbed,
        sown_on: TODAY.checked_sub(6.days()).ok(),
        new_grass_by_hand: true,
        ..zone("z2")
    });
    let observed = dry(&document, 20);
    let wet = DailyWeather {
        rain_probability_pct: Some(90.0),
        ..plain(TODAY, 4.0, 25.0)
    };
    let known = |week| Known {
        forecast: std::slice::from_ref(&wet),
        published: week,
        ..Known::of_record(&document, &observed, TODAY)
    };
    let week = published(&plan(&known(None)).unwrap());
    let again = plan(&known(Some(&week))).unwrap();
    let sums = again.as_published.unwrap();
    assert_eq!(sums.published, sums.newest);
}

#[test]
fn what_a_person_changes_since_shows_against_it() {
    let document = document();
    let observed = dry(&document, 20);
    let week = published(&today(&document, &observed, &[], None));
    let run = &week.programme.runs[0];
    let out = Edit {
        zone: run.zone.clone(),
        date: run.date,
        becomes: Becomes::TakenOut,
    };
    let newest = today(&document, &observed, &[out], Some(&week));
    let changes = changes_with_causes(&week.programme, &newest, &[]);
    assert!(changes.iter().any(|of| of.zone == run.zone), "{changes:?}");
    // The published one goes on as it is: the edit is the draft's.
    let unchanged = today(&document, &observed, &[], Some(&week));
    let published = |plan: &Plan| plan.as_published.as_ref().unwrap().published;
    assert_eq!(published(&newest), published(&unchanged));
}

#[test]
fn rain_that_makes_it_harmful_is_pointed_out() {
    let dry_one = document();
    let mut document = document();
    let observed = dry(&document, 20);
    let week = published(&today(&dry_one, &observed, &[], None));
    // It rained after it was published: the roots are full.
    for zone in &mut document.zones {
        zone.initial_depletion_mm = Some(Depth::ZERO);
    }
    let newest = today(&document, &observed, &[], Some(&week));
    let as_published = newest.as_published.unwrap();
    let first = week.programme.runs.iter().min_by_key(|r| r.date).unwrap();
    let drains: Vec<_> = as_published
        .drains
        .iter()
        .map(|d| (&d.zone, d.date))
        .collect();
    assert!(drains.contains(&(&first.zone, first.date)), "{drains:?}");
    assert!(as_published.published.volume_l.l() > as_published.newest.volume_l.l());
}

#[test]
fn what_is_worth_measuring_is_the_same_whatever_people_change() {
    let document = document();
    let observed = dry(&document, 20);
    let plain = today(&document, &observed, &[], None);
    let week = published(&plain);
    let run = &week.programme.runs[0];
    let out = Edit {
        zone: run.zone.clone(),
        date: run.date,
        becomes: Becomes::TakenOut,
    };
    let changed = today(&document, &observed, &[out], Some(&week));
    assert!(!plain.week.worth_measuring.is_empty());
    assert_eq!(changed.week.worth_measuring, plain.week.worth_measuring);
    // Given what is known of it, a plan is the same.
    let known = Known::of_record(&document, &observed, TODAY);
    let past = Past::of_record(&known);
    let given = plan_with(&known, &past, Some(&plain.week.worth_measuring)).unwrap();
    assert_eq!(given, plain);
}

#[test]
fn a_zone_that_was_added_since_is_not_in_force_and_that_is_said() {
    let both = document();
    let observed = dry(&both, 20);
    let mut one = both.clone();
    one.zones.truncate(1);
    let week = published(&today(&one, &observed, &[], None));
    let newest = today(&both, &observed, &[], Some(&week));
    let since = since_published(&week, &newest, &[]).unwrap();
    let added = since.changes.iter().find(|of| of.zone == "z1").unwrap();
    let runs = newest.programme.runs.iter().filter(|r| r.zone == "z1");
    assert_eq!(added.changes.len(), runs.count());
    assert!(matches!(added.changes[0], Change::Added { .. }));
    assert!(since.newest.run_s > since.published.run_s);
}
