//! The same weather under each school: what a site's zones would have come to over a past stretch.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::replay::{Error, Foresight, Row, by_zone, replay_while};
use crate::quantity::{Depth, Volume};
use crate::site::{Regime, School, SiteDocument, Zone};
use crate::wanted::Wanted;
use crate::weather::DailyWeather;

/// A zone over a stretch under one school.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct UnderSchool {
    /// The school with its settings.
    pub school: School,
    /// Days with water.
    pub waterings: u32,
    /// Net irrigation.
    pub net_mm: Depth,
    /// Volume out of the sprinklers, L.
    pub volume_l: Volume,
    /// Water that the turf used of what it could have used, %.
    pub adequacy_pct: f64,
    /// Days that ended beyond RAW.
    pub dry_days: u32,
    /// Water below the roots, of irrigation and rain.
    pub drained_mm: Depth,
    /// Water of the sprinklers that ran off.
    pub runoff_mm: Depth,
}

/// A zone over a stretch under each school.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ZoneSchools {
    /// The zone's identifier.
    pub zone: String,
    /// Its name.
    pub name: String,
    /// By which school it is watered.
    pub own: School,
    /// The schools that were compared, in their order; the zone's own as it is set, the others as they usually are.
    pub schools: Vec<UnderSchool>,
}

/// Every established zone of a site over a stretch under each school, all zones under the same one at a time.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SchoolComparison {
    /// First day.
    pub from: Date,
    /// Last day.
    pub to: Date,
    /// The zones, in the site's order.
    pub zones: Vec<ZoneSchools>,
}

/// Replays a stretch of a record under some schools, each morning without a forecast.
///
/// # Errors
/// As [`replay_while`].
pub fn compare_schools(
    wanted: Wanted<'_>,
    document: &SiteDocument,
    record: &[DailyWeather],
    from: Date,
    to: Date,
    schools: &[School],
) -> Result<SchoolComparison, Error> {
    let compared = |zone: &&Zone| zone.regime == Regime::Established && zone.is_active(to);
    let zones = document.zones.iter().filter(compared);
    let mut zones: Vec<ZoneSchools> = zones
        .map(|zone| ZoneSchools {
            zone: zone.id.clone(),
            name: zone.name.clone(),
            own: zone.school,
            schools: Vec::new(),
        })
        .collect();
    for school in schools {
        let under = under(document, *school);
        let rows = replay_while(wanted, &under, record, from, to, Foresight::None)?;
        let rows = by_zone(&rows);
        for of in &mut zones {
            let own = rows.get(of.zone.as_str()).map_or(&[][..], Vec::as_slice);
            let zone = under.zones.iter().find(|zone| zone.id == of.zone);
            of.schools.extend(zone.map(|zone| came_to(zone, own)));
        }
    }
    Ok(SchoolComparison { from, to, zones })
}

/// The site with every established zone under a school: as it is set where it is the zone's own.
fn under(document: &SiteDocument, school: School) -> SiteDocument {
    let mut under = document.clone().with_school(school);
    for (zone, own) in under.zones.iter_mut().zip(&document.zones) {
        if own.school.name() == school.name() {
            zone.school = own.school;
        }
    }
    under
}

fn came_to(zone: &Zone, own: &[&Row]) -> UnderSchool {
    let mut came = UnderSchool {
        school: zone.school,
        waterings: 0,
        net_mm: Depth::ZERO,
        volume_l: Volume::default(),
        adequacy_pct: 100.0,
        dry_days: 0,
        drained_mm: Depth::ZERO,
        runoff_mm: Depth::ZERO,
    };
    let (mut used, mut could, mut gross) = (Depth::ZERO, Depth::ZERO, Depth::ZERO);
    for balance in own.iter().map(|row| &row.balance) {
        came.waterings += u32::from(balance.irrigation.net > Depth::ZERO);
        came.dry_days += u32::from(balance.end > balance.raw);
        came.net_mm += balance.irrigation.net;
        came.drained_mm += balance.drainage;
        came.runoff_mm += balance.irrigation.runoff;
        gross += balance.irrigation.gross;
        used += balance.eta;
        could += balance.etc;
    }
    came.volume_l = gross * zone.area_m2;
    if could > Depth::ZERO {
        came.adequacy_pct = 100.0 * (used / could);
    }
    came
}
