//! Scanning: a conversation with an adapter over TCP, step by step, and scans as tables.
//!
//! Whatever the adapter does, the scan ends in a sentence and keeps what was read.

use std::net::SocketAddr;
use std::time::Duration;

use actix_web::http::header::{ContentDisposition, ContentEncoding, DispositionParam, DispositionType};
use actix_web::web::Bytes;
use actix_web::{HttpResponse, get, post, web};
use futures_util::stream;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use ticksage_core::base::trouble_code::Code;
use ticksage_core::base::trouble_code::CodeParts;
use ticksage_core::documents::scan::NotRead;
use ticksage_core::documents::scan::Scan;
use ticksage_core::documents::scan::ScanItem;
use ticksage_core::evidence::scan_findings::ScanFinding;
use ticksage_core::evidence::scan_findings::Wiped;
use ticksage_core::evidence::scan_findings::findings;
use ticksage_core::formats::papers_table::LineFault;
use ticksage_core::formats::scan_table;
use ticksage_core::reading::obd;
use ticksage_core::reading::obd::OFFERED;
use ticksage_core::reading::obd::REQUESTS;

use ticksage_core::Assumptions;
use ticksage_core::Candidate;
use ticksage_core::Family;
use ticksage_store::Store;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;
use tokio::sync::mpsc;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::problem::Problem;
use crate::{Body, text};

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

/// Which adapter to read with.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ScanWith {
    /// Its name.
    pub adapter: String,
}

/// What a scan came to. Nothing is stored by it.
#[derive(Debug, Serialize, ToSchema)]
pub struct ScanAnswer {
    /// What was read.
    pub scan: Scan,
    /// The findings that it leads to.
    pub findings: Vec<ScanFinding>,
    /// Why the memory is thought to have been wiped lately, if it is.
    pub wiped: Option<Wiped>,
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
    fn new(scan: Scan, candidate: &Candidate, families: &[Family], failed: Option<String>) -> Self {
        let table = Assumptions::default();
        let findings = findings(&scan, candidate, families, &table);
        Self { wiped: scan.wiped(&table), scan, findings, failed }
    }
}

/// The adapters that may be connected to.
#[utoipa::path(tag = "scan", responses((status = 200, body = Vec<Adapter>)))]
#[get("/adapters")]
pub async fn list_adapters(adapters: web::Data<Adapters>) -> web::Json<Vec<Adapter>> {
    web::Json(adapters.list.clone())
}

/// Codes to be taken apart.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct CodesQuery {
    /// Codes, apart by commas; at most 600.
    pub codes: String,
}

/// Takes codes apart by the published scheme: their system, who defined them, the area, the cylinder.
#[utoipa::path(tag = "scan", params(CodesQuery), responses((status = 200, body = Vec<CodeParts>), (status = 422, body = Problem)))]
#[get("/codes")]
pub async fn take_apart(query: web::Query<CodesQuery>) -> Result<web::Json<Vec<CodeParts>>, Problem> {
    let list = query.codes.split(',').filter(|c| !c.is_empty()).take(600);
    let parts = list.map(|c| c.parse::<Code>().map(Code::parts).map_err(|e| Problem::fault("/codes", &e.to_string())));
    Ok(web::Json(parts.collect::<Result<_, _>>()?))
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

/// Reads everything that is offered; the scan, and why it ended early.
async fn read_all(
    adapter: &Adapter,
    patience: Duration,
    date: Date,
    tell: &mpsc::Sender<ScanStep>,
) -> (Scan, Option<String>) {
    let mut scan = Scan::new(date, &adapter.name, adapter.simulated);
    let mut link = match Link::open(adapter, patience).await {
        Ok(link) => link,
        Err(why) => return (scan, Some(why)),
    };
    let mut offered: Option<Vec<u8>> = None;
    let (mut missed, mut failed) = (0, None);
    for (k, (item, request)) in REQUESTS.into_iter().enumerate() {
        let step = ScanStep::Reading { item, step: k + 1, of: REQUESTS.len() };
        if tell.send(step).await.is_err() {
            // Nobody listens any more.
            return (scan, None);
        }
        let mut not_read = |why: String| scan.missing.push(NotRead { what: item, why });
        if failed.is_some() {
            not_read("the link had failed before".to_owned());
            continue;
        }
        let pid = request.strip_prefix("01").and_then(|p| u8::from_str_radix(p, 16).ok());
        let unoffered = |pid: u8| pid > 0 && offered.as_ref().is_some_and(|list| !list.contains(&pid));
        if pid.is_some_and(unoffered) {
            not_read("the control unit does not offer it".to_owned());
            continue;
        }
        match link.ask(request).await {
            Ok(answer) => {
                missed = 0;
                if item == ScanItem::Offered {
                    match lists(&mut link, &answer).await {
                        Ok(list) => offered = Some(list),
                        Err(obd::AnswerFault::NoLink(why)) => {
                            failed = Some(format!(
                                "The adapter cannot reach the control unit ({why}): is the ignition on, and the plug home?"
                            ));
                        }
                        // It may still answer what it does not list.
                        Err(e) => scan.missing.push(NotRead { what: item, why: e.to_string() }),
                    }
                } else if let Err(e) = obd::take(&mut scan, item, &answer) {
                    scan.missing.push(NotRead { what: item, why: e.to_string() });
                }
            }
            Err(Ended::Late) => {
                missed += 1;
                not_read(format!("no answer within {} seconds", patience.as_secs().max(1)));
                if missed >= MISSED {
                    failed = Some("The adapter no longer answers. What was read until then is kept.".to_owned());
                }
            }
            Err(Ended::Broken(why)) => {
                not_read(format!("the adapter {why}"));
                failed = Some(format!("The adapter {why} in the middle. What was read until then is kept."));
            }
        }
    }
    (scan, failed)
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

/// Scans with an adapter. The answer is a line of JSON for each step ([`ScanStep`]), the last one with what
/// it came to. Nothing is stored.
#[utoipa::path(tag = "scan", params(("id" = Uuid, Path)), request_body = ScanWith,
    responses((status = 200, body = ScanStep, content_type = "application/x-ndjson"), (status = 404, body = Problem)))]
