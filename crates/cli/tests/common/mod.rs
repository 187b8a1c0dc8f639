//! The program, started as a person starts it, and spoken to as a browser speaks to it.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, missing_docs)]

use std::ffi::OsStr;
use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::Mutex;
use std::sync::mpsc::{Receiver, channel};

use serde_json::Value;

/// A running program; killed when dropped, so that a test that fails leaves nothing behind.
pub struct Served {
    child: Child,
    /// Host and port.
    pub address: String,
    /// All of the line that it prints when it is ready.
    pub said: String,
    log: Mutex<Receiver<String>>,
}

/// An answer.
#[derive(Debug)]
pub struct Answer {
    pub status: u16,
    pub head: String,
    pub body: String,
}

impl Answer {
    pub fn json(&self) -> Value {
        serde_json::from_str(&self.body).unwrap_or_else(|e| panic!("{e}: {} {}", self.head, self.body))
    }

    /// The session that came with it, as a browser sends it back.
    pub fn cookie(&self) -> String {
        let line = self.head.lines().find(|l| l.to_lowercase().starts_with("set-cookie:")).expect("a session");
        line.split_once(": ").unwrap().1.split(';').next().unwrap().to_owned()
    }
}

pub fn program() -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_ticksage"));
    command.env_remove("DATABASE_URL");
    command
}

pub fn demo() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo")
}

/// A folder for a private database, below a path that its server may enter.
pub fn data() -> tempfile::TempDir {
    tempfile::Builder::new().prefix("ticksage-serve-").tempdir().unwrap()
}

impl Served {
    /// Starts the program and waits for the line that says where it is open.
    pub fn start<S: AsRef<OsStr>>(args: impl IntoIterator<Item = S>) -> Self {
        let mut child = program().args(args).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        let (tell, log) = channel();
        let errors = BufReader::new(child.stderr.take().unwrap());
        std::thread::spawn(move || errors.lines().map_while(Result::ok).for_each(|l| drop(tell.send(l))));
        let mut said = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut said).unwrap();
        let after = said
            .split("://")
            .nth(1)
            .unwrap_or_else(|| panic!("it prints its address: {:?}", log.iter().collect::<Vec<_>>()));
        let address = after.split([' ', '/', '\n']).next().unwrap().to_owned();
        Self { child, address, said, log: Mutex::new(log) }
    }

    /// Serves a folder with the demo.
    pub fn on(data: &Path, more: &[&str]) -> Self {
        let demo = demo();
        let own = ["serve", "--port", "0", "--data", data.to_str().unwrap(), "--demo", demo.to_str().unwrap()];
        let web: &[&str] = if more.contains(&"--web") { &[] } else { &["--web", "/nowhere"] };
        Self::start(own.iter().chain(web).chain(more))
    }

    /// The answer to a request of this machine's own.
    pub fn ask(&self, method: &str, path: &str, body: &Value) -> Answer {
        self.ask_as(&self.address, "", method, path, body)
    }

    pub fn get(&self, path: &str) -> Answer {
        self.ask("GET", path, &Value::Null)
    }

    /// The answer to a request under a name of one's choosing, with a cookie.
    pub fn ask_as(&self, host: &str, cookie: &str, method: &str, path: &str, body: &Value) -> Answer {
        let mut stream = TcpStream::connect(&self.address).unwrap();
        stream.write_all(request(host, cookie, method, path, body).as_bytes()).unwrap();
        let mut answer = Vec::new();
        stream.read_to_end(&mut answer).unwrap();
        read(&answer)
    }

    /// Ctrl-C; what was logged.
    pub fn interrupt(mut self) -> Vec<String> {
        let pid = self.child.id().to_string();
        assert!(Command::new("kill").args(["-INT", &pid]).status().unwrap().success());
        assert!(self.child.wait().unwrap().success(), "it ends in order");
        self.log.get_mut().unwrap().iter().collect()
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        // Once it has ended there is nothing to kill.
        _ = self.child.kill();
        _ = self.child.wait();
    }
}

/// A request as it goes over the wire.
pub fn request(host: &str, cookie: &str, method: &str, path: &str, body: &Value) -> String {
    let body = if body.is_null() { String::new() } else { body.to_string() };
    let kind = if body.is_empty() { "" } else { "Content-Type: application/json\r\n" };
    let cookie = if cookie.is_empty() { String::new() } else { format!("Cookie: {cookie}\r\n") };
    format!(
        "{method} {path} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n{cookie}{kind}Content-Length: {}\r\n\r\n{body}",
        body.len()
    )
}

/// An answer as it came over the wire.
pub fn read(bytes: &[u8]) -> Answer {
    let text = String::from_utf8_lossy(bytes).into_owned();
    let (head, body) = text.split_once("\r\n\r\n").unwrap_or((&text, ""));
    let status = head.split(' ').nth(1).and_then(|s| s.parse().ok()).unwrap_or_else(|| panic!("no answer: {text}"));
    Answer { status, head: head.to_owned(), body: body.to_owned() }
}

/// Asks until the answer is as wanted; for what takes its time.
pub fn until(what: &str, mut wanted: impl FnMut() -> bool) {
    for _ in 0..600 {
        if wanted() {
            return;
        }
        std::thread::sleep(std::time::Duration::from_millis(100));
    }
    panic!("not within a minute: {what}");
}
