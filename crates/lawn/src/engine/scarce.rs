//! What less water than is wanted costs over the days ahead: the curve of volume against harm, and who gets what of a volume.
//!
//! Trees in the lawn come first, then new grass, then crowns of what is let go, at their due date; the rest goes where a litre prevents most harm ([`crate::engine::rationing`]). The hours of each zone
//! count, the site's clock does not: a week on which the nights are full too may hold less.

use crate::engine::morning::{self, Ahead, Facts, ZoneState};
use crate::engine::rationing::{self, Claim};
use crate::engine::sharing::{asked_l, claim};
use crate::engine::site_week::{self, Frame};
use crate::engine::slot::HORIZON;
use crate::engine::zone_week::{Member, Turn};
use crate::quantity::{Depth, Volume};

/// More than any site is given in a week.
const ENOUGH: Volume = Volume::from_l(1e12);
/// The last day ahead that counts.
const TO: usize = HORIZON - 1;
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
    /// When it has its turn.
    pub turn: Turn,
    /// What it needs so that it is not harmed, or what its crowns or its new grass are due.
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
    /// What new grass is due.
    pub new_grass: Volume,
    /// What crowns are due.
    pub crowns: Volume,
    /// What all need so that nobody is harmed.
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
    let planned: Vec<usize> = (0..members.len())
        .filter(|&z| facts.zones[z].planned)
        .collect();
    let at = |turn: Turn| -> Vec<usize> {
        let own = planned.iter().copied();
        own.filter(|&z| members[z].turn() == turn).collect()
    };
    let claims = |zones: &[usize]| -> Vec<Claim> {
        let claim = |&z: &usize| claim(&members[z], &going[z], 0, TO);
        zones.iter().map(claim).collect()
    };
    let (trees, crowns, green) = (at(Turn::Trees), at(Turn::Crowns), at(Turn::Green));
    let (tree_claims, green_claims) = (claims(&trees), claims(&green));
    let mut sharing = Sharing {
        left_l: volume.l(),
        needed_l: 0.0,
        parts: Vec::new(),
        curve: Vec::new(),
    };
    let trees_harm_l = sharing.by_harm(
        Turn::Trees,
        &trees,
        &tree_claims,
        harm_l(&green_claims, |_| Depth::ZERO),
    );
    for zone in at(Turn::NewGrass) {
        sharing.in_turn(zone, &members[zone], new_grass_l(&members[zone], facts));
    }
    for zone in crowns {
        let due_l = asked_l(&members[zone], &going[zone], 0, TO);
        sharing.in_turn(zone, &members[zone], due_l);
    }
    let unspared_l = sharing.curve.last().map_or(0.0, |point| point.harm_l);
    let unspared_l = unspared_l - harm_l(&green_claims, |_| Depth::ZERO);
    let green_harm_l = sharing.by_harm(Turn::Green, &green, &green_claims, unspared_l);
    sharing.parts.sort_by_key(|part| part.zone);
    Scarce {
        new_grass: sharing.due(Turn::NewGrass),
        crowns: sharing.due(Turn::Crowns),
        needed: Volume::from_l(sharing.needed_l),
        curve: thinned(&sharing.curve),
        harm_l: trees_harm_l + green_harm_l,
        parts: sharing.parts,
    }
}

/// Harm that claims come to with some net depth each, L.
fn harm_l(claims: &[Claim], net: impl Fn(usize) -> Depth) -> f64 {
    let harm = |(i, claim): (usize, &Claim)| {
        claim.weight * claim.area.m2() * claim.misses(net(i), TO).mm()
    };
    claims.iter().enumerate().map(harm).sum()
}

/// A volume while it is shared out, to who comes first first.
struct Sharing {
    /// What is left of it.
    left_l: f64,
    /// What those need who had their turn.
    needed_l: f64,
    parts: Vec<Part>,
    curve: Vec<Point>,
}

