//! Too little water: a volume that zones share over some days goes where it prevents most harm per litre.
//!
//! harm = Σ weight · area · Σ days (ETc − ETa), weight (10 − rank)/5, water in litres out of the sprinklers, no rain counted on. From nothing, a mm at a time goes to the zone in which it
//! prevents most harm per litre, until the volume is gone or nobody is harmed any more. In each zone the first mm prevents at least as much as the next, so that this is the least harm of all
//! (to a mm; checked against a linear program and against trying all). What is left over after all harm is prevented goes to what is wanted tonight.

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
/// What is given at a time of the last step of each zone, mm.
const FINE_MM: f64 = 0.1;
/// Harm less than this is none, mm.
const NO_HARM_MM: f64 = 1e-6;
/// Days from tonight that harm is looked for at least.
const SEEN_DAYS: usize = 7;

/// What does not let more water pass.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CappedBy {
    /// A local rule, by its place.
    Rule(usize),
    /// The tank or well, and what runs back into it.
    Store,
}

/// A volume that zones share from one day ahead to another.
#[derive(Debug, Clone, PartialEq)]
pub struct Cap {
    /// What does not let more pass.
    pub by: CappedBy,
    /// Whether it is about each zone.
    pub about: Vec<bool>,
    /// What is left of it.
    pub left: Volume,
    /// First day ahead.
    pub from: usize,
    /// Last day ahead.
    pub to: usize,
}

/// A zone that gets less because of a volume that a rule, or the store, does not let pass.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rationed {
    /// The zone's place in the list.
    pub zone: usize,
    /// The opening.
    pub opening: usize,
    /// What does not let more pass.
    pub by: CappedBy,
    /// What it would have been given.
    pub wanted: Depth,
    /// What it gets.
    pub gives: Depth,
    /// What was left of the volume before the opening.
    pub left: Volume,
    /// What would have to be left so that nobody is harmed.
    pub needed: Volume,
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
                    by: CappedBy::Rule(rule),
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

    /// The same over the days of a volume, or a week.
    pub(crate) fn misses(&self, net: Depth, to: usize) -> Depth {
        self.harm(net, self.until(to))
    }

    /// The day before which harm is looked for, of a volume that lasts to a day.
    fn until(&self, to: usize) -> usize {
        (to + 1).max(self.day + SEEN_DAYS).min(LOOKED_AHEAD)
    }

    /// What the next step of water prevents of what counts, a litre.
    fn spares(&self, net: Depth, step: Depth, until: usize) -> f64 {
        let spared = (self.harm(net, until) - self.harm(net + step, until)).mm();
        if spared < NO_HARM_MM * step.mm() {
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
    let (step, fine) = (Depth::from_mm(STEP_MM), Depth::from_mm(FINE_MM));
    let mut sharing = Sharing {
        claims,
        to,
        net: vec![Depth::ZERO; claims.len()],
        left_l: volume.l(),
    };
    sharing.give(step);
    let all = Sharing {
        net: sharing.net.clone(),
        left_l: f64::INFINITY,
        ..sharing
    };
    // The last step of each zone once more, in finer ones: what it prevents may end within it.
    for (net, claim) in sharing.net.iter_mut().zip(claims) {
        if *net >= step {
            *net -= step;
            sharing.left_l += claim.litres(step);
        }
    }
    sharing.give(fine);
    sharing.give_the_last(fine);
    Shared {
        needed_l: all.needed_l(step),
        over_l: sharing.left_l,
        net: sharing.net,
    }
}

/// How harm falls as claims are given more, a mm at a time where it prevents most harm: litres so far, and the harm that is left, from nothing to where nobody is
/// harmed any more.
pub(crate) fn course(claims: &[Claim], to: usize) -> Vec<(f64, f64)> {
    let step = Depth::from_mm(STEP_MM);
    let mut sharing = Sharing {
        claims,
        to,
        net: vec![Depth::ZERO; claims.len()],
        left_l: 0.0,
    };
    let weighed =
        |claim: &Claim| claim.weight * claim.area.m2() * claim.misses(Depth::ZERO, to).mm();
    let mut harm: f64 = claims.iter().map(weighed).sum();
    let mut given = 0.0;
    let mut course = vec![(given, harm)];
    let mut spares = sharing.spares_of_all(step);
    while let Some(best) = Sharing::best(&spares) {
        let litres = claims[best].litres(step);
        given += litres;
        harm = spares[best].mul_add(-litres, harm);
        sharing.net[best] += step;
        spares[best] = sharing.spares(best, step);
        course.push((given, harm.max(0.0)));
    }
    course
}

/// A volume while it is shared out.
struct Sharing<'a> {
    claims: &'a [Claim<'a>],
    to: usize,
    /// What each claim has so far.
    net: Vec<Depth>,
    left_l: f64,
}

