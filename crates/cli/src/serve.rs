//! Serving the application, and the simulated services beside it.

use std::io::Write;
use std::net::{IpAddr, ToSocketAddrs};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

use actix_web::dev::ServerHandle;
use ticksage_core::Family;
use ticksage_core::formats::documents;
use ticksage_server::access::{Access, PhoneAddress, new_key};
use ticksage_server::adapter::{self, read_scenario, read_scenarios};
use ticksage_server::cleaner::Cleaner;
use ticksage_server::history_service::{HistoryService, read_reports, start_simulated};
use ticksage_server::scan_session::{Adapter, Adapters};
use ticksage_server::{Config, start};
use ticksage_store::cluster::{Cluster, Keep};
use ticksage_store::families::Put;
use ticksage_store::{Store, StoreError};

use crate::certificate;
use crate::failure::Failure;
use crate::files::{base_sheets, read, refused};

/// Stores a sheet that ships with the program. A yard that has another one of its id and version keeps that: what was
/// judged by it stays as it was.
async fn put_shipped(store: &Store, family: &Family) -> Result<Put, Failure> {
    match store.put_family(family).await {
        Err(StoreError::SheetDiffers { id, version }) => {
            tracing::info!(target: "ticksage", "the sheet {id} ({version}) of this yard is an earlier one; it is kept");
            Ok(Put::AlreadyThere)
        }
        put => Ok(put?),
    }
}

