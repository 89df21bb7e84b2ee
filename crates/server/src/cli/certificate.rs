//! `fresh-meadow certificate`.

use std::path::PathBuf;

use clap::Args;

use super::Failure;
use crate::tls;

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Folder for certificate.pem and key.pem. Those that are there stay while they hold for all names; else they are kept beside it.
    #[arg(long, value_name = "FOLDER")]
    out: PathBuf,
    /// A host's name or address that browsers will use; may be given several times.
    #[arg(long = "name", required = true)]
    names: Vec<String>,
}

/// Makes a certificate that vouches for itself.
pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let made = tls::make(&a.out, &a.names)?;
    let state = if made.is_new { "new" } else { "as before" };
    let (certificate, key) = (made.certificate.display(), made.key.display());
    Ok(format!("{certificate}\n{key}\n{state}\n"))
}
