//! The program serving: a private database that comes, stays and goes with it.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};

struct Served {
    child: Child,
    address: String,
    log: std::sync::mpsc::Receiver<String>,
}

fn serve(data: &Path, web: &Path) -> Served {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let mut child = Command::new(env!("CARGO_BIN_EXE_ticksage"))
        .args(["serve", "--port", "0"])
        .arg("--data")
        .arg(data)
        .arg("--demo")
        .arg(demo)
        .arg("--web")
        .arg(web)
        .env_remove("DATABASE_URL")
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    let (tell, log) = std::sync::mpsc::channel();
    let errors = BufReader::new(child.stderr.take().unwrap());
    std::thread::spawn(move || errors.lines().map_while(Result::ok).for_each(|l| drop(tell.send(l))));
    let mut line = String::new();
    BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
    let address = line.split("http://").nth(1).expect("it prints its address").split_whitespace().next().unwrap();
    Served { address: address.to_owned(), child, log }
}

impl Served {
    /// The whole answer to a plain GET, head and body.
    fn get(&self, path: &str) -> String {
        let mut stream = TcpStream::connect(&self.address).unwrap();
        write!(stream, "GET {path} HTTP/1.1\r\nHost: {}\r\nConnection: close\r\n\r\n", self.address).unwrap();
        let mut answer = String::new();
        stream.read_to_string(&mut answer).unwrap();
        answer
    }

    /// Ctrl-C; what was logged.
    fn interrupt(mut self) -> Vec<String> {
        let pid = self.child.id().to_string();
        assert!(Command::new("kill").args(["-INT", &pid]).status().unwrap().success());
        assert!(self.child.wait().unwrap().success(), "it ends in order");
        self.log.iter().collect()
    }
}

#[test]
fn what_was_started_stops_and_what_was_stored_stays() {
    let data = tempfile::Builder::new().prefix("ticksage-serve-").tempdir().unwrap();
    let web = tempfile::tempdir().unwrap();
    std::fs::write(web.path().join("index.html"), "<!doctype html><title>Tick Sage</title>").unwrap();
    std::fs::create_dir(web.path().join("assets")).unwrap();

    let served = serve(data.path(), web.path());
    let yard = served.get("/api/candidates");
    assert_eq!(yard.matches("\"verdict\"").count(), 8);
    // Every answer carries the strict headers; a screen's own address gives the page.
    for path in ["/", "/c/anything/road", "/api/health"] {
        let answer = served.get(path).to_lowercase();
        assert!(answer.starts_with("http/1.1 200"), "{path}: {answer}");
        for header in
            ["content-security-policy: default-src 'none'; script-src 'self';", "x-content-type-options: nosniff"]
        {
            assert!(answer.contains(header), "{path} lacks {header}: {answer}");
        }
    }
    assert!(served.get("/c/anything/road").contains("<title>Tick Sage</title>"));
    let log = served.interrupt();
    let port: u16 = log
        .iter()
        .find_map(|l| l.split("127.0.0.1:").nth(1)?.split('/').next()?.parse().ok())
        .expect("it says where its database is");
    assert!(TcpStream::connect(("127.0.0.1", port)).is_err(), "the private database is gone");

    // Started again it has the same yard, and loads the demo only once.
    let again = serve(data.path(), web.path());
    assert_eq!(again.get("/api/candidates").matches("\"verdict\"").count(), 8);
    again.interrupt();
}

#[test]
fn a_port_in_use_is_said_in_a_sentence() {
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let data = tempfile::Builder::new().prefix("ticksage-serve-").tempdir().unwrap();
    let out = Command::new(env!("CARGO_BIN_EXE_ticksage"))
        .args(["serve", "--port", &port, "--web", "/nowhere", "--data"])
        .arg(data.path())
        .env_remove("DATABASE_URL")
        .output()
        .unwrap();
    assert!(!out.status.success());
    assert!(String::from_utf8_lossy(&out.stderr).contains("choose another with --port"));
}
