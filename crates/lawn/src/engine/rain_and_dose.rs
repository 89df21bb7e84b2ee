//! Rain and the dose, one comparison: hold for rain, or a dose between what bridges the days until the next opportunity and the refill.
//!
//! Each candidate is run forward over the same scenarios; where RAW would be passed before the opportunity after, it waters again, by what bridges that, never more
//! than the opportunity carries beside the site's other zones. Cost = 0.3 × mm beyond RAW, summed over all days, + mm drained + the zone's *deep and
//! seldom* depth for each watering. Of what is left in the soil at the end, the share that rain takes of the turf's use counts as drained. The least cost wins, ties
//! go to the deeper dose. Rain that runs off is the same for all and left out. The weights are docs/decisions/0027.

use pulp::{Arch, NullaryFnOnce};
use science::curve_number::runoff_mm;
use science::depletion::stress_slope;

use crate::engine::root_zone::{self, NEGLIGIBLE_SHARE, larger, smaller};
use crate::engine::slot::{At, HORIZON, LOOKED_AHEAD};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::outlook::{COMPARED_DAYS, Outlook, SCENARIOS};

/// What a day's mm beyond RAW costs, in mm of water: about what it costs in ET.
pub const STRESS_WEIGHT: f64 = 0.3;
/// Least dose while rain is in sight: what bridges the days until it comes may be small (found by trying five made-up climates; no source).
pub const LEAST_DOSE: Depth = Depth::from_mm(2.0);
/// Opportunities from now on by which rain should have brought a held zone back within RAW.
pub const RELIEF: usize = 3;
/// Share of the scenarios in which it must have.
const LEAST_RELIEF: f64 = 0.5;
/// Share of the scenarios in which a held zone may pass halfway from RAW to TAW before the next opportunity.
const MOST_VERY_DRY: f64 = 0.25;
/// Doses between the least and the refill.
const DOSES: usize = 6;
/// Doses between the best of these and its neighbours.
const FINER: usize = 4;
/// Steps between doses that are fine enough.
const FINE_ENOUGH: Depth = Depth::from_mm(0.5);
/// Candidates at most.
pub const CANDIDATES: usize = DOSES + FINER + 1;
/// Costs closer than this are a tie, mm.
const TIE_MM: f64 = 1e-9;

/// A candidate with what it is expected to cost.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Candidate {
    /// Net depth; 0 holds.
    pub net: Depth,
    /// mm beyond RAW, summed over all days compared.
    pub stress: Depth,
    /// mm below the roots within the days compared, and what of the water left at their end rain is likely to push there.
    pub drained: Depth,
    /// Waterings within the days compared.
    pub waterings: f64,
    /// The sum.
    pub cost: Depth,
}

/// The candidates, deepest first, and the one that costs least.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Comparison {
    candidates: [Candidate; CANDIDATES],
    count: usize,
    /// Index of the least cost.
    pub best: usize,
    /// Share of the scenarios in which rain brings the zone, if it is held, back within RAW when one of the next [`RELIEF`] opportunities comes.
    pub relief: f64,
}

impl Comparison {
    /// The candidates, deepest first.
    #[must_use]
    pub fn candidates(&self) -> &[Candidate] {
        &self.candidates[..self.count]
    }

    /// The one that costs least.
    #[must_use]
    pub const fn chosen(&self) -> &Candidate {
        &self.candidates[self.best]
    }

    /// The deepest: the refill, as it would be without rain in sight.
    #[must_use]
    pub const fn refill(&self) -> &Candidate {
        &self.candidates[0]
    }
}

/// What an opportunity may choose between.
#[derive(Debug, Clone, Copy)]
pub struct Choice {
    /// Least dose that waters.
    pub least: Depth,
    /// Greatest.
    pub most: Depth,
    /// Whether it may hold.
    pub may_hold: bool,
}

