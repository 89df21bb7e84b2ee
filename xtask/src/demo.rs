//! `cargo xtask demo`.

use std::path::Path;
use std::process::Stdio;

use xtask::guard::{self, Guarded, Stop};
use xtask::postgres::{self, Cluster};

use crate::needs;
use crate::served::{
    built, ctrl_c, demo_folder, fresh_meadow, until, usual_or_free_port, wait_until,
};
use crate::steps::{cargo, run as run_command, step};

const DATABASE: &str = "fresh_meadow";
const WEATHER_URL: &str = "FRESH_MEADOW_WEATHER_URL";
const CONTROLLER_TOKEN: &str = "FRESH_MEADOW_CONTROLLER_TOKEN";
const FLOW_TOKEN: &str = "FRESH_MEADOW_FLOW_TOKEN";

pub(crate) fn run(reset: bool) -> Result<(), String> {
    let stopped = ctrl_c()?;
    let folder = demo_folder();
    if reset {
        step("delete the demo's data", || postgres::delete(&folder))?;
    }
    needs::postgresql()?;
    needs::front_end()?;
    step("build the server", || {
        run_command(cargo().args([
            "build",
            "--package",
            "fresh-meadow",
            "--package",
            "standins",
        ]))
    })?;
    let cluster = step("start PostgreSQL", || Cluster::kept(&folder))?;
    cluster.create_database(DATABASE)?;
    let url = cluster.url(DATABASE);
    let (mut weather, weather_url) = stand_in(&["weather"], &[])?;
    let token = postgres::random_hex(16)?;
    let port = usual_or_free_port()?;
    let flow_token = kept_token(&folder.join("flow-token"))?;
    let kept = folder.join("controller.json").display().to_string();
    let flow_to = format!("http://127.0.0.1:{port}/api/v1/sites/1/meters/1/pulses");
    let mut controller_arguments = vec!["controller", "--file", &kept, "--flow-to", &flow_to];
    // The demo's leak goes on, and so does the broken head of its library lawn.
    controller_arguments.extend(["--leak", "110", "--broken", "5"]);
    let (mut controller, controller_url) = stand_in(
        &controller_arguments,
        &[(CONTROLLER_TOKEN, &token), (FLOW_TOKEN, &flow_token)],
    )?;
    step("load the demo", || {
        run_command(fresh_meadow("debug", &url).arg("migrate"))?;
        run_command(
            fresh_meadow("debug", &url)
                .arg("load-demo")
                .env(WEATHER_URL, &weather_url)
                .env(FLOW_TOKEN, &flow_token),
        )
    })?;
    let mut server = serve(&url, &weather_url, (&controller_url, &token), port)?;
    wait_until(port, "/readyz", &mut server)?;
    println!();
    println!("Fresh Meadow is served at  http://127.0.0.1:{port}");
    println!("Sign in with               juniper@sorrelhollow.example (owner)");
    println!(
        "                           rowan@... (manager), willow@... (crew), bram@... (viewer)"
    );
    println!("and the password           clover and thyme");
    println!("Simulated weather service  {weather_url}");
    println!("Simulated controller       {controller_url}");
    println!("Data is kept in            {}", folder.display());
    println!("Stop with Ctrl-C.");
    until(&stopped, &mut server)?;
    println!("\nstopping");
    server.stop();
    weather.stop();
    controller.stop();
    drop(cluster);
    Ok(())
}

/// A token that is made once and kept beside the data that know it.
fn kept_token(file: &Path) -> Result<String, String> {
    if let Ok(kept) = std::fs::read_to_string(file) {
        return Ok(kept);
    }
    let token = postgres::random_hex(16)?;
    std::fs::write(file, &token).map_err(|e| format!("{}: {e}", file.display()))?;
    Ok(token)
}

/// Starts a stand-in and waits until it answers; its address.
fn stand_in(what: &[&str], env: &[(&str, &str)]) -> Result<(Guarded, String), String> {
    let port = postgres::free_port()?;
    let mut command = built("debug", "fresh-meadow-standins");
    command
        .args(what)
        .args(["--listen", &format!("127.0.0.1:{port}")])
        .envs(env.iter().copied());
    let mut started = guard::spawn(
        &command,
        Stop::Term,
        None,
        Stdio::inherit(),
        Stdio::inherit(),
    )
    .map_err(|e| format!("the simulated {} cannot be started: {e}", what[0]))?;
    wait_until(port, "/healthz", &mut started)?;
    Ok((started, format!("http://127.0.0.1:{port}")))
}

fn serve(
    url: &str,
    weather_url: &str,
    (controller_url, token): (&str, &str),
    port: u16,
) -> Result<Guarded, String> {
    let mut command = fresh_meadow("debug", url);
    command
        .arg("serve")
        .env(WEATHER_URL, weather_url)
        .env("FRESH_MEADOW_CONTROLLER_URL", controller_url)
        .env(CONTROLLER_TOKEN, token)
        .env("FRESH_MEADOW_LISTEN", format!("127.0.0.1:{port}"));
    guard::spawn(
        &command,
        Stop::Term,
        None,
        Stdio::inherit(),
        Stdio::inherit(),
    )
    .map_err(|e| format!("the server cannot be started: {e}"))
}
