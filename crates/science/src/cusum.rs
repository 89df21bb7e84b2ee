//! The tabular CUSUM: when the level of a series of figures has shifted, although each of them scatters.
//!
//! # References
//! - Page, E. S. (1954): *Continuous inspection schemes*, Biometrika 41, 100–115.
//! - Siegmund, D. (1985): *Sequential Analysis*, Springer: the run length ([`run_length`]).
//! - Montgomery, D. C.: *Introduction to Statistical Quality Control*, tabular CUSUM and its table of run lengths, from memory.

/// To which side a level shifted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shift {
    /// It is higher.
    Up,
    /// It is lower.
    Down,
}

/// A two-sided CUSUM over standardised figures.
///
/// # Formula
/// C⁺ = max(0, C⁺ + z − k), C⁻ = max(0, C⁻ − z − k); a shift where one of them is above h.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cusum {
    slack: f64,
    limit: f64,
    up: f64,
    down: f64,
    since_up: u32,
    since_down: u32,
}

impl Cusum {
    /// With a slack k, half of the shift that is looked for, and a limit h, both in standard deviations.
    #[must_use]
    pub const fn new(slack: f64, limit: f64) -> Self {
        Self {
            slack,
            limit,
            up: 0.0,
            down: 0.0,
            since_up: 0,
            since_down: 0,
        }
    }

    /// Adds a figure, in standard deviations from the level that is taken for right; whether it has shifted.
    pub fn add(&mut self, z: f64) -> Option<Shift> {
        self.up = (self.up + z - self.slack).max(0.0);
        self.down = (self.down - z - self.slack).max(0.0);
        self.since_up = if self.up > 0.0 { self.since_up + 1 } else { 0 };
        self.since_down = if self.down > 0.0 {
            self.since_down + 1
        } else {
            0
        };
        if self.up > self.limit {
            Some(Shift::Up)
        } else if self.down > self.limit {
            Some(Shift::Down)
        } else {
            None
        }
    }

    /// How many figures ago, the last included, the present sum of a side began to rise; 0: it does not. That is when the shift most likely began.
    #[must_use]
    pub const fn rising_for(&self, side: Shift) -> u32 {
        match side {
            Shift::Up => self.since_up,
            Shift::Down => self.since_down,
        }
    }

    /// Begins anew, at a level that is right again.
    pub const fn reset(&mut self) {
        *self = Self::new(self.slack, self.limit);
    }
}

/// Figures, on the mean, until one side of a CUSUM tells of a shift of so many standard deviations to that side; of 0: until it tells of one that is none.
///
/// # Formula
/// Δ = shift − k, b = h + 1.166: (exp(−2Δb) + 2Δb − 1) / 2Δ²; b² where Δ = 0 (Siegmund 1985).
#[must_use]
pub fn run_length_one_sided(slack: f64, limit: f64, shift: f64) -> f64 {
    let b = limit + 1.166;
    let delta = shift - slack;
    if delta.abs() < 1e-9 {
        return b * b;
    }
    ((-2.0 * delta * b).exp() + 2.0 * delta * b - 1.0) / (2.0 * delta * delta)
}

/// The same of both sides together.
///
/// # Formula
/// 1/ARL = 1/ARL⁺ + 1/ARL⁻
///
/// # Example
/// k = ½, h = 5: 465 figures to a false alarm, 10.4 to a shift of one standard deviation (Montgomery's table, from memory).
/// ```
/// use science::cusum::run_length;
/// assert!((run_length(0.5, 5.0, 0.0) / 465.0 - 1.0).abs() < 0.01);
/// assert!((run_length(0.5, 5.0, 1.0) / 10.4 - 1.0).abs() < 0.01);
/// ```
#[must_use]
pub fn run_length(slack: f64, limit: f64, shift: f64) -> f64 {
    let up = run_length_one_sided(slack, limit, shift);
    let down = run_length_one_sided(slack, limit, -shift);
    1.0 / (1.0 / up + 1.0 / down)
}