/// Compares the candidates of a zone at a slot, at its depletion then.
#[must_use]
pub fn compare(at: &At, choice: Choice, outlook: &Outlook) -> Comparison {
    let span = (choice.most - choice.least).max(Depth::ZERO);
    let doses = if span.mm() > TIE_MM { DOSES } else { 1 };
    let course = Course::new(at, outlook);
    let mut found = Comparison {
        candidates: [Candidate::default(); CANDIDATES],
        count: 0,
        best: 0,
        relief: 0.0,
    };
    let coarse = (0..doses).map(|k| match doses {
        1 => choice.most,
        _ => choice.most - span * share(k, doses - 1),
    });
    found.try_all(at, &course, coarse);
    // Between the best dose and its neighbours.
    let step = span / share(doses, 1);
    if step > FINE_ENOUGH {
        let best = found.chosen().net;
        let finer = [2.0, 1.0, -1.0, -2.0].map(|third| best + step * (third / 3.0));
        let inside = |net: &Depth| *net > choice.least && *net < choice.most;
        found.try_all(at, &course, finer.into_iter().filter(inside));
    }
    let (relief, very_dry) = course.if_held(at.depletion.mm());
    found.relief = relief;
    // Rain is likelier than not to bring it back in time, and hardly lets it go far beyond meanwhile.
    if choice.may_hold && relief > LEAST_RELIEF && very_dry <= MOST_VERY_DRY {
        found.try_all(at, &course, std::iter::once(Depth::ZERO));
    }
    found
}

impl Comparison {
    /// Runs further candidates, and takes them in by their depth.
    fn try_all(&mut self, at: &At, course: &Course, nets: impl Iterator<Item = Depth>) {
        let first = self.count;
        for net in nets {
            self.candidates[self.count].net = net;
            self.count += 1;
        }
        let tried = &mut self.candidates[first..self.count];
        Arch::new().dispatch(RunAll {
            course,
            depletion: at.depletion.mm(),
            candidates: tried,
        });
        let n = share(SCENARIOS, 1);
        for c in tried {
            c.stress = c.stress / n;
            c.drained = c.drained / n;
            c.waterings /= n;
            c.cost = c.stress * STRESS_WEIGHT + c.drained + at.model.watering_cost * c.waterings;
        }
        let all = &mut self.candidates[..self.count];
        all.sort_by(|a, b| b.net.mm().total_cmp(&a.net.mm()));
        let cheaper = |a: &Candidate, b: &Candidate| a.cost.mm() < b.cost.mm() - TIE_MM;
        self.best = (1..all.len()).fold(0, |best, i| {
            if cheaper(&all[i], &all[best]) {
                i
            } else {
                best
            }
        });
    }
}

fn share(k: usize, of: usize) -> f64 {
    let small = |i: usize| f64::from(u8::try_from(i).unwrap_or(u8::MAX));
    small(k) / small(of)
}

/// A figure of each scenario. Loops run over these innermost, without a branch, so that several go at once.
type Lanes = [f64; SCENARIOS];

/// What the days compared are for the zone, in each scenario.
struct Course {
    taw_mm: f64,
    /// Crop ET, mm.
    etc_mm: [Lanes; COMPARED_DAYS],
    /// Readily available water, mm.
    raw_mm: [Lanes; COMPARED_DAYS],
    /// What stress grows with, see [`stress_slope`].
    slope: [Lanes; COMPARED_DAYS],
    /// Rain that enters the soil, mm.
    rain_mm: [Lanes; COMPARED_DAYS],
    /// What an opportunity on the day carries, mm; 0: none, or nothing.
    carries_mm: [f64; COMPARED_DAYS],
    /// Crop ET from an opportunity to the next, less RAW then: what the depletion must be below not to pass it, mm; of days with one.
    until_next_mm: [Lanes; COMPARED_DAYS],
    /// Share of what is left in the soil after the days compared that rain will push below the roots.
    lost_later: f64,
}

