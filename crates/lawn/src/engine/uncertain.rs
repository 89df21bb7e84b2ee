//! The figures of a zone that could be off, each in turn at other values within its range.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Depth, Rate};
use crate::site::Zone;
use crate::sourced::{Source, Sourced};

/// A figure of a zone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ZoneFigure {
    /// Precipitation rate, mm/h.
    Rate,
    /// Low-quarter or emission uniformity, 0 to 1.
    Evenness,
    /// Share lost to spray and drift, 0 to 1.
    SprayLoss,
    /// Effective root depth, mm.
    RootDepth,
    /// Available water, mm per mm.
    Available,
    /// Intake rate, mm/h.
    Intake,
    /// Factor on crop ET for shade, wind and hot edges.
    SiteFactor,
}

/// What would sharpen a figure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Sharpen {
    /// Cans on the lawn.
    CanTest,
    /// Cans to a mark, the meter, or the nozzle chart.
    QuickTest,
    /// A core with its roots.
    PullACore,
    /// The soil's texture by hand.
    SqueezeSoil,
    /// The soil's texture by a jar.
    JarTest,
    /// Minutes to the first runoff.
    TimeTheRunoff,
    /// A moisture probe, once a week.
    ReadTheMoisture,
}

/// Days after which a test is said to be old (common practice, no source).
const OLD_DAYS: i32 = 365;

impl Sharpen {
    /// What would sharpen a figure; `None`: it was measured here within a year, or it follows from a texture that was, which does not age.
    #[must_use]
    pub fn of(figure: ZoneFigure, model: &ZoneModel, today: Date) -> Option<Self> {
        let source = figure.of(model).source;
        if let Source::Measured { date, .. } = source {
            let lasts = figure == ZoneFigure::Available;
            let days = date.until(today).map_or(0, |span| span.get_days());
            if lasts || days <= OLD_DAYS {
                return None;
            }
        }
        Some(match figure {
            ZoneFigure::Rate => Self::QuickTest,
            ZoneFigure::Evenness | ZoneFigure::SprayLoss => Self::CanTest,
            ZoneFigure::RootDepth => Self::PullACore,
            // Nobody knows the texture: a squeeze tells most of it.
            ZoneFigure::Available if source == Source::Assumed => Self::SqueezeSoil,
            ZoneFigure::Available => Self::JarTest,
            ZoneFigure::Intake => Self::TimeTheRunoff,
            ZoneFigure::SiteFactor => Self::ReadTheMoisture,
        })
    }

    /// The figures that it tells.
    #[must_use]
    pub const fn tells(self) -> &'static [ZoneFigure] {
        match self {
            Self::CanTest => &[ZoneFigure::Rate, ZoneFigure::Evenness],
            Self::QuickTest => &[ZoneFigure::Rate],
            Self::PullACore => &[ZoneFigure::RootDepth],
            Self::SqueezeSoil | Self::JarTest => &[ZoneFigure::Available],
            Self::TimeTheRunoff => &[ZoneFigure::Intake],
            Self::ReadTheMoisture => &[ZoneFigure::SiteFactor],
        }
    }

    /// How long it keeps a person busy, min (common practice, no source).
    #[must_use]
    pub const fn minutes(self) -> u32 {
        match self {
            Self::CanTest => 45,
            Self::QuickTest | Self::JarTest => 15,
            Self::PullACore | Self::SqueezeSoil => 5,
            Self::TimeTheRunoff => 30,
            Self::ReadTheMoisture => 2,
        }
    }
}

impl ZoneFigure {
    /// All of them, those of the sprinklers first.
    pub const ALL: [Self; 7] = [
        Self::Rate,
        Self::Evenness,
        Self::SprayLoss,
        Self::RootDepth,
        Self::Available,
        Self::Intake,
        Self::SiteFactor,
    ];

    /// The figure as a plan uses it, with its range and source.
    #[must_use]
    pub fn of(self, model: &ZoneModel) -> Sourced<f64> {
        match self {
            Self::Rate => model.rate.clone().map(|x| x.mm_h()),
            Self::Evenness => model.evenness.clone(),
            Self::SprayLoss => model.spray_loss.clone(),
            Self::RootDepth => model.root_depth.clone().map(|x| x.mm()),
            Self::Available => model.available.clone(),
            Self::Intake => model.intake.clone().map(|x| x.mm_h()),
            Self::SiteFactor => model.site_factor.clone(),
        }
    }

    /// The zone with another value of the figure, its range and source as they are. `model`: of the zone as it is.
    #[must_use]
    pub fn set(self, zone: &Zone, model: &ZoneModel, value: f64) -> Zone {
        let figure = Sourced {
            value,
            ..self.of(model)
        };
        self.put(zone, model, figure)
    }

    /// The zone with another figure; the rest as it is. `model`: of the zone as it is.
    #[must_use]
    pub fn put(self, zone: &Zone, model: &ZoneModel, figure: Sourced<f64>) -> Zone {
        let mut zone = zone.clone();
        match self {
            Self::Rate => zone.rate_mm_h = Some(figure.map(Rate::from_mm_h)),
            Self::Evenness => zone.evenness_du_lq = Some(figure),
            Self::SprayLoss => zone.spray_loss = Some(figure),
            Self::RootDepth => zone.root_depth_mm = Some(figure.map(Depth::from_mm)),
            // The zone's own is that of the topsoil; layers below make another of it.
            Self::Available => {
                let layered = zone.layered(model.root_depth.value.mm());
                zone.available_mm_per_mm = Some(figure.map(|x| x / layered.storage));
            }
            Self::Intake => zone.intake_mm_h = Some(figure.map(Rate::from_mm_h)),
            Self::SiteFactor => zone.site_factor = Some(figure),
        }
        zone
    }
}
