//! What a probe or a wilt sign says against the balance: the balance moves towards it by how far each may be off.
//!
//! Gain = s_b² / (s_b² + s_m²); the correction is gain · (what is told − what the balance says), kept as the day's adjustment, and s_b² becomes
//! (1 − gain) s_b². Without a reading s_b² grows by 1 mm² a day up to (0.15 TAW)², where it starts (common practice, no source; a Kalman
//! filter with one state).

use serde::Serialize;

use crate::engine::zone_model::ZoneModel;
use crate::measure::seen::{Moisture, Seen, StoppedBy};
use crate::quantity::Depth;

/// How far the balance may be off before it was ever corrected, share of TAW.
const BALANCE_OFF: f64 = 0.15;
/// By how much the variance of the balance grows a day, mm².
const GROWS_MM2: f64 = 1.0;
/// How far a probe may be off, share of the root depth: calibrated in this soil, or not.
const CALIBRATED_OFF: f64 = 0.01;
const UNCALIBRATED_OFF: f64 = 0.03;
/// How far a wilt sign or a screwdriver may be off, share of TAW.
const SIGN_OFF: f64 = 0.15;

/// How far a balance may be off: its variance, mm².
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Doubt {
    /// s_b², mm².
    pub variance_mm2: f64,
}

impl Doubt {
    /// Of a balance that was never corrected.
    #[must_use]
    pub fn of_book(model: &ZoneModel) -> Self {
        Self {
            variance_mm2: (BALANCE_OFF * model.taw.mm()).powi(2),
        }
    }

    /// A day later.
    #[must_use]
    pub fn a_day_later(self, model: &ZoneModel) -> Self {
        let most = Self::of_book(model).variance_mm2;
        Self {
            variance_mm2: (self.variance_mm2 + GROWS_MM2).min(most),
        }
    }
}

/// A correction, with its working.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Correction {
    /// Depletion by the book.
    pub book: Depth,
    /// Depletion as told.
    pub told: Depth,
    /// How much it counts, 0 to 1.
    pub gain: f64,
}

impl Correction {
    /// What is added to the depletion; positive dries.
    #[must_use]
    pub fn adjustment(&self) -> Depth {
        (self.told - self.book) * self.gain
    }

    /// Of what was seen, on a balance of some doubt; `None` where it says nothing against the balance. `book`: the depletion at the time,
    /// `raw`: what may be used of the water that day.
    #[must_use]
    pub fn of(
        seen: &Seen,
        model: &ZoneModel,
        book: Depth,
        raw: Depth,
        doubt: Doubt,
    ) -> Option<Self> {
        let told = told(seen, model, book, raw)?;
        let off = off(seen, model);
        Some(Self {
            book,
            told: told.max(Depth::ZERO).min(model.taw),
            gain: doubt.variance_mm2 / (doubt.variance_mm2 + off * off),
        })
    }

    /// What is left of the doubt.
    #[must_use]
    pub fn leaves(&self, doubt: Doubt) -> Doubt {
        Doubt {
            variance_mm2: doubt.variance_mm2 * (1.0 - self.gain),
        }
    }
}

/// The depletion that something seen tells; `None`: none, or none other than the balance.
fn told(seen: &Seen, model: &ZoneModel, book: Depth, raw: Depth) -> Option<Depth> {
    let roots = model.root_depth.value;
    match *seen {
        // It wilts once what may be used is used: at least that is gone.
        _ if seen.is_wilt() => (book < raw).then_some(raw),
        Seen::Moisture(Moisture::Percent {
            reading,
            at_field_capacity,
        }) => {
            let full = at_field_capacity.map_or(model.field_capacity, |pct| pct / 100.0);
            Some(roots * (full - reading / 100.0))
        }
        Seen::Moisture(Moisture::Own {
            reading,
            at_field_capacity,
            at_wilting,
        }) => Some(model.taw * ((at_field_capacity - reading) / (at_field_capacity - at_wilting))),
        // What it went through is moist; below, where dry soil stopped it, the water is used.
        Seen::Screwdriver {
            depth_mm,
            stopped: StoppedBy::Dry,
        } => Some(model.taw * (1.0 - depth_mm / roots.mm()).max(0.0)),
        Seen::Screwdriver {
            depth_mm,
            stopped: StoppedBy::Nothing,
        } => (depth_mm >= roots.mm() && book > raw).then_some(raw),
        _ => None,
    }
}

