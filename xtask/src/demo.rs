//! `cargo xtask demo`.

use std::io::{Read, Write};
use std::net::{Ipv4Addr, TcpListener, TcpStream};
use std::path::PathBuf;
use std::process::{Command, Stdio};
use std::sync::mpsc;
use std::time::{Duration, Instant};

use xtask::guard::{self, Guarded, Stop};
use xtask::postgres::{self, Cluster};

use crate::needs;
use crate::steps::{cargo, root, run as run_command, step};

/// The port that people expect, if it is free.
const USUAL_PORT: u16 = 8080;
const DATABASE: &str = "fresh_meadow";
const WEATHER_URL: &str = "FRESH_MEADOW_WEATHER_URL";

/// The demo's data folder: in the checkout, or, as root, where user postgres can reach it.
fn folder() -> PathBuf {
    if let Ok(path) = std::env::var("FRESH_MEADOW_DEMO_DIR") {
        return path.into();
    }
    if postgres::is_root() {
        // One a checkout, named after its path.
        let path = root().display().to_string();
        let name: String = path
            .chars()
            .map(|c| if c.is_ascii_alphanumeric() { c } else { '-' })
            .collect();
        return PathBuf::from("/var/tmp").join(format!("fresh-meadow-demo{name}"));
    }
    root().join(".demo")
}

pub(crate) fn run(reset: bool) -> Result<(), String> {
    let (stop, stopped) = mpsc::channel();
    ctrlc::set_handler(move || {
        // A second Ctrl-C while stopping changes nothing.
        let _ = stop.send(());
    })
    .map_err(|e| format!("Ctrl-C cannot be watched: {e}"))?;

    let folder = folder();
    if reset {
        step("delete the demo's data", || postgres::delete(&folder))?;
    }
    needs::postgresql()?;
    needs::front_end()?;
    step("build the server", || {
        run_command(cargo().args([
            "build",
            "--package",
            "fresh-meadow",
            "--package",
            "standins",
        ]))
    })?;
    let cluster = step("start PostgreSQL", || Cluster::kept(&folder))?;
    cluster.create_database(DATABASE)?;
    let url = cluster.url(DATABASE);
    let weather_port = postgres::free_port()?;
    let mut weather = weather_service(weather_port)?;
    wait_until(weather_port, "/healthz", &mut weather)?;
    let weather_url = format!("http://127.0.0.1:{weather_port}");
    step("load the demo", || {
        run_command(fresh_meadow(&url).arg("migrate"))?;
        run_command(
            fresh_meadow(&url)
                .arg("load-demo")
                .env(WEATHER_URL, &weather_url),
        )
    })?;
    let port = usual_or_free_port()?;
    let mut server = serve(&url, &weather_url, port)?;
    wait_until(port, "/readyz", &mut server)?;
    println!();
    println!("Fresh Meadow is served at  http://127.0.0.1:{port}");
    println!("Sign in with               juniper@sorrelhollow.example (owner)");
    println!(
        "                           rowan@... (manager), willow@... (crew), bram@... (viewer)"
    );
    println!("and the password           clover and thyme");
    println!("Simulated weather service  {weather_url}");
    println!("Data is kept in            {}", folder.display());
    println!("Stop with Ctrl-C.");
    loop {
        match stopped.recv_timeout(Duration::from_millis(500)) {
            Ok(()) | Err(mpsc::RecvTimeoutError::Disconnected) => break,
            Err(mpsc::RecvTimeoutError::Timeout) => {
                if server.try_wait().is_ok_and(|ended| ended.is_some()) {
                    return Err("the server has ended; its messages stand above".to_owned());
                }
            }
        }
    }
    println!("\nstopping");
    server.stop();
    weather.stop();
    drop(cluster);
    Ok(())
}

fn built(program: &str) -> Command {
    let target =
        std::env::var("CARGO_TARGET_DIR").map_or_else(|_| root().join("target"), PathBuf::from);
    Command::new(target.join("debug").join(program))
}

/// Starts the stand-in of the weather service.
fn weather_service(port: u16) -> Result<Guarded, String> {
    let mut command = built("fresh-meadow-standins");
    command.args(["weather", "--listen", &format!("127.0.0.1:{port}")]);
    guard::spawn(
        &command,
        Stop::Term,
        None,
        Stdio::inherit(),
        Stdio::inherit(),
    )
    .map_err(|e| format!("the weather service cannot be started: {e}"))
}

fn fresh_meadow(url: &str) -> Command {
    let mut command = built("fresh-meadow");
    command.env("FRESH_MEADOW_DATABASE_URL", url);
    command
}

fn serve(url: &str, weather_url: &str, port: u16) -> Result<Guarded, String> {
    let mut command = fresh_meadow(url);
    command
        .arg("serve")
        .env(WEATHER_URL, weather_url)
        .env("FRESH_MEADOW_LISTEN", format!("127.0.0.1:{port}"));
    guard::spawn(
        &command,
        Stop::Term,
        None,
        Stdio::inherit(),
        Stdio::inherit(),
    )
    .map_err(|e| format!("the server cannot be started: {e}"))
}

fn usual_or_free_port() -> Result<u16, String> {
    if TcpListener::bind((Ipv4Addr::LOCALHOST, USUAL_PORT)).is_ok() {
        Ok(USUAL_PORT)
    } else {
        postgres::free_port()
    }
}

fn wait_until(port: u16, path: &str, server: &mut Guarded) -> Result<(), String> {
    let deadline = Instant::now() + Duration::from_secs(60);
    while Instant::now() < deadline {
        if answers(port, path) {
            return Ok(());
        }
        if server.try_wait().is_ok_and(|ended| ended.is_some()) {
            return Err("a program did not start; its messages stand above".to_owned());
        }
        std::thread::sleep(Duration::from_millis(50));
    }
    Err("no answer within a minute".to_owned())
}

fn answers(port: u16, path: &str) -> bool {
    let ask = || -> std::io::Result<String> {
        let mut stream = TcpStream::connect((Ipv4Addr::LOCALHOST, port))?;
        stream.set_read_timeout(Some(Duration::from_secs(2)))?;
        write!(stream, "GET {path} HTTP/1.0\r\nHost: 127.0.0.1\r\n\r\n")?;
        let mut answer = String::new();
        stream.read_to_string(&mut answer)?;
        Ok(answer)
    };
    ask().is_ok_and(|answer| answer.contains(" 200 "))
}