impl Course {
    fn new(at: &At, outlook: &Outlook) -> Self {
        let (here, model) = (at.slot(), at.model);
        let mut course = Self {
            taw_mm: model.taw.mm(),
            etc_mm: [[0.0; SCENARIOS]; COMPARED_DAYS],
            raw_mm: [[0.0; SCENARIOS]; COMPARED_DAYS],
            slope: [[0.0; SCENARIOS]; COMPARED_DAYS],
            rain_mm: [[0.0; SCENARIOS]; COMPARED_DAYS],
            carries_mm: [0.0; COMPARED_DAYS],
            until_next_mm: [[0.0; SCENARIOS]; COMPARED_DAYS],
            lost_later: 0.0,
        };
        let mut next = COMPARED_DAYS;
        for j in (0..COMPARED_DAYS).rev() {
            let day = here.day + j;
            let etc = match at.days.get(day) {
                Some(d) => d.etc,
                None => model.etc(&outlook.days()[day].weather),
            };
            course.weather(j, model, etc, outlook, day);
            if j == 0 {
                if here.after_noon {
                    // The day's ET is over; its rain is to come.
                    course.etc_mm[0] = [0.0; SCENARIOS];
                }
            } else if let Some(carries) = carries(at, day) {
                course.carries_mm[j] = carries.mm();
                course.until(j, next);
                next = j;
            }
        }
        let sum = |days: &[Lanes]| days.iter().flatten().sum::<f64>();
        let (etc, rain) = (sum(&course.etc_mm), sum(&course.rain_mm));
        course.lost_later = if etc > 0.0 {
            (rain / etc).min(1.0)
        } else {
            1.0
        };
        course
    }

    /// Shares of the scenarios in which a zone that is held is within RAW when one of the next [`RELIEF`] opportunities comes, and in which it passes
    /// halfway from RAW to TAW before the first of them.
    fn if_held(&self, depletion: f64) -> (f64, f64) {
        let opens = (1..COMPARED_DAYS).filter(|j| self.carries_mm[*j] > 0.0);
        let mut at = [depletion; SCENARIOS];
        let (mut relieved, mut very_dry) = ([false; SCENARIOS], [false; SCENARIOS]);
        let mut day = 0;
        for (nth, open) in opens.take(RELIEF).enumerate() {
            while day < open {
                for (s, at) in at.iter_mut().enumerate() {
                    let raw = self.raw_mm[day][s];
                    *at = larger(*at + self.etc_mm[day][s] - self.rain_mm[day][s], 0.0);
                    very_dry[s] |= nth == 0 && *at > f64::midpoint(raw, self.taw_mm);
                }
                day += 1;
            }
            for (s, at) in at.iter().enumerate() {
                relieved[s] |= *at <= self.raw_mm[day - 1][s];
            }
        }
        let share_of = |these: &[bool]| share(these.iter().filter(|d| **d).count(), SCENARIOS);
        (share_of(&relieved), share_of(&very_dry))
    }

    /// What is used from a day's opportunity until the next, less RAW on its last day.
    fn until(&mut self, j: usize, next: usize) {
        // By then the forecast of these few days is good: their rain is known.
        let until = &mut self.until_next_mm[j];
        *until = [f64::NEG_INFINITY; SCENARIOS];
        let mut dries = [0.0; SCENARIOS];
        for day in j..next {
            let (etc, raw, rain) = (&self.etc_mm[day], &self.raw_mm[day], &self.rain_mm[day]);
            for s in 0..SCENARIOS {
                dries[s] += etc[s] - rain[s];
                until[s] = larger(until[s], dries[s] - raw[s]);
            }
        }
    }

