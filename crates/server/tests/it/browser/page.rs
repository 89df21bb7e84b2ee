//! What a person does on a page: see words, press buttons, fill fields.

use std::future::Future;
use std::path::Path;
use std::time::{Duration, Instant};

use fantoccini::elements::Element;
use fantoccini::{Client, Locator};
use image::ImageFormat;
use serde_json::{Value, json};
use tokio::sync::SemaphorePermit;

use super::driver::{self, Screen};
use crate::harness::{App, PASSWORD};
use crate::soil::picture;

pub struct Page {
    pub client: Client,
    origin: String,
}

/// Runs a test in a browser; it closes in all cases, and a failure leaves a picture.
pub async fn with_page<F>(app: &App, screen: Screen, name: &str, test: impl FnOnce(Page) -> F)
where
    F: Future<Output = Page> + Send + 'static,
{
    let (client, _permit) = driver::session(screen).await;
    let page = Page {
        client: client.clone(),
        origin: app.origin(),
    };
    let result = tokio::spawn(test(page)).await;
    if result.is_err()
        && let Ok(png) = client.screenshot().await
    {
        let path = std::env::temp_dir().join(format!("fresh-meadow-{name}.png"));
        std::fs::write(&path, png).unwrap();
        eprintln!("{name}: the page as it failed: {}", path.display());
    }
    client.close().await.unwrap();
    if let Err(error) = result {
        std::panic::resume_unwind(error.into_panic());
    }
}

impl Page {
    /// A second browser on the same application, for another person; closed with [`Client::close`]. Of all tests one may ask for it: two that wait for
    /// each other's would wait for ever.
    pub async fn beside(&self, screen: Screen) -> (Self, SemaphorePermit<'static>) {
        let (client, permit) = driver::session(screen).await;
        let origin = self.origin.clone();
        (Self { client, origin }, permit)
    }
}

/// An XPath text literal.
fn literal(text: &str) -> String {
    if text.contains('\'') {
        format!("\"{text}\"")
    } else {
        format!("'{text}'")
    }
}

impl Page {
    pub async fn open(&self, path: &str) {
        self.client
            .goto(&format!("{}{path}", self.origin))
            .await
            .unwrap();
    }

