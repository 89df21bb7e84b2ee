//! The pictures of docs/screenshots, from the demo data; `cargo xtask screenshots` names the folder. Without one this only checks
//! that every picture that the README shows is there.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::browser::Screen;
use crate::browser::page::{Page, with_page};
use crate::controllers::Standin;
use crate::harness::{Api, App, EMAIL, expect};
use crate::recovery::{LET_GO, until_judged, until_waking};
use crate::walks::heat_wave;

const VIEWS: [(&str, &str, &str, &str); 12] = [
    ("morning", "/site/1/morning", "Needs a person", "both"),
    ("week", "/site/1/week", "reference ET, mm", "both"),
    ("sprinklers", "/site/1/sprinklers", "Never measured", "desk"),
    ("soil", "/site/1/soil", "Textures measured here", "desk"),
    (
        "rules",
        "/site/1/settings?tab=rules",
        "Local rules decide",
        "desk",
    ),
    ("schools", "/site/1/schools", "Goes wrong", "desk"),
    ("book", "/site/1/book", "Between readings", "both"),
    ("days", "/site/1/book/days", "Look at this first", "both"),
    (
        "seedbed",
        "/site/1/new-grass",
        "as dry as it may be",
        "both",
    ),
    ("stages", "/site/1/new-grass", "How it went", "both"),
    (
        "weeks",
        "/site/1/new-grass/plan?zone=2",
        "On rain alone",
        "both",
    ),
    (
        "backwards",
        "/site/1/new-grass/plan?zone=2",
        "All weeks as a table",
        "both",
    ),
];

/// Of the demo where summers are dry, in a heat wave.
const HOT_VIEWS: [(&str, &str, &str); 5] = [
    ("heat", "/site/1/stress", "By hand on a hot day"),
    ("decide", "/site/1/stress/decide", "less water."),
    ("ledger", "/site/1/stress", "Days of heat left"),
    ("walk", "/site/1/stress/walk", "Footprints"),
    ("allocation", "/site/1/stress/share", "Who gets what"),
];

/// What is shown at both sizes in one picture, the desk's beside the phone's.
const BESIDE: [&str; 14] = [
    "allocation",
    "backwards",
    "book",
    "days",
    "decide",
    "heat",
    "ledger",
    "morning",
    "recovery",
    "seedbed",
    "stages",
    "walk",
    "week",
    "weeks",
];

/// What stands in one picture below one another, by its name.
const STACKED: [(&str, &[&str]); 2] = [
    ("stress", &["heat", "ledger"]),
    ("new-grass", &["seedbed", "stages", "weeks", "backwards"]),
];

/// Whether a picture is part of a higher one.
fn is_stacked(name: &str) -> bool {
    STACKED.iter().any(|(_, parts)| parts.contains(&name))
}

/// Puts pictures into one, below one another.
fn stacked(folder: &str) {
    for (name, parts) in STACKED {
        let file = |part: &str| format!("{folder}/{part}.png");
        let rows: Vec<image::DynamicImage> = parts
            .iter()
            .map(|part| image::open(file(part)).unwrap())
            .collect();
        let wide = rows.iter().map(image::DynamicImage::width).max().unwrap();
        let high = rows.iter().map(|row| row.height() + 24).sum::<u32>() - 24;
        let mut all = image::RgbaImage::from_pixel(wide, high, image::Rgba([255; 4]));
        let mut at = 0;
        for row in &rows {
            image::imageops::replace(&mut all, &row.to_rgba8(), 0, at);
            at += i64::from(row.height() + 24);
        }
        for part in parts {
            std::fs::remove_file(file(part)).unwrap();
        }
        all.save(file(name)).unwrap();
    }
}

/// Puts the pictures of both sizes into one.
fn beside(folder: &str) {
    for name in BESIDE {
        let file = |size: &str| format!("{folder}/{name}-{size}.png");
        let [desk, phone] = ["desk", "phone"].map(|size| image::open(file(size)).unwrap());
        let (wide, high) = (
            desk.width() + 24 + phone.width(),
            desk.height().max(phone.height()),
        );
        let mut both = image::RgbaImage::from_pixel(wide, high, image::Rgba([255; 4]));
        image::imageops::replace(&mut both, &desk.to_rgba8(), 0, 0);
        image::imageops::replace(
            &mut both,
            &phone.to_rgba8(),
            i64::from(desk.width() + 24),
            0,
        );
        both.save(format!("{folder}/{name}.png")).unwrap();
        for size in ["desk", "phone"] {
            std::fs::remove_file(file(size)).unwrap();
        }
    }
}

