//! What a flow meter's findings come to today: the last of each kind and zone, with the water of the last week that it explains, the most water first.

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use serde::Serialize;
use utoipa::ToSchema;

use crate::quantity::Volume;
use crate::record::flow_watch::Named;
use crate::record::watching::WatchedDay;

/// Days for which what happened once is told (no source).
const TOLD_DAYS: i64 = 2;
/// Days for which a zone that takes more or less, and has not run since, is told; and a rate that is not what the plan takes it to be (no source).
const SHIFT_DAYS: i64 = 30;
/// Days over which the water of a finding is summed.
const WEEK_DAYS: i64 = 7;

/// A finding that stands.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[schema(as = StandingFinding)]
pub struct Standing {
    /// What, as it was last named.
    pub named: Named,
    /// Since when.
    pub since: Timestamp,
    /// Water of the last seven days that it explains, L; below 0: what is missing.
    pub litres_a_week: Volume,
}

impl Named {
    /// The zone that it is about, by its place in the site's list.
    #[must_use]
    pub const fn zone(&self) -> Option<usize> {
        match self {
            Self::Leak { .. } | Self::ByHand { .. } => None,
            Self::MoreThanNormal { zone, .. }
            | Self::LessThanNormal { zone, .. }
            | Self::DidNotRun { zone }
            | Self::StaysOpen { zone, .. }
            | Self::WrongRate { zone, .. } => Some(*zone),
        }
    }

    /// Whether it is the same of the same zone, whatever its figures.
    #[must_use]
    pub fn is_alike(&self, other: &Self) -> bool {
        std::mem::discriminant(self) == std::mem::discriminant(other) && self.zone() == other.zone()
    }
}

/// What stands today of the days that were watched, in time order. Of a meter that fell silent a leak stands no longer than what happened once.
#[must_use]
pub fn standing(days: &[WatchedDay], today: Date) -> Vec<Standing> {
    let mut standing: Vec<Standing> = Vec::new();
    for (i, day) in days.iter().enumerate().rev() {
        for finding in &day.found {
            let named = finding.named;
            if standing.iter().any(|s| s.named.is_alike(&named))
                || !stands(&named, day.date, today, &days[i + 1..])
            {
                continue;
            }
            let since_day = today.saturating_sub((WEEK_DAYS - 1).days());
            let week = days.iter().filter(|d| d.date >= since_day);
            let alike = week
                .flat_map(|d| &d.found)
                .filter(|f| f.named.is_alike(&named));
            standing.push(Standing {
                named,
                since: finding.since,
                litres_a_week: Volume::from_l(alike.map(|f| f.litres.l()).sum()),
            });
        }
    }
    standing.sort_by(|a, b| {
        let size = |s: &Standing| s.litres_a_week.l().abs();
        size(b).total_cmp(&size(a))
    });
    standing
}

/// Whether what was named on a day still stands, by the days after it.
fn stands(named: &Named, date: Date, today: Date, later: &[WatchedDay]) -> bool {
    let within = |days: i64| date >= today.saturating_sub((days - 1).days());
    let told_anew = |zone: &usize| later.iter().any(|day| day.told_anew.contains(zone));
    match named {
        // A leak that is not named again counts as repaired.
        Named::Leak { .. } => !later.iter().any(|day| day.heard_min > 0) && within(TOLD_DAYS),
        // A zone that ran again and was not named is as it was.
        Named::MoreThanNormal { zone, .. } | Named::LessThanNormal { zone, .. } => {
            within(SHIFT_DAYS)
                && !told_anew(zone)
                && !later.iter().any(|day| day.ran.contains(zone))
        }
        Named::DidNotRun { .. } | Named::StaysOpen { .. } | Named::ByHand { .. } => {
            within(TOLD_DAYS)
        }
        Named::WrongRate { zone, .. } => within(SHIFT_DAYS) && !told_anew(zone),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::flow_watch::FlowFinding;
    use jiff::civil::date;

    fn day(d: i8, ran: &[usize], found: &[(Named, f64)]) -> WatchedDay {
        let date = date(2026, 6, d);
        WatchedDay {
            date,
            ran: ran.to_vec(),
            heard_min: 1440,
            found: (found.iter())
                .map(|(named, litres)| FlowFinding {
                    named: *named,
                    since: date.in_tz("UTC").unwrap().timestamp(),
                    litres: Volume::from_l(*litres),
                })
                .collect(),
            ..WatchedDay::default()
        }
    }

    const LEAK: Named = Named::Leak {
        litres_an_hour: 50.0,
    };

    fn more(zone: usize) -> Named {
        Named::MoreThanNormal {
            zone,
            normal_l_min: 30.0,
            now_l_min: 40.0,
        }
    }

    #[test]
    fn the_last_of_each_stands_until_the_zone_runs_well_or_the_leak_is_mended() {
        let days = [
            day(10, &[0, 1], &[(more(0), 100.0), (more(1), 60.0)]),
            day(11, &[], &[(LEAK, 1200.0)]),
            // Zone 1 ran as usual.
            day(12, &[1], &[(LEAK, 1200.0)]),
        ];
        let found = standing(&days, date(2026, 6, 12));
        let named: Vec<(Option<usize>, f64)> = found
            .iter()
            .map(|s| (s.named.zone(), s.litres_a_week.l()))
            .collect();
        assert_eq!(
            named,
            [(None, 2400.0), (Some(0), 100.0)],
            "the most water first"
        );
        let mended = [&days[..], &[day(13, &[], &[])]].concat();
        assert_eq!(standing(&mended, date(2026, 6, 13)).len(), 1);
        assert_eq!(standing(&[], date(2026, 6, 13)), []);
        // Not heard any more: the leak is not told for ever.
        let silent = |d| standing(&days, date(2026, 6, d)).len();
        assert_eq!([silent(13), silent(14), silent(30)], [2, 1, 1]);
        assert_eq!(standing(&days, date(2026, 7, 20)), []);
    }

    #[test]
    fn what_happened_once_is_told_for_two_days() {
        let hose = Named::ByHand { minutes: 20 };
        let shut = Named::DidNotRun { zone: 2 };
        let mut days = vec![
            day(10, &[2], &[(hose, 300.0), (shut, -900.0)]),
            day(11, &[], &[]),
        ];
        let found = standing(&days, date(2026, 6, 11));
        assert_eq!((found[0].named, found[1].named), (shut, hose));
        days.push(day(12, &[], &[]));
        assert_eq!(standing(&days, date(2026, 6, 12)), []);
    }
}
