//! A private PostgreSQL cluster on loopback, made from Debian's packages.
//!
//! The server is run by a small shell that waits for its own standard input to close, so it goes
//! when this process goes, however that ends. As root it runs as the `postgres` user.
//!
//! Other accounts of the machine stay out: on loopback only the role of the application is let in, by a password
//! that lies in a file of mode 0600 and with no right beyond its own databases. The superuser comes in through a
//! Unix socket alone, in a folder of mode 0700.

use std::fs::{File, TryLockError};
use std::io::{self, Read, Write};
use std::net::TcpListener;
use std::os::unix::fs::{DirBuilderExt, OpenOptionsExt};
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

/// Why the cluster could not be started.
#[derive(Debug, thiserror::Error)]
pub enum ClusterError {
    /// PostgreSQL is not installed.
    #[error("PostgreSQL is not installed: install Debian's package \"postgresql\" and start again")]
    NotInstalled,
    /// A file or process could not be handled.
    #[error("{what}: {source}")]
    Io {
        /// What was being done.
        what: String,
        /// What went wrong.
        source: io::Error,
    },
    /// A PostgreSQL program failed.
    #[error("{program} failed: {output}")]
    Failed {
        /// Which.
        program: &'static str,
        /// What it printed.
        output: String,
    },
    /// The data were made by a version that is not installed.
    #[error(
        "the records in {folder} were made by PostgreSQL {needed}, and {found} is installed: install Debian's package \
         \"postgresql-{needed}\" beside it (it may stay for good), or restore a backup into a new folder with --data"
    )]
    WrongVersion {
        /// Where the data lie.
        folder: String,
        /// Version of the data.
        needed: String,
        /// What is installed.
        found: String,
    },
    /// Another process of this program serves the folder.
    #[error(
        "another Tick Sage serves the records in {0} already: open that one, stop it first, or choose another folder with --data"
    )]
    InUse(String),
    /// It did not answer in time.
    #[error("PostgreSQL did not answer within {0} s; see {1}")]
    NoAnswer(u64, String),
}

fn io_error(what: impl Into<String>) -> impl FnOnce(io::Error) -> ClusterError {
    let what = what.into();
    |source| ClusterError::Io { what, source }
}

/// How a cluster keeps its data.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Keep {
    /// For good: safe against loss of power.
    Safely,
    /// For a test: fast, and lost with the folder.
    Briefly,
}

impl Keep {
    /// What a new cluster's log takes on the disk: a test's as little as it may.
    fn sizes(self) -> &'static [&'static str] {
        match self {
            Self::Safely => &[],
            Self::Briefly => &["--wal-segsize=1"],
        }
    }

    /// How the server writes, and what the shell does when the server has stopped: a test's records go with the
    /// process that made them, even where nothing dropped them.
    fn way(self, data: &Path) -> (&'static str, String) {
        match self {
            Self::Safely => ("-c fsync=on", String::new()),
            Self::Briefly => (
                "-c fsync=off -c min_wal_size=2MB -c max_wal_size=16MB",
                format!("; [ -d /proc/{} ] || rm -rf '{}'", std::process::id(), data.display()),
            ),
        }
    }
}

/// A running cluster; stops when dropped.
#[derive(Debug)]
pub struct Cluster {
    data: PathBuf,
    port: u16,
    keep: Keep,
    password: String,
    /// Where the superuser's socket is while the server runs.
    socket: Option<PathBuf>,
    process: Option<Child>,
    /// The programs of the version that made the data.
    programs: PathBuf,
    /// Held for as long as this process uses the folder.
    _lock: File,
}

/// The superuser, who makes databases and roles; comes in through the socket alone.
const SUPERUSER: &str = "ticksage";

/// The role of the application.
const ROLE: &str = "ticksage_app";

/// Who is let in, and how: read by the server when it starts.
const LET_IN: &str = "# Written by Tick Sage at every start.\n\
    local all ticksage trust\n\
    host all ticksage_app 127.0.0.1/32 scram-sha-256\n";

/// Gives what an earlier version of the program left with the superuser to the application's role.
const HAND_OVER: &str = "DO $$ DECLARE t text; BEGIN
    FOR t IN SELECT tablename FROM pg_tables WHERE schemaname = 'public' AND tableowner <> 'ticksage_app' LOOP
        EXECUTE format('ALTER TABLE public.%I OWNER TO ticksage_app', t);
    END LOOP; END $$;
    GRANT ALL ON SCHEMA public TO ticksage_app;";

const WAIT: Duration = Duration::from_secs(60);

