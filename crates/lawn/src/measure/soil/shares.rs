//! Shares of sand, silt and clay in a soil.

use science::saxton_rawls::{MOST_CLAY_PCT, SoilWater, USUAL_ORGANIC_PCT, soil_water};
use science::soil::Texture;
use science::soil_triangle::{middle_pct, texture};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::ranges;

/// Shares of the mineral part, %; what is neither sand nor clay is silt.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SoilShares {
    /// Sand, %.
    pub sand_pct: f64,
    /// Clay, %.
    pub clay_pct: f64,
    /// Organic matter, % by weight; absent: 2.5.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub organic_pct: Option<f64>,
}

impl SoilShares {
    /// In the middle of a class.
    #[must_use]
    pub const fn middle(class: Texture) -> Self {
        let [sand_pct, _, clay_pct] = middle_pct(class);
        Self {
            sand_pct,
            clay_pct,
            organic_pct: None,
        }
    }

    /// Checks the shares; `path` goes before a field's name.
    ///
    /// # Errors
    /// The field that does not hold.
    pub fn validate(&self, path: &str) -> Result<(), Invalid> {
        Invalid::unless_within(format!("{path}sand_pct"), ranges::SAND, self.sand_pct)?;
        Invalid::unless_within(format!("{path}clay_pct"), ranges::CLAY, self.clay_pct)?;
        if let Some(organic) = self.organic_pct {
            Invalid::unless_within(format!("{path}organic_pct"), ranges::ORGANIC, organic)?;
        }
        match texture(self.sand_pct, self.clay_pct) {
            Some(_) => Ok(()),
            None => Err(Invalid::new(
                format!("{path}clay_pct"),
                format!(
                    "{} % sand and {} % clay are more than 100 %",
                    self.sand_pct, self.clay_pct
                ),
            )),
        }
    }

    /// The class; of valid shares.
    #[must_use]
    pub fn texture(&self) -> Texture {
        texture(self.sand_pct, self.clay_pct).unwrap_or(Texture::Loam)
    }

    /// Water contents by Saxton and Rawls (2006). Where they do not hold (heavier clay, sand without organic matter), those of the middle of the
    /// class.
    #[must_use]
    pub fn water(&self) -> SoilWater {
        let organic = self.organic_pct.unwrap_or(USUAL_ORGANIC_PCT);
        let own = soil_water(self.sand_pct, self.clay_pct.min(MOST_CLAY_PCT), organic);
        let [sand, _, clay] = middle_pct(self.texture());
        own.or_else(|| soil_water(sand, clay, USUAL_ORGANIC_PCT))
            .unwrap_or(SoilWater {
                wilting_point: 0.14,
                field_capacity: 0.28,
                saturation: None,
                ks_mm_h: None,
            })
    }
}
