//! TLS: for browsers by a certificate of files, which this program can make for a house of its own; for questions to other machines by the roots that
//! browsers trust, and one of one's own.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use rustls::crypto::ring;
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};
use rustls::{ClientConfig, RootCertStore, ServerConfig};
use thiserror::Error;

/// The files that a certificate of our own is kept in.
pub const CERTIFICATE: &str = "certificate.pem";
/// Its key.
pub const KEY: &str = "key.pem";

/// Why there is no TLS.
#[derive(Debug, Error)]
pub enum Error {
    /// A file that is none of certificates or keys.
    #[error("{path}: {error}")]
    File {
        /// Its path.
        path: String,
        /// What is wrong.
        error: String,
    },
    /// A certificate and a key that do not belong together, a name that is none.
    #[error("{0}")]
    Certificate(String),
}

fn at(path: &Path) -> impl FnOnce(String) -> Error + '_ {
    |error| Error::File {
        path: path.display().to_string(),
        error,
    }
}

fn certificates(path: &Path) -> Result<Vec<CertificateDer<'static>>, Error> {
    let read = CertificateDer::pem_file_iter(path).and_then(Iterator::collect::<Result<Vec<_>, _>>);
    let found = read.map_err(|e| at(path)(e.to_string()))?;
    if found.is_empty() {
        return Err(at(path)("holds no certificate".to_owned()));
    }
    Ok(found)
}

/// How browsers are served.
///
/// # Errors
/// [`Error`].
pub fn server(certificate: &Path, key: &Path) -> Result<ServerConfig, Error> {
    let chain = certificates(certificate)?;
    let secret = PrivateKeyDer::from_pem_file(key).map_err(|e| at(key)(e.to_string()))?;
    ServerConfig::builder_with_provider(Arc::new(ring::default_provider()))
        .with_safe_default_protocol_versions()
        .map_err(|e| Error::Certificate(e.to_string()))?
        .with_no_client_auth()
        .with_single_cert(chain, secret)
        .map_err(|e| Error::Certificate(e.to_string()))
}

/// How other machines are asked: by the roots that browsers trust, and those of a file.
///
/// # Errors
/// [`Error`].
fn client(own_root: Option<&Path>) -> Result<ClientConfig, Error> {
    let mut roots = RootCertStore {
        roots: webpki_roots::TLS_SERVER_ROOTS.to_vec(),
    };
    for root in own_root
        .map(certificates)
        .transpose()?
        .into_iter()
        .flatten()
    {
        roots
            .add(root)
            .map_err(|e| Error::Certificate(e.to_string()))?;
    }
    let config = ClientConfig::builder_with_provider(Arc::new(ring::default_provider()))
        .with_safe_default_protocol_versions()
        .map_err(|e| Error::Certificate(e.to_string()))?
        .with_root_certificates(roots)
        .with_no_client_auth();
    Ok(config)
}

/// A client that asks other machines, over TLS where their address says so; `own_root` as in [`client`].
///
/// # Errors
/// [`Error`].
pub fn asking(own_root: Option<&Path>) -> Result<reqwest::ClientBuilder, Error> {
    Ok(reqwest::Client::builder().tls_backend_preconfigured(client(own_root)?))
}

/// Makes a certificate for names and addresses in a folder, unless it has one; nobody but its owner reads the key. Browsers do not know who vouches for
/// it, and say so.
///
/// # Errors
/// [`Error`]: a name that is none, a folder that cannot be written.
pub fn make(folder: &Path, names: &[String]) -> Result<(PathBuf, PathBuf), Error> {
    let (certificate, key) = (folder.join(CERTIFICATE), folder.join(KEY));
    if certificate.exists() && key.exists() {
        return Ok((certificate, key));
    }
    let made = rcgen::generate_simple_self_signed(names.to_vec());
    let made = made.map_err(|e| Error::Certificate(e.to_string()))?;
    fs::create_dir_all(folder).map_err(|e| at(folder)(e.to_string()))?;
    write_secret(&key, &made.signing_key.serialize_pem()).map_err(|e| at(&key)(e.to_string()))?;
    fs::write(&certificate, made.cert.pem()).map_err(|e| at(&certificate)(e.to_string()))?;
    Ok((certificate, key))
}

/// Writes a file that nobody but its owner may read.
fn write_secret(path: &Path, text: &str) -> std::io::Result<()> {
    use std::io::Write;
    use std::os::unix::fs::OpenOptionsExt;
    let mut options = fs::OpenOptions::new();
    let mut file = options
        .write(true)
        .create(true)
        .truncate(true)
        .mode(0o600)
        .open(path)?;
    file.write_all(text.as_bytes())
}
