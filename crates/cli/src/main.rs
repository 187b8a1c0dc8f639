//! The `ticksage` program: serve, assess, import, export, and what the project publishes.

mod certificate;
mod failure;
mod files;
mod lines;
mod screen;
mod serve;
mod talk;
mod verify;

use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::{Parser, Subcommand};
use serde_json::Value;
use ticksage_core::documents::candidate::BundleFormat;
use ticksage_core::documents::history_report::HistoryReport;
use ticksage_core::documents::pattern::{Pattern, Questions};
use ticksage_core::formats::{documents, schema};
use ticksage_core::inference::depth::Depth;
use ticksage_core::validation::telling::family_notices;
use ticksage_core::{AssessError, Assumptions, Bundle, Candidate, Family, assess};
use ticksage_server::cleaner::REFUSED;
use ticksage_server::sanitize::{self, ATTACHMENT_LIMIT};
use ticksage_store::Store;
use ticksage_store::backup::Manifest;
use ticksage_store::families::Put;
use utoipa::OpenApi;

use crate::failure::Failure;
use crate::files::{base_sheets, read, read_families, refused};
use crate::serve::{Serving, adapter_service, data_folder, history_service, real_adapter, serve, with_store};

/// A judgement makes and drops some hundred thousand small things: with the C library's heap a quarter of its time.
#[global_allocator]
static HEAP: mimalloc::MiMalloc = mimalloc::MiMalloc;

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
        /// Another name under which browsers reach it, such as yard.example; may be given several times.
        #[arg(long = "host", value_name = "NAME")]
        hosts: Vec<String>,
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
        /// Certificate to speak TLS with, as `ticksage certificate` makes one.
        #[arg(long, requires = "tls_key")]
        tls_cert: Option<PathBuf>,
        /// Key of that certificate.
        #[arg(long, requires = "tls_cert")]
        tls_key: Option<PathBuf>,
        /// Be open to the network without TLS: everybody on it can read along.
        #[arg(long)]
        plain: bool,
        /// Let nobody in without a session, not even the accounts of this machine; an address with a key is printed.
        #[arg(long)]
        key: bool,
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
        /// With `--lines`: leave out what costs most, each source's own view of every point and the steps of
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
    /// Make a certificate for the names under which phones reach this machine, signed by the yard's own authority.
    Certificate {
        /// Names and addresses, such as yard.example or 192.168.4.7.
        #[arg(required = true)]
        names: Vec<String>,
        /// Folder of the private database; the certificate lies in its folder `tls`.
        #[arg(long)]
        data: Option<PathBuf>,
    },
    /// Confirm an issued report: that nothing of it was changed since, and that its figures follow from its sheets.
    Verify {
        /// The report's file.
        file: PathBuf,
        /// The fingerprint as it is printed on paper; without it the one in the file is held to its content.
        #[arg(long)]
        fingerprint: Option<String>,
    },
    /// Say what is wrong with family sheets, and what makes sense in them and is odd all the same.
    Validate {
        /// The sheets.
        #[arg(required = true)]
        files: Vec<PathBuf>,
    },
    /// Judge a list of adverts, one a line as copied from anywhere, and print a table, the best first.
    Screen(screen::Asked),
    /// Read talk, lines of what people say of a family, and print what was understood; with `--sheet` and `--out` write
    /// it into a sheet.
    Talk(talk::Asked),
    /// Write the whole yard, photos included, into one file; the application may run meanwhile.
    Backup {
        /// The file; it must not be there yet.
        file: PathBuf,
        #[command(flatten)]
        records: Records,
    },
    /// Put a backup into an empty yard, all of it or nothing.
    Restore {
        /// The file.
        file: PathBuf,
        #[command(flatten)]
        records: Records,
    },
    /// Clean a file from standard input: its media type on the first line, then the file. The application starts
    /// this for every file that comes in, so that a broken one breaks nothing else.
    Clean {
        /// The file's name.
        name: String,
    },
    /// Write the published JSON Schemas and the OpenAPI document into a folder.
    Publish {
        /// The folder, usually `docs`.
        folder: PathBuf,
    },
}

