//! The stand-ins as programs.

use std::net::{SocketAddr, TcpListener};
use std::path::PathBuf;

use clap::{Parser, Subcommand};
use standins::controller::flow_meter::{Quirks, Sink};
use standins::controller::{Controllers, Equipped};

const TOKEN: &str = "FRESH_MEADOW_CONTROLLER_TOKEN";
const FLOW_TOKEN: &str = "FRESH_MEADOW_FLOW_TOKEN";

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
        /// Where a flow meter on the supply sends the minutes that it counts; the environment says its token, FRESH_MEADOW_FLOW_TOKEN.
        #[arg(long, value_name = "URL")]
        flow_to: Option<String>,
        /// Litres of a pulse of it.
        #[arg(long, default_value_t = 10.0)]
        flow_pulse: f64,
        /// Litres an hour that leak all the time.
        #[arg(long, default_value_t = 0.0)]
        leak: f64,
        /// A zone with a broken head.
        #[arg(long, value_name = "ZONE")]
        broken: Vec<String>,
    },
}

fn main() -> std::io::Result<()> {
    match Cli::parse().command {
        Command::Weather { listen } => {
            let listener = TcpListener::bind(listen)?;
            actix_web::rt::System::new().block_on(standins::service::run(listener))
        }
        Command::Controller {
            listen,
            file,
            flow_to,
            flow_pulse,
            leak,
            broken,
        } => {
            let token = std::env::var(TOKEN).map_err(|_| {
                std::io::Error::other(format!("{TOKEN} is not set: it is asked for"))
            })?;
            let listener = TcpListener::bind(listen)?;
            let flow_token = std::env::var(FLOW_TOKEN).unwrap_or_default();
            let equipped = flow_to.map(|url| Equipped {
                sink: Sink {
                    url,
                    token: flow_token,
                },
                pulse_l: flow_pulse,
                quirks: Quirks {
                    leak_l_h: leak,
                    ..Quirks::default()
                },
                broken: broken.into_iter().collect(),
            });
            let controllers = Controllers::open(Some(file), &token)?.equipped(equipped);
            actix_web::rt::System::new().block_on(standins::controller::run(listener, controllers))
        }
    }
}
