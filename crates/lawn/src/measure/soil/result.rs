//! What a soil test says, for people.

use jiff::civil::Date;
use science::soil::Texture;
use science::water_drop::Repellency;
use serde::Serialize;
use utoipa::ToSchema;

use super::{Layer, RingResult, SoilShares, SoilTest};
use crate::quantity::{Depth, Rate};
use crate::sourced::Sourced;

/// A texture, and what such soil holds and drinks by either table.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TextureResult {
    /// The class.
    pub texture: Texture,
    /// Sand, silt and clay, %; `null` where the hand told the class alone.
    pub shares_pct: Option<[f64; 3]>,
    /// Available water by the Irrigation Association's table or the nearest that it has, mm per mm.
    pub table_mm_per_mm: f64,
    /// Intake by that table, mm/h.
    pub table_intake_mm_h: f64,
    /// Wilting point by Saxton and Rawls, share of the volume.
    pub wilting_point: f64,
    /// Field capacity by them.
    pub field_capacity: f64,
    /// Available water by them, mm per mm.
    pub available_mm_per_mm: f64,
    /// Saturated conductivity by them, mm/h: how fast water passes when all pores are full, which is not the intake rate.
    pub ks_mm_h: Option<f64>,
}

impl TextureResult {
    fn of(texture: Texture, shares: Option<SoilShares>) -> Self {
        let water = shares.unwrap_or(SoilShares::middle(texture)).water();
        Self {
            texture,
            shares_pct: shares.map(|s| [s.sand_pct, 100.0 - s.sand_pct - s.clay_pct, s.clay_pct]),
            table_mm_per_mm: texture.available_mm_per_mm(),
            table_intake_mm_h: texture.intake_mm_h(),
            wilting_point: water.wilting_point,
            field_capacity: water.field_capacity,
            available_mm_per_mm: water.available_mm_per_mm(),
            ks_mm_h: water.ks_mm_h,
        }
    }
}

/// What a test says; each part `null` where it says nothing of it.
#[derive(Debug, Clone, PartialEq, Default, Serialize, ToSchema)]
pub struct SoilResult {
    /// Texture.
    pub texture: Option<TextureResult>,
    /// Each ring so far.
    pub rings: Vec<RingResult>,
    /// Intake rate.
    pub intake_mm_h: Option<Sourced<Rate>>,
    /// Minutes to the first puddle or runoff.
    pub minutes_to_runoff: Option<Sourced<f64>>,
    /// Minutes until it had gone in.
    pub soak_minutes: Option<Sourced<f64>>,
    /// Depth of the roots.
    pub root_depth_mm: Option<Sourced<Depth>>,
    /// What lies below the topsoil.
    pub layers: Vec<Layer>,
    /// Whether the ground repels water.
    pub repellency: Option<Repellency>,
}

impl SoilResult {
    /// Of a test on a date; of one that is not finished, what can be said so far.
    #[must_use]
    pub fn of(test: &SoilTest, date: Date) -> Self {
        let rings = match test {
            SoilTest::Ring(rings) => rings.results(),
            _ => Vec::new(),
        };
        if test.validate().is_err() {
            return Self {
                rings,
                ..Self::default()
            };
        }
        let says = test.says(date);
        Self {
            texture: says.texture.map(|t| TextureResult::of(t.texture, t.shares)),
            rings,
            intake_mm_h: says.intake,
            minutes_to_runoff: says.minutes_to_runoff,
            soak_minutes: says.soak_minutes,
            root_depth_mm: says.root_depth,
            layers: says.layers.unwrap_or_default(),
            repellency: says.repellency,
        }
    }
}
