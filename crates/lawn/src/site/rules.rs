//! Local rules as data: which days and hours are allowed to whom, from when to when. They only take away from the site's own hours. Local rules decide;
//! this records them.

use jiff::civil::Date;
use science::sprinkler::Kind;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Zone;
use super::hours::{DateRule, Hours, Weekday};
use crate::days;
use crate::invalid::Invalid;
use crate::ranges;
use crate::text::{check_name, trimmed};

/// Most rules of a site.
const MOST_RULES: usize = 50;
/// Most changes of the stage.
const MOST_STAGES: usize = 200;
/// Most exemptions of a rule.
const MOST_EXEMPT: usize = 200;

/// The rules of a site, and which stage was in force when.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Rules {
    /// Which stage is in force from which day on, in order of days.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub stages: Vec<StageFrom>,
    /// The rules; all that are in force hold together.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub list: Vec<Rule>,
}

/// A drought stage that begins, or the end of all.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StageFrom {
    /// Its first day.
    pub from: Date,
    /// Its name; absent: no stage is in force from then on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stage: Option<String>,
}

/// A rule.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = LocalRule)]
pub struct Rule {
    /// What people call it.
    #[serde(deserialize_with = "trimmed")]
    pub name: String,
    /// First day; absent: as long as anybody knows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<Date>,
    /// Last day; absent: until further notice.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<Date>,
    /// The stage during which it holds; absent: whatever the stage.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stage: Option<String>,
    /// The zones that it is about; none: all.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub zones: Vec<String>,
    /// Who is exempt.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub exempt: Vec<Exemption>,
    /// What it says.
    pub says: Says,
}

/// What a rule says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Says {
    /// Watering only on some days, and in some hours of them.
    OnlyOn(OnlyOn),
    /// No watering, or none in some hours.
    Never(Never),
    /// At most so much water.
    AtMost(AtMost),
}

/// A volume that is not passed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = RuleAtMost)]
pub struct AtMost {
    /// Litres out of the sprinklers of all zones together that the rule is about.
    pub volume_l: f64,
    /// In which time.
    pub per: Period,
}

/// In which time a volume is not passed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = CapPeriod)]
pub enum Period {
    /// A day.
    Day,
    /// A week from Monday on.
    Week,
}

/// Days on which watering is allowed: each part that is given must hold.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
#[schema(as = RuleOnlyOn)]
pub struct OnlyOn {
    /// Weekdays; none: any.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub weekdays: Vec<Weekday>,
    /// Odd or even dates.
    pub dates: DateRule,
    /// Every so many days.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub every: Option<Every>,
    /// Hours; absent: any.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hours: Option<Hours>,
}

/// Every n-th day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = EveryNthDay)]
pub struct Every {
    /// From an allowed day to the next, 2 to 31.
    pub days: u8,
    /// One of the allowed days.
    pub counted_from: Date,
}

/// No watering.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
#[schema(as = RuleNever)]
pub struct Never {
    /// In these hours; absent: all day.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hours: Option<Hours>,
}

/// Who a rule does not hold for.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Exemption {
    /// Who.
    pub who: Who,
    /// The zone, where one alone is exempt: by permit, or for a test.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub zone: Option<String>,
    /// The last day; absent: as long as the rule holds.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<Date>,
}

/// Who may be exempt.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = ExemptWho)]
pub enum Who {
    /// New seed, usually by permit.
    NewSeed,
    /// What is watered by hand or hose.
    ByHand,
    /// Drip lines.
    Drip,
    /// The zone that is named.
    Zone,
}

impl Exemption {
    fn holds_for(&self, zone: &Zone, date: Date) -> bool {
        self.to.is_none_or(|to| date <= to)
            && self.zone.as_ref().is_none_or(|id| *id == zone.id)
            && match self.who {
                Who::NewSeed => zone.regime.is_new_grass(),
                Who::ByHand => zone.by_hand(),
                Who::Drip => zone.sprinkler == Kind::Drip,
                Who::Zone => self.zone.is_some(),
            }
    }
}

impl OnlyOn {
    /// Whether a day is one of them.
    #[must_use]
    pub fn allows(&self, date: Date) -> bool {
        let every = |every: Every| {
            let days = every
                .counted_from
                .until(date)
                .map_or(0, |span| span.get_days());
            days.rem_euclid(i32::from(every.days.max(1))) == 0
        };
        (self.weekdays.is_empty() || self.weekdays.contains(&Weekday::of(date)))
            && self.dates.allows(date)
            && self.every.is_none_or(every)
    }
}

impl Rule {
    /// Whether it is in force on a day for a zone; `stage`: the one of that day. Without a zone: for all that are not exempt.
    fn holds(&self, date: Date, stage: Option<&str>, zone: Option<&Zone>) -> bool {
        let of_zone = |zone: &Zone| {
            (self.zones.is_empty() || self.zones.contains(&zone.id))
                && !self.exempt.iter().any(|e| e.holds_for(zone, date))
        };
        self.from.is_none_or(|from| from <= date)
            && self.to.is_none_or(|to| date <= to)
            && self.stage.as_deref().is_none_or(|of| stage == Some(of))
            && zone.map_or(self.zones.is_empty(), of_zone)
    }

