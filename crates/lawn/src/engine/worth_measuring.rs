//! What is worth measuring next: for each figure that could be off, the minutes that it leaves open, and what it costs to go on not knowing it.
//!
//! The zone is watered for four dry weeks by what is believed of it, on ground on which one figure is at its least, and at its greatest. The loss is what
//! this costs in harm and waste beyond a plan that knows the figure: what a measurement could save. (docs/decisions/0024)

use jiff::civil::Date;

use crate::engine::trial::{Believed, Course, Trial};
use crate::engine::uncertain::{Sharpen, ZoneFigure};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Depth, Volume};
use crate::site::{Controller, Zone};
use crate::sourced::Source;

/// Days of a trial: four weeks, so that what drifts apart shows.
pub const TRIED_DAYS: usize = 28;
/// Points at which figures of storage are tried: minutes do not grow evenly with them.
const STORAGE_POINTS: u32 = 7;

/// What a figure leaves open.
#[derive(Debug, Clone, PartialEq)]
pub struct Worth {
    /// Which.
    pub figure: ZoneFigure,
    /// Where it comes from.
    pub source: Source,
    /// What would sharpen it; `None`: it was measured here, and not long ago.
    pub sharpen: Option<Sharpen>,
    /// This week's running time by what is believed, s.
    pub week_s: i64,
    /// The least that it is at any value that the figure could have.
    pub least_s: i64,
    /// The most.
    pub most_s: i64,
    /// What not knowing it costs in a week, as a depth over the zone: the mean of its least and its greatest.
    pub loss: Depth,
    /// The same as a volume.
    pub loss_volume: Volume,
}

/// A test of a zone that is worth doing.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WorthDoing {
    /// Which test.
    pub test: Sharpen,
    /// The figure that it is done for: of those that it tells the one that costs most.
    pub figure: ZoneFigure,
    /// What not knowing what it tells costs in a week, as a depth over the zone.
    pub loss: Depth,
}

/// The tests of a zone that are worth doing, by what its figures leave open: of what is measured and not old nothing is to be gained. A test that
/// tells several figures is worth what they are worth together; one that tells only a part of what another would tell gives way to it.
#[must_use]
pub fn tests_worth_doing(worth: &[Worth]) -> Vec<WorthDoing> {
    let loss = |figure: ZoneFigure| {
        let of = worth.iter().find(|w| w.figure == figure);
        of.filter(|w| w.sharpen.is_some())
            .map_or(Depth::ZERO, |w| w.loss)
    };
    let mut tests: Vec<Sharpen> = worth.iter().filter_map(|w| w.sharpen).collect();
    tests.sort_unstable();
    tests.dedup();
    if tests.contains(&Sharpen::CanTest) {
        tests.retain(|test| *test != Sharpen::QuickTest);
    }
    let doing = tests.into_iter().filter_map(|test| {
        let told = test.tells().iter().copied();
        let figure = told
            .clone()
            .max_by(|a, b| loss(*a).mm().total_cmp(&loss(*b).mm()))?;
        Some(WorthDoing {
            test,
            figure,
            loss: told.map(loss).sum(),
        })
    });
    let mut doing: Vec<WorthDoing> = doing.filter(|d| d.loss > Depth::ZERO).collect();
    doing.sort_by(|a, b| b.loss.mm().total_cmp(&a.loss.mm()));
    doing
}

/// Days of a year, for the age of tests.
const YEAR_DAYS: f64 = 365.25;
/// By how much a test's half-width grows in a year.
const GROWS_A_YEAR: f64 = 0.1;

/// A figure's least and greatest on a day: what a test left open grows by a tenth a year, but for what follows from the soil's texture.
#[must_use]
pub fn aged(figure: ZoneFigure, model: &ZoneModel, today: Date) -> (f64, f64) {
    let of = figure.of(model);
    let (below, above) = (of.value - of.low, of.high - of.value);
    let years = match &of.source {
        Source::Measured { date, .. } if figure != ZoneFigure::Available => {
            let days = date.until(today).map_or(0, |span| span.get_days());
            f64::from(days.max(0)) / YEAR_DAYS
        }
        _ => 0.0,
    };
    let grown = 1.0 + GROWS_A_YEAR * years;
    let within = |x: f64| match figure {
        ZoneFigure::Evenness | ZoneFigure::SprayLoss => x.clamp(0.0, 1.0),
        _ => x.max(of.value * 0.05),
    };
    (
        within(of.value - below * grown),
        within(of.value + above * grown),
    )
}

/// What each figure of a zone leaves open, in the order of [`ZoneFigure::ALL`].
#[must_use]
pub fn worth_measuring(
    zone: &Zone,
    controller: &Controller,
    latitude: f64,
    course: &Course,
    today: Date,
) -> Vec<Worth> {
    let model = ZoneModel::new(zone, controller, latitude);
    let middle = Believed::new(&model, course);
    let as_believed = middle.tried_on(&model, course, HORIZON_DAYS);
    let worth = ZoneFigure::ALL.into_iter().map(|figure| {
        let (low, high) = aged(figure, &model, today);
        let (mut least_s, mut most_s) = (as_believed.week_s, as_believed.week_s);
        let mut losses = [Depth::ZERO; 2];
        let points = match figure {
            ZoneFigure::RootDepth | ZoneFigure::Available => STORAGE_POINTS,
            _ => 2,
        };
        for point in 0..points {
            let share = f64::from(point) / f64::from(points - 1);
            let value = low + (high - low) * share;
            let other = figure.set(zone, &model, value);
            let other = ZoneModel::new(&other, controller, latitude);
            let knows = Believed::new(&other, course);
            let end = match point {
                0 => Some(0),
                last if last == points - 1 => Some(1),
                _ => None,
            };
            let right: Trial = match end {
                Some(end) => {
                    let right = knows.tried_on(&other, course, TRIED_DAYS);
                    let wrong = middle.tried_on(&other, course, TRIED_DAYS);
                    losses[end] = (wrong.cost() - right.cost()).max(Depth::ZERO);
                    right
                }
                None => knows.tried_on(&other, course, HORIZON_DAYS),
            };
            least_s = least_s.min(right.week_s);
            most_s = most_s.max(right.week_s);
        }
        let weeks = TRIED_DAYS / HORIZON_DAYS;
        let weeks = f64::from(u32::try_from(weeks).unwrap_or(1));
        let loss = (losses[0] + losses[1]) / (2.0 * weeks);
        Worth {
            figure,
            source: figure.of(&model).source,
            sharpen: Sharpen::of(figure, &model, today),
            week_s: as_believed.week_s,
            least_s,
            most_s,
            loss,
            loss_volume: loss * zone.area_m2,
        }
    });
    worth.collect()
}

/// Days of a week.
const HORIZON_DAYS: usize = 7;
