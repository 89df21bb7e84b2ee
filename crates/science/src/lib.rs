//! Published formulas and tables of turf irrigation. Pure: no clock, no I/O; one file a method.
//!
//! | module | what | source |
//! |---|---|---|
//! | [`units`] | unit facts (inch, gallon, foot) | definitions |
//! | [`humidity`] | vapour pressure, psychrometric constant | FAO-56 ch. 3 |
//! | [`radiation`] | extraterrestrial, solar and net radiation, day length | FAO-56 ch. 3 |
//! | [`reference_et`] | reference evapotranspiration and its fallbacks | FAO-56 eqs 6 and 52 |
//! | [`sun`] | sunrise and sunset | NOAA solar equations |
//! | [`dual_crop`] | evaporation from the top of the soil | FAO-56 eqs 71 to 74, table 19 |
//! | [`sowing`] | seed: amount, warmth until it stands | common practice |
//! | [`trees`] | trees in a lawn: roots, crop coefficient | common practice, University of California |
//! | [`turf`] | grasses, crop coefficients, growth potential | FAO-56 table 12, University of California |
//! | [`soil`] | texture classes, storage, intake, surface accumulation | USDA, Irrigation Association |
//! | [`soil_triangle`] | texture class by sand, silt and clay | USDA Soil Survey Manual |
//! | [`saxton_rawls`] | water contents by sand, clay and organic matter | Saxton and Rawls 2006 |
//! | [`green_ampt`] | how steady rain enters, until it stands | Green and Ampt 1911, Rawls and others 1983 |
//! | [`infiltrometer`] | laws fitted to ring readings | Philip 1957, Horton 1940 |
//! | [`water_drop`] | water-repellent soil | Dekker and Jungerius 1990 |
//! | [`curve_number`] | rain that runs off | USDA NRCS TR-55 |
//! | [`robust`] | median and spread that a few wild figures do not move | Hampel 1974 |
//! | [`cusum`] | when a level has shifted | Page 1954, Siegmund 1985 |
//! | [`depletion`] | total and readily available water, stress | FAO-56 eqs 82 to 84 |
//! | [`catch_can`] | what sprinklers put down, how evenly | Irrigation Association, Christiansen 1942 |
//! | [`natural_neighbour`] | depths between the cans | Park and others 2006 |
//! | [`water_budget`] | what a landscape may use | EPA WaterSense, California's MWELO |
//! | [`sprinkler`] | sprinkler kinds, run-time multiplier, rate formulas | Irrigation Association |
//!
//! Empirical formulas take and return `f64` with the unit in the name (`tmin_c`, `rs_mj_m2`); newtypes begin in `lawn`.
#![deny(missing_docs)]

pub mod catch_can;
pub mod curve_number;
pub mod cusum;
pub mod depletion;
pub mod dual_crop;
pub mod green_ampt;
pub mod humidity;
pub mod infiltrometer;
pub mod natural_neighbour;
pub mod radiation;
pub mod reference_et;
pub mod robust;
pub mod saxton_rawls;
pub mod soil;
pub mod soil_triangle;
pub mod sowing;
pub mod sprinkler;
pub mod sun;
pub mod trees;
pub mod turf;
pub mod units;
pub mod water_budget;
pub mod water_drop;
