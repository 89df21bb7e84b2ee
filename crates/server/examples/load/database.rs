//! A durable PostgreSQL of our own that can be restarted at its port.

use std::fs;
use std::path::PathBuf;
use std::process::{Command, Stdio};

use xtask::postgres;

use crate::Failure;

pub(crate) struct Database {
    folder: PathBuf,
    programs: PathBuf,
    port: u16,
}

impl Database {
    /// Makes a cluster in a temporary folder, with Debian's settings but for its port.
    pub(crate) fn start() -> Result<Self, Failure> {
        let folder =
            std::env::temp_dir().join(format!("fresh-meadow-load-{}", postgres::random_hex(6)?));
        fs::create_dir_all(&folder)?;
        let database = Self {
            folder,
            programs: postgres::programs()?,
            port: postgres::free_port()?,
        };
        if postgres::is_root() {
            let given = Command::new("chown")
                .arg("postgres:")
                .arg(&database.folder)
                .status()?;
            if !given.success() {
                return Err("chown failed".into());
            }
        }
        let data = database.data();
        database.run(
            "initdb",
            &[
                "-D",
                &data,
                "-U",
                "load",
                "-A",
                "trust",
                "-E",
                "UTF8",
                "--locale=C.UTF-8",
            ],
        )?;
        database.control("start")?;
        database.run(
            "createdb",
            &[
                "-h",
                "127.0.0.1",
                "-p",
                &database.port.to_string(),
                "-U",
                "load",
                "load",
            ],
        )?;
        Ok(database)
    }

    pub(crate) fn url(&self) -> String {
        format!("postgres://load@127.0.0.1:{}/load", self.port)
    }

    /// Stops it as an administrator does, connections and all, and starts it again.
    pub(crate) fn restart(&self) -> Result<(), Failure> {
        self.control("restart")
    }

    fn data(&self) -> String {
        self.folder.join("data").display().to_string()
    }

    fn control(&self, what: &str) -> Result<(), Failure> {
        let log = self.folder.join("log").display().to_string();
        let options = format!(
            "-p {} -c listen_addresses=127.0.0.1 -c unix_socket_directories=",
            self.port
        );
        self.run(
            "pg_ctl",
            &[
                "-D",
                &self.data(),
                "-w",
                "-s",
                "-m",
                "fast",
                "-l",
                &log,
                "-o",
                &options,
                what,
            ],
        )
    }

    fn run(&self, program: &str, arguments: &[&str]) -> Result<(), Failure> {
        let program = self.programs.join(program);
        let mut command = if postgres::is_root() {
            let mut command = Command::new("setpriv");
            command
                .args(["--reuid=postgres", "--regid=postgres", "--init-groups"])
                .arg(program);
            command
        } else {
            Command::new(program)
        };
        let status = command
            .args(arguments)
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .current_dir("/")
            .status()?;
        if status.success() {
            Ok(())
        } else {
            Err(format!("{}: {status}", arguments.join(" ")).into())
        }
    }
}

impl Drop for Database {
    fn drop(&mut self) {
        // A leftover in the temporary folder harms nobody.
        let _ = self.control("stop");
        let _ = fs::remove_dir_all(&self.folder);
    }
}
