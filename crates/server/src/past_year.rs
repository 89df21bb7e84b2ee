//! A site's past years of weather, and what its zones would have come to in the last.

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::site::{School, SiteDocument};
use lawn::view::schools::{SchoolComparison, compare_schools};
use lawn::wanted::Wanted;
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use sqlx::PgConnection;

use crate::computing::Failure;
use crate::db::{self, SiteId};

/// Days that are compared at most: a year.
const MOST_DAYS: i64 = 365;

/// What is stored of the weather of a site's last two years: the year, and days from which its gaps are filled.
///
/// # Errors
/// The database.
pub async fn told(
    db: &mut PgConnection,
    site: SiteId,
    today: Date,
) -> sqlx::Result<Vec<WeatherDay>> {
    told_of(db, site, today, 2).await
}

/// What is stored of the weather of a site's last years.
///
/// # Errors
/// The database.
pub async fn told_of(
    db: &mut PgConnection,
    site: SiteId,
    today: Date,
    years: i64,
) -> sqlx::Result<Vec<WeatherDay>> {
    let to = today.saturating_sub(1.day());
    let first = to.saturating_sub((years * MOST_DAYS).days());
    let stored = db::weather::days(db, site, first, to).await?;
    Ok(stored.into_iter().map(|stored| stored.day).collect())
}

/// The days without a gap; none where nothing but rain is known.
#[must_use]
pub fn series(document: &SiteDocument, told: &[WeatherDay]) -> Vec<DailyWeather> {
    let gaps = Gaps::filled(&document.site);
    weather::series(&weather::place(&document.site), told, gaps).unwrap_or_default()
}

/// The last year, or as much as there is, under some schools, each morning without a forecast; `None`: there is no weather yet. Takes its time.
///
/// # Errors
/// Stored input that does not hold.
pub fn under_schools(
    wanted: Wanted<'_>,
    document: &SiteDocument,
    told: &[WeatherDay],
    schools: &[School],
) -> Result<Option<SchoolComparison>, Failure> {
    let record = series(document, told);
    let (Some(begin), Some(end)) = (record.first(), record.last()) else {
        return Ok(None);
    };
    let year = end.date.saturating_sub((MOST_DAYS - 1).days());
    let from = begin.date.max(year);
    let compared = compare_schools(wanted, document, &record, from, end.date, schools)?;
    Ok(Some(compared))
}
