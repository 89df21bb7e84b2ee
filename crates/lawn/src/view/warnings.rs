//! What a person should see to on a day of the plan, whatever is decided.

use science::water_drop::Repellency;

use crate::engine::root_zone::DayBalance;
use crate::engine::schools::Proposal;
use crate::engine::schools::why::Because;
use crate::quantity::Depth;
use crate::view::explain::{Account, WORTH_SAYING, more_l};
use crate::view::verdict::Warning;

impl Account<'_> {
    /// What a person should see to, whatever is decided.
    pub(crate) fn warnings(&self, day: usize) -> Vec<Warning> {
        let mut warnings: Vec<Warning> = self.not_watered_in(day).collect();
        warnings.extend(self.edit_harms(day));
        for proposal in self.week.on(day) {
            if let Some(dose) = proposal
                .dose()
                .filter(|d| d.irrigation.runoff > Depth::ZERO)
            {
                warnings.push(Warning::RunsOff {
                    runoff_mm: dose.irrigation.runoff,
                });
            }
            if let Some(rationed) = self.rationed(proposal) {
                warnings.push(Warning::Rationed {
                    rule: self.capped_by(&rationed),
                    short_mm: rationed.wanted - rationed.gives,
                    more_l: more_l(&rationed),
                });
            }
            let gave_way = self.gave_way(proposal);
            let short = gave_way.map_or(Depth::ZERO, |g| g.short);
            if short >= WORTH_SAYING {
                warnings.push(Warning::NoRoom { short_mm: short });
            }
        }
        if self.model.intake_raised {
            warnings.push(Warning::RepairSoil {
                intake_mm_h: self.model.intake.value,
            });
        }
        if self.model.repair_first {
            warnings.push(Warning::RepairSprinklers {
                evenness: self.model.evenness.value,
            });
        }
        if self.model.repellency > Repellency::Wettable {
            warnings.push(Warning::RepelsWater {
                repellency: self.model.repellency,
            });
        }
        if self.zone.regime.is_new_grass() {
            warnings.extend(self.surface_dry(day));
            return warnings;
        }
        let (raw, etc) = (self.days[day].raw, self.days[day].etc);
        if raw < etc {
            warnings.push(Warning::RootsLimit {
                raw_mm: raw,
                etc_mm: etc,
                every_days: raw.whole_times(etc).max(1),
            });
        }
        let waits = |p: &Proposal| p.why.because() == Because::ForRain;
        let rain_may_help = self.week.proposals.iter().any(waits);
        // A zone that waits for rain goes a little beyond by choice: worth saying is what goes far.
        let taw = self.model.taw;
        let far = |b: &DayBalance| b.end > (b.raw + taw) / 2.0;
        let worth_saying = !rain_may_help || self.week.balances.iter().any(far);
        if let Some((first, most)) = self.shortfall()
            && self.week.has_opportunity()
            && most >= WORTH_SAYING
            && worth_saying
        {
            warnings.push(Warning::Shortfall {
                date: self.date(first),
                short_mm: most,
                rain_may_help,
            });
        }
        warnings
    }
}
