//! A zone that is watered by what is believed of it, while the ground is what it is: what is missed, and what runs to waste.

use crate::engine::dose;
use crate::engine::lately::Lately;
use crate::engine::root_zone::{self, Given};
use crate::engine::schools::{Keeping, School};
use crate::engine::slot::{At, HORIZON, Opening, RainAhead, Slot, Standing, ZoneDay};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Depth, RunTime};
use crate::weather::DailyWeather;

/// Days and hours of a trial, the same for all that is tried on a zone.
#[derive(Debug, Clone, Copy)]
pub struct Course<'a> {
    /// Its days with their rain, [`HORIZON`] more than are tried.
    pub days: &'a [DailyWeather],
    /// The zone's openings in these days, in time order, by the day's place in them.
    pub openings: &'a [Opening],
    /// Whether a person carries the water.
    pub by_hand: bool,
    /// Depletion at the first dawn, as it is believed and as it is: a share of TAW.
    pub begins: f64,
}

/// How a trial went.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Trial {
    /// Time that water ran in the first week, s.
    pub week_s: i64,
    /// ET that the turf missed.
    pub harm: Depth,
    /// Water below the roots and water that ran off.
    pub waste: Depth,
}

impl Trial {
    /// Harm and waste together.
    #[must_use]
    pub fn cost(&self) -> Depth {
        self.harm + self.waste
    }
}

/// A model with its days and slots, ready to be tried.
#[derive(Debug, Clone)]
pub struct Believed<'a> {
    model: &'a ZoneModel,
    days: Vec<ZoneDay>,
    slots: Vec<Slot>,
}

impl<'a> Believed<'a> {
    /// Readies a model for a course.
    #[must_use]
    pub fn new(model: &'a ZoneModel, course: &Course) -> Self {
        let days = course.days.iter().map(|weather| {
            let etc = model.etc(weather);
            // Of what is ahead rain is not known.
            ZoneDay {
                weather: DailyWeather {
                    rain: Depth::ZERO,
                    ..*weather
                },
                etc,
                raw: model.raw(etc),
            }
        });
        let mut known: Vec<(i64, Depth)> = Vec::new();
        let slots = course.openings.iter().enumerate().filter_map(|(i, o)| {
            let window_s = o.length_s(course.by_hand) / i64::from(model.settings);
            if window_s <= 0 {
                return None;
            }
            let capacity = match known.iter().find(|(s, _)| *s == window_s) {
                Some((_, capacity)) => *capacity,
                None => {
                    let capacity = dose::capacity(model, window_s);
                    known.push((window_s, capacity));
                    capacity
                }
            };
            Some(Slot {
                opening: i,
                day: o.day,
                after_noon: o.after_noon,
                opens_s: o.window.start_s,
                window_s,
                capacity,
                left: capacity,
                standing: Standing::Open,
            })
        });
        Self {
            days: days.collect(),
            slots: slots.collect(),
            model,
        }
    }

    /// Waters some days by what is believed; the ground is `truth`. Both begin equally dry, know the rain once it has fallen, and nothing corrects
    /// the belief. The school is the water balance without rain in sight.
    #[must_use]
    pub fn tried_on(&self, truth: &ZoneModel, course: &Course, days: usize) -> Trial {
        let mut trial = Trial::default();
        let mut believed = self.model.taw * course.begins;
        let mut real = truth.taw * course.begins;
        let mut first = 0;
        let mut slots: Vec<Slot> = Vec::with_capacity(2 * HORIZON);
        for day in 0..days.min(course.days.len().saturating_sub(HORIZON)) {
            first += self.slots[first..].partition_point(|s| s.day < day);
            let ahead = self.slots[first..].partition_point(|s| s.day < day + HORIZON);
            let (mut mine, mut given) = (Given::default(), Given::default());
            if self.slots[first..first + ahead]
                .first()
                .is_some_and(|s| s.day == day)
            {
                slots.clear();
                slots.extend(self.slots[first..first + ahead].iter().map(|s| Slot {
                    day: s.day - day,
                    ..*s
                }));
                let horizon: [ZoneDay; HORIZON] = std::array::from_fn(|i| self.days[day + i]);
                let today = slots.iter().take_while(|s| s.day == 0).count();
                for here in 0..today {
                    let after_noon = slots[here].after_noon;
                    let proposal = Keeping::School(School::WaterBalance).propose(&At {
                        model: self.model,
                        depletion: root_zone::depletion_at(
                            self.model,
                            believed,
                            &horizon[0].weather,
                            &mine,
                            after_noon,
                        ),
                        days: &horizon,
                        slots: &slots,
                        here,
                        rain: RainAhead::default(),
                        lately: Lately::default(),
                    });
                    let Some(dose) = proposal.dose() else {
                        continue;
                    };
                    mine.add(dose.irrigation, after_noon);
                    let pass = RunTime::from_whole_s(dose.pass_s);
                    given.add(dose::irrigation(truth, dose.passes, pass), after_noon);
                    if day < HORIZON {
                        trial.week_s += dose.run_s() * i64::from(self.model.settings);
                    }
                }
            }
            let weather = &course.days[day];
            believed = root_zone::day(self.model, believed, weather, mine).end;
            let balance = root_zone::day(truth, real, weather, given);
            real = balance.end;
            trial.harm += balance.etc - balance.eta;
            trial.waste += balance.drainage + balance.irrigation.runoff;
        }
        trial
    }
}
