//! The outline of a zone, from what a tape measures on the lawn: its corners in metres, its area, what lies within.

use geo::{Area, Centroid, Contains, Coord, Distance, Euclidean, LineString, Polygon, Validation};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::ranges;

/// A place on the plan of the zone, m from its lower left corner.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Point {
    /// To the right.
    pub x_m: f64,
    /// Up.
    pub y_m: f64,
}

/// What a tape measures of a zone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "shape", rename_all = "snake_case", deny_unknown_fields)]
pub enum Shape {
    /// Four right angles.
    Rectangle {
        /// Across, m.
        width_m: f64,
        /// Up, m.
        length_m: f64,
    },
    /// A rectangle without its upper right corner.
    Ell {
        /// Across at the bottom, m.
        width_m: f64,
        /// Up at the left, m.
        length_m: f64,
        /// Across of the corner that is missing, m.
        notch_width_m: f64,
        /// Up of the corner that is missing, m.
        notch_length_m: f64,
    },
    /// Long and narrow, drawn lying.
    Strip {
        /// Along, m.
        length_m: f64,
        /// Across, m.
        width_m: f64,
    },
    /// Round.
    Circle {
        /// From edge to edge, m.
        diameter_m: f64,
    },
    /// Straight sides, measured by triangles: stand at a corner from which all the others are seen.
    Polygon {
        /// Sides in order from that corner round to it, m; three or more.
        sides_m: Vec<f64>,
        /// Distances from that corner to the third, the fourth and so on, three fewer than there are sides, m.
        #[serde(default)]
        diagonals_m: Vec<f64>,
    },
}

/// Corners that draw a circle; its area is then 0.3 % short.
const ROUND: u32 = 48;
/// Most sides of a polygon.
const MOST_SIDES: usize = 24;

/// To the millimetre.
fn round(x: f64) -> f64 {
    (x * 1000.0).round() / 1000.0
}

impl Shape {
    /// The outline.
    ///
    /// # Errors
    /// The first measure that does not hold, such as `sides_m[2]`: outside its range, a corner cut off that is as large as the zone, or
    /// sides and diagonals that do not meet.
    pub fn outline(&self) -> Result<Outline, Invalid> {
        let rectangle = |w: f64, l: f64| vec![(0.0, 0.0), (w, 0.0), (w, l), (0.0, l)];
        let corners = match self {
            Self::Rectangle { width_m, length_m } | Self::Strip { length_m, width_m } => {
                Invalid::unless_within("width_m", ranges::SIDE, *width_m)?;
                Invalid::unless_within("length_m", ranges::SIDE, *length_m)?;
                let lies = matches!(self, Self::Strip { .. });
                if lies {
                    rectangle(*length_m, *width_m)
                } else {
                    rectangle(*width_m, *length_m)
                }
            }
            Self::Ell {
                width_m,
                length_m,
                notch_width_m,
                notch_length_m,
            } => {
                Invalid::unless_within("width_m", ranges::SIDE, *width_m)?;
                Invalid::unless_within("length_m", ranges::SIDE, *length_m)?;
                for (field, notch, whole) in [
                    ("notch_width_m", *notch_width_m, *width_m),
                    ("notch_length_m", *notch_length_m, *length_m),
                ] {
                    Invalid::unless_within(field, ranges::SIDE, notch)?;
                    if notch >= whole {
                        return Err(Invalid::new(
                            field,
                            "the missing corner is not smaller than the zone",
                        ));
                    }
                }
                let (x, y) = (width_m - notch_width_m, length_m - notch_length_m);
                vec![
                    (0.0, 0.0),
                    (*width_m, 0.0),
                    (*width_m, y),
                    (x, y),
                    (x, *length_m),
                    (0.0, *length_m),
                ]
            }
            Self::Circle { diameter_m } => {
                Invalid::unless_within("diameter_m", ranges::SIDE, *diameter_m)?;
                let r = diameter_m / 2.0;
                (0..ROUND)
                    .map(|i| {
                        let angle = std::f64::consts::TAU * f64::from(i) / f64::from(ROUND);
                        (r + r * angle.cos(), r + r * angle.sin())
                    })
                    .collect()
            }
            Self::Polygon {
                sides_m,
                diagonals_m,
            } => fan(sides_m, diagonals_m)?,
        };
        let least = |f: fn(&(f64, f64)) -> f64| corners.iter().map(f).fold(f64::INFINITY, f64::min);
        let (left, bottom) = (least(|p| p.0), least(|p| p.1));
        let corners = corners.iter().map(|(x, y)| Point {
            x_m: round(x - left),
            y_m: round(y - bottom),
        });
        Ok(Outline::of(&corners.collect::<Vec<_>>()))
    }
}

