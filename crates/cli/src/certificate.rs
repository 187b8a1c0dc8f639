//! The yard's own authority, and a certificate for the names under which phones reach this machine.

use std::fs::OpenOptions;
use std::io::Write;
use std::os::unix::fs::OpenOptionsExt;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use jiff::ToSpan;
use jiff::civil::Date;
use rcgen::{
    BasicConstraints, CertificateParams, DnType, ExtendedKeyUsagePurpose, IsCa, Issuer, KeyPair, KeyUsagePurpose,
    date_time_ymd,
};
use rustls::ServerConfig;
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};

use crate::failure::Failure;

/// Days for which a certificate is good: telephones refuse more.
const DAYS: i64 = 397;

/// Years for which the authority is good.
const YEARS: i64 = 10;

/// Where a certificate lies, and until when it is good.
pub struct Made {
    pub certificate: PathBuf,
    pub key: PathBuf,
    pub authority: PathBuf,
    pub until: Date,
    /// Whether the authority was made now: phones must be told of it once.
    pub new_authority: bool,
}

fn failed(e: &rcgen::Error) -> Failure {
    Failure::Serve(format!("the certificate could not be made: {e}"))
}

fn day(date: Date) -> (i32, u8, u8) {
    let part = |n: i8| u8::try_from(n).unwrap_or(1);
    (i32::from(date.year()), part(date.month()), part(date.day()))
}

/// From yesterday, because clocks differ, for a while.
fn good_for(params: &mut CertificateParams, today: Date, until: Date) {
    let ((y, m, d), (ty, tm, td)) = (day(today.yesterday().unwrap_or(today)), day(until));
    params.not_before = date_time_ymd(y, m, d);
    params.not_after = date_time_ymd(ty, tm, td);
}

/// Writes a file that nobody else reads.
fn keep_secret(path: &Path, text: &str) -> Result<(), Failure> {
    let mut options = OpenOptions::new();
    let file = options.write(true).create(true).truncate(true).mode(0o600).open(path);
    file.and_then(|mut f| f.write_all(text.as_bytes())).map_err(|e| Failure::File(path.display().to_string(), e))
}

fn keep(path: &Path, text: &str) -> Result<(), Failure> {
    std::fs::write(path, text).map_err(|e| Failure::File(path.display().to_string(), e))
}

/// What the authority says of itself; the same each time, so that its key alone needs keeping.
fn authority(today: Date) -> Result<CertificateParams, Failure> {
    let mut params = CertificateParams::new(Vec::<String>::new()).map_err(|e| failed(&e))?;
    params.is_ca = IsCa::Ca(BasicConstraints::Constrained(0));
    params.key_usages = vec![KeyUsagePurpose::KeyCertSign, KeyUsagePurpose::CrlSign];
    params.distinguished_name.push(DnType::CommonName, "Tick Sage: the authority of this yard");
    good_for(&mut params, today, today.saturating_add(YEARS.years()));
    Ok(params)
}

/// Makes a certificate for these names in a folder, and the authority that signs it where there is none yet.
pub fn make(folder: &Path, names: &[String], today: Date) -> Result<Made, Failure> {
    std::fs::create_dir_all(folder).map_err(|e| Failure::File(folder.display().to_string(), e))?;
    let (authority_file, authority_key) = (folder.join("authority.pem"), folder.join("authority.key"));
    let kept = std::fs::read_to_string(&authority_key).ok().filter(|_| authority_file.exists());
    let new_authority = kept.is_none();
    let params = authority(today)?;
    let signing = match kept {
        Some(pem) => KeyPair::from_pem(&pem).map_err(|e| failed(&e))?,
        None => {
            let made = KeyPair::generate().map_err(|e| failed(&e))?;
            keep(&authority_file, &params.self_signed(&made).map_err(|e| failed(&e))?.pem())?;
            keep_secret(&authority_key, &made.serialize_pem())?;
            made
        }
    };
    let issuer = Issuer::new(params, signing);
    let until = today.saturating_add(DAYS.days());
    let mut params = CertificateParams::new(names.to_vec()).map_err(|e| failed(&e))?;
    params.extended_key_usages = vec![ExtendedKeyUsagePurpose::ServerAuth];
    params.key_usages = vec![KeyUsagePurpose::DigitalSignature];
    params.use_authority_key_identifier_extension = true;
    params.distinguished_name.push(DnType::CommonName, names.first().map_or("Tick Sage", String::as_str));
    good_for(&mut params, today, until);
    let own = KeyPair::generate().map_err(|e| failed(&e))?;
    let signed = params.signed_by(&own, &issuer).map_err(|e| failed(&e))?;
    let (certificate, key) = (folder.join("server.pem"), folder.join("server.key"));
    keep(&certificate, &signed.pem())?;
    keep_secret(&key, &own.serialize_pem())?;
    Ok(Made { certificate, key, authority: authority_file, until, new_authority })
}

/// Reads a certificate and its key, to speak TLS with.
pub fn tls(certificate: &Path, key: &Path) -> Result<ServerConfig, Failure> {
    let unread = |file: &Path, e: String| Failure::Serve(format!("{} cannot be used: {e}", file.display()));
    let chain = CertificateDer::pem_file_iter(certificate)
        .and_then(Iterator::collect::<Result<Vec<_>, _>>)
        .map_err(|e| unread(certificate, e.to_string()))?;
    let own = PrivateKeyDer::from_pem_file(key).map_err(|e| unread(key, e.to_string()))?;
    ServerConfig::builder_with_provider(Arc::new(rustls::crypto::ring::default_provider()))
        .with_safe_default_protocol_versions()
        .map(|b| b.with_no_client_auth())
        .and_then(|b| b.with_single_cert(chain, own))
        .map_err(|e| unread(certificate, e.to_string()))
}

#[cfg(test)]
#[allow(clippy::unwrap_used)]
mod tests {
    use std::os::unix::fs::PermissionsExt;

    use super::*;

    #[test]
    fn a_certificate_serves_and_a_new_one_keeps_the_authority() {
        let folder = tempfile::tempdir().unwrap();
        let today = jiff::civil::date(2026, 11, 26);
        let names = ["yard.example".to_owned(), "192.168.4.7".to_owned()];
        let first = make(folder.path(), &names, today).unwrap();
        assert!(first.new_authority);
        let authority = std::fs::read_to_string(&first.authority).unwrap();
        tls(&first.certificate, &first.key).unwrap();
        for key in [&first.key, &folder.path().join("authority.key")] {
            assert_eq!(std::fs::metadata(key).unwrap().permissions().mode() & 0o777, 0o600);
        }
        let old = std::fs::read_to_string(&first.certificate).unwrap();
        let again = make(folder.path(), &names, today).unwrap();
        assert!(!again.new_authority);
        assert_eq!(std::fs::read_to_string(&again.authority).unwrap(), authority);
        assert_ne!(std::fs::read_to_string(&again.certificate).unwrap(), old);
        assert!(tls(&again.authority, &again.key).is_err(), "the key is another's");
        assert!(tls(&folder.path().join("none.pem"), &again.key).is_err());
    }
}
