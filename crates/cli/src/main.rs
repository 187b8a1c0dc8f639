//! The `ticksage` program: serve, assess, import, export, and what the project publishes.

mod lines;

use std::io::{Read, Write};
use std::net::ToSocketAddrs;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::{Parser, Subcommand};
use serde_json::Value;
use ticksage_core::AssessError;
use ticksage_core::Assumptions;
use ticksage_core::Bundle;
use ticksage_core::Candidate;
use ticksage_core::Family;
use ticksage_core::assess;
use ticksage_core::base::fault::Fault;
use ticksage_core::documents::candidate::BundleFormat;
use ticksage_core::documents::history_report::HistoryReport;
use ticksage_core::formats::base_sheets;
use ticksage_core::formats::documents;
use ticksage_core::formats::schema;
use ticksage_core::inference::depth::Depth;
use ticksage_server::adapter::{self, read_scenario, read_scenarios};
use ticksage_server::history::{HistoryService, read_reports, start_simulated};
use ticksage_server::scan::{Adapter, Adapters};
use ticksage_server::{Config, start};
use ticksage_store::Store;
use ticksage_store::cluster::{Cluster, ClusterError, Keep};
use ticksage_store::families::Put;
use utoipa::OpenApi;

#[derive(Debug, Parser)]
#[command(name = "ticksage", version, about = "Checks a used vehicle or engine against what is known of its families.")]
struct Args {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Serve the application; without DATABASE_URL on a private database of its own.
    Serve {
        /// Address to listen on.
        #[arg(long, default_value = "127.0.0.1")]
        address: String,
        /// Port to listen on; 0 takes a free one.
        #[arg(long, default_value_t = 8460)]
        port: u16,
        /// Folder of the built web.
        #[arg(long, default_value = "web/dist")]
        web: PathBuf,
        /// Load the demo from this folder, where it is not there yet.
        #[arg(long)]
        demo: Option<PathBuf>,
        /// Database to use.
        #[arg(long, env = "DATABASE_URL")]
        database_url: Option<String>,
        /// Folder of the private database.
        #[arg(long)]
        data: Option<PathBuf>,
        /// History service to ask, such as http://127.0.0.1:8470; without it the simulated one is started
        /// beside the application when the demo is loaded.
        #[arg(long, env = "TICKSAGE_HISTORY_URL")]
        history: Option<String>,
        /// Scan adapter to connect to, such as 127.0.0.1:35000; without it the simulated ones are started
        /// beside the application when the demo is loaded.
        #[arg(long, env = "TICKSAGE_ADAPTER")]
        adapter: Option<String>,
        /// Let the scan adapter be on another machine; without it only loopback is connected to.
        #[arg(long)]
        adapter_elsewhere: bool,
    },
    /// Run a simulated scan adapter alone, on loopback; what it answers is made up.
    AdapterService {
        /// The scenario that it plays.
        scenario: PathBuf,
        /// Port to listen on; 0 takes a free one.
        #[arg(long, default_value_t = 35000)]
        port: u16,
    },
    /// Run the simulated history service alone, on loopback; every vehicle in it is made up.
    HistoryService {
        /// Folder of its reports.
        #[arg(long, default_value = "demo/history")]
        reports: PathBuf,
        /// Port to listen on; 0 takes a free one.
        #[arg(long, default_value_t = 8470)]
        port: u16,
    },
    /// Judge a candidate by family sheets, without a database; prints the whole assessment as JSON.
    Assess {
        /// Family sheets.
        #[arg(long = "family", num_args = 1.., required_unless_present = "bundle")]
        families: Vec<PathBuf>,
        /// The candidate.
        #[arg(long, required_unless_present_any = ["bundle", "lines"])]
        candidate: Option<PathBuf>,
        /// A bundle holding both.
        #[arg(long, conflicts_with_all = ["families", "candidate"])]
        bundle: Option<PathBuf>,
        /// Read candidates from standard input, one JSON document a line, and print an assessment, or the
        /// faults, on a line for each, in their order.
        #[arg(long, conflicts_with_all = ["candidate", "bundle"])]
        lines: bool,
        /// With `--lines`: leave out what costs most, each school's own view of every point and the steps of
        /// the why before the papers.
        #[arg(long, requires = "lines")]
        lean: bool,
    },
    /// Store a bundle or a family sheet; `-` reads standard input.
    Import {
        /// The file.
        file: PathBuf,
        /// Database to use.
        #[arg(long, env = "DATABASE_URL")]
        database_url: String,
    },
    /// Print a stored candidate with its sheets.
    Export {
        /// The candidate's name in the store.
        id: uuid::Uuid,
        /// Database to use.
        #[arg(long, env = "DATABASE_URL")]
        database_url: String,
    },
    /// Write the published JSON Schemas and the OpenAPI document into a folder.
    Publish {
        /// The folder, usually `docs`.
        folder: PathBuf,
    },
}

