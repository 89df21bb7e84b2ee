//! Rain and the dose, one comparison: hold for rain, or one of six doses from the worthwhile soak to the refill.
//!
//! Each candidate is run forward over the same scenarios; where RAW would be passed it waters again by the worthwhile soak.
//! Cost = 3 × mm beyond RAW until the next opportunity + mm drained + the zone's *deep and seldom* depth for each watering. The
//! least cost wins, ties go to the deeper dose. Rain that runs off is the same for all and left out.

use science::curve_number::runoff_mm;
use science::depletion::stress_coefficient;

use crate::engine::opportunity::{Chance, HORIZON, ZoneDay, worthwhile};
use crate::engine::root_zone::NEGLIGIBLE_SHARE;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::outlook::{COMPARED_DAYS, Outlook, SCENARIOS};

/// What a mm beyond RAW costs, in mm of water.
pub const STRESS_WEIGHT: f64 = 3.0;
/// Doses between the least and the refill.
const DOSES: usize = 6;
/// Candidates at most.
pub const CANDIDATES: usize = DOSES + 1;
/// Costs closer than this are a tie, mm.
const TIE_MM: f64 = 1e-9;

/// A candidate with what it is expected to cost.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Candidate {
    /// Net depth; 0 holds.
    pub net: Depth,
    /// mm beyond RAW until the next opportunity, summed over its days.
    pub stress: Depth,
    /// mm below the roots within the days compared.
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

/// Compares the candidates of an opportunity: `chances[at]`, at the depletion of its dawn.
#[must_use]
pub fn compare(
    model: &ZoneModel,
    depletion: Depth,
    days: &[ZoneDay],
    chances: &[Chance],
    at: usize,
    choice: Choice,
    outlook: &Outlook,
) -> Comparison {
    let mut candidates = [Candidate::default(); CANDIDATES];
    let mut count = 0;
    let span = (choice.most - choice.least).max(Depth::ZERO);
    let doses = if span.mm() > TIE_MM { DOSES } else { 1 };
    for k in 0..doses {
        let share = if doses == 1 { 0.0 } else { share(k, doses - 1) };
        candidates[count].net = choice.most - span * share;
        count += 1;
    }
    if choice.may_hold {
        count += 1;
    }
    let course = Course::new(model, days, chances, at, outlook);
    for scenario in 0..SCENARIOS {
        let weather = course.weather(scenario);
        for candidate in &mut candidates[..count] {
            course.run(&weather, depletion.mm(), candidate);
        }
    }
    let n = share(SCENARIOS, 1);
    let mut best = 0;
    for i in 0..count {
        let c = &mut candidates[i];
        c.stress = c.stress / n;
        c.drained = c.drained / n;
        c.waterings /= n;
        c.cost = c.stress * STRESS_WEIGHT + c.drained + model.watering_cost * c.waterings;
        if candidates[i].cost.mm() < candidates[best].cost.mm() - TIE_MM {
            best = i;
        }
    }
    Comparison {
        candidates,
        count,
        best,
    }
}

fn share(k: usize, of: usize) -> f64 {
    let small = |i: usize| f64::from(u8::try_from(i).unwrap_or(u8::MAX));
    small(k) / small(of)
}

/// What the days compared are for the zone, whatever the scenario.
struct Course<'a> {
    model: &'a ZoneModel,
    outlook: &'a Outlook,
    /// Day of the outlook on which it begins.
    first: usize,
    /// Crop ET without the scenario's error, mm.
    etc_mm: [f64; COMPARED_DAYS],
    /// What an opportunity on the day carries, mm; below 0: none.
    carries_mm: [f64; COMPARED_DAYS],
    /// Days from the day's opportunity to the next.
    stretch: [usize; COMPARED_DAYS],
    /// The worthwhile soak, mm.
    soak_mm: f64,
}

/// One scenario as the zone meets it.
struct Weather {
    etc_mm: [f64; COMPARED_DAYS],
    raw_mm: [f64; COMPARED_DAYS],
    rain_mm: [f64; COMPARED_DAYS],
}

