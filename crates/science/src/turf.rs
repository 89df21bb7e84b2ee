//! Grasses: what they are called, how deep they root, how much they use, when they grow.
//!
//! Root depths, dormancy and mowing heights are common practice, written down from memory of the trade's handbooks; crop
//! coefficients are FAO-56 table 12 or the University of California's monthly sets, from memory of both.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The season in which a grass grows best.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Season {
    /// Grows best in spring and autumn.
    Cool,
    /// Grows best in summer.
    Warm,
}

/// Temperatures at which grass grows best, low and high, °C.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BestTemperatures {
    /// Of the air, for shoots.
    pub shoots: (f64, f64),
    /// Of the soil, for roots.
    pub roots: (f64, f64),
}

impl Season {
    /// Temperatures at which grasses of the season grow best (Beard, Turfgrass: Science and Culture, 1973, from memory).
    #[must_use]
    pub const fn best_c(self) -> BestTemperatures {
        let (shoots, roots) = match self {
            Self::Cool => ((15.0, 24.0), (10.0, 18.0)),
            Self::Warm => ((27.0, 35.0), (24.0, 29.0)),
        };
        BestTemperatures { shoots, roots }
    }
}

/// The turf grasses that the catalogue knows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the variants are the grasses' own names
pub enum Grass {
    KentuckyBluegrass,
    PerennialRyegrass,
    TallFescue,
    FineFescue,
    CreepingBentgrass,
    CommonBermudagrass,
    HybridBermudagrass,
    Zoysiagrass,
    StAugustinegrass,
    Centipedegrass,
    Bahiagrass,
    Buffalograss,
    Kikuyugrass,
    SeashorePaspalum,
}

/// First figures of a grass, to be replaced by what is measured on the lawn.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Profile {
    /// English name as shown to people.
    pub name: &'static str,
    /// Cool or warm season.
    pub season: Season,
    /// Effective root depth low, middle, high, mm.
    pub root_depth_mm: [f64; 3],
    /// Days of drought dormancy usually survived in heat with crowns kept moist.
    pub dormancy_days: u16,
    /// Usual mowing height low and high, mm.
    pub mowing_mm: [f64; 2],
}

impl Grass {
    /// All grasses, cool-season ones first.
    pub const ALL: [Self; 14] = [
        Self::KentuckyBluegrass,
        Self::PerennialRyegrass,
        Self::TallFescue,
        Self::FineFescue,
        Self::CreepingBentgrass,
        Self::CommonBermudagrass,
        Self::HybridBermudagrass,
        Self::Zoysiagrass,
        Self::StAugustinegrass,
        Self::Centipedegrass,
        Self::Bahiagrass,
        Self::Buffalograss,
        Self::Kikuyugrass,
        Self::SeashorePaspalum,
    ];

    /// The grass's first figures.
    #[must_use]
    pub fn profile(self) -> Profile {
        use Season::{Cool, Warm};
        // Name, season, root depth cm, dormancy days, mowing height in.
        let (name, season, roots_cm, dormancy_days, mowing_in) = match self {
            Self::KentuckyBluegrass => {
                ("Kentucky bluegrass", Cool, [10., 15., 20.], 42, [2.5, 3.5])
            }
            Self::PerennialRyegrass => {
                ("Perennial ryegrass", Cool, [10., 15., 20.], 21, [2.0, 3.0])
            }
            Self::TallFescue => ("Tall fescue", Cool, [20., 30., 40.], 28, [3.0, 4.0]),
            Self::FineFescue => ("Fine fescue", Cool, [15., 20., 25.], 42, [2.5, 3.5]),
            Self::CreepingBentgrass => {
                ("Creeping bentgrass", Cool, [5., 10., 15.], 21, [0.25, 0.75])
            }
            Self::CommonBermudagrass => {
                ("Common bermudagrass", Warm, [20., 35., 60.], 56, [1.0, 2.0])
            }
            Self::HybridBermudagrass => {
                ("Hybrid bermudagrass", Warm, [20., 30., 50.], 56, [0.5, 1.5])
            }
            Self::Zoysiagrass => ("Zoysiagrass", Warm, [15., 25., 40.], 42, [1.0, 2.5]),
            Self::StAugustinegrass => ("St. Augustinegrass", Warm, [15., 20., 30.], 28, [2.5, 4.0]),
            Self::Centipedegrass => ("Centipedegrass", Warm, [10., 15., 20.], 28, [1.5, 2.0]),
            Self::Bahiagrass => ("Bahiagrass", Warm, [25., 40., 60.], 60, [3.0, 4.0]),
            Self::Buffalograss => ("Buffalograss", Warm, [25., 40., 60.], 60, [2.0, 4.0]),
            Self::Kikuyugrass => ("Kikuyugrass", Warm, [20., 30., 50.], 42, [1.0, 2.0]),
            Self::SeashorePaspalum => ("Seashore paspalum", Warm, [15., 25., 40.], 42, [0.5, 2.0]),
        };
        Profile {
            name,
            season,
            root_depth_mm: roots_cm.map(|cm| cm * 10.0),
            dormancy_days,
            mowing_mm: mowing_in.map(|inch| inch * crate::units::MM_PER_INCH),
        }
    }
}