/// Pictures of heat, of zones let go and of a walk.
async fn hot_pictures(folder: &str) {
    let (app, ..) = heat_wave().await;
    for (screen, size) in [(Screen::Desk, "desk"), (Screen::Phone, "phone")] {
        let folder = folder.to_owned();
        with_page(&app, screen, "screenshots", move |page| async move {
            page.sign_in(EMAIL).await;
            for (name, path, words) in HOT_VIEWS {
                if name == "ledger" {
                    let_go(&page, "dormant").await;
                }
                page.open(path).await;
                page.see(words).await;
                if name == "ledger" {
                    let script = "[...document.querySelectorAll('h2')].find((h) => h.textContent === 'Each zone').scrollIntoView()";
                    page.client.execute(script, vec![]).await.unwrap();
                }
                if name == "allocation" {
                    page.fill("Water for these seven days, m³", "120").await;
                    page.press("Share it out").await;
                    page.see("With 120.0 m³").await;
                    page.find("//*[name()='svg' and contains(@class, 'recharts')]").await;
                }
                if name == "walk" {
                    for chosen in ["stay half an hour", "brown patches", "it holds"] {
                        page.press(chosen).await;
                    }
                }
                still(&page).await;
                let png = page.client.screenshot().await.unwrap();
                std::fs::write(format!("{folder}/{name}-{size}.png"), png).unwrap();
                if name == "ledger" {
                    let_go(&page, "established").await;
                }
            }
            page
        })
        .await;
    }
}

/// A made-up photo of turf: blades of a colour, some of another.
fn turf(blades: [u8; 3], others: [u8; 3]) -> Vec<u8> {
    let picture = image::RgbImage::from_fn(320, 224, |x, y| {
        let noise = (x * 7919 + y * 104_729 + (x * y) % 97 * 31) % 100;
        let of = if noise < 30 { others } else { blades };
        let light = 80 + (x * 13 + y / 6 * 29) % 21;
        image::Rgb(of.map(|c| u8::try_from(u32::from(c) * light / 100).unwrap_or(u8::MAX)))
    });
    let mut bytes = std::io::Cursor::new(Vec::new());
    picture
        .write_to(&mut bytes, image::ImageFormat::Png)
        .unwrap();
    bytes.into_inner()
}

/// A patch with the first look at it, and another look where there is one, each with a photo.
async fn patch(api: &Api, zone: i64, body: Value, photo: Vec<u8>) {
    let path = format!("/sites/1/zones/{zone}/patches");
    let noted = expect(
        api.send(Method::POST, &path, body).await,
        StatusCode::CREATED,
    )
    .await;
    put_photo(api, &noted, photo).await;
}

async fn put_photo(api: &Api, noted: &Value, photo: Vec<u8>) {
    let path = format!("/sites/1/patch-looks/{}/photo", noted["look"]);
    let kept = api.request(Method::PUT, &path).body(photo).send().await;
    assert_eq!(kept.unwrap().status(), StatusCode::NO_CONTENT);
}

/// Pictures of recovery: three zones let go in June, woken in September, judged in October.
async fn autumn_pictures(folder: &str) {
    let straw = || turf([196, 170, 110], [120, 96, 60]);
    let green = || turf([74, 130, 52], [150, 150, 80]);
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let turn = async |zone: i64, regime: &str| {
        let path = format!("/sites/1/zones/{zone}/regime");
        let body = json!({ "regime": regime, "note": "the well is low" });
        let done = api.send(Method::PUT, &path, body).await;
        assert_eq!(done.status(), StatusCode::NO_CONTENT);
    };
    for zone in LET_GO {
        turn(zone, "dormant").await;
    }
    let first = json!({ "name": "by the drive", "area_m2": 12.5, "holds": true, "idempotency_key": "picture-01" });
    patch(&api, LET_GO[0], first, straw()).await;
    let second = json!({ "name": "under the oak", "area_m2": 4, "holds": true, "idempotency_key": "picture-02" });
    patch(&api, LET_GO[0], second, straw()).await;
    until_waking(&api).await;
    for zone in LET_GO {
        turn(zone, "recovering").await;
    }
    let view = until_judged(&api, LET_GO[0]).await;
    let zone = view["zones"].as_array().unwrap().iter();
    let own = zone.clone().find(|z| z["zone"] == LET_GO[0]).unwrap();
    for (number, alive) in [(0, false), (1, true)] {
        let path = format!("/sites/1/patches/{}/looks", own["patches"][number]["id"]);
        let body = json!({ "holds": alive, "alive": alive, "idempotency_key": "picture-03" });
        let noted = expect(
            api.send(Method::POST, &path, body).await,
            StatusCode::CREATED,
        )
        .await;
        put_photo(&api, &noted, if alive { green() } else { straw() }).await;
    }
    let gap = json!({ "name": "under the window", "area_m2": 0.8, "alive": false, "idempotency_key": "picture-04" });
    patch(&api, LET_GO[2], gap, straw()).await;
    for (screen, size) in [(Screen::Desk, "desk"), (Screen::Phone, "phone")] {
        let folder = folder.to_owned();
        with_page(&app, screen, "screenshots", move |page| async move {
            page.sign_in(EMAIL).await;
            page.open("/site/1/stress/recovery").await;
            page.see("Loosen the soil").await;
            let loaded = "return [...document.images].every((i) => i.complete)";
            while page.client.execute(loaded, vec![]).await.unwrap() != true {}
            still(&page).await;
            let png = page.client.screenshot().await.unwrap();
            std::fs::write(format!("{folder}/recovery-{size}.png"), png).unwrap();
            page
        })
        .await;
    }
}

