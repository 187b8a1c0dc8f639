//! Where the application listens, and what it serves.

use std::path::PathBuf;

use actix_files::{Files, NamedFile};
use actix_web::dev::{Server, ServiceRequest, ServiceResponse, fn_service};
use actix_web::guard::{Any, Get, Head};
use actix_web::middleware::{Compress, DefaultHeaders, from_fn};
use actix_web::{App, HttpRequest, HttpResponse, HttpServer, web};
use ticksage_store::Store;

use crate::access::{Access, access};
use crate::assets::{Assets, asset};
use crate::cleaner::Cleaner;
use crate::guard::{Hosts, guard};
use crate::history_service::HistoryService;
use crate::line::{remember, watch};
use crate::openapi::{methods, openapi_document};
use crate::page_scripts;
use crate::problem::Problem;
use crate::routes::{
    adverts, archive, attachments, backup, built, candidates, decide, devices, families, history, insight, links,
    papers, reports, scan, service, sheets, talk,
};
use crate::scan_session::Adapters;

/// Where to listen and what to serve.
#[derive(Debug, Clone)]
pub struct Config {
    /// Address, loopback unless told otherwise.
    pub address: String,
    /// Port; 0 takes a free one.
    pub port: u16,
    /// Names under which it answers beside this machine's own.
    pub hosts: Vec<String>,
    /// Who is let in.
    pub access: Access,
    /// Certificate and key for TLS.
    pub tls: Option<rustls::ServerConfig>,
    /// Folder of the built web, if it is to be served.
    pub web: Option<PathBuf>,
    /// The history service that may be asked.
    pub history: HistoryService,
    /// What cleans files that come in.
    pub cleaner: Cleaner,
    /// The scan adapters that may be connected to.
    pub adapters: Adapters,
}

/// No such route, or one that is asked in a way that it does not know.
async fn no_route(req: HttpRequest) -> Result<HttpResponse, Problem> {
    let known = methods(req.path().strip_prefix("/api").unwrap_or_default());
    if known.is_empty() { Err(Problem::not_found("route")) } else { Err(Problem::method(&known.join(", "))) }
}

/// Every route under `/api`.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(
        web::scope("/api")
            // What the records hold is for this application's own pages, and for no cache on the way.
            .wrap(
                DefaultHeaders::new()
                    .add(("Cache-Control", "no-store"))
                    .add(("Cross-Origin-Resource-Policy", "same-origin")),
            )
            .app_data(web::PathConfig::default().error_handler(|_, _| Problem::not_found("record").into()))
            .app_data(web::QueryConfig::default().error_handler(|e, _| Problem::fault("", &e.to_string()).into()))
            .service(openapi_document)
            .configure(service::routes)
            .configure(built::routes)
            .configure(families::routes)
            .configure(adverts::routes)
            .configure(sheets::routes)
            .configure(talk::routes)
            .configure(candidates::routes)
            .configure(insight::routes)
            .configure(decide::routes)
            .configure(archive::routes)
            .configure(papers::routes)
            .configure(devices::routes)
            .configure(links::routes)
            .configure(reports::routes)
            .configure(backup::routes)
            .configure(history::routes)
            .configure(scan::routes)
            .configure(attachments::routes)
            .default_service(web::to(no_route)),
    );
}

/// The headers that every answer carries. Styles may stand on elements, which the strip and the
/// dialogs need; scripts come from this server alone, and those `in_page` stand in its own page.
fn headers(in_page: &str) -> DefaultHeaders {
    let policy = format!(
        "default-src 'none'; script-src 'self'{in_page}; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; \
         font-src 'self'; connect-src 'self'; manifest-src 'self'; worker-src 'self'; base-uri 'none'; \
         form-action 'self'; frame-ancestors 'none'"
    );
    DefaultHeaders::new()
        .add(("Content-Security-Policy", policy))
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
    let page = web_folder.as_ref().and_then(|f| std::fs::read_to_string(f.join("index.html")).ok());
    let in_page = page.map_or_else(String::new, |p| page_scripts::allowed(&p));
    let history = web::Data::new(config.history.clone());
    let adapters = web::Data::new(config.adapters.clone());
    let cleaner = web::Data::new(config.cleaner.clone());
    let hosts = web::Data::new(Hosts::new(&config.hosts));
    let let_in = web::Data::new(config.access.clone());
    let server = HttpServer::new(move || {
        let app = App::new()
            .app_data(web::Data::new(store.clone()))
            .app_data(history.clone())
            .app_data(adapters.clone())
            .app_data(hosts.clone())
            .app_data(cleaner.clone())
            .app_data(let_in.clone())
            .wrap(from_fn(watch))
            .wrap(from_fn(access))
            .wrap(from_fn(guard))
            .wrap(headers(&in_page))
            .wrap(Compress::default())
            .configure(routes);
        match &web_folder {
            Some(folder) => {
                let index = folder.join("index.html");
                app.app_data(web::Data::new(Assets(folder.join("assets"))))
                    .route("/assets/{name}", web::route().guard(Any(Get()).or(Head())).to(asset))
                    .service(Files::new("/", folder.clone()).index_file("index.html").default_handler(fn_service(
                        move |req: ServiceRequest| {
                            let index = index.clone();
                            async move {
                                let (req, _) = req.into_parts();
                                let page = NamedFile::open(index)?.into_response(&req);
                                Ok(ServiceResponse::new(req, page))
                            }
                        },
                    )))
            }
            None => app,
        }
    })
    .on_connect(remember)
    // Without it an answer of more than one packet waits for the other side to say that it has the first.
    .tcp_nodelay(true)
    .workers(2)
    .shutdown_timeout(2)
    .disable_signals();
    let address = (config.address.as_str(), config.port);
    let server = match &config.tls {
        Some(tls) => server.bind_rustls_0_23(address, tls.clone())?,
        None => server.bind(address)?,
    };
    let port = server.addrs().first().map_or(config.port, std::net::SocketAddr::port);
    Ok((server.run(), port))
}
