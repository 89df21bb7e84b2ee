//! What less water than is wanted costs over the days ahead: the curve of volume against harm, and who gets what of a volume.
//!
//! Crowns of what is let go come first, at their due date; the rest goes where a litre spares most harm ([`crate::engine::rationing`]). The hours of each zone
//! count, the site's clock does not: a week on which the nights are full too may hold less.

use crate::engine::morning::{self, Ahead, Facts, ZoneState};
use crate::engine::rationing::{self, Claim};
use crate::engine::sharing::{asked_l, claim};
use crate::engine::site_week;
use crate::engine::slot::HORIZON;
use crate::quantity::{Depth, Volume};

/// More than any site is given in a week.
const ENOUGH: Volume = Volume::from_l(1e12);
/// Most points of the curve.
const POINTS: usize = 60;

/// Harm that a volume leaves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Point {
    /// The volume, out of the sprinklers.
    pub volume: Volume,
    /// Harm: the ET that turf misses, by area and by rank's weight, L.
    pub harm_l: f64,
}

/// What a zone gets of a volume.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Part {
    /// Its place among the facts' zones.
    pub zone: usize,
    /// Whether it is let go, and this is for its crowns.
    pub is_crowns: bool,
    /// What it needs so that it is not harmed, or what its crowns are due.
    pub needs: Volume,
    /// What it gets.
    pub gets: Volume,
    /// The same, net depth.
    pub net: Depth,
    /// ET that it misses with that.
    pub missed: Depth,
    /// ET that it misses without any water.
    pub missed_without: Depth,
}

/// What less water than is wanted costs.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Scarce {
    /// What crowns are due.
    pub crowns: Volume,
    /// What all need so that nobody is harmed, crowns first.
    pub needed: Volume,
    /// Harm by volume, from none up to what is needed.
    pub curve: Vec<Point>,
    /// Harm that the volume that was asked about leaves, L.
    pub harm_l: f64,
    /// Who gets what of it.
    pub parts: Vec<Part>,
}

/// What a volume for the days ahead comes to, and every other.
#[must_use]
pub fn scarce<C: Fn(usize, i64) -> Depth>(
    facts: &Facts<C>,
    state: &[ZoneState],
    ahead: &Ahead,
    volume: Volume,
) -> Scarce {
    let members = morning::members(facts, state, ahead);
    let going = site_week::begin(&members);
    let to = HORIZON - 1;
    let planned = (0..members.len()).filter(|&z| facts.zones[z].planned);
    let (asleep, green): (Vec<usize>, Vec<usize>) =
        planned.partition(|&z| members[z].keeping.is_crowns());
    let mut parts = Vec::new();
    let mut left_l = volume.l();
    let mut crowns_l = 0.0;
    for zone in asleep {
        let due_l = asked_l(&members[zone], &going[zone], 0, to);
        let gets_l = due_l.min(left_l);
        left_l -= gets_l;
        crowns_l += due_l;
        let member = &members[zone];
        parts.push(Part {
            zone,
            is_crowns: true,
            needs: Volume::from_l(due_l),
            gets: Volume::from_l(gets_l),
            net: member
                .model
                .net_of_gross(Depth::from_mm(gets_l / member.area.m2())),
            missed: Depth::ZERO,
            missed_without: Depth::ZERO,
        });
    }
    let claims: Vec<Claim> = green
        .iter()
        .map(|&z| claim(&members[z], &going[z], 0, to))
        .collect();
    let enough = rationing::share(&claims, ENOUGH, to);
    let shared = rationing::share(&claims, Volume::from_l(left_l), to);
    for (i, (&zone, claim)) in green.iter().zip(&claims).enumerate() {
        // What is left over once nobody is harmed is not given.
        let net = shared.net[i].min(enough.net[i]);
        parts.push(Part {
            zone,
            is_crowns: false,
            needs: Volume::from_l(claim.litres(enough.net[i])),
            gets: Volume::from_l(claim.litres(net)),
            net,
            missed: claim.misses(net, to),
            missed_without: claim.misses(Depth::ZERO, to),
        });
    }
    let harm = |(claim, net): (&Claim, &Depth)| {
        claim.weight * claim.area.m2() * claim.misses(*net, to).mm()
    };
    let harm_l = claims.iter().zip(&shared.net).map(harm).sum();
    parts.sort_by_key(|part| part.zone);
    let course = rationing::course(&claims, to);
    let before = (crowns_l > 0.0).then(|| (0.0, course[0].1));
    let all: Vec<Point> = before
        .into_iter()
        .chain(
            course
                .iter()
                .map(|(litres, harm_l)| (crowns_l + litres, *harm_l)),
        )
        .map(|(litres, harm_l)| Point {
            volume: Volume::from_l(litres),
            harm_l,
        })
        .collect();
    Scarce {
        crowns: Volume::from_l(crowns_l),
        needed: Volume::from_l(crowns_l + course.last().map_or(0.0, |last| last.0)),
        curve: thinned(&all),
        harm_l,
        parts,
    }
}

/// As many points as are drawn, the first and the last among them.
fn thinned(all: &[Point]) -> Vec<Point> {
    let every = all.len().div_ceil(POINTS).max(1);
    let last = all.len().saturating_sub(1);
    let kept = all.iter().enumerate();
    let kept = kept.filter(|(i, _)| i % every == 0 || *i == last);
    kept.map(|(_, point)| *point).collect()
}