impl Cluster {
    /// Starts the cluster in a folder on a free port, making it first where there is none.
    ///
    /// # Errors
    /// [`ClusterError`] says what to do.
    pub fn start(folder: &Path, keep: Keep) -> Result<Self, ClusterError> {
        let data = folder.join("data");
        std::fs::create_dir_all(folder).map_err(io_error(format!("making {}", folder.display())))?;
        let lock = lock(folder)?;
        let programs = programs_for(&data)?;
        if is_root() {
            run("chown", Command::new("chown").arg("postgres").arg(folder))?;
        }
        if !data.join("PG_VERSION").exists() {
            run(
                "initdb",
                as_server_user(&programs.join("initdb"))
                    .args(["--username", SUPERUSER, "--auth-local=trust", "--auth-host=scram-sha-256"])
                    .args(["--encoding=UTF8", "--locale=C.UTF-8", "--no-sync"])
                    .args(keep.sizes())
                    .arg(&data),
            )?;
        }
        std::fs::write(data.join("pg_hba.conf"), LET_IN).map_err(io_error("writing who is let in"))?;
        let password = password(&folder.join("password"))?;
        let port = TcpListener::bind(("127.0.0.1", 0))
            .and_then(|l| l.local_addr())
            .map_err(io_error("finding a free port"))?
            .port();
        let mut cluster = Self { data, port, keep, password, socket: None, process: None, programs, _lock: lock };
        cluster.resume()?;
        cluster.sql(
            "postgres",
            &format!(
                "DO $$ BEGIN IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '{ROLE}') THEN CREATE ROLE {ROLE}; END IF; END $$;
                 SET password_encryption = 'scram-sha-256';
                 ALTER ROLE {ROLE} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION PASSWORD '{}';",
                cluster.password
            ),
        )?;
        Ok(cluster)
    }

    /// The URL of a database in it, with the password: not for a log.
    #[must_use]
    pub fn url(&self, database: &str) -> String {
        format!("postgres://{ROLE}:{}@{}/{database}", self.password, self.address())
    }

    /// Where it listens.
    #[must_use]
    pub fn address(&self) -> String {
        format!("127.0.0.1:{}", self.port)
    }

    /// The folder of the superuser's socket, while it runs.
    #[must_use]
    pub fn socket_folder(&self) -> Option<&Path> {
        self.socket.as_deref()
    }

    /// Makes a database of the application's role unless it is there.
    ///
    /// # Errors
    /// [`ClusterError::Failed`] with what PostgreSQL said.
    pub fn create_database(&self, name: &str) -> Result<String, ClusterError> {
        let there = self.sql("postgres", &format!("SELECT 1 FROM pg_database WHERE datname = '{name}';"))?;
        if there.trim() == "1" {
            self.sql("postgres", &format!("ALTER DATABASE \"{name}\" OWNER TO {ROLE};"))?;
        } else {
            self.sql("postgres", &format!("CREATE DATABASE \"{name}\" OWNER {ROLE};"))?;
        }
        self.sql(name, HAND_OVER)?;
        Ok(self.url(name))
    }

    /// Runs SQL as the superuser, through the socket; what is run is never seen in the list of processes.
    fn sql(&self, database: &str, text: &str) -> Result<String, ClusterError> {
        let socket = self.socket.clone().unwrap_or_default();
        let mut psql = as_server_user(&self.programs.join("psql"));
        psql.arg("-h").arg(socket).args(["-p", &self.port.to_string(), "-U", SUPERUSER, "-d", database]);
        psql.args(["-qtAX", "-v", "ON_ERROR_STOP=1", "-f", "-"]);
        run_with("psql", &mut psql, text)
    }

    /// Stops the server; the data stay, and [`Self::resume`] brings it back on the same port.
    pub fn stop(&mut self) {
        if let Some(mut child) = self.process.take() {
            drop(child.stdin.take());
            let _ = child.wait();
        }
        if let Some(socket) = self.socket.take() {
            let _ = std::fs::remove_dir_all(socket);
        }
    }

    /// Starts the server again where it died: whoever keeps the records looks in from time to time. Whether it
    /// had died.
    ///
    /// # Errors
    /// [`ClusterError`] when it does not come up.
    pub fn tend(&mut self) -> Result<bool, ClusterError> {
        if self.process.is_none() || server_alive(&self.data) {
            return Ok(false);
        }
        self.stop();
        self.resume()?;
        Ok(true)
    }

    /// The URL of a database of a cluster that another process serves from this folder; none where it does not
    /// run.
    #[must_use]
    pub fn url_of_running(folder: &Path, database: &str) -> Option<String> {
        let data = folder.join("data");
        if !server_alive(&data) {
            return None;
        }
        // The fourth line is the port.
        let port = std::fs::read_to_string(data.join("postmaster.pid")).ok()?.lines().nth(3)?.trim().to_owned();
        let password = std::fs::read_to_string(folder.join("password")).ok()?;
        Some(format!("postgres://{ROLE}:{}@127.0.0.1:{port}/{database}", password.trim()))
    }