impl<'a> Course<'a> {
    fn new(
        model: &'a ZoneModel,
        days: &[ZoneDay],
        chances: &[Chance],
        at: usize,
        outlook: &'a Outlook,
    ) -> Self {
        let first = chances[at].day;
        let on = |day: usize| chances.iter().find(|c| c.day == day);
        let mut course = Self {
            model,
            outlook,
            first,
            etc_mm: [0.0; COMPARED_DAYS],
            carries_mm: [-1.0; COMPARED_DAYS],
            stretch: [0; COMPARED_DAYS],
            soak_mm: worthwhile(days[first].raw).mm(),
        };
        for j in 0..COMPARED_DAYS {
            let day = first + j;
            course.etc_mm[j] = match days.get(day) {
                Some(d) => d.etc.mm(),
                None => model.etc(&outlook.days()[day].weather).mm(),
            };
            // Beyond the horizon each weekday is as in it.
            let chance = on(day).or_else(|| on(day % HORIZON).filter(|_| day >= HORIZON));
            if let Some(chance) = chance {
                course.carries_mm[j] = chance.carries().mm();
            }
        }
        let mut next = COMPARED_DAYS;
        for j in (0..COMPARED_DAYS).rev() {
            course.stretch[j] = next - j;
            if course.carries_mm[j] >= 0.0 {
                next = j;
            }
        }
        course
    }

    fn weather(&self, scenario: usize) -> Weather {
        let all = self.outlook.scenarios();
        let days = &self.outlook.days()[self.first..];
        let mut weather = Weather {
            etc_mm: [0.0; COMPARED_DAYS],
            raw_mm: [0.0; COMPARED_DAYS],
            rain_mm: [0.0; COMPARED_DAYS],
        };
        for (j, day) in days.iter().enumerate().take(COMPARED_DAYS) {
            let factor = (1.0 + day.et_spread * all.et_error[scenario]).max(0.0);
            let etc = self.etc_mm[j] * factor;
            weather.etc_mm[j] = etc;
            weather.raw_mm[j] = self.model.raw(Depth::from_mm(etc)).mm();
            let rain = all.rain_mm[self.first + j][scenario];
            if rain > 0.0 && rain >= day.weather.et0.mm() * factor * NEGLIGIBLE_SHARE {
                weather.rain_mm[j] = rain - runoff_mm(rain, self.model.curve_number);
            }
        }
        weather
    }

    /// Runs a candidate through a scenario and adds what it costs.
    fn run(&self, weather: &Weather, depletion: f64, candidate: &mut Candidate) {
        let taw = self.model.taw.mm();
        let mut dr = depletion;
        let (mut stress, mut drained, mut waterings) = (0.0, 0.0, 0.0);
        for j in 0..COMPARED_DAYS {
            let mut net = 0.0;
            if j == 0 {
                net = candidate.net.mm();
            } else if self.carries_mm[j] > 0.0 {
                // By the next opportunity, if nothing were given.
                let last = j + self.stretch[j];
                let dry: f64 = weather.etc_mm[j..last].iter().sum();
                let beyond = dr + dry - weather.raw_mm[last - 1];
                if beyond > 0.0 {
                    net = self.soak_mm.max(beyond).min(dr).min(self.carries_mm[j]);
                }
            }
            if net > 0.0 {
                waterings += 1.0;
            }
            let watered = dr - net;
            let etc = weather.etc_mm[j];
            let ks = stress_coefficient(watered, weather.raw_mm[j], taw);
            let after = watered + (etc * ks).min(taw - watered) - weather.rain_mm[j];
            if after < 0.0 {
                drained -= after;
                dr = 0.0;
            } else {
                dr = after;
            }
            if j < self.stretch[0] {
                stress += (dr - weather.raw_mm[j]).max(0.0);
            }
        }
        candidate.stress += Depth::from_mm(stress);
        candidate.drained += Depth::from_mm(drained);
        candidate.waterings += waterings;
    }
}
