//! Small named beginnings; every test changes what it is about.

use jiff::civil::{Date, date};
use jiff::{ToSpan, civil::Time};
use lawn::engine::dose;
use lawn::engine::morning::{self, Ahead, Facts, ZoneFacts, ZoneState};
use lawn::engine::schools::{Keeping, Proposal};
use lawn::engine::site_week::SiteWeek;
use lawn::engine::slot::{HORIZON, Opening};
use lawn::engine::timetable::WHOLE;
use lawn::engine::zone_model::ZoneModel;
use lawn::quantity::{Area, Depth};
use lawn::record::watered::{Passes, Watered};
use lawn::record::waterings::Entry;
use lawn::site::calendar::Interval;
use lawn::site::{
    Controller, DateRule, LateHours, Site, SiteDocument, Supply, Use, Weekday, Window, Zone,
};
use lawn::sourced::{Source, Sourced};
use lawn::view::plan::{Known, plan_week};
use lawn::view::week_plan::WeekPlan;
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::Grass;
use standins::climate::Climate;
use standins::weather::{Place, Weather};

pub const TODAY: Date = Date::constant(2026, 6, 18);

pub fn exactly<T: Copy>(value: T) -> Sourced<T> {
    Sourced {
        value,
        low: value,
        high: value,
        source: Source::Assumed,
    }
}

/// Tall fescue on loam under sprays: TAW 51 mm.
pub fn zone(id: &str) -> Zone {
    Zone {
        setting_m2: None,
        // Evening windows are opportunities like others where a test opens them.
        late_hours: LateHours::Evening,
        id: id.to_owned(),
        slope_pct: 2.0,
        area_m2: Area::from_m2(500.0),
        ..Zone::new(
            &format!("Zone {id}"),
            Grass::TallFescue,
            Texture::Loam,
            Kind::FixedSpray,
        )
    }
}

pub fn window(days: &[Weekday], from: &str, to: &str) -> Window {
    let time = |s: &str| Time::strptime("%H:%M", s).unwrap();
    Window {
        days: days.to_vec(),
        dates: DateRule::Any,
        from: time(from),
        to: time(to),
    }
}

pub fn site(zones: Vec<Zone>) -> SiteDocument {
    SiteDocument {
        format: lawn::site::document::FORMAT.to_owned(),
        version: lawn::site::document::VERSION,
        site: Site {
            name: "Test green".to_owned(),
            time_zone: "America/New_York".to_owned(),
            latitude: 36.4,
            longitude: -80.5,
            elevation_m: 310.0,
            wind_height_m: 2.0,
            used_as: Use::Home,
            currency: None,
            price_per_m3: None,
            normals: None,
        },
        windows: vec![window(&Weekday::ALL, "03:00", "09:00")],
        rules: lawn::site::rules::Rules::default(),
        supply: Supply::default(),
        controller: Controller::default(),
        tariffs: Vec::new(),
        caps: Vec::new(),
        meters: Vec::new(),
        zones,
    }
}

pub fn model(zone: &Zone) -> ZoneModel {
    ZoneModel::new(zone, &Controller::default(), 36.4)
}

/// A hot dry day: ET0 by Hargreaves about 6 mm in June.
pub fn day(on: Date) -> WeatherDay {
    WeatherDay {
        date: on,
        tmin_c: Some(18.0),
        tmax_c: Some(32.0),
        rain_mm: Some(0.0),
        ..WeatherDay::default()
    }
}

/// `count` dry days that end the day before `TODAY`.
pub fn dry(document: &SiteDocument, count: i64) -> Vec<DailyWeather> {
    let days: Vec<WeatherDay> = (1..=count)
        .rev()
        .map(|back| day(TODAY.checked_sub(back.days()).unwrap()))
        .collect();
    series(document, &days)
}

pub fn series(document: &SiteDocument, days: &[WeatherDay]) -> Vec<DailyWeather> {
    weather::series(&weather::place(&document.site), days, Gaps::Refuse).unwrap()
}

/// A day of exactly this ET0, warm enough to grow.
pub fn plain(on: Date, et0_mm: f64, rain_mm: f64) -> DailyWeather {
    DailyWeather {
        date: on,
        et0: Depth::from_mm(et0_mm),
        method: Some(science::reference_et::Method::Hargreaves),
        rain: Depth::from_mm(rain_mm),
        rain_expected: false,
        tmin_c: Some(15.0),
        tmax_c: None,
        rh_min_pct: None,
        wind_m_s: Some(1.0),
        smoothed_c: Some(22.0),
        rain_probability_pct: None,
    }
}

