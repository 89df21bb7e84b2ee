//! Outlines from what a tape measures, layouts of cans, lines of equal depth.

use lawn::measure::cans::depth_map::{LEVELS, contours};
use lawn::measure::cans::layout::{HeadPattern, Wanted};
use lawn::measure::outline::{Outline, Point, Shape};
use proptest::prelude::*;
use science::natural_neighbour::Sample;

fn area(shape: &Shape) -> f64 {
    shape.outline().unwrap().area_m2()
}

fn polygon(sides: &[f64], diagonals: &[f64]) -> Shape {
    Shape::Polygon {
        sides_m: sides.to_vec(),
        diagonals_m: diagonals.to_vec(),
    }
}

/// Areas by Euclid: half of 3 · 4, the square by its diagonal √2, an L by subtraction, a circle within a hundredth.
#[test]
fn areas_are_what_geometry_says() {
    let near = |shape: Shape, right: f64, off: f64| {
        let found = area(&shape);
        assert!((found / right - 1.0).abs() < off, "{shape:?}: {found}");
    };
    near(polygon(&[3.0, 4.0, 5.0], &[]), 6.0, 1e-3);
    near(polygon(&[10.0; 4], &[200f64.sqrt()]), 100.0, 1e-3);
    // A regular hexagon of side 2: 3 √3 / 2 · 4.
    let long = 2.0 * 3f64.sqrt();
    near(
        polygon(&[2.0; 6], &[long, 4.0, long]),
        6.0 * 3f64.sqrt(),
        1e-3,
    );
    near(
        Shape::Circle { diameter_m: 10.0 },
        std::f64::consts::PI * 25.0,
        0.01,
    );
    near(
        Shape::Ell {
            width_m: 10.0,
            length_m: 8.0,
            notch_width_m: 4.0,
            notch_length_m: 3.0,
        },
        68.0,
        1e-9,
    );
    near(
        Shape::Strip {
            length_m: 30.0,
            width_m: 1.5,
        },
        45.0,
        1e-9,
    );
}

#[test]
fn measures_that_do_not_meet_are_refused_where_they_are() {
    for (shape, field, words) in [
        (polygon(&[3.0, 4.0], &[]), "sides_m", "3 to 24"),
        (polygon(&[3.0, 4.0, 5.0, 6.0], &[]), "diagonals_m", "take 1"),
        (polygon(&[3.0, 4.0, 9.0], &[]), "sides_m[2]", "do not close"),
        (
            polygon(&[3.0, 4.0, 5.0, 6.0], &[9.0]),
            "diagonals_m[0]",
            "do not close",
        ),
        (
            polygon(&[3.0, -4.0, 5.0], &[]),
            "sides_m[1]",
            "below the lowest",
        ),
        (
            Shape::Circle { diameter_m: 0.0 },
            "diameter_m",
            "below the lowest",
        ),
        (
            Shape::Ell {
                width_m: 10.0,
                length_m: 8.0,
                notch_width_m: 10.0,
                notch_length_m: 3.0,
            },
            "notch_width_m",
            "not smaller",
        ),
    ] {
        let error = shape.outline().unwrap_err();
        assert_eq!(error.field, field);
        assert!(error.message.contains(words), "{}", error.message);
    }
}

fn wanted(shape: Shape, heads: HeadPattern) -> Wanted {
    Wanted {
        shape,
        heads,
        columns: 4,
        rows: 4,
    }
}

#[test]
fn cans_stand_in_even_rows_within_the_outline_and_are_numbered_as_one_walks() {
    let rectangle = Shape::Rectangle {
        width_m: 8.0,
        length_m: 6.0,
    };
    let whole = wanted(rectangle, HeadPattern::CornersAndSides)
        .layout()
        .unwrap();
    assert_eq!((whole.cans.len(), whole.heads.len()), (16, 8));
    let place = |n: usize| (whole.cans[n - 1].place.x_m, whole.cans[n - 1].place.y_m);
    assert_eq!(place(1), (1.0, 5.25));
    assert_eq!(
        (place(4), place(5)),
        ((7.0, 5.25), (7.0, 3.75)),
        "back along the next row"
    );

    let ell = Shape::Ell {
        width_m: 8.0,
        length_m: 8.0,
        notch_width_m: 4.0,
        notch_length_m: 4.0,
    };
    let ell = wanted(ell, HeadPattern::Corners).layout().unwrap();
    assert_eq!((ell.cans.len(), ell.heads.len()), (12, 6));
    assert_eq!(ell.cans.last().unwrap().number, 12, "numbers leave no gap");
    let circle = Shape::Circle { diameter_m: 8.0 };
    let circle = wanted(circle, HeadPattern::Middle).layout().unwrap();
    assert_eq!(circle.cans.len(), 12, "the four in the corners are outside");
    let middle = circle.heads[0];
    assert!((middle.x_m - 4.0).abs() < 0.01 && (middle.y_m - 4.0).abs() < 0.01);

    let triangle = Wanted {
        columns: 1,
        rows: 1,
        ..wanted(polygon(&[1.0, 9.0, 9.4], &[]), HeadPattern::Corners)
    };
    let said = triangle.layout();
    assert!(said.is_ok() || said.unwrap_err().field == "columns");
    let none = Wanted {
        columns: 0,
        ..wanted(Shape::Circle { diameter_m: 8.0 }, HeadPattern::Elsewhere)
    };
    assert_eq!(none.layout().unwrap_err().field, "columns");
}

