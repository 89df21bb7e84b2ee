//! A person's changes of the plan: tried, kept once, obeyed, survived by replans, undone by who made them, and refused where they do not hold.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, expect};

async fn cell(api: &Api, site: &str, date: &str) -> Value {
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let cells = plan["zones"][0]["cells"].as_array().unwrap().iter();
    cells.clone().find(|c| c["date"] == date).unwrap().clone()
}

/// A site with a plan, and the day on which its zone waters.
pub async fn planned() -> (App, Api, String, String) {
    let (app, api, site) = App::with_dry_zone().await;
    let first = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(first, StatusCode::CREATED).await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let cells = plan["zones"][0]["cells"].as_array().unwrap().iter();
    let day = cells.clone().find(|c| !c["run"].is_null()).unwrap()["date"].clone();
    let day = day.as_str().unwrap().to_owned();
    (app, api, site, day)
}

/// The edits that hold.
pub async fn days(api: &Api, site: &str) -> Value {
    api.json(&format!("{site}/edits")).await["days"].clone()
}

fn change(act: &Value, date: &str, seen: Option<i64>, key: &str) -> Value {
    json!({ "act": act, "date": date, "seen": seen, "reason": "a fair", "idempotency_key": format!("edits-{key}") })
}

#[tokio::test]
async fn a_day_is_skipped_set_and_undone_and_replans_keep_it() {
    let (_app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let skip = change(&json!({ "kind": "skip" }), &day, None, "skip");
    // What follows is told, and nothing kept.
    let tried = api
        .send(Method::POST, &format!("{path}/preview"), skip.clone())
        .await;
    let tried = expect(tried, StatusCode::OK).await;
    assert_ne!(tried["before"], tried["after"], "{tried}");
    assert!(!cell(&api, &site, &day).await["run"].is_null());
    let kept = expect(
        api.send(Method::POST, &path, skip.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    assert_eq!(kept["after"], tried["after"]);
    expect(
        api.send(Method::POST, &path, skip).await,
        StatusCode::CREATED,
    )
    .await;
    let out = cell(&api, &site, &day).await;
    assert_eq!(
        (&out["state"], &out["edit"]["kind"]),
        (&json!("skip"), &json!("taken_out"))
    );
    // A replan keeps it.
    let again = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(again, StatusCode::CREATED).await;
    assert_eq!(cell(&api, &site, &day).await["state"], "skip");

    // Set to minutes, seen the skip; then undone: the skip holds again; undone too: as planned.
    let edits = days(&api, &site).await;
    let first = edits[0]["id"].as_i64().unwrap();
    let set = change(
        &json!({ "kind": "minutes", "run_minutes": 24 }),
        &day,
        Some(first),
        "set",
    );
    expect(
        api.send(Method::POST, &path, set).await,
        StatusCode::CREATED,
    )
    .await;
    let run = cell(&api, &site, &day).await["run"].clone();
    assert_eq!(run["run_s"], 24 * 60, "{run}");
    let second = days(&api, &site).await[0]["id"].as_i64().unwrap();
    let undo = async |id: i64| {
        api.send(Method::DELETE, &format!("{site}/edits/{id}"), Value::Null)
            .await
            .status()
    };
    assert_eq!(undo(first).await, StatusCode::CONFLICT);
    assert_eq!(undo(second).await, StatusCode::NO_CONTENT);
    assert_eq!(cell(&api, &site, &day).await["state"], "skip");
    assert_eq!(undo(first).await, StatusCode::NO_CONTENT);
    assert_eq!(undo(first).await, StatusCode::NOT_FOUND);
    assert!(cell(&api, &site, &day).await["edit"].is_null());
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert!(history.contains("day_edited") && history.contains("edit_undone"));
}

#[tokio::test]
async fn a_watering_moves_is_locked_and_goes_back_to_the_plan() {
    let (_app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let cells = plan["zones"][0]["cells"].as_array().unwrap();
    let to = cells
        .iter()
        .rev()
        .find(|c| c["date"].as_str().unwrap() != day)
        .unwrap()["date"]
        .clone();
    let to = to.as_str().unwrap().to_owned();
    let planned = cell(&api, &site, &day).await["run"].clone();
    let moved = change(&json!({ "kind": "move", "to": to }), &day, None, "move");
    expect(
        api.send(Method::POST, &path, moved.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    let there = cell(&api, &site, &to).await["run"].clone();
    assert_eq!(
        (&there["passes"], &there["pass_s"]),
        (&planned["passes"], &planned["pass_s"])
    );
    assert_eq!(cell(&api, &site, &day).await["state"], "skip");
    // Sent again it is the same; another onto a day that is changed is refused.
    expect(
        api.send(Method::POST, &path, moved).await,
        StatusCode::CREATED,
    )
    .await;
    let held = days(&api, &site).await;
    let of_day = held.as_array().unwrap().iter().find(|e| e["date"] == to);
    let seen = of_day.unwrap()["id"].as_i64();
    let back = change(&json!({ "kind": "move", "to": day }), &to, seen, "back");
    let said = api.send(Method::POST, &path, back).await;
    let said = expect(said, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(said["field"], "act.to", "{said}");
    // Both days of the act are undone together.
    let edits = days(&api, &site).await;
    assert_eq!(edits.as_array().unwrap().len(), 2, "{edits}");
    let undone = api
        .send(
            Method::DELETE,
            &format!("{site}/edits/{}", edits[0]["id"]),
            Value::Null,
        )
        .await;
    assert_eq!(undone.status(), StatusCode::NO_CONTENT);
    assert_eq!(days(&api, &site).await, json!([]));
    let lock = change(&json!({ "kind": "lock" }), &day, None, "lock");
    expect(
        api.send(Method::POST, &path, lock).await,
        StatusCode::CREATED,
    )
    .await;
    let locked = cell(&api, &site, &day).await;
    assert_eq!(
        (&locked["verdict"]["verdict"], &locked["run"]["run_s"]),
        (&json!("fixed"), &planned["run_s"])
    );
    let held = days(&api, &site).await[0]["id"].as_i64();
    let release = change(&json!({ "kind": "release" }), &day, held, "release");
    expect(
        api.send(Method::POST, &path, release).await,
        StatusCode::CREATED,
    )
    .await;
    assert!(cell(&api, &site, &day).await["edit"].is_null());
}

#[tokio::test]
async fn a_watering_on_a_night_that_may_freeze_is_asked_about_and_warned_of_while_it_stands() {
    let (app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let set = |key: &str, sure: bool| {
        let act = json!({ "kind": "minutes", "run_minutes": 30 });
        let mut change = change(&act, &day, None, key);
        change["sure"] = json!(sure);
        change
    };
    // A forecast as the weather file of a person brings it: at or below 3 °C nothing runs by itself.
    let cold = "date,tmin_c,tmax_c,rain_mm,rain_probability_pct\n".to_owned()
        + &format!("{day},1.5,9,0,0\n");
    let imports = format!("{site}/weather-imports?conflicts=keep");
    let version = api.json(&site).await["weather_version"].as_i64();
    let imported = api.csv(&imports, version, &cold).await;
    expect(imported, StatusCode::CREATED).await;
    // Looked at, it is said; kept, it is asked about.
    let tried = api
        .send(
            Method::POST,
            &format!("{path}/preview"),
            set("cold-1", false),
        )
        .await;
    let tried = expect(tried, StatusCode::OK).await;
    assert_eq!(tried["warnings"][0]["warning"], "edit_freezes", "{tried}");
    let asked = api.send(Method::POST, &path, set("cold-1", false)).await;
    let asked = expect(asked, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(
        (&asked["unlikely"]["unlikely"], &asked["unlikely"]["tmin_c"]),
        (&json!("freezes"), &json!(1.5)),
        "{asked}"
    );
    assert_eq!(days(&api, &site).await, json!([]));
    let kept = api.send(Method::POST, &path, set("cold-1", true)).await;
    expect(kept, StatusCode::CREATED).await;
    // It stands, replanned too, and is warned of as long as it does.
    let again = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(again, StatusCode::CREATED).await;
    let cold = cell(&api, &site, &day).await;
    assert_eq!(cold["run"]["run_s"], 1800);
    let warned = cold["warnings"].as_array().unwrap().iter();
    let warned: Vec<&Value> = warned.map(|w| &w["warning"]).collect();
    assert!(warned.contains(&&json!("edit_freezes")), "{warned:?}");
    drop(app);
}

#[tokio::test]
async fn a_stale_change_shows_what_holds_and_anothers_is_not_undone() {
    let (app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let clover = app.manager("clover@meadow.example", &site).await;
    let skip = change(&json!({ "kind": "skip" }), &day, None, "hazels");
    expect(
        api.send(Method::POST, &path, skip).await,
        StatusCode::CREATED,
    )
    .await;
    let stale = change(
        &json!({ "kind": "minutes", "run_minutes": 20 }),
        &day,
        None,
        "clovers",
    );
    let said = expect(
        clover.send(Method::POST, &path, stale).await,
        StatusCode::PRECONDITION_FAILED,
    )
    .await;
    assert!(said.to_string().contains("taken_out"), "{said}");
    let held = days(&api, &site).await[0]["id"].as_i64().unwrap();
    let undone = clover
        .send(Method::DELETE, &format!("{site}/edits/{held}"), Value::Null)
        .await;
    assert_eq!(undone.status(), StatusCode::CONFLICT);
    // Seen, it is replaced; then Hazel's can no longer be undone, and who changed it after is said.
    let seen = change(
        &json!({ "kind": "minutes", "run_minutes": 20 }),
        &day,
        Some(held),
        "clovers",
    );
    expect(
        clover.send(Method::POST, &path, seen).await,
        StatusCode::CREATED,
    )
    .await;
    let api = app.sign_in(EMAIL).await;
    let undone = api
        .send(Method::DELETE, &format!("{site}/edits/{held}"), Value::Null)
        .await;
    let said = expect(undone, StatusCode::CONFLICT).await.to_string();
    assert!(said.contains("changed this day after it"), "{said}");
}

#[tokio::test]
async fn changes_that_do_not_hold_are_refused_at_their_field() {
    let (_app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let mut without = change(&json!({ "kind": "skip" }), &day, None, "none");
    without["reason"] = Value::Null;
    let minutes = |min: f64| {
        change(
            &json!({ "kind": "minutes", "run_minutes": min }),
            &day,
            None,
            "min",
        )
    };
    for (field, entry) in [
        ("reason", without),
        (
            "date",
            change(&json!({ "kind": "lock" }), "2026-05-01", None, "past"),
        ),
        ("act.run_minutes", minutes(0.0)),
        ("act.run_minutes", minutes(5000.0)),
        // Longer than the four hours of the night.
        ("act.run_minutes", minutes(300.0)),
        (
            "act.to",
            change(&json!({ "kind": "move", "to": day }), &day, None, "same"),
        ),
        (
            "act.to",
            change(
                &json!({ "kind": "move", "to": "2026-08-01" }),
                &day,
                None,
                "far",
            ),
        ),
    ] {
        let answer = api.send(Method::POST, &path, entry).await;
        let said = expect(answer, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(said["field"], field, "{said}");
    }
    assert_eq!(days(&api, &site).await, json!([]));
}

/// What the record of edits should come to: acts of two people on a few days, by the plainest rules.
#[derive(Default)]
struct Model {
    /// Each act: who, its days with what they become (nothing: as planned), and whether it is undone and when.
    acts: Vec<ModelAct>,
    /// Counts what happens.
    now: u32,
}

struct ModelAct {
    who: usize,
    made: u32,
    days: Vec<(usize, Option<String>)>,
    undone: Option<u32>,
}

impl Model {
    fn tick(&mut self) -> u32 {
        self.now += 1;
        self.now
    }

    /// The act that holds on a day.
    fn holds(&self, day: usize) -> Option<usize> {
        let on = |act: &ModelAct| act.undone.is_none() && act.days.iter().any(|(d, _)| *d == day);
        (0..self.acts.len()).rev().find(|&at| on(&self.acts[at]))
    }

    /// What a day becomes; nothing: as planned.
    fn becomes(&self, day: usize) -> Option<&str> {
        let act = &self.acts[self.holds(day)?];
        let of_day = act.days.iter().find(|(d, _)| *d == day)?;
        of_day.1.as_deref()
    }

    fn last_of(&self, who: usize) -> Option<usize> {
        let own = |at: &usize| self.acts[*at].who == who && self.acts[*at].undone.is_none();
        (0..self.acts.len()).rev().find(own)
    }

    fn undone_last(&self, who: usize) -> Option<usize> {
        let own = self.acts.iter().enumerate().filter(|(_, a)| a.who == who);
        let made = own.clone().map(|(_, a)| a.made).max()?;
        let undone = own.filter_map(|(at, a)| Some((a.undone?, at)));
        let (when, at) = undone.max()?;
        (when > made).then_some(at)
    }

    /// Whether a later act holds a day of this one.
    fn is_covered(&self, at: usize) -> bool {
        let later = self.acts[at + 1..].iter().filter(|a| a.undone.is_none());
        let days = &self.acts[at].days;
        later
            .flat_map(|a| &a.days)
            .any(|(day, _)| days.iter().any(|(own, _)| own == day))
    }
}

/// A small generator, so that a sequence that fails can be run again by its seed.
struct Dice(u64);

impl Dice {
    fn below(&mut self, most: usize) -> usize {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        usize::try_from(self.0 >> 33).unwrap() % most
    }
}

#[tokio::test]
async fn edits_undos_and_replans_come_to_what_a_small_model_says() {
    let (app, api, site, _) = planned().await;
    let people = [app.manager("clover@meadow.example", &site).await, api];
    let plan = people[1].json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let cells = plan["zones"][0]["cells"].as_array().unwrap().iter();
    let ahead: Vec<String> = cells
        .map(|c| c["date"].as_str().unwrap().to_owned())
        .filter(|d| d.as_str() > plan["today"].as_str().unwrap())
        .take(4)
        .collect();
    let path = format!("{site}/zones/1/edits");
    let mut model = Model::default();
    let (mut undone, mut redone, mut refused) = (0, 0, 0);
    let mut dice = Dice(20_260_618);
    for step in 0..120 {
        let who = dice.below(2);
        let person = &people[who];
        match dice.below(7) {
            0..=2 => {
                let day = dice.below(ahead.len());
                let held = days(person, &site).await;
                let mut of_day = held.as_array().unwrap().iter();
                let seen = of_day.find(|e| e["date"] == ahead[day]);
                let seen = seen.and_then(|e| e["id"].as_i64());
                let (act, becomes) = match dice.below(3) {
                    0 => (json!({ "kind": "skip" }), Some("taken_out".to_owned())),
                    1 => (json!({ "kind": "release" }), None),
                    _ => {
                        let min = 10 + dice.below(20);
                        let act = json!({ "kind": "minutes", "run_minutes": min });
                        (act, Some((min * 60).to_string()))
                    }
                };
                let key = format!("model-{step}");
                let sent = person
                    .send(Method::POST, &path, change(&act, &ahead[day], seen, &key))
                    .await;
                expect(sent, StatusCode::CREATED).await;
                let made = model.tick();
                model.acts.push(ModelAct {
                    who,
                    made,
                    days: vec![(day, becomes)],
                    undone: None,
                });
            }
            3..=5 => {
                let redo = dice.below(2) == 0;
                let offered = person.json(&format!("{site}/edits")).await;
                let offered = &offered[if redo { "redo" } else { "undo" }];
                let expected = if redo {
                    model.undone_last(who)
                } else {
                    model.last_of(who)
                };
                assert_eq!(
                    offered.is_null(),
                    expected.is_none(),
                    "step {step}: {offered}"
                );
                let Some(at) = expected else { continue };
                let edit = format!("{site}/edits/{}", offered["id"]);
                let answer = if redo {
                    person
                        .send(Method::POST, &format!("{edit}/redo"), Value::Null)
                        .await
                } else {
                    person.send(Method::DELETE, &edit, Value::Null).await
                };
                if model.is_covered(at) {
                    assert_eq!(answer.status(), StatusCode::CONFLICT, "step {step}");
                    refused += 1;
                } else {
                    assert_eq!(answer.status(), StatusCode::NO_CONTENT, "step {step}");
                    let now = model.tick();
                    model.acts[at].undone = (!redo).then_some(now);
                    *(if redo { &mut redone } else { &mut undone }) += 1;
                }
            }
            _ => {
                let again = person
                    .send(Method::POST, &format!("{site}/plans"), Value::Null)
                    .await;
                expect(again, StatusCode::CREATED).await;
            }
        }
        for (day, date) in ahead.iter().enumerate() {
            let edit = cell(person, &site, date).await["edit"].clone();
            let is = match edit["kind"].as_str() {
                Some("set") => Some(
                    (edit["passes"].as_i64().unwrap() * edit["pass_s"].as_i64().unwrap())
                        .to_string(),
                ),
                other => other.map(str::to_owned),
            };
            assert_eq!(is.as_deref(), model.becomes(day), "step {step}, {date}");
        }
    }
    assert!(
        undone > 10 && redone > 3 && refused > 3,
        "{undone} undone, {redone} redone, {refused} refused"
    );
}