/// How green the lawn is kept; water follows that choice.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum HowGreen {
    /// As green as it gets.
    Lush,
    /// Green, a little slower.
    #[default]
    Good,
    /// Alive and sparing.
    Hardy,
}

impl HowGreen {
    /// The factor on the crop coefficient: 1.0, 0.85, 0.70 (common practice, no source).
    #[must_use]
    pub const fn factor(self) -> f64 {
        match self {
            Self::Lush => 1.0,
            Self::Good => 0.85,
            Self::Hardy => 0.70,
        }
    }
}

/// Which published set the crop coefficient comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CropCoefficients {
    /// FAO-56 table 12, turf grass in mid-season: cool 0.95, warm 0.85.
    #[default]
    Fao56,
    /// University of California monthly sets, coastal southern California; months shifted by six in the south.
    CaliforniaMonthly,
    /// The rule of thumb: cool 0.8, warm 0.6.
    RuleOfThumb,
}

const CALIFORNIA_COOL: [f64; 12] = [
    0.61, 0.64, 0.75, 1.04, 0.95, 0.88, 0.94, 0.86, 0.74, 0.75, 0.69, 0.60,
];
const CALIFORNIA_WARM: [f64; 12] = [
    0.55, 0.54, 0.76, 0.72, 0.79, 0.68, 0.71, 0.71, 0.62, 0.54, 0.58, 0.55,
];

/// Crop coefficient Kc of healthy turf before how green and growth state, for a month (1 to 12, others count as the nearest)
/// on the hemisphere of the latitude in degrees.
///
/// # Example
/// ```
/// use science::turf::{crop_coefficient, CropCoefficients, Season};
/// let june_north = crop_coefficient(CropCoefficients::CaliforniaMonthly, Season::Cool, 6, 36.4);
/// let december_south = crop_coefficient(CropCoefficients::CaliforniaMonthly, Season::Cool, 12, -33.0);
/// assert_eq!(june_north, december_south);
/// ```
#[must_use]
pub fn crop_coefficient(
    set: CropCoefficients,
    season: Season,
    month: u8,
    latitude_deg: f64,
) -> f64 {
    match (set, season) {
        (CropCoefficients::Fao56, Season::Cool) => 0.95,
        (CropCoefficients::Fao56, Season::Warm) => 0.85,
        (CropCoefficients::RuleOfThumb, Season::Cool) => 0.8,
        (CropCoefficients::RuleOfThumb, Season::Warm) => 0.6,
        (CropCoefficients::CaliforniaMonthly, _) => {
            let shift = if latitude_deg < 0.0 { 6 } else { 0 };
            let index = (usize::from(month.clamp(1, 12)) - 1 + shift) % 12;
            match season {
                Season::Cool => CALIFORNIA_COOL[index],
                Season::Warm => CALIFORNIA_WARM[index],
            }
        }
    }
}

/// Growth potential, 0 to 1, at a mean air temperature in °C (Stowell and Gelernter; from memory):
/// exp(−½ ((T − Topt)/s)²), cool-season Topt 20 s 5.5, warm-season Topt 31 s 7.
///
/// # Example
/// ```
/// use science::turf::{growth_potential, Season};
/// assert_eq!(growth_potential(Season::Cool, 20.0), 1.0);
/// ```
#[must_use]
pub fn growth_potential(season: Season, mean_temperature_c: f64) -> f64 {
    let (optimum, spread) = growth_optimum_c(season);
    (-0.5 * ((mean_temperature_c - optimum) / spread).powi(2)).exp()
}

/// Mean air temperature of best growth and its spread, °C.
const fn growth_optimum_c(season: Season) -> (f64, f64) {
    match season {
        Season::Cool => (20.0, 5.5),
        Season::Warm => (31.0, 7.0),
    }
}

/// Spreads below the optimum at which a grass counts as dormant with cold: where growth potential falls to 0.05, √(−2 ln 0.05)
/// (the 0.05 is common practice, no source).
const DORMANT_AT_SPREADS: f64 = 2.447_747;
/// Factor on the crop coefficient of cold-dormant turf (common practice, no source).
pub const COLD_DORMANT_FACTOR: f64 = 0.25;

/// Crop coefficient of turf that sleeps through a drought, whatever its grass (common practice, no source).
pub const DROUGHT_DORMANT_KC: f64 = 0.2;

/// Factor on the crop coefficient for the growth state that the smoothed mean air temperature (°C) implies: 1, or 0.25 where the
/// grass is dormant with cold. Heat is not cold: above the optimum the factor is 1.
#[must_use]
#[inline]
pub fn growth_factor(season: Season, smoothed_mean_c: f64) -> f64 {
    let (optimum, spread) = growth_optimum_c(season);
    if smoothed_mean_c < optimum - DORMANT_AT_SPREADS * spread {
        COLD_DORMANT_FACTOR
    } else {
        1.0
    }
}