/// Where the records are.
#[derive(Debug, clap::Args)]
struct Records {
    /// Database to use.
    #[arg(long, env = "DATABASE_URL")]
    database_url: Option<String>,
    /// Folder of the private database.
    #[arg(long)]
    data: Option<PathBuf>,
}

#[actix_web::main]
async fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_env_filter(
            tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "warn,ticksage=info".into()),
        )
        .with_writer(std::io::stderr)
        .init();
    let args = Args::parse();
    if let Command::Clean { name } = &args.command {
        return clean(name);
    }
    match run(args).await {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            let _ = writeln!(std::io::stderr(), "ticksage: {e}");
            ExitCode::FAILURE
        }
    }
}

fn certify(names: &[String], data: Option<PathBuf>) -> Result<(), Failure> {
    let folder = data.unwrap_or_else(data_folder).join("tls");
    let made = certificate::make(&folder, names, jiff::ZonedDateTime::now().date())?;
    let hosts: String = names.iter().map(|n| format!(" --host {n}")).collect();
    let trust = if made.new_authority {
        "Phones must trust its authority once"
    } else {
        "Its authority is the one that phones trust already"
    };
    let _ = writeln!(
        std::io::stdout(),
        "A certificate for {} is in {}, good until {}.\n{trust}: {}\nServe with it:\n  ticksage serve --address 0.0.0.0{hosts} --tls-cert {} --tls-key {}",
        names.join(", "),
        made.certificate.display(),
        made.until,
        made.authority.display(),
        made.certificate.display(),
        made.key.display()
    );
    Ok(())
}

/// Reads sheets; what is odd in one is told on standard output, what is wrong ends the program.
fn validate(files: &[PathBuf]) -> Result<(), Failure> {
    let mut out = std::io::stdout().lock();
    let bases = base_sheets()?;
    for file in files {
        let family = documents::read_family(&read(file)?).map_err(refused(file))?;
        let notices = family_notices(&family, &bases);
        let odd = if notices.is_empty() { String::new() } else { format!(", {} odd", notices.len()) };
        let _ = writeln!(out, "{}: {} version {} makes sense{odd}", file.display(), family.name, family.version);
        for n in notices {
            let _ = writeln!(out, "  {}: {}", n.path, n.message);
        }
    }
    Ok(())
}

/// Writes the yard into a file that was not there.
async fn backup(file: &Path, records: Records) -> Result<(), Failure> {
    let named = |e| Failure::File(file.display().to_string(), e);
    let out = std::fs::File::create_new(file).map_err(named)?;
    let made = with_store(records.database_url, records.data, async |store| store.backup(out).await).await;
    match made {
        Ok(held) => {
            tell(&held, &format!("written to {}", file.display()));
            Ok(())
        }
        Err(e) => {
            // Half a backup is none.
            _ = std::fs::remove_file(file);
            Err(e)
        }
    }
}

async fn restore(file: &Path, records: Records) -> Result<(), Failure> {
    let from = std::fs::File::open(file).map_err(|e| Failure::File(file.display().to_string(), e))?;
    let held = with_store(records.database_url, records.data, async |store| store.restore(from).await).await?;
    tell(&held, "put back");
    Ok(())
}

fn tell(held: &Manifest, done: &str) {
    let count = |table| held.rows(table);
    let _ = writeln!(
        std::io::stdout(),
        "{} candidates, {} papers, {} findings and {} photos and documents {done}",
        count("candidates"),
        count("papers"),
        count("findings"),
        count("attachments")
    );
}

