//! What is wrong with a figure of a weather file, said in the file's own unit and digits.

use crate::ranges::Range;

/// A figure as an instrument tells it: what is next to nothing is nothing.
pub(crate) fn told(x: f64) -> f64 {
    if x.abs() < 1e-9 { 0.0 } else { x }
}

/// What is wrong with a figure whose unit `to_ours` turns into the range's: said in the file's own unit and digits.
pub(crate) fn out_of_range(
    range: Range,
    cell: &str,
    unit: &str,
    to_ours: impl Fn(f64) -> f64,
) -> Option<String> {
    let error = range
        .check(told(to_ours(cell.replace(',', ".").parse().ok()?)))
        .err()?;
    // Units differ by a factor and a starting point.
    let zero = to_ours(0.0);
    let theirs = |ours: f64| {
        let x = (ours - zero) / (to_ours(1.0) - zero);
        told((x * 100.0).round() / 100.0)
    };
    let unit = if unit.is_empty() {
        String::new()
    } else {
        format!(" {unit}")
    };
    Some(if error.value < range.min {
        let limit = theirs(range.min);
        format!("{cell}{unit} is below the lowest allowed, {limit}{unit}")
    } else {
        let limit = theirs(range.max);
        format!("{cell}{unit} is above the highest allowed, {limit}{unit}")
    })
}

/// A day's low above its high, in the file's own digits.
pub(crate) fn above_highest(what: &str, low: &str, high: &str) -> String {
    format!("the day's lowest {what}, {low}, is above its highest, {high}")
}

/// The unit that a heading of ours ends with, for people.
pub(crate) fn unit_of(header: &str) -> &'static str {
    const UNITS: [(&str, &str); 12] = [
        ("_mj_m2", "MJ/m²"),
        ("_w_m2", "W/m²"),
        ("_km_h", "km/h"),
        ("_m_s", "m/s"),
        ("_mph", "mph"),
        ("_pct", "%"),
        ("_kpa", "kPa"),
        ("_hpa", "hPa"),
        ("_mm", "mm"),
        ("_in", "in"),
        ("_c", "°C"),
        ("_f", "°F"),
    ];
    UNITS
        .iter()
        .find(|(suffix, _)| header.ends_with(suffix))
        .map_or("", |(_, unit)| unit)
}
