//! Unit facts, exact by definition, and the irrigation constants that follow from them.
//!
//! The trade's constants (3.66, 600, 96.25, 623, 748) are not stored: `tests/it/unit_facts.rs` derives them from these.

/// Millimetres in an inch (exact, international inch of 1959).
pub const MM_PER_INCH: f64 = 25.4;
/// Metres in a foot (exact).
pub const M_PER_FOOT: f64 = 0.3048;
/// Litres in a US gallon: 231 cubic inches (exact).
pub const L_PER_GALLON: f64 = 231.0 * 16.387_064 / 1000.0;
/// Litres in a cubic foot (exact).
pub const L_PER_FT3: f64 = M_PER_FOOT * M_PER_FOOT * M_PER_FOOT * 1000.0;
/// Square metres in a square foot (exact).
pub const M2_PER_FT2: f64 = M_PER_FOOT * M_PER_FOOT;
/// Metres per second in a mile per hour (exact).
pub const MS_PER_MPH: f64 = 0.447_04;
/// Kilopascals to a pound-force on a square inch: 0.453 592 37 kg · 9.806 65 m/s² on 25.4 mm squared.
pub const KPA_PER_PSI: f64 = 0.453_592_37 * 9.806_65 / (MM_PER_INCH * MM_PER_INCH) * 1000.0;
/// Megajoules per square metre that evaporate a millimetre of water: the latent heat of FAO-56, 2.45 MJ/kg.
pub const MJ_M2_PER_MM: f64 = 2.45;

/// Degrees Celsius from degrees Fahrenheit.
///
/// # Example
/// ```
/// assert!((science::units::celsius_from_fahrenheit(95.0) - 35.0).abs() < 1e-12);
/// ```
#[must_use]
pub fn celsius_from_fahrenheit(f: f64) -> f64 {
    (f - 32.0) / 1.8
}
