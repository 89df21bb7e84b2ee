//! A zone over time: its figures as they hold on each day.

use std::borrow::Cow;

use jiff::ToSpan;
use jiff::civil::Date;

use crate::days;
use crate::engine::seedbed::{Bed, YOUNG_ROOTS_MM};
use crate::engine::seedling::{Seedling, Stage};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::site::daylight::Daylight;
use crate::site::{Controller, SiteDocument, Zone, counting};
use crate::sourced::Sourced;

/// What young roots are told by.
const NEW_GRASS: &str = "new grass";
/// How much deeper the roots of new grass go in a week after its first mowing, mm, until they are as deep as its own (common practice, no source).
const ROOTS_A_WEEK_MM: f64 = 10.0;

/// A stretch of days on which nothing of a zone changes.
#[derive(Debug, Clone, PartialEq)]
pub struct Stretch {
    /// Its first day.
    pub from: Date,
    /// The zone as it is then.
    pub zone: Zone,
    /// Its figures.
    pub model: ZoneModel,
}

/// A zone's stretches, in time order; at least one.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneHistory {
    first: Stretch,
    later: Vec<Stretch>,
    /// With its facts, those that its tests tell among them.
    whole: Zone,
    controller: Controller,
    latitude: f64,
    daylight: Daylight,
}

impl ZoneHistory {
    /// Of a zone of a site, with what its tests tell. A time zone that is not known counts as the sun's; [`SiteDocument::validate`] finds it.
    #[must_use]
    pub fn of(document: &SiteDocument, zone: &Zone) -> Self {
        let mut history = Self::new(zone, &document.controller, document.site.latitude);
        if let Ok(daylight) = Daylight::of(&document.site) {
            history.daylight = daylight;
        }
        history
    }

    /// Of a zone with what its tests tell, on a controller, at a latitude, by a clock on which the sun is highest at noon.
    #[must_use]
    pub fn new(zone: &Zone, controller: &Controller, latitude: f64) -> Self {
        let whole = counting::counted(zone);
        let stretch = |from: Date| {
            let zone = whole.on(from);
            let model = ZoneModel::new(&zone, controller, latitude);
            let model = match whole.holds_since("regime", from) {
                Some(since) => model.waking_since(since),
                None => model,
            };
            Stretch { from, zone, model }
        };
        let turns = whole.turns().into_iter();
        Self {
            first: stretch(days::FIRST),
            later: turns.filter(|d| *d > days::FIRST).map(stretch).collect(),
            whole,
            controller: controller.clone(),
            latitude,
            daylight: Daylight::by_the_sun(latitude),
        }
    }

    /// The hours of the days where the zone lies.
    #[must_use]
    pub const fn daylight(&self) -> &Daylight {
        &self.daylight
    }

    /// What is sown in the zone from a day on, if a stretch of new grass begins or goes on then; `before` is what grew the day before.
    #[must_use]
    pub fn seedling(
        &self,
        date: Date,
        before: Option<(Date, Option<Seedling>)>,
    ) -> Option<Seedling> {
        let zone = &self.on(date).zone;
        if !zone.regime.is_new_grass() {
            return None;
        }
        let begins = || Seedling::begins(zone, date, self.holds_since("regime", date));
        match before {
            Some((yesterday, Some(seedling))) => {
                let keys = ["regime", "sown_on", "new_grass_as"];
                let said = |date| keys.map(|key| self.holds_since(key, date));
                if said(yesterday) == said(date) {
                    Some(seedling)
                } else {
                    begins()
                }
            }
            _ => begins(),
        }
    }

    /// The stretch that a day lies in, by how far new grass has come: its stage is the zone's regime, its roots are as young as it is.
    #[must_use]
    pub fn grown(&self, date: Date, seedling: Option<&Seedling>) -> Cow<'_, Stretch> {
        let then = self.on(date);
        let Some(seedling) = seedling.filter(|_| then.zone.regime.is_new_grass()) else {
            return Cow::Borrowed(then);
        };
        let mut zone = then.zone.clone();
        zone.regime = seedling.stage.regime();
        let own = then.model.root_depth.value.mm();
        let roots_mm = match seedling.stage {
            Stage::Established => {
                let weeks = (date - seedling.since).get_days().max(0) / 7;
                own.min(YOUNG_ROOTS_MM + ROOTS_A_WEEK_MM * f64::from(weeks))
            }
            _ => YOUNG_ROOTS_MM,
        };
        if roots_mm < own {
            let young = Sourced::handbook(roots_mm * 0.7, roots_mm, roots_mm * 1.3, NEW_GRASS);
            zone.root_depth_mm = Some(young.map(Depth::from_mm));
        }
        let mut model = ZoneModel::new(&zone, &self.controller, self.latitude);
        if zone.regime.is_new_grass() {
            model.taw = Bed::root_store(&model);
        }
        Cow::Owned(Stretch {
            from: then.from,
            zone,
            model,
        })
    }

    /// The morning from which new grass is a lawn: mown, and its roots as deep as the zone's own; `None`: it is not mown yet, or no new grass on that day.
    #[must_use]
    pub fn lawn_from(&self, date: Date, seedling: &Seedling) -> Option<Date> {
        let then = self.on(date);
        if !then.zone.regime.is_new_grass() || seedling.stage < Stage::Established {
            return None;
        }
        let short_mm = then.model.root_depth.value.mm() - YOUNG_ROOTS_MM;
        #[allow(clippy::cast_possible_truncation)] // no root is a kilometre deep
        let weeks = (short_mm / ROOTS_A_WEEK_MM).ceil().max(0.0) as i64;
        Some(seedling.since.saturating_add((weeks * 7).days()))
    }

    /// The stretch that a day lies in.
    #[must_use]
    pub fn on(&self, date: Date) -> &Stretch {
        let held = self.later.iter().rev().find(|s| s.from <= date);
        held.unwrap_or(&self.first)
    }

    /// The day from which a key of the zone has had the value that it has on a day; `None`: always.
    #[must_use]
    pub fn holds_since(&self, key: &str, date: Date) -> Option<Date> {
        self.whole.holds_since(key, date)
    }
}
