//! What a zone asks of the nights ahead without rain, by the end of each: what levelling shares out.

use super::{Keeping, School, calendar};
use crate::engine::lately::Lately;
use crate::engine::root_zone::Irrigation;
use crate::engine::slot::{Daybook, HORIZON, LOOKED_AHEAD, Opening};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;

/// What a zone asks of the nights ahead, mm net, summed up to each.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Needs {
    /// The least that must have been given by the end of each night; never falls.
    pub by_then_mm: Vec<f64>,
    /// The most that can have been given by then.
    pub room_mm: Vec<f64>,
}

/// A zone on the eve of some nights.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Eve<'a> {
    pub model: &'a ZoneModel,
    pub days: Daybook<'a>,
    /// Depletion at the dawn of its first day, after what that day has given so far.
    pub depletion: Depth,
    /// Its first day.
    pub day: usize,
    pub lately: Lately,
    pub nights: &'a [Opening],
    /// The most that each night carries for it, mm.
    pub carries_mm: &'a [f64],
}

impl Keeping {
    /// What is asked of the nights ahead. What goes by the calendar asks on its own days and never earlier.
    pub(crate) fn needs(&self, eve: &Eve) -> Needs {
        match self {
            Self::School(School::WaterBalance) => by_balance(eve),
            _ => by_calendar(self, eve),
        }
    }
}

/// RAW must not be passed before the night after; no more can be given than was used.
fn by_balance(eve: &Eve) -> Needs {
    let mut needs = Needs::default();
    let mut dry = eve.depletion;
    let mut needed: f64 = 0.0;
    let uses = |o: &Opening| o.day + usize::from(o.after_noon);
    let end = if eve.nights.iter().any(|o| o.day >= HORIZON) {
        LOOKED_AHEAD
    } else {
        HORIZON
    };
    let mut day = eve.day;
    for (i, o) in eve.nights.iter().enumerate() {
        while day < uses(o) && day < end {
            dry += eve.days.use_of(day).0;
            day += 1;
        }
        needs.room_mm.push(dry.mm().max(0.0));
        let until = eve.nights.get(i + 1).map_or(end, uses);
        let mut ahead = dry;
        for later in day..until.max(day) {
            let (etc, raw) = eve.days.use_of(later);
            ahead += etc;
            needed = needed.max((ahead - raw).mm());
        }
        needs.by_then_mm.push(needed);
    }
    needs
}

fn by_calendar(keeping: &Keeping, eve: &Eve) -> Needs {
    let mut needs = Needs::default();
    let mut lately = eve.lately;
    let mut sum = 0.0;
    for (o, carries) in eve.nights.iter().zip(eve.carries_mm) {
        let date = eve.days.date(o.day);
        let asked = calendar::asks(keeping, eve.model, &lately, eve.days.weather(o.day), date);
        let net = asked.map_or(0.0, |asked| asked.net.mm()).min(*carries);
        lately.water(date, &Irrigation::of_net(eve.model, Depth::from_mm(net)));
        sum += net;
        needs.by_then_mm.push(sum);
    }
    needs.room_mm.clone_from(&needs.by_then_mm);
    needs
}
