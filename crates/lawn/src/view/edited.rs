//! What has become harmful of a person's change of the plan: it is pointed out, never dropped.

use crate::engine::schools::Proposal;
use crate::engine::slot::Standing;
use crate::quantity::Depth;
use crate::record::edit::Becomes;
use crate::view::explain::Account;
use crate::view::verdict::Warning;

/// Less than this below the roots is not worth pointing out (no source).
const WORTH_SAYING: Depth = Depth::from_mm(2.0);

impl Account<'_> {
    /// What is wrong by now with what a person set for a day.
    pub(super) fn edit_harms(&self, day: usize) -> Option<Warning> {
        let Some(Becomes::Set { .. }) = self.edited.get(day)? else {
            return None;
        };
        let set = self.week.on(day);
        let mut set = set.filter(|p| matches!(p.slot.standing, Standing::Fixed(_)));
        let Some(proposal) = set.next() else {
            return Some(Warning::EditHasNoHours);
        };
        fixed_drains(proposal).map(|drains_mm| Warning::EditDrains { drains_mm })
    }
}

/// What of a fixed watering would drain below the roots; `None`: it is not fixed, or nothing worth pointing out would.
pub(super) fn fixed_drains(proposal: &Proposal) -> Option<Depth> {
    if !matches!(proposal.slot.standing, Standing::Fixed(_)) {
        return None;
    }
    let net = proposal.dose().map_or(Depth::ZERO, |d| d.irrigation.net);
    let drains = net - proposal.depletion;
    (drains >= WORTH_SAYING).then_some(drains)
}