async fn run(args: Args) -> Result<(), Failure> {
    match args.command {
        Command::Serve {
            address,
            port,
            hosts,
            web,
            demo,
            database_url,
            data,
            history,
            adapter,
            adapter_elsewhere,
            tls_cert,
            tls_key,
            plain,
            key,
        } => {
            let adapter = adapter.map(|at| real_adapter(&at, adapter_elsewhere)).transpose()?;
            let tls = tls_cert.zip(tls_key);
            serve(Serving { address, port, hosts, web, demo, database_url, data, history, adapter, tls, plain, key })
                .await
        }
        Command::AdapterService { scenario, port } => adapter_service(&scenario, port).await,
        Command::HistoryService { reports, port } => history_service(&reports, port).await,
        Command::Assess { families, lines: true, lean, .. } => {
            let depth = if lean { Depth::Lean } else { Depth::Sources };
            lines::assess_lines(&read_families(&families)?, depth)
        }
        Command::Assess { families, candidate, bundle, .. } => {
            let bundle = gather(&families, candidate.as_deref(), bundle.as_deref())?;
            let table = Assumptions::default();
            let result = assess(&bundle.candidate, &bundle.families, &table).map_err(|e| match e {
                AssessError::Faults(faults) => Failure::Faults { file: "the candidate".to_owned(), faults },
                e @ (AssessError::Curve(_) | AssessError::Overrun(_)) => Failure::Assess(e),
            })?;
            print(&result)
        }
        Command::Certificate { names, data } => certify(&names, data),
        Command::Verify { file, fingerprint } => verify::verify(&file, fingerprint.as_deref()),
        Command::Screen(asked) => screen::screen(&asked),
        Command::Talk(asked) => talk::talk(&asked),
        Command::Validate { files } => validate(&files),
        Command::Backup { file, records } => backup(&file, records).await,
        Command::Restore { file, records } => restore(&file, records).await,
        Command::Import { file, database_url } => {
            let store = Store::open(&database_url)?;
            store.migrate().await?;
            import(&store, &file).await
        }
        Command::Export { id, database_url } => {
            let store = Store::open(&database_url)?;
            let (record, families) = store.with_families(id).await?;
            print(&Bundle { format: BundleFormat::V2, candidate: record.candidate, families: families.to_vec() })
        }
        Command::Publish { folder } => publish(&folder),
        // Answered before anything is started.
        Command::Clean { .. } => Ok(()),
    }
}

/// Cleans a file from standard input, as [`ticksage_server::cleaner`] asks for it.
fn clean(name: &str) -> ExitCode {
    let mut bytes = Vec::new();
    let cleaned = match std::io::stdin().take(ATTACHMENT_LIMIT as u64 + 1).read_to_end(&mut bytes) {
        Ok(_) => sanitize::clean(name, &bytes),
        Err(e) => Err(format!("the file cannot be read: {e}")),
    };
    match cleaned {
        Ok(file) => {
            let mut out = std::io::stdout().lock();
            let written = writeln!(out, "{}", file.media).and_then(|()| out.write_all(&file.bytes));
            if written.is_ok() { ExitCode::SUCCESS } else { ExitCode::FAILURE }
        }
        Err(why) => {
            let _ = writeln!(std::io::stderr(), "{why}");
            ExitCode::from(REFUSED)
        }
    }
}

fn print(value: &impl serde::Serialize) -> Result<(), Failure> {
    let mut out = std::io::stdout().lock();
    serde_json::to_writer_pretty(&mut out, value)?;
    writeln!(out).map_err(|e| Failure::File("standard output".to_owned(), e))
}

fn gather(families: &[PathBuf], candidate: Option<&Path>, bundle: Option<&Path>) -> Result<Bundle, Failure> {
    if let Some(file) = bundle {
        return documents::read_bundle(&read(file)?).map_err(refused(file));
    }
    let file = candidate.unwrap_or(Path::new("-"));
    let candidate: Candidate = documents::read_candidate(&read(file)?).map_err(refused(file))?;
    let families = read_families(families)?;
    Ok(Bundle { format: BundleFormat::V2, candidate, families })
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
    write("schema/pattern.schema.json", &schema::schema::<Pattern>())?;
    write("schema/questions.schema.json", &schema::schema::<Questions>())?;
    write("schema/history.schema.json", &schema::schema::<HistoryReport>())?;
    write("openapi.json", &serde_json::to_value(ticksage_server::Api::openapi())?)
}
