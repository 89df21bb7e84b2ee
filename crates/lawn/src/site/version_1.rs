//! Site documents of version 1: supply and controller were one, nothing was dated.

use serde::Deserialize;
use serde::de::IgnoredAny;

use super::ground::SoilFigures;
use super::{Controller, LateHours, Regime, Site, SiteDocument, Supply, Use, Window, Zone};

/// A document as it was.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Document {
    #[serde(rename = "format")]
    _format: IgnoredAny,
    #[serde(rename = "version")]
    _version: IgnoredAny,
    site: Site,
    #[serde(default)]
    windows: Vec<Window>,
    #[serde(default)]
    supply: SupplyAndController,
    #[serde(default)]
    zones: Vec<Zone>,
}

#[derive(Default, Deserialize)]
#[serde(deny_unknown_fields)]
struct SupplyAndController {
    flow_l_min: Option<f64>,
    step_s: Option<u32>,
    longest_run_min: Option<f64>,
}

impl Document {
    /// The key that came with a later version, if it has any.
    pub(super) fn later_key(&self) -> Option<String> {
        let at = |i: usize, key: &str| format!("zones[{i}].{key}");
        if self.site.normals.is_some() {
            return Some("site.normals".to_owned());
        }
        if self.site.used_as != Use::default() {
            return Some("site.use".to_owned());
        }
        self.zones.iter().enumerate().find_map(|(i, zone)| {
            if !zone.facts.is_empty() {
                return Some(at(i, "facts"));
            }
            let later = [
                ("tests", !zone.tests.is_empty()),
                ("soil_tests", !zone.soil_tests.is_empty()),
                ("seen", !zone.seen.is_empty()),
                ("soil_figures", zone.soil_figures != SoilFigures::default()),
                ("soil_shares", zone.soil_shares.is_some()),
                ("layers", !zone.layers.is_empty()),
                ("repellency", zone.repellency.is_some()),
                ("school", !zone.school.is_water_balance()),
                ("late_hours", zone.late_hours != LateHours::default()),
                ("plants", !zone.plants.is_turf()),
                ("crown_watering", !zone.crown_watering.is_usual()),
                (
                    "regime",
                    matches!(
                        zone.regime,
                        Regime::Dormant | Regime::Recovering | Regime::FillingIn
                    ),
                ),
                ("sown_on", zone.sown_on.is_some()),
                ("new_grass_as", !zone.new_grass_as.is_seed()),
                ("new_grass_hours", zone.new_grass_hours.is_some()),
                ("new_grass_by_hand", zone.new_grass_by_hand),
            ];
            let found = later.into_iter().find(|(_, said)| *said);
            found.map(|(key, _)| at(i, key))
        })
    }

    /// The same in the present version.
    pub(super) fn migrated(self, format: &str, version: u32) -> SiteDocument {
        let usual = Controller::default();
        SiteDocument {
            format: format.to_owned(),
            version,
            site: self.site,
            windows: self.windows,
            rules: super::rules::Rules::default(),
            supply: Supply {
                flow_l_min: self.supply.flow_l_min,
                ..Supply::default()
            },
            controller: Controller {
                step_s: self.supply.step_s.unwrap_or(usual.step_s),
                longest_run_min: self.supply.longest_run_min,
                ..usual
            },
            tariffs: Vec::new(),
            caps: Vec::new(),
            meters: Vec::new(),
            zones: self.zones,
        }
    }
}
