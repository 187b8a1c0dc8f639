//! More than one program, more than one machine: several instances on one database, devices that are paired, TLS,
//! copies of the yard, and a database server that dies.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

mod common;

use std::io::{Read, Write};
use std::net::TcpStream;
use std::process::Command;
use std::sync::Arc;

use common::{Served, data, program, read, request, until};
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, ServerName};
use rustls::{ClientConfig, ClientConnection, RootCertStore, StreamOwned};
use serde_json::{Value, json};
use ticksage_store::cluster::Cluster;

const NAME: &str = "yard.example";

fn skipped(view: &Value, id: &str) -> Value {
    let check = view["checks"].as_array().unwrap().iter().find(|c| c["check"]["measure"].is_null()).unwrap();
    json!({"id": id, "finding": {"family": check["family"], "check": check["check"]["id"],
        "result": {"kind": "skipped"}, "note": "rain"}})
}

#[test]
fn two_programs_on_one_database_behave_as_one() {
    let folder = data();
    let a = Served::on(folder.path(), &["--host", NAME]);
    let url = Cluster::url_of_running(folder.path(), "ticksage").expect("it runs");
    let b = Served::start(["serve", "--port", "0", "--web", "/nowhere", "--database-url", &url, "--host", NAME]);

    // What one stores the other shows, and what one changed the other does not overwrite.
    let id = a.get("/api/candidates").json()[0]["id"].as_str().unwrap().to_owned();
    let path = format!("/api/candidates/{id}");
    let (seen_by_a, seen_by_b) = (a.get(&path).json(), b.get(&path).json());
    assert_eq!(seen_by_a, seen_by_b);
    let mut edited = seen_by_a["candidate"].clone();
    edited["title"] = json!("Seen from the quay");
    assert_eq!(a.ask("PUT", &format!("{path}?version={}", seen_by_a["version"]), &edited).status, 200);
    let late = b.ask("PUT", &format!("{path}?version={}", seen_by_b["version"]), &edited);
    assert_eq!((late.status, late.json()["code"].as_str()), (409, Some("conflict")));
    let found = skipped(&seen_by_b, "11111111-1111-4111-8111-111111111111");
    assert_eq!(b.ask("POST", &format!("{path}/findings"), &found).status, 201);
    let (after_a, after_b) = (a.get(&path).json(), b.get(&path).json());
    assert_eq!(after_a, after_b);
    assert_eq!(a.get("/api/candidates").json(), b.get("/api/candidates").json());
    assert_eq!(a.get("/api/candidates").json()[0]["title"], "Seen from the quay");

    // A code of one pairs at the other; a device that one shuts out is out at both.
    let as_device = |at: &Served, cookie: &str, path: &str| at.ask_as(NAME, cookie, "GET", path, &Value::Null).status;
    assert_eq!(as_device(&b, "", "/api/candidates"), 401);
    let code = a.ask("POST", "/api/pairing-codes", &Value::Null).json();
    let wanted = json!({"code": code["code"], "name": "Phone"});
    let paired = b.ask_as(NAME, "", "POST", "/api/pair", &wanted);
    assert_eq!(paired.status, 204);
    let cookie = paired.cookie();
    assert_eq!((as_device(&a, &cookie, "/api/candidates"), as_device(&b, &cookie, "/api/candidates")), (200, 200));
    assert_eq!(a.ask_as(NAME, "", "POST", "/api/pair", &wanted).status, 403, "the code was for once");
    let device = b.get("/api/devices").json()[0]["id"].as_str().unwrap().to_owned();
    assert_eq!(b.ask("PUT", &format!("/api/devices/{device}/revoked"), &Value::Null).status, 204);
    assert_eq!((as_device(&a, &cookie, "/api/candidates"), as_device(&b, &cookie, "/api/candidates")), (401, 401));

    // However the path is written.
    for path in
        ["/%61pi/candidates", "/api/%63andidates", "/api//candidates", "//api/candidates", "/api/shared/../candidates"]
    {
        let answer = a.ask_as(NAME, "", "GET", path, &Value::Null);
        assert!(answer.status != 200 && !answer.body.contains("verdict"), "{path}: {answer:?}");
    }

    // Links alike.
    let link = a.ask("POST", &format!("{path}/links"), &json!({"audience": "seller", "days": 3})).json();
    let shared = format!("/api{}", link["path"].as_str().unwrap());
    assert_eq!((as_device(&a, "", &shared), as_device(&b, "", &shared)), (200, 200));
    let revoke = format!("{path}/links/{}/revoked", link["id"].as_str().unwrap());
    assert_eq!(b.ask("PUT", &revoke, &Value::Null).status, 204);
    assert_eq!((as_device(&a, "", &shared), as_device(&b, "", &shared)), (404, 404));

    // A copy through either.
    let copy = |at: &Served| at.get("/api/backup").body.len();
    assert!(copy(&a) > 10_000 && copy(&b) > 10_000);
    b.interrupt();
    a.interrupt();
}

