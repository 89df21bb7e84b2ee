//! Turns a decision into its reasons.

use jiff::ToSpan;
use jiff::civil::Date;

use crate::engine::decision::{Decision, Hold, Verdict, ZoneDay, ZoneWeek};
use crate::engine::dose::Dose;
use crate::engine::rain_and_dose::STRESS_WEIGHT;
use crate::engine::root_zone::DayBalance;
use crate::engine::site_week::Pulled;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Depth, RunTime};
use crate::site::Zone;
use crate::site::calendar::CalendarDay;
use crate::view::reason::{RainCandidate, Reason};
use crate::weather::outlook::{COMPARED_DAYS, Outlook, SCENARIOS};

/// Days that the account of a depletion goes back.
const ACCOUNT_DAYS: usize = 7;

/// A zone's days with their balances, past and ahead, in date order without gaps.
pub(crate) struct Ledger<'a> {
    pub zone: &'a Zone,
    pub model: &'a ZoneModel,
    /// Balances of the past, then of the horizon.
    pub balances: &'a [(Date, DayBalance)],
    /// Index of today in them.
    pub today: usize,
    /// The horizon.
    pub days: &'a [ZoneDay],
    pub week: &'a ZoneWeek,
    pub calendar: &'a [CalendarDay],
    pub pulled: &'a [Pulled],
    /// The zone's place in the site's list.
    pub index: usize,
    /// Seconds that each day's window lacks for this zone.
    pub more_s: &'a [i64],
    /// What may come.
    pub outlook: Option<&'a Outlook>,
}

