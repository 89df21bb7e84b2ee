//! Before a drought: what it takes to keep a zone green, or to let it go, by the site's own past weather.

use std::collections::{BTreeMap, HashMap};

use jiff::ToSpan;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::history::ZoneHistory;
use crate::engine::replay::{Error, Foresight, Row, by_zone, replay_while};
use crate::engine::root_zone;
use crate::quantity::{Area, Depth, Volume};
use crate::site::{Regime, SiteDocument, Zone};
use crate::spread::Spread;
use crate::stress::dormancy::{self, DRY_DAYS, DRY_SHARE, Day, Proposes, Read, survived_days};
use crate::stress::repair::{Repair, repair};
use crate::wanted::Wanted;
use crate::weather::{DailyWeather, past_years};

/// Days ahead that are looked at: a summer.
const SUMMER_DAYS: i64 = 150;
/// Days before today from which a past summer is followed, so that it is known when crowns were last wet (no source).
const FOLLOWED_FROM: i64 = 21;
/// Days that a choice to keep a zone green holds unless it is changed: a summer (no source).
const KEPT_DAYS: i64 = 120;

/// What a zone comes to, kept green or let go.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = DecideZone)]
pub struct ZoneChoice {
    /// The zone's identifier.
    pub zone: String,
    /// Its name.
    pub name: String,
    /// How it is watered now.
    pub regime: Regime,
    /// Its area, m².
    #[schema(value_type = f64)]
    pub area_m2: Area,
    /// Water to keep it green until it would wake.
    #[schema(value_type = Option<Spread<f64>>)]
    pub green_l: Option<Spread<Volume>>,
    /// Days on which it would end nearly empty all the same: the allowed hours do not hold what it needs.
    pub green_dry_days: Option<Spread<u32>>,
    /// Water for its crowns until it would wake.
    #[schema(value_type = Option<Spread<f64>>)]
    pub crowns_l: Option<Spread<Volume>>,
    /// Days until it is brown without any water; in the other summers rain kept it green.
    pub brown_in_days: Option<Spread<u32>>,
    /// Days that it survives without any water; in the other summers it lives until it wakes.
    pub survives_days: Option<Spread<u32>>,
    /// When it could wake; in the other summers no rain and mild days came together in time.
    pub wakes: Option<Spread<Date>>,
    /// Summers in which heat outlasts it although its crowns are watered.
    pub lost_with_crowns: usize,
    /// What it takes to make it anew where it is lost.
    pub repair: Repair,
    /// Whether its grass closes small gaps by itself.
    pub spreads: bool,
}

/// What each zone comes to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Decision {
    /// The day from which it is computed.
    pub from: Date,
    /// The last day that is looked at.
    pub to: Date,
    /// The past summers of the record, by the year in which each began.
    pub summers: Vec<i16>,
    /// The next water's price, per m³.
    pub price_per_m3: Option<f64>,
    /// Zones of rooted turf, in the site's order.
    pub zones: Vec<ZoneChoice>,
}

/// What one summer makes of a zone.
struct Lived {
    green: Volume,
    green_dry: u32,
    crowns: Volume,
    brown: Option<u32>,
    dies: Option<u32>,
    wakes: Option<Date>,
    is_lost: bool,
}

/// What keeping each zone green or letting it go from a day on would have come to in each past summer of the record, plain refills, under the rules that hold on
/// this year's days. `used`: of each zone's TAW this morning, by its identifier; `told`: after each summer, how many are done and of how many.
///
/// # Errors
/// As [`replay_while`].
pub fn decide(
    wanted: Wanted<'_>,
    document: &SiteDocument,
    record: &[DailyWeather],
    today: Date,
    used: &BTreeMap<String, f64>,
    mut told: impl FnMut(usize, usize),
) -> Result<Decision, Error> {
    let to = today.saturating_add((SUMMER_DAYS - 1).days());
    let followed = today.saturating_sub(FOLLOWED_FROM.days());
    let rooted =
        |zone: &&Zone| zone.regime.is_rooted() && zone.plants.is_turf() && zone.is_active(today);
    let zones: Vec<&Zone> = document.zones.iter().filter(rooted).collect();
    let keep = |regime| -> Result<SiteDocument, Error> {
        let mut kept = document.clone();
        for zone in &mut kept.zones {
            if rooted(&&*zone) {
                *zone = zone.in_regime(Regime::Established, crate::days::FIRST)?;
                if regime == Regime::Dormant {
                    *zone = zone.in_regime(regime, today)?;
                }
            }
        }
        Ok(kept)
    };
    let (green, let_go) = (keep(Regime::Established)?, keep(Regime::Dormant)?);
    let summers: Vec<_> = past_years::on_days(record, followed..=to).collect();
    let mut lived: Vec<Vec<Lived>> = zones.iter().map(|_| Vec::new()).collect();
    for (done, (_, weather)) in summers.iter().enumerate() {
        let kept = replay_while(wanted, &green, weather, followed, to, Foresight::Refills)?;
        let gone = replay_while(wanted, &let_go, weather, followed, to, Foresight::Refills)?;
        let (kept, gone) = (by_zone(&kept), by_zone(&gone));
        let of = |rows: &HashMap<_, Vec<_>>, zone: &Zone| -> Vec<&Row> {
            rows.get(zone.id.as_str()).cloned().unwrap_or_default()
        };
        for (zone, lived) in zones.iter().zip(&mut lived) {
            if !wanted() {
                return Err(Error::Unwanted);
            }
            let asleep = let_go.zones.iter().find(|z| z.id == zone.id);
            let green = green.zones.iter().find(|z| z.id == zone.id);
            let Some((green, asleep)) = green.zip(asleep) else {
                continue;
            };
            let used = used.get(&zone.id).copied().unwrap_or_default();
            lived.push(
                Summer {
                    document,
                    weather,
                    today,
                }
                .of(green, asleep, &of(&kept, zone), &of(&gone, zone), used),
            );
        }
        told(done + 1, summers.len());
    }
    Ok(Decision {
        from: today,
        to,
        summers: summers.iter().map(|(year, _)| *year).collect(),
        price_per_m3: document.site.price_per_m3,
        zones: zones
            .iter()
            .zip(lived)
            .map(|(zone, lived)| choice(zone, &lived))
            .collect(),
    })
}

