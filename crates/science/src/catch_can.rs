//! Catch-can audits: what the sprinklers put down and how evenly.
//!
//! Low-quarter distribution uniformity and scheduling coefficient by the Irrigation Association's audit guidelines (from memory),
//! coefficient of uniformity by Christiansen (1942).

use crate::natural_neighbour::{Grid, Sample, float};

/// A can: its depth, and where it stood if that is known.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Can {
    /// Depth caught, mm, 0 or more.
    pub depth_mm: f64,
    /// Easting and northing, m.
    pub place_m: Option<(f64, f64)>,
}

/// What an audit finds. `None`: not to be told from these cans.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Audit {
    /// Cans read.
    pub n: usize,
    /// Mean depth, mm.
    pub mean_mm: f64,
    /// Precipitation rate, mm/h.
    pub precipitation_rate_mm_h: f64,
    /// Mean of the driest quarter over the mean of all; `None` with fewer than four cans or a mean of 0.
    pub du_lq: Option<f64>,
    /// Christiansen's coefficient, %, may be negative; `None` with a mean of 0.
    pub cu_pct: Option<f64>,
    /// 1 / (0.4 + 0.6 DUlq), as measured; plans do not follow a uniformity below 0.40.
    pub run_time_multiplier: Option<f64>,
}

/// Fewest cans of which a quarter means anything.
pub const LEAST_CANS: usize = 4;
/// Share of the area that the scheduling coefficient looks for.
const DRIEST_SHARE: f64 = 0.05;
/// Cells along the longer side of the grid that it is looked for on.
const CELLS: usize = 48;

/// Depth, mm, of a volume caught in a can of a throat area: 1 mL on 1 cm² is 10 mm.
#[must_use]
pub fn depth_mm(volume_ml: f64, throat_cm2: f64) -> f64 {
    10.0 * volume_ml / throat_cm2
}

/// Mean of the driest quarter over the mean of all: Σ of the n/4 least, a can that is only partly in the quarter by that part.
///
/// `None` with fewer than [`LEAST_CANS`] or a mean of 0.
///
/// # Example
/// Eight cans: the quarter is the two driest.
/// ```
/// let du = science::catch_can::low_quarter_uniformity(&[8.0, 12.0, 10.0, 10.0, 6.0, 14.0, 10.0, 10.0]);
/// assert!((du.unwrap() - 0.7).abs() < 1e-12);
/// ```
#[must_use]
pub fn low_quarter_uniformity(depths_mm: &[f64]) -> Option<f64> {
    let n = depths_mm.len();
    let sum: f64 = depths_mm.iter().sum();
    if n < LEAST_CANS || sum <= 0.0 {
        return None;
    }
    let mut sorted = depths_mm.to_vec();
    sorted.sort_by(f64::total_cmp);
    let whole = n / 4;
    let part = float(n) / 4.0 - float(whole);
    let low: f64 = sorted[..whole].iter().sum::<f64>() + part * sorted[whole];
    Some((low / (float(n) / 4.0)) / (sum / float(n)))
}

/// Christiansen's coefficient of uniformity, %: 100 (1 − Σ|x − m| / (n m)). `None` with a mean of 0.
#[must_use]
pub fn christiansen_pct(depths_mm: &[f64]) -> Option<f64> {
    let sum: f64 = depths_mm.iter().sum();
    if sum <= 0.0 {
        return None;
    }
    let mean = sum / float(depths_mm.len());
    let apart: f64 = depths_mm.iter().map(|x| (x - mean).abs()).sum();
    Some(100.0 * (1.0 - apart / sum))
}

/// Whether a place, m, belongs to the zone.
pub type Inside<'a> = &'a dyn Fn(f64, f64) -> bool;

/// Depths, mm, of the cans that say where they stood.
#[must_use]
pub fn samples(cans: &[Can]) -> Vec<Sample> {
    cans.iter()
        .filter_map(|can| {
            let (x_m, y_m) = can.place_m?;
            Some(Sample {
                x_m,
                y_m,
                value: can.depth_mm,
            })
        })
        .collect()
}

/// Mean of all cans over the mean of the driest contiguous 5 % of the area, a square moved over the grid between the cans. Only places
/// that `inside` holds for count; a square counts where at least half of it does.
///
/// `None` unless at least three cans that span an area say where they stood, or with a mean of 0; infinite where the driest place is dry.
#[must_use]
pub fn scheduling_coefficient(cans: &[Can], inside: Inside) -> Option<f64> {
    let samples = samples(cans);
    if samples.len() < 3 || samples.len() < cans.len() {
        return None;
    }
    let mean = samples.iter().map(|s| s.value).sum::<f64>() / float(samples.len());
    let bounds = |f: fn(&Sample) -> f64| {
        samples
            .iter()
            .map(f)
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| {
                (l.min(v), h.max(v))
            })
    };
    let ((left, right), (bottom, top)) = (bounds(|s| s.x_m), bounds(|s| s.y_m));
    let (width, height) = (right - left, top - bottom);
    if mean <= 0.0 || width <= 0.0 || height <= 0.0 {
        return None;
    }
    let grid = Grid::over(left, bottom, width, height, CELLS).interpolate(&samples);
    driest_mean(&grid, inside).map(|driest| mean / driest)
}

