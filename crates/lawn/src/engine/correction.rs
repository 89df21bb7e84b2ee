//! What a probe or a wilt sign says against the balance: the balance moves towards it by how far each may be off.
//!
//! Gain = s_b² / (s_b² + s_m²); the correction is gain · (what is told − what the balance says), kept as the day's adjustment, and s_b² becomes
//! (1 − gain) s_b². Without a reading s_b² grows by 1 mm² a day, and by what the book may be off in what the turf uses, up to (0.15 TAW)², where it
//! starts; water beyond field capacity settles it. Readings of a probe also teach that second figure, the drift: a Kalman filter of two states
//! (Kalman 1960; its figures common practice, no source; docs/decisions/0025).

use serde::Serialize;

use crate::engine::root_zone::DayBalance;
use crate::engine::zone_model::ZoneModel;
use crate::measure::seen::{Moisture, Seen, Stay, StoppedBy, Wilt};
use crate::quantity::Depth;
use crate::site::soil_counting::ZoneSeen;

/// How far the balance may be off before it was ever corrected, share of TAW.
const BALANCE_OFF: f64 = 0.15;
/// By how much the variance of the balance grows a day, mm².
const GROWS_MM2: f64 = 1.0;
/// How far the book may be off in what the turf uses, share of ETc (site factor and dose together; common practice, no source), by how much that wanders a
/// day, and the most that is learned.
const DRIFT_OFF: f64 = 0.20;
const DRIFT_WANDERS: f64 = 1e-5;
const MOST_DRIFT: f64 = 0.5;
/// How far a probe may be off, share of the root depth: calibrated in this soil, or not.
const CALIBRATED_OFF: f64 = 0.01;
const UNCALIBRATED_OFF: f64 = 0.03;
/// What of the water beyond what may be used is gone at least where grass has wilted far: brown patches, footprints that stay for half an hour (common practice, no
/// source).
const FAR_SHARE: f64 = 0.5;
/// How far a wilt sign or a screwdriver may be off, share of TAW.
const SIGN_OFF: f64 = 0.15;

/// How far a balance may be off, and what readings have taught of it: a filter of two states, depletion and drift.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Doubt {
    /// s_b², the variance of the depletion, mm².
    pub variance_mm2: f64,
    /// What the turf uses beyond the book, share of its ETc, as readings tell.
    pub drift: f64,
    /// The variance of the drift.
    pub drift_variance: f64,
    /// How depletion and drift are off together, mm.
    pub covariance_mm: f64,
}

impl Doubt {
    /// Of a balance that was never corrected.
    #[must_use]
    pub fn of_book(model: &ZoneModel) -> Self {
        Self {
            variance_mm2: book_variance(model),
            drift: 0.0,
            drift_variance: DRIFT_OFF * DRIFT_OFF,
            covariance_mm: 0.0,
        }
    }

    /// What the drift adds to the depletion on a day.
    #[must_use]
    pub fn drifts(&self, etc: Depth) -> Depth {
        etc * self.drift
    }

    /// After a day of the balance.
    #[must_use]
    pub fn after(self, model: &ZoneModel, day: &DayBalance) -> Self {
        let etc = day.etc.mm();
        let drift_variance = (self.drift_variance + DRIFT_WANDERS).min(DRIFT_OFF * DRIFT_OFF);
        // Water beyond field capacity settles it: full is full, whatever it was before.
        if day.drainage.mm() > self.variance_mm2.sqrt() {
            return Self {
                variance_mm2: GROWS_MM2,
                covariance_mm: 0.0,
                drift_variance,
                ..self
            };
        }
        let grown = self.variance_mm2
            + GROWS_MM2
            + 2.0 * etc * self.covariance_mm
            + etc * etc * self.drift_variance;
        let covariance = self.covariance_mm + etc * self.drift_variance;
        let variance_mm2 = grown.min(book_variance(model));
        Self {
            variance_mm2,
            covariance_mm: covariance * (variance_mm2 / grown).sqrt(),
            drift_variance,
            ..self
        }
    }
}

