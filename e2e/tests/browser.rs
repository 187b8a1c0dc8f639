//! Starts the application on a real database, and journeys through it in headless Chromium.
//!
//! Each journey is a script beside this folder, run by Node.js. A script that needs the database
//! stopped or started prints `@db stop` or `@db start` and reads one line back.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::io::{BufRead, BufReader, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::{Mutex, MutexGuard, PoisonError, TryLockError};

use ticksage_core::formats::base_sheets;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_store::Store;
use ticksage_store::cluster::{Cluster, Keep};

/// What journeys share: one database server, one application with the demo and one without, one browser.
/// Each journey finds the data as they were at first.
struct Stage {
    cluster: Cluster,
    _folder: tempfile::TempDir,
    _browser: Child,
    browser_address: String,
    demo: Served,
    empty: Served,
}

/// The application as it is served on a database of its own.
struct Served {
    url: String,
    address: String,
    /// Ends the program when its input closes.
    _shell: Child,
}

/// A journey waits for the screen a third of its time: two go at once, each on a stage of its own. Held for the whole
/// run; the browsers and the databases go with this process.
static STAGES: [Mutex<Option<Stage>>; 2] = [const { Mutex::new(None) }; 2];

/// Empties every table, but keeps what the migrations keep.
const EMPTY: &str = "DO $$ BEGIN EXECUTE (SELECT 'TRUNCATE ' || string_agg(format('%I', tablename), ', ') \
    FROM pg_tables WHERE schemaname = 'public' AND tablename NOT IN ('_sqlx_migrations', 'document_version')); END $$";

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

/// The program that people start, built beforehand.
fn program() -> PathBuf {
    let target = std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| root().join("target"), PathBuf::from);
    let program = target.join("release/ticksage");
    assert!(
        program.exists(),
        "the program is not built: run scripts/test.sh, or `cargo build --release --bin ticksage`"
    );
    program
}

/// Serves the application on a new database: with the demo and its stand-ins, or empty.
fn serve(cluster: &Cluster, database: &str) -> Served {
    let url = cluster.create_database(database).unwrap();
    // A shell ends the program when this process goes, however that ends.
    let mut command = Command::new("sh");
    command.args(["-c", "\"$@\" & program=$!; read -r _; kill -INT $program; wait $program", "sh"]).arg(program());
    // A name under which the browser finds it as another machine would.
    command.args(["serve", "--port", "0", "--host", "yard.example", "--web"]).arg(root().join("web/dist"));
    command.args(["--database-url", &url]);
    if database == "demo" {
        command.arg("--demo").arg(root().join("demo"));
    }
    let mut shell = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
    let mut said = String::new();
    BufReader::new(shell.stdout.take().unwrap()).read_line(&mut said).unwrap();
    let address = said.split_whitespace().find(|w| w.starts_with("http://")).unwrap_or_else(|| panic!("{said}"));
    Served { url, address: address.to_owned(), _shell: shell }
}

/// A reading that no clock shows, as no route would store it.
const BROKEN: &str = "WITH c AS (UPDATE candidates SET summary = NULL, evidence = evidence + 1 \
    WHERE body->>'title' = 'Long-haul Ferryman' RETURNING id) \
    INSERT INTO papers (id, candidate, body) SELECT gen_random_uuid(), c.id, \
    jsonb_set(p.body, '{paper,usage,value}', '9000000') FROM papers p JOIN c ON p.candidate = c.id \
    WHERE p.body->>'kind' = 'reading' LIMIT 1";

/// Changes the records behind the application's back.
fn run_sql(served: &Served, sql: &'static str) {
    actix_web::rt::System::new().block_on(async {
        let pool = sqlx::PgPool::connect(&served.url).await.unwrap();
        sqlx::raw_sql(sql).execute(&pool).await.unwrap();
        pool.close().await;
    });
}

