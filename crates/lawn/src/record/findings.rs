//! What a meter tells beside the runs: more than ran, or less, and since when; what may be behind it, to be looked at in that order.

use jiff::Timestamp;
use serde::Serialize;
use utoipa::ToSchema;

use crate::quantity::Volume;
use crate::record::book::{Book, Metered};
use crate::site::meter::Meter;

/// What of what ran may be off without being a finding: rates are not known better (no source).
const OFF: f64 = 0.05;
/// Steps of the counter that say nothing: each end of a stretch may be one off.
const STEPS: f64 = 2.0;
/// Litres that say nothing in a stretch between readings (no source).
const LEAST: Volume = Volume::from_l(500.0);
const WEEK_S: f64 = 7.0 * 86_400.0;

/// What may be behind a finding.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = FindingCause)]
pub enum Cause {
    /// Water that flows with nothing on: a leak, or a valve that does not close.
    Leak,
    /// Heads that are gone or broken, while their zones run.
    BrokenHeads,
    /// Watering that nobody noted.
    NotNoted,
    /// Runs that did not happen.
    DidNotRun,
    /// Heads that are clogged.
    CloggedHeads,
    /// Rates of zones that are not what the plan takes them to be.
    WrongRate,
}

/// A meter that does not agree with the runs.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = MeterFinding)]
pub struct Finding {
    /// The meter's identifier.
    pub meter: String,
    /// Its name.
    pub name: String,
    /// From which reading on.
    pub since: Timestamp,
    /// Up to which.
    pub up_to: Timestamp,
    /// How much more flowed than ran, L; below 0: less.
    pub litres: Volume,
    /// The same a week.
    pub litres_a_week: Volume,
    /// What that costs a week at the price of the next water; `None`: no tariff.
    pub cost_a_week: Option<f64>,
    /// What may be behind it, the likeliest first.
    pub causes: Vec<Cause>,
}

/// How far a stretch is off; `None`: not far enough to be news.
fn off(meter: &Meter, between: &Metered) -> Option<Volume> {
    let rest = between.metered_l? - between.run_l;
    let step = meter.volume(meter.step()).l();
    let most = (OFF * between.run_l.l()).max(STEPS * step).max(LEAST.l());
    (rest.l().abs() > most).then_some(rest)
}

/// The causes of a difference, the likeliest first: in a stretch in which next to nothing ran it is no matter of heads or rates.
fn causes(off: Volume, run: Volume) -> Vec<Cause> {
    let idle = run.l() < off.l().abs();
    match (off.l() > 0.0, idle) {
        (true, true) => vec![Cause::Leak, Cause::NotNoted],
        (true, false) => vec![
            Cause::Leak,
            Cause::BrokenHeads,
            Cause::NotNoted,
            Cause::WrongRate,
        ],
        (false, _) => vec![Cause::DidNotRun, Cause::CloggedHeads, Cause::WrongRate],
    }
}