    /// Starts the server again on the same port.
    ///
    /// # Errors
    /// [`ClusterError`] when it does not come up.
    pub fn resume(&mut self) -> Result<(), ClusterError> {
        let log = self.data.with_file_name("server.log");
        let (writes, afterwards) = self.keep.way(&self.data);
        let server = self.programs.join("postgres");
        let socket = socket_folder()?;
        self.socket = Some(socket.clone());
        let script = format!(
            "'{}' -D '{}' -p {} -c listen_addresses=127.0.0.1 -c unix_socket_directories='{}' -c unix_socket_permissions=0700 {writes} \
             >> '{}' 2>&1 & pid=$!; read -r _; kill -INT $pid 2>/dev/null; wait $pid; \
             rmdir '{}' 2>/dev/null{afterwards}",
            server.display(),
            self.data.display(),
            self.port,
            socket.display(),
            log.display(),
            socket.display()
        );
        let mut command = if is_root() {
            let mut c = Command::new("runuser");
            c.args(["-u", "postgres", "--", "sh", "-c", &script]);
            c
        } else {
            let mut c = Command::new("sh");
            c.args(["-c", &script]);
            c
        };
        // Its own process group: Ctrl-C reaches this program first, which then stops it in order.
        let child = command
            .current_dir("/")
            .stdin(Stdio::piped())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .process_group(0)
            .spawn()
            .map_err(io_error("starting PostgreSQL"))?;
        self.process = Some(child);
        let ready = self.programs.join("pg_isready");
        let started = Instant::now();
        loop {
            let answered = Command::new(&ready)
                .args(["-q", "-h", "127.0.0.1", "-p", &self.port.to_string()])
                .status()
                .is_ok_and(|s| s.success());
            if answered {
                return Ok(());
            }
            if started.elapsed() > WAIT {
                self.stop();
                return Err(ClusterError::NoAnswer(WAIT.as_secs(), log.display().to_string()));
            }
            std::thread::sleep(Duration::from_millis(50));
        }
    }
}

impl Drop for Cluster {
    fn drop(&mut self) {
        self.stop();
    }
}

/// The password of the application's role: made once, in a file that nobody else reads.
fn password(file: &Path) -> Result<String, ClusterError> {
    let what = || format!("the password in {}", file.display());
    if let Ok(kept) = std::fs::read_to_string(file)
        && kept.trim().len() >= 32
    {
        return Ok(kept.trim().to_owned());
    }
    let mut random = [0_u8; 24];
    File::open("/dev/urandom").and_then(|mut f| f.read_exact(&mut random)).map_err(io_error(what()))?;
    let made: String = random.iter().map(|b| format!("{b:02x}")).collect();
    let mut out = std::fs::OpenOptions::new()
        .write(true)
        .create(true)
        .truncate(true)
        .mode(0o600)
        .open(file)
        .map_err(io_error(what()))?;
    out.write_all(made.as_bytes()).map_err(io_error(what()))?;
    Ok(made)
}

/// A new folder of mode 0700 for the superuser's socket, with a short path: sockets take no longer one.
fn socket_folder() -> Result<PathBuf, ClusterError> {
    for n in 0..1_000 {
        let folder = PathBuf::from(format!("/tmp/ticksage-{}-{n}", std::process::id()));
        match std::fs::DirBuilder::new().mode(0o700).create(&folder) {
            Ok(()) => {
                if is_root() {
                    run("chown", Command::new("chown").arg("postgres").arg(&folder))?;
                }
                return Ok(folder);
            }
            Err(e) if e.kind() == io::ErrorKind::AlreadyExists => {}
            Err(e) => return Err(io_error(format!("making {}", folder.display()))(e)),
        }
    }
    Err(io_error("making a folder for the database's socket")(io::ErrorKind::AlreadyExists.into()))
}

fn is_root() -> bool {
    Command::new("id").arg("-u").output().is_ok_and(|o| o.stdout.trim_ascii() == b"0")
}

/// Takes a folder for this process; it is let go when the file is closed, however that comes.
fn lock(folder: &Path) -> Result<File, ClusterError> {
    let path = folder.join("lock");
    let file = std::fs::OpenOptions::new()
        .write(true)
        .create(true)
        .truncate(false)
        .mode(0o600)
        .open(&path)
        .map_err(io_error(format!("opening {}", path.display())))?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(ClusterError::InUse(folder.display().to_string())),
        Err(TryLockError::Error(e)) => Err(io_error(format!("locking {}", path.display()))(e)),
    }
}