    /// Waits for what an XPath names, shown.
    pub async fn find(&self, xpath: &str) -> Element {
        let deadline = Instant::now() + Duration::from_secs(20);
        loop {
            // The page may redraw between finding and asking: then look again.
            for element in self
                .client
                .find_all(Locator::XPath(xpath))
                .await
                .unwrap_or_default()
            {
                if element.is_displayed().await.unwrap_or(false) {
                    return element;
                }
            }
            if Instant::now() > deadline {
                let seen = self
                    .client
                    .find(Locator::Css("body"))
                    .await
                    .unwrap()
                    .text()
                    .await
                    .unwrap();
                panic!("not shown: {xpath}\nthe page says:\n{seen}");
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    /// Waits until no shown element matches.
    pub async fn gone(&self, xpath: &str) {
        let deadline = Instant::now() + Duration::from_secs(20);
        'again: loop {
            assert!(Instant::now() < deadline, "still shown: {xpath}");
            for element in self
                .client
                .find_all(Locator::XPath(xpath))
                .await
                .unwrap_or_default()
            {
                if element.is_displayed().await.unwrap_or(false) {
                    tokio::time::sleep(Duration::from_millis(50)).await;
                    continue 'again;
                }
            }
            return;
        }
    }

    /// Waits for words anywhere.
    pub async fn see(&self, words: &str) -> Element {
        let words = literal(words);
        self.find(&format!("//*[text()[contains(normalize-space(.), {words})] or (contains(normalize-space(.), {words}) and not(*[contains(normalize-space(.), {words})]) and not(self::script))]"))
            .await
    }

    /// Presses a button, link or tab by its name.
    pub async fn press(&self, name: &str) {
        let name = literal(name);
        let xpath = format!(
            "//*[self::button or self::a or @role='menuitem' or @role='tab'][not(@disabled)][normalize-space(.)={name} or @aria-label={name}]"
        );
        let deadline = Instant::now() + Duration::from_secs(20);
        loop {
            // Something may lie over it while a dialog opens or closes.
            match self.find(&xpath).await.click().await {
                Ok(()) => return,
                Err(error) => assert!(Instant::now() < deadline, "{xpath}: {error}"),
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    /// The field of a label.
    async fn field(&self, label: &str) -> Element {
        let text = literal(label);
        let label = self
            .find(&format!(
                "//label[normalize-space(.)={text} or normalize-space(text()[1])={text}]"
            ))
            .await;
        let id = label
            .attr("for")
            .await
            .unwrap()
            .expect("a label names its field");
        self.client.find(Locator::Id(&id)).await.unwrap()
    }

    pub async fn fill(&self, label: &str, text: &str) {
        let field = self.field(label).await;
        // As a person does: what is there is marked, and typed over. A number field keeps its text when it is cleared by script.
        let mark = "arguments[0].focus(); arguments[0].select();";
        let this = vec![serde_json::to_value(&field).unwrap()];
        self.client.execute(mark, this).await.unwrap();
        let keys = if text.is_empty() { "\u{e017}" } else { text };
        field.send_keys(keys).await.unwrap();
    }

    /// Sets a field whose typed form depends on the browser's language, such as a date.
    pub async fn set(&self, label: &str, value: &str) {
        let field = self.field(label).await;
        let script =
            "const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
                      set.call(arguments[0], arguments[1]);
                      arguments[0].dispatchEvent(new Event('input', { bubbles: true }));";
        self.client
            .execute(
                script,
                vec![serde_json::to_value(&field).unwrap(), json!(value)],
            )
            .await
            .unwrap();
    }

    /// Ticks a box or picks a radio button by its label.
    pub async fn press_label(&self, label: &str) {
        self.field(label).await.click().await.unwrap();
    }

    /// Lets the header be pressed while a dialog is open, as the keys of a screen reader can.
    pub async fn unlock_header(&self) {
        let script = "const style = document.createElement('style');
            style.textContent = 'header { position: relative; z-index: 9999; }';
            document.head.append(style);";
        self.client.execute(script, vec![]).await.unwrap();
    }

    /// Opens or closes what a summary hides.
    pub async fn unfold(&self, summary: &str) {
        let text = literal(summary);
        let xpath = format!("//summary[starts-with(normalize-space(.), {text})]");
        self.find(&xpath).await.click().await.unwrap();
    }

    /// Picks one of several by the words on it.
    pub async fn pick(&self, words: &str) {
        let text = literal(words);
        let xpath = format!("//label[normalize-space(.)={text}]");
        let label = self.find(&xpath).await;
        label.click().await.unwrap();
        // A tap on what has moved away picks nothing.
        let picked =
            "const field = arguments[0].control; return field?.type !== 'radio' || field.checked";
        let this = vec![serde_json::to_value(&label).unwrap()];
        let picked = self.client.execute(picked, this).await.unwrap();
        assert_eq!(picked, json!(true), "{words} is picked");
    }

    pub async fn choose(&self, label: &str, option: &str) {
        self.field(label)
            .await
            .select_by_label(option)
            .await
            .unwrap();
    }

    /// Chooses of a list that is named without a label.
    pub async fn choose_named(&self, name: &str, option: &str) {
        let name = literal(name);
        let list = self.find(&format!("//select[@aria-label={name}]")).await;
        list.select_by_label(option).await.unwrap();
    }

    pub async fn value(&self, label: &str) -> String {
        self.field(label)
            .await
            .prop("value")
            .await
            .unwrap()
            .unwrap()
    }

    pub async fn upload(&self, label: &str, file: &Path) {
        self.field(label)
            .await
            .send_keys(file.to_str().unwrap())
            .await
            .unwrap();
    }

    /// Takes a photo, in the one place on the page that asks for one.
    pub async fn photo(&self, name: &str) {
        let file = std::env::temp_dir().join(format!("{name}-{}.png", std::process::id()));
        std::fs::write(&file, picture(ImageFormat::Png)).unwrap();
        let inputs = Locator::XPath("//input[@type='file']");
        let input = self.client.find(inputs).await.unwrap();
        input.send_keys(file.to_str().unwrap()).await.unwrap();
        self.see("A photo goes with it.").await;
    }

    /// From a list of zones to the form of one.
    pub async fn change_zone(&self, name: &str) {
        self.press(name).await;
        self.press("Change it").await;
    }

    /// Taps a button whose words begin so.
    pub async fn tap(&self, words: &str) {
        let words = literal(words);
        let xpath = format!("//button[not(@disabled)][starts-with(normalize-space(.), {words})]");
        self.find(&xpath).await.click().await.unwrap();
    }

    /// Types in a field that is named without a label.
    pub async fn type_in(&self, name: &str, text: &str) {
        let name = literal(name);
        let field = self.find(&format!("//input[@aria-label={name}]")).await;
        field.send_keys(text).await.unwrap();
    }

    /// Waits until something of a kind, `INPUT` or `BUTTON`, has the focus in a dialog.
    pub async fn in_focus(&self, kind: &str) {
        let script = format!(
            "const e = document.activeElement; return e.tagName === '{kind}' && e.closest('[role=dialog]') !== null"
        );
        let deadline = Instant::now() + Duration::from_secs(20);
        while self.client.execute(&script, vec![]).await.unwrap() != json!(true) {
            assert!(Instant::now() < deadline, "no {kind} has the focus");
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
    }

    /// Types keys to whatever has the focus, as a person without a mouse does.
    pub async fn keys(&self, keys: &str) {
        let focused = self.client.active_element().await.unwrap();
        focused.send_keys(keys).await.unwrap();
    }

    pub async fn sign_in(&self, email: &str) {
        self.open("/").await;
        self.fill("E-mail address", email).await;
        self.fill("Password", PASSWORD).await;
        self.press("Sign in").await;
        self.gone("//label[normalize-space(text()[1])='Password']")
            .await;
    }

    /// The texts of a table's cells, row by row, headings included.
    pub async fn table(&self, caption: &str) -> Vec<Vec<String>> {
        let caption = literal(caption);
        let table = self
            .find(&format!(
                "//table[caption[normalize-space(.)={caption}] or @aria-label={caption}]"
            ))
            .await;
        let mut rows = Vec::new();
        for row in table.find_all(Locator::Css("tbody tr")).await.unwrap() {
            let mut cells = Vec::new();
            for cell in row.find_all(Locator::Css("th, td")).await.unwrap() {
                cells.push(cell.text().await.unwrap());
            }
            rows.push(cells);
        }
        rows
    }

    /// Fails on anything that axe-core finds against WCAG 2 A and AA up to 2.2, and on a page that scrolls sideways.
    pub async fn is_accessible(&self, view: &str) {
        let axe = concat!(
            env!("CARGO_MANIFEST_DIR"),
            "/../../web/node_modules/axe-core/axe.min.js"
        );
        let source = std::fs::read_to_string(axe)
            .expect("axe-core is installed with the front end's packages");
        self.client.execute(&source, vec![]).await.unwrap();
        // Fading in is no contrast that people read by: wait until nothing moves.
        let script = "const done = arguments[arguments.length - 1];
            const still = () => document.getAnimations().every((a) => a.playState !== 'running');
            const begin = () => still() ? axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] })
                .then((r) => done(r.violations.map((v) => `${v.id}: ${v.help}: ${v.nodes.map((n) => n.html.slice(0, 160) + ' ' + (n.any[0]?.message ?? '')).join(' | ')}`)))
                .catch((e) => done([String(e)])) : setTimeout(begin, 30);
            begin();";
        let found = self.client.execute_async(script, vec![]).await.unwrap();
        assert_eq!(found, json!([]), "{view}");
        self.fits(view).await;
    }

    /// Fails on a page that scrolls sideways.
    pub async fn fits(&self, view: &str) {
        let wide = self
            .client
            .execute("return document.documentElement.scrollWidth - document.documentElement.clientWidth", vec![])
            .await
            .unwrap();
        assert_eq!(wide, Value::from(0), "{view} scrolls sideways");
    }
}
