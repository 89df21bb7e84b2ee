//! What the catch of a test looks like: candidates with their evidence, for a person to check.

use science::catch_can::Can;
use science::sprinkler::Kind;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::measure::cans::{CanTest, TestCan};
use crate::measure::outline::Point;
use crate::quantity::count;

/// What the pattern may be; a candidate with its evidence.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "pattern", rename_all = "snake_case")]
pub enum Pattern {
    /// Less close to the heads than further away: pressure too high (mist), nozzle worn, head sunk.
    DryNextToHeads {
        /// Correlation of depth and distance to the nearest head.
        correlation: f64,
    },
    /// Less midway between the heads: pressure too low, spacing too wide.
    DryMidway {
        /// Correlation of depth and distance to the nearest head.
        correlation: f64,
    },
    /// One head gives its neighbourhood little: clogged, tilted, sunk, aimed elsewhere.
    WeakHead {
        /// Which, from 1.
        head: u16,
        /// Mean of the cans nearest to it, share of the mean of all.
        share: f64,
    },
    /// One side is drier than the other: slope, wind, pressure loss along the line.
    DrySide {
        /// Direction on the plan in which it is drier.
        side: Side,
        /// Mean of that half over the mean of the other.
        share: f64,
    },
    /// One place is far wetter: a leak, heads that overlap, a low spot that drains into the can.
    WetSpot {
        /// Which can.
        can: u16,
        /// Its depth, share of the mean.
        share: f64,
    },
    /// One edge is dry, the rest of its half is not: heads of that edge turned away, set back, or off.
    DryEdge {
        /// Which edge of the plan.
        side: Side,
        /// Mean of the cans along it, share of the mean of all.
        share: f64,
    },
    /// One corner is dry, and no head is known there: one is missing, clogged or turned away.
    DryCorner {
        /// Left or right on the plan.
        across: Side,
        /// Top or bottom of it.
        up: Side,
        /// Mean of its cans, share of the mean of all.
        share: f64,
    },
    /// Less pressure than such sprinklers are made for: big drops, a short throw.
    LowPressure {
        /// Measured, kPa.
        pressure_kpa: f64,
        /// What they are made for, kPa.
        usual_kpa: f64,
    },
    /// More pressure than such sprinklers are made for: mist, drift.
    HighPressure {
        /// Measured, kPa.
        pressure_kpa: f64,
        /// What they are made for, kPa.
        usual_kpa: f64,
    },
}

/// A side of the plan.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the names say it
pub enum Side {
    Left,
    Right,
    Top,
    Bottom,
}

impl Side {
    const ALL: [Self; 4] = [Self::Left, Self::Right, Self::Bottom, Self::Top];
}

/// Fewest cans that show a pattern.
const LEAST_CANS: usize = 8;

/// Candidates with their evidence from the cans read, the heads and the pressure. What was measured at the heads comes first, since it is
/// to be put right first; then the strongest. Thresholds are common practice, no source.
#[must_use]
pub fn patterns(test: &CanTest, kind: Kind) -> Vec<Pattern> {
    let mut found: Vec<Pattern> = test
        .pressure_kpa
        .and_then(|pressure| of_pressure(pressure, kind.defaults().pressure_kpa))
        .into_iter()
        .collect();
    let catch = Catch::of(test);
    if catch.len() >= LEAST_CANS {
        let mut ranked = catch.by_heads(&test.heads);
        let weak_head = ranked
            .iter()
            .any(|(_, p)| matches!(p, Pattern::WeakHead { .. }));
        ranked.extend(catch.by_sides());
        if !weak_head {
            ranked.extend(catch.dry_corner());
        }
        ranked.extend(catch.wet_spot());
        ranked.sort_by(|a, b| b.0.total_cmp(&a.0));
        found.extend(ranked.into_iter().map(|(_, pattern)| pattern));
    }
    found
}

fn of_pressure(pressure_kpa: f64, usual_kpa: f64) -> Option<Pattern> {
    match pressure_kpa / usual_kpa {
        share if share < 0.8 => Some(Pattern::LowPressure {
            pressure_kpa,
            usual_kpa,
        }),
        share if share > 1.25 => Some(Pattern::HighPressure {
            pressure_kpa,
            usual_kpa,
        }),
        _ => None,
    }
}

/// A can with what it caught.
#[derive(Clone, Copy)]
struct Caught {
    number: u16,
    place: Point,
    /// Share of the mean.
    share: f64,
}

/// The cans read.
struct Catch {
    cans: Vec<Caught>,
    /// Their middle.
    middle: Point,
    /// Left, bottom, right and top of the zone, m.
    bounds: [f64; 4],
}

/// How strongly it shows, with what it may be.
type Ranked = (f64, Pattern);

fn mean(cans: &[Caught]) -> f64 {
    cans.iter().map(|c| c.share).sum::<f64>() / f64::from(count(cans.len().max(1)))
}

impl Catch {
    fn of(test: &CanTest) -> Self {
        let read = test.read();
        let n = f64::from(count(read.len().max(1)));
        let mean_mm = read.iter().map(|(_, c)| c.depth_mm).sum::<f64>() / n;
        let average = |f: fn(&Point) -> f64| read.iter().map(|(t, _)| f(&t.place)).sum::<f64>() / n;
        let middle = Point {
            x_m: average(|p| p.x_m),
            y_m: average(|p| p.y_m),
        };
        let caught = |(t, c): &(&TestCan, Can)| Caught {
            number: t.number,
            place: t.place,
            share: c.depth_mm / mean_mm,
        };
        let cans = if mean_mm > 0.0 {
            read.iter().map(caught).collect()
        } else {
            Vec::new()
        };
        Self {
            cans,
            middle,
            bounds: test.outline().bounds(),
        }
    }

