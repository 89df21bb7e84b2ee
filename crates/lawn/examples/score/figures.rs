//! What a replay came to, beside its bound.

use std::collections::BTreeMap;

use lawn::engine::dose;
use lawn::engine::replay::{Foresight, Row, replay};
use lawn::quantity::Depth;
use lawn::site::{SiteDocument, Weekday};

use crate::bound::Bound;
use crate::course::Course;
use crate::skies::Sky;

/// mm beyond RAW from which a day counts as short.
const SHORT_MM: f64 = 0.01;

/// Figures of a replay.
pub struct Figures {
    /// Mean of the zones' ΣETa/ΣETc.
    pub adequacy: f64,
    /// How far that lies below the bound's.
    pub below: f64,
    /// The zone that lies furthest below the bound's: its adequacy, and how far.
    pub worst: (f64, f64),
    /// Net water, with the depletion left at the end, over the bound's.
    pub net: f64,
    /// Valve minutes used of the most that any timetable could use, on nights after which a zone ends short; none without such a night.
    pub used: Option<f64>,
    /// How many such nights.
    pub short_nights: usize,
    /// Waterings a zone and year.
    pub waterings: f64,
    /// Below the roots, mm a zone and year, rain's share too.
    pub drained_mm: f64,
    /// Sprinklers' runoff, mm a zone and year.
    pub runoff_mm: f64,
}

#[allow(clippy::cast_precision_loss)] // zones and days
pub fn figures(
    document: &SiteDocument,
    sky: &Sky,
    course: &Course,
    bound: &Bound,
    foresight: Foresight<'_>,
) -> Result<Figures, String> {
    let rows = rows(document, sky, foresight)?;
    let zones = course.zones.len();
    let at = |zone: usize, day: usize| &rows[day * zones + zone];
    let sum = |zone: usize, of: &dyn Fn(&Row) -> Depth| -> f64 {
        (0..course.days.len())
            .map(|day| of(at(zone, day)).mm())
            .sum()
    };
    let etc: Vec<f64> = (0..zones).map(|z| course.etc(z).mm()).collect();
    let adequacy: Vec<f64> = (0..zones)
        .map(|z| sum(z, &|r| r.balance.eta) / etc[z])
        .collect();
    let bounds: Vec<f64> = (0..zones).map(|z| bound.eta_mm[z] / etc[z]).collect();
    let worst = (0..zones)
        .map(|z| (adequacy[z], bounds[z] - adequacy[z]))
        .fold((1.0, f64::MIN), |a, b| if b.1 > a.1 { b } else { a });
    let mean = |all: &[f64]| all.iter().sum::<f64>() / all.len() as f64;
    let net: f64 = (0..zones)
        .map(|z| sum(z, &|r| r.balance.irrigation.net))
        .sum();
    let left: f64 = (0..zones)
        .map(|z| at(z, course.days.len() - 1).balance.end.mm())
        .sum();
    let (used, short_nights) = used(course, &at);
    let zone_years = zones as f64 * course.days.len() as f64 / 365.25;
    Ok(Figures {
        adequacy: mean(&adequacy),
        below: mean(&bounds) - mean(&adequacy),
        worst,
        net: (net + left) / bound.net_mm.iter().sum::<f64>(),
        used,
        short_nights,
        waterings: waterings(&rows) / zone_years,
        drained_mm: (0..zones)
            .map(|z| sum(z, &|r| r.balance.drainage))
            .sum::<f64>()
            / zone_years,
        runoff_mm: (0..zones)
            .map(|z| sum(z, &|r| r.balance.irrigation.runoff))
            .sum::<f64>()
            / zone_years,
    })
}

/// Waterings a zone and year of plain refills with a window of the same hours every day.
#[allow(clippy::cast_precision_loss)]
pub fn refills(document: &SiteDocument, sky: &Sky, course: &Course) -> Result<f64, String> {
    let mut daily = document.clone();
    for window in &mut daily.windows {
        window.days = Weekday::ALL.to_vec();
    }
    let rows = rows(&daily, sky, Foresight::Refills)?;
    Ok(waterings(&rows) / (course.zones.len() as f64 * course.days.len() as f64 / 365.25))
}

