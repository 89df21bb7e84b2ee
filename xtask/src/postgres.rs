//! Private PostgreSQL clusters from Debian's packages: own folder, free port on loopback, generated password, never the system's
//! cluster. As root the server runs as user `postgres`, as PostgreSQL demands.

use std::fs;
use std::net::{Ipv4Addr, TcpListener};
use std::os::unix::fs::{MetadataExt, OpenOptionsExt, PermissionsExt};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::thread::sleep;
use std::time::{Duration, Instant};

use crate::guard::{self, Guarded, Stop};

/// The file that says that a folder is ours to delete.
const MARKER: &str = "fresh-meadow-cluster";
/// The superuser of our clusters.
const USER: &str = "fresh_meadow";

/// Ends what opens a door, in a database that is as it was some time ago. A database of an older version may lack a table.
const ENDED: &str = "DO $$ BEGIN
    IF to_regclass('session') IS NOT NULL THEN DELETE FROM session; END IF;
    IF to_regclass('first_account_code') IS NOT NULL THEN DELETE FROM first_account_code; END IF;
    IF to_regclass('invitation') IS NOT NULL THEN
        UPDATE invitation SET revoked_at = now() WHERE accepted_at IS NULL AND revoked_at IS NULL;
    END IF;
    IF to_regclass('device_token') IS NOT NULL THEN UPDATE device_token SET revoked_at = now() WHERE revoked_at IS NULL; END IF;
END $$";

/// Makes a file that nobody but its owner reads, empty.
fn private(file: &Path) -> std::io::Result<()> {
    // One that is there may be open to others.
    match fs::remove_file(file) {
        Err(error) if error.kind() != std::io::ErrorKind::NotFound => return Err(error),
        _ => {}
    }
    let mut options = fs::OpenOptions::new();
    options
        .write(true)
        .create_new(true)
        .mode(0o600)
        .open(file)?;
    Ok(())
}

/// A running cluster, stopped when dropped.
#[derive(Debug)]
pub struct Cluster {
    server: Guarded,
    folder: PathBuf,
    port: u16,
    password: String,
    throwaway: bool,
}

/// Whether a folder holds a cluster of ours.
#[must_use]
pub fn is_ours(folder: &Path) -> bool {
    folder.join(MARKER).exists()
}

impl Cluster {
    /// Starts a cluster for tests in a temporary folder: not durable, gone when dropped.
    ///
    /// # Errors
    /// One line that says what is missing or went wrong.
    pub fn throwaway() -> Result<Self, String> {
        let folder = std::env::temp_dir().join(format!("fresh-meadow-test-{}", random_hex(8)?));
        Self::start(&folder, true)
    }

    /// Starts the durable cluster of a folder, making it at first.
    ///
    /// # Errors
    /// As [`Self::throwaway`]; also a folder that is not ours, or whose server runs already.
    pub fn kept(folder: &Path) -> Result<Self, String> {
        Self::start(folder, false)
    }

    fn start(folder: &Path, throwaway: bool) -> Result<Self, String> {
        let programs = programs()?;
        if !is_ours(folder) {
            if folder.exists() && fs::read_dir(folder).is_ok_and(|mut d| d.next().is_some()) {
                return Err(format!(
                    "{} is not empty and not ours: it has no file {MARKER}",
                    folder.display()
                ));
            }
            create(folder, &programs, throwaway)?;
        }
        let password = fs::read_to_string(folder.join("password"))
            .map_err(|e| format!("{}: {e}", folder.join("password").display()))?;
        // A port that was free a moment ago may be taken by now: try again.
        let mut last = String::new();
        for _ in 0..3 {
            let port = free_port()?;
            let server = serve(folder, &programs, port, throwaway)?;
            let mut cluster = Self {
                server,
                folder: folder.to_owned(),
                port,
                password: password.clone(),
                throwaway,
            };
            match cluster.wait_until_ready(&programs) {
                Ok(()) => return Ok(cluster),
                Err(error) => last = error,
            }
            cluster.throwaway = false;
        }
        Err(last)
    }

