//! What to do about what was seen or measured of the ground, and when: repairs have their season, by the grass (common practice, no source).

use jiff::ToSpan;
use jiff::civil::Date;
use science::turf::Season;
use science::water_drop::Repellency;
use serde::Serialize;
use utoipa::ToSchema;

use crate::measure::seen::{Seen, StoppedBy};

/// Thatch from which cores are pulled, mm: half an inch.
const THICK_THATCH_MM: f64 = 12.7;

/// A piece of advice.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(tag = "advice", rename_all = "snake_case")]
pub enum Advice {
    /// Aerate with cores while the grass grows and closes the holes; before a pre-emergent, not through it.
    Aerate {
        /// First day of the next time for it.
        from: Date,
        /// Last day.
        to: Date,
    },
    /// Time the minutes to the first puddle: the longest pass as measured.
    TimeTheRunoff,
    /// Put drops on dry soil from the spot: does it repel water?
    DropTest,
    /// Look at the heads around, and set out cans.
    CheckTheHeads,
    /// A wetting agent at its label's rate, drenched in; again after drying; weeks, not hours.
    WettingAgent,
    /// Water the driest places first, by hand: the plan has moved.
    WaterByHand,
}

/// What to do about what was seen of a grass of a season at a latitude.
#[must_use]
pub fn about(seen: &Seen, season: Season, latitude: f64, today: Date) -> Vec<Advice> {
    let aerate = aerate(season, latitude, today);
    match *seen {
        Seen::Puddles => vec![Advice::TimeTheRunoff, aerate],
        Seen::Runoff => vec![Advice::TimeTheRunoff],
        Seen::DrySpot => vec![Advice::CheckTheHeads, Advice::DropTest],
        Seen::Thatch { mm } if mm >= THICK_THATCH_MM => vec![aerate],
        Seen::Compaction
        | Seen::Screwdriver {
            stopped: StoppedBy::Hard,
            ..
        } => vec![aerate],
        Seen::Footprints { .. } | Seen::DullColour | Seen::Tips | Seen::Patches => {
            let thirsty = seen.wilt().map(|_| Advice::WaterByHand);
            thirsty.into_iter().collect()
        }
        Seen::Thatch { .. }
        | Seen::Screwdriver { .. }
        | Seen::Moisture(_)
        | Seen::Tug { .. }
        | Seen::Crowns { .. }
        | Seen::Grown { .. } => Vec::new(),
    }
}

/// What to do about ground of a class of repellency.
#[must_use]
pub fn about_repellency(class: Repellency) -> Vec<Advice> {
    match class {
        Repellency::Wettable => Vec::new(),
        Repellency::Slight => vec![Advice::WettingAgent],
        _ => vec![Advice::WettingAgent, Advice::WaterByHand],
    }
}

/// First and last month and day of the times for aeration, in the northern half: cool-season grass in early autumn, or in spring well before the heat;
/// warm-season from late spring to midsummer.
const COOL: [[(i8, i8); 2]; 2] = [[(4, 1), (5, 10)], [(8, 25), (10, 15)]];
const WARM: [[(i8, i8); 2]; 1] = [[(5, 15), (7, 20)]];

/// The time for aeration that a day lies in, or else the next.
fn aerate(season: Season, latitude: f64, today: Date) -> Advice {
    let times: &[[(i8, i8); 2]] = match season {
        Season::Cool => &COOL,
        Season::Warm => &WARM,
    };
    // Half a year later in the south.
    let turned = |month: i8| {
        if latitude < 0.0 {
            (month + 5) % 12 + 1
        } else {
            month
        }
    };
    let on =
        |year: i16, (month, day): (i8, i8)| Date::new(year, turned(month), day).unwrap_or(today);
    let span = |year: i16, [from, to]: [(i8, i8); 2]| {
        let (from, to) = (on(year, from), on(year, to));
        // Over the end of the year.
        let to = if to < from {
            to.saturating_add(1.year())
        } else {
            to
        };
        (from, to)
    };
    let year = today.year();
    let years = [year.saturating_sub(1), year, year.saturating_add(1)];
    let spans = years
        .into_iter()
        .flat_map(|year| times.iter().map(move |time| span(year, *time)));
    let next = spans.filter(|(_, to)| *to >= today).min();
    let (from, to) = next.unwrap_or((today, today));
    Advice::Aerate { from, to }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    fn when(seen: Seen, season: Season, latitude: f64, today: Date) -> (Date, Date) {
        let found = about(&seen, season, latitude, today);
        let aerate = found.into_iter().find_map(|a| match a {
            Advice::Aerate { from, to } => Some((from, to)),
            _ => None,
        });
        aerate.unwrap()
    }

    #[test]
    fn cores_are_pulled_in_the_grasss_own_season() {
        let june = date(2026, 6, 18);
        let (from, to) = when(Seen::Compaction, Season::Cool, 36.4, june);
        assert_eq!((from, to), (date(2026, 8, 25), date(2026, 10, 15)));
        let (from, to) = when(Seen::Puddles, Season::Warm, 36.4, june);
        assert!(from <= june && june <= to);
        let (from, _) = when(Seen::Compaction, Season::Warm, 36.4, date(2026, 9, 1));
        assert_eq!(from, date(2027, 5, 15));
        // South of the equator half a year later.
        let (from, _) = when(Seen::Compaction, Season::Warm, -33.9, june);
        assert_eq!(from, date(2026, 11, 15));
        let (from, to) = when(Seen::Compaction, Season::Cool, -33.9, date(2026, 12, 1));
        assert_eq!((from, to), (date(2027, 2, 25), date(2027, 4, 15)));
    }

    #[test]
    fn thin_thatch_and_dry_soil_ask_for_nothing() {
        let of = |seen| about(&seen, Season::Cool, 36.4, date(2026, 6, 18));
        assert!(of(Seen::Thatch { mm: 8.0 }).is_empty());
        assert_eq!(of(Seen::Thatch { mm: 15.0 }).len(), 1);
        let driver = |stopped| Seen::Screwdriver {
            depth_mm: 60.0,
            stopped,
        };
        assert!(of(driver(StoppedBy::Dry)).is_empty());
        assert_eq!(of(driver(StoppedBy::Hard)).len(), 1);
        assert_eq!(of(Seen::DrySpot), [Advice::CheckTheHeads, Advice::DropTest]);
        assert!(about_repellency(Repellency::Wettable).is_empty());
        assert_eq!(
            about_repellency(Repellency::Severe)[0],
            Advice::WettingAgent
        );
    }
}