#[test]
fn five_wrong_tries_make_a_code_void() {
    let folder = data();
    let a = Served::on(folder.path(), &["--host", NAME]);
    let code = a.ask("POST", "/api/pairing-codes", &Value::Null).json()["code"].clone();
    let try_with =
        |code: &Value| a.ask_as(NAME, "", "POST", "/api/pair", &json!({"code": code, "name": "Phone"})).status;
    for _ in 0..5 {
        assert_eq!(try_with(&json!("AAAA-AAAA")), 403);
    }
    assert_eq!(try_with(&code), 403, "void");
    let fresh = a.ask("POST", "/api/pairing-codes", &Value::Null).json()["code"].clone();
    assert_eq!(try_with(&fresh), 204);
    a.interrupt();
}

#[test]
fn questions_of_clients_that_have_gone_are_dropped() {
    let folder = data();
    let served = Served::on(folder.path(), &[]);
    let id = served.get("/api/candidates").json()[0]["id"].as_str().unwrap().to_owned();
    let document = served.get(&format!("/api/candidates/{id}/export")).json()["candidate"].clone();
    // Far more work than the machine does in a minute, and nobody who waits for it.
    for _ in 0..400 {
        let mut stream = TcpStream::connect(&served.address).unwrap();
        let asked = request(&served.address, "", "POST", "/api/assess/sensitivity", &document);
        stream.write_all(asked.as_bytes()).unwrap();
    }
    let (done, answered) = std::sync::mpsc::channel();
    std::thread::scope(|scope| {
        scope.spawn(|| done.send(served.ask("POST", "/api/assess", &document).status));
        let status = answered.recv_timeout(std::time::Duration::from_secs(60)).expect("the queue is gone");
        assert_eq!(status, 200);
    });
    served.interrupt();
}

#[test]
fn a_second_start_on_one_folder_says_so_at_once() {
    let folder = data();
    let first = Served::on(folder.path(), &[]);
    let second =
        program().args(["serve", "--port", "0", "--web", "/nowhere", "--data"]).arg(folder.path()).output().unwrap();
    let said = String::from_utf8_lossy(&second.stderr).into_owned();
    assert!(!second.status.success() && said.contains("another Tick Sage serves"), "{said}");
    assert_eq!(first.get("/api/health").status, 200);
    first.interrupt();
}

#[test]
fn a_database_server_that_died_is_started_again() {
    let folder = data();
    let served = Served::on(folder.path(), &[]);
    let pid = std::fs::read_to_string(folder.path().join("data/postmaster.pid")).unwrap();
    assert!(Command::new("kill").args(["-KILL", pid.lines().next().unwrap()]).status().unwrap().success());
    until("the records answer again", || {
        let noted = std::fs::read_to_string(folder.path().join("data/postmaster.pid")).unwrap_or_default();
        noted.lines().next() != pid.lines().next() && served.get("/api/health").status == 200
    });
    assert_eq!(served.get("/api/candidates").json().as_array().unwrap().len(), 9);
    served.interrupt();
}

#[test]
fn a_copy_is_made_while_it_runs_and_put_back_into_an_empty_yard() {
    let (folder, other) = (data(), data());
    let file = other.path().join("yard.zip");
    let run = |args: &[&str], data: &std::path::Path| {
        let out = program().args(args).arg(&file).arg("--data").arg(data).output().unwrap();
        (
            out.status.success(),
            format!("{}{}", String::from_utf8_lossy(&out.stdout), String::from_utf8_lossy(&out.stderr)),
        )
    };
    let served = Served::on(folder.path(), &[]);
    let (made, said) = run(&["backup"], folder.path());
    assert!(made && said.contains("9 candidates"), "{said}");
    let (made, said) = run(&["backup"], folder.path());
    assert!(!made && said.contains("yard.zip"), "a file that is there is not written over: {said}");
    let (put, said) = run(&["restore"], folder.path());
    assert!(!put && said.contains("not empty"), "{said}");
    let before = served.get("/api/candidates").json();
    served.interrupt();
    let empty = other.path().join("records");
    let (put, said) = run(&["restore"], &empty);
    assert!(put && said.contains("9 candidates"), "{said}");
    let again = Served::start(["serve", "--port", "0", "--web", "/nowhere", "--data", empty.to_str().unwrap()]);
    assert_eq!(again.get("/api/candidates").json(), before);
    again.interrupt();
}

