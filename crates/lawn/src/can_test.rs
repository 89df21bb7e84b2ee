//! A catch-can test: where the cans stood, what they caught, what that says of the sprinklers, and how far to trust it.
//!
//! Rate and uniformity by [`science::catch_can`]; a good test by the Irrigation Association's and ASABE S626's guidelines (from memory):
//! 24 cans or more, at least 25 mL in each, wind under 2 m/s. What falls short is said, and widens the range (common practice, no source).

use jiff::civil::Date;
use science::catch_can::{self, Audit, Can, Rating, depth_mm};
use science::natural_neighbour::{Grid, Sample};
use science::sprinkler::{Kind, run_time_multiplier};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::can_pattern::{Pattern, patterns};
use crate::quantity::Rate;
use crate::ranges::{self, Range};
use crate::site::Invalid;
use crate::sourced::{Source, Sourced};

/// A place on the plan of the zone, m from its lower left corner.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Point {
    /// To the right.
    pub x_m: f64,
    /// Up.
    pub y_m: f64,
}

/// What catches the water.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Container {
    /// Straight sides: the depth is read off, mm.
    Straight {
        /// How deep it is, mm.
        deep_mm: f64,
    },
    /// Any other: the volume is read, mL.
    Volume {
        /// Area of its mouth, cm².
        throat_cm2: f64,
        /// What it holds, mL.
        holds_ml: f64,
    },
}

/// What became of a can.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Fate {
    /// Not read yet.
    Unread,
    /// Read.
    Read,
    /// Left out.
    Skipped,
    /// Tipped over: what it says says nothing.
    TippedOver,
}

/// A can of the test.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TestCan {
    /// Its number, from 1.
    pub number: u16,
    /// Where it stood.
    pub place: Point,
    /// What became of it.
    pub fate: Fate,
    /// What was read, mm or mL by the container; of cans that were read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reading: Option<f64>,
}

/// A test as it was done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CanTest {
    /// Corners of the zone, in order.
    pub corners: Vec<Point>,
    /// Heads.
    #[serde(default)]
    pub heads: Vec<Point>,
    /// What caught the water.
    pub container: Container,
    /// How long the zone ran, min.
    pub minutes: f64,
    /// Wind, m/s.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wind_m_s: Option<f64>,
    /// Pressure at the heads, kPa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pressure_kpa: Option<f64>,
    /// The cans.
    pub cans: Vec<TestCan>,
}

/// What a test lacks.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "doubt", rename_all = "snake_case")]
pub enum Doubt {
    /// Fewer cans than a good test has.
    FewCans {
        /// Read.
        read: u32,
        /// Wanted.
        wanted: u32,
    },
    /// Too little water in a can to be read well.
    TooShort {
        /// Minutes that would have been enough.
        minutes: f64,
    },
    /// Too much wind.
    Windy {
        /// Wind, m/s.
        wind_m_s: f64,
        /// Limit, m/s.
        limit_m_s: f64,
    },
    /// Cans without a reading.
    Unread {
        /// How many.
        cans: u32,
    },
    /// The wind was not noted.
    WindNotNoted,
}

/// Depths between the cans, for drawing: square cells from the lower left, row by row.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct DepthGrid {
    /// Left edge, m.
    pub left_m: f64,
    /// Lower edge, m.
    pub bottom_m: f64,
    /// Side of a cell, m.
    pub cell_m: f64,
    /// Cells across.
    pub columns: u32,
    /// Share of the mean in each cell.
    pub shares: Vec<f64>,
}

