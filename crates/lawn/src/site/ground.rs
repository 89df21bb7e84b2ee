//! What a zone's soil holds, by the tables that its manager chose: storage and intake by one or by the other, never mixed.

use science::green_ampt;
use science::soil::Texture;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Zone;
use crate::measure::soil::{Layer, Lies, SoilShares};

/// Which tables say what a soil holds and drinks where it was not measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SoilFigures {
    /// The Irrigation Association's storage, intake and surface accumulation.
    #[default]
    IrrigationAssociation,
    /// Storage by Saxton and Rawls (2006), passes by Green and Ampt with the soil of Rawls and others (1983).
    SaxtonRawls,
}

impl SoilFigures {
    pub(super) fn is_usual(&self) -> bool {
        *self == Self::default()
    }

    /// Available water of a soil, mm per mm, and where it comes from.
    #[must_use]
    pub fn available(self, soil: Texture, shares: Option<SoilShares>) -> (f64, &'static str) {
        match self {
            Self::IrrigationAssociation => (soil.available_mm_per_mm(), soil.storage_source()),
            Self::SaxtonRawls => {
                let water = shares_of(soil, shares).water();
                (water.available_mm_per_mm(), "Saxton and Rawls 2006")
            }
        }
    }
}

/// The shares of a soil: as told if they are of its class, else the middle of its class.
fn shares_of(soil: Texture, told: Option<SoilShares>) -> SoilShares {
    told.filter(|shares| shares.texture() == soil)
        .unwrap_or(SoilShares::middle(soil))
}

/// Storage over the roots of a soil in layers.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Layered {
    /// How deep roots can go, mm: to a ledge.
    pub depth_mm: f64,
    /// Available water over the depth, as a share of what the topsoil alone would hold.
    pub storage: f64,
    /// Water content at field capacity over the depth, share of the volume.
    pub field_capacity: f64,
}

impl Zone {
    /// Available water of the topsoil by the zone's tables, mm per mm, and where it comes from.
    #[must_use]
    pub fn topsoil_available(&self) -> (f64, &'static str) {
        self.soil_figures.available(self.soil, self.soil_shares)
    }

    /// The soil as Green and Ampt see it, and its water content at field capacity.
    #[must_use]
    pub fn wetting_front(&self) -> (green_ampt::Soil, f64) {
        let water = shares_of(self.soil, self.soil_shares).water();
        (green_ampt::Soil::of(self.soil), water.field_capacity)
    }

    /// What layers make of roots of a depth, mm.
    #[must_use]
    pub fn layered(&self, roots_mm: f64) -> Layered {
        let ledge = self.layers.iter().find(|l| l.lies == Lies::Ledge);
        let depth_mm = ledge.map_or(roots_mm, |l| roots_mm.min(l.from_mm));
        let (top, _) = self.topsoil_available();
        let of = |lies: Lies| match lies {
            Lies::Soil(soil) => {
                let (available, _) = self.soil_figures.available(soil, None);
                (available, SoilShares::middle(soil).water().field_capacity)
            }
            Lies::Ledge => (0.0, 0.0),
        };
        let topsoil = (top, self.wetting_front().1);
        let (mut available, mut content) = (0.0, 0.0);
        let mut above = (0.0, topsoil);
        let ends = self.layers.iter().map(|l: &Layer| (l.from_mm, of(l.lies)));
        for (to, next) in ends.chain([(f64::INFINITY, topsoil)]) {
            let (from, (holds, full)) = above;
            let thick = (to.min(depth_mm) - from).max(0.0);
            available += holds * thick;
            content += full * thick;
            above = (to, next);
        }
        Layered {
            depth_mm,
            storage: available / (top * depth_mm),
            field_capacity: content / depth_mm,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use science::sprinkler::Kind;
    use science::turf::Grass;

    fn zone(layers: &[(f64, Lies)]) -> Zone {
        let mut zone = Zone::new("Field", Grass::TallFescue, Texture::Loam, Kind::Rotor);
        zone.layers = layers
            .iter()
            .map(|(from_mm, lies)| Layer {
                from_mm: *from_mm,
                lies: *lies,
            })
            .collect();
        zone
    }

    #[test]
    fn thin_topsoil_over_sand_holds_what_its_layers_hold() {
        let all_loam = zone(&[]).layered(300.0);
        assert!((all_loam.storage - 1.0).abs() < 1e-12);
        assert_eq!(all_loam.depth_mm, 300.0);
        // 100 mm of loam at 0.17, 200 mm of sand at 0.06: 29 mm, where loam alone would hold 51.
        let over_sand = zone(&[(100.0, Lies::Soil(Texture::Sand))]).layered(300.0);
        assert!((over_sand.storage * 0.17 * 300.0 - 29.0).abs() < 1e-9);
        assert!(over_sand.field_capacity < all_loam.field_capacity);
        // Below the roots nothing counts; a ledge ends them.
        let deep = zone(&[(400.0, Lies::Soil(Texture::Sand))]).layered(300.0);
        assert!((deep.storage - 1.0).abs() < 1e-12);
        let ledge =
            zone(&[(100.0, Lies::Soil(Texture::Sand)), (150.0, Lies::Ledge)]).layered(300.0);
        assert_eq!(ledge.depth_mm, 150.0);
        assert!((ledge.storage * 0.17 * 150.0 - 20.0).abs() < 1e-9);
    }

    #[test]
    fn one_table_or_the_other_says_what_a_soil_holds() {
        let mut zone = zone(&[]);
        assert_eq!(
            zone.topsoil_available(),
            (0.17, "Irrigation Association 2005")
        );
        zone.soil_figures = SoilFigures::SaxtonRawls;
        let (available, table) = zone.topsoil_available();
        // Their table 3: loam 0.14, from memory.
        assert!((available - 0.14).abs() < 0.006);
        assert_eq!(table, "Saxton and Rawls 2006");
        // Shares of another class are not its own.
        zone.soil_shares = Some(SoilShares::middle(Texture::Sand));
        assert_eq!(zone.topsoil_available().0, available);
    }
}
