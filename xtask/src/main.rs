//! `cargo xtask`: set-up, demo, tests, screenshots. The same commands by hand and in CI.

mod demo;
mod needs;
mod steps;
mod test;

use std::process::ExitCode;

const HELP: &str = "\
cargo xtask demo [--reset]   installs what is missing, builds, starts a private PostgreSQL, loads the demo, serves it
cargo xtask test             installs what is missing and runs every check and test
cargo xtask generate         writes docs/openapi.json, docs/formats/plan.schema.json, web/src/api.gen.ts and .sqlx again
cargo xtask screenshots      takes the pictures in docs/screenshots/ from the demo data
cargo xtask bench            runs the benchmarks";

fn main() -> ExitCode {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let arguments: Vec<&str> = arguments.iter().map(String::as_str).collect();
    let done = match arguments[..] {
        ["demo"] => demo::run(false),
        ["demo", "--reset"] => demo::run(true),
        ["test"] => test::run(),
        ["generate"] => test::generate(),
        ["screenshots"] => test::screenshots(),
        ["bench"] => test::bench(),
        _ => {
            println!("{HELP}");
            return ExitCode::from(2);
        }
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("error: {message}");
            ExitCode::FAILURE
        }
    }
}
