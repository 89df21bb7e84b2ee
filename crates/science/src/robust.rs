//! The middle and the spread of figures, which a few wild ones among them do not move.
//!
//! # References
//! Hampel, F. R. (1974): *The influence curve and its role in robust estimation*, Journal of the American Statistical Association 69,
//! 383–393: the median absolute deviation; 1.4826 makes it the standard deviation of a normal distribution (1/Φ⁻¹(3/4)).

/// 1/Φ⁻¹(3/4).
const TO_SIGMA: f64 = 1.482_602_218_505_602;

/// The median; `None` of nothing. The order of the figures is changed.
///
/// # Example
/// ```
/// assert_eq!(science::robust::median(&mut [3.0, 1.0, 200.0, 2.0]), Some(2.5));
/// ```
pub fn median(figures: &mut [f64]) -> Option<f64> {
    if figures.is_empty() {
        return None;
    }
    figures.sort_unstable_by(f64::total_cmp);
    let middle = figures.len() / 2;
    Some(if figures.len() % 2 == 1 {
        figures[middle]
    } else {
        f64::midpoint(figures[middle - 1], figures[middle])
    })
}

/// The median, and the spread as a standard deviation; `None` of nothing.
///
/// # Formula
/// σ = 1.4826 · median |x − median x|
///
/// # Example
/// One wild figure of seven moves neither.
/// ```
/// let (middle, sigma) = science::robust::median_and_spread(&[9.0, 10.0, 11.0, 10.0, 9.5, 10.5, 400.0]).unwrap();
/// assert!((middle - 10.0).abs() < 1e-12 && (sigma - 1.4826 * 0.5).abs() < 1e-4);
/// ```
#[must_use]
pub fn median_and_spread(figures: &[f64]) -> Option<(f64, f64)> {
    let mut kept = figures.to_vec();
    let middle = median(&mut kept)?;
    for figure in &mut kept {
        *figure = (*figure - middle).abs();
    }
    Some((middle, TO_SIGMA * median(&mut kept)?))
}
