//! `cargo xtask home`: one's own lawn, with the real clock and a private PostgreSQL.

use std::net::{IpAddr, UdpSocket};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use xtask::guard::{self, Stop};
use xtask::postgres::{self, Cluster};

use crate::needs;
use crate::served::{built, ctrl_c, fresh_meadow, home_folder, home_port, until, wait_until};
use crate::steps::{cargo, output, run as run_command, step};

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
    /// Serve the house's phones too, over TLS.
    lan: bool,
    /// Say what it can do, and end.
    help: bool,
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
                "--lan" => wanted.lan = true,
                "--password" => wanted.password = Some((*words.next()?).to_owned()),
                "--help" => wanted.help = true,
                _ => return None,
            }
        }
        Some(wanted)
    }
}

const HELP: &str = "\
cargo xtask home                   your own lawn: real clock, its own data; prints the address and the code for the first account
cargo xtask home --lan             serves the house's phones too, over TLS with a certificate of its own
cargo xtask home --backup FILE     writes all data to a file, also while it runs
cargo xtask home --restore FILE    takes the data of such a file first; what was there is kept beside it
cargo xtask home --password EMAIL  sets a lost password anew

FRESH_MEADOW_HOME_DIR names another folder for the data, FRESH_MEADOW_HOME_PORT another port than 8090.";

pub(crate) fn run(wanted: &Wanted) -> Result<(), String> {
    if wanted.help {
        println!("{HELP}");
        return Ok(());
    }
    let stopped = ctrl_c()?;
    let folder = home_folder();
    needs::postgresql()?;
    if let Some(file) = &wanted.back_up
        && let Some(running) = postgres::Address::of_running(&folder)
    {
        running.back_up(DATABASE, file)?;
        println!("All data is in {}", file.display());
        return Ok(());
    }
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
    // As the demo is built: who has looked at that waits for no second build.
    step("build the server", || {
        run_command(cargo().args(["build", "--package", "fresh-meadow"]))
    })?;
    let url = cluster.url(DATABASE);
    if let Some(email) = &wanted.password {
        println!("Type the new password, a short sentence, and Enter:");
        return run_command(
            fresh_meadow("debug", &url).args(["account", "password", "--email", email]),
        );
    }
    let port = home_port()?;
    let mut command = fresh_meadow("debug", &url);
    command.arg("serve");
    let address = match wanted.lan {
        true => serve_the_house(&mut command, &folder, port)?,
        false => {
            command.env("FRESH_MEADOW_LISTEN", format!("127.0.0.1:{port}"));
            format!("http://127.0.0.1:{port}")
        }
    };
    let mut server = guard::spawn(
        &command,
        Stop::Term,
        None,
        Stdio::inherit(),
        Stdio::inherit(),
    )
    .map_err(|e| format!("the server cannot be started: {e}"))?;
    if !wanted.lan {
        wait_until(port, "/readyz", &mut server)?;
    }
    println!();
    println!("Fresh Meadow is served at  {address}");
    if wanted.lan {
        println!(
            "Phones in the house open the same address. Each warns once that nobody vouches for the"
        );
        println!(
            "certificate: it was made here. Go on if the address is this one, and only at home."
        );
    }
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
    println!(
        "Everybody signs in anew. Open invitations and devices' tokens of the backup have ended: make new ones."
    );
    if let Some(before) = before {
        println!("What was here before is kept in the database {before}.");
    }
    Ok(())
}

/// Serves all machines of the house over TLS, with a certificate that is made once; the address that they open.
fn serve_the_house(command: &mut Command, folder: &Path, port: u16) -> Result<String, String> {
    let own = own_address()?;
    let tls = folder.join("tls");
    let mut certificate = built("debug", "fresh-meadow");
    certificate.args([
        "certificate",
        "--name",
        &own.to_string(),
        "--name",
        "localhost",
        "--out",
    ]);
    let said = output(certificate.arg(&tls))?;
    if String::from_utf8_lossy(&said).trim_end().ends_with("new") {
        println!("The certificate of this machine is new: each phone warns of it once.");
    }
    let origin = format!("https://{own}:{port}");
    command
        .env("FRESH_MEADOW_LISTEN", format!("0.0.0.0:{port}"))
        .env("FRESH_MEADOW_PUBLIC_ORIGIN", &origin)
        .env("FRESH_MEADOW_TLS_CERTIFICATE", tls.join("certificate.pem"))
        .env("FRESH_MEADOW_TLS_KEY", tls.join("key.pem"));
    Ok(origin)
}

/// This machine's address in the house: that from which it would ask another network.
fn own_address() -> Result<IpAddr, String> {
    let unknown = |e: std::io::Error| format!("this machine has no address in a network: {e}");
    let socket = UdpSocket::bind("0.0.0.0:0").map_err(unknown)?;
    // Nothing is sent: an address for documentation (RFC 5737) shows the way out.
    socket.connect("192.0.2.1:9").map_err(unknown)?;
    Ok(socket.local_addr().map_err(unknown)?.ip())
}
