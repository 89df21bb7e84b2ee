//! The mornings of a past stretch, replayed: each knows only what was known then, decides, and the day's own weather follows.

use std::cell::RefCell;
use std::collections::HashMap;

use jiff::civil::Date;
use jiff::tz::TimeZone;
use thiserror::Error;

use crate::engine::dawn::{Dawn, Left};
use crate::engine::dose::{self, Dose};
use crate::engine::history::{Stretch, ZoneHistory};
use crate::engine::lately::Lately;
use crate::engine::morning::{self, Ahead, Facts, ZoneFacts, ZoneState};
use crate::engine::rationing::caps;
use crate::engine::reserve;
use crate::engine::root_zone::{self, DayBalance, Given};
use crate::engine::schools::new_grass::{DryBecause, dry_because};
use crate::engine::schools::{Act, Crowns, Keeping, Proposal};
use crate::engine::seedbed::{self, BedNow, ByHour};
use crate::engine::seedbed_hours::{Seedbed, with_slots};
use crate::engine::slot::{HORIZON, LOOKED_AHEAD, closed_to, openings};
use crate::engine::zone_model::{is_planned, takes};
use crate::engine::zone_week::held;
use crate::quantity::{Depth, Volume};
use crate::site::calendar::{self, CalendarDay};
use crate::site::daylight::Daylight;
use crate::site::{Invalid, Regime, SiteDocument, Zone};
use crate::wanted::{Wanted, always};
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
    /// Total available water; of new grass the root store's.
    pub taw: Depth,
    /// How the zone was watered.
    pub regime: Regime,
    /// The balance.
    pub balance: DayBalance,
    /// What that morning decided to run, of several slots the first.
    pub dose: Option<Dose>,
    /// Whether that morning held it for rain.
    pub held_for_rain: bool,
    /// Why the surface of new grass was too dry for some hours; `None`: it was not.
    pub dry: Option<DryBecause>,
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
    /// Nobody waits for it any more.
    #[error("nobody waits for the answer any more")]
    Unwanted,
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
    replay_while(&always, document, record, from, to, foresight)
}

