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

/// A data folder: as the environment names it; in the checkout; or, as root, where user postgres can reach it.
pub(crate) fn folder(variable: &str, name: &str) -> PathBuf {
    if let Ok(path) = std::env::var(variable) {
        return path.into();
    }
    if postgres::is_root() {
        // One a checkout, named after its path.
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
