//! Evaporation from the top of the soil beside what plants take up: the dual crop coefficient of FAO-56 (Allen, Pereira, Raes and Smith 1998, *Crop
//! evapotranspiration*, Irrigation and Drainage Paper 56), chapter 7, equations 71 to 74 and table 19.
//!
//! A wet surface evaporates as fast as the air asks until the readily evaporable water (REW) is gone, and then the slower the drier it is, until all that can
//! evaporate (TEW) is.

use crate::humidity::saturation_kpa;
use crate::soil::Texture;

/// The layer that readily evaporable water is printed for, mm (table 19).
const TABLE_LAYER_MM: f64 = 100.0;
/// What a wet surface may evaporate more than tall plants in the open, as a ratio of reference ET (eq 72).
const WET_SURFACE: f64 = 1.2;
/// What it exceeds Kcb by at least (eq 72).
const ABOVE_BASAL: f64 = 0.05;

/// The layer at the top of the soil that dries by evaporation.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SurfaceLayer {
    /// Total evaporable water, mm.
    pub tew_mm: f64,
    /// Readily evaporable water, mm; less than the total.
    pub rew_mm: f64,
}

impl SurfaceLayer {
    /// Of a soil by its water contents at field capacity and at wilting point, shares of the volume, over a layer of 10 to 100 mm.
    ///
    /// # Formula
    /// TEW = (θFC − 0.5 θWP) · layer (eq 73); REW by texture (table 19, the middle for 100 mm), by the layer's share of 100 mm, and at most 0.9 TEW.
    ///
    /// # Example
    /// A sandy loam of FAO-56's example 35 (its figures from memory): field capacity 0.23, wilting point 0.10, 100 mm: TEW 18 mm, REW 8 mm.
    /// ```
    /// use science::{dual_crop::SurfaceLayer, soil::Texture};
    /// let layer = SurfaceLayer::of(Texture::SandyLoam, 0.23, 0.10, 100.0);
    /// assert!((layer.tew_mm - 18.0).abs() < 1e-9);
    /// assert_eq!(layer.rew_mm, 8.0);
    /// ```
    #[must_use]
    pub fn of(soil: Texture, field_capacity: f64, wilting_point: f64, layer_mm: f64) -> Self {
        let tew_mm = (field_capacity - 0.5 * wilting_point) * layer_mm;
        let rew_mm = readily_evaporable_mm(soil) * layer_mm / TABLE_LAYER_MM;
        Self {
            tew_mm,
            rew_mm: rew_mm.min(0.9 * tew_mm),
        }
    }

    /// Reduction of evaporation at a depletion of the layer, mm: 1 up to REW, then falling to 0 at TEW (eq 74).
    #[must_use]
    pub fn reduction(&self, depletion_mm: f64) -> f64 {
        if depletion_mm <= self.rew_mm {
            return 1.0;
        }
        ((self.tew_mm - depletion_mm) / (self.tew_mm - self.rew_mm)).clamp(0.0, 1.0)
    }
}

/// Readily evaporable water of 100 mm of soil, mm: the middle of table 19's range (from memory). Classes that the table does not have: clay loam as silty clay loam, sandy clay
/// loam as loam, sandy clay as silty clay.
#[must_use]
pub const fn readily_evaporable_mm(soil: Texture) -> f64 {
    match soil {
        Texture::Sand => 4.5,
        Texture::LoamySand => 6.0,
        Texture::SandyLoam => 8.0,
        Texture::Loam | Texture::SandyClayLoam => 9.0,
        Texture::SiltLoam | Texture::Silt | Texture::SiltyClayLoam | Texture::ClayLoam => 9.5,
        Texture::SiltyClay | Texture::SandyClay | Texture::Clay => 10.0,
    }
}

/// The most that a surface evaporates and transpires after a wetting, as a ratio of reference ET (eq 72).
///
/// `wind_m_s` at 2 m and `rh_min_pct` are held within 1 to 6 m/s and 20 to 80 %, for which the equation is given; `height_m` is that of the plants.
///
/// # Example
/// FAO-56, example 35 (from memory): 1.6 m/s, 35 %, 0.3 m: 1.21.
/// ```
/// let most = science::dual_crop::kc_max(1.6, 35.0, 0.3, 0.30);
/// assert!((most - 1.21).abs() < 0.005);
/// ```
#[must_use]
pub fn kc_max(wind_m_s: f64, rh_min_pct: f64, height_m: f64, basal: f64) -> f64 {
    let climate =
        0.04 * (wind_m_s.clamp(1.0, 6.0) - 2.0) - 0.004 * (rh_min_pct.clamp(20.0, 80.0) - 45.0);
    (WET_SURFACE + climate * (height_m / 3.0).powf(0.3)).max(basal + ABOVE_BASAL)
}

/// Least relative humidity of a day, %, where it was not measured: the dew point is about the day's least temperature (FAO-56 annex 5).
#[must_use]
pub fn least_humidity_pct(tmin_c: f64, tmax_c: f64) -> f64 {
    100.0 * saturation_kpa(tmin_c) / saturation_kpa(tmax_c.max(tmin_c))
}

