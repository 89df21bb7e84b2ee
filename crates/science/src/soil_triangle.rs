//! The texture triangle: the class of a soil by its shares of sand, silt and clay.
//!
//! # References
//! USDA Soil Science Division Staff (2017), *Soil Survey Manual*, Handbook 18, chapter 3, definitions of the twelve classes (from memory).

use crate::soil::Texture;

/// Greatest distance from a border, per cent, within which a share counts as on it: sums of decimal figures miss by less.
const ON_THE_BORDER: f64 = 1e-9;

/// The class of a soil by its shares of sand and clay, per cent of the mineral part; the rest is silt. `None` where a share is negative or no
/// number, or both together exceed 100.
///
/// # Example
/// ```
/// use science::soil::Texture;
/// use science::soil_triangle::texture;
/// assert_eq!(texture(40.0, 20.0), Some(Texture::Loam));
/// assert_eq!(texture(60.0, 50.0), None);
/// ```
#[must_use]
pub fn texture(sand_pct: f64, clay_pct: f64) -> Option<Texture> {
    let silt = 100.0 - sand_pct - clay_pct;
    if !(sand_pct >= 0.0 && clay_pct >= 0.0 && silt >= -ON_THE_BORDER) {
        return None;
    }
    let (sand, clay) = (sand_pct, clay_pct);
    let (below, at_least) = (
        |x: f64, limit: f64| x < limit - ON_THE_BORDER,
        |x: f64, limit: f64| x >= limit - ON_THE_BORDER,
    );
    // In the manual's order but for the fine classes, which go first: what is left needs fewer limits.
    let class = if at_least(clay, 40.0) {
        if at_least(silt, 40.0) {
            Texture::SiltyClay
        } else if sand > 45.0 + ON_THE_BORDER {
            Texture::SandyClay
        } else {
            Texture::Clay
        }
    } else if at_least(clay, 35.0) && sand > 45.0 + ON_THE_BORDER {
        Texture::SandyClay
    } else if at_least(clay, 27.0) {
        if sand > 45.0 + ON_THE_BORDER {
            Texture::SandyClayLoam
        } else if sand > 20.0 + ON_THE_BORDER {
            Texture::ClayLoam
        } else {
            Texture::SiltyClayLoam
        }
    } else if below(silt + 1.5 * clay, 15.0) {
        Texture::Sand
    } else if below(silt + 2.0 * clay, 30.0) {
        Texture::LoamySand
    } else if at_least(silt, 80.0) && below(clay, 12.0) {
        Texture::Silt
    } else if at_least(silt, 50.0) {
        Texture::SiltLoam
    } else if at_least(clay, 20.0) && below(silt, 28.0) {
        Texture::SandyClayLoam
    } else if at_least(clay, 7.0) && at_least(silt, 28.0) && sand <= 52.0 + ON_THE_BORDER {
        Texture::Loam
    } else {
        Texture::SandyLoam
    };
    Some(class)
}

/// Sand, silt and clay in the middle of a class's area of the triangle, per cent: Saxton and Rawls (2006), table 3 (from memory), where silt
/// is drawn from its wet corner.
#[must_use]
pub const fn middle_pct(texture: Texture) -> [f64; 3] {
    let (sand, clay) = match texture {
        Texture::Sand => (88.0, 5.0),
        Texture::LoamySand => (80.0, 5.0),
        Texture::SandyLoam => (65.0, 10.0),
        Texture::Loam => (40.0, 20.0),
        Texture::SiltLoam => (20.0, 15.0),
        Texture::Silt => (10.0, 5.0),
        Texture::SandyClayLoam => (60.0, 25.0),
        Texture::ClayLoam => (30.0, 35.0),
        Texture::SiltyClayLoam => (10.0, 35.0),
        Texture::SandyClay => (50.0, 40.0),
        Texture::SiltyClay => (10.0, 45.0),
        Texture::Clay => (25.0, 50.0),
    };
    [sand, 100.0 - sand - clay, clay]
}

/// The corners of a class's area of the triangle, sand and clay in per cent, in order round it.
///
/// They are the meeting points of the borders that [`texture`] tests, for drawing.
#[must_use]
pub const fn area(texture: Texture) -> &'static [[f64; 2]] {
    match texture {
        Texture::Sand => &[[100.0, 0.0], [90.0, 10.0], [85.0, 0.0]],
        Texture::LoamySand => &[[90.0, 10.0], [85.0, 15.0], [70.0, 0.0], [85.0, 0.0]],
        Texture::SandyLoam => &[
            [85.0, 15.0],
            [80.0, 20.0],
            [52.0, 20.0],
            [52.0, 7.0],
            [43.0, 7.0],
            [50.0, 0.0],
            [70.0, 0.0],
        ],
        Texture::Loam => &[
            [52.0, 20.0],
            [45.0, 27.0],
            [23.0, 27.0],
            [43.0, 7.0],
            [52.0, 7.0],
        ],
        Texture::SiltLoam => &[
            [50.0, 0.0],
            [23.0, 27.0],
            [0.0, 27.0],
            [0.0, 12.0],
            [8.0, 12.0],
            [20.0, 0.0],
        ],
        Texture::Silt => &[[20.0, 0.0], [8.0, 12.0], [0.0, 12.0], [0.0, 0.0]],
        Texture::SandyClayLoam => &[
            [80.0, 20.0],
            [65.0, 35.0],
            [45.0, 35.0],
            [45.0, 27.0],
            [52.0, 20.0],
        ],
        Texture::ClayLoam => &[[45.0, 27.0], [45.0, 40.0], [20.0, 40.0], [20.0, 27.0]],
        Texture::SiltyClayLoam => &[[20.0, 27.0], [20.0, 40.0], [0.0, 40.0], [0.0, 27.0]],
        Texture::SandyClay => &[[65.0, 35.0], [45.0, 55.0], [45.0, 35.0]],
        Texture::SiltyClay => &[[20.0, 40.0], [0.0, 60.0], [0.0, 40.0]],
        Texture::Clay => &[
            [45.0, 40.0],
            [45.0, 55.0],
            [0.0, 100.0],
            [0.0, 60.0],
            [20.0, 40.0],
        ],
    }
}
