//! Verdict, ledger and warnings of new grass: its surface at a slot, and for how long it is too dry.

use jiff::civil::{Date, DateTime};

use crate::engine::morning;
use crate::engine::schools::Proposal;
use crate::engine::schools::new_grass::{DryBecause, dry_because};
use crate::engine::schools::why::{Because, NewGrass};
use crate::engine::seedbed;
use crate::engine::seedling::Stage;
use crate::engine::surface_day::{SurfaceDay, WORTH_SAYING_SHARE};
use crate::measure::seen::Seen;
use crate::quantity::Depth;
use crate::site::calendar::Interval;
use crate::view::days::{PAST_DAYS, instant};
use crate::view::explain::Account;
use crate::view::ledger::Line;
use crate::view::planned::Planned;
use crate::view::site_view::SiteView;
use crate::view::verdict::{Surface, Verdict, Warning};
use crate::view::week_plan::NewGrassNow;

impl Account<'_> {
    pub(super) fn new_grass_verdict(&self, proposal: &Proposal, why: &NewGrass) -> Verdict {
        let surface = self.surface(why);
        self.barred(proposal).unwrap_or(match why.because {
            Because::Due => Verdict::SurfaceDue(surface),
            _ => Verdict::SurfaceWaits(surface),
        })
    }

    pub(super) fn new_grass_lines(&self, proposal: &Proposal, why: &NewGrass) -> Vec<Line> {
        let mut lines = vec![Line::Surface(self.surface(why))];
        lines.extend(self.decided(proposal));
        lines
    }

    fn surface(&self, why: &NewGrass) -> Surface {
        let local = |at_s: i64| instant(at_s).to_zoned(self.time_zone.clone()).datetime();
        Surface {
            stage: why.stage,
            lacks_mm: why.surface,
            tew_mm: why.tew,
            limit_mm: why.limit,
            driest_mm: why.driest,
            next: why.next.map(|(_, at_s)| local(at_s)),
            every_days: why.every_days,
        }
    }

    /// What to see to where new grass is too dry for some hours of a day, and by more than is worth saying; what was missed is worth it.
    pub(super) fn surface_dry(&self, day: usize) -> Option<Warning> {
        let surface = self.week.balances[day].surface?;
        let hours = self.hours.get(day)?;
        let missed = self.missed.filter(|_| day == 0);
        let since_missed =
            missed.and_then(|at| too_dry_from(&surface, u8::try_from(at.hour()).ok()?));
        if let Some((from_hour, hours)) = since_missed {
            return Some(Warning::SurfaceDry {
                from_hour,
                hours,
                why: DryBecause::Missed,
                rule: None,
            });
        }
        if surface.driest - surface.limit? < surface.tew * WORTH_SAYING_SHARE {
            return None;
        }
        // What is over is over.
        let now_s = self.now_s.filter(|_| day == 0);
        let now = now_s.map_or(0, |at_s| hours.hour_of(at_s));
        let (from_hour, count) = too_dry_from(&surface, u8::try_from(now).unwrap_or(0))?;
        let decided: Vec<Proposal> = self.week.on(day).copied().collect();
        let mut earlier = self.week.proposals.iter().rev();
        let before = earlier.find(|p| p.slot.day < day);
        let why = dry_because(&surface, hours, &decided, before)?;
        let closed = self.calendar[day].closed_by(self.place);
        let rule = closed.filter(|_| why == DryBecause::HoursApart);
        Some(Warning::SurfaceDry {
            from_hour,
            hours: count,
            why,
            rule: rule.and_then(|rule| Some(self.rules.get(rule)?.name.clone())),
        })
    }
}

/// The first hour from an hour on at which new grass is too dry by so much that it is worth saying, and how many there are: the hours that its day shows.
fn too_dry_from(surface: &SurfaceDay, hour: u8) -> Option<(u8, u8)> {
    let mut dry = surface.too_dry();
    dry.retain(|dry| *dry >= hour);
    Some((*dry.first()?, u8::try_from(dry.len()).unwrap_or(24)))
}

/// Days before today on which nobody noted a watering by hand, nor saw how the grass is, if it was too dry on one of them.
fn unnoted_days(of: &Planned, today: Date) -> u32 {
    let Some(seedling) = of.seedling.filter(|_| of.zone.by_hand()) else {
        return 0;
    };
    let seen = of
        .zone
        .seen
        .iter()
        .filter(|kept| matches!(kept.seen, Seen::Grown { .. } | Seen::Tug { .. }));
    let seen = seen.map(|kept| kept.date).filter(|date| *date < today);
    let watered = of
        .past
        .iter()
        .filter(|(_, day)| day.irrigation.gross > Depth::ZERO);
    let told = seen.chain(watered.map(|(date, _)| *date)).max();
    let is_unnoted = |date: Date| date >= seedling.sown_on && told.is_none_or(|told| date > told);
    let unnoted = of.past.iter().filter(|(date, _)| is_unnoted(*date));
    let (days, dry) = unnoted.fold((0, false), |(days, dry), (_, day)| {
        let too_dry = day
            .surface
            .is_some_and(|surface| !surface.too_dry().is_empty());
        (
            days + 1,
            dry || too_dry || seedbed::was_dry(day, of.model.taw),
        )
    });
    if dry { days } else { 0 }
}

impl SiteView<'_> {
    /// How far a zone's new grass has come, and what of it was missed today.
    pub(super) fn new_grass(&self, of: &Planned) -> Option<NewGrassNow> {
        let seedling = of.seedling.filter(|_| of.bed.is_some())?;
        let seed = of.zone.grass.planted();
        let next = Stage::ALL.iter().find(|stage| **stage > seedling.stage);
        Some(NewGrassNow {
            made: seedling.made,
            sown_on: seedling.sown_on,
            stage: seedling.stage,
            since: seedling.since,
            warmth_c_d: seedling.warmth_c_d,
            next_c_d: next.map(|stage| stage.begins_c_d(&seed)),
            cover: seedling.cover(of.zone.grass),
            missed: self.missed(of),
            unnoted_days: unnoted_days(of, self.known.today),
            is_in_doubt: seedling.is_in_doubt,
        })
    }

    /// When a watering by hand was due today that nobody noted.
    pub(super) fn missed(&self, of: &Planned) -> Option<DateTime> {
        let now_s = self.known.now?.as_second();
        if !of.zone.by_hand() {
            return None;
        }
        let today = &self.slotted[PAST_DAYS];
        let windows = today.windows.iter().enumerate();
        let own = windows.filter(|(window, _)| !today.bars(*window, of.place));
        let (past, next): (Vec<Interval>, Vec<Interval>) =
            own.map(|(_, w)| *w).partition(|w| w.end_s <= now_s);
        let beds = morning::beds(of.bed?, of.model, self.weather, self.hours);
        let missed = beds.missed(of.depletion, &past, next.first().map(|w| w.start_s))?;
        Some(instant(missed).to_zoned(self.time_zone.clone()).datetime())
    }
}
