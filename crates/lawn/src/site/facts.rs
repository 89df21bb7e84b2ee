//! Facts have a day: what is known of a zone holds from a day on, and the balance of a past day uses what held then.
//!
//! A zone's own keys say what holds at present. `facts` keeps what changed: each entry gives keys the values that they have from its day on;
//! what a key is in its first entry it was always. The last entry of a key is what the zone itself says.

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use super::{Invalid, Regime, Zone};
use crate::days;

/// Of what a fact tells, which says from when it holds unless a person says otherwise.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Of {
    /// The ground and the place: as it is known now it was always.
    Ground,
    /// The sprinklers: from the day of the test or the repair.
    Sprinklers,
    /// The keeping: from the day it is said.
    Keeping,
}

/// The keys that hold from a day. The others (name, first and last day, rank, where the balance begins) are not dated.
const DATED: [(&str, Of); 32] = [
    ("grass", Of::Keeping),
    ("plants", Of::Keeping),
    ("how_green", Of::Keeping),
    ("crop_coefficients", Of::Ground),
    ("regime", Of::Keeping),
    ("sown_on", Of::Keeping),
    ("new_grass_as", Of::Keeping),
    ("school", Of::Keeping),
    ("late_hours", Of::Keeping),
    ("crown_watering", Of::Keeping),
    ("soil", Of::Ground),
    ("soil_figures", Of::Ground),
    ("soil_shares", Of::Ground),
    ("layers", Of::Ground),
    ("repellency", Of::Keeping),
    ("cover", Of::Ground),
    ("slope_pct", Of::Ground),
    ("area_m2", Of::Ground),
    ("exposure", Of::Ground),
    ("site_factor", Of::Ground),
    ("sprinkler", Of::Sprinklers),
    ("rate_mm_h", Of::Sprinklers),
    ("evenness_du_lq", Of::Sprinklers),
    ("setting_m2", Of::Sprinklers),
    ("spray_loss", Of::Sprinklers),
    ("root_depth_mm", Of::Ground),
    ("available_mm_per_mm", Of::Ground),
    ("intake_mm_h", Of::Ground),
    ("minutes_to_runoff", Of::Ground),
    ("soak_minutes", Of::Ground),
    ("allowable_depletion", Of::Keeping),
    ("depletion_rule", Of::Keeping),
];

/// Most entries of a zone.
const MOST_FACTS: usize = 500;

/// What changed on a day: from then on the keys have these values; null: none of the zone's own, the handbook's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Fact {
    /// The first day on which they hold.
    pub from: Date,
    /// The keys, as in the zone.
    #[serde(flatten)]
    pub values: Map<String, Value>,
}

/// From when a change holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Holds {
    /// It was always so.
    Always,
    /// From a day on.
    From(Date),
}

/// What the key of a zone tells of; `None`: it is not dated.
#[must_use]
pub fn tells_of(key: &str) -> Option<Of> {
    DATED.iter().find(|(k, _)| *k == key).map(|(_, of)| *of)
}

/// A dated key of a zone as JSON; null where the zone says nothing.
fn value(zone: &Map<String, Value>, key: &str) -> Value {
    zone.get(key).cloned().unwrap_or(Value::Null)
}

/// A zone as JSON, without its tests: they have days of their own.
fn as_map(zone: &Zone) -> Map<String, Value> {
    let bare = zone.tests.is_empty() && zone.soil_tests.is_empty() && zone.seen.is_empty();
    let json = if bare {
        serde_json::to_value(zone)
    } else {
        let mut own = zone.clone();
        own.tests.clear();
        own.soil_tests.clear();
        own.seen.clear();
        serde_json::to_value(own)
    };
    // A zone is an object of plain figures: it always turns into one.
    match json {
        Ok(Value::Object(map)) => map,
        _ => Map::new(),
    }
}

/// A zone's dated keys, each with its values in time order.
type Courses = BTreeMap<String, Vec<(Date, Value)>>;

fn courses(facts: &[Fact]) -> Courses {
    let mut courses = Courses::new();
    for fact in facts {
        for (key, value) in &fact.values {
            courses
                .entry(key.clone())
                .or_default()
                .push((fact.from, value.clone()));
        }
    }
    courses
}

