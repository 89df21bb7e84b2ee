//! The stand-ins as programs.

use std::net::{SocketAddr, TcpListener};

use clap::{Parser, Subcommand};

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
}

fn main() -> std::io::Result<()> {
    match Cli::parse().command {
        Command::Weather { listen } => {
            let listener = TcpListener::bind(listen)?;
            actix_web::rt::System::new().block_on(standins::service::run(listener))
        }
    }
}
