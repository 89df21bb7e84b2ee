//! Steps with visible progress.

use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Instant;

/// The repository's root.
pub(crate) fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .parent()
        .unwrap_or(Path::new("."))
        .to_owned()
}

/// Runs a step, naming it and how long it took.
pub(crate) fn step<T>(name: &str, work: impl FnOnce() -> Result<T, String>) -> Result<T, String> {
    println!("==> {name}");
    let begun = Instant::now();
    let done = work()?;
    println!("    {name}: {:.1} s", begun.elapsed().as_secs_f64());
    Ok(done)
}

/// Runs a command with its output shown; failing if it fails.
pub(crate) fn run(command: &mut Command) -> Result<(), String> {
    let name = format!(
        "{} {}",
        command.get_program().to_string_lossy(),
        command
            .get_args()
            .take(3)
            .map(|a| a.to_string_lossy())
            .collect::<Vec<_>>()
            .join(" ")
    );
    let status = command
        .status()
        .map_err(|e| format!("{name}: cannot be run: {e}"))?;
    if status.success() {
        Ok(())
    } else {
        Err(format!("{name}: failed ({status})"))
    }
}

/// The standard output of a command.
pub(crate) fn output(command: &mut Command) -> Result<Vec<u8>, String> {
    let name = command.get_program().to_string_lossy().into_owned();
    let out = command
        .output()
        .map_err(|e| format!("{name}: cannot be run: {e}"))?;
    if out.status.success() {
        Ok(out.stdout)
    } else {
        Err(format!(
            "{name}: {}",
            String::from_utf8_lossy(&out.stderr).trim()
        ))
    }
}

/// Cargo in the repository's root.
pub(crate) fn cargo() -> Command {
    let mut command = Command::new(std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned()));
    command.current_dir(root());
    command
}

/// npm in `web/`.
pub(crate) fn npm() -> Command {
    let mut command = Command::new("npm");
    command.current_dir(root().join("web"));
    command
}