fn square(side: f64) -> Outline {
    let p = |x_m, y_m| Point { x_m, y_m };
    Outline::of(&[p(0.0, 0.0), p(side, 0.0), p(side, side), p(0.0, side)])
}

fn samples(side: f64, value: impl Fn(f64, f64) -> f64) -> Vec<Sample> {
    let at = |i: u32| (f64::from(i) + 0.5) * side / 12.0;
    (0..144)
        .map(|i| (at(i % 12), at(i / 12)))
        .map(|(x_m, y_m)| Sample {
            x_m,
            y_m,
            value: value(x_m, y_m),
        })
        .collect()
}

/// A plane rising from 0.4 to 1.6 across: each line is straight and where the plane has its value.
#[test]
fn the_lines_of_a_plane_are_straight_and_where_they_belong() {
    let side = 12.0;
    let found = contours(&samples(side, |x, _| 0.4 + 1.2 * x / side), &square(side));
    assert_eq!(found.iter().map(|c| c.share).collect::<Vec<_>>(), LEVELS);
    for contour in &found {
        let right = (contour.share - 0.4) / 1.2 * side;
        let inner: Vec<&Point> = contour
            .rings
            .iter()
            .flatten()
            .filter(|p| p.x_m < 12.0)
            .collect();
        assert!(!inner.is_empty());
        for p in inner.into_iter().chain(&contour.label) {
            // The first and the last cans stand half a metre from the edges; beyond them the surface levels off.
            assert!(
                (p.x_m - right).abs() < 0.45,
                "{} at {}: {p:?}",
                contour.share,
                right
            );
        }
    }
}

#[test]
fn values_are_printed_on_their_line_clear_of_cans_and_edges() {
    let sparse: Vec<Sample> = samples(12.0, |x, _| 0.4 + 1.2 * x / 12.0)
        .into_iter()
        .enumerate()
        .filter(|(i, _)| i % 12 % 3 == 1 && i / 12 % 3 == 1)
        .map(|(_, s)| s)
        .collect();
    assert_eq!(sparse.len(), 16);
    let found = contours(&sparse, &square(12.0));
    let labels: Vec<Point> = found.iter().filter_map(|c| c.label).collect();
    for (share, label) in found.iter().filter_map(|c| Some((c.share, c.label?))) {
        assert!(
            (0.4 + 1.2 * label.x_m / 12.0 - share).abs() < 0.12,
            "{share}: {label:?}"
        );
    }
    assert!(labels.len() >= 3, "{labels:?}");
    for (i, p) in labels.iter().enumerate() {
        let near = |x: f64, y: f64| (x - p.x_m).hypot(y - p.y_m);
        assert!(sparse.iter().all(|s| near(s.x_m, s.y_m) >= 0.8));
        assert!(labels[..i].iter().all(|l| near(l.x_m, l.y_m) >= 0.8));
    }
}

/// A cone: the places above a value are a circle whose area is known.
#[test]
fn the_lines_of_a_cone_enclose_the_area_they_should() {
    let side = 12.0;
    let cone = |x: f64, y: f64| 2.0 - (x - 6.0).hypot(y - 6.0) / 4.0;
    for contour in contours(&samples(side, cone), &square(side)) {
        let r = (2.0 - contour.share) * 4.0;
        if !(2.0..=5.0).contains(&r) {
            continue; // cut off by the edge, or within a few cans
        }
        let found: f64 = contour
            .rings
            .iter()
            .map(|ring| Outline::of(ring).area_m2())
            .sum();
        let right = std::f64::consts::PI * r * r;
        assert!(
            (found / right - 1.0).abs() < 0.08,
            "{}: {found} for {right}",
            contour.share
        );
    }
}

proptest! {
    #[test]
    fn every_can_of_a_layout_stands_within_and_alone(w in 1.0..60.0f64, l in 1.0..60.0f64, columns in 1u16..=20, rows in 1u16..=20, circle: bool) {
        let shape = if circle { Shape::Circle { diameter_m: w } } else { Shape::Rectangle { width_m: w, length_m: l } };
        let outline = shape.outline().unwrap();
        if let Ok(layout) = (Wanted { shape, heads: HeadPattern::Corners, columns, rows }).layout() {
            prop_assert!(layout.cans.iter().all(|c| outline.contains(&c.place)));
            for (i, can) in layout.cans.iter().enumerate() {
                prop_assert_eq!(usize::from(can.number), i + 1);
                prop_assert!(layout.cans[..i].iter().all(|other| other.place != can.place));
            }
        }
    }

    #[test]
    fn a_triangle_has_the_area_that_heron_says(a in 1.0..50.0f64, b in 1.0..50.0f64, part in 0.05..0.95f64) {
        let c = (a - b).abs() + part * (a + b - (a - b).abs());
        let s = f64::midpoint(a + b, c);
        let heron = (s * (s - a) * (s - b) * (s - c)).sqrt();
        prop_assert!((area(&polygon(&[a, b, c], &[])) - heron).abs() < 0.05 + 0.001 * heron);
    }
}
