//! Forecasts as issued, seven days from the day of issue: errors grow with lead, probabilities mean what they say.
//!
//! The forecaster sees each day's draws through noise that grows with lead. Its probability of rain is the true conditional
//! probability given what it sees, carried from day to day through both states; so of the days given 60 %, about 60 % turn wet.

use jiff::ToSpan;
use jiff::civil::Date;
use science::humidity::saturation_kpa;

use crate::noise::{Use, normal, phi};
use crate::weather::{Day, Weather, least_rain_mm, number, relative_amount, tenth};

/// Days of a forecast.
pub const DAYS: usize = 7;
/// How well a day's wetness is seen, by lead: correlation with its draw.
const SEEN: [f64; DAYS] = [0.93, 0.88, 0.81, 0.73, 0.63, 0.53, 0.43];
/// How well the amount is seen, share of the above.
const AMOUNT_SEEN: f64 = 0.7;
/// Error of temperature, °C: on the day of issue, and what each day of lead adds.
const TEMPERATURE_ERROR_C: (f64, f64) = (0.7, 0.4);
/// Error of vapour pressure (0.065 is a degree of dew point) and of wind, shares of them, likewise.
const VAPOUR_ERROR: (f64, f64) = (0.05, 0.022);
const WIND_ERROR: (f64, f64) = (0.10, 0.05);
/// Nodes and weights of the Gauss–Hermite rule of five points for the standard normal (Abramowitz and Stegun, table 25.10, scaled).
const HERMITE: [(f64, f64); 5] = [
    (-2.856_970_014, 0.011_257_411),
    (-1.355_626_18, 0.222_075_922),
    (0.0, 0.533_333_333),
    (1.355_626_18, 0.222_075_922),
    (2.856_970_014, 0.011_257_411),
];

impl Weather {
    /// The forecast issued at the start of a day, for that day and the six after it.
    #[must_use]
    pub fn forecast(&self, issued: Date) -> Vec<Day> {
        let first = number(issued);
        let mut wet_before = if self.is_wet(first - 1) { 1.0 } else { 0.0 };
        let (mut error_c, mut vapour_error, mut wind_error) = (0.0, 0.0, 0.0f64);
        let mut date = issued;
        let mut days = Vec::with_capacity(DAYS);
        for (lead, seen) in (0u8..).zip(SEEN) {
            let day = first + i32::from(lead);
            let truth = self.day(date);
            let warmth = self.warmth(day);
            let noise = |what| normal(self.seed, day, what, lead + 1);

            let unseen = (1.0 - seen * seen).sqrt();
            let sight = seen * normal(self.seed, day, Use::Wet, 0) + unseen * noise(Use::SeenWet);
            let turns = |after_wet| phi((self.threshold(day, after_wet) - seen * sight) / unseen);
            let p = wet_before * turns(true) + (1.0 - wet_before) * turns(false);
            wet_before = p;

            let seen = seen * AMOUNT_SEEN;
            let unseen = (1.0 - seen * seen).sqrt();
            let draw = crate::noise::probit(crate::noise::share(self.seed, day, Use::Amount, 0));
            let sight = seen * draw + unseen * noise(Use::SeenAmount);
            let relative: f64 = HERMITE
                .iter()
                .map(|(x, w)| w * relative_amount(phi(seen * sight + unseen * x).clamp(1e-12, 1.0)))
                .sum();

            // Errors last: what a day is off by, the next is partly off by too.
            let lasting = |before: f64, (start, growth): (f64, f64), what| {
                0.6 * before + 0.8 * (start + growth * f64::from(lead)) * noise(what)
            };
            error_c = lasting(error_c, TEMPERATURE_ERROR_C, Use::SeenTemperature);
            vapour_error = lasting(vapour_error, VAPOUR_ERROR, Use::SeenDamp);
            wind_error = lasting(wind_error, WIND_ERROR, Use::SeenWind);
            let (tmin_c, tmax_c) = (truth.tmin_c + error_c, truth.tmax_c + error_c);
            // Air holds no more than it can.
            let true_vapour = truth.rh_max_pct / 100.0 * saturation_kpa(truth.tmin_c);
            let vapour = (true_vapour * f64::exp(vapour_error)).min(saturation_kpa(tmin_c));
            // The further ahead, the more the sky is what the probability makes it.
            let trust = 1.0 - f64::from(lead) / 7.0;
            let expected =
                p * self.clear(warmth, true, 0.5) + (1.0 - p) * self.clear(warmth, false, 0.5);
            let solar = trust * truth.solar_mj_m2 + (1.0 - trust) * expected * self.clear_sky(date);
            days.push(Day {
                tmin_c: tenth(tmin_c),
                tmax_c: tenth(tmax_c),
                rh_min_pct: tenth((100.0 * vapour / saturation_kpa(tmax_c)).clamp(4.0, 100.0)),
                rh_max_pct: tenth((100.0 * vapour / saturation_kpa(tmin_c)).clamp(8.0, 100.0)),
                wind_m_s: tenth((truth.wind_m_s * wind_error.exp()).clamp(0.2, 12.0)),
                solar_mj_m2: tenth(solar),
                rain_mm: tenth(self.mean_amount(warmth) * relative + least_rain_mm()),
                rain_probability_pct: Some((100.0 * p).round()),
                ..truth
            });
            date = date.saturating_add(1.day());
        }
        days
    }
}
