//! What a repair, more even sprinklers or another school would save in a year, each alone, by the water of the last twelve months.

use science::catch_can::very_good;
use science::sprinkler::run_time_multiplier;
use serde::Serialize;
use utoipa::ToSchema;

use crate::quantity::Volume;
use crate::record::book::{Book, ZoneBook};
use crate::record::flow_findings::Standing;
use crate::record::flow_watch::Named;
use crate::record::waterings::histories;
use crate::site::{School, SiteDocument, Zone};
use crate::view::schools::{SchoolComparison, UnderSchool, ZoneSchools};

/// Hours of a year.
const YEAR_H: f64 = 365.0 * 24.0;
/// Less than this share of what a zone takes is no saving to speak of (no source).
const LEAST: f64 = 0.02;

/// What would save water.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[schema(as = SavingKind)]
pub enum What {
    /// A leak that is repaired: what flows with nothing on, all year.
    Leak {
        /// What leaks, L/h.
        litres_an_hour: f64,
    },
    /// A broken head that is replaced: what its zone takes more than it used to, of all that it ran.
    Head {
        /// How many times its normal the zone takes.
        times: f64,
    },
    /// Sprinklers that are repaired, levelled and aimed until they are very good.
    Evenness {
        /// As it was measured.
        du_lq: f64,
        /// From which on such sprinklers are very good.
        reach: f64,
    },
    /// The water balance in the place of the zone's school, on the site's own weather.
    School {
        /// By which school it is watered.
        own: School,
        /// Days that ended too dry under it.
        own_dry_days: u32,
        /// And under the water balance.
        dry_days: u32,
    },
}

/// A saving.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Saving {
    /// What.
    pub what: What,
    /// The zone's identifier; `None`: the site's pipes.
    pub zone: Option<String>,
    /// Its name.
    pub zone_name: Option<String>,
    /// What it saves in a year, L.
    pub litres_a_year: Volume,
    /// What that is worth at the price of the next water; `None`: no price is known.
    pub money_a_year: Option<f64>,
    /// What it is worked out from: what the zone ran in the last twelve months, or would have under its school, L.
    pub of_l: Volume,
}

/// What would save water, the most first; `book`: of the last twelve months, `standing`: what flow meters say, `schools`: the same months under each school.
/// Each alone: two that touch the same zone do not add up.
#[must_use]
pub fn savings(
    document: &SiteDocument,
    book: &Book,
    standing: &[Standing],
    schools: Option<&SchoolComparison>,
) -> Vec<Saving> {
    let price = document.site.price_per_m3;
    let saving = |what, zone: Option<&Zone>, litres: f64, of_l: Volume| Saving {
        what,
        zone: zone.map(|zone| zone.id.clone()),
        zone_name: zone.map(|zone| zone.name.clone()),
        litres_a_year: Volume::from_l(litres),
        money_a_year: price.map(|price| Volume::from_l(litres).cost_at(price)),
        of_l,
    };
    let mut found = Vec::new();
    for standing in standing {
        match standing.named {
            Named::Leak { litres_an_hour } => {
                let litres = litres_an_hour * YEAR_H;
                let what = What::Leak { litres_an_hour };
                found.push(saving(what, None, litres, Volume::from_l(litres)));
            }
            Named::MoreThanNormal {
                zone,
                normal_l_min,
                now_l_min,
            } => {
                let Some((zone, of)) = document.zones.get(zone).zip(book.zones.get(zone)) else {
                    continue;
                };
                let times = now_l_min / normal_l_min;
                let litres = of.sums.run_l.l() * (times - 1.0);
                found.push(saving(
                    What::Head { times },
                    Some(zone),
                    litres,
                    of.sums.run_l,
                ));
            }
            _ => {}
        }
    }
    let histories = histories(document);
    for ((zone, of), history) in document.zones.iter().zip(&book.zones).zip(&histories) {
        if let Some((what, litres)) = by_evenness(&history.on(book.to).zone, of) {
            found.push(saving(what, Some(zone), litres, of.sums.run_l));
        }
        let compared = schools.and_then(|s| s.zones.iter().find(|z| z.zone == zone.id));
        if let Some((what, litres, of)) = compared.and_then(by_school) {
            found.push(saving(what, Some(zone), litres, of));
        }
    }
    found.retain(|s| s.litres_a_year.l() >= LEAST * s.of_l.l() && s.litres_a_year.l() > 0.0);
    found.sort_by(|a, b| b.litres_a_year.l().total_cmp(&a.litres_a_year.l()));
    found
}

/// Gross depths go with the run-time multiplier: what ran, by that of very good sprinklers.
fn by_evenness(zone: &Zone, of: &ZoneBook) -> Option<(What, f64)> {
    let du_lq = zone.evenness_du_lq.as_ref()?.value;
    let reach = very_good(zone.sprinkler.rotates());
    let share = 1.0 - run_time_multiplier(reach) / run_time_multiplier(du_lq);
    let what = What::Evenness { du_lq, reach };
    Some((what, of.sums.run_l.l() * share))
}

fn by_school(of: &ZoneSchools) -> Option<(What, f64, Volume)> {
    let under = |name: &str| -> Option<&UnderSchool> {
        of.schools.iter().find(|under| under.school.name() == name)
    };
    let balance = School::WaterBalance.name();
    if of.own.name() == balance {
        return None;
    }
    let (own, balance) = (under(of.own.name())?, under(balance)?);
    let what = What::School {
        own: of.own,
        own_dry_days: own.dry_days,
        dry_days: balance.dry_days,
    };
    Some((what, own.volume_l.l() - balance.volume_l.l(), own.volume_l))
}
