//! A private PostgreSQL cluster on loopback, made from Debian's packages.
//!
//! The server is run by a small shell that waits for its own standard input to close, so it goes
//! when this process goes, however that ends. As root it runs as the `postgres` user.

use std::io;
use std::net::TcpListener;
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

/// A running cluster; stops when dropped.
#[derive(Debug)]
pub struct Cluster {
    data: PathBuf,
    port: u16,
    keep: Keep,
    process: Option<Child>,
}

const WAIT: Duration = Duration::from_secs(60);

impl Cluster {
    /// Starts the cluster in a folder on a free port, making it first where there is none.
    ///
    /// # Errors
    /// [`ClusterError`] says what to do.
    pub fn start(folder: &Path, keep: Keep) -> Result<Self, ClusterError> {
        let data = folder.join("data");
        std::fs::create_dir_all(folder).map_err(io_error(format!("making {}", folder.display())))?;
        if is_root() {
            run("chown", Command::new("chown").arg("postgres").arg(folder))?;
        }
        if !data.join("PG_VERSION").exists() {
            run(
                "initdb",
                as_server_user("initdb")?
                    .args(["--username=ticksage", "--auth=trust", "--encoding=UTF8", "--locale=C.UTF-8", "--no-sync"])
                    .arg(&data),
            )?;
        }
        let port = TcpListener::bind(("127.0.0.1", 0))
            .and_then(|l| l.local_addr())
            .map_err(io_error("finding a free port"))?
            .port();
        let mut cluster = Self { data, port, keep, process: None };
        cluster.resume()?;
        Ok(cluster)
    }

    /// The URL of a database in it.
    #[must_use]
    pub fn url(&self, database: &str) -> String {
        format!("postgres://ticksage@127.0.0.1:{}/{database}", self.port)
    }

    /// Makes a database unless it is there.
    ///
    /// # Errors
    /// [`ClusterError::Failed`] with what PostgreSQL said.
    pub fn create_database(&self, name: &str) -> Result<String, ClusterError> {
        let mut psql = as_server_user("psql")?;
        psql.args(["-h", "127.0.0.1", "-p", &self.port.to_string(), "-U", "ticksage", "-d", "postgres", "-tA", "-c"]);
        psql.arg(format!("SELECT 1 FROM pg_database WHERE datname = '{name}'"));
        if run("psql", &mut psql)?.trim() != "1" {
            let mut createdb = as_server_user("createdb")?;
            createdb.args(["-h", "127.0.0.1", "-p", &self.port.to_string(), "-U", "ticksage", name]);
            run("createdb", &mut createdb)?;
        }
        Ok(self.url(name))
    }

    /// Stops the server; the data stay, and [`Self::resume`] brings it back on the same port.
    pub fn stop(&mut self) {
        if let Some(mut child) = self.process.take() {
            drop(child.stdin.take());
            let _ = child.wait();
        }
    }

    /// Starts the server again on the same port.
    ///
    /// # Errors
    /// [`ClusterError`] when it does not come up.
    pub fn resume(&mut self) -> Result<(), ClusterError> {
        let log = self.data.with_file_name("server.log");
        let fsync = match self.keep {
            Keep::Safely => "on",
            Keep::Briefly => "off",
        };
        let server = program("postgres")?;
        let script = format!(
            "'{}' -D '{}' -p {} -c listen_addresses=127.0.0.1 -c unix_socket_directories= -c fsync={fsync} \
             >> '{}' 2>&1 & pid=$!; read -r _; kill -INT $pid 2>/dev/null; wait $pid",
            server.display(),
            self.data.display(),
            self.port,
            log.display()
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
        let ready = program("pg_isready")?;
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

fn is_root() -> bool {
    Command::new("id").arg("-u").output().is_ok_and(|o| o.stdout.trim_ascii() == b"0")
}

/// A PostgreSQL program of the newest version installed by Debian's packages, or on the path.
fn program(name: &str) -> Result<PathBuf, ClusterError> {
    let mut versions: Vec<PathBuf> = std::fs::read_dir("/usr/lib/postgresql")
        .map(|d| d.filter_map(Result::ok).map(|e| e.path().join("bin").join(name)).filter(|p| p.exists()).collect())
        .unwrap_or_default();
    versions.sort();
    if let Some(p) = versions.pop() {
        return Ok(p);
    }
    let paths = std::env::var_os("PATH").unwrap_or_default();
    std::env::split_paths(&paths).map(|d| d.join(name)).find(|p| p.exists()).ok_or(ClusterError::NotInstalled)
}

fn as_server_user(name: &str) -> Result<Command, ClusterError> {
    let path = program(name)?;
    let mut command = if is_root() {
        let mut c = Command::new("runuser");
        c.args(["-u", "postgres", "--"]).arg(path);
        c
    } else {
        Command::new(path)
    };
    command.current_dir("/");
    Ok(command)
}

fn run(program: &'static str, command: &mut Command) -> Result<String, ClusterError> {
    let out = command.stdin(Stdio::null()).output().map_err(io_error(format!("running {program}")))?;
    if out.status.success() {
        Ok(String::from_utf8_lossy(&out.stdout).into_owned())
    } else {
        Err(ClusterError::Failed { program, output: String::from_utf8_lossy(&out.stderr).trim().to_owned() })
    }
}