/// Coefficient of evaporation from the surface, a ratio of reference ET (eq 71): what the air asks beyond the plants, reduced as the surface dries, and no more than
/// the share of the ground that lies open (`exposed`, 0 to 1) can give.
#[must_use]
pub fn evaporation_coefficient(reduction: f64, kc_max: f64, basal: f64, exposed: f64) -> f64 {
    (reduction * (kc_max - basal))
        .min(exposed * kc_max)
        .max(0.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// FAO-56 table 19: range of TEW for 100 mm, mm (from memory of the table), by water contents at the middles of its ranges.
    #[test]
    fn total_evaporable_water_lies_in_the_published_ranges() {
        for (soil, field_capacity, wilting_point, range) in [
            (Texture::Sand, 0.12, 0.045, 6.0..=12.0),
            (Texture::LoamySand, 0.15, 0.065, 9.0..=14.0),
            (Texture::SandyLoam, 0.23, 0.11, 15.0..=20.0),
            (Texture::Loam, 0.25, 0.12, 16.0..=22.0),
            (Texture::SiltLoam, 0.29, 0.15, 18.0..=25.0),
            (Texture::Silt, 0.32, 0.17, 22.0..=26.0),
            (Texture::SiltyClayLoam, 0.335, 0.205, 22.0..=27.0),
            (Texture::SiltyClay, 0.36, 0.23, 22.0..=28.0),
            (Texture::Clay, 0.36, 0.22, 22.0..=29.0),
        ] {
            let layer = SurfaceLayer::of(soil, field_capacity, wilting_point, 100.0);
            assert!(range.contains(&layer.tew_mm), "{soil:?}: {}", layer.tew_mm);
            assert!(layer.rew_mm < layer.tew_mm);
        }
    }

    /// FAO-56, example 34: bare loam after a heavy rain dries over days at 4.5 mm of reference ET; TEW 20 mm, REW 9 mm, Kcb 0.15, Kc max 1.2. The inputs are from memory; the figures
    /// of each day follow from the equations by hand.
    #[test]
    fn a_bare_soil_dries_day_by_day_as_the_equations_say() {
        let layer = SurfaceLayer {
            tew_mm: 20.0,
            rew_mm: 9.0,
        };
        let (mut depletion, mut evaporated) = (0.0, Vec::new());
        for _ in 0..6 {
            let kr = layer.reduction(depletion);
            let e = 4.5 * evaporation_coefficient(kr, 1.2, 0.15, 1.0);
            depletion += e;
            evaporated.push(e);
        }
        let by_hand = [4.725, 4.725, 4.531, 2.585, 1.475, 0.841];
        for (e, hand) in evaporated.iter().zip(by_hand) {
            assert!((e - hand).abs() < 0.002, "{evaporated:?}");
        }
    }

    /// FAO-56, example 35, its first two days: cotton on sandy loam after 40 mm, Kcb 0.30 and 0.31, Kc max 1.21, few 0.80, 4.5 and 5.0 mm of reference ET. Inputs from memory.
    #[test]
    fn evaporation_is_held_by_the_ground_that_lies_open() {
        let layer = SurfaceLayer {
            tew_mm: 18.0,
            rew_mm: 8.0,
        };
        let first = evaporation_coefficient(layer.reduction(0.0), 1.21, 0.30, 0.80);
        assert!((first - 0.91).abs() < 1e-9);
        // The layer counts where it is wet and open: E / few.
        let depletion = first * 4.5 / 0.80;
        assert!((depletion - 5.12).abs() < 0.01);
        let second = evaporation_coefficient(layer.reduction(depletion), 1.21, 0.31, 0.80);
        assert!((second - 0.90).abs() < 1e-9);
        let third_kr = layer.reduction(depletion + second * 5.0 / 0.80);
        assert!((third_kr - 0.726).abs() < 0.002, "{third_kr}");
        // Under closed turf next to nothing evaporates, however wet it is.
        assert!((evaporation_coefficient(1.0, 1.2, 0.6, 0.1) - 0.12).abs() < 1e-12);
    }

    /// Against the closed form of the same laws: TEW − De falls by exp(−E₀ t / (TEW − REW)) once REW is gone.
    #[test]
    fn hourly_steps_come_to_the_integral() {
        let layer = SurfaceLayer {
            tew_mm: 5.0,
            rew_mm: 2.0,
        };
        let asked_mm_h = 0.4;
        let mut depletion = 0.0;
        for hour in 1..=24_i32 {
            depletion += layer.reduction(depletion) * asked_mm_h;
            let t = f64::from(hour);
            let until_rew = layer.rew_mm / asked_mm_h;
            let exact = if t <= until_rew {
                asked_mm_h * t
            } else {
                let span = layer.tew_mm - layer.rew_mm;
                layer.tew_mm - span * (-asked_mm_h * (t - until_rew) / span).exp()
            };
            // Kr at the start of the hour is a little too wet.
            assert!(
                (depletion - exact).abs() < 0.1,
                "{hour}: {depletion} {exact}"
            );
        }
    }

    #[test]
    fn wind_and_dry_air_raise_the_most_and_damp_air_lowers_it() {
        let calm = kc_max(2.0, 45.0, 0.05, 0.1);
        assert!((calm - 1.2).abs() < 1e-12);
        assert!(kc_max(5.0, 20.0, 0.05, 0.1) > calm);
        assert!(kc_max(1.0, 80.0, 0.05, 0.1) < calm);
        assert_eq!(kc_max(1.0, 80.0, 0.05, 1.3), 1.35);
        // 10 and 30 °C: 1.228 of 4.243 kPa.
        assert!((least_humidity_pct(10.0, 30.0) - 28.94).abs() < 0.05);
    }
}