/// [`replay`], as long as its rows are wanted: that is asked before each morning.
///
/// # Errors
/// [`Error`].
pub fn replay_while<'a>(
    wanted: Wanted<'_>,
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
        .map(|z| ZoneHistory::of(document, z))
        .collect();
    let mornings = Mornings {
        document,
        time_zone,
        capacities: Capacities::default(),
        record,
        foresight,
    };
    let mut zones: Vec<Going> = document
        .zones
        .iter()
        .map(|z| Going {
            left: None,
            held: 0,
            lately: Lately::new(Crowns::of(z).depth),
            last: None,
        })
        .collect();
    let mut climatology = Climatology::of(&record[..begin]);
    // What was drawn from a store, day by day.
    let mut drawn: Vec<(Date, Volume)> = Vec::new();
    let mut rows = Vec::with_capacity((end - begin + 1) * document.zones.len());
    for (index, today) in record.iter().enumerate().take(end + 1).skip(begin) {
        if !wanted() {
            return Err(Error::Unwanted);
        }
        let days = &calendar[index - begin..index - begin + LOOKED_AHEAD];
        let dawns: Vec<Dawn> = document
            .zones
            .iter()
            .zip(&histories)
            .zip(&zones)
            .map(|((zone, history), going)| {
                let seen = zone.seen.iter().filter(|kept| kept.date == today.date);
                let seen = seen.map(|kept| &kept.seen);
                let initial = zone.initial_depletion_mm;
                Dawn::of(history, initial, going.left.as_ref(), today.date, seen)
            })
            .collect();
        let decided = mornings.decide(index, &dawns, &zones, days, &climatology, &drawn)?;
        climatology.add(today);
        let mut drawn_l = 0.0;
        for (i, (zone, dawn)) in document.zones.iter().zip(dawns).enumerate() {
            let going = &mut zones[i];
            if !zone.is_active(today.date) {
                going.left = Some(going.passed_over(&dawn, today.date));
                continue;
            }
            let model = &dawn.then.model;
            let mut given = Given::default();
            let mut ran = ByHour::NONE;
            let hours = dawn.bed.map(|_| histories[i].daylight().hours(today.date));
            for proposal in &decided[i] {
                going.held = held(going.held, proposal);
                if let Some(dose) = proposal.dose() {
                    given.add(dose.irrigation, proposal.slot.after_noon);
                    if let Some(hours) = &hours {
                        ran.0[hours.hour_of(proposal.slot.opens_s)] += dose.irrigation;
                    }
                }
            }
            let balance = match (dawn.bed, &hours) {
                (Some((bed, surface)), Some(hours)) => {
                    seedbed::day(&bed, model, &dawn.stores(surface), today, hours, &ran)
                }
                _ => root_zone::adjusted_day(model, dawn.depletion, dawn.adjustment, today, given),
            };
            let dry = balance.surface.zip(hours).and_then(|(surface, hours)| {
                dry_because(&surface, &hours, &decided[i], going.last.as_ref())
            });
            going.last = decided[i].last().copied().or(going.last);
            drawn_l += (given.all().gross * dawn.then.zone.area_m2).l();
            going.lately.water(today.date, &given.all());
            going.lately.rain(today.date, balance.effective_rain);
            let mut below = dawn.below;
            below.drain(balance.drainage);
            going.left = Some(Left {
                date: today.date,
                depletion: balance.end,
                surface: balance.surface.map(|surface| surface.end),
                seedling: dawn.seedling.map(|seedling| {
                    let was_dry = seedbed::was_dry(&balance, model.taw);
                    seedling.after(today, dawn.then.zone.grass, was_dry)
                }),
                below,
            });
            rows.push(Row {
                date: today.date,
                zone: &zone.id,
                et0: today.et0,
                taw: model.taw,
                regime: dawn.then.zone.regime,
                balance,
                dose: decided[i].iter().find_map(Proposal::dose).copied(),
                held_for_rain: decided[i].iter().any(|p| p.act == Act::WaitForRain),
                dry,
            });
        }
        drawn.push((today.date, Volume::from_l(drawn_l)));
    }
    Ok(rows)
}

/// Rows by zone, those of each in the order of its days.
#[must_use]
pub fn by_zone<'r, 'a>(rows: &'r [Row<'a>]) -> HashMap<&'a str, Vec<&'r Row<'a>>> {
    let mut zones: HashMap<&str, Vec<&Row>> = HashMap::new();
    for row in rows {
        zones.entry(row.zone).or_default().push(row);
    }
    zones
}

/// A zone on its way through the days.
struct Going {
    /// As the last day left it; `None`: its first is still to come.
    left: Option<Left>,
    /// Opportunities running at which it was held for rain.
    held: u32,
    /// What it got lately.
    lately: Lately,
    /// What was decided last.
    last: Option<Proposal>,
}

impl Going {
    /// A day on which the zone does not exist passes it over.
    fn passed_over(&self, dawn: &Dawn, date: Date) -> Left {
        Left {
            date,
            depletion: dawn.now(),
            surface: dawn.bed.map(|(_, surface)| surface),
            seedling: dawn.seedling,
            below: dawn.below,
        }
    }
}

/// What every morning of a replay shares.
struct Mornings<'a> {
    document: &'a SiteDocument,
    time_zone: TimeZone,
    capacities: Capacities,
    record: &'a [DailyWeather],
    foresight: Foresight<'a>,
}

