//! Cleaning of files in a process of its own: a file made to break what reads it breaks that process alone.
//!
//! The program is started again as `ticksage clean`, under limits of memory and computing time, and no more of
//! them at once than the machine has cores. Where no program is named, as in tests of the routes, files are
//! cleaned in this process.

use std::io::{Read, Write};
use std::path::PathBuf;
use std::process::{Command, Stdio};
use std::sync::{Condvar, Mutex, PoisonError};

use ticksage_store::papers::Attachment;

use crate::sanitize::{self, ATTACHMENT_LIMIT, file_name};

/// Address space of the process, KiB.
const MEMORY_KIB: u32 = 1_500_000;

/// Computing time of the process, seconds.
const SECONDS: u32 = 20;

/// Largest cleaned file taken back, bytes.
const CLEANED_LIMIT: u64 = 2 * ATTACHMENT_LIMIT as u64;

/// What cleans files.
#[derive(Debug, Clone, Default)]
pub struct Cleaner {
    /// The program that is started as `ticksage clean`; none cleans in this process.
    pub program: Option<PathBuf>,
}

/// Processes at work, and a bell for when one ends.
static AT_WORK: (Mutex<usize>, Condvar) = (Mutex::new(0), Condvar::new());

/// A turn to start a process; given back when dropped.
struct Turn;

impl Turn {
    fn wait() -> Self {
        let most = std::thread::available_parallelism().map_or(1, usize::from);
        let mut at_work = AT_WORK.0.lock().unwrap_or_else(PoisonError::into_inner);
        while *at_work >= most {
            at_work = AT_WORK.1.wait(at_work).unwrap_or_else(PoisonError::into_inner);
        }
        *at_work += 1;
        Self
    }
}

impl Drop for Turn {
    fn drop(&mut self) {
        *AT_WORK.0.lock().unwrap_or_else(PoisonError::into_inner) -= 1;
        AT_WORK.1.notify_one();
    }
}

impl Cleaner {
    /// Cleans a file; waits for its turn and for the process, so it is called off the threads that answer.
    ///
    /// # Errors
    /// What is wrong with the file, in words.
    pub fn clean(&self, name: &str, bytes: &[u8]) -> Result<Attachment, String> {
        match &self.program {
            Some(program) => {
                let _turn = Turn::wait();
                run(program, name, bytes)
            }
            None => sanitize::clean(name, bytes),
        }
    }
}

fn run(program: &PathBuf, name: &str, bytes: &[u8]) -> Result<Attachment, String> {
    let unable = |e: std::io::Error| {
        tracing::error!("files cannot be cleaned: {e}");
        "the file could not be checked on this machine: try again, and look into the program's log".to_owned()
    };
    let limits = format!("ulimit -c 0; ulimit -v {MEMORY_KIB}; ulimit -t {SECONDS}; exec \"$0\" clean \"$1\"");
    let mut child = Command::new("sh")
        .args(["-c", &limits])
        .arg(program)
        .arg(file_name(name))
        .env_clear()
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .map_err(unable)?;
    let (stdin, stdout, stderr) = (child.stdin.take(), child.stdout.take(), child.stderr.take());
    let (out, said) = std::thread::scope(|scope| {
        // The process may end before it has read everything: then its answer says why.
        scope.spawn(move || stdin.map(|mut s| s.write_all(bytes)));
        let said = scope.spawn(move || {
            let mut said = String::new();
            stderr.map(|s| s.take(4_000).read_to_string(&mut said));
            said
        });
        let mut out = Vec::new();
        stdout.map(|s| s.take(CLEANED_LIMIT).read_to_end(&mut out));
        (out, said.join().unwrap_or_default())
    });
    let status = child.wait().map_err(unable)?;
    match (status.code(), out.split_first_line()) {
        (Some(0), Some((media, bytes))) => Ok(Attachment { name: file_name(name), media, bytes: bytes.to_vec() }),
        (Some(code), _) if code == i32::from(REFUSED) && !said.trim().is_empty() => Err(said.trim().to_owned()),
        _ => {
            tracing::warn!("a file broke what read it ({status}): {}", said.trim());
            Err(format!(
                "\"{}\" cannot be read: save it anew with another program, or send a picture of it",
                file_name(name)
            ))
        }
    }
}

/// How the process ends when it refuses a file in words.
pub const REFUSED: u8 = 3;

/// The first line, and what follows it.
trait FirstLine {
    fn split_first_line(&self) -> Option<(String, &[u8])>;
}

impl FirstLine for Vec<u8> {
    fn split_first_line(&self) -> Option<(String, &[u8])> {
        let at = self.iter().position(|b| *b == b'\n')?;
        Some((String::from_utf8(self[..at].to_vec()).ok()?, &self[at + 1..]))
    }
}
