//! Shares a night's part of a scarce volume among the zones that want it: a rule's, or what a tank or well gives.

use crate::engine::dose::{self, Dose};
use crate::engine::night::weight;
use crate::engine::rationing::{self, Cap, CappedBy, Claim, Rationed, Shared};
use crate::engine::reserve::Reserve;
use crate::engine::schools::Proposal;
use crate::engine::slot::{HORIZON, Opening, Standing};
use crate::engine::zone_week::{Going, Member, Turn};
use crate::quantity::{Depth, Volume};

/// What the store can give in an opening, and from then to the end of the plan.
pub(crate) fn of_store(
    members: &[Member],
    openings: &[Opening],
    opening: usize,
    reserve: &Reserve,
) -> Vec<Cap> {
    let Opening { day, window, .. } = openings[opening];
    let cap = |left: Volume, to: usize| Cap {
        by: CappedBy::Store,
        about: vec![true; members.len()],
        left,
        from: day,
        to,
    };
    let mut caps = vec![cap(reserve.gives(window), day)];
    let last = openings[opening..].iter().rfind(|o| o.day < HORIZON);
    if let Some(last) = last.filter(|o| o.day > day) {
        caps.push(cap(reserve.gives_by(last.window.end_s), last.day));
    }
    caps
}

/// Shares out a volume, where it does not hold all that is wanted then and later; what a person has fixed comes first, then trees, then new grass, then crowns at their due date.
pub(crate) fn ration(
    members: &[Member],
    going: &[Going],
    opening: usize,
    day: usize,
    cap: &Cap,
    proposals: &mut [Option<Proposal>],
    rationed: &mut Vec<Rationed>,
) {
    let mut rationing = Rationing {
        members,
        going,
        opening,
        day,
        cap,
        proposals,
        rationed,
    };
    let about: Vec<usize> = (0..members.len()).filter(|&z| cap.about[z]).collect();
    let (fixed, free): (Vec<usize>, Vec<usize>) =
        about.into_iter().partition(|&z| rationing.is_fixed(z));
    let at = |turn: Turn| -> Vec<usize> {
        let own = free.iter().copied();
        own.filter(|&z| members[z].turn() == turn).collect()
    };
    let left_l = rationing.in_turn(&fixed, cap.left.l());
    let left_l = rationing.by_harm(at(Turn::Trees), left_l);
    let left_l = rationing.in_turn(&at(Turn::NewGrass), left_l);
    let crowns = at(Turn::Crowns);
    let left_l = rationing.in_turn(&crowns, left_l);
    let left_l = (left_l - rationing.kept_for(&crowns)).max(0.0);
    rationing.by_harm(at(Turn::Green), left_l);
}

/// A volume that is shared on an opening.
struct Rationing<'a> {
    members: &'a [Member<'a>],
    going: &'a [Going<'a>],
    opening: usize,
    day: usize,
    cap: &'a Cap,
    proposals: &'a mut [Option<Proposal>],
    rationed: &'a mut Vec<Rationed>,
}

impl Rationing<'_> {
    fn is_fixed(&self, zone: usize) -> bool {
        self.proposals[zone].is_some_and(|p| matches!(p.slot.standing, Standing::Fixed(_)))
    }

    fn dose_of(&self, zone: usize) -> Option<Dose> {
        self.proposals[zone].and_then(|p| p.dose().copied())
    }

    /// Gives a zone less than it wants tonight.
    fn less(&mut self, zone: usize, share: Depth, needed: Volume) {
        let Some(proposal) = &mut self.proposals[zone] else {
            return;
        };
        let wanted = proposal.dose().map_or(Depth::ZERO, |d| d.irrigation.net);
        let less = dose::dose(self.members[zone].model, share, proposal.slot.window_s);
        proposal.ration(less);
        self.rationed.push(Rationed {
            zone,
            opening: self.opening,
            by: self.cap.by,
            wanted,
            gives: less.map_or(Depth::ZERO, |d| d.irrigation.net),
            left: self.cap.left,
            needed,
        });
    }

    /// One after another, as much of a volume as each wants tonight; what is left of it, L.
    fn in_turn(&mut self, zones: &[usize], mut left_l: f64) -> f64 {
        for &zone in zones {
            let Some(dose) = self.dose_of(zone) else {
                continue;
            };
            let wanted_l = (dose.irrigation.gross * self.members[zone].area).l();
            if wanted_l > left_l {
                let share = dose.irrigation.net * (left_l / wanted_l);
                self.less(zone, share, Volume::from_l(wanted_l));
            }
            left_l = (left_l - wanted_l).max(0.0);
        }
        left_l
    }

    /// What crowns that are not watered tonight will be due before the volume is over, L.
    fn kept_for(&self, crowns: &[usize]) -> f64 {
        let later = crowns.iter().filter(|&&z| self.dose_of(z).is_none());
        later
            .map(|&z| asked_l(&self.members[z], &self.going[z], self.day + 1, self.cap.to))
            .sum()
    }

    /// Where a litre prevents most harm until the volume is over; what is left of it for others, L.
    fn by_harm(&mut self, mut free: Vec<usize>, left_l: f64) -> f64 {
        let (day, to) = (self.day, self.cap.to);
        // What is shared tonight alone is shared by those who water tonight.
        free.retain(|&z| to > day || self.dose_of(z).is_some());
        let mut needed = None;
        loop {
            let claims: Vec<Claim> = free
                .iter()
                .map(|&z| claim(&self.members[z], &self.going[z], day, to))
                .collect();
            let shared = rationing::share(&claims, Volume::from_l(left_l), to);
            let needed = *needed.get_or_insert(Volume::from_l(shared.needed_l));
            let tonight = tonight(&claims, &free, &shared, self.proposals);
            // Who would get less than the least pass leaves it to the others.
            let too_little = tonight.iter().find(|(zone, share)| {
                let model = self.members[*zone].model;
                let window_s = self.proposals[*zone].map_or(0, |p| p.slot.window_s);
                *share > Depth::ZERO && dose::dose(model, *share, window_s).is_none()
            });
            if let Some(&(zone, _)) = too_little {
                self.less(zone, Depth::ZERO, needed);
                free.retain(|z| *z != zone);
                continue;
            }
            for (zone, share) in tonight {
                self.less(zone, share, needed);
            }
            return (left_l - needed.l()).max(0.0);
        }
    }
}