impl Sharing {
    fn point(&mut self, harm_l: f64) {
        let point = Point {
            volume: Volume::from_l(self.needed_l),
            harm_l,
        };
        if self
            .curve
            .last()
            .is_none_or(|last| last.volume < point.volume)
        {
            self.curve.push(point);
        }
    }

    /// Where a litre prevents most harm; `others_l`: harm of those who are not among them, while these are served. The harm that is left to these, L.
    fn by_harm(&mut self, turn: Turn, zones: &[usize], claims: &[Claim], others_l: f64) -> f64 {
        let enough = rationing::share(claims, ENOUGH, TO);
        let shared = rationing::share(claims, Volume::from_l(self.left_l), TO);
        for (i, (&zone, claim)) in zones.iter().zip(claims).enumerate() {
            // What is left over once nobody is harmed is not given.
            let net = shared.net[i].min(enough.net[i]);
            let gets_l = claim.litres(net);
            self.left_l = (self.left_l - gets_l).max(0.0);
            self.parts.push(Part {
                zone,
                turn,
                needs: Volume::from_l(claim.litres(enough.net[i])),
                gets: Volume::from_l(gets_l),
                net,
                missed: claim.misses(net, TO),
                missed_without: claim.misses(Depth::ZERO, TO),
            });
        }
        let before_l = self.needed_l;
        let nets = claims.iter().zip(&enough.net);
        let needs_l: f64 = nets.map(|(claim, net)| claim.litres(*net)).sum();
        // The course goes in whole steps, and beyond what is needed by parts of them: it ends where the needs do.
        let course = rationing::course(claims, TO);
        let whole_l = course.last().map_or(0.0, |(litres, _)| *litres);
        let of_whole = if whole_l > 0.0 {
            needs_l / whole_l
        } else {
            0.0
        };
        for (litres, harm_l) in course {
            self.needed_l = before_l + litres * of_whole;
            self.point(others_l + harm_l);
        }
        self.needed_l = before_l + needs_l;
        harm_l(claims, |i| shared.net[i])
    }

    /// What crowns, or new grass, are due, L: they get it if it is there.
    fn in_turn(&mut self, zone: usize, member: &Member, due_l: f64) {
        let gets_l = due_l.min(self.left_l);
        self.left_l -= gets_l;
        self.needed_l += due_l;
        self.parts.push(Part {
            zone,
            turn: member.turn(),
            needs: Volume::from_l(due_l),
            gets: Volume::from_l(gets_l),
            net: member
                .model
                .net_of_gross(Depth::from_mm(gets_l / member.area.m2())),
            missed: Depth::ZERO,
            missed_without: Depth::ZERO,
        });
    }

    /// What those of a turn need.
    fn due(&self, turn: Turn) -> Volume {
        let own = self.parts.iter().filter(|part| part.turn == turn);
        own.map(|part| part.needs).sum()
    }
}

/// What new grass is to get over the days, L, if nobody else wanted any.
fn new_grass_l<C>(member: &Member, facts: &Facts<C>) -> f64 {
    let alone = Frame {
        openings: &facts.openings,
        targets_s: &facts.targets_s,
        caps: &[],
        reserve: None,
    };
    let week = site_week::plan_site(std::slice::from_ref(member), &alone, HORIZON);
    let doses = week.zones.iter().flat_map(|zone| &zone.proposals);
    let gross: Depth = doses
        .filter_map(|p| p.dose())
        .map(|d| d.irrigation.gross)
        .sum();
    (gross * member.area).l()
}

/// As many points as are drawn, the first and the last among them.
fn thinned(all: &[Point]) -> Vec<Point> {
    let every = all.len().div_ceil(POINTS).max(1);
    let last = all.len().saturating_sub(1);
    let kept = all.iter().enumerate();
    let kept = kept.filter(|(i, _)| i % every == 0 || *i == last);
    kept.map(|(_, point)| *point).collect()
}
