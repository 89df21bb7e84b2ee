//! What a run watered, and by what: the zone's own sprinklers, or a hose on a part of it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::dose;
use crate::engine::root_zone::Irrigation;
use crate::engine::zone_model::ZoneModel;
use crate::invalid::Invalid;
use crate::quantity::{Area, Depth, RunTime};
use crate::ranges;

/// What watered in a run, and how far it reached.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "by", rename_all = "snake_case", deny_unknown_fields)]
pub enum Watered {
    /// The zone's own sprinklers, or its portable one, on a share of its area.
    Own {
        /// Share of the zone's area, above 0 to 1.
        share: f64,
    },
    /// A hose, held or with a sprinkler on it.
    Hose {
        /// What it gives, L/min: a bucket and a watch tell.
        flow_l_min: f64,
        /// Area that it reached, m².
        #[schema(value_type = f64)]
        reached_m2: Area,
    },
    /// Nobody says how much, or where: kept in the record, not credited to the balance.
    Unmeasured,
}

impl Watered {
    /// The zone's own sprinklers on all of it.
    #[must_use]
    pub const fn all() -> Self {
        Self::Own { share: 1.0 }
    }

    /// Checks the figures for a zone of an area.
    ///
    /// # Errors
    /// The field that does not hold.
    pub fn validate(&self, path: &str, zone: Area) -> Result<(), Invalid> {
        let at = |field: &str| format!("{path}{field}");
        match *self {
            Self::Own { share } if !(share > 0.0 && share <= 1.0) => Err(Invalid::new(
                at("share"),
                "a share of the zone is above 0 and at most 1".to_owned(),
            )),
            Self::Hose {
                flow_l_min,
                reached_m2,
            } => {
                ranges::HOSE_FLOW
                    .check(flow_l_min)
                    .map_err(|error| Invalid::new(at("flow_l_min"), error.to_string()))?;
                if reached_m2.m2() >= ranges::REACHED.min && reached_m2.m2() <= zone.m2() {
                    Ok(())
                } else {
                    Err(Invalid::new(
                        at("reached_m2"),
                        format!(
                            "between {} m² and the zone's {} m²",
                            ranges::REACHED.min,
                            zone.m2()
                        ),
                    ))
                }
            }
            _ => Ok(()),
        }
    }

    /// What passes of some seconds each give a zone, as a mean over its area, at the depletion of their dawn. A part that is reached takes
    /// at most its depletion, counted as the zone's; what is given beyond goes below the roots there and is kept as runoff.
    #[must_use]
    pub fn irrigation(
        &self,
        model: &ZoneModel,
        zone: Area,
        run: Passes,
        depletion: Depth,
    ) -> Irrigation {
        match *self {
            Self::Own { share } => dose::irrigation(model, run.passes, run.pass()) * share,
            Self::Hose {
                flow_l_min,
                reached_m2,
            } => {
                // A zone may have been made smaller since.
                let share = (reached_m2.m2() / zone.m2()).min(1.0);
                let litres = flow_l_min * run.time().minutes();
                let gross = Depth::from_mm(litres / reached_m2.m2());
                let could = model.net_of_gross(gross);
                let net = could.min(depletion.max(Depth::ZERO));
                Irrigation {
                    gross: gross * share,
                    net: net * share,
                    runoff: (could - net) * share,
                }
            }
            Self::Unmeasured => Irrigation::default(),
        }
    }
}

/// How long it ran: equal passes that add up to a time.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Passes {
    /// Their number.
    pub passes: u32,
    /// The time of all, s.
    pub run_s: i64,
}

/// Longest run that a person can report.
const LONGEST_S: i64 = 24 * 3600;

/// Checks how long a person says that water ran, s: 1 s to 24 h.
///
/// # Errors
/// The field `seconds`.
pub fn validate_seconds(seconds: i64) -> Result<(), Invalid> {
    if (1..=LONGEST_S).contains(&seconds) {
        return Ok(());
    }
    Err(Invalid::new(
        "seconds",
        format!("a run takes 1 s to 24 h, not {seconds} s"),
    ))
}

