//! Too little water: a volume that zones share over some days goes where it spares most harm per litre.
//!
//! harm = Σ weight · area · Σ days (ETc − ETa), weight (10 − rank)/5, water in litres out of the sprinklers, no rain counted on. From nothing, a mm at a time goes to the zone in which it
//! spares most per litre, until the volume is gone or nobody is harmed any more. In each zone the first mm spares at least as much as the next, so that this is the least harm of all
//! (to a mm; checked against trying all). What is left over after all harm is spared goes to what is wanted tonight.

use jiff::ToSpan;
use jiff::civil::Date;

use crate::engine::lately::Lately;
use crate::engine::slot::{Daybook, LOOKED_AHEAD};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Area, Depth, Volume};
use crate::site::rules::{Period, Rules, Says};
use crate::site::{SiteDocument, Zone};

/// What is given at a time, mm.
const STEP_MM: f64 = 1.0;
/// Harm less than this is none, mm.
const NO_HARM_MM: f64 = 1e-6;
/// Days from tonight that harm is looked for at least.
const SEEN_DAYS: usize = 7;

/// A volume that zones share from one day ahead to another.
#[derive(Debug, Clone, PartialEq)]
pub struct Cap {
    /// The rule, by its place.
    pub rule: usize,
    /// Whether it is about each zone.
    pub about: Vec<bool>,
    /// What is left of it.
    pub left: Volume,
    /// First day ahead.
    pub from: usize,
    /// Last day ahead.
    pub to: usize,
}

/// The caps of the days ahead; `lately`: what each zone of the site got, by its place in `zones`.
#[must_use]
pub fn caps(document: &SiteDocument, zones: &[&Zone], lately: &[Lately], today: Date) -> Vec<Cap> {
    let rules = &document.rules;
    let mut caps = Vec::new();
    for (rule, says) in rules.list.iter().enumerate() {
        let Says::AtMost(most) = &says.says else {
            continue;
        };
        let mut day = 0;
        while day < SEEN_DAYS {
            let date = later(today, day);
            let to = match most.per {
                Period::Day => day,
                Period::Week => {
                    let sunday =
                        6 - usize::try_from(date.weekday().to_monday_zero_offset()).unwrap_or(0);
                    day + sunday
                }
            };
            // A rule that begins within the week counts from then on, with what was used since Monday.
            let begins = (day..=to)
                .map(|from| (from, about(rules, rule, zones, later(today, from))))
                .find(|(_, about)| about.contains(&true));
            if let Some((from, about)) = begins {
                let used = zones
                    .iter()
                    .zip(lately)
                    .zip(&about)
                    .filter(|(_, about)| **about);
                let used: f64 = used
                    .map(|((zone, lately), _)| {
                        let gross = match most.per {
                            Period::Day => lately.gross_on(date),
                            Period::Week => lately.week(date).gross,
                        };
                        (gross * zone.area_m2).l()
                    })
                    .sum();
                caps.push(Cap {
                    rule,
                    about,
                    left: Volume::from_l((most.volume_l - used).max(0.0)),
                    from,
                    to,
                });
            }
            day = to + 1;
        }
    }
    caps
}

fn about(rules: &Rules, rule: usize, zones: &[&Zone], date: Date) -> Vec<bool> {
    let of = |zone: &&Zone| rules.in_force(date, Some(zone)).any(|(i, _)| i == rule);
    zones.iter().map(of).collect()
}

fn later(today: Date, days: usize) -> Date {
    today.saturating_add(i64::try_from(days).unwrap_or(0).days())
}

/// What a zone claims of a volume.
#[derive(Debug, Clone)]
pub(crate) struct Claim<'a> {
    pub model: &'a ZoneModel,
    pub days: Daybook<'a>,
    /// Depletion at the first day's dawn, after what that day has given.
    pub depletion: Depth,
    /// The first day.
    pub day: usize,
    /// The first day of use and what it carries, of each opportunity of the period.
    pub carries: Vec<(usize, Depth)>,
    /// Rank's weight.
    pub weight: f64,
    pub area: Area,
}

impl Claim<'_> {
    /// ET that the zone misses over the days seen, if it gets a net depth as early as it can take it.
    fn harm(&self, net: Depth, until: usize) -> Depth {
        let mut dry = self.depletion;
        let mut left = net;
        let mut missed = Depth::ZERO;
        let mut opportunities = self.carries.iter().peekable();
        for day in self.day..until {
            while let Some((_, carries)) = opportunities.next_if(|(first, _)| *first <= day) {
                let given = dry.min(*carries).min(left).max(Depth::ZERO);
                dry -= given;
                left -= given;
            }
            let (etc, raw) = self.days.use_of(day);
            let (taw, store) = (self.model.taw, self.model.taw - raw);
            let stress = if dry <= raw || store <= Depth::ZERO {
                1.0
            } else {
                ((taw - dry) / store).clamp(0.0, 1.0)
            };
            let used = (etc * stress).min((taw - dry).max(Depth::ZERO));
            missed += etc - used;
            dry += used;
        }
        missed
    }

    /// Litres out of the sprinklers for a net depth.
    pub(crate) fn litres(&self, net: Depth) -> f64 {
        (self.model.gross_of_net(net) * self.area).l()
    }

    /// What the next step spares, mm over the zone; and what of it counts per litre.
    fn spares(&self, net: Depth, until: usize) -> f64 {
        let step = Depth::from_mm(STEP_MM);
        let spared = (self.harm(net, until) - self.harm(net + step, until)).mm();
        if spared < NO_HARM_MM {
            return 0.0;
        }
        self.weight * self.area.m2() * spared / self.litres(step)
    }
}

