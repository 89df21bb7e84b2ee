//! The surface of a seedbed, hour by hour: two stores in series (FAO-56 chapter 7, docs/decisions/0043).
//!
//! The surface store is the top 20 mm. Its depletion De runs from 0 to TEW; it loses by evaporation (eqs 71 to 74) and what it does not hold passes into the root store below,
//! which seedlings drink from. Within an hour: water, then evaporation and transpiration by the stores as they are then, then rain, then drainage. Always
//! Δdepletion + Δsurface = ETa − effective rain − irrigation net + drainage + adjustment, 0 ≤ De ≤ TEW and 0 ≤ Dr ≤ TAW.

use jiff::civil::Date;
use science::depletion::stress_slope;
use science::dual_crop::{SurfaceLayer, evaporation_coefficient, kc_max, least_humidity_pct};
use science::sowing::MOWN_COVER;

use crate::engine::root_zone::{DayBalance, Irrigation, effective_rain, larger, smaller};
use crate::engine::seedling::{Seedling, Stage};
use crate::engine::surface_day::{DryHours, SurfaceDay};
use crate::engine::zone_model::{LEAST_TAW_MM, ZoneModel};
use crate::quantity::Depth;
use crate::site::Zone;
use crate::site::daylight::{DayHours, HOURS};
use crate::weather::DailyWeather;

/// Thickness of the surface store, mm (ENGINE's default; FAO-56 takes 100 to 150 under crops, seed lies in the top centimetres).
pub const LAYER_MM: f64 = 20.0;
/// Soil below it that seedlings reach, mm.
const BELOW_LAYER_MM: f64 = 10.0;
/// Roots of new grass until its first mowing, mm.
pub const YOUNG_ROOTS_MM: f64 = LAYER_MM + BELOW_LAYER_MM;
/// Height of seedlings, m.
const HEIGHT_M: f64 = 0.05;
/// What Kcb stays below Kc under full cover (FAO-56 table 17 beside table 12).
const BASAL_BELOW_KC: f64 = 0.05;
/// Of TEW, what may be gone before seed is up, and before seedlings fill in.
const NOT_UP_SHARE: f64 = 0.5;
const UP_SHARE: f64 = 0.7;
/// Wind where it is not known, m/s (FAO-56, the mean of 2000 stations), and humidity of the standard climate, %.
const USUAL_WIND_M_S: f64 = 2.0;
const USUAL_HUMIDITY_PCT: f64 = 45.0;
/// A day on which the surface is too dry for so many hours counts as dry (no source).
pub const DRY_HOURS: u8 = 12;
/// Shares of both stores that are gone where what fills in is too dry for a day (no source).
const EMPTY_SHARE: f64 = 0.9;
/// Depths below this count as none.
const EPSILON_MM: f64 = 1e-9;

/// Whether a day was too dry for new grass. `dry`: how many hours it was beyond its limit, where it has one; `gone`: shares of the surface store and of the root store that are
/// gone at its end.
#[must_use]
pub fn is_dry_day(dry: Option<u8>, gone: [f64; 2]) -> bool {
    dry.map_or_else(
        || gone.iter().all(|share| *share >= EMPTY_SHARE),
        |hours| hours >= DRY_HOURS,
    )
}

/// Whether new grass was too dry on a day by its balance, by hours in which that is worth saying; without a surface of its own it is turf. `taw`: total available water.
#[must_use]
pub fn was_dry(balance: &DayBalance, taw: Depth) -> bool {
    balance.surface.is_some_and(|surface| {
        let hours = || u8::try_from(surface.too_dry().len()).unwrap_or(u8::MAX);
        let dry = surface.limit.map(|_| hours());
        is_dry_day(dry, [surface.end / surface.tew, balance.end / taw])
    })
}

/// A zone's surface at a stage of its new grass.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bed {
    /// The surface store.
    pub layer: SurfaceLayer,
    /// How far the grass has come.
    pub stage: Stage,
    /// Share of the ground that it covers.
    pub cover: f64,
    /// Days from one watering to the next where it fills in.
    pub every_days: i32,
}

/// Water given, by the hour of the day in which it begins.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct ByHour(pub [Irrigation; HOURS]);

impl ByHour {
    /// Nothing.
    pub const NONE: Self = Self([Irrigation::NONE; HOURS]);

    /// All of it.
    #[must_use]
    pub fn all(&self) -> Irrigation {
        let mut all = Irrigation::default();
        for given in self.0 {
            all += given;
        }
        all
    }
}

/// A zone's surface this morning, and what ran on it today.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BedNow {
    /// The surface.
    pub bed: Bed,
    /// What it lacks at dawn.
    pub surface: Depth,
    /// What has run today already.
    pub ran: ByHour,
}

impl Bed {
    /// Of a zone, its figures as they are under new grass, and what grows in it.
    #[must_use]
    pub fn of(zone: &Zone, model: &ZoneModel, seedling: &Seedling) -> Self {
        let (_, field_capacity) = zone.wetting_front();
        let wilting_point = (field_capacity - model.available.value).max(0.0);
        Self {
            layer: SurfaceLayer::of(zone.soil, field_capacity, wilting_point, LAYER_MM),
            stage: seedling.stage,
            cover: seedling.cover(zone.grass),
            every_days: seedling.every_days(zone.grass),
        }
    }

