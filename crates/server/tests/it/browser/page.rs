//! What a person does on a page: see words, press buttons, fill fields.

use std::future::Future;
use std::panic::AssertUnwindSafe;
use std::path::Path;
use std::time::{Duration, Instant};

use fantoccini::elements::Element;
use fantoccini::error::{CmdError, ErrorStatus};
use fantoccini::{Client, Locator};
use futures_util::FutureExt;
use image::ImageFormat;
use serde_json::{Value, json};
use tokio::sync::SemaphorePermit;

use super::driver::{self, Screen};
use crate::harness::{App, PASSWORD, PATIENCE};
use crate::photos::picture;

/// How long a condition is left alone before it is looked at again.
const AGAIN: Duration = Duration::from_millis(50);

pub struct Page {
    pub client: Client,
    origin: String,
}

/// Whether a command failed because the page was drawn anew, or something lay over it for a moment: then it is tried again.
fn passes(error: &CmdError) -> bool {
    let lies_over = |error: &CmdError| matches!(error, CmdError::Standard(said) if said.error == ErrorStatus::ElementClickIntercepted);
    error.is_stale_element_reference()
        || error.is_no_such_element()
        || error.is_element_not_interactable()
        || lies_over(error)
}

/// Runs a test in a browser; it closes in all cases, and a failure leaves a picture.
pub async fn with_page<F>(app: &App, screen: Screen, name: &str, test: impl FnOnce(Page) -> F)
where
    F: Future<Output = Page>,
{
    let (client, _permit) = driver::session(screen).await;
    let page = Page {
        client: client.clone(),
        origin: app.origin(),
    };
    let result = AssertUnwindSafe(test(page)).catch_unwind().await;
    if result.is_err()
        && let Ok(png) = client.screenshot().await
    {
        let path = std::env::temp_dir().join(format!("fresh-meadow-{name}.png"));
        std::fs::write(&path, png).unwrap();
        eprintln!("{name}: the page as it failed: {}", path.display());
    }
    client.close().await.unwrap();
    if let Err(panic) = result {
        std::panic::resume_unwind(panic);
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
        let deadline = Instant::now() + PATIENCE;
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
            tokio::time::sleep(AGAIN).await;
        }
    }

    /// Does something with what an XPath names once it is shown; again where the page was drawn anew in the middle of it.
    async fn with<T>(&self, xpath: &str, deed: impl AsyncFn(Element) -> Result<T, CmdError>) -> T {
        let deadline = Instant::now() + PATIENCE;
        loop {
            match deed(self.find(xpath).await).await {
                Ok(done) => return done,
                Err(error) => assert!(
                    passes(&error) && Instant::now() < deadline,
                    "{xpath}: {error}"
                ),
            }
            tokio::time::sleep(AGAIN).await;
        }
    }

    /// Waits until nothing is asked for and what came of it is drawn: until then what is to be pressed may move away from under the finger. An answer that is held
    /// back on purpose is not waited for.
    async fn settled(&self) {
        self.rests_within(Duration::from_secs(3)).await;
    }

    /// Waits until nothing is asked for any more, whatever was tried again.
    pub async fn rests(&self) {
        let deadline = Instant::now() + PATIENCE;
        while !self.rests_within(Duration::from_secs(3)).await {
            assert!(
                Instant::now() < deadline,
                "something is asked for all the time"
            );
        }
    }

    /// Whether nothing is asked for within a time.
    async fn rests_within(&self, most: Duration) -> bool {
        let settles = "const [most, done] = arguments;
            const late = Date.now() + most;
            const look = () => {
                const asks = document.body.hasAttribute('data-fetching');
                if (asks && Date.now() < late) setTimeout(look, 20);
                else setTimeout(() => done(!asks), 20);
            };
            look();";
        let most = json!(u64::try_from(most.as_millis()).unwrap());
        // A page that is left meanwhile has nothing to settle.
        let said = self.client.execute_async(settles, vec![most]).await;
        said.is_ok_and(|rests| rests == json!(true))
    }

    /// Presses what an XPath names.
    pub async fn press_at(&self, xpath: &str) {
        self.find(xpath).await;
        self.settled().await;
        self.with(xpath, async |element| element.click().await)
            .await;
    }

    /// The words of what an XPath names.
    pub async fn words_of(&self, xpath: &str) -> String {
        self.with(xpath, async |element| element.text().await).await
    }

    /// An attribute of what an XPath names.
    pub async fn attribute_of(&self, xpath: &str, name: &str) -> Option<String> {
        self.with(xpath, async |element| element.attr(name).await)
            .await
    }

    /// Opens a menu and picks of it what begins so.
    pub async fn pick_of_menu(&self, menu: &str, words: &str) {
        let (menu, words) = (literal(menu), literal(words));
        let button = format!(
            "//button[@aria-haspopup='menu'][normalize-space(.)={menu} or @aria-label={menu}]"
        );
        let item = format!("//*[@role='menuitem'][starts-with(normalize-space(.), {words})]");
        self.find(&button).await;
        let deadline = Instant::now() + PATIENCE;
        let mut opened = 0;
        // Where the page is drawn anew an open menu closes.
        while !self.is_pressed(&item).await {
            let expanded = self.attribute_of(&button, "aria-expanded").await;
            assert!(
                Instant::now() < deadline,
                "not in the menu {menu}, opened {opened} times, now {expanded:?}: {words}"
            );
            if expanded.as_deref() != Some("true") {
                self.press_at(&button).await;
                opened += 1;
            }
            tokio::time::sleep(AGAIN).await;
        }
    }

    /// Presses what an XPath names if it is shown now; whether it was.
    async fn is_pressed(&self, xpath: &str) -> bool {
        let found = self.client.find_all(Locator::XPath(xpath)).await;
        for element in found.unwrap_or_default() {
            if element.is_displayed().await.unwrap_or(false) {
                self.settled().await;
                if element.click().await.is_ok() {
                    return true;
                }
            }
        }
        false
    }

    /// Opens the working of a zone's next watering or wait, on Morning. On a phone what waits is a line, which opens first.
    pub async fn open_working(&self, zone: &str) {
        let named = |what: &str| {
            format!(
                "//button[@aria-label={}]",
                literal(&format!("{what}, {zone}"))
            )
        };
        let (why, more) = (named("Why"), named("More"));
        let deadline = Instant::now() + PATIENCE;
        while !self.is_pressed(&why).await {
            assert!(Instant::now() < deadline, "no working of {zone}");
            self.is_pressed(&more).await;
            tokio::time::sleep(AGAIN).await;
        }
    }

    /// Waits until no shown element matches.
    pub async fn gone(&self, xpath: &str) {
        let deadline = Instant::now() + PATIENCE;
        'again: loop {
            assert!(Instant::now() < deadline, "still shown: {xpath}");
            for element in self
                .client
                .find_all(Locator::XPath(xpath))
                .await
                .unwrap_or_default()
            {
                if element.is_displayed().await.unwrap_or(false) {
                    tokio::time::sleep(AGAIN).await;
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
        self.press_at(&xpath).await;
    }

    /// The field of a label, by its identifier.
    async fn field(&self, label: &str) -> String {
        let text = literal(label);
        let xpath =
            format!("//label[normalize-space(.)={text} or normalize-space(text()[1])={text}]");
        let id = self.attribute_of(&xpath, "for").await;
        format!(
            "//*[@id={}]",
            literal(&id.expect("a label names its field"))
        )
    }

    /// Does something with the field of a label, shown or not: again where the page was drawn anew in the middle of it.
    async fn with_field<T>(
        &self,
        label: &str,
        deed: impl AsyncFn(Element) -> Result<T, CmdError>,
    ) -> T {
        let deadline = Instant::now() + PATIENCE;
        loop {
            let field = self.field(label).await;
            let done = match self.client.find(Locator::XPath(&field)).await {
                Ok(element) => deed(element).await,
                Err(error) => Err(error),
            };
            match done {
                Ok(done) => return done,
                Err(error) => {
                    assert!(
                        passes(&error) && Instant::now() < deadline,
                        "{label}: {error}"
                    );
                }
            }
            tokio::time::sleep(AGAIN).await;
        }
    }

    /// Runs a script with an element as its first argument.
    async fn run(
        &self,
        script: &str,
        element: &Element,
        more: Vec<Value>,
    ) -> Result<Value, CmdError> {
        let mut arguments = vec![serde_json::to_value(element).unwrap()];
        arguments.extend(more);
        self.client.execute(script, arguments).await
    }

    pub async fn fill(&self, label: &str, text: &str) {
        // As a person does: what is there is marked, and typed over. A number field keeps its text when it is cleared by script.
        let keys = if text.is_empty() { "\u{e017}" } else { text };
        self.with_field(label, async |field| {
            let mark = "arguments[0].focus(); arguments[0].select();";
            self.run(mark, &field, vec![]).await?;
            field.send_keys(keys).await
        })
        .await;
    }

    /// Sets a field whose typed form depends on the browser's language, such as a date.
    pub async fn set(&self, label: &str, value: &str) {
        let script =
            "const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
                      set.call(arguments[0], arguments[1]);
                      arguments[0].dispatchEvent(new Event('input', { bubbles: true }));";
        self.with_field(label, async |field| {
            self.run(script, &field, vec![json!(value)]).await
        })
        .await;
    }

    /// Ticks a box or picks a radio button by its label.
    pub async fn press_label(&self, label: &str) {
        self.field(label).await;
        self.settled().await;
        self.with_field(label, async |field| field.click().await)
            .await;
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
        self.press_at(&format!(
            "//summary[starts-with(normalize-space(.), {text})]"
        ))
        .await;
    }

    /// Picks one of several by the words on it.
    pub async fn pick(&self, words: &str) {
        let text = literal(words);
        let xpath = format!("//label[normalize-space(.)={text}]");
        let is_radio = "return arguments[0].control?.type === 'radio'";
        let is_checked = "return arguments[0].control.checked";
        let deadline = Instant::now() + PATIENCE;
        self.find(&xpath).await;
        loop {
            self.settled().await;
            let picked = self
                .with(&xpath, async |label| {
                    let is_radio = self.run(is_radio, &label, vec![]).await?;
                    label.click().await?;
                    // A tap on what has moved away picks nothing: a radio button is tapped again. A box is not, since a second tap would take its tick away.
                    match is_radio == json!(true) {
                        true => self.run(is_checked, &label, vec![]).await,
                        false => Ok(json!(true)),
                    }
                })
                .await;
            if picked == json!(true) {
                return;
            }
            assert!(Instant::now() < deadline, "{words} is not picked");
            tokio::time::sleep(AGAIN).await;
        }
    }

    pub async fn choose(&self, label: &str, option: &str) {
        self.with_field(label, async |list| list.select_by_label(option).await)
            .await;
    }

    /// Chooses of a list that is named without a label.
    pub async fn choose_named(&self, name: &str, option: &str) {
        let list = format!("//select[@aria-label={}]", literal(name));
        self.with(&list, async |list| list.select_by_label(option).await)
            .await;
    }

    pub async fn value(&self, label: &str) -> String {
        self.with_field(label, async |field| field.prop("value").await)
            .await
            .unwrap()
    }

    pub async fn upload(&self, label: &str, file: &Path) {
        let file = file.to_str().unwrap();
        self.with_field(label, async |field| field.send_keys(file).await)
            .await;
    }

    /// Takes a photo, in the one place on the page that asks for one.
    pub async fn photo(&self, name: &str) {
        let file = std::env::temp_dir().join(format!("{name}-{}.png", std::process::id()));
        std::fs::write(&file, picture(ImageFormat::Png)).unwrap();
        let input = self.client.wait().at_most(PATIENCE);
        let input = input.for_element(Locator::XPath("//input[@type='file']"));
        let input = input.await.unwrap();
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
        self.press_at(&format!(
            "//button[not(@disabled)][starts-with(normalize-space(.), {words})]"
        ))
        .await;
    }

    /// Types in a field that is named without a label.
    pub async fn type_in(&self, name: &str, text: &str) {
        let field = format!("//input[@aria-label={}]", literal(name));
        self.with(&field, async |field| field.send_keys(text).await)
            .await;
    }

    /// Waits until something of a kind, `INPUT` or `BUTTON`, has the focus in a dialog.
    pub async fn in_focus(&self, kind: &str) {
        let script = format!(
            "const e = document.activeElement; return e.tagName === '{kind}' && e.closest('[role=dialog]') !== null"
        );
        let deadline = Instant::now() + PATIENCE;
        while self.client.execute(&script, vec![]).await.unwrap() != json!(true) {
            assert!(Instant::now() < deadline, "no {kind} has the focus");
            tokio::time::sleep(AGAIN).await;
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
        let table =
            format!("//table[caption[normalize-space(.)={caption}] or @aria-label={caption}]");
        self.with(&table, async |table| {
            let mut rows = Vec::new();
            for row in table.find_all(Locator::Css("tbody tr")).await? {
                let mut cells = Vec::new();
                for cell in row.find_all(Locator::Css("th, td")).await? {
                    cells.push(cell.text().await?);
                }
                rows.push(cells);
            }
            Ok(rows)
        })
        .await
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
        self.look(view).await;
        assert_eq!(found, json!([]), "{view}");
        self.fits(view).await;
    }

    /// Keeps a picture of a view in the folder that `FRESH_MEADOW_LOOK` names, for whoever wants to look at it.
    async fn look(&self, view: &str) {
        let Some(folder) = std::env::var_os("FRESH_MEADOW_LOOK") else {
            return;
        };
        let png = self.client.screenshot().await.unwrap();
        let name = view.replace(|c: char| !c.is_alphanumeric(), "-");
        std::fs::write(Path::new(&folder).join(format!("{name}.png")), png).unwrap();
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