/// Loads the demo's sheets, and its candidates into a yard that never had any.
pub async fn load_demo(store: &Store, folder: &Path) -> Result<(), Failure> {
    let mut fresh = false;
    for file in json_files(&folder.join("families"))? {
        let family = documents::read_family(&read(&file)?).map_err(refused(&file))?;
        fresh |= put_shipped(store, &family).await? == Put::Added;
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
pub fn data_folder() -> PathBuf {
    let home = std::env::var_os("XDG_DATA_HOME")
        .map(PathBuf::from)
        .or_else(|| std::env::var_os("HOME").map(|h| PathBuf::from(h).join(".local/share")));
    match home {
        Some(h) if !h.starts_with("/root") => h.join("ticksage"),
        _ => PathBuf::from("/var/lib/ticksage"),
    }
}

/// What `serve` is told.
pub struct Serving {
    pub address: String,
    pub port: u16,
    pub hosts: Vec<String>,
    pub web: PathBuf,
    pub demo: Option<PathBuf>,
    pub database_url: Option<String>,
    pub data: Option<PathBuf>,
    pub history: Option<String>,
    pub adapter: Option<Adapter>,
    /// Certificate and key.
    pub tls: Option<(PathBuf, PathBuf)>,
    pub plain: bool,
    pub key: bool,
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
pub fn real_adapter(at: &str, elsewhere: bool) -> Result<Adapter, Failure> {
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

pub async fn adapter_service(scenario: &Path, port: u16) -> Result<(), Failure> {
    let scenario = read_scenario(scenario).map_err(Failure::Serve)?;
    let running = adapter::start(scenario, port).await.map_err(no_adapter)?;
    let _ = writeln!(std::io::stdout(), "The simulated scan adapter answers at {}  (Ctrl-C stops it)", running.address);
    stopped().await
}

pub async fn history_service(reports: &Path, port: u16) -> Result<(), Failure> {
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

/// What runs beside the application while it is served; each stops when this is let go.
#[derive(Default)]
struct Beside {
    cluster: Arc<Mutex<Option<Cluster>>>,
    adapters: Vec<adapter::Simulated>,
    history: Option<ServerHandle>,
}

/// How often the private database is looked at.
const TEND: std::time::Duration = std::time::Duration::from_secs(2);

/// Looks after the private database: one that died is started again.
async fn tend(cluster: Arc<Mutex<Option<Cluster>>>) {
    loop {
        tokio::time::sleep(TEND).await;
        let cluster = Arc::clone(&cluster);
        let looked = tokio::task::spawn_blocking(move || {
            cluster.lock().unwrap_or_else(PoisonError::into_inner).as_mut().map(Cluster::tend)
        });
        match looked.await {
            Ok(Some(Ok(true))) => tracing::warn!(target: "ticksage", "the private database had died; it runs again"),
            Ok(Some(Err(e))) => tracing::warn!(target: "ticksage", "the private database does not come up: {e}"),
            _ => {}
        }
    }
}

/// Works with the records, whether the application runs on them or not: the database named, or the private one.
pub async fn with_store<T, E: Into<Failure>>(
    url: Option<String>,
    data: Option<PathBuf>,
    work: impl AsyncFnOnce(&Store) -> Result<T, E>,
) -> Result<T, Failure> {
    let folder = data.unwrap_or_else(data_folder);
    let running = url.or_else(|| Cluster::url_of_running(&folder, "ticksage"));
    // Held until the work is done.
    let mut own = None;
    let url = match running {
        Some(url) => url,
        None => own.insert(Cluster::start(&folder, Keep::Safely)?).create_database("ticksage")?,
    };
    let store = Store::open(&url)?;
    store.migrate().await?;
    let out = work(&store).await.map_err(Into::into);
    store.close().await;
    drop(own);
    out
}

/// The database to use: the one named, or a private one.
fn database(url: Option<String>, data: Option<PathBuf>, beside: &mut Beside) -> Result<String, Failure> {
    if let Some(url) = url {
        return Ok(url);
    }
    let folder = data.unwrap_or_else(data_folder);
    let started = Cluster::start(&folder, Keep::Safely)?;
    let url = started.create_database("ticksage")?;
    let (at, password) = (started.address(), folder.join("password"));
    tracing::info!(target: "ticksage", "private database at {at}/ticksage, its password in {}", password.display());
    *beside.cluster.lock().unwrap_or_else(PoisonError::into_inner) = Some(started);
    Ok(url)
}

/// Loads the demo, and starts the simulated services that go with it where no real one is named.
async fn with_demo(
    store: &Store,
    folder: &Path,
    history: &mut HistoryService,
    adapters: &mut Adapters,
    beside: &mut Beside,
) -> Result<(), Failure> {
    load_demo(store, folder).await?;
    let reports = folder.join("history");
    if history.url.is_none() && reports.is_dir() {
        let (handle, url) = simulated_history(&reports, 0)?;
        tracing::info!(target: "ticksage", "simulated history service at {url}");
        beside.history = Some(handle);
        history.url = Some(url);
    }
    let scenarios = folder.join("scans");
    if adapters.list.is_empty() && scenarios.is_dir() {
        for scenario in read_scenarios(&scenarios).map_err(Failure::Serve)? {
            let (name, suits) = (scenario.name.clone(), Some(scenario.suits.clone()));
            let running = adapter::start(scenario, 0).await.map_err(no_adapter)?;
            adapters.list.push(Adapter { name, address: running.address, simulated: true, suits });
            beside.adapters.push(running);
        }
        let count = beside.adapters.len();
        tracing::info!(target: "ticksage", "{count} simulated scan adapters on loopback");
    }
    Ok(())
}

/// The address that is listened on, as browsers write it; none where it stands for all of them.
fn host_of(address: &str) -> Option<String> {
    match address.parse::<IpAddr>() {
        Ok(ip) if ip.is_unspecified() => None,
        Ok(IpAddr::V6(ip)) => Some(format!("[{ip}]")),
        _ => Some(address.to_owned()),
    }
}

/// Whether an address is of this machine alone.
fn is_loopback(address: &str) -> bool {
    address == "localhost" || address.parse::<IpAddr>().is_ok_and(|ip| ip.is_loopback())
}

/// Refuses to be open to a network without TLS, unless that was asked for.
fn refuse_open(address: &str, told: bool) -> Result<(), Failure> {
    if is_loopback(address) || told {
        return Ok(());
    }
    Err(Failure::Serve(format!(
        "{address} is open to the network. Make a certificate with `ticksage certificate NAME` and give it with --tls-cert and --tls-key; \
         or say --plain: then everybody on the network can read along, and phones refuse the camera, working without a connection, and installing"
    )))
}

/// The address that a phone opens: by the first name given, or the address that is listened on.
fn phone_address(address: &str, named: Option<String>, scheme: &str) -> Option<PhoneAddress> {
    match (is_loopback(address), named, host_of(address)) {
        // Behind a proxy on this machine, which has the usual port and speaks TLS.
        (true, Some(name), _) => Some(PhoneAddress { base: format!("https://{name}"), with_port: false }),
        (false, Some(name), _) | (false, None, Some(name)) => {
            Some(PhoneAddress { base: format!("{scheme}://{name}"), with_port: true })
        }
        (true, None, _) | (false, None, None) => None,
    }
}

/// Who is let in, and how a phone finds the way.
fn access(address: &str, named: Option<String>, tls: Option<&(PathBuf, PathBuf)>, key: Option<&str>) -> Access {
    let mut access = Access::default();
    access.tls = tls.is_some();
    access.authority = tls.and_then(|(file, _)| std::fs::read_to_string(file.with_file_name("authority.pem")).ok());
    access.address = phone_address(address, named, if access.tls { "https" } else { "http" });
    if let Some(key) = key {
        access.close_with(key);
    }
    access
}

/// Serves the application until it is stopped.
pub async fn serve(told: Serving) -> Result<(), Failure> {
    let Serving { address, port, mut hosts, web, demo, database_url, data, history, adapter, tls, plain, key } = told;
    refuse_open(&address, tls.is_some() || plain)?;
    if plain && tls.is_none() && !is_loopback(&address) {
        tracing::warn!(
            target: "ticksage",
            "open to the network without TLS: everybody on it can read along; phones refuse the camera, working without a connection, and installing"
        );
    }
    let named = hosts.first().cloned();
    hosts.extend(host_of(&address));
    // Held to the end.
    let mut beside = Beside::default();
    let store = Store::open(&database(database_url, data, &mut beside)?)?;
    store.migrate().await?;
    for sheet in base_sheets()? {
        put_shipped(&store, &sheet).await?;
    }
    let mut adapters = Adapters { list: adapter.into_iter().collect(), patience: None };
    let mut history = HistoryService { url: history, patience: None };
    if let Some(folder) = demo {
        with_demo(&store, &folder, &mut history, &mut adapters, &mut beside).await?;
    }
    let web = web.join("index.html").exists().then_some(web);
    if web.is_none() {
        tracing::warn!(target: "ticksage", "no built web found: only the API is served (build it in web/ with: npm run build)");
    }
    let cleaner = Cleaner { program: std::env::current_exe().ok() };
    let scheme = if tls.is_some() { "https" } else { "http" };
    let key = key.then(new_key);
    let access = access(&address, named, tls.as_ref(), key.as_deref());
    let tls = tls.map(|(certificate, key)| certificate::tls(&certificate, &key)).transpose()?;
    let config = Config { address: address.clone(), port, hosts, web, history, cleaner, adapters, access, tls };
    let (server, port) = start(store.clone(), &config).map_err(|e| {
        Failure::Serve(format!("{address}:{port} cannot be listened on: {e}; choose another with --port"))
    })?;
    let handle = server.handle();
    let running = actix_web::rt::spawn(server);
    let _ = writeln!(
        std::io::stdout(),
        "Tick Sage is open at {scheme}://{address}:{port}{}  (Ctrl-C stops it)",
        key.map_or_else(String::new, |k| format!("/pair#{k}"))
    );
    let tending = tokio::spawn(tend(Arc::clone(&beside.cluster)));
    stopped().await?;
    tending.abort();
    handle.stop(true).await;
    let _ = running.await;
    if let Some(history) = beside.history.take() {
        history.stop(true).await;
    }
    store.close().await;
    drop(beside.cluster.lock().unwrap_or_else(PoisonError::into_inner).take());
    Ok(())
}