    fn wait_until_ready(&mut self, programs: &Path) -> Result<(), String> {
        let deadline = Instant::now() + Duration::from_secs(60);
        while Instant::now() < deadline {
            let ready = Command::new(programs.join("pg_isready"))
                .args(["-q", "-h", "127.0.0.1", "-p", &self.port.to_string()])
                .status();
            if ready.is_ok_and(|s| s.success()) {
                return Ok(());
            }
            if self.server.try_wait().is_ok_and(|ended| ended.is_some()) {
                let log = fs::read_to_string(self.folder.join("log")).unwrap_or_default();
                let line = log
                    .lines()
                    .rev()
                    .find(|l| l.contains("FATAL"))
                    .unwrap_or("no reason in its log");
                return Err(if line.contains("postmaster.pid") {
                    format!("another server runs on {} already", self.folder.display())
                } else {
                    format!("PostgreSQL did not start: {line}")
                });
            }
            sleep(Duration::from_millis(50));
        }
        Err("PostgreSQL did not answer within a minute".to_owned())
    }

    /// Kills all of its processes at once, as a power failure would.
    ///
    /// # Errors
    /// They are not to be found.
    pub fn crash(&mut self) -> Result<(), String> {
        let file = self.folder.join("data/postmaster.pid");
        let text = fs::read_to_string(&file).map_err(|e| format!("{}: {e}", file.display()))?;
        let first = text.lines().next().unwrap_or_default().trim().to_owned();
        let listed = Command::new("ps")
            .args(["-o", "pid=", "--ppid", &first])
            .output()
            .map_err(|e| format!("ps: {e}"))?;
        let children = String::from_utf8_lossy(&listed.stdout).into_owned();
        // The first of them at the same time: it would start others.
        let killed = Command::new("kill")
            .args(["-9", &first])
            .args(children.split_whitespace())
            .status();
        // One that ended by itself in between is no fault.
        killed.map_err(|e| format!("kill: {e}"))?;
        self.server.stop();
        Ok(())
    }

    /// Starts it again after [`Self::crash`], at the same address.
    ///
    /// # Errors
    /// As [`Self::throwaway`].
    pub fn start_again(&mut self) -> Result<(), String> {
        let programs = programs()?;
        let deadline = Instant::now() + Duration::from_secs(60);
        loop {
            self.server = serve(&self.folder, &programs, self.port, self.throwaway)?;
            match self.wait_until_ready(&programs) {
                // On a busy machine not all that was killed has ended yet.
                Err(error) if error.contains("shared memory") && Instant::now() < deadline => {
                    sleep(Duration::from_millis(100));
                }
                ready => return ready,
            }
        }
    }

    /// Where its data lie.
    #[must_use]
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// The address of a database of this cluster.
    #[must_use]
    pub fn url(&self, database: &str) -> String {
        self.address().url(database)
    }

    /// Makes a database unless it exists.
    ///
    /// # Errors
    /// What `createdb` said.
    pub fn create_database(&self, name: &str) -> Result<(), String> {
        let out = Command::new(programs()?.join("createdb"))
            .args([
                "-h",
                "127.0.0.1",
                "-p",
                &self.port.to_string(),
                "-U",
                USER,
                name,
            ])
            .env("PGPASSWORD", &self.password)
            .output()
            .map_err(|e| format!("createdb: {e}"))?;
        let said = String::from_utf8_lossy(&out.stderr);
        if out.status.success() || said.contains("already exists") {
            return Ok(());
        }
        Err(format!("createdb: {}", said.trim()))
    }

    /// Runs a file of SQL on a database.
    ///
    /// # Errors
    /// What `psql` said.
    pub fn run_sql_file(&self, database: &str, file: &Path) -> Result<(), String> {
        let out = Command::new(programs()?.join("psql"))
            .args(["-q", "-v", "ON_ERROR_STOP=1", "-f"])
            .arg(file)
            .arg(self.url(database))
            .output()
            .map_err(|e| format!("psql: {e}"))?;
        if out.status.success() {
            return Ok(());
        }
        Err(format!(
            "{}: {}",
            file.display(),
            String::from_utf8_lossy(&out.stderr).trim()
        ))
    }