#[post("/candidates/{id}/scan")]
pub async fn run_scan(
    store: web::Data<Store>,
    adapters: web::Data<Adapters>,
    id: web::Path<Uuid>,
    body: web::Json<ScanWith>,
) -> Result<HttpResponse, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let adapter =
        adapters.list.iter().find(|a| a.name == body.adapter).cloned().ok_or_else(|| Problem::not_found("adapter"))?;
    let patience = adapters.patience.unwrap_or(PATIENCE);
    let (tell, told) = mpsc::channel(4);
    actix_web::rt::spawn(async move {
        let (scan, failed) = read_all(&adapter, patience, record.candidate.as_of, &tell).await;
        let answer = Box::new(ScanAnswer::new(scan, &record.candidate, &families, failed));
        // A listener who has gone away misses it.
        let _ = tell.send(ScanStep::Done { answer }).await;
    });
    let lines = stream::unfold(told, |mut told| async move {
        let step = told.recv().await?;
        let line = serde_json::to_string(&step).map(|l| Bytes::from(l + "\n")).map_err(std::io::Error::other);
        Some((line, told))
    });
    Ok(HttpResponse::Ok()
        .content_type("application/x-ndjson")
        .insert_header(ContentEncoding::Identity)
        .streaming(Box::pin(lines)))
}

/// Reads a scan from a table (CSV). Nothing is stored.
#[utoipa::path(tag = "scan", params(("id" = Uuid, Path)), request_body(content = String, content_type = "text/csv"),
    responses((status = 200, body = ScanAnswer), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/candidates/{id}/scan/file")]
pub async fn read_scan(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    body: Body,
) -> Result<web::Json<ScanAnswer>, Problem> {
    let (record, families) = store.with_families(*id).await?;
    let scan = scan_table::read(text(&body?)?, record.candidate.as_of, "a file").map_err(|faults| {
        let fault = |LineFault { line, column, message }| ticksage_core::base::fault::Fault {
            path: if column.is_empty() { format!("line {line}") } else { format!("line {line}, {column}") },
            message,
        };
        Problem::faulty(faults.into_iter().map(fault).collect())
    })?;
    Ok(web::Json(ScanAnswer::new(scan, &record.candidate, &families, None)))
}

/// Writes a scan as a table (CSV).
#[utoipa::path(tag = "scan", request_body = Scan, responses((status = 200, body = String, content_type = "text/csv"), (status = 422, body = Problem)))]
#[post("/scan/table")]
pub async fn write_scan(body: web::Json<Scan>) -> HttpResponse {
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(format!("scan-{}.csv", body.date))],
    };
    HttpResponse::Ok().content_type("text/csv; charset=utf-8").insert_header(disposition).body(scan_table::write(&body))
}