    /// Total available water of the root store below the surface.
    pub(crate) fn root_store(model: &ZoneModel) -> Depth {
        Depth::from_mm((model.available.value * BELOW_LAYER_MM).max(LEAST_TAW_MM))
    }

    /// Total evaporable water.
    #[must_use]
    pub const fn tew(&self) -> Depth {
        Depth::from_mm(self.layer.tew_mm)
    }

    /// How dry the surface may become; `None`: it no longer matters by itself.
    #[must_use]
    pub fn limit(&self) -> Option<Depth> {
        match self.stage {
            Stage::NotUp => Some(self.tew() * NOT_UP_SHARE),
            Stage::Up => Some(self.tew() * UP_SHARE),
            Stage::FillingIn | Stage::Established => None,
        }
    }
}

/// What an hour-by-hour day is computed from, mm.
#[derive(Debug, Clone, Copy)]
pub(crate) struct BedDay {
    /// The day.
    pub date: Date,
    layer: SurfaceLayer,
    limit_mm: f64,
    has_limit: bool,
    /// Reference ET · site factor by hour.
    asks_mm: [f64; HOURS],
    kc_max: f64,
    basal: f64,
    exposed: f64,
    taw_mm: f64,
    raw_mm: f64,
    slope: f64,
    rain_mm_h: f64,
    etc_mm: f64,
    effective_rain: Depth,
    rain_runoff: Depth,
    rain: Depth,
}

impl BedDay {
    /// Of a day's weather; its rain is spread over all hours.
    pub fn new(bed: &Bed, model: &ZoneModel, weather: &DailyWeather, hours: &DayHours) -> Self {
        let basal = (model.crop_coefficient(weather) - BASAL_BELOW_KC).max(0.0)
            * (bed.cover / MOWN_COVER).min(1.0);
        let humidity_pct =
            weather
                .rh_min_pct
                .unwrap_or_else(|| match (weather.tmin_c, weather.tmax_c) {
                    (Some(tmin_c), Some(tmax_c)) => least_humidity_pct(tmin_c, tmax_c),
                    _ => USUAL_HUMIDITY_PCT,
                });
        let wind_m_s = weather.wind_m_s.unwrap_or(USUAL_WIND_M_S);
        let kc_max = kc_max(wind_m_s, humidity_pct, HEIGHT_M, basal);
        let exposed = 1.0 - bed.cover;
        let et0_mm = weather.et0.mm().max(0.0) * model.site_factor.value;
        let wet = evaporation_coefficient(1.0, kc_max, basal, exposed);
        let etc_mm = et0_mm * (wet + basal);
        let raw = model.raw(Depth::from_mm(etc_mm));
        let (effective_rain, rain_runoff) = effective_rain(model, weather);
        let limit = bed.limit();
        Self {
            date: weather.date,
            layer: bed.layer,
            limit_mm: limit.map_or(f64::INFINITY, Depth::mm),
            has_limit: limit.is_some(),
            asks_mm: hours.shares.map(|share| share * et0_mm),
            kc_max,
            basal,
            exposed,
            taw_mm: model.taw.mm(),
            raw_mm: raw.mm(),
            slope: stress_slope(model.taw.mm(), raw.mm()),
            rain_mm_h: effective_rain.mm() / 24.0,
            etc_mm,
            effective_rain,
            rain_runoff,
            rain: weather.rain,
        }
    }
}

/// A seedbed on its way through a day.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Course {
    /// The next hour to come.
    pub hour: usize,
    /// The first hour of which what ran is not counted yet.
    uncounted: usize,
    surface_mm: f64,
    root_mm: f64,
    evaporation_mm: f64,
    transpiration_mm: f64,
    drainage_mm: f64,
    driest_mm: f64,
    dry: DryHours,
    by_hour_mm: [f64; HOURS],
    given: Irrigation,
}

impl Course {
    /// As a day begins.
    pub const fn begin(surface: Depth, root: Depth) -> Self {
        Self {
            hour: 0,
            uncounted: 0,
            surface_mm: surface.mm(),
            root_mm: root.mm(),
            evaporation_mm: 0.0,
            transpiration_mm: 0.0,
            drainage_mm: 0.0,
            driest_mm: 0.0,
            dry: DryHours::NONE,
            by_hour_mm: [0.0; HOURS],
            given: Irrigation::NONE,
        }
    }

    /// What the surface lacks now.
    pub const fn surface(&self) -> Depth {
        Depth::from_mm(self.surface_mm)
    }

    /// What the root store lacks now.
    pub const fn root(&self) -> Depth {
        Depth::from_mm(self.root_mm)
    }

    /// The driest that the surface was at the end of an hour of the day.
    pub const fn driest(&self) -> Depth {
        Depth::from_mm(self.driest_mm)
    }

