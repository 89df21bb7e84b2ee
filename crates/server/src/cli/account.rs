//! `fresh-meadow load-demo`.

use clap::Args;

use super::{Failure, serve};

#[derive(Debug, Args)]
pub(crate) struct DemoArguments {
    #[command(flatten)]
    settings: serve::Arguments,
}

/// Loads the demo once; a database that holds it keeps what was done there since.
pub(crate) fn load_demo(a: &DemoArguments) -> Result<String, Failure> {
    let settings = a.settings.settings()?;
    serve::runtime()?.block_on(async {
        let pool = crate::db::connect(&settings.database_url, 2).await?;
        let loaded = crate::demo::load(&pool).await?;
        Ok(if loaded {
            String::from("demo loaded\n")
        } else {
            String::from("demo is there already\n")
        })
    })
}
