//! Verdict and ledger of schools that go by the calendar: the rule's figures, and what the water balance would do.

use crate::engine::schools::Proposal;
use crate::engine::schools::why::{Because, ByCalendar, Rule};
use crate::view::explain::Account;
use crate::view::ledger::Line;
use crate::view::verdict::Verdict;

impl Account<'_> {
    pub(super) fn calendar_verdict(&self, proposal: &Proposal, why: &ByCalendar) -> Verdict {
        let (rule, balance_mm) = (why.rule, why.balance_gives);
        self.barred(proposal).unwrap_or(match why.because {
            Because::Due => Verdict::RuleDue { rule, balance_mm },
            _ => Verdict::RuleWaits {
                rule,
                on: why.on,
                balance_mm,
            },
        })
    }

    pub(super) fn calendar_lines(&self, proposal: &Proposal, why: &ByCalendar) -> Vec<Line> {
        let mut lines = vec![Line::Rule {
            rule: why.rule,
            on: why.on,
            asks_mm: why.asked,
        }];
        // Turf that is let go is not watered by any balance.
        if !matches!(why.rule, Rule::Crowns { .. }) {
            lines.push(Line::BalanceWould {
                gives_mm: why.balance_gives,
                for_rain: why.balance_because == Because::ForRain,
            });
        }
        lines.extend(self.decided(proposal));
        lines
    }
}