impl Sharing<'_> {
    fn spares(&self, i: usize, step: Depth) -> f64 {
        let claim = &self.claims[i];
        claim.spares(self.net[i], step, claim.until(self.to))
    }

    fn best(spares: &[f64]) -> Option<usize> {
        let harmed = (0..spares.len()).filter(|&i| spares[i] > 0.0);
        harmed.max_by(|&a, &b| spares[a].total_cmp(&spares[b]).then(b.cmp(&a)))
    }

    fn spares_of_all(&self, step: Depth) -> Vec<f64> {
        (0..self.claims.len())
            .map(|i| self.spares(i, step))
            .collect()
    }

    /// Gives steps where they prevent most harm a litre, while there is enough for one.
    fn give(&mut self, step: Depth) {
        let mut spares = self.spares_of_all(step);
        while let Some(best) = Self::best(&spares) {
            let litres = self.claims[best].litres(step);
            if litres > self.left_l {
                return;
            }
            self.left_l -= litres;
            self.net[best] += step;
            spares[best] = self.spares(best, step);
        }
    }

    /// Gives what is less than a step.
    fn give_the_last(&mut self, step: Depth) {
        let Some(best) = Self::best(&self.spares_of_all(step)) else {
            return;
        };
        let part = (self.left_l / self.claims[best].litres(step)).min(1.0);
        self.net[best] += step * part;
        self.left_l -= self.claims[best].litres(step * part);
    }

    /// Litres of all that prevents harm, those given among them.
    fn needed_l(mut self, step: Depth) -> f64 {
        self.give(step);
        let each = self.claims.iter().zip(&self.net);
        each.map(|(claim, net)| claim.litres(*net)).sum()
    }
}

