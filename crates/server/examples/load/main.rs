//! Load and bad days by hand: how fast the release build answers, and whether half an hour of kills loses anything.
//!
//! ```sh
//! cargo build --release && cargo run --release --example load -- speed
//! cargo run --release --example load -- soak --minutes 30
//! ```
//!
//! Both run on loopback alone, with a PostgreSQL of their own, and end by themselves. Their figures go into docs/PERFORMANCE.md by hand.

mod database;
mod http;
mod server;
mod soak;
mod speed;

use clap::{Parser, Subcommand};

/// What went wrong, for the terminal.
pub(crate) type Failure = Box<dyn std::error::Error + Send + Sync>;

#[derive(Parser)]
struct Arguments {
    #[command(subcommand)]
    what: What,
}

#[derive(Subcommand)]
enum What {
    /// Requests a second, waits, memory.
    Speed,
    /// The Morning mix with clock steps, imports, kills of a server each minute and a restart of PostgreSQL.
    Soak {
        /// How long.
        #[arg(long, default_value_t = 30)]
        minutes: u64,
        /// Requests a second.
        #[arg(long, default_value_t = 100)]
        rate: u64,
    },
}

fn main() -> Result<(), Failure> {
    let arguments = Arguments::parse();
    let runtime = tokio::runtime::Builder::new_current_thread()
        .enable_all()
        .build()?;
    runtime.block_on(async {
        match arguments.what {
            What::Speed => speed::run().await,
            What::Soak { minutes, rate } => soak::run(minutes, rate).await,
        }
    })
}