/// Everything that ends the program early, as a person is told.
#[derive(Debug, thiserror::Error)]
enum Failure {
    #[error("{0}: {1}")]
    File(String, std::io::Error),
    #[error("{file} is refused:{}", list(.faults))]
    Faults { file: String, faults: Vec<Fault> },
    #[error("{0}")]
    Assess(AssessError),
    #[error("{0}")]
    Store(#[from] ticksage_store::StoreError),
    #[error("{0}")]
    Cluster(#[from] ClusterError),
    #[error("{faulty} of {all} candidates are refused: each has its faults on its own line")]
    Lines { faulty: usize, all: usize },
    #[error("{0}")]
    Serve(String),
    #[error("writing JSON: {0}")]
    Json(#[from] serde_json::Error),
}

fn list(faults: &[Fault]) -> String {
    faults.iter().map(|f| format!("\n  {} {}", if f.path.is_empty() { "/" } else { &f.path }, f.message)).collect()
}

#[actix_web::main]
async fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_env_filter(
            tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "warn,ticksage=info".into()),
        )
        .with_writer(std::io::stderr)
        .init();
    match run(Args::parse()).await {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            let _ = writeln!(std::io::stderr(), "ticksage: {e}");
            ExitCode::FAILURE
        }
    }
}

async fn run(args: Args) -> Result<(), Failure> {
    match args.command {
        Command::Serve { address, port, web, demo, database_url, data, history, adapter, adapter_elsewhere } => {
            let adapter = adapter.map(|at| real_adapter(&at, adapter_elsewhere)).transpose()?;
            serve(Serving { address, port, web, demo, database_url, data, history, adapter }).await
        }
        Command::AdapterService { scenario, port } => adapter_service(&scenario, port).await,
        Command::HistoryService { reports, port } => history_service(&reports, port).await,
        Command::Assess { families, lines: true, lean, .. } => {
            let depth = if lean { Depth::Lean } else { Depth::Schools };
            lines::assess_lines(&read_families(&families)?, depth)
        }
        Command::Assess { families, candidate, bundle, .. } => {
            let bundle = gather(&families, candidate.as_deref(), bundle.as_deref())?;
            let table = Assumptions::default();
            let result = assess(&bundle.candidate, &bundle.families, &table).map_err(|e| match e {
                AssessError::Faults(faults) => Failure::Faults { file: "the candidate".to_owned(), faults },
                e @ AssessError::Curve(_) => Failure::Assess(e),
            })?;
            print(&result)
        }
        Command::Import { file, database_url } => {
            let store = Store::open(&database_url)?;
            store.migrate().await?;
            import(&store, &file).await
        }
        Command::Export { id, database_url } => {
            let store = Store::open(&database_url)?;
            let (record, families) = store.with_families(id).await?;
            print(&Bundle { format: BundleFormat::V1, candidate: record.candidate, families })
        }
        Command::Publish { folder } => publish(&folder),
    }
}

fn print(value: &impl serde::Serialize) -> Result<(), Failure> {
    let mut out = std::io::stdout().lock();
    serde_json::to_writer_pretty(&mut out, value)?;
    writeln!(out).map_err(|e| Failure::File("standard output".to_owned(), e))
}

fn read(file: &Path) -> Result<String, Failure> {
    let named = |e| Failure::File(file.display().to_string(), e);
    if file == Path::new("-") {
        let mut text = String::new();
        std::io::stdin().read_to_string(&mut text).map_err(named)?;
        Ok(text)
    } else {
        std::fs::read_to_string(file).map_err(named)
    }
}

fn refused(file: &Path) -> impl FnOnce(Vec<Fault>) -> Failure {
    let file = file.display().to_string();
    move |faults| Failure::Faults { file, faults }
}

fn gather(families: &[PathBuf], candidate: Option<&Path>, bundle: Option<&Path>) -> Result<Bundle, Failure> {
    if let Some(file) = bundle {
        return documents::read_bundle(&read(file)?).map_err(refused(file));
    }
    let file = candidate.unwrap_or(Path::new("-"));
    let candidate: Candidate = documents::read_candidate(&read(file)?).map_err(refused(file))?;
    let families = read_families(families)?;
    Ok(Bundle { format: BundleFormat::V1, candidate, families })
}

/// The sheets of the files, and the base sheets that ship with the application.
fn read_families(files: &[PathBuf]) -> Result<Vec<Family>, Failure> {
    let mut out =
        files.iter().map(|f| documents::read_family(&read(f)?).map_err(refused(f))).collect::<Result<Vec<_>, _>>()?;
    for sheet in base_sheets()? {
        if !out.iter().any(|f| f.id == sheet.id && f.version == sheet.version) {
            out.push(sheet);
        }
    }
    Ok(out)
}

