//! The figures that plans use of a zone: where each comes from, how far it could be off, and what would sharpen it.

use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::engine::uncertain::{Sharpen, ZoneFigure};
use crate::engine::worth_measuring::aged;
use crate::engine::zone_model::ZoneModel;
use crate::sourced::Source;

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
    /// What would sharpen it; `null`: it was measured here, and not long ago.
    pub sharpen: Option<Sharpen>,
}

/// The figures of a zone as plans use them on a day, those of its sprinklers first.
#[must_use]
pub fn zone_facts(model: &ZoneModel, today: Date) -> Vec<ZoneFact> {
    let facts = ZoneFigure::ALL.into_iter().map(|figure| {
        let of = figure.of(model);
        let (low, high) = aged(figure, model, today);
        ZoneFact {
            figure,
            sharpen: Sharpen::of(figure, model, today),
            value: of.value,
            low,
            high,
            source: of.source,
        }
    });
    facts.collect()
}