/// Puts the data back as they were at first.
fn reset(served: &Served, demo: bool) {
    run_sql(served, EMPTY);
    actix_web::rt::System::new().block_on(async {
        let store = Store::open(&served.url).unwrap();
        if demo {
            load_demo(&store).await;
        }
        store.close().await;
    });
}

impl Stage {
    fn new() -> Self {
        let web = root().join("web/dist/index.html");
        assert!(web.exists(), "the web is not built: run scripts/test.sh, or `npm run build` in web/");
        let folder = tempfile::Builder::new().prefix("ticksage-e2e-").tempdir().unwrap();
        let cluster = Cluster::start(folder.path(), Keep::Briefly).unwrap();
        let (demo, empty) = (serve(&cluster, "demo"), serve(&cluster, "empty"));
        let mut browser = node("browser-server.mjs").spawn().expect("Node.js is installed");
        let mut address = String::new();
        BufReader::new(browser.stdout.take().unwrap()).read_line(&mut address).unwrap();
        let browser_address = address.trim().to_owned();
        assert!(browser_address.starts_with("ws://"), "Chromium does not start: {browser_address}");
        Self { cluster, _folder: folder, _browser: browser, browser_address, demo, empty }
    }

    /// Runs a journey to its end.
    fn run(&mut self, script: &str, args: &[&str]) {
        reset(&self.demo, true);
        reset(&self.empty, false);
        let mut child = node(script)
            .args([&self.demo.address, &self.empty.address])
            .args(args)
            .env("TICKSAGE_BROWSER", &self.browser_address)
            .spawn()
            .unwrap();
        let mut answer = child.stdin.take().unwrap();
        for line in BufReader::new(child.stdout.take().unwrap()).lines() {
            match line.unwrap().as_str() {
                "@db stop" => self.cluster.stop(),
                "@db start" => self.cluster.resume().unwrap(),
                "@db break" => run_sql(&self.demo, BROKEN),
                other => {
                    println!("{other}");
                    continue;
                }
            }
            writeln!(answer, "done").unwrap();
        }
        assert!(child.wait().unwrap().success(), "{script} {args:?} failed: see above");
    }
}

fn node(script: &str) -> Command {
    let mut command = Command::new("node");
    command.arg(root().join("e2e").join(script)).stdin(Stdio::piped()).stdout(Stdio::piped());
    command
}

/// A stage that nobody plays on, or the first as soon as it is free.
fn free_stage() -> MutexGuard<'static, Option<Stage>> {
    let free = |stage: &'static Mutex<Option<Stage>>| match stage.try_lock() {
        Ok(held) => Some(held),
        Err(TryLockError::Poisoned(held)) => Some(held.into_inner()),
        Err(TryLockError::WouldBlock) => None,
    };
    STAGES.iter().find_map(free).unwrap_or_else(|| STAGES[0].lock().unwrap_or_else(PoisonError::into_inner))
}

/// Runs a journey on a stage, which its first one sets.
fn journey(script: &str, args: &[&str]) {
    let mut held = free_stage();
    let stage = held.get_or_insert_with(Stage::new);
    let started = std::time::Instant::now();
    stage.run(script, args);
    println!("{script} {args:?} took {:.0} s", started.elapsed().as_secs_f64());
}

const LAPTOP: [&str; 2] = ["1280", "800"];
const PHONE: [&str; 2] = ["390", "844"];

#[test]
fn from_advert_to_verdict_on_a_laptop() {
    journey("journey.mjs", &LAPTOP);
}

#[test]
fn from_advert_to_verdict_on_a_phone() {
    journey("journey.mjs", &PHONE);
}

#[test]
fn the_first_real_candidate_on_a_laptop() {
    journey("start.mjs", &LAPTOP);
}

#[test]
fn the_first_real_candidate_on_a_phone() {
    journey("start.mjs", &PHONE);
}

#[test]
fn what_a_sheet_says_in_words_on_a_laptop() {
    journey("said.mjs", &LAPTOP);
}

#[test]
fn what_a_sheet_says_in_words_on_a_phone() {
    journey("said.mjs", &PHONE);
}

