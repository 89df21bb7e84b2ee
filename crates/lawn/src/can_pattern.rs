//! What the catch of a test looks like: candidates with their evidence, for a person to check.

use science::catch_can::Can;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::can_test::TestCan;
use crate::zone_outline::Point;

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

/// Candidates with their evidence, the strongest first, from the cans read and the heads. Thresholds are common practice, no source.
#[must_use]
pub fn patterns(heads: &[Point], read: &[(&TestCan, Can)], mean_mm: f64) -> Vec<Pattern> {
    if read.len() < 8 || mean_mm <= 0.0 {
        return Vec::new();
    }
    let share = |can: &Can| can.depth_mm / mean_mm;
    let mean = |cans: &[&(&TestCan, Can)]| {
        cans.iter().map(|(_, c)| share(c)).sum::<f64>() / f64::from(count(cans.len().max(1)))
    };
    let mut found: Vec<(f64, Pattern)> = Vec::new();
    if !heads.is_empty() {
        let nearest = |can: &TestCan| {
            heads
                .iter()
                .enumerate()
                .map(|(i, h)| {
                    let d = (h.x_m - can.place.x_m).hypot(h.y_m - can.place.y_m);
                    (i, d)
                })
                .fold((0, f64::INFINITY), |a, b| if b.1 < a.1 { b } else { a })
        };
        let pairs: Vec<(f64, f64)> = read.iter().map(|(t, c)| (nearest(t).1, share(c))).collect();
        let correlation = correlation(&pairs);
        if correlation >= 0.5 {
            found.push((correlation, Pattern::DryNextToHeads { correlation }));
        } else if correlation <= -0.5 {
            found.push((-correlation, Pattern::DryMidway { correlation }));
        }
        for head in 0..heads.len() {
            let near: Vec<_> = read.iter().filter(|(t, _)| nearest(t).0 == head).collect();
            let share = mean(&near);
            if near.len() >= 2 && share <= 0.7 {
                let number = u16::try_from(head + 1).unwrap_or(u16::MAX);
                found.push((
                    1.3 - share,
                    Pattern::WeakHead {
                        head: number,
                        share,
                    },
                ));
            }
        }
    }
    let middle = |f: fn(&Point) -> f64| {
        let sum: f64 = read.iter().map(|(t, _)| f(&t.place)).sum();
        sum / f64::from(count(read.len()))
    };
    let (x, y) = (middle(|p| p.x_m), middle(|p| p.y_m));
    for (side, is) in [
        (
            Side::Left,
            Box::new(move |p: &Point| p.x_m < x) as Box<dyn Fn(&Point) -> bool>,
        ),
        (Side::Right, Box::new(move |p: &Point| p.x_m > x)),
        (Side::Bottom, Box::new(move |p: &Point| p.y_m < y)),
        (Side::Top, Box::new(move |p: &Point| p.y_m > y)),
    ] {
        let (here, there): (Vec<_>, Vec<_>) = read.iter().partition(|(t, _)| is(&t.place));
        let share = mean(&here) / mean(&there).max(1e-9);
        if here.len() >= 3 && share <= 0.75 {
            found.push((1.0 - share, Pattern::DrySide { side, share }));
        }
    }
    if let Some((can, share)) = read
        .iter()
        .map(|(t, c)| (t.number, share(c)))
        .max_by(|a, b| a.1.total_cmp(&b.1))
        .filter(|(_, share)| *share >= 1.7)
    {
        found.push((share - 1.0, Pattern::WetSpot { can, share }));
    }
    found.sort_by(|a, b| b.0.total_cmp(&a.0));
    found.into_iter().map(|(_, pattern)| pattern).collect()
}

fn count(n: usize) -> u32 {
    u32::try_from(n).unwrap_or(u32::MAX)
}

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
