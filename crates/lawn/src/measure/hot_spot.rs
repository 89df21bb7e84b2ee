//! Places within a zone that dry out before the rest of it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Why a place dries out first (common practice, no source).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum HotSpot {
    /// Along paving, gravel or a wall.
    Paving,
    /// A slope that faces the sun.
    SunnySlope,
    /// Just outside a tree's drip line, where its roots drink too.
    TreeEdge,
    /// Little soil over rubble or rock.
    ThinSoil,
    /// A corner in the wind.
    WindyCorner,
}

impl HotSpot {
    /// Its name in files.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Paving => "paving",
            Self::SunnySlope => "sunny_slope",
            Self::TreeEdge => "tree_edge",
            Self::ThinSoil => "thin_soil",
            Self::WindyCorner => "windy_corner",
        }
    }
}
