//! Depth, rate, area, volume and run time, with only the operations that make sense: depth / rate is a run time, depth × area a
//! volume; a rate cannot be added to a depth. They are written as plain numbers whose field names the unit.

use std::iter::Sum;
use std::ops::{Add, AddAssign, Div, Mul, Neg, Sub, SubAssign};

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A depth of water, mm.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct Depth(f64);

/// A precipitation or intake rate, mm/h.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct Rate(f64);

/// An area, m².
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct Area(f64);

/// A volume of water, litres.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct Volume(f64);

/// How long water runs, seconds.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct RunTime(f64);

impl Depth {
    /// No water.
    pub const ZERO: Self = Self(0.0);

    /// From millimetres.
    #[must_use]
    pub const fn from_mm(mm: f64) -> Self {
        Self(mm)
    }

    /// In millimetres.
    #[must_use]
    pub const fn mm(self) -> f64 {
        self.0
    }

    /// The greater of two depths.
    #[must_use]
    pub const fn max(self, other: Self) -> Self {
        Self(self.0.max(other.0))
    }

    /// The lesser of two depths.
    #[must_use]
    pub const fn min(self, other: Self) -> Self {
        Self(self.0.min(other.0))
    }

    /// How many whole times another depth goes into this one; 0 for none or a depth that is not above 0.
    #[must_use]
    pub fn whole_times(self, other: Self) -> u32 {
        if other.0 > 0.0 {
            u32::try_from(whole((self.0 / other.0).floor())).unwrap_or(0)
        } else {
            0
        }
    }

    /// The size of the depth, without its sign.
    #[must_use]
    pub const fn abs(self) -> Self {
        Self(self.0.abs())
    }
}

impl Rate {
    /// From millimetres an hour.
    #[must_use]
    pub const fn from_mm_h(mm_h: f64) -> Self {
        Self(mm_h)
    }

    /// In millimetres an hour.
    #[must_use]
    pub const fn mm_h(self) -> f64 {
        self.0
    }

    /// The flow, L/min, that this rate takes over an area.
    #[must_use]
    pub fn flow_l_min(self, area: Area) -> f64 {
        self.0 * area.0 / 60.0
    }
}

impl Area {
    /// From square metres.
    #[must_use]
    pub const fn from_m2(m2: f64) -> Self {
        Self(m2)
    }

    /// In square metres.
    #[must_use]
    pub const fn m2(self) -> f64 {
        self.0
    }
}

impl Volume {
    /// From litres.
    #[must_use]
    pub const fn from_l(l: f64) -> Self {
        Self(l)
    }

    /// In litres.
    #[must_use]
    pub const fn l(self) -> f64 {
        self.0
    }

    /// In cubic metres.
    #[must_use]
    pub const fn m3(self) -> f64 {
        self.0 / 1000.0
    }

    /// What it costs at a price of a cubic metre, in the price's currency.
    #[must_use]
    pub const fn cost_at(self, price_per_m3: f64) -> f64 {
        self.m3() * price_per_m3
    }
}

impl RunTime {
    /// From seconds.
    #[must_use]
    pub const fn from_s(s: f64) -> Self {
        Self(s)
    }

    /// From minutes.
    #[must_use]
    pub const fn from_minutes(minutes: f64) -> Self {
        Self(minutes * 60.0)
    }

    /// In seconds.
    #[must_use]
    pub const fn s(self) -> f64 {
        self.0
    }

    /// In minutes.
    #[must_use]
    pub const fn minutes(self) -> f64 {
        self.0 / 60.0
    }

    /// The shorter of two.
    #[must_use]
    pub const fn min(self, other: Self) -> Self {
        Self(self.0.min(other.0))
    }

    /// Whole seconds, rounded down; a nanosecond of slack keeps 59.999999999 at 60.
    #[must_use]
    pub fn floor_s(self) -> i64 {
        whole((self.0 + 1e-9).floor())
    }

    /// Whole seconds, rounded up, with the same slack.
    #[must_use]
    pub fn ceil_s(self) -> i64 {
        whole((self.0 - 1e-9).ceil())
    }

