//! The sites that are scored: the example of docs/formats, and three made-up ones whose hours are as scarce in other ways.

use jiff::civil::Time;
use lawn::quantity::{Area, Depth};
use lawn::site::{
    Controller, DateRule, Exposure, Regime, Site, SiteDocument, Supply, Use, Weekday, Window, Zone,
    document,
};
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::{Grass, HowGreen};

const EXAMPLE: &str = include_str!("../../../../docs/formats/site.example.json");

/// A site to score.
pub struct Scored {
    pub name: &'static str,
    pub document: SiteDocument,
    /// Whether some nights of the week are closed.
    pub few_nights: bool,
}

/// All of them.
pub fn all() -> Result<Vec<Scored>, String> {
    Ok(vec![example()?, stadium(), estate(), hoses()])
}

/// Four nights of five hours, eight zones of every kind.
fn example() -> Result<Scored, String> {
    let mut document = document::read(EXAMPLE).map_err(|e| e.to_string())?;
    for zone in &mut document.zones {
        zone.active_from = None;
        zone.regime = Regime::Established;
    }
    Ok(Scored {
        name: "commons",
        document,
        few_nights: true,
    })
}

/// A field of sand under big rotors, ten zones, five nights of four and a half hours: shallow roots, hardly a soak.
fn stadium() -> Scored {
    let nights = [
        Weekday::Monday,
        Weekday::Tuesday,
        Weekday::Thursday,
        Weekday::Friday,
        Weekday::Sunday,
    ];
    let zones = (0..10u8).map(|i| {
        let (grass, soil) = match i {
            0..=6 => (Grass::HybridBermudagrass, Texture::LoamySand),
            _ => (Grass::PerennialRyegrass, Texture::SandyLoam),
        };
        let mut zone = zone(&format!("field-{i}"), grass, soil, Kind::Rotor);
        zone.area_m2 = Area::from_m2(750.0);
        zone.rate_mm_h = Some(sure(lawn::quantity::Rate::from_mm_h(19.0)));
        zone.evenness_du_lq = Some(sure(0.78));
        zone.slope_pct = 1.0;
        zone.priority = if i > 6 { 6 } else { 3 };
        zone
    });
    let zones = zones.collect();
    Scored {
        name: "stadium",
        document: site("Kestrel Field", zones, window(&nights, "00:30", "05:00")),
        few_nights: true,
    }
}

/// Forty zones on clay and clay loam under sprays, hardy, every night six and a half hours: soaks bind.
fn estate() -> Scored {
    let zones = (0..40u8).map(|i| {
        let soil = match i % 4 {
            0 => Texture::Clay,
            1 => Texture::SiltyClay,
            2 => Texture::ClayLoam,
            _ => Texture::SiltyClayLoam,
        };
        let grass = match i % 3 {
            0 => Grass::TallFescue,
            1 => Grass::KentuckyBluegrass,
            _ => Grass::Zoysiagrass,
        };
        let mut zone = zone(&format!("lawn-{i:02}"), grass, soil, Kind::FixedSpray);
        zone.area_m2 = Area::from_m2(260.0 + 20.0 * f64::from(i % 7));
        zone.slope_pct = f64::from(i % 5) * 3.0;
        zone.how_green = if i % 5 == 0 {
            HowGreen::Good
        } else {
            HowGreen::Hardy
        };
        zone.exposure = match i % 6 {
            0 => Exposure::HalfShade,
            1 => Exposure::Windy,
            _ => Exposure::default(),
        };
        zone.priority = 3 + i % 4;
        zone
    });
    let zones = zones.collect();
    Scored {
        name: "estate",
        document: site("Tansy Down", zones, window(&Weekday::ALL, "00:00", "06:30")),
        few_nights: false,
    }
}

/// Three lawns that a portable sprinkler is carried over, three hours of every morning.
fn hoses() -> Scored {
    let zones = [
        ("front", Grass::TallFescue, Texture::Loam, 240.0),
        ("back", Grass::PerennialRyegrass, Texture::ClayLoam, 300.0),
        ("side", Grass::FineFescue, Texture::SandyLoam, 110.0),
    ];
    let zones = zones.map(|(id, grass, soil, area)| {
        let mut zone = zone(id, grass, soil, Kind::Portable);
        zone.area_m2 = Area::from_m2(area);
        zone
    });
    Scored {
        name: "hoses",
        document: site(
            "Bramble End",
            zones.to_vec(),
            window(&Weekday::ALL, "05:30", "08:30"),
        ),
        few_nights: false,
    }
}

pub fn zone(id: &str, grass: Grass, soil: Texture, kind: Kind) -> Zone {
    Zone {
        id: id.to_owned(),
        slope_pct: 2.0,
        area_m2: Area::from_m2(300.0),
        initial_depletion_mm: Some(Depth::ZERO),
        ..Zone::new(id, grass, soil, kind)
    }
}

pub fn sure<T: Copy>(value: T) -> lawn::sourced::Sourced<T> {
    lawn::sourced::Sourced {
        value,
        low: value,
        high: value,
        source: lawn::sourced::Source::Assumed,
    }
}

pub fn window(days: &[Weekday], from: &str, to: &str) -> Window {
    let time = |text: &str| Time::strptime("%H:%M", text).unwrap_or_default();
    Window {
        days: days.to_vec(),
        dates: DateRule::Any,
        from: time(from),
        to: time(to),
    }
}

pub fn site(name: &str, zones: Vec<Zone>, window: Window) -> SiteDocument {
    SiteDocument {
        format: document::FORMAT.to_owned(),
        version: document::VERSION,
        site: Site {
            name: name.to_owned(),
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
        windows: vec![window],
        rules: lawn::site::rules::Rules::default(),
        supply: Supply::default(),
        controller: Controller::default(),
        tariffs: Vec::new(),
        caps: Vec::new(),
        meters: Vec::new(),
        zones,
    }
}
