//! A wet check: a walk with each zone on for two minutes, to see what no dry walk shows. When the next is due (common practice, no source).

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How long each zone is on, min.
pub const MINUTES: u32 = 2;
/// Days from a wet check to the next, in the season.
const EVERY_DAYS: i32 = 30;
/// Days after the last watering for which it is still the season.
const SEASON_DAYS: i32 = 30;

/// Why a wet check is due.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "why", rename_all = "snake_case")]
#[schema(as = WetCheckDue)]
pub enum Due {
    /// None was done yet.
    First,
    /// The last is a month ago.
    Month {
        /// When it was.
        last: Date,
    },
    /// Heads that a mower may have hit were noted since.
    Mowing {
        /// When the last of them was.
        noted: Date,
    },
}

fn days(from: Date, to: Date) -> i32 {
    from.until(to).map_or(0, |span| span.get_days())
}

/// Whether a wet check is due: monthly in the season, and after heads that a mower may have hit. `last`: the last one; `watered`: the last day on which any zone was watered;
/// `hit`: the last day on which such a head was noted.
#[must_use]
pub fn due(
    today: Date,
    last: Option<Date>,
    watered: Option<Date>,
    hit: Option<Date>,
) -> Option<Due> {
    let in_season = watered.is_some_and(|day| days(day, today) <= SEASON_DAYS);
    if !in_season {
        return None;
    }
    let Some(last) = last else {
        return Some(Due::First);
    };
    match hit.filter(|noted| *noted > last) {
        Some(noted) => Some(Due::Mowing { noted }),
        None => (days(last, today) >= EVERY_DAYS).then_some(Due::Month { last }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    #[test]
    fn monthly_in_the_season_and_after_the_mower() {
        let today = date(2026, 6, 18);
        let may = |d| Some(date(2026, 5, d));
        let june = |d| Some(date(2026, 6, d));
        assert_eq!(due(today, None, june(15), None), Some(Due::First));
        assert_eq!(due(today, None, None, None), None, "nothing is watered");
        assert_eq!(
            due(today, None, may(18), None),
            None,
            "a month without water"
        );
        assert_eq!(due(today, may(20), june(15), None), None);
        let month = Due::Month {
            last: date(2026, 5, 19),
        };
        assert_eq!(due(today, may(19), june(15), None), Some(month));
        assert_eq!(due(today, june(10), june(15), june(10)), None, "seen then");
        let mowing = Due::Mowing {
            noted: date(2026, 6, 12),
        };
        assert_eq!(due(today, june(10), june(15), june(12)), Some(mowing));
    }
}
