//! The stand-ins as programs.

use std::net::{SocketAddr, TcpListener};
use std::path::PathBuf;

use clap::{Parser, Subcommand};
use standins::controller::Controllers;

const TOKEN: &str = "FRESH_MEADOW_CONTROLLER_TOKEN";

#[derive(Parser)]
#[command(about = "Simulated stand-ins of outside services; nothing they say is measured")]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// The weather service.
    Weather {
        /// Address to listen on; loopback.
        #[arg(long, default_value = "127.0.0.1:8090")]
        listen: SocketAddr,
    },
    /// The irrigation controller; the environment says the token that it asks for, FRESH_MEADOW_CONTROLLER_TOKEN.
    Controller {
        /// Address to listen on; loopback.
        #[arg(long, default_value = "127.0.0.1:8091")]
        listen: SocketAddr,
        /// The file in which it keeps what it holds, and its log.
        #[arg(long)]
        file: PathBuf,
    },
}

fn main() -> std::io::Result<()> {
    match Cli::parse().command {
        Command::Weather { listen } => {
            let listener = TcpListener::bind(listen)?;
            actix_web::rt::System::new().block_on(standins::service::run(listener))
        }
        Command::Controller { listen, file } => {
            let token = std::env::var(TOKEN).map_err(|_| {
                std::io::Error::other(format!("{TOKEN} is not set: it is asked for"))
            })?;
            let listener = TcpListener::bind(listen)?;
            let controllers = Controllers::open(Some(file), &token)?;
            actix_web::rt::System::new().block_on(standins::controller::run(listener, controllers))
        }
    }
}