struct Summer<'a> {
    document: &'a SiteDocument,
    weather: &'a [DailyWeather],
    today: Date,
}

impl Summer<'_> {
    fn of(&self, green: &Zone, asleep: &Zone, kept: &[&Row], gone: &[&Row], used: f64) -> Lived {
        let asleep_days = self.ledger(asleep, gone);
        let wakes = asleep_days
            .iter()
            .find(|day| matches!(day.proposes, Some(Proposes::Wake { .. })))
            .map(|day| day.date);
        let until = wakes.unwrap_or(Date::MAX);
        let counted = |row: &&&Row| row.date >= self.today && row.date <= until;
        let litres = |own: &[&Row], zone: &Zone| -> Volume {
            let own = own.iter().filter(counted);
            own.map(|row| row.balance.irrigation.gross).sum::<Depth>() * zone.area_m2
        };
        let dry = kept
            .iter()
            .filter(|row| counted(row) && row.balance.end > row.taw * DRY_SHARE);
        let taw = self.history(green).on(self.today).model.taw;
        let grass_days = survived_days(green.grass, taw);
        let is_lost = asleep_days
            .iter()
            .take_while(|day| day.date <= until)
            .any(|day| day.date >= self.today && day.spent_days > grass_days);
        let unwatered = self.unwatered(green, used);
        let after =
            |day: &Day| u32::try_from((day.date - self.today).get_days() + 1).unwrap_or_default();
        let before_waking = || unwatered.iter().take_while(|day| day.date <= until);
        Lived {
            green: litres(kept, green),
            green_dry: u32::try_from(dry.count()).unwrap_or(u32::MAX),
            crowns: litres(gone, asleep),
            brown: before_waking()
                .find(|day| day.dry_days >= DRY_DAYS.1)
                .map(after),
            dies: before_waking()
                .find(|day| day.spent_days > grass_days)
                .map(after),
            wakes,
            is_lost,
        }
    }

    fn history(&self, zone: &Zone) -> ZoneHistory {
        ZoneHistory::of(self.document, zone)
    }

    fn on(&self, date: Date) -> Option<&DailyWeather> {
        let at = self.weather.partition_point(|day| day.date < date);
        self.weather.get(at).filter(|day| day.date == date)
    }

    fn ledger(&self, zone: &Zone, own: &[&Row]) -> Vec<Day> {
        let days = own.iter().filter_map(|row| {
            Some(Read {
                regime: row.regime,
                taw: row.taw,
                balance: &row.balance,
                weather: self.on(row.date)?,
            })
        });
        dormancy::ledger(&self.history(zone), days)
    }

    /// The ledger of a zone that nobody waters from today on.
    fn unwatered(&self, zone: &Zone, used: f64) -> Vec<Day> {
        let history = self.history(zone);
        let mut depletion = history.on(self.today).model.taw * used.clamp(0.0, 1.0);
        let days = self.weather.iter().filter(|day| day.date >= self.today);
        let balances: Vec<_> = days
            .map(|weather| {
                let model = &history.on(weather.date).model;
                let balance = root_zone::day(
                    model,
                    depletion.min(model.taw),
                    weather,
                    root_zone::Given::default(),
                );
                depletion = balance.end;
                (weather, model.taw, balance)
            })
            .collect();
        let read = balances.iter().map(|(weather, taw, balance)| Read {
            regime: Regime::Established,
            taw: *taw,
            balance,
            weather,
        });
        dormancy::ledger(&history, read)
    }
}

fn choice(zone: &Zone, lived: &[Lived]) -> ZoneChoice {
    let all = |of: &dyn Fn(&Lived) -> Volume| Spread::of_volumes(lived.iter().map(of).collect());
    let days = |of: &dyn Fn(&Lived) -> Option<u32>| {
        Spread::of(lived.iter().filter_map(of).collect(), u32::cmp)
    };
    ZoneChoice {
        zone: zone.id.clone(),
        name: zone.name.clone(),
        regime: zone.regime,
        area_m2: zone.area_m2,
        green_l: all(&|summer| summer.green),
        green_dry_days: days(&|summer| Some(summer.green_dry)),
        crowns_l: all(&|summer| summer.crowns),
        brown_in_days: days(&|summer| summer.brown),
        survives_days: days(&|summer| summer.dies),
        wakes: Spread::of_days(lived.iter().filter_map(|summer| summer.wakes).collect()),
        lost_with_crowns: lived.iter().filter(|summer| summer.is_lost).count(),
        repair: repair(zone.grass, zone.area_m2),
        spreads: zone.grass.spreads(),
    }
}

/// Until when a zone is kept green because somebody chose so: nothing else is proposed meanwhile. `changes`: its regimes as people changed them with their
/// first days, the newest first. That a zone which slept is green again is no such choice.
#[must_use]
pub fn kept_green_until(changes: &[(Regime, Date)], today: Date) -> Option<Date> {
    let (regime, from) = changes.first()?;
    let slept = changes
        .get(1)
        .is_some_and(|(before, _)| *before != Regime::Established);
    let until = from.saturating_add(KEPT_DAYS.days());
    (*regime == Regime::Established && !slept && today < until).then_some(until)
}