    const fn len(&self) -> usize {
        self.cans.len()
    }

    fn those(&self, which: impl Fn(&Caught) -> bool) -> Vec<Caught> {
        self.cans.iter().filter(|c| which(c)).copied().collect()
    }

    /// By the distance to the nearest head, and by which head that is.
    fn by_heads(&self, heads: &[Point]) -> Vec<Ranked> {
        if heads.is_empty() {
            return Vec::new();
        }
        let nearest = |can: &Caught| {
            heads
                .iter()
                .enumerate()
                .map(|(i, h)| (i, (h.x_m - can.place.x_m).hypot(h.y_m - can.place.y_m)))
                .fold((0, f64::INFINITY), |a, b| if b.1 < a.1 { b } else { a })
        };
        let pairs: Vec<(f64, f64)> = self.cans.iter().map(|c| (nearest(c).1, c.share)).collect();
        let correlation = correlation(&pairs);
        let mut found = Vec::new();
        if correlation >= 0.5 {
            found.push((correlation, Pattern::DryNextToHeads { correlation }));
        } else if correlation <= -0.5 {
            found.push((-correlation, Pattern::DryMidway { correlation }));
        }
        for head in 0..heads.len() {
            let near = self.those(|c| nearest(c).0 == head);
            let share = mean(&near);
            if near.len() >= 2 && share <= 0.7 {
                let head = u16::try_from(head + 1).unwrap_or(u16::MAX);
                found.push((1.3 - share, Pattern::WeakHead { head, share }));
            }
        }
        found
    }

    /// How far a can lies from a side of the zone, share of the zone's width that way.
    fn off_side(&self, can: &Caught, side: Side) -> f64 {
        let [left, bottom, right, top] = self.bounds;
        let (x, y) = (can.place.x_m, can.place.y_m);
        match side {
            Side::Left => (x - left) / (right - left),
            Side::Right => (right - x) / (right - left),
            Side::Bottom => (y - bottom) / (top - bottom),
            Side::Top => (top - y) / (top - bottom),
        }
    }

    /// Whether a can lies on a side of the cans' middle.
    fn is_on(&self, can: &Caught, side: Side) -> bool {
        match side {
            Side::Left => can.place.x_m < self.middle.x_m,
            Side::Right => can.place.x_m > self.middle.x_m,
            Side::Bottom => can.place.y_m < self.middle.y_m,
            Side::Top => can.place.y_m > self.middle.y_m,
        }
    }

    /// A dry edge, or a dry half: the edge where the rest of its half gets its share.
    fn by_sides(&self) -> Vec<Ranked> {
        let mut found = Vec::new();
        for side in Side::ALL {
            let edge = self.those(|c| self.off_side(c, side) < EDGE);
            let inner = self.those(|c| self.is_on(c, side) && self.off_side(c, side) >= EDGE);
            let share = mean(&edge);
            if edge.len() >= 3 && inner.len() >= 2 && share <= 0.7 && mean(&inner) >= 0.9 {
                found.push((1.0 - share, Pattern::DryEdge { side, share }));
                continue;
            }
            let here = self.those(|c| self.is_on(c, side));
            let there = self.those(|c| !self.is_on(c, side));
            let share = mean(&here) / mean(&there).max(1e-9);
            if here.len() >= 3 && share <= 0.75 {
                found.push((1.0 - share, Pattern::DrySide { side, share }));
            }
        }
        found
    }

    /// The driest corner, where it stands out.
    fn dry_corner(&self) -> Option<Ranked> {
        let corners = [Side::Left, Side::Right]
            .into_iter()
            .flat_map(|across| [(across, Side::Bottom), (across, Side::Top)]);
        corners
            .filter_map(|(across, up)| {
                let cans = self
                    .those(|c| self.off_side(c, across) < CORNER && self.off_side(c, up) < CORNER);
                let share = mean(&cans);
                let pattern = Pattern::DryCorner { across, up, share };
                (cans.len() >= 2 && share <= 0.6).then_some((1.2 - share, pattern))
            })
            .max_by(|a, b| a.0.total_cmp(&b.0))
    }

    fn wet_spot(&self) -> Option<Ranked> {
        let wettest = self
            .cans
            .iter()
            .max_by(|a, b| a.share.total_cmp(&b.share))?;
        let pattern = Pattern::WetSpot {
            can: wettest.number,
            share: wettest.share,
        };
        (wettest.share >= 1.7).then_some((wettest.share - 1.0, pattern))
    }
}

/// What counts as an edge and as a corner, share of the zone's width.
const EDGE: f64 = 0.2;
const CORNER: f64 = 0.4;

/// Pearson's correlation; 0 where one side does not vary.
fn correlation(pairs: &[(f64, f64)]) -> f64 {
    let n = f64::from(count(pairs.len()));
    let mean = |f: fn(&(f64, f64)) -> f64| pairs.iter().map(f).sum::<f64>() / n;
    let (mx, my) = (mean(|p| p.0), mean(|p| p.1));
    let (mut xy, mut xx, mut yy) = (0.0, 0.0, 0.0);
    for (x, y) in pairs {
        xy += (x - mx) * (y - my);
        xx += (x - mx).powi(2);
        yy += (y - my).powi(2);
    }
    if xx <= 1e-12 || yy <= 1e-12 {
        0.0
    } else {
        xy / (xx * yy).sqrt()
    }
}
