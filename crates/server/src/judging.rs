//! Judging off the threads that answer requests: as many computations at once as the machine has cores, one of the
//! same candidate at a time, and none for a client that has gone.

use std::collections::VecDeque;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, LazyLock, Mutex, OnceLock, PoisonError};

use actix_web::web;
use rayon_core::{ThreadPool, ThreadPoolBuilder};
use serde::{Serialize, Serializer};
use serde_json::value::RawValue;
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::fault;
use ticksage_core::base::join::Join;
use ticksage_core::base::memory::Memory;
use ticksage_core::decision::needed::Needed;
use ticksage_core::decision::value_of_information::OpenCheck;
use ticksage_core::decision::verdict::{Change, Verdict};
use ticksage_core::decision::walk_round::Walk;
use ticksage_core::documents::sheets::Sheets;
use ticksage_core::inference::depth::Depth;
use ticksage_core::validation::candidate;
use ticksage_core::{AssessError, Assessment, Assumptions, Candidate};
use ticksage_store::Store;
use ticksage_store::candidates::Record;
use tokio::sync::{OnceCell, Semaphore};
use uuid::Uuid;

use crate::problem::Problem;
use crate::report_file::fingerprint_of;
use crate::road::Road;
use crate::short::{short, short_assessment, short_points};

/// Turns to compute: one for each core.
static TURNS: LazyLock<Semaphore> =
    LazyLock::new(|| Semaphore::new(std::thread::available_parallelism().map_or(2, usize::from)));

/// What following the points came to, for questions that change something else.
static MEMORY: LazyLock<Memory> = LazyLock::new(Memory::default);

/// Who works beside a computation: idle cores take pieces of it, and a busy machine does it alone.
#[derive(Debug)]
struct Beside(ThreadPool);

static BESIDE: LazyLock<Option<Beside>> = LazyLock::new(|| ThreadPoolBuilder::new().build().ok().map(Beside));

impl Join for Beside {
    fn both(&self, one: &mut (dyn FnMut() + Send), other: &mut (dyn FnMut() + Send)) {
        self.0.join(one, other);
    }
}

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
        let budget = Budget::until(&mark).remembering(&MEMORY);
        match &*BESIDE {
            Some(beside) => beside.0.install(|| f(&budget.joined(beside))),
            None => f(&budget),
        }
    })
    .await;
    drop(gone);
    Ok(worked.map_err(|e| Problem::internal(&e.to_string()))??)
}

/// What a stored candidate is judged from: the same state gives the same judgement.
type State = (Uuid, i32, i64, i64);

/// What a document that is tried out is judged from: the hash of all of it, and how deep.
type Tried = (String, Depth);

/// The judgements last asked for. Memory alone, keyed by the state of what was judged: any instance makes them
/// again.
pub(crate) static JUDGEMENTS: Judgements<State> = Judgements::keeping(16);

/// The documents last tried out, for the screens that ask more of them.
static TRIED: Judgements<Tried> = Judgements::keeping(4);

/// Judgements by what they were made from, the last asked for first.
#[derive(Debug)]
pub(crate) struct Judgements<K> {
    last: Mutex<VecDeque<(K, Cell)>>,
    kept: usize,
}

/// One judgement, made or being made.
type Cell = Arc<OnceCell<Arc<Judged>>>;

/// A text of a judgement, as it goes over the line in short figures.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Text {
    /// All of it.
    Whole,
    /// What stands above the lines of the road: all but the points, and of the checks what they are worth.
    Rest,
    /// The lines of the road.
    Road,
    /// The walk-round, and what each check that is not done would tell.
    Walk,
    /// The points.
    Points,
}

/// A judgement, and the texts that were asked of it.
#[derive(Debug)]
pub struct Judged {
    /// Whole, to the last digit.
    pub whole: Assessment,
    texts: [OnceLock<Box<RawValue>>; 5],
}

impl Judged {
    fn new(whole: Assessment) -> Self {
        Self { whole, texts: Default::default() }
    }

    /// One of its texts: written once.
    fn text(&self, which: Text) -> Result<&RawValue, Problem> {
        let cell = &self.texts[which as usize];
        if cell.get().is_none() {
            let text = self.write(which)?;
            // Another may have written the same meanwhile.
            let _ = cell.set(text);
        }
        cell.get().map(AsRef::as_ref).ok_or_else(|| Problem::internal("a text that was written is gone"))
    }

    fn write(&self, which: Text) -> Result<Box<RawValue>, Problem> {
        let a = &self.whole;
        match which {
            Text::Whole => short_assessment(a),
            Text::Rest => short(&rest(a.clone())),
            Text::Road => short(&Road::of(a)),
            Text::Walk => short(&WalkTold { walk: &a.walk, open_checks: &a.open_checks }),
            Text::Points => short_points(&a.points),
        }
    }
}

