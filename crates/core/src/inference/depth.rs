//! How much is asked of a judgement.

/// How much is asked of a judgement.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Depth {
    /// Neither each source's own view nor the steps of the why before the papers: for long lists. A
    /// verdict then has no reason that papers alone give.
    Lean,
    /// Everything but each source's own view.
    Pooled,
    /// Each source's own view of every point as well.
    Sources,
}