impl Passes {
    /// What a run comes to of which a person says that it took another time: as many passes as were planned, none shorter than a second.
    #[must_use]
    pub fn told(planned: u32, run_s: i64) -> Self {
        let seconds = u32::try_from(run_s).unwrap_or(0);
        Self {
            passes: planned.max(1).min(seconds),
            run_s,
        }
    }

    fn time(self) -> RunTime {
        RunTime::from_whole_s(self.run_s)
    }

    /// One of them; nothing where there is none.
    fn pass(self) -> RunTime {
        RunTime::from_s(self.time().s() / f64::from(self.passes.max(1)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::{Controller, Zone};

    fn zone() -> Zone {
        serde_json::from_value(serde_json::json!({
            "name": "Field", "grass": "hybrid_bermudagrass", "soil": "loam", "slope_pct": 1, "area_m2": 4200, "sprinkler": "portable"
        }))
        .unwrap()
    }

    #[test]
    fn another_time_keeps_the_passes_and_none_is_shorter_than_a_second() {
        let passes = |planned, run_s| Passes::told(planned, run_s).passes;
        assert_eq!(passes(4, 1200), 4);
        assert_eq!(passes(4, 3), 3);
        assert_eq!(passes(0, 600), 1);
        assert!(validate_seconds(86_400).is_ok());
        for wrong in [0, -1, 86_401] {
            assert_eq!(validate_seconds(wrong).unwrap_err().field, "seconds");
        }
    }

    #[test]
    fn a_hose_is_credited_by_the_area_it_reached() {
        let zone = zone();
        let model = ZoneModel::new(&zone, &Controller::default(), 36.4);
        let dry = Depth::from_mm(20.0);
        // 25 minutes of 18 L/min on 60 of 4200 m²: 450 L, 7.5 mm there, 0.107 mm over the zone.
        let run = Passes {
            passes: 1,
            run_s: 1500,
        };
        let hose = Watered::Hose {
            flow_l_min: 18.0,
            reached_m2: Area::from_m2(60.0),
        };
        let given = hose.irrigation(&model, zone.area_m2, run, dry);
        assert!((given.gross.mm() - 450.0 / 4200.0).abs() < 1e-12);
        assert!((given.net.mm() - model.net_of_gross(given.gross).mm()).abs() < 1e-12);
        assert_eq!(given.runoff, Depth::ZERO);
        // The part reached takes no more than it lacks.
        let full = hose.irrigation(&model, zone.area_m2, run, Depth::from_mm(1.0));
        assert!((full.net.mm() - 60.0 / 4200.0).abs() < 1e-12);
        assert!(full.runoff > Depth::ZERO);
        // A zone that was made smaller since is at most reached whole.
        let smaller = hose.irrigation(&model, Area::from_m2(30.0), run, dry);
        assert!((smaller.gross.mm() - 7.5).abs() < 1e-12);
        let nobody = Watered::Unmeasured.irrigation(&model, zone.area_m2, run, dry);
        assert_eq!(nobody, Irrigation::default());
    }

    #[test]
    fn a_share_of_the_zone_gets_a_share_of_the_run() {
        let zone = zone();
        let model = ZoneModel::new(&zone, &Controller::default(), 36.4);
        let run = Passes {
            passes: 3,
            run_s: 2430,
        };
        let all = Watered::all().irrigation(&model, zone.area_m2, run, Depth::from_mm(20.0));
        let half = Watered::Own { share: 0.5 };
        let part = half.irrigation(&model, zone.area_m2, run, Depth::from_mm(20.0));
        assert!((part.net.mm() * 2.0 - all.net.mm()).abs() < 1e-12);
        assert!(all.net > Depth::ZERO);
        for bad in [0.0, -1.0, 1.1, f64::NAN] {
            assert!(
                Watered::Own { share: bad }
                    .validate("", zone.area_m2)
                    .is_err()
            );
        }
        let too_far = Watered::Hose {
            flow_l_min: 10.0,
            reached_m2: Area::from_m2(5000.0),
        };
        assert_eq!(
            too_far
                .validate("watered.", zone.area_m2)
                .unwrap_err()
                .field,
            "watered.reached_m2"
        );
    }
}
