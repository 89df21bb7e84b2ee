//! Normals against the open daily series: made from three years of it, the fourth hidden. Data: crates/standins/tests/data/README.md.

use jiff::civil::{Date, date};
use lawn::engine::replay::{Foresight, replay};
use lawn::quantity::Depth;
use lawn::site::SiteDocument;
use lawn::site::normals::WET_MM;
use lawn::view::plan::{Known, plan_week};
use lawn::view::verdict::Note;
use lawn::view::week_plan::{EtSource, WeekPlan};
use lawn::weather::normals::{MonthNormal, Normals};
use lawn::weather::outlook::Climatology;
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use science::reference_et::Station;

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
        let wet = own.iter().filter(|d| d.rain_mm.unwrap() >= WET_MM).count();
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
    series(&document(None), days, Gaps::Refuse)
        .iter()
        .map(|d| d.et0.mm())
        .sum()
}

/// The example site at the series' place.
fn document(normals: Option<Normals>) -> SiteDocument {
    let mut document = lawn::site::document::read(kept::SITE).unwrap();
    let site = &mut document.site;
    (site.latitude, site.elevation_m, site.normals) = (47.4, 137.0, normals);
    document
}

fn series(document: &SiteDocument, days: &[WeatherDay], gaps: Gaps) -> Vec<DailyWeather> {
    weather::series(&weather::place(&document.site), days, gaps).unwrap()
}

fn before(year: i16) -> Vec<WeatherDay> {
    days()
        .into_iter()
        .filter(|d| d.date.year() < year)
        .collect()
}

fn blank(date: Date) -> WeatherDay {
    WeatherDay {
        date,
        ..WeatherDay::default()
    }
}