fn book_variance(model: &ZoneModel) -> f64 {
    (BALANCE_OFF * model.taw.mm()).powi(2)
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
    /// Whether it teaches what the turf uses: a probe does, a sign that says "at least" does not.
    pub teaches: bool,
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
            teaches: matches!(seen, Seen::Moisture(_)),
        })
    }

    /// What is left of the doubt, and what is learned of the drift.
    #[must_use]
    pub fn leaves(&self, doubt: Doubt) -> Doubt {
        let left = 1.0 - self.gain;
        let drift_gain = if self.teaches {
            doubt.covariance_mm * self.gain / doubt.variance_mm2
        } else {
            0.0
        };
        // One reading may be a surprise of its own: it moves the drift by no more than it may be off.
        let off = doubt.drift_variance.max(0.0).sqrt();
        let learned = drift_gain * (self.told - self.book).mm();
        let drift = doubt.drift + learned.clamp(-off, off);
        Doubt {
            variance_mm2: doubt.variance_mm2 * left,
            covariance_mm: doubt.covariance_mm * left,
            drift_variance: doubt.drift_variance - drift_gain * doubt.covariance_mm,
            drift: drift.clamp(-MOST_DRIFT, MOST_DRIFT),
        }
    }
}

/// Of what was seen on a day what speaks of the zone's balance: nothing of a spot that dries out first, and no sign of thirst of a half of the day in
/// which the soil was found moist.
pub(crate) fn telling<'a>(seen: &[&'a ZoneSeen]) -> Vec<&'a ZoneSeen> {
    let whole = seen.iter().copied().filter(|kept| kept.spot.is_none());
    let is_moist = |after_noon: bool| {
        let mut found = whole.clone();
        found.any(|kept| kept.after_noon == after_noon && kept.seen.is_moist())
    };
    whole
        .clone()
        .filter(|kept| kept.seen.wilt().is_none() || !is_moist(kept.after_noon))
        .collect()
}

