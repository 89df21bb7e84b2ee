//! How a site stands against its caps: what was used of the month or year, and what it comes to by its end on the record's own weather.

use std::ops::RangeInclusive;

use jiff::ToSpan;
use jiff::civil::{Date, date};
use serde::Serialize;
use utoipa::ToSchema;

use crate::days::in_year;
use crate::engine::replay::{Error, Foresight, replay_while};
use crate::quantity::Volume;
use crate::record::waterings::Ran;
use crate::site::SiteDocument;
use crate::site::cap::{Cap, Per, Says};
use crate::wanted::Wanted;
use crate::weather::{DailyWeather, past_years};

/// Days before the present one from which a past year is followed, so that the soil is as dry as it would have been (no source).
const FOLLOWED_FROM: i64 = 45;

/// What a period comes to by its end, by the past years of the record.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[schema(as = CapOutlook)]
pub struct Outlook {
    /// In the year that asked for the least, L.
    pub low_l: Volume,
    /// In the middle one, L.
    pub middle_l: Volume,
    /// In the year that asked for the most, L.
    pub high_l: Volume,
    /// How many years.
    pub years: u32,
}

/// How a site stands against a cap.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = CapStanding)]
pub struct Standing {
    /// What people call it.
    pub name: String,
    /// First day that counts.
    pub from: Date,
    /// Last day that counts.
    pub to: Date,
    /// What is allowed, L; `None`: nothing is known of the base year.
    pub allowed_l: Option<Volume>,
    /// What ran since the first day, L.
    pub used_l: Volume,
    /// What it comes to by the last day; `None`: the record has no whole past year of these days.
    pub outlook: Option<Outlook>,
}

/// The days over which a cap counts a day.
fn counted(cap: &Cap, today: Date) -> RangeInclusive<Date> {
    let (first, last) = match cap.says {
        Says::Volume { per: Per::Year, .. } => {
            (date(today.year(), 1, 1), date(today.year(), 12, 31))
        }
        Says::Volume { .. } | Says::Cut { .. } => (today.first_of_month(), today.last_of_month()),
    };
    first.max(cap.from)..=cap.to.map_or(last, |to| last.min(to))
}

/// The days whose runs are needed for a site's caps: those that count, and their base years'.
#[must_use]
pub fn needed(caps: &[Cap], today: Date) -> Vec<RangeInclusive<Date>> {
    let held = caps.iter().filter(|cap| cap.holds(today));
    held.flat_map(|cap| {
        let days = counted(cap, today);
        let base = base_days(cap, &days);
        std::iter::once(days).chain(base)
    })
    .collect()
}

fn base_days(cap: &Cap, days: &RangeInclusive<Date>) -> Option<RangeInclusive<Date>> {
    let Says::Cut { base_year, .. } = cap.says else {
        return None;
    };
    Some(in_year(*days.start(), base_year)?..=in_year(*days.end(), base_year)?)
}

/// How a site stands against the caps that hold on a day. `ran`: runs of the days that are [`needed`]; `first_run`: the first day of which any run is known; `record`:
/// the site's weather, contiguous.
///
/// # Errors
/// As [`replay_while`].
pub fn against_caps(
    wanted: Wanted<'_>,
    document: &SiteDocument,
    today: Date,
    ran: &Ran,
    first_run: Option<Date>,
    record: &[DailyWeather],
) -> Result<Vec<Standing>, Error> {
    let held = document.caps.iter().filter(|cap| cap.holds(today));
    held.map(|cap| {
        let days = counted(cap, today);
        let used_l = ran.on(&days);
        let allowed_l = match cap.says {
            Says::Volume { cap_m3, .. } => Some(Volume::from_l(1000.0 * cap_m3)),
            Says::Cut { cut_pct, .. } => base_days(cap, &days)
                .filter(|base| first_run.is_some_and(|first| first <= *base.start()))
                .map(|base| Volume::from_l(ran.on(&base).l() * (1.0 - cut_pct / 100.0))),
        };
        let more = to_come(wanted, document, today, *days.end(), record)?;
        Ok(Standing {
            name: cap.name.clone(),
            from: *days.start(),
            to: *days.end(),
            allowed_l,
            used_l,
            outlook: outlook(used_l, more),
        })
    })
    .collect()
}

fn outlook(used: Volume, mut more: Vec<f64>) -> Option<Outlook> {
    more.sort_by(f64::total_cmp);
    let of = |litres: &f64| Volume::from_l(used.l() + litres);
    Some(Outlook {
        low_l: of(more.first()?),
        middle_l: of(more.get(more.len() / 2)?),
        high_l: of(more.last()?),
        years: u32::try_from(more.len()).unwrap_or(u32::MAX),
    })
}

/// What the site would be given from tomorrow to a last day in each past year's weather, plain refills, as it is set today, L.
fn to_come(
    wanted: Wanted<'_>,
    document: &SiteDocument,
    today: Date,
    last: Date,
    record: &[DailyWeather],
) -> Result<Vec<f64>, Error> {
    let from = today.saturating_sub(FOLLOWED_FROM.days());
    let mut litres = Vec::new();
    for (_, moved) in past_years::on_days(record, from..=last) {
        let rows = replay_while(wanted, document, &moved, from, last, Foresight::Refills)?;
        let area = |id: &str| {
            document
                .zones
                .iter()
                .find(|zone| zone.id == id)
                .map(|zone| zone.area_m2)
        };
        let to_come = rows.iter().filter(|row| row.date > today);
        let volumes =
            to_come.filter_map(|row| Some((row.balance.irrigation.gross * area(row.zone)?).l()));
        litres.push(volumes.sum());
    }
    Ok(litres)
}
