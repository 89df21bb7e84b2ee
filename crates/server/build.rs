//! Rebuilds when a migration or the built front end appears or changes.

fn main() {
    println!("cargo:rerun-if-changed=migrations");
    println!("cargo:rerun-if-changed=../../web/dist");
    // rust-embed wants the folder at compile time; without Node it stays empty and the binary says so.
    if let Err(error) = std::fs::create_dir_all("../../web/dist") {
        println!("cargo:warning=web/dist cannot be made: {error}");
    }
}
