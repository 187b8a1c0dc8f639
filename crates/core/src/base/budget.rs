//! A bound on the work of one question, counted in elementary steps, so that the same document always ends
//! the same way, however fast the machine is.
//!
//! Loops ask [`Budget::is_over`] before a piece of work and leave it out when nothing is left; what they then
//! hold is never shown, because the question itself ends with [`Budget::check`].

use std::any::Any;
use std::cell::Cell;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use crate::base::memory::{Key, Memory};

/// Steps that one question may take. A judgement of a van with sixty points takes some tens of
/// millions; the most takes a few seconds on one core.
pub const STEPS: u64 = 1_500_000_000;

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
    left: Cell<u64>,
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
        Self { left: Cell::new(steps), given_up: None, memory: None, lasting: None, cells: None }
    }

    /// [`STEPS`], or until the mark is set.
    #[must_use]
    pub fn until(given_up: &'a AtomicBool) -> Self {
        Self { left: Cell::new(STEPS), given_up: Some(given_up), memory: None, lasting: None, cells: None }
    }

    /// The same with what earlier questions remember. The steps are taken off all the same.
    #[must_use]
    pub fn remembering(self, memory: &'a Memory) -> Self {
        Self { memory: Some(memory), ..self }
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
        Self { left: Cell::new(STEPS), given_up: self.given_up, memory: self.memory, lasting, cells: self.cells }
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
            self.left.set(self.left.get().saturating_sub(kept.1));
            return kept.0.clone();
        }
        let before = self.left.get();
        let made = make();
        if !self.is_over() {
            let bytes = bytes(&made);
            memory.put(key, &Arc::new((made.clone(), before - self.left.get())), bytes);
        }
        made
    }

    /// Takes steps off; whether there is enough for them.
    pub fn spend(&self, steps: usize) -> bool {
        let left = self.left.get().saturating_sub(steps as u64);
        self.left.set(left);
        !self.is_over()
    }

    /// Whether nothing is left, or nobody waits for the answer.
    #[must_use]
    pub fn is_over(&self) -> bool {
        self.left.get() == 0 || self.given_up.is_some_and(|g| g.load(Ordering::Relaxed))
    }

    /// Whether the work was done to its end.
    ///
    /// # Errors
    /// [`Overrun`] when it was not.
    pub fn check(&self) -> Result<(), Overrun> {
        if self.given_up.is_some_and(|g| g.load(Ordering::Relaxed)) {
            return Err(Overrun::GivenUp);
        }
        if self.left.get() == 0 { Err(Overrun::TooMuch) } else { Ok(()) }
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
