//! Two pieces of work at once. The core begins no threads: whoever calls it may lend it somebody who works beside it.

/// Somebody who does two pieces of work, at once if there is a core for each.
pub trait Join: Sync + std::fmt::Debug {
    /// Does both, each once, and comes back when both are done.
    fn both(&self, one: &mut (dyn FnMut() + Send), other: &mut (dyn FnMut() + Send));
}

/// A piece of work, before and after.
pub(crate) enum Work<F, T> {
    /// Not begun.
    Open(F),
    /// Begun.
    Begun,
    /// What came of it.
    Done(T),
}

impl<F: FnOnce() -> T, T> Work<F, T> {
    /// Does it, if nobody has begun it.
    pub(crate) fn work(&mut self) {
        match std::mem::replace(self, Self::Begun) {
            Self::Open(make) => *self = Self::Done(make()),
            other => *self = other,
        }
    }

    /// What comes of it: done now, where nobody did.
    pub(crate) fn result(mut self) -> T {
        self.work();
        match self {
            Self::Done(made) => made,
            Self::Open(_) | Self::Begun => unreachable!("work that was begun is done, or ends all with its panic"),
        }
    }
}
