//! Discrete natural-neighbour interpolation on a grid (Park, Linsen, Kreylos, Owens and Hamann 2006, "Discrete Sibson interpolation").
//!
//! Each cell lends the value of its nearest sample to all cells that lie no further from it than that sample does; a cell's value is the
//! mean of what it is lent. Values stay between the least and the greatest sample; far from samples they level off.

/// A sample at a place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sample {
    /// Easting, m.
    pub x_m: f64,
    /// Northing, m.
    pub y_m: f64,
    /// Its value.
    pub value: f64,
}

/// A grid of square cells.
#[derive(Debug, Clone, PartialEq)]
pub struct Grid {
    /// Left edge, m.
    pub left_m: f64,
    /// Lower edge, m.
    pub bottom_m: f64,
    /// Side of a cell, m.
    pub cell_m: f64,
    /// Cells across.
    pub columns: usize,
    /// Cells up.
    pub rows: usize,
    /// Values, row by row from the bottom.
    pub values: Vec<f64>,
}

/// A whole number of cells as a float; grids are small.
pub(crate) fn float(n: usize) -> f64 {
    f64::from(u32::try_from(n).unwrap_or(u32::MAX))
}

/// Whole cells of a length, at least 1, at most 400.
fn cells(length: f64) -> usize {
    (1..=400usize)
        .find(|n| float(*n) >= length - 1e-9)
        .unwrap_or(400)
}

impl Grid {
    /// An empty grid over a rectangle with about so many cells along its longer side.
    #[must_use]
    pub fn over(left_m: f64, bottom_m: f64, width_m: f64, height_m: f64, along: usize) -> Self {
        let cell_m = (width_m.max(height_m) / float(along.max(1))).max(1e-6);
        let (columns, rows) = (cells(width_m / cell_m), cells(height_m / cell_m));
        Self {
            left_m,
            bottom_m,
            cell_m,
            columns,
            rows,
            values: vec![0.0; columns * rows],
        }
    }

    /// The middle of a cell.
    #[must_use]
    pub fn middle(&self, column: usize, row: usize) -> (f64, f64) {
        (
            self.left_m + (float(column) + 0.5) * self.cell_m,
            self.bottom_m + (float(row) + 0.5) * self.cell_m,
        )
    }

    /// The value of a cell.
    #[must_use]
    pub fn at(&self, column: usize, row: usize) -> f64 {
        self.values[row * self.columns + column]
    }

    /// Fills the grid from samples; 0 everywhere without any.
    #[must_use]
    pub fn interpolate(mut self, samples: &[Sample]) -> Self {
        if samples.is_empty() {
            return self;
        }
        let mut sums = vec![(0.0f64, 0u32); self.values.len()];
        for row in 0..self.rows {
            for column in 0..self.columns {
                let (x, y) = self.middle(column, row);
                let (nearest, squared) = nearest(samples, x, y);
                // Cells whose middles lie within the circle through the sample; its own cell always.
                let reach = squared.sqrt() / self.cell_m;
                let span = cells(reach + 1.0);
                for r in row.saturating_sub(span)..=(row + span).min(self.rows - 1) {
                    let dy = float(r.abs_diff(row));
                    if dy > reach {
                        continue;
                    }
                    let across = cells((reach * reach - dy * dy).sqrt() + 1.0);
                    for c in column.saturating_sub(across)..=(column + across).min(self.columns - 1)
                    {
                        let dx = float(c.abs_diff(column));
                        if dx * dx + dy * dy <= reach * reach {
                            let cell = &mut sums[r * self.columns + c];
                            cell.0 += nearest;
                            cell.1 += 1;
                        }
                    }
                }
                if reach < 1.0 {
                    let cell = &mut sums[row * self.columns + column];
                    if cell.1 == 0 {
                        *cell = (nearest, 1);
                    }
                }
            }
        }
        for (index, (sum, count)) in sums.into_iter().enumerate() {
            self.values[index] = if count > 0 {
                sum / f64::from(count)
            } else {
                let (x, y) = self.middle(index % self.columns, index / self.columns);
                nearest(samples, x, y).0
            };
        }
        self
    }
}

fn nearest(samples: &[Sample], x: f64, y: f64) -> (f64, f64) {
    samples
        .iter()
        .map(|s| (s.value, (s.x_m - x).powi(2) + (s.y_m - y).powi(2)))
        .fold(
            (0.0, f64::INFINITY),
            |best, s| {
                if s.1 < best.1 { s } else { best }
            },
        )
}

#[cfg(test)]
mod tests {
    use super::*;

    fn samples(f: impl Fn(f64, f64) -> f64) -> Vec<Sample> {
        (0..6)
            .flat_map(|i| (0..6).map(move |j| (f64::from(i) * 2.0 + 1.0, f64::from(j) * 2.0 + 1.0)))
            .map(|(x_m, y_m)| Sample {
                x_m,
                y_m,
                value: f(x_m, y_m),
            })
            .collect()
    }

    /// Largest error over the inner half of the square.
    fn worst(f: impl Fn(f64, f64) -> f64) -> f64 {
        let grid = Grid::over(0.0, 0.0, 12.0, 12.0, 48).interpolate(&samples(&f));
        let mut worst = 0.0f64;
        for row in 12..36 {
            for column in 12..36 {
                let (x, y) = grid.middle(column, row);
                worst = worst.max((grid.at(column, row) - f(x, y)).abs());
            }
        }
        worst
    }

    #[test]
    fn known_surfaces_are_met() {
        assert!(worst(|_, _| 7.5) < 1e-12, "a level is met exactly");
        // Planes are met by Sibson's interpolant; the grid's cells are 0.25 m wide.
        assert!(worst(|x, _| x) < 0.35);
        assert!(worst(|x, y| 3.0 + 0.5 * x - 0.25 * y) < 0.25);
        // A bowl of depth 9 over 6 m.
        let bowl = |x: f64, y: f64| ((x - 6.0).powi(2) + (y - 6.0).powi(2)) / 4.0;
        assert!(worst(bowl) < 0.7, "{}", worst(bowl));
    }

    #[test]
    fn values_stay_between_the_samples() {
        let s = samples(|x, y| (x * 1.3).sin() * 5.0 + y);
        let (low, high) = s.iter().fold((f64::INFINITY, 0.0f64), |(l, h), s| {
            (l.min(s.value), h.max(s.value))
        });
        let grid = Grid::over(-2.0, -2.0, 16.0, 9.0, 40).interpolate(&s);
        assert_eq!((grid.columns, grid.rows), (40, 23));
        assert!(grid.values.iter().all(|v| (low..=high).contains(v)));
        let one = Grid::over(0.0, 0.0, 4.0, 4.0, 8).interpolate(&s[..1]);
        assert!(one.values.iter().all(|v| (v - s[0].value).abs() < 1e-12));
    }
}