    fn validate(&self, at: &str) -> Result<(), Invalid> {
        check_name(&format!("{at}name"), &self.name)?;
        for (field, day) in [("from", self.from), ("to", self.to)] {
            if let Some(day) = day {
                days::check(&format!("{at}{field}"), day, days::LAST)?;
            }
        }
        if let (Some(from), Some(to)) = (self.from, self.to)
            && to < from
        {
            return Err(Invalid::new(
                format!("{at}to"),
                format!("{to} is before the first day, {from}"),
            ));
        }
        if let Some(stage) = &self.stage {
            check_name(&format!("{at}stage"), stage)?;
        }
        if self.exempt.len() > MOST_EXEMPT {
            return Err(Invalid::new(
                format!("{at}exempt"),
                format!("at most {MOST_EXEMPT} exemptions"),
            ));
        }
        for (i, exempt) in self.exempt.iter().enumerate() {
            if let Some(to) = exempt.to {
                days::check(&format!("{at}exempt[{i}].to"), to, days::LAST)?;
            }
            if exempt.who == Who::Zone && exempt.zone.is_none() {
                return Err(Invalid::new(
                    format!("{at}exempt[{i}].zone"),
                    "say which zone is exempt",
                ));
            }
        }
        let hours = match &self.says {
            Says::OnlyOn(only) => {
                if let Some(every) = only.every {
                    Invalid::unless_within(
                        format!("{at}says.every.days"),
                        ranges::NTH_DAY,
                        f64::from(every.days),
                    )?;
                    days::check(
                        &format!("{at}says.every.counted_from"),
                        every.counted_from,
                        days::LAST,
                    )?;
                }
                only.hours
            }
            Says::Never(never) => never.hours,
            Says::AtMost(most) => {
                let field = format!("{at}says.volume_l");
                Invalid::unless_within(field, ranges::CAP, most.volume_l)?;
                None
            }
        };
        hours.map_or(Ok(()), |hours| hours.validate(&format!("{at}says.hours.")))
    }
}

impl Rules {
    /// Whether there are none.
    #[must_use]
    pub const fn is_empty(&self) -> bool {
        self.list.is_empty() && self.stages.is_empty()
    }

    /// The stage of a day.
    #[must_use]
    pub fn stage(&self, date: Date) -> Option<&str> {
        let now = self.stages.iter().rev().find(|s| s.from <= date)?;
        now.stage.as_deref()
    }

    /// The rules in force on a day for a zone, each with its place; without a zone: those for all.
    pub fn in_force<'a>(
        &'a self,
        date: Date,
        zone: Option<&'a Zone>,
    ) -> impl Iterator<Item = (usize, &'a Rule)> {
        let stage = self.stage(date);
        self.list
            .iter()
            .enumerate()
            .filter(move |(_, rule)| rule.holds(date, stage, zone))
    }

    /// The same with other names for its zones; a zone that has none is left out.
    #[must_use]
    pub fn renamed(mut self, new: impl Fn(&str) -> Option<String>) -> Self {
        for rule in &mut self.list {
            rule.zones = rule.zones.iter().filter_map(|id| new(id)).collect();
            for exempt in &mut rule.exempt {
                exempt.zone = exempt.zone.as_deref().and_then(&new);
            }
        }
        self
    }

    /// Checks everything; `zones`: those of the site.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self, zones: &[Zone]) -> Result<(), Invalid> {
        if self.list.len() > MOST_RULES {
            return Err(Invalid::new(
                "rules.list",
                format!("at most {MOST_RULES} rules, not {}", self.list.len()),
            ));
        }
        if self.stages.len() > MOST_STAGES {
            return Err(Invalid::new(
                "rules.stages",
                format!("at most {MOST_STAGES} changes, not {}", self.stages.len()),
            ));
        }
        for (i, pair) in self.stages.windows(2).enumerate() {
            if pair[1].from <= pair[0].from {
                return Err(Invalid::new(
                    format!("rules.stages[{}].from", i + 1),
                    format!("{} is not after {}", pair[1].from, pair[0].from),
                ));
            }
        }
        for (i, stage) in self.stages.iter().enumerate() {
            let at = format!("rules.stages[{i}].");
            days::check(&format!("{at}from"), stage.from, days::LAST)?;
            if let Some(name) = &stage.stage {
                check_name(&format!("{at}stage"), name)?;
            }
        }
        for (i, rule) in self.list.iter().enumerate() {
            let at = format!("rules.list[{i}].");
            rule.validate(&at)?;
            let named = rule.zones.iter().enumerate();
            let named = named.map(|(n, id)| (format!("{at}zones[{n}]"), id));
            let exempt = rule.exempt.iter().enumerate().filter_map(|(n, e)| {
                let id = e.zone.as_ref()?;
                Some((format!("{at}exempt[{n}].zone"), id))
            });
            for (field, id) in named.chain(exempt) {
                if !zones.iter().any(|zone| zone.id == *id) {
                    return Err(Invalid::new(field, format!("there is no zone \"{id}\"")));
                }
            }
        }
        Ok(())
    }
}