    /// The weather of a day in each scenario, as the zone meets it.
    fn weather(&mut self, j: usize, model: &ZoneModel, etc: Depth, outlook: &Outlook, day: usize) {
        let all = outlook.scenarios();
        let (et_spread, et0) = {
            let day = &outlook.days()[day];
            (day.et_spread, day.weather.et0.mm())
        };
        let lanes = self.etc_mm[j]
            .iter_mut()
            .zip(&mut self.raw_mm[j])
            .zip(&mut self.slope[j])
            .zip(&mut self.rain_mm[j])
            .zip(all.et_error.iter().zip(&all.rain_mm[day]));
        for ((((etc_mm, raw_mm), slope), rain_mm), (error, &rain)) in lanes {
            let factor = larger(1.0 + et_spread * error, 0.0);
            *etc_mm = etc.mm() * factor;
            *raw_mm = model.raw(Depth::from_mm(*etc_mm)).mm();
            *slope = stress_slope(self.taw_mm, *raw_mm);
            let enters = rain - runoff_mm(rain, model.curve_number);
            *rain_mm = if rain >= et0 * factor * NEGLIGIBLE_SHARE {
                enters
            } else {
                0.0
            };
        }
    }

    /// Runs a candidate through all scenarios and adds up what it costs in them.
    #[inline(always)]
    fn run(&self, depletion: f64, candidate: &mut Candidate) {
        let mut course = Run {
            depletion: [depletion; SCENARIOS],
            drained: [0.0; SCENARIOS],
            waterings: [0.0; SCENARIOS],
        };
        let mut stress: Lanes = [0.0; SCENARIOS];
        for j in 0..COMPARED_DAYS {
            if j == 0 {
                course.day(self, j, |_, _| candidate.net.mm());
            } else if self.carries_mm[j] > 0.0 {
                let (until, carries) = (&self.until_next_mm[j], self.carries_mm[j]);
                // What keeps RAW until the next opportunity, and at least the least dose.
                course.day(self, j, |s, depletion| {
                    let beyond = depletion + until[s];
                    let most = smaller(depletion, carries);
                    let given = smaller(larger(LEAST_DOSE.mm(), beyond), most);
                    if beyond > 0.0 { given } else { 0.0 }
                });
            } else {
                course.day(self, j, |_, _| 0.0);
            }
            let lanes = course.depletion.iter().zip(&self.raw_mm[j]);
            for (stress, (depletion, raw)) in stress.iter_mut().zip(lanes) {
                *stress += larger(depletion - raw, 0.0);
            }
        }
        let raw = &self.raw_mm[COMPARED_DAYS - 1];
        let lanes = course.depletion.iter().zip(raw);
        for (drained, (depletion, raw)) in course.drained.iter_mut().zip(lanes) {
            *drained += self.lost_later * larger(raw - depletion, 0.0);
        }
        candidate.stress = Depth::from_mm(stress.iter().sum());
        candidate.drained = Depth::from_mm(course.drained.iter().sum());
        candidate.waterings = course.waterings.iter().sum();
    }
}

/// Runs all candidates, in registers as wide as the processor has them; the arithmetic is the same in all. What it calls is made for them
/// only where it is inlined, hence `inline(always)` from here down to [`root_zone::step`].
struct RunAll<'a> {
    course: &'a Course,
    depletion: f64,
    candidates: &'a mut [Candidate],
}

impl NullaryFnOnce for RunAll<'_> {
    type Output = ();

    #[inline(always)]
    fn call(self) {
        for candidate in self.candidates {
            self.course.run(self.depletion, candidate);
        }
    }
}

/// What the slots carry whose water is used from a later day on; `None`: there is none. Past the last slots each weekday is as in the week before.
fn carries(at: &At, day: usize) -> Option<Depth> {
    let last = at.slots.last().map_or(0, |s| s.day);
    let covered = if last < HORIZON {
        HORIZON
    } else {
        LOOKED_AHEAD
    };
    let (slots, known) = match day.checked_sub(covered) {
        None => (at.later(), day),
        Some(over) => (at.slots, covered - HORIZON + over % HORIZON),
    };
    slots
        .iter()
        .filter(|s| s.first_use() == known)
        .fold(None, |sum: Option<Depth>, slot| {
            Some(sum.unwrap_or_default() + slot.carries())
        })
}

