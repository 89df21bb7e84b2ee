//! Lines of equal depth between the cans, for drawing: a natural-neighbour surface, contoured by marching squares.

use contour::ContourBuilder;
use geo::{Coord, LineString, Simplify};
use science::natural_neighbour::{Grid, Sample};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::measure::outline::{Outline, Point};

/// Shares of the mean at which a line is drawn. Within a tenth of the mean reads as even.
pub const LEVELS: [f64; 6] = [0.5, 0.75, 0.9, 1.1, 1.25, 1.5];
/// Cells along the longer side.
const CELLS: u16 = 40;
/// How far a printed value keeps from cans, other values and the edge, cells: what a can and the value take when drawn.
const CLEAR_CELLS: f64 = 2.8;

/// The places that get at least a share of the mean.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Contour {
    /// Share of the mean.
    pub share: f64,
    /// Rings around the places, holes among them: filled by the even-odd rule, cut off at the zone's outline.
    pub rings: Vec<Vec<Point>>,
    /// Where the value is to be printed; `None` where the line does not cross the zone.
    pub label: Option<Point>,
}

/// Contours from samples of shares of the mean, least share first: each is painted over those before it.
#[must_use]
pub fn contours(samples: &[Sample], outline: &Outline) -> Vec<Contour> {
    let [left, bottom, right, top] = outline.bounds();
    let cell = (right - left).max(top - bottom) / f64::from(CELLS);
    // A cell more on each side, so that the rings' closing edges lie outside of the outline.
    let grid = Grid::over(
        left - cell,
        bottom - cell,
        right - left + 2.0 * cell,
        top - bottom + 2.0 * cell,
        usize::from(CELLS) + 2,
    )
    .interpolate(samples);
    let builder = ContourBuilder::new(grid.columns, grid.rows, true)
        .x_origin(grid.left_m)
        .y_origin(grid.bottom_m)
        .x_step(grid.cell_m)
        .y_step(grid.cell_m);
    let Ok(found) = builder.contours(&grid.values, &LEVELS) else {
        return Vec::new();
    };
    let mut taken: Vec<Point> = samples
        .iter()
        .map(|s| Point {
            x_m: s.x_m,
            y_m: s.y_m,
        })
        .collect();
    found
        .into_iter()
        .map(|contour| {
            let share = contour.threshold();
            let rings: Vec<LineString> = contour
                .into_inner()
                .0
                .into_iter()
                .flat_map(|polygon| {
                    let (outer, holes) = polygon.into_inner();
                    std::iter::once(outer).chain(holes)
                })
                .collect();
            let label = place(&rings, outline, &taken, CLEAR_CELLS * grid.cell_m);
            let rings = rings
                .iter()
                .map(|ring| points(&ring.simplify(grid.cell_m / 10.0)))
                .collect();
            taken.extend(label);
            Contour {
                share,
                rings,
                label,
            }
        })
        .collect()
}

/// Points of a ring, to the centimetre.
fn points(ring: &LineString) -> Vec<Point> {
    let cm = |x: f64| (x * 100.0).round() / 100.0;
    let point = |c: &Coord| Point {
        x_m: cm(c.x),
        y_m: cm(c.y),
    };
    ring.0.iter().map(point).collect()
}

/// The place on the rings that is furthest from the edge and from what stands there already; `None` where none is far enough.
fn place(rings: &[LineString], outline: &Outline, taken: &[Point], least: f64) -> Option<Point> {
    rings
        .iter()
        .flat_map(points)
        .filter(|p| outline.contains(p))
        .map(|p| {
            let others = taken
                .iter()
                .map(|t| (t.x_m - p.x_m).hypot(t.y_m - p.y_m))
                .fold(f64::INFINITY, f64::min);
            (p, outline.edge_m(&p).min(others))
        })
        .filter(|(_, clear)| *clear >= least)
        .max_by(|a, b| a.1.total_cmp(&b.1))
        .map(|(p, _)| p)
}
