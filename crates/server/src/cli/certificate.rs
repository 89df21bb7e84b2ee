//! `fresh-meadow certificate`.

use std::path::PathBuf;

use clap::Args;

use super::Failure;
use crate::tls;

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Folder for certificate.pem and key.pem; those that are there stay.
    #[arg(long, value_name = "FOLDER")]
    out: PathBuf,
    /// A host's name or address that browsers will use; may be given several times.
    #[arg(long = "name", required = true)]
    names: Vec<String>,
}

/// Makes a certificate that vouches for itself.
pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let (certificate, key) = tls::make(&a.out, &a.names)?;
    Ok(format!("{}\n{}\n", certificate.display(), key.display()))
}
