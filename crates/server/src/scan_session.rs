//! A conversation with a scan adapter over TCP, step by step.
//!
//! Whatever the adapter does, the scan ends in a sentence and keeps what was read.

use std::net::SocketAddr;
use std::time::Duration;

use jiff::civil::Date;
use serde::Serialize;
use ticksage_core::documents::scan::{NotRead, Scan, ScanItem};
use ticksage_core::evidence::scan_findings::{RecentlyCleared, ScanFinding, findings};
use ticksage_core::reading::obd::{self, OFFERED, REQUESTS};
use ticksage_core::{Assumptions, Candidate, Family};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;
use tokio::sync::mpsc;
use utoipa::ToSchema;

/// How long an adapter may take for one answer.
pub const PATIENCE: Duration = Duration::from_secs(6);

/// Longest answer taken, bytes.
const ANSWER_LIMIT: usize = 8_192;

/// Answers missed in a row after which the link is given up.
const MISSED: usize = 2;

/// The adapters that may be connected to.
#[derive(Debug, Clone, Default)]
pub struct Adapters {
    /// Each by its name.
    pub list: Vec<Adapter>,
    /// How long one may take for an answer.
    pub patience: Option<Duration>,
}

/// A scan adapter.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Adapter {
    /// Its name.
    pub name: String,
    /// Its address.
    #[schema(value_type = String)]
    pub address: SocketAddr,
    /// Whether it is simulated.
    pub simulated: bool,
    /// Title of the candidate that a simulated one is plugged into.
    pub suits: Option<String>,
}

/// What a scan came to. Nothing is stored by it.
#[derive(Debug, Serialize, ToSchema)]
pub struct ScanAnswer {
    /// What was read.
    pub scan: Scan,
    /// The findings that it leads to.
    pub findings: Vec<ScanFinding>,
    /// Why the memory is thought to have been wiped lately, if it is.
    pub recently_cleared: Option<RecentlyCleared>,
    /// Why it ended before its time; none when it ran to its end.
    pub failed: Option<String>,
}

/// A line of the answer while a scan runs.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum ScanStep {
    /// Being read.
    Reading {
        /// What.
        item: ScanItem,
        /// Which step it is, from 1 on.
        step: usize,
        /// Of how many.
        of: usize,
    },
    /// At its end.
    Done {
        /// What it came to.
        answer: Box<ScanAnswer>,
    },
}

impl ScanAnswer {
    pub(crate) fn new(scan: Scan, candidate: &Candidate, families: &[Family], failed: Option<String>) -> Self {
        let table = Assumptions::default();
        let findings = findings(&scan, candidate, families, &table);
        Self { recently_cleared: scan.recently_cleared(&table), scan, findings, failed }
    }
}

/// Why a link ended.
enum Ended {
    /// It could not be made, or broke.
    Broken(String),
    /// No answer in time.
    Late,
}

/// A conversation with an adapter.
struct Link {
    stream: TcpStream,
    patience: Duration,
}

impl Link {
    async fn open(adapter: &Adapter, patience: Duration) -> Result<Self, String> {
        let at = adapter.address;
        let opening = tokio::time::timeout(patience, TcpStream::connect(at)).await;
        let stream = opening
            .map_err(|_| format!("The adapter at {at} does not answer: is it switched on, and on this network?"))?
            .map_err(|e| format!("The adapter at {at} cannot be reached ({e}): is it switched on?"))?;
        let mut link = Self { stream, patience };
        for order in ["ATZ", "ATE0", "ATL0", "ATS1", "ATH0", "ATSP0"] {
            match link.ask(order).await {
                Ok(_) => {}
                Err(Ended::Late) => {
                    return Err(format!("Something at {at} takes the call and says nothing: is that the adapter?"));
                }
                Err(Ended::Broken(why)) => return Err(format!("The adapter at {at} {why} while it was being set up.")),
            }
        }
        Ok(link)
    }

    /// Asks, and reads as far as the prompt.
    async fn ask(&mut self, request: &str) -> Result<String, Ended> {
        // What an earlier question left over is no answer to this one.
        let mut left_over = [0u8; 1024];
        while matches!(self.stream.try_read(&mut left_over), Ok(n) if n > 0) {}
        let asking = async {
            self.stream.write_all(format!("{request}\r").as_bytes()).await?;
            let mut answer = Vec::new();
            let mut part = [0u8; 512];
            loop {
                let n = self.stream.read(&mut part).await?;
                if n == 0 {
                    return Err(std::io::Error::new(std::io::ErrorKind::UnexpectedEof, "hung up"));
                }
                answer.extend(&part[..n]);
                if answer.contains(&obd::PROMPT) || answer.len() > ANSWER_LIMIT {
                    return Ok(answer);
                }
            }
        };
        match tokio::time::timeout(self.patience, asking).await {
            Ok(Ok(answer)) => Ok(String::from_utf8_lossy(&answer).into_owned()),
            Ok(Err(e)) if e.kind() == std::io::ErrorKind::UnexpectedEof => Err(Ended::Broken("hung up".to_owned())),
            Ok(Err(e)) => Err(Ended::Broken(format!("broke the link ({e})"))),
            Err(_) => Err(Ended::Late),
        }
    }
}