    /// The hours of the day at whose end it was too dry.
    pub const fn dry(&self) -> DryHours {
        self.dry
    }

    /// The same, of which only what comes is told.
    pub const fn watched_anew(mut self) -> Self {
        self.driest_mm = self.surface_mm;
        self
    }

    /// Waters it now.
    pub fn water(&mut self, irrigation: Irrigation) {
        self.given += irrigation;
        self.surface_mm -= irrigation.net.mm();
        self.pass_on();
    }

    /// What the surface does not hold goes to the root store, which may be below 0 until the hour drains.
    const fn pass_on(&mut self) {
        let over = larger(-self.surface_mm, 0.0);
        self.surface_mm += over;
        self.root_mm -= over;
    }

    /// Goes on to an hour, each hour's water among it.
    pub fn go_to(&mut self, day: &BedDay, to: usize, ran: &ByHour) {
        while self.hour < to.min(HOURS) {
            self.count(ran);
            self.pass_hour(day);
        }
    }

    /// Counts what ran in the hour that comes, once.
    pub fn count(&mut self, ran: &ByHour) {
        if self.hour < HOURS && self.uncounted <= self.hour {
            self.uncounted = self.hour + 1;
            let ran = ran.0[self.hour];
            if ran.gross > Depth::ZERO {
                self.water(ran);
            }
        }
    }

    fn pass_hour(&mut self, day: &BedDay) {
        let asks = day.asks_mm[self.hour];
        let kr = day.layer.reduction(self.surface_mm);
        let ke = evaporation_coefficient(kr, day.kc_max, day.basal, day.exposed);
        let evaporation = smaller(ke * asks, day.layer.tew_mm - self.surface_mm);
        let left = day.taw_mm - self.root_mm;
        let ks = smaller(left * day.slope, 1.0);
        let transpiration = smaller(ks * day.basal * asks, left);
        self.surface_mm += evaporation - day.rain_mm_h;
        self.root_mm += transpiration;
        self.pass_on();
        let drained = larger(-self.root_mm, 0.0);
        self.root_mm += drained;
        self.evaporation_mm += evaporation;
        self.transpiration_mm += transpiration;
        self.drainage_mm += drained;
        self.driest_mm = larger(self.driest_mm, self.surface_mm);
        self.by_hour_mm[self.hour] = self.surface_mm;
        if self.surface_mm > day.limit_mm + EPSILON_MM {
            self.dry.add(self.hour);
        }
        self.hour += 1;
    }

    /// The balance of the day when all of it has passed; `begun` is how it began, `depletion` and `adjustment` the root store's as the day before left it.
    pub fn balance(
        &self,
        begun: &Self,
        depletion: Depth,
        adjustment: Depth,
        day: &BedDay,
    ) -> DayBalance {
        let mm = Depth::from_mm;
        let wet_transpiration = day.basal * day.asks_mm.iter().sum::<f64>();
        DayBalance {
            start: depletion,
            end: mm(smaller(self.root_mm, day.taw_mm)),
            etc: mm(day.etc_mm),
            eta: mm(self.evaporation_mm + self.transpiration_mm),
            ks: if wet_transpiration > 0.0 {
                smaller(self.transpiration_mm / wet_transpiration, 1.0)
            } else {
                1.0
            },
            raw: mm(day.raw_mm),
            rain: day.rain,
            effective_rain: day.effective_rain,
            rain_runoff: day.rain_runoff,
            irrigation: self.given,
            drainage: mm(self.drainage_mm),
            adjustment,
            surface: Some(SurfaceDay {
                start: mm(begun.surface_mm),
                end: mm(self.surface_mm),
                tew: mm(day.layer.tew_mm),
                rew: mm(day.layer.rew_mm),
                evaporation: mm(self.evaporation_mm),
                limit: day.has_limit.then_some(mm(day.limit_mm)),
                driest: mm(self.driest_mm),
                dry: self.dry,
                lacks_pct: self.by_hour_mm.map(|mm| percent(mm / day.layer.tew_mm)),
            }),
        }
    }
}

fn percent(share: f64) -> u8 {
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // 0 to 100
    let percent = (share * 100.0).round().clamp(0.0, 100.0) as u8;
    percent
}

/// One day of a seedbed from its dawn, with what ran in its hours.
pub(crate) fn day(
    bed: &Bed,
    model: &ZoneModel,
    dawn: &Stores,
    weather: &DailyWeather,
    hours: &DayHours,
    ran: &ByHour,
) -> DayBalance {
    let day = BedDay::new(bed, model, weather, hours);
    let begun = Course::begin(dawn.surface, dawn.depletion + dawn.adjustment);
    let mut course = begun;
    course.go_to(&day, HOURS, ran);
    course.balance(&begun, dawn.depletion, dawn.adjustment, &day)
}

/// Both stores at the dawn of a day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Stores {
    /// Depletion of the root store as the day before left it.
    pub depletion: Depth,
    /// Its correction at dawn; positive dries.
    pub adjustment: Depth,
    /// What the surface lacks.
    pub surface: Depth,
}