/// A candidate on its way through the scenarios.
struct Run {
    depletion: Lanes,
    drained: Lanes,
    waterings: Lanes,
}

impl Run {
    /// One day, with what is given at a depletion in a scenario.
    #[inline(always)]
    fn day(&mut self, course: &Course, j: usize, gives: impl Fn(usize, f64) -> f64) {
        let (etc, slope, rain) = (&course.etc_mm[j], &course.slope[j], &course.rain_mm[j]);
        for s in 0..SCENARIOS {
            let net = gives(s, self.depletion[s]);
            let day = root_zone::step(
                self.depletion[s],
                net,
                etc[s],
                slope[s],
                course.taw_mm,
                rain[s],
            );
            self.waterings[s] += if net > 0.0 { 1.0 } else { 0.0 };
            self.drained[s] += day.drainage;
            self.depletion[s] = day.end;
        }
    }
}

#[cfg(test)]
mod tests {
    use jiff::ToSpan;
    use jiff::civil::date;
    use proptest::prelude::*;

    use super::*;
    use crate::engine::root_zone::Irrigation;
    use crate::engine::slot::{RainAhead, Slot, Standing, ZoneDay};
    use crate::site::{Controller, Zone};
    use crate::weather::DailyWeather;
    use crate::weather::outlook::{OUTLOOK_DAYS, OutlookDay, RainChance};

    /// A day ahead of some ET0, its rain left out.
    fn weather(day: usize, et0_mm: f64) -> DailyWeather {
        let days = i64::try_from(day).unwrap();
        DailyWeather {
            date: date(2026, 6, 18).checked_add(days.days()).unwrap(),
            et0: Depth::from_mm(et0_mm),
            method: None,
            rain: Depth::ZERO,
            rain_expected: false,
            tmin_c: None,
            tmax_c: None,
            rh_min_pct: None,
            wind_m_s: None,
            smoothed_c: None,
            rain_probability_pct: None,
        }
    }

    /// What of a day's rain enters the ground.
    fn enters(model: &ZoneModel, day: &DailyWeather) -> Depth {
        root_zone::day(model, model.taw, day, Irrigation::default()).effective_rain
    }

