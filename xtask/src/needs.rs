//! What the project needs on the machine, installed where it is missing.

use std::fs;
use std::path::Path;
use std::process::Command;
use std::time::SystemTime;

use xtask::postgres;

use crate::steps::{npm, output, root, run, step};

/// PostgreSQL from Debian's packages.
pub(crate) fn postgresql() -> Result<(), String> {
    if postgres::programs().is_ok() {
        return Ok(());
    }
    apt(&["postgresql"])?;
    postgres::programs().map(|_| ())
}

/// Chromium and its driver from Debian's packages.
pub(crate) fn chromium() -> Result<(), String> {
    let there = |program: &str| Path::new("/usr/bin").join(program).exists();
    if there("chromium") && there("chromedriver") {
        return Ok(());
    }
    apt(&["chromium", "chromium-driver"])
}

fn apt(packages: &[&str]) -> Result<(), String> {
    let list = packages.join(" ");
    let missing = |why: &str| format!("{why}: run `sudo apt-get install {list}` and start again");
    if !Path::new("/usr/bin/apt-get").exists() {
        return Err(format!(
            "{list} not found, and this is no Debian to install from"
        ));
    }
    let sudo = !postgres::is_root();
    if sudo && !Path::new("/usr/bin/sudo").exists() {
        return Err(missing(&format!(
            "{list} not found, and installing needs root"
        )));
    }
    let apt_get = |arguments: &[&str]| {
        let mut command = if sudo {
            let mut command = Command::new("sudo");
            command.arg("apt-get");
            command
        } else {
            Command::new("apt-get")
        };
        command
            .env("DEBIAN_FRONTEND", "noninteractive")
            .args(arguments);
        run(&mut command)
    };
    step(&format!("install {list}"), || {
        apt_get(&["-q", "update"])?;
        let mut arguments = vec!["-q", "install", "-y", "--no-install-recommends"];
        arguments.extend(packages);
        apt_get(&arguments).map_err(|e| missing(&e))
    })
}

/// Node.js as new as the front end needs.
fn node() -> Result<(), String> {
    let version = output(Command::new("node").arg("--version"))
        .map_err(|_| "Node.js is not installed: version 20.19 or newer is needed".to_owned())?;
    let version = String::from_utf8_lossy(&version).trim().to_owned();
    let mut parts = version
        .trim_start_matches('v')
        .split('.')
        .map(|p| p.parse().unwrap_or(0));
    let found: (u32, u32) = (parts.next().unwrap_or(0), parts.next().unwrap_or(0));
    if found >= (20, 19) {
        Ok(())
    } else {
        Err(format!(
            "Node.js {version} is too old: version 20.19 or newer is needed"
        ))
    }
}

/// The front end's packages, as the lock file names them.
pub(crate) fn npm_packages() -> Result<(), String> {
    node()?;
    let web = root().join("web");
    let installed = web.join("node_modules/.fresh-meadow-lock");
    let lock =
        fs::read(web.join("package-lock.json")).map_err(|e| format!("package-lock.json: {e}"))?;
    if fs::read(&installed).is_ok_and(|before| before == lock) {
        return Ok(());
    }
    step("install the front end's packages", || {
        run(npm().args(["ci", "--no-audit", "--no-fund"]))?;
        fs::write(&installed, &lock).map_err(|e| format!("{}: {e}", installed.display()))
    })
}

/// The built front end, made again where a source is newer.
pub(crate) fn front_end() -> Result<(), String> {
    npm_packages()?;
    let web = root().join("web");
    let built = modified(&web.join("dist/index.html"));
    let newest = [
        "src",
        "public",
        "index.html",
        "package-lock.json",
        "vite.config.ts",
        "postcss.config.cjs",
    ]
    .iter()
    .map(|p| newest(&web.join(p)))
    .max()
    .flatten();
    if built.is_some() && built >= newest {
        return Ok(());
    }
    step("build the front end", || {
        run(npm().args(["run", "--silent", "build"]))
    })
}

fn modified(path: &Path) -> Option<SystemTime> {
    fs::metadata(path).and_then(|m| m.modified()).ok()
}

/// When anything below a path was last changed.
fn newest(path: &Path) -> Option<SystemTime> {
    let inside = fs::read_dir(path)
        .into_iter()
        .flatten()
        .flatten()
        .filter_map(|entry| newest(&entry.path()));
    inside.chain(modified(path)).max()
}