/// A volume shared out.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Shared {
    /// Net depth by claim.
    pub net: Vec<Depth>,
    /// What nobody needs, L.
    pub over_l: f64,
    /// What all need together so that nobody is harmed, as far as nights carry it, L.
    pub needed_l: f64,
}

/// Shares a volume among claims over the days to `to`, or a week from the first, if that is longer.
pub(crate) fn share(claims: &[Claim], volume: Volume, to: usize) -> Shared {
    let until = |claim: &Claim| (to + 1).max(claim.day + SEEN_DAYS).min(LOOKED_AHEAD);
    let mut net = vec![Depth::ZERO; claims.len()];
    let mut spares: Vec<f64> = claims
        .iter()
        .map(|c| c.spares(Depth::ZERO, until(c)))
        .collect();
    let mut left = volume.l();
    let mut shared = Shared {
        net: Vec::new(),
        over_l: 0.0,
        needed_l: 0.0,
    };
    let step = Depth::from_mm(STEP_MM);
    while let Some(best) = (0..claims.len())
        .filter(|&i| spares[i] > 0.0)
        .max_by(|&a, &b| spares[a].total_cmp(&spares[b]).then(b.cmp(&a)))
    {
        let claim = &claims[best];
        let litres = claim.litres(step);
        if shared.net.is_empty() && litres > left {
            // The last of it is less than a step.
            let part = net.iter().enumerate().map(|(i, mm)| {
                *mm + if i == best {
                    step * (left / litres)
                } else {
                    Depth::ZERO
                }
            });
            shared.net = part.collect();
            left = 0.0;
        }
        left -= if shared.net.is_empty() { litres } else { 0.0 };
        net[best] += step;
        shared.needed_l += litres;
        spares[best] = claim.spares(net[best], until(claim));
    }
    if shared.net.is_empty() {
        shared.net = net;
        shared.over_l = left;
    }
    shared
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::engine::slot::{HORIZON, ZoneDay, zone_days};
    use crate::site::Controller;
    use crate::weather::DailyWeather;
    use jiff::civil::date;
    use proptest::prelude::*;
    use science::soil::Texture;
    use science::sprinkler::Kind;
    use science::turf::Grass;

    fn model(roots_mm: f64) -> ZoneModel {
        let zone = Zone {
            area_m2: Area::from_m2(100.0),
            root_depth_mm: Some(crate::sourced::Sourced {
                value: Depth::from_mm(roots_mm),
                low: Depth::from_mm(roots_mm),
                high: Depth::from_mm(roots_mm),
                source: crate::sourced::Source::Assumed,
            }),
            ..Zone::new("Z", Grass::TallFescue, Texture::Loam, Kind::Rotor)
        };
        ZoneModel::new(&zone, &Controller::default(), 36.0)
    }

    fn days(model: &ZoneModel) -> ([ZoneDay; HORIZON], [(Depth, Depth); HORIZON]) {
        let weather = std::array::from_fn(|i| {
            let on = later(date(2026, 7, 6), i);
            DailyWeather::filled(on, Depth::from_mm(6.0), Some(24.0))
        });
        let days = zone_days(model, &weather);
        (days, [(days[6].etc, days[6].raw); HORIZON])
    }

    proptest! {
        /// Greedy is the least harm: no move of a step's water from one zone to another spares any, within what a step is worth.
        #[test]
        fn no_other_share_harms_less(
            zones in prop::collection::vec((60.0..300.0f64, 0.2..1.0f64, 50.0..900.0f64, 1..=9u8), 1..4),
            litres in 0.0..20_000.0f64,
        ) {
            let models: Vec<ZoneModel> = zones.iter().map(|z| model(z.0)).collect();
            let seen: Vec<_> = models.iter().map(days).collect();
            let claims: Vec<Claim> = zones.iter().zip(&models).zip(&seen).map(|((z, model), (days, beyond))| Claim {
                model,
                days: Daybook { days, beyond },
                depletion: model.taw * z.1,
                day: 0,
                carries: [0, 2, 4].map(|day| (day, Depth::from_mm(15.0))).to_vec(),
                weight: (10.0 - f64::from(z.3)) / 5.0,
                area: Area::from_m2(z.2),
            }).collect();
            let shared = share(&claims, Volume::from_l(litres), 6);
            let used: f64 = claims.iter().zip(&shared.net).map(|(c, net)| c.litres(*net)).sum();
            prop_assert!(used <= litres + 1e-6);
            prop_assert!((used + shared.over_l - litres).abs() < 1e-6);
            prop_assert!(shared.over_l > 0.0 || shared.needed_l + 1e-6 >= used);
            let harm = |nets: &[Depth]| -> f64 {
                claims.iter().zip(nets).map(|(c, net)| c.weight * c.area.m2() * c.harm(*net, 7).mm()).sum()
            };
            let least = harm(&shared.net);
            // All shares on a grid of 2 mm that the volume allows.
            let grid: Vec<f64> = (0..=22).map(|i| 2.0 * f64::from(i)).collect();
            let mut stack: Vec<Vec<Depth>> = vec![Vec::new()];
            while let Some(nets) = stack.pop() {
                if nets.len() == claims.len() {
                    // What a step of rounding in each zone could spare.
                    let slack: f64 = claims.iter().map(|c| c.weight * c.area.m2() * STEP_MM).sum::<f64>();
                    prop_assert!(harm(&nets) >= least - slack, "{nets:?} against {:?}", shared.net);
                    continue;
                }
                for mm in &grid {
                    let mut more = nets.clone();
                    more.push(Depth::from_mm(*mm));
                    let used: f64 = claims.iter().zip(&more).map(|(c, net)| c.litres(*net)).sum();
                    if used <= litres {
                        stack.push(more);
                    }
                }
            }
        }
    }
}
