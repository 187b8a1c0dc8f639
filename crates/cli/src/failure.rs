//! Everything that ends the program early, as a person is told.

use ticksage_core::AssessError;
use ticksage_core::base::fault::Fault;
use ticksage_store::cluster::ClusterError;

/// Everything that ends the program early, as a person is told.
#[derive(Debug, thiserror::Error)]
pub enum Failure {
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
    Backup(#[from] ticksage_store::backup::BackupError),
    #[error("{0}: {1}")]
    Report(String, String),
    #[error("{0}")]
    Serve(String),
    #[error("writing JSON: {0}")]
    Json(#[from] serde_json::Error),
}

fn list(faults: &[Fault]) -> String {
    faults.iter().map(|f| format!("\n  {} {}", if f.path.is_empty() { "/" } else { &f.path }, f.message)).collect()
}
