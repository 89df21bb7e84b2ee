//! How new grass is watered: at each of its slots as much as its surface lacks, where it would be too dry before the next.
//!
//! Nothing up yet: the surface may lose half of what it can evaporate, and gets at most 3 mm at a time. Up: seven tenths, and all of it is refilled. Filling in: what surface and
//! roots lack, once a day, then every other day (common practice, no source).

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::proposal::{Act, Proposal};
use super::why::{Because, NewGrass, Why};
use crate::engine::dose;
use crate::engine::lately::Lately;
use crate::engine::root_zone::DayBalance;
use crate::engine::seedbed::{Bed, BedDay, BedNow, ByHour, Course};
use crate::engine::seedling::{Seedling, Stage};
use crate::engine::skip::Skip;
use crate::engine::slot::{HORIZON, Slot, Standing};
use crate::engine::surface_day::SurfaceDay;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Depth, RunTime};
use crate::site::Zone;
use crate::site::calendar::Interval;
use crate::site::daylight::{DayHours, HOURS};
use crate::weather::DailyWeather;

/// Most that is given at a time while nothing is up.
const MOST: Depth = Depth::from_mm(3.0);
/// What rounding down to whole steps may take off, mm.
const STEP: Depth = Depth::from_mm(1e-6);
/// Longest that a run may take, s.
const LONGEST_S: i64 = 6 * 3600;
/// What nothing ran on.
const NOTHING_RAN: ByHour = ByHour::NONE;

/// The surface of a zone over the horizon.
#[derive(Debug, Clone)]
pub(crate) struct Beds<'a> {
    now: BedNow,
    days: Vec<BedDay>,
    hours: &'a [DayHours],
}

/// The surface of a zone on its way through the days.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Going {
    begun: Course,
    course: Course,
}

impl<'a> Beds<'a> {
    /// Of a zone's surface this morning; `days`: the horizon's weather, today with the rain that is as good as sure.
    pub fn new(
        now: BedNow,
        model: &ZoneModel,
        days: &[DailyWeather; HORIZON],
        hours: &'a [DayHours],
    ) -> Self {
        let days = days.iter().zip(hours);
        let days = days.map(|(weather, hours)| BedDay::new(&now.bed, model, weather, hours));
        Self {
            days: days.collect(),
            now,
            hours,
        }
    }

    /// As the first day finds it, with the root store's depletion at its dawn.
    pub const fn begin(&self, root: Depth) -> Going {
        let begun = Course::begin(self.now.surface, root);
        Going {
            begun,
            course: begun,
        }
    }

    const fn ran(&self, day: usize) -> &ByHour {
        if day == 0 {
            &self.now.ran
        } else {
            &NOTHING_RAN
        }
    }

    /// Ends a day: its balance, and the next as it begins.
    pub fn end(&self, going: &mut Going, day: usize, depletion: Depth) -> DayBalance {
        let figures = &self.days[day];
        going.course.go_to(figures, HOURS, self.ran(day));
        let balance = going
            .course
            .balance(&going.begun, depletion, Depth::ZERO, figures);
        going.begun = Course::begin(going.course.surface(), balance.end);
        going.course = going.begun;
        balance
    }

    /// What is proposed at a slot, the first of `slots`.
    pub fn propose(
        &self,
        going: &mut Going,
        model: &ZoneModel,
        slots: &[Slot],
        lately: &Lately,
    ) -> Option<Proposal> {
        let (slot, later) = slots.split_first()?;
        let day = slot.day;
        let hour = self.hours[day].hour_of(slot.opens_s);
        going.course.go_to(&self.days[day], hour, self.ran(day));
        // What ran within the hour has run.
        going.course.count(self.ran(day));
        let next = later
            .iter()
            .find(|s| s.day < HORIZON && !matches!(s.standing, Standing::Forbidden(_)));
        let driest = self.driest(going.course, day, next);
        let (surface, root) = (going.course.surface(), going.course.root());
        let bed = &self.now.bed;
        let limit = bed.limit();
        let due = is_due(bed, driest, self.days[day].date, lately.watered);
        let (wanted, least) = wanted(bed, model, surface, root);
        let (because, act) = match slot.standing {
            Standing::Forbidden(skip) => (Because::Forbidden(skip), Act::Skip(skip)),
            Standing::Fixed(dose) => (Because::Fixed, Act::Water(dose)),
            Standing::Open if !due => (Because::NotDue, Act::Wait),
            Standing::Open => match dose::dose(model, wanted, slot.window_s) {
                Some(dose) => (Because::Due, Act::Water(dose)),
                None if wanted < least => (Because::TooLittle, Act::Wait),
                None => (Because::NoRoom, Act::NoRoom),
            },
        };
        let (dose, driest_after) = match act {
            Act::Water(dose) => {
                let mut watered = going.course;
                watered.water(dose.irrigation);
                (dose.irrigation.net, self.driest(watered, day, next))
            }
            _ => (Depth::ZERO, driest),
        };
        Some(Proposal {
            slot: *slot,
            depletion: root,
            act,
            urgency: limit.map_or(surface, |limit| driest - limit),
            soak: least,
            must: dose,
            why: Why::NewGrass(NewGrass {
                because,
                stage: bed.stage,
                surface,
                tew: bed.tew(),
                limit,
                driest,
                driest_after,
                next: next.map(|s| (s.day, s.opens_s)),
                wanted: if due { wanted } else { Depth::ZERO },
                every_days: limit.is_none().then_some(bed.every_days),
            }),
        })
    }

