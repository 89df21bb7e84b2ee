//! Soils by USDA texture class: how much they hold, how fast they drink, how much may stand on them.
//!
//! Seven classes come from the Irrigation Association's tables (*Landscape Irrigation Scheduling and Water Management*, 2005; from
//! memory): available water, basic intake rate, allowable surface accumulation, allowable depletion. Intake and accumulation belong
//! together. The other five take storage from FAO-56 table 19 (middle of its range) or Saxton and Rawls (2006), and the rest from
//! their finer neighbour among the seven, see [`Texture::intake_neighbour`].

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::curve_number::HydrologicGroup;
use crate::units::MM_PER_INCH;

/// USDA texture class.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the variants are the classes' own names
pub enum Texture {
    Sand,
    LoamySand,
    SandyLoam,
    Loam,
    SiltLoam,
    Silt,
    SandyClayLoam,
    ClayLoam,
    SiltyClayLoam,
    SandyClay,
    SiltyClay,
    Clay,
}

/// Least intake rate that plans use, mm/h; below it the soil wants repair, not a schedule (common practice, no source).
pub const LEAST_INTAKE_MM_H: f64 = 0.5;

impl Texture {
    /// All classes, coarse to fine.
    pub const ALL: [Self; 12] = [
        Self::Sand,
        Self::LoamySand,
        Self::SandyLoam,
        Self::Loam,
        Self::SiltLoam,
        Self::Silt,
        Self::SandyClayLoam,
        Self::ClayLoam,
        Self::SiltyClayLoam,
        Self::SandyClay,
        Self::SiltyClay,
        Self::Clay,
    ];

    /// English name as shown to people.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Sand => "Sand",
            Self::LoamySand => "Loamy sand",
            Self::SandyLoam => "Sandy loam",
            Self::Loam => "Loam",
            Self::SiltLoam => "Silt loam",
            Self::Silt => "Silt",
            Self::SandyClayLoam => "Sandy clay loam",
            Self::ClayLoam => "Clay loam",
            Self::SiltyClayLoam => "Silty clay loam",
            Self::SandyClay => "Sandy clay",
            Self::SiltyClay => "Silty clay",
            Self::Clay => "Clay",
        }
    }

    /// The class of the Irrigation Association's table whose intake, accumulation and allowable depletion this class uses:
    /// itself, or its finer neighbour.
    #[must_use]
    pub const fn intake_neighbour(self) -> Self {
        match self {
            Self::SiltLoam | Self::SandyClayLoam => Self::ClayLoam,
            Self::Silt | Self::SiltyClayLoam => Self::SiltyClay,
            Self::SandyClay => Self::Clay,
            own => own,
        }
    }

    /// Available water, mm per mm of soil (field capacity less wilting point).
    #[must_use]
    pub const fn available_mm_per_mm(self) -> f64 {
        match self {
            Self::Sand => 0.06,
            Self::LoamySand => 0.08,
            Self::SandyLoam => 0.12,
            Self::ClayLoam => 0.18,
            Self::Loam | Self::SiltyClay | Self::Clay => 0.17,
            Self::SiltLoam => 0.16,
            Self::Silt => 0.18,
            Self::SiltyClayLoam => 0.155,
            Self::SandyClayLoam => 0.10,
            Self::SandyClay => 0.11,
        }
    }

    /// Where [`Self::available_mm_per_mm`] comes from.
    #[must_use]
    pub const fn storage_source(self) -> &'static str {
        match self {
            Self::SiltLoam | Self::Silt | Self::SiltyClayLoam => "FAO-56 table 19",
            Self::SandyClayLoam | Self::SandyClay => "Saxton and Rawls 2006",
            _ => "Irrigation Association 2005",
        }
    }

    /// Basic intake rate, mm/h.
    #[must_use]
    pub fn intake_mm_h(self) -> f64 {
        let inches = match self.intake_neighbour() {
            Self::Sand => 0.60,
            Self::LoamySand => 0.50,
            Self::SandyLoam => 0.40,
            Self::Loam => 0.35,
            Self::ClayLoam => 0.20,
            Self::SiltyClay => 0.15,
            _ => 0.10,
        };
        inches * MM_PER_INCH
    }

    /// Allowable surface accumulation, mm, on a slope in per cent: what may stand on the surface before it runs.
    #[must_use]
    pub fn surface_accumulation_mm(self, slope_pct: f64) -> f64 {
        let by_slope = match self.intake_neighbour() {
            Self::Sand => [0.40, 0.35, 0.30, 0.25],
            Self::LoamySand => [0.36, 0.30, 0.26, 0.22],
            Self::SandyLoam => [0.33, 0.29, 0.24, 0.20],
            Self::Loam => [0.30, 0.25, 0.21, 0.17],
            Self::ClayLoam => [0.26, 0.22, 0.18, 0.15],
            Self::SiltyClay => [0.23, 0.19, 0.16, 0.13],
            _ => [0.20, 0.15, 0.10, 0.10],
        };
        let class = if slope_pct <= 3.0 {
            0
        } else if slope_pct <= 6.0 {
            1
        } else if slope_pct <= 12.0 {
            2
        } else {
            3
        };
        by_slope[class] * MM_PER_INCH
    }

    /// Hydrologic soil group by texture: TR-55 (1986), appendix A, from memory of that table.
    #[must_use]
    pub const fn hydrologic_group(self) -> HydrologicGroup {
        match self {
            Self::Sand | Self::LoamySand | Self::SandyLoam => HydrologicGroup::A,
            // The table has no silt: with silt loam, by judgement.
            Self::SiltLoam | Self::Loam | Self::Silt => HydrologicGroup::B,
            Self::SandyClayLoam => HydrologicGroup::C,
            Self::ClayLoam
            | Self::SiltyClayLoam
            | Self::SandyClay
            | Self::SiltyClay
            | Self::Clay => HydrologicGroup::D,
        }
    }

    /// Allowable depletion by soil, 0 to 1 (Irrigation Association).
    #[must_use]
    pub const fn allowable_depletion(self) -> f64 {
        match self.intake_neighbour() {
            Self::Clay => 0.30,
            Self::SiltyClay | Self::ClayLoam => 0.40,
            Self::Sand => 0.60,
            _ => 0.50,
        }
    }
}