/// What a zone asks for its crowns from a day to the last day of a volume, L.
pub(crate) fn asked_l(member: &Member, going: &Going, from: usize, to: usize) -> f64 {
    let slots = going.slots.get(going.here..).unwrap_or_default();
    let later = slots
        .iter()
        .filter(|s| from <= s.day && s.day <= to && s.day < HORIZON);
    let asked = later.filter(|s| s.carries() > Depth::ZERO).find_map(|s| {
        let weather = &member.days[s.day].weather;
        let net = member.keeping.asks(member.model, &going.lately, weather);
        (net > Depth::ZERO).then_some(net)
    });
    asked.map_or(0.0, |net| {
        (member.model.gross_of_net(net) * member.area).l()
    })
}

/// What those get tonight of what was shared who get less than they want; what is over goes to what is wanted tonight, the greatest need first.
fn tonight(
    claims: &[Claim],
    zones: &[usize],
    shared: &Shared,
    proposals: &[Option<Proposal>],
) -> Vec<(usize, Depth)> {
    let mut over_l = shared.over_l;
    let mut order: Vec<usize> = (0..zones.len()).collect();
    let urgency = |i: usize| proposals[zones[i]].map_or(f64::MIN, |p| p.urgency.mm());
    order.sort_by(|&a, &b| urgency(b).total_cmp(&urgency(a)));
    let mut short = Vec::new();
    for i in order {
        let dose = proposals[zones[i]].and_then(|p| p.dose().copied());
        let Some(wanted) = dose.map(|d| d.irrigation.net) else {
            continue;
        };
        let l_per_mm = claims[i].litres(Depth::from_mm(1.0));
        let more = Depth::from_mm((over_l / l_per_mm).min((wanted - shared.net[i]).mm().max(0.0)));
        over_l -= claims[i].litres(more);
        let share = shared.net[i] + more;
        if share < wanted {
            short.push((zones[i], share));
        }
    }
    short
}

/// What a zone claims of a volume from an opening's day to the last day of the volume.
pub(crate) fn claim<'a>(member: &'a Member, going: &Going, day: usize, to: usize) -> Claim<'a> {
    let slots = going.slots.get(going.here..).unwrap_or_default();
    Claim {
        model: member.model,
        days: member.daybook(),
        depletion: going.depletion - going.given.all().net,
        day,
        carries: slots
            .iter()
            .filter(|s| s.day <= to)
            .map(|s| (s.first_use(), s.carries()))
            .collect(),
        weight: weight(member.priority),
        area: member.area,
    }
}

/// Takes what a night gives off its volumes.
pub(crate) fn spend(
    members: &[Member],
    proposals: &[Option<Proposal>],
    day: usize,
    caps: &mut [Cap],
) {
    for cap in caps.iter_mut().filter(|c| c.from <= day && day <= c.to) {
        let given = members.iter().zip(proposals).zip(&cap.about);
        let given: f64 = given
            .filter(|(_, about)| **about)
            .filter_map(|((member, proposal), _)| {
                let dose = proposal.as_ref()?.dose()?;
                Some((dose.irrigation.gross * member.area).l())
            })
            .sum();
        cap.left = Volume::from_l((cap.left.l() - given).max(0.0));
    }
}
