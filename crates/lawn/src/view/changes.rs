//! What a plan changes against an earlier one, day by day: nothing changes behind a person's back.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::quantity::Depth;
use crate::record::programme::{Expected, Programme};
use crate::site::Regime;
use crate::view::ledger::Line;
use crate::view::plan::Plan;

/// A change of one zone's watering. Why is in the newer plan's reasons of the day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "change", rename_all = "snake_case")]
pub enum Change {
    /// It waters on a day on which it would not have.
    Added {
        /// The zone's identifier.
        zone: String,
        /// The day.
        date: Date,
        /// How long.
        run_s: i64,
    },
    /// It no longer waters on a day.
    Dropped {
        /// The zone's identifier.
        zone: String,
        /// The day.
        date: Date,
        /// How long it would have.
        run_s: i64,
    },
    /// Its one watering moved to another day.
    Moved {
        /// The zone's identifier.
        zone: String,
        /// The day before.
        from: Date,
        /// The day now.
        to: Date,
        /// How long now.
        run_s: i64,
    },
    /// It waters longer or shorter, or in more or fewer passes.
    Minutes {
        /// The zone's identifier.
        zone: String,
        /// The day.
        date: Date,
        /// How long before.
        from_s: i64,
        /// How long now.
        to_s: i64,
        /// In how many passes before; `None` in changes written before passes were kept.
        #[serde(default)]
        from_passes: Option<u32>,
        /// In how many passes now.
        #[serde(default)]
        to_passes: Option<u32>,
    },
}

/// Two programmes of a site, an earlier one and a later one.
#[derive(Debug, Clone, Copy)]
pub struct Between<'a> {
    /// The earlier.
    pub before: &'a Programme,
    /// The later.
    pub after: &'a Programme,
    /// The day on which the later was made.
    pub today: Date,
    /// The zones in the site's order.
    pub zones: &'a [String],
    /// Those in which water ran today: that is no change of the plan.
    pub ran: &'a [String],
}

impl Between<'_> {
    /// Changes on the days that both cover and that are not over: by zone in the site's order, then by day. A zone that the earlier one did
    /// not know has none.
    #[must_use]
    pub fn changes(&self) -> Vec<Change> {
        let zones = self.zones.iter();
        zones
            .filter(|zone| self.before.knows(zone) && self.after.knows(zone))
            .flat_map(|zone| self.of_zone(zone))
            .collect()
    }

    fn of_zone(&self, zone: &String) -> Vec<Change> {
        let (mut found, mut added, mut dropped) = (Vec::new(), Vec::new(), Vec::new());
        let last = self.before.days.last().map_or(self.today, |d| d.date);
        for day in &self.after.days {
            let date = day.date;
            let ran = date == self.today && self.ran.contains(zone);
            if date < self.today || date > last || ran {
                continue;
            }
            let runs = |programme: &Programme| programme.runs_on(zone, date);
            let zone = zone.clone();
            match (runs(self.before), runs(self.after)) {
                (None, Some((run_s, _))) => added.push(Change::Added { zone, date, run_s }),
                (Some((run_s, _)), None) => dropped.push(Change::Dropped { zone, date, run_s }),
                (Some(from), Some(to)) if from != to => found.push(Change::Minutes {
                    zone,
                    date,
                    from_s: from.0,
                    to_s: to.0,
                    from_passes: Some(from.1),
                    to_passes: Some(to.1),
                }),
                _ => {}
            }
        }
        put_together(zone, found, added, dropped)
    }
}

/// One day added and one dropped is a watering that moved.
fn put_together(
    zone: &str,
    mut found: Vec<Change>,
    added: Vec<Change>,
    dropped: Vec<Change>,
) -> Vec<Change> {
    if let (
        [
            Change::Added {
                date: to, run_s, ..
            },
        ],
        [Change::Dropped { date: from, .. }],
    ) = (added.as_slice(), dropped.as_slice())
    {
        found.push(Change::Moved {
            zone: zone.to_owned(),
            from: *from,
            to: *to,
            run_s: *run_s,
        });
    } else {
        found.extend(added);
        found.extend(dropped);
    }
    found.sort_by_key(Change::date);
    found
}

impl Change {
    /// The zone that it is about.
    #[must_use]
    pub fn zone(&self) -> &str {
        match self {
            Self::Added { zone, .. }
            | Self::Dropped { zone, .. }
            | Self::Moved { zone, .. }
            | Self::Minutes { zone, .. } => zone,
        }
    }

    /// The day it is about; where it moved, the day now.
    #[must_use]
    pub const fn date(&self) -> Date {
        match self {
            Self::Added { date, .. } | Self::Dropped { date, .. } | Self::Minutes { date, .. } => {
                *date
            }
            Self::Moved { to, .. } => *to,
        }
    }
}

