//! What of a zone's entries is to be watered in still.

use jiff::civil::DateTime;
use jiff::tz::TimeZone;

use crate::engine::morning::WaterIn;
use crate::engine::slot::Opening;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::record::constraint::{Asks, Constraint};
use crate::record::known::Run;
use crate::site::Zone;

/// Water that is asked in, as a plan finds it.
#[derive(Debug, Clone, PartialEq)]
pub struct Asked {
    /// By when, on the site's clock.
    pub by: DateTime,
    /// What is still to be given.
    pub net: Depth,
    /// The openings within its hours.
    pub openings: Vec<usize>,
}

impl From<&Asked> for WaterIn {
    fn from(asked: &Asked) -> Self {
        Self {
            openings: asked.openings.clone(),
            net: asked.net,
        }
    }
}

/// What of a zone's entries is to be watered in still: runs of the record that began within their hours count.
#[must_use]
pub fn asked<'a>(
    constraints: impl Iterator<Item = &'a Constraint>,
    zone: &Zone,
    model: &ZoneModel,
    runs: &[Run],
    time_zone: &TimeZone,
    openings: &[Opening],
) -> Vec<Asked> {
    let of_entry = |entry: &'a Constraint| {
        let Asks::WaterIn { net_mm } = entry.asks else {
            return None;
        };
        let hours = entry.local(time_zone);
        let given: Depth = runs
            .iter()
            .filter(|run| run.zone == zone.id && hours.contains(&run.began()))
            // What a hose gave without measuring is taken to have done it.
            .map(|run| run.irrigation(zone, model, net_mm).net)
            .sum();
        Some(Asked {
            by: hours.end,
            net: (net_mm - given).max(Depth::ZERO),
            openings: entry.openings(openings),
        })
    };
    constraints.filter_map(of_entry).collect()
}