/// Waits until nothing moves.
async fn still(page: &Page) {
    let still = "return document.getAnimations().every((a) => a.playState !== 'running')";
    while page.client.execute(still, vec![]).await.unwrap() != true {}
}

/// Asks the demo's site as its page does; `script` ends with a `return`, if with anything.
async fn ask(page: &Page, script: &str) -> Value {
    let script = format!(
        r"const ask = (path, method, body) => fetch('/api/v1/sites/1' + path, {{ method, headers: {{ 'content-type': 'application/json' }},
              body: body && JSON.stringify(body) }}).then((r) => r.json());
          return (async () => {{ {script} }})();"
    );
    page.client.execute(&script, vec![]).await.unwrap()
}

/// A day skipped for a fair, and another given other minutes, as a manager does.
async fn edit_the_week(page: &Page) {
    let script = r"
        const { current } = await ask('/plan', 'GET');
        const waters = current.plan.zones.flatMap((z) => z.cells.filter((c) => c.run && c.date > current.plan.today)
            .slice(0, 1).map((c) => ({ zone: z.zone, date: c.date, min: Math.round(c.run.run_s / 60) })));
        const change = (at, act, reason) => ask(`/zones/${at.zone}/edits`, 'POST',
            { act, date: at.date, reason, idempotency_key: 'pictures-' + Math.random() });
        await change(waters[0], { kind: 'skip' }, 'the midsummer fair');
        const made = await change(waters[1], { kind: 'minutes', run_minutes: waters[1].min + 10 }, null);
        return made.after.run_s;";
    let made = ask(page, script).await;
    assert!(made.as_i64().is_some_and(|s| s > 0), "{made}");
}

/// Three zones are let go, or kept green again.
async fn let_go(page: &Page, regime: &str) {
    let script = format!(
        "for (const zone of [3, 4, 5]) await ask(`/zones/${{zone}}/regime`, 'PUT', {{ regime: '{regime}', note: 'the well is low' }}).catch(() => undefined);"
    );
    ask(page, &script).await;
}

/// What [`edit_the_week`] did, undone.
async fn undo_edits(page: &Page) {
    let script = r"
        for (;;) {
            const { undo } = await ask('/edits', 'GET');
            if (!undo) return;
            await ask(`/edits/${undo.id}`, 'DELETE').catch(() => undefined);
        }";
    ask(page, script).await;
}

