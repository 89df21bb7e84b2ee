//! In the manner of the WaterSense test of weather-based controllers (from memory): six zones with a fixed working storage, stretches of 30 days with
//! rain and ET enough, adequacy and excess of each zone. Plant and shade factors are our own.

use std::fmt::Write;

use lawn::engine::replay::{Foresight, Row, replay};
use lawn::quantity::{Area, Depth, Rate};
use lawn::site::{SiteDocument, Weekday, Zone};
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::Grass;

use crate::sites::{site, sure, window, zone};
use crate::skies::Sky;

const INCH: f64 = 25.4;
/// Days of a stretch.
const DAYS: usize = 30;
/// Rain and reference ET that a stretch must have at least, mm.
const LEAST: (f64, f64) = (0.40 * INCH, 2.50 * INCH);
/// Days from a watering within which what drains is charged to it in the strict count.
const CHARGED_DAYS: usize = 3;

/// Name, soil, slope %, kind, rate in/h, efficiency, working storage in, crop coefficient with shade, area ft².
type Row6 = (&'static str, Texture, f64, Kind, f64, f64, f64, f64, f64);

#[rustfmt::skip]
const SIX: [Row6; 6] = [
    ("1 loam, fescue", Texture::Loam, 6.0, Kind::FixedSpray, 1.60, 0.55, 0.85, 0.64, 1000.0),
    ("2 silty clay, bermuda", Texture::SiltyClay, 10.0, Kind::FixedSpray, 1.60, 0.60, 0.55, 0.72, 1200.0),
    ("3 loamy sand, cover", Texture::LoamySand, 8.0, Kind::FixedSpray, 1.40, 0.70, 0.90, 0.55, 800.0),
    ("4 sandy loam, shrubs", Texture::SandyLoam, 12.0, Kind::FixedSpray, 1.40, 0.75, 2.00, 0.40, 500.0),
    ("5 clay loam, trees", Texture::ClayLoam, 2.0, Kind::Drip, 0.20, 0.80, 2.25, 0.50, 650.0),
    ("6 clay, bermuda", Texture::Clay, 20.0, Kind::Rotor, 0.35, 0.65, 0.55, 0.72, 1600.0),
];

/// The six zones, each with the clock to itself all day: the test knows no clock.
pub fn six() -> SiteDocument {
    let zones = SIX.map(
        |(name, soil, slope, kind, rate, efficiency, storage, kc, area)| {
            let raw = storage * INCH;
            // Evenness down to what plans follow; the rest of the efficiency is loss.
            let du: f64 = ((efficiency - 0.4) / 0.6_f64).max(0.4);
            let loss = if kind == Kind::Drip {
                0.0
            } else {
                1.0 - efficiency / (0.4 + 0.6 * du)
            };
            Zone {
                slope_pct: slope,
                area_m2: Area::from_m2(area * 0.092_903),
                rate_mm_h: Some(sure(Rate::from_mm_h(rate * INCH))),
                evenness_du_lq: Some(sure(if kind == Kind::Drip { efficiency } else { du })),
                spray_loss: Some(sure(loss.max(0.0))),
                allowable_depletion: Some(0.5),
                available_mm_per_mm: Some(sure(0.1)),
                root_depth_mm: Some(sure(Depth::from_mm(raw * 20.0))),
                // Bermudagrass at 0.85 × good 0.85.
                site_factor: Some(sure(kc / (0.85 * 0.85))),
                ..zone(name, Grass::CommonBermudagrass, soil, kind)
            }
        },
    );
    site(
        "Six zones",
        zones.to_vec(),
        window(&Weekday::ALL, "00:00", "23:30"),
    )
}

/// A zone over all stretches: least adequacy, greatest excess.
#[derive(Clone, Copy)]
struct Worst {
    /// ΣETa/ΣETc.
    adequacy: f64,
    /// The same, all that is drawn from beyond the working storage counted as missing.
    strict: f64,
    runoff: f64,
    drained: f64,
    charged: f64,
    gross_over_net: f64,
}

/// The table's rows for a weather and a foresight.
pub fn rows(sky: &Sky, name: &str, foresight: Foresight<'_>) -> Result<String, String> {
    let all = six();
    let mut text = String::new();
    for zone in &all.zones {
        let mut document = all.clone();
        document.zones = vec![zone.clone()];
        let rows = replay(&document, &sky.record, sky.from, sky.to, foresight)
            .map_err(|e| e.to_string())?;
        let stretches: Vec<&[Row]> = rows.chunks_exact(DAYS).filter(|s| counts(s)).collect();
        let mut worst = Worst {
            adequacy: 100.0,
            strict: 100.0,
            runoff: 0.0,
            drained: 0.0,
            charged: 0.0,
            gross_over_net: 0.0,
        };
        for stretch in &stretches {
            let of = came_to(stretch);
            worst.adequacy = worst.adequacy.min(of.adequacy);
            worst.strict = worst.strict.min(of.strict);
            worst.runoff = worst.runoff.max(of.runoff);
            worst.drained = worst.drained.max(of.drained);
            worst.charged = worst.charged.max(of.charged);
            worst.gross_over_net = worst.gross_over_net.max(of.gross_over_net);
        }
        writeln!(
            text,
            "| {} | {} | {name} | {} | {:.1} | {:.1} | {:.1} | {:.1} | {:.1} | {:.2} |",
            zone.id,
            sky.name,
            stretches.len(),
            worst.adequacy,
            worst.strict,
            worst.drained,
            worst.runoff,
            worst.charged,
            worst.gross_over_net,
        )
        .map_err(|e| e.to_string())?;
    }
    Ok(text)
}

/// Whether a stretch has rain and ET enough, and any watering.
fn counts(stretch: &[Row]) -> bool {
    let sum = |of: fn(&Row) -> Depth| stretch.iter().map(of).sum::<Depth>().mm();
    sum(|r| r.balance.rain) >= LEAST.0 && sum(|r| r.et0) >= LEAST.1
}

/// Percent: of ETc for adequacy, of net irrigation else.
fn came_to(stretch: &[Row]) -> Worst {
    let sum = |of: &dyn Fn(&Row) -> Depth| stretch.iter().map(of).sum::<Depth>().mm();
    // What was drawn from beyond the working storage was not given.
    let beyond = |depletion: Depth, row: &Row| (depletion - row.balance.raw).max(Depth::ZERO);
    let deficit =
        sum(&|r| (beyond(r.balance.end, r) - beyond(r.balance.start, r)).max(Depth::ZERO));
    let net = sum(&|r| r.balance.irrigation.net);
    let over = sum(&|r| (r.balance.irrigation.net - r.balance.start).max(Depth::ZERO));
    // The strict count: what drains within three days of a watering, up to its water, although rain sent it down.
    let mut charged = 0.0;
    for (i, row) in stretch.iter().enumerate() {
        let given = row.balance.irrigation.net.mm();
        let drains = stretch[i..stretch.len().min(i + CHARGED_DAYS)]
            .iter()
            .map(|r| r.balance.drainage.mm())
            .sum::<f64>();
        charged += drains.min(given);
    }
    let share = |mm: f64| if net > 0.0 { 100.0 * mm / net } else { 0.0 };
    Worst {
        adequacy: 100.0 * sum(&|r| r.balance.eta) / sum(&|r| r.balance.etc),
        strict: 100.0 * (1.0 - deficit / sum(&|r| r.balance.etc)),
        runoff: share(sum(&|r| r.balance.irrigation.runoff)),
        drained: share(over),
        charged: share(charged),
        gross_over_net: if net > 0.0 {
            sum(&|r| r.balance.irrigation.gross) / net
        } else {
            0.0
        },
    }
}