fn facts(courses: Courses) -> Vec<Fact> {
    let mut by_day: BTreeMap<Date, Map<String, Value>> = BTreeMap::new();
    for (key, course) in courses {
        for (from, value) in course {
            by_day.entry(from).or_default().insert(key.clone(), value);
        }
    }
    by_day
        .into_iter()
        .map(|(from, values)| Fact { from, values })
        .collect()
}

impl Zone {
    /// The zone as it was, or is, on a day.
    #[must_use]
    pub fn on(&self, date: Date) -> Self {
        if self.facts.is_empty() {
            return self.clone();
        }
        let mut map = as_map(self);
        for (key, course) in courses(&self.facts) {
            let held = course.iter().rev().find(|(from, _)| *from <= date);
            let Some((_, value)) = held.or(course.first()) else {
                continue;
            };
            if value.is_null() {
                map.remove(&key);
            } else {
                map.insert(key, value.clone());
            }
        }
        map.remove("facts");
        // Facts were checked when they were taken in.
        let mut zone: Self = serde_json::from_value(Value::Object(map)).unwrap_or_else(|_| {
            let mut present = self.clone();
            present.facts.clear();
            present
        });
        zone.facts.clear();
        zone
    }

    /// Takes back all that was said of when a key changed: what it is it was always.
    pub(super) fn forget(&mut self, key: &str) {
        for fact in &mut self.facts {
            fact.values.remove(key);
        }
        self.facts.retain(|fact| !fact.values.is_empty());
    }

    /// The days on which anything changed, in order.
    #[must_use]
    pub fn turns(&self) -> Vec<Date> {
        let mut days: Vec<Date> = self.facts.iter().map(|f| f.from).collect();
        days.sort_unstable();
        days.dedup();
        days
    }

    /// The day from which a key has had the value that it has on a day; `None`: always.
    #[must_use]
    pub fn holds_since(&self, key: &str, date: Date) -> Option<Date> {
        let course = courses(&self.facts).remove(key)?;
        let at = course.iter().rposition(|(from, _)| *from <= date)?;
        (at > 0).then(|| course[at].0)
    }

    /// The zone after a change: `holds` says from when each key that changed is so, by its name; for what it does not say, the ground was
    /// always so, and the rest is so from `today` on. Facts that `changed` itself names are not read.
    ///
    /// # Errors
    /// A day before records or after today, or a key that is not dated.
    pub fn changed(
        &self,
        changed: Self,
        holds: &BTreeMap<String, Holds>,
        today: Date,
    ) -> Result<Self, Invalid> {
        for (key, held) in holds {
            let at = format!("holds.{key}");
            if tells_of(key).is_none() {
                return Err(Invalid::new(at, "does not hold from a day"));
            }
            if let Holds::From(day) = held {
                days::check(&at, *day, today)?;
            }
        }
        let (before, after) = (as_map(self), as_map(&changed));
        let mut courses = courses(&self.facts);
        for (key, of) in DATED {
            let (old, new) = (value(&before, key), value(&after, key));
            if old == new && !holds.contains_key(key) {
                continue;
            }
            let held = holds.get(key).copied().unwrap_or(match of {
                Of::Ground => Holds::Always,
                Of::Sprinklers | Of::Keeping => Holds::From(today),
            });
            match held {
                Holds::Always => {
                    courses.remove(key);
                }
                Holds::From(day) => turn(courses.entry(key.to_owned()).or_default(), old, new, day),
            }
        }
        courses.retain(|_, course| course.len() > 1);
        let zone = Self {
            facts: facts(courses),
            ..changed
        };
        zone.validate_facts("")?;
        Ok(zone)
    }

    /// The zone in another regime from a day on; what was said for later is taken back.
    ///
    /// # Errors
    /// A day that no record may name.
    pub fn in_regime(&self, regime: Regime, from: Date) -> Result<Self, Invalid> {
        let changed = Self {
            regime,
            ..self.clone()
        };
        let holds = BTreeMap::from([("regime".to_owned(), Holds::From(from))]);
        self.changed(changed, &holds, days::LAST)
    }

