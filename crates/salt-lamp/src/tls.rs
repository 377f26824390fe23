//! A secure connection of the program's own.

use std::path::Path;
use std::sync::Arc;

use tokio_rustls::TlsAcceptor;
use tokio_rustls::rustls::ServerConfig;
use tokio_rustls::rustls::pki_types::pem::PemObject;
use tokio_rustls::rustls::pki_types::{CertificateDer, PrivateKeyDer};

/// What speaks TLS 1.2 and 1.3 with a certificate chain and its key, both PEM.
///
/// # Errors
/// Where a file cannot be read, holds nothing of the kind, or the two do not belong together.
pub fn acceptor(cert: &Path, key: &Path) -> Result<TlsAcceptor, String> {
    let failed = |file: &Path, e: String| format!("{}: {e}", file.display());
    let chain: Vec<CertificateDer<'static>> = CertificateDer::pem_file_iter(cert)
        .and_then(Iterator::collect)
        .map_err(|e| failed(cert, format!("no certificate can be read from it ({e})")))?;
    if chain.is_empty() {
        return Err(failed(cert, "holds no certificate in PEM form".to_owned()));
    }
    let private = PrivateKeyDer::from_pem_file(key)
        .map_err(|e| failed(key, format!("no private key can be read from it ({e})")))?;
    let mut config = ServerConfig::builder()
        .with_no_client_auth()
        .with_single_cert(chain, private)
        .map_err(|e| failed(key, format!("does not belong to the certificate ({e})")))?;
    config.alpn_protocols = vec![b"http/1.1".to_vec()];
    Ok(TlsAcceptor::from(Arc::new(config)))
}
