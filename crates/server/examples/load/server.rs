//! A server process of the release build.

use std::fs;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use xtask::postgres;

use crate::Failure;
use crate::http::Connection;

pub(crate) struct Server {
    child: Child,
    pub(crate) address: String,
}

impl Server {
    /// Starts one on a database; it may not answer yet.
    pub(crate) fn start(database: &str, port: u16, env: &[(&str, &str)]) -> Result<Self, Failure> {
        let example = std::env::current_exe()?;
        let target = example
            .parent()
            .and_then(|p| p.parent())
            .ok_or("no target folder")?;
        let address = format!("127.0.0.1:{port}");
        let child = Command::new(target.join("fresh-meadow"))
            .arg("serve")
            .env("FRESH_MEADOW_DATABASE_URL", database)
            .env("FRESH_MEADOW_LISTEN", &address)
            .env("FRESH_MEADOW_ACCOUNT_REQUESTS_PER_S", "0")
            .env("FRESH_MEADOW_PEER_REQUESTS_PER_S", "0")
            .envs(env.iter().copied())
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(Stdio::inherit())
            .spawn()
            .map_err(|e| {
                format!("target/release/fresh-meadow: {e}; run `cargo build --release`")
            })?;
        Ok(Self { child, address })
    }

    pub(crate) fn free_port() -> Result<u16, Failure> {
        Ok(postgres::free_port()?)
    }

    /// Waits until it is ready; how long that took.
    pub(crate) async fn ready(&self) -> Result<Duration, Failure> {
        let begun = Instant::now();
        loop {
            if let Ok(mut connection) = Connection::to(&self.address).await
                && connection
                    .get("/readyz", "")
                    .await
                    .is_ok_and(|a| a.status == 200)
            {
                return Ok(begun.elapsed());
            }
            if begun.elapsed() > Duration::from_secs(60) {
                return Err("the server never answered".into());
            }
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
    }

    /// Memory that is resident, MB.
    pub(crate) fn resident_mb(&self) -> Result<f64, Failure> {
        self.memory_mb("VmRSS:")
    }

    /// Most memory that was resident, MB.
    pub(crate) fn peak_mb(&self) -> Result<f64, Failure> {
        self.memory_mb("VmHWM:")
    }

    /// Has the most memory that was resident counted from now on (proc(5)).
    pub(crate) fn forget_peak(&self) -> Result<(), Failure> {
        Ok(fs::write(
            format!("/proc/{}/clear_refs", self.child.id()),
            "5",
        )?)
    }

    fn memory_mb(&self, figure: &str) -> Result<f64, Failure> {
        let text = fs::read_to_string(format!("/proc/{}/status", self.child.id()))?;
        let line = text.lines().find(|l| l.starts_with(figure));
        let line = line.ok_or_else(|| format!("no {figure}"))?;
        let kb: f64 = line.split_whitespace().nth(1).ok_or("no figure")?.parse()?;
        Ok(kb * 1024.0 / 1e6)
    }

    /// Processor time that it has taken, s (proc(5); a tick is a hundredth of a second).
    pub(crate) fn processor_s(&self) -> Result<f64, Failure> {
        let stat = fs::read_to_string(format!("/proc/{}/stat", self.child.id()))?;
        let after_name = stat.rsplit(')').next().unwrap_or_default();
        let ticks = after_name.split_whitespace().skip(11).take(2);
        let ticks: Result<Vec<f64>, _> = ticks.map(str::parse).collect();
        Ok(ticks?.iter().sum::<f64>() / 100.0)
    }

    /// kill -9.
    pub(crate) fn kill(&mut self) -> Result<(), Failure> {
        self.child.kill()?;
        self.child.wait()?;
        Ok(())
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        // It may have ended by itself.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