fn base_sheets() -> Result<Vec<Family>, Failure> {
    base_sheets::sheets().map_err(|faults| Failure::Faults { file: "a base sheet".to_owned(), faults })
}

async fn import(store: &Store, file: &Path) -> Result<(), Failure> {
    let text = read(file)?;
    let format = serde_json::from_str::<Value>(&text)
        .ok()
        .and_then(|v| v.get("format").and_then(Value::as_str).map(str::to_owned))
        .unwrap_or_default();
    if format.starts_with("ticksage-family/") {
        let family = documents::read_family(&text).map_err(refused(file))?;
        let said = match store.put_family(&family).await? {
            Put::Added => "stored",
            Put::AlreadyThere => "was stored already",
        };
        tracing::info!(target: "ticksage", "{} version {} {said}", family.name, family.version);
    } else {
        let bundle = documents::read_bundle(&text).map_err(refused(file))?;
        let id = store.import_bundle(&bundle, &[]).await?;
        tracing::info!(target: "ticksage", "{} stored as {id}", bundle.candidate.title);
    }
    Ok(())
}

/// Loads the demo's sheets, and its candidates into a yard that never had any.
async fn load_demo(store: &Store, folder: &Path) -> Result<(), Failure> {
    let mut fresh = false;
    for file in json_files(&folder.join("families"))? {
        let family = documents::read_family(&read(&file)?).map_err(refused(&file))?;
        fresh |= store.put_family(&family).await? == Put::Added;
    }
    if !fresh {
        return Ok(());
    }
    for file in json_files(&folder.join("candidates"))? {
        let candidate = documents::read_candidate(&read(&file)?).map_err(refused(&file))?;
        store.create_candidate(&candidate).await?;
    }
    tracing::info!(target: "ticksage", "the demo is loaded");
    Ok(())
}

fn json_files(folder: &Path) -> Result<Vec<PathBuf>, Failure> {
    let named = |e| Failure::File(folder.display().to_string(), e);
    let mut files = Vec::new();
    for entry in std::fs::read_dir(folder).map_err(named)? {
        let path = entry.map_err(named)?.path();
        if path.extension().is_some_and(|x| x == "json") {
            files.push(path);
        }
    }
    files.sort();
    Ok(files)
}

/// Where the private database lives: readable by the server's own user even when started as root.
fn data_folder() -> PathBuf {
    let home = std::env::var_os("XDG_DATA_HOME")
        .map(PathBuf::from)
        .or_else(|| std::env::var_os("HOME").map(|h| PathBuf::from(h).join(".local/share")));
    match home {
        Some(h) if !h.starts_with("/root") => h.join("ticksage"),
        _ => PathBuf::from("/var/lib/ticksage"),
    }
}

/// What `serve` is told.
struct Serving {
    address: String,
    port: u16,
    web: PathBuf,
    demo: Option<PathBuf>,
    database_url: Option<String>,
    data: Option<PathBuf>,
    history: Option<String>,
    adapter: Option<Adapter>,
}

/// Starts the simulated history service on the reports of a folder; its handle and address.
fn simulated_history(folder: &Path, port: u16) -> Result<(actix_web::dev::ServerHandle, String), Failure> {
    let reports = read_reports(folder).map_err(|(file, faults)| Failure::Faults { file, faults })?;
    let (server, port) = start_simulated(reports, port)
        .map_err(|e| Failure::Serve(format!("the simulated history service cannot listen on {port}: {e}")))?;
    let handle = server.handle();
    actix_web::rt::spawn(server);
    Ok((handle, format!("http://127.0.0.1:{port}")))
}

fn no_adapter(e: std::io::Error) -> Failure {
    Failure::Serve(format!("the simulated scan adapter cannot listen: {e}"))
}

/// An adapter at a configured address; on loopback unless another machine is allowed.
fn real_adapter(at: &str, elsewhere: bool) -> Result<Adapter, Failure> {
    let no_address =
        || Failure::Serve(format!("\"{at}\" is no address of a scan adapter: write it as 127.0.0.1:35000"));
    let address = at.to_socket_addrs().ok().and_then(|mut all| all.next()).ok_or_else(no_address)?;
    if address.ip().is_loopback() || elsewhere {
        Ok(Adapter { name: format!("Adapter at {at}"), address, simulated: false, suits: None })
    } else {
        Err(Failure::Serve(format!(
            "the scan adapter at {at} is on another machine: allow that with --adapter-elsewhere, on a network that you trust"
        )))
    }
}