    /// Writes all of a database to a file, in PostgreSQL's own archive format.
    ///
    /// # Errors
    /// What `pg_dump` said; then there is no file.
    pub fn back_up(&self, database: &str, file: &Path) -> Result<(), String> {
        self.address().back_up(database, file)
    }

    /// Makes a database of a file that [`Self::back_up`] wrote. One of that name that is there is kept under another, which is given back. What may have been revoked since the
    /// backup was written does not come back: sessions, open invitations and tokens of devices end.
    ///
    /// # Errors
    /// What `pg_restore` said; then all is as it was.
    pub fn restore(&self, database: &str, file: &Path) -> Result<Option<String>, String> {
        if !file.is_file() {
            return Err(format!("{}: there is no such file", file.display()));
        }
        let stamp = random_hex(4)?;
        let (fresh, kept) = (
            format!("restored_{stamp}"),
            format!("{database}_before_{stamp}"),
        );
        self.create_database(&fresh)?;
        let from = file.display().to_string();
        let url = self.url(&fresh);
        let filled = self.ask(
            "pg_restore",
            &["--exit-on-error", "--no-owner", "--dbname", &url, &from],
        );
        let ended = filled
            .and_then(|_| self.ask("psql", &["-q", "-v", "ON_ERROR_STOP=1", "-c", ENDED, &url]));
        if let Err(error) = ended {
            // Nothing of it is of use.
            let _ = self.ask("dropdb", &[&fresh]);
            return Err(error);
        }
        let postgres = self.url("postgres");
        let sql = |sql: String| {
            self.ask(
                "psql",
                &["-q", "-v", "ON_ERROR_STOP=1", "-c", &sql, &postgres],
            )
        };
        let there = self.create_database(database).is_ok() && self.is_filled(database)?;
        if there {
            sql(format!("ALTER DATABASE {database} RENAME TO {kept}"))?;
        } else {
            sql(format!("DROP DATABASE {database}"))?;
        }
        sql(format!("ALTER DATABASE {fresh} RENAME TO {database}"))?;
        Ok(there.then_some(kept))
    }

    /// Whether a database holds any table.
    fn is_filled(&self, database: &str) -> Result<bool, String> {
        let sql = "SELECT EXISTS (SELECT FROM pg_tables WHERE schemaname = 'public')";
        let said = self.ask("psql", &["-A", "-t", "-c", sql, &self.url(database)])?;
        Ok(said.trim() == "t")
    }

    /// What a program of PostgreSQL's said.
    fn ask(&self, program: &str, arguments: &[&str]) -> Result<String, String> {
        self.address().ask(program, arguments)
    }

    fn address(&self) -> Address {
        Address {
            port: self.port,
            password: self.password.clone(),
        }
    }
}

/// Where a cluster's server is asked.
pub struct Address {
    port: u16,
    password: String,
}

impl Address {
    /// The server that runs on a folder at present; `None`: none does.
    #[must_use]
    pub fn of_running(folder: &Path) -> Option<Self> {
        // PostgreSQL's own note: its process in the first line, its port in the fourth.
        let note = fs::read_to_string(folder.join("data/postmaster.pid")).ok()?;
        let mut lines = note.lines();
        let process: u32 = lines.next()?.trim().parse().ok()?;
        let port = lines.nth(2)?.trim().parse().ok()?;
        if !Path::new("/proc").join(process.to_string()).exists() {
            return None;
        }
        let password = fs::read_to_string(folder.join("password")).ok()?;
        Some(Self { port, password })
    }

    /// The address of a database.
    #[must_use]
    pub fn url(&self, database: &str) -> String {
        format!(
            "postgres://{USER}:{}@127.0.0.1:{}/{database}",
            self.password, self.port
        )
    }