/// What a test says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TestResult {
    /// Cans read.
    pub read: u32,
    /// Mean depth, mm.
    pub mean_mm: f64,
    /// Precipitation rate with its range.
    pub rate_mm_h: Sourced<Rate>,
    /// Low-quarter uniformity with its range; `None` with fewer than four cans or no water.
    pub evenness_du_lq: Option<Sourced<f64>>,
    /// Christiansen's coefficient, %.
    pub cu_pct: Option<f64>,
    /// Scheduling coefficient; `None` where it is not to be told, or infinite.
    pub scheduling_coefficient: Option<f64>,
    /// Run-time multiplier as plans use it.
    pub run_time_multiplier: Option<f64>,
    /// How good the uniformity is for the sprinkler's kind.
    pub rating: Option<TestRating>,
    /// What the driest quarter gets while the average gets 13 mm (half an inch), mm.
    pub driest_quarter_of_13_mm: Option<f64>,
    /// What the wettest can gets meanwhile, mm.
    pub wettest_of_13_mm: Option<f64>,
    /// Minutes for that depth if every place got the mean.
    pub minutes_for_13_mm_even: Option<f64>,
    /// Minutes for it as uneven as it is.
    pub minutes_for_13_mm: Option<f64>,
    /// What it lacks.
    pub doubts: Vec<Doubt>,
    /// What the pattern may be, the strongest first.
    pub patterns: Vec<Pattern>,
    /// Depths between the cans; `None` with fewer than three.
    pub grid: Option<DepthGrid>,
}

impl TestResult {
    /// Rate and evenness as a zone takes them, kept within the ranges that plans work in; `None` where the test tells no evenness or a
    /// rate that no sprinkler has.
    #[must_use]
    pub fn figures(&self) -> Option<(Sourced<Rate>, Sourced<f64>)> {
        let evenness = self.evenness_du_lq.clone()?;
        ranges::RATE.check(self.rate_mm_h.value.mm_h()).ok()?;
        let rate = self
            .rate_mm_h
            .clone()
            .map(|r| Rate::from_mm_h(r.mm_h().clamp(ranges::RATE.min, ranges::RATE.max)));
        let evenness = evenness.map(|e| e.clamp(ranges::EVENNESS.min, ranges::EVENNESS.max));
        Some((rate, evenness))
    }
}

/// Words of the rating.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the names say it
pub enum TestRating {
    Failing,
    Poor,
    Fair,
    Good,
    VeryGood,
    Excellent,
}

impl From<Rating> for TestRating {
    fn from(rating: Rating) -> Self {
        match rating {
            Rating::Failing => Self::Failing,
            Rating::Poor => Self::Poor,
            Rating::Fair => Self::Fair,
            Rating::Good => Self::Good,
            Rating::VeryGood => Self::VeryGood,
            Rating::Excellent => Self::Excellent,
        }
    }
}

/// Cans of a good test.
const GOOD_CANS: u32 = 24;
/// Least volume in a can of a good test, mL; for straight cans the depth that a mouth of 100 cm² would have.
const GOOD_ML: f64 = 25.0;
const GOOD_MM: f64 = 2.5;
/// Greatest wind of a good test, m/s.
const GOOD_WIND_M_S: f64 = 2.0;
/// What each doubt does to a range.
const DOUBT_WIDENS: f64 = 1.3;
/// Half an inch, the trade's usual soak, mm.
const SOAK_MM: f64 = 13.0;
/// Cells along the longer side of the plan.
const CELLS: usize = 40;
/// Most cans and heads of a test.
const MOST: usize = 400;

fn invalid(field: String, message: impl Into<String>) -> Invalid {
    Invalid {
        field,
        message: message.into(),
    }
}

fn check(field: String, range: Range, value: f64) -> Result<(), Invalid> {
    range
        .check(value)
        .map(|_| ())
        .map_err(|error| invalid(field, error.to_string()))
}

fn count(n: usize) -> u32 {
    u32::try_from(n).unwrap_or(u32::MAX)
}

