//! Verdict, ledger and warnings of new grass: its surface at a slot, and for how long it is too dry.

use crate::engine::schools::Proposal;
use crate::engine::schools::new_grass::{DryBecause, dry_because};
use crate::engine::schools::why::{Because, NewGrass};
use crate::view::days::instant;
use crate::view::explain::Account;
use crate::view::ledger::Line;
use crate::view::verdict::{Surface, Verdict, Warning};

impl Account<'_> {
    pub(super) fn new_grass_verdict(&self, proposal: &Proposal, why: &NewGrass) -> Verdict {
        let surface = surface(why);
        self.barred(proposal).unwrap_or(match why.because {
            Because::Due => Verdict::SurfaceDue(surface),
            _ => Verdict::SurfaceWaits(surface),
        })
    }

    pub(super) fn new_grass_lines(&self, proposal: &Proposal, why: &NewGrass) -> Vec<Line> {
        let mut lines = vec![Line::Surface(surface(why))];
        lines.extend(self.decided(proposal));
        lines
    }

    /// What to see to where new grass is too dry for some hours of a day.
    pub(super) fn surface_dry(&self, day: usize) -> Option<Warning> {
        let surface = self.week.balances[day].surface?;
        let hours = self.hours.get(day)?;
        let decided: Vec<Proposal> = self.week.on(day).copied().collect();
        let earlier = self.week.proposals.iter().rev();
        let before = earlier.clone().find(|p| p.slot.day < day);
        let why = dry_because(&surface, hours, &decided, before)?;
        let closed = self.calendar[day].closed_by(self.place);
        let rule = closed.filter(|_| why == DryBecause::HoursApart);
        Some(Warning::SurfaceDry {
            from_hour: surface.dry_from?,
            hours: surface.dry_hours,
            why,
            rule: rule.and_then(|rule| Some(self.rules.get(rule)?.name.clone())),
        })
    }
}

fn surface(why: &NewGrass) -> Surface {
    Surface {
        stage: why.stage,
        lacks_mm: why.surface,
        tew_mm: why.tew,
        limit_mm: why.limit,
        driest_mm: why.driest,
        next: why.next.map(|(_, at)| instant(at)),
        every_days: why.every_days,
    }
}