impl Mornings<'_> {
    /// The days ahead as new grass finds them: rules by what is new grass then, and slots for what has none yet.
    fn with_new_grass(&self, dawns: &[Dawn], days: &[CalendarDay]) -> Vec<CalendarDay> {
        let zones: Vec<&Zone> = dawns.iter().map(|dawn| &dawn.then.zone).collect();
        let from = days[0].date;
        let days = if self.document.rules.list.is_empty() {
            days.to_vec()
        } else {
            calendar::days_of(self.document, &zones, &self.time_zone, from, days.len())
        };
        let beds: Vec<Seedbed> = dawns
            .iter()
            .enumerate()
            .filter_map(|(place, dawn)| {
                let Stretch { zone, model, .. } = &*dawn.then;
                dawn.bed?;
                Some(Seedbed::of(place, zone, model, dawn.seedling.as_ref()?))
            })
            .filter(|bed| dawns[bed.place].then.zone.is_active(from))
            .collect();
        with_slots(days, &beds, zones.len(), |day, place| {
            calendar::open_to_new_grass(self.document, &zones, &self.time_zone, day, place)
        })
    }

    /// What the morning of a day of the record decides for each zone, knowing the days before it and what foresight gives.
    fn decide(
        &self,
        index: usize,
        dawns: &[Dawn],
        going: &[Going],
        days: &[CalendarDay],
        climatology: &Climatology,
        drawn: &[(Date, Volume)],
    ) -> Result<Vec<Vec<Proposal>>, Error> {
        let today = self.record[index].date;
        let active = dawns.iter().filter(|d| d.then.zone.is_active(today));
        let has_beds = active.clone().any(|dawn| dawn.bed.is_some());
        // Rules exempt new seed until it is none.
        let is_ruled = !self.document.rules.list.is_empty()
            && active.clone().any(|dawn| dawn.seedling.is_some());
        let new_grass = has_beds || is_ruled;
        if days[0].windows.is_empty() && !new_grass {
            return Ok(vec![Vec::new(); dawns.len()]);
        }
        let site = &self.document.site;
        let known = &self.record[..index];
        let (slotted, hours);
        let days = if new_grass {
            slotted = self.with_new_grass(dawns, days);
            let daylight = Daylight::of(site)?;
            hours = (0..HORIZON)
                .map(|day| daylight.hours(days[day].date))
                .collect();
            &slotted
        } else {
            hours = Vec::new();
            days
        };
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
        let zones_then: Vec<&Zone> = dawns.iter().map(|dawn| &dawn.then.zone).collect();
        let state: Vec<ZoneState> = dawns
            .iter()
            .zip(going)
            .map(|(dawn, going)| ZoneState {
                depletion: dawn.now(),
                already: Given::default(),
                held: going.held,
                lately: going.lately,
                bed: dawn.bed.filter(|_| has_beds).map(|(bed, surface)| BedNow {
                    bed,
                    surface,
                    ran: ByHour::NONE,
                }),
            })
            .collect();
        let lately: Vec<Lately> = state.iter().map(|state| state.lately).collect();
        let openings = openings(days, None);
        let facts = Facts {
            zones: dawns
                .iter()
                .enumerate()
                .map(|(zone, dawn)| {
                    let Stretch {
                        zone: then, model, ..
                    } = &*dawn.then;
                    ZoneFacts {
                        barred: closed_to(days, &openings, zone, then),
                        model,
                        keeping: Keeping::of(then, model),
                        priority: then.priority,
                        area: then.area_m2,
                        takes: takes(&self.document.supply, model),
                        by_hand: then.by_hand(),
                        planned: is_planned(self.document, then, model, today),
                        kept_dry: Vec::new(),
                        fixed: Vec::new(),
                        water_in: Vec::new(),
                    }
                })
                .collect(),
            openings: openings.clone(),
            targets_s: std::array::from_fn(|day| days[day].sunrise_s),
            caps: caps(self.document, &zones_then, &lately, today),
            reserve: reserve::of_site(&self.document.supply, drawn.iter().copied(), &days[0]),
            capacity: |zone: usize, window_s| self.capacities.of(zone, &dawns[zone].then, window_s),
            hours,
        };
        let ahead = Ahead {
            days: &ahead,
            outlook: outlook.as_ref(),
            yesterday: known.last(),
        };
        Ok(morning::decide_today(&facts, &state, &ahead))
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
