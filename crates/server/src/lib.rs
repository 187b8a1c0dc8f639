//! Tick Sage over HTTP. Thin: parse, call the core and the store, answer.
//!
//! The OpenAPI document is served at `/api/openapi.json`; the web's types are generated from it.

#![cfg_attr(test, allow(clippy::unwrap_used, clippy::expect_used))]

pub mod adapter;
pub mod archive;
pub mod attachments;
pub mod candidates;
pub mod decide;
pub mod families;
pub mod history;
pub mod insight;
pub mod papers;
pub mod problem;
pub mod scan;
pub mod summary;

use std::path::PathBuf;

use actix_files::{Files, NamedFile};
use actix_web::dev::{ServiceRequest, ServiceResponse, fn_service};
use actix_web::middleware::{Compress, DefaultHeaders};
use actix_web::{App, FromRequest, HttpRequest, HttpServer, dev::Server, get, web};
use serde::Serialize;
use ticksage_core::Assumptions;
use ticksage_core::documents::assumptions::AssumptionRow;
use ticksage_store::Store;
use utoipa::{OpenApi, ToSchema};

use history::HistoryService;
use problem::Problem;
use scan::Adapters;

/// Largest body taken, bytes.
pub const BODY_LIMIT: usize = 8_000_000;

/// A body of at most [`BODY_LIMIT`] bytes, or why it could not be taken.
pub type Body = Result<Taken, Problem>;

/// The bytes of a body.
#[derive(Debug)]
pub struct Taken(web::Bytes);

impl Taken {
    /// The bytes.
    #[must_use]
    pub fn bytes(&self) -> &[u8] {
        &self.0
    }
}

/// Largest body of one route, where it is another than [`BODY_LIMIT`].
#[derive(Debug, Clone, Copy)]
pub struct BodyLimit(pub usize);

impl FromRequest for Taken {
    type Error = Problem;
    type Future = std::pin::Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(req: &HttpRequest, payload: &mut actix_web::dev::Payload) -> Self::Future {
        let limit = req.app_data::<BodyLimit>().map_or(BODY_LIMIT, |l| l.0);
        let bytes = web::Bytes::from_request(req, payload);
        Box::pin(async move { bytes.await.map(Taken).map_err(|e| Problem::body(&e, limit)) })
    }
}

/// The body as text.
fn text(body: &Taken) -> Result<&str, Problem> {
    std::str::from_utf8(&body.0).map_err(|e| Problem::fault("", &format!("the body is not UTF-8: {e}")))
}

/// Whether the records answer.
#[derive(Debug, Serialize, ToSchema)]
pub struct Health {
    /// Name and version of the computation.
    pub engine: String,
}

/// Answers when the application and its records do.
#[utoipa::path(tag = "service", responses((status = 200, body = Health), (status = 503, body = Problem)))]
#[get("/health")]
async fn health(store: web::Data<Store>) -> Result<web::Json<Health>, Problem> {
    store.ping().await?;
    Ok(web::Json(Health { engine: ticksage_core::assess::judge::ENGINE.to_owned() }))
}

/// The table of assumptions, each with its reason.
#[utoipa::path(tag = "service", responses((status = 200, body = Vec<AssumptionRow>)))]
#[get("/assumptions")]
async fn assumptions() -> web::Json<Vec<AssumptionRow>> {
    web::Json(Assumptions::default().rows())
}

#[get("/openapi.json")]
async fn openapi_document() -> web::Json<utoipa::openapi::OpenApi> {
    web::Json(Api::openapi())
}

/// The OpenAPI document.
#[derive(OpenApi)]
#[openapi(
    info(
        title = "Tick Sage",
        description = "From claims, papers and findings on a used vehicle or engine to a decision. Every result is an estimate from stated assumptions, not a warranty; local roadworthiness rules and licensed technicians take precedence."
    ),
    servers((url = "/api")),
    components(schemas(ticksage_core::formats::papers_table::Table, scan::ScanStep)),
    paths(
        health,
        assumptions,
        families::list_families,
        families::get_family,
        families::import_family,
        candidates::list_candidates,
        candidates::create_candidate,
        candidates::import_candidate,
        candidates::get_candidate,
        candidates::edit_candidate,
        candidates::archive_candidate,
        candidates::export_candidate,
        candidates::add_finding,
        candidates::undo_finding,
        candidates::measure_out,
        candidates::try_out,
        insight::lay_open,
        insight::what_moved,
        insight::what_would_move,
        insight::bill_spread,
        decide::side_by_side,
        decide::read_comparables,
        decide::set_comparables,
        decide::plan_after,
        decide::plan_calendar,
        decide::bill_table,
        decide::findings_table,
        archive::export_archive,
        archive::import_archive,
        papers::add_papers,
        papers::undo_papers,
        papers::read_line,
        papers::try_paper,
        papers::paper_moved,
        papers::read_table,
        papers::to_ask,
        papers::compare,
        attachments::attach,
        attachments::add_photo,
        attachments::get_attachment,
        attachments::undo_attachment,
        history::ask_history,
        history::read_history,
        history::take_history,
        scan::list_adapters,
        scan::run_scan,
        scan::read_scan,
        scan::write_scan,
        scan::take_apart,
    )
)]
#[derive(Debug)]
pub struct Api;

