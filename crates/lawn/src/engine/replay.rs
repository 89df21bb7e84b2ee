//! The mornings of a past stretch, replayed: each knows only what was known then, decides, and the day's own weather follows.

use jiff::ToSpan;
use jiff::civil::Date;
use thiserror::Error;

use crate::engine::dose::{self, Dose};
use crate::engine::morning::{self, Ahead, Facts, ZoneFacts, ZoneState};
use crate::engine::root_zone::{self, DayBalance, Given};
use crate::engine::schools::{Act, Proposal, School};
use crate::engine::site_week::held;
use crate::engine::slot::{HORIZON, openings};
use crate::engine::zone_model::{ZoneModel, is_planned};
use crate::quantity::Depth;
use crate::site::calendar::{self, CalendarDay, Interval};
use crate::site::{Invalid, SiteDocument};
use crate::weather::outlook::{Climatology, OUTLOOK_DAYS, Outlook};
use crate::weather::{self, AheadDay, DailyWeather};

/// What each morning knows of the days ahead.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Foresight {
    /// Nothing: ET0 is the mean of the last seven days observed, rain by the climatology of the record before.
    None,
    /// The record itself; past its end, its climatology.
    Perfect,
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
    /// The balance.
    pub balance: DayBalance,
    /// What that morning decided to run, of several slots the first.
    pub dose: Option<Dose>,
    /// Whether that morning held it for rain.
    pub held_for_rain: bool,
}

/// Why a stretch cannot be replayed.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum Error {
    /// The record does not cover the stretch.
    #[error("weather covers {first} to {last}, not all of {from} to {to}")]
    NotCovered {
        /// First day of the record.
        first: Date,
        /// Last day of the record.
        last: Date,
        /// First day asked for.
        from: Date,
        /// Last day asked for.
        to: Date,
    },
    /// The stretch ends before it begins.
    #[error("--to {to} is before --from {from}")]
    Backwards {
        /// First day asked for.
        from: Date,
        /// Last day asked for.
        to: Date,
    },
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
    foresight: Foresight,
) -> Result<Vec<Row<'a>>, Error> {
    document.validate()?;
    let time_zone = document.site.zone()?;
    if to < from {
        return Err(Error::Backwards { from, to });
    }
    let (first, last) = match (record.first(), record.last()) {
        (Some(first), Some(last)) => (first.date, last.date),
        _ => (from, day_before(from)),
    };
    let at = |date: Date| record.binary_search_by_key(&date, |d| d.date).ok();
    let (Some(begin), Some(end)) = (at(from), at(to)) else {
        return Err(Error::NotCovered {
            first,
            last,
            from,
            to,
        });
    };

    let calendar = calendar::days(document, &time_zone, from, end - begin + HORIZON);
    let models: Vec<ZoneModel> = document
        .zones
        .iter()
        .map(|z| ZoneModel::new(z, &document.supply, document.site.latitude))
        .collect();
    let mornings = Mornings {
        document,
        capacities: Capacities::new(&models, &calendar),
        models: &models,
        record,
        foresight,
    };
    let mut state: Vec<ZoneState> = document
        .zones
        .iter()
        .zip(&models)
        .map(|(z, m)| ZoneState {
            depletion: z.initial_depletion_mm.unwrap_or(Depth::ZERO).min(m.taw),
            ..ZoneState::default()
        })
        .collect();
    let mut climatology = Climatology::of(&record[..begin]);
    let mut rows = Vec::with_capacity((end - begin + 1) * document.zones.len());
    for (index, today) in record.iter().enumerate().take(end + 1).skip(begin) {
        let days = &calendar[index - begin..index - begin + HORIZON];
        let decided = mornings.decide(index, &state, days, &climatology);
        climatology.add(today);
        for (i, zone) in document.zones.iter().enumerate() {
            if !zone.is_active(today.date) {
                continue;
            }
            let mut given = Given::default();
            for proposal in &decided[i] {
                state[i].held = held(state[i].held, proposal);
                if let Some(dose) = proposal.dose() {
                    given.add(dose.irrigation, proposal.slot.after_noon);
                }
            }
            let balance = root_zone::day(&models[i], state[i].depletion, today, given);
            state[i].depletion = balance.end;
            rows.push(Row {
                date: today.date,
                zone: &zone.id,
                et0: today.et0,
                taw: models[i].taw,
                balance,
                dose: decided[i].iter().find_map(Proposal::dose).copied(),
                held_for_rain: decided[i].iter().any(|p| p.act == Act::WaitForRain),
            });
        }
    }
    Ok(rows)
}

