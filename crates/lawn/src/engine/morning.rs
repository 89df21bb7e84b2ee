//! One morning: what is known of the site and its state, and what may come, make the site's week. A plan calls it for today; a replay folds
//! it over a season.

use crate::engine::dose;
use crate::engine::lately::Lately;
use crate::engine::rationing::Cap;
use crate::engine::reserve::Reserve;
use crate::engine::root_zone::Given;
use crate::engine::schools::new_grass::Beds;
use crate::engine::schools::{Keeping, Proposal};
use crate::engine::seedbed::BedNow;
use crate::engine::site_week::{self, Frame, SiteWeek};
use crate::engine::skip::{self, Skip};
use crate::engine::slot::{HORIZON, Opening, RainAhead, Slot, Standing, zone_days};
use crate::engine::zone_model::ZoneModel;
use crate::engine::zone_week::Member;
use crate::quantity::{Area, Depth, RunTime};
use crate::site::daylight::DayHours;
use crate::weather::DailyWeather;
use crate::weather::outlook::Outlook;

/// What holds of a zone.
#[derive(Debug, Clone)]
pub struct ZoneFacts<'a> {
    /// Its figures.
    pub model: &'a ZoneModel,
    /// How it is watered.
    pub keeping: Keeping,
    /// Rank when water is short, 1 first.
    pub priority: u8,
    /// Its area.
    pub area: Area,
    /// What it takes of what may run at a time, of [`crate::engine::timetable::WHOLE`].
    pub takes: u32,
    /// Whether a person carries the water.
    pub by_hand: bool,
    /// Whether it takes part: it exists, it is not off, the supply can feed it.
    pub planned: bool,
    /// The openings from which rules bar it: no opportunities of its own.
    pub barred: Vec<usize>,
    /// The openings in which it must stay dry.
    pub kept_dry: Vec<usize>,
    /// What people have fixed, by opening.
    pub fixed: Vec<(usize, Standing)>,
    /// What must be watered in.
    pub water_in: Vec<WaterIn>,
}

/// Water that must be given within some hours: something was put down that is to be washed in.
#[derive(Debug, Clone, PartialEq)]
pub struct WaterIn {
    /// The openings that lie in these hours.
    pub openings: Vec<usize>,
    /// Net depth.
    pub net: Depth,
}

/// What holds of a site. `capacity` says what a window of so many seconds carries for a zone ([`crate::engine::dose::capacity`], or a
/// memory of it).
#[derive(Debug, Clone)]
pub struct Facts<'a, C> {
    /// Its zones.
    pub zones: Vec<ZoneFacts<'a>>,
    /// Its openings in the horizon, in time order.
    pub openings: Vec<Opening>,
    /// By day, when watering should have ended: sunrise.
    pub targets_s: [Option<i64>; HORIZON],
    /// Volumes that rules do not let pass.
    pub caps: Vec<Cap>,
    /// The tank or well as it stands before the first opening; `None`: water never runs out.
    pub reserve: Option<Reserve>,
    /// What a window carries for a zone.
    pub capacity: C,
    /// The hours of the horizon's days; read only where there is new grass.
    pub hours: Vec<DayHours>,
}

/// How a zone stands this morning.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct ZoneState {
    /// Depletion at today's dawn.
    pub depletion: Depth,
    /// What has run today already.
    pub already: Given,
    /// Opportunities running at which it was held for rain.
    pub held: u32,
    /// What it got lately, today's included.
    pub lately: Lately,
    /// The surface of new grass, where it has a store; depletion is then the root store's.
    pub bed: Option<BedNow>,
}

/// What may come.
#[derive(Debug, Clone, Copy)]
pub struct Ahead<'a> {
    /// The horizon's days; rain 0.
    pub days: &'a [DailyWeather; HORIZON],
    /// The outlook; `None`: plain refills.
    pub outlook: Option<&'a Outlook>,
    /// The last day observed.
    pub yesterday: Option<&'a DailyWeather>,
}

/// Decides the site's week.
#[must_use]
pub fn decide<C: Fn(usize, i64) -> Depth>(
    facts: &Facts<C>,
    state: &[ZoneState],
    ahead: &Ahead,
) -> SiteWeek {
    let members = members(facts, state, ahead);
    site_week::plan_site(&members, &Frame::of(facts), HORIZON)
}

/// What [`decide`] decides for today, by zone and slot, without the rest of the week.
#[must_use]
pub fn decide_today<C: Fn(usize, i64) -> Depth>(
    facts: &Facts<C>,
    state: &[ZoneState],
    ahead: &Ahead,
) -> Vec<Vec<Proposal>> {
    let members = members(facts, state, ahead);
    site_week::plan_site(&members, &Frame::of(facts), 1)
        .zones
        .into_iter()
        .map(|week| week.proposals)
        .collect()
}

impl<'a> Frame<'a> {
    const fn of<C>(facts: &'a Facts<C>) -> Self {
        Self {
            openings: facts.openings.as_slice(),
            targets_s: &facts.targets_s,
            caps: facts.caps.as_slice(),
            reserve: facts.reserve,
        }
    }
}

