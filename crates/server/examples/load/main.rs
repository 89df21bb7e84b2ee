//! Load and bad days by hand: how fast the release build answers, and whether half an hour of kills loses anything.
//!
//! ```sh
//! cargo build --release && cargo run --release --example load -- speed
//! cargo run --release --example load -- soak --minutes 30
//! cargo run --release --example load -- starve
//! cargo run --release --example load -- photos FILE...
//! ```
//!
//! All run on loopback alone, with a PostgreSQL of their own, and end by themselves. Their figures go into docs/PERFORMANCE.md by hand.

mod attack;
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
    /// What the others notice of one member who asks for long computations and hangs up.
    Starve,
    /// The memory that files take which are sent as photos.
    Photos {
        /// Pictures, or what calls itself so.
        #[arg(required = true)]
        files: Vec<std::path::PathBuf>,
    },
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
            What::Starve => attack::starve().await,
            What::Photos { files } => attack::photos(&files).await,
            What::Soak { minutes, rate } => soak::run(minutes, rate).await,
        }
    })
}
