//! A bound on the work of one question, counted in elementary steps, so that the same document always ends
//! the same way, however fast the machine is.
//!
//! Loops ask [`Budget::is_over`] before a piece of work and leave it out when nothing is left; what they then
//! hold is never shown, because the question itself ends with [`Budget::check`].

use std::any::Any;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};

use crate::base::join::{Join, Work};
use crate::base::memory::{Key, Memory};

/// Steps that one question may take. A judgement of a van with sixty points takes some tens of
/// millions; the most takes a few seconds on one core.
pub const STEPS: u64 = 1_500_000_000;

/// Items that are not parted further: less would not be worth somebody's coming.
const PIECE: usize = 8;

/// Why a question was not answered to its end.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum Overrun {
    /// It would take more than [`STEPS`].
    #[error(
        "this takes more computing than one question may: the sheets together have too many points, links and \
         sources, or the findings hang together too closely"
    )]
    TooMuch,
    /// Whoever asked has gone.
    #[error("whoever asked has gone")]
    GivenUp,
}

/// What is left to one question, and what earlier ones remember for it.
#[derive(Debug)]
pub struct Budget<'a> {
    /// Shared with the pieces that are worked out at once: together they take no more.
    left: Arc<AtomicU64>,
    /// Taken through this one.
    spent: AtomicU64,
    /// Who works at two pieces at once, where the caller has somebody.
    join: Option<&'a dyn Join>,
    given_up: Option<&'a AtomicBool>,
    memory: Option<&'a Memory>,
    /// Of a list: what all its questions remember.
    lasting: Option<&'a Memory>,
    cells: Option<usize>,
}

impl Default for Budget<'_> {
    fn default() -> Self {
        Self::of(STEPS)
    }
}

impl<'a> Budget<'a> {
    /// So many steps.
    #[must_use]
    pub fn of(steps: u64) -> Self {
        Self {
            left: Arc::new(AtomicU64::new(steps)),
            spent: AtomicU64::new(0),
            join: None,
            given_up: None,
            memory: None,
            lasting: None,
            cells: None,
        }
    }

    /// [`STEPS`], or until the mark is set.
    #[must_use]
    pub fn until(given_up: &'a AtomicBool) -> Self {
        Self { given_up: Some(given_up), ..Self::default() }
    }

    /// The same with what earlier questions remember. The steps are taken off all the same.
    #[must_use]
    pub fn remembering(self, memory: &'a Memory) -> Self {
        Self { memory: Some(memory), ..self }
    }

    /// The same where two pieces of work may be done at once. It changes no digit of what comes of them.
    #[must_use]
    pub fn joined(self, join: &'a dyn Join) -> Self {
        Self { join: Some(join), ..self }
    }

    /// The same in so many cells from build to now: fewer for long lists, where a per cent more or less decides nothing.
    #[must_use]
    pub fn in_cells(self, cells: usize) -> Self {
        Self { cells: Some(cells.max(12)), ..self }
    }

    /// As many steps again for a question of the same list, with the same mark. What the list remembers stays at hand
    /// for what its questions have in common, whatever else such a question remembers.
    #[must_use]
    pub fn fresh(&self) -> Self {
        let lasting = self.lasting.or(self.memory);
        Self { left: Arc::new(AtomicU64::new(STEPS)), lasting, ..self.piece() }
    }

    /// For a piece of the same question: of the same steps, counted for itself.
    fn piece(&self) -> Self {
        Self {
            left: Arc::clone(&self.left),
            spent: AtomicU64::new(0),
            join: self.join,
            given_up: self.given_up,
            memory: self.memory,
            lasting: self.lasting,
            cells: self.cells,
        }
    }

