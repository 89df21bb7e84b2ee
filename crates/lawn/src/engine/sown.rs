//! What becomes of grass that is sown on a day, hour by hour over weeks of weather: on rain alone, or watered at its slots as the plan waters it.
//!
//! The soil begins as dry as it gets. Seed does not swell while its surface is dry: warmth of such days does not count before it is up.

use jiff::ToSpan;
use jiff::civil::Date;
use jiff::tz::TimeZone;

use crate::days;
use crate::engine::dose;
use crate::engine::history::ZoneHistory;
use crate::engine::schools::new_grass::{is_due, wanted};
use crate::engine::seedbed::{self, Bed, BedDay, ByHour, Course};
use crate::engine::seedbed_hours::{Seedbed, with_slots};
use crate::engine::seedling::{Firsts, Seedling, Stage};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::site::calendar::{self, CalendarDay};
use crate::site::daylight::{DayHours, Daylight, HOURS};
use crate::site::{Invalid, Regime, SiteDocument, Zone};
use crate::weather::DailyWeather;

/// Dry days running after the first moist one from which on it is lost, and not followed any more (no source).
pub const LOST_DRY_DAYS: u32 = 14;
/// Nothing ran.
const NOTHING: ByHour = ByHour::NONE;

/// A zone as it would be sown, with the days from which on it could be.
#[derive(Debug, Clone)]
pub struct Plot {
    zone: Zone,
    /// By stage: nothing is up, it is up, it fills in.
    models: [ZoneModel; 3],
    bed: Bed,
    days: Vec<PlotDay>,
}

#[derive(Debug, Clone)]
struct PlotDay {
    hours: DayHours,
    /// The hour and the length, s, of each of its slots by stage.
    slots: [Vec<(usize, i64)>; 3],
    closed_by: Option<usize>,
}

/// How it came on.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Grown {
    /// The first days of its stages.
    pub first: Firsts,
    /// Most days running on which it was too dry, after the surface was moist for the first time.
    pub dry_running: u32,
    /// Water out of the sprinklers.
    pub gross: Depth,
    /// Time that water ran, s.
    pub run_s: i64,
    /// How often it was watered.
    pub runs: u32,
    /// Most waterings of a day.
    pub most_a_day: u32,
}

impl Plot {
    /// A zone of a site, sown with a grass, over `count` days from a day on, by the rules that hold on them; the site's other zones stay as they are.
    ///
    /// # Errors
    /// A time zone that is not known.
    pub fn of(
        document: &SiteDocument,
        place: usize,
        zone: &Zone,
        from: Date,
        count: usize,
    ) -> Result<Self, Invalid> {
        let mut zone = zone.on(from).in_regime(Regime::Seedbed, days::FIRST)?;
        zone.sown_on = None;
        zone.active_from = None;
        zone.active_to = None;
        let history = ZoneHistory::of(document, &zone);
        let at = |stage| Seedling::at(stage, from, zone.grass, zone.new_grass_as);
        let stages = [Stage::NotUp, Stage::Up, Stage::FillingIn];
        let models = stages.map(|stage| history.grown(from, Some(&at(stage))).model.clone());
        let time_zone = document.site.zone()?;
        let mut zones: Vec<&Zone> = document.zones.iter().collect();
        if let Some(own) = zones.get_mut(place) {
            *own = &zone;
        }
        let whole = calendar::days_of(document, &zones, &time_zone, from, count);
        let slots = stages.map(|stage| {
            slots(
                document,
                &zones,
                &time_zone,
                place,
                &at(stage),
                &models[0],
                &whole,
            )
        });
        let daylight = Daylight::of(&document.site)?;
        let days = whole.iter().enumerate().map(|(i, day)| {
            let hours = daylight.hours(day.date);
            PlotDay {
                slots: [0, 1, 2].map(|stage| in_hours(&slots[stage][i], place, &hours)),
                hours,
                closed_by: day.closed_by(place),
            }
        });
        Ok(Self {
            days: days.collect(),
            bed: Bed::of(&zone, &models[0], &at(Stage::NotUp)),
            zone,
            models,
        })
    }

    /// The zone as it is sown.
    #[must_use]
    pub const fn zone(&self) -> &Zone {
        &self.zone
    }

    /// Of the `count` days from the `at`-th on, those that leave it no hour, and the rule that closes the first of them, by its place.
    #[must_use]
    pub fn closed(&self, at: usize, count: usize) -> (usize, Option<usize>) {
        let days = self.days.iter().skip(at).take(count);
        let closed = days.filter(|day| day.slots[0].is_empty());
        let rules: Vec<Option<usize>> = closed.map(|day| day.closed_by).collect();
        (rules.len(), rules.into_iter().flatten().next())
    }

