//! The mornings of a past stretch, replayed: each knows only what was known then, decides, and the day's own weather follows.

use std::cell::RefCell;
use std::collections::HashMap;

use jiff::civil::Date;
use thiserror::Error;

use crate::engine::dose::{self, Dose};
use crate::engine::history::{Stretch, ZoneHistory};
use crate::engine::lately::Lately;
use crate::engine::morning::{self, Ahead, Facts, ZoneFacts, ZoneState};
use crate::engine::rationing::caps;
use crate::engine::reserve;
use crate::engine::root_zone::{self, Below, DayBalance, Given};
use crate::engine::schools::{Act, Crowns, Keeping, Proposal};
use crate::engine::slot::{HORIZON, LOOKED_AHEAD, closed_to, openings};
use crate::engine::zone_model::{is_planned, takes};
use crate::engine::zone_week::held;
use crate::quantity::{Depth, Volume};
use crate::site::calendar::{self, CalendarDay};
use crate::site::{Invalid, Regime, SiteDocument, Zone};
use crate::weather::issued::Issued;
use crate::weather::outlook::{Climatology, OUTLOOK_DAYS, Outlook};
use crate::weather::{self, AheadDay, DailyWeather};

/// What each morning knows of the days ahead.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Foresight<'a> {
    /// Nothing: ET0 is the mean of the last seven days observed, rain by the climatology of the record before.
    None,
    /// The record itself; past its end, its climatology.
    Perfect,
    /// The forecasts as they were issued; beyond them, or without one, as none.
    Issued(&'a Issued),
    /// As none, and no rain is ever in sight: plain refills, to compare with.
    Refills,
}

/// One zone-day of a replay.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Row<'a> {
    /// The civil day.
    pub date: Date,
    /// The zone's identifier.
    pub zone: &'a str,
    /// Reference ET.
    pub et0: Depth,
    /// Total available water.
    pub taw: Depth,
    /// How the zone was watered.
    pub regime: Regime,
    /// The balance.
    pub balance: DayBalance,
    /// What that morning decided to run, of several slots the first.
    pub dose: Option<Dose>,
    /// Whether that morning held it for rain.
    pub held_for_rain: bool,
}

/// Why a stretch cannot be replayed.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum Error {
    /// The record does not cover the stretch, or there is none.
    #[error(transparent)]
    Stretch(#[from] weather::stretch::Error),
    /// A forecast contradicts itself.
    #[error("forecast: {0}")]
    Forecast(#[from] weather::Error),
    /// The site does not hold.
    #[error(transparent)]
    Site(#[from] Invalid),
}

/// Replays the mornings from `from` to `to` over a contiguous record. Each zone starts at `from` (or its first day, if later) from its
/// initial depletion; earlier days of the record are known weather and nothing else. Rows come by day, then in the site's order.
///
/// # Errors
/// [`Error`].
pub fn replay<'a>(
    document: &'a SiteDocument,
    record: &[DailyWeather],
    from: Date,
    to: Date,
    foresight: Foresight<'_>,
) -> Result<Vec<Row<'a>>, Error> {
    document.validate()?;
    let time_zone = document.site.zone()?;
    let stretch = weather::stretch::of(record, from, to)?;
    let (begin, end) = (*stretch.start(), *stretch.end());

    let calendar = calendar::days(document, &time_zone, from, end - begin + LOOKED_AHEAD);
    let histories: Vec<ZoneHistory> = document
        .zones
        .iter()
        .map(|z| ZoneHistory::new(z, &document.controller, document.site.latitude))
        .collect();
    let mornings = Mornings {
        document,
        capacities: Capacities::default(),
        histories: &histories,
        record,
        foresight,
    };
    let mut zones: Vec<ZoneState> = document
        .zones
        .iter()
        .zip(&histories)
        .map(|(z, history)| ZoneState {
            depletion: z
                .initial_depletion_mm
                .unwrap_or(Depth::ZERO)
                .min(history.on(from).model.taw),
            lately: Lately::new(Crowns::of(z).depth),
            ..ZoneState::default()
        })
        .collect();
    let mut below = vec![Below::default(); zones.len()];
    let mut yesterday = from;
    let mut climatology = Climatology::of(&record[..begin]);
    // What was drawn from a store, day by day.
    let mut drawn: Vec<(Date, Volume)> = Vec::new();
    let mut rows = Vec::with_capacity((end - begin + 1) * document.zones.len());
    for (index, today) in record.iter().enumerate().take(end + 1).skip(begin) {
        let days = &calendar[index - begin..index - begin + LOOKED_AHEAD];
        // What changes today: roots, or what the soil holds.
        let adjustments: Vec<Depth> = histories
            .iter()
            .zip(&mut below)
            .zip(&zones)
            .map(|((history, below), state)| {
                let (before, now) = (history.on(yesterday), history.on(today.date));
                if before.from == now.from {
                    Depth::ZERO
                } else {
                    below.follow_roots(&before.model, &now.model, state.depletion)
                }
            })
            .collect();
        yesterday = today.date;
        let at_dawn: Vec<ZoneState> = zones
            .iter()
            .zip(&adjustments)
            .map(|(state, adjustment)| ZoneState {
                depletion: state.depletion + *adjustment,
                ..*state
            })
            .collect();
        let decided = mornings.decide(index, &at_dawn, days, &climatology, &drawn)?;
        climatology.add(today);
        let mut drawn_l = 0.0;
        for (i, zone) in document.zones.iter().enumerate() {
            if !zone.is_active(today.date) {
                continue;
            }
            let then = histories[i].on(today.date);
            let mut given = Given::default();
            for proposal in &decided[i] {
                zones[i].held = held(zones[i].held, proposal);
                if let Some(dose) = proposal.dose() {
                    given.add(dose.irrigation, proposal.slot.after_noon);
                }
            }
            let balance = root_zone::adjusted_day(
                &then.model,
                zones[i].depletion,
                adjustments[i],
                today,
                given,
            );
            zones[i].depletion = balance.end;
            drawn_l += (given.all().gross * then.zone.area_m2).l();
            zones[i].lately.water(today.date, &given.all());
            zones[i].lately.rain(today.date, balance.effective_rain);
            below[i].drain(balance.drainage);
            rows.push(Row {
                date: today.date,
                zone: &zone.id,
                et0: today.et0,
                taw: then.model.taw,
                regime: then.zone.regime,
                balance,
                dose: decided[i].iter().find_map(Proposal::dose).copied(),
                held_for_rain: decided[i].iter().any(|p| p.act == Act::WaitForRain),
            });
        }
        drawn.push((today.date, Volume::from_l(drawn_l)));
    }
    Ok(rows)
}