/// What may have brought a change about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "cause", rename_all = "snake_case")]
pub enum Cause {
    /// Rain that fell on the days since the earlier plan, and what it had expected of them.
    Rained {
        /// What fell.
        rain_mm: Depth,
        /// What was expected.
        expected_mm: Depth,
    },
    /// The days ahead that both plans cover are expected to bring another amount of rain.
    Forecast {
        /// What the earlier plan expected.
        from_mm: Depth,
        /// What is expected now.
        to_mm: Depth,
    },
    /// The grass is expected to use another amount on those days.
    ReferenceEt {
        /// Sum of reference ET before.
        from_mm: Depth,
        /// Sum now.
        to_mm: Depth,
    },
    /// Somebody read the gauge.
    GaugeRead {
        /// The day on which it fell.
        date: Date,
        /// How much.
        rain_mm: f64,
    },
    /// Somebody said what became of a run of the zone.
    RunSaid {
        /// Its day.
        date: Date,
        /// `confirmed`, `denied` or `changed`; `taken_back` where such a word was.
        answer: String,
    },
    /// Somebody watered the zone by hand or hose.
    WateredByHand {
        /// The day.
        date: Date,
    },
    /// The zone's settings were changed.
    ZoneChanged,
    /// The site's hours, supply or place were changed.
    SiteChanged,
    /// The site's local rules were changed.
    RulesChanged,
    /// The zone's soil was tested.
    SoilTested,
    /// Something was seen of the zone, or read off a probe.
    Seen,
    /// The zone's sprinklers were tested.
    Tested,
    /// Somebody changed a day of the zone in the plan, or no longer.
    DayEdited {
        /// The day.
        date: Date,
    },
    /// The controller did not run all that was published.
    PassesMissed {
        /// The day.
        date: Date,
    },
    /// Somebody asks something of the zone for some hours, or no longer.
    HoursAsked,
    /// Somebody keeps the zone dry on a day, or no longer.
    DryDay {
        /// The day.
        date: Date,
    },
    /// Weather of past days was imported or chosen anew.
    WeatherChanged,
    /// Runs were imported from a file.
    RunsImported,
    /// The zone was let go, wakes, or is kept green.
    RegimeTurned {
        /// How it is watered since.
        regime: Regime,
    },
    /// Nothing of the zone's own: other zones leave it another time.
    OtherZones,
}

/// Something that a person did since the earlier plan; `zone`: the name of the one that it is about, none: the whole site.
#[derive(Debug, Clone, PartialEq)]
pub struct Deed {
    /// The zone's name.
    pub zone: Option<String>,
    /// What it may have brought about.
    pub cause: Cause,
}

/// What changed for a zone, and why.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ZoneChanges {
    /// The zone's identifier.
    pub zone: String,
    /// What changed, by day.
    pub changes: Vec<Change>,
    /// What may have brought it about, the zone's own first.
    pub causes: Vec<Cause>,
}

/// Sums of rain or reference ET that differ by less than this are no cause, mm.
const WORTH_SAYING_MM: f64 = 1.0;

/// [`Between::changes`] by zone, each with its causes: what people did since, rain that fell, and what the days ahead are expected to bring.
#[must_use]
pub fn changes_with_causes(before: &Programme, after: &Plan, deeds: &[Deed]) -> Vec<ZoneChanges> {
    let week = &after.week;
    let ids: Vec<String> = week.zones.iter().map(|z| z.zone.clone()).collect();
    let ran = week.zones.iter().filter(|zone| {
        let today = zone.cells.iter().find(|c| c.date == week.today);
        today.is_some_and(|c| c.ledger.iter().any(|l| matches!(l, Line::Ran { .. })))
    });
    let ran: Vec<String> = ran.map(|z| z.zone.clone()).collect();
    let between = Between {
        before,
        after: &after.programme,
        today: week.today,
        zones: &ids,
        ran: &ran,
    };
    let mut by_zone: Vec<ZoneChanges> = Vec::new();
    for change in between.changes() {
        let zone = change.zone();
        match by_zone.last_mut().filter(|z| z.zone == zone) {
            Some(of_zone) => of_zone.changes.push(change),
            None => by_zone.push(ZoneChanges {
                zone: zone.to_owned(),
                changes: vec![change],
                causes: Vec::new(),
            }),
        }
    }
    let weather = weather_causes(before, after);
    for of_zone in &mut by_zone {
        let name = week
            .zones
            .iter()
            .find(|z| z.zone == of_zone.zone)
            .map(|z| z.name.as_str());
        let own = deeds
            .iter()
            .filter(|d| d.zone.as_deref().is_none_or(|zone| Some(zone) == name));
        for cause in own.map(|d| &d.cause).chain(&weather) {
            if !of_zone.causes.contains(cause) {
                of_zone.causes.push(cause.clone());
            }
        }
        if of_zone.causes.is_empty() {
            of_zone.causes.push(Cause::OtherZones);
        }
    }
    by_zone
}

fn weather_causes(before: &Programme, after: &Plan) -> Vec<Cause> {
    let differs = |a: Depth, b: Depth| (a - b).mm().abs() >= WORTH_SAYING_MM;
    let was = |date: Date| before.days.iter().find(|day| day.date == date);
    let mut causes = Vec::new();
    let days = after.week.days.iter();
    let fell: Vec<(Depth, Depth)> = days
        .filter_map(|day| Some((was(day.date)?.rain, day.rain_mm?)))
        .collect();
    let expected_mm: Depth = fell.iter().map(|(expected, _)| *expected).sum();
    let rain_mm: Depth = fell.iter().map(|(_, fell)| *fell).sum();
    if differs(rain_mm, expected_mm) {
        causes.push(Cause::Rained {
            rain_mm,
            expected_mm,
        });
    }
    let ahead = after.programme.days.iter();
    let both: Vec<(&Expected, &Expected)> = ahead
        .filter_map(|day| Some((was(day.date)?, day)))
        .collect();
    let sums = |of: fn(&Expected) -> Depth| -> (Depth, Depth) {
        (
            both.iter().map(|(was, _)| of(was)).sum(),
            both.iter().map(|(_, is)| of(is)).sum(),
        )
    };
    let (from_mm, to_mm) = sums(|day| day.rain);
    if differs(from_mm, to_mm) {
        causes.push(Cause::Forecast { from_mm, to_mm });
    }
    let (from_mm, to_mm) = sums(|day| day.et0);
    if differs(from_mm, to_mm) {
        causes.push(Cause::ReferenceEt { from_mm, to_mm });
    }
    causes
}
