//! Turns what was decided into words' raw material: verdict, ledger, warnings. It decides and computes nothing anew.

use jiff::civil::{Date, DateTime};
use jiff::tz::TimeZone;

use crate::engine::correction::Correction;
use crate::engine::dose::Dose;
use crate::engine::history::ZoneHistory;
use crate::engine::rain_and_dose::STRESS_WEIGHT;
use crate::engine::rationing::{CappedBy, Rationed};
use crate::engine::root_zone::DayBalance;
use crate::engine::schools::why::{Because, Compared, WaterBalance};
use crate::engine::schools::{Proposal, Why};
use crate::engine::site_week::{FullAhead, GaveWay, SiteWeek};
use crate::engine::slot::{HORIZON, Opening, ZoneDay, too_late};
use crate::engine::zone_model::ZoneModel;
use crate::engine::zone_week::ZoneWeek;
use crate::measure::seen::Seen;
use crate::quantity::{Depth, RunTime, Volume};
use crate::record::asked::Asked;
use crate::record::edit::Becomes;
use crate::site::calendar::CalendarDay;
use crate::site::daylight::DayHours;
use crate::site::rules::Rule;
use crate::site::{Controller, Zone};
use crate::view::ledger::{Line, RainCandidate};
use crate::view::verdict::{HeldForRain, Verdict};
use crate::weather::outlook::{COMPARED_DAYS, SCENARIOS};

/// Days that the account of a depletion goes back.
pub(crate) const ACCOUNT_DAYS: usize = 7;

/// Shortfalls below this are within what any figure here can be off.
pub(super) const WORTH_SAYING: Depth = Depth::from_mm(0.5);

/// Drifts below this are within what readings scatter.
const DRIFT_WORTH_SAYING: f64 = 0.01;

/// A zone's days with their balances, past and ahead, in date order without gaps.
pub(crate) struct Account<'a> {
    pub zone: &'a Zone,
    pub model: &'a ZoneModel,
    pub history: &'a ZoneHistory,
    /// What readings have taught: what the turf uses beyond the book, share.
    pub drift: f64,
    /// What was seen up to today that corrected a dawn.
    pub seen: &'a [(Date, Seen, Correction)],
    /// Balances of the past, then of the horizon.
    pub balances: &'a [(Date, DayBalance)],
    /// Index of today in them.
    pub today: usize,
    /// The horizon.
    pub days: &'a [ZoneDay],
    pub time_zone: &'a TimeZone,
    /// When a watering of new grass was due today that nobody noted.
    pub missed: Option<DateTime>,
    /// The site's instant, s since 1970-01-01 UTC; `None`: today 00:00.
    pub now_s: Option<i64>,
    /// The hours of its days; none where there is no new grass.
    pub hours: &'a [DayHours],
    pub week: &'a ZoneWeek,
    pub site: &'a SiteWeek,
    pub calendar: &'a [CalendarDay],
    pub openings: &'a [Opening],
    /// The zone's place in the plan's list.
    pub index: usize,
    /// Its place in the site.
    pub place: usize,
    /// Whether it takes part in planning.
    pub planned: bool,
    /// What is to be watered in.
    pub asked: &'a [Asked],
    /// What people made of each day of the horizon.
    pub edited: [Option<Becomes>; HORIZON],
    pub controller: &'a Controller,
    /// The site's local rules.
    pub rules: &'a [Rule],
    /// Price of water.
    pub price_per_m3: Option<f64>,
}

