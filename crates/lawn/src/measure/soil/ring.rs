//! Rings pressed into the turf and filled with water: how fast the ground drinks in the end.

use science::infiltrometer::{self, FEWEST_READINGS, Law, Reading, straight_down};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::measured;
use crate::invalid::Invalid;
use crate::quantity::{Rate, count};
use crate::ranges;
use crate::sourced::{Source, Sourced};

/// How water is kept from spreading sideways.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "walls", rename_all = "snake_case", deny_unknown_fields)]
pub enum Walls {
    /// An outer ring is kept filled too: what the inner one takes goes straight down.
    Double,
    /// A single ring: a part of what it takes spreads sideways, and is taken off.
    Single {
        /// Its diameter, mm.
        ring_mm: f64,
        /// How deep it stands in the soil, mm.
        inserted_mm: f64,
    },
}

/// A reading of the water in a ring.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RingReading {
    /// Minutes since the water was poured.
    pub minutes: f64,
    /// Water that stands in the ring, mm.
    pub level_mm: f64,
    /// To which level it was filled up then, mm; absent: it was not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub refilled_to_mm: Option<f64>,
}

/// One ring with its readings; the first is that of the pouring, at 0 minutes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Ring {
    /// Its readings, in time order.
    pub readings: Vec<RingReading>,
}

/// Rings at several places of a zone, all of one kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RingTest {
    /// How water is kept from spreading sideways.
    pub walls: Walls,
    /// The rings; 1 to 10.
    pub rings: Vec<Ring>,
}

/// Most rings of a test, and readings of a ring.
const MOST_RINGS: usize = 10;
const MOST_READINGS: usize = 200;

/// How far the intake by one ring could be off, share: the ground differs from step to step; by several less, as the root of their number
/// (common practice, no source).
const ONE_RING_OFF: f64 = 0.35;
const LEAST_OFF: f64 = 0.15;
const MOST_OFF: f64 = 0.7;

/// A point of the drawn curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CurvePoint {
    /// Minutes since the water was poured.
    pub minutes: f64,
    /// What has gone in, mm.
    pub entered_mm: f64,
}

/// Which law fits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RingLaw {
    /// I = S √t + A t.
    Philip,
    /// I = fc t + (f0 − fc) / k · (1 − e^(−k t)).
    Horton,
}

/// The law through a ring's readings.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Fitted {
    /// Which.
    pub law: RingLaw,
    /// The rate in the end, mm/h, as the ring takes it.
    pub steady_mm_h: f64,
    /// Its standard error, mm/h; `null` with too few readings to tell.
    pub error_mm_h: Option<f64>,
    /// What it misses the readings by, root mean square, mm.
    pub rms_mm: f64,
    /// Points of its curve, evenly over the time, for drawing.
    pub curve: Vec<CurvePoint>,
}

/// A ring's readings as water gone in, and the law through them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RingResult {
    /// What had gone in at each reading.
    pub points: Vec<CurvePoint>,
    /// The law; `null` before there are enough readings for one, or where none fits.
    pub fitted: Option<Fitted>,
    /// The rate that goes straight down in the end, mm/h.
    pub straight_down_mm_h: Option<f64>,
}

/// Points of a drawn curve.
const CURVE_POINTS: u32 = 40;

impl RingTest {
    pub(super) fn validate(&self) -> Result<(), Invalid> {
        if let Walls::Single {
            ring_mm,
            inserted_mm,
        } = self.walls
        {
            Invalid::unless_within("walls.ring_mm", ranges::RING_DIAMETER, ring_mm)?;
            Invalid::unless_within("walls.inserted_mm", ranges::RING_INSERTED, inserted_mm)?;
        }
        if self.rings.is_empty() || self.rings.len() > MOST_RINGS {
            return Err(Invalid::new("rings", format!("1 to {MOST_RINGS} rings")));
        }
        for (i, ring) in self.rings.iter().enumerate() {
            ring.validate(&format!("rings[{i}]."))?;
        }
        for (i, result) in self.results().iter().enumerate() {
            let at = format!("rings[{i}].readings");
            if result.points.len() <= FEWEST_READINGS {
                return Err(Invalid::new(
                    at,
                    format!(
                        "a ring is read at least {FEWEST_READINGS} times after the water was poured"
                    ),
                ));
            }
            let Some(rate) = result.straight_down_mm_h else {
                return Err(Invalid::new(
                    at,
                    "these readings tell no steady rate: read on until the water falls evenly",
                ));
            };
            if ranges::INTAKE.check(rate).is_err() {
                return Err(Invalid::new(
                    at,
                    "no ground drinks so fast: is the ring tight?",
                ));
            }
        }
        Ok(())
    }

    pub(super) fn name(&self) -> String {
        let walls = match self.walls {
            Walls::Double => "double ring",
            Walls::Single { .. } => "single ring",
        };
        match self.rings.len() {
            1 => walls.to_owned(),
            n => format!("{walls}, {n} places"),
        }
    }

    /// What each ring says so far; it need not be finished.
    #[must_use]
    pub fn results(&self) -> Vec<RingResult> {
        self.rings
            .iter()
            .map(|ring| ring.result(self.walls))
            .collect()
    }