/// Reads everything that is supported; the scan, and why it ended early.
pub(crate) async fn read_all(
    adapter: &Adapter,
    patience: Duration,
    date: Date,
    tell: &mpsc::Sender<ScanStep>,
) -> (Scan, Option<String>) {
    let scan = Scan::new(date, &adapter.name, adapter.simulated);
    let link = match Link::open(adapter, patience).await {
        Ok(link) => link,
        Err(why) => return (scan, Some(why)),
    };
    let mut session = Session { link, scan, supported: None, missed: 0, failed: None };
    for (k, (item, request)) in REQUESTS.into_iter().enumerate() {
        let step = ScanStep::Reading { item, step: k + 1, of: REQUESTS.len() };
        if tell.send(step).await.is_err() {
            // Nobody listens any more.
            return (session.scan, None);
        }
        session.read(item, request).await;
    }
    (session.scan, session.failed)
}

/// A scan while it is read.
struct Session {
    link: Link,
    scan: Scan,
    /// The parameters that the control unit says it supports.
    supported: Option<Vec<u8>>,
    /// Answers missed in a row.
    missed: usize,
    /// Why the link is given up.
    failed: Option<String>,
}

impl Session {
    fn not_read(&mut self, what: ScanItem, why: impl Into<String>) {
        self.scan.missing.push(NotRead { what, why: why.into() });
    }

    /// Reads one item.
    async fn read(&mut self, item: ScanItem, request: &str) {
        let pid = request.strip_prefix("01").and_then(|p| u8::from_str_radix(p, 16).ok());
        let unsupported = |pid: u8| pid > 0 && self.supported.as_ref().is_some_and(|list| !list.contains(&pid));
        if self.failed.is_some() {
            self.not_read(item, "the link had failed before");
        } else if pid.is_some_and(unsupported) {
            self.not_read(item, "the control unit does not offer it");
        } else {
            match self.link.ask(request).await {
                Ok(answer) => {
                    self.missed = 0;
                    self.take(item, &answer).await;
                }
                Err(Ended::Late) => {
                    self.missed += 1;
                    let seconds = self.link.patience.as_secs().max(1);
                    self.not_read(item, format!("no answer within {seconds} seconds"));
                    if self.missed >= MISSED {
                        let say = "The adapter no longer answers. What was read until then is kept.";
                        self.failed = Some(say.to_owned());
                    }
                }
                Err(Ended::Broken(why)) => {
                    self.not_read(item, format!("the adapter {why}"));
                    self.failed = Some(format!("The adapter {why} in the middle. What was read until then is kept."));
                }
            }
        }
    }

    /// Takes an answer in.
    async fn take(&mut self, item: ScanItem, answer: &str) {
        if item != ScanItem::SupportedPids {
            if let Err(e) = obd::take(&mut self.scan, item, answer) {
                self.not_read(item, e.to_string());
            }
            return;
        }
        match lists(&mut self.link, answer).await {
            Ok(list) => self.supported = Some(list),
            Err(obd::AnswerFault::NoLink(why)) => {
                self.failed = Some(format!(
                    "The adapter cannot reach the control unit ({why}): is the ignition on, and the plug home?"
                ));
            }
            // It may still answer what it does not list.
            Err(e) => self.not_read(item, e.to_string()),
        }
    }
}

/// The parameters offered, list after list while one says that there is another.
async fn lists(link: &mut Link, first: &str) -> Result<Vec<u8>, obd::AnswerFault> {
    let mut out = obd::offered(&obd::messages(first, OFFERED[0])?);
    for (request, more) in [(OFFERED[1], 0x20), (OFFERED[2], 0x40)] {
        if !out.contains(&more) {
            break;
        }
        // What cannot be listed is taken as not offered.
        let Ok(answer) = link.ask(request).await else { break };
        match obd::messages(&answer, request) {
            Ok(messages) => out.extend(obd::offered(&messages)),
            Err(_) => break,
        }
    }
    Ok(out)
}
