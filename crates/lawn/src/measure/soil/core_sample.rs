//! Cores pulled out of the turf: how deep the roots go, and what lies below.

use science::soil::Texture;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Says, measured};
use crate::invalid::Invalid;
use crate::quantity::{Depth, count};
use crate::ranges;
use crate::sourced::Source;

/// What a layer is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Lies {
    /// Soil of a texture.
    Soil(Texture),
    /// Rock, rubble, a slab: nothing roots in it.
    Ledge,
}

/// A layer below the topsoil, from a depth down to the next.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Layer {
    /// Where it begins, mm below the grass.
    pub from_mm: f64,
    /// What it is of.
    pub lies: Lies,
}

/// Most layers below the topsoil.
const MOST_LAYERS: usize = 8;

/// Checks layers: in order, each at least 5 mm thick, nothing below a ledge.
///
/// # Errors
/// The field that does not hold, such as `layers[1].from_mm`.
pub fn validate_layers(path: &str, layers: &[Layer]) -> Result<(), Invalid> {
    if layers.len() > MOST_LAYERS {
        return Err(Invalid::new(
            format!("{path}layers"),
            format!("at most {MOST_LAYERS} layers below the topsoil"),
        ));
    }
    let mut above = 0.0;
    for (i, layer) in layers.iter().enumerate() {
        let at = format!("{path}layers[{i}].from_mm");
        Invalid::unless_within(&at, ranges::LAYER, layer.from_mm)?;
        if layer.from_mm < above + ranges::LAYER.min {
            return Err(Invalid::new(
                at,
                "each layer begins below the one above, by a finger at least",
            ));
        }
        if i > 0 && layers[i - 1].lies == Lies::Ledge {
            return Err(Invalid::new(
                at,
                "nothing is told of what lies below a ledge",
            ));
        }
        above = layer.from_mm;
    }
    Ok(())
}

/// Cores of a zone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CoreSample {
    /// How deep most of the roots go in each core, mm; 1 to 20 cores.
    pub roots_mm: Vec<f64>,
    /// What lies below the topsoil, from the top down; none: the same soil all down.
    #[serde(default)]
    pub layers: Vec<Layer>,
}

/// Most cores of a test.
const MOST_CORES: usize = 20;
/// How far the depth by one core could be off, share; by several less, as the root of their number, but never below a tenth
/// (common practice, no source).
const ONE_CORE_OFF: f64 = 0.20;
const LEAST_OFF: f64 = 0.10;

impl CoreSample {
    pub(super) fn validate(&self) -> Result<(), Invalid> {
        if self.roots_mm.is_empty() || self.roots_mm.len() > MOST_CORES {
            return Err(Invalid::new("roots_mm", format!("1 to {MOST_CORES} cores")));
        }
        for (i, depth) in self.roots_mm.iter().enumerate() {
            Invalid::unless_within(format!("roots_mm[{i}]"), ranges::ROOT_DEPTH, *depth)?;
        }
        validate_layers("", &self.layers)
    }

    pub(super) fn name(&self) -> String {
        match self.roots_mm.len() {
            1 => "pulled core".to_owned(),
            n => format!("{n} pulled cores"),
        }
    }

    pub(super) fn says(&self, source: Source) -> Says {
        let n = f64::from(count(self.roots_mm.len().max(1)));
        let mean = self.roots_mm.iter().sum::<f64>() / n;
        let apart = self
            .roots_mm
            .iter()
            .map(|d| (d - mean).powi(2))
            .sum::<f64>();
        let error = 2.0 * (apart / n / n).sqrt() / mean;
        let off = error.max((ONE_CORE_OFF / n.sqrt()).max(LEAST_OFF)).min(0.6);
        Says {
            root_depth: Some(measured(mean, off, ranges::ROOT_DEPTH, source).map(Depth::from_mm)),
            layers: Some(self.layers.clone()),
            ..Says::default()
        }
    }
}
