//! What unevenness costs a week: the driest quarter is kept green by giving all the rest more than it needs.

use science::sprinkler::run_time_multiplier;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::quantity::{Area, Depth};

/// What a zone needs in a week, and what its water costs.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WeekNeed {
    /// Net depth that the turf uses in the week, mm.
    pub need_mm: f64,
    /// The zone's area, m².
    pub area_m2: f64,
    /// Share lost to spray and drift, 0 to 0.4.
    pub spray_loss: f64,
    /// Price of water.
    pub price_per_m3: Option<f64>,
}

/// What unevenness costs a week.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WeekCost {
    /// Net depth that the turf uses in the week, mm.
    pub need_mm: f64,
    /// Minutes more than even sprinklers would run.
    pub minutes: f64,
    /// Water more than they would give, L.
    pub volume_l: f64,
    /// What that water costs, in the site's currency; `None` without a price.
    pub money: Option<f64>,
}

impl WeekNeed {
    /// The cost at a precipitation rate, mm/h, and a low-quarter uniformity: gross = net · M / (1 − loss), against M = 1. `None` without
    /// a rate.
    #[must_use]
    pub fn cost(&self, rate_mm_h: f64, du_lq: f64) -> Option<WeekCost> {
        if rate_mm_h <= 0.0 {
            return None;
        }
        let extra_mm = self.need_mm / (1.0 - self.spray_loss) * (run_time_multiplier(du_lq) - 1.0);
        let volume = Depth::from_mm(extra_mm) * Area::from_m2(self.area_m2);
        Some(WeekCost {
            need_mm: self.need_mm,
            minutes: 60.0 * extra_mm / rate_mm_h,
            volume_l: volume.l(),
            money: self.price_per_m3.map(|price| volume.cost_at(price)),
        })
    }
}
