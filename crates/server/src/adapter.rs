//! The simulated scan adapter: a small TCP server on loopback that answers the published diagnostic
//! services in the ASCII-hexadecimal form of serial adapters, as a vehicle in a certain state would. It can
//! be slow, silent, garbled, or break off. Everything in it is made up.

use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use actix_web::rt;
use serde::{Deserialize, Serialize};
use ticksage_core::documents::scan::Scan;
use ticksage_core::reading::obd;
use tokio::io::BufReader;
use tokio::io::{AsyncBufReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};

/// The format mark of a scenario.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum ScenarioFormat {
    /// The first version.
    #[serde(rename = "ticksage-adapter/2")]
    V1,
}

/// A vehicle that a simulated adapter is plugged into, and how the link behaves.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Scenario {
    /// Format and its version.
    pub format: ScenarioFormat,
    /// What it is called.
    pub name: String,
    /// Title of the candidate that it is plugged into.
    pub suits: String,
    /// Whether the bus is the newer one, CAN.
    pub can: bool,
    /// What the control unit holds.
    pub state: Scan,
    /// How long each answer takes, milliseconds.
    #[serde(default)]
    pub delay_ms: u64,
    /// Answers that stand in the place of what the state would give, by request.
    #[serde(default)]
    pub answers: BTreeMap<String, Vec<String>>,
    /// The request at which the link is cut, half-way through the answer.
    #[serde(default)]
    pub cut_at: Option<String>,
    /// The request that is never answered.
    #[serde(default)]
    pub silent_at: Option<String>,
}

/// Reads the scenarios of a folder.
///
/// # Errors
/// The file and what is wrong with it.
pub fn read_scenarios(folder: &Path) -> Result<Vec<Scenario>, String> {
    let mut files: Vec<_> = std::fs::read_dir(folder)
        .and_then(|dir| dir.map(|e| e.map(|e| e.path())).collect::<Result<Vec<_>, _>>())
        .map_err(|e| format!("{}: {e}", folder.display()))?;
    files.retain(|f| f.extension().is_some_and(|x| x == "json"));
    files.sort();
    files.iter().map(|file| read_scenario(file)).collect()
}

/// Reads one scenario.
///
/// # Errors
/// The file and what is wrong with it.
pub fn read_scenario(file: &Path) -> Result<Scenario, String> {
    let text = std::fs::read_to_string(file).map_err(|e| format!("{}: {e}", file.display()))?;
    serde_json::from_str(&text).map_err(|e| format!("{}: {e}", file.display()))
}

/// A simulated adapter that is running; it stops when this is dropped.
#[derive(Debug)]
pub struct Simulated {
    /// Where it listens.
    pub address: SocketAddr,
    task: rt::task::JoinHandle<()>,
}

impl Drop for Simulated {
    fn drop(&mut self) {
        self.task.abort();
    }
}

/// Starts a simulated adapter on loopback; port 0 takes a free one.
///
/// # Errors
/// When the port cannot be listened on.
pub async fn start(scenario: Scenario, port: u16) -> std::io::Result<Simulated> {
    let listener = TcpListener::bind(("127.0.0.1", port)).await?;
    let address = listener.local_addr()?;
    let scenario = Arc::new(scenario);
    let task = rt::spawn(async move {
        loop {
            match listener.accept().await {
                Ok((link, _)) => {
                    let scenario = Arc::clone(&scenario);
                    rt::spawn(async move {
                        // A client that goes away ends its own session only.
                        let _ = serve(link, &scenario).await;
                    });
                }
                Err(e) => tracing::warn!("the simulated adapter cannot accept: {e}"),
            }
        }
    });
    Ok(Simulated { address, task })
}

async fn serve(link: TcpStream, scenario: &Scenario) -> std::io::Result<()> {
    let mut link = BufReader::new(link);
    let mut echo = true;
    loop {
        let mut line = Vec::new();
        if link.read_until(b'\r', &mut line).await? == 0 || line.len() > 200 {
            return Ok(());
        }
        let typed = String::from_utf8_lossy(&line).trim().to_uppercase();
        let request: String = typed.chars().filter(|c| !c.is_whitespace()).collect();
        if scenario.silent_at.as_deref() == Some(request.as_str()) {
            continue;
        }
        let lines = match request.strip_prefix("AT") {
            Some(order) => {
                if order == "E0" {
                    echo = false;
                }
                let said = if order == "Z" { "Tick Sage simulated adapter 1" } else { "OK" };
                vec![said.to_owned()]
            }
            None => {
                tokio::time::sleep(Duration::from_millis(scenario.delay_ms)).await;
                let own = scenario.answers.get(&request).cloned();
                own.unwrap_or_else(|| obd::answer(&scenario.state, &request, scenario.can))
            }
        };
        let mut out = if echo { format!("{typed}\r") } else { String::new() };
        out.push_str(&lines.join("\r"));
        if scenario.cut_at.as_deref() == Some(request.as_str()) {
            let half = &out.as_bytes()[..out.len() / 2];
            link.get_mut().write_all(half).await?;
            return link.get_mut().shutdown().await;
        }
        out.push_str("\r\r>");
        link.get_mut().write_all(out.as_bytes()).await?;
    }
}
