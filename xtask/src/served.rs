//! Programs of ours that are served: built, started, waited for, stopped.

use std::io::{Read, Write};
use std::net::{Ipv4Addr, TcpListener, TcpStream};
use std::path::PathBuf;
use std::process::Command;
use std::sync::mpsc::{self, Receiver};
use std::time::{Duration, Instant};

use xtask::guard::Guarded;
use xtask::postgres;

use crate::steps::root;

/// The port that people expect, if it is free.
const USUAL_PORT: u16 = 8080;
/// The port of one's own lawn, beside a demo's.
const HOME_PORT: u16 = 8090;

/// Says when a person wants it to stop.
pub(crate) fn ctrl_c() -> Result<Receiver<()>, String> {
    let (stop, stopped) = mpsc::channel();
    ctrlc::set_handler(move || {
        // A second Ctrl-C while stopping changes nothing.
        let _ = stop.send(());
    })
    .map_err(|e| format!("Ctrl-C cannot be watched: {e}"))?;
    Ok(stopped)
}

/// Waits until a person wants it to stop.
///
/// # Errors
/// The server has ended by itself.
pub(crate) fn until(stopped: &Receiver<()>, server: &mut Guarded) -> Result<(), String> {
    loop {
        match stopped.recv_timeout(Duration::from_millis(500)) {
            Ok(()) | Err(mpsc::RecvTimeoutError::Disconnected) => return Ok(()),
            Err(mpsc::RecvTimeoutError::Timeout) => {
                if server.try_wait().is_ok_and(|ended| ended.is_some()) {
                    return Err("the server has ended; its messages stand above".to_owned());
                }
            }
        }
    }
}

/// The demo's data folder: as the environment names it; in the checkout; or, as root, where user postgres can reach it.
pub(crate) fn demo_folder() -> PathBuf {
    if let Ok(path) = std::env::var("FRESH_MEADOW_DEMO_DIR") {
        return path.into();
    }
    in_checkout("demo")
}

/// The data folder of one's own lawn: as the environment names it, or the user's own, which nothing sweeps and no checkout takes with it. Where data lie as older
/// versions kept them, they stay.
pub(crate) fn home_folder() -> PathBuf {
    if let Ok(path) = std::env::var("FRESH_MEADOW_HOME_DIR") {
        return path.into();
    }
    let before = in_checkout("home");
    if postgres::is_ours(&before) {
        return before;
    }
    // As root the server of PostgreSQL runs as another user, who cannot enter root's own folder.
    if postgres::is_root() {
        return PathBuf::from("/var/lib/fresh-meadow");
    }
    let of_user = |name: &str| std::env::var(name).ok().filter(|path| !path.is_empty());
    let data = of_user("XDG_DATA_HOME").map(PathBuf::from);
    let data = data.or_else(|| Some(PathBuf::from(of_user("HOME")?).join(".local/share")));
    data.map_or(before, |data| data.join("fresh-meadow"))
}

/// A folder of a checkout; as root one in `/var/tmp`, named after the checkout's path.
fn in_checkout(name: &str) -> PathBuf {
    if postgres::is_root() {
        let path = root().display().to_string();
        let path: String = path
            .chars()
            .map(|c| if c.is_ascii_alphanumeric() { c } else { '-' })
            .collect();
        return PathBuf::from("/var/tmp").join(format!("fresh-meadow-{name}{path}"));
    }
    root().join(format!(".{name}"))
}

/// A program that was built in a profile's folder, `debug` or `release`.
pub(crate) fn built(profile: &str, program: &str) -> Command {
    let target =
        std::env::var("CARGO_TARGET_DIR").map_or_else(|_| root().join("target"), PathBuf::from);
    Command::new(target.join(profile).join(program))
}

/// The server's program on a database.
pub(crate) fn fresh_meadow(profile: &str, url: &str) -> Command {
    let mut command = built(profile, "fresh-meadow");
    command.env("FRESH_MEADOW_DATABASE_URL", url);
    command
}

/// The port of one's own lawn: always the same, so that what links to it, and phones that know it, find it again.
pub(crate) fn home_port() -> Result<u16, String> {
    const VARIABLE: &str = "FRESH_MEADOW_HOME_PORT";
    let port = match std::env::var(VARIABLE) {
        Ok(port) => port
            .parse()
            .map_err(|_| format!("{VARIABLE}: \"{port}\" is no port"))?,
        Err(_) => HOME_PORT,
    };
    match TcpListener::bind((Ipv4Addr::LOCALHOST, port)) {
        Ok(_) => Ok(port),
        Err(_) => Err(format!(
            "port {port} is taken: is your lawn served already? {VARIABLE} names another port"
        )),
    }
}

/// The usual port, or one that is free.
pub(crate) fn usual_or_free_port() -> Result<u16, String> {
    if TcpListener::bind((Ipv4Addr::LOCALHOST, USUAL_PORT)).is_ok() {
        Ok(USUAL_PORT)
    } else {
        postgres::free_port()
    }
}

/// Waits until a server answers a path with 200.
pub(crate) fn wait_until(port: u16, path: &str, server: &mut Guarded) -> Result<(), String> {
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
