//! Numbers that look random and are a function of what they are asked for: any day can be computed without the days before it.

use statrs::distribution::{ContinuousCDF, Normal};

/// What a draw is for, so that draws of a day do not repeat each other.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Use {
    Slow = 1,
    Fast,
    Wet,
    Amount,
    Cloud,
    Range,
    Damp,
    Wind,
    SeenWet,
    SeenAmount,
    SeenTemperature,
    SeenDamp,
    SeenWind,
}

/// SplitMix64's mixing (Steele, Lea and Flood 2014).
const fn mix(mut z: u64) -> u64 {
    z = z.wrapping_add(0x9E37_79B9_7F4A_7C15);
    z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

/// A share strictly between 0 and 1.
#[allow(clippy::cast_precision_loss)] // 52 bits fit
pub(crate) fn share(seed: u64, day: i32, what: Use, lead: u8) -> f64 {
    let key = u64::from(day.cast_unsigned()) << 16 | u64::from(what as u8) << 8 | u64::from(lead);
    let bits = mix(mix(seed) ^ mix(key)) >> 12;
    (bits as f64 + 0.5) / (1u64 << 52) as f64
}

pub(crate) fn standard() -> Normal {
    Normal::standard()
}

/// A draw of the standard normal distribution.
pub(crate) fn normal(seed: u64, day: i32, what: Use, lead: u8) -> f64 {
    standard().inverse_cdf(share(seed, day, what, lead))
}

/// The standard normal distribution function.
pub(crate) fn phi(x: f64) -> f64 {
    standard().cdf(x)
}

/// Its inverse.
pub(crate) fn probit(p: f64) -> f64 {
    standard().inverse_cdf(p)
}