/// A week from 1 June of dry days of the same ET0.
pub fn week_of(et0_mm: f64) -> [DailyWeather; HORIZON] {
    let mut on = date(2026, 6, 1);
    std::array::from_fn(|_| {
        let day = plain(on, et0_mm, 0.0);
        on = on.tomorrow().unwrap();
        day
    })
}

/// Openings at dawn on the days of a mask, so many seconds long.
pub fn openings(open: u8, window_s: i64) -> Vec<Opening> {
    (0..HORIZON)
        .filter(|d| open & (1 << d) != 0)
        .map(|day| {
            let start_s = i64::try_from(day).unwrap() * 86_400 + 4 * 3600;
            let window = Interval {
                start_s,
                end_s: start_s + window_s,
            };
            Opening {
                day,
                window,
                clock: Some(window),
                after_noon: false,
                evening: false,
            }
        })
        .collect()
}

/// A morning of some zones at depletions, without rain in sight: plain refills.
pub struct DryMorning<'a> {
    pub zones: &'a [Zone],
    pub models: &'a [ZoneModel],
    pub depletion: Vec<Depth>,
    pub openings: Vec<Opening>,
    pub weather: [DailyWeather; HORIZON],
}

impl DryMorning<'_> {
    fn with<T>(
        &self,
        decide: impl Fn(&Facts<&dyn Fn(usize, i64) -> Depth>, &[ZoneState], &Ahead) -> T,
    ) -> T {
        let capacity = |zone: usize, window_s| dose::capacity(&self.models[zone], window_s);
        let zones = self.zones.iter().zip(self.models);
        let facts = Facts {
            zones: zones
                .map(|(zone, model)| ZoneFacts {
                    model,
                    keeping: Keeping::of(zone, model),
                    priority: zone.priority,
                    area: zone.area_m2,
                    takes: WHOLE,
                    by_hand: zone.by_hand(),
                    planned: true,
                    barred: Vec::new(),
                    kept_dry: Vec::new(),
                    fixed: Vec::new(),
                    water_in: Vec::new(),
                })
                .collect(),
            openings: self.openings.clone(),
            targets_s: [None; HORIZON],
            caps: Vec::new(),
            reserve: None,
            capacity: &capacity as &dyn Fn(usize, i64) -> Depth,
            hours: Vec::new(),
        };
        let state: Vec<ZoneState> = self
            .depletion
            .iter()
            .map(|&depletion| ZoneState {
                depletion,
                ..ZoneState::default()
            })
            .collect();
        let ahead = Ahead {
            days: &self.weather,
            outlook: None,
            yesterday: None,
        };
        decide(&facts, &state, &ahead)
    }

    pub fn week(&self) -> SiteWeek {
        #[allow(clippy::redundant_closure)]
        // the function alone is not general enough in its lifetimes
        self.with(|facts, state, ahead| morning::decide(facts, state, ahead))
    }

    pub fn today(&self) -> Vec<Vec<Proposal>> {
        #[allow(clippy::redundant_closure)] // as above
        self.with(|facts, state, ahead| morning::decide_today(facts, state, ahead))
    }
}

/// The plan of a day from its record alone.
pub fn plan_on(document: &SiteDocument, observed: &[DailyWeather], today: Date) -> WeekPlan {
    plan_week(&Known::of_record(document, observed, today)).unwrap()
}

/// A run of a zone's own sprinklers at five in the morning, which somebody saw and no plan asked for.
pub fn ran(zone: &str, date: Date, minutes: i64) -> Entry {
    let started = date.at(5, 0, 0, 0).in_tz("America/New_York").unwrap();
    Entry {
        zone: zone.to_owned(),
        date,
        started_at: started.timestamp(),
        ran: Passes {
            passes: 1,
            run_s: minutes * 60,
        },
        watered: Watered::all(),
        assumed: false,
        planned: None,
        by_hand: false,
    }
}

/// Made-up weather of a climate at a site.
pub fn made_up(
    document: &SiteDocument,
    climate: Climate,
    seed: u64,
    from: Date,
    to: Date,
) -> Vec<DailyWeather> {
    let place = Place {
        latitude_deg: document.site.latitude,
        elevation_m: document.site.elevation_m,
    };
    let told = |d: standins::weather::Day| WeatherDay {
        date: d.date,
        tmin_c: Some(d.tmin_c),
        tmax_c: Some(d.tmax_c),
        rh_min_pct: Some(d.rh_min_pct),
        rh_max_pct: Some(d.rh_max_pct),
        solar_mj_m2: Some(d.solar_mj_m2),
        wind_m_s: Some(d.wind_m_s),
        rain_mm: Some(d.rain_mm),
        ..WeatherDay::default()
    };
    let days = Weather::new(seed, climate, place).days(from, to);
    let days: Vec<WeatherDay> = days.into_iter().map(told).collect();
    series(document, &days)
}
