//! Made-up seasons of a site with a flow meter: passes at dawn, pressure that wanders, hours that were not heard, and a fault from some day on.

use jiff::{SignedDuration, Timestamp};
use lawn::quantity::Volume;
use lawn::record::flow::{Minutes, Pass};

/// SplitMix64 (Steele, Lea and Flood 2014).
#[derive(Debug, Clone)]
pub struct Draws(u64);

impl Draws {
    pub fn new(seed: u64) -> Self {
        Self(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15))
    }

    /// Between 0 and 1.
    pub fn share(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        #[allow(clippy::cast_precision_loss)] // 52 bits fit
        let share = ((z ^ (z >> 31)) >> 12) as f64 / (1_u64 << 52) as f64;
        share
    }

    pub fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.share()
    }

    /// From `low` to `high`, both included.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // small and positive
    pub fn whole(&mut self, low: u32, high: u32) -> u32 {
        (self.between(f64::from(low), f64::from(high) + 1.0) as u32).min(high)
    }

    /// Of the standard normal distribution (Box and Muller 1958).
    pub fn normal(&mut self) -> f64 {
        let radius = (-2.0 * self.share().max(1e-300).ln()).sqrt();
        radius * (std::f64::consts::TAU * self.share()).cos()
    }
}

/// What goes wrong.
#[derive(Debug, Clone, Copy, PartialEq)]
#[allow(dead_code)] // the tests make some of them, the example all
pub enum Fault {
    Nothing,
    /// Litres an hour, all the time.
    Leak(f64),
    /// A zone takes so many times what it took.
    Flow(usize, f64),
    /// A zone's valve does not open.
    Shut(usize),
    /// A zone's valve goes on for so many minutes after its passes.
    StaysOpen(usize, u32),
}

struct Zone {
    rated_l_min: f64,
    true_l_min: f64,
    every_days: u32,
    passes: u32,
    pass_min: u32,
}

/// A site in a season.
pub struct Season {
    zones: Vec<Zone>,
    pub pulse: Volume,
    /// Share of hours that were not heard.
    gaps: f64,
    /// How far pressure wanders from night to night, and from pass to pass, share.
    wander: (f64, f64),
    draws: Draws,
    /// What has flowed since the last pulse, L.
    rest: f64,
}

/// A day of it.
pub struct Day {
    pub from: Timestamp,
    pub counts: Vec<Option<u16>>,
    pub passes: Vec<Pass>,
    /// What its passes should have taken, L.
    #[allow(dead_code)] // the example does without
    pub rated_l: f64,
}

pub const DAYS: u32 = 150;
const MINUTES: usize = 24 * 60;

impl Season {
    pub fn new(seed: u64) -> Self {
        let mut draws = Draws::new(seed);
        let zones: Vec<Zone> = (0..draws.whole(3, 10))
            .map(|_| {
                let rated_l_min = draws.between(20.0, 120.0);
                Zone {
                    rated_l_min,
                    true_l_min: rated_l_min * (1.0 + 0.05 * draws.normal()).clamp(0.85, 1.15),
                    every_days: draws.whole(2, 4),
                    passes: draws.whole(1, 3),
                    pass_min: draws.whole(5, 14),
                }
            })
            .collect();
        let largest = zones.iter().map(|z| z.rated_l_min).fold(0.0, f64::max);
        Self {
            zones,
            pulse: Volume::from_l(if largest > 80.0 { 10.0 } else { 1.0 }),
            gaps: 0.005,
            wander: (0.01, 0.008),
            draws,
            rest: 0.0,
        }
    }

    /// The same on a supply whose pressure wanders three times as much.
    #[allow(dead_code)] // the tests do without
    pub fn rough(seed: u64) -> Self {
        let mut season = Self::new(seed);
        season.wander = (0.03, 0.024);
        season.gaps = 0.02;
        season
    }

    /// The same where nothing wanders and everything is heard.
    #[allow(dead_code)] // the example does without
    pub fn exact(seed: u64) -> Self {
        let mut season = Self::new(seed);
        season.gaps = 0.0;
        season.wander = (0.0, 0.0);
        for zone in &mut season.zones {
            zone.true_l_min = zone.rated_l_min;
        }
        season
    }

    pub fn zones(&self) -> usize {
        self.zones.len()
    }

    /// What it uses in a day, L, on the mean.
    pub fn day_l(&self) -> f64 {
        let of =
            |z: &Zone| f64::from(z.passes * z.pass_min) * z.true_l_min / f64::from(z.every_days);
        self.zones.iter().map(of).sum()
    }

    /// Whether a zone runs on a day.
    pub fn runs(&self, zone: usize, day: u32) -> bool {
        let place = u32::try_from(zone).unwrap_or(0);
        (day + place).is_multiple_of(self.zones[zone].every_days)
    }

    /// A day of it with what goes wrong that day.
    pub fn day(&mut self, day: u32, fault: Fault) -> Day {
        let first: Timestamp = "2026-04-01T06:00:00Z".parse().expect("an instant");
        let from = first + SignedDuration::from_hours(24 * i64::from(day));
        let mut flow = vec![0.0_f64; MINUTES];
        if let Fault::Leak(litres_an_hour) = fault {
            for minute in &mut flow {
                *minute += litres_an_hour / 60.0;
            }
        }
        let mut passes = Vec::new();
        let mut rated_l = 0.0;
        // From an hour after its midnight on, one zone after another, pass by pass.
        let mut at = 60_usize;
        let night = 1.0 + self.wander.0 * self.draws.normal();
        for round in 0..3 {
            for zone in 0..self.zones.len() {
                if !self.runs(zone, day) || round >= self.zones[zone].passes {
                    continue;
                }
                let z = &self.zones[zone];
                let length = z.pass_min as usize;
                let mut takes = z.true_l_min * night;
                takes *= 1.0 + self.wander.1 * self.draws.normal();
                let mut after = 0;
                match fault {
                    Fault::Flow(faulty, times) if faulty == zone => takes *= times,
                    Fault::Shut(faulty) if faulty == zone => takes = 0.0,
                    Fault::StaysOpen(faulty, minutes) if faulty == zone => after = minutes as usize,
                    _ => {}
                }
                for minute in flow.iter_mut().skip(at).take(length + after) {
                    *minute += takes;
                }
                let minute =
                    |m: usize| from + SignedDuration::from_mins(i64::try_from(m).unwrap_or(0));
                passes.push(Pass {
                    zone,
                    from: minute(at),
                    to: minute(at + length),
                    rated_l_min: z.rated_l_min,
                    judged: true,
                });
                rated_l += z.rated_l_min * f64::from(z.pass_min);
                at += length + after + 3;
            }
        }
        let mut counts = Vec::with_capacity(MINUTES);
        for litres in flow {
            self.rest += litres;
            let pulses = (self.rest / self.pulse.l() + 1e-9).floor();
            self.rest -= pulses * self.pulse.l();
            #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // a minute's pulses
            counts.push(Some(pulses as u16));
        }
        for hour in counts.chunks_mut(60) {
            if self.draws.share() < self.gaps {
                hour.fill(None);
            }
        }
        Day {
            from,
            counts,
            passes,
            rated_l,
        }
    }
}

impl Day {
    pub fn minutes(&self, pulse: Volume) -> Minutes<'_> {
        Minutes {
            from: self.from,
            counts: &self.counts,
            pulse,
            day: self.counts.len(),
        }
    }
}
