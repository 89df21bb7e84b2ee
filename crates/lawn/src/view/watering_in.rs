//! What was put down and is to be watered in: where it is, and why it is not.

use crate::engine::schools::Proposal;
use crate::engine::skip::Skip;
use crate::engine::slot::Standing;
use crate::quantity::Depth;
use crate::record::asked::Asked;
use crate::view::explain::{Account, WORTH_SAYING};
use crate::view::verdict::{NotWateredIn, Warning};

impl Account<'_> {
    /// What is to be watered in at a slot, as far as it is.
    pub(super) fn watered_in(&self, proposal: &Proposal) -> Option<&Asked> {
        let day = proposal.slot.day;
        if self.edited.get(day).is_some_and(Option::is_some) {
            return None;
        }
        let mut asked = self.asked.iter();
        asked.find(|a| a.net > Depth::ZERO && a.openings.contains(&proposal.slot.opening))
    }

    /// What of the water that is asked in by a day does not get there, and why.
    pub(super) fn not_watered_in(&self, day: usize) -> impl Iterator<Item = Warning> {
        let ends_on = move |asked: &&Asked| asked.by.date() == self.date(day);
        self.asked.iter().filter(ends_on).filter_map(|asked| {
            let at = asked.openings.iter().filter_map(|o| self.week.at(*o));
            let (mut given, mut forbidden, mut open) = (Depth::ZERO, None, false);
            for proposal in at {
                open = true;
                match (&proposal.slot.standing, proposal.dose()) {
                    (Standing::Fixed(_), Some(dose)) => given += dose.irrigation.net,
                    (Standing::Forbidden(skip), _) => forbidden = Some(*skip),
                    _ => {}
                }
            }
            let short_mm = asked.net - given;
            if short_mm < WORTH_SAYING || matches!(forbidden, Some(Skip::Rained { .. })) {
                return None;
            }
            let because = match forbidden {
                _ if !self.planned => NotWateredIn::NotPlanned,
                Some(skip) => NotWateredIn::Forbidden { skip },
                None if open => NotWateredIn::NoRoom,
                None if asked.openings.is_empty() => NotWateredIn::NoHours,
                None => NotWateredIn::Closed,
            };
            Some(Warning::NotWateredIn {
                by: asked.by,
                short_mm,
                because,
            })
        })
    }
}