impl Account<'_> {
    /// Verdict and ledger of a day without an opportunity for the zone.
    pub(crate) fn without_opportunity(&self, day: usize) -> (Verdict, Vec<Line>) {
        let start = self.balances[self.today + day].1.start;
        let mut ledger = self.balance(day, start);
        let closed = self.calendar[day].closed_by(self.place);
        let closed = closed.and_then(|rule| Some(self.rules.get(rule)?.name.clone()));
        let next = self.next_open(day);
        let line = |rule| Line::ClosedByRule { rule, next };
        ledger.extend(closed.clone().map(line));
        let late = too_late(self.openings, self.zone);
        let late = late.iter().any(|place| self.openings[*place].day == day);
        ledger.extend((late && closed.is_none()).then_some(Line::TooLate));
        if self.week.has_opportunity() && late && closed.is_none() {
            return (Verdict::TooLate { next }, ledger);
        }
        if self.week.has_opportunity() {
            let by_rule = closed.map(|rule| Verdict::ClosedByRule { rule, next });
            return (by_rule.unwrap_or(Verdict::NoHours), ledger);
        }
        // The plan has no opportunity at all: when RAW is passed, and by how much in the end.
        let short = self
            .week
            .balances
            .last()
            .map_or(Depth::ZERO, |b| b.end - b.raw);
        // What was let go is beyond it for weeks, as it should be.
        let shortfall = self.shortfall();
        let passes_on = shortfall.map(|(day, _)| self.date(day));
        let short_mm = shortfall.map_or(Depth::ZERO, |_| short.max(Depth::ZERO));
        ledger.push(Line::NoWindow {
            passes_on,
            short_mm,
        });
        (
            Verdict::NoWindow {
                passes_on,
                short_mm,
            },
            ledger,
        )
    }

    /// Where the week's plan ends beyond RAW, of turf that is to stay green.
    pub(super) fn shortfall(&self) -> Option<(usize, Depth)> {
        let asleep = self.model.is_asleep();
        self.week.shortfall().filter(|_| !asleep)
    }

    /// The next day of the plan on which the zone has an opportunity.
    fn next_open(&self, day: usize) -> Option<Date> {
        let mut later = self.week.proposals.iter();
        let next = later.find(|p| p.slot.day > day)?;
        Some(self.date(next.slot.day))
    }

    /// Verdict and ledger of a slot.
    pub(crate) fn slot(&self, proposal: &Proposal) -> (Verdict, Vec<Line>) {
        let mut ledger = match &proposal.why {
            Why::NewGrass(_) => Vec::new(),
            _ => self.balance(proposal.slot.day, proposal.depletion),
        };
        let verdict = match &proposal.why {
            Why::WaterBalance(why) => {
                ledger.extend(self.need(proposal, why));
                ledger.extend(self.decided(proposal));
                self.verdict(proposal, why)
            }
            Why::ByCalendar(why) => {
                ledger.extend(self.calendar_lines(proposal, why));
                self.calendar_verdict(proposal, why)
            }
            Why::NewGrass(why) => {
                ledger.extend(self.new_grass_lines(proposal, why));
                self.new_grass_verdict(proposal, why)
            }
        };
        let rationed = self.rationed(proposal);
        ledger.extend(rationed.map(|rationed| Line::Rationed {
            rule: self.capped_by(&rationed),
            wanted_mm: rationed.wanted,
            gives_mm: rationed.gives,
            left_l: rationed.left,
            more_l: more_l(&rationed),
        }));
        if let Some(dose) = proposal.dose() {
            ledger.extend(self.run(proposal, dose));
        }
        ledger.extend(proposal.why.compared().map(|c| self.compared(c)));
        (verdict, ledger)
    }

    /// From when a figure of the zone is as it is; `None`: always.
    fn since(&self, key: &str, day: usize) -> Option<Date> {
        self.history.holds_since(key, self.date(day))
    }

    fn sprinklers_since(&self, key: &str, day: usize) -> Option<Date> {
        self.since(key, day).max(self.since("sprinkler", day))
    }

    pub(super) fn date(&self, day: usize) -> Date {
        self.calendar[day].date
    }

    fn verdict(&self, proposal: &Proposal, why: &WaterBalance) -> Verdict {
        self.barred(proposal).unwrap_or(match why.because {
            Because::NotDue => Verdict::NotDue {
                next: why.next.map(|day| self.date(day)),
                room_mm: -why.before_next,
            },
            Because::Due => Verdict::Due {
                next: why.next.map(|day| self.date(day)),
                passes_on: why.passes_raw.map(|day| self.date(day)),
                leaves_room: self.gave_way(proposal).is_none()
                    && self.rationed(proposal).is_none()
                    && proposal.dose().is_some_and(|d| leaves_room(proposal, d)),
            },
            Because::StartsEarly => Verdict::StartsEarly {
                window_carries_mm: proposal.slot.capacity,
            },
            Because::StartsForOthers => Verdict::StartsForOthers {
                until: self
                    .full_ahead(proposal)
                    .map_or(self.date(proposal.slot.day), |full| self.night(full.until)),
            },
            Because::NotWorthwhile => Verdict::NotWorthwhile {
                soak_mm: proposal.soak,
            },
            // Without a slot to wait for nothing is held.
            Because::ForRain => self
                .held_for_rain(proposal)
                .map_or(Verdict::NoHours, Verdict::HeldForRain),
            _ => Verdict::NoHours,
        })
    }

    /// What holds of every school: a person's word, the weather, the other zones, the least pass.
    pub(super) fn barred(&self, proposal: &Proposal) -> Option<Verdict> {
        match proposal.why.because() {
            Because::TooLittle => Some(Verdict::TooLittle {
                least_pass_s: self.model.least_pass_s,
            }),
            Because::NoRoom => Some(Verdict::NoRoom {
                short_mm: proposal.why.wanted(),
                more_s: self.more_s(proposal),
            }),
            Because::Rationed => {
                let rationed = self.rationed(proposal)?;
                Some(Verdict::Rationed {
                    rule: self.capped_by(&rationed),
                    short_mm: rationed.wanted - rationed.gives,
                    more_l: more_l(&rationed),
                })
            }
            Because::Forbidden(skip) => Some(Verdict::Skipped { skip }),
            Because::Fixed => Some(match self.watered_in(proposal) {
                Some(asked) => Verdict::WatersIn { by: asked.by },
                None => Verdict::Fixed,
            }),
            _ => None,
        }
    }

    /// Storage, use, and how the depletion of a moment came to be.
    fn balance(&self, day: usize, depletion: Depth) -> Vec<Line> {
        let at = self.today + day;
        let from = at.saturating_sub(ACCOUNT_DAYS);
        let span = &self.balances[from..at];
        let sum = |part: fn(&DayBalance) -> Depth| span.iter().map(|(_, b)| part(b)).sum::<Depth>();
        let here = &self.balances[at].1;
        // What ran today before the decision has lowered its depletion already; by noon the day's ET has raised it.
        let already = (here.start - depletion).max(Depth::ZERO);
        let used = (depletion - here.start).max(Depth::ZERO);
        // What changed at today's dawn: roots, or what was seen today.
        let turned = match self.today.checked_sub(1) {
            Some(before) if from <= before => {
                self.balances[self.today].1.start - self.balances[before].1.end
            }
            _ => Depth::ZERO,
        };
        let factors = self.model.crop_factors(self.zone, &self.days[day].weather);
        let mut lines = vec![
            Line::Storage {
                available_mm_per_mm: self.model.available.clone(),
                root_depth_mm: self.model.root_depth.clone(),
                available_since: self
                    .since("available_mm_per_mm", day)
                    .max(self.since("soil", day)),
                root_depth_since: self
                    .since("root_depth_mm", day)
                    .max(self.since("grass", day)),
            },
            Line::CropEt {
                kc: factors.kc,
                how_green: factors.how_green,
                growth: factors.growth,
                site_factor: factors.site_factor,
                et0_mm: self.days[day].weather.et0,
                etc_mm: self.days[day].etc,
            },
            Line::Account {
                from: self.balances[from].0,
                start_mm: self.balances[from].1.start,
                eta_mm: sum(|b| b.eta) + used,
                effective_rain_mm: sum(|b| b.effective_rain),
                irrigation_mm: sum(|b| b.irrigation.net) + already,
                drainage_mm: sum(|b| b.drainage),
                adjustment_mm: sum(|b| b.adjustment) + turned,
                depletion_mm: depletion,
            },
        ];
        let first = self.balances[from].0;
        let seen = self.seen.iter().filter(|(date, ..)| *date >= first);
        lines.extend(seen.map(|(date, seen, correction)| Line::Corrected {
            date: *date,
            seen: *seen,
            book_mm: correction.book,
            told_mm: correction.told,
            gain: correction.gain,
            adjustment_mm: correction.adjustment(),
        }));
        if self.drift.abs() >= DRIFT_WORTH_SAYING {
            let readings = self.zone.seen.iter();
            let readings = readings.filter(|kept| matches!(kept.seen, Seen::Moisture(_)));
            lines.push(Line::Drift {
                share: self.drift,
                readings: u32::try_from(readings.count()).unwrap_or(u32::MAX),
            });
        }
        lines.push(Line::Depletion {
            depletion_mm: depletion,
            raw_mm: self.days[day].raw,
            taw_mm: self.model.taw,
        });
        lines
    }

    /// Whether the slot must give something, and why earlier than it must.
    fn need(&self, proposal: &Proposal, why: &WaterBalance) -> Vec<Line> {
        let next = why.next.map(|day| self.date(day));
        let mut lines = Vec::with_capacity(3);
        if why.needed <= Depth::ZERO {
            lines.push(Line::NotDue {
                next,
                room_mm: -why.before_next,
            });
        } else {
            lines.push(Line::Due {
                next,
                passes_on: why.passes_raw.map(|day| self.date(day)),
                needed_mm: why.needed,
            });
            if why.because == Because::StartsForOthers {
                lines.extend(self.full_ahead(proposal).map(|full| Line::StartsForOthers {
                    until: self.night(full.until),
                    hold_s: full.hold_s,
                    needed_s: full.needed_s,
                }));
            } else if why.before_next <= Depth::ZERO {
                lines.push(Line::StartsEarly {
                    window_carries_mm: proposal.slot.capacity,
                });
            }
        }
        lines
    }

    /// The nights after a slot that are full.
    fn full_ahead(&self, proposal: &Proposal) -> Option<FullAhead> {
        let opening = proposal.slot.opening;
        let mut all = self.site.ahead.iter();
        all.find(|full| full.opening == opening).copied()
    }

    /// The day of an opening, which may lie beyond the plan.
    fn night(&self, opening: usize) -> Date {
        self.date(self.openings[opening].day)
    }

    pub(super) fn gave_way(&self, proposal: &Proposal) -> Option<GaveWay> {
        let opening = proposal.slot.opening;
        let mut all = self.site.gave_way.iter();
        all.find(|g| g.zone == self.index && g.opening == opening)
            .copied()
    }

    /// What a volume leaves the zone of a slot.
    pub(super) fn rationed(&self, proposal: &Proposal) -> Option<Rationed> {
        let opening = proposal.slot.opening;
        let all = self.site.rationed.iter();
        let mut own = all.filter(|r| r.zone == self.index && r.opening == opening);
        own.next_back().copied()
    }

    /// The name of the rule that leaves no more; `None`: the store does not.
    pub(super) fn capped_by(&self, rationed: &Rationed) -> Option<String> {
        match rationed.by {
            CappedBy::Rule(rule) => self.rules.get(rule).map(|rule| rule.name.clone()),
            CappedBy::Store => None,
        }
    }

    fn more_s(&self, proposal: &Proposal) -> i64 {
        self.gave_way(proposal).map_or(0, |g| g.more_s)
    }

    /// What decided, where `need` has not said it already.
    pub(super) fn decided(&self, proposal: &Proposal) -> Option<Line> {
        match proposal.why.because() {
            Because::NotDue
            | Because::Due
            | Because::StartsEarly
            | Because::StartsForOthers
            | Because::Rationed => None,
            Because::NotWorthwhile => Some(Line::NotWorthwhile {
                soak_mm: proposal.soak,
            }),
            Because::TooLittle => Some(Line::TooLittle {
                least_pass_s: self.model.least_pass_s,
            }),
            Because::ForRain => self.held_for_rain(proposal).map(Line::HeldForRain),
            Because::NoRoom => Some(Line::NoRoom {
                short_mm: proposal.why.wanted(),
                more_s: self.more_s(proposal),
            }),
            Because::Forbidden(skip) => Some(Line::Skipped { skip }),
            Because::Fixed => Some(match self.watered_in(proposal) {
                Some(asked) => Line::WatersIn {
                    by: asked.by,
                    net_mm: asked.net,
                },
                None => Line::Fixed,
            }),
        }
    }

    fn held_for_rain(&self, proposal: &Proposal) -> Option<HeldForRain> {
        let compared = proposal.why.compared()?;
        let saves = compared.saves();
        let saves_l = self.model.gross_of_net(saves) * self.zone.area_m2;
        Some(HeldForRain {
            probability_pct: 100.0 * compared.comparison.relief,
            expected_mm: compared.expected,
            before: self.date(compared.by),
            saves_mm: saves,
            saves_l,
            saves_cost: self.price_per_m3.map(|price| saves_l.cost_at(price)),
            stress_mm: compared.stress(),
        })
    }

    fn compared(&self, compared: &Compared) -> Line {
        let count = |n: usize| u32::try_from(n).unwrap_or(u32::MAX);
        Line::RainCompared {
            scenarios: count(SCENARIOS),
            days: count(COMPARED_DAYS),
            stress_weight: STRESS_WEIGHT,
            watering_mm: self.model.watering_cost,
            expected_mm: compared.expected_in_all,
            candidates: compared
                .comparison
                .candidates()
                .iter()
                .map(RainCandidate::from)
                .collect(),
            best: count(compared.comparison.best),
        }
    }

    /// The working of a run: its times add up to it, to the second.
    fn run(&self, proposal: &Proposal, dose: &Dose) -> Vec<Line> {
        let model = self.model;
        let day = proposal.slot.day;
        let rate = model.rate.value;
        let even = dose.wanted * model.multiplier;
        let gross = model.gross_of_net(dose.wanted);
        // Differences of rounded sums, so that the lines add up exactly.
        let sums = [dose.wanted, even, gross].map(|depth| (depth / rate).round_s());
        let (net_mm, seconds) = (dose.wanted, sums[0]);
        let most = proposal.why.most();
        let (first, whole) = match &proposal.why {
            Why::WaterBalance(_) => (Line::Refill { net_mm, seconds }, proposal.depletion),
            Why::ByCalendar(why) => (Line::Asked { net_mm, seconds }, why.asked),
            Why::NewGrass(why) => (Line::Asked { net_mm, seconds }, why.wanted),
        };
        let mut lines = vec![first];
        if whole - most > Depth::from_mm(1e-9) {
            lines.push(Line::WindowCarries {
                refill_mm: whole,
                carries_mm: most,
            });
        }
        if let Some(gave_way) = self.gave_way(proposal) {
            lines.push(Line::GivesWay {
                wanted_mm: gave_way.wanted,
                gives_mm: dose.irrigation.net,
                more_s: gave_way.more_s,
            });
        } else if self.rationed(proposal).is_none() && leaves_room(proposal, dose) {
            lines.push(Line::RoomForRain {
                refill_mm: most,
                gives_mm: dose.wanted,
            });
        }
        lines.extend([
            Line::Unevenness {
                evenness: model.evenness.clone(),
                multiplier: model.multiplier,
                since: self.sprinklers_since("evenness_du_lq", day),
                added_mm: even - dose.wanted,
                seconds: sums[1] - sums[0],
            },
            Line::SprayLoss {
                share: model.spray_loss.clone(),
                added_mm: gross - even,
                seconds: sums[2] - sums[1],
            },
            Line::Rounding {
                step_s: model.step_s,
                seconds: dose.run_s() - sums[2],
            },
            Line::AtRate {
                rate_mm_h: model.rate.clone(),
                since: self.sprinklers_since("rate_mm_h", day),
            },
            Line::Passes {
                passes: dose.passes,
                pass_s: dose.pass_s,
                soak_s: dose.soak_s,
                longest_pass_s: model.longest_pass.map(RunTime::floor_s),
                limit: model.pass_limit.into(),
                most_passes: model.most_passes,
                intake_mm_h: model.intake.clone(),
                accumulation_mm: model.accumulation,
            },
        ]);
        let adjust = self.controller.seasonal_adjust_pct.filter(|p| *p != 100);
        if let Some(adjust_pct) = adjust.filter(|_| !self.zone.by_hand()) {
            lines.push(Line::SetOnController {
                adjust_pct,
                set_s: self.controller.set_s(dose.pass_s),
            });
        }
        lines
    }
}

/// What a volume would have to be greater by so that nobody is harmed.
pub(super) fn more_l(rationed: &Rationed) -> Volume {
    Volume::from_l((rationed.needed.l() - rationed.left.l()).max(0.0))
}

/// Whether less than the refill is given, for rain that may come.
fn leaves_room(proposal: &Proposal, dose: &Dose) -> bool {
    let why = &proposal.why;
    why.compared().is_some() && why.most() - dose.wanted > Depth::from_mm(1e-9)
}
