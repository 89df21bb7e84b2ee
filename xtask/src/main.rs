//! `cargo xtask`: set-up, demo, tests, screenshots. The same commands by hand and in CI.

mod demo;
mod home;
mod needs;
mod served;
mod steps;
mod test;

use std::process::ExitCode;

const HELP: &str = "\
cargo xtask demo [--reset]   installs what is missing, builds, starts a private PostgreSQL, loads the demo, serves it
cargo xtask home             your own lawn: real clock, its own data folder; prints the address and the code for the first account
                 --lan             serves the house's phones too, over TLS with a certificate of its own
                 --backup FILE     writes all data to a file; --restore FILE takes it, also on an empty machine
                 --password EMAIL  sets a lost password anew
cargo xtask test             installs what is missing and runs every check and test
cargo xtask generate         writes docs/openapi.json, docs/formats/plan.schema.json, web/src/api.gen.ts and .sqlx again
cargo xtask screenshots      takes the pictures in docs/screenshots/ from the demo data
cargo xtask bench            runs the benchmarks
cargo xtask score            how near plans come to a linear program with hindsight (docs/SCORE.md)";

fn main() -> ExitCode {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let arguments: Vec<&str> = arguments.iter().map(String::as_str).collect();
    let done = match arguments[..] {
        ["demo"] => demo::run(false),
        ["demo", "--reset"] => demo::run(true),
        ["home", ref words @ ..] => match home::Wanted::of(words) {
            Some(wanted) => home::run(&wanted),
            None => Err(format!("cargo xtask home knows no {}", words.join(" "))),
        },
        ["test"] => test::run(),
        ["generate"] => test::generate(),
        ["screenshots"] => test::screenshots(),
        ["bench"] => test::bench(),
        ["score", ref words @ ..] => test::score(words),
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
