//! Work off the threads that answer requests.

use std::sync::LazyLock;

use actix_web::web;
use tokio::sync::Semaphore;

use crate::problem::Problem;

/// How many read at once: more would only keep each other, and the threads that answer, from the cores.
static READERS: LazyLock<Semaphore> =
    LazyLock::new(|| Semaphore::new(std::thread::available_parallelism().map_or(2, usize::from)));

/// Reads what came in, off the threads that answer requests.
pub(crate) async fn aside<T: Send + 'static>(
    f: impl FnOnce() -> Result<T, Problem> + Send + 'static,
) -> Result<T, Problem> {
    let turn = READERS.acquire().await.map_err(|e| Problem::internal(&e.to_string()))?;
    apart(move || {
        let _turn = turn;
        f()
    })
    .await
}

/// Waits for what is done elsewhere, a file or another process, off the threads that answer requests.
pub(crate) async fn apart<T: Send + 'static>(
    f: impl FnOnce() -> Result<T, Problem> + Send + 'static,
) -> Result<T, Problem> {
    web::block(f).await.map_err(|e| Problem::internal(&e.to_string()))?
}
