//! The dawn of a zone's day: what yesterday left, by the figures that hold today. Roots that change, and a surface store that begins or ends, are the day's adjustment.

use std::borrow::Cow;

use jiff::civil::Date;

use crate::engine::history::{Stretch, ZoneHistory};
use crate::engine::root_zone::Below;
use crate::engine::seedbed::{Bed, Stores};
use crate::engine::seedling::Seedling;
use crate::measure::seen::Seen;
use crate::quantity::Depth;

/// A zone as a day leaves it to the next.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Left {
    /// The day.
    pub date: Date,
    /// Depletion of the root zone.
    pub depletion: Depth,
    /// What the surface of new grass lacks; `None`: it has no surface store.
    pub surface: Option<Depth>,
    /// The new grass, with that day's warmth.
    pub seedling: Option<Seedling>,
    /// The soil below the roots.
    pub below: Below,
}

/// A zone at the dawn of a day.
#[derive(Debug, Clone)]
pub(crate) struct Dawn<'a> {
    /// The zone and its figures as they hold on the day.
    pub then: Cow<'a, Stretch>,
    /// Depletion of the root zone as the day before left it.
    pub depletion: Depth,
    /// Its correction; positive dries.
    pub adjustment: Depth,
    /// The soil below the roots.
    pub below: Below,
    /// What grows anew.
    pub seedling: Option<Seedling>,
    /// The surface with what it lacks, where there is a store.
    pub bed: Option<(Bed, Depth)>,
}

impl<'a> Dawn<'a> {
    /// Of a day; `initial`: the depletion with which the first begins; `seen`: what is seen that day.
    pub fn of<'b>(
        history: &'a ZoneHistory,
        initial: Option<Depth>,
        left: Option<&Left>,
        date: Date,
        seen: impl IntoIterator<Item = &'b Seen>,
    ) -> Self {
        let before = left.map(|left| (left.date, left.seedling));
        let seedling = history.seedling(date, before);
        let grass = history.on(date).zone.grass;
        let seedling = seedling.map(|seedling| seedling.seen(seen, grass, date));
        let then = history.grown(date, seedling.as_ref());
        let bed = seedling
            .filter(|_| then.zone.regime.is_new_grass())
            .map(|seedling| Bed::of(&then.zone, &then.model, &seedling));
        let mut dawn = Self {
            depletion: Depth::ZERO,
            adjustment: Depth::ZERO,
            below: left.map_or(Below::default(), |left| left.below),
            seedling,
            bed: None,
            then,
        };
        match left {
            None => dawn.first(history, initial, date),
            Some(left) => dawn.after(history, left),
        }
        let surface = match (bed, left.and_then(|left| left.surface)) {
            (None, _) => None,
            (Some(bed), Some(surface)) => Some((bed, surface.min(bed.tew()))),
            // As dry as the roots were.
            (Some(bed), None) => {
                let taw = dawn.then.model.taw;
                Some((bed, bed.tew() * ((dawn.depletion + dawn.adjustment) / taw)))
            }
        };
        dawn.bed = surface;
        dawn
    }

    fn first(&mut self, history: &ZoneHistory, initial: Option<Depth>, date: Date) {
        let own = history.on(date).model.taw;
        let initial = initial.unwrap_or(Depth::ZERO).min(own);
        // Young roots begin as dry as they would be if they were grown.
        self.depletion = match self.then {
            Cow::Borrowed(_) => initial,
            Cow::Owned(_) => self.then.model.taw * (initial / own),
        };
    }

    fn after(&mut self, history: &ZoneHistory, left: &Left) {
        let before = history.grown(left.date, left.seedling.as_ref());
        let now = &self.then.model;
        self.depletion = left.depletion;
        let joined = match (left.surface, self.then.zone.regime.is_new_grass()) {
            (None, false) => left.depletion,
            // The surface joins the root zone.
            (Some(surface), false) => left.depletion + surface,
            (Some(_), true) => {
                self.adjustment = left.depletion.min(now.taw) - left.depletion;
                return;
            }
            (None, true) => {
                // Young roots are as dry as those before; what deeper ones used stays behind below them.
                let _ = self.below.follow_roots(&before.model, now, left.depletion);
                self.adjustment = now.taw * (left.depletion / before.model.taw) - left.depletion;
                return;
            }
        };
        let moved = self.below.follow_roots(&before.model, now, joined);
        self.adjustment = joined + moved - left.depletion;
    }

    /// Depletion at dawn.
    pub fn now(&self) -> Depth {
        self.depletion + self.adjustment
    }

    /// Both stores of new grass.
    pub fn stores(&self, surface: Depth) -> Stores {
        Stores {
            depletion: self.depletion,
            adjustment: self.adjustment,
            surface,
        }
    }
}