    /// Writes all of a database to a file, in PostgreSQL's own archive format.
    ///
    /// # Errors
    /// What `pg_dump` said; then there is no file.
    pub fn back_up(&self, database: &str, file: &Path) -> Result<(), String> {
        // A file that is not whole never has the name.
        let unfinished = file.with_extension("unfinished");
        // It holds the hashes of passwords: nobody else reads it, from its first byte on.
        private(&unfinished).map_err(|e| format!("{}: {e}", unfinished.display()))?;
        let url = self.url(database);
        let to = unfinished.display().to_string();
        let done = self.ask("pg_dump", &["--format=custom", "--file", &to, &url]);
        if let Err(error) = done {
            // It may not have come so far as to make it.
            let _ = fs::remove_file(&unfinished);
            return Err(error);
        }
        fs::rename(&unfinished, file).map_err(|e| format!("{}: {e}", file.display()))
    }

    fn ask(&self, program: &str, arguments: &[&str]) -> Result<String, String> {
        let out = Command::new(programs()?.join(program))
            .args(arguments)
            .env("PGPASSWORD", &self.password)
            .env("PGHOST", "127.0.0.1")
            .env("PGPORT", self.port.to_string())
            .env("PGUSER", USER)
            .output()
            .map_err(|e| format!("{program}: {e}"))?;
        if out.status.success() {
            return Ok(String::from_utf8_lossy(&out.stdout).into_owned());
        }
        let said = String::from_utf8_lossy(&out.stderr).replace(&self.password, "…");
        Err(format!("{program}: {}", said.trim()))
    }
}

impl Drop for Cluster {
    fn drop(&mut self) {
        self.server.stop();
        if self.throwaway {
            // A leftover in the temporary folder harms nobody.
            let _ = fs::remove_dir_all(&self.folder);
        }
    }
}

/// Deletes a cluster's folder, which must carry our marker.
///
/// # Errors
/// A folder without marker, or one that cannot be deleted.
pub fn delete(folder: &Path) -> Result<(), String> {
    if !folder.exists() {
        return Ok(());
    }
    if !is_ours(folder) {
        return Err(format!(
            "{} is not deleted: it has no file {MARKER}, so it is not ours",
            folder.display()
        ));
    }
    fs::remove_dir_all(folder).map_err(|e| format!("{}: {e}", folder.display()))
}

/// The folder of PostgreSQL's programs, the newest that Debian's packages installed.
///
/// # Errors
/// None is installed.
pub fn programs() -> Result<PathBuf, String> {
    let mut versions: Vec<(u32, PathBuf)> = fs::read_dir("/usr/lib/postgresql")
        .into_iter()
        .flatten()
        .flatten()
        .filter_map(|entry| {
            let version = entry.file_name().to_str()?.parse().ok()?;
            let bin = entry.path().join("bin");
            bin.join("postgres").exists().then_some((version, bin))
        })
        .collect();
    versions.sort();
    versions
        .pop()
        .map(|v| v.1)
        .ok_or_else(|| "PostgreSQL is not installed: apt-get install postgresql".to_owned())
}

/// Whether we run as root.
#[must_use]
pub fn is_root() -> bool {
    fs::metadata("/proc/self").is_ok_and(|m| m.uid() == 0)
}

/// A command that PostgreSQL accepts to be run by: as user `postgres` where we are root.
fn unprivileged(program: &Path) -> Command {
    if !is_root() {
        return Command::new(program);
    }
    let mut command = Command::new("setpriv");
    command
        .args(["--reuid=postgres", "--regid=postgres", "--init-groups"])
        .arg(program);
    // A folder that user postgres cannot enter would only earn a warning.
    command.current_dir("/");
    command
}