    /// The zone with another course of values of a key: those from each day on; what it is first it was always.
    #[must_use]
    pub(crate) fn with_course(&self, key: &str, course: Vec<(Date, Value)>) -> Self {
        let mut courses = courses(&self.facts);
        courses.remove(key);
        let Some((_, last)) = course.last().cloned() else {
            return self.clone();
        };
        if course.len() > 1 {
            courses.insert(key.to_owned(), course);
        }
        let mut map = as_map(self);
        map.remove("facts");
        if last.is_null() {
            map.remove(key);
        } else {
            map.insert(key.to_owned(), last);
        }
        let mut zone: Self =
            serde_json::from_value(Value::Object(map)).unwrap_or_else(|_| self.clone());
        zone.facts = facts(courses);
        zone
    }

    /// Checks the dated facts: days, keys, that the zone holds on each day, and that the last says what the zone itself says.
    ///
    /// # Errors
    /// The entry that does not hold.
    pub(super) fn validate_facts(&self, path: &str) -> Result<(), Invalid> {
        let at = |i: usize| format!("{path}facts[{i}]");
        if self.facts.len() > MOST_FACTS {
            return Err(Invalid::new(
                format!("{path}facts"),
                format!("more than {MOST_FACTS} changes of one zone are not kept"),
            ));
        }
        for (i, fact) in self.facts.iter().enumerate() {
            days::check(&format!("{}.from", at(i)), fact.from, days::LAST)?;
            if i > 0 && self.facts[i - 1].from >= fact.from {
                return Err(Invalid::new(
                    format!("{}.from", at(i)),
                    format!("{} must be after the entry before it", fact.from),
                ));
            }
            if let Some(key) = fact.values.keys().find(|key| tells_of(key).is_none()) {
                return Err(Invalid::new(
                    format!("{}.{key}", at(i)),
                    "does not hold from a day",
                ));
            }
        }
        let present = as_map(self);
        for (key, course) in courses(&self.facts) {
            let last = course.last().map(|(_, value)| value);
            if last != Some(&value(&present, &key)) {
                return Err(Invalid::new(
                    format!("{path}{key}"),
                    "differs from what the newest of the facts says",
                ));
            }
        }
        for (i, fact) in self.facts.iter().enumerate() {
            let mut map = present.clone();
            map.remove("facts");
            for (key, value) in &fact.values {
                map.insert(key.clone(), value.clone());
            }
            map.retain(|_, value| !value.is_null());
            let zone: Self = serde_json::from_value(Value::Object(map))
                .map_err(|error| Invalid::new(at(i), error.to_string()))?;
            zone.validate(&format!("{}.", at(i)))?;
        }
        Ok(())
    }
}

/// Turns a course to a new value on a day: what was said for later is taken back.
fn turn(course: &mut Vec<(Date, Value)>, old: Value, new: Value, day: Date) {
    if course.is_empty() {
        course.push((days::FIRST, old));
    }
    course.retain(|(from, _)| *from < day);
    if course.is_empty() {
        // It holds from before anything else was known: always.
        course.push((days::FIRST, new));
        return;
    }
    if course.last().is_some_and(|(_, value)| *value == new) {
        return;
    }
    course.push((day, new));
}