/// What every morning of a replay shares.
struct Mornings<'a> {
    document: &'a SiteDocument,
    histories: &'a [ZoneHistory],
    capacities: Capacities,
    record: &'a [DailyWeather],
    foresight: Foresight<'a>,
}

impl Mornings<'_> {
    /// What the morning of a day of the record decides for each zone, knowing the days before it and what foresight gives.
    fn decide(
        &self,
        index: usize,
        state: &[ZoneState],
        days: &[CalendarDay],
        climatology: &Climatology,
        drawn: &[(Date, Volume)],
    ) -> Result<Vec<Vec<Proposal>>, Error> {
        let zones = &self.document.zones;
        if days[0].windows.is_empty() {
            return Ok(vec![Vec::new(); zones.len()]);
        }
        let site = &self.document.site;
        let today = self.record[index].date;
        let known = &self.record[..index];
        let issued;
        let forecast: &[DailyWeather] = match self.foresight {
            Foresight::None | Foresight::Refills => &[],
            Foresight::Perfect => {
                &self.record[index..(index + OUTLOOK_DAYS).min(self.record.len())]
            }
            Foresight::Issued(all) => {
                issued = all.on(today, &weather::place(site), known)?;
                &issued
            }
        };
        let beyond: [AheadDay; OUTLOOK_DAYS] = weather::ahead(site, known, forecast, today);
        let ahead: [DailyWeather; HORIZON] = std::array::from_fn(|day| beyond[day].weather);
        let normals = site.normals.as_ref();
        let outlook = match self.foresight {
            Foresight::None | Foresight::Issued(_) => {
                Some(Outlook::new(&beyond, climatology, normals))
            }
            Foresight::Perfect => Some(Outlook::new(&beyond, climatology, normals).known(forecast)),
            Foresight::Refills => None,
        };
        let then: Vec<&Stretch> = self.histories.iter().map(|h| h.on(today)).collect();
        let zones_then: Vec<&Zone> = then.iter().map(|then| &then.zone).collect();
        let lately: Vec<Lately> = state.iter().map(|state| state.lately).collect();
        let openings = openings(days, None);
        let facts = Facts {
            zones: then
                .iter()
                .enumerate()
                .map(|(zone, then)| ZoneFacts {
                    barred: closed_to(days, &openings, zone, &then.zone),
                    model: &then.model,
                    keeping: Keeping::of(&then.zone, &then.model),
                    priority: then.zone.priority,
                    area: then.zone.area_m2,
                    takes: takes(&self.document.supply, &then.model),
                    by_hand: then.zone.by_hand(),
                    planned: is_planned(self.document, &then.zone, &then.model, today),
                    kept_dry: Vec::new(),
                    fixed: Vec::new(),
                    water_in: Vec::new(),
                })
                .collect(),
            openings: openings.clone(),
            targets_s: std::array::from_fn(|day| days[day].sunrise_s),
            caps: caps(self.document, &zones_then, &lately, today),
            reserve: reserve::of_site(&self.document.supply, drawn.iter().copied(), &days[0]),
            capacity: |zone, window_s| self.capacities.of(zone, then[zone], window_s),
        };
        let ahead = Ahead {
            days: &ahead,
            outlook: outlook.as_ref(),
            yesterday: known.last(),
        };
        Ok(morning::decide_today(&facts, state, &ahead))
    }
}

/// What a window of some length carries for a zone in a stretch of its days, found once.
#[derive(Default)]
struct Capacities(RefCell<HashMap<(usize, Date, i64), Depth>>);

impl Capacities {
    fn of(&self, zone: usize, then: &Stretch, window_s: i64) -> Depth {
        *self
            .0
            .borrow_mut()
            .entry((zone, then.from, window_s))
            .or_insert_with(|| dose::capacity(&then.model, window_s))
    }
}
