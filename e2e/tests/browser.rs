//! Starts the application on a real database, and journeys through it in headless Chromium.
//!
//! Each journey is a script beside this folder, run by Node.js. A script that needs the database
//! stopped or started prints `@db stop` or `@db start` and reads one line back.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::io::{BufRead, BufReader, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::sync::{Mutex, MutexGuard, mpsc};

use ticksage_core::formats::base_sheets;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_server::history_service::{HistoryService, read_reports, start_simulated};
use ticksage_server::scan_session::{Adapter, Adapters};
use ticksage_server::{Config, adapter, start};
use ticksage_store::Store;
use ticksage_store::cluster::{Cluster, Keep};

/// Two cores: one browser at a time.
static ONE_AT_A_TIME: Mutex<()> = Mutex::new(());

struct Stage {
    cluster: Cluster,
    _folder: tempfile::TempDir,
    _turn: MutexGuard<'static, ()>,
    handles: Vec<actix_web::dev::ServerHandle>,
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

fn json_files(folder: &Path) -> Vec<String> {
    let mut files: Vec<PathBuf> = std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).collect();
    files.sort();
    files.into_iter().map(|f| std::fs::read_to_string(f).unwrap()).collect()
}

async fn load_demo(store: &Store) {
    for sheet in base_sheets::sheets().unwrap() {
        store.put_family(&sheet).await.unwrap();
    }
    for text in json_files(&root().join("demo/families")) {
        store.put_family(&read_family(&text).unwrap()).await.unwrap();
    }
    for text in json_files(&root().join("demo/candidates")) {
        store.create_candidate(&read_candidate(&text).unwrap()).await.unwrap();
    }
}

impl Stage {
    fn new() -> Self {
        let web = root().join("web/dist/index.html");
        assert!(web.exists(), "the web is not built: run scripts/test.sh, or `npm run build` in web/");
        let turn = ONE_AT_A_TIME.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let folder = tempfile::Builder::new().prefix("ticksage-e2e-").tempdir().unwrap();
        let cluster = Cluster::start(folder.path(), Keep::Briefly).unwrap();
        Self { cluster, _folder: folder, _turn: turn, handles: Vec::new() }
    }

    /// Serves the application on a database of its own; its address.
    fn serve(&mut self, database: &str, demo: bool) -> String {
        let url = self.cluster.create_database(database).unwrap();
        let (tell, told) = mpsc::channel();
        std::thread::spawn(move || {
            actix_web::rt::System::new().block_on(async move {
                let store = Store::open(&url).unwrap();
                store.migrate().await.unwrap();
                if demo {
                    load_demo(&store).await;
                }
                let reports = read_reports(&root().join("demo/history")).unwrap();
                let (service, service_port) = start_simulated(reports, 0).unwrap();
                actix_web::rt::spawn(service);
                let history = HistoryService { url: Some(format!("http://127.0.0.1:{service_port}")), patience: None };
                let (mut adapters, mut plugged) = (Adapters::default(), Vec::new());
                for scenario in adapter::read_scenarios(&root().join("demo/scans")).unwrap() {
                    let (name, suits) = (scenario.name.clone(), Some(scenario.suits.clone()));
                    let running = adapter::start(scenario, 0).await.unwrap();
                    adapters.list.push(Adapter { name, address: running.address, simulated: true, suits });
                    plugged.push(running);
                }
                let web = Some(root().join("web/dist"));
                let config = Config { address: "127.0.0.1".to_owned(), port: 0, web, history, adapters };
                let (server, port) = start(store, &config).unwrap();
                tell.send((server.handle(), port)).unwrap();
                server.await.unwrap();
            });
        });
        let (handle, port) = told.recv().unwrap();
        self.handles.push(handle);
        format!("http://127.0.0.1:{port}")
    }

    /// Runs a journey to its end.
    fn run(mut self, script: &str, args: &[&str]) {
        let mut child = Command::new("node")
            .arg(root().join("e2e").join(script))
            .args(args)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .expect("Node.js is installed");
        let mut answer = child.stdin.take().unwrap();
        for line in BufReader::new(child.stdout.take().unwrap()).lines() {
            match line.unwrap().as_str() {
                "@db stop" => self.cluster.stop(),
                "@db start" => self.cluster.resume().unwrap(),
                other => {
                    println!("{other}");
                    continue;
                }
            }
            writeln!(answer, "done").unwrap();
        }
        assert!(child.wait().unwrap().success(), "{script} {args:?} failed: see above");
        for handle in &self.handles {
            drop(handle.stop(false));
        }
    }
}

fn journey(width: &str, height: &str) {
    let mut stage = Stage::new();
    let (demo, empty) = (stage.serve("demo", true), stage.serve("empty", false));
    stage.run("journey.mjs", &[&demo, &empty, width, height]);
}

#[test]
fn from_advert_to_verdict_on_a_laptop() {
    journey("1280", "800");
}

#[test]
fn from_advert_to_verdict_on_a_phone() {
    journey("390", "844");
}

fn road(width: &str, height: &str) {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("road.mjs", &[&demo, width, height]);
}

#[test]
fn the_road_ahead_in_full_on_a_laptop() {
    road("1280", "800");
}

#[test]
fn the_road_ahead_in_full_on_a_phone() {
    road("390", "844");
}

fn walk(width: &str, height: &str) {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("walk.mjs", &[&demo, width, height]);
}

#[test]
fn the_walk_round_as_planned_on_a_laptop() {
    walk("1280", "800");
}

#[test]
fn the_walk_round_as_planned_on_a_phone() {
    walk("390", "844");
}

fn bill(width: &str, height: &str) {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("bill.mjs", &[&demo, width, height]);
}

#[test]
fn the_bill_as_it_may_turn_out_on_a_laptop() {
    bill("1280", "800");
}

#[test]
fn the_bill_as_it_may_turn_out_on_a_phone() {
    bill("390", "844");
}

#[test]
fn the_whole_walk_round_on_a_phone_whose_connection_is_cut_and_by_two_people() {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("round.mjs", &[&demo]);
}

#[test]
fn codes_are_read_however_the_link_behaves_and_the_walk_round_by_keyboard() {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("scan.mjs", &[&demo]);
}

fn papers(width: &str, height: &str) {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("papers.mjs", &[&demo, width, height]);
}

#[test]
fn the_papers_on_a_laptop() {
    papers("1280", "800");
}

#[test]
fn the_papers_on_a_phone() {
    papers("390", "844");
}

fn decide(width: &str, height: &str) {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("decide.mjs", &[&demo, width, height]);
}

#[test]
fn from_offer_to_calendar_on_a_laptop() {
    decide("1280", "800");
}

#[test]
fn from_offer_to_calendar_on_a_phone() {
    decide("390", "844");
}

#[test]
fn no_screen_breaks_the_rules_of_access_in_either_theme() {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    let empty = stage.serve("empty", false);
    stage.run("access.mjs", &[&demo, &empty]);
}

#[test]
fn nothing_entered_is_lost() {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("trouble.mjs", &[&demo]);
}

#[test]
fn the_keyboard_reaches_everything() {
    let mut stage = Stage::new();
    let demo = stage.serve("demo", true);
    stage.run("keyboard.mjs", &[&demo]);
}