#[tokio::test]
async fn pictures_of_each_view() {
    let shown = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/screenshots");
    let Ok(folder) = std::env::var("FRESH_MEADOW_SCREENSHOTS") else {
        assert!(shown.join("can-test-phone.png").exists());
        assert!(shown.join("night-desk.png").exists());
        assert!(shown.join("published-desk.png").exists());
        assert!(shown.join("begin-phone.png").exists());
        let alone = BESIDE.into_iter().filter(|name| !is_stacked(name));
        for name in alone.chain(STACKED.map(|(name, _)| name)) {
            assert!(shown.join(format!("{name}.png")).exists(), "{name}.png");
        }
        for (name, _, _, sizes) in VIEWS.into_iter().filter(|view| !BESIDE.contains(&view.0)) {
            for size in ["desk", "phone"]
                .into_iter()
                .filter(|s| ["both", *s].contains(&sizes))
            {
                assert!(
                    shown.join(format!("{name}-{size}.png")).exists(),
                    "{name}-{size}.png"
                );
            }
        }
        return;
    };
    hot_pictures(&folder).await;
    autumn_pictures(&folder).await;
    let standin = Standin::start("pictures").await;
    let app = App::own_demo_with(|s| standin.name_in(s)).await;
    for (screen, size) in [(Screen::Desk, "desk"), (Screen::Phone, "phone")] {
        let folder = folder.clone();
        with_page(&app, screen, "screenshots", move |page| async move {
            page.sign_in(EMAIL).await;
            ask(&page, "await ask('/controller', 'PUT', { connected: true }).catch(() => undefined);").await;
            for (name, path, words, sizes) in VIEWS {
                if sizes != "both" && sizes != size {
                    continue;
                }
                if name == "week" {
                    edit_the_week(&page).await;
                }
                page.open(path).await;
                page.see(words).await;
                if path.ends_with("/morning") {
                    let there =
                        "//section[h2='What ran']//*[self::li or contains(text(), 'Nothing in')]";
                    page.find(there).await;
                }
                if name == "sprinklers" && size == "desk" {
                    page.press_at("//summary[contains(., 'Before and after')]")
                        .await;
                    page.see("Straw and hatched: drier than the mean").await;
                }
                if ["book", "days"].contains(&name) {
                    page.find("//*[name()='svg' and contains(@class, 'recharts')]")
                        .await;
                    // Its bars grow by a script of their own, which no animation of the page tells of.
                    let grown = "const bars = document.querySelectorAll('.recharts-bar-rectangle path');
                        const size = JSON.stringify([...bars].map((b) => b.getAttribute('d')));
                        const same = bars.length > 0 && size === window.barsWere; window.barsWere = size; return same;";
                    while page.client.execute(grown, vec![]).await.unwrap() != true {
                        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
                    }
                }
                if name == "days" {
                    page.find("//td[contains(., 'head is broken')]").await;
                    // The chart and the days below it.
                    let script = "document.querySelector('figure').scrollIntoView()";
                    page.client.execute(script, vec![]).await.unwrap();
                    if size == "phone" {
                        page.press("Fri 5 June").await;
                    }
                }
                let below = match name {
                    "stages" => Some("section[aria-label='Stages']"),
                    "backwards" => Some("section[aria-label='Planned backwards']"),
                    _ => None,
                };
                if let Some(below) = below {
                    let script = format!("document.querySelector(\"{below}\").scrollIntoView()");
                    page.client.execute(&script, vec![]).await.unwrap();
                }
                if name == "rules" {
                    page.press("Add a rule ▾").await;
                    page.tap("Odd or even dates").await;
                    page.press("Add a change of stage").await;
                    page.find("//td[contains(., 'rule 1')]").await;
                    page.client
                        .execute("window.scrollTo(0, 0)", vec![])
                        .await
                        .unwrap();
                }
                let png = page.client.screenshot().await.unwrap();
                std::fs::write(format!("{folder}/{name}-{size}.png"), png).unwrap();
                if name == "week" && size == "desk" {
                    page.press("What changed").await;
                    page.see("What the newest plan changes of it").await;
                    page.see("Last heard").await;
                    still(&page).await;
                    let png = page.client.screenshot().await.unwrap();
                    std::fs::write(format!("{folder}/published-desk.png"), png).unwrap();
                    page.press("Close the published week").await;
                    // Sunday's, on which several zones water.
                    let right = "const grid = document.querySelector('[role=grid]');
                        grid.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true }));";
                    for _ in 0..3 {
                        page.client.execute(right, vec![]).await.unwrap();
                    }
                    page.press("The night").await;
                    page.see("on the clock").await;
                    still(&page).await;
                    let png = page.client.screenshot().await.unwrap();
                    std::fs::write(format!("{folder}/night-desk.png"), png).unwrap();
                }
                if name == "week" {
                    undo_edits(&page).await;
                }
            }
            if size == "phone" {
                page.open("/site/1/add-zone").await;
                page.fill("Name", "Well green").await;
                page.tap("Next").await;
                page.see("What waters it?").await;
                page.see("On a summer’s day").await;
                let png = page.client.screenshot().await.unwrap();
                std::fs::write(format!("{folder}/begin-{size}.png"), png).unwrap();
                page.open("/site/1/sprinklers/3").await;
                page.pick("mL, mouth's area").await;
                page.press("Begin").await;
                for reading in ["42", "38", "51", "47", "29", "33", "60", "55", "36", "41"] {
                    for digit in reading.chars() {
                        page.press(&digit.to_string()).await;
                    }
                    page.press("Next").await;
                }
                page.press("4").await;
                page.see("Can 11 of 16").await;
                page.see("mm/h so far").await;
                let png = page.client.screenshot().await.unwrap();
                std::fs::write(format!("{folder}/can-test-{size}.png"), png).unwrap();
                page.press("Throw this test away").await;
            }
            if size == "desk" {
                page.open("/site/1/morning").await;
                page.press("Why, Playing field").await;
                page.see("How dry the root zone is").await;
                still(&page).await;
                let png = page.client.screenshot().await.unwrap();
                std::fs::write(format!("{folder}/working-{size}.png"), png).unwrap();
            }
            page
        })
        .await;
    }
    beside(&folder);
    stacked(&folder);
}