/// Corners of a fan of triangles around the first corner, counter-clockwise, by the law of cosines.
fn fan(sides: &[f64], diagonals: &[f64]) -> Result<Vec<(f64, f64)>, Invalid> {
    let n = sides.len();
    if !(3..=MOST_SIDES).contains(&n) {
        let message = format!("{n} sides: a polygon here has 3 to {MOST_SIDES}");
        return Err(Invalid::new("sides_m", message));
    }
    if diagonals.len() != n - 3 {
        let message = format!(
            "{n} sides take {} distances from the first corner, there are {}",
            n - 3,
            diagonals.len()
        );
        return Err(Invalid::new("diagonals_m", message));
    }
    for (i, side) in sides.iter().enumerate() {
        Invalid::unless_within(format!("sides_m[{i}]"), ranges::SIDE, *side)?;
    }
    for (i, diagonal) in diagonals.iter().enumerate() {
        Invalid::unless_within(format!("diagonals_m[{i}]"), ranges::SIDE, *diagonal)?;
    }
    // Distances of the second corner, the third and so on from the first.
    let rays: Vec<f64> = std::iter::once(sides[0])
        .chain(diagonals.iter().copied())
        .chain(std::iter::once(sides[n - 1]))
        .collect();
    let mut corners = vec![(0.0, 0.0), (sides[0], 0.0)];
    let mut angle = 0.0f64;
    for (i, ray) in rays.windows(2).enumerate() {
        let [a, b, c] = [ray[0], ray[1], sides[i + 1]];
        let cosine = (a * a + b * b - c * c) / (2.0 * a * b);
        if cosine.abs() >= 1.0 {
            let field = if i + 3 < n {
                format!("diagonals_m[{i}]")
            } else {
                format!("sides_m[{}]", n - 1)
            };
            let message = format!(
                "corners 1, {} and {} do not close a triangle: measure the three lengths between them again",
                i + 2,
                i + 3
            );
            return Err(Invalid::new(field, message));
        }
        angle += cosine.acos();
        corners.push((b * angle.cos(), b * angle.sin()));
    }
    if angle >= std::f64::consts::TAU {
        return Err(Invalid::new(
            "diagonals_m",
            "the sides go round the first corner more than once",
        ));
    }
    Ok(corners)
}

/// The outline of a zone.
#[derive(Debug, Clone)]
pub struct Outline {
    polygon: Polygon,
}

impl Outline {
    /// From corners in order.
    #[must_use]
    pub fn of(corners: &[Point]) -> Self {
        let ring: Vec<Coord> = corners.iter().map(Self::coord).collect();
        Self {
            polygon: Polygon::new(LineString::new(ring), Vec::new()),
        }
    }

    fn coord(p: &Point) -> Coord {
        Coord { x: p.x_m, y: p.y_m }
    }

    /// Whether its sides do not cross and it has an area.
    #[must_use]
    pub fn is_simple(&self) -> bool {
        self.polygon.is_valid() && self.area_m2() > 0.0
    }

    /// Corners in order.
    #[must_use]
    pub fn corners(&self) -> Vec<Point> {
        let ring = &self.polygon.exterior().0;
        let open = &ring[..ring.len().saturating_sub(1)];
        open.iter().map(|c| Point { x_m: c.x, y_m: c.y }).collect()
    }

    /// Area, m².
    #[must_use]
    pub fn area_m2(&self) -> f64 {
        self.polygon.unsigned_area()
    }

    /// Its middle.
    #[must_use]
    pub fn middle(&self) -> Option<Point> {
        let p = self.polygon.centroid()?;
        Some(Point {
            x_m: round(p.x()),
            y_m: round(p.y()),
        })
    }

    /// Whether a place lies within.
    #[must_use]
    pub fn contains(&self, p: &Point) -> bool {
        self.polygon.contains(&Self::coord(p))
    }

    /// Distance of a place from the edge, m, inside or outside.
    #[must_use]
    pub fn edge_m(&self, p: &Point) -> f64 {
        Euclidean.distance(&geo::Point::from(Self::coord(p)), self.polygon.exterior())
    }

    /// Least and greatest place: left, bottom, right, top, m.
    #[must_use]
    pub fn bounds(&self) -> [f64; 4] {
        self.corners().iter().fold(
            [
                f64::INFINITY,
                f64::INFINITY,
                f64::NEG_INFINITY,
                f64::NEG_INFINITY,
            ],
            |[l, b, r, t], p| [l.min(p.x_m), b.min(p.y_m), r.max(p.x_m), t.max(p.y_m)],
        )
    }
}
