//! A past season as it would have gone if each proposal had been taken on its day.

use std::collections::BTreeMap;

use jiff::civil::Date;

use crate::engine::history::ZoneHistory;
use crate::engine::replay::{Error, Foresight, Row, by_zone, replay};
use crate::site::{SiteDocument, Zone};
use crate::stress::dormancy::{self, Day, Proposes, Read};
use crate::weather::DailyWeather;

/// A proposal that was taken.
#[derive(Debug, Clone, PartialEq)]
pub struct Taken {
    /// The zone's identifier.
    pub zone: String,
    /// From when it holds.
    pub from: Date,
    /// The proposal.
    pub proposal: Proposes,
}

/// A season that was lived through.
#[derive(Debug, Clone, PartialEq)]
pub struct Lived {
    /// The site, its zones with the regimes that were taken.
    pub document: SiteDocument,
    /// What was taken, in time order.
    pub taken: Vec<Taken>,
    /// The ledger of each zone, by its identifier.
    pub ledgers: BTreeMap<String, Vec<Day>>,
}

/// The ledger of each zone of a replay.
fn ledgers(
    document: &SiteDocument,
    record: &[DailyWeather],
    rows: &[Row],
) -> BTreeMap<String, Vec<Day>> {
    let weather: BTreeMap<Date, &DailyWeather> = record.iter().map(|day| (day.date, day)).collect();
    let rows = by_zone(rows);
    let of = |zone: &Zone| {
        let history = ZoneHistory::of(document, zone);
        let own = rows.get(zone.id.as_str()).into_iter().flatten();
        let days = own.filter_map(|row| {
            Some(Read {
                regime: row.regime,
                taw: row.taw,
                balance: &row.balance,
                weather: weather.get(&row.date)?,
            })
        });
        (zone.id.clone(), dormancy::ledger(&history, days))
    };
    document.zones.iter().map(of).collect()
}

/// Lives through a stretch of a record, each proposal taken on its day: it holds from the day after. Every zone is replayed again from the day of a change on,
/// since who is let go leaves others the clock.
///
/// # Errors
/// As [`replay`].
pub fn live(
    document: &SiteDocument,
    record: &[DailyWeather],
    from: Date,
    to: Date,
    foresight: Foresight<'_>,
) -> Result<Lived, Error> {
    let mut lived = Lived {
        document: document.clone(),
        taken: Vec::new(),
        ledgers: BTreeMap::new(),
    };
    loop {
        let rows = replay(&lived.document, record, from, to, foresight)?;
        lived.ledgers = ledgers(&lived.document, record, &rows);
        // A proposal that was taken stands on the eve of its first day.
        let proposed = |(zone, ledger): (&String, &Vec<Day>)| {
            ledger.windows(2).find_map(|days| {
                let proposal = days[0].proposes?;
                let taken = days[1].regime == proposal.regime();
                (!taken).then(|| (days[0].date, zone.clone(), proposal))
            })
        };
        let Some(first) = lived.ledgers.iter().filter_map(proposed).map(|p| p.0).min() else {
            return Ok(lived);
        };
        let all = lived.ledgers.iter().filter_map(proposed);
        let on_day: Vec<_> = all.filter(|(date, ..)| *date == first).collect();
        let next = first.tomorrow().unwrap_or(first);
        for (_, id, proposal) in on_day {
            if let Some(zone) = lived.document.zones.iter_mut().find(|zone| zone.id == id) {
                *zone = zone.in_regime(proposal.regime(), next)?;
            }
            lived.taken.push(Taken {
                zone: id,
                from: next,
                proposal,
            });
        }
    }
}