    /// Somebody to work beside this. The questions of a list are asked side by side themselves.
    fn lent(&self) -> Option<&'a dyn Join> {
        self.join.filter(|_| self.cells.is_none())
    }

    /// Two pieces of work, at once where the caller has somebody for the other.
    pub fn both<A: Send, B: Send>(
        &self,
        one: impl FnOnce(&Self) -> A + Send,
        other: impl FnOnce(&Self) -> B + Send,
    ) -> (A, B) {
        let Some(join) = self.lent() else { return (one(self), other(self)) };
        let (left, right) = (self.piece(), self.piece());
        let (mut first, mut second) = (Work::Open(|| one(&left)), Work::Open(|| other(&right)));
        join.both(&mut || first.work(), &mut || second.work());
        let both = (first.result(), second.result());
        for piece in [left, right] {
            self.spent.fetch_add(piece.spent.into_inner(), Ordering::Relaxed);
        }
        both
    }

    /// What comes of each item, in their order: some of them at once, where the caller has somebody for it. `make` is given
    /// some of them and what they may spend.
    pub fn in_pieces<I: Send, T: Send>(
        &self,
        mut items: Vec<I>,
        make: &(impl Fn(&Self, Vec<I>) -> Vec<T> + Sync),
    ) -> Vec<T> {
        if self.lent().is_none() || items.len() <= PIECE {
            return make(self, items);
        }
        let others = items.split_off(items.len() / 2);
        let (mut out, more) = self.both(|b| b.in_pieces(items, make), |b| b.in_pieces(others, make));
        out.extend(more);
        out
    }

    /// Cells from build to now; none: as fine as a judgement is made.
    #[must_use]
    pub fn cells(&self) -> Option<usize> {
        self.cells
    }

    /// Share of all variance that may be left out: a twentieth of a per cent of the deviation, in lists half of one.
    #[must_use]
    pub fn negligible(&self) -> f64 {
        if self.cells.is_some() { 0.01 } else { 0.001 }
    }

    /// What is kept under a key, or made now and kept, about `bytes` of it; what was left out for want of steps is
    /// not kept.
    pub fn remembered<T: Any + Clone + Send + Sync>(
        &self,
        key: impl FnOnce() -> Key,
        bytes: impl FnOnce(&T) -> usize,
        make: impl FnOnce() -> T,
    ) -> T {
        self.remembered_in(self.memory, key, bytes, make)
    }

    /// The same for what a judgement asks again after a change. Of a list nobody changes anything: it is not kept.
    pub fn remembered_for_changes<T: Any + Clone + Send + Sync>(
        &self,
        key: impl FnOnce() -> Key,
        bytes: impl FnOnce(&T) -> usize,
        make: impl FnOnce() -> T,
    ) -> T {
        self.remembered_in(self.memory.filter(|_| self.cells.is_none()), key, bytes, make)
    }

    /// Whether anything is kept for a change of the judgement.
    #[must_use]
    pub fn remembers(&self) -> bool {
        self.memory.is_some() && self.cells.is_none()
    }

    /// What is kept under a key, or made now, and kept where later questions will ask for it.
    pub fn recalled<T: Any + Clone + Send + Sync>(
        &self,
        keep: bool,
        key: impl FnOnce() -> Key,
        bytes: impl FnOnce(&T) -> usize,
        make: impl FnOnce() -> T,
    ) -> T {
        let Some(memory) = self.memory.filter(|_| self.cells.is_none()) else { return make() };
        let key = key();
        if keep || memory.has(key) { self.remembered_in(Some(memory), || key, bytes, make) } else { make() }
    }

    /// The same for what all questions of a list have in common.
    pub fn remembered_for_all<T: Any + Clone + Send + Sync>(
        &self,
        key: impl FnOnce() -> Key,
        bytes: impl FnOnce(&T) -> usize,
        make: impl FnOnce() -> T,
    ) -> T {
        self.remembered_in(self.lasting.or(self.memory), key, bytes, make)
    }

    fn remembered_in<T: Any + Clone + Send + Sync>(
        &self,
        memory: Option<&Memory>,
        key: impl FnOnce() -> Key,
        bytes: impl FnOnce(&T) -> usize,
        make: impl FnOnce() -> T,
    ) -> T {
        let Some(memory) = memory else { return make() };
        let key = key();
        if let Some(kept) = memory.get::<(T, u64)>(key) {
            self.take(kept.1);
            return kept.0.clone();
        }
        let before = self.spent.load(Ordering::Relaxed);
        let made = make();
        if !self.is_over() {
            let (bytes, steps) = (bytes(&made), self.spent.load(Ordering::Relaxed) - before);
            memory.put(key, &Arc::new((made.clone(), steps)), bytes);
        }
        made
    }

    /// Takes steps off; whether there is enough for them.
    pub fn spend(&self, steps: usize) -> bool {
        self.take(steps as u64);
        !self.is_over()
    }

    fn take(&self, steps: u64) {
        self.spent.fetch_add(steps, Ordering::Relaxed);
        let less = |left: u64| Some(left.saturating_sub(steps));
        let _ = self.left.fetch_update(Ordering::Relaxed, Ordering::Relaxed, less);
    }

    /// Whether nothing is left, or nobody waits for the answer.
    #[must_use]
    pub fn is_over(&self) -> bool {
        self.left.load(Ordering::Relaxed) == 0 || self.given_up.is_some_and(|g| g.load(Ordering::Relaxed))
    }

    /// Whether the work was done to its end.
    ///
    /// # Errors
    /// [`Overrun`] when it was not.
    pub fn check(&self) -> Result<(), Overrun> {
        if self.given_up.is_some_and(|g| g.load(Ordering::Relaxed)) {
            return Err(Overrun::GivenUp);
        }
        if self.left.load(Ordering::Relaxed) == 0 { Err(Overrun::TooMuch) } else { Ok(()) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_steps_end_the_same_way() {
        let budget = Budget::of(10);
        assert!(budget.spend(9));
        assert!(!budget.is_over());
        assert_eq!(budget.check(), Ok(()));
        assert!(!budget.spend(1));
        assert_eq!(budget.check(), Err(Overrun::TooMuch));
    }

    #[test]
    fn nobody_waits() {
        let gone = AtomicBool::new(false);
        let budget = Budget::until(&gone);
        assert!(budget.spend(1));
        gone.store(true, Ordering::Relaxed);
        assert!(budget.is_over());
        assert_eq!(budget.check(), Err(Overrun::GivenUp));
    }
}
