//! The texture triangle against points that the manual's definitions name, and against its own drawing.

use proptest::prelude::*;
use science::soil::Texture;
use science::soil_triangle::{area, middle_pct, texture};

/// Points well inside each class, sand and clay in per cent: by the Soil Survey Manual's triangle (from memory).
#[test]
fn interior_points_of_all_twelve_classes() {
    let inside = [
        (Texture::Sand, [(95.0, 3.0), (90.0, 5.0), (88.0, 1.0)]),
        (Texture::LoamySand, [(82.0, 6.0), (78.0, 2.0), (85.0, 11.0)]),
        (
            Texture::SandyLoam,
            [(65.0, 10.0), (55.0, 3.0), (60.0, 15.0)],
        ),
        (Texture::Loam, [(40.0, 20.0), (45.0, 10.0), (35.0, 25.0)]),
        (Texture::SiltLoam, [(20.0, 15.0), (10.0, 25.0), (30.0, 5.0)]),
        (Texture::Silt, [(8.0, 6.0), (3.0, 10.0), (10.0, 1.0)]),
        (
            Texture::SandyClayLoam,
            [(60.0, 28.0), (52.0, 24.0), (70.0, 22.0)],
        ),
        (
            Texture::ClayLoam,
            [(32.0, 34.0), (25.0, 30.0), (42.0, 38.0)],
        ),
        (
            Texture::SiltyClayLoam,
            [(10.0, 34.0), (5.0, 28.0), (18.0, 38.0)],
        ),
        (
            Texture::SandyClay,
            [(52.0, 42.0), (58.0, 37.0), (48.0, 50.0)],
        ),
        (Texture::SiltyClay, [(6.0, 47.0), (2.0, 55.0), (15.0, 42.0)]),
        (Texture::Clay, [(20.0, 60.0), (35.0, 45.0), (5.0, 90.0)]),
    ];
    assert_eq!(inside.len(), Texture::ALL.len());
    for (class, points) in inside {
        for (sand, clay) in points {
            assert_eq!(texture(sand, clay), Some(class), "sand {sand}, clay {clay}");
        }
    }
}

#[test]
fn a_point_on_an_edge_is_of_either_class_and_the_corners_are_sand_silt_clay() {
    let either = [
        (40.0, 27.0, [Texture::Loam, Texture::ClayLoam]),
        (30.0, 40.0, [Texture::ClayLoam, Texture::Clay]),
        (45.0, 45.0, [Texture::Clay, Texture::SandyClay]),
        (20.0, 35.0, [Texture::ClayLoam, Texture::SiltyClayLoam]),
        (50.0, 0.0, [Texture::SandyLoam, Texture::SiltLoam]),
        (85.0, 0.0, [Texture::Sand, Texture::LoamySand]),
        (70.0, 0.0, [Texture::LoamySand, Texture::SandyLoam]),
        (8.0, 12.0, [Texture::Silt, Texture::SiltLoam]),
    ];
    for (sand, clay, classes) in either {
        let found = texture(sand, clay).unwrap();
        assert!(classes.contains(&found), "{sand}, {clay}: {found:?}");
    }
    assert_eq!(texture(100.0, 0.0), Some(Texture::Sand));
    assert_eq!(texture(0.0, 0.0), Some(Texture::Silt));
    assert_eq!(texture(0.0, 100.0), Some(Texture::Clay));
    for (sand, clay) in [(-1.0, 20.0), (60.0, 41.0), (f64::NAN, 2.0), (10.0, -0.1)] {
        assert_eq!(texture(sand, clay), None);
    }
    for class in Texture::ALL {
        let [sand, silt, clay] = middle_pct(class);
        assert_eq!(texture(sand, clay), Some(class));
        assert_eq!(sand + silt + clay, 100.0);
    }
}

/// Whether a point lies in a polygon, by the crossings of a ray: written apart from the borders' own tests.
fn within(polygon: &[[f64; 2]], [x, y]: [f64; 2]) -> bool {
    let sides = polygon.iter().zip(polygon.iter().cycle().skip(1));
    let crossings = sides.filter(|([ax, ay], [bx, by])| {
        (*ay > y) != (*by > y) && x < (bx - ax) * (y - ay) / (by - ay) + ax
    });
    crossings.count() % 2 == 1
}

#[test]
fn the_drawn_areas_fill_the_triangle() {
    let doubled = |polygon: &[[f64; 2]]| -> f64 {
        let sides = polygon.iter().zip(polygon.iter().cycle().skip(1));
        sides
            .map(|(a, b)| a[0] * b[1] - b[0] * a[1])
            .sum::<f64>()
            .abs()
    };
    let all: f64 = Texture::ALL.iter().map(|t| doubled(area(*t))).sum();
    assert!((all - 100.0 * 100.0).abs() < 1e-9, "{all}");
}

proptest! {
    #[test]
    fn a_drawn_area_holds_the_points_of_its_class(sand in 0.0..100.0_f64, share in 0.0..1.0_f64) {
        let clay = (100.0 - sand) * share;
        let class = texture(sand, clay).unwrap();
        // A hair from a border either is right.
        let near = [[0.01, 0.0], [-0.01, 0.0], [0.0, 0.01], [0.0, -0.01]]
            .iter()
            .any(|[s, c]| within(area(class), [sand + s, clay + c]));
        prop_assert!(near || within(area(class), [sand, clay]), "{class:?} at {sand}, {clay}");
    }
}
