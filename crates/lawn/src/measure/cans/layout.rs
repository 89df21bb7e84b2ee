//! Where heads and cans stand by a pattern; a person moves them afterwards.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::measure::cans::{Fate, TestCan};
use crate::measure::outline::{Outline, Point, Shape};

/// Where the heads stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum HeadPattern {
    /// In the corners; four around the edge of a circle.
    Corners,
    /// In the corners and midway along the sides; eight around the edge of a circle.
    CornersAndSides,
    /// One in the middle.
    Middle,
    /// Nowhere that a pattern tells.
    Elsewhere,
}

/// A layout that is asked for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Wanted {
    /// The zone.
    pub shape: Shape,
    /// Where the heads stand.
    pub heads: HeadPattern,
    /// Cans in a row, 1 to 20.
    pub columns: u16,
    /// Rows, 1 to 20.
    pub rows: u16,
}

/// A plan of the zone with heads and cans.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Layout {
    /// Corners of the zone, in order.
    pub corners: Vec<Point>,
    /// Its area, m².
    pub area_m2: f64,
    /// Heads.
    pub heads: Vec<Point>,
    /// Cans, none read, numbered as one walks: along a row, back along the next.
    pub cans: Vec<TestCan>,
}

/// Most cans in a row, and rows.
const MOST: u16 = 20;

impl Wanted {
    /// The layout: cans in even rows half a gap from the edges, those outside the outline left out.
    ///
    /// # Errors
    /// The field that does not hold, such as `shape.width_m`, or `columns` where no can falls within the outline.
    pub fn layout(&self) -> Result<Layout, Invalid> {
        for (field, n) in [("columns", self.columns), ("rows", self.rows)] {
            if !(1..=MOST).contains(&n) {
                return Err(Invalid::new(field, format!("{n} is not from 1 to {MOST}")));
            }
        }
        let outline = self
            .shape
            .outline()
            .map_err(|error| error.within("shape."))?;
        let cans = self.cans(&outline);
        if cans.is_empty() {
            return Err(Invalid::new(
                "columns",
                "no can of such rows falls within the outline",
            ));
        }
        Ok(Layout {
            corners: outline.corners(),
            area_m2: outline.area_m2(),
            heads: self.heads(&outline),
            cans,
        })
    }

    fn cans(&self, outline: &Outline) -> Vec<TestCan> {
        let [left, bottom, right, top] = outline.bounds();
        let at = |i: u16, of: u16, from: f64, to: f64| {
            let x = from + (f64::from(i) + 0.5) * (to - from) / f64::from(of);
            (x * 1000.0).round() / 1000.0
        };
        let mut cans = Vec::new();
        for row in 0..self.rows {
            for along in 0..self.columns {
                let column = if row % 2 == 0 {
                    along
                } else {
                    self.columns - 1 - along
                };
                let place = Point {
                    x_m: at(column, self.columns, left, right),
                    y_m: at(self.rows - 1 - row, self.rows, bottom, top),
                };
                if outline.contains(&place) {
                    cans.push(TestCan {
                        number: u16::try_from(cans.len() + 1).unwrap_or(u16::MAX),
                        place,
                        fate: Fate::Unread,
                        reading: None,
                    });
                }
            }
        }
        cans
    }

    fn heads(&self, outline: &Outline) -> Vec<Point> {
        let corners = outline.corners();
        // A circle's corners are its edge: a quarter of them apart, or an eighth.
        let step = |n: usize| corners.iter().step_by(corners.len() / n).copied().collect();
        let circle = matches!(self.shape, Shape::Circle { .. });
        match self.heads {
            HeadPattern::Corners if circle => step(4),
            HeadPattern::CornersAndSides if circle => step(8),
            HeadPattern::Corners => corners,
            HeadPattern::CornersAndSides => {
                let next = corners.iter().cycle().skip(1);
                corners
                    .iter()
                    .zip(next)
                    .flat_map(|(a, b)| {
                        let midway = Point {
                            x_m: (a.x_m + b.x_m) / 2.0,
                            y_m: (a.y_m + b.y_m) / 2.0,
                        };
                        [*a, midway]
                    })
                    .collect()
            }
            HeadPattern::Middle => outline.middle().into_iter().collect(),
            HeadPattern::Elsewhere => Vec::new(),
        }
    }
}
