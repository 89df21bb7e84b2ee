//! What is committed and generated is current.

use std::process::Command;

#[test]
fn the_committed_documents_are_what_the_program_says() {
    for (what, committed) in [
        ("openapi", include_str!("../../../../docs/openapi.json")),
        (
            "plan",
            include_str!("../../../../docs/formats/plan.schema.json"),
        ),
    ] {
        let out = Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
            .args(["schema", what])
            .output()
            .unwrap();
        let said = String::from_utf8(out.stdout).unwrap();
        assert!(
            said == committed,
            "{what} has drifted: run `cargo xtask generate`"
        );
    }
}
