//! The front end's units, words, times and drafts: its own tests (web/tests/), bundled by Vite and run by Node's runner.

use std::path::Path;
use std::process::Command;

fn run(folder: &Path, program: &str, arguments: &[&str]) -> String {
    let done = Command::new(program)
        .args(arguments)
        .current_dir(folder)
        .output()
        .unwrap_or_else(|e| panic!("{program}: {e}; run `npm ci` in web/ first"));
    let said = String::from_utf8_lossy(&done.stdout).into_owned();
    assert!(
        done.status.success(),
        "{program} {arguments:?}: {said}{}",
        String::from_utf8_lossy(&done.stderr)
    );
    said
}

#[test]
fn units_words_times_and_drafts_of_the_front_end() {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    run(
        &web,
        "node",
        &[
            "node_modules/vite/bin/vite.js",
            "build",
            "-c",
            "vite.tests.config.ts",
        ],
    );
    let said = run(&web, "node", &["--test", "node_modules/.tests/"]);
    let passed = said
        .lines()
        .find_map(|line| {
            line.trim_start_matches(['#', 'ℹ', ' '])
                .strip_prefix("pass ")
        })
        .and_then(|n| n.trim().parse::<u32>().ok());
    // An empty folder passes too.
    assert!(passed.is_some_and(|n| n >= 10), "{said}");
}
