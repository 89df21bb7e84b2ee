//! TLS: for browsers by a certificate of files, which this program can make for a house of its own; for questions to other machines by the roots that
//! browsers trust, and one of one's own.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use jiff::ToSpan;
use lawn::text::shortened;
use rcgen::{
    CertificateParams, DistinguishedName, DnType, ExtendedKeyUsagePurpose, KeyPair, KeyUsagePurpose,
};
use rustls::client::WebPkiServerVerifier;
use rustls::client::danger::ServerCertVerifier;
use rustls::crypto::ring;
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, PrivateKeyDer, ServerName, UnixTime};
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

/// A certificate of our own.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Made {
    /// Its file.
    pub certificate: PathBuf,
    /// The file of its key.
    pub key: PathBuf,
    /// Whether it was made now: phones have to be told to trust it.
    pub is_new: bool,
}

/// Who our certificates say they are of.
const ORGANIZATION: &str = "Fresh Meadow";
/// Who those of earlier versions said they are of.
const FORMER: &str = "rcgen self signed cert";
/// Days for which one is valid: the most that phones take of one that they were told to trust (Apple's support article 103769, from memory).
const VALID_DAYS: i32 = 825;
/// Days before its end from which on it is made anew.
const ENDS_SOON_DAYS: u32 = 30;

/// Makes a certificate for names and addresses in a folder, unless it has one of ours that holds for all of them; one that does not is kept beside it. Nobody but its
/// owner reads the key. Browsers do not know who vouches for it, and say so.
///
/// # Errors
/// [`Error`]: a name that is none, a folder that cannot be written, or that holds somebody else's certificate.
pub fn make(folder: &Path, names: &[String]) -> Result<Made, Error> {
    for name in names {
        ServerName::try_from(name.as_str()).map_err(|_| {
            Error::Certificate(format!(
                "\"{}\" is no host's name or address, such as lawn.local or 192.168.1.20",
                shortened(name)
            ))
        })?;
    }
    let (certificate, key) = (folder.join(CERTIFICATE), folder.join(KEY));
    let made = |is_new| Made {
        certificate: certificate.clone(),
        key: key.clone(),
        is_new,
    };
    if certificate.exists() && key.exists() {
        let chain = certificates(&certificate)?;
        let says = |name: &str| {
            let bytes = name.as_bytes();
            chain[0].windows(bytes.len()).any(|part| part == bytes)
        };
        if !says(ORGANIZATION) && !says(FORMER) {
            let message = "it was not made here; choose another folder, or serve with it as it is";
            return Err(at(&certificate)(message.to_owned()));
        }
        if says(ORGANIZATION) && holds(&chain[0], names) {
            return Ok(made(false));
        }
        for file in [&certificate, &key] {
            let before = file.with_extension("before.pem");
            fs::rename(file, &before).map_err(|e| at(&before)(e.to_string()))?;
        }
    }
    let broken = |error: rcgen::Error| Error::Certificate(error.to_string());
    let mut wanted = CertificateParams::new(names.to_vec()).map_err(broken)?;
    wanted.distinguished_name = DistinguishedName::new();
    wanted
        .distinguished_name
        .push(DnType::OrganizationName, ORGANIZATION);
    if let Some(first) = names.first() {
        wanted
            .distinguished_name
            .push(DnType::CommonName, first.as_str());
    }
    wanted.key_usages = vec![KeyUsagePurpose::DigitalSignature];
    wanted.extended_key_usages = vec![ExtendedKeyUsagePurpose::ServerAuth];
    let today = jiff::Zoned::now().date();
    let on = |date: jiff::civil::Date| {
        let part = |n: i8| u8::try_from(n).unwrap_or(1);
        rcgen::date_time_ymd(i32::from(date.year()), part(date.month()), part(date.day()))
    };
    // A phone's clock may be behind.
    wanted.not_before = on(today.saturating_sub(1.day()));
    wanted.not_after = on(today.saturating_add((VALID_DAYS - 2).days()));
    let secret = KeyPair::generate().map_err(broken)?;
    let signed = wanted.self_signed(&secret).map_err(broken)?;
    fs::create_dir_all(folder).map_err(|e| at(folder)(e.to_string()))?;
    write_secret(&key, &secret.serialize_pem()).map_err(|e| at(&key)(e.to_string()))?;
    fs::write(&certificate, signed.pem()).map_err(|e| at(&certificate)(e.to_string()))?;
    Ok(made(true))
}

/// Whether a certificate that vouches for itself holds for all names, now and for some time.
fn holds(certificate: &CertificateDer<'_>, names: &[String]) -> bool {
    let mut roots = RootCertStore::empty();
    if roots.add(certificate.clone().into_owned()).is_err() {
        return false;
    }
    let provider = Arc::new(ring::default_provider());
    let verifier = WebPkiServerVerifier::builder_with_provider(Arc::new(roots), provider).build();
    let (Ok(verifier), Ok(now)) = (verifier, SystemTime::now().duration_since(UNIX_EPOCH)) else {
        return false;
    };
    let soon = now + Duration::from_secs(u64::from(ENDS_SOON_DAYS) * 86_400);
    names.iter().all(|name| {
        let Ok(name) = ServerName::try_from(name.as_str()) else {
            return false;
        };
        [now, soon].into_iter().all(|at| {
            let at = UnixTime::since_unix_epoch(at);
            let verified = verifier.verify_server_cert(certificate, &[], &name, &[], at);
            verified.is_ok()
        })
    })
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