/// What stands above the lines of the road.
fn rest(mut a: Assessment) -> Assessment {
    a.points.clear();
    a.walk.actions.clear();
    let next = a.walk.next.map_or(0, |i| i + 1);
    a.open_checks.truncate(checks_named(&a.verdict).max(next));
    a.open_checks.iter_mut().for_each(|c| c.outcomes.clear());
    a
}

/// How many open checks, from the first, a verdict speaks of.
fn checks_named(v: &Verdict) -> usize {
    let needed = v.needed.iter().filter_map(|n| match n {
        Needed::ColdStart { open_check, .. } | Needed::Look { open_check, .. } => Some(open_check + 1),
        _ => None,
    });
    let changes = v.would_change.iter().filter_map(|c| match c {
        Change::Check { open_check, .. } => Some(open_check + 1),
        _ => None,
    });
    needed.chain(changes).max().unwrap_or(0)
}

/// The walk-round of a judgement.
#[derive(Serialize)]
struct WalkTold<'a> {
    walk: &'a Walk,
    open_checks: &'a [OpenCheck],
}

/// One text of a judgement in an answer.
#[derive(Debug)]
pub struct Told {
    judged: Arc<Judged>,
    text: Text,
}

impl Told {
    pub(crate) fn new(judged: &Arc<Judged>, text: Text) -> Self {
        Self { judged: Arc::clone(judged), text }
    }

    /// The judgement behind it.
    pub(crate) fn whole(&self) -> &Assessment {
        &self.judged.whole
    }
}

impl Serialize for Told {
    fn serialize<S: Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        self.judged.text(self.text).map_err(serde::ser::Error::custom)?.serialize(s)
    }
}

impl Judgements<State> {
    /// The judgement of a stored candidate: made once, for all who ask.
    pub(crate) async fn of(&self, record: &Record, families: &Sheets) -> Result<Arc<Judged>, Problem> {
        let key = (record.id, record.version, record.evidence, record.changed);
        // An earlier state of the same candidate is not asked for again.
        self.made(key, |other| other.0 == key.0, || (record.candidate.clone(), families.clone()), Depth::Sources).await
    }
}

impl<K: PartialEq> Judgements<K> {
    const fn keeping(kept: usize) -> Self {
        Self { last: Mutex::new(VecDeque::new()), kept }
    }

    /// The judgement under a key, made from a document and its sheets where it is not there.
    async fn made(
        &self,
        key: K,
        outdated: impl Fn(&K) -> bool,
        document: impl FnOnce() -> (Candidate, Sheets),
        depth: Depth,
    ) -> Result<Arc<Judged>, Problem> {
        let cell = self.cell(key, outdated);
        let make = || async {
            let (candidate, families) = document();
            let judge = move |b: &Budget<'_>| assess_within(&candidate, &families, &table(), depth, b);
            Ok(Arc::new(Judged::new(compute(judge).await?)))
        };
        cell.get_or_try_init(make).await.cloned()
    }

    fn cell(&self, key: K, outdated: impl Fn(&K) -> bool) -> Cell {
        let mut last = self.last.lock().unwrap_or_else(PoisonError::into_inner);
        let found = last.iter().position(|(k, _)| *k == key).and_then(|at| last.remove(at));
        last.retain(|(k, _)| !outdated(k));
        let (key, cell) = found.unwrap_or_else(|| (key, Cell::default()));
        last.push_front((key, Arc::clone(&cell)));
        last.truncate(self.kept);
        cell
    }
}

/// Judges a document that is tried out, to a depth. The sheets that it names never change.
pub(crate) async fn judge_to(candidate: Candidate, families: Sheets, depth: Depth) -> Result<Arc<Judged>, Problem> {
    let document = serde_json::to_vec(&candidate).map_err(|e| Problem::internal(&e.to_string()))?;
    TRIED.made((fingerprint_of(&document), depth), |_| false, || (candidate, families), depth).await
}

/// Refuses a document whose sense or day is wrong; the sheets it names.
pub(crate) async fn sensible(store: &Store, candidate: &Candidate) -> Result<Sheets, Problem> {
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

pub(crate) async fn lean(candidate: Candidate, families: Sheets) -> Result<Assessment, Problem> {
    compute(move |budget| assess_within(&candidate, &families, &table(), Depth::Lean, budget)).await
}

#[cfg(test)]
mod tests {
    use std::path::Path;
    use std::time::Duration;

    use actix_web::rt::time::timeout;
    use futures_util::future::join;
    use ticksage_core::Family;
    use ticksage_core::formats::{base_sheets, documents};

    use super::*;

    fn demo(file: &str) -> String {
        std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(file)).unwrap()
    }

    fn stored() -> (Record, Sheets) {
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
        (record, Sheets::of(families))
    }

    #[actix_web::test]
    async fn one_judgement_serves_all_who_ask_until_the_record_changes() {
        let judgements = Judgements::keeping(16);
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
        let judgements = Judgements::keeping(16);
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