    /// Whole seconds, rounded to the nearest.
    #[must_use]
    pub fn round_s(self) -> i64 {
        whole(self.0.round())
    }

    /// From whole seconds.
    #[must_use]
    #[allow(clippy::cast_precision_loss)] // run times are far below 2^52 s
    pub const fn from_whole_s(s: i64) -> Self {
        Self(s as f64)
    }
}

/// A float without fraction as an integer, a century of seconds at most: a rate near 0 must not overflow a clock.
#[allow(clippy::cast_possible_truncation)] // clamped just before
fn whole(x: f64) -> i64 {
    x.clamp(-3.2e9, 3.2e9) as i64
}

impl Add for Depth {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(self.0 + other.0)
    }
}

impl AddAssign for Depth {
    fn add_assign(&mut self, other: Self) {
        self.0 += other.0;
    }
}

impl Sub for Depth {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        Self(self.0 - other.0)
    }
}

impl SubAssign for Depth {
    fn sub_assign(&mut self, other: Self) {
        self.0 -= other.0;
    }
}

impl Neg for Depth {
    type Output = Self;
    fn neg(self) -> Self {
        Self(-self.0)
    }
}

impl Sum for Depth {
    fn sum<I: Iterator<Item = Self>>(items: I) -> Self {
        items.fold(Self::ZERO, Add::add)
    }
}

impl Mul<f64> for Depth {
    type Output = Self;
    fn mul(self, factor: f64) -> Self {
        Self(self.0 * factor)
    }
}

impl Div<f64> for Depth {
    type Output = Self;
    fn div(self, divisor: f64) -> Self {
        Self(self.0 / divisor)
    }
}

impl Div for Depth {
    type Output = f64;
    fn div(self, other: Self) -> f64 {
        self.0 / other.0
    }
}

impl Div<Rate> for Depth {
    type Output = RunTime;
    fn div(self, rate: Rate) -> RunTime {
        RunTime(self.0 / rate.0 * 3600.0)
    }
}

impl Mul<Area> for Depth {
    type Output = Volume;
    fn mul(self, area: Area) -> Volume {
        Volume(self.0 * area.0)
    }
}

impl Sub for Volume {
    type Output = Self;
    fn sub(self, rhs: Self) -> Self {
        Self(self.0 - rhs.0)
    }
}

impl Add for Volume {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(self.0 + other.0)
    }
}

impl Sum for Volume {
    fn sum<I: Iterator<Item = Self>>(items: I) -> Self {
        items.fold(Self::default(), Add::add)
    }
}

impl Sub for Rate {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        Self(self.0 - other.0)
    }
}

impl Div for Rate {
    type Output = f64;
    fn div(self, other: Self) -> f64 {
        self.0 / other.0
    }
}

impl Mul<RunTime> for Rate {
    type Output = Depth;
    fn mul(self, time: RunTime) -> Depth {
        Depth(self.0 * time.0 / 3600.0)
    }
}

/// How many things there are, for sums and for people; lists here are short.
pub(crate) fn count(n: usize) -> u32 {
    u32::try_from(n).unwrap_or(u32::MAX)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn half_an_inch_at_an_inch_an_hour_takes_half_an_hour() {
        let time = Depth::from_mm(12.7) / Rate::from_mm_h(25.4);
        assert!((time.minutes() - 30.0).abs() < 1e-12);
    }

    #[test]
    fn whole_times_rounds_down() {
        let mm = Depth::from_mm;
        assert_eq!(mm(12.0).whole_times(mm(5.0)), 2);
        assert_eq!(mm(3.0).whole_times(mm(5.0)), 0);
        assert_eq!(mm(3.0).whole_times(mm(0.0)), 0);
    }

    #[test]
    fn a_millimetre_on_a_square_metre_is_a_litre() {
        assert!(((Depth::from_mm(1.0) * Area::from_m2(1.0)).l() - 1.0).abs() < 1e-12);
    }
}