#[test]
fn open_to_the_network_needs_tls_or_a_plain_word() {
    let folder = data();
    let out =
        program().args(["serve", "--address", "0.0.0.0", "--port", "0", "--data"]).arg(folder.path()).output().unwrap();
    let said = String::from_utf8_lossy(&out.stderr).into_owned();
    assert!(!out.status.success() && said.contains("ticksage certificate") && said.contains("--plain"), "{said}");
    let plain = Served::on(folder.path(), &["--address", "0.0.0.0", "--plain", "--host", NAME]);
    let port = plain.address.rsplit(':').next().unwrap().to_owned();
    let here = Served::ask_as(&plain, &format!("127.0.0.1:{port}"), "", "GET", "/api/candidates", &Value::Null);
    assert_eq!(here.status, 200);
    assert_eq!(plain.ask_as(NAME, "", "GET", "/api/candidates", &Value::Null).status, 401);
    assert_eq!(plain.ask_as("elsewhere.example", "", "GET", "/api/candidates", &Value::Null).status, 403);
    let code = plain.ask_as(&format!("localhost:{port}"), "", "POST", "/api/pairing-codes", &Value::Null).json();
    assert_eq!(code["address"], format!("http://{NAME}:{port}"));
    assert!(code["qr"]["side"].as_u64().unwrap() >= 21);
    plain.interrupt();
}

#[test]
fn a_key_closes_it_to_the_accounts_of_this_machine() {
    let folder = data();
    let served = Served::on(folder.path(), &["--key"]);
    assert_eq!(served.get("/api/candidates").status, 401);
    let key = served.said.split("/pair#").nth(1).unwrap().split_whitespace().next().unwrap();
    let with = |key: &str| served.ask("POST", "/api/pair", &json!({"code": key, "name": "Own browser"}));
    assert_eq!(with("WRONG").status, 403);
    let let_in = with(key);
    assert_eq!(let_in.status, 204);
    assert_eq!(served.ask_as(&served.address, &let_in.cookie(), "GET", "/api/candidates", &Value::Null).status, 200);
    assert_eq!(served.ask_as(&served.address, "ticksage=0", "GET", "/api/candidates", &Value::Null).status, 401);
    served.interrupt();
}

#[test]
fn it_speaks_tls_with_a_certificate_of_its_own_authority() {
    let folder = data();
    let made = program().args(["certificate", NAME, "--data"]).arg(folder.path()).output().unwrap();
    let said = String::from_utf8_lossy(&made.stdout).into_owned();
    assert!(made.status.success() && said.contains("good until"), "{said}");
    let file = |name: &str| folder.path().join("tls").join(name);
    let (certificate, key) = (file("server.pem"), file("server.key"));
    let served = Served::on(
        folder.path(),
        &["--host", NAME, "--tls-cert", certificate.to_str().unwrap(), "--tls-key", key.to_str().unwrap()],
    );
    assert!(served.said.contains("https://"));
    // A phone that trusts the authority.
    let mut roots = RootCertStore::empty();
    roots.add(CertificateDer::from_pem_file(file("authority.pem")).unwrap()).unwrap();
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    let config = ClientConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()
        .unwrap()
        .with_root_certificates(roots)
        .with_no_client_auth();
    let config = Arc::new(config);
    let ask = |name: &'static str, method: &str, path: &str, body: &Value| {
        let connection = ClientConnection::new(Arc::clone(&config), ServerName::try_from(name).unwrap()).unwrap();
        let mut stream = StreamOwned::new(connection, TcpStream::connect(&served.address).unwrap());
        stream.write_all(request(NAME, "", method, path, body).as_bytes())?;
        let mut answer = Vec::new();
        // The other side may close without saying so.
        _ = stream.read_to_end(&mut answer);
        Ok::<_, std::io::Error>(read(&answer))
    };
    assert_eq!(ask(NAME, "GET", "/api/candidates", &Value::Null).unwrap().status, 401);
    let authority = ask(NAME, "GET", "/api/authority", &Value::Null).unwrap();
    assert_eq!(authority.body, std::fs::read_to_string(file("authority.pem")).unwrap());
    assert!(ask("elsewhere.example", "GET", "/api/health", &Value::Null).is_err(), "the certificate is for its names");
    let code = "NOTACODE";
    assert_eq!(ask(NAME, "POST", "/api/pair", &json!({"code": code, "name": "Phone"})).unwrap().status, 403);
    served.interrupt();
}
