//! Forecasts as they were issued, kept: what each morning of a past stretch could know.

use std::collections::BTreeMap;

use jiff::ToSpan;
use jiff::civil::Date;
use science::reference_et::Place;

use super::file::File;
use super::{BEFORE_DAYS, DailyWeather, Error, Gaps, WeatherDay, continued};

/// Days after which a forecast is no longer used.
pub const OLDEST_DAYS: i64 = 3;

/// Forecasts by the day of their issue.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Issued {
    by_issue: BTreeMap<Date, Vec<WeatherDay>>,
}

impl Issued {
    /// Of the rows of a file that was read by [`super::file::read_issued`].
    #[must_use]
    pub fn of_file(file: &File) -> Self {
        let rows = file.rows.iter();
        let mut all = Self::default();
        for (issued, day) in rows.filter_map(|row| Some((row.issued?, &row.day))) {
            all.add(issued, day.clone());
        }
        all
    }

    /// Adds a day of an issue.
    pub fn add(&mut self, issued: Date, day: WeatherDay) {
        self.by_issue.entry(issued).or_default().push(day);
    }

    /// What a morning knows of the days from it on: of the newest issue of that day, or of at most three days before, the rows from that day on,
    /// as a series that goes on from what was observed. Nothing without one.
    ///
    /// # Errors
    /// [`Error::Day`]: figures that contradict each other.
    pub fn on(
        &self,
        morning: Date,
        place: &Place,
        observed: &[DailyWeather],
    ) -> Result<Vec<DailyWeather>, Error> {
        let oldest = morning.saturating_sub(OLDEST_DAYS.days());
        let Some((_, rows)) = self.by_issue.range(oldest..=morning).next_back() else {
            return Ok(Vec::new());
        };
        let rows: Vec<WeatherDay> = rows.iter().filter(|d| d.date >= morning).cloned().collect();
        if rows.is_empty() {
            return Ok(Vec::new());
        }
        let before = &observed[observed.len().saturating_sub(BEFORE_DAYS)..];
        let mut days = continued(place, before, &rows, Gaps::Fill)?;
        days.retain(|d| d.date >= morning);
        Ok(days)
    }
}