pub(crate) fn members<'a, C: Fn(usize, i64) -> Depth>(
    facts: &'a Facts<'a, C>,
    state: &[ZoneState],
    ahead: &Ahead<'a>,
) -> Vec<Member<'a>> {
    facts
        .zones
        .iter()
        .zip(state)
        .enumerate()
        .map(|(zone, (of, state))| Member {
            model: of.model,
            keeping: of.keeping,
            start: state.depletion,
            already: state.already,
            days: zone_days(of.model, ahead.days),
            beyond: beyond(of.model, ahead),
            slots: slots(facts, zone, ahead),
            priority: of.priority,
            area: of.area,
            takes: of.takes,
            by_hand: of.by_hand,
            rain: RainAhead {
                outlook: ahead.outlook,
                held: state.held,
            },
            lately: state.lately,
            beds: state
                .bed
                .map(|now| beds(now, of.model, ahead, &facts.hours)),
        })
        .collect()
}

/// Probability from which rain of today counts as sure for new grass, which waits for none (common practice, no source).
const SURE: f64 = 0.7;

/// The surface of new grass over the horizon: rain counts today alone, and only where it is as good as sure.
pub(crate) fn beds<'a>(
    now: BedNow,
    model: &ZoneModel,
    ahead: &Ahead,
    hours: &'a [DayHours],
) -> Beds<'a> {
    let mut days = *ahead.days;
    let rain = ahead.outlook.map(|outlook| outlook.days()[0].rain);
    if let Some(rain) = rain.filter(|rain| rain.probability >= SURE) {
        days[0].rain = rain.amount * rain.probability;
    }
    Beds::new(now, model, &days, hours)
}

/// Crop ET and RAW of the days after the horizon, as the outlook has them; without one as its last day.
fn beyond(model: &ZoneModel, ahead: &Ahead) -> [(Depth, Depth); HORIZON] {
    std::array::from_fn(|i| {
        let weather = match ahead.outlook {
            Some(outlook) => &outlook.days()[HORIZON + i].weather,
            None => &ahead.days[HORIZON - 1],
        };
        let etc = model.etc(weather);
        (etc, model.raw(etc))
    })
}

/// The openings as slots of a zone, with what weather and people say of each: a person's word before the weather.
fn slots<C: Fn(usize, i64) -> Depth>(facts: &Facts<C>, zone: usize, ahead: &Ahead) -> Vec<Slot> {
    let of = &facts.zones[zone];
    if !of.planned {
        return Vec::new();
    }
    let openings = facts.openings.iter().enumerate();
    let mut slots: Vec<Slot> = openings
        .filter_map(|(opening, o)| {
            // A portable is moved through all its settings within the hours.
            let window_s = o.length_s(of.by_hand) / i64::from(of.model.settings);
            if window_s <= 0 || of.barred.contains(&opening) {
                return None;
            }
            let capacity = (facts.capacity)(zone, window_s);
            let fixed = of.fixed.iter().find(|(at, _)| *at == opening);
            let yesterday = ahead.yesterday.filter(|_| o.day == 0);
            let standing = if let Some((_, standing)) = fixed {
                *standing
            } else if o.day >= HORIZON {
                Standing::Open
            } else if of.kept_dry.contains(&opening) {
                Standing::Forbidden(Skip::KeptDry)
            } else {
                let weather = &ahead.days[o.day];
                let skip = if of.keeping == Keeping::NewGrass {
                    skip::for_new_grass(weather, o.after_noon)
                } else {
                    skip::skip(of.model, weather, o.after_noon, yesterday)
                };
                skip.map_or(Standing::Open, Standing::Forbidden)
            };
            Some(Slot {
                opening,
                day: o.day,
                after_noon: o.after_noon,
                opens_s: o.window.start_s,
                window_s,
                capacity,
                left: capacity,
                standing,
            })
        })
        .collect();
    for asked in &of.water_in {
        water_in(of.model, asked, &mut slots);
    }
    slots
}

/// Waters something in from the first slot of its hours on that is open, as much as each carries.
fn water_in(model: &ZoneModel, asked: &WaterIn, slots: &mut [Slot]) {
    // Runs are whole steps, rounded down: one more makes it no less than asked.
    let step = model.net_of_gross(model.rate.value * RunTime::from_whole_s(model.step_s));
    let set = slots.iter().filter(|s| asked.openings.contains(&s.opening));
    let set = set.map(|s| match s.standing {
        Standing::Fixed(dose) => dose.irrigation.net,
        _ => Depth::ZERO,
    });
    // What a person has set within the hours counts.
    let mut left = asked.net - set.sum();
    let within = |slot: &&mut Slot| {
        let open = slot.day < HORIZON && slot.standing == Standing::Open;
        open && asked.openings.contains(&slot.opening)
    };
    for slot in slots.iter_mut().filter(within) {
        if left <= step {
            return;
        }
        let Some(dose) = dose::dose(model, left + step, slot.window_s) else {
            continue;
        };
        slot.standing = Standing::Fixed(dose);
        left -= dose.irrigation.net;
    }
}
