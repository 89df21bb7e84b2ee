//! The soil's texture by the squeeze: a handful, moist as putty, pressed to a ball and pushed out between thumb and finger to a ribbon.
//!
//! After Thien (1979), "A flow diagram for teaching texture-by-feel analysis", Journal of Agronomic Education 8 (from memory).

use science::soil::Texture;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How the ball behaves between thumb and finger.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Ball {
    /// It falls apart: there is no ball.
    FallsApart,
    /// A ball, but no ribbon.
    NoRibbon,
    /// The ribbon breaks below 25 mm.
    ShortRibbon,
    /// It breaks between 25 and 50 mm.
    MiddlingRibbon,
    /// It is 50 mm and longer.
    LongRibbon,
}

/// How a little of it, made very wet, feels under a finger in the palm.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Feel {
    /// Sand is what one feels.
    Gritty,
    /// Like flour.
    Smooth,
    /// Neither more than the other, or not tried.
    Neither,
}

/// The texture that a squeeze tells. The feel is not asked for where there is no ribbon.
///
/// ```
/// use lawn::measure::squeeze::{Ball, Feel, texture};
/// use science::soil::Texture;
/// assert_eq!(texture(Ball::ShortRibbon, Feel::Neither), Texture::Loam);
/// ```
#[must_use]
pub const fn texture(ball: Ball, feel: Feel) -> Texture {
    match (ball, feel) {
        (Ball::FallsApart, _) => Texture::Sand,
        (Ball::NoRibbon, _) => Texture::LoamySand,
        (Ball::ShortRibbon, Feel::Gritty) => Texture::SandyLoam,
        (Ball::ShortRibbon, Feel::Smooth) => Texture::SiltLoam,
        (Ball::ShortRibbon, Feel::Neither) => Texture::Loam,
        (Ball::MiddlingRibbon, Feel::Gritty) => Texture::SandyClayLoam,
        (Ball::MiddlingRibbon, Feel::Smooth) => Texture::SiltyClayLoam,
        (Ball::MiddlingRibbon, Feel::Neither) => Texture::ClayLoam,
        (Ball::LongRibbon, Feel::Gritty) => Texture::SandyClay,
        (Ball::LongRibbon, Feel::Smooth) => Texture::SiltyClay,
        (Ball::LongRibbon, Feel::Neither) => Texture::Clay,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The diagram ends in eleven classes, each in one place; silt, which it leaves out, feels like silt loam.
    #[test]
    fn every_class_of_the_diagram_is_reached_and_clay_grows_with_the_ribbon() {
        let feels = [Feel::Gritty, Feel::Neither, Feel::Smooth];
        let ribbons = [Ball::ShortRibbon, Ball::MiddlingRibbon, Ball::LongRibbon];
        let mut reached = vec![
            texture(Ball::FallsApart, Feel::Neither),
            texture(Ball::NoRibbon, Feel::Neither),
        ];
        for feel in feels {
            reached.extend(ribbons.map(|ball| texture(ball, feel)));
            // A longer ribbon is more clay, and lets less water in.
            let intake = ribbons.map(|ball| texture(ball, feel).intake_mm_h());
            assert!(
                intake[0] > intake[1] && intake[1] >= intake[2],
                "{feel:?}: {intake:?}"
            );
        }
        for class in Texture::ALL {
            let times = reached.iter().filter(|t| **t == class).count();
            assert_eq!(times, usize::from(class != Texture::Silt), "{class:?}");
        }
    }
}
