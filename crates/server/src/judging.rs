//! Judging off the threads that answer requests: as many computations at once as the machine has cores, one of the
//! same candidate at a time, and none for a client that has gone.

use std::collections::VecDeque;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, LazyLock, Mutex, PoisonError};

use actix_web::web;
use serde::{Serialize, Serializer};
use serde_json::value::RawValue;
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::fault;
use ticksage_core::base::memory::Memory;
use ticksage_core::inference::depth::Depth;
use ticksage_core::validation::candidate;
use ticksage_core::{AssessError, Assessment, Assumptions, Candidate, Family};
use ticksage_store::Store;
use ticksage_store::candidates::Record;
use tokio::sync::{OnceCell, Semaphore};
use uuid::Uuid;

use crate::problem::Problem;
use crate::short::short_assessment;

/// Turns to compute: one for each core.
static TURNS: LazyLock<Semaphore> =
    LazyLock::new(|| Semaphore::new(std::thread::available_parallelism().map_or(2, usize::from)));

/// What following the points came to, for questions that change something else.
static MEMORY: LazyLock<Memory> = LazyLock::new(Memory::default);

/// Marks that nobody waits any more, when the request that asked is dropped.
struct Gone(Arc<AtomicBool>);

impl Drop for Gone {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

/// Computes when a core is free. What waits for its turn is dropped with its client; what runs stops at the next
/// look at its budget.
pub(crate) async fn compute<T: Send + 'static>(
    f: impl FnOnce(&Budget<'_>) -> Result<T, AssessError> + Send + 'static,
) -> Result<T, Problem> {
    let turn = TURNS.acquire().await.map_err(|e| Problem::internal(&e.to_string()))?;
    let gone = Gone(Arc::new(AtomicBool::new(false)));
    let mark = Arc::clone(&gone.0);
    let worked = web::block(move || {
        // The turn ends with the work, not with the client.
        let _turn = turn;
        f(&Budget::until(&mark).remembering(&MEMORY))
    })
    .await;
    drop(gone);
    Ok(worked.map_err(|e| Problem::internal(&e.to_string()))??)
}

/// What a stored candidate is judged from: the same state gives the same judgement.
type Key = (Uuid, i32, i64, i64);

/// The judgements last asked for. Memory alone, keyed by the state of what was judged: any instance makes them
/// again.
pub(crate) static JUDGEMENTS: Judgements = Judgements { last: Mutex::new(VecDeque::new()) };

/// Judgements by what they were made from, the last asked for first.
#[derive(Debug)]
pub(crate) struct Judgements {
    last: Mutex<VecDeque<(Key, Cell)>>,
}

/// One judgement, made or being made.
type Cell = Arc<OnceCell<Arc<Judged>>>;

/// A judgement, and the text in which it goes over the line.
#[derive(Debug)]
pub struct Judged {
    /// Whole, to the last digit.
    pub whole: Assessment,
    /// In short figures.
    line: Box<RawValue>,
}

impl Serialize for Judged {
    fn serialize<S: Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        self.line.serialize(s)
    }
}

/// Judgements kept: a yard of side-by-sides, and a few people at once.
const KEPT: usize = 16;

impl Judgements {
    /// The judgement of a stored candidate: made once, for all who ask.
    pub(crate) async fn of(&self, record: &Record, families: &[Family]) -> Result<Arc<Judged>, Problem> {
        let cell = self.cell((record.id, record.version, record.evidence, record.changed));
        let made = cell.get_or_try_init(|| async {
            let (candidate, families) = (record.candidate.clone(), families.to_vec());
            judge(candidate, families).await.map(Arc::new)
        });
        made.await.cloned()
    }

    fn cell(&self, key: Key) -> Cell {
        let mut last = self.last.lock().unwrap_or_else(PoisonError::into_inner);
        let found = last.iter().position(|(k, _)| *k == key).and_then(|at| last.remove(at));
        let (key, cell) = found.unwrap_or_else(|| (key, Cell::default()));
        last.push_front((key, Arc::clone(&cell)));
        // An earlier state of the same candidate is not asked for again.
        last.retain(|(k, _)| k.0 != key.0 || *k == key);
        last.truncate(KEPT);
        cell
    }
}

/// Judges with every source's own view.
pub(crate) async fn judge(candidate: Candidate, families: Vec<Family>) -> Result<Judged, Problem> {
    judge_to(candidate, families, Depth::Sources).await
}

