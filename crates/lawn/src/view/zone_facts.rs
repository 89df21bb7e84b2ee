//! The figures that plans use of a zone: where each comes from, how far it could be off, and what would sharpen it.

use serde::Serialize;
use utoipa::ToSchema;

use crate::engine::zone_model::ZoneModel;
use crate::sourced::{Source, Sourced};

/// A figure of a zone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
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
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Sharpen {
    /// Cans on the lawn.
    CanTest,
    /// Cans to a mark, the meter, or the nozzle chart.
    QuickTest,
    /// A core with its roots.
    PullACore,
    /// The soil's texture.
    SqueezeSoil,
    /// Minutes to the first runoff.
    TimeTheRunoff,
    /// What is seen of the lawn beside others.
    LookAtTheLawn,
}

/// A figure, its source, its range, what would sharpen it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ZoneFact {
    /// Which.
    pub figure: ZoneFigure,
    /// The value that plans use.
    pub value: f64,
    /// The least it plausibly is.
    pub low: f64,
    /// The greatest.
    pub high: f64,
    /// Where it comes from.
    pub source: Source,
    /// What would sharpen it; `null`: it was measured here.
    pub sharpen: Option<Sharpen>,
}

/// The figures of a zone as plans use them, those of its sprinklers first.
#[must_use]
pub fn zone_facts(model: &ZoneModel) -> Vec<ZoneFact> {
    let fact = |figure, of: Sourced<f64>, by: Sharpen| ZoneFact {
        figure,
        sharpen: (!matches!(of.source, Source::Measured { .. })).then_some(by),
        value: of.value,
        low: of.low,
        high: of.high,
        source: of.source,
    };
    vec![
        fact(
            ZoneFigure::Rate,
            model.rate.clone().map(|x| x.mm_h()),
            Sharpen::QuickTest,
        ),
        fact(
            ZoneFigure::Evenness,
            model.evenness.clone(),
            Sharpen::CanTest,
        ),
        fact(
            ZoneFigure::SprayLoss,
            model.spray_loss.clone(),
            Sharpen::CanTest,
        ),
        fact(
            ZoneFigure::RootDepth,
            model.root_depth.clone().map(|x| x.mm()),
            Sharpen::PullACore,
        ),
        fact(
            ZoneFigure::Available,
            model.available.clone(),
            Sharpen::SqueezeSoil,
        ),
        fact(
            ZoneFigure::Intake,
            model.intake.clone().map(|x| x.mm_h()),
            Sharpen::TimeTheRunoff,
        ),
        fact(
            ZoneFigure::SiteFactor,
            model.site_factor.clone(),
            Sharpen::LookAtTheLawn,
        ),
    ]
}
