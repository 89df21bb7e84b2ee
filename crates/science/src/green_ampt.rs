//! How steady rain, or a sprinkler, enters a soil: Green and Ampt's wetting front.
//!
//! # Symbols
//! K effective conductivity (mm/h), ψ suction at the front (mm), Δθ what the pores still take up, a share of the volume, R rate (mm/h), F what has
//! entered (mm), t time (h).
//!
//! # References
//! Green and Ampt (1911); Mein and Larson (1973) for a steady rate. K, ψ and effective porosity by class: Rawls, Brakensiek and Miller (1983),
//! "Green-Ampt infiltration parameters from soils data", Journal of Hydraulic Engineering 109:62–70, as in Chow, Maidment and Mays
//! (1988), *Applied Hydrology*, table 4.3.1 (from memory).

use crate::soil::Texture;

/// What Green and Ampt need of a soil.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Soil {
    /// Effective conductivity K, mm/h: what enters in the end.
    pub conductivity_mm_h: f64,
    /// Suction ψ at the wetting front, mm.
    pub suction_mm: f64,
    /// Effective porosity θe: the share of the volume between residual and full.
    pub effective_porosity: f64,
    /// All pores, share of the volume.
    pub porosity: f64,
}

impl Soil {
    /// The table's soil of a class. It has no silt: that of silt loam.
    #[must_use]
    pub const fn of(texture: Texture) -> Self {
        let (porosity, effective_porosity, suction_mm, conductivity_mm_h) = match texture {
            Texture::Sand => (0.437, 0.417, 49.5, 117.8),
            Texture::LoamySand => (0.437, 0.401, 61.3, 29.9),
            Texture::SandyLoam => (0.453, 0.412, 110.1, 10.9),
            Texture::Loam => (0.463, 0.434, 88.9, 3.4),
            Texture::SiltLoam | Texture::Silt => (0.501, 0.486, 166.8, 6.5),
            Texture::SandyClayLoam => (0.398, 0.330, 218.5, 1.5),
            Texture::ClayLoam => (0.464, 0.309, 208.8, 1.0),
            Texture::SiltyClayLoam => (0.471, 0.432, 273.0, 1.0),
            Texture::SandyClay => (0.430, 0.321, 239.0, 0.6),
            Texture::SiltyClay => (0.479, 0.423, 292.2, 0.5),
            Texture::Clay => (0.475, 0.385, 316.3, 0.3),
        };
        Self {
            conductivity_mm_h,
            suction_mm,
            effective_porosity,
            porosity,
        }
    }

    /// How full the effective pores are, 0 to 1, at a water content, a share of the volume.
    #[must_use]
    pub fn effective_saturation(&self, content: f64) -> f64 {
        let residual = self.porosity - self.effective_porosity;
        ((content - residual) / self.effective_porosity).clamp(0.0, 1.0)
    }

    /// What the front draws: ψ Δθ, mm, with Δθ = (1 − E) θe at an effective saturation E, 0 to 1.
    fn pull_mm(&self, effective_saturation: f64) -> f64 {
        self.suction_mm * (1.0 - effective_saturation) * self.effective_porosity
    }

    /// Time from the start until water stands on the ground, h, at a steady rate, mm/h: tp = K ψ Δθ / (R (R − K)). `None` where R ≤ K:
    /// it never does.
    ///
    /// # Example
    /// Chow, Maidment and Mays, example 4.4.1 (from memory): silt loam of effective saturation 0.3 takes 10 mm/h for 10.5 h, 50 mm/h for 0.17 h.
    /// ```
    /// use science::green_ampt::Soil;
    /// use science::soil::Texture;
    /// let silt_loam = Soil::of(Texture::SiltLoam);
    /// assert!((silt_loam.time_to_ponding_h(10.0, 0.3).unwrap() - 10.5).abs() < 0.05);
    /// assert!((silt_loam.time_to_ponding_h(50.0, 0.3).unwrap() - 0.17).abs() < 0.005);
    /// ```
    #[must_use]
    pub fn time_to_ponding_h(&self, rate_mm_h: f64, effective_saturation: f64) -> Option<f64> {
        let k = self.conductivity_mm_h;
        (rate_mm_h > k)
            .then(|| k * self.pull_mm(effective_saturation) / (rate_mm_h * (rate_mm_h - k)))
    }

    /// What has entered after some hours of a steady rate from a dry surface, and how fast it enters then.
    ///
    /// # Formula
    /// Until ponding F = R t. After it F − Fp − ψΔθ ln((ψΔθ + F) / (ψΔθ + Fp)) = K (t − tp), f = K (1 + ψΔθ / F).
    #[must_use]
    pub fn infiltration(
        &self,
        rate_mm_h: f64,
        effective_saturation: f64,
        hours: f64,
    ) -> Infiltration {
        let (k, pull) = (self.conductivity_mm_h, self.pull_mm(effective_saturation));
        let given = rate_mm_h * hours;
        let free = Infiltration {
            infiltrated_mm: given,
            rate_mm_h,
        };
        let Some(ponding_h) = self.time_to_ponding_h(rate_mm_h, effective_saturation) else {
            return free;
        };
        if hours <= ponding_h {
            return free;
        }
        let at_ponding = rate_mm_h * ponding_h;
        let enters = k * (hours - ponding_h);
        if pull <= 0.0 {
            // No pore is left: what passes is K.
            return Infiltration {
                infiltrated_mm: enters,
                rate_mm_h: k,
            };
        }
        // g(F) = F − Fp − ψΔθ ln(…) − K (t − tp) grows and is hollow upward, and g of all that fell is not below 0: from there Newton's steps come
        // down to the root and never pass it.
        let mut f = given;
        for _ in 0..MOST_STEPS {
            let g =
                f - at_ponding - pull * ((f - at_ponding) / (pull + at_ponding)).ln_1p() - enters;
            let next = f - g * (pull + f) / f;
            if next >= f || (f - next) <= f * 1e-15 {
                break;
            }
            f = next;
        }
        let infiltrated_mm = f.max(at_ponding);
        Infiltration {
            infiltrated_mm,
            rate_mm_h: (k * (1.0 + pull / infiltrated_mm)).min(rate_mm_h),
        }
    }
}

/// Newton's steps at most: from twice the root it takes six.
const MOST_STEPS: u32 = 100;

/// Water that entered a soil.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Infiltration {
    /// So far, mm.
    pub infiltrated_mm: f64,
    /// How fast, mm/h.
    pub rate_mm_h: f64,
}
