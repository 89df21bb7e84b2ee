//! The binary `fresh-meadow`.

use std::process::ExitCode;

fn main() -> ExitCode {
    fresh_meadow::cli::main()
}
