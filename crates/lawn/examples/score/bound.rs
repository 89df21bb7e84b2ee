//! The bound: a linear program with hindsight under the same windows, capacities and valve minutes. Greatest ΣETa; then least net, with the
//! storage left at the end counted, among plans within 0.001 of it.
//!
//! Of each zone and day: net n, depletion at the end D, ETa e, drainage q. D = D′ − n + e − rain + q; e ≤ ETc, e ≤ ETc (TAW − D′ + n) / (TAW − RAW),
//! e ≤ TAW − D′ + n, n ≤ D′ and what the night carries; Σ minutes of a night's zones ≤ the window. A relaxation of what any timetable can do:
//! soaks bind each zone alone, minutes are not whole.

use crate::course::Course;
use crate::linear::{Row, solve};

/// What the program finds.
pub struct Bound {
    /// ΣETa by zone, mm.
    pub eta_mm: Vec<f64>,
    /// Net by zone, with the depletion at the end, mm.
    pub net_mm: Vec<f64>,
}

/// A share of ΣETc that the plans of least net may fall short of the greatest ΣETa.
const WITHIN: f64 = 0.001;

/// Where the variables of a zone and day stand.
struct Place {
    days: usize,
}

impl Place {
    fn of(&self, zone: usize, day: usize) -> usize {
        4 * (zone * self.days + day)
    }
}

const NET: usize = 0;
const END: usize = 1;
const ETA: usize = 2;
const DRAINED: usize = 3;

pub fn bound(course: &Course) -> Result<Bound, String> {
    let place = Place {
        days: course.days.len(),
    };
    let count = 4 * course.zones.len() * place.days;
    let mut equal = Vec::new();
    let mut most = Vec::new();
    let row = |entries: Vec<(usize, f64)>, right: f64| Row { entries, right };
    for (z, zone) in course.zones.iter().enumerate() {
        let taw = zone.model.taw.mm();
        for (t, day) in zone.days.iter().enumerate() {
            let at = place.of(z, t);
            // D′ is a variable but on the first day.
            let (before, begins) = match t {
                0 => (None, zone.begins.mm()),
                _ => (Some(place.of(z, t - 1) + END), 0.0),
            };
            let with = |mut entries: Vec<(usize, f64)>, factor: f64| {
                entries.extend(before.map(|v| (v, factor)));
                entries
            };
            equal.push(row(
                with(
                    vec![
                        (at + END, 1.0),
                        (at + NET, 1.0),
                        (at + ETA, -1.0),
                        (at + DRAINED, -1.0),
                    ],
                    -1.0,
                ),
                begins - day.effective_rain.mm(),
            ));
            let (etc, raw) = (day.etc.mm(), day.raw.mm());
            let slope = etc / (taw - raw);
            // e + slope (D′ − n) ≤ slope TAW
            most.push(row(
                with(vec![(at + ETA, 1.0), (at + NET, -slope)], slope),
                slope * (taw - begins),
            ));
            most.push(row(
                with(vec![(at + ETA, 1.0), (at + NET, -1.0)], 1.0),
                taw - begins,
            ));
            most.push(row(vec![(at + ETA, 1.0)], etc));
            most.push(row(vec![(at + NET, 1.0)], day.carries.mm()));
            most.push(row(with(vec![(at + NET, 1.0)], -1.0), begins));
            most.push(row(vec![(at + END, 1.0)], taw));
            for v in 0..4 {
                most.push(row(vec![(at + v, -1.0)], 0.0));
            }
        }
    }
    for (t, window_s) in course.window_s.iter().enumerate() {
        let on_clock = course.zones.iter().enumerate().filter(|(_, z)| !z.by_hand);
        let entries: Vec<(usize, f64)> = on_clock
            .filter(|(_, zone)| zone.days[t].carries.mm() > 0.0)
            .map(|(z, zone)| {
                let net_a_minute = zone.model.net_of_gross(
                    zone.model.rate.value * lawn::quantity::RunTime::from_minutes(1.0),
                );
                (place.of(z, t) + NET, 1.0 / net_a_minute.mm())
            })
            .collect();
        if !entries.is_empty() {
            #[allow(clippy::cast_precision_loss)] // seconds of a day
            most.push(row(entries, *window_s as f64 / 60.0));
        }
    }
    let mut cost = vec![0.0; count];
    let each = |what: usize| (0..count / 4).map(move |i| 4 * i + what);
    for v in each(ETA) {
        cost[v] = -1.0;
    }
    let solution = solve(count, &cost, &equal, &most)?;
    let greatest: f64 = each(ETA).map(|v| solution[v]).sum();
    let etc: f64 = (0..course.zones.len()).map(|z| course.etc(z).mm()).sum();

    most.push(row(
        each(ETA).map(|v| (v, -1.0)).collect(),
        -(greatest - WITHIN * etc),
    ));
    let mut cost = vec![0.0; count];
    for v in each(NET) {
        cost[v] = 1.0;
    }
    let last = |z: usize| place.of(z, place.days - 1) + END;
    for z in 0..course.zones.len() {
        cost[last(z)] = 1.0;
    }
    let least = solve(count, &cost, &equal, &most)?;
    let zones = 0..course.zones.len();
    Ok(Bound {
        eta_mm: zones
            .clone()
            .map(|z| {
                (0..place.days)
                    .map(|t| solution[place.of(z, t) + ETA])
                    .sum()
            })
            .collect(),
        net_mm: zones
            .map(|z| {
                let net = (0..place.days).map(|t| least[place.of(z, t) + NET]);
                net.sum::<f64>() + least[last(z)]
            })
            .collect(),
    })
}
