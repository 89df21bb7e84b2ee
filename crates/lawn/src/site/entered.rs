//! Figures that a person typed without a test: how far they may be off.

use super::Zone;
use crate::quantity::{Depth, Rate};
use crate::ranges::{self, Range};
use crate::sourced::{Source, Sourced};

impl Zone {
    /// The zone with the ranges of its typed figures: the value, less and more by what the table of its sprinkler or grass varies.
    #[must_use]
    pub fn with_typed_ranges(mut self) -> Self {
        let kind = self.sprinkler.defaults();
        let grass = self.grass.profile();
        if let Some(rate) = &mut self.rate_mm_h {
            spread(
                rate,
                kind.rate_mm_h,
                ranges::RATE,
                |r| r.mm_h(),
                Rate::from_mm_h,
            );
        }
        if let Some(evenness) = &mut self.evenness_du_lq {
            spread(evenness, kind.evenness, ranges::EVENNESS, |x| *x, |x| x);
        }
        if let Some(loss) = &mut self.spray_loss {
            spread(loss, kind.spray_loss, ranges::SPRAY_LOSS, |x| *x, |x| x);
        }
        if let Some(roots) = &mut self.root_depth_mm {
            spread(
                roots,
                grass.root_depth_mm,
                ranges::ROOT_DEPTH,
                |d| d.mm(),
                Depth::from_mm,
            );
        }
        self
    }
}

/// Sets the range of a figure that was typed: value · low / mid to value · high / mid of a table, within what is allowed.
fn spread<T>(
    figure: &mut Sourced<T>,
    [low, mid, high]: [f64; 3],
    range: Range,
    number: impl Fn(&T) -> f64,
    of: impl Fn(f64) -> T,
) {
    if !matches!(figure.source, Source::Entered { .. }) || mid <= 0.0 {
        return;
    }
    let value = number(&figure.value);
    figure.low = of((value * low / mid).clamp(range.min, value));
    figure.high = of((value * high / mid).clamp(value, range.max));
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn a_typed_figure_may_be_off_as_its_table_is_and_a_measured_one_keeps_its_own() {
        let figure = |kind: &str, value: f64| {
            json!({ "value": value, "low": value, "high": value,
                    "source": { "kind": kind, "date": "2026-06-18", "test": "cans" } })
        };
        let entered = |value: f64| json!({ "value": value, "low": value, "high": value, "source": { "kind": "entered", "date": "2026-06-18" } });
        let zone: Zone = serde_json::from_value(json!({
            "name": "Field", "grass": "tall_fescue", "soil": "loam", "slope_pct": 1, "area_m2": 400, "sprinkler": "rotor",
            "rate_mm_h": entered(10.0), "evenness_du_lq": entered(0.95), "root_depth_mm": figure("measured", 180.0)
        }))
        .unwrap();
        let zone = zone.with_typed_ranges();
        let [low, mid, high] = science::sprinkler::Kind::Rotor.defaults().rate_mm_h;
        let rate = zone.rate_mm_h.clone().unwrap();
        assert!((rate.low.mm_h() - 10.0 * low / mid).abs() < 1e-9);
        assert!((rate.high.mm_h() - 10.0 * high / mid).abs() < 1e-9);
        assert!(zone.evenness_du_lq.as_ref().unwrap().high <= 1.0);
        let roots = zone.root_depth_mm.as_ref().unwrap();
        assert_eq!((roots.low, roots.high), (roots.value, roots.value));
        assert!(zone.validate("").is_ok());
    }
}