fn create(folder: &Path, programs: &Path, throwaway: bool) -> Result<(), String> {
    let fail = |what: &str, error: &dyn std::fmt::Display| format!("{what}: {error}");
    fs::create_dir_all(folder).map_err(|e| fail(&folder.display().to_string(), &e))?;
    let password = folder.join("password");
    fs::write(&password, random_hex(24)?).map_err(|e| fail("password", &e))?;
    fs::set_permissions(&password, fs::Permissions::from_mode(0o600))
        .map_err(|e| fail("password", &e))?;
    if is_root() {
        let out = Command::new("chown")
            .args(["-R", "postgres:postgres"])
            .arg(folder)
            .output()
            .map_err(|e| fail("chown", &e))?;
        if !out.status.success() {
            return Err(fail("chown", &String::from_utf8_lossy(&out.stderr).trim()));
        }
    }
    let mut initdb = unprivileged(&programs.join("initdb"));
    initdb
        .arg("-D")
        .arg(folder.join("data"))
        .args([
            "-U",
            USER,
            "-A",
            "scram-sha-256",
            "-E",
            "UTF8",
            "--locale=C.UTF-8",
        ])
        .arg(format!("--pwfile={}", password.display()));
    if throwaway {
        initdb.arg("--no-sync");
    }
    let out = initdb
        .stdin(Stdio::null())
        .output()
        .map_err(|e| fail("initdb", &e))?;
    if !out.status.success() {
        return Err(fail("initdb", &String::from_utf8_lossy(&out.stderr).trim()));
    }
    // Last: a folder that was left half made is not taken for a cluster.
    fs::write(
        folder.join(MARKER),
        "A private PostgreSQL cluster of Fresh Meadow.\n",
    )
    .map_err(|e| fail("marker", &e))
}

fn serve(folder: &Path, programs: &Path, port: u16, throwaway: bool) -> Result<Guarded, String> {
    let mut postgres = unprivileged(&programs.join("postgres"));
    postgres
        .arg("-D")
        .arg(folder.join("data"))
        .args(["-p", &port.to_string()])
        .args([
            "-c",
            "listen_addresses=127.0.0.1",
            "-c",
            "unix_socket_directories=",
        ]);
    if throwaway {
        for setting in [
            "fsync=off",
            "synchronous_commit=off",
            "full_page_writes=off",
            "autovacuum=off",
            "max_connections=200",
        ] {
            postgres.args(["-c", setting]);
        }
    }
    let log = fs::File::create(folder.join("log")).map_err(|e| format!("log: {e}"))?;
    let too = log.try_clone().map_err(|e| format!("log: {e}"))?;
    let delete_after = throwaway.then_some(folder);
    guard::spawn(
        &postgres,
        Stop::Interrupt,
        delete_after,
        log.into(),
        too.into(),
    )
    .map_err(|e| format!("postgres: {e}"))
}

/// A port that is free on loopback right now.
///
/// # Errors
/// None is.
pub fn free_port() -> Result<u16, String> {
    TcpListener::bind((Ipv4Addr::LOCALHOST, 0))
        .and_then(|listener| listener.local_addr())
        .map(|address| address.port())
        .map_err(|e| format!("no free port: {e}"))
}

/// Random bytes as hexadecimal digits.
///
/// # Errors
/// The system has none.
pub fn random_hex(bytes: usize) -> Result<String, String> {
    let mut buffer = vec![0u8; bytes];
    getrandom::fill(&mut buffer).map_err(|e| format!("no random numbers: {e}"))?;
    Ok(buffer.iter().map(|b| format!("{b:02x}")).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn folder(name: &str) -> PathBuf {
        let folder =
            std::env::temp_dir().join(format!("fresh-meadow-{name}-{}", std::process::id()));
        fs::create_dir_all(&folder).unwrap();
        fs::write(folder.join("data"), "somebody's").unwrap();
        folder
    }

    #[test]
    fn a_folder_without_marker_is_neither_used_nor_deleted() {
        let folder = folder("unmarked");
        assert!(delete(&folder).unwrap_err().contains("not ours"));
        if programs().is_ok() {
            assert!(Cluster::kept(&folder).unwrap_err().contains("not ours"));
        }
        assert!(folder.join("data").exists());
        fs::remove_dir_all(&folder).unwrap();
    }

    #[test]
    fn a_marked_folder_is_deleted() {
        let folder = folder("marked");
        fs::write(folder.join(MARKER), "").unwrap();
        delete(&folder).unwrap();
        assert!(!folder.exists());
        delete(&folder).unwrap();
    }
}
