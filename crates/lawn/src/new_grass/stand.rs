//! How it went: seedlings counted in a frame that is laid down here and there, and what is to be sown again before the window shuts.

use jiff::civil::Date;
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::new_grass::materials::good_stand_dm2;
use crate::new_grass::method::Method;
use crate::quantity::Area;
use crate::ranges;
use crate::site::NewGrassAs;
use crate::stress::repair::{Sow, SowBy, seed_kg, sow};

/// Shares of a good stand from which on it is good, and thin (no source).
const GOOD_SHARE: f64 = 0.6;
const THIN_SHARE: f64 = 0.25;
/// Below both, a tenth of a good stand and three seedlings on a square decimetre, a place is as good as bare: a few are sparse, not bare (no source).
const BARE_SHARE: f64 = 0.1;
const BARE_DM2: f64 = 3.0;
/// Frames that are laid down at least, and at most.
pub const FRAMES: (usize, usize) = (3, 50);

/// Seedlings in frames.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = StandCount)]
pub struct Count {
    /// The site's day.
    pub date: Date,
    /// Side of the square frame, mm.
    pub frame_mm: u32,
    /// Seedlings in each.
    pub counts: Vec<u32>,
}

impl Count {
    /// Checks it.
    ///
    /// # Errors
    /// The field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        Invalid::unless_within("frame_mm", ranges::FRAME, f64::from(self.frame_mm))?;
        let (least, most) = FRAMES;
        if !(least..=most).contains(&self.counts.len()) {
            let message = format!("lay the frame down {least} to {most} times");
            return Err(Invalid::new("counts", message));
        }
        for count in &self.counts {
            Invalid::unless_within("counts", ranges::SEEDLINGS, f64::from(*count))?;
        }
        Ok(())
    }
}

/// How a stand is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = StandVerdict)]
pub enum Verdict {
    /// It closes by itself.
    Good,
    /// It closes late: fed and mown it may.
    Thin,
    /// It is sown again.
    Sparse,
}

/// What a count tells.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Stand {
    /// The count.
    pub count: Count,
    /// Seedlings on a square decimetre.
    pub per_dm2: f64,
    /// As many as half of the seed would be; absent: it was not sown.
    pub good_dm2: Option<f64>,
    /// How it is; absent: nothing to compare with.
    pub verdict: Option<Verdict>,
    /// Share of the frames that are as good as bare.
    pub bare_share: f64,
    /// Area to sow again, m².
    #[schema(value_type = f64)]
    pub again_m2: Area,
    /// Seed for it, kg.
    pub seed_kg: Option<f64>,
    /// Until when, and how.
    pub sow: Option<Sow>,
}

/// What a count of an area tells of grass that was made in a way; `by`: until when the grass is sown this year.
#[must_use]
pub fn stand(
    (grass, made): (Grass, NewGrassAs),
    area: Area,
    count: Count,
    by: Option<SowBy>,
    today: Date,
) -> Stand {
    let dm = f64::from(count.frame_mm) / 100.0;
    let frame_dm2 = dm * dm;
    let frames: Vec<f64> = count
        .counts
        .iter()
        .map(|n| f64::from(*n) / frame_dm2)
        .collect();
    #[allow(clippy::cast_precision_loss)] // fifty at most
    let n = frames.len().max(1) as f64;
    let per_dm2 = frames.iter().sum::<f64>() / n;
    let good_dm2 = match made {
        NewGrassAs::Seed => good_stand_dm2(grass, Method::Seed),
        NewGrassAs::Overseed => good_stand_dm2(grass, Method::Overseed),
        NewGrassAs::Sod | NewGrassAs::Plugs => None,
    };
    let verdict = good_dm2.map(|good| match per_dm2 / good {
        share if share >= GOOD_SHARE => Verdict::Good,
        share if share >= THIN_SHARE => Verdict::Thin,
        _ => Verdict::Sparse,
    });
    let is_bare =
        |per_dm2: &&f64| good_dm2.is_some_and(|good| **per_dm2 < BARE_DM2.min(good * BARE_SHARE));
    #[allow(clippy::cast_precision_loss)] // fifty at most
    let bare_share = frames.iter().filter(is_bare).count() as f64 / n;
    let again_share = match verdict {
        Some(Verdict::Sparse) => 1.0,
        _ => bare_share,
    };
    let again_m2 = Area::from_m2(area.m2() * again_share);
    let seed = grass.seed().filter(|_| again_share > 0.0);
    Stand {
        count,
        per_dm2,
        good_dm2,
        verdict,
        bare_share,
        again_m2,
        seed_kg: seed.map(|seed| seed_kg(&seed, again_m2)),
        sow: seed.and(by).map(|by| sow(by, today)),
    }
}