async fn adapter_service(scenario: &Path, port: u16) -> Result<(), Failure> {
    let scenario = read_scenario(scenario).map_err(Failure::Serve)?;
    let running = adapter::start(scenario, port).await.map_err(no_adapter)?;
    let _ = writeln!(std::io::stdout(), "The simulated scan adapter answers at {}  (Ctrl-C stops it)", running.address);
    stopped().await
}

async fn history_service(reports: &Path, port: u16) -> Result<(), Failure> {
    let (handle, url) = simulated_history(reports, port)?;
    let _ = writeln!(std::io::stdout(), "The simulated history service answers at {url}  (Ctrl-C stops it)");
    stopped().await?;
    handle.stop(true).await;
    Ok(())
}

/// Waits until the program is told to stop.
async fn stopped() -> Result<(), Failure> {
    let mut terminated = tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate())
        .map_err(|e| Failure::Serve(format!("signals cannot be heard: {e}")))?;
    tokio::select! {
        _ = tokio::signal::ctrl_c() => {}
        _ = terminated.recv() => {}
    }
    Ok(())
}

async fn serve(told: Serving) -> Result<(), Failure> {
    let Serving { address, port, web, demo, database_url, data, history, adapter } = told;
    // Held to the end: the private database stops with it.
    let mut cluster = None;
    let url = match database_url {
        Some(url) => url,
        None => {
            let started = Cluster::start(&data.unwrap_or_else(data_folder), Keep::Safely)?;
            let url = started.create_database("ticksage")?;
            tracing::info!(target: "ticksage", "private database at {url}");
            cluster = Some(started);
            url
        }
    };
    let store = Store::open(&url)?;
    store.migrate().await?;
    for sheet in base_sheets()? {
        store.put_family(&sheet).await?;
    }
    let mut adapters = Adapters { list: adapter.into_iter().collect(), patience: None };
    // Held to the end: the simulated adapters stop with the application.
    let mut plugged = Vec::new();
    // Held to the end: the simulated service stops with the application.
    let mut simulated = None;
    let mut history = HistoryService { url: history, patience: None };
    if let Some(folder) = demo {
        load_demo(&store, &folder).await?;
        let reports = folder.join("history");
        if history.url.is_none() && reports.is_dir() {
            let (handle, url) = simulated_history(&reports, 0)?;
            tracing::info!(target: "ticksage", "simulated history service at {url}");
            simulated = Some(handle);
            history.url = Some(url);
        }
        let scenarios = folder.join("scans");
        if adapters.list.is_empty() && scenarios.is_dir() {
            for scenario in read_scenarios(&scenarios).map_err(Failure::Serve)? {
                let (name, suits) = (scenario.name.clone(), Some(scenario.suits.clone()));
                let running = adapter::start(scenario, 0).await.map_err(no_adapter)?;
                adapters.list.push(Adapter { name, address: running.address, simulated: true, suits });
                plugged.push(running);
            }
            tracing::info!(target: "ticksage", "{} simulated scan adapters on loopback", plugged.len());
        }
    }
    let web = web.join("index.html").exists().then_some(web);
    if web.is_none() {
        tracing::warn!(target: "ticksage", "no built web found: only the API is served (build it in web/ with: npm run build)");
    }
    let (server, port) = start(store.clone(), &Config { address: address.clone(), port, web, history, adapters })
        .map_err(|e| {
            Failure::Serve(format!("{address}:{port} cannot be listened on: {e}; choose another with --port"))
        })?;
    let handle = server.handle();
    let running = actix_web::rt::spawn(server);
    let _ = writeln!(std::io::stdout(), "Tick Sage is open at http://{address}:{port}  (Ctrl-C stops it)");
    stopped().await?;
    handle.stop(true).await;
    let _ = running.await;
    if let Some(simulated) = simulated {
        simulated.stop(true).await;
    }
    drop(plugged);
    store.close().await;
    drop(cluster);
    Ok(())
}

fn publish(folder: &Path) -> Result<(), Failure> {
    let write = |name: &str, value: &Value| -> Result<(), Failure> {
        let file = folder.join(name);
        let text = serde_json::to_string_pretty(value)? + "\n";
        std::fs::write(&file, text).map_err(|e| Failure::File(file.display().to_string(), e))
    };
    let schemas = folder.join("schema");
    std::fs::create_dir_all(&schemas).map_err(|e| Failure::File(schemas.display().to_string(), e))?;
    write("schema/family.schema.json", &schema::schema::<Family>())?;
    write("schema/candidate.schema.json", &schema::schema::<Candidate>())?;
    write("schema/bundle.schema.json", &schema::schema::<Bundle>())?;
    write("schema/history.schema.json", &schema::schema::<HistoryReport>())?;
    write("openapi.json", &serde_json::to_value(ticksage_server::Api::openapi())?)
}
