//! Measuring in the browser: a can test by taps and digits, and one whose connection is cut.

use std::net::SocketAddr;
use std::sync::Arc;

use tokio::io::{AsyncReadExt, AsyncWriteExt, copy_bidirectional};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::watch;

use super::Screen;
use super::page::{Page, with_page};
use crate::harness::{App, EMAIL};

const READINGS: [u32; 16] = [
    42, 38, 51, 47, 29, 33, 60, 55, 36, 41, 44, 40, 30, 28, 34, 32,
];

async fn kept(app: &App) -> i64 {
    sqlx::query_scalar("SELECT count(*) FROM can_test")
        .fetch_one(&app.pool)
        .await
        .unwrap()
}

/// Types readings from a can on, by the pad alone.
async fn read(page: &Page, cans: std::ops::Range<usize>) {
    for can in cans {
        page.see(&format!("Can {} of 16", can + 1)).await;
        for digit in READINGS[can].to_string().chars() {
            page.press(&digit.to_string()).await;
        }
        page.press("Next").await;
    }
}

async fn begin(page: &Page) {
    page.press("Test Front").await;
    page.fill("Width, m", "8").await;
    page.fill("Length, m", "6").await;
    page.choose("Wind", "light: felt on the face").await;
    page.press("Begin").await;
}

#[tokio::test]
async fn sixteen_cans_by_taps_and_digits_and_the_plan_uses_them() {
    let (app, _api, _site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "cans", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Sprinklers").await;
        page.see("Never measured").await;
        page.is_accessible("Sprinklers, nothing measured").await;
        begin(&page).await;
        page.see("Can 1 of 16").await;
        // Nothing typed, and more than the can holds.
        page.press("Next").await;
        page.see("Type what can 1 caught; 0 if it is dry.").await;
        for digit in ["9", "9", "9"] {
            page.press(digit).await;
        }
        page.press("Next").await;
        page.see("The can holds 250 mL: 999 mL cannot be.").await;
        page.is_accessible("readings, one refused").await;
        for _ in 0..3 {
            page.press("Delete the last digit").await;
        }
        read(&page, 0..15).await;
        page.see("Can 16 of 16").await;
        page.see("mm/h so far").await;
        // Mended: the list is for keyboards what a tap on the can is for a thumb.
        page.choose("Can to read", "2: 38 read").await;
        page.see("Can 2 of 16").await;
        for digit in ["3", "8"] {
            page.press(digit).await;
        }
        page.press("Next").await;
        read(&page, 15..16).await;
        page.press("Finish with 16").await;
        page.see("Front: 16.0 mm/h, even 0.74").await;
        page.see("For such sprinklers that is very good.").await;
        page.see("the driest quarter gets 9.7 mm").await;
        page.see("What it changes").await;
        page.see("min became").await;
        page.is_accessible("a finished test").await;
        page.press("All sprinklers").await;
        page.see("measured 18 June 2026, 16 cans").await;
        page.is_accessible("Sprinklers, measured").await;
        page.press("Morning").await;
        page.press("Why, Front").await;
        page.see("measured here: can test, 16 cans, 2026-06-18")
            .await;
        page
    })
    .await;
    assert_eq!(kept(&app).await, 1);
}

/// What the proxy does with connections.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Line {
    Open,
    /// Nothing passes.
    Cut,
    /// Requests arrive, answers are lost.
    AnswersLost,
}

/// A proxy before the application; changing the line drops what is connected.
async fn proxy(to: SocketAddr) -> (SocketAddr, Arc<watch::Sender<Line>>) {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let (sender, line) = watch::channel(Line::Open);
    tokio::spawn(async move {
        while let Ok((mut client, _)) = listener.accept().await {
            let mut line = line.clone();
            tokio::spawn(async move {
                let now = *line.borrow_and_update();
                if now == Line::Cut {
                    return;
                }
                let Ok(mut server) = TcpStream::connect(to).await else {
                    return;
                };
                if now == Line::AnswersLost {
                    let mut buffer = vec![0; 65_536];
                    loop {
                        let mut answer = [0; 1024];
                        tokio::select! {
                            n = client.read(&mut buffer) => match n {
                                Ok(n) if n > 0 => server.write_all(&buffer[..n]).await.unwrap(),
                                _ => return,
                            },
                            // The server has answered: nobody will know.
                            _ = server.read(&mut answer) => return,
                        }
                    }
                }
                tokio::select! {
                    _ = copy_bidirectional(&mut client, &mut server) => {}
                    _ = line.changed() => {}
                }
            });
        }
    });
    (address, Arc::new(sender))
}

#[tokio::test]
async fn readings_typed_offline_survive_a_reload_and_are_kept_once() {
    let (app, _api, _site) = App::with_dry_zone().await;
    let (address, line) = proxy(app.address).await;
    let through = App {
        address,
        pool: app.pool.clone(),
        database_url: app.database_url.clone(),
    };
    let pool = app.pool.clone();
    with_page(&through, Screen::Phone, "offline", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Sprinklers").await;
        begin(&page).await;
        read(&page, 0..4).await;
        page.see("mm/h so far").await;
        line.send(Line::Cut).unwrap();
        read(&page, 4..10).await;
        page.see("Not connected: readings are kept here.").await;
        page.see("10 of 16 saved on this phone").await;
        line.send(Line::Open).unwrap();
        page.client.refresh().await.unwrap();
        page.see("Can 11 of 16").await;
        page.see("10 of 16 saved on this phone").await;
        line.send(Line::Cut).unwrap();
        read(&page, 10..16).await;
        page.press("Finish with 16").await;
        page.see("16 of 16 saved on this phone, sent when connected.")
            .await;

        line.send(Line::AnswersLost).unwrap();
        page.press("Send now").await;
        let deadline = std::time::Instant::now() + std::time::Duration::from_secs(20);
        loop {
            let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM can_test")
                .fetch_one(&pool)
                .await
                .unwrap();
            if kept == 1 {
                break;
            }
            assert!(std::time::Instant::now() < deadline, "never arrived");
            tokio::time::sleep(std::time::Duration::from_millis(20)).await;
        }
        page.see("16 of 16 saved on this phone, sent when connected.")
            .await;
        line.send(Line::Open).unwrap();
        page.client.refresh().await.unwrap();
        page.see("Front: 16.0 mm/h, even 0.74").await;
        page
    })
    .await;
    assert_eq!(kept(&app).await, 1, "sent at least twice, kept once");
}
