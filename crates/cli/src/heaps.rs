//! How many heaps the program has.

use std::os::unix::process::CommandExt;
use std::process::Command;
use std::thread::available_parallelism;

/// The C library of most Linux systems reads it when a program starts.
const HEAPS: &str = "MALLOC_ARENA_MAX";

/// Starts the program anew with a heap for each core, unless somebody said how many there are to be. Else each thread
/// has one, and each keeps the most that it ever held: 220 MB where 130 do. Comes back where there is nothing to do,
/// or where it cannot be done; then it serves all the same.
pub(crate) fn one_for_each_core() {
    if !cfg!(target_env = "gnu") || std::env::var_os(HEAPS).is_some() {
        return;
    }
    let Ok(program) = std::env::current_exe() else { return };
    let cores = available_parallelism().map_or(2, usize::from);
    let failed = Command::new(program).args(std::env::args_os().skip(1)).env(HEAPS, cores.to_string()).exec();
    tracing::warn!("it runs with a heap for each thread: {failed}");
}