    /// When the last of today's slots that are over began at which water was due and since when nothing ran, s; `None`: nothing was missed. `next_s`: when the next slot to come
    /// begins.
    pub fn missed(&self, root: Depth, past: &[Interval], next_s: Option<i64>) -> Option<i64> {
        let (limit, hours) = (self.now.bed.limit()?, self.hours.first()?);
        let mut course = Course::begin(self.now.surface, root);
        let mut missed = None;
        for (i, slot) in past.iter().enumerate() {
            let from = hours.hour_of(slot.start_s);
            let next_s = past.get(i + 1).map(|s| s.start_s).or(next_s);
            let until = next_s.map_or(HOURS, |s| hours.hour_of(s));
            course.go_to(&self.days[0], from, &self.now.ran);
            // Whatever ran later has made it good.
            let ran = self.now.ran.0[from..].iter();
            let mut dry = course.watched_anew();
            dry.go_to(&self.days[0], until, &NOTHING_RAN);
            if ran.clone().all(|given| given.gross <= Depth::ZERO) && dry.driest() > limit {
                missed = Some(slot.start_s);
            }
        }
        missed
    }

    /// Waters it with what was decided at the slot.
    pub fn water(&self, going: &mut Going, proposal: &Proposal) {
        if let Some(dose) = proposal.dose() {
            going.course.water(dose.irrigation);
        }
    }

    /// How dry the surface would be by the next slot, or the end of the next day where there is none, if nothing were given.
    fn driest(&self, mut course: Course, day: usize, next: Option<&Slot>) -> Depth {
        let (last, until) = match next {
            Some(slot) => (slot.day, self.hours[slot.day].hour_of(slot.opens_s)),
            None => ((day + 1).min(HORIZON - 1), HOURS),
        };
        course = course.watched_anew();
        let mut driest = course.surface();
        for at in day..=last {
            let until = if at == last { until } else { HOURS };
            course.go_to(&self.days[at], until, self.ran(at));
            driest = driest.max(course.driest());
            if at < last {
                course = Course::begin(course.surface(), course.root());
            }
        }
        driest
    }
}

/// Why the surface of new grass is too dry for some hours.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "because", rename_all = "snake_case")]
pub enum DryBecause {
    /// The hours that are allowed are too far apart.
    HoursApart,
    /// It lacked less than the least pass gives.
    TooLittle,
    /// Other zones filled the hours, or the supply did not give it all.
    NoRoom,
    /// A rule, or the store, left too little water.
    Volume,
    /// Weather or a person forbade it.
    Forbidden {
        /// By what.
        skip: Skip,
    },
    /// It dried faster than was expected.
    Faster,
    /// It was due, and nobody noted that it ran.
    Missed,
}

/// Why the surface of a day was too dry, by what was decided at the slot before; `None`: it was not. `before`: what was decided last on earlier days.
pub(crate) fn dry_because(
    surface: &SurfaceDay,
    hours: &DayHours,
    decided: &[Proposal],
    before: Option<&Proposal>,
) -> Option<DryBecause> {
    let from = usize::from(surface.dry.first()?);
    let earlier = |p: &&Proposal| hours.hour_of(p.slot.opens_s) <= from;
    let last = decided.iter().rev().find(earlier).or(before);
    Some(last.map_or(DryBecause::HoursApart, because))
}

fn because(last: &Proposal) -> DryBecause {
    let Why::NewGrass(why) = &last.why else {
        return DryBecause::HoursApart;
    };
    match (last.act, why.because) {
        (Act::Skip(skip), _) | (_, Because::Forbidden(skip)) => DryBecause::Forbidden { skip },
        (_, Because::TooLittle) => DryBecause::TooLittle,
        (_, Because::Rationed) => DryBecause::Volume,
        (_, Because::NoRoom) => DryBecause::NoRoom,
        (Act::Water(dose), _) if dose.wanted < why.wanted => DryBecause::NoRoom,
        (_, Because::NotDue) => DryBecause::Faster,
        _ if why.limit.is_some_and(|limit| why.driest_after > limit) => DryBecause::HoursApart,
        _ => DryBecause::Faster,
    }
}

/// How long the longest run at a slot takes, s, passes and soaks and all settings of a portable.
pub(crate) fn longest_run_s(zone: &Zone, model: &ZoneModel, seedling: &Seedling) -> i64 {
    let bed = Bed::of(zone, model, seedling);
    let net = match bed.stage {
        Stage::NotUp => MOST.min(bed.tew()),
        Stage::Up => bed.tew(),
        Stage::FillingIn | Stage::Established => bed.tew() + model.taw,
    };
    let dose = dose::dose(model, net, LONGEST_S);
    dose.map_or(0, |dose| dose.span_s()) * i64::from(model.settings)
}

/// Whether a surface is watered at a slot; `driest`: as dry as it would be before the next, `watered`: the day on which it was watered last.
pub(crate) fn is_due(bed: &Bed, driest: Depth, date: Date, watered: Option<Date>) -> bool {
    match bed.limit() {
        Some(limit) => driest > limit,
        None => watered.is_none_or(|last| (date - last).get_days() >= bed.every_days),
    }
}

/// What a slot is to give to stores that lack so much, and the least that can be given.
pub(crate) fn wanted(bed: &Bed, model: &ZoneModel, surface: Depth, root: Depth) -> (Depth, Depth) {
    let wanted = match bed.stage {
        Stage::NotUp => surface.min(MOST),
        Stage::Up => surface,
        Stage::FillingIn | Stage::Established => (surface + root).max(Depth::ZERO),
    };
    let least = model.net_of_gross(model.rate.value * RunTime::from_whole_s(model.least_pass_s));
    // The least that can be given, as long as it does not soak through.
    if wanted < least && least <= surface + root {
        (least + STEP, least)
    } else {
        (wanted, least)
    }
}