/// The earliest day on which two states of a zone differ in what its balance uses; `None`: on none.
#[must_use]
pub fn first_difference(before: &Zone, after: &Zone) -> Option<Date> {
    if before.initial_depletion_mm != after.initial_depletion_mm
        || before.active_from != after.active_from
    {
        return Some(days::FIRST);
    }
    let mut days_of_turns = vec![days::FIRST];
    days_of_turns.extend(before.turns());
    days_of_turns.extend(after.turns());
    days_of_turns.sort_unstable();
    let dated = |zone: &Zone| -> Vec<Value> {
        let map = as_map(zone);
        DATED.iter().map(|(key, _)| value(&map, key)).collect()
    };
    days_of_turns
        .into_iter()
        .find(|day| dated(&before.on(*day)) != dated(&after.on(*day)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;
    use serde_json::json;

    fn zone(more: &Value) -> Zone {
        let mut zone = json!({
            "name": "Field", "grass": "tall_fescue", "soil": "loam", "slope_pct": 1, "area_m2": 400, "sprinkler": "rotor"
        });
        for (key, value) in more.as_object().unwrap() {
            zone[key] = value.clone();
        }
        serde_json::from_value(zone).unwrap()
    }

    fn depth(mm: f64) -> Value {
        json!({ "value": mm, "low": mm, "high": mm, "source": { "kind": "assumed" } })
    }

    const TODAY: Date = Date::constant(2026, 6, 18);

    fn roots(zone: &Zone) -> Option<f64> {
        zone.root_depth_mm.as_ref().map(|d| d.value.mm())
    }

    #[test]
    fn what_is_said_from_a_day_on_leaves_the_days_before_as_they_were() {
        let shallow = zone(&json!({ "root_depth_mm": depth(150.0) }));
        let deep = zone(&json!({ "root_depth_mm": depth(250.0), "name": "Renamed" }));
        let day = date(2026, 6, 10);
        let holds = BTreeMap::from([("root_depth_mm".to_owned(), Holds::From(day))]);
        let after = shallow.changed(deep.clone(), &holds, TODAY).unwrap();
        assert_eq!(
            (after.name.as_str(), roots(&after)),
            ("Renamed", Some(250.0))
        );
        assert_eq!(roots(&after.on(date(2026, 6, 9))), Some(150.0));
        assert_eq!(roots(&after.on(day)), Some(250.0));
        assert_eq!(after.holds_since("root_depth_mm", TODAY), Some(day));
        assert_eq!(after.holds_since("root_depth_mm", date(2026, 6, 9)), None);
        assert_eq!(first_difference(&shallow, &after), Some(day));
        // Always so: of what the ground is, that is what is meant where nobody says.
        let always = shallow.changed(deep, &BTreeMap::new(), TODAY).unwrap();
        assert!(always.facts.is_empty());
        assert_eq!(first_difference(&shallow, &always), Some(days::FIRST));
    }

    #[test]
    fn the_keeping_changes_today_and_a_figure_may_go_back_to_the_handbook() {
        let typed = zone(&json!({ "rate_mm_h": depth(12.0) }));
        let none = zone(&json!({ "how_green": "lush" }));
        let after = typed.changed(none, &BTreeMap::new(), TODAY).unwrap();
        assert!(after.rate_mm_h.is_none());
        let before = after.on(TODAY.yesterday().unwrap());
        assert_eq!(before.rate_mm_h.unwrap().value.mm_h(), 12.0);
        assert_eq!(before.how_green, science::turf::HowGreen::default());
        assert_eq!(after.facts.len(), 2);
        // A later word on an earlier day takes back what was said for after it.
        let holds = BTreeMap::from([("rate_mm_h".to_owned(), Holds::From(date(2026, 5, 1)))]);
        let again = zone(&json!({ "rate_mm_h": depth(9.0), "how_green": "lush" }));
        let again = after.changed(again, &holds, TODAY).unwrap();
        let rate = |on| again.on(on).rate_mm_h.map(|r| r.value.mm_h());
        assert_eq!(rate(date(2026, 4, 30)), Some(12.0));
        assert_eq!(rate(date(2026, 5, 1)), Some(9.0));
        assert_eq!(rate(TODAY), Some(9.0));
    }

    #[test]
    fn facts_that_do_not_hold_are_refused_where_they_are() {
        let with = |facts: Value| {
            zone(&json!({ "root_depth_mm": depth(250.0), "facts": facts })).validate("")
        };
        assert!(with(json!([{ "from": "1900-01-01", "root_depth_mm": depth(150.0) }, { "from": "2026-06-01", "root_depth_mm": depth(250.0) }])).is_ok());
        let field = |facts: Value| with(facts).unwrap_err().field;
        assert_eq!(
            field(json!([{ "from": "2026-06-01", "root_depth_mm": depth(150.0) }])),
            "root_depth_mm"
        );
        assert_eq!(
            field(json!([{ "from": "2026-06-01", "name": "Old" }])),
            "facts[0].name"
        );
        assert_eq!(
            field(
                json!([{ "from": "1900-01-01", "slope_pct": 900 }, { "from": "2026-06-01", "slope_pct": 1.0 }])
            ),
            "facts[0].slope_pct"
        );
        let tomorrow = BTreeMap::from([("soil".to_owned(), Holds::From(date(2026, 6, 19)))]);
        let sand = zone(&json!({ "soil": "sand" }));
        let error = zone(&json!({}))
            .changed(sand, &tomorrow, TODAY)
            .unwrap_err();
        assert_eq!(error.field, "holds.soil");
    }
}
