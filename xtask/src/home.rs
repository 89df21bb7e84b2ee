//! `cargo xtask home`: one's own lawn, with the real clock and a private PostgreSQL.

use std::path::{Path, PathBuf};
use std::process::Stdio;

use xtask::guard::{self, Guarded, Stop};
use xtask::postgres::Cluster;

use crate::needs;
use crate::served::{ctrl_c, folder, fresh_meadow, until, usual_or_free_port, wait_until};
use crate::steps::{cargo, run as run_command, step};

const DATABASE: &str = "fresh_meadow";

/// What is wanted of it.
#[derive(Debug, Default, PartialEq, Eq)]
pub(crate) struct Wanted {
    /// Write all data to a file, and end.
    back_up: Option<PathBuf>,
    /// Take the data of a file first.
    restore: Option<PathBuf>,
    /// Set a lost password anew, of this address, and end.
    password: Option<String>,
}

impl Wanted {
    /// Of the command line's words.
    pub(crate) fn of(words: &[&str]) -> Option<Self> {
        let mut wanted = Self::default();
        let mut words = words.iter();
        while let Some(word) = words.next() {
            match *word {
                "--backup" => wanted.back_up = Some(words.next()?.into()),
                "--restore" => wanted.restore = Some(words.next()?.into()),
                "--password" => wanted.password = Some((*words.next()?).to_owned()),
                _ => return None,
            }
        }
        Some(wanted)
    }
}

pub(crate) fn run(wanted: &Wanted) -> Result<(), String> {
    let stopped = ctrl_c()?;
    let folder = folder("FRESH_MEADOW_HOME_DIR", "home");
    needs::postgresql()?;
    let cluster = step("start PostgreSQL", || Cluster::kept(&folder))?;
    if let Some(file) = &wanted.restore {
        restored(&cluster, file)?;
    }
    cluster.create_database(DATABASE)?;
    if let Some(file) = &wanted.back_up {
        cluster.back_up(DATABASE, file)?;
        println!("All data is in {}", file.display());
        return Ok(());
    }
    needs::front_end()?;
    step("build the server", || {
        run_command(cargo().args(["build", "--release", "--package", "fresh-meadow"]))
    })?;
    let url = cluster.url(DATABASE);
    if let Some(email) = &wanted.password {
        println!("Type the new password, a short sentence, and Enter:");
        return run_command(
            fresh_meadow("release", &url).args(["account", "password", "--email", email]),
        );
    }
    let port = usual_or_free_port()?;
    let mut server = serve(&url, port)?;
    wait_until(port, "/readyz", &mut server)?;
    println!();
    println!("Fresh Meadow is served at  http://127.0.0.1:{port}");
    println!("Data is kept in            {}", folder.display());
    println!("Stop with Ctrl-C.");
    until(&stopped, &mut server)?;
    println!("\nstopping");
    server.stop();
    drop(cluster);
    Ok(())
}

/// Takes the data of a file; what was there is kept beside it.
fn restored(cluster: &Cluster, file: &Path) -> Result<(), String> {
    let before = cluster.restore(DATABASE, file)?;
    println!("The data of {} is here.", file.display());
    if let Some(before) = before {
        println!("What was here before is kept in the database {before}.");
    }
    Ok(())
}

fn serve(url: &str, port: u16) -> Result<Guarded, String> {
    let mut command = fresh_meadow("release", url);
    command
        .arg("serve")
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