/// Judges to a depth.
pub(crate) async fn judge_to(candidate: Candidate, families: Vec<Family>, depth: Depth) -> Result<Judged, Problem> {
    let made = compute(move |budget| {
        let whole = assess_within(&candidate, &families, &table(), depth, budget)?;
        let line = short_assessment(&whole);
        Ok((whole, line))
    });
    let (whole, line) = made.await?;
    Ok(Judged { whole, line: line? })
}

/// Refuses a document whose sense or day is wrong; the sheets it names.
pub(crate) async fn sensible(store: &Store, candidate: &Candidate) -> Result<Vec<Family>, Problem> {
    let families = store.families_named(&candidate.families).await?;
    let mut faults = candidate::candidate_faults(candidate, &families);
    faults.extend(future(candidate));
    if faults.is_empty() { Ok(families) } else { Err(Problem::faulty(faults)) }
}

/// A day of judgement that lies in the future.
pub(crate) fn future(candidate: &Candidate) -> Option<fault::Fault> {
    let today = jiff::ZonedDateTime::now().date();
    // A day's grace: the buyer's clock may stand in another zone.
    (candidate.as_of > today.saturating_add(jiff::Span::new().days(1)))
        .then(|| fault::Fault { path: "/as_of".to_owned(), message: format!("{} lies in the future", candidate.as_of) })
}

pub(crate) fn table() -> Assumptions {
    Assumptions::default()
}

pub(crate) async fn lean(candidate: Candidate, families: Vec<Family>) -> Result<Assessment, Problem> {
    compute(move |budget| assess_within(&candidate, &families, &table(), Depth::Lean, budget)).await
}

#[cfg(test)]
mod tests {
    use std::path::Path;
    use std::time::Duration;

    use actix_web::rt::time::timeout;
    use futures_util::future::join;
    use ticksage_core::formats::{base_sheets, documents};

    use super::*;

    fn demo(file: &str) -> String {
        std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(file)).unwrap()
    }

    fn stored() -> (Record, Vec<Family>) {
        let candidate = documents::read_candidate(&demo("candidates/2-harbour-office.json")).unwrap();
        let mut families: Vec<Family> = ["bk4", "ferryman", "s6"]
            .map(|f| documents::read_family(&demo(&format!("families/{f}.json"))).unwrap())
            .to_vec();
        families.extend(base_sheets::sheets().unwrap());
        let record = Record {
            id: Uuid::new_v4(),
            version: 1,
            evidence: 0,
            changed: 1,
            candidate,
            finding_ids: Vec::new(),
            paper_ids: ticksage_store::papers::PaperIds::default(),
            taken_back: Vec::new(),
            attachments: Vec::new(),
            archived: false,
        };
        (record, families)
    }

    #[actix_web::test]
    async fn one_judgement_serves_all_who_ask_until_the_record_changes() {
        let judgements = Judgements { last: Mutex::new(VecDeque::new()) };
        let (record, families) = stored();
        let (a, b) = join(judgements.of(&record, &families), judgements.of(&record, &families)).await;
        let (a, b) = (a.unwrap(), b.unwrap());
        assert!(Arc::ptr_eq(&a, &b));
        let changed = Record { evidence: 1, ..record };
        let c = judgements.of(&changed, &families).await.unwrap();
        assert!(!Arc::ptr_eq(&a, &c) && a.whole == c.whole);
        assert_eq!(judgements.last.lock().unwrap().len(), 1, "the earlier state is let go");
    }

    #[actix_web::test]
    async fn one_who_goes_leaves_the_judgement_to_the_others() {
        let judgements = Judgements { last: Mutex::new(VecDeque::new()) };
        let (record, families) = stored();
        assert!(timeout(Duration::ZERO, judgements.of(&record, &families)).await.is_err());
        assert!(judgements.of(&record, &families).await.is_ok());
    }

    #[actix_web::test]
    async fn computations_without_a_client_give_their_turns_back() {
        let endless = |budget: &Budget<'_>| {
            while !budget.is_over() {
                std::thread::yield_now();
            }
            Ok(budget.check()?)
        };
        // More than there are turns, and each with a client that goes.
        for _ in 0..3 * std::thread::available_parallelism().map_or(2, usize::from) {
            assert!(timeout(Duration::from_millis(5), compute(endless)).await.is_err());
        }
        assert_eq!(compute(|_| Ok(7)).await.unwrap(), 7);
    }
}