/// Whether the server of these data runs.
fn server_alive(data: &Path) -> bool {
    let noted = std::fs::read_to_string(data.join("postmaster.pid")).unwrap_or_default();
    let pid = noted.lines().next().unwrap_or_default().trim();
    // A number may have passed to another program since.
    !pid.is_empty()
        && std::fs::read_to_string(format!("/proc/{pid}/stat"))
            .is_ok_and(|s| s.contains("(postgres)") && !s.contains(") Z "))
}

/// The folder of the programs that suit these data: those of the version that made them; of the newest version
/// that is installed where there are none yet.
fn programs_for(data: &Path) -> Result<PathBuf, ClusterError> {
    let installed = installed();
    match std::fs::read_to_string(data.join("PG_VERSION")) {
        Ok(version) => {
            let needed = version.trim();
            let suits = installed.iter().find(|(version, _)| version.as_deref() == Some(needed));
            suits.map(|(_, folder)| folder.clone()).ok_or_else(|| {
                let found: Vec<&str> = installed.iter().filter_map(|(version, _)| version.as_deref()).collect();
                ClusterError::WrongVersion {
                    folder: data.display().to_string(),
                    needed: needed.to_owned(),
                    found: if found.is_empty() { "none".to_owned() } else { found.join(", ") },
                }
            })
        }
        Err(_) => installed.into_iter().next().map(|(_, folder)| folder).ok_or(ClusterError::NotInstalled),
    }
}

/// Every installed version with the folder of its programs, the newest first: from Debian's packages, or on the
/// path.
fn installed() -> Vec<(Option<String>, PathBuf)> {
    let folders =
        std::fs::read_dir("/usr/lib/postgresql").into_iter().flatten().flatten().map(|e| e.path().join("bin"));
    let paths = std::env::var_os("PATH").unwrap_or_default();
    let folders: Vec<PathBuf> = folders.chain(std::env::split_paths(&paths)).collect();
    let mut out: Vec<(Option<String>, PathBuf)> =
        folders.into_iter().filter(|f| f.join("postgres").exists()).map(|f| (version_of(&f), f)).collect();
    let number = |v: &Option<String>| v.as_deref().and_then(|v| v.parse::<u32>().ok()).unwrap_or(0);
    out.sort_by_key(|(version, _)| std::cmp::Reverse(number(version)));
    out
}

/// The major version that a folder's server tells of itself.
fn version_of(folder: &Path) -> Option<String> {
    let told = Command::new(folder.join("postgres")).arg("--version").output().ok()?;
    let told = String::from_utf8_lossy(&told.stdout).into_owned();
    let number = told.split_whitespace().find(|w| w.starts_with(|c: char| c.is_ascii_digit()))?;
    number.split(|c: char| !c.is_ascii_digit()).next().map(str::to_owned)
}

fn as_server_user(program: &Path) -> Command {
    let mut command = if is_root() {
        let mut c = Command::new("runuser");
        c.args(["-u", "postgres", "--"]).arg(program);
        c
    } else {
        Command::new(program)
    };
    command.current_dir("/");
    command
}

fn run(program: &'static str, command: &mut Command) -> Result<String, ClusterError> {
    run_with(program, command, "")
}

/// Runs a program with a text as its standard input; what it printed.
fn run_with(program: &'static str, command: &mut Command, input: &str) -> Result<String, ClusterError> {
    let failed = || io_error(format!("running {program}"));
    let mut child =
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().map_err(failed())?;
    if let Some(mut stdin) = child.stdin.take() {
        // A program that does not read is none the worse.
        let _ = stdin.write_all(input.as_bytes());
    }
    let out = child.wait_with_output().map_err(failed())?;
    if out.status.success() {
        Ok(String::from_utf8_lossy(&out.stdout).into_owned())
    } else {
        Err(ClusterError::Failed { program, output: String::from_utf8_lossy(&out.stderr).trim().to_owned() })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn data_are_served_by_the_version_that_made_them() {
        let folder = tempfile::tempdir().unwrap();
        let newest = programs_for(folder.path()).unwrap();
        let own = version_of(&newest).expect("it tells its version");
        std::fs::write(folder.path().join("PG_VERSION"), format!("{own}\n")).unwrap();
        assert_eq!(programs_for(folder.path()).unwrap(), newest);
        // Made before the machine was upgraded.
        std::fs::write(folder.path().join("PG_VERSION"), "9\n").unwrap();
        let said = programs_for(folder.path()).unwrap_err().to_string();
        assert!(said.contains("PostgreSQL 9") && said.contains("postgresql-9") && said.contains(&own), "{said}");
    }
}