impl Ledger<'_> {
    /// The reasons of a day of the horizon.
    pub(crate) fn reasons(&self, day: usize) -> Vec<Reason> {
        let Some(decision) = self.week.on(day) else {
            return self.without_opportunity(day);
        };
        let mut reasons = self.balance(day, decision.depletion);
        reasons.extend(self.need(decision));
        match &decision.verdict {
            Verdict::Water(dose) => reasons.extend(self.run(decision, dose)),
            Verdict::Skip(skip) => reasons.push(Reason::Skipped { skip: *skip }),
            Verdict::Hold(hold) => reasons.extend(self.hold(decision, *hold)),
        }
        reasons.extend(self.compared(decision));
        reasons.extend(self.warnings(day));
        reasons
    }

    fn date(&self, day: usize) -> Date {
        self.calendar[day].date
    }

    fn without_opportunity(&self, day: usize) -> Vec<Reason> {
        let start = self.balances[self.today + day].1.start;
        let mut reasons = self.balance(day, start);
        if !self.week.has_opportunity() {
            reasons.push(self.no_window());
        }
        reasons.extend(self.warnings(day));
        reasons
    }

    /// The plan has no opportunity at all: when RAW is passed, and by how much in the end.
    fn no_window(&self) -> Reason {
        let short = self
            .week
            .balances
            .last()
            .map_or(Depth::ZERO, |b| b.end - b.raw);
        Reason::NoWindow {
            passes_on: self.week.shortfall().map(|(day, _)| self.date(day)),
            short_mm: short.max(Depth::ZERO),
        }
    }

    /// Storage, use, and how the depletion of a dawn came to be.
    fn balance(&self, day: usize, depletion: Depth) -> Vec<Reason> {
        let at = self.today + day;
        let from = at.saturating_sub(ACCOUNT_DAYS);
        let span = &self.balances[from..at];
        let sum = |part: fn(&DayBalance) -> Depth| span.iter().map(|(_, b)| part(b)).sum::<Depth>();
        let here = &self.balances[at].1;
        // What ran today before the decision has lowered its depletion already.
        let already = here.start - depletion;
        let factors = self.model.crop_factors(self.zone, &self.days[day].weather);
        vec![
            Reason::Storage {
                available_mm_per_mm: self.model.available.clone(),
                root_depth_mm: self.model.root_depth.clone(),
            },
            Reason::CropEt {
                kc: factors.kc,
                how_green: factors.how_green,
                growth: factors.growth,
                site_factor: factors.site_factor,
                et0_mm: self.days[day].weather.et0,
                etc_mm: self.days[day].etc,
            },
            Reason::Account {
                from: self.balances[from].0,
                start_mm: self.balances[from].1.start,
                eta_mm: sum(|b| b.eta),
                effective_rain_mm: sum(|b| b.effective_rain),
                irrigation_mm: sum(|b| b.irrigation.net) + already,
                drainage_mm: sum(|b| b.drainage),
                adjustment_mm: sum(|b| b.adjustment),
                depletion_mm: depletion,
            },
            Reason::Depletion {
                depletion_mm: depletion,
                raw_mm: self.days[day].raw,
                taw_mm: self.model.taw,
            },
        ]
    }

    /// Whether the opportunity must give something.
    fn need(&self, decision: &Decision) -> Vec<Reason> {
        let next = self.week.after(decision.day).map(|d| self.date(d.day));
        if decision.needed <= Depth::ZERO {
            let mut reasons = vec![Reason::NotDue {
                next,
                room_mm: -decision.before_next,
            }];
            reasons.extend(self.pulled_from(decision.day));
            return reasons;
        }
        let mut reasons = vec![Reason::Due {
            next,
            passes_on: self.passes_raw_on(decision),
            needed_mm: decision.needed,
        }];
        if decision.before_next <= Depth::ZERO && self.pulled_from(decision.day).is_none() {
            reasons.push(Reason::StartsEarly {
                window_carries_mm: decision.capacity,
            });
        }
        reasons.extend(self.pulled_from(decision.day));
        reasons
    }

    fn pulled_from(&self, day: usize) -> Option<Reason> {
        let pulled = self
            .pulled
            .iter()
            .find(|p| p.zone == self.index && p.to == day)?;
        Some(Reason::PulledEarlier {
            from: self.date(pulled.from),
        })
    }

    /// The day on which RAW would be passed if nothing were given from this opportunity on.
    fn passes_raw_on(&self, decision: &Decision) -> Option<Date> {
        let mut dry = decision.depletion;
        self.days
            .iter()
            .enumerate()
            .skip(decision.day)
            .find_map(|(day, d)| {
                dry += d.etc;
                (dry > d.raw).then(|| self.date(day))
            })
    }

    fn hold(&self, decision: &Decision, hold: Hold) -> Option<Reason> {
        match hold {
            // Said by `need` already.
            Hold::NotDue => None,
            Hold::NotWorthwhile { soak } => Some(Reason::NotWorthwhile { soak_mm: soak }),
            Hold::TooLittle => Some(Reason::TooLittle {
                least_pass_s: self.model.least_pass_s,
            }),
            Hold::ForRain => self.held_for_rain(decision),
            Hold::NoRoom => Some(Reason::NoRoom {
                short_mm: decision.needed,
                more_s: self.more_s[decision.day],
            }),
        }
    }

    fn held_for_rain(&self, decision: &Decision) -> Option<Reason> {
        let compared = decision.compared.as_ref()?;
        let refill = compared.refill();
        let next = self.week.after(decision.day)?.day;
        let (probability, expected) = self.outlook?.rain_within(decision.day, next - decision.day);
        let saves = refill.drained - compared.chosen().drained;
        Some(Reason::HeldForRain {
            probability_pct: 100.0 * probability,
            expected_mm: expected,
            next: self.date(next),
            saves_mm: saves,
            saves_l: self.model.gross_of_net(saves) * self.zone.area_m2,
            stress_mm: compared.chosen().stress - refill.stress,
        })
    }

    fn compared(&self, decision: &Decision) -> Option<Reason> {
        let compared = decision.compared.as_ref()?;
        let count = |n: usize| u32::try_from(n).unwrap_or(u32::MAX);
        Some(Reason::RainCompared {
            scenarios: count(SCENARIOS),
            days: count(COMPARED_DAYS),
            stress_weight: STRESS_WEIGHT,
            watering_mm: self.model.watering_cost,
            expected_mm: self.outlook?.rain_within(decision.day, COMPARED_DAYS).1,
            candidates: compared
                .candidates()
                .iter()
                .map(RainCandidate::from)
                .collect(),
            best: count(compared.best),
        })
    }

    /// The working of a run: its times add up to it, to the second.
    fn run(&self, decision: &Decision, dose: &Dose) -> Vec<Reason> {
        let model = self.model;
        let rate = model.rate.value;
        let even = dose.wanted * model.multiplier;
        let gross = model.gross_of_net(dose.wanted);
        // Differences of rounded sums, so that the lines add up exactly.
        let sums = [dose.wanted, even, gross].map(|depth| (depth / rate).round_s());
        let mut reasons = vec![Reason::Refill {
            net_mm: dose.wanted,
            seconds: sums[0],
        }];
        let most = decision.depletion.min(decision.capacity);
        if decision.depletion - most > Depth::from_mm(1e-9) {
            reasons.push(Reason::WindowCarries {
                refill_mm: decision.depletion,
                carries_mm: most,
            });
        }
        if most - dose.wanted > Depth::from_mm(1e-9) {
            reasons.push(Reason::RoomForRain {
                refill_mm: most,
                gives_mm: dose.wanted,
            });
        }
        reasons.extend([
            Reason::Unevenness {
                evenness: model.evenness.clone(),
                multiplier: model.multiplier,
                added_mm: even - dose.wanted,
                seconds: sums[1] - sums[0],
            },
            Reason::SprayLoss {
                share: model.spray_loss.clone(),
                added_mm: gross - even,
                seconds: sums[2] - sums[1],
            },
            Reason::Rounding {
                step_s: model.step_s,
                seconds: dose.run_s() - sums[2],
            },
            Reason::AtRate {
                rate_mm_h: model.rate.clone(),
            },
            Reason::Passes {
                passes: dose.passes,
                pass_s: dose.pass_s,
                soak_s: dose.soak_s,
                longest_pass_s: model.longest_pass.map(RunTime::floor_s),
                limit: model.pass_limit.into(),
                intake_mm_h: model.intake.clone(),
                accumulation_mm: model.accumulation,
            },
        ]);
        if dose.irrigation.runoff > Depth::ZERO {
            reasons.push(Reason::RunsOff {
                runoff_mm: dose.irrigation.runoff,
            });
        }
        reasons
    }

    /// What a person should repair or know, whatever is decided.
    fn warnings(&self, day: usize) -> Vec<Reason> {
        let mut reasons = Vec::new();
        if self.model.intake_raised {
            reasons.push(Reason::RepairSoil {
                intake_mm_h: self.model.intake.value,
            });
        }
        if self.model.repair_first {
            reasons.push(Reason::RepairSprinklers {
                evenness: self.model.evenness.value,
            });
        }
        let (raw, etc) = (self.days[day].raw, self.days[day].etc);
        if raw < etc {
            reasons.push(Reason::RootsLimit {
                raw_mm: raw,
                etc_mm: etc,
                every_days: raw.whole_times(etc).max(1),
            });
        }
        if let Some((first, most)) = self.week.shortfall()
            && self.week.has_opportunity()
        {
            reasons.push(Reason::Shortfall {
                date: self.date(first),
                short_mm: most,
            });
        }
        reasons
    }
}

/// The day before a date.
pub(crate) fn before(date: Date) -> Date {
    date.saturating_sub(1.day())
}