impl CanTest {
    /// Checks every figure.
    ///
    /// # Errors
    /// The first field that does not hold, such as `cans[3].reading`.
    pub fn validate(&self) -> Result<(), Invalid> {
        check("minutes".to_owned(), ranges::TEST_MINUTES, self.minutes)?;
        if let Some(wind) = self.wind_m_s {
            check("wind_m_s".to_owned(), ranges::WIND, wind)?;
        }
        if let Some(pressure) = self.pressure_kpa {
            check("pressure_kpa".to_owned(), ranges::PRESSURE, pressure)?;
        }
        let (holds, unit) = match self.container {
            Container::Straight { deep_mm } => {
                check("container.deep_mm".to_owned(), ranges::CAN_DEPTH, deep_mm)?;
                (deep_mm, "mm")
            }
            Container::Volume {
                throat_cm2,
                holds_ml,
            } => {
                check(
                    "container.throat_cm2".to_owned(),
                    ranges::THROAT,
                    throat_cm2,
                )?;
                check(
                    "container.holds_ml".to_owned(),
                    ranges::CAN_VOLUME,
                    holds_ml,
                )?;
                (holds_ml, "mL")
            }
        };
        if self.corners.len() < 3 || self.corners.len() > MOST {
            return Err(invalid(
                "corners".to_owned(),
                "a plan has at least three corners",
            ));
        }
        if self.cans.is_empty() || self.cans.len() > MOST || self.heads.len() > MOST {
            return Err(invalid(
                "cans".to_owned(),
                format!("a test has 1 to {MOST} cans"),
            ));
        }
        let places = self
            .corners
            .iter()
            .map(|p| ("corners", p))
            .chain(self.heads.iter().map(|p| ("heads", p)));
        for (what, place) in places {
            check(what.to_owned(), ranges::PLAN, place.x_m)?;
            check(what.to_owned(), ranges::PLAN, place.y_m)?;
        }
        for (i, can) in self.cans.iter().enumerate() {
            let at = |field: &str| format!("cans[{i}].{field}");
            check(at("place"), ranges::PLAN, can.place.x_m)?;
            check(at("place"), ranges::PLAN, can.place.y_m)?;
            if let Some(other) = self.cans[..i]
                .iter()
                .find(|c| c.number == can.number || c.place == can.place)
            {
                let message = if other.number == can.number {
                    format!("can {} stands twice", can.number)
                } else {
                    format!("can {} stands where can {} does", can.number, other.number)
                };
                return Err(invalid(at("place"), message));
            }
            match (can.fate, can.reading) {
                (Fate::Read, None) => {
                    return Err(invalid(at("reading"), "a can that was read has a reading"));
                }
                (Fate::Read, Some(value)) if !value.is_finite() || value < 0.0 => {
                    return Err(invalid(at("reading"), format!("{value} {unit} is below 0")));
                }
                (Fate::Read, Some(value)) if value > holds => {
                    let message =
                        format!("{value} {unit} is more than the can holds, {holds} {unit}");
                    return Err(invalid(at("reading"), message));
                }
                _ => {}
            }
        }
        Ok(())
    }

    /// The cans that were read, with their depths.
    fn read(&self) -> Vec<(&TestCan, Can)> {
        self.cans
            .iter()
            .filter(|can| can.fate == Fate::Read)
            .filter_map(|can| {
                let reading = can.reading?;
                let depth_mm = match self.container {
                    Container::Straight { .. } => reading,
                    Container::Volume { throat_cm2, .. } => depth_mm(reading, throat_cm2),
                };
                let place_m = Some((can.place.x_m, can.place.y_m));
                Some((can, Can { depth_mm, place_m }))
            })
            .collect()
    }

