//! Normals against the open daily series: made from three years of it, the fourth hidden. Data: crates/standins/tests/data/README.md.

use jiff::civil::date;
use lawn::weather::normals::{MonthNormal, Normals};
use lawn::weather::outlook::Climatology;
use lawn::weather::{self, Gaps, WeatherDay};

use crate::kept;

/// Temperatures and rain alone: what normals are made of.
fn days() -> Vec<WeatherDay> {
    let days = kept::days().into_iter().map(|day| WeatherDay {
        wind_m_s: None,
        ..day
    });
    days.collect()
}

fn normals(days: &[WeatherDay]) -> Normals {
    Normals(std::array::from_fn(|m| {
        let own = days
            .iter()
            .filter(|d| usize::try_from(d.date.month()).unwrap() == m + 1);
        let own: Vec<&WeatherDay> = own.collect();
        let count = f64::from(u32::try_from(own.len()).unwrap());
        let mean = |f: fn(&WeatherDay) -> Option<f64>| {
            own.iter().filter_map(|d| f(d)).sum::<f64>() / count
        };
        let month = f64::from(own[0].date.days_in_month());
        let wet = own
            .iter()
            .filter(|d| d.rain_mm.unwrap() >= Climatology::WET_MM)
            .count();
        MonthNormal {
            low_c: mean(|d| d.tmin_c),
            high_c: mean(|d| d.tmax_c),
            rain_mm: mean(|d| d.rain_mm) * month,
            wet_days: f64::from(u32::try_from(wet).unwrap()) / count * month,
        }
    }))
}

/// Sum of a stretch's reference ET, mm.
fn et0_mm(days: &[WeatherDay]) -> f64 {
    let mut site = lawn::site::document::read(kept::SITE).unwrap().site;
    // The series' place.
    (site.latitude, site.elevation_m) = (47.4, 137.0);
    let series = weather::series(&weather::place(&site), days, Gaps::Refuse).unwrap();
    series.iter().map(|d| d.et0.mm()).sum()
}

#[test]
fn a_hidden_summer_uses_what_normals_say_within_a_tenth() {
    let all = days();
    let known: Vec<WeatherDay> = all
        .iter()
        .filter(|d| d.date.year() < 2015)
        .cloned()
        .collect();
    let normals = normals(&known);
    normals.validate().unwrap();
    let hidden = |from, to| -> Vec<WeatherDay> {
        let days = all.iter().filter(|d| from <= d.date && d.date <= to);
        days.cloned().collect()
    };
    let summer = hidden(date(2015, 4, 1), date(2015, 9, 30));
    let guessed: Vec<WeatherDay> = summer.iter().map(|d| normals.day(d.date)).collect();
    let (was, said) = (et0_mm(&summer), et0_mm(&guessed));
    println!("April to September 2015: {was:.0} mm of reference ET, {said:.0} mm by normals");
    // 2015 was the warmest of the four there: normals say too little, not too much.
    assert!(said < was && said > was * 0.9, "{said} for {was}");

    // Of the years that they were made from the months are theirs within a few percent: the root of a mean is more than the mean of roots,
    // most in winter, when a day's range is small.
    for m in 1..=12 {
        let (mut was, mut said) = (0.0, 0.0);
        for year in 2012..2015 {
            let first = date(year, m, 1);
            let days = hidden(first, first.last_of_month());
            was += et0_mm(&days);
            let guessed: Vec<WeatherDay> = days.iter().map(|d| normals.day(d.date)).collect();
            said += et0_mm(&guessed);
        }
        let off = said / was - 1.0;
        println!(
            "month {m}: {said:.0} mm by normals for {was:.0}, {:+.1} %",
            off * 100.0
        );
        let bound = if (4..=10).contains(&m) { 0.04 } else { 0.08 };
        assert!(off.abs() < bound, "month {m}: {said:.0} for {was:.0}");
    }
}