#[test]
fn a_hidden_summer_uses_what_normals_say_within_a_tenth() {
    let all = days();
    let normals = normals(&before(2015));
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

/// A watering: zone, day, net depth.
type Watering = (String, Date, Depth);

fn waterings(
    document: &SiteDocument,
    record: &[DailyWeather],
    (from, to): (Date, Date),
) -> Vec<Watering> {
    let rows = replay(document, record, from, to, Foresight::None).unwrap();
    let watered = rows.iter().filter(|row| row.dose.is_some());
    let watered = watered.map(|row| (row.zone.to_owned(), row.date, row.balance.irrigation.net));
    watered.collect()
}

/// How many waterings of the first have one of the second, each used once, within some days and a fifth of the depth.
fn alike(first: &[Watering], second: &[Watering], days: i32, depth: bool) -> usize {
    let mut left = second.to_vec();
    let mut alike = 0;
    for (zone, date, net) in first {
        let near = |(other, on, given): &Watering| {
            other == zone
                && on.since(*date).unwrap().get_days().abs() <= days
                && (!depth || (given.mm() / net.mm() - 1.0).abs() <= 0.2)
        };
        if let Some(at) = left.iter().position(near) {
            left.remove(at);
            alike += 1;
        }
    }
    alike
}

/// April to September of a year, by its days and by the normals of the other years alone.
fn season(year: i16) -> [Vec<Watering>; 2] {
    let others = days().into_iter().filter(|d| d.date.year() != year);
    let document = document(Some(normals(&others.collect::<Vec<_>>())));
    let season = (date(year, 4, 1), date(year, 9, 30));
    let told = series(&document, &days(), Gaps::Refuse);
    let untold = [blank(date(year, 3, 1)), blank(season.1)];
    let untold = series(&document, &untold, Gaps::filled(&document.site));
    assert!(untold.iter().all(|d| d.method.is_none() && d.rain_expected));
    [told, untold].map(|record| waterings(&document, &record, season))
}

#[test]
fn seasons_by_normals_alone_take_the_water_of_seasons_by_their_days() {
    let mm = |all: &[Watering]| all.iter().map(|(_, _, net)| net.mm()).sum::<f64>();
    let (mut was, mut said) = (0.0, 0.0);
    for year in 2012..=2015 {
        let [by_days, by_normals] = season(year);
        let share = |days, depth| 100 * alike(&by_days, &by_normals, days, depth) / by_days.len();
        let (own, guessed) = (mm(&by_days), mm(&by_normals));
        println!(
            "{year}: {} waterings, {own:.0} mm by its days; {}, {guessed:.0} mm by normals; within a day {} %, and a fifth {} %; within three days {} %",
            by_days.len(),
            by_normals.len(),
            share(1, false),
            share(1, true),
            share(3, false),
        );
        // A wet year and a dry one cannot be told from normals.
        assert!((guessed / own - 1.0).abs() < 0.25, "{year}");
        (was, said) = (was + own, said + guessed);
    }
    println!("four seasons: {was:.0} mm by days, {said:.0} mm by normals");
    assert!((said / was - 1.0).abs() < 0.05, "{said} for {was}");
}

#[test]
fn a_week_by_normals_misses_by_less_than_its_spread() {
    let document = document(Some(normals(&before(2015))));
    let told = series(&document, &days(), Gaps::Refuse);
    let station = Station::new(&weather::place(&document.site));
    let normals = document.site.normals.unwrap();
    let (first, last) = (date(2015, 4, 1), date(2015, 9, 30));
    let summer = told.iter().filter(|d| first <= d.date && d.date <= last);
    let summer: Vec<&DailyWeather> = summer.collect();
    let weeks = summer.windows(7).map(|week| {
        let was: f64 = week.iter().map(|d| d.et0.mm()).sum();
        let said = week
            .iter()
            .map(|d| normals.et0_beside(&station, &[], d.date).mm());
        was / said.sum::<f64>() - 1.0
    });
    let squares: Vec<f64> = weeks.map(|off| off * off).collect();
    let count = f64::from(u32::try_from(squares.len()).unwrap());
    let rms = (squares.iter().sum::<f64>() / count).sqrt();
    println!(
        "weeks of 2015 against normals: {rms:.3} of their reference ET, root of the mean square"
    );
    assert!((0.1..0.22).contains(&rms), "{rms}");
}

/// A lawn that begins in June of 2015.
fn planned(observed: &[DailyWeather], today: Date, normals: Option<Normals>) -> Option<WeekPlan> {
    let mut document = document(normals);
    for zone in &mut document.zones {
        zone.active_from = Some(date(2015, 6, 10));
        zone.initial_depletion_mm = Some(Depth::from_mm(9.0));
    }
    plan_week(&Known::of_record(&document, observed, today)).ok()
}

#[test]
fn a_lawn_without_a_day_of_weather_has_a_plan_by_normals() {
    let normals = normals(&before(2015));
    let first = date(2015, 6, 10);
    assert!(planned(&[], first, None).is_none());
    let plan = planned(&[], first, Some(normals)).unwrap();
    let june = plan.days.iter().filter(|d| d.date >= first);
    let june: Vec<_> = june.collect();
    assert!(june.iter().all(|d| d.et0_from == EtSource::Normals));
    assert!(
        (4.0..6.5).contains(&june[0].et0_mm.mm()),
        "{}",
        june[0].et0_mm.mm()
    );
    assert!(plan.notes.iter().any(|n| matches!(
        n,
        Note::EtAhead {
            by_normals: true,
            ..
        }
    )));
    // Yesterday's weather can still be told; what came before the lawn is not asked for.
    assert!(plan.notes.contains(&Note::WeatherMissing {
        dates: vec![date(2015, 6, 9)],
        last_known: None,
        by_normals: true,
    }));
    // It waters, and says of what lies ahead how likely it is.
    let runs = plan
        .zones
        .iter()
        .flat_map(|z| z.cells.iter().filter_map(|c| c.run.as_ref()));
    let chances: Vec<f64> = runs.map(|run| run.chance_pct).collect();
    assert!(
        chances.iter().any(|pct| (5.0..95.0).contains(pct)),
        "{chances:?}"
    );

    // Two days on, nobody told of the weather: the balance went on, and the days are named.
    let later = planned(&[], date(2015, 6, 12), Some(normals)).unwrap();
    let zone = &later.zones[0];
    assert!(zone.cells[2].depletion_start_mm > plan.zones[0].cells[2].depletion_start_mm);
    assert!(later.notes.contains(&Note::WeatherMissing {
        dates: vec![first, date(2015, 6, 11)],
        last_known: None,
        by_normals: true,
    }));
    assert!(later.days[0].rain_expected && later.days[0].rain_mm.unwrap() > Depth::ZERO);
}

#[test]
fn days_take_the_place_of_normals_as_they_come() {
    let normals = normals(&before(2015));
    let with = document(Some(normals));
    let hot = |on| WeatherDay {
        date: on,
        tmin_c: Some(20.0),
        tmax_c: Some(38.0),
        rain_mm: Some(0.0),
        ..WeatherDay::default()
    };
    let mut days = vec![blank(date(2015, 6, 10))];
    let mut before = 0.0;
    for told in 1..=7_i8 {
        days.push(hot(date(2015, 6, 10 + told)));
        let observed = series(&with, &days, Gaps::filled(&with.site));
        let plan = planned(&observed, date(2015, 6, 11 + told), Some(normals)).unwrap();
        let today = plan.days.iter().find(|d| d.date == plan.today).unwrap();
        // Each hot day moves what is expected, by a seventh.
        assert!(today.et0_mm.mm() > before, "{told}");
        before = today.et0_mm.mm();
        let from = if told < 4 {
            EtSource::Normals
        } else {
            EtSource::RecentMean
        };
        assert_eq!(today.et0_from, from, "{told}");
    }
    let hottest = series(&with, &days[1..], Gaps::Refuse);
    assert!((before - weather::mean_et0(&hottest).mm()).abs() < 1e-9);
}

#[test]
fn a_forecast_without_rain_leaves_it_to_the_normals() {
    let normals = normals(&before(2015));
    let with = document(Some(normals));
    let today = date(2015, 6, 12);
    let forecast = WeatherDay {
        tmin_c: Some(14.0),
        tmax_c: Some(25.0),
        ..blank(today)
    };
    let forecast = series(&with, &[forecast], Gaps::filled(&with.site));
    let ahead: [weather::AheadDay; 2] = weather::ahead(&with.site, &[], &forecast, today);
    assert_eq!(ahead[0].from, weather::EtFrom::Forecast);
    assert_eq!(ahead[0].forecast_rain, None, "not certain, not none");
    // Said to be dry, it is dry.
    let dry = WeatherDay {
        tmin_c: Some(14.0),
        tmax_c: Some(25.0),
        rain_mm: Some(0.0),
        ..blank(today)
    };
    let dry = series(&with, &[dry], Gaps::filled(&with.site));
    let ahead: [weather::AheadDay; 2] = weather::ahead(&with.site, &[], &dry, today);
    assert_eq!(ahead[0].forecast_rain, Some(Depth::ZERO));
}

#[test]
fn rain_that_normals_expect_is_no_rain_of_the_record() {
    let with = document(Some(normals(&before(2015))));
    let wet = WeatherDay {
        tmin_c: Some(12.0),
        tmax_c: Some(20.0),
        rain_mm: Some(8.0),
        ..blank(date(2015, 4, 30))
    };
    let days = [blank(date(2015, 4, 1)), wet.clone()];
    let filled = series(&with, &days, Gaps::filled(&with.site));
    assert_eq!(filled.len(), 30);
    assert_eq!(Climatology::of(&filled), Climatology::of(&filled[29..]));
    // A reading of the gauge on a day without temperatures is rain that fell.
    let read = WeatherDay {
        rain_mm: Some(3.0),
        ..blank(date(2015, 4, 15))
    };
    let filled = series(
        &with,
        &[days[0].clone(), read, wet],
        Gaps::filled(&with.site),
    );
    assert!(!filled[14].rain_expected && filled[14].rain == Depth::from_mm(3.0));
    assert_eq!(Climatology::of(&filled).months().next().unwrap().1, 2);
}
