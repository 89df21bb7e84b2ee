//! What forms offer: grasses, soils, sprinklers, with their first figures; and the ranges of every figure.

use science::soil::Texture;
use science::soil_triangle;
use science::sprinkler::Kind;
use science::turf::{Grass, Season};
use serde::Serialize;
use utoipa::ToSchema;

use crate::new_grass::method::Method;
use crate::ranges::{self, Range};
use crate::weather::foreign::{Figure, Unit};

/// A grass of the catalogue.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct GrassEntry {
    /// Key.
    pub key: Grass,
    /// Name for people.
    pub name: &'static str,
    /// Cool or warm season.
    pub season: Season,
    /// Effective root depth low, middle, high, mm.
    pub root_depth_mm: [f64; 3],
    /// Days of drought dormancy usually survived.
    pub dormancy_days: u16,
    /// Usual mowing height low and high, mm.
    pub mowing_mm: [f64; 2],
    /// Ways in which it is made anew.
    pub methods: Vec<Method>,
}

/// A soil texture of the catalogue.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SoilEntry {
    /// Key.
    pub key: Texture,
    /// Name for people.
    pub name: &'static str,
    /// Available water, mm/mm.
    pub available_mm_per_mm: f64,
    /// Basic intake rate, mm/h.
    pub intake_mm_h: f64,
    /// The corners of its area of the texture triangle: sand and clay, %.
    pub area_pct: &'static [[f64; 2]],
}

/// A sprinkler kind of the catalogue.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SprinklerEntry {
    /// Key.
    pub key: Kind,
    /// Name for people.
    pub name: &'static str,
    /// Precipitation rate low, middle, high, mm/h.
    pub rate_mm_h: [f64; 3],
    /// Uniformity low, middle, high.
    pub evenness: [f64; 3],
    /// Whether a person carries the water.
    pub by_hand: bool,
}

/// A figure of weather files with the units that it may have.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FigureEntry {
    /// Key.
    pub key: Figure,
    /// Units, the most usual first.
    pub units: &'static [Unit],
}

/// Everything that forms offer.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Catalogue {
    /// Grasses, cool-season ones first.
    pub grasses: Vec<GrassEntry>,
    /// Soils, coarse to fine.
    pub soils: Vec<SoilEntry>,
    /// Sprinkler kinds.
    pub sprinklers: Vec<SprinklerEntry>,
    /// Figures of weather files.
    pub weather_figures: Vec<FigureEntry>,
    /// Ranges of every figure.
    pub ranges: Vec<Range>,
}

/// The catalogue.
#[must_use]
pub fn catalogue() -> Catalogue {
    Catalogue {
        grasses: Grass::ALL
            .into_iter()
            .map(|key| {
                let p = key.profile();
                GrassEntry {
                    key,
                    name: p.name,
                    season: p.season,
                    root_depth_mm: p.root_depth_mm,
                    dormancy_days: p.dormancy_days,
                    mowing_mm: p.mowing_mm,
                    methods: Method::of(key),
                }
            })
            .collect(),
        soils: Texture::ALL
            .into_iter()
            .map(|key| SoilEntry {
                key,
                name: key.name(),
                available_mm_per_mm: key.available_mm_per_mm(),
                intake_mm_h: key.intake_mm_h(),
                area_pct: soil_triangle::area(key),
            })
            .collect(),
        sprinklers: Kind::ALL
            .into_iter()
            .map(|key| {
                let d = key.defaults();
                SprinklerEntry {
                    key,
                    name: d.name,
                    rate_mm_h: d.rate_mm_h,
                    evenness: d.evenness,
                    by_hand: matches!(key, Kind::Portable),
                }
            })
            .collect(),
        weather_figures: Figure::ALL
            .into_iter()
            .map(|(key, _, units)| FigureEntry { key, units })
            .collect(),
        ranges: ranges::ALL.to_vec(),
    }
}
