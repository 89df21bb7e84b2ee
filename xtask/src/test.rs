//! `cargo xtask test` and what it checks; `generate` writes what `test` compares.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use xtask::postgres::Cluster;

use crate::needs;
use crate::steps::{cargo, npm, output, root, run as run_command, step};

pub(crate) fn run() -> Result<(), String> {
    needs::postgresql()?;
    needs::chromium()?;
    needs::npm_packages()?;
    step("format", || {
        run_command(cargo().args(["fmt", "--all", "--check"]))
    })?;
    step("front end: lint and format", || {
        run_command(npm().args([
            "exec",
            "--no",
            "--",
            "biome",
            "check",
            "--error-on-warnings",
            ".",
        ]))
    })?;
    step("front end: types follow the OpenAPI document", || {
        let made = generated_types()?;
        same(&made, &root().join("web/src/api.gen.ts"))
    })?;
    step("front end: types", || {
        run_command(npm().args(["run", "--silent", "check"]))
    })?;
    needs::front_end()?;
    step(
        "build with lints, and the queries against a database",
        || {
            let made = build_with_queries()?;
            let committed = files(&queries())?;
            if made == committed {
                Ok(())
            } else {
                Err(drift("crates/server/.sqlx"))
            }
        },
    )?;
    step("Rust, API and browser tests", || {
        run_command(
            linting()?
                .args(["test", "--workspace"])
                .env("RUST_TEST_THREADS", at_once()),
        )
    })?;
    println!("all passed");
    Ok(())
}

/// Tests that run at a time: one more than there are cores, as those of the browser wait more than they compute; or as the environment says.
fn at_once() -> String {
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    std::env::var("RUST_TEST_THREADS").unwrap_or_else(|_| (cores + 1).to_string())
}

/// Writes everything that is generated and committed.
pub(crate) fn generate() -> Result<(), String> {
    needs::postgresql()?;
    needs::npm_packages()?;
    step("queries", || {
        let made = build_with_queries()?;
        let folder = queries();
        if folder.exists() {
            fs::remove_dir_all(&folder).map_err(|e| e.to_string())?;
        }
        fs::create_dir_all(&folder).map_err(|e| e.to_string())?;
        for (name, bytes) in made {
            fs::write(folder.join(name), bytes).map_err(|e| e.to_string())?;
        }
        Ok(())
    })?;
    step("OpenAPI document and schema of the plan", || {
        for (what, file) in [
            ("openapi", "docs/openapi.json"),
            ("plan", "docs/formats/plan.schema.json"),
        ] {
            let text = output(linting()?.args([
                "run",
                "--quiet",
                "--package",
                "fresh-meadow",
                "--",
                "schema",
                what,
            ]))?;
            fs::write(root().join(file), text).map_err(|e| format!("{file}: {e}"))?;
        }
        Ok(())
    })?;
    step("types of the front end", || {
        fs::write(root().join("web/src/api.gen.ts"), generated_types()?).map_err(|e| e.to_string())
    })
}

/// Takes the pictures of docs/screenshots from the demo data, by the browser tests' own means.
pub(crate) fn screenshots() -> Result<(), String> {
    needs::postgresql()?;
    needs::chromium()?;
    needs::front_end()?;
    step("screenshots", || {
        run_command(
            cargo()
                .args([
                    "test",
                    "--package",
                    "fresh-meadow",
                    "--test",
                    "it",
                    "screenshots::",
                    "--",
                    "--nocapture",
                ])
                .env("FRESH_MEADOW_SCREENSHOTS", root().join("docs/screenshots")),
        )
    })
}

pub(crate) fn bench() -> Result<(), String> {
    needs::postgresql()?;
    step("benchmarks", || {
        run_command(cargo().args(["bench", "--workspace"]))
    })
}

/// Replays beside a linear program with hindsight, as a table; `site=`, `sky=`, `years=`, `seed=` and `zones` pick and add.
pub(crate) fn score(words: &[&str]) -> Result<(), String> {
    let example = [
        "run",
        "--release",
        "--package",
        "lawn",
        "--example",
        "score",
        "--",
    ];
    step("score", || run_command(cargo().args(example).args(words)))
}

fn queries() -> PathBuf {
    root().join("crates/server/.sqlx")
}

fn drift(what: &str) -> String {
    format!("{what} is not current: run `cargo xtask generate` and commit what it writes")
}

fn same(made: &[u8], file: &Path) -> Result<(), String> {
    let committed = fs::read(file).map_err(|e| format!("{}: {e}", file.display()))?;
    if committed == made {
        Ok(())
    } else {
        Err(drift(&file.display().to_string()))
    }
}

fn generated_types() -> Result<Vec<u8>, String> {
    output(npm().args([
        "exec",
        "--no",
        "--silent",
        "--",
        "openapi-typescript",
        "../docs/openapi.json",
    ]))
}

/// Cargo with clippy's driver in the compiler's place: it lints what it builds, so that nothing is compiled a second time for its lints alone.
/// What it builds is kept apart from what plain Cargo builds.
fn linting() -> Result<Command, String> {
    let sysroot = output(Command::new("rustc").args(["--print", "sysroot"]))?;
    let sysroot = String::from_utf8_lossy(&sysroot).trim().to_owned();
    let driver = Path::new(&sysroot).join("bin/clippy-driver");
    if !driver.exists() {
        return Err(
            "clippy is not installed: run `rustup component add clippy` and start again".to_owned(),
        );
    }
    let mut command = cargo();
    command
        .env("RUSTC_WORKSPACE_WRAPPER", driver)
        // As `cargo clippy -- -D warnings` passes them on.
        .env(
            "CLIPPY_ARGS",
            "-D__CLIPPY_HACKERY__warnings__CLIPPY_HACKERY__",
        );
    Ok(command)
}

/// Builds all targets of the workspace, lints as errors, while SQLx checks every query against a fresh database; the recorded queries by file name.
fn build_with_queries() -> Result<BTreeMap<String, Vec<u8>>, String> {
    let cluster = Cluster::throwaway()?;
    cluster.create_database("queries")?;
    let server = root().join("crates/server");
    for migration in files(&server.join("migrations"))?.keys() {
        cluster.run_sql_file("queries", &server.join("migrations").join(migration))?;
    }
    let record = root().join("target/sqlx-queries");
    if record.exists() {
        fs::remove_dir_all(&record).map_err(|e| e.to_string())?;
    }
    fs::create_dir_all(&record).map_err(|e| e.to_string())?;
    // Cargo does not know that the queries look at a database: have the crate looked at anew.
    let lib = server.join("src/lib.rs");
    run_command(Command::new("touch").arg(&lib))?;
    run_command(
        linting()?
            .args(["test", "--workspace", "--all-targets", "--no-run"])
            .env("SQLX_OFFLINE", "false")
            .env("SQLX_OFFLINE_DIR", &record)
            .env("DATABASE_URL", cluster.url("queries")),
    )?;
    files(&record)
}

fn files(folder: &Path) -> Result<BTreeMap<String, Vec<u8>>, String> {
    let mut files = BTreeMap::new();
    let entries = fs::read_dir(folder).map_err(|e| format!("{}: {e}", folder.display()))?;
    for entry in entries.flatten() {
        let bytes =
            fs::read(entry.path()).map_err(|e| format!("{}: {e}", entry.path().display()))?;
        files.insert(entry.file_name().to_string_lossy().into_owned(), bytes);
    }
    Ok(files)
}