#[cfg(test)]
#[path = "../../examples/score/linear.rs"]
mod linear;

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

    /// Least harm of all shares of a volume over a week, by a linear program: of each zone and day net n, depletion at the end D and ETa e;
    /// D = D′ − n + e, e ≤ ETc (TAW − D′ + n) / (TAW − RAW), e ≤ ETc, e ≤ TAW − D′ + n, n ≤ D′ and what the day carries; all gross litres within the volume.
    fn least_harm(claims: &[Claim], litres: f64) -> f64 {
        let row = |entries: Vec<(usize, f64)>, right: f64| linear::Row { entries, right };
        let (mut equal, mut most, mut volume) = (Vec::new(), Vec::new(), Vec::new());
        let mut cost = vec![0.0; claims.len() * SEEN_DAYS * 3];
        let mut all = 0.0;
        for (z, claim) in claims.iter().enumerate() {
            let taw = claim.model.taw.mm();
            for day in 0..SEEN_DAYS {
                let (net, end, eta) = {
                    let at = 3 * (z * SEEN_DAYS + day);
                    (at, at + 1, at + 2)
                };
                let begins = if day == 0 { claim.depletion.mm() } else { 0.0 };
                // With D′ where it is a variable: D of the day before.
                let with = |mut entries: Vec<(usize, f64)>, factor: f64| {
                    if day > 0 {
                        entries.push((end - 3, factor));
                    }
                    entries
                };
                let (etc, raw) = claim.days.use_of(day);
                let (etc, raw) = (etc.mm(), raw.mm());
                let slope = etc / (taw - raw);
                equal.push(row(
                    with(vec![(end, 1.0), (net, 1.0), (eta, -1.0)], -1.0),
                    begins,
                ));
                most.push(row(
                    with(vec![(eta, 1.0), (net, -slope)], slope),
                    slope * (taw - begins),
                ));
                most.push(row(with(vec![(eta, 1.0), (net, -1.0)], 1.0), taw - begins));
                most.push(row(vec![(eta, 1.0)], etc));
                let carries = claim.carries.iter().filter(|c| c.0 == day);
                most.push(row(vec![(net, 1.0)], carries.map(|c| c.1.mm()).sum()));
                most.push(row(with(vec![(net, 1.0)], -1.0), begins));
                for v in [net, end, eta] {
                    most.push(row(vec![(v, -1.0)], 0.0));
                }
                let weight = claim.weight * claim.area.m2();
                cost[eta] = -weight;
                all += weight * etc;
                volume.push((net, claim.litres(Depth::from_mm(1.0))));
            }
        }
        most.push(row(volume, litres));
        let found = linear::solve(cost.len(), &cost, &equal, &most).unwrap();
        all + cost.iter().zip(&found).map(|(c, x)| c * x).sum::<f64>()
    }

    type Seen = ([ZoneDay; HORIZON], [(Depth, Depth); HORIZON]);

    /// A zone as it claims: its roots, how dry it is, its area, its rank.
    type Zoned = (f64, f64, f64, u8);

    fn claims<'a>(zones: &[Zoned], models: &'a [ZoneModel], seen: &'a [Seen]) -> Vec<Claim<'a>> {
        let each = zones.iter().zip(models).zip(seen);
        each.map(|((z, model), (days, beyond))| Claim {
            model,
            days: Daybook { days, beyond },
            depletion: model.taw * z.1,
            day: 0,
            carries: [0, 2, 4].map(|day| (day, Depth::from_mm(15.0))).to_vec(),
            weight: (10.0 - f64::from(z.3)) / 5.0,
            area: Area::from_m2(z.2),
        })
        .collect()
    }

    fn harm(claims: &[Claim], nets: &[Depth]) -> f64 {
        let each = claims.iter().zip(nets);
        each.map(|(c, net)| c.weight * c.area.m2() * c.harm(*net, SEEN_DAYS).mm())
            .sum()
    }

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
        #![proptest_config(ProptestConfig::with_cases(500))]
        /// Within a hundredth of a linear program of the same days, and what the last, partial step of each zone may miss.
        #[test]
        fn a_share_is_as_good_as_a_linear_programs(
            zones in prop::collection::vec((60.0..300.0f64, 0.2..1.0f64, 50.0..900.0f64, 1..=9u8), 2..7),
            part in 0.05..1.0f64,
        ) {
            let models: Vec<ZoneModel> = zones.iter().map(|z| model(z.0)).collect();
            let seen: Vec<_> = models.iter().map(days).collect();
            let claims = claims(&zones, &models, &seen);
            let enough = share(&claims, Volume::from_l(1e9), 6).needed_l;
            let litres = part * enough;
            let shared = share(&claims, Volume::from_l(litres), 6);
            let (ours, least) = (harm(&claims, &shared.net), least_harm(&claims, litres));
            let use_of_all = harm(&claims, &vec![Depth::ZERO; claims.len()]);
            prop_assert!(ours >= least - 1e-4 * use_of_all, "{ours} under the least, {least}");
            let step: f64 = claims.iter().map(|c| c.weight * c.area.m2() * FINE_MM).sum();
            prop_assert!(ours <= 1.01 * least + step, "{ours}, the least is {least} of {use_of_all}");
        }
    }

    proptest! {
        /// Greedy is the least harm: no move of a step's water from one zone to another prevents any, within what a step is worth.
        #[test]
        fn no_other_share_harms_less(
            zones in prop::collection::vec((60.0..300.0f64, 0.2..1.0f64, 50.0..900.0f64, 1..=9u8), 1..4),
            litres in 0.0..20_000.0f64,
        ) {
            let models: Vec<ZoneModel> = zones.iter().map(|z| model(z.0)).collect();
            let seen: Vec<_> = models.iter().map(days).collect();
            let claims = claims(&zones, &models, &seen);
            let shared = share(&claims, Volume::from_l(litres), 6);
            let used: f64 = claims.iter().zip(&shared.net).map(|(c, net)| c.litres(*net)).sum();
            prop_assert!(used <= litres + 1e-6);
            prop_assert!((used + shared.over_l - litres).abs() < 1e-6);
            prop_assert!(shared.over_l > 0.0 || shared.needed_l + 1e-6 >= used);
            let least = harm(&claims, &shared.net);
            // All shares on a grid of 2 mm that the volume allows.
            let grid: Vec<f64> = (0..=22).map(|i| 2.0 * f64::from(i)).collect();
            let mut stack: Vec<Vec<Depth>> = vec![Vec::new()];
            while let Some(nets) = stack.pop() {
                if nets.len() == claims.len() {
                    // What a step of rounding in each zone could prevent.
                    let slack: f64 = claims.iter().map(|c| c.weight * c.area.m2() * STEP_MM).sum::<f64>();
                    prop_assert!(harm(&claims, &nets) >= least - slack, "{nets:?} against {:?}", shared.net);
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