    /// The same candidate by the balance itself, a scenario at a time.
    fn slowly(
        model: &ZoneModel,
        depletion: Depth,
        net: Depth,
        carries: &[Option<Depth>; HORIZON],
        outlook: &Outlook,
    ) -> Candidate {
        let mut sum = Candidate {
            net,
            ..Candidate::default()
        };
        let all = outlook.scenarios();
        let (mut used, mut fell, mut left) = (Depth::ZERO, Depth::ZERO, Depth::ZERO);
        for s in 0..SCENARIOS {
            let days: Vec<DailyWeather> = outlook
                .days()
                .iter()
                .zip(&all.rain_mm)
                .map(|(day, rain)| DailyWeather {
                    et0: day.weather.et0 * (1.0 + day.et_spread * all.et_error[s]).max(0.0),
                    rain: Depth::from_mm(rain[s]),
                    rain_expected: false,
                    ..day.weather
                })
                .collect();
            let mut at = depletion;
            for j in 0..COMPARED_DAYS {
                let next = (j + 1..COMPARED_DAYS)
                    .find(|k| carries[k % HORIZON].is_some())
                    .unwrap_or(COMPARED_DAYS);
                let mut given = if j == 0 { net } else { Depth::ZERO };
                if let Some(carries) = carries[j % HORIZON].filter(|_| j > 0) {
                    let mut dries = at;
                    let mut beyond = Depth::from_mm(f64::NEG_INFINITY);
                    for d in &days[j..next] {
                        dries += model.etc(d) - enters(model, d);
                        beyond = beyond.max(dries - model.raw(model.etc(d)));
                    }
                    if beyond > Depth::ZERO {
                        given = LEAST_DOSE.max(beyond).min(at).min(carries);
                    }
                }
                let irrigation = Irrigation {
                    net: given,
                    ..Irrigation::default()
                };
                let day = root_zone::day(model, at, &days[j], irrigation);
                at = day.end;
                sum.drained += day.drainage;
                sum.waterings += f64::from(u8::from(given > Depth::ZERO));
                sum.stress += (day.end - day.raw).max(Depth::ZERO);
                used += day.etc;
                fell += day.effective_rain;
                if j == COMPARED_DAYS - 1 {
                    left += (day.raw - day.end).max(Depth::ZERO);
                }
            }
        }
        sum.drained += left
            * if used > Depth::ZERO {
                (fell / used).min(1.0)
            } else {
                1.0
            };
        let n = share(SCENARIOS, 1);
        sum.stress = sum.stress / n;
        sum.drained = sum.drained / n;
        sum.waterings /= n;
        sum
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        /// The comparison, scenarios side by side, gives what the balance gives day by day.
        #[test]
        fn the_fast_comparison_equals_the_slow_balance(
            depletion in 0.0..1.0f64,
            et0 in prop::array::uniform::<_, OUTLOOK_DAYS>(0.0..9.0f64),
            rain in prop::array::uniform::<_, OUTLOOK_DAYS>((0.0..1.0f64, 0.5..40.0f64)),
            opens in prop::array::uniform::<_, HORIZON>(any::<bool>()),
            carries in 2.0..30.0f64,
            soil in prop::sample::select(vec!["sand", "loam", "clay"]),
        ) {
            let zone: Zone = serde_json::from_value(serde_json::json!({
                "name": "Field", "grass": "tall_fescue", "soil": soil, "slope_pct": 1, "area_m2": 400, "sprinkler": "rotor"
            })).unwrap();
            let model = ZoneModel::new(&zone, &Controller::default(), 36.4);
            let outlook = Outlook::of_days(std::array::from_fn(|day| OutlookDay {
                weather: weather(day, et0[day]),
                rain: RainChance {
                    probability: if rain[day].0 < 0.4 { 0.0 } else { rain[day].0 },
                    amount: Depth::from_mm(rain[day].1),
                    exact: false,
                },
                et_spread: 0.05,
            }));
            let days: [ZoneDay; HORIZON] = crate::engine::slot::zone_days(
                &model,
                &std::array::from_fn(|day| outlook.days()[day].weather),
            );
            let carries = std::array::from_fn(|day| {
                (day == 0 || opens[day]).then_some(Depth::from_mm(carries))
            });
            let slots: Vec<Slot> = (0..HORIZON)
                .filter_map(|day| {
                    Some(Slot {
                        opening: day,
                        day,
                        after_noon: false,
                        opens_s: 0,
                        window_s: 3600,
                        capacity: carries[day]?,
                        left: carries[day]?,
                        standing: Standing::Open,
                    })
                })
                .collect();
            let depletion = model.taw * depletion;
            let choice = Choice { least: depletion / 3.0, most: depletion, may_hold: true };
            let at = At {
                model: &model,
                depletion,
                days: &days,
                slots: &slots,
                here: 0,
                lately: crate::engine::lately::Lately::default(),
                rain: RainAhead::default(),
            };
            let fast = compare(&at, choice, &outlook);
            for candidate in fast.candidates() {
                let slow = slowly(&model, depletion, candidate.net, &carries, &outlook);
                prop_assert!((candidate.stress - slow.stress).abs().mm() < 1e-9);
                prop_assert!((candidate.drained - slow.drained).abs().mm() < 1e-9);
                prop_assert!((candidate.waterings - slow.waterings).abs() < 1e-9);
            }
        }
    }
}