#[test]
fn a_vehicle_without_a_sheet_by_keyboard() {
    journey("built.mjs", &LAPTOP);
}

#[test]
fn a_vehicle_without_a_sheet_by_touch() {
    journey("built.mjs", &PHONE);
}

#[test]
fn talk_is_written_into_a_sheet_on_a_laptop() {
    journey("talk.mjs", &LAPTOP);
}

#[test]
fn talk_is_written_into_a_sheet_on_a_phone() {
    journey("talk.mjs", &PHONE);
}

#[test]
fn a_broken_document_is_mended_on_a_laptop() {
    journey("mend.mjs", &LAPTOP);
}

#[test]
fn a_broken_document_is_mended_on_a_phone() {
    journey("mend.mjs", &PHONE);
}

#[test]
fn pairing_links_and_a_copy_on_a_laptop() {
    journey("devices.mjs", &LAPTOP);
}

#[test]
fn pairing_links_and_a_copy_on_a_phone() {
    journey("devices.mjs", &PHONE);
}

#[test]
fn the_road_ahead_in_full_on_a_laptop() {
    journey("road.mjs", &LAPTOP);
}

#[test]
fn the_road_ahead_in_full_on_a_phone() {
    journey("road.mjs", &PHONE);
}

#[test]
fn the_walk_round_as_planned_on_a_laptop() {
    journey("walk.mjs", &LAPTOP);
}

#[test]
fn the_walk_round_as_planned_on_a_phone() {
    journey("walk.mjs", &PHONE);
}

#[test]
fn the_bill_as_it_may_turn_out_on_a_laptop() {
    journey("bill.mjs", &LAPTOP);
}

#[test]
fn the_bill_as_it_may_turn_out_on_a_phone() {
    journey("bill.mjs", &PHONE);
}

#[test]
fn the_whole_walk_round_on_a_phone_whose_connection_is_cut_and_by_two_people() {
    journey("round.mjs", &[]);
}

#[test]
fn codes_are_read_however_the_link_behaves_and_the_walk_round_by_keyboard() {
    journey("scan.mjs", &[]);
}

#[test]
fn a_sheet_corrected_published_and_compared_on_a_laptop() {
    journey("sheets.mjs", &LAPTOP);
}

#[test]
fn a_sheet_corrected_published_and_compared_on_a_phone() {
    journey("sheets.mjs", &PHONE);
}

#[test]
fn sixty_adverts_to_three_in_the_yard_on_a_laptop() {
    journey("adverts.mjs", &LAPTOP);
}

#[test]
fn sixty_adverts_to_three_in_the_yard_on_a_phone() {
    journey("adverts.mjs", &PHONE);
}

#[test]
fn the_papers_on_a_laptop() {
    journey("papers.mjs", &LAPTOP);
}

#[test]
fn the_papers_on_a_phone() {
    journey("papers.mjs", &PHONE);
}

#[test]
fn from_offer_to_calendar_on_a_laptop() {
    journey("decide.mjs", &LAPTOP);
}

#[test]
fn from_offer_to_calendar_on_a_phone() {
    journey("decide.mjs", &PHONE);
}

#[test]
fn no_screen_breaks_the_rules_of_access_in_either_theme() {
    journey("access.mjs", &[]);
}

#[test]
fn nothing_entered_is_lost() {
    journey("trouble.mjs", &[]);
}

#[test]
fn the_keyboard_reaches_everything() {
    journey("keyboard.mjs", &[]);
}

#[test]
fn another_sites_page_changes_nothing_and_reads_nothing() {
    journey("foreign.mjs", &[]);
}

/// Formatting, reading of numbers and the queue of what waits to be sent: run by Node's own test runner.
#[test]
fn the_pure_functions_of_the_web() {
    let status = Command::new("node").arg(root().join("web/tests/run.mjs")).stdin(Stdio::null()).status().unwrap();
    assert!(status.success(), "see above");
}