/// The depletion that something seen tells; `None`: none, or none other than the balance.
fn told(seen: &Seen, model: &ZoneModel, book: Depth, raw: Depth) -> Option<Depth> {
    let roots = model.root_depth.value;
    // It wilts once what may be used is used: at least that is gone, and halfway to all of it where it has wilted far.
    if let Some(wilt) = seen.wilt() {
        let least = match wilt {
            Wilt::Begins => raw,
            Wilt::Far => raw + (model.taw - raw) * FAR_SHARE,
        };
        return (book < least).then_some(least);
    }
    match *seen {
        // Blades that rise have water: no more is gone than may be used.
        Seen::Footprints { stay: Stay::Rise } => (book > raw).then_some(raw),
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
    use crate::measure::hot_spot::HotSpot;
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
        // A second reading finds a balance that is better known, and counts less.
        let model = model();
        let left = found.leaves(Doubt::of_book(&model));
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
        let wilt = correction(
            Seen::Footprints {
                stay: Stay::Minutes,
            },
            10.0,
        )
        .unwrap();
        assert_eq!(wilt.told, RAW);
        assert!((wilt.gain - 0.5).abs() < 1e-12);
        assert_eq!(correction(Seen::Tips, 30.0), None, "the balance knows it");
        // Far: half of what is left beyond it too; blades that rise say "at most".
        let far = (model().taw + RAW) * 0.5;
        for seen in [
            Seen::Patches,
            Seen::Footprints {
                stay: Stay::HalfHour,
            },
        ] {
            assert!((correction(seen, 30.0).unwrap().told - far).abs().mm() < 1e-9);
        }
        let rise = Seen::Footprints { stay: Stay::Rise };
        assert_eq!(correction(rise, 20.0), None);
        assert_eq!(correction(rise, 40.0).unwrap().told, RAW);
        let driver =
            |depth_mm, stopped, book| correction(Seen::Screwdriver { depth_mm, stopped }, book);
        let taw = model().taw.mm();
        let half = driver(150.0, StoppedBy::Dry, 10.0).unwrap();
        assert!((half.told.mm() - taw / 2.0).abs() < 1e-9);
        assert_eq!(driver(150.0, StoppedBy::Hard, 10.0), None);
        assert_eq!(driver(300.0, StoppedBy::Nothing, 10.0), None);
        assert_eq!(driver(300.0, StoppedBy::Nothing, 40.0).unwrap().told, RAW);
        for quiet in [
            Seen::Puddles,
            Seen::Runoff,
            Seen::DrySpot,
            Seen::Compaction,
            Seen::Tug { holds: false },
            Seen::Crowns { alive: true },
        ] {
            assert_eq!(correction(quiet, 10.0), None);
        }
    }

    #[test]
    fn a_hot_spot_and_thirst_on_moist_soil_say_nothing_of_the_balance() {
        let kept = |seen, after_noon, spot| ZoneSeen {
            date: jiff::civil::date(2026, 7, 1),
            after_noon,
            place: None,
            spot,
            seen,
        };
        let through = Seen::Screwdriver {
            depth_mm: 200.0,
            stopped: StoppedBy::Nothing,
        };
        let day = [
            kept(Seen::Tips, false, None),
            kept(through, false, None),
            kept(Seen::Patches, true, None),
            kept(Seen::Tips, true, Some(HotSpot::Paving)),
        ];
        let told = telling(&day.iter().collect::<Vec<_>>());
        assert_eq!(told, [&day[1], &day[2]]);
    }

    /// A day that uses water, and drains some.
    fn day(etc: f64, drainage: f64) -> DayBalance {
        DayBalance {
            etc: Depth::from_mm(etc),
            drainage: Depth::from_mm(drainage),
            ..DayBalance::default()
        }
    }

    #[test]
    fn doubt_grows_to_where_it_began_and_a_soaking_settles_it() {
        let model = model();
        let book = Doubt::of_book(&model);
        let known = Doubt {
            variance_mm2: 2.0,
            drift_variance: 0.0,
            ..book
        };
        let mut doubt = known;
        for _ in 0..10 {
            doubt = doubt.after(&model, &day(0.0, 0.0));
        }
        // A millimetre squared a day.
        assert!((doubt.variance_mm2 - 12.0).abs() < 1e-9);
        for _ in 0..80 {
            doubt = doubt.after(&model, &day(5.0, 0.0));
        }
        assert!((doubt.variance_mm2 - book.variance_mm2).abs() < 1e-9);
        assert!(doubt.after(&model, &day(5.0, 30.0)).variance_mm2 < 2.0);
    }

    #[test]
    fn one_surprise_moves_the_drift_by_what_it_may_be_off_at_most() {
        let model = model();
        let mut doubt = Doubt::of_book(&model);
        for _ in 0..14 {
            doubt = doubt.after(&model, &day(6.0, 0.0));
        }
        // Dry where the book says that nothing is used: far beyond any doubt.
        let seen = Seen::Moisture(Moisture::Percent {
            reading: 2.0,
            at_field_capacity: Some(28.0),
        });
        let found = Correction::of(&seen, &model, Depth::ZERO, RAW, doubt).unwrap();
        let once = found.leaves(doubt);
        assert!(
            once.drift > 0.0 && once.drift <= DRIFT_OFF + 1e-3,
            "{once:?}"
        );
        assert!(once.drift < MOST_DRIFT / 2.0);
    }

    #[test]
    fn readings_that_are_always_drier_teach_a_drift() {
        let model = model();
        let mut doubt = Doubt::of_book(&model);
        // The turf uses 1 mm a day more than the book's 5: of what the book does not know, each week's reading tells.
        let (mut book, mut real) = (10.0, 10.0);
        for n in 0..56 {
            book += 5.0 + doubt.drifts(Depth::from_mm(5.0)).mm();
            real += 6.0;
            doubt = doubt.after(&model, &day(5.0, 0.0));
            if n % 7 == 6 {
                let seen = Seen::Moisture(Moisture::Percent {
                    reading: 28.0 - real / 3.0,
                    at_field_capacity: Some(28.0),
                });
                let found =
                    Correction::of(&seen, &model, Depth::from_mm(book), RAW, doubt).unwrap();
                book += found.adjustment().mm();
                doubt = found.leaves(doubt);
                // Watered back, as far as anybody can tell.
                (book, real) = (book - real + 10.0, 10.0);
            }
        }
        assert!((doubt.drift - 0.2).abs() < 0.03, "{doubt:?}");
        // A wilt sign says "at least", and teaches nothing.
        let wilt = Correction::of(&Seen::Tips, &model, Depth::ZERO, RAW, doubt).unwrap();
        assert_eq!(wilt.leaves(doubt).drift, doubt.drift);
    }
}