/// What every morning of a replay shares.
struct Mornings<'a> {
    document: &'a SiteDocument,
    models: &'a [ZoneModel],
    capacities: Capacities,
    record: &'a [DailyWeather],
    foresight: Foresight,
}

impl Mornings<'_> {
    /// What the morning of a day of the record decides for each zone, knowing the days before it and what foresight gives.
    fn decide(
        &self,
        index: usize,
        state: &[ZoneState],
        days: &[CalendarDay],
        climatology: &Climatology,
    ) -> Vec<Vec<Proposal>> {
        let zones = &self.document.zones;
        if days[0].windows.is_empty() {
            return vec![Vec::new(); zones.len()];
        }
        let today = self.record[index].date;
        let known = &self.record[..index];
        let forecast = match self.foresight {
            Foresight::None | Foresight::Refills => &[],
            Foresight::Perfect => {
                &self.record[index..(index + OUTLOOK_DAYS).min(self.record.len())]
            }
        };
        let beyond: [AheadDay; OUTLOOK_DAYS] = weather::ahead(known, forecast, today);
        let ahead: [DailyWeather; HORIZON] = std::array::from_fn(|day| beyond[day].weather);
        let outlook = match self.foresight {
            Foresight::None => Some(Outlook::new(&beyond, climatology)),
            Foresight::Perfect => Some(Outlook::new(&beyond, climatology).known(forecast)),
            Foresight::Refills => None,
        };
        let facts = Facts {
            zones: zones
                .iter()
                .zip(self.models)
                .map(|(zone, model)| ZoneFacts {
                    model,
                    school: School::default(),
                    priority: zone.priority,
                    by_hand: zone.by_hand(),
                    planned: is_planned(self.document, zone, model, today),
                    kept_dry: [false; HORIZON],
                    fixed: Vec::new(),
                })
                .collect(),
            openings: openings(days, None),
            targets_s: std::array::from_fn(|day| days[day].sunrise_s),
            capacity: |zone, window_s| self.capacities.of(zone, window_s),
        };
        let ahead = Ahead {
            days: &ahead,
            outlook: outlook.as_ref(),
            yesterday: known.last(),
        };
        morning::decide_today(&facts, state, &ahead)
    }
}

fn day_before(date: Date) -> Date {
    date.saturating_sub(1.day())
}

/// What each window length of a calendar carries for each zone, found once.
struct Capacities {
    lengths: Vec<i64>,
    /// By length, then zone.
    depths: Vec<Vec<Depth>>,
}

impl Capacities {
    fn new(models: &[ZoneModel], calendar: &[CalendarDay]) -> Self {
        let whole = calendar.iter().flat_map(|day| &day.windows);
        let mut lengths: Vec<i64> = whole
            .map(|window: &Interval| window.length_s())
            .flat_map(|s| models.iter().map(move |m| s / i64::from(m.settings)))
            .filter(|&s| s > 0)
            .collect();
        lengths.sort_unstable();
        lengths.dedup();
        let depths = lengths
            .iter()
            .map(|&l| models.iter().map(|m| dose::capacity(m, l)).collect())
            .collect();
        Self { lengths, depths }
    }

    fn of(&self, zone: usize, window_s: i64) -> Depth {
        self.lengths
            .binary_search(&window_s)
            .map_or(Depth::ZERO, |i| self.depths[i][zone])
    }
}