    /// What becomes of it, sown or planted on the `at`-th day, in weather put on that day and those after it.
    #[must_use]
    pub fn grow(&self, at: usize, weather: &[DailyWeather], is_watered: bool) -> Grown {
        let mut grown = Grown::default();
        let first = weather.first();
        let begins = first.and_then(|day| Seedling::begins(&self.zone, day.date, None));
        let Some(mut seedling) = begins else {
            return grown;
        };
        let mut stores = (self.bed.tew(), self.models[0].taw);
        let (mut was_moist, mut dry_running, mut watered) = (false, 0, None);
        for (day, weather) in self.days.iter().skip(at).zip(weather) {
            let stage = usize::from(seedling.stage > Stage::NotUp)
                + usize::from(seedling.stage > Stage::Up);
            let bed = Bed {
                stage: seedling.stage,
                cover: seedling.cover(self.zone.grass),
                every_days: seedling.every_days(self.zone.grass),
                ..self.bed
            };
            let model = &self.models[stage];
            let figures = BedDay::new(&bed, model, weather, &day.hours);
            let mut course = Course::begin(stores.0, stores.1);
            if is_watered {
                let slots = &day.slots[stage];
                let ran = self.water(&mut course, &bed, model, &figures, slots, watered);
                if ran.runs > 0 {
                    watered = Some(weather.date);
                }
                grown.add(&ran);
            }
            course.go_to(&figures, HOURS, &NOTHING);
            stores = (course.surface(), course.root());
            let is_dry = seedbed::is_dry_day(
                bed.limit().map(|_| course.dry().count()),
                [stores.0 / bed.tew(), stores.1 / model.taw],
            );
            was_moist |= !is_dry;
            dry_running = if is_dry && was_moist {
                dry_running + 1
            } else {
                0
            };
            grown.dry_running = grown.dry_running.max(dry_running);
            if !is_dry || seedling.stage > Stage::NotUp {
                // What becomes of dry days is counted here, over all of them.
                seedling = seedling.after(weather, self.zone.grass, false);
            }
            let morning = weather.date.saturating_add(1.day());
            grown.first.see(&seedling, self.zone.grass, morning);
            if grown.first.mown.is_some() || grown.dry_running >= LOST_DRY_DAYS {
                break;
            }
        }
        grown
    }

    /// Waters a day at its slots where it is due.
    fn water(
        &self,
        course: &mut Course,
        bed: &Bed,
        model: &ZoneModel,
        figures: &BedDay,
        slots: &[(usize, i64)],
        watered: Option<Date>,
    ) -> Ran {
        let mut ran = Ran::default();
        for (i, &(hour, window_s)) in slots.iter().enumerate() {
            course.go_to(figures, hour, &NOTHING);
            let mut unwatered = course.watched_anew();
            // Until the next slot, or midnight: the night asks for next to nothing.
            let until = slots.get(i + 1).map_or(HOURS, |next| next.0);
            unwatered.go_to(figures, until, &NOTHING);
            if !is_due(bed, unwatered.driest(), figures.date, watered) {
                continue;
            }
            let (wanted, _) = wanted(bed, model, course.surface(), course.root());
            let Some(dose) = dose::dose(model, wanted, window_s) else {
                continue;
            };
            course.water(dose.irrigation);
            ran.gross += dose.irrigation.gross;
            ran.run_s += dose.run_s() * i64::from(model.settings);
            ran.runs += 1;
        }
        ran
    }
}

#[derive(Debug, Clone, Copy, Default)]
struct Ran {
    gross: Depth,
    run_s: i64,
    runs: u32,
}

impl Grown {
    fn add(&mut self, ran: &Ran) {
        self.gross += ran.gross;
        self.run_s += ran.run_s;
        self.runs += ran.runs;
        self.most_a_day = self.most_a_day.max(ran.runs);
    }
}

/// The days with the slots of a stage, as if no other new grass were there.
fn slots(
    document: &SiteDocument,
    zones: &[&Zone],
    time_zone: &TimeZone,
    place: usize,
    seedling: &Seedling,
    model: &ZoneModel,
    days: &[CalendarDay],
) -> Vec<CalendarDay> {
    let bed = zones
        .get(place)
        .map(|zone| Seedbed::of(place, zone, model, seedling));
    let open = |day: &CalendarDay, place: usize| {
        calendar::open_to_new_grass(document, zones, time_zone, day, place)
    };
    with_slots(days.to_vec(), bed.as_slice(), zones.len(), open)
}

fn in_hours(day: &CalendarDay, place: usize, hours: &DayHours) -> Vec<(usize, i64)> {
    let windows = day.windows.iter().enumerate();
    let own = windows.filter(|(window, _)| !day.bars(*window, place));
    own.map(|(_, window)| (hours.hour_of(window.start_s), window.length_s()))
        .collect()
}