/// Where to listen and what to serve.
#[derive(Debug, Clone)]
pub struct Config {
    /// Address, loopback unless told otherwise.
    pub address: String,
    /// Port; 0 takes a free one.
    pub port: u16,
    /// Folder of the built web, if it is to be served.
    pub web: Option<PathBuf>,
    /// The history service that may be asked.
    pub history: HistoryService,
    /// The scan adapters that may be connected to.
    pub adapters: Adapters,
}

/// Every route under `/api`.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(
        web::scope("/api")
            .app_data(web::PayloadConfig::new(BODY_LIMIT))
            .app_data(web::JsonConfig::default().limit(BODY_LIMIT).error_handler(|e, _| match e {
                actix_web::error::JsonPayloadError::Overflow { .. }
                | actix_web::error::JsonPayloadError::OverflowKnownLength { .. } => {
                    Problem::body(&actix_web::error::ErrorPayloadTooLarge(""), BODY_LIMIT).into()
                }
                e => Problem::fault("", &e.to_string()).into(),
            }))
            .app_data(web::PathConfig::default().error_handler(|_, _| Problem::not_found("record").into()))
            .app_data(web::QueryConfig::default().error_handler(|e, _| Problem::fault("", &e.to_string()).into()))
            .service(health)
            .service(assumptions)
            .service(openapi_document)
            .service(families::list_families)
            .service(families::get_family)
            .service(families::import_family)
            .service(candidates::list_candidates)
            .service(candidates::create_candidate)
            .service(candidates::import_candidate)
            .service(candidates::get_candidate)
            .service(candidates::edit_candidate)
            .service(candidates::archive_candidate)
            .service(candidates::export_candidate)
            .service(candidates::add_finding)
            .service(candidates::undo_finding)
            .service(candidates::measure_out)
            .service(candidates::try_out)
            .service(insight::lay_open)
            .service(insight::what_moved)
            .service(insight::what_would_move)
            .service(insight::bill_spread)
            .service(decide::side_by_side)
            .service(decide::read_comparables)
            .service(decide::set_comparables)
            .service(decide::plan_after)
            .service(decide::plan_calendar)
            .service(decide::bill_table)
            .service(decide::findings_table)
            .service(archive::export_archive)
            .service(papers::undo_papers)
            .service(papers::read_line)
            .service(papers::try_paper)
            .service(papers::paper_moved)
            .service(papers::read_table)
            .service(papers::add_papers)
            .service(papers::to_ask)
            .service(papers::compare)
            .service(history::ask_history)
            .service(history::read_history)
            .service(history::take_history)
            .service(scan::list_adapters)
            .service(scan::run_scan)
            .service(scan::read_scan)
            .service(scan::write_scan)
            .service(scan::take_apart)
            .configure(attachments::routes)
            .default_service(web::to(|| async { Err::<web::Json<()>, _>(Problem::not_found("route")) })),
    );
}

/// The headers that every answer carries. Styles may stand on elements, which the strip and the
/// dialogs need; scripts come from this server alone.
fn headers() -> DefaultHeaders {
    DefaultHeaders::new()
        .add((
            "Content-Security-Policy",
            "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; \
             font-src 'self'; connect-src 'self'; manifest-src 'self'; worker-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
        ))
        .add(("X-Content-Type-Options", "nosniff"))
        .add(("Referrer-Policy", "no-referrer"))
        .add(("Cross-Origin-Opener-Policy", "same-origin"))
}

/// Starts serving; the server and the port it listens on.
///
/// # Errors
/// When the address cannot be listened on.
pub fn start(store: Store, config: &Config) -> std::io::Result<(Server, u16)> {
    let web_folder = config.web.clone();
    let history = web::Data::new(config.history.clone());
    let adapters = web::Data::new(config.adapters.clone());
    let server = HttpServer::new(move || {
        let app = App::new()
            .app_data(web::Data::new(store.clone()))
            .app_data(history.clone())
            .app_data(adapters.clone())
            .wrap(headers())
            .wrap(Compress::default())
            .configure(routes);
        match &web_folder {
            Some(folder) => {
                let index = folder.join("index.html");
                app.service(Files::new("/assets", folder.join("assets")).use_etag(true).prefer_utf8(true)).service(
                    Files::new("/", folder.clone()).index_file("index.html").default_handler(fn_service(
                        move |req: ServiceRequest| {
                            let index = index.clone();
                            async move {
                                let (req, _) = req.into_parts();
                                let page = NamedFile::open(index)?.into_response(&req);
                                Ok(ServiceResponse::new(req, page))
                            }
                        },
                    )),
                )
            }
            None => app,
        }
    })
    .workers(2)
    .shutdown_timeout(2)
    .disable_signals()
    .bind((config.address.as_str(), config.port))?;
    let port = server.addrs().first().map_or(config.port, std::net::SocketAddr::port);
    Ok((server.run(), port))
}
