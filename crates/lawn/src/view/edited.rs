//! What has become harmful of a person's change of the plan: it is pointed out, never dropped.

use crate::engine::schools::Proposal;
use crate::engine::skip::frost;
use crate::engine::slot::Standing;
use crate::quantity::Depth;
use crate::record::edit::Becomes;
use crate::view::explain::Account;
use crate::view::verdict::Warning;

/// Less than this below the roots is not worth pointing out (no source).
const WORTH_SAYING: Depth = Depth::from_mm(2.0);

impl Account<'_> {
    /// What is wrong by now with what a person set for a day.
    pub(super) fn edit_harms(&self, day: usize) -> Vec<Warning> {
        let Some(Some(Becomes::Set { .. })) = self.edited.get(day) else {
            return Vec::new();
        };
        let set = self.week.on(day);
        let mut set = set.filter(|p| matches!(p.slot.standing, Standing::Fixed(_)));
        let Some(proposal) = set.next() else {
            return vec![Warning::EditHasNoHours];
        };
        let freezes = frost(&self.days[day].weather).map(|tmin_c| Warning::EditFreezes { tmin_c });
        let drains = fixed_drains(proposal).map(|drains_mm| Warning::EditDrains { drains_mm });
        freezes.into_iter().chain(drains).collect()
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