fn rows<'a>(
    document: &'a SiteDocument,
    sky: &Sky,
    foresight: Foresight<'_>,
) -> Result<Vec<Row<'a>>, String> {
    replay(document, &sky.record, sky.from, sky.to, foresight).map_err(|e| e.to_string())
}

#[allow(clippy::cast_precision_loss)]
fn waterings(rows: &[Row]) -> f64 {
    rows.iter()
        .filter(|r| r.balance.irrigation.net > Depth::ZERO)
        .count() as f64
}

/// Valve minutes used over the most that any timetable could use, on open nights after which a zone on the clock ends short before the next.
#[allow(clippy::cast_precision_loss)]
fn used<'a>(course: &Course, at: &dyn Fn(usize, usize) -> &'a Row<'a>) -> (Option<f64>, usize) {
    let days = course.days.len();
    let open: Vec<usize> = (0..days).filter(|&t| course.window_s[t] > 0).collect();
    let on_clock: Vec<usize> = (0..course.zones.len())
        .filter(|&z| !course.zones[z].by_hand)
        .collect();
    let (mut ran, mut could, mut nights) = (0i64, 0i64, 0);
    for (i, &night) in open.iter().enumerate() {
        let next = open.get(i + 1).copied().unwrap_or(days);
        let short = |&z: &usize| {
            (night..next).any(|t| (at(z, t).balance.end - at(z, t).balance.raw).mm() > SHORT_MM)
                && course.zones[z].days[night].carries > Depth::ZERO
        };
        if !on_clock.iter().any(short) {
            continue;
        }
        let window_s = course.window_s[night];
        let most: i64 = on_clock
            .iter()
            .filter(|&&z| course.zones[z].days[night].carries > Depth::ZERO)
            .filter_map(|&z| {
                dose::dose(&course.zones[z].model, at(z, night).balance.start, window_s)
            })
            .map(|dose| dose.run_s())
            .sum();
        ran += on_clock
            .iter()
            .filter_map(|&z| at(z, night).dose)
            .map(|d| d.run_s())
            .sum::<i64>();
        could += most.min(window_s);
        nights += 1;
    }
    ((could > 0).then(|| ran as f64 / could as f64), nights)
}

/// The shortest nights' worth of what is asked, for looking at: by zone, adequacy and waterings a year.
#[allow(clippy::cast_precision_loss)]
pub fn by_zone(
    document: &SiteDocument,
    sky: &Sky,
    course: &Course,
    bound: &Bound,
    foresight: Foresight<'_>,
) -> Result<String, String> {
    use std::fmt::Write;
    let rows = rows(document, sky, foresight)?;
    let mut zones: BTreeMap<&str, Vec<&Row>> = BTreeMap::new();
    for row in &rows {
        zones.entry(row.zone).or_default().push(row);
    }
    let mut text = String::new();
    for (z, zone) in document.zones.iter().enumerate() {
        let rows = &zones[zone.id.as_str()];
        let eta: f64 = rows.iter().map(|r| r.balance.eta.mm()).sum();
        let etc = course.etc(z).mm();
        let net: f64 = rows.iter().map(|r| r.balance.irrigation.net.mm()).sum();
        let drained: f64 = rows.iter().map(|r| r.balance.drainage.mm()).sum();
        let n = rows
            .iter()
            .filter(|r| r.balance.irrigation.net > Depth::ZERO)
            .count();
        let years = course.days.len() as f64 / 365.25;
        let model = &course.zones[z].model;
        writeln!(
            text,
            "    {:<18} TAW {:5.1} carries {:5.1} of RAW {:5.1}  {:.4} of {:.4}  net {:5.0} of {:5.0} drained {:5.0} mm/a, {:4.1} waterings/a",
            zone.id,
            model.taw.mm(),
            dose::capacity(model, course.window_s.iter().copied().max().unwrap_or(0) / i64::from(model.settings)).mm(),
            model.raw(Depth::from_mm(5.0)).mm(),
            eta / etc,
            bound.eta_mm[z] / etc,
            net / years,
            bound.net_mm[z] / years,
            drained / years,
            n as f64 / years,
        )
        .map_err(|e| e.to_string())?;
    }
    Ok(text)
}