/// What the meters of a site say, by their readings in a book. A meter that feeds the house says nothing: nobody knows what the house took.
#[must_use]
pub fn findings(meters: &[Meter], book: &Book) -> Vec<Finding> {
    let of = |meter: &Meter| {
        let own: Vec<&Metered> = (book.metered.iter())
            .filter(|between| between.meter == meter.id)
            .collect();
        let last = own.last()?;
        let more = off(meter, last)?.l() > 0.0;
        // As long as it has been off to the same side.
        let from = (own.iter())
            .rposition(|b| off(meter, b).is_none_or(|rest| (rest.l() > 0.0) != more))
            .map_or(0, |i| i + 1);
        let stretch = &own[from..];
        let sum =
            |figure: fn(&Metered) -> Volume| stretch.iter().map(|b| figure(b).l()).sum::<f64>();
        let run = sum(|b| b.run_l);
        let litres = sum(|b| b.metered_l.unwrap_or_default()) - run;
        let first = stretch.first()?;
        let seconds = last.to.duration_since(first.from).as_secs_f64();
        let a_week = Volume::from_l(litres / seconds * WEEK_S);
        // What the last stretch says counts most: a leak goes on when nothing runs.
        let quietest = stretch
            .iter()
            .min_by(|a, b| a.run_l.l().total_cmp(&b.run_l.l()))?;
        let rest = off(meter, quietest)?;
        Some(Finding {
            meter: meter.id.clone(),
            name: meter.name.clone(),
            since: first.from,
            up_to: last.to,
            litres: Volume::from_l(litres),
            litres_a_week: a_week,
            cost_a_week: book.next_m3.map(|price| a_week.cost_at(price)),
            causes: causes(rest, quietest.run_l),
        })
    };
    let own = meters.iter().filter(|meter| !meter.house);
    own.filter_map(of).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::meter::MeterUnit;
    use jiff::SignedDuration;
    use jiff::civil::date;

    fn meter() -> Meter {
        Meter {
            id: "m".to_owned(),
            name: "Commons".to_owned(),
            unit: MeterUnit::M3,
            digits: 6,
            decimals: 1,
            multiplier: 1.0,
            pulse_l: None,
            feeds: Vec::new(),
            house: false,
            active_from: None,
            active_to: None,
        }
    }

    /// Weeks of so many m³ metered and run.
    fn found(meter: &Meter, weeks: &[(f64, f64)]) -> Vec<Finding> {
        let first: Timestamp = "2026-05-04T12:00:00Z".parse().unwrap();
        let at =
            |week: usize| first + SignedDuration::from_hours(7 * 24 * i64::try_from(week).unwrap());
        let metered = weeks.iter().enumerate().map(|(i, (metered, run))| Metered {
            meter: "m".to_owned(),
            from: at(i),
            to: at(i + 1),
            metered_l: Some(Volume::from_l(metered * 1000.0)),
            run_l: Volume::from_l(run * 1000.0),
        });
        let book = Book {
            from: date(2026, 5, 4),
            to: date(2026, 6, 14),
            zones: Vec::new(),
            weeks: Vec::new(),
            months: Vec::new(),
            total: crate::record::book::Sums::default(),
            timer_left_l: None,
            fees: None,
            next_m3: Some(2.0),
            budgets: crate::record::budget::Budgets::default(),
            metered: metered.collect(),
        };
        findings(std::slice::from_ref(meter), &book)
    }

    #[test]
    fn what_agrees_within_what_rates_are_known_is_no_news() {
        assert!(found(&meter(), &[]).is_empty());
        assert!(found(&meter(), &[(100.0, 96.0), (0.4, 0.0), (50.0, 51.9)]).is_empty());
        // It was off, and is no more.
        assert!(found(&meter(), &[(20.0, 0.0), (30.0, 30.0)]).is_empty());
    }

    #[test]
    fn a_leak_is_followed_back_to_where_it_began() {
        let weeks = [(113.0, 112.5), (155.3, 144.0), (18.5, 0.0)];
        let [leak] = &found(&meter(), &weeks)[..] else {
            panic!()
        };
        assert_eq!(leak.since, "2026-05-11T12:00:00Z".parse().unwrap());
        assert!((leak.litres.l() - 29_800.0).abs() < 1e-6);
        assert!((leak.litres_a_week.l() - 14_900.0).abs() < 1e-6);
        assert!((leak.cost_a_week.unwrap() - 29.8).abs() < 1e-9);
        // It went on while nothing ran.
        assert_eq!(leak.causes, [Cause::Leak, Cause::NotNoted]);
        let [running] = &found(&meter(), &weeks[..2])[..] else {
            panic!()
        };
        assert_eq!(running.causes[..2], [Cause::Leak, Cause::BrokenHeads]);
        let house = Meter {
            house: true,
            ..meter()
        };
        assert!(found(&house, &weeks).is_empty());
    }

    #[test]
    fn less_than_ran_is_a_run_that_did_not_happen_first() {
        let [less] = &found(&meter(), &[(60.0, 60.0), (40.0, 60.0)])[..] else {
            panic!()
        };
        assert!((less.litres.l() + 20_000.0).abs() < 1e-6);
        assert_eq!(less.causes[0], Cause::DidNotRun);
        // More, then less: only the last side is told.
        let [turned] = &found(&meter(), &[(80.0, 60.0), (40.0, 60.0)])[..] else {
            panic!()
        };
        assert!((turned.litres.l() + 20_000.0).abs() < 1e-6);
    }
}