/// Sums of a grid over all cells below and left of a corner, so that any rectangle is told by its four corners.
struct Sums {
    columns: usize,
    sums: Vec<f64>,
}

impl Sums {
    fn of(columns: usize, rows: usize, value: impl Fn(usize, usize) -> f64) -> Self {
        let mut all = Self {
            columns,
            sums: vec![0.0; (columns + 1) * (rows + 1)],
        };
        for row in 0..rows {
            for column in 0..columns {
                let sum = value(column, row) + all.at(column, row + 1) + all.at(column + 1, row)
                    - all.at(column, row);
                all.sums[(row + 1) * (columns + 1) + column + 1] = sum;
            }
        }
        all
    }

    fn at(&self, column: usize, row: usize) -> f64 {
        self.sums[row * (self.columns + 1) + column]
    }

    fn over(&self, column: usize, row: usize, across: usize, up: usize) -> f64 {
        self.at(column + across, row + up)
            - self.at(column, row + up)
            - self.at(column + across, row)
            + self.at(column, row)
    }
}

/// Mean of the driest square of 5 % of the area that counts.
fn driest_mean(grid: &Grid, inside: Inside) -> Option<f64> {
    let (columns, rows) = (grid.columns, grid.rows);
    let counts: Vec<bool> = (0..rows * columns)
        .map(|cell| {
            let (x, y) = grid.middle(cell % columns, cell / columns);
            inside(x, y)
        })
        .collect();
    let count = |column: usize, row: usize| f64::from(u8::from(counts[row * columns + column]));
    let cells = Sums::of(columns, rows, count);
    let water = Sums::of(columns, rows, |column, row| {
        grid.at(column, row) * count(column, row)
    });
    let wanted = cells.at(columns, rows) * DRIEST_SHARE;
    let side = (1..=columns.max(rows)).find(|s| float(s * s) >= wanted)?;
    let (across, up) = (side.min(columns), side.min(rows));
    let mut driest = f64::INFINITY;
    for row in 0..=rows - up {
        for column in 0..=columns - across {
            let n = cells.over(column, row, across, up);
            if 2.0 * n >= float(across * up) {
                driest = driest.min(water.over(column, row, across, up) / n);
            }
        }
    }
    // Differences of sums may miss 0 by a hair.
    Some(if driest < 1e-9 { 0.0 } else { driest }).filter(|d| d.is_finite())
}

/// Audits cans read after some minutes, wherever they stood; where the driest place lies is [`scheduling_coefficient`]'s.
///
/// # Errors
/// `None` without cans.
#[must_use]
pub fn audit(cans: &[Can], minutes: f64) -> Option<Audit> {
    if cans.is_empty() {
        return None;
    }
    let depths: Vec<f64> = cans.iter().map(|c| c.depth_mm).collect();
    let mean_mm = depths.iter().sum::<f64>() / float(depths.len());
    let du_lq = low_quarter_uniformity(&depths);
    Some(Audit {
        n: depths.len(),
        mean_mm,
        precipitation_rate_mm_h: mean_mm * 60.0 / minutes,
        du_lq,
        cu_pct: christiansen_pct(&depths),
        run_time_multiplier: du_lq.map(|du| 1.0 / (0.4 + 0.6 * du)),
    })
}

/// How good a low-quarter uniformity is for a kind of sprinkler.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Rating {
    /// Below poor.
    Failing,
    /// Poor.
    Poor,
    /// Fair.
    Fair,
    /// Good.
    Good,
    /// Very good.
    VeryGood,
    /// Excellent.
    Excellent,
}

/// From which uniformity on each rating holds.
const fn steps(rotates: bool) -> [f64; 5] {
    if rotates {
        [0.50, 0.60, 0.65, 0.70, 0.80]
    } else {
        [0.40, 0.50, 0.55, 0.65, 0.75]
    }
}

/// The low-quarter uniformity from which on sprinklers are very good: what those that are repaired, levelled and aimed reach (the scale of [`rating`]; that repair
/// reaches it is common practice, no source).
#[must_use]
pub const fn very_good(rotates: bool) -> f64 {
    steps(rotates)[3]
}

/// Rates a low-quarter uniformity (Irrigation Association, from memory): fixed sprays by .40 .50 .55 .65 .75, what rotates by
/// .50 .60 .65 .70 .80.
#[must_use]
pub fn rating(rotates: bool, du_lq: f64) -> Rating {
    let steps = steps(rotates);
    let passed = steps.iter().filter(|s| du_lq >= **s - 1e-9).count();
    [
        Rating::Failing,
        Rating::Poor,
        Rating::Fair,
        Rating::Good,
        Rating::VeryGood,
        Rating::Excellent,
    ][passed]
}