    /// What the test says of sprinklers of a kind, measured on a date; `None` before any can is read.
    #[must_use]
    pub fn result(&self, kind: Kind, date: Date) -> Option<TestResult> {
        let read = self.read();
        let cans: Vec<Can> = read.iter().map(|(_, can)| *can).collect();
        let audit = catch_can::audit(&cans, self.minutes)?;
        let doubts = self.doubts(&audit, count(cans.len()));
        let widen = doubts
            .iter()
            .filter(|d| !matches!(d, Doubt::WindNotNoted))
            .fold(1.0, |w, _| w * DOUBT_WIDENS);
        let source = Source::Measured {
            test: format!("can test, {} cans", cans.len()),
            date,
        };
        let n = f64::from(count(cans.len()));
        // Twice the standard error of the mean, not less than a twentieth.
        let spread = if audit.mean_mm > 0.0 {
            let variance = cans
                .iter()
                .map(|c| (c.depth_mm - audit.mean_mm).powi(2))
                .sum::<f64>()
                / n;
            (2.0 * (variance / n).sqrt() / audit.mean_mm).max(0.05)
        } else {
            0.5
        };
        let rate_share = (spread * widen).min(0.6);
        let rate = audit.precipitation_rate_mm_h;
        let rate_mm_h = Sourced {
            value: Rate::from_mm_h(rate),
            low: Rate::from_mm_h(rate * (1.0 - rate_share)),
            high: Rate::from_mm_h(rate * (1.0 + rate_share)),
            source: source.clone(),
        };
        let evenness_du_lq = audit.du_lq.map(|du| {
            let half = (0.3 / n.sqrt()).max(0.03) * widen;
            Sourced {
                value: du,
                low: (du - half).max(0.0),
                high: (du + half).min(1.0),
                source,
            }
        });
        let rotates = !matches!(kind, Kind::FixedSpray | Kind::Drip);
        let wettest = cans.iter().map(|c| c.depth_mm).fold(0.0, f64::max);
        Some(TestResult {
            read: count(cans.len()),
            mean_mm: audit.mean_mm,
            rate_mm_h,
            evenness_du_lq,
            cu_pct: audit.cu_pct,
            scheduling_coefficient: audit.scheduling_coefficient.filter(|sc| sc.is_finite()),
            run_time_multiplier: audit.du_lq.map(run_time_multiplier),
            rating: audit.du_lq.map(|du| catch_can::rating(rotates, du).into()),
            driest_quarter_of_13_mm: audit.du_lq.map(|du| du * SOAK_MM),
            wettest_of_13_mm: (audit.mean_mm > 0.0).then(|| wettest / audit.mean_mm * SOAK_MM),
            minutes_for_13_mm_even: (rate > 0.0).then(|| 60.0 * SOAK_MM / rate),
            minutes_for_13_mm: audit
                .du_lq
                .filter(|_| rate > 0.0)
                .map(|du| 60.0 * SOAK_MM / rate * run_time_multiplier(du)),
            doubts,
            patterns: patterns(&self.heads, &read, audit.mean_mm),
            grid: self.grid(&cans, audit.mean_mm),
        })
    }

    fn doubts(&self, audit: &Audit, read: u32) -> Vec<Doubt> {
        let mut doubts = Vec::new();
        if read < GOOD_CANS {
            doubts.push(Doubt::FewCans {
                read,
                wanted: GOOD_CANS,
            });
        }
        let (mean, wanted) = match self.container {
            Container::Straight { .. } => (audit.mean_mm, GOOD_MM),
            Container::Volume { throat_cm2, .. } => (audit.mean_mm * throat_cm2 / 10.0, GOOD_ML),
        };
        if mean > 0.0 && mean < wanted {
            doubts.push(Doubt::TooShort {
                minutes: (self.minutes * wanted / mean).ceil(),
            });
        }
        match self.wind_m_s {
            Some(wind_m_s) if wind_m_s > GOOD_WIND_M_S => doubts.push(Doubt::Windy {
                wind_m_s,
                limit_m_s: GOOD_WIND_M_S,
            }),
            Some(_) => {}
            None => doubts.push(Doubt::WindNotNoted),
        }
        let unread = count(self.cans.len()).saturating_sub(read);
        if unread > 0 {
            doubts.push(Doubt::Unread { cans: unread });
        }
        doubts
    }

    fn grid(&self, cans: &[Can], mean_mm: f64) -> Option<DepthGrid> {
        if cans.len() < 3 || mean_mm <= 0.0 {
            return None;
        }
        let samples: Vec<Sample> = cans
            .iter()
            .filter_map(|can| {
                let (x_m, y_m) = can.place_m?;
                Some(Sample {
                    x_m,
                    y_m,
                    value: can.depth_mm / mean_mm,
                })
            })
            .collect();
        let span = |f: fn(&Point) -> f64| {
            self.corners
                .iter()
                .map(f)
                .fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| {
                    (l.min(v), h.max(v))
                })
        };
        let ((left, right), (bottom, top)) = (span(|p| p.x_m), span(|p| p.y_m));
        let grid =
            Grid::over(left, bottom, right - left, top - bottom, CELLS).interpolate(&samples);
        Some(DepthGrid {
            left_m: grid.left_m,
            bottom_m: grid.bottom_m,
            cell_m: grid.cell_m,
            columns: count(grid.columns),
            // Two digits are enough to draw.
            shares: grid
                .values
                .iter()
                .map(|v| (v * 100.0).round() / 100.0)
                .collect(),
        })
    }
}
