//! Asking a history service, and the simulated one that ships with the application.
//!
//! A service answers `GET /v1/reports?vin=…` or `?plate=…` with a report in the open format
//! `ticksage-history/1`, 404 where it knows nothing. Anything else it does, or does not do, ends in a
//! sentence; nothing is stored by asking.

use std::path::Path;
use std::time::Duration;

use actix_web::dev::Server;
use actix_web::{App, HttpResponse, HttpServer, get, web};
use serde::Deserialize;
use ticksage_core::base::fault::Fault;
use ticksage_core::documents::history_report::HistoryReport;
use ticksage_core::evidence::history::plate;
use ticksage_core::evidence::vin::vin;
use ticksage_core::formats::documents;

use crate::problem::Problem;

/// How long a service may take.
pub const PATIENCE: Duration = Duration::from_secs(8);

/// Largest report taken, bytes.
const REPORT_LIMIT: usize = 1_000_000;

/// Where the history service is.
#[derive(Debug, Clone, Default)]
pub struct HistoryService {
    /// Its address, such as `http://127.0.0.1:8470`; none where there is none.
    pub url: Option<String>,
    /// How long it may take.
    pub patience: Option<Duration>,
}

pub(crate) async fn ask(service: &HistoryService, query: &[(&str, String)]) -> Result<HistoryReport, Problem> {
    let Some(url) = &service.url else {
        return Err(Problem::service("No history service is set up. Import its report as a file instead."));
    };
    let patience = service.patience.unwrap_or(PATIENCE);
    let failed = |what: &str| {
        Problem::service(format!(
            "The history service {what}. Nothing was changed: ask again, or import its report as a file."
        ))
    };
    let client = awc::Client::builder().timeout(patience * 2).finish();
    let asking = async {
        let mut answer = client
            .get(format!("{url}/v1/reports"))
            .query(&query)
            .map_err(|_| failed("cannot be asked for that"))?
            .send()
            .await
            .map_err(|e| {
                tracing::warn!("the history service does not answer: {e}");
                failed("does not answer")
            })?;
        if answer.status() == actix_web::http::StatusCode::NOT_FOUND {
            return Err(Problem::service(
                "The history service knows no such vehicle: compare VIN and plate with the papers.",
            ));
        }
        if !answer.status().is_success() {
            return Err(failed(&format!("answered with an error ({})", answer.status().as_u16())));
        }
        answer.body().limit(REPORT_LIMIT).await.map_err(|_| failed("broke off in the middle, or sent far too much"))
    };
    let body = actix_web::rt::time::timeout(patience, asking)
        .await
        .map_err(|_| failed(&format!("did not answer within {} seconds", patience.as_secs().max(1))))??;
    let text = std::str::from_utf8(&body).map_err(|_| failed("sent something that is no report"))?;
    documents::read_history(text).map_err(|faults| {
        tracing::warn!("the history service sent something that is no report: {faults:?}");
        failed("sent something that is no report")
    })
}

/// What the simulated service is asked by.
#[derive(Debug, Deserialize)]
struct ReportQuery {
    #[serde(default)]
    vin: String,
    #[serde(default)]
    plate: String,
}

#[get("/v1/reports")]
async fn simulated_report(reports: web::Data<Vec<HistoryReport>>, query: web::Query<ReportQuery>) -> HttpResponse {
    let (number, registration) = (vin(&query.vin).vin, plate(&query.plate));
    let found = reports.iter().find(|r| {
        (!number.is_empty() && vin(&r.vin).vin == number)
            || (number.is_empty() && !registration.is_empty() && plate(&r.plate) == registration)
    });
    match found {
        Some(r) => HttpResponse::Ok().json(r),
        None => {
            HttpResponse::NotFound().json(serde_json::json!({"message": "no such vehicle in the simulated register"}))
        }
    }
}

/// Starts the simulated history service on loopback; the server and its port (0 takes a free one).
///
/// # Errors
/// When the port cannot be listened on.
pub fn start_simulated(reports: Vec<HistoryReport>, port: u16) -> std::io::Result<(Server, u16)> {
    let reports = web::Data::new(reports);
    let server = HttpServer::new(move || App::new().app_data(reports.clone()).service(simulated_report))
        .workers(1)
        .shutdown_timeout(1)
        .disable_signals()
        .bind(("127.0.0.1", port))?;
    let port = server.addrs().first().map_or(port, std::net::SocketAddr::port);
    Ok((server.run(), port))
}

/// Reads the simulated service's reports from a folder.
///
/// # Errors
/// The file, and what is wrong with it.
pub fn read_reports(folder: &Path) -> Result<Vec<HistoryReport>, (String, Vec<Fault>)> {
    let broken =
        |e: std::io::Error| (folder.display().to_string(), vec![Fault { path: String::new(), message: e.to_string() }]);
    let mut files = Vec::new();
    for entry in std::fs::read_dir(folder).map_err(broken)? {
        let path = entry.map_err(broken)?.path();
        if path.extension().is_some_and(|x| x == "json") {
            files.push(path);
        }
    }
    files.sort();
    files
        .iter()
        .map(|file| {
            let text = std::fs::read_to_string(file).map_err(broken)?;
            documents::read_history(&text).map_err(|faults| (file.display().to_string(), faults))
        })
        .collect()
}
