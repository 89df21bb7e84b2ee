//! The command line: the same core on open files, and the server.

mod account;
mod audit;
mod budget;
mod certificate;
mod et0;
mod infiltration;
mod input;
mod plan;
mod schema;
mod serve;
mod simulate;
mod soil;

use std::io::Write;
use std::process::ExitCode;

use clap::{Parser, Subcommand};

/// Builds the week's watering schedule of a lawn from weather, grass and soil, and shows its working.
#[derive(Debug, Parser)]
#[command(name = "fresh-meadow", version, about)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Reference evapotranspiration of each row of a weather file, as CSV.
    Et0(et0::Arguments),
    /// What the sprinklers put down and how evenly, from a file of catch cans, as JSON.
    Audit(audit::Arguments),
    /// What a soil of known shares is called and how much water it holds, as JSON.
    Soil(soil::Arguments),
    /// How long a soil takes a steady rate before water stands on it, as JSON.
    Infiltration(infiltration::Arguments),
    /// The week's plan for a site and its weather, as JSON with its reasons.
    Plan(plan::Arguments),
    /// Replays the morning decisions over past weather; the daily balance as CSV.
    Simulate(simulate::Arguments),
    /// What water offices allow a site over a span of days, by WaterSense and by California's rule, as JSON.
    Budget(budget::Arguments),
    /// Serves the application.
    Serve(serve::Arguments),
    /// Brings the database to this program's version.
    Migrate(serve::Arguments),
    /// Makes a certificate that vouches for itself, for a house of one's own.
    Certificate(certificate::Arguments),
    /// Adds accounts, sets lost passwords anew.
    Account(account::AccountArguments),
    /// Loads the demo site and its accounts into an empty database.
    LoadDemo(account::DemoArguments),
    /// Prints a machine-readable description: `openapi` or `plan`.
    Schema(schema::Arguments),
}

/// A failure that the caller can correct: one line on standard error, exit code 2.
#[derive(Debug)]
pub(crate) struct Failure(String);

impl<E: std::fmt::Display> From<E> for Failure {
    fn from(error: E) -> Self {
        Self(error.to_string())
    }
}

/// A figure that was checked, or the flag that brought it.
fn flag<T, E: std::fmt::Display>(name: &str, checked: Result<T, E>) -> Result<T, Failure> {
    checked.map_err(|error| Failure(format!("{name}: {error}")))
}

/// Runs the program for the process's arguments.
#[must_use]
pub fn main() -> ExitCode {
    let arguments = match Arguments::try_parse() {
        Ok(arguments) => arguments,
        Err(error) if error.use_stderr() => {
            // One line: what is wrong, without the usage that follows.
            let text = error.to_string();
            let said: Vec<&str> = text
                .lines()
                .map(str::trim)
                .take_while(|line| !line.starts_with("Usage"))
                .filter(|line| !line.is_empty() && !line.starts_with("For more"))
                .collect();
            eprintln!("{} (see --help)", said.join(" "));
            return ExitCode::from(2);
        }
        Err(help) => {
            // Help and version go to standard output; a closed pipe is no error.
            let _ = help.print();
            return ExitCode::SUCCESS;
        }
    };
    let printed = match arguments.command {
        Command::Et0(a) => et0::run(&a),
        Command::Audit(a) => audit::run(&a),
        Command::Soil(a) => soil::run(&a),
        Command::Infiltration(a) => infiltration::run(&a),
        Command::Plan(a) => plan::run(&a),
        Command::Simulate(a) => simulate::run(&a),
        Command::Budget(a) => budget::run(&a),
        Command::Serve(a) => serve::run(&a),
        Command::Migrate(a) => serve::migrate(&a),
        Command::Certificate(a) => certificate::run(&a),
        Command::Account(a) => account::run(&a),
        Command::LoadDemo(a) => account::load_demo(&a),
        Command::Schema(a) => schema::run(&a),
    };
    match printed {
        Ok(text) => {
            let mut out = std::io::stdout().lock();
            // A reader that has seen enough closes the pipe: not our error.
            let _ = out.write_all(text.as_bytes()).and_then(|()| out.flush());
            ExitCode::SUCCESS
        }
        Err(Failure(message)) => {
            let line: Vec<&str> = message.lines().map(str::trim).collect();
            eprintln!("error: {}", line.join(" "));
            ExitCode::from(2)
        }
    }
}