    /// The intake that all rings tell: the geometric mean of theirs. `None` before any tells one.
    pub(super) fn steady(&self, source: Source) -> Option<Sourced<Rate>> {
        let results = self.results();
        let rates: Vec<f64> = results
            .iter()
            .filter_map(|r| r.straight_down_mm_h)
            .collect();
        if rates.is_empty() {
            return None;
        }
        let n = f64::from(count(rates.len()));
        let mean = (rates.iter().map(|r| r.ln()).sum::<f64>() / n).exp();
        let apart = rates.iter().map(|r| (r / mean).ln().powi(2)).sum::<f64>();
        let between = 2.0 * (apart / n / n).sqrt();
        // Where the fit itself leaves more open than places do.
        let errors = results.iter().filter_map(|r| {
            let fitted = r.fitted.as_ref()?;
            Some(2.0 * fitted.error_mm_h? / fitted.steady_mm_h)
        });
        let fits = errors.fold(0.0, f64::max) / n.sqrt();
        let off = (ONE_RING_OFF / n.sqrt()).max(between).max(fits);
        let off = off.clamp(LEAST_OFF, MOST_OFF);
        Some(measured(mean, off, ranges::INTAKE, source).map(Rate::from_mm_h))
    }
}

impl Ring {
    fn validate(&self, path: &str) -> Result<(), Invalid> {
        if self.readings.len() > MOST_READINGS {
            return Err(Invalid::new(
                format!("{path}readings"),
                format!("at most {MOST_READINGS} readings of a ring"),
            ));
        }
        let mut before: Option<&RingReading> = None;
        for (i, reading) in self.readings.iter().enumerate() {
            let at = |field: &str| format!("{path}readings[{i}].{field}");
            Invalid::unless_within(at("minutes"), ranges::RING_MINUTES, reading.minutes)?;
            Invalid::unless_within(at("level_mm"), ranges::RING_LEVEL, reading.level_mm)?;
            if let Some(refilled) = reading.refilled_to_mm {
                Invalid::unless_within(at("refilled_to_mm"), ranges::RING_LEVEL, refilled)?;
                if refilled <= reading.level_mm {
                    return Err(Invalid::new(
                        at("refilled_to_mm"),
                        "it was filled up to more than stood in it",
                    ));
                }
            }
            match before {
                None if reading.minutes != 0.0 => {
                    return Err(Invalid::new(
                        at("minutes"),
                        "the first reading is that of the pouring, at 0 minutes",
                    ));
                }
                Some(before) if reading.minutes <= before.minutes => {
                    return Err(Invalid::new(
                        at("minutes"),
                        format!(
                            "time goes forward: this is not after {} min",
                            before.minutes
                        ),
                    ));
                }
                Some(before) if reading.level_mm > before.stands() => {
                    return Err(Invalid::new(
                        at("level_mm"),
                        "water does not rise by itself: note to where it was filled up before",
                    ));
                }
                _ => {}
            }
            before = Some(reading);
        }
        Ok(())
    }

    fn result(&self, walls: Walls) -> RingResult {
        let mut entered = 0.0;
        let mut points = Vec::with_capacity(self.readings.len());
        for (i, reading) in self.readings.iter().enumerate() {
            if i > 0 {
                entered += self.readings[i - 1].stands() - reading.level_mm;
            }
            points.push(CurvePoint {
                minutes: reading.minutes,
                entered_mm: entered,
            });
        }
        let readings: Vec<Reading> = points
            .iter()
            .filter(|p| p.minutes > 0.0)
            .map(|p| Reading {
                hours: p.minutes / 60.0,
                entered_mm: p.entered_mm,
            })
            .collect();
        let last = points.last().map_or(0.0, |p| p.minutes);
        let fit = (readings.len() >= FEWEST_READINGS)
            .then(|| infiltrometer::best(&readings))
            .flatten();
        let fitted = fit.map(|fit| Fitted {
            law: match fit.law {
                Law::Philip { .. } => RingLaw::Philip,
                Law::Horton { .. } => RingLaw::Horton,
            },
            steady_mm_h: fit.law.steady_mm_h(),
            error_mm_h: fit.steady_error_mm_h,
            rms_mm: fit.rms_mm,
            curve: (0..=CURVE_POINTS)
                .map(|i| last * f64::from(i) / f64::from(CURVE_POINTS))
                .map(|minutes| CurvePoint {
                    minutes,
                    entered_mm: fit.law.entered_mm(minutes / 60.0),
                })
                .collect(),
        });
        let share = match walls {
            Walls::Double => 1.0,
            Walls::Single {
                ring_mm,
                inserted_mm,
            } => straight_down(ring_mm / 2.0, inserted_mm, self.mean_level()),
        };
        RingResult {
            straight_down_mm_h: fitted.as_ref().map(|f| f.steady_mm_h * share),
            points,
            fitted,
        }
    }

    /// Water that stood in the ring on the mean, mm.
    fn mean_level(&self) -> f64 {
        let n = f64::from(count(self.readings.len().max(1)));
        self.readings.iter().map(RingReading::stands).sum::<f64>() / n
    }
}

impl RingReading {
    /// What stands in the ring after the reading.
    fn stands(&self) -> f64 {
        self.refilled_to_mm.unwrap_or(self.level_mm)
    }
}