/// How far it may be off, mm.
fn off(seen: &Seen, model: &ZoneModel) -> f64 {
    match seen {
        Seen::Moisture(moisture) => {
            let share = if moisture.is_calibrated() {
                CALIBRATED_OFF
            } else {
                UNCALIBRATED_OFF
            };
            share * model.root_depth.value.mm()
        }
        _ => SIGN_OFF * model.taw.mm(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::{Controller, Zone};
    use science::soil::Texture;
    use science::sprinkler::Kind;
    use science::turf::Grass;

    fn model() -> ZoneModel {
        let zone = Zone::new("Field", Grass::TallFescue, Texture::Loam, Kind::Rotor);
        ZoneModel::new(&zone, &Controller::default(), 36.4)
    }

    const RAW: Depth = Depth::from_mm(25.0);

    fn correction(seen: Seen, book: f64) -> Option<Correction> {
        let model = model();
        Correction::of(
            &seen,
            &model,
            Depth::from_mm(book),
            RAW,
            Doubt::of_book(&model),
        )
    }

    #[test]
    fn a_calibrated_probe_counts_by_its_gain() {
        // Loam under tall fescue: 300 mm of 0.17: TAW 51 mm, s_b 7.65 mm, s_m 3 mm.
        let seen = Seen::Moisture(Moisture::Percent {
            reading: 22.0,
            at_field_capacity: Some(28.0),
        });
        let found = correction(seen, 10.0).unwrap();
        assert!((found.told.mm() - 18.0).abs() < 1e-9);
        let gain = 7.65_f64.powi(2) / (7.65_f64.powi(2) + 9.0);
        assert!((found.gain - gain).abs() < 1e-12);
        assert!((found.adjustment().mm() - gain * 8.0).abs() < 1e-9);
        // A second reading the day after finds a balance that is better known, and counts less.
        let model = model();
        let left = found.leaves(Doubt::of_book(&model)).a_day_later(&model);
        let again = Correction::of(&seen, &model, Depth::from_mm(14.0), RAW, left).unwrap();
        assert!(again.gain < found.gain);
        // One that was never calibrated counts less too, and reads its field capacity off the class.
        let raw = Seen::Moisture(Moisture::Percent {
            reading: 22.0,
            at_field_capacity: None,
        });
        let loose = correction(raw, 10.0).unwrap();
        assert!(loose.gain < found.gain);
        assert!((loose.told.mm() - 300.0 * (model.field_capacity - 0.22)).abs() < 1e-9);
    }

    #[test]
    fn a_scale_of_its_own_is_read_between_wet_and_dry() {
        let own = |reading| {
            Seen::Moisture(Moisture::Own {
                reading,
                at_field_capacity: 9.0,
                at_wilting: 1.0,
            })
        };
        let taw = model().taw.mm();
        for (reading, share) in [(9.0, 0.0), (5.0, 0.5), (1.0, 1.0), (0.0, 1.0), (12.0, 0.0)] {
            let found = correction(own(reading), 10.0).unwrap();
            assert!((found.told.mm() - share * taw).abs() < 1e-9, "{reading}");
        }
    }

    #[test]
    fn a_wilt_sign_says_at_least_and_a_screwdriver_where_it_is_dry() {
        let wilt = correction(Seen::Footprints, 10.0).unwrap();
        assert_eq!(wilt.told, RAW);
        assert!((wilt.gain - 0.5).abs() < 1e-12);
        assert_eq!(correction(Seen::Tips, 30.0), None, "the balance knows it");
        let driver =
            |depth_mm, stopped, book| correction(Seen::Screwdriver { depth_mm, stopped }, book);
        let taw = model().taw.mm();
        let half = driver(150.0, StoppedBy::Dry, 10.0).unwrap();
        assert!((half.told.mm() - taw / 2.0).abs() < 1e-9);
        assert_eq!(driver(150.0, StoppedBy::Hard, 10.0), None);
        assert_eq!(driver(300.0, StoppedBy::Nothing, 10.0), None);
        assert_eq!(driver(300.0, StoppedBy::Nothing, 40.0).unwrap().told, RAW);
        for quiet in [Seen::Puddles, Seen::Runoff, Seen::DrySpot, Seen::Compaction] {
            assert_eq!(correction(quiet, 10.0), None);
        }
    }

    #[test]
    fn doubt_grows_to_where_it_began() {
        let model = model();
        let book = Doubt::of_book(&model);
        let mut doubt = Doubt { variance_mm2: 2.0 };
        for _ in 0..30 {
            doubt = doubt.a_day_later(&model);
        }
        assert!((doubt.variance_mm2 - 32.0).abs() < 1e-9);
        for _ in 0..60 {
            doubt = doubt.a_day_later(&model);
        }
        assert_eq!(doubt, book);
    }
}
